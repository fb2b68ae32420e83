# SPDX-License-Identifier: GPL-3.0-or-later
"""How far each statement was searched, and which this model is not asked about, with the reason."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.review.rules import STATEMENTS
from hypsos.core.review.search_words import MARKS, searched_words
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import TextField
from hypsos.desk.widgets.page_layout import card, label, row


class SearchedView(QWidget):
    """A row for every statement, in the order of danger."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.rows = {s: _StatementRow(workbench, s) for s in STATEMENTS}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(
            label(
                "▲ a danger where it is broken, ◆ a fault, ● advice. One that is left out keeps its reason.",
                "faint",
            )
        )
        for made in self.rows.values():
            column.addWidget(made)

    def refresh(self) -> None:
        """Show how far each was searched."""
        found = self.workbench.companions.search.found
        searched = (
            {s.statement: searched_words(s) for s in found.searched} if found is not None else {}
        )
        for name, made in self.rows.items():
            made.show_state(searched.get(name, ""))


class _StatementRow(QFrame):
    def __init__(self, workbench: Workbench, statement: str) -> None:
        super().__init__()
        self.workbench, self.statement = workbench, statement
        about = STATEMENTS[statement]
        self.claim = label(f"{MARKS[about.level]}  {about.claim}")
        self.says = label("", "faint")
        self.leave = QPushButton("Leave it out…")
        self.leave.setObjectName("plain")
        self.leave.setAccessibleDescription(about.claim)
        self.leave.clicked.connect(self._press)
        self.reason = TextField(f"Why {statement} is left out", 200)
        self.reason.setPlaceholderText("Why this model is not asked about it")
        self.reason.returnPressed.connect(self._hand_in)
        self.reason.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        line = row(self.says, self.leave)
        line.setStretch(0, 1)
        column.addWidget(card(self.claim, line, self.reason, margin=9))

    def show_state(self, searched: str) -> None:
        """How far it was searched, or why it is not."""
        reason = self.workbench.loaded.not_asked.get(self.statement, "")
        self.says.setText(f"Not asked: {reason}" if reason else searched or "not searched yet")
        leave = "Leave it out…" if self.reason.isHidden() else "Leave it out"
        self.leave.setText("Ask it again" if reason else leave)

    def _press(self) -> None:
        if self.workbench.loaded.not_asked.get(self.statement):
            rest = {s: r for s, r in self.workbench.loaded.not_asked.items() if s != self.statement}
            self._put(rest, f"ask about {self.statement} again")
        elif self.reason.isHidden():
            self.reason.show()
            self.reason.setFocus()
            self.leave.setText("Leave it out")
        else:
            self._hand_in()

    def _hand_in(self) -> None:
        text = self.reason.text().strip()
        if not text:
            self.workbench.notices.noticed.emit(
                "Say in a few words why this model is not asked about it."
            )
            return
        self.reason.setText("")
        self.reason.hide()
        self._put(
            {**self.workbench.loaded.not_asked, self.statement: text}, f"{self.statement} left out"
        )

    def _put(self, made: dict[str, str], words: str) -> None:
        bench = self.workbench
        bench.notices.attempt(
            lambda: bench.document.apply(bench.loaded.changed({"not_asked": made}), words)
        )
