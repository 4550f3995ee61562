"""Names of sections: those that are usual are kept in English, whatever the reader's language, and said in it."""

from __future__ import annotations

from ..tongue import mark, tr

INSTRUMENTAL = mark("Instrumental")
USUAL = (
    mark("Intro"), mark("Verse"), mark("Pre-chorus"), mark("Chorus"), mark("Bridge"), mark("Break"), mark("Solo"),
    mark("Interlude"), INSTRUMENTAL, mark("Tag"), mark("Ending"), mark("Outro"),
)  # fmt: skip
SONG = mark("Song")  # of a song that is one section
PART = "Part "  # before the letter of a music that has no name


def said(name: str) -> str:
    """A section's name as it is read: ``Strophe`` of Verse in German; what somebody made up stays as it is."""
    if name in USUAL or name == SONG:
        return tr(name)
    if name.startswith(PART) and len(name) <= len(PART) + 3:
        return tr("Part {letter}", letter=name.removeprefix(PART))
    return name


def kept(text: str) -> str:
    """The name that is kept of one as it was typed or chosen."""
    typed = " ".join(text.split())
    return next((name for name in USUAL if typed in (name, tr(name))), typed)
