# SPDX-License-Identifier: GPL-3.0-or-later
"""A card over the window that gives the focus back to where it was."""

from __future__ import annotations

from PyQt6 import sip
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QFrame, QWidget


class FloatingCard(QFrame):
    """Over the middle of the window. Escape puts it away, and the focus goes back."""

    def __init__(self, name: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self._before: QWidget | None = None
        self.hide()

    def begin(self, wanted: QSize, field: QWidget) -> None:
        """Show it, as large as is wanted and there is room for; ``field`` gets the focus."""
        if not self.isVisible():
            self._before = QApplication.focusWidget()
        parent = self.parentWidget()
        if parent is not None:
            room = QSize(parent.width() - 16, parent.height() - 16)
            self.resize(wanted.boundedTo(room))
            across = (parent.width() - self.width()) // 2
            down = max(8, (parent.height() - self.height()) // 2)
            self.move(across, down)
        self.show()
        self.raise_()
        field.setFocus()

    def put_away(self) -> None:
        """Hide it; the focus is where it was before."""
        before, self._before = self._before, None
        self.hide()
        if before is not None and not sip.isdeleted(before) and before.isVisible():
            before.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.put_away()
        else:
            super().keyPressEvent(event)
