"""Sections: where they begin and which are the same music.

Method: every bar is described by its harmony (notes in four slices) and its sound (bands). From the
similarity of all bars two curves follow: how much the sound changes at a bar line (a checkerboard kernel,
Foote, "Automatic audio segmentation using a measure of audio novelty", ICME 2000) and how much the pattern
of repetitions changes there (structure features, Serrà et al., "Unsupervised music structure annotation by
time series structure features and segment similarity", IEEE TMM 2014). Dynamic programming sets boundaries
on bar lines where both are high, with a preference for usual lengths. Sections whose bars match in order
share a letter; names are suggested from place, repetition and loudness.
Conventions: bars by index; letters A, B, C ... in order of appearance.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from .spectra import BAND_RATE, PITCH_RATE, Array, segment_means

SLICES = 4
Floats = NDArray[np.float64]
SAME = 0.62  # similarity of two sections from which on they are the same music
BOUNDARY_COST = 1.05
SHORT = 0.6  # of a section's usual length: only a piece of it
# How welcome a length in bars is; lengths not listed get the default.
_LENGTHS = {1: -2.0, 2: -0.9, 3: -0.9, 4: 0.0, 5: -0.5, 6: -0.3, 7: -0.45, 8: 0.3, 9: -0.1, 10: -0.2, 12: 0.1, 16: 0.15}
_OTHER_LENGTH = -0.35
_TOO_LONG = 24


@dataclass(frozen=True)
class DecidedSection:
    """A section over bars ``first`` .. ``last`` (exclusive)."""

    first: int
    last: int
    letter: str
    name: str
    confidence: float


@dataclass(frozen=True)
class BarFeatures:
    """Per bar: ``harmony`` (n, SLICES, 12) unit rows, ``sound`` (n, k) standardised, ``level`` (n,) in dB."""

    harmony: Floats
    sound: Floats
    level: Floats


def describe(bands: Array, notes: Array, lines: Floats) -> BarFeatures:
    """Features of the bars between the bar lines ``lines`` (n + 1,) in seconds."""
    count = len(lines) - 1
    slices = np.interp(np.arange(count * SLICES + 1) / SLICES, np.arange(count + 1), lines)
    octaves = notes.reshape(len(notes), 7, 12)
    chroma = np.sqrt(np.concatenate([octaves[:, 2:6].sum(1) + 0.5 * octaves[:, :2].sum(1)], axis=1))
    harmony = segment_means(chroma, slices, PITCH_RATE).reshape(count, SLICES, 12)
    harmony -= harmony.mean(axis=2, keepdims=True)
    harmony /= np.sqrt((harmony**2).sum((1, 2), keepdims=True)) + 1e-6
    loud = np.percentile(bands.sum(1), 95) / bands.shape[1] + 1e-9
    log = np.log1p(20 * bands / loud)
    rise = np.maximum(0, np.diff(log, axis=0, prepend=log[:1]))
    groups = log.shape[1] // 5
    sound = np.concatenate([log, 3 * rise], axis=1).reshape(len(log), 2 * groups, 5).mean(2)
    per_bar = segment_means(sound.astype(np.float32), lines, BAND_RATE)
    standard = (per_bar - per_bar.mean(0)) / (0.5 * per_bar.std(0) + 0.5 * per_bar.std() + 1e-6)
    level = 10 * np.log10(segment_means((bands**2).sum(1, keepdims=True), lines, BAND_RATE)[:, 0] + 1e-9)
    return BarFeatures(harmony, standard, level)


def similarity(features: BarFeatures) -> tuple[Floats, Floats]:
    """(harmony, sound) similarity of all pairs of bars, 1 on the diagonal."""
    flat = features.harmony.reshape(len(features.harmony), -1)
    harmony = flat @ flat.T
    sound = features.sound
    size = (sound**2).mean(1)
    distance = np.sqrt(np.maximum(0, size[:, None] + size[None] - 2 * (sound @ sound.T) / sound.shape[1]))
    return harmony, np.exp(-distance)


def novelty(harmony: Floats, sound: Floats) -> Floats:
    """How much begins at each bar line, (n,), about 1 for a typical section start."""
    count = len(harmony)
    foote = np.zeros(count)
    for half, weight in ((2, 0.4), (4, 0.6)):
        padded = np.pad(sound, half, mode="edge")
        for i in range(count):
            block = padded[i : i + 2 * half, i : i + 2 * half]
            within = block[:half, :half].mean() + block[half:, half:].mean()
            across = block[:half, half:].mean() + block[half:, :half].mean()
            foote[i] += weight * max(0.0, within - across)
    structure = np.zeros(count)
    ranked = np.sort(harmony, axis=1)[:, ::-1]
    near = max(2, min(count - 1, int(0.15 * count)))
    close = (harmony >= ranked[:, near : near + 1]) * np.clip(harmony, 0, 1)
    close = np.minimum(close, close.T)
    lag = np.zeros((count, 2 * count))
    for i in range(count):
        lag[i, (np.arange(count) - i) + count] = close[i]
    blurred = gaussian_filter(lag, (1.6, 0.4))
    structure[1:] = np.sqrt(((blurred[1:] - blurred[:-1]) ** 2).sum(1))
    out = np.zeros(count)
    for curve, weight in ((foote, 0.55), (structure, 0.45)):
        spread = np.percentile(curve, 90) + 1e-6
        out += weight * np.clip(curve / spread, 0, 2.5)
    return out


def decide(features: BarFeatures, stated: Sequence[int] = ()) -> list[DecidedSection]:
    """Sections of a song; bars in ``stated`` are known to begin one."""
    harmony, sound = similarity(features)
    count = len(harmony)
    if count < 4:
        return [DecidedSection(0, count, "A", "Song", 0.5)]
    gain = novelty(harmony, sound)
    for bar in stated:
        gain[bar] = 50.0
    best = np.full(count + 1, -np.inf)
    best[0] = 0.0
    back = np.zeros(count + 1, int)
    for end in range(1, count + 1):
        for start in range(max(0, end - _TOO_LONG), end):
            length = end - start
            prior = _LENGTHS.get(length, _OTHER_LENGTH)
            begin = 0.0 if start == 0 else 1.6 * gain[start] - BOUNDARY_COST
            value = best[start] + prior + begin
            if value > best[end]:
                best[end], back[end] = value, start
    limits = [count]
    while limits[-1] > 0:
        limits.append(int(back[limits[-1]]))
    limits = limits[::-1]
    return _named(limits, harmony, features.level, gain)


def alike(harmony: Floats, a: tuple[int, int], b: tuple[int, int]) -> float:
    """How well two stretches of bars match in order, the better of aligning starts or ends; 1 is perfect."""
    length = min(a[1] - a[0], b[1] - b[0])
    longest = max(a[1] - a[0], b[1] - b[0])
    if length < 1:
        return 0.0
    steps = np.arange(length)
    starts = float(harmony[a[0] + steps, b[0] + steps].mean())
    ends = float(harmony[a[1] - 1 - steps, b[1] - 1 - steps].mean())
    return float(max(starts, ends) * (length / longest) ** 0.3)


def _named(limits: list[int], harmony: Floats, level: Floats, gain: Floats) -> list[DecidedSection]:
    spans = list(zip(limits, limits[1:], strict=False))
    letters: list[int] = []
    groups: list[list[tuple[int, int]]] = []
    for span in spans:
        scores = [float(np.mean([alike(harmony, span, other) for other in group])) for group in groups]
        if scores and max(scores) >= SAME:
            letter = int(np.argmax(scores))
            groups[letter].append(span)
        else:
            letter = len(groups)
            groups.append([span])
        letters.append(letter)
    names = _suggest(spans, letters, level)
    confidence = [float(np.clip(0.35 + 0.3 * gain[s], 0.05, 0.98)) if s else 1.0 for s, _ in spans]
    return [
        DecidedSection(a, b, _letter(k), name, c)
        for (a, b), k, name, c in zip(spans, letters, names, confidence, strict=True)
    ]


def _letter(index: int) -> str:
    return chr(ord("A") + index) if index < 26 else f"A{index - 25}"


def _suggest(spans: list[tuple[int, int]], letters: list[int], level: Floats) -> list[str]:
    """Names from place, repetition and loudness."""
    times = {k: letters.count(k) for k in letters}
    loud = {
        k: float(np.mean([level[a:b].mean() for (a, b), x in zip(spans, letters, strict=True) if x == k]))
        for k in times
    }
    repeated = [k for k in dict.fromkeys(letters) if times[k] > 1]
    naming: dict[int, str] = {}
    if len(repeated) >= 2:
        chorus = max(repeated, key=lambda k: loud[k])
        verses = [k for k in repeated if k != chorus]
        naming[chorus] = "Chorus"
        naming |= dict(zip(verses, ("Verse", "Refrain", "Part D", "Part E"), strict=False))
    elif repeated:
        naming[repeated[0]] = "Verse"
    out: list[str] = []
    for i, ((a, b), k) in enumerate(zip(spans, letters, strict=True)):
        usual = float(np.median([y - x for (x, y), other in zip(spans, letters, strict=True) if other == k]))
        if k in naming and i in (0, len(spans) - 1) and b - a <= SHORT * usual and times[k] > 1:
            out.append("Intro" if i == 0 else "Ending")  # the same music, but only a short piece of it
        elif k in naming:
            out.append(naming[k])
        elif i == 0:
            out.append("Intro" if b - a <= 8 and len(spans) > 1 else "Verse")
        elif i == len(spans) - 1:
            out.append("Ending" if b - a <= 10 else "Part " + _letter(k))
        else:
            singles = [x for x in dict.fromkeys(letters) if x not in naming and x not in (letters[0], letters[-1])]
            if not repeated:
                out.append("Part " + _letter(k))
            else:
                out.append("Bridge" if singles.index(k) == 0 else "Break" if b - a <= 4 else "Part " + _letter(k))
    return out
