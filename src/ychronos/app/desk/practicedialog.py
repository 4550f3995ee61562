"""What the desk has no room for: how often a loop is played, the drill, the count-in, pitch, the reminder."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QSpinBox,
    QWidget,
)

from ...session.practice import CLICKS, Drill, Practice
from ...tongue import tr
from ..labels import label

CLICK_WORDS = {
    "off": tr("none"),
    "ones": tr("ones"),
    "beats": tr("beats"),
    "between": tr("beats and what lies between"),
}


def _spin(low: int, high: int, value: int, suffix: str, name: str, special: str = "") -> QSpinBox:
    out = QSpinBox()
    out.setRange(low, high)
    out.setValue(value)
    out.setSuffix(suffix)
    out.setAccessibleName(name)
    if special:
        out.setSpecialValueText(special)
    return out


class PracticeDialog(QDialog):
    """Shows what is set; everything takes effect at once, the drill when it is started."""

    def __init__(self, practice: Practice, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Practise"))
        self.setMinimumWidth(430)
        p = self.practice = practice
        drill = p.drill or Drill()
        self.times = _spin(0, 20, p.times, tr(" times, then the next phrase"), tr("Times round"), tr("round and round"))
        self.count_in = QCheckBox(tr("one bar of the song’s own meter first"))
        self.count_in.setChecked(p.count_in)
        self.click = QComboBox()
        for kind in CLICKS:
            self.click.addItem(CLICK_WORDS[kind], kind)
        self.click.setCurrentIndex(CLICKS.index(p.click))
        self.click.setAccessibleName(tr("Click"))
        self.first = _spin(25, 200, round(100 * drill.first), " %", tr("From"))
        self.last = _spin(25, 200, round(100 * drill.last), " %", tr("To"))
        self.step = _spin(1, 50, round(100 * drill.step), tr(" % more"), tr("Step"))
        self.every = _spin(1, 20, drill.every, tr(" times round"), tr("Every"))
        self.semitones = _spin(-12, 12, p.semitones, tr(" semitones"), tr("Semitones"), "")
        self.fine = _spin(-100, 100, round(p.fine), " ¢", tr("Cents"))
        self.in_tune = QCheckBox(tr("as if the record were in tune, at its own speed"))
        self.in_tune.setChecked(p.in_tune)
        after = round(p.playing.reminder_after())
        self.remind = _spin(0, 240, after, tr(" minutes"), tr("Reminder"), tr("never"))
        steps = QHBoxLayout()
        steps.addWidget(self.first)
        steps.addWidget(label(tr("to"), quiet=True))
        steps.addWidget(self.last)
        more = QHBoxLayout()
        more.addWidget(self.step)
        more.addWidget(label(tr("every"), quiet=True))
        more.addWidget(self.every)
        pitch = QHBoxLayout()
        pitch.addWidget(self.semitones)
        pitch.addWidget(self.fine)
        form = QFormLayout(self)
        form.addRow(tr("Loops"), self.times)
        form.addRow(tr("Count-in"), self.count_in)
        form.addRow(tr("Click"), self.click)
        form.addRow(tr("Pitch"), pitch)
        form.addRow("", self.in_tune)
        form.addRow(tr("Remind me to rest after"), self.remind)
        form.addRow(tr("Drill from"), steps)
        form.addRow("", more)
        buttons = QDialogButtonBox()
        self.start = buttons.addButton(tr("Start the drill"), QDialogButtonBox.ButtonRole.ActionRole)
        close = buttons.addButton(QDialogButtonBox.StandardButton.Close)
        self.start.setAutoDefault(False)
        close.setDefault(True)
        form.addRow(buttons)
        self.times.valueChanged.connect(self._loops)
        self.count_in.toggled.connect(lambda on: setattr(p, "count_in", on))
        self.click.activated.connect(lambda i: p.set_click(CLICKS[i]))
        self.semitones.valueChanged.connect(lambda n: p.transpose(n))
        self.fine.valueChanged.connect(lambda n: p.transpose(p.semitones, n))
        self.in_tune.toggled.connect(lambda on: p.toggle_in_tune() if on != p.in_tune else None)
        self.remind.valueChanged.connect(lambda n: p.playing.remind_after(n))
        self.start.clicked.connect(self._drill)
        buttons.rejected.connect(self.accept)

    def _loops(self, times: int) -> None:
        self.practice.times = times
        self.practice.playing.show_loop()

    def _drill(self) -> None:
        p = self.practice
        first, last = sorted((self.first.value(), self.last.value()))
        p.start_drill(Drill(first / 100, last / 100, self.step.value() / 100, self.every.value()))
        p.playing.play_if_still()
        self.accept()
