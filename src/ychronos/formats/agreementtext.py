"""How a chart of somebody else's agrees with a record, in words."""

from __future__ import annotations

from ..analysis.against.aligning import Against, Played
from ..song.handed import HandedChart
from ..song.model import Song
from ..song.words import clock_text, plural
from ..tongue import tr, trn

WORST = 8


def _names(song: Song, b: Played, ours: bool) -> str:
    return " ".join(song.name_of(c, b.start) for _, c in (b.ours if ours else b.theirs))


def bar_words(song: Song, b: Played) -> str:
    """``Bar 12 (Verse, 0:34): it has G, the sound says Em.``"""
    where = ", ".join(filter(None, [b.section, clock_text(song.shown_clock(song.grid.clock(b.start)))]))
    return tr(
        "Bar {number} ({where}): it has {names}, the sound says {names2}.",
        number=b.number,
        where=where,
        names=_names(song, b, False),
        names2=_names(song, b, True),
    )


def key_words(chart: HandedChart, found: Against) -> str:
    """Which key the chart is in against the record."""
    up = found.transposition
    if up == 0:
        return tr("It is in the key of the record.")
    if chart.capo and chart.capo % 12 == up:
        return tr("Its chords are shapes for a capo at fret {up}, as it says.", up=up)
    if chart.capo:
        return tr(
            "It says capo {capo}; the record sounds {semitones} higher than it is written.",
            capo=chart.capo,
            semitones=plural(up, "semitone", "semitones"),
        )
    capo = tr(", as with a capo at fret {up}", up=up) if up <= 7 else ""
    return tr(
        "The record sounds {semitones} higher than it is written{capo}.",
        semitones=plural(up, "semitone", "semitones"),
        capo=capo,
    )


def agreement_text(song: Song, chart: HandedChart, found: Against) -> str:
    """A summary: overall, key, what is missing or too many, and where the sound says something else."""
    clock = song.grid.clock
    lines = [
        tr(
            "{agreement:.0%} of the chart agrees with the record; about {likely:.0%} of it is probably right.",
            agreement=found.agreement,
            likely=found.likely,
        ),
        key_words(chart, found),
    ]
    for a, b in found.missing:
        first, last = (clock_text(song.shown_clock(clock(x))) for x in (a, b))
        lines.append(tr("The chart has nothing for {first} to {last}.", first=first, last=last))
    if found.extra:
        numbers = ", ".join(map(str, found.extra[:WORST])) + (" …" if len(found.extra) > WORST else "")
        lines.append(
            trn(
                "Not played: bar {numbers} of the chart.",
                "Not played: bars {numbers} of the chart.",
                len(found.extra),
                numbers=numbers,
            )
        )
    doubtful = found.doubtful
    lines += [bar_words(song, b) for b in doubtful[:WORST]]
    if len(doubtful) > WORST:
        lines.append(tr("And {count} more.", count=len(doubtful) - WORST))
    if chart.unread:
        lines.append(tr("Not read: ") + " · ".join(chart.unread[:WORST]))
    return "\n".join(lines) + "\n"
