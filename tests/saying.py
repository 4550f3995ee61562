"""Everything a user can say about a song, with arguments from three numbers: also odd ones, which may be refused."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from ychronos.guitar.instrument import LEVEL_IDS, TUNINGS, GuitarSetup
from ychronos.song import edits
from ychronos.song.edits import Edited
from ychronos.song.grid import Bar, Grid
from ychronos.song.model import Song
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import parse_key
from ychronos.theory.meter import Meter
from ychronos.theory.notation import SCHOOLS

CHORDS = ("G", "Am7", "F#m7b5", "N", "Cmaj7/E", "Bb9", "Esus4", "D/F#", "Cdim7", "E7#9")
KEYS = ("Eb major", "F# dorian", "A minor", "Gb major", "D mixolydian")
METERS = (2, 3, 4, 5, 6, 7, 9, 11, 12, 13, 32)
SHAPES = (
    (3, 2, 0, 0, 0, 3),
    (None, 3, 2, 0, 1, 0),
    (1, 1, 1, 1),
    (None,) * 6,
    (0, 9, 24, 3, None, 12),
    (None, None, 0, 2, 3, 2),
)
GROUPS = ((2, 2), (2, 2, 3), (1, 1, 1, 1), (3, 2), (4,))


def _at(song: Song, a: int) -> Fraction:
    return Fraction(a % max(1, 2 * song.grid.beat_count), 2)


def _bars(song: Song, a: int, b: int) -> tuple[int, int]:
    one, two = a % len(song.grid.bars), b % len(song.grid.bars)
    return min(one, two), max(one, two)


def _time(song: Song, a: int) -> float:
    first, last = song.grid.times[0], song.grid.times[-1]
    return first + (last - first) * (a % 1000) / 1000


def _taps(song: Song, a: int, b: int, c: int) -> list[float]:
    gap, first = 0.15 + (b % 100) / 80, _time(song, a)
    return [t for t in (first + i * gap for i in range((1, 3, 4, 9, 30)[c % 5])) if t <= song.grid.times[-1]]


def _other_grid(song: Song, a: int, b: int) -> Grid:
    """Another count from the first beat to the last."""
    count = 8 + a % 40
    first, last = song.grid.times[0], song.grid.times[-1]
    length = 1 + b % 7
    bars = [Bar(Meter(length), min(length, count - k)) for k in range(0, count, length)]
    return Grid(tuple(bars), tuple(first + (last - first) * i / count for i in range(count + 1)))


def _some(choices: tuple, a: int):  # type: ignore[no-untyped-def,type-arg]
    return choices[a % len(choices)]


def _end(song: Song, at: Fraction, a: int) -> Fraction:
    return min(song.grid.end, at + (Fraction(1, 2), Fraction(1), Fraction(4), Fraction(8))[a % 4])


def _line_note(song: Song, a: int) -> tuple[Fraction, int, int]:
    """Place, string and line of a note that is there, or of none."""
    if not song.line or a % 5 == 0:
        return _at(song, a), a % 6, 0
    note = song.line[a % len(song.line)]
    return note.at, note.value.string, note.value.lane


def _line(song: Song, a: int, b: int, c: int) -> Edited:
    """Some notes that go up and down, also two at once, and beyond the neck."""
    start = _at(song, a)
    notes = [
        edits.HeardNote(
            start + Fraction(k, (1, 2, 3, 7)[c % 4]), Fraction(1 + b % 5, 3), 36 + (b + k * (a % 9)) % 60, _some(("", "h", "p", "s", "b"), k + c),
            (k % 5) / 4, (40 + k % 9,) if k % 3 == 0 else (),
        )
        for k in range(b % 9)
    ]  # fmt: skip
    return edits.put_line(song, start, _end(song, start, c), notes, c % 2, (None, 1, 5, 12)[b % 4])


Say = Callable[[Song, int, int, int], Edited]
EDITS: dict[str, Say] = {
    "accept_bars": lambda s, a, b, c: edits.accept_bars(s, range(_bars(s, a, b)[0], _bars(s, a, b)[1] + 1), c % 2 == 0),
    "articulate": lambda s, a, b, c: edits.articulate(s, a % len(s.chords), _some(("held", "stopped", "strummed"), b)),
    "between_beats": lambda s, a, b, c: edits.between_beats(s, *_bars(s, a, b)),
    "choose_shape": lambda s, a, b, c: edits.choose_shape(s, a % len(s.chords), _some(SHAPES, b), _some(edits.WHERE, c)),
    "clear_line": lambda s, a, b, c: edits.clear_line(s, _at(s, a), _end(s, _at(s, a), c), (None, 0, 1)[b % 3]),
    "drop_line_note": lambda s, a, b, c: edits.drop_line_note(s, *_line_note(s, a)),
    "move_line_note": lambda s, a, b, c: edits.move_line_note(s, *_line_note(s, a)[:2], _at(s, b), _line_note(s, a)[2]),
    "next_reading": lambda s, a, b, c: edits.next_reading(s, *_line_note(s, a)),
    "other_string": lambda s, a, b, c: edits.other_string(s, *_line_note(s, a), (1, -1)[c % 2]),
    "put_line": lambda s, a, b, c: _line(s, a, b, c),
    "refret": lambda s, a, b, c: edits.refret(s, _at(s, a), _end(s, _at(s, a), c), (None, 3, 9, 24)[b % 4]),
    "set_fret": lambda s, a, b, c: edits.set_fret(s, _at(s, a), b % 8, c % 27, a % 3),
    "set_sign": lambda s, a, b, c: edits.set_sign(s, *_line_note(s, a)[:2], _some(("", "h", "p", "s", "b"), b), _line_note(s, a)[2]),
    "copy_to_passes": lambda s, a, b, c: edits.copy_to_passes(s, range(a % len(s.grid.bars), a % len(s.grid.bars) + 1 + b % 5)),
    "name_half_step": lambda s, a, b, c: edits.name_half_step(s, 1 if a % 2 else -1),
    "correct_tape": lambda s, a, b, c: edits.correct_tape(s, a % 2 == 0),
    "count_as": lambda s, a, b, c: edits.count_as(s, _other_grid(s, a, b), "so"),
    "double_tempo": lambda s, a, b, c: edits.double_tempo(s),
    "forget_shape": lambda s, a, b, c: edits.forget_shape(s, a % len(s.chords)),
    "half_tempo": lambda s, a, b, c: edits.half_tempo(s),
    "insert_beat": lambda s, a, b, c: edits.insert_beat(s, a % s.grid.beat_count),
    "join_bars": lambda s, a, b, c: edits.join_bars(s, a % len(s.grid.bars), a % len(s.grid.bars) + b % 5),
    "join_chord": lambda s, a, b, c: edits.join_chord(s, a % len(s.chords)),
    "join_section": lambda s, a, b, c: edits.join_section(s, a % len(s.sections)),
    "lengthen_pick_up": lambda s, a, b, c: edits.lengthen_pick_up(s),
    "set_lyric": lambda s, a, b, c: edits.set_lyric(s, _at(s, a), "low tide" * (b % 3)),
    "set_note": lambda s, a, b, c: edits.set_note(
        s, _at(s, a), ("cue", "advice", "doubt", "private")[b % 4], "horns come in" * (c % 4 > 0)
    ),
    "set_figure": lambda s, a, b, c: edits.set_figure(
        s, range(*_bars(s, a, b)), ("D-dU-Udu", "DdDd", "x" * s.grid.bars[0].beats, "D-z", "")[c % 5]
    ),
    "next_stroke": lambda s, a, b, c: edits.next_stroke(s, a % len(s.grid.bars), b % 20, (2, 4)[c % 2]),
    "forget_figure": lambda s, a, b, c: edits.forget_figure(s, range(*_bars(s, a, b))),
    "set_lyrics": lambda s, a, b, c: edits.set_lyrics(s, [(_at(s, a + 3 * i), f"line {i}") for i in range(c % 5)]),
    "move_lyric": lambda s, a, b, c: edits.move_lyric(s, _some(s.lyrics, a).at if s.lyrics else _at(s, b), _at(s, c)),
    "remove_lyric": lambda s, a, b, c: edits.remove_lyric(s, _some(s.lyrics, a).at if s.lyrics else _at(s, b)),
    "mark_unsure": lambda s, a, b, c: edits.mark_unsure(s, a % len(s.chords), b % 2 == 0, "why" * (c % 3)),
    "move_beat": lambda s, a, b, c: edits.move_beat(s, a % (s.grid.beat_count + 1), s.grid.times[a % s.grid.beat_count] + _some((-1.0, -0.2, -0.01, 0.01, 0.1, 1.0), b)),
    "move_change": lambda s, a, b, c: edits.move_change(s, a % len(s.chords), Fraction(_some((-2, -1, 1, 2), b), _some((2, 3), c))),
    "move_section": lambda s, a, b, c: edits.move_section(s, a % len(s.sections), Fraction(_some(s.grid.starts, b))),
    "one_is_here": lambda s, a, b, c: edits.one_is_here(s, a % s.grid.beat_count),
    "paste": lambda s, a, b, c: edits.paste(s, a % len(s.grid.bars), edits.pieces_of(s, range(*_bars(s, b, c)))),
    "remove_beat": lambda s, a, b, c: edits.remove_beat(s, a % s.grid.beat_count),
    "remove_chord": lambda s, a, b, c: edits.remove_chord(s, a % len(s.chords)),
    "remove_mark": lambda s, a, b, c: edits.remove_mark(s, _some(s.marks, a).at if s.marks else _at(s, b)),
    "rename_section": lambda s, a, b, c: edits.rename_section(s, a % len(s.sections), _some(("Verse", "X", "Refrain 2", "V" * 90), b), c % 2 == 0),
    "rename_song": lambda s, a, b, c: edits.rename_song(s, _some(("Lamps", "Möwe ♯ 漢字", "L" * 300, "<b>x</b> %s"), a), _some(("Tin Dory", ""), b)),
    "respell_keys": lambda s, a, b, c: edits.respell_keys(s, parse_key(_some(KEYS, a))),
    "set_grouping": lambda s, a, b, c: edits.set_grouping(s, *_bars(s, a, b), _some(GROUPS, c)),
    "set_guitar": lambda s, a, b, c: edits.set_guitar(s, GuitarSetup(capo=a % 13, show=_some(("sounding", "shapes", "both"), b))),
    "set_level": lambda s, a, b, c: edits.set_level(s, _some(LEVEL_IDS, a)),
    "set_second_guitar": lambda s, a, b, c: edits.set_second_guitar(s, GuitarSetup(_some(tuple(TUNINGS.values()), a), b % 13) if c % 3 else None),
    "set_length": lambda s, a, b, c: edits.set_length(s, a % len(s.grid.bars), _some((1, 2, 3, 5, 7, 12, 32), b)),
    "set_mark": lambda s, a, b, c: edits.set_mark(s, _at(s, a), "here" * (b % 3)),
    "set_meter": lambda s, a, b, c: edits.set_meter(s, *_bars(s, a, b), Meter(_some(METERS, c), _some((4, 4, 8, 2, 16), a + c))),
    "set_notation": lambda s, a, b, c: edits.set_notation(s, _some(tuple(SCHOOLS), a)),
    "set_tempo": lambda s, a, b, c: edits.set_tempo(s, 20 + a % 460),
    "shift_ones": lambda s, a, b, c: edits.shift_ones(s, _some((-1, 1), a)),
    "show_corrected_clock": lambda s, a, b, c: edits.show_corrected_clock(s, a % 2 == 0),
    "split_bar": lambda s, a, b, c: edits.split_bar(s, a % s.grid.beat_count),
    "split_chord": lambda s, a, b, c: edits.split_chord(s, _at(s, a)),
    "start_section": lambda s, a, b, c: edits.start_section(s, Fraction(_some(s.grid.starts[:-1], a)), _some(("", "Bridge"), b)),
    "state_chord": lambda s, a, b, c: edits.state_chord(s, _at(s, a), _end(s, _at(s, a), b), parse_chord(_some(CHORDS, c))),
    "state_chords": lambda s, a, b, c: edits.state_chords(s, [(_at(s, a) + i, _at(s, a) + i + 1, parse_chord(_some(CHORDS, c + i)), None) for i in range(1 + b % 4)]),
    "state_key": lambda s, a, b, c: edits.state_key(s, parse_key(_some(KEYS, c)), *(_bars(s, a, b) if c % 2 else (None, None))),
    "state_material": lambda s, a, b, c: edits.state_material(s, a % len(s.sections), None if c % 3 == 0 else b % len(s.sections), c % 2 == 0),
    "state_paired": lambda s, a, b, c: edits.state_paired(s, a % len(s.sections), c % 2 == 0),
    "state_sung": lambda s, a, b, c: edits.state_sung(s, a % len(s.sections), c % 2 == 0),
    "swap_guitars": lambda s, a, b, c: edits.swap_guitars(s),
    "write_in_key": lambda s, a, b, c: edits.write_in_key(s, a % 23 - 11),
    "tap": lambda s, a, b, c: edits.tap(s, _taps(s, a, b, c)),
}  # fmt: skip
NO_EDITS = {
    "HeardNote",
    "EditError",
    "Edited",
    "WHERE",
    "nearest_beat",
    "Where",
    "Piece",
    "Spelling",
    "pieces_of",
    "recount",
    "section_place",
    "told",
    "twins",
    "with_chord",
}
