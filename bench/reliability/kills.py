"""Kill the program at random moments and count what is lost.

Window: a real window (offscreen) states chords, beats, sections and names at random; every state that the window
has acknowledged goes to a side log (fsync). The process is killed (SIGKILL) at a random moment, in the middle of a line
of the journal, in the middle of a save, during a restore, or politely (SIGTERM, SIGHUP: what a session's end
sends); then the program is started again, restores, and the restored state is looked up in the side log.
A statement is *lost* when it was acknowledged and is not in what was restored; ``--promise`` is how old it may be.

Command line: ``analyze`` and ``export`` are killed at every step of writing a file and at random moments; nothing
half-written may lie under the final name.

    kills.py --app PYTHON --count 66
"""

from __future__ import annotations

import hashlib
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
import common

MODES = {
    # name: share of the kills, pause between statements in ms, seconds until the kill
    "random": (22, (150, 4000), (2.0, 9.0)),
    "steady": (10, (300, 1300), (12.0, 22.0)),  # a user who corrects without pausing
    "keeping": (12, (50, 600), (4.0, 9.0)),  # in the middle of a line of the journal, or before it is on the disk
    "fast": (40, (0, 60), (0.05, 1.5)),
    "saving": (12, (250, 900), (2.0, 6.0)),
    "restoring": (6, (1700, 2500), (0.0, 0.7)),
    "polite": (6, (300, 1300), (4.0, 8.0)),
}


# ------------------------------------------------------------ in the program's Python


def digest(song: object) -> str:
    from ychronos.formats import project

    return hashlib.sha256(project.dumps(song)).hexdigest()  # type: ignore[arg-type]


def role_window(plan: dict) -> None:
    """Open or restore, then state at random until somebody kills this process."""
    import acts

    rng = random.Random(plan["seed"])
    side = Path(plan["side"])
    w = acts.make_window()
    d = w.session

    def note(event: str, **more: object) -> None:
        song = d.song
        common.append(
            side,
            {
                "t": time.time(),
                "event": event,
                "sha": digest(song) if song else "",
                "dirty": d.dirty,
                "log": len(song.log) if song else 0,
                "tail": song.log[-1].what if song and song.log else "",
                **more,
            },
        )

    from PySide6.QtWidgets import QApplication

    from ychronos.app import start

    start.keep_at_the_end(w, QApplication.instance())
    offered = w.unfinished.entries[0][0].describe() if w.offer_recovery() and w.unfinished.entries else ""
    if offered:
        common.append(side, {"t": time.time(), "event": "restoring", "words": offered})
        if plan["mode"] == "restoring":
            print("restoring", flush=True)
        w.unfinished.entries[0][1].click()
        acts.settle(w)
        note(
            "restored",
            words=offered,
            path=str(d.path or ""),
            recording=d.recording is not None,
            left=len(list(Path(plan["autosaves"]).glob("*.journal"))),
        )
    else:
        acts.open_and_wait(w, Path(plan["open"]))
        note("opened", path=str(d.path or ""), recording=d.recording is not None, words=offered)
    if d.song is None:
        note("nothing is open", words=w.notice.words.text())
        print("failed", flush=True)
        os._exit(3)
    if plan.get("only_look"):
        d_path = Path(plan["open"])
        if d_path.suffix == ".ychronos":
            from ychronos.app import files

            files.save_to(w, d_path)
        w.close()
        print("looked", flush=True)
        os._exit(0)
    if plan["mode"] == "keeping":
        die_in_the_journal(rng)
    keep = w.keeper.keep

    def keeping(song: object, *rest: object) -> None:
        """What is about to be kept may come back although it was not acknowledged yet."""
        common.append(
            side, {"t": time.time(), "event": "kept", "sha": digest(song), "dirty": True, "log": len(song.log)}
        )
        keep(song, *rest)

    w.keeper.keep = keeping
    d.watch(lambda: note("state"))  # also what is decided again after a statement
    print("ready", flush=True)
    n = 0
    lo, hi = plan["pace"]
    save_as = Path(plan["save_to"])
    while True:
        n += 1
        before = d.song
        what = acts.state_one(w, rng, f"{plan['seed']}-{n}")
        for _ in range(20):
            if d.song is not before or plan["mode"] != "steady":
                break  # a steady user's next word comes in time, also when one was refused
            what = acts.state_one(w, rng, f"{plan['seed']}-{n}")
        if d.song is not before:
            note("said", what=what)
        if plan["mode"] == "saving" and rng.random() < 0.6:
            from ychronos.app import files

            if files.save_to(w, save_as):
                note("saved")
        acts.pause(rng.randrange(lo, hi))


def die_in_the_journal(rng: random.Random) -> None:
    """Kill this process at some later line of the journal: in the middle of it, or before or after it is on the disk."""
    from ychronos.session import journal

    left, where = rng.randrange(1, 12), rng.choice(("half", "before", "after"))
    write, flush = journal._write_whole, os.fdatasync

    def writing(file: int, data: bytes) -> None:
        nonlocal left
        left -= 1
        if left == 0 and where == "half":
            os.write(file, data[: rng.randrange(len(data))])
            os.kill(os.getpid(), signal.SIGKILL)
        write(file, data)

    def flushing(file: int) -> None:
        if left <= 0 and where == "before":
            os.kill(os.getpid(), signal.SIGKILL)
        flush(file)
        if left <= 0 and where == "after":
            os.kill(os.getpid(), signal.SIGKILL)

    journal._write_whole, os.fdatasync = writing, flushing


def role_sessions(plan: dict) -> None:
    """Many kills in a short time: a session without a window, in a process that is forked for each.

    Each says at random what can be said, beginning with what the one before left; what it said is noted once it is
    acknowledged. It kills itself in the middle of a line of the journal, or is killed at a random moment.
    """
    sys.path.insert(0, str(Path(__file__).parents[2]))
    from tests.saying import EDITS
    from ychronos.formats import project
    from ychronos.session.keeping import Keeper
    from ychronos.session.session import Session

    rng = random.Random(plan["seed"])
    state, side = Path(plan["state"]), Path(plan["side"])
    first = project.load(Path(plan["project"]))
    said = lost = worse = 0
    before: list[dict] = []
    for n in range(plan["count"]):
        found, aside = Keeper(state).unfinished()
        if aside:
            print(json.dumps({"bad": "a journal is damaged", "n": n}), flush=True)
        if before:
            shown = [e for e in before if e["event"] != "kept"]
            back = digest(found[0].found.song) if found else ""
            acknowledged = shown[-1] if shown else None
            at = max((i for i, e in enumerate(before) if e["sha"] == back), default=-1)
            if acknowledged is not None and at < before.index(acknowledged):
                if not acknowledged["dirty"] and not found:
                    pass  # all was taken back
                else:
                    lost += 1
                    print(json.dumps({"bad": "acknowledged work is lost", "n": n, "last": acknowledged}), flush=True)
            elif back and at < 0:
                worse += 1
                print(json.dumps({"bad": "what came back was never there", "n": n}), flush=True)
            said += sum(e["event"] == "said" for e in before)
        side.unlink(missing_ok=True)
        seed = rng.randrange(1 << 30)
        child = os.fork()
        if child == 0:
            _one_session(seed, state, side, first, found, EDITS, Session, Keeper)
        if rng.random() < 0.5:
            time.sleep(rng.uniform(0.01, 0.4))
            os.kill(child, signal.SIGKILL)
        else:
            killer = threading.Timer(5, os.kill, (child, signal.SIGKILL))
            killer.start()
            os.waitpid(child, 0)
            killer.cancel()
            before = common.lines(side)
            continue
        os.waitpid(child, 0)
        before = common.lines(side)
    print(json.dumps({"said": said, "lost": lost, "never": worse}), flush=True)


def _one_session(seed, state, side, first, found, table, session_of, keeper_of) -> None:
    rng = random.Random(seed)
    session = session_of(keeper=keeper_of(state))
    keep = session.keeper.keep

    def note(event: str) -> None:
        entry = {"event": event, "sha": digest(session.song), "dirty": session.dirty}
        common.append(side, entry)

    def keeping(song, *rest) -> None:
        common.append(side, {"event": "kept", "sha": digest(song), "dirty": True})
        keep(song, *rest)

    session.keeper.keep = keeping
    if found and len(found[0].found.song.log) < 400 and rng.random() < 0.97:
        session.set_song(found[0].found.song, None, recovered=True)
        found[0].discard()
    else:
        for work in found:
            work.discard()
        session.set_song(first, None)
    note("opened")
    if rng.random() < 0.7:
        die_in_the_journal(rng)
    session.said.connect(lambda _: note("said"))
    while True:
        what = rng.choice([*table, "undo", "redo"])
        numbers = [rng.randrange(100_000) for _ in range(3)]
        if what in ("undo", "redo"):
            getattr(session, what)()
        else:
            session.edit(lambda s, what=what, numbers=numbers: table[what](s, *numbers))


def sessions(bench: common.Bench, total: int) -> dict:
    """Kills of sessions without a window."""
    home = bench.scratch / "sessions"
    home.mkdir(exist_ok=True)
    plan = {
        "seed": bench.args.seed,
        "count": total,
        "state": str(home / "state"),
        "side": str(home / "side.jsonl"),
        "project": str(bench.scratch / "work" / "song.ychronos"),
    }
    child = bench.child(__file__, "--role", "sessions", json.dumps(plan), stdout=subprocess.PIPE, text=True)
    assert child.stdout is not None
    figures: dict = {}
    for line in child.stdout:
        entry = json.loads(line)
        if "bad" in entry:
            bench.fail(f"session: {entry['bad']}", line[:300])
        else:
            figures = entry
    if child.wait():
        bench.fail("session: the bench itself ended early", "")
    return figures


def role_look(plan: dict) -> None:
    """Read a project and say what it is."""
    from ychronos.formats import project

    try:
        song = project.load(Path(plan["path"]))
        print(json.dumps({"sha": digest(song), "log": len(song.log)}))
    except project.ProjectError as error:
        print(json.dumps({"error": str(error)}))


def role_cli(plan: dict) -> None:
    """Run the command line, killing itself at one step of writing a file."""
    import tempfile

    point, at = plan["point"], plan["nth"]
    seen = 0

    def die() -> None:
        nonlocal seen
        seen += 1
        if seen == at:
            os.kill(os.getpid(), signal.SIGKILL)

    def wrapped(run, before: bool):
        def call(*a, **k):
            if before:
                die()
            out = run(*a, **k)
            if not before:
                die()
            return out

        return call

    if point == "half":
        real = os.fdopen

        def fdopen(fd, mode="r", *a, **k):
            file = real(fd, mode, *a, **k)
            if "w" not in mode:
                return file
            whole = file.write

            class Half:
                def __enter__(self):
                    return self

                def __exit__(self, *e):
                    file.close()

                def __getattr__(self, name):
                    return getattr(file, name)

                def write(self, data):
                    whole(data[: len(data) // 2])
                    file.flush()
                    die()
                    return whole(data[len(data) // 2 :])

            return Half()

        os.fdopen = fdopen  # type: ignore[assignment]
    elif point != "none":
        name, _, when = point.partition(":")
        owner = tempfile if name == "mkstemp" else os
        setattr(owner, name, wrapped(getattr(owner, name), when == "before"))
    from ychronos.cli import run

    sys.exit(run(plan["arguments"]))


# ------------------------------------------------------------ outside


class Run:
    """One start of the window."""

    def __init__(self, bench: common.Bench, plan: dict, home: Path) -> None:
        self.plan, self.home = plan, home
        self.errors = open(home / f"stderr-{plan['n']}.txt", "w")
        self.process = bench.child(
            __file__,
            "--role",
            "window",
            json.dumps(plan),
            env=bench.env(home),
            stdout=subprocess.PIPE,
            stderr=self.errors,
            text=True,
        )
        self.ready = threading.Event()
        self.words: list[str] = []
        threading.Thread(target=self._read, daemon=True).start()

    def _read(self) -> None:
        assert self.process.stdout is not None
        for line in self.process.stdout:
            self.words.append(line.strip())
            self.ready.set()
        self.ready.set()

    def wait_ready(self, seconds: float = 240) -> bool:
        return self.ready.wait(seconds) and bool(self.words) and self.words[0] in ("ready", "restoring", "looked")

    def kill(self, how: int = signal.SIGKILL) -> float:
        when = time.time()
        if self.process.poll() is None:
            self.process.send_signal(how)
        try:
            self.process.wait(20)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()
        self.errors.close()
        return when


def wait_for_temporary(folder: Path, until: float, skip: int) -> bool:
    """Watch a folder until a temporary file of an atomic write is there; True when one was seen."""
    known: set[str] = {p.name for p in folder.iterdir()} if folder.is_dir() else set()
    while time.monotonic() < until:
        try:
            names = [p.name for p in folder.iterdir()]
        except OSError:
            time.sleep(0.002)
            continue
        new = [n for n in names if n.startswith(".") and n not in known]
        if new:
            known.update(new)
            if skip <= 0:
                return True
            skip -= 1
        time.sleep(0.0003)
    return False


def look(bench: common.Bench, path: Path) -> dict:
    done = subprocess.run(
        [bench.args.app, __file__, "--role", "look", json.dumps({"path": str(path)})],
        capture_output=True,
        text=True,
        env=bench.env(),
        timeout=60,
    )
    return json.loads(done.stdout.strip() or "{}") if done.returncode == 0 else {"error": done.stderr[-300:]}


def judge(
    bench: common.Bench,
    mode: str,
    killed: list[dict],
    when: float,
    after: list[dict],
    project: Path,
    promise: float,
    ages: dict[str, list[float]],
    counts: dict[str, int],
    n: int,
) -> None:
    """Look up what came back in what had been acknowledged."""

    def no(cause: str, example: str) -> None:
        bench.fail(f"{mode}: {cause}", f"kill {n}: {example}")

    states = [e for e in killed if e.get("sha")]
    first = next((e for e in after if e["event"] in ("restored", "opened", "nothing is open")), None)
    said = sum(e["event"] == "said" for e in killed)
    counts["statements"] += said
    counts[f"{mode} said"] = counts.get(f"{mode} said", 0) + said
    if first is None:
        no("the next start did not open", str(after)[-300:])
        return
    if not states:
        return
    found = max((i for i, e in enumerate(states) if e["sha"] == first["sha"]), default=None)
    if found is None:
        no("what came back is no state that was ever shown", json.dumps(first)[:300])
        return
    last_said = [(i, e) for i, e in enumerate(states) if e["event"] == "said"]
    lost = [e for i, e in last_said if i > found and not any(s["sha"] == e["sha"] for s in states[: found + 1])]
    shown = [e for e in states if e["event"] != "kept"]
    if first["sha"] in (states[-1]["sha"], shown[-1]["sha"] if shown else ""):
        lost = []
    counts["lost"] += len(lost)
    counts[f"{mode} lost"] = counts.get(f"{mode} lost", 0) + len(lost)
    if lost:
        age = when - lost[0]["t"]
        ages[mode].append(age)
        if age > promise:
            no(
                f"statements older than {promise:.1f} s are lost",
                f"{len(lost)} lost, the oldest {age:.1f} s old ({lost[0]['tail']})",
            )
    else:
        ages[mode].append(0.0)
    if first["event"] == "restored" and not first["dirty"]:
        no("restored work counts as saved", json.dumps(first)[:200])
    if not first.get("recording"):
        no("the recording is not open after the restart", json.dumps(first)[:200])
    saved = [e for e in killed if e["event"] == "saved"]
    if first["event"] == "restored" and saved and states.index(saved[-1]) > found:
        no("work older than the saved project is offered as unsaved changes", first["words"][:120])
    if saved or project.exists():
        found_file = look(bench, project)
        if "error" in found_file:
            no("the project file is damaged", found_file["error"])
        elif saved and found_file["sha"] not in {e["sha"] for e in states[max(0, states.index(saved[-1])) :]}:
            no("an acknowledged save is not in the file", json.dumps(found_file))


def windows(bench: common.Bench, song: Path, total: int, promise: float) -> tuple[dict, dict[str, list[float]]]:
    rng = random.Random(bench.args.seed)
    home = bench.scratch / "home"
    home.mkdir(parents=True, exist_ok=True)
    work = bench.scratch / "work"
    work.mkdir(exist_ok=True)
    chosen = {name: m for name, m in MODES.items() if not bench.args.modes or name in bench.args.modes}
    whole = sum(m[0] for m in chosen.values())
    modes = [name for name, (share, *_) in chosen.items() for _ in range(max(1, round(share * total / whole)))]
    rng.shuffle(modes)
    ages: dict[str, list[float]] = {m: [] for m in MODES}
    counts = {"statements": 0, "lost": 0, "kills": 0}
    project = work / "song.ychronos"
    # the first project: analysed once, saved
    made = subprocess.run(
        [bench.args.app, "-m", "ychronos", "analyze", str(song), "--project", str(project), "-q"],
        env=bench.env(home),
        capture_output=True,
        text=True,
    )
    if made.returncode:
        bench.fail("set-up", made.stderr[-300:])
        return counts, ages
    killed: list[dict] = []
    when, mode_before = 0.0, ""
    kept = bench.scratch / "as-killed.ychronos"
    for n, mode in enumerate([*modes, "end"]):
        side = bench.scratch / f"side-{n}.jsonl"
        _share, pace, delay = MODES.get(mode, (0, (300, 900), (0.0, 0.0)))
        plan = {
            "n": n,
            "mode": mode,
            "seed": bench.args.seed * 1000 + n,
            "side": str(side),
            "pace": pace,
            "open": str(project),
            "save_to": str(project),
            "autosaves": str(bench.autosaves(home)),
            "only_look": mode == "end",
        }
        run = Run(bench, plan, home)
        ok = run.wait_ready()
        if not ok:
            run.kill()
            bench.fail("the window did not start", f"run {n}: {(home / f'stderr-{n}.txt').read_text()[-400:]}")
            continue
        if mode == "restoring" and run.words[0] == "restoring":
            time.sleep(rng.uniform(*delay))
            again = run.kill()
            counts["kills"] += 1
            after = common.lines(side)
            # nothing was stated in this run; the work must still be there at the next start
            back = next((e for e in after if e["event"] == "restored"), None)
            if back is not None and killed:
                judge(bench, mode_before, killed, when, after, kept, promise, ages, counts, n)
                killed = [dict(back)]
                mode_before, when = mode, again
                shutil.copy(project, kept)
            # else: the next run is judged against the same side log as this one would have been
            counts["restores killed"] = counts.get("restores killed", 0) + 1
            continue
        if mode == "restoring":  # there was nothing to restore: an ordinary kill
            delay = (3.0, 6.0)
        after = common.lines(side)
        if killed:
            judge(bench, mode_before, killed, when, after, kept, promise, ages, counts, n)
        if mode == "end":
            run.kill()
            break
        seconds = rng.uniform(*delay)
        if mode == "saving":
            time.sleep(seconds / 2)
            if wait_for_temporary(work, time.monotonic() + 8, rng.randrange(0, 2)):
                time.sleep(rng.choice((0, 0, 0.0005, 0.002)))
        else:
            time.sleep(seconds)
        how = rng.choice((signal.SIGTERM, signal.SIGHUP)) if mode == "polite" else signal.SIGKILL
        when = run.kill(how)
        counts["kills"] += 1
        killed, mode_before = common.lines(side), mode
        shutil.copy(project, kept)  # as it is now: the next run saves over it
        errors = (home / f"stderr-{n}.txt").read_text()
        if "Traceback" in errors:
            cause = errors[errors.rindex("Traceback") :].strip().splitlines()
            bench.fail(f"traceback while working: {cause[-1][:120]}", f"run {n}: {' | '.join(cause[-4:])[:300]}")
    folder = bench.autosaves(home)
    counts["litter_autosave"] = len([p for p in folder.iterdir() if p.name.startswith(".")]) if folder.is_dir() else 0
    counts["litter_slips"] = len(list(folder.glob("*.journal"))) if folder.is_dir() else 0
    counts["litter_work"] = len([p for p in work.iterdir() if p.name.startswith(".")])
    return counts, ages


def command_line(bench: common.Bench, song: Path, total: int) -> dict[str, int]:
    """Kill the command line while it writes."""
    rng = random.Random(bench.args.seed + 7)
    place = bench.scratch / "cli"
    place.mkdir(exist_ok=True)
    source = bench.scratch / "work" / "song.ychronos"
    counts = {"kills": 0, "half": 0, "litter": 0, "survived": 0}
    points = [
        "mkstemp:before",
        "mkstemp:after",
        "half",
        "fsync:before",
        "fsync:after",
        "chmod:before",
        "chmod:after",
        "replace:before",
        "replace:after",
    ]
    kinds = {
        "jams": (["export", str(source), "--jams"], "out.jams"),
        "pdf": (["export", str(source), "--pdf"], "out.pdf"),
        "text": (["export", str(source), "--text"], "out.txt"),
        "project": (["analyze", str(song), "-q", "--project"], "out.ychronos"),
    }
    whole: dict[str, bytes] = {}

    def right(path: Path, kind: str) -> bool:
        data = path.read_bytes()
        if kind == "pdf":
            return data.startswith(b"%PDF") and data.rstrip().endswith(b"%%EOF")
        if kind == "text":
            return data == whole.get("text", data)
        try:
            json.loads(data)
            return True
        except ValueError:
            return False

    def one(kind: str, point: str, nth: int, old: bool, delay: float | None) -> None:
        words, name = kinds[kind]
        folder = place / f"{counts['kills']}"
        folder.mkdir()
        out = folder / name
        if old:
            out.write_bytes(b"what was there before")
        plan = {"point": point, "nth": nth, "arguments": [*words, str(out)]}
        child = bench.child(
            __file__, "--role", "cli", json.dumps(plan), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
        try:
            if delay is not None:
                time.sleep(delay)
                child.kill()
            child.wait(120)
        finally:
            common.stop(child)
        counts["kills"] += 1
        counts["survived"] += child.returncode == 0
        if out.exists() and not (old and out.read_bytes() == b"what was there before") and not right(out, kind):
            counts["half"] += 1
            bench.fail(
                f"half-written {kind} under the final name", f"killed at {point} {nth}, {out.stat().st_size} bytes"
            )
        if old and not out.exists():
            bench.fail(f"an older {kind} file is gone", f"killed at {point}")
        counts["litter"] += sum(p.name.startswith(".") for p in folder.iterdir())
        shutil.rmtree(folder)

    first = bench.scratch / "whole.txt"
    subprocess.run(
        [bench.args.app, "-m", "ychronos", "export", str(source), "--text", str(first)],
        env=bench.env(),
        capture_output=True,
    )
    whole["text"] = first.read_bytes() if first.exists() else b""
    for i in range(total):
        kind = list(kinds)[i % 4]
        if i % 3 < 2:
            one(kind, points[(i // 4) % len(points)], 1, i % 2 == 0, None)
        else:
            one(kind, "none", 1, i % 2 == 0, rng.uniform(0.8, 4.0 if kind != "project" else 5.0))
    return counts


def main() -> int:
    args = common.parser("Kill the program at random moments and count what is lost.", count=66)
    args.add_argument("--cli", type=int, default=36, help="kills of the command line")
    args.add_argument("--sessions", type=int, default=400, help="kills of sessions without a window")
    args.add_argument("--modes", nargs="*", choices=list(MODES), default=[], help="only these ways; all by default")
    args.add_argument("--promise", type=float, default=0.0, help="seconds: how old a lost statement may be")
    parsed = args.parse_args()
    bench = common.Bench(parsed, "kills")
    song = bench.recordings()[0]
    counts, ages = windows(bench, song, parsed.count, parsed.promise)
    quick = sessions(bench, parsed.sessions) if parsed.sessions else {}
    cli = command_line(bench, song, parsed.cli) if parsed.cli else {}
    bench.figures = {"sessions": quick, "window": counts, "cli": cli, "ages": ages}
    for mode, values in ages.items():
        if values:
            print(
                f"  {mode}: {len(values)} kills judged; oldest lost statement: median "
                f"{common.percentile(values, 0.5):.1f} s, max {max(values):.1f} s; "
                f"{sum(v > 0 for v in values)} lost something; {counts.get(mode + ' lost', 0)} of "
                f"{counts.get(mode + ' said', 0)} statements"
            )
    return bench.finish(
        f"{counts['kills']} kills of the window, {counts['statements']} statements, {counts['lost']} "
        f"lost; {parsed.sessions} kills of sessions, {quick.get('said', 0)} statements, {quick.get('lost', 0)} lost; "
        f"{cli.get('kills', 0)} kills of the command line, {cli.get('half', 0)} half-written; "
        f"left lying: {counts.get('litter_autosave', 0)} + {counts.get('litter_work', 0)} + "
        f"{cli.get('litter', 0)} temporary files, {counts.get('litter_journals', 0)} journals"
    )


if __name__ == "__main__":
    if len(sys.argv) > 2 and sys.argv[1] == "--role":
        {"window": role_window, "look": role_look, "cli": role_cli, "sessions": role_sessions}[sys.argv[2]](
            json.loads(sys.argv[3])
        )
    else:
        sys.exit(main())
