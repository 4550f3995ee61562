"""Singers for training: recorded and spoken syllables, put on the notes of a melody.

A syllable is taken apart into pitch, envelope and breath (WORLD, by ``pyworld``: Morise, Yokomori and Ozawa, 2016), its vowel is stretched
to the length of a note, its pitch replaced by a sung one (scoops, vibrato, drift, glides between notes), and put together again. Speakers:
the people of Debian's ``klettres-data`` and ``ktuberling-data`` (GPL-2+; nothing of them is shipped), the voices of ``espeak-ng``, a voice of
``festival``. ``flite`` and the speakers of TRIAL are kept for trials.
"""

from __future__ import annotations

import subprocess
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import pyworld
import soundfile as sf
import soxr

RATE = 22050
PERIOD = 5.0  # ms
FOLDERS = ("/usr/share/klettres", "/usr/share/ktuberling/sounds")
TRIAL = ("klettres/de", "klettres/uk", "klettres/es", "sounds/de", "sounds/fr", "sounds/da", "sounds/pl")
SPOKEN = ("lantern", "harbour", "morning", "over the water", "hold me", "never again", "stay", "all the lights", "home", "only you", "low tide",
          "slowly now", "fire", "we were young", "follow", "sea and sky", "gone", "believe", "tonight", "rain", "away")  # fmt: skip
ESPEAK = tuple(
    f"{tongue}+{who}"
    for tongue in ("en", "en-us", "it", "es", "pt", "de", "fr", "sv", "cs")
    for who in ("m3", "m7", "f2", "f4", "f5", "m1")
)


@dataclass(frozen=True)
class Syllable:
    """``envelope`` and ``breath``: (frames, bins) of 5 ms; the frames ``first`` to ``last`` are the vowel."""

    envelope: np.ndarray
    breath: np.ndarray
    first: int
    last: int
    pitch: float  # MIDI, as spoken


def speakers(trial: bool = False) -> list[str]:
    """Names of those who may sing: folders of recordings, ``espeak:VOICE``, ``festival``, ``flite:VOICE``."""
    if trial:
        return [
            *(f for f in _folders() if any(t in f for t in TRIAL)),
            *(f"flite:{v}" for v in ("slt", "awb", "rms", "kal16")),
        ]
    return [
        *(f for f in _folders() if not any(t in f for t in TRIAL)),
        *(f"espeak:{v}" for v in ESPEAK),
        *["festival"] * 2,
    ]


def _folders() -> list[str]:
    out = []
    for root in map(Path, FOLDERS):
        for tongue in sorted(root.iterdir()):
            for place in (tongue / "syllab", tongue / "alpha", tongue):
                if len(list(place.glob("*.ogg"))) + len(list(place.glob("*.wav"))) >= 12:
                    out.append(str(place))
                    break
    return out


def _say(name: str, words: str, out: Path) -> None:
    kind, _, voice = name.partition(":")
    if kind == "espeak":
        subprocess.run(["espeak-ng", "-v", voice, "-w", str(out), words], check=True, capture_output=True)
    elif kind == "flite":
        subprocess.run(["flite", "-voice", voice, "-t", words, "-o", str(out)], check=True, capture_output=True)
    else:
        subprocess.run(["text2wave", "-o", str(out)], input=words.encode(), check=True, capture_output=True)


@lru_cache(maxsize=60)
def syllables(name: str, most: int = 16) -> tuple[Syllable, ...]:
    """What a speaker says, taken apart; what has no vowel of a tenth of a second is left out."""
    out = []
    if name.startswith("/"):
        files = sorted(f for kind in ("*.ogg", "*.wav") for f in Path(name).glob(kind))
        rng = np.random.default_rng(len(files))
        for k in rng.permutation(len(files))[: 2 * most]:
            try:
                sound, rate = sf.read(files[k], dtype="float64", always_2d=True)
            except (sf.LibsndfileError, OSError):
                continue
            out += [s for s in [_taken_apart(sound.mean(1)[: 3 * rate], rate)] if s]
    else:
        with tempfile.TemporaryDirectory() as folder:
            for k, words in enumerate(SPOKEN):
                path = Path(folder) / f"{k}.wav"
                _say(name, words, path)
                sound, rate = sf.read(path, dtype="float64", always_2d=True)
                out += [s for s in [_taken_apart(sound.mean(1), rate)] if s]
    return tuple(out[:most])


def _taken_apart(sound: np.ndarray, rate: int) -> Syllable | None:
    if len(sound) < rate // 8 or np.abs(sound).max() < 1e-3:
        return None
    x = np.ascontiguousarray(soxr.resample(sound, rate, RATE))
    rough, times = pyworld.dio(x, RATE, frame_period=PERIOD)
    hertz = pyworld.stonemask(x, rough, times, RATE)
    voiced = hertz > 0
    edges = np.flatnonzero(np.diff(np.concatenate([[0], voiced.astype(int), [0]])))
    runs = [(b - a, a, b) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    if not runs or max(runs)[0] < 20:
        return None
    _, a, b = max(runs)
    loud = pyworld.cheaptrick(x, hertz, times, RATE)
    breath = pyworld.d4c(x, hertz, times, RATE)
    first, last = max(0, a - 24), min(len(hertz), b + 16)
    return Syllable(
        loud[first:last],
        breath[first:last],
        a - first,
        b - first,
        69 + 12 * float(np.log2(np.median(hertz[a:b]) / 440)),
    )


def sing(notes: list[tuple[float, float, float]], name: str, rng: np.random.Generator, seconds: float) -> np.ndarray:
    """Mono (n,) of ``seconds``; ``notes`` are (start, end, MIDI pitch), one after the other, in seconds."""
    words = syllables(name)
    out = np.zeros(int(seconds * RATE) + RATE)
    vibrato, speed, late = rng.uniform(0.0, 0.7), rng.uniform(4.6, 6.6), rng.uniform(0.1, 0.4)
    dirt, held = rng.uniform(0.05, 0.22), rng.random() < 0.5
    before: float | None = None
    warp = rng.uniform(0.9, 1.12) if rng.random() < 0.5 else 1.0  # another throat
    word = words[0]
    for k, (start, end, pitch) in enumerate(notes):
        tied = (
            before is not None and k and start - notes[k - 1][1] < 0.02 and rng.random() < 0.3
        )  # the same vowel goes on
        if not tied:
            word = words[int(rng.integers(len(words)))]
        count = max(12, int((end - start) * 1000 / PERIOD))
        vowel = np.linspace(word.first + 2, word.last - 3, count)
        if held:  # most of a note on the middle of the vowel
            vowel = (
                word.first
                + 2
                + (word.last - word.first - 5) * np.linspace(-1, 1, count) ** 3 * 0.5
                + 0.5 * (word.last - word.first - 5)
            )
        lead = np.arange(0, 0 if tied else word.first)
        tail = np.arange(word.last, len(word.envelope)) if rng.random() < 0.6 else np.arange(0)
        place = np.clip(np.concatenate([lead, vowel, tail]).round().astype(int), 0, len(word.envelope) - 1)
        t = (np.arange(len(place)) - len(lead)) * PERIOD / 1000
        curve = np.full(len(place), float(pitch))
        if before is not None and start - notes[k - 1][1] < 0.15:
            curve += (before - pitch) * np.exp(-np.maximum(t, 0) / rng.uniform(0.015, 0.06))
        elif rng.random() < 0.6:
            curve -= rng.uniform(0, 2.2) * np.exp(-np.maximum(t, 0) / rng.uniform(0.02, 0.09))
        curve += vibrato * np.clip((t - late) / 0.25, 0, 1) * np.sin(2 * np.pi * speed * t + rng.uniform(0, 6))
        curve += np.interp(t, np.linspace(t[0], t[-1] + 1e-3, 7), rng.normal(0, dirt, 7))
        hertz = 440 * 2 ** ((curve - 69) / 12)
        hertz[: len(lead)] = 0
        if len(tail):
            hertz[-len(tail) :] = 0
        envelope, breath = word.envelope[place], word.breath[place]
        if warp != 1.0:
            grid = np.arange(envelope.shape[1])
            at = np.clip(grid / warp, 0, len(grid) - 1)
            low = np.floor(at).astype(int)
            part, high = at - low, np.minimum(low + 1, len(grid) - 1)
            envelope = envelope[:, low] * (1 - part) + envelope[:, high] * part
        sound = pyworld.synthesize(hertz, np.ascontiguousarray(envelope), np.ascontiguousarray(breath), RATE, PERIOD)
        fade = min(len(sound) // 3, int(0.025 * RATE))
        sound[-fade:] *= np.linspace(1, 0, fade)
        sound *= rng.uniform(0.7, 1.1) * 0.1 / (np.sqrt(np.mean(sound**2)) + 1e-9)
        a = int(max(0.0, start - len(lead) * PERIOD / 1000) * RATE)
        b = min(len(out), a + len(sound))
        out[a:b] += sound[: b - a]
        before = float(pitch)
    return out[: int(seconds * RATE)]
