"""A drawn fretboard to play a chord on: frets in, sensible names out.

A click on a string sets its fret, another takes it away; a click left of the nut opens or mutes the string.
With the keys, up and down choose a string, digits (and left, right) set its fret, X mutes it. Frets may be typed in a
line as well, and fingers. The dots on the neck are those of the instrument: they move when a capo covers some of it.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from ...guitar.candidates import pitches
from ...guitar.fingering import THUMB, Shape, finger, parse_shape, shape_text
from ...guitar.instrument import GuitarSetup
from ...guitar.naming import Named, names
from ...song.edits import WHERE, Where
from ...song.model import Song
from ...theory.chord import Chord
from ...tongue import tr
from ..guarding import painted
from ..labels import label
from ..theme import Theme

FRETS = 24
_LEFT, _TOP, _STRING, _NECK = 74.0, 26.0, 30.0, 1120.0
_DOTS = (3, 5, 7, 9, 12, 15, 17, 19, 21, 24)


class Fretboard(QWidget):
    """Strings across, the lowest at the bottom as on tablature; frets to the right of the nut or capo."""

    changed = Signal()

    def __init__(self, setup: GuitarSetup, theme: Theme, note_name: Callable[[int], str]) -> None:
        super().__init__()
        self.setup, self.theme, self.note_name = setup, theme, note_name
        self.shape: list[int | None] = [None] * len(setup.strings)
        self.string = len(self.shape) - 1
        self.frets = FRETS - setup.capo
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(self.sizeHint())
        self.setAccessibleName(tr("Fretboard"))
        self._describe()

    def sizeHint(self) -> QSize:
        return QSize(int(self.wire(self.frets) + 26), int(_TOP + len(self.shape) * _STRING + 30))

    def wire(self, fret: int) -> float:
        """x of a fret; they lie closer up the neck."""
        return _LEFT + _NECK * (1 - 2 ** (-fret / 12))

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
        words = shape_text(tuple(self.shape))
        self.setAccessibleDescription(
            tr("frets from the lowest string: {words}; string {string} chosen", words=words, string=self.string + 1)
        )

    def y_of(self, string: int) -> float:
        return _TOP + (len(self.shape) - 1 - string) * _STRING + _STRING / 2

    def x_of(self, fret: int) -> float:
        """Where a finger lies for a fret."""
        return _LEFT - 17 if fret == 0 else (self.wire(fret - 1) + self.wire(fret)) / 2

    def seen(self, x: float, wide: float = 0.0) -> float:
        """Where something at x, so wide, is seen: left-handed players see the neck in a mirror."""
        return self.sizeHint().width() - x - wide if self.setup.left else x

    def place(self, point: QPointF) -> tuple[int, int] | None:
        """(string, fret) under a point."""
        point = QPointF(self.seen(point.x()), point.y())
        row = int((point.y() - _TOP) // _STRING)
        if not 0 <= row < len(self.shape):
            return None
        x = float(point.x())
        fret = 0 if x < _LEFT else next((f for f in range(1, self.frets + 1) if x < self.wire(f)), self.frets + 1)
        return (len(self.shape) - 1 - row, fret) if fret <= self.frets and x > 20 else None

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
            new = 0 if now is None else min(self.frets, now + 1)
        elif key == Qt.Key.Key_Left:
            new = None if not now else now - 1
        elif event.text().isascii() and event.text().isdigit():
            new = int(event.text())
            if now in (1, 2) and 10 * now + new <= self.frets:  # two digits in a row: one fret
                new += 10 * now
        elif event.text().upper() == "X" or key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            new = None
        else:
            super().keyPressEvent(event)
            return
        self.shape[self.string] = new
        self._changed()

    def paint_frets(self, p: QPainter) -> None:
        """The nut or capo, the frets with their numbers, the dots of the neck."""
        t = self.theme
        top, bottom = self.y_of(len(self.shape) - 1), self.y_of(0)
        p.setFont(t.sans(8.5))
        for fret in range(self.frets + 1):
            x = self.seen(self.wire(fret))
            p.setPen(QPen(t.colour("ink" if fret == 0 else "edge"), 4 if fret == 0 else 1.4))
            p.drawLine(QPointF(x, top), QPointF(x, bottom))
            if fret:
                p.setPen(t.colour("faded"))
                before = self.wire(fret - 1)
                wide = self.wire(fret) - before
                box = QRectF(self.seen(before, wide), bottom + 12, wide, 16)
                number = fret + self.setup.capo if self.setup.from_nut else fret
                p.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))
            if fret and fret + self.setup.capo in _DOTS:
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(t.colour("edge"))
                twice = (fret + self.setup.capo) % 12 == 0
                for y in (top + _STRING, bottom - _STRING) if twice else ((top + bottom) / 2,):
                    p.drawEllipse(QPointF(self.seen(self.x_of(fret)), y), 4.5, 4.5)

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        t, count = self.theme, len(self.shape)
        self.paint_frets(p)
        for string in range(count):
            y, chosen = self.y_of(string), string == self.string and self.hasFocus()
            p.setPen(QPen(t.colour("stated" if chosen else "faded"), 1 + 0.28 * (count - string)))
            p.drawLine(QPointF(self.seen(_LEFT), y), QPointF(self.seen(self.wire(self.frets)), y))
            p.setPen(t.colour("faded"))
            open_note = (self.setup.strings[string] + self.setup.capo) % 12
            p.drawText(QRectF(self.seen(2, 30), y - 9, 30, 18), Qt.AlignmentFlag.AlignCenter, self.note_name(open_note))
        p.setFont(t.sans(9, strong=True))
        for string, stopped in enumerate(self.shape):
            y = self.y_of(string)
            if stopped is None:
                p.setPen(t.colour("faded"))
                p.drawText(QRectF(self.seen(_LEFT - 28, 22), y - 9, 22, 18), Qt.AlignmentFlag.AlignCenter, "×")
                continue
            note = (self.setup.strings[string] + self.setup.capo + stopped) % 12
            centre = QPointF(self.seen(self.x_of(stopped)), y)
            p.setPen(QPen(t.colour("stated"), 1.5))
            p.setBrush(t.colour("paper" if stopped == 0 else "stated"))
            wide = 12.0 if stopped == 0 else min(12.0, 0.48 * (self.wire(stopped) - self.wire(stopped - 1)))
            p.drawEllipse(centre, wide, 12)
            p.setPen(t.colour("ink" if stopped == 0 else "on_stated"))
            box = QRectF(centre.x() - 13, y - 10, 26, 20)
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, self.note_name(note))


class FretboardDialog(QDialog):
    """The fretboard with the names that what is played can have; ``chord`` is the chosen one, as it sounds."""

    hear_notes = Signal(object)

    def __init__(self, song: Song, index: int, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Chord on the fretboard"))
        self.song, self.position = song, song.chords[index].start
        self.chord: Chord | None = None
        self.found: list[Named] = []
        self.board = Fretboard(song.guitar, theme, lambda note: song.shown_note(self.position, note))
        setup = song.guitar.describe()
        from_capo = song.guitar.capo and not song.guitar.from_nut
        self.head = label(
            tr("{setup}; frets count from the {word}", setup=setup, word=tr("capo") if from_capo else tr("nut")),
            quiet=True,
        )
        self.typed, self.fingers = QLineEdit(), QLineEdit()
        self.typed.setAccessibleName(tr("Frets from the lowest string"))
        self.typed.setToolTip(
            tr("Frets from the lowest string, x for a string that is not played: x32010 or x 10 12 12 11 x")
        )
        self.typed.textEdited.connect(self._typed)
        self.fingers.setAccessibleName(tr("Fingers from the lowest string"))
        self.fingers.setToolTip(
            tr("Fingers from the lowest string if you want others: 0 for none, 1 to 4, T for the thumb")
        )
        self.fingers.textEdited.connect(lambda _: self._name())
        self.reach_ = QComboBox()
        self.reach_.setAccessibleName(tr("Where it is to be held so"))
        for where in WHERE:
            self.reach_.addItem(tr("hold it so {where}", where=tr(where)), where)
        self.list = QListWidget()
        self.list.setFont(theme.serif(13))
        self.list.setAccessibleName(tr("What it can be called, the plainest first"))
        self.list.setFixedHeight(168)
        self.hint = QLabel()
        self.hint.setWordWrap(True)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.button(buttons.Ok).setText(tr("State it"))
        for words, run in (
            (tr("Hear it"), lambda: self.hear_notes.emit(self.board.notes)),
            (tr("Clear"), lambda: self.board.set_shape(None)),
        ):
            button = self.buttons.addButton(words, QDialogButtonBox.ButtonRole.ActionRole)
            button.setAutoDefault(False)
            button.clicked.connect(run)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        line = QHBoxLayout()
        for part in (
            label(tr("Frets"), quiet=True),
            self.typed,
            label(tr("Fingers"), quiet=True),
            self.fingers,
            self.reach_,
        ):
            line.addWidget(part)
        layout = QVBoxLayout(self)
        layout.addWidget(self.head)
        layout.addWidget(self.board)
        layout.addLayout(line)
        for below in (label(tr("It is called"), quiet=True), self.list, self.hint, self.buttons):
            layout.addWidget(below)
        self.board.changed.connect(self._name)
        self.list.currentRowChanged.connect(self._chosen)
        self.list.itemActivated.connect(lambda _: self.accept())
        held = song.held[index]
        self.board.set_shape(held.shape if held is not None else None)
        self.board.setFocus()

    @property
    def reach(self) -> Where:
        """Where the chord is to be held so."""
        where: Where = self.reach_.currentData()
        return where

    @property
    def chosen_fingers(self) -> tuple[int, ...]:
        """Fingers as typed, () where nobody typed any that fit."""
        digits = self.fingers.text().replace(" ", "").upper().replace("T", str(THUMB)).replace("X", "0")
        shape = self.board.shape
        fits = (
            len(digits) == len(shape) and digits.isascii() and digits.isdigit() and all(c <= str(THUMB) for c in digits)
        )
        return tuple(map(int, digits)) if fits else ()

    def _typed(self, text: str) -> None:
        """Frets in a line, as soon as they are whole."""
        setup = self.board.setup
        try:
            shape = parse_shape(text, len(self.board.shape))
            if setup.from_nut:
                shape = tuple(None if f is None else f - setup.capo for f in shape)
            if not all(f is None or 0 <= f <= self.board.frets for f in shape):
                raise ValueError(tr("The capo covers one of these frets."))
        except ValueError as error:
            self.hint.setText(str(error))
            return
        self.board.set_shape(shape)

    def _name(self) -> None:
        shape, setup = tuple(self.board.shape), self.song.guitar
        if not self.typed.hasFocus():
            self.typed.setText(shape_text(setup.nut_frets(shape) if setup.from_nut else shape))
        usual = finger(shape)
        self.fingers.setPlaceholderText("".join("T" if f == THUMB else str(f) for f in usual.fingers) if usual else "")
        # the chart may be written in another key than the record: what is stated is what the record sounds
        notes = [n - setup.moved for n in self.board.notes]
        self.found = names(notes, self.song.key_at(self.position))
        self.list.clear()
        for named in self.found:
            name = self.song.name_of(named.chord, self.position)
            self.list.addItem(f"{name}    {named.words}")
        ok = self.buttons.button(QDialogButtonBox.StandardButton.Ok)
        ok.setEnabled(bool(self.found))
        if self.found:
            self.list.setCurrentRow(0)
        played = sum(f is not None for f in self.board.shape)
        said = ""
        if not self.found:
            said = (
                tr("Play at least two different notes.")
                if played < 2
                else tr("These notes make no chord that has a usual name.")
            )
        elif usual is None:
            said = tr("No single hand reaches all of this.")
        elif usual.wide:
            said = tr("A wide stretch: warm up first, and rest when it hurts.")
        elif self.fingers.text() and not self.chosen_fingers:
            said = tr("Fingers are 0 to 4, or T for the thumb, one for each string.")
        self.hint.setText(said)

    def _chosen(self, row: int) -> None:
        self.chord = self.found[row].chord if 0 <= row < len(self.found) else None
