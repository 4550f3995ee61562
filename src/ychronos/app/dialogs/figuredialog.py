"""The figure of the strumming hand: typed, clicked slot by slot, or tapped while the record plays; and heard slowly by itself."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from ...song import strumming
from ...tongue import tr, trn
from ..guarding import painted
from ..labels import label
from ..sheet.arrows import paint_stroke
from ..theme import Theme
from .asking import Ask

SLOT, HIGH = 34, 92  # pixels of a slot, of the picture
NEXT = {"-": "d", "d": "D", "D": "x", "u": "U", "U": "x", "x": "-"}


class Slots(QWidget):
    """The slots of a bar as they will stand on the sheet, larger; a click makes the next thing of one."""

    changed = Signal(str)

    def __init__(self, theme: Theme, beats: int, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme, self.beats, self.figure, self.at = theme, beats, "", 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Slots of the figure"))
        self.setToolTip(
            tr(
                "A click, or Space, makes the next thing of a slot: a soft stroke, a hard one, a muted one, none; arrows go along"
            )
        )

    def sizeHint(self) -> QSize:
        return QSize(max(8, len(self.figure)) * SLOT + 12, HIGH)

    def minimumSizeHint(self) -> QSize:
        return QSize(max(8, len(self.figure)) * 18 + 12, HIGH)

    def show_figure(self, text: str) -> None:
        """Show a figure; what is none shows nothing."""
        try:
            made = strumming.read_figure(text) if text.strip() else ""
        except ValueError:
            made = ""
        self.figure = made if strumming.fits(made, self.beats) else ""
        self.at = max(0, min(self.at, len(self.figure) - 1))
        words = " ".join(self.figure) or tr("no figure for this bar")
        self.setAccessibleDescription(words)
        self.updateGeometry()
        self.update()

    def _wide(self) -> float:
        return (self.width() - 12) / max(1, len(self.figure))

    def turn(self, slot: int) -> None:
        """Make the next thing of a slot."""
        if not 0 <= slot < len(self.figure):
            return
        self.at = slot
        now = self.figure[slot]
        new = NEXT.get(now, "-")
        if new == "d" and slot % 2:  # the hand goes down and up with the slots
            new = "u"
        self.changed.emit(self.figure[:slot] + new + self.figure[slot + 1 :])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self.turn(int((event.position().x() - 6) / self._wide()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is not None:
            self.at = max(0, min(len(self.figure) - 1, self.at + step))
            self.update()
        elif event.key() == Qt.Key.Key_Space:
            self.turn(self.at)
        elif event.text() and event.text() in strumming.LETTERS and self.figure:
            self.changed.emit(self.figure[: self.at] + event.text() + self.figure[self.at + 1 :])
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter, event: QPaintEvent) -> None:
        theme = self.theme
        painter.fillRect(self.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.figure:
            painter.setPen(theme.colour("faded"))
            painter.setFont(theme.sans(10))
            words = tr(
                "A figure for {beats} beats: {beats2} slots",
                beats=self.beats,
                beats2=", ".join(str(self.beats * s) for s in strumming.SLOTS[1:4]),
            )
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        wide, middle = self._wide(), 38.0
        slots = len(self.figure) // self.beats
        for k, letter in enumerate(self.figure):
            x = 6 + wide * (k + 0.5)
            if k == self.at and self.hasFocus():
                painter.setPen(QPen(theme.colour("stated"), 1.5))
                painter.drawRoundedRect(QRectF(6 + wide * k + 1, 4, wide - 2, HIGH - 8), 4, 4)
            painter.setPen(theme.colour("ink" if k % slots == 0 else "faded"))
            painter.setFont(theme.sans(10, strong=k % slots == 0))
            count = str(k // slots + 1) if k % slots == 0 else "&" if 2 * (k % slots) == slots else "·"
            painter.drawText(QRectF(6 + wide * k, HIGH - 26, wide, 20), Qt.AlignmentFlag.AlignCenter, count)
            paint_stroke(painter, theme, x, middle, letter, theme.colour("ink"), 3.2)


class FigureDialog(Ask):
    """See the module. ``tapped`` is told of every tap; ``demonstrated`` (figure, share of the record's speed) asks to hear it."""

    tapped = Signal()
    demonstrated = Signal(str, float)

    def __init__(
        self, theme: Theme, beats: int, choices: Sequence[str], reaches: Sequence[str], parent: QWidget | None = None
    ) -> None:
        question = tr(
            "The figure of a bar of {beats} beats. D and U: down and up, small when soft.\nx: muted. b, 1 to 6: one string, the lowest or counted from the highest. -: none.",
            beats=beats,
        )
        super().__init__(tr("Strokes"), question, choices, reaches, parent)
        self.slots = Slots(theme, beats)
        self.slots.changed.connect(self.answer.setCurrentText)
        self.answer.currentTextChanged.connect(self.slots.show_figure)
        self.slow = QSlider(Qt.Orientation.Horizontal)
        self.hear = QPushButton(tr("Hear it"))
        self.hear.setToolTip(tr("The figure by itself over the chord at the caret, with the count as ticks"))
        self.hear.clicked.connect(lambda: self.demonstrated.emit(self.slots.figure, self.slow.value() / 100))
        self.slow.setRange(30, 100)
        self.slow.setValue(60)
        self.slow.setAccessibleName(tr("Speed of the demonstration in per cent of the record’s"))
        self.slow.setFixedWidth(110)
        self.tap = QPushButton(tr("Tap (T)"))
        self.tap.setAutoDefault(False)
        self.tap.setToolTip(tr("Starts the loop; then tap T for every stroke: what comes in most bars is the figure"))
        self.tap.pressed.connect(self.tapped)
        self.said = label("")
        row = QHBoxLayout()
        for part in (self.hear, label(tr("speed")), self.slow, self.tap, self.said):
            row.addWidget(part)
        row.addStretch()
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.insertWidget(2, self.slots)
        layout.insertLayout(3, row)
        self.hear.setAutoDefault(False)
        self.slots.show_figure(self.answer.currentText())

    def _is_tap(self, event: QKeyEvent) -> bool:
        return event.key() == Qt.Key.Key_T and self.focusWidget() not in (self.answer, self.answer.lineEdit())

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self._is_tap(event):
            event.accept()  # the window's T taps beats
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._is_tap(event):
            if not event.isAutoRepeat():
                self.tapped.emit()
            return
        super().keyPressEvent(event)

    def show_tapped(self, figure: str, taps: int, bars: int) -> None:
        """What was tapped so far."""
        if figure:
            self.answer.setCurrentText(figure)
        self.said.setText(trn("{taps} taps in one bar", "{taps} taps in {bars} bars", bars, taps=taps, bars=bars))
