"""The count: which metrical level people would tap and where bars begin, decided together.

Every window of intervals has its best beat track (``pulse``), and so has a speed twice the quickest; every second
or third beat of a track is a candidate too, in each phase, because off-beats are often played louder than beats;
of a recording made to a click only the points of its one grid are (``click``), and where a click holds for most of it they are, too.
Each candidate gets its bars (``bars``), and the one wins for which beats, length of the beat, bar lines and tempo
together speak most. The weights of that score were fitted on generated songs that the nets had not seen then. Last,
the winner's ends are counted as they are played (``beginning``, ``ending``), and stretches in eighths are found (``levels``).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..spectra import BAND_RATE
from . import bars, beginning, click, ending, fitting, levels, pulse
from .bars import ChordChanges
from .pulsenet import FASTEST, METERS, PERIOD_CLASSES, SLOWEST, PulseEvidence

# of, per second: log odds of the beats, the net's opinion of the beat's length, log odds of the bar lines where they speak for
# the count on the whole, and where against it (then every bar line costs, and a slow count has the fewest);
# of how usual the tempo is for the meter, and how usual the meter; of chord changes that fall on beats, on bar lines, on the
# middle of bars; of how much alike beats one, two and four apart are. Fitted, but for how usual the tempo is: the songs to fit on have
# tempi drawn evenly, people's songs have not.
WEIGHTS = (0.2, 0.34, 6.5, 0.19, 1.0, 0.87, 1.4, 11.1, 4.94, 3.81, -2.79, 7.22)
USUAL = tuple(250.0 if eighth else 76.0 if compound else 116.0 for _, compound, eighth in METERS)
# Order of METERS; natural log, from how often songs are counted so, roughly. 2/4 is rarer than it seems: its bar lines are those of
# a 4/4 twice as fast, so that little else tells them apart.
COMMON = (-4.0, -1.0, 0.0, -2.0, -3.0, -3.5, -0.7, -2.5, -1.0, -3.0, -2.0, -3.0, -4.0)
FOUR = METERS.index((4, False, False))
UNCLEAR = -0.5  # of a meter in quarters at least, where its bar lines are not heard: which one it is is not known then
USUAL_SPREAD = 0.45  # natural log
BEAT_CHANCE = (1.59, 3.07)  # of the activation's log odds, and constant
# Places in a beat where no count is likely to have much more heard than on its beats: by more log odds than BESIDE (true counts: off-beat
# skanks 1.7, all others none), each costs so much.
PLACES, BESIDE, BESIDE_COST = (1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4), 2.0, 10.0
UNHEARD_EIGHTHS = 3.0  # against a count in eighths whose bar lines nobody hears: what any count falls apart into
FEWEST = 8  # beats that make a candidate
SLOWEST_COUNT, FASTEST_COUNT = 36.0, 400.0
SAME = 0.94  # share of common beats from which two candidates are one
LAST_BEAT_FLOOR = 0.08  # activation that a last beat must have
Times = pulse.Times


@dataclass(frozen=True)
class Count:
    """Beat times and their bars."""

    times: Times
    bars: bars.Bars


def trimmed(times: Times, evidence: PulseEvidence, sounding: NDArray[np.bool_] | None = None) -> Times:
    """The beats from the first to the last that somebody plays."""
    if len(times) < 3:
        return times
    strength = bars.at_beats(evidence.beat, times, 3)
    heard = np.ones(len(times), bool) if sounding is None else bars.at_beats(sounding, times, 5) > 0
    first = np.flatnonzero((strength > beginning.FIRST_BEAT_FLOOR) & heard)
    last = np.flatnonzero((strength > LAST_BEAT_FLOOR) & heard)
    if len(first) and len(last) and last[-1] - first[0] >= 2:
        return times[first[0] : last[-1] + 1]
    return times


def tempo_of(times: Times) -> float:
    return 60 / float(np.median(np.diff(times)))


def distances(a: Times, b: Times) -> Times:
    """(len(a),) seconds from each time of ``a`` to the nearest of ``b``; both rise."""
    place = np.clip(np.searchsorted(b, a), 1, len(b) - 1)
    return np.minimum(np.abs(b[place] - a), np.abs(b[place - 1] - a))


def _alike(a: Times, b: Times) -> bool:
    return abs(len(a) - len(b)) <= 5 and float((distances(a, b) < 0.06).mean()) > SAME


def candidates(found: Sequence[Times], steps: Sequence[int] = (2, 3)) -> list[Times]:
    """Tracks, and their every second and third beat (``steps``) in each phase, without repeats."""
    out: list[Times] = []

    def add(times: Times) -> None:
        if (
            len(times) >= FEWEST
            and SLOWEST_COUNT <= tempo_of(times) <= FASTEST_COUNT
            and not any(_alike(times, known) for known in out)
        ):
            out.append(times)

    for times in found:
        add(times)
    for times in found:
        for step in steps:
            for phase in range(step):
                add(times[phase::step])
    return out


def features(
    evidence: PulseEvidence,
    times: Times,
    decided: bars.Bars,
    changes: ChordChanges | None = None,
) -> NDArray[np.float64]:
    """(12,) what speaks for a candidate, in the order of WEIGHTS."""
    seconds, tempo = len(evidence.beat) / BAND_RATE, tempo_of(times)
    gaps = np.diff(times)
    scale = (PERIOD_CLASSES - 1) / np.log(FASTEST / SLOWEST)
    place = np.clip(scale * np.log(60 / gaps / SLOWEST), 0, PERIOD_CLASSES - 1.01)
    low = place.astype(int)
    middle = np.clip(((times[:-1] + times[1:]) * BAND_RATE / 2).astype(int), 0, len(evidence.period) - 1)
    opinion = evidence.period[middle, low] * (1 - (place - low)) + evidence.period[middle, low + 1] * (place - low)
    meter, quarters = decided.usual_meter, _in_quarters(tempo, decided)
    common = max(COMMON[meter], UNCLEAR) if quarters and decided.score < 0 else COMMON[meter]
    usual = USUAL[FOUR] if quarters and METERS[meter][2] else USUAL[meter]
    return np.array(
        [
            bars.log_odds_at(evidence.beat, times, 1, pulse.FLOOR).sum() / seconds,
            float((opinion * gaps).sum()) / seconds,
            max(0.0, decided.score) / seconds,
            min(0.0, decided.score) / seconds,
            -((np.log(tempo / usual) / USUAL_SPREAD) ** 2),
            common,
            *(
                (0.0, 0.0, 0.0)
                if changes is None
                else (
                    fitting.changes_on(changes, times),
                    *fitting.changes_in_bars(changes, times, decided.position),
                )
            ),
            *([0.0] * len(fitting.LAGS) if evidence.begun is None else fitting.alike(evidence.begun, times)),
        ]
    )


def _in_quarters(tempo: float, decided: bars.Bars) -> bool:
    """Whether a candidate is counted in quarters at least. Where its bar lines are not heard, one in eighths may as well be, unless it is
    too quick for that."""
    return not METERS[decided.usual_meter][2] or (decided.score < 0 and tempo <= bars.RANGES[FOUR][1])


def missed(beat: NDArray[np.floating], times: Times) -> float:
    """By how many log odds on the mean the net hears beats more at one place between those of a count than on them, beyond
    :data:`BESIDE`. Where everybody comes in after the beat, what changes and repeats speaks for the off-beat alone."""
    on, gaps = bars.log_odds_at(beat, times, 1, pulse.FLOOR).mean(), np.diff(times)
    between = (bars.log_odds_at(beat, times[:-1] + place * gaps, 1, pulse.FLOOR).mean() for place in PLACES)
    return max(0.0, float(max(between) - on) - BESIDE)


def against(evidence: PulseEvidence, times: Times, decided: bars.Bars) -> float:
    """What speaks against a candidate beside what it lacks: that most is heard beside it, and that it has fallen apart into eighths."""
    apart = decided.score < 0 and not _in_quarters(tempo_of(times), decided)
    return BESIDE_COST * missed(evidence.beat, times) + UNHEARD_EIGHTHS * apart


def beat_chances(beat: NDArray[np.floating], times: Times) -> NDArray[np.float64]:
    """(n,) probability that each beat of a count is where somebody would tap, within 70 ms, by the activation ``beat``; calibrated on songs
    that the net had not seen (error .003)."""
    slope, offset = BEAT_CHANCE
    odds = bars.log_odds_at(beat, times, 1, pulse.FLOOR)
    return np.asarray(1 / (1 + np.exp(-slope * odds - offset)))


@dataclass(frozen=True)
class Weighed:
    """What may be counted, best first: beat times of each candidate, their bars, and which share of belief it has."""

    times: list[Times]
    bars: list[bars.Bars]
    belief: NDArray[np.float64]


def possible(
    evidence: PulseEvidence,
    sounding: NDArray[np.bool_] | None = None,
    tick: Callable[[float], None] = lambda _: None,
) -> list[Times]:
    """What may be counted, at least one: the candidates, or the longest track where none is long enough or has a tempo that people count."""
    found = [trimmed(t.times, evidence, sounding) for t in pulse.tracks(evidence, tick=lambda x: tick(0.6 * x))]
    found.append(trimmed(pulse.quickest(evidence).times, evidence, sounding))
    tick(0.7)
    tempi = [tempo_of(t) for t in found if len(t) >= FEWEST]
    beats, rate = click.beats_of(evidence), evidence.rate
    lines = click.lines(beats, rate, tempi)
    counted = _on_points(evidence, click.grid(beats, rate, lines), sounding)
    if not counted:
        onsets = click.onsets_of(evidence)
        counted = candidates(found)
        for points in (
            click.grid(beats, rate, lines, click.MOSTLY),
            click.grid(onsets, rate, click.lines(onsets, rate, tempi)),
        ):
            counted += [
                t for t in _on_points(evidence, points, sounding) if not any(_alike(t, known) for known in counted)
            ]
    return [beginning.from_the_start(t, evidence, sounding) for t in counted] or [max(found, key=len)]


def _on_points(evidence: PulseEvidence, points: Times | None, sounding: NDArray[np.bool_] | None) -> list[Times]:
    """What may be counted on the points of a grid, nothing where there is none."""
    if points is None:
        return []
    return candidates([click.struck(evidence, trimmed(points, evidence, sounding))], click.STEPS)


def weigh(
    evidence: PulseEvidence,
    changes: ChordChanges | None,
    sounding: NDArray[np.bool_] | None = None,
    tick: Callable[[float], None] = lambda _: None,
) -> Weighed:
    """The candidates for a recording's count and how they compare."""
    rivals = possible(evidence, sounding, tick)
    if len(rivals[0]) < 2:
        return Weighed(rivals, [_nothing(len(rivals[0]))], np.ones(1))
    every = bars.decide_all(evidence, rivals, changes)
    tick(0.9)
    speaks = [features(evidence, t, b, changes) for t, b in zip(rivals, every, strict=True)]
    scores = np.array(speaks) @ np.array(WEIGHTS) - np.array(
        [against(evidence, t, b) for t, b in zip(rivals, every, strict=True)]
    )
    belief = np.exp(scores - scores.max())
    order = np.argsort(-scores)
    tick(1.0)
    return Weighed([rivals[i] for i in order], [every[i] for i in order], belief[order] / belief.sum())


def decide(
    evidence: PulseEvidence,
    changes: ChordChanges | None,
    sounding: NDArray[np.bool_] | None = None,
    tick: Callable[[float], None] = lambda _: None,
) -> Count:
    """The count of a whole recording, nothing stated."""
    return chosen(evidence, weigh(evidence, changes, sounding, tick), changes, sounding)


def chosen(
    evidence: PulseEvidence, weighed: Weighed, changes: ChordChanges | None, sounding: NDArray[np.bool_] | None = None
) -> Count:
    """The count on the best of the candidates."""
    if len(weighed.times[0]) < FEWEST:
        return Count(weighed.times[0], weighed.bars[0])
    return barred(evidence, weighed.times[0], changes, sounding)


def barred(
    evidence: PulseEvidence, times: Times, changes: ChordChanges | None, sounding: NDArray[np.bool_] | None = None
) -> Count:
    """A count on the beats of one candidate: one meter for the song, its beginning and its ending as they are played, stretches in eighths."""
    times, decided = beginning.first_bar(evidence, times, bars.of_song(evidence, times, changes))
    times, decided = ending.decide(evidence, times, decided, changes, sounding)
    return Count(*levels.decide(evidence, times, decided, changes))


def _nothing(count: int) -> bars.Bars:
    return bars.Bars(np.ones(count, int), np.full(count, 2), np.zeros(count))
