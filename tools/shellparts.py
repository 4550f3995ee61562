"""Write what a shell knows of the program, from the command line itself: the manual page and completions for bash, zsh and fish.

    python tools/shellparts.py [--check]

They lie in ``packaging/share``; with --check nothing is written, and the exit code says whether they are what they should be.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import typer.main

from ychronos import __version__, cli

SHARE = Path(__file__).resolve().parent.parent / "packaging" / "share"
WINDOW = (
    ("--demo", "Open the window on the demo songs."),
    ("--version", "Say the version."),
    ("--help", "Say how it is used."),
)


def commands() -> dict[str, Any]:
    group: Any = typer.main.get_command(cli.app)
    return dict(sorted(group.commands.items()))


def options(command: Any) -> list[tuple[str, str, str]]:
    """(option, metavar, help) of a command."""
    out = []
    for p in command.params:
        if p.param_type_name == "option":
            hint = "" if getattr(p, "is_flag", False) else (p.metavar or "VALUE")
            out.append((max(p.opts, key=len), hint, getattr(p, "help", "") or ""))
    return [*out, ("--help", "", "Say how it is used.")]


def arguments(command: Any) -> str:
    return " ".join(p.metavar or (p.name or "").upper() for p in command.params if p.param_type_name == "argument")


def _roff(text: str) -> str:
    text = text.replace("\\", "\\e").replace("-", "\\-").replace("‑", "\\-")
    return "\n".join("\\&" + line if line.startswith((".", "'")) else line for line in text.splitlines())


def manual() -> str:
    out = [f'.TH YCHRONOS 1 "" "Ychronos {__version__}" "User Commands"', ".SH NAME", "ychronos \\- from a recording to a chord chart that matches it",
           ".SH SYNOPSIS", ".B ychronos", "[\\fIRECORDING\\fR|\\fIPROJECT\\fR|\\fB\\-\\-demo\\fR]", ".br"]  # fmt: skip
    for name, command in commands().items():
        out += [f".B ychronos {name}", f"[options] {_roff(arguments(command))}", ".br"]
    out += [".SH DESCRIPTION", "Without a command, or with a recording or a project, the window opens.",
            "The commands do the same work without a window.", ".SH OPTIONS"]  # fmt: skip
    for option, text in WINDOW:
        out += [".TP", f"\\fB{_roff(option)}\\fR", _roff(text)]
    for name, command in commands().items():
        out += [f".SH {name.upper()}", _roff((command.help or "").strip())]
        for option, hint, text in options(command):
            out += [".TP", f"\\fB{_roff(option)}\\fR" + (f" \\fI{_roff(hint)}\\fR" if hint else ""), _roff(text)]
    out += [".SH EXIT STATUS", _roff(cli.EPILOG.removeprefix("Exit codes: ")), ".SH ENVIRONMENT"]
    for variable, text in (
        ("YCHRONOS_AUDIO", "simulated: play to a simulated sound card"),
        ("YCHRONOS_PRINTER", "simulated: print to a simulated printer, which keeps a PDF"),
        ("YCHRONOS_CACHE, YCHRONOS_STATE, YCHRONOS_SETTINGS", "Where evidence, unsaved work and the settings are kept instead of the usual places"),
    ):  # fmt: skip
        out += [".TP", variable, _roff(text)]
    return "\n".join(out) + "\n"


def bash() -> str:
    rows = []
    for name, c in commands().items():
        words = " ".join(o for o, _, _ in options(c))
        rows.append(f'        {name}) words="{words}" ;;')
    cases = "\n".join(rows)
    window = " ".join([*commands(), *(o for o, _ in WINDOW)])
    return f"""# bash completion for ychronos
_ychronos() {{
    local word=${{COMP_WORDS[COMP_CWORD]}} words
    case ${{COMP_WORDS[1]}} in
{cases}
        *) words="{window}" ;;
    esac
    if [[ $word == -* || $COMP_CWORD -eq 1 ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$words" -- "$word")
    fi
    compopt -o default
}}
complete -F _ychronos ychronos
"""


def _plain(text: str) -> str:
    return text.replace("'", "’").replace("[", "(").replace("]", ")").replace(":", " –")


def _spec(option: str, text: str, value: bool = False) -> str:
    return f"'{option}[{_plain(text)}]{':value:_files' if value else ''}'"


def _first(command: Any) -> str:
    return _plain((command.help or "").strip().splitlines()[0])


def zsh() -> str:
    rows = []
    for name, c in commands().items():
        specs = " ".join(_spec(o, t, bool(m)) for o, m, t in options(c))
        rows.append(f"        {name}) _arguments {specs} '*:file:_files' ;;")
    names = " ".join(f"'{name}:{_first(c)}'" for name, c in commands().items())
    window = " ".join(_spec(o, t) for o, t in WINDOW)
    cases = "\n".join(rows)
    return f"""#compdef ychronos
_ychronos() {{
    local -a commands
    commands=({names})
    if (( CURRENT == 2 )); then
        _describe command commands
        _arguments {window} '*:file:_files'
        return
    fi
    case $words[2] in
{cases}
        *) _files ;;
    esac
}}
_ychronos "$@"
"""


def fish() -> str:
    seen = "not __fish_seen_subcommand_from " + " ".join(commands())
    out = ["# fish completion for ychronos"]
    out += [f"complete -c ychronos -n '{seen}' -a {name} -d '{_first(c)}'" for name, c in commands().items()]
    out += [f"complete -c ychronos -n '{seen}' -l {o.removeprefix('--')} -d '{_plain(t)}'" for o, t in WINDOW]
    for name, c in commands().items():
        for o, m, t in options(c):
            needs, inside = " -r" if m else "", f"__fish_seen_subcommand_from {name}"
            out.append(f"complete -c ychronos -n '{inside}' -l {o.removeprefix('--')}{needs} -d '{_plain(t)}'")
    return "\n".join(out) + "\n"


FILES = {"ychronos.1": manual, "ychronos.bash": bash, "_ychronos": zsh, "ychronos.fish": fish}


def main() -> int:
    wrong = []
    for name, make in FILES.items():
        path, text = SHARE / name, make()
        if "--check" in sys.argv[1:]:
            wrong += [name] if not path.exists() or path.read_text() != text else []
        else:
            path.write_text(text)
    if wrong:
        print(f"not as the command line is: {', '.join(wrong)}; run tools/shellparts.py")
    return bool(wrong)


if __name__ == "__main__":
    sys.exit(main())
