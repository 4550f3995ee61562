"""Train the beat and bar net.

    python training/train_pulse.py FEATURES [FEATURES ...] --steps 4000 --out src/ychronos/analysis/weights/pulse.npz

FEATURES are folders made by ``features.py``. Needs PyTorch; the application does not.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
import torch
from learning import PEAK_RATE, Learner, gather
from torch import nn
from torch.nn import functional as F

from ychronos.analysis import net as weights
from ychronos.analysis.beats import pulsenet
from ychronos.analysis.spectra import BAND_RATE, BANDS

CROP = 1500  # frames: 30 s
WIDTH, BLOCKS = 40, 11
BESIDE = 0.7, 0.3  # share of the first of two nets in what both say of beats, and of bar lines
METER_CLASS = {m: i for i, m in enumerate(pulsenet.METERS)}


class Net(nn.Module):
    def __init__(self, width: int = WIDTH) -> None:
        super().__init__()
        self.front = nn.Conv1d(pulsenet.CHANNELS, width, 5, padding=2)
        self.blocks = nn.ModuleList(
            nn.ModuleList([nn.Conv1d(width, width, 3, padding=2**i, dilation=2**i), nn.Conv1d(width, width, 1)])
            for i in range(BLOCKS)
        )
        self.head = nn.Conv1d(width, 2 + pulsenet.PERIOD_CLASSES + len(pulsenet.METERS), 1)
        self.drop = nn.Dropout(0.1)

    def forward(self, x: torch.Tensor) -> torch.Tensor:
        x = F.elu(self.front(x))
        for conv, mix in self.blocks:
            x = x + mix(self.drop(F.elu(conv(x))))
        return self.head(F.elu(x))


class Song:
    def __init__(self, path: Path) -> None:
        d = np.load(path)
        self.bands = d["bands"]
        bands = self.bands.astype(np.float32)
        self.loud = np.percentile(bands.sum(1), 95) / BANDS + 1e-9
        self.changes = 3 * pulsenet.harmony_changes(d["notes"].astype(np.float32), len(bands))
        self.beat, self.down = d["beat"], d["position"] == 1
        unit, count = d["unit"], d["count"]
        compound = (unit == 8) & np.isin(count, (2, 3, 4))
        self.meter = np.array(
            [
                METER_CLASS.get((int(c), bool(t), bool(u == 8 and not t)), -1)
                for c, t, u in zip(count, compound, unit, strict=True)
            ]
        )
        self.sure = bool(d["sure"]) if "sure" in d else True  # whether its ones are known
        gap = np.diff(self.beat)
        self.period = 60 / np.concatenate([gap, gap[-1:]]).clip(0.1, 3)


def draw(song: Song, rng: np.random.Generator) -> tuple[np.ndarray, ...]:
    stretch = float(np.exp(rng.uniform(-0.16, 0.16)))
    n = len(song.bands)
    span = int(CROP * stretch)
    start = int(rng.integers(-100, max(1, n - span // 2)))
    at = start + np.arange(CROP) * stretch
    low = np.floor(at).astype(int)
    part = (at - low)[:, None].astype(np.float32)
    inside = (low >= 0) & (low < n - 1)
    low = np.clip(low, 0, n - 2)
    bands = song.bands[low].astype(np.float32) * (1 - part) + song.bands[low + 1].astype(np.float32) * part
    extra = song.changes[low] * (1 - part) + song.changes[low + 1] * part
    curve = np.interp(np.arange(BANDS), [0, 15, 30, 45, 59], rng.normal(0, 0.45, 5))
    bands = bands * np.exp(curve)[None].astype(np.float32) / song.loud * float(np.exp(rng.normal(0, 0.2)))
    if rng.random() < 0.3:
        bands = bands + np.abs(rng.normal(0, 0.03 * rng.random(), bands.shape)).astype(np.float32)
    x = np.concatenate([np.log1p(40 * bands), extra], axis=1) * inside[:, None]
    if rng.random() < 0.2:
        x[:, BANDS:] = 0
    frame = (song.beat * BAND_RATE - start) / stretch
    targets = np.zeros((2, CROP), np.float32)
    for row, frames in ((0, frame), (1, frame[song.down])):
        for off, value in ((-2, 0.25), (2, 0.25), (-1, 0.6), (1, 0.6), (0, 1.0)):
            k = np.round(frames).astype(int) + off
            k = k[(k >= 0) & (k < CROP)]
            targets[row, k] = np.maximum(targets[row, k], value)
    frames_index = np.clip(np.searchsorted(frame, np.arange(CROP), "right") - 1, 0, len(frame) - 1)
    inside_music = inside & (np.arange(CROP) >= frame[0] - 5) & (np.arange(CROP) <= frame[-1] + 25)
    bpm = song.period[frames_index] / stretch**-1
    period = np.array(
        (pulsenet.PERIOD_CLASSES - 1) * np.log(bpm / pulsenet.SLOWEST) / np.log(pulsenet.FASTEST / pulsenet.SLOWEST)
    )
    meter = np.where(inside_music, song.meter[frames_index], -1)
    return (
        x.T.astype(np.float32),
        targets,
        np.clip(period, 0, pulsenet.PERIOD_CLASSES - 1).astype(np.float32),
        meter if song.sure else np.full_like(meter, -1),
        inside_music,
        np.float32(song.sure),
    )


def loss_of(
    out: torch.Tensor,
    targets: torch.Tensor,
    period: torch.Tensor,
    meter: torch.Tensor,
    music: torch.Tensor,
    sure: torch.Tensor,
) -> tuple[torch.Tensor, list[float]]:
    p = pulsenet.PERIOD_CLASSES
    beat = F.binary_cross_entropy_with_logits(out[:, 0], targets[:, 0])
    down = F.binary_cross_entropy_with_logits(out[:, 1], targets[:, 1], reduction="none").mean(1)
    down = (down * sure).sum() / sure.sum().clamp(min=1)
    classes = torch.arange(p).float()
    soft = torch.softmax(-0.5 * ((classes - period[..., None]) / 0.7) ** 2, dim=-1)
    ce = -(soft * F.log_softmax(out[:, 2 : 2 + p].transpose(1, 2), -1)).sum(-1)
    period_loss = (ce * music).sum() / music.sum().clamp(min=1)
    known = (meter >= 0).sum().clamp(min=1)
    meter_loss = F.cross_entropy(out[:, 2 + p :], meter, ignore_index=-1, reduction="sum") / known
    return beat + 1.2 * down + 0.03 * period_loss + 0.03 * meter_loss, [
        float(beat),
        float(down),
        float(period_loss),
        float(meter_loss),
    ]


def save(net: Net, path: Path) -> None:
    s = {k: v.detach().numpy() for k, v in net.state_dict().items()}
    out = {"front.weight": s["front.weight"].transpose(2, 1, 0), "front.bias": s["front.bias"]}
    for i in range(BLOCKS):
        out[f"block{i}.weight"] = s[f"blocks.{i}.0.weight"].transpose(2, 1, 0)
        out[f"block{i}.bias"] = s[f"blocks.{i}.0.bias"]
        out[f"block{i}.mix.weight"] = s[f"blocks.{i}.1.weight"][:, :, 0].T
        out[f"block{i}.mix.bias"] = s[f"blocks.{i}.1.bias"]
    out["head.weight"], out["head.bias"] = s["head.weight"][:, :, 0].T, s["head.bias"]
    path.parent.mkdir(parents=True, exist_ok=True)
    np.savez(path, **{k: v.astype(np.float16) for k, v in out.items()})


def load(paths: list[Path], width: int | None = None) -> Net:
    """A net to go on training from, out of one or two files that ``save`` wrote: two side by side in one, which says at
    first what both said together before they were joined (with the shares of beats and bars that they had), and what it
    is wider than they are is at random, and nothing listens to it yet. Without ``width`` it is as wide as they are."""
    files = [weights.read(path) for path in paths]
    net = Net(width or sum(len(d["front.bias"]) for d in files))
    both = len(paths) == 2
    shares = [(BESIDE[0], BESIDE[1]), (1 - BESIDE[0], 1 - BESIDE[1])] if both else [(1.0, 1.0)]
    with torch.no_grad():
        net.head.weight.zero_()
        net.head.bias.zero_()
        at = 0
        for file, (share, bar) in zip(files, shares, strict=True):
            d = {k: torch.from_numpy(v) for k, v in file.items()}
            here = slice(at, at + len(d["front.bias"]))
            net.front.weight[here], net.front.bias[here] = d["front.weight"].permute(2, 1, 0), d["front.bias"]
            for i, (conv, mix) in enumerate(net.blocks):
                for layer, weight in (
                    (conv, d[f"block{i}.weight"].permute(2, 1, 0)),
                    (mix, d[f"block{i}.mix.weight"].T[:, :, None]),
                ):
                    layer.weight[here] = 0
                    layer.weight[here, here] = weight
                conv.bias[here], mix.bias[here] = d[f"block{i}.bias"], d[f"block{i}.mix.bias"]
            said = torch.full((len(net.head.bias), 1), share)
            said[1] = bar
            net.head.weight[:, here, 0] = said * d["head.weight"].T
            net.head.bias += said[:, 0] * d["head.bias"]
            at = here.stop
    return net


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("features", nargs="+", type=Path)
    parser.add_argument("--steps", type=int, default=4000)
    parser.add_argument("--batch", type=int, default=8)
    parser.add_argument(
        "--rate", type=float, default=PEAK_RATE, help="highest learning rate; less where a net goes on learning"
    )
    parser.add_argument("--start", type=Path, nargs="+", help="weights (.npz) of a net, or of two, to go on from")
    parser.add_argument(
        "--width", type=int, help=f"channels; without it {WIDTH}, or as many as the nets to go on from have"
    )
    parser.add_argument("--threads", type=int, default=1)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    torch.manual_seed(1)
    torch.set_num_threads(args.threads)
    rng = np.random.default_rng(1)
    known: dict[Path, Song] = {}
    songs = gather(args.features, known, Song)
    print(len(songs), "songs", sum(len(s.bands) for s in songs) / BAND_RATE / 3600, "hours", flush=True)
    net = load(args.start, args.width) if args.start else Net(args.width or WIDTH)
    print(sum(p.numel() for p in net.parameters()), "weights", flush=True)
    learner, running = Learner(net, args.steps, args.rate), np.zeros(4)
    while not learner.over:
        learner.next_step()
        if learner.step % 200 == 0:
            songs = gather(args.features, known, Song)
        batch = [draw(songs[int(rng.integers(len(songs)))], rng) for _ in range(args.batch)]
        x, t, p, m, inside, sure = (torch.from_numpy(np.stack(part)) for part in zip(*batch, strict=True))
        loss, parts = loss_of(net(x), t, p, m, inside.float(), sure)
        learner.learn(loss)
        running = 0.98 * running + 0.02 * np.array(parts)
        if learner.step % 100 == 0 or learner.over:
            words = " ".join(f"{n} {v:.4f}" for n, v in zip(("beat", "bar", "period", "meter"), running, strict=True))
            print(f"{learner.step} ({len(songs)} songs) {learner.seconds:.0f} s  {words}", flush=True)
            save(learner.averaged(Net(len(net.front.bias))), args.out)


if __name__ == "__main__":
    main()
