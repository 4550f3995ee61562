"""What long work is at, and sentences over the sheet."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QProgressBar,
    QPushButton,
)

from ..tongue import tr
from .labels import label


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
        self.bar.setAccessibleName(tr("Progress"))
        self.button = QPushButton(tr("Stop"))
        self.button.setToolTip(tr("Stop the analysis; what is known so far stays (Esc)"))
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
        text = text.encode("utf-8", "replace").decode()  # names of files may hold what is no text
        while self.buttons.count():
            item = self.buttons.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        self.choices = {}
        for name, run in {**(choices or {}), tr("Dismiss"): lambda: None}.items():
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
