"""Random use of the real window for a while, and what must hold all the time.

Actions of the table (dialogs are answered at random), keys, clicks, drags and wheels on all views, typed chords, opening
other songs in the middle of work, playing. Noted: exceptions, messages of Qt, freezes of the event loop (with the action
and the line of the program that was being run), how long each action takes until the window has answered, memory.

Now and then: undo all gives the first state exactly, redo all the last, save and load the same song. Before the window:
``--edits`` random edits on the model alone; each result must be savable, readable again, and printable; ``--decided``
random edits with the rest decided again from evidence: what was stated must stay.

    soak.py --app PYTHON --seconds 900
"""

from __future__ import annotations

import gc
import json
import os
import random
import subprocess
import sys
import threading
import time
import traceback
from collections import Counter
from fractions import Fraction
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parents[2])]  # the table of edits lies with the tests
import common

FREEZE = 0.1  # seconds without a turn of the event loop
BEAT = 5  # ms between the ticks that measure


# ------------------------------------------------------------ the model alone


def random_edit(song, rng: random.Random):
    """One edit with random, sometimes absurd, arguments; returns (words, edited)."""
    from tests.saying import EDITS

    words = rng.choice(list(EDITS))
    numbers = tuple(rng.randrange(100_000) for _ in range(3))
    return words, lambda: EDITS[words](song, *numbers)


def role_edits(plan: dict) -> None:
    """Random edits on the model alone."""
    from ychronos.formats import jams, pdfchart, project, textchart
    from ychronos.song import edits

    rng = random.Random(plan["seed"])
    begin = [project.load(Path(p)) for p in plan["projects"]]
    tally: Counter[str] = Counter()
    done = 0
    song = begin[0]
    trail: list[str] = []
    while done < plan["edits"]:
        if done % 60 == 0 or song.grid.beat_count > 6000 or len(song.chords) > 4000:
            song, trail = begin[(done // 60) % len(begin)], []
        done += 1
        words, make = random_edit(song, rng)
        try:
            new, _ = make()
        except edits.EditError:
            tally["refused"] += 1
            continue
        except Exception as error:
            print(
                json.dumps(
                    {"bad": f"edit {words}: {common.cause_of(error)}: {error}"[:260], "trail": [*trail[-6:], words]}
                ),
                flush=True,
            )
            continue
        tally["made"] += 1
        trail.append(words)
        try:
            data = project.dumps(new)
            again = project.loads(data)
            if project.dumps(again) != data:
                raise AssertionError("save and load gives another song")
            if done % 7 == 0:
                textchart.render(new, per_row=rng.choice((2, 4, 8)), folded=done % 2 == 0)
                json.loads(jams.dumps(new))
            if done % 40 == 0:
                pdfchart.render(new, per_row=rng.choice((2, 4, 8)), folded=done % 80 == 0)
        except Exception as error:
            print(
                json.dumps({"bad": f"after {words}: {common.cause_of(error)}: {error}"[:260], "trail": trail[-8:]}),
                flush=True,
            )
            song, trail = rng.choice(begin), []
            continue
        song = new
    print(json.dumps({"tally": tally, "done": done}), flush=True)


# what is decided again after each edit, as the window's commands have it
DECIDES = {
    "state_chord": "chords", "join_chord": "chords", "move_change": "chords", "copy_to_passes": "chords", "state_key": "chords",
    "one_is_here": "bars", "shift_ones": "chords", "half_tempo": "beats", "double_tempo": "beats", "set_tempo": "beats",
    "set_meter": "bars", "set_length": "bars", "split_bar": "chords", "join_bars": "chords", "between_beats": "bars",
    "insert_beat": "chords", "remove_beat": "chords", "lengthen_pick_up": "chords", "move_beat": "beats", "tap": "beats",
    "move_section": "chords", "state_material": "chords",
}  # fmt: skip


def lost_facts(before, after, what: str) -> list[str]:
    """What was stated before and is not after deciding again."""
    out = []
    a, b = before.grid, after.grid
    # on other beats a place may go to the nearest one; further is lost
    near = 0.0 if what == "chords" else 1.05 * max(60 / a.tempo(), 60 / b.tempo())

    def kept(seconds: float, values: list[tuple[float, object]], value: object) -> bool:
        return any(abs(t - seconds) <= near + 1e-9 and v == value for t, v in values)

    # one that says what the stated one before it says may have become one with it
    chords = [(b.clock(c.start), c.chord) for c in after.chords if c.stated]
    chords += [
        (t, c.chord)
        for t in (a.clock(x.start) for x in before.chords if x.stated)
        if (c := after.chords.at(max(Fraction(0), Fraction(round(b.position(t)))))).stated
    ]
    out += [
        f"stated chord {c.chord.harte()} at {a.clock(c.start):.2f} s"
        for c in before.chords
        if c.stated and not kept(a.clock(c.start), chords, c.chord)
    ]
    marks = [(b.clock(m.at), m.text) for m in after.marks]
    out += [f"mark at {a.clock(m.at):.2f} s" for m in before.marks if not kept(a.clock(m.at), marks, m.text)]
    sections = [(b.clock(x.start), n) for x in after.sections for n in (x.name, "")]  # a name may be decided
    out += [
        f"stated section “{x.name}” at bar {a.number(a.bar_at(x.start))}"
        for x in before.sections
        if x.stated and what == "chords" and not kept(a.clock(x.start), sections, x.name if x.named else "")
    ]
    keys = [(b.clock(k.start), k.key) for k in after.keys if k.stated]
    out += [f"stated key {k.key.name()}" for k in before.keys if k.stated and not any(v == k.key for _, v in keys)]
    times = [(t, 0) for t in b.times]
    out += [
        f"stated beat at {a.times[i]:.3f} s"
        for i in a.stated_beats
        if not any(abs(t - a.times[i]) < 1e-6 for t, _ in times)
    ]
    lines = [b.times[x] for x in b.starts[:-1]]
    out += [
        f"stated bar line at {a.times[x]:.2f} s"
        for x, bar in zip(a.starts, a.bars)
        if bar.stated and not any(abs(t - a.times[x]) <= near + 1e-6 for t in lines)
    ]
    return out


def role_decided(plan: dict) -> None:
    """Random edits, the rest decided again after each: what is stated must stay, and what comes out must be usable."""
    from ychronos.analysis import pipeline
    from ychronos.analysis.evidence import cached
    from ychronos.formats import project, textchart
    from ychronos.paths import cache_folder
    from ychronos.song import edits

    rng = random.Random(plan["seed"] + 5)
    begin = []
    for path in plan["projects"]:
        song = project.load(Path(path))
        evidence = cached(cache_folder(), song.recording.sha256)
        if evidence is not None:
            begin.append((song, evidence))
    tally: Counter[str] = Counter()
    song, evidence = begin[0]
    trail: list[str] = []
    for n in range(plan["decided"]):
        if n % 12 == 0:
            (song, evidence), trail = begin[(n // 12) % len(begin)], []
        words, make = random_edit(song, rng)
        try:
            new, sentence = make()
        except edits.EditError:
            tally["refused"] += 1
            continue
        except Exception as error:
            print(
                json.dumps(
                    {"bad": f"edit {words}: {common.cause_of(error)}: {error}"[:260], "trail": [*trail[-6:], words]}
                ),
                flush=True,
            )
            continue
        trail.append(f"{words} ({sentence})"[:90])
        tally["made"] += 1
        what = DECIDES.get(words)
        if what is not None:
            try:
                result = pipeline.redecide(new, evidence, what, song)
            except Exception as error:
                print(
                    json.dumps(
                        {
                            "bad": f"deciding again ({what}) after {words}: {common.cause_of(error)}: {error}"[:260],
                            "trail": trail[-6:],
                        }
                    ),
                    flush=True,
                )
                continue
            tally["decided"] += 1
            lost = lost_facts(new, result, what)
            for fact in lost:
                kind = " ".join(fact.split(" ")[:2])
                print(
                    json.dumps({"bad": f"deciding again ({what}) loses a {kind}", "trail": [fact, *trail[-6:]]}),
                    flush=True,
                )
            new = result
        try:
            data = project.dumps(new)
            if project.dumps(project.loads(data)) != data:
                raise AssertionError("save and load gives another song")
            if n % 3 == 0:
                textchart.render(new, folded=True)
        except Exception as error:
            print(
                json.dumps(
                    {"bad": f"after deciding again: {common.cause_of(error)}: {error}"[:260], "trail": trail[-6:]}
                ),
                flush=True,
            )
            song, trail = begin[0][0], []
            evidence = begin[0][1]
            continue
        song = new
    print(json.dumps({"tally": tally, "done": plan["decided"]}), flush=True)


# ------------------------------------------------------------ the window


def plain_loop() -> float:
    """Seconds that ten million turns of an empty loop would take now: machines differ, and one machine from hour to hour."""
    start = time.perf_counter()
    for _ in range(300_000):
        pass
    return (time.perf_counter() - start) * 10_000_000 / 300_000


class Soak:
    """Drives a window and watches it."""

    def __init__(self, plan: dict) -> None:
        import acts
        from PySide6.QtCore import QTimer, QtMsgType, qInstallMessageHandler
        from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog, QMessageBox

        self.acts, self.plan = acts, plan
        self.rng = random.Random(plan["seed"])
        self.out = Path(plan["out"])
        self.out.mkdir(parents=True, exist_ok=True)
        self.label, self.before = "start", ""
        self.freezes: list[dict] = []
        self.took: dict[str, list[float]] = {}
        self.counts: Counter[str] = Counter()
        self.autosave_ms: list[float] = []
        self.memory: list[tuple[float, float, float, int, int]] = []
        self.loops: list[float] = []
        self.begin = time.monotonic()
        qt_bad = (QtMsgType.QtWarningMsg, QtMsgType.QtCriticalMsg, QtMsgType.QtFatalMsg)
        harmless = ("propagateSizeHints", "This plugin does not support")
        qInstallMessageHandler(
            lambda t, _, text: (
                self.bad(f"Qt: {text[:120]}") if t in qt_bad and not any(h in text for h in harmless) else None
            )
        )
        sys.excepthook = lambda kind, error, tb: self.exception(error.with_traceback(tb))
        threading.excepthook = lambda a: self.exception(a.exc_value, "thread ")  # type: ignore[arg-type]
        sys.unraisablehook = lambda a: self.bad(f"unraisable: {a.exc_type.__name__}: {a.exc_value}"[:160])
        self.dialogs(QDialog, QFileDialog, QInputDialog, QMessageBox)
        w = self.w = acts.make_window()
        from dataclasses import replace

        for id_ in ("quit", "another_window"):  # what nobody here would watch, or end
            w.actions_.entries[id_] = replace(w.actions_.entries[id_], enabled=lambda _: False)
        w.actions_.refresh()
        write = w.keeper.keep

        def timed(*a, **k):
            start = time.monotonic()
            try:
                return write(*a, **k)
            finally:
                self.autosave_ms.append(1000 * (time.monotonic() - start))

        w.keeper.keep = timed
        w.notice.say = self.listen(w.notice.say)
        self.main = threading.get_ident()
        self.last, self.cpu = time.monotonic(), time.thread_time()
        self.stacks: list[str] = []
        self.others: list[str] = []
        self.collected, self.collecting = 0.0, 0.0
        gc.callbacks.append(self.collects)
        self.timer = QTimer(w)
        self.timer.setInterval(BEAT)
        self.timer.timeout.connect(self.tick)
        self.timer.start()
        threading.Thread(target=self.watch, daemon=True).start()

    def bad(self, text: str, **more: object) -> None:
        print(json.dumps({"bad": text, "during": self.label, "before": self.before, **more}, default=str), flush=True)

    def exception(self, error: BaseException, where: str = "") -> None:
        self.bad(
            f"{where}{common.cause_of(error)}: {error}"[:260], trace="".join(traceback.format_exception(error))[-1500:]
        )

    def listen(self, say):
        def heard(text, *a, **k):
            if "Something went wrong" in text:
                self.bad(f"notice: {text}"[:200])
            return say(text, *a, **k)

        return heard

    # ---- watching

    def tick(self) -> None:
        now, cpu = time.monotonic(), time.thread_time()
        gap = now - self.last
        if gap > FREEZE and self.label != "invariants":  # there many steps are taken at once
            common_stack = Counter(self.stacks).most_common(1)
            self.freezes.append(
                {
                    "ms": round(1000 * gap),
                    "cpu": round(1000 * (cpu - self.cpu)),
                    "label": self.label,
                    "at": common_stack[0][0] if common_stack else "",
                    "beside": Counter(self.others).most_common(2),
                    "collected": round(1000 * self.collected),
                    "redeciding": self.w.session.redeciding,
                    "job": self.w.job is not None,
                }
            )
        self.stacks, self.others, self.collected = [], [], 0.0
        self.last, self.cpu = now, cpu

    def collects(self, phase: str, _: dict) -> None:
        """Python collects what refers to itself: the window stands still meanwhile."""
        now = time.monotonic()
        if phase == "start":
            self.collecting = now
        else:
            self.collected += now - self.collecting

    def watch(self) -> None:
        """What the window's thread is at while its loop does not turn. By faulthandler, which holds no frame: a held frame
        would keep a QPainter alive beyond its paintEvent, and that ends the process."""
        import faulthandler
        import re

        with open(self.out / "stack.txt", "w+") as file:
            while True:
                time.sleep(0.05)
                if time.monotonic() - self.last <= 0.12:
                    continue
                file.seek(0)
                file.truncate()
                faulthandler.dump_traceback(file, all_threads=True)
                file.seek(0)
                for block in file.read().split("\n\n"):
                    frames = re.findall(r'File "([^"]*)", line (\d+) in (\S+)', block)
                    if f"{self.main:#x}"[2:] not in block.split("\n", 1)[0]:
                        if frames and frames[0][2] not in ("wait", "watch", "recv_fds", "read", "run", "get"):
                            self.others.append(
                                " < ".join(f"{f.rpartition('/')[2]}:{n} {name}" for f, n, name in frames[:3])
                            )
                        continue
                    ours = [f for f in frames if "ychronos/" in f[0] and "site-packages/PySide6" not in f[0]]
                    if ours:
                        self.stacks.append(
                            " < ".join(f"{f.rpartition('ychronos/')[2]}:{n} {name}" for f, n, name in ours[:4])
                        )

    # ---- dialogs answered at random

    def dialogs(self, QDialog, QFileDialog, QInputDialog, QMessageBox) -> None:
        rng = self.rng

        def open_name(*a, **k):
            return (str(self.some_file()) if rng.random() < 0.7 else "", "")

        def save_name(parent=None, title="", name="", *a, **k):
            stem = Path(name)
            return (str(self.out / f"{rng.randrange(6)}{stem.suffix}") if rng.random() < 0.8 else "", "")

        def text(*a, **k):
            return (
                rng.choice(
                    (
                        "",
                        "Lamps",
                        "E♭ major",
                        "F# dorian",
                        "2+2",
                        "3+2",
                        "²+2",
                        "x" * 300,
                        "D A D G A D",
                        "\n",
                        "why not",
                    )
                ),
                rng.random() < 0.8,
            )

        def item(parent, title, words, items, current=0, editable=True, *a, **k):
            return (rng.choice([*items, "7/8", "0/0", "Own part"] if editable else items), rng.random() < 0.8)

        QFileDialog.getOpenFileName, QFileDialog.getSaveFileName = open_name, save_name
        QInputDialog.getText, QInputDialog.getItem = text, item
        QInputDialog.getInt = lambda p, t, l, value=0, low=0, high=100, *a, **k: (
            rng.randint(low, high),
            rng.random() < 0.8,
        )
        QInputDialog.getDouble = lambda p, t, l, value=0, low=0, high=100, *a, **k: (
            rng.uniform(low, high),
            rng.random() < 0.8,
        )
        QMessageBox.question = lambda *a, **k: QMessageBox.StandardButton.Discard
        QMessageBox.about = lambda *a, **k: None
        from ychronos.app.desk import practicedialog
        from ychronos.app.dialogs import asking, fretboard, guitardialog, partsdialog

        for kind in (
            QDialog,  # what is only looked at
            asking.Ask,
            fretboard.FretboardDialog,
            guitardialog.GuitarDialog,
            partsdialog.PartsDialog,
            practicedialog.PracticeDialog,
        ):
            kind.exec = lambda dialog: self.answer(dialog)

    def answer(self, dialog) -> int:
        """Play with a dialog for a moment, then accept or reject it."""
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QAbstractButton, QAbstractSpinBox, QApplication, QComboBox, QListWidget, QSpinBox

        rng = self.rng
        QTestKey = Qt.Key
        dialog.show()
        QApplication.processEvents()
        for _ in range(rng.randrange(1, 6)):
            parts = (
                dialog.findChildren(QAbstractButton)
                + dialog.findChildren(QSpinBox)
                + dialog.findChildren(QComboBox)
                + dialog.findChildren(QListWidget)
            )
            part = rng.choice(parts) if parts else dialog
            if isinstance(part, QAbstractButton):
                part.click()
            elif isinstance(part, QAbstractSpinBox):
                part.setValue(rng.randint(part.minimum(), part.maximum()))
            elif isinstance(part, QComboBox):
                part.setCurrentIndex(rng.randrange(max(1, part.count())))
            elif isinstance(part, QListWidget) and part.count():
                part.setCurrentRow(rng.randrange(part.count()))
            board = getattr(dialog, "board", None)
            if board is not None:
                QTest.keyClick(
                    board,
                    rng.choice(
                        (
                            QTestKey.Key_1,
                            QTestKey.Key_0,
                            QTestKey.Key_X,
                            QTestKey.Key_Up,
                            QTestKey.Key_Right,
                            QTestKey.Key_Left,
                        )
                    ),
                )
            QApplication.processEvents()
        dialog.hide()
        return int(rng.random() < 0.6)

    def some_file(self) -> Path:
        files = [*map(Path, self.plan["recordings"]), *self.out.glob("*.ychronos")]
        return self.rng.choice(files)

    # ---- what is done

    def do(self, label: str, run) -> None:
        from PySide6.QtWidgets import QApplication

        self.before, self.label = self.label, label
        kind = label.split(" ")[0] + " " + label.split(" ")[1] if " " in label else label
        start = time.monotonic()
        try:
            run()
        except Exception as error:
            self.exception(error)
        QApplication.processEvents()
        self.took.setdefault(kind, []).append(1000 * (time.monotonic() - start))
        self.counts[label.split(" ")[0]] += 1
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()
        if self.rng.random() < 0.05:
            for top in QApplication.topLevelWidgets():
                if top is not self.w and top.isVisible():
                    top.close()
        if not self.w.isVisible():
            self.bad("the window was closed")
            self.w.show()

    def step(self) -> None:
        from PySide6.QtCore import QPoint, QPointF, Qt
        from PySide6.QtGui import QContextMenuEvent, QKeySequence, QWheelEvent
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication

        rng, w = self.rng, self.w
        song = w.session.song
        pick = rng.random()
        if song is None and w.job is None:
            path = self.some_file()
            self.do(f"open {path.suffix}", lambda: w.open_path(path))
            self.acts.settle(w, 60)
        elif pick < 0.012:
            path = self.some_file()
            self.do(f"switch {path.suffix}", lambda: w.open_path(path))
            if rng.random() < 0.7:
                self.acts.settle(w, 60)
        elif pick < 0.40:
            entry = rng.choice(list(w.actions_.entries.values()))
            if entry.id in ("quit", "open", "close", "full") and rng.random() < 0.85:
                return
            if rng.random() < 0.6 and song is not None:
                self.acts.wander(w, rng)
            self.do(f"action {entry.id}", lambda: w.actions_.actions[entry.id].trigger())
        elif pick < 0.55 and song is not None:
            self.do("state random", lambda: self.acts.state_one(w, rng, str(rng.randrange(10**6))))
        elif pick < 0.70:
            target = QApplication.focusWidget() or w.sheet
            entry = rng.choice([e for e in w.actions_.entries.values() if e.id != "quit" and w.actions_.keys(e)])
            keys = QKeySequence(rng.choice(w.actions_.keys(entry)))
            if rng.random() < 0.3 or keys.isEmpty():
                key = rng.choice(
                    (
                        Qt.Key.Key_Left,
                        Qt.Key.Key_Right,
                        Qt.Key.Key_Up,
                        Qt.Key.Key_Down,
                        Qt.Key.Key_Home,
                        Qt.Key.Key_End,
                        Qt.Key.Key_Escape,
                        Qt.Key.Key_Return,
                        Qt.Key.Key_Tab,
                        Qt.Key.Key_PageDown,
                        Qt.Key.Key_PageUp,
                        Qt.Key.Key_A,
                        Qt.Key.Key_G,
                        Qt.Key.Key_7,
                        Qt.Key.Key_Backspace,
                    )
                )
                mods = rng.choice(
                    (
                        Qt.KeyboardModifier.NoModifier,
                        Qt.KeyboardModifier.ShiftModifier,
                        Qt.KeyboardModifier.ControlModifier,
                        Qt.KeyboardModifier.AltModifier,
                    )
                )
                self.do(f"key {key.name}", lambda: QTest.keyClick(target, key, mods))
            else:
                combination = keys[0]
                self.do(
                    f"key {keys.toString()}",
                    lambda: QTest.keyClick(target, combination.key(), combination.keyboardModifiers()),
                )
        elif pick < 0.90:
            at = QPoint(rng.randrange(w.width()), rng.randrange(30, max(31, w.height())))
            widget = w.childAt(at)
            if widget is None or widget.window() is not w or type(widget).__name__ in ("QMenuBar",):
                return
            inner = widget.mapFrom(w, at)
            name = next(
                (
                    type(p).__name__
                    for p in (widget, widget.parent())
                    if p is not None and not type(p).__name__.startswith("Q")
                ),
                type(widget).__name__,
            )
            mods = rng.choice(
                (Qt.KeyboardModifier.NoModifier,) * 3
                + (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier)
            )
            left = Qt.MouseButton.LeftButton
            how = rng.random()
            if how < 0.55:
                self.do(f"click {name}", lambda: QTest.mouseClick(widget, left, mods, inner))
            elif how < 0.65:
                self.do(f"double {name}", lambda: QTest.mouseDClick(widget, left, mods, inner))
            elif how < 0.85:

                def drag() -> None:
                    QTest.mousePress(widget, left, mods, inner)
                    x, y = inner.x(), inner.y()
                    for _ in range(rng.randrange(2, 8)):
                        x, y = x + rng.randrange(-60, 60), y + rng.randrange(-15, 15)
                        QTest.mouseMove(widget, QPoint(x, y))
                        from PySide6.QtCore import QEvent
                        from PySide6.QtGui import QMouseEvent

                        QApplication.sendEvent(
                            widget,
                            QMouseEvent(
                                QEvent.Type.MouseMove,
                                QPointF(x, y),
                                QPointF(widget.mapToGlobal(QPoint(x, y))),
                                left,
                                left,
                                mods,
                            ),
                        )
                        QApplication.processEvents()
                    QTest.mouseRelease(widget, left, mods, QPoint(x, y))

                self.do(f"drag {name}", drag)
            elif how < 0.95:

                def wheel() -> None:
                    control = rng.choice((Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier))
                    event = QWheelEvent(
                        QPointF(inner),
                        QPointF(widget.mapToGlobal(inner)),
                        QPoint(0, 0),
                        QPoint(0, rng.choice((-240, -120, 120, 240))),
                        Qt.MouseButton.NoButton,
                        control,
                        Qt.ScrollPhase.NoScrollPhase,
                        False,
                    )
                    QApplication.sendEvent(widget, event)

                self.do(f"wheel {name}", wheel)
            else:
                event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, inner, widget.mapToGlobal(inner))
                self.do(f"menu {name}", lambda: QApplication.sendEvent(widget, event))
        elif pick < 0.95:
            view = rng.choice(("sheet", "ground", "key", "form"))
            self.do(f"view {view}", lambda: w.show_view(view) if song is not None else None)
        elif pick < 0.97:
            size = (rng.choice((700, 900, 1280, 1900)), rng.choice((480, 800, 1100)))
            self.do("resize window", lambda: w.resize(*size))
        else:

            def finder() -> None:
                w.finder.open_now()
                for letter in rng.choice(("tempo", "louder", "mark", "section", "zzz", "beat", "undo")):
                    QTest.keyClicks(w.finder.field, letter)
                    self.acts.pause(1)  # keys come one by one
                QTest.keyClick(w.finder.field, Qt.Key.Key_Return)

            self.do("finder run", finder)
        if w.playing and hasattr(w.output, "advance"):
            try:
                w.output.advance(0.06)
            except Exception as error:
                self.exception(error, "sound ")
            w.output.heard.clear()

    # ---- what must hold

    def invariants(self) -> None:
        from ychronos.formats import project

        w, d = self.w, self.w.session
        if w.job is not None:
            w.cancel_job(forget=True)
        self.acts.settle(w, 60)
        if d.song is None:
            return
        w.taps.finish()
        self.acts.settle(w, 60)
        self.label = "invariants"
        first, last, steps = project.dumps(d.history.states[0].song), project.dumps(d.song), len(d.history.states)
        at = d.history.at
        while d.history.can_redo:
            d.redo()
        self.acts.settle(w, 60)  # the last state may still wait to be decided
        end = project.dumps(d.song)
        n = 0
        while d.history.can_undo and n < 10000:
            d.undo()
            n += 1
        self.acts.settle(w, 60)
        if project.dumps(d.song) != first:
            self.bad("undo all does not give the first state", steps=steps)
        while d.history.can_redo:
            d.redo()
        self.acts.settle(w, 60)
        if project.dumps(d.song) != end:
            self.bad("redo all does not give the last state", steps=steps)
        while d.history.at > at:
            d.undo()
        self.tick()
        if project.dumps(d.song) != last:
            self.bad("undo and redo do not come back to the present state")
        path = self.out / "invariant.ychronos"
        try:
            project.save(d.song, path)
            again = project.load(path)
            if project.dumps(again) != last:
                self.bad("saved and read again it is another song")
        except Exception as error:
            self.bad(f"the song on the screen cannot be saved and read again: {common.cause_of(error)}: {error}"[:240])
        path.unlink(missing_ok=True)
        self.acts.pause(300)
        self.counts["invariants"] += 1
        self.counts["undone"] += n
        self.w.show_view("sheet")

    def run(self) -> None:
        from PySide6.QtCore import QObject

        end = self.begin + self.plan["seconds"]
        next_memory = next_check = self.begin
        self.acts.open_and_wait(self.w, Path(self.plan["recordings"][0]))
        first_edits = 0

        def kinds() -> Counter[str]:
            return Counter(f"{type(o).__name__} of {type(o.parent()).__name__}" for o in self.w.findChildren(QObject))

        base = kinds()
        while time.monotonic() < end:
            self.step()
            self.acts.pause(self.rng.choice((5, 20, 60, 150, 300)))
            now = time.monotonic()
            if now >= next_memory:
                next_memory = now + 30
                self.loops.append(plain_loop())
                self.last = time.monotonic()  # which was ours
                self.memory.append(
                    (
                        round(now - self.begin),
                        round(common.memory()),
                        round(common.memory(self.w.jobs.beside.pid or 0)),
                        len(self.w.findChildren(QObject)),
                        len(self.w.session.history.states),
                    )
                )
            edits = len(self.w.session.history.states)
            if now >= next_check + 45 and edits != first_edits:
                next_check, first_edits = now, edits
                self.invariants()
        self.invariants()
        self.grown = {k: n - base[k] for k, n in kinds().items() if n > base[k] + 3}
        self.label = "closing"
        self.w.close()
        print(
            json.dumps(
                {
                    "figures": {
                        "freezes": self.freezes,
                        "loops": self.loops,
                        "took": self.took,
                        "counts": self.counts,
                        "memory": self.memory,
                        "grown": self.grown,
                        "autosave_ms": self.autosave_ms,
                    }
                }
            ),
            flush=True,
        )
        os._exit(0)


def span(memory: list) -> str:
    """First and last size of the window's process and of the one beside it (MB)."""
    if not memory:
        return "not measured"
    return f"{memory[0][1]} and {memory[0][2]} to {memory[-1][1]} and {memory[-1][2]} MB"


def without_a_window(bench: common.Bench, role: str, count: int, projects: list[str], words: str) -> dict:
    """Random edits by a role of this script; notes what failed and returns how many were made."""
    plan = json.dumps({"seed": bench.args.seed, "projects": projects, role: count})
    errors = bench.scratch / f"{role}-stderr.txt"
    tally: dict = {}
    with open(errors, "w") as file:
        child = bench.child(
            *(__file__, "--role", role, plan), stdout=subprocess.PIPE, stderr=file, text=True, start_new_session=True
        )
        for entry in bench.entries(child, 120 + 0.5 * count, words, errors):
            if "bad" in entry:
                bench.fail(f"{words}: {entry['bad']}", " > ".join(entry["trail"]))
            else:
                tally = entry["tally"]
    return tally


def main() -> int:
    p = common.parser("Random use of the window.", seconds=900)
    p.add_argument("--edits", type=int, default=3000, help="random edits on the model alone, before")
    p.add_argument("--decided", type=int, default=400, help="random edits after which the rest is decided again")
    p.add_argument("--freeze", type=float, default=2.0, help="seconds: a freeze above this counts as a failure")
    p.add_argument(
        "--growth", type=float, default=300.0, help="MB an hour above which growth of memory counts as a failure"
    )
    args = p.parse_args()
    bench = common.Bench(args, "soak")
    songs = bench.recordings()
    projects = []
    for i, song in enumerate(songs[:3]):
        path = bench.scratch / f"p{i}.ychronos"
        subprocess.run(
            [args.app, "-m", "ychronos", "analyze", str(song), "-q", "--project", str(path)],
            env=bench.env(),
            check=True,
            capture_output=True,
        )
        projects.append(str(path))
    tally: dict = {}
    if args.edits:
        tally = without_a_window(bench, "edits", args.edits, projects, "model")
        print(f"  the model alone: {args.edits} edits, {tally}")
    if args.decided:
        decided = without_a_window(bench, "decided", args.decided, projects, "decided")
        print(f"  edits with the rest decided again: {args.decided}, {decided}")
    figures: dict = {}
    if args.seconds > 0:
        plan = {
            "seed": args.seed,
            "seconds": args.seconds,
            "recordings": [str(s) for s in songs],
            "out": str(bench.scratch / "out"),
        }
        errors = open(bench.scratch / "stderr.txt", "w")
        child = bench.child(
            *(__file__, "--role", "soak", json.dumps(plan)),
            stdout=subprocess.PIPE,
            stderr=errors,
            text=True,
            start_new_session=True,
        )
        traces = []
        for entry in bench.entries(child, args.seconds + 240, "window", bench.scratch / "stderr.txt"):
            if "bad" in entry:
                bench.fail(entry["bad"], f"during {entry['during']}, after {entry['before']}")
                traces.append(entry)
            elif "figures" in entry:
                figures = entry["figures"]
        errors.close()
        text = (bench.scratch / "stderr.txt").read_text(errors="replace")
        if not figures:
            bench.fail(f"the window ended early ({child.returncode})", text[-600:].replace("\n", " | "))
        elif "Traceback" in text:
            last = text[text.rindex("Traceback") :].strip().splitlines()
            bench.fail(f"printed on the terminal: {last[-1][:140]}", " | ".join(last[-5:])[:400])
        figures["traces"] = traces
    words = f"{args.edits} edits of the model"
    if figures.get("counts"):
        all_ms = [v for vs in figures["took"].values() for v in vs]
        freezes = sorted(figures["freezes"], key=lambda f: -f["ms"])
        memory = figures["memory"]
        total = sum(v for k, v in figures["counts"].items() if k not in ("invariants", "undone"))
        print(f"  actions by kind: {figures['counts']}")
        print(
            "  answer of an action, ms: p50 {:.0f}, p95 {:.0f}, p99 {:.0f}, max {:.0f}".format(
                *(common.percentile(all_ms, q) for q in (0.5, 0.95, 0.99, 1))
            )
        )
        ms = [f["ms"] for f in freezes]
        if ms:
            print(
                "  freezes above {:.0f} ms: {}, p50 {:.0f}, p95 {:.0f}, p99 {:.0f}, max {:.0f} ms; {} above 1 s".format(
                    1000 * FREEZE,
                    len(ms),
                    *(common.percentile(ms, q) for q in (0.5, 0.95, 0.99, 1)),
                    sum(m > 1000 for m in ms),
                )
            )
            print("  the worst 20:")
            print(f"  collecting took {sum(f['collected'] for f in freezes)} of {sum(ms)} ms")
            for f in freezes[:20]:
                told = [f"{f['ms']:5d} ms ({f['cpu']} ms of its own work) {f['label']}"]
                told += ["deciding again beside it"] if f["redeciding"] else []
                told += ["a job beside it"] if f["job"] else []
                told += [f"{f['collected']} ms of it collecting"] if f["collected"] > 5 else []
                beside = "".join(f"; beside {x[:150]}" for x, _ in f["beside"])
                print(f"      {', '.join(told)}: {f['at'][:170]}{beside}")
        slow = sorted(
            ((common.percentile(v, 0.95), len(v), k) for k, v in figures["took"].items() if len(v) >= 5), reverse=True
        )[:12]
        print("  slowest kinds (p95 ms): " + "; ".join(f"{k} {q:.0f} ({n})" for q, n, k in slow))
        if figures["loops"]:
            print(
                f"  a plain loop of ten million takes {min(figures['loops']):.2f} to {max(figures['loops']):.2f} s here"
            )
        if figures["autosave_ms"]:
            a = figures["autosave_ms"]
            print(
                f"  autosave in the window's thread, ms: {len(a)} times, p50 {common.percentile(a, 0.5):.0f}, p95 {common.percentile(a, 0.95):.0f}, max {max(a):.0f}"
            )
        print(
            "  memory (s, MB, MB of the process beside, objects, steps of history): "
            + ", ".join(str(tuple(m)) for m in memory)
        )
        late_half = [m for m in memory if m[0] > max(300, args.seconds / 3)]  # it shall be flat after 5 minutes
        growth = (
            (sum(late_half[-1][1:3]) - sum(late_half[0][1:3])) / max(1, late_half[-1][0] - late_half[0][0]) * 3600
            if len(late_half) > 2
            else 0.0
        )
        if growth > args.growth:
            bench.fail(f"memory grows by {growth:.0f} MB an hour", f"{late_half[0]} to {late_half[-1]}")
        for f in freezes:
            if f["ms"] > 1000 * args.freeze:
                bench.fail(f"freeze above {args.freeze:.0f} s: {f['label']}", f"{f['ms']} ms: {f['at']}")
        words += (
            f", {total} actions in {args.seconds:.0f} s, {len(ms)} freezes above {1000 * FREEZE:.0f} ms, the worst {max(ms, default=0)} ms; "
            f"{figures['counts'].get('invariants', 0)} checks of undo, redo, save; memory {span(memory)}, {growth:+.0f} MB an hour"
        )
    bench.figures = {"tally": tally, **figures}
    return bench.finish(words)


if __name__ == "__main__":
    if len(sys.argv) > 2 and sys.argv[1] == "--role":
        {"edits": role_edits, "decided": role_decided, "soak": lambda plan: Soak(plan).run()}[sys.argv[2]](
            json.loads(sys.argv[3])
        )
    else:
        sys.exit(main())
