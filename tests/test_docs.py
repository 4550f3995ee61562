"""The docs tell the house as it stands."""

from __future__ import annotations

import importlib
import re
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
PACKAGE = ROOT / "src" / "ychronos"
FOLDERS = {p.name for p in PACKAGE.iterdir() if p.is_dir()}


def test_every_module_that_the_architecture_names_is_there() -> None:
    text = (ROOT / "docs" / "architecture.md").read_text()
    named = {m for m in re.findall(r"`([a-z_]+(?:/[a-z_]+)+)(?:\.py|/)?`", text) if m.split("/")[0] in FOLDERS}
    assert len(named) > 25, "the architecture names its modules"
    for name in sorted(named):
        assert (PACKAGE / f"{name}.py").is_file() or (PACKAGE / name).is_dir(), f"docs/architecture.md names {name}"


def test_no_two_modules_bear_one_name_but_those_of_rooms_that_decide() -> None:
    names: dict[str, list[str]] = {}
    for path in PACKAGE.rglob("*.py"):
        if path.name != "__init__.py":
            names.setdefault(path.stem, []).append(str(path.relative_to(PACKAGE)))
    twice = {k: v for k, v in names.items() if len(v) > 1}
    # a room may have a module of the matter itself: what is said of it, what can be done with it, how it is decided
    rooms = ("deciding", "chords", "keys", "sections", "marks", "record", "count", "bars", "shapes", "jobs")
    assert set(twice) <= set(rooms), twice


def test_no_files_import_each_other_in_a_circle(tmp_path: Path) -> None:
    tool = ROOT / "tools" / "circles.py"
    assert subprocess.run([sys.executable, str(tool), str(PACKAGE)], check=False).returncode == 0
    house = tmp_path / "house"
    house.mkdir()
    (house / "__init__.py").write_text("")
    (house / "a.py").write_text("from . import b\n")
    (house / "b.py").write_text("from .a import x\n")
    found = subprocess.run([sys.executable, str(tool), str(house)], capture_output=True, text=True, check=False)
    assert found.returncode == 1 and "house.a, house.b" in found.stdout


@pytest.mark.parametrize("name", ["session", "session.session", "session.practice", "session.commands.chords", "cli"])
def test_the_session_needs_no_qt(name: str) -> None:
    code = f"import sys, ychronos.{name}; sys.exit(any(m.startswith(('PySide6', 'shiboken6')) for m in sys.modules))"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0
    assert importlib.import_module(f"ychronos.{name}").__doc__


def test_manual_page_and_completions_are_as_the_command_line_is() -> None:
    done = subprocess.run([sys.executable, "tools/shellparts.py", "--check"], cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout + done.stderr


def test_what_the_program_reads_from_its_folders_is_installed_with_it() -> None:
    patterns = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["setuptools"]["package-data"]["ychronos"]
    package = ROOT / "src" / "ychronos"
    missing = [
        str(path.relative_to(package))
        for path in package.rglob("*")
        if path.is_file()
        and path.suffix not in (".py", ".pyc")
        and not any(path.relative_to(package).match(p) for p in patterns)
    ]
    assert not missing
