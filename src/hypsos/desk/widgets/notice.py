# SPDX-License-Identifier: GPL-3.0-or-later
"""The notice: what went wrong, where, and what to do, at the top of the window until it is put
away."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from hypsos.desk.widgets.page_layout import label


class Notice(QFrame):
    """Hidden while there is nothing to say. It may offer something to do about it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        line = QHBoxLayout(self)
        line.setContentsMargins(14, 6, 14, 6)
        self.text = label("")
        self.text.setAccessibleName("Notice")
        self.act = QPushButton("")
        self.act.clicked.connect(self._acted)
        self.act.hide()
        self.close_ = QPushButton("Put away")
        self.close_.setToolTip("Escape puts it away, too.")
        self.close_.clicked.connect(self.put_away)
        line.addWidget(self.text, 1)
        line.addWidget(self.act)
        line.addWidget(self.close_)
        self._action: Callable[[], object] | None = None
        self.hide()

    def say(
        self, sentence: str, offer: str = "", action: Callable[[], object] | None = None
    ) -> None:
        """Show one sentence; with ``offer`` a button for what can be done about it."""
        self.text.setText(sentence)
        self.act.setText(offer)
        self.act.setVisible(bool(offer))
        self._action = action
        self.show()

    def put_away(self) -> None:
        """Hide it, and forget what it offered."""
        self._action = None
        self.hide()

    def _acted(self) -> None:
        action = self._action
        self.put_away()
        if action is not None:
            action()
