"""Fail on files of the package that import each other in a circle, also where only type checkers import.

python tools/circles.py [src/ychronos]
"""

from __future__ import annotations

import ast
import sys
from pathlib import Path


def imports(path: Path, root: Path, names: dict[str, Path]) -> set[str]:
    """The package's modules that a file imports."""
    own = module(path, root).split(".")
    package = own if path.name == "__init__.py" else own[:-1]
    out: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom):
            base = package[: len(package) - node.level + 1] if node.level else []
            start = ".".join([*base, *(node.module or "").split(".")] if node.module else base)
            for alias in node.names:
                whole = f"{start}.{alias.name}"
                out.add(whole if whole in names else start)
        elif isinstance(node, ast.Import):
            out |= {alias.name for alias in node.names}
    return {n for n in out if n in names}


def module(path: Path, root: Path) -> str:
    parts = list(path.relative_to(root.parent).with_suffix("").parts)
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def circles(root: Path) -> list[list[str]]:
    """Groups of more than one file that reach each other (Tarjan's strongly connected components)."""
    names = {module(p, root): p for p in sorted(root.rglob("*.py"))}
    edges = {n: imports(p, root, names) - {n} for n, p in names.items()}
    index: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found: list[list[str]] = []

    def visit(node: str) -> None:
        index[node] = low[node] = len(index)
        stack.append(node)
        for other in edges[node]:
            if other not in index:
                visit(other)
                low[node] = min(low[node], low[other])
            elif other in stack:
                low[node] = min(low[node], index[other])
        if low[node] == index[node]:
            group = []
            while True:
                group.append(stack.pop())
                if group[-1] == node:
                    break
            if len(group) > 1:
                found.append(sorted(group))

    for name in names:
        if name not in index:
            visit(name)
    return found


def main() -> int:
    found = circles(Path(sys.argv[1] if len(sys.argv) > 1 else "src/ychronos"))
    for group in found:
        print("These import each other in a circle: " + ", ".join(group))
    return bool(found)


if __name__ == "__main__":
    sys.exit(main())
