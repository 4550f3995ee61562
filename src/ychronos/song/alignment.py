"""The passes of a section side by side: bars aligned with gaps, and what differs.

One pass is the model that the others are compared with: the first of the usual length. Bars are aligned by their
chords (Needleman and Wunsch, "A general method applicable to the search for similarities in the amino acid sequence
of two proteins", J. Mol. Biol. 48, 1970): a bar may be added, missing, or have other chords. Differences are told against the model. Conventions: bars by index; a pass is a section's index.
"""

from __future__ import annotations

from bisect import bisect_left
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from ..theory.chord import Chord
from ..tongue import tr, trn
from .grid import Position
from .model import Song
from .words import bars_text, beats_text, steps_text

GAP = 0.55  # what an added or missing bar costs, against 1 for a bar in which nothing is the same
BOTH = 1.0  # by how much less other bars must be for one to be missing and another one added for it
KINDS = ("chord", "bass", "timing", "added", "missing", "strum", "sound", "pitch", "part")
WHOLE = ("pitch", "part")  # kinds that speak of the pass, not of a bar
PART = 0.6  # of the longest pass: a shorter one is only a part of the music
MOVED = 0.2  # by how much more of the bars must agree before a pass counts as transposed


@dataclass(frozen=True)
class Difference:
    """What is other in a pass than in the model, in words. ``bar`` is the pass's bar (None where one is
    missing), ``twin`` the model's (None where one is added), ``sure`` a probability."""

    kind: str
    section: int
    bar: int | None
    twin: int | None
    words: str
    sure: float = 1.0


@dataclass(frozen=True)
class Pass:
    """A pass aligned with the model: pairs of (bar of the model or None, own bar or None) in order. ``perhaps`` are differences
    that are not sure enough to be told."""

    section: int
    pairs: tuple[tuple[int | None, int | None], ...]
    differences: tuple[Difference, ...]
    up: int = 0  # semitones that it is higher than the model
    model: bool = False
    perhaps: tuple[Difference, ...] = ()


def bars_of(song: Song, section: int) -> range:
    """The bars of a section."""
    return song.section_bars(section)


def content(song: Song, bar: int) -> list[tuple[Position, Position, int]]:
    """Chords of a bar as (offset, length in beats, index of the chord)."""
    start, end = song.grid.bar_range(bar)
    indexes, starts = _of_bar(song, bar), song.chord_starts
    edges = [max(start, starts[indexes[0]]), *(starts[i] for i in indexes[1:]), end]
    return [(a - start, b - a, i) for i, (a, b) in zip(indexes, pairwise(edges), strict=True)]


def _of_bar(song: Song, bar: int) -> range:
    """Indexes of the chords that sound in a bar, at least one."""
    first, floats = song.chords.index_at(song.grid.starts[bar]), song.chords.floats
    return range(first, bisect_left(floats, song.grid.starts[bar + 1], first + 1))


def _close(a: Chord, b: Chord) -> float:
    """How alike two chords are: 1 the same, less for another bass, quality or root."""
    if a == b:
        return 1.0
    if a.root is None or b.root is None or a.root != b.root:
        return 0.3 if a.pitch_classes and a.pitch_classes == b.pitch_classes else 0.0
    return 0.85 if a.intervals == b.intervals else 0.7


_Flat = tuple[tuple[float, float, Chord], ...]  # chords of a bar from beat to beat
_Places = tuple[int | None, int | None]  # of a bar in either of two stretches, None where it has no counterpart


def _flat(song: Song, bar: int) -> _Flat:
    start, end = song.grid.starts[bar], song.grid.starts[bar + 1]
    indexes, floats = _of_bar(song, bar), song.chords.floats
    edges = [0.0, *(floats[i] - start for i in indexes[1:]), float(end - start)]
    return tuple((a, b, song.chords[i].chord) for i, (a, b) in zip(indexes, pairwise(edges), strict=True))


@lru_cache(maxsize=1 << 16)  # bars repeat, and of a song that was said something of only few are new
def _likeness(one: _Flat, two: _Flat, up: int) -> float:
    length = max(one[-1][1], two[-1][1])
    total = 0.0
    for a, b, first in one:
        moved = first.transposed(up) if up else first
        for c, d, second in two:
            both = min(b, d) - max(a, c)
            if both > 0:
                total += both * _close(moved, second)
    return total / length


def alike(song: Song, one: int, two: int, up: int = 0) -> float:
    """Share of two bars' time in which they have the same chords, the second ``up`` semitones higher."""
    return _likeness(_flat(song, one), _flat(song, two), up)


def align(song: Song, one: range, two: range, up: int = 0) -> list[tuple[int | None, int | None]]:
    """Bars of two stretches side by side, in order, with None where one has no counterpart."""
    pairs = _aligned(tuple(_flat(song, b) for b in one), tuple(_flat(song, b) for b in two), up)
    return [(None if i is None else one[i], None if j is None else two[j]) for i, j in pairs]


@lru_cache(maxsize=1 << 10)  # of a song that was said something of few stretches are new
def _aligned(first: tuple[_Flat, ...], second: tuple[_Flat, ...], up: int) -> tuple[_Places, ...]:
    n, m = len(first), len(second)
    pair = [[1 - _likeness(x, y, up) for y in second] for x in first]
    cost = [[GAP * (i + j) if not i or not j else 0.0 for j in range(m + 1)] for i in range(n + 1)]
    for i in range(1, n + 1):
        for j in range(1, m + 1):
            cost[i][j] = min(cost[i - 1][j - 1] + pair[i - 1][j - 1], cost[i - 1][j] + GAP, cost[i][j - 1] + GAP)
    out: list[_Places] = []
    i, j = n, m
    while i or j:
        if i and j and abs(cost[i][j] - (cost[i - 1][j - 1] + pair[i - 1][j - 1])) < 1e-9:
            i, j = i - 1, j - 1
            out.append((i, j))
        elif i and abs(cost[i][j] - (cost[i - 1][j] + GAP)) < 1e-9:
            i -= 1
            out.append((i, None))
        else:
            j -= 1
            out.append((None, j))
    return tuple(_evened(out[::-1], pair))


def _evened(pairs: list[_Places], other: list[list[float]]) -> list[_Places]:
    """Where as many bars are missing as are added soon after, or before, bars side by side, each with other chords, unless those
    are more other than it is worth: who reads “missing, other, added” looks for a bar that nobody left out."""
    out: list[_Places] = []
    k = 0
    while k < len(pairs):
        end = _even_again(pairs, k)
        if end is not None:
            run = pairs[k:end]
            one, two = [i for i, _ in run if i is not None], [j for _, j in run if j is not None]
            as_found = sum(GAP if i is None or j is None else other[i][j] for i, j in run)
            if sum(other[i][j] for i, j in zip(one, two, strict=True)) <= as_found + BOTH:
                out += zip(one, two, strict=True)
                k = end
                continue
        out.append(pairs[k])
        k += 1
    return out


def _even_again(pairs: list[_Places], start: int) -> int | None:
    """Where as many bars were added as are missing again, from the first of either on; None if that is never, or at no such bar."""
    ahead = 0
    for k in range(start, len(pairs)):
        ahead += (pairs[k][0] is None) - (pairs[k][1] is None)
        if ahead == 0:
            return k + 1 if k > start else None
    return None


def twin_bars(song: Song, section: int) -> dict[int, list[tuple[int, int]]]:
    """For each bar of a section the bars at its place in the other passes, with the semitones they are higher."""
    mine = bars_of(song, section)
    out: dict[int, list[tuple[int, int]]] = {bar: [] for bar in mine}
    for other in same_material(song, section):
        theirs = bars_of(song, other)
        if other != section and len(theirs) and len(mine):
            up = _moved(song, mine, theirs)
            for one, two in align(song, mine, theirs, up):
                if one is not None and two is not None:
                    out[one].append((two, up))
    return out


def same_material(song: Song, section: int) -> list[int]:
    """All passes of a section's music, itself included."""
    mine = song.sections[section]
    return [
        i for i, s in enumerate(song.sections)
        if (s.material == mine.material if mine.material else s.name == mine.name)
    ]  # fmt: skip


def other_musics(song: Song, section: int) -> list[int]:
    """Sections that a section could be the same as: one for each other music."""
    mine = set(same_material(song, section))
    seen: dict[str, int] = {}
    for i, s in enumerate(song.sections):
        if i not in mine:
            seen.setdefault(s.material or s.name, i)
    return list(seen.values())


def musics(song: Song) -> list[int]:
    """The first section of each music, in order."""
    return [i for i in range(len(song.sections)) if same_material(song, i)[0] == i]


Sure = Callable[[int, int, int], float]
Heard = Callable[[int, int, int], tuple[str, str, float] | None]


def model_of(song: Song, group: list[int]) -> int:
    """The section, of those of one music, that the others are compared with."""
    lengths = {i: len(bars_of(song, i)) for i in group}
    whole = [i for i in group if lengths[i] > PART * max(lengths.values())]
    times = Counter(lengths[i] for i in whole)
    return max(whole, key=lambda i: times[lengths[i]], default=group[0])  # a section of lead-in bars has none


def passes(song: Song, section: int, sure: Sure | None = None, heard: Heard | None = None) -> list[Pass]:
    """Every pass of a section, in order, aligned with their model.

    ``sure(bar, twin, up)`` is the probability that two bars have other chords, the first ``up`` semitones higher;
    ``heard`` tells what differs in the sound of bars with the same chords: (kind, words, how sure) or None.
    """
    group = same_material(song, section)
    model = model_of(song, group)
    bars = bars_of(song, model)
    out: list[Pass] = []
    for other in group:
        if other == model:
            out.append(Pass(model, tuple((b, b) for b in bars), (), model=True))
            continue
        own = bars_of(song, other)
        up = _moved(song, bars, own)
        pairs = align(song, bars, own, up)
        out.append(Pass(other, tuple(pairs), tuple(_told(song, other, pairs, up, sure, heard)), up))
    return out


def differing_bars(song: Song) -> frozenset[int]:
    """Bars in which a pass is other than its model, as the chart stands; also those that a pass adds."""
    out: set[int] = set()
    for first in musics(song):
        out |= {d.bar for p in passes(song, first) for d in p.differences if d.bar is not None and d.kind not in WHOLE}
    return frozenset(out)


def _told(
    song: Song,
    section: int,
    pairs: list[tuple[int | None, int | None]],
    up: int,
    sure: Sure | None,
    heard: Heard | None,
) -> list[Difference]:
    """All that differs in an aligned pass, in order."""
    bars = [bar for _, bar in pairs if bar is not None]
    there = [twin for twin, _ in pairs if twin is not None]
    found: list[Difference] = []
    if not bars or not there:
        return found
    if up:
        steps = up if up <= 6 else up - 12
        words = tr("all of it is {steps}", steps=steps_text(steps))
        found.append(Difference("pitch", section, bars[0], there[0], words))
    partial = len(bars) <= PART * len(there)
    if partial:
        both = [twin for twin, bar in pairs if twin is not None and bar is not None]
        if both:
            words = tr("only a part: {bars}", bars=bars_text(song.grid, both[0], both[-1]))
            found.append(Difference("part", section, bars[0], both[0], words))
    k = 0
    while k < len(pairs):
        twin, bar = pairs[k]
        run = k + 1
        while (twin is None or bar is None) and run < len(pairs) and (pairs[run][0] is None) == (twin is None) and (pairs[run][1] is None) == (bar is None):  # fmt: skip
            run += 1
        if bar is not None and twin is not None:
            found += _differences(song, section, twin, bar, sure, heard, up)
        elif not (bar is None and partial) and not _rings_out(song, pairs[k:run]):
            found.append(_gap(song, section, pairs[k:run]))
        k = run
    return found


def _rings_out(song: Song, run: list[tuple[int | None, int | None]]) -> bool:
    """Whether bars that a pass adds are only the rest of the record, less than a bar."""
    last = song.grid.bars[-1]
    return len(run) == 1 and run[0][1] == len(song.grid.bars) - 1 and last.beats < last.meter.beats


def _moved(song: Song, one: range, two: range) -> int:
    """Semitones by which a stretch is higher than another; 0 unless a transposition fits much better."""

    first, second = [_flat(song, b) for b in one], [_flat(song, b) for b in two]

    def fit(up: int) -> float:
        length = min(len(one), len(two))
        starts = sum(_likeness(first[k], second[k], up) for k in range(length))
        ends = sum(_likeness(first[-1 - k], second[-1 - k], up) for k in range(length))
        return max(starts, ends) / max(1, length)

    plain = fit(0)
    if plain > 0.8:
        return 0
    best = max(range(1, 12), key=fit)
    return best if fit(best) > plain + MOVED else 0


def _gap(song: Song, section: int, run: list[tuple[int | None, int | None]]) -> Difference:
    """Bars that are missing or added, one or more in a row."""
    missing = run[0][1] is None
    bars = [b for b in (pair[0 if missing else 1] for pair in run) if b is not None]
    which = bars_text(song.grid, bars[0], bars[-1])
    if missing:
        words = trn("{bars} is missing", "{bars} are missing", len(bars), bars=which)
        return Difference("missing", section, None, bars[0], words)
    words = (
        trn("{bars} is added: ", "{bars} are added: ", len(bars), bars=which)
        + " | ".join(names(song, b) for b in bars[:4])
        + (" …" if len(bars) > 4 else "")
    )
    return Difference("added", section, bars[0], None, words)


def _differences(
    song: Song,
    section: int,
    twin: int,
    bar: int,
    sure: Sure | None,
    heard: Heard | None,
    up: int = 0,
) -> list[Difference]:
    number = song.grid.number
    mine, theirs = content(song, bar), content(song, twin)
    here = [song.chords[i].chord for _, _, i in mine]
    there = [song.chords[i].chord.transposed(up) for _, _, i in theirs]
    chance = sure(bar, twin, up) if sure is not None else 1.0
    place = tr("bar {number}", number=number(bar))
    if song.grid.bars[bar].beats != song.grid.bars[twin].beats:
        count = song.grid.bars[bar].beats
        words = tr(
            "{place} has {beats}, not {beats2}", place=place, beats=beats_text(count), beats2=song.grid.bars[twin].beats
        )
        return [Difference("timing", section, bar, twin, words, chance)]
    if here != there:
        plain = [c.over(None) for c in here] == [c.over(None) for c in there]
        words = tr(
            "{place}: {names} instead of {names2}",
            place=place,
            names=names(song, bar),
            names2=names(song, twin, up, bar),
        )
        return [Difference("bass" if plain else "chord", section, bar, twin, words, chance)]
    if [(a, b) for a, b, _ in mine] != [(a, b) for a, b, _ in theirs]:
        shift = next(x - y for (x, _, _), (y, _, _) in zip(mine, theirs, strict=True) if x != y)
        word = tr("earlier") if shift < 0 else tr("later")
        beats = f"{abs(float(shift)):g} {trn('beat', 'beats', abs(float(shift)))}"
        return [
            Difference(
                "timing",
                section,
                bar,
                twin,
                tr("{place}: the change comes {beats} {word}", place=place, beats=beats, word=word),
                chance,
            )
        ]
    if [song.chords[i].articulation for _, _, i in mine] != [song.chords[i].articulation for _, _, i in theirs]:
        words = tr(
            "{place}: {names} instead of {names2}",
            place=place,
            names=names(song, bar),
            names2=names(song, twin, up, bar),
        )
        return [Difference("strum", section, bar, twin, words)]
    found = heard(bar, twin, up) if heard is not None else None
    return [Difference(found[0], section, bar, twin, f"{place}: {found[1]}", found[2])] if found else []


def names(song: Song, bar: int, up: int = 0, at: int | None = None) -> str:
    """The chords of a bar as they are shown, as ``C  G/B``, or as they are ``up`` semitones higher in bar ``at``."""
    place = song.grid.bar_range(bar if at is None else at)[0]
    return "  ".join(
        (song.name_of(song.chords[i].chord.transposed(up), place) if up else song.chord_name(i)) + song.sign(i)
        for _, _, i in content(song, bar)
    )
