# SPDX-License-Identifier: GPL-3.0-or-later
"""While what something acts: all its conditions as one sentence, and which of them holds it back
now."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QFrame, QVBoxLayout

from hypsos.core.wording.describe_condition import phrase
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.page_layout import label
from hypsos.desk.widgets.when_line import WhenLine


class Limits(QFrame):
    """Lines that are read one after the other: *acts while A*, *and while B*, *and only while …*.

    Those that ask nothing are one line: where another condition can be put."""

    def __init__(self, workbench: Workbench, lines: Sequence[WhenLine]) -> None:
        super().__init__()
        self.workbench, self.lines = workbench, lines
        self.held_back = label("", "faint")
        self.held_back.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for line in lines:
            column.addWidget(line)
        column.addWidget(self.held_back)
        workbench.simulation.live_changed.connect(self._tell)

    def refresh(self) -> None:
        """Show the conditions as they are now."""
        asking = [line for line in self.lines if line.asked is not None]
        idle = [line for line in self.lines if line.asked is None]
        for line in self.lines:
            is_open = line.editor is not None and not line.editor.isHidden()
            line.setVisible(line in asking or line is idle[0] or is_open)
            line.behind = bool(asking) and line is not asking[0]
            line.refresh()
        self._tell()

    def _tell(self) -> None:
        """Which of several conditions does not hold now."""
        moment = self.workbench.state.settled_moment
        if moment is None or not self.isVisible():
            return
        asked = [text for line in self.lines if (text := line.asked) is not None]
        missing = [phrase(moment.model, text) for text in asked if not moment.holds(text)]
        said = f"Held back now: {' and '.join(missing)} {_verb(missing)}." if missing else ""
        if self.held_back.text() != said:
            self.held_back.setText(said)
            self.held_back.setVisible(bool(said))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._tell()


def _verb(missing: Sequence[str]) -> str:
    return "does not hold" if len(missing) == 1 else "do not hold"
