"""Where a line lies on the neck: a string and a fret for each of its notes, by least effort.

Method: the hand stands at a fret and reaches four frets from there, one more with a stretch; open strings cost nothing while it is low, a little
where they would leave a line high on the neck. Moving it costs by the frets it goes, less where there is time; so does leaving the string. The cheapest way through the whole
line is found (Viterbi). Conventions: strings from the lowest, as MIDI notes without a capo; frets counted from the capo.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

FRETS = 24  # from the nut
REACH = 4  # frets under the fingers without a stretch
STRETCH, HIGH, CROSS = 0.7, 0.05, 0.06
FAR_OPEN, LOW_HAND = 0.15, 4  # what an open string costs for each fret that the hand is above the low places
MOVE, QUICK = 1.0, 0.35  # a fret's way for the hand; seconds from which on it costs less
OUT_OF_PLACE = 5.0  # an open string where the hand is wanted higher
AGAINST = 4.0  # a sign that cannot be played so
AWAY = 0.5  # a fret away from the place that the user wants


@dataclass(frozen=True)
class Spot:
    """A string and a fret on it, counted from the capo."""

    string: int
    fret: int


def spots(note: int, strings: Sequence[int], capo: int = 0) -> list[Spot]:
    """Everywhere a note can be played, the lowest string first; empty where no string reaches it."""
    return [Spot(k, note - open_ - capo) for k, open_ in enumerate(strings) if 0 <= note - open_ - capo <= FRETS - capo]


def ways(notes: Sequence[int], strings: Sequence[int], capo: int = 0) -> list[tuple[Spot, ...]]:
    """All ways to play notes at once, each on a string of its own, within reach of one hand."""
    out = []
    for found in product(*(spots(n, strings, capo) for n in notes)):
        held = [s.fret for s in found if s.fret]
        if len({s.string for s in found}) == len(found) and (not held or max(held) - min(held) <= REACH):
            out.append(found)
    return out


def _stands(way: Sequence[Spot]) -> list[tuple[int, float]]:
    """[(fret of the first finger, what it costs to reach a way from there)]; nothing where all strings are open."""
    held = [s.fret for s in way if s.fret]
    if not held:
        return []
    low, high = min(held), max(held)
    out = [(hand, 0.0) for hand in range(max(1, high - REACH + 1), low + 1)]
    return out or [(low, STRETCH)]


def place(
    groups: Sequence[tuple[float, Sequence[int]]],
    strings: Sequence[int],
    capo: int = 0,
    near: int | None = None,
    signs: Sequence[str] = (),
) -> list[tuple[Spot, ...]]:
    """Where to play notes: ``groups`` are (seconds, notes that begin together), in order; ``near`` is the fret where the user
    wants the hand; ``signs`` how each begins: "h" and "p" stay on their string, "h", "s" and "b" are not on an open one. A group that cannot be held at once keeps only its highest notes; one out of reach is empty.
    """
    options: list[list[tuple[Spot, ...]]] = []
    for _, notes in groups:
        wanted = sorted(set(notes))
        found = ways(wanted, strings, capo)
        while wanted and not found:
            wanted = wanted[1:]
            found = ways(wanted, strings, capo) if wanted else []
        options.append(found)
    begin = near if near is not None else 2
    states: dict[tuple[int, int], tuple[float, tuple[tuple[Spot, ...], ...]]] = {(begin, -1): (0.0, ())}
    open_ = OUT_OF_PLACE if near is not None and near > LOW_HAND else 0.0
    before = None
    for k, ((seconds, _), found) in enumerate(zip(groups, options, strict=True)):
        sign = signs[k] if signs else ""
        if not found:
            states = {k: (cost, (*way, ())) for k, (cost, way) in states.items()}
            continue
        gap = seconds - before if before is not None else 2.0
        before = seconds
        ease = 1.0 if gap < QUICK else 0.6
        new: dict[tuple[int, int], tuple[float, tuple[tuple[Spot, ...], ...]]] = {}
        for (hand, string), (cost, trail) in states.items():
            for way in found:
                own = HIGH * sum(s.fret for s in way) / len(way)
                own += CROSS * abs(way[0].string - string) if string >= 0 else 0.0
                own += AGAINST * (sign in ("h", "p") and string >= 0 and way[0].string != string)
                own += AGAINST * (sign in ("h", "s", "b") and way[0].fret == 0)
                for stand, stretch in _stands(way) or [(hand, open_ or FAR_OPEN * max(0, hand - LOW_HAND))]:
                    whole = cost + own + stretch + MOVE * ease * abs(stand - hand)
                    whole += AWAY * abs(stand - near) if near is not None else 0.0
                    key = (stand, way[0].string)
                    if key not in new or whole < new[key][0]:
                        new[key] = (whole, (*trail, way))
        best = sorted(new.items(), key=lambda item: item[1][0])[:40]
        states = dict(best)
    return list(min(states.values(), key=lambda v: v[0])[1])
