"""Who a process is: its number alone does not say, numbers are given again."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Who:
    """A process of this machine: which start of the machine, its number, when it was started (ticks of the kernel)."""

    boot: str
    process: int
    started: str

    @property
    def alive(self) -> bool:
        """Whether it still runs. Where the machine cannot say when a process began, its number alone decides."""
        if not 0 < self.process < 1 << 31 or self.boot != _boot():
            return False
        try:
            os.kill(self.process, 0)
        except ProcessLookupError:
            return False
        except OSError:
            pass  # somebody else's
        return _started(self.process) == self.started


def this_process() -> Who:
    return Who(_boot(), os.getpid(), _started(os.getpid()))


def _boot() -> str:
    return _text(Path("/proc/sys/kernel/random/boot_id"))


def _started(process: int) -> str:
    """The 22nd field of the kernel's line; the name before it may hold spaces and brackets."""
    fields = _text(Path(f"/proc/{process}/stat")).rpartition(")")[2].split()
    return fields[19] if len(fields) > 19 else ""


def _text(path: Path) -> str:
    try:
        return path.read_text(errors="replace").strip()
    except OSError:
        return ""
