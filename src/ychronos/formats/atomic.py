"""Writing a file so that a crash or a full disk never leaves half of it, or less than there was."""

from __future__ import annotations

import contextlib
import errno
import os
import tempfile
from pathlib import Path


class SaveError(Exception):
    """A file that could not be written; the text is one sentence for the user."""


def write(path: Path, data: bytes) -> None:
    """Write ``data`` to ``path`` by way of a temporary file beside it.

    Raises
    ------
    SaveError
        with a sentence on why; what was at ``path`` before is then still there.
    """
    path = Path(path)
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        os.chmod(temporary, mode)
        os.replace(temporary, path)
    except OSError as error:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)
        raise SaveError(_why(path, error)) from error


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def _why(path: Path, error: OSError) -> str:
    kept = "Nothing was changed there; save it somewhere else."
    if error.errno == errno.ENOSPC:
        return f"“{path.name}” was not saved: the disk is full. {kept}"
    if error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        return f"“{path.name}” was not saved: the folder {path.parent} may not be written to. {kept}"
    if error.errno == errno.ENOENT:
        return f"“{path.name}” was not saved: the folder {path.parent} does not exist. {kept}"
    return f"“{path.name}” was not saved: {error.strerror or error}. {kept}"
