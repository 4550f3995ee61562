"""Make songs that somebody else's accompaniment styles play, with exact truth: for tests only, never for training.

    python bench/other_arranger.py --seed 8400 --count 24 --font /usr/share/sounds/sf2/TimGM6mb.sf2 --out FOLDER

Debian's program ``mma`` plays a made-up chord chart in one of the styles that come with it, ``fluidsynth`` sounds it with
a sound font. Who arranges and what sounds are both other than in all that our nets have learned from. Score the folder
with ``bench/accuracy.py --corpus FOLDER``. Needs packages ``mma``, ``fluidsynth`` and a font.
"""

from __future__ import annotations

import argparse
import json
import re
import subprocess
import tempfile
from pathlib import Path

import numpy as np
import soundfile as sf

STYLES = Path("/usr/share/mma/lib/stdlib")
RATE = 44100
NAMES = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
TEMPI = {  # what each style is made for, beats a minute
    "50srock": (100, 150), "8beat": (90, 140), "ballad": (60, 84), "basicrock": (96, 150), "bebop": (150, 220),
    "beguine": (96, 130), "boggiewoggie": (110, 170), "bigband": (110, 180), "bluegrass": (96, 130), "blues": (80, 130), "bossanova": (110, 150),
    "calypso": (90, 130), "chacha": (104, 130), "countryblues": (90, 130), "countryswing": (110, 160),
    "countrywaltz": (90, 130), "easyswing": (100, 150), "fastblues": (120, 170), "fastwaltz": (140, 190),
    "folk": (90, 130), "folkballad": (66, 96), "folkrock": (100, 140), "folkyjazz": (90, 140), "foxtrot": (110, 160),
    "guitarballad": (62, 90), "jazz-54": (130, 180), "jazzguitar": (100, 160), "jazzrock": (96, 140),
    "jazzwaltz": (120, 180), "lighttango": (104, 130), "mambo": (150, 200), "mellowjazz": (90, 130),
    "jive": (140, 190), "merengue": (110, 150), "modernjazz": (100, 160), "nitejazz": (80, 120), "pianoballad": (60, 88),
    "popballad": (62, 90), "rb": (76, 110), "rb-ballad": (60, 84), "rhumba": (96, 130), "rockballad": (64, 92),
    "rockwaltz": (90, 140), "samba": (90, 120), "ska": (110, 150), "slowblues": (56, 80), "slowcountry": (70, 100),
    "shuffleboggie": (100, 150), "slowjazz": (60, 90), "softrock": (84, 120), "son": (90, 130), "swing": (110, 190), "tango": (104, 130), "twist": (130, 170),
    "waltz": (100, 150), "westernswing": (120, 170),
}  # fmt: skip
JAZZ = {"bebop", "bigband", "bossanova", "easyswing", "folkyjazz", "foxtrot", "jazz-54", "jazzguitar", "jazzwaltz",
        "mellowjazz", "modernjazz", "nitejazz", "slowjazz", "swing", "samba", "beguine"}  # fmt: skip
BLUES = {"blues", "boggiewoggie", "countryblues", "fastblues", "jive", "shuffleboggie", "slowblues", "twist"}
MMA = {"maj": "", "min": "m", "7": "7", "maj7": "M7", "min7": "m7", "hdim7": "m7b5", "dim7": "dim7", "sus4": "sus4",
       "maj6": "6", "min6": "m6", "9": "9", "maj9": "M9", "min9": "m9"}  # fmt: skip
# Phrases of four bars: degrees in semitones above the tonic, quality, and what is in the bass where it is not the root
# (semitones above the tonic); a bar of two chords is a tuple of two
PLAIN = {
    "major": (
        ((0, "maj"), (7, "maj", 11), (9, "min"), (5, "maj")), ((0, "maj"), (5, "maj"), (0, "maj", 4), (7, "sus4")),
        ((9, "min"), (5, "maj"), ((0, "maj"), (0, "maj", 7)), (7, "maj")), ((5, "maj"), (5, "min"), (0, "maj"), (0, "maj")),
        ((0, "maj"), (0, "7", 10), (5, "maj", 9), (5, "min", 8)), ((2, "min7"), (7, "7"), (0, "maj"), (9, "min7")),
        ((0, "maj"), (4, "min7"), (5, "maj"), (7, "7")), ((10, "maj"), (5, "maj"), (0, "maj"), (0, "maj")),
        ((5, "maj"), (0, "maj", 4), (2, "min7"), ((0, "maj", 7), (7, "7"))), ((2, "7"), (2, "7"), (7, "7"), (7, "7")),
    ),
    "minor": (
        ((0, "min"), (8, "maj"), (3, "maj"), (10, "maj")), ((0, "min"), (0, "min", 10), (8, "maj"), (7, "7")),
        ((5, "min"), (0, "min"), (7, "7"), (0, "min")), ((0, "min"), (5, "min7"), (10, "7"), (3, "maj7")),
        ((8, "maj"), (10, "maj"), (0, "min"), (0, "min", 3)), ((0, "min"), (10, "maj"), (8, "maj"), (7, "sus4")),
    ),
}  # fmt: skip
RICH = {
    "major": (
        ((0, "maj7"), (9, "min7"), (2, "min7"), (7, "7")), ((2, "min7"), (7, "7"), (0, "maj7"), (0, "maj6")),
        ((4, "min7"), (9, "7"), (2, "min9"), (7, "9")), ((5, "maj7"), (5, "min6"), (4, "min7"), (9, "7")),
        ((0, "maj9"), (1, "dim7"), (2, "min7"), (7, "7")), ((6, "hdim7"), (5, "min6"), (0, "maj7", 4), (3, "dim7")),
        (((2, "min7"), (7, "7")), ((0, "maj7"), (9, "7")), ((2, "min7"), (7, "7")), (0, "maj6")),
        ((7, "min7"), (0, "7"), (5, "maj7"), (10, "9")),
    ),
    "minor": (
        ((0, "min7"), (5, "min7"), (2, "hdim7"), (7, "7")), ((2, "hdim7"), (7, "7"), (0, "min6"), (0, "min7")),
        ((5, "min7"), (10, "7"), (3, "maj7"), (8, "maj7")), ((0, "min"), (0, "min7", 10), (9, "hdim7"), (8, "maj7")),
    ),
}  # fmt: skip
# Degrees of twelve bars; the second is the first's in half of the songs
TWELVE = ((0, 5, 0, 0), (5, 5, 0, 0), (7, 5, 0, 7))
FORMS = ("iAABAe", "iABABCBe", "iAABBAe", "AABCABe", "iABABe", "AABAA")
LABELS = {"T": "verse", "i": "intro", "A": "verse", "B": "chorus", "C": "bridge", "e": "outro"}
BEATS = re.compile(r"^\s*Time\s+(\d+)", re.MULTILINE)
GROOVE = re.compile(r"^\s*DefGroove\s+(\S+)", re.MULTILINE)


def label(chord: tuple, tonic: int) -> str:
    """A chord of the tables as JAMS has it."""
    degree, quality, *bass = chord
    over = "" if not bass else "/" + {3: "b3", 4: "3", 7: "5", 10: "b7"}[(bass[0] - degree) % 12]
    return f"{NAMES[(tonic + degree) % 12]}:{quality}{over}"


def played(chord: tuple, tonic: int) -> str:
    """The same for the accompaniment program."""
    degree, quality, *bass = chord
    return NAMES[(tonic + degree) % 12] + MMA[quality] + ("/" + NAMES[(tonic + bass[0]) % 12] if bass else "")


def compose(seed: int, styles: list[str]) -> dict:
    """Style, tempo and all bars of one song."""
    rng = np.random.default_rng(seed)
    style = str(rng.choice(styles))
    text = (STYLES / f"{style}.mma").read_text(errors="replace")
    beats = int((BEATS.findall(text) or ["4"])[0])
    grooves = [g for g in GROOVE.findall(text) if not re.search(r"Intro|End|Fill|Drum|Metro", g)]
    mode = "major" if rng.random() < 0.65 else "minor"
    tonic = int(rng.integers(12))
    phrases = (RICH if style in JAZZ else PLAIN)[mode]
    form = str(rng.choice(FORMS))
    length = {"i": 4, "e": 4, "A": 8 if "AABA" in form else int(rng.choice([8, 16])), "B": 8, "C": 8}
    parts, order = {}, rng.permutation(len(phrases)).tolist() * 2
    for n, letter in enumerate("ABC"):  # other phrases in each, as far as there are enough
        parts[letter] = [phrases[k] for k in order[2 * n : 2 * n + 2]] * (length[letter] // 8)
    parts |= {"i": parts["A"][:1], "e": parts["B"][:1]}
    if style in BLUES and rng.random() < 0.7:
        form, mode = "TTTTT", "major"
        quality, quick = str(rng.choice(["7", "7", "maj"])), rng.random() < 0.5
        parts = {"T": [tuple((d if quick or i else 0, quality) for i, d in enumerate(four)) for four in TWELVE]}
    where = {letter: str(rng.choice(grooves[: max(1, len(grooves) // 2 + 1)])) for letter in sorted(set(form))}
    end = ((0, "maj6" if style in JAZZ else "maj") if mode == "major" else (0, "min"),)
    bars = [
        (letter, i == j == 0, bar)
        for letter in form
        for j, four in enumerate(parts[letter])
        for i, bar in enumerate(four)
    ]
    bars.append((form[-1], False, end[0]))
    return {
        "style": style, "tempo": int(rng.integers(*TEMPI[style])), "beats": beats, "tonic": tonic, "mode": mode,
        "bars": bars, "grooves": where, "title": f"Tape {seed}",
    }  # fmt: skip


def chords_of(bar: tuple) -> tuple:
    """One or two chords of a bar."""
    return bar if isinstance(bar[0], tuple) else (bar,)


def chart(song: dict) -> str:
    """What the accompaniment program reads."""
    lines = [f"Tempo {song['tempo']}"]
    last = ""
    for letter, _, bar in song["bars"]:
        if song["grooves"][letter] != last:
            last = song["grooves"][letter]
            lines.append(f"Groove {last}")
        names = [played(c, song["tonic"]) for c in chords_of(bar)]
        half = (song["beats"] + 1) // 2
        lines.append(names[0] if len(names) == 1 else " ".join([names[0], *["/"] * (half - 1), names[1]]))
    return "\n".join(lines) + "\n"


def truth(song: dict, lead: float, duration: float) -> dict:
    """JAMS; times in s, the first beat at ``lead``."""
    beat, n = 60 / song["tempo"], song["beats"]
    chords, beats, sections = [(0.0, "N")] * (lead > 0), [], [(0.0, "silence")] * (lead > 0)
    for k, (letter, first, bar) in enumerate(song["bars"]):
        at = lead + k * n * beat
        if first:
            sections.append((at, LABELS[letter]))
        for chord, j in zip(chords_of(bar), (0, (n + 1) // 2), strict=False):
            chords.append((at + j * beat, label(chord, song["tonic"])))
        beats += [
            (at + j * beat, {"position": j + 1, "measure": k + 1, "num_beats": n, "beat_units": 4}) for j in range(n)
        ]
    end = lead + len(song["bars"]) * n * beat
    key = f"{NAMES[song['tonic']]}:{song['mode']}"

    def rows(spans: list, to: float) -> list:
        spans = [s for i, s in enumerate(spans) if not i or s[1] != spans[i - 1][1] or s[1] in LABELS.values()]
        ends = [*(t for t, _ in spans[1:]), to]
        return [
            {"time": t, "duration": e - t, "value": v, "confidence": None}
            for (t, v), e in zip(spans, ends, strict=True)
        ]

    data = {
        "chord_harte": rows([*chords, (end, "N")], duration),
        "segment_open": rows([*sections, (end, "silence")], duration),
        "key_mode": rows([(lead, key)], end),
        "tempo": [{"time": lead, "duration": end - lead, "value": song["tempo"], "confidence": None}],
        "beat_position": [{"time": t, "duration": 0.0, "value": v, "confidence": None} for t, v in beats],
    }
    notes = [{"namespace": k, "data": v, "annotation_metadata": {}, "sandbox": {}} for k, v in data.items()]
    meta = {"title": song["title"], "artist": "Another arranger", "duration": duration, "jams_version": "0.3.4"}
    return {
        "file_metadata": meta,
        "annotations": notes,
        "sandbox": {"tuning_cents": 0.0, "style": song["style"], **song["grooves"]},
    }


def midi_of(song: dict, folder: Path) -> Path:
    """The notes of a song as the accompaniment program plays them, written into a folder."""
    text, midi = folder / "a.mma", folder / "a.mid"
    text.write_text(chart(song))
    subprocess.run(["mma", str(text), "-f", str(midi)], check=True, capture_output=True)
    return midi


def make(seed: int, styles: list[str], font: str, out: Path, lead: float = 0.6) -> str:
    """Write NAME.ogg and NAME.jams; the name."""
    song = compose(seed, styles)
    name = f"{seed}_{song['style']}"
    with tempfile.TemporaryDirectory() as folder:
        midi, wave = midi_of(song, Path(folder)), Path(folder) / "a.wav"
        subprocess.run(
            ["fluidsynth", "-ni", "-q", "-g", "0.5", "-F", str(wave), "-r", str(RATE), font, str(midi)],
            check=True,
            capture_output=True,
        )
        sound, _ = sf.read(wave)
    sound = np.concatenate([np.zeros((int(lead * RATE), 2)), sound])
    end = lead + len(song["bars"]) * song["beats"] * 60 / song["tempo"]
    sound = sound[: int((end + 2) * RATE)]
    sound *= 0.9 / max(1e-6, float(np.abs(sound).max()))
    with sf.SoundFile(out / f"{name}.ogg", "w", RATE, 2, format="OGG", subtype="VORBIS") as file:
        for k in range(0, len(sound), RATE):  # at once, long ones crash the writer
            file.write(sound[k : k + RATE])
    (out / f"{name}.jams").write_text(json.dumps(truth(song, lead, len(sound) / RATE)))
    return name


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, required=True)
    parser.add_argument("--count", type=int, default=24)
    parser.add_argument("--font", default="/usr/share/sounds/sf2/TimGM6mb.sf2")
    parser.add_argument("--styles", nargs="+", default=sorted(TEMPI), choices=sorted(TEMPI), metavar="STYLE")
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        print(make(seed, args.styles, args.font, args.out), flush=True)


if __name__ == "__main__":
    main()
