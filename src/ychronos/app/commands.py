"""What the actions do; each takes the window. The table in :mod:`actions` names them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox

from .. import __version__
from ..audio.decode import AudioError
from ..chart.rows import bar_marks
from ..formats import atomic, jams, pdfchart, project, textchart
from ..formats.textchart import bar_text
from ..guitar.instrument import SHOWS
from ..song import edits, statements
from ..theory.chord import ChordError
from .askdialogs import Ask
from .guitardialog import GuitarDialog
from .theme import Theme

if TYPE_CHECKING:
    from .window import Window

SOUNDS = "*.wav *.flac *.ogg *.oga *.opus *.mp3 *.m4a *.aac *.aif *.aiff *.webm *.mp4 *.mkv *.mka"
OPEN_FILTER = f"Recordings and projects ({SOUNDS} *{project.SUFFIX});;Projects (*{project.SUFFIX});;All files (*)"
BARS_IN_ROW = (2, 3, 4, 6, 8)


# ---------------------------------------------------------------- files


def open_dialog(w: Window) -> None:
    name, _ = QFileDialog.getOpenFileName(w, "Open a recording or project", w.last_folder(), OPEN_FILTER)
    if name:
        w.open_path(Path(name))


def save(w: Window) -> bool:
    return save_to(w, w.document.path) if w.document.path else save_as(w)


def save_as(w: Window) -> bool:
    name = ask_name(w, "Save the project", project.SUFFIX, f"Projects (*{project.SUFFIX})")
    return save_to(w, name) if name else False


def save_to(w: Window, path: Path) -> bool:
    """Save; on failure nothing is lost and the notice offers another place."""
    song = w.document.song
    if song is None:
        return False
    try:
        project.save(song, path)
    except atomic.SaveError as error:
        w.notice.say(str(error), {"Save as…": lambda: save_as(w)})
        return False
    w.document.mark_saved(path)
    w.settings.add_recent(path)
    w.refresh_recent()
    w.autosave.clear()
    w.say(f"Saved as {path.name}")
    return True


def ask_name(w: Window, title: str, suffix: str, filters: str) -> Path | None:
    song = w.document.song
    stem = w.document.path.stem if w.document.path else (song.title if song else "song").replace("/", "-")
    name, _ = QFileDialog.getSaveFileName(w, title, str(Path(w.last_folder()) / (stem + suffix)), filters)
    if not name:
        return None
    path = Path(name)
    return path if path.suffix else path.with_suffix(suffix)


def _export(w: Window, title: str, suffix: str, filters: str, make: Callable[[], bytes]) -> None:
    path = ask_name(w, title, suffix, filters)
    if path is not None:
        export_to(w, path, make)


def export_to(w: Window, path: Path, make: Callable[[], bytes]) -> bool:
    try:
        atomic.write(path, make())
    except atomic.SaveError as error:
        w.notice.say(str(error))
        return False
    w.say(f"Wrote {path.name}")
    return True


def export_pdf(w: Window) -> None:
    if song := w.document.song:
        _export(w, "Chart as PDF", ".pdf", "PDF (*.pdf)", lambda: pdfchart.render(song, w.sheet.per_row, folds(w)))


def export_text(w: Window) -> None:
    if song := w.document.song:
        words = textchart.render(song, w.sheet.per_row, folded=folds(w))
        _export(w, "Chart as text", ".txt", "Text (*.txt)", words.encode)


def folds(w: Window) -> bool:
    """Whether charts that are written out fold what is played again."""
    return w.settings.flag("folded_charts", True)


def toggle_folds(w: Window) -> None:
    w.settings.set("folded_charts", not folds(w))
    w.say("Charts write once what is played again" if folds(w) else "Charts have every bar, as it goes")


def export_jams(w: Window) -> None:
    if song := w.document.song:
        _export(w, "All data as JAMS", ".jams", "JAMS (*.jams)", lambda: jams.dumps(song))


def find_recording(w: Window) -> None:
    name, _ = QFileDialog.getOpenFileName(
        w, "Where is the recording?", w.last_folder(), f"Recordings ({SOUNDS});;All files (*)"
    )
    if name:
        w.relink(Path(name))


def close_song(w: Window) -> None:
    if w.may_close():
        w.close_document()


def quit_app(w: Window) -> None:
    w.close()


# ---------------------------------------------------------------- editing


def undo(w: Window) -> None:
    w.document.undo()


def redo(w: Window) -> None:
    w.document.redo()


def toggle_checked(w: Window) -> None:
    d = w.document
    if d.song is None:
        return
    s = d.selection
    bars = range(s.first, s.last + 1)
    said = d.song.statements
    wanted = not all(statements.at(said, "checked", d.song.grid.bar_range(b)[0]) for b in bars)
    d.edit(lambda song: edits.accept_bars(song, bars, wanted))


def analyse_again(w: Window) -> None:
    w.analyse_again()


def name_song(w: Window) -> None:
    song = w.document.song
    if song is None:
        return
    title, ok = QInputDialog.getText(w, "Title", "The song's title:", text=song.title)
    if not ok:
        return
    artist, ok = QInputDialog.getText(w, "Performers", "Who plays it:", text=song.artist)
    if ok:
        w.document.edit(lambda s: edits.rename_song(s, title, artist))


def set_guitar(w: Window) -> None:
    song = w.document.song
    if song is None:
        return
    dialog = GuitarDialog(song, w)
    if dialog.exec() and dialog.setup is not None:
        setup = dialog.setup
        w.document.edit(lambda s: edits.set_guitar(s, setup))


def next_names(w: Window) -> None:
    song = w.document.song
    if song is None:
        return
    if song.guitar.plain:
        w.notice.say("Shapes are named as they sound: set a capo or a tuning first (Ctrl+G).", error=False)
        return
    show = SHOWS[(SHOWS.index(song.guitar.show) + 1) % len(SHOWS)]
    w.document.edit(lambda s: edits.set_guitar(s, replace(s.guitar, show=show)))


def toggle_true_pitch(w: Window) -> None:
    song = w.document.song
    if song is not None:
        correct = not song.ground.tape_cents
        w.document.edit(lambda s: edits.correct_tape(s, correct))


def toggle_clock(w: Window) -> None:
    song = w.document.song
    if song is not None:
        corrected = not song.ground.corrected_clock
        w.document.edit(lambda s: edits.show_corrected_clock(s, corrected))


def export_audio(w: Window) -> None:
    path = ask_name(w, "Record at true pitch", ".flac", "Sound (*.flac *.wav *.ogg)")
    if path is not None:
        try:
            w.tape.export(path)
        except AudioError as error:
            w.notice.say(str(error))


def copy_bars(w: Window) -> None:
    """Copy the chords of the selected bars, as text for other programs too."""
    song, s = w.document.song, w.document.selection
    if song is None:
        return
    bars = range(s.first, s.last + 1)
    text = " | ".join(bar_text(bar_marks(song, b), song.grid.bars[b].beats) for b in bars)
    w.copied = (text, edits.pieces_of(song, bars))
    QApplication.clipboard().setText(text)
    w.say(f"{len(bars)} bar{'s' if len(bars) > 1 else ''} copied")


def paste_bars(w: Window) -> None:
    """State copied chords from the first selected bar on, or those that some text names."""
    song, text = w.document.song, QApplication.clipboard().text()
    if song is None:
        return
    first = w.document.selection.first
    if w.copied is not None and (text == w.copied[0] or not text):
        pieces = w.copied[1]
        w.document.edit(lambda s: edits.paste(s, first, pieces), decide="chords")
        return
    try:
        words = w.sheet.state_line(text)
    except ChordError as error:
        words = str(error)
    if words:
        w.notice.say(f"What is on the clipboard is no chords: {words}", error=False)


# ---------------------------------------------------------------- sections


SECTION_NAMES = ("Intro", "Verse", "Chorus", "Bridge", "Break", "Solo", "Tag", "Ending")


def rename_section(w: Window) -> None:
    """Ask what the section at the caret is called, and whether that is so every time its music comes."""
    song = w.document.song
    if song is None:
        return
    index = song.section_index(w.document.selection.caret)
    here = song.sections[index]
    known = list(dict.fromkeys([here.name, *(s.name for s in song.sections), *SECTION_NAMES]))
    times = sum((s.material, s.name) == (here.material, here.name) for s in song.sections) if here.material else 1
    reaches = (f"all {times} times", f"this time only, at bar {song.grid.number(song.grid.bar_at(here.start))}")
    dialog = Ask("Section", "What is this section called?", known, reaches if times > 1 else (), w)
    if dialog.exec():
        everywhere = dialog.reach == 0
        w.document.edit(lambda s: edits.rename_section(s, index, dialog.text, everywhere), decide="chords")


def begin_section(w: Window) -> None:
    song = w.document.song
    if song is not None:
        at = Fraction(int(w.document.selection.caret))
        w.document.edit(lambda s: edits.start_section(s, at), decide="chords")


def join_section(w: Window) -> None:
    song = w.document.song
    if song is not None:
        index = song.section_index(w.document.selection.caret)
        w.document.edit(lambda s: edits.join_section(s, index), decide="chords")


# ---------------------------------------------------------------- listening and looking


def play_stop(w: Window) -> None:
    if w.playing:
        w.stop_playing()
    else:
        w.play_from_caret()


def resume(w: Window) -> None:
    if w.playing:
        w.stop_playing()
    else:
        w.resume_playing()


def toggle_loop(w: Window) -> None:
    if w.sheet.loop is not None:
        w.set_loop(None)
    else:
        s = w.document.selection
        w.set_loop((s.first, s.last))


def change_level(w: Window, step: int) -> None:
    w.desk.level.setValue(w.desk.level.value() + step)


def toggle_cap(w: Window) -> None:
    w.cap_lifted = not w.cap_lifted
    w.desk.set_level_words(w.cap_lifted)
    w.apply_level()
    if w.cap_lifted:
        w.notice.say(
            "The level cap is lifted. Long listening at high level harms hearing: keep it short, take breaks.",
            {"Set the cap again": lambda: toggle_cap(w)},
            error=False,
        )


def zoom(w: Window, factor: float) -> None:
    w.sheet.set_zoom(w.sheet.zoom * factor)


def fit_width(w: Window) -> None:
    w.sheet.set_zoom(1.0)


def bars_in_row(w: Window, step: int) -> None:
    choices = BARS_IN_ROW
    at = min(range(len(choices)), key=lambda i: abs(choices[i] - w.sheet.per_row))
    w.sheet.set_per_row(choices[max(0, min(len(choices) - 1, at + step))])


def toggle_side(w: Window) -> None:
    w.side.setVisible(w.side.isHidden())


def toggle_inside(w: Window) -> None:
    w.inside.setVisible(w.inside.isHidden())
    if not w.inside.isHidden() and w.view != 0:
        w.show_view(0)


def toggle_dark(w: Window) -> None:
    w.set_theme(Theme(not w.theme.dark))


def toggle_full(w: Window) -> None:
    if w.isFullScreen():
        w.showNormal()
    else:
        w.showFullScreen()


# ---------------------------------------------------------------- help


def find_action(w: Window) -> None:
    w.finder.open_now()


def show_shortcuts(w: Window) -> None:
    w.keys_page.open_now()


def about(w: Window) -> None:
    QMessageBox.about(
        w,
        "About Ychronos",
        f"<b>Ychronos {__version__}</b><br>The chart is the recording, folded.<br><br>"
        "Free software under the GNU General Public License, version 3 or later.<br>"
        "Fonts: Gentium Book Plus and Inter, both under the SIL Open Font License.<br>"
        "Qt through PySide6 under the LGPL.",
    )
