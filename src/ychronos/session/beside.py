"""A second process of the program, which carries out what listens and decides, so that the window never waits for the
interpreter's lock, and what long work leaves in memory, or an error in a decoder, stays out of the window's process.

:class:`Beside` is the window's end: it starts the process when it is first needed (or warmed), hands work over and
passes on what it reports. The process ends with its parent. Evidence stays where it has been: each end knows by name
what the other already has.
"""

from __future__ import annotations

import contextlib
import itertools
import logging
import os
import queue
import signal
import socket
import subprocess
import sys
import threading
import traceback
import weakref
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from types import MappingProxyType
from typing import Any

import numpy as np

from ..analysis.evidence import AnalysisError, Evidence
from ..audio.decode import AudioError, Cancelled
from ..loading import FILTERS, load_soon
from ..memory import bound_arenas, give_back
from ..tongue import tr
from .jobs import Far, Under
from .wire import Wire, pack, unpack

LOG = logging.getLogger("ychronos.beside")
HUGE = 200 << 20  # bytes of evidence above which what was worked out from it is not kept there
POLL = 0.05  # seconds between two looks whether work is still wanted
NICE = 5  # the window goes first


class Ended(Exception):
    """The process beside ended while it worked; the text is a sentence."""


class _Lent:
    """What the window's end knows of the evidences that the other end has: their names, as long as somebody here holds
    them."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._count = itertools.count()
        self._names: dict[str, weakref.ref[Evidence]] = {}
        self._latest: Evidence | None = None  # one that came before the answer which it belongs to

    def name_of(self, value: object) -> str | None:
        if not isinstance(value, Evidence):
            return None
        with self._lock:
            return next((n for n, e in self._names.items() if e() is value), None)

    def add(self, evidence: Evidence, name: str = "") -> str:
        with self._lock:
            name = name or f"w{next(self._count)}"
            self._names[name] = weakref.ref(evidence)
            return name

    def came(self, evidence: Evidence, name: str) -> None:
        self.add(evidence, name)
        self._latest = evidence

    def get(self, name: str) -> Evidence:
        with self._lock:
            found = self._names[name]()
        assert found is not None
        return found

    def arrived(self) -> None:
        """The answer came: who wants its evidence holds it now."""
        self._latest = None

    def gone(self) -> list[str]:
        """Names of those that nobody here holds any more; they are forgotten."""
        with self._lock:
            out = [n for n, e in self._names.items() if e() is None]
            for name in out:
                del self._names[name]
            return out

    def clear(self) -> None:
        with self._lock:
            self._names.clear()


@dataclass
class _Call:
    """Work under way: what its answer may have in common with it, and what came of it so far."""

    wire: Wire
    shared: Sequence[object]
    answers: queue.SimpleQueue[tuple[str, Any]] = field(default_factory=queue.SimpleQueue)


class Beside:
    """The window's end. Any thread may call :meth:`run`."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._wire: Wire | None = None
        self._process: subprocess.Popen[bytes] | None = None
        self._calls: dict[int, _Call] = {}
        self._numbers = itertools.count(1)
        self._lent = _Lent()
        self._closed = False

    def warm(self) -> None:
        """Start the process now, so that it is ready when it is needed."""
        with contextlib.suppress(OSError):
            self._ready()

    def run(self, work: Far, under: Under) -> Any:
        """Carry out ``work`` there and return what it gives; what it raises is raised here.

        Raises ``Ended`` when the process ends meanwhile, ``OSError`` when there is none to be had.
        """
        wire = self._ready()
        number, call = next(self._numbers), _Call(wire, work.shared())
        answers = call.answers
        self._calls[number] = call
        try:
            try:
                self._lend(wire, work)
                wire.send(("work", number, work), self._lent.name_of)
            except (BrokenPipeError, ConnectionError):
                answers.put(("ended", None))
            stopping = False
            while True:
                try:
                    kind, value = answers.get(timeout=POLL)
                except queue.Empty:
                    if not stopping and under.cancelled():
                        stopping = True
                        with contextlib.suppress(OSError):
                            wire.send(("stop", number, None))
                    continue
                if kind == "report":
                    under.report(*value)
                elif kind == "part":
                    under.partly(value)
                elif kind == "done":
                    self._lent.arrived()
                    return value
                elif kind == "raised":
                    try:
                        raise value
                    finally:  # else the error and this frame hold each other, and the work's song and evidence with them
                        del value
                else:
                    raise Ended(
                        tr(
                            "The part of Ychronos that listens ended unexpectedly; nothing was lost, and it starts again when it is needed."
                        )
                    )
        finally:
            self._calls.pop(number, None)

    def _lend(self, wire: Wire, work: Far) -> None:
        """Take back what nobody needs there any more, and send the evidence of this work if it is not there."""
        for name in self._lent.gone():
            wire.send(("forget", name, None))
        for evidence in work.evidences():
            if self._lent.name_of(evidence) is None:
                wire.send(("evidence", self._lent.add(evidence), evidence))

    def close(self) -> None:
        """End the process; work under way ends with it."""
        with self._lock:
            self._closed = True
            if self._process is not None:
                self._process.kill()
                self._process.wait()

    @property
    def pid(self) -> int | None:
        """The number of the process, None while there is none."""
        process = self._process
        return process.pid if process is not None and process.poll() is None else None

    def _ready(self) -> Wire:
        with self._lock:
            if self._closed:
                raise OSError("it was closed")
            if self._wire is not None:
                return self._wire
            mine, its = socket.socketpair(socket.AF_UNIX, socket.SOCK_STREAM)
            with its:
                places = [str(Path(__file__).resolve().parents[2]), os.environ.get("PYTHONPATH", "")]
                self._process = subprocess.Popen(
                    [sys.executable, "-m", __spec__.name, str(its.fileno()), str(LOG.getEffectiveLevel())],
                    pass_fds=[its.fileno()],
                    stdin=subprocess.DEVNULL,
                    cwd="/",
                    env={**os.environ, "PYTHONPATH": os.pathsep.join(p for p in places if p)},
                )
            wire = self._wire = Wire(mine)
            threading.Thread(
                target=self._listen, args=(wire, self._process), name="ychronos-beside", daemon=True
            ).start()
            return wire

    def _listen(self, wire: Wire, process: subprocess.Popen[bytes]) -> None:
        try:
            while True:
                kind, number, value = wire.receive(self._known)
                if kind == "evidence":
                    self._lent.came(value, number)
                elif kind == "log":
                    logging.getLogger(value[0]).log(*value[1:])
                elif number in self._calls:
                    self._calls[number].answers.put((kind, value))
                del value  # while it waits for the next message
        except (EOFError, OSError):
            pass
        except Exception:
            LOG.exception("what came from the process beside could not be read")
            process.kill()
        with self._lock:
            if self._wire is wire:
                self._wire = None
                self._lent.clear()
        wire.close()
        code = process.wait()
        if not self._closed:
            LOG.error("the process beside ended (code %s)", code)
        for call in list(self._calls.values()):
            if call.wire is wire:  # not what another process has been asked for meanwhile
                call.answers.put(("ended", None))

    def _known(self, name: str | tuple[int, int]) -> object:
        return self._lent.get(name) if isinstance(name, str) else self._calls[name[0]].shared[name[1]]


# ---------------------------------------------------------------- the other process


class _Under:
    """What work gets there."""

    def __init__(self, server: _Server, number: int) -> None:
        self._server, self._number = server, number
        self.stop = threading.Event()

    def report(self, stage: str, share: float) -> None:
        self._server.tell("report", self._number, (stage, share))

    def partly(self, result: object) -> None:
        self._server.tell("part", self._number, result)

    def cancelled(self) -> bool:
        return self.stop.is_set()


class _Logs(logging.Handler):
    """Sends what is logged to the window's log."""

    def __init__(self, server: _Server) -> None:
        super().__init__()
        self._server = server

    def emit(self, record: logging.LogRecord) -> None:
        words = record.getMessage()
        if record.exc_info:
            words += "\n" + "".join(traceback.format_exception(*record.exc_info))
        with contextlib.suppress(OSError):
            self._server.wire.send(("log", 0, (record.name, record.levelno, "%s", words)))


class _Server:
    """Serves one window."""

    def __init__(self, end: socket.socket) -> None:
        self.wire = Wire(end)
        self._known: dict[str, Evidence] = {}  # until the window forgets it
        self._count = itertools.count()
        self._under: dict[int, _Under] = {}
        self._turns: defaultdict[type, threading.Lock] = defaultdict(threading.Lock)  # of work of a kind one at a time

    def tell(self, kind: str, number: int, value: object, names: Mapping[int, object] = MappingProxyType({})) -> None:
        """``names`` are those of what the window has, by id."""
        try:
            self.wire.send((kind, number, value), lambda one: names.get(id(one)))
        except (BrokenPipeError, ConnectionError):
            os._exit(0)  # nobody is there any more

    def serve(self) -> None:
        while True:
            try:
                kind, number, value = self.wire.receive(lambda name: self._known[name])
            except (EOFError, ConnectionError):
                os._exit(0)  # with its parent, whatever is under way
            if kind == "work":
                under = self._under[number] = _Under(self, number)
                threading.Thread(target=self._carry_out, args=(number, value, under), daemon=True).start()
            elif kind == "evidence":
                self._known[number] = value
            elif kind == "forget":
                self._known.pop(number, None)
            elif number in self._under:
                self._under[number].stop.set()
            del value

    def _carry_out(self, number: int, work: Far, under: _Under) -> None:
        kind: str
        value: object
        names: dict[int, object] = {}
        shared = work.shared()
        try:
            with self._turns[type(work)]:
                if under.cancelled():  # while it waited: what nobody wants any more must not hold up the others
                    raise Cancelled
                value = work(under)
            names = {id(part): (number, i) for i, part in enumerate(shared) if part != ()}
            names |= {id(e): self._share(e) for e in work.found(value)}
            kind = "done"
        except BaseException as error:
            kind, value = "raised", error.with_traceback(None)
            if not isinstance(error, (AudioError, AnalysisError, Cancelled)):
                LOG.exception("work failed")
        self._under.pop(number, None)
        try:
            self.tell(kind, number, value, names)
        except Exception as error:  # what cannot be sent
            LOG.exception("an answer could not be sent")
            self.tell("raised", number, RuntimeError(f"{type(error).__name__}: {error}"))
        del work, value, shared
        give_back()

    def _share(self, evidence: Evidence) -> str:
        """From now on both ends know this evidence by the name returned, and hold it once: in the same memory."""
        name = f"b{next(self._count)}"
        packed = pack(("evidence", name, evidence))
        _, _, shared = unpack(packed.again())
        self._known[name] = shared
        if sum(a.nbytes for a in vars(evidence).values() if isinstance(a, np.ndarray)) < HUGE:
            vars(shared).update({k: v for k, v in vars(evidence).items() if k not in vars(shared)})
        self.wire.send_packed(packed)
        return name


def main() -> None:
    """Entry point of the process."""
    bound_arenas()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl+C in a terminal is the window's to answer
    with contextlib.suppress(OSError):
        os.nice(NICE)
    server = _Server(socket.socket(fileno=int(sys.argv[1])))
    root = logging.getLogger("ychronos")
    root.setLevel(int(sys.argv[2]))
    root.addHandler(_Logs(server))
    root.propagate = False
    from . import opening, redecider  # noqa: F401 - what work needs is loaded before there is any

    load_soon(FILTERS, 10.0)  # a line may be wanted; what is opened at the start goes first

    server.serve()


if __name__ == "__main__":
    # Not as __main__: what is pickled must have one home in both processes.
    from ychronos.session import beside

    beside.main()
