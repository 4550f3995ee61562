"""Whether a true statement harms what was right.

    python bench/locality.py [--corpus build/corpus] [--each 12]

On every song of a folder with truth: from the program's own chart, one true statement at a time (one is here, so many
beats in this bar, the meter of a bar, a chord, a key, a section begins here, a section is joined to the one before),
at seeded places; the rest is decided again, and what was right before and is wrong after is counted: beats (70 ms),
ones (70 ms), chords (root and third, in tenths of a second, outside of what was said), section boundaries
(0.5 s). Prints for each kind the statements made, how many did harm and the mean harm, then the worst ones.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(name, "1")

import numpy as np
import repair
import travel
from saying import say

from ychronos.analysis import pipeline
from ychronos.audio import recording
from ychronos.paths import cache_folder
from ychronos.song import edits
from ychronos.song.barlines import nearest_beat
from ychronos.song.model import Song
from ychronos.theory.chord import parse_harte

WINDOW, STEP, LINE = 0.07, 0.1, 0.5
Made = tuple[str, str, Callable[[Song], edits.Edited], pipeline.What, tuple[float, float]]


class Right:
    """What of a song is right, by the truth."""

    def __init__(self, truth: dict, song: Song) -> None:
        t = repair_truth(truth)
        grid = song.grid
        self.beats = hits(t.beats, np.array(grid.times[:-1]), WINDOW)
        self.ones = hits(t.downs, np.array([grid.times[s] for s in grid.ones]), WINDOW)
        chords = travel.rows(truth, "chord_harte")
        at = np.arange(0, chords[-1]["time"] + chords[-1]["duration"], STEP)
        want = [travel.third(parse_harte(chords[max(0, int(k))]["value"])) for k in
                np.searchsorted([c["time"] for c in chords], at, "right") - 1]  # fmt: skip
        starts = np.array([grid.clock(s.start) for s in song.chords])
        have = [travel.third(song.chords[max(0, int(k))].chord) for k in np.searchsorted(starts, at, "right") - 1]
        self.chords = np.array([a == b and bool(a[1] or a[0] < 0) for a, b in zip(want, have, strict=True)])
        self.at = at
        lines = [r["time"] for r in travel.rows(truth, "segment_open")][1:]
        found = np.array([grid.clock(s.start) for s in song.sections][1:])
        self.lines = hits(np.array(lines), found, LINE)


def repair_truth(truth: dict) -> repair.Truth:
    made = repair.Truth.__new__(repair.Truth)
    made.fill(truth)
    return made


def hits(truth: np.ndarray, found: np.ndarray, window: float) -> np.ndarray:
    if not len(found) or not len(truth):
        return np.zeros(len(truth), bool)
    return np.abs(truth[:, None] - found[None]).min(1) <= window


def harm(before: Right, after: Right, said: tuple[float, float]) -> dict[str, int]:
    away = (before.at < said[0] - STEP) | (before.at > said[1] + STEP)
    return {
        "beats": int((before.beats & ~after.beats).sum()),
        "ones": int((before.ones & ~after.ones).sum()),
        "chords": int((before.chords & ~after.chords & away).sum()),
        "sections": int((before.lines & ~after.lines).sum()),
    }


def statements(song: Song, truth: dict, each: int, rng: np.random.Generator) -> Iterator[Made]:
    t = repair_truth(truth)
    grid = song.grid
    times = np.array(grid.times[:-1])
    for i in rng.choice(len(t.downs) - 1, min(each, len(t.downs) - 1), replace=False):
        beat = nearest_beat(times, float(t.downs[i]))
        if abs(times[beat] - t.downs[i]) > WINDOW:
            continue
        here = (float(t.downs[i]), float(t.downs[i + 1]))
        yield "one", f"{here[0]:.0f} s", lambda s, b=beat: edits.one_is_here(s, b), "bars", here
        first, last = (int(np.abs(t.beats - x).argmin()) for x in here)
        on = nearest_beat(times, here[1])
        bar = grid.bar_at(beat)
        if grid.starts[bar] == beat and on - beat == last - first:
            n = last - first
            yield (
                "length",
                f"{n} beats at {here[0]:.0f} s",
                lambda s, b=bar, n=n: edits.set_length(s, b, n),
                "bars",
                here,
            )
            meter = t.meters[first]
            if meter.beats == n:
                yield (
                    "meter",
                    f"{meter} at {here[0]:.0f} s",
                    lambda s, b=bar, m=meter: edits.set_meter(s, b, b, m),
                    "bars",
                    here,
                )
        drag = float(t.beats[first])
        yield "beat", f"{drag:.1f} s", lambda s, b=beat, x=drag: edits.move_beat(s, b, x), "beats", here
    spans = travel.true_spans(truth, grid)
    for i in rng.choice(len(spans), min(each, len(spans)), replace=False):
        a, b, chord = spans[i]
        here = (grid.clock(a), grid.clock(b))
        yield (
            "chord",
            f"{chord.name()} at {here[0]:.0f} s",
            lambda s, a=a, b=b, c=chord: edits.state_chord(s, a, b, c),
            "chords",
            here,
        )
    lines = np.array([r["time"] for r in travel.rows(truth, "segment_open")][1:])
    bars_at = np.array([grid.clock(s) for s in grid.starts[:-1]])
    for line in lines:
        near = int(np.abs(bars_at - line).argmin())
        place = grid.bar_range(near)[0]
        if abs(bars_at[near] - line) < LINE and place not in song.sections.starts:
            yield "section", f"{line:.0f} s", lambda s, p=place: edits.start_section(s, p), "chords", (line, line)
    for i in range(1, len(song.sections)):
        at = grid.clock(song.sections[i].start)
        if not len(lines) or np.abs(lines - at).min() > LINE:
            yield "join", f"{at:.0f} s", lambda s, i=i: edits.join_section(s, i), "chords", (at, at)


def measure(job: tuple[Path, int]) -> list[tuple[str, str, str, dict[str, int], float]]:
    path, each = job
    truth = json.loads(path.with_suffix(".jams").read_text())
    song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem, cache=cache_folder())
    before = Right(truth, song)
    out = []
    for kind, words, make, what, said in statements(song, truth, each, np.random.default_rng(11)):
        begin = time.perf_counter()
        new = say(song, evidence, make, what)
        if new is None:
            continue
        out.append((path.stem, kind, words, harm(before, Right(truth, new), said), time.perf_counter() - begin))
    return out


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--corpus", type=Path, default=Path("build/corpus"))
    parser.add_argument("--each", type=int, default=12, help="places a song and kind")
    parser.add_argument("--jobs", type=int, default=2)
    args = parser.parse_args()
    with ProcessPoolExecutor(args.jobs) as pool:
        found = [
            r for rows in pool.map(measure, [(p, args.each) for p in sorted(args.corpus.glob("*.ogg"))]) for r in rows
        ]
    print(f"{'kind':10}{'made':>6}{'harmful':>9}  lost for each statement: beats, ones, chords (s), sections")
    for kind in dict.fromkeys(r[1] for r in found):
        rows = [r for r in found if r[1] == kind]
        mean = {k: float(np.mean([r[3][k] for r in rows])) for k in rows[0][3]}
        bad = sum(any(r[3].values()) for r in rows)
        print(
            f"{kind:10}{len(rows):6}{bad:9}  {mean['beats']:.2f} {mean['ones']:.2f} {mean['chords'] * STEP:.2f} {mean['sections']:.2f}"
        )
    worst = sorted(found, key=lambda r: -sum(r[3].values()))[:20]
    for name, kind, words, lost, _ in worst:
        if any(lost.values()):
            print(f"  {name:24} {kind:8} {words:28} {', '.join(f'{v} {k}' for k, v in lost.items() if v)}")
    print(f"deciding again: median {np.median([r[4] for r in found]):.2f} s, slowest {max(r[4] for r in found):.2f} s")
    return 0


if __name__ == "__main__":
    sys.exit(main())
