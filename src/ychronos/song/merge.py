"""What is shown: decisions with the user's statements laid over them.

``merged`` takes a song whose tracks were decided, or were shown before, and whose statements may have changed, and
gives the song as it is shown. Marks of what is stated (``stated`` and its like on bars, chords, keys and sections)
are set here and nowhere else; they are read off the statements each time. Merging what is merged changes nothing.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from fractions import Fraction
from types import MappingProxyType
from typing import TypeVar

from . import statements as said
from .grid import Bar, Grid, Position
from .model import ChordSpan, KeySpan, Section, Song
from .statements import Statement, Statements
from .track import Move, Track, move

T = TypeVar("T", ChordSpan, KeySpan, Section)
NEAR = 1  # bars around a stated beginning of a section in which no other begins by itself
MOST_ROUNDS = 30  # in which statements about sections are laid over each other
BEAT_MATCH = 0.002  # seconds by which a stated beat may be off its time on the grid: times are rounded in files


def merged(song: Song) -> Song:
    """The song with everything that is stated in it shown."""
    sections = merged_sections(song.sections, song.statements, song.grid)
    return replace(
        song,
        grid=merged_grid(song.grid, song.statements),
        chords=merged_chords(song.chords, song.statements, song.grid.end),
        keys=merged_keys(song.keys, song.statements, song.grid.end),
        sections=sections,
    )


def say(song: Song, *new: Statement) -> Song:
    """The song with newer statements."""
    return merged(replace(song, statements=said.put(song.statements, *new)))


# ---------------------------------------------------------------- the count


def merged_grid(grid: Grid, statements: Statements) -> Grid:
    """A grid with what is stated of its bars and beats marked."""
    ones = {s.at for s in said.of(statements, "one")}
    lengths = {(s.at, s.until) for s in said.of(statements, "length")}
    meters, groupings = said.of(statements, "meter"), said.of(statements, "grouping")
    bars: list[Bar] = []
    for _, start, bar in grid.walk():
        grouping = next((s.value for s in groupings if s.covers(Fraction(start))), bar.grouping)
        marks = (
            start in ones,
            (Fraction(start), Fraction(start + bar.beats)) in lengths,
            any(s.value == bar.meter and s.covers(Fraction(start)) for s in meters),
            grouping if sum(grouping) == bar.beats else bar.grouping,
        )
        if marks != (bar.stated, bar.length_stated, bar.meter_stated, bar.grouping):
            bar = replace(bar, stated=marks[0], length_stated=marks[1], meter_stated=marks[2], grouping=marks[3])
        bars.append(bar)
    beats = frozenset(int(s.at) for s in said.of(statements, "beat") if s.at < grid.beat_count)
    if beats == grid.stated_beats and all(a is b for a, b in zip(bars, grid.bars, strict=True)):
        return grid
    return replace(grid, bars=tuple(bars), stated_beats=beats)


def onto(song: Song, grid: Grid, *new: Statement, gone: Callable[[Statement], bool] = lambda _: False) -> Song:
    """The song on another grid: all that stands on the old one moved (:class:`~.track.Move`), but for statements that
    are ``gone``; then ``new`` statements, which are placed on the new grid already."""
    mapped = move(song.grid, grid)
    statements = said.put(_moved(tuple(s for s in song.statements if not gone(s)), mapped), *new)
    begun = {s.at for s in said.of(statements, "section")}

    def on_line(position: Position) -> Position:
        """Sections stand on bar lines, but where the user put one inside a bar."""
        there = mapped.onto_line(position)
        return there if there in begun else grid.line_near(there, end=False)

    return merged(
        replace(
            song,
            grid=grid,
            statements=statements,
            chords=_carried(song.chords, mapped, grid.end),
            keys=_carried(song.keys, mapped, grid.end),
            sections=_carried(song.sections, on_line, grid.end),
        )
    )


def restated(song: Song, said_of: Song) -> Song:
    """A song analysed anew, with all that was stated of it before, on another grid perhaps."""
    statements = _moved(said_of.statements, move(said_of.grid, song.grid))
    return merged(replace(song, statements=statements, log=said_of.log))


def _moved(statements: Statements, mapped: Move) -> Statements:
    """Statements on the new grid; of those about the count only what can still be said on its beats."""
    grid, out = mapped.new, []
    snapped = tuple(s for s in statements if said.KINDS[s.kind].snaps)
    out += list(said.moved(snapped, mapped.onto_line, grid.end, lambda at: grid.bar_range(grid.bar_at(at))))
    for s in said.moved(tuple(s for s in statements if not said.KINDS[s.kind].snaps), mapped, grid.end):
        if s.kind == "one" and s.at.denominator != 1:
            continue  # between the beats of a slower count
        if s.kind == "length" and (s.at.denominator != 1 or s.end.denominator != 1):
            continue
        if s.kind == "beat":
            beat = _beat_at(grid, s.value)
            if beat is None:
                continue
            s = replace(s, at=Fraction(beat))
        out.append(s)
    return said.put((), *out)


def _beat_at(grid: Grid, seconds: float) -> int | None:
    """The beat at exactly a time."""
    i = bisect_left(grid.times, seconds - BEAT_MATCH)
    return i if i < grid.beat_count and abs(grid.times[i] - seconds) <= BEAT_MATCH else None


def _carried(spans: Iterable[T], place: Callable[[Position], Position], end: Position) -> Track[T]:
    """Spans on a new grid that ends at ``end``, each at its ``place``; of two that come to the same place the later stays."""
    out: dict[Position, T] = {}
    first: T | None = None
    for span in spans:
        first = first or span
        start = place(span.start)
        if start < end:
            out[start] = span if start == span.start else replace(span, start=start)
    assert first is not None
    out.setdefault(Fraction(0), replace(first, start=Fraction(0)))
    return Track(out[s] for s in sorted(out))


# ---------------------------------------------------------------- chords


def merged_chords(spans: Iterable[ChordSpan], statements: Statements, end: Position) -> Track[ChordSpan]:
    """Chords with what is stated of them; neighbours that say the same are one."""
    laying = _Laying(_with_marks(s, BARE) for s in spans)
    for s in sorted(said.of(statements, "chord", "goes on"), key=lambda s: (s.at, s.kind)):
        assert s.until is not None
        under = laying.at(s.at)
        # what it is called does not change how it is played
        rings, cut = (under.rings, under.cut) if under.start == s.at else (0.0, 0.0)
        laid = ChordSpan(s.at, s.value, 1.0, stated=True, rings=rings, cut=cut) if s.kind == "chord" else None
        if laid is not None or s.at > 0:
            laying.lay(laid, s.at, s.until, end)
    track = Track(laying.spans)
    for s in said.of(statements, "struck"):
        span = track.at(s.at)
        if span.start < s.at < end:
            _, stop = track.range_of(track.index_at(s.at), end)
            laying = _Laying(track)
            laying.lay(replace(span, start=s.at, again=True, rivals=()), s.at, stop, end)
            track = Track(laying.spans)
        elif span.start == s.at:
            track = Track(replace(x, again=True) if x.start == s.at else x for x in track)
    marks: dict[str, dict[int, Statement]] = {"articulation": {}, "unsure": {}}
    for kind, found in marks.items():
        for s in said.of(statements, kind):
            index = track.index_at(s.at)
            if index not in found or s.at == track[index].start or found[index].at != track[index].start:
                found[index] = s
    spelled: dict[int, tuple[int, int | None, int]] = {}
    for s in said.of(statements, "spelling"):
        for i in track.touching(s.at, s.end):
            if s.covers(track[i].start):
                spelled.setdefault(i, s.value)
    out: list[ChordSpan] = []
    for i, span in enumerate(track):
        how, doubt = marks["articulation"].get(i), marks["unsure"].get(i)
        spelling = spelled.get(i)
        marks_here = {
            "articulation": how.value if how else span.how_heard,
            "how_stated": how is not None,
            "unsure": doubt is not None,
            "comment": doubt.value if doubt else "",
            "spelling": spelling if _fits(spelling, span) else None,
        }
        span = _with_marks(span, marks_here)
        if not (out and _goes_on(out[-1], span)):
            out.append(span)
    return Track(out)


# What a chord is marked with by statements, where there are none.
BARE: Mapping[str, object] = MappingProxyType({
    "stated": False, "unsure": False, "comment": "", "articulation": "strummed", "again": False, "spelling": None,
    "how_stated": False,
})  # fmt: skip


def _with_marks(span: ChordSpan, marks: Mapping[str, object]) -> ChordSpan:
    """A span with marks: itself where it bears them, as nearly all do after a statement on one."""
    if all(getattr(span, name) == value for name, value in marks.items()):
        return span
    return replace(span, **marks)  # type: ignore[arg-type]


class _Laying:
    """Spans that tile the grid, on which others are laid one after the other."""

    def __init__(self, spans: Iterable[ChordSpan]) -> None:
        self.spans = list(spans)
        self._floats = [float(s.start) for s in self.spans]  # as in a Track

    def at(self, position: Position) -> ChordSpan:
        return self.spans[max(0, bisect_right(self._floats, float(position)) - 1)]

    def lay(self, span: ChordSpan | None, at: Position, until: Position, end: Position) -> None:
        """Lay a span between two positions, or let what comes before them go on (None); what it covers goes on
        after it."""
        new = [] if span is None else [span]
        if until < end:
            rest = self.at(until)
            new.append(rest if rest.start == until else replace(rest, start=until))
        covered = slice(bisect_left(self._floats, float(at)), bisect_right(self._floats, float(until)))
        self.spans[covered] = new
        self._floats[covered] = [float(s.start) for s in new]


def _fits(spelling: tuple[int, int | None, int] | None, span: ChordSpan) -> bool:
    """Whether notes as typed are those of the chord that stands there now."""
    if spelling is None or span.chord.root is None:
        return False
    root, bass, shift = spelling
    played = span.chord.transposed(shift)
    return (root * 7) % 12 == played.root and (None if bass is None else (bass * 7) % 12) == played.bass


def _goes_on(last: ChordSpan, span: ChordSpan) -> bool:
    """Whether a span says nothing that the one before does not say."""
    same = (last.chord, last.stated, last.articulation) == (span.chord, span.stated, span.articulation)
    otherwise_typed = None not in (last.spelling, span.spelling) and last.spelling != span.spelling
    return same and not (span.unsure or span.again or last.unsure or otherwise_typed)


# ---------------------------------------------------------------- keys and sections


def merged_keys(spans: Iterable[KeySpan], statements: Statements, end: Position) -> Track[KeySpan]:
    """Keys with those that are stated."""
    out = [replace(k, stated=False) for k in spans]
    for s in said.of(statements, "key"):
        assert s.until is not None
        under = Track(out)
        out = [k for k in out if k.start < s.at] + [KeySpan(s.at, s.value, 1.0, stated=True)]
        if s.until < end:
            out.append(replace(under.at(s.until), start=s.until))
        out += [k for k in under if k.start > s.until]
    joined: list[KeySpan] = []
    for k in out:
        if not (joined and joined[-1].key == k.key and joined[-1].stated == k.stated):
            joined.append(k)
    return Track(joined)


def merged_sections(spans: Iterable[Section], statements: Statements, grid: Grid) -> Track[Section]:
    """Sections with what is stated of them: where they begin and do not, what they are like and are called.

    Statements act on each other (a name makes two passes one music, a beginning takes another's place), so they are laid
    over the sections until nothing changes; where they contradict each other and sections would go round in a circle, one
    of its states is taken, the same from wherever it is entered. What is saved and read again therefore is the same.
    """
    passed: list[Track[Section]] = []
    track = Track(spans)
    for _ in range(MOST_ROUNDS):
        track = _called(_alike(_begun(track, statements, grid), statements), statements)
        if track in passed:
            return min(passed[passed.index(track) :], key=_order)
        passed.append(track)
    return track


def _order(track: Track[Section]) -> list[tuple[Position, str, str]]:
    return [(s.start, s.material, s.name) for s in track]


def _begun(spans: Iterable[Section], statements: Statements, grid: Grid) -> Track[Section]:
    """Where sections begin and do not."""
    by_start = {s.start: replace(s, stated=False, material_stated=False, named=False) for s in spans}
    for s in said.of(statements, "one section"):
        assert s.until is not None
        for start in [x for x in by_start if s.at < x < s.until]:
            del by_start[start]
        _begin(by_start, s.at)
    begun = [s.at for s in said.of(statements, "section") if 0 < s.at < grid.end]
    for at in begun:
        if at not in by_start:  # a new beginning: those by themselves close to it were meant to be this one
            for other in beside(grid, at, (x for x in by_start if x not in begun)):
                by_start[at] = replace(by_start.pop(other), start=at)
            _begin(by_start, at)
        by_start[at] = replace(by_start[at], stated=True, confidence=1.0)
    return Track(by_start[x] for x in sorted(by_start))


def _alike(track: Track[Section], statements: Statements) -> Track[Section]:
    """What sections are the same as, and not. Laid over sections that it was laid over before, it changes nothing."""
    models = _models(track, statements)
    for index in sorted(i for i, model in models.items() if model is None):
        own = {i for i in models if _root(models, i) == index} | {index}
        track = _own_letter(track, index, {x.material for i, x in enumerate(track) if i not in own})
    for index in sorted(models):
        root = _root(models, index)
        track = _with(track, root, material_stated=True)
        if root != index:
            if track[index].material != track[root].material:  # else it is called as it is for its own reasons
                track = _with(track, index, material=track[root].material, name=track[root].name)
            track = _with(track, index, material_stated=True)
    for s in said.of(statements, "not same"):
        index, other = track.index_at(s.at), track.index_at(s.value)
        if _root(models, index) == _root(models, other):
            continue  # it is said to be the same, too
        track = _own_letter(track, index, {track[other].material})
    return track


def _models(track: Track[Section], statements: Statements) -> dict[int, int | None]:
    """Section -> the one that it is the same as, None for music of its own; of the sections about which it is said."""
    return {
        track.index_at(s.at): None if s.value is None else track.index_at(s.value) for s in said.of(statements, "same")
    }


def _root(models: dict[int, int | None], index: int) -> int:
    """The section that one is the same as in the end; where they point in a circle, its first."""
    seen = [index]
    while (model := models.get(seen[-1])) is not None:
        if model in seen:
            return min(seen[seen.index(model) :])
        seen.append(model)
    return seen[-1]


def _own_letter(track: Track[Section], index: int, others: set[str]) -> Track[Section]:
    """A section as music of its own: with another letter where those that it is not have its letter."""
    letter = track[index].material
    if letter in others:
        letter = free_letter({x.material for x in track})
    return _with(track, index, material=letter, material_stated=True)


def called_alike(track: Iterable[Section], here: Section) -> list[Section]:
    """A section and the other passes of its music that are called as it is."""
    return [x for x in track if x is here or (here.material, here.name) == (x.material or None, x.name)]


def _called(track: Track[Section], statements: Statements) -> Track[Section]:
    """What sections are called, all passes of a music or one by itself."""
    for s in said.of(statements, "music name"):
        here = track.at(s.at)
        # passes that are called otherwise by themselves, as an ending that is a piece of the verse, stay so
        twins = {x.start for x in called_alike(track, here)}
        track = Track(replace(x, name=s.value, named=True) if x.start in twins else x for x in track)
    for s in said.of(statements, "pass name"):
        track = _with(track, track.index_at(s.at), name=s.value, named=True)
    return track


def beside(grid: Grid, at: Position, starts: Iterable[Position]) -> list[Position]:
    """Beginnings so close to a new one that they were meant to be it."""
    bar = grid.bar_at(at)
    low, high = grid.starts[max(0, bar - NEAR)], grid.starts[min(len(grid.bars), bar + NEAR)]
    return [x for x in starts if x > 0 and low <= x <= high]


def _begin(by_start: dict[Position, Section], at: Position) -> None:
    """Let a section begin at a place: the rest of the one under it."""
    if at not in by_start:
        under = by_start[max(x for x in by_start if x <= at)]
        by_start[at] = replace(under, start=at)


def _with(track: Track[Section], index: int, **changes: object) -> Track[Section]:
    return Track(replace(x, **changes) if i == index else x for i, x in enumerate(track))  # type: ignore[arg-type]


def free_letter(used: set[str]) -> str:
    """The first letter that no music has yet."""
    return next(x for x in (chr(65 + i) if i < 26 else f"A{i - 25}" for i in range(1000)) if x not in used)
