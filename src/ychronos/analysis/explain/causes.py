"""Why a record is where it is: likely causes of its pitch, ranked by what the record itself shows.

Nothing is claimed beyond the evidence: a steady offset between keys speaks for the tape's speed or for a band
that tuned by ear, and pitch alone cannot tell which; notes below the lowest string of a guitar or bass in
standard tuning speak for strings tuned down; a key that is awkward without a capo and easy with one speaks
for a capo. Weights are judgements, not probabilities; only their order is shown.
Conventions: cents from 440 Hz; ``notes`` are activations per semitone from C1 up (see ``notes``).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...guitar.instrument import GuitarSetup
from ...guitar.setups import Choice
from ...theory.key import Key
from ...tongue import tr
from ..spectra import Array

IN_TUNE = 4.0  # cents that nobody hears as out of tune
BY_EAR = 18.0  # cents that a band tuning by ear is off at most, usually
WANDERS = 9.0  # cents between the flattest and the sharpest stretch from which on pitch is not steady
FIRM = 0.7  # probability of a bass that counts
LOWEST = 24  # MIDI note of the first activation
HEARD = 0.4  # share of a capo from which on the record speaks for it
STANDARD_LOW = 28  # E1, a bass's lowest string; E2 = 40 is a guitar's


@dataclass(frozen=True)
class Cause:
    """A possible cause in a sentence; ``weight`` orders them, ``word`` says how likely."""

    sentence: str
    weight: float
    capo: int = 0  # that it speaks of

    @property
    def word(self) -> str:
        return tr("likely") if self.weight >= 0.6 else tr("possible") if self.weight >= 0.3 else tr("less likely")


def speed_percent(cents: float) -> float:
    """How much faster than true, in per cent, a tape runs that sounds so many cents sharp."""
    return float((2 ** (cents / 1200) - 1) * 100)


def below_lowest(notes: Array, bass: Array) -> dict[int, float]:
    """Share of the frames with a firm bass in which it is E♭1, D1, D♭1 or C1, by semitones below E1.

    ``bass`` (T, 13) are log probabilities of the sounding bass. A frame counts where the bass's pitch class is
    firm and its octave below E1 is louder than the one above: drums and neighbouring notes do neither.
    """
    chance = np.asarray(bass, np.float32)
    best = chance.argmax(1)
    count = min(len(notes), len(chance))
    firm = (np.exp(chance[:count].max(1)) > FIRM) & (best[:count] < 12)
    total = int(firm.sum())
    out: dict[int, float] = {}
    for below in range(1, 5):
        midi = STANDARD_LOW - below
        low = np.asarray(notes[:count, midi - LOWEST], np.float32)
        above = np.asarray(notes[:count, midi + 12 - LOWEST], np.float32)
        frames = firm & (best[:count] == midi % 12) & (low > above)
        out[below] = float(frames.sum() / total) if total else 0.0
    return out


def causes(
    cents: float,
    confidence: float,
    drift: NDArray[np.float64],
    notes: Array | None = None,
    bass: Array | None = None,
    key: Key | None = None,
    capos: Sequence[Choice] = (),
) -> list[Cause]:
    """Possible causes, the likeliest first. ``drift`` is (n, 2): seconds and cents; ``capos`` are ranked, the best first."""
    out: list[Cause] = []
    if confidence < 0.15:
        return [Cause(tr("Hardly anything in this record has a steady pitch; where A is cannot be told."), 1.0)]
    spread = float(np.ptp(drift[:, 1])) if len(drift) > 1 else 0.0
    if spread > WANDERS:
        slope = float(drift[-1, 1] - drift[0, 1])
        how = tr("slid from start to end") if abs(slope) > 0.7 * spread else tr("wandered")
        out.append(
            Cause(tr("The pitch {how} by {spread:.0f} ¢: the tape did not run evenly.", how=how, spread=spread), 0.85)
        )
    away = abs(cents)
    if away < IN_TUNE:
        out.append(Cause(tr("Tuned to A = 440 and run at true speed."), 0.9))
    else:
        word = tr("fast") if cents > 0 else tr("slow")
        percent = abs(speed_percent(cents))
        tape = 0.75 if away > BY_EAR else 0.5
        out.append(
            Cause(
                tr(
                    "The tape ran {percent:.1f} % {word}; then the tempo is {percent:.1f} % off as well.",
                    percent=percent,
                    word=word,
                ),
                tape,
            )
        )
        ear = 0.55 if away <= BY_EAR else 0.25
        out.append(
            Cause(
                tr(
                    "The band tuned {away:.0f} ¢ {word}, by ear.",
                    away=away,
                    word=tr("sharp") if cents > 0 else tr("flat"),
                ),
                ear,
            )
        )
    if notes is not None and bass is not None:
        low = below_lowest(notes, bass)
        for below, words in (
            (1, tr("All strings are tuned down a half step: E♭ sounds below the lowest open E.")),
            (2, tr("Strings are tuned down to D, all or the lowest: D sounds below the lowest open E.")),
        ):
            if low[below] > 0.02:
                out.append(Cause(words, min(0.8, 0.4 + 4 * low[below])))
                break
    if key is not None and capos and capos[0].capo:
        best = capos[0]
        shapes = GuitarSetup(capo=best.capo).shape_key(key).name()
        heard = best.heard is not None and best.share >= HEARD
        why = tr("the record speaks for it") if heard else tr("it is easier for the hand")
        words = tr("A capo at fret {capo}, with the shapes of {shapes}: {why}.", capo=best.capo, shapes=shapes, why=why)
        out.append(Cause(words, 0.25 + 0.45 * best.share if heard else 0.3, best.capo))
    return sorted(out, key=lambda c: -c.weight)
