"""What chord, what bass: a trained net's opinion of every frame.

The net looks at the pitch spectrum note by note (its bins, its octave below, its first partials), folds the
octaves onto twelve pitch classes and goes on with maps that are circular over pitch class, so that all
transpositions share their weights; what the music is like on the whole for a minute or so turns channels up or down (squeeze and
excitation: Hu et al., CVPR 2018), since a bass that moves means another thing where it always moves. It is trained on generated songs only (``training/``).
Conventions: frames at 10.8 Hz as in :mod:`spectra`; chords are numbered quality * 12 + root, then N.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from ...theory.chord import NO_CHORD, Chord
from .. import net
from ..kept import Kept
from ..spectra import BINS, OCTAVES, PITCH_BINS, Array

QUALITIES_HEARD = (
    "maj", "min", "7", "maj7", "min7", "sus4", "sus2", "dim", "dim7", "hdim7", "aug", "6", "min6", "5",
    "7sus4", "add9", "9", "maj9", "min9", "minadd9", "minmaj7", "13", "7b9",
    "69", "11", "min11", "9sus4", "aug7", "7#9", "7#11", "7b5",
)  # fmt: skip
CHORDS: tuple[Chord, ...] = (*(Chord(r, q) for q in QUALITIES_HEARD for r in range(12)), NO_CHORD)
NOTE_FEATURES = 16
# Offsets in bins of what is looked at for each note: itself, the octave below, partials 2 to 5.
_OFFSETS = np.array(
    [-2, -1, 0, 1, 2, -37, -36, -35, 35, 36, 37, 56, 57, 58, 72, 84], int
)  # fmt: skip


@dataclass(frozen=True)
class HarmonyEvidence:
    """Log probabilities per frame: ``chord`` (T, len(CHORDS)), ``bass`` (T, 13; the last is none), and
    ``notes`` (T, 12), log odds that a pitch class sounds."""

    chord: Array
    bass: Array
    notes: Array
    kept: Kept = field(default_factory=Kept, compare=False, repr=False)


def compress(spectrum: Array) -> Array:
    """Pitch spectrum against its own loudness, on a logarithmic scale."""
    loud = np.sqrt((spectrum**2).mean(axis=1, keepdims=True))
    loud = np.maximum(loud, 0.03 * np.percentile(loud, 95) + 1e-7)
    return np.asarray(np.log1p(6 * spectrum / loud), np.float32)


def note_features(log: Array) -> Array:
    """(T, OCTAVES, 12, NOTE_FEATURES) from a compressed pitch spectrum (T, PITCH_BINS)."""
    pad = 40
    padded = np.pad(log, ((0, 0), (pad, 90)))
    centre = np.arange(OCTAVES * 12) * BINS + 1 + pad
    picked = padded[:, centre[:, None] + _OFFSETS]
    return np.asarray(picked.reshape(len(log), OCTAVES, 12, NOTE_FEATURES))


def _waves() -> Array:
    """(12, 12): cosines of none to five turns around the circle of pitch classes, sines of one to five, six turns."""
    at = np.arange(12) * (2 * np.pi / 12)
    turns = np.arange(1, 6)[:, None]
    return np.concatenate([np.ones((1, 12)), np.cos(turns * at), -np.sin(turns * at), np.cos(6 * at)[None]])


TO_WAVES, FROM_WAVES = (np.asarray(m, np.float32) for m in (_waves(), np.linalg.inv(_waves())))


def around(x: Array, kernel: Array) -> Array:
    """A circular map over pitch class, x (12, n, in) by a kernel (12 distances, in, out): (12, n, out). In waves around the circle
    each wave is mapped by itself, which takes a sixth of the products."""
    count = x.shape[1]
    out = kernel.shape[2]
    flat = (TO_WAVES @ x.reshape(12, -1)).reshape(x.shape)
    maps = (TO_WAVES @ kernel.reshape(12, -1)).reshape(kernel.shape)
    turned = np.empty((12, count, out), np.float32)
    for even in (0, 11):
        np.matmul(flat[even], maps[even], out=turned[even])
    for cosine, sine in zip(range(1, 6), range(6, 11), strict=True):
        real, imaginary = maps[cosine], maps[sine]
        both = np.block([[real, imaginary], [-imaginary, real]])
        pair = np.concatenate([flat[cosine], flat[sine]], axis=1) @ both
        turned[cosine], turned[sine] = pair[:, :out], pair[:, out:]
    return np.asarray((FROM_WAVES @ turned.reshape(12, -1)).reshape(12, count, out))


# The nets that speak together, and how much each says of chords, of the bass, of the notes that sound: the first is small and knows
# most plainly played songs, the second many kinds, the third has the most weights (docs/analysis.md).
NETS = (("chords", 0.2, 0.0, 0.15), ("harmony", 0.3, 0.25, 0.3), ("harmony_wide", 0.5, 0.75, 0.55))
_BLOCK, _MARGIN = 1024, 96  # frames at a time, and the frames around them that a net can see


def run(spectrum: Array) -> HarmonyEvidence:
    """The nets' opinion of a pitch spectrum (T, PITCH_BINS) at the record's own tuning: a weighted mean of their logarithms."""
    assert spectrum.shape[1] == PITCH_BINS
    blocks = _blocks(compress(spectrum))
    said = [alone(name, blocks) for name, *_ in NETS]
    chord, bass, notes = (
        np.asarray(sum(shares[k] * one[k] for one, (_, *shares) in zip(said, NETS, strict=True)), np.float32)
        for k in range(3)
    )
    return HarmonyEvidence(chord, bass, notes)


def alone(name: str, blocks: list[tuple[Array, slice]]) -> tuple[Array, Array, Array]:
    """What one net says: (T, CHORDS), (T, 13) logarithms of chances and (T, 12) log odds."""
    w = net.weights(name)
    out = [_forward(block, w) for block in blocks]
    chord, bass, notes = (np.concatenate(part) for part in zip(*out, strict=True))
    return chord, bass, notes


def _blocks(log: Array) -> list[tuple[Array, slice]]:
    """Stretches of about the same length, with their margins and which of their frames are wanted: a short rest at the end would say
    little of what the music is like on the whole."""
    out = []
    limits = np.linspace(0, len(log), -(-len(log) // _BLOCK) + 1).astype(int).tolist()
    for start, stop in pairwise(limits):
        low, high = max(0, start - _MARGIN), min(len(log), stop + _MARGIN)
        out.append((log[low:high], slice(start - low, stop - low)))
    return out


def _forward(block: tuple[Array, slice], w: dict[str, Array]) -> tuple[Array, Array, Array]:
    log, keep = block
    count = len(log)
    hidden = net.elu(note_features(log) @ w["note.weight"] + w["note.bias"])
    fold = w["fold.weight"]
    x = hidden.transpose(2, 0, 1, 3).reshape(12 * count, -1) @ fold.reshape(-1, fold.shape[2]) + w["fold.bias"]
    x = x.reshape(12, count, -1)  # pitch class first
    layer = 0
    while f"block{layer}.time" in w:
        taps = w[f"block{layer}.time"]  # (3, channels)
        step = int(2**layer)
        inner = net.elu(x)
        mixed = inner * taps[1]
        if count > step:
            mixed[:, step:] += inner[:, :-step] * taps[0]
            mixed[:, :-step] += inner[:, step:] * taps[2]
        turned = around(mixed, w[f"block{layer}.circle"])
        if f"block{layer}.gist" in w:  # what the music is like on the whole turns each channel up or down
            gist = inner.mean(axis=(0, 1)) @ w[f"block{layer}.gist"] + w[f"block{layer}.gist_bias"]
            gain, more = np.split(net.elu(gist) @ w[f"block{layer}.gain"], 2)
            turned *= 1 + gain
            turned += more
        turned += w[f"block{layer}.bias"]
        x += turned
        layer += 1
    x = net.elu(x[:, keep])
    mean = x.mean(axis=0)
    chords = (x @ w["chord.weight"] + w["chord.bias"]).transpose(1, 2, 0).reshape(len(mean), -1)
    none = mean @ w["none.weight"] + w["none.bias"]
    bass = np.concatenate(
        [(x @ w["bass.weight"])[:, :, 0].T + w["bass.bias"], mean @ w["nobass.weight"] + w["nobass.bias"]], axis=1
    )
    notes = (x @ w["notes.weight"])[:, :, 0].T + w["notes.bias"]
    chord = net.log_softmax(np.concatenate([chords, none], axis=1))
    return chord, net.log_softmax(bass), notes.astype(np.float32)
