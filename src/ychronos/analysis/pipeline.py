"""From a recording to a song: the only place that knows the order of the analysis.

``analyse`` gathers evidence (or takes it from the cache) and decides everything; ``redecide`` decides again
from evidence around what the user has stated. Both are pure but for the cache.
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
from ..song.grid import Grid, Position
from ..song.model import ChordSpan, KeySpan, PitchGround, RecordingRef, Section, Song, blank_song
from ..song.passes import twin_bars
from ..song.regrid import by_clock, on_new_bars
from ..theory.chord import Chord
from ..theory.key import Key
from . import bars, count, grouping, harmony, keys, regrid, sections
from .evidence import AnalysisError, Evidence, Progress, cached, gather, keep
from .passes import Twins

SOUND_FLOOR = 0.02  # loudness, relative to the loud parts, below which nobody plays
DECIDING = 0.8  # share of the progress bar that gathering evidence takes

What = Literal["beats", "bars", "chords"]
OnResult = Callable[[Song], None]


@dataclass(frozen=True)
class Stated:
    """What the user stated, as hard constraints; positions refer to ``grid``."""

    chords: tuple[tuple[Position, Position, ChordSpan], ...] = ()
    keys: tuple[KeySpan, ...] = ()
    sections: tuple[Section, ...] = ()


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
    song = _with_lead_in(replace(song, chords=decide_chords(evidence, grid)))
    on_result(song)
    stage("Finding the key", 0.8)
    song = replace(song, keys=decide_keys(song))
    song = replace(song, chords=decide_chords(evidence, song.grid, keys_known=song.keys))
    song = replace(song, keys=decide_keys(song))
    on_result(song)
    stage("Finding sections", 0.85)
    song = replace(song, sections=decide_sections(evidence, song))
    stage("Done", 1.0)
    return song, evidence


def redecide(
    song: Song, evidence: Evidence, what: What = "chords", before: Song | None = None, travels: bool = True
) -> Song:
    """The song decided again around all that is stated in it.

    ``what`` is where to begin: "beats" finds beats, bar lines and all that follows, "bars" the bar lines on
    the beats as they are, "chords" chords, keys and sections only. With ``before``, the song before what was
    said last, beats far from the news stay as they are.
    """
    if what != "chords":
        pulse_evidence = evidence.pulse
        changes = evidence.changes
        grid = song.grid
        times = np.array(grid.times[:-1])
        if what == "beats":
            times = regrid.beats_again(grid, pulse_evidence, regrid.news(before.grid, grid) if before else None)
        end = grid.times[-1] if what == "bars" else _end_of(times)
        new = regrid.bars_again(grid, times, end, pulse_evidence, changes)
        new = grouping.decide(new, pulse_evidence, changes)
        song = by_clock(song, new) if what == "beats" else on_new_bars(song, new)
    twins = twins_of_statements(song) if travels else None
    song = replace(song, chords=decide_chords(evidence, song.grid, song.chords, song.keys, twins))
    if what != "chords":
        song = _with_lead_in(song)
    song = replace(song, keys=decide_keys(song))
    return replace(song, sections=decide_sections(evidence, song))


def twins_of_statements(song: Song) -> dict[int, list[tuple[int, int]]]:
    """For each bar in which the user stated a chord the bars at its place in the other passes of its section, with
    the semitones they are higher."""
    out: dict[int, list[tuple[int, int]]] = {}
    aligned: dict[int, dict[int, list[tuple[int, int]]]] = {}
    for i, span in enumerate(song.chords):
        if not span.stated:
            continue
        start, end = song.chord_range(i)
        for bar in range(song.grid.bar_at(start), song.grid.bar_at(end - Fraction(1, 64)) + 1):
            section = song.section_index(song.grid.bar_range(bar)[0])
            if section not in aligned:
                aligned[section] = twin_bars(song, section)
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
    return grouping.decide(regrid.grid_of(found.bars, times, _end_of(times)), pulse_evidence, changes)


def _end_of(times: bars.Floats) -> float:
    """Where the last beat ends."""
    return float(times[-1] + np.median(np.diff(times[-5:])))


def _with_lead_in(song: Song) -> Song:
    """Bars at the start in which nobody plays a chord are the count-in and get numbers below 1."""
    grid = song.grid
    if song.chords[0].chord.is_none and len(song.chords) > 1:
        begins = song.chords[1].start
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


def decide_chords(
    evidence: Evidence,
    grid: Grid,
    known: tuple[ChordSpan, ...] = (),
    keys_known: tuple[KeySpan, ...] = (),
    twins: Twins | None = None,
) -> tuple[ChordSpan, ...]:
    """Chords on a grid; stated spans among ``known`` are kept exactly, marks stay where they were.

    Keys that are known make notes from outside them a little less likely; statements travel to the ``twins`` of
    their bars."""
    parts = _parts(grid)
    positions = parts.positions
    edges = np.interp(parts.numbers, np.arange(len(grid.times)), grid.times)
    ends = [*[s.start for s in known[1:]], grid.end]
    fixed = [(s.start, e, s) for s, e in zip(known, ends, strict=bool(known)) if s.stated] if known else []
    constraints: dict[int, Chord] = {}
    for start, end, span in fixed:
        a, b = (int(np.searchsorted(parts.numbers[:-1], float(x) - 1e-9)) for x in (start, end))
        constraints |= dict.fromkeys(range(a, b), span.chord)
    key_at: list[Key] = []
    if keys_known:
        starts = np.array([float(k.start) for k in keys_known])
        place = np.maximum(0, np.searchsorted(starts, parts.numbers[:-1] + 1e-9) - 1)
        key_at = [keys_known[int(i)].key for i in place]
    decided = harmony.decide(
        evidence.harmony,
        edges,
        np.array(parts.on_beat),
        np.array(parts.on_one),
        constraints,
        parts.groups,
        key_at,
        twins,
    )
    spans: dict[Position, ChordSpan] = {}
    for d in decided:
        at_first = positions[d.first]
        follows = d.follows and _news(known, at_first, d.chord)
        spans[at_first] = ChordSpan(at_first, d.chord, d.confidence, d.rivals, follows=follows)
    for start, end, span in fixed:
        inside = [p for p in spans if start <= p < end]
        last = max((p for p in spans if p < end), default=None)
        carried = spans[last] if last is not None else None
        for p in inside:
            del spans[p]
        spans[start] = span
        if end < grid.end and end not in spans and carried is not None:
            spans[end] = replace(carried, start=end)
    for mark in known:  # what the user said of a chord without stating it
        if not mark.stated and mark.start in spans and (mark.unsure or mark.articulation != "strummed"):
            spans[mark.start] = replace(
                spans[mark.start], unsure=mark.unsure, comment=mark.comment, articulation=mark.articulation
            )
    out: list[ChordSpan] = []
    for start in sorted(spans):
        span = spans[start]
        if out and out[-1].chord == span.chord and out[-1].stated == span.stated and not (span.unsure or span.again):
            continue
        out.append(span)
    if out[0].start != 0:
        out.insert(0, replace(out[0], start=Fraction(0)))
    return tuple(out)


def _news(known: tuple[ChordSpan, ...], at: Position, chord: Chord) -> bool:
    """Whether a chord that was led to a place is other than what stood there by itself."""
    before = next((s for s in reversed(known) if s.start <= at), None)
    return before is None or before.follows or before.chord != chord


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
    ends = [*[k.start for k in song.keys[1:]], song.grid.end]
    out: dict[int, Key] = {}
    for span, end in zip(song.keys, ends, strict=True):
        if span.stated:
            out |= {i: span.key for i in range(len(song.grid.bars)) if span.start <= song.grid.starts[i] < end}
    return out


def key_evidence(song: Song) -> keys.KeyEvidence:
    """What speaks for which key, bar by bar, from the chords as they stand and the keys that are stated."""
    return keys.gather(bar_chords(song), stated_keys(song))


def decide_keys(song: Song) -> tuple[KeySpan, ...]:
    decided = tuple(KeySpan(song.grid.bar_range(k.first)[0], k.key, k.confidence) for k in key_evidence(song).decided)
    return _keep_stated_keys(song.keys, decided)


def _keep_stated_keys(known: tuple[KeySpan, ...], decided: tuple[KeySpan, ...]) -> tuple[KeySpan, ...]:
    """Decided keys outside the stretches whose key the user stated."""
    out = {k.start: k for k in decided}
    for i, span in enumerate(known):
        if span.stated:
            end = known[i + 1].start if i + 1 < len(known) else None
            inside = [s for s in out if s >= span.start and (end is None or s < end)]
            for s in inside:
                del out[s]
            out[span.start] = span
            if end is not None and end not in out:
                out[end] = replace(known[i + 1])
    return tuple(out[s] for s in sorted(out))


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


def decide_sections(evidence: Evidence, song: Song) -> tuple[Section, ...]:
    """Sections of a song from its chords and sound; what is stated of its sections is kept."""
    grid = song.grid
    lead = min(grid.lead_in, len(grid.bars) - 1)
    fixed = [s for s in song.sections if s.stated or s.material_stated]
    at_bar = {grid.bar_at(s.start) - lead: s for s in fixed if grid.bar_at(s.start) >= lead}
    materials = {bar: s.material for bar, s in at_bar.items() if s.material_stated}
    found = sections.decide(describe_bars(evidence, song), [b for b in at_bar if b > 0], materials)
    out: list[Section] = []
    for d in found:
        start = Fraction(0) if d.first == 0 else grid.bar_range(d.first + lead)[0]
        known = at_bar.get(d.first)
        if known is not None and known.stated:
            out.append(replace(known, start=start, material=d.letter))
        elif known is not None:
            out.append(replace(known, start=start, name=d.name, material=d.letter))
        else:
            out.append(Section(start, d.name, d.letter, d.confidence))
    named = {o.material: o.name for o in out if o.stated}
    return tuple(replace(o, name=named.get(o.material, o.name)) for o in out)
