"""Starting the window."""

from __future__ import annotations

import argparse
import logging
import os
import signal
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QLibraryInfo, Qt, QTimer, QTranslator
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from .. import __version__, logs
from ..audio.play import outputs
from ..memory import bound_arenas
from ..session.beside import Beside
from ..tongue import spoken_here
from . import jobs, reachable
from .collecting import Collector, look_only_here
from .habits import draw_at
from .mishaps import Mishaps
from .settings import Settings
from .theme import load_fonts
from .welcome.welcome import demo_songs

if TYPE_CHECKING:
    from .window import Window


def make_app(arguments: list[str]) -> QApplication:
    """The one QApplication, with the shipped fonts."""
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(["ychronos", *arguments])
    app.setApplicationName("ychronos")
    app.setApplicationDisplayName("Ychronos")
    app.setApplicationVersion(__version__)
    app.setDesktopFileName("radio.kestrelpoint.ychronos")
    app.setWindowIcon(QIcon(str(Path(__file__).parent / "signs" / "ychronos.svg")))
    speak_with(app)
    load_fonts()
    reachable.install()
    look_only_here()
    sys.setswitchinterval(outputs.SWITCH)  # nor must the window wait for a thread that computes
    return app


def speak_with(app: QApplication) -> None:
    """Qt's own words, in its dialogs and for keys, in the language of all else."""
    if (language := spoken_here()) != "en":
        words = QTranslator(app)
        if words.load(f"qtbase_{language}", QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)):
            app.installTranslator(words)


def keep_at_the_end(window: Window, app: QApplication) -> None:
    """When the session ends, the work stays kept; nobody is there to answer a question, so it is offered at the next
    start."""

    def ended(*_: object) -> None:
        logging.getLogger("ychronos").info("ended from outside")
        window.end_from_outside()
        QApplication.exit(0)

    for ending in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
        signal.signal(ending, ended)
    app.commitDataRequest.connect(ended, Qt.ConnectionType.DirectConnection)


def run(arguments: list[str]) -> int:
    """Open the window on a recording, a project, the demo, or the welcome page; returns the exit code."""
    parser = argparse.ArgumentParser(
        prog="ychronos", description="Open the window. Commands without a window: ychronos --help."
    )
    parser.add_argument("file", nargs="?", type=Path, help="a recording or a project")
    parser.add_argument("--demo", action="store_true", help="open the first demo song")
    parser.add_argument("--log", choices=logs.LEVELS, default="info", help="how much the log keeps (info)")
    args = parser.parse_args(arguments)
    logs.start(args.log)
    if sys.platform.startswith("linux") and not any(
        os.environ.get(v) for v in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    ):
        print(
            "ychronos: there is no screen to open a window on; “ychronos --help” lists what works without one.",
            file=sys.stderr,
        )
        return 2
    bound_arenas()
    beside = Beside()
    beside.warm()  # it loads what it needs while the window is made
    draw_at(Settings())
    app = make_app([])
    from .window import Window

    window = Window(beside=beside)
    mishaps = Mishaps(window.session.keep, window.notice.say)
    mishaps.install()
    window.show()
    collector = Collector(window.windowHandle(), lambda: window.playing)
    keep_at_the_end(window, app)
    ticker = QTimer()  # lets Python see signals while Qt waits
    ticker.start(300)
    ticker.timeout.connect(lambda: None)
    mishaps.look_back()
    path: Path | None = args.file
    if path is None and not window.offer_recovery() and args.demo:
        path = next(iter(demo_songs()), None)
    if path is not None:
        target = path
        QTimer.singleShot(0, lambda: window.open_path(target))
    code = app.exec()
    collector.end()
    mishaps.end()
    beside.close()
    if not jobs.leave():  # work that does not stop must not be pulled down with the interpreter under it
        logging.shutdown()
        os._exit(code)
    return code
