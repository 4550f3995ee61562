"""Libraries that take long to load, loaded before somebody waits for them."""

from __future__ import annotations

import importlib
import threading
from collections.abc import Callable

FILTERS = "scipy.signal"  # about a second

_loaded: set[str] = set()  # a library is among sys.modules before it is ready


def is_loaded(library: str) -> bool:
    """Whether a library is ready: importing it takes no time."""
    return library in _loaded


def load_soon(library: str, seconds: float = 3.0, then: Callable[[], object] | None = None) -> None:
    """Load a library in a thread of its own after so many seconds, so that what first needs it does not wait.

    ``then`` is called when it is ready, in that thread; at once and in this one if it is.
    """
    if library in _loaded:
        if then is not None:
            then()
        return

    def load() -> None:
        importlib.import_module(library)
        _loaded.add(library)
        if then is not None:
            then()

    later = threading.Timer(seconds, load)
    later.daemon = True
    later.start()
