"""The strumming hand: figures of bars and sections."""

from __future__ import annotations

from ...chart.figured import picked
from ...song import edits
from ...song.alignment import same_material
from ...song.model import Song
from ...song.strumming import usual
from ...tongue import tr
from ..session import Session

KNOWN = ("D-dU-Udu", "DdDd", "D-du-udu", "Dudu", "b321b321", "bdbd", "D---d-u-D-u-d-u-")  # to begin with


def reaches(song: Song, session: Session) -> dict[str, list[int]]:
    """Which bars a figure may be for, in words."""
    s = session.selection
    section = song.section_of_bar(s.first)
    here = list(song.section_bars(section))
    every = [b for i in same_material(song, section) for b in song.section_bars(i)]
    name = song.sections[section].title
    out = (
        {tr("the {count} selected bars", count=s.last - s.first + 1): list(range(s.first, s.last + 1))}
        if s.last > s.first
        else {}
    )
    out[tr("this time of {name}", name=name)] = here
    if len(every) > len(here):
        out[tr("{name}, every time", name=name)] = every
    out[tr("bar {number} only", number=song.grid.number(s.first))] = [s.first]
    return out


def choices(song: Song, bar: int) -> list[str]:
    """Figures to choose from for a bar: its own, those of the song, some to begin with."""
    beats = song.grid.bars[bar].beats
    figures = [song.figure_of_bar(b) for b in range(len(song.grid.bars))]
    known = [figures[bar], usual(figures), *dict.fromkeys(figures), *(k for k in KNOWN if len(k) % beats == 0)]
    return list(dict.fromkeys(k for k in known if k)) or [""]


def state(session: Session, text: str, bars: list[int]) -> None:
    """State the figure of bars; nothing typed leaves them to what is heard."""
    if text.strip():
        session.edit(lambda s: edits.set_figure(s, bars, text))
    else:
        session.edit(lambda s: edits.forget_figure(s, bars))


def in_section(session: Session) -> None:
    """The figure of the caret's bar in its whole section, every time it comes."""
    song = session.song
    if song is None:
        return
    bar = session.selection.first
    text = song.figure_of_bar(bar)
    if not text:
        session.say(tr("No strokes are known in this bar"))
        return
    section = song.section_of_bar(bar)
    bars = [b for i in same_material(song, section) for b in song.section_bars(i)]
    session.edit(lambda s: edits.set_figure(s, bars, text))


def is_paired(session: Session) -> bool:
    """Whether two guitars play the strokes of the section at the caret."""
    song = session.song
    if song is None:
        return False
    bars = song.section_bars(song.section_index(session.selection.caret))
    return 2 * sum(song.paired_in(b) for b in bars) > len(bars)


def paired_or_not(session: Session) -> None:
    """Say that one guitar plays the strokes of the section at the caret, or that two do."""
    two = not is_paired(session)
    session.edit(lambda s: edits.state_paired(s, s.section_index(session.selection.caret), two))


def next_stroke(session: Session, bar: int, slot: int, slots: int) -> None:
    """Change one stroke of a bar."""
    session.edit(lambda s: edits.next_stroke(s, bar, slot, slots))


def from_line(session: Session) -> None:
    """The line of the selected bars as a way of picking their shapes, one figure a bar."""
    song, s = session.song, session.selection
    if song is None:
        return
    found = {b: text for b in range(s.first, s.last + 1) if (text := picked(song, b))}
    if not found:
        session.say(tr("The line here is no way of picking the shapes"))
        return

    def edit(before: Song) -> edits.Edited:
        made, words = before, ""
        for bar, text in found.items():
            made, words = edits.set_figure(made, [bar], text)
        return made, words if len(found) == 1 else tr("picked as in the line in {count} bars", count=len(found))

    session.edit(edit)


def forget(session: Session) -> None:
    """Leave the selected bars to what is heard."""
    s = session.selection
    session.edit(lambda song: edits.forget_figure(song, range(s.first, s.last + 1)))
