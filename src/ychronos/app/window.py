"""The main window: puts the parts together and holds what is running."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import cast

from PySide6.QtCore import QEvent, QPoint, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QGuiApplication, QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QMenu,
    QMessageBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from ..audio.play import outputs
from ..audio.play.engine import Player
from ..paths import shown, state_folder
from ..session.beside import Beside
from ..session.commands import chords, count, figuring, marks, sections, shapes
from ..session.keeping import Keeper
from ..session.locks import ProjectLock
from ..session.practice import Practice
from ..session.session import Session
from ..song.doubting import Doubt
from ..song.model import Song
from ..song.titles import title_of
from ..song.words import clock_text
from ..tongue import tr
from . import alerts, files, looks
from .actions import FILE, LISTEN, Actions
from .desk import heard
from .desk.deskbar import Desk
from .desk.hearing import Hearing
from .desk.tapecontrol import TapeControl
from .desk.taps import Taps
from .dialogs.asking import Dialogs
from .dialogs.finder import Finder, KeysPage
from .form.formview import FormView
from .ground.groundview import GroundView
from .guarding import guard
from .habits import Habits
from .head import Head
from .jobs import Job, Threads
from .key.keyview import KeyView
from .labels import Roomy
from .notices import Notice, Strip
from .opener import Opener
from .othercounts import OtherCounts
from .otherkeys import OtherKeys
from .othertunings import OtherTunings
from .page.wishes import Wishes
from .recovery import Recovery, UnfinishedPage
from .settings import Settings
from .sheet.insideview import InsideView
from .sheet.sheet import SheetView
from .sheet.side import Side
from .soon import Soon
from .table import table, view_entries
from .tabs import Tabs
from .theme import Theme, apply, style_sheet
from .tour import Tour
from .viewmenus import ViewMenus
from .views import VIEWS
from .welcome.welcome import Welcome, demo_songs

KEEP_AGAIN = 3000  # ms until work that could not be kept is tried again
CURSOR_EVERY = 16  # ms
SAID_FOR = 3.0  # seconds that a word about what happened stays


class Window(Opener):
    """See the module. ``output`` is the sound device; by default the one :func:`outputs.choose` finds. ``beside`` is the
    process that listens and decides; without one, threads of this process do."""

    def __init__(
        self,
        settings: Settings | None = None,
        output: outputs.Output | None = None,
        beside: Beside | None = None,
    ) -> None:
        guard()
        super().__init__()
        self._paints_soon = Soon(lambda: self.setUpdatesEnabled(True), self)
        self._aside: list[Roomy] = []  # pages that the colours of the window are still to come to
        self._back_soon = Soon(self._put_back, self)
        self.settings = settings or Settings()
        self.wishes = Wishes(self.settings)
        self.habits = Habits(self.settings)
        self.theme = self.habits.theme()
        self.output = output or outputs.choose(self.habits.device)
        QGuiApplication.styleHints().colorSchemeChanged.connect(self._desktop_colours)
        self.jobs = Threads(self, beside)
        self.keeper, self.lock = Keeper(state_folder()), ProjectLock(state_folder())
        self.session = Session(self.jobs, Dialogs(self), self.keeper)
        self.ending = False
        self.player: Player | None = None
        self.job: Job | None = None
        self.cap_lifted = False
        self.words_dialog = self.stage = self.steps = self.guide = None  # made when they are first asked for
        self._going_on = None  # what is opened where it was left
        self._leaving: Song | None = None  # what was open when another recording was asked for
        self._device_on = False
        self.context_menu: QMenu | None = None
        self._said_until = self._since = 0.0
        self._stage = ""
        self.taps = Taps(self)
        self.tape = TapeControl(self)
        self.hearing = Hearing(self)
        self.practice = Practice(self.session, self)

        self.head, self.strip, self.notice = Head(self.session), Strip(), Notice()
        self.other_counts = OtherCounts(self, self.session, self.head)
        self.other_keys = OtherKeys(self, self.head.home)
        self.other_tunings = OtherTunings(self, self.head.record)
        self.sheet = SheetView(self.session, self.theme)
        self.side = Side(self.session)
        self.desk = Desk(self.theme)
        self.welcome = Welcome(self.theme)
        self.unfinished = UnfinishedPage(self.theme)
        self.recovery = Recovery(self, self.keeper, self.unfinished, self.restore)
        self.inside = InsideView(self.session, self.theme)
        self.views = {v.id: v.make(self) for v in VIEWS}
        self.tabs = Tabs(self.theme, VIEWS)
        self.view = VIEWS[0].id
        self.actions_ = Actions(self, [*table(), *view_entries(VIEWS)])
        self.finder, self.keys_page = Finder(self), KeysPage(self)
        self._build()
        self._connect()

        self._cursor_timer = QTimer(self)
        self._cursor_timer.setInterval(CURSOR_EVERY)
        self._cursor_timer.timeout.connect(self._tick)
        self._keep_timer = QTimer(self)
        self._keep_timer.setSingleShot(True)
        self._keep_timer.setInterval(KEEP_AGAIN)
        self._keep_timer.timeout.connect(self.session.keep)
        self._restore()
        self._refresh()
        self.head.refresh()
        self.side.refresh()

    # ------------------------------------------------------------ building

    def _build(self) -> None:
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.pages = QStackedWidget()
        self._rooms = {page: Roomy(page) for page in (self.welcome, *self.views.values(), self.unfinished)}
        for room in self._rooms.values():
            self.pages.addWidget(room)
        middle = QWidget()
        down = QVBoxLayout(middle)
        down.setContentsMargins(0, 0, 0, 0)
        down.setSpacing(0)
        for part in (self.head, self.tabs, self.strip, self.notice):
            down.addWidget(part)
        down.addWidget(self.pages, 1)
        down.addWidget(self.desk)
        self.setCentralWidget(middle)
        menus = self.actions_.fill_menu_bar(self.menuBar())
        self.loops_menu, self.marks_menu = QMenu(tr("Recent loops"), self), QMenu(tr("Marks"), self)
        listen_menu = menus[LISTEN]
        before = self.actions_.actions["mark"]
        listen_menu.insertMenu(before, self.loops_menu)
        listen_menu.insertMenu(self.actions_.actions["back"], self.marks_menu)
        self.loops_menu.aboutToShow.connect(self._fill_loops)
        self.marks_menu.aboutToShow.connect(self._fill_marks)
        file_menu = menus[FILE]
        self.recent_menu, demo_menu = QMenu(tr("Recent"), self), QMenu(tr("Demo songs"), self)
        save_action = self.actions_.actions["save"]
        file_menu.insertMenu(save_action, self.recent_menu)
        file_menu.insertMenu(save_action, demo_menu)
        for path in demo_songs():
            action = QAction(title_of(path), self)
            action.triggered.connect(lambda _=False, path=path: self.open_path(path))
            demo_menu.addAction(action)
        self.desk.set_output(self.output.note)

    def _connect(self) -> None:
        d = self.session
        self._heard_soon, self._actions_soon = Soon(self._refresh_heard, self), Soon(self.actions_.refresh, self)
        d.watch(self._refresh)
        d.watch(self.tape.follow, "ground", "song")
        d.watch(self.hearing.follow, "chords", "grid", "ground", "guitar", "heard", "statements", "song")
        d.heard.connect(self.side.refresh)  # reasons and what else a chord may be are told from evidence
        d.unkept.connect(self._unkept)
        d.watch(self._refresh, "sound")
        d.watch(self._refresh_title, "saved")
        d.watch(self._selection_moved, "selection")
        d.said.connect(self.say)
        d.refused.connect(lambda text: self.notice.say(text))
        self.sheet.seek_wanted.connect(self.seek)
        self.tabs.chosen.connect(self.show_view)
        self._give_tips()
        for view in VIEWS:
            view.connect(self, self.views[view.id])
        d.place_wanted.connect(self._go_to_place)
        d.told.connect(lambda words, choices, error: self.notice.say(words, choices, error=error))
        self.practice.changed.connect(self._practice_changed)
        d.followed.connect(self._followed)
        self.sheet.menu_wanted.connect(self._context_menu)
        self.side.rival_chosen.connect(lambda i: chords.state_rival(self.session, i))
        self.side.doubt_chosen.connect(self._go_to_doubt)
        self.side.other_count = self.other_counts.near
        self.other_counts.otherwise.changed.connect(self.side.soon)
        self.side.way_chosen.connect(lambda i: shapes.choose_way(self.session, i))
        self.side.hear_notes.connect(self.hearing.hear_shape)
        self.side.hear_pressed.connect(self.hearing.toggle_readings)
        self.desk.play_pressed.connect(lambda: looks.play_stop(self))
        self.desk.loop_pressed.connect(self._loop_pressed)
        self.desk.click_pressed.connect(
            lambda: self.practice.set_click("off" if self.practice.click != "off" else "beats")
        )
        self.desk.speed_moved.connect(self.practice.set_speed)
        self.desk.ear_chosen.connect(self.practice.set_ear)
        self.desk.balance_moved.connect(self.practice.set_balance)
        self.desk.ab_pressed.connect(self.practice.toggle_ab)
        self.desk.more_pressed.connect(lambda: heard.practise(self))
        self.sheet.stretch_chosen.connect(self.practice.loop)
        self.sheet.rename_wanted.connect(lambda: sections.rename_section(self.session))
        self.sheet.stroke_pressed.connect(lambda *place: figuring.next_stroke(self.session, *place))
        self.sheet.line_note_heard.connect(self._hear_line_note)
        self.sheet.beat_moved.connect(lambda beat, seconds: count.move_beat(self.session, beat, seconds))
        self.desk.level_moved.connect(lambda _: self.apply_level())
        self.strip.cancelled.connect(self.cancel_job)
        self.welcome.open_wanted.connect(lambda: files.open_dialog(self))
        self.welcome.chosen.connect(self.open_path)
        self.tour = Tour(self)
        self.view_menus = ViewMenus(self, self.views)
        self.welcome.go_on_wanted.connect(self.go_on)

    def _hear_line_note(self, note: int) -> None:
        """A note of a line that is chosen or typed, unless the record plays."""
        if not self.playing:
            self.hearing.hear_shape([note])

    def _give_tips(self) -> None:
        """Tooltips of buttons come from the actions, so that a key which the user changed shows everywhere."""
        tip = self.actions_.tip
        for button, view in zip(self.tabs.buttons, VIEWS, strict=True):
            tip(button, f"view_{view.id}", view.words)
        tip(self.ground.guitar, "guitar")
        tip(self.side.hear, "hear_readings")
        tip(self.welcome.open, "open")
        for widget, name in ((self.desk.more, "practise"), (self.desk.loop, "loop"), (self.desk.click, "click"),
                             (self.desk.ab, "ab"), (self.desk.ear, "ear"), (self.desk.play, "play"),
                             (self.form.rename, "rename"), (self.ground.pitch, "true_pitch")):  # fmt: skip
            tip(widget, name)

    def _restore(self) -> None:
        geometry = self.settings.data("geometry")
        if geometry is not None:
            self.restoreGeometry(geometry)
        self.sheet.per_row = int(self.settings.number("bars_in_row", 4, min(files.BARS_IN_ROW), max(files.BARS_IN_ROW)))
        self.side.setVisible(self.settings.flag("side", True))
        self.sheet.set_diagrams(self.settings.flag("diagrams", False))
        self.sheet.set_strokes(self.settings.flag("strokes", False))
        self.sheet.set_tabs(self.settings.flag("tabs", False))
        self.desk.level.setValue(int(self.settings.number("level", 70, 0, 100)))
        self.set_theme(self.theme)
        self.refresh_recent()
        left = self.settings.left()
        if left is not None and files.is_there(left.path):
            self.welcome.offer_to_go_on(
                tr("Go on with “{title}”, bar {bar}", title=left.title or title_of(left.path), bar=left.bar)
            )

    @property
    def ground(self) -> GroundView:
        return cast(GroundView, self.views["ground"])

    @property
    def keys(self) -> KeyView:
        return cast(KeyView, self.views["key"])

    @property
    def form(self) -> FormView:
        return cast(FormView, self.views["form"])

    # ------------------------------------------------------------ looks

    def show_view(self, view: str) -> None:
        """Show one of the registered views."""
        self.view = view
        self.tabs.show_view(view)
        self._refresh()
        if view == VIEWS[0].id:
            self.sheet.setFocus()

    def _go_to_place(self, seconds: float) -> None:
        self.seek(seconds)
        self.sheet.setFocus()

    def _practice_changed(self) -> None:
        self.hearing.follow()
        self.desk.show_practice(self.practice)
        self._actions_soon()

    def _followed(self, words: str) -> None:
        """Say what a statement did in other passes; one undo takes it all back."""
        self.notice.say(words, {tr("Undo all"): self.session.undo}, error=False)

    def show_chord(self, index: int) -> None:
        """Show a chord on the sheet."""
        self.show_view(VIEWS[0].id)
        chords.go_to_chord(self.session, index)

    def select_bars(self, first: int, last: int) -> None:
        song = self.session.song
        if song is not None:
            self.session.select(song.grid.bar_range(first)[0], first, last)

    def go_to_bar(self, bar: int) -> None:
        """Show a bar on the sheet."""
        song = self.session.song
        if song is not None:
            self.session.select(song.grid.bar_range(bar)[0], bar, bar)
            self.show_view(VIEWS[0].id)

    def _desktop_colours(self) -> None:
        """The desktop went from day to night."""
        if self.habits.colours == "desktop":
            self.set_theme(self.habits.theme())

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        app = QApplication.instance()
        if isinstance(app, QApplication):
            apply(app, theme)
        worn = style_sheet(theme)
        if self.styleSheet() != worn:
            self.setUpdatesEnabled(False)  # all is painted in a turn of its own
            if self.isVisible():
                self._aside = [room for room in self._rooms.values() if not room.isVisible()]
            for room in self._aside:
                room.set_aside()
            self.setStyleSheet(worn)
            self._paints_soon()
            self._back_soon()
        for part in (
            self.head,
            self.tabs,
            self.sheet,
            self.inside,
            self.side,
            self.desk,
            self.welcome,
            self.unfinished,
            *self.views.values(),
        ):
            part.set_theme(theme)
        if self.stage is not None:
            self.stage.set_theme(theme)
        self.settings.set("dark", theme.dark)

    def _put_back(self) -> None:
        """One of the pages that are not shown takes on the colours; each in a turn of its own."""
        if self._aside:
            self._aside.pop().put_back()
            self._back_soon()

    def say(self, text: str) -> None:
        """A short word about what just happened, in the status line of the desk."""
        self.desk.place.setText(text)
        self.desk.place.setAccessibleDescription(text)
        self._said_until = time.monotonic() + SAID_FOR
        QTimer.singleShot(int(1000 * SAID_FOR) + 20, self._show_place)

    def _refresh(self) -> None:
        if self.session.song is None and self.view != VIEWS[0].id:
            self.view = VIEWS[0].id
            self.tabs.show_view(self.view)
        self.show_page()
        for button in self.tabs.buttons[1:]:
            button.setEnabled(self.session.song is not None)
        self.tabs.setVisible(self.session.is_open)
        self.desk.setVisible(self.session.is_open)
        self._refresh_title()
        self._heard_soon()
        if not self.playing:
            self._show_place()

    def _refresh_heard(self) -> None:
        """The loop and the clicks on the present grid."""
        self.show_loop()
        self.apply_clicks()

    def show_page(self) -> None:
        """The view that is chosen, or what there is to see instead."""
        page = self.views[self.view] if self.session.is_open else self.welcome
        self.pages.setCurrentWidget(self._rooms[self.unfinished if self.recovery.showing else page])

    @property
    def page_shown(self) -> QWidget:
        """The page that is seen: a view, the welcome or the page of unsaved work."""
        return next(page for page, room in self._rooms.items() if room is self.pages.currentWidget())

    def _refresh_title(self) -> None:
        d = self.session
        name = shown(d.path) if d.path else (d.title or "")
        self.setWindowTitle(f"{name}[*] – Ychronos" if name else "Ychronos")
        self.setWindowModified(d.dirty)
        self._actions_soon()

    def _go_to_doubt(self, doubt: Doubt) -> None:
        if doubt.kind == "count":
            self.other_counts.ask()
        else:
            chords.go_to_doubt(self.session, doubt)

    def _selection_moved(self) -> None:
        self._actions_soon()
        if not self.playing:
            self._show_place()

    def refresh_recent(self) -> None:
        paths = self.settings.recent()
        self.welcome.show_recent(paths)
        self.recent_menu.clear()
        for path in paths:
            action = QAction(title_of(path), self)
            action.setToolTip(str(path))
            action.triggered.connect(lambda _=False, path=path: self.open_path(path))
            self.recent_menu.addAction(action)
        self.recent_menu.setEnabled(bool(paths))

    def _fill_loops(self) -> None:
        self.loops_menu.clear()
        for i in range(len(self.practice.loops)):
            action = self.loops_menu.addAction(heard.loop_name(self, i))
            action.triggered.connect(lambda _=False, i=i: heard.loop_again(self, i))
        if not self.practice.loops:
            self.loops_menu.addAction(tr("Nothing yet")).setEnabled(False)

    def _fill_marks(self) -> None:
        song = self.session.song
        self.marks_menu.clear()
        for i, found in enumerate(song.marks if song is not None else ()):
            assert song is not None
            words = f"{song.grid.beat_name(found.at)}: {found.text}" if found.text else song.grid.beat_name(found.at)
            action = self.marks_menu.addAction(words)
            action.triggered.connect(lambda _=False, i=i: marks.go_to_mark(self.session, i))
        if song is None or not song.marks:
            self.marks_menu.addAction(tr("Nothing yet")).setEnabled(False)

    def _context_menu(self, at: QPoint) -> None:
        if self.context_menu is not None:
            self.context_menu.deleteLater()
        menu = QMenu(self)
        self.actions_.refresh()
        self.actions_.fill_context_menu(menu)
        menu.popup(at)
        self.context_menu = menu

    def last_folder(self) -> str:
        if self.session.path:
            return str(self.session.path.parent)
        return self.settings.text("folder", str(Path.home()))

    # ------------------------------------------------------------ long work

    def start_job(
        self,
        stage: str,
        work: Callable[[Job], object],
        done: Callable[[object], None],
        failed: Callable[[str], None],
        parts: Callable[[object], None] | None = None,
    ) -> None:
        self.cancel_job(forget=True)
        job = Job(work, self, self.jobs.beside)

        def mine(run: Callable[..., None]) -> Callable[..., None]:
            return lambda *values: run(*values) if self.job is job else None

        job.progress.connect(mine(self.strip.report))
        job.part.connect(mine(parts or self._part))
        job.done.connect(mine(done))
        job.failed.connect(mine(failed))
        job.stopped.connect(mine(self._job_stopped))
        job.over.connect(mine(self._job_over))
        self.job = job
        self._since, self._stage = time.monotonic(), stage
        self.strip.report(stage, 0.0)
        self.strip.show()
        job.start()

    def _job_stopped(self) -> None:
        choices = {tr("Analyse"): self.analyse_again} if self.session.recording and self.session.song is None else {}
        what = (
            tr("What was found so far stays.")
            if self.session.song
            else tr("The recording stays open.")
            if self.session.recording
            else tr("Nothing was opened.")
        )
        self.notice.say(tr("Stopped. {what}", what=what), choices, error=False)

    def _job_over(self) -> None:
        self.strip.hide()
        self.job = None
        self._refresh()
        self.tape.follow()
        if time.monotonic() - self._since > alerts.LONG and alerts.is_away(self):
            title = self.session.song.title if self.session.song is not None else self.session.title or "Ychronos"
            alerts.tell(self, title, tr("{stage}: over", stage=self._stage))

    def cancel_job(self, forget: bool = False) -> None:
        """Ask the work under way to stop; with ``forget`` nobody waits for it any more, whatever comes of it."""
        job = self.job
        if job is None:
            return
        job.cancel()
        if forget:
            self.job = None
            self.strip.hide()

    # ------------------------------------------------------------ closing, keeping

    def may_close(self) -> bool:
        """Ask about unsaved work; False when the user would rather stay."""
        if not self.session.dirty:
            return True
        title = self.session.song.title if self.session.song else ""
        answer = self.ask_save(tr("“{title}” has changes that are not saved.", title=title))
        if answer == QMessageBox.StandardButton.Save:
            return files.save(self)
        return answer == QMessageBox.StandardButton.Discard

    def ask_save(self, text: str) -> QMessageBox.StandardButton:
        buttons = QMessageBox.StandardButton
        return QMessageBox.question(
            self, tr("Save?"), text + tr(" Save them?"), buttons.Save | buttons.Discard | buttons.Cancel, buttons.Save
        )

    def ask_replace(self, path: Path) -> bool:
        buttons = QMessageBox.StandardButton
        text = tr("“{shown}” is there already. Replace it?", shown=shown(path))
        return QMessageBox.question(self, tr("Replace?"), text, buttons.Yes | buttons.No, buttons.No) == buttons.Yes

    def close_document(self) -> None:
        self.cancel_job(forget=True)
        self._let_go()

    def _let_go(self) -> None:
        """Take leave of the song that is open; what is under way goes on."""
        self.stop_device()
        self.player = None
        self.desk.time.setText(clock_text(0.0, tenths=True))
        self.sheet.set_loop(None)
        self.sheet.set_clock(None)
        self._keep_timer.stop()
        self.lock.release()
        self.recovery.showing = False
        self.session.clear()

    def _unkept(self, why: str) -> None:
        """Unsaved work is not on the disk, or is again."""
        if why:
            self.notice.say(
                tr("Unsaved work cannot be kept safe: {why}.", why=why), {tr("Save as…"): lambda: files.save_as(self)}
            )
            self._keep_timer.start()
        else:
            self._keep_timer.stop()
            self.notice.say(tr("Unsaved work is kept safe again."), error=False)

    def offer_recovery(self) -> bool:
        """Show what earlier runs left unsaved; False when there is nothing."""
        return self.recovery.look()

    def end_from_outside(self) -> None:
        """The desktop or the system ends the program: nobody is there to answer, the work stays kept and is offered at
        the next start."""
        self.ending = True
        self.session.keep()
        self.close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.ending and not self.may_close():
            event.ignore()
            return
        self.leave_mark()
        self.cancel_job(forget=True)
        self.session.redecider.stop()
        self.stop_device()
        if not self.ending:
            self.keeper.clear()
        self.keeper.journal.close()
        self.lock.release()
        if self.stage is not None:
            self.stage.close()
        self.settings.set("geometry", self.saveGeometry())
        self.settings.set("bars_in_row", self.sheet.per_row)
        self.settings.set("side", not self.side.isHidden())
        self.settings.set("diagrams", self.sheet.diagrams)
        self.settings.set("strokes", self.sheet.strokes)
        self.settings.set("tabs", self.sheet.tabs)
        self.settings.set("level", self.desk.level.value())
        self.settings.sync()
        self._keep_timer.stop()
        event.accept()

    # ------------------------------------------------------------ Qt

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            if self.job is not None:
                self.cancel_job()
            elif self.notice.isVisible():
                self.notice.hide()
            elif self.inside.isVisible():
                self.inside.hide()
                self.actions_.refresh()
            elif self.isFullScreen():
                self.showNormal()
            return
        super().keyPressEvent(event)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.WindowStateChange:
            self.actions_.refresh()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if files:
            event.acceptProposedAction()
            self.open_path(files[0])
            if len(files) > 1:
                self.notice.say(
                    tr(
                        "One song is open at a time: “{name}” was opened, the other {count} left.",
                        name=files[0].name,
                        count=len(files) - 1,
                    ),
                    error=False,
                )
