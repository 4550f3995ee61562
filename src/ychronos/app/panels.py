"""The parts around the sheet: head with the facts, progress strip, notices, side panel."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from ..analysis.explain.inside import difference, look_at, reasons
from ..chart.facts import facts, tuning_text
from ..chart.rows import section_title, shown_names
from ..song.model import Song
from .document import Document
from .theme import Theme


def label(text: str = "", quiet: bool = False) -> QLabel:
    out = QLabel(text)
    out.setProperty("quiet", quiet)
    out.setTextFormat(Qt.TextFormat.PlainText)
    return out


def beside(view: QWidget, left: QLayout, heading: QLabel, count: QLabel, entries: QListWidget) -> None:
    """Lay a view out: its main part, and at the right a panel with a heading, a count and a list."""
    lists(entries)
    top = QHBoxLayout()
    top.addWidget(heading)
    top.addStretch(1)
    top.addWidget(count)
    column = QVBoxLayout()
    column.setContentsMargins(16, 14, 16, 12)
    column.addLayout(top)
    column.addWidget(entries, 1)
    column.addStretch(0)
    side = QFrame()
    side.setObjectName("side")
    side.setLayout(column)
    side.setFixedWidth(268)
    layout = QHBoxLayout(view)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(0)
    layout.addLayout(left, 1)
    layout.addWidget(side)


class Fact(QWidget):
    """A small name over a value."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._text = ""
        self.name, self.value = label(name, quiet=True), label("")
        self.value.setAccessibleName(name)
        self.value.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        layout.addWidget(self.name)
        layout.addWidget(self.value)

    def set(self, text: str) -> None:
        self._text = text
        self.value.setToolTip(text)
        self.value.setAccessibleDescription(text)
        self._fit()

    def _fit(self) -> None:
        """As much of the text as there is room for; the whole is in the tooltip."""
        room = max(40, self.value.width())
        self.value.setText(self.value.fontMetrics().elidedText(self._text, Qt.TextElideMode.ElideRight, room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()


class Head(QFrame):
    """Title, performers, and the facts of the record."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setObjectName("head")
        self.document = document
        self.title, self.artist = label(), label(quiet=True)
        self.title.setAccessibleName("Title")
        self.title.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.record, self.count, self.home, self.checked = (Fact(n) for n in ("record", "count", "home", "checked"))
        self.guitar = Fact("guitar")
        names = QVBoxLayout()
        names.setSpacing(0)
        names.addWidget(self.title)
        names.addWidget(self.artist)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(22, 8, 22, 10)
        layout.setSpacing(26)
        layout.addLayout(names, 5)
        for fact, stretch in ((self.record, 3), (self.count, 4), (self.home, 3), (self.guitar, 3), (self.checked, 2)):
            layout.addWidget(fact, stretch)
        document.song_changed.connect(self.refresh)
        document.recording_changed.connect(self.refresh)
        self.set_theme(Theme())

    def set_theme(self, theme: Theme) -> None:
        self.title.setFont(theme.serif(18, bold=True))
        self.artist.setFont(theme.sans(9.5))
        for fact in (self.record, self.count, self.home, self.guitar, self.checked):
            fact.name.setFont(theme.sans(8.5))
            fact.value.setFont(theme.sans(11))

    def refresh(self) -> None:
        song = self.document.song
        self.setVisible(self.document.is_open)
        if song is None:
            self.guitar.hide()
            self.title.setText(self.document.title)
            self.artist.setText("")
            for fact in (self.record, self.count, self.home, self.checked):
                fact.set("–")
            return
        f = facts(song)
        self.title.setText(song.title)
        self.title.setToolTip(song.title)
        recording = self.document.recording
        self.artist.setText(song.artist or (recording.path.name if recording else ""))
        known = song.ground.confidence > 0
        record = tuning_text(song.ground.cents) + (", corrected" if song.ground.tape_cents else "")
        self.record.set(record if known else "–")
        self.guitar.set(song.guitar.brief())
        self.guitar.setVisible(not song.guitar.usual)
        self.count.set(f.count)
        self.home.set(f.home if song.keys[0].confidence > 0 else "–")
        self.checked.set(f.checked)


class Strip(QFrame):
    """What long work is at, how far it is, and a way to stop it."""

    cancelled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("strip")
        self.words = label("")
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("Progress")
        self.button = QPushButton("Stop")
        self.button.setToolTip("Stop the analysis; what is known so far stays (Esc)")
        self.button.clicked.connect(self.cancelled)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(22, 6, 22, 6)
        layout.setSpacing(16)
        self.words.setMinimumWidth(190)
        layout.addWidget(self.words)
        layout.addWidget(self.bar, 1)
        layout.addWidget(self.button)
        self.hide()

    def report(self, stage: str, share: float) -> None:
        self.words.setText(f"{stage} …")
        self.bar.setValue(int(1000 * share))
        self.bar.setAccessibleDescription(f"{stage}, {share:.0%}")


class Notice(QFrame):
    """One sentence over the sheet, with what can be done about it; never a dialog in the way."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self.words = label("")
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.buttons = QHBoxLayout()
        self.buttons.setSpacing(8)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(22, 8, 22, 8)
        layout.setSpacing(16)
        layout.addWidget(self.words, 1)
        layout.addLayout(self.buttons)
        self.choices: dict[str, QPushButton] = {}
        self.hide()

    def say(self, text: str, choices: Mapping[str, Callable[[], object]] | None = None, error: bool = True) -> None:
        """Show a sentence; each choice is a button that closes the notice and does something."""
        while self.buttons.count():
            item = self.buttons.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        self.choices = {}
        for name, run in {**(choices or {}), "Dismiss": lambda: None}.items():
            button = QPushButton(name)

            def clicked(_: bool = False, run: Callable[[], object] = run) -> None:
                self.hide()
                run()

            button.clicked.connect(clicked)
            self.buttons.addWidget(button)
            self.choices[name] = button
        self.setProperty("kind", "error" if error else "note")
        self.style().unpolish(self)
        self.style().polish(self)
        self.words.setText(text)
        self.words.setAccessibleName(text)
        self.show()


def lists(*entries: QListWidget) -> None:
    """Let lists whose items wrap lay them out again when they get wider or narrower."""
    for one in entries:
        one.setResizeMode(QListWidget.ResizeMode.Adjust)
        one.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)


class TwoLines(QStyledItemDelegate):
    """A list item of a strong text, on up to three lines, and a quiet line."""

    HEIGHT, LINES = 46, 3

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.theme = Theme()

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        view = self.parent()
        room = 200
        if isinstance(view, QListWidget):  # as if the scroll bar were there: it may come after this is asked
            bar = view.verticalScrollBar().sizeHint().width()
            room = view.width() - 2 * view.frameWidth() - bar - 15
        strong, _, _ = str(index.data()).partition("\n")
        metrics = QFontMetrics(self.theme.serif(12, bold=True))
        return QSize(60, self.HEIGHT + (self._lines(strong, metrics, room) - 1) * metrics.lineSpacing())

    def _lines(self, text: str, metrics: QFontMetrics, room: int) -> int:
        box = metrics.boundingRect(0, 0, max(40, room), 1000, Qt.TextFlag.TextWordWrap, text)
        return max(1, min(self.LINES, round(box.height() / metrics.lineSpacing())))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        strong, _, quiet = str(index.data()).partition("\n")
        area = option.rect  # type: ignore[attr-defined]
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:  # type: ignore[attr-defined]
            painter.fillRect(area, self.theme.colour("chosen"))
        inner = area.adjusted(9, 4, -6, -4)
        painter.setFont(self.theme.serif(12, bold=True))
        painter.setPen(self.theme.colour("ink"))
        metrics = painter.fontMetrics()
        lines = self._lines(strong, metrics, inner.width())
        if lines == 1:
            strong = metrics.elidedText(strong, Qt.TextElideMode.ElideRight, inner.width())
        top = QRect(inner.left(), inner.top(), inner.width(), lines * metrics.lineSpacing())
        painter.drawText(top, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, strong)
        painter.setFont(self.theme.sans(8.5))
        painter.setPen(self.theme.colour("faded"))
        fitting = painter.fontMetrics().elidedText(quiet, Qt.TextElideMode.ElideRight, inner.width())
        painter.drawText(inner, Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, fitting)
        painter.restore()


class Side(QFrame):
    """The chord at the caret with its rivals, and the queue of doubts."""

    rival_chosen = Signal(int)
    doubt_chosen = Signal(int)
    hear_pressed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setObjectName("side")
        self.document = document
        self.setFixedWidth(252)
        self.place, self.chord, self.state = label(quiet=True), label(), label(quiet=True)
        self.place.setWordWrap(True)
        self.state.setWordWrap(True)
        self.why = label(quiet=True)
        self.why.setWordWrap(True)
        self.why.setAccessibleName("Why it is read so")
        self.rivals = QListWidget()
        self.rivals.setItemDelegate(TwoLines(self.rivals))
        self.rivals.setAccessibleName("Other readings of this chord")
        self.rivals.setToolTip("Other readings; Enter, a double click or Alt with its number states one")
        self.hear = QPushButton("Hear them in turn")
        self.hear.setCheckable(True)
        self.hear.setToolTip("Each reading under the record in turn (Shift+H)")
        self.hear.clicked.connect(self.hear_pressed)
        self.rivals.itemActivated.connect(lambda item: self.rival_chosen.emit(self.rivals.row(item)))
        self.head, self.left = label("In doubt"), label(quiet=True)
        self.doubts = QListWidget()
        self.doubts.setAccessibleName("Chords in doubt, the most costly first")
        self.doubts.setItemDelegate(TwoLines(self.doubts))
        self.doubts.setToolTip("Chords worth a second listen, the most costly first; a click goes there")
        self.doubts.itemClicked.connect(self._doubt)
        self.doubts.itemActivated.connect(self._doubt)
        lists(self.rivals, self.doubts)
        heading = QHBoxLayout()
        heading.addWidget(self.head)
        heading.addStretch(1)
        heading.addWidget(self.left)
        self.else_ = label("could also be", quiet=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 14, 16, 12)
        layout.setSpacing(4)
        for part in (self.place, self.chord, self.state, self.why):
            layout.addWidget(part)
        layout.addSpacing(6)
        layout.addWidget(self.else_)
        layout.addWidget(self.rivals)
        layout.addWidget(self.hear)
        layout.addSpacing(12)
        layout.addLayout(heading)
        layout.addWidget(self.doubts, 1)
        layout.addStretch(0)
        self._indexes: list[int] = []
        document.song_changed.connect(self.refresh)
        document.selection_changed.connect(self._show_chord)
        self.set_theme(Theme())

    def set_theme(self, theme: Theme) -> None:
        self.chord.setFont(theme.serif(22, bold=True))
        self.head.setFont(theme.serif(13, bold=True))
        for small in (self.place, self.state, self.why, self.left, self.else_):
            small.setFont(theme.sans(9))
        for entries in (self.rivals, self.doubts):
            delegate = entries.itemDelegate()
            if isinstance(delegate, TwoLines):
                delegate.theme = theme
            entries.doItemsLayout()

    def refresh(self) -> None:
        self.setEnabled(self.document.song is not None)
        self._show_chord()
        self._show_doubts()

    def _show_chord(self) -> None:
        song = self.document.song
        self.rivals.clear()
        if song is None:
            for part in (self.place, self.chord, self.state):
                part.setText("")
            self._show_rivals(False)
            self.why.hide()
            return
        index = self.document.chord_index
        span = song.chords[index]
        name, which = section_title(song, song.section_index(span.start))
        where = song.grid.beat_name(span.start)
        self.place.setText(f"{name}{f', {which}' if which else ''}, {where}")
        self.chord.setText(shown_names(song, index)[0])
        if span.stated:
            words = "you stated it"
        elif span.chord.is_none:
            words = f"nobody plays a chord, {span.confidence:.0%} sure"
        else:
            words = f"{span.confidence:.0%} sure"
        if span.follows:
            words += " · follows what you stated in another pass"
        if span.unsure:
            words += " · marked unsure" + (f": {span.comment}" if span.comment else "")
        if not song.guitar.plain and not span.chord.is_none:
            sounds = song.guitar.show == "shapes"
            name = song.sounding_name(index) if sounds else song.shape_name(index)
            words += f" · {'sounds as' if sounds else 'shape'} {name}"
        self.state.setText(words)
        if span.articulation != "strummed":
            self.state.setText(f"{self.state.text()} · {span.articulation}")
        evidence = self.document.evidence
        seen = None
        if evidence is not None and not span.chord.is_none:
            seen = look_at(song, evidence, *song.chord_range(index), span.chord)
        self.why.setText("; ".join(reasons(song, evidence, index, seen)[:3]))
        self.why.setVisible(bool(self.why.text()))
        at = span.start
        for number, (chord, chance) in enumerate(span.rivals, 1):
            words = "nobody plays" if chord.is_none else ""
            share = f"{chance:.0%}" if chance >= 0.005 else "under 1%"
            if seen is not None and not chord.is_none:
                words = difference(seen, chord, lambda note: song.shown_note(at, note))
            self.rivals.addItem(QListWidgetItem(f"{number}   {song.name_of(chord, span.start)}   {share}\n{words}"))
        some = self.rivals.count() > 0
        self.rivals.setFixedHeight(max(1, self.rivals.count()) * TwoLines.HEIGHT + 6)
        self._show_rivals(some)

    def _show_rivals(self, some: bool) -> None:
        self.rivals.setVisible(some)
        self.else_.setVisible(some)
        self.hear.setVisible(some)

    def _show_doubts(self) -> None:
        song = self.document.song
        self.doubts.clear()
        self._indexes = song.doubts() if song else []
        for index in self._indexes:
            assert song is not None
            self.doubts.addItem(QListWidgetItem("\n".join(doubt_text(song, index))))
        count = len(self._indexes)
        self.left.setText(f"{count} left" if count else "none left")
        self.doubts.setVisible(count > 0)
        self.head.setVisible(song is not None)
        self.left.setVisible(song is not None)
        # as high as its entries, the rest of the panel stays empty
        self.doubts.setMaximumHeight(max(1, count) * self.doubts.sizeHintForRow(0) + 8 if count else 0)

    def _doubt(self, item: QListWidgetItem) -> None:
        row = self.doubts.row(item)
        if 0 <= row < len(self._indexes):
            self.doubt_chosen.emit(self._indexes[row])


def doubt_text(song: Song, index: int) -> tuple[str, str]:
    """Two lines of the queue: the chord with its strongest rival, and where it is."""
    span = song.chords[index]
    text = song.chord_name(index)
    if span.unsure:
        text += "  marked"
    elif span.rivals:
        text += f" or {song.name_of(span.rivals[0][0], span.start)}"
    section = song.sections[song.section_index(span.start)].name
    return text, f"{section}, {song.grid.beat_name(span.start)}"
