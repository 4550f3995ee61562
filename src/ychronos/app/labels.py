"""Small parts that every view is made of: labels, lists of two lines, a list beside a view."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QShowEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QListWidget,
    QScrollArea,
    QSizePolicy,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from .theme import Theme


class Words(QLabel):
    """A text that never makes the window larger: what does not fit is cut.

    The longest word of a text decides how narrow a label may get, and texts hold what files and users say.
    """

    WIDEST, HIGHEST = 240, 66

    def minimumSizeHint(self) -> QSize:
        return super().minimumSizeHint().boundedTo(QSize(self.WIDEST, self.HIGHEST))


class Elided(QLabel):
    """A text on one line that ends in … where there is no room for it; the whole is in its tooltip."""

    def __init__(self) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def setText(self, text: str) -> None:
        super().setText(text)
        self.setToolTip(text)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        shown = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)
        painter.end()


def label(text: str = "", quiet: bool = False) -> QLabel:
    out = Words(text)
    out.setProperty("quiet", quiet)
    out.setTextFormat(Qt.TextFormat.PlainText)
    return out


def beside(view: QWidget, left: QLayout, heading: QLabel, count: QLabel, entries: QListWidget) -> None:
    """Lay a view out: its main part, and at the right a panel with a heading, a count and a list."""
    lists(entries)
    top = QHBoxLayout()
    top.addWidget(heading)
    top.addStretch(1)
    top.addWidget(count)
    column = QVBoxLayout()
    column.setContentsMargins(16, 14, 16, 12)
    column.addLayout(top)
    column.addWidget(entries, 1)
    column.addStretch(0)
    with_side(view, left, column)


class Roomy(QScrollArea):
    """Holds a page that needs more room than a low screen has: it scrolls there instead of making the window larger."""

    def __init__(self, page: QWidget, upright_only: bool = False) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        if upright_only:
            self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setWidget(page)
        self.viewport().setAutoFillBackground(False)
        self._aside: tuple[QWidget, int, int] | None = None

    def set_aside(self) -> None:
        """Take the page, which is not shown, out until it is wanted, so that what is done to the whole window is not done to it as well."""
        if self._aside is None:
            across, down = self.horizontalScrollBar().value(), self.verticalScrollBar().value()
            self._aside = self.takeWidget(), across, down

    def put_back(self) -> None:
        """Take the page in again, as the window is now."""
        if self._aside is not None:
            page, across, down = self._aside
            self._aside = None
            self.setWidget(page)
            self.horizontalScrollBar().setValue(across)
            self.verticalScrollBar().setValue(down)

    def showEvent(self, event: QShowEvent) -> None:
        self.put_back()
        super().showEvent(event)

    def minimumSizeHint(self) -> QSize:
        return QSize(200, 120)


def with_side(view: QWidget, left: QLayout, column: QLayout) -> None:
    """Lay a view out: its main part, and a panel at the right."""
    side = QFrame()
    side.setObjectName("side")
    side.setLayout(column)
    side.setFixedWidth(268)
    layout = QHBoxLayout(view)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(0)
    layout.addLayout(left, 1)
    layout.addWidget(side)


def lists(*entries: QListWidget) -> None:
    """Let lists whose items wrap lay them out again when they get wider or narrower."""
    for one in entries:
        one.setResizeMode(QListWidget.ResizeMode.Adjust)
        one.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)


class TwoLines(QStyledItemDelegate):
    """A list item of a strong text, on up to three lines, and a quiet line."""

    HEIGHT, LINES = 46, 3

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.theme = Theme()

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        view = self.parent()
        room = 200
        if isinstance(view, QListWidget):  # as if the scroll bar were there: it may come after this is asked
            bar = view.verticalScrollBar().sizeHint().width()
            room = view.width() - 2 * view.frameWidth() - bar - 15
        strong, _, _ = str(index.data()).partition("\n")
        metrics = QFontMetrics(self.theme.serif(12, bold=True))
        return QSize(60, self.HEIGHT + (self._lines(strong, metrics, room) - 1) * metrics.lineSpacing())

    def _lines(self, text: str, metrics: QFontMetrics, room: int) -> int:
        box = metrics.boundingRect(0, 0, max(40, room), 1000, Qt.TextFlag.TextWordWrap, text)
        return max(1, min(self.LINES, round(box.height() / metrics.lineSpacing())))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        strong, _, quiet = str(index.data()).partition("\n")
        area = option.rect  # type: ignore[attr-defined]
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:  # type: ignore[attr-defined]
            painter.fillRect(area, self.theme.colour("chosen"))
        inner = area.adjusted(9, 4, -6, -4)
        painter.setFont(self.theme.serif(12, bold=True))
        painter.setPen(self.theme.colour("ink"))
        metrics = painter.fontMetrics()
        lines = self._lines(strong, metrics, inner.width())
        if lines == 1:
            strong = metrics.elidedText(strong, Qt.TextElideMode.ElideRight, inner.width())
        top = QRect(inner.left(), inner.top(), inner.width(), lines * metrics.lineSpacing())
        painter.drawText(top, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, strong)
        painter.setFont(self.theme.sans(8.5))
        painter.setPen(self.theme.colour("faded"))
        fitting = painter.fontMetrics().elidedText(quiet, Qt.TextElideMode.ElideRight, inner.width())
        # right under the strong text, also where more room was kept than it turned out to need
        below = QRect(inner.left(), top.bottom() + 1, inner.width(), inner.bottom() - top.bottom())
        painter.drawText(below, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, fitting)
        painter.restore()
