"""What a user says of the strumming hand: the figure of a bar, of a section, one stroke of it."""

from __future__ import annotations

from collections.abc import Sequence

from ...tongue import tr
from .. import statements as said
from ..model import Song
from ..statements import Statement, cut
from ..strumming import PLUCKS, SLOTS, fits, plainest, read_figure
from .common import Edited, EditError, told
from .sections import section_place

NEXT = {"-": "soft", "soft": "hard", "hard": "x", "x": "-"}  # what a click makes of a stroke


def set_figure(song: Song, bars: Sequence[int], text: str) -> Edited:
    """State the figure of bars, the same in each. Bars that it does not divide evenly keep theirs.

    Raises
    ------
    EditError
        with a sentence when the text is no figure, or fits into none of the bars.
    """
    try:
        figure = read_figure(text)
    except ValueError as error:
        raise EditError(str(error)) from None
    grid = song.grid
    good = [b for b in sorted(set(bars)) if fits(figure, grid.bars[b].beats)]
    if not good:
        beats = grid.bars[bars[0]].beats if bars else 0
        raise EditError(
            tr(
                "A figure for {beats} beats has {beats2} strokes and rests, not {count}.",
                beats=beats,
                beats2=", ".join(str(beats * s) for s in SLOTS),
                count=len(figure),
            )
        )
    made: list[Statement] = []
    for b in good:
        start, end = grid.bar_range(b)
        if made and made[-1].until == start:
            made[-1] = Statement("figure", made[-1].at, end, figure)
        else:
            made.append(Statement("figure", start, end, figure))
    where = tr("bar {number}", number=grid.number(good[0])) if len(good) == 1 else tr("{count} bars", count=len(good))
    return told(song, tr("{figure} in {where}", figure=figure, where=where), *made)


def next_stroke(song: Song, bar: int, slot: int, slots: int) -> Edited:
    """Make the next thing of one slot of a bar, ``slots`` being how many a beat is shown in: no stroke, a soft one, a hard one,
    a muted one."""
    beats = song.grid.bars[bar].beats
    old = song.figure_of_bar(bar) or "-" * (beats * slots)
    here = len(old) // beats
    count = max(here, slots)
    if count % here:
        count = here
    wide = count // here
    letters = list("".join(x + "-" * (wide - 1) for x in old))
    if not 0 <= slot < len(letters):
        raise EditError(tr("There is no such place in this bar."))
    now = letters[slot]
    kind = "-" if now == "-" else "x" if now == "x" or now in PLUCKS else "hard" if now.isupper() else "soft"
    down = slot % 2 == 0  # the hand goes down and up with the slots
    new = NEXT[kind]
    letters[slot] = new if new in "-x" else ("d" if down else "u") if new == "soft" else ("D" if down else "U")
    return set_figure(song, [bar], plainest("".join(letters), beats))


def state_paired(song: Song, index: int, two: bool) -> Edited:
    """Say that two guitars play the strokes of a section, one on each side, or that one does."""
    start, end = song.section_range(index)
    where = section_place(song, index)
    words = tr("two guitars strum in {where}", where=where) if two else tr("one guitar strums in {where}", where=where)
    return told(song, words, Statement("paired", start, end, two))


def forget_figure(song: Song, bars: Sequence[int]) -> Edited:
    """Leave the strokes of bars to what is heard."""
    before = said.of(song.statements, "figure")
    left = song.statements
    for b in bars:
        left = cut(left, ["figure"], *song.grid.bar_range(b))
    gone = [s for s in before if s not in left]
    new = [s for s in said.of(left, "figure") if s not in before]
    if not gone:
        raise EditError(tr("Nothing is stated of these strokes."))
    return told(song, tr("strokes as heard"), *new, gone=gone)
