"""The NumPy forward passes give what PyTorch gave for the shipped weights (``training/reference.py``)."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from ychronos.analysis import net
from ychronos.analysis.beats import pulsenet
from ychronos.analysis.chords import chordnet
from ychronos.analysis.spectra import Array

STORED = Path(__file__).with_name("nets.npz")


@pytest.fixture(scope="module")
def stored() -> dict[str, Array]:
    data = np.load(STORED)
    return {name: data[name].astype(np.float32) for name in data.files}


def test_pulse_net(stored: dict[str, Array]) -> None:
    seen = pulsenet.inputs(stored["bands"], stored["notes"])
    out = pulsenet.of_net(seen, "pulse")
    expected = stored["pulse"]
    split = 2 + pulsenet.PERIOD_CLASSES
    assert np.abs(out.beat - net.sigmoid(expected[:, 0])).max() < 0.01
    assert np.abs(out.bar - net.sigmoid(expected[:, 1])).max() < 0.01
    assert np.abs(np.exp(out.period) - np.exp(net.log_softmax(expected[:, 2:split]))).max() < 0.01
    assert np.abs(np.exp(out.meter) - np.exp(net.log_softmax(expected[:, split:]))).max() < 0.01


def test_nets_of_the_pulse_speak_together(stored: dict[str, Array]) -> None:
    together = pulsenet.run(stored["bands"], stored["notes"])
    seen = pulsenet.inputs(stored["bands"], stored["notes"])
    said = [pulsenet.of_net(seen, name) for name, *_ in pulsenet.NETS]
    shares = np.array([of for _, *of in pulsenet.NETS])
    assert shares.sum(0) == pytest.approx([1, 1])
    for name, column in (("beat", 0), ("bar", 1), ("period", 0), ("meter", 0)):
        parts = [getattr(one, name) for one in said]
        assert min(np.abs(parts[0] - p).max() for p in parts[1:]) > 0.01, "they are several"
        mixed = sum(share * p for share, p in zip(shares[:, column], parts, strict=True))
        assert getattr(together, name) == pytest.approx(mixed, abs=1e-4)


@pytest.mark.parametrize("name", [name for name, *_ in chordnet.NETS])
def test_chord_nets(stored: dict[str, Array], name: str) -> None:
    chord, bass, notes = chordnet.alone(name, chordnet._blocks(chordnet.compress(stored["pitch"])))
    assert np.abs(np.exp(chord) - np.exp(net.log_softmax(stored[f"{name} chord"]))).max() < 0.01
    assert np.abs(np.exp(bass) - np.exp(net.log_softmax(stored[f"{name} bass"]))).max() < 0.01
    assert np.abs(notes - stored[f"{name} heard"]).max() < 0.05 * np.abs(stored[f"{name} heard"]).max()


def test_two_chord_nets_speak_together_and_blocks_do_not_show(stored: dict[str, Array]) -> None:
    both = chordnet.run(stored["pitch"])
    blocks = chordnet._blocks(chordnet.compress(stored["pitch"]))
    one, other = (chordnet.alone(name, blocks) for name, *_ in chordnet.NETS)
    for k, mixed in enumerate((both.chord, both.bass, both.notes)):
        share = chordnet.NETS[0][1 + k]
        assert share + chordnet.NETS[1][1 + k] == pytest.approx(1.0)
        assert mixed == pytest.approx(share * one[k] + (1 - share) * other[k], abs=1e-3)
    rng = np.random.default_rng(1)
    long = rng.random((2600, stored["pitch"].shape[1])).astype(np.float32) ** 6
    whole = chordnet.run(long)
    part = chordnet.run(long[900:1300])
    assert np.abs(whole.chord[1000:1200] - part.chord[100:300]).max() < 0.02, "no net sees further than the margin"


@pytest.mark.parametrize("length", [1, 3, 40])
@pytest.mark.parametrize("dilation", [1, 4, 64])
def test_convolution_against_a_plain_loop(length: int, dilation: int) -> None:
    rng = np.random.default_rng(length)
    x, kernel, bias = rng.normal(size=(length, 2)), rng.normal(size=(3, 2, 5)), rng.normal(size=5)
    expected = np.tile(bias, (length, 1))
    for t in range(length):
        for tap in range(3):
            source = t + (tap - 1) * dilation
            if 0 <= source < length:
                expected[t] += x[source] @ kernel[tap]
    assert net.conv(x.astype(np.float32), kernel.astype(np.float32), bias, dilation) == pytest.approx(
        expected, abs=1e-4
    )


def test_the_pulse_net_in_blocks_says_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(4)
    bands = rng.gamma(1.0, 1.0, (9000, 60)).astype(np.float32)
    notes = rng.gamma(1.0, 1.0, (1950, 84)).astype(np.float32)
    whole = pulsenet.run(bands, notes)
    monkeypatch.setattr(pulsenet, "_BLOCK", 2500)
    pieces = pulsenet.run(bands, notes)
    assert np.allclose(whole.beat, pieces.beat, atol=1e-5) and np.allclose(whole.period, pieces.period, atol=1e-3)
    monkeypatch.setattr(pulsenet, "_MARGIN", 40)  # what the net sees around a frame is needed
    assert not np.allclose(whole.beat, pulsenet.run(bands, notes).beat, atol=1e-5)
