"""Keep the large arrays of a net in eight bits, packed: less than half of the room, and nothing is heard otherwise.

    python training/eight_bits.py src/ychronos/analysis/weights/harmony.npz [...]

Whole steps, 127 to the largest weight of each column of the last axis, whose size is kept beside (``analysis/net.read``). Files
are written anew; arrays that are in steps already stay. Needs NumPy alone.
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np

from ychronos.analysis.net import STEP

LARGE = 1024  # weights from which on an array is kept in steps


def in_steps(arrays: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
    """Arrays as they are kept: the large ones as int8, with the size of their steps."""
    out: dict[str, np.ndarray] = {}
    for name, value in arrays.items():
        if value.size < LARGE or value.dtype == np.int8:
            out[name] = value
            continue
        plain = value.astype(np.float32)
        step = np.maximum(np.abs(plain).reshape(-1, plain.shape[-1]).max(0), 1e-8) / 127
        out[name] = np.round(plain / step).astype(np.int8)
        out[name + STEP] = step.astype(np.float32)
    return out


def main() -> None:
    for path in map(Path, sys.argv[1:]):
        kept = in_steps(dict(np.load(path)))
        np.savez_compressed(path, **kept)
        print(path.name, path.stat().st_size)


if __name__ == "__main__":
    main()
