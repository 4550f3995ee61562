"""A chart as PDF: one line of bars a phrase, chord names over beats, sections and times at the left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from .. import __version__
from ..chart import basswalk, figured, tablature
from ..chart.counts import counts_text
from ..chart.facts import facts, guidance
from ..chart.lines import Line, lines, played_words, untold
from ..chart.order import order_text
from ..chart.rows import bar_marks, guitar_line, signs_line
from ..chart.used import used
from ..guitar.hands import level_of
from ..song.model import Song
from ..song.words import beats_text
from ..theory.notation import SCHOOLS as NOTATION
from ..theory.notation import key_text
from ..tongue import tr
from . import pdfshapes, pdftab
from .options import Options
from .pdffonts import BOLD, ITALIC, PLAIN, width
from .pdfpen import INK, LINE, MARGIN, QUIET, SMALL, Pen

LABEL = 86.0  # points: column of section names
NARROW = 400.0  # a column less wide than this has the names of sections over its rows
ROW, SENTENCE, GAP = 44.0, 28.0, 16.0  # height of a row and of a line of words, extra space before a section
TITLE = 18.0  # height of a title over its row
CHORD_SIZE = 15.0
STAGGER_BELOW, STAGGERED = 9.0, 11.0  # names smaller than this stand on two levels, at most so large
SMALLEST = 0.5  # of the usual size, on one page
STROKES = 17.0  # height of a line of strokes
BASS = 11.0  # height of the notes of a bass
METER = 9.0  # height of how bars are counted
WORDS, NOTE = 12.0, 11.0  # height of a line of words, of notes
NOTE_SIZE = 8.5
TOGETHER = 0.45  # of a page: a section no higher than this is not divided
EARLIER = 0.9  # of a beat, that a name may begin before its own
AFTER_REPEAT = 4.0  # where a repeat sign pushes the first chord
Placed = tuple[float, str, str]  # x, text, font


@dataclass(frozen=True)
class Name:
    """A chord's name in a bar: the place of its beat, ``beat`` points to the next one; ``pushed``: it comes between
    beats."""

    x: float
    text: str
    begins: bool
    beat: float
    pushed: bool = False


class _Page(Pen):
    """The pen that knows the song."""

    def __init__(self, song: Song, options: Options) -> None:
        super().__init__(options.paper)
        self.song, self.options, self.per_row = song, options, options.per_row
        self.greyed = self.pushed = False
        self.figures = figured.told(song) if options.strokes else {}
        self.bass = basswalk.walks(song) if options.bass else {}
        self.tabs = tablature.written(song) if options.tabs and song.line else None
        self.canvas.setTitle(song.title)
        self.canvas.setAuthor(song.artist or "Ychronos")
        self.canvas.setSubject(f"Chart: {facts(song).home}, {facts(song).count}")
        self.canvas.setCreator(f"Ychronos {__version__}")

    @property
    def label(self) -> float:
        """Width of the column of section names, 0 where they stand over the rows."""
        return LABEL if self.right - self.left >= NARROW else 0.0

    @property
    def column_wide(self) -> float:
        """Width of a bar."""
        return (self.right - self.left - self.label) / self.per_row

    def head(self) -> None:
        song, f = self.song, facts(self.song)
        room = self.right - self.left
        self.y -= 20
        self.text(MARGIN, self.y, song.title, BOLD, self.fit(song.title, BOLD, 24, room))
        if song.artist:
            self.y -= 16
            self.text(MARGIN, self.y, song.artist, ITALIC, self.fit(song.artist, ITALIC, 12, room), QUIET)
        self.y -= 4
        for words, font, size, colour in (
            (
                tr("{home}   ·   {count}   ·   record {record}", home=f.home, count=f.count, record=f.record),
                PLAIN,
                11.0,
                INK,
            ),
            (guidance(song), ITALIC, 9.5, QUIET),
            (guitar_line(song), ITALIC, 9.5, QUIET),
            (order_text(song), ITALIC, 9.5, INK),
        ):
            for line in self.wrapped(words, font, size, room):
                self.y -= size + 3
                self.text(MARGIN, self.y, line, font, size, colour)
        self.y -= 18

    def shapes(self) -> None:
        """The shapes in use in order of appearance, those of a second guitar after the first's."""
        guitars = [self.song.guitar, *([self.song.second] if self.song.second is not None else [])]
        for guitar in guitars:
            found = used(self.song, guitar)
            if not found:
                continue
            level = level_of(guitar.level).words
            words = tr("Shapes, {words}", words=level)
            if len(guitars) > 1:
                whose = tr("Second guitar") if guitar is self.song.second else tr("First guitar")
                words = tr("{whose}, {guitar}: shapes, {level}", whose=whose, guitar=guitar.describe(), level=level)
            self.room_for(pdfshapes.HIGH + 14)
            self.text(MARGIN, self.y, words, ITALIC, SMALL, QUIET)
            self.y -= 6
            across = max(1, int((self.right - self.left) // pdfshapes.WIDE))
            for k in range(0, len(found), across):
                self.room_for(pdfshapes.HIGH)
                for i, one in enumerate(found[k : k + across]):
                    pdfshapes.draw(self.canvas, one, guitar, MARGIN + i * pdfshapes.WIDE - 6, self.y, (BOLD, PLAIN))
                self.y -= pdfshapes.HIGH
            self.y -= 14

    def foot(self) -> None:
        base, made = MARGIN - 22, self.song.log[-1].when[:10] if self.song.log else ""
        self.text(MARGIN, base, self.song.title, ITALIC, SMALL, QUIET)
        right = self.width - MARGIN
        self.text_right(right, base, f"{made}   {self.number}".strip(), PLAIN, SMALL, QUIET)

    # ------------------------------------------------------------ rows

    def chart(self, written: Sequence[Line]) -> None:
        """All lines, those of a section on one page where that wastes not too much, and no row alone."""
        starts = [i for i, line in enumerate(written) if line.opens or not i]
        for first, last in pairwise([*starts, len(written)]):
            section = written[first:last]
            heights = [self.height_of(line) for line in section]
            whole = sum(heights)
            if whole <= TOGETHER * (self.height - 2 * MARGIN):
                self.room_for(whole)
            for i, line in enumerate(section):
                rest = heights[i:]
                # two rows stay together at the start of a section and at its end
                keep = sum(rest[:2]) if i == 0 or len(rest) == 2 else rest[0]
                moved = self.room_for(keep if keep < self.top - MARGIN else rest[0])
                self.row(line, line.opens and not moved)

    def height_of(self, line: Line) -> float:
        """Room that a line takes with all that stands below it."""
        height = SENTENCE
        if line.bars:
            height = ROW + self.below(line)
        title = TITLE if line.opens and not self.label else 0.0
        return height + title + (GAP if line.opens else 0) + NOTE * len(self.sung(line))

    def row(self, line: Line, gap: bool) -> None:
        """A line of the chart: bars, or a sentence instead."""
        notes, sung = self.notes(line), self.sung(line)
        if gap and self.y < self.top:
            self.y -= GAP
        if line.opens and not self.label:
            self.y -= TITLE
        below = self.below(line)
        height = (ROW + below) if line.bars else SENTENCE
        top, base = self.y, self.y - height + 12 + below
        self.title(line, top, base)
        if line.before:
            said = "" if line.signs[0] == "segno" else line.before
            self.sign(self.left + (0 if self.label else 120), top + (4 if self.label else 6), said, line.signs[0])
        if self.options.numbers and line.bars and (self.label or not line.ending):
            self.number_of(line.bars[0], top)
        if line.bars:
            x, base = self.bars(line, top, base), base - (self.meter_high(line) if below else 0.0)
            self.bass_notes(line, base)
            base -= self.bass_high(line)
            self.strokes(line, base)
            struck, tabbed = self.strokes_high(line), self.tab_high(line)
            if self.tabs is not None and tabbed:
                pdftab.draw(
                    self,
                    self.song,
                    self.tabs,
                    line.bars,
                    self.left + self.label,
                    self.column_wide,
                    base - struck - 2,
                    INK,
                )
            self.words(line, base - struck - tabbed)
            lower = base - 13 - struck - tabbed - self.words_high(line)
            for n, texts in enumerate(notes):
                for x_note, text, font in texts:
                    self.text(x_note, lower - NOTE * n, text, font, NOTE_SIZE)
        else:
            x = self.left + (self.label or 0)
            words = f"{line.note}, {line.words}" if line.note else line.words
            self.text(x, top - 14, words, ITALIC, self.fit(words, ITALIC, 11, self.right - x))
            x = self.right
        if line.after:
            wide = width(line.after, ITALIC, SMALL) + 8 + (13 if line.signs[1] else 0)
            self.sign(x - wide, base - 10, line.after, line.signs[1])
        self.y -= height
        for text, font in sung:
            self.y -= NOTE
            self.text(self.left + self.label + 5, self.y + 5, text, font, NOTE_SIZE)

    def title(self, line: Line, top: float, base: float) -> None:
        """The name of a section, which time it comes, and when: at the left of its row, or over it."""
        if not self.label:
            if not (line.opens or line.lead_in):
                return
            name, y = tr("Lead-in") if line.lead_in else line.title, top + 6
            self.text(self.left, y, name, ITALIC if line.lead_in else BOLD, 11.5)
            x = self.left + width(name, BOLD, 11.5) + 8
            note = line.note if line.bars else ""
            told = ", ".join(t for t in (note, line.clock if self.options.times else "") if t)
            self.text(x, y, told, ITALIC, self.fit(told, ITALIC, SMALL, max(30.0, self.right - x)), QUIET)
            return
        if line.lead_in:
            self.text(self.left, top - 14, tr("Lead-in"), ITALIC, 10, QUIET)
        if line.opens:
            self.text(self.left, top - 14, line.title, BOLD, self.fit(line.title, BOLD, 12.5, LABEL - 8))
            if line.note and line.bars:
                self.text(self.left, top - 25, line.note, ITALIC, SMALL, QUIET)
        if self.options.times:
            clock = self.fit(line.clock, PLAIN, SMALL, LABEL - 8)
            self.text(self.left, base - 4 if line.bars else top - 25, line.clock, PLAIN, clock, QUIET)

    def number_of(self, bar: int, top: float) -> None:
        """The number of a row's first bar, as the sheet has it, before its line or over it."""
        number = self.song.grid.number(bar)
        if number <= 0:
            return
        if self.label:
            self.text_right(self.left + self.label - 3, top - 7, str(number), PLAIN, SMALL - 2, QUIET)
        else:
            self.text(self.left, top, str(number), PLAIN, SMALL - 2.5, QUIET)

    def bars(self, line: Line, top: float, base: float) -> float:
        """The bars of a line; returns where they end."""
        column = self.column_wide
        x = left = self.left + self.label
        names: list[tuple[float, list[Name]]] = []
        if line.repeats[0]:
            self.repeat(x, top, base, 1)
        for bar in line.bars:
            inset = AFTER_REPEAT if line.repeats[0] and bar == line.bars[0] else 0.0
            self.bar(bar, x, column, top, base, inset)
            names.append((x + column - 3, self.names(bar, x + inset, column - inset)))
            x += column
        self.write_names(names, base)
        self.line(x, top, base, 1.2)
        if line.repeats[1]:
            self.repeat(x, top, base, -1)
        if line.times > 2:
            self.text(x + 3, top - 8, f"×{line.times}", BOLD, SMALL + 1)
        if line.ending:
            self.text(left + 4, top - 2, line.ending, ITALIC, SMALL)
            self.canvas.setStrokeColorRGB(*INK)
            self.canvas.setLineWidth(0.7)
            self.canvas.lines([(left, top + 7, x - 4, top + 7), (left, top + 7, left, top - 2)])
        return x

    def bar(self, index: int, x: float, wide: float, top: float, base: float, inset: float = 0.0) -> None:
        """The frame of a bar: its line, its beats, its meter where that is another, the key where it changes."""
        song = self.song
        bar = song.grid.bars[index]
        self.line(x, top, base, 0.8)
        x, wide = x + inset, wide - inset
        self.canvas.setStrokeColorRGB(*LINE)
        self.canvas.setLineWidth(0.5)
        for beat in range(bar.beats):
            at = x + 5 + (wide - 8) * beat / bar.beats
            self.canvas.line(at, base, at, base + (5 if beat else 8))
        note = self.meter_note(index)
        if note:
            self.text(x + 5, base - 9, note, ITALIC, SMALL, QUIET)
        start, end = song.grid.bar_range(index)
        for key in song.keys[1:]:
            if start <= key.start < end:
                written = song.guitar.key_moved(key.key, song.guitar.moved)
                self.text(
                    x + 5, top + 1, tr("now in {key}", key=key_text(written, song.notation)), ITALIC, SMALL - 1, QUIET
                )

    def names(self, index: int, x: float, wide: float) -> list[Name]:
        """The names of a bar, each at its beat."""
        song = self.song
        beats = song.grid.bars[index].beats
        out = []
        for mark in bar_marks(song, index):
            shape = f" ({mark.shape})" if mark.shape else ""
            doubt = "?" if song.chords[mark.span].doubtful and mark.begins else ""
            at = x + 5 + (wide - 8) * float(mark.offset) / beats
            pushed = mark.begins and mark.offset.denominator != 1
            out.append(Name(at, mark.name + shape + mark.sign + doubt, mark.begins, (wide - 8) / beats, pushed))
        return out

    def write_names(self, bars: Sequence[tuple[float, Sequence[Name]]], base: float) -> None:
        """The names of a row at one size, ``bars`` are (right edge, names). Where they would be small, every other one
        of a bar stands higher."""
        size, levels = largest(bars, CHORD_SIZE, 1), 1
        if size < STAGGER_BELOW:
            two = min(STAGGERED, largest(bars, CHORD_SIZE, 2))
            size, levels = (two, 2) if two > size else (size, 1)
        for right, names in bars:
            places = placed(names, right, size, levels)
            for k, (name, x) in enumerate(zip(names, places, strict=True)):
                self.greyed |= not name.begins
                up = (size + 1) * (k % levels)
                self.text(x, base + 12 + up, name.text, BOLD, size, INK if name.begins else QUIET)
                if name.pushed:
                    self.pushed = True
                    self.roof(x, base + 12.5 + up + 0.78 * size, min(7.0, 0.5 * size))
            if NOTATION[self.song.notation].roots == "numbers" and sum(n.begins for n in names) > 1:
                end = places[-1] + width(names[-1].text, BOLD, size)  # chords that share a bar
                self.canvas.setStrokeColorRGB(*INK)
                self.canvas.setLineWidth(0.9)
                self.canvas.line(places[0], base + 9, end, base + 9)

    # ------------------------------------------------------------ words and notes

    def below(self, line: Line) -> float:
        """Room that strokes, words and notes of a row need."""
        below = (
            self.bass_high(line)
            + self.strokes_high(line)
            + self.tab_high(line)
            + self.words_high(line)
            + NOTE * len(self.notes(line))
        )
        return below + self.meter_high(line) if below else 0.0

    def bass_high(self, line: Line) -> float:
        """Room for the notes of a bass that walks."""
        return BASS if any(b in self.bass for b in line.bars) else 0.0

    def bass_notes(self, line: Line, base: float) -> None:
        """The notes of the bass where it walks, each under its beat."""
        for k, bar in enumerate(line.bars):
            left, beats = self.left + self.label + self.column_wide * k + 5, self.song.grid.bars[bar].beats
            end = 0.0
            for step in self.bass.get(bar, ()):
                x = max(end, left + (self.column_wide - 8) * float(step.offset) / beats)
                self.text(x, base - 9, step.name, PLAIN, SMALL - 1, QUIET)
                end = x + width(step.name, PLAIN, SMALL - 1) + 3

    def tab_high(self, line: Line) -> float:
        """Room that the tablature of a row needs."""
        return pdftab.high(self.song, self.tabs, line.bars)

    def meter_note(self, index: int) -> str:
        """How a bar is counted, where it has beats of its own or another meter than the bar before; the first one is told at the top."""
        grid, bar = self.song.grid, self.song.grid.bars[index]
        if grid.irregular(index):
            return beats_text(bar.beats)
        before = grid.bars[index - 1].meter if index > grid.lead_in else grid.usual_meter()
        return str(bar.meter) if bar.meter != before else ""

    def meter_high(self, line: Line) -> float:
        """Room for how bars are counted over what else stands below a row."""
        return METER if any(self.meter_note(b) for b in line.bars) else 0.0

    def strokes_high(self, line: Line) -> float:
        return STROKES if any(bar in self.figures for bar in line.bars) else 0.0

    def strokes(self, line: Line, base: float) -> None:
        """What the strumming hand does in the bars where that is new: arrows down and up, longer where they are hard."""
        for k, bar in enumerate(line.bars):
            text = self.figures.get(bar, "")
            left = self.left + self.label + self.column_wide * k + 5
            for i, letter in enumerate(text):
                x = left + (self.column_wide - 8) * i / len(text) + 1
                self.stroke(x, base - 9, letter, self.song.paired_in(bar))

    def words_high(self, line: Line) -> float:
        """Room that the words of a row need."""
        return WORDS if self.options.words and any(self.song.lyrics_of_bar(bar) for bar in line.bars) else 0.0

    def notes(self, line: Line) -> list[list[Placed]]:
        """The notes of a row that are wanted, in as many lines as they need, each under its beat unless it would leave
        the page."""
        out: list[list[Placed]] = []
        ends: list[float] = []
        column, left = self.column_wide, self.left + self.label
        for k, bar in enumerate(line.bars):
            start, beats = self.song.grid.starts[bar], self.song.grid.bars[bar].beats
            for note in self.song.notes_of_bar(bar, self.options.notes):
                font = BOLD if note.kind == "cue" else ITALIC
                words = f"({note.line})" if note.kind == "private" else note.line
                for text in self.wrapped(words, font, NOTE_SIZE, self.right - left):
                    wide = width(text, font, NOTE_SIZE)
                    x = min(left + column * (k + float(note.at - start) / beats) + 5, self.right - wide)
                    row = next((n for n, end in enumerate(ends) if end + 8 <= x), len(ends))
                    if row == len(ends):
                        ends.append(0.0)
                        out.append([])
                    out[row].append((x, text, font))
                    ends[row] = x + wide
        return out

    def words(self, line: Line, base: float) -> None:
        """The words of a row, each under its beat, as far as the next ones let them."""
        if not self.words_high(line):
            return
        column, left = self.column_wide, self.left + self.label
        places = []
        for k, bar in enumerate(line.bars):
            start, beats = self.song.grid.starts[bar], self.song.grid.bars[bar].beats
            for m in self.song.lyrics_of_bar(bar):
                places.append((left + column * (k + float(m.at - start) / beats) + 5, m.text))
        for n, (x, text) in enumerate(places):
            limit = places[n + 1][0] - 4 if n + 1 < len(places) else self.right
            self.text(x, base - 13, text, ITALIC, self.fit(text, ITALIC, 9.0, max(20.0, limit - x)))

    def sung(self, line: Line) -> list[tuple[str, str]]:
        """Lines below a row: its counts, words and notes of passes that are not written out, as (text, font)."""
        out: list[tuple[str, str]] = []
        room = self.right - self.left - self.label - 5
        if self.options.counts and line.bars:
            out += [(t, PLAIN) for t in self.wrapped(counts_text(self.song, line.bars), PLAIN, NOTE_SIZE, room)]
        grid, options = self.song.grid, self.options
        for words in line.gestures if options.gestures else ():
            out += [(t, ITALIC) for t in self.wrapped(words, ITALIC, NOTE_SIZE, room)]
        for one in untold(self.song, line, options.words, options.notes, options.strokes, options.tabs):
            told = [one.words] if one.words else []
            told += [f"{grid.beat_name(n.at)}: {n.line}" for n in one.notes]
            told += played_words(self.song, one)
            for text in told:
                shown = f"{one.which}: {text}" if one.which else text
                out += [(t, ITALIC) for t in self.wrapped(shown, ITALIC, NOTE_SIZE, room)]
        return out


def placed(names: Sequence[Name], right: float, size: float, levels: int) -> list[float]:
    """Where the names of a bar begin: at their beats, or as much earlier as it takes to end before the next one of the
    same level and before the bar's right edge."""
    limits = [right] * levels
    out: list[float] = []
    for k in range(len(names) - 1, -1, -1):
        name = names[k]
        x = min(name.x, limits[k % levels] - width(name.text, BOLD, size))
        limits[k % levels] = x - 0.3 * size
        out.append(x)
    return out[::-1]


def largest(bars: Sequence[tuple[float, Sequence[Name]]], size: float, levels: int) -> float:
    """The largest size up to ``size`` at which no name of a row begins much before its beat, and the first of a bar
    inside it."""

    def fits(size: float) -> bool:
        for right, names in bars:
            for k, (name, x) in enumerate(zip(names, placed(names, right, size, levels), strict=True)):
                if x < name.x - (min(EARLIER * name.beat, size) if k else 0.1):
                    return False
        return True

    if fits(size):
        return size
    low, high = 0.0, size
    for _ in range(12):
        middle = (low + high) / 2
        low, high = (middle, high) if fits(middle) else (low, middle)
    return low


def render(song: Song, options: Options | None = None, **wishes: Any) -> bytes:
    """The chart as the bytes of a PDF file; ``wishes`` are fields of :class:`Options`. On a paper that asks for one page it is
    as large as fits, down to :data:`SMALLEST`."""
    options = replace(options or Options(), **wishes)
    if not options.paper.one_page:
        return _rendered(song, options).finish()
    for bars in (options.per_row, 2 * options.per_row):  # twice as many bars in a row before it is larger than a page
        scale = options.paper.scale
        while True:
            page = _rendered(song, replace(options, per_row=bars, paper=replace(options.paper, scale=scale)))
            if page.number == 1 or scale <= SMALLEST:
                break
            scale = max(SMALLEST, scale * 0.95)
        if page.number == 1:
            break
    return page.finish()


def _rendered(song: Song, options: Options) -> _Page:
    page = _Page(song, options)
    page.head()
    if options.shapes:
        page.shapes()
    page.begin_columns(options.paper.columns)
    page.chart(lines(song, options.per_row, options.folded, options.plain))
    notes = [tr("“?” marks a chord that is not sure.")] if song.doubts() else []
    notes += [tr("Grey names go on from the bar before.")] if page.greyed else []
    notes += [tr("A roof over a name: it comes between the beats.")] if page.pushed else []
    notes += (
        [tr("Arrows: strokes down and up, long when hard, × muted; they go on until others stand there.")]
        if page.figures
        else []
    )
    notes += [tr("Arrows with two shafts: two guitars.")] if any(map(song.paired_in, page.figures)) else []
    notes += [tr("Small names under the bars: the bass where it walks.")] if page.bass else []
    notes += [tablature.legend(song)] if page.tabs is not None else []
    notes += [f"{signs_line(song)}."] if signs_line(song) else []
    for note in notes:
        for text in page.wrapped(note, ITALIC, SMALL, page.right - page.left):
            page.room_for(24)
            page.y -= 14
            page.text(page.left, page.y, text, ITALIC, SMALL, QUIET)
    return page
