"""Fit the weights that say whether beats divide in three (``analysis/beats/dividing``).

    python training/fit_dividing.py FOLDER [FOLDER ...] [--ridge 0.002]

FOLDERS hold features (``features.py``). Songs mostly in one meter of two, three, four or six beats count, on their true beats.
It prints how songs left out of fitting fare, a fifth at a time, and the weights to be written into the module.
"""

from __future__ import annotations

import argparse
from collections import Counter
from pathlib import Path

import numpy as np
from logit import logistic

from ychronos.analysis import attacks
from ychronos.analysis.beats import dividing

MOSTLY = 0.9  # of the beats
FEWEST = 16


def row_of(path: Path) -> tuple[np.ndarray, float] | None:
    """What speaks for a division in three, and whether there is one; None for a song that does not count."""
    data = np.load(path, allow_pickle=True)
    times = data["beat"]
    if len(times) < FEWEST:
        return None
    (count, unit), often = Counter(zip(data["count"].tolist(), data["unit"].tolist(), strict=True)).most_common(1)[0]
    compound = unit == 8 and count in (2, 3, 4)
    if often < MOSTLY * len(times) or not (compound or (unit == 4 and count in (2, 3, 4, 6))):
        return None
    return dividing.features(attacks.onsets(data["bands"]), times).mean(0), float(compound)


def fit(x: np.ndarray, y: np.ndarray, ridge: float) -> np.ndarray:
    mean, spread = x.mean(0), x.std(0) + 1e-6
    *weights, constant = logistic(np.c_[(x - mean) / spread, np.ones(len(x))], y, ridge * len(y))
    free = np.array(weights) / spread
    return np.append(free, constant - free @ mean)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--ridge", type=float, default=0.002)
    args = parser.parse_args()
    rows = [r for folder in args.folders for p in sorted(folder.glob("*.npz")) if (r := row_of(p)) is not None]
    x, y = np.array([r[0] for r in rows]), np.array([r[1] for r in rows])
    left_out = np.zeros(len(y))
    for k in range(5):
        out = np.arange(len(y)) % 5 == k
        left_out[out] = np.c_[x[out], np.ones(out.sum())] @ fit(x[~out], y[~out], args.ridge)
    wrong = (left_out > 0) != (y > 0)
    loss = np.logaddexp(0, np.where(y > 0, -left_out, left_out)).mean()
    print(f"{len(y)} songs, {y.sum():.0f} in threes; left out: {wrong.sum()} wrong, loss {loss:.3f}")
    print("WEIGHTS =", tuple(fit(x, y, args.ridge).round(2).tolist()))


if __name__ == "__main__":
    main()
