"""The lines of a written chart, folded or flat, for every format that prints one.

A line is a row of bars or a sentence instead of one. The flat chart has every bar; the folded one has what
:mod:`folding` makes of it: repeat signs, endings, "as the 1st time", ways back to a sign.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass, replace

from ..song.model import Song
from ..song.noted import Noted
from ..song.words import bars_text, ordinal
from ..tongue import tr
from . import folding, rows
from .folding import Again, Back, Fold
from .gestures import gestures, voiced
from .tablature import line_words, signature


@dataclass(frozen=True)
class Unwritten:
    """A pass that is played from what is written: which time it is, its own bars, and the written ones in the order in
    which they are played."""

    which: str
    bars: tuple[int, ...]
    written: tuple[int, ...] = ()

    def pairs(self) -> Iterator[tuple[int, int]]:
        """Its bars, each with the written one that it is played from."""
        return zip(self.bars, self.written, strict=False)


@dataclass(frozen=True)
class Line:
    """``bars`` of a row, or ``words`` instead. ``opens``: a section begins here, called ``title`` and ``note``;
    ``clock`` is when it is played. ``repeats`` holds the signs: "|:" before the row, ":|" behind it; ``ending`` says for
    which times the row is, ``times`` how often what ends with it is played, if more than once; ``before`` and ``after`` are words at its start and end, ``signs`` which
    sign is drawn with each ("segno", "coda" or none). ``unwritten`` are
    passes that are played from what is written, for what they have of their own; ``gestures`` what players have a word
    for in the section that ends here (:mod:`gestures`)."""

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
    signs: tuple[str, str] = ("", "")
    unwritten: tuple[Unwritten, ...] = ()
    gestures: tuple[str, ...] = ()


@dataclass(frozen=True)
class Own:
    """What a pass that is not written out has of its own: its words, its notes, the figures of its strokes by bar where they
    are not those of what it is played from, the bars (first, last exclusive) whose line is another one."""

    which: str
    words: str
    notes: tuple[Noted, ...]
    strokes: tuple[tuple[int, str], ...] = ()
    lines: tuple[tuple[int, int], ...] = ()


def played_words(song: Song, own: Own) -> list[str]:
    """The strokes and lines of a pass in words: ``strokes from bar 5: D-d-``, ``line in bar 6: A3 5``."""
    strokes = [
        tr("strokes from bar {number}: {figure}", number=song.grid.number(bar), figure=figure)
        for bar, figure in own.strokes
    ]
    return strokes + [
        tr("line in {bars}: {line}", bars=bars_text(song.grid, a, b - 1), line=line_words(song, a, b))
        for a, b in own.lines
    ]


def untold(
    song: Song, line: Line, words: bool, kinds: Collection[str], strokes: bool = False, tabs: bool = False
) -> list[Own]:
    """What passes that are not written out have of their own, of those that have anything: ``words``, notes of these
    ``kinds``, ``strokes``, lines as ``tabs``."""
    out = []
    for one in line.unwritten:
        sung = " / ".join(m.text for bar in one.bars for m in song.lyrics_of_bar(bar)) if words else ""
        notes = tuple(n for bar in one.bars for n in song.notes_of_bar(bar, kinds))
        figures = tuple(_strokes(song, one)) if strokes else ()
        own = Own(one.which, sung, notes, figures, tuple(_lines(song, one)) if tabs else ())
        if own != Own(one.which, "", ()):
            out.append(own)
    return out


def _lines(song: Song, one: Unwritten) -> list[tuple[int, int]]:
    """Bars in a row whose line is not that of the written bars."""
    out: list[tuple[int, int]] = []
    for bar, written in one.pairs():
        if song.line_of_bar(bar) and signature(song, bar) != signature(song, written):
            if out and out[-1][1] == bar:
                out[-1] = (out[-1][0], bar + 1)
            else:
                out.append((bar, bar + 1))
    return out


def _strokes(song: Song, one: Unwritten) -> Iterator[tuple[int, str]]:
    """Where strokes begin that are not those of the written bars, and where they go back to them."""
    before = ""
    for bar, written in one.pairs():
        mine, theirs = song.figure_of_bar(bar), song.figure_of_bar(written)
        said = mine if mine != theirs else ""
        if mine and mine != (before or theirs):
            yield bar, mine
        before = said


def lines(song: Song, per_row: int = 4, folded: bool = True, plain: bool = False) -> list[Line]:
    """All lines of a chart, in order; ``plain`` says in words what sign and coda would say."""
    flat = rows.fold(song, per_row)
    out = [Line(tuple(range(r.first, r.last)), clock=rows.row_clock(song, r), lead_in=True) for r in flat if r.lead_in]
    if not folded:
        for row in flat:
            if not row.lead_in:
                name, which = rows.section_title(song, row.section) if row.opens else ("", "")
                bars = tuple(range(row.first, row.last))
                ends = row.last == song.section_bars(row.section).stop
                told = (*gestures(song, row.section), *voiced(song, (row.section,))) if ends else ()
                clock = rows.row_clock(song, row)
                out.append(Line(bars, opens=row.opens, title=name, note=which, clock=clock, gestures=told))
        return out
    parts = folding.page(song)
    leads_on = any(not isinstance(p, Back) and p.coda for p in parts)
    for part, laid in zip(parts, folding.laid_out(parts), strict=True):
        written = tuple(bar for bar, _ in laid)
        if isinstance(part, Fold):
            made = _written(song, part, per_row, written)
        else:
            made = [_sentence(song, parts, part, written, plain)]
        if plain and not isinstance(part, Back) and part.leaves:
            made[-1] = replace(made[-1], after=folding.leaving_words(song, parts))
        if not plain and not isinstance(part, Back):
            sign = "coda" if part.coda else "segno" if part.segno else ""
            said = {"coda": tr("Coda"), "segno": tr("Sign"), "": ""}[sign]
            made[0] = replace(made[0], before=said, signs=(sign, ""))
            if part.leaves:
                goes_to = "coda" if leads_on else ""
                after = tr("to the coda") if leads_on else tr("Fine")
                made[-1] = replace(made[-1], after=after, signs=(made[-1].signs[0], goes_to))
        found = dict.fromkeys(words for i in _told_of(part) for words in gestures(song, i))
        out += [*made[:-1], replace(made[-1], gestures=(*found, *voiced(song, part.sections)))]
    return out


def _told_of(part: folding.Part) -> tuple[int, ...]:
    """The sections whose gestures are told with a part: the one that is written, and the last of others, which may have a tag."""
    return (part.sections[0], part.sections[-1]) if isinstance(part, Fold) else part.sections[-1:]


def _clocks(song: Song, sections: tuple[int, ...]) -> str:
    return ", ".join(rows.section_clock(song, s) for s in sections)


def _written(song: Song, part: Fold, per_row: int, written: tuple[int, ...]) -> list[Line]:
    """A part's rows: the common bars, then each ending; ``written`` are the bars that stand there, as they are played."""
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
        words = folding.times_words(ending.times) + tr(" time")
        for k in range(0, len(ending.bars), per_row):
            out.append(Line(ending.bars[k : k + per_row], ending=words if not k else ""))
        if min(ending.times) < part.times:  # one goes back after it at least once
            out[-1] = replace(out[-1], repeats=(False, True))
    passes: list[Unwritten] = []
    own = _own_bars(song, part.sections)
    for k in range(part.times):
        here = slice(k * len(own) // part.times, (k + 1) * len(own) // part.times)  # all passes of a fold are as long
        if k:
            passes.append(Unwritten(tr("{ordinal} time", ordinal=ordinal(k + 1)), own[here], written[here]))
        elif part.phrases:  # rounds of a phrase that are not written
            again = [(b, w) for b, w in zip(own[here], written[here], strict=True) if b != w]
            passes.append(Unwritten("", tuple(b for b, _ in again), tuple(w for _, w in again)))
    return [*out[:-1], replace(out[-1], unwritten=tuple(passes))]


def _own_bars(song: Song, sections: tuple[int, ...]) -> tuple[int, ...]:
    return tuple(bar for s in sections for bar in song.section_bars(s))


def _sentence(
    song: Song, parts: list[folding.Part], part: Again | Back, written: tuple[int, ...], plain: bool = False
) -> Line:
    clock = _clocks(song, part.sections)
    own = (Unwritten("", _own_bars(song, part.sections), written),)
    if isinstance(part, Back):
        words, clock = folding.back_words(song, parts, part, plain), clock.split(",")[0]
        return Line(words=words, opens=True, title=tr("Again") if plain else tr("D.S."), clock=clock, unwritten=own)
    name = folding.title(song, part.sections)
    _, which = rows.section_title(song, part.sections[0])
    words = folding.again_words(song, parts, part)
    return Line(words=words, opens=True, title=name, note=which, clock=clock, unwritten=own)
