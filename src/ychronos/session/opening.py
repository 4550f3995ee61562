"""Work that opens a recording, for whoever runs it: the window in a thread, the command line on the spot."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..analysis import pipeline
from ..analysis.evidence import Evidence, evidence_of
from ..audio import recording as recordings
from ..audio.decode import AudioError, content_hash
from ..audio.recording import Recording
from ..formats.project import is_file
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
    """Work that reads and analyses a recording. Its parts are the :class:`Recording`, then songs as far as
    known, and a sentence for each stage that failed.

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
            on_trouble=under.partly,
        )

    return work


@dataclass(frozen=True)
class Matched:
    """A recording read for a project, and its evidence; None when it is another recording than the project's."""

    sound: Recording
    evidence: Evidence | None


def evidence_for(places: Sequence[Path], sha256: str, cache: Path | None) -> Callable[[Under], Matched]:
    """Work that reads the recording of an opened project and its evidence. Its part is the :class:`Recording`.

    Of the places where it may lie the first with the right bytes is taken, else the first that can be read, as another
    recording. ``sha256`` "" stands for a project that does not say which recording it was made from.
    """

    def work(under: Under) -> Matched:
        sound = _read(_best(places, sha256, under.cancelled), under, keep_samples=True)
        if sha256 and sound.sha256 != sha256:
            return Matched(sound, None)
        return Matched(
            sound,
            evidence_of(sound, cache, lambda name, x: under.report(name, READING + (1 - READING) * x), under.cancelled),
        )

    return work


def _best(places: Sequence[Path], sha256: str, cancelled: Callable[[], bool]) -> Path:
    there = [p for p in places if is_file(p)]
    if len(there) > 1:
        for place in there:
            with contextlib.suppress(AudioError):
                if content_hash(place, cancelled) == sha256:
                    return place
    return (there or list(places))[0]
