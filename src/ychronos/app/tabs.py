"""The row of words that chooses a view."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QPushButton

from .theme import Theme
from .views import View


class Tabs(QFrame):
    """One word for each view; the present one is underlined."""

    chosen = Signal(str)

    def __init__(self, theme: Theme, views: Sequence[View]) -> None:
        super().__init__()
        self.setObjectName("tabs")
        self.group = QButtonGroup(self)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 0, 22, 0)
        layout.setSpacing(6)
        self.buttons: list[QPushButton] = []
        self._ids = [view.id for view in views]
        for i, view in enumerate(views):
            button = QPushButton(view.words)
            button.setCheckable(True)
            button.setProperty("tab", True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            self.group.addButton(button, i)
            self.buttons.append(button)
            layout.addWidget(button)
        layout.addStretch(1)
        self.group.idClicked.connect(lambda i: self.chosen.emit(self._ids[i]))
        self.show_view(self._ids[0])
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        for button in self.buttons:
            button.setFont(theme.sans(10))

    def show_view(self, view: str) -> None:
        self.buttons[self._ids.index(view)].setChecked(True)
