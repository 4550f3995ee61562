"""Libraries that take long to load."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path


def test_what_filters_is_loaded_beside(tmp_path: Path) -> None:
    """A first choice of a mode that filters does not wait for its library."""
    script = (
        "import sys, time\n"
        "from ychronos.loading import FILTERS, load_soon\n"
        "assert 'scipy.signal' not in sys.modules\n"
        "load_soon(FILTERS, 0.01)\n"
        "until = time.monotonic() + 60\n"
        "while not hasattr(sys.modules.get('scipy.signal'), 'sosfilt') and time.monotonic() < until:\n"
        "    time.sleep(0.01)\n"
        "raise SystemExit('scipy.signal' not in sys.modules)"
    )
    assert subprocess.run([sys.executable, "-c", script], cwd=tmp_path).returncode == 0
