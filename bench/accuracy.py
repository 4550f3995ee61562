"""Score the analysis on songs with exact truth.

    python bench/accuracy.py [--corpus build/corpus] [--out build/accuracy] [--jobs 2]

Runs the whole analysis (no cache) on every recording of the folder that has a NAME.jams beside it, writes
predictions, and scores them with ``bench/tools/score.py`` (another place: --tools). Make fresh songs
with the generator there and give their folder as --corpus.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(name, "1")

from ychronos.analysis import pipeline
from ychronos.audio import recording
from ychronos.formats import jams


def predict(job: tuple[Path, Path]) -> float:
    source, target = job
    begin = time.process_time()
    sound = recording.load(source, keep_samples=False)
    song, _ = pipeline.analyse(sound, source.stem)
    target.write_bytes(jams.dumps(song))
    return (time.process_time() - begin) / sound.duration * 60


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--corpus", type=Path, default=Path("build/corpus"))
    parser.add_argument("--tools", type=Path, default=Path("bench/tools"))
    parser.add_argument("--out", type=Path, default=Path("build/accuracy"))
    parser.add_argument("--jobs", type=int, default=2)
    args = parser.parse_args()
    out = args.out / args.corpus.resolve().name
    out.mkdir(parents=True, exist_ok=True)
    jobs = [
        (p, out / f"{p.stem}.jams")
        for p in sorted(args.corpus.iterdir())
        if p.suffix in (".ogg", ".wav", ".flac", ".mp3") and p.with_suffix(".jams").exists()
    ]
    with ProcessPoolExecutor(args.jobs) as pool:
        cost = list(pool.map(predict, jobs))
    print(f"{len(jobs)} songs, {sum(cost) / len(cost):.2f} s of CPU per minute of audio")
    command = [
        sys.executable,
        str(args.tools / "score.py"),
        str(args.corpus),
        str(out),
        "--json",
        str(out / "scores.json"),
    ]
    return subprocess.run(command, check=False).returncode


if __name__ == "__main__":
    sys.exit(main())
