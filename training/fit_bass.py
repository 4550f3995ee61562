"""Train what tells the bass as it is played: the net for beginnings, and the weights of notes.

    python training/fit_bass.py FOLDER [FOLDER ...] --steps 3000 --out src/ychronos/analysis/weights/bassline.npz [--trial FOLDER]

FOLDERS are made by ``strum_songs.py``. Beginnings by a small net as for strokes; notes by a conditional logit over E1 .. G3 given the
note before, by L-BFGS. Needs PyTorch; the application does not.
"""

from __future__ import annotations

from itertools import repeat
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from fit_strokes import NEAR, arguments, finish, run, slots_of, train
from logit import conditional_logit

from ychronos.analysis.chains import best_way
from ychronos.analysis.hands import strokes
from ychronos.analysis.lines import bassline
from ychronos.theory.chord import ChordError, parse_harte

RIDGE = 1e-4


def onset_rows(path: Path, seed: int = 0) -> tuple[np.ndarray, np.ndarray, strokes.Slots, np.ndarray]:
    d = dict(np.load(path, allow_pickle=False))
    found, group = slots_of(d, path.stem, seed)
    x = bassline.onset_features(
        d["bands"], strokes.rises(d["bands"]), d["notes"], d["bass_heard"], found, group, d["chord"]
    )
    begun = np.zeros(len(found.time))
    for at in d["bass_time"]:
        near = int(np.abs(found.time - at).argmin())
        if abs(found.time[near] - at) < NEAR:
            begun[near] = 1
    return x, begun, found, group


def note_rows(path: Path) -> list[tuple[np.ndarray, int, int]]:
    """(candidate features, which is right, which was before) of each true note."""
    d = dict(np.load(path, allow_pickle=False))
    out = []
    before = -1
    for k, (at, note) in enumerate(zip(d["bass_time"], d["bass_note"], strict=True)):
        until = d["bass_time"][k + 1] if k + 1 < len(d["bass_time"]) else at + d["bass_length"][k]
        if bassline.LOW <= note <= bassline.HIGH and until - at > 0.06:
            x = bassline.candidate_features(bassline.low_notes(d["notes"], at, until), about(d, at, until))
            out.append((x, int(note) - bassline.LOW, before))
        before = int(note) - bassline.LOW if bassline.LOW <= note <= bassline.HIGH else -1
    return out


def about(d: dict[str, np.ndarray], at: float, until: float) -> bassline.Around:
    which = max(0, int(np.searchsorted(d["chord"], at + 0.02)) - 1)
    try:
        chord = parse_harte(str(d["label"][which]))
    except ChordError:
        chord = None
    return bassline.about_of(chord, d["bass_heard"], at, until)


def fit_notes(rows: list[tuple[np.ndarray, int, int]]) -> tuple[np.ndarray, np.ndarray]:
    x = np.array([r[0] for r in rows])
    right, before = np.array([r[1] for r in rows]), np.array([r[2] for r in rows])
    step = bassline.step_features()
    stepped = np.where(before[:, None, None] >= 0, step[np.clip(before, 0, None)], 0.0)
    both = np.concatenate([x, stepped], axis=2)
    found, worst = conditional_logit(both, right, RIDGE)
    print(f"{len(right)} notes, {np.exp(-worst):.3f} mean chance of the right one", flush=True)
    return found[: x.shape[2]], found[x.shape[2] :]


def report(folder: Path, w: dict[str, np.ndarray]) -> None:
    """F of beginnings, of notes, and share of true beginnings whose note is right, by kind of song."""
    by: dict[str, list[tuple[float, float, float]]] = {}
    for path in sorted(folder.glob("*.npz")):
        d = dict(np.load(path, allow_pickle=False))
        if not len(d["bass_time"]):
            continue
        x, begun, found, group = onset_rows(path)
        chance = strokes.together(found, run(x, w)[:, 0], group)
        said = np.flatnonzero(chance >= bassline.BEGINS)
        hit = begun[said].sum()
        f = 2 * hit / max(1, len(said) + begun.sum())
        times = [*found.time[said].tolist(), float(found.time[-1] + 0.3)]
        local = np.array(
            [
                bassline.candidate_features(bassline.low_notes(d["notes"], a, b), about(d, a, b)) @ w["note"]
                for a, b in zip(times[:-1], times[1:], strict=True)
            ]
        )
        path_ = best_way(local, repeat(bassline.step_features() @ w["step"])) + bassline.LOW
        right, used = 0, set()
        for at, note in zip(d["bass_time"], d["bass_note"], strict=True):
            near = [k for k in range(len(said)) if abs(times[k] - at) <= 0.05 and path_[k] == note and k not in used]
            if near:
                used.add(near[0])
                right += 1
        note_f = 2 * right / max(1, len(said) + len(d["bass_time"]))
        by.setdefault(str(d["kind"]), []).append((f, note_f, right / max(1.0, hit)))
    for kind, rows in sorted(by.items()):
        f, note_f, share = np.array(rows).T
        print(
            f"  {kind}: {len(rows)} songs, F of beginnings {f.mean():.3f}, of notes {note_f.mean():.3f}, right notes {share.mean():.3f}"
        )


def begin_loss(out: torch.Tensor, y: torch.Tensor, weight: torch.Tensor) -> torch.Tensor:
    return F.binary_cross_entropy_with_logits(out[:, 0], y[:, 0], weight=weight)


def main() -> None:
    args = arguments(__doc__)
    paths = [p for folder in args.folders for p in sorted(folder.glob("*.npz"))]
    rows = [onset_rows(p, k)[:2] for p in paths for k in range(2)]
    made = train([(x, y[:, None]) for x, y in rows], args.steps, begin_loss, 6)
    note, step = fit_notes([row for p in paths for row in note_rows(p)])
    made |= {"note": note.astype(np.float32), "step": step.astype(np.float32)}
    finish(args, made, report, [*args.folders, *args.trial])


if __name__ == "__main__":
    main()
