"""A chart as PDF: one line of bars a phrase, chord names over beats, sections and times at the left."""

from __future__ import annotations

import io
from dataclasses import replace
from importlib import resources
from typing import Any

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from ..chart.facts import facts, guidance
from ..chart.lines import Line, lines
from ..chart.order import order_text
from ..chart.rows import bar_marks, guitar_line, signs_line
from ..chart.used import used
from ..guitar.hands import level_of
from ..song.model import Song
from ..song.words import beats_text
from . import pdfshapes
from .options import Options

PLAIN, BOLD, ITALIC = "GentiumBookPlus", "GentiumBookPlus-Bold", "GentiumBookPlus-Italic"
MARGIN, LABEL = 48.0, 86.0  # points: page margin, column of section names
ROW, SENTENCE, GAP = 44.0, 28.0, 16.0  # height of a row and of a line of words, extra space before a section
CHORD_SIZE, SMALL = 15.0, 8.5
SMALLEST = 0.5  # of the usual size, on one page
WORDS, NOTE = 12.0, 11.0  # height of a line of words, of notes
NOTE_SIZE = 8.5
INK, QUIET, LINE = (0.13, 0.19, 0.23), (0.45, 0.45, 0.42), (0.75, 0.73, 0.68)


def _fonts() -> None:
    if PLAIN in pdfmetrics.getRegisteredFontNames():
        return
    folder = resources.files("ychronos").joinpath("fonts")
    for name, file in ((PLAIN, "Regular"), (BOLD, "Bold"), (ITALIC, "Italic")):
        data = folder.joinpath(f"GentiumBookPlus-{file}.ttf").read_bytes()
        pdfmetrics.registerFont(TTFont(name, io.BytesIO(data)))


class _Page:
    """The canvas with a pen that moves down and turns pages."""

    def __init__(self, song: Song, options: Options) -> None:
        _fonts()
        paper = options.paper
        self.song, self.options, self.per_row = song, options, options.per_row
        self.buffer = io.BytesIO()
        self.canvas = Canvas(self.buffer, pagesize=paper.points, invariant=1)
        self.scale = paper.scale
        self.canvas.scale(self.scale, self.scale)
        self.canvas.setTitle(song.title)
        self.canvas.setAuthor(song.artist or "Ychronos")
        self.width, self.height = (x / self.scale for x in paper.points)
        self.number = 1
        self.y = self.height - MARGIN

    def text(
        self, x: float, y: float, text: str, font: str, size: float, colour: tuple[float, float, float] = INK
    ) -> None:
        self.canvas.setFillColorRGB(*colour)
        self.canvas.setFont(font, size)
        self.canvas.drawString(x, y, text)

    def fit(self, text: str, font: str, size: float, room: float) -> float:
        """A size at which the text fits into ``room`` points."""
        wide = pdfmetrics.stringWidth(text, font, size)
        return size if wide <= room else max(6.0, size * room / wide)

    def head(self) -> None:
        song, f = self.song, facts(self.song)
        size = self.fit(song.title, BOLD, 24, self.width - 2 * MARGIN)
        self.y -= 20
        self.text(MARGIN, self.y, song.title, BOLD, size)
        if song.artist:
            self.y -= 16
            self.text(MARGIN, self.y, song.artist, ITALIC, 12, QUIET)
        self.y -= 18
        self.text(MARGIN, self.y, f"{f.home}   ·   {f.count}   ·   record {f.record}", PLAIN, 11)
        self.y -= 14
        self.text(MARGIN, self.y, guidance(song), ITALIC, 9.5, QUIET)
        if guitar_line(song):
            self.y -= 12
            self.text(MARGIN, self.y, guitar_line(song), ITALIC, 9.5, QUIET)
        for words in self.wrapped(order_text(song), ITALIC, 9.5):
            self.y -= 12
            self.text(MARGIN, self.y, words, ITALIC, 9.5)
        self.y -= 20

    def wrapped(self, text: str, font: str, size: float) -> list[str]:
        """A text in lines that fit between the margins."""
        out: list[str] = []
        for word in text.split():
            longer = f"{out[-1]} {word}" if out else word
            if out and pdfmetrics.stringWidth(longer, font, size) <= self.width - 2 * MARGIN:
                out[-1] = longer
            else:
                out.append(word)
        return out

    def shapes(self) -> None:
        """The shapes in use in order of appearance, those of a second guitar after the first's."""
        guitars = [self.song.guitar, *([self.song.second] if self.song.second is not None else [])]
        for guitar in guitars:
            found = used(self.song, guitar)
            if not found:
                continue
            words = f"Shapes, {level_of(guitar.level).words}"
            if len(guitars) > 1:
                words = f"{'Second' if guitar is self.song.second else 'First'} guitar, {guitar.describe()}: {words.lower()}"
            self.room_for(pdfshapes.HIGH + 14)
            self.text(MARGIN, self.y, words, ITALIC, SMALL, QUIET)
            self.y -= 6
            across = max(1, int((self.width - 2 * MARGIN) // pdfshapes.WIDE))
            for k in range(0, len(found), across):
                self.room_for(pdfshapes.HIGH)
                for i, one in enumerate(found[k : k + across]):
                    pdfshapes.draw(self.canvas, one, guitar, MARGIN + i * pdfshapes.WIDE - 6, self.y, (BOLD, PLAIN))
                self.y -= pdfshapes.HIGH
            self.y -= 14

    def foot(self) -> None:
        self.text(MARGIN, MARGIN - 22, self.song.title, ITALIC, SMALL, QUIET)
        self.canvas.setFont(PLAIN, SMALL)
        self.canvas.drawRightString(self.width - MARGIN, MARGIN - 22, str(self.number))

    def room_for(self, height: float) -> None:
        if self.y - height < MARGIN:
            self.foot()
            self.canvas.showPage()
            self.canvas.scale(self.scale, self.scale)
            self.number += 1
            self.y = self.height - MARGIN

    def row(self, line: Line) -> None:
        """A line of the chart: bars, or a sentence instead."""
        notes = self.notes(line)
        below = self.words_high(line) + NOTE * len(notes)
        height = (ROW + below) if line.bars else SENTENCE
        self.room_for(height + (GAP if line.opens else 0))
        if line.opens:
            self.y -= GAP
        top, base = self.y, self.y - height + 12 + below
        if line.lead_in:
            self.text(MARGIN, top - 14, "Lead-in", ITALIC, 10, QUIET)
        if line.opens:
            self.text(MARGIN, top - 14, line.title, BOLD, self.fit(line.title, BOLD, 12.5, LABEL - 8))
            if line.note and line.bars:
                self.text(MARGIN, top - 25, line.note, ITALIC, SMALL, QUIET)
        if line.before:
            self.sign(MARGIN, top + 4, line.before)
        if self.options.times:
            clock = self.fit(line.clock, PLAIN, SMALL, LABEL - 8)
            self.text(MARGIN, base - 4 if line.bars else top - 25, line.clock, PLAIN, clock, QUIET)
        if self.options.numbers and line.bars:
            self.number_of(line.bars[0], top)
        if line.bars:
            x = self.bars(line, top, base)
            self.words(line, base)
            for n, texts in enumerate(notes):
                for x_note, text, font in texts:
                    self.text(x_note, base - 13 - self.words_high(line) - NOTE * n, text, font, NOTE_SIZE)
        else:
            x = MARGIN + LABEL
            words = f"{line.note}, {line.words}" if line.note else line.words
            self.text(x, top - 14, words, ITALIC, self.fit(words, ITALIC, 11, self.width - 2 * MARGIN - LABEL))
            x = self.width - MARGIN
        if line.after:
            wide = pdfmetrics.stringWidth(line.after, ITALIC, SMALL) + 8
            self.sign(x - wide, base - 10, line.after)
        self.y -= height

    def number_of(self, bar: int, top: float) -> None:
        """The number of a row's first bar, as the sheet has it, over its line."""
        number = self.song.grid.number(bar)
        if number > 0:
            self.canvas.setFillColorRGB(*QUIET)
            self.canvas.setFont(PLAIN, SMALL - 2)
            self.canvas.drawRightString(MARGIN + LABEL - 3, top - 7, str(number))

    def bars(self, line: Line, top: float, base: float) -> float:
        """The bars of a line; returns where they end."""
        column = (self.width - 2 * MARGIN - LABEL) / self.per_row
        x = MARGIN + LABEL
        if line.repeats[0]:
            self.repeat(x, top, base, 1)
        for bar in line.bars:
            inset = 4.0 if line.repeats[0] and bar == line.bars[0] else 0.0
            self.bar(bar, x, column, top, base, inset)
            x += column
        self.line(x, top, base, 1.2)
        if line.repeats[1]:
            self.repeat(x, top, base, -1)
        if line.ending:
            left = MARGIN + LABEL
            self.text(left + 4, top - 2, line.ending, ITALIC, SMALL)
            self.canvas.setStrokeColorRGB(*INK)
            self.canvas.setLineWidth(0.7)
            self.canvas.lines([(left, top + 7, x - 4, top + 7), (left, top + 7, left, top - 2)])
        return x

    def words_high(self, line: Line) -> float:
        """Room that the words of a row need."""
        return WORDS if self.options.words and any(self.song.lyrics_of_bar(bar) for bar in line.bars) else 0.0

    def notes(self, line: Line) -> list[list[tuple[float, str, str]]]:
        """The notes of a row that are wanted, in as many lines as they need: (x, text, font), each under its beat unless
        it would leave the page."""
        out: list[list[tuple[float, str, str]]] = []
        ends: list[float] = []
        column = (self.width - 2 * MARGIN - LABEL) / self.per_row
        for k, bar in enumerate(line.bars):
            start, beats = self.song.grid.starts[bar], self.song.grid.bars[bar].beats
            for note in self.song.notes_of_bar(bar, self.options.notes):
                font = BOLD if note.kind == "cue" else ITALIC
                right = self.width - MARGIN
                for text in self.wrapped(f"({note.line})" if note.kind == "private" else note.line, font, NOTE_SIZE):
                    wide = pdfmetrics.stringWidth(text, font, NOTE_SIZE)
                    x = min(MARGIN + LABEL + column * (k + float(note.at - start) / beats) + 5, right - wide)
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
        column = (self.width - 2 * MARGIN - LABEL) / self.per_row
        places = []
        for k, bar in enumerate(line.bars):
            start, beats = self.song.grid.starts[bar], self.song.grid.bars[bar].beats
            for m in self.song.lyrics_of_bar(bar):
                places.append((MARGIN + LABEL + column * (k + float(m.at - start) / beats) + 5, m.text))
        for n, (x, text) in enumerate(places):
            limit = places[n + 1][0] - 4 if n + 1 < len(places) else self.width - MARGIN
            size = self.fit(text, ITALIC, 9.0, max(20.0, limit - x))
            self.text(x, base - 13, text, ITALIC, size)

    def repeat(self, x: float, top: float, base: float, side: int) -> None:
        """A repeat sign whose dots stand to the right (1) or left (-1) of it."""
        self.line(x - side, top, base, 2.6)
        self.canvas.setFillColorRGB(*INK)
        for height in (0.38, 0.62):
            self.canvas.circle(x + 2.6 * side, base + height * (top - 2 - base), 1.0, stroke=0, fill=1)

    def sign(self, x: float, y: float, words: str) -> None:
        """Words in a frame: where the way goes."""
        wide = pdfmetrics.stringWidth(words, ITALIC, SMALL)
        self.canvas.setStrokeColorRGB(*INK)
        self.canvas.setLineWidth(0.7)
        self.canvas.rect(x, y - 2.5, wide + 8, SMALL + 2.5)
        self.text(x + 4, y, words, ITALIC, SMALL)

    def line(self, x: float, top: float, base: float, width: float) -> None:
        self.canvas.setStrokeColorRGB(*INK)
        self.canvas.setLineWidth(width)
        self.canvas.line(x, top - 2, x, base)

    def bar(self, index: int, x: float, width: float, top: float, base: float, inset: float = 0.0) -> None:
        song = self.song
        bar = song.grid.bars[index]
        self.line(x, top, base, 0.8)
        x, width = x + inset, width - inset
        self.canvas.setStrokeColorRGB(*LINE)
        self.canvas.setLineWidth(0.5)
        inner = width - 8
        for beat in range(bar.beats):
            at = x + 5 + inner * beat / bar.beats
            self.canvas.line(at, base, at, base + (5 if beat else 8))
        odd = song.grid.irregular(index)
        if odd or bar.meter != song.grid.usual_meter():
            note = beats_text(bar.beats) if odd else str(bar.meter)
            self.text(x + 5, base - 9, note, ITALIC, SMALL, QUIET)
        marks = bar_marks(song, index)
        for mark, following in zip(marks, [*marks[1:], None], strict=True):
            at = x + 5 + inner * float(mark.offset) / bar.beats
            limit = x + width - 2 if following is None else x + 5 + inner * float(following.offset) / bar.beats - 3
            span = song.chords[mark.span]
            shape = f" ({mark.shape})" if mark.shape else ""
            text = mark.name + shape + mark.sign + ("?" if span.doubtful and mark.begins else "")
            colour = INK if mark.begins else QUIET
            self.text(at, base + 12, text, BOLD, self.fit(text, BOLD, CHORD_SIZE, max(10.0, limit - at)), colour)

    def finish(self) -> bytes:
        self.foot()
        self.canvas.save()
        return self.buffer.getvalue()


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
    for line in lines(song, options.per_row, options.folded):
        page.row(line)
    notes = ["“?” marks a chord that is not sure."] if song.doubts() else []
    notes += [f"{signs_line(song)}."] if signs_line(song) else []
    for note in notes:
        page.room_for(24)
        page.y -= 14
        page.text(MARGIN, page.y, note, ITALIC, SMALL, QUIET)
    return page
