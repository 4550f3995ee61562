"""Work that opens a recording, for whoever runs it: the window in a thread, the command line on the spot."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ..analysis import pipeline
from ..analysis.evidence import Evidence, evidence_of
from ..audio import recording as recordings
from ..audio.recording import Recording
from ..song.model import Song
from .jobs import Under

READING = 0.25  # the share of opening a recording that reading it takes, about


def _read(path: Path, under: Under, keep_samples: bool) -> Recording:
    sound = recordings.load(
        path,
        keep_samples=keep_samples,
        progress=lambda x: under.report("Reading", READING * x),
        cancelled=under.cancelled,
    )
    under.partly(sound)
    return sound


def analysis_of(
    path: Path, title: str, cache: Path | None, keep_samples: bool = True
) -> Callable[[Under], tuple[Song, Evidence]]:
    """Work that reads and analyses a recording. Its parts are the :class:`Recording` and then songs as far as known.

    ``cache`` is the folder that keeps evidence, None for none. Raises ``AudioError``, ``AnalysisError`` and
    ``Cancelled``.
    """

    def work(under: Under) -> tuple[Song, Evidence]:
        return pipeline.analyse(
            _read(path, under, keep_samples),
            title,
            progress=lambda name, x: under.report(name, READING + (1 - READING) * x),
            cancelled=under.cancelled,
            cache=cache,
            on_result=under.partly,
        )

    return work


def evidence_for(path: Path, cache: Path | None) -> Callable[[Under], tuple[Recording, Evidence]]:
    """Work that reads the recording of an opened project and its evidence. Its part is the :class:`Recording`."""

    def work(under: Under) -> tuple[Recording, Evidence]:
        sound = _read(path, under, keep_samples=True)
        evidence = evidence_of(
            sound, cache, lambda name, x: under.report(name, READING + (1 - READING) * x), under.cancelled
        )
        return sound, evidence

    return work
