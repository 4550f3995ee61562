"""A chart that somebody else wrote: what it says, before it is laid against a record.

It has sections with bars, or with chords in a row where its writer drew no bars. Chords are as written: which key the
record is in, and whether they are shapes under a capo, is found by laying it against the record.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..theory.chord import Chord


@dataclass(frozen=True)
class HandedBar:
    """A bar, or one chord of a chart without bars. ``chords`` are (share of the bar at which it begins, chord); a bar that
    begins without one goes on with what was before. ``number`` counts from 1 as the chart is written, ``section`` names
    where it stands; a bar that is played again has the number of the first time."""

    chords: tuple[tuple[Fraction, Chord], ...]
    number: int
    section: str = ""
    opens: bool = False  # the section's first


@dataclass(frozen=True)
class HandedChart:
    """``bars`` as they are played, what is repeated unfolded as far as the chart says so; ``barred`` tells whether they
    are bars. ``unread`` are lines that nobody could make sense of, ``words`` those that are words of the song."""

    bars: tuple[HandedBar, ...]
    barred: bool
    title: str = ""
    key: str = ""
    capo: int = 0
    words: tuple[str, ...] = ()
    unread: tuple[str, ...] = ()

    def sounding(self) -> list[tuple[tuple[Fraction, Chord], ...]]:
        """The chords of each bar with what goes on from the bar before written out."""
        out = []
        last: Chord | None = None
        for bar in self.bars:
            chords = bar.chords
            if (not chords or chords[0][0] > 0) and last is not None:
                chords = ((Fraction(0), last), *chords)
            if chords:
                last = chords[-1][1]
            out.append(chords)
        return out
