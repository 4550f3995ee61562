"""How a chart is wanted when it is written out."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..song.model import Song
from ..song.noted import KINDS, PRINTED
from ..theory.notation import SCHOOLS
from .paper import PLAIN_PAPER, Paper


@dataclass(frozen=True)
class Options:
    """Bars in a row, what is played again written once, only the plainest characters, the paper, and which layers there
    are beside the chords: the shapes that it is played with, the words of the song, times of the record, numbers of bars, strokes, tablature of lines, the bass where it walks, how many beats each chord lasts, what players have a word for (turnarounds, vamps, tags), kinds of notes.
    ``school`` is how names are written, "" for as in the song; ``plain`` says the way in words instead of sign and coda; one of :data:`SCHOOLS`, else ValueError."""

    per_row: int = 4
    folded: bool = True
    ascii_only: bool = False
    shapes: bool = True
    paper: Paper = PLAIN_PAPER
    words: bool = True
    times: bool = True
    numbers: bool = True
    strokes: bool = True
    tabs: bool = True
    bass: bool = False
    counts: bool = False
    plain: bool = False
    gestures: bool = True
    notes: tuple[str, ...] = PRINTED
    school: str = ""

    def __post_init__(self) -> None:
        if not set(self.notes) <= set(KINDS):
            raise ValueError(f"notes are {', '.join(KINDS)}")
        if self.school and self.school not in SCHOOLS:
            raise ValueError(f"names are written as {', '.join(SCHOOLS)}")

    def applied(self, song: Song) -> Song:
        """The song as it is written in these options' names."""
        return replace(song, notation=self.school) if self.school else song
