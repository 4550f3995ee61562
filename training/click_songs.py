"""Features of recordings made to a click, with the count that their grid gives as truth: for ``train_pulse.py``.

    python training/click_songs.py RECORDINGS FEATURES

RECORDINGS is a folder of produced music. One is taken where the grid of its quickest pulse holds from end to end (``click``) and its count
stays on it; its ones are only learned from where they are plain. About half of all, by a checksum of the file's name, are left for reports.
Nothing of them is shipped.
"""

from __future__ import annotations

import sys
import zlib
from pathlib import Path

import numpy as np

from ychronos.analysis.beats import click, count, pulse
from ychronos.analysis.beats.bars import COMMON_METERS
from ychronos.analysis.beats.pulsenet import METERS
from ychronos.analysis.evidence import AnalysisError, Evidence, gather
from ychronos.audio import recording
from ychronos.audio.decode import AudioError

SURE = 0.9  # mean chance of the decided ones, from which on they are learned from
EDGE = 3.0  # seconds at both ends of which nothing is learned where nobody plays


def for_reports(name: str) -> bool:
    """Whether a recording is kept from training."""
    return zlib.crc32(name.encode()) % 2 == 0


def features(evidence: Evidence) -> dict[str, np.ndarray] | None:
    """Bands, notes and truth as ``features.py`` writes them; None for a recording that is not plainly made to a click."""
    bands = evidence.bands.astype(np.float32)
    loud = bands.sum(1)
    sounding = loud > 0.02 * np.percentile(loud, 90)
    tempi = [count.tempo_of(t.times) for t in pulse.tracks(evidence.pulse) if len(t.times) >= count.FEWEST]
    heard, rate = click.beats_of(evidence.pulse), evidence.pulse.rate
    points = click.grid(heard, rate, click.lines(heard, rate, tempi))
    if points is None:
        return None
    found = count.decide(evidence.pulse, evidence.changes, sounding)
    gaps = np.diff(found.times)
    if len(gaps) < 40 or np.abs(gaps / np.median(gaps) - 1).max() > 0.2:
        return None
    # the beats as the click has them, not as they are struck
    step = max(1, round(float(np.median(gaps)) / (points[1] - points[0])))
    first = int(np.abs(points - found.times[len(found.times) // 2]).argmin()) % step
    beats = points[first::step]
    at = np.clip(np.searchsorted(beats, found.times), 1, len(beats) - 1)
    nearest = at - (found.times - beats[at - 1] < beats[at] - found.times)
    position = np.zeros(len(beats), int)
    meter = np.full(len(beats), found.bars.meter[0])
    position[nearest], meter[nearest] = found.bars.position, found.bars.meter
    keep = slice(int(nearest[0]), int(nearest[-1]) + 1)
    ones = found.bars.position == 1
    sure = bool(found.bars.one[ones].mean() > SURE) and all(int(m) in COMMON_METERS for m in set(found.bars.meter))
    beats_of, compound, eighth = (np.array([METERS[m][i] for m in meter[keep]]) for i in range(3))
    return {
        "bands": evidence.bands, "notes": evidence.notes, "beat": beats[keep], "position": position[keep],
        "count": beats_of, "unit": np.where(compound | eighth, 8, 4), "sure": np.array(sure),
    }  # fmt: skip


def main() -> int:
    source, target = Path(sys.argv[1]), Path(sys.argv[2])
    target.mkdir(parents=True, exist_ok=True)
    for path in sorted(source.iterdir()):
        out = target / f"{path.stem}.npz"
        if out.exists() or for_reports(path.stem):
            continue
        try:
            made = features(gather(recording.load(path, keep_samples=False)))
        except (AnalysisError, AudioError) as error:
            print(f"{path.stem}: {error}", flush=True)
            continue
        print(
            f"{path.stem}: {'not to a click' if made is None else 'sure' if made['sure'] else 'beats only'}", flush=True
        )
        if made is not None:
            np.savez(out, **made)
    return 0


if __name__ == "__main__":
    sys.exit(main())
