"""Pages of a PDF as pictures, for looking at them and for printers."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from dataclasses import dataclass

import pypdfium2

POINTS = 72.0  # an inch

# The library takes one caller at a time in the whole process, whatever document it is about: two threads at once (the
# page being looked at while another is printed) end the process. So everything it makes is also given back under this.
_ONE_AT_A_TIME = threading.Lock()


@dataclass(frozen=True)
class Picture:
    """A page as pixels: ``data`` holds rows of ``stride`` bytes, four bytes a pixel: blue, green, red, nothing."""

    width: int
    height: int
    stride: int
    data: bytes


class Pages:
    """The pages of a PDF file given as bytes; raises ValueError where they are none."""

    def __init__(self, data: bytes) -> None:
        self._data = data
        with self._open() as document:
            self.sizes: list[tuple[float, float]] = [document.get_page_size(i) for i in range(len(document))]

    @contextlib.contextmanager
    def _open(self) -> Iterator[pypdfium2.PdfDocument]:
        """The document for a moment: it is opened in no time, and one left open is complained about at the end."""
        with _ONE_AT_A_TIME:
            try:
                document = pypdfium2.PdfDocument(self._data)
            except pypdfium2.PdfiumError as error:
                raise ValueError(f"these are no pages: {error}") from None
            with document:
                yield document

    def __len__(self) -> int:
        return len(self.sizes)

    def picture(self, index: int, dots: float) -> Picture:
        """A page with so many dots an inch."""
        with self._open() as document:
            with (
                contextlib.closing(document[index]) as page,
                contextlib.closing(
                    page.render(
                        scale=dots / POINTS, prefer_bgrx=True, force_bitmap_format=pypdfium2.raw.FPDFBitmap_BGRx
                    )
                ) as bitmap,
            ):
                return Picture(bitmap.width, bitmap.height, bitmap.stride, bytes(bitmap.buffer))
