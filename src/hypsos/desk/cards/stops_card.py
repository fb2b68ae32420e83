# SPDX-License-Identifier: GPL-3.0-or-later
"""Centre and end stops of one surface's output, and its servo's own time."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.figure_words import plain
from hypsos.core.parts.leads import Lead
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, label, row

FIELDS: tuple[tuple[str, str, tuple[float, float], str], ...] = (
    ("centre", "Centre (sub-trim)", (-50.0, 50.0), "%"), ("stop_neg", "End stop, short side", (-150.0, 0.0), "%"),
    ("stop_pos", "End stop, long side", (0.0, 150.0), "%"), ("servo_s", "Servo's own time for 100 %", (0.0, 60.0), "s"),
)  # fmt: skip


class StopsCard(QFrame):
    """The figures of the lead at hand. ``edit(field, value, words)`` changes one and may refuse
    with HypsosError."""

    def __init__(
        self,
        lead: Callable[[], Lead | None],
        edit: Callable[[str, float, str], None],
        make_flush: Callable[[], None],
        take_stops: Callable[[], None],
    ) -> None:
        super().__init__()
        self._lead, self._edit = lead, edit
        self.fields: dict[str, NumberField] = {}
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        for r, (field, words, bounds, unit) in enumerate(FIELDS):
            self.fields[field] = self._field(field, words, bounds, unit)
            grid.addWidget(label(words, wrap=False), r, 0)
            grid.addWidget(self.fields[field], r, 1)
        grid.setColumnStretch(2, 1)
        self.flush = QPushButton("Flush at neutral")
        self.flush.setToolTip("The centre at which the surface is flush.")
        self.flush.clicked.connect(make_flush)
        self.stops = QPushButton("Stops from where it binds")
        self.stops.clicked.connect(take_stops)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("Centre and end stops", "section"),
                box,
                row(self.flush, None),
                row(self.stops, None),
            )
        )

    def _field(self, field: str, words: str, bounds: tuple[float, float], unit: str) -> NumberField:
        return NumberField(
            words,
            lambda: getattr(lead, field) if (lead := self._lead()) is not None else 0.0,
            lambda value: self._edit(field, value, f"{words.lower()} {plain(value)}"),
            unit=unit,
            bounds=bounds,
            step=0.01 if unit == "s" else 1.0,
            digits=2 if unit == "s" else 1,
        )

    def refresh(self) -> None:
        """Show the figures as they are now."""
        for field in self.fields.values():
            field.refresh()
