"""The stage: the whole screen for the row that is played and those that follow, in names that can be read from afar.

It follows the record; the keys of foot pedals (Page Up, Page Down, arrows, Return) go from row to row.
"""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QCloseEvent, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from ...chart.facts import facts
from ...chart.rows import Row, bar_marks, fold, guitar_line, section_title
from ...session.session import MUSIC, Session
from ...song.model import Song
from ...song.words import plural
from ...tongue import tr
from ..guarding import painted
from ..theme import Theme

PER_ROW = 4
A_MOMENT = 0.003  # seconds by which a time may lie before its beat
ROWS = (2, 3, 4, 6)  # rows on the screen
EDGE = 0.035  # of the screen
LARGEST, LEAST = 0.36, 0.2  # size of names against the height of a bar
FORWARD = (Qt.Key.Key_PageDown, Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter)
BACK = (Qt.Key.Key_PageUp, Qt.Key.Key_Left, Qt.Key.Key_Up)


class StageView(QWidget):
    """See the module. ``play_pressed`` asks to play or stop, ``seek_wanted`` (seconds) to go elsewhere, ``left`` says that it
    was closed."""

    play_pressed = Signal()
    seek_wanted = Signal(float)
    left = Signal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__(None, Qt.WindowType.Window)
        self.session, self.theme = session, theme
        self.rows: list[Row] = []
        self.shown = 3
        self.bar = 0
        self.beat = -1  # of the bar, the one that sounds; -1 before any
        self.setWindowTitle(tr("Ychronos, on stage"))
        self.setAccessibleName(tr("Stage"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        session.watch(self.refresh, *MUSIC)
        self.refresh()

    # ------------------------------------------------------------ what is shown

    def refresh(self) -> None:
        song = self.session.song
        self.rows = fold(song, PER_ROW) if song is not None else []
        if song is not None:
            self.bar = min(self.bar, len(song.grid.bars) - 1)
        self._announce()
        self.update()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def set_clock(self, seconds: float | None) -> None:
        """Show where the record is."""
        song = self.session.song
        if song is None or seconds is None:
            return
        position = song.grid.position(seconds + A_MOMENT)
        bar, beat = 0, -1
        if position >= 0:
            bar = song.grid.bar_at(min(position, float(song.grid.end) - 1e-6))
            beat = int(position - song.grid.starts[bar])
        if (bar, beat) != (self.bar, self.beat):
            self.bar, self.beat = bar, beat
            self._announce()
            self.update()

    def row_index(self) -> int:
        """The row that holds the bar that is played."""
        return next((i for i, r in enumerate(self.rows) if r.first <= self.bar < r.last), 0)

    def visible_rows(self) -> list[Row]:
        """The row that is played and those after it."""
        first = self.row_index()
        return self.rows[first : first + self.shown]

    def chord_now(self) -> str:
        song = self.session.song
        if song is None:
            return ""
        at = song.grid.starts[self.bar] + max(0, min(self.beat, song.grid.bars[self.bar].beats - 1))
        return song.chord_name(song.chord_index(at))  # type: ignore[arg-type]

    def _announce(self) -> None:
        song = self.session.song
        if song is not None:
            name, which = section_title(song, song.section_of_bar(self.bar))
            self.setAccessibleDescription(
                tr(
                    "{name} {which}, bar {number}: {chord_now}",
                    name=name,
                    which=which,
                    number=song.grid.number(self.bar),
                    chord_now=self.chord_now(),
                )
            )

    def next_words(self, song: Song) -> str:
        """What comes after this section, and in how many bars."""
        here = song.section_of_bar(self.bar)
        following = [i for i in range(here + 1, len(song.sections)) if len(song.section_bars(i))]
        if not following:
            return ""
        left = song.section_bars(following[0])[0] - self.bar
        return tr(
            "then {section_title}, in {bars}",
            section_title=section_title(song, following[0])[0],
            bars=plural(left, "bar", "bars"),
        )

    # ------------------------------------------------------------ painting

    @painted
    def paintEvent(self, painter: QPainter, event: QPaintEvent) -> None:
        theme, song = self.theme, self.session.song
        painter.fillRect(self.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if song is None:
            return
        edge = EDGE * self.width()
        unit = self.height() / 100
        self._head(painter, song, edge, unit)
        top, bottom = 17 * unit, 93 * unit
        high = (bottom - top) / self.shown
        for k, row in enumerate(self.visible_rows()):
            self._row(painter, song, row, QRectF(edge, top + k * high, self.width() - 2 * edge, high), k == 0)
        painter.setFont(theme.sans(max(8.0, 1.7 * unit)))
        painter.setPen(theme.colour("faded"))
        f = facts(song)
        words = " · ".join(x for x in (song.title, f.home, f.count, guitar_line(song)) if x)
        area = QRectF(edge, 94 * unit, self.width() - 2 * edge, 5 * unit)
        shown = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, area.width())
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, shown)

    def _head(self, painter: QPainter, song: Song, edge: float, unit: float) -> None:
        theme = self.theme
        name, which = section_title(song, song.section_of_bar(self.bar))
        font = theme.serif(max(12.0, 5.2 * unit), bold=True)
        painter.setFont(font)
        painter.setPen(theme.colour("ink"))
        metrics = QFontMetricsF(font)
        name = metrics.elidedText(name, Qt.TextElideMode.ElideRight, 0.55 * self.width())
        painter.drawText(QPointF(edge, 11.5 * unit), name)
        x = edge + metrics.horizontalAdvance(name) + 2 * unit
        painter.setFont(theme.sans(max(9.0, 2.4 * unit)))
        painter.setPen(theme.colour("faded"))
        painter.drawText(QPointF(x, 11.5 * unit), which)
        area = QRectF(0.5 * self.width(), 5 * unit, 0.5 * self.width() - edge, 8 * unit)
        painter.drawText(area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self.next_words(song))

    def _row(self, painter: QPainter, song: Song, row: Row, area: QRectF, now: bool) -> None:
        theme = self.theme
        wide = area.width() / PER_ROW
        opens = row.opens and not now
        if opens:
            painter.setFont(theme.sans(max(8.0, 0.075 * area.height()), strong=True))
            painter.setPen(theme.colour("stated"))
            painter.drawText(
                QPointF(area.x() + 6, area.y() + 0.11 * area.height()), section_title(song, row.section)[0]
            )
        boxes = [
            QRectF(area.x() + k * wide, area.y() + 0.14 * area.height(), wide, 0.8 * area.height())
            for k in range(row.last - row.first)
        ]
        size = min((self._fitting(song, row.first + k, box) for k, box in enumerate(boxes)), default=12.0)
        for k, box in enumerate(boxes):
            self._bar(painter, song, row.first + k, box, now, max(size, LEAST * box.height()))

    def _names(self, song: Song, bar: int, box: QRectF) -> list[tuple[float, float, str, bool]]:
        """(x, where the next one begins, text, whether the chord begins there) of a bar."""
        beats, marks = song.grid.bars[bar].beats, bar_marks(song, bar)
        places = [box.x() + 12 + (box.width() - 20) * float(m.offset) / beats for m in marks]
        limits = [*(x - 4 for x in places[1:]), box.right() - 6]
        texts = [m.name + (f" ({m.shape})" if m.shape else "") + m.sign for m in marks]
        return [(x, limit, text, m.begins) for x, limit, text, m in zip(places, limits, texts, marks, strict=True)]

    def _fitting(self, song: Song, bar: int, box: QRectF) -> float:
        """The size at which the names of a bar stand beside each other."""
        size = LARGEST * box.height()
        for x, limit, text, _ in self._names(song, bar, box):
            advance = QFontMetricsF(self.theme.serif(size, bold=True)).horizontalAdvance(text)
            if advance > limit - x:
                size *= max(0.05, (limit - x) / advance)
        return size

    def _bar(self, painter: QPainter, song: Song, bar: int, box: QRectF, now: bool, size: float) -> None:
        theme = self.theme
        here = bar == self.bar and self.beat >= 0
        if here:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("chosen"))
            painter.drawRoundedRect(box.adjusted(2, 0, -2, 0), 8, 8)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("ink" if now else "edge"), 3 if now else 2))
        painter.drawLine(QPointF(box.x(), box.y()), QPointF(box.x(), box.bottom()))
        beats = song.grid.bars[bar].beats
        for x, limit, text, begins in self._names(song, bar, box):
            font = theme.serif(size, bold=True)
            advance = QFontMetricsF(font).horizontalAdvance(text)
            if advance > limit - x:  # one long name does not make the whole row small
                font.setPointSizeF(max(7.0, size * (limit - x) / advance))
            painter.setFont(font)
            painter.setPen(theme.colour("ink" if begins else "faded"))
            painter.drawText(QPointF(x, box.y() + 0.5 * box.height()), text)
        words = " ".join(m.text for m in song.lyrics_of_bar(bar))
        if words:
            painter.setFont(theme.serif(max(9.0, 0.11 * box.height()), italic=True))
            painter.setPen(theme.colour("ink"))
            free = bar + 1 < len(song.grid.bars) and not song.lyrics_of_bar(bar + 1)
            room = box.width() * (2 if free and box.right() + box.width() <= self.width() else 1) - 16
            shown = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, room)
            painter.drawText(QPointF(box.x() + 12, box.y() + 0.75 * box.height()), shown)
        radius = max(2.5, 0.022 * box.height())
        for beat in range(beats):
            x = box.x() + 12 + radius + (box.width() - 20) * beat / beats
            painter.setPen(QPen(theme.colour("stated" if here else "faded"), 1.5))
            painter.setBrush(theme.colour("stated") if here and beat <= self.beat else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x, box.bottom() - 3 * radius), radius, radius)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    # ------------------------------------------------------------ keys

    def _go(self, step: int) -> None:
        song = self.session.song
        if song is None or not self.rows:
            return
        row = self.rows[max(0, min(len(self.rows) - 1, self.row_index() + step))]
        seconds = song.grid.clock(song.grid.starts[row.first])
        self.seek_wanted.emit(seconds)
        self.set_clock(seconds)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and not event.modifiers():
            event.accept()  # no key of the other window means anything here
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in (Qt.Key.Key_Escape, Qt.Key.Key_F5, Qt.Key.Key_F11):
            self.close()
        elif key == Qt.Key.Key_Space:
            self.play_pressed.emit()
        elif key in FORWARD:
            self._go(1)
        elif key in BACK:
            self._go(-1)
        elif key == Qt.Key.Key_Home:
            self._go(-len(self.rows))
        elif event.text() in ("+", "=", "-"):
            step = 1 if event.text() == "-" else -1
            self.shown = ROWS[max(0, min(len(ROWS) - 1, ROWS.index(self.shown) + step))]
            self.update()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click in the lower half goes on, in the upper one back: whoever has no pedal touches the screen."""
        self._go(1 if event.position().y() > self.height() / 2 else -1)

    def closeEvent(self, event: QCloseEvent) -> None:
        self.left.emit()
        super().closeEvent(event)
