"""Chords as people type them in a row: ``D . G A | F#m x2``.

Task: from a line of text to the chords of bars, with the spelling as typed. Conventions: ``|`` divides bars, spaces
divide chords; ``.`` is a beat on which the chord before goes on, ``%`` a bar like the one before, ``x2`` behind a bar
plays it twice in all. In a bar with as many chords and dots as it has beats each takes a beat; fewer share it evenly
where that comes out on beats, else the first take what is left; more share it in halves.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..tongue import tr, trn
from .chord import Chord, ChordError, parse_chord
from .pitch import parse_note

GOES_ON, LIKE_BEFORE = ".", "%"
_TIMES = re.compile(r"^[x×](\d{1,2})$", re.IGNORECASE)
MOST_BARS = 64
Read = Callable[[str], Chord]


@dataclass(frozen=True)
class Typed:
    """A chord as typed; ``spelling`` the fifths of its root and bass (None for the root), None where none is."""

    chord: Chord
    spelling: tuple[int, int | None] | None = None


Bar = tuple[Typed | None, ...]  # None: what sounds before goes on


def spelling_of(text: str, chord: Chord) -> tuple[int, int | None] | None:
    """Root and bass as written in a chord's name; None where it is not written with note names."""
    try:
        root = parse_note(text.strip())[0]
        bass = parse_note(text.rpartition("/")[2].strip())[0] if chord.bass is not None and "/" in text else None
    except ValueError:
        return None
    if chord.root != root.pitch_class or (None if bass is None else bass.pitch_class) != chord.bass:
        return None
    return root.fifths, None if bass is None else bass.fifths


def typed(text: str, read: Read = parse_chord) -> Typed:
    """One chord; raises ChordError with a sentence when it is none."""
    chord = read(text)
    return Typed(chord, spelling_of(text, chord))


def parse_line(text: str, read: Read = parse_chord) -> list[Bar]:
    """The bars of a line.

    Raises
    ------
    ChordError
        with one sentence that says what is not understood, and where.
    """
    parts = text.strip().strip("|").split("|")
    bars: list[Bar] = []
    for number, part in enumerate(parts, 1):
        tokens = part.split()
        repeat = _TIMES.match(tokens[-1]) if len(tokens) > 1 else None
        if repeat:
            tokens.pop()
        if not tokens:
            raise ChordError(
                tr(
                    "Bar {number} of what you typed is empty; write {like_before} for one like the one before.",
                    number=number,
                    like_before=LIKE_BEFORE,
                )
            )
        if tokens == [LIKE_BEFORE]:
            if not bars:
                raise ChordError(
                    tr("{like_before} is a bar like the one before; there is none before it.", like_before=LIKE_BEFORE)
                )
            bar = bars[-1]
        else:
            bar = tuple(None if t == GOES_ON else _one(t, read, number if len(parts) > 1 else 0) for t in tokens)
        bars += [bar] * (int(repeat[1]) if repeat else 1)
        if not 0 < len(bars) <= MOST_BARS:
            raise ChordError(tr("1 to {most_bars} bars can be typed at once.", most_bars=MOST_BARS))
    return bars


def _one(text: str, read: Read, bar: int) -> Typed:
    try:
        return typed(text, read)
    except ChordError as error:
        if not bar:
            raise
        raise ChordError(tr("Bar {bar} of what you typed: {error}", bar=bar, error=error)) from None


def is_line(text: str) -> bool:
    """Whether a text is more than one chord."""
    return "|" in text or len(text.split()) > 1 or text.strip() == LIKE_BEFORE


def shares(bar: Sequence[Typed | None], beats: int) -> list[tuple[Fraction, Fraction, Typed | None]]:
    """(offset, length, chord) of a bar's chords in beats; those that only go on are joined to what goes on.

    Raises
    ------
    ChordError
        with a sentence when there are more than two a beat.
    """
    count = len(bar)
    if count > 2 * beats:
        told = trn(
            "{count} chords do not fit into a bar of one beat.", "{count} chords do not fit into a bar of {beats} beats.",
            beats, count=count, beats=beats,
        )  # fmt: skip
        raise ChordError(told)
    if beats % count == 0:
        lengths = [Fraction(beats, count)] * count
    elif count < beats:
        lengths = [Fraction(beats // count + (k < beats % count)) for k in range(count)]
    else:  # more than beats: halves, the first ones whole where there is room
        whole = 2 * beats - count
        lengths = [Fraction(1) if k < whole else Fraction(1, 2) for k in range(count)]
    out: list[tuple[Fraction, Fraction, Typed | None]] = []
    at = Fraction(0)
    for item, length in zip(bar, lengths, strict=True):
        if item is None and out:
            out[-1] = (out[-1][0], out[-1][1] + length, out[-1][2])
        else:
            out.append((at, length, item))
        at += length
    return out
