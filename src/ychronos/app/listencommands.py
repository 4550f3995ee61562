"""What the actions of the listening desk do; each takes the window. The table in :mod:`actions` names them."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtWidgets import QInputDialog

from ..audio.decode import AudioError, Samples
from ..audio.play import tape
from ..audio.play.engine import Player
from ..audio.recording import SampleStore
from ..chart.rows import section_title
from ..song import edits
from .commands import ask_name
from .jobs import Job
from .practicedialog import PracticeDialog

if TYPE_CHECKING:
    from .window import Window

BLOCK = 2048


def practise(w: Window) -> None:
    PracticeDialog(w.practice, w).exec()


def loop_again(w: Window, number: int) -> None:
    """Loop again what was looped lately."""
    if 0 <= number < len(w.practice.loops):
        start, end = w.practice.loops[number]
        w.practice.loop(start, end)
        w.document.select(start)
        w.play_from_caret()


def loop_name(w: Window, number: int) -> str:
    song = w.document.song
    start, end = w.practice.loops[number]
    if song is None:
        return ""
    first, last = song.grid.bar_at(start), song.grid.bar_at(end - song.grid.end / 10**6)
    name, which = section_title(song, song.section_index(start))
    one, two = song.grid.number(first), song.grid.number(last)
    bars = f"bar {one}" if one == two else f"bars {one}–{two}"
    return f"{name}{f', {which}' if which else ''}: {bars}"


# ---------------------------------------------------------------- marks


def mark(w: Window) -> None:
    """Mark the caret's place with a note; where a mark is, change its note or take it away."""
    d = w.document
    if d.song is None:
        return
    at = d.selection.caret
    old = next((m for m in d.song.marks if m.at == at), None)
    text, ok = QInputDialog.getText(
        w,
        "Mark",
        f"A note for {d.song.grid.beat_name(at)}" + (" (empty: take the mark away):" if old else ":"),
        text=old.text if old else "",
    )
    if not ok:
        return
    if old is not None and not text.strip():
        d.edit(lambda s: edits.remove_mark(s, at))
    else:
        d.edit(lambda s: edits.set_mark(s, at, text))


def next_mark(w: Window) -> None:
    song = w.document.song
    if song is None or not song.marks:
        w.say("No place is marked")
        return
    here = w.document.selection.caret
    go_to_mark(w, next((i for i, m in enumerate(song.marks) if m.at > here), 0))


def go_to_mark(w: Window, number: int) -> None:
    song = w.document.song
    if song is None or not 0 <= number < len(song.marks):
        return
    found = song.marks[number]
    w.practice.leave(w.document.selection.caret)
    w.document.select(found.at)
    w.seek(song.grid.clock(found.at))
    w.say(found.text or f"Mark at {song.grid.beat_name(found.at)}")
    w.sheet.setFocus()


# ---------------------------------------------------------------- writing what is heard


def export_heard(w: Window) -> None:
    """Write what is heard, the loop or the whole song, as it is heard."""
    path = ask_name(w, "What is heard", ".flac", "Sound (*.flac *.wav *.ogg *.mp3)")
    if path is None:
        return
    try:
        write_heard(w, path)
    except AudioError as error:
        w.notice.say(str(error))


def write_heard(w: Window, path: Path) -> None:
    """Write it beside the window: the player's speed, pitch, bands, click, chart and balance."""
    player, song, sound = w.player, w.document.song, w.document.recording
    if player is None or song is None or sound is None:
        return
    if path.resolve() == sound.path.resolve():
        raise AudioError("That is the original record, which stays as it is; choose another name.")
    limits = player.loop
    first, last = limits if limits is not None else (0, len(player.samples))
    copy = Player(player.samples, player.rate, player.stretch)
    copy.set_ear(player.ear)
    copy.clicks, copy.chart = player.clicks, player.chart
    copy.record_gain, copy.chart_gain = player.record_gain, player.chart_gain
    copy.set_speed(w.practice.speed, w.practice.cents)
    copy.set_gain(1.0)
    rate, speed = player.rate, w.practice.speed

    def work(job: Job) -> object:
        copy._gain = 1.0
        copy._mix = (copy.record_gain, copy.chart_gain)
        copy.play(first / (rate * copy.stretch))
        store, left = SampleStore(), round((last - first) / speed)
        whole = max(1, left)
        while left > 0:
            block: Samples = np.zeros((min(BLOCK, left), 2), np.float32)
            copy.fill(block)
            store.add(block)
            left -= len(block)
            job.report("Playing it through", 0.7 * (1 - left / whole))
            if job.cancelled():
                return None
        made = store.finish(2)
        tape.export(made, rate, path, lambda x: job.report("Writing it", 0.7 + 0.3 * x), job.cancelled)
        return store  # kept alive while its samples are in use

    words = "the loop" if limits is not None else "the song"
    w.start_job("Playing it through", work, lambda _: w.say(f"“{path.name}” is written: {words}"), w.notice.say)
