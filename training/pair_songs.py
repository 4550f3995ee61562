"""Songs in which one guitar strums or two play the same, each from its own place in the stereo picture, for telling which.

    python training/pair_songs.py --seed 860000 --count 100 --out FOLDER

Writes NAME.flac (stereo, 22,050 Hz), NAME.jams and NAME.play.json. The songs are those of ``strum_songs.py`` with somebody who strums; what is widened is where everybody
sits: one guitar in the middle, near it or on a side, two as far apart as one likes, keyboards and singers anywhere, recordings in mono too. Seeds: fitting 860000..,
reports 861000...
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import make_song
import numpy as np
import soundfile
import soxr
import strum_songs

RATE = 22050
TWO, OTHER = 0.5, 0.3  # share of songs with two guitars, and of those whose second is another model
MONO = 0.06


def spec_of(seed: int) -> dict | None:
    """The song of a seed, or None where nobody strums in it."""
    spec, kind = strum_songs.spec_of(seed, short=True)
    if kind in ("none", "picked"):
        return None
    rng = np.random.default_rng([860, seed])
    band = [p for p in spec["band"] if p["role"] != "guitar"]
    first = next(p for p in spec["band"] if p["role"] == "guitar")
    for part in band:
        if part["role"] not in ("bass", "drums"):
            part["pan"] = round(float(rng.choice([0.0, rng.uniform(-0.8, 0.8)])), 2)
    first["pan"] = round(float(rng.choice([0.0, 0.0, rng.uniform(-0.3, 0.3), rng.uniform(-0.9, 0.9)])), 2)
    first["name"] = "guitar"
    guitars = [first]
    if rng.random() < TWO:
        side = float(rng.choice([-1, 1]))
        first["pan"] = round(side * float(rng.uniform(0.25, 0.95)), 2)
        second = dict(first, name="guitar 2", pan=round(-side * float(rng.uniform(0.25, 0.95)), 2))
        if rng.random() < OTHER:
            second["program"] = int(rng.choice([24, 25, 25, 26, 27, 28]))
        second["level"] = int(first.get("level", 84) + rng.integers(-8, 5))
        guitars.append(second)
    spec["band"] = guitars + band
    spec["recording"]["width"] = 0.0 if rng.random() < MONO else float(rng.choice([0.6, 1.0, 1.0, 1.3]))
    return spec


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=860000)
    parser.add_argument("--count", type=int, default=100)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        spec, place = spec_of(seed), args.out / f"{seed}.flac"
        if spec is None or place.exists():
            continue
        try:
            audio, jams, play = make_song.make_song(spec)
        except (ValueError, KeyError, IndexError, StopIteration) as error:
            print(f"{seed}: skipped, {type(error).__name__} {error}", flush=True)
            continue
        place.with_suffix(".jams").write_text(json.dumps(jams))
        place.with_suffix(".play.json").write_text(json.dumps(play))
        soundfile.write(place, soxr.resample(audio, make_song.render.RATE, RATE), RATE)
        print(f"{seed}: {len({s['part'] for s in play['strums']})}", flush=True)


if __name__ == "__main__":
    main()
