"""What the user wants on paper, kept in the settings: one place for the page, for files and for the printer."""

from __future__ import annotations

from typing import Any

from ...formats.options import Options
from ...formats.paper import LARGE, PLAIN_PAPER, SIZES, SMALL, Paper
from ...session.events import Event
from ...song.noted import KINDS as NOTE_KINDS
from ...song.noted import PRINTED
from ...theory.notation import SCHOOLS
from ...tongue import tr
from ..settings import Settings

# layer, its setting, its words, what it means
LAYERS = (
    ("folded", "folded_charts", tr("Repeats written once"), tr("Repeat signs, endings, “as the 1st time, but …”, back to the sign")),
    ("plain", "plain_charts", tr("The way in words"), tr("“Verse to Chorus as above, then Ending” instead of sign and coda")),
    ("shapes", "shapes_on_charts", tr("Shapes in use"), tr("Diagrams in order of appearance, at the top")),
    ("words", "words_on_charts", tr("Words of the song"), tr("What is sung, under its beats")),
    ("strokes", "strokes_on_charts", tr("Strokes"), tr("What the strumming hand does, where it is known")),
    ("tabs", "tabs_on_charts", tr("Tablature"), tr("Riffs and licks that are written, under their bars")),
    ("bass", "bass_on_charts", tr("The bass where it walks"), tr("Notes of the bass between the chords, under their beats")),
    ("counts", "counts_on_charts", tr("Beats of each chord"), tr("How many beats each chord lasts, row by row: E 8 · A 4")),
    ("gestures", "gestures_on_charts", tr("Turnarounds, tags, the end"), tr("Said after the section that has one, also that nobody sings in it; how the record ends after the last")),
    ("times", "times_on_charts", tr("Times of the record"), tr("When each row begins")),
    ("numbers", "numbers_on_charts", tr("Numbers of bars"), tr("At the start of each row")),
)  # fmt: skip
# kinds of notes, likewise
NOTES = (
    ("cue", "cues_on_charts", tr("Cues"), tr("Who comes in, what to listen for")),
    ("advice", "advice_on_charts", tr("Advice"), tr("How it is played there")),
    ("doubt", "reasons_on_charts", tr("Doubts with reasons"), tr("Why a chord is not sure")),
    ("private", "private_on_charts", tr("Notes for myself"), tr("The words of marks")),
)
_OFF = {"counts", "bass", "plain", *(k for k in NOTE_KINDS if k not in PRINTED)}  # unless the user says so
_SETTINGS = {name: (key, name not in _OFF) for name, key, _, _ in (*LAYERS, *NOTES)}
ROWS = (0, 2, 3, 4, 6, 8)  # bars in a row; 0 as on the sheet
ONE_PAGE = 0.0
# how large, and in words; the first is "as large as fits on one page"
LARGENESS = (
    (ONE_PAGE, tr("All on one page")),
    (0.8, tr("Small")),
    (1.0, tr("Usual size")),
    (1.3, tr("Large type")),
    (1.6, tr("For a music stand")),
)


class Wishes:
    """See the module; ``changed`` says that something is wanted otherwise. What the settings hold of another kind is taken as not said."""

    def __init__(self, settings: Settings) -> None:
        self._settings = settings
        self.changed = Event()

    def layer(self, name: str) -> bool:
        """Whether a layer, or a kind of notes, is wanted."""
        return self._settings.flag(*_SETTINGS[name])

    def set_layer(self, name: str, wanted: bool) -> None:
        self._settings.set(_SETTINGS[name][0], wanted)
        self.changed.emit()

    @property
    def paper(self) -> Paper:
        size = self._settings.text("paper_size", PLAIN_PAPER.size)
        scale = self.largeness
        return Paper(
            size if size in SIZES else PLAIN_PAPER.size,
            self._settings.flag("paper_landscape", False),
            scale == ONE_PAGE,
            scale or 1.0,
            2 if self._settings.text("paper_columns", "1") == "2" else 1,
        )

    @property
    def largeness(self) -> float:
        text = self._settings.text("paper_scale", "1.0")
        return next((scale for scale, _ in LARGENESS if str(scale) == text), 1.0)

    @property
    def per_row(self) -> int:
        text = self._settings.text("paper_bars", "0")
        return next((n for n in ROWS if str(n) == text), 0)

    @property
    def school(self) -> str:
        school = self._settings.text("paper_school", "")
        return school if school in SCHOOLS else ""

    def set(self, name: str, value: object) -> None:
        """``size``, ``landscape``, ``scale``, ``columns``, ``bars`` or ``school``."""
        self._settings.set(f"paper_{name}", value if isinstance(value, bool) else str(value))
        self.changed.emit()

    def options(self, per_row: int) -> Options:
        """All of it; ``per_row`` bars are in a row of the sheet."""
        notes = tuple(kind for kind, _, _, _ in NOTES if self.layer(kind))
        layers: dict[str, Any] = {layer: self.layer(layer) for layer, _, _, _ in LAYERS}
        return Options(self.per_row or per_row, paper=self.paper, school=self.school, notes=notes, **layers)


assert min(s for s, _ in LARGENESS if s) >= SMALL and max(s for s, _ in LARGENESS) <= LARGE
