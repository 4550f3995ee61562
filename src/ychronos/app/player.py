"""Playing a recording: what is heard next, block by block.

No Qt and no device here: a device asks :meth:`Player.fill` for its next block from its own thread. All that
other threads change (play, stop, loop, level) is one attribute assignment, read once a block.
Conventions: frames at the recording's rate; output is float32 stereo.
"""

from __future__ import annotations

import threading

import numpy as np

from ..audio.click import Clicks
from ..audio.decode import Samples
from ..audio.voices import Voices

FADE = 0.006  # seconds of fade at start, stop and loop seam: no clicks
CAP_DB = -6.0  # loudest level unless the user lifts the cap
FLOOR_DB = -48.0


def level_to_gain(level: float, lifted: bool = False) -> float:
    """Gain of a level from 0 (silent) to 1 (the cap, or full scale when the cap is lifted)."""
    if level <= 0:
        return 0.0
    top = 0.0 if lifted else CAP_DB
    return float(10 ** ((FLOOR_DB + (top - FLOOR_DB) * min(1.0, level)) / 20))


class Player:
    """A playhead over samples (frames, channels).

    ``stretch`` is the length of these samples against the original record's; all times given and asked for
    are the original's.
    """

    def __init__(self, samples: Samples, rate: int, stretch: float = 1.0) -> None:
        self.samples, self.rate, self.stretch = samples, rate, stretch
        self.fade = max(1, int(FADE * rate))
        self.ramp = np.linspace(0, 1, self.fade, dtype=np.float32)[:, None]
        self._lock = threading.Lock()
        self._at = 0
        self._playing = False
        self._fading_in = False
        self._loop: tuple[int, int] | None = None
        self._target = level_to_gain(0.7)
        self._gain = self._target
        self.ended = False
        self.clicks: Clicks | None = None  # mixed under the record while set
        self.chart: Voices | None = None  # the chart's sound, likewise
        self.turns: tuple[Voices, ...] = ()  # sounds that take turns, one for each time round the loop
        self.turn = 0
        self.record_gain = self.chart_gain = 1.0
        self._alone: Voices | None = None
        self._alone_at = 0

    # ------------------------------------------------------------ from the user's side

    @property
    def playing(self) -> bool:
        return self._playing

    @property
    def frame(self) -> int:
        """The frame that the next block begins with."""
        return self._at

    @property
    def seconds(self) -> float:
        """Time in the original record at which the next block begins."""
        return self._at / (self.rate * self.stretch)

    @property
    def loop(self) -> tuple[int, int] | None:
        return self._loop

    def play(self, seconds: float | None = None) -> None:
        """Start, at ``seconds`` when given; at the end of the record it starts from the beginning."""
        with self._lock:
            if seconds is not None:
                self._at = self._clip(seconds)
            if self._at >= len(self.samples) - 1:
                self._at = 0
            self.ended = False
            self._fading_in = True
            self._playing = True

    def stop(self) -> None:
        with self._lock:
            self._playing = False

    def seek(self, seconds: float) -> None:
        with self._lock:
            self._at = self._clip(seconds)
            self._fading_in = True

    def set_loop(self, limits: tuple[float, float] | None) -> None:
        """Loop between two times, or none; too short a loop is none."""
        with self._lock:
            if limits is None:
                self._loop = None
                return
            first, last = self._clip(limits[0]), self._clip(limits[1])
            self._loop = (first, last) if last - first > 4 * self.fade else None

    def sound(self, voices: Voices | None) -> None:
        """Let something be heard by itself, whether the record plays or not; None ends it."""
        with self._lock:
            self._alone, self._alone_at = voices, 0

    @property
    def sounding(self) -> bool:
        """Whether something is heard by itself."""
        return self._alone is not None

    def take_turns(self, turns: tuple[Voices, ...]) -> None:
        """Sounds for the times round the loop, the first from now on; none ends it."""
        with self._lock:
            self.turns, self.turn = turns, 0

    def set_gain(self, gain: float) -> None:
        self._target = float(gain)

    def _clip(self, seconds: float) -> int:
        return max(0, min(len(self.samples), int(round(seconds * self.rate * self.stretch))))

    # ------------------------------------------------------------ from the device's side

    def fill(self, out: Samples) -> None:
        """Write the next block into ``out`` (frames, 2); silence while stopped."""
        out[:] = 0
        with self._lock:
            if self._playing:
                self._play_into(out)
            if self._alone is not None:
                self._alone.add(out, self._alone_at)
                self._alone_at += len(out)
                if self._alone_at >= self._alone.end:
                    self._alone = None
        step = np.linspace(self._gain, self._target, len(out), dtype=np.float32)[:, None]
        out *= step
        self._gain = self._target
        np.clip(out, -1.0, 1.0, out=out)

    def _play_into(self, out: Samples) -> None:
        done, count = 0, len(out)
        while done < count:
            at, loop = self._at, self._loop
            limit = loop[1] if loop and at < loop[1] else len(self.samples)
            take = min(count - done, limit - at)
            if take <= 0:
                self._playing, self.ended = False, True
                break
            piece = out[done : done + take]
            self._copy(piece, at)
            if loop and at < loop[1]:
                self._blend_seam(piece, at, loop)
            if self.record_gain != 1.0:
                piece *= np.float32(self.record_gain)
            self._add_chart(piece, at, loop)
            clicks = self.clicks
            if clicks is not None:
                clicks.add(piece, at)
            self._at = at + take
            done += take
            if loop and self._at == loop[1]:
                self._at = loop[0]
                self.turn += 1
        if self._fading_in:
            n = min(self.fade, count)
            out[:n] *= self.ramp[:n]
            self._fading_in = False

    def _add_chart(self, out: Samples, at: int, loop: tuple[int, int] | None) -> None:
        turns = self.turns
        voices = turns[self.turn % len(turns)] if turns else self.chart
        if voices is None:
            return
        sound = np.zeros_like(out)
        voices.add(sound, at, self.chart_gain)
        if loop and at < loop[1] < at + len(out) + self.fade:  # what still rings ends with the loop
            left = np.clip((loop[1] - at - np.arange(len(out), dtype=np.float32)) / self.fade, 0, 1)
            sound *= left[:, None]
        out += sound

    def _copy(self, out: Samples, at: int) -> None:
        block = self.samples[at : at + len(out)]
        if block.shape[1] == 2 or block.shape[1] == 1:
            out[:] = block
        else:
            out[:] = block.mean(axis=1, keepdims=True)

    def _blend_seam(self, out: Samples, at: int, loop: tuple[int, int]) -> None:
        """The last moments before the seam run over into what precedes the loop's start."""
        first = loop[1] - self.fade
        begin, end = max(at, first), at + len(out)
        if end <= first or loop[0] < self.fade:
            return
        place = np.arange(begin, end) - first
        lead = np.zeros((end - begin, 2), np.float32)
        self._copy(lead, loop[0] - self.fade + int(place[0]))
        ramp = self.ramp[place]
        part = out[begin - at :]
        part *= 1 - ramp
        part += lead * ramp
