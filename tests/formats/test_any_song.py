"""Whatever is said of a song, saved and read again it is the same song."""

from __future__ import annotations

import contextlib

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import make_song
from tests.saying import EDITS
from ychronos.formats import project
from ychronos.song import edits
from ychronos.song.merge import merged

numbers = st.integers(0, 100_000)


@settings(max_examples=150)
@given(
    bars=st.integers(2, 24),
    lead=st.sampled_from((0, 1)),
    said=st.lists(st.tuples(st.sampled_from(sorted(EDITS)), numbers, numbers, numbers), min_size=1, max_size=14),
)
def test_saved_and_read_again_it_is_the_same(bars: int, lead: int, said: list[tuple[str, int, int, int]]) -> None:
    song = make_song(bars=bars, lead=lead)
    for what, *args in said:
        with contextlib.suppress(edits.EditError):
            song, _ = EDITS[what](song, *args)
    assert merged(song) == song, "laid over itself it is the same"
    data = project.dumps(song)
    assert project.dumps(project.loads(data)) == data
