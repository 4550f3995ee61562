"""Songs in which the band lets chords ring here and there, or cuts them short, for setting and reporting how that is heard.

    python training/ring_songs.py --seed 810000 --count 24 --out FOLDER [--cut]

Writes NAME.ogg, NAME.jams and NAME.rings.json (start and end in seconds of each chord that is struck once and rings). The songs are the song maker's
random ones and those of guitarists in turn; in some bars of their sections the last chord is marked to ring. Seeds: setting 810000.., reports 811000...
With ``--cut`` half of them are cut short instead, by all or by all but the drums: NAME.cuts.json, and more chords are struck once. Seeds: setting 812000.., 814000..,
840000..; reports 813000...
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "bench" / "tools"))

import make_song
from songmaker import parts, render, truth
from songmaker.randomsong import random_spec
from songmaker.timeline import Timeline

OFTEN = 0.5  # of a section's last bars, a tenth of others
RARELY = 0.06
CUT = 0.55  # of the chords that are struck once
CUT_AFTER = (0.12, 0.42)  # seconds
DRUMS_GO_ON = 0.35


def with_rings(spec: dict, rng: np.random.Generator, rarely: float = RARELY) -> dict:
    """The same song with chords that ring at the ends of sections and, rarely, inside of them."""
    for section in spec["sections"].values():
        bars = [b.strip() for b in section["chart"].split("|")]
        for k, bar in enumerate(bars):
            share = OFTEN if k == len(bars) - 1 else rarely
            if bar == "%" or "~" in bar or bar.endswith(("N", ".")) or rng.random() >= share:
                continue
            head, _, last = bar.rpartition(" ")
            label, star, beats = last.partition("*")
            bars[k] = f"{head} {label}~{star}{beats}".strip()
        section["chart"] = " | ".join(bars)
    spec["form"] = spec["form"][:5]
    return spec


def cut_short(spans: list, players: list, clock: Callable[[float], float], rng: np.random.Generator) -> None:
    """Let all notes of the spans end soon after they are struck; the strings and keys of one player a little apart."""
    for span in spans:
        begin, end = clock(span.start) - 0.08, clock(span.end) - 0.08
        length = rng.uniform(*CUT_AFTER)
        for player in players:
            own = length * rng.uniform(0.9, 1.1)
            for note in player.track.notes:
                if begin <= note.start < end and not player.track.drums:
                    note.end = min(note.end, max(note.start + 0.05, begin + 0.08 + own))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=810000)
    parser.add_argument("--count", type=int, default=24)
    parser.add_argument("--out", type=Path, required=True)
    parser.add_argument("--cut", action="store_true", help="cut half of the chords short")
    parser.add_argument("--rarely", type=float, default=RARELY, help="how often bars inside of sections end so")
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        out = args.out / f"{seed}.ogg"
        if out.exists():
            continue
        spec = with_rings(random_spec(seed, seed % 2 == 0), np.random.default_rng([29, seed]), args.rarely)
        rng = np.random.default_rng(spec["seed"])
        timeline = Timeline(spec, rng)
        how = np.random.default_rng([31, seed])
        cut = [s for s in timeline.spans if s.ring and args.cut and how.random() < CUT]
        for span in cut:
            span.drums_play = how.random() < DRUMS_GO_ON
        players = parts.perform(timeline, rng)
        cut_short(cut, players, timeline.time, how)
        tracks = [p.track for p in players]
        chain = spec.get("recording", {})
        audio = render.record(render.synthesize(tracks, make_song.DEFAULT_SOUNDFONT), chain, rng)
        ratio = render.tape_ratio(chain)
        audio = render.finish(audio, min(len(audio) / render.RATE, timeline.time(timeline.end) / ratio + 1.5), 0.0)
        render.write_vorbis(audio, out)
        jams = truth.build_jams(timeline, ratio, len(audio) / render.RATE)
        out.with_suffix(".jams").write_text(json.dumps(jams))
        for name, spans in (("rings", [s for s in timeline.spans if s.ring and s not in cut]), ("cuts", cut)):
            times = [[timeline.time(q) / ratio for q in (s.start, s.end)] for s in spans]
            out.with_suffix(f".{name}.json").write_text(json.dumps(times))
        rings = [s for s in timeline.spans if s.ring]
        print(
            f"{seed}: {len(rings)} of {len(timeline.spans)} chords are struck once, {len(cut)} of them are cut short",
            flush=True,
        )


if __name__ == "__main__":
    main()
