"""Train the net that tells whether two guitars play the same strokes, or one does.

    python training/fit_pairs.py FOLDER [FOLDER ...] --steps 1500 --out src/ychronos/analysis/weights/pairs.npz [--trial FOLDER] [--folds 4]

FOLDERS are made by ``pair_songs.py``, trial folders by it or by ``make_song.py --hands``. Every recording is heard as it is and made narrower, at true strokes moved by up to 15 ms, all of
them and those of stretches of all lengths. With --folds, songs that are left out in turn say first how it does on songs that it was not fitted on. Needs PyTorch.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import soundfile
import soxr
import torch
import torch.nn.functional as F
from fit_strokes import arguments, finish, in_folds, run

from ychronos.analysis.hands import pairs
from ychronos.audio.breadth import RATE, Breadth

WIDTHS = (1.0, 0.6, 0.35)
STRETCHES = 6  # of each recording
MOVED = 0.015  # seconds


def heard(path: Path, width: float) -> np.ndarray:
    sound, rate = soundfile.read(path, dtype="float32", always_2d=True)
    if sound.shape[1] == 1:
        sound = np.repeat(sound, 2, axis=1)
    if rate != RATE:
        sound = soxr.resample(sound, rate, RATE, quality="MQ").astype(np.float32)
    made = Breadth()
    made.feed(np.stack([sound.mean(1), width * (sound[:, 0] - sound[:, 1]) / 2], axis=1))
    return made.finish()


def strokes_of(path: Path) -> tuple[np.ndarray, int]:
    """(seconds of one guitar's strokes, guitars that strum)."""
    said = json.loads(path.with_suffix(".play.json").read_text())["strums"]
    said = [s for s in said if s["strength"] >= 0.25 and s.get("part", "gtr").startswith("gtr")]
    parts = sorted({s.get("part", "gtr") for s in said})
    return np.array([s["time"] for s in said if s.get("part", "gtr") == parts[0]]) if said else np.zeros(0), len(parts)


def rows_of(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """(features, two or not) of a recording in all widths and of stretches of it."""
    rng = np.random.default_rng([11, *path.stem.encode()])
    times, guitars = strokes_of(path)
    rows = []
    for width in WIDTHS if len(times) >= pairs.FEWEST else ():
        breadth = heard(path, width)
        spans = [(0, len(times))]
        for _ in range(STRETCHES):
            count = int(rng.integers(pairs.FEWEST, max(pairs.FEWEST + 1, min(120, len(times)))))
            first = int(rng.integers(0, max(1, len(times) - count)))
            spans.append((first, first + count))
        made = [pairs.features(breadth, times[a:b] + rng.normal(0, MOVED / 2, b - a)) for a, b in spans]
        rows += [r for r in made if r is not None]
    return np.array(rows).reshape(len(rows), 7 * 4), np.full(len(rows), guitars > 1, float)


def loss(out: torch.Tensor, y: torch.Tensor, weight: torch.Tensor) -> torch.Tensor:
    return F.binary_cross_entropy_with_logits(out[:, 0], y[:, 0], weight=weight)


def tell(p: np.ndarray, y: np.ndarray) -> None:
    for least in (0.3, 0.5, 0.6, 0.7, 0.8):
        said = p >= least
        print(
            f"  from {least}: {said.sum()} of {len(y)} told, right {y[said].mean() if said.any() else 0:.2f}, {y[said].sum() / max(1, y.sum()):.2f} found"
        )


def sounds(folder: Path) -> list[Path]:
    return sorted([*folder.glob("*.flac"), *folder.glob("*.ogg")])


def report(folder: Path, weights: dict[str, np.ndarray]) -> None:
    """Whole recordings as they are."""
    p, y = [], []
    for path in sounds(folder):
        times, guitars = strokes_of(path)
        row = pairs.features(heard(path, 1.0), times) if len(times) else None
        if row is not None:
            p.append(run(row[None], weights)[0, 0])
            y.append(float(guitars > 1))
    tell(np.array(p), np.array(y))


def main() -> None:
    args = arguments(__doc__)
    known = [rows_of(p) for folder in args.folders for p in sounds(folder)]
    songs = [(x, y[:, None]) for x, y in known if len(y)]
    made = in_folds(args, songs, loss, lambda p, y: tell(p[:, 0], y[:, 0]))
    finish(args, made, report, args.trial)


if __name__ == "__main__":
    main()
