"""Train what tells the bass as it is played: the net for beginnings, and the weights of notes.

    python training/fit_bass.py FOLDER --steps 3000 --out src/ychronos/analysis/weights/bassline.npz [--trial FOLDER]

FOLDER is made by ``strum_songs.py``. Beginnings by a small net as for strokes; notes by a conditional logit over E1 .. G3 given the
note before, by L-BFGS. Needs PyTorch; the application does not.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
import torch
import torch.nn.functional as F  # noqa: N812
from fit_strokes import HIDDEN, NEAR, Net, run
from learning import Learner
from scipy.optimize import minimize

from ychronos.analysis.hands import strokes
from ychronos.analysis.lines import bassline
from ychronos.theory.chord import ChordError, parse_harte

RIDGE = 1e-4


def slots_of(d: dict[str, np.ndarray], stem: str, seed: int) -> tuple[strokes.Slots, np.ndarray]:
    """Slots on the true beats, a little moved, and which bars belong together."""
    rng = np.random.default_rng([19, seed, int(stem.split("_")[0])])
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


def onset_rows(path: Path, seed: int = 0) -> tuple[np.ndarray, np.ndarray, strokes.Slots, np.ndarray]:
    d = dict(np.load(path, allow_pickle=False))
    found, group = slots_of(d, path.stem, seed)
    x = bassline.onset_features(d["bands"], d["notes"], d["bass_heard"], found, group, d["chord"])
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
    at = np.arange(len(right))

    def loss(w: np.ndarray) -> tuple[float, np.ndarray]:
        z = both @ w
        z -= z.max(1, keepdims=True)
        p = np.exp(z)
        p /= p.sum(1, keepdims=True)
        wrong = p.copy()
        wrong[at, right] -= 1
        value = -np.log(p[at, right] + 1e-12).mean() + RIDGE / 2 * (w**2).sum()
        return float(value), np.einsum("nk,nkf->f", wrong, both) / len(right) + RIDGE * w

    found = minimize(loss, np.zeros(both.shape[2]), jac=True, method="L-BFGS-B", options={"maxiter": 400})
    print(f"{len(right)} notes, {np.exp(-found.fun):.3f} mean chance of the right one", flush=True)
    return found.x[: x.shape[2]], found.x[x.shape[2] :]


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
        local = np.array([bassline.candidate_features(bassline.low_notes(d["notes"], a, b), about(d, a, b)) @ w["note"] for a, b in zip(times[:-1], times[1:], strict=True)])
        path_ = bassline.best_path(local, bassline.step_features() @ w["step"]) + bassline.LOW
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
        print(f"  {kind}: {len(rows)} songs, F of beginnings {f.mean():.3f}, of notes {note_f.mean():.3f}, right notes {share.mean():.3f}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--steps", type=int, default=3000)
    parser.add_argument("--trial", type=Path)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    torch.manual_seed(6)
    torch.set_num_threads(1)
    paths = sorted(args.folder.glob("*.npz"))
    songs = [onset_rows(p, k) for p in paths for k in range(2)]
    x = np.concatenate([s[0] for s in songs])
    y = np.concatenate([s[1] for s in songs])
    weight = np.concatenate([np.full(len(s[1]), 2000 / len(s[1])) for s in songs])
    mean, scale = x.mean(0), x.std(0) + 1e-3
    inputs = torch.from_numpy(np.clip((x - mean) / scale, -5, 5).astype(np.float32))
    targets, weights = torch.from_numpy(y.astype(np.float32)), torch.from_numpy(weight.astype(np.float32))
    net = Net(x.shape[1])
    learner = Learner(net, args.steps, 2e-3)
    print(f"{len(paths)} songs, {len(x)} slots", flush=True)
    while not learner.over:
        learner.next_step()
        some = torch.randint(len(inputs), (2048,))
        out = net(inputs[some] + 0.1 * torch.randn(2048, inputs.shape[1]))[:, 0]
        loss = F.binary_cross_entropy_with_logits(out, targets[some], weight=weights[some])
        learner.learn(loss)
        if learner.step % 1000 == 0:
            print(f"{learner.step} {learner.seconds:.0f} s {loss.item():.4f}", flush=True)
    done = learner.averaged(Net(x.shape[1]))
    note, step = fit_notes([row for p in paths for row in note_rows(p)])
    w = {"mean": mean, "scale": scale, "note": note, "step": step}
    for k, layer in enumerate(done.layers):
        w[f"layer{k}.weight"], w[f"layer{k}.bias"] = layer.weight.detach().numpy().T, layer.bias.detach().numpy()
    w["out.weight"], w["out.bias"] = done.out.weight.detach().numpy().T, done.out.bias.detach().numpy()
    assert len(done.layers) == len(HIDDEN)
    np.savez(args.out, **{k: v.astype(np.float32) for k, v in w.items()})
    for folder in [args.folder, *([args.trial] if args.trial else [])]:
        print(folder.name)
        report(folder, w)


if __name__ == "__main__":
    main()
