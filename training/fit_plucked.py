"""Train the net that tells which places of a told section are no strokes: the bass plucked, another string, somebody else.

    python training/fit_plucked.py FOLDER [FOLDER ...] --steps 1500 --out src/ychronos/analysis/weights/plucked.npz [--trial FOLDER] [--folds 5]

FOLDERS are made by ``strum_songs.py``, those of seeds from 890000 on pluck between strokes; what is plucked there is known by their figures. Places are those
that the shipped nets say are struck in sections that they tell. Needs PyTorch.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import strum_songs
import torch
import torch.nn.functional as F
from fit_strokes import arguments, finish, in_folds, nearest, run, told_of

from ychronos.analysis.hands import plucked

RARE = 1.5  # what a place without a stroke weighs against another
SIXTEENTHS = 2  # slots of an eighth


def figures_of(stem: str) -> dict[str, str]:
    """The guitar's figure in each section of a song that plucks, "*" where no other is named; nothing of others."""
    seed = int(stem.split("_")[0])
    if seed < strum_songs.MIXED:
        return {}
    spec, _ = strum_songs.spec_of(seed, short=True)
    return dict(next(p["pattern"] for p in spec["band"] if p["role"] == "guitar"))


def letter_at(figures: dict[str, str], name: str, index: int) -> str:
    """What a figure of eighths has at a slot of the bar, "" where that is not known."""
    slots, _, letters = figures.get(name, figures.get("*", "")).partition(":")
    if slots != "8" or index % SIXTEENTHS or index // SIXTEENTHS >= len(letters):
        return ""
    return letters[index // SIXTEENTHS]


def places_of(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """(features, (no stroke, the bass, whether that is known)) of the places of a song's told sections."""
    song = told_of(path)
    found, whole, hard, up = song.found, song.struck, song.hard, song.up
    struck = np.zeros(len(whole), bool)
    struck[[near for _, near in nearest(song)]] = True
    figures, names = figures_of(path.stem), list(dict.fromkeys(song.data["name"].tolist()))
    xs, ys = [np.zeros((0, plucked.WIDTH))], [np.zeros((0, 3))]
    for g, said in song.sections:
        index = found.index[said]
        places, x = plucked.features(
            song.heard, found.time[said], index, (whole[said], hard[said], up[said]), found.step[said], song.rows[said]
        )
        for place, row in zip(places, x, strict=True):
            share = struck[said[index == place]].mean()
            if 0.3 <= share < 0.7:
                continue
            letter = letter_at(figures, names[g], int(place))
            xs.append(row[None])
            ys.append(np.array([[share < 0.3, letter == "b", bool(letter)]], float))
    return np.concatenate(xs), np.concatenate(ys)


def loss(out: torch.Tensor, y: torch.Tensor, weight: torch.Tensor) -> torch.Tensor:
    """A stroke or none; where there is none and it is known, the bass or not."""
    first = F.binary_cross_entropy_with_logits(out[:, 0], y[:, 0], weight=weight * (1 + (RARE - 1) * y[:, 0]))
    return first + F.binary_cross_entropy_with_logits(out[:, 1], y[:, 1], weight=weight * y[:, 0] * y[:, 2])


def tell(p: np.ndarray, y: np.ndarray) -> None:
    none, known = y[:, 0] > 0, (y[:, 0] > 0) & (y[:, 2] > 0)
    for least in (0.5, 0.65, 0.8):
        said = p[:, 0] >= least
        print(
            f"  from {least}: {said.sum()} of {len(y)} told to be none, right {none[said].mean() if said.any() else 0:.2f}, {none[said].sum() / max(1, none.sum()):.2f} of {none.sum()} found"
        )
    if known.any():
        print(f"  the bass or not right {((p[known, 1] >= 0.5) == (y[known, 1] > 0)).mean():.2f} of {known.sum()}")


def report(folder: Path, weights: dict[str, np.ndarray]) -> None:
    songs = [places_of(p) for p in sorted(folder.glob("*.npz"))]
    tell(run(np.concatenate([s[0] for s in songs]), weights), np.concatenate([s[1] for s in songs]))


def main() -> None:
    args = arguments(__doc__)
    songs = [places_of(p) for folder in args.folders for p in sorted(folder.glob("*.npz"))]
    songs = [(x, y) for x, y in songs if len(y)]
    made = in_folds(args, songs, loss, tell)
    finish(args, made, report, args.trial)


if __name__ == "__main__":
    main()
