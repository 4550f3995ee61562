"""Tracks: what stands on the grid in order, spans that tile it or points on it; and how it moves when the count does.

A :class:`Track` holds anything that has a ``start``. A :class:`Move` is the map of positions from one grid onto
another: what stands on a beat stays on that beat when it is the same beat, whatever its number and its time are now;
elsewhere it follows the clock. It serves everything that stands on the grid: chords, keys, sections, statements,
and what the window keeps of places: caret, loops, the trail.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from typing import Protocol, TypeVar

import numpy as np

from .grid import Grid, Position


class Placed(Protocol):
    @property
    def start(self) -> Position: ...


S = TypeVar("S", bound=Placed)
SAME_BEAT = 0.4  # of the shorter interval beside it, within which a beat counts as the same one
FINEST = 1_000_000  # parts of a beat: places that go from grid to grid would be told ever finer, beyond what files hold
AS_THE_CLOCK = Fraction(1, 5)  # beats by which an even division may be off the clock


class Track(tuple[S, ...]):
    """Items in order of their start. Of spans that tile the grid each lasts up to the next."""

    @cached_property
    def starts(self) -> tuple[Position, ...]:
        return tuple(s.start for s in self)

    @cached_property
    def floats(self) -> tuple[float, ...]:
        """The starts as floats, which compare twenty times as fast; no two positions anybody can state are so close
        that a float does not tell them apart."""
        return tuple(float(s) for s in self.starts)

    def index_at(self, position: Position | float) -> int:
        """The span that holds a position, the first one for what lies before it."""
        return max(0, bisect_right(self.floats, float(position)) - 1)

    def __reduce__(self) -> tuple[object, ...]:
        """Without what it had worked out from its items."""
        return type(self), (tuple(self),)

    def at(self, position: Position) -> S:
        return self[self.index_at(position)]

    def range_of(self, index: int, end: Position) -> tuple[Position, Position]:
        """Where a span begins and ends; the last ends at ``end``."""
        return self.starts[index], self.starts[index + 1] if index + 1 < len(self) else end

    def ranges(self, end: Position) -> Iterator[tuple[Position, Position, S]]:
        """(start, end, span) of all."""
        for i, span in enumerate(self):
            yield (*self.range_of(i, end), span)

    def touching(self, start: Position, end: Position) -> range:
        """Indexes of the spans that have a part of ``start`` .. ``end`` (exclusive)."""
        return range(self.index_at(start), max(self.index_at(start) + 1, bisect_left(self.floats, float(end))))


@dataclass(frozen=True)
class Move:
    """The map of positions from an old grid onto a new one; call it with a position. ``pairs`` are the beats that
    both have, (old index, new index), in order."""

    old: Grid
    new: Grid
    pairs: tuple[tuple[int, int], ...]

    @cached_property
    def _firsts(self) -> list[int]:
        return [i for i, _ in self.pairs]

    @cached_property
    def same(self) -> bool:
        """Whether every beat is where it was, so that no position moves."""
        return self.old.beat_count == self.new.beat_count and all(i == j for i, j in self.pairs) and (
            len(self.pairs) == self.old.beat_count + 1
        )  # fmt: skip

    def __call__(self, position: Position) -> Position:
        if self.same:
            return position
        if position <= 0 and self.pairs[:1] != ((0, 0),) and self.old.times[0] >= self.new.times[0]:
            position = Fraction(0)
        k = bisect_right(self._firsts, position) - 1
        if k >= 0 and position == self.pairs[k][0]:
            return Fraction(self.pairs[k][1])
        place = self.new.position(self.old.clock(position))
        if 0 <= k < len(self.pairs) - 1:
            (i, j), (i1, j1) = self.pairs[k], self.pairs[k + 1]
            evenly = (j + (position - i) * Fraction(j1 - j, i1 - i)).limit_denominator(FINEST)
            if i1 - i == j1 - j or abs(float(evenly) - place) < AS_THE_CLOCK:
                return evenly
        steps = self.new.bars[self.new.bar_at(place)].meter.division
        return min(max(Fraction(0), Fraction(round(place * steps), steps)), self.new.end)

    def onto_line(self, position: Position) -> Position:
        """The same for what stands on a bar line: the bar line nearest to where it would go."""
        there = self(position)
        if position not in self._old_lines or there in self._new_lines:
            return there
        return self.new.line_near(there)

    @cached_property
    def _old_lines(self) -> frozenset[int]:
        return frozenset(self.old.starts)

    @cached_property
    def _new_lines(self) -> frozenset[int]:
        return frozenset(self.new.starts)


def move(old: Grid, new: Grid) -> Move:
    """The map from one grid onto another."""
    if old.times == new.times:
        return Move(old, new, tuple((i, i) for i in range(old.beat_count + 1)))
    a, b = np.array(old.times), np.array(new.times)
    there, back = _nearest(a, b), _nearest(b, a)
    gap = np.minimum(_gaps(a), _gaps(b)[there])
    mutual = (back[there] == np.arange(len(a))) & (np.abs(a - b[there]) <= SAME_BEAT * gap)
    pairs = [(int(i), int(there[i])) for i in np.flatnonzero(mutual)]
    return Move(old, new, tuple(_filled(pairs, len(a), len(b))))


def _nearest(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """For each of ``a`` the index of the nearest of ``b``, both rising."""
    after = np.clip(np.searchsorted(b, a), 1, len(b) - 1)
    return np.asarray(np.where(a - b[after - 1] <= b[after] - a, after - 1, after), int)


def _gaps(times: np.ndarray) -> np.ndarray:
    """The shorter interval beside each time."""
    gaps = np.diff(times)
    return np.asarray(np.minimum(np.append(gaps, gaps[-1]), np.insert(gaps, 0, gaps[0])))


def _filled(pairs: list[tuple[int, int]], old: int, new: int) -> Iterable[tuple[int, int]]:
    """Pairs with the single beats between them that only moved far: one more in both, and one at either end."""
    if not pairs:
        return []
    out = [(0, 0)] if pairs[0] == (1, 1) else []
    for (i, j), (i1, j1) in zip(pairs, [*pairs[1:], (old, new)], strict=True):
        out.append((i, j))
        if i1 - i == j1 - j == 2:
            out.append((i + 1, j + 1))
    return out
