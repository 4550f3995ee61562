"""The listening desk: play, where we are, the loop, speed, what to hear, the chart beside the record, level."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QSize, Qt, Signal, SignalInstance
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap, QPolygonF, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from ...audio.play.ear import MODES
from ...tongue import tr
from ..labels import label
from ..theme import Theme

if TYPE_CHECKING:
    from ...session.practice import Practice

LEAST = 660  # pixels that two rows need
NARROW = 1200  # pixels below which the desk has two rows


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


def _looping(text: str) -> str:
    return tr("Loop: {text}", text=text) if text else tr("Loop")


class Desk(QFrame):
    """See the module."""

    play_pressed = Signal()
    loop_pressed = Signal()
    level_moved = Signal(float)
    click_pressed = Signal()
    speed_moved = Signal(float)
    ear_chosen = Signal(str)
    balance_moved = Signal(float)
    ab_pressed = Signal()
    more_pressed = Signal()

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
        self.time.setAccessibleName(tr("Time"))
        self.place.setAccessibleName(tr("Place in the song"))
        self.time.setMinimumWidth(96)
        self.place.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.loop = self._button(tr("Loop"), tr("Play the selected bars round and round"), self.loop_pressed)
        usual = self.loop.fontMetrics().horizontalAdvance(_looping(tr("bars {one}–{two}", one=15, two=16)))
        self.loop.setMinimumWidth(usual + 26)  # as its longest usual words need, so that nothing moves
        self.click = self._button(tr("Click"), tr("Tick the beats and ones under the record"), self.click_pressed)
        self.ab = self._button("A/B", tr("From the record to the chart at the same place, and back"), self.ab_pressed)
        self.more = self._button(
            tr("Practise…"), tr("Times round, count-in, drill, pitch"), self.more_pressed, checks=False
        )
        self.speed = self._slider(25, 200, 100, tr("Speed"), lambda v: self.speed_moved.emit(v / 100))
        self.speed.setPageStep(5)
        self.balance = self._slider(-100, 100, 0, tr("Balance of record and chart"), self._balance)
        self.level = self._slider(0, 100, 70, tr("Level"), lambda v: self.level_moved.emit(v / 100))
        self.ear = QComboBox()
        self.ear.setAccessibleName(tr("What to hear"))
        self.ear.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        for mode, words in MODES.items():
            self.ear.addItem(words[4:] if words.startswith("the ") else words, mode)
        self.ear.activated.connect(lambda i: self.ear_chosen.emit(str(self.ear.itemData(i))))
        self.speed_words, self.balance_words = label(tr("speed"), quiet=True), label(tr("record and chart"), quiet=True)
        self.level_words, self.ear_words = label(tr("level"), quiet=True), label(tr("hear"), quiet=True)
        self.output = QLabel("")
        self.output.setProperty("doubt", True)
        self.output.setAccessibleName(tr("Sound output"))
        where = QVBoxLayout()
        where.setSpacing(0)
        where.addWidget(self.time)
        where.addWidget(self.place)
        self.first, self.second = QHBoxLayout(), QHBoxLayout()
        for row in (self.first, self.second):
            row.setSpacing(16)
        self.first.addWidget(self.play)
        self.first.addLayout(where, 1)
        self.first.addWidget(self.loop)
        self.groups = [
            self._pair(self.speed_words, self.speed),
            self._pair(self.ear_words, self.ear),
            self._pair(self.balance_words, self.balance),
            self.ab,
            self.click,
            self.more,
        ]
        self.levels = self._pair(self.level_words, self.level)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 8, 22, 8)
        layout.setSpacing(8)
        layout.addLayout(self.first)
        layout.addLayout(self.second)
        layout.addWidget(self.output)
        self._two_rows: bool | None = None
        self._arrange(False)
        self.set_theme(theme)

    def _button(self, words: str, tip: str, pressed: SignalInstance, checks: bool = True) -> QPushButton:
        button = QPushButton(words)
        button.setCheckable(checks)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.setToolTip(tip)
        button.clicked.connect(pressed)
        return button

    def _slider(self, low: int, high: int, value: int, name: str, moved: Callable[[int], object]) -> QSlider:
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(low, high)
        slider.setValue(value)
        slider.setMinimumWidth(96)
        slider.setMaximumWidth(170)
        slider.setAccessibleName(name)
        slider.valueChanged.connect(moved)
        return slider

    @staticmethod
    def _pair(words: QWidget, control: QWidget) -> QWidget:
        out = QWidget()
        column = QVBoxLayout(out)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(words)
        column.addWidget(control)
        return out

    def _balance(self, value: int) -> None:
        if abs(value) < 6 and value:  # the middle is easy to find again
            self.balance.setValue(0)
            return
        self.balance_moved.emit(value / 100)

    def _arrange(self, two_rows: bool) -> None:
        """All in one row, or what is heard and how in a second one where the window is narrow."""
        if two_rows == self._two_rows:
            return
        self._two_rows = two_rows
        for part in (*self.groups, self.levels):
            self.first.removeWidget(part)
            self.second.removeWidget(part)
        for part in self.groups:
            (self.second if two_rows else self.first).addWidget(part)
        self.first.addWidget(self.levels)

    def minimumSizeHint(self) -> QSize:
        """One row can become two: it must not hold the window wide."""
        whole = super().minimumSizeHint()
        return QSize(min(LEAST, whole.width()), whole.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._arrange(self.width() < NARROW)

    def show_practice(self, practice: Practice) -> None:
        """Show what is wanted of the desk, however it was asked for."""
        for slider, value in ((self.speed, practice.speed), (self.balance, practice.balance)):
            slider.blockSignals(True)
            slider.setValue(round(100 * value))
            slider.blockSignals(False)
        words = tr("speed {speed:.0%}", speed=practice.speed)
        if practice.cents:
            words += f" · {practice.pitch_words().removeprefix(tr('pitch '))}"
        self.speed_words.setText(words)
        self.speed.setToolTip(f"{words}, {practice.pitch_words()}")
        self.ear.setCurrentIndex(list(MODES).index(practice.ear))
        self.ab.setChecked(practice.balance >= 1)
        self.click.setChecked(practice.click != "off")
        self.click.setText({"ones": tr("Click: ones"), "between": tr("Click: all")}.get(practice.click, tr("Click")))
        shares = {-1.0: tr("record alone"), 0.0: tr("record and chart"), 1.0: tr("chart alone")}
        self.balance_words.setText(shares.get(practice.balance, tr("record and chart")))

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        font = theme.sans(15)
        font.setStyleHint(font.StyleHint.Monospace)
        font.setFeature(font.Tag("tnum"), 1)
        self.time.setFont(font)
        words = (self.place, self.level_words, self.speed_words, self.ear_words, self.balance_words, self.output)
        for small in words:
            small.setFont(theme.sans(9))
        self.set_playing(self._playing)

    def set_playing(self, playing: bool) -> None:
        self._playing = playing
        self.play.setIcon(_icon(playing, self.theme.colour("ink")))
        words = tr("Stop") if playing else tr("Play")
        self.play.setAccessibleName(words)

    def set_output(self, note: str) -> None:
        """Where sound goes, where that is not the sound card."""
        self.output.setText(note)
        self.output.setVisible(bool(note))

    def set_loop(self, text: str) -> None:
        """``text`` says what is looped, "" for nothing."""
        self.loop.setChecked(bool(text))
        self.loop.setText(_looping(text))

    def set_level_words(self, lifted: bool) -> None:
        self.level_words.setText(tr("level, cap lifted") if lifted else tr("level"))
