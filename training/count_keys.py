"""Count how often chords stand at each place of a key, in songs with truth: the *roaming* table of ``keyhabits``.

    python training/count_keys.py --truth FOLDER

FOLDER holds JAMS (``bench/tools/make_song.py --random 100 --count 200`` writes those that the shipped table was counted in).
Chords are counted by time, places with their kinds, and each mode is scaled to a thousand; below three nothing is listed.
Deterministic; needs no sound.
"""

from __future__ import annotations

import argparse
import json
from collections import defaultdict
from pathlib import Path

from ychronos.analysis.keys.keyhabits import kind
from ychronos.theory.chord import parse_harte
from ychronos.theory.key import parse_key

LEAST = 3  # of a thousand


def rows(truth: dict, namespace: str) -> list[dict]:
    return next((a["data"] for a in truth["annotations"] if a["namespace"] == namespace), [])


def counted(folder: Path) -> dict[str, dict[tuple[int, str], float]]:
    """Seconds at each place of each mode."""
    out: dict[str, dict[tuple[int, str], float]] = defaultdict(lambda: defaultdict(float))
    for path in sorted(folder.glob("*.jams")):
        truth = json.loads(path.read_text())
        keys = [(r["time"], r["time"] + r["duration"], parse_key(r["value"])) for r in rows(truth, "key_mode")]
        for r in rows(truth, "chord_harte"):
            chord = parse_harte(r["value"])
            key = next((k for a, b, k in keys if a <= r["time"] + 1e-6 < b), None)
            if chord.root is not None and key is not None:
                out[key.mode][(chord.root - key.tonic) % 12, kind(chord)] += r["duration"]
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--truth", type=Path, required=True)
    args = parser.parse_args()
    for mode, places in sorted(counted(args.truth).items()):
        total = sum(places.values())
        scaled = {p: round(1000 * v / total) for p, v in sorted(places.items(), key=lambda x: -x[1])}
        print(f'"{mode}": { ({p: v for p, v in scaled.items() if v >= LEAST}) },')


if __name__ == "__main__":
    main()
