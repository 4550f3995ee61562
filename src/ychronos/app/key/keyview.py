"""The key view: which keys the chords speak for, over time and side by side, and what does not belong.

Each leading key has a lane over the clock: the fuller, the more speaks for it there; a line under it where it is
decided or stated. A click plays from there, dragging selects bars. Below stand the arguments for each, over the
selected bars or the whole song, with buttons to state it.
"""

from __future__ import annotations

from itertools import pairwise

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ...analysis.keys import deciding, keyfinding, keyhabits
from ...session.session import MUSIC, Session
from ...song.model import Song
from ...song.words import bars_text, clock_text
from ...theory.function import Reading, read_one
from ...theory.key import Key
from ...tongue import tr
from ..guarding import painted
from ..labels import TwoLines, beside, label
from ..theme import Theme
from ..timeaxis import TimeAxis, step_of

LANES = 4
_LEFT, _RIGHT, _TOP = 118.0, 24.0, 52.0
_OTHERS = 62.0  # height of what stands below the lanes


def outside(song: Song) -> list[tuple[int, Reading]]:
    """Chords that do not belong to their key, with their readings."""
    out = []
    for i in range(len(song.chords)):
        reading = read_one(*song.as_shown(i))
        if reading.outside:
            out.append((i, reading))
    return out


class KeyLanes(TimeAxis):
    """What speaks for the leading keys over time."""

    seek_wanted = Signal(float)
    bars_wanted = Signal(int, int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.evidence: keyfinding.KeyEvidence | None = None
        self.leading: list[int] = []
        self.strangers: list[int] = []
        self._from: int | None = None
        self.setMinimumHeight(int(_TOP + LANES * 42 + _OTHERS))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(tr("What speaks for the leading keys over time"))

    def times(self) -> tuple[float, float]:
        song = self.session.song
        assert song is not None
        return song.grid.times[0], song.grid.times[-1]

    def sides(self) -> tuple[float, float]:
        return _LEFT, self.width() - _RIGHT

    def bar_at(self, x: float) -> int:
        song = self.session.song
        assert song is not None
        return song.grid.bar_at(song.grid.position(self.seconds_at(x)))

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        song, found = self.session.song, self.evidence
        t = self.theme
        if song is None or found is None:
            return
        p.setFont(t.serif(14, bold=True))
        p.setPen(t.colour("ink"))
        p.drawText(QPointF(22, 32), tr("Where home is"))
        x = 22 + QFontMetricsF(p.font()).horizontalAdvance(tr("Where home is")) + 14
        p.setFont(t.sans(9))
        p.setPen(t.colour("faded"))
        p.drawText(
            QPointF(x, 32),
            tr("fuller: the chords speak for it · line: decided, or stated by you · drag to select bars"),
        )
        lane = (self.height() - _TOP - _OTHERS) / LANES
        s = self.session.selection
        if s.many:
            a, b = (self.x_of(song.grid.clock(song.grid.bar_range(i)[k])) for i, k in ((s.first, 0), (s.last, 1)))
            p.fillRect(QRectF(a, _TOP - 6, b - a, lane * LANES + 6), t.colour("chosen"))
        lines = [self.x_of(song.grid.clock(start)) for start in song.grid.starts]
        for n, k in enumerate(self.leading):
            self._lane(
                p, song, found, k, lines, QRectF(_LEFT, _TOP + n * lane, self.width() - _LEFT - _RIGHT, lane - 8)
            )
        self._below(p, song, _TOP + LANES * lane + 4)
        self.paint_playhead(p, _TOP - 4, _TOP + LANES * lane + 12)

    def _lane(
        self, p: QPainter, song: Song, found: keyfinding.KeyEvidence, k: int, lines: list[float], area: QRectF
    ) -> None:
        t, grid, key = self.theme, song.grid, song.key_written(keyhabits.KEYS[k])
        line = area.bottom() - 4
        points = [QPointF(area.left(), line)]
        for bar, (a, b) in enumerate(pairwise(lines)):
            y = line - (area.height() - 8) * float(found.chance[bar, k])
            points += [QPointF(a, y), QPointF(b, y)]
        points.append(QPointF(area.right(), line))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(t.colour("sound"))
        p.drawPolygon(QPolygonF(points))
        p.setBrush(Qt.BrushStyle.NoBrush)
        ends = [*[s.start for s in song.keys[1:]], grid.end]
        here = False
        for span, end in zip(song.keys, ends, strict=True):
            if (span.key.tonic, span.key.mode) == (key.tonic, key.mode):
                here = True
                p.setPen(QPen(t.colour("stated" if span.stated else "ink"), 3.4))
                a, b = self.x_of(grid.clock(span.start)), self.x_of(grid.clock(end))
                p.drawLine(QPointF(a + 1, line + 3), QPointF(b - 1, line + 3))
        p.setFont(t.serif(12, bold=here))
        p.setPen(t.colour("ink" if here else "faded"))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        p.drawText(QRectF(22, area.top(), _LEFT - 30, area.height()), flags, song.key_name(key))

    def _below(self, p: QPainter, song: Song, top: float) -> None:
        """Chords from outside, sections, clock."""
        t, grid = self.theme, song.grid
        p.setFont(t.sans(8.5))
        p.setPen(t.colour("faded"))
        p.drawText(QRectF(22, top - 2, _LEFT - 30, 14), Qt.AlignmentFlag.AlignVCenter, tr("from outside"))
        p.setPen(QPen(t.colour("doubt"), 2.4))
        for index in self.strangers:
            a, b = (self.x_of(grid.clock(x)) for x in song.chord_range(index))
            p.drawLine(QPointF(a + 0.5, top + 5), QPointF(max(a + 2, b - 1), top + 5))
        edges = [self.x_of(grid.clock(s.start)) for s in song.sections] + [self.width() - _RIGHT]
        metrics = QFontMetricsF(p.font())
        for section, a, b in zip(song.sections, edges, edges[1:], strict=False):
            p.setPen(QPen(t.colour("ink"), 1.2))
            p.drawLine(QPointF(a, top + 14), QPointF(a, top + 28))
            text = metrics.elidedText(section.title, Qt.TextElideMode.ElideRight, max(0.0, b - a - 8))
            p.drawText(QPointF(a + 5, top + 26), text)
        p.setPen(t.colour("faded"))
        first, last = self.times()
        step = step_of(last - first, 12)
        for second in range(int(first // step + 1) * step, int(last) + 1, step):
            p.drawText(QPointF(self.x_of(second) - 8, top + 46), clock_text(song.shown_clock(second)))

    # ------------------------------------------------------------ mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        left = event.button() == Qt.MouseButton.LeftButton
        if left and self.session.song is not None and event.position().x() >= _LEFT:
            self._from = self.bar_at(event.position().x())
            self.seek_wanted.emit(self.seconds_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None and event.buttons() & Qt.MouseButton.LeftButton:
            bar = self.bar_at(event.position().x())
            if bar != self._from:
                self.bars_wanted.emit(min(self._from, bar), max(self._from, bar))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None


class Card(QFrame):
    """The arguments for one key."""

    stated = Signal(object)
    respelled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.key: Key | None = None
        self.name = label()
        self.values = [label() for _ in range(5)]
        self.state, self.other = QPushButton(), QPushButton()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(1)
        grid.addWidget(self.name, 0, 0, 1, 2)
        for i, words in enumerate(
            (
                tr("on its home chord"),
                tr("cadences to it"),
                tr("in its notes"),
                tr("begins at home"),
                tr("ends at home"),
            )
        ):
            grid.addWidget(label(words, quiet=True), i + 1, 0)
            grid.addWidget(self.values[i], i + 1, 1)
        grid.setColumnStretch(1, 1)
        grid.addWidget(self.state, 6, 0, 1, 2)
        grid.addWidget(self.other, 7, 0, 1, 2)
        grid.setRowStretch(8, 1)
        self.state.clicked.connect(lambda: self.stated.emit(self.key))
        self.other.clicked.connect(self.respelled)

    def show_arguments(self, found: keyfinding.Arguments, key: Key, song: Song, holds: bool, where: str) -> None:
        self.key = key
        name = song.key_name(key)
        self.name.setText(name + (tr("  ·  it is this") if holds else ""))
        yes = {True: tr("yes"), False: tr("no")}
        texts = (f"{found.home:.0%}", str(found.cadences), f"{found.inside:.0%}", yes[found.first], yes[found.last])
        for value, text in zip(self.values, texts, strict=True):
            value.setText(text)
        self.state.setText(tr("It is {name}", name=name))
        self.state.setToolTip(
            tr("State {name} for {where}; chords are decided and spelled again", name=name, where=where)
        )
        other = key.other_name
        self.other.setVisible(holds and other is not None)
        self.other.setText(tr("Write it as {key}", key=song.key_name(other)) if other else "")


class KeyView(QWidget):
    """See the module."""

    key_stated = Signal(object)
    respell_wanted = Signal()
    chord_wanted = Signal(int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.lanes = KeyLanes(session, theme)
        self.cards = [Card() for _ in range(LANES)]
        self.range, self.heading, self.count = label(quiet=True), label(tr("From outside")), label(quiet=True)
        self.list = QListWidget()
        self.list.setItemDelegate(TwoLines(self.list))
        self.list.setAccessibleName(tr("Chords that do not belong to their key"))
        self.list.itemClicked.connect(self._chosen)
        self.list.itemActivated.connect(self._chosen)
        self._indexes: list[int] = []
        across = QHBoxLayout()
        across.setContentsMargins(22, 0, 22, 16)
        across.setSpacing(30)
        for card in self.cards:
            across.addWidget(card, 1)
            card.stated.connect(self.key_stated)
            card.respelled.connect(self.respell_wanted)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addWidget(self.lanes, 1)
        row = QHBoxLayout()
        row.setContentsMargins(22, 0, 22, 0)
        row.addWidget(self.range)
        left.addLayout(row)
        left.addLayout(across)
        beside(self, left, self.heading, self.count, self.list)
        session.watch(self.refresh, *MUSIC)
        session.watch(self._show_cards, "selection")
        self.set_theme(theme)

    def set_clock(self, seconds: float | None) -> None:
        self.lanes.set_clock(seconds)

    def set_theme(self, theme: Theme) -> None:
        self.theme = self.lanes.theme = theme
        self.heading.setFont(theme.serif(13, bold=True))
        for small in (self.range, self.count):
            small.setFont(theme.sans(9))
        for card in self.cards:
            card.name.setFont(theme.serif(13, bold=True))
        delegate = self.list.itemDelegate()
        if isinstance(delegate, TwoLines):
            delegate.theme = theme
        self.lanes.update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        song = self.session.song
        if song is None or not self.isVisible():
            return
        self.lanes.evidence = deciding.key_evidence(song)
        self.lanes.leading = self.lanes.evidence.leading(LANES)
        found = outside(song)
        self._indexes = self.lanes.strangers = [i for i, _ in found]
        self.list.clear()
        for index, reading in found:
            where = song.grid.beat_name(song.chords[index].start)
            item = QListWidgetItem(f"{song.chord_name(index)}   {reading.numeral}\n{reading.words}")
            item.setToolTip(f"{where}: {reading.words}")
            self.list.addItem(item)
        self.count.setText(
            {0: tr("every chord belongs"), 1: tr("1 chord")}.get(len(found), tr("{count} chords", count=len(found)))
        )
        self.list.setVisible(bool(found))
        self.lanes.update()
        self._show_cards()

    def _show_cards(self) -> None:
        song = self.session.song
        if song is None or not self.isVisible() or self.lanes.evidence is None:
            return
        s = self.session.selection
        bars = deciding.bar_chords(song)
        if s.many:
            bars = bars[s.first : s.last + 1]
            where = bars_text(song.grid, s.first, s.last)
        else:
            where = tr("the whole song")
        self.range.setText(tr("What speaks for each, over {where}", where=where))
        at = song.key_at(song.grid.bar_range(s.first)[0] if s.many else s.caret)
        for card, k in zip(self.cards, self.lanes.leading, strict=False):
            key = song.key_written(keyhabits.KEYS[k])
            holds = (key.tonic, key.mode) == (at.tonic, at.mode)
            card.show_arguments(keyfinding.arguments(bars, key), at if holds else key, song, holds, where)
        self.lanes.update()

    def _chosen(self, item: QListWidgetItem) -> None:
        row = self.list.row(item)
        if 0 <= row < len(self._indexes):
            self.chord_wanted.emit(self._indexes[row])
