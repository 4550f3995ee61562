"""A record at true pitch: played slower or faster as a whole, as a tape machine would.

Pitch and tempo move together, so nothing is smeared; the ratio comes from cents. Conventions: ``stretch`` is the
length of the result against the original's, 2 ** (cents / 1200) for a record that is ``cents`` sharp.
"""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile
import soxr

from ...tongue import tr
from ..decode import AudioError, Cancelled, Samples
from ..recording import SampleStore

BLOCK = 1 << 16  # frames at a time
FORMATS = {".wav": "WAV", ".flac": "FLAC", ".ogg": "OGG", ".mp3": "MP3"}


def corrected(
    samples: Samples,
    cents: float,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> tuple[Samples, object]:
    """Samples (frames, channels) of a record that is ``cents`` sharp, at true pitch and the same rate, and
    what must be kept alive while they are used. Raises Cancelled."""
    stretch = 2 ** (cents / 1200)
    channels = samples.shape[1]
    stream = soxr.ResampleStream(1.0, stretch, channels, dtype="float32", quality="HQ")
    store = SampleStore()
    for start in range(0, len(samples), BLOCK):
        if cancelled():
            raise Cancelled
        block = np.ascontiguousarray(samples[start : start + BLOCK], np.float32)
        out = stream.resample_chunk(block, last=start + BLOCK >= len(samples))
        store.add(out.reshape(-1, channels))
        progress(min(1.0, (start + BLOCK) / len(samples)))
    return store.finish(channels), store.file


def export(
    samples: Samples,
    rate: int,
    path: Path,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Write samples as WAV, FLAC, Ogg or MP3 by the file's suffix, whole or not at all.

    Raises
    ------
    AudioError
        a sentence on why the file could not be written; what was there is kept.
    Cancelled
        when ``cancelled()`` became true.
    """
    path = Path(path)
    kind = FORMATS.get(path.suffix.lower())
    if kind is None:
        raise AudioError(tr("“{name}” should end in .wav, .flac, .ogg or .mp3; nothing was written.", name=path.name))
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=path.suffix, dir=path.parent)
        os.close(handle)
        subtype = {"OGG": "VORBIS", "MP3": "MPEG_LAYER_III"}.get(kind, "PCM_24")
        with soundfile.SoundFile(temporary, "w", rate, samples.shape[1], subtype, format=kind) as file:
            for start in range(0, len(samples), BLOCK):
                if cancelled():
                    raise Cancelled
                file.write(np.clip(samples[start : start + BLOCK], -1, 1))
                progress(min(1.0, (start + BLOCK) / max(1, len(samples))))
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
        temporary = ""
    except (OSError, soundfile.SoundFileError) as error:
        raise AudioError(
            tr(
                "“{name}” was not written: {why}. Nothing was changed there.",
                name=path.name,
                why=getattr(error, "strerror", None) or error,
            )
        ) from error
    finally:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)
