"""A line found in sound: plucked notes at known times, slides and hammer-ons, on the grid, from the command line."""

from __future__ import annotations

import json
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.conftest import make_song
from ychronos import cli
from ychronos.analysis.lines import fine, leadline, linenet
from ychronos.analysis.lines.leadline import LineFound
from ychronos.audio.synth.strings import hertz, pluck
from ychronos.formats import project
from ychronos.session.jobs import AtOnce
from ychronos.session.lining import Lined, lay, work_of
from ychronos.session.session import Session

RATE = 22050
LICK = (57, 60, 62, 64, 67, 64, 62, 60, 57, 55, 52, 55, 57, 60, 57, 57)
STEP = 0.25


def plucked(notes: tuple[int, ...] = LICK, cents: float = 0.0, start: float = 1.0) -> np.ndarray:
    """Mono sound of notes a quarter of a second apart, each stopped by the next."""
    out = np.zeros(int((start + STEP * len(notes) + 1.5) * RATE), np.float32)
    for k, n in enumerate(notes):
        tone = pluck(RATE, hertz(n, cents), 0.3)[: int(STEP * RATE)].copy()
        tone[-200:] *= np.linspace(1, 0, 200, dtype=np.float32)
        at = int((start + k * STEP) * RATE)
        out[at : at + len(tone)] += tone
    return out


def right(found: list[LineFound], notes: tuple[int, ...] = LICK, start: float = 1.0) -> float:
    hits = sum(
        any(abs(n.at - start - k * STEP) <= 0.05 and n.note == note for n in found) for k, note in enumerate(notes)
    )
    return 2 * hits / (len(found) + len(notes))


def find(mono: np.ndarray, cents: float = 0.0) -> list[LineFound]:
    return leadline.find(mono, cents, (), 0.0, 0.0, len(mono) / RATE)


def test_plucked_notes_are_found() -> None:
    found = find(plucked())
    assert right(found) >= 0.9
    assert [n.at for n in found] == sorted(n.at for n in found)
    assert all(0 <= n.sure <= 1 and n.note not in n.rivals for n in found)


def test_a_record_off_pitch_is_heard_at_its_own_tuning() -> None:
    assert right(find(plucked(cents=40.0), 40.0)) >= 0.85


def test_silence_has_no_line() -> None:
    assert find(np.zeros(3 * RATE, np.float32)) == []
    assert find(np.zeros(10, np.float32)) == []


def test_long_stretches_are_heard_in_pieces_as_if_whole() -> None:
    notes = LICK * 6
    assert right(find(plucked(notes)), notes) >= 0.9


def test_a_note_that_is_slid_into_is_told() -> None:
    t = np.arange(int(1.0 * RATE)) / RATE
    steps = np.where(t < 0.07, -2 + 2 * t / 0.07, 0.0)
    phase = np.cumsum(440 * 2 ** ((64 + steps - 69) / 12)) / RATE
    tone = sum(np.sin(2 * np.pi * h * phase) / h for h in range(1, 7)) * np.exp(-2 * t)
    mono = np.concatenate([np.zeros(RATE // 2), 0.3 * tone, np.zeros(RATE)]).astype(np.float32)
    found = [n for n in find(mono) if n.note == 64]
    assert found and found[0].sign in ("s", "b")


def test_of_two_sides_the_chosen_one_is_heard() -> None:
    left, other = plucked(), plucked(tuple(n + 5 for n in LICK[::-1]))
    both = np.stack([left, other], axis=1)
    mono, begins = leadline.stretch_of(both, RATE, 0.0, len(left) / RATE, "left")
    assert begins == 0.0
    assert right(find(mono)) >= 0.85


def test_notes_lie_on_the_grid() -> None:
    song = make_song(tempo=120)  # beats at 1, 1.5, 2 …
    found = [LineFound(1.0 + k * 0.25 + 0.012, 0.24, n, 0.9) for k, n in enumerate(LICK)]
    notes = leadline.on_grid(found, song.grid)
    assert [n.at for n in notes] == [Fraction(k, 2) for k in range(len(LICK))]
    assert all(n.length > 0 for n in notes)
    late = leadline.on_grid([LineFound(1.09, 0.2, 60, 0.9)], song.grid)
    assert abs(song.grid.clock(late[0].at) - 1.09) < 0.006, "what lies on no even place stays where it is"


def test_it_is_stated_in_one_step(tmp_path: Path) -> None:
    song = make_song(tempo=120)
    session = Session()
    session.set_song(song, None)
    work = Lined(plucked(), RATE, 0.0, 1.0, 5.0, 0.0, leadline.chords_of(song))
    found = work(AtOnce()).notes
    assert lay(session, Fraction(0), Fraction(8), found)
    assert session.song is not None and len(session.song.line) >= 14
    assert len([n for n in session.song.line if n.value.note in LICK]) >= 14
    session.undo()
    assert not session.song.line


def test_the_net_runs_the_same_in_pieces() -> None:
    mono = plucked()
    spectrum, flux = fine.spectrum(mono, 0.0), fine.flux(mono)
    rows = linenet.chord_rows(len(spectrum), [(0.0, frozenset({9, 0, 4}), 9)])
    held, begun = linenet.run(spectrum, flux, rows)
    assert held.shape == begun.shape == (len(spectrum), linenet.COUNT)
    cut = slice(100, 300)
    there, _ = linenet.run(spectrum[cut], flux[cut], rows[cut])
    assert np.allclose(there[60:140], held[160:240], atol=1e-3), "what is far does not count"


def test_from_the_command_line(tmp_path: Path) -> None:
    sound = tmp_path / "lick.wav"
    chord = sum(pluck(RATE, hertz(n, 0.0), 0.3)[: 2 * RATE] for n in (45, 52))
    notes = plucked(LICK + LICK[::-1] + LICK)
    for k in range(0, len(notes) - 2 * RATE, 2 * RATE):
        notes[k : k + 2 * RATE] += 0.15 * chord[: 2 * RATE]
    soundfile.write(sound, notes, RATE)
    out, kept = tmp_path / "lick.jams", tmp_path / "lick.ychronos"
    arguments = [
        "analyze",
        str(sound),
        "-q",
        "--no-cache",
        "--jams",
        str(out),
        "--project",
        str(kept),
        "--line",
        "0:01-9",
    ]
    assert cli.run(arguments) == 0
    (rows,) = (
        a["data"]
        for a in json.loads(out.read_text())["annotations"]
        if a["annotation_metadata"].get("data_source") == "lead"
    )
    hits = sum(
        any(abs(r["time"] - 1 - k * STEP) < 0.05 and r["value"] == n for r in rows)
        for k, n in enumerate(LICK + LICK[::-1])
    )
    assert hits >= 26
    assert len(project.load(kept).line) == len(rows)
    for bad in ("9-1", "x-2", "3", "1e9-2"):
        assert cli.run([*arguments[:4], "--line", bad]) == cli.BAD_USE
    assert cli.run([*arguments[:4], "--line", "0-1", "--hear", "the moon"]) == cli.BAD_USE


def test_only_what_is_needed_of_the_sound_goes_along() -> None:
    from tests.conftest import FERRY
    from ychronos.audio import recording

    sound = recording.load(FERRY)
    work = work_of(sound, make_song(), 10.0, 12.0)
    assert len(work.samples) / work.rate == pytest.approx(2 + 4 * leadline.MARGIN, abs=0.01)
