"""The journal of what is said: on disk as it is acknowledged, replayed after a crash.

A journal is one file of lines. Each line is a CRC-32 in hex, a space and a JSON object, so that a line that was cut by
a crash, or that the disk damaged, is known for what it is; what stands before it counts. The first line says whose
work it is and where it belongs, the second holds the whole song, each later one what became different, with the
sentence that was said. Now and then the file is written anew, whole, by way of a temporary file.

A line is written before what was said is acknowledged: however the program ends after that, it is not lost. It is also
flushed to the disk at once. A disk that takes its time is flushed beside the window, so that nobody waits for it: then
the power must stay for that long.
"""

from __future__ import annotations

import contextlib
import os
import threading
import time
import zlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar

import msgspec

from ..formats import atomic, project
from ..song.model import Song
from ..tongue import tr

SUFFIX = ".journal"
LARGEST = 256 << 20  # bytes that are read of one
AFRESH = 4  # times the size of the whole song at which the file is written anew
SMALLEST = 1 << 20  # bytes below which it is not
PATIENCE = 0.03  # seconds that a flush may take before the next is done beside the window


class Head(msgspec.Struct):
    """The first line. ``boot``, ``process`` and ``started`` are who writes; ``mark`` is what the project's file was."""

    boot: str
    process: int
    started: str
    saved_as: str
    recording: str
    mark: project.FileMark | None
    when: str


class _Whole(msgspec.Struct):
    """The whole song; how many statements led to it, and the last of them."""

    song: dict[str, Any]
    count: int
    said: str


class _Change(msgspec.Struct, omit_defaults=True):
    """``put``: fields with their new value; ``splice``: of lists from where, how many go, what comes; ``gone``: fields."""

    when: str = ""
    said: str = ""
    put: dict[str, Any] = {}
    splice: dict[str, tuple[int, int, list[Any]]] = {}
    gone: list[str] = []


def changed(old: dict[str, Any], new: dict[str, Any], when: str, said: str) -> _Change:
    """What makes ``new`` of ``old``: two plain documents."""
    put: dict[str, Any] = {}
    splice: dict[str, tuple[int, int, list[Any]]] = {}
    for name, value in new.items():
        before = old.get(name, _Change)
        if value == before:
            continue
        if isinstance(value, list) and isinstance(before, list):
            splice[name] = _splice(before, value)
        else:
            put[name] = value
    return _Change(when, said, put, splice, [name for name in old if name not in new])


def _splice(old: list[Any], new: list[Any]) -> tuple[int, int, list[Any]]:
    shorter = min(len(old), len(new))
    first = next((i for i in range(shorter) if old[i] != new[i]), shorter)
    last = next((i for i in range(shorter - first) if old[-1 - i] != new[-1 - i]), shorter - first)
    return first, len(old) - first - last, new[first : len(new) - last]


def applied(document: dict[str, Any], change: _Change) -> dict[str, Any]:
    """A plain document with a change made; raises KeyError, TypeError or ValueError where it does not fit."""
    out = {k: v for k, v in document.items() if k not in change.gone}
    for name, (first, gone, come) in change.splice.items():
        old = out[name]
        if not 0 <= first <= first + gone <= len(old):
            raise ValueError(f"a change of {name} does not fit")
        out[name] = [*old[:first], *come, *old[first + gone :]]
    return {**out, **change.put}


def _line(value: object) -> bytes:
    text = project.encoded(msgspec.to_builtins(value))
    return b"%08x %s\n" % (zlib.crc32(text), text)


def _read_line(line: bytes) -> bytes | None:
    """The JSON of a line; None when it is damaged."""
    text = line[9:-1]
    try:
        good = line.endswith(b"\n") and line[8:9] == b" " and int(line[:8], 16) == zlib.crc32(text)
    except ValueError:
        return None
    return text if good else None


@dataclass(frozen=True)
class Replayed:
    """What a journal holds: the song at its end, how many statements led there, the last of them and when; ``cut``
    when lines at the end were damaged and left out."""

    head: Head
    song: Song
    said: int
    last: str
    when: str
    cut: bool


class Damaged(Exception):
    """A journal that nothing can be made of."""


def read_head(path: Path) -> Head:
    """Whose journal it is; raises :class:`Damaged`, or OSError."""
    with open(path, "rb") as file:
        text = _read_line(file.readline(1 << 16))
    try:
        return msgspec.json.decode(text or b"", type=Head)
    except project.DAMAGE as error:
        raise Damaged(f"{path.name}: {error}") from None


def replay(path: Path) -> Replayed:
    """Read a journal; raises :class:`Damaged`, or OSError."""
    with open(path, "rb") as file:
        lines = file.read(LARGEST).splitlines(keepends=True)
    texts = [_read_line(line) for line in lines]
    good = texts.index(None) if None in texts else len(texts)
    try:
        head = msgspec.json.decode(texts[0] or b"", type=Head)
        whole = msgspec.json.decode(texts[1] or b"", type=_Whole)
        document, last, when, said = whole.song, whole.said, head.when, whole.count
        for text in texts[2:good]:
            change = msgspec.json.decode(text or b"", type=_Change)
            document = applied(document, change)
            if change.said:
                last, when, said = change.said, change.when, said + 1
        return Replayed(head, project.song_of(document), said, last, when, good < len(texts))
    except (IndexError, *project.DAMAGE) as error:
        raise Damaged(f"{path.name}: {error}") from None


class Flusher:
    """Brings what was written onto the disk: at once, or by a thread of its own once the disk turned out to be slow. What
    goes wrong there is raised at the next flush."""

    def __init__(self) -> None:
        self.slow = False
        self._trouble: OSError | None = None
        self._thread: threading.Thread | None = None

    def flush(self, file: int) -> None:
        if self._trouble is not None:
            trouble, self._trouble = self._trouble, None
            raise trouble
        if not self.slow:
            begin = time.monotonic()
            os.fdatasync(file)
            self.slow = time.monotonic() - begin > PATIENCE
        elif self._thread is None or not self._thread.is_alive():
            self._thread = threading.Thread(
                target=self._beside, args=(os.dup(file),), name="ychronos-flush", daemon=True
            )
            self._thread.start()
        else:  # what is under way may have begun before this was written
            last, copy = self._thread, os.dup(file)
            self._thread = threading.Thread(target=self._beside, args=(copy, last), name="ychronos-flush", daemon=True)
            self._thread.start()

    def _beside(self, file: int, after: threading.Thread | None = None) -> None:
        if after is not None:
            after.join()
        try:
            begin = time.monotonic()
            os.fdatasync(file)
            self.slow = time.monotonic() - begin > PATIENCE
        except OSError as error:
            self._trouble = error
        finally:
            os.close(file)


class Journal:
    """The journal of one open song; nothing is written before the first statement."""

    open_here: ClassVar[set[Path]] = set()  # what this process writes just now

    def __init__(self, path: Path) -> None:
        self.path = path
        self.flusher = Flusher()
        self._file: int | None = None
        self._document: dict[str, Any] = {}
        self._size = self._whole = self._count = 0
        self._said = ""

    @property
    def begun(self) -> bool:
        return self._file is not None

    def _afresh(self, document: dict[str, Any], head: Head) -> None:
        """Write the whole song, where there was a journal by way of another file that takes its place."""
        self.close()
        new = self.path.with_suffix(".new")
        try:
            data = _line(head) + _line(_Whole(document, self._count, self._said))
            self.path.parent.mkdir(parents=True, exist_ok=True)
            file = os.open(new, os.O_WRONLY | os.O_APPEND | os.O_CREAT | os.O_TRUNC | os.O_CLOEXEC, 0o600)
        except ValueError as error:
            raise atomic.SaveError(str(error)) from None
        except OSError as error:
            raise atomic.SaveError(
                tr("{parent} cannot be written ({strerror})", parent=self.path.parent, strerror=error.strerror)
            ) from None
        try:
            _write_whole(file, data)
            self.flusher.flush(file)
            os.replace(new, self.path)
        except OSError as error:
            os.close(file)
            with contextlib.suppress(OSError):
                new.unlink()
            raise atomic.SaveError(
                tr("{parent} cannot be written ({strerror})", parent=self.path.parent, strerror=error.strerror)
            ) from None
        self._file = file
        self.open_here.add(self.path)
        self._document, self._size, self._whole = document, len(data), len(data)

    def add(self, song: Song, head: Head, said: str, flush: bool = True) -> None:
        """Append what is different now; with ``flush`` it is on the disk when this returns. ``said`` is "" for what was
        decided. Raises :class:`~..formats.atomic.SaveError`; the journal then begins anew at the next call."""
        document = project.plain(song)
        if said:
            self._count, self._said = self._count + 1, said
        if self._file is None or self._size > max(SMALLEST, AFRESH * self._whole):
            self._afresh(document, head)
            return
        try:
            line = _line(changed(self._document, document, head.when, said))
            _write_whole(self._file, line)
            if flush:
                self.flusher.flush(self._file)
        except (OSError, ValueError) as error:
            self.close()
            why = error.strerror if isinstance(error, OSError) else str(error)
            raise atomic.SaveError(tr("{parent} cannot be written ({why})", parent=self.path.parent, why=why)) from None
        self._document = document
        self._size += len(line)

    def close(self) -> None:
        if self._file is not None:
            os.close(self._file)
            self._file = None
            self.open_here.discard(self.path)

    def clear(self) -> None:
        """The work is saved, or given up: the journal goes."""
        self.close()
        self._document, self._count, self._said = {}, 0, ""
        with contextlib.suppress(OSError):
            self.path.unlink()


def _write_whole(file: int, data: bytes) -> None:
    rest = memoryview(data)
    while rest:
        rest = rest[os.write(file, rest) :]
