"""Beat and bar activations by a trained net.

A stack of dilated convolutions over time (temporal convolutional network; for beats: Davies and Böck,
"Temporal convolutional networks for musical audio beat tracking", EUSIPCO 2019), trained on generated songs
and recordings made to a click (``training/``). It sees 60 log bands at 50 frames a second and three curves of how strongly
harmony and bass change, and says for every frame: is there a beat, is there a bar line, how long a beat is, and what kind of
meter this is. Three nets of one kind speak together: the one that has heard most says most; two smaller ones that it
began from keep what it forgot, eighths and bar lines above all. Alone it is worse (docs/analysis.md).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .. import net
from ..chords.notes import change
from ..spectra import BAND_RATE, BANDS, PITCH_RATE, Array

CHANNELS = BANDS + 3
# Beat periods told apart: logarithmic classes of beats per minute.
PERIOD_CLASSES = 40
SLOWEST, FASTEST = 36.0, 380.0
# Meter classes: (counted beats in a bar, whether a beat divides in three, whether a beat is an eighth).
METERS: tuple[tuple[int, bool, bool], ...] = (
    (2, False, False), (3, False, False), (4, False, False), (5, False, False), (6, False, False), (7, False, False),
    (2, True, False), (3, True, False), (4, True, False),
    (5, False, True), (7, False, True), (11, False, True), (13, False, True),
)  # fmt: skip


@dataclass(frozen=True)
class PulseEvidence:
    """Per frame at 50 Hz: probabilities ``beat`` and ``bar`` (T,), log probabilities ``period`` (T, 40), ``meter`` (T, 13).
    ``rate`` is in frames a second; ``begun`` is how much begins in each frame (:func:`..attacks.onsets`), where that is known."""

    beat: Array
    bar: Array
    period: Array
    meter: Array
    rate: float = BAND_RATE
    begun: Array | None = None

    def between(self, first: int, stop: int) -> PulseEvidence:
        """The same for the frames from ``first`` up to ``stop``."""
        begun = None if self.begun is None else self.begun[first:stop]
        cut = slice(first, stop)
        return PulseEvidence(self.beat[cut], self.bar[cut], self.period[cut], self.meter[cut], self.rate, begun)


def period_class(bpm: float) -> float:
    """Place of a tempo on the scale of period classes, as a real number."""
    return float((PERIOD_CLASSES - 1) * np.log(bpm / SLOWEST) / np.log(FASTEST / SLOWEST))


def harmony_changes(notes: Array, count: int) -> Array:
    """(count, 3) at 50 Hz: change of harmony over 0.4 s and 0.8 s, change of bass over 0.4 s."""
    octaves = notes.reshape(len(notes), 7, 12)
    chroma, bass = octaves[:, 2:6].sum(1), octaves[:, :3].sum(1)
    curves = np.stack([change(chroma, 4), change(chroma, 8), change(bass, 4)], axis=1)
    at = np.arange(count) / BAND_RATE * PITCH_RATE
    frame = np.arange(len(curves))
    return np.stack([np.interp(at, frame, c) for c in curves.T], axis=1).astype(np.float32)


def inputs(bands: Array, notes: Array) -> Array:
    """What the net sees, (T, CHANNELS), from band magnitudes and note activations."""
    loud = np.percentile(bands.sum(axis=1), 95) / BANDS + 1e-9
    return np.concatenate([np.log1p(40 * bands / loud), 3 * harmony_changes(notes, len(bands))], axis=1)


_BLOCK, _MARGIN = 30_000, 2_100  # frames at a time, and those around them that the net can see: it makes no difference


def _forward(seen: Array, w: dict[str, Array]) -> Array:
    x = net.elu(net.conv(seen, w["front.weight"], w["front.bias"]))
    block = 0
    while f"block{block}.weight" in w:
        inner = net.elu(net.conv(x, w[f"block{block}.weight"], w[f"block{block}.bias"], 2**block))
        x = x + inner @ w[f"block{block}.mix.weight"] + w[f"block{block}.mix.bias"]
        block += 1
    return np.asarray(net.elu(x) @ w["head.weight"] + w["head.bias"])


# The nets that speak together, and how much each says of beats and tempo, and of bar lines and meter: "bars" was first, "pulse"
# went on from it with bands, "wide" began as both side by side and went on with songs of all makers (docs/analysis.md).
NETS = (("pulse", 0.2, 0.27), ("bars", 0.1, 0.63), ("wide", 0.7, 0.1))


def run(bands: Array, notes: Array) -> PulseEvidence:
    """Activations for a whole recording."""
    seen = inputs(bands, notes)
    said = [of_net(seen, name) for name, *_ in NETS]

    def together(what: str, share: int) -> Array:
        parts = (net_[share] * getattr(one, what) for net_, one in zip(NETS, said, strict=True))
        return np.asarray(sum(parts), np.float32)

    # of log probabilities, as period and meter are, it is a geometric mean
    return PulseEvidence(together("beat", 1), together("bar", 2), together("period", 1), together("meter", 2))


def of_net(seen: Array, name: str) -> PulseEvidence:
    """What one net says of what is seen, (T, CHANNELS)."""
    w = net.weights(name)
    parts = []
    for start in range(0, len(seen), _BLOCK):
        low, stop = max(0, start - _MARGIN), min(len(seen), start + _BLOCK)
        parts.append(_forward(seen[low : stop + _MARGIN], w)[start - low : stop - low])
    out = np.concatenate(parts)
    p = PERIOD_CLASSES
    return PulseEvidence(
        beat=net.sigmoid(out[:, 0]),
        bar=net.sigmoid(out[:, 1]),
        period=net.log_softmax(out[:, 2 : 2 + p]),
        meter=net.log_softmax(out[:, 2 + p :]),
    )
