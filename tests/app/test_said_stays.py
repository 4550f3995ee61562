"""What is said stays said, in the real window: each of these went wrong once."""

from __future__ import annotations

import gc
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import answer, chord_point, click, open_and_wait, settle
from tests.conftest import FERRY, KNOTS, WALTZ
from ychronos.analysis import pipeline
from ychronos.analysis.evidence import AnalysisError, Evidence
from ychronos.app import head
from ychronos.app.jobs import Job
from ychronos.app.window import Window
from ychronos.chart import facts, lines
from ychronos.formats import pdfchart, textchart
from ychronos.guitar.instrument import GuitarSetup
from ychronos.session.commands import count, sections
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.theory.chord import parse_chord

Key = Qt.Key
Fresh = Callable[[Path], Window]


def song_of(w: Window) -> Song:
    assert w.session.song is not None
    return w.session.song


def press(w: Window, qtbot: QtBot, key: Qt.Key, mods: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, key, mods)


def type_chord(w: Window, qtbot: QtBot, text: str, key: Qt.Key = Key.Key_Return) -> None:
    w.sheet.start_entry()
    w.sheet.entry.field.setText(text)
    qtbot.keyClick(w.sheet.entry.field, key)


# ---------------------------------------------------------------- 1: what was taken away stays away


@pytest.mark.parametrize("path", [FERRY, WALTZ, KNOTS], ids=lambda p: p.stem)
def test_a_removed_change_and_a_removed_section_do_not_come_back(window: Window, qtbot: QtBot, path: Path) -> None:
    w = window
    open_and_wait(w, path, qtbot)
    song = song_of(w)
    gone = next(i for i in range(6, len(song.chords)) if song.chords[i].start in song.grid.starts)
    at = song.chords[gone].start
    before = song.chords[gone - 1].chord
    w.session.select(at, chord=True)
    press(w, qtbot, Key.Key_Delete)
    settle(w, qtbot)
    section = song_of(w).sections[2]
    w.session.select(section.start)
    press(w, qtbot, Key.Key_S, Qt.KeyboardModifier.ShiftModifier)
    settle(w, qtbot)

    def still_gone() -> bool:
        s = song_of(w)
        here = s.chords.at(at)
        return here.start < at and here.chord == before and section.start not in s.sections.starts

    assert still_gone()
    far = song_of(w).chords[-3].start
    w.session.select(far, chord=True)
    type_chord(w, qtbot, "Bbm7")
    settle(w, qtbot)
    assert still_gone(), "after another chord was typed"
    w.session.select(song_of(w).chords[-6].start, chord=True)
    press(w, qtbot, Key.Key_Y)
    settle(w, qtbot)
    assert still_gone(), "after Y"
    index = len(song_of(w).sections) - 1
    start, end = song_of(w).section_range(index)
    sections.move_edge(w.session, index, song_of(w).grid.bar_at(start) + (1 if end - start > 8 else -1))
    settle(w, qtbot)
    assert still_gone(), "after another section's edge was dragged"


# ---------------------------------------------------------------- 2: no answer is lost


def test_a_second_edit_does_not_lose_the_first_answer(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    grid = song_of(w).grid
    beat = grid.starts[10] + 1
    times = grid.times
    count.move_beat(w.session, beat, times[beat] + 0.06)
    assert w.session.redeciding
    press(w, qtbot, Key.Key_U)  # before the answer
    settle(w, qtbot)
    quick = song_of(w)
    assert any(s.unsure for s in quick.chords)
    assert quick.grid.times != edits.move_beat(w.session.history.states[0].song, beat, times[beat] + 0.06)[0].grid.times
    w.actions_.actions["undo"].trigger()
    settle(w, qtbot)  # the state that was stepped over gets its answer too
    assert song_of(w).grid.times == quick.grid.times and not any(s.unsure for s in song_of(w).chords)
    w.actions_.actions["undo"].trigger()
    assert song_of(w).grid.times == times


def test_quick_typing_ends_in_the_same_song_as_slow_typing(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    names = ["G", "D/F#", "Em7", "C", "Am7", "D7sus4", "Bb", "F/A", "Gm7", "Csus2"] * 2
    songs = []
    for slowly in (True, False):
        lead = song_of(w).grid.lead_in
        for k, name in enumerate(names):
            w.session.select(song_of(w).grid.bar_range(lead + k)[0], lead + k, lead + k)
            start, end = song_of(w).grid.bar_range(lead + k)
            chord = parse_chord(name)
            w.session.edit(lambda s, a=start, b=end, c=chord: edits.state_chord(s, a, b, c), decide="chords")
            if k == 4:
                w.session.edit(lambda s: edits.move_beat(s, 90, s.grid.times[90] + 0.05), decide="beats")
            if slowly:
                settle(w, qtbot)
        settle(w, qtbot)
        songs.append(song_of(w))
        while w.session.history.can_undo:
            w.session.undo()
        settle(w, qtbot)
    slow, quick = songs
    assert slow.statements == quick.statements
    assert (slow.chords, slow.keys, slow.sections, slow.grid) == (quick.chords, quick.keys, quick.sections, quick.grid)


def test_who_types_goes_on_typing_when_an_answer_comes(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.select(song_of(w).grid.bar_range(2)[0], 2, 2)
    type_chord(w, qtbot, "Bb")
    qtbot.keyClick(w.sheet, Key.Key_F)
    assert w.sheet.entry.isVisible()
    settle(w, qtbot)
    assert w.sheet.entry.isVisible() and w.sheet.entry.field.text() == "F"
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    assert w.session.selection.first == 3, "Shift+Enter stays"
    assert song_of(w).chords.at(song_of(w).grid.bar_range(3)[0]).chord == parse_chord("F")


# ---------------------------------------------------------------- 3, 4: the count takes everything along


def test_checked_bars_stay_when_one_is_where_it_was(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.select(song_of(w).grid.bar_range(2)[0], 2, 7)
    press(w, qtbot, Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert song_of(w).checked_bars() == 6
    w.session.select(song_of(w).grid.bar_range(5)[0])
    press(w, qtbot, Key.Key_1)
    settle(w, qtbot)
    assert song_of(w).checked_bars() == 6 and song_of(w).grid.bars[5].stated


def test_half_as_fast_keeps_marks_loop_and_caret_on_their_music(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = song_of(w)
    w.session.select(song.chords[9].start, chord=True)
    w.session.edit(lambda s: edits.mark_unsure(s, 9, True, "organ hides it"))
    at = song.grid.clock(song.chords[9].start)
    w.set_loop((8, 9))
    loop = tuple(song.grid.clock(x) for x in w.practice.span or ())
    w.practice.leave(song.chords[5].start)
    press(w, qtbot, Key.Key_Down, Qt.KeyboardModifier.ControlModifier)
    settle(w, qtbot)
    new = song_of(w)
    assert new.grid.tempo() == pytest.approx(song.grid.tempo() / 2, rel=0.03)
    (mark,) = [s for s in new.chords if s.unsure]
    assert mark.comment == "organ hides it" and new.grid.clock(mark.start) == pytest.approx(at, abs=0.1)
    assert w.practice.span is not None
    assert [new.grid.clock(x) for x in w.practice.span] == pytest.approx(loop, abs=0.1)
    assert new.grid.clock(w.session.selection.caret) == pytest.approx(at, abs=0.1)
    assert new.grid.clock(w.practice.trail[-1]) == pytest.approx(song.grid.clock(song.chords[5].start), abs=0.1)
    w.session.undo()
    assert [song_of(w).grid.clock(x) for x in w.practice.span] == pytest.approx(loop, abs=0.1)


# ---------------------------------------------------------------- 5: a right statement harms nothing


def test_a_meter_for_this_bar_for_here_on_or_for_the_song(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    before = song_of(w).grid
    w.session.select(before.bar_range(6)[0])
    answer(monkeypatch, "2/4", reach=2)
    count.set_meter(w.session)
    settle(w, qtbot)
    grid = song_of(w).grid
    assert (grid.bars[6].beats, str(grid.bars[6].meter), grid.bars[6].meter_stated) == (2, "2/4", True)
    assert grid.starts[:7] == before.starts[:7] and [str(b.meter) for b in grid.bars[:6]] == ["4/4"] * 6
    assert "bar" in w.session.history.undo_text and "2/4" in w.session.history.undo_text


# ---------------------------------------------------------------- 6: names


def test_a_name_for_this_time_only(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    song = song_of(w)
    index = next(i for i, s in enumerate(song.sections) if sum(o.material == s.material for o in song.sections) > 1)
    w.session.select(song.sections[index].start)
    answer(monkeypatch, "Intro", reach=1)
    sections.rename_section(w.session)
    settle(w, qtbot)
    assert [s.name for s in song_of(w).sections].count("Intro") == 1 + [s.name for s in song.sections].count(
        "Intro"
    ) - (song.sections[index].name == "Intro")
    w.session.select(song_of(w).chords[-3].start, chord=True)
    type_chord(w, qtbot, "Bbm7")
    settle(w, qtbot)
    assert song_of(w).sections[index].name == "Intro"
    assert [s.start for s in song_of(w).sections] == [s.start for s in song.sections], "a chord moves no section"


def test_music_of_its_own_moves_no_boundary(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    before = song_of(w)
    for index in range(1, len(before.sections)):
        w.session.edit(lambda s, i=index: edits.state_material(s, i, None), decide="chords")
        settle(w, qtbot)
        assert [s.start for s in song_of(w).sections] == [s.start for s in before.sections]
        assert [s.name for s in song_of(w).sections] == [s.name for s in before.sections]
        w.session.undo()


def test_s_inside_a_bar_begins_a_section_there(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = song_of(w)
    index = next(i for i in range(2, len(song.sections)) if len(song.section_bars(i)) > 3)
    line = song.sections[index].start
    w.session.select(line - 1)
    press(w, qtbot, Key.Key_S)
    settle(w, qtbot)
    new = song_of(w)
    assert line - 1 in new.sections.starts and line not in new.sections.starts
    assert new.sections.at(line).name == song.sections[index].name
    assert "from beat 4 before" in lines.rows.section_title(new, new.section_index(line))[1]
    assert textchart.render(new, folded=False).count("from beat 4 before") >= 1
    assert pdfchart.render(new)


# ---------------------------------------------------------------- 7: it is said


def test_what_changed_beyond_what_was_said_is_said(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    name = song_of(w).main_key().name()
    last = len(song_of(w).grid.bars) - 1
    w.session.edit(
        lambda s: edits.state_chords(
            s, [(s.grid.bar_range(k)[0], s.grid.bar_range(k)[1], parse_chord(("Ab", "Db", "Eb7", "Ab")[k % 4]), None)
                for k in range(0, last)]), decide="chords")  # fmt: skip
    settle(w, qtbot)
    assert song_of(w).main_key().name() == "A♭ major" != name
    assert f"The key is A♭ major now, no longer {name}." in w.notice.words.text()
    w.notice.choices["Undo all"].click()
    assert song_of(w).main_key().name() == name


# ---------------------------------------------------------------- 8, 9: one path for names; rings and stops on paper


@pytest.fixture
def shapes_window(ferry_window: Window, qtbot: QtBot) -> Window:
    """Capo 3, shapes shown."""
    w = ferry_window
    w.session.edit(lambda s: edits.set_guitar(s, GuitarSetup(capo=3, show="shapes")))
    return w


def test_every_name_anyone_reads_is_the_shape(shapes_window: Window, qtbot: QtBot) -> None:
    w = shapes_window
    song = song_of(w)
    sounding = {song.sounding_name(i) for i in range(len(song.chords))}
    shapes = {song.shape_name(i) for i in range(len(song.chords))}
    only_sounding = {n for n in sounding - shapes if len(n) > 1}  # a lone letter may be a word of another sentence
    strange = next(i for i in range(8, len(song.chords)) if song.chords[i].rivals)
    w.session.select(song.chords[strange].start, chord=True)
    w.session.edit(lambda s: edits.mark_unsure(s, strange, True, ""))
    song = song_of(w)
    texts = [textchart.render(song), textchart.render(song, folded=False)]
    texts += [w.side.chord.text(), w.side.why.text(), facts.key_text(song).split(", ")[1]]
    texts += [w.side.doubts.item(k).text().split("\n")[0] for k in range(w.side.doubts.count())]
    texts += [w.side.rivals.item(k).text().split("\n")[0] for k in range(w.side.rivals.count())]
    texts += [w.session.describe_selection(), w.session.history.undo_text]
    w.show_view("form")
    texts += [w.form.list.item(k).text() for k in range(w.form.list.count())]
    w.show_view("key")
    texts += [card.name.text() for card in w.keys.cards] + [
        w.keys.list.item(k).text() for k in range(w.keys.list.count())
    ]
    for text in texts:
        words = set(
            text.replace("(", " ").replace(")", " ").replace(";", " ").replace(",", " ").replace(":", " ").split()
        )
        assert not words & only_sounding, text
    assert w.side.chord.text() == song.shape_name(strange)
    assert "shapes of" in w.keys.cards[0].name.text()
    assert song.note_name(0, 10) == "G", "a B♭ in the bass is the G of the shape under a capo at 3"


def test_rings_and_stops_are_written_on_sheet_text_and_pdf(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    click(w, qtbot, chord_point(w, 3))
    w.actions_.actions["held"].trigger()
    w.session.edit(lambda s: edits.articulate(s, 5, "stopped"))
    song = song_of(w)
    names = [m.name + m.sign for b in range(len(song.grid.bars)) for m in lines.rows.bar_marks(song, b)]
    assert song.chord_name(3) + "◊" in names and song.chord_name(5) + "•" in names
    text = textchart.render(song, folded=False)
    assert song.chord_name(3) + "◊" in text and "◊ struck once and left to ring" in text and "• cut short" in text
    assert song.chord_name(5, True) + "!" in textchart.render(song, ascii_only=True, folded=False)
    assert pdfchart.render(song) != pdfchart.render(w.session.history.states[0].song)


# ---------------------------------------------------------------- 10: as typed


def test_enter_on_what_stands_there_keeps_the_chord(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.edit(lambda s: edits.set_notation(s, "elevenths"))
    at = song_of(w).grid.bar_range(4)[0]
    w.session.select(at, 4, 4)
    w.session.edit(lambda s: edits.state_chord(s, *s.grid.bar_range(4), parse_chord("D9sus4")), decide="chords")
    settle(w, qtbot)
    assert song_of(w).chord_name(song_of(w).chord_index(at)) == "D11"
    press(w, qtbot, Key.Key_F2)
    assert w.sheet.entry.field.text() == "D11"
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return)
    assert song_of(w).chords.at(at).chord == parse_chord("D9sus4")


def test_a_typed_name_stays_as_typed(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.select(song_of(w).grid.bar_range(4)[0], 4, 4)
    type_chord(w, qtbot, "D#m7b5")
    settle(w, qtbot)
    index = song_of(w).chord_index(song_of(w).grid.bar_range(4)[0])
    assert song_of(w).chord_name(index) == "D♯ø7"
    w.session.select(song_of(w).grid.bar_range(5)[0], 5, 5)
    type_chord(w, qtbot, "Ebm7b5")
    settle(w, qtbot)
    assert song_of(w).chord_name(song_of(w).chord_index(song_of(w).grid.bar_range(5)[0])) == "E♭ø7"


# ---------------------------------------------------------------- 11, 13: what fails leaves the rest


def test_after_a_failure_it_can_be_tried_again(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, ferry: tuple[Song, Evidence]
) -> None:
    w = window

    def fails(*_: object, **__: object) -> tuple[Song, Evidence]:
        raise AnalysisError("No count can be found in this recording.")

    whole = pipeline.analyse
    monkeypatch.setattr(pipeline, "analyse", fails)
    open_and_wait(w, FERRY, qtbot)
    assert "No count" in w.notice.words.text() and w.session.recording is not None
    monkeypatch.setattr(pipeline, "analyse", whole)
    w.actions_.actions["analyse"].trigger()
    assert "still being read" not in w.notice.words.text() and w.job is not None
    qtbot.waitUntil(lambda: w.job is None, timeout=60000)
    assert len(song_of(w).chords) > 20


def test_an_unreadable_file_leaves_what_is_open(ferry_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = ferry_window
    w.session.edit(lambda s: edits.set_mark(s, Fraction(4), "here"))
    before, player = song_of(w), w.player
    junk = tmp_path / "notes.ogg"
    junk.write_bytes(b"these are no sounds")
    open_and_wait(w, junk, qtbot)
    assert "notes.ogg" in w.notice.words.text()
    assert w.session.song is before and w.player is player and w.session.recording is not None
    assert w.isWindowModified()


def test_a_half_downloaded_file_says_so(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    half = tmp_path / "the_ferry.ogg"
    data = FERRY.read_bytes()
    half.write_bytes(data[: len(data) // 2])
    open_and_wait(window, half, qtbot)
    assert "breaks off" in window.notice.words.text() and len(song_of(window).chords) > 5


# ---------------------------------------------------------------- 12: nothing twice, nothing for good


def test_a_typed_chord_is_read_once_and_parts_are_refreshed_once(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    w.session.select(song_of(w).grid.bar_range(4)[0], 4, 4)
    w.sheet.start_entry("B")
    read: list[str] = []
    parse = w.sheet.entry.parse
    monkeypatch.setattr(w.sheet.entry, "parse", lambda text: (read.append(text), parse(text))[1])
    qtbot.keyClicks(w.sheet.entry.field, "m7")
    # counted where they look something up, which every refresh does once
    counts = {"head": 0, "doubts": 0}
    doubts, facts_of = Song.doubts, head.facts
    monkeypatch.setattr(Song, "doubts", lambda s: (counts.__setitem__("doubts", counts["doubts"] + 1), doubts(s))[1])
    monkeypatch.setattr(head, "facts", lambda s: (counts.__setitem__("head", counts["head"] + 1), facts_of(s))[1])
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return)
    w.session.redecider.stop()
    assert read == ["Bm", "Bm7"], "once for each change of the text"
    assert counts == {"head": 1, "doubts": 1}


def test_jobs_that_are_over_are_let_go(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    for k in range(6):
        w.session.edit(lambda s, k=k: edits.mark_unsure(s, k, True, ""), decide="chords")
        settle(w, qtbot)
    qtbot.waitUntil(lambda: not w.other_counts.otherwise.weighing, timeout=20000)
    QApplication.processEvents()
    gc.collect()
    assert len(w.jobs.findChildren(Job)) == 0
    assert len(w.findChildren(Job)) == 0


# ---------------------------------------------------------------- the chord field, copy and paste


def test_several_chords_are_typed_at_once(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.select(song_of(w).grid.bar_range(4)[0], 4, 4)
    w.sheet.start_entry()
    before = song_of(w)
    w.sheet.entry.field.setText("D . G A | F#m x2")
    words = w.sheet.entry.reading.text()
    number = before.grid.number(4)
    assert words.startswith(f"bars {number} to {number + 2}; how well the sound agrees: D ")
    assert len(w.sheet._preview) == 5, "D, G, A and F♯m in two bars"
    w.sheet.viewport().repaint()
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return)
    settle(w, qtbot)
    song = song_of(w)
    start = song.grid.bar_range(4)[0]
    have = [(s.start - start, s.chord) for s in song.chords if start <= s.start < start + 12]
    assert have[:4] == [(0, parse_chord("D")), (2, parse_chord("G")), (3, parse_chord("A")), (4, parse_chord("F#m"))]
    assert song.chord_range(song.chord_index(start + 4))[1] >= start + 12
    assert w.session.selection.first == 7 and not w.sheet._preview
    w.session.undo()
    assert song_of(w) is before, "one undo"


def test_a_line_that_does_not_fit_says_so(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    last = len(song_of(w).grid.bars) - 1
    w.session.select(song_of(w).grid.bar_range(last)[0], last, last)
    w.sheet.start_entry()
    w.sheet.entry.field.setText("C | G")
    assert "Only 1 bar is left" in w.sheet.entry.reading.text()
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return)
    assert w.sheet.entry.isVisible()
    w.sheet.entry.field.setText("C | H")
    assert "Bar 2 of what you typed" in w.sheet.entry.reading.text()


def test_bars_are_copied_and_pasted(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = song_of(w)
    w.session.select(song.grid.bar_range(3)[0], 3, 4)
    w.actions_.actions["copy"].trigger()
    assert "|" in QApplication.clipboard().text()
    w.session.select(song.grid.bar_range(20)[0], 20, 20)
    w.actions_.actions["paste"].trigger()
    settle(w, qtbot)
    new = song_of(w)
    for k in (0, 1):
        a, b = song.grid.bar_range(3 + k)[0], song.grid.bar_range(20 + k)[0]
        for x in range(4):
            assert new.chords.at(b + x).chord == song.chords.at(a + x).chord and new.chords.at(b + x).stated
    QApplication.clipboard().setText("Bb . F . | Gm7")
    w.actions_.actions["paste"].trigger()
    assert song_of(w).chords.at(song.grid.bar_range(20)[0] + 2).chord == parse_chord("F")
    QApplication.clipboard().setText("see you at low water")
    w.actions_.actions["paste"].trigger()
    assert "no chords" in w.notice.words.text()


def test_what_is_said_while_the_analysis_runs_is_kept(
    window: Window, qtbot: QtBot, ferry: tuple[Song, Evidence], monkeypatch: pytest.MonkeyPatch
) -> None:
    w, (song, evidence) = window, ferry
    w.session.set_draft(song)
    w.session.edit(lambda s: edits.state_chord(s, Fraction(8), Fraction(12), parse_chord("Bb9")), decide="chords")
    w.session.set_draft(song)
    w.session.take_evidence(evidence)
    settle(w, qtbot)
    assert song_of(w).chords.at(Fraction(8)).chord == parse_chord("Bb9")
    assert w.isWindowModified()
