"""Fit the weights that say what sections are called.

    python training/fit_names.py FOLDER [FOLDER ...] --out src/ychronos/analysis/weights/names.npz [--trial FOLDER]

FOLDERS hold recordings with their JAMS. Each song is analysed by the program itself, so that the weights know its mistakes; a
section's true name is that which most of its time has. Convex, deterministic; needs no PyTorch. What was analysed is kept
beside the recordings (NAME.form.npz) for the next time. With --trial the share of time that is named right there is printed.
"""

from __future__ import annotations

import argparse
import json
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
from fit_sections import analysed
from scipy.optimize import minimize

from ychronos.analysis.form import called, sections

RIDGE = 3.0
PLAIN = 0.75  # of a section's time that one name must have for the section to teach anything
SAME = {
    "end": "ending", "outro": "ending", "last": "ending", "tag": "ending", "coda": "ending", "prechorus": "pre-chorus",
    "refrain": "chorus", "blues": "verse", "a": "verse", "b": "bridge", "break": "bridge",
}  # fmt: skip
# other names of the truth, and what they may be called
MAY = {"riff": {"intro", "interlude"}, "turn": {"intro", "interlude"}, "break": {"bridge", "interlude"}, "dub": {"ending", "interlude"},
       "intro": {"intro", "interlude", "ending"}}  # fmt: skip
NO_MUSIC = ("silence", "count-in")


def song_of(path: Path) -> dict[str, Any]:
    """Sections as the program hears them, and the truth's names with their times."""
    kept = path.with_suffix(".form.npz")
    truth = json.loads(path.with_suffix(".jams").read_text())
    rows = next(a["data"] for a in truth["annotations"] if a["namespace"] == "segment_open")
    named = [(r["time"], r["time"] + r["duration"], r["value"].lower()) for r in rows if r["value"] not in NO_MUSIC]
    if not kept.exists():
        song, described, _ = analysed(path)
        found = sections.decide(described).sections
        lead = min(song.grid.lead_in, len(song.grid.bars) - 1)
        lines = [song.grid.clock(s) for s in [*song.grid.starts[lead:], song.grid.end]]
        np.savez(kept, spans=[(s.first, s.last) for s in found], letters=[s.letter for s in found], level=described.level,
                 busy=sections.busy(described), lines=lines)  # fmt: skip
    data = np.load(kept)
    return {
        "spans": [tuple(s) for s in data["spans"].tolist()],
        "letters": [str(x) for x in data["letters"]],
        "level": data["level"],
        "busy": data["busy"],
        "lines": data["lines"],
        "named": named,
    }


def overlaps(song: dict[str, Any], span: tuple[int, int]) -> Counter[str]:
    """Seconds of each true name in a section."""
    lines = song["lines"]
    a, b = lines[span[0]], lines[min(span[1], len(lines) - 1)]
    out: Counter[str] = Counter()
    for start, end, name in song["named"]:
        if min(end, b) > max(start, a):
            out[name] += min(end, b) - max(start, a)
    return out


def role_of(song: dict[str, Any], i: int) -> tuple[int, float]:
    """The true role of a section, -1 for none, and how many seconds speak for it."""
    found = overlaps(song, song["spans"][i])
    if not found:
        return -1, 0.0
    name, seconds = found.most_common(1)[0]
    if seconds < PLAIN * found.total():
        return -1, 0.0
    first, last = i == 0, i == len(song["spans"]) - 1
    role = SAME.get(name, name)
    if role in ("riff", "turn", "intro", "dub"):
        role = "intro" if first else "ending" if last else "interlude"
    return (called.ROLES.index(role) if role in called.ROLES else -1), seconds


def fit(songs: list[dict[str, Any]], ridge: float = RIDGE) -> np.ndarray:
    """(FEATURES, ROLES) weights."""
    rows, roles, weight = [], [], []
    for song in songs:
        looked_at = called.features(song["spans"], song["letters"], song["level"], song["busy"])
        for i, row in enumerate(looked_at):
            role, seconds = role_of(song, i)
            if role >= 0:
                rows.append(row)
                roles.append(role)
                weight.append(min(seconds, 30) / 20)
    x, y, w = np.array(rows), np.array(roles), np.array(weight)
    at = np.arange(len(y))

    def loss(flat: np.ndarray) -> tuple[float, np.ndarray]:
        weights = flat.reshape(x.shape[1], -1)
        z = x @ weights
        z -= z.max(1, keepdims=True)
        p = np.exp(z)
        p /= p.sum(1, keepdims=True)
        wrong = p.copy()
        wrong[at, y] -= 1
        value = -(w * np.log(p[at, y])).sum() + ridge / 2 * (weights**2).sum()
        return float(value), (x.T @ (wrong * w[:, None]) + ridge * weights).ravel()

    start = np.zeros(x.shape[1] * len(called.ROLES))
    return minimize(loss, start, jac=True, method="L-BFGS-B").x.reshape(x.shape[1], -1)


def right(
    song: dict[str, Any], weights: np.ndarray
) -> tuple[float, Counter[tuple[str, str]], list[tuple[float, bool]], float]:
    """Share of time with the right name, what is called what instead, and (how sure, whether right) of the sections."""
    rows = called.features(song["spans"], song["letters"], song["level"], song["busy"])
    good = total = 0.0
    ours, theirs = [], []
    wrong: Counter[tuple[str, str]] = Counter()
    sure: list[tuple[float, bool]] = []
    for span, (role, copy, chance) in zip(song["spans"], called.decide(rows, song["letters"], weights), strict=True):
        found = overlaps(song, span)
        well = 0.0
        for name, seconds in found.items():
            fits = role == SAME.get(name, name) or role in MAY.get(name, ())
            well += seconds * fits
            if not fits:
                wrong[name, role] += seconds
        good, total = good + well, total + found.total()
        sure.append((chance, well > found.total() / 2))
        ours += [(role, copy)] * (span[1] - span[0])
        lines = song["lines"]
        middles = [(lines[b] + lines[min(b + 1, len(lines) - 1)]) / 2 for b in range(*span)]
        theirs += [next((n for a, b, n in song["named"] if a <= m < b), "") for m in middles]
    return good / max(total, 1e-9), wrong, sure, pairs(ours, theirs)


def pairs(one: list[Any], two: list[Any]) -> float:
    """F of pairs of bars that bear one name."""
    a, b = (np.array([[x == y for y in z] for x in z]) for z in (one, two))
    both = (a & b).sum() - len(one)
    return float(2 * both / max(1, a.sum() + b.sum() - 2 * len(one)))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--trial", type=Path, action="append", default=[])
    parser.add_argument("--ridge", type=float, default=RIDGE)
    parser.add_argument("--out", type=Path)
    args = parser.parse_args()
    weights = fit([song_of(p) for folder in args.folders for p in sorted(folder.glob("*.ogg"))], args.ridge)
    if args.out:
        np.savez(args.out, weights=weights.astype(np.float32))
    for folder in [*args.trial, *args.folders]:
        found = [right(song_of(p), weights) for p in sorted(folder.glob("*.ogg"))]
        wrong: Counter[tuple[str, str]] = Counter()
        for _, more, _, _ in found:
            wrong += more
        sure = np.array([(s, r) for _, _, some, _ in found for s, r in some])
        off = abs(sure[:, 0].mean() - sure[:, 1].mean())
        print(
            f"{folder.name}: {len(found)} songs, right {np.mean([f[0] for f in found]):.3f}, pairs {np.mean([f[3] for f in found]):.3f}, sure {sure[:, 0].mean():.2f}, sections right {sure[:, 1].mean():.2f} (off by {off:.2f})"
        )
        print("  " + ", ".join(f"{a} called {b} {round(s)} s" for (a, b), s in wrong.most_common(8)))


if __name__ == "__main__":
    main()
