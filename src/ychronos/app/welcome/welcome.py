"""The page before a song is open: where to begin."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from ...paths import demo_folder
from ...song.titles import title_of
from ...tongue import tr
from ..labels import label
from ..theme import Theme


def demo_songs() -> list[Path]:
    """The recordings that ship with the program, in order."""
    return sorted(demo_folder().glob("*.ogg"))


class Welcome(QWidget):
    """Open, drop, a recent song, or a demo song."""

    open_wanted = Signal()
    chosen = Signal(Path)
    go_on_wanted = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.title = QLabel(tr("From a recording to its chart"))
        self.words = label(
            tr(
                "Open a recording, or drop one here. Tempo, bars, key, chords and sections are worked out and laid under the sound itself; you listen, correct, and print."
            ),
            quiet=True,
        )
        self.words.setWordWrap(True)
        self.words.setMaximumWidth(620)
        self.open = QPushButton(tr("Open a recording or project…"))
        self.open.setProperty("main", True)
        self.open.clicked.connect(self.open_wanted)
        self.go_on = QPushButton()
        self.go_on.setToolTip(tr("The song that was open last, at the place and in the view where it was left"))
        self.go_on.clicked.connect(self.go_on_wanted)
        self.go_on.hide()
        self.recent_head, self.demo_head = QLabel(tr("Recent")), QLabel(tr("Demo tapes of Radio Kestrel Point"))
        self.recent, self.demo = QListWidget(), QListWidget()
        self.recent.setAccessibleName(tr("Recent"))
        self.demo.setAccessibleName(tr("Demo songs"))
        for path in demo_songs():
            item = QListWidgetItem(title_of(path))
            item.setData(Qt.ItemDataRole.UserRole, str(path))
            self.demo.addItem(item)
        for box in (self.recent, self.demo):
            box.setProperty("plain", True)
            box.itemActivated.connect(self._choose)
            box.itemClicked.connect(self._choose)
        columns = QHBoxLayout()
        columns.setSpacing(28)
        for head, box in ((self.demo_head, self.demo), (self.recent_head, self.recent)):
            column = QVBoxLayout()
            column.setSpacing(6)
            column.addWidget(head)
            column.addWidget(box)
            columns.addLayout(column)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(90, 60, 90, 40)
        layout.setSpacing(14)
        layout.addWidget(self.title)
        layout.addWidget(self.words)
        row = QHBoxLayout()
        row.addWidget(self.open)
        row.addWidget(self.go_on)
        row.addStretch(1)
        layout.addLayout(row)
        layout.addSpacing(24)
        layout.addLayout(columns, 1)
        self.drop = label(tr("… or drop a recording or a project anywhere in this window"), quiet=True)
        self.drop.setObjectName("drop")
        self.drop.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.drop.setMinimumHeight(110)
        layout.addWidget(self.drop)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self.title.setFont(theme.serif(26, bold=True))
        self.words.setFont(theme.sans(11))
        for head in (self.recent_head, self.demo_head):
            head.setFont(theme.serif(13, bold=True))

    def offer_to_go_on(self, words: str) -> None:
        """Offer to go on where one was; nothing for ""."""
        self.go_on.setText(words)
        self.go_on.setVisible(bool(words))

    def show_recent(self, paths: list[Path]) -> None:
        self.recent.clear()
        for path in paths:
            item = QListWidgetItem(title_of(path) + ("" if path.exists() else tr("  (gone)")))
            item.setToolTip(str(path))
            item.setData(Qt.ItemDataRole.UserRole, str(path))
            self.recent.addItem(item)
        self.recent.setVisible(bool(paths))
        self.recent_head.setVisible(bool(paths))

    def _choose(self, item: QListWidgetItem) -> None:
        self.chosen.emit(Path(item.data(Qt.ItemDataRole.UserRole)))
