# SPDX-License-Identifier: GPL-3.0-or-later
"""The linkage of one surface: its figures, its picture in motion, and the angle against the
demand."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.backends import ARRAYS
from hypsos.core.base.figure_words import plain
from hypsos.core.parts.four_bar import Linkage
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.wording.words import sense_words
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.linkage_drawing import LinkageView
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.response_plot import PlotLine, ResponsePlot

LINKAGE_FIELDS: tuple[tuple[str, str, str, tuple[float, float], tuple[str, str] | None], ...] = (
    ("arm_mm", "Servo arm, hole at", "mm", (1, 500), None),
    ("horn_mm", "Horn, hole at", "mm", (1, 500), None),
    ("distance_mm", "Servo to hinge", "mm", (1, 2000), None),
    ("offset_mm", "Hinge, from the servo", "mm", (-500, 500), ("above", "below")),
    ("arm_deg", "Arm leans", "°", (-80, 80), ("forward", "aft")), ("horn_deg", "Horn leans", "°", (-80, 80), ("forward", "aft")),
    ("servo_deg", "Servo turns at 100 %", "°", (1, 90), None),
)  # fmt: skip
USUAL = Linkage(arm_mm=10, horn_mm=12, distance_mm=60)


class LinkageCard(QFrame):
    """The linkage of the lead at hand. ``edit(field, value, words, merge)`` changes a field of it
    and may refuse with HypsosError; ``attempt`` says so then. ``use_hole`` and ``use_set_off`` fit
    it to the throws that are wanted."""

    def __init__(
        self,
        lead: Callable[[], Lead | None],
        edit: Callable[[str, Any, str, str], None],
        attempt: Callable[[Callable[[], None]], bool],
        use_hole: Callable[[], None],
        use_set_off: Callable[[], None],
    ) -> None:
        super().__init__()
        self._lead, self._edit, self._attempt = lead, edit, attempt
        self._drawn: Lead | None = None
        self._made: bool | None = None
        self.fields: dict[str, NumberField] = {}
        self.view = LinkageView()
        self.add = QPushButton("Enter its linkage")
        self.add.clicked.connect(lambda: self.put(USUAL, "a linkage"))
        self.remove = QPushButton("No linkage")
        self.remove.setObjectName("plain")
        self.remove.clicked.connect(lambda: self.put(None, "no linkage"))
        self.fit_arm = QPushButton("Use the hole that fits")
        self.fit_arm.setToolTip(
            "The shortest arm that reaches the wanted throws with the servo's own travel."
        )
        self.fit_arm.clicked.connect(use_hole)
        self.set_off = QPushButton("Set the arm off for flaps")
        self.set_off.setToolTip(
            "For a surface that goes little up and far down: the servo's whole throw is used."
        )
        self.set_off.clicked.connect(use_set_off)
        self.said = label("", "faint")
        self._box = QWidget()
        self._grid = QGridLayout(self._box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(5)
        self.plot = ResponsePlot(("less", "more"), ("up", "down"))
        self.plot.setAccessibleName("Angle of the surface")
        self.plot.least, self.plot.signed = 45.0, False
        look.hold(self.plot, height=210)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("Linkage", "section"),
                self.view,
                row(self.add, None),
                self._box,
                self.said,
                row(self.fit_arm, None),
                row(self.set_off, None),
                self.plot,
                row(self.remove, None),
            )
        )

    def put(self, linkage: Linkage | None, words: str) -> None:
        """Give the lead a linkage, or none."""
        self._attempt(lambda: self._edit("linkage", linkage, words, ""))

    def show_lead(self, lead: Lead, said: str) -> None:
        """Show the linkage of a lead, with what it is like in words."""
        linked = lead.linkage is not None
        if linked != self._made:
            self._made = linked
            self._make_fields(linked)
        for widget in (self.view, self.fit_arm, self.set_off, self.remove, self._box, self.plot):
            widget.setVisible(linked)
        self.add.setVisible(not linked)
        for field in self.fields.values():
            field.refresh()
        self.said.setText(said)
        self.said.setVisible(bool(said))

    def show_motion(self, motion: Motion, stand: float) -> None:
        """Show the linkage with the part at ``stand`` percent of its own sense."""
        if motion.link is None:
            return
        self.view.show_linkage(
            motion.link, motion.chord or 60.0, motion.link.servo_deg * stand / 100.0
        )
        self._draw(motion)
        self.plot.move_dot((stand, float(motion.degrees(stand))))

    def _make_fields(self, linked: bool) -> None:
        clear(self._grid)
        self.fields = {}
        if not linked:
            return
        for i, (field, words, unit, bounds, sides) in enumerate(LINKAGE_FIELDS):
            made = NumberField(
                words,
                lambda field=field: (
                    getattr(x.linkage, field) if (x := self._lead()) and x.linkage else 0.0
                ),
                lambda value, field=field, words=words: self._edit(
                    f"linkage.{field}", value, f"{words.lower()} {plain(value)}", f"linkage {field}"
                ),
                unit=unit,
                bounds=bounds,
                width=112 if sides else 84,
                words=sides,
            )
            self.fields[field] = made
            self._grid.addWidget(label(words, wrap=False), i, 0)
            self._grid.addWidget(made, i, 1)
        self._grid.setColumnStretch(2, 1)

    def _draw(self, motion: Motion) -> None:
        """The curve of the lead at hand, when it is another one than before."""
        if self._drawn == motion.lead:
            return
        self._drawn = motion.lead
        x = np.linspace(max(-100.0, motion.limits()[0]), min(100.0, motion.limits()[1]), 81)
        deg = np.asarray(motion.degrees(x, ARRAYS))
        low, high = sense_words(motion.part)
        self.plot.set_words(
            (f"demand {low}", f"demand {high}"), (f"degrees {low}", f"degrees {high}")
        )
        self.plot.show_lines([PlotLine("angle", x, deg, True)], (0.0, 0.0))
