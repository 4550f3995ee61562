"""The other key that a song may be in, beside the key in the head where that is not sure: to be heard, and taken."""

from __future__ import annotations

from PySide6.QtWidgets import QMenu

from ..analysis.keys.deciding import key_evidence
from ..analysis.keys.keyhabits import KEYS
from ..session.commands import keys
from ..song.model import Song
from ..theory.chord import Chord
from ..theory.key import Key
from ..tongue import tr
from .head import Fact
from .shell import Shell

SURE = 0.9  # a key that is decided as surely as this has no rival worth showing
MOST = 3


def rivals(song: Song) -> list[Key]:
    """Keys that the song may be in instead of its main one, the likeliest first; none where it is stated or sure."""
    main = song.main_key()
    spans = [k for k in song.keys if k.key == main]
    if (
        any(k.stated for k in song.keys)
        or min(k.confidence for k in spans) >= SURE
        or not any(k.confidence for k in spans)
    ):
        return []
    total = key_evidence(song).chance.sum(0)
    likeliest = (song.key_written(KEYS[int(i)]) for i in total.argsort()[::-1])
    return [k for k in likeliest if k not in {span.key for span in song.keys}][:MOST]


class OtherKeys:
    """Keeps the head's offer in step with the song."""

    def __init__(self, shell: Shell, fact: Fact) -> None:
        self._shell = shell
        self._fact = fact
        self.menu: QMenu | None = None
        self.found: list[Key] = []
        shell.session.watch(self.look, "chords", "keys", "grid", "song", "guitar", "notation")
        fact.other.clicked.connect(self.ask)

    def look(self) -> None:
        song = self._shell.session.song
        self.found = rivals(song) if song is not None else []
        words = tr("or {key}?", key=song.key_name(self.found[0])) if song is not None and self.found else ""
        self._fact.offer(
            words,
            tr("What key the song may be in instead; press to hear its home chord or to take it") if words else "",
        )

    def ask(self) -> None:
        """The other keys as a menu, each to be heard and to be taken."""
        song = self._shell.session.song
        if song is None or not self.found:
            return
        if self.menu is not None:
            self.menu.deleteLater()
        menu = self.menu = QMenu(self._shell)
        menu.setAccessibleName(tr("Other keys of this song"))
        for key in self.found:
            name = song.key_name(key)
            menu.addAction(tr("The song is in {name}", name=name)).triggered.connect(
                lambda _=False, k=key: keys.state_key_of_song(self._shell.session, k)
            )
            home = Chord(key.tonic, "min" if key.minorish else "maj")
            menu.addAction(tr("Hear the home chord of {name}", name=name)).triggered.connect(
                lambda _=False, c=home: self._shell.hearing.hear(c)
            )
        self._fact.open_menu(menu)
