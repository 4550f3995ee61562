"""The language of what people read: on the screen, on paper, in messages.

Sentences stand in the code in English, as arguments of :func:`tr`; catalogues of other languages lie beside in
``languages`` (gettext). The language is chosen once, before anything is said: by the variable YCHRONOS_LANGUAGE, which
the window sets from the preferences or the desktop, and which the process beside it inherits. Without it, as on the
command line, all is English. What is kept in files, kinds of statements, qualities of chords, names of modes, stays
English and is said in the reader's language where it is shown.
"""

from __future__ import annotations

import gettext
import os
from pathlib import Path

VARIABLE = "YCHRONOS_LANGUAGE"
LANGUAGES = {"en": "English", "de": "Deutsch"}
FOLDER = Path(__file__).parent / "languages"
DOMAIN = "ychronos"


def usable(wanted: str) -> str:
    """The language of a name such as ``de_AT.UTF-8`` that there is a catalogue for; English where there is none."""
    short = wanted.split(":")[0].split(".")[0].split("_")[0].split("-")[0].lower()
    return short if short in LANGUAGES else "en"


_said: gettext.NullTranslations = gettext.NullTranslations()


def speak(language: str) -> None:
    """Say all in a language from now on, here and in processes begun from here; before anything is said."""
    global _said
    os.environ[VARIABLE] = language = usable(language)
    _said = gettext.NullTranslations() if language == "en" else gettext.translation(DOMAIN, FOLDER, [language])


def spoken_here() -> str:
    """The language that all is said in."""
    return usable(os.environ.get(VARIABLE, "en"))


def tr(text: str, /, **values: object) -> str:
    """A sentence in the reader's language, with ``values`` put in at their ``{names}``."""
    said = _said.gettext(text)
    return said.format(**values) if values else said


def trn(one: str, many: str, count: float, /, **values: object) -> str:
    """The same for what is said of one or of several."""
    said = _said.ngettext(one, many, 1 if count == 1 else 2)
    return said.format(**values) if values else said


def mark(text: str) -> str:
    """Words that are kept in English and said with :func:`tr` where they are shown; listed for the catalogues."""
    return text


def sentence(text: str) -> str:
    """Words with a capital letter at their beginning."""
    return text[:1].upper() + text[1:]


if VARIABLE in os.environ:
    speak(os.environ[VARIABLE])
