# SPDX-License-Identifier: GPL-3.0-or-later
"""What stands in the frame when the hangar cannot be read: what happened, and the newest back-up that
can be brought back."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QEventLoop
from PyQt6.QtWidgets import QMainWindow, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HangarDamaged, HypsosError
from hypsos.desk.widgets.page_layout import card, label, row
from hypsos.hangar.backups import Backup, moment_words
from hypsos.hangar.restoring import contents

MOST_NAMED = 16


class Rescue(QWidget):
    """Asks once: bring the back-up back, or leave everything as it is."""

    def __init__(self, error: HangarDamaged, newest: Backup) -> None:
        super().__init__()
        held = contents(newest.path)
        named = [f"{name}, changed {moment_words(when)}" for name, when in held.changed_at.items()]
        self.back = QPushButton("Bring it back")
        self.back.setObjectName("lead")
        self.leave = QPushButton("Leave it and close")
        for button in (self.back, self.leave):
            button.setAutoDefault(True)  # Enter presses it, as everywhere
        self.said = label(
            f"{error.what[:1].upper()}{error.what[1:]}: {error.where}. Nothing was changed."
        )
        self.offer = label(
            f"The newest back-up that is whole is of {newest.words}. It holds {len(named)} model"
            f"{'' if len(named) == 1 else 's'}. The damaged file stays beside it, under another name."
        )
        if len(named) > MOST_NAMED:
            named = [*named[:MOST_NAMED], f"and {len(named) - MOST_NAMED} more"]
        self.models = label("\n".join(named), "faint")
        self.complaint = label("", "complaint")
        self.complaint.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(28, 22, 28, 22)
        column.addWidget(label("The hangar cannot be opened", "title"))
        column.addWidget(
            card(
                self.said, self.offer, self.models, self.complaint, row(self.back, self.leave, None)
            )
        )
        column.addStretch(1)
        self._loop = QEventLoop()
        self._answer = False
        self.back.clicked.connect(self._bring_back)
        self.leave.clicked.connect(self._loop.quit)
        self.destroyed.connect(self._loop.quit)

    def complain(self, error: HypsosError) -> None:
        """Say why it could not be brought back; it can be tried again."""
        self.complaint.setText(str(error))
        self.complaint.show()

    def _bring_back(self) -> None:
        self._answer = True
        self._loop.quit()

    def answered(self, frame: QMainWindow) -> bool:
        """Wait for an answer: whether the back-up is to be brought back. Closing the frame leaves
        everything as it is."""
        self._answer = False
        frame.installEventFilter(self)
        self.back.setFocus()
        self._loop.exec()
        frame.removeEventFilter(self)
        return self._answer

    def eventFilter(self, watched: object, event: object) -> bool:
        assert isinstance(event, QEvent)
        if event.type() == QEvent.Type.Close:
            self._loop.quit()
        return False
