"""Meters: how many beats a bar has and what one beat is."""

from __future__ import annotations

from dataclasses import dataclass

from ..tongue import tr

COMPOUND_NUMERATORS = (6, 9, 12)


@dataclass(frozen=True)
class Meter:
    """A time signature.

    The counted beat is the dotted quarter in 6/8, 9/8 and 12/8, the eighth in other meters over eight,
    else the note of the denominator.
    """

    numerator: int
    denominator: int = 4

    def __post_init__(self) -> None:
        if not 1 <= self.numerator <= 32 or self.denominator not in (2, 4, 8, 16):
            raise ValueError(
                tr("{numerator}/{denominator} is no meter", numerator=self.numerator, denominator=self.denominator)
            )

    @property
    def compound(self) -> bool:
        return self.denominator == 8 and self.numerator in COMPOUND_NUMERATORS

    @property
    def beats(self) -> int:
        """Counted beats in a bar."""
        return self.numerator // 3 if self.compound else self.numerator

    @property
    def division(self) -> int:
        """Into how many parts a counted beat is usually divided."""
        return 3 if self.compound else 2

    @property
    def beat_name(self) -> str:
        if self.compound:
            return "dotted quarter"
        return {2: "half", 4: "quarter", 8: "eighth", 16: "sixteenth"}[self.denominator]

    def with_beats(self, beats: int) -> Meter:
        """The meter of a bar with another number of the same beats."""
        return Meter(beats * 3 if self.compound else beats, self.denominator)

    def __str__(self) -> str:
        return f"{self.numerator}/{self.denominator}"


def grouping_text(grouping: tuple[int, ...]) -> str:
    """``2+2+3``, how the beats of a bar are grouped; "" for none."""
    return "+".join(map(str, grouping))


def parse_meter(text: str) -> Meter:
    """A meter from text such as ``6/8``; raises ValueError with a sentence for the user."""
    parts = text.strip().split("/")
    if len(parts) != 2 or not all(p.strip().isascii() and p.strip().isdigit() for p in parts):
        raise ValueError(tr("“{text}” is no meter; write it like 4/4 or 6/8", text=text))
    return Meter(int(parts[0]), int(parts[1]))
