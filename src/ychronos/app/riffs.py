"""Lines: found in what is heard of a stretch, taken away, placed elsewhere on the neck."""

from __future__ import annotations

from fractions import Fraction

from ..analysis.lines.leadline import LONGEST
from ..audio.play.ear import MODES
from ..session import lining
from ..song import edits
from ..song.grid import Position
from ..song.model import Song
from ..song.words import bars_text
from ..tongue import tr
from .dialogs.asking import asked
from .dialogs.scaledialog import ScalesDialog
from .shell import Shell


def stretch(w: Shell) -> tuple[Position, Position] | None:
    """The loop where the caret is inside of it, else the selected bars."""
    song, s, span = w.session.song, w.session.selection, w.practice.span
    if song is None:
        return None
    if span is not None and span[0] <= s.caret < span[1]:
        return span
    return song.grid.bar_range(s.first)[0], song.grid.bar_range(s.last)[1]


def where(song: Song, start: Position, end: Position) -> str:
    first, last = (song.grid.bar_at(p) for p in (start, max(start, end - Fraction(1, 64))))
    return bars_text(song.grid, first, last)


def find(w: Shell, lane: int = 0) -> None:
    """Listen to the stretch through what is heard of the record now, and state the line that plays there."""
    song, recording, span = w.session.song, w.session.recording, stretch(w)
    if song is None or recording is None or span is None:
        return
    if w.job is not None:  # what is under way would be given up for it
        w.say(tr("One thing at a time: wait until that is done"))
        return
    start, end = span
    seconds = song.grid.clock(start), song.grid.clock(end)
    if seconds[1] - seconds[0] > LONGEST:
        w.notice.say(tr("That is too long for one line: select some bars, or loop them."))
        return
    ear = w.practice.ear
    words = tr(" in {where}", where=where(song, start, end)) + (
        tr(", heard in {modes}", modes=MODES[ear]) if ear != "whole" else ""
    )

    def done(found: object) -> None:
        assert isinstance(found, lining.LineHeard)
        if not found.notes:
            w.notice.say(
                tr(
                    "No line was heard{words}. Hear another part of the record (W) or less of it, and try again.",
                    words=words,
                ),
                error=False,
            )
            return
        if w.session.song is not None and w.session.song.grid == song.grid:
            heard = tr(", heard in {modes}", modes=MODES[ear]) if ear != "whole" else found.words
            lining.lay(w.session, start, end, found.notes, lane, heard)

    work = lining.work_of(recording, song, *seconds, ear, lane)
    w.start_job(
        tr("Listening to the line"), work, done, lambda why: w.notice.say(tr("No line was found: {why}", why=why))
    )


def find_second(w: Shell) -> None:
    """The same as a second line at once, say of the guitar on the other side."""
    find(w, 1)


def clear(w: Shell) -> None:
    span = stretch(w)
    if span is not None:
        w.session.edit(lambda s: edits.clear_line(s, *span))


def put_near(w: Shell) -> None:
    """Place the line of the stretch anew, the hand near a fret."""
    song, span = w.session.song, stretch(w)
    if song is None or span is None:
        return
    answer = w.session.asks.text(
        tr("The hand near fret …"), tr("A fret from 0 to 19; nothing for wherever it is easiest"), "5"
    )
    if answer is None:
        return
    text = answer.strip()
    if text and not (text.isascii() and text.isdecimal() and int(text) <= 19):
        w.notice.say(tr("A fret is a number from 0 to 19."))
        return
    near = int(text) if text else None
    lanes = sorted({n.value.lane for n in song.line if span[0] <= n.at < span[1]}) or [0]
    w.session.edit(lambda s: edits.refret(s, *span, near, lanes))


def write_here(w: Shell) -> None:
    """Show room for tablature in every row and choose a place at the caret, to type frets."""
    w.sheet.set_tabs(True)
    w.sheet.choose_in_tab()


def toggle_tabs(w: Shell) -> None:
    w.sheet.set_tabs(not w.sheet.tabs)


def show_scales(w: Shell) -> None:
    """Scales that go with the stretch, on the neck."""
    song, span = w.session.song, stretch(w)
    if song is not None and span is not None:
        asked(ScalesDialog(song, *span, w.theme, w.widget()))


def toggle_degrees(w: Shell) -> None:
    w.sheet.set_degrees(not w.sheet.degrees)
