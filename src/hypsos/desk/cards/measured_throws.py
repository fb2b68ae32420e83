# SPDX-License-Identifier: GPL-3.0-or-later
"""What the ruler says: a table of command against millimetres that stands in for what is
computed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, plain
from hypsos.core.fitting.throw_settings import ruler_rows
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.wording.words import sense_words
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row


class MeasuredCard(QFrame):
    """The table of one lead; ``edit`` changes a field of it and may refuse with HypsosError,
    ``attempt`` says so then."""

    def __init__(
        self,
        lead: Callable[[], Lead | None],
        edit: Callable[[str, Any, str], None],
        attempt: Callable[[Callable[[], None]], bool],
    ) -> None:
        super().__init__()
        self._lead, self._edit, self._attempt = lead, edit, attempt
        self._shown: object = None
        self._motion: Motion | None = None
        self.fields: list[NumberField] = []
        self.said = label("", "faint")
        box = QWidget()
        self._grid = QGridLayout(box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(4)
        self.begin = QPushButton("Enter what the ruler says")
        self.begin.clicked.connect(self.start)
        self.forget = QPushButton("Forget what was measured")
        self.forget.setObjectName("plain")
        self.forget.clicked.connect(
            lambda: self._attempt(lambda: edit("measured", (), "measured table forgotten"))
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("Measured", "section"),
                self.said,
                box,
                row(self.begin, None),
                row(self.forget, None),
            )
        )

    def start(self) -> None:
        """Begin a table with the figures computed now, to be corrected with the ruler."""
        motion = self._motion
        if motion is not None:
            self._attempt(
                lambda: self._edit("measured", ruler_rows(motion), "measured table begun")
            )

    def show_lead(self, lead: Lead, motion: Motion) -> None:
        """Show the table of a lead."""
        self._motion = motion
        shape = (lead.name, tuple(percent for percent, _ in lead.measured))
        if shape != self._shown:
            self._shown = shape
            self._make(lead, sense_words(motion.part))
        for field in self.fields:
            field.refresh()
        self.begin.setVisible(not lead.measured)
        self.forget.setVisible(bool(lead.measured))
        self.said.setText(
            "These figures stand in for the computed ones; between them it is interpolated."
            if lead.measured
            else "Move the surface to each command, read the ruler, type it in."
        )

    def _make(self, lead: Lead, words: tuple[str, str]) -> None:
        clear(self._grid)
        self.fields = []
        for i, (percent, _) in enumerate(lead.measured):
            field = NumberField(
                f"Measured at {percent:g} %",
                lambda i=i: (
                    x.measured[i][1] if (x := self._lead()) and i < len(x.measured) else 0.0
                ),
                lambda value, i=i: self._put(i, value),
                unit="mm",
                bounds=(-500, 500),
                width=104,
                words=words,
            )
            self.fields.append(field)
            self._grid.addWidget(label(f"at {number(percent)} %", wrap=False), i, 0)
            self._grid.addWidget(field, i, 1)
        self._grid.setColumnStretch(2, 1)

    def _put(self, index: int, value: float) -> None:
        lead = self._lead()
        if lead is None or index >= len(lead.measured):
            raise HypsosError("this row is no longer there")
        rows = [list(r) for r in lead.measured]
        rows[index][1] = value
        self._edit(
            "measured",
            tuple((a, b) for a, b in rows),
            f"measured {plain(value)} mm at {rows[index][0]:g} %",
        )
