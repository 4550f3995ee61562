"""What is written can be read: contrast of every ink on every paper it stands on (WCAG 2, relative luminance)."""

from __future__ import annotations

import pytest

from ychronos.app.theme import DARK, LIGHT, Colours

INKS = ("ink", "faded", "stated", "doubt", "error", "cursor")
PAPERS = ("paper", "shelf", "chosen", "doubt_paper")


def luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [x / 12.92 if x <= 0.03928 else ((x + 0.055) / 1.055) ** 2.4 for x in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, two: str) -> float:
    low, high = sorted((luminance(one), luminance(two)))
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("colours", [LIGHT, DARK], ids=["light", "dark"])
@pytest.mark.parametrize("ink", INKS)
@pytest.mark.parametrize("paper", PAPERS)
def test_every_ink_can_be_read_on_every_paper(colours: Colours, ink: str, paper: str) -> None:
    assert contrast(getattr(colours, ink), getattr(colours, paper)) >= 4.5


@pytest.mark.parametrize("colours", [LIGHT, DARK], ids=["light", "dark"])
def test_what_is_written_on_the_colour_of_statements(colours: Colours) -> None:
    assert contrast(colours.on_stated, colours.stated) >= 4.5


def test_black_on_white() -> None:
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
