"""Older project documents brought up to the present schema, one function a step.

Each takes the plain document of one schema and returns that of the next. Up to schema 2 what the user had stated was
marked on beats, bars, chords, keys and sections; from 3 on it is a list of statements.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from itertools import accumulate
from typing import Any

from ...song.positions import read_position

Document = dict[str, Any]


def _stretches(items: list[Document], end: Fraction) -> list[tuple[str, str, Document]]:
    """(from, to, item) of items that each last up to the next."""
    ends = [*(i["at"] for i in items[1:]), str(end)]
    return [(item["at"], stop, item) for item, stop in zip(items, ends, strict=True)]


def to_2(document: Document) -> Document:
    """Schema 1 lacked only fields that have defaults."""
    return {**document, "schema": 2}


Said = list[Document]


def _say(said: Said, kind: str, at: object, until: object = None, value: object = None) -> None:
    one: Document = {"kind": kind, "at": str(at)}
    if until is not None:
        one["until"] = str(until)
    if value is not None:
        one["value"] = value
    said.append(one)


def to_3(document: Document) -> Document:
    """What was marked as stated becomes statements."""
    out = {k: v for k, v in document.items() if k not in ("stated_beats", "marks", "checked")}
    said: Said = []
    _of_bars(document, said)
    _of_chords_and_keys(document, said)
    _of_sections(document, said)
    for mark in document.get("marks", []):
        _say(said, "mark", mark["at"], value=mark.get("text", ""))
    return {**out, "schema": 3, "statements": said}


def _of_bars(document: Document, said: Said) -> None:
    """Ones, lengths, meters, beats, and bars that were checked."""
    starts = list(accumulate((b["beats"] for b in document["bars"]), initial=0))
    ends = dict(zip(map(Fraction, starts), starts[1:], strict=False))
    for start, stop, bar in zip(starts, starts[1:], document["bars"], strict=False):
        if bar.pop("stated", False):
            _say(said, "one", start)
        if bar.pop("length_stated", False):
            _say(said, "length", start, stop)
        if bar.pop("meter_stated", False):
            _say(said, "meter", start, stop, bar["meter"])
    for beat in document.get("stated_beats", []):
        _say(said, "beat", beat, value=document["beats"][beat])
    for at in document.get("checked", []):
        if read_position(at) in ends:
            _say(said, "checked", at, ends[read_position(at)])


def _of_chords_and_keys(document: Document, said: Said) -> None:
    end = Fraction(sum(b["beats"] for b in document["bars"]))
    for at, until, chord in _stretches(document["chords"], end):
        comment, articulation = chord.pop("comment", ""), chord.pop("articulation", "strummed")
        if chord.pop("stated", False):
            _say(said, "chord", at, until, chord["chord"])
        if chord.pop("unsure", False):
            _say(said, "unsure", at, value=comment)
        if articulation != "strummed":
            _say(said, "articulation", at, value=articulation)
        if chord.pop("again", False):
            _say(said, "struck", at)
    for at, until, key in _stretches(document["keys"], end):
        if key.pop("stated", False):
            _say(said, "key", at, until, key["key"])


def _of_sections(document: Document, said: Said) -> None:
    """Where sections begin, what they are called and are like. A name held for all passes of the music; another name of
    the same music was one pass's own."""
    named: dict[str, str] = {}
    first_of: dict[str, str] = {}
    for section in document["sections"]:
        letter = section.get("material", "")
        stated, like = section.pop("stated", False), section.pop("material_stated", False)
        if (stated or like) and read_position(section["at"]) > 0:
            _say(said, "section", section["at"])
        if stated and named.setdefault(letter, section["name"]) != section["name"]:
            _say(said, "pass name", section["at"], value=section["name"])
        elif stated and not any(s["kind"] == "music name" and s["letter"] == letter for s in said if "letter" in s):
            _say(said, "music name", section["at"], value=section["name"])
            said[-1]["letter"] = letter
        if like and letter and first_of.setdefault(letter, section["at"]) != section["at"]:
            _say(said, "same", section["at"], value=first_of[letter])
    for one in said:
        one.pop("letter", None)


UPGRADES: dict[int, Callable[[Document], Document]] = {1: to_2, 2: to_3}


def upgraded(document: Document, schema: int) -> Document:
    """A document brought up to a schema; raises KeyError, TypeError or ValueError where it is damaged."""
    while document["schema"] < schema:
        document = UPGRADES[document["schema"]](document)
    return document
