"""Fit the weights that tell joints inside a section from those between two (``analysis/form/wholes``).

    python training/fit_wholes.py --songs FOLDER [FOLDER ...]

FOLDER holds recordings with their JAMS beside them: songs of ``forms.py`` (seeds 60000-60025), of the song maker (``--random 100 --count
20``, ``--random 9400 --count 8``, the corpus) and of ``liveband.py`` (seeds 48000-48019) were used. Prints the weights.
"""

from __future__ import annotations

import argparse
import json
from dataclasses import replace
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

from ychronos.analysis import pipeline
from ychronos.analysis.chords.deciding import free_chords
from ychronos.analysis.form import boundaries, deciding, sections, wholes
from ychronos.audio import recording

INSIDE = 0.7  # share of a joint's places that no section begins at, from which on it is closed on the way up
LEVELS = 8  # joints closed in a song
PENALTY = 0.005
Rows = list[tuple[np.ndarray, float, float]]


def rows_of(path: Path) -> Rows:
    """(features, share of its places inside a section, weight) of all joints of a song, at all levels."""
    song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
    bare = pipeline._bare(song.grid)
    song = replace(song, grid=bare, chords=free_chords(evidence, bare, song.keys))
    bars = deciding.describe_bars(evidence, song)
    keep, wholes.SURE = wholes.SURE, 2.0  # phrases, not yet joined
    phrases = sections.decide(bars).sections
    wholes.SURE = keep
    harmony, sound = sections.similarity(bars)
    odds = boundaries.log_odds(sections.looked_at(bars, harmony, sound, bars.chances @ bars.chances.T))
    lead = min(song.grid.lead_in, len(song.grid.bars) - 1)
    lines = np.array([song.grid.clock(s) for s in song.grid.starts[lead:]])
    jams = json.loads(path.with_suffix(".jams").read_text())
    said = next(a["data"] for a in jams["annotations"] if a["namespace"] == "segment_open")
    true = np.array([r["time"] for r in said if r["value"] not in ("silence", "count-in")])
    half = np.median(np.diff(lines)) / 4
    begins = np.abs(lines[:, None] - true[None]).min(1) < half
    limits = [*(p.first for p in phrases), phrases[-1].last]
    parts = wholes.parts_of(limits, [p.letter for p in phrases])
    out: Rows = []
    for _ in range(LEVELS):
        found = wholes.joints(parts, sound, bars.level, odds)
        inside = [float(np.mean([not begins[parts[i].last] for i in j.places])) for j in found]
        out += [(j.features, y, len(j.places) ** 0.5) for j, y in zip(found, inside, strict=True)]
        closable = [k for k, y in enumerate(inside) if y > INSIDE]
        if not closable:
            break
        best = max(closable, key=lambda k: (inside[k], len(found[k].places)))
        parts = wholes.closed(parts, found[best])
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--songs", nargs="+", type=Path, required=True)
    args = parser.parse_args()
    rows: Rows = []
    for path in (p for folder in args.songs for p in sorted(folder.glob("*.ogg"))):
        rows += rows_of(path)
        print(path.stem, len(rows), flush=True)
    x, y, weight = (np.array(part) for part in zip(*rows, strict=True))

    def loss(w: np.ndarray) -> float:
        z = x @ w
        return float((weight * (np.logaddexp(0, z) - y * z)).sum() / weight.sum() + PENALTY * (w[1:] ** 2).sum() / 2)

    found = minimize(loss, np.zeros(x.shape[1]), method="BFGS")
    print(f"{len(rows)} joints, loss {found.fun:.4f}\nWEIGHTS = {tuple(np.round(found.x, 2).tolist())}")


if __name__ == "__main__":
    main()
