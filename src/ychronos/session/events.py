"""Saying that something happened, without knowing who listens."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

Listener = Callable[..., Any]


class Event:
    """Those who are connected are called in order, in the thread of whoever emits."""

    def __init__(self) -> None:
        self._listeners: list[Listener] = []

    def connect(self, listener: Listener) -> None:
        self._listeners.append(listener)

    def disconnect(self, listener: Listener) -> None:
        self._listeners.remove(listener)

    def emit(self, *values: Any) -> None:
        for listener in list(self._listeners):
            listener(*values)
