"""A window with a text to paste at the left, and at the right what is made of it: a list, words about it, buttons."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from ...paths import shown
from ...tongue import tr
from ..labels import label

LARGEST = 4 << 20  # bytes of a text file


class TwoSides(QDialog):
    """See the module. ``text`` and ``entries`` are its two sides, ``said`` the words between."""

    def __init__(self, title: str, hint: str, text_name: str, entries_name: str, parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.text = QPlainTextEdit()
        self.text.setPlaceholderText(hint)
        self.text.setAccessibleName(text_name)
        self.entries = QListWidget()
        self.entries.setAccessibleName(entries_name)
        self.said = label()
        self.said.setWordWrap(True)

    def lay_out(self, below_text: Sequence[QWidget], below_list: Sequence[QWidget], words_first: bool) -> None:
        """Put the parts into their places; of what stands below, the first is at the left, the others at the right."""
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(self.text, 1)
        left.addLayout(_row(below_text))
        for part in (self.said, self.entries) if words_first else (self.entries, self.said):
            right.addWidget(part, 1 if part is self.entries else 0)
        right.addLayout(_row(below_list))
        across = QHBoxLayout(self)
        across.setSpacing(16)
        across.addLayout(left, 1)
        across.addLayout(right, 1)

    def button(self, words: str, tip: str, run: object) -> QPushButton:
        """A button that never is the one that Enter means."""
        button = QPushButton(words)
        button.setToolTip(tip)
        button.setAutoDefault(False)
        button.clicked.connect(run)
        return button

    def ask_file(self, title: str, filters: str) -> Path | None:
        name, _ = QFileDialog.getOpenFileName(self, title, "", tr("{filters};;All files (*)", filters=filters))
        return Path(name) if name else None

    def text_of(self, path: Path) -> str:
        """The text of a file; "" where it cannot be read, which is said."""
        try:
            data = path.read_bytes() if path.stat().st_size <= LARGEST else b""
        except OSError as error:
            self.said.setText(
                tr("“{shown}” cannot be read: {strerror}.", shown=shown(path), strerror=error.strerror or error)
            )
            return ""
        if not data.strip():
            self.said.setText(tr("“{shown}” holds no words, or is larger than any such text.", shown=shown(path)))
            return ""
        return data.decode("utf-8-sig", "replace")


def _row(parts: Sequence[QWidget]) -> QHBoxLayout:
    row = QHBoxLayout()
    for n, part in enumerate(parts):
        row.addWidget(part)
        if n == 0:
            row.addStretch(1)
    return row
