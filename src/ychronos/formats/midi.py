"""The chart as a MIDI file that lines up with the recording: tempo map, markers, chords, bass, click.

The file's clock starts with the record: before the first beat stands silence of its length, then every beat is as long as the
band played it. Chords are played as they are held (:mod:`..chart.sound`), the bass as it was heard where it was, at concert pitch.
"""

from __future__ import annotations

import io
from collections.abc import Collection, Iterable
from fractions import Fraction

import mido  # type: ignore[import-untyped]

from ..chart.rows import section_title
from ..chart.sound import bass_note, held_notes, notes
from ..song.grid import Position
from ..song.model import Song
from ..song.noted import PRINTED

TICKS = 960  # of a quarter note
GUITAR, BASS, LEAD = 25, 33, 27  # programs
CLICK_ONE, CLICK = 76, 77  # wood blocks
_KEYS = {"major": "", "minor": "m"}


def _quarters(song: Song, bar: int) -> Fraction:
    """Quarter notes of a counted beat in a bar."""
    meter = song.grid.bars[bar].meter
    return Fraction(3, 2) if meter.compound else Fraction(4, meter.denominator)


class _Clock:
    """Ticks of positions: every beat has as many as its note value, the silence before the first as a half note."""

    def __init__(self, song: Song) -> None:
        self.lead = 2 * TICKS if song.grid.times[0] > 0.001 else 0
        self.starts: list[int] = []
        at = Fraction(self.lead)
        for index, _, bar in song.grid.walk():
            for _ in range(bar.beats):
                self.starts.append(int(at))
                at += TICKS * _quarters(song, index)
        self.starts.append(int(at))

    def ticks(self, position: Position) -> int:
        whole = min(int(position), len(self.starts) - 2)
        a, b = self.starts[whole], self.starts[whole + 1]
        return a + round((b - a) * (position - whole))


Event = tuple[int, int, "mido.Message | mido.MetaMessage"]  # tick, order among those of one tick, what


def _track(name: str, events: Iterable[Event]) -> mido.MidiTrack:
    track = mido.MidiTrack()
    track.append(mido.MetaMessage("track_name", name=name, time=0))
    now = 0
    for tick, _, message in sorted(events, key=lambda e: (e[0], e[1])):
        track.append(message.copy(time=tick - now))
        now = tick
    track.append(mido.MetaMessage("end_of_track", time=0))
    return track


def _told(song: Song, clock: _Clock, kinds: Collection[str]) -> list[Event]:
    """Notes as cues, the words of the song as lyrics."""
    out: list[Event] = []
    for note in song.notes:
        if note.kind in kinds:
            out.append((clock.ticks(note.at), 3, mido.MetaMessage("cue_marker", text=_plain(note.line))))
    for words in song.lyrics:
        out.append((clock.ticks(words.at), 3, mido.MetaMessage("lyrics", text=_plain(words.text))))
    return out


def _tempo(song: Song, clock: _Clock) -> list[Event]:
    grid = song.grid
    out: list[Event] = []
    if clock.lead:
        out.append((0, 0, mido.MetaMessage("set_tempo", tempo=_micros(grid.times[0] / 2))))
    previous = None
    for index, start, bar in grid.walk():
        signature = (bar.meter.with_beats(bar.beats) if bar.odd else bar.meter).numerator, bar.meter.denominator
        if signature != previous:
            message = mido.MetaMessage("time_signature", numerator=signature[0], denominator=signature[1])
            out.append((clock.starts[start], 1, message))
            previous = signature
        for beat in range(start, start + bar.beats):
            seconds = (grid.times[beat + 1] - grid.times[beat]) / float(_quarters(song, index))
            out.append((clock.starts[beat], 0, mido.MetaMessage("set_tempo", tempo=_micros(seconds))))
    for i, section in enumerate(song.sections):
        name, which = section_title(song, i)
        text = _plain(f"{name}, {which}" if which else name)
        out.append((clock.ticks(section.start), 2, mido.MetaMessage("marker", text=text)))
    for i, span in enumerate(song.chords):
        out.append(
            (clock.ticks(span.start), 3, mido.MetaMessage("text", text=_plain(song.sounding_name(i, ascii_only=True))))
        )
    return out


def _micros(seconds: float) -> int:
    return max(1, min(0xFFFFFF, round(seconds * 1e6)))


def _plain(text: str) -> str:
    """What fits into the file's own character set."""
    return text.encode("latin-1", "replace").decode("latin-1")


def _played(channel: int, start: int, stop: int, pitches: Iterable[int], velocity: int) -> list[Event]:
    out: list[Event] = []
    for n in pitches:
        out.append((start, 5, mido.Message("note_on", channel=channel, note=n, velocity=velocity)))
        out.append((max(start + 1, stop), 4, mido.Message("note_off", channel=channel, note=n)))
    return out


def _place(song: Song, seconds: float) -> Position:
    """The position of a time, inside the song."""
    return Fraction(min(max(0.0, song.grid.position(seconds)), float(song.grid.end))).limit_denominator(TICKS)


def render(song: Song, kinds: Collection[str] = PRINTED) -> bytes:
    """The file's bytes, with notes of these ``kinds``."""
    clock = _Clock(song)
    chords: list[Event] = [(0, 0, mido.Message("program_change", channel=0, program=GUITAR))]
    bass: list[Event] = [(0, 0, mido.Message("program_change", channel=1, program=BASS))]
    click: list[Event] = []
    for i, span in enumerate(song.chords):
        if span.chord.is_none:
            continue
        start, stop = (clock.ticks(p) for p in song.chord_range(i))
        chords += _played(0, start, stop, held_notes(song, i) or notes(span.chord), 80)
        if not song.bassline:
            bass += _played(1, start, stop, [bass_note(span.chord)], 90)
    for n in song.bassline:  # the bass as it is played, where it was heard
        begin, end = (_place(song, seconds) for seconds in (n.at, n.at + n.length))
        bass += _played(1, clock.ticks(begin), clock.ticks(end), [n.note], 90)
    lines: list[Event] = [(0, 0, mido.Message("program_change", channel=channel, program=LEAD)) for channel in (2, 3)]
    for note in song.line:
        until = clock.ticks(min(note.end, song.grid.end))
        lines += _played(2 + note.value.lane, clock.ticks(note.at), until, [note.value.note], 90)
    for _, start_beat, bar in song.grid.walk():
        for k in range(bar.beats):
            at = clock.starts[start_beat + k]
            one = bar.first + k == 1
            click += _played(9, at, at + TICKS // 8, [CLICK_ONE if one else CLICK], 100 if one else 70)
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS)
    file.tracks += [
        _track(_plain(song.title), [*_tempo(song, clock), *_told(song, clock, kinds)]),
        _track("Chords", chords),
        _track("Bass", bass),
        *([_track("Line", lines)] if song.line else []),
        _track("Click", click),
    ]
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()
