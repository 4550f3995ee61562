"""What a user can say of the song as a whole, the record's pitch, the guitar, and how chords are written."""

from __future__ import annotations

from dataclasses import replace

from ...guitar.hands import level_of
from ...guitar.instrument import GuitarSetup
from ...theory.notation import SCHOOLS
from ...tongue import tr
from ..linenotes import HIGH, LOW
from ..merge import merged
from ..model import Song
from ..statements import Statement
from ..track import Track
from ..words import plural
from .common import Edited, EditError

FURTHEST = 160.0  # cents from true pitch that a record is taken for


def rename_song(song: Song, title: str, artist: str) -> Edited:
    title = " ".join(title.split())
    if not title:
        raise EditError(tr("A song needs a title."))
    return replace(song, title=title, artist=" ".join(artist.split())), tr("the song is “{title}”", title=title)


def correct_tape(song: Song, correct: bool) -> Edited:
    """Play the record at true pitch, or as it is; its own times stay what they are."""
    ground = song.ground
    if correct and abs(ground.cents) < 1:
        raise EditError(tr("The record is at true pitch already."))
    tape = ground.cents if correct else 0.0
    new = replace(ground, tape_cents=tape, corrected_clock=ground.corrected_clock and correct)
    words = tr("played at true pitch, {speed}", speed=new.speed_words()) if correct else tr("played as it is")
    return replace(song, ground=new), words


def name_half_step(song: Song, steps: int) -> Edited:
    """Take the record for so many hundred cents flatter than it is shown, and name all that sounds as many half steps higher; what was
    said of chords, keys and notes of lines goes along."""
    ground = song.ground
    cents = ground.cents - 100 * steps
    if abs(cents) > FURTHEST:
        raise EditError(tr("No tape runs so far from true pitch."))
    tape = cents if ground.tape_cents else 0.0
    song = replace(
        song,
        ground=replace(ground, cents=cents, tape_cents=tape),
        statements=tuple(_higher(s, steps) for s in song.statements if s.kind not in ("spelling", "shape")),
        chords=Track(
            replace(c, chord=c.chord.transposed(steps), rivals=tuple((r.transposed(steps), p) for r, p in c.rivals))
            for c in song.chords
        ),
        keys=Track(replace(k, key=k.key.transposed(steps)) for k in song.keys),
    )
    way = tr("higher") if steps > 0 else tr("lower")
    words = f"{abs(cents):.0f} ¢ {tr('sharp') if cents > 0 else tr('flat')}"
    return merged(song), tr(
        "the record is {words}: all names {half_steps} {way}",
        words=words,
        half_steps=plural(abs(steps), "half step", "half steps"),
        way=way,
    )


def _higher(s: Statement, steps: int) -> Statement:
    if s.kind in ("chord", "key"):
        return replace(s, value=s.value.transposed(steps))
    if s.kind == "line":
        rivals = tuple(min(HIGH, max(LOW, n + steps)) for n in s.value.rivals)
        return replace(s, value=replace(s.value, note=min(HIGH, max(LOW, s.value.note + steps)), rivals=rivals))
    return s


def show_corrected_clock(song: Song, corrected: bool) -> Edited:
    """Show times of the corrected record, or of the original."""
    if corrected and not song.ground.tape_cents:
        raise EditError(tr("The record is played as it is; correct the tape first."))
    words = tr("times of the corrected record") if corrected else tr("times of the original record")
    return replace(song, ground=replace(song.ground, corrected_clock=corrected)), words


def set_notation(song: Song, school: str) -> Edited:
    """Write chords as a school does, one of ``theory.notation.SCHOOLS``."""
    return replace(song, notation=school), tr("chords written as {school}", school=SCHOOLS[school].short)


def set_guitar(song: Song, setup: GuitarSetup) -> Edited:
    return replace(song, guitar=setup), tr(
        "guitar: {describe}, {show} shown", describe=setup.describe(), show=tr(setup.show)
    )


def set_second_guitar(song: Song, setup: GuitarSetup | None) -> Edited:
    """A second guitar that plays along with shapes of its own, or none."""
    if setup is None:
        if song.second is None:
            raise EditError(tr("There is no second guitar."))
        return replace(song, second=None), tr("one guitar")
    return replace(song, second=setup), tr("second guitar: {describe}", describe=setup.describe())


def swap_guitars(song: Song) -> Edited:
    """Show the second guitar instead of the first; again to go back."""
    if song.second is None:
        raise EditError(tr("There is no second guitar; say first where it plays."))
    first = replace(song.guitar, show=song.second.show)
    shown = replace(song.second, show=song.guitar.show)
    return replace(song, guitar=shown, second=first), tr("shown for {describe}", describe=shown.describe())


def set_level(song: Song, level: str) -> Edited:
    """What the shapes ask of a hand: one of ``guitar.hands.LEVELS``."""
    words = level_of(level).words
    return replace(song, guitar=replace(song.guitar, level=level)), tr("shapes: {words}", words=words)


def write_in_key(song: Song, moved: int) -> Edited:
    """Write the chart so many semitones higher than the record (0: as it sounds): names, numbers, shapes together."""
    guitar = replace(song.guitar, moved=moved)
    second = replace(song.second, moved=moved) if song.second is not None else None
    key = guitar.key_moved(song.main_key(), moved).name()
    words = tr("written in {key}", key=key) if moved else tr("written as it sounds")
    return replace(song, guitar=guitar, second=second), words
