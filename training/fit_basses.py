"""Fit the weights that say which of its notes a chord has in the bass (``analysis/chords/basses``).

    python training/fit_basses.py FOLDER [FOLDER ...] [--moving FOLDER] [--trial FOLDER] [--ridge 1e-3] --out src/ychronos/analysis/weights/basses.npz
    python training/fit_basses.py FOLDER [FOLDER ...] --passes [--trial FOLDER] --out src/ychronos/analysis/weights/basses.npz

FOLDERS hold recordings with their JAMS (``make_songs.py --ogg``). Songs are analysed as the program does it, but for this step;
of every chord that it finds, the bass that sounds for most of it in truth is right. A conditional logit by L-BFGS, a chord
weighing as long as it lasts, up to four seconds. Where two parts of one chord differ in their bass alone, a logistic regression
tells whether the truth has a change there, fitted on these songs and those whose bass moves (``make_songs.py --arranged``). It tells how songs left out of fitting fare, a fifth at a time, and the trials.

With ``--passes`` all that stays as it ships, and only how much the other passes of the music say is fitted, on the chords that stand.
"""

from __future__ import annotations

import argparse
import json
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import numpy as np
from logit import conditional_logit, logistic

from ychronos.analysis import net, pipeline
from ychronos.analysis.chords import basses
from ychronos.analysis.lines import bassline
from ychronos.audio import recording
from ychronos.theory.chord import Chord, parse_harte

LONGEST = 4.0  # seconds up to which a chord weighs
MOSTLY = 0.6  # of a chord, over which its true bass must sound
MOST = 12  # basses of a chord
INVERTED = 2.0  # how much more an inverted chord weighs when passes are fitted: such chords are few
NEAR = 0.2  # seconds between a change and the true one
JOINT_RIDGE = 0.02


@dataclass(frozen=True)
class Row:
    """A chord as it was found: the basses it may have, what speaks for each, seconds of each true bass in it, of those over
    which a chord is inverted in truth, and the bass as it was heard before."""

    song: str
    found: list[int]
    features: np.ndarray
    true: np.ndarray
    inverted: np.ndarray
    before: int
    seconds: float
    goes_on: tuple[float, bool, bool] | None = (
        None  # from the row before as one chord: its beats, is this a one, is there a true change
    )
    held: np.ndarray | float = 0.0  # (basses,) what speaks for each besides


Truth = list[tuple[float, float, Chord]]


def truth_of(sound: Path) -> Truth:
    """The true chords of a recording, from when to when each."""
    chords = next(a["data"] for a in json.loads(sound.with_suffix(".jams").read_text())["annotations"]
                  if a["namespace"] == "chord_harte")  # fmt: skip
    return [(r["time"], r["time"] + r["duration"], parse_harte(r["value"])) for r in chords]


def sounding(true: Truth, start: float, end: float) -> tuple[np.ndarray, np.ndarray]:
    """(12,) seconds of each true bass from ``start`` to ``end``, and of those over which a chord is inverted."""
    all_, inverted = np.zeros(12), np.zeros(12)
    for a, b, chord in true:
        both = min(b, end) - max(a, start)
        if both > 0 and chord.sounding_bass is not None:
            all_[chord.sounding_bass] += both
            inverted[chord.sounding_bass] += both * (chord.bass is not None)
    return all_, inverted


def rows_of(sound: Path, cache: Path | None) -> list[Row]:
    song, evidence = pipeline.analyse(recording.load(sound), sound.stem, cache=cache)
    true = truth_of(sound)
    limits = [song.grid.clock(c.start) for c in song.chords] + [song.grid.times[-1]]
    out: list[Row] = []
    last: list[int] = []
    for same, found, x in basses.rows(song, evidence, bassline.find(song, evidence)):
        k = same[0]
        goes_on = None
        if out and basses._goes_on(song, last, same):
            beats = float(song.chords[k].start - song.chords[last[0]].start)
            true_change = any(abs(a - limits[k]) < NEAR for a, _, _ in true)
            goes_on = beats, song.chords[k].start in song.grid.starts, true_change
        last = same
        all_, inverted = sounding(true, limits[k], limits[k + 1])
        before = song.chords[k].chord.sounding_bass
        assert before is not None
        out.append(Row(sound.stem, found, x, all_, inverted, before, limits[k + 1] - limits[k], goes_on))
    return out


def passes_of(sound: Path, cache: Path | None) -> list[Row]:
    """The chords that stand, bar by bar, with what the passes say of each bass; what its own sound says is held."""
    song, evidence = pipeline.analyse(recording.load(sound), sound.stem, cache=cache)
    song, true, weights = basses.in_bars(song), truth_of(sound), net.weights("basses")["basses"].astype(float)
    found = basses.standing(song, evidence, song.bassline)
    out: list[Row] = []
    for (same, may_have, x), more in zip(found, basses.by_passes(song, found), strict=True):
        start, end = song.grid.clock(song.chords[same[0]].start), song.grid.clock(song.chord_range(same[-1])[1])
        own = x @ weights
        out.append(
            Row(
                sound.stem,
                may_have,
                more,
                *sounding(true, start, end),
                may_have[int(own.argmax())],
                end - start,
                held=own,
            )
        )
    return out


def fit(rows: list[Row], ridge: float, inverted: float = 1.0) -> np.ndarray:
    rows = [r for r in rows if r.true.max() > MOSTLY * r.seconds and int(r.true.argmax()) in r.found]
    x = np.zeros((len(rows), MOST, rows[0].features.shape[1]))
    there, held = np.zeros((len(rows), MOST), bool), np.zeros((len(rows), MOST))
    for k, r in enumerate(rows):
        x[k, : len(r.found)], there[k, : len(r.found)], held[k, : len(r.found)] = r.features, True, r.held
    right = np.array([r.found.index(int(r.true.argmax())) for r in rows])
    upside_down = np.array([r.inverted.max() > r.seconds / 2 for r in rows])
    weight = np.array([min(r.seconds, LONGEST) for r in rows]) * np.where(upside_down, inverted, 1)
    scale = x[there].std(0) + 1e-6
    return conditional_logit(x / scale, right, ridge, weight, there, held)[0] / scale


def fit_joints(songs: list[list[Row]], w: np.ndarray) -> np.ndarray:
    """Weights of ``basses.joint_features``, the constant first."""
    x, y = [], []
    for song in songs:
        for one, two in pairwise(song):
            if two.goes_on is None:
                continue
            shares = [basses._log_shares(r.features, w) for r in (one, two)]
            if shares[0].argmax() != shares[1].argmax():
                x.append(basses.joint_features(*shares, *two.goes_on[:2]))
                y.append(float(two.goes_on[2]))
    rows, true = np.array(x), np.array(y)
    mean, spread = rows[:, 1:].mean(0), rows[:, 1:].std(0) + 1e-6
    *w_rest, constant = logistic(
        np.c_[(rows[:, 1:] - mean) / spread, np.ones(len(true))], true, JOINT_RIDGE * len(true)
    )
    rest = np.array(w_rest) / spread
    v = np.r_[constant - rest @ mean, rest]
    kept = rows @ v > basses.JOINED
    print(
        f"joints: {true.sum():.0f} changes of {len(true)}, kept {(kept & (true > 0)).sum()} and {(kept & (true == 0)).sum()} wrongly"
    )
    return v


def report(words: str, chosen: list[tuple[Row, int]]) -> None:
    """Share of the time with the right bass, of inverted chords too, before and after, in the mean of songs."""
    songs: dict[str, np.ndarray] = {}
    for r, bass in chosen:
        songs.setdefault(r.song, np.zeros(6))[:] += [r.true.sum(), r.true[r.before], r.true[bass],
                                                     r.inverted.sum(), r.inverted[r.before], r.inverted[bass]]  # fmt: skip
    v = np.array(list(songs.values()))
    all_, inverted = v[v[:, 0] > 0], v[v[:, 3] > 0.5]
    one, two = (all_[:, k] / all_[:, 0] for k in (1, 2))
    three, four = (inverted[:, k] / inverted[:, 3] for k in (4, 5))
    print(
        f"{words}: {len(all_)} songs, bass {one.mean():.3f} -> {two.mean():.3f}; {len(inverted)} with inversions, "
        f"{inverted[:, 3].sum():.0f} s: {three.mean():.3f} -> {four.mean():.3f}"
    )


def choose(rows: list[Row], w: np.ndarray) -> list[tuple[Row, int]]:
    return [(r, r.found[int((r.features @ w + r.held).argmax())]) for r in rows]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--moving", type=Path, action="append", default=[], help="songs for the joints alone")
    parser.add_argument("--trial", type=Path, action="append", default=[])
    parser.add_argument("--cache", type=Path, help="where evidence is kept for another time")
    parser.add_argument("--passes", action="store_true", help="fit only what the passes say")
    parser.add_argument("--ridge", type=float, default=1e-3)
    parser.add_argument("--out", type=Path)
    args = parser.parse_args()
    basses.decide = lambda song, *_: song.chords  # chords as they are before this step
    read, inverted = (passes_of, INVERTED) if args.passes else (rows_of, 1.0)
    songs = [read(p.with_suffix(".ogg"), args.cache) for folder in args.folders for p in sorted(folder.glob("*.jams"))]
    left_out = []
    for k in range(5):
        w = fit([r for i, song in enumerate(songs) if i % 5 != k for r in song], args.ridge, inverted)
        left_out += choose([r for i, song in enumerate(songs) if i % 5 == k for r in song], w)
    report("left out", left_out)
    w = fit([r for song in songs for r in song], args.ridge, inverted)
    for folder in args.trial:
        rows = [r for p in sorted(folder.glob("*.jams")) for r in read(p.with_suffix(".ogg"), args.cache)]
        report(folder.name, choose(rows, w))
    if args.out is not None and args.passes:
        np.savez_compressed(args.out, **(net.weights("basses") | {"passes": w.astype(np.float32)}))
    elif args.out is not None:
        moving = [p for folder in args.moving for p in sorted(folder.glob("*.jams"))]
        joints = fit_joints([*songs, *(rows_of(p.with_suffix(".ogg"), args.cache) for p in moving)], w)
        fitted = {"basses": w.astype(np.float32), "joints": joints.astype(np.float32)}
        np.savez_compressed(args.out, **(net.weights("basses") | fitted))


if __name__ == "__main__":
    main()
