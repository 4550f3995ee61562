"""What the user said, as values.

A statement says one thing of one place or one stretch of the song: a chord, that no chord changes, where one is, what
a section is called. Statements are the only way in which the user's word is kept: everything shown is a merge of
them with what is decided (:mod:`merge`), and everything decided is a function of the recording and of them. What is
taken away is stated too ("no change here", "no section begins here"), so that it stays away.

Conventions: ``at`` and ``until`` are positions in beats on the song's grid and move with it (:mod:`track`); a
statement of a stretch holds from ``at`` up to ``until``; of a point ``until`` is None. A newer word holds: putting
a statement cuts older ones of its kind to what lies outside of it. The order in which independent statements were
made leaves no trace: they are kept sorted by place.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from ..guitar.fretting import read_fretting
from ..theory.chord import parse_harte
from ..theory.key import parse_key
from ..theory.meter import parse_meter
from ..tongue import mark, tr
from .grid import Position
from .linenotes import read_line_note
from .noted import read_note
from .positions import read_position
from .strumming import read_figure

Statements = tuple["Statement", ...]


ARTICULATIONS = (mark("strummed"), mark("held"), mark("stopped"))  # played on; struck once and left to ring; cut short


# ---------------------------------------------------------------- values as plain data, for files


def _nothing(value: Any) -> None:
    return None


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError(f"{value!r} is no text")
    return value


def _number(value: Any) -> int:
    if not isinstance(value, int) or not -40 <= value <= 40:
        raise ValueError(f"{value!r} is no note")
    return value


def _seconds(value: Any) -> float:
    if not isinstance(value, int | float):
        raise ValueError(f"{value!r} is no time")
    return float(value)


def _grouping(value: Any) -> tuple[int, ...]:
    if not isinstance(value, list) or not all(isinstance(x, int) and x > 0 for x in value):
        raise ValueError("a grouping is a list of numbers")
    return tuple(value)


def _yes_or_no(value: Any) -> bool:
    if not isinstance(value, bool):
        raise ValueError(f"{value!r} is neither yes nor no")
    return value


def _articulation(value: Any) -> str:
    if value not in ARTICULATIONS:
        raise ValueError(f"a chord is one of {', '.join(ARTICULATIONS)}, not “{value}”")
    return str(value)


def _spelling(value: Any) -> tuple[int, int | None, int]:
    root, bass, shift = value
    return _number(root), None if bass is None else _number(bass), _number(shift)


def _place(value: Any) -> Position:
    return read_position(value)


@dataclass(frozen=True)
class Kind:
    """What a kind of statement is about. ``stretch``: it speaks of a stretch, else of a point; ``whole``: a piece of
    its stretch says nothing, so that cutting it takes it away; ``snaps``: it stands on a bar line and goes along with
    it; ``words`` for people. ``write`` and ``read`` turn its value into plain data and back; reading raises ValueError or
    TypeError for what is none. ``about`` gives what a value speaks of: words about different things leave each other
    alone."""

    words: str
    stretch: bool = False
    whole: bool = False
    snaps: bool = False
    write: Callable[[Any], Any] = _nothing
    read: Callable[[Any], Any] = _nothing
    about: Callable[[Any], Any] = _nothing


def _words(words: str, **more: Any) -> Kind:
    return Kind(words, write=str, read=lambda value: _text(value or ""), **more)


KINDS: dict[str, Kind] = {
    # value Chord: it sounds from ``at`` up to ``until``
    "chord": Kind("chord", stretch=True, write=lambda c: c.harte(), read=lambda x: parse_harte(_text(x))),
    # no value: no chord changes there, what sounds before ``at`` goes on up to ``until``
    "goes on": Kind(tr("no change of chord"), stretch=True),
    # no value: the chord is struck anew there
    "struck": Kind(tr("struck anew")),
    # value one of ARTICULATIONS
    "articulation": Kind(tr("held or stopped"), write=str, read=_articulation),
    # value a comment: the user is not sure of the chord there
    "unsure": _words("unsure"),
    # value (root, bass or None, shift): fifths of the notes as typed, when shapes were so many semitones away
    "spelling": Kind(tr("spelling as typed"), stretch=True, write=list, read=_spelling),
    # value Key
    "key": Kind("key", stretch=True, snaps=True, write=lambda k: k.label(), read=lambda x: parse_key(_text(x))),
    # no value: a section begins there
    "section": Kind(tr("section begins"), snaps=True),
    # no value: one section, none begins between its ends
    "one section": Kind(tr("no section begins"), stretch=True, snaps=True),
    # value a name: of this pass only, of the music and all its passes
    "pass name": _words(tr("name of this pass"), snaps=True),
    "music name": _words(tr("name of the music"), snaps=True),
    # value the position of another section, or None for music of its own
    "same": Kind(tr("the same as another section"), snaps=True,
                 write=lambda at: None if at is None else str(at), read=lambda x: None if x is None else _place(x)),
    # value the position of another section
    "not same": Kind(tr("not the same as another section"), snaps=True, write=str, read=_place),
    # value seconds: a beat is at that time of the record; ``at`` is its index
    "beat": Kind("beat", write=lambda x: round(x, 5), read=_seconds),
    # no value: a bar begins on that beat
    "one": Kind(tr("one is here")),
    # no value: the stretch is one bar
    "length": Kind(tr("beats in a bar"), stretch=True, whole=True),
    # value Meter, a tuple of beats a group
    "meter": Kind("meter", stretch=True, snaps=True, write=str, read=lambda x: parse_meter(_text(x))),
    "grouping": Kind("grouping", stretch=True, snaps=True, write=list, read=_grouping),
    # value Fretting: its chord is held so on its instrument
    "shape": Kind("shape", stretch=True, write=lambda f: f.plain(), read=read_fretting, about=lambda f: getattr(f, "about", None)),
    # no value: the user has compared the stretch with the record, it is right
    "checked": Kind("checked", stretch=True),
    # value a note
    "mark": _words("mark"),
    # value (kind, text): a cue or advice for playing
    "note": Kind("note", write=list, read=read_note, about=lambda value: value[0] if value else None),
    # value letters of the strumming hand for one bar, which holds in all bars of the stretch
    "figure": Kind("figure", stretch=True, snaps=True, write=str, read=read_figure),
    # value whether two guitars play the strokes of the stretch
    "paired": Kind(tr("two guitars strum, or one"), stretch=True, snaps=True, write=bool, read=_yes_or_no),
    # value LineNote: a note of a riff, a lick, a fill
    "line": Kind(tr("note of a line"), write=lambda n: n.plain(), read=read_line_note, about=lambda n: getattr(n, "about", None)),
    # value whether somebody sings in the stretch
    "sung": Kind(tr("somebody sings, or nobody"), stretch=True, snaps=True, write=bool, read=_yes_or_no),
    # value words that are sung from there on
    "lyric": _words(tr("words of the song")),
}  # fmt: skip


def register(name: str, kind: Kind) -> None:
    """Add a kind of statement: it is then kept, moved with the count, saved and opened like all others."""
    if name in KINDS:
        raise ValueError(f"there is a kind “{name}” already")
    KINDS[name] = kind


@dataclass(frozen=True)
class Statement:
    """See the module; ``when`` is an ISO time and ``why`` a sentence, for the record only."""

    kind: str
    at: Position
    until: Position | None = None
    value: Any = None
    when: str = field(default="", compare=False)
    why: str = field(default="", compare=False)

    def __post_init__(self) -> None:
        if self.kind not in KINDS:
            raise ValueError(f"unknown kind of statement “{self.kind}”")
        if (self.until is not None) != KINDS[self.kind].stretch:
            raise ValueError(f"“{self.kind}” speaks of a {'stretch' if KINDS[self.kind].stretch else 'point'}")
        if self.until is not None and self.until <= self.at:
            raise ValueError(f"“{self.kind}” ends before it begins")

    @property
    def end(self) -> Position:
        """Where it ends; of a point, where it is."""
        return self.at if self.until is None else self.until

    @property
    def about(self) -> Any:
        """What it speaks of besides its place; None for most kinds."""
        return KINDS[self.kind].about(self.value)

    def covers(self, position: Position) -> bool:
        return position == self.at if self.until is None else self.at <= position < self.until

    def inside(self, start: Position, end: Position) -> bool:
        """Whether it speaks of anything in ``start`` .. ``end`` (exclusive)."""
        return start <= self.at < end if self.until is None else self.at < end and self.until > start


def ordered(statements: Iterable[Statement]) -> Statements:
    # floats compare twenty times as fast; no two positions anybody can state are so close that they do not tell them apart
    return tuple(sorted(statements, key=lambda s: (float(s.at), s.kind, float(s.end), repr(s.about))))


def of(statements: Statements, *kinds: str) -> list[Statement]:
    """Those of some kinds, by place."""
    return [s for s in statements if s.kind in kinds]


def at(statements: Statements, kind: str, position: Position) -> Statement | None:
    """The statement of a kind that speaks of a position."""
    return next((s for s in statements if s.kind == kind and s.covers(position)), None)


def cut(statements: Statements, kinds: Iterable[str], start: Position, end: Position, about: Any = None) -> Statements:
    """Statements of some kinds taken away between two positions, with ``about`` only those that speak of that; what
    they say outside of it stays."""
    return ordered(_cut(statements, set(kinds), start, end, about))


def _cut(
    statements: Iterable[Statement], kinds: Collection[str], start: Position, end: Position, about: Any
) -> list[Statement]:
    """The same, in no order."""
    out: list[Statement] = []
    for s in statements:
        if s.kind not in kinds or not s.inside(start, end) or (about is not None and s.about != about):
            out.append(s)
        elif s.until is not None and not KINDS[s.kind].whole:
            if s.at < start:
                out.append(replace(s, until=start))
            if s.until > end:
                out.append(replace(s, at=end))
    return out


def put(statements: Statements, *new: Statement) -> Statements:
    """Statements with newer ones, which hold where they speak."""
    if not new:
        return statements
    out = list(statements)
    for s in new:
        if s.until is None:
            out = [o for o in out if (o.kind, o.at, o.about) != (s.kind, s.at, s.about)]
        else:
            out = _cut(out, {s.kind}, s.at, s.until, s.about)
        out.append(s)
    return ordered(out)


def without(statements: Statements, kinds: Iterable[str], position: Position) -> Statements:
    """Statements of some kinds about one point taken away."""
    kinds = set(kinds)
    return tuple(s for s in statements if s.kind not in kinds or s.at != position)


def stamped(statements: Statements, when: str, why: str = "") -> Statements:
    """The same with the time and the sentence of those that have none yet."""
    return tuple(s if s.when else replace(s, when=when, why=s.why or why) for s in statements)


def moved(
    statements: Statements,
    move: Callable[[Position], Position],
    end: Position,
    least: Callable[[Position], tuple[Position, Position]] | None = None,
) -> Statements:
    """Statements on another grid that ends at ``end``: places by ``move``. A stretch that comes to nothing gets the
    ``least`` one at its place, unless something of its kind is said there; without that it is left out."""
    out: list[Statement] = []
    nothing: list[Statement] = []
    for s in statements:
        begin = move(s.at)
        value = move(s.value) if s.kind in ("same", "not same") and s.value is not None else s.value
        if s.until is None:
            if begin < end:
                out.append(replace(s, at=begin, value=value))
        else:
            stop = min(end, move(s.until))
            if stop > begin:
                out.append(replace(s, at=begin, until=stop, value=value))
            elif least is not None:
                begin, stop = least(min(begin, end - 1))
                nothing.append(replace(s, at=begin, until=stop, value=value))
    for s in nothing:
        if not any(
            x.kind == s.kind and x.about == s.about and x.until is not None and x.at < s.end and s.at < x.until
            for x in out
        ):
            out.append(s)
    return put((), *out)


def news(before: Statements, after: Statements) -> list[Statement]:
    """Statements that were not there before."""
    known = {(s.kind, s.at, s.until, _plain(s.value)) for s in before}
    return [s for s in after if (s.kind, s.at, s.until, _plain(s.value)) not in known]


def _plain(value: Any) -> Any:
    return round(value, 4) if isinstance(value, float) else value


def stretches(statements: Statements, kind: str) -> list[tuple[Position, Position]]:
    """The stretches of a kind, those that touch joined."""
    out: list[tuple[Position, Position]] = []
    for s in of(statements, kind):
        assert s.until is not None
        if out and s.at <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], s.until))
        else:
            out.append((s.at, s.until))
    return out
