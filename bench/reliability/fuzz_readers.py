"""Feed everything the program reads with damaged, lying and absurd input.

Kinds: *audio* (mutated WAV, FLAC, Ogg, MP3, M4A, Opus, WebM, AIFF, MP4, made from short clips), *tricks* (playlists,
descriptions of streams, other files under the name of a recording, decompression bombs), *project* (mutated JSON, and
what is accepted goes through every writer), *journal* (unsaved work), *evidence* (the cache), *typed* (what users type),
*analyse* (odd sound through the whole analysis), *window* (what the readers accept, and mutated settings, in the real
window), and a sample through the command line.

A failure is: another exception than the program's own clear ones, more than ``--slow`` seconds, more than ``--memory``
MB, a crash, a network connection; on the command line another exit code than 0 or 3, or more than one sentence.

    fuzz_readers.py --app PYTHON --count 2000 --cli 100
"""

from __future__ import annotations

import contextlib
import http.server
import io
import json
import os
import random
import resource
import select
import shutil
import signal
import struct
import subprocess
import sys
import threading
import time
import traceback
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
import common

SHARES = {
    "audio": 0.46,
    "project": 0.28,
    "typed": 0.12,
    "journal": 0.04,
    "evidence": 0.05,
    "analyse": 0.02,
    "window": 0.03,
}
FORMATS = {
    "wav": ("a.wav", ["-c:a", "pcm_s16le"]),
    "wav24": ("b.wav", ["-c:a", "pcm_s24le"]),
    "wavf": ("c.wav", ["-c:a", "pcm_f32le"]),
    "wav8": ("d.wav", ["-c:a", "pcm_u8", "-ac", "1"]),
    "adpcm": ("e.wav", ["-c:a", "adpcm_ms"]),
    "flac": ("a.flac", []),
    "ogg": ("a.ogg", ["-c:a", "libvorbis"]),
    "mp3": ("a.mp3", ["-c:a", "libmp3lame", "-b:a", "96k"]),
    "m4a": ("a.m4a", ["-c:a", "aac"]),
    "opus": ("a.opus", ["-c:a", "libopus"]),
    "webm": ("a.webm", ["-c:a", "libopus"]),
    "aiff": ("a.aiff", []),
    "mka": ("a.mka", ["-c:a", "libvorbis"]),
    "aac": ("a.aac", ["-c:a", "aac"]),
}


# ------------------------------------------------------------ mutations of bytes


def mutate_bytes(data: bytes, rng: random.Random) -> bytes:
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 4))):
        if not out:
            break
        kind = rng.randrange(9)
        at = rng.randrange(min(len(out), rng.choice((64, 512, len(out)))))
        if kind == 0:
            del out[rng.choice((0, 1, 4, 11, 12, 20, 36, 44, 45, at, len(out) - at)) :]
        elif kind == 1:
            for _ in range(rng.choice((1, 4, 40, 400))):
                where = rng.randrange(len(out))
                out[where] ^= 1 << rng.randrange(8)
        elif kind == 2:
            for _ in range(rng.choice((1, 3, 9))):
                where = rng.randrange(min(len(out), 200))
                out[where] = rng.choice((0, 255, 127, 128, rng.randrange(256)))
        elif kind == 3:
            size = rng.choice((1, 7, 64, 4096))
            out[at : at + size] = bytes(len(out[at : at + size]))
        elif kind == 4:
            out[at:at] = rng.randbytes(rng.choice((1, 3, 100, 5000)))
        elif kind == 5:
            size = rng.choice((1, 5, 100, 5000))
            del out[at : at + size]
        elif kind == 6:
            other = rng.randrange(len(out))
            out[at:at] = bytes(out[other : other + rng.choice((16, 1000, 20000))])
        elif kind == 7:  # a number in the header becomes extreme
            size = rng.choice((2, 4, 8))
            value = rng.choice((0, 1, (1 << 8 * size) - 1, 1 << (8 * size - 1), rng.randrange(1 << 8 * size)))
            where = rng.randrange(max(1, min(len(out), 120) - size))
            out[where : where + size] = value.to_bytes(size, rng.choice(("little", "big")))
        else:
            out += bytes(out) if rng.random() < 0.5 else rng.randbytes(2000)
    return bytes(out)


def wav(rng: random.Random, seconds: float = 0.3) -> bytes:
    """A WAV file whose header lies."""
    rate = rng.choice((0, 1, 2, 7, 50, 999, 8000, 44100, 192000, 768000, 10**7, 2**31 - 1, 2**31, 2**32 - 1))
    channels = rng.choice((0, 1, 2, 3, 6, 8, 33, 255, 1024, 1025, 32767, 65535))
    bits = rng.choice((0, 1, 4, 7, 8, 12, 16, 24, 32, 33, 64, 255, 65535))
    tag = rng.choice((0, 1, 1, 1, 2, 3, 3, 6, 7, 0x11, 0x31, 0x50, 0x55, 0xFFFE, rng.randrange(65536)))
    size = rng.choice((0, 1, 100, 26460))
    if tag == 3 and bits in (32, 64):
        code = "<f" if bits == 32 else "<d"
        values = (float("nan"), float("inf"), float("-inf"), 1e30, -1e30, 1e-40, 0.5, 3.4e38)
        body = b"".join(struct.pack(code, rng.choice(values)) for _ in range(size // 4))
    else:
        body = rng.randbytes(size)
    align = rng.choice((0, max(0, channels * bits // 8) & 0xFFFF, 1, 65535))
    declared = rng.choice((len(body), len(body), 0, 0xFFFFFFFF, 0x7FFFFFFF, len(body) + 1, 4))
    fmt = struct.pack("<HHIIHH", tag, channels, rate, rng.choice((rate * align & 0xFFFFFFFF, 0)), align, bits)
    if tag == 0xFFFE:
        fmt += (
            struct.pack("<HHI", 22, bits, 0xFFFFFFFF)
            + struct.pack("<H", 1)
            + bytes.fromhex("000000001000800000aa00389b71")
        )
    chunks = b"fmt " + struct.pack("<I", rng.choice((len(fmt), len(fmt), 0, 0xFFFFFFFF))) + fmt
    if rng.random() < 0.2:
        chunks += b"LIST" + struct.pack("<I", rng.choice((4, 0xFFFFFFF0))) + b"INFO"
    chunks += b"data" + struct.pack("<I", declared) + body
    name = rng.choice((b"RIFF", b"RIFF", b"RIFF", b"RIFX", b"RF64", b"FORM"))
    return name + struct.pack("<I", rng.choice((len(chunks) + 4, 0, 0xFFFFFFFF))) + b"WAVE" + chunks


def ogg_crc(page: bytes) -> int:
    crc = 0
    for byte in page:
        crc ^= byte << 24
        for _ in range(8):
            crc = (crc << 1 ^ 0x04C11DB7) & 0xFFFFFFFF if crc & 0x80000000 else crc << 1 & 0xFFFFFFFF
    return crc


def lying_ogg(data: bytes, rng: random.Random) -> bytes:
    """A page's header or first packet lies, with a right checksum."""
    starts = []
    at = data.find(b"OggS")
    while at >= 0:
        starts.append(at)
        at = data.find(b"OggS", at + 4)
    starts.append(len(data))
    index = rng.choice((0, 0, 1, len(starts) - 2, rng.randrange(len(starts) - 1)))
    page = bytearray(data[starts[index] : starts[index + 1]])
    kind = rng.choice(("sheet", "ground", "key", "form"))
    if kind == 0:
        page[6:14] = rng.choice((b"\xff" * 8, b"\xff" * 7 + b"\x7f", b"\0" * 8, rng.randbytes(8)))
    elif kind == 1:
        page[5] = rng.randrange(8)
    else:
        for _ in range(rng.choice((1, 2, 6))):
            where = rng.randrange(min(27, len(page) - 1), len(page))
            page[where] = rng.choice((0, 255, rng.randrange(256)))
    page[22:26] = bytes(4)
    page[22:26] = ogg_crc(bytes(page)).to_bytes(4, "little")
    return data[: starts[index]] + bytes(page) + data[starts[index + 1] :]


def lying_flac(data: bytes, rng: random.Random) -> bytes:
    """STREAMINFO lies: rate, channels, bits, number of samples."""
    out = bytearray(data)
    rate = rng.choice((0, 1, 44100, 655350, 2**20 - 1))
    total = rng.choice((0, 1, 2**36 - 1, 2**35, 10**9))
    packed = rate << 44 | rng.randrange(8) << 41 | rng.randrange(32) << 36 | total
    out[18:26] = packed.to_bytes(8, "big")
    if rng.random() < 0.3:
        out[8:12] = rng.randbytes(4)
    return bytes(out)


def lying_mp4(data: bytes, rng: random.Random) -> bytes:
    """Sizes, counts and time scales of some boxes lie."""
    out = bytearray(data)
    names = (b"mdhd", b"stsz", b"stco", b"stsc", b"stts", b"mvhd", b"tkhd", b"mp4a", b"esds", b"moov", b"trak", b"stsd")
    for _ in range(rng.choice((1, 2, 3))):
        at = out.find(rng.choice(names))
        if at < 4:
            continue
        where = at + rng.choice((-4, 8, 12, 16, 20, 24, 28))
        value = rng.choice((0, 1, 0xFFFFFFFF, 0x7FFFFFFF, rng.randrange(1 << 32)))
        out[where : where + 4] = value.to_bytes(4, "big")
    return bytes(out)


def audio_case(i: int, rng: random.Random, seeds: Path, where: Path) -> tuple[Path, str]:
    kind = rng.choice([*FORMATS, "lies", "lies"])
    if kind == "lies":
        path = where / f"{i}.wav"
        path.write_bytes(wav(rng))
        return path, "wav that lies"
    name = FORMATS[kind][0]
    source = seeds / name
    if not source.exists():
        source, name = seeds / "a.wav", "a.wav"
    data = source.read_bytes()
    suffix = Path(name).suffix
    special = {"ogg": lying_ogg, "opus": lying_ogg, "flac": lying_flac, "m4a": lying_mp4}.get(kind)
    if special is not None and rng.random() < 0.4:
        data, words = special(data, rng), f"{kind} that lies"
    else:
        data, words = mutate_bytes(data, rng), f"mutated {kind}"
    if rng.random() < 0.05:
        suffix = rng.choice((".wav", ".mp3", ".flac", "", ".ogg", ".txt", ".m4a"))
    path = where / f"{i}{suffix}"
    path.write_bytes(data)
    return path, words


def tricks(seeds: Path, where: Path, port: int) -> list[tuple[str, bytes | str]]:
    """Files that are something else, or point elsewhere."""
    web = f"http://127.0.0.1:{port}/x.ts"
    clip = seeds / "a.m4a"
    return [
        ("list.m3u8", f"#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n{web}\n#EXT-X-ENDLIST\n"),
        ("live.m3u8", f"#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n{web}\n"),
        ("list.ogg", f"#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n{web}\n#EXT-X-ENDLIST\n"),
        ("local.m3u8", f"#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n{clip}\n#EXT-X-ENDLIST\n"),
        ("passwd.m3u8", "#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\nfile:///etc/passwd\n#EXT-X-ENDLIST\n"),
        ("zero.m3u8", "#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\nfile:///dev/zero\n#EXT-X-ENDLIST\n"),
        ("m.m3u", f"#EXTM3U\n#EXTINF:5,tape\n{web}\n"),
        ("s.pls", f"[playlist]\nFile1={web}\nNumberOfEntries=1\n"),
        ("c.ffconcat", f"ffconcat version 1.0\nfile '{clip}'\n"),
        ("c.wav", "ffconcat version 1.0\nfile '/dev/zero'\n"),
        ("c2.mp3", f"ffconcat version 1.0\nfile '{web}'\n"),
        ("s.sdp", "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=tape\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio 5004 RTP/AVP 0\na=rtpmap:0 PCMU/8000\n"),
        ("s.ogg", "v=0\r\no=- 0 0 IN IP4 127.0.0.1\r\ns=tape\r\nc=IN IP4 127.0.0.1\r\nt=0 0\r\nm=audio 5006 RTP/AVP 0\r\n"),
        ("d.mpd", f'<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static" mediaPresentationDuration="PT5S" profiles="urn:mpeg:dash:profile:isoff-live:2011"><Period><AdaptationSet mimeType="audio/mp4"><Representation id="1" bandwidth="1"><BaseURL>{web}</BaseURL><SegmentList duration="5"><SegmentURL media="{web}"/></SegmentList></Representation></AdaptationSet></Period></MPD>'),
        ("r.txt", "rtsp://127.0.0.1:9/x\n"), ("r.wav", "rtsptext\nrtsp://127.0.0.1:9/x\n"),
        ("x.xspf", f"<playlist><trackList><track><location>{web}</location></track></trackList></playlist>"),
        ("p.png", b"\x89PNG\r\n\x1a\n" + os.urandom(400)), ("p.gif", b"GIF89a" + os.urandom(400)),
        ("p.jpg", b"\xff\xd8\xff\xe0" + os.urandom(400)), ("z.wav", b"PK\x03\x04" + os.urandom(400)),
        ("e.ogg", b"\x7fELF" + os.urandom(4000)), ("t.mp3", "Dear station,\n" * 400), ("n.mp3", b"\n" * 4000),
        ("zeros.mp3", bytes(200000)), ("ff.mp3", b"\xff\xfb" * 50000), ("ff.aac", b"\xff\xf1" * 50000),
        ("sub.srt", "1\n00:00:01,000 --> 00:00:02,000\nhello\n"), ("raw.raw", os.urandom(50000)),
        ("id3.mp3", b"ID3\x04\x00\x00\x7f\x7f\x7f\x7f" + os.urandom(3000)),
        ("id3deep.mp3", b"ID3\x04\x00\x00\x00\x0f\x00\x00" * 3000), ("e.xm", b"Extended Module: " + os.urandom(4000)),
        ("m.mid", b"MThd\0\0\0\x06\0\0\0\x01\0\x60MTrk\0\0\0\x04\0\xff\x2f\0"), ("p.ychronos.ogg", "{}"),
        ("svx.iff", b"FORM\0\0\0\x408SVXVHDR" + os.urandom(60)), ("a.w64", b"riff" + os.urandom(400)),
        ("a.caf", b"caff\0\x01\0\0desc" + os.urandom(400)), ("a.au", b".snd" + struct.pack(">IIIII", 24, 0xFFFFFFFF, 3, 1, 1) + bytes(4000)),
        ("rate1.au", b".snd" + struct.pack(">IIIII", 24, 200000, 3, 1, 1) + os.urandom(200000)),
        ("rate1.wav", b"RIFF" + struct.pack("<I", 200036) + b"WAVEfmt " + struct.pack("<IHHIIHH", 16, 1, 1, 1, 2, 2, 16) + b"data" + struct.pack("<I", 200000) + os.urandom(200000)),
        ("rate50.wav", b"RIFF" + struct.pack("<I", 2000036) + b"WAVEfmt " + struct.pack("<IHHIIHH", 16, 1, 1, 50, 100, 2, 16) + b"data" + struct.pack("<I", 2000000) + os.urandom(2000000)),
        ("many.wav", b"RIFF" + struct.pack("<I", 2000036) + b"WAVEfmt " + struct.pack("<IHHIIHH", 16, 1, 1024, 44100, 44100 * 2048, 2048, 16) + b"data" + struct.pack("<I", 2048000) + os.urandom(2048000)),
    ]  # fmt: skip


# ------------------------------------------------------------ mutations of projects


STRINGS = (
    "",
    " ",
    "0",
    "-1",
    "1/0",
    "nan",
    "inf",
    "1e9",
    "1e400",
    "1e5000",
    "99999999999999999999/7",
    "1/99999999999999",
    "½",
    "1_0",
    "0x10",
    "A" * 5000,
    "\n\n",
    "\u202e",
    "\ud83e\udd98",
    "\0",
    "../../../etc/passwd",
    "/dev/zero",
    "C:maj",
    "N",
    "X",
    "C:maj(*1,*3,*5)",
    "H:min",
    "C:maj/b13",
    "Cb:locrian",
    "4/4",
    "0/4",
    "33/4",
    "4/3",
    "²/4",
    "１/４",
    "strummed",
    "names",
    "both",
    "1e-400",
    "3/7",
    "+5",
    "5 ",
    "7.25",
    "<b>x</b>",
    "%s%n",
    "{0}",
    "\\N{DIGIT ONE}",
)
NUMBERS: tuple[object, ...] = (
    0,
    -1,
    1,
    2,
    3,
    13,
    127,
    1000,
    65536,
    2**31,
    2**53 + 1,
    2**63,
    2**64,
    -(2**63),
    10**30,
    0.5,
    -0.0,
    1e-320,
    1e15,
    1e18,
    1e100,
    1e308,
    -1e308,
    1e-9,
    float("nan"),
    float("inf"),
    float("-inf"),
)
OTHER: tuple[object, ...] = (None, True, False, [], {}, [[]], [None], {"at": "0"}, "NaN")


def nodes(value: object, path: tuple = ()) -> list[tuple]:
    out = [path] if path else []
    if isinstance(value, dict):
        for k in value:
            out += nodes(value[k], (*path, k))
    elif isinstance(value, list):
        for k in list(range(min(len(value), 4))) + ([len(value) - 1] if len(value) > 4 else []):
            out += nodes(value[k], (*path, k))
    return out


def put(root: object, path: tuple, value: object) -> None:
    for k in path[:-1]:
        root = root[k]  # type: ignore[index]
    if value is put:
        del root[path[-1]]  # type: ignore[attr-defined]
    else:
        root[path[-1]] = value  # type: ignore[index]


def get(root: object, path: tuple) -> object:
    for k in path:
        root = root[k]  # type: ignore[index]
    return root


def mutate_json(document: dict, rng: random.Random) -> dict:
    out = json.loads(json.dumps(document))
    for _ in range(rng.choice((1, 1, 1, 2, 3))):
        path = rng.choice(nodes(out))
        old = get(out, path)
        kind = rng.randrange(10)
        if kind == 0:
            put(out, path, put)
        elif kind == 1 or isinstance(old, str):
            new: object = rng.choice(STRINGS) if rng.random() < 0.9 else rng.choice(NUMBERS)
            put(out, path, new)
        elif kind == 2:
            put(out, path, rng.choice(OTHER))
        elif isinstance(old, (int, float)):
            put(out, path, rng.choice((*NUMBERS, -old, old + 1, old * 1000)))
        elif isinstance(old, list) and old:
            new_list = list(old)
            act = rng.randrange(7)
            if act == 0:
                new_list = new_list[: rng.randrange(len(new_list))]
            elif act == 1:
                new_list.insert(rng.randrange(len(new_list)), rng.choice(new_list))
            elif act == 2:
                rng.shuffle(new_list)
            elif act == 3:
                new_list.reverse()
            elif act == 4:
                new_list = new_list * rng.choice((2, 50))
            elif act == 5:
                new_list = []
            else:
                new_list[rng.randrange(len(new_list))] = rng.choice((*OTHER, *NUMBERS))
            put(out, path, new_list)
        else:
            put(out, path, rng.choice((*OTHER, *NUMBERS, *STRINGS)))
    return out


def bent_project(document: dict, rng: random.Random) -> dict:
    """A project that is consistent but extreme: such that checks of form let it pass."""
    out = json.loads(json.dumps(document))
    kind = rng.randrange(14)
    beats = out["beats"]
    if kind == 0:
        out["tape_cents"] = rng.choice((1e6, -1e6, 1300000, 1e308, 4800))
    elif kind == 1:
        out["tuning_cents"] = rng.choice((1e6, -1e7, 1e308, 1200))
    elif kind == 2:
        factor = rng.choice((1e-12, 1e-5, 1e3, 1e9, 1e200))
        out["beats"] = [t * factor for t in beats]
    elif kind == 3:
        shift = rng.choice((-1e3, -1e9, 1e9, 1e300))
        out["beats"] = [t + shift for t in beats]
    elif kind == 4:
        out["recording"]["duration"] = rng.choice((0, -5, 1e-9, 1e12, 1e308))
    elif kind == 5:
        out["title"] = rng.choice(("", "\n", "A" * 100000, "\0", "\u202e\u0301" * 500, "<img src=x>", "/", "..", "a/b"))
    elif kind == 6:
        for s in out["sections"]:
            s["name"] = rng.choice(("", "V" * 20000, "\n\n", "\0", "\u0301"))
    elif kind == 7:
        for c in out["chords"][:40]:
            c["confidence"] = rng.choice((-1, 2, 1e308, 0))
            c["rivals"] = [{"chord": "C:maj", "probability": rng.choice((-1, 1e308, 5))}] * rng.choice((0, 1, 300))
    elif kind == 8:
        out["guitar"] = {
            "strings": [rng.choice((20, 90, 55)) for _ in range(rng.choice((4, 5, 7, 8, 12)))],
            "capo": rng.choice((0, 12, 7)),
            "show": rng.choice(("sounding", "shapes", "both")),
        }
    elif kind == 9:
        out["bars"] = [{"meter": "32/4", "beats": 1}] * (len(beats) - 1)
        out["stated_beats"], out["lead_in"] = [], rng.choice((0, len(beats) - 1))
        out["sections"] = out["sections"][:1]
    elif kind == 10:
        out["bars"] = [{"meter": "4/4", "beats": len(beats) - 1}]
        out["sections"], out["lead_in"] = out["sections"][:1], rng.choice((0, 1))
    elif kind == 11:
        fine = [f"{i}/{rng.choice((997, 64, 10**12))}" for i in range(0, 40)]
        chord = out["chords"][0]["chord"]
        from fractions import Fraction

        places = sorted({Fraction(f) for f in fine})
        out["chords"] = [{"at": str(p), "chord": chord, "again": True} for p in places if p < len(beats) - 1]
    elif kind == 12:
        out["marks"] = [
            {"at": rng.choice(("-5", "1e6", "0", "1/3")), "text": "x" * rng.choice((0, 10000))}
        ] * rng.choice((1, 500))
        out["checked"] = ["-1", "1e6", "1/7"]
    else:
        out["notation"] = rng.choice(("names", "signs", "letters", "numbers", "roman"))
        out["lead_in"] = len(out["bars"])
    return out


def project_case(i: int, rng: random.Random, seeds: Path, where: Path) -> tuple[Path, str]:
    source = seeds / rng.choice(("one.ychronos", "two.ychronos"))
    data = source.read_bytes()
    document = json.loads(data)
    kind = rng.random()
    if kind < 0.5:
        data, words = json.dumps(mutate_json(document, rng)).encode(), "mutated JSON"
    elif kind < 0.75:
        data, words = json.dumps(bent_project(document, rng)).encode(), "bent project"
    elif kind < 0.9:
        data, words = mutate_bytes(data, rng), "mutated bytes"
    else:
        pick = rng.randrange(12)
        words = f"odd text {pick}"
        text = data.decode()
        if pick == 0:
            data = b"\xef\xbb\xbf" + data
        elif pick == 1:
            data = text.encode("utf-16")
        elif pick == 2:
            data = text.replace('"schema": 3', '"schema": 3, "schema": 99').encode()
        elif pick == 3:
            data = text.replace('"title"', '"title": "other", "title"', 1).encode()
        elif pick == 4:
            data = (text.rstrip()[:-1] + ', "more": ' + "[" * 20000 + "]" * 20000 + "}").encode()
        elif pick == 5:
            data = (text.rstrip()[:-1] + ', "more": ' + '{"a":' * 5000 + "1" + "}" * 5000 + "}").encode()
        elif pick == 6:
            data = text.replace(
                '"schema": 3',
                f'"schema": {rng.choice(("0", "-1", "1", "2", "4", "1e3", "3.0", "99999999999999999999"))}',
            ).encode()
        elif pick == 7:
            data = data + data
        elif pick == 8:
            data = rng.choice(
                (b"[]", b"null", b"0", b'""', b"{", b"\0", b" " * 100000, b"[" * 100000, b'{"a":' * 100000)
            )
        elif pick == 9:
            data = text.replace(":", ": NaN,", 1).encode()
        elif pick == 10:
            data = text.replace('"beats": [', '"beats": [NaN, Infinity, ', 1).encode()
        else:
            data = text.replace('"0"', f'"1e{rng.choice((50, 3000, 100000, 3000000))}"', 1).encode()
    path = where / f"{i}.ychronos"
    path.write_bytes(data)
    return path, words


def big_projects(seeds: Path, where: Path) -> list[tuple[str, bytes]]:
    """About 50 MB each."""
    text = (seeds / "one.ychronos").read_text()
    document = json.loads(text)
    more = dict(document, log=[{"when": "2026-01-01T00:00:00", "what": "x" * 60}] * 500_000)
    title = dict(document, title="L" * 50_000_000)
    n = 400_000
    wide = dict(
        document,
        beats=[i * 0.25 for i in range(n + 1)],
        bars=[{"meter": "4/4", "beats": 4}] * (n // 4),
        chords=[{"at": str(i), "chord": "C:maj" if i % 2 else "G:maj"} for i in range(n)],
        sections=[{"at": "0", "name": "All"}],
        keys=document["keys"][:1],
        stated_beats=[],
        lead_in=0,
        marks=[],
        checked=[],
    )
    return [
        ("log.ychronos", json.dumps(more).encode()),
        ("title.ychronos", json.dumps(title).encode()),
        ("wide.ychronos", json.dumps(wide).encode()),
        ("deep.ychronos", b'{"a":' + b"[" * 25_000_000 + b"]" * 25_000_000 + b"}"),
        ("digits.ychronos", b'{"format": "ychronos-project", "schema": ' + b"9" * 50_000_000 + b"}"),
        ("fraction.ychronos", text.replace('"at": "0"', '"at": "1e40000000"', 1).encode()),
        ("spaces.ychronos", text.encode() + b" " * 50_000_000),
    ]


# ------------------------------------------------------------ the worker, in the program's Python


class Slow(Exception):
    """A case took too long."""


def worker(plan: dict) -> None:
    scratch = Path(plan["scratch"])
    seeds, where = scratch / "seeds", scratch / "cases"
    where.mkdir(exist_ok=True)
    limit = plan["limit_mb"] << 20
    resource.setrlimit(resource.RLIMIT_AS, (limit, limit))

    def late(*_: object) -> None:
        raise Slow

    # its own work counts, not what else the machine does; what waits is late in the end as well
    for number in (signal.SIGPROF, signal.SIGALRM):
        signal.signal(number, late)
    cases = plan["cases"]
    out = sys.stdout
    run = Cases(seeds, where, plan)
    for i in range(plan["first"], len(cases)):
        kind = cases[i]
        print(json.dumps({"begin": i, "kind": kind}), file=out, flush=True)
        rng = random.Random(plan["seed"] * 10_000_000 + i)
        common.reset_peak()
        start, spent, held = time.monotonic(), time.process_time(), common.memory()
        entry: dict[str, object] = {"end": i, "kind": kind}
        run.path, run.words = None, ""
        try:
            allowed = plan["slow"] * (40 if "hours" in kind else 4 if kind == "window" else 1)  # those are long
            signal.setitimer(signal.ITIMER_PROF, allowed)
            signal.setitimer(signal.ITIMER_REAL, 4 * allowed)
            try:
                entry["outcome"] = run.case(i, kind, rng)
            finally:
                signal.setitimer(signal.ITIMER_PROF, 0)
                signal.setitimer(signal.ITIMER_REAL, 0)
        except Slow as error:
            entry.update(outcome="bad", cause=f"slow: {common.cause_of(error)}")
        except MemoryError as error:
            entry.update(outcome="bad", cause=f"memory: {common.cause_of(error)}")
        except BaseException as error:
            entry.update(
                outcome="bad", cause=common.cause_of(error), text=str(error)[:200], trace=traceback.format_exc()[-1200:]
            )
        entry.update(
            seconds=round(time.monotonic() - start, 2),
            cpu=round(time.process_time() - spent, 2),
            mb=round(common.memory("self", "VmHWM") - held),
            path=str(run.path or ""),
            words=run.words,
        )
        if entry["outcome"] != "bad" and entry["mb"] > plan["memory"]:  # type: ignore[operator]
            entry.update(outcome="bad", cause=f"memory above the limit: {run.words}")
        print(json.dumps(entry), file=out, flush=True)
        if entry["outcome"] != "bad" and run.path is not None and run.path.parent == where:
            with contextlib.suppress(OSError):
                run.path.unlink()


class Cases:
    """Makes and runs one case of each kind."""

    def __init__(self, seeds: Path, where: Path, plan: dict) -> None:
        self.seeds, self.where, self.plan = seeds, where, plan
        self.path: Path | None = None
        self.words = ""
        self.window: object = None
        self.raised: list[str] = []

    def case(self, i: int, kind: str, rng: random.Random) -> str:
        base, _, name = kind.partition(":")
        return getattr(self, "do_" + base)(i, rng, name)

    # each returns "ok" or "refused", and lets what should not be fly

    def do_audio(self, i: int, rng: random.Random, _: str) -> str:
        self.path, self.words = audio_case(i, rng, self.seeds, self.where)
        return self.read(self.path)

    def do_trick(self, i: int, rng: random.Random, name: str) -> str:
        self.path = self.seeds.parent / "tricks" / name
        self.words = f"trick {name}"
        return self.read(self.path)

    def read(self, path: Path) -> str:
        from ychronos.audio import recording
        from ychronos.audio.decode import AudioError

        try:
            sound = recording.load(path)
        except AudioError as error:
            self.check_sentence(str(error))
            return "refused"
        assert sound.duration > 0 and sound.rate > 0 and sound.samples is not None and sound.samples.ndim == 2
        return "ok"

    @staticmethod
    def check_sentence(text: str) -> None:
        if not text.strip() or "Traceback" in text or "\n" in text.strip() or len(text) > 600:
            raise AssertionError(f"not one sentence: {text[:200]!r}")

    def do_project(self, i: int, rng: random.Random, _: str) -> str:
        self.path, self.words = project_case(i, rng, self.seeds, self.where)
        return self.read_project(self.path, i)

    def do_big(self, i: int, rng: random.Random, name: str) -> str:
        self.path, self.words = self.seeds.parent / "big" / name, f"big {name}"
        return self.read_project(self.path, 1, write=False)

    def read_project(self, path: Path, i: int, write: bool = True) -> str:
        from ychronos.formats import jams, pdfchart, project, textchart

        try:
            song = project.load(path)
        except project.ProjectError as error:
            self.check_sentence(str(error))
            return "refused"
        if write:
            self.words += ", accepted, then written"
            once = project.dumps(song)
            again = project.dumps(project.loads(once))
            assert once == again, "saved and read again it is another song"
            textchart.render(song, folded=bool(i % 2))
            json.loads(jams.dumps(song), parse_constant=lambda x: (_ for _ in ()).throw(ValueError(f"{x} in JAMS")))
            if i % 3 == 0:
                pdfchart.render(song, folded=bool(i % 2))
        return "ok"

    def do_typed(self, i: int, rng: random.Random, _: str) -> str:
        from ychronos.guitar.instrument import parse_strings
        from ychronos.theory.chord import parse_chord, parse_harte
        from ychronos.theory.key import parse_key
        from ychronos.theory.meter import parse_meter
        from ychronos.theory.notation import SCHOOLS, read

        pieces = (
            "C",
            "Bb",
            "F#",
            "m",
            "maj7",
            "7",
            "sus4",
            "/E",
            "dim",
            "°",
            "ø",
            "add9",
            "(",
            ")",
            "#11",
            "b9",
            "no3",
            "♭",
            "♯",
            "²",
            "１",
            "4/4",
            "6/8",
            "0/0",
            " major",
            " dorian",
            ":",
            "min",
            "\0",
            "\ud83e\udd98",
            "é",
            "-",
            "+",
            "4-",
            "IV",
            "vii",
            "omit",
            "alt",
            "N.C.",
            "H",
            "//",
            "69",
            "1e9",
            "99999999999",
            "x" * 300,
        )
        text = "".join(rng.choice(pieces) for _ in range(rng.randrange(0, 7)))
        self.words = repr(text)[:80]
        for function in (parse_chord, parse_harte, parse_key, parse_meter, parse_strings):
            try:
                made = function(text)
            except ValueError:
                continue
            if function is parse_chord and made.root is not None:
                assert parse_harte(made.harte()) == made, (
                    f"{text!r} is {made.harte()}, read again {parse_harte(made.harte())}"
                )
        key = parse_key("Eb major")
        for school in SCHOOLS:
            with contextlib.suppress(ValueError):
                read(text, key, school)
        return "ok"

    def do_journal(self, i: int, rng: random.Random, _: str) -> str:
        """Unsaved work that is damaged: it is listed or set aside, and nothing else happens."""
        from ychronos.session import journal
        from ychronos.session.keeping import Keeper

        folder = self.where / f"state-{i}"
        (folder / "unsaved").mkdir(parents=True)
        source, self.words = project_case(i, rng, self.seeds, self.where)
        head = {"boot": "", "process": 2**22 + 5, "started": "1", "title": "Lamps", "saved_as": "/x/y.ychronos",
                "recording": "/x/y.ogg", "mark": None, "when": "2026-01-01T00:00:00"}  # fmt: skip
        change = {
            "when": "2026-01-01T00:00:01",
            "said": "a mark",
            "put": {"title": "Other"},
            "splice": {"chords": [1, 1, []]},
        }
        if rng.random() < 0.5:
            self.words += ", odd values"
            target = rng.choice((head, change))
            target[rng.choice(list(target))] = rng.choice((*NUMBERS, *STRINGS, *OTHER))

        def line(text: bytes) -> bytes:
            import zlib

            return b"%08x %s\n" % (zlib.crc32(text), text)

        def plain(value: object) -> bytes:
            return json.dumps(value).encode("utf-8", "surrogatepass").replace(b"\n", b" ")

        song = source.read_bytes().replace(b"\n", b" ")
        data = line(plain(head)) + line(b'{"song": ' + song + b', "count": 2, "said": "a mark"}') + line(plain(change))
        if rng.random() < 0.4:
            self.words += ", mutated bytes"
            data = mutate_bytes(data, rng)
        (folder / "unsaved" / f"a{journal.SUFFIX}").write_bytes(data)
        source.unlink()
        try:
            found, aside = Keeper(folder).unfinished()
            assert len(found) + len(aside) <= 1
            for work in found:
                self.check_sentence(work.describe().replace("\n", " "))
                work.throw_away()
                work.take_back()
            return "ok" if found else "refused"
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def do_evidence(self, i: int, rng: random.Random, _: str) -> str:
        """Damaged entries of the cache: a damaged entry should count as none, or be usable."""
        import numpy as np

        from ychronos.analysis import evidence, pipeline
        from ychronos.audio import recording

        source = next((self.seeds / "evidence").glob("*.npz"))
        folder = self.where / f"cache-{i}"
        folder.mkdir()
        target = folder / source.name
        kind = rng.randrange(5)
        if kind < 2:
            self.words = "mutated bytes of an entry"
            target.write_bytes(mutate_bytes(source.read_bytes(), rng))
        else:
            with np.load(source) as data:
                values = {k: data[k] for k in data}
            key = rng.choice(list(values))
            old = values[key]
            bend = rng.randrange(6)
            self.words = f"{key} bent {bend}"
            if bend == 0:
                del values[key]
            elif bend == 1:
                values[key] = np.zeros(0, old.dtype)
            elif bend == 2:
                values[key] = old[: len(old) // 2] if old.ndim else np.zeros((3, 3))
            elif bend == 3:
                values[key] = np.full_like(old, np.nan) if old.dtype.kind == "f" else old * 0
            elif bend == 4:
                values[key] = old.T if old.ndim > 1 else old[None]
            else:
                values[key] = old.astype("U20") if old.size < 1000 else old.astype(np.float64) * 1e30
            np.savez(target, **values)
        try:
            got = evidence.cached(folder, source.name.split("-")[0].split(".")[0])
            if got is None:
                return "refused"
            if i % 2 == 0:  # and then it is used
                self.words += ", then used"
                sound = recording.load(self.seeds / "long.ogg", keep_samples=False)
                pipeline.analyse(sound, "x", cache=folder)
            return "ok"
        finally:
            shutil.rmtree(folder, ignore_errors=True)

    def do_analyse(self, i: int, rng: random.Random, _: str) -> str:
        """Odd sound through the whole analysis."""
        import numpy as np
        import soundfile

        from ychronos.analysis import pipeline
        from ychronos.analysis.evidence import AnalysisError
        from ychronos.audio import recording
        from ychronos.audio.decode import AudioError
        from ychronos.formats import jams, project, textchart

        rate = rng.choice((8000, 11025, 44100, 96000))
        seconds = rng.choice((4.9, 5.0, 5.1, 7, 9))
        n = int(rate * seconds)
        channels = rng.choice((1, 2, 3, 8))
        noise = np.random.default_rng(i)
        t = np.arange(n) / rate
        kind = rng.choice(
            ("noise", "dc", "sine", "clicks", "clip", "nan", "quiet", "impulse", "sweep", "square", "burst", "end")
        )
        data = {
            "noise": lambda: noise.normal(0, 0.3, n), "dc": lambda: np.full(n, 0.7), "sine": lambda: np.sin(t * 6.28 * 440),
            "clicks": lambda: (np.arange(n) % (rate // 2) < 20) * 0.9, "clip": lambda: np.sign(noise.normal(0, 1, n)) * 1.0,
            "nan": lambda: np.where(noise.random(n) < 0.5, np.nan, 0.3), "quiet": lambda: noise.normal(0, 3e-4, n),
            "impulse": lambda: (np.arange(n) == n // 2) * 1.0, "sweep": lambda: np.sin(2000 * t * t),
            "square": lambda: np.sign(np.sin(t * 6.28 * 55)) * 1e30, "burst": lambda: noise.normal(0, 0.3, n) * (t < 1),
            "end": lambda: noise.normal(0, 0.3, n) * (t > seconds - 0.2),
        }[kind]()  # fmt: skip
        self.words = f"{kind}, {seconds} s, {rate} Hz, {channels} channels"
        self.path = self.where / f"{i}.wav"
        soundfile.write(self.path, np.repeat(np.asarray(data, np.float64)[:, None], channels, 1), rate, "FLOAT")
        try:
            song, _ = pipeline.analyse(recording.load(self.path, keep_samples=False), "Odd", cache=None)
        except (AudioError, AnalysisError) as error:
            self.check_sentence(str(error))
            return "refused"
        project.loads(project.dumps(song))
        jams.dumps(song)
        textchart.render(song)
        return "ok"

    def do_window(self, i: int, rng: random.Random, _: str) -> str:
        """What the readers accept, and mutated settings, in the real window."""
        import acts
        from PySide6.QtCore import QtMsgType, qInstallMessageHandler

        from ychronos.app.settings import Settings
        from ychronos.formats import project

        if self.window is None:
            sys.excepthook = lambda kind, error, tb: self.raised.append(common.cause_of(error.with_traceback(tb)))
            threading.excepthook = lambda a: self.raised.append(f"thread: {common.cause_of(a.exc_value)}")  # type: ignore[arg-type]
            qInstallMessageHandler(
                lambda t, _, text: (
                    self.raised.append(f"Qt: {text}") if t in (QtMsgType.QtCriticalMsg, QtMsgType.QtFatalMsg) else None
                )
            )
            self.window = acts.make_window(Settings(self.where / "w.ini"))
        self.raised.clear()
        w = self.window
        errors = io.StringIO()
        pick = rng.random()
        if pick < 0.3:
            self.path = self.where / f"{i}.ini"
            text = self.seeds.joinpath("settings.ini").read_text()
            key = rng.choice([line.split("=")[0] for line in text.splitlines() if "=" in line])
            value = rng.choice(
                (
                    "",
                    "nan",
                    "inf",
                    "-1",
                    "1e400",
                    "99999999999999999999",
                    "@Invalid()",
                    "@ByteArray(\\0\\1)",
                    "@Variant(\\0\\0\\0)",
                    "true",
                    "@Size(0 0)",
                    "a, b, c",
                    "\\x0",
                    '"',
                    "@Rect(1 2)",
                    "usual",
                    "Ctrl+",
                    "Ctrl+Q Ctrl+Q",
                    "é",
                )
            )
            self.words = f"setting {key}={value}"
            text = "\n".join(f"{key}={value}" if line.startswith(key + "=") else line for line in text.splitlines())
            if rng.random() < 0.3:
                text, self.words = mutate_bytes(text.encode(), rng).decode("latin-1"), "mutated settings"
            self.path.write_text(text)
            with contextlib.redirect_stderr(errors):
                made = acts.make_window(Settings(self.path))
                made.show_view("sheet")
                made.close()
                made.deleteLater()
        else:
            if pick < 0.8:
                for tried in range(60):
                    r = random.Random(i * 1000 + tried)
                    self.path, self.words = project_case(i, r, self.seeds, self.where)
                    try:
                        project.load(self.path)
                    except project.ProjectError:
                        continue
                    if self.path.read_bytes() != (self.seeds / "one.ychronos").read_bytes():
                        break
            else:
                self.path, self.words = audio_case(i, rng, self.seeds, self.where)
            with contextlib.redirect_stderr(errors):
                acts.open_and_wait(w, self.path, 8)
                if w.session.song is not None:
                    for view in ("sheet", "ground", "key", "form"):
                        w.show_view(view)
                        acts.pause(5)
                        w.grab()
                    w.show_view("sheet")
                    w.sheet.set_stacked(True)
                    w.grab()
                    w.sheet.set_stacked(False)
                    acts.wander(w, rng)
                    w.grab()
                w.close_document()
                w.notice.hide()
                acts.pause(5)
        self.words += ", in the window"
        text = errors.getvalue()
        if "Traceback" in text and not self.raised:
            self.raised.append(f"printed: {text.strip().splitlines()[-1][:150]}")
        if self.raised:
            raise AssertionError(self.raised[0])
        return "ok"


# ------------------------------------------------------------ outside


def make_seeds(bench: common.Bench) -> None:
    seeds = bench.scratch / "seeds"
    seeds.mkdir(exist_ok=True)
    songs = bench.recordings()
    for name, options in FORMATS.values():
        common.clip(songs[0], seeds / name, 2.5, "-vn", *options)
    common.clip(songs[0], seeds / "long.ogg", 8)
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-f",
            "lavfi",
            "-i",
            "color=c=red:s=64x64:d=2",
            "-ss",
            "20",
            "-t",
            "2",
            "-i",
            str(songs[0]),
            "-shortest",
            str(seeds / "v.mp4"),
        ],
        capture_output=True,
    )
    for i, name in ((0, "one"), (min(1, len(songs) - 1), "two")):
        subprocess.run(
            [
                bench.args.app,
                "-m",
                "ychronos",
                "analyze",
                str(songs[i]),
                "-q",
                "--project",
                str(seeds / f"{name}.ychronos"),
            ],
            env=bench.env(),
            check=True,
            capture_output=True,
        )
        made = json.loads((seeds / f"{name}.ychronos").read_text())
        made["recording"].update(path="gone.ogg", absolute="")  # so that the window does not read it
        made["statements"] = [
            {"kind": "mark", "at": "4", "value": "here"}, {"kind": "mark", "at": "17/2", "value": ""},
            {"kind": "checked", "at": "4", "until": "8"}, {"kind": "chord", "at": "8", "until": "10", "value": "A:min7"},
            {"kind": "unsure", "at": "8", "value": "listen again"}, {"kind": "key", "at": "0", "until": "16", "value": "G major"},
            {"kind": "beat", "at": "5", "value": made["beats"][5]}, {"kind": "section", "at": "16"},
            {"kind": "music name", "at": "16", "value": "Verse"}, {"kind": "of a later program", "at": "1", "value": [1]},
        ]  # fmt: skip
        (seeds / f"{name}.ychronos").write_text(json.dumps(made, indent=1))
    cache = bench.scratch / "long-cache"
    subprocess.run(
        [bench.args.app, "-m", "ychronos", "analyze", str(seeds / "long.ogg"), "-q"],
        env=bench.env(YCHRONOS_CACHE=str(cache)),
        check=True,
        capture_output=True,
    )
    (seeds / "evidence").mkdir(exist_ok=True)
    for entry in (cache / "evidence").glob("*.npz"):
        shutil.copy(entry, seeds / "evidence")
    (seeds / "settings.ini").write_text(
        "[General]\nbars_in_row=4\nside=true\nlevel=70\ndark=false\nfolder=/tmp\nrecent=/tmp/a.ogg, /tmp/b.ogg\n"
        "geometry=@ByteArray(\\x1\\xd9\\xd0\\xcb\\0\\x3)\nremind_after=45\nfolded_charts=true\n\n[keys]\nplay=Space\nundo=usual\n"
    )


def serve() -> tuple[int, list[str]]:
    """A server that notes who asks: nobody should."""
    asked: list[str] = []

    class Handler(http.server.BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            asked.append(self.path)
            self.send_error(404)

        def log_message(self, *_: object) -> None:
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server.server_port, asked


def run_cases(bench: common.Bench, cases: list[str], asked: list[str]) -> list[dict]:
    args = bench.args
    done: list[dict] = []
    first, heard = 0, 0
    while first < len(cases):
        plan = {
            "scratch": str(bench.scratch),
            "cases": cases,
            "first": first,
            "seed": args.seed,
            "slow": args.slow,
            "memory": args.memory,
            "limit_mb": args.limit,
        }
        errors = open(bench.scratch / "worker-stderr.txt", "a")
        child = bench.child(
            __file__, "--role", "worker", "-", stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=errors
        )
        assert child.stdin is not None and child.stdout is not None
        child.stdin.write(json.dumps(plan).encode())
        child.stdin.close()
        at, rest, why = first - 1, b"", ""
        while True:
            patience = 180 if 0 <= at < len(cases) and "hours" in cases[at] else 20
            ready, _, _ = select.select([child.stdout], [], [], args.slow * patience)
            if not ready:
                why = "hang (could not be interrupted)"
                break
            data = os.read(child.stdout.fileno(), 1 << 16)
            if not data:
                break
            rest += data
            *whole, rest = rest.split(b"\n")
            for line in whole:
                try:
                    entry = json.loads(line)
                except json.JSONDecodeError:
                    continue
                if "begin" in entry:
                    at = entry["begin"]
                elif "end" in entry:
                    if len(asked) > heard:
                        heard = len(asked)
                        entry.update(outcome="bad", cause="it went to the network")
                    done.append(entry)
        common.stop(child)
        errors.close()
        if done and done[-1]["end"] == len(cases) - 1:
            break
        if not done or done[-1]["end"] < at:  # the case at which it ended
            signal_name = (
                f"signal {-child.returncode}"
                if child.returncode and child.returncode < 0
                else f"exit {child.returncode}"
            )
            saved = sorted((bench.scratch / "cases").glob(f"{at}.*"))
            done.append(
                {
                    "end": at,
                    "kind": cases[at],
                    "outcome": "bad",
                    "cause": f"{why or 'crash'}: {cases[at]}, {signal_name}",
                    "path": str(saved[0]) if saved else "",
                    "words": "",
                    "seconds": 0,
                    "mb": 0,
                }
            )
        first = max(at + 1, first + 1)
    return done


def command_line(bench: common.Bench, total: int) -> dict[str, int]:
    """A sample through the command line."""
    rng = random.Random(bench.args.seed + 99)
    seeds, where = bench.scratch / "seeds", bench.scratch / "cli"
    where.mkdir(exist_ok=True)
    counts: dict[str, int] = {}
    long = {}
    for name, options in FORMATS.values():
        target = where / f"long{name}"
        subprocess.run(
            ["ffmpeg", "-v", "error", "-y", "-i", str(seeds / "long.ogg"), *options, str(target)], capture_output=True
        )
        if target.exists():
            long[target.suffix] = target
    for i in range(total):
        if i % 5 < 3:
            suffix = rng.choice(list(long))
            path = where / f"{i}{suffix}"
            path.write_bytes(mutate_bytes(long[suffix].read_bytes(), rng) if rng.random() < 0.85 else wav(rng))
            words = [
                "analyze",
                str(path),
                "-q",
                "--no-cache",
                "--jams",
                str(where / "out.jams"),
                "--project",
                str(where / "out.ychronos"),
            ]
        else:
            path, _ = project_case(100_000 + i, rng, seeds, where)
            words = [
                "export",
                str(path),
                *rng.choice((["--text", "-"], ["--pdf", str(where / "o.pdf")], ["--jams", str(where / "o.jams")])),
            ]
        start = time.monotonic()
        child = bench.child("-m", "ychronos", *words, stdout=subprocess.PIPE, stderr=subprocess.PIPE)
        try:
            _, err = child.communicate(timeout=90)
        except subprocess.TimeoutExpired:
            common.stop(child)
            bench.fail("command line: more than 90 s", f"{path}")
            continue
        text = err.decode(errors="replace")
        code = child.returncode
        counts[str(code)] = counts.get(str(code), 0) + 1
        sentences = [line for line in text.splitlines() if line.strip()]
        bad = ""
        if "Traceback" in text:
            bad = f"command line: traceback {sentences[-1][:100]}"
        elif code not in (0, 3):
            bad = f"command line: exit code {code}"
        elif code == 3 and (len(sentences) != 1 or not sentences[0].startswith("ychronos: ")):
            bad = "command line: not one sentence"
        elif code == 0 and any(not s.startswith("ychronos: ") for s in sentences):
            bad = "command line: other words on stderr"
        if bad:
            bench.fail(bad, f"{' '.join(words[:2])}: {text.strip()[-160:]!r} ({time.monotonic() - start:.1f} s)")
        else:
            path.unlink(missing_ok=True)
    return counts


def main() -> int:
    p = common.parser("Feed the readers with damaged input.", count=2000)
    p.add_argument("--cli", type=int, default=100)
    p.add_argument("--slow", type=float, default=10.0, help="seconds a case may take")
    p.add_argument("--memory", type=int, default=1500, help="MB a case may take")
    p.add_argument("--limit", type=int, default=6000, help="MB of address space of the worker, to protect the machine")
    p.add_argument("--only", default="", help="only this kind")
    args = p.parse_args()
    bench = common.Bench(args, "fuzz")
    make_seeds(bench)
    port, asked = serve()
    extra: list[str] = []
    for folder, made in (
        ("tricks", tricks(bench.scratch / "seeds", bench.scratch, port)),
        ("big", big_projects(bench.scratch / "seeds", bench.scratch)),
    ):
        (bench.scratch / folder).mkdir(exist_ok=True)
        for name, data in made:
            (bench.scratch / folder / name).write_bytes(data.encode() if isinstance(data, str) else data)
            extra.append(f"{'trick' if folder == 'tricks' else 'big'}:{name}")
    for name, rate, layout in (("hours.flac", 44100, "stereo"), ("hours.mp3", 8000, "mono")):
        sound = f"anullsrc=r={rate}:cl={layout}"
        path = bench.scratch / "tricks" / name
        subprocess.run(
            ["ffmpeg", "-v", "error", "-y", "-f", "lavfi", "-i", sound, "-t", "10800", str(path)], capture_output=True
        )
        if path.exists():
            extra.append(f"trick:{name}")
    rng = random.Random(args.seed)
    rest = max(0, args.count - len(extra))
    cases = [k for k, share in SHARES.items() for _ in range(round(share * rest))]
    rng.shuffle(cases)
    cases.sort(key=lambda k: k == "window")  # the window last: it does not go from the worker again
    cases = extra + cases
    if args.only:
        cases = [c for c in cases if c.partition(":")[0] == args.only]
    done = run_cases(bench, cases, asked)
    kinds: dict[str, dict[str, int]] = {}
    for entry in done:
        tally = kinds.setdefault(entry["kind"].partition(":")[0], {})
        tally[entry["outcome"]] = tally.get(entry["outcome"], 0) + 1
        if entry["outcome"] == "bad":
            bench.fail(
                entry["cause"],
                f"{entry['kind']} {entry['end']}: {entry['words']}; {entry.get('text', '')} "
                f"[{entry['seconds']} s, {entry['mb']} MB] {entry['path']}",
            )
    codes = command_line(bench, args.cli) if args.cli else {}
    for kind, tally in sorted(kinds.items()):
        print(f"  {kind}: {sum(tally.values())} cases, " + ", ".join(f"{v} {k}" for k, v in sorted(tally.items())))
    slow = sorted(done, key=lambda e: -e["seconds"])[:5]
    heavy = sorted(done, key=lambda e: -e["mb"])[:5]
    print("  slowest: " + "; ".join(f"{e['words']} {e['seconds']} s" for e in slow))
    print("  largest: " + "; ".join(f"{e['words']} {e['mb']} MB" for e in heavy))
    bench.figures = {
        "kinds": kinds,
        "codes": codes,
        "network": asked,
        "slow": slow,
        "heavy": heavy,
        "bad": [e for e in done if e["outcome"] == "bad"],
    }
    bench.args.keep = bench.args.keep or bool(bench.failures)
    return bench.finish(
        f"{len(done)} cases, {sum(e['outcome'] == 'ok' for e in done)} read, "
        f"{sum(e['outcome'] == 'refused' for e in done)} refused; {sum(codes.values())} through the command line "
        f"(exit codes {codes}); {len(asked)} requests to the network"
    )


if __name__ == "__main__":
    if len(sys.argv) > 2 and sys.argv[1] == "--role":
        worker(json.loads(sys.stdin.read()))
    else:
        sys.exit(main())
