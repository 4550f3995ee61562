"""A shape as a drawing, before anybody draws it: which frets are shown, dots, barre, open and muted strings.

Screen and paper draw the same diagram from this. Conventions: strings stand beside each other, the lowest at the left, or
at the right for left-handed players; columns are counted from the left, rows from the topmost fret that is shown.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..guitar.fingering import THUMB, Shape, finger

ROWS = 4  # frets that a diagram shows at least
FROM_NUT = 4  # the highest fret of a shape that is still shown from the nut on


@dataclass(frozen=True)
class Diagram:
    """``base`` is the fret of the first row; ``nut``: a nut or capo lies above it. ``dots`` are (column, row, finger),
    ``barre`` (row, first column, last column); ``opens`` and ``mutes`` are columns."""

    columns: int
    rows: int
    base: int
    nut: bool
    dots: tuple[tuple[int, int, int], ...]
    barre: tuple[int, int, int] | None
    opens: tuple[int, ...]
    mutes: tuple[int, ...]

    @property
    def free_dots(self) -> tuple[tuple[int, int, int], ...]:
        """Dots that no barre covers."""
        if self.barre is None:
            return self.dots
        row, first, last = self.barre
        return tuple(d for d in self.dots if d[1] != row or not first <= d[0] <= last)

    def finger_text(self, number: int) -> str:
        return "T" if number == THUMB else str(number) if number else ""


def diagram(shape: Shape, fingers: Sequence[int] = (), left: bool = False) -> Diagram:
    """The drawing of a shape; ``fingers`` as somebody chose them, else as most players would."""
    count = len(shape)
    fretted = [f for f in shape if f]
    low, high = (min(fretted), max(fretted)) if fretted else (1, 1)
    base = 1 if high <= FROM_NUT else low
    rows = max(ROWS, high - base + 1)
    found = finger(shape)
    numbers = tuple(fingers) or (found.fingers if found is not None else (0,) * count)
    bar = found.barre if found is not None and not fingers else None

    def column(string: int) -> int:
        return count - 1 - string if left else string

    barre = None
    if bar is not None:
        ends = sorted((column(bar.first), column(bar.last)))
        barre = (bar.fret - base, ends[0], ends[1])
    dots = tuple(sorted((column(s), f - base, numbers[s]) for s, f in enumerate(shape) if f))
    return Diagram(
        columns=count,
        rows=rows,
        base=base,
        nut=base == 1,
        dots=dots,
        barre=barre,
        opens=tuple(sorted(column(s) for s, f in enumerate(shape) if f == 0)),
        mutes=tuple(sorted(column(s) for s, f in enumerate(shape) if f is None)),
    )
