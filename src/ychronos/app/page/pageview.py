"""The view of the page: the pages as they will be printed, and beside them what is wanted on them.

The pages shown are those of the PDF itself, made beside the window; only those in sight are drawn.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QRect, QSize, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPixmap, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFormLayout,
    QFrame,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from ...formats.paper import SIZES
from ...formats.pdfpages import POINTS, Pages
from ...session.latest import Latest
from ...session.printed import Printed
from ...session.session import SONG, Session
from ...song.words import plural
from ...theory.notation import SCHOOLS
from ...tongue import sentence, tr
from ..labels import label, with_side
from ..theme import Theme
from .wishes import LARGENESS, LAYERS, NOTES, ONE_PAGE, ROWS, Wishes

GAP = 18  # pixels around a page
WIDEST = 900  # pixels of a page that is as wide as the view
KEPT = 8  # pictures of pages


class Sheets(QWidget):
    """Pages under each other, or as many as there is room for beside each other when they are seen whole."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.pages: Pages | None = None
        self.boxes: list[QRect] = []
        self._pictures: dict[tuple[int, int], QPixmap] = {}

    def show_pages(self, pages: Pages | None) -> None:
        self.pages = pages
        self._pictures.clear()

    def lay_out(self, room: QSize, whole: bool) -> None:
        """Find the pages' places for a view of so much room."""
        self.boxes = []
        sizes = self.pages.sizes if self.pages is not None else []
        x, y, high = GAP, GAP, 0
        for wide_points, high_points in sizes:
            wide = min(WIDEST, room.width() - 2 * GAP)
            if whole:
                wide = min(wide, int((room.height() - 2 * GAP) * wide_points / high_points))
            wide = max(120, wide)
            size = QSize(wide, round(wide * high_points / wide_points))
            if self.boxes and (not whole or x + wide + GAP > room.width()):
                x, y, high = GAP, y + high + GAP, 0
            self.boxes.append(QRect(x, y, size.width(), size.height()))
            x, high = x + wide + GAP, max(high, size.height())
        spare = max(0, room.width() - max((b.right() + GAP for b in self.boxes), default=0)) // 2
        for box in self.boxes:
            box.translate(spare, 0)
        self.setMinimumHeight(y + high + GAP)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), self.theme.colour("shelf"))
        for i, box in enumerate(self.boxes):
            if box.intersects(event.rect()):
                painter.drawPixmap(box, self._picture(i, box))
                painter.setPen(self.theme.colour("edge"))
                painter.drawRect(box.adjusted(-1, -1, 0, 0))
        painter.end()

    def _picture(self, index: int, box: QRect) -> QPixmap:
        ratio = self.devicePixelRatioF()
        key = (index, round(box.width() * ratio))
        found = self._pictures.pop(key, None)
        if found is None:
            assert self.pages is not None
            p = self.pages.picture(index, POINTS * key[1] / self.pages.sizes[index][0])
            image = QImage(p.data, p.width, p.height, p.stride, QImage.Format.Format_RGB32)
            found = QPixmap.fromImage(image)
        self._pictures[key] = found  # the latest at the end
        while len(self._pictures) > KEPT:
            del self._pictures[next(iter(self._pictures))]
        return found


class PageView(QWidget):
    """See the module. ``per_row`` gives the bars in a row of the sheet."""

    print_pressed = Signal()
    write_pressed = Signal()

    def __init__(self, session: Session, theme: Theme, wishes: Wishes, per_row: Callable[[], int]) -> None:
        super().__init__()
        self.session, self.theme, self.wishes, self._per_row = session, theme, wishes, per_row
        self.made: Latest[bytes] = Latest(lambda: session.jobs, b"")
        self._built()
        session.watch(self.refresh, *SONG, "song")
        wishes.changed.connect(self.refresh)
        self.made.changed.connect(self._show)
        self.set_theme(theme)

    def _built(self) -> None:
        self.heading, self.told = label(tr("Page")), label(quiet=True)
        self.told.setWordWrap(True)
        self.paper = self._choice(
            tr("Paper"), [(name if name != "tablet" else tr("Tablet"), name) for name in SIZES], "size"
        )
        self.side = self._choice(
            tr("Which way round"), [(tr("Upright"), False), (tr("On its side"), True)], "landscape"
        )
        self.large = self._choice(tr("How large"), [(words, str(scale)) for scale, words in LARGENESS], "scale")
        self.columns = self._choice(tr("Columns"), [(tr("One column"), "1"), (tr("Two columns"), "2")], "columns")
        self.rows = self._choice(
            tr("Bars in a row"), [(tr("As on the sheet") if n == 0 else str(n), str(n)) for n in ROWS], "bars"
        )
        schools = [
            (tr("As on the sheet"), ""),
            *((sentence(school.words), name) for name, school in SCHOOLS.items()),
        ]
        self.school = self._choice(tr("Names"), schools, "school")
        self.checks: dict[str, QCheckBox] = {}
        for name, _, words, tip in (*LAYERS, *NOTES):
            check = QCheckBox(words)
            check.setToolTip(tip)
            check.toggled.connect(lambda on, name=name: self.wishes.set_layer(name, on))
            self.checks[name] = check
        self.whole = QCheckBox(tr("See whole pages"))
        self.whole.setToolTip(tr("As many pages beside each other as there is room for, or one as wide as the view"))
        self.whole.toggled.connect(lambda _: self._lay_out())
        self.write = QPushButton(tr("Write PDF…"))
        self.write.clicked.connect(self.write_pressed)
        self.print = QPushButton(tr("Print…"))
        self.print.setProperty("main", True)
        self.print.clicked.connect(self.print_pressed)
        self.sheets = Sheets(self.theme)
        self.sheets.setAccessibleName(tr("Pages as they are printed"))
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.sheets)
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.addWidget(self.area)
        fields = QFormLayout()
        fields.setContentsMargins(0, 4, 0, 4)
        fields.setSpacing(7)
        for words, box in ((tr("Paper"), self.paper), (tr("Way"), self.side), (tr("Size"), self.large), (tr("Columns"), self.columns), (tr("Bars"), self.rows), (tr("Names"), self.school)):  # fmt: skip
            fields.addRow(words, box)
        column = QVBoxLayout()
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(7)
        column.addWidget(self.heading)
        column.addWidget(self.told)
        inner = QWidget()
        down = QVBoxLayout(inner)
        down.setContentsMargins(0, 0, 0, 0)
        down.setSpacing(7)
        down.addLayout(fields)
        for check in self.checks.values():
            down.addWidget(check)
        down.addStretch(1)
        wishes = QScrollArea()  # a low screen has less room than there is to wish
        wishes.setWidgetResizable(True)
        wishes.setFrameShape(QFrame.Shape.NoFrame)
        wishes.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        wishes.setWidget(inner)
        wishes.viewport().setAutoFillBackground(False)
        inner.setAutoFillBackground(False)
        column.addWidget(wishes, 1)
        column.addWidget(self.whole)
        column.addWidget(self.write)
        column.addWidget(self.print)
        with_side(self, left, column)

    def _choice(self, name: str, values: Sequence[tuple[str, object]], wish: str) -> QComboBox:
        box = QComboBox()
        box.setAccessibleName(name)
        for words, value in values:
            box.addItem(words, value)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(10)
        box.activated.connect(lambda row: self.wishes.set(wish, box.itemData(row)))
        return box

    def set_clock(self, seconds: float | None) -> None:
        pass

    def set_theme(self, theme: Theme) -> None:
        self.theme = self.sheets.theme = theme
        self.heading.setFont(theme.serif(13, bold=True))
        self.told.setFont(theme.sans(9))
        self.sheets.update()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def refresh(self) -> None:
        """Show what is wanted, and have the pages made if they are not those of the song any more."""
        song = self.session.song
        if song is None or not self.isVisible():
            return
        wishes = self.wishes
        for box, value in (
            (self.paper, wishes.paper.size),
            (self.side, wishes.paper.landscape),
            (self.large, str(wishes.largeness)),
            (self.columns, str(wishes.paper.columns)),
            (self.rows, str(wishes.per_row)),
            (self.school, wishes.school),
        ):
            box.setCurrentIndex(max(0, box.findData(value)))
        for name, check in self.checks.items():
            check.blockSignals(True)
            check.setChecked(wishes.layer(name))
            check.blockSignals(False)
        options = wishes.options(self._per_row())
        self.made.ask((song, options), lambda: Printed(song, options))
        self._tell()

    def _show(self) -> None:
        try:
            pages = Pages(self.made.answer) if self.made.answer and not self.made.failure else None
        except ValueError:
            pages = None
        self.sheets.show_pages(pages)
        self._lay_out()
        self._tell()

    def _tell(self) -> None:
        pages, paper = self.sheets.pages, self.wishes.paper
        words = (
            f"{plural(len(pages), 'page', 'pages')}, {paper.size} {tr('on its side') if paper.landscape else tr('upright')}"
            if pages
            else ""
        )
        if self.made.busy:
            words = tr("Setting the pages …")
        elif self.made.failure:
            words = tr("There are no pages: {failure}", failure=self.made.failure)
        elif pages and len(pages) > 1 and self.wishes.largeness == ONE_PAGE:
            words += tr(". It does not fit on one page, even at half the usual size.")
        self.told.setText(words)

    def _lay_out(self) -> None:
        self.sheets.lay_out(self.area.viewport().size(), self.whole.isChecked())
