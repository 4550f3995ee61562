"""What a user can say about a song: small pure functions from song to song.

Each returns the new song and a sentence for the record; each raises :class:`EditError` with a sentence for
the user when it does not apply. What is said is kept as statements (:mod:`statements`); nothing stated is lost unless
the edit is about it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from ..guitar.tuning import GuitarSetup
from ..theory.key import Key
from ..theory.notation import SCHOOLS
from . import statements as said
from .grid import Position
from .merge import beside, free_letter, merged, say
from .model import Song
from .statements import Statement
from .track import Track

Edited = tuple[Song, str]


class EditError(ValueError):
    """An edit that does not apply; the text is a sentence for the user."""


def told(song: Song, words: str, *new: Statement, gone: Iterable[Statement] = ()) -> Edited:
    """The song with newer statements and without those that are gone, and the sentence for it."""
    left = set(map(id, gone))
    song = replace(song, statements=tuple(s for s in song.statements if id(s) not in left))
    return say(song, *new), words


# ---------------------------------------------------------------- bars


def accept_bars(song: Song, bars: Iterable[int], checked: bool = True) -> Edited:
    """Say that bars are right as they stand (or take that back)."""
    indexes = sorted(set(bars))
    if not indexes:
        raise EditError("No bar is selected.")
    statements = song.statements
    for i in indexes:
        start, end = song.grid.bar_range(i)
        statements = said.cut(statements, ["checked"], start, end)
        if checked:
            statements = said.put(statements, Statement("checked", start, end))
    first, last = song.grid.number(indexes[0]), song.grid.number(indexes[-1])
    where = f"bar {first}" if first == last else f"bars {first} to {last}"
    new = merged(replace(song, statements=statements))
    return new, f"{where} {'checked' if checked else 'not checked'}"


# ---------------------------------------------------------------- sections


def section_place(song: Song, index: int) -> str:
    """``“Verse” at bar 9``."""
    section = song.sections[index]
    return f"“{section.name}” at bar {song.grid.number(song.grid.bar_at(section.start))}"


def rename_section(song: Song, index: int, name: str, all_passes: bool = True) -> Edited:
    """Name a section's music, and with it every pass of it; or this pass alone."""
    name = " ".join(name.split())
    if not name:
        raise EditError("A section needs a name.")
    here = song.sections[index]
    begins = [Statement("section", here.start)] if index else []
    if not all_passes:
        return told(song, f"{section_place(song, index)} is “{name}”, this time only", *begins,
                    Statement("pass name", here.start, value=name))  # fmt: skip
    twins = [s for s in song.sections if s is here or (here.material, here.name) == (s.material or None, s.name)]
    starts = {s.start for s in twins}
    # the newest name of this music holds, also where an older one was given at another pass
    gone = [s for s in said.of(song.statements, "music name", "pass name")
            if s.at == here.start or (s.kind == "music name" and song.sections.at(s.at).start in starts)]  # fmt: skip
    words = f"“{here.name}” is now “{name}”" + (f", all {len(twins)} times" if len(twins) > 1 else "")
    begins = [Statement("section", s.start) for s in twins if s.start]
    return told(song, words, *begins, Statement("music name", here.start, value=name), gone=gone)


def start_section(song: Song, at: Position, name: str = "") -> Edited:
    """Begin a new section at a position, a bar line or a beat inside a bar."""
    index = song.section_index(at)
    if song.sections[index].start == at:
        raise EditError("A section begins here already.")
    grid = song.grid
    if not 0 < at < grid.end:
        raise EditError("A section begins within the song.")
    bar = grid.bar_at(at)
    where = f"bar {grid.number(bar)}" if at == grid.starts[bar] else grid.beat_name(at)
    new = [Statement("section", at)]
    letter = free_letter({s.material for s in song.sections})
    cut = song.sections[index]
    if not beside(grid, at, (s.start for s in song.sections if not s.stated)):
        begun = replace(cut, start=at, name=f"Part {letter}", material=letter)
        song = replace(song, sections=Track([*song.sections[: index + 1], begun, *song.sections[index + 1 :]]))
    if name:
        new.append(Statement("pass name", at, value=name))
    statements = said.cut(song.statements, ["one section"], at, at + Fraction(1, 64))
    joined = next((s for s in said.of(song.statements, "one section") if s.at < at < s.end), None)
    if joined is not None:  # what was joined is two from here on
        halves = [x for x in ((joined.at, at), (at, joined.end)) if x[1] > x[0]]
        statements = tuple(s for s in song.statements if s is not joined)
        new += [Statement("one section", a, b) for a, b in halves]
    return told(replace(song, statements=statements), f"a section begins at {where}", *new)


def join_section(song: Song, index: int) -> Edited:
    """Take a section's beginning away: it belongs to the one before."""
    if index == 0:
        raise EditError("The first section has none before it to join.")
    start, end = song.section_range(index)
    before = song.sections[index - 1].start
    about = ("section", "pass name", "music name", "same", "not same")
    gone = [s for s in said.of(song.statements, *about) if s.at == start]
    words = f"“{song.sections[index].name}” joined to what comes before"
    return told(song, words, Statement("one section", before, end), gone=gone)


def move_section(song: Song, index: int, at: Position) -> Edited:
    """Let a section begin elsewhere, between its neighbours' beginnings."""
    if index == 0:
        raise EditError("The first section begins with the song.")
    old, end = song.section_range(index)
    before = song.sections[index - 1].start
    if not before < at < end:
        raise EditError("A section cannot begin beyond its neighbours; join them first.")
    name = song.sections[index].name
    statements = tuple(
        replace(s, at=at) if s.at == old and s.kind in ("section", "pass name", "music name", "same", "not same")
        else replace(s, value=at) if s.kind in ("same", "not same") and s.value == old
        else s
        for s in song.statements
    )  # fmt: skip
    sections = Track(replace(s, start=at) if i == index else s for i, s in enumerate(song.sections))
    song = replace(song, statements=said.ordered(statements), sections=sections)
    new = [Statement("one section", before, at), Statement("one section", at, end), Statement("section", at)]
    return told(song, f"“{name}” begins at bar {song.grid.number(song.grid.bar_at(at))}", *new)


def state_material(song: Song, index: int, like: int | None, positive: bool = True) -> Edited:
    """State that a section is the same music as another one, or (None) the same as none; with ``positive`` false
    that it is not the same as that one, whatever else it is."""
    section = song.sections[index]
    if like == index:
        raise EditError("A section is always the same as itself.")
    here = [s for s in said.of(song.statements, "same", "not same") if s.at == section.start]
    begins = [Statement("section", section.start)] if index else []
    if like is None:
        words = f"{section_place(song, index)} is music of its own"
        return told(song, words, *begins, Statement("same", section.start), gone=here)
    other = song.sections[like]
    if not positive:
        gone = [s for s in here if s.kind == "same"]
        words = f"{section_place(song, index)} is not the same as “{other.name}”"
        return told(song, words, *begins, Statement("not same", section.start, value=other.start), gone=gone)
    # names given to this section by itself go; it is called as the other one is
    here += [s for s in said.of(song.statements, "music name", "pass name") if s.at == section.start]
    if like:
        begins.append(Statement("section", other.start))
    words = f"“{section.name}” is the same as “{other.name}”"
    return told(song, words, *begins, Statement("same", section.start, value=other.start), gone=here)


# ---------------------------------------------------------------- keys, names


def state_key(song: Song, key: Key, first: int | None = None, last: int | None = None) -> Edited:
    """State the key of the bars ``first`` .. ``last`` (inclusive), of the whole song without them."""
    grid = song.grid
    start = Fraction(0) if first is None else grid.bar_range(first)[0]
    end = grid.end if last is None else grid.bar_range(last)[1]
    if start <= grid.starts[min(grid.lead_in, len(grid.bars) - 1)]:
        start = Fraction(0)
    where = "" if first is None else f" from bar {grid.number(first)}"
    return told(song, f"the key is {song.key_name(key)}{where}", Statement("key", start, end, key))


def respell_keys(song: Song, key: Key) -> Edited:
    """Write every stretch in a key, and with it all its chords, with the key's other name."""
    other = key.other_name
    if other is None:
        raise EditError(f"{key.name()} has no other name that anyone writes.")
    new = [Statement("key", a, b, other) for a, b, k in song.keys.ranges(song.grid.end) if k.key == key]
    return told(song, f"{song.key_name(key)} is written as {song.key_name(other)}", *new)


def rename_song(song: Song, title: str, artist: str) -> Edited:
    title = " ".join(title.split())
    if not title:
        raise EditError("A song needs a title.")
    return replace(song, title=title, artist=" ".join(artist.split())), f"the song is “{title}”"


def set_mark(song: Song, at: Position, text: str) -> Edited:
    """Mark a place, or give a mark that is there another note."""
    at = max(Fraction(0), min(at, song.grid.end - Fraction(1, 8)))
    return told(song, f"marked {song.grid.beat_name(at)}", Statement("mark", at, value=" ".join(text.split())))


def remove_mark(song: Song, at: Position) -> Edited:
    gone = [s for s in said.of(song.statements, "mark") if s.at == at]
    if not gone:
        raise EditError("There is no mark at this place.")
    return told(song, f"no mark at {song.grid.beat_name(at)}", gone=gone)


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
