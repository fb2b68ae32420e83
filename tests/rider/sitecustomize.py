# SPDX-License-Identifier: GPL-3.0-or-later
"""Rides along in a process of the installed program and does with its window what a person would,
by keys and mouse.

Found by way of PYTHONPATH; it loads nothing of its own until the program has its window, and
changes nothing in it."""

import os
import sys
import threading
import time

rider = None


def _wait() -> None:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        widgets = sys.modules.get("PyQt6.QtWidgets")
        window = sys.modules.get("hypsos.desk.window")
        app = (
            widgets.QApplication.instance() if widgets is not None and window is not None else None
        )
        if (
            app is not None
            and hasattr(window, "Window")
            and sys.modules.get("hypsos.desk.app") is not None
        ):
            _mount(sys.modules["PyQt6.QtCore"], app)
            return
        time.sleep(0.02)


def _mount(core, app) -> None:
    """Hand over to the program's own thread."""

    class Rider(core.QObject):
        def event(self, event) -> bool:
            if event.type() == core.QEvent.Type.User:
                import journey

                journey.begin()
            return True

    global rider
    rider = Rider()
    rider.moveToThread(app.thread())
    app.postEvent(rider, core.QEvent(core.QEvent.Type.User))


if os.environ.get("HYPSOS_JOURNEY"):
    threading.Thread(target=_wait, daemon=True).start()
