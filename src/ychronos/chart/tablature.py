"""Tablature in letters: frets as they are written, lines of a bar, and riffs that come again."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..guitar.instrument import GuitarSetup
from ..song.linenotes import SIGNS, Plucked
from ..song.model import Song
from ..tongue import tr

SLOTS = (1, 2, 3, 4, 6, 8, 12, 48)  # of a beat: the fewest are taken in which no two notes fall together
DEGREES = ("1", "♭2", "2", "♭3", "3", "4", "♯4", "5", "♯5", "6", "♭7", "7")


def shown_fret(guitar: GuitarSetup, fret: int) -> int:
    """A fret that is counted from the capo, counted as the song shows frets."""
    return fret + guitar.capo if guitar.from_nut else fret


def fret_text(song: Song, note: Plucked) -> str:
    """``h7``: how a note begins unless it is plucked, its fret, a question mark where it is doubtful."""
    fret = shown_fret(song.guitar, song.spot_of(note.value).fret)
    return f"{note.value.sign}{fret}{'?' if note.value.doubtful else ''}"


def degree_text(song: Song, note: Plucked) -> str:
    """The degree of a note over the chord that sounds there, ``♭3``; "" where none sounds."""
    chord = song.chords[song.chord_index(note.at)].chord
    return DEGREES[(note.value.note - chord.root) % 12] if chord.root is not None else ""


@dataclass(frozen=True)
class TabBar:
    """A bar of tablature: its columns, each the text of every string, the highest first, "" where nothing begins."""

    bar: int
    columns: tuple[tuple[str, ...], ...]


def tab_bar(song: Song, bar: int) -> TabBar | None:
    """A bar with a line in as few columns as it takes; None where no line has a note in it."""
    notes = song.line_of_bar(bar)
    if not notes:
        return None
    start, beats = song.grid.starts[bar], song.grid.bars[bar].beats
    slots = _fewest([n.at - start for n in notes])
    strings = len(song.guitar.strings)
    columns = [["" for _ in range(strings)] for _ in range(beats * slots)]
    for note in notes:
        k = min(len(columns) - 1, _slot(note.at - start, slots))
        columns[k][strings - 1 - song.spot_of(note.value).string] = fret_text(song, note)
    return TabBar(bar, tuple(tuple(c) for c in columns))


def _slot(offset: Fraction, slots: int) -> int:
    return int(offset * slots + Fraction(1, 2))


def _fewest(offsets: Sequence[Fraction]) -> int:
    """The fewest slots of a beat in which notes that begin one after the other do not fall together, and none is far from its own."""
    distinct = sorted(set(offsets))
    for slots in SLOTS:
        places = [_slot(x, slots) for x in distinct]
        if len(set(places)) == len(places) and all(
            abs(x - Fraction(p, slots)) <= Fraction(1, 10) for x, p in zip(distinct, places, strict=True)
        ):
            return slots
    return SLOTS[-1]


def tab_lines(song: Song, bars: Sequence[int]) -> list[str]:
    """Bars as lines of characters, the highest string first; empty where no line has a note in them."""
    made = [tab_bar(song, b) for b in bars]
    if not any(made):
        return []
    strings = len(song.guitar.strings)
    rows = [""] * strings
    for bar, tab in zip(bars, made, strict=True):
        columns = tab.columns if tab is not None else ((("",) * strings),) * song.grid.bars[bar].beats
        for k in range(strings):
            rows[k] += "|-"
        for column in columns:
            wide = max(2, max(len(x) for x in column) + 1)
            for k in range(strings):
                rows[k] += column[k].ljust(wide, "-")
    names = song.guitar.string_names.split()[::-1]
    wide = max(len(n) for n in names)
    return [f"{name.ljust(wide)}{row}|" for name, row in zip(names, rows, strict=True)]


def in_a_row(names: Sequence[str], played: Iterable[tuple[int, str]]) -> str:
    """``A3 5, D2``: strings by their ``names``, frets after them; ``played`` are (string, fret as text) in order."""
    out: list[str] = []
    before = None
    for string, fret in played:
        if string == before:
            out[-1] += f" {fret}"
        else:
            out.append(f"{names[string]}{fret}")
        before = string
    return ", ".join(out)


def line_words(song: Song, first: int, last: int) -> str:
    """Bars ``first`` .. ``last`` (exclusive) of a line in one row, ``A3 5, D2``."""
    notes = [n for bar in range(first, last) for n in song.line_of_bar(bar)]
    played = ((song.spot_of(n.value).string, fret_text(song, n)) for n in notes)
    return in_a_row(song.guitar.string_names.split(), played)


@dataclass(frozen=True)
class Riff:
    """A line that comes more than once: its letter, its bars, and where else it comes, each with the bars that differ."""

    letter: str
    first: int
    last: int
    times: tuple[tuple[int, tuple[int, ...]], ...]


def riffs(song: Song) -> list[Riff]:
    """Lines of one, two or four bars that come again, the longest first found; what is played again is told by rhythm and
    frets, a bar in four may differ."""
    bars = len(song.grid.bars)
    what = [signature(song, b) for b in range(bars)]
    out: list[Riff] = []
    told: set[int] = set()
    for long in (4, 2, 1):
        for first in range(bars - long + 1):
            mine = range(first, first + long)
            if told & set(mine) or sum(bool(what[b]) for b in mine) * 2 <= long or not what[first]:
                continue
            times: list[tuple[int, tuple[int, ...]]] = []
            at = first + long
            while at + long <= bars:
                other = tuple(k for k in range(long) if what[first + k] != what[at + k])
                if not told & set(range(at, at + long)) and len(other) <= (1 if long == 4 else 0):
                    times.append((at, other))
                    at += long
                else:
                    at += 1
            if times:
                out.append(Riff(_letter(len(out)), first, first + long, tuple(times)))
                told |= {b for start in (first, *(t for t, _ in times)) for b in range(start, start + long)}
    return sorted(out, key=lambda r: r.first)


def _letter(k: int) -> str:
    return chr(ord("A") + k) if k < 26 else f"{_letter(k // 26 - 1)}{_letter(k % 26)}"


def signature(song: Song, bar: int) -> tuple[tuple[Fraction, int, int], ...]:
    """What is played in a bar of a line: when, on which string, at which fret; the same for what is played again."""
    start = song.grid.starts[bar]
    spots = [(_slot(n.at - start, 12), song.spot_of(n.value)) for n in song.line_of_bar(bar)]
    return tuple(sorted((Fraction(slot, 12), spot.string, spot.fret) for slot, spot in spots))


@dataclass(frozen=True)
class Written:
    """What is written of lines: what stands over a bar (the name of a riff), and bars whose tablature is left out since the riff
    stands elsewhere."""

    names: dict[int, str]
    left_out: frozenset[int]

    def has_tab(self, song: Song, bar: int) -> bool:
        return bar not in self.left_out and bool(song.line_of_bar(bar))


def written(song: Song) -> Written:
    """Each riff is written where it comes first; later it is named, with the bars in which it is played otherwise."""
    names: dict[int, str] = {}
    left_out: set[int] = set()
    for riff in riffs(song):
        long = riff.last - riff.first
        names[riff.first] = tr("riff {letter}", letter=riff.letter)
        runs: list[list[tuple[int, tuple[int, ...]]]] = []
        for at, other in riff.times:
            if runs and not other and not runs[-1][-1][1] and runs[-1][-1][0] + long == at:
                runs[-1].append((at, other))
            else:
                runs.append([(at, other)])
        for run in runs:
            at, other = run[0]
            times = f" ×{len(run)}" if len(run) > 1 else ""
            names[at] = tr("riff {letter}{times}", letter=riff.letter, times=times) + (tr(", but:") if other else "")
            for start, others in run:
                left_out |= {start + k for k in range(long) if k not in others}
    return Written(names, frozenset(left_out))


def legend(song: Song) -> str:
    """What the signs of the tablature mean, those that stand in it."""
    guitar = song.guitar
    parts = [tr("Tablature: strings {string_names} from the lowest line up", string_names=guitar.string_names)]
    parts += [tr("frets from the {word}", word=tr("nut") if guitar.from_nut else tr("capo"))] if guitar.capo else []
    used = {n.value.sign for n in song.line}
    parts += [f"{sign} {words}" for sign, words in SIGNS.items() if sign and sign in used]
    parts += [tr("? not sure")] if any(n.value.doubtful for n in song.line) else []
    return ", ".join(parts) + "."
