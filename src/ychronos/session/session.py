"""What is open: one song with its history, its recording, its evidence and what is selected.

Views read the immutable song from here and send edits here; nothing else holds musical truth. No window is needed: the
command line, benches and tests use the same session.
"""

from __future__ import annotations

import datetime
import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from ..analysis import pipeline
from ..analysis.evidence import Evidence
from ..audio.recording import Recording
from ..formats import atomic, project
from ..paths import shown
from ..song import edits
from ..song.changes import beyond
from ..song.grid import Position
from ..song.history import History, Waiting
from ..song.merge import restated
from ..song.model import ChordSpan, RecordingRef, Song, logged
from ..song.statements import stamped
from ..song.track import Move, move
from ..song.words import bars_text
from ..theory.chord import Chord
from ..tongue import sentence as capital
from ..tongue import tr
from .events import Event
from .jobs import AtOnce, Runner
from .keeping import Keeper
from .questions import Asks, Nobody
from .redecider import Answer, Redecider, waiting_after
from .shaping import Shaping

HALF = Fraction(1, 2)
LOG = logging.getLogger("ychronos.session")


@dataclass(frozen=True)
class Selection:
    """The caret and the bars around it. ``chord`` is true when the chord at the caret is meant, not bars."""

    caret: Position = Fraction(0)
    first: int = 0
    last: int = 0
    chord: bool = True

    @property
    def many(self) -> bool:
        return self.first != self.last


# What a change can be of: parts of the song, and what is kept around it.
SONG = (
    "title",
    "artist",
    "grid",
    "chords",
    "keys",
    "sections",
    "statements",
    "ground",
    "guitar",
    "second",
    "heard",
    "strummed",
    "bassline",
    "closing",
    "sung",
    "notation",
    "recording",
)
MUSIC = ("song", *(name for name in SONG if name not in ("title", "artist", "recording")))  # what views draw
ALL = frozenset((*SONG, "song", "sound", "selection", "saved", "shapes"))


class Session:
    """See the module. Whoever watches is told the names of what changed and looks here; nothing else is handed on.

    ``said`` is a short word about what happened, ``refused`` a sentence on why something does not apply, ``told``
    (text, choices, whether it is an error) more than that; ``followed`` what changed beyond what was said; ``moved`` the
    map of positions when the count changed; ``place_wanted`` a time of the record to go to; ``unkept`` a sentence on
    why unsaved work is not on the disk, "" when it is again; ``heard`` that the recording's evidence has come.
    """

    def __init__(self, jobs: Runner | None = None, asks: Asks | None = None, keeper: Keeper | None = None) -> None:
        self.said, self.refused, self.told, self.followed = Event(), Event(), Event(), Event()
        self.moved, self.place_wanted, self.place_left = Event(), Event(), Event()
        self.unkept, self.heard = Event(), Event()
        self.keeper = keeper
        self.kept = True
        self.mark: project.FileMark | None = None  # what the project's file was when it was last read or written
        self._watchers: list[tuple[Callable[[], object], frozenset[str]]] = []
        self.jobs: Runner = jobs or AtOnce()
        self.asks: Asks = asks or Nobody()
        self.history = History()
        self.recording: Recording | None = None
        self._evidence: Evidence | None = None
        self.path: Path | None = None
        self.title = ""
        self.selection = Selection()
        self.doubt_shown: tuple[str, int] | None = None  # kind and index of the doubt gone to last
        self.recovered = False
        self.copied: tuple[str, list[list[edits.Piece]]] | None = None
        self._clean: Song | None = None
        self.redecider = Redecider(lambda: self.history, lambda: self.evidence, self.jobs)
        self.redecider.answered.connect(self._answered)
        self.redecider.failed.connect(self.refused.emit)
        self.shaping = Shaping(lambda: self.jobs, lambda: self.tell_changed("shapes"))

    @property
    def evidence(self) -> Evidence | None:
        """What is heard of the recording, by the names that the song's tuning gives it."""
        heard, song = self._evidence, self.song
        return heard.named(song.ground.cents) if heard is not None and song is not None else heard

    # ------------------------------------------------------------ who watches

    def watch(self, listener: Callable[[], object], *names: str) -> None:
        """Have a function called when any of the named things changed; without names when anything of the song did."""
        unknown = set(names) - ALL
        if unknown:
            raise ValueError(f"nothing is called {', '.join(sorted(unknown))}")
        self._watchers.append((listener, frozenset(names) or frozenset((*SONG, "song"))))

    def tell_changed(self, *names: str) -> None:
        """Say what changed; each watcher is called once."""
        changed = frozenset(names)
        for listener, wanted in list(self._watchers):
            if wanted & changed:
                listener()

    def leave_place(self) -> None:
        """The caret is about to jump: whoever keeps the way back is told."""
        self.place_left.emit()

    def say(self, words: str) -> None:
        self.said.emit(words)

    def tell(self, words: str, choices: Mapping[str, Callable[[], object]] | None = None, error: bool = False) -> None:
        self.told.emit(words, dict(choices or {}), error)

    # ------------------------------------------------------------ state

    @property
    def song(self) -> Song | None:
        return self.history.song

    @property
    def dirty(self) -> bool:
        return self.song is not None and (self.recovered or self.song is not self._clean)

    @property
    def is_open(self) -> bool:
        return self.song is not None or self.recording is not None

    def clear(self) -> None:
        """Let go of the song; what was not saved of it is given up."""
        self.redecider.stop()
        if self.keeper is not None:
            self.keeper.clear()
        self.history = History()
        self.recording = self._evidence = self.path = self._clean = self.mark = None
        self.title, self.selection, self.recovered = "", Selection(), False
        self.tell_changed(*ALL)

    def set_recording(self, recording: Recording | None, title: str = "") -> None:
        self.recording = recording
        self.title = title or self.title
        self.tell_changed("sound")

    def set_draft(self, song: Song) -> None:
        """A song as far as the analysis has come; it has no history yet."""
        old = self.song
        self.history.start(song, "analysed")
        self._clean = song
        if old is not None and old.statements:  # said while the analysis was under way
            self.history.do(restated(song, old), tr("said while it was analysed"), Waiting("bars", song))
        self._changed(old, tr("said while it was analysed"))

    def set_analysed(self, song: Song, evidence: Evidence) -> None:
        """The whole analysis; the caret goes to the first bar of the music."""
        self.set_draft(song)
        self.take_evidence(evidence)
        first = song.grid.lead_in if song.grid.lead_in < len(song.grid.bars) else 0
        self.select(song.grid.bar_range(first)[0], chord=True)

    def set_song(
        self, song: Song, path: Path | None, recovered: bool = False, mark: project.FileMark | None = None
    ) -> None:
        """A song that was opened from a project or from unfinished work; ``mark`` is what the project's file was."""
        self.history.start(song)
        self.path, self._clean, self.recovered, self.mark = path, song, recovered, mark
        self.title = song.title
        self.selection = Selection(first=song.grid.lead_in, last=song.grid.lead_in)
        self.selection = replace(
            self.selection, caret=song.grid.bar_range(min(song.grid.lead_in, len(song.grid.bars) - 1))[0]
        )
        if recovered:
            self.keep(tr("Opened again what was not saved"))
        self.tell_changed(*ALL - {"sound"})

    def mark_saved(self, path: Path) -> None:
        self.path, self._clean, self.recovered = path, self.song, False
        self.mark = project.mark_of(path)
        self.keep()
        self.tell_changed("saved")

    def keep(self, said: str = "") -> bool:
        """See to it that unsaved work survives the program, and that nothing is kept when there is none; False when it
        could not be kept. ``said`` is the sentence that led to the present song, "" when nobody said anything."""
        song, was = self.song, self.kept
        if self.keeper is None:
            return True
        if song is None or not self.dirty:
            self.keeper.clear()
            self.kept = True
        else:
            why = ""
            try:
                self.keeper.keep(song, said, self.path, self.mark)
            except atomic.SaveError as error:
                why = error.why
            except Exception as error:  # whatever goes wrong here, the user must know that the work is not safe
                LOG.exception("unsaved work was not kept")
                why = tr("something went wrong inside Ychronos ({name})", name=type(error).__name__)
            self.kept = not why
            if why:
                self.unkept.emit(why)
        if self.kept and not was:
            self.unkept.emit("")
        return self.kept

    # ------------------------------------------------------------ edits

    def edit(self, make: Callable[[Song], edits.Edited], decide: pipeline.What | None = None) -> bool:
        """Apply an edit; ``decide`` is from where on the rest is decided again around it."""
        song = self.song
        if song is None:
            return False
        try:
            new, sentence = make(song)
        except edits.EditError as error:
            LOG.info("refused: %s", error)
            self.refused.emit(str(error))
            return False
        when = datetime.datetime.now().isoformat(timespec="seconds")
        new = logged(replace(new, statements=stamped(new.statements, when, sentence)), when, sentence)
        self.history.do(new, sentence, waiting_after(self.history, decide, song))
        self._changed(song, sentence)
        LOG.info("said: %s", sentence)
        self.said.emit(capital(sentence))
        self.redecider.serve()
        return True

    def _changed(self, old: Song | None, said: str = "") -> None:
        """The present song is another one: keep it, then say so; places move along where the count is another."""
        new = self.song
        self.keep(said)
        if old is not None and new is not None and old.grid.times != new.grid.times:
            mapped = move(old.grid, new.grid)
            self._move_selection(mapped)
            self.moved.emit(mapped)
        self._keep_selection_inside()
        names = [n for n in SONG if old is None or new is None or getattr(old, n) != getattr(new, n)]
        self.tell_changed(*names, *(("song",) if old is None or new is None else ()), "saved")

    def _answered(self, answer: Answer) -> None:
        """The present state was decided again."""
        if answer.song == answer.said:
            return
        self._changed(answer.said)
        words = beyond(answer.before, answer.said, answer.song)
        if words:
            self.followed.emit(" ".join(words))

    def take_recording(self, sound: Recording) -> bool:
        """The user says that a recording is this song's, or it has the very bytes of it; one undo takes it back."""
        song = self.song
        if song is None:
            return False
        place = str(sound.path.absolute())
        ref = RecordingRef(place, sound.sha256 or song.recording.sha256, sound.duration, sound.note, place)
        if ref == song.recording:
            return True
        return self.edit(lambda s: (replace(s, recording=ref), tr("the recording is {shown}", shown=shown(sound.path))))

    def found_recording(self, path: Path) -> None:
        """The song's own recording is at a place for sure: all states of the song know it from now on."""
        place = str(path.absolute())

        def there(song: Song) -> Song:
            ref = song.recording
            if (ref.path, ref.known or ref.path) == (place, place):
                return song
            return replace(song, recording=replace(ref, path=place, known=place))

        clean = self._clean
        for state in self.history.states:
            new = there(state.song)
            if state.song is clean:
                self._clean = new
            state.song = new

    def take_evidence(self, evidence: Evidence | None) -> None:
        """The recording's evidence has come: what was said before it did is decided around now."""
        self._evidence = evidence
        self.redecider.serve()
        self.heard.emit()

    def decide_again(self) -> None:
        """Decide all again that is not stated, from the bar lines on."""
        song = self.song
        if song is not None and self.edit(lambda s: (replace(s), tr("decided again"))):
            self.history.states[self.history.at].waiting = Waiting("bars", None)
            self.redecider.serve()

    @property
    def redeciding(self) -> bool:
        return self.redecider.running

    def undo(self) -> None:
        old = self.song
        if self.history.can_undo:
            self._stepped(tr("Taken back: ") + self.history.undo(), old)

    def redo(self) -> None:
        old = self.song
        if self.history.can_redo:
            self._stepped(tr("Done again: ") + self.history.redo(), old)

    def go_to_step(self, at: int) -> None:
        """To any state of the history, back or forward."""
        old = self.song
        if old is not None and at != self.history.at and 0 <= at < len(self.history.states):
            self._stepped(tr("As it was after: ") + self.history.go(at), old)

    def _stepped(self, words: str, old: Song | None) -> None:
        self._changed(old, words)
        self.said.emit(words)
        self.redecider.serve()

    # ------------------------------------------------------------ what is selected

    def select(self, caret: Position, first: int | None = None, last: int | None = None, chord: bool = False) -> None:
        """Put the caret at a position; without bars the one that holds it is selected."""
        song = self.song
        if song is None:
            return
        caret = max(Fraction(0), min(caret, song.grid.end - Fraction(1, 8)))
        bar = song.grid.bar_at(caret)
        first = bar if first is None else max(0, first)
        last = bar if last is None else min(len(song.grid.bars) - 1, last)
        new = Selection(caret, min(first, last), max(first, last), chord)
        if new != self.selection:
            self.selection = new
            self.tell_changed("selection")

    def _move_selection(self, mapped: Move) -> None:
        """Keep the caret and the selected bars on the music they stand on."""
        s, new = self.selection, mapped.new
        bars = mapped.old.bars
        first, last = (mapped.old.bar_range(min(x, len(bars) - 1)) for x in (s.first, s.last))
        caret = max(Fraction(0), mapped(s.caret))
        one, two = new.bar_at(mapped(first[0])), new.bar_at(mapped(last[1]) - Fraction(1, 64))
        if not s.many:
            one = two = new.bar_at(caret)
        moved = replace(s, caret=caret, first=one, last=max(one, two))
        if moved != s:
            self.selection = moved
            self.tell_changed("selection")

    def _keep_selection_inside(self) -> None:
        song = self.song
        if song is None:
            return
        s = self.selection
        last_bar = len(song.grid.bars) - 1
        caret = min(s.caret, song.grid.end - Fraction(1, 8))
        inside = replace(s, caret=caret, first=min(s.first, last_bar), last=min(s.last, last_bar))
        if inside != s:
            self.selection = inside
            self.tell_changed("selection")

    @property
    def chord_index(self) -> int:
        return self.song.chord_index(self.selection.caret) if self.song else 0

    def chord_at_caret(self) -> ChordSpan | None:
        return self.song.chords[self.chord_index] if self.song else None

    def target_range(self) -> tuple[Position, Position]:
        """What a stated chord would cover: the selected bars, or from the caret to the next change."""
        song = self.song
        assert song is not None
        s = self.selection
        if s.many:
            return song.grid.bar_range(s.first)[0], song.grid.bar_range(s.last)[1]
        _, end = song.chord_range(self.chord_index)
        return s.caret, end

    def describe_selection(self) -> str:
        """The selection in words, as a screen reader says it."""
        song = self.song
        if song is None:
            return tr("No song")
        s = self.selection
        span = song.chords[self.chord_index]
        name = song.chord_name(self.chord_index)
        state = tr("stated") if span.stated else tr("decided, {confidence:.0%} sure", confidence=span.confidence)
        if span.unsure:
            state += tr(", marked unsure")
        section = song.sections[song.section_index(s.caret)].title
        bars = tr("{bars} selected, ", bars=bars_text(song.grid, s.first, s.last)) if s.many else ""
        return f"{section}, {bars}{song.grid.beat_name(s.caret)}: {name}, {state}"

    # ------------------------------------------------------------ common edits

    def state_chord(self, chord: Chord, spelling: edits.Spelling | None = None) -> bool:
        start, end = self.target_range()
        return self.edit(lambda song: edits.state_chord(song, start, end, chord, spelling), decide="chords")
