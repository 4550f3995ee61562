"""Paper that charts are printed on: its size, which way round, how large things are on it, in how many columns."""

from __future__ import annotations

from dataclasses import dataclass

from ..tongue import tr

MM = 72 / 25.4  # points
SIZES: dict[str, tuple[float, float]] = {  # points
    "A4": (210 * MM, 297 * MM),
    "Letter": (612.0, 792.0),
    "A5": (148 * MM, 210 * MM),
    "tablet": (480.0, 640.0),
}
SMALL, LARGE = 0.6, 1.6  # against the usual size
MOST_COLUMNS = 2


@dataclass(frozen=True)
class Paper:
    """``scale`` is how large everything is against the usual size; with ``one_page`` it is the largest that is tried."""

    size: str = "A4"
    landscape: bool = False
    one_page: bool = False
    scale: float = 1.0
    columns: int = 1

    def __post_init__(self) -> None:
        if self.size not in SIZES:
            raise ValueError(f"paper is one of {', '.join(SIZES)}")
        if not 0.4 <= self.scale <= 2.0:
            raise ValueError("charts are printed at 40 to 200 per cent")
        if not 1 <= self.columns <= MOST_COLUMNS:
            raise ValueError(f"a page has one to {MOST_COLUMNS} columns")

    @property
    def points(self) -> tuple[float, float]:
        """(width, height) in points."""
        wide, high = SIZES[self.size]
        return (high, wide) if self.landscape else (wide, high)

    @property
    def words(self) -> str:
        """``A4 upright``, ``Letter on its side, in two columns, all on one page``."""
        text = f"{self.size} {tr('on its side') if self.landscape else tr('upright')}"
        text += tr(", in two columns") if self.columns == 2 else ""
        return tr("{text}, all on one page", text=text) if self.one_page else text


PLAIN_PAPER = Paper()


def papers() -> list[Paper]:
    """All kinds of paper to choose from."""
    return [
        Paper(size, side, one, columns=columns)
        for size in SIZES
        for side in (False, True)
        for one in (False, True)
        for columns in (1, 2)
    ]
