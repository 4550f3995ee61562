"""What a user can say in the window, at random. Imported by roles that run in the program's own Python."""

from __future__ import annotations

import random
from fractions import Fraction
from pathlib import Path

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox

CHORDS = ("Am", "G", "C", "F", "Dm7", "E7", "Bb", "F#m7b5", "Cmaj7/E", "Gsus4", "N", "D/F#", "Bm", "A9", "Ebmaj7")
NAMES = ("Verse", "Chorus", "Bridge", "Solo", "Tag", "Harbour part", "Intro")
Key, Mod = Qt.Key, Qt.KeyboardModifier


def make_window(settings: object = None) -> object:
    from ychronos.app import start
    from ychronos.memory import bound_arenas

    bound_arenas()
    app = start.make_app([])
    app.setQuitOnLastWindowClosed(False)
    from ychronos.app.collecting import Collector
    from ychronos.app.window import Window
    from ychronos.session.beside import Beside

    w = Window(settings, beside=Beside())  # type: ignore[arg-type]
    w.ask_save = lambda _: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    w.resize(1280, 800)
    w.show()
    QApplication.processEvents()
    w.collector = Collector(w.windowHandle(), lambda: w.playing)  # type: ignore[attr-defined]
    return w


def pause(ms: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(max(1, ms), loop.quit)
    loop.exec()


def settle(w: object, seconds: float = 120.0) -> bool:
    """Wait until no long work goes on; False when it did not end in time."""
    left = int(seconds * 50)
    while (w.job is not None or w.session.redeciding or w.form.comparing) and left > 0:  # type: ignore[attr-defined]
        pause(20)
        left -= 1
    pause(30)
    return left > 0


def open_and_wait(w: object, path: Path, seconds: float = 300.0) -> bool:
    w.open_path(Path(path))  # type: ignore[attr-defined]
    return settle(w, seconds)


def wander(w: object, rng: random.Random) -> None:
    """Put the caret anywhere, sometimes with bars selected."""
    song = w.session.song  # type: ignore[attr-defined]
    bars = len(song.grid.bars)
    bar = rng.randrange(bars)
    start, end = song.grid.bar_range(bar)
    caret = start + Fraction(rng.randrange(0, max(1, int(2 * (end - start)))), 2)
    if rng.random() < 0.25:
        w.session.select(start, bar, min(bars - 1, bar + rng.randrange(1, 5)))  # type: ignore[attr-defined]
    elif rng.random() < 0.5:
        span = rng.choice(song.chords)
        w.session.select(span.start, chord=True)  # type: ignore[attr-defined]
    else:
        w.session.select(caret)  # type: ignore[attr-defined]


def type_chord(w: object, rng: random.Random, text: str | None = None) -> None:
    """By real key events: a letter opens the field, the rest is typed, Return states it."""
    text = text or rng.choice(CHORDS)
    w.show_view("sheet")  # type: ignore[attr-defined]
    w.sheet.setFocus()  # type: ignore[attr-defined]
    QTest.keyClicks(w.sheet, text[0])  # type: ignore[attr-defined]
    pause(1)  # keys come one by one: each has a turn of the event loop of its own
    if w.sheet.entry.isVisible():  # type: ignore[attr-defined]
        for letter in text[1:]:
            QTest.keyClicks(w.sheet.entry.field, letter)  # type: ignore[attr-defined]
            pause(1)
    if w.sheet.entry.isVisible():  # type: ignore[attr-defined]
        QTest.keyClick(w.sheet.entry.field, Key.Key_Return)  # type: ignore[attr-defined]
        if w.sheet.entry.isVisible():  # type: ignore[attr-defined]
            QTest.keyClick(w.sheet.entry.field, Key.Key_Escape)  # type: ignore[attr-defined]


def state_one(w: object, rng: random.Random, tag: str = "") -> str:
    """One random statement, by keys or by commands; returns what was tried."""
    from ychronos.session.commands import chords, count, marks, sections
    from ychronos.song import edits
    from ychronos.theory.chord import parse_chord

    d = w.session  # type: ignore[attr-defined]
    song = d.song
    wander(w, rng)
    caret = d.selection.caret
    beat = int(caret)
    section = song.section_index(caret)
    sheet = w.sheet  # type: ignore[attr-defined]
    tries = {
        "typed chord": lambda: type_chord(w, rng),
        "chord": lambda: d.state_chord(parse_chord(rng.choice(CHORDS))),
        "accept (Y)": lambda: QTest.keyClick(sheet, Key.Key_Y),
        "rival": lambda: chords.state_rival(d, 0),
        "none": lambda: chords.state_none(d),
        "remove": lambda: chords.remove_chord(d),
        "unsure": lambda: d.edit(lambda s: edits.mark_unsure(s, d.chord_index, True, f"listen again {tag}")),
        "held": lambda: chords.articulate(d, rng.choice(("held", "stopped"))),
        "split chord": lambda: chords.split_chord(d),
        "push": lambda: chords.move_change(d, rng.choice((-1, 1))),
        "one is here": lambda: (d.select(Fraction(beat)), count.one_is_here(d)),
        "nudge beat": lambda: (d.select(Fraction(beat)), count.nudge_beat(d, rng.choice((-0.01, 0.01)))),
        "section": lambda: sections.begin_section(d),
        "section (S)": lambda: QTest.keyClick(sheet, Key.Key_S),
        "rename section": lambda: d.edit(lambda s: edits.rename_section(s, section, f"{rng.choice(NAMES)} {tag}")),
        "join section": lambda: sections.join_section(d),
        "title": lambda: d.edit(lambda s: edits.rename_song(s, f"Lamps {tag}", "Tin Dory")),
        "mark": lambda: d.edit(lambda s: edits.set_mark(s, caret, f"here {tag}")),
        "checked": lambda: marks.toggle_checked(d),
        "undo": lambda: d.undo(),
        "redo": lambda: d.redo(),
    }
    name = rng.choice(list(tries))
    if not sheet.hasFocus():
        w.show_view("sheet")  # type: ignore[attr-defined]
        sheet.setFocus()
    tries[name]()
    return name
