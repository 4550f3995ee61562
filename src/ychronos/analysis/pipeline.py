"""From a recording to a song: the only place that knows the order of the analysis.

``analyse`` gathers evidence (or takes it from the cache) and decides everything; ``redecide`` decides again
from evidence around what the user has stated. Both are pure but for the cache.

On a grid, decisions are a function of the evidence and the statements, and nothing goes round in a circle:
what the sound alone says (:class:`OnGrid`: keys, chords, sections), then sections with what is stated of sections,
then chords with what is stated of keys and chords, which travels along the passes, then keys from those chords. So
the order of statements does not matter, deciding again without news changes nothing, and a chord that is
stated never moves a section.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Literal

import numpy as np

from ..audio.decode import Cancelled
from ..audio.recording import Recording
from ..song import statements as said
from ..song.alignment import twin_bars
from ..song.barlines import bars_by_clock
from ..song.grid import Bar, Grid, Position
from ..song.merge import merged, merged_keys, merged_sections, onto
from ..song.model import ChordSpan, KeySpan, PitchGround, RecordingRef, Section, Song, blank_song
from ..song.statements import Statements
from ..song.track import Track
from ..theory.chord import Chord
from ..theory.key import Key
from .beats import bars, count, grouping, recount
from .chords import harmony
from .chords.alike import Twins
from .evidence import AnalysisError, Evidence, Progress, cached, gather, keep
from .form import sections
from .keys import keyfinding

SOUND_FLOOR = 0.02  # loudness, relative to the loud parts, below which nobody plays
AT_THE_START = 32  # beats in which a count-in ends
DECIDING = 0.8  # share of the progress bar that gathering evidence takes

What = Literal["beats", "bars", "chords"]  # from where on; "chords" is all but the count
OnResult = Callable[[Song], None]


def analyse(
    recording: Recording,
    title: str,
    progress: Progress = lambda *_: None,
    cancelled: Callable[[], bool] = lambda: False,
    cache: Path | None = None,
    on_result: OnResult = lambda _: None,
) -> tuple[Song, Evidence]:
    """Analyse a recording; ``on_result`` gets the song as far as it is known after each stage.

    Raises
    ------
    AnalysisError
        a sentence on why the recording cannot be analysed.
    Cancelled
        when ``cancelled()`` became true.
    """
    evidence = cached(cache, recording.sha256)
    if evidence is None:
        evidence = gather(recording, lambda name, share: progress(name, DECIDING * share), cancelled)
        keep(cache, recording.sha256, evidence)

    def stage(name: str, share: float) -> None:
        if cancelled():
            raise Cancelled
        progress(name, DECIDING + (1 - DECIDING) * share)

    stage("Counting beats", 0.0)

    def beat_tick(share: float) -> None:
        stage("Counting beats", 0.5 * share)

    grid = find_grid(evidence, beat_tick)
    ref = RecordingRef(str(recording.path), recording.sha256, recording.duration, recording.note)
    song = blank_song(title, ref, grid)
    song = replace(song, ground=PitchGround(evidence.cents, evidence.tuning_confidence))
    on_result(song)
    stage("Naming chords", 0.5)
    song = replace(song, chords=_at_a_glance(evidence, grid).chords)
    song = _with_lead_in(song, song.chords)
    on_result(song)
    stage("Finding the key", 0.8)
    song = replace(song, keys=decide_keys(song))
    on_result(song)
    stage("Finding sections", 0.85)
    song = _decided(song, evidence)
    stage("Done", 1.0)
    return song, evidence


def redecide(
    song: Song,
    evidence: Evidence,
    what: What = "chords",
    before: Song | None = None,
    travels: bool = True,
    cancelled: Callable[[], bool] = lambda: False,
) -> Song:
    """The song decided again around all that is stated in it.

    ``what`` is where to begin: "beats" finds beats, bar lines and all that follows, "bars" the bar lines on
    the beats as they are, "chords" chords, keys and sections only. With ``before``, the song before what was
    said last, the count far from the news stays as it is. Raises Cancelled when ``cancelled()`` became true.
    """

    def go_on() -> None:
        if cancelled():
            raise Cancelled

    if what != "chords":
        places = recount.news(before, song) if before is not None else None
        if before is not None and not places and song.grid.times != before.grid.times:
            places = None  # other beats throughout, without a word on any of them
        old = before.grid if before is not None else song.grid
        if what == "beats":
            times = recount.beats_around(song.grid, evidence.pulse, places, before.grid if before is not None else None)
            go_on()
            song = onto(song, bars_by_clock(song.grid, [*times, _end_of(times)]))
        # beats that were only put right are the same beats: their bars are the same
        if before is None or not recount.same_beats(before, song):
            new = recount.bars_again(song.grid, old, places, evidence.pulse, evidence.changes)
            song = onto(song, grouping.decide(new, evidence.pulse, evidence.changes))
        go_on()
        song = _with_lead_in(song, _at_a_glance(evidence, song.grid, AT_THE_START).chords)
    return _decided(song, evidence, travels, go_on)


def _decided(song: Song, evidence: Evidence, travels: bool = True, go_on: Callable[[], None] = lambda: None) -> Song:
    """Chords, keys and sections of a song on its grid."""
    heard = on_grid(evidence, song.grid)
    go_on()
    sections_ = sections_of(heard, song.statements)
    twins = _twins_of_statements(heard, song, sections_) if travels else None
    keys_known = merged_keys(heard.keys, song.statements, song.grid.end)
    chords = decide_chords(evidence, song.grid, song.statements, keys_known, twins)
    go_on()
    song = merged(replace(song, chords=chords, sections=sections_))
    return merged(replace(song, keys=decide_keys(song)))


# ---------------------------------------------------------------- what the sound alone says


@dataclass(frozen=True)
class OnGrid:
    """What the sound says on a grid, whatever is stated: the keys and chords it would be given, and its sections."""

    grid: Grid
    keys: Track[KeySpan]
    chords: Track[ChordSpan]
    form: sections.Heard


_heard_on: list[tuple[Evidence, Grid, OnGrid]] = []


def _bare(grid: Grid) -> Grid:
    """A grid without the marks of what is stated."""
    bare = tuple(Bar(b.meter, b.beats, b.first, grouping=b.grouping) for b in grid.bars)
    return replace(grid, bars=bare, stated_beats=frozenset())


def on_grid(evidence: Evidence, grid: Grid) -> OnGrid:
    """What the sound says on a grid; the last ones are kept."""
    grid = _bare(grid)
    for of, where, known in _heard_on:
        if of is evidence and where == grid:
            return known
    song = _at_a_glance(evidence, grid)
    song = replace(song, keys=decide_keys(song))
    song = replace(song, chords=free_chords(evidence, grid, song.keys))
    made = OnGrid(grid, song.keys, song.chords, sections.decide(describe_bars(evidence, song)))
    _heard_on.append((evidence, grid, made))
    del _heard_on[:-2]
    return made


def _at_a_glance(evidence: Evidence, grid: Grid, beats: int | None = None) -> Song:
    """A song with the chords of its beats, or of its first ``beats``, as they are heard at a glance."""
    found = harmony.at_a_glance(evidence.harmony, np.array(grid.times[: beats + 1 if beats else None]))
    spans = [ChordSpan(Fraction(i), c, 0.5) for i, c in enumerate(found) if not i or c != found[i - 1]]
    song = blank_song("", RecordingRef("", "", 0.0), grid)
    return replace(song, chords=Track(spans))


def sections_of(heard: OnGrid, statements: Statements) -> Track[Section]:
    """Sections with what is stated of them."""
    grid = heard.grid
    lead = min(grid.lead_in, len(grid.bars) - 1)
    lines = {s: i - lead for i, s in enumerate(grid.starts)}
    begins = [lines[int(s.at)] for s in said.of(statements, "section") if s.at in lines]
    whole = [(max(0, lines[int(s.at)]), lines[int(s.end)]) for s in said.of(statements, "one section")
             if s.at in lines and s.end in lines]  # fmt: skip
    found = sections.around(heard.form, begins, whole)
    out = Track(
        Section(Fraction(0) if not d.first else grid.bar_range(d.first + lead)[0], d.name, d.letter, d.confidence)
        for d in found
    )
    return merged_sections(out, statements, grid)


def _twins_of_statements(heard: OnGrid, song: Song, sections_: Track[Section]) -> dict[int, list[tuple[int, int]]]:
    """For each bar in which the user stated a chord the bars at its place in the other passes of its section, with
    the semitones they are higher. Passes are aligned by what the sound says."""
    free = replace(song, grid=heard.grid, statements=(), chords=heard.chords, keys=heard.keys, sections=sections_)
    out: dict[int, list[tuple[int, int]]] = {}
    aligned: dict[int, dict[int, list[tuple[int, int]]]] = {}
    for s in said.of(song.statements, "chord"):
        for bar in range(free.grid.bar_at(s.at), free.grid.bar_at(s.end - Fraction(1, 64)) + 1):
            section = free.section_of_bar(bar)
            if section not in aligned:
                aligned[section] = twin_bars(free, section)
            out[bar] = aligned[section].get(bar, [])
    return out


# ---------------------------------------------------------------- the grid


def find_grid(evidence: Evidence, tick: Callable[[float], None] = lambda _: None) -> Grid:
    """Beats and bars of the part of the record in which somebody plays."""
    loud = evidence.bands.astype(np.float32).sum(1)
    sounding = loud > SOUND_FLOOR * np.percentile(loud, 90)
    pulse_evidence, changes = evidence.pulse, evidence.changes
    found = count.decide(pulse_evidence, changes, sounding, tick)
    times = found.times
    if len(times) < 3:
        raise AnalysisError("No count can be found in this recording: hardly anything in it repeats in time.")
    return grouping.decide(recount.grid_of(found.bars, times, _end_of(times)), pulse_evidence, changes)


def _end_of(times: bars.Floats) -> float:
    """Where the last beat ends."""
    return float(times[-1] + np.median(np.diff(times[-5:])))


def _with_lead_in(song: Song, chords: Track[ChordSpan]) -> Song:
    """Bars at the start in which nobody plays a chord are the count-in and get numbers below 1."""
    grid = song.grid
    if chords[0].chord.is_none and len(chords) > 1:
        begins = chords[1].start
        silent = sum(1 for i in range(len(grid.bars)) if grid.bar_range(i)[1] <= begins + Fraction(1, 2))
        if grid.lead_in < silent <= 2 and silent < len(grid.bars):
            return replace(song, grid=replace(grid, lead_in=silent))
    return song


# ---------------------------------------------------------------- chords, keys, sections on a grid


@dataclass(frozen=True)
class _Parts:
    """The segments that chords are decided on: their positions, exact and as numbers with the end, which are on a
    beat and on a one, and those of each bar."""

    positions: list[Position]
    numbers: bars.Floats
    on_beat: list[bool]
    on_one: list[bool]
    groups: list[list[int]]


def _parts(grid: Grid) -> _Parts:
    positions: list[Position] = []
    on_beat: list[bool] = []
    on_one: list[bool] = []
    groups: list[list[int]] = []
    for _, start, bar in grid.walk():
        division = 1 if bar.meter.denominator == 8 and not bar.meter.compound else bar.meter.division
        groups.append(list(range(len(positions), len(positions) + bar.beats * division)))
        for beat in range(bar.beats):
            for part in range(division):
                positions.append(Fraction((start + beat) * division + part, division))
                on_beat.append(part == 0)
                on_one.append(part == 0 and beat == 0 and bar.first == 1)
    numbers = np.array([p.numerator / p.denominator for p in [*positions, grid.end]])
    return _Parts(positions, numbers, on_beat, on_one, groups)


_OnParts = tuple[_Parts, bars.Floats, list[Key]]


def _on_parts(grid: Grid, keys_known: Track[KeySpan] | None) -> _OnParts:
    """The parts of a grid, their limits in seconds, and the key at each where keys are known."""
    parts = _parts(grid)
    edges = np.interp(parts.numbers, np.arange(len(grid.times)), grid.times)
    key_at: list[Key] = []
    if keys_known:
        starts = np.array([float(k.start) for k in keys_known])
        place = np.maximum(0, np.searchsorted(starts, parts.numbers[:-1] + 1e-9) - 1)
        key_at = [keys_known[int(i)].key for i in place]
    return parts, edges, key_at


def free_chords(evidence: Evidence, grid: Grid, keys_known: Track[KeySpan] | None = None) -> Track[ChordSpan]:
    """Chords on a grid by sound alone, without probabilities."""
    parts, edges, key_at = _on_parts(grid, keys_known)
    found = harmony.free(evidence.harmony, edges, np.array(parts.on_beat), np.array(parts.on_one), parts.groups, key_at)
    return Track(ChordSpan(parts.positions[first], chord, 0.5) for first, _, chord in found)


def decide_chords(
    evidence: Evidence,
    grid: Grid,
    statements: Statements = (),
    keys_known: Track[KeySpan] | None = None,
    twins: Twins | None = None,
) -> Track[ChordSpan]:
    """Chords on a grid around what is stated of them.

    Keys that are known make notes from outside them a little less likely; statements travel to the ``twins`` of
    their bars."""
    parts, edges, key_at = _on_parts(grid, keys_known)
    constraints: dict[int, Chord] = {}
    going_on: set[int] = set()
    for s in said.of(statements, "chord", "goes on"):
        a, b = (int(np.searchsorted(parts.numbers[:-1], float(x) - 1e-9)) for x in (s.at, s.end))
        if s.kind == "chord":
            constraints |= dict.fromkeys(range(a, b), s.value)
        else:
            going_on |= set(range(max(1, a), b))
    decided = harmony.decide(
        evidence.harmony,
        edges,
        np.array(parts.on_beat),
        np.array(parts.on_one),
        constraints,
        parts.groups,
        key_at,
        twins,
        going_on - set(constraints),
    )
    return Track(
        ChordSpan(parts.positions[d.first], d.chord, d.confidence, d.rivals, follows=d.follows) for d in decided
    )


def bar_chords(song: Song) -> list[list[tuple[Chord, float]]]:
    """For each bar its chords with their share of the bar."""
    out: list[list[tuple[Chord, float]]] = []
    for i in range(len(song.grid.bars)):
        start, end = song.grid.bar_range(i)
        inside: list[tuple[Chord, float]] = []
        for k in range(song.chord_index(start), len(song.chords)):
            a, b = song.chord_range(k)
            if a >= end:
                break
            inside.append((song.chords[k].chord, float((min(b, end) - max(a, start)) / (end - start))))
        out.append(inside)
    return out


def stated_keys(song: Song) -> dict[int, Key]:
    """The key of every bar whose key the user stated."""
    found = said.of(song.statements, "key")
    starts = song.grid.starts[:-1]
    return {i: s.value for s in found for i, start in enumerate(starts) if s.covers(Fraction(start))}


def key_evidence(song: Song) -> keyfinding.KeyEvidence:
    """What speaks for which key, bar by bar, from the chords as they stand and the keys that are stated."""
    return keyfinding.gather(bar_chords(song), stated_keys(song))


def decide_keys(song: Song) -> Track[KeySpan]:
    """Keys from the chords as they stand and the keys that are stated."""
    found = key_evidence(song).decided
    return Track(KeySpan(song.grid.bar_range(k.first)[0], k.key, k.confidence) for k in found)


def describe_bars(evidence: Evidence, song: Song) -> sections.BarFeatures:
    """What sections are told by, for the bars after the lead-in."""
    grid = song.grid
    lead = min(grid.lead_in, len(grid.bars) - 1)
    lines = np.array([grid.clock(s) for s in grid.starts[lead:]])
    parts: list[list[Chord]] = []
    for bar in range(lead, len(grid.bars)):
        start, end = grid.bar_range(bar)
        steps = [start + (end - start) * Fraction(2 * k + 1, 2 * sections.SLICES) for k in range(sections.SLICES)]
        parts.append([song.chords[song.chord_index(p)].chord for p in steps])
    return sections.describe(evidence.form, evidence.harmony.chord, lines, parts)
