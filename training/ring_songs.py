"""Songs in which the band lets chords ring here and there, for setting and reporting how rings are heard.

    python training/ring_songs.py --seed 810000 --count 24 --out FOLDER

Writes NAME.ogg, NAME.jams and NAME.rings.json (start and end in seconds of each chord that is struck once and rings). The songs are the song maker's
random ones and those of guitarists in turn; in some bars of their sections the last chord is marked to ring. Seeds: setting 810000.., reports 811000...
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "bench" / "tools"))

import make_song
from songmaker import parts, render, truth
from songmaker.randomsong import random_spec
from songmaker.timeline import Timeline

OFTEN = 0.5  # of a section's last bars, a tenth of others
RARELY = 0.06


def with_rings(spec: dict, rng: np.random.Generator) -> dict:
    """The same song with chords that ring at the ends of sections and, rarely, inside of them."""
    for section in spec["sections"].values():
        bars = [b.strip() for b in section["chart"].split("|")]
        for k, bar in enumerate(bars):
            share = OFTEN if k == len(bars) - 1 else RARELY
            if bar == "%" or "~" in bar or bar.endswith(("N", ".")) or rng.random() >= share:
                continue
            head, _, last = bar.rpartition(" ")
            label, star, beats = last.partition("*")
            bars[k] = f"{head} {label}~{star}{beats}".strip()
        section["chart"] = " | ".join(bars)
    spec["form"] = spec["form"][:5]
    return spec


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=810000)
    parser.add_argument("--count", type=int, default=24)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        out = args.out / f"{seed}.ogg"
        if out.exists():
            continue
        spec = with_rings(random_spec(seed, seed % 2 == 0), np.random.default_rng([29, seed]))
        rng = np.random.default_rng(spec["seed"])
        timeline = Timeline(spec, rng)
        tracks = [p.track for p in parts.perform(timeline, rng)]
        chain = spec.get("recording", {})
        audio = render.record(render.synthesize(tracks, make_song.DEFAULT_SOUNDFONT), chain, rng)
        ratio = render.tape_ratio(chain)
        audio = render.finish(audio, min(len(audio) / render.RATE, timeline.time(timeline.end) / ratio + 1.5), 0.0)
        render.write_vorbis(audio, out)
        jams = truth.build_jams(timeline, ratio, len(audio) / render.RATE)
        out.with_suffix(".jams").write_text(json.dumps(jams))
        rings = [[timeline.time(q) / ratio for q in (s.start, s.end)] for s in timeline.spans if s.ring]
        out.with_suffix(".rings.json").write_text(json.dumps(rings))
        print(f"{seed}: {len(rings)} of {len(timeline.spans)} chords ring", flush=True)


if __name__ == "__main__":
    main()
