"""Pages on paper: the printers there are, and one that is simulated when there is none.

The simulated printer keeps what it prints as a PDF in the program's folder and says so.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMarginsF, QRect, QSizeF, QUrl
from PySide6.QtGui import QDesktopServices, QImage, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrinterInfo

from ..formats import atomic
from ..formats.pdfpages import Pages
from ..paths import shown, state_folder
from ..session.jobs import Under
from ..session.printed import Printed
from ..song.words import plural
from ..tongue import tr
from .dialogs.asking import asked
from .shell import Shell

DOTS = 300  # an inch: finer than this no chart looks better


def printers() -> list[str]:
    """Names of the printers that the system knows; none where the simulated one is asked for."""
    return [] if os.environ.get("YCHRONOS_PRINTER") == "simulated" else QPrinterInfo.availablePrinterNames()


def draw(pages: Pages, printer: QPrinter, wanted: range, under: Under) -> int:
    """Draw the wanted pages onto a printer; gives how many were drawn before somebody cancelled.

    Raises
    ------
    OSError
        when the printer takes nothing.
    """
    printer.setPageSize(
        QPageSize(QSizeF(*sorted(pages.sizes[0])), QPageSize.Unit.Point, "", QPageSize.SizeMatchPolicy.FuzzyMatch)
    )
    wide, high = pages.sizes[0]
    sides = QPageLayout.Orientation
    printer.setPageOrientation(sides.Landscape if wide > high else sides.Portrait)
    printer.setFullPage(True)
    printer.setPageMargins(QMarginsF(0, 0, 0, 0))
    dots = min(DOTS, printer.resolution())
    painter = QPainter()
    if not painter.begin(printer):
        raise OSError(tr("the printer takes nothing"))
    done = 0
    try:
        for i in wanted:
            if under.cancelled():
                printer.abort()
                return done
            under.report(tr("Printing"), done / len(wanted))
            if done:
                printer.newPage()
            p = pages.picture(i, dots)
            image = QImage(p.data, p.width, p.height, p.stride, QImage.Format.Format_RGB32)
            room = printer.paperRect(QPrinter.Unit.DevicePixel)
            scale = min(room.width() / p.width, room.height() / p.height)
            painter.drawImage(QRect(0, 0, round(p.width * scale), round(p.height * scale)), image)
            done += 1
    finally:
        painter.end()
    return done


def print_song(w: Shell) -> None:
    """Set the pages as the Page view shows them, ask for a printer, print."""
    song = w.session.song
    if song is None:
        return
    options = w.wishes.options(w.sheet.per_row)
    printed = Printed(song, options)

    def made(data: object) -> None:
        assert isinstance(data, bytes)
        if printers():
            _ask(w, data)
        else:
            _simulated(w, song.title, data)

    w.start_job(
        tr("Setting the pages"), printed, made, lambda why: w.notice.say(tr("Nothing was printed: {why}", why=why))
    )


def _ask(w: Shell, data: bytes) -> None:
    pages = Pages(data)
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    dialog = QPrintDialog(printer, w.widget())
    dialog.setMinMax(1, len(pages))
    if not asked(dialog):
        return
    first, last = printer.fromPage() or 1, printer.toPage() or len(pages)
    send(w, pages, printer, range(first - 1, min(last, len(pages))))


def send(w: Shell, pages: Pages, printer: QPrinter, wanted: range) -> None:
    """Print beside the window, with progress and a way to stop."""

    def done(count: object) -> None:
        assert isinstance(count, int)
        words = tr(
            "{pages} sent to {printer}",
            pages=plural(count, "page", "pages"),
            printer=printer.printerName() or shown(Path(printer.outputFileName())),
        )
        w.say(words)

    w.start_job(
        tr("Printing"),
        lambda under: draw(pages, printer, wanted, under),
        done,
        lambda why: w.notice.say(tr("Nothing was printed: {why}. The song is as it was.", why=why)),
    )


def free_name(folder: Path, title: str) -> Path:
    """A name for a print that no other has."""
    stem = "".join(c if c.isalnum() else " " for c in title).strip()[:80] or "song"
    names = [folder / f"{stem}.pdf", *(folder / f"{stem} {n}.pdf" for n in range(2, 1000))]
    return next((n for n in names if not n.exists()), names[-1])


def _simulated(w: Shell, title: str, data: bytes, opens: Callable[[QUrl], bool] = QDesktopServices.openUrl) -> None:
    try:
        folder = state_folder() / "printed"
        folder.mkdir(parents=True, exist_ok=True)
        path = free_name(folder, title)
        atomic.write(path, data)
    except (OSError, atomic.SaveError) as error:
        w.notice.say(tr("No printer was found, and the simulated one cannot keep the pages: {error}.", error=error))
        return
    w.notice.say(
        tr(
            "No printer was found: a simulated one has kept {pages} as “{shown}”.",
            pages=plural(len(Pages(data)), "page", "pages"),
            shown=shown(path),
        ),
        {tr("Look at it"): lambda: opens(QUrl.fromLocalFile(str(path)))},
        error=False,
    )
