"""Charts that other people typed: read as far as they make sense, laid against the record."""

from __future__ import annotations

import json
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import FERRY, make_song
from ychronos import cli
from ychronos.analysis.against.aligning import lay_against
from ychronos.analysis.chords.agreement import likely_right
from ychronos.analysis.evidence import Evidence
from ychronos.formats import agreementjson, jams, musicxml, project, tables, textchart
from ychronos.formats.agreementtext import agreement_text
from ychronos.formats.chartfiles import read_chart
from ychronos.formats.charttext import ChartError, read_chord, read_text
from ychronos.song.handed import HandedChart
from ychronos.song.model import Song
from ychronos.theory.chord import parse_chord


def bars(chart: HandedChart) -> list[str]:
    return [" ".join(c.name(ascii_only=True) for _, c in b.chords) for b in chart.bars]


# ---------------------------------------------------------------- reading


def test_bars_sections_and_repeats_are_unfolded() -> None:
    chart = read_text(
        "Title: Salt on the Step\nKey: G\nCapo 2\n\n[Verse]\n| G . D . | Em | % | C D |\n\nChorus:\n|: C | G | D :|\n"
        "| Am x2 | D7 |\n[Verse]\n[Chorus] x2\n"
    )
    assert (chart.title, chart.key, chart.capo, chart.barred) == ("Salt on the Step", "G", 2, True)
    verse, chorus = ["G D", "Em", "Em", "C D"], ["C", "G", "D", "C", "G", "D", "Am", "Am", "D7"]
    assert bars(chart) == verse + chorus + verse + chorus * 2
    assert [b.number for b in chart.bars][:14] == [*range(1, 14), 1]
    assert chart.bars[0].chords[1][0] == Fraction(1, 2) and chart.bars[3].chords[1][0] == Fraction(1, 2)
    assert [b.section for b in chart.bars if b.opens] == ["Verse", "Chorus", "Verse", "Chorus", "Chorus"]


def test_three_times_in_all() -> None:
    assert bars(read_text("|: C | G :| x3\n| D |")) == ["C", "G"] * 3 + ["D"]


def test_chords_over_words_and_in_brackets() -> None:
    chart = read_text("Verse 1\nG        D/F#       Em\nLow tide comes in over stones\n[C]Nobody [D]waits\n??!\n")
    assert bars(chart) == ["G", "D/F#", "Em", "C", "D"] and not chart.barred
    assert chart.words == ("Low tide comes in over stones", "Nobody waits") and chart.unread == ("??!",)


def test_letters_name_sections_where_chords_stand_in_bars() -> None:
    chart = read_text("[A]\n| Am | Dm |\n[B]\n| E | Am |\n[A]\n")
    assert bars(chart) == ["Am", "Dm", "E", "Am", "Am", "Dm"]
    assert [b.section for b in chart.bars] == ["A", "A", "B", "B", "A", "A"]


def test_numbers_and_romans() -> None:
    assert bars(read_text("| 1 | 4 5 | 6m | 5/7 |")) == ["C", "F G", "Am", "G/B"]
    assert bars(read_text("| I | IV V7 | vi | bVII |")) == ["C", "F G7", "Am", "Bb"]
    assert read_chord("H7") == parse_chord("B7") and read_chord("low") is None


@pytest.mark.parametrize("text", ["", "only words here", "\n\n", "[Verse]\n"])
def test_no_chords_is_said(text: str) -> None:
    with pytest.raises(ChartError, match="No chords"):
        read_text(text)


@given(st.text(alphabet="ABCDGm7#b/|:[]{}()x%. \n12-Verse", max_size=200))
def test_whatever_is_typed_is_read_or_refused_in_a_sentence(text: str) -> None:
    try:
        chart = read_text(text)
    except ChartError as error:
        assert str(error).endswith(".")
    else:
        assert chart.bars and len(chart.sounding()) == len(chart.bars)


# ---------------------------------------------------------------- against a record


def chart_of(song: Song, up: int = 0, wrong: dict[int, str] | None = None, leave: tuple[int, ...] = ()) -> str:
    """The song's own chart as somebody would type it, ``up`` semitones higher, with planted mistakes."""
    lines = []
    for s in range(len(song.sections)):
        cells = []
        for bar in song.section_bars(s):
            if bar in leave:
                continue
            start, end = song.grid.bar_range(bar)
            here = [
                song.chords[i].chord.transposed(up)
                for i in range(len(song.chords))
                if start <= song.chords[i].start < end
            ]
            first = song.chords[song.chord_index(start)].chord.transposed(up)
            names = [c.name(ascii_only=True) for c in (here or [first])]
            cells.append((wrong or {}).get(bar) or " ".join(names))
        lines += [f"[{song.sections[s].name} {s}]", "| " + " | ".join(cells) + " |"]
    return "\n".join(lines)


@pytest.mark.parametrize("up", [0, 3, 10])
def test_the_song_s_own_chart_is_found_in_any_key(ferry: tuple[Song, Evidence], up: int) -> None:
    song, evidence = ferry
    found = lay_against(song, evidence, read_text(chart_of(song, up)))
    assert found.transposition == -up % 12 and found.agreement > 0.85
    assert not found.missing and not found.extra
    starts = [song.grid.bar_range(i)[0] for i in range(song.grid.lead_in, len(song.grid.bars))]
    assert [b.start for b in found.bars] == starts
    assert all(b.same for b in found.bars if b.our_agreement > 0.9 and len(b.ours) == 1)


def test_planted_chords_and_missing_bars_are_found(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    first = song.grid.lead_in
    wrong = {first + 5: "Eb", first + 14: "F#m"}
    found = lay_against(
        song,
        evidence,
        read_text(chart_of(song, 2, {k: parse_chord(v).transposed(2).name(ascii_only=True) for k, v in wrong.items()})),
    )
    assert found.transposition == 10
    doubted = {b.number - 1 + first for b in found.doubtful}
    # a bar with several chords was typed as if they shared it evenly, which the sound may well speak against
    uneven = {b for b in doubted if len(song.chords.touching(*song.grid.bar_range(b))) > 1}
    assert set(wrong) <= doubted and doubted - set(wrong) <= uneven and len(doubted) <= len(wrong) + 1


def test_what_the_chart_has_not_is_said() -> None:
    song = make_song("G D Em C Ab Db Eb Bbm F#m B C#m E Am F Dm C", bars=16)
    found = lay_against(song, None, read_text(chart_of(song, leave=(4, 5, 6, 7))))
    assert [(x, y) for x, y in found.missing] == [(Fraction(16), Fraction(32))]
    assert not found.extra and len(found.bars) == 12
    found = lay_against(song, None, read_text(chart_of(song) + "\n[More]\n| Eb+ | Gdim7 | Ebm |"))
    assert found.extra == (17, 18, 19) and not found.missing


def test_folded_repeats_are_played_again_though_the_chart_does_not_say_so() -> None:
    song = make_song("G D Em C | Am D G Bm", bars=24)
    found = lay_against(song, None, read_text("[One]\n| G | D | Em | C |\n[Two]\n| Am | D | G | Bm |"))
    assert [b.number for b in found.bars] == list(range(1, 9)) * 3 and found.agreement > 0.9


def test_words_and_data_of_an_agreement(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    first = song.grid.lead_in
    chart = read_text(
        "Capo 2\n" + chart_of(song, -2, {first + 5: "Bbm7b5"}) + "\n[Ending]\n| Ab | Db | Ab | Db | Gb | B |\n"
    )
    found = lay_against(song, evidence, chart)
    words = agreement_text(song, chart, found)
    assert "of the chart agrees" in words and "capo at fret 2, as it says" in words
    assert "it has Cm7♭5" in words or "it has Cø7" in words
    document = json.loads(agreementjson.dumps(song, chart, found))
    assert document["transposition"] == 2 and document["capo"] == 2
    assert document["bars"][0]["start"] == pytest.approx(song.grid.times[song.grid.starts[first]], abs=0.01)
    assert set(document["bars"][0]) >= {"chart_bar", "start", "end", "theirs", "ours", "agreement"}
    assert 6 in document["doubtful"]


def test_align_on_the_command_line(
    tmp_path: Path, ferry: tuple[Song, Evidence], capfd: pytest.CaptureFixture[str]
) -> None:
    song, _ = ferry
    chart, out, saved = tmp_path / "chart.txt", tmp_path / "a.json", tmp_path / "k.ychronos"
    chart.write_text(chart_of(song, 5))
    project.save(song, saved)
    assert cli.run(["align", str(saved), str(chart), "--json", str(out)]) == 0
    assert json.loads(out.read_text())["transposition"] == 7
    assert "semitones higher than it is written" in capfd.readouterr().out
    assert cli.run(["align", str(saved), str(tmp_path / "none.txt")]) == cli.BAD_INPUT
    assert "is not there" in capfd.readouterr().err
    chart.write_bytes(b"\xff\xfe words only")
    assert cli.run(["align", str(FERRY), str(chart)]) == cli.BAD_INPUT


@given(
    st.lists(
        st.sampled_from(["G", "D/F#", "Em7", "C", "Am7", "Bm", "F#m7b5", "Bb", "Esus4", "A7"]), min_size=2, max_size=8
    ),
    st.integers(2, 40),
    st.booleans(),
)
def test_the_program_s_own_text_is_read_back(names: list[str], count: int, folded: bool) -> None:
    song = make_song(" ".join(names), bars=count)
    chart = read_text(textchart.render(song, folded=False, ascii_only=folded))
    assert chart.barred and len(chart.bars) == len(song.grid.bars) and not chart.unread
    for bar, chords in enumerate(chart.sounding()):
        at = song.grid.bar_range(bar)[0]
        assert chords[0][1] == song.chords[song.chord_index(at)].chord
    assert [b.section for b in chart.bars if b.opens] == [s.name for s in song.sections]


@pytest.mark.parametrize("write", [musicxml.render, jams.dumps, tables.render_csv])
def test_what_the_program_writes_is_read_as_a_chart(write: Callable[[Song], bytes]) -> None:
    song = make_song("G D/F# Em7 C Am7 Bb Esus4 F#m7b5 A7b9 Cadd9 D7sus4", bars=22)
    chart = read_chart(write(song).decode())
    found = [c for bar in chart.bars for _, c in bar.chords]
    # silence before the first chord is one of its own
    expected = [s.chord for s in song.chords]
    assert [c for c in found if c.root is not None] == expected
    against = lay_against(song, None, chart)
    assert against.transposition == 0 and against.agreement > 0.9


@pytest.mark.parametrize(
    "text",
    [
        "<score-partwise/>",
        "<a><b></a>",
        '<!DOCTYPE x [<!ENTITY a "b">]><score-partwise/>',
        '{"annotations": []}',
        "start,chord\n0,\n",
        '{"annotations": [{"namespace": "chord_harte", "data": [{}, 3]}]}',
    ],
)
def test_files_without_chords_are_refused_in_a_sentence(text: str) -> None:
    with pytest.raises(ChartError, match=r"\.$"):
        read_chart(text)


@given(st.text(alphabet='<>/harmonyotpsk-eCDG{}[]",:0123 \n', max_size=160))
def test_whatever_a_file_holds_is_read_or_refused(text: str) -> None:
    try:
        assert read_chart(text).bars
    except ChartError as error:
        assert str(error).endswith(".")


def test_how_much_of_a_chart_is_probably_right(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    steps = [likely_right(x / 20) for x in range(21)]
    assert steps == sorted(steps) and steps[0] < 0.01 and steps[-1] > 0.9
    own = lay_against(song, evidence, read_text(chart_of(song)))
    bars = range(song.grid.lead_in, len(song.grid.bars))
    other = {
        b: song.chords[song.chord_index(song.grid.bar_range(b)[0])].chord.transposed(6).name(ascii_only=True)
        for b in list(bars)[::4]
    }
    spoilt = lay_against(song, evidence, read_text(chart_of(song, 0, other)))
    assert own.likely > 0.8 and spoilt.likely < own.likely - 0.1
    text = agreement_text(song, read_text(chart_of(song)), own)
    assert f"about {own.likely:.0%} of it is probably right" in text
    document = json.loads(agreementjson.dumps(song, read_text(chart_of(song)), own))
    assert document["probably_right"] == round(own.likely, 3) and 0 <= document["bars"][0]["probably_right"] <= 1
