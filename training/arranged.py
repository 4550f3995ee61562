"""Specs of songs whose harmony is written in phrases (``idioms``) and whose bass moves, as accompanists of many schools play.

Goes on from ``liveband.Band``: roots and fifths in turn, basses that walk, run up and down the chord, rest on the one, come early or
stay an octave; waltzes, tangos, two-beats, rhumbas, reggae, gospel and folk besides rock, swing and bossa. A chart says C over all
that: which chord stands over another bass than its root is told by the chart alone. A seed gives one song.
Seeds: training 820000.., trials 828000..; reports 829000.. .
"""

from __future__ import annotations

import numpy as np
from compose import METERS, PADS
from idioms import Passage, Writer
from liveband import Band
from songmaker import parts, randomsong, theory

# style: weight, meters, quarters (or main beats) a minute, school of harmony, figures of the bass by slots in a bar of eighths
FIGURES = {
    "two": ["4:r-f-", "4:r-5-", "4:r-fw", "2:rf", "4:r-f.", "8:r.--f.--"],
    "run": ["4:rt5t", "4:rt58", "4:r5t5", "8:r-t-5-t-", "4:r5s5", "8:rt5s8s5t", "8:rrttssvv", "4:rtsv"],
    "walk": ["4:rc5w", "4:rtfw", "4:rccw", "4:r5cw", "4:crtw", "4:rwcw"],
    "rock": ["8:rrrrrrrr", "8:r--rr-5-", "8:r-r-r-r-", "8:r8r8r8r8", "16:r--r--8-r---5-w-", "8:r-rr5-r-", "8:r---c-c-"],
    "bossa": ["8:r--55--r", "8:r--ff--r", "8:r--r5--5", "8:r--5r--5", "8:r--fr--w"],
    "latin": ["8:r--5--8-", "8:r--f--5-", "8:...5--8-", "8:r--5--n-", "8:---5--n-", "8:r--r--5-"],
    "tango": ["8:r--rf-5-", "4:r-f-", "8:r--f-f5-", "4:rrff", "16:r-----r-f---5---"],
    "reggae": ["8:..rr-t5-", "8:r-.rt-5-", "8:..r-5-t-", "8:r..rr.5.", "8:.-5-8-5-"],
    "long": ["4:r---", "2:r5", "4:r--5", "2:rc", "4:r-c-", "4:r--w"],
    "waltz": ["4:r--", "4:a--", "4:a--", "4:r-5", "4:r5t", "4:rt5", "4:r-w", "8:r---5-", "4:a-w"],
    "six": ["8:r--5--", "8:r--f--", "8:r-r5-5", "8:r----w", "8:a-----", "8:rt5st5", "8:r--r-5"],
    "twelve": ["8:r--5--r--5--", "8:r-tr-55-ss-5", "8:r--r--5--w--", "8:r--t--5--s--"],
    "five": ["4:r--5-", "4:rt5cw", "8:r--5--f-w-", "4:r-w5-"],
}
STYLES = {
    "country": (3, {"4/4": 6, "3/4": 1}, (90, 230), ["pop"], ["two", "two", "run"]),
    "folk": (3, {"4/4": 4, "3/4": 2, "6/8": 1}, (70, 150), ["pop"], ["long", "two", "run"]),
    "waltz": (2, {"3/4": 1}, (84, 190), ["pop", "swung"], ["waltz"]),
    "tango": (1, {"4/4": 1}, (100, 140), ["pop"], ["tango", "two"]),
    "latin": (3, {"4/4": 1}, (90, 210), ["swung", "pop"], ["latin", "latin", "bossa"]),
    "reggae": (1, {"4/4": 1}, (66, 160), ["pop"], ["reggae", "latin"]),
    "swing": (3, {"4/4": 6, "3/4": 1, "5/4": 1}, (76, 240), ["swung"], ["walk", "walk", "two", "run"]),
    "bossa": (2, {"4/4": 1}, (108, 170), ["swung"], ["bossa"]),
    "shuffle": (2, {"4/4": 3, "12/8": 2}, (70, 170), ["blues", "pop"], ["run", "walk", "rock"]),
    "ballad": (3, {"4/4": 5, "6/8": 1, "12/8": 1, "3/4": 1}, (58, 96), ["pop", "swung"], ["long", "run", "two"]),
    "rock": (3, {"4/4": 9, "6/8": 1}, (84, 180), ["pop"], ["rock", "rock", "run", "long"]),
    "funk": (1, {"4/4": 1}, (88, 124), ["swung", "pop"], ["rock", "latin"]),
}  # fmt: skip
BY_METER = {"3/4": "waltz", "6/8": "six", "12/8": "twelve", "5/4": "five"}


class RoamingBass(parts.BassPlayer):
    """A bass that moves within the chord; slots as ``BassPlayer``, and f the fifth below, t third, s sixth, v seventh, n the bass
    of the chord that follows, a bass note and fifth by turns from bar to bar. ``loose`` is how often a chord begins on the
    figure's own note instead of its bass."""

    def play(self):
        low = 28
        last = low + 7
        loose = self.part.get("loose", 0.0)
        hits = self.hits("r", silent="-")
        for i, (q, slot, span, bar) in enumerate(hits):
            if slot in ".-":
                continue
            chord = parts.parse_chord(span.label)
            if abs(q - span.start) < 1e-3 and slot in "5cw8ftsvn" and self.rng.random() >= loose:
                slot = "r"
            if slot == "a":
                slot = "f" if bar.index % 2 and abs(q - span.start) > 1e-3 else "r"
            pitch = self.note_of(slot, chord, low, last, self._next_chord(span))
            following = hits[i + 1][0] if i + 1 < len(hits) else span.end
            begin, until = self.now(q), self.tl.time(min(following, max(span.end, q + 0.25)))
            until = begin + 0.05 if slot == "x" else begin + (until - begin) * self.part.get("hold", 0.92)
            self.add(begin, until, pitch, 60 if slot == "x" else 96, bar.dynamics)
            last = pitch
        return self.track

    def note_of(self, slot, chord, low, last, following):
        steps = sorted((t - chord.root) % 12 for t in chord.tones)
        wanted = {
            "t": next((s for s in steps if s in (3, 4)), next((s for s in steps if s in (2, 5)), 7)),
            "s": next((s for s in steps if s in (8, 9)), 9 if 6 not in steps else 6),
            "v": next((s for s in steps if s in (10, 11)), 9),
            "f": next((s for s in steps if s in (6, 7, 8)), 7),
        }
        if slot == "n" and following is not None:
            return low + (following.bass - low) % 12
        if slot in wanted:
            note = low + (chord.root + wanted[slot] - low) % 12
            root = low + (chord.bass - low) % 12
            if slot == "f":
                return note - 12 if note > root and note - 12 >= low - 4 else note
            return note + 12 if note < root else note
        return self._pitch("r" if slot == "n" else slot, chord, low, last, following)


class Arranged(Band):
    """A composer of these styles."""

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self.rng = np.random.default_rng([82001, seed])
        names = list(STYLES)
        self.style_name = names[self.drawn([STYLES[n][0] for n in names])]
        _, meters, self.tempi, schools, self.figures = STYLES[self.style_name]
        self.kind = {"country": "indie", "folk": "ballad", "waltz": "ballad", "tango": "bossa", "latin": "bossa", "reggae": "funk"}.get(
            self.style_name, self.style_name
        )  # fmt: skip
        self.meter = list(meters)[self.drawn(list(meters.values()))]
        self.style, self.singing = "pop", 0.5
        self._measure()
        self.push_rate = (
            self.pick([0.0, 0.0, 0.0, 0.1, 0.25]) if self.style_name in ("bossa", "latin", "funk", "rock") else 0.0
        )
        self.writer = Writer(self.rng, self.pick(schools))
        self.mode = self.writer.mode
        self.names = theory.FLATS if theory.uses_flats(self.tonic, self.mode) else theory.SHARPS

    def _measure(self) -> None:
        """What follows from the meter."""
        self.slots = METERS[self.meter][2]
        self.compound = self.meter in ("6/8", "9/8", "12/8")
        self.beat = 3 if self.compound else 2
        self.count = self.slots // self.beat
        randomsong.BEATS[self.meter] = self.count
        self.straight = not self.compound

    # ---------------------------------------------------------------- harmony

    def label(self, step: int, quality: str, bass: str, shift: int) -> str:
        text = f"{self.names[(self.tonic + shift + step) % 12]}:{quality}" + (f"/{bass}" if bass else "")
        return text if self.usable(text) else text.split("/")[0]

    def chart_of(self, passage: Passage) -> str:
        out = []
        for i, bar in enumerate(passage.bars):
            cut = [0, *sorted({max(1, round(self.count * k / len(bar))) for k in range(1, len(bar))})][: len(bar)]
            length = [b - a for a, b in zip(cut, [*cut[1:], self.count], strict=True)]
            push = "<" if i and self.chance(self.push_rate) else ""
            out.append(" ".join(f"{push if k == 0 else ''}{self.label(*c, passage.shift)}*{n}"
                                for k, (c, n) in enumerate(zip(bar, length, strict=False))))  # fmt: skip
        return " | ".join(out)

    def sections(self) -> dict:
        made = {}
        for name, passage in self.writer.song().items():
            tonic = self.names[(self.tonic + passage.shift) % 12]
            made[name] = {"chart": self.chart_of(passage), "key": f"{tonic}:{passage.mode}"}
        made["verse"]["dynamics"] = 0.9
        return made

    def form(self) -> list:
        up = {"transpose": self.pick([1, 2, 2])} if self.chance(0.15) else {}
        quiet = {"tacet": ["drums"], "dynamics": 0.75} if self.chance(0.3) else {}
        form = ["intro", "verse", "chorus", {"section": "verse", **quiet}, "chorus"]
        if self.chance(0.5):
            form = [*form[:3], self.pick(["bridge", "verse"]), "chorus"]
        form += [{"section": "chorus", **up}] if up or self.chance(0.2) else []
        return [*form, {"section": "ending", "transpose": up.get("transpose", 0)}] if self.chance(0.6) else form

    # ---------------------------------------------------------------- players

    def bassline(self) -> str:
        figures = FIGURES[BY_METER.get(self.meter, self.pick(self.figures))]
        if self.meter == "4/4" and self.chance(0.12):  # a figure of one's own
            return "8:r" + "".join(self.pick("-----5ft8c.") for _ in range(7))
        return self.pick(figures)

    def band(self, capo: int) -> list[dict]:
        made = [p for p in super().band(capo) if p["role"] != "bass"]
        if self.chance(0.35):  # keyboards or a second guitar in the middle
            made.append(
                self.chordal("keys", self.pick([0, 1, 4, 5, 6, 16, 21, 22]), int(self.rng.uniform(55, 95)), "comp")
            )
        if self.chance(0.2):
            made.append(
                {"role": "keys", "name": "pad", "centre": 64, "program": self.pick(PADS), "level": 48, "pattern": "on"}
            )
        made.append({"role": "bass", "name": "bass", "program": self.pick([32, 32, 33, 33, 34, 35, 36, 43, 58]),
                     "level": int(self.rng.uniform(80, 115)), "jitter_ms": float(self.rng.uniform(3, 12)),
                     "hold": float(self.rng.uniform(0.45, 0.97)), "loose": self.pick([0.0, 0.0, 0.0, 0.15, 0.3]), "roams": True,
                     "offbeat": self.style_name in ("reggae", "latin"),
                     "pattern": {"*": self.bassline(), "chorus": self.bassline()}})  # fmt: skip
        return made


def arranged_spec(seed: int, composer: type[Arranged] = Arranged) -> dict:
    """A whole song; the same seed gives the same song."""
    c = composer(seed)
    c.capo, c.tuning = c.pick([0, 0, 0, 1, 2, 3]), "standard"
    low, high = c.tempi if not c.compound else METERS[c.meter][1]
    swing = c.rng.uniform(0.57, 0.69) if c.style_name in ("swing", "shuffle") and c.straight else 0.5
    spec = {
        "title": f"{c.style_name} {seed}", "artist": "", "seed": seed, "meter": c.meter, "style": c.style_name,
        "tempo": float(np.exp(c.rng.uniform(np.log(low), np.log(high)))), "swing": float(swing),
        "key": f"{c.names[c.tonic]}:{c.mode}", "drift_percent": float(c.pick([0.0, 0.0, 0.3, 1.0, 2.0])),
        "silence": float(c.rng.uniform(0.05, 2.5)), "ritardando_bars": c.pick([0, 0, 0, 1, 2]), "guitar_tuning": c.tuning,
        "capo": c.capo, "sections": c.sections(), "form": c.form(), "band": c.band(c.capo), "recording": c.recording(),
        "mix": {"drums": c.pick([0.0, 0.0, -3.0, -6.0, -12.0]), "voice": c.pick([0.0, 0.0, 3.0, -3.0])},
    }  # fmt: skip
    if any(p["role"] == "drums" for p in spec["band"]) and c.chance(0.25):
        spec["count_in_bars"] = 1
    return spec


def bass_player(timeline, part, rng):
    """The player of a part of the bass: one that moves where the spec says so."""
    return (RoamingBass if part.get("roams") else parts.BassPlayer)(timeline, part, rng)


parts.PLAYERS["bass"] = bass_player
