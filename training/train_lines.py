"""Train the net that hears the notes of a line.

    python training/train_lines.py FOLDER [FOLDER ...] --steps 4000 --out src/ychronos/analysis/weights/lines.npz [--start NPZ]

FOLDERS are made by ``line_songs.py``. For each frame and pitch: does the line hold it, does it begin here. What the net is and how it is run
without PyTorch: ``ychronos/analysis/lines/linenet.py``. Needs PyTorch; the application does not.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F
from learning import Learner
from line_songs import Timeline, parse_chord, render, spec_of
from torch import nn

from ychronos.analysis.lines import linenet

BEFORE = 172  # frames of one example: two seconds
BATCH = 8
BEGIN = 2  # frames around a beginning that count as such


class Net(nn.Module):
    """As ``linenet.run``: harmonics of each pitch, then time, pitch, time."""

    def __init__(self) -> None:
        super().__init__()
        h, w, n = linenet.HARMONIC_FEATURES, linenet.WIDTH, linenet.NARROW
        self.harmonic = nn.Linear(h + linenet.CHORD_FEATURES, w)
        self.attack = nn.Linear(linenet.FLUX_FEATURES, w, bias=False)
        self.time = nn.Conv2d(w, w, (linenet.TIME, 1), padding=(linenet.TIME // 2, 0))
        self.pitch = nn.Conv2d(w, n, (1, linenet.PITCHES), padding=(0, linenet.PITCHES // 2))
        self.later = nn.ModuleList(
            nn.Conv2d(n, n, (linenet.TIME, 1), padding=(d * (linenet.TIME // 2), 0), dilation=(d, 1))
            for d in linenet.DILATIONS
        )
        self.out = nn.Conv2d(n, 2, 1)

    def forward(self, x: torch.Tensor, f: torch.Tensor) -> torch.Tensor:
        """(b, t, p, h), (b, t, f) -> (b, 2, t, p)."""
        y = F.relu(self.harmonic(x) + self.attack(f)[:, :, None]).permute(0, 3, 1, 2)
        y = F.relu(self.time(y)) + y
        z = F.relu(self.pitch(y))
        for later in self.later:
            z = F.relu(later(z)) + z
        return self.out(z)

    def arrays(self) -> dict[str, np.ndarray]:
        """As ``linenet`` reads them: kernels as (taps, in, out)."""
        s = {k: v.detach().numpy() for k, v in self.state_dict().items()}
        later = {}
        for k in range(len(linenet.DILATIONS)):
            later[f"later{k}"] = s[f"later.{k}.weight"][:, :, :, 0].transpose(2, 1, 0)
            later[f"later{k}_bias"] = s[f"later.{k}.bias"]
        return later | {
            "harmonic": s["harmonic.weight"].T, "harmonic_bias": s["harmonic.bias"], "attack": s["attack.weight"].T,
            "time": s["time.weight"][:, :, :, 0].transpose(2, 1, 0), "time_bias": s["time.bias"],
            "pitch": s["pitch.weight"][:, :, 0].transpose(2, 1, 0), "pitch_bias": s["pitch.bias"],
            "out": s["out.weight"][:, :, 0, 0].T, "out_bias": s["out.bias"],
        }  # fmt: skip


class Song:
    def __init__(self, path: Path) -> None:
        d = np.load(path, allow_pickle=False)
        self.spectrum, self.flux = d["spectrum"], d["flux"].astype(np.float32)
        frames = len(self.spectrum)
        self.held = np.zeros((frames, linenet.COUNT), np.float32)
        self.begun = np.zeros((frames, linenet.COUNT), np.float32)
        self.notes = d["notes"]
        self.kind = str(d["kind"])
        self.chords = linenet.chord_rows(frames, chords_of(int(path.stem)))
        for a, b, note in self.notes:
            k = round(note) - linenet.LOW
            if 0 <= k < linenet.COUNT:
                i, j = round(a * linenet.FINE_RATE), round(b * linenet.FINE_RATE)
                self.held[i : max(j, i + 2), k] = 1
                self.begun[max(0, i - BEGIN + 1) : i + BEGIN, k] = 1

    def piece(self, rng: np.random.Generator) -> tuple[np.ndarray, ...]:
        start = int(rng.integers(max(1, len(self.spectrum) - BEFORE)))
        cut = slice(start, start + BEFORE)
        s = self.spectrum[cut].astype(np.float32)
        s = s * rng.uniform(0.8, 1.15)
        tilt = np.linspace(-1, 1, s.shape[1], dtype=np.float32) * rng.normal(0, 0.1)
        s = np.maximum(0, s * (1 + tilt))
        chords = np.roll(self.chords, int(rng.integers(-5, 6)), axis=0)[cut]  # they are not known to the frame
        if rng.random() < 0.15:
            chords = np.zeros_like(chords)
        heard = np.concatenate([linenet.harmonics(s), linenet.chordal(chords)], axis=2)
        parts = [heard, linenet.attacks(self.flux[cut]), self.held[cut], self.begun[cut]]
        short = BEFORE - len(s)
        return tuple(np.pad(p, [(0, short)] + [(0, 0)] * (p.ndim - 1)) for p in parts) if short else tuple(parts)


def chords_of(seed: int) -> list[tuple[float, frozenset[int], int]]:
    """The chords of a song of ``line_songs.py``, whose timeline is laid again."""
    spec, _ = spec_of(seed, False)
    timeline = Timeline(spec, np.random.default_rng([5, seed]))
    ratio = render.tape_ratio(spec["recording"])
    out = []
    for span in timeline.spans:
        chord = parse_chord(span.label)
        inside = frozenset(t % 12 for t in chord.tones) if chord else frozenset()
        out.append((timeline.time(span.start) / ratio, inside, chord.root % 12 if chord else -1))
    return out


def note_f(found: list[linenet.Found], truth: np.ndarray) -> float:
    used, hits = set(), 0
    for a, _, p in truth:
        for k, n in enumerate(found):
            if k not in used and abs(n.start - a) <= 0.05 and n.note == round(p):
                used.add(k)
                hits += 1
                break
    return 2 * hits / max(1, len(found) + len(truth))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folders", nargs="+", type=Path)
    parser.add_argument("--steps", type=int, default=4000)
    parser.add_argument("--rate", type=float, default=3e-3)
    parser.add_argument("--start", type=Path)
    parser.add_argument("--trial", type=Path)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    torch.manual_seed(11)
    rng = np.random.default_rng(11)
    songs: list[Song] = []
    seen: set[Path] = set()

    def look() -> None:
        """Songs that have been made meanwhile are learned from too."""
        for path in (p for folder in args.folders for p in sorted(folder.glob("*.npz")) if p not in seen):
            try:
                songs.append(Song(path))
                seen.add(path)
            except (ValueError, OSError, EOFError, KeyError):  # one that is being written
                continue

    look()
    trial = [Song(p) for p in sorted(args.trial.glob("*.npz"))] if args.trial else []
    net = Net()
    if args.start:
        net.load_state_dict(torch.load(args.start))
    learner = Learner(net, args.steps, args.rate)

    def keep() -> dict[str, np.ndarray]:
        best = learner.averaged(Net())
        arrays = best.arrays()
        np.savez(args.out, **{k: v.astype(np.float16) for k, v in arrays.items()})
        torch.save(best.state_dict(), args.out.with_suffix(".pt"))
        return arrays

    while not learner.over:
        learner.next_step()
        x, f, held, begun = (
            torch.from_numpy(np.stack(rows))
            for rows in zip(*(songs[int(rng.integers(len(songs)))].piece(rng) for _ in range(BATCH)), strict=True)
        )
        out = net(x, f)
        loss = F.binary_cross_entropy_with_logits(out[:, 0], held) + 2 * F.binary_cross_entropy_with_logits(
            out[:, 1], begun
        )
        learner.learn(loss * 20)
        if learner.step % 100 == 0:
            print(f"{learner.step} {learner.seconds:.0f} s: {loss.item():.4f}, {len(songs)} songs", flush=True)
            look()
        if learner.step % 500 == 0:
            report(trial, keep())
    report(trial, keep())


def report(songs: list[Song], arrays: dict[str, np.ndarray]) -> None:
    by: dict[str, list[float]] = {}
    for song in songs:
        held, begun = linenet.run(song.spectrum.astype(np.float32), song.flux, song.chords, arrays)
        by.setdefault(song.kind, []).append(note_f(linenet.notes(held, begun), song.notes))
    if by:
        print("  trial: " + ", ".join(f"{k} {np.mean(v):.3f}" for k, v in sorted(by.items())), flush=True)


if __name__ == "__main__":
    main()
