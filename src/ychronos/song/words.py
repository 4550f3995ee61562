"""Words for numbers of things and for places: bars, beats, times, clocks. One module, so that the same thing is called the
same on the screen, on paper and in messages. Names of chords, notes and keys come from the song itself (:mod:`model`).
"""

from __future__ import annotations

from ..tongue import tr, trn
from .grid import Grid

_ENDINGS = {1: tr("{number}st"), 2: tr("{number}nd"), 3: tr("{number}rd")}
_OTHERS = tr("{number}th")


def ordinal(number: int) -> str:
    """``1st``, ``4th``, ``21st``."""
    ending = _OTHERS if number % 100 in (11, 12, 13) else _ENDINGS.get(number % 10, _OTHERS)
    return ending.format(number=number)


def plural(count: int, thing: str, things: str) -> str:
    """``1 bar``, ``3 bars``."""
    return f"{count} {trn(thing, things, count)}"


def beats_text(count: int) -> str:
    """``1 beat``, ``3 beats``."""
    return plural(count, "beat", "beats")


def bars_text(grid: Grid, first: int, last: int) -> str:
    """``bar 7``, ``bars 7 to 8``: bars by index as they are numbered."""
    a, b = grid.number(first), grid.number(last)
    return tr("bar {number}", number=a) if a == b else tr("bars {first} to {last}", first=a, last=b)


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
    halves = {1: tr("a half step"), 2: tr("a whole step"), 3: tr("a step and a half"), 4: tr("two whole steps")}
    far = halves.get(abs(up)) or tr("{count} half steps", count=abs(up))
    return f"{far} {tr('higher') if up > 0 else tr('lower')}"
