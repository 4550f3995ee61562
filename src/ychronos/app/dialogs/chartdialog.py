"""A chart from elsewhere against the record: paste or open it, see where it agrees, take over what is better.

The text stands at the left as it was written; at the right its bars as they are played, those that the sound speaks against first
in mind: marked, with what the record says instead. A click goes there and plays; theirs can be taken a bar at a time or all.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidgetItem, QPlainTextEdit, QWidget

from ...analysis.against.aligning import Against, Played
from ...formats import textchart
from ...formats.agreementtext import agreement_text
from ...formats.chartfiles import read_chart, text_of
from ...formats.charttext import ChartError
from ...guitar.instrument import GuitarSetup
from ...session.againstrecord import Laying, take
from ...session.jobs import Handle
from ...session.session import Session
from ...song.handed import HandedChart
from ...song.model import Song
from ...song.words import clock_text
from ...tongue import tr
from ..labels import TwoLines, lists
from ..theme import Theme
from .twosides import TwoSides

HINT = tr(
    "Paste a chart here: bars with |, chords over words, or chords in brackets.\n\n[Verse]\n| G | D/F# | Em | C |"
)


class ChartDialog(TwoSides):
    """See the module. It stays open beside the window, and follows the song."""

    place_wanted = Signal(float)  # seconds to play from

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        names = tr("The chart as it is written"), tr("Bars of the chart as they are played")
        super().__init__(tr("A chart from elsewhere"), HINT, *names, parent)
        self.session = session
        self.chart: HandedChart | None = None
        self.found: Against | None = None
        self._job: Handle | None = None
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        font = theme.sans(10)
        font.setFamilies(["monospace"])
        self.text.setFont(font)
        self.bars = self.entries
        delegate = TwoLines(self.bars)
        delegate.theme = theme
        self.bars.setItemDelegate(delegate)
        self.bars.itemClicked.connect(lambda _: self._hear())
        self.bars.currentRowChanged.connect(lambda _: self._refresh_buttons())
        lists(self.bars)
        self.said.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.open_button = self.button(tr("Open…"), tr("Open a chart: text, MusicXML, MIDI, JAMS, CSV"), self._open)
        self.own = self.button(
            tr("The chart here"), tr("How well the chart as it stands here agrees with the record"), self._own
        )
        self.lay = self.button(
            tr("Lay it against the record"),
            tr("See which of its bars is played when, and how well it agrees"),
            self._lay,
        )
        self.lay.setProperty("main", True)
        self.next = self.button(tr("Next doubt"), tr("The next bar that the sound speaks against"), self._next)
        self.one = self.button(
            tr("Take theirs here"), tr("State the chords of this bar as the chart has them"), self._take_one
        )
        self.all = self.button(
            tr("Take the whole chart"), tr("State all its chords; one undo takes it back"), self._take_all
        )
        self.lay_out((self.open_button, self.own, self.lay), (self.next, self.one, self.all), words_first=True)
        self.resize(940, 560)
        self.text.textChanged.connect(self._refresh_buttons)
        self._refresh_buttons()

    # ------------------------------------------------------------ reading, laying

    def _open(self) -> None:
        path = self.ask_file(
            tr("Open a chart"), tr("Charts (*.txt *.text *.md *.chart *.musicxml *.xml *.mid *.midi *.jams *.csv)")
        )
        if path is not None:
            self.open_path(path)

    def _own(self) -> None:
        """Lay the song's own chart against the record: how well it agrees, and its worst bars."""
        song = self.session.song
        if song is not None:
            # as it sounds, and without what stands between its bars
            plain = replace(song, guitar=GuitarSetup(), notation="names")
            self.text.setPlainText(textchart.render(plain, folded=False, words=False, notes=(), strokes=False))
            self._lay()

    def open_path(self, path: Path) -> None:
        """Show the text of a file and lay it against the record; what cannot be read is said."""
        try:
            text = text_of(path)
        except ChartError as error:
            self.said.setText(str(error))
            return
        self.text.setPlainText(text)
        self._lay()

    def _lay(self) -> None:
        song = self.session.song
        self.bars.clear()
        self.found = None
        if song is None:
            return
        try:
            self.chart = read_chart(self.text.toPlainText())
        except ChartError as error:
            self.said.setText(str(error))
            self._refresh_buttons()
            return
        self.said.setText(tr("Laying it against the record…"))
        if self._job is not None:
            self._job.cancel()
        chart = self.chart

        def done(found: Against) -> None:
            self._job = None
            if self.chart is chart:
                self._show(found)

        def failed(words: str) -> None:
            self._job = None
            self.said.setText(words)

        job = self.session.jobs.start(Laying(song, self.session.evidence, chart), done, failed)
        if self.found is None:
            self._job = job

    def _show(self, found: Against) -> None:
        song = self.session.song
        if song is None or self.chart is None:
            return
        self.found = found
        words = agreement_text(song, self.chart, found).strip().split("\n")
        self.said.setText("\n".join(words[:6]) + ("\n…" if len(words) > 6 else ""))
        doubted = {b.number for b in found.doubtful}
        self.bars.clear()
        for b in found.bars:
            self.bars.addItem(QListWidgetItem("\n".join(_bar_words(song, b, b.number in doubted))))
        self._refresh_buttons()

    # ------------------------------------------------------------ going through it

    def _refresh_buttons(self) -> None:
        some = self.found is not None and bool(self.found.bars)
        self.lay.setEnabled(bool(self.text.toPlainText().strip()))
        self.one.setEnabled(some and self.bars.currentRow() >= 0)
        self.all.setEnabled(some)
        self.next.setEnabled(self.found is not None and bool(self.found.doubtful))

    def _hear(self) -> None:
        song, row = self.session.song, self.bars.currentRow()
        if song is not None and self.found is not None and 0 <= row < len(self.found.bars):
            self.place_wanted.emit(song.grid.clock(self.found.bars[row].start))

    def _next(self) -> None:
        if self.found is None:
            return
        doubted = {b.number for b in self.found.doubtful}
        rows = [i for i, b in enumerate(self.found.bars) if b.number in doubted and not b.same]
        if rows:
            self.bars.setCurrentRow(next((i for i in rows if i > self.bars.currentRow()), rows[0]))
            self._hear()

    def _take_one(self) -> None:
        row = self.bars.currentRow()
        if self.found is not None and 0 <= row < len(self.found.bars):
            bar = self.found.bars[row]
            if take(self.session, [bar]):
                self.bars.item(row).setText(self.bars.item(row).text().split("\n")[0] + tr("\ntaken"))

    def _take_all(self) -> None:
        if self.found is not None and take(self.session, self.found.bars):
            self.said.setText(tr("All its chords are stated; one undo takes them back."))


def _bar_words(song: Song, b: Played, doubted: bool) -> tuple[str, str]:
    """Two lines: the bar with its chords, and how well it agrees."""
    theirs = " ".join(song.name_of(c, b.start) for _, c in b.theirs)
    ours = " ".join(song.name_of(c, b.start) for _, c in b.ours)
    where = clock_text(song.shown_clock(song.grid.clock(b.start)))
    section = f"{b.section}, " if b.section else ""
    first = f"{'≠ ' if doubted and not b.same else ''}{b.number}   {theirs}"
    if b.same:
        return first, tr("{section}{where} · agrees", section=section, where=where)
    if doubted:
        return first, tr("{section}{where} · the sound says {ours}", section=section, where=where, ours=ours)
    return first, tr(
        "{section}{where} · here {ours}; {agreement:.0%} agree",
        section=section,
        where=where,
        ours=ours,
        agreement=b.agreement,
    )
