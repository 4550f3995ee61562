"""Specs of songs with wide habits of form: wholes of sixteen bars, AABA, twelve bars, double choruses, riffs as intro.

    python training/forms.py --seed 60000 --count 24 --out FOLDER

Harmony, band and sound are the song maker's random ones; what is widened is how sections are built. A section is what a player would give
a name: its phrases always follow each other in one texture. Seeds: fitting 60000.. , trials 61000.. , reports 62000.. .
"""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np
from songmaker.randomsong import Composer, random_spec

KINDS = ("whole", "whole", "aaba", "twelve", "double", "riff", "through", "pre", "plain")


def phrases(c: Composer, pattern: str, bars: int) -> str:
    """A chart of phrases by a pattern as "AABA", each so many bars; "'" after one gives it another last bar."""
    made: dict[str, list[str]] = {}
    out: list[str] = []
    for k, letter in enumerate(pattern):
        if letter == "'":
            continue
        if letter not in made:
            made[letter] = c.chart(bars, "T" if letter == "A" else c.pick("SDT")).split(" | ")
        phrase = list(made[letter])
        if pattern[k + 1 : k + 2] == "'":
            phrase[-1] = c.bar("D")[0]
        out += phrase
    return " | ".join(out)


def form_spec(seed: int) -> dict:
    """A whole song; the same seed gives the same song."""
    spec = random_spec(seed)
    c = Composer(seed)
    c.rng = np.random.default_rng([90001, seed])
    kind = c.pick(KINDS)
    sections, form = spec["sections"], ["intro"]
    four = 4 if spec["meter"] not in ("12/8",) else 2
    verse = {"dynamics": 0.88}
    if kind == "whole":
        sections["verse"] = {
            "chart": phrases(c, c.pick(["AA'", "AB", "AA'BA", "ABAC", "AB"]), c.pick([four, 2 * four])),
            **verse,
        }
        sections["chorus"] = {"chart": phrases(c, c.pick(["AA'", "AB", "A", "AA'AB"]), c.pick([four, 2 * four]))}
        form += ["verse", "chorus", "verse", "chorus", c.pick(["bridge", "verse"]), "chorus"]
    elif kind == "aaba":
        sections["verse"] = {
            "chart": phrases(c, c.pick(["AABA", "AA'BA", "AA'BA'"]), c.pick([four, 2 * four])),
            **verse,
        }
        form += ["verse"] * c.pick([2, 3, 3])
    elif kind == "twelve":
        tonic, names = c.tonic, c.names
        one, four_, five = (f"{names[(tonic + k) % 12]}:7" for k in (0, 5, 7))
        chart = [
            one,
            c.pick([one, four_]),
            one,
            one,
            four_,
            four_,
            one,
            one,
            five,
            c.pick([four_, five]),
            one,
            c.pick([five, one]),
        ]
        sections["verse"] = {"chart": " | ".join(chart)}
        form = c.pick([["intro"], []]) + ["verse"] * c.pick([3, 4, 5])
    elif kind == "double":
        form += ["verse", "chorus", "chorus", "verse", "chorus", "chorus", "bridge", "chorus", "chorus"]
    elif kind == "riff":
        riff = c.chart(c.pick([2, four])).split(" | ")
        sections["intro"] = {"chart": " | ".join(riff * 2)}
        sections["verse"] = {"chart": " | ".join(riff * c.pick([2, 4]) + c.chart(four, "S").split(" | ")), **verse}
        form += ["verse", "chorus", "intro", "verse", "chorus", "intro"]
    elif kind == "through":
        for name in ("verse", "pre-chorus", "chorus", "bridge", "coda"):
            sections[name] = {"chart": c.chart(c.pick([four, 2 * four, 2 * four]), c.pick("TSD"))}
        form += ["verse", "pre-chorus", "chorus", "bridge", "coda"]
    elif kind == "pre":
        sections["pre-chorus"] = {"chart": c.chart(four, "S"), "dynamics": 0.94}
        form += ["verse", "pre-chorus", "chorus", "verse", "pre-chorus", "chorus", "bridge", "chorus"]
    else:
        form += ["verse", "chorus", "verse", "chorus", "bridge", "chorus"]
    if c.chance(0.6):
        form.append("ending")
    spec.update(title=f"{kind} {seed}", form=form, sections=sections)
    spec["recording"].pop("fade_out_seconds", None)
    return spec


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--songmaker", type=Path, default=Path("bench/tools"), help="folder that holds songmaker/")
    parser.add_argument("--seed", type=int, default=60000)
    parser.add_argument("--count", type=int, default=24)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    import make_song
    from songmaker import render

    args.out.mkdir(parents=True, exist_ok=True)
    for seed in range(args.seed, args.seed + args.count):
        try:
            audio, jams, _ = make_song.make_song(form_spec(seed))
        except (ValueError, KeyError, IndexError, StopIteration) as error:
            print(f"{seed}: skipped, {type(error).__name__} {error}", flush=True)
            continue
        render.write_vorbis(audio, args.out / f"{seed}.ogg")
        (args.out / f"{seed}.jams").write_text(json.dumps(jams))
        print(f"{seed}: {jams['file_metadata']['title']}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
