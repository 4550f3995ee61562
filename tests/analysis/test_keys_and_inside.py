"""Keys with their arguments, and the look inside a chord."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from tests.conftest import make_song
from ychronos.analysis import pipeline
from ychronos.analysis.evidence import Evidence
from ychronos.analysis.explain import inside
from ychronos.analysis.keys import deciding, dominants, keyfinding, keyhabits
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.song.track import Track
from ychronos.theory.chord import NO_CHORD, parse_chord
from ychronos.theory.key import Key, parse_key


def bars(text: str) -> list[list[tuple]]:
    return [[(parse_chord(c), 1.0)] for c in text.split()]


@pytest.mark.parametrize(
    ("text", "key"),
    [
        ("C Am F G C Am F G C F G C", "C major"),
        ("Am G F E7 Am G F E7 Am Dm E7 Am", "A minor"),
        ("Dm G Dm G Dm C G Dm Dm G C Dm", "D dorian"),
        ("G F C G G F C G G F C G", "G mixolydian"),
        ("Em F Em F Em Dm F Em Em F Dm Em", "E phrygian"),
    ],
)
def test_songs_that_keep_coming_home(text: str, key: str) -> None:
    found = keyfinding.gather(bars(text))
    assert found.habit == "homing" and [k.key.name() for k in found.decided] == [key]


@pytest.mark.parametrize(
    ("text", "key"),
    [
        # home begins the phrases and is left at once: the second degree, with as much time, is none
        ("Cmaj7 A7 Dm7 G7 Cmaj7 Am7 Dm7 G7 Cmaj7 C7 Fmaj7 Fm6 Em7 A7 Dm7 G7 " * 2, "C major"),
        ("C Dm Am C F Em F Dm C Dm Am C F Em F G " * 2, "C major"),
        ("D A A7 Bm D A F#m A D A A7 Bm D A G A " * 2 + "D", "D major"),
    ],
)
def test_where_phrases_begin_speaks_for_home(text: str, key: str) -> None:
    assert [k.key.name() for k in keyfinding.decide(bars(text))] == [key]


@pytest.mark.parametrize("phrase", ["C Dm G7 Am", "C Dm G7 Em", "C Dm Am G7", "C G7 Dm G"])
def test_a_song_comes_home_where_its_phrases_begin(phrase: str) -> None:
    # dominant sevenths and the second degree speak for a mode on G, or for D minor, to who counts chords only
    song = bars(f"{phrase} {phrase} {phrase} Em F G G " * 2)
    assert keyfinding._comes_home(song)
    assert [k.key.name() for k in keyfinding.decide(song)] == ["C major"]
    assert not keyfinding._comes_home(bars("C Dm G7 Am F G C Am Dm G7 C Am G7 F C G"))
    assert not keyfinding._comes_home([[(NO_CHORD, 1.0)]] * 8)


def test_a_middle_part_in_the_relative_minor_is_found_where_its_section_begins() -> None:
    verse = "D G A D D Bm G A " * 2
    song = bars(verse + "Bm F#7 Bm F#7 Bm Em F#7 Bm " + verse)

    def told(lines: set[int] | None) -> list[tuple[int, str]]:
        return [(k.first, k.key.name()) for k in keyfinding.decide(song, lines=lines)]

    assert told({0, 8, 16, 24, 32}) == [(0, "D major"), (16, "B minor"), (24, "D major")]
    assert told({0}) == told(None) == [(0, "D major")]


def test_dominants_that_resolve_are_counted() -> None:
    assert dominants.resolved(bars("C G7 C A7 A7 Dm G7 Em F G C")) == 2
    assert dominants.resolved([[(NO_CHORD, 1.0)]]) == 0


def test_a_minor_seventh_before_its_dominant_speaks_for_the_home_of_both() -> None:
    assert dominants.prepared(bars("C Dm7 G7 Em7 Am Am7 D9 Dm7b5 G7b9 Cm F7 G7")) == [
        (1, 2, parse_key("C major")),
        (5, 6, parse_key("G major")),
        (7, 8, parse_key("C minor")),
    ]
    # through the circle of fifths and seldom home: by its chords one at a time it would be F dorian
    around = [
        [(parse_chord(c), 1 / len(bar.split("|"))) for c in bar.split("|")]
        for bar in ["Eb", "C7", "Fm7", "Bb7", "Cm7|F9", "Gm7", "C7", "Fm7|Bb7"] * 4
    ]
    assert [k.key.name() for k in keyfinding.decide(around)] == ["E♭ major"]
    # but who comes home to the first of the two is in a mode of its own
    assert [k.key.name() for k in keyfinding.decide(bars("Dm7 G7 " * 8))] == ["D dorian"]


@pytest.mark.parametrize(
    ("text", "key"),
    [
        # phrases that begin on the second degree and go on to the dominant: no home
        ("Bm7 E7 Amaj7 F#7 " * 6 + "A6", "A major"),
        # dominants of the dominant, home only after them: not G mixolydian first
        ("G7 G7 C7 C7 F Am Bb C7 " * 2 + "F Am Bb C7 Eb Bb F F " * 2, "F major"),
        # twelve bars of nothing but dominant sevenths: in C, not in C mixolydian
        ("C7 F7 C7 C7 F7 F7 C7 C7 G7 F7 C7 G7 " * 3 + "C7", "C major"),
        # a mode whose fifth degree is no dominant keeps its name
        ("C7 Bb F C7 C7 Bb F C7 Gm F C7 C7 " * 2, "C mixolydian"),
    ],
)
def test_dominant_sevenths_belong_to_what_they_lead_to(text: str, key: str) -> None:
    assert [k.key.name() for k in keyfinding.decide(bars(text))] == [key]


def test_a_blues_has_dominant_sevenths_on_three_degrees() -> None:
    twelve = dominants.blues(bars("C7 F7 C7 C7 F7 F7 C7 C7 G7 F7 C7 G7"))
    c = keyhabits.KEYS.index(parse_key("C major"))
    assert twelve[:, c].tolist() == [dominants.BLUES_AT_HOME * x for x in (1, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1, 0)]
    assert np.count_nonzero(twelve) == 6
    assert not dominants.blues(bars("C7 F C7 G7 C7 F C7 G7")).any()
    assert not dominants.blues([[(NO_CHORD, 1.0)]]).any()


def test_a_section_that_closes_from_its_dominant_speaks_for_its_home() -> None:
    verse = "Eb6 Eb6 Am7b5 D7 Eb6 F Gm6 Gm6 "
    middle = "Cm7 F7 Bb6 Bb6 Cm7 F7 Bb6 Bb6 "  # no G minor in it, but all its notes are of that key too
    song = bars("Gm7 Gm7 D7 Gm7 " + verse + middle + verse)
    lines = {0, 4, 12, 20}
    found = [(k.first, k.key.name()) for k in keyfinding.decide(song, lines=lines)]
    assert found == [(0, "G minor"), (12, "B♭ major"), (20, "G minor")]
    closes = dominants.closes(song, lines)
    closed = {(i, keyhabits.KEYS[k].name()) for i, k in np.argwhere(closes)}
    assert closed == {(3, "G minor"), (3, "G dorian"), (18, "B♭ major")}
    assert not dominants.closes(bars("C F G7 C7 G7"), ()).any() and not dominants.closes(bars("N N"), ()).any()


def test_a_change_to_a_key_that_is_near_costs_less() -> None:
    keys = {k: keyhabits.KEYS.index(parse_key(k)) for k in ("C major", "A minor", "C minor", "D major", "D dorian")}
    dear = [keyfinding._between()[keys["C major"], keys[k]] for k in ("A minor", "C minor", "D major", "D dorian")]
    assert dear == sorted(dear) and len(set(dear)) == 4
    assert (keyfinding._between() >= 0).all() and (keyfinding._between() == keyfinding._between().T).all()


def test_the_first_bar_that_sounds_begins_the_first_phrase() -> None:
    row = bars("C Am F G")
    said = keyfinding._phrases([[(NO_CHORD, 1.0)], *row, *row])
    c, weight = keyhabits.KEYS.index(parse_key("C major")), keyfinding.COMES_HOME_WEIGHT
    assert said[:, c].tolist() == [0, weight, 0, 0, 0, weight, 0, 0, 0]


def test_a_song_that_wanders_among_its_chords() -> None:
    # every chord of B flat major as often as any other, the diminished one among them
    found = keyfinding.gather(bars("Dm F Bb Dm Eb A° Gm Cm F A° Dm Gm F Cm Eb A° F Dm Gm Bb F A° Dm Eb Gm Cm F Bb"))
    assert found.habit == "roaming" and found.decided[0].key == parse_key("Bb major")


def test_a_change_of_key_is_heard() -> None:
    first, second = "C Am F G C F G C " * 3, "D Bm G A D G A D " * 3
    decided = keyfinding.decide(bars(first + second))
    assert [k.key.name() for k in decided] == ["C major", "D major"]
    assert 22 <= decided[1].first <= 26


@pytest.mark.parametrize(
    ("found", "written"),
    [
        (["Gb major", "F# minor", "Eb minor"], ["F♯ major", "F♯ minor", "D♯ minor"]),
        (["F major", "Gb major"], ["F major", "G♭ major"]),
        (["Gb major", "Eb minor"], ["G♭ major", "E♭ minor"]),
        (
            ["Db major", "C# minor"],
            ["D♭ major", "C♯ minor"],
        ),  # five flats are easier than seven sharps, whatever is beside them
    ],
)
def test_keys_with_six_signs_are_written_as_the_rest_is(found: list[str], written: list[str]) -> None:
    usual = [parse_key(k) for k in found]
    assert all(not k.respelled for k in usual)
    spans = [keyfinding.DecidedKey(8 * i, 8 * i + 8, k, 0.9) for i, k in enumerate(usual)]
    assert [s.key.name() for s in deciding.spelled_together(spans)] == written


def test_a_stated_key_holds_and_the_rest_is_decided() -> None:
    row = bars("Am F C G " * 6)
    stated = {i: parse_key("A minor") for i in range(8)}
    decided = keyfinding.decide(row, stated)
    assert decided[0].key == parse_key("A minor") and decided[0].first == 0
    assert keyfinding.decide(row, {i: Key(9, "minor", True) for i in range(24)})[0].key == parse_key("A minor")


def test_evidence_over_time_follows_the_chords() -> None:
    found = keyfinding.gather(bars("C F G C C F G C C F G C A D E A A D E A A D E A"))
    c, a = (keyhabits.KEYS.index(parse_key(k)) for k in ("C major", "A major"))
    assert found.chance.sum(1) == pytest.approx(np.ones(24))
    assert found.chance[3, c] > 0.5 > found.chance[3, a] and found.chance[20, a] > 0.5
    assert set(found.leading(2)) == {c, a}


def test_arguments_are_counted() -> None:
    row = bars("C Am F G C C# F G C")
    found = keyfinding.arguments(row, parse_key("C major"))
    assert found.first and found.last and found.cadences == 2
    assert found.home == pytest.approx(3 / 9) and found.inside == pytest.approx(8 / 9)
    other = keyfinding.arguments(row, parse_key("A minor"))
    assert other.home == pytest.approx(1 / 9) and other.cadences == 0 and not other.first
    assert keyfinding.arguments([[(NO_CHORD, 1.0)]], parse_key("C major")).home == 0


def test_keys_of_a_song_keep_what_is_stated(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    stated, _ = edits.state_key(song, parse_key("E minor"), 8, 15)
    again = pipeline.redecide(stated, evidence)
    assert again.key_at(Fraction(9 * 4)) == parse_key("E minor")
    assert again.key_at(Fraction(0)) == parse_key("G major")


# ---------------------------------------------------------------- inside


def test_inside_a_plain_chord_its_notes_sound(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    index = next(i for i, s in enumerate(song.chords) if s.chord == parse_chord("D/F#") and i > 1)
    seen = inside.look_at(song, evidence, *song.chord_range(index), song.chords[index].chord)
    mine = song.chords[index].chord.pitch_classes
    assert all(seen.sounding[n] > 0.7 for n in mine) and not seen.missing
    assert all(seen.sounding[n] < 0.5 for n in set(range(12)) - mine - set(seen.leftover))
    assert int(seen.bass[:12].argmax()) == 6 and seen.picture.max() == pytest.approx(1)
    assert "bass F♯ throughout" in inside.reasons(song, evidence, index)


def test_a_bass_that_single_moments_do_not_say_is_unclear_unless_it_is_stated(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    index = next(i for i, s in enumerate(song.chords) if s.chord == parse_chord("D/F#") and i > 1)
    start, end = song.chord_range(index)
    decided = [replace(s, chord=parse_chord("D/A")) if i == index else s for i, s in enumerate(song.chords)]
    other = replace(song, chords=Track(decided))
    assert "bass unclear: A or F♯" in inside.reasons(other, evidence, index)
    stated, _ = edits.state_chord(song, start, end, parse_chord("D/A"))
    assert "bass F♯ throughout" in inside.reasons(stated, evidence, stated.chord_index(start))


def test_a_wrong_name_is_shown_to_be_wrong(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    index = next(i for i, s in enumerate(song.chords) if s.chord == parse_chord("Em7") and s.confidence > 0.9)
    start, end = song.chord_range(index)
    plain = inside.look_at(song, evidence, start, end, parse_chord("Em"))
    assert plain.leftover == (2,), "the seventh is left over"
    assert plain.with_leftover(2) == parse_chord("Em7")
    major = inside.look_at(song, evidence, start, end, parse_chord("E"))
    assert 8 in major.missing and 7 in major.leftover
    assert inside.difference(plain, parse_chord("Em7"), lambda n: f"<{n}>").startswith("with <2>")
    wrong, _ = edits.state_chord(song, start, end, parse_chord("E"))
    said = inside.reasons(wrong, evidence, wrong.chord_index(start))
    assert "third hardly heard" in said and any("sounds too" in w for w in said)


def test_reasons_name_what_other_passes_have() -> None:
    song = make_song("C F G C C F Am C", bars=8)
    sections = tuple(replace(s, name="Verse", material="A") for s in song.sections)
    song = replace(song, sections=sections)
    assert "Verse 2 has Am" in inside.reasons(song, None, 2)
    assert "the same 1 other time" in inside.reasons(song, None, 1)


def test_reasons_name_what_does_not_belong() -> None:
    song = make_song("C A7 Dm G C A7 Dm G", key="C major")
    assert "secondary dominant: leads to Dm" in inside.reasons(song, None, 1)
    assert inside.reasons(make_song("N C"), None, 0) == []


def test_difference_of_chords_of_the_same_notes(ferry: tuple[Song, Evidence]) -> None:
    _, evidence = ferry
    seen = inside.look(evidence, 10.0, 12.0, parse_chord("Am7"))
    assert inside.difference(seen, parse_chord("C6/A"), str) == "the same notes"
    assert "in the bass" in inside.difference(seen, parse_chord("C6"), str)
