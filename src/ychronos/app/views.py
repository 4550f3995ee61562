"""The views that the window has, one entry each: tabs, actions, keys and their pages are made from these."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from ..formats.registry import exporter
from ..session.choosing import Choosing
from ..session.commands import keys, record, sections, shapes
from ..tongue import tr
from . import files, looks, printing
from .form.formview import FormView
from .ground.groundview import GroundView
from .hand.handview import HandView
from .key.keyview import KeyView
from .labels import Roomy
from .page.pageview import PageView
from .shell import Shell


@dataclass(frozen=True)
class View:
    """A view: ``make`` gives its page, a widget with ``set_theme`` and ``set_clock`` (seconds) that watches the session
    itself; ``connect`` ties what it asks for to the window."""

    id: str
    words: str
    tip: str
    keys: str
    make: Callable[[Shell], Any]
    connect: Callable[[Shell, Any], None] = lambda shell, page: None


class SheetPage(QWidget):
    """The sheet with the look inside below it and its panel at the right, which the window owns."""

    def __init__(self, shell: Shell) -> None:
        super().__init__()
        across = QHBoxLayout(self)
        across.setContentsMargins(0, 0, 0, 0)
        across.setSpacing(0)
        down = QVBoxLayout()
        down.setSpacing(0)
        down.addWidget(shell.sheet, 1)
        down.addWidget(shell.inside)
        across.addLayout(down, 1)
        self.beside = Roomy(shell.side, upright_only=True)
        self.beside.setFixedWidth(shell.side.maximumWidth())
        shell.side.installEventFilter(self)
        across.addWidget(self.beside)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The panel's room goes with the panel."""
        if event.type() in (QEvent.Type.ShowToParent, QEvent.Type.HideToParent):
            self.beside.setVisible(event.type() == QEvent.Type.ShowToParent)
        return super().eventFilter(watched, event)

    def set_theme(self, theme: object) -> None:
        pass  # its parts are told by the window

    def set_clock(self, seconds: float | None) -> None:
        pass


def _ground(shell: Shell, page: GroundView) -> None:
    page.time.seek_wanted.connect(shell.hear_from)
    page.time.bar_wanted.connect(shell.go_to_bar)
    page.pitch_pressed.connect(lambda: record.toggle_true_pitch(shell.session))
    page.pitch_told.connect(lambda words: shell.actions_.tip(page.pitch, "true_pitch", words))
    page.clock_pressed.connect(lambda: record.toggle_clock(shell.session))
    page.guitar_pressed.connect(lambda: looks.set_guitar(shell))
    page.capo_pressed.connect(lambda capo: shapes.take_capo(shell.session, capo))


def _key(shell: Shell, page: KeyView) -> None:
    page.lanes.seek_wanted.connect(shell.hear_from)
    page.lanes.bars_wanted.connect(shell.select_bars)
    page.key_stated.connect(lambda key: keys.state_key(shell.session, key))
    page.respell_wanted.connect(lambda: keys.respell(shell.session))
    page.chord_wanted.connect(shell.show_chord)


def _form(shell: Shell, page: FormView) -> None:
    page.bar_chosen.connect(lambda bar: looks.hear_bar(shell, bar))
    page.pair_chosen.connect(lambda a, b: looks.hear_both(shell, a, b))
    page.edge_moved.connect(lambda i, bar: sections.move_edge(shell.session, i, bar))
    page.rename_wanted.connect(lambda i: sections.rename(shell.session, i))
    page.same_wanted.connect(lambda i: sections.same_as(shell.session, i))
    page.strip.seek_wanted.connect(shell.seek)


def _hand(shell: Shell, page: HandView) -> None:
    session = shell.session
    page.shape_wanted.connect(lambda index, shape, where: shapes.choose(session, shape, where, index))
    page.forget_wanted.connect(lambda index: shapes.forget(session, index))
    page.hear_wanted.connect(shell.hearing.hear_shape)
    page.setup_wanted.connect(lambda setup: shapes.set_guitar(session, setup))
    page.level_wanted.connect(lambda level: shapes.set_level(session, level))
    page.swap_pressed.connect(lambda: shapes.swap_guitars(session))
    page.second_pressed.connect(lambda: looks.set_second_guitar(shell))
    page.guitar_pressed.connect(lambda: looks.set_guitar(shell))
    page.place_wanted.connect(shell.show_chord)
    page.preview_left.connect(lambda setup: looks.preview_guitar(shell, setup))


def _page(shell: Shell, page: PageView) -> None:
    page.write_pressed.connect(lambda: files.export(shell, exporter("pdf")))
    page.print_pressed.connect(lambda: printing.print_song(shell))


VIEWS: tuple[View, ...] = (
    View("sheet", tr("Sheet"), tr("The recording folded into bars"), "Ctrl+1", SheetPage),
    View("ground", tr("Ground"), tr("Tuning, tempo, bars and meters with their evidence"), "Ctrl+2",
         lambda s: GroundView(s.session, s.theme, Choosing(s.session)), _ground),
    View("key", tr("Key"), tr("What speaks for which key, and chords from outside it"), "Ctrl+3",
         lambda s: KeyView(s.session, s.theme), _key),
    View("form", tr("Form"), tr("The whole song, each section every time it comes, what differs"), "Ctrl+4",
         lambda s: FormView(s.session, s.theme), _form),
    View("hand", tr("Hand"), tr("Shapes, other ways to hold them, capo and tuning"), "Ctrl+5",
         lambda s: HandView(s.session, s.theme, Choosing(s.session)), _hand),
    View("page", tr("Page"), tr("The chart on paper: which paper, how large, what is on it; print it or write it"), "Ctrl+6",
         lambda s: PageView(s.session, s.theme, s.wishes, lambda: s.sheet.per_row), _page),
)  # fmt: skip
