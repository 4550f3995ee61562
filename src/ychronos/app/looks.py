"""What is shown and how, and dialogs that state something."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtGui import QTextCursor
from PySide6.QtWidgets import QDialog, QLabel, QMessageBox, QPlainTextEdit, QVBoxLayout

from .. import __version__, logs
from ..audio.play import outputs
from ..formats import project
from ..guitar.instrument import GuitarSetup
from ..session.commands import shapes
from ..song import edits
from ..song.model import Song
from ..tongue import tr
from .dialogs.asking import asked
from .dialogs.chartdialog import ChartDialog
from .dialogs.fretboard import FretboardDialog
from .dialogs.guide import GuideDialog
from .dialogs.guitardialog import GuitarDialog
from .dialogs.partsdialog import PartsDialog
from .dialogs.preferences import PreferencesDialog
from .dialogs.steps import StepsDialog
from .dialogs.wordsdialog import WordsDialog
from .shell import Shell
from .stage.stageview import StageView
from .theme import Theme

SOUNDS = "*.wav *.flac *.ogg *.oga *.opus *.mp3 *.m4a *.aac *.aif *.aiff *.webm *.mp4 *.mkv *.mka"
OPEN_FILTER = tr(
    "Recordings and projects ({sounds} *{suffix});;Projects (*{suffix});;All files (*)",
    sounds=SOUNDS,
    suffix=project.SUFFIX,
)
BARS_IN_ROW = (2, 3, 4, 6, 8)


def set_guitar(w: Shell) -> None:
    song = w.session.song
    if song is None:
        return
    dialog = GuitarDialog(song, w)
    if asked(dialog) and dialog.setup is not None:
        setup = dialog.setup
        w.session.edit(lambda s: edits.set_guitar(s, setup))


def set_second_guitar(w: Shell) -> None:
    """Say where a second guitar plays, or that there is none."""
    song = w.session.song
    if song is None:
        return
    dialog = GuitarDialog(song, w, second=True)
    if asked(dialog):
        setup = dialog.setup
        w.session.edit(lambda s: edits.set_second_guitar(s, setup))


def handed_chart(w: Shell) -> None:
    """Lay somebody else's chart against the record, in a window of its own beside this one."""
    dialog = ChartDialog(w.session, w.theme, w.widget())
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.place_wanted.connect(w.hear_from)
    dialog.show()


def words_of_song(w: Shell) -> None:
    """Paste the words of the song and drop them on the beats, in a window of its own beside this one."""
    if w.words_dialog is None:
        w.words_dialog = WordsDialog(w, w.session, w.widget())
        w.words_dialog.place_wanted.connect(w.hear_from)
    w.words_dialog.begin()
    w.words_dialog.show()
    w.words_dialog.raise_()


def preview_guitar(w: Shell, setup: GuitarSetup) -> None:
    """Show the whole sheet for a capo or tuning that is not stated, and offer to state it."""
    song = w.session.song
    if song is None or w.ending:
        return
    show = "both" if song.guitar.show == "sounding" and not setup.plain else song.guitar.show
    shown = replace(setup, show=show)
    w.sheet.set_preview(shown)
    w.notice.say(
        tr("The sheet shows it for {describe}; nothing is stated.", describe=shown.describe()),
        {
            tr("Take it"): lambda: shapes.set_guitar(w.session, shown),
            tr("As it was"): lambda: w.sheet.set_preview(None),
        },
        error=False,
    )


def select_all(w: Shell) -> None:
    song = w.session.song
    if song is not None:
        w.select_bars(0, len(song.grid.bars) - 1)


def show_steps(w: Shell) -> None:
    """All steps of the song, in a window of its own beside this one."""
    if w.steps is None:
        w.steps = StepsDialog(w.session, w.widget())
    w.steps.show()
    w.steps.raise_()
    w.steps.list.setFocus()


def show_guide(w: Shell) -> None:
    """The guide, at the view that is shown."""
    if w.guide is None:
        w.guide = GuideDialog(w)
    w.guide.show_at(w.view if w.session.song is not None else "")


def take_tour(w: Shell) -> None:
    """The first look again; it needs a song to look at."""
    w.show_view("sheet")
    w.tour.begin()


def on_stage(w: Shell) -> None:
    """The whole screen for playing along."""
    if w.session.song is None:
        return
    if w.stage is None:
        w.stage = StageView(w.session, w.theme)
        w.stage.play_pressed.connect(lambda: resume(w))
        w.stage.seek_wanted.connect(w.seek)
    w.stage.set_theme(w.theme)
    w.stage.set_clock(w.heard() if w.playing else w.session.song.grid.clock(w.session.selection.caret))
    w.stage.showFullScreen()
    w.stage.setFocus()


def toggle_strokes(w: Shell) -> None:
    w.sheet.set_strokes(not w.sheet.strokes)


def toggle_diagrams(w: Shell) -> None:
    w.sheet.set_diagrams(not w.sheet.diagrams)


def write_in_key(w: Shell) -> None:
    """Write the chart in another key, and offer to hear the record in it."""
    song = w.session.song
    if song is None or not shapes.write_in_key(w.session):
        return
    moved = w.session.song.guitar.moved if w.session.song is not None else 0
    if w.session.recording is not None and w.practice.semitones != moved:
        words = (
            tr("The chart is written in another key than the record.")
            if moved
            else tr("The chart is written as it sounds.")
        )
        w.notice.say(words, {tr("Hear the record so too"): lambda: hear_in_key(w)}, error=False)


def hear_in_key(w: Shell) -> None:
    """Move the record to the key that the chart is written in."""
    song = w.session.song
    if song is not None:
        w.practice.transpose(song.guitar.moved)


def play_stop(w: Shell) -> None:
    if w.playing:
        w.stop_playing()
    else:
        w.play_from_caret()


def resume(w: Shell) -> None:
    if w.playing:
        w.stop_playing()
    else:
        w.resume_playing()


def toggle_loop(w: Shell) -> None:
    if w.sheet.loop is not None:
        w.set_loop(None)
    else:
        s = w.session.selection
        w.set_loop((s.first, s.last))


def change_level(w: Shell, step: int) -> None:
    w.desk.level.setValue(w.desk.level.value() + step)


def toggle_cap(w: Shell) -> None:
    w.cap_lifted = not w.cap_lifted
    w.desk.set_level_words(w.cap_lifted)
    w.apply_level()
    if w.cap_lifted:
        w.notice.say(
            tr("The level cap is lifted. Long listening at high level harms hearing: keep it short, take breaks."),
            {tr("Set the cap again"): lambda: toggle_cap(w)},
            error=False,
        )


def zoom(w: Shell, factor: float) -> None:
    w.sheet.set_zoom(w.sheet.zoom * factor)


def fit_width(w: Shell) -> None:
    w.sheet.set_zoom(1.0)


def bars_in_row(w: Shell, step: int) -> None:
    choices = BARS_IN_ROW
    at = min(range(len(choices)), key=lambda i: abs(choices[i] - w.sheet.per_row))
    w.sheet.set_per_row(choices[max(0, min(len(choices) - 1, at + step))])


def toggle_side(w: Shell) -> None:
    w.side.setVisible(w.side.isHidden())


def toggle_inside(w: Shell) -> None:
    w.inside.setVisible(w.inside.isHidden())
    if not w.inside.isHidden() and w.view != "sheet":
        w.show_view("sheet")


def toggle_dark(w: Shell) -> None:
    w.settings.set("colours", "light" if w.theme.dark else "dark")
    w.set_theme(Theme(not w.theme.dark))


def preferences(w: Shell) -> None:
    """What is wanted of every song and of the program."""
    song = w.session.song
    dialog = PreferencesDialog(w.habits, w.wishes, outputs.devices(), song is not None, w.widget())

    def to_open_song() -> None:
        def edit(s: Song) -> edits.Edited:
            made = w.habits.applied(s)
            if made == s:
                raise edits.EditError(tr("The song is written so already."))
            return made, tr("written as new songs are")

        w.session.edit(edit)

    dialog.colours_changed.connect(lambda: w.set_theme(w.habits.theme()))
    dialog.device_changed.connect(w.find_device)
    dialog.keys_wanted.connect(lambda: show_shortcuts(w))
    dialog.now_wanted.connect(to_open_song)
    asked(dialog)


def toggle_full(w: Shell) -> None:
    if w.isFullScreen():
        w.showNormal()
    else:
        w.showFullScreen()


def find_action(w: Shell) -> None:
    w.finder.open_now()


def show_shortcuts(w: Shell) -> None:
    w.keys_page.open_now()


def show_log(w: Shell) -> None:
    """The log of what happened, to look at or to copy."""
    dialog = QDialog(w)
    dialog.setWindowTitle(tr("Log"))
    words = QPlainTextEdit()
    words.setReadOnly(True)
    words.setAccessibleName(tr("Log"))
    try:
        text = logs.log_file().read_text(encoding="utf-8", errors="replace")
    except OSError:
        text = tr("Nothing has been written yet.")
    words.setPlainText(text)
    words.moveCursor(QTextCursor.MoveOperation.End)
    where = QLabel(str(logs.log_file()))
    where.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
    layout = QVBoxLayout(dialog)
    layout.addWidget(words)
    layout.addWidget(where)
    dialog.resize(760, 460)
    asked(dialog)


def about(w: Shell) -> None:
    QMessageBox.about(
        w,
        tr("About Ychronos"),
        tr(
            "<b>Ychronos {version}</b><br>The chart is the recording, folded.<br><br>Free software under the GNU General Public License, version 3 or later.<br>Fonts: Gentium Book Plus and Inter, both under the SIL Open Font License.<br>Qt through PySide6 under the LGPL.",
            version=__version__,
        ),
    )


def state_chord(w: Shell) -> None:
    w.sheet.start_entry()


def choose_parts(w: Shell) -> None:
    """State the chord by its parts."""
    song = w.session.song
    if song is None:
        return
    dialog = PartsDialog(song, w.session.chord_index, w.session.evidence, w.widget())
    dialog.hear.connect(w.hearing.hear)
    if asked(dialog) and dialog.chord is not None:
        w.session.state_chord(dialog.chord)


def play_on_fretboard(w: Shell) -> None:
    """State the chord by its shape on a drawn fretboard."""
    song = w.session.song
    if song is None:
        return
    dialog = FretboardDialog(song, w.session.chord_index, w.theme, w.widget())
    dialog.hear_notes.connect(w.hearing.hear_notes)
    if asked(dialog) and dialog.chord is not None:
        chord, index = dialog.chord, w.session.chord_index
        if chord != song.chords[index].chord:
            w.session.state_chord(chord)
        shapes.choose(w.session, tuple(dialog.board.shape), dialog.reach, w.session.chord_index, dialog.chosen_fingers)


def tap(w: Shell) -> None:
    w.taps.tap()


def hear_bar(w: Shell, bar: int) -> None:
    """Select a bar and play from it."""
    song = w.session.song
    if song is not None:
        w.hear_from(song.grid.clock(song.grid.bar_range(bar)[0]))
        w.select_bars(bar, bar)


def hear_both(w: Shell, one: int, two: int) -> None:
    """Play two bars in turn, over and over."""
    song, player = w.session.song, w.player
    if song is None or player is None:
        return
    if one == two:
        hear_bar(w, one)
        return
    w.practice.loop(None)
    limits = [(song.grid.clock(a), song.grid.clock(b), 1) for a, b in (song.grid.bar_range(x) for x in (one, two))]
    player.set_plan(limits, again=True)
    w.practice.passes_on = True
    w.hear_from(limits[0][0])
    w.select_bars(two, two)
    w.say(
        tr(
            "Bars {number} and {number2} in turn ({keys} ends it)",
            number=song.grid.number(one),
            number2=song.grid.number(two),
            keys=w.actions_.keys_of("passes"),
        )
    )


def show_unfinished(w: Shell) -> None:
    """Show what earlier runs left unsaved."""
    if not w.recovery.look():
        w.say(tr("Nothing is left unsaved"))
