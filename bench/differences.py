"""How well the differences between the passes of a section are found.

    python bench/differences.py [--corpus build/corpus] [--verbose]

Truth: the passes of each section of the true song (bars, chords and sections of the JAMS) aligned with each other;
runs of bars that differ are one difference, and so is a transposed pass. Found: what the program points out, from
the sound alone, in three settings: with the true bars and sections given; with its own count, the sections stated
by the user; and with nothing given. A true difference is found when a reported one, bar against bar, covers it;
a reported one is right when the true chords (or bars) at its two places do differ. Printed are recall and
precision for each song and over all.
"""

from __future__ import annotations

import argparse
import json
import os
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(name, "1")

from travel import rows, true_grid, true_spans

from ychronos.analysis import pipeline
from ychronos.analysis.chords.deciding import decide_chords
from ychronos.analysis.evidence import Evidence
from ychronos.analysis.explain.differences import Differences
from ychronos.audio import recording
from ychronos.song.alignment import Difference, passes
from ychronos.song.model import ChordSpan, RecordingRef, Section, Song, blank_song
from ychronos.theory.chord import Chord

NOT_MUSIC = ("silence", "count-in")
COUNTED = ("chord", "bass", "timing", "added", "missing", "pitch")
SETTINGS = ("true bars and sections", "own count, sections stated", "all its own")
ALIKE = 0.9  # share of a bar in which the true chords agree, from which on nothing differs there
Range = tuple[float, float]


@dataclass(frozen=True)
class Found:
    """A run of bars that differ, by the clock: where, and in what they are compared with."""

    kind: str
    here: Range | None
    there: Range | None
    words: str


def true_song(truth: dict, ref: RecordingRef, title: str) -> Song:
    """The song as the truth has it."""
    grid = true_grid(truth)
    song = blank_song(title, ref, grid)
    spans = [ChordSpan(Fraction(0), Chord(None))] if not true_spans(truth, grid) else []
    for a, _, chord in true_spans(truth, grid):
        if not spans or chord != spans[-1].chord:
            spans.append(ChordSpan(a if spans else Fraction(0), chord))
    return replace(song, chords=tuple(spans), sections=sections_on(song, truth))


def sections_on(song: Song, truth: dict) -> tuple[Section, ...]:
    """The true sections at the bar lines of a song's own grid, as if the user had stated them."""
    out: dict[Fraction, Section] = {}
    grid = song.grid
    for row in rows(truth, "segment_open"):
        if row["value"] in NOT_MUSIC:
            continue
        near = min(range(len(grid.starts)), key=lambda i: abs(grid.clock(grid.starts[i]) - row["time"]))
        start = grid.bar_range(near)[0] if out else Fraction(0)
        out[start] = Section(start, row["value"], row["value"])
    return tuple(out[s] for s in sorted(out))


def runs(song: Song, found: list[Difference]) -> list[Found]:
    """Neighbouring bars that differ as one, by the clock."""
    grid = song.grid

    def clock(bars: list[int]) -> Range | None:
        return (grid.clock(grid.bar_range(min(bars))[0]), grid.clock(grid.bar_range(max(bars))[1])) if bars else None

    out: list[Found] = []
    group: list[Difference] = []
    ordered = sorted(
        (d for d in found if d.kind in COUNTED), key=lambda d: (d.section, d.twin if d.bar is None else d.bar)
    )
    for d in [*ordered, None]:
        last = group[-1] if group else None
        joins = (
            d is not None and last is not None and d.section == last.section and "pitch" not in (d.kind, last.kind)
            and None not in (d.bar, last.bar) and d.bar == last.bar + 1
        )  # fmt: skip
        if group and not joins:
            here, there = [g.bar for g in group if g.bar is not None], [g.twin for g in group if g.twin is not None]
            kinds = {g.kind for g in group}
            kind = "pitch" if "pitch" in kinds else min(kinds)
            out.append(Found(kind, clock(here), clock(there), " / ".join(g.words for g in group)))
            group = []
        if d is not None:
            group.append(d)
    return out


def meet(a: Range | None, b: Range | None) -> bool:
    return a is not None and b is not None and min(a[1], b[1]) - max(a[0], b[0]) > 0.3


def covers(found: Found, wanted: Found) -> bool:
    """Whether a report points at a true difference: at the bars, on either side."""
    if wanted.kind == "pitch":
        return found.kind == "pitch" and (meet(found.here, wanted.here) or meet(found.there, wanted.here))
    places = [wanted.here] if wanted.here else [wanted.there]
    return any(meet(side, place) for side in (found.here, found.there) for place in places)


def differ(true: Song, found: Found) -> bool:
    """Whether the true chords, or the number of bars, differ where a report says so."""
    if found.here is None or found.there is None:
        return False  # a bar too many or too few: right only when a true difference is covered
    grid = true.grid
    if found.kind == "pitch":
        return False
    bars = []
    for a, b in (found.here, found.there):
        inside = [
            i for i in range(len(grid.bars))
            if min(b, grid.clock(grid.bar_range(i)[1])) - max(a, grid.clock(grid.bar_range(i)[0])) > 0.5 * (grid.clock(grid.bar_range(i)[1]) - grid.clock(grid.bar_range(i)[0]))
        ]  # fmt: skip
        bars.append(inside)
    return len(bars[0]) != len(bars[1]) or any(
        same_chords(true, one, two) < ALIKE for one, two in zip(*bars, strict=True)
    )


def same_chords(song: Song, one: int, two: int) -> float:
    """Share of two bars' time in which exactly the same chords stand."""
    a, b = (song.grid.bar_range(bar) for bar in (one, two))
    steps = 24
    same = 0
    for k in range(steps):
        part = Fraction(2 * k + 1, 2 * steps)
        first, second = (song.chords[song.chord_index(s + (e - s) * part)].chord for s, e in (a, b))
        same += first == second
    return same / steps


def count(true: Song, song: Song, evidence: Evidence, verbose: bool) -> tuple[int, int, int, int]:
    """(true differences found, true differences, reports that are right, reports)."""
    wanted: list[Found] = []
    keys = list(dict.fromkeys(s.material for s in true.sections))
    for key in keys:
        first = next(i for i, s in enumerate(true.sections) if s.material == key)
        wanted += [w for p in passes(true, first) for w in runs(true, list(p.differences))]
    reports = runs(song, Differences(song, evidence).all())
    hit = [any(covers(r, w) for r in reports) for w in wanted]
    right = [any(covers(r, w) for w in wanted) or differ(true, r) for r in reports]
    if verbose:
        for w, ok in zip(wanted, hit, strict=True):
            print(f"    {'     ' if ok else 'LOST '} {w.kind:8} {w.here or w.there} {w.words[:150]}")
        for r, ok in zip(reports, right, strict=True):
            if not ok:
                print(f"    FALSE {r.kind:8} {r.here or r.there} vs {r.there} {r.words[:150]}")
    return sum(hit), len(hit), sum(right), len(right)


def measure(job: tuple[Path, bool]) -> tuple[str, list[tuple[int, int, int, int]]]:
    path, verbose = job
    song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
    return path.stem, settings(path, song, evidence, verbose)


def settings(path: Path, song: Song, evidence: Evidence, verbose: bool) -> list[tuple[int, int, int, int]]:
    truth = json.loads(path.with_suffix(".jams").read_text())
    true = true_song(truth, song.recording, path.stem)
    given = replace(song, grid=true.grid, chords=decide_chords(evidence, true.grid), sections=true.sections)
    stated = replace(song, sections=sections_on(song, truth))
    out = []
    for name, one in zip(SETTINGS, (given, stated, song), strict=True):
        if verbose:
            print(f"  {path.stem}, {name}")
        out.append(count(true, one, evidence, verbose))
    return out


def show(label: str, values: list[tuple[int, int, int, int]]) -> None:
    parts = []
    for hit, wanted, right, reported in values:
        parts.append(f"{hit:3d} of {wanted:3d}, {right:3d} of {reported:3d} right")
    print(f"{label:22} " + "   ".join(parts))


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--corpus", type=Path, default=Path("build/corpus"))
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--verbose", action="store_true")
    args = parser.parse_args()
    with ProcessPoolExecutor(args.jobs) as pool:
        found = list(pool.map(measure, [(p, args.verbose) for p in sorted(args.corpus.glob("*.ogg"))]))
    print(f"{'':22} " + "   ".join(f"{s:27}" for s in SETTINGS))
    for name, values in found:
        show(name, values)
    total = [tuple(sum(f[1][k][j] for f in found) for j in range(4)) for k in range(3)]
    show("all", total)
    for name, (hit, wanted, right, reported) in zip(SETTINGS, total, strict=True):
        print(f"{name}: recall {hit / max(1, wanted):.2f}, precision {right / max(1, reported):.2f}")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
