"""Specs of training songs: more varied than the plain generator's in harmony, rhythm, band and sound.

Starts from the song maker's ``random_spec`` and replaces what it draws from narrow lists: meters (also odd
and changing ones), tempo and drift, strums, grooves, bass lines, chord vocabulary, voicings, programs and
the recording chain. A seed gives one song. Seeds: training 20000.., validation 29000.. ; never the seeds
that reports use (9000..9299) nor the corpus.
"""

from __future__ import annotations

import numpy as np
from songmaker import randomsong, theory

METERS = {  # weight, range of main beats per minute, eighths in a bar
    "4/4": (40, (56, 205), 8),
    "3/4": (13, (72, 200), 6),
    "6/8": (11, (40, 100), 6),
    "12/8": (8, (44, 110), 12),
    "5/4": (6, (84, 190), 10),
    "7/8": (6, (190, 360), 7),
    "2/4": (5, (66, 160), 4),
    "9/8": (4, (46, 100), 9),
    "11/8": (2, (220, 340), 11),
    "7/4": (3, (100, 190), 14),
    "6/4": (2, (90, 170), 12),
}
GROUPS = {
    7: [(2, 2, 3), (3, 2, 2), (4, 3)],
    11: [(3, 3, 3, 2), (2, 2, 3, 2, 2), (4, 4, 3)],
    10: [(3, 3, 2, 2), (6, 4)],
    14: [(4, 4, 4, 2), (4, 3, 4, 3)],
}
PLAIN = {
    "maj": ["maj"] * 5 + ["maj(9)", "sus2", "maj6", "maj7", "sus4"],
    "min": ["min"] * 5 + ["min7", "min7", "min(9)"],
    "7": ["7"],
}
JAZZY = {
    "maj": ["maj7", "maj7", "maj6", "maj9", "maj", "maj6(9)"],
    "min": ["min7", "min7", "min9", "min6", "minmaj7", "min11", "min"],
    "7": ["7", "9", "13", "7(b9)", "7(#9)", "sus4(b7)", "aug(b7)", "7(#11)"],
}
ANY = [
    "maj",
    "maj",
    "maj",
    "min",
    "min",
    "min",
    "7",
    "maj7",
    "min7",
    "min7",
    "7",
    "maj7",
    "sus2",
    "sus4",
    "sus4",
    "sus4(b7)",
    "dim",
    "dim7",
    "hdim7",
    "hdim7",
    "aug",
    "maj6",
    "min6",
    "min6",
    "9",
    "maj9",
    "min9",
    "maj(9)",
    "min(9)",
    "13",
    "7(b9)",
    "minmaj7",
    "5",
    "11",
    "min11",
]
COLOURED = {  # songs in which hardly any chord is a plain triad
    "maj": ["maj6", "maj7", "maj(9)", "maj", "maj9", "maj6(9)", "sus2", "maj7", "maj6"],
    "min": ["min7", "min6", "min(9)", "min", "min11", "min9", "min7", "min6"],
    "7": ["7", "9", "sus4(b7)", "sus4(b7,9)", "13", "11", "7", "aug(b7)", "(1,3,b5,b7)"],
}
# Lines within or under a chord that stays: semitones above its root, and the quality with its bass.
LINES = {
    "maj": [
        [(0, "maj"), (0, "maj/7"), (9, "min"), (9, "min/b7"), (5, "maj"), (5, "maj/3")],
        [(0, "maj"), (7, "maj/5"), (0, "maj/3"), (5, "maj")],
        [(0, "maj"), (7, "maj/3"), (9, "min"), (9, "min7/b7"), (5, "maj")],
        [(0, "maj"), (0, "maj7"), (0, "7"), (0, "maj6")],
        [(0, "maj"), (0, "aug"), (0, "maj6"), (0, "7")],
        [(0, "sus4"), (0, "maj"), (0, "sus2"), (0, "maj")],
        [(0, "maj"), (1, "dim7"), (2, "min7"), (3, "dim7"), (0, "maj/3")],
        [(0, "maj/3"), (5, "maj"), (5, "min6"), (0, "maj/5")],
    ],
    "min": [
        [(0, "min"), (0, "minmaj7"), (0, "min7"), (0, "min6")],
        [(0, "min"), (0, "min/b7"), (8, "maj7"), (7, "7")],
        [(0, "min"), (7, "maj/3"), (0, "min/b7"), (5, "maj/3"), (8, "maj")],
        [(0, "min"), (2, "hdim7"), (7, "7(b9)"), (0, "min")],
    ],
}
BASSES_OF = {
    "maj": ["3", "5", "3", "7", "2"],
    "min": ["b3", "5", "b7", "4"],
    "7": ["3", "b7", "5"],
    "maj7": ["3", "5", "7"],
    "min7": ["b3", "b7", "5"],
    "dim": ["b3"],
    "hdim7": ["b5", "b7"],
    "sus4": ["5"],
    "maj6": ["3", "5"],
    "min6": ["b3", "5"],
    "sus4(b7)": ["b7"],
}
# How a player lays the notes of a chord out; ``make_songs.py`` does it.
LAYOUTS = [None, None, None, "open", "shell", "top", "hands", "shifting"]
GUITARS, KEYS = list(range(24, 32)), [0, 1, 2, 3, 4, 5, 6, 7, 11, 16, 17, 18, 19, 21, 22, 61, 62]
PADS, LEADS, LOW = (
    [48, 49, 50, 51, 52, 88, 89, 90, 91, 94, 95, 19],
    [40, 41, 52, 53, 54, 56, 57, 60, 64, 65, 66, 68, 71, 72, 73, 75, 78, 80, 81, 22],
    [32, 33, 33, 34, 35, 36, 37, 38, 39, 43, 58, 67],
)


class Mixed(randomsong.Composer):
    """A composer with wide tastes; the song maker's own does the form."""

    def __init__(self, seed: int, turns: bool = False) -> None:
        super().__init__(seed)
        self.rng = np.random.default_rng([60013, seed])
        names = list(METERS)
        weights = np.array([METERS[m][0] for m in names], float)
        self.meter = names[int(self.rng.choice(len(names), p=weights / weights.sum()))]
        self.turns = turns
        if turns:
            self.meter = self.pick(["4/4"] * 3 + ["3/4"] * 2 + ["5/4"] * 3 + ["6/4", "7/4"])
        self.style = self.pick(
            ["pop"] * 4
            + ["jazz"] * 2
            + ["any", "any", "power", "slashes", "folk", "colour", "colour", "lines", "lines"]
        )
        self.slots = METERS[self.meter][2]
        self.compound = self.meter in ("6/8", "9/8", "12/8")
        self.beat = 3 if self.compound else (1 if self.meter.endswith("/8") else 2)
        self.count = self.slots // self.beat
        self.pending: list[str] = []
        randomsong.BEATS[self.meter] = self.count
        self.change_rate = self.rng.uniform(0.05, 0.6)
        self.push_rate = self.pick([0.0, 0.05, 0.12, 0.3])

    # ---------------------------------------------------------------- harmony

    def usable(self, label: str) -> bool:
        try:
            theory.guitar_voicing(label, self.tuning, self.capo)
        except ValueError:
            return False
        return True

    def chord(self, group: str) -> str:
        for _ in range(20):
            label = self.draw(group)
            if self.usable(label):
                return label
        return self.names[self.tonic] + ":maj"

    def draw(self, group: str) -> str:
        if self.pending:
            return self.pending.pop(0)
        if self.style == "any":
            root, quality = self.names[int(self.rng.integers(12))], self.pick(ANY)
        else:
            step, quality = self.pick(randomsong.HARMONY[self.mode][group])
            root = self.names[(self.tonic + step) % 12]
            base = {"min7": "min", "maj7": "maj"}.get(quality, quality)
            if self.style == "power" and self.chance(0.85):
                return f"{root}:5"
            if self.style == "jazz" and base in JAZZY:
                quality = self.pick(JAZZY[base])
            elif self.style == "colour" and base in COLOURED:
                quality = self.pick(COLOURED[base])
            elif self.style == "lines" and base in LINES and self.chance(0.5):
                start = (self.tonic + step) % 12
                steps = self.pick(LINES[base])
                self.pending = [f"{self.names[(start + up) % 12]}:{kind}" for up, kind in steps]
                return self.pending.pop(0)
            elif self.style in ("pop", "slashes") and base in PLAIN and self.chance(self.spice):
                quality = self.pick(PLAIN[base])
        slash = {"slashes": 0.4, "colour": 0.12, "lines": 0.15, "any": 0.2, "pop": 0.15 * self.spice, "jazz": 0.08}.get(
            self.style, 0.04
        )
        if quality in BASSES_OF and self.chance(slash):
            return f"{root}:{quality}/{self.pick(BASSES_OF[quality])}"
        return f"{root}:{quality}"

    def bar(self, group: str) -> tuple[str, str]:
        n = self.count
        cuts = [0]
        if n >= 2 and self.chance(self.change_rate):
            options = [n // 2, n // 2, n - 1, (n + 1) // 2] + ([n // 2, n - 1] if n > 3 else [])
            cuts.append(max(1, self.pick(options)))
            if n >= 4 and self.chance(0.2):
                cuts.append(self.pick([c for c in range(1, n) if c != cuts[1]]))
                cuts.sort()
        text = []
        for a, b in zip(cuts, [*cuts[1:], n], strict=True):
            push = "<" if self.chance(self.push_rate) else ""
            text.append(f"{push}{self.chord(group)}*{b - a}")
            if b < n:
                group = self.pick(randomsong.NEXT[group])
        return " ".join(text), group

    def chart(self, bars: int, start: str = "T") -> str:
        out, group = [], start
        for i in range(bars):
            text, group = self.bar(group)
            if i and self.chance(0.08):
                text = "%"
            elif i >= 4 and self.chance(0.35):
                text = out[i - 4]
            elif i and self.chance(self.odd_bars):
                text = self.odd_bar()
            out.append(text.lstrip("<") if i == 0 else text)
            group = self.pick(randomsong.NEXT[group])
        return " | ".join(out)

    def odd_bar(self) -> str:
        unit = self.meter.split("/")[1]
        if self.compound:
            n = self.pick([1, 2, 3])
            return f"{{{3 * n}/8}} {self.chord('D')}*{n}" if n > 1 else "%"
        n = self.pick([2, 3, 5, 2] if unit == "4" else [5, 6, 7, 8])
        if unit == "8" and n == 6:
            n = 5
        return f"{{{n}/{unit}}} {self.chord('S')}*{n}"

    def sections(self) -> dict:
        self.odd_bars = self.pick([0, 0, 0, 0.05, 0.12])
        made = super().sections()
        if self.turns:
            for name in self.pick([["chorus"], ["verse"], ["bridge"], ["chorus", "bridge"], ["verse", "bridge"]]):
                self.in_another_meter(made[name])
        elif self.chance(0.12) and self.meter in ("4/4", "3/4", "5/4", "7/4"):
            meter = self.pick([m for m in ("4/4", "3/4", "5/4") if m != self.meter])
            keep = self.count
            self.count = int(meter[0])
            made["bridge"] = {"meter": meter, "chart": self.chart(8)}
            self.count = keep
        return made

    def in_another_meter(self, section: dict) -> None:
        """Write a section's chart anew in another meter, or in two that take turns bar by bar."""
        keep, own = self.count, self.meter
        other = self.pick([m for m in ("4/4", "4/4", "3/4", "5/4", "5/4", "6/4", "7/4") if m != own])
        bars = self.pick([4, 8, 8])
        self.count = int(other[0])
        chart = self.chart(bars)
        if self.chance(0.25):
            self.count = keep
            mine = self.chart(bars).split(" | ")
            pairs = zip(chart.split(" | ")[0::2], mine[1::2], strict=True)
            chart = " | ".join(f"{a} | {{{own}}} {b}" if "{" not in b and b != "%" else f"{a} | {a}" for a, b in pairs)
        section.update(meter=other, chart=chart)
        self.count = keep

    # ---------------------------------------------------------------- rhythm

    def accents(self) -> list[float]:
        """How strong each eighth of the bar is by the meter, 0..1."""
        weight = [0.15] * self.slots
        at = 0
        groups = self.pick(GROUPS[self.slots]) if self.slots in GROUPS and self.beat != 3 else None
        if groups is None:
            size = self.beat if self.beat > 1 else 2
            groups = tuple(size for _ in range(self.slots // size)) or (self.slots,)
        for i, size in enumerate(groups):
            weight[at] = 1.0 if i == 0 else (0.75 if i % 2 == 0 else 0.6)
            at += size
        return weight

    def strum(self) -> str:
        kind = self.pick(["down", "down", "busy", "pick", "chop", "sparse", "stab", "sixteen", "beats"])
        weight, n = self.accents(), self.slots
        if kind == "pick":
            return "8:" + "".join(
                "b" if i == 0 else self.pick("1232312b" if w > 0.5 else "12323") for i, w in enumerate(weight)
            )
        if kind == "chop":  # off the beat
            return "8:" + "".join(
                self.pick("dDd") if (i % self.beat if self.beat > 1 else i % 2) else self.pick("---x") for i in range(n)
            )
        if kind == "sparse":
            return "8:" + "".join(
                "D" if i == 0 else ("d" if w > 0.5 and self.chance(0.4) else "-") for i, w in enumerate(weight)
            )
        if kind == "stab":
            return "8:" + "".join(self.pick("dDu") if self.chance(0.35) else "-" for _ in range(n))
        if kind == "sixteen" and self.beat == 2:
            return "16:" + "".join(
                (("D" if weight[i // 2] > 0.5 else "d") if i % 2 == 0 else "u") if self.chance(0.7) else self.pick("-x")
                for i in range(2 * n)
            )
        if kind == "beats":
            return "8:" + "".join("D" if w > 0.7 else ("d" if w > 0.4 else "-") for w in weight)
        density = 0.9 if kind == "busy" else 0.55
        return "8:" + "".join(
            "D" if w > 0.7 else ("d" if w > 0.4 else (self.pick("uux") if self.chance(density) else "-"))
            for w in weight
        )

    def bassline(self) -> str:
        weight = self.accents()
        kind = self.pick(["root", "eighths", "mixed", "mixed", "walk", "long"])
        if kind == "walk" and self.beat == 2:
            return "4:" + "".join("r" if i == 0 else self.pick("cw5c") for i in range(self.slots // 2 - 1)) + "w"
        if kind == "eighths":
            return "8:" + "r" * self.slots
        if kind == "long":
            return "8:r" + "-" * (self.slots - 1)
        if kind == "root":
            return "8:" + "".join("r" if w > 0.7 else "-" for w in weight)
        return "8:" + "".join(
            "r"
            if i == 0 and self.chance(0.93)
            else (self.pick("rr58c") if self.chance(0.25 + 0.5 * w) else self.pick("--."))
            for i, w in enumerate(weight)
        )

    def groove(self) -> dict:
        """A drum pattern by rules: where kick and snare fall, what the cymbals do."""
        fine = self.beat == 2 and self.chance(0.4)
        n = self.slots * (2 if fine else 1)
        weight = (
            [w if not fine else 0 for w in self.accents()]
            if not fine
            else [x for w in self.accents() for x in (w, 0.08)]
        )
        per_beat = self.beat * (2 if fine else 1)
        beats = [i for i in range(n) if i % per_beat == 0] if per_beat > 1 else [i for i in range(n) if weight[i] > 0.5]
        back = beats[1::2] if len(beats) > 1 else beats
        kind = self.pick(
            ["back"] * 6 + ["half", "four", "double", "offbeat", "sparse", "dense", "dense", "three", "none"]
        )
        kick = [
            (
                "x"
                if i == 0 and self.chance(0.95)
                else (
                    "x" if self.chance(0.65 * weight[i] + (0.3 if kind == "dense" else 0.06)) and i not in back else "-"
                )
            )
            for i in range(n)
        ]
        snare = [("X" if i in back else ("o" if self.chance(0.08) else "-")) for i in range(n)]
        if kind == "half":
            snare = ["X" if i == n // 2 // per_beat * per_beat else "-" for i in range(n)]
        elif kind == "four":
            kick = ["X" if i in beats else "-" for i in range(n)]
        elif kind == "double":
            snare = ["X" if i % per_beat == per_beat // 2 and per_beat > 1 else "-" for i in range(n)]
        elif kind == "offbeat":
            kick = ["X" if i in back else "-" for i in range(n)]
        elif kind == "sparse":
            snare = ["x" if i in back and self.chance(0.5) else "-" for i in range(n)]
        elif kind == "dense":
            snare = [
                "X" if i in back else ("x" if self.chance(0.12) else "o" if self.chance(0.2) else "-") for i in range(n)
            ]
        elif kind == "three":
            snare = ["X" if i == beats[-1] else "-" for i in range(n)]
        elif kind == "none":
            snare = ["-"] * n
        cymbal = self.pick(["eight", "eight", "beat", "all", "off", "random"])
        hats = {
            "eight": ["X" if i in beats else ("x" if (i % 2 == 0 or not fine) else "-") for i in range(n)],
            "beat": ["X" if i in beats else "-" for i in range(n)],
            "all": ["x" if i not in beats else "X" for i in range(n)],
            "off": ["X" if per_beat > 1 and i % per_beat == per_beat // 2 else "-" for i in range(n)],
            "random": [self.pick("Xxo-") for _ in range(n)],
        }[cymbal]
        lines = {
            self.pick([35, 36]): "".join(kick),
            self.pick([38, 38, 40, 37, 39]): "".join(snare),
            self.pick([42, 42, 51, 46, 49, 54, 70, 57, 44]): "".join(hats),
        }
        if self.chance(0.2):
            lines[self.pick([54, 56, 69, 70, 62, 63, 64])] = "".join(self.pick("xo--") for _ in range(n))
        return {"grid": 16 if fine else 8, "lines": lines, "fills": self.chance(0.7)}

    # ---------------------------------------------------------------- band and sound

    def chordal(self, role: str, program: int, level: int, name: str) -> dict:
        part = {
            "role": role,
            "name": name,
            "program": program,
            "level": level,
            "pan": float(self.rng.uniform(-0.8, 0.8)),
            "jitter_ms": float(self.rng.uniform(3, 14)),
            "pattern": {"*": self.strum(), "chorus": self.strum()},
        }
        if self.chance(0.4):
            part["pattern"][self.pick(["verse", "intro", "bridge"])] = self.pick([self.strum(), None])
        part["layout"] = self.pick(LAYOUTS)
        if role == "keys":
            part["centre"] = self.pick([55, 60, 60, 64, 68])
        if self.chance(0.2):
            part["staccato"] = int(self.rng.uniform(90, 300))
        if self.chance(0.15):
            part["offbeat"] = True
        if self.chance(0.2):
            part["omit"] = self.pick([[0], [7], [7], [0, 7]])
        if role == "guitar" and self.style == "power":
            part["power"] = True
        return part

    def band(self, capo: int) -> list[dict]:
        parts = []
        guitars = GUITARS if self.style != "power" else [28, 29, 29, 30, 30, 31]
        g = self.pick(guitars)
        parts.append(self.chordal("guitar", g, int(self.rng.uniform(58, 100)), "guitar"))
        if self.chance(0.35):
            parts.append(dict(parts[0], pan=-parts[0]["pan"], name="guitar double"))
        elif self.chance(0.3):
            parts.append(self.chordal("guitar", self.pick(guitars), int(self.rng.uniform(50, 90)), "guitar 2"))
        if self.chance(0.4):
            parts.append(self.chordal("keys", self.pick(KEYS), int(self.rng.uniform(45, 90)), "keys"))
        if self.chance(0.3):
            parts.append(
                {
                    "role": "keys",
                    "name": "pad",
                    "centre": self.pick([60, 64, 70]),
                    "program": self.pick(PADS),
                    "level": int(self.rng.uniform(30, 60)),
                    "pattern": {"*": "on", "verse": self.pick(["on", None])},
                }
            )
        if self.chance(0.82):
            parts.append(
                {
                    "role": "bass",
                    "name": "bass",
                    "program": self.pick(LOW),
                    "level": int(self.rng.uniform(75, 115)),
                    "jitter_ms": float(self.rng.uniform(3, 14)),
                    "hold": float(self.rng.uniform(0.5, 0.97)),
                    "pattern": {
                        "*": self.bassline(),
                        "chorus": self.bassline(),
                        "intro": self.pick([self.bassline(), None]),
                    },
                }
            )
        if self.chance(0.78):
            parts.append(
                {
                    "role": "drums",
                    "name": "drums",
                    "level": int(self.rng.uniform(65, 118)),
                    "jitter_ms": float(self.rng.uniform(2, 12)),
                    "pattern": {
                        "*": self.groove(),
                        "chorus": self.groove(),
                        "intro": self.pick([self.groove(), None, None]),
                    },
                }
            )
        for i in range(self.pick([0, 1, 1, 1, 2])):
            parts.append(
                {
                    "role": "lead",
                    "name": f"lead {i}",
                    "program": self.pick(LEADS),
                    "level": int(self.rng.uniform(60, 100)),
                    "fills": i == 1,
                    "density": float(self.rng.uniform(0.25, 0.75)),
                    "vibrato": float(self.rng.uniform(0.05, 0.5)),
                    "range": self.pick([[52, 70], [57, 76], [60, 81]]),
                    "pattern": {"*": "on", "intro": None},
                }
            )
        return parts

    def recording(self) -> dict:
        chain = super().recording()
        chain["drive"] = self.pick([0.8, 1.0, 1.6, 2.5, 4.0, 6.0])
        chain["compression"] = self.pick([1.0, 1.5, 2.0, 3.0, 5.0])
        chain["room"] = float(self.rng.choice([0.03, 0.1, 0.2, 0.35, 0.45]))
        chain["room_seconds"] = float(self.rng.uniform(0.3, 2.0))
        chain["tilt_db"] = float(self.rng.normal(0, 4))
        if self.chance(0.2):
            chain["lowpass_hz"] = float(self.rng.uniform(3000, 8000))
        if self.chance(0.2):
            chain["highpass_hz"] = float(self.rng.uniform(50, 150))
        chain["hiss_db"] = float(self.rng.uniform(-80, -42))
        chain.pop("fade_out_seconds", None)
        return chain

    def form(self) -> list:
        form = super().form()
        return form[: self.pick([4, 5, 5, 6])]


def mixed_spec(seed: int, turns: bool = False) -> dict:
    """A whole training song; the same seed gives the same song. ``turns``: its sections are in meters that take turns."""
    c = Mixed(seed, turns)
    c.capo = c.pick([0, 0, 0, 1, 2, 3, 5])
    c.tuning = c.pick(["standard"] * 5 + ["half-step-down", "drop-D"])
    low, high = METERS[c.meter][1]
    tempo = float(np.exp(c.rng.uniform(np.log(low), np.log(high))))
    swing = float(c.rng.uniform(0.54, 0.7)) if c.meter in ("4/4", "3/4", "2/4") and c.chance(0.2) else 0.5
    spec = {
        "title": f"training {seed}",
        "artist": "",
        "seed": seed,
        "tempo": tempo,
        "meter": c.meter,
        "swing": swing,
        "key": f"{c.names[c.tonic]}:{c.mode}",
        "drift_percent": float(c.pick([0.2, 1.0, 2.0, 4.0, 7.0])),
        "silence": float(c.rng.uniform(0.05, 3.0)),
        "ritardando_bars": c.pick([0, 0, 1, 2, 3]),
        "guitar_tuning": c.tuning,
        "capo": c.capo,
        "sections": c.sections(),
        "form": c.form(),
        "band": c.band(c.capo),
        "recording": c.recording(),
    }
    if any(p["role"] == "drums" for p in spec["band"]) and c.chance(0.3):
        spec["count_in_bars"] = 1
    elif c.chance(0.25) and c.count > 1:
        spec["pickup"] = {"beats": c.pick([1, 2]) if c.count > 2 else 1}
    return spec
