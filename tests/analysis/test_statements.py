"""Deciding again around statements: any order, no circle, nothing far away."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import FERRY, KNOTS, WALTZ
from ychronos.analysis import pipeline
from ychronos.analysis.beats import recount
from ychronos.analysis.chords import notes
from ychronos.analysis.chords.agreement import agreement
from ychronos.analysis.chords.deciding import decide_chords, free_chords
from ychronos.analysis.evidence import Evidence
from ychronos.analysis.form import tapes
from ychronos.audio import recording
from ychronos.formats import project
from ychronos.paths import cache_folder, demo_folder
from ychronos.song import edits
from ychronos.song.changes import beyond
from ychronos.song.model import Song
from ychronos.song.statements import Statement
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import parse_key
from ychronos.theory.meter import Meter, parse_meter

Analysed = tuple[Song, Evidence]
Said = tuple[Callable[[Song], edits.Edited], pipeline.What]


@pytest.fixture(scope="module")
def knots() -> Analysed:
    """The demo song in seven."""
    return pipeline.analyse(recording.load(KNOTS, keep_samples=False), "Knots", cache=cache_folder())


@pytest.fixture(scope="module")
def gulls() -> Analysed:
    """The demo song in five and four."""
    path = demo_folder() / "gulls_count_to_five.ogg"
    return pipeline.analyse(recording.load(path, keep_samples=False), "Gulls", cache=cache_folder())


def chord_at(clock: float, text: str) -> Said:
    def make(song: Song) -> edits.Edited:
        bar = song.grid.bar_at(round(song.grid.position(clock)))
        return edits.state_chord(song, *song.grid.bar_range(bar), parse_chord(text))

    return make, "chords"


def drag_at(clock: float, by: float) -> Said:
    def make(song: Song) -> edits.Edited:
        beat = round(song.grid.position(clock))
        return edits.move_beat(song, beat, clock + by)

    return make, "beats"


def say(song: Song, evidence: Evidence, said: Said) -> Song:
    new = said[0](song)[0]
    return pipeline.redecide(new, evidence, said[1], song)


def said_of(song: Song) -> list[Said]:
    """Statements of several kinds in places far from each other."""
    clock = song.grid.clock
    end = song.grid.end
    at = [clock(Fraction(round(end * k / 10))) for k in range(10)]
    return [
        chord_at(at[1], "Bbm7"),
        (lambda s: edits.remove_chord(s, s.chord_index(Fraction(round(s.grid.position(at[2])))) or 1), "chords"),
        (lambda s: edits.state_key(s, parse_key("E minor"), len(s.grid.bars) - 3, len(s.grid.bars) - 1), "chords"),
        drag_at(song.grid.times[round(end * Fraction(45, 100))], 0.03),
        (lambda s: edits.one_is_here(s, s.grid.starts[s.grid.bar_at(round(s.grid.position(at[7])))]), "bars"),
        (lambda s: edits.join_section(s, len(s.sections) - 2), "chords"),
    ]  # fmt: skip


@settings(max_examples=8)
@given(order=st.permutations(range(6)), number=st.integers(2, 6))
def test_any_order_of_independent_statements_gives_the_same_song(
    ferry: Analysed, order: list[int], number: int
) -> None:
    song, evidence = ferry
    said = said_of(song)
    made = []
    for way in (order[:number], sorted(order[:number])):
        new = song
        for k in way:
            new = say(new, evidence, said[k])
        made.append(new)
    assert made[0].statements == made[1].statements
    assert made[0].grid == made[1].grid
    assert made[0] == made[1]


@pytest.mark.parametrize("path", [FERRY, WALTZ, KNOTS], ids=lambda p: p.stem)
def test_deciding_again_without_news_is_a_fixpoint(path) -> None:
    song, evidence = pipeline.analyse(recording.load(path, keep_samples=False), "x", cache=cache_folder())
    for said in said_of(song)[:5]:
        song = say(song, evidence, said)
    for what in ("chords", "bars", "beats"):
        assert pipeline.redecide(song, evidence, what, song) == song, what
    opened = project.loads(project.dumps(song))
    again = pipeline.redecide(opened, evidence, "chords", opened)
    assert [(s.start, s.chord, s.stated, s.follows) for s in again.chords] == [
        (s.start, s.chord, s.stated, s.follows) for s in song.chords
    ], "an opened project is decided as it was"
    assert [(s.start, s.name, s.material) for s in again.sections] == [
        (s.start, s.name, s.material) for s in song.sections
    ]


@settings(max_examples=8)
@given(data=st.data())
def test_what_was_removed_survives_whatever_is_said(ferry: Analysed, data: st.DataObject) -> None:
    song, evidence = ferry
    index = data.draw(st.integers(4, len(song.chords) - 4))
    at = song.chords[index].start
    section = song.sections[data.draw(st.integers(1, len(song.sections) - 1))].start
    song = say(song, evidence, (lambda s: edits.remove_chord(s, index), "chords"))
    song = say(song, evidence, (lambda s: edits.join_section(s, s.section_index(section)), "chords"))
    others = [x for x in song.chords if abs(x.start - at) > 12]
    for _ in range(2):
        other = data.draw(st.sampled_from(others)).start
        text = data.draw(st.sampled_from(["Bbm7", "F#dim7", "Csus4"]))
        song = say(
            song, evidence, (lambda s, o=other, t=text: edits.state_chord(s, o, o + 2, parse_chord(t)), "chords")
        )
        assert at not in song.chords.starts and section not in song.sections.starts


def test_a_chord_moves_no_section_and_no_other_chord(ferry: Analysed) -> None:
    song, evidence = ferry
    for k in range(2, len(song.chords), 9):
        new = say(
            song, evidence, (lambda s, k=k: edits.state_chord(s, *s.chord_range(k), parse_chord("Ebm7")), "chords")
        )
        assert new.sections == song.sections and new.grid == song.grid
        a, b = song.chord_range(k)
        far = [(s.start, s.chord) for s in song.chords if s.start < a - 4 or s.start > b + 4]
        kept = {(s.start, s.chord) for s in new.chords if not s.follows}
        led = {s.start for s in new.chords if s.follows}
        assert sum(x not in kept and x[0] not in led for x in far) <= 1


@pytest.mark.parametrize("share", [0.1, 0.35, 0.6, 0.85])
def test_a_true_length_leaves_every_bar_line(ferry: Analysed, knots: Analysed, share: float) -> None:
    for song, evidence in (ferry, knots):
        bar = int(share * len(song.grid.bars))
        beats = song.grid.bars[bar].beats
        new = say(song, evidence, (lambda s, b=bar, n=beats: edits.set_length(s, b, n), "bars"))
        assert new.grid.starts == song.grid.starts and new.grid.bars[bar].length_stated
        new = say(song, evidence, (lambda s, b=bar: edits.one_is_here(s, s.grid.starts[b]), "bars"))
        assert new.grid.starts == song.grid.starts


def test_a_wrong_length_changes_only_what_hangs_together_with_it(gulls: Analysed) -> None:
    song, evidence = gulls
    bar = 5
    new = say(song, evidence, (lambda s: edits.set_length(s, bar, 3), "bars"))
    assert new.grid.bars[bar].beats == 3 and new.grid.bars[bar].length_stated
    assert new.grid.starts[: bar + 1] == song.grid.starts[: bar + 1], "what comes before stands"
    lines = set(song.grid.starts)
    assert sum(s in lines for s in new.grid.starts) > 0.6 * len(lines), "the count comes back to where it was"


def test_a_song_counted_again_can_be_saved(ferry: Analysed) -> None:
    song, evidence = ferry
    moved = edits.move_beat(song, 40, song.grid.times[40] + 0.03)[0]
    again = pipeline.redecide(moved, evidence, "beats", song)
    assert {type(t) for t in again.grid.times} == {float}
    loaded = project.loads(project.dumps(again))
    assert loaded.grid.times == pytest.approx(again.grid.times, abs=1e-5)


@pytest.mark.parametrize("tempo", [61, 97, 159, 203])
def test_a_stated_bar_line_stays_when_the_song_is_counted_at_another_speed(ferry: Analysed, tempo: int) -> None:
    song, evidence = ferry
    later = edits.shift_ones(song, 1)[0]
    line = next(later.grid.times[s] for _, s, bar in later.grid.walk() if bar.stated)
    faster = edits.set_tempo(later, tempo)[0]
    again = pipeline.redecide(faster, evidence, "beats", later)
    assert again.grid.tempo() == pytest.approx(faster.grid.tempo(), rel=0.1)
    stated = [again.grid.times[s] for _, s, bar in again.grid.walk() if bar.stated]
    assert stated == pytest.approx([line], abs=0.03)


def test_two_stated_bar_lines_stay_when_the_song_is_counted_half_or_two_thirds_as_fast(ferry: Analysed) -> None:
    song, evidence = ferry
    there, odd = song.grid.starts[6], song.grid.starts[11] + 1
    said = edits.one_is_here(edits.one_is_here(song, there)[0], odd)[0]
    lines = [said.grid.times[there], said.grid.times[odd]]
    for factor in (Fraction(1, 2), Fraction(2, 3)):
        slower = edits.set_tempo(said, song.grid.tempo() * float(factor))[0]
        again = pipeline.redecide(slower, evidence, "beats", said)
        for now in (slower, again):
            stated = [now.grid.times[s] for _, s, bar in now.grid.walk() if bar.stated]
            assert stated == pytest.approx(lines, abs=0.03)


def test_a_beat_put_right_counts_nothing_otherwise_seconds_away(ferry: Analysed) -> None:
    song, evidence = ferry
    for k in range(20, song.grid.beat_count - 8, 40):
        new = say(song, evidence, drag_at(song.grid.times[k], 0.02))
        assert new.grid.beat_count == song.grid.beat_count
        assert max(abs(a - b) for a, b in zip(new.grid.times, song.grid.times, strict=True)) < 0.08


@pytest.mark.parametrize("text", ["10/8", "8/8", "15/8", "3/8", "9/4", "10/4"])
def test_a_meter_that_the_analysis_does_not_know_stays_as_it_was_said(gulls: Analysed, text: str) -> None:
    song, evidence = gulls
    meter = parse_meter(text)
    made, words = edits.set_meter(song, 2, 9, meter)
    new = pipeline.redecide(made, evidence, "bars", song)
    stated = [b for b in new.grid.bars if b.meter_stated]
    assert stated and {b.meter for b in stated} == {meter} and f"in {text}" in words
    assert all(b.beats == meter.beats for b in stated[:-1])
    assert [b.meter for b in new.grid.bars[:2]] == [b.meter for b in song.grid.bars[:2]]
    last = max(i for i, b in enumerate(new.grid.bars) if b.meter_stated)
    assert [(b.beats, b.meter) for b in new.grid.bars[last + 1 :]] == [
        (b.beats, b.meter) for b in song.grid.bars[10:]
    ], "what comes after stands"
    later = say(new, evidence, chord_at(new.grid.times[-20], "Bb"))
    assert [b.meter for b in later.grid.bars] == [b.meter for b in new.grid.bars]


def test_news_are_told_place_by_place(ferry: Analysed) -> None:
    song, _ = ferry
    one = edits.move_beat(song, 10, song.grid.times[10] + 0.03)[0]
    two = edits.move_beat(one, 100, song.grid.times[100] + 0.03)[0]
    found = recount.news(song, two)
    assert found is not None and len(found) == 2
    assert recount.news(one, two) == found[1:] and recount.news(two, two) == []


def test_what_follows_and_what_falls_back_is_said(ferry: Analysed) -> None:
    song, evidence = ferry
    for k in range(4, len(song.chords) - 4):
        made, _ = edits.state_chord(song, *song.chord_range(k), song.chords[k].chord.over(None))
        if made.chords == song.chords:
            continue
        new = pipeline.redecide(made, evidence, "chords", song)
        followed = [s for s in new.chords if s.follows]
        words = " ".join(beyond(song, made, new))
        assert ("Followed at its other times" in words) == bool(followed)
    plain = edits.state_chord(song, *song.chord_range(5), song.chords[5].chord)[0]
    assert beyond(song, plain, pipeline.redecide(plain, evidence, "chords", song)) == []


def test_agreement_is_highest_for_what_is_heard(ferry: Analysed) -> None:
    song, evidence = ferry
    firm = [i for i, s in enumerate(song.chords) if s.confidence > 0.95 and not s.chord.is_none][:12]
    clock = song.grid.clock
    pieces = [(clock(a), clock(b), song.chords[i].chord) for i in firm for a, b in [song.chord_range(i)]]
    good = agreement(evidence.harmony, pieces)
    bad = agreement(evidence.harmony, [(a, b, c.transposed(1)) for a, b, c in pieces])
    assert sum(good) / len(good) > 0.8 and max(bad) < 0.2
    assert all(0 <= x <= 1 for x in (*good, *bad))


def test_silent_frames_give_no_notes_that_are_none() -> None:
    import numpy as np

    spectrum = np.zeros((40, notes.PITCH_BINS), np.float32)
    spectrum[:20] = np.random.default_rng(2).random((20, notes.PITCH_BINS)).astype(np.float32) * 1e4
    found = notes.activations(spectrum)
    assert np.isfinite(found).all() and (found >= 0).all()


def test_a_meter_of_twelve_eighths_over_three_bars(ferry: Analysed) -> None:
    song, evidence = ferry
    new = say(song, evidence, (lambda s: edits.set_meter(s, 4, 6, Meter(12, 8)), "bars"))
    assert [str(b.meter) for b in new.grid.bars[4:7]] == ["12/8"] * 3
    assert new.grid.starts == song.grid.starts


def test_chords_of_a_tape_cut_into_pieces_are_those_of_the_whole(
    ferry: Analysed, monkeypatch: pytest.MonkeyPatch
) -> None:
    song, evidence = ferry
    bar = song.grid.bar_range(30)
    stated = (Statement("chord", *bar, parse_chord("Eb7")), Statement("goes on", *song.grid.bar_range(31)))
    whole = decide_chords(evidence, song.grid, stated)
    monkeypatch.setattr(tapes, "LONGEST", 24)
    monkeypatch.setattr(tapes, "SHORTEST", 8)
    pieces = decide_chords(evidence, song.grid, stated)
    free = free_chords(evidence, song.grid)
    assert [c.start for c in pieces] == sorted({c.start for c in pieces})
    at = [Fraction(i, 2) for i in range(int(2 * song.grid.end))]
    named = [[track.at(p).chord for p in at] for track in (whole, pieces, free)]
    assert np.mean([a == b for a, b in zip(named[0], named[1], strict=True)]) > 0.95
    assert np.mean([a == b for a, b in zip(named[0], named[2], strict=True)]) > 0.85
    here = [n for p, n in zip(at, named[1], strict=True) if bar[0] <= p < song.grid.bar_range(31)[1]]
    assert set(here) == {parse_chord("Eb7")}
