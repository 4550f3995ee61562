"""Older project documents brought up to the present schema, one function a step.

Each takes the plain document of one schema and returns that of the next. Up to schema 2 what the user had stated was
marked on beats, bars, chords, keys and sections; from 3 on it is a list of statements.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from itertools import accumulate
from typing import Any

Document = dict[str, Any]


def _stretches(items: list[Document], end: Fraction) -> list[tuple[str, str, Document]]:
    """(from, to, item) of items that each last up to the next."""
    ends = [*(i["at"] for i in items[1:]), str(end)]
    return [(item["at"], stop, item) for item, stop in zip(items, ends, strict=True)]


def to_2(document: Document) -> Document:
    """Schema 1 lacked only fields that have defaults."""
    return {**document, "schema": 2}


def to_3(document: Document) -> Document:
    """What was marked as stated becomes statements."""
    out = {k: v for k, v in document.items() if k not in ("stated_beats", "marks", "checked")}
    end = Fraction(sum(b["beats"] for b in document["bars"]))
    said: list[Document] = []

    def say(kind: str, at: object, until: object = None, value: object = None) -> None:
        said.append({"kind": kind, "at": str(at)} | ({"until": str(until)} if until is not None else {})
                    | ({"value": value} if value is not None else {}))  # fmt: skip

    starts = list(accumulate((b["beats"] for b in document["bars"]), initial=0))
    for start, stop, bar in zip(starts, starts[1:], document["bars"], strict=False):
        if bar.pop("stated", False):
            say("one", start)
        if bar.pop("length_stated", False):
            say("length", start, stop)
        if bar.pop("meter_stated", False):
            say("meter", start, stop, bar["meter"])
    for beat in document.get("stated_beats", []):
        say("beat", beat, value=document["beats"][beat])
    for at, until, chord in _stretches(document["chords"], end):
        if chord.pop("stated", False):
            say("chord", at, until, chord["chord"])
        if chord.pop("unsure", False):
            say("unsure", at, value=chord.pop("comment", ""))
        chord.pop("comment", None)
        if chord.get("articulation", "strummed") != "strummed":
            say("articulation", at, value=chord["articulation"])
        chord.pop("articulation", None)
        if chord.pop("again", False):
            say("struck", at)
    for at, until, key in _stretches(document["keys"], end):
        if key.pop("stated", False):
            say("key", at, until, key["key"])
    named: dict[str, str] = {}
    first_of: dict[str, str] = {}
    for section in document["sections"]:
        letter = section.get("material", "")
        stated, like = section.pop("stated", False), section.pop("material_stated", False)
        if stated or like:
            if Fraction(section["at"]) > 0:
                say("section", section["at"])
            if stated:
                kind = "pass name" if letter in named and named[letter] != section["name"] else "music name"
                if kind == "pass name" or letter not in named:
                    say(kind, section["at"], value=section["name"])
                named.setdefault(letter, section["name"])
        if like and letter:
            if letter in first_of:
                say("same", section["at"], value=first_of[letter])
            first_of.setdefault(letter, section["at"])
    for mark in document.get("marks", []):
        say("mark", mark["at"], value=mark.get("text", ""))
    for at in document.get("checked", []):
        bar = next((k for k, s in enumerate(starts[:-1]) if s == Fraction(at)), None)
        if bar is not None:
            say("checked", starts[bar], starts[bar + 1])
    return {**out, "schema": 3, "statements": said}


UPGRADES: dict[int, Callable[[Document], Document]] = {1: to_2, 2: to_3}


def upgraded(document: Document, schema: int) -> Document:
    """A document brought up to a schema; raises KeyError, TypeError or ValueError where it is damaged."""
    while document["schema"] < schema:
        document = UPGRADES[document["schema"]](document)
    return document
