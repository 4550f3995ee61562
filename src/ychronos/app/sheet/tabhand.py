"""Writing tablature on the sheet: a place on a string is chosen, digits are its fret, arrows and letters do the rest."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from time import monotonic
from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from ...chart.tablature import fret_text
from ...guitar.tab import FRETS
from ...session.session import Session
from ...song import edits
from ...song.edits import Edited
from ...song.grid import Position
from ...song.linenotes import Plucked
from ...song.model import Song
from ..theme import Theme
from .geometry import STRING, BarBox, RowBox, SheetGeometry

SNAP = Fraction(1, 4)  # of a beat: places that are chosen with the mouse, and moves
NEAR = 8.0  # pixels around a note that choose it
TWO_DIGITS = 1.2  # seconds in which a second digit belongs to the first
DRAG_FROM = 4.0
DIGIT_KEYS = tuple(Qt.Key(Qt.Key.Key_0.value + k) for k in range(10))
PLAIN_KEYS = (
    *DIGIT_KEYS, Qt.Key.Key_Escape, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Delete,
    Qt.Key.Key_Backspace,
)  # fmt: skip
SIGN_KEYS = {Qt.Key.Key_H: "h", Qt.Key.Key_P: "p", Qt.Key.Key_S: "s", Qt.Key.Key_B: "b"}


class Sheet(Protocol):
    """What writing needs of the sheet."""

    session: Session
    theme: Theme
    geometry_: SheetGeometry | None

    def bar_under(self, point: QPointF) -> tuple[RowBox, BarBox, float] | None: ...
    def viewport(self) -> QWidget: ...
    def hear_line_note(self, note: int) -> None: ...


@dataclass(frozen=True)
class Place:
    """A place on a string, and the line it is of."""

    at: Position
    string: int
    lane: int = 0


class TabHand:
    """The chosen place, if any; coordinates are the sheet's content's."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self.chosen: Place | None = None
        self._typed: tuple[float, str] = (0.0, "")
        self._pressed: float | None = None
        self._moved_to: Position | None = None

    # ------------------------------------------------------------ what is where

    def _song(self) -> Song | None:
        return self.sheet.session.song

    def note(self) -> Plucked | None:
        """The note at the chosen place."""
        song, c = self._song(), self.chosen
        if song is None or c is None:
            return None
        return next((n for n in song.line if n.at == c.at and n.value.about == (c.lane, c.string)), None)

    def under(self, point: QPointF) -> Place | None:
        """The note under a point of the tablature, or an empty place on the nearest string."""
        hit, song, made = self.sheet.bar_under(point), self._song(), self.sheet.geometry_
        if hit is None or song is None or made is None or not hit[1].tab:
            return None
        row, box, offset = hit
        strings = len(song.guitar.strings)
        line = (point.y() - row.y) / made.scale - box.tab
        k = round(line / STRING)
        if not -0.6 * STRING <= line <= (strings - 0.4) * STRING:
            return None
        string = strings - 1 - max(0, min(strings - 1, k))
        start = song.grid.starts[box.bar]
        near = [n for n in song.line_of_bar(box.bar) if song.spot_of(n.value).string == string]
        best = min(near, key=lambda n: abs(self._x(box, n, start) - point.x()), default=None)
        if best is not None and abs(self._x(box, best, start) - point.x()) <= NEAR:
            return Place(best.at, best.value.string, best.value.lane)
        steps = max(0, min(int(box.beats / SNAP) - 1, round((offset - 5 * box.beats / box.width) / float(SNAP))))
        return Place(start + steps * SNAP, string)

    @staticmethod
    def _x(box: BarBox, note: Plucked, start: int) -> float:
        return box.x_of(float(note.at - start)) + 9

    # ------------------------------------------------------------ mouse

    def press(self, place: Place, x: float) -> None:
        self.chosen, self._typed = place, (0.0, "")
        note = self.note()
        self._pressed, self._moved_to = (x if note is not None else None), None
        if note is not None:
            self.sheet.hear_line_note(note.value.note)
        self.sheet.viewport().update()

    def choose(self, place: Place) -> None:
        """Choose a place without the mouse."""
        self.chosen, self._typed = place, (0.0, "")
        self.sheet.viewport().update()

    @property
    def held(self) -> bool:
        return self._pressed is not None

    def move(self, point: QPointF) -> None:
        """The held note follows the pointer, from quarter to quarter of a beat, once it has moved a little."""
        if self._pressed is None or self.chosen is None:
            return
        if self._moved_to is None and abs(point.x() - self._pressed) < DRAG_FROM:
            return
        hit, song = self.sheet.bar_under(point), self._song()
        if hit is not None and song is not None:
            _, box, offset = hit
            step = round((offset - 9 * box.beats / box.width) / float(SNAP))
            self._moved_to = max(Fraction(0), song.grid.starts[box.bar] + step * SNAP)
            self.sheet.viewport().update()

    def release(self) -> None:
        """Let the note begin where it was drawn to."""
        to, c = self._moved_to, self.chosen
        self._pressed = self._moved_to = None
        if to is not None and c is not None and to != c.at:
            place, there = c, to
            if self._say(lambda s: edits.move_line_note(s, place.at, place.string, there, place.lane)):
                self.chosen = Place(there, place.string, place.lane)
        self.sheet.viewport().update()

    def leave(self) -> None:
        self.chosen = self._pressed = self._moved_to = None
        self.sheet.viewport().update()

    # ------------------------------------------------------------ keys

    def wants(self, event: QKeyEvent) -> bool:
        """Whether a key is for tablature now: the window's keys of the same name then have to wait."""
        if self.chosen is None:
            return False
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.AltModifier):
            return False
        key = Qt.Key(event.key())
        if alt:
            return key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up)
        return key in PLAIN_KEYS or (key in SIGN_KEYS and self.note() is not None)

    def key(self, event: QKeyEvent) -> bool:
        """A key while a place is chosen; whether it was one for tablature."""
        c = self.chosen
        if c is None or not self.wants(event):
            return False
        key, alt = Qt.Key(event.key()), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if key == Qt.Key.Key_Escape:
            self.leave()
        elif key in DIGIT_KEYS:
            self._digit(str(DIGIT_KEYS.index(key)))
        elif key == Qt.Key.Key_Up and alt:
            self._other_reading()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._up_down(1 if key == Qt.Key.Key_Up else -1)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 1 if key == Qt.Key.Key_Right else -1
            if alt:
                self._nudge(step)
            else:
                self._along(step)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._say(lambda s: edits.drop_line_note(s, c.at, c.string, c.lane))
        else:
            self._say(lambda s: edits.set_sign(s, c.at, c.string, SIGN_KEYS[key], c.lane))
        self.sheet.viewport().update()
        return True

    def _digit(self, digit: str) -> None:
        c, now = self.chosen, monotonic()
        assert c is not None
        since, before = self._typed
        text = (
            before + digit if now - since < TWO_DIGITS and len(before) == 1 and int(before + digit) <= FRETS else digit
        )
        self._typed = (now, text)
        if self._say(lambda s: edits.set_fret(s, c.at, c.string, int(text), c.lane)):
            note = self.note()
            if note is not None:
                self.sheet.hear_line_note(note.value.note)

    def _up_down(self, step: int) -> None:
        """A note goes to the next string that has it; an empty place to the next string."""
        c, song = self.chosen, self._song()
        assert c is not None
        if song is None:
            return
        if self.note() is None:
            self.chosen = Place(c.at, max(0, min(len(song.guitar.strings) - 1, c.string + step)), c.lane)
            return
        self._follow(lambda s: edits.other_string(s, c.at, c.string, c.lane, step))

    def _other_reading(self) -> None:
        c = self.chosen
        assert c is not None
        if self._follow(lambda s: edits.next_reading(s, c.at, c.string, c.lane)):
            note = self.note()
            if note is not None:
                self.sheet.hear_line_note(note.value.note)

    def _follow(self, edit: Callable[[Song], Edited]) -> bool:
        """Do what may lay the chosen note on another string, and stay on it."""
        c = self.chosen
        assert c is not None
        before = self._strings(c)
        if not self._say(edit):
            return False
        new = self._strings(c) - before
        if new:
            self.chosen = Place(c.at, new.pop(), c.lane)
        return True

    def _strings(self, c: Place) -> set[int]:
        """The strings on which notes begin at a place."""
        song = self._song()
        return {n.value.string for n in song.line if n.at == c.at and n.value.lane == c.lane} if song else set()

    def _along(self, step: int) -> None:
        """To the next note, or from an empty place a quarter of a beat on."""
        c, song = self.chosen, self._song()
        assert c is not None
        if song is None:
            return
        if self.note() is None:
            at = max(Fraction(0), min(c.at + step * SNAP, song.grid.end - SNAP))
            self.chosen = Place(at, c.string, c.lane)
            return
        others = [n for n in song.line if n.value.lane == c.lane and (n.at - c.at) * step > 0]
        if others:
            n = min(others, key=lambda n: (abs(n.at - c.at), abs(n.value.string - c.string)))
            self.chosen = Place(n.at, n.value.string, c.lane)
            self.sheet.hear_line_note(n.value.note)

    def _nudge(self, step: int) -> None:
        c = self.chosen
        assert c is not None
        if self.note() is not None and self._say(
            lambda s: edits.move_line_note(s, c.at, c.string, c.at + step * SNAP, c.lane)
        ):
            self.chosen = Place(max(Fraction(0), c.at + step * SNAP), c.string, c.lane)

    def _say(self, edit: Callable[[Song], Edited]) -> bool:
        return bool(self.sheet.session.edit(edit))

    # ------------------------------------------------------------ painting

    def paint(self, painter: QPainter) -> None:
        """A frame around the chosen place, or where the note is being drawn to."""
        song, made, c = self._song(), self.sheet.geometry_, self.chosen
        if song is None or made is None or c is None:
            return
        at = self._moved_to if self._moved_to is not None else c.at
        if not 0 <= at < song.grid.end:
            return
        bar = song.grid.bar_at(at)
        row, box = made.box_of_bar(bar)
        if not box.tab:
            return
        note = self.note()
        string = song.spot_of(note.value).string if note is not None else c.string
        x = box.x_of(float(at - song.grid.starts[bar])) + 5
        y = row.y + (box.tab + (len(song.guitar.strings) - 1 - string) * STRING) * made.scale
        wide = 7.0 * max(1, len(fret_text(song, note)) if note is not None else 1) + 6
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.sheet.theme.colour("stated"), 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(x - 4, y - 7 * made.scale, wide, 14 * made.scale), 3, 3)
