"""Long work beside the window: one function in a thread, its progress and result as Qt signals."""

from __future__ import annotations

import contextlib
import logging
import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from ..analysis.evidence import AnalysisError
from ..audio.decode import AudioError, Cancelled
from ..formats.project import ProjectError
from ..memory import give_back
from ..session.beside import Beside, Ended
from ..session.jobs import Far
from ..tongue import tr

Work = Callable[["Job"], Any]
EXPECTED = (AudioError, AnalysisError, ProjectError)
UNDER_WAY: set[threading.Thread] = set()


def _there(work: Far, beside: Beside) -> Work:
    """The same work, carried out by the process beside; here when none can be started."""

    def run(job: Job) -> object:
        try:
            return beside.run(work, job)
        except OSError:
            logging.getLogger("ychronos.jobs").exception("there is no process beside")
            return work(job)

    return run


class Job(QObject):
    """Runs ``work(job)`` in a thread, or in the process ``beside`` when it can be carried out there. The work reports with :meth:`report` and :meth:`partly`, and asks
    :meth:`cancelled` often. Signals arrive in the thread of the window."""

    progress = Signal(str, float)
    part = Signal(object)
    done = Signal(object)
    failed = Signal(str)
    stopped = Signal()
    over = Signal()
    _ended = Signal(str, object)

    def __init__(self, work: Work, parent: QObject | None = None, beside: Beside | None = None) -> None:
        super().__init__(parent)
        self._work: Work | None = work
        self._later = 0.0
        if beside is not None and isinstance(work, Far):
            self._work, self._later = _there(work, beside), work.later
        self._cancel = threading.Event()
        self.running = False
        self._ended.connect(self._end, Qt.ConnectionType.QueuedConnection)

    def start(self) -> None:
        self.running = True
        if self._later:
            QTimer.singleShot(round(1000 * self._later), self, self._begin)
        else:
            self._begin()

    def _begin(self) -> None:
        if self.cancelled():
            self._end("stopped", None)
            return
        work, self._work = self._work, None  # whoever still holds the job holds nothing of the work
        thread = threading.Thread(target=self._run, args=(work,), name="ychronos-job", daemon=True)
        UNDER_WAY.add(thread)  # from here on, not from when it first gets its turn
        thread.start()

    def cancel(self) -> None:
        self._cancel.set()

    def cancelled(self) -> bool:
        return self._cancel.is_set()

    def report(self, stage: str, share: float) -> None:
        self._tell(self.progress, stage, share)

    def partly(self, result: object) -> None:
        self._tell(self.part, result)

    def _tell(self, signal: Any, *values: object) -> None:
        with contextlib.suppress(RuntimeError):  # when the window is gone
            signal.emit(*values)

    def _run(self, work: Work) -> None:
        outcome: tuple[str, object]
        try:
            outcome = ("done", work(self))
        except Cancelled:
            outcome = ("stopped", None)
        except (*EXPECTED, Ended) as error:
            outcome = ("failed", str(error))
        except MemoryError:
            outcome = ("failed", tr("There is not enough memory for this recording; nothing was changed."))
        except BaseException as error:  # an error of ours: the user gets a sentence, the log the details
            logging.getLogger("ychronos.jobs").exception("a job failed")
            outcome = (
                "failed",
                tr("Something went wrong inside Ychronos ({name}); nothing was lost.", name=type(error).__name__),
            )
        self._tell(self._ended, *outcome)
        UNDER_WAY.discard(threading.current_thread())  # what is not under way has its answer on its way
        del work, outcome
        give_back()

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
        # What is connected holds the song, its sound and its evidence: it goes now, not when somebody forgets the job. Its parent
        # has it until then: the thread, which may still hold it too, must not be the last to let it go.
        self.deleteLater()


def leave(seconds: float = 2.0) -> bool:
    """Wait a moment for work that was asked to stop; False when some of it still goes on."""
    for thread in list(UNDER_WAY):
        thread.join(seconds)
    return not UNDER_WAY


class Threads(QObject):
    """Runs the session's work in threads, answers in the thread of the window. What another process can carry out is
    carried out ``beside``, if there is one; the thread then only waits for it."""

    def __init__(self, parent: QObject, beside: Beside | None = None) -> None:
        super().__init__(parent)
        self.beside = beside

    def start(self, work: Work, done: Callable[[Any], None], failed: Callable[[str], None]) -> Job:
        job = Job(work, self, self.beside)
        job.done.connect(done)
        job.failed.connect(failed)
        job.start()
        return job
