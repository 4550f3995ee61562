"""What a user can say about chords: small pure functions from song to song, as in :mod:`edits`."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from fractions import Fraction

from ...theory.chord import Chord
from ...tongue import tr
from .. import statements as said
from ..alignment import same_material
from ..grid import Position
from ..merge import merged
from ..model import Song
from ..statements import Statement, Statements
from ..words import bars_text, plural
from .common import Edited, EditError, told

Spelling = tuple[int, int | None, int]
Piece = tuple[Position, Position, Chord, Spelling | None]  # from, to, what sounds, as typed


def with_chord(
    song: Song, statements: Statements, start: Position, end: Position, chord: Chord, spelling: Spelling | None = None
) -> Statements:
    """Statements with the newest word on the chord between two positions: what was said before of a chord, its
    spelling, a doubt or a stroke there gives way. Where the user had taken a change away and this stands in the
    midst, what went on after it goes on."""
    for s in said.of(statements, "goes on"):
        if s.at < end < s.end and s.inside(start, end):
            went_on = song.chords.at(end).chord
            statements = said.cut(statements, ["goes on"], start, s.end)
            statements = said.put(statements, Statement("chord", end, s.end, went_on))
    statements = said.cut(statements, ("chord", "goes on", "struck", "unsure", "spelling"), start, end)
    statements = said.put(statements, Statement("chord", start, end, chord))
    return said.put(statements, Statement("spelling", start, end, spelling)) if spelling else statements


def _shown(song: Song, statements: Statements) -> Song:
    return merged(replace(song, statements=statements))


def _within(song: Song, start: Position, end: Position) -> tuple[Position, Position]:
    start, end = max(Fraction(0), start), min(song.grid.end, end)
    if end <= start:
        raise EditError(tr("There is no music at this place."))
    return start, end


def state_chord(song: Song, start: Position, end: Position, chord: Chord, spelling: Spelling | None = None) -> Edited:
    """State that ``chord`` sounds from ``start`` to ``end``; ``spelling`` as it was typed."""
    start, end = _within(song, start, end)
    new = _shown(song, with_chord(song, song.statements, start, end, chord, spelling))
    return new, tr("{chord} at {beat}", chord=new.chord_name(new.chord_index(start)), beat=song.grid.beat_name(start))


def state_chords(song: Song, pieces: Sequence[Piece], words: str = "") -> Edited:
    """State several chords at once."""
    if not pieces:
        raise EditError(tr("There is no chord to state."))
    statements = song.statements
    for start, end, chord, spelling in pieces:
        start, end = _within(song, start, end)
        statements = with_chord(song, statements, start, end, chord, spelling)
    new = _shown(song, statements)
    if not words:
        first, last = (song.grid.bar_at(x) for x in (pieces[0][0], pieces[-1][1] - Fraction(1, 64)))
        where = bars_text(song.grid, first, last)
        names = [new.chord_name(new.chord_index(p[0])) for p in pieces[:4]]
        words = tr("{names}{word} in {where}", names=" ".join(names), word=" …" if len(pieces) > 4 else "", where=where)
    return new, words


def remove_chord(song: Song, index: int) -> Edited:
    """Take a chord change away: what sounds before it goes on up to the next one."""
    if not 0 <= index < len(song.chords):
        raise EditError(tr("There is no chord at this place."))
    if index == 0:
        raise EditError(tr("The first chord has nothing before it to go on; state another chord instead."))
    start, end = song.chord_range(index)
    about = ("chord", "goes on", "struck", "unsure", "spelling", "articulation")
    statements = said.cut(song.statements, about, start, end)
    new = _shown(song, said.put(statements, Statement("goes on", start, end)))
    return new, tr("no change to {chord} at {beat}", chord=song.chord_name(index), beat=song.grid.beat_name(start))


def mark_unsure(song: Song, index: int, unsure: bool, comment: str = "") -> Edited:
    """Say that a chord is in doubt, and why; or take that back."""
    start, end = song.chord_range(index)
    statements = said.cut(song.statements, ["unsure"], start, end)
    if unsure:
        statements = said.put(statements, Statement("unsure", start, value=comment))
    word = tr("unsure about") if unsure else tr("no longer unsure about")
    return _shown(song, statements), tr(
        "{word} {chord} at {beat}", word=word, chord=song.chord_name(index), beat=song.grid.beat_name(start)
    )


def split_chord(song: Song, position: Position) -> Edited:
    """Strike the chord that sounds at a position anew there, so that the rest of it can be another."""
    index = song.chord_index(position)
    start, end = song.chord_range(index)
    if start >= position:
        raise EditError(tr("The chord begins here already; put the caret where it should be divided."))
    span = song.chords[index]
    statements = song.statements
    if not span.stated:
        statements = said.cut(statements, ["goes on"], start, end)
        statements = said.put(statements, Statement("chord", start, end, span.chord))
    new = _shown(song, said.put(statements, Statement("struck", position)))
    return new, tr("{chord} struck again at {beat}", chord=song.chord_name(index), beat=song.grid.beat_name(position))


def join_chord(song: Song, index: int) -> Edited:
    """The chord goes on over the one after it."""
    if index + 1 >= len(song.chords):
        raise EditError(tr("No chord comes after this one."))
    start, chord, spelling = song.chords[index].start, song.chords[index].chord, song.chords[index].spelling
    _, end = song.chord_range(index + 1)
    gone, name = song.chord_name(index + 1), song.chord_name(index)
    new, _ = state_chord(song, start, end, chord, spelling)
    return new, tr(
        "{name} goes on over {gone} at {beat}",
        name=name,
        gone=gone,
        beat=song.grid.beat_name(song.chords[index + 1].start),
    )


def move_change(song: Song, index: int, by: Position) -> Edited:
    """Let a chord come earlier (``by`` < 0, a push) or later; both sides stay what they are."""
    if index == 0:
        raise EditError(tr("The first chord begins with the song."))
    span, last = song.chords[index], song.chords[index - 1]
    old, end = song.chord_range(index)
    start = old + by
    if not last.start < start < end:
        raise EditError(tr("There is no room to move the change there: another chord is in the way."))
    marks = [replace(s, at=start) for s in song.statements
             if s.at == old and s.kind in ("unsure", "articulation", "struck")]  # fmt: skip
    statements = said.without(song.statements, ("unsure", "articulation", "struck"), old)
    if by > 0:  # what comes before now lasts longer, by the user's word
        statements = with_chord(song, statements, last.start, start, last.chord, last.spelling)
        marks += [s for s in said.of(song.statements, "unsure", "struck") if last.start <= s.at < old]
    statements = with_chord(song, statements, start, end, span.chord, span.spelling)
    new = _shown(song, said.put(statements, *marks))
    word = tr("earlier") if by < 0 else tr("later")
    return new, tr(
        "{chord} comes {word}, at {beat}", chord=song.chord_name(index), word=word, beat=song.grid.beat_name(start)
    )


def articulate(song: Song, index: int, articulation: str) -> Edited:
    """Say that a chord is strummed on, held, or stopped."""
    start, end = song.chord_range(index)
    statements = said.cut(song.statements, ["articulation"], start, end)
    new = Statement("articulation", start, value=articulation)
    words = tr(
        "{chord} at {beat} is {articulation}",
        chord=song.chord_name(index),
        beat=song.grid.beat_name(start),
        articulation=tr(articulation),
    )
    return told(replace(song, statements=statements), words, new)


def twins(song: Song, bar: int) -> list[int]:
    """The bars that stand at the same place in the other passes of the section that holds ``bar``."""
    here = song.section_of_bar(bar)
    mine = song.section_bars(here)
    offset = bar - mine.start
    out: list[int] = []
    for i in same_material(song, here):
        theirs = song.section_bars(i)
        if (
            i != here
            and 0 <= offset < len(theirs)
            and song.grid.bars[theirs[offset]].beats == song.grid.bars[bar].beats
        ):
            out.append(theirs[offset])
    return out


def pieces_of(song: Song, bars: Iterable[int]) -> list[list[Piece]]:
    """For each bar its chords, with positions from its start."""
    out: list[list[Piece]] = []
    for bar in bars:
        start, end = song.grid.bar_range(bar)
        out.append([])
        for i in song.chords.touching(start, end):
            a, b = song.chord_range(i)
            span = song.chords[i]
            out[-1].append((max(a, start) - start, min(b, end) - start, span.chord, span.spelling))
    return out


def paste(song: Song, bar: int, copied: Sequence[Sequence[Piece]]) -> Edited:
    """State copied bars from a bar on; where a bar is shorter its last chords do not fit, where it is longer the last
    chord goes on."""
    grid = song.grid
    if not copied:
        raise EditError(tr("No bars are copied; copy some first."))
    pieces: list[Piece] = []
    for k, content in enumerate(copied):
        if bar + k >= len(grid.bars):
            break
        pieces += _into_bar(song, bar + k, content)
    last = min(len(grid.bars), bar + len(copied)) - 1
    where = bars_text(grid, bar, last)
    return state_chords(song, pieces, tr("copied chords in {where}", where=where))


def _into_bar(song: Song, bar: int, content: Sequence[Piece]) -> list[Piece]:
    start, end = song.grid.bar_range(bar)
    length = end - start
    out = [(start + a, start + min(b, length), chord, spelling) for a, b, chord, spelling in content if a < length]
    if out and out[-1][1] < end:
        out[-1] = (out[-1][0], end, *out[-1][2:])
    return out


def copy_to_passes(song: Song, bars: Iterable[int]) -> Edited:
    """State the chords of bars at the same place of the section's other passes."""
    wanted = sorted(b for b in set(bars) if 0 <= b < len(song.grid.bars))
    pieces: list[Piece] = []
    count = 0
    for bar, content in zip(wanted, pieces_of(song, wanted), strict=True):
        for twin in twins(song, bar):
            pieces += _into_bar(song, twin, content)
            count += 1
    if not count:
        raise EditError(tr("This section comes no other time with a bar at this place."))
    which = bars_text(song.grid, wanted[0], wanted[-1])
    return state_chords(
        song,
        pieces,
        tr("chords of {which} copied to {bars} of other times", which=which, bars=plural(count, "bar", "bars")),
    )
