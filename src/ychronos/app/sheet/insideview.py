"""The look inside a chord: what sounds in it, over time and note by note, and why it has the name it has."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QHelpEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from ...analysis.explain.inside import HARDLY, LIKELY, Inside, look_at, reasons
from ...session.session import MUSIC, Session
from ...song.model import Song
from ...tongue import tr
from ..guarding import painted
from ..soon import Soon
from ..theme import Theme

HEIGHT = 206
_TEXT, _GAP = 272.0, 26.0
_UP, _DOWN = 92.0, 30.0  # pixels for the chance to sound, and to be the bass
_SHOWN = 0.32  # loudness from which on a note of the picture gets a name


class InsideView(QWidget):
    """Shows the chord at the caret, or the selected bars, while it is visible."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self.session, self.theme = session, theme
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName(tr("Inside the chord"))
        self.seen: Inside | None = None
        self._words: list[str] = []
        self._columns = QRectF()
        session.watch(Soon(self.refresh, self), *MUSIC, "selection")
        self.hide()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def showEvent(self, event: QEvent) -> None:  # type: ignore[override]
        self.refresh()

    def refresh(self) -> None:
        """Look again; while it is hidden there is nothing to do."""
        if not self.isVisible():
            return
        d = self.session
        self.seen, self._words = None, []
        if d.song is not None and d.evidence is not None:
            index = d.chord_index
            start, end = d.song.chord_range(index)
            self.seen = look_at(d.song, d.evidence, start, end, d.song.chords[index].chord)
            self._words = reasons(d.song, d.evidence, index, self.seen)
            self.setAccessibleDescription(f"{d.song.chord_name(index)}: {'; '.join(self._words)}")
        self.update()

    # ------------------------------------------------------------ painting

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        t = self.theme
        p.fillRect(self.rect(), t.colour("shelf"))
        p.setPen(QPen(t.colour("edge"), 1))
        p.drawLine(0, 0, self.width(), 0)
        song, seen = self.session.song, self.seen
        if song is None or seen is None:
            p.setPen(t.colour("faded"))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, tr("Nothing has been listened to yet."))
            return
        index = self.session.chord_index
        self._text(p, song, index)
        width = self.width() - _TEXT - 2 * _GAP - 22
        picture = QRectF(22 + _TEXT + 34, 16, max(120.0, width * 0.42 - 34), HEIGHT - 42)
        self._picture(p, song, seen, picture, index)
        left = picture.right() + _GAP
        self._notes(p, song, seen, QRectF(left, 16, self.width() - left - 22, HEIGHT - 32), index)

    def _text(self, p: QPainter, song: Song, index: int) -> None:
        t = self.theme
        p.setFont(t.serif(16, bold=True))
        p.setPen(t.colour("ink"))
        p.drawText(QPointF(22, 32), tr("Inside {chord}", chord=song.chord_name(index)))
        p.setFont(t.sans(9))
        p.setPen(t.colour("faded"))
        p.drawText(QPointF(22, 50), song.grid.beat_name(song.chords[index].start))
        p.setPen(t.colour("ink"))
        p.setFont(t.sans(9.5))
        box = QRectF(22, 60, _TEXT, HEIGHT - 68)
        text = "\n".join(f"· {w}" for w in self._words[:6]) or tr("There is no chord here.")
        p.drawText(box, Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap, text)

    def _picture(self, p: QPainter, song: Song, seen: Inside, area: QRectF, index: int) -> None:
        """Loudness by note and moment."""
        t = self.theme
        loud = seen.picture.max(1)
        rows = [int(r) for r in range(len(loud)) if loud[r] > 0.15]
        low, high = max(0, min(rows, default=4) - 1), min(len(loud), max(rows, default=40) + 2)
        height, columns = area.height() / (high - low), seen.picture.shape[1]
        wide = area.width() / columns
        ink, out = t.colour("ink"), t.colour("doubt")
        mine = seen.chord.pitch_classes
        for row in range(low, high):
            y = area.bottom() - (row - low + 1) * height
            for column in range(columns):
                value = float(seen.picture[row, column])
                if value < 0.22:
                    continue
                colour = ink if row % 12 in mine else out
                colour.setAlphaF(min(1.0, value**1.4))
                p.fillRect(QRectF(area.left() + column * wide + 0.5, y, wide - 0.5, max(1.6, height - 0.4)), colour)
        p.setPen(QPen(t.colour("edge"), 1))
        start, end = song.chord_range(index)
        beats = float(end - start)
        for beat in range(int(beats) + 1):
            x = area.left() + area.width() * beat / max(beats, 1e-6)
            p.drawLine(QPointF(x, area.bottom()), QPointF(x, area.bottom() + 5))
        p.setFont(t.sans(8))
        named: list[float] = []
        for row in sorted(range(low, high), key=lambda r: -loud[r]):  # the loudest get their names first
            y = area.bottom() - (row - low + 0.5) * height
            if loud[row] < _SHOWN or any(abs(y - other) < 11 for other in named):
                continue
            named.append(y)
            p.setPen(t.colour("ink" if row % 12 in mine else "doubt"))
            p.drawText(
                QRectF(area.left() - 34, y - 7, 28, 14),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                song.note_name(index, row % 12),
            )
        p.setPen(t.colour("faded"))
        p.drawText(QPointF(area.left(), area.bottom() + 18), tr("what sounds, beat by beat"))

    def _notes(self, p: QPainter, song: Song, seen: Inside, area: QRectF, index: int) -> None:
        """Twelve notes from the root up: upwards how likely each sounds, downwards how likely it is the bass."""
        t = self.theme
        self._columns = area
        line = area.top() + 14 + _UP
        wide = area.width() / 12
        mine = seen.chord.pitch_classes
        p.setPen(QPen(t.colour("edge"), 1))
        p.drawLine(QPointF(area.left(), line), QPointF(area.right(), line))
        half = line - _UP * LIKELY
        p.setPen(QPen(t.colour("edge"), 1, Qt.PenStyle.DotLine))
        p.drawLine(QPointF(area.left(), half), QPointF(area.right(), half))
        for i in range(12):
            note = self.note_of(i)
            x = area.left() + i * wide
            bar = QRectF(x + wide * 0.18, line - _UP * seen.sounding[note], wide * 0.64, _UP * seen.sounding[note])
            belongs = note in mine
            if belongs:
                p.fillRect(bar, t.colour("ink"))
                if seen.sounding[note] < HARDLY:  # it should be there: the empty frame
                    p.setPen(QPen(t.colour("ink"), 1.2, Qt.PenStyle.DashLine))
                    p.drawRect(QRectF(bar.left(), half, bar.width(), line - half))
            elif seen.sounding[note] >= LIKELY:
                p.fillRect(bar, t.colour("doubt_paper"))
                p.setPen(QPen(t.colour("doubt"), 1.4))
                p.drawRect(bar)
            else:
                p.fillRect(bar, t.colour("sound"))
            if seen.bass[note] > 0.02:
                p.fillRect(QRectF(bar.left(), line + 19, bar.width(), _DOWN * seen.bass[note]), t.colour("stated"))
            p.setFont(t.sans(9, strong=belongs))
            p.setPen(t.colour("ink" if belongs else "doubt" if note in seen.leftover else "faded"))
            p.drawText(QRectF(x, line + 2, wide, 16), Qt.AlignmentFlag.AlignCenter, song.note_name(index, note))
        p.setFont(t.sans(8))
        p.setPen(t.colour("faded"))
        words = tr("up: likely to sound, framed: left over · down: likely in the bass")
        words = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(area.width()))
        p.drawText(QPointF(area.left(), HEIGHT - 8), words)

    def note_of(self, column: int) -> int:
        """The pitch class of a column: from the chord's root up, from C where there is none."""
        root = self.seen.chord.root if self.seen is not None else 0
        return ((root or 0) + column) % 12

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self.describe(QPointF(event.pos())), self)
            return True
        return super().event(event)

    def describe(self, point: QPointF) -> str:
        """What is known of the note under a point."""
        song, seen = self.session.song, self.seen
        if song is None or seen is None or not self._columns.contains(point):
            return ""
        note = self.note_of(min(11, int((point.x() - self._columns.left()) / self._columns.width() * 12)))
        at = song.chords[self.session.chord_index].start
        text = tr(
            "{shown_note} sounds {sounding:.0%}, in the bass {bass:.0%}",
            shown_note=song.shown_note(at, note),
            sounding=seen.sounding[note],
            bass=seen.bass[note],
        )
        made = seen.with_leftover(note) if note in seen.leftover else None
        if note in seen.chord.pitch_classes:
            text += tr("; it belongs to the chord")
        elif made is not None:
            text += tr("; with it the chord would be {name}", name=song.name_of(made, at))
        return text
