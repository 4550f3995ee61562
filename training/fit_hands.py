"""Fit what the record says about hands: weights of notes (``analysis/hands/played``) and of capos (``guitar/setups``).

    python training/fit_hands.py --songs FOLDER [FOLDER ...] [--out src/ychronos/guitar/odds.json] [--folds 4]

FOLDER holds recordings with NAME.jams and NAME.play.json, made by ``bench/tools/make_song.py --hands`` and without it. The
evidence is gathered once and kept beside them. Chords and times are the truth's; capos from 0 to 9 are rivals. With
--folds it first says how well songs that were left out are told.
"""

from __future__ import annotations

import argparse
import json
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

from ychronos.analysis.evidence import evidence_of
from ychronos.analysis.hands.played import EDGE, FEATURES, FEWEST, features
from ychronos.analysis.spectra import PITCH_RATE
from ychronos.audio import recording
from ychronos.guitar import setups
from ychronos.guitar.hands import _notes
from ychronos.guitar.odds import HIGHEST, LOWEST
from ychronos.theory.chord import Chord, parse_harte

CAPOS = range(setups.HIGHEST + 1)
PENALTY = 0.02


@dataclass
class Row:
    """A chord of a song: one row of ``features`` a shape, with its capo and notes; ``true`` notes; ``frames``."""

    design: np.ndarray
    capo: np.ndarray
    notes: list[tuple[int, ...]]
    effort: np.ndarray
    true: tuple[int, ...]
    frames: int


@dataclass
class Song:
    name: str
    capo: int
    rows: list[Row]


def song_of(path: Path, cache: Path) -> Song | None:
    play = json.loads(path.with_suffix("").with_suffix(".play.json").read_text())
    voicings = [v for v in play["voicings"] if v["part"] == "gtr"]
    if not voicings:
        return None
    evidence = evidence_of(recording.load(path, keep_samples=False), cache)
    jams = json.loads(path.with_suffix(".jams").read_text())
    said = next(a["data"] for a in jams["annotations"] if a["namespace"] == "chord_harte")
    sums: dict[Chord, np.ndarray] = {}
    count: dict[Chord, int] = {}
    true: dict[Chord, tuple[int, ...]] = {}
    tuning = tuple(play["tuning"])
    for v in voicings:
        row = next((r for r in said if r["time"] <= v["time"] + 0.01 < r["time"] + r["duration"]), None)
        chord = parse_harte(v["chord"])
        if row is None or chord.root is None or chord.quality == "5":
            continue
        first = int((v["time"] + EDGE) * PITCH_RATE) + 1
        last = max(first + 1, int((row["time"] + row["duration"] - EDGE) * PITCH_RATE))
        part = evidence.notes[first:last].astype(np.float64)
        sums[chord] = sums.get(chord, 0.0) + part.sum(0)
        count[chord] = count.get(chord, 0) + len(part)
        true[chord] = tuple(t + f for t, f in zip(tuning, v["frets"], strict=True) if f != "x")
    rows = []
    for chord, total in sums.items():
        if count[chord] < FEWEST:
            continue
        table = features(total / count[chord])
        design, capos, notes, effort = [], [], [], []
        for capo in CAPOS:
            for shape, cost, hard, _ in setups.shapes_of(chord, tuning, capo):
                played = tuple(_notes(shape, tuning, capo))
                inside = [n - LOWEST for n in set(played) if LOWEST <= n <= HIGHEST]
                design.append(np.concatenate([table[inside].sum(0), [-cost]]))
                capos.append(capo)
                notes.append(played)
                effort.append(hard)
        rows.append(Row(np.array(design), np.array(capos), notes, np.array(effort), true[chord], count[chord]))
    return Song(path.stem, int(play["capo"]), rows)


Parts = tuple[np.ndarray, np.ndarray]


def capo_scores(song: Song, w: np.ndarray, scale: np.ndarray) -> Parts:
    """(what the record says for each capo, its slope in w)."""
    said, slope = np.zeros(len(CAPOS)), np.zeros((len(CAPOS), len(w)))
    total = sum(r.frames for r in song.rows)
    for r in song.rows:
        z = (r.design / scale) @ w
        for c in CAPOS:
            here = r.capo == c
            if not here.any():
                said[c] -= 5 * r.frames / total
                continue
            top = z[here].max()
            e = np.exp(z[here] - top)
            said[c] += (top + np.log(e.sum())) * r.frames / total
            slope[c] += (e / e.sum()) @ (r.design[here] / scale) * r.frames / total
    return said, slope


def priors() -> np.ndarray:
    """(capos, 2): how far up, and how far beyond the fifth fret."""
    return np.array([[-c, -max(0, c - 5)] for c in CAPOS], float)


def fit(songs: list[Song]) -> np.ndarray:
    """Weights of notes and cost, of the two priors, and of what the record says against them."""
    width = FEATURES + 1
    scale = np.concatenate([r.design for s in songs for r in s.rows]).std(0) + 1e-6
    shapes = []
    for s in songs:
        for r in s.rows:
            own = np.where(r.capo == s.capo)[0]
            right = [k for k, i in enumerate(own) if r.notes[i] == r.true]
            if right:
                shapes.append((r.design[own] / scale, right[0]))
    prior = priors()

    def loss(x: np.ndarray) -> tuple[float, np.ndarray]:
        w, value, slope = x[:width], 0.0, np.zeros(len(x))
        for design, right in shapes:
            z = design @ w
            p = np.exp(z - z.max())
            p /= p.sum()
            value -= float(np.log(p[right] + 1e-12)) / len(shapes)
            slope[:width] -= (design[right] - p @ design) / len(shapes)
        for s in songs:
            said, by_w = capo_scores(s, w, scale)
            z = prior @ x[width : width + 2] + x[-1] * said
            p = np.exp(z - z.max())
            p /= p.sum()
            value -= float(np.log(p[s.capo] + 1e-12)) / len(songs)
            off = -p
            off[s.capo] += 1
            slope[:width] -= x[-1] * (off @ by_w) / len(songs)
            slope[width : width + 2] -= off @ prior / len(songs)
            slope[-1] -= float(off @ said) / len(songs)
        return value + PENALTY * float(w @ w) / 2, slope + PENALTY * np.concatenate([w, np.zeros(3)])

    start = np.concatenate([np.zeros(width - 1), [1.0, 0.1, 0.2, 1.0]])
    # no capo is likelier for being higher up, whatever a few songs say
    bounds = [(None, None)] * (width - 1) + [(0.2, None), (0.05, None), (0.1, None), (0.2, None)]
    found = minimize(loss, start, jac=True, method="L-BFGS-B", bounds=bounds, options={"maxiter": 150}).x
    found[:width] /= scale
    return found


def told(songs: list[Song], x: np.ndarray, words: str) -> None:
    width = FEATURES + 1
    first = second = 0
    hits, total = np.zeros(3), 0
    for s in songs:
        said, _ = capo_scores(s, x[:width], np.ones(width))
        order = np.argsort(-(priors() @ x[width : width + 2] + x[-1] * said))
        first += order[0] == s.capo
        second += s.capo in order[:2]
        for r in s.rows:
            here = np.where(r.capo == order[0])[0]
            total += r.frames
            if len(here):
                best = r.notes[here[int((r.design[here] @ x[:width]).argmax())]]
                hits += r.frames * np.array([best == r.true, best[0] == r.true[0], best[-1] == r.true[-1]])
    n = len(songs)
    print(
        f"{words}: {n} songs, capo first {first / n:.2f}, of two {second / n:.2f}; shape, low, top",
        np.round(hits / total, 2),
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--songs", type=Path, nargs="+", required=True)
    parser.add_argument("--out", type=Path)
    parser.add_argument("--folds", type=int, default=0)
    args = parser.parse_args()
    songs = []
    for folder in args.songs:
        for path in sorted(folder.glob("*.ogg")):
            song = song_of(path, folder / "evidence")
            if song is not None and song.rows:
                songs.append(song)
    for k in range(args.folds):
        told(songs[k :: args.folds], fit([s for i, s in enumerate(songs) if i % args.folds != k]), f"left out {k}")
    found = fit(songs)
    told(songs, found, "all")
    cost = found[FEATURES]
    out = {
        "about": "fitted by training/fit_hands.py: odds of notes in units of what a shape costs; a capo's fret, each fret "
        "beyond the fifth, and what the record says",
        "notes": [round(float(x), 4) for x in found[:FEATURES] / cost],
        "capo": {
            "fret": round(float(found[-3]), 4),
            "far": round(float(found[-2]), 4),
            "trust": round(float(found[-1]), 4),
            "cost": round(float(cost), 4),
        },
    }
    print(json.dumps(out, indent=1))
    if args.out:
        args.out.write_text(json.dumps(out, indent=1) + "\n")


if __name__ == "__main__":
    main()
