"""All steps of the open song, to go back to any of them, or forward again."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from ...session.session import Session
from ...tongue import tr
from ..labels import label


class StepsDialog(QDialog):
    """Stays open beside the window and follows what is done; the newest step is at the bottom, what was taken back is grey."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle(tr("Steps"))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Steps"))
        self.list.itemActivated.connect(self._go)
        self.list.itemClicked.connect(self._go)
        layout = QVBoxLayout(self)
        layout.addWidget(
            label(
                tr(
                    "A click, or Return, goes to how the song was after a step. Nothing is lost until something else is done there."
                ),
                quiet=True,
            )
        )
        layout.addWidget(self.list, 1)
        self.resize(420, 460)
        session.watch(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """List the steps anew where there are others."""
        history = self.session.history
        words = [s.sentence for s in history.states]
        if words != [self.list.item(i).text() for i in range(self.list.count())]:
            self.list.clear()
            self.list.addItems(words)
        for i in range(self.list.count()):
            item = self.list.item(i)
            font = item.font()
            font.setBold(i == history.at)
            font.setItalic(i > history.at)
            item.setFont(font)
            item.setData(
                Qt.ItemDataRole.AccessibleDescriptionRole,
                tr("the song now") if i == history.at else tr("taken back") if i > history.at else "",
            )
        if 0 <= history.at < self.list.count():
            self.list.setCurrentRow(history.at)
            self.list.scrollToItem(self.list.item(history.at))

    def _go(self, item: QListWidgetItem) -> None:
        self.session.go_to_step(self.list.row(item))
