"""Charts of other people in whatever open format they come: text, MusicXML, MIDI, JAMS, tables. The content tells which.

Every format is read for its chords alone. XML is read without a document type and without entities.
"""

from __future__ import annotations

import csv
import io
import json
import re
import xml.etree.ElementTree as ET
from fractions import Fraction
from pathlib import Path

from ..paths import shown
from ..song.handed import HandedBar, HandedChart
from ..theory.chord import NO_CHORD, QUALITIES, Chord, ChordError, degree_step, parse_chord, parse_harte
from ..tongue import tr
from . import midiread
from .charttext import MOST_BARS, ChartError, read_text
from .musicxml import KINDS

_KIND = {kind: quality for quality, kind in KINDS.items()}
_STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
LARGEST = 4 << 20  # bytes of a file
_DOCTYPE = re.compile(r"<!DOCTYPE[^>\[]*>", re.IGNORECASE)


def read_chart(text: str) -> HandedChart:
    """The chart of a file's text.

    Raises
    ------
    ChartError
        with a sentence where it holds no chords, or is damaged.
    """
    start = text.lstrip()[:400]
    if start.startswith("<"):
        return _musicxml(text)
    if start.startswith("{"):
        try:
            document = json.loads(text)
        except (ValueError, RecursionError):
            document = None
        if isinstance(document, dict) and "annotations" in document:
            return _jams(document)
    first = start.split("\n", 1)[0].lower()
    if "," in first and "chord" in first and "|" not in first:
        return _table(text)
    return read_text(text)


def text_of(path: Path) -> str:
    """The text of a chart's file; a MIDI file's chart as text.

    Raises
    ------
    ChartError
        with a sentence where it cannot be read or holds nothing.
    """
    try:
        if not path.is_file():
            raise ChartError(tr("“{shown}” is not there, or it is no file.", shown=shown(path)))
        data = path.read_bytes() if path.stat().st_size <= LARGEST else b""
    except (OSError, ValueError) as error:
        raise ChartError(
            tr("“{shown}” cannot be read: {why}.", shown=shown(path), why=getattr(error, "strerror", None) or error)
        ) from None
    if not data.strip():
        raise ChartError(tr("“{shown}” is empty, or larger than any chart.", shown=shown(path)))
    if midiread.is_midi(data):
        return midiread.chart_text(data)
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _row(chords: list[Chord], title: str = "") -> HandedChart:
    """Chords one after the other, without bars."""
    once = [c for n, c in enumerate(chords) if n == 0 or c != chords[n - 1]]
    if not any(c.root is not None for c in once):
        raise ChartError(tr("No chords were found in this file."))
    bars = (HandedBar(((Fraction(0), c),), n + 1, "", n == 0) for n, c in enumerate(once[:MOST_BARS]))
    return HandedChart(tuple(bars), False, title)


def _jams(document: dict[str, object]) -> HandedChart:
    annotations = document.get("annotations")
    for one in annotations if isinstance(annotations, list) else ():
        if not isinstance(one, dict) or one.get("namespace") not in ("chord_harte", "chord"):
            continue
        rows = one.get("data")
        chords: list[Chord] = []
        for row in rows if isinstance(rows, list) else ():
            try:
                chords.append(parse_harte(str(row["value"])))
            except (ValueError, KeyError, TypeError):
                continue
        head = document.get("file_metadata")
        return _row(chords, str(head.get("title", "")) if isinstance(head, dict) else "")
    raise ChartError(tr("No chords were found in this file."))


def _table(text: str) -> HandedChart:
    chords: list[Chord] = []
    for row in csv.DictReader(io.StringIO(text)):
        name = next((v for k, v in row.items() if k and k.strip().lower() == "chord"), None)
        try:
            chords.append(parse_chord((name or "").strip()) if name and name.strip() not in ("N", "N.C.") else NO_CHORD)
        except ChordError:
            continue
    return _row(chords)


def _musicxml(text: str) -> HandedChart:
    if "<!ENTITY" in text.upper():
        raise ChartError(tr("This file defines entities, which are not read."))
    try:
        root = ET.fromstring(_DOCTYPE.sub("", re.sub(r"^\s*<\?xml[^>]*\?>", "", text), count=1))
    except (ET.ParseError, RecursionError, ValueError):
        raise ChartError(tr("This file is damaged, or it is no MusicXML.")) from None
    part = root.find("part")
    bars: list[HandedBar] = []
    section = ""
    for measure in part.findall("measure") if part is not None else ():
        name = measure.findtext(".//rehearsal")
        opens = bool(name) or not bars
        section = " ".join(name.split()) if name else section
        chords, at, length = [], Fraction(0), Fraction(0)
        for child in measure:
            if child.tag == "harmony":
                chord = _harmony(child)
                if chord is not None:
                    chords.append((at, chord))
            elif child.tag in ("note", "forward", "backup") and child.find("chord") is None:
                step = _whole(child.findtext("duration"))
                at = max(Fraction(0), at - step if child.tag == "backup" else at + step)
                length = max(length, at)
        shares = tuple((min(Fraction(63, 64), a / length) if length else Fraction(0), c) for a, c in chords)
        bars.append(HandedBar(shares, len(bars) + 1, section, opens))
        if len(bars) > MOST_BARS:
            raise ChartError(tr("This chart has more than {most_bars} bars.", most_bars=MOST_BARS))
    if not any(b.chords for b in bars):
        raise ChartError(tr("No chords were found in this file."))
    return HandedChart(tuple(bars), True, root.findtext("work/work-title") or root.findtext("movement-title") or "")


def _whole(text: str | None) -> Fraction:
    try:
        return Fraction(max(0, min(10**6, int(float(text or 0)))))
    except (ValueError, OverflowError):
        return Fraction(0)


def _pitch(box: ET.Element, tag: str) -> int | None:
    step = (box.findtext(f"{tag}-step") or "").strip().upper()
    if step not in _STEPS:
        return None
    try:
        return (_STEPS[step] + round(float(box.findtext(f"{tag}-alter") or 0))) % 12
    except (ValueError, OverflowError):
        return None


def _harmony(box: ET.Element) -> Chord | None:
    """A chord with its degrees, as far as the format's kind is one that is known."""
    kind = (box.findtext("kind") or "").strip()
    if kind == "none":
        return NO_CHORD
    root = box.find("root")
    at = _pitch(root, "root") if root is not None else None
    if at is None:
        return None
    steps = set(QUALITIES[_KIND.get(kind, "maj")].intervals)
    for degree in box.findall("degree"):
        try:
            plain = degree_step((degree.findtext("degree-value") or "1").strip())
            alter = int(degree.findtext("degree-alter") or 0)
        except ValueError:
            continue
        how = degree.findtext("degree-type") or "add"
        if how in ("subtract", "alter"):
            steps.discard(plain if how == "alter" else (plain + alter) % 12)
        if how in ("add", "alter"):
            steps.add((plain + alter) % 12)
    quality = next((q for q, v in QUALITIES.items() if set(v.intervals) == steps), _KIND.get(kind, "maj"))
    low = box.find("bass")
    return Chord(at, quality, _pitch(low, "bass") if low is not None else None)
