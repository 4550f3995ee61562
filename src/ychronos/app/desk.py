"""The listening desk: play, where we are, the loop, the level, and where sound goes."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap, QPolygonF
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QSlider, QVBoxLayout

from .panels import label
from .theme import Theme


def _icon(playing: bool, colour: QColor) -> QIcon:
    """A triangle to start, a square to stop."""
    pixmap = QPixmap(48, 48)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(colour)
    painter.setPen(Qt.PenStyle.NoPen)
    if playing:
        painter.drawRect(11, 11, 26, 26)
    else:
        painter.drawPolygon(QPolygonF([QPointF(12, 7), QPointF(41, 24), QPointF(12, 41)]))
    painter.end()
    return QIcon(pixmap)


class Desk(QFrame):
    """See the module."""

    play_pressed = Signal()
    loop_pressed = Signal()
    level_moved = Signal(float)
    click_pressed = Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setObjectName("desk")
        self._playing = False
        self.play = QPushButton()
        self.play.setFixedSize(54, 46)
        self.play.setIconSize(QSize(24, 24))
        self.play.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.play.clicked.connect(self.play_pressed)
        self.time, self.place = label("0:00.0"), label("", quiet=True)
        self.time.setAccessibleName("Time")
        self.place.setAccessibleName("Place in the song")
        self.time.setMinimumWidth(96)
        self.place.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.loop = QPushButton("Loop the selected bars")
        self.loop.setCheckable(True)
        self.loop.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.loop.clicked.connect(self.loop_pressed)
        self.click = QPushButton("Click")
        self.click.setCheckable(True)
        self.click.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.click.setToolTip("Tick the beats and ones under the record (K)")
        self.click.clicked.connect(self.click_pressed)
        self.level = QSlider(Qt.Orientation.Horizontal)
        self.level.setRange(0, 100)
        self.level.setFixedWidth(170)
        self.level.setAccessibleName("Level")
        self.level.valueChanged.connect(lambda v: self.level_moved.emit(v / 100))
        self.level_words = label("level", quiet=True)
        self.output = QLabel("")
        self.output.setProperty("doubt", True)
        self.output.setAccessibleName("Sound output")
        where = QVBoxLayout()
        where.setSpacing(0)
        where.addWidget(self.time)
        where.addWidget(self.place)
        levels = QVBoxLayout()
        levels.setSpacing(4)
        levels.addWidget(self.level_words)
        levels.addWidget(self.level)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(22, 10, 22, 10)
        layout.setSpacing(20)
        layout.addWidget(self.play)
        layout.addLayout(where, 3)
        layout.addWidget(self.loop)
        layout.addWidget(self.click)
        layout.addStretch(1)
        layout.addWidget(self.output)
        layout.addLayout(levels)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        font = theme.sans(15)
        font.setStyleHint(font.StyleHint.Monospace)
        font.setFeature(font.Tag("tnum"), 1)
        self.time.setFont(font)
        for small in (self.place, self.level_words, self.output):
            small.setFont(theme.sans(9))
        self.set_playing(self._playing)

    def set_playing(self, playing: bool) -> None:
        self._playing = playing
        self.play.setIcon(_icon(playing, self.theme.colour("ink")))
        words = "Stop" if playing else "Play"
        self.play.setAccessibleName(words)
        self.play.setToolTip(f"{words} (Space)")

    def set_loop(self, text: str) -> None:
        """``text`` says what is looped, "" for nothing."""
        self.loop.setChecked(bool(text))
        self.loop.setText(f"Looping {text}" if text else "Loop the selected bars")
        self.loop.setToolTip("Stop looping (L)" if text else "Play the selected bars round and round (L)")

    def set_level_words(self, lifted: bool) -> None:
        self.level_words.setText("level, cap lifted" if lifted else "level")
