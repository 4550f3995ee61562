"""Typing a chord: a small field over the bar that reads along and says what it understands."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QFrame, QLabel, QLineEdit, QVBoxLayout, QWidget

from ..theory.chord import Chord, ChordError, parse_chord
from ..theory.key import Key
from ..theory.notation import SCHOOLS, read, write
from .theme import Theme


class TypingField(QLineEdit):
    """A line to type in that no shortcut takes keys from; says when it loses the focus or is left by Esc."""

    gone = Signal()
    escaped = Signal()

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
        super().keyPressEvent(event)


class ChordEntry(QFrame):
    """The field and, under it, the chord as understood or what is wrong with it."""

    entered = Signal(str)
    left = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.holder = parent
        self.theme = Theme()
        self.key: Key | None = None
        self.school = "names"
        self.field = TypingField()
        self.field.setAccessibleName("Chord name")
        self.reading = QLabel()
        self.reading.setAccessibleName("What is understood")
        self.reading.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 6, 6, 6)
        layout.setSpacing(3)
        layout.addWidget(self.field)
        layout.addWidget(self.reading)
        self.setFixedWidth(236)
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
        self.field.setText(text)
        self._read(text)
        self.adjustSize()
        area = self.holder.rect()
        self.move(
            max(0, min(point.x(), area.width() - self.width() - 4)),
            max(0, min(point.y() - 4, area.height() - self.height() - 4)),
        )
        self.show()
        self.raise_()
        self.field.setFocus()
        if select:
            self.field.selectAll()

    def parse(self, text: str) -> Chord:
        """The chord as names have it, or, where the song is written in numbers, as they have it.

        Raises
        ------
        ChordError
            with a sentence when it is neither.
        """
        if self.key is not None and SCHOOLS[self.school].roots != "names":
            try:
                return read(text, self.key, self.school)
            except ChordError:
                pass  # names are always understood
        return parse_chord(text)

    @property
    def error(self) -> str:
        """What is wrong with the text, or ""."""
        try:
            self.parse(self.field.text())
        except ChordError as error:
            return str(error)
        return ""

    def _read(self, text: str) -> None:
        c = self.theme.colours
        try:
            chord = self.parse(text)
        except ChordError as error:
            self.reading.setText(str(error))
            self.reading.setStyleSheet(f"color: {c.error};")
        else:
            if chord.root is None:
                words = "no chord: nobody plays one here"
            else:
                root = (chord.spelled(self.key) or (None, None))[0]
                notes = " ".join(n.name() for n in chord.notes(root)) if root is not None else ""
                name = write(chord, self.key, self.school) if self.key is not None else chord.name()
                words = f"{name}: {chord.words} · {notes}"
            self.reading.setText(words)
            self.reading.setStyleSheet(f"color: {c.stated};")
        self.adjustSize()

    def _accept(self) -> None:
        if self.error:
            return
        text = self.field.text()
        self.hide()
        self.entered.emit(text)

    def _escape(self) -> None:
        self.hide()
        self.left.emit()

    def close_quietly(self) -> None:
        if self.isVisible():
            self.hide()
