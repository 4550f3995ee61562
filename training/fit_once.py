"""Train the net that tells which chords are struck once: left to ring, or cut short.

    python training/fit_once.py FOLDER [FOLDER ...] --steps 1500 --out src/ychronos/analysis/weights/once.npz [--trial FOLDER] [--folds 4]

FOLDERS are made by ``ring_songs.py``. Each song is analysed by the program itself (about 8 s, kept beside it); a chord of its chart rings, or is cut short,
where most of its length lies in one that does. What rests of a chord that is cut short and is written as "no chord" needs no sign, and teaches nothing of cuts.
With --folds, songs that are left out in turn say first how it does on songs that it was not fitted on. For trial folders it is also told how many of the
true ones are found; a chord that is cut short also by "no chord" for a third of it. Needs PyTorch.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from fit_strokes import arguments, in_folds, run

from ychronos.analysis import pipeline
from ychronos.analysis.hands import once
from ychronos.audio import recording

KINDS = ("rings", "cuts")
MOST = 0.6  # of a chord's length
RESTS = 0.3  # of a chord that is cut short written as "no chord": it is found
SHOWN = 0.6


def marked(path: Path, kind: str) -> list[tuple[float, float]]:
    """From when to when chords of a song ring ("rings") or are cut short ("cuts")."""
    kept = path.with_suffix(f".{kind}.json")
    return [(a, b) for a, b in json.loads(kept.read_text())] if kept.exists() else []


def inside(path: Path, kind: str, spans: np.ndarray) -> np.ndarray:
    """(n,) whether most of each of the program's chords (n, 2) lies in chords that are marked."""
    parts = [sum(max(0.0, min(b, d) - max(a, c)) for c, d in marked(path, kind)) for a, b in spans]
    return np.array(parts) > MOST * (spans[:, 1] - spans[:, 0])


def seen(path: Path) -> dict[str, np.ndarray]:
    """What the program sees of a song's chords, as it wrote them."""
    kept = path.with_suffix(".once.npz")
    if not kept.exists():
        song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
        spans = once.spans_of(song)
        x = once.features(once.listen(evidence), spans, 60 / song.grid.tempo())
        np.savez(kept, x=x, spans=np.array(spans), plays=[not c.chord.is_none for c in song.chords])
    return dict(np.load(kept))


def rows_of(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """(features, (rings, is cut short, counts as to that)) of the chords of a song that can be told."""
    d = seen(path)
    rests = np.append(~d["plays"][1:], False)
    y = np.stack([*(inside(path, kind, d["spans"]) for kind in KINDS), ~rests], axis=1)
    use = d["plays"] & ~np.isnan(d["x"]).any(1)
    return d["x"][use], y[use].astype(float)


def loss(out: torch.Tensor, y: torch.Tensor, _weight: torch.Tensor) -> torch.Tensor:
    wrong = F.binary_cross_entropy_with_logits(out[:, :2], y[:, :2], reduction="none")
    return (wrong[:, 0] + wrong[:, 1] * y[:, 2]).mean()


def measured(right: int, said: int, true: int) -> str:
    return (
        f"right {right / max(1, said):.2f}, found {right / max(1, true):.2f}, F {2 * right / max(1, said + true):.2f}"
    )


def tell(name: str, p: np.ndarray, y: np.ndarray) -> None:
    for k, kind in enumerate(KINDS):
        chance, true = (p[:, 0], y[:, 0] > 0) if k == 0 else (p[y[:, 2] > 0, 1], y[y[:, 2] > 0, 1] > 0)
        for least in (0.3, 0.5, SHOWN):
            said = chance >= least
            print(
                f"  {name}, {kind} from {least}: {len(true)} chords, {true.sum()} true,",
                measured((said & true).sum(), said.sum(), true.sum()),
            )
        edges = np.linspace(0, 1, 6)
        parts = [(chance >= low) & (chance < high) for low, high in zip(edges, edges[1:], strict=False)]
        print("    said/true", [f"{chance[m].mean():.2f}/{true[m].mean():.2f} ({m.sum()})" for m in parts if m.any()])


def report(folder: Path, weights: dict[str, np.ndarray]) -> None:
    rows, found = [], np.zeros((2, 2), int)
    for path in sorted(folder.glob("*.ogg")):
        d = seen(path)
        x, y = rows_of(path)
        rows.append((run(x, weights), y))
        p = np.zeros((len(d["plays"]), 2))
        use = d["plays"] & ~np.isnan(d["x"]).any(1)
        p[use] = rows[-1][0][:, :2]
        long = np.diff(d["spans"], axis=1)[:, 0]
        for k, kind in enumerate(KINDS):
            for a, b in marked(path, kind):
                over = np.clip(np.minimum(b, d["spans"][:, 1]) - np.maximum(a, d["spans"][:, 0]), 0, None)
                rests = k == 1 and over[~d["plays"]].sum() > RESTS * (b - a)
                found[k] += rests or ((p[:, k] >= SHOWN) & (over > MOST * long)).any(), 1
    tell(folder.name, *(np.concatenate([r[k] for r in rows]) for k in (0, 1)))
    for kind, (hit, true) in zip(KINDS, found, strict=True):
        print(f"  {folder.name}: {hit / max(1, true):.2f} of all {true} {kind} found")


def main() -> None:
    args = arguments(__doc__)
    songs = [rows_of(p) for folder in args.folders for p in sorted(folder.glob("*.ogg"))]
    songs = [(x, y) for x, y in songs if len(y)]
    made = in_folds(args, songs, loss, lambda p, y: tell("", p, y))
    made["out.weight"], made["out.bias"] = made["out.weight"][:, :2], made["out.bias"][:2]
    np.savez(args.out, **{k: v.astype(np.float16) if v.ndim == 2 else v for k, v in made.items()})
    for folder in args.trial:
        report(folder, made)


if __name__ == "__main__":
    main()
