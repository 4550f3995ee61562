"""Which language the window speaks: what the preferences say, else the desktop's. Decided before anything else of the window
is loaded, since words are said when modules are."""

from __future__ import annotations

import os

from .. import tongue
from .settings import Settings

KEY = "language"
DESKTOP = "desktop"


def of_the_desktop() -> str:
    """The desktop's language, by the variables in their usual order."""
    found = (os.environ.get(name, "") for name in ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"))
    return tongue.usable(next((x for x in found if x), "en"))


def wanted(settings: Settings) -> str:
    """What was chosen: DESKTOP or one of ``tongue.LANGUAGES``."""
    said = settings.text(KEY, DESKTOP)
    return said if said in tongue.LANGUAGES else DESKTOP


def choose() -> None:
    """Speak the language that is wanted, unless the environment says which."""
    if tongue.VARIABLE not in os.environ:
        said = wanted(Settings())
        tongue.speak(of_the_desktop() if said == DESKTOP else said)
