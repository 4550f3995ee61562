"""The bass as it is played: when it is plucked anew, and which note.

Method: slots of the bars as for strokes (:mod:`..hands.strokes`). A small net tells from the low bands, from how the low notes
change, and from what the bars of a section have in common whether the bass begins a note in a slot. From one beginning to the
next the note is the likeliest of E1 .. G3: a weighted sum of how loud it and its octaves are, of what the chord net hears in
the bass, of its place in the chord, and of how far it is from the note before (a conditional logit, as for shapes), the best
path over all of them (Viterbi). Trained by ``training/fit_bass.py``. Conventions: notes as MIDI numbers at concert pitch of the
record's own tuning; times in seconds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import repeat

import numpy as np
from numpy.typing import NDArray

from ...song.bassnotes import BassNote
from ...song.model import Song
from ...theory.chord import Chord
from .. import net
from ..attacks import rising, sounding
from ..chains import best_way
from ..evidence import Evidence
from ..hands import strokes
from ..hands.strokes import Slots
from ..spectra import LOWEST_MIDI, PITCH_RATE, frames_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int_]
LOW, HIGH = 28, 55  # MIDI notes that a bass plays
NOTES = HIGH - LOW + 1
BANDS = 14  # lowest bands that are looked at one by one
# Under loud guitars the fundamental is covered and the octave stands out; basses of made songs are clearer than that.
UPPER, UPPER_FROM = 2.0, 40
AHEAD = 0.03  # seconds into a note from which on it is listened to
LONGEST = 0.9  # seconds of a note that say which it is
MOST_KNOWN = 20_000  # notes of which is kept what speaks for them
BEGINS = (
    0.08  # chance from which on a note begins: under unfamiliar bands the net is too cautious by far (docs/analysis.md)
)
# Whether the bass plays at all the net also tells by what the song is like on the whole, and under unfamiliar bands it errs there
# for a whole song. Where it plainly sounds below the lowest string of a guitar, a song is taken for one like those with a bass.
USUAL = (0.48, 0.22, 0.95, 0.83, 0.02)  # the last columns of ``onset_features`` in songs with a bass
DEEP, DEEP_SPREAD = -1.9, 0.25  # natural log of the lowest bands against the loudest one


def window(count: int, start: float, end: float) -> slice:
    """The frames of ``count`` that say which note sounds from ``start`` to ``end``."""
    return frames_of(count, start + AHEAD, min(end, start + LONGEST))


def low_notes(notes: NDArray[np.floating], start: float, end: float) -> Floats:
    """(84,) mean activations from ``start`` to ``end``."""
    return np.asarray(notes[window(len(notes), start, end)].astype(np.float32).mean(0), float)


def onset_features(
    bands: NDArray[np.floating], attacks: strokes.Heard, notes: NDArray[np.floating], bass: NDArray[np.floating], found: Slots, group: Ints,
    changes: Sequence[float],
) -> Floats:  # fmt: skip
    """(slots, k) what the net for beginnings is given."""
    loud = np.percentile(bands.astype(np.float32)[:, :BANDS].sum(1), 95) / BANDS + 1e-9
    log, begun = rising(bands[:, :BANDS].astype(np.float32), loud)
    rise = begun.astype(float)
    own, level = strokes.struck(rise, log.astype(float), found)
    own = np.minimum(own, 3.0)
    whole, _ = strokes.struck(*attacks, found)
    whole = np.minimum(whole, 3.0)
    common, often = np.zeros_like(own), np.zeros(len(own))
    key = np.asarray(group)[found.bar] * 1000 + found.index
    total = own.mean(1)
    for inside in strokes.alike(key):
        common[inside] = np.median(own[inside], axis=0)
        often[inside] = (total[inside] > strokes.COMMON).mean()
    at = np.clip((found.time * PITCH_RATE).round().astype(int), 0, len(notes) - 1)
    low = np.sqrt(np.maximum(notes[:, : HIGH - LOWEST_MIDI + 1].astype(np.float32), 0)).astype(float)
    heard = np.exp(np.asarray(bass, float) - np.asarray(bass, float).max(1, keepdims=True))
    after, before = np.clip(at + 1, 0, len(notes) - 1), np.clip(at - 1, 0, len(notes) - 1)
    turns = [_turn(low[after], low[before]), _turn(heard[after], heard[before])]
    strong = low[after].max(1) / (np.percentile(low.max(1), 90) + 1e-6)
    nobody = heard[after][:, 12] / heard[after].sum(1)
    change = strokes.near_one(found.time, changes)
    mean = common.mean(1)
    around = [np.roll(x, -k) for x in (total, mean, turns[0]) for k in strokes.NEAR]
    place = [(found.step == s).astype(float) for s in (0, 1, 2)] + [
        (found.number == 0).astype(float),
        (found.index == 0).astype(float),
    ]
    gap = np.log(np.clip(np.gradient(found.time), 0.03, 1.0) / 0.12) if len(own) > 1 else np.zeros(len(own))
    columns = [
        own,
        level,
        whole,
        common,
        *(c[:, None] for c in (total, mean, often, *turns, strong, nobody, change, gap, *around, *place)),
    ]
    song = np.array([total.mean(), total.std(), rise.mean() * 10, float(strong.mean()), float(nobody.mean())])
    return np.concatenate([*columns, np.tile(song, (len(own), 1))], axis=1)


def _turn(one: Floats, two: Floats) -> Floats:
    """How much two rows of amounts point elsewhere, 0 .. 1."""
    both = (one * two).sum(1)
    return np.asarray(1 - both / (np.sqrt((one**2).sum(1) * (two**2).sum(1)) + 1e-6))


def deep(bands: NDArray[np.floating]) -> float:
    """0 .. 1: whether a record sounds for much of the time below what a guitar can play (a kick drum does only for moments)."""
    there = sounding(bands, 0.1)
    if not there.any():
        return 0.0
    low = float(np.median(bands[there, :2].max(1)))
    top = float(bands.mean(0, np.float32, where=there[:, None]).max())
    return float(1 / (1 + np.exp(-(np.log((low + 1e-9) / (top + 1e-9)) - DEEP) / DEEP_SPREAD)))


def beginnings(rows: Floats) -> Floats:
    """(slots,) chance that the bass begins a note there."""
    return net.chances("bassline", rows)[:, 0]


@dataclass(frozen=True)
class Around:
    """What is known where a note sounds: pitch classes of the chord (root, bass, fifth, all) and (13,) chances of the bass."""

    root: int
    bass: int
    fifth: int
    inside: frozenset[int]
    heard: Floats


def candidate_features(amounts: Floats, about: Around) -> Floats:
    """(NOTES, k) what speaks for each note: ``amounts`` (84,) are the mean activations while it sounds."""
    level = np.sqrt(np.maximum(amounts, 0))
    padded = np.concatenate([np.zeros(24), level, np.zeros(36)])
    notes = np.arange(LOW, HIGH + 1)
    at = notes - LOWEST_MIDI + 24
    top = level[: HIGH - LOWEST_MIDI + 1].max() + 1e-6
    classes = notes % 12

    def off(steps: int) -> Floats:
        return np.asarray(padded[at + steps] / top)

    own, height = off(0), (notes - 40) / 12
    lower = np.maximum.accumulate(level)[notes - LOWEST_MIDI - 1] / top  # the loudest of all notes below
    chance = np.log(about.heard[classes] + 1e-3)
    columns = [
        height, height**2, own, own**2, own * height, off(12), off(-12), off(19), off(7), off(-7), off(-5), off(1), off(-1), lower,
        chance, chance * own, classes == about.root, classes == about.bass, classes == about.fifth,
        _members(about.inside)[classes], own * (classes == about.bass),
    ]  # fmt: skip
    return np.stack([np.asarray(c, float) for c in columns], 1)


def _members(classes: frozenset[int]) -> NDArray[np.bool_]:
    """(12,) which pitch classes are among some."""
    out = np.zeros(12, bool)
    out[list(classes)] = True
    return out


def step_features() -> Floats:
    """(NOTES, NOTES, k) what speaks for going from one note (rows) to another."""
    gap = np.abs(np.arange(NOTES)[:, None] - np.arange(NOTES)[None])
    columns = [gap == 0, (gap == 1) | (gap == 2), np.minimum(gap, 12) / 12, gap == 12, gap > 12]
    return np.stack([np.asarray(c, float) for c in columns], 2)


def about_of(chord: Chord | None, bass: NDArray[np.floating], start: float, end: float) -> Around:
    """What is known from ``start`` to ``end``, where ``chord`` sounds."""
    log = np.asarray(bass[window(len(bass), start, end)], float).mean(0)
    heard = np.exp(log - log.max())
    heard /= heard.sum()
    if chord is None or chord.root is None or chord.sounding_bass is None:
        return Around(-1, -1, -1, frozenset(), heard)
    inside = frozenset(chord.pitch_classes)
    fifth = next(((chord.root + k) % 12 for k in (7, 6, 8) if (chord.root + k) % 12 in inside), (chord.root + 7) % 12)
    return Around(chord.root, chord.sounding_bass, fifth, inside, heard)


def _chord_at(song: Song, seconds: float) -> Chord:
    """The chord that sounds a moment after a time."""
    return song.chords[song.chords.index_at(song.grid.position(seconds + 0.02))].chord


def find(song: Song, evidence: Evidence) -> list[BassNote]:
    """The notes of the bass, in order."""
    found, group = strokes.song_slots(song, evidence)
    changes = [song.grid.clock(c.start) for c in song.chords]
    rows = onset_features(
        evidence.bands, strokes.heard_of(evidence), evidence.notes, evidence.bass, found, group, changes
    )
    like = deep(evidence.bands)
    rows[:, -len(USUAL) :] = like * np.array(USUAL) + (1 - like) * rows[:, -len(USUAL) :]
    chance = strokes.together(found, beginnings(rows), group)
    begun = np.flatnonzero(chance >= BEGINS)
    if not len(begun):
        return []
    times = [*found.time[begun].tolist(), float(song.grid.times[-1])]
    w = {k: v.astype(float) for k, v in net.weights("bassline").items()}
    known: dict[tuple[float, float, Chord], Floats] = evidence.kept.get("notes of the bass", None, dict)
    if len(known) > MOST_KNOWN:
        known.clear()

    def speaks(start: float, end: float) -> Floats:
        """What speaks for each note; a statement changes the chord of few, and the others are known."""
        chord = _chord_at(song, start)
        found = known.get((start, end, chord))
        if found is None:
            x = candidate_features(low_notes(evidence.notes, start, end), about_of(chord, evidence.bass, start, end))
            found = known[start, end, chord] = x @ w["note"]
        return found

    local = np.array([speaks(a, b) for a, b in zip(times[:-1], times[1:], strict=True)])
    local = local - UPPER * (np.arange(LOW, HIGH + 1) >= UPPER_FROM)[None]
    path = best_way(local, repeat(step_features() @ w["step"]))
    sure = np.exp(local - local.max(1, keepdims=True))
    sure /= sure.sum(1, keepdims=True)
    out = []
    for k, (i, note) in enumerate(zip(begun, path, strict=True)):
        a, b = times[k], times[k + 1]
        likely = float(np.clip(chance[i] * sure[k, note], 0, 1))
        out.append(
            BassNote(round(float(a), 4), round(max(0.03, min(b - a, 2.0)), 4), LOW + int(note), round(likely, 2))
        )
    return out
