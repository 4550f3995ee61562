"""Catalogues of languages: what is said in the sources is brought into each ``languages/de.po``, which people edit, and what
they say there into the ``ychronos.mo`` that the program reads.

    python tools/languages.py           take up what is new, leave out what is gone, compile
    python tools/languages.py --check   say what is missing or does not fit, and fail if anything is
    python tools/languages.py --new fr  begin another language (then name it in tongue.LANGUAGES)
"""

from __future__ import annotations

import argparse
import ast
import io
import string
import sys
from collections.abc import Iterator
from pathlib import Path

from babel.messages.catalog import Catalog, Message
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

SOURCES = Path(__file__).parent.parent / "src" / "ychronos"
FOLDER = SOURCES.parent.parent / "languages"
COMPILED = SOURCES / "languages"
KEYWORDS = {"tr": (0,), "mark": (0,), "trn": (0, 1), "plural": (1, 2)}  # which arguments are said


def said_in(path: Path) -> Iterator[str | tuple[str, ...]]:
    """Texts given to the functions of KEYWORDS in a source file; pairs of one and several."""
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in KEYWORDS:
            texts = tuple(node.args[k] for k in KEYWORDS[node.func.id] if k < len(node.args))
            said = tuple(x.value for x in texts if isinstance(x, ast.Constant) and isinstance(x.value, str))
            if said and len(said) == len(texts):
                yield said if len(said) > 1 else said[0]


def template() -> Catalog:
    """All that the sources say."""
    catalog = Catalog(project="Ychronos", charset="utf-8", fuzzy=False)
    for path in sorted(SOURCES.rglob("*.py")):
        for text in said_in(path):
            catalog.add(text, locations=[(str(path.relative_to(SOURCES)), 0)])
    return catalog


def place(language: str) -> Path:
    """What people edit."""
    return FOLDER / f"{language}.po"


def made(language: str) -> Path:
    """What the program reads."""
    return COMPILED / language / "LC_MESSAGES" / "ychronos.mo"


def read(path: Path, language: str) -> Catalog:
    return read_po(io.BytesIO(path.read_bytes()), locale=language)


def brought_up(catalog: Catalog, found: Catalog) -> Catalog:
    """A catalogue with what is new and without what is gone."""
    catalog.update(found, no_fuzzy_matching=True, update_header_comment=False)
    catalog.obsolete.clear()
    return catalog


def compiled(catalog: Catalog) -> bytes:
    out = io.BytesIO()
    write_mo(out, catalog)
    return out.getvalue()


def names_in(text: str) -> set[str]:
    """The places of a sentence at which values are put in, with how they are written."""
    try:
        return {
            f"{name}!{turned}:{spec}" for _, name, spec, turned in string.Formatter().parse(text) if name is not None
        }
    except ValueError:
        return {"?"}


def wrong(message: Message) -> str:
    """What does not fit about a translation; "" where all does."""
    ids = message.id if isinstance(message.id, tuple) else (message.id,)
    said = message.string if isinstance(message.string, tuple) else (message.string,)
    if not all(said):
        return "not translated"
    wanted = set.union(*(names_in(i) for i in ids))
    for text in said:
        if not names_in(text) <= wanted or (len(said) == 1 and names_in(text) != wanted):
            return f"other places for values: {text}"
        for edge in (0, -1):
            if (ids[0][edge] in " \n") != (text[edge] in " \n"):
                return f"spaces at the ends differ: {text!r}"
    return ""


def faults(language: str) -> list[str]:
    """What is missing or does not fit in a language."""
    path = place(language)
    kept, found = read(path, language), template()
    known = {m.id for m in kept if m.id}
    out = [f"{language}: not in the catalogue: {m.id!r}" for m in found if m.id and m.id not in known]
    out += [f"{language}: nothing says this any more: {i!r}" for i in known - {m.id for m in found}]
    out += [f"{language}: {m.id!r}: {words}" for m in kept if m.id and (words := wrong(m))]
    if not made(language).exists() or made(language).read_bytes() != compiled(kept):
        out.append(f"{language}: {made(language).name} is older than {path.name}: run tools/languages.py")
    return out


def main() -> int:
    p = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    p.add_argument("--check", action="store_true", help="only say what is missing or does not fit")
    p.add_argument("--new", metavar="LANGUAGE", help="begin a language")
    args = p.parse_args()
    if args.new:
        place(args.new).parent.mkdir(parents=True, exist_ok=True)
        with place(args.new).open("wb") as file:
            write_po(file, Catalog(locale=args.new, project="Ychronos", charset="utf-8", fuzzy=False), width=110)
    languages = sorted(p.stem for p in FOLDER.glob("*.po"))
    if not args.check:
        for language in languages:
            catalog = brought_up(read(place(language), language), template())
            with place(language).open("wb") as file:
                write_po(file, catalog, width=110, sort_output=True, include_lineno=False)
            made(language).parent.mkdir(parents=True, exist_ok=True)
            made(language).write_bytes(compiled(read(place(language), language)))
    found = [fault for language in languages for fault in faults(language)]
    print(
        "\n".join(found)
        if found
        else f"{', '.join(languages)}: all {sum(bool(m.id) for m in template())} texts are said"
    )
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
