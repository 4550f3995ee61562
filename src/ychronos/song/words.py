"""Words for numbers of things and for places: bars, beats, times, clocks. One module, so that the same thing is called the
same on the screen, on paper and in messages. Names of chords, notes and keys come from the song itself (:mod:`model`).
"""

from __future__ import annotations

from .grid import Grid

_ENDINGS = {1: "st", 2: "nd", 3: "rd"}


def ordinal(number: int) -> str:
    """``1st``, ``4th``, ``21st``."""
    if number % 100 in (11, 12, 13):
        return f"{number}th"
    return f"{number}{_ENDINGS.get(number % 10, 'th')}"


def plural(count: int, thing: str, more: str = "") -> str:
    """``1 bar``, ``3 bars``; ``more`` for what has another plural."""
    return f"{count} {thing if count == 1 else more or thing + 's'}"


def beats_text(count: int) -> str:
    """``1 beat``, ``3 beats``."""
    return plural(count, "beat")


def bars_text(grid: Grid, first: int, last: int) -> str:
    """``bar 7``, ``bars 7 to 8``: bars by index as they are numbered."""
    a, b = grid.number(first), grid.number(last)
    return f"bar {a}" if a == b else f"bars {a} to {b}"


def clock_text(seconds: float, tenths: bool = False) -> str:
    """``1:02`` or ``1:02.5``."""
    seconds = max(0.0, seconds)
    unit = 10 if tenths else 1
    whole = int(seconds * unit + 1e-6)
    minutes, rest = divmod(whole, 60 * unit)
    if tenths:
        return f"{minutes}:{rest // 10:02d}.{rest % 10}"
    return f"{minutes}:{rest:02d}"


def steps_text(semitones: int) -> str:
    """``a whole step higher``."""
    up = (semitones + 5) % 12 - 5
    halves = {1: "a half step", 2: "a whole step", 3: "a step and a half", 4: "two whole steps"}
    return f"{halves.get(abs(up), f'{abs(up)} half steps')} {'higher' if up > 0 else 'lower'}"
