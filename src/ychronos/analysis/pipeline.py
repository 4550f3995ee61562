"""From a recording to a song: order, progress and cancel, nothing else.

``analyse`` gathers evidence (or takes it from the cache) and decides everything; ``redecide`` decides again
from evidence around what the user has stated. Both are pure but for the cache.

On a grid, decisions are a function of the evidence and the statements, and nothing goes round in a circle:
what the sound alone gives (keys at a glance, chords, form), then sections with what is stated of sections,
then chords with what is stated of keys and chords, which travels along the passes, then keys from those chords, then
what rests on the chords: how they are struck, the line of the bass, and by that their own basses. So the order of
statements does not matter, deciding again without news changes nothing, and a chord that is stated never moves a
section. What is said up to the keys is a registered :class:`~.stages.Stage` each.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Literal

from ..audio.decode import Cancelled
from ..audio.recording import Recording
from ..song.barlines import bars_by_clock
from ..song.grid import Bar, Grid
from ..song.merge import merged, onto
from ..song.model import PitchGround, RecordingRef, Song, blank_song
from ..song.track import Track
from ..tongue import tr
from . import singing, stages
from .beats import counting, grouping, recount
from .chords import basses
from .chords.deciding import STAGES as CHORD_STAGES
from .chords.deciding import at_a_glance
from .evidence import AnalysisError, Evidence, Progress, evidence_of
from .form import fading
from .form.deciding import STAGES as FORM_STAGES
from .hands import once, strokes
from .hands.played import heard_notes
from .keys.deciding import STAGES as KEY_STAGES
from .keys.deciding import decide_keys
from .lines import bassline

STAGES: tuple[stages.Stage, ...] = (*CHORD_STAGES, *KEY_STAGES, *FORM_STAGES)
AT_THE_START = 32  # beats in which a count-in ends
DECIDING = 0.8  # share of the progress bar that gathering evidence takes

LOG = logging.getLogger("ychronos.pipeline")
What = Literal["beats", "bars", "chords"]  # from where on; "chords" is all but the count
OnResult = Callable[[Song], None]


def analyse(
    recording: Recording,
    title: str,
    progress: Progress = lambda *_: None,
    cancelled: Callable[[], bool] = lambda: False,
    cache: Path | None = None,
    on_result: OnResult = lambda _: None,
    on_trouble: Callable[[str], object] = lambda _: None,
) -> tuple[Song, Evidence]:
    """Analyse a recording; ``on_result`` gets the song as far as it is known after each stage, ``on_trouble`` a sentence
    on a stage that failed.

    Raises
    ------
    AnalysisError
        a sentence on why the recording cannot be analysed.
    Cancelled
        when ``cancelled()`` became true.
    """
    evidence = evidence_of(recording, cache, lambda name, share: progress(name, DECIDING * share), cancelled)

    def stage(name: str, share: float) -> None:
        if cancelled():
            raise Cancelled
        progress(name, DECIDING + (1 - DECIDING) * share)

    stage(tr("Counting beats"), 0.0)

    def beat_tick(share: float) -> None:
        stage(tr("Counting beats"), 0.5 * share)

    try:
        grid = counting.find_grid(evidence, beat_tick)
    except Cancelled:
        raise
    except Exception as error:
        LOG.exception("no count was found")
        raise AnalysisError(
            tr("No count could be found in this recording ({name} inside).", name=type(error).__name__)
        ) from error
    ref = RecordingRef(str(recording.path), recording.sha256, recording.duration, recording.note)
    song = blank_song(title, ref, grid)
    song = replace(song, ground=PitchGround(evidence.cents, evidence.tuning_confidence))
    parts: tuple[tuple[str, float, Callable[[Song, Evidence], Song]], ...] = (
        (tr("Naming chords"), 0.5, _chords_at_a_glance),
        (tr("Finding the key"), 0.8, lambda song, _: replace(song, keys=decide_keys(song))),
        (tr("Finding sections"), 0.85, _decided),
    )
    for name, share, decide in parts:
        on_result(song)
        stage(name, share)
        try:
            song = decide(song, evidence)
        except Cancelled:
            raise
        except Exception as error:  # what one stage cannot do must not take away what the others found
            LOG.exception("a stage failed: %s", name)
            on_trouble(
                tr(
                    "“{name}” failed inside Ychronos ({name2}); what else was found is there.",
                    name=name,
                    name2=type(error).__name__,
                )
            )
    stage(tr("Done"), 1.0)
    return song, evidence


def _chords_at_a_glance(song: Song, evidence: Evidence) -> Song:
    song = replace(song, chords=at_a_glance(evidence, song.grid).chords)
    return counting.with_lead_in(song, song.chords)


def redecide(
    song: Song,
    evidence: Evidence,
    what: What = "chords",
    before: Song | None = None,
    travels: bool = True,
    cancelled: Callable[[], bool] = lambda: False,
) -> Song:
    """The song decided again around all that is stated in it.

    ``what`` is where to begin: "beats" finds beats, bar lines and all that follows, "bars" the bar lines on
    the beats as they are, "chords" chords, keys and sections only. With ``before``, the song before what was
    said last, the count far from the news stays as it is. Raises Cancelled when ``cancelled()`` became true.
    """

    def go_on() -> None:
        if cancelled():
            raise Cancelled

    if what != "chords":
        places = recount.news(before, song) if before is not None else None
        if before is not None and not places and song.grid.times != before.grid.times:
            places = None  # other beats throughout, without a word on any of them
        old = before.grid if before is not None else song.grid
        if what == "beats":
            times = recount.beats_around(song.grid, evidence.pulse, places, before.grid if before is not None else None)
            go_on()
            song = onto(song, bars_by_clock(song.grid, [*times, counting.end_of(times)]))
        # beats that were only put right are the same beats: their bars are the same
        if before is None or not recount.same_beats(before, song):
            new = recount.bars_again(song.grid, old, places, evidence.pulse, evidence.changes)
            song = onto(song, grouping.decide(new, evidence.pulse, evidence.changes))
        go_on()
        song = counting.with_lead_in(song, at_a_glance(evidence, song.grid, AT_THE_START).chords)
    return _decided(song, evidence, travels, go_on)


def _bare(grid: Grid) -> Grid:
    """A grid without the marks of what is stated: what the sound alone says does not depend on them."""
    bare = tuple(Bar(b.meter, b.beats, b.first, grouping=b.grouping) for b in grid.bars)
    return replace(grid, bars=bare, stated_beats=frozenset())


def _decided(song: Song, evidence: Evidence, travels: bool = True, go_on: Callable[[], None] = lambda: None) -> Song:
    """Chords, keys and sections of a song on its grid, by all stages; what only listens is kept with the evidence."""
    bare = _bare(song.grid)
    board = {"evidence": evidence, "song": song, "bare grid": bare, "travels": travels}

    def kept(stage: stages.Stage) -> stages.Stage:
        if not stage.listens:
            return stage
        return replace(stage, decide=lambda b: evidence.kept.get(stage.gives, bare, lambda: stage.decide(b)))

    found = stages.run([kept(s) for s in STAGES], board, lambda _: go_on())
    song = merged(replace(song, chords=found["chords"], sections=found["sections"]))
    song = merged(replace(song, keys=found["keys"]))
    how = zip(song.chords, once.struck_once(song, evidence).round(2).tolist(), strict=True)
    song = merged(replace(song, chords=Track(replace(c, rings=ring, cut=cut) for c, (ring, cut) in how)))
    line = tuple(bassline.find(song, evidence))
    song = merged(replace(song, bassline=line, chords=basses.decide(song, evidence, line)))
    go_on()
    song = replace(song, heard=heard_notes(song, evidence))
    go_on()
    song = replace(song, strummed=strokes.decide(song, evidence))
    go_on()
    ends = evidence.kept.get("closing", None, lambda: fading.closing(evidence.bands))
    sung = evidence.kept.get("sung", None, lambda: singing.stretches(evidence.voices[:, 0]))
    return replace(song, closing=ends, sung=sung)
