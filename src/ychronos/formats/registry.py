"""Everything a song can be written out as, one entry each: menu and command line are made from these."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..song.model import Song
from . import jams, pdfchart, textchart


@dataclass(frozen=True)
class Options:
    """How a chart is wanted: bars in a row, what is played again written once, only the plainest characters,
    the shapes that it is played with."""

    per_row: int = 4
    folded: bool = True
    ascii_only: bool = False
    shapes: bool = True


@dataclass(frozen=True)
class Exporter:
    """``words`` name it in the menu, ``what`` on the command line; ``keys`` are its usual keys; ``text`` may be printed."""

    id: str
    words: str
    tip: str
    what: str
    suffix: str
    filters: str
    render: Callable[[Song, Options], bytes]
    keys: tuple[str, ...] = ()
    text: bool = False


EXPORTERS: list[Exporter] = [
    Exporter("pdf", "Chart as PDF…", "Write the chart as a PDF to print", "the chart as PDF", ".pdf", "PDF (*.pdf)",
             lambda song, o: pdfchart.render(song, o.per_row, o.folded, o.shapes), ("Ctrl+E",)),
    Exporter("text", "Chart as text…", "Write the chart as plain text", "the chart as text", ".txt", "Text (*.txt)",
             lambda song, o: textchart.render(song, o.per_row, o.ascii_only, o.folded, o.shapes).encode(), ("Ctrl+Shift+E",), True),
    Exporter("jams", "All data as JAMS…", "Write beats, chords, keys and sections for other programs",
             "beats, chords, keys and sections as JAMS (JSON)", ".jams", "JAMS (*.jams)",
             lambda song, o: jams.dumps(song)),
]  # fmt: skip


def exporter(name: str) -> Exporter:
    """The exporter of an id; raises KeyError."""
    return {e.id: e for e in EXPORTERS}[name]
