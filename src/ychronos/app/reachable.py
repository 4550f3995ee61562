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
Where = QRectF


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


class _Child(QAccessibleInterface):
    """A part by its place among those of its parent."""

    def __init__(self, parent: _Parent, at: int) -> None:
        super().__init__()
        self._parent, self._at = parent, at
        self._children: list[_Child] = []

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

    def childCount(self) -> int:
        return len(self.parts())

    def child(self, index: int) -> QAccessibleInterface:
        return _of(self, self._children, index)  # type: ignore[return-value]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return self._children.index(child) if child in self._children else -1  # type: ignore[arg-type]

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return _under(self, x, y)

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


class _View(QAccessibleWidget):
    """A view with its parts as children."""

    def __init__(self, shows: Shows, widget: QWidget) -> None:
        super().__init__(widget, Role.List, widget.accessibleName())
        self._shows = shows
        self._children: list[_Child] = []

    def parts(self) -> Sequence[Part]:
        return self._shows.accessible_parts()

    def view(self) -> QWidget:
        return self._shows.painted_on()

    def childCount(self) -> int:
        return len(self.parts())

    def child(self, index: int) -> QAccessibleInterface:
        return _of(self, self._children, index)  # type: ignore[return-value]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return self._children.index(child) if child in self._children else -1  # type: ignore[arg-type]

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return _under(self, x, y)


_Parent = _View | _Child


def _of(parent: _Parent, children: list[_Child], index: int) -> QAccessibleInterface | None:
    if not 0 <= index < len(parent.parts()):
        return None
    while len(children) <= index:
        children.append(_Child(parent, len(children)))
    return children[index]


def _under(parent: _Parent, x: int, y: int) -> QAccessibleInterface | None:
    at = parent.view().mapFromGlobal(QPoint(x, y)).toPointF()
    found = next((i for i, p in enumerate(parent.parts()) if p.rect.contains(at)), None)
    return parent.child(found) if found is not None else None


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
