"""A menu under the right button in every view: what is done there most."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QMenu, QWidget

from ..tongue import tr
from .shell import Shell

# By view; "" draws a line. The sheet has its own, from the table.
MENUS: dict[str, tuple[str, ...]] = {
    "ground": ("play", "loop", "", "one_here", "meter", "tempo", "otherwise", "half", "double", "", "true_pitch", "guitar", "clock"),
    "key": ("play", "hear", "", "state_key", "respell", "other_key", "", "state", "rival1", "inside"),
    "form": ("play", "loop", "passes", "", "rename", "begin_section", "same_section", "join_section", "copy_passes", "", "check", "note"),
    "hand": ("hear", "", "fretboard", "forget_shape", "level", "", "guitar", "second_guitar", "swap_guitars", "left_handed", "from_nut"),
    "page": ("print", "export_pdf", "export_text", "", "name_song", "fold_charts", "print_shapes", "notation"),
}  # fmt: skip


class ViewMenus(QObject):
    """Watches the views' pages for the right button and the menu key."""

    def __init__(self, shell: Shell, pages: dict[str, QWidget]) -> None:
        super().__init__(shell)
        self._shell = shell
        self._views = {page: view for view, page in pages.items() if view in MENUS}
        self.menu: QMenu | None = None
        for page in self._views:
            page.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        view = self._views.get(watched) if isinstance(watched, QWidget) else None
        if view is None or not isinstance(event, QContextMenuEvent):
            return super().eventFilter(watched, event)
        self.show_menu(view, event.globalPos())
        event.accept()
        return True

    def show_menu(self, view: str, at: QPoint) -> None:
        if self.menu is not None:
            self.menu.deleteLater()
        menu = self.menu = QMenu(self._shell)
        menu.setAccessibleName(tr("What is done in this view: {view}", view=view))
        self._shell.actions_.refresh()
        for name in MENUS[view]:
            if name:
                menu.addAction(self._shell.actions_.actions[name])
            else:
                menu.addSeparator()
        menu.popup(at)
