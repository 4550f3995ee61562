"""The guide: what everything is and how it is done, with the keys that the user has now."""

from __future__ import annotations

import html
import re
from importlib import resources

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QPushButton, QTextBrowser, QVBoxLayout

from ...tongue import spoken_here, tr
from ..actions import Actions
from ..labels import label
from ..shell import Shell
from ..theme import Theme

PLACES = {"sheet": "sheet", "ground": "ground", "key": "key", "form": "form", "hand": "hand", "page": "page"}


def text_of(actions: Actions) -> str:
    """The guide as HTML with the keys and words of the actions as they are now. Raises KeyError for an action that is none."""
    language = spoken_here()
    file = "guide.html" if language == "en" else f"guide_{language}.html"
    text = resources.files("ychronos").joinpath("guide", file).read_text(encoding="utf8")

    def filled(found: re.Match[str]) -> str:
        kind, name = found.groups()
        if kind == "words":
            return actions.entries[name].words.rstrip("…")
        keys = [s.toString(QKeySequence.SequenceFormat.NativeText) for s in actions.actions[name].shortcuts()]
        return f"<b>[{html.escape(keys[0])}]</b>" if keys else ""

    return re.sub(r"\{(key|words):([a-z_0-9]+)\}", filled, text)


class GuideDialog(QDialog):
    """Stays open beside the window; a line finds words in it, Return the next place."""

    def __init__(self, shell: Shell) -> None:
        super().__init__(shell)
        self.shell = shell
        self.setWindowTitle(tr("Guide"))
        self.page = QTextBrowser()
        self.page.setAccessibleName(tr("Guide"))
        self.page.setOpenLinks(True)
        self.page.setSearchPaths([str(resources.files("ychronos").joinpath("guide"))])
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("Find in the guide"))
        self.field.setAccessibleName(tr("Find in the guide"))
        self.field.setClearButtonEnabled(True)
        self.found = label("", quiet=True)
        following = QPushButton(tr("Next"))
        following.setAutoDefault(False)
        following.clicked.connect(self.find_next)
        self.field.textChanged.connect(self._find_first)
        self.field.returnPressed.connect(self.find_next)
        QShortcut(QKeySequence.StandardKey.Find, self, self.field.setFocus)
        row = QHBoxLayout()
        for part in (self.field, following, self.found):
            row.addWidget(part)
        row.setStretch(0, 1)
        layout = QVBoxLayout(self)
        layout.addLayout(row)
        layout.addWidget(self.page, 1)
        self.resize(760, 640)

    def show_at(self, view: str) -> None:
        """Show the guide at what it says of a view."""
        self.set_theme(self.shell.theme)
        self.page.setHtml(text_of(self.shell.actions_))
        self.show()
        self.raise_()
        if view in PLACES:
            self.page.scrollToAnchor(PLACES[view])
        self.field.setFocus(Qt.FocusReason.OtherFocusReason)

    def set_theme(self, theme: Theme) -> None:
        c = theme.colours
        self.page.document().setDefaultStyleSheet(
            f"body {{ color: {c.ink}; }} h1, h2 {{ color: {c.ink}; }} b {{ color: {c.stated}; }} code {{ color: {c.stated}; }}"
        )

    def _find_first(self, text: str) -> None:
        cursor = self.page.textCursor()
        cursor.setPosition(0)
        self.page.setTextCursor(cursor)
        self.find_next()

    def find_next(self) -> None:
        """The next place of what is typed, from the top again after the last one."""
        text = self.field.text().strip()
        if not text:
            self.found.setText("")
            return
        if not self.page.find(text):
            cursor = self.page.textCursor()
            cursor.setPosition(0)
            self.page.setTextCursor(cursor)
            if not self.page.find(text):
                self.found.setText(tr("Not in the guide"))
                return
        self.found.setText("")
