"""The shapes that a chart uses, in order of appearance, for the strip on the page and the view of the hand.

Names here are those of the shapes, from the song's one naming path; two shapes of one name are told apart.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..guitar.fingering import Shape, finger, shape_text
from ..guitar.hands import Held, lost_lines
from ..guitar.instrument import GuitarSetup
from ..song.model import Song
from ..song.words import ordinal, plural
from ..theory.chord import Chord
from ..tongue import tr

MAKES_HARD = 5.0  # effort from which on a shape is called hard


@dataclass(frozen=True)
class Used:
    """A shape in use: its ``name``, the index of the chord where it comes first, how often it comes, and which shape of
    that name it is (0 where the name has one only)."""

    name: str
    held: Held
    first: int
    times: int
    which: int = 0

    @property
    def title(self) -> str:
        """``G``, ``G (2nd)``."""
        return f"{self.name} ({ordinal(self.which)})" if self.which > 1 else self.name


def used(song: Song, guitar: GuitarSetup | None = None) -> list[Used]:
    """The shapes of the song on its guitar, or on another one, in order of appearance."""
    guitar = guitar or song.guitar
    held = song.held if guitar == song.guitar else song.held_on(guitar)
    found: dict[tuple[str, Shape], list[int]] = {}
    for i, one in enumerate(held):
        if one is not None:
            found.setdefault((song.shape_name_on(guitar, i), one.shape), []).append(i)
    names = [name for name, _ in found]
    count: dict[str, int] = {}
    out = []
    for (name, _), places in found.items():
        count[name] = count.get(name, 0) + 1
        one = held[places[0]]
        assert one is not None
        out.append(Used(name, one, places[0], len(places), count[name] if names.count(name) > 1 else 0))
    return out


def line_text(song: Song, index: int, guitar: GuitarSetup, notes: Sequence[int]) -> str:
    """Notes of chords one after the other, named as their shapes are: ``B–B♭–A``."""
    return "–".join(song.shape_note_on(guitar, index + k, n) for k, n in enumerate(notes))


def remarks(song: Song, one: Used, guitar: GuitarSetup | None = None) -> list[str]:
    """What is to be said of a shape, in few words: fingers, barre, stretch, what it leaves out."""
    guitar = guitar or song.guitar
    held = one.held
    found = finger(held.shape)
    out = [shape_text(guitar.nut_frets(held.shape) if guitar.from_nut else held.shape)]
    if held.stated:
        out.append(tr("you chose it"))
    if found is None:
        out.append(tr("out of reach of one hand"))
    else:
        if held.barre:
            out.append(tr("barre over {strings}", strings=plural(held.barre, "string", "strings")))
        if held.wide:
            out.append(tr("wide stretch: warm up, and rest when it hurts"))
    if held.lost:
        out.append(
            tr("without ") + tr(" and ").join(song.shape_note_on(guitar, one.first, n) for n in sorted(held.lost))
        )
    return out


def losses(song: Song, guitar: GuitarSetup | None = None) -> list[str]:
    """What the shapes of the whole song lose against the chords, as sentences."""
    guitar = guitar or song.guitar
    held = song.held if guitar == song.guitar else song.held_on(guitar)
    chords: list[Chord] = [s.chord.transposed(guitar.moved) for s in song.chords]
    out = []
    for index, line in lost_lines(chords, held)[:3]:
        out.append(
            tr(
                "the line {line} is lost ({beat})",
                line=line_text(song, index, guitar, line),
                beat=song.grid.beat_name(song.chords[index].start),
            )
        )
    return out
