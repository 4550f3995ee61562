"""Store what PyTorch makes of the shipped weights, for the test of the application's own forward pass.

    python training/reference.py --out tests/analysis/nets.npz

To be run after every change of the weights. Needs PyTorch.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
import torch
import train_chords
import train_pulse
import train_singing

from ychronos.analysis import singing
from ychronos.analysis.beats import pulsenet
from ychronos.analysis.chords import chordnet
from ychronos.analysis.spectra import BANDS, PITCH_BINS, PITCH_RATE

WEIGHTS = Path(__file__).parent.parent / "src" / "ychronos" / "analysis" / "weights"
PULSE_FRAMES, CHORD_FRAMES = 300, 60


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    rng = np.random.default_rng(5)
    bands = rng.random((PULSE_FRAMES, BANDS)).astype(np.float32) ** 4
    seconds = PULSE_FRAMES / 50
    notes = rng.random((int(seconds * PITCH_RATE) + 1, 84)).astype(np.float32) ** 6
    pitch = rng.random((CHORD_FRAMES, PITCH_BINS)).astype(np.float32) ** 6
    with torch.no_grad():
        pulse_in = torch.from_numpy(pulsenet.inputs(bands, notes).T.copy())[None]
        pulse = train_pulse.load([WEIGHTS / "pulse.npz"]).eval()(pulse_in)[0].T.numpy()
        features = torch.from_numpy(chordnet.note_features(chordnet.compress(pitch)))[None]
        said = {}
        for name, *_ in chordnet.NETS:
            parts = train_chords.load(WEIGHTS / f"{name}.npz").eval()(features)
            said |= {f"{name} {k}": part[0].numpy() for k, part in zip(("chord", "bass", "heard"), parts, strict=True)}
        heard = torch.from_numpy(singing.seen(bands))[None]
        sung = train_singing.load(WEIGHTS / "singing.npz").eval()(heard)[0].numpy()
    args.out.parent.mkdir(parents=True, exist_ok=True)
    np.savez_compressed(
        args.out,
        **{
            k: v.astype(np.float16)
            for k, v in {
                "bands": bands, "notes": notes, "pitch": pitch, "pulse": pulse, "singing": sung, **said,
            }.items()
        },
    )  # fmt: skip


if __name__ == "__main__":
    main()
