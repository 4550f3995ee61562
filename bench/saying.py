"""Saying something of a song as in the window: an edit of a session, with what follows decided again on the spot."""

from __future__ import annotations

from collections.abc import Callable

from ychronos.analysis import pipeline
from ychronos.analysis.evidence import Evidence
from ychronos.session.session import Session
from ychronos.song import edits
from ychronos.song.model import Song


def say(
    song: Song, evidence: Evidence | None, make: Callable[[Song], edits.Edited], what: pipeline.What
) -> Song | None:
    """The song after an edit and what follows from it; None when the edit does not apply. Without evidence the edit
    changes only what it says."""
    session = Session()
    session.set_draft(song)
    session.take_evidence(evidence)
    return session.song if session.edit(make, what) else None
