"""What sections are called: songs as players would name them, by place, repetition, length and fullness."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ychronos.analysis.form import called


def named(form: str, levels: dict[str, float], lengths: dict[str, int] | None = None) -> list[str]:
    """Names of a form as "iABABcB", a letter a section, each as loud as said (dB) and eight bars long if not said."""
    spans, level, at = [], [], 0
    for letter in form:
        long = (lengths or {}).get(letter, 8)
        spans.append((at, at + long))
        level += [levels.get(letter, -20.0)] * long
        at += long
    busy = np.array(level) / 10
    return [s.name for s in called.suggest(spans, list(form), np.array(level), busy - busy.mean())]


def test_a_song_of_verse_and_chorus() -> None:
    names = named("iABABcBe", {"A": -21, "B": -18, "i": -22, "c": -20, "e": -23}, {"i": 4, "e": 4})
    assert names == ["Intro", "Verse", "Chorus", "Verse", "Chorus", "Bridge", "Chorus", "Ending"]


def test_verses_alone_are_verses() -> None:
    assert named("iAAAe", {"A": -20, "i": -22, "e": -24}, {"i": 4, "A": 12, "e": 3}) == [
        "Intro",
        "Verse",
        "Verse",
        "Verse",
        "Ending",
    ]


def test_one_section_is_the_song() -> None:
    assert named("A", {}) == ["Song"]


@given(st.text("ABCDEFG", min_size=2, max_size=24), st.lists(st.floats(-60, 0), min_size=7, max_size=7))
def test_any_form_gets_names_and_passes_of_one_music_one_name(form: str, levels: list[float]) -> None:
    names = named(form, dict(zip("ABCDEFG", levels, strict=True)))
    plain = {n.rstrip("BCDEFG ") if n[-2:-1] == " " else n for n in names}
    assert len(names) == len(form) and plain <= set(called.NAMES.values())
    inner = {(k, n) for k, n in list(zip(form, names, strict=True))[1:-1]}
    assert len(inner) == len({k for k, _ in inner}), "but for the first and the last, a music has one name"
    assert len(inner) == len({n for _, n in inner}), "and a name one music"
    assert "Intro" not in names[1:] and "Ending" not in names[:-1]


@pytest.mark.parametrize("count", [2, 5])
def test_how_sure_a_name_is(count: int) -> None:
    spans = [(8 * i, 8 * i + 8) for i in range(count)]
    found = called.suggest(spans, list("ABCDE"[:count]), np.zeros(8 * count), np.zeros(8 * count))
    assert all(1 / len(called.ROLES) <= s.sure <= 1 for s in found)
