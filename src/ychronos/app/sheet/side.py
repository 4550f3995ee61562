"""The panel beside the sheet: the chord at the caret with its rivals, and the queue of doubts."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSize, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
)

from ...analysis.explain.inside import difference, look_at, reasons
from ...chart.rows import section_title, shown_names
from ...guitar.candidates import pitches
from ...guitar.fingering import shape_text
from ...session.commands.shapes import ways
from ...session.session import MUSIC, Session
from ...song.doubting import Doubt, doubts, ways_out, words
from ...song.model import Song
from ...tongue import tr
from ..hand.diagrams import Card, Cards
from ..labels import TwoLines, label, lists
from ..soon import Soon
from ..theme import Theme

WAYS_HIGH = 112  # pixels of the ways to hold a chord with their heading
KEYS = ("Alt+5", "Alt+6", "Alt+7", "Alt+8")


RINGS = {"held": tr("left to ring"), "stopped": tr("cut short")}


class Side(QFrame):
    """The chord at the caret with its rivals, and the queue of doubts."""

    rival_chosen = Signal(int)
    doubt_chosen = Signal(object)
    hear_pressed = Signal()
    way_chosen = Signal(int)
    hear_notes = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("side")
        self.session = session
        self.setMinimumWidth(236)  # beside a scroll bar on a low screen
        self.setMaximumWidth(252)
        self.place, self.chord, self.state = label(quiet=True), label(), label(quiet=True)
        self.place.setWordWrap(True)
        self.state.setWordWrap(True)
        self.why = label(quiet=True)
        self.why.setWordWrap(True)
        self.why.setAccessibleName(tr("Why it is read so"))
        self.rivals = QListWidget()
        self.rivals.setItemDelegate(TwoLines(self.rivals))
        self.rivals.setAccessibleName(tr("Other readings of this chord"))
        self.rivals.setToolTip(tr("Other readings; Enter, a double click or Alt with its number states one"))
        self.hear = QPushButton(tr("Hear them in turn"))
        self.hear.setCheckable(True)
        self.hear.clicked.connect(self.hear_pressed)
        self.rivals.itemActivated.connect(lambda item: self.rival_chosen.emit(self.rivals.row(item)))
        self.ways_head = label(tr("ways to hold it"), quiet=True)
        self.ways = Cards(Theme(), 55.0, 84.0, wraps=False)
        self.ways.setAccessibleName(tr("Ways to hold this chord"))
        self.ways.chosen.connect(self._hear_way)
        self.ways.taken.connect(self.way_chosen)
        self.head, self.left = label(tr("In doubt")), label(quiet=True)
        self.doubts = QListWidget()
        self.doubts.setAccessibleName(tr("What is in doubt, the most costly first"))
        self.doubts.setItemDelegate(TwoLines(self.doubts))
        self.doubts.setToolTip(tr("Worth a second listen, the most costly first; a click goes there"))
        self.doubts.itemClicked.connect(self._doubt)
        self.doubts.itemActivated.connect(self._doubt)
        lists(self.rivals, self.doubts)
        heading = QHBoxLayout()
        heading.addWidget(self.head)
        heading.addStretch(1)
        heading.addWidget(self.left)
        self.else_ = label(tr("could also be"), quiet=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 14, 16, 12)
        layout.setSpacing(4)
        for part in (self.place, self.chord, self.state, self.why):
            layout.addWidget(part)
        layout.addSpacing(6)
        layout.addWidget(self.else_)
        layout.addWidget(self.rivals)
        layout.addWidget(self.hear)
        layout.addSpacing(6)
        layout.addWidget(self.ways_head)
        layout.addWidget(self.ways)
        layout.addSpacing(8)
        layout.addLayout(heading)
        layout.addWidget(self.doubts, 1)
        layout.addStretch(0)
        self._found: list[Doubt] = []
        self._doubts_said: list[tuple[str, str]] = []
        self.other_count: Callable[[], tuple[str, float] | None] = lambda: None  # what else the song may be counted as
        self._some_ways = False
        # a statement moves the selection too, and is decided again: the panel follows once
        self.soon, self._chord_soon = Soon(self.refresh, self), Soon(self._show_chord, self)
        self._ways_soon, self._doubts_soon = Soon(self._shapes_known, self), Soon(self._show_doubts, self)
        session.watch(self.soon, *MUSIC)
        session.watch(self._chord_soon, "selection")
        session.watch(self._shapes_known, "shapes")
        self.set_theme(Theme())

    def set_theme(self, theme: Theme) -> None:
        self.chord.setFont(theme.serif(22, bold=True))
        self.head.setFont(theme.serif(13, bold=True))
        self.ways.set_theme(theme)
        for small in (self.place, self.state, self.why, self.left, self.else_, self.ways_head):
            small.setFont(theme.sans(9))
        for entries in (self.rivals, self.doubts):
            delegate = entries.itemDelegate()
            if isinstance(delegate, TwoLines):
                delegate.theme = theme
            entries.doItemsLayout()

    def refresh(self) -> None:
        self._chord_soon.done()
        self.setEnabled(self.session.song is not None)
        self._show_chord()
        self._doubts_soon()

    def _show_chord(self) -> None:
        song = self.session.song
        self.rivals.clear()
        if song is None:
            for part in (self.place, self.chord, self.state):
                part.setText("")
            self._show_rivals(False)
            self._show_ways(None, 0)
            self.why.hide()
            return
        index = self.session.chord_index
        span = song.chords[index]
        name, which = section_title(song, song.section_index(span.start))
        where = song.grid.beat_name(span.start)
        self.place.setText(f"{name}{f', {which}' if which else ''}, {where}")
        self.chord.setText(shown_names(song, index)[0])
        if span.stated:
            words = tr("you stated it")
        elif span.chord.is_none:
            words = tr("no chord, {confidence:.0%} sure", confidence=span.confidence)
        else:
            words = tr("{confidence:.0%} sure", confidence=span.confidence)
        if span.follows:
            words += tr(" · follows what you stated another time")
        if span.unsure:
            words += tr(" · marked unsure") + (f": {span.comment}" if span.comment else "")
        if not song.guitar.plain and not span.chord.is_none:
            sounds = song.guitar.show == "shapes"
            name = song.sounding_name(index) if sounds else song.shape_name(index)
            words += f" · {tr('sounds as') if sounds else tr('shape')} {name}"
        self.state.setText(words)
        if span.articulation != "strummed":
            self.state.setText(f"{self.state.text()} · {RINGS[span.articulation]}")
        evidence = self.session.evidence
        seen = None
        if evidence is not None and not span.chord.is_none:
            seen = look_at(song, evidence, *song.chord_range(index), span.chord)
        self.why.setText("; ".join(reasons(song, evidence, index, seen)[:3]))
        self.why.setVisible(bool(self.why.text()))
        at = span.start
        for number, (chord, chance) in enumerate(span.rivals, 1):
            words = tr("no chord") if chord.is_none else ""
            share = f"{chance:.0%}" if chance >= 0.005 else tr("under 1%")
            if seen is not None and not chord.is_none:
                words = difference(seen, chord, lambda note: song.shown_note(at, note))
            self.rivals.addItem(QListWidgetItem(f"{number}   {song.name_of(chord, span.start)}   {share}\n{words}"))
        self._ways_soon()
        some = self.rivals.count() > 0
        self.rivals.setFixedHeight(max(1, self.rivals.count()) * TwoLines.HEIGHT + 6)
        self._show_rivals(some)

    def _shapes_known(self) -> None:
        self._show_ways(self.session.song, self.session.chord_index if self.session.song is not None else 0)

    def _show_ways(self, song: Song | None, index: int) -> None:
        can = song is not None and not song.chords[index].chord.is_none
        found = ways(song, index) if song and can and self.session.shaping.ready(song, song.guitar) else []
        self._some_ways = bool(found)
        self._fit_ways()
        if song is None or not found:
            return
        held, guitar = song.held[index], song.guitar
        cards = []
        for number, way in enumerate(found):
            frets = shape_text(guitar.nut_frets(way.shape) if guitar.from_nut else way.shape)
            keys = f"{KEYS[number]}: " if number < len(KEYS) else ""
            now = held is not None and way.shape == held.shape
            stated = now and held is not None and held.stated
            tip = tr("{keys}{frets}; a click lets it sound, a double click holds it so", keys=keys, frets=frets)
            cards.append(Card(way.shape, held.fingers if held and now else (), "", frets, tip, stated))
        current = next((i for i, c in enumerate(found) if held is not None and c.shape == held.shape), -1)
        self.ways.show_cards(cards, current, guitar.left)

    def _fit_ways(self) -> None:
        """Show the ways to hold the chord where there is room: they must not make a small window larger."""
        layout = self.layout()
        least = layout.minimumSize().height() if layout is not None else 0
        room = self.height() >= least + (0 if self.ways.isVisibleTo(self) else WAYS_HIGH)
        shown = self._some_ways and room
        if shown != self.ways.isVisibleTo(self):
            self.ways_head.setVisible(shown)
            self.ways.setVisible(shown)

    def minimumSizeHint(self) -> QSize:
        hint = super().minimumSizeHint()
        return QSize(hint.width(), hint.height() - (WAYS_HIGH if self.ways.isVisibleTo(self) else 0))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_ways()

    def _hear_way(self, number: int) -> None:
        song = self.session.song
        if song is not None and number < len(self.ways.cards):
            guitar = song.guitar
            self.hear_notes.emit(pitches(self.ways.cards[number].shape, guitar.strings, guitar.capo))

    def _show_rivals(self, some: bool) -> None:
        self.rivals.setVisible(some)
        self.else_.setVisible(some)
        self.hear.setVisible(some)

    def _show_doubts(self) -> None:
        song = self.session.song
        self._found = doubts(song, self.other_count()) if song else []
        said = [("\n".join(words(song, d)), ways_out(d)) for d in self._found] if song else []
        if said != self._doubts_said:  # most statements leave them as they are
            self._doubts_said = said
            self.doubts.clear()
            for text, tip in said:
                item = QListWidgetItem(text)
                item.setToolTip(tip)
                self.doubts.addItem(item)
        count = len(self._found)
        self.left.setText(tr("{count} left", count=count) if count else tr("none left"))
        self.doubts.setVisible(count > 0)
        self.head.setVisible(song is not None)
        self.left.setVisible(song is not None)
        # as high as its entries, the rest of the panel stays empty
        self.doubts.setMaximumHeight(max(1, count) * self.doubts.sizeHintForRow(0) + 8 if count else 0)

    def _doubt(self, item: QListWidgetItem) -> None:
        row = self.doubts.row(item)
        if 0 <= row < len(self._found):
            self.doubt_chosen.emit(self._found[row])
