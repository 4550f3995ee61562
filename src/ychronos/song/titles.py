"""Titles from file names."""

from __future__ import annotations

import re
from pathlib import Path

from ..paths import shown


def title_of(path: Path) -> str:
    """``lantern_on-the_quay.ogg`` -> ``Lantern on the Quay``; a name with capitals or spaces stays as it is."""
    path = Path(shown(path))
    stem = path.stem.strip() or path.name
    if " " in stem or any(c.isupper() for c in stem[1:]):
        return stem
    words = [w for w in re.split(r"[_\-.]+", stem) if w]
    small = {"a", "an", "and", "at", "by", "for", "from", "in", "of", "on", "or", "the", "to", "with"}
    inner = range(1, len(words) - 1)
    titled = [w if i in inner and w in small else w[:1].upper() + w[1:] for i, w in enumerate(words)]
    return " ".join(titled) or stem
