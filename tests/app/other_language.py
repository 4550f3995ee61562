"""Run by test_languages.py in a process of its own, since words are said when modules are loaded: the window with a song in
another language. Prints as JSON what it found.

    python -m tests.app.other_language brackets | de
"""

from __future__ import annotations

import gettext
import json
import os
import re
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from ychronos import tongue


class Brackets(gettext.NullTranslations):
    """A language that is English in brackets: what stands outside of them was not said in it."""

    def gettext(self, message: str) -> str:
        found = re.fullmatch(r"(\s*)(.*?)(\s*)", message, re.S)
        assert found is not None
        return f"{found[1]}⟦{found[2]}⟧{found[3]}" if re.search("[A-Za-z]{2}", message) else message

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        return self.gettext(msgid1 if n == 1 else msgid2)


LANGUAGE = sys.argv[1]
if LANGUAGE == "brackets":
    tongue._said = Brackets()
else:
    tongue.speak(LANGUAGE)

from PySide6.QtGui import QAction, QPainter  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QSizePolicy, QWidget  # noqa: E402

from tests.conftest import FERRY  # noqa: E402
from ychronos.app import start  # noqa: E402
from ychronos.app.desk.practicedialog import PracticeDialog  # noqa: E402
from ychronos.app.dialogs.figuredialog import FigureDialog  # noqa: E402
from ychronos.app.dialogs.fretboard import FretboardDialog  # noqa: E402
from ychronos.app.dialogs.guitardialog import GuitarDialog  # noqa: E402
from ychronos.app.dialogs.partsdialog import PartsDialog  # noqa: E402
from ychronos.app.dialogs.preferences import PreferencesDialog  # noqa: E402
from ychronos.app.settings import Settings  # noqa: E402
from ychronos.app.welcome.welcome import demo_songs  # noqa: E402
from ychronos.app.window import Window  # noqa: E402
from ychronos.audio.play.outputs import ManualOutput  # noqa: E402
from ychronos.formats import textchart  # noqa: E402
from ychronos.session.commands import figuring  # noqa: E402
from ychronos.song.titles import title_of  # noqa: E402

TITLES = [title_of(p) for p in demo_songs()]
SONGS = [re.escape(title) for title in TITLES]
KEYS = r"\b(Ctrl|Shift|Alt|Space|Del|Ins|Return|Backspace|Left|Right|Up|Down|F\d+)\b"
CHORD = r"\(?\b[A-G][♭♯b#]?(maj|min|m|dim|aug|sus|add)*\d*(\(?(add|maj|sus)\d*\)?)*(/[A-G][♭♯]?)?(?![A-Za-z])"


def outside(text: str) -> str:
    """What of a text was not said in the language: without names of chords, keys, files and the song."""
    before = ""
    while before != text:
        before, text = text, re.sub(r"⟦[^⟦⟧]*(⟧|…$)", "", text)  # or cut off where there was no more room
    for known in (
        r"<[^>]*>",
        KEYS,
        CHORD,
        r"\S*\.(ogg|jams|ychronos)\S*",
        r"\S*/\S*",
        "Ychronos",
        *SONGS,
        *(re.escape(title[:k]) + "…" for title in TITLES for k in range(3, len(title))),
        r"[♭♯]?\b[ivIV]+\b",
    ):
        text = re.sub(known, "", text)
    return text if re.search("[A-Za-z]{3}", text) else ""


def texts_of(widget: QWidget) -> list[str]:
    """All that a widget says, of it that people read or hear."""
    out = [widget.windowTitle(), widget.toolTip(), widget.accessibleName(), widget.accessibleDescription()]
    if isinstance(widget, QLabel | QAbstractButton):
        out.append(widget.text())
    if isinstance(widget, QComboBox) and not widget.isEditable():
        out += [widget.itemText(i) for i in range(widget.count())]
    if isinstance(widget, QLineEdit):
        out.append(widget.placeholderText())
    out += [t for a in widget.findChildren(QAction) for t in (a.text().replace("&", ""), a.toolTip())]
    return out


PAINTED: set[str] = set()


def listen_to_painting() -> None:
    """Keep what is painted as well."""
    paint = QPainter.drawText

    def heard(self: QPainter, *args: object) -> object:
        PAINTED.update(a for a in args if isinstance(a, str))
        return paint(self, *args)

    QPainter.drawText = heard  # type: ignore[method-assign, assignment]


def narrow(top: QWidget) -> list[str]:
    """Buttons and labels that have less room than their words need."""
    out = []
    for widget in top.findChildren(QWidget):
        if not widget.isVisible() or not isinstance(widget, QLabel | QAbstractButton) or not widget.text():
            continue
        shrinks = widget.sizePolicy().horizontalPolicy() in (QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        if isinstance(widget, QLabel) and (widget.wordWrap() or shrinks):
            continue  # it breaks, or shows as much as there is room for and the rest as a tooltip
        if widget.minimumSizeHint().width() > widget.width():
            out.append(f"{widget.text()} ({widget.width()} of {widget.minimumSizeHint().width()})")
    return out


def main() -> int:
    start.make_app([])
    listen_to_painting()
    with TemporaryDirectory() as folder:
        w = Window(Settings(Path(folder) / "settings.ini"), ManualOutput())
        w.show()
        w.resize(1024, 600)
        w.open_path(FERRY)
        while w.session.song is None or w.session.evidence is None:
            QTest.qWait(50)
        song = w.session.song
        said, tight, sizes = set(), [], {}
        dialogs = (
            PreferencesDialog(w.habits, w.wishes, ["Card"], True, w), GuitarDialog(song, w), PracticeDialog(w.practice, w),
            PartsDialog(song, 3, w.session.evidence, w), FretboardDialog(song, 3, w.theme, w),
            FigureDialog(w.theme, 4, figuring.choices(song, 3), ["⟦here⟧"], w),
        )  # fmt: skip
        for top in (*w.views, *dialogs):
            shown: QWidget = w
            if isinstance(top, str):
                w.show_view(top)
            else:
                shown = top
                shown.show()
            QTest.qWait(60)
            tight += narrow(shown)
            said |= {t for x in (shown, *shown.findChildren(QWidget)) for t in texts_of(x)}
            sizes[str(top) if isinstance(top, str) else type(top).__name__] = (shown.width(), shown.height())
            if shown is not w:
                shown.close()
        said |= PAINTED
        found = {
            "menus": [a.text() for a in w.menuBar().actions()],
            "outside": sorted({t for text in said if (t := outside(text))}),
            "said": sorted(said),
            "narrow": tight,
            "sizes": sizes,
            "selection": w.session.describe_selection(),
            "chart": textchart.render(w.session.song, folded=True),
        }
        print(json.dumps(found))
        sys.stdout.flush()
        os._exit(0)  # nobody is to be asked whether to save


if __name__ == "__main__":
    sys.exit(main())
