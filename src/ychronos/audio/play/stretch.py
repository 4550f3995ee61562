"""Slower or faster at the same pitch, higher or lower at the same speed: the Rubber Band library, live.

The library (Debian's ``librubberband2``, version 3 or later) is called through its C interface; its R3 engine with
a short window keeps time within a few milliseconds and costs a few per cent of a core. A :class:`Stretcher` is
made for one speed and one transposition and primed with what precedes its first sample, so that its output
begins exactly where it is asked to; for another speed another one is made.
Conventions: float32 frames (n, 2); speed 1 is the record's own.
"""

from __future__ import annotations

import ctypes
import ctypes.util
from collections.abc import Callable
from functools import cache

import numpy as np

from ...tongue import tr
from ..decode import Samples

LOWEST, HIGHEST = 0.25, 2.0
_REAL_TIME, _FINER, _SHORT, _NO_THREADS, _TOGETHER, _CONSISTENT = (
    0x1, 0x20000000, 0x00100000, 0x00010000, 0x10000000, 0x04000000,
)  # fmt: skip
_BLOCK = 4096
Read = Callable[[int], Samples]


class StretchMissing(Exception):
    """The stretching library is not installed; the text is a sentence for the user."""


@cache
def _library() -> ctypes.PyDLL:
    for name in ("librubberband.so.2", ctypes.util.find_library("rubberband")):
        if not name:
            continue
        try:
            # a library whose calls keep the interpreter's lock: they are short, and to get it back beside an
            # analysis would take longer than the calls themselves
            found = ctypes.PyDLL(name)
        except OSError:
            continue
        pointers = ctypes.POINTER(ctypes.POINTER(ctypes.c_float))
        state, count = ctypes.c_void_p, ctypes.c_uint
        shapes = {
            "new": (state, [count, count, ctypes.c_int, ctypes.c_double, ctypes.c_double]),
            "delete": (None, [state]),
            "set_max_process_size": (None, [state, count]),
            "get_samples_required": (count, [state]),
            "get_preferred_start_pad": (count, [state]),
            "get_start_delay": (count, [state]),
            "process": (None, [state, pointers, count, ctypes.c_int]),
            "available": (ctypes.c_int, [state]),
            "retrieve": (count, [state, pointers, count]),
        }
        try:
            for function, (result, arguments) in shapes.items():
                call = getattr(found, f"rubberband_{function}")
                call.restype, call.argtypes = result, arguments
        except AttributeError:  # an older library without the finer engine
            continue
        return found
    raise StretchMissing(tr("Changing the speed needs the library Rubber Band; install the package librubberband2."))


def available() -> bool:
    """Whether speed and pitch can be changed on this machine."""
    try:
        _library()
    except StretchMissing:
        return False
    return True


class Stretcher:
    """Output at a speed and transposition, made from frames that ``read(count)`` gives in order.

    Raises
    ------
    StretchMissing
        when the library is not installed.
    """

    def __init__(self, rate: int, speed: float, cents: float, read: Read, lead: Callable[[int], Samples]) -> None:
        self._lib = _library()
        options = _REAL_TIME | _FINER | _SHORT | _NO_THREADS | _TOGETHER | (_CONSISTENT if cents else 0)
        self.speed, self.cents, self._read = speed, cents, read
        self._state = self._lib.rubberband_new(rate, 2, options, 1.0 / speed, 2 ** (cents / 1200))
        self._lib.rubberband_set_max_process_size(self._state, _BLOCK)
        self._in = np.zeros((2, _BLOCK), np.float32)
        self._out = np.zeros((2, _BLOCK), np.float32)
        self._in_at, self._out_at = _pointers(self._in), _pointers(self._out)
        pad = int(self._lib.rubberband_get_preferred_start_pad(self._state))
        skip = int(self._lib.rubberband_get_start_delay(self._state))
        self._feed(lead(pad))
        while skip:  # what comes out first is from before the beginning
            skip -= len(self.take(min(skip, 1024)))

    def __del__(self) -> None:
        if getattr(self, "_state", None):
            self._lib.rubberband_delete(self._state)
            self._state = None

    def _feed(self, frames: Samples) -> None:
        for start in range(0, len(frames), _BLOCK):
            part = frames[start : start + _BLOCK]
            self._in[:, : len(part)] = part.T
            self._lib.rubberband_process(self._state, self._in_at, len(part), 0)

    def take(self, count: int) -> Samples:
        """The next ``count`` frames, at most 4096."""
        lib = self._lib
        while lib.rubberband_available(self._state) < count:
            self._feed(self._read(min(_BLOCK, int(lib.rubberband_get_samples_required(self._state)) or 256)))
        got = int(lib.rubberband_retrieve(self._state, self._out_at, count))
        return np.ascontiguousarray(self._out[:, :got].T)


def _pointers(array: Samples) -> ctypes.Array[ctypes._Pointer[ctypes.c_float]]:
    """Pointers to the channels of an array (2, n)."""
    kind = ctypes.POINTER(ctypes.c_float)
    return (kind * 2)(*(row.ctypes.data_as(kind) for row in array))
