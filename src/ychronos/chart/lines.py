"""The lines of a written chart, folded or flat, for every format that prints one.

A line is a row of bars or a sentence instead of one. The flat chart has every bar; the folded one has what
:mod:`folding` makes of it: repeat signs, endings, "as the 1st time", ways back to a sign.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

from ..song.model import Song
from ..song.noted import Noted
from ..song.words import ordinal
from . import folding, rows
from .folding import Again, Back, Fold


@dataclass(frozen=True)
class Line:
    """``bars`` of a row, or ``words`` instead. ``opens``: a section begins here, called ``title`` and ``note``;
    ``clock`` is when it is played. ``repeats`` holds the signs: "|:" before the row, ":|" behind it; ``ending`` says for
    which times the row is, ``times`` how often what ends with it is played, if more than once; ``before`` and ``after`` are words at its start and end. ``unwritten`` are
    passes that are played from what is written: (which time, their own bars), for words and notes of their own."""

    bars: tuple[int, ...] = ()
    words: str = ""
    opens: bool = False
    title: str = ""
    note: str = ""
    clock: str = ""
    lead_in: bool = False
    repeats: tuple[bool, bool] = (False, False)
    ending: str = ""
    times: int = 0
    before: str = ""
    after: str = ""
    unwritten: tuple[tuple[str, tuple[int, ...]], ...] = ()


def untold(song: Song, line: Line, words: bool, kinds: Collection[str]) -> list[tuple[str, str, list[Noted]]]:
    """What passes that are not written out have of their own: (which time, words, notes of these ``kinds``) of those that
    have any."""
    out = []
    for which, bars in line.unwritten:
        sung = " / ".join(m.text for bar in bars for m in song.lyrics_of_bar(bar)) if words else ""
        notes = [n for bar in bars for n in song.notes_of_bar(bar, kinds)]
        if sung or notes:
            out.append((which, sung, notes))
    return out


def lines(song: Song, per_row: int = 4, folded: bool = True, plain: bool = False) -> list[Line]:
    """All lines of a chart, in order; ``plain`` says in words what sign and coda would say."""
    flat = rows.fold(song, per_row)
    out = [Line(tuple(range(r.first, r.last)), clock=rows.row_clock(song, r), lead_in=True) for r in flat if r.lead_in]
    if not folded:
        for row in flat:
            if not row.lead_in:
                name, which = rows.section_title(song, row.section) if row.opens else ("", "")
                bars = tuple(range(row.first, row.last))
                out.append(Line(bars, opens=row.opens, title=name, note=which, clock=rows.row_clock(song, row)))
        return out
    parts = folding.page(song)
    leads_on = any(not isinstance(p, Back) and p.coda for p in parts)
    for part in parts:
        made = _written(song, part, per_row) if isinstance(part, Fold) else [_sentence(song, parts, part, plain)]
        if plain and not isinstance(part, Back) and part.leaves:
            made[-1] = replace(made[-1], after=folding.leaving_words(song, parts))
        if not plain and not isinstance(part, Back):
            made[0] = replace(made[0], before="Coda" if part.coda else "Sign" if part.segno else "")
            made[-1] = replace(made[-1], after=("to the coda" if leads_on else "Fine") if part.leaves else "")
        out += made
    return out


def _clocks(song: Song, sections: tuple[int, ...]) -> str:
    return ", ".join(rows.bar_clock(song, song.grid.bar_at(song.sections[s].start)) for s in sections)


def _written(song: Song, part: Fold, per_row: int) -> list[Line]:
    """A part's rows: the common bars, then each ending."""
    name, which = rows.section_title(song, part.sections[0])
    if part.times > 1:
        name, which = folding.title(song, part.sections), ""
    head = Line(opens=True, title=name, note=which, clock=_clocks(song, part.sections))
    out: list[Line] = []
    for phrase in part.phrases or (folding.Phrase(part.bars),):
        for k in range(0, len(phrase.bars), per_row):
            row = replace(head if not out else Line(), bars=phrase.bars[k : k + per_row])
            if phrase.times > 1:
                last = k + per_row >= len(phrase.bars)
                row = replace(row, repeats=(not k, last), times=phrase.times if last else 0)
            out.append(row)
    if part.times > 1:
        out[0] = replace(out[0], repeats=(True, False))
        if not part.endings:
            out[-1] = replace(out[-1], repeats=(out[-1].repeats[0], True))
    for ending in part.endings:
        words = folding.times_words(ending.times) + " time"
        for k in range(0, len(ending.bars), per_row):
            out.append(Line(ending.bars[k : k + per_row], ending=words if not k else ""))
        if min(ending.times) < part.times:  # one goes back after it at least once
            out[-1] = replace(out[-1], repeats=(False, True))
    passes = [(f"{ordinal(k)} time", _own_bars(song, (s,))) for k, s in enumerate(part.sections, 1)]
    return [*out[:-1], replace(out[-1], unwritten=tuple(passes[1:]))]


def _own_bars(song: Song, sections: tuple[int, ...]) -> tuple[int, ...]:
    return tuple(bar for s in sections for bar in song.section_bars(s))


def _sentence(song: Song, parts: list[folding.Part], part: Again | Back, plain: bool = False) -> Line:
    clock = _clocks(song, part.sections)
    own = (("", _own_bars(song, part.sections)),)
    if isinstance(part, Back):
        words, clock = folding.back_words(song, parts, part, plain), clock.split(",")[0]
        return Line(words=words, opens=True, title="Again" if plain else "D.S.", clock=clock, unwritten=own)
    name = folding.title(song, part.sections)
    _, which = rows.section_title(song, part.sections[0])
    words = folding.again_words(song, parts, part)
    return Line(words=words, opens=True, title=name, note=which, clock=clock, unwritten=own)
