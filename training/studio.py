"""How the songs of ``liveband.py`` sound: recorded kits, amplifiers, a singer, the mix.

Each player is a stem. Drums are played on the sampled kits of Debian's ``hydrogen-drumkits`` (or the soundfont's), guitars marked ``amp``
go through a distorting amplifier and a loudspeaker, a part marked ``voice`` is sung: a glottal pulse through the formants of a vowel, with
scoops, vibrato and sibilants. Then room, compression and what the tape does (``songmaker.render.record``).
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from functools import lru_cache
from pathlib import Path

import numpy as np
import soundfile as sf
import soxr
from scipy import signal
from songmaker import render

RATE = render.RATE
KITS = Path("/usr/share/hydrogen/data/drumkits")
TRAINING_KITS = ["Audiophob", "BJA_Pacific", "ColomboAcousticDrumkit", "ElectricEmpireKit", "ForzeeStereo", "Millo-Drums_v.1",
                 "Millo_MultiLayered2", "VariBreaks"]  # fmt: skip
TRIAL_KITS = ["The Black Pearl 1.0", "Millo_MultiLayered3"]  # no net is trained on these
# What an instrument of a kit may be, by words in its name: drum notes, first match wins.
WORDS = [
    ("rim|stick|click", (37,)), ("kick|bassdrum|bass drum", (35, 36)), ("snare", (38, 40)), ("clap", (39,)), ("pedal", (44,)),
    ("hat op|open|oh", (46,)), ("semi", (46,)), ("hh|hat|hi-hat", (42,)), ("bell|cup", (53,)), ("china", (52,)), ("ride", (51,)),
    ("crash|splash", (49, 57, 52)), ("floor|low", (41, 43, 45)), ("mid|tom 2", (47, 48)), ("tom", (48, 50)), ("cowbell", (56,)),
]  # fmt: skip
# Formants of sung vowels (Hz), and how wide they are.
VOWELS = [
    (730, 1090, 2440, 3400),
    (530, 1840, 2480, 3400),
    (390, 1990, 2550, 3500),
    (570, 840, 2410, 3300),
    (440, 1020, 2240, 3200),
]


@lru_cache(maxsize=4)
def kit(name: str) -> dict[int, list[np.ndarray]]:
    """Drum note to its samples, soft to loud, mono at ``RATE``, silence before the stroke cut off."""
    text = (KITS / name / "drumkit.xml").read_text(encoding="utf8", errors="ignore")
    root = ET.fromstring(text.replace('xmlns="', 'ns="'))
    out: dict[int, list[np.ndarray]] = {}
    for instrument in root.iter("instrument"):
        title = (instrument.findtext("name") or "").lower()
        notes = next((n for words, n in WORDS if any(w in title for w in words.split("|"))), ())
        files = [f.text for f in instrument.iter("filename") if f.text]
        samples = [s for f in files if (s := _sample(KITS / name / f)) is not None]
        for note in notes if samples else ():
            out.setdefault(note, samples)
    return out


def _sample(path: Path) -> np.ndarray | None:
    try:
        sound, rate = sf.read(path, dtype="float32", always_2d=True)
    except (sf.LibsndfileError, OSError):
        return None
    mono = sound.mean(axis=1)
    if rate != RATE:
        mono = soxr.resample(mono, rate, RATE)
    peak = np.abs(mono).max(initial=0)
    if peak < 1e-4:
        return None
    begin = int(np.argmax(np.abs(mono) > 0.05 * peak))
    return np.asarray(mono[max(0, begin - 20) : begin + 3 * RATE] / peak, np.float32)


def drums(track, name: str, seconds: float) -> tuple[np.ndarray, list]:
    """A mono stem of what the kit has, and the notes that it has not."""
    sounds, left = kit(name), []
    out = np.zeros(int((seconds + 4) * RATE), np.float32)
    notes = sorted(track.notes, key=lambda n: n.start)
    closings = [n.start for n in notes if n.pitch in (42, 44, 46)]
    for note in notes:
        samples = sounds.get(note.pitch)
        if samples is None:
            left.append(note)
            continue
        layer = samples[min(len(samples) - 1, int(note.velocity / 128 * len(samples)))]
        at = int(note.start * RATE)
        if note.pitch == 46:  # an open hat rings until the next stroke of the hats
            nxt = next((t for t in closings if t > note.start + 0.02), note.start + 3)
            layer = layer[: max(400, int((nxt - note.start) * RATE))]
        layer = layer[: len(out) - at]
        out[at : at + len(layer)] += layer * (note.velocity / 127) ** 1.6
    return out, left


def amplified(sound: np.ndarray, gain: float, rng: np.random.Generator) -> np.ndarray:
    """A mono stem through a distorting stage and a loudspeaker."""
    level = np.sqrt(np.mean(sound**2)) + 1e-9
    x = signal.sosfilt(signal.butter(1, rng.uniform(80, 350), "highpass", fs=RATE, output="sos"), sound / level)
    x = soxr.resample(x, RATE, 2 * RATE)
    bias = rng.uniform(0, 0.25)
    x = np.tanh(gain * 0.35 * x + bias) - np.tanh(bias)
    x = soxr.resample(x, 2 * RATE, RATE)[: len(sound)]
    for kind, order, edge in (("highpass", 2, rng.uniform(60, 120)), ("lowpass", 4, rng.uniform(3800, 6500))):
        x = signal.sosfilt(signal.butter(order, edge, kind, fs=RATE, output="sos"), x)
    b, a = signal.iirpeak(rng.uniform(1500, 3200), 1.2, fs=RATE)
    return x + rng.uniform(0, 1.5) * signal.lfilter(b, a, x)


def sung(track, seed: int, seconds: float) -> np.ndarray:
    """A lead part as a voice sings it: mono."""
    rng = np.random.default_rng(seed)
    n = int((seconds + 3) * RATE)
    out = np.zeros(n)
    bends = sorted(track.bends)
    times, steps = np.array([b[0] for b in bends] or [0.0]), np.array([b[1] for b in bends] or [0.0])
    shift, breath = rng.uniform(0.88, 1.2), rng.uniform(0.01, 0.06)
    for note in track.notes:
        a, b = int(note.start * RATE), min(n, int((note.end + 0.03) * RATE))
        if b - a < 600:
            continue
        t = np.arange(a, b) / RATE
        inside = (times >= note.start - 0.01) & (times <= note.end + 0.05)
        bend = np.interp(t, times[inside], steps[inside]) if inside.any() else np.zeros(len(t))
        wander = np.interp(t, np.linspace(t[0], t[-1], 8), rng.normal(0, 0.12, 8))
        hertz = 440 * 2 ** ((note.pitch - 69 + bend + wander) / 12)
        phase = np.cumsum(hertz) / RATE % 1
        pulse = signal.lfilter([1], [1, -0.96], np.where(phase < 0.4, np.sin(np.pi * phase / 0.4) ** 2, 0))
        pulse = np.diff(pulse, prepend=0) + breath * rng.standard_normal(len(t))
        vowel = VOWELS[int(rng.integers(len(VOWELS)))]
        voiced = np.zeros(len(t))
        for formant, strength in zip(vowel, (1.0, 0.7, 0.35, 0.25), strict=True):
            fb, fa = signal.iirpeak(min(9000, formant * shift), 6 + 4 * rng.random(), fs=RATE)
            voiced += strength * signal.lfilter(fb, fa, pulse)
        envelope = np.minimum(1, np.minimum((t - t[0]) / 0.04, (t[-1] - t) / 0.05))
        voiced *= envelope * (note.velocity / 100) / (np.sqrt(np.mean(voiced**2)) + 1e-9)
        out[a:b] += voiced
        if rng.random() < 0.4:  # a consonant before the vowel
            width = int(rng.uniform(0.03, 0.09) * RATE)
            begin = max(0, a - width)
            hiss = signal.sosfilt(
                signal.butter(2, (4500, 9000), "bandpass", fs=RATE, output="sos"), rng.standard_normal(width)
            )
            out[begin : begin + width] += (rng.uniform(0.3, 1.2) * hiss * np.hanning(width))[: n - begin]
    return out


def panned(mono: np.ndarray, pan: float) -> np.ndarray:
    angle = (np.clip(pan, -1, 1) + 1) * np.pi / 4
    return np.stack([mono * np.cos(angle), mono * np.sin(angle)], axis=1)


def limited(audio: np.ndarray, decibels: float) -> np.ndarray:
    """As records that are to be loud: what rises over a level that is so far below the peaks is pressed down within a
    few milliseconds, strokes of drums before all else."""
    if not decibels:
        return audio
    level = np.sqrt(signal.lfilter([0.01], [1, -0.99], np.mean(audio**2, axis=1)) + 1e-12)
    top = np.percentile(level, 99.5) * 10 ** (-decibels / 20)
    gain = np.minimum(1, (top / np.maximum(level, 1e-9)) ** 0.9)
    return audio * np.minimum(gain, np.roll(gain, -int(0.003 * RATE)))[:, None]


def crowd(length: int, rng: np.random.Generator) -> np.ndarray:
    """The noise of a hall, stereo, that swells and falls; about 1 in size."""
    noise = signal.lfilter([0.2], [1, -0.8], rng.standard_normal((length, 2)), axis=0)
    swell = np.interp(np.arange(length), np.linspace(0, length, 12), rng.uniform(0.2, 1.0, 12))
    return noise * swell[:, None] / (np.sqrt(np.mean(noise**2)) + 1e-9)


# How loud a stem is in the mix, in dB, and by how much that varies.
LEVELS = {"drums": (0, 3), "bass": (-3, 3), "guitar": (-4, 3), "keys": (-8, 4), "lead": (-5, 4), "voice": (-2, 3)}


def mixed(spec: dict, tracks: list, font: str, kits: list[str], rng: np.random.Generator) -> np.ndarray:
    """Stereo sound of the band, (samples, 2), before the recording chain."""
    seconds = max(n.end for t in tracks for n in t.notes)
    total = np.zeros((int((seconds + 4) * RATE), 2))
    own = rng.random() < 0.75
    name = kits[int(rng.integers(len(kits)))]

    def add(stem: np.ndarray, role: str) -> None:
        level, spread = LEVELS[role]
        level += spec.get("mix", {}).get(role, 0.0)
        active = stem[np.abs(stem).max(axis=1) > 1e-4]
        loud = np.sqrt(np.mean(active**2)) if len(active) else 1.0
        part = stem[: len(total)] * (
            0.1 * 10 ** ((level + np.clip(rng.normal(0, spread), -2 * spread, 2 * spread)) / 20) / loud
        )
        total[: len(part)] += part

    plain = []
    for part, track in zip(spec["band"], tracks, strict=True):
        if not track.notes:
            continue
        if part["role"] == "drums" and own:
            stem, left = drums(track, name, seconds)
            wide = panned(stem, float(rng.normal(0, 0.1)))
            if left:
                track.notes = left
                rest = render.synthesize([track], font)
                rest *= 0.5 * np.abs(stem).max() / (np.abs(rest).max() + 1e-9)
                wide[: len(rest)] += rest[: len(wide)]
            add(wide, "drums")
        elif part.get("voice"):
            add(panned(sung(track, part["voice"], seconds), float(rng.normal(0, 0.1))), "voice")
        elif part.get("amp"):
            mono = render.synthesize([track], font).mean(axis=1)
            add(panned(amplified(mono, part["amp"], rng), part.get("pan", 0.0)), part["role"])
        else:
            plain.append((part, track))
    for part, track in plain:
        add(render.synthesize([track], font), part["role"])
    if spec["recording"].get("crowd_db"):
        total += crowd(len(total), rng) * np.sqrt(np.mean(total**2)) * 10 ** (spec["recording"]["crowd_db"] / 20)
    return limited(total, spec["recording"].get("limit", 0.0))


def clipped(audio: np.ndarray, decibels: float) -> np.ndarray:
    """As a desk that is driven over its top cuts it."""
    if not decibels:
        return audio
    top = np.percentile(np.abs(audio), 99.9) * 10 ** (-decibels / 20)
    return np.clip(audio, -top, top)
