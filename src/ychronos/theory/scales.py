"""Scales by name, and which of them fit over chords and the notes of a line.

A scale fits a chord when it has all of its notes; over several chords it fits as far as they last. Conventions: pitch classes as numbers
of semitones above C.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..tongue import mark
from .chord import Chord
from .key import SCALES as OF_KEYS
from .key import Key

SCALES: dict[str, tuple[int, ...]] = {
    "major": OF_KEYS["major"],
    "natural minor": OF_KEYS["minor"],
    "dorian": OF_KEYS["dorian"],
    "mixolydian": OF_KEYS["mixolydian"],
    "lydian": OF_KEYS["lydian"],
    "phrygian": OF_KEYS["phrygian"],
    "locrian": (0, 1, 3, 5, 6, 8, 10),
    "major pentatonic": (0, 2, 4, 7, 9),
    "minor pentatonic": (0, 3, 5, 7, 10),
    "blues": (0, 3, 5, 6, 7, 10),
    "harmonic minor": OF_KEYS["harmonic minor"],
    "melodic minor": OF_KEYS["melodic minor"],
    "phrygian dominant": (0, 1, 4, 5, 7, 8, 10),
    "lydian dominant": (0, 2, 4, 6, 7, 9, 10),
    "altered": (0, 1, 3, 4, 6, 8, 10),
    "whole tone": (0, 2, 4, 6, 8, 10),
    "diminished": (0, 2, 3, 5, 6, 8, 9, 11),
}
mark("natural minor"), mark("locrian"), mark("major pentatonic"), mark("minor pentatonic"), mark("phrygian dominant")
mark("lydian dominant"), mark("altered"), mark("whole tone"), mark("diminished")
RARE = {"locrian": 0.15, "phrygian": 0.1, "phrygian dominant": 0.12, "lydian dominant": 0.1, "altered": 0.2, "whole tone": 0.2,
        "diminished": 0.2, "melodic minor": 0.1, "harmonic minor": 0.06, "blues": 0.02}  # fmt: skip
HOME = 0.15  # what a scale gains by beginning on the key's home note
UNDER_LINE, TIGHT = 0.4, 0.6  # what chords count for where there is a line, and that a line uses all of a scale
INSIDE = 0.3  # by having no notes but the key's


@dataclass(frozen=True)
class Fitting:
    """A scale on a root: the share of the line's notes that it has, and the share of the time over whose chords it fits."""

    root: int
    name: str
    notes: float
    chords: float
    merit: float

    @property
    def classes(self) -> frozenset[int]:
        return frozenset((self.root + s) % 12 for s in SCALES[self.name])


def fitting(
    line: Mapping[int, float], chords: Sequence[tuple[Chord, float]], key: Key, count: int = 8
) -> list[Fitting]:
    """Scales, the best first: ``line`` is how long each pitch class sounds in a line (empty for none), ``chords`` what sounds
    under it and how long."""
    whole = sum(line.values())
    played = [(c, w) for c, w in chords if not c.is_none and w > 0]
    under = sum(w for _, w in played)
    home = {
        (key.tonic + s) % 12
        for s in SCALES[{"minor": "natural minor", "aeolian": "natural minor"}.get(key.mode, key.mode)]
    }
    out = []
    for root in range(12):
        for name, steps in SCALES.items():
            classes = {(root + s) % 12 for s in steps}
            has = sum(w for n, w in line.items() if n % 12 in classes) / whole if whole else 1.0
            over = sum(w for c, w in played if _fits(c, classes, len(steps))) / under if under else 1.0
            merit = 2 * has + (UNDER_LINE if whole else 1.0) * over - RARE.get(name, 0.0) - 0.01 * len(steps)
            merit += HOME * (root == key.tonic % 12) + HOME / 2 * bool(played and root == played[0][0].root)
            merit += TIGHT * sum(n % 12 in classes for n in {n % 12 for n in line}) / len(classes)
            merit += INSIDE * len(classes & home) / len(classes) - 0.5 * (over == 0)
            out.append(Fitting(root, name, has, over, merit))
    out.sort(key=lambda f: (-f.merit, f.root, f.name))
    best: list[Fitting] = []
    seen: set[tuple[int, frozenset[int]]] = set()
    for f in out:
        if (f.root, f.classes) not in seen and (f.notes >= 0.8 or not whole):
            seen.add((f.root, f.classes))
            best.append(f)
    return best[:count]


def _fits(chord: Chord, classes: set[int], size: int) -> bool:
    """Whether a scale goes over a chord: it has all its notes; one of five or six notes need not have its fifth, nor all colours."""
    inside = set(chord.pitch_classes)
    if size >= 7:
        return inside <= classes
    core = {chord.root} if chord.root is not None else set()
    return core <= classes and len(inside & classes) >= len(inside) - 1
