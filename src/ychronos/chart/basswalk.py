"""The bass where it goes its own way: notes between the chords, as somebody writes them under the bars, and what it does in words."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..guitar.instrument import BASS
from ..guitar.tab import place
from ..song.bassnotes import BassNote, played
from ..song.grid import Position
from ..song.model import Song
from ..theory.chord import Chord
from ..tongue import tr
from .tablature import in_a_row

SURE = 0.45  # a note less probable than this is not written
PARTS = 4  # of a beat: where notes are written
BASS_STRINGS = ("E", "A", "D", "G")
STEP = 2  # semitones to the next note that count as walking


@dataclass(frozen=True)
class Step:
    """A note of the bass at a place of a bar, ``name`` as the song names notes there."""

    offset: Position
    note: int
    name: str


def _chord_at(song: Song, at: Position) -> Chord:
    return song.chords[song.chord_index(at)].chord


def _notes(song: Song, bar: int) -> list[tuple[Fraction, BassNote]]:
    """(place in the bar, note) of what the bass surely plays in a bar."""
    grid = song.grid
    start, end = grid.bar_range(bar)
    out = []
    for n in played(song.bassline, grid.clock(start), grid.clock(end)):
        if n.sure >= SURE:
            offset = Fraction(round((grid.position(n.at) - float(start)) * PARTS), PARTS)
            out.append((max(Fraction(0), min(offset, end - start - Fraction(1, PARTS))), n))
    return out


def _plain(chord: Chord, note: int) -> bool:
    """Whether a note is what a bass plays anyway: the chord's bass, its root, its fifth."""
    if chord.root is None:
        return False
    return (note - chord.root) % 12 in (0, 7) or note % 12 == chord.sounding_bass


def walk(song: Song, bar: int) -> list[Step]:
    """The notes of a bar in which the bass walks: something that is neither root nor fifth, by step from its neighbour. Empty
    where it holds or alternates."""
    notes = _notes(song, bar)
    start = song.grid.bar_range(bar)[0]
    if len({n.note % 12 for _, n in notes}) < 2:
        return []
    after = _notes(song, bar + 1)[:1] if bar + 1 < len(song.grid.bars) else []
    line = [n.note for _, n in [*notes, *after]]
    walks = False
    for k, (offset, n) in enumerate(notes):
        if not _plain(_chord_at(song, start + offset), n.note):
            beside = [line[j] for j in (k - 1, k + 1) if 0 <= j < len(line)]
            walks |= any(0 < abs(n.note - b) <= STEP for b in beside)
    if not walks:
        return []
    out: list[Step] = []
    for offset, n in notes:
        if not (out and out[-1].note == n.note):
            index = song.chord_index(start + offset)
            out.append(Step(offset, n.note, song.note_name(index, n.note % 12)))
    return out


def walks(song: Song) -> dict[int, list[Step]]:
    """The bars in which the bass walks, with its notes."""
    found = {bar: walk(song, bar) for bar in range(song.grid.lead_in, len(song.grid.bars))}
    return {bar: steps for bar, steps in found.items() if steps}


def frets(song: Song, bar: int) -> str:
    """Where a walk lies on a bass in standard tuning, strings by name and frets after them: ``A3 5, D2``; "" where there is
    none, or it goes where no string reaches. The way goes on to the first note of the next bar."""
    steps = walk(song, bar)
    after = _notes(song, bar + 1)[:1] if bar + 1 < len(song.grid.bars) else []
    at = [song.grid.clock(song.grid.bar_range(bar)[0] + s.offset) for s in steps] + [n.at for _, n in after]
    notes = [*(s.note for s in steps), *(n.note for _, n in after)]
    found = place([(t, [n]) for t, n in zip(at, notes, strict=True)], BASS) if steps else []
    if not all(found):
        return ""
    return in_a_row(BASS_STRINGS, ((spot.string, str(spot.fret)) for (spot,) in found[: len(steps)]))


def words(song: Song, bar: int) -> str:
    """What the bass does in a bar: ``walks A B C into C``, ``root and fifth in turn``, ``holds A``; "" where that is not known."""
    notes = _notes(song, bar)
    if not notes:
        return ""
    steps = walk(song, bar)
    start = song.grid.bar_range(bar)[0]
    if steps:
        text = tr("walks ") + " ".join(s.name for s in steps)
        after = _notes(song, bar + 1)[:1] if bar + 1 < len(song.grid.bars) else []
        if after and after[0][1].note != steps[-1].note:
            at = song.grid.bar_range(bar + 1)[0]
            text += tr(" into {note}", note=song.note_name(song.chord_index(at), after[0][1].note % 12))
        where = frets(song, bar)
        return f"{text} ({where})" if where else text
    classes = list(dict.fromkeys(n.note % 12 for _, n in notes))
    chord = _chord_at(song, start)
    if chord.root is not None and len(classes) == 2 and {(c - chord.root) % 12 for c in classes} == {0, 7}:
        return tr("root and fifth in turn")
    if len(classes) == 1:
        return tr("holds {note}", note=song.note_name(song.chord_index(start), classes[0]))
    return ""
