"""Work that a crash left unsaved: the page that lists it, and what can be done about it."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from ..paths import from_text
from ..session.keeping import Keeper, Unfinished
from ..song.words import plural
from ..tongue import tr
from .labels import label
from .shell import Shell
from .theme import Theme


class UnfinishedPage(QWidget):
    """All work that was not saved, each with its age and how it stands to its project."""

    open_wanted, throw_wanted, later_wanted = Signal(object), Signal(object), Signal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.title = QLabel(tr("Not saved when the program ended"))
        self.words = label(
            tr(
                "What was said last time is still here. Open it to go on; it stays listed until it is kept anew or saved."
            ),
            quiet=True,
        )
        self.words.setWordWrap(True)
        self.aside = label("", quiet=True)
        self.aside.setWordWrap(True)
        self.aside.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.later = QPushButton(tr("Later"))
        self.later.setToolTip(tr("Leave it where it is; File ▸ Not saved… brings this page back"))
        self.later.clicked.connect(self.later_wanted)
        self.entries: list[tuple[Unfinished, QPushButton, QPushButton]] = []
        self.rows = QVBoxLayout()
        self.rows.setSpacing(10)
        self.rows.setContentsMargins(0, 0, 0, 0)
        inner = QWidget()
        inner.setLayout(self.rows)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(inner)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(90, 50, 90, 30)
        layout.setSpacing(14)
        for part in (self.title, self.words):
            layout.addWidget(part)
        layout.addWidget(area, 1)
        layout.addWidget(self.aside)
        last = QHBoxLayout()
        last.addWidget(self.later)
        last.addStretch(1)
        layout.addLayout(last)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.title.setFont(theme.serif(26, bold=True))
        self.words.setFont(theme.sans(11))

    def show_all(self, works: Sequence[Unfinished], aside: Sequence[Path]) -> None:
        while self.rows.count():
            item = self.rows.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.deleteLater()
        self.entries = []
        for work in works:
            self.rows.addWidget(self._row(work))
        self.rows.addStretch(1)
        self.aside.setVisible(bool(aside))
        if aside:
            self.aside.setText(
                tr(
                    "{entries} could not be read and set aside in {parent}.",
                    entries=plural(len(aside), "entry", "entries"),
                    parent=aside[0].parent,
                )
            )
        if self.entries:
            self.entries[0][1].setFocus()

    def _row(self, work: Unfinished) -> QWidget:
        title, words = label(work.title), label(work.describe(), quiet=True)
        title.setFont(self.theme.serif(15, bold=True))
        words.setWordWrap(True)
        if work.saved_as is not None:
            words.setToolTip(str(work.saved_as))
        take, throw = QPushButton(tr("Open it")), QPushButton(tr("Throw away"))
        take.setProperty("main", True)
        take.setAccessibleName(tr("Open {title} as it was left", title=work.title))
        throw.setAccessibleName(tr("Throw away the unsaved changes to {title}", title=work.title))
        take.clicked.connect(lambda: self.open_wanted.emit(work))
        throw.clicked.connect(lambda: self.throw_wanted.emit(work))
        text = QVBoxLayout()
        text.setSpacing(3)
        text.addWidget(title)
        text.addWidget(words)
        row = QFrame()
        row.setObjectName("unfinished")
        across = QHBoxLayout(row)
        across.setContentsMargins(16, 12, 16, 12)
        across.setSpacing(12)
        across.addLayout(text, 1)
        across.addWidget(take)
        across.addWidget(throw)
        self.entries.append((work, take, throw))
        return row


def _same(path: Path, other: str) -> bool:
    return os.path.realpath(path) == os.path.realpath(other)


class Recovery:
    """What the window does about work that was not saved. Nothing of it goes before its new copy is on the disk."""

    def __init__(self, shell: Shell, keeper: Keeper, page: UnfinishedPage, restore: Callable[..., bool]) -> None:
        self.shell, self.keeper, self.page = shell, keeper, page
        self._restore = restore
        self.showing = False
        page.open_wanted.connect(self.open)
        page.throw_wanted.connect(self.throw_away)
        page.later_wanted.connect(self.leave)

    def look(self) -> bool:
        """Show the page when there is anything to show; False when there is not."""
        works, aside = self.keeper.unfinished()
        self.page.show_all(works, aside)
        self.showing = bool(works or aside)
        self.shell.show_page()
        return self.showing

    def leave(self) -> None:
        self.showing = False
        self.shell.show_page()

    def offer_for(self, path: Path) -> None:
        """A file is opened: its own unsaved work is offered, and other work mentioned, when nothing else is said."""
        works, _ = self.keeper.unfinished()
        own = [w for w in works if _same(path, str(w.saved_as or from_text(w.found.head.recording)))]
        if own:
            work = own[0]
            self.shell.notice.say(
                tr(
                    "There is work on “{title}” that was not saved. {describe}",
                    title=work.title,
                    describe=work.describe(),
                ),
                {tr("Restore"): lambda: self.open(work), tr("Throw away"): lambda: self.throw_away(work)},
                error=False,
            )
        elif works:
            self._mention(len(works))

    def _mention(self, count: int) -> None:
        if not self.shell.notice.isVisible():
            self.shell.notice.say(
                tr("{songs} with unsaved work from last time.", songs=plural(count, "song", "songs")),
                {tr("Show"): self.look},
                error=False,
            )

    def open(self, work: Unfinished) -> None:
        """Open what was left; it goes from the disk when its new copy is there."""
        if not self.shell.may_close():
            return
        found = work.found
        self.showing = False
        if self._restore(found.song, work.saved_as, found.head.mark):
            work.discard()
        self.shell.show_page()
        works, _ = self.keeper.unfinished()
        if works:
            self._mention(len(works))

    def throw_away(self, work: Unfinished) -> None:
        work.throw_away()
        if self.showing:
            self.look()

        def back() -> None:
            work.take_back()
            self.look()

        self.shell.notice.say(
            tr("The unsaved changes to “{title}” are thrown away.", title=work.title), {tr("Undo"): back}, error=False
        )
