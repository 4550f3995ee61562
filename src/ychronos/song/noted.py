"""Notes to a song: what kinds there are, and all of them in order of their places.

Cues and advice are notes of their own; a private note is a mark with words, a doubt with its reason a chord that is
marked as unsure with a comment.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..tongue import tr
from .grid import Position


@dataclass(frozen=True)
class NoteKind:
    """``words`` name it, ``tip`` says what it is for; ``sign`` stands before it where letters cannot tell it apart."""

    id: str
    words: str
    tip: str
    sign: str = ""


KINDS: dict[str, NoteKind] = {
    kind.id: kind
    for kind in (
        NoteKind("cue", tr("A cue"), tr("Who comes in, what to listen for")),
        NoteKind("advice", tr("Advice for playing"), tr("How it is played there")),
        NoteKind("doubt", tr("A doubt with its reason"), tr("Why a chord is not sure"), "? "),
        NoteKind("private", tr("For myself"), tr("A mark to come back to")),
    )
}
STATED = ("cue", "advice")  # kinds that are statements of their own
PRINTED = ("cue", "advice", "doubt")  # unless the user says otherwise
LONGEST = 200  # characters


@dataclass(frozen=True)
class Noted:
    """A note of a kind at a place."""

    at: Position
    kind: str
    text: str

    @property
    def start(self) -> Position:
        return self.at

    @property
    def line(self) -> str:
        """Its text with its sign."""
        return KINDS[self.kind].sign + self.text


def read_note(value: object) -> tuple[str, str]:
    """(kind, text) from plain data; raises ValueError."""
    if not (isinstance(value, list | tuple) and len(value) == 2 and all(isinstance(x, str) for x in value)):
        raise ValueError("a note is a kind and a text")
    kind, text = value
    if kind not in STATED:
        raise ValueError(f"a note is one of {', '.join(STATED)}, not “{kind}”")
    return kind, text
