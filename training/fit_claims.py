"""Fit the weights that tell whether a guitar strums in a section.

    python training/fit_claims.py FOLDER --out src/ychronos/analysis/weights/claims.npz [--trial FOLDER]

FOLDERS are made by ``strum_songs.py`` (seeds from 815000 on: every third song has no guitar, but busy keys). Six songs' folds in turn tell how it does on
songs that it was not fitted on. Strummed sections and others weigh alike. Needs PyTorch, as ``fit_strokes.py`` does.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
from fit_strokes import NEAR, slots_of
from scipy.optimize import minimize

from ychronos.analysis.hands import claims, strokes

RIDGE, FOLDS = 3.0, 6
SOME = 0.06  # of a section's slots: somebody strums there


def sections_of(folder: Path) -> dict[str, np.ndarray]:
    """Rows of all sections: features ``x``, whether somebody strums ``y``, F of what is said ``f``, what is hoped ``h``, its ``song``."""
    out: dict[str, list] = {"x": [], "y": [], "f": [], "h": [], "song": []}
    for path in sorted(folder.glob("*.npz")):
        d = dict(np.load(path, allow_pickle=False))
        found, group = slots_of(d, path.stem, 0)
        rows = strokes.features(strokes.rises(d["bands"]), found, group, d["chord"])
        heard = strokes.chances(rows)
        true = np.zeros(len(rows), bool)
        for at, strength in zip(d["stroke"], d["strength"], strict=True):
            near = int(np.abs(found.time - at).argmin())
            true[near] |= strength >= 0.25 and abs(found.time[near] - at) < NEAR
        whole = strokes.together(found, heard[0], group)
        for g in range(int(group.max()) + 1):
            inside = np.isin(found.bar, np.flatnonzero(group == g))
            said = whole[inside] >= 0.5
            x = claims.features(rows[inside], whole[inside], said, tuple(h[inside] for h in heard))
            if x is None or whole[inside].mean() < strokes.FEWEST:
                continue
            hit = (said & true[inside]).sum()
            values = (
                x,
                true[inside].mean() > SOME,
                2 * hit / max(1, said.sum() + true[inside].sum()),
                strokes.hoped(whole[inside]),
                path.stem,
            )
            for name, value in zip(out, values, strict=True):
                out[name].append(value)
    return {k: np.array(v) for k, v in out.items()}


def fitted(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    weight = np.where(y, 0.5 / max(1, y.sum()), 0.5 / max(1, (~y).sum())) * len(y)

    def loss(w: np.ndarray) -> float:
        odds = w[0] + x @ w[1:]
        return float((weight * np.logaddexp(0, np.where(y, -odds, odds))).sum() + RIDGE * (w[1:] ** 2).sum())

    return minimize(loss, np.zeros(x.shape[1] + 1), method="L-BFGS-B").x


def told(d: dict[str, np.ndarray], p: np.ndarray, words: str) -> None:
    for hoped, sure in ((0.82, 0.0), (strokes.CLAIM, strokes.GUITAR)):
        said, y = (d["h"] >= hoped) & (p >= sure), d["y"]
        print(
            f"{words}, hoped {hoped}, guitar {sure}: {(said & y).sum() / y.sum():.2f} of {y.sum()} strummed sections told, F {d['f'][said & y].mean():.3f}; "
            f"{(said & ~y).sum() / max(1, (~y).sum()):.3f} of {(~y).sum()} others"
        )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--trial", type=Path)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    d = sections_of(args.folder)
    mean, scale = d["x"].mean(0), d["x"].std(0) + 1e-3

    def standard(x: np.ndarray) -> np.ndarray:
        return np.clip((x - mean) / scale, -4, 4)

    x, names = standard(d["x"]), np.unique(d["song"])
    np.random.default_rng(0).shuffle(names)
    p = np.zeros(len(x))
    for fold in np.array_split(names, FOLDS):
        out = np.isin(d["song"], fold)
        w = fitted(x[~out], d["y"][~out])
        p[out] = 1 / (1 + np.exp(-(w[0] + x[out] @ w[1:])))
    told(d, p, "songs left out")
    w = fitted(x, d["y"])
    made = {"mean": mean, "scale": scale, "weight": w[1:], "bias": w[:1]}
    np.savez(args.out, **{k: v.astype(np.float32) for k, v in made.items()})
    if args.trial:
        t = sections_of(args.trial)
        told(t, 1 / (1 + np.exp(-(w[0] + standard(t["x"]) @ w[1:]))), "trial")


if __name__ == "__main__":
    main()
