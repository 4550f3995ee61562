"""What a user can say of sections: where they begin and do not, what they are called and are like."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from ...tongue import tr
from .. import sectionnames
from .. import statements as said
from ..grid import Position
from ..merge import beside, called_alike, free_letter
from ..model import Song
from ..statements import Statement
from ..track import Track
from .common import Edited, EditError, told


def section_place(song: Song, index: int) -> str:
    """``“Verse” at bar 9``."""
    section = song.sections[index]
    return tr("“{name}” at bar {number}", name=section.title, number=song.grid.number(song.grid.bar_at(section.start)))


def rename_section(song: Song, index: int, name: str, all_passes: bool = True) -> Edited:
    """Name a section's music, and with it every pass of it; or this pass alone."""
    name = " ".join(name.split())
    if not name:
        raise EditError(tr("A section needs a name."))
    here = song.sections[index]
    begins = [Statement("section", here.start)] if index else []
    if not all_passes:
        return told(song, tr("{section_place} is “{name}”, this time only", section_place=section_place(song, index), name=name), *begins,
                    Statement("pass name", here.start, value=name))  # fmt: skip
    twins = called_alike(song.sections, here)
    starts = {s.start for s in twins}
    # the newest name of this music holds, also where an older one was given at another pass
    names = said.of(song.statements, "music name", "pass name")
    gone = [s for s in names if s.at in starts or (s.kind == "music name" and song.sections.at(s.at).start in starts)]
    words = tr("“{name}” is now “{name2}”", name=here.title, name2=sectionnames.said(name)) + (
        tr(", all {count} times", count=len(twins)) if len(twins) > 1 else ""
    )
    begins = [Statement("section", s.start) for s in twins if s.start]
    # each is called so in its own right: should it once be heard as another music, it keeps its name
    others = [Statement("pass name", s.start, value=name) for s in twins if s.start != here.start]
    return told(song, words, *begins, Statement("music name", here.start, value=name), *others, gone=gone)


def state_sung(song: Song, index: int, sings: bool) -> Edited:
    """Say that somebody sings in a section, or that nobody does."""
    start, end = song.section_range(index)
    words = tr(
        "{word} sings in {section_place}",
        word=tr("somebody") if sings else tr("nobody"),
        section_place=section_place(song, index),
    )
    return told(song, words, Statement("sung", start, end, sings))


def start_section(song: Song, at: Position, name: str = "") -> Edited:
    """Begin a new section at a position, a bar line or a beat inside a bar."""
    index = song.section_index(at)
    grid = song.grid
    if song.sections[index].start == at:
        if song.sections[index].stated or at == 0:
            raise EditError(tr("A section begins here already."))
        more = [Statement("pass name", at, value=name)] if name else []  # it was found, and now it is sure
        words = tr("“{name}” does begin at {beat}", name=song.sections[index].title, beat=grid.beat_name(at))
        return told(song, words, Statement("section", at), *more)
    if not 0 < at < grid.end:
        raise EditError(tr("A section begins within the song."))
    bar = grid.bar_at(at)
    where = tr("bar {number}", number=grid.number(bar)) if at == grid.starts[bar] else grid.beat_name(at)
    new = [Statement("section", at)]
    letter = free_letter({s.material for s in song.sections})
    cut = song.sections[index]
    if not beside(grid, at, (s.start for s in song.sections if not s.stated)):
        begun = replace(cut, start=at, name=sectionnames.PART + letter, material=letter)
        song = replace(song, sections=Track([*song.sections[: index + 1], begun, *song.sections[index + 1 :]]))
    if name:
        new.append(Statement("pass name", at, value=name))
    statements = said.cut(song.statements, ["one section"], at, at + Fraction(1, 64))
    joined = next((s for s in said.of(song.statements, "one section") if s.at < at < s.end), None)
    if joined is not None:  # what was joined is two from here on
        halves = [x for x in ((joined.at, at), (at, joined.end)) if x[1] > x[0]]
        statements = tuple(s for s in song.statements if s is not joined)
        new += [Statement("one section", a, b) for a, b in halves]
    return told(replace(song, statements=statements), tr("a section begins at {where}", where=where), *new)


def join_section(song: Song, index: int) -> Edited:
    """Take a section's beginning away: it belongs to the one before."""
    if index == 0:
        raise EditError(tr("The first section has none before it to join."))
    start, end = song.section_range(index)
    before = song.sections[index - 1].start
    about = ("section", "pass name", "music name", "same", "not same")
    gone = [s for s in said.of(song.statements, *about) if s.at == start]
    words = tr("“{name}” joined to what comes before", name=song.sections[index].title)
    return told(song, words, Statement("one section", before, end), gone=gone)


def move_section(song: Song, index: int, at: Position) -> Edited:
    """Let a section begin elsewhere, between its neighbours' beginnings."""
    if index == 0:
        raise EditError(tr("The first section begins with the song."))
    old, end = song.section_range(index)
    before = song.sections[index - 1].start
    if not before < at < end:
        raise EditError(tr("A section cannot begin beyond its neighbours; join them first."))
    name = song.sections[index].title
    statements = tuple(
        replace(s, at=at) if s.at == old and s.kind in ("section", "pass name", "music name", "same", "not same")
        else replace(s, value=at) if s.kind in ("same", "not same") and s.value == old
        else s
        for s in song.statements
    )  # fmt: skip
    sections = Track(replace(s, start=at) if i == index else s for i, s in enumerate(song.sections))
    song = replace(song, statements=said.ordered(statements), sections=sections)
    new = [Statement("one section", before, at), Statement("one section", at, end), Statement("section", at)]
    return told(
        song, tr("“{name}” begins at bar {number}", name=name, number=song.grid.number(song.grid.bar_at(at))), *new
    )


def state_material(song: Song, index: int, like: int | None, positive: bool = True) -> Edited:
    """State that a section is the same music as another one, or (None) the same as none; with ``positive`` false
    that it is not the same as that one, whatever else it is."""
    section = song.sections[index]
    if like == index:
        raise EditError(tr("A section is always the same as itself."))
    here = [s for s in said.of(song.statements, "same", "not same") if s.at == section.start]
    begins = [Statement("section", section.start)] if index else []
    names = said.of(song.statements, "music name", "pass name")
    if like is None or not positive:  # a name that was given to all times does not go along
        here += [s for s in names if (s.kind, s.at) == ("pass name", section.start)
                 and any((x.kind, x.value) == ("music name", s.value) for x in names)]  # fmt: skip
    if like is None:
        words = tr("{section_place} is music of its own", section_place=section_place(song, index))
        return told(song, words, *begins, Statement("same", section.start), gone=here)
    other = song.sections[like]
    # what was said of the two before, from either side, gives way to what is said now
    here += [s for s in said.of(song.statements, "same", "not same") if (s.at, s.value) == (other.start, section.start)]
    if not positive:
        gone = [s for s in here if s.kind in ("same", "pass name") or s.at == other.start]
        words = tr(
            "{section_place} is not the same as “{name}”", section_place=section_place(song, index), name=other.title
        )
        return told(song, words, *begins, Statement("not same", section.start, value=other.start), gone=gone)
    # names given to this section by itself go; it is called as the other one is
    here += [s for s in names if s.at == section.start]
    if like:
        begins.append(Statement("section", other.start))
    words = tr("“{name}” is the same as “{name2}”", name=section.title, name2=other.title)
    called = Track(replace(x, name=other.name) if i == index else x for i, x in enumerate(song.sections))
    song = replace(song, sections=called)
    return told(song, words, *begins, Statement("same", section.start, value=other.start), gone=here)
