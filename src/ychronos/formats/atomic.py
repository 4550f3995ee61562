"""Writing a file so that a crash or a full disk never leaves half of it, or less than there was."""

from __future__ import annotations

import contextlib
import errno
import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from ..paths import shown
from ..tongue import tr


class SaveError(Exception):
    """A file that could not be written; the text is one sentence for the user, ``why`` its cause alone."""

    def __init__(self, text: str, why: str = "") -> None:
        super().__init__(text)
        self.why = why or text


def write(path: Path, data: bytes, check: Callable[[bytes], object] = lambda _: None) -> None:
    """Write ``data`` to ``path`` by way of a temporary file beside it, which is on disk and read back before it takes
    the place of the old one. A link is followed; a write-protected file is left alone.

    Parameters
    ----------
    check : called with what was read back; whatever it raises as ValueError means that the file would be no good

    Raises
    ------
    SaveError
        with a sentence on why; what was at ``path`` before is then still there.
    """
    name = shown(Path(path))
    target = Path(os.path.realpath(path))
    temporary = ""
    try:
        if target.is_symlink():
            raise OSError(errno.ELOOP, os.strerror(errno.ELOOP))
        if target.exists() and not target.is_file():
            raise OSError(errno.EISDIR, tr("there is a folder, or no file, of that name"))
        if target.exists() and not os.access(target, os.W_OK):
            raise SaveError(tr("“{name}” was not saved: it is write-protected. {kept}", name=name, kept=KEPT))
        if len(os.fsencode(target.name)) > _longest_name(target.parent):
            raise OSError(errno.ENAMETOOLONG, "")
        handle, temporary = tempfile.mkstemp(prefix=".ychronos-", dir=target.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        _read_back(Path(temporary), data, name, check)
        mode = target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask()
        os.chmod(temporary, mode)
        os.replace(temporary, target)
        temporary = ""
        flush_folder(target.parent)
    except (OSError, ValueError) as error:
        raise _why(name, target, error) from error
    finally:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)


def _read_back(temporary: Path, data: bytes, name: str, check: Callable[[bytes], object]) -> None:
    """What lies on the disk must be what was meant, and usable."""
    back = temporary.read_bytes()
    if back != data:
        raise SaveError(
            tr(
                "“{name}” was not saved: the disk gave back something else than was written. {kept}",
                name=name,
                kept=KEPT,
            )
        )
    check(back)


def flush_folder(folder: Path) -> None:
    """See to it that the names in a folder are on disk; not every file system can."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def _longest_name(folder: Path) -> int:
    try:
        return os.pathconf(folder, "PC_NAME_MAX")
    except (OSError, ValueError):
        return 255


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


KEPT = tr("Nothing was changed there; save it somewhere else.")


def _why(name: str, target: Path, error: OSError | ValueError) -> SaveError:
    if not isinstance(error, OSError):
        why = str(error)
    elif error.errno in (errno.ENOSPC, errno.EDQUOT):
        why = tr("the disk is full")
    elif error.errno in (errno.EACCES, errno.EPERM, errno.EROFS):
        why = tr("the folder {parent} may not be written to", parent=target.parent)
    elif error.errno == errno.ENOENT:
        why = tr("the folder {parent} does not exist", parent=target.parent)
    elif error.errno == errno.ENAMETOOLONG:
        name, why = name[:40] + "…", tr("its name is too long for this disk; choose a shorter one")
    elif error.errno == errno.ELOOP:
        why = tr("it is a link that leads back to itself")
    else:
        why = error.strerror or str(error)
    return SaveError(tr("“{name}” was not saved: {why}. {kept}", name=name, why=why, kept=KEPT), why)
