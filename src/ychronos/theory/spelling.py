"""Spelling a chord among its neighbours.

The key alone spells most chords. Where a note leads on, it is written as the line that it is: a diminished
chord that rises by a semitone is the leading tone of the next (C♯°7 before Dm, not D♭°7), and a bass note that
does not belong to its chord takes the letter below a note it rises to, the letter above one it falls to.
"""

from __future__ import annotations

from functools import lru_cache

from .chord import LEADING, Chord
from .key import Key
from .pitch import Note

_DOUBLE = 2  # accidentals beyond a double sharp or flat are never written


@lru_cache(maxsize=8192)  # asked for each chord and each note of the bass that is shown
def spell_in_line(chord: Chord, key: Key, before: Chord | None = None, after: Chord | None = None) -> tuple[Note, Note]:
    """Written root and bass of a chord that is not silence, between its neighbours (None where there is none)."""
    plain = chord.spelled(key)
    assert plain is not None, "silence has no spelling"
    root, bass = plain
    target = after.spelled(key) if after is not None else None
    if chord.quality in LEADING and target is not None and root.pitch_class not in key.scale:
        for note in target:
            led = note.up(11, 6)
            if led.pitch_class == root.pitch_class and abs(led.alter) <= _DOUBLE:
                root = led
                break
    if chord.bass is None:
        return root, root
    step = (chord.bass - root.pitch_class) % 12
    if step in chord.intervals or step in (10, 11):
        bass = spell_again(chord, root, bass)
    elif target is not None and chord.bass not in key.scale:
        low = target[1]
        for note in (low.up(11, 6), low.up(1, 1)):
            if note.pitch_class == chord.bass and abs(note.alter) < _DOUBLE:
                bass = note
    return root, bass


def spell_again(chord: Chord, root: Note, bass: Note) -> Note:
    """The bass as a note of its chord above a root that may have been respelled."""
    for note in chord.notes(root):
        if note.pitch_class == chord.bass and abs(note.alter) <= _DOUBLE:
            return note
    return bass
