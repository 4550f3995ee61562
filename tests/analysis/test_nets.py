"""The NumPy forward passes give what PyTorch gave for the shipped weights (``training/reference.py``)."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ychronos.analysis import net
from ychronos.analysis.beats import pulsenet
from ychronos.analysis.chords import chordnet
from ychronos.analysis.evidence import WEIGHTS
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
    for name, column in (("beat", 0), ("bar", 1), ("period", 0), ("meter", 1)):
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


def test_chord_nets_speak_together_and_blocks_do_not_show(stored: dict[str, Array]) -> None:
    together = chordnet.run(stored["pitch"])
    blocks = chordnet._blocks(chordnet.compress(stored["pitch"]))
    said = [chordnet.alone(name, blocks) for name, *_ in chordnet.NETS]
    shares = np.array([of for _, *of in chordnet.NETS])
    assert shares.sum(0) == pytest.approx([1, 1, 1])
    for k, mixed in enumerate((together.chord, together.bass, together.notes)):
        assert mixed == pytest.approx(
            sum(share * one[k] for share, one in zip(shares[:, k], said, strict=True)), abs=1e-3
        )
    rng = np.random.default_rng(1)
    long = rng.random((2600, stored["pitch"].shape[1])).astype(np.float32) ** 6
    whole = chordnet.run(long)
    part = chordnet.run(long[900:1300])
    apart = np.abs(np.exp(whole.chord[1000:1200]) - np.exp(part.chord[100:300])).max()
    assert apart < 0.01, (
        "but for what the music is like on the whole, the same here, no net sees further than the margin"
    )


@given(st.integers(1, 9000))
def test_blocks_are_about_as_long_as_each_other(count: int) -> None:
    blocks = chordnet._blocks(np.arange(count)[:, None])
    wanted = [log[keep, 0] for log, keep in blocks]
    assert np.array_equal(np.concatenate(wanted), np.arange(count))
    lengths = [len(w) for w in wanted]
    assert max(lengths) - min(lengths) <= 1, "a short rest would say little of the music on the whole"


def test_what_the_music_is_like_on_the_whole_counts() -> None:
    rng = np.random.default_rng(2)
    moment, busy = (rng.random((count, chordnet.PITCH_BINS)).astype(np.float32) ** 6 for count in (200, 500))
    plain = np.zeros_like(busy)
    plain[:, 40:200:36] = 1.0  # one note in five octaves
    near, plainly = (
        chordnet.alone("harmony_wide", [(np.log1p(6 * np.concatenate([moment, rest])), slice(0, 100))])
        for rest in (busy, plain)
    )
    assert np.abs(np.exp(near[0]) - np.exp(plainly[0])).max() > 0.01, (
        "100 frames before the rest, further than any block sees"
    )


@given(st.integers(0, 2**32 - 1), st.floats(1e-4, 1e3))
def test_weights_in_steps_are_read_within_half_a_step(seed: int, size: float) -> None:
    plain = np.random.default_rng(seed).normal(0, size, (5, 20, 30)).astype(np.float32)
    step = np.abs(plain).max((0, 1)) / 127
    file = io.BytesIO()
    np.savez(
        file, **{"a": np.round(plain / step).astype(np.int8), "a" + net.STEP: step, "b": plain[0].astype(np.float16)}
    )
    file.seek(0)
    read = net.read(file)
    assert set(read) == {"a", "b"} and read["a"].dtype == np.float32
    assert (np.abs(read["a"] - plain) <= 0.501 * step).all()


def test_what_makes_evidence_is_small() -> None:
    """Nets that hear every record are to stay below two megabytes."""
    assert sum(len(net.weights_bytes(name)) for name in WEIGHTS) < 2_000_000


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
