"""How a record comes to its end."""

from __future__ import annotations

from dataclasses import dataclass

KINDS = ("", "fades", "rings", "stops")


@dataclass(frozen=True)
class Closing:
    """``kind`` is "fades", "rings" (what was struck last rings on), "stops" (it is cut short) or "" where that is not plain;
    ``at`` are the seconds of the record from where it fades, or at which something is struck for the last time."""

    kind: str = ""
    at: float = 0.0

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise ValueError(f"no record ends “{self.kind}”")
