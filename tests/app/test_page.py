"""The page as the user sees it: the pages that will be printed, what is on them, a printer and none."""

from __future__ import annotations

import io
from pathlib import Path

import pytest
from pypdf import PdfReader
from PySide6.QtCore import QPoint, Qt
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from ychronos.app import printing
from ychronos.app.page.pageview import PageView
from ychronos.app.window import Window
from ychronos.formats import pdfchart
from ychronos.formats.pdfpages import Pages
from ychronos.paths import state_folder
from ychronos.session.jobs import AtOnce
from ychronos.song import edits

LEFT = Qt.MouseButton.LeftButton


def page_of(w: Window, qtbot: QtBot) -> PageView:
    w.show_view("page")
    page = w.views["page"]
    assert isinstance(page, PageView)
    made(page, qtbot)
    return page


def made(page: PageView, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not page.made.busy and page.sheets.pages is not None, timeout=20000)


def text_of(page: PageView) -> str:
    return "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(page.made.answer)).pages)


def pick(page: PageView, box_name: str, value: object, qtbot: QtBot) -> None:
    """Choose an entry as with keys: the box is focused and the row activated."""
    box = getattr(page, box_name)
    row = box.findData(value)
    assert row >= 0
    box.setCurrentIndex(row)
    box.activated.emit(row)
    made(page, qtbot)


def test_the_page_is_what_is_printed(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page = page_of(w, qtbot)
    song = w.session.song
    assert song is not None
    assert page.made.answer == pdfchart.render(song, w.wishes.options(w.sheet.per_row))
    assert page.told.text() == "2 pages, A4 upright" and len(page.sheets.boxes) == 2
    picture = page.sheets.grab(page.sheets.boxes[0]).toImage()
    grey = [picture.pixelColor(x, y).lightness() for x in range(0, 900, 9) for y in range(0, 1200, 3)]
    assert min(grey) < 80 and sum(g > 245 for g in grey) > len(grey) * 0.8, "ink on paper"


def test_what_is_wanted_changes_the_page_and_is_remembered(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page = page_of(w, qtbot)
    assert "Shapes, standard" in text_of(page) and "0:00" in text_of(page)
    for layer in ("shapes", "times", "numbers"):
        qtbot.mouseClick(page.checks[layer], LEFT, pos=QPoint(8, page.checks[layer].height() // 2))
    made(page, qtbot)
    assert "Shapes, standard" not in text_of(page) and "0:00" not in text_of(page)
    pick(page, "paper", "A5", qtbot)
    pick(page, "side", True, qtbot)
    assert page.sheets.pages is not None and page.sheets.pages.sizes[0][0] > page.sheets.pages.sizes[0][1]
    assert "A5 on its side" in page.told.text()
    pick(page, "school", "numbers", qtbot)
    assert "♭3" in text_of(page) or "2-" in text_of(page), "numbers in the key instead of names"
    again = w.wishes.options(4)
    assert (again.paper.size, again.paper.landscape, again.school, again.shapes) == ("A5", True, "numbers", False)
    assert w.session.song is not None and w.session.song.notation != "numbers", "the sheet keeps its own"
    before = len(page.sheets.boxes)
    pick(page, "large", "0.0", qtbot)
    assert len(page.sheets.boxes) <= before


def test_the_page_follows_the_song(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page = page_of(w, qtbot)
    w.session.edit(lambda s: edits.rename_song(s, "Low Water Waltz", "The Net Menders"))
    made(page, qtbot)
    qtbot.waitUntil(lambda: "Low Water Waltz" in text_of(page))
    w.session.undo()
    qtbot.waitUntil(lambda: not page.made.busy and "Low Water Waltz" not in text_of(page))


def test_whole_pages_stand_beside_each_other(ferry_window: Window, qtbot: QtBot) -> None:
    page = page_of(ferry_window, qtbot)
    page.whole.setChecked(True)
    first, second = page.sheets.boxes
    assert first.top() == second.top() and first.right() < second.left()
    assert first.height() <= page.area.viewport().height()
    page.whole.setChecked(False)
    first, second = page.sheets.boxes
    assert first.bottom() < second.top()


def test_without_a_printer_a_simulated_one_keeps_the_pages(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    monkeypatch.setenv("YCHRONOS_PRINTER", "simulated")
    page = page_of(w, qtbot)
    for n in (1, 2):
        qtbot.mouseClick(page.print, LEFT)
        qtbot.waitUntil(lambda: w.job is None and "simulated" in w.notice.words.text(), timeout=20000)
        kept = sorted((state_folder() / "printed").glob("*.pdf"))
        assert len(kept) == n and kept[0].read_bytes() == page.made.answer
        assert "No printer was found" in w.notice.words.text()
        assert any(b.text() == "Look at it" for b in w.notice.findChildren(QPushButton))
        w.notice.hide()


def test_pages_are_drawn_on_a_printer(ferry_window: Window, tmp_path: Path, qtbot: QtBot) -> None:
    w = ferry_window
    page = page_of(w, qtbot)
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "out.pdf"))
    assert page.sheets.pages is not None
    printing.send(w, page.sheets.pages, printer, range(1, 2))
    qtbot.waitUntil(lambda: w.job is None, timeout=20000)
    printed = Pages((tmp_path / "out.pdf").read_bytes())
    assert len(printed) == 1
    assert printed.sizes[0] == pytest.approx(page.sheets.pages.sizes[1], abs=2)
    ours, theirs = page.sheets.pages.picture(1, 72), printed.picture(0, 72)
    dark = [sum(p.data[i] < 128 for i in range(0, len(p.data), 4)) for p in (ours, theirs)]
    assert dark[0] > 100 and 0.6 < dark[1] / dark[0] < 1.6
    assert "1 page sent" in w.desk.place.text()


def test_a_print_that_is_stopped_draws_no_more(ferry_window: Window, tmp_path: Path, qtbot: QtBot) -> None:
    page = page_of(ferry_window, qtbot)
    printer = QPrinter(QPrinter.PrinterMode.ScreenResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "out.pdf"))

    class StopsAfterOne(AtOnce):
        asked = 0

        def cancelled(self) -> bool:
            self.asked += 1
            return self.asked > 1

    assert page.sheets.pages is not None
    assert printing.draw(page.sheets.pages, printer, range(2), StopsAfterOne()) == 1


def test_the_pdf_is_written_as_it_is_shown(
    ferry_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    page = page_of(w, qtbot)
    pick(page, "large", "1.3", qtbot)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "chart.pdf"), ""))
    qtbot.mouseClick(page.write, LEFT)
    qtbot.waitUntil((tmp_path / "chart.pdf").exists, timeout=20000)
    assert (tmp_path / "chart.pdf").read_bytes() == page.made.answer
