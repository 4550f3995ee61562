"""Start: the command line for its commands, else the window."""

from __future__ import annotations

import sys

COMMANDS = ("analyze", "export")


def main() -> int:
    """Entry point of ``ychronos``; returns the exit code."""
    arguments = sys.argv[1:]
    if arguments and (arguments[0] in COMMANDS or arguments[0] in ("--help", "-h", "--version")):
        from .cli import run

        return run(arguments)
    from .app.start import run as run_window

    return run_window(arguments)


if __name__ == "__main__":
    sys.exit(main())
