"""A line from a stretch of the open recording, heard beside the window."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..analysis.lines import leadline, sides
from ..analysis.lines.leadline import Chording, LineFound
from ..audio.decode import Cancelled, Samples
from ..audio.recording import ANALYSIS_RATE as RATE
from ..audio.recording import Recording
from ..song import edits, linenotes
from ..song.grid import Position
from ..song.model import Song
from ..tongue import tr
from .jobs import Far, Under
from .session import Session

WORDS = {"middle": tr("in the middle"), "right": tr("on the right"), "left": tr("on the left")}


@dataclass(frozen=True)
class LineHeard:
    """The notes of a line, and the side of the stereo picture that it was heard on ("whole", or one of :data:`WORDS`)."""

    notes: tuple[LineFound, ...]
    side: str = "whole"

    @property
    def words(self) -> str:
        """``, heard on the right``; nothing for the whole record."""
        return tr(", heard {words}", words=WORDS[self.side]) if self.side in WORDS else ""


@dataclass(frozen=True)
class Lined(Far):
    """Gives the notes of a line from ``start`` to ``end`` seconds of the record. ``samples`` (frames, channels) at ``rate``
    begin at ``begins`` seconds; ``cents`` is the record's tuning, ``chords`` are the song's, ``ear`` what is listened to, ``taken`` the notes
    (seconds, MIDI) of a line that is known already: another one is looked for."""

    samples: Samples
    rate: int
    begins: float
    start: float
    end: float
    cents: float
    chords: tuple[Chording, ...]
    ear: str = "whole"
    taken: tuple[tuple[float, int], ...] = ()

    def __call__(self, under: Under) -> LineHeard:
        where, side = "", "whole"

        def report(share: float) -> None:
            if under.cancelled():
                raise Cancelled
            under.report(tr("Listening to the line{where}", where=where), share)

        sound, begins = leadline.stereo_of(
            self.samples, self.rate, self.start - self.begins, self.end - self.begins, self.ear
        )
        report(0.05)
        mono = sound.mean(axis=1)
        if self.ear == "whole":  # what the user chose to hear is heard
            later = self.begins + begins
            chords = [(at - later, inside, root) for at, inside, root in self.chords]
            side = leadline.side_of(sound, self.cents, chords, [(at - later, note) for at, note in self.taken])
            if side != "whole":
                mono, where = sides.alone(sound, side), f" {WORDS[side]}"
        report(0.1)
        notes = leadline.find(mono, self.cents, self.chords, self.begins + begins, self.start, self.end, report)
        return LineHeard(tuple(notes), side)


def work_of(recording: Recording, song: Song, start: float, end: float, ear: str = "whole", lane: int = 0) -> Lined:
    """The work for a stretch of a recording; only what is needed of its sound goes along."""
    samples, rate = (recording.samples, recording.rate) if recording.samples is not None else (recording.mono, RATE)
    first = max(0, int((start - 2 * leadline.MARGIN) * rate))
    last = max(first + 1, int((end + 2 * leadline.MARGIN) * rate))
    clock = song.grid.clock
    known = ((clock(n.at), n.value.note) for n in song.line if lane and n.value.lane != lane)
    taken = tuple((at, note) for at, note in known if start - 1 <= at <= end)
    return Lined(
        *(samples[first:last].copy(), rate, first / rate, start, end, song.ground.cents, leadline.chords_of(song)),
        *(ear, taken),
    )


def lay(
    session: Session, start: Position, end: Position, found: Sequence[LineFound], lane: int = 0, words: str = ""
) -> bool:
    """State a line that was found; one undo takes it back. Says how many notes it has and how many are doubtful."""
    song = session.song
    if song is None:
        return False
    notes = leadline.on_grid(found, song.grid)
    made = session.edit(lambda s: edits.put_line(s, start, end, notes, lane))
    if made:
        doubtful = sum(n.sure < linenotes.DOUBTFUL for n in notes)
        session.say(
            tr("{count} notes", count=len(notes))
            + (tr(", {doubtful} doubtful", doubtful=doubtful) if doubtful else "")
            + words
        )
    return made
