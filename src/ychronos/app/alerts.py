"""A word to whoever went elsewhere while something long was under way: through the desktop, or by the window's mark in its list."""

from __future__ import annotations

import logging
import os

from PySide6.QtWidgets import QApplication, QWidget

LONG = 5.0  # seconds of work after which its end is told
LOG = logging.getLogger("ychronos.alerts")
SERVICE, PLACE = "org.freedesktop.Notifications", "/org/freedesktop/Notifications"


def is_away(window: QWidget) -> bool:
    """Whether the user looks at something else."""
    return not window.isActiveWindow() and QApplication.activeModalWidget() is None


def tell(window: QWidget, title: str, text: str) -> None:
    """Mark the window in the desktop's list, and show a word where the desktop takes one."""
    QApplication.alert(window)
    if not os.environ.get("DBUS_SESSION_BUS_ADDRESS"):
        return
    try:
        from PySide6.QtDBus import QDBusConnection, QDBusMessage

        message = QDBusMessage.createMethodCall(SERVICE, PLACE, SERVICE, "Notify")
        message.setArguments(["Ychronos", 0, "radio.kestrelpoint.ychronos", title, text, [], {}, -1])
        QDBusConnection.sessionBus().send(message)  # nobody waits for an answer
    except (ImportError, RuntimeError, TypeError) as error:
        LOG.info("the desktop was not told: %s", error)
