"""Where sound goes: the sound card through PortAudio, or a simulated output.

The simulated output is chosen by itself when no device can be opened, or with
``YCHRONOS_AUDIO=simulated``; it keeps real time so that the cursor moves, and plays nothing.
``YCHRONOS_AUDIO=manual`` gives the tests a clock of their own.
"""

from __future__ import annotations

import os
import sys
import threading
import time
from collections.abc import Callable
from typing import Any, Protocol

import numpy as np

from ...tongue import tr
from ..decode import Samples

Fill = Callable[[Samples], None]
BLOCK = 512  # frames
LATENCY = 0.04  # seconds asked of the device: soon enough for a key, long enough beside an analysis
SWITCH = 0.0005  # seconds after which another thread may run: the device must not wait for an analysis
SIMULATED_NOTE = tr("No sound card: playing in silence")
FORCED_NOTE = tr("Simulated output: playing in silence")
LOST_NOTE = tr("The sound card went away: playing in silence")


class Output(Protocol):
    """A device that asks for blocks until it is stopped."""

    note: str
    latency: float
    lost: bool  # the device went away while it was in use
    underruns: int  # blocks that came too late

    def start(self, rate: int, fill: Fill) -> None: ...

    def stop(self) -> None: ...


class DeviceError(Exception):
    """No output device could be opened."""


class PortAudioOutput:
    """A sound card by its name, by default the system's own; that one too where the named one is not there."""

    note = ""

    def __init__(self, device: str = "") -> None:
        self.device = device
        self.latency = 0.0
        self.lost, self.underruns = False, 0
        self._stopping = False
        self._stream: Any = None
        try:
            import sounddevice
        except (ImportError, OSError) as error:  # the PortAudio library is missing
            raise DeviceError(str(error)) from None
        self._module = sounddevice
        try:
            if not any(d["max_output_channels"] > 0 for d in sounddevice.query_devices()):
                raise DeviceError("no output device")
            sounddevice.query_devices(kind="output")
        except (sounddevice.PortAudioError, ValueError) as error:
            raise DeviceError(str(error)) from None

    def _index(self) -> int | None:
        """The device of that name, None for the system's own."""
        found = self._module.query_devices()
        return next((i for i, d in enumerate(found) if d["max_output_channels"] > 0 and d["name"] == self.device), None)

    def start(self, rate: int, fill: Fill) -> None:
        sys.setswitchinterval(SWITCH)

        def callback(out: Samples, frames: int, when: Any, status: Any) -> None:
            if status.output_underflow:
                self.underruns += 1
            fill(out)

        def finished() -> None:
            self.lost = not self._stopping

        self._stopping = False

        try:
            self._stream = self._module.OutputStream(
                device=self._index(),
                samplerate=rate,
                channels=2,
                dtype="float32",
                latency=LATENCY,
                callback=callback,
                finished_callback=finished,
            )
            self._stream.start()
        except self._module.PortAudioError as error:
            self._stream = None
            raise DeviceError(str(error)) from None
        self.latency = float(self._stream.latency)

    def stop(self) -> None:
        self._stopping = True
        if self._stream is not None:
            try:
                self._stream.stop()
                self._stream.close()
            except self._module.PortAudioError:
                pass  # it is gone already
            self._stream = None


class SimulatedOutput:
    """Real time without sound."""

    latency = 0.0
    lost = False

    def __init__(self, note: str = SIMULATED_NOTE) -> None:
        self.note = note
        self.underruns = 0
        self._thread: threading.Thread | None = None
        self._stop = threading.Event()

    def start(self, rate: int, fill: Fill) -> None:
        sys.setswitchinterval(SWITCH)
        self._stop.clear()

        def run() -> None:
            block = np.zeros((BLOCK, 2), np.float32)
            begin, played = time.monotonic(), 0
            while not self._stop.is_set():
                due = int((time.monotonic() - begin) * rate)
                if due - played > max(LATENCY * rate, 2 * BLOCK):  # a card would have run dry
                    self.underruns += 1
                    begin, played = time.monotonic(), 0
                    continue
                while played < due:
                    fill(block)
                    played += BLOCK
                self._stop.wait(BLOCK / rate)

        self._thread = threading.Thread(target=run, name="simulated-output", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        if self._thread is not None:
            self._thread.join(1.0)
            self._thread = None


class ManualOutput:
    """A clock that moves only when told, and keeps what would have been heard. For tests."""

    note = FORCED_NOTE
    latency = 0.0

    def __init__(self) -> None:
        self.lost, self.underruns = False, 0
        self.rate = 0
        self.heard: list[Samples] = []
        self._fill: Fill | None = None

    def start(self, rate: int, fill: Fill) -> None:
        self.rate, self._fill = rate, fill

    def stop(self) -> None:
        self._fill = None

    def advance(self, seconds: float) -> Samples:
        """Let time pass; returns what was heard, (frames, 2)."""
        left = int(round(seconds * self.rate))
        out: list[Samples] = []
        while left > 0:
            block = np.zeros((min(BLOCK, left), 2), np.float32)
            if self._fill is not None:
                self._fill(block)
            out.append(block)
            left -= len(block)
        self.heard += out
        return np.concatenate(out) if out else np.zeros((0, 2), np.float32)


def devices() -> list[str]:
    """The names of the sound cards that can play; none where there is no PortAudio."""
    try:
        import sounddevice

        return list(dict.fromkeys(str(d["name"]) for d in sounddevice.query_devices() if d["max_output_channels"] > 0))
    except (ImportError, OSError, ValueError):
        return []
    except Exception as error:  # the library has an error of its own, which is not there without it
        if type(error).__name__ == "PortAudioError":
            return []
        raise


def choose(device: str = "") -> Output:
    """The output that ``YCHRONOS_AUDIO`` asks for, else the sound card of that name, else the system's, else the simulated one."""
    wanted = os.environ.get("YCHRONOS_AUDIO", "")
    if wanted == "simulated":
        return SimulatedOutput(FORCED_NOTE)
    if wanted == "manual":
        return ManualOutput()
    try:
        return PortAudioOutput(device)
    except DeviceError:
        return SimulatedOutput()
