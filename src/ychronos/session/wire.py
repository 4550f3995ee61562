"""Python values between two processes of this program, over a socket, large arrays without a copy.

A message is a pickle; buffers above :data:`LARGE` travel as files in memory whose descriptors are passed along, samples
that lie in a temporary file as that file. Both ends are ours: nothing from outside is ever read by this.
"""

from __future__ import annotations

import contextlib
import io
import mmap
import os
import pickle
import socket
import struct
import threading
from collections.abc import Callable
from dataclasses import dataclass, fields, is_dataclass, replace
from fractions import Fraction
from typing import Any

import numpy as np

from ..audio.recording import SPOOLED

LARGE = 1 << 16  # bytes of a buffer from which on it gets a file of its own
MOST = 200  # descriptors in a message; the system allows some more
HEAD = struct.Struct("<QI")  # bytes of the pickle, number of descriptors

Named = Callable[[Any], Any]  # a name for an object that the other end already has, or None; not asked of plain values


def _in_memory(data: memoryview) -> int:
    """A file in memory with these bytes; its descriptor."""
    file = os.memfd_create("ychronos", os.MFD_CLOEXEC)
    try:
        left = data.cast("B") if data.nbytes else data
        while len(left):
            left = left[os.write(file, left[: 64 << 20]) :]
    except OSError:
        os.close(file)
        raise
    return file


def _mapped(file: int, size: int) -> mmap.mmap:
    """A file's bytes (all for 0), which nobody else's writing changes; closes the descriptor."""
    try:
        return mmap.mmap(file, size, access=mmap.ACCESS_COPY)
    finally:
        os.close(file)


def _spooled(data: mmap.mmap, dtype: str, shape: tuple[int, ...]) -> np.ndarray[Any, Any]:
    return np.frombuffer(data, dtype)[: int(np.prod(shape))].reshape(shape)


NAMES: dict[type[Any], tuple[str, ...] | None] = {}


def names_of(kind: type[Any]) -> tuple[str, ...] | None:
    """The names of a data class's fields, None for what is none; looked up once, as a song has a thousand parts."""
    if kind not in NAMES:
        NAMES[kind] = tuple(f.name for f in fields(kind)) if is_dataclass(kind) else None
    return NAMES[kind]


def _made(kind: type, *values: Any) -> Any:
    """A data class with these values, without what it had worked out from them."""
    out: Any = object.__new__(kind)
    for name, value in zip(names_of(kind) or (), values, strict=True):
        object.__setattr__(out, name, value)
    return out


def _file(place: int) -> Any:
    """Stands for a file of a message; what reads the message puts it in."""
    raise pickle.UnpicklingError(f"file {place} of a message outside of it")


def _known(name: Any) -> Any:
    """Stands for a value that the other end has; what reads the message puts it in."""
    raise pickle.UnpicklingError(f"{name} of a message outside of it")


class _Buffer:
    """Stands for the file of samples on disk with this place among the message's descriptors."""

    def __init__(self, place: int) -> None:
        self.place = place


class _Files:
    """The files of a message. Apart from the pickler, which would hold itself, and the whole message, if it were its own
    callback for buffers."""

    def __init__(self) -> None:
        self.files: list[int] = []
        self.sizes: list[int] = []
        self.places: list[int] = []  # of buffers, in their order

    def add(self, file: int, size: int) -> int:
        self.files.append(file)
        self.sizes.append(size)
        return len(self.files) - 1

    def buffer(self, buffer: pickle.PickleBuffer) -> bool:
        raw = buffer.raw()
        if raw.nbytes < LARGE or len(self.files) >= MOST:
            return True
        self.places.append(self.add(_in_memory(raw), raw.nbytes))
        return False


class _Pickler(pickle.Pickler):
    def __init__(self, out: io.BytesIO, files: _Files, named: Named) -> None:
        super().__init__(out, protocol=5, buffer_callback=files.buffer)
        self._files, self._named = files, named

    def reducer_override(self, value: Any) -> Any:
        # not by persistent_id, which would be asked of every number and text of a song as well
        if isinstance(value, Fraction):
            return Fraction, (value.numerator, value.denominator)
        if isinstance(value, _Buffer):
            return _file, (value.place,)
        if (name := self._named(value)) is not None:
            return _known, (name,)
        names = names_of(type(value))
        if names is not None:
            return _made, (type(value), *(getattr(value, name) for name in names))
        if not isinstance(value, np.memmap):
            return NotImplemented
        file = SPOOLED.get(value._mmap)  # type: ignore[attr-defined]
        if file is None or not value.flags.c_contiguous or len(self._files.files) >= MOST:
            return np.asarray(value).__reduce_ex__(5)
        return _spooled, (_Buffer(self._files.add(os.dup(file.fileno()), 0)), value.dtype.str, value.shape)


class _Unpickler(pickle.Unpickler):
    def __init__(self, data: bytes, maps: list[mmap.mmap], places: list[int], known: Named) -> None:
        super().__init__(io.BytesIO(data), buffers=[maps[p] for p in places])
        self._maps, self._known = maps, known

    def find_class(self, module: str, name: str) -> Any:
        if module == __name__ and name in ("_file", "_known"):
            return self._maps.__getitem__ if name == "_file" else self._known
        return super().find_class(module, name)


@dataclass(frozen=True)
class Packed:
    """A message on its way: a pickle and descriptors, which whoever holds it must send, unpack or :meth:`close`."""

    body: bytes
    sizes: list[int]
    places: list[int]
    files: list[int]

    def again(self) -> Packed:
        return replace(self, files=[os.dup(f) for f in self.files])

    def close(self) -> None:
        for file in self.files:
            os.close(file)


def pack(message: object, named: Named = lambda _: None) -> Packed:
    """Raises what pickling raises."""
    out, files = io.BytesIO(), _Files()
    try:
        _Pickler(out, files, named).dump(message)
    except BaseException:
        for file in files.files:
            os.close(file)
        raise
    return Packed(out.getvalue(), files.sizes, files.places, files.files)


def unpack(packed: Packed, known: Named = lambda name: name) -> Any:
    """The message; its arrays lie in the files that came with it. Closes the descriptors."""
    maps = [_mapped(f, n) for f, n in zip(packed.files, packed.sizes, strict=True)]
    return _Unpickler(packed.body, maps, packed.places, known).load()


class Wire:
    """One end of the connection. Any thread may send; one thread receives."""

    def __init__(self, end: socket.socket) -> None:
        self._end = end
        self._lock = threading.Lock()

    def send(self, message: object, named: Named = lambda _: None) -> None:
        """Raises ``OSError`` when the other end is gone; what cannot be pickled raises before anything is sent."""
        self.send_packed(pack(message, named))

    def send_packed(self, packed: Packed) -> None:
        """As :meth:`send`; closes the descriptors."""
        try:
            body = pickle.dumps((packed.sizes, packed.places)) + packed.body
            with self._lock:
                socket.send_fds(self._end, [HEAD.pack(len(body), len(packed.files))], packed.files)
                self._end.sendall(body)
        finally:
            packed.close()

    def receive(self, known: Named = lambda name: name) -> Any:
        """The next message. Raises ``EOFError`` when the other end is gone."""
        head, files, _, _ = socket.recv_fds(self._end, HEAD.size, MOST + 1)
        if not head:
            raise EOFError
        while len(head) < HEAD.size:
            head += self._exactly(HEAD.size - len(head))
        size, count = HEAD.unpack(head)
        body = self._exactly(size)
        assert len(files) == count
        start = io.BytesIO(body)
        sizes, places = pickle.load(start)
        return unpack(Packed(body[start.tell() :], sizes, places, files), known)

    def _exactly(self, size: int) -> bytes:
        out = bytearray(size)
        view, at = memoryview(out), 0
        while at < size:
            got = self._end.recv_into(view[at:])
            if not got:
                raise EOFError
            at += got
        return bytes(out)

    def close(self) -> None:
        """From now on nothing is sent or received, also by a thread that waits for it."""
        with contextlib.suppress(OSError):
            self._end.shutdown(socket.SHUT_RDWR)
        self._end.close()
