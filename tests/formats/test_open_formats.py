"""MusicXML, MIDI, tables: what is written says the same as the song, and lines up with the record."""

from __future__ import annotations

import csv
import io
import xml.etree.ElementTree as ET
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import mido
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos import cli
from ychronos.formats import midi, musicxml, project, tables
from ychronos.formats.options import Options
from ychronos.formats.registry import EXPORTERS, for_file
from ychronos.guitar.instrument import GuitarSetup
from ychronos.song import edits
from ychronos.theory.chord import QUALITIES, Chord, degree_step

STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}


def number(box: ET.Element, tag: str) -> int:
    return (STEPS[box.findtext(f"{tag}-step", "")] + int(box.findtext(f"{tag}-alter", "0"))) % 12


def chord_of(harmony: ET.Element) -> Chord:
    """A chord as a reader of the format understands it."""
    root = harmony.find("root")
    assert root is not None
    kinds = {v: k for k, v in musicxml.KINDS.items()}
    quality = kinds[harmony.findtext("kind", "")]
    steps = set(QUALITIES[quality].intervals)
    for degree in harmony.findall("degree"):
        value = int(degree.findtext("degree-value", "1"))
        alter = int(degree.findtext("degree-alter", "0"))
        plain = degree_step(str(value))
        kind = degree.findtext("degree-type")
        if kind == "add":
            steps.add((plain + alter) % 12)
        elif kind == "subtract":
            steps.discard((plain + alter) % 12)
        else:
            steps.discard(plain)
            steps.add((plain + alter) % 12)
    bass = harmony.find("bass")
    at = number(root, "root")
    match = next(q for q, v in QUALITIES.items() if set(v.intervals) == steps)
    return Chord(at, match, number(bass, "bass") if bass is not None else None)


def read_musicxml(data: bytes) -> list[tuple[int, Fraction, Chord]]:
    """(measure, quarters from its start, chord) of all harmonies."""
    out = []
    for m, measure in enumerate(ET.fromstring(data).iter("measure")):
        at = 0
        for child in measure:
            if child.tag == "harmony":
                out.append((m, Fraction(at, musicxml.DIVISIONS), chord_of(child)))
            elif child.tag == "note":
                at += int(child.findtext("duration", "0"))
    return out


@given(st.integers(0, 11), st.sampled_from(sorted(QUALITIES)), st.sampled_from([None, 4, 7]), st.integers(0, 5))
def test_every_chord_comes_back_from_musicxml(root: int, quality: str, bass: int | None, capo: int) -> None:
    song = make_song("C", bars=2)
    chord = Chord(root, quality, None if bass is None else (root + bass) % 12)
    song, _ = edits.state_chord(song, Fraction(1), Fraction(8), chord)
    song, _ = edits.set_guitar(song, GuitarSetup(capo=capo))
    found = read_musicxml(musicxml.render(song))
    assert found == [(0, Fraction(0), Chord(0)), (0, Fraction(1), chord)]


@pytest.mark.parametrize(("beats", "lead"), [(4, 0), (3, 2), (5, 1)])
def test_musicxml_has_the_bars_sections_and_title(beats: int, lead: int) -> None:
    song = make_song("G D/F# Em7 C", beats=beats, lead=lead)
    root = ET.fromstring(musicxml.render(song))
    assert root.findtext("work/work-title") == song.title
    measures = list(root.iter("measure"))
    assert len(measures) == len(song.grid.bars)
    assert [m.get("number") for m in measures] == [str(song.grid.number(i)) for i in range(len(measures))]
    for measure, bar in zip(measures, song.grid.bars, strict=True):
        assert sum(int(n.findtext("duration", "0")) for n in measure.iter("note")) == bar.beats * musicxml.DIVISIONS
    assert [r.text for r in root.iter("rehearsal")] == [s.name for s in song.sections]
    assert root.findtext("part/measure/attributes/time/beats") == str(lead or beats)
    assert root.findtext("part/measure/attributes/key/fifths") == "1"
    frames = list(root.iter("frame"))
    assert frames and frames[0].findtext("frame-strings") == "6"


def seconds_of(file: mido.MidiFile) -> list[tuple[float, mido.Message]]:
    now, out = 0.0, []
    for message in file:
        now += message.time
        out.append((now, message))
    return out


def test_midi_lines_up_with_the_record() -> None:
    song = make_song("G D/F# Em7 C", tempo=97.0, bars=12)
    times = tuple(t + 0.03 * (i % 5) for i, t in enumerate(song.grid.times))  # a band is no clock
    song = replace(song, grid=replace(song.grid, times=times))
    file = mido.MidiFile(file=io.BytesIO(midi.render(song)))
    events = seconds_of(file)
    clicks = [t for t, m in events if m.type == "note_on" and m.channel == 9]
    assert len(clicks) == song.grid.beat_count
    assert max(abs(a - b) for a, b in zip(clicks, song.grid.times, strict=False)) < 0.005
    ones = [t for t, m in events if m.type == "note_on" and m.channel == 9 and m.note == midi.CLICK_ONE]
    assert len(ones) == len(song.grid.bars)
    bass = [(t, m.note % 12) for t, m in events if m.type == "note_on" and m.channel == 1]
    assert [n for _, n in bass] == [s.chord.sounding_bass for s in song.chords]
    assert max(abs(t - song.grid.clock(s.start)) for (t, _), s in zip(bass, song.chords, strict=True)) < 0.005
    assert [m.text for _, m in events if m.type == "marker"] == [s.name for s in song.sections]


def test_tables_and_labels() -> None:
    song, _ = edits.set_guitar(make_song("G D/F# Em7 C"), GuitarSetup(capo=2))
    song, _ = edits.rename_section(song, 0, "=1+1", True)
    rows = list(csv.DictReader(io.StringIO(tables.render_csv(song).decode())))
    assert len(rows) == len(song.chords) and rows[1]["chord"] == "D/F#" and rows[1]["shape"] == "C/E"
    assert rows[0]["section"] == "'=1+1", "no cell is a formula"
    assert float(rows[2]["start"]) == pytest.approx(song.grid.clock(song.chords[2].start), abs=1e-3)
    labels = [line.split("\t") for line in tables.render_labels(song).decode().splitlines()]
    assert [x[2] for x in labels] == [r["chord"] for r in rows] and all(float(a) < float(b) for a, b, _ in labels)


def test_a_suffix_says_what_is_written(tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    saved = tmp_path / "k.ychronos"
    project.save(make_song(), saved)
    names = [f"k{e.suffix}" for e in EXPORTERS] + ["k.midi", "k.xml"]
    to = [x for n in names for x in ("--to", str(tmp_path / "out" / n))]
    (tmp_path / "out").mkdir()
    assert cli.run(["export", str(saved), *to]) == 0
    for name in names:
        one = for_file(Path(name))
        assert one is not None and (tmp_path / "out" / name).read_bytes() == one.render(make_song(), Options())
    assert cli.run(["export", str(saved), "--to", str(tmp_path / "k.doc")]) == cli.BAD_USE
    assert "does not say how" in capfd.readouterr().err
