"""The order of a song in a line: ``Intro · Verse ×2 · Chorus · Verse · Chorus ×2 · End``."""

from __future__ import annotations

from dataclasses import dataclass

from ..song.model import Song


@dataclass(frozen=True)
class Step:
    """Sections of one name in a row."""

    name: str
    sections: tuple[int, ...]

    @property
    def text(self) -> str:
        return f"{self.name} ×{len(self.sections)}" if len(self.sections) > 1 else self.name


def order(song: Song) -> list[Step]:
    """The song's sections in order, those of one name in a row joined."""
    out: list[Step] = []
    for i, section in enumerate(song.sections):
        if out and out[-1].name == section.title:
            out[-1] = Step(section.title, (*out[-1].sections, i))
        else:
            out.append(Step(section.title, (i,)))
    return out


def order_text(song: Song, ascii_only: bool = False) -> str:
    """The order as one line; "" where there is only one section."""
    steps = order(song)
    if len(steps) < 2:
        return ""
    text = " · ".join(s.text for s in steps)
    return text.replace("·", "-").replace("×", "x") if ascii_only else text
