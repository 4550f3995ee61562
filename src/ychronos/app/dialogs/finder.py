"""Pages made from the action table: all keys, and finding an action by typing."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QSignalBlocker, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QKeySequenceEdit,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from ...tongue import tr
from ..actions import MENUS, Entry
from ..alsocalled import ALSO
from ..sheet.chordentry import TypingField
from ..shell import Shell

# Keys that move, which are no actions and so not in the table.
MOVING = (
    (tr("Left, Right"), tr("one beat back or on")),
    (tr("Alt+Left, Alt+Right"), tr("half a beat back or on")),
    (tr("Ctrl+Left, Ctrl+Right"), tr("the chord before or after")),
    (tr("Up, Down"), tr("the row above or below")),
    (tr("Shift+arrows"), tr("select more or fewer bars")),
    (tr("Home, End"), tr("first or last bar of the row; with Ctrl of the song")),
    (tr("A … G, N"), tr("begin to type a chord")),
    (tr("Alt+drag"), tr("loop a stretch of sound that need not begin or end on a beat")),
    (tr("Ctrl+wheel"), tr("larger or smaller")),
)


class KeysPage(QDialog):
    """All keys on one page; each can be changed, so that a foot pedal's key does what its player wants."""

    def __init__(self, window: Shell) -> None:
        super().__init__(window)
        self.actions_ = window.actions_
        self.setWindowTitle(tr("Keys"))
        self.resize(680, 640)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName(tr("Keys and what they do"))
        self.table.setHorizontalHeaderLabels([tr("Keys"), tr("Action"), tr("What it does")])
        self.table.verticalHeader().hide()
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.setWordWrap(True)
        header = self.table.horizontalHeader()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.field = QKeySequenceEdit()
        self.field.setMaximumSequenceLength(1)
        self.field.setAccessibleName(tr("New key"))
        self.set_, self.usual = QPushButton(tr("Set this key")), QPushButton(tr("The usual keys"))
        self.set_.setAutoDefault(False)
        self.usual.setAutoDefault(False)
        self.words = QLabel(tr("Choose an action, press the key it should have, then set it."))
        self.words.setWordWrap(True)
        row = QHBoxLayout()
        row.addWidget(self.field, 1)
        row.addWidget(self.set_)
        row.addWidget(self.usual)
        layout = QVBoxLayout(self)
        layout.addWidget(self.table)
        layout.addWidget(self.words)
        layout.addLayout(row)
        self.field.keySequenceChanged.connect(lambda _: self._say())
        self.table.currentCellChanged.connect(lambda *_: self._say())
        self.set_.clicked.connect(self._set)
        self.usual.clicked.connect(lambda: self._change(None))
        self._rows: list[tuple[str, str, str]] = []
        self._entries = [e for m in MENUS for e in self.actions_.entries.values() if e.menu == m]
        self._fill()

    def _fill(self) -> None:
        rows = [(self.actions_.keys_text(e), e.words.rstrip("…"), e.tip) for e in self._entries]
        rows += [(keys, tr("Move"), tip) for keys, tip in MOVING]
        if rows == self._rows:
            return
        self._rows = rows
        self.table.setRowCount(len(rows))
        for i, row in enumerate(rows):
            for k, text in enumerate(row):
                self.table.setItem(i, k, QTableWidgetItem(text))
        self.table.resizeRowsToContents()

    def chosen(self) -> Entry | None:
        row = self.table.currentRow()
        return self._entries[row] if 0 <= row < len(self._entries) else None

    def _say(self) -> None:
        entry, keys = self.chosen(), self.field.keySequence().toString()
        other = self.actions_.owner(keys, entry.id) if entry is not None and keys else None
        self.set_.setEnabled(entry is not None and bool(keys))
        self.usual.setEnabled(entry is not None)
        if entry is None:
            self.words.setText(tr("Choose an action, press the key it should have, then set it."))
        elif other is not None:
            self.words.setText(
                tr("{keys} is the key of “{action}”, which would lose it.", keys=keys, action=other.words.rstrip("…"))
            )
        else:
            self.words.setText(
                tr("“{action}”: press the key it should have, then set it.", action=entry.words.rstrip("…"))
            )

    def _set(self) -> None:
        keys = self.field.keySequence().toString()
        if keys:
            self._change((keys,))

    def _change(self, keys: tuple[str, ...] | None) -> None:
        entry = self.chosen()
        if entry is not None:
            self.actions_.change_keys(entry, keys)
            self.field.clear()
            self._fill()

    def open_now(self) -> None:
        self._fill()
        self.show()


class Finder(QDialog):
    """Type a few letters of what you want to do; Enter does it."""

    def __init__(self, window: Shell) -> None:
        super().__init__(window)
        self.actions_ = window.actions_
        self.setWindowTitle(tr("Find an action"))
        self.resize(460, 380)
        self.field = TypingField()
        self.field.setPlaceholderText(tr("What do you want to do?"))
        self.field.setAccessibleName(tr("What do you want to do?"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Actions found"))
        self.list.setUniformItemSizes(True)  # else all are measured with every letter
        layout = QVBoxLayout(self)
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        self.field.textChanged.connect(self._fill)
        self.field.returnPressed.connect(self._run)
        self.field.escaped.connect(self.hide)
        self.list.itemActivated.connect(self._run)
        self.field.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
            if step:
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
        return super().eventFilter(watched, event)

    def open_now(self) -> None:
        self.actions_.refresh()
        with QSignalBlocker(self.field):
            self.field.clear()
        self._fill("")
        self.show()
        self.field.setFocus()

    def _fill(self, text: str) -> None:
        words = text.lower().split()
        self.list.clear()
        for entry in self.actions_.entries.values():
            also = ALSO.get(entry.id, "")
            about = f"{entry.words} {entry.tip} {entry.menu.replace('&', '')} {also}".lower()
            if entry.id == "find_action" or not all(w in about for w in words):
                continue
            action = self.actions_.actions[entry.id]
            keys = self.actions_.keys_text(entry)
            item = QListWidgetItem(entry.words.rstrip("…") + (f"    {keys}" if keys else ""))
            item.setToolTip(entry.tip)
            item.setData(Qt.ItemDataRole.UserRole, entry.id)
            if not action.isEnabled():
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        if not self.list.count():
            nothing = QListWidgetItem(tr("Nothing is called “{text}”. Try another word for it.", text=text.strip()))
            nothing.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(nothing)
        for row in range(self.list.count()):
            if self.list.item(row).flags() & Qt.ItemFlag.ItemIsEnabled:
                self.list.setCurrentRow(row)
                break

    def _run(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.hide()
            self.actions_.actions[item.data(Qt.ItemDataRole.UserRole)].trigger()
