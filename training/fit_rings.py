"""Fit the weights that tell chords which are left to ring.

    python training/fit_rings.py FOLDER [--trial FOLDER]

FOLDERS are made by ``ring_songs.py``. Each song is analysed by the program itself; a chord of its chart rings where it lies in a true ring for most
of its length. Prints ``rings.WEIGHTS``, and how often it is right on the trial songs. About 8 s a song.
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

from ychronos.analysis import pipeline
from ychronos.analysis.hands import rings
from ychronos.audio import recording

RIDGE = 0.5
SURE = 0.8


def rows_of(folder: Path) -> tuple[np.ndarray, np.ndarray]:
    """(features, whether it rings) of all chords that can be told."""
    xs, ys = [], []
    for path in sorted(folder.glob("*.ogg")):
        kept = path.with_suffix(".rows.npz")
        if not kept.exists():
            song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
            spans = np.array([[song.grid.clock(p) for p in song.chord_range(i)] for i in range(len(song.chords))])
            plays = [not c.chord.is_none for c in song.chords]
            np.savez(kept, bands=evidence.bands, spans=spans, plays=plays, beat=60 / song.grid.tempo())
        d = np.load(kept)
        true = json.loads(path.with_suffix(".rings.json").read_text())
        x = rings.features(rings.strokes(d["bands"]), [tuple(s) for s in d["spans"]], float(d["beat"]))
        inside = [sum(max(0.0, min(b, d1) - max(a, c)) for c, d1 in true) for a, b in d["spans"]]
        y = np.array(inside) > 0.6 * (d["spans"][:, 1] - d["spans"][:, 0])
        use = d["plays"] & ~np.isnan(x).any(1)
        xs.append(x[use])
        ys.append(y[use])
    return np.concatenate(xs), np.concatenate(ys)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--trial", type=Path)
    args = parser.parse_args()
    x, y = rows_of(args.folder)

    def loss(w: np.ndarray) -> float:
        odds = w[0] + x @ w[1:]
        return float(np.logaddexp(0, np.where(y, -odds, odds)).sum() + RIDGE * (w[1:] ** 2).sum())

    w = minimize(loss, np.zeros(x.shape[1] + 1)).x
    print("WEIGHTS =", tuple(round(float(v), 2) for v in w))
    for name, (a, b) in {"fitted": (x, y), **({"trial": rows_of(args.trial)} if args.trial else {})}.items():
        p = 1 / (1 + np.exp(-(w[0] + a @ w[1:])))
        for at in (0.5, SURE):
            said = p >= at
            hit = (said & b).sum()
            print(
                f"{name}, from {at}: {len(b)} chords, {b.sum()} ring, {said.sum()} said, precision {hit / max(1, said.sum()):.2f}, recall {hit / max(1, b.sum()):.2f}"
            )
        edges = np.linspace(0, 1, 6)
        print(
            "  calibration",
            [
                f"{p[m].mean():.2f}/{b[m].mean():.2f} ({m.sum()})"
                for m in ((p >= low) & (p < high) for low, high in zip(edges, edges[1:], strict=False))
                if m.any()
            ],
        )


if __name__ == "__main__":
    main()
