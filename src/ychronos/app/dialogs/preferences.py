"""Preferences on one page: looks, new songs, sound, paper. Everything takes effect at once but the size of letters."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...formats.paper import SIZES as PAPERS
from ...guitar.hands import LEVELS
from ...theory.notation import SCHOOLS
from ...tongue import LANGUAGES, tr
from .. import language
from ..habits import COLOURS, SIZES, Habits, fitting
from ..labels import label
from ..page.wishes import Wishes

SYSTEM = tr("The system’s own")


class PreferencesDialog(QDialog):
    """``changed`` says that the colours or the device are to be others; ``keys_wanted`` asks for the page of keys, ``now_wanted``
    to write the open song as new ones are."""

    colours_changed = Signal()
    device_changed = Signal()
    keys_wanted = Signal()
    now_wanted = Signal()

    def __init__(
        self, habits: Habits, wishes: Wishes, devices: Sequence[str], open_song: bool, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Preferences"))
        self.habits, self.wishes = habits, wishes
        layout = QVBoxLayout(self)
        layout.setSpacing(10)
        form = QFormLayout()
        form.setVerticalSpacing(8)
        form.setHorizontalSpacing(16)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignRight)
        layout.addLayout(form)

        self._head(form, tr("Looks"))
        self.colours = self._choice(
            form, tr("Colours"), [(words, key) for key, words in COLOURS], habits.colours, self._set_colours
        )
        screen = self.screen().availableSize()
        sizes = [s for s in SIZES if fitting(s, screen.width(), screen.height()) == s]
        self.size_ = self._choice(
            form, tr("Size of everything"), [(f"{s} %", s) for s in sizes], habits.size, self._set("size")
        )
        languages = [(tr("As the desktop has it"), language.DESKTOP), *((n, k) for k, n in LANGUAGES.items())]
        self.language = self._choice(
            form, tr("Language"), languages, language.wanted(habits.settings), self._set(language.KEY)
        )
        self.later = label("", quiet=True)
        form.addRow("", self.later)

        self._head(form, tr("Songs that are new"))
        self.notation = self._choice(
            form,
            tr("Chords as"),
            [(s.words, key) for key, s in SCHOOLS.items()],
            habits.notation,
            self._set("new/notation"),
        )
        self.level = self._choice(
            form, tr("Shapes"), [(one.words, one.id) for one in LEVELS], habits.level, self._set("new/level")
        )
        self.left = self._box(
            form, tr("Left-handed: necks and diagrams are mirrored"), habits.left, self._set("new/left")
        )
        self.from_nut = self._box(
            form, tr("Frets counted from the nut, not from the capo"), habits.from_nut, self._set("new/from_nut")
        )
        self.now = QPushButton(tr("The open song too"))
        self.now.setAutoDefault(False)
        self.now.setEnabled(open_song)
        self.now.clicked.connect(self.now_wanted)
        form.addRow("", self._left(self.now))

        self._head(form, tr("Sound"))
        names = [(SYSTEM, ""), *((d, d) for d in devices)]
        if habits.device and habits.device not in devices:
            names.append((tr("{device} (not there now)", device=habits.device), habits.device))
        self.device = self._choice(form, tr("Sound card"), names, habits.device, self._set_device)

        self._head(form, tr("Paper"))
        self.paper = self._choice(
            form,
            tr("Paper"),
            [(p if p != "tablet" else tr("Tablet"), p) for p in PAPERS],
            wishes.paper.size,
            lambda v: wishes.set("size", v),
        )

        self.keys = QPushButton(tr("Keys…"))
        self.keys.setAutoDefault(False)
        self.keys.clicked.connect(self.keys_wanted)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        self.buttons.rejected.connect(self.reject)
        row = QHBoxLayout()
        row.addWidget(self.keys)
        row.addStretch()
        row.addWidget(self.buttons)
        layout.addLayout(row)
        self.setMinimumWidth(460)

    @staticmethod
    def _left(widget: QWidget) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(widget)
        row.addStretch()
        return row

    @staticmethod
    def _head(form: QFormLayout, words: str) -> None:
        head = label(words)
        font = head.font()
        font.setBold(True)
        head.setFont(font)
        form.addRow(head)

    def _choice(
        self,
        form: QFormLayout,
        words: str,
        options: Sequence[tuple[str, object]],
        now: object,
        take: Callable[[object], object],
    ) -> QComboBox:
        box = QComboBox()
        for text, value in options:
            box.addItem(text, value)
        box.setCurrentIndex(max(0, next((i for i, (_, v) in enumerate(options) if v == now), 0)))
        box.setAccessibleName(words)
        box.currentIndexChanged.connect(lambda _: take(box.currentData()))
        form.addRow(words, box)
        return box

    @staticmethod
    def _box(form: QFormLayout, words: str, now: bool, take: Callable[[object], object]) -> QCheckBox:
        box = QCheckBox(words)
        box.setChecked(now)
        box.toggled.connect(take)
        form.addRow("", box)
        return box

    def _set(self, key: str) -> Callable[[object], object]:
        def take(value: object) -> None:
            self.habits.settings.set(key, value)
            if key in ("size", language.KEY):
                self.later.setText(tr("From the next start on"))

        return take

    def _set_colours(self, value: object) -> None:
        self.habits.settings.set("colours", value)
        self.colours_changed.emit()

    def _set_device(self, value: object) -> None:
        self.habits.settings.set("device", value)
        self.device_changed.emit()
