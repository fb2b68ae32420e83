# SPDX-License-Identifier: GPL-3.0-or-later
"""Try it: five rehearsals of this guard, shown on the bench, then done by one's own hand, with what
came of it."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.document.document import Model
from hypsos.core.scenarios.rehearsals import (
    Rehearsal,
    RehearsalOutcome,
    outcomes,
    rehearsals,
    situation,
)
from hypsos.desk.services.background import aside
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.elided_button import ElidedButton
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.scroll_page import place_kept


class RehearsalCard(QFrame):
    """A line for each rehearsal with its outcome; opened, its acts one by one, and *Show it*."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.open = ""
        """The title of the rehearsal that is opened."""
        self.buttons: dict[str, QPushButton] = {}
        self.show_it: QPushButton | None = None
        self.told: list[str] = []
        """What is said of the opened one, act by act."""
        self._shown: tuple[Model, str] | None = None
        self._asked: Model | None = None
        self._found: tuple[Model, dict[str, RehearsalOutcome]] | None = None
        self._lines = QVBoxLayout()
        self._lines.setSpacing(4)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("Try it", "section"),
                label("What people do without thinking, and what this guard makes of it.", "faint"),
                self._lines,
            )
        )

    def refresh(self) -> None:
        """Show what comes of each with the guard as it is now."""
        model = self.workbench.loaded
        if not self.isVisible():
            return
        if self._found is None or self._found[0] is not model:
            if self._asked is not model:
                self._asked = model
                aside(self, lambda: (model, outcomes(model)), self._take, self._failed)
            return
        if self._shown is not None and self._shown[0] is model and self._shown[1] == self.open:
            return
        self._shown, came = (model, self.open), self._found[1]
        focused = next((t for t, b in self.buttons.items() if b.hasFocus()), None)
        clear(self._lines)
        self.buttons, self.show_it, self.told = {}, None, []
        for rehearsal in rehearsals(model):
            found = came[rehearsal.title]
            mark = "✗" if found.defeated else "✓"
            button = self.buttons[rehearsal.title] = ElidedButton(f"{mark} {rehearsal.title}")
            button.setObjectName("plain")
            button.setAccessibleDescription(found.end)
            button.clicked.connect(partial(self._toggle, rehearsal.title))
            self._lines.addLayout(row(button, None))
            if rehearsal.title == self.open:
                self._lines.addWidget(self._acts(rehearsal, found.said))
            self._lines.addWidget(label(found.end, "complaint" if found.defeated else "faint"))
        if focused in self.buttons:
            self.buttons[focused].setFocus()

    def _take(self, found: tuple[Model, dict[str, RehearsalOutcome]]) -> None:
        """What was found out beside the window; for a model that has changed meanwhile it is asked
        again."""
        if found[0] is self.workbench.model:
            self._found = found
        self._asked = None
        if self.workbench.model is not None:
            with place_kept(self):
                self.refresh()

    def _failed(self, sentence: str) -> None:
        self._asked = None
        self.workbench.notices.noticed.emit(sentence)

    def _acts(self, rehearsal: Rehearsal, said: tuple[str, ...]) -> QWidget:
        pairs = enumerate(zip(rehearsal.acts, said, strict=True), 1)
        self.told = [
            f"{i}. {act.words[:1].upper()}{act.words[1:]}: {what}." for i, (act, what) in pairs
        ]
        self.show_it = QPushButton("Show it on the bench")
        self.show_it.clicked.connect(
            lambda: self.workbench.simulation.play(situation(self.workbench.loaded, rehearsal))
        )
        hand = label(
            "Then do it yourself, propeller off: the lamp and the picture above say what came of it and why.",
            "faint",
        )
        return card(label("\n".join(self.told)), row(self.show_it, None), hand)

    def _toggle(self, title: str, *_: object) -> None:
        self.open = "" if self.open == title else title
        self.refresh()
