"""The journal by property: whatever is said, and wherever the file ends, what comes back is a state that was there."""

from __future__ import annotations

import errno
import os
import time
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.formats import atomic, project
from ychronos.session import journal
from ychronos.session.keeping import Keeper
from ychronos.session.session import Session
from ychronos.session.whose import Who, this_process
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.theory.chord import parse_chord

SAY = {
    "name": lambda s, n: edits.rename_song(s, f"Lamps {n}", "Tin Dory"),
    "mark": lambda s, n: edits.set_mark(s, Fraction(n % int(s.grid.end)), f"here {n}"),
    "chord": lambda s, n: edits.state_chord(
        s, Fraction(n % int(s.grid.end)), Fraction(n % int(s.grid.end)) + 1, parse_chord(("Am", "G7", "N")[n % 3])
    ),
    "one": lambda s, n: edits.one_is_here(s, n % s.grid.beat_count),
    "longer": lambda s, n: edits.insert_beat(s, n % s.grid.beat_count),
    "section": lambda s, n: edits.start_section(s, n % len(s.grid.bars)),
}
said = st.lists(st.tuples(st.sampled_from([*SAY, "undo", "redo"]), st.integers(0, 200)), max_size=14)


def talk(session: Session, words: list[tuple[str, int]]) -> list[Song]:
    """Say all; the states that were there, the first one included."""
    assert session.song is not None
    states = [session.song]
    for what, n in words:
        if what in ("undo", "redo"):
            getattr(session, what)()
        else:
            session.edit(lambda s, what=what, n=n: SAY[what](s, n))
        states.append(session.song)
    return states


def talked(folder: Path, words: list[tuple[str, int]]) -> tuple[Session, list[Song], Path]:
    """A session in which all was said, the states that were there, and where its journal lies."""
    session = opened(folder)
    states = talk(session, words)
    assert session.keeper is not None
    return session, states, session.keeper.journal.path


def opened(folder: Path) -> Session:
    session = Session(keeper=Keeper(folder))
    session.set_song(make_song(), None)
    return session


@given(words=said, share=st.floats(0, 1))
def test_whatever_is_said_comes_back_and_a_cut_file_gives_an_earlier_state(
    words: list[tuple[str, int]], share: float, tmp_path_factory: pytest.TempPathFactory
) -> None:
    session, states, path = talked(tmp_path_factory.mktemp("state"), words)
    assert path.exists() == session.dirty
    if not session.dirty:
        return
    back = journal.replay(path)
    assert project.dumps(back.song) == project.dumps(states[-1])
    assert not back.cut
    data = path.read_bytes()
    path.write_bytes(data[: round(share * len(data))])
    shown = {project.dumps(s) for s in states}
    try:
        assert project.dumps(journal.replay(path).song) in shown
    except journal.Damaged:
        assert data[: round(share * len(data))].count(b"\n") < 2, "with the whole song in it there is always a state"
    session.keeper.clear()


@given(words=said, where=st.floats(0, 1), bit=st.integers(0, 7))
def test_a_damaged_line_is_known_for_it(
    words: list[tuple[str, int]], where: float, bit: int, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("state")
    session, states, path = talked(folder, words)
    if not path.exists():
        return
    data = bytearray(path.read_bytes())
    data[min(len(data) - 1, int(where * len(data)))] ^= 1 << bit
    path.write_bytes(data)
    session.keeper.journal.close()
    found, aside = Keeper(folder).unfinished()
    assert len(found) + len(aside) == 1, "listed or set aside, never gone"
    for work in found:
        assert project.dumps(work.found.song) in {project.dumps(s) for s in states}


def test_a_long_journal_is_written_anew(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(journal, "SMALLEST", 20_000)
    monkeypatch.setattr(journal, "AFRESH", 1)
    session = opened(tmp_path)
    sizes = []
    for i in range(300):
        session.edit(lambda s, i=i: edits.rename_song(s, f"Lamps {i} " + "on the pier " * 20, ""))
        assert session.keeper is not None
        sizes.append(session.keeper.journal.path.stat().st_size)
    assert max(sizes) < 150_000
    assert any(b < a for a, b in zip(sizes, sizes[1:], strict=False))
    back = journal.replay(session.keeper.journal.path)
    assert (back.said, back.song) == (300, session.song)


def test_numbers_that_are_none_are_refused_not_written(tmp_path: Path) -> None:
    from dataclasses import replace

    song = make_song()
    odd = replace(song, ground=replace(song.ground, cents=float("nan")))
    with pytest.raises(atomic.SaveError, match="not finite"):
        project.save(odd, tmp_path / "s.ychronos")
    assert not list(tmp_path.iterdir())


def test_who_is_alive() -> None:
    me = this_process()
    assert me.alive
    assert not Who(me.boot, me.process, "12").alive, "the number was given again"
    assert not Who("another start", me.process, me.started).alive
    assert not Who(me.boot, -1, me.started).alive
    assert not Who(me.boot, 1 << 40, me.started).alive


@pytest.mark.parametrize("step", ["mkstemp", "fsync", "replace", "chmod"])
def test_a_save_that_fails_at_any_step_changes_nothing(
    step: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "s.ychronos"
    project.save(make_song(), path)
    before = path.read_bytes()

    def fail(*_: object, **__: object) -> None:
        raise OSError(errno.EIO, "Input/output error")

    monkeypatch.setattr("tempfile.mkstemp" if step == "mkstemp" else f"os.{step}", fail)
    with pytest.raises(atomic.SaveError, match="Nothing was changed there"):
        project.save(edits.rename_song(make_song(), "Other", "")[0], path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["s.ychronos"]


def test_links_and_protected_files(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path, link = tmp_path / "s.ychronos", tmp_path / "link.ychronos"
    project.save(make_song(), path)
    link.symlink_to(path)
    project.save(edits.rename_song(make_song(), "By the link", "")[0], link)
    assert link.is_symlink()
    assert project.load(path).title == "By the link"
    loop = tmp_path / "loop.ychronos"
    loop.symlink_to(loop)
    with pytest.raises(atomic.SaveError, match="leads back to itself"):
        project.save(make_song(), loop)
    with pytest.raises(project.ProjectError, match="cannot be opened"):
        project.load(loop)
    monkeypatch.setattr(os, "access", lambda *_: False)
    with pytest.raises(atomic.SaveError, match="write-protected"):
        project.save(make_song(), path)
    with pytest.raises(atomic.SaveError, match="too long"):
        project.save(make_song(), tmp_path / ("x" * 300))


def test_a_slow_disk_is_flushed_beside(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Nobody waits for it, all is flushed in the end, and what goes wrong there is told."""
    flush, done = os.fdatasync, []

    def slow(file: int) -> None:
        time.sleep(0.15)
        flush(file)
        done.append(file)

    monkeypatch.setattr(os, "fdatasync", slow)
    session = opened(tmp_path)
    begin = time.monotonic()
    for i in range(5):
        session.edit(lambda s, i=i: edits.rename_song(s, f"Lamps {i}", ""))
    assert session.keeper is not None
    assert time.monotonic() - begin < 0.5, "only the first is waited for"
    assert journal.replay(session.keeper.journal.path).song.title == "Lamps 4"
    flusher = session.keeper.journal.flusher
    assert flusher._thread is not None
    flusher._thread.join()
    assert len(done) == 5

    def broken(_: int) -> None:
        raise OSError(errno.EIO, "Input/output error")

    unkept: list[str] = []
    session.unkept.connect(unkept.append)
    monkeypatch.setattr(os, "fdatasync", broken)
    session.edit(lambda s: edits.rename_song(s, "Lamps 5", ""))
    flusher._thread.join()
    session.edit(lambda s: edits.rename_song(s, "Lamps 6", ""))
    assert "Input/output error" in unkept[0]
