"""The average of two chord nets that were trained from the same beginning.

    python training/average.py OLD.npz NEW.npz --share 0.5 --out src/ychronos/analysis/weights/chords.npz

A net that was trained on with other songs and the one it began from make different mistakes; their mean is
better than both (Wortsman et al., "Model soups", ICML 2022). Qualities that only the second knows are taken
from it, and what only it has of the music on the whole, which then turns channels up and down by its share. Needs NumPy alone.
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np

from ychronos.analysis import net


def average(old: dict[str, np.ndarray], new: dict[str, np.ndarray], share: float) -> dict[str, np.ndarray]:
    """The weights of both, ``share`` of the new one's."""
    out = {}
    for name, wide in new.items():
        mean = wide.astype(np.float32)
        if name not in old:
            out[name] = (mean * share if name.endswith(".gain") else mean).astype(np.float16)
            continue
        known = old[name].astype(np.float32)
        shared = (..., slice(0, known.shape[-1]))
        mean[shared] = share * mean[shared] + (1 - share) * known
        out[name] = mean.astype(np.float16)
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("old", type=Path)
    parser.add_argument("new", type=Path)
    parser.add_argument("--share", type=float, default=0.5, help="of the new net's weights")
    parser.add_argument("--out", type=Path, required=True)
    args = parser.parse_args()
    np.savez(args.out, **average(net.read(args.old), net.read(args.new), args.share))


if __name__ == "__main__":
    main()
