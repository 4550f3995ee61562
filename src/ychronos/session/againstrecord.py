"""A chart of somebody else's laid against the open song, beside the window; what it says taken over, a bar or all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..analysis.against.aligning import Against, Played, lay_against
from ..analysis.evidence import Evidence
from ..song import edits
from ..song.edits import Piece
from ..song.handed import HandedChart
from ..song.model import Song
from .jobs import Far, Under
from .session import Session


@dataclass(frozen=True)
class Laying(Far):
    """Gives how a chart lies on a song."""

    song: Song
    evidence: Evidence | None
    chart: HandedChart

    def __call__(self, under: Under) -> Against:
        return lay_against(self.song, self.evidence, self.chart)


def pieces_of(bars: Sequence[Played]) -> list[Piece]:
    """What bars of a chart say, as chords to state: places at halves of beats, each once."""
    out: list[Piece] = []
    for bar in sorted(bars, key=lambda b: b.start):
        if out and bar.start < out[-1][1]:
            continue
        starts: list[tuple[Fraction, int]] = []
        for n, (share, _) in enumerate(bar.theirs):
            at = bar.start + Fraction(round((bar.end - bar.start) * share * 2), 2)
            if at < bar.end and (not starts or at > starts[-1][0]):
                starts.append((at, n))
        for k, (at, n) in enumerate(starts):
            until = starts[k + 1][0] if k + 1 < len(starts) else bar.end
            chord = bar.theirs[n][1]
            if out and out[-1][1] == at and out[-1][2] == chord:  # it goes on
                out[-1] = (out[-1][0], until, chord, None)
            else:
                out.append((at, until, chord, None))
    return out


def take(session: Session, bars: Sequence[Played]) -> bool:
    """State what bars of a chart say; one undo takes it back."""
    pieces = pieces_of(bars)
    return bool(pieces) and session.edit(lambda s: edits.state_chords(s, pieces), decide="chords")
