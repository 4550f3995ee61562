"""Strokes of a guitar: which places of a bar are struck, heard through whoever else plays.

Method: a bar is divided into slots (sixteenths of a simple beat, of a dotted one too), moved along where the band swings. For
each slot a small net weighs how much begins there in twelve bands, how much does in the other bars of the same section at
that slot, in the slots around, and what the song is like as a whole; drums and singers are told from strums by what the
bars of a section have in common. Trained by ``training/fit_strokes.py`` on songs whose strokes are known, also such without
any. Which way a stroke goes is heard too, and told by its place: the hand swings in eighths, or in sixteenths where those are struck, and
goes the same way at the same place. Conventions: frames at 50 a second, times in seconds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...song.model import Song
from ...song.strumming import Strummed, plainest
from .. import net
from ..attacks import loudness, rising
from ..evidence import Evidence
from ..kept import is_large
from ..spectra import BAND_RATE, Array
from . import pairs
from .claims import features as claims_features
from .claims import strums
from .muted import muted
from .plucked import plucked

Floats = NDArray[np.float64]
Ints = NDArray[np.int_]
Heard = tuple[Floats, Floats]  # how much begins and how loud it is, see ``rises``
GROUPS = 12  # of bands
EARLY, LATE = 0.045, 0.055  # seconds around a slot in which its stroke begins
SWINGS = np.round(np.arange(0.5, 0.71, 0.01), 2)  # where the off-beat of a simple beat may lie
STRAIGHT = 0.06  # by how much a swing must be better than straight eighths, of what is struck on a beat
NEAR = (-4, -2, -1, 1, 2, 4)  # slots around that are looked at
OWN, COMMONLY = 0.6, 0.6  # weight of what a bar says and of what the bars of its section say
CLAIM, GUITAR = (
    0.76,
    0.7,
)  # hoped F of a section from which on its strokes are told, and how likely it must be a guitar that strums
FEWEST, HIDDEN = 0.1, 0.12  # mean chance of a slot, below which nobody strums, and from which on somebody does unheard
SWINGING = 2.0  # how much the hand's usual swing is believed, against the mean log odds of what is heard
PLAINLY = 4.0  # log odds of a place from which on what is heard there goes before the swing
SIXTEENTHS = 0.03  # of the strokes: the hand swings in sixteenths
COMMON = 0.35  # of the usual strong one, from which on something begins in a slot


@dataclass(frozen=True)
class Slots:
    """``time`` (n,) seconds; ``bar`` (n,) its bar, ``index`` (n,) its number in the bar; ``step`` (n,) 0 on a beat, 1 on an
    eighth between beats, 2 on a sixteenth; ``number`` (n,) of its beat in the bar. ``swing`` is where off-beats lie, ``fours`` (n,)
    whether its beat has four slots."""

    time: Floats
    bar: Ints
    index: Ints
    step: Ints
    number: Ints
    swing: float = 0.5
    fours: NDArray[np.bool_] | None = None


def per_beat(unit: int, compound: bool) -> int:
    """Sixteenths of a counted beat."""
    return 6 if compound else max(1, 16 // unit)


def phases(count: int, swing: float) -> Floats:
    """Where the slots of a beat lie, of its length; ``swing`` is where the off-beat of four does."""
    if count != 4:
        return np.arange(count) / count
    return np.array([0.0, swing / 2, swing, (1 + swing) / 2])


def steps(count: int) -> list[int]:
    if count == 6:  # eighths of a dotted beat
        return [0, 2, 1, 2, 1, 2]
    return {1: [0], 2: [0, 2], 4: [0, 2, 1, 2]}.get(count, [0, *[2] * (count - 1)])


def slots(
    times: Sequence[float], bar_of: Sequence[int], number: Sequence[int], counts: Sequence[int], swing: float
) -> Slots:
    """The slots of all beats: ``times`` (beats + 1,), and for each beat its bar, its number in the bar and its slots."""
    at, bars, index, step, numbers, fours = [], [], [], [], [], []
    seen: dict[int, int] = {}
    for k, count in enumerate(counts):
        long = times[k + 1] - times[k]
        for phase, kind in zip(phases(count, swing), steps(count), strict=True):
            at.append(times[k] + phase * long)
            bars.append(bar_of[k])
            index.append(seen.get(bar_of[k], 0))
            seen[bar_of[k]] = index[-1] + 1
            step.append(kind)
            numbers.append(number[k])
            fours.append(count == 4)
    return Slots(
        *(np.array(at), np.array(bars, int), np.array(index, int), np.array(step, int), np.array(numbers, int)),
        *(swing, np.array(fours, bool)),
    )


def rises(bands: NDArray[np.floating]) -> Heard:
    """(frames, GROUPS) how much begins and how loud it is, in logarithms against the song's own loudness."""
    log, rise = rising(bands.astype(np.float32), loudness(bands))
    shape = (len(log), GROUPS, log.shape[1] // GROUPS)
    return rise.reshape(shape).mean(2).astype(float), log.reshape(shape).mean(2).astype(float)


def find_swing(rise: Floats, times: Sequence[float]) -> float:
    """Where the off-beat of a beat lies, .5 for straight eighths."""
    flux = rise[:, 2:].sum(1)
    starts, long = np.array(times[:-1]), np.diff(np.array(times))

    def begun(at: Floats) -> float:
        near = np.clip((at * BAND_RATE).round().astype(int), 1, len(flux) - 2)
        return float(np.mean(flux[near] + 0.5 * (flux[near - 1] + flux[near + 1])))

    value = [begun(starts + swing * long) for swing in SWINGS]
    beat = begun(starts) + 1e-9
    best = int(np.argmax(value))
    return float(SWINGS[best]) if value[best] - value[0] > STRAIGHT * beat and SWINGS[best] > 0.54 else 0.5


def alike(key: Ints) -> list[Ints]:
    """The places of equal keys."""
    order = np.argsort(key, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(key[order])) + 1) if len(key) else []


def near_one(times: Floats, changes: Sequence[float]) -> Floats:
    """(times,) 1 where one of the ``changes``, in order, is near, else 0."""
    if not len(changes):
        return np.zeros(len(times))
    known = np.array(changes)
    at = np.clip(np.searchsorted(known, times), 1, len(known)) - 1
    after = np.minimum(at + 1, len(known) - 1)
    return np.asarray(np.minimum(np.abs(times - known[at]), np.abs(times - known[after])) < EARLY, float)


def struck(rise: Floats, level: Floats, found: Slots) -> tuple[Floats, Floats]:
    """(slots, GROUPS) the strongest rise around each slot, 1 being the song's usual strong one, and how loud it is there
    against the song."""
    first = np.clip(np.floor((found.time - EARLY) * BAND_RATE).astype(int), 0, len(rise) - 1)
    last = np.clip(np.ceil((found.time + LATE) * BAND_RATE).astype(int), first + 1, len(rise))
    strongest = np.array([rise[a:b].max(0) for a, b in zip(first, last, strict=True)])
    usual = np.percentile(strongest, 88, axis=0) + 0.02
    at = np.clip(last, 0, len(level) - 1)
    return strongest / usual, (level[at] - level.mean(0)) / (level.std(0) + 0.1)


def features(heard: Heard, found: Slots, group: Ints, changes: Sequence[float]) -> Floats:
    """(slots, k) what the net is given: ``heard`` is what :func:`rises` gives, ``group`` (bars,) what each bar belongs with,
    ``changes`` where chords change."""
    rise, level = heard
    own, loud = struck(rise, level, found)
    own = np.minimum(own, 3.0)
    total = own.mean(1)
    common, often, spread = np.zeros_like(own), np.zeros(len(own)), np.zeros(len(own))
    key = np.asarray(group)[found.bar] * 1000 + found.index
    for inside in alike(key):
        common[inside] = np.median(own[inside], axis=0)
        often[inside] = (total[inside] > COMMON).mean()
        spread[inside] = total[inside].std()
    mean = common.mean(1)
    around = [np.roll(x, -k) for x in (total, mean) for k in NEAR]
    change = near_one(found.time, changes)
    gap = np.log(np.clip(np.gradient(found.time), 0.03, 1.0) / 0.12) if len(own) > 1 else np.zeros(len(own))
    song = np.concatenate([level.mean(0), rise.mean(0) * 10, [total.mean(), total.std()]])
    place = [(found.step == s).astype(float) for s in (0, 1, 2)] + [(found.number == 0).astype(float)]
    place += [((found.number % 2 == 1) & (found.step == 0)).astype(float), (found.index == 0).astype(float)]
    columns = [own, loud, common, *(c[:, None] for c in (total, mean, often, spread, change, gap, *around, *place))]
    return np.concatenate([*columns, np.tile(song, (len(own), 1))], axis=1)


def chances(rows: Floats) -> tuple[Floats, Floats, Floats]:
    """(slots,) each: that a guitar strikes there; that it strikes hard, and that it strikes upwards if it does."""
    out = net.chances("strokes", rows)
    return out[:, 0], out[:, 1], out[:, 2]


# ---------------------------------------------------------------- a whole song


def heard_of(evidence: Evidence) -> Heard:
    """What :func:`rises` gives of a recording, worked out once unless it is very long."""
    return evidence.kept.get("rises", None, lambda: rises(evidence.bands), 0 if is_large(evidence.bands) else 1)


def song_slots(song: Song, evidence: Evidence) -> tuple[Slots, Ints]:
    """The slots of a song's bars, and (bars,) which bars belong together: those of one music and meter."""

    def made() -> tuple[Slots, Ints]:
        grid = song.grid
        bar_of, number, each = [], [], []
        for index, _, bar in grid.walk():
            bar_of += [index] * bar.beats
            number += [bar.first - 1 + k for k in range(bar.beats)]
            each += [per_beat(bar.meter.denominator, bar.meter.compound)] * bar.beats
        swing = find_swing(heard_of(evidence)[0], grid.times) if 4 in each else 0.5
        found = slots(grid.times, bar_of, number, each, swing)
        kinds: dict[tuple[str, str], int] = {}
        group = []
        for b, bar in enumerate(grid.bars):
            section = song.section_of_bar(b)
            key = song.sections[section].material or f"#{section}", str(bar.meter)
            group.append(kinds.setdefault(key, len(kinds)))
        return found, np.array(group)

    key = song.grid.times, song.grid.bars, tuple((s.start, s.material) for s in song.sections)
    return evidence.kept.get("slots", key, made, 2)


def decide(song: Song, evidence: Evidence) -> Strummed:
    """What the strumming hand does on a song's grid, as far as the record shows it."""
    found, group = song_slots(song, evidence)
    changes = [song.grid.clock(c.start) for c in song.chords]
    heard = heard_of(evidence)
    rows = features(heard, found, group, changes)
    chance, hard, up = chances(rows)
    beats = [b.beats for b in song.grid.bars]
    return _read(found, rows, heard, (chance, hard, up), group, beats, evidence.breadth)


def together(found: Slots, chance: Floats, group: Ints, own: float = OWN) -> Floats:
    """(slots,) chances with what the same slot says in the other bars of the section; ``own`` is the weight of the bar itself."""
    odds = np.log(np.clip(chance, 1e-4, 1 - 1e-4) / np.clip(1 - chance, 1e-4, 1 - 1e-4))
    key = group[found.bar] * 1000 + found.index
    common = np.zeros(len(odds))
    for inside in alike(key):
        common[inside] = odds[inside].mean()
    return np.asarray(1 / (1 + np.exp(-(own * odds + COMMONLY * common))))


def hoped(chance: Floats) -> float:
    """The F that strokes chosen at half have if the chances are right."""
    said = chance >= 0.5
    if not said.any():
        return 0.0
    return float(2 * chance[said].sum() / (said.sum() + chance.sum()))


def told(rows: Floats, whole: Floats, said_of: tuple[Floats, Floats, Floats], inside: NDArray[np.bool_]) -> bool:
    """Whether the strokes of a section's slots are sure enough to be told, and a guitar's: ``rows`` of :func:`features`, ``whole`` (slots,) chances
    with those of the other bars, ``said_of`` what :func:`chances` gives."""
    chance = whole[inside]
    if hoped(chance) < CLAIM or float(chance.mean()) < FEWEST:
        return False
    struck, hard, up = said_of
    mine = struck[inside], hard[inside], up[inside]
    return strums(claims_features(rows[inside], chance, chance >= 0.5, mine)) >= GUITAR


def _read(
    found: Slots,
    rows: Floats,
    heard: Heard,
    said_of: tuple[Floats, Floats, Floats],
    group: Ints,
    beats: Sequence[int],
    breadth: Array,
) -> Strummed:
    chance, hard, up = said_of
    damped, no, thumb = (np.zeros(len(chance), bool) for _ in range(3))
    whole = together(found, chance, group)
    # the hand goes the same way, and as hard, at the same place of all bars: one bar by itself says too little of that
    upwards, hardness = (together(found, x, group, own=0.0) for x in (up, hard))
    ways = upwards.copy()
    texts, sure, hidden = [""] * len(beats), [0.0] * len(beats), set()
    told_of: list[tuple[Ints, Floats]] = []  # bars that belong together, their strokes
    for g in range(int(group.max()) + 1):
        bars = np.flatnonzero(group == g)
        inside = np.isin(found.bar, bars)
        if not told(rows, whole, said_of, inside):
            hidden |= set(bars.tolist()) if whole[inside].mean() >= HIDDEN else set()
            continue
        worth = hoped(whole[inside])
        said = np.flatnonzero(inside & (whole >= 0.5))
        told_of.append((bars, found.time[said]))
        ways[said] = swung(found, said, ways[said])
        damped[said] = muted(heard, found.time[said], found.index[said], found.step[said], whole[said], hardness[said])
        likely = whole[said], hardness[said], upwards[said]
        no[said], thumb[said] = plucked(
            heard, found.time[said], found.index[said], likely, found.step[said], rows[said]
        )
        for b in bars.tolist():
            here = np.flatnonzero(found.bar == b)
            letters = [
                "b" if thumb[i] else "-" if no[i] else _letter(whole[i], hardness[i], ways[i], bool(damped[i]))
                for i in here
            ]
            texts[b] = plainest("".join(letters), beats[b])
            sure[b] = round(worth, 3)
    two = pairs.two(breadth, [times for _, times in told_of])
    paired = frozenset(int(b) for (bars, _), both in zip(told_of, two, strict=True) if both for b in bars)
    return Strummed(tuple(texts), tuple(sure), found.swing, frozenset(hidden), paired)


def swung(found: Slots, struck: Ints, up: Floats) -> Floats:
    """How likely the strokes of a section go up (struck,): by the way the hand swings there, in eighths, in sixteenths, or down only,
    whichever agrees best with the chances ``up`` that are heard; where something else is heard plainly, by that."""
    odds = np.log(np.clip(up, 1e-4, 1 - 1e-4) / np.clip(1 - up, 1e-4, 1 - 1e-4)) / COMMONLY
    step = found.step[struck]
    if not len(struck) or found.fours is None or not found.fours[struck].all():
        return up
    quick = float((step == 2).mean()) >= SIXTEENTHS
    ways = {"eighths": step != 0, "sixteenths": step == 2, "down": np.zeros(len(step), bool)}
    usual = {"eighths": -1.0 if quick else 1.0, "sixteenths": 1.0 if quick else 0.0, "down": -0.5}
    clipped = np.clip(odds, -2, 2)

    def agrees(name: str) -> float:
        return SWINGING * usual[name] + float((clipped * np.where(ways[name], 1, -1)).mean())

    best = ways[max(ways, key=agrees)]
    return np.where(np.abs(odds) > PLAINLY, up, np.where(best, 0.9, 0.1))


def _letter(chance: float, hard: float, up: float, damped: bool) -> str:
    """What is struck in a slot."""
    if chance < 0.5 or damped:
        return "-" if chance < 0.5 else "x"
    letter = "u" if up >= 0.5 else "d"
    return letter.upper() if hard >= 0.5 else letter
