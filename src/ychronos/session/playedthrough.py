"""What is heard of the record, played through without a sound card and written, beside the window."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Self

import numpy as np

from ..audio.decode import Cancelled, Samples
from ..audio.play import tape
from ..audio.play.engine import Player
from ..audio.recording import SampleStore
from ..audio.synth.clicks import Clicks
from ..audio.synth.voices import Voices
from ..tongue import tr
from .jobs import Far, Under

BLOCK = 2048  # frames
TOLD = 0.01  # of the whole between two reports


@dataclass(frozen=True)
class PlayedThrough(Far):
    """Writes the frames ``first`` to ``last`` of the samples (frames, channels) as a player's user hears them."""

    samples: Samples
    rate: int
    stretch: float
    ear: str
    clicks: Clicks | None
    chart: Voices | None
    gains: tuple[float, float]  # of the record and of the chart
    speed: float
    cents: float
    first: int
    last: int
    path: Path

    @classmethod
    def of(cls, player: Player, speed: float, cents: float, path: Path) -> Self:
        """What this player plays now: its loop, else all."""
        first, last = player.loop if player.loop is not None else (0, len(player.samples))
        gains = (player.record_gain, player.chart_gain)
        return cls(
            *(player.samples, player.rate, player.stretch, player.ear, player.clicks, player.chart),
            *(gains, speed, cents, first, last, path),
        )

    def _player(self) -> Player:
        player = Player(self.samples, self.rate, self.stretch)
        player.set_ear(self.ear)
        player.clicks, player.chart = self.clicks, self.chart
        player.record_gain, player.chart_gain = self.gains
        player.set_speed(self.speed, self.cents)
        player.set_gain(1.0)
        player.settle()
        player.play(self.first / (self.rate * self.stretch))
        return player

    def __call__(self, under: Under) -> None:
        """Raises :class:`~..audio.decode.AudioError` where it cannot be written."""
        player, store = self._player(), SampleStore()
        left = whole = max(1, round((self.last - self.first) / self.speed))
        told = 0.0
        while left > 0:
            block: Samples = np.zeros((min(BLOCK, left), 2), np.float32)
            player.fill(block)
            store.add(block)
            left -= len(block)
            if 1 - left / whole >= told + TOLD:
                told = 1 - left / whole
                under.report(tr("Playing it through"), 0.7 * told)
            if under.cancelled():
                raise Cancelled
        made = store.finish(2)
        tape.export(
            made, self.rate, self.path, lambda x: under.report(tr("Writing it"), 0.7 + 0.3 * x), under.cancelled
        )
