"""Which of the places that are said to be struck are no strokes: the bass plucked by the thumb, one other string, or somebody else.

Method: of each place of a section's bars how much begins in twelve bands there, against the section's other places too, how it rises and falls
(as in :mod:`.muted`), how sure and hard it is and where in the bar; a small net trained on songs in which the thumb and strokes
take turns, and on others (``training/fit_plucked.py``). What is not plain is left a stroke.
Conventions: frames at 50 a second.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import net
from .muted import of_strokes

Floats = NDArray[np.float64]
Ints = NDArray[np.int_]
SEEN = 24  # first columns of ``strokes.features``: what begins, how loud it is
WIDTH = 72
PLAINLY, BASS = 0.65, 0.5  # how likely a place must be no stroke, and then the bass


def features(
    heard: tuple[Floats, Floats],
    times: Floats,
    place: Ints,
    said: tuple[Floats, Floats, Floats],
    step: Ints,
    rows: Floats,
) -> tuple[Ints, Floats]:
    """The places of a section, and (places, WIDTH) what is weighed of each: ``times`` (strokes,), ``place`` the number of each in its
    bar, ``said`` how likely each is struck, hard, upwards, ``step`` as in ``strokes.Slots``, ``rows`` of ``strokes.features``."""
    seen, own = of_strokes(*heard, times), rows[:, :SEEN]
    usual, usually = np.median(seen, axis=0), np.median(own[:, : SEEN // 2], axis=0)
    struck, hard, up = said
    places = np.unique(place)
    most = np.bincount(place).max()
    out = []
    for p in places:
        here = place == p
        mean, mine = seen[here].mean(0), own[here].mean(0)
        rest = [
            struck[here].mean(),
            hard[here].mean() - hard.mean(),
            up[here].mean(),
            float(step[here][0]),
            float(p == 0),
        ]
        out.append(
            np.concatenate([mine, mine[: SEEN // 2] - usually, mean - usual, mean[:8], rest, [here.sum() / most]])
        )
    return places, np.array(out)


def plucked(
    heard: tuple[Floats, Floats],
    times: Floats,
    place: Ints,
    said: tuple[Floats, Floats, Floats],
    step: Ints,
    rows: Floats,
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """(strokes,) each, all bars of a section alike: whether it is no stroke, and whether it is the bass plucked; as for
    :func:`features`."""
    if len(times) < 2:
        return np.zeros(len(times), bool), np.zeros(len(times), bool)
    places, seen = features(heard, times, place, said, step, rows)
    chance = net.chances("plucked", seen)
    none = chance[:, 0] >= PLAINLY
    if none.all():  # something strums there, that is known
        none[:] = False
    bass = none & (chance[:, 1] >= BASS)
    return np.isin(place, places[none]), np.isin(place, places[bass])
