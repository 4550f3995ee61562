"""Fit the weights that say where sections begin.

    python training/fit_sections.py --data DATA --count 130 [--songs FOLDER] --out src/ychronos/analysis/weights/sections.npz
    python training/fit_sections.py --chosen FOLDER

DATA is made by ``make_songs.py`` (its first songs are used), FOLDER holds recordings with their JAMS. Each song is
analysed by the program itself, so that the weights know its mistakes; bars within half a second of a true
section start are the positives. A ridge of 3 holds the weights down. The second form prints ``sections.CHOSEN``, by
logistic regression, at the lines that the program chose in songs the weights were not fitted on, of whether a section
does begin there. Convex and deterministic. Needs no PyTorch; about 2 s a song.
"""

from __future__ import annotations

import argparse
import json
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from scipy.optimize import minimize

from ychronos.analysis import pipeline
from ychronos.analysis.form import boundaries, sections
from ychronos.analysis.form.deciding import describe_bars
from ychronos.audio import recording
from ychronos.song.model import Song

RIDGE = 3.0


def analysed(path: Path) -> tuple[Song, sections.BarFeatures, tuple[np.ndarray, ...]]:
    """A song as the program hears it, what it knows of its bars, and what the weights are given of them."""
    song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
    described = describe_bars(evidence, song)
    harmony, sound = sections.similarity(described)
    shared = described.chances @ described.chances.T
    return song, described, (described.level, harmony, sound, shared, described.chords)


def song_rows(path: Path, truth: dict) -> tuple[np.ndarray, np.ndarray]:
    """What the weights look at on each bar line but the first, and whether a section begins there."""
    song, _, looked_at = analysed(path)
    x = boundaries.features(*looked_at)
    return x[1:], true_lines(song, truth, len(x))[1:]


def chosen_rows(path: Path, truth: dict) -> tuple[np.ndarray, np.ndarray]:
    """The log odds of the lines that were chosen, and whether a section begins there."""
    song, described, looked_at = analysed(path)
    odds = boundaries.log_odds(*looked_at)
    chosen = [s.first for s in sections.decide(described).sections if s.first]
    return odds[chosen], true_lines(song, truth, len(odds))[chosen]


def true_lines(song: Song, truth: dict, count: int) -> np.ndarray:
    """(count,) 1 for each bar of the music at whose line a section begins."""
    lead = min(song.grid.lead_in, len(song.grid.bars) - 1)
    lines = np.array([song.grid.clock(s) for s in song.grid.starts[lead:-1]])
    y = np.zeros(count)
    rows = next(a["data"] for a in truth["annotations"] if a["namespace"] == "segment_open")
    for row in rows:
        near = int(np.abs(lines - row["time"]).argmin())
        if row["value"] not in ("silence", "count-in") and abs(lines[near] - row["time"]) < 0.5:
            y[near] = 1
    return y


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--data", type=Path)
    parser.add_argument("--count", type=int, default=130)
    parser.add_argument("--songs", type=Path)
    parser.add_argument("--out", type=Path)
    parser.add_argument("--chosen", type=Path, help="recordings with their JAMS: fit how sure a chosen line is")
    args = parser.parse_args()
    if args.chosen:
        print_chosen(args.chosen)
        return
    if not args.data or not args.out:
        parser.error("--data and --out, or --chosen")
    rows = []
    with tempfile.TemporaryDirectory() as folder:
        for source in sorted(args.data.glob("*.npz"))[: args.count]:
            data, wave = np.load(source), Path(folder) / f"{source.stem}.wav"
            soundfile.write(wave, data["mono"], 22050)
            rows.append(song_rows(wave, json.loads(str(data["truth"]))))
            wave.unlink()
    for source in sorted(args.songs.glob("*.ogg")) if args.songs else []:
        rows.append(song_rows(source, json.loads(source.with_suffix(".jams").read_text())))
    x, y = (np.concatenate(part) for part in zip(*rows, strict=True))
    save(x, y, args.out)


def print_chosen(folder: Path) -> None:
    found = [chosen_rows(p, json.loads(p.with_suffix(".jams").read_text())) for p in sorted(folder.glob("*.ogg"))]
    odds, y = (np.concatenate(part) for part in zip(*found, strict=True))

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        value = w[0] * odds + w[1]
        wrong = 1 / (1 + np.exp(-value)) - y
        return float(np.logaddexp(0, -value * (2 * y - 1)).sum()), np.array([wrong @ odds, wrong.sum()])

    slope, constant = minimize(loss, np.array([1.0, 0.0]), jac=True, method="L-BFGS-B").x
    print(f"{len(y)} chosen lines, {int(y.sum())} of them begin a section")
    print(f"CHOSEN = ({slope:.2f}, {constant:.2f})")


def save(x: np.ndarray, y: np.ndarray, out: Path) -> None:
    mean, scale = x.mean(0), x.std(0) + 1e-6
    z, sign = (x - mean) / scale, 2 * y - 1

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        value = z @ w[:-1] + w[-1]
        wrong = 1 / (1 + np.exp(-value)) - y
        total = np.logaddexp(0, -value * sign).sum() + RIDGE * (w[:-1] ** 2).sum() / 2
        return float(total), np.append(z.T @ wrong + RIDGE * w[:-1], wrong.sum())

    found = minimize(loss, np.zeros(z.shape[1] + 1), jac=True, method="L-BFGS-B", options={"maxiter": 500}).x
    parts = {"mean": mean, "scale": scale, "weight": found[:-1], "bias": found[-1:]}
    np.savez(out, **{k: v.astype(np.float32) for k, v in parts.items()})
    print(f"{len(y)} bar lines, {int(y.sum())} of them begin a section")


if __name__ == "__main__":
    main()
