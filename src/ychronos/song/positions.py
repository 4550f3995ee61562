"""Positions as text: fractions of beats, ``"9/2"``. What others wrote is read within bounds."""

from __future__ import annotations

import re
from fractions import Fraction

_PLACE = re.compile(r"(\d{1,18})(?:/(\d{1,9}))?", re.ASCII)
MOST_BEATS = 10**9  # no song has more


def read_position(text: object) -> Fraction:
    """The position that a text names; raises ValueError. ``1e40000000`` is none: numbers of that size would be worked
    out for hours."""
    found = _PLACE.fullmatch(text) if isinstance(text, str) else None
    if found is None or (found[2] is not None and not int(found[2])):
        raise ValueError(f"{str(text)[:40]!r} is no position")
    place = Fraction(int(found[1]), int(found[2] or 1))
    if place > MOST_BEATS:
        raise ValueError(f"{str(text)[:40]!r} lies beyond any song")
    return place
