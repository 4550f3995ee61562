"""Everything a song can be written out as, one entry each: menu and command line are made from these."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ..song.model import Song
from . import jams, lrc, midi, musicxml, sungtext, tables, textchart
from .options import Options


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

    def written(self, song: Song, options: Options) -> bytes:
        """The song as bytes of a file, its names as the options want them."""
        return self.render(options.applied(song), options)


def _pdf(song: Song, options: Options) -> bytes:
    from . import pdfchart  # what draws pages is loaded when one is wanted, not with the window

    return pdfchart.render(song, options)


EXPORTERS: list[Exporter] = [
    Exporter("pdf", "Chart as PDF…", "Write the chart as a PDF to print", "the chart as PDF", ".pdf", "PDF (*.pdf)",
             _pdf, ("Ctrl+E",)),
    Exporter("text", "Chart as text…", "Write the chart as plain text", "the chart as text", ".txt", "Text (*.txt)",
             lambda song, o: textchart.render(song, o).encode(), ("Ctrl+Shift+E",), True),
    Exporter("over", "Words with chords over them…", "Write the words of the song with the chords over them", "the words with chords over them",
             ".txt", "Text (*.txt)", sungtext.over_words, text=True),
    Exporter("brackets", "Words with chords in brackets…", "Write the words of the song with the chords in brackets",
             "the words with chords in brackets", ".txt", "Text (*.txt)", sungtext.in_brackets, text=True),
    Exporter("jams", "All data as JAMS…", "Write beats, chords, keys and sections for other programs",
             "beats, chords, keys and sections as JAMS (JSON)", ".jams", "JAMS (*.jams)",
             lambda song, o: jams.dumps(song)),
    Exporter("musicxml", "Chart as MusicXML…", "Write bars, chords and diagrams for notation programs",
             "the chart as MusicXML", ".musicxml", "MusicXML (*.musicxml)",
             lambda song, o: musicxml.render(song, o.notes)),
    Exporter("midi", "Chart as MIDI…", "Write tempo map, markers, chords, bass and click, in time with the recording",
             "the chart as MIDI", ".mid", "MIDI (*.mid)", lambda song, o: midi.render(song, o.notes)),
    Exporter("lrc", "Timed words (LRC)…", "Write the words of the song with their times",
             "the words with their times (LRC)", ".lrc", "Timed words (*.lrc)", lambda song, o: lrc.render(song)),
    Exporter("csv", "Chords as a table…", "Write a row for each chord, for spreadsheets",
             "a table of chords (CSV)", ".csv", "CSV (*.csv)", lambda song, o: tables.render_csv(song)),
    Exporter("labels", "Chords as labels…", "Write start, end and name of each chord, for sound editors",
             "labels: start, end, name", ".lab", "Labels (*.lab)", lambda song, o: tables.render_labels(song)),
]  # fmt: skip


def for_file(path: Path) -> Exporter | None:
    """The exporter that a file's suffix asks for, or None."""
    suffix = {".xml": ".musicxml", ".midi": ".mid"}.get(path.suffix.lower(), path.suffix.lower())
    return next((e for e in EXPORTERS if e.suffix == suffix), None)


def exporter(name: str) -> Exporter:
    """The exporter of an id; raises KeyError."""
    return {e.id: e for e in EXPORTERS}[name]
