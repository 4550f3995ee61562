"""Whether a sound file is whole, as far as its container tells.

A download that broke off decodes without an error in most formats; only the container knows how long it should have
been. Conventions: RIFF and AIFF carry the length of the whole and of the sound; the last page of an Ogg stream is marked
as its end (RFC 3533); an MP3 with a Xing or Info header carries its length in bytes.
"""

from __future__ import annotations

import struct
from pathlib import Path

from ..tongue import tr

TAIL = 1 << 17  # bytes in which the last Ogg page begins; a page has 65,307 at most
HEAD = 1 << 12
CHUNKS = 1000  # that are looked at before the sound
SPARE = 64  # bytes that may be missing at the end of a chunk without any sound being lost
UNFINISHED = (".part", ".partial", ".crdownload", ".download", ".tmp")


def missing(path: Path) -> str:
    """In words what shows that a file breaks off, or "" where nothing does. Unreadable files are none of its business."""
    try:
        size = path.stat().st_size
        with open(path, "rb") as file:
            head = file.read(HEAD)
            file.seek(max(0, size - TAIL))
            tail = file.read(TAIL)
    except OSError:
        return ""
    if path.suffix.lower() in UNFINISHED:
        return tr("its name says that it is still being downloaded")
    if head[:4] in (b"RIFF", b"FORM"):
        return _chunks(head, size, "<" if head[:4] == b"RIFF" else ">")
    if head[:4] == b"OggS":
        last = tail.rfind(b"OggS")
        if last < 0 or len(tail) < last + 6 or not tail[last + 5] & 4:
            return tr("the end of its stream is missing")
        return ""
    return _mpeg(head, size)


def overruns(path: Path) -> bool:
    """Whether a RIFF or AIFF file has a chunk before its sound that would be longer than the file: a library may make room for as much as it
    says. Raises OSError where it cannot be read."""
    size = path.stat().st_size
    with open(path, "rb") as file:
        kind = file.read(12)[:4]
        if kind not in (b"RIFF", b"FORM"):
            return False
        for _ in range(CHUNKS):
            head = file.read(8)
            if len(head) < 8 or head[:4] in (b"data", b"SSND"):
                return False
            length = struct.unpack("<I" if kind == b"RIFF" else ">I", head[4:])[0]
            if length > size - file.tell():
                return True
            file.seek(length + length % 2, 1)
    return False


def _chunks(head: bytes, size: int, order: str) -> str:
    """The length that a RIFF or AIFF file has for its sound, against what is there."""
    at = 12
    while at + 8 <= len(head):
        name, length = head[at : at + 4], struct.unpack(order + "I", head[at + 4 : at + 8])[0]
        if name in (b"data", b"SSND"):
            if length in (0, 0xFFFFFFFF, 0x7FFFFFFF) or length > 0xFFFFFF00:
                return ""  # written without knowing the length
            there = size - at - 8
            return (
                tr("{there:.0%} of the sound it promises is there", there=there / length)
                if there < length - SPARE
                else ""
            )
        at += 8 + length + length % 2
    return ""


def _mpeg(head: bytes, size: int) -> str:
    """The length in bytes of an MP3's Xing or Info header, against what is there."""
    for tag in (b"Xing", b"Info"):
        at = head.find(tag)
        if 0 < at < len(head) - 16:
            flags = struct.unpack(">I", head[at + 4 : at + 8])[0]
            place = at + 8 + (4 if flags & 1 else 0)
            if not flags & 2:
                return ""
            length = struct.unpack(">I", head[place : place + 4])[0]
            return (
                tr("{size:.0%} of the sound it promises is there", size=size / length)
                if 0 < size < 0.98 * length
                else ""
            )
    return ""
