"""What the actions of the listening desk do; each takes the window. The table in :mod:`actions` names them."""

from __future__ import annotations

from pathlib import Path

from ...audio.decode import AudioError
from ...chart.rows import section_title
from ...paths import shown
from ...session.playedthrough import PlayedThrough
from ...tongue import tr
from ..dialogs.asking import asked
from ..files import ask_name
from ..shell import Shell
from .practicedialog import PracticeDialog


def practise(w: Shell) -> None:
    asked(PracticeDialog(w.practice, w))


def loop_again(w: Shell, number: int) -> None:
    """Loop again what was looped lately."""
    if 0 <= number < len(w.practice.loops):
        start, end = w.practice.loops[number]
        w.practice.loop(start, end)
        w.session.select(start)
        w.play_from_caret()


def loop_name(w: Shell, number: int) -> str:
    song = w.session.song
    start, end = w.practice.loops[number]
    if song is None:
        return ""
    first, last = song.grid.bar_at(start), song.grid.bar_at(end - song.grid.end / 10**6)
    name, which = section_title(song, song.section_index(start))
    one, two = song.grid.number(first), song.grid.number(last)
    bars = tr("bar {one}", one=one) if one == two else tr("bars {one}–{two}", one=one, two=two)
    return f"{name}{f', {which}' if which else ''}: {bars}"


# ---------------------------------------------------------------- writing what is heard


def export_heard(w: Shell) -> None:
    """Write what is heard, the loop or the whole song, as it is heard."""
    path = ask_name(w, tr("What is heard"), (".flac", ".wav", ".ogg", ".mp3"), tr("Sound (*.flac *.wav *.ogg *.mp3)"))
    if path is None:
        return
    try:
        write_heard(w, path)
    except AudioError as error:
        w.notice.say(str(error))


def write_heard(w: Shell, path: Path) -> None:
    """Write it beside the window: the player's speed, pitch, bands, click, chart and balance."""
    player, song, sound = w.player, w.session.song, w.session.recording
    if player is None or song is None or sound is None:
        return
    if path.resolve() == sound.path.resolve():
        raise AudioError(tr("That is the original record, which stays as it is; choose another name."))
    words = tr("the loop") if player.loop is not None else tr("the song")
    work = PlayedThrough.of(player, w.practice.speed, w.practice.cents, path)
    w.start_job(
        tr("Playing it through"),
        work,
        lambda _: w.say(tr("“{shown}” is written: {words}", shown=shown(path), words=words)),
        w.notice.say,
    )
