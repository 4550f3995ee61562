"""A drawn fretboard to play a chord on: frets in, sensible names out.

A click on a string sets its fret, another takes it away; a click left of the nut opens or mutes the string.
With the keys, up and down choose a string, digits (and left, right) set its fret, X mutes it.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QLabel, QListWidget, QVBoxLayout, QWidget

from ...guitar.candidates import candidates, pitches
from ...guitar.fingering import Shape
from ...guitar.instrument import GuitarSetup
from ...guitar.naming import Named, names
from ...song.model import Song
from ...theory.chord import Chord
from ..guarding import painted
from ..labels import label
from ..theme import Theme

FRETS = 12
_LEFT, _TOP, _STRING, _FRET = 74.0, 26.0, 30.0, 52.0
_DOTS = (3, 5, 7, 9, 12)


class Fretboard(QWidget):
    """Strings across, the lowest at the bottom as on tablature; frets to the right of the nut or capo."""

    changed = Signal()

    def __init__(self, setup: GuitarSetup, theme: Theme, note_name: Callable[[int], str]) -> None:
        super().__init__()
        self.setup, self.theme, self.note_name = setup, theme, note_name
        self.shape: list[int | None] = [None] * len(setup.strings)
        self.string = len(self.shape) - 1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(self.sizeHint())
        self.setAccessibleName("Fretboard")
        self._describe()

    def sizeHint(self) -> QSize:
        return QSize(int(_LEFT + FRETS * _FRET + 26), int(_TOP + len(self.shape) * _STRING + 30))

    def set_shape(self, shape: Shape | None) -> None:
        self.shape = list(shape) if shape else [None] * len(self.setup.strings)
        self._changed()

    @property
    def notes(self) -> list[int]:
        """MIDI notes that sound."""
        return pitches(tuple(self.shape), self.setup.strings, self.setup.capo)

    def _changed(self) -> None:
        self._describe()
        self.update()
        self.changed.emit()

    def _describe(self) -> None:
        words = "".join("x" if f is None else (str(f) if f < 10 else f"({f})") for f in self.shape)
        self.setAccessibleDescription(f"frets from the lowest string: {words}; string {self.string + 1} chosen")

    def y_of(self, string: int) -> float:
        return _TOP + (len(self.shape) - 1 - string) * _STRING + _STRING / 2

    def x_of(self, fret: int) -> float:
        """Where a finger lies for a fret."""
        return _LEFT - 17 if fret == 0 else _LEFT + (fret - 0.5) * _FRET

    def place(self, point: QPointF) -> tuple[int, int] | None:
        """(string, fret) under a point."""
        row = int((point.y() - _TOP) // _STRING)
        if not 0 <= row < len(self.shape):
            return None
        fret = 0 if point.x() < _LEFT else int((point.x() - _LEFT) // _FRET) + 1
        return (len(self.shape) - 1 - row, fret) if fret <= FRETS and point.x() > 20 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = self.place(event.position())
        if at is not None and event.button() == Qt.MouseButton.LeftButton:
            string, fret = at
            self.string = string
            self.shape[string] = None if self.shape[string] == fret else fret
            self._changed()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride:  # digits and letters mean frets here
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, now = event.key(), self.shape[self.string]
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if key == Qt.Key.Key_Up else -1
            self.string = max(0, min(len(self.shape) - 1, self.string + step))
            self._describe()
            self.update()
            return
        new: int | None
        if key == Qt.Key.Key_Right:
            new = 0 if now is None else min(FRETS, now + 1)
        elif key == Qt.Key.Key_Left:
            new = None if not now else now - 1
        elif event.text().isascii() and event.text().isdigit():
            new = int(event.text())
            if now == 1 and new <= 2:  # 1 and then 0, 1 or 2: a fret with two digits
                new += 10
        elif event.text().upper() == "X" or key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            new = None
        else:
            super().keyPressEvent(event)
            return
        self.shape[self.string] = new
        self._changed()

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        t, count = self.theme, len(self.shape)
        top, bottom = self.y_of(count - 1), self.y_of(0)
        p.setFont(t.sans(8.5))
        for fret in range(FRETS + 1):
            x = _LEFT + fret * _FRET
            p.setPen(QPen(t.colour("ink" if fret == 0 else "edge"), 4 if fret == 0 else 1.4))
            p.drawLine(QPointF(x, top), QPointF(x, bottom))
            if fret:
                p.setPen(t.colour("faded"))
                box = QRectF(x - _FRET, bottom + 12, _FRET, 16)
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(fret))
            if fret in _DOTS:
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(t.colour("edge"))
                for y in ((top + bottom) / 2,) if fret < 12 else (top + _STRING, bottom - _STRING):
                    p.drawEllipse(QPointF(x - _FRET / 2, y), 4.5, 4.5)
        for string in range(count):
            y, chosen = self.y_of(string), string == self.string and self.hasFocus()
            p.setPen(QPen(t.colour("stated" if chosen else "faded"), 1 + 0.28 * (count - string)))
            p.drawLine(QPointF(_LEFT, y), QPointF(_LEFT + FRETS * _FRET, y))
            p.setPen(t.colour("faded"))
            open_note = (self.setup.strings[string] + self.setup.capo) % 12
            p.drawText(QRectF(2, y - 9, 30, 18), Qt.AlignmentFlag.AlignCenter, self.note_name(open_note))
        p.setFont(t.sans(9, strong=True))
        for string, stopped in enumerate(self.shape):
            y = self.y_of(string)
            if stopped is None:
                p.setPen(t.colour("faded"))
                p.drawText(QRectF(_LEFT - 28, y - 9, 22, 18), Qt.AlignmentFlag.AlignCenter, "×")
                continue
            note = (self.setup.strings[string] + self.setup.capo + stopped) % 12
            centre = QPointF(self.x_of(stopped), y)
            p.setPen(QPen(t.colour("stated"), 1.5))
            p.setBrush(t.colour("paper" if stopped == 0 else "stated"))
            p.drawEllipse(centre, 12, 12)
            p.setPen(t.colour("ink" if stopped == 0 else "on_stated"))
            box = QRectF(centre.x() - 13, y - 10, 26, 20)
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, self.note_name(note))


class FretboardDialog(QDialog):
    """The fretboard with the names that what is played can have; ``chord`` is the chosen one, as it sounds."""

    hear_notes = Signal(object)

    def __init__(self, song: Song, index: int, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Chord on the fretboard")
        self.song, self.position = song, song.chords[index].start
        self.chord: Chord | None = None
        self.found: list[Named] = []
        self.board = Fretboard(song.guitar, theme, lambda note: song.shown_note(self.position, note))
        setup = song.guitar.describe()
        self.head = label(f"{setup}; frets count from the {'capo' if song.guitar.capo else 'nut'}", quiet=True)
        self.list = QListWidget()
        self.list.setFont(theme.serif(13))
        self.list.setAccessibleName("What it can be called, the plainest first")
        self.list.setFixedHeight(168)
        self.hint = QLabel()
        self.hint.setWordWrap(True)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.button(buttons.Ok).setText("State it")
        for words, run in (
            ("Hear it", lambda: self.hear_notes.emit(self.board.notes)),
            ("Clear", lambda: self.board.set_shape(None)),
        ):
            button = self.buttons.addButton(words, QDialogButtonBox.ButtonRole.ActionRole)
            button.setAutoDefault(False)
            button.clicked.connect(run)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        for part in (self.head, self.board, label("It is called", quiet=True), self.list, self.hint, self.buttons):
            layout.addWidget(part)
        self.board.changed.connect(self._name)
        self.list.currentRowChanged.connect(self._chosen)
        self.list.itemActivated.connect(lambda _: self.accept())
        present = song.chords[index].chord
        shapes = candidates(present, song.guitar.strings, song.guitar.capo)
        self.board.set_shape(shapes[0].shape if shapes else None)
        self.board.setFocus()

    def _name(self) -> None:
        self.found = names(self.board.notes, self.song.key_at(self.position))
        self.list.clear()
        for named in self.found:
            name = self.song.name_of(named.chord, self.position)
            self.list.addItem(f"{name}    {named.words}")
        ok = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        ok.setEnabled(bool(self.found))
        if self.found:
            self.list.setCurrentRow(0)
        played = sum(f is not None for f in self.board.shape)
        self.hint.setText("" if self.found else "Play at least two different notes." if played < 2 else
                          "These notes make no chord that has a usual name.")  # fmt: skip

    def _chosen(self, row: int) -> None:
        self.chord = self.found[row].chord if 0 <= row < len(self.found) else None
