"""Train the net that tells strokes.

    python training/fit_strokes.py FOLDER [FOLDER ...] --steps 3000 --out src/ychronos/analysis/weights/strokes.npz [--trial FOLDER]

FOLDERS are made by ``strum_songs.py``. Features come from the true beats, moved by up to 12 ms a song and jittered by 6 ms a beat, as the
program's own are. Needs PyTorch; the application does not.
"""

from __future__ import annotations

import argparse
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from learning import Learner
from torch import nn

from ychronos.analysis.hands import strokes

HIDDEN = (96, 48)
DROP, NOISE, DECAY = 0.4, 0.3, 0.1  # songs are few, and easily known again
NEAR = 0.06  # seconds between a slot and its stroke
HARD = 0.9  # strength


class Net(nn.Module):
    def __init__(self, wide: int) -> None:
        super().__init__()
        sizes = (wide, *HIDDEN)
        self.layers = nn.ModuleList(nn.Linear(a, b) for a, b in zip(sizes, sizes[1:], strict=False))
        self.out = nn.Linear(HIDDEN[-1], 3)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        for layer in self.layers:
            x = F.dropout(F.leaky_relu(layer(x), 0.01), DROP, self.training)
        return self.out(x)


def slots_of(d: dict[str, np.ndarray], stem: str, seed: int) -> tuple[strokes.Slots, np.ndarray]:
    """Slots on the true beats, a little moved, and which bars belong together."""
    rng = np.random.default_rng([17, seed, int(stem.split("_")[0])])
    beat = d["beat"] + rng.uniform(-0.012, 0.012) + rng.normal(0, 0.006, len(d["beat"]))
    position, unit, count = d["position"].astype(int), int(d["unit"]), d["count"].astype(int)
    compound = unit == 8 and int(np.bincount(count).argmax()) in (2, 4)
    each = strokes.per_beat(unit, compound)
    times = np.append(beat, 2 * beat[-1] - beat[-2])
    bar = np.cumsum(position == 1)
    bar -= bar[0]
    swing = strokes.find_swing(strokes.rises(d["bands"])[0], times) if each == 4 else 0.5
    found = strokes.slots(times, bar, position - 1, [each] * len(beat), swing)
    names = {n: i for i, n in enumerate(dict.fromkeys(d["name"].tolist()))}
    starts = np.array([times[np.flatnonzero(bar == b)[0]] for b in range(bar.max() + 1)])
    section = np.clip(np.searchsorted(d["section"], starts + 0.1) - 1, 0, None)
    return found, np.array([names[d["name"][s]] for s in section])


def song_rows(path: Path, seed: int = 0) -> tuple[np.ndarray, np.ndarray, np.ndarray, str]:
    """(features, (struck, hard, up), key of section and slot, kind) of a song."""
    d = dict(np.load(path, allow_pickle=False))
    found, group = slots_of(d, path.stem, seed)
    x = strokes.features(strokes.rises(d["bands"]), found, group, d["chord"])
    y = np.zeros((len(found.time), 3))
    for at, strength, up in zip(d["stroke"], d["strength"], d["up"], strict=True):
        if strength >= 0.25:
            near = int(np.abs(found.time - at).argmin())
            if abs(found.time[near] - at) < NEAR:
                y[near] = 1, max(y[near, 1], strength >= HARD), up
    return x, y, group[found.bar] * 1000 + found.index, str(d["kind"])


Loss = Callable[[torch.Tensor, torch.Tensor, torch.Tensor], torch.Tensor]


def train(songs: list[tuple[np.ndarray, np.ndarray]], steps: int, loss: Loss, seed: int) -> dict[str, np.ndarray]:
    """The weights of a net, as they ship, from (features, targets) of songs, which count alike; ``loss`` (outputs, targets,
    weights) is what it learns by."""
    torch.manual_seed(seed)
    torch.set_num_threads(1)
    x, y = (np.concatenate([s[k] for s in songs]) for k in (0, 1))
    weight = np.concatenate([np.full(len(s[1]), 2000 / len(s[1])) for s in songs])
    mean, scale = x.mean(0), x.std(0) + 1e-3
    inputs = torch.from_numpy(np.clip((x - mean) / scale, -5, 5).astype(np.float32))
    targets, weights = torch.from_numpy(y.astype(np.float32)), torch.from_numpy(weight.astype(np.float32))
    net = Net(x.shape[1])
    learner = Learner(net, steps, 2e-3)
    for group in learner.optimiser.param_groups:
        group["weight_decay"] = DECAY
    print(f"{len(songs)} songs, {len(x)} slots, {sum(p.numel() for p in net.parameters())} weights", flush=True)
    while not learner.over:
        learner.next_step()
        some = torch.randint(len(inputs), (2048,))
        out = net(inputs[some] + NOISE * torch.randn(2048, inputs.shape[1]))
        value = loss(out, targets[some], weights[some])
        learner.learn(value)
        if learner.step % 1000 == 0:
            print(f"{learner.step} {learner.seconds:.0f} s {value.item():.4f}", flush=True)
    done = learner.averaged(Net(x.shape[1]))
    made = {"mean": mean, "scale": scale}
    for k, layer in enumerate(done.layers):
        made[f"layer{k}.weight"], made[f"layer{k}.bias"] = layer.weight.detach().numpy().T, layer.bias.detach().numpy()
    made["out.weight"], made["out.bias"] = done.out.weight.detach().numpy().T, done.out.bias.detach().numpy()
    return {k: v.astype(np.float32) for k, v in made.items()}


def stroke_loss(out: torch.Tensor, y: torch.Tensor, weight: torch.Tensor) -> torch.Tensor:
    """Struck or not; where struck, how hard and which way."""
    shares = (weight, 0.3 * weight * y[:, 0], 0.3 * weight * y[:, 0])
    parts = [F.binary_cross_entropy_with_logits(out[:, k], y[:, k], weight=w) for k, w in enumerate(shares)]
    return torch.stack(parts).sum()


def report(folder: Path, weights: dict[str, np.ndarray]) -> None:
    """F of slots by kind of song where it would claim, the share it claims, and calibration."""
    by: dict[str, list[tuple[float, ...]]] = {}
    for path in sorted(folder.glob("*.npz")):
        x, y, key, kind = song_rows(path)
        struck, heard = y[:, 0], run(x, weights)
        p = smoothed(heard[:, 0], key)
        way = smoothed(heard[:, 2], key)[struck > 0] >= 0.5
        said = p >= 0.5
        hit = (said & (struck > 0)).sum()
        f = 2 * hit / max(1, said.sum() + struck.sum())
        good = p[said].mean() if said.any() else 0.0
        recall = p[said].sum() / max(1e-9, p.sum())
        right = float((way == y[struck > 0, 2]).mean()) if struck.any() else 0.0
        row = f, 2 * good * recall / max(1e-9, good + recall), p.mean(), struck.mean(), said.mean(), right
        by.setdefault(kind, []).append(row)
    for kind, rows in sorted(by.items()):
        f, hoped, mean, true, said, way = np.array(rows).T
        print(
            f"  {kind}: {len(rows)} songs, F {f.mean():.3f}, hoped {hoped.mean():.3f}, chance {mean.mean():.3f} for {true.mean():.3f} struck, said {said.mean():.3f}, ways {way.mean():.3f}"
        )


def smoothed(p: np.ndarray, key: np.ndarray) -> np.ndarray:
    """As ``strokes.together`` does it."""
    odds = np.log(np.clip(p, 1e-4, 1 - 1e-4) / np.clip(1 - p, 1e-4, 1 - 1e-4))
    common = np.zeros(len(odds))
    for k in np.unique(key):
        common[key == k] = odds[key == k].mean()
    return 1 / (1 + np.exp(-(strokes.OWN * odds + strokes.COMMONLY * common)))


def run(x: np.ndarray, w: dict[str, np.ndarray]) -> np.ndarray:
    x = np.clip((x - w["mean"]) / w["scale"], -5, 5)
    for k in range(len(HIDDEN)):
        x = x @ w[f"layer{k}.weight"] + w[f"layer{k}.bias"]
        x = np.maximum(x, 0.01 * x)
    return 1 / (1 + np.exp(-(x @ w["out.weight"] + w["out.bias"])))


def arguments(words: str | None) -> argparse.Namespace:
    parser = argparse.ArgumentParser(description=words, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--steps", type=int, default=6000)
    parser.add_argument("--trial", type=Path, action="append", default=[])
    parser.add_argument("--folds", type=int, default=0, help="in how many parts songs are left out in turn")
    parser.add_argument("--out", type=Path, required=True)
    return parser.parse_args()


@dataclass(frozen=True)
class Told:
    """A song as the program hears its strokes on the true beats: its file's arrays, what the nets say (each of ``strokes``), how likely each slot is struck,
    hard and upwards with the other bars, and (number, slots that are said to be struck) of the sections that are told."""

    data: dict[str, np.ndarray]
    found: strokes.Slots
    heard: strokes.Heard
    rows: np.ndarray
    struck: np.ndarray
    hard: np.ndarray
    up: np.ndarray
    sections: list[tuple[int, np.ndarray]]


def told_of(path: Path) -> Told:
    d = dict(np.load(path, allow_pickle=False))
    found, group = slots_of(d, path.stem, 0)
    heard = strokes.rises(d["bands"])
    rows = strokes.features(heard, found, group, d["chord"])
    chances = strokes.chances(rows)
    whole = strokes.together(found, chances[0], group)
    hard, up = (strokes.together(found, x, group, own=0.0) for x in chances[1:])
    each = [(g, np.isin(found.bar, np.flatnonzero(group == g))) for g in range(int(group.max()) + 1)]
    sections = [
        (g, np.flatnonzero(at & (whole >= 0.5)))
        for g, at in each
        if at.any() and strokes.told(rows, whole, chances, at)
    ]
    return Told(d, found, heard, rows, whole, hard, up, sections)


def nearest(song: Told) -> list[tuple[int, int]]:
    """(number of a true stroke, slot it lies at) of the strokes that count."""
    out = []
    for k, (at, strength) in enumerate(zip(song.data["stroke"], song.data["strength"], strict=True)):
        near = int(np.abs(song.found.time - at).argmin())
        if strength >= 0.25 and abs(song.found.time[near] - at) < NEAR:
            out.append((k, near))
    return out


Songs = list[tuple[np.ndarray, np.ndarray]]


def in_folds(
    args: argparse.Namespace, songs: Songs, loss: Loss, tell: Callable[[np.ndarray, np.ndarray], None]
) -> dict[str, np.ndarray]:
    """The weights fitted on all songs; with folds, ``tell`` (outputs, targets) says first how it is on songs left out in turn."""
    order = np.random.default_rng(0).permutation(len(songs))
    left, said = [], []
    for fold in np.array_split(order, args.folds) if args.folds > 1 else []:
        made = train([songs[k] for k in order if k not in fold], args.steps, loss, 7)
        left += [songs[k][1] for k in fold]
        said += [run(songs[k][0], made) for k in fold]
    if left:
        print("songs left out")
        tell(np.concatenate(said), np.concatenate(left))
    return train(songs, args.steps, loss, 7)


def finish(
    args: argparse.Namespace,
    made: dict[str, np.ndarray],
    tell: Callable[[Path, dict[str, np.ndarray]], None],
    folders: list[Path],
) -> None:
    """Write what was made, and tell how good it is on some folders."""
    args.out.parent.mkdir(parents=True, exist_ok=True)
    np.savez(args.out, **made)
    for folder in folders:
        print(folder.name)
        tell(folder, made)


def main() -> None:
    args = arguments(__doc__)
    songs = [song_rows(p, k)[:2] for folder in args.folders for p in sorted(folder.glob("*.npz")) for k in range(2)]
    finish(args, train(songs, args.steps, stroke_loss, 5), report, [*args.folders, *args.trial])


if __name__ == "__main__":
    main()
