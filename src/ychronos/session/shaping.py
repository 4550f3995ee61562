"""The shapes of a song's chords on a guitar, looked for beside the window when they are many.

A view asks before it shows shapes; until they are known it shows none, and is told when they are.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..guitar.hands import Asked, Found, learn, options
from ..guitar.instrument import GuitarSetup
from ..song.model import Song
from .jobs import Far, Runner, Under

FEW = 3  # chords whose shapes are found in a moment


@dataclass(frozen=True)
class Searched(Far):
    """Gives the shapes of each chord asked for."""

    asked: tuple[Asked, ...]

    def __call__(self, under: Under) -> dict[Asked, Found]:
        return {one: options(*one) for one in self.asked}


class Shaping:
    """See the module. ``jobs`` gives whoever runs work; ``known`` is called when more shapes are known."""

    def __init__(self, jobs: Callable[[], Runner], known: Callable[[], object]) -> None:
        self._jobs, self._known = jobs, known
        self._under_way: set[Asked] = set()
        self._here = False  # work beside failed: whoever needs shapes looks for them on the spot

    def ready(self, song: Song, guitar: GuitarSetup) -> bool:
        """Whether the shapes of a song on a guitar can be had at once; when not, they are looked for."""
        missing = song.held_unknown(guitar)
        if self._here or len(missing) <= FEW:
            return True
        new = tuple(one for one in missing if one not in self._under_way)
        if new:
            self._under_way.update(new)
            self._jobs().start(Searched(new), lambda found: self._done(new, found), lambda _: self._failed())
        return not song.held_unknown(guitar)  # where work is done at once

    def _done(self, asked: tuple[Asked, ...], found: dict[Asked, Found]) -> None:
        learn(found)
        self._under_way.difference_update(asked)
        self._known()

    def _failed(self) -> None:
        self._here = True
        self._known()
