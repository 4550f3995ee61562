"""The open song as pages and as files of every format, made beside the window."""

from __future__ import annotations

from dataclasses import dataclass

from ..formats.options import Options
from ..formats.registry import exporter
from ..song.model import Song
from .jobs import Far, Under


@dataclass(frozen=True)
class Printed(Far):
    """Gives the bytes of a PDF file."""

    song: Song
    options: Options

    def __call__(self, under: Under) -> bytes:
        return exporter("pdf").written(self.song, self.options)


@dataclass(frozen=True)
class WrittenOut(Far):
    """Gives the bytes of a file of a registered format, named by its id."""

    format: str
    song: Song
    options: Options

    def __call__(self, under: Under) -> bytes:
        return exporter(self.format).written(self.song, self.options)
