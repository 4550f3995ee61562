"""The session's questions as dialogs over the window."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QInputDialog, QRadioButton, QVBoxLayout, QWidget

from ..labels import label


class Ask(QDialog):
    """A line to choose from or type into, and what it is for; the first reach is chosen."""

    def __init__(
        self, title: str, question: str, choices: Sequence[str], reaches: Sequence[str], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.answer = QComboBox()
        self.answer.setEditable(True)
        self.answer.addItems(list(choices))
        self.answer.setAccessibleName(question)
        line = self.answer.lineEdit()
        if line is not None:
            line.selectAll()
        self.reaches = [QRadioButton(words) for words in reaches]
        if self.reaches:
            self.reaches[0].setChecked(True)
        buttons = QDialogButtonBox.StandardButton
        self.buttons = QDialogButtonBox(buttons.Ok | buttons.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setSpacing(8)
        layout.addWidget(label(question))
        layout.addWidget(self.answer)
        for reach in self.reaches:
            layout.addWidget(reach)
        layout.addWidget(self.buttons)
        self.setMinimumWidth(340)
        self.answer.setFocus()

    @property
    def text(self) -> str:
        return self.answer.currentText()

    @property
    def reach(self) -> int:
        """Which reach is chosen."""
        return next((i for i, r in enumerate(self.reaches) if r.isChecked()), 0)


def asked(dialog: QDialog) -> bool:
    """Show a dialog until it is answered, and let it go: a window keeps its dialogs otherwise. Whether it was accepted."""
    try:
        return bool(dialog.exec())
    finally:
        dialog.deleteLater()


class Dialogs:
    """Answers questions by asking the user."""

    def __init__(self, window: QWidget) -> None:
        self.window = window

    def text(self, title: str, question: str, text: str = "") -> str | None:
        answer, ok = QInputDialog.getText(self.window, title, question, text=text)
        return answer if ok else None

    def number(self, title: str, question: str, value: float, low: float, high: float, decimals: int = 0) -> float | None:  # fmt: skip
        if decimals:
            answer, ok = QInputDialog.getDouble(self.window, title, question, value, low, high, decimals)
        else:
            answer, ok = QInputDialog.getInt(self.window, title, question, int(value), int(low), int(high))
        return answer if ok else None

    def choice(self, title: str, question: str, options: Sequence[str]) -> str | None:
        answer, ok = QInputDialog.getItem(self.window, title, question, list(options), 0, False)
        return answer if ok else None

    def with_reach(
        self, title: str, question: str, choices: Sequence[str], reaches: Sequence[str]
    ) -> tuple[str, int] | None:
        dialog = Ask(title, question, choices, reaches, self.window)
        return (dialog.text, dialog.reach) if asked(dialog) else None
