"""What a user can say about chords: small pure functions from song to song, as in :mod:`edits`."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from ..theory.chord import NO_CHORD, Chord
from .edits import Edited, EditError
from .grid import Position
from .model import ChordSpan, Song
from .passes import same_material


def state_chord(song: Song, start: Position, end: Position, chord: Chord) -> Edited:
    """State that ``chord`` sounds from ``start`` to ``end``."""
    start, end = max(Fraction(0), start), min(song.grid.end, end)
    if end <= start:
        raise EditError("There is no music at this place.")
    spans = [s for s in song.chords if s.start < start]
    spans.append(ChordSpan(start, chord, 1.0, stated=True))
    after = song.chords[song.chord_index(end)] if end < song.grid.end else None
    if after is not None:
        spans.append(replace(after, start=end))
        spans += [s for s in song.chords if s.start > end]
    name = song.name_of(chord, start)
    return with_chords(song, spans), f"{name} at {song.grid.beat_name(start)}"


def remove_chord(song: Song, index: int) -> Edited:
    """Take a chord change away: what sounds before it goes on."""
    if not 0 <= index < len(song.chords):
        raise EditError("There is no chord at this place.")
    if index == 0:
        raise EditError("The first chord has nothing before it to go on; state another chord instead.")
    gone = song.chords[index]
    name = song.chord_name(index)
    return with_chords(song, [s for i, s in enumerate(song.chords) if i != index]), (
        f"no change to {name} at {song.grid.beat_name(gone.start)}"
    )


def mark_unsure(song: Song, index: int, unsure: bool, comment: str = "") -> Edited:
    span = replace(song.chords[index], unsure=unsure, comment=comment if unsure else "")
    spans = (*song.chords[:index], span, *song.chords[index + 1 :])
    word = "unsure about" if unsure else "no longer unsure about"
    return replace(song, chords=spans), f"{word} {song.chord_name(index)} at {song.grid.beat_name(span.start)}"


def split_chord(song: Song, position: Position) -> Edited:
    """Strike the chord that sounds at a position anew there, so that the rest of it can be another."""
    index = song.chord_index(position)
    span = song.chords[index]
    if span.start >= position:
        raise EditError("The chord begins here already; put the caret where it should be divided.")
    parts = (replace(span, stated=True), replace(span, start=position, stated=True, again=True, comment="", rivals=()))
    name = song.chord_name(index)
    spans = (*song.chords[:index], *parts, *song.chords[index + 1 :])
    return replace(song, chords=spans), f"{name} struck again at {song.grid.beat_name(position)}"


def join_chord(song: Song, index: int) -> Edited:
    """The chord goes on over the one after it."""
    if index + 1 >= len(song.chords):
        raise EditError("No chord comes after this one.")
    start, chord = song.chords[index].start, song.chords[index].chord
    _, end = song.chord_range(index + 1)
    gone = song.chord_name(index + 1)
    new, _ = state_chord(song, start, end, chord)
    return new, f"{song.chord_name(index)} goes on over {gone} at {song.grid.beat_name(song.chords[index + 1].start)}"


def move_change(song: Song, index: int, by: Position) -> Edited:
    """Let a chord come earlier (``by`` < 0, a push) or later; both sides stay what they are."""
    if index == 0:
        raise EditError("The first chord begins with the song.")
    span = song.chords[index]
    before = song.chords[index - 1].start
    _, end = song.chord_range(index)
    start = span.start + by
    if not before < start < end:
        raise EditError("There is no room to move the change there: another chord is in the way.")
    spans = list(song.chords)
    spans[index] = replace(span, start=start, stated=True, confidence=1.0)
    if by > 0:  # what comes before now lasts longer, by the user's word
        spans[index - 1] = replace(spans[index - 1], stated=True, confidence=1.0)
    word = "earlier" if by < 0 else "later"
    return with_chords(song, spans), f"{song.chord_name(index)} comes {word}, at {song.grid.beat_name(start)}"


def articulate(song: Song, index: int, articulation: str) -> Edited:
    """Say that a chord is strummed on, held, or stopped."""
    span = replace(song.chords[index], articulation=articulation)
    spans = (*song.chords[:index], span, *song.chords[index + 1 :])
    return replace(
        song, chords=spans
    ), f"{song.chord_name(index)} at {song.grid.beat_name(span.start)} is {articulation}"


def silence(song: Song, start: Position, end: Position) -> Edited:
    """State that nobody plays a chord."""
    return state_chord(song, start, end, NO_CHORD)


def twins(song: Song, bar: int) -> list[int]:
    """The bars that stand at the same place in the other passes of the section that holds ``bar``."""
    grid = song.grid
    here = song.section_index(grid.bar_range(bar)[0])
    offset = bar - grid.bar_at(song.sections[here].start)
    out: list[int] = []
    for i in same_material(song, here):
        if i == here:
            continue
        start, end = song.section_range(i)
        first = grid.bar_at(start)
        last = len(grid.bars) if end >= grid.end else grid.bar_at(end)
        if first + offset < last and grid.bars[first + offset].beats == grid.bars[bar].beats:
            out.append(first + offset)
    return out


def copy_to_passes(song: Song, bars: Iterable[int]) -> Edited:
    """State the chords of bars at the same place of the section's other passes."""
    new, count, wanted = song, 0, sorted(set(bars))
    for bar in wanted:
        start, end = song.grid.bar_range(bar)
        inside = [
            (max(a, start), min(b, end), song.chords[i])
            for i in range(song.chord_index(start), len(song.chords))
            for a, b in [song.chord_range(i)]
            if a < end
        ]
        for twin in twins(song, bar):
            shift = song.grid.bar_range(twin)[0] - start
            for a, b, span in inside:
                new, _ = state_chord(new, a + shift, b + shift, span.chord)
            count += 1
    if not count:
        raise EditError("This section has no other pass with a bar at this place.")
    number = song.grid.number
    which = f"bar {number(wanted[0])}" if len(wanted) == 1 else f"bars {number(wanted[0])} to {number(wanted[-1])}"
    return new, f"chords of {which} copied to {count} bar{'s' if count > 1 else ''} of other passes"


def _goes_on(last: ChordSpan, span: ChordSpan) -> bool:
    """Whether a span says nothing that the one before does not say."""
    same = (last.chord, last.stated, last.articulation) == (span.chord, span.stated, span.articulation)
    return same and not (span.unsure or span.again or last.unsure)


def with_chords(song: Song, spans: Iterable[ChordSpan]) -> Song:
    """Chord spans set, neighbours that say the same joined unless one is marked."""
    joined: list[ChordSpan] = []
    for span in spans:
        if joined and _goes_on(joined[-1], span):
            continue
        joined.append(span)
    return replace(song, chords=tuple(joined))
