"""Reading recordings.

Task: any common audio file or video sound track -> float32 samples, block by block, so that an hour of
sound never needs more memory than it must. WAV, FLAC, Ogg, MP3, AIFF go through libsndfile; everything
else (M4A/AAC, Opus in WebM, video) through FFmpeg's libraries by way of PyAV.
Conventions: samples are float32 in [-1, 1], arrays are (frames, channels), times are seconds.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

BLOCK = 1 << 17  # frames decoded at a time
SMALLEST_BLOCK = 1 << 8  # what is tried before a damaged place is given up
Samples = NDArray[np.float32]


class AudioError(Exception):
    """A recording that cannot be used; the text is one sentence for the user."""


class Cancelled(Exception):
    """The user stopped the work."""


@dataclass(frozen=True)
class Stream:
    """A recording being decoded: ``frames`` is what the file says of itself, 0 if it does not say."""

    rate: int
    channels: int
    frames: int
    blocks: Iterator[Samples]


def content_hash(path: Path, cancelled: Callable[[], bool] = lambda: False) -> str:
    """SHA-256 of the file's bytes in hex: the recording's identity wherever it lies."""
    digest = hashlib.sha256()
    try:
        with open(path, "rb") as file:
            while chunk := file.read(1 << 20):
                digest.update(chunk)
                if cancelled():
                    raise Cancelled
    except OSError as error:
        raise AudioError(_why_unreadable(path, error)) from None
    return digest.hexdigest()


def open_stream(path: Path) -> Stream:
    """Open a recording for decoding from its start.

    Raises
    ------
    AudioError
        with a sentence that says what is wrong with the file.
    """
    try:
        size = path.stat().st_size
        with open(path, "rb"):
            pass
    except OSError as error:
        raise AudioError(_why_unreadable(path, error)) from None
    if path.is_dir():
        raise AudioError(f"“{path.name}” is a folder, not a recording.")
    if size == 0:
        raise AudioError(f"“{path.name}” is empty: the file has no bytes in it.")
    try:
        return _open_sndfile(path)
    except soundfile.LibsndfileError:
        pass
    try:
        return _open_av(path)
    except (av.FFmpegError, ValueError, IndexError, OSError):
        raise AudioError(f"“{path.name}” is not a recording I can read: it holds no sound in a known format.") from None


def _why_unreadable(path: Path, error: OSError) -> str:
    if isinstance(error, FileNotFoundError):
        return f"“{path.name}” is not there any more: {path.parent} holds no such file."
    if isinstance(error, IsADirectoryError):
        return f"“{path.name}” is a folder, not a recording."
    if isinstance(error, PermissionError):
        return f"“{path.name}” may not be read: its permissions forbid it."
    return f"“{path.name}” cannot be read: {error.strerror or error}."


def _open_sndfile(path: Path) -> Stream:
    file = soundfile.SoundFile(path)
    frames = file.frames if 0 < file.frames < 1 << 40 else 0

    def blocks() -> Iterator[Samples]:
        with file:
            size, at = BLOCK, 0
            while True:
                try:
                    block = file.read(size, dtype="float32", always_2d=True)
                except soundfile.LibsndfileError:  # a damaged tail: what comes before it still counts
                    if size <= SMALLEST_BLOCK:
                        return
                    size //= 8
                    try:
                        file.seek(at)
                    except soundfile.LibsndfileError:
                        return
                    continue
                if not len(block):
                    return
                at += len(block)
                yield block

    return Stream(file.samplerate, file.channels, frames, blocks())


def _open_av(path: Path) -> Stream:
    container = av.open(str(path))
    track = container.streams.audio[0]
    rate, channels = int(track.rate or 44100), int(track.channels or 2)
    frames = 0
    if track.duration and track.time_base:
        frames = int(track.duration * track.time_base * rate)
    elif container.duration:
        frames = int(container.duration / av.time_base * rate)
    layout = {1: "mono", 2: "stereo"}.get(channels, track.layout.name)
    resampler = av.AudioResampler(format="flt", layout=layout, rate=rate)

    def blocks() -> Iterator[Samples]:
        pending: list[Samples] = []
        count = 0
        with container:
            try:
                for frame in container.decode(track):
                    for piece in resampler.resample(frame):
                        data = piece.to_ndarray().reshape(-1, channels).astype(np.float32, copy=False)
                        pending.append(data)
                        count += len(data)
                    if count >= BLOCK:
                        yield np.concatenate(pending)
                        pending, count = [], 0
            except av.FFmpegError:
                pass  # a damaged tail: what came before it stands
        if pending:
            yield np.concatenate(pending)

    return Stream(rate, channels, frames, blocks())
