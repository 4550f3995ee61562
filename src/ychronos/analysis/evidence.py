"""All that later decisions need of a recording, gathered once and kept.

Evidence depends on the recording alone, never on decisions, so it is cached by the recording's content hash
and :data:`VERSION`; every decision can be made again from it in a moment.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import os
from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import cache, cached_property
from pathlib import Path

import numpy as np

from ..audio.breadth import WIDTH as BREADTH_WIDTH
from ..audio.decode import Cancelled
from ..audio.recording import SILENCE, Recording
from ..tongue import tr
from . import hum, net, singing, spectra, tuning
from .attacks import onsets
from .beats import pulsenet
from .beats.bars import ChordChanges
from .chords import chordnet, notes
from .form import sections
from .kept import Kept, is_large
from .spectra import PITCH_RATE, Array

VERSION = 13  # raise it when anything that makes evidence changes
WEIGHTS = (*(name for name, *_ in (*pulsenet.NETS, *chordnet.NETS)), "singing")  # nets that make evidence
SHORTEST = 4.0  # seconds that a recording must last to be analysed
SHAPES = {  # the width of each array; None where there is one number a frame
    "tuning_histogram": None, "tuning_drift": 2, "bands": 60, "notes": 84, "beat": None, "bar": None, "period": 40,
    "meter": 13, "chord": 373, "bass": 13, "pitch_classes": 12, "voices": 2, "breadth": BREADTH_WIDTH,
}  # fmt: skip
LOG = logging.getLogger("ychronos.evidence")
CACHE_LIMIT = 400 << 20  # bytes kept in the cache folder
Progress = Callable[[str, float], None]


class AnalysisError(Exception):
    """A recording that cannot be analysed; the text is one sentence for the user."""


@dataclass(frozen=True)
class Evidence:
    """Arrays by frame; see the modules they come from. All float16 but the histogram."""

    cents: float
    tuning_confidence: float
    tuning_histogram: Array
    tuning_drift: Array
    bands: Array
    notes: Array
    beat: Array
    bar: Array
    period: Array
    meter: Array
    chord: Array
    bass: Array
    pitch_classes: Array
    voices: Array  # (T / 2 of bands, 2): chances that somebody sings, that others play
    breadth: Array  # (frames, 12): where in the stereo picture what begins lies; no frame of a recording in mono

    @cached_property
    def kept(self) -> Kept:
        """Answers that are kept between one decision and the next."""
        return Kept()

    @cached_property
    def pulse(self) -> pulsenet.PulseEvidence:
        beat, bar, period, meter = (np.asarray(a, np.float32) for a in (self.beat, self.bar, self.period, self.meter))
        return pulsenet.PulseEvidence(beat, bar, period, meter, begun=onsets(self.bands))

    @cached_property
    def harmony(self) -> chordnet.HarmonyEvidence:
        chord, bass, notes_ = (np.asarray(a, np.float32) for a in (self.chord, self.bass, self.pitch_classes))
        return chordnet.HarmonyEvidence(chord, bass, notes_)

    @cached_property
    def form(self) -> sections.Frames:
        return sections.frames(self.bands.astype(np.float32), self.notes.astype(np.float32))

    def named(self, cents: float) -> Evidence:
        """The same, heard by a player who has A at so many cents from 440 Hz: a half step of names for every hundred away from
        where it was found."""
        steps = round((self.cents - cents) / 100)
        return self if not steps else self.kept.get("named", steps, lambda: self._named(steps))

    def _named(self, steps: int) -> Evidence:
        notes_, chord = np.zeros_like(self.notes), self.chord.copy()
        inside = slice(max(0, steps), min(0, steps) or None), slice(max(0, -steps), min(0, -steps) or None)
        notes_[:, inside[0]] = self.notes[:, inside[1]]
        for first in range(0, chord.shape[1] - 1, 12):  # numbered quality * 12 + root, then none
            chord[:, first : first + 12] = np.roll(self.chord[:, first : first + 12], steps, axis=1)
        bass = self.bass.copy()
        bass[:, :12] = np.roll(self.bass[:, :12], steps, axis=1)
        sounding = np.roll(self.pitch_classes, steps, axis=1)
        cents = self.cents - 100 * steps
        return replace(self, cents=cents, notes=notes_, chord=chord, bass=bass, pitch_classes=sounding)

    @property
    def changes(self) -> ChordChanges:
        keep = 0 if is_large(self.harmony.chord) else 1
        return self.kept.get("changes", None, lambda: ChordChanges(self.harmony), keep)


def check_usable(recording: Recording) -> None:
    """Raise :class:`AnalysisError` for a recording in which there is nothing to find."""
    if recording.silent:
        raise AnalysisError(tr("The recording is silent from beginning to end, so there is nothing to analyse."))
    if recording.duration < SHORTEST:
        raise AnalysisError(
            tr(
                "The recording lasts {duration:.1f} s; at least {shortest:.0f} s are needed to find a count.",
                duration=recording.duration,
                shortest=SHORTEST,
            )
        )


def gather(
    recording: Recording, progress: Progress = lambda *_: None, cancelled: Callable[[], bool] = lambda: False
) -> Evidence:
    """Compute the evidence of a recording.

    Raises
    ------
    AnalysisError
        for a silent or very short recording.
    Cancelled
        when ``cancelled()`` became true.
    """
    check_usable(recording)

    def stage(name: str, first: float, last: float) -> Callable[[float], None]:
        def tick(share: float) -> None:
            if cancelled():
                raise Cancelled
            progress(name, first + (last - first) * share)

        tick(0.0)
        return tick

    signal = recording.mono
    peak = float(np.abs(recording.peaks).max())
    if peak < 0.05:  # a very quiet transfer: bring it up, so that floors mean the same for it
        signal = signal * (0.5 / max(peak, SILENCE))
    found = tuning.estimate(signal, stage(tr("Finding where A is"), 0.0, 0.12))
    bands = spectra.bands(signal, stage(tr("Listening for attacks"), 0.12, 0.3))
    frames = np.arange(len(signal) // spectra.PITCH_HOP + 1)
    tuned = found.over(frames / PITCH_RATE)
    pitch = hum.removed(spectra.pitch(signal, tuned, stage(tr("Listening for notes"), 0.3, 0.55)), found.cents)
    amounts = notes.activations(pitch, stage(tr("Listening for notes"), 0.55, 0.65))
    stage(tr("Feeling the pulse"), 0.65, 0.75)(0.0)
    pulse = pulsenet.run(bands, amounts)
    stage(tr("Listening for chords"), 0.75, 1.0)(0.0)
    harmony = chordnet.run(pitch)
    stage(tr("Listening for chords"), 0.99, 1.0)(1.0)
    voices = singing.run(bands)
    voices[:, 1] = singing.others(voices[:, 1], harmony.notes, PITCH_RATE)
    half = np.float16
    return Evidence(
        cents=found.cents,
        tuning_confidence=found.confidence,
        tuning_histogram=found.histogram.astype(np.float32),
        tuning_drift=found.drift.astype(np.float32),
        bands=np.minimum(bands, 6e4).astype(half),
        notes=np.minimum(amounts, 6e4).astype(half),
        beat=pulse.beat.astype(half),
        bar=pulse.bar.astype(half),
        period=pulse.period.astype(half),
        meter=pulse.meter.astype(half),
        chord=np.maximum(singing.hushed(harmony.chord, PITCH_RATE, voices[:, 1]), -60).astype(half),
        bass=np.maximum(harmony.bass, -60).astype(half),
        pitch_classes=np.clip(harmony.notes, -60, 60).astype(half),
        voices=voices.astype(half),
        breadth=recording.breadth.astype(half),
    )


# ---------------------------------------------------------------- the cache


@cache
def _mark() -> str:
    """What evidence depends on besides the recording: the version of the code and the weights of the nets."""
    digest = hashlib.sha256()
    for name in WEIGHTS:
        digest.update(net.weights_bytes(name))
    return f"{VERSION}-{digest.hexdigest()[:12]}"


def _place(folder: Path, sha256: str) -> Path:
    return folder / f"{sha256}-{_mark()}.npz"


def evidence_of(
    recording: Recording,
    folder: Path | None,
    progress: Progress = lambda *_: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Evidence:
    """The evidence of a recording: kept earlier in a folder, or gathered now and kept there; see :func:`gather` for
    what it raises."""
    found = cached(folder, recording.sha256)
    if found is None:
        found = gather(recording, progress, cancelled)
        keep(folder, recording.sha256, found)
    return found


def cached(folder: Path | None, sha256: str) -> Evidence | None:
    """Evidence kept earlier for a recording, or None; a damaged entry counts as none."""
    if folder is None or not sha256:
        return None
    path = _place(folder, sha256)
    try:
        with np.load(path) as data:
            values = {f.name: data[f.name] for f in fields(Evidence)}
        os.utime(path)
        for name in ("cents", "tuning_confidence"):
            values[name] = float(values[name])
        found = Evidence(**values)
        _check(found)
    except Exception as error:  # whatever is wrong with an entry: it is gathered again
        LOG.info("evidence that was kept cannot be used: %s", error)
        return None
    return found


def _check(evidence: Evidence) -> None:
    """Whether kept evidence can be what was kept: raises ValueError when its shapes or numbers cannot."""
    frames, steps = len(evidence.beat), len(evidence.notes)
    for name, width in SHAPES.items():
        array = getattr(evidence, name)
        rows = {
            "beat": frames,
            "bar": frames,
            "period": frames,
            "meter": frames,
            "bands": frames,
            "voices": frames // 2,
        }.get(name, steps)
        expected = () if width is None else (width,)
        may_lack = name == "breadth"  # of a recording in mono
        if may_lack or name.startswith("tuning"):
            rows = len(array) if array.ndim else -1
        if array.shape != (rows, *expected) or not (rows or may_lack) or array.dtype.kind != "f":
            raise ValueError(f"{name} has the shape {array.shape} and type {array.dtype}")
        if not np.isfinite(array).all():
            raise ValueError(f"{name} is not finite")
    if not np.isfinite([evidence.cents, evidence.tuning_confidence]).all():
        raise ValueError("the tuning is not finite")


def keep(folder: Path | None, sha256: str, evidence: Evidence) -> None:
    """Keep evidence; the longest unused entries go when the folder grows too large. A full or read-only
    disk only means that nothing is kept."""
    if folder is None or not sha256:
        return
    path = _place(folder, sha256)
    part = path.with_suffix(f".{os.getpid()}.part")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with open(part, "wb") as file:
            np.savez(file, **{f.name: getattr(evidence, f.name) for f in fields(Evidence)})
        os.replace(part, path)
        entries = sorted(folder.glob("*.npz"), key=lambda p: p.stat().st_mtime, reverse=True)
        total = 0
        for entry in entries:
            total += entry.stat().st_size
            if total > CACHE_LIMIT and entry != path:
                entry.unlink(missing_ok=True)
    except OSError as error:
        LOG.info("evidence is not kept: %s", error)
        with contextlib.suppress(OSError):
            part.unlink()
