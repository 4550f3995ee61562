"""The log: what happened, for whoever looks for a fault. A few files in the state folder that replace each other."""

from __future__ import annotations

import logging
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

from .paths import state_folder

NAME, BYTES, OLDER = "ychronos.log", 500_000, 3
LEVELS = ("debug", "info", "warning", "error")


def log_file() -> Path:
    """Where the log is written."""
    return state_folder() / NAME


def start(level: str = "info") -> None:
    """Begin to write the log; a place that cannot be written only means that there is none."""
    root = logging.getLogger("ychronos")
    root.setLevel(level.upper())
    for old in list(root.handlers):
        root.removeHandler(old)
        old.close()
    try:
        log_file().parent.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = RotatingFileHandler(log_file(), maxBytes=BYTES, backupCount=OLDER, encoding="utf-8")
    except OSError:
        handler = logging.StreamHandler(sys.stderr)
        handler.setLevel(logging.ERROR)
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    root.addHandler(handler)
