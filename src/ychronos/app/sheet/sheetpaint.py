"""Painting one row of the sheet: section, bar lines, chords, sound, bass; and what lies under it: what is selected and looped.

State is told twice, by colour and by form: stated chords have a line under them, doubtful ones a wave,
checked bars a tick, what rings has a ◊ behind it and what is cut short a •, what goes on from the bar before is faded; where passes stand under each other, bars that are
other than in the model lie on another paper under a ≠.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPainterPath, QPen

from ...chart.diagram import diagram
from ...chart.rows import bar_marks, row_clock, section_title
from ...song.bassnotes import played
from ...song.model import Song
from ...song.words import beats_text
from ...theory.meter import grouping_text
from ...tongue import tr
from ..hand.diagrams import paint_diagram
from ..theme import Theme, text_width
from .geometry import BarBox, RowBox, SheetGeometry
from .lanes import LANES
from .waveform import Waveform

CHORD_TOP = 4.0  # of a row, unscaled, as all these
CHORD_SIZE = 17.0
WAVE_CENTRE = 58.0
WAVE_HALF = 17.0
BASS_LOW, BASS_HIGH = 93.0, 81.0
BASS_FROM, BASS_RANGE = 28, 20  # MIDI note at the lowest place, semitones up to the highest
LINE_TOP, LINE_BOTTOM = 2.0, 96.0
LEAD_SHIFT = -20.0
LEAST_DIAGRAM = 0.4  # width of a diagram against its height below which it is left out


@dataclass
class View:
    """What is to be painted besides the song."""

    theme: Theme
    geometry: SheetGeometry
    waveform: Waveform | None
    bass: NDArray[np.int_] | None  # sounding bass pitch class of each beat, -1 for none
    selected: tuple[int, int] | None
    caret: Fraction | None
    chord: int | None  # the selected chord's index
    loop: tuple[int, int] | None
    focused: bool
    differs: frozenset[int] = frozenset()  # bars to point out as other than in the pass above
    shapes: bool = True  # whether the shapes of the chords are known by now


@dataclass(frozen=True)
class ChordBox:
    """Where a chord's name stands."""

    span: int
    rect: QRectF


def paint_row(painter: QPainter, song: Song, box: RowBox, view: View) -> list[ChordBox]:
    """Paint a row; returns where its chord names stand."""
    scale = view.geometry.scale
    painter.save()
    painter.translate(0, box.y)
    _label(painter, song, box, view)
    shift = LEAD_SHIFT * scale if box.row.silent else 0.0
    names: list[ChordBox] = []
    for bar in box.bars:
        _sound(painter, song, bar, view, scale, shift)
        if not box.row.silent:
            if box.above and view.shapes:
                _diagrams(painter, song, bar, view, box.above)
            names += _chords(painter, song, bar, view, scale, box.y)
            _bass(painter, song, bar, view, scale)
        for lane in LANES:
            lane.paint(painter, song, bar, view.theme, scale)
    _lines(painter, song, box, view, scale)
    painter.restore()
    return names


def paint_ground(painter: QPainter, song: Song, box: RowBox, view: View, names: Sequence[ChordBox]) -> None:
    """What lies under a row: where the caret is, what is selected, looped, other than above. It goes with every key, so the
    row over it is not painted for it. ``names`` are the chords' names as :func:`paint_row` returns them."""
    scale = view.geometry.scale
    shift = LEAD_SHIFT * scale if box.row.silent else 0.0
    painter.save()
    painter.translate(0, box.y)
    for i, bar in enumerate(box.bars):
        _ground(painter, song, bar, view, scale, shift, "" if bar.strokes or bar.tab else _note(song, bar.bar, i == 0))
    painter.restore()
    for name in names:
        if name.span == view.chord:
            painter.setPen(QPen(view.theme.colour("stated"), 1.5 if view.focused else 1.0))
            painter.setBrush(view.theme.colour("chosen"))
            painter.drawRoundedRect(name.rect, 4, 4)
            painter.setBrush(Qt.BrushStyle.NoBrush)


def _label(painter: QPainter, song: Song, box: RowBox, view: View) -> None:
    theme, scale = view.theme, min(1.15, view.geometry.scale)
    y = CHORD_TOP + 18 * scale
    left = 22.0
    room = view.geometry.rows[0].bars[0].x - left - 10
    if box.row.lead_in:
        painter.setFont(theme.serif(11.5 * scale, italic=True))
        painter.setPen(theme.colour("faded"))
        pick_up = song.grid.bars[0].first > 1
        painter.drawText(QPointF(left, y), tr("Pick-up") if pick_up else tr("Count-in"))
    elif box.row.opens:
        name, which = section_title(song, box.row.section)
        font = theme.serif(14.5 * scale, bold=True)
        painter.setFont(font)
        painter.setPen(theme.colour("ink"))
        metrics = QFontMetricsF(font)
        doubtful = song.sections[box.row.section].name_doubtful
        shown = metrics.elidedText(name, Qt.TextElideMode.ElideRight, room - (12 if doubtful else 0))
        painter.drawText(QPointF(left, y), shown)
        if doubtful:  # it may well be called otherwise
            painter.setPen(theme.colour("doubt"))
            painter.drawText(QPointF(left + metrics.horizontalAdvance(shown) + 3, y), "?")
        if which:
            y += 17 * scale
            painter.setFont(theme.sans(9 * scale))
            painter.setPen(theme.colour("faded"))
            painter.drawText(QPointF(left, y), which)
    y += 18 * scale if box.row.opens or box.row.lead_in else 0
    painter.setFont(theme.sans(9 * scale))
    painter.setPen(theme.colour("faded"))
    painter.drawText(QPointF(left, y), row_clock(song, box.row))
    if not box.row.lead_in:
        text = tr("bar {number}", number=song.grid.number(box.row.first))
        painter.drawText(QPointF(left + 38 * scale, y), text)


def _ground(painter: QPainter, song: Song, bar: BarBox, view: View, scale: float, shift: float, note: str) -> None:
    """What lies under a bar, below which ``note`` is written."""
    top, height = LINE_TOP * scale, (LINE_BOTTOM - LINE_TOP) * scale + shift
    area = QRectF(bar.x, top, bar.width, height)
    if bar.bar in view.differs:
        painter.fillRect(area, view.theme.colour("doubt_paper"))
        painter.setFont(view.theme.sans(10 * min(1.2, scale)))
        painter.setPen(view.theme.colour("doubt"))
        painter.drawText(QPointF(bar.x + bar.width - 30, top + 13 * min(1.2, scale)), "≠")
    if view.selected and view.selected[0] <= bar.bar <= view.selected[1] and view.chord is None:
        painter.fillRect(area, view.theme.colour("chosen"))
    if view.loop and view.loop[0] <= bar.bar <= view.loop[1]:
        painter.setPen(QPen(view.theme.colour("stated"), 2))
        y = top + height + 3
        written = QFontMetricsF(view.theme.sans(8 * min(1.2, scale))).horizontalAdvance(note) + 8 if note else 0.0
        painter.drawLine(QPointF(bar.x, y), QPointF(bar.x + bar.width - written, y))
        if bar.bar == view.loop[0]:
            painter.drawLine(QPointF(bar.x, y), QPointF(bar.x, y - 8))
        if bar.bar == view.loop[1]:
            painter.drawLine(QPointF(bar.x + bar.width, y), QPointF(bar.x + bar.width, y - 8))
    start = song.grid.starts[bar.bar]
    if view.caret is not None and start <= view.caret < start + bar.beats and view.chord is None:
        step = Fraction(1) if view.caret.denominator == 1 else Fraction(1, 2)
        x = bar.x_of(float(view.caret - start))
        colour = view.theme.colour("stated")
        colour.setAlpha(46 if view.focused else 26)
        painter.fillRect(QRectF(x, top, bar.x_of(float(view.caret - start + step)) - x, height), colour)


def _sound(painter: QPainter, song: Song, bar: BarBox, view: View, scale: float, shift: float) -> None:
    centre = WAVE_CENTRE * scale + shift
    painter.setPen(QPen(view.theme.colour("edge"), 1))
    opens = set(accumulate(song.grid.bars[bar.bar].grouping))
    for beat in range(1, bar.beats):
        x = bar.x_of(beat)
        longer = 4 if beat in opens else 0
        painter.drawLine(QPointF(x, centre - (WAVE_HALF + 5 + longer) * scale), QPointF(x, centre - WAVE_HALF * scale))
    start = song.grid.starts[bar.bar]
    painter.setBrush(view.theme.colour("stated"))
    for beat in range(bar.beats):
        if start + beat in song.grid.stated_beats:  # a pin where the user put a beat
            x, y = bar.x_of(beat), centre - (WAVE_HALF + 5) * scale
            painter.setPen(QPen(view.theme.colour("stated"), 1.4))
            painter.drawLine(QPointF(x, y), QPointF(x, centre + WAVE_HALF * scale))
            painter.drawEllipse(QPointF(x, y), 2.6, 2.6)
            painter.setPen(QPen(view.theme.colour("edge"), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if view.waveform is None:
        painter.drawLine(QPointF(bar.x + 4, centre), QPointF(bar.x + bar.width - 4, centre))
        return
    painter.save()
    painter.translate(0, centre)
    view.waveform.paint_bar(painter, song.grid, bar, WAVE_HALF * scale, view.theme.colour("sound"))
    painter.restore()


def _chords(painter: QPainter, song: Song, bar: BarBox, view: View, scale: float, top: float) -> list[ChordBox]:
    theme = view.theme
    marks = bar_marks(song, bar.bar)
    out: list[ChordBox] = []
    base = (CHORD_TOP + 22) * scale
    size = CHORD_SIZE * min(1.3, scale)
    for mark, following in zip(marks, [*marks[1:], None], strict=True):
        span = song.chords[mark.span]
        x = bar.x_of(float(mark.offset)) + 6
        limit = bar.x + bar.width - 4 if following is None else bar.x_of(float(following.offset)) + 2
        font = theme.serif(size, bold=mark.begins)
        text = mark.name + mark.sign
        wide = text_width(font, text)
        if wide > limit - x:
            font.setPointSizeF(max(7.5, size * max(0.3, (limit - x) / wide)))
            wide = text_width(font, text)
        metrics = QFontMetricsF(font)
        rect = QRectF(x - 3, base - metrics.ascent(), wide + 6, metrics.height() + 4)
        if mark.shape and mark.begins:  # the shape under the name of what sounds, in upright small letters
            painter.setFont(theme.sans(8 * min(1.2, scale)))
            painter.setPen(theme.colour("stated"))
            shape = text_width(painter.font(), mark.shape)
            if x + wide + 4 + shape <= limit:
                painter.drawText(QPointF(x + wide + 4, base), mark.shape)
            else:
                painter.drawText(QPointF(x, base + 12 * scale), mark.shape)
        painter.setFont(font)
        painter.setPen(theme.colour("ink" if mark.begins else "faded"))
        painter.drawText(QPointF(x, base), text)
        line = base + 5 * scale
        if span.doubtful and mark.begins:
            _wave(painter, x, x + max(wide, 14), line, theme)
        elif span.stated and mark.begins:
            painter.setPen(QPen(theme.colour("stated"), 2))
            painter.drawLine(QPointF(x, line), QPointF(x + wide, line))
        elif span.follows and mark.begins:  # led there by a statement in another pass
            painter.setPen(QPen(theme.colour("stated"), 2, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, line), QPointF(x + wide, line))
        if mark.begins:
            out.append(ChordBox(mark.span, rect.translated(0, top)))
    return out


def _diagrams(painter: QPainter, song: Song, bar: BarBox, view: View, above: float) -> None:
    """How the chords that begin in a bar are held, each over its name, as far as there is room."""
    high = above - 6.0
    widest = 0.86 * high
    marks = [m for m in bar_marks(song, bar.bar) if m.begins]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for n, mark in enumerate(marks):
        following = marks[n + 1] if n + 1 < len(marks) else None
        held = song.held[mark.span]
        if held is None:
            continue
        x = bar.x_of(float(mark.offset)) + 1
        limit = bar.x + bar.width if following is None else bar.x_of(float(following.offset))
        wide = min(widest, limit - x - 2)
        if wide < LEAST_DIAGRAM * high:
            continue
        tall = min(high, wide / 0.7)
        area = QRectF(x, -tall - 1, wide, tall)
        paint_diagram(
            painter, area, diagram(held.shape, held.fingers, song.guitar.left), view.theme, held.stated, fingers=False
        )


def _wave(painter: QPainter, left: float, right: float, y: float, theme: Theme) -> None:
    path = QPainterPath(QPointF(left, y))
    x, up = left, True
    while x < right:
        path.quadTo(QPointF(x + 1.5, y - (2.6 if up else -2.6)), QPointF(x + 3, y))
        x, up = x + 3, not up
    painter.setPen(QPen(theme.colour("doubt"), 1.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)


def _bass(painter: QPainter, song: Song, bar: BarBox, view: View, scale: float) -> None:
    """The bass of each beat, higher notes higher, with its name where it changes."""
    theme = view.theme
    start = song.grid.starts[bar.bar]
    key = song.key_at(Fraction(start))
    previous = -2
    pen = QPen(theme.colour("stated"), 2.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap)
    painter.setFont(theme.sans(7.5 * min(1.2, scale)))
    if song.bassline:
        _bass_as_played(painter, song, bar, pen, view, scale)
        return
    for beat in range(bar.beats):
        if view.bass is not None and start + beat < len(view.bass):
            note = int(view.bass[start + beat])
        else:
            sounding = song.chords[song.chord_index(Fraction(start + beat))].chord.sounding_bass
            note = -1 if sounding is None else sounding
        if note >= 0:
            height = ((note - key.tonic) % 12) / 11
            y = (BASS_LOW + (BASS_HIGH - BASS_LOW) * height) * scale
            x0, x1 = bar.x_of(beat) + 5, bar.x_of(beat + 1) - 3
            if note != previous:
                text = song.note_name(song.chord_index(Fraction(start + beat)), note)
                wide = text_width(painter.font(), text)
                if x1 - x0 > wide + 8:
                    painter.setPen(theme.colour("faded"))
                    painter.drawText(QPointF(x0, y + 3 * scale), text)
                    x0 += wide + 3
            painter.setPen(pen)
            painter.drawLine(QPointF(x0, y), QPointF(x1, y))
        previous = note


def paleness(sure: float) -> float:
    """How strongly a note of the bass is drawn, in steps: a row is not painted anew for a hundredth."""
    return round(8 * min(1.0, sure)) / 8


def _bass_as_played(painter: QPainter, song: Song, bar: BarBox, pen: QPen, view: View, scale: float) -> None:
    """Every note of the bass where it is plucked, higher ones higher, with its name where there is room; paler the less sure."""
    theme, grid = view.theme, song.grid
    start = grid.starts[bar.bar]
    begin, end = (grid.clock(p) for p in grid.bar_range(bar.bar))
    font = painter.font()
    previous = -1
    for n in played(song.bassline, begin, end):
        at = grid.position(n.at)
        x0 = bar.x_of(max(0.0, at - start)) + 4
        x1 = min(bar.x + bar.width, bar.x_of(max(0.0, grid.position(n.at + n.length) - start)) + 4) - 2.5
        y = (BASS_LOW + (BASS_HIGH - BASS_LOW) * min(1.0, max(0.0, (n.note - BASS_FROM) / BASS_RANGE))) * scale
        colour = theme.colour("stated")
        colour.setAlphaF(0.45 + 0.55 * paleness(n.sure))
        if n.note != previous:
            index = song.chords.index_at(round(64 * max(0.0, min(at, grid.beat_count - 0.01))) / 64)
            text = song.note_name(index, n.note % 12)
            wide = text_width(font, text)
            if x1 - x0 > wide + 6:
                painter.setPen(theme.colour("faded"))
                painter.drawText(QPointF(x0, y + 3 * scale), text)
                x0 += wide + 2
        pen.setColor(colour)
        painter.setPen(pen)
        painter.drawLine(QPointF(x0, y), QPointF(max(x0 + 2, x1), y))
        previous = n.note


def _lines(painter: QPainter, song: Song, box: RowBox, view: View, scale: float) -> None:
    theme = view.theme
    shift = LEAD_SHIFT * scale if box.row.silent else 0.0
    top, bottom = LINE_TOP * scale, LINE_BOTTOM * scale + shift
    strong, thin = QPen(theme.colour("ink"), 1.6), QPen(theme.colour("edge"), 1.2)
    for i, bar in enumerate(box.bars):
        data = song.grid.bars[bar.bar]
        painter.setPen(strong if i == 0 else thin)
        painter.drawLine(QPointF(bar.x, top), QPointF(bar.x, bottom))
        if data.stated:  # the user said "one is here"
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("stated"))
            painter.drawPolygon([QPointF(bar.x - 5, top - 2), QPointF(bar.x + 5, top - 2), QPointF(bar.x, top + 6)])
            painter.setBrush(Qt.BrushStyle.NoBrush)
        note = _note(song, bar.bar, i == 0)
        painter.setFont(theme.sans(8 * min(1.2, scale)))
        if note:
            painter.setPen(theme.colour("doubt"))
            under = QRectF(bar.x, bottom - 4, bar.width - 4, 14)
            # where strokes or frets begin right under the line, beside the tick above it
            area = QRectF(bar.x, top, bar.width - 18, 14) if bar.strokes or bar.tab else under
            painter.drawText(area, Qt.AlignmentFlag.AlignRight, note)
        for mark in song.marks:
            if song.grid.bar_at(mark.at) == bar.bar:
                _flag(painter, bar.x_of(float(mark.at - song.grid.starts[bar.bar])), bottom, theme)
        if song.bar_checked(bar.bar) and not box.row.lead_in:
            painter.setPen(QPen(theme.colour("stated"), 1.6))
            x, y = bar.x + bar.width - 13, top + 5
            painter.drawPolyline([QPointF(x, y), QPointF(x + 3, y + 4), QPointF(x + 9, y - 4)])
    painter.setPen(strong)
    painter.drawLine(QPointF(box.right, top), QPointF(box.right, bottom))


def _note(song: Song, index: int, opens: bool) -> str:
    """What is written under a bar of an unusual count, ``opens`` at the start of a row: ``5 beats``, ``7/8  3+2+2``."""
    data, before = song.grid.bars[index], song.grid.bars[index - 1]
    note = ""
    if song.grid.irregular(index):
        note = beats_text(data.beats)
    elif data.meter != song.grid.usual_meter() and (opens or before.meter != data.meter):
        note = str(data.meter)
    if data.grouping and (opens or before.grouping != data.grouping):
        note = f"{note}  {grouping_text(data.grouping)}".strip()
    return note


def _flag(painter: QPainter, x: float, bottom: float, theme: Theme) -> None:
    """A mark of the user's: a small flag below its beat."""
    painter.setPen(QPen(theme.colour("stated"), 1.4))
    painter.setBrush(theme.colour("stated"))
    painter.drawLine(QPointF(x + 1, bottom - 2), QPointF(x + 1, bottom + 9))
    painter.drawPolygon([QPointF(x + 1, bottom - 2), QPointF(x + 8, bottom + 1), QPointF(x + 1, bottom + 4)])
    painter.setBrush(Qt.BrushStyle.NoBrush)
