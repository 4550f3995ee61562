"""The table of all actions, in menu order."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

from ..formats.registry import EXPORTERS, Exporter
from ..session.commands import chords, count, figuring, keys, marks, record, sections, shapes
from ..session.session import Session
from ..tongue import tr
from . import files, looks, printing, riffs
from .actions import MENUS, Entry
from .desk import heard, tapfigure
from .shell import Shell
from .views import View

T = TypeVar("T")


def on(command: Callable[[Session], T]) -> Callable[[Shell], T]:
    """A command of the session, for the window that shows it."""
    return lambda shell: command(shell.session)


def always(_: Shell) -> bool:
    return True


def has_song(w: Shell) -> bool:
    return w.session.song is not None


def has_line(w: Shell) -> bool:
    return w.session.song is not None and bool(w.session.song.line)


def has_sound(w: Shell) -> bool:
    return w.session.recording is not None


def table() -> list[Entry]:
    """All actions in menu order."""
    f, e, o, c, s, ha, li, v, h = MENUS
    return [
        Entry("open", f, tr("Open…"), ("Ctrl+O",), tr("Open a recording or a project"), files.open_dialog, always),
        Entry("another_window", f, tr("Another window"), ("Ctrl+Shift+M",), tr("A second window for another song"), files.another_window, always),
        Entry("save", f, tr("Save"), ("Ctrl+S",), tr("Save the project"), files.save, has_song, line=True),
        Entry("save_as", f, tr("Save as…"), ("Ctrl+Shift+S",), tr("Save the project under another name"), files.save_as, has_song),
        *export_entries(),
        Entry("fold_charts", f, tr("Fold repeats in charts"), (), tr("PDF and text write once what is played again: repeat signs, endings, “as the 1st time, but …”, back to the sign"), files.toggle_folds, always, checked=lambda w: w.wishes.layer("folded")),
        Entry("print_shapes", f, tr("Shapes on charts"), (), tr("PDF and text show the shapes in use, in order of appearance"), files.toggle_prints_shapes, always, checked=lambda w: w.wishes.layer("shapes")),
        Entry("print", f, tr("Print…"), ("Ctrl+Shift+P",), tr("Print the pages, as the Page view shows them"), printing.print_song, has_song),
        Entry("export_audio", f, tr("Record at true pitch…"), (), tr("Write the record with its tuning offset corrected, as WAV, FLAC or Ogg"), files.export_audio, lambda w: has_song(w) and has_sound(w)),
        Entry("export_heard", f, tr("What is heard…"), ("Ctrl+Shift+X",), tr("Write the loop or the song as it is heard: slower, in tune, with click or chart; WAV, FLAC, Ogg or MP3"), heard.export_heard, lambda w: has_song(w) and has_sound(w)),
        Entry("handed_chart", f, tr("A chart from elsewhere…"), ("Ctrl+Shift+O",), tr("Paste or open somebody else’s chart and lay it against the record: where it agrees, where the sound says something else"), looks.handed_chart, has_song),
        Entry("find_recording", f, tr("Find the recording…"), (), tr("Say where the project's recording is now"), files.find_recording, has_song, line=True),
        Entry("unfinished", f, tr("Not saved…"), (), tr("Work that was not saved when the program ended"), looks.show_unfinished, always),
        Entry("close", f, tr("Close the song"), ("Ctrl+W",), tr("Close the song"), files.close_song, lambda w: w.session.is_open, line=True),
        Entry("quit", f, tr("Quit"), ("Ctrl+Q",), tr("Quit Ychronos"), files.quit_app, always),
        Entry("undo", e, tr("Undo"), ("Ctrl+Z",), tr("Take the last step back"), lambda w: w.session.undo(), lambda w: w.session.history.can_undo),
        Entry("redo", e, tr("Redo"), ("Ctrl+Shift+Z", "Ctrl+Y"), tr("Do it again"), lambda w: w.session.redo(), lambda w: w.session.history.can_redo),
        Entry("steps", e, tr("Steps…"), ("Ctrl+H",), tr("All that was done to the song, to go back to any step or forward again"), looks.show_steps, has_song),
        Entry("copy", e, tr("Copy bars"), ("Ctrl+C",), tr("Copy the chords of the selected bars, also as text"), files.copy_bars, has_song, context=True, line=True),
        Entry("paste", e, tr("Paste bars"), ("Ctrl+V",), tr("State copied chords from the selected bar on; text such as D . G A | F#m works too"), files.paste_bars, has_song, context=True),
        Entry("select_all", e, tr("Select all bars"), ("Ctrl+A",), tr("All bars of the song"), looks.select_all, has_song),
        Entry("note", e, tr("Note…"), ("Ctrl+Shift+N",), tr("A cue, advice for playing, a doubt with its reason or a word for yourself at the caret; on the sheet, and on the page if you like"), on(marks.note), has_song, context=True),
        Entry("check", e, tr("Bars are right"), ("Ctrl+Return",), tr("Tick the selected bars as checked, or take the tick away"), on(marks.toggle_checked), has_song, context=True),
        Entry("analyse", e, tr("Analyse again"), ("Ctrl+R",), tr("Decide again all that is not stated"), files.analyse_again, has_sound),
        Entry("name_song", e, tr("Title and performers…"), (), tr("Name the song and who plays it"), on(record.name_song), has_song),
        Entry("preferences", e, tr("Preferences…"), ("Ctrl+,",), tr("Colours, size, how new songs are written, sound card, paper"), looks.preferences, always, line=True),
        Entry("state", o, tr("State the chord…"), ("Return", "F2"), tr("Type the chord at the caret or for the selected bars, or several as D . G A | F#m x2; typing a letter from A to G starts it too"), looks.state_chord, has_song, context=True, sheet_only=True),
        Entry("rival1", o, tr("It is the first other reading"), ("Alt+1",), tr("State the first of the other readings"), lambda w: chords.state_rival(w.session, 0), has_song),
        Entry("rival2", o, tr("It is the second"), ("Alt+2",), tr("State the second of the other readings"), lambda w: chords.state_rival(w.session, 1), has_song),
        Entry("rival3", o, tr("It is the third"), ("Alt+3",), tr("State the third of the other readings"), lambda w: chords.state_rival(w.session, 2), has_song),
        Entry("rival4", o, tr("It is the fourth"), ("Alt+4",), tr("State the fourth of the other readings"), lambda w: chords.state_rival(w.session, 3), has_song),
        Entry("parts", o, tr("By its parts…"), ("Q",), tr("Bass, root, quality and colour, with how likely each note sounds"), looks.choose_parts, has_song, context=True),
        Entry("fretboard", o, tr("On the fretboard…"), ("O",), tr("Play the chord on a drawn fretboard and choose its name"), looks.play_on_fretboard, has_song, context=True),
        Entry("no_chord", o, tr("No chord"), ("Shift+N",), tr("State that no chord sounds here"), on(chords.state_none), has_song),
        Entry("accept", o, tr("The chord is right"), ("Y",), tr("State the chord that is shown"), on(chords.accept_chord), has_song, context=True),
        Entry("remove", o, tr("No change here"), ("Delete", "Backspace"), tr("Take the chord change away: the chord before it goes on"), on(chords.remove_chord), has_song, context=True, line=True, sheet_only=True),
        Entry("split_chord", o, tr("Strike it again here"), ("/",), tr("Divide the chord at the caret, so that the rest of it can be another"), on(chords.split_chord), has_song),
        Entry("join_chord", o, tr("Goes on over the next"), ("Shift+J",), tr("The chord at the caret takes the next one’s place too"), on(chords.join_chord), has_song),
        Entry("push", o, tr("Half a beat earlier"), ("[",), tr("The chord at the caret comes half a beat earlier: a push"), lambda w: chords.move_change(w.session, -1), has_song, context=True),
        Entry("pull", o, tr("Half a beat later"), ("]",), tr("The chord at the caret comes half a beat later"), lambda w: chords.move_change(w.session, 1), has_song, context=True),
        Entry("copy_passes", o, tr("The same every other time"), ("Ctrl+Shift+C",), tr("State the chords of the selected bars at the same place every other time that the section comes"), on(chords.copy_to_passes), has_song, context=True),
        Entry("held", o, tr("Let ring"), ("_",), tr("Struck once and left to ring"), lambda w: chords.articulate(w.session, "held"), has_song, line=True, checked=on(chords.articulated("held"))),
        Entry("stopped", o, tr("Cut short"), (".",), tr("Cut short"), lambda w: chords.articulate(w.session, "stopped"), has_song, checked=on(chords.articulated("stopped"))),
        Entry("played_on", o, tr("Played on"), ("~",), tr("Struck on and on: it neither rings nor is cut short"), lambda w: chords.articulate(w.session, "strummed"), has_song, checked=on(chords.articulated("strummed"))),
        Entry("unsure", o, tr("Unsure"), ("U",), tr("Mark the chord as unsure, or take the mark away"), on(chords.toggle_unsure), has_song, context=True, checked=on(chords.is_unsure)),
        Entry("comment", o, tr("Unsure, because…"), ("Shift+U",), tr("Mark the chord as unsure and say why"), on(chords.comment), has_song),
        Entry("next_doubt", o, tr("Next doubt"), ("F8",), tr("Go to the next thing in doubt: a chord, a key, where a section begins or what it is called"), on(chords.next_doubt), has_song, line=True),
        Entry("inside", o, tr("Look inside"), ("I",), tr("Show what sounds in the chord and why it has its name"), looks.toggle_inside, has_song, context=True, line=True, checked=lambda w: not w.inside.isHidden()),
        Entry("state_key", o, tr("Key…"), ("Ctrl+K",), tr("State the key of the selected bars, or of the song when one bar is selected"), on(keys.state_key), has_song, line=True),
        Entry("respell", o, tr("Write the key with its other name"), (), tr("F♯ major for G♭ major, and all its chords with it"), on(keys.respell), lambda w: has_song(w) and w.session.song.key_at(w.session.selection.caret).other_name is not None),  # type: ignore[union-attr]
        Entry("one_here", c, tr("One is here"), ("1",), tr("State a bar line at the caret; other bar lines follow"), on(count.one_is_here), has_song, context=True),
        Entry("ones_later", c, tr("All downbeats a beat later"), ("Alt+Shift+Right",), tr("Move all bar lines a beat later"), lambda w: count.shift_ones(w.session, 1), has_song),
        Entry("ones_earlier", c, tr("All downbeats a beat earlier"), ("Alt+Shift+Left",), tr("Move all bar lines a beat earlier"), lambda w: count.shift_ones(w.session, -1), has_song),
        Entry("bar_length", c, tr("Beats in this bar…"), ("Ctrl+B",), tr("State how many beats the bar has; later bars follow"), on(count.set_length), has_song, context=True, line=True),
        Entry("meter", c, tr("Meter…"), ("M",), tr("State the meter of this bar, of the selected ones, from here on or of the song"), on(count.set_meter), has_song, context=True),
        Entry("grouping", c, tr("Grouping…"), (), tr("Say how the beats of a bar are grouped, as 2+2+3"), on(count.set_grouping), has_song),
        Entry("split", c, tr("Split the bar here"), ("|",), tr("Two bars from one, at the caret"), on(count.split_bar), has_song, context=True),
        Entry("join_bars", c, tr("Join bars"), ("J",), tr("One bar from the selected ones, or from this one and the next"), on(count.join_bars), has_song),
        Entry("insert_beat", c, tr("Insert a beat"), ("Insert",), tr("One beat more after the caret"), on(count.insert_beat), has_song, line=True),
        Entry("remove_beat", c, tr("Remove the beat"), ("Ctrl+Delete",), tr("Take the beat at the caret out of the count"), on(count.remove_beat), has_song),
        Entry("beat_earlier", c, tr("Beat a little earlier"), ("Alt+,",), tr("Move the beat at the caret 10 ms earlier; it can be dragged in the sound too"), lambda w: count.nudge_beat(w.session, -0.01), has_song),
        Entry("beat_later", c, tr("Beat a little later"), ("Alt+.",), tr("Move the beat at the caret 10 ms later; it can be dragged in the sound too"), lambda w: count.nudge_beat(w.session, 0.01), has_song),
        Entry("between", c, tr("Beats are between"), ("Ctrl+Shift+B",), tr("Move the beats of the selected bars, or of the song, half a beat later: an off-beat was taken for the beat"), on(count.between_beats), has_song),
        Entry("pick_up", c, tr("Lengthen the pick-up"), (), tr("One beat more before the first"), on(count.lengthen_pick_up), has_song),
        Entry("tap", c, tr("Tap along"), ("T",), tr("Tap T with the beat while the record plays; after a pause the taps are beats"), looks.tap, lambda w: has_song(w) and has_sound(w), line=True),
        Entry("tempo", c, tr("Tempo…"), ("Ctrl+T",), tr("State the tempo; beats are found again near it"), on(count.set_tempo), has_song),
        Entry("otherwise", c, tr("Count otherwise…"), ("Ctrl+Shift+T",), tr("What else the record may be counted as, with how likely it is"), lambda w: w.other_counts.ask(), has_song, line=True),
        Entry("half", c, tr("Count half as fast"), ("Ctrl+Down",), tr("Two bars become one"), on(count.half_tempo), has_song),
        Entry("double", c, tr("Count twice as fast"), ("Ctrl+Up",), tr("Each bar becomes two"), on(count.double_tempo), has_song),
        Entry("rename", s, tr("Rename the section…"), ("R",), tr("Name the section at the caret, every time it comes or this time only"), on(sections.rename_section), has_song, context=True),
        Entry("begin_section", s, tr("A section begins here"), ("S",), tr("Begin a section at the caret, also inside a bar"), on(sections.begin_section), has_song, context=True),
        Entry("same_section", s, tr("The same as…"), ("Ctrl+Shift+R",), tr("State what the section at the caret is the same as or not, or that it is music of its own"), on(sections.same_here), has_song),
        Entry("sung", s, tr("Somebody sings here"), (), tr("State of the section at the caret that somebody sings in it, or that nobody does (singer, voice, vocals, instrumental)"), on(sections.sung_or_not), has_song, context=True, checked=on(sections.is_sung)),
        Entry("join_section", s, tr("Join to the section before"), ("Shift+S",), tr("Take the beginning of this section away"), on(sections.join_section), has_song),
        Entry("guitar", ha, tr("Guitar…"), ("Ctrl+G",), tr("Tuning, capo, and which names the sheet shows"), looks.set_guitar, has_song),
        Entry("second_guitar", ha, tr("Second guitar…"), (), tr("Another guitar that plays along elsewhere on the neck, with shapes of its own"), looks.set_second_guitar, has_song),
        Entry("swap_guitars", ha, tr("Show the other guitar"), ("Ctrl+Shift+2",), tr("The second guitar’s names and shapes instead of the first’s, and back"), on(shapes.swap_guitars), lambda w: has_song(w) and w.session.song.second is not None),  # type: ignore[union-attr]
        Entry("diagrams", ha, tr("Diagrams on the sheet"), ("N",), tr("How each chord is held, above its name"), looks.toggle_diagrams, has_song, line=True, checked=lambda w: w.sheet.diagrams),
        Entry("way1", ha, tr("Hold it the first way"), ("Alt+5",), tr("Hold the chord at the caret, wherever it comes, in the first of the shapes beside the sheet"), lambda w: shapes.choose_way(w.session, 0), has_song, line=True),
        Entry("way2", ha, tr("Hold it the second way"), ("Alt+6",), tr("Hold the chord at the caret, wherever it comes, in the second of the shapes"), lambda w: shapes.choose_way(w.session, 1), has_song),
        Entry("way3", ha, tr("Hold it the third way"), ("Alt+7",), tr("Hold the chord at the caret, wherever it comes, in the third of the shapes"), lambda w: shapes.choose_way(w.session, 2), has_song),
        Entry("way4", ha, tr("Hold it the fourth way"), ("Alt+8",), tr("Hold the chord at the caret, wherever it comes, in the fourth of the shapes"), lambda w: shapes.choose_way(w.session, 3), has_song),
        Entry("forget_shape", ha, tr("Leave the shape to Ychronos"), (), tr("Forget the shape that was chosen for the chord at the caret"), on(shapes.forget), lambda w: has_song(w) and w.session.chord_index in w.session.song.chosen_shapes(w.session.song.guitar)),  # type: ignore[union-attr]
        Entry("level", ha, tr("Next kind of shapes"), ("Ctrl+Shift+L",), tr("As on the record, standard, no barre, three fingers, top strings"), on(shapes.next_level), has_song, line=True),
        Entry("strokes", ha, tr("Strokes under the bars"), ("Shift+T",), tr("What the strumming hand does, as far as the record shows it; a click changes a stroke"), looks.toggle_strokes, has_song, line=True, checked=lambda w: w.sheet.strokes),
        Entry("figure", ha, tr("Strokes…"), ("Ctrl+Shift+U",), tr("Type, click or tap the figure of this bar, of its section or of all its times, and hear it slowly"), tapfigure.figure, has_song, context=True),
        Entry("figure_section", ha, tr("These strokes in the whole section"), (), tr("The figure of this bar in its section, every time it comes"), on(figuring.in_section), has_song),
        Entry("figure_line", ha, tr("Picked as in the line"), (), tr("The line of the selected bars as a figure of plucked strings, b321, bar by bar"), on(figuring.from_line), has_line),
        Entry("paired", ha, tr("Two guitars strum here"), (), tr("State of the section at the caret that two guitars play its strokes, one on each side, or that one does"), on(figuring.paired_or_not), has_song, checked=on(figuring.is_paired)),
        Entry("figure_forget", ha, tr("Strokes as heard"), (), tr("Leave the strokes of the selected bars to what is heard"), on(figuring.forget), has_song),
        Entry("line", ha, tr("Find the line here"), ("Ctrl+L",), tr("The riff or lick of the loop or the selected bars as tablature; what is heard of the record now (W) is what is listened to"), riffs.find, lambda w: has_song(w) and has_sound(w), context=True, line=True),
        Entry("line_second", ha, tr("Find a second line here"), (), tr("Another line at the same time, say of the guitar on the other side"), riffs.find_second, lambda w: has_song(w) and has_sound(w)),
        Entry("line_near", ha, tr("Play the line near a fret…"), (), tr("The same notes elsewhere on the neck"), riffs.put_near, has_line),
        Entry("line_clear", ha, tr("Take the line away"), (), tr("No line in the loop or the selected bars"), riffs.clear, has_line, context=True),
        Entry("tabs", ha, tr("Tablature in every row"), ("Shift+I",), tr("Room to write frets under all bars; rows with a line have it anyway"), riffs.toggle_tabs, has_song, checked=lambda w: w.sheet.tabs),
        Entry("degrees", ha, tr("Degrees in the tablature"), (), tr("Which degree of its chord each note of a line is, instead of its fret"), riffs.toggle_degrees, has_line, checked=lambda w: w.sheet.degrees),
        Entry("scales", ha, tr("Scales that fit…"), ("Ctrl+Shift+F",), tr("Scales over the chords and the line of the selected bars, on the neck"), riffs.show_scales, has_song, context=True),
        Entry("tab_here", ha, tr("Write a fret here"), ("Ctrl+I",), tr("Choose the caret’s place in the tablature: digits are frets, arrows go to other strings and notes, H P S B say how a note begins"), riffs.write_here, has_song),
        Entry("left_handed", ha, tr("Left-handed"), (), tr("Draw necks and diagrams for left-handed players"), on(shapes.toggle_left), has_song, checked=lambda w: has_song(w) and w.session.song.guitar.left),  # type: ignore[union-attr]
        Entry("from_nut", ha, tr("Count frets from the nut"), (), tr("Frets as counted from the nut, or from the capo"), on(shapes.toggle_from_nut), has_song, checked=lambda w: has_song(w) and w.session.song.guitar.from_nut),  # type: ignore[union-attr]
        Entry("other_key", ha, tr("Another key…"), ("Ctrl+Shift+K",), tr("Write the chart in another key: names, numbers and shapes together"), looks.write_in_key, has_song, line=True),
        Entry("hear_key", ha, tr("Hear the record in that key"), (), tr("Move the record’s pitch to the key that the chart is written in"), looks.hear_in_key, lambda w: has_song(w) and has_sound(w) and bool(w.session.song.guitar.moved)),  # type: ignore[union-attr]
        Entry("words", s, tr("Words of the song…"), ("Ctrl+Shift+Y",), tr("Paste the words, then drop them line by line on the beat while it plays; timed words (LRC) bring their places"), looks.words_of_song, has_song, line=True),
        Entry("play", li, tr("Play or stop"), ("Space",), tr("Play from the caret, or stop"), looks.play_stop, has_sound, context=True),
        Entry("resume", li, tr("Go on playing"), ("Shift+Space",), tr("Play on from where it stopped"), looks.resume, has_sound),
        Entry("loop", li, tr("Loop the selected bars"), ("L",), tr("Play the selected bars round and round, or stop looping"), looks.toggle_loop, lambda w: has_song(w) and has_sound(w), context=True, checked=lambda w: w.practice.span is not None),
        Entry("click", li, tr("Click"), ("K",), tr("Tick the beats and ones under the record"), lambda w: w.practice.set_click("off" if w.practice.click != "off" else "beats"), has_sound, checked=lambda w: w.practice.click != "off"),
        Entry("hear", li, tr("Hear the chord"), ("H",), tr("The chord by itself, on plucked strings at the record’s tuning"), lambda w: w.hearing.hear(), lambda w: has_song(w) and has_sound(w), context=True, line=True),
        Entry("hear_readings", li, tr("Hear its readings in turn"), ("Shift+H",), tr("Round and round, each reading under the record in turn"), lambda w: w.hearing.toggle_readings(), lambda w: has_song(w) and has_sound(w), context=True, checked=lambda w: bool(w.hearing.readings)),
        Entry("chart_sound", li, tr("Chart under the record"), ("V",), tr("Let the chart sound along, in time and in tune with the record"), lambda w: w.hearing.set_kind("off" if w.hearing.kind == "chart" else "chart"), lambda w: has_song(w) and has_sound(w), checked=lambda w: w.hearing.kind == "chart"),
        Entry("bass_sound", li, tr("Only the chart’s bass"), ("Shift+V",), tr("Let only the chart’s bass sound along"), lambda w: w.hearing.set_kind("off" if w.hearing.kind == "bass" else "bass"), lambda w: has_song(w) and has_sound(w), checked=lambda w: w.hearing.kind == "bass"),
        Entry("line_sound", li, tr("Lines under the record"), ("Ctrl+Shift+H",), tr("Let only the riffs and licks that are written sound along"), lambda w: w.hearing.set_kind("off" if w.hearing.kind == "line" else "line"), lambda w: has_line(w) and has_sound(w), checked=lambda w: w.hearing.kind == "line"),
        Entry("slower", li, tr("Slower"), ("F3",), tr("Five per cent slower, at the same pitch"), lambda w: w.practice.change_speed(-0.05), has_sound, line=True),
        Entry("faster", li, tr("Faster"), ("F4",), tr("Five per cent faster, at the same pitch"), lambda w: w.practice.change_speed(0.05), has_sound),
        Entry("own_speed", li, tr("The record’s own speed"), ("Shift+F4",), tr("At 100 %"), lambda w: w.practice.set_speed(1.0), has_sound),
        Entry("half_speed", li, tr("Half speed"), ("Shift+F3",), tr("At 50 %"), lambda w: w.practice.set_speed(0.5), has_sound),
        Entry("up", li, tr("A semitone up"), ("Ctrl+Shift+Up",), tr("Higher at the same speed"), lambda w: w.practice.transpose(w.practice.semitones + 1), has_sound),
        Entry("down", li, tr("A semitone down"), ("Ctrl+Shift+Down",), tr("Lower at the same speed"), lambda w: w.practice.transpose(w.practice.semitones - 1), has_sound),
        Entry("in_tune", li, tr("As if in tune"), ("Shift+P",), tr("Move the record to concert pitch at its own speed"), lambda w: w.practice.toggle_in_tune(), has_sound, checked=lambda w: w.practice.in_tune),
        Entry("loop_on", li, tr("Loop the next bar"), ("}",), tr("Move the loop a bar on"), lambda w: w.practice.shift_loop(bars=1), lambda w: has_song(w) and has_sound(w), line=True),
        Entry("loop_back", li, tr("Loop the bar before"), ("{",), tr("Move the loop a bar back"), lambda w: w.practice.shift_loop(bars=-1), lambda w: has_song(w) and has_sound(w)),
        Entry("loop_longer", li, tr("Longer loop"), (")",), tr("Move the loop’s end a bar on"), lambda w: w.practice.grow_loop(bars=1), lambda w: has_song(w) and has_sound(w)),
        Entry("loop_shorter", li, tr("Shorter loop"), ("(",), tr("Move the loop’s end a bar back"), lambda w: w.practice.grow_loop(bars=-1), lambda w: has_song(w) and has_sound(w)),
        Entry("loop_beat_on", li, tr("Loop a beat later"), ("Ctrl+}",), tr("Move the loop a beat on"), lambda w: w.practice.shift_loop(beats=1), lambda w: has_song(w) and has_sound(w)),
        Entry("loop_beat_back", li, tr("Loop a beat earlier"), ("Ctrl+{",), tr("Move the loop a beat back"), lambda w: w.practice.shift_loop(beats=-1), lambda w: has_song(w) and has_sound(w)),
        Entry("loop_beat_longer", li, tr("Loop a beat longer"), ("Ctrl+)",), tr("Move the loop’s end a beat on"), lambda w: w.practice.grow_loop(beats=1), lambda w: has_song(w) and has_sound(w)),
        Entry("loop_beat_shorter", li, tr("Loop a beat shorter"), ("Ctrl+(",), tr("Move the loop’s end a beat back"), lambda w: w.practice.grow_loop(beats=-1), lambda w: has_song(w) and has_sound(w)),
        Entry("passes", li, tr("Every time in a row"), ("Shift+L",), tr("The selected bars as they come every time, one after the other"), lambda w: w.practice.toggle_passes(), lambda w: has_song(w) and has_sound(w), checked=lambda w: w.practice.passes_on),
        Entry("practise", li, tr("Practise…"), ("Ctrl+P",), tr("Times round, count-in, drill, click, pitch, reminder"), heard.practise, has_sound),
        Entry("ear", li, tr("Hear another part"), ("W",), tr("The whole, the low end, the guitar’s middle, centre, sides, left, right, drums softened"), lambda w: w.practice.next_ear(), has_sound, line=True),
        Entry("whole", li, tr("Hear the whole record"), ("Shift+W",), tr("All of it again"), lambda w: w.practice.set_ear("whole"), has_sound),
        Entry("ab", li, tr("Record or chart"), ("X",), tr("From the record to the chart at the same place, and back"), lambda w: w.practice.toggle_ab(), lambda w: has_song(w) and has_sound(w), checked=lambda w: w.practice.balance >= 1),
        Entry("mark", li, tr("Mark this place…"), ("Ctrl+D",), tr("Mark the caret’s place with a note, or change the mark that is there"), on(marks.mark), has_song, context=True, line=True),
        Entry("next_mark", li, tr("Next mark"), ("Shift+F8",), tr("Go to the next marked place"), on(marks.next_mark), has_song),
        Entry("back", li, tr("Back to where I was"), ("Z",), tr("Back to the place before the last jump"), lambda w: w.practice.back(), has_song),
        Entry("find_device", li, tr("Look for the sound card"), (), tr("Look again for a sound card to play to"), lambda w: w.find_device(), always),
        Entry("true_pitch", li, tr("Play at true pitch"), ("P",), tr("Correct the tape's speed so that the record is in tune, or play it as it is"), on(record.toggle_true_pitch), lambda w: has_song(w) and has_sound(w), checked=lambda w: has_song(w) and bool(w.session.song.ground.tape_cents)),  # type: ignore[union-attr]
        Entry("other_tuning", li, tr("Tuned otherwise…"), (), tr("Take the record for a half step flatter or sharper; all chords are named by it"), lambda w: w.other_tunings.ask(), has_song),
        Entry("louder", li, tr("Louder"), ("+", "="), tr("Raise the level"), lambda w: looks.change_level(w, 5), has_sound, line=True),
        Entry("softer", li, tr("Softer"), ("-",), tr("Lower the level"), lambda w: looks.change_level(w, -5), has_sound),
        Entry("lift_cap", li, tr("Lift the level cap"), (), tr("Allow the full level; long listening at high level harms hearing"), looks.toggle_cap, always, checked=lambda w: w.cap_lifted),
        Entry("stack", v, tr("Every time under each other"), ("F6",), tr("All times that a section comes under each other, or rows as the song goes"), lambda w: w.sheet.set_stacked(not w.sheet.stacked), has_song, line=True, checked=lambda w: w.sheet.stacked),
        Entry("zoom_in", v, tr("Larger"), ("Ctrl++", "Ctrl+="), tr("Larger bars"), lambda w: looks.zoom(w, 1.25), has_song, line=True),
        Entry("zoom_out", v, tr("Smaller"), ("Ctrl+-",), tr("Smaller bars"), lambda w: looks.zoom(w, 0.8), has_song),
        Entry("fit", v, tr("Fit the width"), ("Ctrl+0",), tr("As many bars across as a row has"), looks.fit_width, has_song),
        Entry("fewer", v, tr("Fewer bars in a row"), ("Ctrl+Shift+Left",), tr("Two, three, four, six or eight bars in a row"), lambda w: looks.bars_in_row(w, -1), has_song, line=True),
        Entry("more", v, tr("More bars in a row"), ("Ctrl+Shift+Right",), tr("Two, three, four, six or eight bars in a row"), lambda w: looks.bars_in_row(w, 1), has_song),
        Entry("names", v, tr("Next kind of names"), ("Ctrl+Shift+G",), tr("Chords as they sound, as shapes, or both"), on(record.next_names), has_song, line=True),
        Entry("notation", v, tr("Next way of writing chords"), ("Ctrl+Shift+W",), tr("Names, signs, letters, numbers, Roman numerals"), on(keys.next_notation), has_song),
        Entry("clock", v, tr("Times of the corrected record"), (), tr("Show times as on the record at true pitch, or as on the original"), on(record.toggle_clock), has_song, checked=lambda w: has_song(w) and w.session.song.ground.corrected_clock),  # type: ignore[union-attr]
        Entry("side", v, tr("Side panel"), ("F9",), tr("Show or hide the chord's readings and the doubts"), looks.toggle_side, always, line=True, checked=lambda w: not w.side.isHidden()),
        Entry("dark", v, tr("Dark"), ("Ctrl+Shift+D",), tr("Light ink on dark paper"), looks.toggle_dark, always, checked=lambda w: w.theme.dark),
        Entry("stage", v, tr("On stage"), ("F5",), tr("The whole screen for playing along: large names that follow the record; Page Up and Down, arrows and pedals go from row to row, Space plays, + and - change the size, Esc leaves"), looks.on_stage, has_song),
        Entry("full", v, tr("Full screen"), ("F11",), tr("Fill the screen"), looks.toggle_full, always, checked=lambda w: w.isFullScreen()),
        Entry("guide", h, tr("Guide: what am I looking at?"), ("Shift+F1", "?"), tr("What everything is and how it is done, beginning with this view"), looks.show_guide, always),
        Entry("tour", h, tr("A first look"), (), tr("Five words on what is where"), looks.take_tour, has_song),
        Entry("find_action", h, tr("Find an action…"), ("Ctrl+F",), tr("Type what you want to do"), looks.find_action, always),
        Entry("shortcuts", h, tr("Keys"), ("F1",), tr("All keys on one page"), looks.show_shortcuts, always),
        Entry("log", h, tr("Show the log"), (), tr("What happened, for whoever looks for a fault"), looks.show_log, always),
        Entry("about", h, tr("About Ychronos"), (), tr("Version, licence, fonts"), looks.about, always),
    ]  # fmt: skip


def _writes(one: Exporter) -> Callable[[Shell], object]:
    return lambda shell: files.export(shell, one)


def export_entries() -> list[Entry]:
    """An action for each registered exporter."""
    return [
        Entry(f"export_{e.id}", MENUS[0], e.words, e.keys, e.tip, _writes(e), has_song, line=not i)
        for i, e in enumerate(EXPORTERS)
    ]


def _shows(view: str) -> Callable[[Shell], object]:
    return lambda shell: shell.show_view(view)


def view_entries(views: Sequence[View]) -> list[Entry]:
    """An action for each registered view."""
    return [
        Entry(
            f"view_{view.id}",
            MENUS[7],
            view.words,
            (view.keys,),
            view.tip,
            _shows(view.id),
            has_song,
        )
        for view in views
    ]
