# SPDX-License-Identifier: GPL-3.0-or-later
"""When something acts: read in one breath, and its sentence when it is to be changed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout

from hypsos.core.base.errors import DocumentError
from hypsos.core.document.paths import get_at
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.wording.describe_condition import phrase
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.page_layout import row, set_tip, worded
from hypsos.desk.widgets.scroll_page import place_kept
from hypsos.desk.widgets.sentence_editor import SentenceEditor

MOST_SAID = 36
"""Letters of a condition beside what it is about; all of it is in the tip and in its sentence."""


class WhenLine(QFrame):
    """The condition at a place of the document. ``about`` names what asks it; ``verb`` is what it
    does while it holds."""

    def __init__(
        self,
        workbench: Workbench,
        place: ConditionPlace,
        about: Callable[[], str],
        verb: str = "acts",
    ) -> None:
        super().__init__()
        self.workbench, self.place, self.about, self.verb = workbench, place, about, verb
        self.behind = False
        """Whether it goes on a sentence that another line has begun."""
        self.editor: SentenceEditor | None = None
        self.button = QPushButton("")
        self.button.setObjectName("plain")
        self.button.clicked.connect(self._toggle)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 4)
        self._column.addLayout(row(self.button, None))
        self.refresh()

    def refresh(self) -> None:
        """Show it as it is now."""
        try:
            text = get_at(self.workbench.loaded, self.place.path)
        except DocumentError:  # another model is on the bench, and the page will say so in a moment
            return
        model = self.workbench.loaded
        never = self.place.none if self.place.none != "always" else f"{self.verb} always"
        said = never if text is None else f"{self.verb} while {phrase(model, text)}"
        if self.behind:
            said = "and only while …" if text is None else f"and while {phrase(model, text)}"
        short = said if len(said) <= MOST_SAID else f"{said[: MOST_SAID - 1]}…"
        self.button.setText(worded(short))
        self.button.setAccessibleName(f"{self.about()} {said}")
        set_tip(self.button, said)
        if self.editor is not None:
            self.editor.place = self.place
            self.editor.refresh()

    @property
    def asked(self) -> str | None:
        """The condition that stands there; None for none."""
        try:
            found: str | None = get_at(self.workbench.loaded, self.place.path)
        except DocumentError:
            return None
        return found

    def open(self) -> SentenceEditor:
        """Show the sentence with its words to choose."""
        if self.editor is None:
            self.editor = SentenceEditor(self.workbench, self.place, self.about())
            self._column.addWidget(self.editor)
        with place_kept(self):
            self.editor.show()
        return self.editor

    def _toggle(self) -> None:
        if self.editor is not None and self.editor.isVisible():
            with place_kept(self):
                self.editor.hide()
            return
        words = self.open().words
        if words:
            words[0].setFocus()
