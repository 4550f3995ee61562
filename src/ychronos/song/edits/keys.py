"""What a user can say of keys."""

from __future__ import annotations

from fractions import Fraction

from ...theory.key import Key
from ...tongue import tr
from ..model import Song
from ..statements import Statement
from .common import Edited, EditError, told


def state_key(song: Song, key: Key, first: int | None = None, last: int | None = None) -> Edited:
    """State the key of the bars ``first`` .. ``last`` (inclusive), of the whole song without them."""
    grid = song.grid
    start = Fraction(0) if first is None else grid.bar_range(first)[0]
    end = grid.end if last is None else grid.bar_range(last)[1]
    if start <= grid.starts[min(grid.lead_in, len(grid.bars) - 1)]:
        start = Fraction(0)
    where = "" if first is None else tr(" from bar {number}", number=grid.number(first))
    return told(
        song, tr("the key is {key}{where}", key=song.key_name(key), where=where), Statement("key", start, end, key)
    )


def respell_keys(song: Song, key: Key) -> Edited:
    """Write every stretch in a key, and with it all its chords, with the key's other name."""
    other = key.other_name
    if other is None:
        raise EditError(tr("{name} has no other name that anyone writes.", name=key.name()))
    new = [Statement("key", a, b, other) for a, b, k in song.keys.ranges(song.grid.end) if k.key == key]
    return told(song, tr("{key} is written as {key2}", key=song.key_name(key), key2=song.key_name(other)), *new)
