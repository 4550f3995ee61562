"""Many short sounds placed to the sample: what a chart sounds like, mixed block by block.

The sounds are made beforehand; mixing a block only adds slices of them, so that it may be done in the
device's thread. Conventions: frames at the output's rate; sounds are float32 mono.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..decode import Samples

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
        # the latest frame at which anything among a voice and all before it may sound, at any speed up to double:
        # where looking back may stop
        reach = np.array([min(v.start + 2 * len(v.sound), v.stop + 2 * self.release) for v in self.voices], np.int64)
        self._reach = np.maximum.accumulate(reach) if len(reach) else reach
        ends = [min(v.start + len(v.sound), v.stop + self.release) for v in self.voices]
        self.end = max(ends, default=0)  # the frame after the last sound, at the record's own speed
        self._ramp = np.linspace(1, 0, self.release, dtype=np.float32)

    def __len__(self) -> int:
        return len(self.voices)

    def add(self, out: Samples, start: float, gain: float = 1.0, speed: float = 1.0) -> None:
        """Mix what sounds from frame ``start`` on into ``out`` (frames, 2); voices begin where they are placed
        when frames pass ``speed`` times as fast, their sounds stay as they are."""
        i = int(np.searchsorted(self._starts, start + len(out) * speed, "left")) - 1
        while i >= 0 and self._reach[i] > start:
            self._mix(self.voices[i], out, start, gain, speed)
            i -= 1

    def _mix(self, v: Voice, out: Samples, start: float, gain: float, speed: float) -> None:
        # in frames of the output; rounded so that it comes out the same however blocks are cut
        first = int(np.ceil((v.start - start) / speed - 1e-6))
        stop = int(np.ceil((v.stop - start) / speed - 1e-6))
        a, b = max(0, first), min(len(out), first + len(v.sound), stop + self.release)
        if b <= a:
            return
        part = v.sound[a - first : b - first] * np.float32(gain * v.gain)
        if b > stop:
            fade = part[max(0, stop - a) :]
            at = max(0, a - stop)
            fade *= self._ramp[at : at + len(fade)]
        out[a:b, 0] += part * np.float32(min(1.0, 1 - v.pan))
        out[a:b, 1] += part * np.float32(min(1.0, 1 + v.pan))
