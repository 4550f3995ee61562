"""Whether somebody sings: as heard over the record's time, as said of a section."""

from __future__ import annotations

from . import statements as said
from .model import Song

NOBODY, MOSTLY = 0.08, 0.25  # share of a section's time up to which nobody sings in it, and from which on somebody does
LEAST, SHARE = 8.0, 0.15  # seconds, and share of the record, that are sung at least where it is a song with a singer


def share(song: Song, section: int) -> float:
    """Share of a section's time in which somebody sings; all or none of it where that was said."""
    stated = said.at(song.statements, "sung", song.sections[section].start)
    if stated is not None:
        return float(stated.value)
    a, b = (song.grid.clock(p) for p in song.section_range(section))
    return sum(max(0.0, min(b, y) - max(a, x)) for x, y in song.sung) / max(1e-6, b - a)


def sung_stretches(song: Song) -> list[tuple[float, float, bool]]:
    """(from, to) in seconds of what is sung, in order, and whether that was said; what was said of a section goes before what was heard."""
    spans = [(song.grid.clock(s.at), song.grid.clock(s.end), bool(s.value)) for s in said.of(song.statements, "sung")]
    left = [(a, b) for a, b in song.sung]
    for x, y, _ in spans:
        left = [(p, q) for a, b in left for p, q in ((a, min(b, x)), (max(a, y), b)) if q > p]
    return sorted([*((a, b, False) for a, b in left), *((a, b, True) for a, b, sings in spans if sings)])


def _heard(song: Song) -> bool:
    """Whether a singer was heard on the record, whatever was said."""
    return sum(b - a for a, b in song.sung) >= max(LEAST, SHARE * song.recording.duration)


def somebody(song: Song) -> bool:
    """Whether it is a song with a singer: as said, or as heard where nothing was said."""
    stated = said.of(song.statements, "sung")
    if not stated:
        return _heard(song)
    return any(s.value for s in stated) or any(share(song, i) >= MOSTLY for i in range(len(song.sections)))


def nobody_sings(song: Song, section: int) -> bool:
    """Whether a section is plainly without the singer that the song has: as said, or as heard on a record on which singers are heard
    at all - who says where one sings that was not heard has not said that nobody sings elsewhere."""
    if not somebody(song) or share(song, section) > NOBODY:
        return False
    stated = said.at(song.statements, "sung", song.sections[section].start) is not None
    return stated or _heard(song)
