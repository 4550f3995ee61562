"""Whether it is a guitar that strums in a section, or keys, a harp, whatever else strikes chords: a second opinion on all of it together.

Method: what begins in twelve bands at the slots that are said to be struck, how loud it is there, what begins at the other slots, how
sure the strokes are, how many, how hard and which way, and what the song is like as a whole; a logistic regression on songs with guitars and
without any (``training/fit_claims.py``). One slot by itself says little of that: an organ's eighths are struck as plainly as a guitar's.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .. import net

Floats = NDArray[np.float64]
FEWEST = 4  # strokes of a section that can be told
OWN, LOUD, OFTEN, SONG = slice(0, 12), slice(12, 24), slice(38, 40), slice(-26, None)  # columns of ``strokes.features``


def features(
    rows: Floats, whole: Floats, said: NDArray[np.bool_], heard: tuple[Floats, Floats, Floats]
) -> Floats | None:
    """What is weighed of a section: ``rows`` (slots, k) of ``strokes.features``, ``whole`` (slots,) chances with those of the other bars,
    ``said`` which are struck, ``heard`` the chances by themselves (struck, hard, up). None where there is too little."""
    if int(said.sum()) < FEWEST:
        return None
    chance, hard, up = heard
    others = rows[~said][:, OWN].mean(0) if not said.all() else np.zeros(12)
    busy = float(whole.mean())
    told = float(np.clip(2 * whole[said].sum() / (said.sum() + whole.sum()), 0, 1))
    rest = float(chance[~said].mean()) if not said.all() else 0.0
    several = [
        told,
        busy,
        np.log(busy + 0.01),
        said.mean(),
        hard[said].mean(),
        hard[said].std(),
        up[said].mean(),
        up[said].std(),
    ]
    several += [chance[said].mean(), rest, *rows[said][:, OFTEN].mean(0)]
    return np.concatenate([rows[said][:, OWN].mean(0), rows[said][:, LOUD].mean(0), others, several, rows[0, SONG]])


def strums(section: Floats | None) -> float:
    """How likely a guitar strums there, from :func:`features`."""
    if section is None:
        return 0.0
    w = {k: v.astype(float) for k, v in net.weights("claims").items()}
    odds = float(w["weight"] @ np.clip((section - w["mean"]) / w["scale"], -4, 4) + w["bias"][0])
    return float(1 / (1 + np.exp(-np.clip(odds, -30, 30))))
