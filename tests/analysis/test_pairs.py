"""One guitar or two: by what begins at the strokes, as said of a section, and where that shows."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.audio.test_breadth import heard, plucks
from tests.song.test_passes import song_of
from ychronos.analysis.hands import pairs
from ychronos.formats import jams, project, textchart
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.song.strumming import Strummed

STRUCK = np.arange(0.25, 15.4, 0.5)


@pytest.mark.parametrize("right", [1.0, 0.3])
def test_two_takes_are_two_guitars_and_one_is_one(right: float) -> None:
    one, two = plucks(1, 0.0, 16.0), plucks(2, 0.008, 16.0)
    first, second = STRUCK[:16], STRUCK[16:]
    assert pairs.two(heard(one + 0.3 * two, two + 0.3 * one), [first, second]) == [True, True]
    assert pairs.two(heard(one, right * one), [first, second]) == [False, False]
    assert pairs.two(np.zeros((0, 12)), [first, second]) == [False, False]  # of a recording in mono


def test_a_section_of_few_strokes_goes_with_the_song() -> None:
    one, two = plucks(1, 0.0, 16.0), plucks(2, 0.008, 16.0)
    breadth = heard(one + 0.3 * two, two + 0.3 * one)
    assert pairs.features(breadth, STRUCK[:3]) is None
    assert pairs.two(breadth, [STRUCK[:28], STRUCK[28:]]) == [True, True]
    assert pairs.two(breadth, []) == []


def strummed(*paired: int) -> Song:
    song = song_of("Verse: G C G C", "Chorus: C F C G")
    bars = len(song.grid.bars)
    return replace(song, strummed=Strummed(("D-dU-Udu",) * bars, (0.9,) * bars, paired=frozenset(paired)))


def strokes_of(song: Song) -> list[float]:
    made = next(
        a for a in jams.document(song)["annotations"] if a["annotation_metadata"].get("data_source") == "strokes"
    )
    return [row["time"] for row in made["data"]]


def test_each_stroke_of_two_guitars_is_written_twice() -> None:
    one, both = strokes_of(strummed()), strokes_of(strummed(0, 1, 2, 3))
    verse = strummed().grid.clock(strummed().sections[1].start)
    assert sorted(both) == sorted([*one, *(t for t in one if t < verse - 0.01)])
    text = textchart.render(strummed(0, 1, 2, 3), folded=False)
    assert text.count("(two guitars)") == 1 and "strokes from bar 5: D-dU-Udu\n" in text


def test_what_is_said_of_a_section_goes_before_what_is_heard() -> None:
    song = strummed(0, 1, 2, 3)
    said, words = edits.state_paired(song, 1, True)
    assert "two guitars strum" in words and all(map(said.paired_in, range(8)))
    denied, words = edits.state_paired(said, 0, False)
    assert "one guitar strums" in words and [denied.paired_in(b) for b in (0, 3, 4, 7)] == [False, False, True, True]
    again = project.loads(project.dumps(denied))
    assert again.strummed == song.strummed and [again.paired_in(b) for b in (0, 4)] == [False, True]
