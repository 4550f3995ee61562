"""Notes of lines: riffs, licks and fills as somebody plays them on strings, each at its place in the song."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..tongue import tr
from .grid import Position
from .positions import read_position

LOW, HIGH = 20, 108  # MIDI numbers
LANES = 2  # lines that may go on at once
LONGEST = Fraction(64)  # beats
RIVALS = 3
DOUBTFUL = 0.5  # a note less probable than this is pointed out
# How a note is begun when it is not plucked, or not on its own pitch.
SIGNS = {"": tr("plucked"), "h": tr("hammered on"), "p": tr("pulled off"), "s": tr("slid into"), "b": tr("bent up to")}


@dataclass(frozen=True)
class LineNote:
    """``length`` in beats, ``note`` a MIDI number as it sounds on the record, ``string`` from the lowest, ``sign`` one of SIGNS, ``sure``
    how probable it is (1 for what a user said); ``lane`` 0 or 1 of two lines at once; ``rivals`` are the notes it may be instead, the
    likeliest first."""

    length: Position
    note: int
    string: int
    sign: str = ""
    sure: float = 1.0
    lane: int = 0
    rivals: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if not 0 < self.length <= LONGEST:
            raise ValueError("a note has a length")
        if not LOW <= self.note <= HIGH:
            raise ValueError(f"no string plays note {self.note}")
        if len(self.rivals) > RIVALS or not all(LOW <= n <= HIGH for n in self.rivals):
            raise ValueError("a note of a line has a few other notes at most that it may be")
        if not 0 <= self.string < 12:
            raise ValueError(f"there is no string {self.string}")
        if self.sign not in SIGNS:
            raise ValueError(f"a note is begun as one of {', '.join(SIGNS.values())}")
        if not 0 <= self.sure <= 1:
            raise ValueError("a chance lies between 0 and 1")
        if not 0 <= self.lane < LANES:
            raise ValueError(f"there are {LANES} lines at once at most")

    @property
    def doubtful(self) -> bool:
        return self.sure < DOUBTFUL

    @property
    def about(self) -> tuple[int, int]:
        """What sounds at once on other strings or in the other line is left alone."""
        return self.lane, self.string

    def plain(self) -> list[object]:
        return [str(self.length), self.note, self.string, self.sign, round(self.sure, 2), self.lane, *self.rivals]


def read_line_note(value: object) -> LineNote:
    """A note from plain data; raises ValueError."""
    if not (isinstance(value, list | tuple) and 6 <= len(value) <= 6 + RIVALS):
        raise ValueError("a note of a line is a length, a note, a string, a sign, a chance and a lane")
    length, note, string, sign, sure, lane, *rivals = value
    if not all(isinstance(x, int) and not isinstance(x, bool) for x in (note, string, lane, *rivals)):
        raise ValueError("a note of a line has a whole number, a string and a lane")
    if not isinstance(sign, str) or isinstance(sure, bool) or not isinstance(sure, int | float):
        raise ValueError("a note of a line has a sign and a chance")
    return LineNote(read_position(length), note, string, sign, float(sure), lane, tuple(rivals))


@dataclass(frozen=True)
class Plucked:
    """A note of a line at its place."""

    at: Position
    value: LineNote

    @property
    def start(self) -> Position:
        return self.at

    @property
    def end(self) -> Position:
        return self.at + self.value.length
