"""Three songs that ship, with floors that no change may fall under; takes a minute and runs in CI.

    python bench/floors.py

Analyses three demo songs without a cache and scores them with the project's scorer against their truth. Floors lie a
little under what the program reached when they were set (the corpus and fresh songs, not these three, tell whether it got better).
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(name, "1")

import accuracy

from ychronos.paths import demo_folder

SONGS = ("the_ferry_keeps_its_lights_on", "gulls_count_to_five", "waltz_for_the_breakwater")
FLOORS = {
    "majmin": 0.97, "sevenths": 0.93, "bass": 0.95, "bass_inverted": 0.88, "change_150": 0.92, "beat_f": 0.97,
    "downbeat_f": 0.96, "bar_number": 0.96, "meter": 0.96, "key": 0.97, "boundary_3": 0.75, "label_f": 0.74,
}  # fmt: skip


def main() -> int:
    here = Path(__file__).parent
    out = Path("build/floors")
    out.mkdir(parents=True, exist_ok=True)
    jobs = [(demo_folder() / f"{name}.ogg", out / f"{name}.jams") for name in SONGS]
    with ProcessPoolExecutor(2) as pool:
        list(pool.map(accuracy.predict, jobs))
    pairs = [str(p) for source, made in jobs for p in (source.with_suffix(".jams"), made)]
    score = [sys.executable, str(here / "tools" / "score.py"), *pairs, "--json", str(out / "scores.json")]
    subprocess.run(score, check=True)
    means = json.loads((out / "scores.json").read_text())["mean"]
    below = {k: (means[k], floor) for k, floor in FLOORS.items() if means[k] < floor}
    for column, (value, floor) in below.items():
        print(f"{column}: {value:.3f} is under its floor {floor:.2f}")
    return bool(below)


if __name__ == "__main__":
    sys.exit(main())
