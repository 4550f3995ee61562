"""The guitar: tuning, capo, and which names are shown."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QFormLayout, QLabel, QSpinBox, QWidget

from ...guitar.instrument import HIGHEST_CAPO, TUNINGS, GuitarSetup, parse_strings
from ...song.model import Song
from ...tongue import sentence, tr

SHOW_WORDS = {
    "sounding": tr("what sounds"),
    "shapes": tr("the shape under the hand"),
    "both": tr("both, the shape small beside what sounds"),
}


class GuitarDialog(QDialog):
    """Asks for a setup; ``setup`` holds what is set while the text is a tuning. With ``second`` it is that of a second
    guitar, and None when there shall be none."""

    def __init__(self, song: Song, parent: QWidget | None = None, second: bool = False) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Second guitar") if second else tr("Guitar"))
        self.setMinimumWidth(430)
        self.song = song
        guitar = (song.second or song.guitar) if second else song.guitar
        self.guitar = guitar
        self.setup: GuitarSetup | None = guitar
        self.tuning = QComboBox()
        self.tuning.setEditable(True)
        self.tuning.addItems([sentence(tr(name)) for name in TUNINGS])
        self.tuning.setCurrentText(sentence(tr(guitar.tuning_name)))
        self.tuning.setToolTip(tr("Choose a tuning or name the strings from the lowest, as D A D G A D"))
        self.tuning.setAccessibleName(tr("Tuning"))
        self.capo = QSpinBox()
        self.capo.setRange(0, HIGHEST_CAPO)
        self.capo.setSpecialValueText(tr("none"))
        self.capo.setValue(guitar.capo)
        self.capo.setAccessibleName(tr("Capo at fret"))
        self.show_ = QComboBox()
        for key, words in SHOW_WORDS.items():
            self.show_.addItem(words, key)
        self.show_.setCurrentIndex(list(SHOW_WORDS).index(guitar.show))
        self.show_.setAccessibleName(tr("Names on the sheet"))
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setMinimumHeight(44)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        self.none = self.buttons.addButton(tr("No second guitar"), QDialogButtonBox.ButtonRole.DestructiveRole)
        self.none.setVisible(second and song.second is not None)
        self.none.clicked.connect(self._none)
        form = QFormLayout(self)
        form.addRow(tr("Tuning"), self.tuning)
        form.addRow(tr("Capo at fret"), self.capo)
        form.addRow(tr("Names on the sheet"), self.show_)
        form.addRow(self.words)
        form.addRow(self.buttons)
        self.tuning.currentTextChanged.connect(self._read)
        self.capo.valueChanged.connect(self._read)
        self.show_.currentIndexChanged.connect(self._read)
        self._read()

    def _none(self) -> None:
        self.setup = None
        self.accept()

    def _read(self) -> None:
        """Read the fields and say what follows from them."""
        ok = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        try:
            strings = parse_strings(self.tuning.currentText())
            setup = replace(self.guitar, strings=strings, capo=self.capo.value(), show=str(self.show_.currentData()))
        except ValueError as error:
            self.setup = None
            self.words.setText(str(error))
            ok.setEnabled(False)
            return
        self.setup = setup
        ok.setEnabled(True)
        key = self.song.main_key()
        shapes = setup.shape_key(key).name()
        text = (
            tr("{name} is played with the shapes of {shapes}.", name=key.name(), shapes=shapes)
            if not setup.plain
            else tr("Shapes sound as they are named.")
        )
        if len(strings) >= 6 and max(a - b for a, b in zip(strings[-6:], TUNINGS["standard"], strict=True)) > 0:
            text += tr(" Some strings are tuned above standard, which raises their tension; a capo does it gently.")
        self.words.setText(text)
