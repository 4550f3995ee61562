"""What the window is for its own parts: commands and helpers know the shell, the window fills it.

Nothing here knows the window, so that no two files know each other in a circle.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QMainWindow, QMessageBox, QWidget

from ..audio.play.engine import Player
from ..session.practice import Practice
from ..session.session import Session
from .desk.deskbar import Desk
from .habits import Habits
from .jobs import Job
from .notices import Notice
from .othercounts import OtherCounts
from .page.wishes import Wishes
from .settings import Settings
from .sheet.insideview import InsideView
from .sheet.sheet import SheetView
from .sheet.side import Side
from .theme import Theme


class Shell(QMainWindow):
    """Parts and abilities of the window that others use."""

    session: Session
    settings: Settings
    habits: Habits
    wishes: Wishes
    theme: Theme
    recovery: Any
    player: Player | None
    practice: Practice
    job: Job | None
    other_counts: OtherCounts
    sheet: SheetView
    inside: InsideView
    side: Side
    desk: Desk
    notice: Notice
    view: str
    cap_lifted: bool
    ending: bool
    words_dialog: Any
    guide: Any
    tour: Any
    head: Any
    tabs: Any
    steps: Any  # the list of steps, None before it was wanted
    stage: Any  # the screen for playing along, None before it was wanted
    # parts that know the shell themselves
    hearing: Any
    other_tunings: Any
    tape: Any
    taps: Any
    finder: Any
    keys_page: Any
    actions_: Any

    def widget(self) -> QWidget:
        return self

    @property
    def playing(self) -> bool:
        raise NotImplementedError

    def say(self, text: str) -> None:
        raise NotImplementedError

    def show_view(self, view: str) -> None:
        raise NotImplementedError

    def show_page(self) -> None:
        raise NotImplementedError

    def set_theme(self, theme: Theme) -> None:
        raise NotImplementedError

    def open_path(self, path: Path) -> None:
        raise NotImplementedError

    def relink(self, path: Path) -> None:
        raise NotImplementedError

    def analyse_again(self) -> None:
        raise NotImplementedError

    def may_close(self) -> bool:
        raise NotImplementedError

    def ask_save(self, text: str) -> QMessageBox.StandardButton:
        raise NotImplementedError

    def ask_replace(self, path: Path) -> bool:
        raise NotImplementedError

    def close_document(self) -> None:
        raise NotImplementedError

    def last_folder(self) -> str:
        raise NotImplementedError

    def refresh_recent(self) -> None:
        raise NotImplementedError

    def start_job(
        self,
        stage: str,
        work: Callable[[Job], object],
        done: Callable[[object], None],
        failed: Callable[[str], None],
        parts: Callable[[object], None] | None = None,
    ) -> None:
        raise NotImplementedError

    def cancel_job(self, forget: bool = False) -> None:
        raise NotImplementedError

    def go_to_bar(self, bar: int) -> None:
        raise NotImplementedError

    def select_bars(self, first: int, last: int) -> None:
        raise NotImplementedError

    def show_chord(self, index: int) -> None:
        raise NotImplementedError

    def heard(self) -> float:
        raise NotImplementedError

    def seek(self, seconds: float) -> None:
        raise NotImplementedError

    def hear_from(self, seconds: float) -> None:
        raise NotImplementedError

    def play_from_caret(self) -> None:
        raise NotImplementedError

    def resume_playing(self) -> None:
        raise NotImplementedError

    def stop_playing(self) -> None:
        raise NotImplementedError

    def set_loop(self, bars: tuple[int, int] | None) -> None:
        raise NotImplementedError

    def show_loop(self, tell_player: bool = True) -> None:
        raise NotImplementedError

    def apply_level(self) -> None:
        raise NotImplementedError

    def apply_clicks(self) -> None:
        raise NotImplementedError

    def find_device(self) -> None:
        raise NotImplementedError

    def ensure_device(self) -> None:
        raise NotImplementedError
