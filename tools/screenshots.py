"""Take the pictures of docs/screenshots from the demo songs, in the real window.

QT_QPA_PLATFORM=offscreen python tools/screenshots.py [--only NAME ...] [--out FOLDER]
    [--size 1024x600] [--scale 2] [--dark]    # other windows than the usual, for looking only
"""

from __future__ import annotations

import argparse
import datetime
import os
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from fractions import Fraction
from importlib import resources
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["YCHRONOS_AUDIO"] = "simulated"
os.environ["YCHRONOS_TOUR"] = "off"
_HOME = tempfile.TemporaryDirectory(prefix="ychronos-pictures-")
for _name, _place in (("CACHE", "cache"), ("STATE", "state"), ("SETTINGS", "settings.ini")):
    os.environ[f"YCHRONOS_{_name}"] = str(Path(_HOME.name) / _place)

from PySide6.QtCore import QEventLoop, Qt, QTimer  # noqa: E402
from PySide6.QtGui import QImage  # noqa: E402
from PySide6.QtWidgets import QDialog, QMessageBox, QWidget  # noqa: E402

from ychronos.app import looks, riffs  # noqa: E402
from ychronos.app.dialogs.figuredialog import FigureDialog  # noqa: E402
from ychronos.app.dialogs.fretboard import FretboardDialog  # noqa: E402
from ychronos.app.start import make_app  # noqa: E402
from ychronos.app.window import Window  # noqa: E402
from ychronos.guitar.instrument import GuitarSetup  # noqa: E402
from ychronos.paths import demo_folder, state_folder  # noqa: E402
from ychronos.session.commands import chords, figuring, marks  # noqa: E402
from ychronos.session.keeping import Keeper  # noqa: E402
from ychronos.song import edits  # noqa: E402
from ychronos.song.edits import twins  # noqa: E402
from ychronos.theory.chord import Chord, parse_chord  # noqa: E402

DEMO = demo_folder()
FERRY, KNOTS, WALTZ, GULLS, LAMPS, NETS = (
    DEMO / f"{n}.ogg"
    for n in (
        "the_ferry_keeps_its_lights_on",
        "seven_knots_and_a_half",
        "waltz_for_the_breakwater",
        "gulls_count_to_five",
        "two_lamps_at_low_water",
        "nets_out_at_four",
    )
)


SIZE, DARK = [1280, 800], False


def pause(milliseconds: int) -> None:
    """Let the window live on for a while. ``QTest.qWait`` keeps all other threads of Python from running meanwhile."""
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def fresh(path: Path | None = None, wait: bool = True) -> Window:
    window = Window()
    window.sheet.patience = float("inf")  # a picture shows everything
    window.ask_save = lambda _: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    window.resize(*SIZE)
    window.show()
    pause(50)
    if DARK:
        window.settings.set("colours", "dark")
        window.set_theme(window.habits.theme())
    if path is not None:
        window.open_path(path)
        while wait and window.job is not None:
            pause(20)
    pause(60)
    return window


def worked_on(window: Window) -> None:
    """Some statements, ticks and a mark, as after a quarter of an hour of work."""
    d = window.session
    song = d.song
    assert song is not None
    for index in range(0, 7):
        d.select(d.song.chords[index].start, chord=True)  # type: ignore[union-attr]
        chords.accept_chord(window.session)
        while d.redeciding:
            pause(10)
    d.select(d.song.grid.bar_range(9)[0], 8, 10)  # type: ignore[union-attr]
    marks.toggle_checked(window.session)
    d.select(d.song.grid.bar_range(14)[0], 14, 15)  # type: ignore[union-attr]
    pause(50)


def sheet_light() -> Window:
    window = fresh(FERRY)
    worked_on(window)
    song = window.session.song
    assert song is not None
    looks.toggle_loop(window)
    window.seek(song.grid.clock(song.grid.starts[14] + 1.4))
    window.say("Looping bars 15–16")
    window._show_place()
    return window


def sheet_dark() -> Window:
    window = fresh(WALTZ)
    looks.toggle_dark(window)
    window.session.edit(lambda s: edits.set_guitar(s, GuitarSetup(capo=2, show="both")))
    window.sheet.set_diagrams(True)
    song = window.session.song
    assert song is not None
    strummed = next(i for i in range(len(song.sections)) if song.figure_of_bar(song.section_bars(i)[0]))
    window.session.edit(lambda s: edits.state_paired(s, strummed, True))
    window.sheet.set_strokes(True)
    window.session.select(song.chords[3].start, chord=True)
    pause(2500)  # shapes are looked for beside
    return window


def typing() -> Window:
    window = fresh(KNOTS)
    song = window.session.song
    assert song is not None
    window.session.select(song.grid.bar_range(6)[0], chord=True)
    window.sheet.start_entry("C | G . D/F# . | D")
    pause(50)
    return window


def analysing() -> Window:
    path = Path(_HOME.name) / "pier_tape_nine.ogg"
    path.write_bytes(KNOTS.read_bytes() + b"\0")
    window = fresh(path, wait=False)
    until = time.time() + 20
    while window.session.recording is None and time.time() < until:
        pause(2)
    while window.strip.bar.value() < 550 and window.job is not None:
        pause(1)
    return window


def recovery() -> Window:
    window = fresh(FERRY)
    chords.accept_chord(window.session)
    song = window.session.song
    assert song is not None
    window.close_document()
    for title, at in (("Thirteen Bells at Low Water", "2026-03-13T19:40:55"), (song.title, "2026-03-14T21:07:12")):
        keeper = Keeper(state_folder(), lambda at=at: datetime.datetime.fromisoformat(at))  # type: ignore[misc]
        for said in ("E7 stated in bar 12", "one is at bar 31, beat 2"):
            keeper.keep(edits.rename_song(song, title, song.artist)[0], said, None, None)
        keeper.journal.close()
    window.offer_recovery()
    pause(50)
    return window


def ground() -> Window:
    window = fresh(WALTZ)
    song = window.session.song
    assert song is not None
    window.session.select(song.grid.bar_range(21)[0])
    window.show_view("ground")
    window.seek(song.grid.clock(song.grid.starts[21]))
    pause(50)
    return window


def tablature() -> Window:
    """A line as it was found in four bars, one of its notes chosen."""
    window = fresh(LAMPS)
    song = window.session.song
    assert song is not None
    first = song.grid.lead_in
    window.session.select(song.grid.bar_range(first)[0], first, first + 3)
    window.practice.set_ear("left")
    riffs.find(window)
    while window.job is not None:
        pause(20)
    song = window.session.song
    assert song is not None
    window.session.select(song.line[0].at if song.line else Fraction(0))
    window.sheet.choose_in_tab()
    pause(80)
    return window


def figure() -> QDialog:
    window = fresh(FERRY)
    song = window.session.song
    assert song is not None
    bar = song.section_bars(1)[0]
    window.session.select(song.grid.bar_range(bar)[0], bar, bar)
    choices, reaches = figuring.choices(song, bar), figuring.reaches(song, window.session)
    dialog = FigureDialog(window.theme, song.grid.bars[bar].beats, choices, list(reaches), window)
    dialog.show()
    dialog.slots.setFocus()
    pause(60)
    return dialog


def stage() -> QWidget:
    window = fresh(FERRY)
    song = window.session.song
    assert song is not None
    looks.on_stage(window)
    window.stage.showNormal()
    window.stage.resize(1280, 800)
    window.stage.set_clock(song.grid.clock(song.grid.starts[6] + 1.5))
    pause(60)
    window.stage.of_window = window
    return window.stage  # type: ignore[no-any-return]


def inside() -> Window:
    """The rivals of a doubtful chord, and the look inside it."""
    window = fresh(LAMPS)
    song = window.session.song
    assert song is not None
    index = min(range(2, len(song.chords)), key=lambda i: song.chords[i].confidence + (not song.chords[i].rivals))
    window.session.select(song.chords[index].start, chord=True)
    looks.toggle_inside(window)
    pause(80)
    return window


def key_view() -> Window:
    window = fresh(LAMPS)
    song = window.session.song
    assert song is not None
    window.show_view("key")
    pause(80)
    return window


def fretboard() -> FretboardDialog:
    window = fresh(WALTZ)
    window.session.edit(lambda s: edits.set_guitar(s, GuitarSetup(capo=2, show="both")))
    song = window.session.song
    assert song is not None
    dialog = FretboardDialog(song, 3, window.theme, window)
    dialog.board.set_shape((None, 0, 2, 0, 1, 0))
    dialog.show()
    pause(80)
    return dialog


def form_view() -> Window:
    window = fresh(NETS)
    song = window.session.song
    assert song is not None
    window.session.select(song.sections[1].start)
    window.show_view("form")
    pause(80)
    return window


def stacked() -> Window:
    window = fresh(NETS)
    window.sheet.set_stacked(True)
    bar = window.sheet.verticalScrollBar()
    bar.setValue(bar.maximum() // 4)
    pause(80)
    return window


def following() -> Window:
    """A correction that the other passes follow, with its undo."""
    window = fresh(FERRY)
    song = window.session.song
    assert song is not None
    bar = next(b for b in range(len(song.grid.bars)) if len(twins(song, b)) >= 2)
    start = song.grid.bar_range(bar)[0]
    root = song.chords[song.chord_index(start)].chord.root
    window.session.select(start, chord=True)
    window.session.state_chord(Chord(root, "7"))
    while window.session.redeciding:
        pause(10)
    pause(80)
    return window


def desk() -> Window:
    window = fresh(FERRY)
    song = window.session.song
    assert song is not None
    window.session.select(song.grid.bar_range(6)[0], 6, 7)
    looks.toggle_loop(window)
    window.practice.set_speed(0.7)
    window.practice.set_ear("middle")
    window.practice.set_balance(0.3)
    window.practice.set_click("beats")
    window.session.edit(lambda s: edits.set_mark(s, Fraction(22), "listen to the fill"))
    window.play_from_caret()
    pause(800)
    window._said_until = 0.0
    window._show_place()
    return window


def hand() -> Window:
    window = fresh(FERRY)
    window.show_view("hand")
    page = window.views["hand"]
    while not page.choosing.found:
        pause(20)
    page.cards.choose(3)
    pause(80)
    return window


def page() -> Window:
    window = fresh(FERRY)
    for at, kind, words in ((4, "cue", "horns come in"), (9, "advice", "palm muted until the chorus")):
        window.session.edit(lambda s, at=at, kind=kind, words=words: edits.set_note(s, Fraction(at), kind, words))
    window.session.edit(lambda s: edits.set_lyric(s, Fraction(16), "low water, low water, the lamps are on the stones"))
    window.show_view("page")
    view = window.views["page"]
    while view.made.busy or view.sheets.pages is None:
        pause(20)
    pause(80)
    return window


def welcome() -> Window:
    return fresh()


PICTURES: dict[str, Callable[[], QWidget]] = {
    "sheet": sheet_light,
    "sheet-dark": sheet_dark,
    "typing": typing,
    "analysing": analysing,
    "recovery": recovery,
    "welcome": welcome,
    "ground": ground,
    "inside": inside,
    "key": key_view,
    "fretboard": fretboard,
    "form": form_view,
    "stacked": stacked,
    "following": following,
    "desk": desk,
    "hand": hand,
    "page": page,
    "tablature": tablature,
    "figure": figure,
    "stage": stage,
}
GUIDED = ("sheet", "form", "page")  # pictures that the guide shows, smaller
GUIDE_WIDTH = 640


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--only", nargs="*", choices=list(PICTURES), default=list(PICTURES))
    parser.add_argument("--size", default="1280x800")
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--dark", action="store_true")
    parser.add_argument("--out", type=Path, default=Path("docs/screenshots"))
    args = parser.parse_args()
    global DARK
    SIZE[:], DARK = (int(x) for x in args.size.split("x")), args.dark
    usual = (args.size, args.scale, args.dark) == ("1280x800", 1.0, False)
    if not usual and args.out == Path("docs/screenshots"):
        parser.error("pictures of other windows go to a folder of their own: --out")
    if args.scale != 1:
        os.environ["QT_SCALE_FACTOR"] = str(args.scale)
    args.out.mkdir(parents=True, exist_ok=True)
    make_app([])
    assert parse_chord("C")
    for name, make in PICTURES.items():
        if name in args.only:
            window = make()
            while isinstance(window, Window) and window.form.comparing:
                pause(20)
            picture = window.grab()
            picture.save(str(args.out / f"{name}.png"))
            if name in GUIDED and usual:
                small = picture.toImage().scaledToWidth(GUIDE_WIDTH, Qt.TransformationMode.SmoothTransformation)
                small.convertToFormat(QImage.Format.Format_RGB32).save(
                    str(resources.files("ychronos") / "guide" / f"{name}.png")
                )
            if not isinstance(window, Window):
                window.close()
                window = getattr(window, "of_window", None) or window.parent()  # type: ignore[assignment]
            assert isinstance(window, Window)
            window.cancel_job(forget=True)
            window.settings.set("dark", False)
            window.settings.set("colours", "light")
            window.sheet.set_diagrams(False)
            window.sheet.set_strokes(False)
            window.close()
            shutil.rmtree(state_folder(), ignore_errors=True)
            print(name)
    sys.stdout.flush()
    os._exit(0)


if __name__ == "__main__":
    main()
