"""Actions: what a window can do, with words, keys and tips, and everything that is made from the table of them.

Menus, the context menu, the shortcut page, tooltips and the find-an-action box come from here; nothing is wired
anywhere else. The table itself is :mod:`table`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

from ..tongue import tr
from .shell import Shell

FILE, EDIT, CHORD, COUNT, SECTIONS, HAND, LISTEN, VIEW, HELP = MENUS = (
    tr("&File"),
    tr("&Edit"),
    tr("Ch&ord"),
    tr("&Count"),
    tr("&Sections"),
    tr("H&and"),
    tr("&Listen"),
    tr("&View"),
    tr("&Help"),
)


# Menus within menus, by the names of their actions, or by what they begin with up to a “_”: one menu covers no more than a low screen.
SUBMENUS: dict[str, tuple[str, ...]] = {
    tr("Write out"): ("export_", "fold_charts", "print_shapes"),
    tr("Speed and pitch"): ("slower", "faster", "own_speed", "half_speed", "up", "down", "in_tune"),
    tr("Move the loop"): ("loop_",),
    tr("What is heard"): (
        "ear",
        "whole",
        "ab",
        "chart_sound",
        "bass_sound",
        "line_sound",
        "hear_readings",
        "find_device",
    ),
    tr("Lines"): ("line", "line_second", "line_near", "line_clear", "tabs", "tab_here", "degrees", "scales"),
    tr("Level"): ("louder", "softer", "lift_cap"),
    tr("Other readings"): ("rival1", "rival2", "rival3", "rival4"),
}


def submenu(name: str) -> str:
    """The menu within a menu that an action stands in, "" for none."""
    for words, beginnings in SUBMENUS.items():
        if any(name.startswith(b) if b.endswith("_") else name == b for b in beginnings):
            return words
    return ""


@dataclass(frozen=True)
class Entry:
    """``context`` puts it into the sheet's context menu; ``line`` draws a separator before it."""

    id: str
    menu: str
    words: str
    keys: tuple[str, ...]
    tip: str
    run: Callable[[Shell], object]
    enabled: Callable[[Shell], bool]
    context: bool = False
    line: bool = False
    checked: Callable[[Shell], bool] | None = None
    sheet_only: bool = False  # its keys work only while the sheet has the focus


class Actions:
    """The table as QActions of one window."""

    def __init__(self, window: Shell, table: Sequence[Entry]) -> None:
        self.window = window
        self.entries = {entry.id: entry for entry in table}
        self.actions: dict[str, QAction] = {}
        self._tips: dict[QWidget, tuple[str, str]] = {}
        for entry in self.entries.values():
            action = QAction(entry.words, window)
            action.setStatusTip(entry.tip)
            action.setCheckable(entry.checked is not None)
            action.triggered.connect(lambda _=False, entry=entry: self._run(entry))
            if entry.sheet_only:
                action.setShortcutContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
                window.sheet.addAction(action)
            else:
                window.addAction(action)
            self.actions[entry.id] = action
            self._give_keys(entry)

    def keys(self, entry: Entry) -> tuple[str, ...]:
        """The keys of an action: the user's own, or those of the table."""
        own = self.window.settings.text(f"keys/{entry.id}", "usual")
        return entry.keys if own == "usual" else tuple(k for k in own.split(" ") if k)

    def _give_keys(self, entry: Entry) -> None:
        action, keys = self.actions[entry.id], self.keys_text(entry)
        action.setShortcuts([QKeySequence(k) for k in self.keys(entry)])
        action.setToolTip(f"{entry.tip} ({keys})" if keys else entry.tip)

    def tip(self, widget: QWidget, name: str, words: str = "") -> None:
        """Give a widget the tooltip of an action, or ``words`` of its own, with the keys that the action has now and
        whenever they change."""
        self._tips[widget] = (name, words)
        self._show_tip(widget)

    def _show_tip(self, widget: QWidget) -> None:
        name, words = self._tips[widget]
        entry = self.entries[name]
        keys = self.keys_text(entry)
        widget.setToolTip((words or entry.tip) + (f" ({keys})" if keys else ""))

    def keys_of(self, name: str) -> str:
        """The keys of an action as they are shown, "" for none."""
        return self.keys_text(self.entries[name])

    def owner(self, keys: str, but: str = "") -> Entry | None:
        """The action that has a key already."""
        wanted = QKeySequence(keys)
        return next(
            (e for e in self.entries.values() if e.id != but and any(QKeySequence(k) == wanted for k in self.keys(e))),
            None,
        )

    def change_keys(self, entry: Entry, keys: tuple[str, ...] | None) -> None:
        """Give an action other keys, taken from whichever had them; None gives those of the table back."""
        for key in keys or ():
            other = self.owner(key, entry.id)
            if other is not None:
                left = tuple(k for k in self.keys(other) if QKeySequence(k) != QKeySequence(key))
                self.window.settings.set(f"keys/{other.id}", " ".join(left))
                self._give_keys(other)
        self.window.settings.set(f"keys/{entry.id}", "usual" if keys is None else " ".join(keys))
        self._give_keys(entry)
        for widget in self._tips:
            self._show_tip(widget)

    def _run(self, entry: Entry) -> None:
        if entry.enabled(self.window):
            entry.run(self.window)
        self.refresh()

    def keys_text(self, entry: Entry) -> str:
        return ", ".join(QKeySequence(k).toString(QKeySequence.SequenceFormat.NativeText) for k in self.keys(entry))

    def refresh(self) -> None:
        """Enable, tick and name what depends on the state of the window."""
        for entry in self.entries.values():
            action = self.actions[entry.id]
            action.setEnabled(entry.enabled(self.window))
            if entry.checked is not None:
                action.setChecked(entry.checked(self.window))
        history = self.window.session.history
        self.actions["undo"].setText(
            tr("Undo: {undo_text}", undo_text=history.undo_text) if history.undo_text else tr("Undo")
        )
        self.actions["redo"].setText(
            tr("Redo: {redo_text}", redo_text=history.redo_text) if history.redo_text else tr("Redo")
        )

    def fill_menu_bar(self, bar: QMenuBar) -> dict[str, QMenu]:
        menus: dict[str, QMenu] = {}
        for name in MENUS:
            menu = bar.addMenu(name)
            menu.setToolTipsVisible(True)
            menus[name] = menu
            inner: dict[str, QMenu] = {}
            for entry in self.entries.values():
                if entry.menu != name:
                    continue
                group = submenu(entry.id)
                if group and group not in inner:
                    if entry.line:
                        menu.addSeparator()
                    inner[group] = menu.addMenu(group)
                    inner[group].setToolTipsVisible(True)
                elif entry.line:
                    (inner[group] if group else menu).addSeparator()
                (inner[group] if group else menu).addAction(self.actions[entry.id])
        return menus

    def fill_context_menu(self, menu: QMenu) -> None:
        last = ""
        for entry in self.entries.values():
            if entry.context:
                if last and entry.menu != last:
                    menu.addSeparator()
                menu.addAction(self.actions[entry.id])
                last = entry.menu
