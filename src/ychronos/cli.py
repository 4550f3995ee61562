"""The command line: the same analysis and charts without a window."""

from __future__ import annotations

import datetime
import inspect
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from . import __version__
from .analysis.evidence import AnalysisError
from .audio.decode import AudioError, Cancelled
from .formats import atomic, jams, project, textchart
from .formats.registry import EXPORTERS, Options, exporter
from .paths import cache_folder
from .session.jobs import AtOnce
from .session.opening import analysis_of
from .session.session import Session
from .song.model import logged
from .song.titles import title_of

OK, BAD_INPUT, BAD_OUTPUT, BAD_USE, INTERRUPTED = 0, 3, 4, 2, 130
EPILOG = (
    "Exit codes: 0 done, 2 wrong use, 3 a recording or project that cannot be read, "
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
    _errors.print(f"ychronos: {message}", markup=False)
    return typer.Exit(code)


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
    song: Annotated[Path, typer.Argument(metavar="SONG", help="A recording: WAV, FLAC, Ogg, MP3, M4A, Opus, WebM …")],
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
    bar = Progress(*columns, console=_errors, disable=quiet, transient=True)
    try:
        with bar:
            task = bar.add_task("Reading", total=1.0)
            at_once = AtOnce(lambda stage, share: bar.update(task, description=stage, completed=share))
            work = analysis_of(song, title or title_of(song), None if no_cache else cache_folder(), keep_samples=False)
            session = Session(at_once)
            session.set_analysed(*work(at_once))
    except (AudioError, AnalysisError) as error:
        raise _fail(str(error), BAD_INPUT) from None
    except (KeyboardInterrupt, Cancelled):
        raise _fail("stopped; nothing was written.", INTERRUPTED) from None
    assert session.song is not None
    found = logged(session.song, datetime.datetime.now().isoformat(timespec="seconds"), "analysed")
    try:
        if jams_out is not None:
            atomic.write(jams_out, jams.dumps(found))
        if project_out is not None:
            project.save(found, project_out)
    except atomic.SaveError as error:
        raise _fail(str(error), BAD_OUTPUT) from None
    if found.recording.note:
        _errors.print(f"ychronos: {found.recording.note}", markup=False)
    if not quiet:
        typer.echo(textchart.render(found, folded=False), nl=False)


def _export(project_file: Path, bars: int, flat: bool, ascii_only: bool, **out: Path | None) -> None:
    """Write a project's chart to a file."""
    wanted = {name: path for name, path in out.items() if path is not None}
    if not wanted:
        raise _fail(f"say what to write: {', '.join(f'--{e.id} OUT' for e in EXPORTERS)}.", BAD_USE)
    try:
        song = project.load(project_file)
    except project.ProjectError as error:
        raise _fail(str(error), BAD_INPUT) from None
    options = Options(bars, not flat, ascii_only)
    try:
        for name, path in wanted.items():
            one = exporter(name)
            data = one.render(song, options)
            if one.text and str(path) == "-":
                typer.echo(data.decode(), nl=False)
            else:
                atomic.write(path, data)
    except atomic.SaveError as error:
        raise _fail(str(error), BAD_OUTPUT) from None


def _with_exporters() -> None:
    """Make the command of all registered exporters, an option each."""
    kinds: dict[str, object] = {
        "project_file": Annotated[Path, typer.Argument(metavar="PROJECT", help="A project saved by Ychronos.")],
        "bars": Annotated[int, typer.Option(min=1, max=12, help="Bars in a row.")],
        "flat": Annotated[bool, typer.Option("--flat", help="Every bar as it goes, nothing folded.")],
        "ascii_only": Annotated[bool, typer.Option("--ascii", help="Only the characters of every keyboard.")],
    }
    defaults: dict[str, object] = {"bars": 4, "flat": False, "ascii_only": False}
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
    """Run a command; returns the exit code."""
    try:
        code = app(arguments, standalone_mode=False)
    except typer.Exit as stop:
        return stop.exit_code
    except typer.Abort:
        return INTERRUPTED
    except Exception as error:  # click's own usage errors know how to show themselves
        show = getattr(error, "show", None)
        if show is None:
            raise
        show()
        return getattr(error, "exit_code", BAD_USE)
    return code if isinstance(code, int) else OK
