"""Undo and redo: songs are values, so history is a list of them."""

from __future__ import annotations

from dataclasses import dataclass, field

from .model import Song


@dataclass
class History:
    """States of one song with the sentence that led to each; ``at`` is the present one."""

    states: list[tuple[Song, str]] = field(default_factory=list)
    at: int = -1

    @property
    def song(self) -> Song | None:
        return self.states[self.at][0] if self.at >= 0 else None

    def start(self, song: Song, sentence: str = "opened") -> None:
        self.states, self.at = [(song, sentence)], 0

    def do(self, song: Song, sentence: str) -> None:
        del self.states[self.at + 1 :]
        self.states.append((song, sentence))
        self.at += 1

    @property
    def can_undo(self) -> bool:
        return self.at > 0

    @property
    def can_redo(self) -> bool:
        return self.at + 1 < len(self.states)

    def undo(self) -> str:
        """Step back; returns what was taken back."""
        sentence = self.states[self.at][1]
        if self.can_undo:
            self.at -= 1
        return sentence

    def redo(self) -> str:
        """Step forward again; returns what was done again."""
        if self.can_redo:
            self.at += 1
        return self.states[self.at][1]

    @property
    def undo_text(self) -> str:
        return self.states[self.at][1] if self.can_undo else ""

    @property
    def redo_text(self) -> str:
        return self.states[self.at + 1][1] if self.can_redo else ""
