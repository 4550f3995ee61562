"""How a hand plays a shape: which finger where, barres, the thumb, the stretch, and how much effort it takes.

Conventions: a shape is one fret for each string, lowest string first, relative to the capo; 0 is the open string,
None is not played. Fingers are 1 (index) to 4, :data:`THUMB` for the thumb over the neck, 0 for none. Lengths are
millimetres on a neck of :data:`SCALE`; frets lie where equal temperament puts them, L (1 - 2^(-n/12)).

Effort is a number that grows with what a hand feels: fingers, a barre and its length, a stretch beyond that of an
open C, strings to be muted between others, the way up the neck. About 2 is an open chord, 5 a full barre, 8 is hard.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..tongue import tr

Shape = tuple[int | None, ...]
THUMB = 5
SCALE = 648.0
EASY_SPAN = 68.0  # mm from finger to finger in an open C
WIDE = 95.0  # a stretch that is marked
SAFE = 112.0  # no shape that is offered stretches further
LONG_BARRE = 5  # strings
MUTED = -1  # in arrays


@dataclass(frozen=True)
class Barre:
    fret: int
    first: int  # strings, from the lowest
    last: int

    @property
    def strings(self) -> int:
        return self.last - self.first + 1


@dataclass(frozen=True)
class Fingering:
    """``span`` in mm between the outermost fingers along the neck; ``effort`` as in the module."""

    fingers: tuple[int, ...]
    barre: Barre | None
    span: float
    effort: float

    @property
    def count(self) -> int:
        """Fingers in use, a barre as one."""
        return len({f for f in self.fingers if f})

    @property
    def wide(self) -> bool:
        return self.span > WIDE


def fret_at(fret: float | NDArray[np.float64]) -> NDArray[np.float64]:
    """mm from the nut to a fret."""
    return np.asarray(SCALE * (1 - 2.0 ** (-np.asarray(fret, float) / 12)))


@dataclass(frozen=True)
class Measured:
    """Many shapes at once: arrays of one number a shape. ``effort`` is infinite where no hand can play it."""

    effort: NDArray[np.float64]
    fingers: NDArray[np.int_]
    barre: NDArray[np.int_]  # strings under it, 0 for none
    span: NDArray[np.float64]

    def at(self, rows: Sequence[int]) -> Measured:
        pick = np.asarray(rows, int)
        return Measured(self.effort[pick], self.fingers[pick], self.barre[pick], self.span[pick])


def measure(frets: NDArray[np.int_], capo: int = 0) -> Measured:
    """Effort of shapes (n, strings) with :data:`MUTED` for strings that are not played."""
    count, strings = frets.shape
    fretted = frets > 0
    played = frets >= 0
    notes = fretted.sum(1)
    high = np.where(fretted, frets, 0).max(1)
    low = np.where(fretted, frets, 99).min(1)
    low = np.where(notes, low, 0)
    at_low = fretted & (frets == low[:, None])
    lows = at_low.sum(1)
    order = np.arange(strings)
    first = np.where(at_low, order, 99).min(1)
    last = np.where(at_low, order, -1).max(1)
    under = (order >= first[:, None]) & (order <= last[:, None])
    open_under = (under & (frets == 0)).any(1)
    possible = (lows > 1) & ~open_under
    # a barre where fingers run out, or where the index lies flat anyway
    barred = possible & ((notes > 4) | ((notes == 4) & (last - first + 1 == lows)) | (last - first >= 4))
    fingers = np.where(barred, notes - lows + 1, notes)
    # where fingers still run out, one more lies flat over strings beside each other higher up
    flat = np.zeros(count, int)
    for n in range(2, strings + 1):
        for k in range(strings - n + 1):
            side = frets[:, k : k + n]
            same = (side == side[:, :1]).all(1) & (side[:, 0] > 0) & ((side[:, 0] > low) | ~barred)
            flat = np.where(same, np.maximum(flat, n), flat)
    second = (fingers > 4) & (flat > 1)
    fingers = np.where(second, fingers - flat + 1, fingers)
    thumb = ~barred & ~second & (fingers == 5) & (frets[:, 0] > 0) & (frets[:, 0] <= low + 1)
    fingers = np.where(thumb, 4, fingers)
    length = np.where(barred, last - first + 1, 0)
    span = np.where(notes > 1, fret_at(high + capo - 0.3) - fret_at(low + capo - 0.3), 0.0)
    lowest = np.where(played, order, 99).min(1)
    highest = np.where(played, order, -1).max(1)
    inner = ((order > lowest[:, None]) & (order < highest[:, None]) & ~played).sum(1)
    effort = (
        0.55 * fingers
        + np.where(length > 0, 1.1 + 0.32 * length, 0.0)
        + np.maximum(0, span - EASY_SPAN) / 11
        + 0.012 * span
        + 0.9 * inner
        + 1.2 * thumb
        + np.where(second, 0.6 + 0.3 * flat, 0.0)
        + 0.14 * np.maximum(0, high - 4)
        + 0.10 * low
        + 0.25 * ((frets == 0).any(1) & (low > 4))
    )
    # fingers side by side on one fret crowd each other, more so up the neck
    crowd = np.where(barred, 0, np.maximum(0, lows - 2)) * (0.35 + 0.05 * low)
    effort = effort + crowd
    bad = (fingers > 4) | (span > SAFE) | ~played.any(1)
    return Measured(np.where(bad, np.inf, effort), fingers, length, span)


def as_array(shapes: Sequence[Shape]) -> NDArray[np.int_]:
    return np.array([[MUTED if f is None else f for f in s] for s in shapes], int).reshape(len(shapes), -1)


@lru_cache(maxsize=4096)
def finger(shape: Shape, capo: int = 0) -> Fingering | None:
    """The fingers for a shape, as most players would put them; None where no hand can play it."""
    return fingerings([shape], measure(as_array([shape]), capo))[0]


def fingerings(shapes: Sequence[Shape], found: Measured) -> list[Fingering | None]:
    """The same for many shapes that were measured."""
    out: list[Fingering | None] = []
    for i, shape in enumerate(shapes):
        effort, span = float(found.effort[i]), float(found.span[i])
        if effort == float("inf"):
            out.append(None)
        else:
            fingers, barre = _fingers(shape, bool(found.barre[i]))
            out.append(Fingering(fingers, barre, span, effort))
    return out


def _fingers(shape: Shape, barred: bool) -> tuple[tuple[int, ...], Barre | None]:
    fretted = [(f, s) for s, f in enumerate(shape) if f]
    fingers = [0] * len(shape)
    barre = None
    if fretted:
        low = min(f for f, _ in fretted)
        at_low = [s for f, s in fretted if f == low]
        rest = sorted((f, s) for f, s in fretted if f != low or not barred)
        if barred:
            barre = Barre(low, at_low[0], at_low[-1])
            for s in at_low:
                fingers[s] = 1
        groups = [[(f, s)] for f, s in rest]
        free = 2 if barre else 1
        if len(groups) > 5 - free:
            longest = max(_beside(rest), key=len)
            if len(longest) > 1:  # one finger lies flat over these
                groups = sorted([[x] for x in rest if x not in longest] + [longest])
            else:
                string = min(s for _, s in rest)
                fingers[string] = THUMB
                groups = [[(f, s)] for f, s in rest if s != string]
        for k, group in enumerate(groups):
            number = min(4 - (len(groups) - k - 1), max(free, 1 + group[0][0] - low))
            for _, string in group:
                fingers[string] = number
            free = number + 1
    return tuple(fingers), barre


def _beside(spots: Sequence[tuple[int, int]]) -> list[list[tuple[int, int]]]:
    """Runs of strings beside each other that are stopped at one fret."""
    runs: list[list[tuple[int, int]]] = []
    for fret, string in sorted(spots, key=lambda x: (x[0], x[1])):
        if runs and runs[-1][-1] == (fret, string - 1):
            runs[-1].append((fret, string))
        else:
            runs.append([(fret, string)])
    return runs


def shape_text(shape: Shape) -> str:
    """``x32010``; with spaces where a fret has two digits: ``x 10 12 12 11 x``."""
    parts = ["x" if f is None else str(f) for f in shape]
    return (" " if any(len(p) > 1 for p in parts) else "").join(parts)


def parse_shape(text: str, strings: int) -> Shape:
    """A shape as people type it: ``x32010``, ``x 10 12 12 11 x``, ``x-3-2-0-1-0``; mutes as x, X, m or ×.

    Raises
    ------
    ValueError
        with a sentence when the text is no shape for so many strings.
    """
    plain = text.strip().lower().replace("×", "x").replace("m", "x")
    for sign in ",-/":
        plain = plain.replace(sign, " ")
    parts = plain.split() if " " in plain else list(plain)
    if len(parts) != strings:
        raise ValueError(
            tr(
                "“{text}” names {count} strings; this instrument has {strings}.",
                text=text,
                count=len(parts),
                strings=strings,
            )
        )
    shape: list[int | None] = []
    for part in parts:
        if part == "x":
            shape.append(None)
        elif part.isascii() and part.isdigit() and int(part) <= 24:
            shape.append(int(part))
        else:
            raise ValueError(
                tr("“{part}” is no fret: a number up to 24, or x for a string that is not played.", part=part)
            )
    return tuple(shape)
