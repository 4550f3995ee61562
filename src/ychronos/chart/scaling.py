"""Which scales go with a stretch of a song: over its chords, and with the notes of a line where one is written there."""

from __future__ import annotations

from ..song.grid import Position
from ..song.model import Song
from ..theory.chord import Chord
from ..theory.scales import Fitting, fitting
from ..tongue import tr


def of_stretch(song: Song, start: Position, end: Position) -> list[Fitting]:
    """The scales, the best first."""
    line: dict[int, float] = {}
    for n in song.line:
        if start <= n.at < end:
            line[n.value.note % 12] = line.get(n.value.note % 12, 0.0) + float(n.value.length)
    return fitting(line, chords_of(song, start, end), song.key_at(start))


def chords_of(song: Song, start: Position, end: Position) -> list[tuple[Chord, float]]:
    """[(chord, beats)] of a stretch."""
    out = []
    for i in range(song.chord_index(start), len(song.chords)):
        a, b = song.chord_range(i)
        if a >= end:
            break
        out.append((song.chords[i].chord, float(min(b, end) - max(a, start))))
    return out


def scale_name(song: Song, at: Position, one: Fitting) -> str:
    """``A minor pentatonic``, its root named as the song names notes there."""
    return f"{song.shown_note(at, one.root)} {tr(one.name)}"


def fits_words(song: Song, at: Position, one: Fitting, has_line: bool) -> str:
    """How well it fits, in words."""
    names = " ".join(song.shown_note(at, n) for n in sorted(one.classes, key=lambda n: (n - one.root) % 12))
    over = (
        tr("over all chords")
        if one.chords > 0.999
        else tr("over no chord whole")
        if one.chords < 0.001
        else tr("over {chords:.0%} of the time", chords=one.chords)
    )
    notes = tr("{notes:.0%} of the line’s notes, ", notes=one.notes) if has_line else ""
    return f"{names} · {notes}{over}"
