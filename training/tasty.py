"""Songs of the song maker with more of what is rare in them: chords over another bass, and colours.

Its own guitarists play nine plain chords in ten. A net that has heard few others takes a chord over its seventh for the
relative chord; here the shares are drawn song by song, so that some songs have hardly any and some hardly anything else.
"""

from __future__ import annotations

from songmaker import randomsong

COLOURS = {
    "maj": ["maj7", "maj(9)", "maj(9)", "maj6", "sus2", "sus4", "sus4", "7", "maj9", "maj6(9)", "5"],
    "min": ["min7", "min7", "min(9)", "min(9)", "min9", "min6", "min11", "sus4", "5"],
    "7": ["7", "9", "9", "7(b9)", "13", "sus4(b7)", "sus4(b7)", "aug(b7)"],
    "dim": ["dim", "dim7", "hdim7"],
}
BASSES = {
    "maj": ["3", "3", "5", "2", "7", "b7"],
    "min": ["b3", "b3", "5", "b7", "b7", "4"],
    "7": ["3", "5", "b7", "b7"],
    "maj7": ["3", "5", "7"],
    "min7": ["b3", "5", "b7"],
    "maj6": ["3", "5"],
    "maj(9)": ["3", "5", "9"],
    "min(9)": ["b3", "5"],
    "sus4": ["4", "5"],
    "hdim7": ["b3", "b5", "b7"],
    "9": ["3", "5", "b7"],
}


class Tasty(randomsong.Composer):
    def __init__(self, seed: int) -> None:
        super().__init__(seed)
        self.inverted, self.coloured = self.rng.uniform(0, 0.5, 2)

    def chord(self, group: str) -> str:
        """As the song maker draws one, then another colour and another bass."""
        label = super().chord(group).split("/")[0]
        root, quality = label.split(":")
        if quality in COLOURS and self.chance(self.coloured):
            quality = self.pick(COLOURS[quality])
        label = f"{root}:{quality}"
        if quality in BASSES and self.chance(self.inverted):
            label += "/" + self.pick(BASSES[quality])
        return label
