"""Fit the weights that decide the count: bar lines, metrical level, and how sure a beat is.

    python training/fit_count.py --songs FOLDER [FOLDER ...] [--count 128]

FOLDERS hold recordings with their JAMS that the nets were not trained on (``bench/tools/make_song.py --random 30000 --count
128`` makes some). Prints, in the form in which they stand in the code:

- ``bars.ONE_WEIGHTS``: logistic regression, at the true beats, of whether a bar begins there;
- ``count.WEIGHTS``: softmax regression over each song's candidates of which one has most true beats and ones;
- ``count.BEAT_CHANCE``: logistic regression, at the beats found, of whether a true one is within 70 ms.

Everything is convex and deterministic; songs are taken in order of their names. Needs no PyTorch; about 3 s a song.
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import numpy as np
from logit import logistic
from scipy.optimize import minimize

from ychronos.analysis.beats import bars, count, counting, pulse
from ychronos.analysis.evidence import Evidence, gather
from ychronos.audio import recording

RIDGE = {"ones": 1.0, "level": 0.5, "beats": 0.1}
# Weights that are held, by their column: of the beats' log odds, which songs made by us hardly need (left out they say 0) and a phase
# that nothing else tells does; of how usual the tempo is, as the tempi of many of our songs are drawn evenly
HELD = {0: 0.2, 4: 1.0}
AS_RIGHT = 0.02  # candidates that are as right as the best
NEAR = 0.07  # seconds within which a beat is the true one


def truth_of(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """True beats, and which of them are ones."""
    data = json.loads(path.read_text())["annotations"]
    rows = next(a["data"] for a in data if a["namespace"] == "beat_position")
    return np.array([r["time"] for r in rows]), np.array([r["value"]["position"] == 1 for r in rows])


def one_rows(evidence: Evidence, beats: np.ndarray) -> np.ndarray:
    """What a bar line is told by at each beat, in the order of ONE_WEIGHTS."""
    net = bars.log_odds_at(evidence.pulse.bar, beats)
    near, wide = evidence.changes.at(beats, 1), evidence.changes.at(beats, 2)
    return np.stack([net, near, wide, bars._stands_out(near), bars._stands_out(wide), np.ones(len(beats))], 1)


def share(truth: np.ndarray, found: np.ndarray) -> float:
    """F of found times against true ones."""
    if not len(truth) or not len(found):
        return 0.0
    near = np.abs(truth[:, None] - found[None]) <= NEAR
    recall, precision = near.any(1).mean(), near.any(0).mean()
    return float(2 * recall * precision / (recall + precision + 1e-9))


def candidates_of(evidence: Evidence, beats: np.ndarray, ones: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(candidates, 12) what speaks for each, and how right each is."""
    rivals = count.possible(evidence.pulse, counting.somebody_plays(evidence))
    every = bars.decide_all(evidence.pulse, rivals, evidence.changes)
    x = np.stack([count.features(evidence.pulse, t, b, evidence.changes) for t, b in zip(rivals, every, strict=True)])
    right = [share(beats, t) + share(beats[ones], t[b.position == 1]) for t, b in zip(rivals, every, strict=True)]
    return x, np.array(right)


def softmax(songs: list[tuple[np.ndarray, np.ndarray]], ridge: float) -> np.ndarray:
    """Weights under which each song's most right candidates are most believed; every column in its own spread, some weights
    :data:`HELD`."""
    every = np.concatenate([x for x, _ in songs]).std(0) + 1e-6
    fitted = [k for k in range(len(every)) if k not in HELD]
    spread = every[fitted]
    known = np.array([HELD.get(k, 0.0) for k in range(len(every))])
    free = [(x[:, fitted] / spread, x @ known, right) for x, right in songs]

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        total, slope = ridge * float(w @ w) / 2, ridge * w
        for x, held, right in free:
            score = x @ w + held
            belief = np.exp(score - score.max())
            belief /= belief.sum()
            good = belief * (right >= right.max() - AS_RIGHT)
            total -= float(np.log(good.sum() + 1e-12))
            slope = slope + (belief - good / (good.sum() + 1e-12)) @ x
        return total, slope

    known[fitted] = minimize(loss, np.zeros(len(spread)), jac=True, method="L-BFGS-B").x / spread
    return known


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--songs", type=Path, required=True, nargs="+")
    parser.add_argument("--count", type=int, default=128)
    args = parser.parse_args()
    lines, line_truth, beat_rows, beat_truth, levels = [], [], [], [], []
    for path in [p for folder in args.songs for p in sorted(folder.glob("*.ogg"))[: args.count]]:
        evidence = gather(recording.load(path, keep_samples=False))
        beats, ones = truth_of(path.with_suffix(".jams"))
        lines.append(one_rows(evidence, beats))
        line_truth.append(ones)
        levels.append(candidates_of(evidence, beats, ones))
        times = count.decide(evidence.pulse, evidence.changes).times
        odds = bars.log_odds_at(evidence.pulse.beat, times, 1, pulse.FLOOR)
        beat_rows.append(np.stack([odds, np.ones(len(odds))], 1))
        beat_truth.append(np.abs(times[:, None] - beats[None]).min(1) <= NEAR)
    print(f"{len(lines)} songs")
    one = logistic(np.concatenate(lines), np.concatenate(line_truth).astype(float), RIDGE["ones"])
    print("ONE_WEIGHTS =", tuple(round(float(x), 2) for x in one))
    print("WEIGHTS =", tuple(round(float(x), 2) for x in softmax(levels, RIDGE["level"])))
    beat = logistic(np.concatenate(beat_rows), np.concatenate(beat_truth).astype(float), RIDGE["beats"])
    print("BEAT_CHANCE =", tuple(round(float(x), 2) for x in beat))


if __name__ == "__main__":
    main()
