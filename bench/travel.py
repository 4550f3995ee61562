"""How many statements until the chart is right, with and without corrections travelling.

    python bench/travel.py [--corpus build/corpus]

Plays the user on the program's own chart: first mends the count (as ``repair.py`` does, which see), then the first
wrong chord from the start (root and third, over the true chord's length), until the chart is right for 98 % of the
time (majmin). Three ways: a statement holds only where it is made and nothing is decided again; the rest is decided
again around it; and it also travels to the other passes and to what sounds the same. Prints statements of count and
chords for each song, the means per minute of music, and what is saved.
"""

from __future__ import annotations

import argparse
import json
import os
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction
from pathlib import Path

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(name, "1")

import numpy as np
import repair

from ychronos.analysis import pipeline
from ychronos.analysis.evidence import Evidence
from ychronos.audio import recording
from ychronos.song import edits
from ychronos.song.grid import Bar, Grid
from ychronos.song.model import Song
from ychronos.theory.chord import Chord, parse_harte
from ychronos.theory.meter import Meter

ENOUGH = 0.98
MOST, COUNT_LIMIT = 300, 12


def rows(truth: dict, namespace: str) -> list[dict]:
    return next(a["data"] for a in truth["annotations"] if a["namespace"] == namespace)


def true_grid(truth: dict) -> Grid:
    """The true bars and beats."""
    beats = rows(truth, "beat_position")
    times = [b["time"] for b in beats]
    starts = [i for i, b in enumerate(beats) if b["value"]["position"] == 1 or i == 0]
    bars = []
    for a, b in zip(starts, [*starts[1:], len(beats)], strict=True):
        value = beats[a]["value"]
        compound = value["beat_units"] == 8 and value["num_beats"] in (2, 3, 4)
        meter = Meter(value["num_beats"] * 3 if compound else value["num_beats"], value["beat_units"])
        bars.append(Bar(meter if meter.beats >= 1 else Meter(b - a), b - a, value["position"]))
    lead = sum(1 for s in starts if beats[s]["value"]["measure"] < 1)
    times.append(times[-1] + float(np.median(np.diff(times[-5:]))))
    return Grid(tuple(bars), tuple(times), min(lead, len(bars) - 1))


def third(chord: Chord) -> tuple[int, str]:
    """Root and kind, as far as they count here."""
    steps = chord.intervals
    if chord.root is None:
        return -1, ""
    return chord.root, "m" if 3 in steps and 4 not in steps else "M" if 4 in steps else ""


def true_spans(truth: dict, grid: Grid) -> list[tuple[Fraction, Fraction, Chord]]:
    """True chords on the grid, snapped to half beats."""
    out = []
    for row in rows(truth, "chord_harte"):
        a, b = (Fraction(round(2 * grid.position(t)), 2) for t in (row["time"], row["time"] + row["duration"]))
        a, b = max(Fraction(0), a), min(grid.end, b)
        if b > a:
            out.append((a, b, parse_harte(row["value"])))
    return out


def wrong(song: Song, spans: list[tuple[Fraction, Fraction, Chord]]) -> tuple[float, int | None]:
    """(share of the counted time that is right, first true chord that is wrong for more than a quarter of it)."""
    good = total = 0.0
    first = None
    for n, (a, b, chord) in enumerate(spans):
        want = third(chord)
        if not want[1] and chord.root is not None:
            continue  # neither major nor minor: not counted
        right = 0
        steps = int((b - a) * 2)
        for k in range(steps):
            have = song.chords[song.chord_index(a + Fraction(k, 2) + Fraction(1, 8))].chord
            right += third(have) == want
        length = song.grid.clock(b) - song.grid.clock(a)
        good += length * right / steps
        total += length
        if first is None and right < 0.75 * steps:
            first = n
    return (good / total if total else 1.0), first


WAYS = ("only where said", "decided again", "travelling")


def play(start: Song, evidence: Evidence, truth: dict, way: int) -> int:
    song, count = start, 0
    spans = true_spans(truth, song.grid)
    while count < MOST:
        share, first = wrong(song, spans)
        if share >= ENOUGH or first is None:
            return count
        a, b, chord = spans[first]
        song, _ = edits.state_chord(song, a, b, chord)
        if way:
            song = pipeline.redecide(song, evidence, travels=way == 2)
        count += 1
    return count


def measure(path: Path) -> tuple[str, float, list[tuple[int, int]]]:
    song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
    return path.stem, *measured(path, song, evidence)


def measured(path: Path, song: Song, evidence: Evidence) -> tuple[float, list[tuple[int, int]]]:
    """(minutes, [(statements of the count, of chords) for each way])."""
    jams = path.with_suffix(".jams")
    truth = json.loads(jams.read_text())
    found = []
    for way in range(3):
        done, mended, _ = repair.mend(song, evidence, repair.Truth(jams), COUNT_LIMIT, again=way > 0)
        right = repair.right(repair.Truth(jams).score(mended))
        found.append((len(done) if right else COUNT_LIMIT, play(mended, evidence, truth, way)))
    return (song.grid.times[-1] - song.grid.times[0]) / 60, found


def report(found: list[tuple[str, float, list[tuple[int, int]]]]) -> None:
    print(f"{'count + chords':24} " + "  ".join(f"{w:>16}" for w in WAYS))
    for name, _, ways in found:
        print(f"{name:24} " + "  ".join(f"{f'{a} + {b}':>16}" for a, b in ways))
    means = [float(np.mean([sum(ways[k]) / minutes for _, minutes, ways in found])) for k in range(3)]
    chords = [float(np.mean([ways[k][1] / minutes for _, minutes, ways in found])) for k in range(3)]
    print("a minute:", ", ".join(f"{m:.2f} {w}" for m, w in zip(means, WAYS, strict=True)))
    print("chords only:", ", ".join(f"{m:.2f} {w}" for m, w in zip(chords, WAYS, strict=True)))
    for name, values in (("all", means), ("chords", chords)):
        print(f"{name}: travelling saves {1 - values[2] / values[0]:.0%} of what it takes where nothing follows, "
              f"{1 - values[2] / values[1]:.0%} of what it takes where only the neighbourhood does")  # fmt: skip


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--corpus", type=Path, default=Path("build/corpus"))
    parser.add_argument("--jobs", type=int, default=2)
    args = parser.parse_args()
    with ProcessPoolExecutor(args.jobs) as pool:
        report(list(pool.map(measure, sorted(args.corpus.glob("*.ogg")))))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
