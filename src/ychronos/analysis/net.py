"""Small trained nets in plain NumPy: reading weights and running the layers.

The weights come from ``training/`` (float16 in an .npz beside this module, large ones in whole steps of eight bits); a test
compares this forward pass with outputs stored at training time.
"""

from __future__ import annotations

import io
from functools import lru_cache
from importlib import resources
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from .spectra import Array

STEP = ".step"  # of a name: how large a step of the array of that name is, along its last axis


@lru_cache(maxsize=32)
def weights(name: str) -> dict[str, Array]:
    """Arrays of ``weights/NAME.npz`` as float32."""
    return read(io.BytesIO(weights_bytes(name)))


def read(file: Path | BinaryIO) -> dict[str, Array]:
    """Arrays of a file of weights as float32, whether they are kept as they are or in steps (``training/eight_bits.py``)."""
    data = np.load(file)
    out = {key: data[key].astype(np.float32) for key in data.files if not key.endswith(STEP)}
    return {key: v * data[key + STEP] if key + STEP in data.files else v for key, v in out.items()}


def weights_bytes(name: str) -> bytes:
    """The file of a net's weights as it ships."""
    return resources.files("ychronos.analysis").joinpath("weights", f"{name}.npz").read_bytes()


def conv(x: Array, kernel: Array, bias: Array, dilation: int = 1) -> Array:
    """Convolution over time with zero padding: x (T, in), kernel (taps, in, out), odd taps."""
    taps = len(kernel)
    reach = taps // 2 * dilation
    out = np.broadcast_to(bias, (len(x), kernel.shape[2])).astype(np.float32)
    for tap in range(taps):
        shift = tap * dilation - reach
        first, last = max(0, -shift), min(len(x), len(x) - shift)
        if last > first:
            out[first:last] += x[first + shift : last + shift] @ kernel[tap]
    return out


def elu(x: Array) -> Array:
    """x where it is above nought, exp(x) - 1 below, which never is less than x there."""
    out = np.minimum(x, 0, dtype=np.float32)
    np.exp(out, out=out)
    out -= 1
    return np.asarray(np.maximum(out, x, out=out))


def log_softmax(x: Array, axis: int = -1) -> Array:
    top = x.max(axis=axis, keepdims=True)
    return np.asarray(x - top - np.log(np.exp(x - top).sum(axis=axis, keepdims=True)), np.float32)


def sigmoid(x: Array) -> Array:
    return np.asarray(1 / (1 + np.exp(-np.clip(x, -30, 30))), np.float32)


def chances(name: str, rows: NDArray[np.float64]) -> NDArray[np.float64]:
    """(rows, outputs) chances that a plain net gives (rows, features); its weights are those of ``weights/NAME.npz``."""
    w = {k: v.astype(float) for k, v in weights(name).items()}
    x = np.clip((rows - w["mean"]) / w["scale"], -5, 5)
    for k in range(sum(key.startswith("layer") for key in w) // 2):
        x = x @ w[f"layer{k}.weight"] + w[f"layer{k}.bias"]
        x = np.maximum(x, 0.01 * x)
    return np.asarray(1 / (1 + np.exp(-(x @ w["out.weight"] + w["out.bias"]))))
