"""A figure of the strumming hand by itself, as somebody shows it: slowly, with the count."""

from __future__ import annotations

from ..audio.synth.clicks import LEVELS, PITCHES, tick
from ..audio.synth.voices import Voice
from ..song import strumming
from ..song.model import Song
from . import sound

ROUNDS = 2  # bars


def demonstration(song: Song, bar: int, figure: str, share: float, rate: int, cents: float) -> list[Voice]:
    """A figure for two bars over the chord of a bar, at a share of its speed, with the count as ticks."""
    beats = song.grid.bars[bar].beats
    start, end = song.grid.bar_range(bar)
    beat = (song.grid.clock(end) - song.grid.clock(start)) / beats / max(0.1, share)
    index = next(
        (i for i in range(song.chord_index(start), len(song.chords)) if not song.chords[i].chord.is_none), None
    )
    out: list[Voice] = []
    played: list[sound.Stroke] = []
    for turn in range(ROUNDS):
        begin = turn * beats * beat
        for k in range(beats):
            kind = "one" if k == 0 else "beat"
            frame = round((begin + k * beat) * rate)
            noise = tick(rate, PITCHES[kind])
            out.append(Voice(frame, frame + 2 * len(noise), noise, 0.6 * LEVELS[kind]))
        if index is None:
            continue
        for at, letter in strumming.places(figure, beats, song.strummed.swing):
            when = begin + float(at) * beat
            chord, held = song.chords[index].chord, sound.held_notes(song, index)
            played.append(sound.stroke(when, ROUNDS * beats * beat, chord, letter, sound.STRENGTH[letter], held))
    return out + sound.voices(played, rate, cents)
