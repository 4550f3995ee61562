"""Playing a recording: what is heard next, block by block.

No Qt and no device here: a device asks :meth:`Player.fill` for its next block from its own thread. What other
threads change is done under a lock that is held for a moment only; what takes longer (a stretcher for another
speed, filters) is made by them beforehand and handed over at a place a little ahead, where old and new are
crossfaded, so that nothing is ever missing from the output.
Conventions: frames at the recording's rate; output is float32 stereo. A place is a frame of the samples, with a
fraction while the speed is not 1; a block's frames lie at place, place + speed, place + 2 speed ...
"""

from __future__ import annotations

import threading
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..decode import Samples
from ..synth.clicks import Clicks
from ..synth.voices import Voices
from .ear import Ear
from .stretch import HIGHEST, LOWEST, Stretcher

FADE = 0.006  # seconds of fade at start, stop and loop seam: no clicks
AHEAD = 0.05  # seconds of the record before a new speed takes over
CAP_DB = -6.0  # loudest level unless the user lifts the cap
FLOOR_DB = -48.0
LARGEST = 2048  # frames made at a time


def level_to_gain(level: float, lifted: bool = False) -> float:
    """Gain of a level from 0 (silent) to 1 (the cap, or full scale when the cap is lifted)."""
    if level <= 0:
        return 0.0
    top = 0.0 if lifted else CAP_DB
    return float(10 ** ((FLOOR_DB + (top - FLOOR_DB) * min(1.0, level)) / 20))


@dataclass(frozen=True)
class Round:
    """A stretch of frames that is played ``times`` over (0: for ever) before the next one."""

    first: int
    last: int
    times: int = 0


class _Source:
    """Samples by place. Who reads them for a player (a stretcher) holds these, not the player: the two would keep each other,
    and the record, in memory until Python looks for such rings."""

    def __init__(self, samples: Samples, rate: int) -> None:
        self.samples = samples
        self.fade = max(1, int(FADE * rate))
        self.ramp = np.linspace(0, 1, self.fade, dtype=np.float32)[:, None]

    def before(self, at: int, count: int) -> Samples:
        """The frames up to a place, silence where there are none."""
        out = np.zeros((count, 2), np.float32)
        have = min(count, at)
        if have:
            self.copy(out[count - have :], at - have, None)
        return out

    def copy(self, out: Samples, at: int, loop: Round | None) -> None:
        """Frames from a place into ``out``; the last moments before a loop's end run over into what precedes its
        beginning."""
        block = self.samples[at : at + len(out)]
        n = len(block)
        if block.shape[1] in (1, 2):
            out[:n] = block
        else:
            out[:n] = block.mean(axis=1, keepdims=True)
        if loop is None or loop.first < self.fade:
            return
        first = loop.last - self.fade
        begin, end = max(at, first), min(at + n, loop.last)
        if end <= begin:
            return
        lead = np.zeros((end - begin, 2), np.float32)
        self.copy(lead, loop.first - self.fade + begin - first, None)
        ramp = self.ramp[begin - first : end - first]
        part = out[begin - at : end - at]
        part *= 1 - ramp
        part += lead * ramp


class _Reader:
    """Reads samples in order from a place, round a loop with its seam blended."""

    def __init__(self, source: _Source, at: int, loop: Round | None) -> None:
        self.source, self.at, self.loop = source, at, loop

    def __call__(self, count: int) -> Samples:
        out = np.zeros((count, 2), np.float32)
        done = 0
        while done < count:
            inside = self.loop is not None and self.at < self.loop.last
            limit = self.loop.last if inside and self.loop is not None else len(self.source.samples)
            take = min(count - done, limit - self.at)
            if take <= 0:
                break  # silence after the end
            self.source.copy(out[done : done + take], self.at, self.loop if inside else None)
            self.at += take
            done += take
            if inside and self.loop is not None and self.at == self.loop.last:
                self.at = self.loop.first
        return out


class Player:
    """A playhead over samples (frames, channels).

    ``stretch`` is the length of these samples against the original record's; all times given and asked for
    are the original's.
    """

    def __init__(self, samples: Samples, rate: int, stretch: float = 1.0) -> None:
        self.samples, self.rate, self.stretch = samples, rate, stretch
        self._source = _Source(samples, rate)
        self.fade, self.ramp = self._source.fade, self._source.ramp
        self.speed, self.cents = 1.0, 0.0
        self.clicks: Clicks | None = None  # mixed under the record while set
        self.chart: Voices | None = None  # the chart's sound, likewise
        self.turns: tuple[Voices, ...] = ()  # sounds that take turns, one for each time round the loop
        self.turn = 0
        self.rounds = 0  # how often the end of a loop was passed since it was set
        self.record_gain = self.chart_gain = 1.0
        self.ended = False
        self._lock = threading.Lock()
        self._at = 0.0
        self._playing = False
        self._fading_in = False
        self._plan: list[Round] = []  # what is looped, and what comes after it
        self._again = False
        self._stretcher: Stretcher | None = None
        self._next: tuple[Stretcher | None, float, float] | None = None  # a new one, its speed, frames until it
        self._ready: tuple[tuple[Round, float, float], Stretcher | None] | None = (
            None  # for the next stretch of the plan
        )
        self._old: tuple[Stretcher | None, int, int] | None = None  # what fades out, where it is, how far it is gone
        self._ear = Ear(rate)
        self._counting: tuple[Clicks, int, int] | None = None  # ticks before the record, frame, length
        self._alone: Voices | None = None
        self._alone_at = 0
        self._target = self._gain = level_to_gain(0.7)
        self._mix = (1.0, 1.0)

    # ------------------------------------------------------------ from the user's side

    @property
    def playing(self) -> bool:
        return self._playing

    @property
    def counting_in(self) -> bool:
        return self._counting is not None

    @property
    def frame(self) -> int:
        """The frame that the next block begins with."""
        return int(self._at)

    @property
    def seconds(self) -> float:
        """Time in the original record at which the next block begins."""
        return self._at / (self.rate * self.stretch)

    @property
    def loop(self) -> tuple[int, int] | None:
        return (self._plan[0].first, self._plan[0].last) if self._plan else None

    def play(self, seconds: float | None = None, count_in: tuple[Clicks, int] | None = None) -> None:
        """Start, at ``seconds`` when given; at the end of the record it starts from the beginning. ``count_in``
        are ticks that come first, and how many frames they take."""
        at = float(self._clip(seconds)) if seconds is not None else self._at
        if at >= len(self.samples) - 1:
            at = 0.0
        stretcher = self._make(at, self.speed, self.cents)
        with self._lock:
            self._go_to(at, stretcher)
            self.ended = False
            self._playing = True
            self._counting = (count_in[0], 0, count_in[1]) if count_in else None

    def stop(self) -> None:
        with self._lock:
            self._playing = False
            self._counting = None

    def seek(self, seconds: float) -> None:
        at = float(self._clip(seconds))
        stretcher = self._make(at, self.speed, self.cents)
        with self._lock:
            self._go_to(at, stretcher)

    def _go_to(self, at: float, stretcher: Stretcher | None) -> None:
        self._at, self._stretcher = at, stretcher
        self._next = self._old = None
        self._fading_in = True
        self._ear.forget()

    def set_loop(self, limits: tuple[float, float] | None, times: int = 0) -> None:
        """Loop between two times, or nothing; too short a loop is none. What is played now goes on."""
        self.set_plan([] if limits is None else [(*limits, times)])

    def set_plan(self, plan: Sequence[tuple[float, float, int]], again: bool = False) -> None:
        """Stretches of time to play one after the other, each so many times (0: for ever); ``again``: all of them
        over and over."""
        made = [Round(self._clip(a), self._clip(b), times) for a, b, times in plan]
        made = [r for r in made if r.last - r.first > 4 * self.fade]
        with self._lock:
            self._plan, self._again = made, again
            self.rounds = 0
        if self._playing and self._stretcher is not None:
            self._hand_over(self.speed, self.cents)
        self.prepare()

    def prepare(self) -> None:
        """Make what the plan's next stretch needs ahead of time, never in the device's callback; to be called now and
        then while it plays."""
        with self._lock:
            plan, again, speed, cents, ready = list(self._plan), self._again, self.speed, self.cents, self._ready
        following = plan[1] if len(plan) > 1 else plan[0] if plan and again else None
        if following is None or (speed == 1.0 and cents == 0.0):
            return
        key = (following, speed, cents)
        if ready is None or ready[0] != key:
            made = self._make(following.first, speed, cents, following)
            with self._lock:
                self._ready = (key, made)

    def set_speed(self, speed: float, cents: float = 0.0) -> None:
        """Play at another speed or pitch from a moment ahead on, without a gap.

        Raises
        ------
        StretchMissing
            when that cannot be done on this machine; nothing changes then.
        """
        speed = min(HIGHEST, max(LOWEST, speed))
        if (speed, cents) == (self.speed, self.cents):
            return
        if self._playing:
            self._hand_over(speed, cents)
        else:
            self._make(self._at, speed, cents)
        self.cents = cents
        if not self._playing:
            self.speed = speed

    def set_ear(self, mode: str) -> None:
        """What to hear, one of ``ear.MODES``."""
        ear = Ear(self.rate, mode)
        with self._lock:
            self._ear = ear
            self._fading_in = True

    @property
    def ear(self) -> str:
        return self._ear.mode

    def settle(self) -> None:
        """Levels hold from the next frame on, without a fade from what was before."""
        with self._lock:
            self._gain, self._mix = self._target, (self.record_gain, self.chart_gain)

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

    # ------------------------------------------------------------ other speeds

    def _make(self, at: float, speed: float, cents: float, loop: Round | str | None = "") -> Stretcher | None:
        """A stretcher that begins at a place, or None where none is needed."""
        if speed == 1.0 and cents == 0.0:
            return None
        begin = int(at)
        if isinstance(loop, str):
            loop = self._plan[0] if self._plan else None

        source = self._source
        return Stretcher(
            self.rate, speed, cents, _Reader(source, begin, loop), lambda count: source.before(begin, count)
        )

    def _hand_over(self, speed: float, cents: float) -> None:
        """Have a new stretcher ready for a place a little ahead of what is played."""
        with self._lock:
            at, plan = self._at, list(self._plan)
        ahead = AHEAD * self.rate
        place = at + ahead
        loop = plan[0] if plan and at < plan[0].last else None
        if loop is not None and place >= loop.last:
            place = loop.first + (place - loop.last) % max(1, loop.last - loop.first)
        made = self._make(place, speed, cents, loop)
        with self._lock:
            gone = self._at - at
            if gone < 0 and loop is not None:
                gone += loop.last - loop.first
            self._next = (made, speed, ahead - gone + (int(place) - place))

    # ------------------------------------------------------------ from the device's side

    def fill(self, out: Samples) -> None:
        """Write the next block into ``out`` (frames, 2); silence while stopped."""
        out[:] = 0
        with self._lock:
            if self._playing:
                done = self._count_in(out)
                for start in range(done, len(out), LARGEST):
                    self._play_into(out[start : start + LARGEST])
            if self._alone is not None:
                self._alone.add(out, self._alone_at)
                self._alone_at += len(out)
                if self._alone_at >= self._alone.end:
                    self._alone = None
        out *= np.linspace(self._gain, self._target, len(out), dtype=np.float32)[:, None]
        self._gain = self._target
        np.clip(out, -1.0, 1.0, out=out)

    def _count_in(self, out: Samples) -> int:
        """Ticks before the record; returns how many frames of the block they took."""
        if self._counting is None:
            return 0
        ticks, at, length = self._counting
        take = min(len(out), length - at)
        ticks.add(out[:take], at)
        self._counting = (ticks, at + take, length) if at + take < length else None
        return take

    def _play_into(self, out: Samples) -> None:
        done, count = 0, len(out)
        mix = (self.record_gain, self.chart_gain)
        while done < count and self._playing:
            if self._next is not None and self._next[2] <= 0:
                self._take_over()
            at, speed = self._at, self.speed
            loop = self._plan[0] if self._plan and at < self._plan[0].last else None
            limit = loop.last if loop is not None else len(self.samples)
            take = min(count - done, int(np.ceil((limit - at) / speed - 1e-6)))
            if self._next is not None:
                take = min(take, max(1, int(np.ceil(self._next[2] / speed))))
            if take <= 0:
                self._playing, self.ended = False, True
                break
            piece = out[done : done + take]
            self._record(piece, at, loop)
            self._ear.hear(piece)
            # gains move over the block, so that turning the balance does not click
            begin, end = (
                [old + (new - old) * place / count for old, new in zip(self._mix, mix, strict=True)]
                for place in (done, done + take)
            )
            if min(begin[0], end[0]) != 1.0:
                piece *= np.linspace(begin[0], end[0], take, dtype=np.float32)[:, None]
            self._add_chart(piece, at, loop, end[1])
            if self.clicks is not None:
                self.clicks.add(piece, at, 1.0, speed)
            self._at = at + take * speed
            done += take
            if self._next is not None:
                self._next = (*self._next[:2], self._next[2] - take * speed)
            if loop is not None and self._at >= loop.last - 1e-6:
                self._come_round(loop)
        self._mix = mix
        if self._fading_in:
            n = min(self.fade, count)
            out[:n] *= self.ramp[:n]
            self._fading_in = False

    def _come_round(self, loop: Round) -> None:
        self.turn += 1
        self.rounds += 1
        over = self._at - loop.last
        if loop.times and self.rounds >= loop.times and self._plan and self._plan[0] is loop:
            coming = self._plan[1] if len(self._plan) > 1 else self._plan[0] if self._again else None
            key = (coming, self.speed, self.cents)
            if self._stretcher is not None and coming is not None and (self._ready is None or self._ready[0] != key):
                self._at = loop.first + over  # not made yet: once more round
                return
            done = self._plan.pop(0)
            if self._again:
                self._plan.append(done)
            self.rounds = 0
            following = self._plan[0] if self._plan else None
            if following is None or (following.first == loop.last and self._stretcher is None):
                return  # the record simply goes on
            self._at = following.first + over
            if self._stretcher is not None and self._ready is not None:
                self._stretcher, self._ready = self._ready[1], None
            self._fading_in = True
            return
        self._at = loop.first + over

    def _take_over(self) -> None:
        """The stretcher that was made ready begins; the one before fades out."""
        assert self._next is not None
        made, speed, _ = self._next
        self._old = (self._stretcher, int(self._at), 0)
        self._stretcher, self.speed, self._next = made, speed, None
        if made is None:
            self._at = float(round(self._at))

    def _record(self, out: Samples, at: float, loop: Round | None) -> None:
        """The record's own sound for a piece that does not cross a loop's end."""
        if self._stretcher is None:
            self._source.copy(out, int(at), loop)
        else:
            got = self._stretcher.take(len(out))
            out[: len(got)] = got
        if self._old is None:
            return
        stretcher, place, gone = self._old
        n = min(self.fade - gone, len(out))
        before = np.zeros((n, 2), np.float32)
        if stretcher is not None:
            got = stretcher.take(n)
            before[: len(got)] = got
        else:
            self._source.copy(before, place, None)
        ramp = self.ramp[gone : gone + n]
        out[:n] = out[:n] * ramp + before * (1 - ramp)
        self._old = (stretcher, place + n, gone + n) if gone + n < self.fade else None

    def _add_chart(self, out: Samples, at: float, loop: Round | None, gain: float) -> None:
        turns = self.turns
        voices = turns[self.turn % len(turns)] if turns else self.chart
        if voices is None:
            return
        sound = np.zeros_like(out)
        voices.add(sound, at, gain, self.speed)
        if loop is not None:  # what still rings ends with the loop
            left = (loop.last - at) / self.speed - np.arange(len(out), dtype=np.float32)
            if left[-1] < self.fade:
                sound *= np.clip(left / self.fade, 0, 1).astype(np.float32)[:, None]
        out += sound
