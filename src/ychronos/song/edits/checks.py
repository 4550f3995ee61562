"""What a user can say of bars as a whole: that they are right."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ...tongue import tr
from .. import statements as said
from ..merge import merged
from ..model import Song
from ..statements import Statement
from ..words import bars_text
from .common import Edited, EditError


def accept_bars(song: Song, bars: Iterable[int], checked: bool = True) -> Edited:
    """Say that bars are right as they stand (or take that back)."""
    indexes = sorted(set(bars))
    if not indexes:
        raise EditError(tr("No bar is selected."))
    statements = song.statements
    for i in indexes:
        start, end = song.grid.bar_range(i)
        statements = said.cut(statements, ["checked"], start, end)
        if checked:
            statements = said.put(statements, Statement("checked", start, end))
    where = bars_text(song.grid, indexes[0], indexes[-1])
    new = merged(replace(song, statements=statements))
    return new, f"{where} {tr('checked') if checked else tr('not checked')}"
