"""A chart as plain text: names in bars, sections, times, and the facts a player needs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from ..chart import tablature
from ..chart.basswalk import walks
from ..chart.basswalk import words as bass_words
from ..chart.counts import counts_text
from ..chart.facts import facts, guidance
from ..chart.figured import told
from ..chart.lines import Line, Unwritten, played_words, untold
from ..chart.lines import lines as chart_lines
from ..chart.order import order_text
from ..chart.rows import Mark, bar_marks, guitar_line, signs_line
from ..chart.used import used
from ..guitar.fingering import shape_text
from ..song.model import Song
from ..song.words import beats_text
from ..theory.meter import Meter
from ..tongue import tr
from .options import Options

HELD, OFF_BEAT = ".", "&"


def bar_text(marks: list[Mark], beats: int) -> str:
    """One bar: a lone chord by itself, else one token a beat: a name, or a dot where it holds.
    A name after ``&`` comes after the count of that beat."""
    if len(marks) == 1 and marks[0].offset == 0:
        return _name(marks[0])
    tokens = []
    for beat in range(beats):
        inside = [m for m in marks if beat <= m.offset < beat + 1]
        on = [_name(m) for m in inside if m.offset == beat]
        off = [OFF_BEAT + _name(m) for m in inside if m.offset != beat]
        tokens.append((on[0] if on else HELD) + "".join(off))
    return " ".join(tokens)


def _name(mark: Mark) -> str:
    return (f"{mark.name}({mark.shape})" if mark.shape else mark.name) + mark.sign


def render(song: Song, options: Options | None = None, **wishes: Any) -> str:
    """The whole chart; ``wishes`` are fields of :class:`Options`, whose shapes are only there if said. Bar columns are
    aligned."""
    options = replace(options or Options(shapes=False), **wishes)
    ascii_only = options.ascii_only
    lines = [*head(song), *filter(None, [order_text(song, ascii_only)]), ""]
    chart = chart_lines(song, options.per_row, options.folded, options.plain)
    cells = {
        bar: bar_text(bar_marks(song, bar, ascii_only), song.grid.bars[bar].beats)
        for line in chart
        for bar in line.bars
    }
    lines += _body(song, chart, cells, options)
    lines += _notes(song, cells, ascii_only)
    if options.shapes:
        lines += _shapes(song, ascii_only)
    return as_text(lines, ascii_only)


def head(song: Song) -> list[str]:
    """What a player needs first: title, facts, how to tune, the guitar."""
    f = facts(song)
    title = song.title + (f" – {song.artist}" if song.artist else "")
    return [title, f"{f.home} · {f.count} · {f.record}", guidance(song), *filter(None, [guitar_line(song)])]


def as_text(lines: Sequence[str], ascii_only: bool) -> str:
    """Lines as a text, its signs as every keyboard has them if wanted."""
    out = "\n".join(lines) + "\n"
    return out.replace("♭", "b").replace("♯", "#") if ascii_only else out


def _shapes(song: Song, ascii_only: bool) -> list[str]:
    """The shapes in use: their names, and frets from the lowest string."""
    lines: list[str] = []
    for guitar in (song.guitar, song.second):
        if guitar is None:
            continue
        found = used(song, guitar)
        counted = tr("the nut") if guitar.from_nut or not guitar.capo else tr("the capo")
        head = tr("Shapes, {describe}, frets from {counted}:", describe=guitar.describe(), counted=counted)
        cells = []
        for one in found:
            name = song.shape_name_on(guitar, one.first, ascii_only)
            cells.append(
                f"{name} {shape_text(guitar.nut_frets(one.held.shape) if guitar.from_nut else one.held.shape)}"
            )
        if cells:
            lines += ["", head, *("   ".join(cells[k : k + 6]) for k in range(0, len(cells), 6))]
    return lines


def _body(song: Song, chart: Sequence[Line], cells: dict[int, str], options: Options) -> list[str]:
    """Titles, rows of bars and sentences instead of them."""
    lines: list[str] = []
    width = min(24, max(len(t) for t in cells.values()))
    endings = max((len(line.ending) + 1 for line in chart if line.ending), default=0)
    previous = song.grid.usual_meter()
    figures = told(song)
    basses = walks(song) if options.bass else {}
    riffs = tablature.written(song) if options.tabs and song.line else None
    for line in chart:
        lines += _title(line, options.times)
        if not line.bars:
            if line.after:
                lines[-1] += f"  [{line.after}]"
            lines += _told(song, line, options, figures)
            continue
        text = f"{line.ending:<{endings}}" if endings else ""
        for k, bar in enumerate(line.bars):
            note = _bar_note(song, bar, previous)
            previous = song.grid.bars[bar].meter
            text += ("|: " if line.repeats[0] and not k else "| ") + f"{note}{cells[bar]:<{width}} "
        lines.append(
            text
            + (":|" if line.repeats[1] else "|")
            + (f" {'x' if options.ascii_only else '×'}{line.times}" if line.times > 2 else "")
            + (f"  [{line.after}]" if line.after else "")
        )
        for bar in line.bars if options.bass else ():
            if bar in basses:
                lines.append(
                    " " * (endings + 2)
                    + tr("bass in bar {number}: {notes}", number=song.grid.number(bar), notes=bass_words(song, bar))
                )
        if riffs is not None:
            lines += [f"{'':<{endings}}  {words}" for words in _tab(song, line.bars, riffs)]
        here = replace(line, unwritten=(Unwritten("", line.bars, line.bars), *line.unwritten))
        lines += [f"{'':<{endings}}  {words}" for words in _told(song, here, options, figures)]
    return lines


def _tab(song: Song, bars: Sequence[int], riffs: tablature.Written) -> list[str]:
    """The tablature of a row, its riffs named where they come again."""
    named = [
        tr("bar {number}: {names}", number=song.grid.number(b), names=riffs.names[b]) for b in bars if b in riffs.names
    ]
    shown = [b for b in bars if riffs.has_tab(song, b)]
    return ["   ".join(named)] * bool(named) + (
        tablature.tab_lines(song, bars[bars.index(shown[0]) : bars.index(shown[-1]) + 1]) if shown else []
    )


def _told(song: Song, line: Line, options: Options, figures: Mapping[int, str]) -> list[str]:
    """What stands below a row: its counts and strokes, words and notes of its bars and of passes that are not written."""
    out: list[str] = list(line.gestures) if options.gestures else []
    if options.counts and line.bars:
        out.append(tr("beats: {counts}", counts=counts_text(song, line.bars, options.ascii_only)))
    for bar in line.bars if options.strokes else ():
        if bar in figures:
            words = tr("strokes from bar {number}: {figures}", number=song.grid.number(bar), figures=figures[bar])
            out.append(f"{words} ({tr('two guitars')})" if song.paired_in(bar) else words)
    for one in untold(song, line, options.words, options.notes, options.strokes, options.tabs):
        own = [one.words] if one.words else []
        own += [f"({song.grid.beat_name(n.at)}: {n.line})" for n in one.notes]
        own += played_words(song, one)
        out += [f"{one.which}: {text}" if one.which else text for text in own]
    return out


def _title(line: Line, times: bool) -> list[str]:
    """What stands over a line that opens a section."""
    clock = f"  {line.clock}" if times else ""
    if line.lead_in:
        return [tr("Lead-in{clock}", clock=clock)]
    if not line.opens:
        return []
    sign = f"[{line.before}] " if line.before else ""
    which = f" ({line.note})" if line.note else ""
    return ["", f"{sign}{line.title}{which}{clock}" + (f"  {line.words}" if line.words else "")]


def _bar_note(song: Song, bar: int, previous: Meter) -> str:
    """What a reader must be told before a bar: how many beats it has, or its meter where that changes."""
    here = song.grid.bars[bar]
    if song.grid.irregular(bar):
        return f"({beats_text(here.beats)}) "
    return f"({here.meter}) " if here.meter != previous and here.first == 1 else ""


def _notes(song: Song, cells: dict[int, str], ascii_only: bool) -> list[str]:
    """What signs mean, and what is not sure."""
    lines: list[str] = []
    if any(OFF_BEAT in text for text in cells.values()):
        lines += ["", tr("{off_beat}: the chord comes after the beat is counted, on the “and”.", off_beat=OFF_BEAT)]
    if signs_line(song, ascii_only):
        lines += ["", signs_line(song, ascii_only) + "."]
    doubtful = [i for i in song.doubts() if not song.chords[i].stated]
    if doubtful:
        places = ", ".join(
            f"{song.chord_name(i, ascii_only)} ({song.grid.beat_name(song.chords[i].start)})"
            for i in sorted(doubtful)[:12]
        )
        more = tr(" and {count} more", count=len(doubtful) - 12) if len(doubtful) > 12 else ""
        lines += ["", tr("Not sure: {places}{more}.", places=places, more=more)]
    return lines
