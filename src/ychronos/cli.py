"""The command line: the same analysis and charts without a window."""

from __future__ import annotations

import contextlib
import datetime
import inspect
import logging
import math
import os
import re
import sys
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from . import __version__, logs
from .analysis.against.aligning import lay_against
from .analysis.evidence import AnalysisError, Evidence, cached
from .analysis.lines.leadline import LONGEST
from .audio.decode import AudioError, Cancelled
from .audio.play.ear import MODES
from .audio.recording import Recording
from .formats import agreementjson, atomic, jams, project, textchart
from .formats.agreementtext import agreement_text
from .formats.chartfiles import read_chart, text_of
from .formats.charttext import ChartError
from .formats.options import Options
from .formats.paper import MOST_COLUMNS, SIZES, Paper
from .formats.project.known import is_project
from .formats.registry import EXPORTERS, exporter, for_file
from .paths import cache_folder
from .session.jobs import AtOnce
from .session.lining import lay, work_of
from .session.opening import Analysis
from .session.session import Session
from .song.model import Song, logged
from .song.noted import KINDS, PRINTED
from .song.titles import title_of
from .theory.notation import SCHOOLS

OK, INNER, BAD_INPUT, BAD_OUTPUT, BAD_USE, INTERRUPTED = 0, 1, 3, 4, 2, 130
EPILOG = (
    "Exit codes: 0 done, 1 a fault of the program, 2 wrong use, 3 a recording or project that cannot be read, "
    "4 a file that cannot be written, 130 interrupted."
)

app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    rich_markup_mode=None,
    epilog=EPILOG,
    help=(
        "From a recording to a chord chart that matches it.\n\n"
        "Without a command, or with a recording or project, the window opens: ychronos SONG.ogg. "
        "ychronos --demo opens it on the demo songs."
    ),
)
_errors = Console(stderr=True, highlight=False, soft_wrap=True)


def _fail(message: str, code: int) -> typer.Exit:
    _told.append(code)
    _say(message)
    return typer.Exit(code)


_told: list[int] = []  # exit codes that were explained
_written: list[Path] = []  # files that are there, or that were being written


def _stopped() -> str:
    return f"stopped; {'nothing more' if _written else 'nothing'} was written."


def _say(message: str) -> None:
    """A sentence on the terminal, whatever characters it can show. Written past the progress bar's console: Ctrl+C may
    have come in the middle of its work, and what it is given then is not shown any more."""
    encoding = getattr(sys.stderr, "encoding", None) or "ascii"
    with contextlib.suppress(OSError, ValueError):
        sys.stderr.write(f"ychronos: {message}\n".encode(encoding, "replace").decode(encoding))
        sys.stderr.flush()


def _print(text: str, plainer: str) -> None:
    """Print a chart; where the terminal lacks its signs, in plain ones. Raises SaveError when it cannot be written."""
    encoding = getattr(sys.stdout, "encoding", None) or "ascii"
    try:
        text.encode(encoding)
    except UnicodeEncodeError:
        text = plainer.encode(encoding, "replace").decode(encoding)
    try:
        sys.stdout.write(text)
        sys.stdout.flush()
    except OSError as error:
        # what is still in the buffer must not be tried again when the interpreter ends
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.__stdout__.fileno() if sys.__stdout__ else 1)
        if not isinstance(error, BrokenPipeError):  # whoever reads has seen enough
            raise atomic.SaveError(f"the chart could not be printed: {error.strerror or error}.") from None


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"ychronos {__version__}")
        raise typer.Exit(OK)


@app.callback()
def _main(
    version: Annotated[
        bool, typer.Option("--version", callback=_version, is_eager=True, help="Say the version.")
    ] = False,
) -> None:
    pass


@app.command(epilog="Example: ychronos analyze tape14.ogg --jams tape14.jams --project tape14.ychronos. " + EPILOG)
def analyze(
    song: Annotated[
        Path, typer.Argument(metavar="SONG", readable=False, help="A recording: WAV, FLAC, Ogg, MP3, M4A, Opus, WebM …")
    ],
    jams_out: Annotated[
        Path | None, typer.Option("--jams", metavar="OUT", help="Write all that was found as JAMS (JSON).")
    ] = None,
    project_out: Annotated[
        Path | None, typer.Option("--project", metavar="OUT", help="Write a project to open in the window.")
    ] = None,
    title: Annotated[str, typer.Option(help="The song's title; from the file name if not given.")] = "",
    no_cache: Annotated[
        bool, typer.Option("--no-cache", help="Neither use nor keep evidence of earlier analyses.")
    ] = False,
    line: Annotated[
        list[str] | None,
        typer.Option(
            "--line",
            metavar="FROM-TO",
            help="Find the line that is played there, in seconds or as 1:02-1:15; may come again.",
        ),
    ] = None,
    hear: Annotated[str, typer.Option("--hear", help=f"What a line is looked for in: {', '.join(MODES)}.")] = "whole",
    quiet: Annotated[bool, typer.Option("--quiet", "-q", help="No progress bar, no summary.")] = False,
) -> None:
    """Find tempo, beats, bars, key, chords and sections of a recording.

    Prints a summary; with --jams and --project the result is written to files.
    """
    columns = (
        TextColumn("{task.description:<14}"),
        BarColumn(),
        TextColumn("{task.percentage:>3.0f} %"),
        TimeElapsedColumn(),
    )
    troubles: list[str] = []
    sounds: list[Recording] = []

    def part(what: object) -> None:
        if isinstance(what, str):
            troubles.append(what)
        elif isinstance(what, Recording):
            sounds.append(what)

    if hear not in MODES:
        raise _fail(f"--hear is one of {', '.join(MODES)}, not “{hear}”.", BAD_USE)
    stretches = [_stretch(text) for text in line or []]
    bar = Progress(*columns, console=_errors, disable=quiet, transient=True)
    try:
        with bar:
            task = bar.add_task("Reading", total=1.0)
            at_once = AtOnce(
                lambda stage, share: bar.update(task, description=stage, completed=share),
                part,
            )
            work = Analysis(
                song, title or title_of(song), None if no_cache else cache_folder(), keep_samples=bool(stretches)
            )
            session = Session(at_once)
            session.set_analysed(*work(at_once))
            for start, end in stretches:
                troubles += _find_line(session, sounds[0], start, end, hear, at_once)
    except (AudioError, AnalysisError) as error:
        raise _fail(str(error), BAD_INPUT) from None
    except (KeyboardInterrupt, Cancelled):
        raise _fail("stopped; nothing was written.", INTERRUPTED) from None
    assert session.song is not None
    found = logged(session.song, datetime.datetime.now().isoformat(timespec="seconds"), "analysed")
    try:
        if jams_out is not None:
            _written.append(jams_out)
            atomic.write(jams_out, jams.dumps(found))
        if project_out is not None:
            _written.append(project_out)
            project.save(found, project_out)
        if not quiet:
            _print(textchart.render(found, folded=False), textchart.render(found, ascii_only=True, folded=False))
    except atomic.SaveError as error:
        raise _fail(str(error), BAD_OUTPUT) from None
    for sentence in (*troubles, found.recording.note):
        if sentence:
            _say(sentence)


def _stretch(text: str) -> tuple[float, float]:
    """``12-28.5`` or ``0:12-0:28.5`` as seconds; without an end up to the record's."""

    def seconds(part: str) -> float:
        found = re.fullmatch(r"(?:(\d{1,4}):)?(\d{1,5}(?:\.\d{1,6})?)", part.strip(), re.ASCII)
        if found is None:
            raise _fail(f"--line is a stretch as 12-28.5 or 0:12-0:28.5, not “{text}”.", BAD_USE)
        return 60 * int(found[1] or 0) + float(found[2])

    begin, minus, until = text.partition("-")
    start, end = seconds(begin), seconds(until) if until.strip() else math.inf
    if not minus or end <= start:
        raise _fail(f"--line is a stretch as 12-28.5 or 0:12-0:28.5, not “{text}”.", BAD_USE)
    return start, end


def _find_line(session: Session, sound: Recording, start: float, end: float, hear: str, under: AtOnce) -> list[str]:
    """State the line of a stretch; a sentence where there is none."""
    song = session.song
    assert song is not None
    grid = song.grid
    start, end = max(start, grid.times[0]), min(end, grid.times[-1], sound.duration)
    if end - start < 0.1 or end - start > LONGEST:
        return [
            "no line was looked for where there is no music." if end - start < 0.1 else "that is too long for one line."
        ]
    found = work_of(sound, song, start, end, hear)(under)
    places = [min(grid.end, Fraction(max(0.0, grid.position(x))).limit_denominator(48)) for x in (start, end)]
    if found.notes and lay(session, places[0], places[1], found.notes):
        return []
    return [f"no line was heard from {start:.1f} s to {end:.1f} s."]


@app.command(epilog="Example: ychronos align tape14.ychronos chart.txt --json agreement.json. " + EPILOG)
def align(
    record: Annotated[
        Path,
        typer.Argument(metavar="PROJECT_OR_RECORDING", readable=False, help="A project, or a recording to analyse."),
    ],
    chart: Annotated[
        Path,
        typer.Argument(
            metavar="CHART",
            readable=False,
            help="A chart: text with bars, chords over words or in brackets; MusicXML, MIDI, JAMS, CSV.",
        ),
    ],
    json_out: Annotated[
        Path | None, typer.Option("--json", metavar="OUT", help="Write the agreement bar by bar.")
    ] = None,
    quiet: Annotated[bool, typer.Option("--quiet", "-q", help="No summary.")] = False,
) -> None:
    """Lay somebody else's chart against a record: which bar is played when, in which key, and how well it agrees."""
    try:
        handed = read_chart(text_of(chart))
        song, evidence = _song_and_sound(record)
    except (ChartError, AudioError, AnalysisError, project.ProjectError) as error:
        raise _fail(str(error), BAD_INPUT) from None
    except (KeyboardInterrupt, Cancelled):
        raise _fail("stopped; nothing was written.", INTERRUPTED) from None
    found = lay_against(song, evidence, handed)
    try:
        if json_out is not None:
            _written.append(json_out)
            atomic.write(json_out, agreementjson.dumps(song, handed, found))
        if not quiet:
            text = agreement_text(song, handed, found)
            _print(text, text)
    except atomic.SaveError as error:
        raise _fail(str(error), BAD_OUTPUT) from None


def _song_and_sound(path: Path) -> tuple[Song, Evidence | None]:
    """The song of a project with what was kept of its recording, or a recording analysed."""
    if is_project(path):
        song = project.load(path)
        return song, cached(cache_folder(), song.recording.sha256)
    found: tuple[Song, Evidence] = Analysis(path, title_of(path), cache_folder(), keep_samples=False)(AtOnce())
    return found


def _export(
    project_file: Path,
    bars: int,
    flat: bool,
    ascii_only: bool,
    no_shapes: bool,
    paper: str,
    landscape: bool,
    one_page: bool,
    columns: int,
    no_words: bool,
    no_times: bool,
    no_numbers: bool,
    no_strokes: bool,
    no_tabs: bool,
    no_gestures: bool,
    bass: bool,
    counts: bool,
    plain: bool,
    notes: str,
    school: str,
    to: list[Path] | None,
    **out: Path | None,
) -> None:
    """Write a project's chart to a file."""
    wanted = [(exporter(name), path) for name, path in out.items() if path is not None]
    for path in to or []:
        one = for_file(path)
        if one is None:
            known = ", ".join(e.suffix for e in EXPORTERS)
            raise _fail(f"“{path.name}” does not say how it is to be written: {known} are known.", BAD_USE)
        wanted.append((one, path))
    if not wanted:
        raise _fail(f"say what to write: --to FILE, {', '.join(f'--{e.id} OUT' for e in EXPORTERS)}.", BAD_USE)
    try:
        song = project.load(project_file)
    except project.ProjectError as error:
        raise _fail(str(error), BAD_INPUT) from None
    try:
        on = Paper({s.lower(): s for s in SIZES}.get(paper.lower(), paper), landscape, one_page, columns=columns)
        options = Options(
            per_row=bars, folded=not flat, ascii_only=ascii_only, shapes=not no_shapes, paper=on, words=not no_words,
            times=not no_times, numbers=not no_numbers, strokes=not no_strokes, tabs=not no_tabs, gestures=not no_gestures,
            bass=bass, counts=counts, plain=plain, notes=tuple(n for n in notes.replace(" ", "").split(",") if n), school=school,
        )  # fmt: skip
    except ValueError as error:
        raise _fail(f"{error}.", BAD_USE) from None
    try:
        for one, path in wanted:
            data = one.written(song, options)
            if one.text and str(path) == "-":
                _print(data.decode(), one.written(song, replace(options, ascii_only=True)).decode())
            else:
                _written.append(path)
                atomic.write(path, data)
    except atomic.SaveError as error:
        raise _fail(str(error), BAD_OUTPUT) from None


def _with_exporters() -> None:
    """Make the command of all registered exporters, an option each."""
    kinds: dict[str, object] = {
        "project_file": Annotated[
            Path, typer.Argument(metavar="PROJECT", readable=False, help="A project saved by Ychronos.")
        ],
        "bars": Annotated[int, typer.Option(min=1, max=12, help="Bars in a row.")],
        "flat": Annotated[bool, typer.Option("--flat", help="Every bar as it goes, nothing folded.")],
        "ascii_only": Annotated[bool, typer.Option("--ascii", help="Only the characters of every keyboard.")],
    }
    defaults: dict[str, object] = {"bars": 4, "flat": False, "ascii_only": False}
    kinds["no_shapes"] = Annotated[bool, typer.Option("--no-shapes", help="Leave the shapes in use out.")]
    defaults["no_shapes"] = False
    kinds["paper"] = Annotated[str, typer.Option("--paper", help=f"Of a PDF: {', '.join(SIZES)}.")]
    kinds["landscape"] = Annotated[bool, typer.Option("--landscape", help="A PDF lies on its side.")]
    kinds["one_page"] = Annotated[bool, typer.Option("--one-page", help="A PDF is as large as fits on one page.")]
    kinds["columns"] = Annotated[int, typer.Option("--columns", min=1, max=MOST_COLUMNS, help="Columns of a PDF.")]
    defaults |= {"columns": 1, "paper": "A4", "landscape": False, "one_page": False}
    for layer, what in (("words", "words of the song"), ("times", "times of the record"), ("numbers", "bar numbers"), ("strokes", "strokes"), ("tabs", "tablature"), ("gestures", "turnarounds, vamps, tags and how the record ends")):  # fmt: skip
        kinds[f"no_{layer}"] = Annotated[bool, typer.Option(f"--no-{layer}", help=f"Leave the {what} out.")]
        defaults[f"no_{layer}"] = False
    kinds["bass"] = Annotated[bool, typer.Option("--bass", help="The notes of the bass where it walks.")]
    defaults["bass"] = False
    kinds["counts"] = Annotated[bool, typer.Option("--counts", help="How many beats each chord lasts.")]
    defaults["counts"] = False
    kinds["plain"] = Annotated[bool, typer.Option("--plain", help="The way in words instead of sign and coda.")]
    defaults["plain"] = False
    kinds["notes"] = Annotated[
        str, typer.Option("--notes", help=f"Which notes, of {', '.join(KINDS)}; empty for none.")
    ]
    defaults["notes"] = ",".join(PRINTED)
    kinds["school"] = Annotated[str, typer.Option("--names", help=f"How chords are written: {', '.join(SCHOOLS)}; as in the project if not said.")]  # fmt: skip
    defaults["school"] = ""
    kinds["to"] = Annotated[
        list[Path] | None,
        typer.Option("--to", metavar="FILE", help="Write a file; its suffix says what. May come again."),
    ]
    defaults["to"] = None
    for e in EXPORTERS:
        tail = "; - prints it." if e.text else "."
        kinds[e.id] = Annotated[Path | None, typer.Option(f"--{e.id}", metavar="OUT", help=f"Write {e.what}{tail}")]
        defaults[e.id] = None
    parameters = [
        inspect.Parameter(
            n, inspect.Parameter.KEYWORD_ONLY, default=defaults.get(n, inspect.Parameter.empty), annotation=k
        )
        for n, k in kinds.items()
    ]
    _export.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    _export.__annotations__ = kinds
    app.command("export", epilog="Example: ychronos export tape14.ychronos --pdf tape14.pdf. " + EPILOG)(_export)


_with_exporters()


def run(arguments: list[str]) -> int:
    """Run a command; returns the exit code. Whatever goes wrong inside is one sentence, the log has the details."""
    try:
        logs.start("warning")
        code = _run(arguments)
        if code == INTERRUPTED and not _told:  # the library answered Ctrl+C by itself, without a word
            _say(_stopped())
        return code
    except KeyboardInterrupt:
        _say(_stopped())
        return INTERRUPTED
    except Exception as error:
        logging.getLogger("ychronos").exception("the command failed")
        where = f"; the details are in {logs.log_file()}" if logs.log_file().exists() else ""
        _say(f"something went wrong inside Ychronos ({type(error).__name__}); nothing more was written{where}.")
        return INNER


def _run(arguments: list[str]) -> int:
    try:
        code = app(arguments, standalone_mode=False)
    except typer.Exit as stop:
        return stop.exit_code
    except typer.Abort:  # what the library makes of Ctrl+C outside our own work
        return INTERRUPTED
    except Exception as error:  # click's own usage errors know how to show themselves
        show = getattr(error, "show", None)
        if show is None:
            raise
        show()
        return getattr(error, "exit_code", BAD_USE)
    return code if isinstance(code, int) else OK
