"""Stretches of songs with a line whose notes are known: riffs, licks and runs, alone, beside one other, in a band.

    python training/line_songs.py --seed 900000 --count 260 --out FOLDER

Writes NAME.npz with the fine spectrum of the mix and the notes, as ``train_lines.py`` reads them; with ``--songs`` recordings with truth
(NAME.ogg, .jams, .play.json). Harmony and band are those of the song maker and of ``liveband.py``; the line is made here: a motif that comes
back, in the key or over the chords, with slides, bends, hammer-ons, pull-offs, vibrato and double stops, through an amplifier or not.
Seeds: training 900000.., trials 905000.., reports 907000...
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np
import soxr

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "bench" / "tools"))

from liveband import band_spec
from songmaker import hands, parts, render, truth
from songmaker.randomsong import random_spec
from songmaker.theory import TUNINGS, parse_chord, scale_of
from songmaker.timeline import Timeline
from studio import TRAINING_KITS, amplified, mixed, panned

from ychronos.analysis.lines import fine

RATE = 22050
FONTS = [f"/usr/share/sounds/sf2/{n}.sf2" for n in ("FluidR3_GM", "TimGM6mb", "MuseScore_General_Lite")]
FONTS.append("/usr/share/sounds/sf3/MuseScore_General_Lite.sf3")
KINDS = ("alone", "alone", "one", "one", "band", "band", "band")
PLUCKED = [24, 25, 25, 26, 27, 27, 28, 29, 29, 30, 30]
OTHERS = [0, 4, 11, 16, 21, 22, 40, 56, 65, 66, 68, 71, 73, 80, 105, 106]
GRIDS = {1.0: (1.0, 0.5), 1.5: (0.5,), 0.5: (0.5,)}  # beat in quarters: steps of lines


class LinePlayer(parts.Player):
    """Motifs of one, two or four bars; the same bar of a motif comes with the same rhythm and steps, over its own chord."""

    def play(self):
        self.notes: list[tuple[float, float, int]] = []  # seconds, end, MIDI: the truth
        low, high = self.part["range"]
        pitch = (low + high) // 2
        for bar in self.tl.bars:
            if bar.count_in:
                continue
            motif = np.random.default_rng([self.tl.spec["seed"], 77, bar.index % self.part["period"]])
            for q, length in self._rhythm(bar, motif):
                span = self.tl.span_at(q)
                if span.label == "N":
                    continue
                pitch = self._next(pitch, span, bar, motif, low, high)
                self._pluck(q, length, pitch, motif, span)
        return self.track

    def _rhythm(self, bar, motif):
        step = self.part["step"] if bar.beat_q == 1.0 else 0.5
        if motif.random() < self.part["rest"]:
            return []
        cells = np.arange(bar.start if bar.beats[0] <= bar.start else bar.beats[0], bar.end - 1e-6, step)
        onsets = [q for q in cells if motif.random() < self.part["density"] + (0.2 if q in bar.beats else 0.0)]
        ends = [*onsets[1:], bar.end]
        hold = self.part["hold"]
        return [(q, min(e - q, 3.0) * motif.uniform(hold, 0.99)) for q, e in zip(onsets, ends, strict=True)]

    def _next(self, pitch, span, bar, motif, low, high):
        chord = parse_chord(span.label)
        tones = set(chord.tones) if chord else set()
        scale = {t % 12 for t in scale_of(bar.key)} | tones
        if self.part["scale"] == "five":
            tonic = scale_of(bar.key)[0]
            steps = (0, 3, 5, 7, 10) if (tonic + 3) % 12 in scale else (0, 2, 4, 7, 9)
            scale = {(tonic + s) % 12 for s in steps}
        allowed = tones if tones and motif.random() < self.part["chordal"] else scale
        if motif.random() < self.part["again"]:
            target = pitch
        else:
            target = pitch + int(motif.choice([-5, -3, -2, -2, -1, 1, 2, 2, 3, 5, 7, -7]))
        target = target if low <= target <= high else (low + high) // 2 + int(motif.integers(-5, 6))
        options = [p for p in range(low, high + 1) if p % 12 in allowed] or [target]
        return min(options, key=lambda p: (abs(p - target), p))

    def _pluck(self, q, length, pitch, motif, span):
        begin = self.now(q)
        end = begin + self.tl.time(q + length) - self.tl.time(q)
        loud = 70 + 45 * self.rng.random()
        bends = self.track.bends
        bends.append((begin - 0.002, 0.0))
        how = self.rng.random()
        art = self.part["articulate"]
        if how < 0.25 * art and end - begin > 0.25:  # a hammer-on or pull-off: the string is not plucked again
            by = int(self.rng.choice([-2, -1, 1, 2]))
            turn = begin + (end - begin) * self.rng.uniform(0.3, 0.6)
            self.add(begin, end, pitch, loud)
            bends += [(turn, float(by))]
            self.notes += [(begin, turn, pitch), (turn, end, pitch + by)]
            return
        self.add(begin, end, pitch, loud)
        self.notes.append((begin, end, pitch))
        if how < 0.4 * art:  # slid or bent into the note
            depth, over = self.rng.choice([1.0, 2.0]), min(self.rng.uniform(0.05, 0.2), 0.5 * (end - begin))
            bends += [(begin + t, -depth * (1 - t / over)) for t in np.linspace(0, over, 9)]
        elif self.rng.random() < self.part["double"]:
            _low, high = self.part["range"]
            other = pitch + int(self.rng.choice([3, 4, 5, 7, 9, 12]))
            chord = parse_chord(span.label)
            if other <= high + 7 and (not chord or other % 12 in chord.tones or self.rng.random() < 0.3):
                self.add(begin, end, other, loud)
                self.notes.append((begin, end, other))
        if end - begin > 0.4 and self.rng.random() < 0.6 * art:
            times = np.arange(0.2, end - begin, 0.015)
            depth = self.rng.uniform(0.1, 0.5) * np.clip((times - 0.2) / 0.3, 0, 1)
            bends += [(begin + t, d * np.sin(2 * np.pi * 5.4 * t)) for t, d in zip(times, depth, strict=True)]


parts.PLAYERS["line"] = LinePlayer


def spec_of(seed: int, whole: bool) -> tuple[dict, str]:
    """(the spec, its kind)."""
    rng = np.random.default_rng([9241, seed])
    kind = KINDS[int(rng.integers(len(KINDS)))]
    live = kind != "alone" and rng.random() < 0.5
    spec = band_spec(seed) if live else random_spec(seed)
    band = [p for p in spec["band"] if p["role"] not in ("lead", "riff")]
    voices = [p for p in spec["band"] if p["role"] == "lead" and p.get("voice")]
    if kind == "alone":
        band = []
    elif kind == "one":
        band = [band[int(rng.integers(len(band)))]] if band else []
    elif voices and rng.random() < 0.15:
        band += voices
    plucked = rng.random() < 0.8
    program = int(rng.choice(PLUCKED if plucked else OTHERS))
    low = int(rng.choice([40, 40, 43, 45, 52, 55, 60])) if plucked else int(rng.choice([52, 57, 60]))
    beat = 1.0 if spec["meter"].endswith("/4") else 0.5
    line = {
        "role": "line", "name": "line", "program": program, "level": 100, "jitter_ms": float(rng.uniform(3, 14)),
        "pan": float(rng.choice([0.0, 0.0, -0.5, 0.5, 0.8])), "range": [low, min(86, low + int(rng.integers(10, 25)))],
        "period": int(rng.choice([1, 2, 2, 4, 8])), "step": float(rng.choice([0.5, 0.5, 0.5, 0.25, 1 / 3])) if beat == 1.0 else 0.5,
        "density": float(rng.uniform(0.3, 0.85)), "rest": float(rng.choice([0.0, 0.1, 0.3])), "hold": float(rng.choice([0.4, 0.8, 0.95])),
        "scale": str(rng.choice(["five", "all"])), "chordal": float(rng.uniform(0.1, 0.9)), "again": float(rng.choice([0.05, 0.15, 0.5])),
        "articulate": float(rng.choice([0.0, 0.5, 1.0])) if plucked else 0.3, "double": float(rng.choice([0.0, 0.0, 0.1, 0.4])),
        "amp": float(rng.uniform(3, 25)) if plucked and program >= 27 and rng.random() < 0.6 else None,
        "over": float(rng.uniform(-5, 7)),
    }  # fmt: skip
    spec["band"] = [*band, line]
    spec["form"] = spec["form"][1 : 4 if whole else 3]
    spec["silence"] = 0.3
    spec.pop("count_in_bars", None)
    spec["recording"]["fade_out_seconds"] = 0.0
    return spec, kind


def make(spec: dict, seed: int) -> tuple[np.ndarray, dict, dict, list]:
    """(stereo sound, JAMS, play, notes of the line as (seconds, end, MIDI))."""
    rng = np.random.default_rng([5, seed])
    timeline = Timeline(spec, rng)
    players = parts.perform(timeline, rng)
    fonts = [f for f in FONTS if Path(f).exists()]
    font = fonts[int(rng.integers(len(fonts)))]
    line = players[-1]
    mono = render.synthesize([line.track], font).mean(axis=1)
    if line.part["amp"]:
        mono = amplified(mono, line.part["amp"], rng)
    sound = panned(mono, line.part["pan"])
    if not np.abs(sound).max(initial=0) > 1e-4:
        raise ValueError("nothing sounds")
    loud = lambda x: np.sqrt(np.mean(x[np.abs(x).max(1) > 1e-4] ** 2)) + 1e-9
    sound *= 0.1 / loud(sound)
    rest = [p for p in players[:-1] if p.track.notes]
    if rest:
        others = mixed(dict(spec, band=[p.part for p in rest]), [p.track for p in rest], font, TRAINING_KITS, rng)
        others *= 0.1 / loud(others) * 10 ** (-spec["band"][-1]["over"] / 20) * 1.6
        size = max(len(sound), len(others))
        sound = np.pad(sound, ((0, size - len(sound)), (0, 0))) + np.pad(others, ((0, size - len(others)), (0, 0)))
    chain = spec["recording"]
    audio = render.record(sound, chain, rng)
    ratio = render.tape_ratio(chain)
    audio = render.finish(audio, min(len(audio) / render.RATE, timeline.time(timeline.end) / ratio + 1.0), 0.0)
    seconds = len(audio) / render.RATE
    notes = sorted((a / ratio, b / ratio, p) for a, b, p in line.notes)
    play = (
        hands.build_play(timeline, players[:-1], ratio, seconds)
        if len(players) > 1
        else {"capo": 0, "tuning": list(TUNINGS["standard"])}
    )
    play["lead"] = [{"time": round(a, 5), "duration": round(b - a, 5), "midi": int(p)} for a, b, p in notes]
    return audio, truth.build_jams(timeline, ratio, seconds), play, notes


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=900000)
    parser.add_argument("--count", type=int, default=260)
    parser.add_argument("--songs", action="store_true", help="write recordings with their truth instead, for reports")
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        out = args.out / f"{seed}.npz"
        if out.exists():
            continue
        spec, kind = spec_of(seed, args.songs)
        try:
            audio, jams, play, notes = make(spec, seed)
        except (ValueError, KeyError, IndexError, StopIteration) as error:
            print(f"{seed}: skipped, {type(error).__name__} {error}", flush=True)
            continue
        if len(notes) < 8:
            continue
        if args.songs:
            render.write_vorbis(audio, args.out / f"{seed}_{kind}.ogg")
            (args.out / f"{seed}_{kind}.jams").write_text(json.dumps(jams))
            (args.out / f"{seed}_{kind}.play.json").write_text(json.dumps(play))
            print(f"{seed}: {kind}, {len(notes)} notes", flush=True)
            continue
        mono = soxr.resample(audio.mean(1), render.RATE, RATE).astype(np.float32)[: 40 * RATE]
        np.savez(
            out, spectrum=fine.spectrum(mono, float(jams["sandbox"]["tuning_cents"])).astype(np.float16), flux=fine.flux(mono).astype(np.float16),
            notes=np.array(notes, float).reshape(-1, 3), kind=kind,
        )  # fmt: skip
        print(f"{seed}: {kind}, {len(notes)} notes, {len(mono) / RATE:.0f} s", flush=True)


if __name__ == "__main__":
    main()
