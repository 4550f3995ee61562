"""Excerpts with and without somebody singing, for the net that tells.

    python training/voice_songs.py --seed 0 --count 900 --out VOICES --songs FOLDER [FOLDER ...] --sung FOLDER [FOLDER ...] --records FOLDER [FOLDER ...] [--trial]

SONGS are recordings of the song makers without singers (.npz of make_songs.py, .ogg, .wav), SUNG those in which somebody may sing already,
RECORDS music in which nobody sings. A singer of
``singers.py`` is laid over what is cut from them, at many levels, with rooms, doublings, a second voice; the band stops now and then, with
and without the singer. Written: ``bands`` (frames at 50 Hz, 60) as the application computes them, ``truth`` (frames at 25 Hz, 2): a voice
sings, the band plays.
"""

from __future__ import annotations

import argparse
from functools import lru_cache
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import singers
import soundfile as sf
import soxr
import studio
from make_songs import SOUNDFONTS
from scipy import signal
from songmaker import render

from ychronos.analysis import spectra

RATE = spectra.RATE
LENGTH = 24.0  # seconds
TRUTH_RATE = 25
GLOTTAL, SAMPLED = 0.2, 0.2  # shares of singers that are a pulse through formants, and voices of a soundfont
VOICES = (52, 53, 53, 54)  # programs
SCALES = ((0, 2, 4, 5, 7, 9, 11), (0, 2, 3, 5, 7, 8, 10), (0, 2, 4, 7, 9), (0, 3, 5, 7, 10))


@lru_cache(maxsize=24)
def sound_of(path: Path) -> np.ndarray:
    """Mono, no longer than eight minutes."""
    if path.suffix == ".npz":
        return np.load(path)["mono"].astype(np.float32) / 32767
    info = sf.info(path)
    sound, rate = sf.read(path, dtype="float32", always_2d=True, frames=int(480 * info.samplerate))
    return soxr.resample(sound.mean(1), rate, RATE).astype(np.float32)


def level(x: np.ndarray, seconds: float = 0.04) -> np.ndarray:
    """RMS at TRUTH_RATE."""
    size = RATE // TRUTH_RATE
    wide = max(1, round(seconds * RATE / size))
    power = np.array([np.mean(x[i : i + size] ** 2) for i in range(0, len(x) - size + 1, size)])
    return np.sqrt(np.convolve(power, np.ones(wide) / wide, "same"))


def bridged(on: np.ndarray, gap: int) -> np.ndarray:
    """Gaps of at most so many frames between what is on count as on."""
    out, last = on.copy(), -1
    for i in np.flatnonzero(on):
        if last >= 0 and i - last - 1 <= gap:
            out[last:i] = True
        last = i
    return out


def melody(rng: np.random.Generator, spoken: float, seconds: float, root: int) -> list[tuple[float, float, float]]:
    beat = 60 / rng.uniform(60, 170)
    scale = SCALES[int(rng.integers(len(SCALES)))]
    middle = spoken + rng.uniform(3, 15)
    steps = [p for p in range(int(middle) - 9, int(middle) + 10) if (p - root) % 12 in scale]
    at, where, out = rng.uniform(0, 3), int(rng.integers(len(steps))), []
    while at < seconds - 1:
        until = at + rng.uniform(1.2, 6.0)
        while at < min(until, seconds - 0.6):
            length = beat * float(rng.choice([0.25, 0.5, 0.5, 1, 1, 2, 3], p=[0.1, 0.25, 0.15, 0.2, 0.15, 0.1, 0.05]))
            length = min(max(length, 0.1), seconds - at - 0.2)
            where = int(np.clip(where + rng.choice([-3, -2, -1, -1, 0, 0, 1, 1, 2, 3]), 0, len(steps) - 1))
            out.append((at, at + length * rng.uniform(0.8, 1.0), float(steps[where])))
            at += length
        at += rng.uniform(0.3, 1.0) if rng.random() < 0.5 else rng.uniform(1.0, 6.0)
    return out


def made(notes: list[tuple[float, float, float]], rng: np.random.Generator) -> np.ndarray:
    """The singer of ``studio.py``, with scoops and vibrato."""
    bends = []
    deep, speed, late = rng.uniform(0, 0.6), rng.uniform(4.5, 6.5), rng.uniform(0.1, 0.4)
    for start, end, _ in notes:
        scoop = rng.uniform(0, 2) * (rng.random() < 0.6)
        for t in np.arange(0, end - start, 0.01):
            bends.append(
                (
                    start + t,
                    -scoop * np.exp(-t / 0.05)
                    + deep * np.clip((t - late) / 0.25, 0, 1) * np.sin(2 * np.pi * speed * t),
                )
            )
    played = [SimpleNamespace(start=a, end=b, pitch=p, velocity=rng.uniform(70, 110)) for a, b, p in notes]
    voice = studio.sung(SimpleNamespace(notes=played, bends=bends), int(rng.integers(1 << 30)), LENGTH)
    return np.asarray(soxr.resample(voice, studio.RATE, RATE)[: int(LENGTH * RATE)])


def sampled(notes: list[tuple[float, float, float]], rng: np.random.Generator) -> np.ndarray:
    """A voice of a soundfont, which sings one vowel."""
    fonts = [f for f in SOUNDFONTS if Path(f).exists()]
    played = [SimpleNamespace(start=a, end=b, pitch=int(p), velocity=int(rng.uniform(60, 115))) for a, b, p in notes]
    track = SimpleNamespace(
        notes=played, bends=[], program=VOICES[int(rng.integers(4))], level=100, pan=0.0, drums=False
    )
    sound = render.synthesize([track], fonts[int(rng.integers(len(fonts)))]).mean(1)
    sound = soxr.resample(sound, render.RATE, RATE)[: int(LENGTH * RATE)]
    return np.pad(sound, (0, int(LENGTH * RATE) - len(sound)))


def room(x: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    length = int(rng.uniform(0.15, 1.8) * RATE)
    tail = rng.standard_normal(length) * np.exp(-6.9 * np.arange(length) / length)
    wet = signal.fftconvolve(x, tail / np.sqrt((tail**2).sum()))[: len(x)]
    return x + rng.uniform(0.05, 0.6) * wet


def mixed(
    rng: np.random.Generator,
    songs: list[Path],
    records: list[Path],
    names: list[str],
    sung: frozenset[Path] = frozenset(),
) -> tuple[np.ndarray, np.ndarray]:
    """(samples, truth) of one excerpt. In ``sung`` songs somebody may sing in the band."""
    n = int(LENGTH * RATE)
    pool = records if records and rng.random() < 0.45 else songs
    while True:
        song = pool[int(rng.integers(len(pool)))]
        whole = sound_of(song)
        if len(whole) > n:
            begin = int(rng.integers(len(whole) - n))
            band = whole[begin : begin + n].astype(np.float64)
            if np.sqrt(np.mean(band**2)) > 1e-3:
                break
    band *= 0.1 / np.sqrt(np.mean(band**2))
    sings = rng.random() < 0.6
    voice = np.zeros(n)
    if sings:
        name = names[int(rng.integers(len(names)))]
        spoken = float(np.median([s.pitch for s in singers.syllables(name)]))
        notes = melody(rng, spoken, LENGTH - 0.5, int(rng.integers(12)))
        kind = rng.random()
        spoken_by = kind >= GLOTTAL + SAMPLED
        if spoken_by:
            voice = singers.sing(notes, name, rng, LENGTH)
        else:
            voice = (made if kind < GLOTTAL else sampled)(notes, rng)
        if spoken_by and rng.random() < 0.25:  # the same again, beside it
            voice = voice + rng.uniform(0.4, 1) * singers.sing(
                [(a + rng.normal(0, 0.015), b, p) for a, b, p in notes], name, rng, LENGTH
            )
        if rng.random() < 0.15:  # a second voice
            other = names[int(rng.integers(len(names)))]
            step = float(rng.choice([3, 4, 7, -5, 12]))
            voice = voice + rng.uniform(0.3, 0.8) * singers.sing(
                [(a, b, p + step) for a, b, p in notes], other, rng, LENGTH
            )
    loud = level(voice, 0.08)
    on = bridged(loud > 0.03 * max(1e-9, np.percentile(loud, 99)), 6) if sings else np.zeros(len(loud), bool)
    if sings and on.any():
        voice *= 0.1 / np.sqrt(np.mean(voice[np.repeat(on, RATE // TRUTH_RATE)[: len(voice)].nonzero()[0]] ** 2))
        voice = signal.sosfilt(signal.butter(2, rng.uniform(70, 220), "highpass", fs=RATE, output="sos"), voice)
        b, a = signal.iirpeak(rng.uniform(1800, 6000), 0.8, fs=RATE)
        voice = voice + rng.uniform(0, 1.5) * signal.lfilter(b, a, voice)
        if rng.random() < 0.5:  # pressed together
            env = np.sqrt(signal.lfilter([0.002], [1, -0.998], voice**2) + 1e-6)
            voice = voice * (0.1 / env) ** rng.uniform(0.2, 0.7)
        voice = room(voice, rng) if rng.random() < 0.8 else voice
        voice *= (
            10 ** (rng.uniform(-14, 6) / 20) * 0.1 / (np.sqrt(np.mean(voice**2)) + 1e-9) * np.sqrt(max(0.05, on.mean()))
        )
    gain = np.ones(n)
    kind = rng.random()
    if kind < 0.05:
        gain[:] = 10 ** (rng.uniform(-80, -45) / 20)  # nobody but the singer
    elif kind < 0.45:
        for _ in range(int(rng.integers(1, 4))):
            a = int(rng.uniform(0, LENGTH - 4) * RATE)
            b = min(n, a + int(rng.uniform(0.5, 4.5) * RATE))
            fall = np.exp(-np.arange(b - a) / (RATE * rng.uniform(0.02, 0.25)))
            gain[a:b] = np.minimum(gain[a:b], fall)
    band = band * gain
    plays = level(band, 0.08) > 10 ** (-34 / 20) * 0.1
    out = band + voice
    if rng.random() < 0.3:
        out = signal.sosfilt(signal.butter(2, rng.uniform(4500, 9500), "lowpass", fs=RATE, output="sos"), out)
    if rng.random() < 0.4:
        out = np.tanh(out * rng.uniform(1, 5))
    out += 10 ** (rng.uniform(-75, -48) / 20) * rng.standard_normal(n)
    truth = np.stack([on[: len(plays)], plays], 1).astype(np.float32)
    if song in sung:
        truth[(truth[:, 0] == 0) & plays, 0] = np.nan
    return (out * rng.uniform(0.5, 2)).astype(np.float32), truth


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, required=True)
    parser.add_argument("--count", type=int, required=True)
    parser.add_argument("--out", type=Path, required=True)
    parser.add_argument("--songs", type=Path, nargs="+", required=True)
    parser.add_argument("--sung", type=Path, nargs="*", default=[])
    parser.add_argument("--records", type=Path, nargs="*", default=[])
    parser.add_argument("--without", type=Path, help="a list of songs in whose band somebody sings already")
    parser.add_argument("--trial", action="store_true", help="the singers that are kept for trials")
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)

    def files(folders: list[Path]) -> list[Path]:
        found = (f for d in folders for kind in ("*.npz", "*.ogg", "*.wav", "*.opus", "*.mp3") for f in d.rglob(kind))
        return sorted(f for f in found if f.suffix != ".npz" or "mono" in np.load(f).files)

    left_out = set(args.without.read_text().split("\n")) if args.without else set()
    sung, records, names = frozenset(files(args.sung)), files(args.records), singers.speakers(args.trial)
    songs = [*(f for f in files(args.songs) if str(f) not in left_out), *sorted(sung)]
    for seed in range(args.seed, args.seed + args.count):
        path = args.out / f"{seed}.npz"
        if path.exists():
            continue
        rng = np.random.default_rng([29, seed])
        few = (
            names
            if args.trial
            else [names[int(k)] for k in np.random.default_rng(seed // 25).integers(0, len(names), 12)]
        )  # few at a time
        near = [name for name in few if len(singers.syllables(name)) >= 4]
        sound, truth = mixed(rng, songs, records, near, sung)
        np.savez(path, bands=spectra.bands(sound).astype(np.float16), truth=truth)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
