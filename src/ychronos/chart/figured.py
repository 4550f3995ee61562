"""Where a chart tells what the strumming hand does: at the start of a section, and wherever it changes from then on."""

from __future__ import annotations

from ..song.model import Song


def told(song: Song) -> dict[int, str]:
    """The figures that are written, by bar; a bar without one goes on as the one before."""
    out: dict[int, str] = {}
    for i in range(len(song.sections)):
        now = None
        for bar in song.section_bars(i):
            text = song.figure_of_bar(bar)
            if text != now and (text or now is not None):
                if text:
                    out[bar] = text
                now = text
    return out
