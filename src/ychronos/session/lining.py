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
from .jobs import Far, Under
from .session import Session

WORDS = {"middle": "in the middle", "right": "on the right", "left": "on the left"}


@dataclass(frozen=True)
class Lined(Far):
    """Gives the notes of a line from ``start`` to ``end`` seconds of the record. ``samples`` (frames, channels) at ``rate``
    begin at ``begins`` seconds; ``cents`` is the record's tuning, ``chords`` are the song's, ``ear`` what is listened to."""

    samples: Samples
    rate: int
    begins: float
    start: float
    end: float
    cents: float
    chords: tuple[Chording, ...]
    ear: str = "whole"

    def __call__(self, under: Under) -> tuple[LineFound, ...]:
        where = ""

        def report(share: float) -> None:
            if under.cancelled():
                raise Cancelled
            under.report(f"Listening to the line{where}", share)

        sound, begins = leadline.stereo_of(
            self.samples, self.rate, self.start - self.begins, self.end - self.begins, self.ear
        )
        report(0.05)
        mono = sound.mean(axis=1)
        if self.ear == "whole":  # what the user chose to hear is heard
            later = self.begins + begins
            side = leadline.side_of(sound, self.cents, [(at - later, inside, root) for at, inside, root in self.chords])
            if side != "whole":
                mono, where = sides.alone(sound, side), f" {WORDS[side]}"
        report(0.1)
        return tuple(leadline.find(mono, self.cents, self.chords, self.begins + begins, self.start, self.end, report))


def work_of(recording: Recording, song: Song, start: float, end: float, ear: str = "whole") -> Lined:
    """The work for a stretch of a recording; only what is needed of its sound goes along."""
    samples, rate = (recording.samples, recording.rate) if recording.samples is not None else (recording.mono, RATE)
    first = max(0, int((start - 2 * leadline.MARGIN) * rate))
    last = max(first + 1, int((end + 2 * leadline.MARGIN) * rate))
    return Lined(
        samples[first:last].copy(), rate, first / rate, start, end, song.ground.cents, leadline.chords_of(song), ear
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
        session.say(f"{len(notes)} notes" + (f", {doubtful} doubtful" if doubtful else "") + words)
    return made
