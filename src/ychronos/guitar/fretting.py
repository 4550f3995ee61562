"""A shape that somebody chose for a chord, with the instrument that it is meant for.

It holds on that instrument only: with another capo or another tuning the same frets would be another chord. When the
instrument comes back, so does the shape.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..theory.chord import Chord, parse_harte
from .fingering import THUMB, Shape, parse_shape, shape_text

HIGHEST_FRET = 24


@dataclass(frozen=True)
class Fretting:
    """``shape`` for a ``chord`` that sounds, relative to the capo; ``fingers`` as chosen, () where nobody said."""

    chord: Chord
    shape: Shape
    strings: tuple[int, ...]
    capo: int
    fingers: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if self.chord.root is None:
            raise ValueError("silence has no shape")
        if len(self.shape) != len(self.strings):
            raise ValueError("a shape has a fret or an x for every string")
        if not any(f is not None for f in self.shape):
            raise ValueError("a shape plays at least one string")
        if not all(f is None or 0 <= f <= HIGHEST_FRET for f in self.shape):
            raise ValueError(f"frets go up to {HIGHEST_FRET}")
        if self.fingers and (len(self.fingers) != len(self.shape) or not all(0 <= f <= THUMB for f in self.fingers)):
            raise ValueError("fingers are 1 to 4, or 5 for the thumb, one for each string")
        if not 4 <= len(self.strings) <= 12 or not all(10 <= n <= 100 for n in self.strings):
            raise ValueError("an instrument has 4 to 12 strings")

    @property
    def about(self) -> tuple[Chord, tuple[int, ...], int]:
        """What it speaks of: another shape for the same takes its place."""
        return self.chord, self.strings, self.capo

    def plain(self) -> dict[str, Any]:
        """As plain data for files."""
        out: dict[str, Any] = {
            "chord": self.chord.harte(),
            "frets": shape_text(self.shape),
            "strings": list(self.strings),
            "capo": self.capo,
        }
        if self.fingers:
            out["fingers"] = list(self.fingers)
        return out


def read_fretting(value: object) -> Fretting:
    """From plain data; raises ValueError or TypeError where it is none."""
    if not isinstance(value, Mapping):
        raise ValueError("a shape is an object with a chord, frets, strings and a capo")
    strings, fingers, capo = value.get("strings"), value.get("fingers", []), value.get("capo", 0)
    if not isinstance(strings, list) or not all(isinstance(n, int) for n in strings):
        raise ValueError("the strings of a shape are a list of notes")
    if not isinstance(fingers, list) or not all(isinstance(n, int) for n in fingers):
        raise ValueError("the fingers of a shape are a list of numbers")
    if not isinstance(capo, int) or not 0 <= capo <= HIGHEST_FRET:
        raise ValueError("a capo is a fret")
    chord, frets = value.get("chord"), value.get("frets")
    if not isinstance(chord, str) or not isinstance(frets, str):
        raise ValueError("a shape has a chord and frets")
    return Fretting(parse_harte(chord), parse_shape(frets, len(strings)), tuple(strings), capo, tuple(fingers))
