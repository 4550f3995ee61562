"""Effort of the ways through songs, and the time it takes to find them.

    python bench/hands.py [--corpus build/corpus] [--predictions DIR]

For each song with NAME.play.json (``bench/tools/make_song.py --play``): effort a chord of the first shape of every chord,
taken without a look at its neighbours, against the path of each level, over the chords of the truth; seconds of a path
through the song for the first time and again; seconds to rank all capos. With --predictions, JAMS of ``ychronos analyze``, what ``score_play.py`` says.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import time
from pathlib import Path

import numpy as np

from ychronos.guitar import hands, setups
from ychronos.guitar.candidates import candidates
from ychronos.guitar.hands import Held
from ychronos.guitar.instrument import STANDARD
from ychronos.theory.chord import parse_harte


def naive(chords: list) -> list[Held | None]:
    """The shape of each chord that comes first, without a look at its neighbours."""
    out: list[Held | None] = []
    for c in chords:
        found = candidates(c, STANDARD)
        if not found:
            out.append(None)
            continue
        best = found[0]
        barre = best.fingering.barre.strings if best.fingering.barre else 0
        out.append(Held(best.shape, best.fingering.effort, barre, best.fingering.wide, c, frozenset()))
    return out


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--corpus", type=Path, default=Path("build/corpus"))
    parser.add_argument("--predictions", type=Path)
    parser.add_argument("--tools", type=Path, default=Path("bench/tools"))
    args = parser.parse_args()
    rows, times, again, ranking = [], [], [], []
    for path in sorted(args.corpus.glob("*.play.json")):
        play = json.loads(path.read_text())
        chords = [parse_harte(v["chord"]) for v in play["voicings"] if v["part"] == "gtr"]
        if not chords:
            continue
        row = [path.name.split(".")[0], hands.effort_of(naive(chords)) / len(chords)]
        for level in hands.LEVELS[1:]:
            begin = time.process_time()
            held = hands.hold(chords, STANDARD, 0, level)
            times.append(time.process_time() - begin)
            begin = time.process_time()
            hands.hold(chords, STANDARD, 0, level)
            again.append((time.process_time() - begin) * 200 / len(chords))
            row.append(hands.effort_of(held) / len(chords))
        begin = time.process_time()
        setups.ranked(chords, [2.0] * len(chords))
        ranking.append(time.process_time() - begin)
        rows.append(row)
    print("| song | first shapes | " + " | ".join(x.words for x in hands.LEVELS[1:]) + " |")
    print("|---|" + "---|" * (1 + len(hands.LEVELS[1:])))
    for name, *values in [*rows, ["MEAN", *np.mean([r[1:] for r in rows], axis=0)]]:
        print(f"| {name} | " + " | ".join(f"{v:.2f}" for v in values) + " |")
    print(
        f"CPU: a song's path for the first time {max(times):.2f} s at most, mean {np.mean(times):.2f}; again, for 200 "
        f"changes, {max(again):.2f} s at most; all capos {max(ranking):.2f} s at most"
    )
    if args.predictions:
        command = [sys.executable, str(args.tools / "score_play.py"), str(args.corpus), str(args.predictions)]
        return subprocess.run(command, check=False).returncode
    return 0


if __name__ == "__main__":
    sys.exit(main())
