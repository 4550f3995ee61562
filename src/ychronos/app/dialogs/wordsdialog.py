"""The words of the song: paste them, then drop one line after the other on the beat while it plays.

The dialog stays open beside the window. Lines that have a place show it; the chosen one is the next to be dropped. Timed words (LRC)
can be opened, they bring their places along.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QListWidgetItem, QWidget

from ...formats import lrc
from ...session.session import Session
from ...song import edits
from ...song.edits import nearest_beat
from ...song.grid import Position
from ...tongue import tr
from ..shell import Shell
from .twosides import TwoSides


class WordsDialog(TwoSides):
    """See the module."""

    place_wanted = Signal(float)

    def __init__(self, shell: Shell, session: Session, parent: QWidget | None = None) -> None:
        hint = tr("Paste the words here, a line for each that is dropped by itself.")
        super().__init__(
            tr("Words of the song"), hint, tr("Words to paste"), tr("Lines of words with their places"), parent
        )
        self.shell, self.session = shell, session
        self.places: list[Position | None] = []
        self.lines = self.entries
        self.lines.itemDoubleClicked.connect(lambda _: self._hear())
        self.lines.installEventFilter(self)
        self.said.setProperty("quiet", True)
        self.open_button = self.button(tr("Open…"), tr("Open a text, or timed words (LRC)"), self._open)
        self.use = self.button(tr("Use these lines"), tr("Make lines to drop from the text"), self._use)
        self.drop = self.button(
            tr("Here (D)"),
            tr("The chosen line begins at the beat that is heard now; the next one is chosen"),
            self.drop_line,
        )
        self.take = self.button(tr("Not here"), tr("The chosen line has no place any more (Delete)"), self._take_away)
        self.lay_out((self.open_button, self.use), (self.drop, self.take), words_first=False)
        self.resize(820, 480)
        self._of: tuple[str, str] | None = None
        session.watch(self._follow, "statements", "grid", "song")
        self.begin()

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if watched is self.lines and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_D:
                self.drop_line()
                return True
            if event.key() == Qt.Key.Key_Space:
                self.shell.actions_.actions["play"].trigger()
                return True
            if event.key() == Qt.Key.Key_Delete:
                self._take_away()
                return True
        return False

    # ------------------------------------------------------------ lines and their places

    def begin(self) -> None:
        """Show the words of the song that is open now."""
        song = self.session.song
        key = (song.title, song.recording.sha256) if song is not None else None
        if key != self._of:
            self._of = key
            self.text.clear()
        self._from_song()

    def _from_song(self) -> None:
        """The lines that have places already."""
        song = self.session.song
        self.lines.clear()
        self.places = []
        for m in song.lyrics if song is not None else ():
            self._add(m.text, m.at)
        if not self.text.toPlainText():
            self.text.setPlainText("\n".join(self._words(i) for i in range(self.lines.count())))
        self._tell()

    def _add(self, text: str, at: Position | None) -> None:
        item = QListWidgetItem()
        item.setData(Qt.ItemDataRole.UserRole, text)
        self.lines.addItem(item)
        self.places.append(at)
        self._show(self.lines.count() - 1)

    def _words(self, row: int) -> str:
        return str(self.lines.item(row).data(Qt.ItemDataRole.UserRole))

    def _show(self, row: int) -> None:
        song, at = self.session.song, self.places[row]
        where = song.grid.beat_name(at) if song is not None and at is not None else "–"
        self.lines.item(row).setText(f"{where}   {self._words(row)}")

    def _use(self) -> None:
        """Lines from the text; those that were there keep their places, in order."""
        old = [(self._words(i), self.places[i]) for i in range(self.lines.count())]
        self.lines.clear()
        self.places = []
        for line in self.text.toPlainText().splitlines():
            words = " ".join(line.split())
            if words:
                known = next((n for n, (text, _) in enumerate(old) if text == words), None)
                self._add(words, old.pop(known)[1] if known is not None else None)
        first = next((i for i, at in enumerate(self.places) if at is None), 0)
        self.lines.setCurrentRow(first)
        self.lines.setFocus()
        self._tell()

    def _tell(self) -> None:
        left = sum(at is None for at in self.places)
        if not self.places:
            self.said.setText(tr("Paste words at the left, then drop them line by line."))
        elif left:
            self.said.setText(
                tr(
                    "{left} of {count} lines have no place. Let it play (Space) and press D where a line begins.",
                    left=left,
                    count=len(self.places),
                )
            )
        else:
            self.said.setText(tr("All {count} lines have their place.", count=len(self.places)))

    def drop_line(self) -> None:
        """The chosen line begins now."""
        song, row = self.session.song, self.lines.currentRow()
        if song is None or not 0 <= row < len(self.places):
            return
        at = (
            nearest_beat(song, self.shell.heard())
            if self.shell.playing
            else song.grid.bar_range(0)[0] + self.session.selection.caret
        )
        while any(p == at for i, p in enumerate(self.places) if i != row):
            at += Fraction(1, 2)  # two lines at one place would be one
        old, words = self.places[row], self._words(row)
        self.places[row] = at
        if old is not None:
            self.session.edit(lambda s: edits.move_lyric(s, old, at))
        else:
            self.session.edit(lambda s: edits.set_lyric(s, at, words))
        self._show(row)
        if row + 1 < self.lines.count():
            self.lines.setCurrentRow(row + 1)
        self._tell()

    def _take_away(self) -> None:
        row = self.lines.currentRow()
        at = self.places[row] if 0 <= row < len(self.places) else None
        if at is not None:
            self.places[row] = None
            self.session.edit(lambda s: edits.remove_lyric(s, at))
            self._show(row)
            self._tell()

    def _follow(self) -> None:
        """Places as they are after an undo, or on another count: by the words, in order."""
        song = self.session.song
        if song is None:
            return
        placed = [(m.text, m.at) for m in song.lyrics]
        for row in range(len(self.places)):
            known = next((n for n, (text, _) in enumerate(placed) if text == self._words(row)), None)
            self.places[row] = placed.pop(known)[1] if known is not None else None
            self._show(row)
        self._tell()

    def _hear(self) -> None:
        song, row = self.session.song, self.lines.currentRow()
        at = self.places[row] if 0 <= row < len(self.places) else None
        if song is not None and at is not None:
            self.place_wanted.emit(song.grid.clock(at))

    # ------------------------------------------------------------ files

    def _open(self) -> None:
        path = self.ask_file(tr("Open words"), tr("Words (*.txt *.lrc)"))
        if path is not None:
            self.open_path(path)

    def open_path(self, path: Path) -> None:
        """Take words from a file; timed ones bring their places."""
        song = self.session.song
        timed, plain = lrc.read(self.text_of(path))
        if timed and song is not None:
            places: dict[Position, str] = {}
            for seconds, words in timed:
                at = nearest_beat(song, seconds)
                while at in places:
                    at += Fraction(1, 2)
                places[at] = words
            self.session.edit(lambda s: edits.set_lyrics(s, places.items()))
            self.text.setPlainText("\n".join(words for _, words in timed))
            self._from_song()
        elif plain:
            self.text.setPlainText("\n".join(plain))
            self._use()
