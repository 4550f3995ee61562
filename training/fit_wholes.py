"""Fit the weights of the readings of a song's phrases (``analysis/form/wholes``).

    python training/fit_wholes.py --songs FOLDER [FOLDER ...]

FOLDER holds recordings with their JAMS beside them; which songs the shipped weights are from is told in ``docs/analysis.md``. Every reading
of a song's phrases that the program compares is scored against the true beginnings (F, half a bar); the model learns to give the best
ones all the chance there is. Prints the weights.
"""

from __future__ import annotations

import argparse
import json
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

from ychronos.analysis import pipeline
from ychronos.analysis.chords.deciding import free_chords
from ychronos.analysis.evidence import Evidence
from ychronos.analysis.form import deciding, sections, wholes
from ychronos.audio import recording
from ychronos.song.model import Song

SHARP = 20.0  # of F in what is learned: a reading worse by .05 counts a third
PENALTY = 0.01


@dataclass(frozen=True)
class Case:
    """A song's phrases with the features (readings, k) of each reading and how right it is (readings,)."""

    name: str
    phrases: wholes.Phrases
    readings: list[wholes.Reading]
    features: np.ndarray
    right: np.ndarray


def rightness(lines: np.ndarray, true: np.ndarray, limits: tuple[int, ...], begins: wholes.Reading) -> float:
    """F of the beginnings after the first one, within half a bar. ``lines`` (bars + 1,) and ``true`` in seconds."""
    near = np.median(np.diff(lines)) / 4
    told, real = lines[[limits[k] for k in begins if limits[k] > 0]], true[true > lines[0] + near]
    if not len(told) or not len(real):
        return float(len(told) == len(real))
    hits = (np.abs(told[:, None] - real[None]).min(axis=1) < near).sum()
    return float(2 * hits / (len(told) + len(real)))


def case_of(name: str, song: Song, evidence: Evidence, truth: Path) -> Case | None:
    """What is learned of an analysed song; None where it is too short for sections."""
    bare = pipeline._bare(song.grid)
    song = replace(song, grid=bare, chords=free_chords(evidence, bare, song.keys))
    bars = deciding.describe_bars(evidence, song)
    if len(bars.level) < 4 or sections.tapes.cuts(bars.level):
        return None
    lead = min(song.grid.lead_in, len(song.grid.bars) - 1)
    lines = np.array([song.grid.clock(s) for s in song.grid.starts[lead:]])
    jams = json.loads(truth.read_text())
    said = next(a["data"] for a in jams["annotations"] if a["namespace"] == "segment_open")
    true = np.array([r["time"] for r in said if r["value"] not in ("silence", "count-in")])
    limits, letters, sound, odds, _ = sections.stretches(bars)
    phrases = wholes.phrases_of(limits, letters, sound, bars.level, odds)
    readings = [*wholes.readings(phrases, wholes.kinds(phrases))]
    features = np.array([wholes.features(phrases, r) for r in readings], float)
    return Case(
        name, phrases, readings, features, np.array([rightness(lines, true, phrases.limits, r) for r in readings])
    )


def fit(cases: list[Case]) -> tuple[np.ndarray, float]:
    """(weights, loss) of a conditional logit over the readings of each song."""
    size = np.concatenate([c.features - c.features.mean(0) for c in cases]).std(0) + 1e-6
    at = np.concatenate([[0], np.cumsum([len(c.readings) for c in cases])])
    x = np.concatenate([(c.features - c.features[0]) / size for c in cases])
    song, begin = np.repeat(np.arange(len(cases)), np.diff(at)), at[:-1]
    wanted = np.exp(SHARP * np.concatenate([c.right - c.right.max() for c in cases]))
    wanted /= np.add.reduceat(wanted, begin)[song]

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        z = x @ w
        z -= np.maximum.reduceat(z, begin)[song]
        log = z - np.log(np.add.reduceat(np.exp(z), begin))[song]
        slope = x.T @ (np.exp(log) - wanted) / len(cases) + PENALTY * w
        return float(-(wanted * log).sum() / len(cases) + PENALTY * (w**2).sum() / 2), slope

    found = minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B")
    return found.x / size, float(found.fun)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--songs", nargs="+", type=Path, required=True)
    args = parser.parse_args()
    cases = []
    for path in (p for folder in args.songs for p in sorted(folder.glob("*.ogg"))):
        song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
        case = case_of(path.stem, song, evidence, path.with_suffix(".jams"))
        cases += [case] if case else []
        print(path.stem, len(cases), flush=True)
    weights, loss = fit(cases)
    right = np.mean([c.right[int(np.argmax(c.features @ weights))] for c in cases])
    print(f"{len(cases)} songs, loss {loss:.4f}, F {right:.3f}\nWEIGHTS = {tuple(np.round(weights, 2).tolist())}")


if __name__ == "__main__":
    main()
