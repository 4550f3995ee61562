"""How far the basses of a chart can be told from the notes that are played under it: what can be heard at best.

    python bench/played_basses.py --seed 8600 --count 28

For songs of ``other_arranger`` the notes are known. Prints for how much of each song the chart's bass is the lowest note with which
a chord begins, the one that is the lowest for longest, or either, and the same of slash chords alone; means over songs last.
"""

from __future__ import annotations

import argparse
import tempfile
from pathlib import Path

import mido
import numpy as np
from other_arranger import TEMPI, compose, midi_of, truth

from ychronos.theory.chord import parse_harte

DRUMS = 9  # channel
AROUND = (-0.08, 0.2)  # seconds about a change in which a chord's first notes begin
RATE = 100  # looks a second
SHORTEST = 0.08  # seconds for which a note is at least heard


def notes_of(song: dict) -> np.ndarray:
    """(n, 3) start and end in seconds and pitch of all notes but the drums'."""
    with tempfile.TemporaryDirectory() as folder:
        found, sounding, now = [], {}, 0.0
        for message in mido.MidiFile(midi_of(song, Path(folder))):
            now += message.time
            if message.type not in ("note_on", "note_off") or message.channel == DRUMS:
                continue
            key = message.channel, message.note
            if message.type == "note_on" and message.velocity:
                sounding.setdefault(key, []).append(now)
            elif sounding.get(key):
                found.append((sounding[key].pop(0), now, message.note))
    return np.array(found)


def shares(song: dict) -> np.ndarray:
    """(2, 4) seconds of all chords and of slash chords: in all, with the right bass by the first note, the longest, either."""
    notes = notes_of(song)
    low = np.full(int(notes[:, 1].max() * RATE) + 10, 127)
    for start, end, pitch in notes[np.argsort(-notes[:, 2])]:
        low[int(start * RATE) : int(max(end, start + SHORTEST) * RATE)] = pitch
    out = np.zeros((2, 4))
    rows = next(a for a in truth(song, 0.0, notes[:, 1].max())["annotations"] if a["namespace"] == "chord_harte")
    for row in rows["data"]:
        chord, start, long = parse_harte(row["value"]), row["time"], row["duration"]
        if chord.root is None:
            continue
        inside = low[int(start * RATE) : int((start + long) * RATE)]
        inside = inside[inside < 127] % 12
        begun = notes[(notes[:, 0] >= start + AROUND[0]) & (notes[:, 0] < start + AROUND[1]), 2]
        first = len(begun) > 0 and int(begun.min()) % 12 == chord.sounding_bass
        longest = len(inside) > 0 and np.bincount(inside, minlength=12).argmax() == chord.sounding_bass
        told = long * np.array([1, first, longest, first or longest])
        out += np.outer([1, chord.bass is not None], told)
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, required=True)
    parser.add_argument("--count", type=int, default=28)
    args = parser.parse_args()
    every: list[np.ndarray] = []
    for seed in range(args.seed, args.seed + args.count):
        song = compose(seed, sorted(TEMPI))
        found = shares(song)
        part = np.divide(found[:, 1:], found[:, :1], out=np.full((2, 3), np.nan), where=found[:, :1] > 0.5)
        every.append(part)
        print(
            f"{seed} {song['style']:14s} first, longest, either {part[0].round(2)}  slash {part[1].round(2)}",
            flush=True,
        )
    mean = np.nanmean(every, axis=0)
    print(f"MEAN  first, longest, either {mean[0].round(3)}  slash {mean[1].round(3)}")


if __name__ == "__main__":
    main()
