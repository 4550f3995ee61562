"""How fast the window is: opening a saved project until it is drawn, and scrolling.

    QT_QPA_PLATFORM=offscreen python bench/window.py

Makes a four-minute song from a demo recording (its sound repeated), saves it as a project, opens it in the
real window and scrolls through it; each frame is painted and timed.
"""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["YCHRONOS_AUDIO"] = "simulated"
os.environ["YCHRONOS_TOUR"] = "off"
_FOLDER = tempfile.TemporaryDirectory(prefix="ychronos-bench-")
for _name in ("CACHE", "STATE"):
    os.environ[f"YCHRONOS_{_name}"] = str(Path(_FOLDER.name) / _name.lower())
os.environ["YCHRONOS_SETTINGS"] = str(Path(_FOLDER.name) / "settings.ini")

import numpy as np
import soundfile

from ychronos.analysis import pipeline
from ychronos.app.start import make_app
from ychronos.app.welcome.welcome import demo_songs
from ychronos.app.window import Window
from ychronos.audio import recording
from ychronos.formats import project
from ychronos.paths import cache_folder


def main() -> None:
    folder = Path(_FOLDER.name)
    data, rate = soundfile.read(demo_songs()[0])
    sound = folder / "long.flac"
    soundfile.write(sound, np.tile(data, (3, 1))[: 240 * rate], rate)
    song, _ = pipeline.analyse(recording.load(sound, keep_samples=False), "Long", cache=cache_folder())
    saved = folder / "long.ychronos"
    project.save(song, saved)
    app = make_app([])
    window = Window()
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    times = []
    for _ in range(5):
        begin = time.perf_counter()
        window.open_path(saved)
        window.sheet.viewport().repaint()
        app.processEvents()
        times.append((time.perf_counter() - begin) * 1000)
        while window.job is not None:
            app.processEvents()
        full = (time.perf_counter() - begin) * 1000
    print(
        f"open a 4-minute project ({len(song.grid.bars)} bars) until drawn: median {np.median(times):.0f} ms; with its sound {full:.0f} ms"
    )
    bar = window.sheet.verticalScrollBar()
    frames = []
    for value in range(0, bar.maximum(), 12):
        begin = time.perf_counter()
        bar.setValue(value)
        window.sheet.viewport().repaint()
        frames.append((time.perf_counter() - begin) * 1000)
    print(
        f"scrolling: {len(frames)} frames, median {np.median(frames):.1f} ms, 95th percentile {np.percentile(frames, 95):.1f} ms, worst {max(frames):.1f} ms"
    )
    begin = time.perf_counter()
    for i in range(100):
        window.sheet.set_clock(60 + i * 0.1, follow=True)
        window.sheet.viewport().repaint()
    print(f"cursor frames: mean {(time.perf_counter() - begin) * 10:.1f} ms")
    window.close()


if __name__ == "__main__":
    main()
