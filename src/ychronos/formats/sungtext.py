"""The words of a song with its chords, as players without bars write it: chords over the words, or in brackets between them.

A chord stands where it is heard: between two words of a line by how far the line is through. What is played without words
stands in bars.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..chart.rows import bar_marks, section_title
from ..song.grid import Position
from ..song.model import Song
from .options import Options
from .textchart import as_text, bar_text, head

LONGEST = 4  # bars that a line of words lasts at most
PER_ROW = 4
Chords = Sequence[tuple[float, str]]  # (share of a line, name)


@dataclass(frozen=True)
class _Line:
    """What is played from ``start`` to ``end``, with ``words`` or without."""

    start: Position
    end: Position
    words: str = ""


def over_words(song: Song, options: Options) -> bytes:
    """Chords over the words."""
    return _written(song, options, _over)


def in_brackets(song: Song, options: Options) -> bytes:
    """Chords in brackets between the words."""
    return _written(song, options, _between)


def _written(song: Song, options: Options, write: Callable[[str, Chords], list[str]]) -> bytes:
    out = head(song)
    for i in range(len(song.sections)):
        lines = _lines(song, i)
        if not lines:
            continue
        name, which = section_title(song, i)
        out += ["", f"[{name}]" if not which else f"[{name}] ({which})"]
        for line in lines:
            out += write(line.words, _chords(song, line, options)) if line.words else _bars(song, line, options)
    return as_text(out, options.ascii_only).encode()


def _lines(song: Song, section: int) -> list[_Line]:
    """The lines of a section. Words that begin within the bar before a section belong to it; what lies between the end of
    a line and the next is played without words from a bar line on, if it is a bar or more."""
    grid = song.grid
    bars = song.section_bars(section)
    if not len(bars):
        return []
    start, end = Fraction(grid.starts[bars[0]]), grid.bar_range(bars[-1])[1]
    sung = [m for m in song.lyrics if _home(song, m.at) == section]
    lines: list[_Line] = []
    at = start
    for k, words in enumerate(sung):
        begin = min(words.at, end)
        if k == 0 or begin > at:
            first = grid.starts[grid.bar_at(begin)] if begin > start else start
            if first > at:
                lines.append(_Line(at, Fraction(first)))
                at = Fraction(first)
        following = sung[k + 1].at if k + 1 < len(sung) else end
        bar = grid.bar_at(max(words.at, start))
        limit = grid.bar_range(min(bar + LONGEST - 1, len(grid.bars) - 1))[1]
        stop = following if following <= limit + 1 else limit
        stop = max(stop, at)
        lines.append(_Line(min(at, words.at) if k == 0 else at, stop, words.text))
        at = stop
    if at < end:
        lines.append(_Line(at, end))
    return lines


def _home(song: Song, at: Position) -> int:
    """The section that words belong to: the next one's where they begin less than a bar before it."""
    section = song.section_index(at)
    if section + 1 < len(song.sections):
        following = song.section_bars(section + 1)
        if len(following):
            first = song.grid.starts[following[0]]
            bar = song.grid.bars[song.grid.bar_at(at)].beats
            if first - at < bar and at < first and at > song.grid.starts[song.grid.bar_at(at)]:
                return section + 1
    return section


def _chords(song: Song, line: _Line, options: Options) -> list[tuple[float, str]]:
    """(how far through the line, name) of the chords of a line, what goes on at its start among them."""
    first = song.chord_index(max(Fraction(0), line.start))
    out: list[tuple[float, str]] = []
    length = float(line.end - line.start) or 1.0
    for i in range(first, len(song.chords)):
        at = max(song.chords[i].start, line.start)
        if at >= line.end and out:
            break
        name = song.chord_name(i, options.ascii_only) + song.sign(i, options.ascii_only)
        if not out or out[-1][1] != name:
            out.append((float(at - line.start) / length, name))
    return out


def _places(words: str, chords: Chords) -> list[tuple[int, str]]:
    """The letter of the words before which each chord stands: the start of a word, or behind the last."""
    starts = [0, *(i + 1 for i, x in enumerate(words) if x == " "), len(words) + 1]
    out: list[tuple[int, str]] = []
    for share, name in chords:
        at = min(starts, key=lambda s: abs(s - share * (len(words) + 1)))
        out.append((max(at, out[-1][0]) if out else at, name))
    return out


def _over(words: str, chords: Chords) -> list[str]:
    above, below, shift = "", words, 0
    for at, name in _places(words, chords):
        at += shift
        if above and len(above) >= at:  # words make way for names that would touch
            more = len(above) + 1 - at
            below = below.ljust(at)[:at] + " " * more + below[at:]
            shift, at = shift + more, at + more
        above = above.ljust(at) + name
    return [above, below.rstrip()]


def _between(words: str, chords: Chords) -> list[str]:
    out, done = "", 0
    for at, name in _places(words, chords):
        out += words[done:at]
        if at > len(words) and not out.endswith(" "):
            out += " "
        out, done = f"{out}[{name}]", min(at, len(words))
    return [(out + words[done:]).rstrip()]


def _bars(song: Song, line: _Line, options: Options) -> list[str]:
    """What is played without words, in bars."""
    grid = song.grid
    bars = [b for b in range(grid.bar_at(line.start), len(grid.bars)) if line.start <= grid.starts[b] < line.end]
    texts = [bar_text(bar_marks(song, b, options.ascii_only), grid.bars[b].beats) for b in bars]
    return [f"| {' | '.join(texts[k : k + PER_ROW])} |" for k in range(0, len(texts), PER_ROW)]
