"""Starting the window."""

from __future__ import annotations

import argparse
import logging
import os
import signal
import sys
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from .. import __version__, logs
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
    load_fonts()
    return app


def _log_and_say(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    """What nobody caught goes into the log and to the terminal."""
    logging.getLogger("ychronos").error("nobody caught this", exc_info=(kind, error, trace))
    sys.__excepthook__(kind, error, trace)


def keep_at_the_end(window: Window) -> None:
    """Keep unsaved work when the session ends; nobody is there to answer a question, so it is offered at the next start."""

    def ended(*_: object) -> None:
        logging.getLogger("ychronos").info("ended from outside")
        window.autosave_now()
        QApplication.exit(0)

    for ending in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(ending, ended)


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
    sys.excepthook = _log_and_say
    if sys.platform.startswith("linux") and not any(
        os.environ.get(v) for v in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")
    ):
        print(
            "ychronos: there is no screen to open a window on; “ychronos --help” lists what works without one.",
            file=sys.stderr,
        )
        return 2
    app = make_app([])
    from .window import Window

    window = Window()
    window.show()
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    keep_at_the_end(window)
    ticker = QTimer()  # lets Python see signals while Qt waits
    ticker.start(300)
    ticker.timeout.connect(lambda: None)
    window.offer_recovery()
    path: Path | None = args.file
    if args.demo and path is None:
        path = next(iter(demo_songs()), None)
    if path is not None:
        target = path
        recovery = window.notice.isVisible()
        QTimer.singleShot(0, lambda: window.open_path(target) if not recovery or args.file else None)
    return app.exec()
