"""Knowing a project file again: what it was when this program last read or wrote it, and whether it is one at all."""

from __future__ import annotations

import hashlib
import os
import stat
from pathlib import Path

import msgspec

FORMAT = "ychronos-project"
HEAD = 4096  # bytes in which a project says what it is


class FileMark(msgspec.Struct, frozen=True):
    """Size in bytes, time of the last change in ns, SHA-256 in hex."""

    size: int
    changed: int
    sha256: str


def mark_of(path: Path) -> FileMark | None:
    """What a file is now; None when it is not there or cannot be read."""
    try:
        with open(path, "rb") as file:
            found = os.fstat(file.fileno())
            if not stat.S_ISREG(found.st_mode):
                return None
            return FileMark(found.st_size, found.st_mtime_ns, hashlib.file_digest(file, "sha256").hexdigest())
    except OSError:
        return None


def same_file(path: Path, mark: FileMark) -> bool:
    """Whether a file still holds what it held; its bytes are only read when its time is another."""
    try:
        found = path.stat()
    except OSError:
        return False
    if (found.st_size, found.st_mtime_ns) == (mark.size, mark.changed):
        return True
    now = mark_of(path)
    return now is not None and now.sha256 == mark.sha256


def is_project(path: Path) -> bool:
    """Whether a file says of itself that it is a project, whatever its name."""
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            return False
        with open(path, "rb") as file:
            head = file.read(HEAD)
    except (OSError, ValueError):
        return False
    return head.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"{") and f'"{FORMAT}"'.encode() in head


def is_file(path: Path) -> bool:
    """Whether there is a file; what cannot be a name, and links that lead nowhere, are none."""
    try:
        return path.is_file()
    except (OSError, ValueError):
        return False
