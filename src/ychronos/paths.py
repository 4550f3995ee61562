"""Where files of the user's own live: cache, state, settings; and names of files as they can be shown and kept."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import quote, unquote_to_bytes

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


def shown(path: Path) -> str:
    """A file's name as it can be shown: without bytes that are no characters, on one line."""
    return "".join(c if c.isprintable() else "�" for c in os.fsencode(path.name).decode("utf-8", "replace"))


_BYTES = "bytes:"  # before a path that is no text, percent-encoded


def as_text(path: str) -> str:
    """A path as it can be written to a file of text; most are text themselves."""
    try:
        path.encode()
    except UnicodeEncodeError:
        return _BYTES + quote(os.fsencode(path))
    return path


def from_text(text: str) -> str:
    """The path that :func:`as_text` made a text of."""
    return os.fsdecode(unquote_to_bytes(text.removeprefix(_BYTES))) if text.startswith(_BYTES) else text
