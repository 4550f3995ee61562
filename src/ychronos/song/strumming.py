"""Figures of a strumming hand: what is struck in the slots of a bar, as letters.

``D`` and ``U`` are strokes down and up, small where they are soft, ``x`` one that is muted, ``-`` none: the sound before goes
on. ``b`` is the lowest string of the shape alone, ``1`` to ``6`` one of its other strings that sound, counted from the highest. A bar's beats have equally many slots: two for eighths, four for sixteenths, three or six in dotted beats.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..tongue import tr

STROKES, PLUCKS = "DdUux", "b123456"
STRUCK = STROKES + PLUCKS
LETTERS = STRUCK + "-"
SLOTS = (1, 2, 3, 4, 6)  # of a beat


@dataclass(frozen=True)
class Strummed:
    """What is heard of the strumming hand: for each bar its letters, "" where that is not known, and ``sure`` of it (the
    share of its strokes that is probably right). ``swing`` is where the off-beat lies in a beat; ``hidden`` are bars in which
    somebody seems to strum, but others hide it; ``paired`` are bars whose strokes two guitars play, one on each side."""

    bars: tuple[str, ...] = ()
    sure: tuple[float, ...] = ()
    swing: float = 0.5
    hidden: frozenset[int] = frozenset()
    paired: frozenset[int] = frozenset()

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
    made = made.replace("X", "x").replace("B", "b")
    strange = sorted(set(made) - set(LETTERS))
    if strange or not made:
        raise ValueError(
            tr(
                "A figure is written with {letters}, as D-dU-Udu, or for plucked strings b-3-2-1-.",
                letters=", ".join(LETTERS),
            )
        )
    if len(made) > 192:
        raise ValueError(tr("No bar has so many strokes."))
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


TAPPED = (2, 4, 3)  # slots of a beat that a tapped figure may have
FINER = 0.02  # of a beat: by how much nearer taps must lie to finer slots before those are believed


def tapped(bars: Sequence[tuple[int, int]], positions: Sequence[float], swing: float = 0.5) -> str:
    """The figure of taps: ``bars`` are (first beat, beats) of those that were played, ``positions`` where the taps lie on the grid. A
    slot is struck where it was tapped in half of the bars or more; down on the beat's first half, up on its second, as the hand goes.

    "" where nothing was tapped. Bars that have not as many beats as most are left out.
    """
    if not bars:
        return ""
    lengths = [beats for _, beats in bars]
    beats = max(set(lengths), key=lengths.count)
    inside: dict[int, list[float]] = {}
    for p in positions:
        for k, (start, long) in enumerate(bars):
            if long == beats and start - 0.25 <= p < start + beats - 0.25:
                inside.setdefault(k, []).append(p - start)
    if not inside:
        return ""
    best: tuple[float, int] | None = None
    for slots in TAPPED:
        lie = [float(at) for at, _ in places("D" * (beats * slots), beats, swing)]
        off = [min(abs(x - at) for at in lie) for taps in inside.values() for x in taps]
        cost = (sum(x * x for x in off) / len(off)) ** 0.5 + FINER * (slots - 2) * 2
        if best is None or cost < best[0]:
            best = (cost, slots)
    assert best is not None
    slots = best[1]
    lie = [float(at) for at, _ in places("D" * (beats * slots), beats, swing)]
    often = [0] * len(lie)
    for taps in inside.values():
        for slot in {_nearest(lie, x) for x in taps}:
            often[slot] += 1
    need = (len(inside) + 1) // 2
    made = "".join(("D" if k == 0 else "u" if k % 2 else "d") if n >= need else "-" for k, n in enumerate(often))
    return plainest(made, beats) if set(made) != {"-"} else ""


def _nearest(places: Sequence[float], x: float) -> int:
    return min(range(len(places)), key=lambda k: abs(x - places[k]))


def usual(figures: Sequence[str]) -> str:
    """The figure that most bars have, "" where none has one."""
    known = [f for f in figures if f]
    return max(known, key=lambda f: (known.count(f), -known.index(f))) if known else ""
