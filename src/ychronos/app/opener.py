"""The opening half of the window: recordings, projects, and which recording a project belongs to."""

from __future__ import annotations

import os
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import cast

from ..analysis.evidence import Evidence
from ..audio.play.engine import Player
from ..audio.recording import Recording
from ..formats import project
from ..loading import FILTERS, load_soon
from ..paths import cache_folder, shown
from ..session.locks import ProjectLock
from ..session.opening import Analysis, Matched, Matching
from ..song.model import Song
from ..song.titles import title_of
from ..tongue import tr
from . import files
from .head import Head
from .listening import Listening
from .recovery import Recovery
from .settings import Left

READ_BESIDE = 2 << 20  # bytes of a project above which it is read beside the window


class Opener(Listening):
    """Opens what the user names; the other halves are :class:`~.listening.Listening` and :class:`~.window.Window`."""

    head: Head
    recovery: Recovery
    lock: ProjectLock
    _leaving: Song | None
    _going_on: Left | None

    def _let_go(self) -> None:
        raise NotImplementedError

    def _refresh(self) -> None:
        raise NotImplementedError

    def open_path(self, path: Path) -> None:
        """Open a recording or a project; what is open now is asked about first, and stays open until the other can
        be read."""
        if not self.may_close():
            return
        self.notice.hide()
        path = Path(path)
        if path.suffix.lower() == project.SUFFIX or project.is_project(path):
            self._read_project(path)
            return
        if not self.session.is_open:
            self.session.title = title_of(path)
            self.head.refresh()
        self._leaving = self.session.song
        self._analyse(path)

    def _read_project(self, path: Path) -> None:
        """A long one is read beside the window."""

        def work(_: object) -> tuple[Song, project.FileMark | None]:
            mark = project.mark_of(path)  # before it is read: what comes later is not known
            return project.load(path), mark

        def done(result: object) -> None:
            self._take_project(path, *cast(tuple[Song, project.FileMark | None], result))

        def failed(text: str) -> None:
            self._fail_to_open(path, text)

        try:
            long = path.stat().st_size > READ_BESIDE
        except (OSError, ValueError):
            long = False
        if long:
            self.start_job(tr("Reading"), work, done, failed)
            return
        try:
            result = work(None)
        except project.ProjectError as error:
            failed(str(error))
            return
        done(result)

    def _take_project(self, path: Path, song: Song, mark: project.FileMark | None) -> None:
        self.close_document()
        self.session.set_song(song, Path(path).absolute(), mark=mark)
        self._opened(path)
        self._load_for_project()
        if not self.lock.take(path):
            self.notice.say(
                tr(
                    "“{shown}” is also open in another window. Both can work on it; whoever saves second is asked first.",
                    shown=shown(path),
                ),
                error=False,
            )
        self.recovery.offer_for(path)
        self._place_again(path)

    def restore(self, song: Song, path: Path | None, mark: project.FileMark | None) -> bool:
        """Open work that was not saved, as not saved; False when it could not be kept anew."""
        self.close_document()
        self.session.set_song(song, path, recovered=True, mark=mark)
        if path is not None:
            self.lock.take(path)
        self._load_for_project()
        return self.session.kept

    def go_on(self) -> None:
        """Open what was open last, and go to where it was left."""
        left = self.settings.left()
        if left is not None:
            self._going_on = left
            self.open_path(left.path)

    def _place_again(self, path: Path) -> None:
        """The place and the view where the song was left, if it is this one that is gone on with."""
        left, self._going_on = self._going_on, None
        song = self.session.song
        if left is None or song is None or not files.same_file(left.path, path):
            return
        self.session.select(min(Fraction(left.beat).limit_denominator(96), song.grid.end - 1), chord=False)
        if left.view in self.views:
            self.show_view(left.view)

    def leave_mark(self) -> None:
        """Remember what is open, where the caret is and what is shown, for the next start."""
        song = self.session.song
        path = self.session.path or (self.session.recording.path if self.session.recording else None)
        if song is None or path is None:
            return
        caret = self.session.selection.caret
        number = song.grid.number(song.grid.bar_at(caret))
        self.settings.set_left(Left(Path(path).absolute(), song.title, float(caret), number, self.view))

    def _analyse(self, path: Path) -> None:
        self.start_job(
            tr("Reading"),
            Analysis(path, title_of(path), cache_folder()),
            self._analysed,
            lambda text: self._fail_to_open(path, text),
        )

    def _opened(self, path: Path) -> None:
        self.settings.add_recent(path)
        self.settings.set("folder", str(path.absolute().parent))
        self.refresh_recent()
        self.sheet.setFocus()

    def _fail_to_open(self, path: Path, text: str) -> None:
        if not self.session.is_open:
            self.session.title = ""
            self.head.refresh()
        if not files.is_there(path):
            self.settings.forget_recent(path)
            self.refresh_recent()
        choices: dict[str, Callable[[], object]] = (
            {} if self.session.recording else {tr("Open another…"): lambda: files.open_dialog(self)}
        )
        self.notice.say(text, choices)
        self._refresh()

    def _part(self, part: object) -> None:
        if isinstance(part, Recording):
            known = self.session.recording
            if known is None or known.sha256 != part.sha256 or self.session.path is not None:
                if self.session.song is not self._leaving and not self.may_close():
                    self.cancel_job()  # what was done meanwhile is not given up
                    return
                self._let_go()
                self.session.title = title_of(part.path)
            self._take_recording(part)
            self._opened(part.path)
            self.recovery.offer_for(part.path)
        elif isinstance(part, Song):
            self.session.set_draft(self.habits.applied(part))
        elif isinstance(part, str):
            self.notice.say(part)

    def _take_recording(self, sound: Recording) -> None:
        self.stop_device()
        assert sound.samples is not None
        self.player = Player(sound.samples, sound.rate)
        load_soon(FILTERS)  # what to hear may be chosen
        self.apply_level()
        self.practice.apply()
        self.session.set_recording(sound)
        if sound.note:
            self.notice.say(sound.note, error=False)

    def _analysed(self, result: object) -> None:
        song, evidence = cast(tuple[Song, Evidence], result)
        self.session.set_analysed(self.habits.applied(song), evidence)
        self.sheet.refresh()
        if self.session.recording is not None:
            self._place_again(self.session.recording.path)
        if self.settings.text("tour", "") != "seen" and os.environ.get("YCHRONOS_TOUR", "") != "off":
            self.tour.begin()  # the first chart stands

    # ------------------------------------------------------------ which recording a project belongs to

    def _load_for_project(self, path: Path | None = None) -> None:
        """The recording and evidence of an opened project, from ``path`` or where it should be; without them the chart
        is still usable. Nothing is decided from another recording than the one the chart was made from."""
        song = self.session.song
        assert song is not None
        ref = song.recording
        places = [path] if path is not None else [Path(p) for p in dict.fromkeys((ref.path, ref.known)) if p]

        def done(result: object) -> None:
            evidence, sound = cast(Matched, result).evidence, self.session.recording
            assert sound is not None  # the part that came before
            if evidence is None:
                self.notice.say(
                    tr(
                        "“{shown}” is not the recording that this chart was made from: you hear it, but nothing is decided from it.",
                        shown=shown(sound.path),
                    ),
                    {
                        tr("Find the right one…"): lambda: files.find_recording(self),
                        tr("It is the same music"): lambda: self._take_as_its_own(sound),
                    },
                )
                return
            if path is not None:
                self.session.take_recording(sound)
            else:
                self.session.found_recording(sound.path)
            self.session.take_evidence(evidence)
            self.sheet.refresh()

        def failed(text: str) -> None:
            words = (
                tr("The project is open, but its recording is not: ") if path is None else tr("It stays as it was: ")
            )
            self.notice.say(words + text, {tr("Find the recording…"): lambda: files.find_recording(self)})

        self.start_job(
            tr("Reading"),
            Matching(tuple(places), ref.sha256, cache_folder()),
            done,
            failed,
            parts=lambda part: self._take_recording(cast(Recording, part)),
        )

    def _take_as_its_own(self, sound: Recording) -> None:
        if self.session.take_recording(sound):
            self._load_for_project()

    def relink(self, path: Path) -> None:
        """Look whether a file is the open project's recording, and take it when it is."""
        if self.session.song is not None:
            self.notice.hide()
            self._load_for_project(path)

    def analyse_again(self) -> None:
        """Decide all again that is not stated; without a song yet, analyse from the start."""
        d = self.session
        if d.song is None or d.evidence is None:
            if self.job is not None:
                self.notice.say(
                    tr("The recording is still being read; it is decided again when that is done."), error=False
                )
            elif d.path is None and d.recording is not None and not d.recovered:
                self._analyse(d.recording.path)
            elif d.song is not None:
                self._load_for_project()
            return
        d.decide_again()
