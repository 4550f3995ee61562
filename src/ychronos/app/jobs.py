"""Long work beside the window: one function in a thread, its progress and result as Qt signals."""

from __future__ import annotations

import contextlib
import logging
import threading
import traceback
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Qt, Signal

from ..analysis.evidence import AnalysisError
from ..audio.decode import AudioError, Cancelled

Work = Callable[["Job"], Any]
EXPECTED = (AudioError, AnalysisError)


class Job(QObject):
    """Runs ``work(job)`` in a thread. The work reports with :meth:`report` and :meth:`partly`, and asks
    :meth:`cancelled` often. Signals arrive in the thread of the window."""

    progress = Signal(str, float)
    part = Signal(object)
    done = Signal(object)
    failed = Signal(str)
    stopped = Signal()
    over = Signal()
    _ended = Signal(str, object)

    def __init__(self, work: Work, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._work = work
        self._cancel = threading.Event()
        self._thread = threading.Thread(target=self._run, name="ychronos-job", daemon=True)
        self.running = False
        self._ended.connect(self._end, Qt.ConnectionType.QueuedConnection)

    def start(self) -> None:
        self.running = True
        self._thread.start()

    def cancel(self) -> None:
        self._cancel.set()

    def cancelled(self) -> bool:
        return self._cancel.is_set()

    def report(self, stage: str, share: float) -> None:
        self.progress.emit(stage, share)

    def partly(self, result: object) -> None:
        self.part.emit(result)

    def wait(self, seconds: float = 10.0) -> None:
        self._thread.join(seconds)

    def _run(self) -> None:
        outcome: tuple[str, object]
        try:
            outcome = ("done", self._work(self))
        except Cancelled:
            outcome = ("stopped", None)
        except EXPECTED as error:
            outcome = ("failed", str(error))
        except MemoryError:
            outcome = ("failed", "There is not enough memory for this recording; nothing was changed.")
        except Exception as error:  # an error of ours: the user gets a sentence, the terminal the details
            logging.getLogger("ychronos.jobs").exception("a job failed")
            traceback.print_exc()
            outcome = ("failed", f"Something went wrong inside Ychronos ({type(error).__name__}); nothing was lost.")
        with contextlib.suppress(RuntimeError):  # when the window is gone
            self._ended.emit(*outcome)

    def _end(self, kind: str, result: object) -> None:
        self.running = False
        if self.cancelled() and kind != "failed":
            self.stopped.emit()
        elif kind == "done":
            self.done.emit(result)
        elif kind == "failed":
            self.failed.emit(str(result))
        else:
            self.stopped.emit()
        self.over.emit()
        self.setParent(None)  # it is over: nothing but those who still look at it need keep it


class Threads(QObject):
    """Runs the session's work in threads, answers in the thread of the window."""

    def start(self, work: Work, done: Callable[[Any], None], failed: Callable[[str], None]) -> Job:
        job = Job(work, self)
        job.done.connect(done)
        job.failed.connect(failed)
        job.start()
        return job
