"""The few facts that stand over a chart and in the head of the window, in words."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from ..song.model import Song
from ..song.words import plural
from ..theory.key import Key
from ..theory.meter import Meter
from ..theory.notation import key_text as written_key
from ..theory.notation import note_text
from ..tongue import tr

STRETCH = 4  # bars of another meter that are a part of the song, not odd bars
IN_TUNE = 3.0  # cents that nobody retunes for
BEAT_SIGNS = {
    "quarter": tr("quarters"),
    "dotted quarter": tr("dotted quarters"),
    "eighth": tr("eighths"),
    "half": tr("halves"),
    "sixteenth": tr("sixteenths"),
}


@dataclass(frozen=True)
class Facts:
    record: str
    count: str
    home: str
    checked: str


def tuning_text(cents: float) -> str:
    """``in tune``, ``31 ¢ sharp`` or ``9 ¢ flat``."""
    if abs(cents) < IN_TUNE:
        return tr("in tune (A = {cents:.0f})", cents=440 * 2 ** (cents / 1200))
    return f"{abs(cents):.0f} ¢ {tr('sharp') if cents > 0 else tr('flat')}"


def usual_meters(song: Song) -> list[Meter]:
    """The meters that make up the song, the commonest first; a few bars of another do not count."""
    grid = song.grid
    usual = grid.usual_meter()
    bars = range(grid.lead_in, len(grid.bars))
    found = Counter(grid.bars[i].meter for i in bars if not grid.irregular(i))
    return [m for m, n in found.most_common() if m == usual or n >= STRETCH] or [usual]


def count_text(song: Song) -> str:
    """``4/4, 96 a minute``; other meters that occur are said too."""
    grid = song.grid
    meter, meters = grid.usual_meter(), usual_meters(song)
    bars = range(grid.lead_in, len(grid.bars))
    text = f"{tr(' and ').join(map(str, meters))}, {grid.tempo():.0f}"
    if meter.beat_name != "quarter":
        text += f" {BEAT_SIGNS[meter.beat_name]}"
    others = sum(grid.bars[i].meter not in meters or grid.irregular(i) for i in bars)
    if others:
        text += f" · {plural(others, 'odd bar', 'odd bars')}"
    return text


def _key(song: Song, key: Key) -> str:
    """A key as it sounds, and that of the shapes where they are shown."""
    written = song.guitar.key_moved(key, song.guitar.moved)
    if song.guitar.plain or song.guitar.show == "sounding":
        return written_key(written, song.notation)
    shapes = song.guitar.shape_key(key)
    return tr(
        "{written_key}, {note}{word} shapes",
        written_key=written_key(written, song.notation),
        note=note_text(shapes.note, song.notation),
        word="m" if shapes.minorish else "",
    )


def key_text(song: Song) -> str:
    names = list(dict.fromkeys(_key(song, k.key) for k in song.keys))
    main = _key(song, song.main_key())
    others = [n for n in names if n != main]
    if not others:
        return main
    return (
        tr("{main}, also {others}", main=main, others=others[0])
        if len(others) == 1
        else tr("{main}, also {count} others", main=main, count=len(others))
    )


def facts(song: Song) -> Facts:
    total = len(song.grid.bars)
    return Facts(
        tuning_text(song.ground.cents),
        count_text(song),
        key_text(song),
        tr("{checked_bars} of {total} bars", checked_bars=song.checked_bars(), total=total),
    )


def guidance(song: Song) -> str:
    """What a player needs to know to play along with the record."""
    if song.ground.tape_cents:
        times = "" if song.ground.corrected_clock else tr(" Times are those of the original.")
        return tr(
            "Corrected to concert pitch: the record is played {speed}.{times}",
            speed=song.ground.speed_words(),
            times=times,
        )
    if abs(song.ground.cents) < IN_TUNE:
        return tr("The record is at concert pitch.")
    return tr(
        "The record is {tuning}: tune to A = {cents:.1f} Hz to play along.",
        tuning=tuning_text(song.ground.cents),
        cents=440 * 2 ** (song.ground.cents / 1200),
    )
