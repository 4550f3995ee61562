"""How a chart of somebody else's agrees with a record, in words."""

from __future__ import annotations

from ..analysis.against.aligning import Against, Played
from ..song.handed import HandedChart
from ..song.model import Song
from ..song.words import clock_text, plural

WORST = 8


def _names(song: Song, b: Played, ours: bool) -> str:
    return " ".join(song.name_of(c, b.start) for _, c in (b.ours if ours else b.theirs))


def bar_words(song: Song, b: Played) -> str:
    """``Bar 12 (Verse, 0:34): it has G, the sound says Em.``"""
    where = ", ".join(filter(None, [b.section, clock_text(song.shown_clock(song.grid.clock(b.start)))]))
    return f"Bar {b.number} ({where}): it has {_names(song, b, False)}, the sound says {_names(song, b, True)}."


def key_words(chart: HandedChart, found: Against) -> str:
    """Which key the chart is in against the record."""
    up = found.transposition
    if up == 0:
        return "It is in the key of the record."
    if chart.capo and chart.capo % 12 == up:
        return f"Its chords are shapes for a capo at fret {up}, as it says."
    if chart.capo:
        return f"It says capo {chart.capo}; the record sounds {plural(up, 'semitone')} higher than it is written."
    capo = f", as with a capo at fret {up}" if up <= 7 else ""
    return f"The record sounds {plural(up, 'semitone')} higher than it is written{capo}."


def agreement_text(song: Song, chart: HandedChart, found: Against) -> str:
    """A summary: overall, key, what is missing or too many, and where the sound says something else."""
    clock = song.grid.clock
    lines = [
        f"{found.agreement:.0%} of the chart agrees with the record; about {found.likely:.0%} of it is probably right.",
        key_words(chart, found),
    ]
    for a, b in found.missing:
        first, last = (clock_text(song.shown_clock(clock(x))) for x in (a, b))
        lines.append(f"The chart has nothing for {first} to {last}.")
    if found.extra:
        numbers = ", ".join(map(str, found.extra[:WORST])) + (" …" if len(found.extra) > WORST else "")
        lines.append(f"Not played: bar{'s' if len(found.extra) > 1 else ''} {numbers} of the chart.")
    doubtful = found.doubtful
    lines += [bar_words(song, b) for b in doubtful[:WORST]]
    if len(doubtful) > WORST:
        lines.append(f"And {len(doubtful) - WORST} more.")
    if chart.unread:
        lines.append("Not read: " + " · ".join(chart.unread[:WORST]))
    return "\n".join(lines) + "\n"
