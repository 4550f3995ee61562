"""The sheet: the folded recording. Listen, select, state.

Only the rows that show are painted. The playing cursor is painted on top from the clock it is given; the
caret and selection live in the document.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QWidget

from ...analysis.chords.agreement import agreement
from ...analysis.explain.basslane import bass_of_beats
from ...chart.rows import shown_names
from ...guitar.instrument import GuitarSetup
from ...session.session import HALF, MUSIC, Session
from ...song.alignment import differing_bars
from ...song.edits import Piece, Spelling, state_chords
from ...song.grid import Position
from ...song.model import Song
from ...song.words import bars_text, clock_text
from ...theory.chord import Chord, ChordError
from ...theory.chordtext import Bar, Typed, parse_line, shares
from ...tongue import tr, trn
from ..guarding import painted, painting
from ..reachable import Part
from ..soon import TURN
from ..theme import Theme
from .beatdrag import BeatDrag
from .chordentry import ChordEntry, Entered
from .geometry import LABEL, RIGHT, TOP, BarBox, RowBox, SheetGeometry
from .lanes import STROKES_AT
from .reach import bar_parts, moved
from .rowstate import RowPicture, row_state
from .sheetpaint import CHORD_SIZE, CHORD_TOP, LINE_BOTTOM, LINE_TOP, ChordBox, View, paint_ground, paint_row
from .tabhand import Place, TabHand
from .waveform import Waveform

ZOOM_MIN, ZOOM_MAX, ZOOM_STEP = 0.5, 4.0, 1.15
KEPT_ROWS = 48  # pictures of rows kept
ROW_MARGIN = 10.0  # a row paints a little over its edges
RAW_SECONDS, RAW_HEIGHT = 10.0, 64.0  # a row of the record before its bars are known


class SheetView(QAbstractScrollArea):
    """See the module."""

    seek_wanted = Signal(float)
    menu_wanted = Signal(QPoint)
    zoom_changed = Signal()
    beat_moved = Signal(int, float)
    rename_wanted = Signal()  # of the section at the caret
    stroke_pressed = Signal(int, int, int)  # bar, slot, slots of a beat
    line_note_heard = Signal(int)  # MIDI number of a note of a line that was chosen or typed
    stretch_chosen = Signal(object, object)  # positions, free of beats

    patience = 0.025  # seconds of a turn of the event loop after which further rows wait for the next one

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.theme = session, theme
        self.zoom, self.per_row, self.stacked, self.diagrams, self.strokes = 1.0, 4, False, False, False
        self.degrees = False  # of chords, in the tablature
        self.tabs = False  # room for tablature in every row; rows with lines have it anyway
        self.differs: frozenset[int] = frozenset()  # bars other than their model, shown where passes are stacked
        self._compared: Song | None = None
        self.loop: tuple[int, int] | None = None
        self.geometry_: SheetGeometry | None = None
        self._waveform: Waveform | None = None
        self._bass: NDArray[np.int_] | None = None
        self._names: dict[int, list[ChordBox]] = {}
        self._pictures: dict[int, RowPicture] = {}
        self._clock: float | None = None
        self._cursor_row: int | None = None
        self._dragging = False
        self._free: Position | None = None  # where a free stretch begins
        self.preview: GuitarSetup | None = None  # a guitar that is shown, not stated
        self._previewed: Song | None = None
        self._reach: tuple[object, list[Part]] = (None, [])
        self._painted = 0  # rows, ever
        self._put_off = False  # the last turn had no time to paint
        self.drag = BeatDrag(self)
        self.tab = TabHand(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setAccessibleName(tr("Sheet"))
        self.viewport().setMouseTracking(True)
        self.viewport().setAccessibleName(tr("Sheet of bars"))
        self.viewport().setAutoFillBackground(False)
        self.verticalScrollBar().setSingleStep(24)
        self.entry = ChordEntry(self.viewport())
        self.entry.entered.connect(self._entered)
        self.entry.say_more = self._agrees
        self.entry.preview.connect(self._show_preview)
        self._preview: list[Piece] = []
        self.entry.left.connect(lambda: self.setFocus())
        session.watch(lambda: self.set_preview(None), *MUSIC)
        session.watch(self.refresh, *MUSIC)
        session.watch(self._shapes_known, "shapes")
        session.watch(self._new_recording, "sound")
        session.watch(self._selection_moved, "selection")

    # ------------------------------------------------------------ keeping up

    def _new_recording(self) -> None:
        self._waveform = Waveform(self.session.recording) if self.session.recording else None
        self.forget_pictures()
        self.refresh()

    def refresh(self) -> None:
        """Lay the song out again and repaint."""
        song = self.session.song
        if song is None:
            self.entry.close_quietly()
        self._names.clear()
        if song is None:
            self.geometry_ = None
        else:
            self.geometry_ = SheetGeometry(
                song,
                self.viewport().width(),
                self.zoom,
                self.per_row,
                self.stacked,
                self.diagrams,
                self.strokes,
                self.tabs,
                self.degrees,
            )
            if self.loop and self.loop[1] >= len(song.grid.bars):
                self.loop = None
        self._find_differing()
        self._find_bass()
        self._size_bars()
        self._announce()
        self.repaint_rows()
        if self.entry.isVisible() and self.geometry_ is not None:
            self.entry.place(self._entry_point())  # who types goes on typing

    def _find_bass(self) -> None:
        song, evidence = self.session.song, self.session.evidence
        self._bass = bass_of_beats(song, evidence) if song is not None and evidence is not None else None

    def _size_bars(self) -> None:
        view = self.viewport()
        height, width = self._content_size()
        vertical, horizontal = self.verticalScrollBar(), self.horizontalScrollBar()
        vertical.setRange(0, max(0, int(height - view.height())))
        vertical.setPageStep(view.height())
        horizontal.setRange(0, max(0, int(width - view.width() - RIGHT)) if self.zoom > 1 else 0)
        horizontal.setPageStep(view.width())

    def _content_size(self) -> tuple[float, float]:
        if self.geometry_:
            return self.geometry_.height, self.geometry_.width
        recording = self.session.recording
        if recording is None:
            return 0.0, 0.0
        return TOP + (int(recording.duration / RAW_SECONDS) + 1) * RAW_HEIGHT + 40, 0.0

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.entry.set_theme(theme)
        self.repaint_rows()

    def set_zoom(self, zoom: float) -> None:
        """Zoom, keeping the caret's row where it is."""
        zoom = min(ZOOM_MAX, max(ZOOM_MIN, zoom))
        if abs(zoom - 1) < 0.04:
            zoom = 1.0
        if zoom == self.zoom:
            return
        before = self._caret_height()
        self.zoom = zoom
        self.refresh()
        after = self._caret_height()
        if before is not None and after is not None:
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() + int(after - before))
        self.zoom_changed.emit()

    def _caret_height(self) -> float | None:
        if self.geometry_ is None:
            return None
        return self.geometry_.point(self.session.selection.caret)[0].y

    def set_per_row(self, bars: int) -> None:
        if bars != self.per_row:
            self.per_row = bars
            self.refresh()
            self.reveal_caret()

    def _find_differing(self) -> None:
        """Compare the passes, once for each song, where they are stacked."""
        song = self.session.song
        if song is None or not self.stacked:
            self.differs, self._compared = frozenset(), None
        elif self._compared is not song:
            self.differs, self._compared = differing_bars(song), song

    def set_stacked(self, stacked: bool) -> None:
        """All passes of a section under each other, or rows as the song goes."""
        if stacked != self.stacked:
            self.stacked = stacked
            self.refresh()
            self.reveal_caret()

    def set_preview(self, guitar: GuitarSetup | None) -> None:
        """Show names and shapes for a guitar that is not stated; None, or another song or guitar, ends it."""
        song = self.session.song
        self.preview = guitar if song is not None else None
        self._previewed = replace(song, guitar=guitar) if song is not None and guitar is not None else None
        self.repaint_rows()

    def set_strokes(self, shown: bool) -> None:
        """Show what the strumming hand does under the bars, or nothing."""
        if shown != self.strokes:
            self.strokes = shown
            self.refresh()

    def set_tabs(self, shown: bool) -> None:
        """Keep room for tablature in every row, to write it, or only where there is some."""
        if shown != self.tabs:
            self.tabs = shown
            self.tab.leave()
            self.refresh()

    def set_degrees(self, shown: bool) -> None:
        """Show which degree of its chord each note of a line is, instead of its fret."""
        if shown != self.degrees:
            self.degrees = shown
            self.refresh()

    def choose_in_tab(self) -> None:
        """Choose the note of a line at the caret, or the caret's place on the highest string, to type frets."""
        song = self.session.song
        if song is None:
            return
        at = self.session.selection.caret
        note = next((n for n in song.line if at <= n.at < at + HALF), None)
        place = (
            Place(at, len(song.guitar.strings) - 1)
            if note is None
            else Place(note.at, note.value.string, note.value.lane)
        )
        self.setFocus()
        self.tab.choose(place)
        self.reveal_caret()

    def hear_line_note(self, note: int) -> None:
        """Let whoever plays sounds play a note of a line by itself."""
        self.line_note_heard.emit(note)

    def stroke_under(self, point: QPointF) -> tuple[int, int, int] | None:
        """(bar, slot, slots of a beat) of the strokes' lane under a point."""
        song, made = self.session.song, self.geometry_
        if song is None or made is None or not self.strokes:
            return None
        hit = made.hit(point.x(), point.y())
        if hit is None or hit[0].row.silent or abs(point.y() - hit[0].y - STROKES_AT * made.scale) > 11 * made.scale:
            return None
        box = hit[1]
        slots = max(2, len(song.figure_of_bar(box.bar)) // box.beats)
        slot = round((point.x() - 6 - box.x) / box.width * box.beats * slots)
        return box.bar, min(max(0, slot), box.beats * slots - 1), slots

    def set_diagrams(self, shown: bool) -> None:
        """Show how each chord is held above its name, or not."""
        if shown != self.diagrams:
            self.diagrams = shown
            self.refresh()
            self.reveal_caret()

    def set_loop(self, bars: tuple[int, int] | None) -> None:
        self.loop = bars
        self.repaint_rows()

    # ------------------------------------------------------------ the playing cursor

    def set_clock(self, seconds: float | None, follow: bool = False) -> None:
        """Show the playing cursor at a time (None hides it); with ``follow`` its row is kept in sight."""
        old = self._cursor_rect()
        self._clock = seconds
        new = self._cursor_rect()
        for rect in (old, new):
            if rect is not None:
                self.viewport().update(rect)
        if follow and seconds is not None:
            self._follow()

    def cursor_point(self) -> tuple[float, float, float] | None:
        """(x, top, bottom) of the cursor in content coordinates, or None."""
        if self._clock is None:
            return None
        song = self.session.song
        if song is None or self.geometry_ is None:
            recording = self.session.recording
            if recording is None:
                return None
            row = int(self._clock / RAW_SECONDS)
            x = LABEL + (self._clock - row * RAW_SECONDS) / RAW_SECONDS * self._raw_width()
            return x, TOP + row * RAW_HEIGHT, TOP + (row + 0.8) * RAW_HEIGHT
        position = song.grid.position(self._clock)
        if not 0 <= position < song.grid.beat_count:
            position = min(max(position, 0.0), song.grid.beat_count - 1e-6)
        row_box, x = self.geometry_.point(position)
        scale = self.geometry_.scale
        return x, row_box.y + LINE_TOP * scale - 3, row_box.y + min(row_box.height, LINE_BOTTOM * scale) + 3

    def _cursor_rect(self) -> QRect | None:
        point = self.cursor_point()
        if point is None:
            return None
        x, top, bottom = point
        return QRectF(x - 3, top - 3, 6, bottom - top + 6).translated(-self._offset()).toAlignedRect()

    def _follow(self) -> None:
        point = self.cursor_point()
        if point is None:
            return
        x, top, bottom = point
        row = int(top)
        if row == self._cursor_row:
            return
        self._cursor_row = row
        bar, height = self.verticalScrollBar(), self.viewport().height()
        if top < bar.value() or bottom > bar.value() + height * 0.8:
            bar.setValue(int(top - height * 0.25))
        across = self.horizontalScrollBar()
        if not across.value() <= x <= across.value() + self.viewport().width():
            across.setValue(int(x - LABEL))

    # ------------------------------------------------------------ painting

    def _offset(self) -> QPointF:
        return QPointF(self.horizontalScrollBar().value(), self.verticalScrollBar().value())

    def _raw_width(self) -> float:
        return float(self.viewport().width() - LABEL - RIGHT)

    @painted
    def paintEvent(self, painter: QPainter, event: QPaintEvent) -> None:
        painter.fillRect(event.rect(), self.theme.colour("paper"))
        offset = self._offset()
        painter.translate(-offset)
        area = QRectF(event.rect()).translated(offset)
        song = self.session.song
        if song is not None and self.geometry_ is not None:
            view, waits = self._view(), False
            # once a turn that has had its share paints none at all; else it paints one at least
            self._put_off = not self._put_off and TURN.spent() > self.patience
            done = self._painted
            for box in self.geometry_.rows_between(area.top(), area.bottom()):
                late = self._put_off or (self._painted > done and TURN.spent() > self.patience)
                picture = self._shown_before(box) if late else self._picture(box, view)
                waits |= late
                if picture is not None:  # else paper, until it is there
                    paint_ground(painter, self._previewed or song, box, view, self._pictures[box.index].names)
                    painter.drawPixmap(QPointF(0, box.y - box.above - ROW_MARGIN), picture)
            if waits:  # the rest in the next turn, so that a key or a click comes between
                QTimer.singleShot(0, self.viewport().update)
        elif self.session.recording is not None:
            self._paint_raw(painter, area)
        self._paint_preview(painter)
        self._paint_cursor(painter)
        self.drag.paint(painter)
        self.tab.paint(painter)

    def _shown_before(self, box: RowBox) -> QPixmap | None:
        """What stood in a row's place at the last look, None where its place is another one now."""
        kept = self._pictures.get(box.index)
        return kept.picture if kept is not None and kept.box == box else None

    def _picture(self, box: RowBox, view: View) -> QPixmap:
        """A row as painted last time, as long as it shows the same; scrolling, the cursor and edits elsewhere only copy it."""
        song = self._previewed or self.session.song
        assert song is not None
        ratio = self.devicePixelRatioF()
        width = max(self.viewport().width(), int(box.right + RIGHT))
        made_of = (song, box, view.theme, view.geometry, view.waveform, view.bass, view.shapes)
        kept = self._pictures.pop(box.index, None)
        if kept is None or not kept.same(made_of, (width, ratio)):
            state = (width, ratio, *row_state(song, box, view))
            if kept is None or kept.state != state:
                picture = QPixmap(int(width * ratio), int((box.above + box.height + 2 * ROW_MARGIN) * ratio))
                picture.setDevicePixelRatio(ratio)
                picture.fill(Qt.GlobalColor.transparent)
                names: list[ChordBox] = []
                with painting(picture) as painter:
                    painter.translate(0, ROW_MARGIN + box.above - box.y)
                    names = paint_row(painter, song, box, view)
                while len(self._pictures) >= KEPT_ROWS:
                    del self._pictures[next(iter(self._pictures))]
                kept = RowPicture(box, picture, names)
                self._painted += 1
            kept.made_of, kept.state = made_of, state
        self._pictures[box.index] = kept  # the newest is the last to go
        self._names[box.index] = kept.names
        return kept.picture

    def _shapes_known(self) -> None:
        if self.diagrams:
            self.repaint_rows()

    def forget_pictures(self) -> None:
        """Paint all rows anew when they are shown next."""
        self._pictures.clear()

    def repaint_rows(self) -> None:
        """Show all rows again; those that show something else are painted."""
        self.viewport().update()

    def _view(self) -> View:
        assert self.geometry_ is not None
        s, song = self.session.selection, self._previewed or self.session.song
        return View(
            theme=self.theme,
            geometry=self.geometry_,
            waveform=self._waveform,
            bass=self._bass,
            selected=(s.first, s.last),
            caret=s.caret,
            chord=self.session.chord_index if s.chord else None,
            loop=self.loop,
            focused=self.hasFocus() or self.entry.isVisible(),
            differs=self.differs,
            shapes=not self.diagrams or song is None or self.session.shaping.ready(song, song.guitar),
        )

    def _paint_raw(self, painter: QPainter, area: QRectF) -> None:
        """The record in rows of ten seconds, before its bars are known."""
        recording = self.session.recording
        assert recording is not None and self._waveform is not None
        rows = int(np.ceil(recording.duration / RAW_SECONDS))
        first = max(0, int((area.top() - TOP) / RAW_HEIGHT))
        for row in range(first, min(rows, int((area.bottom() - TOP) / RAW_HEIGHT) + 1)):
            start, end = row * RAW_SECONDS, min(recording.duration, (row + 1) * RAW_SECONDS)
            y = TOP + row * RAW_HEIGHT
            painter.setFont(self.theme.sans(9))
            painter.setPen(self.theme.colour("faded"))
            painter.drawText(QPointF(22, y + RAW_HEIGHT * 0.45), clock_text(start))
            painter.save()
            painter.translate(0, y + RAW_HEIGHT * 0.4)
            width = self._raw_width() * (end - start) / RAW_SECONDS
            colour = self.theme.colour("sound")
            self._waveform.paint_stretch(painter, (start, end), LABEL, width, RAW_HEIGHT * 0.36, colour)
            painter.restore()

    def _paint_cursor(self, painter: QPainter) -> None:
        point = self.cursor_point()
        if point is None:
            return
        x, top, bottom = point
        painter.setPen(QPen(self.theme.colour("cursor"), 2))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))

    # ------------------------------------------------------------ mouse

    def _content(self, event: QMouseEvent | QContextMenuEvent) -> QPointF:
        at = event.position() if isinstance(event, QMouseEvent) else QPointF(event.pos())
        return at + self._offset()

    def chord_under(self, point: QPointF) -> int | None:
        """Index of the chord whose name is at a point in content coordinates."""
        for boxes in self._names.values():
            for box in boxes:
                if box.rect.contains(point):
                    return box.span
        return None

    def bar_under(self, point: QPointF) -> tuple[RowBox, BarBox, float] | None:
        return self.geometry_.hit(point.x(), point.y()) if self.geometry_ else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        song, point = self.session.song, self._content(event)
        if song is None:
            self._raw_seek(point)
            return
        chord = self.chord_under(point)
        if chord is not None and not event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            start = song.chords[chord].start
            self.session.select(start, chord=True)
            self.seek_wanted.emit(song.grid.clock(start))
            return
        row = self.label_under(point)
        if row is not None:
            self._select_row(row)
            self.seek_wanted.emit(song.grid.clock(self.session.selection.caret))
            return
        stroke = self.stroke_under(point)
        if stroke is not None and not event.modifiers():
            self.stroke_pressed.emit(*stroke)
            return
        place = self.tab.under(point)
        if place is not None and not event.modifiers():
            self.session.select(place.at)
            self.seek_wanted.emit(song.grid.clock(place.at))
            self.tab.press(place, point.x())
            return
        self.tab.leave()
        hit = self.bar_under(point)
        if hit is None:
            return
        _, box, offset = hit
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._extend_to(box.bar)
            return
        assert self.geometry_ is not None
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._free = self._exactly(box, offset)
            return
        beat = self.drag.beat_under(point)
        if beat is not None:
            self.drag.press(beat, point.x())
            self.session.select(Fraction(beat))
            self.seek_wanted.emit(song.grid.clock(beat))
            return
        caret = self.geometry_.snapped(box, offset)
        self.session.select(caret, box.bar, box.bar)
        self.seek_wanted.emit(song.grid.clock(caret))
        self._dragging = True

    def _exactly(self, box: BarBox, offset: float) -> Position:
        """The position under the mouse, not snapped to beats."""
        song = self.session.song
        assert song is not None
        return Fraction(song.grid.starts[box.bar]) + Fraction(offset).limit_denominator(96)

    def _raw_seek(self, point: QPointF) -> None:
        recording = self.session.recording
        if recording is None or point.x() < LABEL:
            return
        row = int((point.y() - TOP) / RAW_HEIGHT)
        seconds = (row + (point.x() - LABEL) / self._raw_width()) * RAW_SECONDS
        if 0 <= seconds <= recording.duration:
            self.seek_wanted.emit(seconds)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = self._content(event)
        if self.drag.held is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.drag.move(point.x())
            return
        if self.tab.held and event.buttons() & Qt.MouseButton.LeftButton:
            self.tab.move(point)
            return
        if self._dragging and event.buttons() & Qt.MouseButton.LeftButton:
            hit = self.bar_under(point)
            if hit is not None and hit[1].bar != self.session.song.grid.bar_at(self.session.selection.caret):  # type: ignore[union-attr]
                self._extend_to(hit[1].bar)
            return
        on_name = self.session.song is not None and self.chord_under(point) is not None
        shape = Qt.CursorShape.PointingHandCursor if on_name else Qt.CursorShape.ArrowCursor
        if not on_name and self.drag.beat_under(point) is not None:
            shape = Qt.CursorShape.SplitHCursor
        self.viewport().setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._free is not None:
            start, self._free = self._free, None
            hit = self.bar_under(self._content(event))
            if hit is not None:
                end = self._exactly(hit[1], hit[2])
                self.stretch_chosen.emit(min(start, end), max(start, end))
            return
        if self.tab.held:
            self.tab.release()
            return
        moved = self.drag.release()
        if moved is not None:
            self.beat_moved.emit(*moved)
        self._dragging = False

    def label_under(self, point: QPointF) -> RowBox | None:
        """The row whose name or clock stands under a point, left of its bars."""
        if self.geometry_ is None or not 0 <= point.x() < LABEL - 6:
            return None
        return self.geometry_.row_at(point.y())

    def _select_row(self, row: RowBox) -> None:
        """Select the section that a row opens, or the row."""
        song = self.session.song
        assert song is not None
        bars = song.section_bars(row.row.section) if row.row.opens else range(row.row.first, row.row.last)
        if len(bars):
            self.session.select(song.grid.bar_range(bars[0])[0], bars[0], bars[-1])

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.session.song is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if self.tab.under(self._content(event)) is not None:
            return
        if self.label_under(self._content(event)) is not None:
            self.rename_wanted.emit()
        else:
            self.start_entry()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        song, point = self.session.song, self._content(event)
        if song is None:
            return
        if event.reason() == QContextMenuEvent.Reason.Mouse:
            chord, hit, row = self.chord_under(point), self.bar_under(point), self.label_under(point)
            if row is not None:
                self._select_row(row)
            elif chord is not None:
                self.session.select(song.chords[chord].start, chord=True)
            elif hit is not None and self.geometry_ is not None:
                s = self.session.selection
                if not s.first <= hit[1].bar <= s.last or not s.many:
                    self.session.select(self.geometry_.snapped(hit[1], hit[2]), hit[1].bar, hit[1].bar)
        self.menu_wanted.emit(event.globalPos())

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            steps = event.angleDelta().y() / 120
            self.set_zoom(self.zoom * ZOOM_STEP**steps)
            event.accept()
            return
        super().wheelEvent(event)

    # ------------------------------------------------------------ keys

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self.tab.wants(event):
            event.accept()  # a digit is a fret, not the window's key of that name
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        song = self.session.song
        if song is None:
            super().keyPressEvent(event)
            return
        if event.key() == Qt.Key.Key_Escape and self.drag.held is not None:
            self.drag.cancel()
            return
        if self.tab.key(event):
            return
        text = event.text()
        plain = not event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier
        if plain and text and text.upper() in "ABCDEFGN":
            self.start_entry(text.upper())
            return
        if not self._move(event):
            super().keyPressEvent(event)

    def _move(self, event: QKeyEvent) -> bool:
        """Caret and selection keys; True when the key was one."""
        song = self.session.song
        assert song is not None
        key, mods = event.key(), event.modifiers()
        shift = bool(mods & Qt.KeyboardModifier.ShiftModifier)
        control = bool(mods & Qt.KeyboardModifier.ControlModifier)
        alt = bool(mods & Qt.KeyboardModifier.AltModifier)
        s = self.session.selection
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(key))
        if step and shift:
            caret_bar = song.grid.bar_at(s.caret)
            edge = s.last if caret_bar == s.first else s.first
            self._extend_to(edge + step)
        elif step and control:
            index = self.session.chord_index
            at_start = song.chords[index].start == s.caret
            index += step if step > 0 or at_start else 0
            index = max(0, min(len(song.chords) - 1, index))
            self._go(song.chords[index].start, chord=True)
        elif step and alt:
            self._go(s.caret + step * HALF)
        elif step:
            whole = s.caret.numerator // s.caret.denominator
            self._go(Fraction(whole + (1 if step > 0 else 0 if s.caret.denominator > 1 else -1)))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._row_step(-1 if key == Qt.Key.Key_Up else 1, shift)
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End) and shift:
            selection = self.session.selection
            anchor = song.grid.bar_at(selection.caret)
            edge = selection.last if selection.first == anchor else selection.first  # the end that moves
            assert self.geometry_ is not None
            row = self.geometry_.row_of_bar(edge)
            if key == Qt.Key.Key_Home:
                self._extend_to(0 if control else row.row.first)
            else:
                self._extend_to(len(song.grid.bars) - 1 if control else row.row.last - 1)
        elif key == Qt.Key.Key_Home:
            self._go(Fraction(0) if control else Fraction(self._row_start()))
        elif key == Qt.Key.Key_End:
            last = song.grid.starts[-2] if control else song.grid.starts[self._caret_row().row.last - 1]
            self._go(Fraction(last))
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() + (bar.pageStep() if key == Qt.Key.Key_PageDown else -bar.pageStep()))
        else:
            return False
        return True

    def _caret_row(self) -> RowBox:
        song = self.session.song
        assert self.geometry_ is not None and song is not None
        return self.geometry_.row_of_bar(song.grid.bar_at(self.session.selection.caret))

    def _row_start(self) -> int:
        song = self.session.song
        assert song is not None
        return song.grid.starts[self._caret_row().row.first]

    def _row_step(self, step: int, extend: bool) -> None:
        song = self.session.song
        assert self.geometry_ is not None and song is not None
        row = self._caret_row()
        index = row.index + step
        if not 0 <= index < len(self.geometry_.rows):
            return
        caret = self.session.selection.caret
        bar = song.grid.bar_at(caret)
        target = self.geometry_.rows[index]
        column = min(bar - row.row.first, len(target.bars) - 1)
        box = target.bars[column]
        if extend:
            self._extend_to(box.bar)
            return
        offset = min(caret - song.grid.starts[bar], Fraction(box.beats - 1))
        self._go(song.grid.starts[box.bar] + offset)

    def _go(self, caret: Position, chord: bool = False) -> None:
        self.session.select(caret, chord=chord)
        song = self.session.song
        if song is not None:
            self.seek_wanted.emit(song.grid.clock(self.session.selection.caret))

    def _extend_to(self, bar: int) -> None:
        song = self.session.song
        assert song is not None
        bar = max(0, min(len(song.grid.bars) - 1, bar))
        anchor = song.grid.bar_at(self.session.selection.caret)
        self.session.select(self.session.selection.caret, min(anchor, bar), max(anchor, bar))

    def _selection_moved(self) -> None:
        self.entry.close_quietly()
        self.reveal_caret()
        self._announce()
        self.repaint_rows()

    def accessible_parts(self) -> list[Part]:
        """Its bars and chords, where they are in sight just now."""
        song, geometry, s = self.session.song, self.geometry_, self.session.selection
        if song is None or geometry is None:
            return []
        asked = (song, geometry, s)
        if self._reach[0] != asked:
            chord = self.session.chord_index if s.chord else None
            self._reach = (asked, bar_parts(song, geometry, s.first, s.last, chord))
        return moved(self._reach[1], -self._offset())

    def painted_on(self) -> QWidget:
        return self.viewport()

    def _announce(self) -> None:
        """Tell screen readers what is selected."""
        self.setAccessibleDescription(self.session.describe_selection())
        QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.DescriptionChanged))

    def reveal_caret(self) -> None:
        """Scroll so that the caret's row is in sight."""
        if self.geometry_ is None:
            return
        row, x = self.geometry_.point(self.session.selection.caret)
        bar, height = self.verticalScrollBar(), self.viewport().height()
        if row.y - row.above < bar.value():
            bar.setValue(int(row.y - row.above - 10))
        elif row.y + row.height > bar.value() + height:
            bar.setValue(int(row.y + row.height - height + 10))
        across, width = self.horizontalScrollBar(), self.viewport().width()
        if not across.value() <= x <= across.value() + width - 40:
            across.setValue(int(x - width / 2))

    # ------------------------------------------------------------ stating chords

    def start_entry(self, text: str = "") -> None:
        """Open the chord entry at the caret; without text it holds the present chord."""
        song = self.session.song
        if song is None or self.geometry_ is None:
            return
        self.reveal_caret()
        caret = self._entry_position()
        index = song.chord_index(caret)
        key = song.guitar.key_moved(song.key_at(caret), song.guitar.shown_shift)
        shown = text or (shown_names(song, index)[0] if not song.chords[index].chord.is_none else "N")
        self.entry.open_at(self._entry_point(), shown, key, select=not text, school=song.notation)
        self.entry.place(self._entry_point())  # below what it shows, where it shows several chords

    def _entry_position(self) -> Position:
        """Where what is typed begins."""
        song, s = self.session.song, self.session.selection
        assert song is not None
        return song.grid.bar_range(s.first)[0] if s.many else s.caret

    def _entry_point(self) -> QPoint:
        assert self.geometry_ is not None
        row, x = self.geometry_.point(self._entry_position())
        if self._preview:  # what is typed shows over the bars: the field stands below them
            return (QPointF(x, row.y + row.height) - self._offset()).toPoint()
        return (QPointF(x, row.y + CHORD_TOP * self.geometry_.scale) - self._offset()).toPoint()

    def _entered(self, what: Entered) -> None:
        """State what was typed, and go on to the next bar."""
        song = self.session.song
        if song is None:
            return
        first = song.grid.bar_at(self._entry_position())
        last = self.session.selection.last
        if what.bars:
            pieces, error = self._pieces(what.bars)
            if error or not self.session.edit(lambda s: state_chords(s, pieces), decide="chords"):
                return
            last = song.grid.bar_at(pieces[-1][1] - Fraction(1, 64))
        elif what.same:
            index = song.chord_index(self._entry_position())
            self.session.state_chord(song.chords[index].chord, song.chords[index].spelling)
        elif what.one is not None:
            self.session.state_chord(self._sounding(what.one), self._spelling(what.one))
        self.setFocus()
        following = max(first, last) + 1
        if not what.stays and following < len(song.grid.bars):
            self._go(song.grid.bar_range(following)[0])

    def state_line(self, text: str) -> str:
        """State the chords of a line of text from the first selected bar on; returns what does not fit, or "".
        Raises ChordError with a sentence where it is none."""
        song = self.session.song
        if song is None:
            return ""
        key = song.guitar.key_moved(song.key_at(self.session.selection.caret), song.guitar.shown_shift)
        self.entry.key, self.entry.school = key, song.notation
        pieces, error = self._pieces(parse_line(text, self.entry.parse))
        if not error:
            self.session.edit(lambda s: state_chords(s, pieces), decide="chords")
        return error

    def _sounding(self, one: Typed) -> Chord:
        """What is typed is what is shown: where shapes are, what sounds when they are played."""
        song = self.session.song
        assert song is not None
        return one.chord.transposed(-song.guitar.shown_shift)

    def _spelling(self, one: Typed) -> Spelling | None:
        song = self.session.song
        assert song is not None
        shift = song.guitar.shown_shift
        return (*one.spelling, shift) if one.spelling is not None else None

    def _pieces(self, bars: Sequence[Bar]) -> tuple[list[Piece], str]:
        """The chords of typed bars on the grid from the caret's bar on, and what does not fit."""
        song = self.session.song
        assert song is not None
        grid = song.grid
        first = grid.bar_at(self._entry_position())
        out: list[Piece] = []
        for k, bar in enumerate(bars):
            if first + k >= len(grid.bars):
                left = len(grid.bars) - first
                told = trn(
                    "Only {left} bar is left here, {typed} are typed.",
                    "Only {left} bars are left here, {typed} are typed.",
                    left, left=left, typed=len(bars),
                )  # fmt: skip
                return out, told
            start = grid.bar_range(first + k)[0]
            try:
                for offset, length, one in shares(bar, grid.bars[first + k].beats):
                    if one is not None:
                        place = start + offset
                        out.append((place, place + length, self._sounding(one), self._spelling(one)))
                    elif out and out[-1][1] == start:
                        out[-1] = (out[-1][0], start + length, *out[-1][2:])
                    else:  # what stands before goes on
                        before = song.chords[song.chord_index(max(Fraction(0), start - Fraction(1, 64)))]
                        out.append((start, start + length, before.chord, before.spelling))
            except ChordError as error:
                return out, tr("Bar {number}: {error}", number=grid.number(first + k), error=error)
        return out, ""

    def _agrees(self, bars: tuple[Bar, ...]) -> str:
        """How well the sound agrees with typed bars, in words."""
        song, evidence = self.session.song, self.session.evidence
        if song is None or not bars:
            return ""
        pieces, error = self._pieces(bars)
        if error:
            raise ChordError(error)
        first, last = song.grid.bar_at(pieces[0][0]), song.grid.bar_at(pieces[-1][1] - Fraction(1, 64))
        where = bars_text(song.grid, first, last)
        if evidence is None:
            return where
        clock = song.grid.clock
        found = agreement(evidence.harmony, [(clock(a), clock(b), chord) for a, b, chord, _ in pieces])
        parts = [f"{song.name_as_typed(p[2], p[0], p[3])} {x:.0%}" for p, x in zip(pieces, found, strict=True)]
        more = tr(" and {count} more", count=len(parts) - 8) if len(parts) > 8 else ""
        return tr(
            "{where}; how well the sound agrees: {parts}{more}", where=where, parts=" · ".join(parts[:8]), more=more
        )

    def _show_preview(self, bars: tuple[Bar, ...]) -> None:
        self._preview = self._pieces(bars)[0] if bars and self.session.song is not None else []
        if self.geometry_ is not None and self.entry.isVisible():
            self.entry.place(self._entry_point())
        self.viewport().update()

    def _paint_preview(self, painter: QPainter) -> None:
        """What is being typed, over the bars that it would be stated for."""
        song = self.session.song
        if not self._preview or song is None or self.geometry_ is None:
            return
        scale = self.geometry_.scale
        font = self.theme.serif(CHORD_SIZE * min(1.3, scale) * 0.86, bold=True, italic=True)
        painter.setFont(font)
        for start, end, chord, spelling in self._preview:
            for bar in range(song.grid.bar_at(start), song.grid.bar_at(end - Fraction(1, 64)) + 1):
                row, box = self.geometry_.box_of_bar(bar)
                a, b = song.grid.bar_range(bar)
                left = box.x_of(float(max(start, a) - a))
                right = box.x_of(float(min(end, b) - a))
                area = QRectF(left + 1, row.y + LINE_TOP * scale, right - left - 2, 30 * scale)
                painter.fillRect(area, self.theme.colour("chosen"))
                painter.setPen(self.theme.colour("stated" if start >= a else "faded"))
                name = song.name_as_typed(chord, start, spelling)
                painter.drawText(area.adjusted(5, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)

    # ------------------------------------------------------------ Qt

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        self.entry.close_quietly()
        self.viewport().update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.repaint_rows()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.repaint_rows()

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            song = self.session.song
            if song is not None:
                point = QPointF(event.pos()) + self._offset()  # type: ignore[attr-defined]
                chord = self.chord_under(point)
                self.setToolTip(self._chord_tip(chord) if chord is not None else "")
        return super().viewportEvent(event)

    def _chord_tip(self, index: int) -> str:
        song = self.session.song
        assert song is not None
        span = song.chords[index]
        if span.stated:
            return tr("{chord}: you stated it", chord=song.chord_name(index))
        rivals = ", ".join(f"{song.name_of(c, span.start)} {p:.0%}" for c, p in span.rivals[:3])
        return tr("{chord}: {confidence:.0%} sure", chord=song.chord_name(index), confidence=span.confidence) + (
            tr("; else {rivals}", rivals=rivals) if rivals else ""
        )
