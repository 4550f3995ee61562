"""Five words to somebody who is here for the first time, each beside what it is about; they can be skipped."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from ..tongue import tr
from .shell import Shell
from .theme import Theme

WIDE, OFF = 330, 12


@dataclass(frozen=True)
class Stop:
    """What it is about, in words; ``at`` gives the part of the window and where in it (shares of its width and height)."""

    title: str
    text: str
    at: Callable[[Shell], tuple[QWidget, float, float]]


STOPS = (
    Stop(
        tr("The chart is the recording, folded"),
        tr(
            "Rows are phrases; under each chord lies the sound that it was read from. Click anywhere to hear it from there."
        ),
        lambda w: (w.sheet.viewport(), 0.35, 0.3),
    ),
    Stop(
        tr("First the count"),
        tr(
            "Tuning, tempo and key of the record. If the tempo is half or twice what you feel, say so in the Count menu: all else follows."
        ),
        lambda w: (w.head, 0.5, 1.0),
    ),
    Stop(
        tr("Then the doubts"),
        tr(
            "Waves under names are chords that are not sure. Here are their other readings: hear them in turn, take one, or type the chord."
        ),
        lambda w: (w.side if w.side.isVisible() else w.sheet.viewport(), 0.0, 0.4),
    ),
    Stop(
        tr("Listen closely"),
        tr("Loop the selected bars, slow them down, hear one side or the middle, lay the chart under the record."),
        lambda w: (w.desk, 0.4, 0.0),
    ),
    Stop(
        tr("And take it with you"),
        tr(
            "Form, shapes for your hand, pages to print. Every action is found by what you call it, with Ctrl+F; Shift+F1 is the guide."
        ),
        lambda w: (w.tabs, 0.5, 1.0),
    ),
)


class Tour(QFrame):
    """A bubble over the window that goes from stop to stop."""

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.shell, self.at = shell, 0
        self.setObjectName("tour")
        self.setFixedWidth(WIDE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("A first look"))
        self.title, self.text = QLabel(), QLabel()
        self.text.setWordWrap(True)
        self.count = QLabel()
        self.count.setProperty("quiet", True)
        self.skip, self.next = QPushButton(tr("Skip")), QPushButton(tr("Next"))
        self.next.setProperty("main", True)
        self.skip.clicked.connect(self.leave)
        self.next.clicked.connect(self.go_on)
        row = QHBoxLayout()
        row.addWidget(self.count)
        row.addStretch(1)
        row.addWidget(self.skip)
        row.addWidget(self.next)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(8)
        layout.addWidget(self.title)
        layout.addWidget(self.text)
        layout.addLayout(row)
        shell.installEventFilter(self)
        self.hide()

    def begin(self) -> None:
        self.at = 0
        self._show_stop()

    def go_on(self) -> None:
        if self.at + 1 < len(STOPS):
            self.at += 1
            self._show_stop()
        else:
            self.leave()

    def leave(self) -> None:
        """It is over, and does not begin by itself again."""
        self.hide()
        self.shell.settings.set("tour", "seen")
        self.shell.sheet.setFocus()

    def set_theme(self, theme: Theme) -> None:
        c = theme.colours
        self.setStyleSheet(f"#tour {{ background: {c.paper}; border: 2px solid {c.stated}; border-radius: 8px; }}")
        self.title.setFont(theme.serif(13, bold=True))
        self.text.setFont(theme.sans(10.5))

    def _show_stop(self) -> None:
        stop = STOPS[self.at]
        self.set_theme(self.shell.theme)
        self.title.setText(stop.title)
        self.text.setText(stop.text)
        self.count.setText(tr("{at} of {count}", at=self.at + 1, count=len(STOPS)))
        self.next.setText(tr("Next") if self.at + 1 < len(STOPS) else tr("Begin"))
        self.setAccessibleDescription(f"{stop.title}. {stop.text}")
        self.show()
        self.raise_()
        self._place()
        self.next.setFocus()

    def _place(self) -> None:
        """Beside what it is about, inside of the window."""
        inside = self.layout()
        assert inside is not None
        self.setFixedHeight(inside.totalHeightForWidth(WIDE))
        part, x, y = STOPS[self.at].at(self.shell)
        if not self.shell.isAncestorOf(part):  # it stands in a window of its own now
            part, x, y = self.shell, 0.5, 0.4
        point = part.mapTo(self.shell, QPoint(int(x * part.width()), int(y * part.height())))
        left = point.x() - WIDE // 2 if x > 0 else point.x() - WIDE - OFF
        top = point.y() + OFF if y > 0 else point.y() - self.height() - OFF
        self.move(
            max(OFF, min(self.shell.width() - WIDE - OFF, left)),
            max(OFF, min(self.shell.height() - self.height() - OFF, top)),
        )

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize and self.isVisible():
            self._place()
        return super().eventFilter(watched, event)
