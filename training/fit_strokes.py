"""Train the net that tells strokes.

    python training/fit_strokes.py FOLDER --steps 3000 --out src/ychronos/analysis/weights/strokes.npz [--trial FOLDER]

FOLDER is made by ``strum_songs.py``. Features come from the true beats, moved by up to 12 ms a song and jittered by 6 ms a beat, as the
program's own are. Needs PyTorch; the application does not.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from learning import Learner
from torch import nn

from ychronos.analysis.hands import strokes

HIDDEN = (48, 24)
NEAR = 0.06  # seconds between a slot and its stroke
HARD = 0.9  # strength


class Net(nn.Module):
    def __init__(self, wide: int) -> None:
        super().__init__()
        sizes = (wide, *HIDDEN)
        self.layers = nn.ModuleList(nn.Linear(a, b) for a, b in zip(sizes, sizes[1:], strict=False))
        self.out = nn.Linear(HIDDEN[-1], 2)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        for layer in self.layers:
            x = F.leaky_relu(layer(x), 0.01)
        return self.out(x)


def song_rows(path: Path, seed: int = 0) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, str]:
    """(features, struck, hard, key of section and slot, kind) of a song."""
    d = np.load(path, allow_pickle=False)
    rng = np.random.default_rng([17, seed, int(path.stem.split("_")[0])])
    beat = d["beat"] + rng.uniform(-0.012, 0.012) + rng.normal(0, 0.006, len(d["beat"]))
    position, unit = d["position"].astype(int), int(d["unit"])
    count = d["count"].astype(int)
    compound = unit == 8 and int(np.bincount(count).argmax()) in (2, 4)
    each = strokes.per_beat(unit, compound)
    times = np.append(beat, 2 * beat[-1] - beat[-2])
    bar = np.cumsum(position == 1)
    bar -= bar[0]
    rise, _ = strokes.rises(d["bands"])
    found = strokes.slots(
        times, bar, position - 1, [each] * len(beat), strokes.find_swing(rise, times) if each == 4 else 0.5
    )
    names = {n: i for i, n in enumerate(dict.fromkeys(d["name"].tolist()))}
    starts = np.array([times[np.flatnonzero(bar == b)[0]] for b in range(bar.max() + 1)])
    section = np.clip(np.searchsorted(d["section"], starts + 0.1) - 1, 0, None)
    group = np.array([names[d["name"][s]] for s in section])
    x = strokes.features(d["bands"], found, group, d["chord"])
    struck, hard = np.zeros(len(found.time)), np.zeros(len(found.time))
    for at, strength in zip(d["stroke"], d["strength"], strict=True):
        if strength >= 0.25:
            near = int(np.abs(found.time - at).argmin())
            if abs(found.time[near] - at) < NEAR:
                struck[near], hard[near] = 1, max(hard[near], strength >= HARD)
    return x, struck, hard, group[found.bar] * 1000 + found.index, str(d["kind"])


def report(folder: Path, weights: dict[str, np.ndarray], show: bool = False) -> None:
    """F of slots by kind of song where it would claim, the share it claims, and calibration."""
    by: dict[str, list[tuple[float, float, float, float, float]]] = {}
    for path in sorted(folder.glob("*.npz")):
        x, struck, _, _, kind = song_rows(path)
        p = run(x, weights)[:, 0]
        said = p >= 0.5
        hit = (said & (struck > 0)).sum()
        f = 2 * hit / max(1, said.sum() + struck.sum())
        good = p[said].mean() if said.any() else 0.0
        recall = p[said].sum() / max(1e-9, p.sum())
        by.setdefault(kind, []).append(
            (f, 2 * good * recall / max(1e-9, good + recall), p.mean(), struck.mean(), said.mean())
        )
    for kind, rows in sorted(by.items()):
        f, hoped, mean, true, said = np.array(rows).T
        print(
            f"  {kind}: {len(rows)} songs, F {f.mean():.3f}, hoped {hoped.mean():.3f}, chance {mean.mean():.3f} for {true.mean():.3f} struck, said {said.mean():.3f}"
        )


def run(x: np.ndarray, w: dict[str, np.ndarray]) -> np.ndarray:
    x = np.clip((x - w["mean"]) / w["scale"], -5, 5)
    for k in range(len(HIDDEN)):
        x = x @ w[f"layer{k}.weight"] + w[f"layer{k}.bias"]
        x = np.maximum(x, 0.01 * x)
    return 1 / (1 + np.exp(-(x @ w["out.weight"] + w["out.bias"])))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--steps", type=int, default=3000)
    parser.add_argument("--trial", type=Path)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    torch.manual_seed(5)
    torch.set_num_threads(1)
    songs = [song_rows(p, k) for p in sorted(args.folder.glob("*.npz")) for k in range(2)]
    x = np.concatenate([s[0] for s in songs])
    y = np.stack([np.concatenate([s[1] for s in songs]), np.concatenate([s[2] for s in songs])], axis=1)
    weight = np.concatenate([np.full(len(s[1]), 2000 / len(s[1])) for s in songs])  # songs count alike
    mean, scale = x.mean(0), x.std(0) + 1e-3
    inputs = torch.from_numpy(np.clip((x - mean) / scale, -5, 5).astype(np.float32))
    targets, weights = torch.from_numpy(y.astype(np.float32)), torch.from_numpy(weight.astype(np.float32))
    net = Net(x.shape[1])
    learner = Learner(net, args.steps, 2e-3)
    print(f"{len(songs)} songs, {len(x)} slots, {sum(p.numel() for p in net.parameters())} weights", flush=True)
    while not learner.over:
        learner.next_step()
        some = torch.randint(len(inputs), (2048,))
        noisy = inputs[some] + 0.1 * torch.randn(2048, inputs.shape[1])
        out = net(noisy)
        loss = F.binary_cross_entropy_with_logits(out[:, 0], targets[some, 0], weight=weights[some])
        hard = F.binary_cross_entropy_with_logits(out[:, 1], targets[some, 1], weight=weights[some] * targets[some, 0])
        learner.learn(loss + 0.3 * hard)
        if learner.step % 500 == 0:
            print(f"{learner.step} {learner.seconds:.0f} s {loss.item():.4f}", flush=True)
    done = learner.averaged(Net(x.shape[1]))
    out = {"mean": mean.astype(np.float32), "scale": scale.astype(np.float32)}
    for k, layer in enumerate(done.layers):
        out[f"layer{k}.weight"], out[f"layer{k}.bias"] = layer.weight.detach().numpy().T, layer.bias.detach().numpy()
    out["out.weight"], out["out.bias"] = done.out.weight.detach().numpy().T, done.out.bias.detach().numpy()
    args.out.parent.mkdir(parents=True, exist_ok=True)
    np.savez(args.out, **{k: v.astype(np.float32) for k, v in out.items()})
    for folder in [args.folder, *([args.trial] if args.trial else [])]:
        print(folder.name)
        report(folder, out)


if __name__ == "__main__":
    main()
