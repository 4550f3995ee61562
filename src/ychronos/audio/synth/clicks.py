"""The sound of a count: a short tick for every beat, a higher one for ones, a lower for what lies between.

Conventions: frames at the recording's rate, float32 mono; ticks are placed to the sample.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from ..decode import Samples
from .voices import Voice, Voices

LENGTH = 0.045  # seconds
PITCHES = {"one": 1760.0, "beat": 1100.0, "between": 800.0}  # Hz
LEVELS = {"one": 1.0, "beat": 1.0, "between": 0.45}
LEVEL = 0.5


@lru_cache(maxsize=16)
def tick(rate: int, pitch: float) -> Samples:
    """A tick that is loudest at its first milliseconds; its onset is its first sample."""
    t = np.arange(round(LENGTH * rate)) / rate
    attack = np.minimum(1.0, t * 2000)
    return np.asarray(LEVEL * attack * np.sin(2 * np.pi * pitch * t) * np.exp(-t * 110), np.float32)


class Clicks(Voices):
    """Ticks, each one of PITCHES."""

    @classmethod
    def at(cls, times: Sequence[float], kinds: Sequence[str], rate: int, stretch: float = 1.0) -> Clicks:
        """Ticks at times (s) of a record that is played ``stretch`` times as long."""
        out = []
        for time, kind in zip(times, kinds, strict=True):
            frame = round(time * rate * stretch)
            sound = tick(rate, PITCHES[kind])
            out.append(Voice(frame, frame + 2 * len(sound), sound, LEVELS[kind]))
        return cls(out, rate)
