"""The other tuning that a record may have, beside the tuning in the head where it lies nearly between two half steps: to be taken."""

from __future__ import annotations

from PySide6.QtWidgets import QMenu

from ..chart.facts import tuning_text
from ..session.commands import record
from ..song.model import Song
from ..tongue import tr
from .head import Fact
from .shell import Shell

BETWEEN = 35.0  # cents from true pitch, from which on the next half step is worth showing


def rival(song: Song) -> tuple[int, str] | None:
    """(half steps that names go up, what the record's tuning is then) of the reading on the other side; None where it is plain."""
    cents = song.ground.cents
    if abs(cents) < BETWEEN:
        return None
    steps = 1 if cents > 0 else -1
    return steps, tuning_text(cents - 100 * steps)


class OtherTunings:
    """Keeps the head's offer in step with the song."""

    def __init__(self, shell: Shell, fact: Fact) -> None:
        self._shell = shell
        self._fact = fact
        self.menu: QMenu | None = None
        shell.session.watch(self.look, "ground", "keys", "song", "guitar", "notation")
        fact.other.clicked.connect(self.ask)

    def look(self) -> None:
        song = self._shell.session.song
        found = rival(song) if song is not None else None
        tip = (
            tr("The record lies nearly between two half steps; press to name all chords by the other one")
            if found
            else ""
        )
        self._fact.offer(tr("or {found}?", found=found[1]) if found else "", tip)

    def ask(self) -> None:
        """Both neighbouring half steps as a menu, the likelier first."""
        song = self._shell.session.song
        if song is None:
            return
        if self.menu is not None:
            self.menu.deleteLater()
        menu = self.menu = QMenu(self._shell)
        menu.setAccessibleName(tr("Other tunings of this record"))
        first = 1 if song.ground.cents >= 0 else -1
        for steps in (first, -first):
            cents = song.ground.cents - 100 * steps
            key = song.key_name(song.main_key().transposed(steps))
            menu.addAction(
                tr("The record is {tuning}, the song in {key}", tuning=tuning_text(cents), key=key)
            ).triggered.connect(lambda _=False, s=steps: record.name_half_step(self._shell.session, s))
        self._fact.open_menu(menu)
