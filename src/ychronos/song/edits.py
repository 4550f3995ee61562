"""What a user can say about a song: small pure functions from song to song.

Each returns the new song and a sentence for the record; each raises :class:`EditError` with a sentence for
the user when it does not apply. Nothing stated is lost unless the edit is about it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from ..guitar.tuning import GuitarSetup
from ..theory.key import Key
from ..theory.notation import SCHOOLS
from .grid import Position
from .model import KeySpan, Mark, Section, Song

Edited = tuple[Song, str]


class EditError(ValueError):
    """An edit that does not apply; the text is a sentence for the user."""


# ---------------------------------------------------------------- bars


def accept_bars(song: Song, bars: Iterable[int], checked: bool = True) -> Edited:
    """Say that bars are right as they stand (or take that back)."""
    indexes = sorted(set(bars))
    if not indexes:
        raise EditError("No bar is selected.")
    starts = {song.grid.bar_range(i)[0] for i in indexes}
    keep = song.checked | starts if checked else song.checked - starts
    first, last = song.grid.number(indexes[0]), song.grid.number(indexes[-1])
    where = f"bar {first}" if first == last else f"bars {first} to {last}"
    return replace(song, checked=frozenset(keep)), f"{where} {'checked' if checked else 'not checked'}"


# ---------------------------------------------------------------- sections, key, names


def rename_section(song: Song, index: int, name: str, all_passes: bool = True) -> Edited:
    """Name a section, and every other pass of the same material that had the same name."""
    name = " ".join(name.split())
    if not name:
        raise EditError("A section needs a name.")
    old = song.sections[index]

    def renamed(i: int, section: Section) -> Section:
        twin = all_passes and section.name == old.name and section.material == old.material
        return replace(section, name=name, stated=True) if i == index or twin else section

    sections = tuple(renamed(i, s) for i, s in enumerate(song.sections))
    return replace(song, sections=sections), f"“{old.name}” is now “{name}”"


def start_section(song: Song, bar: int, name: str = "") -> Edited:
    """Begin a new section at a bar."""
    start = song.grid.bar_range(bar)[0]
    index = song.section_index(start)
    if song.sections[index].start == start:
        raise EditError("A section begins here already.")
    section = Section(start, name or song.sections[index].name, song.sections[index].material, stated=True)
    sections = (*song.sections[: index + 1], section, *song.sections[index + 1 :])
    return replace(song, sections=sections), f"a section begins at bar {song.grid.number(bar)}"


def join_section(song: Song, index: int) -> Edited:
    """Take a section's beginning away: it belongs to the one before."""
    if index == 0:
        raise EditError("The first section has none before it to join.")
    sections = (*song.sections[:index], *song.sections[index + 1 :])
    return replace(song, sections=sections), f"“{song.sections[index].name}” joined to what comes before"


def move_section(song: Song, index: int, bar: int) -> Edited:
    """Let a section begin at another bar, between its neighbours' beginnings."""
    if index == 0:
        raise EditError("The first section begins with the song.")
    start = song.grid.bar_range(bar)[0]
    _, end = song.section_range(index)
    if not song.sections[index - 1].start < start < end:
        raise EditError("A section cannot begin beyond its neighbours; join them first.")
    moved = replace(song.sections[index], start=start, stated=True, confidence=1.0)
    sections = (*song.sections[:index], moved, *song.sections[index + 1 :])
    return replace(song, sections=sections), f"“{moved.name}” begins at bar {song.grid.number(bar)}"


def state_material(song: Song, index: int, like: int | None) -> Edited:
    """State that a section is the same music as another one, or (None) the same as none."""
    section = song.sections[index]
    if like == index:
        raise EditError("A section is always the same as itself.")
    if like is None:
        used = {s.material for s in song.sections}
        letter = next(x for x in (chr(65 + i) if i < 26 else f"A{i}" for i in range(1000)) if x not in used)
        new = replace(section, material=letter, material_stated=True)
        words = f"“{section.name}” at bar {song.grid.number(song.grid.bar_at(section.start))} is music of its own"
    else:
        other = song.sections[like]
        new = replace(section, material=other.material, name=other.name, material_stated=True)
        words = f"“{section.name}” is the same as “{other.name}”"
    sections = [new if i == index else s for i, s in enumerate(song.sections)]
    if like is not None:
        sections[like] = replace(sections[like], material_stated=True)
    return replace(song, sections=tuple(sections)), words


def state_key(song: Song, key: Key, first: int | None = None, last: int | None = None) -> Edited:
    """State the key of the bars ``first`` .. ``last`` (inclusive), of the whole song without them."""
    grid = song.grid
    start = Fraction(0) if first is None else grid.bar_range(first)[0]
    end = grid.end if last is None else grid.bar_range(last)[1]
    if start <= grid.starts[min(grid.lead_in, len(grid.bars) - 1)]:
        start = Fraction(0)
    spans = [k for k in song.keys if k.start < start]
    spans.append(KeySpan(start, key, 1.0, stated=True))
    if end < grid.end:
        under = max((k for k in song.keys if k.start <= end), key=lambda k: k.start)
        spans.append(replace(under, start=end))
        spans += [k for k in song.keys if k.start > end]
    where = "" if first is None else f" from bar {grid.number(first)}"
    return replace(song, keys=_joined_keys(spans)), f"the key is {key.name()}{where}"


def respell_keys(song: Song, key: Key) -> Edited:
    """Write every stretch in a key, and with it all its chords, with the key's other name."""
    other = key.other_name
    if other is None:
        raise EditError(f"{key.name()} has no other name that anyone writes.")
    keys = [replace(k, key=other) if k.key == key else k for k in song.keys]
    return replace(song, keys=tuple(keys)), f"{key.name()} is written as {other.name()}"


def _joined_keys(spans: list[KeySpan]) -> tuple[KeySpan, ...]:
    out: list[KeySpan] = []
    for span in spans:
        if out and out[-1].key == span.key and out[-1].stated == span.stated:
            continue
        out.append(span)
    return tuple(out)


def rename_song(song: Song, title: str, artist: str) -> Edited:
    title = " ".join(title.split())
    if not title:
        raise EditError("A song needs a title.")
    return replace(song, title=title, artist=" ".join(artist.split())), f"the song is “{title}”"


def set_mark(song: Song, at: Position, text: str) -> Edited:
    """Mark a place, or give a mark that is there another note."""
    at = max(Fraction(0), min(at, song.grid.end - Fraction(1, 8)))
    marks = [m for m in song.marks if m.at != at]
    new = tuple(sorted([*marks, Mark(at, " ".join(text.split()))], key=lambda m: m.at))
    return replace(song, marks=new), f"marked {song.grid.beat_name(at)}"


def remove_mark(song: Song, at: Position) -> Edited:
    if all(m.at != at for m in song.marks):
        raise EditError("There is no mark at this place.")
    return replace(song, marks=tuple(m for m in song.marks if m.at != at)), f"no mark at {song.grid.beat_name(at)}"


# ---------------------------------------------------------------- the record and the guitar


def correct_tape(song: Song, correct: bool) -> Edited:
    """Play the record at true pitch, or as it is; its own times stay what they are."""
    ground = song.ground
    if correct and abs(ground.cents) < 1:
        raise EditError("The record is at true pitch already.")
    tape = ground.cents if correct else 0.0
    new = replace(ground, tape_cents=tape, corrected_clock=ground.corrected_clock and correct)
    words = f"played at true pitch, {new.speed_words()}" if correct else "played as it is"
    return replace(song, ground=new), words


def show_corrected_clock(song: Song, corrected: bool) -> Edited:
    """Show times of the corrected record, or of the original."""
    if corrected and not song.ground.tape_cents:
        raise EditError("The record is played as it is; correct the tape first.")
    words = "times of the corrected record" if corrected else "times of the original record"
    return replace(song, ground=replace(song.ground, corrected_clock=corrected)), words


def set_notation(song: Song, school: str) -> Edited:
    """Write chords as a school does, one of ``theory.notation.SCHOOLS``."""
    return replace(song, notation=school), f"chords written as {SCHOOLS[school].words.split(':')[0].lower()}"


def set_guitar(song: Song, setup: GuitarSetup) -> Edited:
    return replace(song, guitar=setup), f"guitar: {setup.describe()}, {setup.show} shown"
