"""Project files: nothing is lost, bad files get a sentence, a failed save leaves what was there."""

from __future__ import annotations

import errno
import json
import os
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.formats import atomic, project
from ychronos.guitar.instrument import TUNINGS, GuitarSetup
from ychronos.song import edits
from ychronos.song.merge import merged
from ychronos.song.model import Song, logged
from ychronos.song.track import Track
from ychronos.theory.chord import QUALITIES, Chord
from ychronos.theory.meter import Meter


def rich_song() -> Song:
    song = make_song(lead=1)
    song, _ = edits.state_chord(song, Fraction(5, 2), Fraction(4), Chord(1, "7b9", 5))
    song, _ = edits.mark_unsure(song, 3, True, "“organ” hides it")
    song, _ = edits.accept_bars(song, [1, 2])
    song, _ = edits.one_is_here(song, 9)
    song, _ = edits.rename_section(song, 0, "Strophe ♯1")
    return logged(song, "2026-01-02T03:04:05", "tried it")


def test_round_trip() -> None:
    song = rich_song()
    assert project.loads(project.dumps(song)) == song


@given(st.integers(0, 11), st.sampled_from(sorted(QUALITIES)), st.integers(0, 11), st.floats(0, 1))
def test_round_trip_of_any_chord(root: int, quality: str, bass: int, confidence: float) -> None:
    song = make_song()
    span = replace(song.chords[0], chord=Chord(root, quality, bass), confidence=round(confidence, 4))
    song = replace(song, chords=(span, *song.chords[1:]))
    assert project.loads(project.dumps(song)).chords == merged(song).chords, "neighbours that say the same are one"


def test_numbers_of_arrays_are_kept_as_numbers() -> None:
    song = make_song()
    odd = replace(
        song,
        grid=replace(song.grid, times=tuple(np.array(song.grid.times))),
        ground=replace(song.ground, cents=np.float64(12.5), confidence=np.float32(0.5)),
        chords=Track(replace(c, confidence=np.float64(c.confidence)) for c in song.chords),
    )
    loaded = project.loads(project.dumps(odd))
    assert loaded.grid == song.grid and loaded.ground.cents == 12.5 and loaded.ground.confidence == 0.5


def test_file_round_trip_and_readable(tmp_path: Path) -> None:
    path = tmp_path / "with space.ychronos"
    project.save(rich_song(), path)
    assert project.load(path) == replace(rich_song(), recording=project.load(path).recording)
    assert json.loads(path.read_text())["title"] == "Lamps Along the Mole"


def test_recording_is_found_beside_a_moved_project(tmp_path: Path) -> None:
    old, new = tmp_path / "old", tmp_path / "new"
    old.mkdir()
    (old / "tape.ogg").write_bytes(b"sound")
    project.save(make_song(recording=str(old / "tape.ogg")), old / "song.ychronos")
    old.rename(new)
    assert project.load(new / "song.ychronos").recording.path == str((new / "tape.ogg").resolve())


@pytest.mark.parametrize(
    ("data", "word"),
    [
        (b"", "empty"),
        (b"   \n", "empty"),
        (b"not json", "not a Ychronos project"),
        (b"\xff\xfe\x00", "not a Ychronos project"),
        (b"[]", "not a Ychronos project"),
        (b'{"format": "other", "schema": 1}', "not a Ychronos project"),
        (b'{"format": "ychronos-project", "schema": 99}', "newer"),
        (b'{"format": "ychronos-project", "schema": 1}', "damaged"),
    ],
)
def test_bad_files_get_a_sentence(tmp_path: Path, data: bytes, word: str) -> None:
    path = tmp_path / "bad.ychronos"
    path.write_bytes(data)
    with pytest.raises(project.ProjectError, match=word) as caught:
        project.load(path)
    assert str(caught.value).endswith(".")
    assert path.read_bytes() == data


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("beats", [1.0, 0.5]),
        ("bars", []),
        ("chords", []),
        ("chords", [{"at": "1/0", "chord": "C:maj"}]),
        ("keys", [{"at": "0", "key": "X"}]),
    ],
)
def test_damage_inside_is_found(field: str, value: object) -> None:
    document = json.loads(project.dumps(make_song()))
    document[field] = value
    with pytest.raises(project.ProjectError, match="damaged"):
        project.loads(json.dumps(document).encode())


@given(st.integers(0, 2000), st.binary(min_size=1, max_size=4))
def test_any_damage_is_an_error_or_a_song(at: int, junk: bytes) -> None:
    data = project.dumps(make_song())
    at = min(at, len(data) - 5)
    damaged = data[:at] + junk + data[at + len(junk) :]
    try:
        assert isinstance(project.loads(damaged), Song)
    except project.ProjectError as error:
        assert "\n" not in str(error).strip()


def test_missing_file_gets_a_sentence(tmp_path: Path) -> None:
    with pytest.raises(project.ProjectError, match="not there"):
        project.load(tmp_path / "none.ychronos")


@pytest.mark.parametrize(
    ("number", "word"), [(errno.ENOSPC, "disk is full"), (errno.EROFS, "may not be written"), (errno.EIO, "not saved")]
)
def test_failed_save_keeps_the_old_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, number: int, word: str
) -> None:
    path = tmp_path / "song.ychronos"
    project.save(make_song(), path)
    before = path.read_bytes()

    def fail(_: int) -> None:
        raise OSError(number, os.strerror(number))

    monkeypatch.setattr(os, "fsync", fail)
    with pytest.raises(atomic.SaveError, match=word):
        project.save(rich_song(), path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["song.ychronos"], "no half file is left"


def test_unwritable_places_get_a_sentence(tmp_path: Path) -> None:
    with pytest.raises(atomic.SaveError, match="does not exist"):
        project.save(make_song(), tmp_path / "no" / "song.ychronos")
    if os.geteuid() != 0:
        tmp_path.chmod(0o500)
        with pytest.raises(atomic.SaveError, match="may not be written"):
            project.save(make_song(), tmp_path / "song.ychronos")


def test_file_mode_is_kept(tmp_path: Path) -> None:
    path = tmp_path / "song.ychronos"
    project.save(make_song(), path)
    path.chmod(0o640)
    project.save(make_song(), path)
    assert path.stat().st_mode & 0o777 == 0o640


def test_facts_of_count_tape_and_guitar_are_kept() -> None:
    song = make_song(beats=7, bars=4)
    song, _ = edits.set_grouping(song, 0, 3, (2, 2, 3))
    song, _ = edits.move_beat(song, 9, song.grid.times[9] + 0.05)
    song, _ = edits.set_length(song, 2, 5)
    song, _ = edits.set_meter(song, 0, 0, Meter(7))
    song, _ = edits.correct_tape(song, True)
    song, _ = edits.show_corrected_clock(song, True)
    song, _ = edits.set_guitar(song, GuitarSetup(TUNINGS["DADGAD"], 3, "both"))
    back = project.loads(project.dumps(song))
    assert back.guitar == song.guitar
    assert back.ground == song.ground
    assert back.grid.stated_beats == {9}
    said = [(b.stated, b.length_stated, b.meter_stated, b.grouping) for b in song.grid.bars]
    assert [(b.stated, b.length_stated, b.meter_stated, b.grouping) for b in back.grid.bars] == said


def test_a_project_of_the_first_schema_is_read() -> None:
    document = json.loads(project.dumps(make_song()))
    for name in ("guitar", "statements", "tape_cents", "corrected_clock"):
        del document[name]
    document["schema"] = 1
    assert project.loads(json.dumps(document).encode()).guitar == GuitarSetup()


def test_an_impossible_guitar_is_refused_in_a_sentence() -> None:
    document = json.loads(project.dumps(make_song()))
    document["guitar"]["capo"] = 40
    with pytest.raises(project.ProjectError, match="capo"):
        project.loads(json.dumps(document).encode())


def test_how_sure_a_section_is_called_so_is_kept() -> None:
    song = make_song()
    doubted = replace(song, sections=Track(replace(s, sure=0.31) for s in song.sections))
    again = project.loads(project.dumps(doubted))
    assert [s.sure for s in again.sections] == [0.31] * len(song.sections)
    assert all(s.name_doubtful for s in again.sections)
    named, _ = edits.rename_section(again, 0, "Shanty")
    assert not named.sections[0].name_doubtful, "what the user calls it is no doubt"


def test_a_note_of_the_bass_that_rounds_to_nothing_is_refused() -> None:
    """What can be read can be written and read again: lengths are those that a file holds."""
    plain = json.loads(project.dumps(make_song()))
    plain["bassline"] = [[1.0, 0.00001, 40, 0.5]]
    with pytest.raises(project.ProjectError, match="note of the bass"):
        project.loads(json.dumps(plain).encode())
