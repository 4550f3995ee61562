"""Time and memory of the whole analysis, against the yardstick in the same run.

    python bench/speed.py [--corpus build/corpus] [--tools bench/tools] [--hour]

One thread each. Both run twice over the same files; the second run counts, because the yardstick compiles in
the first. With --hour a made-up recording of one hour is analysed in a process of its own and its highest
memory is told.
"""

from __future__ import annotations

import argparse
import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

THREADS = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS")
for name in THREADS:
    os.environ[name] = "1"

import numpy as np
import soundfile

from ychronos.analysis import pipeline
from ychronos.audio import recording


def ours(files: list[Path]) -> tuple[float, float]:
    """(wall, CPU) seconds per minute of audio."""
    total, wall, cpu = 0.0, time.perf_counter(), time.process_time()
    for path in files:
        sound = recording.load(path, keep_samples=False)
        pipeline.analyse(sound, path.stem)
        total += sound.duration
    return (time.perf_counter() - wall) * 60 / total, (time.process_time() - cpu) * 60 / total


def yardstick(files: list[Path], tools: Path) -> tuple[float, float]:
    """The same for the librosa script."""
    sys.path.insert(0, str(tools))
    import yardstick as script

    out = (0.0, 0.0)
    for _ in range(2):
        total, wall, cpu = 0.0, time.perf_counter(), time.process_time()
        for path in files:
            duration, _ = script.analyse(str(path), ["majmin"])
            total += duration
        out = ((time.perf_counter() - wall) * 60 / total, (time.process_time() - cpu) * 60 / total)
    return out


def stages(path: Path) -> dict[str, float]:
    """CPU seconds of each stage on one file."""
    cost: dict[str, float] = {}
    last = ["Reading", time.process_time()]

    def progress(name: str, share: float) -> None:
        now = time.process_time()
        cost[last[0]] = cost.get(last[0], 0.0) + now - last[1]
        last[0], last[1] = name, now

    sound = recording.load(path, keep_samples=False)
    pipeline.analyse(sound, path.stem, progress)
    return cost


def hour_file(source: Path, target: Path) -> None:
    data, rate = soundfile.read(source, dtype="int16")
    with soundfile.SoundFile(target, "w", rate, data.shape[1]) as out:
        left = 3600 * rate
        while left > 0:
            out.write(data[:left])
            left -= len(data)


def one_hour(source: Path) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "hour.flac"
        hour_file(source, path)
        code = (
            "import resource,sys,time;from pathlib import Path;from ychronos.analysis import pipeline;"
            "from ychronos.audio import recording;t=time.time();r=recording.load(Path(sys.argv[1]));"
            "s,_=pipeline.analyse(r,'x');m=resource.getrusage(resource.RUSAGE_SELF).ru_maxrss/2**20;"
            "print(f'one hour: {time.time()-t:.0f} s, highest memory {m:.2f} GiB, {len(s.grid.bars)} bars')"
        )
        subprocess.run([sys.executable, "-c", code, str(path)], check=True)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--corpus", type=Path, default=Path("build/corpus"))
    parser.add_argument("--tools", type=Path, default=Path("bench/tools"))
    parser.add_argument("--hour", action="store_true")
    args = parser.parse_args()
    files = sorted(p for p in args.corpus.iterdir() if p.suffix in (".ogg", ".wav", ".flac"))
    if args.hour:
        one_hour(files[0])
        return 0
    ours(files[:2])
    wall, cpu = ours(files)
    print(f"ychronos:  per minute of audio: wall {wall:.2f} s, CPU {cpu:.2f} s")
    for name, seconds in stages(files[0]).items():
        print(f"    {name:<12} {seconds:.2f} s of CPU for {files[0].name}")
    their_wall, their_cpu = yardstick(files, args.tools)
    print(f"yardstick: per minute of audio: wall {their_wall:.2f} s, CPU {their_cpu:.2f} s")
    print(f"ratio of CPU time: {cpu / their_cpu:.2f}")
    print(f"highest memory of this process: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20:.2f} GiB")
    assert np.isfinite(cpu)
    return 0


if __name__ == "__main__":
    sys.exit(main())
