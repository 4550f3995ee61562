"""What a user can say about a song: small pure functions from song to song.

Each returns the new song and a sentence for the record; each raises :class:`EditError` with a sentence for
the user when it does not apply. Nothing stated is lost unless the edit is about it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction
from typing import TypeVar

from ..theory.chord import Chord
from ..theory.key import Key
from .grid import Bar, Grid, Position
from .model import ChordSpan, KeySpan, Section, Song

Edited = tuple[Song, str]
_Span = TypeVar("_Span", ChordSpan, KeySpan)


class EditError(ValueError):
    """An edit that does not apply; the text is a sentence for the user."""


# ---------------------------------------------------------------- chords


def state_chord(song: Song, start: Position, end: Position, chord: Chord) -> Edited:
    """State that ``chord`` sounds from ``start`` to ``end``."""
    start, end = max(Fraction(0), start), min(song.grid.end, end)
    if end <= start:
        raise EditError("There is no music at this place.")
    spans = [s for s in song.chords if s.start < start]
    spans.append(ChordSpan(start, chord, 1.0, stated=True))
    after = song.chords[song.chord_index(end)] if end < song.grid.end else None
    if after is not None:
        spans.append(replace(after, start=end))
        spans += [s for s in song.chords if s.start > end]
    name = chord.name(song.key_at(start))
    return _with_chords(song, spans), f"{name} at {song.grid.beat_name(start)}"


def remove_chord(song: Song, index: int) -> Edited:
    """Take a chord change away: what sounds before it goes on."""
    if not 0 <= index < len(song.chords):
        raise EditError("There is no chord at this place.")
    if index == 0:
        raise EditError("The first chord has nothing before it to go on; state another chord instead.")
    gone = song.chords[index]
    name = song.chord_name(index)
    return _with_chords(song, [s for i, s in enumerate(song.chords) if i != index]), (
        f"no change to {name} at {song.grid.beat_name(gone.start)}"
    )


def mark_unsure(song: Song, index: int, unsure: bool, comment: str = "") -> Edited:
    span = replace(song.chords[index], unsure=unsure, comment=comment if unsure else "")
    spans = (*song.chords[:index], span, *song.chords[index + 1 :])
    word = "unsure about" if unsure else "no longer unsure about"
    return replace(song, chords=spans), f"{word} {song.chord_name(index)} at {song.grid.beat_name(span.start)}"


def accept_bars(song: Song, bars: Iterable[int], checked: bool = True) -> Edited:
    """Say that bars are right as they stand (or take that back)."""
    indexes = sorted(set(bars))
    if not indexes:
        raise EditError("No bar is selected.")
    starts = {song.grid.bar_range(i)[0] for i in indexes}
    keep = song.checked | starts if checked else song.checked - starts
    first, last = song.grid.number(indexes[0]), song.grid.number(indexes[-1])
    where = f"bar {first}" if first == last else f"bars {first} to {last}"
    return replace(song, checked=frozenset(keep)), f"{where} {'checked' if checked else 'not checked'}"


def _with_chords(song: Song, spans: Iterable[ChordSpan]) -> Song:
    """Chord spans set, neighbours that say the same joined unless one is marked."""
    joined: list[ChordSpan] = []
    for span in spans:
        last = joined[-1] if joined else None
        if last and last.chord == span.chord and last.stated == span.stated and not span.unsure and not last.unsure:
            continue
        joined.append(span)
    return replace(song, chords=tuple(joined))


# ---------------------------------------------------------------- sections, key, names


def rename_section(song: Song, index: int, name: str, all_passes: bool = True) -> Edited:
    """Name a section, and every other pass of the same material that had the same name."""
    name = " ".join(name.split())
    if not name:
        raise EditError("A section needs a name.")
    old = song.sections[index]

    def renamed(i: int, section: Section) -> Section:
        twin = all_passes and section.name == old.name and section.material == old.material
        return replace(section, name=name, stated=True) if i == index or twin else section

    sections = tuple(renamed(i, s) for i, s in enumerate(song.sections))
    return replace(song, sections=sections), f"“{old.name}” is now “{name}”"


def start_section(song: Song, bar: int, name: str = "") -> Edited:
    """Begin a new section at a bar."""
    start = song.grid.bar_range(bar)[0]
    index = song.section_index(start)
    if song.sections[index].start == start:
        raise EditError("A section begins here already.")
    section = Section(start, name or song.sections[index].name, song.sections[index].material, stated=True)
    sections = (*song.sections[: index + 1], section, *song.sections[index + 1 :])
    return replace(song, sections=sections), f"a section begins at bar {song.grid.number(bar)}"


def join_section(song: Song, index: int) -> Edited:
    """Take a section's beginning away: it belongs to the one before."""
    if index == 0:
        raise EditError("The first section has none before it to join.")
    sections = (*song.sections[:index], *song.sections[index + 1 :])
    return replace(song, sections=sections), f"“{song.sections[index].name}” joined to what comes before"


def state_key(song: Song, index: int, key: Key) -> Edited:
    span = KeySpan(song.keys[index].start, key, 1.0, stated=True)
    keys = (*song.keys[:index], span, *song.keys[index + 1 :])
    return replace(song, keys=keys), f"the key is {key.name()}"


def rename_song(song: Song, title: str, artist: str) -> Edited:
    title = " ".join(title.split())
    if not title:
        raise EditError("A song needs a title.")
    return replace(song, title=title, artist=" ".join(artist.split())), f"the song is “{title}”"


# ---------------------------------------------------------------- the count


def one_is_here(song: Song, beat: int) -> Edited:
    """State a bar line at a beat. Bar lines on either side, up to the nearest stated ones, follow it in the
    usual meter; what is left over becomes a short bar."""
    grid = song.grid
    if not 0 <= beat < grid.beat_count:
        raise EditError("There is no beat at this place.")
    stated = sorted({s for _, s, b in grid.walk() if b.stated} | {beat})
    place = stated.index(beat)
    begin = stated[place - 1] if place else 0
    end = stated[place + 1] if place + 1 < len(stated) else grid.beat_count
    meter = grid.bars[grid.bar_at(beat)].meter
    per_bar = meter.beats

    def bars_between(first: int, last: int, from_end: bool) -> list[Bar]:
        whole, rest = divmod(last - first, per_bar)
        bars = [Bar(meter, per_bar)] * whole
        if not rest:
            return bars
        if from_end:  # counted back from a bar line: the rest comes first, as a pick-up or a short bar
            return [Bar(meter, rest, per_bar - rest + 1 if first == 0 else 1), *bars]
        return [*bars, Bar(meter, rest)]

    kept_before = [b for _, s, b in grid.walk() if s < begin]
    kept_after = [b for _, s, b in grid.walk() if s >= end]
    before = bars_between(begin, beat, from_end=True)
    after = bars_between(beat, end, from_end=False)
    if before and begin in stated:
        before[0] = replace(before[0], stated=True, first=1)
    after[0] = replace(after[0], stated=True)
    bars = (*kept_before, *before, *after, *kept_after)
    lead_in = 1 if bars[0].first > 1 else 0
    return on_new_bars(song, grid.with_bars(bars, lead_in)), f"one is at {grid.clock(beat):.2f} s"


def on_new_bars(song: Song, grid: Grid) -> Song:
    """The song on the same beats with other bar lines; sections move to the nearest bar line."""
    return replace(song, grid=grid, sections=snap_sections(song.sections, grid), checked=frozenset())


def snap_sections(sections: Iterable[Section], grid: Grid) -> tuple[Section, ...]:
    """Sections moved to the nearest bar lines; of two on one line the stated one, else the later, stays."""
    lines = grid.starts[:-1]
    by_line: dict[int, Section] = {}
    for section in sections:
        line = min(lines, key=lambda s: (abs(s - section.start), s))
        if line in by_line and by_line[line].stated and not section.stated:
            continue
        by_line[line] = section
    first = min(by_line)
    by_line.setdefault(0, by_line.pop(first))
    return tuple(replace(by_line[s], start=Fraction(s)) for s in sorted(by_line))


def double_tempo(song: Song) -> Edited:
    """Count twice as fast: each bar becomes two of the same meter."""
    grid = song.grid
    times: list[float] = []
    for a, b in zip(grid.times, grid.times[1:], strict=False):
        times += [a, (a + b) / 2]
    times.append(grid.times[-1])
    bars: list[Bar] = []
    for bar in grid.bars:
        per_bar = bar.meter.beats
        whole, rest = divmod(2 * bar.beats, per_bar)
        new = [Bar(bar.meter, per_bar, confidence=bar.confidence) for _ in range(whole)]
        if rest:
            pick_up = Bar(bar.meter, rest, per_bar - rest + 1 if bar.first > 1 else 1, bar.confidence)
            new = [pick_up, *new] if bar.first > 1 else [*new, pick_up]
        new[0] = replace(new[0], stated=bar.stated)
        bars += new
    lead = 1 if bars[0].first > 1 else 0
    return _rescaled(song, Grid(tuple(bars), tuple(times), lead), Fraction(2)), "counted twice as fast"


def half_tempo(song: Song) -> Edited:
    """Count half as fast: two bars of the same meter become one. Beats on the ones stay."""
    grid = song.grid
    if grid.beat_count < 4:
        raise EditError("There are too few beats to count half as fast.")
    anchor = grid.starts[grid.lead_in] if grid.lead_in < len(grid.bars) else 0
    first = anchor % 2  # a beat that is left over at the front is dropped into the lead-in
    kept = list(range(first, grid.beat_count, 2))
    times = [grid.times[i] for i in kept]
    last_gap = times[-1] - times[-2]
    times.append(max(grid.times[-1], times[-1] + 0.5 * last_gap))
    meter = grid.usual_meter()
    lead_beats = (anchor - first) // 2
    bars: list[Bar] = []
    if lead_beats:
        whole, rest = divmod(lead_beats, meter.beats)
        bars += [Bar(meter, rest, meter.beats - rest + 1)] if rest else []
        bars += [Bar(meter, meter.beats)] * whole
    lead = len(bars)
    whole, rest = divmod(len(kept) - lead_beats, meter.beats)
    bars += [Bar(meter, meter.beats)] * whole + ([Bar(meter, rest)] if rest else [])
    return _rescaled(song, Grid(tuple(bars), tuple(times), lead), Fraction(1, 2), first), "counted half as fast"


def _rescaled(song: Song, grid: Grid, factor: Fraction, dropped: int = 0) -> Song:
    """The song on a grid with ``factor`` times the beats, ``dropped`` old beats missing at the front."""

    def move(position: Position) -> Position:
        return max(Fraction(0), (position - dropped) * factor)

    def moved(spans: tuple[_Span, ...]) -> tuple[_Span, ...]:
        out: dict[Position, _Span] = {}
        for span in spans:
            start = move(span.start)
            if start < grid.end:
                out[start] = replace(span, start=start)
        return tuple(out[s] for s in sorted(out))

    sections = snap_sections((replace(s, start=move(s.start)) for s in song.sections), grid)
    return replace(
        song, grid=grid, chords=moved(song.chords), keys=moved(song.keys), sections=sections, checked=frozenset()
    )
