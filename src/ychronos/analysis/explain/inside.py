"""The look inside one chord: which notes sound and how strongly, what is in the bass, what is left over.

It shows why a chord is not a plain triad, and gives the reasons for a reading in words. Evidence: the chord
net's opinion of what pitch classes sound and of the bass, and the note activations for the picture.
Conventions: chances 0 .. 1; pitch classes 0 = C; the picture's rows are semitones from C1 up.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...song.edits import twins
from ...song.grid import Position
from ...song.model import Song
from ...theory.chord import QUALITIES, Chord
from ...theory.function import read_one
from ...tongue import tr, trn
from ..evidence import Evidence
from ..spectra import PITCH_RATE, segment_means

Floats = NDArray[np.float64]
SURE, LIKELY, HARDLY = 0.75, 0.5, 0.3
COLUMNS_A_BEAT = 4
_DEGREES = {1: "b9", 2: "9", 3: "b3", 4: "3", 5: "11", 6: "b5", 7: "5", 8: "b13", 9: "13", 10: "b7", 11: "7"}


@dataclass(frozen=True)
class Inside:
    """What sounds between two times. ``sounding`` (12,) chance that a pitch class sounds; ``strength`` (12,) how
    loud, 1 for the loudest; ``bass`` (13,) chance of each bass note, the last of none; ``picture`` (84, n)
    loudness by semitone and moment, 1 for the loudest; ``missing`` notes of the chord that are hardly heard,
    ``leftover`` heard notes that it has not, the likeliest first."""

    chord: Chord
    sounding: Floats
    strength: Floats
    bass: Floats
    picture: Floats
    missing: tuple[int, ...]
    leftover: tuple[int, ...]

    def with_leftover(self, note: int) -> Chord | None:
        """The chord that it would be with a leftover note, or None where that is no chord anyone plays."""
        root = self.chord.root
        if root is None:
            return None
        try:
            made = Chord(root, self.chord.quality, self.chord.bass, (*self.chord.changes, _DEGREES[(note - root) % 12]))
        except (KeyError, ValueError):
            return None
        return made if not made.changes and made.quality in QUALITIES and made != self.chord else None


def look(evidence: Evidence, start: float, end: float, chord: Chord, columns: int = 16) -> Inside:
    """The look inside the sound between two times in seconds, with a chord in mind."""
    edges = np.array([start, max(end, start + 0.05)])
    odds = segment_means(np.clip(evidence.harmony.notes, -6, 6), edges)[0]
    sounding = 1 / (1 + np.exp(-odds))
    bass = np.exp(segment_means(np.maximum(evidence.harmony.bass, -12), edges)[0])
    bass /= bass.sum()
    notes = evidence.notes
    slices = np.linspace(edges[0], edges[1], max(1, columns) + 1)
    first, last = int(max(0, edges[0] * PITCH_RATE - 2)), int(edges[1] * PITCH_RATE + 3)
    part = notes[first:last].astype(np.float32)
    picture = segment_means(part, slices - first / PITCH_RATE).T if len(part) else np.zeros((84, columns))
    picture = np.sqrt(np.maximum(picture, 0))
    picture /= picture.max() + 1e-9
    strength = np.sqrt((picture[24:] ** 2).mean(1).reshape(-1, 12).sum(0))
    strength /= strength.max() + 1e-9
    mine = chord.pitch_classes
    order = [int(k) for k in np.argsort(-sounding)]
    leftover = tuple(k for k in order if k not in mine and sounding[k] >= LIKELY)
    missing = tuple(k for k in sorted(mine) if sounding[k] < HARDLY)
    return Inside(chord, sounding, strength, bass, picture, missing, leftover)


def look_at(song: Song, evidence: Evidence, start: Position, end: Position, chord: Chord) -> Inside:
    """The same between two positions of a song."""
    columns = max(4, min(64, round(float(end - start) * COLUMNS_A_BEAT)))
    return look(evidence, song.grid.clock(start), song.grid.clock(end), chord, columns)


# ---------------------------------------------------------------- reasons in words


def _note(song: Song, at: Position, note: int) -> str:
    return song.note_name(song.chord_index(at), note)


def bass_words(song: Song, evidence: Evidence, start: Position, end: Position, decided: int | None = None) -> str:
    """``bass C throughout``, ``bass C, then E``, ``bass unclear: C or G``. ``decided`` is the note that was taken for the bass by more
    than what single moments say: where those all say another one, it is unclear."""
    beats = [start + i for i in range(int(end - start))] or [start]
    edges = np.array([song.grid.clock(p) for p in [*beats, end]])
    chance = np.exp(segment_means(np.maximum(evidence.harmony.bass, -12), edges))
    chance /= chance.sum(1, keepdims=True)
    best = [int(k) for k in chance.argmax(1)]
    whole = chance.mean(0)
    order = np.argsort(-whole)
    if order[0] == 12:
        return tr("no bass heard")
    if whole[order[0]] < LIKELY:
        two = [_note(song, start, int(k)) for k in order if k < 12][:2]
        return tr("bass unclear: {two} or {two2}", two=two[0], two2=two[1])
    run = [b for i, b in enumerate(best) if b < 12 and (i == 0 or best[i - 1] != b) and chance[i, b] >= LIKELY]
    if len(set(run)) <= 1:
        if decided not in (None, order[0]):
            two = [_note(song, start, int(k)) for k in (decided, order[0])]
            return tr("bass unclear: {two} or {two2}", two=two[0], two2=two[1])
        sure = tr("throughout") if whole[order[0]] > 0.85 else tr("most of the time")
        return tr("bass {note} {sure}", note=_note(song, start, int(order[0])), sure=sure)
    return tr("bass ") + tr(", then ").join(_note(song, start, b) for b in run[:3])


def _called(chord: Chord, note: int) -> str:
    assert chord.root is not None
    step = (note - chord.root) % 12
    words = {3: tr("third"), 4: tr("third"), 7: tr("fifth"), 6: tr("fifth"), 8: tr("fifth"), 10: tr("seventh"), 11: tr("seventh"), 0: tr("root"),
             9: tr("sixth"), 2: tr("ninth"), 5: tr("fourth")}  # fmt: skip
    if step == 9 and 6 in chord.intervals:
        return tr("seventh")
    if step == 2 and chord.quality == "sus2":
        return tr("second")
    return words.get(step, "altered note")


def reasons(song: Song, evidence: Evidence | None, index: int, seen: Inside | None = None) -> list[str]:
    """Why a chord is read as it is, in a few phrases, the most telling first; ``seen`` where it was looked into."""
    span = song.chords[index]
    chord = span.chord
    if chord.is_none:
        return []
    start, end = song.chord_range(index)
    out: list[str] = []
    if evidence is not None:
        seen = seen or look_at(song, evidence, start, end, chord)
        out.append(bass_words(song, evidence, start, end, None if span.stated else chord.sounding_bass))
        if seen.missing:
            names = [_called(chord, n) for n in seen.missing]
            out.append(tr("{names} hardly heard", names=tr(" and ").join(dict.fromkeys(names))))
        for note in seen.leftover[:2]:
            made = seen.with_leftover(note)
            name = tr(", which would make {name}", name=song.name_of(made, start)) if made is not None else ""
            out.append(tr("{note} sounds too{name}", note=_note(song, start, note), name=name))
        for rival, _ in span.rivals[:1]:
            if rival.pitch_classes == chord.pitch_classes and rival.root != chord.root:
                out.append(tr("{name} has the same notes", name=song.name_of(rival, start)))
    out += _other_passes(song, index)
    reading = read_one(*song.as_shown(index))
    if reading.outside:
        out.append(reading.words)
    return out


def _other_passes(song: Song, index: int) -> Sequence[str]:
    """What the other passes of the section have at this place."""
    start, _ = song.chord_range(index)
    bar = song.grid.bar_at(start)
    offset = start - song.grid.starts[bar]
    mine = song.chords[index].chord
    same, others = 0, []
    for twin in twins(song, bar):
        at = song.grid.starts[twin] + offset
        there = song.chord_index(at)
        if song.chords[there].chord == mine:
            same += 1
        else:
            section = song.section_index(at)
            number = song.pass_number(section)
            others.append(
                tr(
                    "{name} {number} has {chord}",
                    name=song.sections[section].title,
                    number=number,
                    chord=song.chord_name(there),
                )
            )
    if others:
        return others[:2]
    return [trn("the same {count} other time", "the same {count} other times", same, count=same)] if same else []


def difference(seen: Inside, rival: Chord, name: Callable[[int], str]) -> str:
    """What would have to sound for a rival, and how likely that is: ``with B 38%; without A 12%``; ``name``
    spells a pitch class."""
    mine, theirs = seen.chord.pitch_classes, rival.pitch_classes
    parts = []
    plus = sorted(theirs - mine, key=lambda n: -seen.sounding[n])
    minus = sorted(mine - theirs, key=lambda n: seen.sounding[n])
    if plus:
        parts.append(tr("with ") + ", ".join(f"{name(n)} {seen.sounding[n]:.0%}" for n in plus[:2]))
    if minus:
        parts.append(tr("without ") + ", ".join(f"{name(n)} {1 - seen.sounding[n]:.0%}" for n in minus[:2]))
    if rival.sounding_bass is not None and rival.sounding_bass != seen.chord.sounding_bass:
        parts.append(
            tr("{name} in the bass {bass:.0%}", name=name(rival.sounding_bass), bass=seen.bass[rival.sounding_bass])
        )
    return "; ".join(parts) or tr("the same notes")
