"""What a user says of lines: notes on strings, found in the record or typed, each at its place."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from ...guitar import tab
from ...tongue import tr
from .. import statements as said
from ..grid import Position
from ..linenotes import LANES, LONGEST, SIGNS, LineNote
from ..model import Song
from ..statements import Statement
from .common import Edited, EditError, told

SLOT = Fraction(1, 48)  # of a beat: places are kept no finer
USUAL = Fraction(1, 2)  # beats of a note that is typed


@dataclass(frozen=True)
class HeardNote:
    """A note to be laid on strings: place and length in beats, MIDI number, sign, how sure, what it may be instead."""

    at: Position
    length: Position
    note: int
    sign: str = ""
    sure: float = 1.0
    rivals: tuple[int, ...] = ()


def _those(song: Song, start: Position, end: Position, lane: int) -> list[Statement]:
    return [s for s in said.of(song.statements, "line") if s.value.lane == lane and start <= s.at < end]


def _find(song: Song, at: Position, string: int, lane: int) -> Statement:
    for s in said.of(song.statements, "line"):
        if s.at == at and s.value.about == (lane, string):
            return s
    raise EditError(tr("No note of a line begins at this place."))


def _nearest_free(song: Song, old: Statement, note: int, step: int = 0) -> int | None:
    """The string nearest to a note's own that has ``note`` and on which nothing else of its line begins there: its own too, or those
    above (1) or below (-1) only; None where there is none."""
    lane, own, guitar = old.value.lane, old.value.string, song.guitar
    beside = [s.value.string for s in said.of(song.statements, "line") if s.at == old.at and s.value.lane == lane]
    taken = set(beside) - {own}
    found = [s.string for s in tab.spots(note + guitar.moved, guitar.strings, guitar.capo) if s.string not in taken]
    if step:
        found = [k for k in found if (k - own) * step > 0]
    return min(found, key=lambda k: abs(k - own), default=None)


def _within(song: Song, at: Position) -> Position:
    slot = Fraction(round(at / SLOT)) * SLOT
    return max(Fraction(0), min(slot, song.grid.end - Fraction(1, 8)))


def put_line(
    song: Song, start: Position, end: Position, notes: Iterable[HeardNote], lane: int = 0, near: int | None = None
) -> Edited:
    """A line from ``start`` up to ``end`` instead of what stood there, on the strings by least effort; ``near`` is the fret where
    the hand is wanted.

    Raises
    ------
    EditError
        when no note of it can be played on the guitar as it is set up.
    """
    groups: dict[Position, list[HeardNote]] = {}
    for one in sorted(notes, key=lambda n: (n.at, n.note)):
        groups.setdefault(_within(song, one.at), []).append(one)
    guitar = song.guitar
    asked = [(song.grid.clock(at), [n.note + guitar.moved for n in some]) for at, some in groups.items()]
    signs = [some[0].sign for some in groups.values()]
    placed = tab.place(asked, guitar.strings, guitar.capo, near, signs)
    new: list[Statement] = []
    for (at, some), way in zip(groups.items(), placed, strict=True):
        for spot in way:
            sounds = guitar.strings[spot.string] + guitar.capo + spot.fret - guitar.moved
            one = next(n for n in some if n.note == sounds)
            length = max(SLOT, min(one.length, LONGEST, song.grid.end - at))
            new.append(
                Statement(
                    "line", at, value=LineNote(length, one.note, spot.string, one.sign, one.sure, lane, one.rivals)
                )
            )
    if not new:
        raise EditError(tr("No note of a line was found there that this guitar can play."))
    return told(song, tr("{count} notes of a line", count=len(new)), *new, gone=_those(song, start, end, lane))


def set_fret(song: Song, at: Position, string: int, fret: int, lane: int = 0) -> Edited:
    """The fret of a note on a string; where none begins there, a note is added.

    Raises
    ------
    EditError
        when there is no such string or fret.
    """
    guitar = song.guitar
    if not 0 <= string < len(guitar.strings):
        raise EditError(tr("This guitar has {count} strings.", count=len(guitar.strings)))
    if not 0 <= fret <= tab.FRETS - guitar.capo:
        raise EditError(tr("Frets go from 0 to {frets} here.", frets=tab.FRETS - guitar.capo))
    if not 0 <= lane < LANES:
        raise EditError(tr("There are {lanes} lines at once at most.", lanes=LANES))
    sounds = guitar.strings[string] + guitar.capo + fret - guitar.moved
    at = _within(song, at)
    try:
        old = _find(song, at, string, lane)
    except EditError:
        later = [s.at for s in said.of(song.statements, "line") if s.value.lane == lane and s.at > at]
        length = min(USUAL, min(later, default=song.grid.end) - at, song.grid.end - at)
        made = LineNote(max(SLOT, length), sounds, string, lane=lane)
    else:
        made = replace(old.value, note=sounds, sure=1.0)
    return told(
        song, tr("fret {fret} at {beat}", fret=fret, beat=song.grid.beat_name(at)), Statement("line", at, value=made)
    )


def other_string(song: Song, at: Position, string: int, lane: int = 0, step: int = 1) -> Edited:
    """The same note on the next string up (1) or down (-1) that has it and is free."""
    old = _find(song, at, string, lane)
    new = _nearest_free(song, old, old.value.note, step)
    if new is None:
        raise EditError(tr("No higher string has this note.") if step > 0 else tr("No lower string has this note."))
    made = replace(old.value, string=new, sure=1.0)
    return told(
        song, tr("string {count}", count=len(song.guitar.strings) - new), Statement("line", at, value=made), gone=[old]
    )


def next_reading(song: Song, at: Position, string: int, lane: int = 0) -> Edited:
    """What a note may be instead, in turn: the likeliest other reading takes its place, on the nearest free string."""
    old = _find(song, at, string, lane)
    if not old.value.rivals:
        raise EditError(tr("This note has no other reading."))
    order = [*old.value.rivals, old.value.note]
    note, rest = order[0], order[1:]
    new = _nearest_free(song, old, note)
    if new is None:
        raise EditError(tr("The other reading lies on no free string."))
    made = replace(old.value, note=note, string=new, rivals=tuple(rest), sure=1.0)
    words = tr("another note at {beat}", beat=song.grid.beat_name(at))
    return told(song, words, Statement("line", at, value=made), gone=[old])


def move_line_note(song: Song, at: Position, string: int, to: Position, lane: int = 0) -> Edited:
    """Let a note begin elsewhere."""
    old = _find(song, at, string, lane)
    to = _within(song, to)
    made = replace(old.value, length=min(old.value.length, song.grid.end - to), sure=1.0)
    return told(
        song, tr("a note to {beat}", beat=song.grid.beat_name(to)), Statement("line", to, value=made), gone=[old]
    )


def drop_line_note(song: Song, at: Position, string: int, lane: int = 0) -> Edited:
    old = _find(song, at, string, lane)
    return told(song, tr("a note less at {beat}", beat=song.grid.beat_name(at)), gone=[old])


def set_sign(song: Song, at: Position, string: int, sign: str, lane: int = 0) -> Edited:
    """How a note begins, one of SIGNS; the one that it has already makes it plucked again."""
    old = _find(song, at, string, lane)
    if sign not in SIGNS:
        raise EditError(tr("A note is begun as one of {values}.", values=", ".join(SIGNS.values())))
    sign = "" if sign == old.value.sign else sign
    return told(song, SIGNS[sign], Statement("line", at, value=replace(old.value, sign=sign, sure=1.0)))


def clear_line(song: Song, start: Position, end: Position, lane: int | None = None) -> Edited:
    """No line from ``start`` up to ``end``."""
    lanes: Sequence[int] = range(LANES) if lane is None else [lane]
    gone = [s for k in lanes for s in _those(song, start, end, k)]
    if not gone:
        raise EditError(tr("No line is written there."))
    return told(song, tr("{count} notes less", count=len(gone)), gone=gone)


def refret(song: Song, start: Position, end: Position, near: int | None, lanes: Sequence[int] = (0,)) -> Edited:
    """The same notes placed anew on the neck, the hand near a fret, None for wherever it is easiest."""
    made = song
    for lane in lanes:
        notes = [
            HeardNote(s.at, s.value.length, s.value.note, s.value.sign, s.value.sure, s.value.rivals)
            for s in _those(song, start, end, lane)
        ]
        if notes:
            made, _ = put_line(made, start, end, notes, lane, near)
    if made is song:
        raise EditError(tr("No line is written there."))
    return made, tr("the line near fret {near}", near=near) if near is not None else tr("the line where it is easiest")
