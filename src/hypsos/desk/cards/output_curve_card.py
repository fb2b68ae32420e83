# SPDX-License-Identifier: GPL-3.0-or-later
"""The output curve of one surface's lead: drawn by points, or worked out so that it goes where the
other side goes."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout

from hypsos.core.fitting.matching_curve import agreed_words, agreeing, worth_it
from hypsos.core.parts.leads import MOST_POINTS, Lead
from hypsos.core.parts.mix_lines import Response
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.page_layout import card, label, row, worded
from hypsos.desk.widgets.response_editor import ResponseEdit

ABOUT = (
    "Bends the command before the direction, the travel and the centre. It is for two flaps, or two servos on one surface, that "
    "do not run alike; without need of it leave it straight."
)


class CurveCard(QFrame):
    """``lead`` and ``other`` give the lead at hand and that of the other side; ``path`` where the
    first stands."""

    def __init__(
        self,
        workbench: Workbench,
        lead: Callable[[], Lead | None],
        other: Callable[[], Lead | None],
        path: Callable[[], str],
    ) -> None:
        super().__init__()
        self.workbench = workbench
        self._lead, self._other, self._path = lead, other, path
        self.response = ResponseEdit(
            workbench, "Output curve", self._curve, self._put, bare=True, most=MOST_POINTS
        )
        self.agree = QPushButton("")
        self.agree.clicked.connect(self.make_agree)
        self.straight = QPushButton("Straight again")
        self.straight.clicked.connect(lambda: self._take(None, "output curve straight"))
        self.said = label("")
        self.said.hide()
        self._said_for: Lead | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("Output curve", "section"),
                label(ABOUT, "faint"),
                self.response,
                row(self.agree, None),
                row(self.straight, None),
                self.said,
            )
        )

    def refresh(self) -> None:
        """Show the curve of the lead at hand."""
        lead, other = self._lead(), self._other()
        if lead is None:
            return
        self.response.refresh()
        self.straight.setEnabled(lead.curve is not None)
        self.agree.setVisible(other is not None)
        if other is not None:
            self.agree.setText(worded(f"Make it agree with {other.label}"))
        if lead != self._said_for:
            self.said.hide()

    def make_agree(self) -> None:
        """Work out the curve with which this surface stands where the one of the other side
        stands."""
        lead, other, model = self._lead(), self._other(), self.workbench.loaded
        if lead is None or other is None:
            return

        def act() -> None:
            found = agreeing(model, lead.target, other.target)
            self._said_for = found.lead if worth_it(found) else lead
            if worth_it(found):
                self._take(found.lead.curve, f"agrees with {other.label}")
            self.said.setText(agreed_words(found, lead.label))
            self.said.show()

        self.workbench.notices.attempt(act)

    def _curve(self) -> Response | None:
        lead = self._lead()
        return lead.curve if lead is not None else None

    def _put(self, curve: Response | None, words: str, merge: str) -> None:
        """Points that were dragged or typed. Raises HypsosError where the curve would not rise."""
        lead = self._lead()
        if lead is None:  # the last surface with a lead has gone meanwhile
            return
        self.workbench.document.edit(
            f"{self._path()}.curve", curve, f"{lead.label}: {words}", merge=f"{lead.name} {merge}"
        )

    def _take(self, curve: Response | None, words: str) -> None:
        lead = self._lead()
        if lead is None:
            return
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                f"{self._path()}.curve", curve, f"{lead.label}: {words}"
            )
        )
