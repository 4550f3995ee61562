"""What to hear of a record: bands, places in the stereo picture, drums softened. Block by block.

Bands are Butterworth filters with their state kept from block to block. Drums are softened where a sound rises
faster than it lasts: in three bands the gain is held down while a quick envelope stands above a slow one.
Conventions: float32 frames (n, 2); everything is done in place of the block that is given.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...tongue import tr
from ..decode import Samples

# name -> words for the user
MODES: dict[str, str] = {
    "whole": tr("the whole record"),
    "low": tr("the low end"),
    "middle": tr("the guitar’s middle"),
    "centre": tr("the centre"),
    "sides": tr("the sides"),
    "left": tr("the left"),
    "right": tr("the right"),
    "soft": tr("drums softened"),
}
LOW_TOP = 260.0  # Hz
MIDDLE = (170.0, 2600.0)
_CROSS = (220.0, 2400.0)  # between the bands in which drums are softened
_QUICK, _SLOW = 0.002, 0.07  # seconds
_LEAST = 0.12  # gain that a stroke keeps


class Ear:
    """Hears a record in one of MODES; :meth:`forget` before a jump to another place."""

    def __init__(self, rate: int, mode: str = "whole") -> None:
        if mode not in MODES:
            raise ValueError(f"nothing is called “{mode}” here")
        self.rate, self.mode = rate, mode
        self._filters = _filters(rate, mode)
        self._poles = [float(np.exp(-1 / (rate * t))) for t in (_QUICK, _SLOW)]
        self.forget()

    def forget(self) -> None:
        self._state = [np.zeros((len(f), 2, 2)) for f in self._filters]
        self._envelopes = [[np.zeros(1), np.zeros(1)] for _ in range(3)]

    def hear(self, block: Samples) -> None:
        """Change a block into what is heard of it."""
        if self.mode == "whole" or not len(block):
            return
        left, right = block[:, 0], block[:, 1]
        if self.mode == "centre":
            block[:] = ((left + right) / 2)[:, None]
        elif self.mode == "sides":
            block[:] = ((left - right) / 2)[:, None]
        elif self.mode == "left":
            block[:, 1] = left
        elif self.mode == "right":
            block[:, 0] = right
        elif self.mode == "soft":
            low, high = self._filtered(0, block), self._filtered(1, block)
            bands = (low, block - low - high, high)  # which give the whole again where nothing is held down
            block[:] = sum(self._softened(i, band) for i, band in enumerate(bands))
        else:
            block[:] = self._filtered(0, block)

    def _filtered(self, i: int, block: Samples) -> NDArray[np.float64]:
        from scipy.signal import sosfilt

        out, self._state[i] = sosfilt(self._filters[i], block, axis=0, zi=self._state[i])
        return np.asarray(out)

    def _softened(self, i: int, band: NDArray[np.float64]) -> NDArray[np.float64]:
        from scipy.signal import lfilter

        size = np.abs(band).max(axis=1)
        levels = []
        for k, pole in enumerate(self._poles):
            level, self._envelopes[i][k] = lfilter([1 - pole], [1, -pole], size, zi=self._envelopes[i][k])
            levels.append(level)
        gain = np.clip(1.2 * (levels[1] + 1e-4) / (levels[0] + 1e-4), _LEAST, 1.0)
        return np.asarray(band * gain[:, None])


def filters(mode: str) -> bool:
    """Whether a mode needs the library of :data:`~ychronos.loading.FILTERS`."""
    return mode in ("low", "middle", "soft")


def _filters(rate: int, mode: str) -> list[NDArray[np.float64]]:
    """What a mode filters with. The library is only loaded for a mode that does: it takes longer than the rest of the window."""
    if not filters(mode):
        return []
    from scipy.signal import butter

    nyquist = rate / 2
    if mode == "low":
        return [butter(4, min(LOW_TOP, 0.9 * nyquist), "low", fs=rate, output="sos")]
    if mode == "middle":
        return [butter(2, (MIDDLE[0], min(MIDDLE[1], 0.9 * nyquist)), "band", fs=rate, output="sos")]
    low, high = (min(f, 0.9 * nyquist) for f in _CROSS)
    return [butter(2, low, "low", fs=rate, output="sos"), butter(2, high, "high", fs=rate, output="sos")]
