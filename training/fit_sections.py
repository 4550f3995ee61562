"""Train the nets that say where sections begin.

    python training/fit_sections.py FOLDER [FOLDER ...] --steps 4000 --out src/ychronos/analysis/weights/sections.npz
    python training/fit_sections.py FOLDER --chosen

FOLDERS hold recordings with their JAMS, or songs of ``make_songs.py`` (NAME.npz). Each song is analysed by the program itself, so that
the nets know its mistakes; bars within half a second of a true section start are the positives. What was looked at is kept beside the
songs (NAME.lines.npz) for the next time. The nets learn from pieces cut out of songs anywhere, so that they cannot count from the
beginning. The second form prints ``sections.CHOSEN``, by logistic regression, at the lines that the program chose in songs the nets were
not trained on, of whether a section does begin there. Seeded; needs PyTorch. About 4 s a song, then some minutes.
"""

from __future__ import annotations

import argparse
import json
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from scipy.optimize import minimize

from ychronos.analysis import pipeline
from ychronos.analysis.form import boundaries, sections
from ychronos.analysis.form.deciding import describe_bars
from ychronos.audio import recording
from ychronos.song.model import Song

WIDTH, DROPPED, DECAY = 24, 0.3, 0.02
NOISE = 0.15  # added to what is looked at, in its own spread
SHORTEST = 14  # bars of a piece
TOGETHER = 6  # songs of a step
RIDGE = 3.0  # of the plain regression


def analysed(path: Path) -> tuple[Song, sections.BarFeatures, boundaries.Looked]:
    """A song as the program hears it, what it knows of its bars, and what the nets are given of them."""
    song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), path.stem)
    described = describe_bars(evidence, song)
    harmony, sound = sections.similarity(described)
    shared = described.chances @ described.chances.T
    return song, described, sections.looked_at(described, harmony, sound, shared)


def rows_of(path: Path) -> tuple[np.ndarray, np.ndarray]:
    """What the nets look at on each bar line, and whether a section begins there."""
    kept = path.with_suffix(".lines.npz")
    if not kept.exists():
        if path.suffix == ".npz":
            data = np.load(path)
            truth = json.loads(str(data["truth"]))
            with tempfile.TemporaryDirectory() as folder:
                wave = Path(folder) / f"{path.stem}.wav"
                soundfile.write(wave, data["mono"], 22050)
                song, _, looked = analysed(wave)
        else:
            truth = json.loads(path.with_suffix(".jams").read_text())
            song, _, looked = analysed(path)
        x = looked.features()
        np.savez(kept, x=x.astype(np.float32), y=true_lines(song, truth, len(x)))
    data = np.load(kept)
    return data["x"], data["y"]


def chosen_rows(path: Path, truth: dict) -> tuple[np.ndarray, np.ndarray]:
    """The log odds of the lines that were chosen, and whether a section begins there."""
    song, described, looked = analysed(path)
    odds = boundaries.log_odds(looked)
    chosen = [s.first for s in sections.decide(described).sections if s.first]
    return odds[chosen], true_lines(song, truth, len(odds))[chosen]


def true_lines(song: Song, truth: dict, count: int) -> np.ndarray:
    """(count,) 1 for each bar of the music at whose line a section begins."""
    lead = min(song.grid.lead_in, len(song.grid.bars) - 1)
    lines = np.array([song.grid.clock(s) for s in song.grid.starts[lead:-1]])
    y = np.zeros(count)
    rows = next(a["data"] for a in truth["annotations"] if a["namespace"] == "segment_open")
    for row in rows:
        near = int(np.abs(lines - row["time"]).argmin())
        if row["value"] not in ("silence", "count-in") and abs(lines[near] - row["time"]) < 0.5:
            y[near] = 1
    return y


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folders", nargs="+", type=Path)
    parser.add_argument("--steps", type=int, default=4000)
    parser.add_argument("--out", type=Path)
    parser.add_argument("--chosen", action="store_true", help="fit how sure a chosen line is instead")
    args = parser.parse_args()
    if args.chosen:
        print_chosen(args.folders[0])
        return
    if not args.out:
        parser.error("--out, or --chosen")
    songs = []
    for folder in args.folders:
        for path in sorted((*folder.glob("*.ogg"), *(p for p in folder.glob("*.npz") if ".lines" not in p.name))):
            songs.append(rows_of(path))
    np.savez(args.out, **{k: v.astype(np.float16) for k, v in trained(songs, args.steps).items()})


def print_chosen(folder: Path) -> None:
    found = [chosen_rows(p, json.loads(p.with_suffix(".jams").read_text())) for p in sorted(folder.glob("*.ogg"))]
    odds, y = (np.concatenate(part) for part in zip(*found, strict=True))

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        value = w[0] * odds + w[1]
        wrong = 1 / (1 + np.exp(-value)) - y
        return float(np.logaddexp(0, -value * (2 * y - 1)).sum()), np.array([wrong @ odds, wrong.sum()])

    slope, constant = minimize(loss, np.array([1.0, 0.0]), jac=True, method="L-BFGS-B").x
    print(f"{len(y)} chosen lines, {int(y.sum())} of them begin a section")
    print(f"CHOSEN = ({slope:.2f}, {constant:.2f})")


def logistic(x: np.ndarray, y: np.ndarray) -> dict[str, np.ndarray]:
    """A plain logistic regression over what bars look like, each line by itself."""
    z, sign = x[:, : boundaries.AROUND], 2 * y - 1

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        value = z @ w[:-1] + w[-1]
        wrong = 1 / (1 + np.exp(-value)) - y
        total = np.logaddexp(0, -value * sign).sum() + RIDGE * (w[:-1] ** 2).sum() / 2
        return float(total), np.append(z.T @ wrong + RIDGE * w[:-1], wrong.sum())

    found = minimize(loss, np.zeros(z.shape[1] + 1), jac=True, method="L-BFGS-B", options={"maxiter": 500}).x
    return {"line.weight": found[:-1], "line.bias": found[-1:]}


def trained(songs: list[tuple[np.ndarray, np.ndarray]], steps: int) -> dict[str, np.ndarray]:
    """The weights of all nets, as :mod:`boundaries` reads them, from (looked at, true) of each song."""
    import torch
    from torch import nn
    from torch.nn import functional as F

    torch.set_num_threads(1)
    rows = np.concatenate([x for x, _ in songs])
    mean, scale = rows.mean(0), rows.std(0) + 1e-4
    data = [(torch.tensor((x - mean) / scale).float(), torch.tensor(y).float()) for x, y in songs if len(x) > SHORTEST]
    out: dict[str, np.ndarray] = {
        "mean": mean,
        "scale": scale,
        **logistic((rows - mean) / scale, np.concatenate([y for _, y in songs])),
    }
    for seed in range(boundaries.NETS):
        torch.manual_seed(seed)
        rng = np.random.default_rng(seed)
        net = nn.ModuleDict(
            {"in": nn.Linear(len(mean), WIDTH), "plain": nn.Linear(len(mean), 1), "out": nn.Linear(WIDTH, 1)}
        )
        for k, dilation in enumerate(boundaries.DILATIONS):
            net[f"block{k}"] = nn.Conv1d(WIDTH, WIDTH, 5, padding=2 * dilation, dilation=dilation)
        optimiser = torch.optim.AdamW(net.parameters(), 3e-3, weight_decay=DECAY)
        running = 0.0
        for step in range(steps):
            for group in optimiser.param_groups:
                group["lr"] = 3e-3 * 0.5 * (1 + np.cos(np.pi * step / steps))
            loss = torch.zeros(())
            for j in rng.integers(0, len(data), TOGETHER):
                x, y = data[j]
                first = int(rng.integers(0, len(x) - SHORTEST + 1))
                last = int(rng.integers(first + SHORTEST, len(x) + 1))
                x, y = x[first:last] + NOISE * torch.randn(last - first, len(mean)), y[first:last]
                inner = F.dropout(F.elu(net["in"](x)), DROPPED).T[None]
                for k in range(len(boundaries.DILATIONS)):
                    inner = inner + F.dropout(F.elu(net[f"block{k}"](inner)), DROPPED)
                said = (net["plain"](x) + net["out"](inner[0].T))[:, 0]
                loss = loss + F.binary_cross_entropy_with_logits(said[1:], y[1:]) / TOGETHER
            optimiser.zero_grad()
            loss.backward()
            optimiser.step()
            running += 0.01 * (float(loss.detach()) - running)
            if step % 500 == 499:
                print(f"net {seed}, {step + 1}: {running:.4f}", flush=True)
        for name, value in net.state_dict().items():
            kind = name.rsplit(".", 1)[1]
            array = value.numpy()
            out[f"{seed}.{name}"] = (
                array if kind == "bias" else array.transpose(2, 1, 0) if array.ndim == 3 else array.T
            )
    return out


if __name__ == "__main__":
    main()
