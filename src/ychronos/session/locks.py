"""One project, two windows: each knows of the other."""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import os
from pathlib import Path


class ProjectLock:
    """The lock of the project that one window has open. It lies among the program's own files, so that nothing is left
    beside the user's; the system takes it away when the process ends, however it ends."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / "open"
        self._file: int | None = None

    def take(self, path: Path) -> bool:
        """Let go of what was held and take a project's lock; False when another window holds it. Where locks cannot be
        made, nobody is in the way."""
        self.release()
        name = hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:32]
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            self._file = os.open(self.folder / name, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except OSError:
            return True
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            self.release()
            return False
        except OSError:
            pass  # a file system without locks
        return True

    def release(self) -> None:
        if self._file is not None:
            with contextlib.suppress(OSError):
                os.close(self._file)
            self._file = None
