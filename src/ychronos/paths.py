"""Where files of the user's own live: cache, state, settings."""

from __future__ import annotations

import os
from pathlib import Path

import platformdirs

NAME = "ychronos"


def cache_folder() -> Path:
    """Evidence of analysed recordings; may be deleted at any time. ``YCHRONOS_CACHE`` overrides it."""
    return Path(os.environ.get("YCHRONOS_CACHE") or platformdirs.user_cache_path(NAME)) / "evidence"


def state_folder() -> Path:
    """Autosaved work. ``YCHRONOS_STATE`` overrides it."""
    return Path(os.environ.get("YCHRONOS_STATE") or platformdirs.user_state_path(NAME))


def settings_file() -> Path:
    """Window state, recent files, preferences. ``YCHRONOS_SETTINGS`` overrides it."""
    return Path(os.environ.get("YCHRONOS_SETTINGS") or platformdirs.user_config_path(NAME) / "settings.ini")


def demo_folder() -> Path:
    """The demo recordings that ship with the program."""
    return Path(__file__).parent / "demo"
