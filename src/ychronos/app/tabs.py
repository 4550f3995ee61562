"""The row of words that chooses a view."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QPushButton

from .theme import Theme

VIEWS = ("Sheet", "Ground", "Key", "Form")


class Tabs(QFrame):
    """One word for each view; the present one is underlined."""

    chosen = Signal(int)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("tabs")
        self.group = QButtonGroup(self)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 0, 22, 0)
        layout.setSpacing(6)
        self.buttons: list[QPushButton] = []
        for i, name in enumerate(VIEWS):
            button = QPushButton(name)
            button.setCheckable(True)
            button.setProperty("tab", True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setToolTip(f"{name} (Ctrl+{i + 1})")
            self.group.addButton(button, i)
            self.buttons.append(button)
            layout.addWidget(button)
        layout.addStretch(1)
        self.group.idClicked.connect(self.chosen)
        self.show_view(0)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        for button in self.buttons:
            button.setFont(theme.sans(10))

    def show_view(self, index: int) -> None:
        self.buttons[index].setChecked(True)
