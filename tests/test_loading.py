"""Libraries that take long to load."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path


def test_what_filters_is_loaded_beside(tmp_path: Path) -> None:
    """A first choice of a mode that filters does not wait for its library."""
    script = (
        "import sys, time\n"
        "from ychronos.loading import FILTERS, is_loaded, load_soon\n"
        "assert 'scipy.signal' not in sys.modules and not is_loaded(FILTERS)\n"
        "told = []\n"
        "load_soon(FILTERS, 0.01, lambda: told.append(hasattr(sys.modules['scipy.signal'], 'sosfilt')))\n"
        "until = time.monotonic() + 60\n"
        "while not told and time.monotonic() < until:\n"
        "    time.sleep(0.01)\n"
        "assert is_loaded(FILTERS)\n"
        "load_soon(FILTERS, 3.0, lambda: told.append(True))\n"
        "raise SystemExit(told != [True, True])"
    )
    assert subprocess.run([sys.executable, "-c", script], cwd=tmp_path).returncode == 0


def test_products_of_matrices_take_one_thread_unless_somebody_says_otherwise() -> None:
    code = "import os, ychronos; print(os.environ['OPENBLAS_NUM_THREADS'])"
    plain = {k: v for k, v in os.environ.items() if k != "OPENBLAS_NUM_THREADS"}
    for said, expected in (({}, "1"), ({"OPENBLAS_NUM_THREADS": "3"}, "3")):
        done = subprocess.run(
            [sys.executable, "-c", code], env=plain | said, capture_output=True, text=True, timeout=60, check=True
        )
        assert done.stdout.strip() == expected
