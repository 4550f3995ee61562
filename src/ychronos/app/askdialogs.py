"""Small questions with a choice of how far the answer reaches: a section's name, a meter."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QRadioButton, QVBoxLayout, QWidget

from .panels import label


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
