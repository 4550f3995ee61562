"""Memory that work has freed goes back to the system: the C library keeps it otherwise, for each thread apart."""

from __future__ import annotations

import contextlib
import ctypes
import resource
from functools import cache
from typing import Any

ARENAS = -8  # the library's number for how many threads may have memory of their own
MOST_ARENAS = 2


@cache
def _library() -> Any:
    return ctypes.CDLL("libc.so.6")


def bound_arenas() -> None:
    """From now on threads share their memory; to be called before there are any."""
    with contextlib.suppress(OSError, AttributeError):
        _library().mallopt(ARENAS, MOST_ARENAS)


def give_back() -> None:
    """Give back what is free now; takes some milliseconds, during which other threads run."""
    with contextlib.suppress(OSError, AttributeError):
        _library().malloc_trim(0)


def used() -> int:
    """Bytes of memory that this process holds now; 0 where the system does not tell."""
    try:
        with open("/proc/self/statm", "rb") as file:
            return int(file.read().split()[1]) * resource.getpagesize()
    except (OSError, ValueError, IndexError):
        return 0
