"""What a user can say about a song: small pure functions from song to song, one module a kind of statement.

Each returns the new song and a sentence for the record; each raises :class:`EditError` with a sentence for
the user when it does not apply. What is said is kept as statements (:mod:`..statements`); nothing stated is lost unless
the edit is about it.
"""

from .bars import join_bars, one_is_here, set_grouping, set_length, shift_ones, split_bar
from .beats import between_beats, insert_beat, lengthen_pick_up, move_beat, remove_beat
from .checks import accept_bars
from .chords import (
    Piece,
    Spelling,
    articulate,
    copy_to_passes,
    join_chord,
    mark_unsure,
    move_change,
    paste,
    pieces_of,
    remove_chord,
    split_chord,
    state_chord,
    state_chords,
    twins,
    with_chord,
)
from .common import Edited, EditError, told
from .figures import forget_figure, next_stroke, set_figure, state_paired
from .frets import (
    HeardNote,
    clear_line,
    drop_line_note,
    move_line_note,
    next_reading,
    other_string,
    put_line,
    refret,
    set_fret,
    set_sign,
)
from .keys import respell_keys, state_key
from .lyrics import move_lyric, nearest_beat, remove_lyric, set_lyric, set_lyrics
from .marks import remove_mark, set_mark
from .meters import set_meter
from .noting import set_note
from .record import (
    correct_tape,
    name_half_step,
    rename_song,
    set_guitar,
    set_level,
    set_notation,
    set_second_guitar,
    show_corrected_clock,
    swap_guitars,
    write_in_key,
)
from .sections import (
    join_section,
    move_section,
    rename_section,
    section_place,
    start_section,
    state_material,
    state_sung,
)
from .shapes import WHERE, Where, choose_shape, forget_shape
from .tempo import count_as, double_tempo, half_tempo, recount, set_tempo, tap

__all__ = [
    "WHERE",
    "EditError",
    "Edited",
    "HeardNote",
    "Piece",
    "Spelling",
    "Where",
    "accept_bars",
    "articulate",
    "between_beats",
    "choose_shape",
    "clear_line",
    "copy_to_passes",
    "correct_tape",
    "count_as",
    "double_tempo",
    "drop_line_note",
    "forget_figure",
    "forget_shape",
    "half_tempo",
    "insert_beat",
    "join_bars",
    "join_chord",
    "join_section",
    "lengthen_pick_up",
    "mark_unsure",
    "move_beat",
    "move_change",
    "move_line_note",
    "move_lyric",
    "move_section",
    "name_half_step",
    "nearest_beat",
    "next_reading",
    "next_stroke",
    "one_is_here",
    "other_string",
    "paste",
    "pieces_of",
    "put_line",
    "recount",
    "refret",
    "remove_beat",
    "remove_chord",
    "remove_lyric",
    "remove_mark",
    "rename_section",
    "rename_song",
    "respell_keys",
    "section_place",
    "set_figure",
    "set_fret",
    "set_grouping",
    "set_guitar",
    "set_length",
    "set_level",
    "set_lyric",
    "set_lyrics",
    "set_mark",
    "set_meter",
    "set_notation",
    "set_note",
    "set_second_guitar",
    "set_sign",
    "set_tempo",
    "shift_ones",
    "show_corrected_clock",
    "split_bar",
    "split_chord",
    "start_section",
    "state_chord",
    "state_chords",
    "state_key",
    "state_material",
    "state_paired",
    "state_sung",
    "swap_guitars",
    "tap",
    "told",
    "twins",
    "with_chord",
    "write_in_key",
]
