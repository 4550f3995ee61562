"""The head of the window: title, performers, and the facts of the record."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from ..chart.facts import facts, tuning_text
from ..session.session import SONG, Session
from ..tongue import tr
from .labels import Elided, label
from .theme import Theme


class Fact(QWidget):
    """A small name over a value."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._text = ""
        self.name, self.value = label(name, quiet=True), label("")
        self.value.setAccessibleName(name)
        self.value.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.other = QPushButton()
        self.other.setProperty("other", True)
        self.other.setCursor(Qt.CursorShape.PointingHandCursor)
        self.other.hide()
        top = QHBoxLayout()
        top.setSpacing(6)
        top.addWidget(self.name)
        top.addWidget(self.other)
        top.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        layout.addStretch(1)  # both lines stay together, whether there is a button or not
        layout.addLayout(top)
        layout.addWidget(self.value)
        layout.addStretch(1)

    def set(self, text: str) -> None:
        self._text = text
        self.value.setToolTip(text)
        self.value.setAccessibleDescription(text)
        self._fit()

    def offer(self, text: str, tip: str = "") -> None:
        """Show what else the fact may be, to be pressed; nothing for ""."""
        self.other.setText(text)
        self.other.setToolTip(tip)
        self.other.setAccessibleName(f"{self.name.text()}: {text}")
        self.other.setVisible(bool(text))

    def open_menu(self, menu: QMenu) -> None:
        """Open a menu under what is offered, or under the value where nothing is."""
        at = self.other if self.other.isVisible() else self.value
        menu.popup(at.mapToGlobal(QPoint(0, at.height())))

    def _fit(self) -> None:
        """As much of the text as there is room for; the whole is in the tooltip."""
        room = max(40, self.value.width())
        self.value.setText(self.value.fontMetrics().elidedText(self._text, Qt.TextElideMode.ElideRight, room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()


class Head(QFrame):
    """Title, performers, and the facts of the record."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("head")
        self.session = session
        self.title, self.artist = Elided(), Elided()
        self.artist.setProperty("quiet", True)
        self.title.setAccessibleName(tr("Title"))
        self.record, self.count, self.home, self.checked = (
            Fact(n) for n in (tr("tuning"), tr("tempo"), tr("key"), tr("checked"))
        )
        self.guitar = Fact(tr("guitar"))
        names = QVBoxLayout()
        names.setSpacing(0)
        names.addWidget(self.title)
        names.addWidget(self.artist)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(22, 8, 22, 10)
        layout.setSpacing(26)
        layout.addLayout(names, 5)
        for fact, stretch in ((self.record, 3), (self.count, 4), (self.home, 3), (self.guitar, 3), (self.checked, 2)):
            layout.addWidget(fact, stretch)
        session.watch(self.refresh, *SONG, "song", "sound")
        self.set_theme(Theme())

    def set_theme(self, theme: Theme) -> None:
        self.title.setFont(theme.serif(18, bold=True))
        self.artist.setFont(theme.sans(9.5))
        for fact in (self.record, self.count, self.home, self.guitar, self.checked):
            fact.name.setFont(theme.sans(8.5))
            fact.other.setFont(theme.sans(8.5))
            fact.other.setFixedHeight(fact.name.sizeHint().height())  # so that the value stays where it is
            fact.value.setFont(theme.sans(11))

    def refresh(self) -> None:
        song = self.session.song
        self.setVisible(self.session.is_open)
        if song is None:
            self.guitar.hide()
            self.title.setText(self.session.title)
            self.artist.setText("")
            for fact in (self.record, self.count, self.home, self.checked):
                fact.set("–")
            return
        f = facts(song)
        self.title.setText(song.title)
        recording = self.session.recording
        self.artist.setText(song.artist or (recording.path.name if recording else ""))
        known = song.ground.confidence > 0
        record = tuning_text(song.ground.cents) + (tr(", corrected") if song.ground.tape_cents else "")
        self.record.set(record if known else "–")
        self.guitar.set(song.guitar.brief())
        self.guitar.setVisible(not song.guitar.usual)
        self.count.set(f.count)
        self.home.set(f.home if song.keys[0].confidence > 0 else "–")
        self.checked.set(f.checked)
