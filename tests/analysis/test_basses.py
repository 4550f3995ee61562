"""Which of its notes a chord has in the bass: by value on sounds made up, and on a band made up."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.analysis.synth import band
from tests.conftest import make_song
from ychronos.analysis import net, pipeline
from ychronos.analysis.chords import basses
from ychronos.analysis.chords.harmony import basses_of
from ychronos.analysis.spectra import LOWEST_MIDI, PITCH_RATE
from ychronos.song.bassnotes import BassNote
from ychronos.song.merge import merged
from ychronos.song.model import Song
from ychronos.song.statements import Statement
from ychronos.song.track import Track
from ychronos.theory.chord import parse_chord

FRAMES = int(20 * PITCH_RATE)


def low_sounds(low: int, heard: dict[int, float]) -> Any:
    """Evidence of one sound from beginning to end: a low note and its octave, and how likely the net takes each bass."""
    chance = np.full(13, 1e-4)
    for pitch_class, share in heard.items():
        chance[pitch_class] = share
    notes = np.zeros((FRAMES, 84), np.float32)
    notes[:, low - LOWEST_MIDI] = 1.0
    notes[:, low + 12 - LOWEST_MIDI] = 0.5
    return SimpleNamespace(bass=np.tile(np.log(chance / chance.sum()), (FRAMES, 1)), notes=notes)


@pytest.mark.parametrize(("low", "bass"), [(36, None), (40, 4), (43, 7)])
def test_the_lowest_note_decides_where_the_net_is_in_two_minds(low: int, bass: int | None) -> None:
    song = make_song("C F")
    evidence = low_sounds(low, {0: 0.5, low % 12: 0.5})
    found = basses.decide(song, evidence, ())
    assert found[0].chord == parse_chord("C").over(bass)


def test_the_line_of_the_bass_has_a_say() -> None:
    song, weights = make_song("C F"), net.weights("basses")["basses"]
    evidence = low_sounds(36, {0: 0.4, 7: 0.4})
    line = [BassNote(0.98 + k * 0.5, 0.5, 43) for k in range(4)]

    def fifth_over_root(line: list[BassNote]) -> float:
        _, found, x = basses.rows(song, evidence, line)[0]
        speaks = dict(zip(found, x @ weights, strict=True))
        return float(speaks[7] - speaks[0])

    assert fifth_over_root(line) > fifth_over_root(line[:2]) > fifth_over_root([])


def test_a_chord_struck_anew_and_one_that_goes_on_keep_their_bass() -> None:
    song = make_song("C C F F")  # one chord of two bars each, from one second on
    evidence = low_sounds(36, {0: 0.5, 7: 0.5})
    half = int(3 * PITCH_RATE)  # the second bar is over G
    evidence.notes[half:] = low_sounds(43, {}).notes[half:]
    evidence.bass[half:] = low_sounds(43, {7: 1.0}).bass[half:]
    whole = basses.decide(song, evidence, ())[0].chord
    again = merged(replace(song, statements=(Statement("struck", Fraction(4)),)))
    assert again.chords[1].again
    assert [c.chord for c in basses.decide(again, evidence, ())[:2]] == [whole, whole]
    goes_on = merged(replace(song, statements=(Statement("goes on", Fraction(4), Fraction(8)),)))
    assert basses.decide(goes_on, evidence, ())[0].chord == parse_chord("C"), "only what sounds before counts"


def in_parts(parts: list[tuple[float, int]]) -> Any:
    """Evidence of low notes that follow each other: when each begins (s), and which it is."""
    out = low_sounds(parts[0][1], {})
    for at, low in parts:
        here = low_sounds(low, {low % 12: 1.0})
        out.notes[int(at * PITCH_RATE) :] = here.notes[int(at * PITCH_RATE) :]
        out.bass[int(at * PITCH_RATE) :] = here.bass[int(at * PITCH_RATE) :]
    return out


def test_a_bass_that_moves_within_a_chord_is_no_change_of_it() -> None:
    song = make_song("C C F F")
    grid, first = song.grid, song.chords[0]
    beats = [
        Track([*(replace(first, start=Fraction(k)) for k in starts), song.chords[1]]) for starts in ((0, 2), (0, 4))
    ]
    within, next_bar = (replace(song, chords=track) for track in beats)
    # root and third by turns, half a bar each: one chord; the third in a bar of its own is another
    found = basses.decide(
        within, in_parts([(0.0, 36), (grid.clock(2), 40), (grid.clock(4), 36), (grid.clock(8), 41)]), ()
    )
    assert [(c.start, c.chord) for c in found] == [(0, parse_chord("C")), (8, parse_chord("F"))]
    found = basses.decide(next_bar, in_parts([(0.0, 36), (grid.clock(4), 40), (grid.clock(8), 41)]), ())
    assert [(c.start, c.chord.sounding_bass) for c in found] == [(0, 0), (4, 4), (8, 5)]


def test_another_bass_from_bar_to_bar_is_another_chord() -> None:
    song = make_song("C C F F", bars=4)
    grid = song.grid
    second = in_parts([(0.0, 36), (grid.clock(4), 40), (grid.clock(8), 41)])

    def found(song: Song) -> list[tuple[int, str]]:
        return [(int(c.start), c.chord.harte()) for c in basses.decide(song, second, ())]

    assert found(song) == [(0, "C:maj"), (4, "C:maj/3"), (8, "F:maj")]
    still = in_parts([(0.0, 36), (grid.clock(8), 41)])
    assert [int(c.start) for c in basses.decide(song, still, ())] == [0, 8], "and bars over one bass are one chord"
    first, last = song.chords
    marked = replace(song, chords=Track([replace(first, unsure=True, comment="hm"), last]))
    assert [(c.unsure, c.comment) for c in basses.decide(marked, second, ())] == [
        (True, "hm"),
        (False, ""),
        (False, ""),
    ]
    for field, value in (("stated", True), ("follows", True), ("rings", 0.8), ("cut", 0.8)):
        whole = replace(song, chords=Track([replace(first, **{field: value}), last]))
        assert len(found(whole)) == 2, field
    on = Statement("goes on", Fraction(4), Fraction(8))
    assert len(found(merged(replace(song, statements=(on,))))) == 2


@pytest.mark.parametrize("written", [False, True])
def test_a_bass_that_walks_takes_other_notes_in_another_pass_and_one_that_is_written_does_not(written: bool) -> None:
    """Two passes of four bars: under the second bar's F the first pass hardly hears another bass; the second one tells."""
    song = make_song("C F G Am")
    one, two = song.sections
    same = replace(song, sections=Track([replace(one, material="A"), replace(two, material="A")]))
    other = replace(song, sections=Track([replace(one, material="A"), replace(two, material="B")]))
    starts = [song.grid.clock(Fraction(s)) for s in song.grid.starts[:-1]]
    lows = [36, 45, 43, 45, 36, 45 if written else 41, 43, 45]
    evidence = in_parts(list(zip(starts, lows, strict=True)))
    unsure = slice(int(starts[1] * PITCH_RATE), int(starts[2] * PITCH_RATE))
    evidence.bass[unsure] = low_sounds(45, {5: 0.7, 9: 0.2}).bass[unsure]

    def margin(song: Song) -> float:
        found = basses.standing(song, evidence, ())
        _, may_have, x = found[1]
        w = net.weights("basses")
        speaks = x @ w["basses"] + basses.by_passes(song, found)[1] @ w["passes"]
        return float(speaks[may_have.index(9)] - speaks[may_have.index(5)])

    assert (margin(same) > margin(other)) == written and margin(same) != margin(other)
    assert not any(more.any() for more in basses.by_passes(other, basses.standing(other, evidence, ()))), (
        "one pass of each"
    )
    # what is other in the other pass is no witness
    changed = [replace(c, chord=parse_chord("Dm")) if k == 5 else c for k, c in enumerate(same.chords)]
    assert margin(replace(same, chords=Track(changed))) == margin(other)


def test_a_count_in_that_is_a_section_of_its_own_has_basses_too() -> None:
    song = make_song("C F G Am", lead=2)
    first, second = song.sections
    alone = replace(song, sections=Track([first, replace(second, start=Fraction(song.grid.starts[1]))]))
    assert not alone.section_bars(0)
    evidence = low_sounds(36, {0: 0.9})
    assert [c.start for c in basses.decide(alone, evidence, ())] == [c.start for c in basses.decide(song, evidence, ())]


def test_parts_of_which_something_was_said_stay_apart() -> None:
    song = make_song("C C F F")
    evidence = in_parts([(0.0, 36), (song.grid.clock(2), 40), (song.grid.clock(4), 36)])
    for field in ("stated", "follows", "again"):
        parts = [song.chords[0], replace(song.chords[0], start=Fraction(2), **{field: True}), song.chords[1]]
        assert len(basses.decide(replace(song, chords=Track(parts)), evidence, ())) == 3, field


@given(st.integers(0, 1000), st.sets(st.integers(0, 7)), st.sets(st.integers(0, 7)))
def test_nothing_but_the_bass_is_another_and_what_was_said_stays(seed: int, stated: set[int], follow: set[int]) -> None:
    rng = np.random.default_rng(seed)
    song = make_song("G D/F# Em7 C N Bm Am7 D7/C")
    spans = [replace(c, stated=k in stated, follows=k in follow) for k, c in enumerate(song.chords)]
    song = replace(song, chords=Track(spans))
    evidence: Any = SimpleNamespace(
        bass=rng.normal(0, 3, (FRAMES, 13)).astype(np.float16),
        notes=np.maximum(0, rng.normal(0, 1, (FRAMES, 84))).astype(np.float16),
    )
    found = basses.decide(song, evidence, [BassNote(2.0, 0.5, 40), BassNote(5.0, 0.2, 31)])
    assert [c.start for c in found] == [c.start for c in song.chords]
    for k, (one, two) in enumerate(zip(song.chords, found, strict=True)):
        assert (one.chord.root, one.chord.quality) == (two.chord.root, two.chord.quality)
        if one.chord.root is None or k in stated or k in follow:
            assert one == two
        else:
            assert two.chord.sounding_bass in basses_of(one.chord)


@pytest.mark.parametrize(("heard", "low", "called"), [("Bm7b5", 38, "Dm6"), ("Am7", 36, "Am7/C"), ("Am", 36, "Am/C")])
def test_a_chord_is_called_by_its_bass_where_that_is_plain(heard: str, low: int, called: str) -> None:
    song = make_song(f"{heard} F G C")
    first, name = song.chords[0], parse_chord(called)
    rivals = ((name, 0.2), (parse_chord("F"), 0.1))
    song = replace(song, chords=Track([replace(first, rivals=rivals), *list(song.chords)[1:]]))
    found = basses.decide(song, in_parts([(0.0, low)]), ())[0]
    assert found.chord == name
    assert found.rivals == (((parse_chord("Bm7b5/D"), 0.2), rivals[1]) if called == "Dm6" else rivals)
    stated = replace(song, chords=Track([replace(first, stated=True), *list(song.chords)[1:]]))
    assert basses.decide(stated, in_parts([(0.0, low)]), ())[0].chord == parse_chord(heard)


def test_chords_over_another_bass_are_heard_in_a_band() -> None:
    names = ["C", "G/B", "Am", "F/A", "C/G", "F", "Dm", "G"]
    sound, beats = band(names, repeat=2)
    song, _ = pipeline.analyse(sound, "made up")
    right = 0
    for bar, name in enumerate(names * 2):
        place = song.grid.position(float(beats[4 * bar + 1]))
        right += song.chords[song.chords.index_at(place)].chord.sounding_bass == parse_chord(name).sounding_bass
    assert right >= 13
