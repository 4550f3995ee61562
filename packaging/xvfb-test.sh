#!/usr/bin/env bash
# One test run in a real X server: the window as the xcb platform shows it.
set -eu
python="$1"
export QT_QPA_PLATFORM=xcb YCHRONOS_AUDIO=manual
exec xvfb-run --auto-servernum --server-args="-screen 0 1280x800x24" "$python" -m pytest tests/app/test_real_screen.py -m screen
