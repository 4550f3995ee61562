"""Charts that other people typed, read as far as they make sense: bars with ``|``, chords over words, chords in brackets.

Nothing is dropped in silence: lines that are neither chords nor names of sections come back as words or as unread. A
section that is named again without chords is played again; ``x2``, ``|: :|`` and ``%`` repeat.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from ..song.handed import HandedBar, HandedChart
from ..theory.chord import NO_CHORD, Chord, ChordError, parse_chord
from ..tongue import tr

MOST_LINES, MOST_BARS, LONGEST_LINE = 4000, 4000, 4000
_TIMES = re.compile(r"^[(\[]?\s*(?:[x×*]\s*(\d{1,2})|(\d{1,2})\s*[x×*])\s*[)\]]?$", re.IGNORECASE)
_AT_END = re.compile(r"\s*[(\[]?\s*(?:[x×]\s*(\d{1,2})|(\d{1,2})\s*[x×])\s*[)\]]?\s*$", re.IGNORECASE)
# behind a section's name: which time it is, the clock, and that it is as before, as our own charts have it
_CLOCK = re.compile(
    r"(?:\s*\(\d{1,2}(?:\w\w time|\. Mal)\))?(?:[\s,]+\d{1,2}:\d\d)*(?:\s+(?:as the \d{1,2}\w\w time|wie beim \d{1,2}\. Mal))?$"
)
_AFTER_THE_BEAT = "&"  # as our own charts write a chord between two beats: ``. . .&G``
_HELD = "◊•"  # behind a chord: it rings, it is cut short
_BRACKET = re.compile(r"\[([^\]\n]{1,40})\]")
_FIELD = re.compile(
    r"^\{?\s*(title|t|song|key|capo|artist|subtitle|st|by|tempo|time|meter)\s*(?:[:=]\s*|(?<=capo)\s+(?=\d))(.*?)\s*\}?$",
    re.IGNORECASE,
)
_NAMES = (
    "intro", "verse", "strophe", "chorus", "refrain", "bridge", "pre-chorus", "prechorus", "pre chorus", "middle", "solo", "outro",
    "ending", "coda", "interlude", "instrumental", "riff", "turnaround", "tag", "hook", "part", "section", "break", "lead-in", "vamp", "end",
    "vorrefrain", "zwischenspiel", "schluss", "teil", "lied", "vorlauf",
)  # fmt: skip
_ROMANS = {"i": 0, "ii": 2, "iii": 4, "iv": 5, "v": 7, "vi": 9, "vii": 11}
_NUMBERS = {"1": 0, "2": 2, "3": 4, "4": 5, "5": 7, "6": 9, "7": 11}
_ROMAN = re.compile(r"^([b♭#♯]?)(VII|VI|IV|V|III|II|I|vii|vi|iv|v|iii|ii|i)(.*)$")
_NUMBER = re.compile(r"^([b♭#♯]?)([1-7])(.*)$")


class ChartError(ValueError):
    """A text that holds no chart; the text of the error is a sentence for the user."""


def read_chord(token: str, numbers: bool = False) -> Chord | None:
    """A chord as people write it in charts, or None; with ``numbers`` also numbers and Roman numerals, in C."""
    text = token.strip("*~!?,;:").rstrip(_HELD).strip()
    if text.startswith("(") and text.endswith(")"):
        text = text[1:-1]
    text = text.rstrip("…").replace("’", "").rstrip("'")
    if not text or len(text) > 24:
        return None
    if text.upper().replace(".", "") in ("NC", "N"):
        return NO_CHORD
    if text[0] in "ABCDEFG":
        try:
            return parse_chord(text)
        except ChordError:
            return None
    if text[0] == "H":  # B natural where German is written
        try:
            return parse_chord("B" + text[1:])
        except ChordError:
            return None
    return _numbered(text) if numbers else None


def _numbered(text: str) -> Chord | None:
    over, _, bass = text.partition("/")
    found = _ROMAN.match(over) or _NUMBER.match(over)
    if found is None:
        return None
    sign, name, rest = found.groups()
    steps = _NUMBERS.get(name, _ROMANS.get(name.lower(), 0))
    root = (steps + {"": 0, "b": -1, "♭": -1, "#": 1, "♯": 1}[sign]) % 12
    if name.islower() and not rest.startswith(("m", "°", "ø", "dim", "-")):
        rest = "m" + rest if not rest.startswith("o") else rest
    try:
        chord = parse_chord("C" + rest).transposed(root)
    except ChordError:
        return None
    if bass:
        low = _numbered(bass)
        if low is None or low.root is None:
            return None
        return chord.over(low.root)
    return chord


@dataclass
class _Section:
    name: str
    bars: list[tuple[tuple[Fraction, Chord], ...]] = field(default_factory=list)
    times: int = 1
    first: int = 0  # number of its first bar as written
    again: bool = False  # named again without chords: what it repeats was put in


def _is_name(line: str, barred: bool = False) -> str:
    """The section's name when a line is one, else "": ``[Verse 2]``, ``CHORUS:``, ``{start_of_chorus}``; where chords stand
    in bars, ``[A]`` is one too."""
    text = line.strip()
    made = re.match(r"^\{\s*(?:start_of_|so)(\w+)\s*(?::\s*(.*?))?\s*\}$", text, re.IGNORECASE)
    if made:
        words = {"v": "Verse", "c": "Chorus", "b": "Bridge"}
        return made.group(2) or words.get(made.group(1).lower(), made.group(1).replace("_", " ").title())
    text = _CLOCK.sub("", text)
    bare = _AT_END.sub("", text.strip("[](){}#*=-–—: ")).strip("[](){}#*=-–—: ")
    framed = text.startswith(("[", "(", "#", "=", "-")) or text.endswith(":")
    known = any(re.match(rf"^{re.escape(n)}\b", bare.lower()) for n in _NAMES)
    if not bare or len(bare) > 40 or "|" in text:
        return ""
    if known and (framed or len(bare.split()) <= 3):
        return bare
    if barred and text.startswith("[") and text.endswith("]") and text.count("[") == 1 and len(bare) <= 12:
        return bare
    if (
        framed
        and text.endswith((":", "]"))
        and read_chord(bare) is None
        and len(bare.split()) <= 4
        and text.count("[") <= 1
    ):
        return bare
    return ""


def _times(line: str) -> tuple[str, int]:
    found = _AT_END.search(line)
    if found and found.start() > 0:
        return line[: found.start()], int(found.group(1) or found.group(2))
    return line, 1


def _share(tokens: Sequence[Chord | None]) -> tuple[tuple[Fraction, Chord], ...]:
    """Chords and beats on which they go on, spread evenly over a bar."""
    return tuple((Fraction(i, len(tokens)), t) for i, t in enumerate(tokens) if t is not None)


def _bars_of(line: str, numbers: bool) -> tuple[list[tuple[tuple[Fraction, Chord], ...]], list[str]] | None:
    """The bars of a line that is divided by ``|``, and tokens that are no chords; None where it holds none."""
    text = line.replace("||", "|").replace("‖", "|").replace("𝄆", "|:").replace("𝄇", ":|")
    bars: list[tuple[tuple[Fraction, Chord], ...]] = []
    strange: list[str] = []
    open_at: int | None = None
    text, label = text[text.index("|") :], text[: text.index("|")]
    for part in text.split("|"):
        piece = part.strip()
        opens, closes = piece.startswith(":"), (piece.endswith(":") and len(piece) > 1) or (piece == ":" and bool(bars))
        piece = piece.strip(":").strip()
        if opens and piece:
            open_at = len(bars)
        again = _TIMES.match(piece)
        if again and bars:
            count = int(again.group(1) or again.group(2))
            whole = bars[open_at or 0 :]
            for _ in range(count - 1):
                bars += whole
            continue
        if not piece:
            continue
        tokens: list[Chord | None] = []
        twice = 1
        for token in _in_halves(piece.split()):
            count_here = _TIMES.match(token)
            if count_here:
                twice = min(32, int(count_here.group(1) or count_here.group(2)))
                continue
            if token in ("%", "𝄎"):
                if bars:
                    tokens = []
                    bars.append(bars[-1])
                break
            if token in (".", "/", "-", "–", "—", "_", "//", "///", "////"):
                tokens += [None] * max(1, token.count("/"))
                continue
            chord = read_chord(token, numbers)
            if chord is None:
                strange.append(token)
            else:
                tokens.append(chord)
        else:
            if tokens:
                bars += [_share(tokens)] * twice
            elif piece and not strange:
                bars.append(())
        if closes:
            bars += bars[open_at or 0 :]
            open_at = None
    if label.strip() and not _is_name(label + ":"):
        strange.insert(0, label.strip())
    return (bars, strange) if any(bars) else None


def _in_halves(tokens: list[str]) -> list[str]:
    """The tokens of a bar in half beats where a chord comes between beats, else as they are: ``G . .&C`` is ``G . . . . C``."""
    if not any(_AFTER_THE_BEAT in token for token in tokens):
        return tokens
    return [
        part or "."
        for token in tokens
        for part in (token.split(_AFTER_THE_BEAT, 1) if _AFTER_THE_BEAT in token else (token, "."))
    ]


def _row(line: str, numbers: bool) -> list[Chord] | None:
    """The chords of a line that holds nothing else, or None."""
    tokens = [t for t in re.split(r"[\s,]+|(?<=[^\s])–(?=[^\s])", line) if t]
    chords = [read_chord(t, numbers) for t in tokens if t not in ("-", "–", "—", "/", ".", "|", "→", "%")]
    known = [c for c in chords if c is not None]
    return known if known and len(known) == len(chords) else None


def read_text(text: str) -> HandedChart:
    """The chart of a text.

    Raises
    ------
    ChartError
        with a sentence where the text holds no chords.
    """
    lines = [line[:LONGEST_LINE].expandtabs() for line in text.replace("\r", "\n").split("\n")[:MOST_LINES]]
    numbers = _has_numbers(lines)
    in_bars = sum("|" in line for line in lines) >= 2
    sections = [_Section("")]
    fields: dict[str, str] = {}
    words: list[str] = []
    unread: list[str] = []
    barred: list[bool] = []
    for raw in lines:
        line = raw.strip()
        if not line or re.match(r"^\{\s*(end_of_|eo)\w+\s*\}$", line, re.IGNORECASE):
            continue
        found = _FIELD.match(line)
        if found:
            fields.setdefault(found.group(1).lower(), found.group(2))
            continue
        name = _is_name(line, in_bars)
        if name:
            sections.append(_Section(name, times=_times(line.strip("[](){}#*=: "))[1]))
            continue
        if "|" in line:
            rest, count = _times(line)
            lead = line[: line.index("|")].strip(" :[]")
            if lead and _is_name(lead + ":"):
                sections.append(_Section(lead))
            if count > 1:  # “:| x3” plays it three times in all
                rest = rest.replace("|:", "|").replace(":|", "|")
            bars = _bars_of(rest, numbers)
            if bars is not None:
                sections[-1].bars += bars[0] * min(count, 32)
                unread += [" ".join(bars[1])] if bars[1] else []
                barred.append(True)
                continue
        inside = _BRACKET.findall(line)
        chords = [read_chord(x, numbers) for x in inside]
        if inside and all(c is not None for c in chords):
            sections[-1].bars += [((Fraction(0), c),) for c in chords if c is not None]
            left = _BRACKET.sub("", line).strip()
            words += [left] if left else []
            barred.append(False)
            continue
        rest, count = _times(line)
        row = _row(rest, numbers)
        if row is not None:
            sections[-1].bars += [((Fraction(0), c),) for c in row] * min(count, 32)
            barred.append(False)
            continue
        (words if re.search(r"[^\W\d_]{2,}", line) else unread).append(line)
    return _chart(sections, fields, words, unread, barred.count(True) * 2 >= max(1, len(barred)) and any(barred))


def _has_numbers(lines: Sequence[str]) -> bool:
    """Whether chords are written as numbers or Roman numerals: none has a letter, and there are many."""
    letters = numbers = 0
    for line in lines:
        if _is_name(line) or _FIELD.match(line.strip()):
            continue
        for token in re.split(r"[\s|:,]+", line):
            if token and read_chord(token) not in (None, NO_CHORD):
                letters += 1
            elif token and _numbered(token) is not None and not _TIMES.match(token):
                numbers += 1
    return numbers >= 4 and numbers > 2 * letters


def _chart(
    sections: list[_Section], fields: dict[str, str], words: list[str], unread: list[str], barred: bool
) -> HandedChart:
    known: dict[str, _Section] = {}
    number = 1
    out: list[HandedBar] = []
    for section in sections:
        base = re.sub(r"\s*\d+$", "", section.name.lower()).strip()
        if not section.bars:
            before = known.get(section.name.lower()) or known.get(base)
            if before is None:
                continue
            section = replace(section, bars=before.bars, first=before.first, again=True)
        else:
            section.first = number
            number += len(section.bars)
            known[section.name.lower()] = known[base] = section
        for _ in range(min(section.times, 32)):
            for i, bar in enumerate(section.bars):
                out.append(HandedBar(bar, section.first + i, section.name, i == 0))
        if len(out) > MOST_BARS:
            raise ChartError(tr("This chart has more than {most_bars} bars.", most_bars=MOST_BARS))
    if not any(bar.chords for bar in out):
        raise ChartError(tr("No chords were found in this text."))
    capo = re.search(r"\d+", fields.get("capo", ""))
    return HandedChart(
        tuple(out),
        barred,
        fields.get("title") or fields.get("t") or fields.get("song") or "",
        fields.get("key", ""),
        min(12, int(capo.group())) if capo else 0,
        tuple(words),
        tuple(unread),
    )
