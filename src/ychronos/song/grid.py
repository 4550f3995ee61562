"""Bars and beats, and the clock they run by.

Musical time is the master: a position is an exact number of beats (a Fraction) from the first bar line of
the grid, a pick-up or count-in bar included; the grid's beat times turn it into seconds and back by
interpolation. Before the first and after the last beat the nearest beat's length goes on.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property
from itertools import accumulate

from ..theory.meter import Meter, grouping_text
from ..tongue import tr

Position = Fraction


@dataclass(frozen=True)
class Bar:
    """One bar.

    ``beats`` are the counted beats that are there, ``first`` the number of the first of them (above 1 in a
    pick-up), ``grouping`` how they are grouped (2+2+3), empty where that is plain. What the user said:
    ``stated`` "one is here", ``length_stated`` "this bar has so many beats", ``meter_stated`` its meter.
    """

    meter: Meter
    beats: int
    first: int = 1
    confidence: float = 1.0
    stated: bool = False
    length_stated: bool = False
    meter_stated: bool = False
    grouping: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if self.beats < 1:
            raise ValueError("a bar has at least one beat")
        if self.grouping and (min(self.grouping) < 1 or sum(self.grouping) != self.beats):
            raise ValueError(f"{grouping_text(self.grouping)} does not make {self.beats} beats")

    @property
    def odd(self) -> bool:
        """Whether it has more or fewer beats than its meter says."""
        return self.beats != self.meter.beats


@dataclass(frozen=True)
class Grid:
    """Bars in order and the clock times of all beats, and of the end: ``times`` has one more entry than
    there are beats. ``lead_in`` bars at the start (pick-up, count-in), never all, carry numbers below 1; ``stated_beats``
    are the indexes of beats whose time the user stated."""

    bars: tuple[Bar, ...]
    times: tuple[float, ...]
    lead_in: int = 0
    stated_beats: frozenset[int] = frozenset()

    def __post_init__(self) -> None:
        if not self.bars:
            raise ValueError("a grid has at least one bar")
        if any(type(t) is not float for t in self.times):  # an array's own numbers cannot be written to a project
            object.__setattr__(self, "times", tuple(float(t) for t in self.times))
        if len(self.times) != self.beat_count + 1:
            raise ValueError(f"{self.beat_count} beats need {self.beat_count + 1} times, not {len(self.times)}")
        if any(b <= a for a, b in zip(self.times, self.times[1:], strict=False)):
            raise ValueError("beat times must rise")
        if not 0 <= self.lead_in <= len(self.bars):
            raise ValueError("more lead-in bars than bars")
        if self.lead_in == len(self.bars):  # a song has a bar to show
            object.__setattr__(self, "lead_in", len(self.bars) - 1)
        if self.stated_beats and not 0 <= min(self.stated_beats) <= max(self.stated_beats) < self.beat_count:
            raise ValueError("a stated beat lies outside the grid")

    @cached_property
    def starts(self) -> tuple[int, ...]:
        """Beat index of each bar's start, and the number of beats at the end."""
        return tuple(accumulate((b.beats for b in self.bars), initial=0))

    @cached_property
    def ones(self) -> tuple[int, ...]:
        """Beats that are counted one: the starts of all bars but a pick-up."""
        return tuple(s for s, b in zip(self.starts, self.bars, strict=False) if b.first == 1)

    @cached_property
    def beat_count(self) -> int:
        return sum(b.beats for b in self.bars)

    @cached_property
    def end(self) -> Position:
        return Fraction(self.beat_count)

    def bar_at(self, position: Position | float | int) -> int:
        """Index of the bar that holds a position; positions outside belong to the first or last bar."""
        return max(0, min(len(self.bars) - 1, bisect_right(self.starts, position) - 1))

    def line_near(self, position: Position, end: bool = True) -> Position:
        """The bar line nearest to a position, of two the earlier; ``end`` says whether the grid's end is one too."""
        lines = self.starts if end else self.starts[:-1]
        after = min(bisect_left(lines, position), len(lines) - 1)
        one, two = lines[max(0, after - 1)], lines[after]
        return Fraction(one if position - one <= two - position else two)

    def bar_range(self, index: int) -> tuple[Position, Position]:
        return Fraction(self.starts[index]), Fraction(self.starts[index + 1])

    def number(self, index: int) -> int:
        """The bar's number as counted: 1 for the first after the lead-in."""
        return index - self.lead_in + 1

    def irregular(self, index: int) -> bool:
        """Whether a reader must be told that this bar has more or fewer beats than its meter: a pick-up and
        a last bar in which the record ends early are not meant."""
        bar = self.bars[index]
        runs_out = index == len(self.bars) - 1 and bar.beats < bar.meter.beats
        return bar.odd and bar.first == 1 and not runs_out

    def beat_name(self, position: Position) -> str:
        """``bar 5, beat 3`` or ``bar 5, after beat 3``."""
        index = self.bar_at(position)
        beat, rest = divmod(position - self.starts[index], 1)
        word = tr("beat") if rest == 0 else tr("after beat")
        return tr(
            "bar {number}, {word} {beat}", number=self.number(index), word=word, beat=int(beat) + self.bars[index].first
        )

    def clock(self, position: Position | float) -> float:
        """Seconds at a position."""
        times, p = self.times, float(position)
        if p <= 0:
            return times[0] + p * (times[1] - times[0])
        if p >= self.beat_count:
            return times[-1] + (p - self.beat_count) * (times[-1] - times[-2])
        i = int(p)
        return times[i] + (p - i) * (times[i + 1] - times[i])

    def position(self, seconds: float) -> float:
        """Position at a time; the inverse of :meth:`clock`."""
        times = self.times
        if seconds <= times[0]:
            return (seconds - times[0]) / (times[1] - times[0])
        if seconds >= times[-1]:
            return self.beat_count + (seconds - times[-1]) / (times[-1] - times[-2])
        i = bisect_right(times, seconds) - 1
        return i + (seconds - times[i]) / (times[i + 1] - times[i])

    def tempo(self) -> float:
        """Median of counted beats per minute."""
        gaps = sorted(b - a for a, b in zip(self.times, self.times[1:], strict=False))
        return 60.0 / gaps[len(gaps) // 2]

    def usual_meter(self) -> Meter:
        """The meter that most beats are in."""
        return self._usual_meter

    @cached_property
    def _usual_meter(self) -> Meter:
        weight: dict[Meter, int] = {}
        for bar in self.bars[self.lead_in :] or self.bars:
            weight[bar.meter] = weight.get(bar.meter, 0) + bar.beats
        return max(weight, key=lambda m: weight[m])

    def with_bars(self, bars: tuple[Bar, ...], lead_in: int) -> Grid:
        return replace(self, bars=bars, lead_in=lead_in)

    def walk(self) -> Iterator[tuple[int, int, Bar]]:
        """(bar index, beat index of its start, bar)."""
        return ((i, s, b) for i, (s, b) in enumerate(zip(self.starts, self.bars, strict=False)))
