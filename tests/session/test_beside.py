"""The process beside: what is carried out there gives what it gives here, and its end loses nothing."""

from __future__ import annotations

import contextlib
import gc
import os
import signal
import socket
import threading
import time
import weakref
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.conftest import KNOTS
from ychronos.analysis.evidence import AnalysisError, Evidence
from ychronos.audio import recording
from ychronos.audio.decode import AudioError, Cancelled
from ychronos.audio.recording import Recording, SampleStore
from ychronos.session.beside import Beside, Ended
from ychronos.session.comparing import Comparing
from ychronos.session.jobs import AtOnce, Far, Under, add_pieces
from ychronos.session.opening import Analysis
from ychronos.session.redecider import Deciding
from ychronos.session.wire import Wire
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.theory.chord import parse_chord


class Watching(AtOnce):
    """Work that is watched: its reports and parts; ``stop`` may be set."""

    def __init__(self) -> None:
        self.stages: list[str] = []
        self.parts: list[object] = []
        self.stop = threading.Event()
        super().__init__(lambda stage, _: self.stages.append(stage), self.parts.append)

    def cancelled(self) -> bool:
        return self.stop.is_set()


@dataclass(frozen=True)
class Odd(Far):
    """Work that does one odd thing."""

    what: str

    def __call__(self, under: Under) -> Any:
        if self.what == "dies":
            os.kill(os.getpid(), signal.SIGKILL)
        if self.what == "waits":
            under.report("Waiting", 0.0)
            while not under.cancelled():
                time.sleep(0.01)
            raise Cancelled
        if self.what == "cannot be sent":
            return threading.Lock()
        if self.what == "pid":
            return os.getpid()
        raise ZeroDivisionError("of ours")


@dataclass(frozen=True)
class Other(Far):
    """Work of another kind."""

    def __call__(self, under: Under) -> int:
        return os.getpid()


@pytest.fixture(scope="module")
def beside() -> Iterator[Beside]:
    # what is handed over must have the same home in both processes
    os.environ["PYTHONPATH"] = str(Path(__file__).parents[2])
    out = Beside()
    yield out
    out.close()


@pytest.fixture(scope="module")
def analysed(beside: Beside) -> tuple[Song, Evidence, Watching]:
    under = Watching()
    song, evidence = beside.run(Analysis(KNOTS, "Knots", None), under)
    return song, evidence, under


def test_an_analysis_beside_is_the_same_and_reports(analysed: tuple[Song, Evidence, Watching]) -> None:
    song, evidence, under = analysed
    here, found = Analysis(KNOTS, "Knots", None)(AtOnce())
    assert song == here
    for name, array in vars(found).items():
        if isinstance(array, np.ndarray):
            np.testing.assert_array_equal(array, getattr(evidence, name))
    assert under.stages[0] == "Reading"
    sound = under.parts[0]
    assert isinstance(sound, Recording)
    assert sound.samples is not None and sound.samples.shape[0] > 40 * sound.rate
    assert all(isinstance(p, Song) for p in under.parts[1:]) and len(under.parts) > 2


def test_deciding_again_and_comparing_beside_are_the_same(
    beside: Beside, analysed: tuple[Song, Evidence, Watching]
) -> None:
    song, evidence, _ = analysed
    said, _ = edits.state_chord(song, song.chords[3].start, song.chords[4].start, parse_chord("Am"))
    work = Deciding(said, evidence, "chords", song)
    new = beside.run(work, Watching())
    assert new == work(Watching())
    assert new.grid is said.grid and new.recording is said.recording  # what stays is not made anew
    other, here = beside.run(Comparing(new, evidence), Watching()), Comparing(new, evidence)(Watching())
    assert other.all() == here.all()
    assert other.song is new


def test_evidence_goes_there_once_and_is_forgotten_with_it(
    beside: Beside, analysed: tuple[Song, Evidence, Watching], monkeypatch: pytest.MonkeyPatch
) -> None:
    song, evidence, _ = analysed
    sent: list[str] = []
    send = Wire.send
    monkeypatch.setattr(Wire, "send", lambda wire, m, *a: (sent.append(m[0]), send(wire, m, *a))[1])
    own = replace(evidence)  # one that only this process has
    for _ in range(2):
        assert beside.run(Deciding(song, own, "chords", None), Watching()) == song
    assert sent == ["evidence", "work", "work"]
    del own
    gc.collect()
    beside.run(Odd("pid"), Watching())
    assert sent[3:] == ["forget", "work"]


def test_what_is_raised_there_is_raised_here(beside: Beside, tmp_path: Path, caplog: pytest.LogCaptureFixture) -> None:
    with pytest.raises(AudioError, match="nowhere"):
        beside.run(Analysis(tmp_path / "nowhere.ogg", "", None), Watching())
    quiet = tmp_path / "quiet.wav"
    import soundfile

    soundfile.write(quiet, np.zeros(9 * 22050), 22050)
    with pytest.raises(AnalysisError, match="silent"):
        beside.run(Analysis(quiet, "", None), Watching())
    with pytest.raises(ZeroDivisionError):
        beside.run(Odd("fails"), Watching())
    with pytest.raises(RuntimeError, match="lock"):
        beside.run(Odd("cannot be sent"), Watching())
    assert "of ours" in caplog.text  # the log of the window has the details


def test_work_that_failed_there_is_not_held_here(beside: Beside) -> None:
    gc.collect()
    gc.disable()  # it must go by itself: in the middle of work nobody looks for rings of objects
    try:
        work = Odd("fails")
        seen = weakref.ref(work)
        with contextlib.suppress(ZeroDivisionError):
            beside.run(work, Watching())
        del work
        assert seen() is None
    finally:
        gc.enable()


def test_work_is_stopped_beside_other_work(beside: Beside) -> None:
    under, raised = Watching(), []

    def wait() -> None:
        try:
            beside.run(Odd("waits"), under)
        except Cancelled as error:
            raised.append(error)

    thread = threading.Thread(target=wait, daemon=True)
    thread.start()
    while not under.stages:
        time.sleep(0.01)
    assert beside.run(Other(), Watching()) == beside.pid != os.getpid()  # the two do not wait for each other
    under.stop.set()
    thread.join(10)
    assert raised


def test_work_of_a_kind_takes_turns_and_what_is_not_wanted_gives_up_its_turn(beside: Beside) -> None:
    """Many statements in a row must not pile up as work that nobody waits for."""
    watched = [Watching() for _ in range(6)]
    ended: list[int] = []

    def wait(number: int) -> None:
        with pytest.raises(Cancelled):
            beside.run(Odd("waits"), watched[number])
        ended.append(number)

    threads = [threading.Thread(target=wait, args=(i,), daemon=True) for i in range(6)]
    for thread in threads:
        thread.start()
    time.sleep(0.5)
    (first,) = [i for i, w in enumerate(watched) if w.stages]  # only one of them has begun
    for i, w in enumerate(watched):
        if i != first:
            w.stop.set()
    time.sleep(0.2)
    watched[first].stop.set()
    for thread in threads:
        thread.join(10)
    assert sorted(ended) == list(range(6))
    assert [i for i, w in enumerate(watched) if w.stages] == [first]


def test_its_end_is_one_sentence_and_it_starts_again(beside: Beside, analysed: tuple[Song, Evidence, Watching]) -> None:
    song, evidence, _ = analysed
    before = beside.pid
    with pytest.raises(Ended, match="nothing was lost"):
        beside.run(Odd("dies"), Watching())
    assert beside.run(Deciding(song, evidence, "chords", None), Watching()) == song  # its evidence is sent anew
    assert beside.pid not in (before, None)


def test_it_ends_with_its_parent() -> None:
    code = (
        "import os, time; from ychronos.session.beside import Beside; b = Beside(); b.warm(); "
        "print(b.pid, flush=True); time.sleep(1); os._exit(1)"
    )
    import subprocess
    import sys

    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False, timeout=60)
    there = Path(f"/proc/{int(done.stdout)}")
    for _ in range(200):
        if not there.exists() or " Z " in (there / "stat").read_text():
            return
        time.sleep(0.05)
    pytest.fail("it outlives its parent")


def test_where_none_can_be_had_is_an_error_of_the_system(monkeypatch: pytest.MonkeyPatch) -> None:
    alone = Beside()
    alone.close()
    with pytest.raises(OSError):
        alone.run(Odd("pid"), Watching())


# ---------------------------------------------------------------- the wire


def _there_and_back(value: object) -> Any:
    one, two = (Wire(end) for end in socket.socketpair(socket.AF_UNIX, socket.SOCK_STREAM))
    thread = threading.Thread(target=one.send, args=(value,))
    thread.start()
    out = two.receive()
    thread.join()
    one.close()
    with pytest.raises(EOFError):
        two.receive()
    two.close()
    return out


def _open_files() -> int:
    return len([*Path("/proc/self/fd").iterdir()])


def test_arrays_large_and_small_arrive_and_no_descriptor_stays() -> None:
    gc.collect()  # what other tests left open goes first
    before = _open_files()
    arrays = [np.arange(n, dtype=np.float32).reshape(-1, 1) for n in (0, 3, 50_000, 1_000_000)]
    back = _there_and_back((arrays, Fraction(3, 7), {"a": (1, None)}))
    for one, two in zip(arrays, back[0], strict=True):
        np.testing.assert_array_equal(one, two)
    assert back[1:] == (Fraction(3, 7), {"a": (1, None)})
    many = [np.full(20_000, i, np.float32) for i in range(300)]  # more than descriptors fit into a message
    assert [int(a[7]) for a in _there_and_back(many)] == list(range(300))
    del back, two
    gc.collect()
    assert _open_files() == before


def test_samples_on_disk_travel_as_their_file(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(recording, "IN_MEMORY_LIMIT", 1000)
    store = SampleStore()
    block = np.random.default_rng(1).random((5000, 2)).astype(np.float32)
    for _ in range(40):
        store.add(block)
    samples = store.finish(2)
    assert isinstance(samples, np.memmap)
    memory: list[int] = []
    monkeypatch.setattr(os, "memfd_create", lambda *a: memory.append(1))
    for sent in (samples, samples.reshape(-1)):
        back = _there_and_back(sent)
        assert back.shape == sent.shape
        np.testing.assert_array_equal(back, sent)
    assert not memory


def test_values_come_without_what_was_worked_out_from_them(analysed: tuple[Song, Evidence, Watching]) -> None:
    _, evidence, _ = analysed
    assert evidence.pulse is not None and "pulse" in vars(evidence)
    back = _there_and_back(evidence)
    assert "pulse" not in vars(back) and back.cents == evidence.cents


def test_pieces_are_the_same_for_equal_songs(analysed: tuple[Song, Evidence, Watching]) -> None:
    song, _, _ = analysed
    here: list[object] = []
    there: list[object] = []
    add_pieces(song, here)
    add_pieces(_there_and_back(song), there)
    assert here == there and len(here) > len(song.chords)
