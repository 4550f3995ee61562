"""What is open: one song with its history, its recording, its evidence and what is selected.

Views read the immutable song from here and send edits here; nothing else holds musical truth.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from ..analysis import pipeline
from ..analysis.evidence import Evidence
from ..audio.recording import Recording
from ..song import chordedits, edits
from ..song.grid import Position
from ..song.history import History
from ..song.model import ChordSpan, Song, logged
from ..theory.chord import Chord
from .jobs import Job

HALF = Fraction(1, 2)


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


def followed_words(before: Song, after: Song) -> str:
    """Which places of other passes followed a statement, and that one undo takes all back; "" for none."""
    old = {(s.start, s.chord) for s in before.chords if s.follows}
    new = [i for i, s in enumerate(after.chords) if s.follows and (s.start, s.chord) not in old]
    if not new:
        return ""
    places = []
    for i in new[:4]:
        section = after.section_index(after.chords[i].start)
        bar = after.grid.number(after.grid.bar_at(after.chords[i].start))
        places.append(f"{after.sections[section].name} {after.pass_number(section)}, bar {bar}: {after.chord_name(i)}")
    more = f" and {len(new) - 4} more" if len(new) > 4 else ""
    return f"Followed in other passes: {'; '.join(places)}{more}."


class Document(QObject):
    """See the module. Signals carry nothing; whoever hears them looks here."""

    song_changed = Signal()
    selection_changed = Signal()
    recording_changed = Signal()
    dirty_changed = Signal()
    said = Signal(str)
    refused = Signal(str)
    followed = Signal(str)  # what a statement did in other passes

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History()
        self.recording: Recording | None = None
        self.evidence: Evidence | None = None
        self.path: Path | None = None
        self.title = ""
        self.selection = Selection()
        self.recovered = False
        self._clean: Song | None = None
        self._redeciding: Job | None = None

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
        self.history = History()
        self.recording = self.evidence = self.path = self._clean = None
        self.title, self.selection, self.recovered = "", Selection(), False
        self.recording_changed.emit()
        self.song_changed.emit()
        self.selection_changed.emit()
        self.dirty_changed.emit()

    def set_recording(self, recording: Recording | None, title: str = "") -> None:
        self.recording = recording
        self.title = title or self.title
        self.recording_changed.emit()

    def set_draft(self, song: Song) -> None:
        """A song as far as the analysis has come; it has no history yet."""
        self.history.start(song, "analysed")
        self._clean = song
        self._keep_selection_inside()
        self.song_changed.emit()
        self.dirty_changed.emit()

    def set_song(self, song: Song, path: Path | None, recovered: bool = False) -> None:
        """A song that was opened from a project or from autosaved work."""
        self.history.start(song)
        self.path, self._clean, self.recovered = path, song, recovered
        self.title = song.title
        self.selection = Selection(first=song.grid.lead_in, last=song.grid.lead_in)
        self.selection = replace(
            self.selection, caret=song.grid.bar_range(min(song.grid.lead_in, len(song.grid.bars) - 1))[0]
        )
        self.song_changed.emit()
        self.selection_changed.emit()
        self.dirty_changed.emit()

    def mark_saved(self, path: Path) -> None:
        self.path, self._clean, self.recovered = path, self.song, False
        self.dirty_changed.emit()

    # ------------------------------------------------------------ edits

    def edit(self, make: Callable[[Song], edits.Edited], decide: pipeline.What | None = None) -> bool:
        """Apply an edit; ``decide`` is from where on the rest is decided again around it."""
        song = self.song
        if song is None:
            return False
        try:
            new, sentence = make(song)
        except edits.EditError as error:
            self.refused.emit(str(error))
            return False
        new = logged(new, datetime.datetime.now().isoformat(timespec="seconds"), sentence)
        self.history.do(new, sentence)
        self._keep_selection_inside()
        self.song_changed.emit()
        self.dirty_changed.emit()
        self.said.emit(sentence[:1].upper() + sentence[1:])
        if decide and self.evidence is not None:
            self._redecide(new, decide, song)
        return True

    def _redecide(self, song: Song, what: pipeline.What, before: Song) -> None:
        """Decide the rest again beside the window; the result replaces the present state if it still is
        the present one, so that one undo takes back both."""
        evidence = self.evidence
        assert evidence is not None
        job = Job(lambda _: pipeline.redecide(song, evidence, what, before), self)

        def done(result: object) -> None:
            if self.song is song and isinstance(result, Song) and result != song:
                self.history.states[self.history.at] = (result, self.history.states[self.history.at][1])
                self._keep_selection_inside()
                self.song_changed.emit()
                words = followed_words(before, result)
                if words:
                    self.followed.emit(words)

        job.done.connect(done)
        job.failed.connect(self.refused)
        self._redeciding = job
        job.start()

    @property
    def redeciding(self) -> bool:
        return self._redeciding is not None and self._redeciding.running

    def undo(self) -> None:
        if self.history.can_undo:
            self._stepped("Taken back: " + self.history.undo())

    def redo(self) -> None:
        if self.history.can_redo:
            self._stepped("Done again: " + self.history.redo())

    def _stepped(self, words: str) -> None:
        self._keep_selection_inside()
        self.song_changed.emit()
        self.dirty_changed.emit()
        self.said.emit(words)

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
            self.selection_changed.emit()

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
            self.selection_changed.emit()

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

    def bar_times(self) -> tuple[float, float]:
        """Clock times of the selected bars."""
        song = self.song
        assert song is not None
        return (
            song.grid.clock(song.grid.bar_range(self.selection.first)[0]),
            song.grid.clock(song.grid.bar_range(self.selection.last)[1]),
        )

    def describe_selection(self) -> str:
        """The selection in words, as a screen reader says it."""
        song = self.song
        if song is None:
            return "No song"
        s = self.selection
        span = song.chords[self.chord_index]
        name = song.chord_name(self.chord_index)
        state = "stated" if span.stated else f"decided, {span.confidence:.0%} sure"
        if span.unsure:
            state += ", marked unsure"
        section = song.sections[song.section_index(s.caret)].name
        bars = f"bars {song.grid.number(s.first)} to {song.grid.number(s.last)} selected, " if s.many else ""
        return f"{section}, {bars}{song.grid.beat_name(s.caret)}: {name}, {state}"

    # ------------------------------------------------------------ common edits

    def state_chord(self, chord: Chord) -> bool:
        start, end = self.target_range()
        return self.edit(lambda song: chordedits.state_chord(song, start, end, chord), decide="chords")
