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
from fit_strokes import arguments, finish, in_folds, nearest, run, told_of

from ychronos.analysis.hands import muted

RARE = 2.0  # what a muted place weighs against another


def places_of(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """(features, muted or not) of the places of a song's told sections."""
    song = told_of(path)
    found, whole, hard = song.found, song.struck, song.hard
    struck, damped = np.zeros(len(whole), bool), np.zeros(len(whole), bool)
    for k, near in nearest(song):
        struck[near], damped[near] = True, damped[near] | song.data["muted"][k]
    xs, ys = [np.zeros((0, 33))], [np.zeros(0)]
    for _, said in song.sections:
        index = found.index[said]
        places, x = muted.features(song.heard, found.time[said], index, found.step[said], whole[said], hard[said])
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
    finish(args, made, report, args.trial)


if __name__ == "__main__":
    main()
