"""Unsaved work: kept as it is said, found again at the next start."""

from __future__ import annotations

import contextlib
import datetime
import logging
import os
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ..formats import project
from ..paths import as_text, from_text, shown
from ..song.model import Song
from ..song.words import plural
from ..tongue import mark, tr
from .journal import SUFFIX, Damaged, Head, Journal, Replayed, read_head, replay
from .whose import Who, this_process

THROWN, ASIDE = ".thrown", "damaged"  # what the user gave up, for a while; where what cannot be read goes
THROWN_FOR = 14 * 86400  # seconds
MONTHS = (
    mark("January"), mark("February"), mark("March"), mark("April"), mark("May"), mark("June"), mark("July"),
    mark("August"), mark("September"), mark("October"), mark("November"), mark("December"),
)  # fmt: skip
LOG = logging.getLogger("ychronos.keeping")


@dataclass(frozen=True)
class Unfinished:
    """Work that a run of the program left behind."""

    path: Path
    found: Replayed

    @property
    def title(self) -> str:
        return self.found.song.title

    @property
    def saved_as(self) -> Path | None:
        return Path(from_text(self.found.head.saved_as)) if self.found.head.saved_as else None

    @property
    def since(self) -> str:
        """What became of its project since: "as it was", "changed" or "gone"; "" when it was never saved."""
        path, mark = self.saved_as, self.found.head.mark
        if path is None:
            return ""
        if not path.exists():
            return "gone"
        return "as it was" if mark is not None and project.same_file(path, mark) else "changed"

    def is_saved(self) -> bool:
        """Whether its project holds just this: the run ended between saving and saying so."""
        path = self.saved_as
        if path is None:
            return False
        try:
            return path.read_bytes() == project.dumps(self.found.song, path.parent)
        except (OSError, ValueError):
            return False

    def describe(self) -> str:
        """In a sentence or two: how much it is, how old, and how it stands to the project."""
        count, path = self.found.said, self.saved_as
        name = shown(path) if path is not None else ""
        much = tr("{changes} not saved", changes=plural(count, "change", "changes")) if count else tr("Not saved")
        last = f": {self.found.last}" if self.found.last else ""
        stands = {
            "": tr("It was never saved."),
            "as it was": tr("“{name}” is as it was before.", name=name),
            "changed": tr(
                "“{name}” was saved since, {word}: what is there may be newer.",
                name=name,
                word=saved_at(path) if path else name,
            ),
            "gone": tr("“{path}” is not there any more.", path=path),
        }[self.since]
        cut = tr(" What was said in the last moment could not be read.") if self.found.cut else ""
        return tr(
            "{much}, the last {spoken}{last}. {stands}{cut}",
            much=much,
            spoken=spoken(self.found.when),
            last=last,
            stands=stands,
            cut=cut,
        )

    def discard(self) -> None:
        with contextlib.suppress(OSError):
            self.path.unlink()

    def throw_away(self) -> Path:
        """Give it up; it can be taken back for a while."""
        thrown = self.path.with_suffix(THROWN)
        with contextlib.suppress(OSError):
            os.replace(self.path, thrown)
            os.utime(thrown)
        return thrown

    def take_back(self) -> None:
        with contextlib.suppress(OSError):
            os.replace(self.path.with_suffix(THROWN), self.path)


def spoken(when: str) -> str:
    """A time as people write it, ``14 March 2026, 21:07``; what is no time stays as it is."""
    try:
        found = datetime.datetime.fromisoformat(when)
    except ValueError:
        return when
    day, month = found.day, tr(MONTHS[found.month - 1])
    return tr("{day} {month} {year}, {time}", day=day, month=month, year=found.year, time=f"{found:%H:%M}")


def saved_at(path: Path) -> str:
    """When a file was last written, as people write it."""
    try:
        changed = datetime.datetime.fromtimestamp(path.stat().st_mtime).isoformat()
    except (OSError, OverflowError, ValueError):
        return tr("when is not known")
    return spoken(changed)


class Keeper:
    """Keeps the unsaved work of one window in a journal, and finds that of runs which ended before they saved.

    ``folder`` is that of the program's state; ``now`` tells the time.
    """

    def __init__(
        self, folder: Path, now: Callable[[], datetime.datetime] = lambda: datetime.datetime.now().astimezone()
    ) -> None:
        self._now = now
        self.folder = folder / "unsaved"
        self.journal = Journal(self.folder / f"{uuid.uuid4().hex}{SUFFIX}")
        self._who = this_process()
        self._read: dict[Path, tuple[tuple[int, int, int], Unfinished]] = {}  # journals of ended runs do not change

    def keep(self, song: Song, said: str, saved_as: Path | None, mark: project.FileMark | None) -> None:
        """Keep a song as it is now; ``said`` is what led to it. What was said is on the disk when this returns.

        Raises :class:`~..formats.atomic.SaveError`.
        """
        head = Head(
            self._who.boot,
            self._who.process,
            self._who.started,
            as_text(str(saved_as or "")),
            as_text(song.recording.path),
            mark,
            self._now().replace(tzinfo=None).isoformat(timespec="seconds"),
        )
        self.journal.add(song, head, said, flush=bool(said))

    def clear(self) -> None:
        self.journal.clear()

    def unfinished(self) -> tuple[list[Unfinished], list[Path]]:
        """Work of runs that ended before they saved, the latest written first, and where damaged entries were set
        aside just now."""
        found: list[tuple[float, Unfinished]] = []
        aside: list[Path] = []
        for path in self._journals():
            try:
                head = read_head(path)
                who = Who(head.boot, head.process, head.started)
                if path in Journal.open_here or (who != self._who and who.alive):
                    continue
                work = self._replayed(path)
                if work.is_saved():
                    work.discard()
                else:
                    found.append((path.stat().st_mtime, work))
            except Damaged as error:
                LOG.warning("unfinished work is damaged: %s", error)
                aside += self._set_aside(path)
            except OSError as error:
                LOG.warning("unfinished work cannot be read: %s", error)
        return [one for _, one in sorted(found, key=lambda x: -x[0])], aside

    def _replayed(self, path: Path) -> Unfinished:
        stat = path.stat()
        state = (stat.st_ino, stat.st_size, stat.st_mtime_ns)
        known = self._read.get(path)
        if known is None or known[0] != state:
            known = self._read[path] = (state, Unfinished(path, replay(path)))
        return known[1]

    def _journals(self) -> list[Path]:
        out: list[Path] = []
        with contextlib.suppress(OSError):
            for path in sorted(self.folder.iterdir()):
                if path.suffix == THROWN and path.stat().st_mtime < time.time() - THROWN_FOR:
                    path.unlink()
                elif path.suffix == SUFFIX and path.is_file():
                    out.append(path)
        return out

    def _set_aside(self, path: Path) -> list[Path]:
        place = self.folder / ASIDE / path.name
        try:
            place.parent.mkdir(exist_ok=True)
            os.replace(path, place)
        except OSError:
            return []
        return [place]
