"""What changed beyond what was said, in sentences: nothing that the program decides again passes in silence.

Compares a song as the user left it (what was said laid over what stood) with the song decided again around it.
"""

from __future__ import annotations

from collections.abc import Iterable

from ..tongue import tr
from .model import Song
from .track import move
from .words import plural

MOST = 4  # places named in one sentence


def beyond(before: Song, said: Song, after: Song) -> list[str]:
    """What is other in ``after`` than in ``before``, the song before the last statements, apart from what they say:
    ``said`` is ``before`` with them laid over it."""
    return [*filter(None, [_followed(before, after), _fell_back(before, after), _other_chords(before, said, after),
                           _keys(before, after), _sections(before, said, after), _bars(before, said, after)])]  # fmt: skip


def _place(song: Song, at: object) -> str:
    """``Verse 2, bar 9``."""
    index = song.section_index(at)  # type: ignore[arg-type]
    name, times = song.sections[index].title, song.passes(song.sections[index].name)
    bar = song.grid.number(song.grid.bar_at(at))  # type: ignore[arg-type]
    return tr("{name}{word}, bar {bar}", name=name, word=f" {song.pass_number(index)}" if times > 1 else "", bar=bar)


def _listed(places: list[str]) -> str:
    more = tr(" and {count} more", count=len(places) - MOST) if len(places) > MOST else ""
    return "; ".join(places[:MOST]) + more


def _followed(before: Song, after: Song) -> str:
    """Which places of other passes followed a statement."""
    mapped = move(before.grid, after.grid)
    old = {(mapped(s.start), s.chord) for s in before.chords if s.follows}
    new = [i for i, s in enumerate(after.chords) if s.follows and (s.start, s.chord) not in old]
    places = [f"{_place(after, after.chords[i].start)}: {after.chord_name(i)}" for i in new]
    return tr("Followed at its other times: {listed}.", listed=_listed(places)) if places else ""


def _fell_back(before: Song, after: Song) -> str:
    """Which places that had followed an earlier statement do not any more."""
    mapped = move(before.grid, after.grid)
    places = []
    for s in before.chords:
        if s.follows:
            here = after.chord_index(mapped(s.start))
            if after.chords[here].chord != s.chord:
                was = before.name_of(s.chord, s.start)
                places.append(
                    tr(
                        "{place}: {chord}, no longer {was}",
                        place=_place(after, mapped(s.start)),
                        chord=after.chord_name(here),
                        was=was,
                    )
                )
    return tr("No longer follows: {listed}.", listed=_listed(places)) if places else ""


def _other_chords(before: Song, said: Song, after: Song) -> str:
    """Chords that were decided otherwise, and neither said nor led there."""
    if said.grid.beat_count != after.grid.beat_count or said.grid.times != after.grid.times:
        return ""  # on other beats chords are read anew
    old = {(s.start, s.chord) for s in said.chords}
    gone = {s.start for s in before.chords if s.follows}
    new = [
        i
        for i, s in enumerate(after.chords)
        if not s.stated and not s.follows and (s.start, s.chord) not in old and s.start not in gone
        and said.chords.at(s.start).chord != s.chord
    ]  # fmt: skip
    places = [
        tr(
            "bar {number}: {chord}",
            number=after.grid.number(after.grid.bar_at(after.chords[i].start)),
            chord=after.chord_name(i),
        )
        for i in new
    ]
    return tr("Read otherwise now: {listed}.", listed=_listed(places)) if places else ""


def _keys(before: Song, after: Song) -> str:
    """Whether the home key turned, or other stretches did."""
    one, two = before.main_key(), after.main_key()
    if one != two:
        return tr("The key is {key} now, no longer {key2}.", key=after.key_name(two), key2=before.key_name(one))
    old = {s.key for s in before.keys}
    new = [s for s in after.keys if not s.stated and s.key not in old]
    if not new:
        return ""
    bar = after.grid.number(after.grid.bar_at(new[0].start))
    return tr("From bar {bar} the key is {key} now.", bar=bar, key=after.key_name(new[0].key))


def _sections(before: Song, said: Song, after: Song) -> str:
    """Sections that begin elsewhere, or are called otherwise, without having been spoken of."""
    mapped = move(said.grid, after.grid)
    old = {mapped.onto_line(s.start): s.title for s in said.sections}
    new = {s.start: s.title for s in after.sections}
    number = after.grid.number
    begun = [
        tr("{new} at bar {number}", new=new[x], number=number(after.grid.bar_at(x)))
        for x in sorted(set(new) - set(old))
    ]
    gone = [
        tr("{old} at bar {number}", old=old[x], number=number(after.grid.bar_at(x)))
        for x in sorted(set(old) - set(new))
    ]
    called = [tr("{old} at bar {number} is {new}", old=old[x], number=number(after.grid.bar_at(x)), new=new[x]) for x in sorted(set(old) & set(new))
              if old[x] != new[x]]  # fmt: skip
    parts = [
        tr("Also begins: {listed}", listed=_listed(begun)) if begun else "",
        tr("No longer begins: {listed}", listed=_listed(gone)) if gone else "",
        tr("Called otherwise: {listed}", listed=_listed(called)) if called else "",
    ]
    return ". ".join(filter(None, parts)) + ("." if any(parts) else "")


def _bars(before: Song, said: Song, after: Song) -> str:
    """How many bar lines moved, and where."""
    lines = {round(before.grid.clock(s), 2) for s in before.grid.starts[:-1]}
    new = [i for i, s in enumerate(after.grid.starts[:-1]) if round(after.grid.clock(s), 2) not in lines]
    if not new or before.grid is after.grid or before.grid.starts == after.grid.starts:
        return ""
    count = len(new)
    where = _stretch(after.grid.number(i) for i in new)
    return tr("{bar_lines} moved, {where}.", bar_lines=plural(count, "bar line", "bar lines"), where=where)


def _stretch(numbers: Iterable[int]) -> str:
    found = list(numbers)
    return (
        tr("at bar {found}", found=found[0])
        if len(found) == 1
        else tr("between bars {found} and {found2}", found=found[0], found2=found[-1])
    )
