# SPDX-License-Identifier: GPL-3.0-or-later
"""What pages will need and is dear to load is loaded while the hands rest, so that no page opens
late."""

from __future__ import annotations

from importlib import import_module

from PyQt6.QtCore import QObject, QTimer

from hypsos.core.rundown import STEPS

SEARCHES = (
    "hypsos.core.review.search.motor_search",
    "hypsos.core.review.search.surface_search",
    "hypsos.core.review.rules",
)
"""What the pages of the failsafe and of the findings ask, from the least to the whole of it."""
WANTED = (
    *SEARCHES,
    *(f"hypsos.desk.pages.{s.key}_page" for s in STEPS),
    "jinja2",
    "hypsos.core.sheet.html_sheet:template",
    "hypsos.core.base.values:make_one_ready",
)
"""Modules, and what is called in them until it does not say True, in pieces of which none is
noticed."""
FIRST_MS, EVERY_MS = 1500, 100


class Preload(QObject):
    """Loads one after the other; stops when it is done."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.left = list(WANTED)
        self._timer = QTimer(self)
        self._timer.setInterval(FIRST_MS)
        self._timer.timeout.connect(self.load_next)
        self._timer.start()

    def load_next(self) -> None:
        """Load what comes next."""
        self._timer.setInterval(EVERY_MS)
        wanted = self.left.pop(0)
        module, _, called = wanted.partition(":")
        found = import_module(module)
        if called and getattr(found, called)() is True:
            self.left.insert(0, wanted)
        if not self.left:
            self._timer.stop()
