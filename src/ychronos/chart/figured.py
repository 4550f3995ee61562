"""Where a chart tells what the strumming hand does: at the start of a section, and wherever it changes from then on."""

from __future__ import annotations

from ..guitar.candidates import pitches
from ..song.model import Song
from ..song.strumming import fits, plainest

PICKED = 0.6  # share of a line's notes that must be strings of the shape for it to be a way of picking it


def told(song: Song) -> dict[int, str]:
    """The figures that are written, by bar; a bar without one goes on as the one before."""
    out: dict[int, str] = {}
    for i in range(len(song.sections)):
        now: tuple[str, bool] | None = None
        for bar in song.section_bars(i):
            here = song.figure_of_bar(bar), song.paired_in(bar)
            if here != now and (here[0] or now is not None):
                if here[0]:
                    out[bar] = here[0]
                now = here
    return out


def picked(song: Song, bar: int) -> str:
    """The line of a bar as a way of picking its shapes: ``b321``; "" where it is none, since most of it are other notes or it
    lies on no even slots."""
    notes = song.line_of_bar(bar)
    beats, start = song.grid.bars[bar].beats, song.grid.starts[bar]
    if not notes:
        return ""
    slots = 4 if any((n.at - start) * 2 % 1 for n in notes) else 2
    letters, found = ["-"] * (beats * slots), 0
    guitar = song.guitar
    for n in notes:
        k = round((n.at - start) * slots)
        held = song.held[song.chord_index(n.at)]
        if held is None or not 0 <= k < len(letters):
            continue
        strings = [p - guitar.moved for p in pitches(held.shape, guitar.strings, guitar.capo)]
        if n.value.note not in strings:
            continue
        found += 1
        from_top = len(strings) - strings.index(n.value.note)
        letter = "b" if from_top == len(strings) else str(min(6, from_top))
        if letters[k] in ("-", "b"):  # of two at once the higher one, but for the bass
            letters[k] = letter if letters[k] == "-" else "b"
    text = "".join(letters)
    return plainest(text, beats) if found >= PICKED * len(notes) and fits(text, beats) else ""
