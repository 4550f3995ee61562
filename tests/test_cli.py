"""The command line: files out, exit codes, sentences instead of tracebacks."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.conftest import KNOTS, make_song
from ychronos import __version__, cli
from ychronos.formats import project


def test_analyze_then_export(tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    out = tmp_path / "a song.ychronos"
    assert cli.run(["analyze", str(KNOTS), "--jams", str(tmp_path / "k.jams"), "--project", str(out)]) == cli.OK
    assert capfd.readouterr().out.startswith("Seven Knots and a Half\n")
    rows = {a["namespace"]: a["data"] for a in json.loads((tmp_path / "k.jams").read_text())["annotations"]}
    assert len(rows["beat_position"]) > 100
    assert all(0 <= r["confidence"] <= 1 for r in rows["chord_harte"])
    song = project.load(out)
    assert song.recording.path == str(KNOTS)
    assert song.log[-1].what == "analysed"
    pdf, text = tmp_path / "k.pdf", tmp_path / "k.txt"
    assert cli.run(["export", str(out), "--pdf", str(pdf), "--text", str(text), "--bars", "2"]) == cli.OK
    assert pdf.read_bytes().startswith(b"%PDF")
    assert text.read_text().startswith("Seven Knots and a Half\n")
    assert cli.run(["export", str(out), "--text", "-"]) == cli.OK
    assert "Seven Knots" in capfd.readouterr().out


@pytest.mark.parametrize(
    ("make", "word"),
    [
        (lambda p: None, "not there"),
        (lambda p: p.write_bytes(b""), "empty"),
        (lambda p: p.write_text("not sound at all\n" * 99), "not a recording"),
        (lambda p: soundfile.write(p, np.zeros((44100 * 6, 1)), 44100), "silent"),
        (lambda p: soundfile.write(p, np.random.default_rng(1).normal(0, 0.1, (44100 * 2, 1)), 44100), "lasts 2.0 s"),
    ],
)
def test_bad_recordings(tmp_path: Path, capfd: pytest.CaptureFixture[str], make, word: str) -> None:
    path = tmp_path / "tape.wav"
    make(path)
    assert cli.run(["analyze", str(path), "--project", str(tmp_path / "out.ychronos")]) == cli.BAD_INPUT
    error = capfd.readouterr().err
    assert word in error
    assert "Traceback" not in error
    assert not (tmp_path / "out.ychronos").exists()


def test_bad_outputs_and_uses(tmp_path: Path, capfd: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "s.ychronos"
    project.save(make_song(), path)
    assert cli.run(["export", str(path), "--pdf", str(tmp_path / "no" / "x.pdf")]) == cli.BAD_OUTPUT
    assert "does not exist" in capfd.readouterr().err
    assert cli.run(["export", str(path)]) == cli.BAD_USE
    assert cli.run(["export", str(tmp_path / "none.ychronos"), "--text", "-"]) == cli.BAD_INPUT
    assert cli.run(["analyze"]) == cli.BAD_USE
    assert cli.run(["analyze", "--nonsense"]) == cli.BAD_USE
    assert cli.run(["export", str(path), "--text", "-", "--bars", "99"]) == cli.BAD_USE


def test_help_teaches(capfd: pytest.CaptureFixture[str]) -> None:
    assert cli.run(["--help"]) == cli.OK
    assert "ychronos --demo" in capfd.readouterr().out
    assert cli.run(["analyze", "--help"]) == cli.OK
    out = capfd.readouterr().out
    assert "Example: ychronos analyze" in out
    assert "Exit codes" in out
    assert cli.run(["--version"]) == cli.OK
    assert __version__ in capfd.readouterr().out


def test_window_without_a_screen_says_so() -> None:
    clean = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    done = subprocess.run(
        [sys.executable, "-m", "ychronos"], env=clean, capture_output=True, text=True, timeout=60, check=False
    )
    assert done.returncode == 2
    assert "no screen" in done.stderr


def test_the_core_needs_no_qt() -> None:
    code = "import sys, ychronos.cli; sys.exit(any('PySide6' in m for m in sys.modules))"
    assert subprocess.run([sys.executable, "-c", code], timeout=60, check=False).returncode == 0


def ychronos(*words: str, cwd: Path | None = None, **more: object) -> subprocess.CompletedProcess:
    """The command as the shell runs it."""
    environment = {**os.environ, **more.pop("env", {})}  # type: ignore[dict-item]
    command = [sys.executable, "-m", "ychronos", *words]
    return subprocess.run(command, env=environment, cwd=cwd, timeout=60, check=False, stderr=subprocess.PIPE, **more)  # type: ignore[call-overload]


def test_what_the_terminal_cannot_show_or_take(tmp_path: Path) -> None:
    path = tmp_path / "s.ychronos"
    project.save(make_song("Bb F#m7b5 Eb Ab", key="Eb major"), path)
    plain = {"PYTHONIOENCODING": "latin-1", "PYTHONUTF8": "0"}
    done = ychronos("export", str(path), "--text", "-", stdout=subprocess.PIPE, env=plain)
    assert done.returncode == cli.OK and not done.stderr
    assert "Bb" in done.stdout.decode("latin-1"), "in plain signs where it lacks ours"
    with open("/dev/full", "w") as full:
        done = ychronos("export", str(path), "--text", "-", stdout=full)
    assert done.returncode == cli.BAD_OUTPUT
    assert done.stderr.decode().count("\n") == 1 and "could not be printed" in done.stderr.decode()
    reader, writer = os.pipe()
    os.close(reader)
    done = ychronos("export", str(path), "--text", "-", stdout=writer)
    os.close(writer)
    assert not done.stderr, "whoever read has seen enough"


def test_a_deleted_working_folder(tmp_path: Path) -> None:
    path = tmp_path / "s.ychronos"
    project.save(make_song(), path)
    gone = tmp_path / "gone"

    def run(*words: str) -> subprocess.CompletedProcess:
        gone.mkdir(exist_ok=True)
        command = f"cd '{gone}' && rmdir '{gone}' && exec '{sys.executable}' -m ychronos " + " ".join(words)
        return subprocess.run(command, shell=True, capture_output=True, timeout=60, check=False)

    assert run("--version").returncode == 0
    assert run("export", str(path), "--text", "-").returncode == 0
    done = run("export", "s.ychronos", "--text", "-")
    assert done.returncode == cli.BAD_USE
    assert "is not there any more" in done.stderr.decode()


def _is_loading(child: subprocess.Popen) -> bool:
    """Whether the interpreter is past its own start, when Ctrl+C is not ours to answer, and loads what we need."""
    return "numpy" in Path(f"/proc/{child.pid}/maps").read_text()


@pytest.mark.parametrize("delay", [0.0, 0.4, 1.0])
def test_ctrl_c_at_any_moment_is_one_sentence(delay: float, tmp_path: Path) -> None:
    words = [
        sys.executable,
        "-m",
        "ychronos",
        "analyze",
        str(KNOTS),
        "--no-cache",
        "-q",
        "--project",
        str(tmp_path / "o"),
    ]
    child = subprocess.Popen(words, stderr=subprocess.PIPE)
    while not _is_loading(child):
        time.sleep(0.01)
    time.sleep(delay)
    child.send_signal(signal.SIGINT)
    _, err = child.communicate(timeout=60)
    assert child.returncode == cli.INTERRUPTED
    assert err.decode() == "ychronos: stopped; nothing was written.\n"
    assert not list(tmp_path.iterdir())


def test_ctrl_c_when_all_is_done_harms_nothing(tmp_path: Path) -> None:
    path, out = tmp_path / "s.ychronos", tmp_path / "o.txt"
    project.save(make_song(), path)
    words = [sys.executable, "-m", "ychronos", "export", str(path), "--text", str(out)]
    child = subprocess.Popen(words, stderr=subprocess.PIPE)
    while not out.exists():
        assert child.poll() is None
        time.sleep(0.001)
    while child.poll() is None:  # also while the interpreter takes itself down
        child.send_signal(signal.SIGINT)
        time.sleep(0.001)
    told = child.communicate()[1].decode()
    assert (child.returncode, set(told.splitlines())) in (
        (cli.OK, set()),
        (cli.INTERRUPTED, {"ychronos: stopped; nothing more was written."}),
    )
    assert out.read_text()


def test_links_that_lead_nowhere_and_a_fault_of_ours(tmp_path: Path, capfd, monkeypatch: pytest.MonkeyPatch) -> None:
    loop = tmp_path / "a.ogg"
    loop.symlink_to(loop)
    assert cli.run(["analyze", str(loop), "-q"]) == cli.BAD_INPUT
    path, link = tmp_path / "s.ychronos", tmp_path / "l.ychronos"
    project.save(make_song(), path)
    link.symlink_to(path)
    assert cli.run(["analyze", str(KNOTS), "-q", "--project", str(link)]) == cli.OK
    assert link.is_symlink() and project.load(path).title == "Seven Knots and a Half"

    def broken(*_: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(project, "load", broken)
    capfd.readouterr()
    assert cli.run(["export", str(path), "--text", "-"]) == cli.INNER
    err = capfd.readouterr().err
    assert "ZeroDivisionError" in err and err.count("\n") == 1


def test_a_plain_locale_changes_nothing(tmp_path: Path) -> None:
    path = tmp_path / "k.ychronos"
    project.save(make_song("Bb F#m7b5 Eb Ab", key="Eb major"), path)
    plain = {**os.environ, "LC_ALL": "C", "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0"}
    command = [sys.executable, "-m", "ychronos", "export", str(path), "--text", "-"]
    done = subprocess.run(command, env=plain, capture_output=True, check=False, timeout=60)
    assert done.returncode == 0, done.stderr
    assert b"Shapes, standard tuning" in done.stdout and b"Bb" in done.stdout
