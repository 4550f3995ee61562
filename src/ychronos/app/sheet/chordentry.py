"""Typing chords: a small field over the bar that reads along and says what it understands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPoint, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QFrame, QLabel, QLineEdit, QVBoxLayout, QWidget

from ...theory.chord import Chord, ChordError, parse_chord
from ...theory.chordtext import Bar, Typed, is_line, parse_line, typed
from ...theory.key import Key
from ...theory.notation import SCHOOLS, note_text, read, write
from ...tongue import tr
from ..theme import Theme

NARROW, WIDE = 236, 420  # pixels


@dataclass(frozen=True)
class Entered:
    """What was typed: one chord or the bars of a line; ``same`` when the text was left as it was, ``stays`` when
    the caret is to stay where it is."""

    one: Typed | None = None
    bars: tuple[Bar, ...] = ()
    same: bool = False
    stays: bool = False


class TypingField(QLineEdit):
    """A line to type in that no shortcut takes keys from; says when it loses the focus or is left by Esc."""

    gone = Signal()
    escaped = Signal()
    stays = False  # whether Enter was pressed with Shift

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride:  # while typing, every key belongs to the field
            event.accept()
            return True
        return super().event(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.gone.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.escaped.emit()
            return
        self.stays = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        super().keyPressEvent(event)


class ChordEntry(QFrame):
    """The field and, under it, the chord as understood or what is wrong with it. ``preview`` tells, while a line of
    several chords is typed, what would be stated; who asks may answer with words through ``say_more``."""

    entered = Signal(object)
    preview = Signal(object)
    left = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.holder = parent
        self.theme = Theme()
        self.key: Key | None = None
        self.school = "names"
        self.say_more: Callable[[tuple[Bar, ...]], str] = lambda _: ""
        self._first: str | None = None  # the text that it was opened with
        self._read_last: Entered | None = None
        self.error = ""
        self.field = TypingField()
        self.field.setAccessibleName(tr("Chord names"))
        self.field.setToolTip(
            tr(
                "One chord, or several: D . G A | F#m x2. A dot holds on, | divides bars, % is a bar like the one before. Enter states them and goes to the next bar, Shift+Enter stays."
            )
        )
        self.reading = QLabel()
        self.reading.setAccessibleName(tr("What is understood"))
        self.reading.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 6, 6, 6)
        layout.setSpacing(3)
        layout.addWidget(self.field)
        layout.addWidget(self.reading)
        self.setFixedWidth(NARROW)
        self.field.textChanged.connect(self._read)
        self.field.returnPressed.connect(self._accept)
        self.field.escaped.connect(self._escape)
        self.field.gone.connect(self.close_quietly)
        self.set_theme(self.theme)
        self.hide()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        c = theme.colours
        self.setStyleSheet(f"ChordEntry {{ background: {c.paper}; border: 1px solid {c.stated}; border-radius: 5px; }}")
        self.field.setFont(theme.serif(14, bold=True))
        self.reading.setFont(theme.sans(9))

    def open_at(self, point: QPoint, text: str, key: Key, select: bool, school: str = "names") -> None:
        self.key, self.school = key, school
        self._first = text if select else None
        if self.field.text() == text:
            self._read(text)
        else:
            self.field.setText(text)
        self.place(point)
        self.show()
        self.raise_()
        self.field.setFocus()
        if select:
            self.field.selectAll()

    def place(self, point: QPoint) -> None:
        """Stand at a point, within the sheet."""
        area = self.holder.rect()
        self.move(
            max(0, min(point.x(), area.width() - self.width() - 4)),
            max(0, min(point.y() - 4, area.height() - self.height() - 4)),
        )

    def parse(self, text: str) -> Chord:
        """The chord as names have it, or, where the song is written in numbers, as they have it.

        Raises
        ------
        ChordError
            with a sentence when it is neither.
        """
        school = SCHOOLS[self.school]
        if self.key is not None and (school.german or school.roots != "names"):
            try:
                return read(text, self.key, self.school)
            except ChordError:
                pass  # names are always understood
        return parse_chord(text)

    def _read(self, text: str) -> None:
        """Read the text, once for each change of it, and say what is understood."""
        c = self.theme.colours
        self._read_last, self.error = None, ""
        bars: tuple[Bar, ...] = ()
        try:
            if is_line(text):
                bars = tuple(parse_line(text, self.parse))
                self._read_last = Entered(bars=bars)
                words = self.say_more(bars)
            else:
                one = typed(text, self.parse)
                self._read_last = Entered(one)
                words = self._words(one.chord)
        except ChordError as error:
            self.error = words = str(error)
            self._read_last = None
        self.setFixedWidth(WIDE if bars else NARROW)
        self.preview.emit(bars)
        self.reading.setText(words)
        self.reading.setStyleSheet(f"color: {c.error if self.error else c.stated};")
        self.adjustSize()

    def _words(self, chord: Chord) -> str:
        if chord.root is None:
            return tr("no chord: nobody plays one here")
        root = (chord.spelled(self.key) or (None, None))[0]
        notes = " ".join(note_text(n, self.school) for n in chord.notes(root)) if root is not None else ""
        name = write(chord, self.key, self.school) if self.key is not None else chord.name()
        return f"{name}: {chord.words} · {notes}"

    def _accept(self) -> None:
        text, found = self.field.text(), self._read_last
        if found is None and text != self._first:
            return
        stays = self.field.stays
        self.close_quietly()
        if text == self._first:
            self.entered.emit(Entered(same=True, stays=stays))
        elif found is not None:
            self.entered.emit(Entered(found.one, found.bars, stays=stays))

    def _escape(self) -> None:
        self.close_quietly()
        self.left.emit()

    def close_quietly(self) -> None:
        if self.isVisible():
            self.hide()
            self.preview.emit(())
