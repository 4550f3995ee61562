"""All that is in doubt in a song, of every kind in one order: what is likeliest to cost most first.

The cost of a doubt is counted in beats: how many stand under it, times how likely it is wrong, times what a wrong one of its kind spoils
of a beat. A wrong chord spoils all that is played there, a wrong count
where every chord stands, a wrong key how names are written, a wrong beginning or name of a section where one is. The weights of kinds are judgements; within a kind the order is that of the chances.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

from ..tongue import tr
from .grid import Position
from .model import Song
from .words import plural

SPOILS = {"chord": 1.0, "count": 0.5, "key": 0.3, "section": 0.3, "ring": 0.2, "cut": 0.2, "name": 0.15}
LIKELY = 0.5  # how sure a key or a beginning must be not to be in doubt


@dataclass(frozen=True)
class Doubt:
    """``kind`` is one of :data:`SPOILS`, ``index`` which chord, key or section it is, ``cost`` in beats."""

    kind: str
    index: int
    at: Position
    cost: float
    rival: str = ""  # what else it may be, where the song itself does not know


def doubts(song: Song, count: tuple[str, float] | None = None) -> list[Doubt]:
    """All doubts of a song, the most costly first; ``count`` is what else it may be counted as, and how likely that is."""
    out = []
    if count is not None:
        out.append(replace(_doubt("count", 0, Fraction(0), song.grid.end, count[1]), rival=count[0]))
    for i in song.doubts():
        span = song.chords[i]
        start, end = song.chord_range(i)
        out.append(_doubt("chord", i, start, end, 1.5 if span.unsure else 1 - span.confidence))
    for i, span in enumerate(song.chords):
        if span.ring_doubtful:
            out.append(_doubt("ring", i, *song.chord_range(i), min(span.rings, 1 - span.rings)))
        if span.cut_doubtful:
            out.append(_doubt("cut", i, *song.chord_range(i), min(span.cut, 1 - span.cut)))
    for i, key in enumerate(song.keys):
        if not key.stated and 0 < key.confidence < LIKELY:
            out.append(_doubt("key", i, *song.keys.range_of(i, song.grid.end), 1 - key.confidence))
    for i, section in enumerate(song.sections):
        start, end = song.section_range(i)
        if i and not section.stated and 0 < section.confidence < LIKELY:
            out.append(_doubt("section", i, start, end, 1 - section.confidence))
        elif section.name_doubtful and section.sure > 0:
            out.append(_doubt("name", i, start, end, 1 - section.sure))
    return sorted(out, key=lambda d: (-d.cost, d.at, d.kind))


def _doubt(kind: str, index: int, start: Position, end: Position, wrong: float) -> Doubt:
    return Doubt(kind, index, start, float(end - start) * wrong * SPOILS[kind])


def words(song: Song, doubt: Doubt) -> tuple[str, str]:
    """Two lines: what is in doubt with what it may be instead, and where it is."""
    at = song.grid.beat_name(doubt.at)
    section = song.sections[song.section_index(doubt.at)]
    if doubt.kind == "chord":
        span = song.chords[doubt.index]
        text = song.chord_name(doubt.index)
        if span.unsure:
            text += tr("  marked")
        elif span.rivals:
            text += tr(" or {name}", name=song.name_of(span.rivals[0][0], span.start))
        return text, f"{section.title}, {at}"
    if doubt.kind == "ring":
        return tr("Does {chord} ring here?", chord=song.chord_name(doubt.index)), f"{section.title}, {at}"
    if doubt.kind == "cut":
        return tr("Is {chord} cut short here?", chord=song.chord_name(doubt.index)), f"{section.title}, {at}"
    if doubt.kind == "count":
        return tr(
            "{usual_meter} at {tempo:.0f}, or {rival}",
            usual_meter=song.grid.usual_meter(),
            tempo=song.grid.tempo(),
            rival=doubt.rival,
        ), tr("the count of the whole song")
    if doubt.kind == "key":
        return tr("{key}, or another key", key=song.key_name(song.keys[doubt.index].key)), tr("from {at}", at=at)
    if doubt.kind == "section":
        bars = len(song.section_bars(doubt.index))
        return tr("Does {name} begin here?", name=section.title), f"{at}, {plural(bars, 'bar', 'bars')}"
    return tr("{name}, or called otherwise", name=section.title), tr("from {at}", at=at)


def ways_out(doubt: Doubt) -> str:
    """What one does about a doubt of that kind, in a sentence."""
    return {
        "chord": tr("Type the chord, or take one of those beside"),
        "count": tr("Hear it, and choose how it is counted"),
        "ring": tr("Say that it rings, or is played on"),
        "cut": tr("Say that it is cut short, or is played on"),
        "key": tr("State the key of this stretch, or leave it"),
        "section": tr("Begin the section here, or join it to the one before"),
        "name": tr("Name the section, or leave it"),
    }[doubt.kind]
