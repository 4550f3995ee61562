"""Bars that say the same: what one bar leaves open, its likes may tell.

Method: bars are compared by the chord chances of their segments in order, with their neighbours on either side,
so that a bar is like another only where the music around them is alike too. The evidence of a bar is then
averaged with that of its few best likes, segment by segment, and only as far as both agree on the root there:
where a pass has another chord it keeps it. Bars are the unit because passes differ by whole bars.
Conventions: ``groups[bar]`` are the segments of a bar; chances (segments, chords) are probabilities.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
CONTEXT = 3  # bars to either side
ALIKE = 0.5  # likeness from which on a bar counts as a like, 1 being the same
LIKES = 4  # of each bar at most
WEIGHT = 1.5  # of a perfect like's evidence against the bar's own
AGREE = 0.3  # of the evidence of two segments, from which on a statement travels from one to the other
ECHO = 0.8  # of the evidence of two segments, from which on what is heard alike is called alike
_LEAST = 0.05


def likeness(chances: Floats, groups: Sequence[Sequence[int]]) -> tuple[Floats, list[int]]:
    """How alike the bars of the usual number of segments are, 0 .. 1 with 0 on the diagonal, and which they are.

    Bars are compared by the Bhattacharyya coefficient of their segments' chances.
    """
    usual = Counter(len(g) for g in groups).most_common(1)[0][0]
    bars = [b for b, g in enumerate(groups) if len(g) == usual]
    flat = np.sqrt(np.maximum(chances, 1e-9))[[list(groups[b]) for b in bars]].reshape(len(bars), -1)
    same = flat @ flat.T / usual
    total, weight = np.zeros_like(same), np.zeros_like(same)
    for step in range(-CONTEXT, CONTEXT + 1):
        at = np.arange(max(0, -step), min(len(bars), len(bars) - step))
        share = 1 / (1 + abs(step))
        total[np.ix_(at, at)] += share * same[np.ix_(at + step, at + step)]
        weight[np.ix_(at, at)] += share
    total /= np.maximum(weight, 1e-9)
    np.fill_diagonal(total, 0)
    return total, bars


@dataclass(frozen=True)
class Likes:
    """Which bars are alike: ``weight`` (n, n) 0 .. 1 of the bars ``bars``, and the segments of each bar."""

    weight: Floats
    bars: list[int]
    groups: Sequence[Sequence[int]]

    def of(self, place: int) -> list[int]:
        """The best likes of the bar at a place in ``bars``, as places."""
        row = self.weight[place]
        return [int(j) for j in np.argsort(-row)[:LIKES] if row[j] > _LEAST]


def find(chances: Floats, groups: Sequence[Sequence[int]]) -> Likes:
    """The likes of all bars by their chord chances (segments, chords)."""
    same, bars = likeness(chances, groups)
    return Likes(np.clip((same - ALIKE) / (1 - ALIKE), 0, 1), bars, groups)


Twins = Mapping[int, Collection[tuple[int, int]]]


def travel(
    likes: Likes, chances: Floats, stated: Mapping[int, int], twins: Twins, higher: Callable[[int, int], int]
) -> list[tuple[int, int, float]]:
    """Where statements lead to: (segment, state, how strongly 0 .. 1) at the same place of other passes.

    A statement travels as far as the evidence of both segments agrees: what sounded the same and was misheard once
    was misheard there too. ``stated`` gives the state of stated segments, ``twins`` the bars that stand at the
    same place in the other passes of the section of a bar, with the semitones they are higher; ``higher(state,
    semitones)`` is the same chord there.
    """
    place_of = {b: i for i, b in enumerate(likes.bars)}
    root = np.sqrt(np.maximum(chances, 1e-9))
    out: list[tuple[int, int, float]] = []
    for bar, others in twins.items():
        mine = list(likes.groups[bar])
        for other, up in others:
            theirs = list(likes.groups[other])
            if len(mine) != len(theirs):
                continue
            known = bar in place_of and other in place_of
            weight = float(likes.weight[place_of[bar], place_of[other]]) if known else 0.0
            for here, there in zip(mine, theirs, strict=True):
                if here in stated and there not in stated:
                    agree = float((moved_up(root[here], up) * root[there]).sum())
                    if agree >= AGREE:
                        out.append((there, higher(stated[here], up), (0.5 + 0.5 * weight) * agree))
    return out


def moved_up(chances: Floats, up: int) -> Floats:
    """Chances of chords (..., 12 for each quality, then none) as they are so many semitones higher."""
    if not up:
        return chances
    whole = chances.shape[-1] // 12 * 12
    pitched = chances[..., :whole].reshape(*chances.shape[:-1], -1, 12)
    return np.concatenate([np.roll(pitched, up, axis=-1).reshape(*chances.shape[:-1], whole), chances[..., whole:]], -1)


def echo(
    chances: Floats, free: NDArray[np.int_], stated: Mapping[int, int], renames: Callable[[int, int], bool]
) -> list[tuple[int, int, float]]:
    """Where else in the song a statement is told to hold: (segment, state, how strongly 0 .. 1).

    What the program hears as one chord and the user calls another of the same sound (``renames(heard, called)``) is
    called so wherever it hears the same and the evidence hardly differs. ``free`` (segments,) are the states it
    would decide itself; a statement that confirms one of them keeps its likes from being called otherwise.
    """
    root = np.sqrt(np.maximum(chances, 1e-9))
    out: list[tuple[int, int, float]] = []
    said = np.array(sorted(stated), int)
    for heard in np.unique(free[said]) if len(said) else ():
        here = said[free[said] == heard]
        called = np.array([stated[int(s)] for s in here])
        there = np.setdiff1d(np.flatnonzero(free == heard), said)
        if not len(there) or (called == heard).all():
            continue
        agree = root[there] @ root[here].T
        best = agree.argmax(1)
        for k, segment in enumerate(there):
            state, much = int(called[best[k]]), float(agree[k, best[k]])
            if state != heard and much >= ECHO and renames(int(heard), state):
                out.append((int(segment), state, much))
    return out


def pool(score: Floats, chances: Floats, roots: NDArray[np.int_], likes: Likes) -> Floats:
    """Log scores (segments, chords), averaged among bars that are alike. ``chances`` are those of the chords by
    the bars' own evidence, ``roots`` (chords,) says which chords have the same root."""
    weight, bars, groups = likes.weight, likes.bars, likes.groups
    by_root = np.stack([chances[:, roots == r].sum(1) for r in np.unique(roots)], 1)
    root = np.sqrt(np.maximum(by_root, 1e-9))
    out = score.copy()
    for i, bar in enumerate(bars):
        best = likes.of(i)
        if not best:
            continue
        mine = list(groups[bar])
        told, shares = np.zeros((len(mine), score.shape[1])), np.zeros((len(mine), 1))
        for j in best:
            theirs = list(groups[bars[j]])
            agree = (root[mine] * root[theirs]).sum(1)[:, None]
            told += weight[i, j] * agree * score[theirs]
            shares += weight[i, j] * agree
        out[mine] = (score[mine] + WEIGHT * told) / (1 + WEIGHT * shares)
    return out
