"""Reading recordings.

Task: any common audio file or video sound track -> float32 samples, block by block, so that an hour of
sound never needs more memory than it must. WAV, FLAC, Ogg, MP3, AIFF go through libsndfile; everything
else (M4A/AAC, Opus in WebM, video) through FFmpeg's libraries by way of PyAV.
Conventions: samples are float32 in [-1, 1], arrays are (frames, channels), times are seconds.
"""

from __future__ import annotations

import hashlib
import logging
import os
import stat
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from ..paths import shown
from ..tongue import tr
from .whole import overruns

BLOCK = 1 << 17  # frames decoded at a time
LOG = logging.getLogger("ychronos.decode")
SMALLEST_BLOCK = 1 << 8  # what is tried before a damaged place is given up
RATES = (4000, 768000)  # Hz that a recording may have
CHANNELS = 64  # that it may have at most
HOURS = 8  # that it may last
LOUDEST = 2.0**15  # a sample beyond this is no sound any more; float files of whole numbers reach it
# What FFmpeg may take a file for: containers of sound alone. Lists of other files, descriptions of streams and addresses
# are not among them, so that no file can make the program open another one or the network.
FORMATS = (
    "aac,ac3,aiff,amr,ape,asf,au,avi,caf,dts,eac3,flac,flv,matroska,webm,mov,mp4,m4a,3gp,3g2,mj2,mp3,mpc,mpc8,mpeg,"
    "mpegts,mxf,ogg,rm,tak,tta,voc,w64,wav,wv,xwma,dsf,iff,swf"
)
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
    name = shown(path)
    try:
        found = path.stat()
        if stat.S_ISREG(found.st_mode):  # opening a pipe would wait for whoever fills it
            with open(path, "rb"):
                pass
    except (OSError, ValueError) as error:
        raise AudioError(_why_unreadable(path, error)) from None
    if stat.S_ISDIR(found.st_mode):
        raise AudioError(tr("“{name}” is a folder, not a recording.", name=name))
    if not stat.S_ISREG(found.st_mode):
        raise AudioError(tr("“{name}” is a device or a pipe; only files can be read.", name=name))
    if found.st_size == 0:
        raise AudioError(tr("“{name}” is empty: the file has no bytes in it.", name=name))
    for opened in (_open_sndfile, _open_av):
        try:
            stream = opened(path)
        except Exception as error:  # what libraries raise for damaged files is not to be listed
            LOG.info("%s did not open %r: %s", opened.__name__, path.name, error)
            continue
        _check(stream, name)
        return stream
    raise AudioError(tr("“{name}” is not a recording I can read: it holds no sound in a known format.", name=name))


def _check(stream: Stream, name: str) -> None:
    """Whether what a file says of itself is within bounds; raises :class:`AudioError`."""
    lowest, highest = RATES
    if not lowest <= stream.rate <= highest:
        raise AudioError(
            tr(
                "“{name}” says that it has {rate} samples a second; from {lowest} to {highest} can be read.",
                name=name,
                rate=stream.rate,
                lowest=lowest,
                highest=highest,
            )
        )
    if not 1 <= stream.channels <= CHANNELS:
        raise AudioError(
            tr(
                "“{name}” says that it has {channels} channels; up to {channels2} can be read.",
                name=name,
                channels=stream.channels,
                channels2=CHANNELS,
            )
        )


def _why_unreadable(path: Path, error: OSError | ValueError) -> str:
    if not isinstance(error, OSError):
        return tr("“{shown}” cannot be the name of a file.", shown=shown(path))
    if isinstance(error, FileNotFoundError):
        return tr(
            "“{shown}” is not there any more: {parent} holds no such file.", shown=shown(path), parent=path.parent
        )
    if isinstance(error, IsADirectoryError):
        return tr("“{shown}” is a folder, not a recording.", shown=shown(path))
    if isinstance(error, PermissionError):
        return tr("“{shown}” may not be read: its permissions forbid it.", shown=shown(path))
    return tr("“{shown}” cannot be read: {strerror}.", shown=shown(path), strerror=error.strerror or error)


def _open_sndfile(path: Path) -> Stream:
    file = soundfile.SoundFile(os.fsencode(path))
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
    if overruns(path):
        raise ValueError("a chunk is longer than the file")
    # “file:” before an absolute path: a name such as “Live: take 2.m4a” is no address
    container = av.open(
        "file:" + os.path.realpath(path), options={"format_whitelist": FORMATS, "protocol_whitelist": "file"}
    )
    track = container.streams.audio[0]
    rate, channels = int(track.rate or 44100), int(track.channels or 2)
    if not RATES[0] <= rate <= RATES[1]:
        return Stream(rate, channels, 0, iter(()))
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
            except Exception as error:  # a damaged tail: what came before it stands
                LOG.info("%r breaks off: %s", path.name, error)
        if pending:
            yield np.concatenate(pending)

    return Stream(rate, channels, frames, blocks())
