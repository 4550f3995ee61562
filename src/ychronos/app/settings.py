"""What the window remembers: its place, recent files, preferences. One INI file."""

from __future__ import annotations

import math
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QByteArray, QSettings

from ..paths import as_text, from_text, settings_file

RECENT = 10


@dataclass(frozen=True)
class Left:
    """A song as it was left: its file, where the caret stood (in beats, and which bar that is), which view was shown."""

    path: Path
    title: str
    beat: float
    bar: int
    view: str


class Settings:
    """Typed access to the settings file."""

    def __init__(self, path: Path | None = None) -> None:
        self._store = QSettings(str(path or settings_file()), QSettings.Format.IniFormat)

    def _get(self, key: str, default: Any) -> Any:
        value = self._store.value(key, default)
        return default if value is None else value

    def recent(self) -> list[Path]:
        value = self._get("recent", [])
        items = value if isinstance(value, list) else [value]
        return [Path(from_text(p)) for p in items if isinstance(p, str) and p and "\0" not in p][:RECENT]

    def add_recent(self, path: Path) -> None:
        path = Path(os.path.realpath(path))
        kept = [p for p in self.recent() if p != path]
        self._store.setValue("recent", [as_text(str(p)) for p in [path, *kept][:RECENT]])

    def forget_recent(self, path: Path) -> None:
        self._store.setValue("recent", [as_text(str(p)) for p in self.recent() if p != path])

    def left(self) -> Left | None:
        """What was open when the window was closed last."""
        path = self.text("left/path", "")
        if not path or "\0" in path:
            return None
        beat = self.number("left/beat", 0, 0, 1e6)
        return Left(
            Path(from_text(path)),
            self.text("left/title", ""),
            beat,
            round(self.number("left/bar", 1, -99, 1e6)),
            self.text("left/view", ""),
        )

    def set_left(self, left: Left | None) -> None:
        self.set("left/path", as_text(str(left.path)) if left else "")
        if left:
            for name, value in (("title", left.title), ("beat", left.beat), ("bar", left.bar), ("view", left.view)):
                self.set(f"left/{name}", value)

    def text(self, key: str, default: str) -> str:
        value = self._get(key, default)
        return value if isinstance(value, str) else default

    def number(self, key: str, default: float, low: float, high: float) -> float:
        """A number between bounds; what is none in the file counts as not set."""
        try:
            value = float(self._get(key, default))
        except (TypeError, ValueError, OverflowError):
            return default
        return min(max(value, low), high) if math.isfinite(value) else default

    def flag(self, key: str, default: bool) -> bool:
        return str(self._get(key, default)).lower() in ("true", "1")

    def data(self, key: str) -> QByteArray | None:
        value = self._get(key, None)
        return value if isinstance(value, QByteArray) else None

    def set(self, key: str, value: object) -> None:
        self._store.setValue(key, value)

    def sync(self) -> None:
        self._store.sync()
