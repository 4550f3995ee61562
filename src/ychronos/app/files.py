"""What is opened, saved, written out, copied and pasted."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from PySide6.QtCore import QProcess
from PySide6.QtWidgets import QApplication, QFileDialog

from ..audio.decode import AudioError
from ..chart.rows import bar_marks
from ..formats import atomic, project
from ..formats.registry import Exporter
from ..formats.textchart import bar_text
from ..paths import shown
from ..session.keeping import saved_at
from ..session.printed import WrittenOut
from ..song import edits
from ..song.words import plural
from ..theory.chord import ChordError
from ..tongue import tr
from .shell import Shell

SOUNDS = "*.wav *.flac *.ogg *.oga *.opus *.mp3 *.m4a *.aac *.aif *.aiff *.webm *.mp4 *.mkv *.mka"
OPEN_FILTER = tr(
    "Recordings and projects ({sounds} *{suffix});;Projects (*{suffix});;All files (*)",
    sounds=SOUNDS,
    suffix=project.SUFFIX,
)
BARS_IN_ROW = (2, 3, 4, 6, 8)


def open_dialog(w: Shell) -> None:
    name, _ = QFileDialog.getOpenFileName(w, tr("Open a recording or project"), w.last_folder(), OPEN_FILTER)
    if name:
        w.open_path(Path(name))


def save(w: Shell) -> bool:
    return save_to(w, w.session.path) if w.session.path else save_as(w)


def save_as(w: Shell) -> bool:
    name = ask_name(w, tr("Save the project"), (project.SUFFIX,), tr("Projects (*{suffix})", suffix=project.SUFFIX))
    return save_to(w, name, chosen=True) if name else False


def save_to(w: Shell, path: Path, replace: bool = False, chosen: bool = False) -> bool:
    """Save; on failure nothing is lost and the notice offers another place. What somebody else wrote there since is
    only replaced when ``replace`` says so, or when the name was ``chosen`` anew."""
    song = w.session.song
    if song is None:
        return False
    mark = w.session.mark
    known = w.session.path is not None and os.path.realpath(path) == os.path.realpath(w.session.path)
    if not replace and not chosen and is_there(path) and not (known and mark and project.same_file(path, mark)):
        w.notice.say(
            tr(
                "“{shown}” was written by something else since it was opened here ({saved}), perhaps another window or a synchronised folder. Nothing was saved yet.",
                shown=shown(path),
                saved=saved_at(path),
            ),
            {tr("Save as…"): lambda: save_as(w), tr("Replace it"): lambda: save_to(w, path, replace=True)},
        )
        return False
    try:
        project.save(song, path)
    except atomic.SaveError as error:
        w.notice.say(str(error), {tr("Save as…"): lambda: save_as(w)})
        return False
    w.session.mark_saved(path.absolute())
    w.settings.add_recent(path)
    w.refresh_recent()
    w.say(tr("Saved as {shown}", shown=shown(path)))
    return True


def is_there(path: Path) -> bool:
    """Whether a name leads to something; one that cannot be a name does not."""
    try:
        return path.exists()
    except (OSError, ValueError):
        return False


def same_file(one: Path, two: Path) -> bool:
    """Whether two names lead to the same place."""
    return os.path.realpath(one) == os.path.realpath(two)


LONGEST = 200  # bytes of a name that is proposed


def ask_name(w: Shell, title: str, suffixes: tuple[str, ...], filters: str) -> Path | None:
    """Ask for a name to write to. Whatever is typed, the file gets one of the suffixes: “Mr. Smith” has none. A file of
    the completed name is asked about, since the dialog only knew the name as typed."""
    song = w.session.song
    stem = w.session.path.stem if w.session.path else (song.title if song else "song").replace("/", "-")
    stem = "".join(c for c in stem if c.isprintable()).strip(" .") or "song"
    while len(os.fsencode(stem)) > LONGEST:
        stem = stem[:-1]
    name, _ = QFileDialog.getSaveFileName(w, title, str(Path(w.last_folder()) / (stem + suffixes[0])), filters)
    if not name:
        return None
    path = Path(name)
    if path.suffix.lower() in suffixes:
        return path
    path = path.with_name(path.name + suffixes[0])
    return path if not is_there(path) or w.ask_replace(path) else None


def export_to(w: Shell, path: Path, data: bytes) -> bool:
    """Write what was made to a file, and say so."""
    try:
        atomic.write(path, data)
    except atomic.SaveError as error:
        w.notice.say(str(error))
        return False
    w.say(tr("Wrote {shown}", shown=shown(path)))
    return True


def export(w: Shell, one: Exporter) -> None:
    """Ask for a name and write the song out; it is made beside the window."""
    song = w.session.song
    if song is None:
        return
    path = ask_name(w, one.words.rstrip("…"), (one.suffix,), one.filters)
    if path is not None:
        options = w.wishes.options(w.sheet.per_row)

        def failed(_: str) -> None:  # a chart that cannot be made: the song stays as it is
            w.notice.say(
                tr(
                    "“{shown}” was not written: something went wrong inside Ychronos. The song is as it was; Help > Show the log has more.",
                    shown=shown(path),
                )
            )

        def made(data: bytes) -> None:
            export_to(w, path, data)

        w.session.jobs.start(WrittenOut(one.id, song, options), made, failed)


def toggle_folds(w: Shell) -> None:
    w.wishes.set_layer("folded", not w.wishes.layer("folded"))
    w.say(
        tr("Charts write once what is played again")
        if w.wishes.layer("folded")
        else tr("Charts have every bar, as it goes")
    )


def toggle_prints_shapes(w: Shell) -> None:
    w.wishes.set_layer("shapes", not w.wishes.layer("shapes"))
    w.say(tr("Charts show the shapes in use") if w.wishes.layer("shapes") else tr("Charts are names only"))


def find_recording(w: Shell) -> None:
    name, _ = QFileDialog.getOpenFileName(
        w, tr("Where is the recording?"), w.last_folder(), tr("Recordings ({sounds});;All files (*)", sounds=SOUNDS)
    )
    if name:
        w.relink(Path(name))


def close_song(w: Shell) -> None:
    if w.may_close():
        w.close_document()


def started(process: QProcess) -> bool:
    """Start a process that goes on when this one ends."""
    return bool(process.startDetached())


def another_window(w: Shell) -> None:
    """A second window, in a process of its own: what one does cannot harm the other. It holds nothing of this one, not
    even the terminal, or a pipe in its place: whoever waits for this one to end would wait for both."""
    other = QProcess()
    other.setProgram(sys.executable)
    other.setArguments(["-m", "ychronos"])
    other.setWorkingDirectory("/")
    nowhere = QProcess.nullDevice()
    other.setStandardInputFile(nowhere)
    other.setStandardOutputFile(nowhere)
    other.setStandardErrorFile(nowhere)
    if not started(other):
        w.notice.say(tr("Another window could not be started."))


def quit_app(w: Shell) -> None:
    w.close()


def analyse_again(w: Shell) -> None:
    w.analyse_again()


def export_audio(w: Shell) -> None:
    path = ask_name(w, tr("Record at true pitch"), (".flac", ".wav", ".ogg"), tr("Sound (*.flac *.wav *.ogg)"))
    if path is not None:
        try:
            w.tape.export(path)
        except AudioError as error:
            w.notice.say(str(error))


def copy_bars(w: Shell) -> None:
    """Copy the chords of the selected bars, as text for other programs too."""
    song, s = w.session.song, w.session.selection
    if song is None:
        return
    bars = range(s.first, s.last + 1)
    text = " | ".join(bar_text(bar_marks(song, b), song.grid.bars[b].beats) for b in bars)
    w.session.copied = (text, edits.pieces_of(song, bars))
    QApplication.clipboard().setText(text)
    w.say(tr("{bars} copied", bars=plural(len(bars), "bar", "bars")))


def paste_bars(w: Shell) -> None:
    """State copied chords from the first selected bar on, or those that some text names."""
    song, text = w.session.song, QApplication.clipboard().text()
    if song is None:
        return
    first = w.session.selection.first
    if w.session.copied is not None and (text == w.session.copied[0] or not text):
        pieces = w.session.copied[1]
        w.session.edit(lambda s: edits.paste(s, first, pieces), decide="chords")
        return
    try:
        words = w.sheet.state_line(text)
    except ChordError as error:
        words = str(error)
    if words:
        w.notice.say(tr("What is on the clipboard is no chords: {words}", words=words), error=False)
