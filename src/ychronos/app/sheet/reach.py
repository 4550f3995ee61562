"""The sheet for who cannot see it: each bar with its chords, in words."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF

from ...chart.rows import Mark, bar_marks, section_title
from ...song.model import Song
from ...tongue import tr
from ..reachable import Part
from .geometry import BarBox, SheetGeometry


def bar_parts(song: Song, geometry: SheetGeometry, first: int, last: int, chord: int | None) -> list[Part]:
    """The bars of a sheet in its own coordinates; those from ``first`` to ``last`` are chosen, or the ``chord``."""
    out: list[Part] = []
    for row in geometry.rows:
        for bar in row.bars:
            area = QRectF(bar.x, row.y, bar.width, row.height)
            chosen = chord is None and first <= bar.bar <= last
            if row.row.silent:
                out.append(Part(tr("Count-in"), area, chosen))
            else:
                marks = bar_marks(song, bar.bar)
                parts = tuple(_chords(song, bar, area, chord, marks))
                out.append(Part(_bar_name(song, bar.bar, marks), area, chosen, parts))
    return out


def _bar_name(song: Song, bar: int, marks: list[Mark]) -> str:
    """``Verse, bar 12: Am, D7``, the section where one begins."""
    opens = song.section_bars(song.section_of_bar(bar))
    name = f"{section_title(song, song.section_of_bar(bar))[0]}, " if len(opens) and opens[0] == bar else ""
    return tr(
        "{name}bar {number}: {name2}",
        name=name,
        number=song.grid.number(bar),
        name2=", ".join(m.name for m in marks) or tr("no chord"),
    )


def _chords(song: Song, bar: BarBox, area: QRectF, chosen: int | None, marks: list[Mark]) -> list[Part]:
    out: list[Part] = []
    for k, mark in enumerate(marks):
        span = song.chords[mark.span]
        left = bar.x_of(float(mark.offset))
        right = bar.x_of(float(marks[k + 1].offset)) if k + 1 < len(marks) else bar.x + bar.width
        where = song.grid.beat_name(max(span.start, song.grid.bar_range(bar.bar)[0]))
        words = [where, tr("you stated it") if span.stated else tr("{confidence:.0%} sure", confidence=span.confidence)]
        words += [tr("in doubt")] if span.doubtful else []
        box = QRectF(left, area.top(), right - left, area.height())
        out.append(Part(mark.name, box, mark.span == chosen, description=", ".join(words)))
    return out


def moved(parts: list[Part], by: QPointF) -> list[Part]:
    """Parts somewhere else, as on a sheet that is scrolled."""
    return [
        Part(p.name, p.rect.translated(by), p.chosen, tuple(moved(list(p.parts), by)), p.description) for p in parts
    ]
