"""The song folded for a page: what is played again is written once.

Phrases that come several times in a row inside a section are written once with how often. Neighbouring passes of the same
music are written once, with endings where they differ; a later pass of what is
written is one line, with what is other in it; a longer stretch that comes again is a way back to a sign (dal segno),
with a coda for what follows. Each only where the page gets shorter. The flat song is the same: :func:`unfold` gives
its bars in order.
Conventions: bars and sections by index.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..song.alignment import bars_of, content, names, same_material
from ..song.grid import Position
from ..song.model import Song
from ..song.words import ordinal, plural, steps_text
from ..theory.chord import Chord
from ..tongue import tr

MOST_CHANGES = 0.25  # of a pass's bars that may be other, for it to be one line that says what is other
IN_A_LINE = 4  # bars, by which it is told what is shorter
MOST_MORE = 2  # bars that such a pass may have after them
LONGEST = 96  # bars of a section in which phrases are looked for
FEWEST_HALF = 2  # bars of a half
SEAM = 0.01  # lines that a new phrase costs: as few as will do
FEWEST_BACK = 2  # parts that come again in a row, from which on going back to a sign is shorter


@dataclass(frozen=True)
class Ending:
    """Bars that passes ``times`` (from 1) have at the end instead of the first pass's."""

    times: tuple[int, ...]
    bars: tuple[int, ...]


@dataclass(frozen=True)
class Phrase:
    """Bars that are written once and played ``times`` times in a row."""

    bars: tuple[int, ...]
    times: int = 1


@dataclass(frozen=True)
class Fold:
    """Music that is written out: ``bars`` in which all passes agree, then endings where they differ; ``sections`` are
    the passes, one after the other. ``phrases``, if any, are how the bars are written. ``segno``: the sign stands before it; ``leaves``: the way to the coda, or the end
    of the song, is after it, when one has gone back; ``coda``: it is where that way leads."""

    sections: tuple[int, ...]
    bars: tuple[int, ...]
    endings: tuple[Ending, ...] = ()
    phrases: tuple[Phrase, ...] = ()
    segno: bool = False
    leaves: bool = False
    coda: bool = False

    @property
    def times(self) -> int:
        return len(self.sections)


@dataclass(frozen=True)
class Again:
    """Passes of what is written in part ``of``, or the pass that is its ``time``-th (from 1; 0 for all of them);
    ``changes`` are (bar there, bar that is played instead), ``more`` bars that come after it. ``half`` is 1 or 2 where only
    the first or second half of it is played, ``moved`` by how many semitones it is played higher."""

    sections: tuple[int, ...]
    of: int
    changes: tuple[tuple[int, int], ...] = ()
    time: int = 0
    more: tuple[int, ...] = ()
    half: int = 0
    moved: int = 0
    segno: bool = False
    leaves: bool = False
    coda: bool = False


@dataclass(frozen=True)
class Back:
    """Go back to the sign and play parts ``first`` .. ``last`` (inclusive) again; ``sections`` are what is played."""

    sections: tuple[int, ...]
    first: int
    last: int


Part = Fold | Again | Back


def fold(song: Song) -> list[Fold]:
    """The song with neighbouring passes of the same music folded where that makes the page shorter.

    Passes fold when they have the same chords in all bars, or in all but the last few (at most half), which become
    first and second endings, where that takes no more lines than writing them out.
    """
    out: list[Fold] = []
    i = 0
    while i < len(song.sections):
        if not bars_of(song, i):  # nothing but the count-in, or the end of a bar
            i += 1
            continue
        group = [i]
        while i + len(group) < len(song.sections) and song.sections[i + len(group)].material == song.sections[i].material != "":  # fmt: skip
            group.append(i + len(group))
        while len(group) > 1:
            made = _folded(song, group)
            if made is not None:
                out.append(made)
                break
            group.pop()
        else:
            out.append(Fold((i,), tuple(bars_of(song, i))))
        i += len(group)
    return out


def _folded(song: Song, group: list[int]) -> Fold | None:
    """Neighbouring passes as one, or None where they differ too much."""
    rows = [list(bars_of(song, s)) for s in group]
    if len({len(r) for r in rows}) > 1:
        return None
    length = len(rows[0])
    same = 0
    while same < length and all(says(song, r[same]) == says(song, rows[0][same]) for r in rows):
        same += 1
    if same == length:
        return Fold(tuple(group), tuple(rows[0]))
    if same < max(1, (length + 1) // 2):
        return None
    endings: list[tuple[list[int], list[int]]] = []
    for time, row in enumerate(rows, 1):
        tail = row[same:]
        for times, bars in endings:
            if [says(song, b) for b in bars] == [says(song, b) for b in tail]:
                times.append(time)
                break
        else:
            endings.append(([time], tail))
    needed = _lines(same) + sum(_lines(len(bars)) for _, bars in endings)
    if needed > len(rows) * _lines(length):
        return None
    return Fold(tuple(group), tuple(rows[0][:same]), tuple(Ending(tuple(t), tuple(b)) for t, b in endings))


def _lines(bars: int) -> int:
    """Lines that so many bars take on a usual page."""
    return -(-bars // IN_A_LINE)


def page(song: Song) -> list[Part]:
    """The parts of a page, in the order in which they are written."""
    written = fold(song)
    back = _way_back(song, written)
    parts: list[Part] = []
    number_of: dict[int, int] = {}  # place among the folds -> place on the page
    k = 0
    while k < len(written):
        if back is not None and k == back[0]:
            first, count = number_of[back[1]], back[2]
            sections = tuple(s for w in written[k : k + count] for s in w.sections)
            parts.append(Back(sections, first, first + count - 1))
            parts[first] = _with(parts[first], segno=True)
            parts[first + count - 1] = _with(parts[first + count - 1], leaves=True)
            k += count
            coda = len(parts)
            continue
        number_of[k] = len(parts)
        parts.append(_again(song, written[k], parts) or written[k])
        k += 1
    if back is not None and coda < len(parts):
        parts[coda] = _with(parts[coda], coda=True)
    return [replace(p, phrases=phrases(song, p.bars)) if isinstance(p, Fold) and p.times == 1 else p for p in parts]


def phrases(song: Song, bars: Sequence[int]) -> tuple[Phrase, ...]:
    """Bars with phrases that come several times in a row written once, the shortest that agree; () where that takes no
    fewer lines. Words and notes in a later round keep it written out, since they would have no place."""
    play = [says(song, b) for b in bars]
    told = [bool(song.lyrics_of_bar(b) or song.notes_of_bar(b)) for b in bars]
    count = len(bars)
    if count > LONGEST:
        return ()
    best: list[tuple[float, tuple[Phrase, ...]]] = [(0.0, ())]
    for end in range(1, count + 1):
        found: list[tuple[float, tuple[Phrase, ...]]] = []
        for start in range(end):
            cost, before = best[start]
            length = end - start
            found.append((cost + _lines(length) + SEAM, (*before, Phrase(tuple(bars[start:end])))))
            for period in range(1, length // 2 + 1):
                if length % period or play[start : end - period] != play[start + period : end] or any(told[start + period : end]):  # fmt: skip
                    continue
                once = Phrase(tuple(bars[start : start + period]), length // period)
                found.append((cost + _lines(period) + SEAM, (*before, once)))
                break
        best.append(min(found, key=lambda f: f[0]))
    made = best[-1][1]
    return made if sum(_lines(len(p.bars)) for p in made) < _lines(count) else ()


def _with(part: Part, segno: bool = False, leaves: bool = False, coda: bool = False) -> Part:
    if isinstance(part, Back):
        return part
    return replace(part, segno=part.segno or segno, leaves=part.leaves or leaves, coda=part.coda or coda)


def says(song: Song, bar: int, up: int = 0) -> list[tuple[Position, Position, Chord, str]]:
    """What a chart says of a bar, so many semitones higher."""
    return [(a, b, song.chords[i].chord.transposed(up), song.chords[i].articulation) for a, b, i in content(song, bar)]


def played(part: Fold, time: int = 0) -> list[int]:
    """Bars of a fold in order of playing, or those of one of its times."""
    out: list[int] = []
    for t in [time] if time else range(1, part.times + 1):
        out += part.bars
        for ending in part.endings:
            if t in ending.times:
                out += ending.bars
    return out


def _again(song: Song, part: Fold, parts: list[Part]) -> Again | None:
    """A part as one line, if it is what is written already, at its pitch or at another, or half of it, but for a few
    bars."""
    mine = played(part)
    best: Again | None = None
    for place, other in enumerate(parts):
        if not isinstance(other, Fold) or not _same_music(song, part, other):
            continue
        for time in range(1, other.times + 1) if part.times == 1 < other.times else (0,):
            if not time and part.times != other.times:
                continue
            for half in (0, 1, 2) if part.times == 1 else (0,):
                theirs = _half(played(other, time), half)
                more = len(mine) - len(theirs)
                if not 0 <= more <= (MOST_MORE if part.times == 1 and not half else 0):
                    continue
                pairs = dict.fromkeys(zip(theirs, mine, strict=False))  # bars of several times stand once
                for moved in (0, *_shifts(song, list(pairs))):
                    changes = tuple((a, b) for a, b in pairs if says(song, a, moved) != says(song, b))
                    told = len(changes) + more + bool(moved) + bool(half)
                    allowed = MOST_CHANGES * len(mine) * (0.5 if moved or half else 1)
                    if len(changes) + more <= allowed and (best is None or told < _told_of(best)):
                        best = Again(part.sections, place, changes, time, tuple(mine[len(theirs) :]), half, moved)
    return best


def _told_of(again: Again) -> int:
    return len(again.changes) + len(again.more) + bool(again.moved) + bool(again.half)


def _half(bars: list[int], half: int) -> list[int]:
    """All bars, or the first or second half of them; none where there are no halves."""
    if not half:
        return bars
    middle, odd = divmod(len(bars), 2)
    return [] if odd or middle < FEWEST_HALF else bars[:middle] if half == 1 else bars[middle:]


def _shifts(song: Song, pairs: list[tuple[int, int]]) -> list[int]:
    """Semitones by which the first chords that differ say that all may be moved."""
    for a, b in pairs:
        one, two = (says(song, x) for x in (a, b))
        if one and two and one != two:
            first, second = one[0][2].root, two[0][2].root
            return [] if first is None or second is None or first == second else [(second - first) % 12]
    return []


def _same_music(song: Song, one: Fold, two: Fold) -> bool:
    return two.sections[0] in same_material(song, one.sections[0])


def _way_back(song: Song, written: list[Fold]) -> tuple[int, int, int] | None:
    """(fold from which on earlier ones come again, the first of those, how many), the longest way, or None. Something
    else stands between, and a way back that ends the song needs none after it."""
    plays = [[says(song, bar) for bar in played(part)] for part in written]
    best: tuple[int, int, int] | None = None
    for here in range(2, len(written)):
        for there in range(here - 1):
            count = 0
            while (
                here + count < len(written)
                and there + count < here - 1
                and written[there + count].times == 1
                and _same_music(song, written[there + count], written[here + count])
                and plays[there + count] == plays[here + count]
            ):
                count += 1
            if count >= FEWEST_BACK and (best is None or count > best[2]):
                best = (here, there, count)
    return best


def unfold(parts: Sequence[Part]) -> list[tuple[int, int]]:
    """The bars of the flat song in order of playing, as they stand on the page: (bar, semitones that it is played
    higher)."""
    return [bar for part in laid_out(parts) for bar in part]


def laid_out(parts: Sequence[Part]) -> list[list[tuple[int, int]]]:
    """The same, part by part."""
    written = {
        bar: phrase.bars[k % len(phrase.bars)]
        for part in parts
        if isinstance(part, Fold)
        for phrase, start in zip(part.phrases, _starts(part.phrases), strict=True)
        for k, bar in enumerate(part.bars[start : start + len(phrase.bars) * phrase.times])
    }
    done: list[list[tuple[int, int]]] = []
    for part in parts:
        if isinstance(part, Fold):
            done.append([(written.get(bar, bar), 0) for bar in played(part)])
        elif isinstance(part, Again):
            other, there = dict(part.changes), parts[part.of]
            assert isinstance(there, Fold)
            bars = _half(played(there, part.time), part.half)
            done.append([(other[b], 0) if b in other else (written.get(b, b), part.moved) for b in bars])
            done[-1] += [(bar, 0) for bar in part.more]
        else:
            done.append([bar for one in done[part.first : part.last + 1] for bar in one])
    return done


def _starts(phrases: Sequence[Phrase]) -> list[int]:
    """How many bars are played before each phrase."""
    out = [0]
    for phrase in phrases:
        out.append(out[-1] + len(phrase.bars) * phrase.times)
    return out[:-1]


# ---------------------------------------------------------------- in words


def part_words(song: Song, parts: list[Part], part: Part) -> str:
    """``Verse ×2, 2nd time: Am  D``, ``Verse as the 1st time, but 7th bar: F`` and the like."""
    if isinstance(part, Fold):
        return fold_words(song, part)
    if isinstance(part, Again):
        return f"{title(song, part.sections)} {again_words(song, parts, part)}"
    return back_words(song, parts, part)


def fold_words(song: Song, part: Fold) -> str:
    """``Verse ×2, 2nd time: Am  D`` and the like."""
    text = title(song, part.sections)
    if part.phrases:
        text += ": " + ", ".join(phrase_words(p) for p in part.phrases)
    for ending in part.endings:
        text += tr("; {times} time: ", times=times_words(ending.times)) + " | ".join(
            names(song, b) for b in ending.bars
        )
    return text


def phrase_words(phrase: Phrase) -> str:
    """``4 bars ×3``."""
    return plural(len(phrase.bars), "bar", "bars") + (f" ×{phrase.times}" if phrase.times > 1 else "")


def bar_words(song: Song, bar: int) -> str:
    """The chords of a bar, with their beats where there are several: ``E7 on 1, E on 3``."""
    inside = content(song, bar)
    if len(inside) < 2:
        return names(song, bar)
    told = []
    for offset, _, i in inside:
        beat, rest = divmod(offset, 1)
        where = int(beat) + song.grid.bars[bar].first
        told.append(f"{song.chord_name(i)} {tr('after') if rest else tr('on')} {where}")
    return ", ".join(told)


def title(song: Song, sections: tuple[int, ...]) -> str:
    """The name of what is played, ``Verse ×2``."""
    return song.sections[sections[0]].title + (f" ×{len(sections)}" if len(sections) > 1 else "")


def again_words(song: Song, parts: list[Part], part: Again) -> str:
    """``as the 1st time, but 7th bar: D``; bars are counted from the start of what is written."""
    other = parts[part.of].sections[max(0, part.time - 1)]
    name, mine = song.sections[other].title, song.sections[part.sections[0]].title
    bare = tr("the {ordinal} time", ordinal=ordinal(song.pass_number(other))) if name == mine else name
    text = tr("as {name}", name=bare)
    written = parts[part.of]
    assert isinstance(written, Fold)
    flat = _half(played(written, part.time), part.half)
    if part.half:
        half = tr("first half of {what}") if part.half == 1 else tr("second half of {what}")
        text = half.format(what=bare)
    text += f", {steps_text(part.moved)}" if part.moved else ""
    changes = [
        tr("{ordinal} bar: {bar}", ordinal=ordinal(flat.index(there) + 1), bar=bar_words(song, here))
        for there, here in part.changes
    ]
    text += tr(", but ") + "; ".join(changes) if changes else ""
    return text + (tr(", then ") + " | ".join(bar_words(song, b) for b in part.more) if part.more else "")


def leaving_words(song: Song, parts: list[Part]) -> str:
    """In plain words where it goes on after what one has gone back for: ``when played again: on to Ending``."""
    after = next((p for p in parts if not isinstance(p, Back) and p.coda), None)
    return (
        tr("when played again: on to {name}", name=song.sections[after.sections[0]].title)
        if after
        else tr("when played again: the end")
    )


def back_words(song: Song, parts: list[Part], part: Back, plain: bool = False) -> str:
    """``D.S. al coda: again from Verse to Chorus, then on to the coda``; ``plain``: ``from Verse to Chorus as above, then
    Ending``."""
    first, last = (song.sections[parts[k].sections[0]].title for k in (part.first, part.last))
    on = parts.index(part) < len(parts) - 1
    which = tr("{first} to {last}", first=first, last=last) if first != last else first
    if plain:
        after = next((p for p in parts[parts.index(part) + 1 :] if not isinstance(p, Back)), None)
        bar = song.grid.number(song.section_bars(parts[part.first].sections[0])[0])
        then = song.sections[after.sections[0]].title if after else tr("the end")
        return tr("{which} as above, from bar {bar} on, then {then}", which=which, bar=bar, then=then)
    return tr('D.S. al coda: again from the sign, {which}, then the coda', which=which) if on else tr('D.S. al fine: again from the sign, {which}, then the end', which=which)  # fmt: skip


def times_words(times: tuple[int, ...]) -> str:
    """``1st and 3rd``."""
    return tr(" and ").join(ordinal(t) for t in times)
