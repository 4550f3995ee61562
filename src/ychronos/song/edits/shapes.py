"""What a user can say of shapes: how a chord is held, everywhere, in one section or at one place."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

from ...guitar.fingering import shape_text
from ...guitar.fretting import Fretting
from ...tongue import mark, tr
from .. import statements as said
from ..grid import Position
from ..model import Song
from ..statements import Statement
from .common import Edited, EditError, told

Where = Literal["everywhere", "in this section", "here"]
WHERE: tuple[Where, ...] = ("everywhere", "in this section", "here")
mark("everywhere"), mark("in this section"), mark("here")


def _stretch(song: Song, index: int, where: Where) -> tuple[Position, Position]:
    if where == "everywhere":
        return Fraction(0), song.grid.end
    if where == "here":
        return song.chord_range(index)
    return song.section_range(song.section_index(song.chords[index].start))


def choose_shape(
    song: Song, index: int, shape: tuple[int | None, ...], where: Where = "everywhere", fingers: tuple[int, ...] = ()
) -> Edited:
    """Hold a chord in a shape, relative to the capo, on the guitar as it is set up; all chords of its name
    ``everywhere`` or ``in this section``, or this one ``here``."""
    span, guitar = song.chords[index], song.guitar
    if span.chord.is_none:
        raise EditError(tr("Nobody plays a chord here, so there is no shape to choose."))
    try:
        value = Fretting(span.chord.transposed(guitar.moved), shape, guitar.strings, guitar.capo, fingers)
    except ValueError as error:
        raise EditError(tr("This is no shape for the guitar as it is set up: {error}.", error=error)) from None
    start, end = _stretch(song, index, where)
    name = song.name_of(span.chord, span.start)
    return told(
        song,
        tr("{name} is held {shape} {where}", name=name, shape=shape_text(shape), where=tr(where)),
        Statement("shape", start, end, value),
    )


def forget_shape(song: Song, index: int) -> Edited:
    """Let the program choose again how a chord is held, wherever the user had said so with the same word."""
    span, guitar = song.chords[index], song.guitar
    about = (span.chord.transposed(guitar.moved), guitar.strings, guitar.capo)
    gone = [s for s in said.of(song.statements, "shape") if s.about == about and s.covers(span.start)]
    if not gone:
        raise EditError(tr("No shape was chosen for this chord."))
    return told(song, tr("no shape chosen for {name}", name=song.name_of(span.chord, span.start)), gone=gone)
