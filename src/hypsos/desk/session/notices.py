# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window is to say: sentences, offers, captions; and acts whose errors are said."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from hypsos.core.base.errors import HangarMoved, HypsosError
from hypsos.core.document.document import checked


class Notices(QObject):
    """Whoever has something to say emits it here; the window shows it."""

    noticed = pyqtSignal(str)
    """A sentence."""
    offered = pyqtSignal(str, str, object)
    """A sentence, and what can be done about it: a button's words and its action."""
    asked = pyqtSignal(str, object)
    """A sentence, and what can be done about it: several buttons' words, each with its action."""
    captioned = pyqtSignal(object)
    """Something is to be read over the aeroplane."""
    elsewhere_wanted = pyqtSignal()
    """The hangar's file is gone: what is here is to be written to another one."""

    def __init__(self) -> None:
        super().__init__()
        self.narrated = False
        """Whether what is done is told over the aeroplane, so that what the model says by itself is
        heard and not read."""

    def attempt(self, action: Callable[[], None], placed: bool = False) -> bool:
        """Do it; what goes wrong is said in the window, with its place in the file where it is
        about one (``placed``). True when it went well. A value made of what was typed may be
        refused where it is made; that is said in our words too."""
        try:
            checked(action)
        except HangarMoved as error:
            self.offer_elsewhere(error)
            return False
        except HypsosError as error:
            self.noticed.emit(str(error) if placed else error.plain)
            return False
        return True

    def offer_elsewhere(self, error: HangarMoved) -> None:
        """The hangar's file is gone: what is in hand stays here, and can be written to another
        place."""
        self.offered.emit(error.plain, "Write it to another file…", self.elsewhere_wanted.emit)

    def fault(self, report: str) -> None:
        """Something went wrong that nobody foresaw: say so, and offer the report of it."""
        said = "Something went wrong inside Hypsos that nobody foresaw. Every finished edit is saved, and the work goes on."
        self.offered.emit(said, "Copy the report", lambda: _copied(report))


def _copied(text: str) -> None:
    """Put a text into the clipboard."""
    from PyQt6.QtGui import QGuiApplication

    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(text)
