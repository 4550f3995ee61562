"""Words with chords, and MIDI files as charts: out and in again."""

from __future__ import annotations

import io
import json
import re
from fractions import Fraction
from pathlib import Path

import mido
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import make_song
from tests.song.test_passes import song_of
from ychronos.formats import jams, midi
from ychronos.formats.chartfiles import read_chart, text_of
from ychronos.formats.charttext import ChartError
from ychronos.formats.midiread import chart_text
from ychronos.formats.options import Options
from ychronos.formats.registry import exporter
from ychronos.formats.sungtext import _between, _over
from ychronos.song import edits
from ychronos.song.handed import HandedChart
from ychronos.song.model import Song

CHORDS = "G D/F# Em7 C G Am7 Bm D7"


def sung() -> Song:
    song = song_of("Intro: G C", "Verse: G D/F# Em7 C G Am7 Bm D7", "Chorus: C D G Em", "Solo: Am D Am D G")
    for bar, words in (
        (2, "low water, low water, the lamps are on"),
        (6, "and nobody counts the boats"),
        (10, "oh the ferry"),
    ):
        song, _ = edits.set_lyric(song, song.grid.bar_range(bar)[0], words)
    song, _ = edits.set_lyric(song, Fraction(4 * 12 - 1), "keeps its lights on")
    return song


def roots(chart: HandedChart) -> list[int | None]:
    return [c.root for bar in chart.bars for _, c in bar.chords]


def test_chords_stand_over_the_words_they_are_heard_at() -> None:
    text = exporter("over").written(sung(), Options()).decode()
    lines = text.split("\n")
    over = lines[lines.index("low water, low water, the lamps are on") - 1]
    assert over.split() == ["G", "D/F♯", "Em7", "C"] and over.index("G") == 0
    assert abs(over.index("Em7") - 19) <= 5, "the third bar of four is half way"
    assert "[Intro]" in text and "| G | C |" in text and "| Am | D | Am | D |\n| G |" in text
    assert "[Chorus]" in text and text.index("[Chorus]") < text.index("oh the ferry")


def test_chords_stand_in_brackets_between_the_words() -> None:
    text = exporter("brackets").written(sung(), Options(ascii_only=True)).decode()
    line = next(x for x in text.split("\n") if "lamps" in x)
    assert line.startswith("[G]low") and line.index("[D/F#]") < line.index("[Em7]") < line.index("[C]")


@pytest.mark.parametrize("one", ["over", "brackets"])
def test_words_with_chords_come_back_with_all_their_chords(one: str) -> None:
    song = sung()
    chart = read_chart(exporter(one).written(song, Options(ascii_only=True)).decode())
    found = [r for n, r in enumerate(roots(chart)) if n == 0 or r != roots(chart)[n - 1]]
    true = [c.chord.root for n, c in enumerate(song.chords) if n == 0 or c.chord.root != song.chords[n - 1].chord.root]
    assert found == true
    assert any("lamps" in w for w in chart.words)


@given(
    st.lists(st.text("abc xyz", min_size=1, max_size=20).map(lambda t: " ".join(t.split()) or "o"), min_size=1, max_size=1),
    st.lists(st.floats(0, 1), min_size=1, max_size=9).map(sorted),
)  # fmt: skip
def test_no_name_touches_another_and_no_word_is_lost(words: list[str], shares: list[float]) -> None:
    chords = [
        (s, name) for s, name in zip(shares, ("G", "D/F#", "Em7", "C", "Bm", "A", "F#m7b5", "E", "G"), strict=False)
    ]
    above, below = _over(words[0], chords)
    assert above.split() == [name for _, name in chords]
    assert below.replace(" ", "") == words[0].replace(" ", "")
    (line,) = _between(words[0], chords)
    assert list(re.findall(r"\[(.*?)\]", line)) == [name for _, name in chords]


@given(
    st.lists(
        st.tuples(st.integers(0, 40), st.sampled_from(["low water", "o", "the lamps are on the stones"])), max_size=8
    )
)
@settings(max_examples=40, deadline=None)
def test_every_chord_of_the_song_is_there_wherever_words_begin(places: list[tuple[int, str]]) -> None:
    song = song_of("Verse: G D Em C G Am", "Chorus: C D G Em", "End: G")
    for at, words in places:
        song, _ = edits.set_lyric(song, Fraction(at), words)
    text = exporter("brackets").written(song, Options(ascii_only=True)).decode()
    for words in {m.text for m in song.lyrics}:
        bare = re.sub(r"\[[^\]]*\]", "", text)
        assert words.replace(" ", "") in bare.replace(" ", "")
    chart = read_chart(text)
    found = [r for n, r in enumerate(roots(chart)) if n == 0 or r != roots(chart)[n - 1]]
    true = [c.chord.root for n, c in enumerate(song.chords) if n == 0 or c.chord.root != song.chords[n - 1].chord.root]
    assert found == true


def test_our_own_midi_comes_back_with_bars_sections_and_chords(tmp_path: Path) -> None:
    song = make_song(CHORDS, bars=8)
    path = tmp_path / "chart.mid"
    path.write_bytes(midi.render(song))
    chart = read_chart(text_of(path))
    assert chart.barred and chart.title == song.title
    assert len(chart.bars) == 8, "the silence before the first beat is no bar"
    assert [b.chords[-1][1] for b in chart.bars] == [c.chord for c in song.chords]
    assert {b.section for b in chart.bars} == {s.name for s in song.sections}


def bare(data: bytes) -> bytes:
    """The same file without texts and markers: notes alone."""
    file = mido.MidiFile(file=io.BytesIO(data))
    for track in file.tracks:
        kept, lost = [], 0
        for message in track:
            if message.type in ("text", "marker", "lyrics", "cue_marker"):
                lost += message.time
            else:
                kept.append(message.copy(time=message.time + lost))
                lost = 0
        track[:] = kept
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


@pytest.mark.parametrize("beats", [3, 4])
def test_chords_are_heard_from_the_notes_of_a_midi_file(beats: int) -> None:
    song = make_song("G D Em C G Am Bm D7", bars=8, beats=beats)
    chart = read_chart(chart_text(bare(midi.render(song))))
    found = [c for b in chart.bars for _, c in b.chords if c.root is not None]
    once = [c for n, c in enumerate(found) if n == 0 or c != found[n - 1]]
    assert [c.root for c in once] == [s.chord.root for s in song.chords]
    assert [c.name()[:2] for c in once if "m" in c.name()] == ["Em", "Am", "Bm"]


def test_what_is_no_midi_file_is_one_sentence(tmp_path: Path) -> None:
    for data in (b"MThd", b"MThd\0\0\0\6\0\1\0\1\1\xe0MTrk\0\0\xff\xff\1", bytes(range(256))):
        path = tmp_path / "odd.mid"
        path.write_bytes(data)
        with pytest.raises(ChartError, match=r"MIDI|chords"):
            read_chart(text_of(path))
    silent = mido.MidiFile()
    silent.tracks.append(mido.MidiTrack())
    silent.save(tmp_path / "silent.mid")
    with pytest.raises(ChartError, match="no notes"):
        text_of(tmp_path / "silent.mid")
    with pytest.raises(ChartError, match="not there"):
        text_of(tmp_path / "none.mid")


@given(st.binary(max_size=300))
@settings(max_examples=150, deadline=None)
def test_any_bytes_after_the_head_are_read_or_refused(data: bytes) -> None:
    try:
        text = chart_text(b"MThd\0\0\0\6\0\1\0\1\1\xe0MTrk" + len(data).to_bytes(4, "big") + data)
    except ChartError as error:
        assert str(error).endswith(".")
    else:
        assert "|" in text


def test_jams_has_the_words_with_their_times() -> None:

    song = edits.set_lyric(edits.set_lyric(make_song(), Fraction(4), "low water")[0], Fraction(12), "high water")[0]
    rows = next(a["data"] for a in json.loads(jams.dumps(song))["annotations"] if a["namespace"] == "lyrics")
    assert [(r["time"], r["value"]) for r in rows] == [
        (song.grid.clock(4), "low water"),
        (song.grid.clock(12), "high water"),
    ]
    assert rows[0]["duration"] == song.grid.clock(12) - song.grid.clock(4)
