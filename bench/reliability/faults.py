"""One fault at a time: what does the program say, and is anything lost?

Each scene runs in a child of its own with a home of its own; full disks are small tmpfs in a mount namespace of the
child, missing rights are real (root gives up its override). A scene notes what the program said and what is bad.

    faults.py --app PYTHON [--only save_full recover_full] [--count 1]
"""

from __future__ import annotations

import functools
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import threading
import time
import traceback
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
import common

SCENES: dict[str, tuple] = {}


def scene(
    words: str,
    tmpfs: dict[str, str] | None = None,
    rights: bool = True,
    env: dict[str, str] | None = None,
    seconds: float = 120.0,
):
    """Register a scene. ``tmpfs``: folder under the scene's -> size; ``rights`` False: without root's override."""

    def register(function):
        SCENES[function.__name__.removeprefix("scene_")] = (function, words, tmpfs or {}, rights, env or {}, seconds)
        return function

    return register


class Stage:
    """What a scene has to work with."""

    def __init__(self, plan: dict) -> None:
        self.plan = plan
        self.folder = Path(plan["folder"])
        self.song = Path(plan["song"])  # a recording
        self.short = Path(plan["short"])  # eight seconds of it
        self.project = self.folder / "work" / "song.ychronos"
        self.project.parent.mkdir(parents=True, exist_ok=True)
        if not self.project.exists():
            shutil.copy(plan["project"], self.project)
        self.rng = random.Random(plan["seed"])
        self.raised: list[str] = []
        self.windows: list = []

    def note(self, text: str) -> None:
        print(json.dumps({"saw": text}), flush=True)

    def bad(self, text: str) -> None:
        print(json.dumps({"bad": text}), flush=True)

    def check(self, good: bool, text: str) -> None:
        if not good:
            self.bad(text)

    # ---- the window

    def window(self, path: Path | None = None):
        import acts

        if not self.windows:
            sys.excepthook = lambda kind, error, tb: (
                self.raised.append(common.cause_of(error.with_traceback(tb)) + f": {error}"[:150]),
                traceback.print_exception(kind, error, tb),
            )
        w = acts.make_window()
        self.windows.append(w)
        if path is not None:
            acts.open_and_wait(w, path, 90)
        return w

    def say_notice(self, w) -> str:
        text = w.notice.words.text() if w.notice.isVisible() else ""
        self.note(f"notice: {text}  [{', '.join(w.notice.choices)}]" if text else "no notice")
        return text

    def state(self, w, what: str = "G", at: int = 8) -> object:
        """State a chord and wait until what follows is decided."""
        from fractions import Fraction

        import acts

        from ychronos.theory.chord import parse_chord

        w.session.select(Fraction(at), chord=False)
        ok = w.session.state_chord(parse_chord(what))
        self.check(ok, f"{what} could not be stated")
        acts.settle(w)
        return w.session.song

    def wait_autosave(self, w, seconds: float = 6) -> bool:
        import acts

        for _ in range(int(seconds * 10)):
            if w.keeper.journal.path.exists():
                return True
            acts.pause(100)
        return False

    def journal(self, w):
        """The song that the window's journal holds."""
        from ychronos.session.journal import replay

        return replay(w.keeper.journal.path).song

    def offered(self, w) -> list:
        """What the page of unsaved work lists, after it was looked at."""
        entries = w.unfinished.entries if w.offer_recovery() else []
        for work, _, _ in entries:
            self.note(f"page: {work.title}: {work.describe()}")
        return entries

    def autosaves(self) -> Path:
        from ychronos.paths import state_folder

        return state_folder() / "unsaved"

    def stated(self, song) -> set:
        return {(c.start, c.chord) for c in song.chords if c.stated}

    def cli(self, *words: str, env: dict | None = None, cwd: Path | None = None, timeout: float = 90, **more):
        done = subprocess.run(
            [sys.executable, "-m", "ychronos", *words],
            env={**os.environ, **(env or {})},
            cwd=cwd,
            capture_output=not more,
            timeout=timeout,
            **more,
        )
        err = (done.stderr or b"").decode(errors="replace")
        self.note(
            f"ychronos {' '.join(w if len(w) < 40 else '…' + w[-30:] for w in words)!r}: exit {done.returncode}, {err.strip()[-230:]!r}"
        )
        if "Traceback" in err:
            self.bad(f"command line: traceback {err.strip().splitlines()[-1][:140]}")
        return done, err

    def leave(
        self, path: Path | None = None, kill_after_autosave: bool = True, seed: int = 0, tag: str = "left"
    ) -> dict:
        """Another process edits and is killed after its autosave; returns what it had stated."""
        plan = dict(self.plan, path=str(path or self.project), tag=tag)
        done = subprocess.run(
            [sys.executable, __file__, "--role", "leave", json.dumps(plan)],
            env=dict(os.environ),
            capture_output=True,
            text=True,
            timeout=120,
        )
        lines = [json.loads(x) for x in done.stdout.splitlines() if x.startswith("{")]
        if not lines:
            raise RuntimeError(f"the helper did not work: {done.stderr[-400:]}")
        return lines[-1]


def full(folder: Path) -> Path:
    """Fill the file system of a folder to the last byte."""
    filler = folder / "filler"
    with open(filler, "wb", buffering=0) as file:
        size = 1 << 16
        while size:
            try:
                file.write(b"x" * size)
            except OSError:
                size //= 2
    return filler


# ------------------------------------------------------------ disk full


@scene("the project's disk is full on Save", tmpfs={"work": "160k"})
def scene_save_full(s: Stage) -> None:
    import acts

    from ychronos.app import files

    w = s.window(s.project)
    song = s.state(w)
    before = s.project.read_bytes()
    filler = full(s.project.parent)
    w.actions_.actions["save"].trigger()
    text = s.say_notice(w)
    s.check("full" in text, "no word about the full disk")
    s.check(s.project.read_bytes() == before, "the older project was changed")
    s.check(w.session.dirty and w.session.song is song, "the work counts as saved")
    s.check(s.wait_autosave(w), "no autosave")
    filler.unlink()
    s.check(files.save(w), "not saved after there was room again")
    from ychronos.formats import project

    s.check(s.stated(project.load(s.project)) == s.stated(song), "another song was saved")
    s.check(not [p for p in s.project.parent.iterdir() if p.name.startswith(".")], "temporary files are left")
    acts.pause(10)


@scene("the disk of the user's state is full while autosaving", tmpfs={"home/state": "160k"})
def scene_autosave_full(s: Stage) -> None:

    w = s.window(s.project)
    s.state(w, "G", 8)
    s.check(s.wait_autosave(w), "no autosave while there was room")
    first = s.stated(s.journal(w))
    filler = full(s.folder / "home" / "state")
    import acts

    for i in range(40):
        first = s.stated(s.journal(w))
        s.state(w, ("E7", "A9")[i % 2], 16 + i % 7)
        if not w.session.kept:
            break
        s.check(s.stated(s.journal(w)) == s.stated(w.session.song), "acknowledged, but not in the journal")
    text = s.say_notice(w)
    s.check("cannot be kept safe" in text, "no word that unsaved work is not kept")
    # the statement itself may still have been kept, and only what was decided after it not
    kept = s.stated(s.journal(w))
    s.check(kept in (first, s.stated(w.session.song)), "the older journal was damaged")
    # three minutes without another edit: does it try again by itself when there is room?
    filler.unlink()
    acts.pause(6000)
    now = s.stated(s.journal(w))
    s.check(now != first, "there is room again, but what was not kept is not tried again until the next edit")


@scene("the disk of the user's state is full while restoring after a crash", tmpfs={"home/state": "160k"})
def scene_recover_full(s: Stage) -> None:
    left = s.leave()
    s.note(f"left behind: {left['stated']} stated chords")
    full(s.folder / "home" / "state")
    w = s.window()
    s.offered(w)[0][1].click()
    import acts

    acts.settle(w)
    s.say_notice(w)
    s.check(w.session.song is not None, "it was not restored")
    copies = list(s.autosaves().glob("*.journal"))
    s.check(
        bool(copies),
        "the only copy on disk was deleted although the new one could not be written: a second crash loses all",
    )


@scene("the disk is full while charts, JAMS and sound are written", tmpfs={"out": "40k"})
def scene_export_full(s: Stage) -> None:
    import acts

    from ychronos.app import files
    from ychronos.app.desk import heard
    from ychronos.audio.decode import AudioError
    from ychronos.formats import jams, pdfchart

    out = s.folder / "out"
    w = s.window(s.project)
    full(out)
    for name, run in (
        ("c.pdf", lambda p: files.export_to(w, p, pdfchart.render(w.session.song))),
        ("c.jams", lambda p: files.export_to(w, p, jams.dumps(w.session.song))),
        ("c.flac", lambda p: w.tape.export(p)),
        ("c.mp3", lambda p: heard.write_heard(w, p)),
        ("c.wav", lambda p: heard.write_heard(w, p)),
    ):
        w.notice.hide()
        try:
            run(out / name)
            acts.settle(w, 300)
        except AudioError as error:
            w.notice.say(str(error))
        text = s.say_notice(w)
        s.check("not w" in text or "not s" in text, f"no word about {name}: {text!r}")
        s.check("Something went wrong" not in text, f"{name}: an inner error: {text}")
        s.check(not (out / name).exists(), f"half of {name} lies under its name")
    left = [p.name for p in out.iterdir() if p.name != "filler"]
    s.check(not left, f"left lying: {left}")


@scene("the disk of the settings is full", tmpfs={"home/config": "4k"})
def scene_settings_full(s: Stage) -> None:
    full(s.folder / "home" / "config")
    w = s.window(s.project)
    s.state(w)
    w.close()
    s.note("closed")


@scene("the disk of the cache is full", tmpfs={"cache2": "16k"}, env={"XDG_CACHE_HOME": "{folder}/cache2"})
def scene_cache_full(s: Stage) -> None:
    full(s.folder / "cache2")
    w = s.window(s.short)
    s.say_notice(w)
    s.check(w.session.song is not None, "it was not analysed without a cache")


@scene(
    "the disk for temporary files is full with a long recording",
    tmpfs={"temporary": "16k"},
    env={"TMPDIR": "{folder}/temporary"},
)
def scene_tmp_full(s: Stage) -> None:
    import tempfile

    from ychronos.audio import recording

    recording.IN_MEMORY_LIMIT = 100_000
    full(s.folder / "temporary")
    tempfile.tempdir = str(s.folder / "temporary")  # else Python takes another place, since this one is full already
    import acts

    w = s.window()
    w.session.jobs.beside = None  # the process beside would not have the small limit
    acts.open_and_wait(w, s.song, 90)
    text = s.say_notice(w)
    s.check("Something went wrong" not in text and bool(text), f"not a clear word: {text!r}")
    w.close_document()
    recording.IN_MEMORY_LIMIT = 1 << 40
    acts.open_and_wait(w, s.song, 90)
    s.check(w.session.song is not None, "the window does not go on")


@scene("command line on a full disk and into a closed pipe", tmpfs={"out": "8k"})
def scene_cli_full(s: Stage) -> None:
    out = s.folder / "out"
    full(out)
    done, err = s.cli("analyze", str(s.short), "-q", "--project", str(out / "x.ychronos"))
    s.check(done.returncode == 4, f"exit code {done.returncode}, not 4, on a full disk")
    done, err = s.cli("export", str(s.project), "--pdf", str(out / "x.pdf"))
    s.check(done.returncode == 4, f"exit code {done.returncode}, not 4, on a full disk")
    with open("/dev/full", "w") as nowhere:
        done = subprocess.run(
            [sys.executable, "-m", "ychronos", "export", str(s.project), "--text", "-"],
            stdout=nowhere,
            stderr=subprocess.PIPE,
            timeout=60,
        )
    err = done.stderr.decode(errors="replace")
    s.note(f"export --text - > /dev/full: exit {done.returncode}, {err.strip()[-200:]!r}")
    s.check(
        done.returncode == 4 and "Traceback" not in err,
        f"export --text - to a full disk: exit {done.returncode}, {'traceback' if 'Traceback' in err else err[-100:]!r}",
    )
    done = subprocess.run(
        f"'{sys.executable}' -m ychronos export '{s.project}' --text - | head -1",
        shell=True,
        capture_output=True,
        timeout=60,
    )
    err = done.stderr.decode(errors="replace")
    s.note(f"export --text - | head -1: {err.strip()[-200:]!r}")
    s.check("Traceback" not in err and "Exception" not in err, f"a closed pipe: {err.strip()[-160:]!r}")


# ------------------------------------------------------------ rights


@scene("a project in a read-only folder", rights=False)
def scene_read_only(s: Stage) -> None:
    w = s.window(s.project)
    s.state(w)
    s.project.parent.chmod(0o555)
    try:
        w.actions_.actions["save"].trigger()
        text = s.say_notice(w)
        s.check("may not be written" in text, "no word about the folder")
        s.check(w.session.dirty, "it counts as saved")
        done, _ = s.cli("export", str(s.project), "--pdf", str(s.project.parent / "x.pdf"))
        s.check(done.returncode == 4, f"exit code {done.returncode}, not 4")
    finally:
        s.project.parent.chmod(0o755)


@scene("a read-only project file in a folder that may be written", rights=False)
def scene_read_only_file(s: Stage) -> None:
    w = s.window(s.project)
    s.state(w)
    s.project.chmod(0o444)
    before = s.project.read_bytes()
    w.actions_.actions["save"].trigger()
    s.say_notice(w)
    if s.project.read_bytes() != before:
        s.bad("a write-protected project was overwritten without a word")


@scene("a recording and a project that may not be read", rights=False)
def scene_no_read(s: Stage) -> None:
    path = s.folder / "tape.ogg"
    shutil.copy(s.short, path)
    path.chmod(0)
    s.project.chmod(0)
    w = s.window(path)
    text = s.say_notice(w)
    s.check("may not be read" in text, f"unclear: {text!r}")
    import acts

    acts.open_and_wait(w, s.project)
    text = s.say_notice(w)
    s.check("cannot be opened" in text, f"unclear: {text!r}")
    done, _ = s.cli("analyze", str(path), "-q")
    s.check(done.returncode == 3, f"exit code {done.returncode}, not 3")


@scene("home, state, settings and cache may not be written", rights=False)
def scene_home_read_only(s: Stage) -> None:
    home = s.folder / "home"
    for name in ("state", "config", "cache"):
        (home / name).mkdir(parents=True, exist_ok=True)
        (home / name).chmod(0o555)
    os.environ["XDG_CACHE_HOME"] = str(home / "cache")
    w = s.window(s.short)
    s.check(w.session.song is not None, "nothing works without a home that can be written")
    s.state(w, "G", 4)
    import acts

    acts.pause(2500)
    text = s.say_notice(w)
    s.check("cannot be kept" in text, f"no word that unsaved work is not kept: {text!r}")
    w.close()
    for name in ("state", "config", "cache"):
        (home / name).chmod(0o755)


@scene("there is no home", rights=False)
def scene_no_home(s: Stage) -> None:
    bare = {k: v for k, v in os.environ.items() if not k.startswith("XDG_")}
    (s.folder / "bare").mkdir()
    (s.folder / "bare").chmod(0o555)
    bare["HOME"] = str(s.folder / "bare" / "home")  # is not there and cannot be made
    for env in (bare, {k: v for k, v in bare.items() if k != "HOME"}):
        if "HOME" not in env:
            env = dict(env, YCHRONOS_CACHE=str(s.folder / "c"))
        done = subprocess.run(
            [
                sys.executable,
                "-m",
                "ychronos",
                "analyze",
                str(s.short),
                "-q",
                "--project",
                str(s.folder / "x.ychronos"),
            ],
            env=env,
            capture_output=True,
            timeout=90,
        )
        err = done.stderr.decode(errors="replace")
        s.note(f"analyze with HOME={env.get('HOME', '(unset)')}: exit {done.returncode} {err[-200:]!r}")
        s.check(
            done.returncode == 0 and "Traceback" not in err,
            f"analyze without a home: exit {done.returncode} {err[-160:]!r}",
        )
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); import acts; from pathlib import Path; w = acts.make_window();"
        "acts.open_and_wait(w, Path(sys.argv[2])); print(w.session.song is not None); from fractions import Fraction;"
        "w.session.select(Fraction(4)); from ychronos.theory.chord import parse_chord; w.session.state_chord(parse_chord('G'));"
        "acts.settle(w); acts.pause(2500); print(w.notice.words.text()); w.close()"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(Path(__file__).parent), str(s.short)],
        env=bare,
        capture_output=True,
        timeout=90,
        text=True,
    )
    s.note(f"window: {done.stdout.strip()!r} {done.stderr.strip()[-200:]!r}")
    s.check("True" in done.stdout and "Traceback" not in done.stderr, f"window without a home: {done.stderr[-200:]!r}")
    s.check("cannot be kept" in done.stdout, "window without a home: no word that unsaved work is not kept")


# ------------------------------------------------------------ the recording


@scene("the recording vanishes while it is read and analysed", env={"XDG_CACHE_HOME": "{folder}/cache3"}, seconds=240)
def scene_vanish(s: Stage) -> None:
    import acts

    w = s.window()
    for i, delay in enumerate((0, 1, 5, 20, 60, 150, 400, 900)):
        path = s.folder / f"gone{i}.ogg"
        path.write_bytes(s.song.read_bytes() + b"\0" * (i + 1))
        w.notice.hide()
        w.open_path(path)
        acts.pause(delay)
        path.unlink()
        s.check(acts.settle(w, 90), f"after {delay} ms: it never ended")
        text = w.notice.words.text() if w.notice.isVisible() else ""
        s.note(f"after {delay} ms: song {w.session.song is not None}, {text!r}")
        s.check(
            w.session.song is not None or "not there" in text, f"after {delay} ms: neither a song nor a word: {text!r}"
        )
        s.check("Something went wrong" not in text, f"after {delay} ms: {text}")
        w.close_document()


@scene("the recording is still being copied while it is opened", env={"XDG_CACHE_HOME": "{folder}/cache3"})
def scene_growing(s: Stage) -> None:
    import hashlib

    import acts

    path = s.folder / "growing.ogg"
    data = s.song.read_bytes()
    path.write_bytes(data[: len(data) // 2])
    w = s.window()
    w.open_path(path)
    acts.pause(30)
    with open(path, "ab") as file:
        file.write(data[len(data) // 2 :])
    acts.settle(w, 120)
    s.say_notice(w)
    song = w.session.song
    if song is not None:
        whole = hashlib.sha256(path.read_bytes()).hexdigest()
        heard = song.recording.duration
        s.note(f"duration {heard:.1f} s, hash is the whole file's: {song.recording.sha256 == whole}")
        from ychronos.audio import recording

        real = recording.load(path, keep_samples=False).duration
        if song.recording.sha256 == whole and abs(real - heard) > 1:
            s.bad(
                f"the evidence of half a file ({heard:.1f} of {real:.1f} s) is kept under the whole file's hash: it will be wrong for ever"
            )


@scene("project and recording are moved together, alone, and back")
def scene_moved(s: Stage) -> None:
    import acts

    from ychronos.formats import project

    home = s.folder / "tapes"
    home.mkdir()
    tape = home / "tape.ogg"
    shutil.copy(s.song, tape)
    w = s.window(s.project)
    w.relink(tape)
    acts.settle(w)
    from ychronos.app import files

    s.check(files.save_to(w, home / "p.ychronos"), "not saved")
    w.close_document()
    # together
    shutil.move(home, s.folder / "moved")
    acts.open_and_wait(w, s.folder / "moved" / "p.ychronos")
    s.say_notice(w)
    s.check(w.session.recording is not None, "moved together: the recording is not found beside the project")
    w.close_document()
    # the recording stays where it is (a disk that is not mounted now); the project goes elsewhere, is opened and saved
    usb = s.folder / "usb"
    usb.mkdir()
    shutil.move(s.folder / "moved" / "tape.ogg", usb / "tape.ogg")
    acts.open_and_wait(w, s.folder / "moved" / "p.ychronos")
    s.say_notice(w)
    w.relink(usb / "tape.ogg")
    acts.settle(w)
    files.save(w)
    w.close_document()
    os.rename(usb, s.folder / "unplugged")
    deep = s.folder / "a" / "b" / "c"
    deep.mkdir(parents=True)
    shutil.move(s.folder / "moved" / "p.ychronos", deep / "p.ychronos")
    acts.open_and_wait(w, deep / "p.ychronos")
    text = s.say_notice(w)
    s.check("its recording is not" in text, "no word that the recording is missing")
    s.state(w, "E7", 12)
    files.save(w)
    kept = json.loads((deep / "p.ychronos").read_bytes())["recording"]
    w.close_document()
    os.rename(s.folder / "unplugged", usb)  # plugged in again
    song = project.load(deep / "p.ychronos")
    s.note(f"kept: {kept['path']}, {kept['absolute']}")
    s.check(
        Path(song.recording.path).is_file(),
        "saved once while the recording's disk was away and the project moved, the project has forgotten where the recording was: it is not found although it is back at its place",
    )


@scene("the recording was exchanged for a shorter one since the project was saved")
def scene_changed(s: Stage) -> None:
    from fractions import Fraction

    import acts

    from ychronos.app import files
    from ychronos.session.commands import count

    tape = s.folder / "tape.ogg"
    shutil.copy(s.song, tape)
    w = s.window(s.project)
    w.relink(tape)
    acts.settle(w)
    path = s.folder / "p.ychronos"
    files.save_to(w, path)
    w.close_document()
    shutil.copy(s.short, tape)  # eight seconds
    acts.open_and_wait(w, path)
    text = s.say_notice(w)
    s.check("is not the recording" in text, "no word that it is another recording")
    before = w.session.song
    bars, last = len(before.grid.bars), before.grid.times[-1]
    s.state(w, "E7", int(before.grid.end) - 6)
    text = s.say_notice(w)
    s.check("Something went wrong" not in text, f"a chord stated beyond the end of the other recording: {text}")
    w.notice.hide()
    w.session.select(Fraction(9))
    count.one_is_here(w.session)
    acts.settle(w)
    text = s.say_notice(w)
    after = w.session.song
    s.note(f"bars {bars} -> {len(after.grid.bars)}, last beat {last:.1f} -> {after.grid.times[-1]:.1f} s")
    s.check("Something went wrong" not in text, f"'one is here' with another recording: {text}")
    changed = sum(
        a != b for a, b in zip([(c.start, c.chord) for c in before.chords], [(c.start, c.chord) for c in after.chords])
    )
    s.check(
        changed <= 3 and len(after.chords) >= len(before.chords) - 3,
        f"after one statement the chords of the whole song were decided again from another recording: {len(before.chords)} -> {len(after.chords)} spans, {changed} differ, last chord at {float(after.chords[-1].start):.0f} of {float(after.grid.end):.0f} beats",
    )


@scene("'Find the recording' is given a file that is no recording")
def scene_relink_bad(s: Stage) -> None:
    import acts

    from ychronos.app import files
    from ychronos.formats import project

    w = s.window(s.project)
    letter = s.folder / "letter.txt"
    letter.write_text("Dear station")
    was = w.session.song.recording.path
    w.relink(letter)
    acts.settle(w)
    s.say_notice(w)
    s.note(f"the project's recording is now {w.session.song.recording.path}")
    files.save(w)
    s.check(
        project.load(s.project).recording.path == was,
        "the project now names a text file as its recording; the right path is gone when saved",
    )


# ------------------------------------------------------------ two windows, order of things


@scene("two windows on one project")
def scene_two_windows(s: Stage) -> None:
    from ychronos.app import files
    from ychronos.formats import project

    one, two = s.window(s.project), s.window(s.project)
    a = s.stated(s.state(one, "E7", 12)) - s.stated(project.load(s.project))
    b = s.stated(s.state(two, "A9", 24))
    s.check(files.save(one), "not saved")
    saved = files.save(two)
    s.check(saved or two.notice.isVisible(), "not saved, and nothing is said")
    s.say_notice(two)
    s.say_notice(one)
    now = s.stated(project.load(s.project))
    s.note(f"one stated {len(a)}, in the file now: {len(a & now)} of them")
    s.check(a <= now, "the second window's Save overwrote what the first had saved, without a word")
    del b


@scene("the project was changed on disk by something else since it was opened")
def scene_changed_on_disk(s: Stage) -> None:
    from ychronos.app import files

    w = s.window(s.project)
    s.state(w)
    other = json.loads(s.project.read_bytes())
    other["title"] = "From the other machine"
    s.project.write_text(json.dumps(other))
    os.utime(s.project, (time.time() + 5,) * 2)
    files.save(w)
    s.say_notice(w)
    s.check(
        json.loads(s.project.read_bytes())["title"] == "From the other machine" or w.notice.isVisible(),
        "Save overwrote a newer file (a synchronised folder) without a word",
    )


@scene("after a crash the project itself is worked on and saved; then the old unsaved work is restored and saved")
def scene_stale_offer(s: Stage) -> None:
    import acts

    from ychronos.app import files
    from ychronos.formats import project

    s.leave()
    w = s.window(s.project)  # opened by its file: the offer does not stay
    new = s.stated(s.state(w, "A9", 24))
    files.save(w)
    w.close()
    time.sleep(1)
    again = s.window()
    entries = s.offered(again)
    text = entries[0][0].describe()
    entries[0][1].click()
    acts.settle(again)
    s.say_notice(again)
    files.save(again)
    s.say_notice(again)
    now = s.stated(project.load(s.project))
    s.check(
        new <= now or "saved since" in text,
        "work from before a later Save is offered without a word that the project was saved since; restored and saved it replaces the newer project",
    )


@scene("two starts after one crash, both restore")
def scene_two_restores(s: Stage) -> None:
    import acts

    s.leave()
    one, two = s.window(), s.window()
    a, b = s.offered(one), s.offered(two)
    s.check(bool(a) and bool(b), "not offered to both")
    a[0][1].click()
    acts.settle(one)
    b[0][1].click()
    acts.settle(two)
    s.check(two.session.song is not None, "the second could not open what it listed")
    s.say_notice(two)
    s.check(one.session.song is not None, "nothing restored")


@scene("a crash, then the program is started on the project itself (a double click in the file manager)")
def scene_start_with_file(s: Stage) -> None:
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    left = s.leave()
    s.note(f"left behind: {left}")
    found: dict = {}

    def look() -> None:
        from ychronos.app.window import Window

        w = next(x for x in QApplication.topLevelWidgets() if isinstance(x, Window))
        if w.job is not None:
            QTimer.singleShot(200, look)
            return
        found.update(
            text=w.notice.words.text() if w.notice.isVisible() else "",
            choices=list(w.notice.choices),
            stated=len(s.stated(w.session.song)) if w.session.song else None,
        )
        QApplication.exit(0)

    from ychronos.app import start

    start.make_app([])
    QTimer.singleShot(4000, look)
    start.run([str(s.project)])
    s.note(f"after the start: {found}")
    s.check(
        "Restore" in found.get("choices", []) and "not saved" in found.get("text", ""),
        "the offer to restore is hidden at once by opening the file: the user sees the old project and no word of the unsaved work",
    )


@scene("unsaved work of two crashes: is the second offered after the first is restored?")
def scene_two_left(s: Stage) -> None:
    import acts

    s.leave(tag="one")
    other = s.folder / "work" / "other.ychronos"
    shutil.copy(s.project, other)
    s.leave(other, tag="two")
    w = s.window()
    entries = s.offered(w)
    s.check(len(entries) == 2, "not both are listed")
    entries[0][1].click()
    acts.settle(w)
    s.say_notice(w)
    s.check("Show" in w.notice.choices and w.notice.isVisible(), "after restoring one, the other is not mentioned")
    s.check(len(list(s.autosaves().glob("*.journal"))) == 2, "one of the two is gone from the disk")


@scene("the newest unsaved work is damaged, an older one is good")
def scene_left_damaged(s: Stage) -> None:
    import acts

    s.leave(tag="good")
    s.leave(tag="bad")
    newest = max(s.autosaves().glob("*.journal"), key=lambda p: p.stat().st_mtime)
    newest.write_bytes(newest.read_bytes()[:200])
    w = s.window()
    entries = s.offered(w)
    kept = [p for p in s.autosaves().rglob("*.journal")]
    s.check(len(kept) == 2, "the damaged work was deleted")
    s.check(len(entries) == 1, "the good work behind a damaged one cannot be reached")
    entries[0][1].click()
    acts.settle(w)
    s.check(w.session.song is not None, "not restored")


@scene("the crashed process's number belongs to another process now (after a restart of the machine)")
def scene_pid_reused(s: Stage) -> None:
    s.leave()
    from ychronos.session import journal

    path = next(s.autosaves().glob("*.journal"))
    for who, pid in (("the system's first process", 1), ("a shell of the user", os.getppid())):
        head, rest = journal.read_head(path), path.read_bytes().partition(b"\n")[2]
        head.process = pid
        path.write_bytes(journal._line(head) + rest)
        w = s.window()
        s.check(bool(s.offered(w)), f"unsaved work is never offered while {who} has the number of the crashed process")
        w.close()


@scene("the clock was set back between two crashes")
def scene_clock_back(s: Stage) -> None:
    s.leave(tag="first")
    from ychronos.session import journal

    path = next(s.autosaves().glob("*.journal"))
    head, rest = journal.read_head(path), path.read_bytes().partition(b"\n")[2]
    head.when = "2031-01-01T00:00:00"  # its machine's clock ran ahead
    path.write_bytes(journal._line(head) + rest)
    os.utime(path, (time.time() - 60,) * 2)
    s.leave(tag="two")
    w = s.window()
    entries = s.offered(w)
    s.check(len(entries) == 2, "not both are listed")


@scene("stated, autosaved, undone back to the saved state, then a crash")
def scene_undo_then_crash(s: Stage) -> None:
    w = s.window(s.project)
    s.state(w, "E7", 12)
    s.check(s.wait_autosave(w), "no autosave")
    w.session.undo()
    import acts

    acts.pause(3000)
    s.check(not w.session.dirty, "undo to the saved state still counts as changed")
    s.check(
        not w.keeper.journal.path.exists(),
        "the autosave still holds what was undone: after a crash the program offers 'unsaved changes' that the user took back",
    )


@scene("edits each second for a minute, then a kill: how old is the newest autosave?", seconds=150)
def scene_never_quiet(s: Stage) -> None:
    from fractions import Fraction

    import acts

    from ychronos.song import edits

    w = s.window(s.project)
    begin = time.monotonic()
    newest = 0.0
    n = 0
    seconds = 20 if s.plan["quick"] else 60
    while time.monotonic() - begin < seconds:
        n += 1
        w.session.edit(lambda x: edits.set_mark(x, Fraction(n % 60), f"{n}"))
        acts.pause(1000)
        if w.keeper.journal.path.exists():
            newest = time.monotonic() - begin
    s.note(
        f"{n} statements in {seconds} s; newest autosave: {newest:.0f} s after the first, so {seconds - newest:.0f} s of work would be lost"
    )
    s.check(
        seconds - newest < 5,
        f"one statement a second: nothing was autosaved for {seconds - newest:.0f} s; the timer of 1.5 s begins again at each statement",
    )


@scene("a polite end (SIGTERM, SIGHUP, SIGINT) right after a statement")
def scene_polite(s: Stage) -> None:
    for name in ("SIGTERM", "SIGHUP", "SIGINT"):
        shutil.rmtree(s.autosaves(), ignore_errors=True)
        plan = dict(s.plan, path=str(s.project), signal=name)
        child = subprocess.Popen(
            [sys.executable, __file__, "--role", "polite", json.dumps(plan)],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env=dict(os.environ),
        )
        assert child.stdout is not None
        line = child.stdout.readline()
        while line and not line.startswith("{"):
            line = child.stdout.readline()
        child.send_signal(getattr(signal, name))
        asked: list[str] = []
        reader = threading.Thread(
            target=lambda out=child.stdout: asked.extend(x for x in out if "asks" in x), daemon=True
        )
        reader.start()
        try:
            child.wait(20)
        except subprocess.TimeoutExpired:
            child.kill()
            s.check(bool(asked), f"{name}: the window did not end and does not ask")
            s.note(f"{name}: {asked[0].strip() if asked else ''}")
            continue
        kept = list(s.autosaves().glob("*.journal"))
        s.note(f"{name}: exit {child.returncode}, kept on disk: {len(kept)}")
        s.check(bool(kept), f"{name} (a session's end) half a second after a statement: nothing is kept of it")


@scene("a statement made while the analysis still goes on", env={"XDG_CACHE_HOME": "{folder}/cache4"})
def scene_state_while_analysing(s: Stage) -> None:
    from fractions import Fraction

    import acts

    from ychronos.song import edits
    from ychronos.theory.chord import parse_chord

    path = s.folder / "new.ogg"
    path.write_bytes(s.song.read_bytes() + b"\0")
    w = s.window()
    said: list[str] = []
    w.session.said.connect(said.append)
    w.open_path(path)
    for _ in range(6000):
        acts.pause(5)
        if w.session.song is not None:
            break
    working, begin = w.job is not None, time.monotonic()
    w.session.select(Fraction(8))
    one = w.session.edit(lambda x: edits.set_mark(x, Fraction(8), "listen here"))
    two = w.session.state_chord(parse_chord("F#m7b5"))
    s.note(f"stated while it works ({working}): {one}, {two}; the program said {said}")
    acts.settle(w)
    s.note(
        f"the song was shown {time.monotonic() - begin:.1f} s before the analysis of {w.session.recording.duration:.0f} s of sound was over"
    )
    song = w.session.song
    marks = [m.text for m in song.marks]
    chord = any(c.stated for c in song.chords)
    s.say_notice(w)
    if working and one and two:
        s.check(
            "listen here" in marks,
            "a mark set while the analysis went on was acknowledged and is gone when it ended, without a word",
        )
        s.check(
            chord,
            "a chord stated while the analysis went on was acknowledged and is gone when it ended, without a word",
        )


@scene("a statement that decides beats again, and another right after it")
def scene_quick_second(s: Stage) -> None:
    from fractions import Fraction

    import acts

    from ychronos.song import edits

    def run(quick: bool):
        w = s.window(s.project)
        tempo = w.session.song.grid.tempo()
        w.session.select(Fraction(8))
        w.session.edit(lambda x: edits.set_tempo(x, tempo * 0.75), decide="beats")
        if not quick:
            acts.settle(w)
        w.session.edit(lambda x: edits.set_mark(x, Fraction(2), "here"))
        acts.settle(w)
        acts.pause(500)
        song = w.session.song
        w.close_document()
        return song

    slow, fast = run(False), run(True)
    same = slow.grid.times == fast.grid.times and [c.chord for c in slow.chords] == [c.chord for c in fast.chords]
    s.note(
        f"slow: {len(slow.grid.times)} beats, {len(slow.chords)} chords; quick: {len(fast.grid.times)} beats, {len(fast.chords)} chords"
    )
    s.check(
        same,
        "a second statement within the time that deciding again takes throws away what followed from the first: the chart is another one than after a pause",
    )


@scene("the song is changed and the window closed with Save on a full disk", tmpfs={"work": "160k"})
def scene_close_full(s: Stage) -> None:
    from PySide6.QtWidgets import QMessageBox

    w = s.window(s.project)
    s.state(w)
    full(s.project.parent)
    w.ask_save = lambda _: QMessageBox.StandardButton.Save
    w.close()
    s.say_notice(w)
    s.check(w.isVisible() and w.session.dirty, "the window closed although nothing was saved")


@scene("Save, in a folder that was deleted meanwhile; and a deleted working folder")
def scene_folder_gone(s: Stage) -> None:
    w = s.window(s.project)
    s.state(w)
    shutil.rmtree(s.project.parent)
    w.actions_.actions["save"].trigger()
    text = s.say_notice(w)
    s.check("does not exist" in text, f"unclear: {text!r}")
    s.check(w.session.dirty, "it counts as saved")
    s.check(s.wait_autosave(w), "no autosave")
    for words in (
        ["--version"],
        ["analyze", str(s.short), "-q", "--project", str(s.folder / "o.ychronos")],
        ["analyze", str(s.short), "-q", "--project", "o.ychronos"],
        ["export", str(s.folder / "o.ychronos"), "--text", "-"],
    ):
        gone = s.folder / "gone"
        gone.mkdir(exist_ok=True)
        done = subprocess.run(
            f"cd '{gone}' && rmdir '{gone}' && exec '{sys.executable}' -m ychronos "
            + " ".join(f"'{x}'" for x in words),
            shell=True,
            capture_output=True,
            timeout=60,
        )
        err = done.stderr.decode(errors="replace")
        s.note(f"in a deleted folder, {words[0]}: exit {done.returncode} {err.strip()[-160:]!r}")
        s.check(
            "Traceback" not in err,
            f"in a deleted folder, {' '.join(words[:1] + words[3:])}: traceback {err.strip().splitlines()[-1][:120] if err.strip() else ''}",
        )


# ------------------------------------------------------------ damaged files of the user's own


@scene("settings: garbage, a folder, not readable, odd values", rights=False, seconds=240)
def scene_settings_bad(s: Stage) -> None:
    from ychronos.paths import settings_file

    path = settings_file()
    path.parent.mkdir(parents=True, exist_ok=True)

    def clean() -> None:
        if path.is_dir():
            path.rmdir()
        elif path.exists():
            path.chmod(0o644)
            path.unlink()

    good = "[General]\n"
    tries: dict[str, object] = {
        "garbage": lambda: path.write_bytes(os.urandom(3000)),
        "a folder": lambda: path.mkdir(),
        "empty": lambda: path.write_bytes(b""),
        "not readable": lambda: (path.write_text(good), path.chmod(0)),
        "half a line": lambda: path.write_text(good + "geometry=@ByteArray(\\x1\\xd9\\xd0"),
        "bars_in_row=nan": lambda: path.write_text(good + "bars_in_row=nan\n"),
        "bars_in_row=inf": lambda: path.write_text(good + "bars_in_row=inf\n"),
        "bars_in_row=0": lambda: path.write_text(good + "bars_in_row=0\n"),
        "bars_in_row=-4": lambda: path.write_text(good + "bars_in_row=-4\n"),
        "level=1e400": lambda: path.write_text(good + "level=1e400\n"),
        "level=99999999999": lambda: path.write_text(good + "level=99999999999\n"),
        "recent is a number": lambda: path.write_text(good + "recent=7\n"),
        "recent invalid": lambda: path.write_text(good + "recent=@Invalid()\n"),
        "recent variant": lambda: path.write_text(good + "recent=@Variant(\\0\\0\\0\\x2\\0\\0\\0\\x5)\n"),
        "keys": lambda: path.write_text(
            "[keys]\nplay=Ctrl+\nundo=\\0\\x1\nsave=@Variant(\\0\\0\\0\\x2\\0\\0\\0\\x5)\n"
        ),
        "remind_after=nan": lambda: path.write_text(good + "remind_after=nan\n"),
    }
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); import acts; from pathlib import Path; w = acts.make_window(); acts.open_and_wait(w, Path(sys.argv[2]));"
        "w.grab(); from ychronos.app.desk.practicedialog import PracticeDialog; PracticeDialog(w.practice, w); print('song', w.session.song is not None); w.close(); print('closed')"
    )
    for name, make in tries.items():
        clean()
        make()  # type: ignore[operator]
        done = subprocess.run(
            [sys.executable, "-c", code, str(Path(__file__).parent), str(s.project)],
            capture_output=True,
            timeout=60,
            text=True,
        )
        ok = "song True" in done.stdout and "closed" in done.stdout and "Traceback" not in done.stderr
        if not ok:
            last = [x for x in done.stderr.strip().splitlines() if "Error" in x][-1:] or [f"exit {done.returncode}"]
            s.bad(
                f"settings ({name}): {'the window does not start' if 'song' not in done.stdout else 'traceback'}: {last[0][:140]}"
            )
    clean()


@scene("damaged autosave files, cache entry, folders that are files")
def scene_state_bad(s: Stage) -> None:
    import acts

    from ychronos.paths import cache_folder, state_folder

    folder = s.autosaves()
    folder.mkdir(parents=True)
    for i, data in enumerate((b"", b"{}", os.urandom(100), b"00000000 {}\n", b"\n\n", bytes(4000))):
        (folder / f"{i}.journal").write_bytes(data)
    (folder / "c.journal").mkdir()
    (folder / "d.journal").symlink_to(folder / "d.journal")
    w = s.window()
    try:
        s.check(not s.offered(w), "damaged work is offered")
        s.note(f"aside: {w.unfinished.aside.text()}")
    except Exception as error:
        s.bad(f"damaged autosaves: the program does not start: {common.cause_of(error)}: {error}"[:300])
    s.check(len(list(folder.rglob("*.journal"))) == 8, "damaged work was deleted")
    shutil.rmtree(state_folder())
    state_folder().parent.mkdir(parents=True, exist_ok=True)
    state_folder().write_text("not a folder")
    acts.open_and_wait(w, s.project)
    s.state(w)
    acts.pause(2500)
    text = s.say_notice(w)
    s.check("cannot be kept" in text, f"state is a file: {text!r}")
    entry = next(iter(cache_folder().glob("*.npz")), None)
    s.note(f"cache entries: {entry is not None}")


@scene("a damaged entry in the cache of evidence", env={"XDG_CACHE_HOME": "{folder}/cache5"}, seconds=180)
def scene_cache_bad(s: Stage) -> None:
    import acts

    from ychronos.paths import cache_folder

    w = s.window(s.short)
    entry = next(cache_folder().glob("*.npz"))
    data = entry.read_bytes()
    for name, bad in (
        ("empty", b""),
        ("half", data[: len(data) // 2]),
        ("zeros", bytes(len(data))),
        ("flipped", data[:3000] + b"\xff" * 64 + data[3064:]),
        ("text", b"hello"),
        ("pickle", b"\x80\x04\x95\0\0\0\0."),
    ):
        w.close_document()
        entry.write_bytes(bad)
        acts.open_and_wait(w, s.short)
        text = w.notice.words.text() if w.notice.isVisible() else ""
        s.check(w.session.song is not None and not text, f"cache entry {name}: {text!r}")
    w.close_document()
    shutil.rmtree(cache_folder())
    cache_folder().write_text("a file")
    acts.open_and_wait(w, s.short)
    s.say_notice(w)
    s.check(w.session.song is not None, "a cache that is a file stops the analysis")


# ------------------------------------------------------------ names and paths


@scene("names: spaces, unicode, newline, dash, colon, percent, very long, not UTF-8", seconds=300)
def scene_names(s: Stage) -> None:
    import acts

    from ychronos.app import files

    folder = s.folder / "na mes ♯"
    folder.mkdir()
    names = [
        "two words.ogg",
        "Ström – ünïcødé 漢字 🎸.ogg",
        "new\nline.ogg",
        "-dash.ogg",
        "--help.ogg",
        "100%s%d.ogg",
        "a'b\"c.ogg",
        "#?&.ogg",
        "Live: take 2.ogg",
        "x" * 246 + ".ogg",
        "UPPER.OGG",
        "no_suffix",
        ".hidden.ogg",
        "trailing .ogg",
        "file:x.ogg",
        "pipe:0.ogg",
        os.fsdecode(b"tape\xff\xe9.ogg"),
    ]
    w = s.window()
    for name in names:
        path = folder / name
        shutil.copy(s.short, path)
        w.notice.hide()
        before = len(s.raised)
        acts.open_and_wait(w, path)
        text = w.notice.words.text() if w.notice.isVisible() else ""
        if w.session.song is None:
            s.bad(f"window: {name!r:.60} is not opened: {text!r}")
            continue
        try:
            s.state(w, "G", 4)
            acts.pause(2000)
            s.check(w.keeper.journal.path.exists(), f"window: {name!r:.60}: no autosave")
            out = path.with_suffix(".ychronos")
            if not files.save_to(w, out):
                s.bad(
                    f"window: {name!r:.60} ({len(os.fsencode(out.name))} bytes) cannot be saved beside the recording: {w.notice.words.text()[:60]}…{w.notice.words.text()[-90:]}"
                )
            else:
                acts.open_and_wait(w, out)
                s.check(
                    w.session.recording is not None, f"window: the project of {name!r:.60} does not find its recording"
                )
        except Exception as error:
            s.bad(f"window: {name!r:.60}: {common.cause_of(error)}: {error}"[:260])
        if len(s.raised) > before:
            s.bad(f"window: {name!r:.60}: {s.raised[-1]}")
        w.session._clean = w.session.song
        w.close_document()


@scene("the same names on the command line, as a user types them", seconds=300)
def scene_names_cli(s: Stage) -> None:
    folder = s.folder / "cli names"
    folder.mkdir()
    for suffix in (".ogg", ".m4a"):
        source = s.folder / f"short{suffix}"
        if suffix == ".ogg":
            shutil.copy(s.short, source)
        else:
            subprocess.run(
                ["ffmpeg", "-v", "error", "-y", "-i", str(s.short), "-c:a", "aac", str(source)], capture_output=True
            )
            if not source.exists():
                s.note("no m4a could be made")
                continue
        for stem in (
            "two words",
            "new\nline",
            "Live: take 2",
            "tape:1",
            "data:,x",
            "fd:",
            "100%d",
            "Ström 漢字",
            os.fsdecode(b"tape\xff"),
        ):
            name = stem + suffix
            shutil.copy(source, folder / name)
            done, err = s.cli("analyze", name, "-q", "--project", f"{stem}.ychronos", cwd=folder)
            s.check(
                done.returncode == 0, f"analyze {name!r} (relative): exit {done.returncode}: {err.strip()[-110:]!r}"
            )
            if done.returncode == 0:
                done, err = s.cli("export", f"{stem}.ychronos", "--text", "-", cwd=folder)
                s.check(done.returncode == 0, f"export of {name!r}: exit {done.returncode}: {err.strip()[-110:]!r}")
    shutil.copy(s.short, folder / "-x.ogg")
    done, err = s.cli("analyze", "-q", "--", "-x.ogg", cwd=folder)
    s.check(done.returncode == 0, f"-- -x.ogg: exit {done.returncode}")
    done, err = s.cli("analyze", "-q", "./-x.ogg", cwd=folder)
    s.check(done.returncode == 0, f"./-x.ogg: exit {done.returncode}")
    done, err = s.cli("analyze", "-x.ogg", "-q", cwd=folder)
    s.check(done.returncode == 2, f"-x.ogg: exit {done.returncode}, not 2 (wrong use)")


@scene("Save as with a name that has a dot: “Mr. Smith”, “Take no.2”")
def scene_dotted(s: Stage) -> None:
    import acts
    from PySide6.QtWidgets import QFileDialog

    from ychronos.app import files

    for name in ("Mr. Smith", "Take no.2", "St. James Infirmary"):
        w = s.window(s.project)
        QFileDialog.getSaveFileName = lambda *a, **k: (str(s.folder / name), "")  # type: ignore[method-assign]
        files.save_as(w)
        saved = [p.name for p in s.folder.iterdir() if p.name.startswith(name)]
        s.note(f"typed {name!r}: saved as {saved}")
        path = s.folder / saved[0]
        acts.open_and_wait(w, path)
        s.check(
            w.session.song is not None and path.suffix == ".ychronos",
            f"typed {name!r}, saved as {saved[0]!r}, which the window cannot open again: {w.notice.words.text() if w.notice.isVisible() else ''!r}",
        )
        w.close_document()


@scene("symbolic links: loops, links to the project, folders of that name", seconds=200)
def scene_links(s: Stage) -> None:
    import acts

    from ychronos.app import files
    from ychronos.formats import project

    a, b = s.folder / "a.ogg", s.folder / "b.ogg"
    a.symlink_to(b)
    b.symlink_to(a)
    w = s.window()
    for path in (a, s.folder / "l.ychronos"):
        if path.suffix == ".ychronos":
            path.symlink_to(path)
        try:
            acts.open_and_wait(w, path)
            s.say_notice(w)
        except Exception as error:
            s.bad(f"a loop of links, {path.suffix}: {common.cause_of(error)}: {error}"[:240])
        s.cli(*(["analyze", str(path), "-q"] if path.suffix == ".ogg" else ["export", str(path), "--text", "-"]))
    document = json.loads(s.project.read_bytes())
    document["recording"].update(path="../a.ogg/x.ogg", absolute="")
    odd = s.project.parent / "odd.ychronos"
    odd.write_text(json.dumps(document))
    try:
        acts.open_and_wait(w, odd)
        s.say_notice(w)
    except Exception as error:
        s.bad(f"a project whose recording lies behind a loop of links: {common.cause_of(error)}: {error}"[:240])
    s.cli("export", str(odd), "--text", "-")
    link = s.folder / "link.ychronos"
    link.symlink_to(s.project)
    acts.open_and_wait(w, link)
    s.state(w)
    files.save(w)
    s.check(link.is_symlink(), "opened by a link and saved: the link was replaced by a file")
    s.check(bool(s.stated(project.load(s.project))), "opened by a link and saved: the project itself was not written")
    s.cli("analyze", str(s.short), "-q", "--project", str(link))
    s.check(
        link.is_symlink(),
        "command line: --project on a link replaces the link by a file; the file it pointed to stays old",
    )
    for name in ("folder.ogg", "folder.ychronos"):
        (s.folder / name).mkdir()
        acts.open_and_wait(w, s.folder / name)
        text = s.say_notice(w)
        s.check(bool(text), f"{name}: no word")


@scene("a named pipe and /dev/zero given as recording and project", seconds=200)
def scene_devices(s: Stage) -> None:
    import resource

    import acts

    resource.setrlimit(resource.RLIMIT_AS, (6 << 30, 6 << 30))
    pipe = s.folder / "pipe.ogg"
    os.mkfifo(pipe)
    w = s.window()
    acts.open_and_wait(w, pipe, 20)  # a machine under load takes its time to start the process that reads
    s.say_notice(w)
    s.check(w.job is None, "a named pipe: it says “Reading …” for ever")
    w.cancel_job()
    acts.pause(1500)
    s.check(w.job is None, "a named pipe: Stop does nothing")
    begin = time.monotonic()
    w.open_path(s.short)
    took = time.monotonic() - begin
    s.note(f"opening another recording then held the window for {took:.1f} s")
    s.check(
        took < 1, f"a named pipe: opening another recording then freezes the window for {took:.1f} s (cancel_job waits)"
    )
    acts.settle(w)
    s.check(w.session.song is not None, "the window does not go on")
    for name, words in (("pipe.ychronos", "project pipe"),):
        os.mkfifo(s.folder / name)
        child = subprocess.Popen(
            [sys.executable, "-m", "ychronos", "export", str(s.folder / name), "--text", "-"], stderr=subprocess.PIPE
        )
        try:
            child.wait(10)
        except subprocess.TimeoutExpired:
            child.kill()
            s.bad(
                f"{words}: the command line waits for ever (the window would freeze: it reads projects in its own thread)"
            )
    child = subprocess.Popen([sys.executable, "-m", "ychronos", "analyze", "/dev/zero", "-q"], stderr=subprocess.PIPE)
    try:
        child.wait(20)
        s.note(f"/dev/zero: exit {child.returncode} {child.stderr.read().decode(errors='replace').strip()[-200:]!r}")  # type: ignore[union-attr]
    except subprocess.TimeoutExpired:
        child.kill()
        s.bad("/dev/zero as recording: reads for ever")


# ------------------------------------------------------------ locale, interruption


@scene("five seconds of noise: one bar, all of it a pick-up; every view and every export", seconds=90)
def scene_one_bar(s: Stage) -> None:
    import numpy as np
    import soundfile

    path = s.folder / "noise.wav"
    noise = np.sign(np.random.default_rng(1828).normal(0, 1, 54022))
    soundfile.write(path, np.stack([noise, noise], 1), 11025, "FLOAT")
    out = s.folder / "noise.ychronos"
    done, err = s.cli("analyze", str(path), "-q", "--project", str(out))
    s.note(f"lead-in {json.loads(out.read_bytes())['lead_in']} of {len(json.loads(out.read_bytes())['bars'])} bars")
    done, err = s.cli("export", str(out), "--text", "-")
    s.check(done.returncode == 0, f"export --text: exit {done.returncode}")
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); import acts; from pathlib import Path; from PySide6.QtCore import QTimer; w = acts.make_window();"
        "acts.open_and_wait(w, Path(sys.argv[2]));"
        "[(print(a, flush=True), QTimer.singleShot(20, w.actions_.actions[a].trigger), acts.pause(400)) for a in ('view_sheet', 'view_ground', 'view_key', 'view_form', 'stack')]; print('alive', flush=True)"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(Path(__file__).parent), str(path)], capture_output=True, text=True, timeout=60
    )
    s.note(f"{done.stdout.split()} exit {done.returncode}")
    s.check(
        done.returncode == 0 and "alive" in done.stdout,
        f"the window dies (signal {-done.returncode}) at the action {done.stdout.split()[-1]}",
    )


@scene("a section is begun at the first full bar after a count-in")
def scene_section_after_lead(s: Stage) -> None:
    from fractions import Fraction

    import acts
    from PySide6.QtWidgets import QFileDialog

    from ychronos.app import files
    from ychronos.formats.registry import exporter
    from ychronos.session.commands import sections

    document = json.loads(s.project.read_bytes())
    document["lead_in"] = 1
    document["sections"] = [document["sections"][0], *[x for x in document["sections"][1:] if Fraction(x["at"]) > 20]]
    s.project.write_text(json.dumps(document))
    w = s.window(s.project)
    start = w.session.song.grid.bar_range(1)[0]
    w.session.select(start)
    sections.begin_section(w.session)
    s.check(any(x.start == start and x.stated for x in w.session.song.sections), "not begun")
    out = s.folder / "chart.txt"
    QFileDialog.getSaveFileName = lambda *a, **k: (str(out), "")  # type: ignore[method-assign]
    for action in ("export_text", "export_pdf"):
        try:
            files.export(w, exporter(action.removeprefix("export_")))
        except IndexError as error:
            s.bad(f"{action}: {common.cause_of(error)}: nothing is written and nothing is said")
    s.state(w, "E7", 60)
    acts.settle(w)
    s.check(
        any(x.start == start for x in w.session.song.sections),
        "the stated section beginning is gone after the next stated chord",
    )


@scene("a tape with several songs on it, six times", seconds=420)
def scene_tape_of_songs(s: Stage) -> None:
    import numpy as np
    import soundfile

    from ychronos.analysis import pipeline
    from ychronos.audio import recording
    from ychronos.formats import project, textchart

    songs = [Path(x) for x in s.plan["all"]]
    path = s.folder / "tape.wav"
    for _ in range(2 if s.plan["quick"] else 6):
        some = s.rng.sample(songs, min(len(songs), s.rng.choice((2, 3, 4, 5))))
        parts = [soundfile.read(x, dtype="float32", always_2d=True)[0][:, :1] for x in some]
        soundfile.write(path, np.concatenate(parts), 44100)
        try:
            song, _ = pipeline.analyse(recording.load(path, keep_samples=False), "Tape", cache=None)
            textchart.render(song)
            project.loads(project.dumps(song))
            s.note(f"{len(some)} songs: {len(song.sections)} sections")
        except Exception as error:
            s.bad(f"a tape of {len(some)} songs ({', '.join(x.stem for x in some)}): {common.cause_of(error)}: {error}")


@scene("songs opened, heard with their chart and corrected one after the other: memory", seconds=300)
def scene_leak(s: Stage) -> None:
    import gc

    import acts

    from ychronos.session.commands import record

    songs = [Path(x) for x in s.plan["all"]][:2] * 2
    w = s.window(songs[0])
    sizes = []
    for i in range(8 if s.plan["quick"] else 12):
        acts.open_and_wait(w, songs[i % len(songs)])
        s.state(w, "G", 8)
        w.hearing.set_kind("chart")
        acts.pause(1200)
        w.hearing.set_kind("off")
        record.toggle_true_pitch(w.session)
        acts.settle(w)
        gc.collect()
        sizes.append(round(common.memory()))
    from ychronos.app.jobs import Job

    kept = len(w.findChildren(Job)) + len(w.jobs.findChildren(Job))
    seconds = sum(x.duration for x in [w.session.recording] if x)
    s.note(f"MB after each song: {sizes}; {kept} ended jobs are kept; the last song is {seconds:.0f} s long")
    growth = (sizes[-1] - sizes[3]) / (len(sizes) - 4)  # every second song is the same one
    s.check(
        growth < 8,
        f"each song opened, heard and corrected leaves {growth:.0f} MB behind: ended jobs are never deleted and hold the song's sound and evidence",
    )


@scene("a recording of seven hours: every view", seconds=200)
def scene_hours(s: Stage) -> None:
    document = json.loads(s.project.read_bytes())
    factor = 7 * 3600 / document["beats"][-1]
    document["beats"] = [t * factor for t in document["beats"]]
    document["recording"].update(path="gone.ogg", absolute="", duration=7 * 3600 + 10)
    path = s.folder / "hours.ychronos"
    path.write_text(json.dumps(document))
    w = s.window(path)
    import acts

    for view in ("sheet", "ground", "key", "form"):
        w.show_view(view)
        acts.pause(50)


@scene("an error of any kind while painting")
def scene_paint_error(s: Stage) -> None:
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); import acts; from pathlib import Path; w = acts.make_window(); acts.open_and_wait(w, Path(sys.argv[2]));"
        "import ychronos.app.sheet.sheet as sh; n = [0]; real = sh.paint_row\n"
        "def bad(*a):\n    n[0] += 1\n    if n[0] == 3: raise ValueError('an error while painting')\n    return real(*a)\n"
        "sh.paint_row = bad; w.sheet.repaint_rows(); acts.pause(200); w.sheet.repaint_rows(); acts.pause(200); w.sheet.repaint_rows(); acts.pause(200); print('alive', flush=True)"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(Path(__file__).parent), str(s.project)],
        capture_output=True,
        text=True,
        timeout=60,
    )
    last = [x for x in done.stderr.strip().splitlines() if "propagate" not in x]
    s.note(f"exit {done.returncode} {done.stdout.split()} {last[-2:]}")
    s.check(
        done.returncode == 0 and "alive" in done.stdout,
        f"one Python error while a row is painted ends the whole process (signal {-done.returncode})",
    )


@scene("locales C, POSIX, ASCII output")
def scene_locale(s: Stage) -> None:
    for env in (
        {"LC_ALL": "C"},
        {"LC_ALL": "POSIX", "PYTHONCOERCECLOCALE": "0"},
        {"LC_ALL": "C", "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0"},
        {"PYTHONIOENCODING": "ascii"},
        {"PYTHONIOENCODING": "latin-1"},
        {"LANG": "xx_YY.UTF-8", "LC_ALL": ""},
    ):
        done, err = s.cli("export", str(s.project), "--text", "-", env=env)
        s.check(
            done.returncode == 0,
            f"{env}: export --text - exit {done.returncode}: {err.strip().splitlines()[-1][:110] if err.strip() else ''}",
        )
        done, err = s.cli("export", str(s.folder / "nö.ychronos"), "--text", "-", env=env)
        s.check(done.returncode == 3, f"{env}: a missing project: exit {done.returncode}")
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); import acts; from pathlib import Path; w = acts.make_window(); acts.open_and_wait(w, Path(sys.argv[2]));"
        "from ychronos.app import files; print(files.save_to(w, Path(sys.argv[3])), w.session.song is not None)"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(Path(__file__).parent), str(s.project), str(s.folder / "Möwe ♯.ychronos")],
        env={**os.environ, "LC_ALL": "C", "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0"},
        capture_output=True,
        text=True,
        timeout=60,
    )
    s.note(f"window in locale C: {done.stdout.strip()} {done.stderr.strip()[-200:]!r}")
    s.check(
        "True True" in done.stdout,
        f"window in a strict C locale: saving “Möwe ♯.ychronos”: {done.stdout.strip()} {done.stderr.strip()[-120:]!r}",
    )


@scene("the command line interrupted (Ctrl+C, SIGTERM) at eight moments", seconds=240)
def scene_interrupt(s: Stage) -> None:
    out = s.folder / "out.ychronos"
    for how in (signal.SIGINT, signal.SIGTERM):
        for delay in (0.05, 0.3, 0.8, 1.3, 2.0, 3.0):
            child = subprocess.Popen(
                [sys.executable, "-m", "ychronos", "analyze", str(s.song), "--no-cache", "-q", "--project", str(out)],
                stderr=subprocess.PIPE,
                stdout=subprocess.DEVNULL,
            )
            time.sleep(delay)
            child.send_signal(how)
            try:
                _, err = child.communicate(timeout=20)
            except subprocess.TimeoutExpired:
                child.kill()
                s.bad(f"{how.name} after {delay} s: it does not end within 20 s")
                continue
            text = err.decode(errors="replace").strip()
            if how == signal.SIGINT and "Traceback" in text and "/ychronos/" not in text:
                s.note(f"SIGINT after {delay} s: Python had not come to the program yet")
            elif how == signal.SIGINT:
                s.check(
                    "Traceback" not in text and child.returncode in (130, 0),
                    f"SIGINT after {delay} s: exit {child.returncode}, {'traceback: ' if 'Traceback' in text else ''}{text.splitlines()[-1][:110] if text else ''}",
                )
            s.check(
                not [p for p in s.folder.iterdir() if p.name.startswith(".out")],
                f"{how.name} after {delay} s: a temporary file is left",
            )
            out.unlink(missing_ok=True)


# ------------------------------------------------------------ roles


def role_leave(plan: dict) -> None:
    """Open, state, wait for the autosave, be killed."""
    stage = Stage(dict(plan, folder=plan["folder"]))
    w = stage.window(Path(plan["path"]))
    song = stage.state(w, "E7" if plan["tag"] != "two" else "A9", 12)
    ok = stage.wait_autosave(w, 8)
    print(json.dumps({"stated": len(stage.stated(song)), "autosave": ok}), flush=True)
    os.kill(os.getpid(), signal.SIGKILL)


def role_polite(plan: dict) -> None:
    """The window as start.run runs it, with a statement just made."""
    from PySide6.QtCore import QTimer
    from PySide6.QtWidgets import QApplication

    from ychronos.app import start

    def state() -> None:
        from fractions import Fraction

        from ychronos.app.window import Window
        from ychronos.theory.chord import parse_chord

        w = next(x for x in QApplication.topLevelWidgets() if isinstance(x, Window))
        if w.job is not None or w.session.song is None:
            QTimer.singleShot(100, state)
            return
        w.session.select(Fraction(12))
        w.session.state_chord(parse_chord("E7"))
        QTimer.singleShot(500, lambda: print("{}", flush=True))

    def modal() -> None:
        box = QApplication.activeModalWidget()
        if box is not None:
            print(f"it asks: {getattr(box, 'text', str)()}", flush=True)
        QTimer.singleShot(500, modal)

    modal_timer = start.make_app([])
    QTimer.singleShot(500, modal)
    del modal_timer
    start.make_app([])
    QTimer.singleShot(1500, state)
    start.run([plan["path"]])
    os._exit(0)


def role_scene(plan: dict) -> None:
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (8 << 30, 8 << 30))
    stage = Stage(plan)
    try:
        SCENES[plan["scene"]][0](stage)
    except Exception as error:
        traceback.print_exc()
        stage.bad(f"the scene ended early: {common.cause_of(error)}: {error}"[:300])
    for text in dict.fromkeys(stage.raised):
        stage.bad(f"traceback in the window: {text}")
    sys.stdout.flush()
    os._exit(0)


@functools.cache
def may_mount() -> bool:
    """Whether this machine lets us make a small file system that can be filled."""
    test = "d=$(mktemp -d) && mount -t tmpfs -o size=16k tmpfs $d && umount $d; rm -rf $d"
    return subprocess.run(["unshare", "-m", "sh", "-ec", test], capture_output=True).returncode == 0


def run_scene(bench: common.Bench, name: str, repeat: int) -> None:
    function, words, tmpfs, rights, env, seconds = SCENES[name]
    folder = bench.scratch / f"{name}-{repeat}"
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    plan = {
        "scene": name,
        "folder": str(folder),
        "song": str(bench.song),
        "short": str(bench.scratch / "short.ogg"),
        "project": str(bench.scratch / "song.ychronos"),
        "all": [str(x) for x in bench.recordings()],
        "seed": bench.args.seed + repeat,
        "quick": bench.args.quick,
    }
    command = [bench.args.app, __file__, "--role", "scene", json.dumps(plan)]
    if (tmpfs or not rights) and os.geteuid() != 0 and tmpfs:
        print(f"  {name}: skipped (needs root)")
        return
    if tmpfs and not may_mount():
        print(f"  {name}: skipped (no file system of its own can be made here)")
        return
    if tmpfs:
        mounts = ""
        for inner, size in tmpfs.items():
            (folder / inner).mkdir(parents=True, exist_ok=True)
            mounts += f"mount -t tmpfs -o size={size} tmpfs '{folder / inner}' && "
        command = ["unshare", "-m", "sh", "-c", mounts + 'exec "$@"', "sh", *command]
    if not rights and os.geteuid() == 0:
        command = ["setpriv", "--bounding-set=-dac_override,-dac_read_search", *command]
    made = {k: v.format(folder=folder) for k, v in env.items()}
    for value in made.values():
        if value.startswith(str(folder)):
            Path(value).mkdir(parents=True, exist_ok=True)
    errors = open(folder / "stderr.txt", "w")
    child = subprocess.Popen(
        command,
        env=bench.env(folder / "home", **made),
        stdout=subprocess.PIPE,
        stderr=errors,
        text=True,
        preexec_fn=common.gentle,
        start_new_session=True,
    )
    print(f"  {name}: {words}", flush=True)
    begin, kinds = time.monotonic(), set(bench.failures)
    for entry in bench.entries(child, seconds, name, folder / "stderr.txt"):
        if "saw" in entry:
            print(f"      {entry['saw'][:400]}")
        if "bad" in entry:
            bench.fail(f"{name}: {entry['bad'][:330]}", words)
            print(f"      BAD {entry['bad'][:400]}")
    print(f"      {time.monotonic() - begin:.0f} s", flush=True)
    errors.close()
    late = any("not over within" in k for k in set(bench.failures) - kinds)
    if child.returncode and not late:
        bench.fail(f"{name}: the program ended with {child.returncode}", words)
    text = (folder / "stderr.txt").read_text(errors="replace")
    if "Traceback" in text and not any(k.startswith(f"{name}:") for k in bench.failures):
        bench.fail(f"{name}: traceback on the terminal: {text.strip().splitlines()[-1][:150]}", words)
    bench.cases += 1


def main() -> int:
    p = common.parser("One fault at a time.", count=1)
    p.add_argument("--quick", action="store_true", help="fewer rounds of the long scenes")
    p.add_argument("--only", nargs="*", default=None, help=f"of: {', '.join(SCENES)}")
    p.add_argument("--part", default="1/1", help="K/N: every N-th scene from the K-th, to run several at once")
    args = p.parse_args()
    part, parts = map(int, args.part.split("/"))
    bench = common.Bench(args, "faults")
    bench.song = bench.recordings()[0]
    project = bench.scratch / "song.ychronos"
    done = subprocess.run(
        [args.app, "-m", "ychronos", "analyze", str(bench.song), "-q", "--project", str(project)],
        env=bench.env(),
        capture_output=True,
        text=True,
    )
    if done.returncode:
        print(done.stderr)
        return 2
    if not common.clip(bench.song, bench.scratch / "short.ogg", 9):
        print("ffmpeg cut no clip")
        return 2
    for repeat in range(args.count):
        for name in (args.only or list(SCENES))[part - 1 :: parts]:
            run_scene(bench, name, repeat)
    bench.figures = {"scenes": bench.cases}
    bad = {k.partition(":")[0] for k in bench.failures}
    return bench.finish(f"{bench.cases} scenes, {bench.cases - len(bad)} as they should be")


if __name__ == "__main__":
    if len(sys.argv) > 2 and sys.argv[1] == "--role":
        {"scene": role_scene, "leave": role_leave, "polite": role_polite}[sys.argv[2]](json.loads(sys.argv[3]))
    else:
        sys.exit(main())
