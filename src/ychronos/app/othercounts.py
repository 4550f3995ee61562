"""The other counts of a recording: beside the count in the head when one is near, and as a menu."""

from __future__ import annotations

from PySide6.QtWidgets import QMenu, QWidget

from ..analysis.beats.rivals import Rival
from ..session.otherwise import Otherwise
from ..session.session import Session
from ..tongue import tr
from .head import Head


class OtherCounts:
    """Shows what :class:`Otherwise` finds in ``head``, and takes what the user chooses."""

    def __init__(self, window: QWidget, session: Session, head: Head) -> None:
        self._window, self._session, self._head = window, session, head
        self.otherwise = Otherwise(session)
        self.menu: QMenu | None = None
        self.otherwise.changed.connect(self._show)
        head.count.other.clicked.connect(self.ask)

    def _show(self) -> None:
        near = self.otherwise.near
        tip = tr("What else the record may be counted as; press to choose") if near else ""
        self._head.count.offer(tr("or {words}?", words=near.words) if near else "", tip)

    def near(self) -> tuple[str, float] | None:
        """The likeliest other count in words and how likely it is, when it is near."""
        rival = self.otherwise.near
        return (rival.words, rival.share) if rival is not None else None

    def ask(self) -> None:
        """Open the menu of all other counts, the likeliest first."""
        if not self.otherwise.rivals:
            self._session.tell(tr("No other count of this recording is likely."))
            return
        if self.menu is not None:
            self.menu.deleteLater()
        menu = self.menu = QMenu(self._window)
        menu.setAccessibleName(tr("Other counts of this recording"))
        for rival in self.otherwise.rivals:
            action = menu.addAction(tr("Count {words}   {share:.0%} likely", words=rival.words, share=rival.share))
            action.triggered.connect(lambda _=False, r=rival: self._take(r))
        self._head.count.open_menu(menu)

    def _take(self, rival: Rival) -> None:
        self.otherwise.take(rival)
