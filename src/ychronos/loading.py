"""Libraries that take long to load, loaded before somebody waits for them."""

from __future__ import annotations

import importlib
import sys
import threading

FILTERS = "scipy.signal"  # about a second


def load_soon(library: str, seconds: float = 3.0) -> None:
    """Load a library in a thread of its own after so many seconds, so that what first needs it does not wait."""
    if library not in sys.modules:
        later = threading.Timer(seconds, importlib.import_module, (library,))
        later.daemon = True
        later.start()
