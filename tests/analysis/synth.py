"""A tiny band for tests: plucked chords, bass and clicks with known beats, made with NumPy."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ychronos.audio.recording import ANALYSIS_RATE, PEAK_RATE, Recording
from ychronos.theory.chord import parse_chord

RATE = ANALYSIS_RATE


def pluck(midi: float, seconds: float, cents: float, level: float) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    f = 440 * 2 ** ((midi - 69 + cents / 100) / 12)
    wave = sum(np.sin(2 * np.pi * f * k * t) * 0.7 ** (k - 1) * np.exp(-t * (1 + 0.6 * k)) for k in range(1, 7))
    return level * wave * np.minimum(1, t / 0.004)


def band(
    chords: list[str], beats: int = 4, tempo: float = 110.0, cents: float = 0.0, repeat: int = 2
) -> tuple[Recording, np.ndarray]:
    """(recording, beat times): each chord for a bar; kick on ones, click on every beat, strummed eighths."""
    rng = np.random.default_rng(7)
    gap = 60 / tempo
    names = chords * repeat
    count = len(names) * beats
    out = np.zeros(int((count * gap + 2.5) * RATE))
    times = 0.5 + np.arange(count) * gap

    def put(at: float, sound: np.ndarray) -> None:
        i = int(at * RATE)
        out[i : i + len(sound)] += sound[: len(out) - i]

    for bar, name in enumerate(names):
        chord = parse_chord(name)
        for beat in range(beats):
            at = times[bar * beats + beat]
            t = np.arange(int(0.09 * RATE)) / RATE
            put(at, 0.25 * rng.normal(0, 1, len(t)) * np.exp(-t * 60))
            if beat == 0:
                put(at, 0.9 * np.sin(2 * np.pi * (50 + 60 * np.exp(-t * 40)) * t) * np.exp(-t * 18))
            if chord.root is None:
                continue
            if beat == 0:
                put(at, pluck(36 + chord.sounding_bass, gap * beats, cents, 0.35))
            for half in (0, 1):
                for pitch in sorted(chord.pitch_classes):
                    put(at + half * gap / 2, pluck(54 + (pitch - 54) % 12, gap, cents, 0.1 if half else 0.16))
    out = (0.7 * out / np.abs(out).max()).astype(np.float32)
    step = RATE // PEAK_RATE
    shaped = out[: len(out) // step * step].reshape(-1, step)
    peaks = np.stack([shaped.min(1), shaped.max(1)], 1)
    sound = Recording(
        Path("made-up.wav"),
        f"{hash((tuple(names), beats, tempo, cents)) & 0xFFFFFFFF:064x}",
        RATE,
        1,
        len(out) / RATE,
        out,
        peaks,
    )
    return sound, times


def plainly_played(bars: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What sections look at besides, for bars that are all played alike: the sound of their parts, the tonic, the beats."""
    return np.zeros((bars, 8, 24)), np.zeros(bars, int), np.full(bars, 4)
