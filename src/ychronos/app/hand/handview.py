"""The view of the hand: the shapes that the song is played with, other ways to hold each, and which capo suits it.

Shapes stand in order of appearance; a choice among the others holds everywhere, in a section or at one place. The rows at
the right rank capos (and tunings, if wanted) in words; choosing one previews all shapes, Enter or the button states it.
"""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QHideEvent, QShowEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QCheckBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ...chart.handwords import choice_words, handed_words, in_order, level_words, same_words
from ...chart.used import Used, losses, remarks, used
from ...guitar.candidates import Candidate, candidates, pitches, with_notes
from ...guitar.fingering import Shape, shape_text
from ...guitar.hands import LEVELS
from ...guitar.instrument import GuitarSetup
from ...guitar.setups import Choice
from ...session.choosing import Choosing
from ...session.session import MUSIC, Session
from ...song.edits import WHERE
from ...song.model import Song
from ...tongue import tr
from ..labels import TwoLines, label, lists, with_side
from ..theme import Theme
from .diagrams import Card, Cards

OTHERS = 8  # other ways that are shown
ROWS = 12  # of capos


Wish = tuple[str, int]  # "top" or "low", and the pitch class that is wished there


def other_ways(song: Song, one: Used, guitar: GuitarSetup, wish: Wish | None = None) -> list[Candidate]:
    """The shapes to choose from for a chord, those that the record speaks for not forgotten; with a wish for the highest
    or the lowest note only those that have it."""
    chord = song.chords[one.first].chord.transposed(guitar.moved)
    found = list(candidates(chord, guitar.strings, guitar.capo))
    if wish is not None:
        where, note = wish
        if where == "low":
            found = list(candidates(chord, guitar.strings, guitar.capo, free_bass=True))
        strings = [s + guitar.capo for s in guitar.strings]
        return with_notes(found, strings, note if where == "top" else None, note if where == "low" else None)[:OTHERS]
    if guitar.moved or not song.heard.knows(chord):
        return found[:OTHERS]
    best = sorted(found, key=lambda c: c.cost - song.heard(chord, pitches(c.shape, guitar.strings, guitar.capo)))
    return list(dict.fromkeys([*best[:2], *found]))[:OTHERS]


def _into(layout: QBoxLayout, *parts: QWidget) -> None:
    for part in parts:
        layout.addWidget(part)


class HandView(QWidget):
    """See the module."""

    shape_wanted = Signal(int, object, str)  # chord, shape, where
    forget_wanted = Signal(int)
    hear_wanted = Signal(object)  # MIDI notes
    setup_wanted = Signal(object)
    level_wanted = Signal(str)
    swap_pressed = Signal()
    second_pressed = Signal()
    guitar_pressed = Signal()
    preview_left = Signal(object)  # a setup that was looked at when another view was chosen
    place_wanted = Signal(int)  # a chord

    def __init__(self, session: Session, theme: Theme, choosing: Choosing) -> None:
        super().__init__()
        self.session, self.theme, self.choosing = session, theme, choosing
        self.preview: GuitarSetup | None = None
        self.shapes: list[Used] = []
        self._name = ""  # of the shape that is looked at
        self.others: list[Candidate] = []
        self.rows: list[Choice] = []
        self._built()
        session.watch(self.refresh, *MUSIC)
        session.watch(self._follow_caret, "selection")
        session.watch(self._shapes_known, "shapes")
        choosing.changed.connect(self._show_choices)
        self.set_theme(theme)

    def _built(self) -> None:
        self.heading, self.setup, self.told = label(tr("Shapes")), label(quiet=True), label(quiet=True)
        self.told.setWordWrap(True)
        self.level = QComboBox()
        self.level.setAccessibleName(tr("What the shapes ask of a hand"))
        for level in LEVELS:
            self.level.addItem(level.words, level.id)
            self.level.setItemData(self.level.count() - 1, level.tip, Qt.ItemDataRole.ToolTipRole)
        self.level.activated.connect(lambda row: self.level_wanted.emit(self.level.itemData(row)))
        self.guitar = QPushButton(tr("Guitar…"))
        self.guitar.clicked.connect(self.guitar_pressed)
        self.second = QPushButton(tr("Second guitar…"))
        self.second.clicked.connect(self.second_pressed)
        self.swap = QPushButton(tr("Show the other guitar"))
        self.swap.clicked.connect(self.swap_pressed)
        self.cards = Cards(self.theme)
        self.cards.setAccessibleName(tr("Shapes of the song in order of appearance"))
        self.cards.chosen.connect(self._chosen)
        self.cards.taken.connect(lambda i: self.place_wanted.emit(self.shapes[i].first))
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.cards)
        column.addStretch(1)
        self.area.setWidget(inner)
        self.area.viewport().setAutoFillBackground(False)
        inner.setAutoFillBackground(False)
        self.ways_of, self.words = label(), label(quiet=True)
        self.words.setWordWrap(True)
        self.ways = Cards(self.theme, wraps=False)
        self.ways.setAccessibleName(tr("Other ways to hold the chord"))
        self.ways.chosen.connect(self._hear_way)
        self.ways.taken.connect(lambda _: self._take_way())
        self.where = QComboBox()
        self.where.setAccessibleName(tr("Where it is to be held so"))
        for where in WHERE:
            self.where.addItem(tr(where), where)
        self.wish = QComboBox()
        self.wish.setAccessibleName(tr("A note that shall be on top or lowest"))
        self.wish.activated.connect(lambda _: self._show_ways(new=False))
        self.take = QPushButton(tr("Hold it so"))
        self.take.setToolTip(tr("Hold the chord in the chosen shape (Enter on the shape)"))
        self.take.clicked.connect(self._take_way)
        self.forget = QPushButton(tr("Leave it to Ychronos"))
        self.forget.setToolTip(tr("Forget the shape that was chosen for this chord"))
        self.forget.clicked.connect(lambda: self.forget_wanted.emit(self.shapes[self.cards.current].first))
        top = QHBoxLayout()
        top.setSpacing(10)
        _into(top, self.heading, self.setup)
        top.addStretch(1)
        _into(top, self.level, self.guitar, self.second, self.swap)
        middle = QHBoxLayout()
        middle.setSpacing(10)
        middle.addWidget(self.ways_of)
        middle.addWidget(self.words, 1)
        _into(middle, self.wish, self.where, self.take, self.forget)
        left = QVBoxLayout()
        left.setContentsMargins(22, 14, 22, 12)
        left.setSpacing(8)
        left.addLayout(top)
        left.addWidget(self.told)
        left.addWidget(self.area, 1)
        left.addLayout(middle)
        left.addWidget(self.ways)
        self.capos, self.said = label(tr("Capo and tuning")), label(quiet=True)
        self.said.setWordWrap(True)
        self.every = QCheckBox(tr("Other tunings too"))
        self.every.setToolTip(tr("Weigh the usual tunings as well: half and whole step down, drop and open ones"))
        self.every.toggled.connect(self.choosing.set_every_tuning)
        self.list = QListWidget()
        self.list.setItemDelegate(TwoLines(self.list))
        self.list.setAccessibleName(tr("Capos, the one that suits best first"))
        self.list.setToolTip(tr("A click shows all shapes with it; Enter or a double click states it"))
        self.list.currentRowChanged.connect(self._preview_row)
        self.list.itemActivated.connect(lambda _: self._take_setup())
        lists(self.list)
        self.state = QPushButton(tr("Take it"))
        self.state.setToolTip(tr("State this capo and tuning (Enter)"))
        self.state.clicked.connect(self._take_setup)
        column = QVBoxLayout()
        column.setContentsMargins(16, 14, 16, 12)
        _into(column, self.capos, self.said, self.every)
        column.addWidget(self.list, 1)
        column.addWidget(self.state)
        with_side(self, left, column)

    def set_clock(self, seconds: float | None) -> None:
        pass

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        for heading in (self.heading, self.capos, self.ways_of):
            heading.setFont(theme.serif(13, bold=True))
        for small in (self.setup, self.told, self.words, self.said):
            small.setFont(theme.sans(9))
        self.cards.set_theme(theme)
        self.ways.set_theme(theme)
        delegate = self.list.itemDelegate()
        if isinstance(delegate, TwoLines):
            delegate.theme = theme
        self.list.doItemsLayout()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.preview = None
        self.choosing.want(True)
        self.refresh()
        self._follow_caret()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self.choosing.want(False)
        if self.preview is not None:
            setup, self.preview = self.preview, None
            self.preview_left.emit(setup)

    # ------------------------------------------------------------ showing

    @property
    def shown(self) -> GuitarSetup:
        """The guitar whose shapes are shown: one that is previewed, else the song's."""
        song = self.session.song
        assert song is not None
        return self.preview or song.guitar

    def refresh(self) -> None:
        song = self.session.song
        if song is None or not self.isVisible():
            return
        guitar = self.shown
        if self.preview is not None and self.preview.same_strings(song.guitar):
            self.preview, guitar = None, song.guitar
        self.level.setCurrentIndex(next((i for i, x in enumerate(LEVELS) if x.id == guitar.level), 0))
        self.level.setEnabled(self.preview is None)
        self.swap.setVisible(song.second is not None)
        named = f"{guitar.describe()}{tr(' · preview, not stated') if self.preview else ''}"
        if not self.session.shaping.ready(song, guitar):
            self._show_none(tr("{named} · looking for shapes…", named=named))
            return
        if 0 <= self.cards.current < len(self.shapes):
            self._name = self.shapes[self.cards.current].name
        self.shapes = used(song, guitar)
        current = next((i for i, u in enumerate(self.shapes) if u.name == self._name), 0)
        self.cards.show_cards([self._card(song, u, guitar) for u in self.shapes], current, guitar.left)
        self.setup.setText(named)
        self.told.setText(level_words(song, self.shapes, losses(song, guitar), guitar))
        self._show_ways()
        self._show_choices()

    def _show_none(self, why: str) -> None:
        """No shapes, until those of this guitar are known."""
        self.shapes = []
        self.cards.show_cards([])
        self._show_ways()
        for words in (self.words, self.told):
            words.setText("")
        self.setup.setText(why)
        self._show_choices()

    def _shapes_known(self) -> None:
        self.refresh()
        self._follow_caret()

    def _card(self, song: Song, one: Used, guitar: GuitarSetup) -> Card:
        times = f"{one.times}×" if one.times > 1 else tr("once")
        note = (
            tr("{times} · barre", times=times)
            if one.held.barre >= 4
            else tr("{times} · wide", times=times)
            if one.held.wide
            else times
        )
        tip = f"{one.title}: {', '.join(remarks(song, one, guitar))}"
        return Card(one.held.shape, one.held.fingers, one.title, note, tip, one.held.stated, one.held.wide)

    def _show_wishes(self, song: Song, one: Used, guitar: GuitarSetup) -> None:
        """What can be wished of the chord that is chosen."""
        self.wish.clear()
        self.wish.addItem(tr("any notes outside"), None)
        chord = song.chords[one.first].chord.transposed(guitar.moved)
        for where, words in (("top", tr("on top")), ("low", tr("lowest"))):
            for note in sorted(chord.pitch_classes, key=lambda n: (n - (chord.root or 0)) % 12):
                self.wish.addItem(f"{song.shape_note_on(guitar, one.first, note)} {words}", (where, note))

    def _show_ways(self, new: bool = True) -> None:
        song = self.session.song
        if song is None or not 0 <= self.cards.current < len(self.shapes):
            self.others = []
            self.ways.show_cards([])
            self.ways_of.setText("")
            self.words.setText(tr("Nobody plays a chord in this song.") if song is not None else "")
            for button in (self.wish, self.where, self.take, self.forget):
                button.setEnabled(False)
            return
        one, guitar = self.shapes[self.cards.current], self.shown
        if new:
            self._show_wishes(song, one, guitar)
        self.wish.setEnabled(True)
        wish = self.wish.currentData()
        self.others = other_ways(song, one, guitar, (wish[0], wish[1]) if wish else None)
        shapes = [c.shape for c in self.others]
        if one.held.shape not in shapes and not wish:
            shapes.insert(0, one.held.shape)
        cards = []
        for shape in shapes:
            shown = guitar.nut_frets(shape) if guitar.from_nut else shape
            now = shape == one.held.shape
            fingers = one.held.fingers if now else ()
            tip = handed_words(song, one, shape, guitar)
            cards.append(Card(shape, fingers, "", shape_text(shown), tip, one.held.stated and now))
        now_at = shapes.index(one.held.shape) if one.held.shape in shapes else -1
        self.ways.show_cards(cards, now_at, guitar.left)
        self.ways_of.setText(tr("Ways to hold {name}", name=one.name))
        self.words.setText(
            "; ".join(filter(None, [", ".join(remarks(song, one, guitar)), same_words(song, one, guitar)]))
            if shapes else tr("No hand can hold it so.")
        )  # fmt: skip
        can = self.preview is None
        self.where.setEnabled(can)
        self.take.setEnabled(can)
        self.forget.setEnabled(can and one.held.stated)

    def _show_choices(self) -> None:
        song = self.session.song
        if song is None or not self.isVisible():
            return
        found = self.rows = in_order(self.choosing.found)[:ROWS]
        self.said.setText(
            tr("Weighing…") if self.choosing.weighing and not found else
            tr("By the hand and by what the record says.") if song.heard.odds and not song.guitar.moved else
            tr("By the hand alone: the record was not heard.")
        )  # fmt: skip
        self.list.blockSignals(True)
        self.list.clear()
        shown = self.shown
        row = -1
        for i, choice in enumerate(found):
            first, second = choice_words(song, choice, found)
            item = QListWidgetItem(f"{first}\n{second}")
            item.setToolTip(f"{first}: {second}")
            self.list.addItem(item)
            if (choice.strings, choice.capo) == (shown.strings, shown.capo):
                row = i
        self.list.setCurrentRow(row)
        self.list.blockSignals(False)
        self.state.setEnabled(self.preview is not None)

    # ------------------------------------------------------------ doing

    def _follow_caret(self) -> None:
        """Show the shape of the chord at the caret."""
        song = self.session.song
        if song is None or not self.isVisible() or not self.shapes:
            return
        index = self.session.chord_index
        held = song.held[index] if self.preview is None else None
        if held is None:
            return
        name = song.shape_name_on(self.shown, index)
        at = next((i for i, u in enumerate(self.shapes) if u.name == name and u.held.shape == held.shape), -1)
        if at >= 0 and at != self.cards.current:
            self.cards.choose(at)

    def _chosen(self, index: int) -> None:
        self._show_ways()
        self._hear(self.shapes[index].held.shape)

    def _hear(self, shape: Shape) -> None:
        guitar = self.shown
        self.hear_wanted.emit(pitches(shape, guitar.strings, guitar.capo))

    def _hear_way(self, index: int) -> None:
        self._hear(self.ways.cards[index].shape)
        one, song = self.shapes[self.cards.current], self.session.song
        assert song is not None
        self.words.setText(handed_words(song, one, self.ways.cards[index].shape, self.shown))

    def _take_way(self) -> None:
        if self.preview is not None or not 0 <= self.ways.current < len(self.ways.cards):
            return
        one = self.shapes[self.cards.current]
        self.shape_wanted.emit(self._place_of(one), self.ways.cards[self.ways.current].shape, self.where.currentData())

    def _place_of(self, one: Used) -> int:
        """The chord that is meant: at the caret where that has this shape, else where it comes first."""
        song = self.session.song
        assert song is not None
        index = self.session.chord_index
        held = song.held[index]
        mine = held is not None and held.shape == one.held.shape and song.shape_name(index) == one.name
        return index if mine else one.first

    def _preview_row(self, row: int) -> None:
        song = self.session.song
        if song is None or not 0 <= row < len(self.rows):
            return
        choice = self.rows[row]
        setup = replace(song.guitar, strings=choice.strings, capo=choice.capo)
        self.preview = None if setup.same_strings(song.guitar) else setup
        self.refresh()

    def _take_setup(self) -> None:
        song = self.session.song
        if song is None or self.preview is None:
            return
        setup, self.preview = self.preview, None
        show = song.guitar.show
        if show == "sounding" and not setup.plain:
            show = "both"
        self.setup_wanted.emit(replace(setup, show=show))
