"""Measure the listening desk on the simulated device.

    python bench/desk.py [--minutes 30] [--song SONG.ogg]

Prints: cursor against heard sound at several speeds; pitch of a slowed tone; time from the call to the first
sample; CPU share while playing slowed; half an hour of random user actions by a manual clock (late blocks,
exceptions, memory); late blocks in real time while an analysis runs beside it.
"""

from __future__ import annotations

import argparse
import os
import resource
import threading
import time
from pathlib import Path

for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(name, "1")

import numpy as np

from ychronos.analysis import pipeline
from ychronos.audio import recording
from ychronos.audio.play.ear import MODES
from ychronos.audio.play.engine import Player
from ychronos.audio.play.outputs import LATENCY, SimulatedOutput
from ychronos.audio.synth.clicks import Clicks
from ychronos.paths import demo_folder

BLOCK = 512


def run(player: Player, frames: int) -> np.ndarray:
    out = np.zeros((frames, 2), np.float32)
    for start in range(0, frames, BLOCK):
        player.fill(out[start : start + BLOCK])
    return out


def cursor(rate: int, speed: float) -> float:
    """Largest distance in ms between where bursts are heard and where the cursor says they are."""
    samples = np.zeros((9 * rate, 2), np.float32)
    m = np.arange(400)
    burst = (np.exp(-m / 60) * np.sin(2 * np.pi * 1500 * m / rate)).astype(np.float32)
    for second in range(1, 9):
        samples[second * rate : second * rate + 400] += burst[:, None]
    player = Player(samples, rate)
    player.set_speed(speed)
    player.play(0.5)
    heard = np.abs(run(player, int(7.2 / speed * rate))[:, 0])
    smooth = np.convolve(heard, np.ones(60) / 60, "same")
    worst = 0.0
    for second in range(1, 8):
        want = (second - 0.5) / speed * rate
        piece = smooth[int(want - 0.2 * rate) : int(want + 0.2 * rate)]
        onset = int(want - 0.2 * rate) + int(np.flatnonzero(piece > 0.3 * piece.max())[0])
        worst = max(worst, abs(onset - want) / rate * speed * 1000)
    return worst


def pitch(rate: int, speed: float) -> float:
    """Cents by which a slowed tone is off."""
    t = np.arange(8 * rate) / rate
    player = Player(np.repeat((0.4 * np.sin(2 * np.pi * 220 * t))[:, None], 2, 1).astype(np.float32), rate)
    player.set_speed(speed)
    player.play(1.0)
    heard = run(player, 3 * rate)[rate:, 0]
    spectrum = np.abs(np.fft.rfft(heard * np.hanning(len(heard)), 1 << 20))
    return float(1200 * np.log2(np.fft.rfftfreq(1 << 20, 1 / rate)[spectrum.argmax()] / 220))


def endurance(player: Player, minutes: float) -> None:
    rng = np.random.default_rng(5)
    rate, length = player.rate, len(player.samples) / player.rate
    player.clicks = Clicks.at(list(np.arange(0, length, 0.5)), ["beat"] * int(np.ceil(length / 0.5)), rate)
    player.play(0.0)
    late, worst, made, memory = 0, 0.0, 0, []
    block = np.zeros((BLOCK, 2), np.float32)
    total = int(minutes * 60 * rate)
    acts = 0
    while made < total:
        if rng.random() < BLOCK / rate / 1.5:  # an action every second and a half
            acts += 1
            x = float(rng.random())
            kind = int(rng.integers(7))
            if kind == 0:
                player.set_speed(0.25 + 1.75 * x if rng.random() < 0.8 else 1.0)
            elif kind == 1:
                player.seek(x * length)
            elif kind == 2:
                player.set_loop((x * (length - 6), x * (length - 6) + 0.5 + 5 * x))
            elif kind == 3:
                player.set_loop(None)
            elif kind == 4:
                player.set_ear(list(MODES)[int(x * len(MODES))])
            elif kind == 5:
                player.set_speed(player.speed, round(2400 * x - 1200, 1))
            else:
                player.play(x * length)
        begin = time.perf_counter()
        player.fill(block)
        spent = time.perf_counter() - begin
        worst = max(worst, spent)
        late += spent > LATENCY  # a card that holds so much would have run dry
        made += BLOCK
        if not player.playing:
            player.play(0.0)
        if made % (rate * 60) < BLOCK:
            memory.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
    print(f"{minutes:.0f} minutes, {acts} random actions: {late} late blocks, longest block {1000 * worst:.1f} ms, "
          f"highest memory {memory[0]:.0f} MB after a minute, {memory[-1]:.0f} MB at the end")  # fmt: skip


def beside_an_analysis(song: Path, seconds: float = 40.0) -> None:
    sound = recording.load(song)
    assert sound.samples is not None
    player = Player(sound.samples, sound.rate)
    player.set_speed(0.7)
    player.set_loop((5.0, 12.0))
    player.play(5.0)
    output = SimulatedOutput()
    stop = threading.Event()

    def analyse() -> None:
        while not stop.is_set():
            pipeline.analyse(sound, "beside")

    worker = threading.Thread(target=analyse, daemon=True)
    output.start(sound.rate, player.fill)
    worker.start()
    time.sleep(seconds)
    output.stop()
    stop.set()
    worker.join(60)
    print(f"{seconds:.0f} s at 70 % beside an analysis: {output.underruns} times run dry")


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--minutes", type=float, default=30)
    parser.add_argument("--song", type=Path, default=demo_folder() / "the_ferry_keeps_its_lights_on.ogg")
    args = parser.parse_args()
    rate = 44100
    for speed in (0.5, 0.75, 1.0):
        print(f"speed {speed:.0%}: cursor within {cursor(rate, speed):.1f} ms, pitch {pitch(rate, speed):+.2f} cents")
    sound = recording.load(args.song)
    assert sound.samples is not None
    player = Player(sound.samples, sound.rate)
    for speed in (1.0, 0.5):
        player.set_speed(speed)
        begin = time.perf_counter()
        player.play(10.0)
        block = np.zeros((BLOCK, 2), np.float32)
        player.fill(block)
        ready = time.perf_counter() - begin
        player.stop()
        print(f"start at {speed:.0%}: first block ready after {1000 * ready:.1f} ms, "
              f"heard after {1000 * (ready + LATENCY):.0f} ms with the latency asked of the device")  # fmt: skip
    for speed, cents in ((1.0, 0.0), (0.7, 0.0), (0.5, 0.0), (1.0, -30.0)):
        player.set_speed(speed, cents)
        player.play(5.0)
        begin = time.process_time()
        run(player, 10 * sound.rate)
        player.stop()
        print(f"speed {speed:.0%}, {cents:+.0f} ¢: {(time.process_time() - begin) / 10:.1%} of a core")
    player.set_speed(1.0)
    beside_an_analysis(args.song)
    endurance(player, args.minutes)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
