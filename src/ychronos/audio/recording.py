"""A recording in memory: samples to play, mono to analyse, a summary to draw.

One pass over the file makes all three. Long recordings keep their samples in an unnamed temporary file
that is mapped into memory, so that the operating system decides what stays.
"""

from __future__ import annotations

import errno
import mmap
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import IO
from weakref import WeakKeyDictionary

import numpy as np
import soxr
from numpy.typing import NDArray

from ..paths import shown
from ..tongue import tr
from .breadth import Breadth, nothing
from .decode import HOURS, LOUDEST, AudioError, Cancelled, Samples, Stream, content_hash, open_stream
from .whole import missing

ANALYSIS_RATE = 22050  # Hz
PEAK_RATE = 400  # waveform summary points per second
IN_MEMORY_LIMIT = 10 * 60 * 48000 * 2  # samples kept in plain memory: ten minutes of stereo
TOO_LOUD = 4.0  # a file of floats that goes beyond this holds numbers of another scale
SILENCE = 10 ** (-70 / 20)  # a recording that never exceeds this holds nothing to hear
# Power of the difference of two channels over that of their mean from which on one of them is the wrong way round, of all and of the lows, which
# everybody has in the middle (136 songs: at most 1.2 of both): those that are heard in means of so many samples
OPPOSED, LOW = 2.0, 64
SHORTFALL = 0.97  # decoded share of the promised length below which a file counts as truncated

Progress = Callable[[float], None]
SPOOLED: WeakKeyDictionary[mmap.mmap, IO[bytes]] = WeakKeyDictionary()  # the files that samples on disk lie in


@dataclass(frozen=True)
class Recording:
    """A decoded recording.

    Attributes
    ----------
    samples : float32 (frames, channels), or None when only the analysis signal was asked for
    mono : float32 (n,) at :data:`ANALYSIS_RATE`
    peaks : float32 (points, 2), lowest and highest sample of each 1 / :data:`PEAK_RATE` s
    note : what is odd about the file, in a sentence, or ""
    breadth : float16 (frames, 12), where in the stereo picture what begins lies (:mod:`.breadth`); no frame without two channels
    """

    path: Path
    sha256: str
    rate: int
    channels: int
    duration: float
    mono: Samples
    peaks: NDArray[np.float32]
    samples: Samples | None = None
    note: str = ""
    breadth: NDArray[np.float16] = field(default_factory=nothing)

    @property
    def silent(self) -> bool:
        return not len(self.peaks) or float(np.abs(self.peaks).max()) < SILENCE


class _PeakMeter:
    """Lowest and highest sample per point, over blocks of any size."""

    def __init__(self, rate: int) -> None:
        self.step = max(1, round(rate / PEAK_RATE))
        self.rest: NDArray[np.float32] = np.zeros(0, np.float32)
        self.out: list[NDArray[np.float32]] = []

    def feed(self, mono: NDArray[np.float32]) -> None:
        data = np.concatenate([self.rest, mono]) if len(self.rest) else mono
        whole = len(data) // self.step * self.step
        if whole:
            shaped = data[:whole].reshape(-1, self.step)
            self.out.append(np.stack([shaped.min(1), shaped.max(1)], axis=1))
        self.rest = data[whole:]

    def finish(self) -> NDArray[np.float32]:
        if len(self.rest):
            self.out.append(np.array([[self.rest.min(), self.rest.max()]], np.float32))
            self.rest = self.rest[:0]
        return np.concatenate(self.out) if self.out else np.zeros((0, 2), np.float32)


class SampleStore:
    """Samples in memory up to a limit, then in an unnamed temporary file."""

    def __init__(self) -> None:
        self.blocks: list[Samples] = []
        self.size = 0
        self.file: IO[bytes] | None = None

    def add(self, block: Samples) -> None:
        self.size += block.size
        if self.file is None and self.size > IN_MEMORY_LIMIT:
            self.file = tempfile.TemporaryFile(prefix="ychronos-")
            for old in self.blocks:
                self.file.write(np.ascontiguousarray(old).data)
            self.blocks = []
        if self.file is None:
            self.blocks.append(block)
        else:
            self.file.write(np.ascontiguousarray(block).data)

    def finish(self, channels: int) -> Samples:
        if self.file is None:
            return np.concatenate(self.blocks) if self.blocks else np.zeros((0, channels), np.float32)
        self.file.flush()
        out = np.memmap(self.file, np.float32, "r", shape=(self.size // channels, channels))  # type: ignore[call-overload]
        SPOOLED[out._mmap] = self.file  # type: ignore[attr-defined]
        return out  # type: ignore[no-any-return]


def load(
    path: Path,
    keep_samples: bool = True,
    progress: Progress = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Recording:
    """Decode a whole recording.

    A file that changes while it is read, since it is still being copied, gets no identity (``sha256`` ""): nothing is
    kept under it.

    Raises
    ------
    AudioError
        a sentence about a file that is missing, empty, not sound, too long, or without a single sample.
    Cancelled
        when ``cancelled()`` became true.
    """
    path = Path(path)
    stream = open_stream(path)
    try:
        before = path.stat()
        found = _decode(path, stream, keep_samples, progress, cancelled)
        if found is None:
            again = open_stream(path)
            found = _decode(path, again, keep_samples, progress, cancelled, turned=True)
            assert found is not None
    except FileNotFoundError:  # between opening it and looking at it
        raise AudioError(tr("“{shown}” is not there any more.", shown=shown(path))) from None
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise AudioError(
                tr(
                    "“{shown}” is long and wants room for a while, but the disk of {folder} is full. Make room there and open it again.",
                    shown=shown(path),
                    folder=tempfile.gettempdir(),
                )
            ) from None
        raise AudioError(
            tr(
                "“{shown}” could not be held in memory or on disk: {strerror}.",
                shown=shown(path),
                strerror=error.strerror or error,
            )
        ) from None
    try:
        sha, after = content_hash(path, cancelled), path.stat()
    except (AudioError, OSError):
        return replace(found, note=tr("The file went away while it was read; what could be read is here."))
    if (before.st_size, before.st_mtime_ns) != (after.st_size, after.st_mtime_ns):
        return replace(
            found, note=tr("The file was still being written while it was read; open it again when it is whole.")
        )
    return replace(found, sha256=sha)


class _Signal:
    """The analysis signal: gathered, and brought into bounds when a file of floats goes beyond them. Of two channels their
    difference goes with it as far as :class:`Breadth`."""

    def __init__(self, rate: int, channels: int) -> None:
        self.breadth = Breadth() if channels == 2 else None
        self.resampler = soxr.ResampleStream(
            rate, ANALYSIS_RATE, 2 if self.breadth else 1, dtype="float32", quality="MQ"
        )
        self.store = SampleStore()
        # samples, their sums, their squares' sums: of the mean of two channels and of their difference, of all and of the lows
        self.moments = np.zeros((2, 3, 2))

    def feed(self, mono: NDArray[np.float32], block: NDArray[np.float32], last: bool = False) -> None:
        if self.breadth is None:
            self.store.add(self.resampler.resample_chunk(mono, last=last))
            return
        both = self.resampler.resample_chunk(np.stack([mono, (block[:, 0] - block[:, 1]) / 2], axis=1), last=last)
        whole = len(both) // LOW
        lows = both[: whole * LOW].reshape(whole, LOW, 2).mean(1)
        self.moments += [
            [np.full(2, len(x)), x.sum(0, dtype=float), (x.astype(float) ** 2).sum(0)] for x in (both, lows)
        ]
        self.store.add(both[:, 0].copy())
        self.breadth.feed(both)

    @property
    def opposed(self) -> bool:
        """Whether the two channels take each other away when they meet, so that what both play is not to be heard."""
        count, sums, squares = self.moments.swapaxes(0, 1)
        mean, difference = (squares - sums**2 / np.maximum(count, 1)).T  # a constant on either side does not sound
        return bool((difference > OPPOSED * mean + count[:, 0] * SILENCE**2).all())

    def finish(self, loudest: float) -> NDArray[np.float32]:
        self.feed(np.zeros(0, np.float32), np.zeros((0, 2), np.float32), last=True)
        mono = self.store.finish(1).reshape(-1)
        return mono / np.float32(loudest) if loudest > TOO_LOUD else mono


def _decode(
    path: Path,
    stream: Stream,
    keep_samples: bool,
    progress: Progress,
    cancelled: Callable[[], bool],
    turned: bool = False,
) -> Recording | None:
    """A recording as it is in the file, or with its second channel ``turned`` round; None where it has to be."""
    signal, peaks, store = _Signal(stream.rate, stream.channels), _PeakMeter(stream.rate), SampleStore()
    frames = 0
    for block in stream.blocks:
        if cancelled():
            raise Cancelled
        if not np.isfinite(block).all():
            block = np.nan_to_num(block, nan=0.0, posinf=0.0, neginf=0.0)
        block = np.clip(block, -LOUDEST, LOUDEST)
        if turned:
            block[:, 1] *= -1
        mixed = block.mean(axis=1, dtype=np.float32) if block.shape[1] > 1 else block[:, 0]
        frames += len(block)
        if frames > HOURS * 3600 * stream.rate:
            raise AudioError(
                tr("“{shown}” lasts more than {hours} hours; cut it into parts.", shown=shown(path), hours=HOURS)
            )
        peaks.feed(mixed)
        signal.feed(mixed, block)
        if keep_samples:
            store.add(block)
        if stream.frames:
            progress(min(1.0, frames / stream.frames))
    if not frames:
        raise AudioError(tr("“{shown}” holds no sound: not one sample could be decoded.", shown=shown(path)))
    if signal.opposed and not turned:
        return None
    notes = []
    if turned:
        notes.append(
            tr(
                "The two channels take each other away, as where a plug is wired the wrong way round; the right one is turned round for hearing and playing."
            )
        )
    if stream.frames and frames < SHORTFALL * stream.frames:
        notes.append(
            tr(
                "The file breaks off: {frames:.1f} s of the {frames2:.1f} s it promises could be read. What could be read is here.",
                frames=frames / stream.rate,
                frames2=stream.frames / stream.rate,
            )
        )
    elif lacking := missing(path):
        notes.append(
            tr(
                "The file breaks off, as a download that is not complete: {lacking}. What could be read is here.",
                lacking=lacking,
            )
        )
    lines = peaks.finish()
    loudest = float(np.abs(lines).max())
    return Recording(
        path=path,
        sha256="",
        rate=stream.rate,
        channels=stream.channels,
        duration=frames / stream.rate,
        mono=signal.finish(loudest),
        peaks=lines / np.float32(loudest) if loudest > TOO_LOUD else lines,
        samples=store.finish(stream.channels) if keep_samples else None,
        note=" ".join(notes),
        breadth=signal.breadth.finish() if signal.breadth else nothing(),
    )
