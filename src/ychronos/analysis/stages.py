"""Stages of deciding: what each needs and gives, and nothing more.

A stage is one function from a board of what is known to one more thing on it. The pipeline runs stages in the order in
which their needs are met. To replace one, write a module with a stage that gives the same, and register it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

Board = Mapping[str, Any]


@dataclass(frozen=True)
class Stage:
    """``name`` for people; ``needs`` are things on the board, ``gives`` the thing it puts there; ``decide`` makes it.
    ``listens`` says that it depends on evidence and grid alone, not on what is stated: it is kept for them."""

    name: str
    needs: tuple[str, ...]
    gives: str
    decide: Callable[[Board], Any]
    listens: bool = False


def order(stages: Sequence[Stage], given: Sequence[str]) -> list[Stage]:
    """Stages in an order in which everything that each needs is there.

    Raises
    ------
    ValueError
        where something is needed that nobody gives, or two give the same.
    """
    known, left, out = set(given), list(stages), []
    gives = [s.gives for s in stages]
    if len(set(gives)) < len(gives):
        raise ValueError(f"two stages give the same: {sorted(g for g in gives if gives.count(g) > 1)[0]}")
    while left:
        ready = next((s for s in left if set(s.needs) <= known), None)
        if ready is None:
            missing = sorted({n for s in left for n in s.needs} - known - {s.gives for s in left})
            raise ValueError(f"nobody gives {', '.join(missing) or 'what stands in a circle'}")
        out.append(ready)
        known.add(ready.gives)
        left.remove(ready)
    return out


def run(stages: Sequence[Stage], board: dict[str, Any], before_each: Callable[[Stage], None]) -> dict[str, Any]:
    """The board with what all stages give; ``before_each`` may raise to stop."""
    for stage in order(stages, list(board)):
        before_each(stage)
        board[stage.gives] = stage.decide(board)
    return board
