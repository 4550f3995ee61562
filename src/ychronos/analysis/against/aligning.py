"""A chart that somebody else wrote laid against the record: which of its bars is played when, and how well they agree.

Task: bars of a chart, written in some key, perhaps as shapes under a capo, with repeats folded or bars missing, against the
bars of a song as they were counted. Method: a hidden Markov chain walks over the song's bars; its states are the chart's bars
and, between them, stretches that the chart does not have. Going on to the next bar is free, leaving a bar out, staying, and going
back to where a section begins have their prices; so repeats that the chart does not spell out, bars too many and too few are
found by themselves (Viterbi; as in score following, Dannenberg, "An on-line algorithm for real-time accompaniment", 1984).
How well a bar fits is what the sound says for its chords (:mod:`..chords.harmony`), or the song's own chords where no sound
is at hand. All twelve transpositions are tried, and charts whose bars are half or twice as long.
Conventions: a transposition is how many semitones the record sounds above the chart as written.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ...song.handed import HandedChart
from ...song.model import Song
from ...theory.chord import Chord
from ..chords import harmony
from ..chords.agreement import likely_right
from ..chords.chordnet import CHORDS
from ..evidence import Evidence

Floats = NDArray[np.float64]
SLOTS = 8  # parts of a bar that are compared
TEMPERATURE = 2.5  # of the sound's log odds: frames beside each other are no independent witnesses
WORST = -4.0  # a part of a bar counts no less
ABSENT = -1.7  # a bar of the song that the chart has not
SKIP, STAY, REPEAT, JUMP, LEAVE = 3.0, 3.0, 2.5, 7.0, 2.5  # prices
SIMPLER = 0.45  # how much less a chord fits that is only a simpler name of what sounds
AGREES, CLEARLY = 0.2, 0.3  # of a bar below which it is doubted; and how much better ours agrees then
HALF_AS_LONG = 1.5  # price a bar for charts that are written in other bars than the song is counted in
N = len(CHORDS)
OURS, NEAR, FAR = 0.0, -0.7, -3.0  # log odds of chords where only the song's own are known


@dataclass(frozen=True)
class Played:
    """A bar of the chart as it is played: its ``number`` and ``section`` in the chart, the song's positions, their chords as
    they sound, ours, how well each agrees with the sound (0 .. 1), and whether theirs are ours but for details."""

    number: int
    section: str
    start: Fraction
    end: Fraction
    theirs: tuple[tuple[Fraction, Chord], ...]
    ours: tuple[tuple[Fraction, Chord], ...]
    agreement: float
    our_agreement: float
    same: bool

    @property
    def likely(self) -> float:
        """How probable it is that their chords are right here."""
        return likely_right(self.agreement)


@dataclass(frozen=True)
class Against:
    """``transposition`` from the chart to the record; ``agreement`` the mean over its bars; ``missing`` are (from, to)
    positions of the song that the chart has not, ``extra`` numbers of bars of the chart that are not played."""

    transposition: int
    agreement: float
    bars: tuple[Played, ...]
    missing: tuple[tuple[Fraction, Fraction], ...]
    extra: tuple[int, ...]

    @property
    def likely(self) -> float:
        """Share of the time that is played in which the chart is probably right."""
        long = [float(b.end - b.start) for b in self.bars]
        return sum(b.likely * x for b, x in zip(self.bars, long, strict=True)) / sum(long) if sum(long) else 0.0

    @property
    def doubtful(self) -> list[Played]:
        """Bars where the sound rather says what we have, the clearest first. A bar that is played several times is doubted
        as a whole."""
        found = []
        for number in dict.fromkeys(b.number for b in self.bars):
            times = [b for b in self.bars if b.number == number]
            theirs = float(np.mean([b.agreement for b in times]))
            ours = float(np.mean([b.our_agreement for b in times]))
            if theirs < min(AGREES, ours - CLEARLY) and sum(not b.same for b in times) * 2 > len(times):
                found.append((theirs, min(times, key=lambda b: b.agreement)))
        return [b for _, b in sorted(found, key=lambda x: x[0])]


def _index(chord: Chord) -> int:
    near = harmony.heard_as(chord)
    return CHORDS.index(near.over(None) if near.root is not None else near)


def _edges(song: Song, length: Fraction) -> list[tuple[Fraction, Fraction]]:
    """The song's units: its bars, halves of them, or pairs; ``length`` in bars."""
    grid = song.grid
    bars = [grid.bar_range(i) for i in range(grid.lead_in, len(grid.bars))]
    if length == 1:
        return bars
    if length < 1:
        out = []
        for a, b in bars:
            middle = a + (b - a) / 2
            out += [(a, middle), (middle, b)]
        return out
    return [(bars[i][0], bars[min(i + 1, len(bars) - 1)][1]) for i in range(0, len(bars), 2)]


def _sound(song: Song, evidence: Evidence | None, units: Sequence[tuple[Fraction, Fraction]]) -> Floats:
    """(units, SLOTS, N) how likely each chord is in each part of a unit, 0 for the likeliest."""
    if evidence is not None:
        places = [a + (b - a) * s / SLOTS for a, b in units for s in range(SLOTS)]
        edges = np.array([song.grid.clock(p) for p in (*places, units[-1][1])])
        plain = harmony.plain_scores(evidence.harmony, edges)
        plain = (plain - plain.max(1, keepdims=True)) / TEMPERATURE
        return _softened(np.asarray(np.maximum(plain, WORST)).reshape(len(units), SLOTS, N))
    out = np.full((len(units), SLOTS, N), FAR)
    for u, (a, b) in enumerate(units):
        for s in range(SLOTS):
            here = song.chords[song.chord_index(a + (b - a) * s / SLOTS)].chord
            for n, chord in enumerate(CHORDS):
                if chord.root == here.root:
                    minor = 3 in chord.intervals
                    out[u, s, n] = NEAR if minor == (3 in here.intervals) else FAR / 2
            out[u, s, _index(here)] = OURS
    return out


def _slots(chords: Sequence[tuple[Fraction, Chord]]) -> NDArray[np.int_]:
    """(SLOTS,) the chord of each part of a bar, as numbers; -1 where nobody knows."""
    out = np.full(SLOTS, -1)
    for s in range(SLOTS):
        at = Fraction(s, SLOTS)
        here = [c for start, c in chords if start <= at]
        if here:
            out[s] = _index(here[-1])
    return out


def _families() -> list[NDArray[np.int_]]:
    """Numbers of chords that a simpler chart writes alike: the same root and third."""
    groups: dict[tuple[int | None, int], list[int]] = {}
    for n, c in enumerate(CHORDS):
        third = next((t for t in (4, 3) if t in c.intervals), 0)
        groups.setdefault((c.root, third), []).append(n)
    return [np.array(g) for g in groups.values()]


def _softened(sound: Floats) -> Floats:
    """A chord fits little less well where one fits that it is a simpler name of."""
    out = sound.copy()
    for group in _families():
        best = sound[..., group].max(-1, keepdims=True) - SIMPLER
        out[..., group] = np.maximum(out[..., group], best)
    return out


def _moved(slots: NDArray[np.int_], semitones: int) -> NDArray[np.int_]:
    """The same chords higher: numbers are quality * 12 + root, the last is silence."""
    fixed = (slots < 0) | (slots == N - 1)
    return np.where(fixed, slots, slots // 12 * 12 + (slots % 12 + semitones) % 12)


def _fit(sound: Floats, slots: NDArray[np.int_]) -> Floats:
    """(units, bars) how well each bar of the chart fits each unit of the song, 0 for perfectly."""
    out = np.zeros((len(sound), len(slots)))
    for s in range(SLOTS):
        known = slots[:, s] >= 0
        out[:, known] += sound[:, s, slots[known, s]]
        out[:, ~known] += ABSENT
    return out / SLOTS


def _walk(fit: Floats, opens: Sequence[bool], loose: bool) -> tuple[float, list[int]]:
    """The best walk: for each unit of the song the bar of the chart, or -1 - k where the chart has nothing and goes on with
    bar k. ``loose`` where the chart's bars are single chords of any length."""
    units, bars = fit.shape
    stay = 0.15 if loose else STAY
    skip = 1.5 if loose else SKIP
    begins = np.flatnonzero(np.asarray(opens))
    # states: bars, then gaps before each bar and after the last
    score = np.concatenate([fit[0] - np.minimum(0.5 * SKIP * np.arange(bars), JUMP), np.full(bars + 1, -np.inf)])
    score[bars] = ABSENT  # the song begins before the chart
    back = np.zeros((units, 2 * bars + 1), int)
    for u in range(1, units):
        on, gap = score[:bars], score[bars:]
        best_on = int(on.argmax())
        cand: list[tuple[Floats, NDArray[np.int_]]] = []
        shifted = np.concatenate([[-np.inf], on[:-1]])
        cand.append((shifted, np.arange(bars) - 1))
        cand.append((on - stay, np.arange(bars)))
        for leap, price in ((2, skip), (3, 1.6 * skip), (4, 2.2 * skip)):
            far = np.concatenate([np.full(min(leap, bars), -np.inf), on[: max(0, bars - leap)]])
            cand.append((far - price, np.arange(bars) - leap))
        cand.append((gap[:bars], bars + np.arange(bars)))
        jump = np.full(bars, on[best_on] - JUMP)
        ends = np.concatenate([np.asarray(opens)[1:], [True]])
        last = np.where(ends, on, on - 1.5)
        best_end = int(last.argmax())
        jump[begins] = np.maximum(jump[begins], last[best_end] - REPEAT)
        frm = np.full(bars, best_on)
        frm[begins] = np.where(last[best_end] - REPEAT >= on[best_on] - JUMP, best_end, best_on)
        cand.append((jump, frm))
        stacked = np.stack([c for c, _ in cand])
        which = stacked.argmax(0)
        new_on = stacked[which, np.arange(bars)] + fit[u]
        came_on = np.stack([np.broadcast_to(f, (bars,)) for _, f in cand])[which, np.arange(bars)]
        into = np.concatenate([[-np.inf], on]) - LEAVE  # from bar k to the gap before bar k + 1
        stays = gap >= into
        new_gap = np.where(stays, gap, into) + ABSENT
        came_gap = np.where(stays, bars + np.arange(bars + 1), np.arange(bars + 1) - 1)
        score = np.concatenate([new_on, new_gap])
        back[u] = np.concatenate([came_on, came_gap])
    state = int(score.argmax())
    value = float(score[state])
    path = [state]
    for u in range(units - 1, 0, -1):
        state = int(back[u, state])
        path.append(state)
    path.reverse()
    return value, [p if p < bars else -1 - (p - bars) for p in path]


def lay_against(song: Song, evidence: Evidence | None, chart: HandedChart) -> Against:
    """Lay a chart against a song."""
    bars = chart.sounding()
    slots = np.stack([_slots(b) for b in bars])
    opens = [b.opens or i == 0 for i, b in enumerate(chart.bars)]
    lengths = (Fraction(1), Fraction(1, 2), Fraction(2)) if chart.barred else (Fraction(1, 2), Fraction(1))
    best: tuple[float, int, list[int], list[tuple[Fraction, Fraction]], Floats] | None = None
    for length in lengths:
        units = _edges(song, length)
        if len(units) < 2:
            continue
        sound = _sound(song, evidence, units)
        for semitones in range(12):
            value, path = _walk(_fit(sound, _moved(slots, semitones)), opens, not chart.barred)
            value = value / len(units) - (0.0 if length == lengths[0] else HALF_AS_LONG * 0.1)
            if best is None or value > best[0]:
                best = value, semitones, path, units, sound
    assert best is not None
    _, semitones, path, units, sound = best
    return _told(song, chart, bars, semitones, path, units, sound)


def _told(
    song: Song,
    chart: HandedChart,
    bars: Sequence[tuple[tuple[Fraction, Chord], ...]],
    semitones: int,
    path: Sequence[int],
    units: Sequence[tuple[Fraction, Fraction]],
    sound: Floats,
) -> Against:
    played: list[Played] = []
    missing: list[tuple[Fraction, Fraction]] = []
    u = 0
    while u < len(path):
        k, first = path[u], u
        while u + 1 < len(path) and path[u + 1] == k and (k < 0 or not chart.barred):
            u += 1
        start, end = units[first][0], units[u][1]
        heard = sound[first : u + 1]
        mine = [_our_chords(song, *unit) for unit in units[first : u + 1]]
        u += 1
        if k < 0:
            missing.append((start, end))
            continue
        theirs = tuple((at, c.transposed(semitones)) for at, c in bars[k])
        ours = _our_chords(song, start, end)
        their_fit = _fit(heard, np.stack([_slots(theirs)])).mean()
        our_fit = np.mean([_fit(heard[n : n + 1], _slots(x)[None])[0, 0] for n, x in enumerate(mine)])
        both = [float(np.exp(x)) for x in (their_fit, our_fit)]
        bar = chart.bars[k]
        played.append(Played(bar.number, bar.section, start, end, theirs, ours, both[0], both[1], _alike(theirs, ours)))
    seen = {p.number for p in played}
    extra = tuple(dict.fromkeys(b.number for b in chart.bars if b.number not in seen))
    total = sum((p.end - p.start for p in played), Fraction(0))
    mean = sum(p.agreement * float(p.end - p.start) for p in played) / float(total) if total else 0.0
    return Against(semitones, mean, tuple(played), tuple(missing), extra)


def _our_chords(song: Song, start: Fraction, end: Fraction) -> tuple[tuple[Fraction, Chord], ...]:
    out = []
    for i in range(song.chord_index(start), len(song.chords)):
        at = song.chords[i].start
        if at >= end:
            break
        out.append((max(Fraction(0), (at - start) / (end - start)), song.chords[i].chord))
    return tuple(out)


def _alike(theirs: Sequence[tuple[Fraction, Chord]], ours: Sequence[tuple[Fraction, Chord]]) -> bool:
    """Whether two bars have the same roots and thirds for most of their time."""
    same = 0
    for s in range(SLOTS):
        at = Fraction(s, SLOTS)
        a = [c for x, c in theirs if x <= at]
        b = [c for x, c in ours if x <= at]
        if a and b:
            same += _like(a[-1], b[-1])
        else:
            same += not a and not b
    return same >= 0.7 * SLOTS


def _like(a: Chord, b: Chord) -> bool:
    if a.root != b.root:
        return False
    if a.root is None:
        return True
    thirds = [next((t for t in (4, 3) if t in c.intervals), 0) for c in (a, b)]
    return thirds[0] == thirds[1] or 0 in thirds
