"""What a chart sounds like: its chords as strokes over strings, with a bass under them.

Strokes are placed in beats and turned into notes by shapes that a hand can play; pitches are those of the
record, its tuning offset included, so that the chart can be laid under it. A chord that is held is struck once;
one that is stopped is cut short; others are struck as the figure of the bar says where it is known (:mod:`..song.strumming`), up
strokes from the highest string, and on their beats elsewhere, down with the bass and lighter between.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction

from ..audio.synth.strings import hertz, pluck
from ..audio.synth.voices import Voice
from ..guitar.candidates import candidates, pitches
from ..guitar.instrument import STANDARD
from ..song import strumming
from ..song.grid import Position
from ..song.model import ChordSpan, Song
from ..theory.chord import Chord

STRUM = 0.011  # seconds from string to string
MUTED = 0.05  # seconds that a muted stroke sounds
STRENGTH = {"D": 1.0, "U": 0.85, "d": 0.6, "u": 0.5, "x": 0.35, **dict.fromkeys(strumming.PLUCKS, 0.75)}
STOPPED = Fraction(1, 3)  # beats that a stopped chord sounds
BASS_LOW = 28  # E1


@dataclass(frozen=True)
class Stroke:
    """A chord struck at a time of the record (s) and let go at another; ``fretted`` are its MIDI notes where it is held in
    a shape that is known. ``up`` from the highest string, ``muted`` without ringing; ``pluck`` is one string alone, as figures name it."""

    start: float
    stop: float
    chord: Chord
    strength: float = 1.0
    fretted: tuple[int, ...] = ()
    up: bool = False
    muted: bool = False
    pluck: str = ""


def stroke(start: float, end: float, chord: Chord, letter: str, strength: float, fretted: tuple[int, ...]) -> Stroke:
    """A stroke by its letter in a figure; it rings up to ``end`` (s) unless it is muted."""
    muted = letter == "x"
    one = letter if letter in strumming.PLUCKS else ""
    return Stroke(start, start + MUTED if muted else end, chord, strength, fretted, letter in "Uu", muted, one)


def bass_note(chord: Chord) -> int:
    """MIDI note of a chord's bass on a bass guitar."""
    assert chord.sounding_bass is not None
    return BASS_LOW + (chord.sounding_bass - BASS_LOW) % 12


def notes(chord: Chord) -> list[int]:
    """MIDI notes of a chord as a guitar plays it, from low to high; close above its bass where no hand can."""
    if chord.root is None:
        return []
    found = candidates(chord, STANDARD)
    if found:
        return pitches(found[0].shape, STANDARD)
    low = 48 + (chord.sounding_bass or 0)
    return [low, *sorted(low + 1 + (p - low - 1) % 12 for p in chord.pitch_classes if p != low % 12)]


def held_notes(song: Song, index: int) -> tuple[int, ...]:
    """MIDI notes of a chord as it is held on the song's guitar, at the record's pitch."""
    held, guitar = song.held[index], song.guitar
    if held is None:
        return ()
    return tuple(n - guitar.moved for n in pitches(held.shape, guitar.strings, guitar.capo))


def strokes(song: Song, start: Position, end: Position, instead: Chord | None = None) -> list[Stroke]:
    """The strokes of the chart between two positions; ``instead`` is played for whatever stands there."""
    out: list[Stroke] = []
    grid = song.grid
    for i in range(song.chord_index(start), len(song.chords)):
        a, b = song.chord_range(i)
        if a >= end:
            break
        span = song.chords[i]
        a, b = max(a, start), min(b, end)
        chord = instead or span.chord
        fretted = () if instead is not None else held_notes(song, i)
        if chord.is_none or b <= a:
            continue
        for at, strength, letter in _struck(song, a, b, span):
            until = min(b, at + STOPPED) if span.articulation == "stopped" else b
            out.append(stroke(grid.clock(at), grid.clock(until), chord, letter, strength, fretted))
    return out


def _struck(song: Song, a: Position, b: Position, span: ChordSpan) -> list[tuple[Position, float, str]]:
    """Where a chord is struck, how strongly, and the letter of the stroke."""
    plain = [(at, strength, "D") for at, strength in _beats(song, a, b, span)]
    if span.articulation != "strummed":
        return plain
    grid = song.grid
    out: list[tuple[Position, float, str]] = []
    for bar in range(grid.bar_at(a), len(grid.bars)):
        start, end = grid.bar_range(bar)
        if start >= b:
            break
        text = song.figure_of_bar(bar)
        if text:
            found = strumming.places(text, grid.bars[bar].beats, song.strummed.swing)
            out += [(start + at, STRENGTH[x], x) for at, x in found if a <= start + at < b]
        else:
            out += [p for p in plain if start <= p[0] < end]
    return out or plain[:1]


def _beats(song: Song, a: Position, b: Position, span: ChordSpan) -> Iterable[tuple[Position, float]]:
    """Where a chord is struck and how strongly: at its start, then on each beat, fewer where beats are fast."""
    yield a, 1.0
    if span.articulation != "strummed":
        return
    every = 1 if song.grid.tempo() <= 150 else 2
    beat = Fraction(int(a) + 1)
    while beat < b:
        bar = song.grid.bar_at(beat)
        place = int(beat) - song.grid.starts[bar]
        if place % every == 0 and beat - a >= Fraction(3, 4):
            yield beat, 0.9 if place == 0 else 0.62
        beat += 1


def line_voices(song: Song, rate: int, cents: float, stretch: float = 1.0) -> list[Voice]:
    """The notes of lines, plucked; each rings for as long as it is written."""
    clock = song.grid.clock
    out: list[Voice] = []
    for n in song.line:
        start, stop = clock(n.at) * stretch * rate, clock(min(n.end, song.grid.end)) * stretch * rate
        tone = pluck(rate, hertz(n.value.note, cents), 0.3)
        soft = 0.6 if n.value.sign in ("h", "p") else 0.9
        out.append(Voice(round(start), max(round(start) + 1, round(stop)), tone, soft, -0.2 if n.value.lane else 0.2))
    return out


def plucked(strings: list[int], pluck: str) -> list[int]:
    """The string that is plucked of those that sound, from the lowest; all where none is named."""
    if not pluck or not strings:
        return strings
    return strings[:1] if pluck == "b" or int(pluck) > len(strings) else [strings[-int(pluck)]]


def voices(
    played: Iterable[Stroke], rate: int, cents: float, stretch: float = 1.0, bass_only: bool = False
) -> list[Voice]:
    """Strokes as notes at a rate, on a record that is ``cents`` sharp and played ``stretch`` times as long.

    Every string rings until it is struck again or its chord ends.
    """
    out: list[Voice] = []
    order = sorted(played, key=lambda s: s.start)
    for n, stroke in enumerate(order):
        following = order[n + 1].start if n + 1 < len(order) else stroke.stop
        stop = round(min(stroke.stop, max(following, stroke.start + 0.05)) * stretch * rate)
        start = stroke.start * stretch * rate
        low = pluck(rate, hertz(bass_note(stroke.chord), cents), 0.1)
        if stroke.strength > 0.8:  # the bass speaks where a chord begins and on ones
            end = min(stroke.stop, next((s.start for s in order[n + 1 :] if s.strength > 0.8), stroke.stop))
            out.append(Voice(round(start), round(max(end, stroke.start + 0.1) * stretch * rate), low, 1.3))
        if bass_only:
            continue
        played_notes = plucked(list(stroke.fretted or notes(stroke.chord)), stroke.pluck)
        if stroke.pluck:
            stop = round(stroke.stop * stretch * rate)  # what is plucked rings on under the next string
        for k, (string, midi) in enumerate(sorted(enumerate(played_notes), reverse=stroke.up)):
            sound = pluck(rate, hertz(midi, cents), 0.45)
            at = round(start + k * STRUM * rate)
            out.append(Voice(at, max(stop, at + 1), sound, 0.55 * stroke.strength, -0.25 + 0.1 * string))
    return out
