"""Lines as parts of a MusicXML score: sounding pitch, string and fret, how each note begins; a part for each of two lines at once."""

from __future__ import annotations

import xml.etree.ElementTree as ET
from fractions import Fraction
from itertools import groupby

from ..chart.tablature import shown_fret
from ..song.linenotes import Plucked
from ..song.model import Song
from ..theory.key import Key

STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}


def text(parent: ET.Element, tag: str, value: object) -> ET.Element:
    child = ET.SubElement(parent, tag)
    child.text = str(value)
    return child


def time(box: ET.Element, meter: tuple[int, int]) -> None:
    """A meter among the attributes of a bar."""
    inner = ET.SubElement(box, "time")
    text(inner, "beats", meter[0])
    text(inner, "beat-type", meter[1])


def lanes(song: Song) -> list[int]:
    """The lines that there are."""
    return sorted({n.value.lane for n in song.line})


def attributes(measure: ET.Element, song: Song, divisions: int, meter: tuple[int, int] | None, first: bool) -> None:
    """What a bar of a line's part begins with: meter where it changes, at the start a clef for tablature with the tuning."""
    if meter is None and not first:
        return
    box = ET.SubElement(measure, "attributes")
    if first:
        text(box, "divisions", divisions)
    if meter is not None:
        time(box, meter)
    if first:
        text(ET.SubElement(box, "clef"), "sign", "TAB")
        details = ET.SubElement(box, "staff-details")
        text(details, "staff-lines", len(song.guitar.strings))
        for k, note in enumerate(song.guitar.strings):
            tuning = ET.SubElement(details, "staff-tuning", line=str(k + 1))
            step, alter, octave = _spelled(song, note, Key(0))
            text(tuning, "tuning-step", step)
            if alter:
                text(tuning, "tuning-alter", alter)
            text(tuning, "tuning-octave", octave)
        if song.guitar.capo:
            text(details, "capo", song.guitar.capo)


def bar(measure: ET.Element, song: Song, index: int, lane: int, ticks_of_beat: Fraction) -> None:
    """The notes of a line in a bar, rests between them; a note ends where the next one begins, or the bar."""
    start, end = song.grid.bar_range(index)
    notes = [n for n in song.line_of_bar(index) if n.value.lane == lane]
    groups = [(at, list(some)) for at, some in groupby(notes, key=lambda n: n.at)]
    now = 0
    whole = round((end - start) * ticks_of_beat)
    for k, (at, some) in enumerate(groups):
        begin = max(now, round((at - start) * ticks_of_beat))
        following = round((groups[k + 1][0] - start) * ticks_of_beat) if k + 1 < len(groups) else whole
        until = round((max(n.end for n in some) - start) * ticks_of_beat)
        stop = max(begin + 1, min(following, until))
        if begin > now:
            _rest(measure, begin - now)
        after = [n.value.sign for n in groups[k + 1][1]] if k + 1 < len(groups) else []
        for i, note in enumerate(some):
            _note(measure, song, note, stop - begin, i > 0, after)
        now = stop
    if now < whole:
        _rest(measure, whole - now)


def _rest(measure: ET.Element, ticks: int) -> None:
    note = ET.SubElement(measure, "note")
    ET.SubElement(note, "rest")
    text(note, "duration", ticks)
    text(note, "voice", 1)


def _note(measure: ET.Element, song: Song, note: Plucked, ticks: int, together: bool, after: list[str]) -> None:
    guitar = song.guitar
    box = ET.SubElement(measure, "note")
    if together:
        ET.SubElement(box, "chord")
    key = guitar.key_moved(song.key_at(note.at), guitar.moved)
    step, alter, octave = _spelled(song, note.value.note + guitar.moved, key)
    pitch = ET.SubElement(box, "pitch")
    text(pitch, "step", step)
    if alter:
        text(pitch, "alter", alter)
    text(pitch, "octave", octave)
    text(box, "duration", ticks)
    text(box, "voice", 1)
    spot = song.spot_of(note.value)
    technical = ET.SubElement(ET.SubElement(box, "notations"), "technical")
    for sign, tag, letter in (("h", "hammer-on", "H"), ("p", "pull-off", "P")):
        if note.value.sign == sign:
            ET.SubElement(technical, tag, type="stop")
        if sign in after:
            ET.SubElement(technical, tag, type="start").text = letter
    text(technical, "string", len(guitar.strings) - spot.string)
    text(technical, "fret", shown_fret(guitar, spot.fret))
    if note.value.sign == "b":
        text(ET.SubElement(technical, "bend"), "bend-alter", 1)
    if note.value.sign == "s":
        text(technical, "other-technical", "slide")


def _spelled(song: Song, note: int, key: Key) -> tuple[str, int, int]:
    """(letter, alteration, octave) of a MIDI number."""
    written = key.spell(note % 12)
    return written.letter, written.alter, (note - written.alter - STEPS[written.letter]) // 12 - 1
