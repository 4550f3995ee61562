"""Train the net that tells whether somebody sings and whether a band plays.

    python training/train_singing.py VOICES [VOICES ...] --steps 3000 --trial TRIAL [TRIAL ...] --out src/ychronos/analysis/weights/singing.npz

VOICES and TRIAL are made by ``voice_songs.py``. Needs PyTorch; the application does not.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from learning import Learner
from torch import nn

from ychronos.analysis import singing

FLAT = ("first", "second", "out")  # layers whose weights the application has as one matrix
CROP, BATCH = 400, 12  # frames at 50 Hz


class Net(nn.Module):
    def __init__(self) -> None:
        super().__init__()
        s = singing
        self.first = nn.Conv2d(1, s.FIRST, (5, 7), padding=(2, 3))
        self.second = nn.Conv2d(s.FIRST, s.SECOND, (3, 3), padding=1)
        self.into = nn.Conv1d(s.SECOND * s.ROWS, s.WIDTH, 5, padding=2)
        self.later = nn.ModuleList(nn.Conv1d(s.WIDTH, s.WIDTH, 5, padding=2 * d, dilation=d) for d in s.DILATIONS)
        self.out = nn.Conv1d(s.WIDTH, 2, 1)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        """x (songs, frames, BANDS) at 50 Hz as ``singing.seen`` gives it; log odds (songs, frames / 2, 2)."""
        y = F.elu(self.first(x[:, None]))
        y = F.avg_pool2d(F.max_pool2d(y, (1, 3)), (2, 1))
        y = F.max_pool2d(F.elu(self.second(y)), (1, 2))
        y = y.permute(0, 3, 1, 2).flatten(1, 2)  # rows, then channels within each
        y = F.dropout(F.elu(self.into(y)), 0.2, self.training)
        for layer in self.later:
            y = F.dropout(F.elu(layer(y)), 0.1, self.training) + y
        return self.out(y).transpose(1, 2)

    @property
    def layers(self) -> dict[str, nn.Module]:
        """Name of its weights to each layer."""
        later = {f"later{k}": layer for k, layer in enumerate(self.later)}
        return {"first": self.first, "second": self.second, "into": self.into, **later, "out": self.out}

    def exported(self) -> dict[str, np.ndarray]:
        def array(t: torch.Tensor) -> np.ndarray:
            return t.detach().numpy().astype(np.float16)

        out = {}
        for name, layer in self.layers.items():
            weight = layer.weight.movedim((1, 0), (-2, -1))  # what is seen, then in, out
            if name in FLAT:
                weight = weight.flatten(0, -2)
            out[name], out[f"{name}_bias"] = array(weight), array(layer.bias)
        return out


def load(path: Path) -> Net:
    """The net of weights that were exported."""
    data, net = np.load(path), Net()
    with torch.no_grad():
        for name, layer in net.layers.items():
            there = layer.weight.movedim((1, 0), (-2, -1))  # what is seen, then in, out
            there.copy_(torch.from_numpy(data[name].astype(np.float32)).reshape(there.shape))
            layer.bias.copy_(torch.from_numpy(data[f"{name}_bias"].astype(np.float32)))
    return net


def read(folders: list[Path]) -> tuple[list[np.ndarray], list[np.ndarray]]:
    heard, truth = [], []
    for path in sorted(p for f in folders for p in f.glob("*.npz")):
        try:
            d = np.load(path)
            heard.append(singing.seen(d["bands"].astype(np.float32)))
            truth.append(d["truth"].astype(np.float32))
        except (EOFError, ValueError, OSError):
            continue  # still being written
    return heard, truth


def batch(
    heard: list[np.ndarray], truth: list[np.ndarray], rng: np.random.Generator
) -> tuple[torch.Tensor, torch.Tensor]:
    xs, ys = [], []
    for k in rng.integers(0, len(heard), BATCH):
        limit = min(len(heard[k]) // 2, len(truth[k])) - CROP // 2
        a = int(rng.integers(max(1, limit)))
        x = heard[k][2 * a : 2 * a + CROP] * rng.uniform(0.85, 1.1) + rng.normal(0, 0.015)
        x = x + rng.uniform(-0.06, 0.06) * np.linspace(-1, 1, x.shape[1])
        shift = int(rng.integers(-1, 2))
        x = np.roll(x, shift, 1)
        if rng.random() < 0.3:
            b = int(rng.integers(0, x.shape[1] - 6))
            x[:, b : b + int(rng.integers(2, 6))] = 0
        xs.append(x + rng.normal(0, 0.01, x.shape))
        ys.append(truth[k][a : a + CROP // 2])
    return torch.tensor(np.stack(xs), dtype=torch.float32), torch.tensor(np.stack(ys), dtype=torch.float32)


def report(net: nn.Module, heard: list[np.ndarray], truth: list[np.ndarray]) -> str:
    """Precision, recall, false alarms and error of calibration of both answers, frame by frame."""
    with torch.no_grad():
        odds = [net(torch.tensor(x[None]))[0].numpy() for x in heard]
    out = []
    for k, name in enumerate(("sings", "plays")):
        p = np.concatenate([1 / (1 + np.exp(-o[: len(t), k])) for o, t in zip(odds, truth, strict=True)])
        t = np.concatenate([t[: len(o), k] for o, t in zip(odds, truth, strict=True)])
        p, t = p[np.isfinite(t)], t[np.isfinite(t)]
        hit = ((p > 0.5) & (t > 0.5)).sum()
        precision, recall = hit / max(1, (p > 0.5).sum()), hit / max(1, (t > 0.5).sum())
        bins = np.clip((p * 10).astype(int), 0, 9)
        error = sum(
            abs(p[bins == b].mean() - t[bins == b].mean()) * (bins == b).mean() for b in range(10) if (bins == b).any()
        )
        false = (p[t < 0.5] > 0.5).mean()
        out.append(f"{name}: P {precision:.3f} R {recall:.3f} false alarms {false:.3f} calibration {error:.3f}")
    return "; ".join(out)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folders", type=Path, nargs="+")
    parser.add_argument("--steps", type=int, default=3000)
    parser.add_argument("--start", type=Path, help="weights to go on from")
    parser.add_argument("--rate", type=float, default=3e-3)
    parser.add_argument("--trial", type=Path, nargs="*", default=[])
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    torch.manual_seed(5)
    rng = np.random.default_rng(5)
    heard, truth = read(args.folders)
    trials = [(f, *read([f])) for f in args.trial]
    print(len(heard), "excerpts;", sum(p.numel() for p in Net().parameters()), "weights", flush=True)
    net = load(args.start) if args.start else Net()
    learner = Learner(net, args.steps, args.rate)
    while not learner.over:
        learner.next_step()
        x, y = batch(heard, truth, rng)
        known = torch.isfinite(y)
        loss = F.binary_cross_entropy_with_logits(net(x)[known], y[known])
        learner.learn(loss)
        if learner.step % 500 == 0 and not learner.over:
            heard, truth = read(args.folders)  # more may have been made meanwhile
        if learner.step % 250 == 0 or learner.over:
            kept = learner.averaged(Net()).eval()
            print(learner.step, f"{learner.seconds:.0f} s, loss {loss.item():.3f}", flush=True)
            for folder, h, t in trials:
                print("   ", folder.name, report(kept, h, t), flush=True)
            np.savez(args.out, **kept.exported())
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
