"""Scales that go with the selected bars, each on the neck."""

from __future__ import annotations

from fractions import Fraction

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QCheckBox, QDialog, QListWidget, QScrollArea, QVBoxLayout, QWidget

from ...chart import scaling
from ...chart.tablature import DEGREES
from ...song.grid import Position
from ...song.model import Song
from ...song.words import bars_text
from ...theory.scales import Fitting
from ...tongue import tr
from ..guarding import painted
from ..labels import label
from ..theme import Theme
from .fretboard import Fretboard


class ScaleNeck(Fretboard):
    """The neck with the notes of a scale on it; those of the line are filled, the root has a frame. ``degrees`` instead of names."""

    def __init__(self, song: Song, at: Position, theme: Theme) -> None:
        super().__init__(song.guitar, theme, lambda n: song.shown_note(at, (n - song.guitar.moved) % 12))
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName(tr("The scale on the neck"))
        self.scale: Fitting | None = None
        self.played: frozenset[int] = frozenset()
        self.degrees = False
        self.moved = song.guitar.moved

    def show_scale(self, scale: Fitting | None, played: frozenset[int]) -> None:
        self.scale, self.played = scale, played
        self.update()

    def mousePressEvent(self, event: object) -> None:
        pass  # it is looked at only

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        self.shape = [0] * len(self.setup.strings)  # no string is out of use
        t = self.theme
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self.paint_frets(p)
        for string in range(len(self.shape)):
            y = self.y_of(string)
            p.setPen(QPen(t.colour("edge"), 1.2))
            p.drawLine(QPointF(self.seen(self.wire(0)), y), QPointF(self.seen(self.wire(self.frets)), y))
        if self.scale is None:
            return
        p.setFont(t.sans(8, strong=True))
        for string, open_ in enumerate(self.setup.strings):
            for fret in range(self.frets + 1):
                sounds = (open_ + self.setup.capo + fret - self.moved) % 12
                if sounds not in self.scale.classes:
                    continue
                root, filled = sounds == self.scale.root, sounds in self.played
                centre = QPointF(self.seen(self.x_of(fret)), self.y_of(string))
                p.setPen(QPen(t.colour("doubt" if root else "stated"), 2.4 if root else 1.2))
                p.setBrush(t.colour("stated" if filled else "paper"))
                p.drawEllipse(centre, 10.5, 10.5)
                p.setPen(t.colour("on_stated" if filled else "ink"))
                text = (
                    DEGREES[(sounds - self.scale.root) % 12]
                    if self.degrees
                    else self.note_name((sounds + self.moved) % 12)
                )
                p.drawText(QRectF(centre.x() - 12, centre.y() - 9, 24, 18), Qt.AlignmentFlag.AlignCenter, text)


class ScalesDialog(QDialog):
    """A list of scales, the best first, and the neck."""

    def __init__(self, song: Song, start: Position, end: Position, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        grid = song.grid
        first, last = grid.bar_at(start), grid.bar_at(end - Fraction(1, 64))
        self.setWindowTitle(tr("Scales for {bars}", bars=bars_text(grid, first, last)))
        self.found = scaling.of_stretch(song, start, end)
        self.played = frozenset(n.value.note % 12 for n in song.line if start <= n.at < end)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Scales that fit, the best first"))
        for one in self.found:
            name = scaling.scale_name(song, start, one)
            self.list.addItem(f"{name}\n{scaling.fits_words(song, start, one, bool(self.played))}")
        self.neck = ScaleNeck(song, start, theme)
        room = QScrollArea()
        room.setWidget(self.neck)
        room.setFixedHeight(self.neck.sizeHint().height() + 22)
        self.degrees = QCheckBox(tr("Degrees instead of names"))
        self.degrees.toggled.connect(self._degrees)
        names = ", ".join(
            dict.fromkeys(song.name_of(c, start) for c, _ in scaling.chords_of(song, start, end) if not c.is_none)
        )
        words = tr("Over {names}.", names=names) if names else tr("No chord sounds here.")
        if self.played:
            words += tr(" Filled: notes of the line that is written there. Framed: the root.")
        heading = label(words, quiet=True)
        heading.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.addWidget(heading)
        layout.addWidget(self.list, 1)
        layout.addWidget(room)
        layout.addWidget(self.degrees)
        self.list.currentRowChanged.connect(self._show)
        self.list.setCurrentRow(0)
        self.resize(min(1160, self.neck.sizeHint().width() + 40), 560)

    def _show(self, row: int) -> None:
        self.neck.show_scale(self.found[row] if 0 <= row < len(self.found) else None, self.played)

    def _degrees(self, on: bool) -> None:
        self.neck.degrees = on
        self.neck.update()
