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
from ..tongue import tr
from .jobs import Far, Under

READING = 0.25  # the share of opening a recording that reading it takes, about


def _read(path: Path, under: Under, keep_samples: bool) -> Recording:
    sound = recordings.load(
        path,
        keep_samples=keep_samples,
        progress=lambda x: under.report(tr("Reading"), READING * x),
        cancelled=under.cancelled,
    )
    under.partly(sound)
    return sound


@dataclass(frozen=True)
class Analysis(Far):
    """Reads and analyses a recording; gives the song and its evidence. Its parts are the :class:`Recording`, then songs
    as far as known, and a sentence for each stage that failed.

    ``cache`` is the folder that keeps evidence, None for none. Raises ``AudioError``, ``AnalysisError`` and
    ``Cancelled``.
    """

    path: Path
    title: str
    cache: Path | None
    keep_samples: bool = True

    def __call__(self, under: Under) -> tuple[Song, Evidence]:
        return pipeline.analyse(
            _read(self.path, under, self.keep_samples),
            self.title,
            progress=lambda name, x: under.report(name, READING + (1 - READING) * x),
            cancelled=under.cancelled,
            cache=self.cache,
            on_result=under.partly,
            on_trouble=under.partly,
        )

    def found(self, result: tuple[Song, Evidence]) -> Sequence[Evidence]:
        return result[1:]


@dataclass(frozen=True)
class Matched:
    """The evidence found for a project; None when the recording is another than the project's."""

    evidence: Evidence | None


@dataclass(frozen=True)
class Matching(Far):
    """Reads the recording of an opened project and its evidence. Its part is the :class:`Recording`.

    Of the places where it may lie the first with the right bytes is taken, else the first that can be read, as another
    recording. ``sha256`` "" stands for a project that does not say which recording it was made from.
    """

    places: tuple[Path, ...]
    sha256: str
    cache: Path | None

    def __call__(self, under: Under) -> Matched:
        sound = _read(_best(self.places, self.sha256, under.cancelled), under, keep_samples=True)
        if self.sha256 and sound.sha256 != self.sha256:
            return Matched(None)
        return Matched(
            evidence_of(
                sound, self.cache, lambda name, x: under.report(name, READING + (1 - READING) * x), under.cancelled
            )
        )

    def found(self, result: Matched) -> Sequence[Evidence]:
        return () if result.evidence is None else (result.evidence,)


def _best(places: Sequence[Path], sha256: str, cancelled: Callable[[], bool]) -> Path:
    there = [p for p in places if is_file(p)]
    if len(there) > 1:
        for place in there:
            with contextlib.suppress(AudioError):
                if content_hash(place, cancelled) == sha256:
                    return place
    return (there or list(places))[0]
