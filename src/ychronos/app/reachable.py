"""What is painted, as parts that a screen reader can go through: bars with their chords, sections.

A view that paints says what it shows by ``accessible_parts``; the program then hands them to the desktop as children of that
view, each with a name, a role, whether it is chosen, and where it is on the screen. Nothing is kept of a song: every question is
answered from what the view shows just then.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol, runtime_checkable

from PySide6.QtCore import QObject, QPoint, QRect, QRectF
from PySide6.QtGui import QAccessible, QAccessibleInterface, QColor, QWindow
from PySide6.QtWidgets import QAccessibleWidget, QWidget

Role = QAccessible.Role


@dataclass(frozen=True)
class Part:
    """Something painted: what it says, where it is in the view, whether it is chosen, and what it holds."""

    name: str
    rect: QRectF
    chosen: bool = False
    parts: tuple[Part, ...] = ()
    description: str = ""


@runtime_checkable
class Shows(Protocol):
    """A view that says what it paints."""

    def accessible_parts(self) -> Sequence[Part]: ...
    def painted_on(self) -> QWidget: ...


class _Holds:
    """What a view and its parts have in common: parts as children, made when they are asked for and then kept."""

    _children: list[_Child]

    def parts(self) -> Sequence[Part]:
        raise NotImplementedError

    def view(self) -> QWidget:
        raise NotImplementedError

    def childCount(self) -> int:
        return len(self.parts())

    def child(self, index: int) -> QAccessibleInterface:
        if not 0 <= index < self.childCount():
            return None  # type: ignore[return-value]
        while len(self._children) <= index:
            self._children.append(_Child(self, len(self._children)))
        return self._children[index]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return self._children.index(child) if child in self._children else -1  # type: ignore[arg-type]

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:
        at = self.view().mapFromGlobal(QPoint(x, y)).toPointF()
        found = next((i for i, p in enumerate(self.parts()) if p.rect.contains(at)), None)
        return self.child(found) if found is not None else None


class _Child(_Holds, QAccessibleInterface):  # type: ignore[misc]
    """A part by its place among those of its parent."""

    def __init__(self, parent: _Holds, at: int) -> None:
        QAccessibleInterface.__init__(self)
        self._parent, self._at = parent, at
        self._children = []

    @property
    def part(self) -> Part | None:
        parts = self._parent.parts()
        return parts[self._at] if self._at < len(parts) else None

    def parts(self) -> Sequence[Part]:
        part = self.part
        return part.parts if part is not None else ()

    def view(self) -> QWidget:
        return self._parent.view()

    def isValid(self) -> bool:
        return self.part is not None

    def object(self) -> QObject | None:  # type: ignore[override]
        return None

    def window(self) -> QWindow | None:  # type: ignore[override]
        return None

    def parent(self) -> QAccessibleInterface:
        return self._parent  # type: ignore[return-value]

    def text(self, kind: QAccessible.Text) -> str:
        part = self.part
        if part is None:
            return ""
        return {QAccessible.Text.Name: part.name, QAccessible.Text.Description: part.description}.get(kind, "")

    def setText(self, kind: QAccessible.Text, text: str) -> None:
        """Parts are said in the window."""

    def rect(self) -> QRect:
        part = self.part
        if part is None:
            return QRect()
        box = part.rect.toAlignedRect()
        return QRect(self.view().mapToGlobal(box.topLeft()), box.size())

    def role(self) -> QAccessible.Role:
        return Role.ListItem if self.parts() or isinstance(self._parent, _View) else Role.StaticText

    def state(self) -> QAccessible.State:
        state, part = QAccessible.State(), self.part
        state.selectable = True
        state.readOnly = True
        if part is not None:
            state.selected = part.chosen
            state.offscreen = not self.view().rect().intersects(part.rect.toAlignedRect())
        return state

    def foregroundColor(self) -> QColor:
        return QColor()

    def backgroundColor(self) -> QColor:
        return QColor()


class _View(_Holds, QAccessibleWidget):  # type: ignore[misc]
    """A view with its parts as children."""

    def __init__(self, shows: Shows, widget: QWidget) -> None:
        QAccessibleWidget.__init__(self, widget, Role.List, widget.accessibleName())
        self._shows = shows
        self._children = []

    def parts(self) -> Sequence[Part]:
        return self._shows.accessible_parts()

    def view(self) -> QWidget:
        return self._shows.painted_on()


def _made(_: str, thing: QObject) -> QAccessibleInterface | None:
    if not isinstance(thing, QWidget) or not isinstance(thing, Shows):
        return None
    kept = thing.property("reachable")
    if not isinstance(kept, _View):
        kept = _View(thing, thing)
        thing.setProperty("reachable", kept)  # it lives as long as the view
    return kept


def install() -> None:
    """From now on what is painted can be reached."""
    QAccessible.installFactory(_made)
