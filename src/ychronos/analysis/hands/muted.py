"""Which strokes of a section are muted: hardly a note in them, only the click of damped strings.

Method: of every stroke how fast four groups of bands fall after it, how far they rose for it, and how bright it is; the mean over the
bars of a section at each place against the median of the section's strokes, how hard and how sure the place is. A small net
weighs that, trained on songs whose strokes are known (``training/fit_muted.py``). What is not plain is left a plain stroke.
Conventions: frames at 50 a second.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import net
from ..spectra import BAND_RATE

Floats = NDArray[np.float64]
Ints = NDArray[np.int_]
COARSE = 4  # groups of bands
SOON, LATER, LONGEST = 4, 8, 14  # frames after a stroke at which it is looked at, and at most
FREE = 0.03  # seconds before the next stroke that belong to it already
PLAINLY = 0.6  # how likely a place must be muted to be told


def of_strokes(rise: Floats, level: Floats, times: Floats) -> Floats:
    """(strokes, 22) what is seen of each stroke by itself; ``rise`` and ``level`` (frames, groups) as ``strokes.rises`` gives
    them, ``times`` (strokes,) in seconds, in order."""
    last = len(level) - 1
    loud, begins = (x.reshape(len(x), COARSE, -1).mean(2) for x in (level, rise))
    at = np.clip((times * BAND_RATE).round().astype(int), 3, max(3, last - LONGEST))
    following = np.append(times[1:], times[-1] + 1.0)
    end = np.clip(((following - FREE) * BAND_RATE).astype(int), at + 3, at + LONGEST)
    end = np.minimum(end, last)

    def over(values: Floats, before: int, after: int) -> Floats:
        """(strokes, frames, COARSE) values around each stroke."""
        steps = np.arange(-before, after)
        return np.asarray(values[np.clip(at[:, None] + steps, 0, last)])

    peak = over(loud, 1, 4).max(1)
    before = over(loud, 3, -1).min(1)
    rose = over(begins, 2, 4).max(1)
    falls = [peak - loud[np.minimum(at + k, end)] for k in (SOON, LATER)]
    lowest = np.array([loud[a + 2 : max(e, a + 2) + 1].min(0) for a, e in zip(at, end, strict=True)])
    bright = [(x[:, -1] - x[:, 1])[:, None] for x in (peak, rose)]
    return np.concatenate([*falls, peak - lowest, peak - before, 5 * rose, *bright], axis=1)


def features(
    heard: tuple[Floats, Floats], times: Floats, place: Ints, step: Ints, chance: Floats, hard: Floats
) -> tuple[Ints, Floats]:
    """The places of a section's strokes, and (places, 33) what is weighed of each: ``times`` (strokes,), ``place`` the number of each
    in its bar, ``step`` as in ``strokes.Slots``, ``chance`` that it is struck, ``hard`` that it is so hard."""
    seen = of_strokes(*heard, times)
    usual = np.median(seen, axis=0)
    places = np.unique(place)
    rows = []
    for p in places:
        here = place == p
        mean = seen[here].mean(0)
        rest = [hard[here].mean() - hard.mean(), chance[here].mean(), float(step[here][0])]
        rows.append(np.concatenate([mean - usual, mean[: 2 * COARSE], rest]))
    return places, np.array(rows)


def muted(
    heard: tuple[Floats, Floats], times: Floats, place: Ints, step: Ints, chance: Floats, hard: Floats
) -> NDArray[np.bool_]:
    """(strokes,) whether each is muted, all bars of a section alike; as for :func:`features`."""
    if len(times) < 2:
        return np.zeros(len(times), bool)
    places, rows = features(heard, times, place, step, chance, hard)
    likely = net.chances("muted", rows)[:, 0]
    return np.isin(place, places[likely >= PLAINLY])
