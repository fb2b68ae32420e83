# SPDX-License-Identifier: GPL-3.0-or-later
"""The frame of the window: on the screen first, while the work that goes into it is being loaded.

A start takes most of its time for loading the libraries that compute. None of them is needed to put
a window on the screen, where it was and as large as it was. So the frame comes first, and is
painted between one library and the next; then the work is put into it. The frame hands on what only
an outermost window is told: that the pilot comes back to it, and that it is to be closed.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from importlib import import_module

from PyQt6.QtCore import QCoreApplication, QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QMainWindow

DEAR = (
    "pydantic_core",
    "numpy",
    "hypsos.core.document.program",
    "hypsos.core.document.document",
    "hypsos.desk.window",
)
"""What takes long to load, each needing the one before it."""


class Frame(QMainWindow):
    """The outermost window, with one :class:`~hypsos.desk.window.Window` at a time in it."""

    come_back = pyqtSignal()
    """The pilot was in another window, and is in this one again."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Hypsos")
        self.setMinimumSize(800, 560)
        self.resize(1280, 800)
        self.held: QMainWindow | None = None

    def appear(self, dress: Callable[[], object]) -> None:
        """Be on the screen. What takes long is done while the desktop puts the frame there, and it
        is painted as soon as it stands: ``dress`` puts font and look on, then come the
        libraries."""
        self.show()
        QCoreApplication.processEvents()
        steps: list[Callable[[], object]] = [
            dress,
            *(partial(import_module, name) for name in DEAR),
        ]
        for step in steps:
            step()
            QCoreApplication.processEvents()

    def hold(self, work: QMainWindow) -> None:
        """Put the work inside, in the place of what was there, which is closed."""
        before, self.held = self.held, work
        work.setWindowFlags(Qt.WindowType.Widget)
        work.windowTitleChanged.connect(self.setWindowTitle)
        self.setWindowTitle(work.windowTitle())
        if before is not None:
            before.windowTitleChanged.disconnect(self.setWindowTitle)
            before.close()
        self.setCentralWidget(work)  # what was there is deleted

    def changeEvent(self, event: QEvent | None) -> None:
        super().changeEvent(event)
        assert event is not None
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            self.come_back.emit()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if self.held is not None:
            self.held.close()
        super().closeEvent(event)
