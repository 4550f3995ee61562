"""Harmony as bands write it: turns of phrase of several schools, each about a home.

The song maker draws chords one by one from the groups of a mode, so that home is only one chord of many. Here phrases are whole:
loops, cadences, turnarounds, twelve bars, two-fives and where they lead, chords over a line of the bass; sections stand in one
key or in another one that is near. Degrees are written as in ``ROMAN``; ``training/arranged.py`` makes songs of them, and
``fit_keys.py`` learns from them how a home is told.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from ychronos.analysis.keys.keyhabits import HOMING

STEPS = {"I": 0, "II": 2, "III": 4, "IV": 5, "V": 7, "VI": 9, "VII": 11}
ROMAN = re.compile(r"([b#]?)(VII|VI|IV|V|III|II|I|vii|vi|iv|v|iii|ii|i)(o7|o|0|\+|sus|5|7|)(?:/([b#]?[1-7]))?$")
"""A degree above the home: capitals major, small letters minor; o diminished, 0 half-diminished, 7 a dominant (of capitals) or
minor seventh, and a bass, counted from the chord's root as in a major scale."""
SCALE = (0, 2, 4, 5, 7, 9, 11)

# Bars are parted by |, chords in a bar by blanks; each phrase with how usual it is.
LOOPS = {
    "major": """I|V|vi|IV 5; vi|IV|I|V 1; I|vi|IV|V 4; I|IV|V|IV 3; I|IV|I|V 4; IV|I|V|vi 2; I|iii|IV|V 2; I|V|IV|IV 2; I|ii|IV|V 2;
        ii|IV|I|V 1; I|IV|vi|V 2; vi|V|IV|V 1; IV|V|I|vi 1; IV|V|iii|vi 1; I|V/3|vi|IV 2; I|V|ii|IV 1; I|iii|vi|IV 1;
        I|V/3|vi|I/5 1; IV|iv|I|I 1; I|III7|vi|IV 1; I|VI7|II7|V7 1; I|I|IV|V 3; I|I|V|V 1; IV|IV|I|I 1; I|IV|I V|I 2;
        I|V|IV|V 1; I IV|V|I IV|V 1; I V|vi IV|I V|IV 1; I|ii|iii|IV 1; I|I/3|IV|V 1; I|bVII|IV|I 1; I|IV/1|V/4|I 1; IV|V|vi|vi 1;
        I|vi|ii|V 2; I|IV|ii|V 1; vi|iii|IV|I 1; Vsus|V|I|I 1; I|IV|bVII|IV 1; I|Isus|I|V 1; IV|I/3|ii|V 1""",
    "minor": """i|bVI|bIII|bVII 4; i|bVII|bVI|bVII 3; i|bVII|bVI|V 3; i|iv|v|i 2; i|iv|V|i 2; i|bVI|iv|V 2; i|iv|bVII|bIII 2;
        bVI|bVII|i|i 2; i|v|bVI|bVII 1; i|bVI|bVII|i 2; iv|i|V7|i 2; i|bII|V|i 1; i|i|iv|V7 1; i|bIII|bVII|iv 1; i|iv|i|V7 2;
        i|i/b7|bVI|V 1; i|V/3|i/b7|IV/3 1; i|bVI|bIII|V 1; iv|bVII|bIII|bVI 1; i|bIII|iv|bVI 1; i|bVII|iv|i 1; i bVII|bVI V|i bVII|bVI V 1;
        bVI|bVI|i|i 1; i|ii0|V7|i 1; i|v|iv|i 1; i|i|bVI|bVII 1""",
    "dorian": "i|IV|i|IV 4; i|IV|i|bIII 1; i|IV|bIII|bVII 1; i|v|i|IV 1; i IV|i|i IV|bVII 1; i7|IV7|i7|bVII 1; bVII|i|IV|i 1; i|bVII|IV|i 2; i|IV|bVII|i 1; i|i|IV|IV 3; i|v|IV|i 1; i|bIII|IV|i 1; i|ii|bIII|IV 1; i7|IV7|i7|IV7 3",
    "mixolydian": "I|bVII|IV|I 4; I|bVII|v|IV 1; I|IV|I|bVII 2; I|ii|bVII|I 1; I|I|v|IV 1; bVII|IV|I|I 2; I bVII|IV|I bVII|IV 2; I|v|IV|I 1; I|bVII|I|bVII 3; I|IV|bVII|IV 1; I|I|bVII|IV 3; I|bVII|bVII|I 1; I|v|bVII|IV 1; I7|I7|bVII|I7 1",
    "lydian": "I|II|I|II 3; I|II|vii|I 1; I|I|II|II 2",
    "phrygian": "i|bII|i|bII 3; i|bII|bIII|bII 2; i|i|bII|i 1; i|bvii|bII|i 1",
}  # fmt: skip
CADENCES = {  # phrases that end at home, for last bars
    "major": "IV|V|I|I 4; ii|V7|I|I 3; IV|iv|I|I 1; V|IV|I|I 1; IV V|I|IV V|I 1; ii V|I|ii V|I 1; vi|V|I|I 1; bVII|IV|I|I 1",
    "minor": "iv|V7|i|i 4; bVI|bVII|i|i 3; ii0|V7|i|i 2; iv|i|V7|i 1; bVI|V7|i|i 1; bVII|bVI|V|i 1",
    "dorian": "bVII|IV|i|i 1; IV|IV|i|i 1", "mixolydian": "bVII|IV|I|I 1; v|IV|I|I 1; bVII|bVII|I|I 1",
    "lydian": "II|II|I|I 1", "phrygian": "bII|bII|i|i 1; bvii|bII|i|i 1",
}  # fmt: skip
SWUNG = {
    "major": """ii7|V7|I|I 3; I|vi7|ii7|V7 3; iii7|VI7|ii7|V7 2; I|#Io7|ii7|V7 1; I|I7|IV|iv 1; ii7|V7|iii7|VI7 1; IV|#IVo7|I|VI7 1;
        ii7|bII7|I|I 1; v7|I7|IV|IV 2; vi7|II7|ii7|V7 2; III7|VI7|II7|V7 1; I vi7|ii7 V7|I vi7|ii7 V7 2; iv7|bVII7|I|I 1; #iv0|VII7|iii7|VI7 1;
        iii7 bIIIo7|ii7 V7|I|I 1; I|IV7|iii7 VI7|ii7 V7 1; ii7 V7|I|ii7 V7|I 2; I|I|II7|II7 1; ii7|V7|I|vi7 2; I|IV|ii7|V7 2;
        i7|IV7|bVII|bVII 1; vii0|III7|vi7|II7 1""",
    "minor": """ii0|V7|i|i 4; i|bVI7|ii0|V7 2; i7|iv7|bVII7|bIII 2; iv7|i|ii0|V7 1; i|i|iv|iv 1; bVI|bVI|ii0|V7 1; i ii0|V7 i|i ii0|V7 i 1; iv7|bVII7|bIII|bVI 2;
        bVI7|V7|i|i 2; i|iv|i|V7 1; v0|I7|iv7|iv7 1""",
    "dorian": "i7|i7|i7|i7 2; i7|IV7|i7|IV7 2; i7|ii7|i7|ii7 1; i7|bVII|i7|bVII 1",
}  # fmt: skip
TWELVE = {
    "major": """I7|I7|I7|I7|IV7|IV7|I7|I7|V7|IV7|I7|I7 2; I7|IV7|I7|I7|IV7|IV7|I7|I7|V7|IV7|I7|V7 3; I|I|I|I7|IV|IV|I|I|V7|V7|I|I 1;
        I7|IV7|I7|I7|IV7|#IVo7|I7|VI7|ii7|V7|I7 VI7|ii7 V7 2""",
    "minor": "i7|iv7|i7|i7|iv7|iv7|i7|i7|bVI7|V7|i7|V7 2; i|i|i|i|iv|iv|i|i|V7|iv|i|i 1",
}  # fmt: skip
SCHOOLS = {"pop": 7, "swung": 4, "blues": 1}
NEAR = {  # other homes of a section: (semitones, mode)
    "major": [(9, "minor"), (9, "minor"), (9, "minor"), (5, "major"), (7, "major"), (3, "major"), (0, "minor"), (2, "major"), (8, "major"), (4, "minor")],
    "minor": [(3, "major"), (3, "major"), (3, "major"), (0, "major"), (5, "minor"), (7, "minor"), (8, "major")],
    "dorian": [(10, "major"), (0, "minor"), (2, "minor"), (5, "mixolydian")],
    "mixolydian": [(5, "major"), (0, "major"), (9, "minor")],
}  # fmt: skip
COLOURS = {
    "pop": {"maj": ["maj"] * 9 + ["maj(9)", "sus2", "maj7", "maj6"], "min": ["min"] * 7 + ["min7"] * 3 + ["min(9)"], "7": ["7"]},
    "swung": {"maj": ["maj7"] * 5 + ["maj6"] * 3 + ["maj6(9)", "maj9", "maj"], "min": ["min7"] * 5 + ["min6"] * 2 + ["min9", "min11", "min"],
              "min7": ["min7"] * 4 + ["min9"], "7": ["7"] * 5 + ["9", "9", "13", "7(b9)", "sus4(b7)"]},
}  # fmt: skip
SLASHES = {"maj": ["3", "3", "5", "5", "2", "7"], "min": ["b3", "b7", "b7", "5"], "7": ["3", "5", "b7"], "maj7": ["3", "5"], "min7": ["b7", "5", "b3"],
           "maj6": ["3", "5"]}  # fmt: skip
Bar = list[tuple[int, str, str]]
"""Chords of a bar: semitones above home, quality, and bass as a degree above the root or nothing."""


@dataclass(frozen=True)
class Passage:
    """Bars in one key: ``shift`` semitones above the song's home, ``mode``, and what is played."""

    shift: int
    mode: str
    bars: list[Bar]


def read_degree(text: str) -> tuple[int, str, str]:
    """(semitones above home, quality, bass degree or nothing) of a degree as it is written above."""
    found = ROMAN.match(text)
    if not found:
        raise ValueError(f"{text!r} is no degree.")
    sign, name, more, bass = found.groups()
    small = name[0] in "iv"
    step = STEPS[name.upper()] + {"b": -1, "#": 1, "": 0}[sign]
    quality = {
        "": "min" if small else "maj", "7": "min7" if small else "7", "o": "dim", "o7": "dim7", "0": "hdim7", "+": "aug",
        "sus": "sus4", "5": "5",
    }[more]  # fmt: skip
    return step % 12, quality, bass or ""


def phrases(text: str) -> tuple[list[list[Bar]], np.ndarray]:
    """Phrases as bars, and how usual each is, in all 1."""
    found, weight = [], []
    for part in text.split(";"):
        bars, usual = part.strip().rsplit(" ", 1)
        found.append([[read_degree(x) for x in bar.split()] for bar in bars.split("|")])
        weight.append(float(usual))
    return found, np.array(weight) / sum(weight)


class Writer:
    """Writes the passages of a song from a seeded stream."""

    def __init__(self, rng: np.random.Generator, school: str | None = None) -> None:
        self.rng = rng
        self.school = school or self.drawn(SCHOOLS)
        self.mode = self.drawn(
            {"major": 6, "minor": 4} if self.school == "blues"
            else {"major": 5, "minor": 4, "dorian": 1.4, "mixolydian": 1.4, "lydian": 0.2, "phrygian": 0.2}
        )  # fmt: skip
        self.colour = self.rng.uniform(0, 1)
        self.wandering = self.rng.random() < 0.3  # chord by chord, as tunes with many words go
        self.slashes = float(self.rng.choice([0.0, 0.0, 0.05, 0.12, 0.3]))

    def drawn(self, weights: dict[str, float]) -> str:
        w = np.array(list(weights.values()), float)
        return list(weights)[int(self.rng.choice(len(w), p=w / w.sum()))]

    def one_of(self, text: str) -> list[Bar]:
        found, usual = phrases(text)
        return found[int(self.rng.choice(len(found), p=usual))]

    def drawn_bars(self, mode: str) -> list[Bar]:
        """Four bars whose chords follow each other as is usual, home first or not."""
        usual = HOMING[mode]
        places = list(usual)
        out: list[Bar] = []
        now = (0, "m" if mode in ("minor", "dorian", "phrygian") else "M")
        if self.rng.random() < 0.4:
            now = places[int(self.rng.integers(len(places)))]
        for _ in range(4):
            bar = []
            for _ in range(1 + (self.rng.random() < 0.15)):
                bar.append((now[0], {"M": "maj", "m": "min", "d": "dim"}[now[1]], ""))
                fall = [(now[0] - p[0]) % 12 for p in places]
                weight = [
                    usual[p] * {0: 0.15, 7: 2.0, 5: 1.0, 10: 1.2, 2: 1.2}.get(f, 0.8)
                    for p, f in zip(places, fall, strict=True)
                ]
                now = places[int(self.rng.choice(len(places), p=np.array(weight) / sum(weight)))]
            out.append(bar)
        return out

    def passage(self, bars: int, shift: int = 0, mode: str | None = None, closes: float = 0.5) -> Passage:
        """About ``bars`` bars in a key; with a chance of ``closes`` they end at home."""
        mode = mode or self.mode
        swung = self.school == "swung" and mode in SWUNG
        out: list[Bar] = []
        if self.school == "blues" and mode in TWELVE and bars >= 8:
            out = list(self.one_of(TWELVE[mode]))
        else:
            store = SWUNG[mode] if swung else LOOPS[mode]
            loop = self.one_of(store)
            while len(out) < bars:
                if self.wandering and not swung:
                    out += self.drawn_bars(mode)
                else:
                    out += loop if self.rng.random() < (0.35 if swung else 0.75) else self.one_of(store)
            out = out[:bars]
            if self.rng.random() < closes and mode in CADENCES and bars >= 4:
                out[-4:] = self.one_of(CADENCES[mode])
            if len(out) >= 4 and self.rng.random() < 0.3:  # begins at home, whatever the loop
                out[0] = [(0, "maj" if mode in ("major", "mixolydian", "lydian") else "min", "")]
        dress: dict[tuple[int, str, str], tuple[int, str, str]] = {}  # the same chord is mostly played the same way
        return Passage(shift, mode, [[self._dressed(c, dress) for c in bar] for bar in out])

    def _dressed(self, chord: tuple[int, str, str], known: dict) -> tuple[int, str, str]:
        if chord in known and self.rng.random() < 0.85:
            return known[chord]
        step, quality, bass = chord
        if self.school == "swung" and (step, quality) == (7, "maj"):
            quality = "7"
        table = COLOURS["swung" if self.school == "swung" else "pop"]
        if quality in table and self.rng.random() < (0.9 if self.school == "swung" else 0.6 * self.colour):
            quality = table[quality][int(self.rng.integers(len(table[quality])))]
        if not bass and quality in SLASHES and self.rng.random() < self.slashes:
            bass = SLASHES[quality][int(self.rng.integers(len(SLASHES[quality])))]
        known[chord] = step, quality, bass
        return known[chord]

    def song(self) -> dict[str, Passage]:
        """Passages by the name of the section."""
        near = NEAR.get(self.mode, [(0, self.mode)])

        def elsewhere(chance: float) -> tuple[int, str]:
            return near[int(self.rng.integers(len(near)))] if self.rng.random() < chance else (0, self.mode)

        bars = [8, 8, 8, 4, 12, 16]
        made = {"verse": self.passage(bars[int(self.rng.integers(len(bars)))], closes=0.4)}
        made["intro"] = (
            Passage(0, self.mode, made["verse"].bars[:4]) if self.rng.random() < 0.6 else self.passage(4, closes=0.2)
        )
        made["chorus"] = self.passage(bars[int(self.rng.integers(4))], *elsewhere(0.15), closes=0.5)
        made["bridge"] = self.passage(8, *elsewhere(0.4), closes=0.15)
        made["ending"] = self.passage(4, closes=0.9)
        return made
