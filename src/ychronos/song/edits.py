"""What a user can say about a song: small pure functions from song to song.

Each returns the new song and a sentence for the record; each raises :class:`EditError` with a sentence for
the user when it does not apply. Nothing stated is lost unless the edit is about it.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from fractions import Fraction

from ..guitar.tuning import GuitarSetup
from ..theory.chord import Chord
from ..theory.key import Key
from .grid import Position
from .model import ChordSpan, KeySpan, Section, Song

Edited = tuple[Song, str]


class EditError(ValueError):
    """An edit that does not apply; the text is a sentence for the user."""


# ---------------------------------------------------------------- chords


def state_chord(song: Song, start: Position, end: Position, chord: Chord) -> Edited:
    """State that ``chord`` sounds from ``start`` to ``end``."""
    start, end = max(Fraction(0), start), min(song.grid.end, end)
    if end <= start:
        raise EditError("There is no music at this place.")
    spans = [s for s in song.chords if s.start < start]
    spans.append(ChordSpan(start, chord, 1.0, stated=True))
    after = song.chords[song.chord_index(end)] if end < song.grid.end else None
    if after is not None:
        spans.append(replace(after, start=end))
        spans += [s for s in song.chords if s.start > end]
    name = chord.name(song.key_at(start))
    return _with_chords(song, spans), f"{name} at {song.grid.beat_name(start)}"


def remove_chord(song: Song, index: int) -> Edited:
    """Take a chord change away: what sounds before it goes on."""
    if not 0 <= index < len(song.chords):
        raise EditError("There is no chord at this place.")
    if index == 0:
        raise EditError("The first chord has nothing before it to go on; state another chord instead.")
    gone = song.chords[index]
    name = song.chord_name(index)
    return _with_chords(song, [s for i, s in enumerate(song.chords) if i != index]), (
        f"no change to {name} at {song.grid.beat_name(gone.start)}"
    )


def mark_unsure(song: Song, index: int, unsure: bool, comment: str = "") -> Edited:
    span = replace(song.chords[index], unsure=unsure, comment=comment if unsure else "")
    spans = (*song.chords[:index], span, *song.chords[index + 1 :])
    word = "unsure about" if unsure else "no longer unsure about"
    return replace(song, chords=spans), f"{word} {song.chord_name(index)} at {song.grid.beat_name(span.start)}"


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


def _with_chords(song: Song, spans: Iterable[ChordSpan]) -> Song:
    """Chord spans set, neighbours that say the same joined unless one is marked."""
    joined: list[ChordSpan] = []
    for span in spans:
        last = joined[-1] if joined else None
        if last and last.chord == span.chord and last.stated == span.stated and not span.unsure and not last.unsure:
            continue
        joined.append(span)
    return replace(song, chords=tuple(joined))


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


def state_key(song: Song, index: int, key: Key) -> Edited:
    span = KeySpan(song.keys[index].start, key, 1.0, stated=True)
    keys = (*song.keys[:index], span, *song.keys[index + 1 :])
    return replace(song, keys=keys), f"the key is {key.name()}"


def rename_song(song: Song, title: str, artist: str) -> Edited:
    title = " ".join(title.split())
    if not title:
        raise EditError("A song needs a title.")
    return replace(song, title=title, artist=" ".join(artist.split())), f"the song is “{title}”"


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


def set_guitar(song: Song, setup: GuitarSetup) -> Edited:
    return replace(song, guitar=setup), f"guitar: {setup.describe()}, {setup.show} shown"
