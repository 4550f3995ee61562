"""Fonts of printed pages: the shipped one, and for letters that it lacks whatever the system has."""

from __future__ import annotations

import io
import logging
import threading
from collections.abc import Iterator
from functools import lru_cache
from importlib import resources
from itertools import groupby
from pathlib import Path

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFError, TTFont

PLAIN, BOLD, ITALIC = "GentiumBookPlus", "GentiumBookPlus-Bold", "GentiumBookPlus-Italic"
MISSING = "\N{WHITE SQUARE}"  # stands for a letter that no font here has: an honest box rather than another letter
FOLDERS = (Path("/usr/share/fonts"), Path("/usr/local/share/fonts"), Path.home() / ".local/share/fonts")
MOST = 400  # font files that are looked at
LOG = logging.getLogger("ychronos.pages")
_KNOWN = threading.Event()
_ONE_AT_A_TIME = threading.Lock()  # the page on the screen and an export may both be the first to want the fonts


def register() -> None:
    """Make the shipped fonts known. Threads may ask at the same time; each goes on when all fonts are there."""
    if _KNOWN.is_set():
        return
    with _ONE_AT_A_TIME:
        known = pdfmetrics.getRegisteredFontNames()
        folder = resources.files("ychronos").joinpath("fonts")
        for name, file in ((PLAIN, "Regular"), (BOLD, "Bold"), (ITALIC, "Italic")):
            if name not in known:
                data = folder.joinpath(f"GentiumBookPlus-{file}.ttf").read_bytes()
                pdfmetrics.registerFont(TTFont(name, io.BytesIO(data)))
        _KNOWN.set()


def has(font: str, letter: str) -> bool:
    return ord(letter) in pdfmetrics.getFont(font).face.charToGlyph


@lru_cache(maxsize=1)
def _found() -> tuple[Path, ...]:
    """Font files of the system that can be embedded, those of many languages first."""
    paths: list[Path] = []
    for folder in FOLDERS:
        if folder.is_dir():
            paths += sorted([*folder.rglob("*.ttf"), *folder.rglob("*.ttc")])[:MOST]
    wide = ("unifont", "droidsansfallback", "noto", "dejavu", "wqy", "free")
    return tuple(sorted(paths, key=lambda p: next((i for i, w in enumerate(wide) if w in p.name.lower()), len(wide))))


@lru_cache(maxsize=4096)
def font_for(letter: str) -> str:
    """The name of a registered font that has a letter, "" for none."""
    for path in _found():
        name = f"found {path}"
        if name not in pdfmetrics.getRegisteredFontNames():
            try:
                pdfmetrics.registerFont(TTFont(name, str(path)))
            except (TTFError, OSError, ValueError, KeyError, IndexError, TypeError) as error:
                LOG.info("%s cannot be embedded: %s", path, error)
                continue
        if has(name, letter):
            return name
    return ""


def runs(text: str, font: str) -> Iterator[tuple[str, str]]:
    """A text in pieces (text, font) that can be written; letters that no font has become :data:`MISSING`."""
    register()
    if all(has(font, x) for x in text):
        yield text, font
        return
    placed = []
    for x in text:
        if has(font, x):
            placed.append((x, font))
        else:
            other = font_for(x)
            placed.append((x, other) if other else (MISSING if has(font, MISSING) else "?", font))
    for name, letters in groupby(placed, key=lambda p: p[1]):
        yield "".join(x for x, _ in letters), name


def width(text: str, font: str, size: float) -> float:
    """Points that a text takes."""
    return float(sum(pdfmetrics.stringWidth(piece, name, size) for piece, name in runs(text, font)))
