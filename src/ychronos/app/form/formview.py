"""The form view: the whole song at a glance, the passes of a section under each other, what resembles what.

Above, sections to scale with energy, tempo and keys; a click chooses one, its edges can be dragged. Below, the
passes of the chosen section bar by bar, aligned, with what differs framed and what perhaps does dotted; beside them all differences of the song
in words. In the corner, how alike every two bars are; a click there plays both in turn.
"""

from __future__ import annotations

import html

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFont,
    QFontMetricsF,
    QHelpEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QShowEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QToolTip, QVBoxLayout, QWidget

from ...analysis.evidence import Evidence
from ...analysis.explain.differences import Differences
from ...chart import folding
from ...chart.gestures import gestures, voiced
from ...chart.order import order
from ...chart.rows import section_clock, section_title
from ...session.comparing import Comparing
from ...session.jobs import Handle
from ...session.session import MUSIC, Session
from ...song.alignment import WHOLE, Difference, Pass, names, passes
from ...song.model import Song
from ...song.sung import MOSTLY, nobody_sings, share, somebody, sung_stretches
from ...song.words import clock_text, plural
from ...tongue import tr
from ..ground.groundview import tempo_curve
from ..guarding import painted
from ..labels import TwoLines, beside, label
from ..reachable import Part
from ..theme import Theme
from ..timeaxis import TimeAxis, line_through, step_of

_SIDE, _TOP, STRIP_HEIGHT = 22.0, 46.0, 208
GRIP = 5.0  # pixels around a section's edge that can be dragged
ROW, HEAD = 46.0, 40.0
MAP = 190


class FormStrip(TimeAxis):
    """Sections to scale over the clock."""

    section_chosen = Signal(int)
    edge_moved = Signal(int, int)
    seek_wanted = Signal(float)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.level: NDArray[np.float64] | None = None
        self.chosen = 0
        self._held: tuple[int, int] | None = None
        self.setFixedHeight(STRIP_HEIGHT)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("The song at a glance"))

    def sides(self) -> tuple[float, float]:
        return _SIDE, self.width() - _SIDE

    def bar_at(self, x: float) -> int:
        song = self.session.song
        assert song is not None
        first, last = song.grid.times[0], song.grid.times[-1]
        share = (x - _SIDE) / max(1.0, self.width() - 2 * _SIDE)
        return song.grid.bar_at(song.grid.position(first + share * (last - first)))

    def edges(self) -> list[float]:
        song = self.session.song
        assert song is not None
        return [self.x_of(song.grid.clock(s.start)) for s in song.sections] + [self.width() - _SIDE]

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        song, t = self.session.song, self.theme
        if song is None:
            return
        p.setFont(t.serif(14, bold=True))
        p.setPen(t.colour("ink"))
        p.drawText(QPointF(_SIDE, 28), tr("The whole song"))
        x = _SIDE + QFontMetricsF(p.font()).horizontalAdvance(tr("The whole song")) + 14
        p.setFont(t.sans(9))
        p.setPen(t.colour("faded"))
        voice = tr(" · below: somebody sings") if somebody(song) else ""
        p.drawText(
            QPointF(x, 28), tr("height: how loud · line: tempo{voice} · click a section, drag an edge", voice=voice)
        )
        edges, keys = self.edges(), [s.material or s.name for s in song.sections]
        area = QRectF(_SIDE, _TOP, self.width() - 2 * _SIDE, 104)
        for i, (a, b) in enumerate(zip(edges, edges[1:], strict=False)):
            box = QRectF(a + 1, area.top(), b - a - 2, area.height())
            same = keys[i] == keys[self.chosen] if self.chosen < len(keys) else False
            p.fillRect(box, t.colour("chosen" if same else "shelf"))
            if i == self.chosen:
                p.setPen(QPen(t.colour("stated"), 2))
                p.drawRect(box.adjusted(1, 1, -1, -1))
        self._energy(p, song, area)
        self._tempo(p, song, area)
        self._voice(p, song, area)
        for i, (a, b) in enumerate(zip(edges, edges[1:], strict=False)):
            self._name(p, song, i, a, b, area)
        p.setFont(t.sans(8.5))
        p.setPen(t.colour("faded"))
        for span in song.keys:
            p.drawText(QPointF(self.x_of(song.grid.clock(span.start)) + 4, area.bottom() + 16), song.key_name(span.key))
        first, last = song.grid.times[0], song.grid.times[-1]
        step = step_of(last - first, 14)
        for second in range(int(first // step + 1) * step, int(last) + 1, step):
            p.drawText(QPointF(self.x_of(second) - 8, area.bottom() + 34), clock_text(song.shown_clock(second)))
        if self._held is not None:
            x = self.x_of(song.grid.clock(song.grid.starts[self._held[1]]))
            p.setPen(QPen(t.colour("stated"), 3))
            p.drawLine(QPointF(x, area.top() - 5), QPointF(x, area.bottom() + 5))
        self.paint_playhead(p, area.top() - 4, area.bottom() + 4)

    def _energy(self, p: QPainter, song: Song, area: QRectF) -> None:
        if self.level is None or not len(self.level):
            return
        low, high = np.percentile(self.level, 5) - 6, self.level.max()
        lead = len(song.grid.bars) - len(self.level)
        points = [QPointF(area.left(), area.bottom())]
        for i, value in enumerate(self.level):
            a, b = (self.x_of(song.grid.clock(x)) for x in song.grid.bar_range(i + lead))
            y = area.bottom() - 0.62 * area.height() * float(np.clip((value - low) / max(1e-6, high - low), 0, 1))
            points += [QPointF(a, y), QPointF(b, y)]
        points.append(QPointF(area.right(), area.bottom()))
        colour = self.theme.colour("sound")
        colour.setAlpha(150)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(colour)
        p.drawPolygon(QPolygonF(points))
        p.setBrush(Qt.BrushStyle.NoBrush)

    def _tempo(self, p: QPainter, song: Song, area: QRectF) -> None:
        times, tempo = tempo_curve(song)
        usual = song.grid.tempo()
        p.setPen(QPen(self.theme.colour("ink"), 1.2))
        y = area.top() + 60 - 50 * np.clip(tempo / usual - 1, -0.6, 0.6)
        p.drawLines(line_through(self.xs_of(times), y))

    def _voice(self, p: QPainter, song: Song, area: QRectF) -> None:
        """Where somebody sings: a line below, in the colour of what was said where that was said."""
        if not somebody(song):
            return
        for a, b, stated in sung_stretches(song):
            p.setPen(QPen(self.theme.colour("stated" if stated else "ink"), 3))
            p.drawLine(QPointF(self.x_of(a) + 1, area.bottom() + 3), QPointF(self.x_of(b) - 1, area.bottom() + 3))

    def _name(self, p: QPainter, song: Song, i: int, a: float, b: float, area: QRectF) -> None:
        t, section = self.theme, song.sections[i]
        name, which = section_title(song, i)
        p.setFont(_fitting(t.serif(11.5, bold=True), name, b - a - 9))
        p.setPen(t.colour("ink"))
        metrics = QFontMetricsF(p.font())
        p.drawText(
            QPointF(a + 6, area.top() + 18), metrics.elidedText(name, Qt.TextElideMode.ElideRight, max(0.0, b - a - 10))
        )
        p.setFont(t.sans(8))
        p.setPen(t.colour("faded"))
        words = which or (
            "" if section.stated or i == 0 else tr("{confidence:.0%} sure", confidence=section.confidence)
        )
        if QFontMetricsF(p.font()).horizontalAdvance(words) < b - a - 10:
            p.drawText(QPointF(a + 7, area.top() + 32), words)
        if section.stated and i:
            p.setPen(QPen(t.colour("stated"), 2.4))
            p.drawLine(QPointF(a, area.top()), QPointF(a, area.bottom()))

    def accessible_parts(self) -> list[Part]:
        """The sections, as they are drawn."""
        song = self.session.song
        if song is None:
            return []
        out, edges = [], self.edges()
        for i, (a, b) in enumerate(zip(edges, edges[1:], strict=False)):
            name, which = section_title(song, i)
            bars = plural(len(song.section_bars(i)), "bar", "bars")
            sure = (
                ""
                if song.sections[i].stated or not i
                else tr(", {confidence:.0%} sure that it begins there", confidence=song.sections[i].confidence)
            )
            voice = tr(", nobody sings") if nobody_sings(song, i) else ""
            if share(song, i) >= MOSTLY and somebody(song):
                voice = tr(", somebody sings")
            told = f"{song.grid.beat_name(song.sections[i].start)}, {bars}{voice}{sure}"
            title = f"{name}, {which}" if which else name
            out.append(Part(title, QRectF(a, _TOP, b - a, 104), i == self.chosen, description=told))
        return out

    def painted_on(self) -> QWidget:
        return self

    # ------------------------------------------------------------ mouse and keys

    def edge_under(self, x: float) -> int | None:
        """Index of the section whose beginning is under x."""
        return next((i for i, e in enumerate(self.edges()[:-1]) if i and abs(e - x) <= GRIP), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        song = self.session.song
        if song is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x = event.position().x()
        edge = self.edge_under(x)
        if edge is not None:
            self._held = (edge, song.grid.bar_at(song.sections[edge].start))
            return
        bar = self.bar_at(x)
        self.section_chosen.emit(song.section_index(song.grid.bar_range(bar)[0]))
        self.seek_wanted.emit(song.grid.clock(song.grid.bar_range(bar)[0]))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.session.song is None:
            return
        x = event.position().x()
        if self._held is not None:
            self._held = (self._held[0], self.bar_at(x + 0.5))
            self.update()
            return
        over = self.edge_under(x) is not None
        self.setCursor(Qt.CursorShape.SplitHCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, None
        song = self.session.song
        if held is not None and song is not None and song.grid.starts[held[1]] != song.sections[held[0]].start:
            self.edge_moved.emit(*held)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        song = self.session.song
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if song is not None and step:
            self.section_chosen.emit(max(0, min(len(song.sections) - 1, self.chosen + step)))
            return
        super().keyPressEvent(event)


def _fitting(font: QFont, text: str, room: float, smallest: float = 7.0) -> QFont:
    """The font, made smaller until the text fits, but not smaller than that."""
    while QFontMetricsF(font).horizontalAdvance(text) > room and font.pointSizeF() > smallest:
        font.setPointSizeF(font.pointSizeF() - 0.5)
    return font


def _sureness(found: Difference) -> str:
    """How sure a difference is, to be said after it."""
    return tr(", {sure:.0%} sure", sure=found.sure) if found.sure < 0.995 else ""


class PassTable(QWidget):
    """Passes of a section under each other, bar by bar."""

    bar_chosen = Signal(int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.passes: list[Pass] = []
        self._cells: list[tuple[QRectF, int]] = []
        self.setAccessibleName(tr("Passes of the section, bar by bar"))
        self.setMinimumHeight(150)

    def columns(self) -> list[int | None]:
        """Columns of the table: bars of the model, with a None for each bar that a pass adds before."""
        if not self.passes:
            return []
        model = [a for a, _ in next(p for p in self.passes if p.model).pairs if a is not None]
        extra: dict[int | None, int] = dict.fromkeys([*model, None], 0)
        for found in self.passes:
            run = 0
            for twin, _ in found.pairs:
                if twin is None:
                    run += 1
                else:
                    extra[twin] = max(extra[twin], run)
                    run = 0
            extra[None] = max(extra[None], run)
        out: list[int | None] = []
        for bar in model:
            out += [None] * extra[bar] + [bar]
        return out + [None] * extra[None]

    def cells_of(self, found: Pass) -> dict[int, int]:
        """Column -> bar of a pass."""
        columns = self.columns()
        place = {bar: i for i, bar in enumerate(columns) if bar is not None}
        out: dict[int, int] = {}
        waiting: list[int] = []
        last = len(columns)
        for twin, bar in reversed(found.pairs):
            if twin is not None:
                last = place[twin]
                if bar is not None:
                    out[last] = bar
                waiting = []
            elif bar is not None:
                waiting.append(bar)
                out[last - len(waiting)] = bar
        return out

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        song, t = self.session.song, self.theme
        self._cells = []
        if song is None or not self.passes:
            return
        columns = self.columns()
        left = 96.0
        wide = (self.width() - left - 8) / max(1, len(columns))
        row = min(ROW, (self.height() - HEAD) / max(1, len(self.passes)))
        name = song.sections[self.passes[0].section].title
        p.setFont(t.serif(14, bold=True))
        p.setPen(t.colour("ink"))
        heading = tr("{name}, time by time", name=name) if len(self.passes) > 1 else tr("{name} comes once", name=name)
        p.drawText(QPointF(0, 20), heading)
        if any(found.perhaps for found in self.passes):
            x = p.fontMetrics().horizontalAdvance(heading) + 14
            p.setFont(t.sans(9))
            p.setPen(t.colour("faded"))
            p.drawText(QPointF(x, 20), tr("framed: other chords · dotted: perhaps"))
        for r, found in enumerate(self.passes):
            top = HEAD + r * row
            p.setFont(t.sans(9))
            p.setPen(t.colour("faded"))
            p.drawText(
                QRectF(0, top, left - 8, row), Qt.AlignmentFlag.AlignVCenter,
                f"{song.pass_number(found.section)}.  {section_clock(song, found.section)}"
                + (f"  {found.up if found.up <= 6 else found.up - 12:+d}" if found.up else ""),
            )  # fmt: skip
            marked = {d.bar: d for d in found.differences if d.bar is not None and d.kind not in WHOLE}
            gone = {d.twin for d in found.differences if d.kind == "missing"}
            perhaps = {d.bar for d in found.perhaps}
            cells = self.cells_of(found)
            for c, twin in enumerate(columns):
                box = QRectF(left + c * wide, top + 2, wide - 3, row - 5)
                bar = cells.get(c)
                if bar is None:
                    if twin is not None:
                        p.setPen(QPen(t.colour("doubt" if twin in gone else "edge"), 1, Qt.PenStyle.DashLine))
                        p.drawRect(box)
                        p.drawText(box, Qt.AlignmentFlag.AlignCenter, tr("missing") if wide > 60 else "–")
                    continue
                self._cell(p, song, bar, box, marked.get(bar), found.model)
                if bar in perhaps and bar not in marked:
                    p.setPen(QPen(t.colour("doubt"), 1.4, Qt.PenStyle.DotLine))
                    p.drawLine(box.bottomLeft() + QPointF(5, -1), box.bottomRight() + QPointF(-4, -1))
                self._cells.append((box, bar))

    def _cell(self, p: QPainter, song: Song, bar: int, box: QRectF, found: Difference | None, model: bool) -> None:
        t = self.theme
        s = self.session.selection
        if found is not None:
            p.fillRect(box, t.colour("doubt_paper"))
            p.setPen(QPen(t.colour("doubt"), 1.4))
            p.drawRect(box)
        elif s.first <= bar <= s.last:
            p.fillRect(box, t.colour("chosen"))
        p.setPen(QPen(t.colour("edge"), 1))
        p.drawLine(box.topLeft(), box.bottomLeft())
        text = names(song, bar)
        font = _fitting(t.serif(12, bold=model or found is not None), text, box.width() - 8)
        p.setFont(font)
        p.setPen(t.colour("ink" if model or found is not None else "faded"))
        fitting = QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, box.width() - 6)
        p.drawText(box.adjusted(5, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, fitting)

    def bar_under(self, point: QPointF) -> int | None:
        return next((bar for box, bar in self._cells if box.contains(point)), None)

    def told_under(self, point: QPointF) -> str:
        """What is other in the bar under a point, and how sure that is; "" where nothing is."""
        bar = self.bar_under(point)
        if bar is None:
            return ""
        told = [d for p in self.passes for d in (*p.differences, *p.perhaps) if d.bar == bar]
        return told[0].words + _sureness(told[0]) if told else ""

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            QToolTip.showText(event.globalPos(), self.told_under(QPointF(event.pos())), self)
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        bar = self.bar_under(event.position())
        if bar is not None:
            self.bar_chosen.emit(bar)


class Likeness(QWidget):
    """How alike every two bars are, dark where they are the same."""

    pair_chosen = Signal(int, int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.matrix: NDArray[np.float64] | None = None
        self.lead = 0
        self.setFixedSize(MAP, MAP)
        self.setAccessibleName(tr("Which bars resemble which"))
        self.setToolTip(tr("How alike every two bars are; a click plays both in turn"))

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        t = self.theme
        p.fillRect(self.rect(), t.colour("shelf"))
        if self.matrix is None or not len(self.matrix):
            return
        ink, paper = t.colour("ink"), t.colour("paper")
        share = np.clip((self.matrix - 0.35) / 0.65, 0, 1)[..., None] ** 1.5
        low = np.array([paper.red(), paper.green(), paper.blue()])
        high = np.array([ink.red(), ink.green(), ink.blue()])
        pixels = np.ascontiguousarray(low + (high - low) * share, np.uint8)
        count = len(pixels)
        # Qt reads the bytes where they lie, and keeps nothing alive
        data = pixels.tobytes()
        p.drawImage(QRectF(self.rect()), QImage(data, count, count, 3 * count, QImage.Format.Format_RGB888))
        del data
        song = self.session.song
        if song is None:
            return
        p.setPen(QPen(t.colour("stated"), 1))
        for section in song.sections[1:]:
            x = (song.grid.bar_at(section.start) - self.lead) / count * MAP
            p.drawLine(QPointF(x, 0), QPointF(x, 5))
            p.drawLine(QPointF(0, x), QPointF(5, x))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.matrix is not None and len(self.matrix):
            a, b = (
                min(len(self.matrix) - 1, max(0, int(v / MAP * len(self.matrix)))) + self.lead
                for v in (event.position().x(), event.position().y())
            )
            self.pair_chosen.emit(a, b)


class FormView(QWidget):
    """See the module."""

    bar_chosen = Signal(int)
    pair_chosen = Signal(int, int)
    edge_moved = Signal(int, int)
    rename_wanted = Signal(int)
    same_wanted = Signal(int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.strip, self.table = FormStrip(session, theme), PassTable(session, theme)
        self.map = Likeness(session, theme)
        self.found: list[Difference] = []
        self.order = label()
        self.order.setTextFormat(Qt.TextFormat.RichText)
        self.order.setWordWrap(True)
        self.order.setAccessibleName(tr("The order of the sections"))
        self.order.setToolTip(tr("The order of the sections; a click goes there"))
        self.order.linkActivated.connect(lambda link: self._go_to_section(int(link)))
        self.folded = label(quiet=True)
        self.folded.setWordWrap(True)
        self.heading, self.count = label(tr("What differs")), label(quiet=True)
        self.list = QListWidget()
        self.list.setItemDelegate(TwoLines(self.list))
        self.list.setAccessibleName(tr("What differs from time to time"))
        self.list.setToolTip(tr("A click plays the bar and its twin in turn"))
        self.list.itemClicked.connect(self._difference)
        self.list.itemActivated.connect(self._difference)
        self.rename, self.same = QPushButton(tr("Name it…")), QPushButton(tr("The same as…"))
        self.same.setToolTip(tr("State what this section is the same as, or that it is music of its own"))
        self.rename.clicked.connect(lambda: self.rename_wanted.emit(self.strip.chosen))
        self.same.clicked.connect(lambda: self.same_wanted.emit(self.strip.chosen))
        buttons = QHBoxLayout()
        buttons.addWidget(self.rename)
        buttons.addWidget(self.same)
        buttons.addSpacing(10)
        buttons.addWidget(self.order, 1)
        middle = QVBoxLayout()
        middle.addWidget(self.table, 1)
        middle.addLayout(buttons)
        middle.addWidget(self.folded)
        corner = QVBoxLayout()
        self.map_words = label(tr("what resembles what"), quiet=True)
        corner.addStretch(1)
        corner.addWidget(self.map_words)
        corner.addWidget(self.map)
        lower = QHBoxLayout()
        lower.setContentsMargins(22, 0, 22, 14)
        lower.setSpacing(20)
        lower.addLayout(middle, 1)
        lower.addLayout(corner)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addWidget(self.strip)
        left.addLayout(lower, 1)
        beside(self, left, self.heading, self.count, self.list)
        self.strip.section_chosen.connect(self.choose)
        self.strip.edge_moved.connect(self.edge_moved)
        self.table.bar_chosen.connect(self.bar_chosen)
        self.map.pair_chosen.connect(self.pair_chosen)
        session.watch(self.refresh, *MUSIC)
        session.watch(self.table.update, "selection")
        self._differences: Differences | None = None
        self._job: Handle | None = None
        self.set_theme(theme)

    def _go_to_section(self, index: int) -> None:
        """Choose a section and put the playhead at its start."""
        song = self.session.song
        if song is not None and index < len(song.sections):
            self.choose(index)
            self.session.select(song.sections[index].start)
            self.strip.seek_wanted.emit(song.grid.clock(song.sections[index].start))

    def _show_order(self, song: Song) -> None:
        ink = self.theme.colour("ink").name()
        links = [
            f'<a href="{step.sections[0]}" style="color:{ink}; text-decoration:none">{html.escape(step.text)}</a>'
            for step in order(song)
        ]
        self.order.setText(" · ".join(links))

    def set_clock(self, seconds: float | None) -> None:
        self.strip.set_clock(seconds)

    def set_theme(self, theme: Theme) -> None:
        self.theme = self.strip.theme = self.table.theme = self.map.theme = theme
        self.heading.setFont(theme.serif(13, bold=True))
        self.order.setFont(theme.serif(11))
        for small in (self.count, self.folded, self.map_words):
            small.setFont(theme.sans(9))
        delegate = self.list.itemDelegate()
        if isinstance(delegate, TwoLines):
            delegate.theme = theme
        self.update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        song = self.session.song
        if song is not None:
            self.strip.chosen = song.section_index(self.session.selection.caret)
        self.refresh()

    def refresh(self) -> None:
        """Show the song; what differs is worked out beside the window, once for a song."""
        song, evidence = self.session.song, self.session.evidence
        if song is None or not self.isVisible():
            return
        self.strip.chosen = min(self.strip.chosen, len(song.sections) - 1)
        self._show_order(song)
        parts = folding.page(song)
        words = [
            " – ".join(
                [
                    folding.part_words(song, parts, part),
                    *gestures(song, part.sections[-1]),
                    *voiced(song, part.sections),
                ]
            )
            for part in parts
        ]
        self.folded.setText(tr("Folded: ") + "  ·  ".join(words))
        if self._differences is not None and self._differences.song is not song:
            self._differences = None
        if self._differences is None:
            level = self.strip.level  # what was worked out for a song with other bars is of no use
            if level is not None and self.map.lead + len(level) != len(song.grid.bars):
                self.strip.level = self.map.matrix = None
            self._compare(song, evidence)
        self._show()

    @property
    def comparing(self) -> bool:
        return self._job is not None

    def _compare(self, song: Song, evidence: Evidence | None) -> None:
        if self._job is not None:
            self._job.cancel()
            self._job = None
        if evidence is None:
            return

        def done(made: Differences) -> None:
            self._job = None
            if self.session.song is song:
                self._differences = made
                self.strip.level = made.described.level
                self.map.matrix, self.map.lead = made.alike, made.lead
                self._show()

        def failed(words: str) -> None:
            self._job = None
            self.count.setText(tr("could not be compared"))
            self.count.setToolTip(words)

        job = self.session.jobs.start(Comparing(song, evidence), done, failed)
        if self._differences is None:  # it was not done at once
            self._job = job

    def _show(self) -> None:
        song, made = self.session.song, self._differences
        if song is None:
            return
        self.found = made.all() if made is not None else []
        self.list.clear()
        for found in self.found:
            name = song.sections[found.section].title
            item = QListWidgetItem(f"{found.words}\n{name} {song.pass_number(found.section)}{_sureness(found)}")
            item.setToolTip(found.words)
            self.list.addItem(item)
        count = tr("{count} places", count=len(self.found)) if len(self.found) != 1 else tr("1 place")
        self.count.setText(tr("comparing …") if self.comparing else count)
        self.list.setVisible(bool(self.found))
        self._show_passes()

    def choose(self, section: int) -> None:
        """Show a section's passes, and select its bars: what is looped or named next is what is seen."""
        self.strip.chosen = section
        song = self.session.song
        bars = song.section_bars(section) if song is not None else range(0)
        if song is not None and len(bars):
            self.session.select(song.grid.bar_range(bars[0])[0], bars[0], bars[-1])
        self._show_passes()

    def _show_passes(self) -> None:
        song = self.session.song
        if song is None:
            return
        if self._differences is not None:
            self.table.passes = self._differences.of(self.strip.chosen)
        else:
            self.table.passes = passes(song, self.strip.chosen)
        self.table.update()
        self.strip.update()
        self.map.update()

    def _difference(self, item: QListWidgetItem) -> None:
        found = self.found[self.list.row(item)]
        song = self.session.song
        if song is None:
            return
        self.choose(found.section)
        if found.bar is not None and found.twin is not None:
            self.pair_chosen.emit(found.twin, found.bar)
        else:
            self.bar_chosen.emit(found.bar if found.bar is not None else found.twin or 0)
