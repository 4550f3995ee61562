"""Make the demo songs that ship with the program.

    python tools/make_demo.py --songmaker bench/tools [--only NAME]

Plays the specs in ``tools/demo_specs`` with the project's song maker (``make_song.py``, in the folder given)
and writes NAME.ogg with its exact truth NAME.jams to ``src/ychronos/demo``. Needs fluidsynth, ffmpeg and
Debian's fluid-soundfont-gm; the same spec gives the same song.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--songmaker", type=Path, required=True, help="folder that holds make_song.py")
    parser.add_argument("--only", default="*", help="name of one spec without its suffix")
    args = parser.parse_args()
    specs = sorted((ROOT / "tools" / "demo_specs").glob(f"{args.only}.json"))
    out = ROOT / "src" / "ychronos" / "demo"
    command = [sys.executable, str(args.songmaker / "make_song.py"), *map(str, specs), "--out", str(out)]
    return subprocess.run(command, check=False).returncode


if __name__ == "__main__":
    sys.exit(main())
