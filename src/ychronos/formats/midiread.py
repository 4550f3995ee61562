"""A MIDI file as a typed chart: its bars, and in them the chords that it names or that its notes make.

Drums are left out. Where a file has chord names among its texts, those are its chords; else each half bar is the chord whose
notes sound longest in it, a note of the bass counting twice.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import mido  # type: ignore[import-untyped]
import numpy as np
from numpy.typing import NDArray

from ..theory.chord import QUALITIES, Chord
from ..tongue import tr
from .charttext import MOST_BARS, ChartError, read_chord

HEAD = b"MThd"
DRUMS = 9  # channel
MOST_EVENTS = 400_000
FEWEST_NAMES = 3  # chord names among the texts, from which on they are the chart
PER_ROW = 4
_HEARD = {"maj": 0.0, "min": 0.0, "7": -0.04, "maj7": -0.04, "min7": -0.04, "dim": -0.06, "sus4": -0.08, "aug": -0.1}
_STRANGE = 0.7  # what a sounding note that a chord has not costs


@dataclass(frozen=True)
class _Bar:
    start: int  # ticks
    stop: int
    beats: int


@dataclass(frozen=True)
class _Read:
    """Events at ticks from the start."""

    per_quarter: int
    meters: list[tuple[int, int, int]]  # tick, beats, value of a beat
    notes: list[tuple[int, int, int]]  # start, stop, pitch
    texts: list[tuple[int, str]]
    markers: list[tuple[int, str]]
    title: str


def is_midi(data: bytes) -> bool:
    return data[:4] == HEAD


def chart_text(data: bytes) -> str:
    """The chart, four bars in a line, sections by the file's markers.

    Raises
    ------
    ChartError
        with a sentence where the file is damaged or holds no chords.
    """
    found = _read(data)
    bars = _bars(found)
    named = [(tick, chord) for tick, text in found.texts if (chord := read_chord(text)) is not None]
    if len(named) < FEWEST_NAMES:
        named = _heard(found, bars)
    if not any(chord.root is not None for _, chord in named):
        raise ChartError(tr("This MIDI file holds no chords."))
    first, *rest = bars
    if rest and named[0][0] >= first.stop and first.stop - first.start < rest[0].stop - rest[0].start:
        bars = rest  # silence before the music, not a bar of it
    lines = [f"Title: {found.title}"] if found.title else []
    markers = {min(bars, key=lambda b: abs(b.start - tick)).start: name for tick, name in reversed(found.markers)}
    row: list[str] = []
    at, last = 0, ""
    for bar in bars:
        if bar.start in markers or len(row) == PER_ROW:
            lines += [f"| {' | '.join(row)} |"] if row else []
            row = []
        if bar.start in markers:
            lines += ["", f"[{markers[bar.start]}]"]
        tokens = ["."] * bar.beats
        while at < len(named) and named[at][0] < bar.stop:
            share = Fraction(max(0, named[at][0] - bar.start), bar.stop - bar.start)
            last = named[at][1].name().replace("♭", "b").replace("♯", "#") if named[at][1].root is not None else "N.C."
            tokens[min(bar.beats - 1, round(share * bar.beats))] = last
            at += 1
        if tokens[0] == ".":
            tokens[0] = last or "N.C."
        row.append(tokens[0] if all(t == "." for t in tokens[1:]) else " ".join(tokens))
    return "\n".join([*lines, *([f"| {' | '.join(row)} |"] if row else [])]) + "\n"


def _read(data: bytes) -> _Read:
    try:
        file = mido.MidiFile(file=io.BytesIO(data), clip=True)
        tracks = file.tracks
    except (OSError, EOFError, ValueError, IndexError, KeyError, TypeError, AttributeError):
        raise ChartError(tr("This MIDI file is damaged.")) from None
    if sum(len(t) for t in tracks) > MOST_EVENTS:
        raise ChartError(tr("This MIDI file has more than {most_events} events.", most_events=MOST_EVENTS))
    out = _Read(max(1, int(file.ticks_per_beat)), [], [], [], [], "")
    title = ""
    for number, track in enumerate(tracks):
        tick = 0
        sounding: dict[tuple[int, int], int] = {}
        for message in track:
            tick += max(0, int(message.time))
            kind = message.type
            if kind == "time_signature":
                out.meters.append((tick, max(1, min(32, message.numerator)), max(1, message.denominator)))
            elif kind == "marker":
                out.markers.append((tick, " ".join(message.text.split())[:40]))
            elif kind == "text":
                out.texts.append((tick, message.text[:24]))
            elif kind == "track_name" and number == 0:
                title = " ".join(message.name.split())[:80]
            elif kind in ("note_on", "note_off") and message.channel != DRUMS:
                begun = sounding.pop((message.channel, message.note), None)
                if begun is not None and tick > begun:
                    out.notes.append((begun, tick, message.note))
                if kind == "note_on" and message.velocity:
                    sounding[message.channel, message.note] = tick
    out.texts.sort(key=lambda t: t[0])
    return _Read(out.per_quarter, sorted(out.meters), sorted(out.notes), out.texts, sorted(out.markers), title)


def _bars(found: _Read) -> list[_Bar]:
    """Bars up to where the last thing sounds."""
    stop = max([n[1] for n in found.notes] + [t + 1 for t, _ in found.texts], default=0)
    meters = [(0, 4, 4), *found.meters]
    out: list[_Bar] = []
    at = 0
    while at < stop and len(out) < MOST_BARS:
        _, beats, value = [m for m in meters if m[0] <= at][-1]
        beat = max(1, found.per_quarter * 4 // value)
        end = min([at + beat * beats, *(m[0] for m in meters if m[0] > at)])  # a new meter begins a bar
        out.append(_Bar(at, end, max(1, min(beats, round((end - at) / beat)))))
        at = end
    if not out:
        raise ChartError(tr("This MIDI file holds no notes."))
    return out


def _heard(found: _Read, bars: Sequence[_Bar]) -> list[tuple[int, Chord]]:
    """The chords that the notes make, where they change."""
    pieces: list[tuple[int, int]] = []
    for bar in bars:
        half = (bar.stop - bar.start) // 2
        pieces += (
            [(bar.start, bar.start + half), (bar.start + half, bar.stop)]
            if bar.beats % 2 == 0
            else [(bar.start, bar.stop)]
        )
    out: list[tuple[int, Chord]] = []
    first = 0
    for start, stop in pieces:
        while first < len(found.notes) and found.notes[first][1] <= start:
            first += 1
        inside = [n for n in found.notes[first:] if n[0] < stop and n[1] > start] if first < len(found.notes) else []
        chord = _chord(inside, start, stop)
        if chord is not None and (not out or out[-1][1] != chord):
            out.append((start, chord))
    return out


def _chord(notes: Sequence[tuple[int, int, int]], start: int, stop: int) -> Chord | None:
    """The chord whose notes sound longest, None where fewer than two sound."""
    weights: NDArray[np.float64] = np.zeros(12)
    for a, b, pitch in notes:
        weights[pitch % 12] += (min(b, stop) - max(a, start)) / (stop - start)
    if (weights > 0).sum() < 2:
        return None
    low = min(notes, key=lambda n: n[2])[2] % 12
    weights[low] += weights[low]
    weights = np.minimum(weights, 3.0) / np.minimum(weights, 3.0).sum()
    best: tuple[float, Chord] | None = None
    for root in range(12):
        for name, less in _HEARD.items():
            have = [(root + i) % 12 for i in QUALITIES[name].intervals]
            inside = float(weights[have].sum())
            missing = sum(weights[n] < 0.03 for n in have)
            score = inside - _STRANGE * (1 - inside) - 0.12 * missing + (0.12 if root == low else 0.0) + less
            if best is None or score > best[0] + 1e-9:
                best = score, Chord(root, name, None if root == low or low not in have else low)
    return best[1] if best is not None else None
