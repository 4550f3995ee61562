"""How a chart of somebody else's agrees with a record, as JSON."""

from __future__ import annotations

import json
from fractions import Fraction
from typing import Any

from ..analysis.against.aligning import Against, Played
from ..song.handed import HandedChart
from ..song.model import Song
from ..theory.chord import Chord


def _names(song: Song, start: Fraction, chords: tuple[tuple[Fraction, Chord], ...]) -> str:
    key = song.key_at(start)
    return " ".join(c.name(key, ascii_only=True) for _, c in chords)


def _bar(song: Song, b: Played) -> dict[str, Any]:
    return {
        "chart_bar": b.number,
        "section": b.section,
        "start": round(song.grid.clock(b.start), 4),
        "end": round(song.grid.clock(b.end), 4),
        "theirs": _names(song, b.start, b.theirs),
        "ours": _names(song, b.start, b.ours),
        "agreement": round(b.agreement, 3),
        "probably_right": round(b.likely, 3),
        "our_agreement": round(b.our_agreement, 3),
        "same": b.same,
    }


def dumps(song: Song, chart: HandedChart, found: Against) -> bytes:
    """``transposition`` is how many semitones the record sounds above the chart as written, ``capo`` the one that makes shapes of
    it (as the chart says, else the transposition where that is a usual capo); names are as they sound."""
    clock = song.grid.clock
    document = {
        "title": chart.title,
        "agreement": round(found.agreement, 3),
        "probably_right": round(found.likely, 3),
        "transposition": found.transposition,
        "capo": chart.capo or (found.transposition if found.transposition <= 7 else 0),
        "bars": [_bar(song, b) for b in found.bars],
        "doubtful": [b.number for b in found.doubtful],
        "missing": [{"start": round(clock(a), 4), "end": round(clock(b), 4)} for a, b in found.missing],
        "extra": list(found.extra),
        "unread": list(chart.unread),
    }
    return json.dumps(document, indent=1, ensure_ascii=False).encode() + b"\n"
