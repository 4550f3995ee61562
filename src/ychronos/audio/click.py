"""The sound of a count: a short tick for every beat, a higher one for ones, placed to the sample.

Conventions: frames at the recording's rate, float32 mono.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .decode import Samples

LENGTH = 0.045  # seconds
BEAT_PITCH, ONE_PITCH = 1100.0, 1760.0  # Hz
LEVEL = 0.5


def tick(rate: int, pitch: float) -> Samples:
    """A tick that is loudest at its first milliseconds; its onset is its first sample."""
    t = np.arange(round(LENGTH * rate)) / rate
    attack = np.minimum(1.0, t * 2000)
    return np.asarray(LEVEL * attack * np.sin(2 * np.pi * pitch * t) * np.exp(-t * 110), np.float32)


@dataclass(frozen=True)
class Clicks:
    """Frames at which ticks begin, rising, and which of them are ones."""

    frames: NDArray[np.int64]
    ones: NDArray[np.bool_]
    beat: Samples
    one: Samples

    @classmethod
    def at(cls, times: Sequence[float], ones: Sequence[bool], rate: int, stretch: float = 1.0) -> Clicks:
        """Ticks at times (s) of a record that is played ``stretch`` times as long."""
        frames = np.round(np.asarray(times, float) * rate * stretch).astype(np.int64)
        return cls(frames, np.asarray(ones, bool), tick(rate, BEAT_PITCH), tick(rate, ONE_PITCH))

    def add(self, out: Samples, start: int) -> None:
        """Mix the ticks of frames start .. start + len(out) into ``out`` (frames, channels)."""
        length = len(self.beat)
        first = int(np.searchsorted(self.frames, start - length, "right"))
        last = int(np.searchsorted(self.frames, start + len(out), "left"))
        for i in range(first, last):
            sound = self.one if self.ones[i] else self.beat
            offset = int(self.frames[i]) - start
            a, b = max(0, offset), min(len(out), offset + length)
            if b > a:
                out[a:b] += sound[a - offset : b - offset, None]
