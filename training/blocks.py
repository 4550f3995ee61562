"""Specs of arranged songs (``arranged``) with wide forms, half of them without anything but harmony to tell sections by.

Accompanists without a singer often play one pattern from end to end: where a section begins is heard from what repeats alone. A section is
what a player would give a name: one whose phrases always follow each other where nothing tells them apart is a whole (AABA played again and
again, sixteen bars of two halves), one that also comes without the other is not (verse, verse, chorus, verse, chorus). A seed gives one song.
Seeds: training 850000.., trials 858000..; reports 859000.. .
"""

from __future__ import annotations

from arranged import Arranged, arranged_spec
from idioms import Passage

KINDS = ("separate", "separate", "separate", "whole", "whole", "aaba", "twelve", "once", "double", "bridge")


class Blocks(Arranged):
    """A composer of these forms; ``flat`` where every section is played alike."""

    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self.flat = self.chance(0.5)
        self.form_kind = self.pick(KINDS)
        self.phrase = self.pick([8, 8, 8, 4])

    def joined(self, shape: str) -> Passage:
        """Phrases by a shape such as "AABA"; "'" after one gives it another last bar."""
        made: dict[str, Passage] = {}
        bars: list = []
        for k, letter in enumerate(shape):
            if letter == "'":
                continue
            if letter not in made:
                made[letter] = self.writer.passage(self.phrase, closes=0.4)
            phrase = list(made[letter].bars)
            if shape[k + 1 : k + 2] == "'":
                phrase[-1] = self.writer.passage(4, closes=0.9).bars[-1]
            bars += phrase
        return Passage(0, self.mode, bars)

    def sections(self) -> dict:
        passages = self.writer.song()
        if self.form_kind == "aaba":
            passages["verse"] = self.joined(self.pick(["AABA", "AA'BA", "AA'BA'"]))
        elif self.form_kind == "whole":
            passages["verse"] = self.joined(self.pick(["AA'", "AB", "AB", "ABAC"]))
            passages["chorus"] = self.joined(self.pick(["AA'", "AB", "AB"]))
        elif self.form_kind == "twelve":
            self.phrase = 4
            passages["verse"] = self.joined("ABC")
        else:
            for name in ("verse", "chorus"):
                passages[name] = self.writer.passage(self.pick([self.phrase, self.phrase, 8, 16]), closes=0.4)
        made = {}
        for name, passage in passages.items():
            key = f"{self.names[(self.tonic + passage.shift) % 12]}:{passage.mode}"
            made[name] = {"chart": self.chart_of(passage), "key": key}
        if not self.flat:
            made["verse"]["dynamics"] = self.pick([0.85, 0.9, 1.0])
        return made

    def form(self) -> list:
        v, c, b = "verse", "chorus", "bridge"
        forms = {
            "separate": [[v, v, c, v, c], [v, v, c, v, c, c], [v, c, v, v, c], [v, v, c, c, v, c]],
            "whole": [[v, c, v, c, c], [v, c, v, c, b, c], [v, v, c, v, c], [v, c, v, v, c]],
            "aaba": [[v, v], [v, v, v]],
            "twelve": [[v, v, v], [v] * 4, [v] * 5],
            "once": [[v, v, b, v], [v, v, c, v, v, c]],
            "double": [[v, c, c, v, c, c, b, c, c], [v, v, c, c, v, c, c]],
            "bridge": [[v, c, v, c, b, c], [v, v, c, b, v, c]],
        }
        form = list(self.pick(forms[self.form_kind]))
        if not self.flat or self.chance(0.3):
            form = ["intro", *form] if self.chance(0.6) else form
            form = [*form, "ending"] if self.chance(0.5) else form
        return form

    def band(self, capo: int) -> list[dict]:
        made = super().band(capo)
        if not self.flat:
            return made
        made = [p for p in made if p["role"] != "lead"]
        for part in made:
            if isinstance(part.get("pattern"), dict):
                part["pattern"] = {"*": part["pattern"]["*"]}
            if part["role"] == "drums" and isinstance(part["pattern"]["*"], dict):
                part["pattern"]["*"]["fills"] = False
        return made


def block_spec(seed: int) -> dict:
    """A whole song; the same seed gives the same song."""
    spec = arranged_spec(seed, Blocks)
    return {**spec, "title": f"{spec['style']} {seed}"}
