"""What nobody expected: the work is kept, the log has the details, the user gets one sentence and a report to copy.

Errors of ours end up here from wherever they come: a slot, a thread, while painting. When the process itself dies,
the system's trace is written to a file of its own, and offered at the next start.
"""

from __future__ import annotations

import contextlib
import faulthandler
import logging
import os
import platform
import re
import sys
import threading
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import Any

import PySide6
from PySide6.QtCore import QMessageLogContext, QTimer, QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication

from .. import __version__
from ..paths import state_folder
from ..tongue import tr

LOG = logging.getLogger("ychronos")
TRACE = "died-{}.trace"
REPORT_LINES = 80


def report(trace: str) -> str:
    """What a developer needs to know, without the names of the user's folders and files."""
    begin = (
        f"Ychronos {__version__}, Python {platform.python_version()}, Qt {PySide6.__version__}, {platform.platform()}"
    )
    return begin + "\n\n" + without_names("\n".join(trace.strip().splitlines()[-REPORT_LINES:]))


def without_names(text: str) -> str:
    """A text without private paths: of the program's own files the part that matters stays, of others only the ending."""
    # its own folder first: where that has a space in its name, nothing below would find its end
    text = text.replace(str(Path(__file__).parents[2]), "/program")
    ours = r"(?:/[^\s\"'“”:]*)?/(ychronos|PySide6|numpy|scipy|site-packages|lib/python[\d.]+)/"
    text = re.sub(r"([\"'“])" + ours, r"\1…/\2/", text)
    home = str(Path.home())
    text = text.replace(home, "~") if len(home) > 1 else text
    ending = r"(\.\w{1,9})?"
    text = re.sub(r"([\"'“])(?:~|/)[^\"'“”\n]*?" + ending + r"([\"'”])", r"\1(a path)\2\3", text)
    return re.sub(
        r"(?<![…\w])(?:~|/)(?:[^\s\"'“”:,;]*/)+[^\s\"'“”:,;/]*?" + ending + r"(?=[\s\"'“”:,;]|$)", r"(a path)\1", text
    )


class Mishaps:
    """Catches what nobody caught. ``keep`` keeps the work, ``say`` shows a sentence with choices."""

    def __init__(self, keep: Callable[[], object], say: Callable[..., object]) -> None:
        self.keep, self.say = keep, say
        self._told: set[str] = set()
        self._trace: Any = None
        self._path = state_folder() / TRACE.format(os.getpid())

    def install(self) -> None:
        sys.excepthook = self.caught
        threading.excepthook = lambda a: self.caught(a.exc_type, a.exc_value, a.exc_traceback)
        sys.unraisablehook = lambda a: LOG.error("unraisable: %s", a.err_msg, exc_info=a.exc_value)
        qInstallMessageHandler(_from_qt)
        with contextlib.suppress(OSError):
            self._path.parent.mkdir(parents=True, exist_ok=True)
            self._trace = open(self._path, "w")
            faulthandler.enable(self._trace)

    def caught(self, kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            QApplication.exit(0)
            return
        text = "".join(traceback.format_exception(kind, error, trace))
        LOG.error("nobody caught this:\n%s", text)
        frames = traceback.extract_tb(trace)
        place = f"{kind.__name__} {frames[-1].filename}:{frames[-1].lineno}" if frames else kind.__name__
        if place in self._told:  # while painting the same error comes again and again
            return
        self._told.add(place)
        print(text, file=sys.stderr)
        app = QApplication.instance()
        if app is not None:  # not while a widget is painted, and in the window's thread
            QTimer.singleShot(0, app, lambda: self._tell(kind.__name__, text))

    def _tell(self, name: str, text: str) -> None:
        try:
            kept = self.keep()
            words = tr("What you said is kept.") if kept else tr("Save your work under another name.")
            self.say(
                tr("Something went wrong inside Ychronos ({name}). {words}", name=name, words=words),
                {tr("Copy report"): lambda: QApplication.clipboard().setText(report(text))},
            )
        except Exception:
            LOG.exception("an error while an error was told")

    def look_back(self) -> bool:
        """Offer the trace of a run that died; True when there was one."""
        found = ""
        for path in self._left_behind():
            with contextlib.suppress(OSError):
                found = path.read_text(errors="replace").strip() or found
                path.unlink()
        if found:
            LOG.error("an earlier run died:\n%s", found)
            self.say(
                tr("Ychronos died last time. What was said until then is kept."),
                {tr("Copy report"): lambda: QApplication.clipboard().setText(report(found))},
                error=False,
            )
        return bool(found)

    def _left_behind(self) -> list[Path]:
        try:
            return [p for p in self._path.parent.glob(TRACE.format("*")) if p != self._path and not _runs(p)]
        except OSError:
            return []

    def end(self) -> None:
        """The program ends as it should."""
        if self._trace is not None:
            faulthandler.disable()
            self._trace.close()
            self._trace = None
            with contextlib.suppress(OSError):
                self._path.unlink()


def _runs(path: Path) -> bool:
    """Whether the process that a trace is of still runs."""
    number = path.stem.rpartition("-")[2]
    return number.isascii() and number.isdigit() and Path(f"/proc/{number}").exists()


def _from_qt(kind: QtMsgType, _where: QMessageLogContext, text: str) -> None:
    bad = kind in (QtMsgType.QtCriticalMsg, QtMsgType.QtFatalMsg)
    LOG.log(logging.ERROR if bad else logging.DEBUG, "Qt: %s", text)
