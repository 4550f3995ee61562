"""Everything a song can be written out as, one entry each: menu and command line are made from these."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ..song.model import Song
from ..tongue import tr
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
    Exporter("pdf", tr("Chart as PDF…"), tr("Write the chart as a PDF to print"), tr("the chart as PDF"), ".pdf", tr("PDF (*.pdf)"),
             _pdf, ("Ctrl+E",)),
    Exporter("text", tr("Chart as text…"), tr("Write the chart as plain text"), tr("the chart as text"), ".txt", tr("Text (*.txt)"),
             lambda song, o: textchart.render(song, o).encode(), ("Ctrl+Shift+E",), True),
    Exporter("over", tr("Words with chords over them…"), tr("Write the words of the song with the chords over them"), tr("the words with chords over them"),
             ".txt", tr("Text (*.txt)"), sungtext.over_words, text=True),
    Exporter("brackets", tr("Words with chords in brackets…"), tr("Write the words of the song with the chords in brackets"),
             tr("the words with chords in brackets"), ".txt", tr("Text (*.txt)"), sungtext.in_brackets, text=True),
    Exporter("jams", tr("All data as JAMS…"), tr("Write beats, chords, keys and sections for other programs"),
             tr("beats, chords, keys and sections as JAMS (JSON)"), ".jams", tr("JAMS (*.jams)"),
             lambda song, o: jams.dumps(song)),
    Exporter("musicxml", tr("Chart as MusicXML…"), tr("Write bars, chords and diagrams for notation programs"),
             tr("the chart as MusicXML"), ".musicxml", tr("MusicXML (*.musicxml)"),
             lambda song, o: musicxml.render(song, o.notes)),
    Exporter("midi", tr("Chart as MIDI…"), tr("Write tempo map, markers, chords, bass and click, in time with the recording"),
             tr("the chart as MIDI"), ".mid", tr("MIDI (*.mid)"), lambda song, o: midi.render(song, o.notes)),
    Exporter("lrc", tr("Timed words (LRC)…"), tr("Write the words of the song with their times"),
             tr("the words with their times (LRC)"), ".lrc", tr("Timed words (*.lrc)"), lambda song, o: lrc.render(song)),
    Exporter("csv", tr("Chords as a table…"), tr("Write a row for each chord, for spreadsheets"),
             tr("a table of chords (CSV)"), ".csv", tr("CSV (*.csv)"), lambda song, o: tables.render_csv(song)),
    Exporter("labels", tr("Chords as labels…"), tr("Write start, end and name of each chord, for sound editors"),
             tr("labels: start, end, name"), ".lab", tr("Labels (*.lab)"), lambda song, o: tables.render_labels(song)),
]  # fmt: skip


def for_file(path: Path) -> Exporter | None:
    """The exporter that a file's suffix asks for, or None."""
    suffix = {".xml": ".musicxml", ".midi": ".mid"}.get(path.suffix.lower(), path.suffix.lower())
    return next((e for e in EXPORTERS if e.suffix == suffix), None)


def exporter(name: str) -> Exporter:
    """The exporter of an id; raises KeyError."""
    return {e.id: e for e in EXPORTERS}[name]
