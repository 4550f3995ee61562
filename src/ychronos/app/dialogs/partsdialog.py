"""A chord by its parts: the bass first, then the quality, then the colour, as one hears it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...analysis.evidence import Evidence
from ...analysis.explain.inside import Inside, look_at
from ...song.model import Song
from ...theory.chord import Chord
from ...tongue import mark, tr
from ..labels import label

# Qualities in words, and the colours that each can have, as (word, name of the quality with it).
mark("no third")  # the others are named as their triads
COLOURS: dict[str, tuple[tuple[str, str], ...]] = {
    "major": ((tr("plain"), "maj"), ("6", "6"), ("maj7", "maj7"), ("7", "7"), ("add9", "add9"), ("9", "9"), ("maj9", "maj9"), ("6/9", "69"), ("11", "11"), ("13", "13"), ("7♭9", "7b9"), ("7♯9", "7#9"), ("7♯11", "7#11")),
    "minor": ((tr("plain"), "min"), ("6", "min6"), ("7", "min7"), ("maj7", "minmaj7"), ("add9", "minadd9"), ("9", "min9"), ("11", "min11"), ("13", "min13")),
    "no third": ((tr("fifth"), "5"), ("sus2", "sus2"), ("sus4", "sus4"), ("7sus4", "7sus4"), ("9sus4", "9sus4")),
    "diminished": ((tr("plain"), "dim"), ("°7", "dim7"), ("ø7", "hdim7")),
    "augmented": ((tr("plain"), "aug"), ("7", "aug7"), ("7♭5", "7b5")),
}  # fmt: skip


class PartsDialog(QDialog):
    """Asks for bass, root, quality and colour; ``chord`` is what is chosen."""

    hear = Signal(object)

    def __init__(self, song: Song, index: int, evidence: Evidence | None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Chord by its parts"))
        self.song, self.position = song, song.chords[index].start
        span = song.chords[index].chord
        self.chord: Chord | None = span if not span.is_none else Chord(song.key_at(self.position).tonic)
        start, end = song.chord_range(index)
        self.seen: Inside | None = look_at(song, evidence, start, end, self.chord) if evidence is not None else None
        self.name, self.words = QLabel(), label(quiet=True)
        font = self.name.font()
        font.setPointSizeF(22)
        font.setBold(True)
        self.name.setFont(font)
        self.words.setWordWrap(True)
        self.words.setMinimumHeight(34)
        self.bass = self._notes_row(tr("Bass"))
        self.root = self._notes_row(tr("Root"))
        self.quality, self.colour = QButtonGroup(self), QButtonGroup(self)
        grid = QGridLayout()
        grid.setVerticalSpacing(12)
        for row, (words, group, box) in enumerate(((tr("Bass"), *self.bass), (tr("Root"), *self.root))):
            grid.addWidget(label(words, quiet=True), row, 0)
            grid.addWidget(box, row, 1)
            group.idClicked.connect(self._changed)
        qualities = QHBoxLayout()
        for i, kind in enumerate(COLOURS):
            button = QPushButton(tr(kind))
            button.setCheckable(True)
            self.quality.addButton(button, i)
            qualities.addWidget(button)
        qualities.addStretch(1)
        grid.addWidget(label(tr("Quality"), quiet=True), 2, 0)
        grid.addLayout(qualities, 2, 1)
        self.colours = QWidget()
        self._colour_grid = QGridLayout(self.colours)
        self._colour_grid.setContentsMargins(0, 0, 0, 0)
        self.colours.setMinimumHeight(76)
        grid.addWidget(label(tr("Colour"), quiet=True), 3, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(self.colours, 3, 1, Qt.AlignmentFlag.AlignTop)
        self.quality.idClicked.connect(lambda i: self._show_colours(i, None))
        self.colour.idClicked.connect(self._changed)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.listen = self.buttons.addButton(tr("Hear it"), QDialogButtonBox.ButtonRole.ActionRole)
        self.listen.clicked.connect(lambda: self.hear.emit(self.chord))
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(self.name)
        layout.addWidget(self.words)
        layout.addLayout(grid)
        layout.addWidget(self.buttons)
        self._show(self.chord)

    def _notes_row(self, what: str) -> tuple[QButtonGroup, QWidget]:
        """Twelve notes from the key's home up; under bass notes how likely each is."""
        group, box = QButtonGroup(self), QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        key = self.song.key_at(self.position)
        for i in range(12):
            note = (key.tonic + i) % 12
            text = self.song.shown_note(self.position, note)
            button = QPushButton(text)
            if what == tr("Bass") and self.seen is not None and self.seen.bass[note] >= 0.05:
                button.setText(f"{text}\n{self.seen.bass[note]:.0%}")
                button.setToolTip(tr("{text} is in the bass with {bass:.0%}", text=text, bass=self.seen.bass[note]))
            button.setCheckable(True)
            button.setMinimumWidth(50)
            button.setStyleSheet("padding: 4px 2px;")
            group.addButton(button, note)
            row.addWidget(button)
        row.addStretch(1)
        return group, box

    def _show(self, chord: Chord) -> None:
        """Set the buttons to a chord."""
        assert chord.root is not None
        self.bass[0].button(chord.sounding_bass or 0).setChecked(True)
        self.root[0].button(chord.root).setChecked(True)
        for i, options in enumerate(COLOURS.values()):
            if any(q == chord.quality for _, q in options):
                self.quality.button(i).setChecked(True)
                self._show_colours(i, chord.quality)
                return
        self.quality.button(0).setChecked(True)
        self._show_colours(0, "maj")

    def _show_colours(self, kind: int, chosen: str | None) -> None:
        options = list(COLOURS.values())[kind]
        for button in self.colour.buttons():
            self.colour.removeButton(button)
            button.deleteLater()
        for i, (words, quality) in enumerate(options):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setChecked(quality == chosen or (chosen is None and i == 0))
            self.colour.addButton(button, i)
            self._colour_grid.addWidget(button, i // 7, i % 7)
        self._changed()

    def _changed(self) -> None:
        options = list(COLOURS.values())[self.quality.checkedId()]
        quality = options[max(0, self.colour.checkedId())][1]
        self.chord = Chord(self.root[0].checkedId(), quality, self.bass[0].checkedId())
        self.name.setText(self.song.name_of(self.chord, self.position))
        self.words.setText(self._explain(self.chord))

    def _explain(self, chord: Chord) -> str:
        """Its notes, with how likely each sounds there."""
        notes = self.song.notes_of(chord, self.position)
        if self.seen is None:
            return f"{chord.words}: " + " ".join(name for _, name in notes)
        heard = ", ".join(f"{name} {self.seen.sounding[note]:.0%}" for note, name in notes)
        return tr("{words}. How likely its notes sound here: {heard}", words=chord.words, heard=heard)
