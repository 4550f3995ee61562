"""Which of its notes a chord has in the bass, decided again when the chord stands.

Method: a conditional logit over the basses that a chord may have. What speaks for each: what the chord net hears in the bass
over the chord's whole length and where it begins, how strongly the lowest notes of that class sound and how much sounds
below them, the note of the line that the bass plays (:mod:`..lines.bassline`), and which step of the chord it is. The
net alone hears the root too often where the fifth or the seventh lies below: it listens to single moments. Where only the bass
changes within a chord, be it from one of its bars to the next, a logistic regression tells a new chord from a bass that moves. What
stands then is asked once more, with what speaks for each bass in the mean of the passes of that music: a bass that walks takes
other notes every time, one that is written does not. Trained by ``training/fit_basses.py``. Conventions: pitch classes 0 .. 11; times in seconds.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ...song import statements as said
from ...song.bassnotes import BassNote, between
from ...song.grid import Position
from ...song.model import ChordSpan, Song
from ...song.track import Track
from ...theory.chord import Chord
from .. import net
from ..evidence import Evidence
from ..spectra import LOWEST_MIDI, frames_of
from .harmony import basses_of

Floats = NDArray[np.float64]
LOW, HIGH = 28, 57  # MIDI notes among which the lowest one of a chord is looked for
OPENS = 0.45  # seconds in which a chord begins
EARLY = 0.06  # seconds before a change from which on a note of the bass belongs to the new chord
MOST_SURE = 8.0  # log odds beyond which it makes no difference
IN_PASSES = (0, 2, 4, 6, 8)  # columns of what speaks for a bass that are asked in the mean of the passes too
JOINED = -0.7  # log odds of a change of the bass alone below which it is none
# What a chord over its third is called by who writes it, since over that bass its notes are a chord of their own (C6 and Am7/C are
# both usual, for the same notes: where one was heard the other was meant as often)
BY_THE_BASS = {("hdim7", 3): "min6"}
STRUCK = 0.3  # how likely a chord was struck once, from which on its bass is asked for as a whole
STEPS = np.array([0, 4, 4, 1, 1, 4, 2, 2, 2, 3, 3, 3])  # above the root: root 0, third 1, fifth 2, seventh 3, others 4


def chances(bass: NDArray[np.floating], inside: slice) -> tuple[Floats, Floats]:
    """(13,) mean log chances of the basses over some frames, and the logarithm of their mean chances."""
    log = np.asarray(bass[inside], np.float32)
    log = log - np.logaddexp.reduce(log, axis=1, keepdims=True)
    return np.maximum(log, -9).mean(0).astype(float), np.log(np.exp(log).mean(0) + 1e-4).astype(float)


def lowest(notes: NDArray[np.floating], inside: slice) -> tuple[Floats, Floats]:
    """(12,) how strongly the strongest low note of each class sounds, against the strongest of all, and the most by which one
    of that class stands out from all below it."""
    level = np.sqrt(
        np.maximum(np.asarray(notes[inside, LOW - LOWEST_MIDI : HIGH - LOWEST_MIDI + 1], np.float32).mean(0), 0)
    )
    level = level.astype(float) / (float(level.max()) + 1e-6)
    below = np.concatenate([[0.0], np.maximum.accumulate(level)[:-1]])
    return _by_class(level, 0.0), _by_class(level - below, -1.0)


def _by_class(values: Floats, least: float) -> Floats:
    """(12,) the highest of some values, of the notes from :data:`LOW` up, for each pitch class."""
    octaves = np.full((-(-(LOW % 12 + len(values)) // 12), 12), least)
    octaves.flat[LOW % 12 : LOW % 12 + len(values)] = values
    return np.asarray(octaves.max(0))


Row = tuple[list[int], list[int], Floats]
"""Indexes of a chord and of those that are it struck anew, the basses it may have, what speaks for each (basses, k)."""


def rows(song: Song, evidence: Evidence, line: Sequence[BassNote]) -> list[Row]:
    """Of every chord that somebody plays, with those after it that are the same one struck anew. Nothing is asked of other chords, so that what is stated of those changes nothing here; where the user says
    that a chord goes on, the sound there says nothing of it."""
    grid, chords = song.grid, song.chords
    going_on = sorted(s.at for s in said.of(song.statements, "goes on"))
    out: list[Row] = []
    k = 0
    while k < len(chords):
        same = [k]
        while same[-1] + 1 < len(chords) and _struck_anew(chords[same[-1]], chords[same[-1] + 1]):
            same.append(same[-1] + 1)
        chord, start, end = chords[k].chord, chords[k].start, chords.range_of(same[-1], grid.end)[1]
        if chord.root is not None:
            end = next((at for at in going_on if start < at < end), end)
            found = basses_of(chord)
            out.append((same, found, _features(chord, found, evidence, line, grid.clock(start), grid.clock(end))))
        k = same[-1] + 1
    return out


def in_bars(song: Song) -> Song:
    """The song with every chord that goes on over a bar line begun anew there, so that each bar is asked for its bass: players
    take another one with a bar. Chords of which something was said or that are struck stay, and so do those that the user lets go on."""
    lines = song.grid.starts
    going_on = [s.at for s in said.of(song.statements, "goes on")]
    out: list[ChordSpan] = []
    for k, span in enumerate(song.chords):
        out.append(span)
        start, end = song.chord_range(k)
        before_itself = k + 1 < len(song.chords) and song.chords[k + 1].again
        struck = span.again or before_itself or max(span.rings, span.cut) > STRUCK
        if span.chord.is_none or span.stated or span.follows or struck or any(start < at < end for at in going_on):
            continue
        # what was marked is the chord that begins
        part = replace(span, comment="", unsure=False, articulation="strummed")
        inside = lines[bisect_right(lines, start) : bisect_left(lines, end)]
        out += [replace(part, start=Fraction(at)) for at in inside]
    return replace(song, chords=Track(out))


def _struck_anew(one: ChordSpan, two: ChordSpan) -> bool:
    return two.again and one.chord == two.chord and not (one.stated or two.stated or one.follows or two.follows)


def _features(
    chord: Chord, found: Sequence[int], evidence: Evidence, line: Sequence[BassNote], start: float, end: float
) -> Floats:
    """(basses, k) what speaks for each of the basses ``found`` of a chord that sounds from ``start`` to ``end``."""
    whole = frames_of(len(evidence.bass), start, end)
    opening = frames_of(len(evidence.bass), start + 0.03, min(end, start + OPENS))
    mean, often = chances(evidence.bass, whole)
    first, _ = chances(evidence.bass, opening)
    strong, clear = lowest(evidence.notes, whole)
    strong1, clear1 = lowest(evidence.notes, opening)
    share = np.zeros(12)
    notes = between(line, start - EARLY, end - EARLY)
    for n in notes:
        share[n.note % 12] += max(0.0, min(n.length, end - n.at)) * n.sure / max(1e-3, end - start)
    opens = notes[0].note % 12 if notes and notes[0].at < start + OPENS / 2 else -1
    assert chord.root is not None
    at = np.asarray(found, int)
    root, third, fifth, seventh, other = (STEPS[(at - chord.root) % 12] == np.arange(5)[:, None]).astype(float)
    long = float(np.log(max(0.2, end - start)))
    columns = [
        mean[at], often[at], first[at], strong[at], clear[at], strong1[at], clear1[at], share[at], (at == opens).astype(float),
        third, fifth, seventh, other, root * long, fifth * clear[at], fifth * mean[at], root * clear[at], mean[at] * long,
    ]  # fmt: skip
    return np.stack(columns, 1)


def _log_shares(x: Floats, weights: Floats) -> Floats:
    """(basses,) log of how likely each is."""
    score = x @ weights
    return np.asarray(score - np.logaddexp.reduce(score))


def joint_features(one: Floats, two: Floats, beats: float, on_one: bool) -> Floats:
    """(4,) what speaks for a change between two parts of a chord that differ in their bass alone: constant, how much surer
    the surer part (log shares ``one`` and ``two`` of the same basses) is of its own bass than of the other's, the logarithm
    of the first one's length in beats, whether a bar begins between them."""
    a, b = int(one.argmax()), int(two.argmax())
    margin = max(one[a] - one[b], two[b] - two[a])
    return np.array([1.0, min(float(margin), MOST_SURE), float(np.log(max(0.25, beats))), float(on_one)])


def _goes_on(song: Song, same: list[int], after: list[int]) -> bool:
    """Whether the chords of two rows are parts of one that only differ in the bass, of which nothing was said."""
    if len(same) > 1 or len(after) > 1 or after[0] != same[-1] + 1:
        return False
    one, two = song.chords[same[0]], song.chords[after[0]]
    if one.stated or two.stated or one.follows or two.follows or two.again:
        return False
    return (one.chord.root, one.chord.quality) == (two.chord.root, two.chord.quality)


def _runs(song: Song, found: Sequence[Row], shares: Sequence[Floats], joints: Floats) -> list[list[int]]:
    """Which rows are one chord: each run by the places of its rows."""
    ones = set(song.grid.starts)
    out: list[list[int]] = []
    for i, (same, _, _) in enumerate(found):
        before = found[i - 1][0] if i else []
        if out and _goes_on(song, before, same):
            start, change = song.chords[before[0]].start, song.chords[same[0]].start
            x = joint_features(shares[i - 1], shares[i], float(change - start), change in ones)
            if shares[i - 1].argmax() == shares[i].argmax() or float(x @ joints) < JOINED:
                out[-1].append(i)
                continue
        out.append([i])
    return out


def _weights() -> dict[str, Floats]:
    return {name: array.astype(float) for name, array in net.weights("basses").items()}


def standing(song: Song, evidence: Evidence, line: Sequence[BassNote]) -> list[Row]:
    """The rows of the chords that stand: those that are parts of one, as a bass moves while the chord stays, as one row."""
    w = _weights()
    found = rows(song, evidence, line)
    shares = [_log_shares(x, w["basses"]) for _, _, x in found]
    out: list[Row] = []
    for run in _runs(song, found, shares, w["joints"]):
        same, may_have, x = found[run[0]]
        if len(run) > 1:
            same = [k for i in run for k in found[i][0]]
            start, end = song.chords[same[0]].start, song.chord_range(same[-1])[1]
            times = song.grid.clock(start), song.grid.clock(end)
            x = _features(song.chords[same[0]].chord, may_have, evidence, line, *times)
        out.append((same, may_have, x))
    return out


def by_passes(song: Song, found: Sequence[Row]) -> list[Floats]:
    """For each row (basses, 5): by how much more speaks for each bass, by the columns :data:`IN_PASSES`, in the mean of all rows that
    begin at the same place of the same music and have the same chord."""
    places: dict[tuple[object, ...], list[int]] = defaultdict(list)
    for i, (same, _, _) in enumerate(found):
        span = song.chords[same[0]]
        places[_place(song, span.start), span.chord.root, span.chord.quality].append(i)
    own = [x[:, IN_PASSES] for _, _, x in found]
    out = list(own)
    for passes in places.values():
        mean = np.mean([own[i] for i in passes], axis=0)
        for i in passes:
            out[i] = mean - own[i]
    return out


def _place(song: Song, start: Position) -> tuple[object, ...]:
    """Where a chord begins: in which music, in which of its bars and where in it; the same for all passes of that music. The
    bars of a count-in are before the first bar of their section, which may have no other."""
    bar = song.grid.bar_at(start)
    section = song.section_of_bar(bar)
    return (
        song.sections[section].material or section,
        bar - song.section_bars(section).start,
        start - song.grid.starts[bar],
    )


def decide(song: Song, evidence: Evidence, line: Sequence[BassNote]) -> Track[ChordSpan]:
    """The song's chords, each over the bass for which most speaks; what is stated, or follows from that, stays as it is.
    A bass that moves while the chord stays, as roots and fifths in turn, is no change of the chord: such parts become one."""
    starts = {c.start for c in song.chords}
    song = in_bars(song)
    w, found = _weights(), standing(song, evidence, line)
    chords = list(song.chords)
    gone: set[int] = set()
    for (same, may_have, x), more in zip(found, by_passes(song, found), strict=True):
        bass = may_have[int((x @ w["basses"] + more @ w["passes"]).argmax())]
        first = same[0]
        if len(same) > 1 and not chords[same[1]].again:  # parts of one chord
            longest = max(same, key=lambda k: _length(song, k))
            chords[first] = replace(chords[longest], start=chords[first].start)
            gone.update(same[1:])
            same = [first]
        for k in same:
            span = chords[k]
            if not (span.stated or span.follows):
                chords[k] = _called(span, span.chord.over(bass))
    out: list[ChordSpan] = []
    for k, span in enumerate(
        chords
    ):  # here, as a mark on the first part would keep merging from joining the rest to it
        same_as_before = out and span.start not in starts and span.chord == out[-1].chord
        if k not in gone and not same_as_before:
            out.append(span)
    return Track(out)


def _called(span: ChordSpan, chord: Chord) -> ChordSpan:
    """The span with a chord over the bass that was found, by the name that is plain over it: Dm6, not Bm7b5/D, which becomes a rival."""
    if chord.root is not None and chord.bass is not None:
        plain = BY_THE_BASS.get((chord.quality, (chord.bass - chord.root) % 12))
        if plain is not None:
            named = Chord(chord.bass, plain)
            rivals = tuple((chord if rival == named else rival, p) for rival, p in span.rivals)
            return replace(span, chord=named, rivals=rivals)
    return span if chord == span.chord else replace(span, chord=chord)


def _length(song: Song, k: int) -> Fraction:
    start, end = song.chord_range(k)
    return Fraction(end - start)
