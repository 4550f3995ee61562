"""Which side a line is on: sounds placed by value, a lick on one side of a strummed guitar."""

from __future__ import annotations

import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.analysis.test_lines_heard import RATE, plucked, right
from tests.conftest import make_song
from ychronos.analysis.lines import leadline, sides
from ychronos.analysis.lines.linenet import Found
from ychronos.audio.synth.strings import hertz
from ychronos.session.jobs import AtOnce
from ychronos.session.lining import Lined


def placed(mono: np.ndarray, pan: float) -> np.ndarray:
    """A sound between left (-1) and right (1), at one loudness."""
    angle = (pan + 1) * np.pi / 4
    return np.stack([mono * np.cos(angle), mono * np.sin(angle)], axis=1).astype(np.float32)


def tone(pitch: float, seconds: float = 2.0) -> np.ndarray:
    return np.sin(2 * np.pi * pitch * np.arange(int(seconds * RATE)) / RATE).astype(np.float32)


def level(sound: np.ndarray, pitch: float) -> float:
    """How loud a pitch is in a sound, in dB."""
    power = np.abs(np.fft.rfft(sound * np.hanning(len(sound))))
    at = round(pitch * len(sound) / RATE)
    return 20 * float(np.log10(power[at - 3 : at + 4].max() + 1e-9))


@pytest.mark.parametrize(("side", "keeps", "loses"), [("right", 700.0, 300.0), ("left", 300.0, 700.0)])
def test_a_side_is_heard_alone(side: str, keeps: float, loses: float) -> None:
    both = placed(tone(300.0), -0.8) + placed(tone(700.0), 0.8)
    heard = sides.alone(both, side)
    assert len(heard) == len(both)
    assert level(heard, keeps) - level(heard, loses) > 20


def test_the_middle_is_heard_without_what_is_far_out() -> None:
    both = placed(tone(300.0), -1) + placed(tone(500.0), 0) + placed(tone(700.0), 1)
    heard = sides.alone(both, "middle")
    assert level(heard, 500.0) - max(level(heard, 300.0), level(heard, 700.0)) > 12


@given(st.floats(-1, 1), st.floats(0.01, 1))
def test_one_sound_is_lost_on_no_side_at_once(pan: float, gain: float) -> None:
    sound = placed(tone(440.0, 0.3) * gain, pan)
    most = max(level(sides.alone(sound, s), 440.0) for s in sides.SIDES)
    assert most > level(sound.mean(axis=1), 440.0) - 4


def test_a_mono_record_has_no_sides() -> None:
    mono = np.repeat(tone(440.0)[:, None], 2, axis=1)
    asked: list[int] = []
    assert not sides.wide(mono) and not sides.wide(mono[:0]) and not sides.wide(mono[:, 0])
    assert sides.likeliest(mono, lambda *_: asked.append(1) or []) == "whole" and not asked


def test_the_surest_side_is_taken_if_it_has_notes_enough() -> None:
    both = placed(tone(300.0, 12.0), -0.8) + placed(tone(700.0, 12.0), 0.8)
    counts = iter([10, 10, 4, 8])  # whole, middle, right, left
    sure = iter([0.5, 0.6, 0.99, 0.7])

    def hear(mono: np.ndarray, later: float) -> list[Found]:
        assert later == pytest.approx(2.0, abs=0.01) and len(mono) == int(sides.PIECE * RATE)
        chance = next(sure)
        return [Found(k * 0.1, k * 0.1 + 0.1, 60, chance, ()) for k in range(next(counts))]

    assert sides.likeliest(both, hear) == "left"


def test_a_lick_is_found_beside_an_organ_and_noise_on_the_other_side() -> None:
    lick = plucked()
    t = np.arange(len(lick)) / RATE
    organ = sum(np.sin(2 * np.pi * hertz(n) * h * t) / h for n in (45, 52, 57, 60, 64) for h in (1, 2, 3, 4))
    drums = np.random.default_rng(2).normal(0, 1, len(t)) * np.exp(-((t * 4) % 1) * 8)
    other = np.asarray(0.3 * organ + 0.3 * drums, np.float32)
    both = placed(lick, 0.8) + placed(other, -0.8)
    told: list[str] = []
    work = Lined(both, RATE, 0.0, 0.0, len(lick) / RATE, 0.0, leadline.chords_of(make_song()))
    heard = work(AtOnce(reports=lambda words, _: told.append(words)))
    found = heard.notes
    assert heard.side in ("right", "middle") and heard.words in told[-1].replace("line ", "line, heard ")
    assert any(word in words for words in told for word in ("on the right", "in the middle"))
    mixed = leadline.find(both.mean(axis=1), 0.0, (), 0.0, 0.0, len(lick) / RATE)
    assert right(list(found)) >= max(0.7, right(mixed) + 0.2)


def test_a_second_line_is_another_one() -> None:
    both = placed(tone(300.0, 12.0), -0.8) + placed(tone(700.0, 12.0), 0.8)
    lines = {"whole": 60, "middle": 60, "right": 60, "left": 72}
    names = iter(lines)

    def hear(mono: np.ndarray, later: float) -> list[Found]:
        note = lines[next(names)]
        return [Found(k * 0.5, k * 0.5 + 0.4, note, 0.9 if note == 60 else 0.5, ()) for k in range(12)]

    assert sides.likeliest(both, hear) == "whole"
    names = iter(lines)
    taken = [(2.0 + k * 0.5, 60) for k in range(14)]
    assert sides.likeliest(both, hear, taken) == "left"
    names = iter(lines)
    assert sides.likeliest(both, hear, [(at, 61) for at, _ in taken]) == "whole", "nothing of what is heard is known"


def test_a_long_stretch_is_heard_as_in_one_go(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(6)
    both = rng.normal(0, 0.1, (5 * RATE, 2)).astype(np.float32)
    whole = {side: sides.alone(both, side) for side in sides.SIDES}
    monkeypatch.setattr(sides, "BLOCK", sides.HOP * 50)
    for side, heard in whole.items():
        assert np.abs(sides.alone(both, side) - heard).max() < 1e-5
    assert len(sides.alone(both[:0], "left")) == 0


def test_the_window_does_not_wait_for_what_only_lines_need() -> None:
    script = "import sys, ychronos.app.window; raise SystemExit('scipy.signal' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", script], check=False).returncode == 0
