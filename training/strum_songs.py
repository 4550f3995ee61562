"""Songs whose strokes are known: figures of many kinds, alone, with a bass, with drums, and songs without any strum.

    python training/strum_songs.py --seed 800000 --count 120 --out FOLDER

Writes NAME.npz with log bands, notes and the truth, as ``fit_strokes.py`` and ``fit_bass.py`` read them. Harmony, form and sound are the song maker's random
ones; what is widened is what the guitar plays and beside whom. Seeds: fitting 800000.., trials 801000.., reports 802000..; those from 805000 on pluck more, those from 815000 on often have
keys and no guitar at all, those from 830000 on mute more strokes, those from 890000 on
pluck the bass or another string between strokes.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np
import soxr

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "bench" / "tools"))

import make_song
from songmaker.randomsong import PICKS, STRUMS, random_spec

from ychronos.analysis import spectra
from ychronos.analysis.chords import chordnet, notes

RATE = 22050
PICKY, KEYED, MUTING, MIXED = 805000, 815000, 830000, 890000  # seeds from here on
BUSY = (
    "on",
    "4:xxxx",
    "2:xx",
    "8:x-x-x-x-",
    "8:x--x--x-",
    "8:-x-x-x-x",
    "8:xxxxxxxx",
    "16:x--x--x-x-x-x---",
    "8:x-xx-xx-",
)
KEYBOARDS = (0, 0, 1, 2, 4, 4, 5, 6, 7, 11, 12, 16, 17, 18, 19, 21, 22, 48, 50, 61, 62, 81, 88, 89, 90)
EIGHTHS = {"4/4": 8, "3/4": 6, "6/8": 6, "12/8": 12, "7/8": 7, "5/4": 10}
KINDS = ("alone", "sung", "bass", "drums", "drums", "band", "band", "none", "picked")


def figure(rng: np.random.Generator, meter: str, dense: bool, muted: float = 0.07) -> str:
    """A figure as a hand would move: down on the swing's down, up on its up, some strokes left out."""
    count = EIGHTHS[meter]
    busy = rng.uniform(0.45, 0.95)
    if dense and meter in ("4/4", "3/4"):
        slots = ["d" if k % 2 == 0 else "u" for k in range(2 * count)]
        keep = [rng.random() < busy * (1.0 if k % 4 == 0 else 0.8 if k % 2 == 0 else 0.5) for k in range(2 * count)]
    else:
        slots = [
            "d" if k % 2 == 0 or (meter in ("6/8", "12/8", "7/8") and rng.random() < 0.6) else "u" for k in range(count)
        ]
        keep = [rng.random() < busy * (1.0 if k % 2 == 0 else 0.75) for k in range(count)]
    keep[0] = keep[0] or rng.random() < 0.8
    out = []
    for k, (slot, kept) in enumerate(zip(slots, keep, strict=True)):
        if not kept:
            out.append("-")
        elif rng.random() < muted:
            out.append("x")
        else:
            loud = rng.random() < (0.7 if k == 0 or k == len(slots) // 2 else 0.25)
            out.append(slot.upper() if loud else slot)
    return f"{16 if len(out) == 2 * count else 8}:{''.join(out)}"


def mixed(rng: np.random.Generator, meter: str) -> str:
    """A figure in which the thumb plucks the bass, another finger a string, and the hand strokes between."""
    count = EIGHTHS[meter]
    group = 3 if meter in ("6/8", "12/8") else 2
    out = []
    for k in range(count):
        if k == 0 or (k % (count // 2 if meter != "3/4" else count) == 0 and rng.random() < 0.8):
            out.append("b")
        elif k % group == 0:
            out.append(str(rng.choice(["D", "d", "d", "b", "3", "-"])))
        else:
            out.append(str(rng.choice(["-", "-", "d", "u", "3", "2"])))
    if not any(x in "Ddu" for x in out):
        out[group] = "d"
    return f"8:{''.join(out)}"


def spec_of(seed: int, short: bool = False) -> tuple[dict, str]:
    """(the spec, its kind)."""
    spec = random_spec(seed)
    rng = np.random.default_rng([4711, seed])
    kind = KINDS[int(rng.integers(len(KINDS)))]
    meter = spec["meter"]
    band = [p for p in spec["band"] if p["role"] != "guitar"]
    guitars = [p for p in spec["band"] if p["role"] == "guitar"] or [{"role": "guitar", "name": "guitar", "level": 84}]
    muted = 0.07 if seed < MUTING else 0.18
    main, quiet = (figure(rng, meter, rng.random() < dense, muted) for dense in (0.35, 0.2))
    if rng.random() < 0.4:  # figures of the song maker's own, which also mix strums and plucked strings
        main = str(rng.choice(STRUMS[meter]))
    if seed >= KEYED:
        kind = str(rng.choice(["none", "none", "none", *KINDS[:7]]))
    elif seed >= PICKY:  # more of those in which a guitar strums here and plucks its strings there, with few others
        kind = str(rng.choice(["alone", "sung", "sung", "bass"]))
    if rng.random() < (0.8 if seed >= PICKY else 0.35) and kind not in ("none", "picked"):
        quiet = PICKS[meter]
    if seed >= MIXED:
        kind = str(rng.choice(["alone", "sung", "sung", "bass", "drums"]))
        main = mixed(rng, meter)
        quiet = main if rng.random() < 0.5 else figure(rng, meter, False)
    side = float(rng.choice([0.0, -0.5, 0.5, -0.8]))
    for k, part in enumerate(guitars):
        part["program"] = int(part.get("program") or rng.choice([24, 25, 25, 26, 27, 28]))
        part["pattern"] = {"*": main, "verse": quiet, "intro": quiet if rng.random() < 0.3 else main}
        part["pan"] = side if len(guitars) == 1 else (-0.6, 0.6)[k % 2]
    if kind == "picked":
        for part in guitars:
            part["pattern"] = {"*": PICKS[meter]}
    if kind == "none":
        guitars = []
        band = [p for p in band if p["role"] != "riff"]
        band.append({"role": "keys", "program": int(rng.choice([0, 4, 16, 18, 48, 89])), "level": 88,
                     "pattern": {"*": str(rng.choice(["on", "4:xxxx", "2:xx", "8:x-x-x-x-"]))}})  # fmt: skip
        if seed >= KEYED:
            band.pop()
            for _ in range(int(rng.integers(1, 3))):
                band.append({"role": "keys", "program": int(rng.choice(KEYBOARDS)), "level": int(rng.integers(70, 100)),
                             "pattern": {"*": str(rng.choice(BUSY)), "verse": str(rng.choice(BUSY))}})  # fmt: skip
    roles = {"alone": (), "sung": ("lead",), "bass": ("lead", "bass"), "drums": ("lead", "bass", "drums")}
    if kind in roles:
        band = [p for p in band if p["role"] in roles[kind]]
    if kind in ("drums", "band") and not any(p["role"] == "drums" for p in band):
        kind = "bass" if any(p["role"] == "bass" for p in band) else "sung"
    spec["band"] = guitars + band
    if short:  # more songs teach more than longer ones
        spec["form"] = spec["form"][:4]
    spec["recording"]["fade_out_seconds"] = 0.0
    return spec, kind


def rows(jams: dict, namespace: str) -> list[dict]:
    return next(a["data"] for a in jams["annotations"] if a["namespace"] == namespace)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=800000)
    parser.add_argument("--count", type=int, default=120)
    parser.add_argument("--songs", action="store_true", help="write recordings with their truth instead, for reports")
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        out = args.out / f"{seed}.npz"
        if out.exists():
            continue
        spec, kind = spec_of(seed, not args.songs)
        try:
            audio, jams, play = make_song.make_song(spec)
        except (ValueError, KeyError, IndexError, StopIteration) as error:
            print(f"{seed}: skipped, {type(error).__name__} {error}", flush=True)
            continue
        if args.songs:
            make_song.render.write_vorbis(audio, args.out / f"{seed}_{kind}.ogg")
            (args.out / f"{seed}_{kind}.jams").write_text(json.dumps(jams))
            (args.out / f"{seed}_{kind}.play.json").write_text(json.dumps(play))
            print(f"{seed}: {kind}", flush=True)
            continue
        mono = soxr.resample(audio.mean(1), make_song.render.RATE, RATE).astype(np.float32)
        pitch = spectra.pitch(mono, float(jams["sandbox"]["tuning_cents"]))
        beats, chords, parts = (rows(jams, n) for n in ("beat_position", "chord_harte", "segment_open"))
        np.savez(
            out,
            bands=spectra.bands(mono).astype(np.float16),
            beat=[r["time"] for r in beats],
            position=[r["value"]["position"] for r in beats],
            unit=beats[0]["value"]["beat_units"],
            count=[r["value"]["num_beats"] for r in beats],
            chord=[r["time"] for r in chords],
            section=[r["time"] for r in parts],
            name=[r["value"] for r in parts],
            stroke=[s["time"] for s in play["strums"]],
            strength=[s["strength"] for s in play["strums"]],
            up=[s["dir"] == "U" for s in play["strums"]],
            muted=[s["muted"] for s in play["strums"]],
            notes=notes.activations(pitch).astype(np.float16),
            bass_heard=np.maximum(chordnet.run(pitch).bass, -30).astype(np.float16),
            label=[r["value"] for r in chords],
            bass_time=[b["time"] for b in play["bass"]],
            bass_length=[b["duration"] for b in play["bass"]],
            bass_note=[b["midi"] for b in play["bass"]],
            kind=kind,
        )
        print(f"{seed}: {kind}, {len(mono) / RATE:.0f} s", flush=True)


if __name__ == "__main__":
    main()
