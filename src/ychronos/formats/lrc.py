"""Timed words (LRC): one line of words with the time at which it begins, as ``[01:23.45]Low tide comes in``.

Times are those of the recording. Reading takes several times before one line (a refrain), an offset, and lines without a time,
which come back apart.
"""

from __future__ import annotations

import re

from ..song.model import Song

_TIME = re.compile(r"\[(\d{1,3}):(\d{1,2})(?:[.:](\d{1,3}))?\]")
_FIELD = re.compile(r"^\[([a-zA-Z]+):(.*)\]$")
MOST_LINES = 4000


def render(song: Song) -> bytes:
    """The words of a song with their times."""
    lines = [f"[ti:{_one_line(song.title)}]"]
    if song.artist:
        lines.append(f"[ar:{_one_line(song.artist)}]")
    for line in song.lyrics:
        minutes, seconds = divmod(round(max(0.0, song.grid.clock(line.at)) * 100), 6000)
        lines.append(f"[{minutes:02d}:{seconds // 100:02d}.{seconds % 100:02d}]{_one_line(line.text)}")
    return ("\n".join(lines) + "\n").encode()


def _one_line(text: str) -> str:
    return " ".join(text.replace("[", "(").replace("]", ")").split())


def read(text: str) -> tuple[list[tuple[float, str]], list[str]]:
    """(seconds, words) in order, and lines of words without a time."""
    timed: list[tuple[float, str]] = []
    plain: list[str] = []
    offset = 0.0
    for raw in text.splitlines()[:MOST_LINES]:
        line = raw.strip()
        field = _FIELD.match(line)
        if field is not None and not _TIME.match(line):
            if field.group(1).lower() == "offset" and re.fullmatch(r"[+-]?\d{1,7}", field.group(2).strip()):
                offset = int(field.group(2)) / 1000
            continue
        times = []
        while (found := _TIME.match(line)) is not None:
            part = found.group(3) or "0"
            times.append(60 * int(found.group(1)) + int(found.group(2)) + int(part) / 10 ** len(part))
            line = line[found.end() :].lstrip()
        words = re.sub(r"<\d+:\d+(?:[.:]\d+)?>", "", line).strip()
        if times and words:
            timed += [(max(0.0, t - offset), words) for t in times]
        elif words:
            plain.append(words)
    return sorted(timed, key=lambda x: x[0]), plain
