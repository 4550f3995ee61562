"""Repair cost: how many statements until the count is right.

    python bench/repair.py [--corpus build/corpus] [--limit 12]

Plays the user on every song of a folder with truth: while beat F < 0.99 or downbeat F < 0.98 (70 ms) it makes
the one statement, of those that the errors suggest, that helps most, lets the rest be decided again from the
evidence, and counts. Statements are gestures of the window: half or double tempo, tap along for two bars
(with 10 ms of jitter), "one is here", ones a beat earlier or later, beats in this bar, the meter of the song or of
a stretch, drag a beat, a beat more or less, beats between. Prints each song's statements, the mean and the worst.
"""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import mir_eval
import numpy as np
from saying import say

from ychronos.analysis import pipeline
from ychronos.analysis.evidence import Evidence
from ychronos.audio import recording
from ychronos.song import edits
from ychronos.song.barlines import nearest_beat
from ychronos.song.model import Song
from ychronos.theory.meter import Meter

BEATS, DOWNS, WINDOW = 0.99, 0.98, 0.07
SUFFIXES = (".ogg", ".flac", ".wav", ".mp3", ".m4a", ".opus")
Statement = tuple[str, Callable[[Song], edits.Edited], pipeline.What]


class Truth:
    def __init__(self, path: Path) -> None:
        self.fill(json.loads(path.read_text()))

    def fill(self, truth: dict) -> None:
        rows = next(a["data"] for a in truth["annotations"] if a["namespace"] == "beat_position")
        self.beats = np.array([r["time"] for r in rows])
        self.position = np.array([r["value"]["position"] for r in rows])
        count = np.array([r["value"]["num_beats"] for r in rows])
        unit = np.array([r["value"]["beat_units"] for r in rows])
        self.meters = [
            Meter(int(n) * 3, 8) if u == 8 and n in (2, 3, 4) else Meter(int(n), 8 if u == 8 else 4)
            for n, u in zip(count, unit, strict=True)
        ]
        self.downs = self.beats[self.position == 1]

    def score(self, song: Song) -> tuple[float, float]:
        grid = song.grid
        ones = [grid.times[s] for s in grid.ones]
        return (
            float(mir_eval.beat.f_measure(self.beats, np.array(grid.times[:-1]), WINDOW)),
            float(mir_eval.beat.f_measure(self.downs, np.array(ones), WINDOW)) if ones else 0.0,
        )


def missing(truth: np.ndarray, found: np.ndarray) -> np.ndarray:
    """Indexes of true times without a found one within the window."""
    return np.flatnonzero(np.abs(truth[:, None] - found[None]).min(1) > WINDOW)


def longest_run(indexes: np.ndarray) -> int:
    """Where the longest run of neighbouring indexes begins."""
    if not len(indexes):
        return 0
    runs = np.split(indexes, np.flatnonzero(np.diff(indexes) > 2) + 1)
    return int(max(runs, key=len)[0])


def statements(song: Song, truth: Truth, rng: np.random.Generator) -> Iterator[Statement]:
    """What a user would think of, hearing where the count is wrong."""
    grid = song.grid
    times = np.array(grid.times[:-1])
    ones = np.array([grid.times[s] for s in grid.ones])
    lost = missing(truth.beats, times)
    ratio = np.median(np.diff(truth.beats)) / np.median(np.diff(times))
    if ratio > 1.6:
        yield "half as fast", edits.half_tempo, "beats"
    if ratio < 0.65:
        yield "twice as fast", edits.double_tempo, "beats"
    places = {int(lost[0]), longest_run(lost)} if len(lost) else set()
    if not 0.8 < ratio < 1.25:
        places |= {0, len(truth.beats) // 2}
    for first in sorted(places):
        first = max(0, min(first, len(truth.beats) - 9))
        taps = (truth.beats[first : first + 9] + rng.normal(0, 0.01, len(truth.beats[first : first + 9]))).tolist()
        yield f"tap at {taps[0]:.0f} s", lambda s, taps=taps: edits.tap(s, taps), "beats"
        near = nearest_beat(times, float(truth.beats[first]))
        moved = float(truth.beats[first])
        yield f"drag to {moved:.1f} s", lambda s, b=near, t=moved: edits.move_beat(s, b, t), "beats"
    extra = missing(times, truth.beats)
    if len(extra):
        yield "a beat less", lambda s, b=int(extra[0]): edits.remove_beat(s, b), "chords"
    if len(lost):
        before = max(0, int(np.searchsorted(times, truth.beats[lost[0]])) - 1)
        yield "a beat more", lambda s, b=before: edits.insert_beat(s, b), "chords"
    yield "beats are between", lambda s: edits.between_beats(s, 0, len(s.grid.bars) - 1), "bars"
    if len(lost) > 3:
        runs = np.split(lost, np.flatnonzero(np.diff(lost) > 2) + 1)
        run = max(runs, key=len)
        a, b = (grid.bar_at(nearest_beat(times, float(truth.beats[i]))) for i in (run[0], run[-1]))
        yield (
            f"beats are between in bars {a + 1} to {b + 1}",
            (lambda s, a=a, b=b: edits.between_beats(s, a, b)),
            "bars",
        )
    yield "ones later", lambda s: edits.shift_ones(s, 1), "chords"
    yield "ones earlier", lambda s: edits.shift_ones(s, -1), "chords"
    lost_ones = missing(truth.downs, ones) if len(ones) else np.arange(len(truth.downs))
    places = {int(lost_ones[0]), longest_run(lost_ones), int(lost_ones[-1])} if len(lost_ones) else set()
    too_many = missing(ones, truth.downs) if len(ones) else []
    if len(too_many):  # the true bars in which there is a bar line that should not be
        places |= {max(0, int(np.searchsorted(truth.downs, ones[k] - WINDOW)) - 1) for k in (too_many[0], too_many[-1])}
    for i in sorted(places):
        beat = nearest_beat(times, float(truth.downs[i]))
        if abs(times[beat] - truth.downs[i]) < WINDOW:
            yield f"one at {truth.downs[i]:.0f} s", lambda s, b=beat: edits.one_is_here(s, b), "bars"
        place = int(np.searchsorted(truth.beats, truth.downs[i] - 0.01))
        for start in (place, int(np.flatnonzero(truth.position[: place + 1] == 1)[:-1][-1]) if i else place):
            stop = next((k for k in range(start + 1, len(truth.beats)) if truth.position[k] == 1), len(truth.beats))
            bar = grid.bar_at(nearest_beat(times, float(truth.beats[start])))
            number = stop - start
            yield (
                f"{number} beats at {truth.beats[start]:.0f} s",
                lambda s, b=bar, n=number: edits.set_length(s, b, n),
                "bars",
            )
        last = place
        while last + 1 < len(truth.beats) and truth.meters[last + 1] == truth.meters[place]:
            last += 1
        first_bar = grid.bar_at(nearest_beat(times, float(truth.beats[place])))
        last_bar = max(first_bar, grid.bar_at(nearest_beat(times, float(truth.beats[last]))))
        meter = truth.meters[place]
        yield (
            f"{meter} from {truth.beats[place]:.0f} s",
            (lambda s, a=first_bar, b=last_bar, m=meter: edits.set_meter(s, a, b, m)),
            "bars",
        )
    usual = max(set(truth.meters), key=truth.meters.count)
    yield f"{usual} throughout", (lambda s, m=usual: edits.set_meter(s, 0, len(s.grid.bars) - 1, m)), "bars"


def right(score: tuple[float, float]) -> bool:
    """Whether beats and bar lines count as right."""
    return score[0] >= BEATS and score[1] >= DOWNS


def mend(
    song: Song, evidence: Evidence, truth: Truth, limit: int, again: bool = True, seed: int = 7
) -> tuple[list[str], Song, float]:
    """Play the user until the count is right: (statements made, the song then, slowest deciding). Without ``again``
    nothing is decided again: a statement changes only what it says."""
    rng = np.random.default_rng(seed)
    done: list[str] = []
    score = truth.score(song)
    slowest = 0.0
    while not right(score) and len(done) < limit:
        best: tuple[float, str, Song] | None = None
        for words, make, what in statements(song, truth, rng):
            try:
                begin = time.perf_counter()
                new = say(song, evidence if again else None, make, what)
                slowest = max(slowest, time.perf_counter() - begin)
            except (ValueError, IndexError):
                continue
            if new is None:
                continue
            value = sum(truth.score(new))
            if words not in done and (best is None or value > best[0]):
                best = (value, words, new)
        if best is None or best[0] <= sum(score):
            break
        done.append(best[1])
        song, score = best[2], truth.score(best[2])
    return done, song, slowest


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--corpus", type=Path, default=Path("build/corpus"))
    parser.add_argument("--limit", type=int, default=12, help="statements after which a song is given up")
    args = parser.parse_args()
    costs: list[int] = []
    for path in sorted(args.corpus.glob("*.jams")):
        audio = next((path.with_suffix(s) for s in SUFFIXES if path.with_suffix(s).exists()), None)
        if audio is None:
            continue
        truth = Truth(path)
        song, evidence = pipeline.analyse(recording.load(audio, keep_samples=False), audio.stem)
        done, song, slowest = mend(song, evidence, truth, args.limit)
        score = truth.score(song)
        costs.append(len(done))
        print(
            f"{path.stem:24s} {len(done):2d}  beat {score[0]:.3f} one {score[1]:.3f}  {slowest:.2f} s  {' · '.join(done)}",
            flush=True,
        )
    print(f"{len(costs)} songs: mean {np.mean(costs):.2f}, worst {max(costs)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
