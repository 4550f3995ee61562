"""Features and targets of training songs, as the application computes them.

    python training/features.py DATA FEATURES

Reads the songs of ``make_songs.py``, writes NAME.npz with float16 bands and pitch spectra at the true
tuning, and the truth as plain arrays. Only songs not yet done are computed.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np

from ychronos.analysis import spectra
from ychronos.analysis.chords import notes
from ychronos.theory.chord import ChordError, parse_harte


def rows(jams: dict, namespace: str) -> list[dict]:
    return next(a["data"] for a in jams["annotations"] if a["namespace"] == namespace)


def song_features(mono: np.ndarray, jams: dict) -> dict[str, np.ndarray]:
    cents = float(jams["sandbox"]["tuning_cents"])
    pitch = spectra.pitch(mono, cents)
    beats = rows(jams, "beat_position")
    chords = rows(jams, "chord_harte")
    return {
        "bands": spectra.bands(mono).astype(np.float16),
        "pitch": pitch.astype(np.float16),
        "notes": notes.activations(pitch).astype(np.float16),
        "beat": np.array([r["time"] for r in beats]),
        "position": np.array([r["value"]["position"] for r in beats]),
        "count": np.array([r["value"]["num_beats"] for r in beats]),
        "unit": np.array([r["value"]["beat_units"] for r in beats]),
        "measure": np.array([r["value"]["measure"] for r in beats]),
        "chord_time": np.array([[r["time"], r["time"] + r["duration"]] for r in chords]),
        "chord": np.array([r["value"] for r in chords]),
    }


def main() -> int:
    source, target = Path(sys.argv[1]), Path(sys.argv[2])
    target.mkdir(parents=True, exist_ok=True)
    for path in sorted(source.glob("*.npz")):
        out = target / path.name
        if out.exists():
            continue
        try:
            data = np.load(path)
            mono, jams = data["mono"].astype(np.float32) / 32767, json.loads(str(data["truth"]))
        except (EOFError, ValueError, OSError):
            continue  # still being written
        for row in rows(jams, "chord_harte"):
            try:
                parse_harte(row["value"])
            except ChordError as error:
                print(path.name, error)
        np.savez(out, **song_features(mono, jams))
    print(len(list(target.glob("*.npz"))), "songs")
    return 0


if __name__ == "__main__":
    sys.exit(main())
