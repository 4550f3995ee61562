"""The few facts that stand over a chart and in the head of the window, in words."""

from __future__ import annotations

from dataclasses import dataclass

from ..song.model import Song

IN_TUNE = 3.0  # cents that nobody retunes for
BEAT_SIGNS = {
    "quarter": "quarters",
    "dotted quarter": "dotted quarters",
    "eighth": "eighths",
    "half": "halves",
    "sixteenth": "sixteenths",
}
NUMBER_WORDS = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven"}


@dataclass(frozen=True)
class Facts:
    record: str
    count: str
    home: str
    checked: str


def tuning_text(cents: float) -> str:
    """``in tune``, ``31 ¢ sharp`` or ``9 ¢ flat``."""
    if abs(cents) < IN_TUNE:
        return f"in tune (A = {440 * 2 ** (cents / 1200):.0f})"
    return f"{abs(cents):.0f} ¢ {'sharp' if cents > 0 else 'flat'}"


def count_text(song: Song) -> str:
    """``4/4, 96 a minute``; other meters that occur are said too."""
    grid = song.grid
    meter = grid.usual_meter()
    text = f"{meter}, {grid.tempo():.0f}"
    if meter.beat_name != "quarter":
        text += f" {BEAT_SIGNS[meter.beat_name]}"
    others = sum(grid.bars[i].meter != meter or grid.irregular(i) for i in range(grid.lead_in, len(grid.bars)))
    if others:
        text += f" · {others} odd bar{'s' if others > 1 else ''}"
    return text


def key_text(song: Song) -> str:
    names = list(dict.fromkeys(k.key.name() for k in song.keys))
    main = song.main_key().name()
    others = [n for n in names if n != main]
    if not others:
        return main
    return f"{main}, also {others[0]}" if len(others) == 1 else f"{main}, also {len(others)} others"


def facts(song: Song) -> Facts:
    total = len(song.grid.bars)
    return Facts(
        tuning_text(song.ground.cents), count_text(song), key_text(song), f"{song.checked_bars()} of {total} bars"
    )


def guidance(song: Song) -> str:
    """What a player needs to know to play along with the record."""
    if abs(song.ground.cents) < IN_TUNE:
        return "The record is at concert pitch."
    return (
        f"The record is {tuning_text(song.ground.cents)}: "
        f"tune to A = {440 * 2 ** (song.ground.cents / 1200):.1f} Hz to play along."
    )
