"""Chords and their bass on the grid.

Method: the net's log probabilities are averaged over each part of a beat, and among bars that are alike
(:mod:`passes`); notes outside the key cost a little; a hidden Markov model over chords with a sounding bass
decides the sequence, twice: the second time with what is usual in the song by the first (:mod:`usual`). Stated chords are hard constraints. Forward and backward sums give each chord's probability and its rivals' (tempered, because neighbouring frames are not independent witnesses).
Conventions: segments are parts of beats, ``edges`` their limits in seconds; chords as in :mod:`chordnet`.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ...theory.chord import NO_CHORD, QUALITIES, Chord
from ...theory.function import scale_of
from ...theory.key import Key
from ..chains import best_path, posterior
from ..kept import LAST, is_large
from ..spectra import Array
from . import alike, usual
from .chordnet import CHORDS, QUALITIES_HEARD, HarmonyEvidence

BASS_WEIGHT = 1.2
NOTES_WEIGHT = 0.5
INVERSION_COST = -0.1  # below nothing: the decoder's other habits favour roots in the bass more than players do
TEMPERATURE = 1.5
TRAVEL = 20.0  # log score that a statement gives its chord at the same place of a perfectly like bar
STRANGER_COST = 0.3  # of each note of a chord that is not at home in its key
RIVALS, SHOWN_ALWAYS = 4, 2
NEVER = 1e4  # cost of a change where the user says that there is none
LEAST_SHARE = 0.01  # of a rival's probability
Floats = NDArray[np.float64]
_ROOTS = np.array([12 if c.root is None else c.root for c in CHORDS])


@dataclass(frozen=True)
class Decided:
    """A chord over segments ``first`` .. ``last`` (exclusive) with its probability and rivals'; ``follows``: it was
    led there by a statement in a bar that is alike."""

    first: int
    last: int
    chord: Chord
    confidence: float
    rivals: tuple[tuple[Chord, float], ...]
    follows: bool = False


@dataclass(frozen=True)
class _States:
    chords: tuple[Chord, ...]  # with bass
    plain: NDArray[np.int_]  # index into CHORDS of each state
    bass: NDArray[np.int_]  # 0..11, 12 for none
    inverted: NDArray[np.bool_]


def basses_of(chord: Chord) -> list[int]:
    """The notes that a chord somebody plays may have in the bass, its root first."""
    assert chord.root is not None
    tones = {(chord.root + i) % 12 for i in QUALITIES[chord.quality].intervals if i != 2 or chord.quality == "sus2"}
    if chord.quality in ("maj", "min"):
        tones |= {(chord.root + 10) % 12, (chord.root + 2) % 12}
    if chord.quality == "maj":
        tones.add((chord.root + 11) % 12)
    return [chord.root, *sorted(tones - {chord.root})]


@lru_cache(maxsize=1)
def _states() -> _States:
    chords: list[Chord] = []
    plain, bass = [], []
    for index, chord in enumerate(CHORDS):
        if chord.root is None:
            chords.append(NO_CHORD)
            plain.append(index)
            bass.append(12)
            continue
        for b in basses_of(chord):
            chords.append(Chord(chord.root, chord.quality, b))
            plain.append(index)
            bass.append(b)
    return _States(tuple(chords), np.array(plain), np.array(bass), np.array([c.bass is not None for c in chords]))


@lru_cache(maxsize=1)
def _note_matrix() -> Floats:
    """(len(CHORDS), 12): +1 where a chord has a note, else 0."""
    out = np.zeros((len(CHORDS), 12))
    for i, chord in enumerate(CHORDS):
        out[i, sorted(chord.pitch_classes)] = 1
    return out


def _clipped(evidence: HarmonyEvidence) -> Array:
    """Log odds of the notes within bounds."""
    return evidence.kept.get("clipped notes", None, lambda: np.clip(evidence.notes, -6, 6).astype(np.float32))


def plain_scores(evidence: HarmonyEvidence, edges: Floats) -> Floats:
    """Log scores (segments, len(CHORDS)) of the chords, whatever their bass."""
    chord = evidence.kept.means("chords", evidence.chord, edges)
    odds = evidence.kept.means("clipped notes", _clipped(evidence), edges)
    sounding, missing = -np.logaddexp(0, -odds), -np.logaddexp(0, odds)
    has = _note_matrix()
    notes = (sounding @ has.T + missing @ (1 - has).T) / 3.0
    notes[:, -1] = missing.sum(1) / 3.0
    return np.asarray(chord + NOTES_WEIGHT * notes)


def with_bass(plain: Floats, bass: Floats) -> Array:
    """Log scores (segments, states) of every chord with every bass, from those of chords and of basses."""
    states = _states()
    out = plain.astype(np.float32)[:, states.plain]
    out += np.float32(BASS_WEIGHT) * bass.astype(np.float32)[:, states.bass]
    out -= np.float32(INVERSION_COST) * states.inverted
    return out


@lru_cache(maxsize=64)
def _strangers(key: Key) -> Floats:
    """(len(CHORDS),): how many notes of each chord are not at home in a key."""
    home = scale_of(key)
    return np.array([float(len({(c.root + i) % 12 for i in c.intervals} - home)) if c.root is not None else 0.0
                     for c in CHORDS])  # fmt: skip


def _best_bass(score: Array) -> Array:
    """Scores of chords, each with the bass that suits it best."""
    return np.asarray(np.maximum.reduceat(score, np.flatnonzero(np.diff(_states().plain, prepend=-1)), axis=1))


def _plain_chances(chance: Array) -> Array:
    """Chances of chords from those of states: summed over basses."""
    return np.asarray(np.add.reduceat(chance, np.flatnonzero(np.diff(_states().plain, prepend=-1)), axis=1))


@dataclass(frozen=True)
class _Heard:
    """What the sound alone says on a grid and in its keys: ``score`` (segments, states), ``cost`` of a change (segments,), the
    chord chances ``own`` of each bar by itself, which bars are alike, ``free`` the states (segments,) it decides when nothing is stated,
    and ``plain`` the scores of chords with their best bass."""

    score: Array
    cost: Floats
    own: Floats
    likes: alike.Likes | None
    free: NDArray[np.int_]
    plain: Array


def _heard(
    evidence: HarmonyEvidence, edges: Floats, cost: Floats, groups: Sequence[Sequence[int]], keys: tuple[Key, ...]
) -> _Heard:
    """What the sound says on a grid; what a user states of chords does not change it, so that the last are kept."""
    question = (edges.tobytes(), cost.tobytes(), keys)
    last = 1 if is_large(evidence.chord) else LAST
    return evidence.kept.get("heard", question, lambda: _listen(evidence, edges, cost, groups, keys), last)


def _listen(
    evidence: HarmonyEvidence, edges: Floats, cost: Floats, groups: Sequence[Sequence[int]], keys: tuple[Key, ...]
) -> _Heard:
    plain, bass = plain_scores(evidence, edges), evidence.kept.means("bass", evidence.bass, edges)
    if keys:
        plain = plain - STRANGER_COST * np.stack([_strangers(k) for k in keys])
    own, likes = np.zeros((0, 0)), None
    if len(groups) > 2:
        own = posterior(_best_bass(with_bass(plain, bass)), cost, TEMPERATURE).astype(np.float64)
        likes = alike.find(own, groups)
        plain = alike.pool(plain, own, _ROOTS, likes)
    score = with_bass(plain, bass)
    first = best_path(score, cost)
    chords, seconds = _states().plain[first], np.diff(edges)
    gain = usual.colour(chords, seconds) + usual.familiar(chords, seconds)
    score += gain[_states().plain].astype(np.float32)
    cost = cost + usual.rhythm(first, cost, groups)
    return _Heard(score, cost, own, likes, best_path(score, cost), _best_bass(score))


def at_a_glance(evidence: HarmonyEvidence, edges: Floats) -> list[Chord]:
    """The chord of each of the segments between ``edges``, without bass and without looking at bars that are alike:
    enough to tell a key, in a moment."""
    path = best_path(plain_scores(evidence, edges).astype(np.float32), np.full(len(edges) - 1, usual.CHANGE_COST))
    return [CHORDS[k] for k in path]


def free(
    evidence: HarmonyEvidence,
    edges: Floats,
    on_beat: NDArray[np.bool_],
    on_one: NDArray[np.bool_],
    groups: Sequence[Sequence[int]] = (),
    keys: Sequence[Key] = (),
) -> list[tuple[int, int, Chord]]:
    """What would be decided if nothing were stated, as (first segment, last (exclusive), chord)."""
    path = _heard(evidence, edges, usual.costs(on_beat, on_one), groups, tuple(keys)).free
    limits = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), len(path)]
    return [(a, b, _states().chords[path[a]]) for a, b in zip(limits, limits[1:], strict=False)]


def decide(
    evidence: HarmonyEvidence,
    edges: Floats,
    on_beat: NDArray[np.bool_],
    on_one: NDArray[np.bool_],
    stated: Mapping[int, Chord] | None = None,
    groups: Sequence[Sequence[int]] = (),
    keys: Sequence[Key] = (),
    twins: alike.Twins | None = None,
    going_on: Collection[int] = (),
) -> list[Decided]:
    """Chords over the segments between ``edges``.

    ``stated`` fixes the chord of single segments; in those ``going_on`` the chord before goes on whatever they sound
    like; ``groups`` are the segments of each bar, so that bars that are
    alike are heard together; ``keys`` is the key at each segment where it is known. Statements lead to
    the same place of a bar's ``twins``.
    """
    fixed = {segment: _nearest_state(chord) for segment, chord in (stated or {}).items()}
    ready = _heard(evidence, edges, usual.costs(on_beat, on_one), groups, tuple(keys))
    score, cost = ready.score.copy(), ready.cost
    led = _led(ready, fixed, twins)
    for segment, state, strength in led:
        score[segment, state] += np.float32(TRAVEL * strength)
    for segment, state in fixed.items():
        score[segment] -= 1e5
        score[segment, state] += 1e5
    if going_on:
        cost = cost.copy()
        held = sorted(going_on)
        score[held], cost[held] = 0.0, NEVER
    path = best_path(score, cost) if fixed or going_on else ready.free
    chance = posterior(score, cost, TEMPERATURE)
    return _told(path, chance, ready, {(segment, state) for segment, state, _ in led})


def _led(ready: _Heard, fixed: Mapping[int, int], twins: alike.Twins | None) -> list[tuple[int, int, float]]:
    """What statements lead to elsewhere, as (segment, state, how strongly)."""
    if ready.likes is None:
        return []
    led = alike.travel(ready.likes, ready.own, fixed, twins or {}, _higher)
    if twins is not None:
        known = {segment for segment, _, _ in led}
        led += [x for x in alike.echo(ready.own, ready.free, fixed, _renames) if x[0] not in known]
    return led


def _told(
    path: NDArray[np.int_], chance: Array, ready: _Heard, following: Collection[tuple[int, int]]
) -> list[Decided]:
    """The chords of a path, each with how sure it is, its rivals, and whether it follows from a statement."""
    states = _states()
    shares = _plain_chances(chance)
    limits = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), len(path)]
    out: list[Decided] = []
    for first, last in zip(limits, limits[1:], strict=False):
        state = int(path[first])
        mine, share = states.plain[state], shares[first:last].mean(0)
        order = _rivals(mine, share, ready.plain[first:last])
        rivals = tuple((_with_bass(CHORDS[k], chance[first:last], k), float(share[k])) for k in order)
        follows = any((k, state) in following and ready.free[k] != state for k in range(first, last))
        out.append(Decided(first, last, states.chords[state], float(min(1.0, share[mine])), rivals, follows))
    return out


def _rivals(mine: int, share: Floats, plain: Array) -> list[int]:
    """The other chords to show beside ``mine``, by their chances; where it is sure, still what the sound itself would
    say next."""
    order = [k for k in np.argsort(-share)[: RIVALS + 1] if k != mine and share[k] > LEAST_SHARE][:RIVALS]
    if len(order) < SHOWN_ALWAYS:
        order += [k for k in np.argsort(-plain.mean(0))[: SHOWN_ALWAYS + 2] if k != mine and k not in order]
        order = order[:SHOWN_ALWAYS]
    return order


@lru_cache(maxsize=4096)
def _higher(state: int, up: int) -> int:
    """The state of the same chord so many semitones higher."""
    return state if not up % 12 else _nearest_state(_states().chords[state].transposed(up))


def _renames(heard: int, called: int) -> bool:
    """Whether a state is only another name of what another one sounds like: the same notes over the same bass, or a
    bare fifth with its third."""
    one, two = _states().chords[heard], _states().chords[called]
    if one.root is None or two.root is None or one.sounding_bass != two.sounding_bass:
        return False
    return one.pitch_classes == two.pitch_classes or (one.quality == "5" and one.root == two.root)


def _with_bass(chord: Chord, chance: Array, plain: int) -> Chord:
    states = _states()
    mine = np.flatnonzero(states.plain == plain)
    return states.chords[int(mine[int(chance[:, mine].sum(0).argmax())])]


def _nearest_state(chord: Chord) -> int:
    """The state of a chord, or of the heard one that shares most of its notes, root first."""
    states = _states()
    if chord in states.chords:
        return states.chords.index(chord)
    want = chord.pitch_classes

    def likeness(other: Chord) -> tuple[bool, bool, float]:
        have = other.pitch_classes
        return (
            other.root == chord.root,
            other.sounding_bass == chord.sounding_bass,
            len(want & have) / max(1, len(want | have)),
        )

    return max(range(len(states.chords)), key=lambda i: likeness(states.chords[i]))


def heard_as(chord: Chord) -> Chord:
    """The chord that the analysis itself could decide for which is nearest to any chord."""
    return _states().chords[_nearest_state(chord)]


def heard(quality: str) -> bool:
    """Whether the analysis itself can decide for a quality."""
    return quality in QUALITIES_HEARD
