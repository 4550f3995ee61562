"""Specs of songs in which hardly anybody plays the root: accompanists who leave it to the bass, and a bass that goes its own ways.

As ``arranged``, in the schools where that is usual. The chart's chord is then told by what is left of it (third, seventh, ninth) and by
where harmony comes from and goes to. Seeds: training 870000.., reports 879000.. .
"""

from __future__ import annotations

from arranged import STYLES, Arranged
from idioms import Writer

SCHOOLED = {"swing": 5, "bossa": 2, "latin": 2, "ballad": 2, "waltz": 1, "funk": 1, "shuffle": 1}
FREE = {  # figures that meet the root by chance
    "4/4": ["4:cccc", "4:cwcw", "4:tc5w", "4:5crt", "4:vtsw", "4:-t5w", "2:tc", "2:5r", "8:t--5--vw", "4:c-cw", "4:twrw"],
    "3/4": ["4:ccw", "4:t5w", "4:5-t", "4:c--", "4:tcw"],
}  # fmt: skip


class Roaming(Arranged):
    """A composer of such songs."""

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        while self.style_name not in SCHOOLED or self.meter not in ("4/4", "3/4", "12/8", "6/8"):
            self.style_name = list(SCHOOLED)[self.drawn(list(SCHOOLED.values()))]
            self.meter = "3/4" if self.style_name == "waltz" else "4/4"
            _, _, self.tempi, _, self.figures = STYLES[self.style_name]
            self._measure()
        self.kind = {"waltz": "ballad", "latin": "bossa"}.get(self.style_name, self.style_name)
        self.writer = Writer(self.rng, self.pick(["swung", "swung", "swung", "pop", "blues"]))
        self.writer.slashes = self.pick([0.0, 0.0, 0.05, 0.15])
        self.mode = self.writer.mode
        self.straying = self.pick([0.1, 0.3, 0.6, 1.0])

    def bassline(self) -> str:
        if self.chance(self.straying) and self.meter in FREE:
            return self.pick(FREE[self.meter])
        return super().bassline()

    def band(self, capo: int) -> list[dict]:
        made = super().band(capo)
        without = self.pick([[0], [0], [0, 7], [7], []])
        for part in made:
            if part["role"] in ("guitar", "keys") and not part.get("power") and without and self.chance(0.85):
                part["omit"] = without
            if part["role"] == "bass":
                part["loose"] = self.straying
        return made
