"""Work that compares the passes of a song, for the view of its form."""

from __future__ import annotations

from dataclasses import dataclass

from ..analysis.evidence import Evidence
from ..analysis.explain.differences import Differences
from ..song.model import Song
from .jobs import Far, Under


@dataclass(frozen=True)
class Comparing(Far):
    """Gives the song's differences, all of them worked out."""

    song: Song
    evidence: Evidence

    def __call__(self, under: Under) -> Differences:
        made = Differences(self.song, self.evidence)
        made.all()
        return made
