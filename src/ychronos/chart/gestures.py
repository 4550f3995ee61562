"""What players have a word for inside a form: a turnaround that leads back, a vamp that goes round, a tag at the end.

They are read off the chords and bars alone, by what the words mean: a turnaround leaves the key's home in the last bars of a section and
ends on a chord whose root lies a fifth above the chord that follows (or a half step, its substitute); a vamp is a section of one or
two chords in one or two bars, again and again; a tag is a last phrase that is played again at the end. How the record itself ends is
told with its last section: it fades, its last chord rings, or it stops.
"""

from __future__ import annotations

from fractions import Fraction

from ..song import statements
from ..song.model import Song
from ..song.sung import nobody_sings
from ..song.words import bars_text
from ..theory.chord import Chord
from ..tongue import tr, trn
from .folding import says, times_words

SHORTEST = 4  # bars of a section that can have a turnaround, or be a vamp
ROUNDS = 4  # of a vamp
LONGEST_TAG = 4  # bars
_RINGS, _STOPS = tr("the last chord rings out"), tr("stops short at the end")
_ENDS = {"rings": _RINGS, "held": _RINGS, "stops": _STOPS, "stopped": _STOPS}
FAR = (4, 9)  # semitones above home of the chords that a longer turnaround begins on instead


def gestures(song: Song, section: int) -> list[str]:
    """The words for what a section has of these, none for most."""
    bars = song.section_bars(section)
    if len(bars) < SHORTEST:
        return [words for words in (_closing(song, section),) if words]
    found = _vamp(song, bars) or _turnaround(song, section, bars)
    return [words for words in (found, _tag(song, section, bars), _closing(song, section)) if words]


def voiced(song: Song, sections: tuple[int, ...]) -> list[str]:
    """What is to be told of the singer of sections that are written once: where nobody sings in a section in the middle of a song
    that is sung. That nobody sings while a song opens or ends is told only where it was said."""
    inside = range(1, len(song.sections) - 1)
    mute = [
        k
        for k, i in enumerate(sections)
        if nobody_sings(song, i)
        and (
            (i in inside and len(song.section_bars(i)) >= SHORTEST)
            or statements.at(song.statements, "sung", song.sections[i].start)
        )
    ]
    if not mute:
        return []
    if len(mute) == len(sections):
        return [tr("nobody sings")]
    return [tr("nobody sings the {times} time", times=times_words(tuple(k + 1 for k in mute)))]


def _closing(song: Song, section: int) -> str:
    """How the record ends, told with the last section; what was said of how the last chord is played goes before what was heard."""
    if section != len(song.sections) - 1:
        return ""
    if statements.at(song.statements, "articulation", song.chords[-1].start) is not None:
        return _ENDS.get(song.chords[-1].articulation, "")
    if song.closing.kind == "fades":
        grid = song.grid
        bar = grid.bar_at(max(Fraction(0), min(Fraction(grid.position(song.closing.at)), grid.end - Fraction(1, 64))))
        return tr("fades out from bar {number} on", number=grid.number(bar))
    return _ENDS.get(song.closing.kind, "")


def _vamp(song: Song, bars: range) -> str:
    play = [says(song, bar) for bar in bars]
    for period in (1, 2):
        if len(bars) >= ROUNDS * period and play[period:] == play[:-period]:
            names = _names(song, range(bars[0], bars[0] + period))
            if len(names) <= 2:
                return tr("a vamp on {names}", names=tr(" and ").join(names)) if names else ""
    return ""


def _names(song: Song, bars: range) -> list[str]:
    out: list[str] = []
    for bar in bars:
        for _, _, chord, _ in says(song, bar):
            name = song.name_of(chord, song.grid.bar_range(bar)[0])
            if chord.root is not None and name not in out:
                out.append(name)
    return out


def _turnaround(song: Song, section: int, bars: range) -> str:
    """The last two bars, or the last one with two chords or more, from the key's home to what leads into what follows."""
    if section + 1 >= len(song.sections):
        return ""
    end = song.section_range(section)[1]
    following = song.chords[song.chord_index(end)].chord
    key = song.key_at(song.grid.bar_range(bars[-1])[0])
    last = says(song, bars[-1])
    if not last or following.root is None or not _leads(last[-1][2], following):
        return ""
    home = key.tonic
    for first in (bars[-2], bars[-1]):
        chords = [c for bar in range(first, bars[-1] + 1) for _, _, c, _ in says(song, bar)]
        roots = [c.root for c in chords]
        if following.root != home or len(set(roots)) < 2 or roots[0] is None:
            continue
        if roots[0] == home or ((roots[0] - home) % 12 in FAR and len(roots) > 2):
            return tr("turnaround in {bars}", bars=bars_text(song.grid, first, bars[-1]))
    return ""


def _leads(one: Chord, two: Chord) -> bool:
    """Whether a chord is a dominant of the next, or its substitute."""
    if one.root is None or two.root is None:
        return False
    step = (one.root - two.root) % 12
    return step in (1, 7) and 3 not in one.intervals


def _tag(song: Song, section: int, bars: range) -> str:
    """What the last section has more than its other passes, where it is its last phrase again."""
    if section != len(song.sections) - 1:
        return ""
    mine = song.sections[section]
    others = [len(song.section_bars(i)) for i, s in enumerate(song.sections[:-1]) if s.material == mine.material]
    if not mine.material or not others:
        return ""
    usual = max(others, key=others.count)
    more = len(bars) - usual
    for phrase in range(1, LONGEST_TAG + 1):
        if not 0 < more <= 3 * phrase or more % phrase or usual < phrase:
            continue
        model = [says(song, b) for b in bars[usual - phrase : usual]]
        again, rounds = [says(song, b) for b in bars[usual:]], model * (more // phrase)
        # the very last bar may ring on another chord than the phrase does, unless it is all that there is more
        if again == rounds or (more > 1 and again[:-1] == rounds[:-1]):
            times = {1: tr("once"), 2: tr("twice"), 3: tr("three times")}[more // phrase]
            return trn(
                "tag: the last bar {times} more",
                "tag: the last {count} bars {times} more",
                phrase,
                count=phrase,
                times=times,
            )
    return ""
