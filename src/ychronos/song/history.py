"""Undo and redo: songs are values, so history is a list of them."""

from __future__ import annotations

from dataclasses import dataclass, field

from .model import Song


@dataclass(frozen=True)
class Waiting:
    """What a state still waits for: from where on it is to be decided again, and the song before what was said
    since it last was (None: all may change)."""

    what: str
    before: Song | None


@dataclass
class State:
    """A song, the sentence that led to it, and what it waits for."""

    song: Song
    sentence: str
    waiting: Waiting | None = None


@dataclass
class History:
    """States of one song; ``at`` is the present one."""

    states: list[State] = field(default_factory=list)
    at: int = -1

    @property
    def song(self) -> Song | None:
        return self.states[self.at].song if self.at >= 0 else None

    @property
    def waiting(self) -> Waiting | None:
        return self.states[self.at].waiting if self.at >= 0 else None

    def start(self, song: Song, sentence: str = "opened") -> None:
        self.states, self.at = [State(song, sentence)], 0

    def do(self, song: Song, sentence: str, waiting: Waiting | None = None) -> None:
        del self.states[self.at + 1 :]
        self.states.append(State(song, sentence, waiting))
        self.at += 1

    def answer(self, song: Song) -> None:
        """The present state decided again: one undo takes back what was said and what followed from it."""
        self.states[self.at] = State(song, self.states[self.at].sentence)

    @property
    def can_undo(self) -> bool:
        return self.at > 0

    @property
    def can_redo(self) -> bool:
        return self.at + 1 < len(self.states)

    def undo(self) -> str:
        """Step back; returns what was taken back."""
        sentence = self.states[self.at].sentence
        if self.can_undo:
            self.at -= 1
        return sentence

    def redo(self) -> str:
        """Step forward again; returns what was done again."""
        if self.can_redo:
            self.at += 1
        return self.states[self.at].sentence

    def go(self, at: int) -> str:
        """To any of the states; returns the sentence that led to it."""
        self.at = max(0, min(len(self.states) - 1, at))
        return self.states[self.at].sentence

    @property
    def undo_text(self) -> str:
        return self.states[self.at].sentence if self.can_undo else ""

    @property
    def redo_text(self) -> str:
        return self.states[self.at + 1].sentence if self.can_redo else ""
