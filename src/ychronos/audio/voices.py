"""Many short sounds placed to the sample: what a chart sounds like, mixed block by block.

The sounds are made beforehand; mixing a block only adds slices of them, so that it may be done in the
device's thread. Conventions: frames at the output's rate; sounds are float32 mono.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .decode import Samples

RELEASE = 0.06  # seconds in which a note dies when it is stopped


@dataclass(frozen=True)
class Voice:
    """A sound from frame ``start`` on, let go at ``stop``; ``pan`` -1 .. 1."""

    start: int
    stop: int
    sound: Samples
    gain: float = 1.0
    pan: float = 0.0


class Voices:
    """Voices in order of their starts, mixed into stereo blocks."""

    def __init__(self, voices: Sequence[Voice], rate: int) -> None:
        self.release = max(1, int(RELEASE * rate))
        self.voices = sorted(voices, key=lambda v: v.start)
        self._starts = np.array([v.start for v in self.voices], np.int64)
        ends = np.array([min(v.start + len(v.sound), v.stop + self.release) for v in self.voices], np.int64)
        # the latest end among a voice and all before it: where looking back may stop
        self._reach = np.maximum.accumulate(ends) if len(ends) else ends
        self._ends = [int(e) for e in ends]
        self._ramp = np.linspace(1, 0, self.release, dtype=np.float32)

    def __len__(self) -> int:
        return len(self.voices)

    @property
    def end(self) -> int:
        """The frame after the last sound."""
        return int(self._reach[-1]) if len(self._reach) else 0

    def add(self, out: Samples, start: int, gain: float = 1.0) -> None:
        """Mix frames start .. start + len(out) into ``out`` (frames, 2)."""
        stop = start + len(out)
        i = int(np.searchsorted(self._starts, stop, "left")) - 1
        while i >= 0 and self._reach[i] > start:
            if self._ends[i] > start:
                self._mix(i, out, start, stop, gain)
            i -= 1

    def _mix(self, i: int, out: Samples, start: int, stop: int, gain: float) -> None:
        v = self.voices[i]
        a, b = max(start, v.start), min(stop, self._ends[i])
        part = v.sound[a - v.start : b - v.start] * np.float32(gain * v.gain)
        if b > v.stop:
            fade = part if a >= v.stop else part[v.stop - a :]
            at = max(0, a - v.stop)
            fade *= self._ramp[at : at + len(fade)]
        out[a - start : b - start, 0] += part * np.float32(min(1.0, 1 - v.pan))
        out[a - start : b - start, 1] += part * np.float32(min(1.0, 1 + v.pan))
