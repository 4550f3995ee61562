"""Questions to the user: what commands ask for, answered by dialogs in the window and by nobody elsewhere."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol


class Asks(Protocol):
    """Each returns the answer, or None when the user would rather not."""

    def text(self, title: str, question: str, text: str = "") -> str | None: ...
    def number(self, title: str, question: str, value: float, low: float, high: float, decimals: int = 0) -> float | None: ...  # fmt: skip
    def choice(self, title: str, question: str, options: Sequence[str]) -> str | None: ...
    def with_reach(
        self, title: str, question: str, choices: Sequence[str], reaches: Sequence[str]
    ) -> tuple[str, int] | None: ...


class Nobody:
    """Answers no question."""

    def text(self, title: str, question: str, text: str = "") -> str | None:
        return None

    def number(self, title: str, question: str, value: float, low: float, high: float, decimals: int = 0) -> float | None:  # fmt: skip
        return None

    def choice(self, title: str, question: str, options: Sequence[str]) -> str | None:
        return None

    def with_reach(
        self, title: str, question: str, choices: Sequence[str], reaches: Sequence[str]
    ) -> tuple[str, int] | None:
        return None
