"""Make training songs: NAME.npz with the sound (int16 mono, 22,050 Hz) and the truth (JAMS text).

    python training/make_songs.py --songmaker bench/tools --seed 20000 --count 400 --out DATA

Needs fluidsynth and the soundfonts of Debian's fluid-soundfont-gm, timgm6mb-soundfont and
musescore-general-soundfont-small; songs whose spec cannot be played are skipped with a line that says so.
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np
import soxr

SOUNDFONTS = [
    "/usr/share/sounds/sf2/FluidR3_GM.sf2",
    "/usr/share/sounds/sf2/TimGM6mb.sf2",
    "/usr/share/sounds/sf3/MuseScore_General_Lite.sf3",
]


def lay_out(layout: str | None, pitches: list[int], chord, label: str) -> tuple[tuple[int, int], ...] | None:
    """Another way to play the notes of a chord: ((voice, MIDI pitch), ...) from low to high, or None for as is."""
    if layout == "open":  # every second voice an octave lower
        pitches = [p - 12 if i % 2 and p > 47 else p for i, p in enumerate(pitches)]
    elif layout == "shell":  # root, third, seventh or sixth
        keep = {(chord.root + i) % 12 for i in (0, 3, 4, 9, 10, 11)}
        pitches = [p for p in pitches if p % 12 in keep]
    elif layout == "top":
        pitches = pitches[-3:]
    elif layout == "hands":  # the bass note in a left hand
        pitches = [36 + chord.bass % 12, 48 + chord.bass % 12, *(p for p in pitches if p > 52)]
    elif layout == "shifting":  # another inversion for every chord
        turn = sum(map(ord, label)) % 3
        pitches = [p + 12 if i < turn else p for i, p in enumerate(pitches)]
    else:
        return None
    pitches = sorted(set(pitches))
    return tuple(enumerate(pitches)) if len({p % 12 for p in pitches}) >= 2 else None


def live(spec: dict, font: str, kits: list[str]) -> tuple[np.ndarray, dict]:
    """As ``make_song.make_song``, played and recorded by ``studio``."""
    from songmaker import parts, render, truth
    from songmaker.timeline import Timeline
    from studio import clipped, mixed

    rng = np.random.default_rng(spec["seed"])
    timeline = Timeline(spec, rng)
    players = parts.perform(timeline, rng)
    chain = spec["recording"]
    audio = render.record(clipped(mixed(spec, [p.track for p in players], font, kits, rng), chain["clip"]), chain, rng)
    ratio = render.tape_ratio(chain)
    duration = min(len(audio) / render.RATE, timeline.time(timeline.end) / ratio + 1.5)
    audio = render.finish(audio, duration, 0.0)
    jams = truth.build_jams(timeline, ratio, len(audio) / render.RATE)
    as_played(jams, played_by(players, ratio))
    return audio, jams


# What is left of a chord whose third or seventh nobody plays
WITHOUT_SEVENTH = {"7": "maj", "maj7": "maj", "min7": "min"}
LEAST_SOUNDED = 0.02  # share of the chord's length for which a note has to sound
RINGS_OVER = 0.03  # s for which a note of the chord before may still be heard


def played_by(players: list, ratio: float) -> np.ndarray:
    """(n, 3) start and end in seconds of the record and pitch class of all notes that are no melody, muted strokes left out."""
    return np.array(
        [
            (note.start / ratio, note.end / ratio, note.pitch % 12)
            for player in players
            if player.part["role"] not in ("drums", "lead")
            for note in player.track.notes
            if note.end - note.start > 0.05
        ]
    ).reshape(-1, 3)


def as_played(jams: dict, notes: np.ndarray) -> None:
    """Truth as it sounds: a chord over its root whose third nobody plays is a bare fifth, whatever the chart wrote, one whose
    seventh nobody plays a triad; ``notes`` as from ``played_by``."""
    from songmaker.theory import parse_chord
    from songmaker.truth import _regions

    first, last, pitch = notes.T
    chords = next(a for a in jams["annotations"] if a["namespace"] == "chord_harte")
    for row in chords["data"]:
        chord = parse_chord(row["value"])
        if chord is None:
            continue
        inside = np.minimum(last, row["time"] + row["duration"]) - np.maximum(first, row["time"])
        sounded = np.bincount(pitch.astype(int), np.where(inside > RINGS_OVER, inside, 0.0), 12)
        steps = {(t - chord.root) % 12 for t in chord.tones}
        silent = {k for k in steps if sounded[(chord.root + k) % 12] < LEAST_SOUNDED * row["duration"]}
        root, _, quality = row["value"].partition(":")
        quality, slash, bass = quality.partition("/")
        if chord.bass == chord.root and 7 in steps and steps & {3, 4} and steps & {3, 4} <= silent:
            row["value"] = root + ":5"
        elif quality in WITHOUT_SEVENTH and steps & {10, 11} <= silent:
            row["value"] = f"{root}:{WITHOUT_SEVENTH[quality]}{slash}{bass}"
    end = chords["data"][-1]["time"] + chords["data"][-1]["duration"]
    chords["data"] = _regions([(row["time"], row["value"]) for row in chords["data"]], end)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--songmaker", type=Path, default=Path("bench/tools"), help="folder that holds songmaker/")
    parser.add_argument("--seed", type=int, default=20000)
    parser.add_argument("--count", type=int, default=400)
    parser.add_argument("--plain", action="store_true", help="the generator's own songs instead of mixed ones")
    parser.add_argument("--hands", action="store_true", help="with --plain: songs of guitarists")
    parser.add_argument("--tasty", action="store_true", help="with --plain: more slash chords and colours (tasty.py)")
    parser.add_argument("--band", action="store_true", help="loud, fast and swung bands with singers (liveband.py)")
    parser.add_argument("--arranged", action="store_true", help="harmony in phrases, basses that move (arranged.py)")
    parser.add_argument(
        "--blocks",
        action="store_true",
        help="as --arranged, with wide forms, half of them played alike throughout (blocks.py)",
    )
    parser.add_argument(
        "--roaming", action="store_true", help="as --arranged, hardly anybody plays the root (roaming.py)"
    )
    parser.add_argument("--meters", default="", help="only songs in these meters, as 5/4,7/8")
    parser.add_argument("--turns", action="store_true", help="mixed songs whose sections are in meters that take turns")
    parser.add_argument("--style", help="with --band: only this style")
    parser.add_argument("--trial", action="store_true", help="with --band: on kits that no net is trained on")
    parser.add_argument("--ogg", action="store_true", help="write NAME.ogg and NAME.jams instead, for reports")
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    sys.path.insert(0, str(args.songmaker))
    import make_song
    from songmaker import parts, render
    from songmaker.randomsong import random_spec

    arranged = args.arranged or args.blocks or args.roaming
    if args.blocks:
        from blocks import block_spec as arranged_spec
    elif arranged:
        from arranged import arranged_spec
    if args.roaming:
        from functools import partial

        from roaming import Roaming

        arranged_spec = partial(arranged_spec, composer=Roaming)
    if args.band or arranged:
        from liveband import band_spec
        from studio import TRAINING_KITS, TRIAL_KITS
    if args.tasty:
        from songmaker import randomsong
        from tasty import Tasty

        randomsong.Composer = Tasty
    if not args.plain:
        from compose import mixed_spec

        plain_voicing = parts.ChordPlayer.voicing

        def voicing(self, label):  # rootless and fifthless voicings, which the song maker does not know
            shape = plain_voicing(self, label)
            chord = parts.parse_chord(label)
            drop = {(chord.root + i) % 12 for i in self.part.get("omit", ())}
            left = tuple(v for v in shape if v[1] % 12 not in drop)
            shape = left if len({v[1] % 12 for v in left}) >= 2 else shape
            return lay_out(self.part.get("layout"), [p for _, p in shape], chord, label) or shape

        parts.ChordPlayer.voicing = voicing
    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        out = args.out / f"{seed}.npz"
        if out.exists() or out.with_suffix(".ogg").exists():
            continue
        font = SOUNDFONTS[seed % 3]
        try:
            if args.meters:
                spec = (
                    band_spec(seed, args.style) if args.band else random_spec(seed) if args.plain else mixed_spec(seed)
                )
                if spec["meter"] not in args.meters.split(","):
                    continue
            spec = arranged_spec(seed) if arranged else None
            if spec is not None and seed % 4:  # three in four as the song maker plays them, which is ten times as quick
                audio, jams, _ = make_song.make_song(spec, font)
            elif args.band or spec is not None:
                spec = spec or band_spec(seed, args.style)
                audio, jams = live(spec, font, TRIAL_KITS if args.trial else TRAINING_KITS)
            else:
                audio, jams, _ = make_song.make_song(
                    random_spec(seed, args.hands) if args.plain else mixed_spec(seed, args.turns), font
                )
        except (ValueError, KeyError, IndexError, StopIteration) as error:
            print(f"{seed}: skipped, {type(error).__name__} {error}", flush=True)
            continue
        if args.ogg:
            render.write_vorbis(audio, out.with_suffix(".ogg"))
            out.with_suffix(".jams").write_text(json.dumps(jams))
            print(f"{seed}: {jams['file_metadata']['title']}", flush=True)
            continue
        mono = soxr.resample(audio.mean(axis=1), render.RATE, 22050)
        np.savez(out, mono=(np.clip(mono, -1, 1) * 32767).astype(np.int16), truth=json.dumps(jams))
        print(f"{seed}: {len(mono) / 22050:.0f} s", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
