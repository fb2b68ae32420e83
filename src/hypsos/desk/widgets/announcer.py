# SPDX-License-Identifier: GPL-3.0-or-later
"""Announcements to a screen reader: what has just happened, wherever its focus is.

Qt tells a reader of names and values that change, and a reader speaks those where the focus is. A
notice or a refusal elsewhere needs the bus's own *Announcement*. PyQt binds no accessibility, so it
is sent over the connection that Qt has opened for its own messages: from any other one a reader
would not know the program."""

from __future__ import annotations

import os

BUS = "a11y"
"""What Qt calls its connection to the bus of assistive technology."""
ROOT = "/org/a11y/atspi/accessible/root"
EVENTS = "org.a11y.atspi.Event.Object"
POLITE = 1
INTEGER, STRING = 2, 10
"""What Qt calls these types where it passes on values."""


def announce(text: str) -> None:
    """Have a text spoken by the screen reader, if one listens."""
    if not text or "DBUS_SESSION_BUS_ADDRESS" not in os.environ:
        return
    # dear to import, so only where it is needed
    from PyQt6.QtDBus import QDBusArgument, QDBusConnection, QDBusMessage, QDBusVariant

    bus = QDBusConnection(BUS)
    if not bus.isConnected():
        return
    source = QDBusArgument()
    source.beginStructure()
    source.add(bus.baseService())
    source.add(ROOT, STRING)
    source.endStructure()
    message = QDBusMessage.createSignal(ROOT, EVENTS, "Announcement")
    polite = QDBusArgument(POLITE, INTEGER)
    nothing = QDBusArgument(0, INTEGER)
    message.setArguments(["", polite, nothing, QDBusVariant(text), source])
    bus.send(message)
