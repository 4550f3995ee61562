"""Train the chord net.

    python training/train_chords.py FEATURES [FEATURES ...] --steps 4000 --out src/ychronos/analysis/weights/chords.npz

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
from ychronos.analysis.chords import chordnet
from ychronos.analysis.spectra import BINS, PITCH_BINS, PITCH_RATE
from ychronos.theory.chord import ChordError, parse_harte

CROP = 260  # frames: 24 s
WIDTH, HIDDEN, BLOCKS = 64, 20, 6  # channels, features of a note, blocks, if not told otherwise
SUMMARY = 16  # what a block is told of the whole stretch: so many numbers
FORGOTTEN = 0.06  # share of channels that are left out at each block of an example, so that no one detail decides
BESIDE = 0.25  # share of examples with another song heard softly beside
RINGING = 0.2  # share of examples with drums that ring at pitches of their own
Q = {q: i for i, q in enumerate(chordnet.QUALITIES_HEARD)}
INVERTED = 1.6  # how much more a chord over another bass counts: they are rare
NEAREST = {"maj13": "maj9", "min13": "min9"}  # not heard apart
# Which row of the head a new quality begins from when weights of a narrower vocabulary are taken over.
KIN = {
    "69": "6",
    "7#9": "7",
    "7#11": "7",
    "aug7": "aug",
    "7b5": "7",
    "11": "7sus4",
    "min11": "min9",
    "9sus4": "7sus4",
}


class Neighbours(torch.autograd.Function):
    """Each frame with those ``step`` before and after it, (12, b, t, w) by three taps (3, w): by hand, because slices that
    are added cost three copies each on the way back."""

    @staticmethod
    def forward(ctx, x: torch.Tensor, taps: torch.Tensor, step: int) -> torch.Tensor:
        ctx.save_for_backward(x, taps)
        ctx.step = step
        out = x * taps[1]
        out[:, :, step:].addcmul_(x[:, :, :-step], taps[0])
        out[:, :, :-step].addcmul_(x[:, :, step:], taps[2])
        return out

    @staticmethod
    def backward(ctx, grad: torch.Tensor) -> tuple[torch.Tensor, torch.Tensor, None]:
        (x, taps), step = ctx.saved_tensors, ctx.step
        back = grad * taps[1]
        back[:, :, :-step].addcmul_(grad[:, :, step:], taps[0])
        back[:, :, step:].addcmul_(grad[:, :, :-step], taps[2])
        over = (0, 1, 2)
        turned = [
            (grad[:, :, step:] * x[:, :, :-step]).sum(over),
            (grad * x).sum(over),
            (grad[:, :, :-step] * x[:, :, step:]).sum(over),
        ]
        return back, torch.stack(turned), None


class Net(nn.Module):
    def __init__(self, width: int = WIDTH, hidden: int = HIDDEN, blocks: int = BLOCKS) -> None:
        super().__init__()
        q = len(Q)
        self.sizes = width, hidden, blocks
        self.note = nn.Linear(chordnet.NOTE_FEATURES, hidden)
        self.fold = nn.Parameter(torch.randn(7, hidden, width) * (1 / (7 * hidden)) ** 0.5)
        self.fold_bias = nn.Parameter(torch.zeros(width))
        self.time = nn.ParameterList(
            nn.Parameter(torch.tensor([0.25, 0.5, 0.25])[:, None].repeat(1, width)) for _ in range(blocks)
        )
        self.circle = nn.ParameterList(
            nn.Parameter(torch.randn(12, width, width) * 0.3 * (1 / (12 * width)) ** 0.5) for _ in range(blocks)
        )
        self.bias = nn.ParameterList(nn.Parameter(torch.zeros(width)) for _ in range(blocks))
        self.gist = nn.ModuleList(nn.Linear(width, SUMMARY) for _ in range(blocks))
        self.gain = nn.ParameterList(nn.Parameter(torch.zeros(SUMMARY, 2 * width)) for _ in range(blocks))
        self.chord, self.bass, self.notes = nn.Linear(width, q), nn.Linear(width, 1), nn.Linear(width, 1)
        self.none, self.nobass = nn.Linear(width, 1), nn.Linear(width, 1)
        self.register_buffer("waves", torch.from_numpy(chordnet.TO_WAVES), persistent=False)
        self.register_buffer("back", torch.from_numpy(chordnet.FROM_WAVES), persistent=False)

    def forward(self, f: torch.Tensor) -> tuple[torch.Tensor, torch.Tensor, torch.Tensor]:
        b, t = f.shape[:2]
        hidden = F.elu(self.note(f))  # b t o p h
        width, notes, blocks = self.sizes
        x = hidden.permute(3, 0, 1, 2, 4).reshape(12, b, t, 7 * notes) @ self.fold.reshape(7 * notes, width)
        x = x + self.fold_bias  # p b t w
        for i in range(blocks):
            inner = F.elu(x)
            gain, more = (F.elu(self.gist[i](inner.mean((0, 2)))) @ self.gain[i]).chunk(2, -1)  # b w
            mixed = Neighbours.apply(inner, self.time[i], 2**i)
            turned = self.around(mixed.reshape(12, b * t, width), self.circle[i]).reshape(x.shape)
            turned = turned * (1 + gain[:, None]) + (more[:, None] + self.bias[i])
            x = x + (turned * self.kept(b, width) if self.training else turned)
        x = F.elu(x)
        mean = x.mean(0)
        chord = torch.cat([self.chord(x).permute(1, 2, 3, 0).reshape(b, t, -1), self.none(mean)], -1)
        bass = torch.cat([self.bass(x)[..., 0].permute(1, 2, 0), self.nobass(mean)], -1)
        return chord, bass, self.notes(x)[..., 0].permute(1, 2, 0)

    def kept(self, count: int, width: int) -> torch.Tensor:
        """(count, 1, width) of channels that are not left out, in proportion."""
        return (torch.rand(count, 1, width) > FORGOTTEN) / (1 - FORGOTTEN)

    def around(self, x: torch.Tensor, kernel: torch.Tensor) -> torch.Tensor:
        """The circular map over pitch class, by waves around the circle: a sixth of the products. x (12, n, in)."""
        _, n, width = x.shape
        out = kernel.shape[2]
        flat = (self.waves @ x.reshape(12, -1)).reshape(12, n, width)
        k = (self.waves @ kernel.reshape(12, -1)).reshape(12, width, out)
        real, imaginary = k[1:6], k[6:11]
        both = torch.cat([torch.cat([real, imaginary], 2), torch.cat([-imaginary, real], 2)], 1)
        turned = torch.bmm(torch.cat([flat[1:6], flat[6:11]], 2), both)
        y = torch.cat([(flat[0] @ k[0])[None], turned[..., :out], turned[..., out:], (flat[11] @ k[11])[None]])
        return (self.back @ y.reshape(12, -1)).reshape(12, n, out)


def save(net: Net, path: Path) -> None:
    s = {k: v.detach().numpy() for k, v in net.state_dict().items()}
    out = {"fold.weight": s["fold"], "fold.bias": s["fold_bias"]}
    for name in ("note", "chord", "bass", "notes", "none", "nobass"):
        out[f"{name}.weight"], out[f"{name}.bias"] = s[f"{name}.weight"].T, s[f"{name}.bias"]
    for i in range(net.sizes[2]):
        out[f"block{i}.time"], out[f"block{i}.circle"], out[f"block{i}.bias"] = (
            s[f"time.{i}"],
            s[f"circle.{i}"],
            s[f"bias.{i}"],
        )
        out[f"block{i}.gist"], out[f"block{i}.gist_bias"] = s[f"gist.{i}.weight"].T, s[f"gist.{i}.bias"]
        out[f"block{i}.gain"] = s[f"gain.{i}"]
    path.parent.mkdir(parents=True, exist_ok=True)
    np.savez(path, **{k: v.astype(np.float16) for k, v in out.items()})


def load(path: Path, wider: int | None = None) -> Net:
    """A net with the weights of a file that ``save`` wrote, to go on training from, of its size or ``wider``. A wider one hears
    just the same at first: what it has more is at random, and nothing listens to it yet."""
    d = {k: torch.from_numpy(v) for k, v in weights.read(path).items()}
    hidden, width = d["note.weight"].shape[1], len(d["fold.bias"])
    blocks = sum(name.endswith(".time") for name in d)
    net = Net(wider or width, hidden, blocks)
    narrow = d["chord.weight"].shape[1]
    if narrow < len(Q):  # a narrower vocabulary: the new qualities begin as their kin, a little less likely
        rows = [Q[KIN[q]] for q in chordnet.QUALITIES_HEARD[narrow:]]
        d["chord.weight"] = torch.cat([d["chord.weight"], d["chord.weight"][:, rows]], 1)
        d["chord.bias"] = torch.cat([d["chord.bias"], d["chord.bias"][rows] - 1.5])
    with torch.no_grad():
        net.note.weight[:], net.note.bias[:] = d["note.weight"].T, d["note.bias"]
        net.fold[..., :width] = d["fold.weight"]
        net.fold_bias[:width] = d["fold.bias"]
        for i in range(blocks):
            net.time[i][:, :width] = d[f"block{i}.time"]
            net.circle[i][:, :width, :width], net.circle[i][:, width:, :width] = d[f"block{i}.circle"], 0
            net.bias[i][:width] = d[f"block{i}.bias"]
            if f"block{i}.gist" in d:
                net.gist[i].weight[:, :width], net.gist[i].bias[:] = d[f"block{i}.gist"].T, d[f"block{i}.gist_bias"]
                before, now = d[f"block{i}.gain"].chunk(2, -1), net.gain[i].data.chunk(2, -1)
                for a, c in zip(now, before, strict=True):
                    a[:, :width] = c
        for name in ("chord", "bass", "notes", "none", "nobass"):
            head = getattr(net, name)
            head.weight.zero_()
            head.weight[:, :width], head.bias[:] = d[f"{name}.weight"].T, d[f"{name}.bias"]
    return net


class Song:
    def __init__(self, path: Path) -> None:
        d = np.load(path)
        self.pitch = d["pitch"]
        count = len(self.pitch)
        loud = np.sqrt((self.pitch.astype(np.float32) ** 2).mean(1))
        self.floor = 0.03 * np.percentile(loud, 95) + 1e-7
        frames = np.arange(count) / PITCH_RATE
        self.root = np.full(count, -2)
        self.quality = np.zeros(count, int)
        self.bass = np.full(count, 12)
        self.notes = np.zeros((count, 12), np.float32)
        self.weight = np.ones(count, np.float32)
        for (a, b), label in zip(d["chord_time"], d["chord"], strict=True):
            inside = (frames >= a) & (frames < b)
            self.weight[np.abs(frames - a) < 0.06] = 0.3
            try:
                chord = parse_harte(str(label))
            except ChordError:
                self.weight[inside] = 0
                continue
            if chord.is_none:
                self.root[inside] = -1
                continue
            quality = NEAREST.get(chord.quality, chord.quality)
            self.root[inside], self.quality[inside] = chord.root, Q[quality]
            self.bass[inside] = chord.sounding_bass
            if chord.bass is not None:
                self.weight[inside] *= INVERTED
            self.notes[np.ix_(inside, sorted(chord.pitch_classes))] = 1
        self.weight[self.root == -2] = 0


def draw(song: Song, rng: np.random.Generator, beside: Song | None = None) -> tuple[np.ndarray, ...]:
    """A crop of a song as an example: transposed, at another pace, with its sound changed; ``beside`` is heard softly with it,
    as what sings or bleeds into a microphone and belongs to no chord."""
    part = _played_at(song, float(np.exp(rng.uniform(-0.25, 0.25))) if rng.random() < 0.5 else 1.0, rng)
    x = song.pitch[part].astype(np.float32)
    k = len(x)
    if beside is not None:
        other = beside.pitch[_played_at(beside, 1.0, rng)].astype(np.float32)[:k]
        other = np.roll(other, BINS * int(rng.integers(-6, 7)), axis=1)
        x[: len(other)] += other * (rng.uniform(0.03, 0.15) * x.mean() / max(float(other.mean()), 1e-9))
    if rng.random() < RINGING:
        x += _ringing(k, rng) * np.float32(np.median(x.max(1)))
    if rng.random() < 0.4:  # overtones and softer players nearer to the loudest, or farther
        loud = np.maximum(x.max(1, keepdims=True), song.floor)
        x = loud * (x / loud) ** np.float32(rng.uniform(0.8, 1.25))
    pad = CROP - k
    shift = int(rng.integers(-6, 7))
    curve = np.interp(np.arange(PITCH_BINS), np.linspace(0, PITCH_BINS, 6), rng.normal(0, 0.5, 6))
    if rng.random() < 0.15:  # a thin recording: bass or top rolled off
        edge = rng.uniform(10, 60)
        curve = curve - 3 * np.clip(1 - np.arange(PITCH_BINS) / edge, 0, 1)
    if rng.random() < 0.15:
        edge = rng.uniform(140, 230)
        curve = curve - 4 * np.clip((np.arange(PITCH_BINS) - edge) / 20, 0, 1)
    x = x * np.exp(curve).astype(np.float32)
    off = rng.uniform(-0.25, 0.25)
    x = x * (1 - abs(off)) + np.roll(x, int(np.sign(off)), axis=1) * abs(off)
    if rng.random() < 0.3:
        x = x + np.abs(rng.normal(0, 1, x.shape)).astype(np.float32) * song.floor * rng.uniform(0, 0.6)
    loud = np.sqrt((x**2).mean(1, keepdims=True))
    log = np.log1p(6 * x / np.maximum(loud, song.floor))
    bins = shift * BINS
    moved = np.zeros_like(log)
    if bins >= 0:
        moved[:, bins:] = log[:, : PITCH_BINS - bins]
    else:
        moved[:, :bins] = log[:, -bins:]
    if pad:
        moved = np.pad(moved, ((0, pad), (0, 0)))
    root, quality = song.root[part], song.quality[part]
    label = np.where(root >= 0, quality * 12 + (root + shift) % 12, len(Q) * 12)
    bass = np.where(song.bass[part] < 12, (song.bass[part] + shift) % 12, 12)
    notes = np.roll(song.notes[part], shift, axis=1)
    weight = song.weight[part]
    fill = lambda a: np.pad(a, [(0, pad)] + [(0, 0)] * (a.ndim - 1)) if pad else a
    return chordnet.note_features(moved), fill(label), fill(bass), fill(notes), fill(weight)


def _ringing(count: int, rng: np.random.Generator) -> np.ndarray:
    """(count, PITCH_BINS) of drums that ring at pitches of their own: struck now and then, in whatever chord, they belong to none.
    Loudness 1 is that of the loudest note."""
    out = np.zeros((count, PITCH_BINS), np.float32)
    for _ in range(int(rng.integers(1, 4))):
        struck = np.zeros(count, np.float32)
        at = np.arange(rng.uniform(0, 8), count, rng.uniform(2.5, 11)).astype(int)  # each .25 to 1 s
        struck[at[rng.random(len(at)) < 0.85]] = np.exp(rng.uniform(np.log(0.08), np.log(0.7)))
        fading = np.exp(-np.arange(24) / rng.uniform(0.8, 6)).astype(np.float32)
        ring = np.convolve(struck, fading)[:count, None]
        centre = rng.uniform(20, PITCH_BINS - 60)
        for partial in [0.0, *rng.uniform(8, 60, int(rng.integers(0, 3)))]:  # of a skin they are not harmonic
            away = np.abs(np.arange(PITCH_BINS) - centre - partial)
            out += ring * np.exp(-((away / 0.8) ** 2)).astype(np.float32) * np.float32(rng.uniform(0.3, 1))
    return out


def pick(songs: list[Song], rng: np.random.Generator) -> Song:
    return songs[int(rng.integers(len(songs)))]


def _played_at(song: Song, pace: float, rng: np.random.Generator) -> np.ndarray:
    """The frames of a crop, begun anywhere, that takes ``pace`` times as many of the song's."""
    count = min(CROP, int(len(song.pitch) / pace))
    start = rng.uniform(0, max(1e-9, len(song.pitch) - count * pace))
    return np.minimum((start + np.arange(count) * pace).astype(int), len(song.pitch) - 1)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("features", nargs="+", type=Path)
    parser.add_argument("--steps", type=int, default=4000)
    parser.add_argument("--batch", type=int, default=4)
    parser.add_argument(
        "--rate", type=float, default=PEAK_RATE, help="highest learning rate; less where a net goes on learning"
    )
    parser.add_argument("--bass", type=float, default=1.0, help="weight of the bass among what is learned")
    parser.add_argument("--width", type=int, help="channels, if other than those of --start")
    parser.add_argument("--start", type=Path, help="weights (.npz) to go on from")
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    torch.manual_seed(2)
    torch.set_num_threads(1)
    rng = np.random.default_rng(2)
    known: dict[Path, Song] = {}
    songs = gather(args.features, known, Song)
    net = load(args.start, args.width) if args.start else Net(args.width or WIDTH)
    print(len(songs), "songs", sum(p.numel() for p in net.parameters()), "weights", flush=True)
    learner, running = Learner(net, args.steps, args.rate), np.zeros(3)
    while not learner.over:
        learner.next_step()
        if learner.step % 200 == 0:
            songs = gather(args.features, known, Song)
        batch = [
            draw(pick(songs, rng), rng, pick(songs, rng) if rng.random() < BESIDE else None) for _ in range(args.batch)
        ]
        f, label, bass, notes, weight = (torch.from_numpy(np.stack(part)) for part in zip(*batch, strict=True))
        out, out_bass, out_notes = net(f)
        total = weight.sum().clamp(min=1)
        chord_loss = (
            F.cross_entropy(out.flatten(0, 1), label.flatten(), reduction="none", label_smoothing=0.03)
            * weight.flatten()
        ).sum() / total
        bass_loss = (
            F.cross_entropy(out_bass.flatten(0, 1), bass.flatten(), reduction="none") * weight.flatten()
        ).sum() / total
        note_loss = (
            F.binary_cross_entropy_with_logits(out_notes, notes, reduction="none").mean(-1) * weight
        ).sum() / total
        loss = chord_loss + args.bass * bass_loss + 2 * note_loss
        learner.learn(loss)
        running = 0.98 * running + 0.02 * np.array([chord_loss.item(), bass_loss.item(), note_loss.item()])
        if learner.step % 100 == 0 or learner.over:
            words = " ".join(f"{n} {v:.3f}" for n, v in zip(("chord", "bass", "notes"), running, strict=True))
            print(f"{learner.step} {learner.seconds:.0f} s  {len(songs)} songs  {words}", flush=True)
            save(learner.averaged(Net(*net.sizes)), args.out)


if __name__ == "__main__":
    main()
