"""Train the net that tells which strokes are muted.

    python training/fit_muted.py FOLDER [FOLDER ...] --steps 1500 --out src/ychronos/analysis/weights/muted.npz [--trial FOLDER] [--folds 3]

FOLDERS are made by ``strum_songs.py``, those of seeds from 830000 on mute more. Places are those that the shipped nets say are struck in sections
that they tell. With --folds, songs that are left out in turn say first how it does on songs that it was not fitted on. Needs PyTorch.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from fit_strokes import NEAR, arguments, in_folds, run, slots_of

from ychronos.analysis.hands import claims, muted, strokes

RARE = 2.0  # what a muted place weighs against another


def places_of(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """(features, muted or not) of the places of a song's told sections."""
    d = dict(np.load(path, allow_pickle=False))
    found, group = slots_of(d, path.stem, 0)
    heard = strokes.rises(d["bands"])
    rows = strokes.features(heard, found, group, d["chord"])
    chances = strokes.chances(rows)
    whole, hard = strokes.together(found, chances[0], group), strokes.together(found, chances[1], group, own=0.0)
    struck, damped = np.zeros(len(rows), bool), np.zeros(len(rows), bool)
    for at, strength, is_muted in zip(d["stroke"], d["strength"], d["muted"], strict=True):
        near = int(np.abs(found.time - at).argmin())
        if strength >= 0.25 and abs(found.time[near] - at) < NEAR:
            struck[near], damped[near] = True, damped[near] | is_muted
    xs, ys = [np.zeros((0, 33))], [np.zeros(0)]
    for g in range(int(group.max()) + 1):
        inside = np.isin(found.bar, np.flatnonzero(group == g))
        told = whole[inside] >= 0.5
        guitar = claims.strums(
            claims.features(rows[inside], whole[inside], told, tuple(h[inside] for h in chances))
            if whole[inside].mean() >= strokes.FEWEST
            else None
        )
        if strokes.hoped(whole[inside]) < strokes.CLAIM or guitar < strokes.GUITAR:
            continue
        said = np.flatnonzero(inside & (whole >= 0.5))
        index = found.index[said]
        places, x = muted.features(heard, found.time[said], index, found.step[said], whole[said], hard[said])
        for place, row in zip(places, x, strict=True):
            here = said[index == place]
            here = here[struck[here]]
            if len(here):
                xs.append(row[None])
                ys.append(np.array([damped[here].mean() > 0.5], float))
    return np.concatenate(xs), np.concatenate(ys)


def loss(out: torch.Tensor, y: torch.Tensor, weight: torch.Tensor) -> torch.Tensor:
    """Muted or not, muted ones twice."""
    return F.binary_cross_entropy_with_logits(out[:, 0], y[:, 0], weight=weight * (1 + (RARE - 1) * y[:, 0]))


def tell(p: np.ndarray, y: np.ndarray) -> None:
    for least in (0.5, 0.6, muted.PLAINLY, 0.8, 0.9):
        said = p >= least
        print(
            f"  from {least}: {said.sum()} of {len(y)} told, right {y[said].mean() if said.any() else 0:.2f}, {(y[said].sum()) / max(1, y.sum()):.2f} of {y.sum():.0f} found"
        )


def report(folder: Path, weights: dict[str, np.ndarray]) -> None:
    songs = [places_of(p) for p in sorted(folder.glob("*.npz"))]
    x, y = (np.concatenate([s[k] for s in songs]) for k in (0, 1))
    tell(run(x, weights)[:, 0], y)


def main() -> None:
    args = arguments(__doc__)
    known = [places_of(p) for folder in args.folders for p in sorted(folder.glob("*.npz"))]
    songs = [(x, y[:, None]) for x, y in known if len(y)]
    made = in_folds(args, songs, loss, lambda p, y: tell(p[:, 0], y[:, 0]))
    np.savez(args.out, **made)
    for folder in args.trial:
        print(folder.name)
        report(folder, made)


if __name__ == "__main__":
    main()
