"""Start: the command line for its commands, else the window."""

from __future__ import annotations

import contextlib
import os
import signal
import sys
import warnings
from typing import NoReturn

COMMANDS = ("analyze", "align", "export")
STOPPED = 130
_terminal = [2]  # where our sentences go: 2 itself is taken from libraries later


def _stop_at_once(*_: object, written: bytes = b"nothing") -> NoReturn:
    """Ctrl+C while the program is still being loaded, which nothing could catch."""
    with contextlib.suppress(OSError):
        os.write(_terminal[0], b"ychronos: stopped; %s was written.\n" % written)
    os._exit(STOPPED)


def _only_our_words() -> None:
    """Keep what libraries print on the terminal by themselves to themselves; our sentences go where they went."""
    warnings.simplefilter("ignore")
    try:
        _terminal[0] = os.dup(2)
        ours = os.fdopen(_terminal[0], "w", encoding=sys.stderr.encoding, errors="replace", buffering=1)
        os.dup2(os.open(os.devnull, os.O_WRONLY), 2)
    except (OSError, AttributeError):
        return
    sys.stderr = ours


def _stand_somewhere(arguments: list[str]) -> str:
    """Libraries need a working folder; where it was deleted, stand in the root. In words why that will not do."""
    try:
        os.getcwd()  # noqa: PTH109 - it must fail where the folder is gone
        return ""
    except OSError:
        os.chdir("/")
    relative = [a for a in arguments[1:] if not a.startswith(("-", "/"))]
    return f"the folder you are in is not there any more, so “{relative[0]}” leads nowhere." if relative else ""


def main() -> int:
    """Entry point of ``ychronos``; returns the exit code."""
    try:
        code = _main()
    except KeyboardInterrupt:  # between our own handler and that of a command, or after it
        _stop_at_once(written=b"nothing more")
    # what was asked for is done: the interpreter's own end would let Ctrl+C kill the program, as if it had failed
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if code == STOPPED:
        # where Ctrl+C met code that was being made by exec(), as data classes are, the interpreter would end itself
        # with the signal even though it was caught
        for stream in (sys.stdout, sys.stderr):
            with contextlib.suppress(OSError, ValueError, AttributeError):
                stream.flush()
        os._exit(STOPPED)
    return code


def _main() -> int:
    signal.signal(signal.SIGINT, _stop_at_once)
    arguments = sys.argv[1:]
    lost = _stand_somewhere(arguments)
    if arguments and (arguments[0] in COMMANDS or arguments[0] in ("--help", "-h", "--version")):
        _only_our_words()
        from .cli import run

        if lost:
            print(f"ychronos: {lost}", file=sys.stderr)
            return 2
        signal.signal(signal.SIGTERM, lambda *_: sys.exit(128 + signal.SIGTERM))  # files half written go
        signal.signal(signal.SIGINT, signal.default_int_handler)
        return run(arguments)
    from .app import language

    language.choose()
    from .app.start import run as run_window

    return run_window(arguments)


if __name__ == "__main__":
    sys.exit(main())
