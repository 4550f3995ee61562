"""Languages: catalogues are whole, everything on the screen goes through them, and German fits."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import make_song
from tools import languages
from ychronos import tongue
from ychronos.app import language
from ychronos.app.settings import Settings
from ychronos.formats import charttext
from ychronos.song import sectionnames
from ychronos.song.alignment import passes
from ychronos.song.model import Section
from ychronos.song.track import Track
from ychronos.song.words import bars_text, plural, steps_text
from ychronos.theory.key import Key, parse_key

ROOT = Path(__file__).parent.parent.parent
QTS_OWN = {"Cancel", "Close", "Press shortcut"}  # said by Qt, which has catalogues of its own
NAMES = {
    "Card",
    "Letter",
    "English",
    "Deutsch",
    "add9",
    "maj7",
    "maj9",
}  # of a device, a paper, languages, colours of a chord


@cache
def window_in(spoken: str) -> dict[str, Any]:
    """What a window says in another language."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "LC_ALL": "C.UTF-8"}
    done = subprocess.run(
        [sys.executable, "-m", "tests.app.other_language", spoken], cwd=ROOT, env=env, capture_output=True, text=True
    )
    assert done.returncode == 0, done.stderr[-2000:]
    return json.loads(done.stdout)


@pytest.fixture
def german() -> Iterator[None]:
    tongue.speak("de")
    yield
    tongue.speak("en")
    os.environ.pop(tongue.VARIABLE)


@pytest.mark.parametrize("spoken", [x for x in tongue.LANGUAGES if x != "en"])
def test_everything_that_the_sources_say_is_said_in_every_language(spoken: str) -> None:
    assert languages.faults(spoken) == []


def test_a_translation_that_loses_a_value_or_a_space_is_found() -> None:
    catalog = languages.template()
    message = catalog["bar {number}"]
    assert languages.wrong(message) == "not translated"
    for said, right in (("Takt {number}", True), ("Takt", False), ("Takt {numer}", False), (" Takt {number}", False)):
        message.string = said
        assert (languages.wrong(message) == "") == right, said


def test_nothing_on_the_screen_is_said_past_the_catalogue() -> None:
    found = window_in("brackets")
    assert len(found["said"]) > 500
    left = {text.strip(" ·×:()") for text in found["outside"]}
    assert left <= QTS_OWN | NAMES


def test_german_stands_on_a_low_screen_and_nothing_is_cut_off() -> None:
    found = window_in("de")
    assert [m.replace("&", "") for m in found["menus"][:3]] == ["Datei", "Bearbeiten", "Akkord"]
    letters = [m[m.index("&") + 1].lower() for m in found["menus"]]
    assert len(set(letters)) == len(letters), "Alt and a letter opens one menu"
    assert {tuple(found["sizes"][view]) for view in ("sheet", "ground", "key", "form", "hand", "page")} == {(1024, 600)}
    assert found["narrow"] == []
    assert found["selection"].startswith("Intro, Takt 1, Schlag 1: G, ermittelt")
    assert {"Bogen", "Abbrechen", "Schließen"} <= set(found["said"])


def test_a_chart_written_in_german_is_read_again_as_the_english_one_is() -> None:
    german_, english = window_in("de")["chart"], window_in("brackets")["chart"].replace("⟦", "").replace("⟧", "")
    assert "Strophe (1. Mal)" in german_ and "Anschläge ab Takt 13" in german_
    one, two = charttext.read_text(german_), charttext.read_text(english)
    assert len(two.bars) == 43 and not two.unread, "all of it, also what is only named again and comes between beats"
    assert [b.chords for b in one.bars] == [b.chords for b in two.bars]
    named = {"Strophe": "Verse", "Refrain": "Chorus", "Schluss": "Ending"}
    assert [named.get(b.section, b.section) for b in one.bars] == [b.section for b in two.bars]


def test_words_for_numbers_keys_and_sections_in_german(german: None) -> None:
    grid = make_song("C", bars=9).grid
    assert plural(1, "bar", "bars") == "1 Takt" and plural(3, "bar", "bars") == "3 Takte"
    assert (bars_text(grid, 1, 1), bars_text(grid, 1, 3)) == ("Takt 2", "Takt 2 bis 4")
    assert steps_text(2) == "einen Ganzton höher"
    assert Key(3, "minor").name() == "E♭-Moll"
    for key in (Key(9, "minor"), Key(2, "dorian"), Key(7, "harmonic minor")):
        assert parse_key(key.name()) == key
    assert parse_key("E minor") == Key(4, "minor"), "English is understood everywhere"
    assert sectionnames.said("Verse") == "Strophe" and sectionnames.kept("Strophe") == "Verse"
    assert sectionnames.said("Part C") == "Teil C"
    assert sectionnames.said("Der lange Steg") == sectionnames.kept("Der lange Steg") == "Der lange Steg"


def test_kinds_of_differences_stay_what_they_are_whatever_is_said_of_them(german: None) -> None:
    song = make_song("C F G C D G A D", bars=8)
    sections = tuple(Section(Fraction(16 * k), "Verse", "A") for k in range(2))
    higher = passes(replace(song, sections=Track(sections)), 1)[1].differences
    assert [(d.kind, d.words) for d in higher] == [("pitch", "alles ist einen Ganzton höher")]


@pytest.mark.parametrize(
    ("name", "found"),
    [("de_AT.UTF-8", "de"), ("de", "de"), ("de:en", "de"), ("fr_FR", "en"), ("C.UTF-8", "en"), ("", "en"), ("pt-BR", "en")],
)  # fmt: skip
def test_names_of_languages(name: str, found: str) -> None:
    assert tongue.usable(name) == found


def test_what_was_chosen_goes_before_what_the_desktop_speaks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    settings = Settings(tmp_path / "settings.ini")
    monkeypatch.setenv("LANGUAGE", "")
    monkeypatch.setenv("LC_ALL", "de_DE.UTF-8")
    assert language.wanted(settings) == language.DESKTOP and language.of_the_desktop() == "de"
    settings.set(language.KEY, "en")
    assert language.wanted(settings) == "en"
    settings.set(language.KEY, "no language")
    assert language.wanted(settings) == language.DESKTOP
