"""Figures of a strumming hand: what is struck in the slots of a bar, as letters.

``D`` and ``U`` are strokes down and up, small where they are soft, ``x`` one that is muted, ``-`` none: the sound before goes
on. A bar's beats have equally many slots: two for eighths, four for sixteenths, three or six in dotted beats.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

LETTERS = "DdUux-"
STRUCK = "DdUux"
SLOTS = (1, 2, 3, 4, 6)  # of a beat


@dataclass(frozen=True)
class Strummed:
    """What is heard of the strumming hand: for each bar its letters, "" where that is not known, and ``sure`` of it (the
    share of its strokes that is probably right). ``swing`` is where the off-beat lies in a beat; ``hidden`` are bars in which
    somebody seems to strum, but others hide it."""

    bars: tuple[str, ...] = ()
    sure: tuple[float, ...] = ()
    swing: float = 0.5
    hidden: frozenset[int] = frozenset()

    def of(self, bar: int) -> str:
        """What is heard in a bar; "" also where there is no such bar, as after the count changed."""
        return self.bars[bar] if bar < len(self.bars) else ""


def read_figure(text: object) -> str:
    """A figure as somebody typed it, spaces and bar lines left out; raises ValueError with a sentence."""
    if not isinstance(text, str):
        raise ValueError("a figure is a text")
    made = "".join(
        text.replace("|", "").replace(".", "-").replace("↓", "D").replace("↑", "U").replace("_", "-").split()
    )
    made = made.replace("X", "x")
    strange = sorted(set(made) - set(LETTERS))
    if strange or not made:
        raise ValueError(f"A figure is written with {', '.join(LETTERS)}, as D-dU-Udu.")
    if len(made) > 192:
        raise ValueError("No bar has so many strokes.")
    return made


def fits(text: str, beats: int) -> bool:
    """Whether a figure divides a bar of so many beats evenly."""
    return bool(text) and beats > 0 and len(text) % beats == 0 and len(text) // beats in SLOTS


def plainest(text: str, beats: int) -> str:
    """The same figure with as few slots as it takes."""
    for slots in SLOTS:
        step, odd = divmod(len(text), beats * slots)
        if not odd and step > 0 and all(x == "-" for k, x in enumerate(text) if k % step):
            return text[::step]
    return text


def places(text: str, beats: int, swing: float = 0.5) -> list[tuple[Fraction, str]]:
    """(beats from the bar's start, letter) of the strokes; with a swing the off-beats of four or two slots are moved."""
    slots = len(text) // beats
    late = Fraction(swing).limit_denominator(100)
    moved: Sequence[Fraction] = [Fraction(k, slots) for k in range(slots)]
    if slots == 2:
        moved = [Fraction(0), late]
    elif slots == 4:
        moved = [Fraction(0), late / 2, late, (1 + late) / 2]
    return [(k // slots + moved[k % slots], x) for k, x in enumerate(text) if x in STRUCK]


def usual(figures: Sequence[str]) -> str:
    """The figure that most bars have, "" where none has one."""
    known = [f for f in figures if f]
    return max(known, key=lambda f: (known.count(f), -known.index(f))) if known else ""
