"""Specs of training songs by bands that play loud, fast or swung, with a singer in front.

Goes on from ``compose.Mixed``: rock, punk, metal, funk, disco, swing, shuffle, bossa, indie and ballads, with the drum playing of
each (double bass drum, blasts, ghost notes, open hats and ride off the beat, half-time and double-time sections), players who push or
drag, distorted and double-tracked guitars, palm mutes. How it sounds is in ``studio.py``. A seed gives one song.
Seeds: training 40000.., trials 48000..; reports 49000.. .
"""

from __future__ import annotations

import numpy as np
from compose import METERS, PADS, Mixed
from songmaker import randomsong

# style: weight, meters with their weights, quarters (or main beats) a minute, harmony, chance of a singer
STYLES = {
    "rock": (5, {"4/4": 9, "6/8": 1, "3/4": 0.5}, (88, 178), ["power", "pop", "pop"], 0.7),
    "punk": (3, {"4/4": 1}, (150, 215), ["power", "pop"], 0.7),
    "metal": (5, {"4/4": 9, "7/8": 1, "6/8": 1, "5/4": 0.5}, (90, 215), ["power", "power", "pop"], 0.5),
    "funk": (2, {"4/4": 1}, (84, 122), ["jazz", "pop"], 0.6),
    "disco": (1, {"4/4": 1}, (104, 134), ["pop", "jazz"], 0.7),
    "swing": (3, {"4/4": 8, "3/4": 1}, (108, 250), ["jazz", "jazz", "colour"], 0.4),
    "shuffle": (2, {"4/4": 3, "12/8": 2}, (84, 168), ["pop", "jazz", "any"], 0.7),
    "bossa": (1, {"4/4": 1}, (112, 168), ["jazz", "colour"], 0.6),
    "indie": (2, {"4/4": 8, "3/4": 1, "6/8": 1, "5/4": 1, "6/4": 1}, (84, 172), ["pop", "slashes", "lines"], 0.8),
    "ballad": (2, {"4/4": 4, "6/8": 1, "12/8": 1, "3/4": 1}, (58, 92), ["pop", "slashes", "lines", "colour"], 0.9),
}
DISTORTED = {"rock": 0.85, "punk": 1.0, "metal": 1.0, "indie": 0.4, "shuffle": 0.4}
KICKS, SNARES, RIM, HAT, FOOT, OPEN, RIDE, BELL, CRASH, CHINA = (35, 36), (38, 40), 37, 42, 44, 46, 51, 53, 49, 52


class Band(Mixed):
    """A composer who writes for one of the styles above."""

    def __init__(self, seed: int, only: str | None = None) -> None:
        super().__init__(seed)
        self.rng = np.random.default_rng([70001, seed])
        names = list(STYLES)
        self.kind = only or names[self.drawn([STYLES[n][0] for n in names])]
        _, meters, self.tempi, harmony, self.singing = STYLES[self.kind]
        self.meter = list(meters)[self.drawn(list(meters.values()))]
        self.style = self.pick(harmony)
        self.slots = METERS[self.meter][2]
        self.compound = self.meter in ("6/8", "9/8", "12/8")
        self.beat = 3 if self.compound else (1 if self.meter.endswith("/8") else 2)
        self.count = self.slots // self.beat
        randomsong.BEATS[self.meter] = self.count
        self.change_rate = self.rng.uniform(0.05, 0.45)
        self.push_rate = {"bossa": 0.35, "indie": 0.15, "funk": 0.15, "swing": 0.12}.get(
            self.kind, self.pick([0.0, 0.0, 0.05, 0.15])
        )
        self.straight = self.meter in ("4/4", "3/4", "5/4", "6/4")

    def drawn(self, weights: list[float]) -> int:
        w = np.array(weights, float)
        return int(self.rng.choice(len(w), p=w / w.sum()))

    # ---------------------------------------------------------------- drums

    def groove(self) -> dict:
        if not self.straight or self.chance(0.06):
            return self.dressed(super().groove())
        make = getattr(self, f"_{self.kind}", self._rock)
        return self.dressed(make())

    def dressed(self, groove: dict) -> dict:
        """With a fill at the ends of sections, or without."""
        groove["fills"] = self.chance(0.75)
        return groove

    def lines(self, **parts: str) -> dict:
        """A bar of sixteenths; shorter texts are said again, longer ones cut."""
        n = 2 * self.slots
        numbers = {
            "kick": self.pick(KICKS), "snare": self.pick(SNARES), "rim": RIM, "hat": HAT, "foot": FOOT, "open": OPEN,
            "ride": RIDE, "bell": BELL, "crash": CRASH, "china": CHINA, "shaker": 70, "cowbell": 56, "clap": 39,
        }  # fmt: skip
        return {"grid": 16, "lines": {numbers[k]: (v * 9)[:n] for k, v in parts.items() if v.strip("-")}}

    def time_keeper(self, wild: float) -> dict[str, str]:
        """What the right hand does: which cymbal, how often, on the beat or off it."""
        where = self.pick(["hat"] * 4 + ["open", "ride", "ride", "bell", "crash", "crash", "china"])
        if where in ("crash", "china") and self.chance(1 - wild):
            where = "hat"
        how = self.pick(["x-o-", "x-o-", "x-x-", "x---", "x---", "--x-", "xoxo", "--X-"])
        out = {where: how}
        if how.startswith("--") and where != "open" and self.chance(0.5):
            out["open"] = how
            out["hat"] = "x---"
        if self.chance(0.15):
            out["open"] = self.pick(["--------------x-", "------x-", "--x-", "--------------x-"])
        return out

    def kicks(self, busy: float, snare: str) -> str:
        out = []
        for i in range(2 * self.slots):
            p = 0.95 if i == 0 else (0.55 if i % 8 == 0 else 0.4 if i % 4 == 2 else 0.25 if i % 4 == 0 else 0.12)
            out.append("x" if self.chance(p if i == 0 else p * busy) and snare[i % len(snare)] != "X" else "-")
        return "".join(out)

    def backbeat(self) -> str:
        if self.count == 3:
            return self.pick(["----X---X---", "--------X---", "----x---x---"])
        if self.count in (5, 6):
            return self.pick(["----X-------X-------", "----X---"]) if self.count == 5 else "----X---" * 3
        return self.pick(["----X---"] * 7 + ["--------X-------", "----X-------X-o-", "----X--o-o--X--o", "--X-"])

    def _rock(self) -> dict:
        snare = self.backbeat()
        return self.lines(kick=self.kicks(self.rng.uniform(0.5, 1.3), snare), snare=snare, **self.time_keeper(0.5))

    def _indie(self) -> dict:
        made = self._rock()
        if self.chance(0.3):
            made["lines"][self.pick([54, 70, 82])] = ("x-o-" * 9)[: 2 * self.slots]
        return made

    def _ballad(self) -> dict:
        snare = self.pick(["----X---", "----X---", "--------X-------"])
        name = self.pick(["snare", "rim", "snare"])
        hats = self.pick(["x-o-", "x---", "xoxo", "x-x-"])
        return self.lines(kick=self.kicks(0.6, snare), **{name: snare, self.pick(["hat", "ride"]): hats})

    def _punk(self) -> dict:
        kind = self.pick(["straight", "straight", "d-beat", "double", "half"])
        if kind == "d-beat":
            return self.lines(kick="x---x-x-x---x---", snare="----X-------X---", **self.time_keeper(1.0))
        if kind == "double":
            return self.lines(
                kick="x---", snare="--X-", **{self.pick(["hat", "crash", "ride"]): self.pick(["x-x-", "x---"])}
            )
        if kind == "half":
            return self.lines(kick="x-----x-----x---", snare="--------X-------", **self.time_keeper(1.0))
        kick = self.pick(["x-------x-------", "x-----x-x-------", "x-x-----x-x-----"])
        return self.lines(kick=kick, snare="----X---", **self.time_keeper(1.0))

    def _metal(self) -> dict:
        kind = self.pick(["rolling", "rolling", "eighths", "gallop", "blast", "bomb", "half", "riff", "riff"])
        top = {
            self.pick(["hat", "open", "ride", "bell", "crash", "china"]): self.pick(["x---", "x---", "x-x-", "--x-"])
        }
        snare = self.pick(["----X---", "----X---", "--------X-------"])
        if kind == "rolling":
            return self.lines(kick="xxxx", snare=snare, **top)
        if kind == "eighths":
            return self.lines(kick="x-x-", snare=snare, **top)
        if kind == "gallop":
            return self.lines(kick=self.pick(["x-xx", "xx-x", "xxx-"]), snare=snare, **top)
        if kind == "blast":
            return self.lines(kick=self.pick(["x-x-", "xxxx"]), snare=self.pick(["-x-x", "x-x-", "--X-"]), **top)
        if kind == "bomb":
            return self.lines(kick="x-x-", snare="x-x-", ride="x-x-")
        if kind == "half":
            snare = "--------X-------"
        riff = self.kicks(1.6, snare)
        return self.lines(kick=riff, snare=snare, **top)

    def _funk(self) -> dict:
        ghosts = "".join("X" if i % 8 == 4 else ("o" if self.chance(0.25) else "-") for i in range(2 * self.slots))
        kick = self.kicks(1.2, ghosts)
        return self.lines(
            kick=kick, snare=ghosts, hat=self.pick(["xoxo", "x-xo", "x-x-"]), open=self.pick(["-", "------x-", "--x-"])
        )

    def _disco(self) -> dict:
        return self.lines(kick="X---", snare=self.pick(["----X---", "-"]), clap=self.pick(["----x---", "-"]),
                          open="--X-", hat=self.pick(["x---", "xo-o", "-"]))  # fmt: skip

    def _swing(self) -> dict:
        comp = "".join("o" if i % 2 == 0 and self.chance(0.16) else "-" for i in range(2 * self.slots))
        ride = "X---x-o-" if self.count % 2 == 0 else "X---x-o-x-o-"
        top = self.pick(["ride", "ride", "ride", "hat"])
        return self.lines(kick=self.pick(["o---", "-", "o-------", "--------------o-"]), snare=comp,
                          foot="----x---" if self.count % 2 == 0 else "----x---x---", **{top: ride})  # fmt: skip

    def _shuffle(self) -> dict:
        snare = self.pick(["----X---", "----X---", "--------X-------", "--o-X-o-"])
        top = self.pick(["hat", "ride", "hat"])
        return self.lines(kick=self.pick(["x-------", "x-----x-x-------", "x---", "x-x-----x-x-----"]), snare=snare,
                          **{top: self.pick(["x-o-", "x-x-", "x---"])})  # fmt: skip

    def _bossa(self) -> dict:
        return self.lines(kick="x-----x-", rim=self.pick(["x-----x-----x---", "x-----x-----x-x-", "----x-----x-----"]),
                          **{self.pick(["hat", "shaker"]): self.pick(["x-o-", "xoxo"])})  # fmt: skip

    # ---------------------------------------------------------------- guitars, bass

    def strum(self) -> str:
        n = self.slots
        if self.kind in ("metal", "punk", "rock") and self.straight and self.chance(0.7):
            cell = self.pick(["D-d-", "D-d-", "Dddd", "D-dd", "Dd-d", "D---", "Dxdx", "D-xD", "DuDu", "D-x-"])
            if self.chance(0.25):  # a riff of its own
                cell = "".join(self.pick("DDd-x") if i % 2 == 0 else self.pick("d---") for i in range(2 * n))
            return "16:" + ("D" + cell[1:] + cell * 9)[: 2 * n]
        if self.kind == "funk" and self.straight:
            return "16:" + "".join(self.pick("Dx-xu-") if i % 2 == 0 else self.pick("ux-x") for i in range(2 * n))
        if self.kind == "swing" and self.straight:
            kind = self.pick(["four", "stabs", "stabs", "off"])
            if kind == "four":
                return "4:" + "dD" * (n // 4) + "d" * (n // 2 % 2)
            if kind == "off":
                return "8:" + "".join("-d" if self.chance(0.5) else "--" for _ in range(n // 2))
            return "8:" + "".join(self.pick("dDu") if self.chance(0.25) else "-" for _ in range(n))
        if self.kind == "bossa":
            return "8:" + self.pick(["b-dbd-bd", "bd-b-db-", "b--db-d-", "D--d-d-D"])
        if self.kind == "shuffle" and self.straight and self.chance(0.5):
            return "8:" + ("Dudu" * 9)[:n]
        return super().strum()

    def bassline(self) -> str:
        n = self.slots
        if self.kind == "swing" and self.straight and self.chance(0.85):
            return "4:" + "r" + "".join(self.pick("c5cw") for _ in range(n // 2 - 2)) + "w"
        if self.kind in ("rock", "punk", "metal") and self.straight and self.chance(0.65):
            cell = self.pick(["r-r-", "r-r-", "rrrr", "r-rr", "r---", "r--r"])
            return "16:" + (cell * 9)[: 2 * n]
        if self.kind == "bossa":
            return "8:" + self.pick(["r--rr--r", "r--55--r", "r--5r--5"])
        if self.kind == "shuffle" and self.straight and self.chance(0.4):
            return "4:" + ("r5" * 9)[: n // 2]
        if self.kind == "funk":
            return "16:" + "r" + "".join(self.pick("r8x--.---5") for _ in range(2 * n - 1))
        return super().bassline()

    def band(self, capo: int) -> list[dict]:
        parts = [p for p in super().band(capo) if p["role"] not in ("drums", "lead")]
        loud = self.chance(DISTORTED.get(self.kind, 0.05))
        for part in parts:
            if part["role"] == "guitar":
                part.pop("offbeat", None)
                if self.kind != "indie":
                    part.pop("omit", None)
                part["jitter_ms"] = float(self.rng.uniform(3, 13))
                if loud:
                    part["program"] = self.pick([27, 27, 28, 29, 29, 30, 30])
                    part["amp"] = float(np.exp(self.rng.uniform(np.log(4), np.log(80))))
                    part["pan"] = float(np.sign(part["pan"]) * self.rng.uniform(0.3, 1))
                    part["power"] = self.style == "power"
                    if self.chance(0.35):
                        part["staccato"] = int(self.rng.uniform(60, 140))
            if part["role"] == "bass" and loud and self.chance(0.3):
                part["amp"] = float(self.rng.uniform(2, 12))
        guitar = next(p for p in parts if p["role"] == "guitar")
        if loud and len([p for p in parts if p["role"] == "guitar"]) == 1 and self.chance(0.7):
            parts.append(dict(guitar, pan=-guitar["pan"], name="guitar double"))
        if not any(p["role"] == "bass" for p in parts) and self.kind != "ballad":
            parts.append({"role": "bass", "name": "bass", "program": self.pick([32, 33, 33, 34]), "level": 100,
                          "jitter_ms": float(self.rng.uniform(3, 12)), "hold": float(self.rng.uniform(0.6, 0.97)),
                          "pattern": {"*": self.bassline(), "chorus": self.bassline()}})  # fmt: skip
        if self.chance(0.75 if self.kind == "ballad" else 0.97):
            first = self.groove()
            parts.append({"role": "drums", "name": "drums", "level": 110, "jitter_ms": float(self.rng.uniform(2, 11)),
                          "pattern": {"*": first, "verse": self.pick([first, self.groove()]), "chorus": self.groove(),
                                      "bridge": self.groove(),
                                      "intro": self.pick([first, self.groove(), None])}})  # fmt: skip
        if self.chance(self.singing):
            low = int(self.rng.integers(43, 62))
            parts.append({"role": "lead", "name": "voice", "voice": int(self.rng.integers(1 << 30)), "program": 53, "level": 100,
                          "density": float(self.rng.uniform(0.3, 0.7)), "vibrato": float(self.rng.uniform(0.1, 0.6)),
                          "range": [low, low + int(self.rng.integers(12, 20))], "jitter_ms": float(self.rng.uniform(8, 30)),
                          "pattern": {"*": "on", "intro": None}})  # fmt: skip
        if self.chance(0.5):
            parts.append({"role": "lead", "name": "licks", "fills": self.chance(0.7), "level": 90,
                          "program": self.pick([26, 27, 29, 30, 56, 57, 65, 66, 22, 11]),
                          "amp": 15.0 if loud else None, "range": [57, 81], "density": 0.5,
                          "pattern": {"*": "on", "verse": None}})  # fmt: skip
        if self.kind in ("swing", "shuffle", "funk") and self.chance(0.4):
            parts.append(self.chordal("keys", self.pick([0, 1, 4, 16, 17]), 80, "comp"))
        if self.kind == "ballad" and self.chance(0.5):
            parts.append(
                {
                    "role": "keys",
                    "name": "strings",
                    "centre": 64,
                    "program": self.pick(PADS),
                    "level": 50,
                    "pattern": "on",
                }
            )
        return parts

    def recording(self) -> dict:
        chain = super().recording()
        chain["drive"] = self.pick([0.8, 1.0, 1.0, 1.6, 2.5, 4.0])
        chain["clip"] = float(self.pick([0, 0, 0, 2, 5, 8]))  # dB over the top
        chain["limit"] = float(self.pick([0, 0, 4, 8, 12]))
        if self.chance(0.3):  # before an audience, in a hall
            chain["crowd_db"] = float(self.rng.uniform(-34, -16))
            chain["room"] = float(self.rng.uniform(0.2, 0.5))
        chain["tilt_db"] = float(self.rng.normal(0, 2.5))
        if self.kind in ("rock", "punk", "metal", "indie") and self.chance(0.5):
            chain["tape_cents"] = float(self.rng.normal(0, 4))
        return chain


def band_spec(seed: int, style: str | None = None) -> dict:
    """A whole song; the same seed gives the same song. ``style`` fixes what would else be drawn."""
    c = Band(seed, style)
    c.capo = 0 if c.kind in ("metal", "punk") else c.pick([0, 0, 0, 1, 2, 3])
    c.tuning = c.pick(["standard", "standard", "half-step-down", "drop-D"])
    low, high = c.tempi if not c.compound and c.beat != 1 else METERS[c.meter][1]
    tempo = float(np.exp(c.rng.uniform(np.log(low), np.log(high))))
    swing = {"swing": c.rng.uniform(0.57, 0.7), "shuffle": c.rng.uniform(0.6, 0.7)}.get(c.kind, 0.5)
    if c.kind in ("funk", "indie", "ballad") and c.chance(0.1):
        swing = c.rng.uniform(0.54, 0.64)
    spec = {
        "title": f"{c.kind} {seed}", "artist": "", "seed": seed, "tempo": tempo, "meter": c.meter, "style": c.kind,
        "swing": float(swing) if c.straight else 0.5, "key": f"{c.names[c.tonic]}:{c.mode}",
        "drift_percent": float(c.pick([0.0, 0.0, 0.3, 1.0, 2.0, 4.0, 7.0])), "silence": float(c.rng.uniform(0.05, 3.0)),
        "ritardando_bars": c.pick([0, 0, 0, 1, 2]), "guitar_tuning": c.tuning, "capo": c.capo,
        "sections": c.sections(), "form": c.form(), "band": c.band(c.capo), "recording": c.recording(),
        "mix": {"drums": c.pick([0.0, 0.0, -3.0, -6.0, -9.0, -12.0]), "voice": c.pick([0.0, 0.0, 3.0, -3.0])},
    }  # fmt: skip
    if any(p["role"] == "drums" for p in spec["band"]) and c.chance(0.25):
        spec["count_in_bars"] = 1
    return spec
