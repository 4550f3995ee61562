"""Unsaved work survives: it is written beside the user's state and offered again after a crash."""

from __future__ import annotations

import contextlib
import os
import uuid
from dataclasses import dataclass
from pathlib import Path

import msgspec

from ..formats import atomic, project
from ..song.model import Song


class _Slip(msgspec.Struct):
    """What lies beside an autosaved project: whose it is and where it belongs."""

    process: int
    saved_as: str
    title: str
    when: str


@dataclass(frozen=True)
class Left:
    """Work that a run of the program left behind."""

    path: Path
    title: str
    when: str
    saved_as: Path | None

    def load(self) -> Song:
        return project.load(self.path)

    def discard(self) -> None:
        for path in (self.path, self.path.with_suffix(".slip")):
            with contextlib.suppress(OSError):
                path.unlink()


def _alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


class Autosave:
    """One run's autosaved work: a single file, replaced at each save."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder / "autosave"
        self.path = self.folder / f"{uuid.uuid4().hex}{project.SUFFIX}"

    def write(self, song: Song, saved_as: Path | None, when: str) -> None:
        """Keep a song; raises :class:`~ychronos.formats.atomic.SaveError`."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise atomic.SaveError(
                f"Unsaved work cannot be kept: {self.folder} cannot be made ({error.strerror})."
            ) from None
        slip = _Slip(os.getpid(), str(saved_as or ""), song.title, when)
        atomic.write(self.path.with_suffix(".slip"), msgspec.json.encode(slip))
        atomic.write(self.path, project.dumps(song))

    def clear(self) -> None:
        Left(self.path, "", "", None).discard()

    def left_behind(self) -> list[Left]:
        """Work of runs that ended without saving, the newest first. Damaged files are left alone."""
        out = []
        for slip_path in self.folder.glob("*.slip") if self.folder.is_dir() else []:
            path = slip_path.with_suffix(project.SUFFIX)
            try:
                slip = msgspec.json.decode(slip_path.read_bytes(), type=_Slip)
            except (OSError, msgspec.DecodeError):
                continue
            if path == self.path or not path.exists() or (slip.process != os.getpid() and _alive(slip.process)):
                continue
            out.append(Left(path, slip.title, slip.when, Path(slip.saved_as) if slip.saved_as else None))
        return sorted(out, key=lambda left: left.when, reverse=True)
