"""The ground view: the facts of the record with what they were read from.

Left: where A is, as the votes of all partials over the cents between two semitones, with likely causes and how
the pitch moved. Right, over the clock: how fast the band counts, how sure each bar line is, meters and
sections. A click plays from there; a double click goes to that bar on the sheet.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFontMetricsF,
    QHideEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QShowEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from ...analysis.beats.count import beat_chances
from ...analysis.explain.causes import Cause, causes
from ...chart.facts import tuning_text, usual_meters
from ...session.choosing import Choosing
from ...session.session import MUSIC, Session
from ...song.grid import Grid
from ...song.model import Song
from ...song.words import beats_text, clock_text
from ...theory.meter import grouping_text
from ...tongue import tr
from ..guarding import painted, painting
from ..labels import Words, label
from ..soon import Soon
from ..theme import Theme
from ..timeaxis import ROUND_STEPS, TimeAxis, line_through, step_of

MARGIN, AXIS = 24.0, 52.0
TEMPO_HEIGHT, BARS_HEIGHT, STRIP = 150.0, 96.0, 26.0
SURE = 0.9  # probability below which a beat is marked
SMOOTH = 4  # beats over which the tempo curve is averaged


@dataclass(frozen=True)
class Places:
    """Where the parts of the time view are, in pixels."""

    left: float
    right: float
    tempo: QRectF
    bars: QRectF
    meters: QRectF
    sections: QRectF


def tempo_curve(song: Song) -> tuple[np.ndarray, np.ndarray]:
    """(seconds, counted beats a minute) of a song, averaged over a few beats."""
    times = np.array(song.grid.times)
    gaps = np.diff(times)
    if len(gaps) < 2:
        return times[:-1], 60 / np.maximum(gaps, 1e-3)
    span = min(SMOOTH, len(gaps))
    kernel = np.ones(span)
    mean = np.convolve(gaps, kernel, "same") / np.convolve(np.ones(len(gaps)), kernel, "same")
    return times[:-1], 60 / np.maximum(mean, 1e-3)


def tempo_words(song: Song) -> str:
    """How the tempo behaves, in a few words."""
    _, tempo = tempo_curve(song)
    usual = song.grid.tempo()
    inner = tempo[2:-2] if len(tempo) > 8 else tempo
    low, high = float(np.percentile(inner, 5)), float(np.percentile(inner, 95))
    words = tr("steady") if high - low < 0.03 * usual else tr("{low:.0f} to {high:.0f}", low=low, high=high)
    end = float(np.median(tempo[-4:]))
    if len(tempo) > 16 and end < 0.9 * usual:
        words += tr(", slows to {end:.0f} at the end", end=end)
    return words


class TimeView(TimeAxis):
    """Tempo, bars, meters and sections over the clock."""

    seek_wanted = Signal(float)
    bar_wanted = Signal(int)

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self._picture: QPixmap | None = None
        self._chances: tuple[Grid, NDArray[np.float64]] | None = None
        self.setMouseTracking(True)
        self.setMinimumHeight(420)
        self.setAccessibleName(tr("Tempo, bars, meters and sections over time"))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def places(self) -> Places:
        left, right = AXIS, self.width() - MARGIN
        width = right - left
        spare = max(0.0, self.height() - 470) / 2
        tempo = QRectF(left, 54, width, TEMPO_HEIGHT + spare)
        bars = QRectF(left, tempo.bottom() + 62, width, BARS_HEIGHT + spare * 0.5)
        meters = QRectF(left, bars.bottom() + 26, width, STRIP)
        return Places(left, right, tempo, bars, meters, QRectF(left, meters.bottom() + 18, width, 40))

    def _length(self) -> float:
        song, sound = self.session.song, self.session.recording
        if sound is not None:
            return sound.duration
        return max(song.recording.duration, song.grid.times[-1]) if song else 1.0

    def times(self) -> tuple[float, float]:
        return 0.0, self._length()

    def sides(self) -> tuple[float, float]:
        return float(AXIS), float(self.width() - MARGIN)  # asked for every beat

    def beat_chances(self, song: Song) -> NDArray[np.float64] | None:
        """Probability of each beat, kept until the grid changes; None without evidence."""
        evidence = self.session.evidence
        if evidence is None:
            return None
        if self._chances is None or self._chances[0] is not song.grid:
            self._chances = (song.grid, beat_chances(evidence.beat, np.array(song.grid.times[:-1])))
        return self._chances[1]

    # ------------------------------------------------------------ painting

    def repaint_all(self) -> None:
        """Paint anew what is kept as a picture; the playing cursor alone does not need it."""
        self._picture = None
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._picture = None
        super().resizeEvent(event)

    @painted
    def paintEvent(self, painter: QPainter, event: QPaintEvent) -> None:
        if self._picture is None:
            ratio = self.devicePixelRatioF()
            self._picture = QPixmap(self.size() * ratio)
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(self.theme.colour("paper"))
            if self.session.song is not None:
                self._paint_song(self._picture, self.session.song)
        painter.drawPixmap(0, 0, self._picture)
        place = self.places()
        self.paint_playhead(painter, place.tempo.top(), place.meters.bottom())

    def _paint_song(self, picture: QPixmap, song: Song) -> None:
        place = self.places()
        with painting(picture) as painter:
            self._tempo(painter, song, place.tempo)
            self._bars(painter, song, place.bars)
            self._meters(painter, song, place.meters)
            self._sections(painter, song, place.sections)

    def _heading(self, painter: QPainter, area: QRectF, words: str, note: str) -> None:
        font = self.theme.serif(14, bold=True)
        painter.setFont(font)
        painter.setPen(self.theme.colour("ink"))
        painter.drawText(QPointF(area.left(), area.top() - 18), words)
        x = area.left() + QFontMetricsF(font).horizontalAdvance(words) + 14
        painter.setFont(self.theme.sans(9))
        painter.setPen(self.theme.colour("faded"))
        painter.drawText(QPointF(x, area.top() - 18), note)

    def _tempo(self, painter: QPainter, song: Song, area: QRectF) -> None:
        times, tempo = tempo_curve(song)
        low, high = float(np.percentile(tempo, 1)), float(np.percentile(tempo, 99))
        middle, half = (low + high) / 2, max((high - low) / 2 * 1.25, 0.06 * song.grid.tempo())
        low, high = middle - half, middle + half
        self._heading(
            painter,
            area,
            tr("How the band moves"),
            tr("counted beats a minute: {tempo} · marks below: beats in doubt", tempo=tempo_words(song)),
        )

        def y_of(value: float) -> float:
            return area.bottom() - area.height() * (min(max(value, low), high) - low) / (high - low)

        painter.setFont(self.theme.sans(8.5))
        step = step_of(high - low, 5, ROUND_STEPS)
        for value in range(int(np.ceil(low / step)) * step, int(high) + 1, step):
            painter.setPen(QPen(self.theme.colour("edge"), 1))
            painter.drawLine(QPointF(area.left(), y_of(value)), QPointF(area.right(), y_of(value)))
            painter.setPen(self.theme.colour("faded"))
            box = QRectF(area.left() - AXIS, y_of(value) - 9, AXIS - 8, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(value))
        painter.setPen(QPen(self.theme.colour("ink"), 1.8))
        height = area.height() / (high - low)
        painter.drawLines(line_through(self.xs_of(times), area.bottom() - height * (np.clip(tempo, low, high) - low)))
        chances = self.beat_chances(song)
        if chances is not None:  # doubtful beats: a mark below the curve, the longer the less sure
            painter.setPen(QPen(self.theme.colour("doubt"), 1.6))
            under = area.bottom() + 4
            unsure = (b for b in np.flatnonzero(np.asarray(chances) < SURE).tolist() if b not in song.grid.stated_beats)
            at = ((self.x_of(song.grid.times[b]), float(chances[b])) for b in unsure)
            marks = [QLineF(x, under, x, under + 1 + 9 * (1 - chance)) for x, chance in at]
            if marks:
                painter.drawLines(marks)
        if song.grid.stated_beats:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(self.theme.colour("stated"))
            for beat in song.grid.stated_beats:
                painter.drawEllipse(QPointF(self.x_of(song.grid.times[beat]), area.bottom() + 5), 2.6, 2.6)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _bars(self, painter: QPainter, song: Song, area: QRectF) -> None:
        self._heading(painter, area, tr("Bars"), tr("height: how sure beat one is · a number: not the usual count"))
        grid = song.grid
        usual = usual_meters(song)
        painter.setFont(self.theme.sans(8.5, strong=True))
        for i, start, bar in grid.walk():
            a, b = self.x_of(grid.clock(start)), self.x_of(grid.clock(start + bar.beats))
            odd = grid.irregular(i) or bar.meter not in usual
            sure = 1.0 if bar.stated or bar.length_stated else bar.confidence
            height = max(3.0, area.height() * sure)
            box = QRectF(a + 0.8, area.bottom() - height, max(1.0, b - a - 1.6), height)
            name = "stated" if bar.stated or bar.length_stated else "doubt" if odd else "ink"
            painter.fillRect(box, self.theme.colour(name))
            if i < grid.lead_in:
                painter.fillRect(box, self.theme.colour("paper"))
                painter.setPen(QPen(self.theme.colour("faded"), 1))
                painter.drawRect(box)
            if grid.irregular(i):
                painter.setPen(self.theme.colour("doubt"))
                painter.drawText(QPointF((a + b) / 2 - 4, area.bottom() + 15), str(bar.beats))
        painter.setPen(QPen(self.theme.colour("edge"), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())

    def _meters(self, painter: QPainter, song: Song, area: QRectF) -> None:
        """Stretches of one meter, with how their beats are grouped."""
        grid = song.grid
        font = self.theme.sans(9, strong=True)
        painter.setFont(font)
        first = 0
        bars = grid.bars
        for i in range(1, len(bars) + 1):
            if i < len(bars) and bars[i].meter == bars[first].meter:
                continue
            a, b = self.x_of(grid.clock(grid.starts[first])), self.x_of(grid.clock(grid.starts[i]))
            box = QRectF(a + 0.8, area.top(), max(2.0, b - a - 1.6), area.height())
            stated = any(bar.meter_stated for bar in bars[first:i])
            painter.fillRect(box, self.theme.colour("chosen" if stated else "shelf"))
            grouping = next((bar.grouping for bar in bars[first:i] if bar.grouping), ())
            text = str(bars[first].meter) + (f"   {grouping_text(grouping)}" if grouping else "")
            painter.setPen(self.theme.colour("ink"))
            if QFontMetricsF(font).horizontalAdvance(text) + 8 < box.width():
                painter.drawText(box.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, text)
            first = i

    def _sections(self, painter: QPainter, song: Song, area: QRectF) -> None:
        font = self.theme.sans(9)
        painter.setFont(font)
        metrics = QFontMetricsF(font)
        edges = [self.x_of(song.grid.clock(s.start)) for s in song.sections] + [area.right()]
        for section, a, b in zip(song.sections, edges, edges[1:], strict=False):
            painter.setPen(QPen(self.theme.colour("ink"), 1.2))
            painter.drawLine(QPointF(a, area.top()), QPointF(a, area.top() + 16))
            painter.setPen(self.theme.colour("ink"))
            text = metrics.elidedText(section.title, Qt.TextElideMode.ElideRight, max(0.0, b - a - 8))
            painter.drawText(QPointF(a + 5, area.top() + 13), text)
        painter.setPen(self.theme.colour("faded"))
        length = self._length()
        step = step_of(length, 12)
        for second in range(0, int(length) + 1, step):
            text = clock_text(song.shown_clock(second))
            painter.drawText(QPointF(self.x_of(second), area.top() + 34), text)

    # ------------------------------------------------------------ mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.session.song is not None:
            self.seek_wanted.emit(self.seconds_at(event.position().x()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        song = self.session.song
        if song is not None:
            self.bar_wanted.emit(song.grid.bar_at(song.grid.position(self.seconds_at(event.position().x()))))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.setToolTip(self.describe(self.seconds_at(event.position().x())))

    def describe(self, seconds: float) -> str:
        """What is known at a time, in words."""
        song = self.session.song
        if song is None:
            return ""
        grid = song.grid
        bar = grid.bar_at(grid.position(seconds))
        times, tempo = tempo_curve(song)
        now = tempo[int(np.clip(np.searchsorted(times, seconds, "right") - 1, 0, len(tempo) - 1))]
        data = grid.bars[bar]
        sure = (
            tr("you stated its one")
            if data.stated
            else tr("beat one {confidence:.0%} sure", confidence=data.confidence)
        )
        chances = self.beat_chances(song)
        beat = min(max(0, int(grid.position(seconds))), grid.beat_count - 1)
        if beat in grid.stated_beats:
            sure += tr(", you stated this beat")
        elif chances is not None:
            sure += tr(", this beat {chances:.0%}", chances=chances[beat])
        return tr(
            "{clock}: bar {number}, {meter}, {beats}, {sure}; {now:.0f} a minute",
            clock=clock_text(song.shown_clock(seconds), tenths=True),
            number=grid.number(bar),
            meter=data.meter,
            beats=beats_text(data.beats),
            sure=sure,
            now=now,
        )


class Votes(QWidget):
    """The votes for where A is, cents upwards, and how the pitch moved over the record."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.setMinimumHeight(230)
        self.setAccessibleName(tr("Votes of all partials for the tuning offset, and its course over the record"))
        self.setToolTip(tr("Left: how many partials sound so many cents off. Right: the offset from start to end."))

    @painted
    def paintEvent(self, painter: QPainter, event: QPaintEvent) -> None:
        song, evidence = self.session.song, self.session.evidence
        if song is None or evidence is None:
            return
        top, bottom, left = 8.0, self.height() - 8.0, 36.0
        middle, right = left + (self.width() - left) * 0.52, self.width() - 6.0

        def y_of(cents: float) -> float:
            return bottom - (bottom - top) * (cents + 50) / 100

        painter.setFont(self.theme.sans(8.5))
        for cents in (-50, -25, 0, 25, 50):
            painter.setPen(QPen(self.theme.colour("edge"), 1))
            painter.drawLine(QPointF(left, y_of(cents)), QPointF(right, y_of(cents)))
            painter.setPen(self.theme.colour("faded"))
            box = QRectF(0, y_of(cents) - 9, left - 6, 18)
            painter.drawText(
                box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{cents:+d}" if cents else "0"
            )
        votes = evidence.tuning_histogram
        scale = (middle - left - 8) / max(1e-9, float(votes.max()))
        path = QPainterPath(QPointF(left, y_of(-50)))
        for i, value in enumerate(votes):
            path.lineTo(QPointF(left + float(value) * scale, y_of(-50 + (i + 0.5) * 100 / len(votes))))
        path.lineTo(QPointF(left, y_of(50)))
        path.closeSubpath()
        painter.fillPath(path, self.theme.colour("sound"))
        here = y_of(song.ground.cents)
        painter.setPen(QPen(self.theme.colour("stated"), 2))
        painter.drawLine(QPointF(left, here), QPointF(right, here))
        drift = evidence.tuning_drift
        if len(drift) > 1:
            length = max(1.0, song.recording.duration)
            x0 = middle + 10
            painter.setPen(QPen(self.theme.colour("ink"), 1.6))
            across = x0 + (right - x0) * drift[:, 0].astype(float) / length
            painter.drawLines(line_through(across, np.array([y_of(float(c)) for c in drift[:, 1]])))


class GroundView(QWidget):
    """See the module."""

    pitch_told = Signal(str)  # what playing at true pitch would do
    pitch_pressed = Signal()
    clock_pressed = Signal()
    guitar_pressed = Signal()
    capo_pressed = Signal(int)

    def __init__(self, session: Session, theme: Theme, choosing: Choosing) -> None:
        super().__init__()
        self.session, self.theme, self.choosing = session, theme, choosing
        self.setObjectName("ground")
        self.time = TimeView(session, theme)
        self.votes = Votes(session, theme)
        self.heading, self.value, self.steady = label(tr("Where A is")), label(), label(quiet=True)
        self.causes = [Words() for _ in range(4)]
        self.pitch = QPushButton(tr("Play it at true pitch"))
        self.pitch.setCheckable(True)
        self.pitch.clicked.connect(self.pitch_pressed)
        self.clock = QPushButton(tr("Times of the corrected record"))
        self.clock.setCheckable(True)
        self.clock.clicked.connect(self.clock_pressed)
        self.guitar = QPushButton()
        self.guitar.clicked.connect(self.guitar_pressed)
        self._capo = 0
        self.capo = QPushButton()
        self.capo.setToolTip(tr("State this capo: names and shapes follow"))
        self.capo.clicked.connect(lambda: self.capo_pressed.emit(self._capo))
        column = QVBoxLayout()
        column.setContentsMargins(22, 16, 0, 16)
        column.setSpacing(5)
        column.addWidget(self.heading)
        column.addWidget(self.value)
        for line in (self.steady, *self.causes):
            line.setWordWrap(True)
            column.addWidget(line)
        column.addWidget(self.votes, 1)
        column.addSpacing(6)
        for button in (self.pitch, self.clock, self.capo, self.guitar):
            column.addWidget(button)
        for later in (*self.causes, self.capo, self.clock):  # shown when there is something to say
            later.hide()
        side = QWidget()
        side.setLayout(column)
        side.setFixedWidth(300)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(18)
        layout.addWidget(side)
        layout.addWidget(self.time, 1)
        session.watch(Soon(self.refresh, self), *MUSIC)
        choosing.changed.connect(self.refresh)
        self.set_theme(theme)

    def set_clock(self, seconds: float | None) -> None:
        self.time.set_clock(seconds)

    def set_theme(self, theme: Theme) -> None:
        self.theme = self.time.theme = self.votes.theme = theme
        self.heading.setFont(theme.serif(14, bold=True))
        self.value.setFont(theme.sans(11))
        self.steady.setFont(theme.sans(9))
        for line in self.causes:
            line.setFont(theme.sans(9))
        self.time.repaint_all()
        self.votes.update()

    def found_causes(self) -> list[Cause]:
        song, evidence = self.session.song, self.session.evidence
        if song is None or evidence is None:
            return []
        return causes(
            song.ground.cents,
            song.ground.confidence,
            np.asarray(evidence.tuning_drift, float),
            evidence.notes,
            evidence.bass,
            song.main_key(),
            self.choosing.found if not self.choosing.weighing else (),
        )

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.choosing.want(True)
        self.refresh()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.choosing.want(False)

    def refresh(self) -> None:
        """Show the present song; while another view is shown there is nothing to do."""
        song, evidence = self.session.song, self.session.evidence
        if song is None or not self.isVisible():
            return
        ground = song.ground
        self.value.setText(
            tr("{tuning}, {confidence:.0%} sure", tuning=tuning_text(ground.cents), confidence=ground.confidence)
        )
        drift = evidence.tuning_drift if evidence is not None else np.zeros((0, 2))
        if len(drift) > 1:
            spread = float(np.ptp(drift[:, 1]))
            self.steady.setText(
                tr(
                    "{word} over the record, ± {spread:.0f} ¢",
                    word=tr("steady") if spread < 6 else tr("moves"),
                    spread=spread / 2,
                )
            )
        else:
            self.steady.setText(tr("the record is too short to tell whether its pitch moves"))
        found = self.found_causes()
        for i, line in enumerate(self.causes):
            line.setVisible(i < len(found))
            if i < len(found):
                line.setText(f"<b>{found[i].word}:</b> {found[i].sentence}")
        self.pitch.setChecked(bool(ground.tape_cents))
        self.pitch.setText(tr("Played at true pitch") if ground.tape_cents else tr("Play it at true pitch"))
        corrected = replace(ground, tape_cents=ground.cents)
        self.pitch_told.emit(tr("Play it {speed}, in tune", speed=corrected.speed_words()))
        self.pitch.setEnabled(bool(ground.tape_cents) or abs(ground.cents) >= 1)
        self.clock.setVisible(bool(ground.tape_cents))
        self.clock.setChecked(ground.corrected_clock)
        self._capo = next((c.capo for c in found if c.capo), 0)
        self.capo.setVisible(bool(self._capo) and song.guitar.usual)
        self.capo.setText(tr("Take the capo at fret {capo}", capo=self._capo))
        self.guitar.setText(tr("Guitar: {describe}", describe=song.guitar.describe()))
        self.time.repaint_all()
        self.votes.update()
