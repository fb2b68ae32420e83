# SPDX-License-Identifier: GPL-3.0-or-later
"""Set the throws: linkages, wanted movements in millimetres, centres, stops, and what was
measured."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QPushButton, QWidget

from hypsos.core.base.backends import FRAME
from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.fitting.effective_throw import full_stick
from hypsos.core.fitting.throw_settings import (
    angle_of,
    arm_for,
    copied,
    lead_of,
    motion_of,
    reach,
    ruled,
    stops_within,
    wanted,
    with_arm_set_off,
)
from hypsos.core.fitting.throw_words import throw_words
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.curves import ruler_mm
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import servo_percent
from hypsos.core.wording.words import sense_words, standing
from hypsos.desk.cards.linkage_card import LinkageCard
from hypsos.desk.cards.measured_throws import MeasuredCard
from hypsos.desk.cards.output_curve_card import CurveCard
from hypsos.desk.cards.stops_card import StopsCard
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.file_choice import ask_where
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, hint, label, row
from hypsos.hangar.files import write_whole


class ThrowsPage(StepPage):
    """One surface at a time."""

    key = "throws"
    lead_in = "What the manual asks for, in millimetres; what the linkage gives; and what your ruler says, which wins."

    def build(self) -> None:
        self.chosen: str | None = None
        self.asked: dict[str, tuple[float, float]] = {}
        self._asking = False
        self._travel: dict[str, tuple[float, float]] = {}
        """Surface -> the travel that its wanted throws were set by: after an undo they are wanted
        no more."""
        self.ruler: dict[str, float] = {}
        self._shown: object = None
        self._of = ""
        self.column.addWidget(
            self.caution(
                "Propeller off. Move a new linkage slowly at first: a servo held at its stop burns out.",
                "Move a new linkage slowly at first: a servo held at its stop burns out.",
            )
        )
        self.surface = ChoiceBox()
        self.surface.setAccessibleName("Surface")
        self.surface.activated.connect(lambda _: self.choose(self.surface.currentData()))
        self.copy = QPushButton("Copy to the other side")
        self.copy.clicked.connect(self.copy_over)
        self.column.addLayout(row("Surface", self.surface, None))
        self.column.addLayout(row(self.copy, None))
        self._wanted_card()
        self.linkage = LinkageCard(
            self.lead,
            self._edit_linkage,
            self.workbench.notices.attempt,
            self.use_hole,
            self.use_set_off,
        )
        self.column.addWidget(self.linkage)
        self.workbench.simulation.live_changed.connect(self._live)
        self.ends = StopsCard(self.lead, self._edit_end, self.make_flush, self.take_stops)
        self.column.addWidget(self.ends)
        self.curve = CurveCard(self.workbench, self.lead, self.other_side, self._path)
        self.measured = MeasuredCard(self.lead, self.edit, self.workbench.notices.attempt)
        self.column.addWidget(self.measured)
        self.column.addWidget(self.curve)
        self.card_ = QPushButton("Ruler cards to print (PDF)…")
        self.card_.clicked.connect(self._choose_cards)
        self.saved = label("", "faint")
        self.saved.hide()
        self.column.addLayout(row(self.card_, None))
        self.column.addWidget(self.saved)
        self.column.addWidget(
            hint("Little travel wastes a servo's steps: first the hole that fits, then the travel.")
        )

    def in_hand(self) -> bool:
        return bool(self.asked or self.ruler)

    def _wanted_card(self) -> None:
        self.now = label("")
        self._wanted_box = QWidget()
        self._wanted_grid = QGridLayout(self._wanted_box)
        self._wanted_grid.setContentsMargins(0, 0, 0, 0)
        self.set_travel = QPushButton("Set the travel")
        self.set_travel.setObjectName("lead")
        self.set_travel.clicked.connect(self.put_wanted)
        self.lost = label("", "complaint")
        self.lost.hide()
        self.full = label("")
        self.allow = QPushButton("Let full stick give the wanted throws")
        self.allow.setToolTip("More travel, so that what is taken away is made up for.")
        self.allow.clicked.connect(self.allow_for)
        self.column.addWidget(
            card(
                label("Wanted", "section"),
                self.now,
                self._wanted_box,
                row(self.set_travel, None),
                self.lost,
                self.full,
                row(self.allow, None),
            )
        )

    # -- the document ----------------------------------------------------------------------------

    def lead(self) -> Lead | None:
        """The lead of the surface at hand."""
        return None if self.chosen is None else lead_of(self.workbench.loaded, self.chosen)

    def _surface(self) -> Surface:
        return next(s for s in self.workbench.loaded.airframe.surfaces if s.name == self.chosen)

    def _motion(self) -> Motion:
        assert self.chosen is not None
        return motion_of(self.workbench.loaded, self.chosen)

    def _path(self) -> str:
        lead = self.lead()
        assert lead is not None
        return f"leads[{[x.name for x in self.workbench.loaded.leads].index(lead.name)}]"

    def edit(self, field: str, value: Any, words: str, merge: str = "") -> None:
        """Change one field of that lead. Raises HypsosError when that is not possible."""
        lead = self.lead()
        assert lead is not None
        self.workbench.document.edit(
            f"{self._path()}.{field}", value, f"{lead.label}: {words}", merge=merge
        )

    def _edit_end(self, field: str, value: float, words: str) -> None:
        self.edit(field, value, words, merge=f"{self.chosen} {field}")

    def _edit_linkage(self, field: str, value: Any, words: str, merge: str) -> None:
        self.edit(field, value, words, f"{self.chosen} {merge}" if merge else "")

    def _put_lead(self, lead: Lead, words: str) -> bool:
        return self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path(), lead, f"{lead.label}: {words}")
        )

    def choose(self, name: str) -> None:
        """Take a surface in hand."""
        self.chosen = name
        self._shown = None
        self.workbench.simulation.choose(name)
        self.refresh()

    def show_place(self, path: str) -> None:
        for i, lead in enumerate(self.workbench.loaded.leads):
            if path.startswith(f"leads[{i}]") and lead.target in [
                s.name for s in ruled(self.workbench.loaded)
            ]:
                self.choose(lead.target)

    # -- actions ---------------------------------------------------------------------------------

    def put_wanted(self) -> None:
        """Set the travel that gives the wanted throws, and say what cannot be had."""
        self.workbench.notices.attempt(
            lambda: self._put_wanted(self._motion(), (1.0, 1.0), "throws")
        )

    def _put_wanted(self, motion: Motion, shares: tuple[float, float], words: str) -> None:
        up, down = self._asked(motion)
        made = wanted(motion, up, down, "mm", self.ruler.get(self.chosen or ""), shares)
        lead = motion.lead.changed({"travel_neg": made.travel_neg, "travel_pos": made.travel_pos})
        self._asking = True
        try:
            self.workbench.document.edit(
                self._path(), lead, f"{lead.label}: {words} {plain(up)} and {plain(down)} mm"
            )
        finally:
            self._asking = False
        self._keep_travel()
        said = "; ".join(made.lost)
        self.lost.setText(f"{said[:1].upper()}{said[1:]}." if said else "")
        self.lost.setVisible(bool(said))

    def allow_for(self) -> None:
        """Set the travel so that full stick gives the wanted throws, for all that takes part of
        them away."""
        motion, found = self._motion(), full_stick(self.workbench.loaded, self.chosen or "")
        if found is not None:
            up, down = (x if x > 0.01 else 1.0 for x in found.shares)
            self.workbench.notices.attempt(
                lambda: self._put_wanted(motion, (up, down), "full stick gives")
            )

    def _say_full_stick(self) -> None:
        """What full stick gives, where that is less than the output could do, and what takes the
        rest."""
        found = full_stick(self.workbench.loaded, self.chosen or "") if self.isVisible() else None
        less = (
            found is not None
            and bool(found.takes)
            and min((x for x in found.shares if x > 0.01), default=1) < 0.995
        )
        self.full.setVisible(less)
        self.allow.setVisible(less)
        if found is None or not less:
            return
        part = self._surface()
        ends = " and ".join(
            standing(part, 0.0, d, m) for d, m in zip(found.deg, found.mm, strict=True)
        )
        verb = "take" if len(found.takes) > 1 else "takes"
        takes = " and ".join(found.takes)
        self.full.setText(
            f"Full {found.command} stick gives {ends}: {takes} {verb} part of it away."
        )

    def use_hole(self) -> None:
        """Take the shortest arm that reaches the wanted throws."""

        def act() -> None:
            motion = self._motion()
            found = (
                None if motion.link is None else arm_for(motion.link, *self._asked_degrees(motion))
            )
            if found is None:
                raise HypsosError(
                    "no servo arm reaches these throws", "", "Use a shorter horn, or ask for less."
                )
            self.edit("linkage", found, f"servo arm {found.arm_mm:g} mm")

        self.workbench.notices.attempt(act)

    def use_set_off(self) -> None:
        """Set the arm off so that the whole servo throw is used, with the centre and the stops that
        go with it."""

        def act() -> None:
            motion = self._motion()
            made = with_arm_set_off(motion, *self._asked_degrees(motion))
            self.workbench.document.edit(self._path(), made, f"{made.label}: arm set off")

        self.workbench.notices.attempt(act)

    def make_flush(self) -> None:
        """Set the centre at which the surface is flush."""
        motion = self._motion()

        def act() -> None:
            neutral = float(servo_percent(0.0, motion.lead, FRAME)[0])
            centre = motion.lead.direction * motion.percent(0.0) - neutral
            self.edit("centre", round(centre, 3), "flush at neutral")

        self.workbench.notices.attempt(act)

    def take_stops(self) -> None:
        """Set the end stops just inside of where the linkage binds."""
        motion = self._motion()
        low, high = stops_within(motion)
        lead = motion.lead.changed({"stop_neg": min(0.0, low), "stop_pos": max(0.0, high)})
        self._put_lead(lead, "stops from where it binds")

    def copy_over(self) -> None:
        """Give the lead of the other side the same throws."""
        lead, other = self.lead(), self.other_side()
        if lead is None or other is None:
            return
        index = [x.name for x in self.workbench.loaded.leads].index(other.name)
        made = copied(lead, other)
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                f"leads[{index}]", made, f"{made.label} as {lead.label}"
            )
        )

    def other_side(self) -> Lead | None:
        twin = self.workbench.loaded.airframe.other_side(self.chosen or "")
        return lead_of(self.workbench.loaded, twin) if twin is not None else None

    def _choose_cards(self) -> None:
        path = ask_where(
            self, "Save the ruler cards", f"{self.workbench.loaded.name} ruler", {".pdf": "PDF"}
        )
        if path is not None:
            self.save_cards(path)

    def save_cards(self, path: Path) -> None:
        """Write the ruler cards of all surfaces; one of a pair stands for both."""
        from hypsos.desk.services.sheet_pdf import ruler_cards_pdf

        model = self.workbench.loaded
        surfaces = [s for s in model.airframe.surfaces if s.side != "right"]

        def write() -> None:
            write_whole(path, ruler_cards_pdf(model.name, surfaces))
            self.saved.setText(f"Written to {path}.")
            self.saved.show()

        self.workbench.notices.attempt(write)

    # -- showing ---------------------------------------------------------------------------------

    def _asked(self, motion: Motion) -> tuple[float, float]:
        if self.chosen not in self.asked:
            is_ = reach(motion)
            pair = is_.mm
            self.asked[self.chosen or ""] = (round(abs(pair[0]), 1), round(abs(pair[1]), 1))
            self._keep_travel()
        return self.asked[self.chosen or ""]

    def _keep_travel(self) -> None:
        lead = self.lead()
        if lead is not None:
            self._travel[self.chosen or ""] = (lead.travel_neg, lead.travel_pos)

    def _asked_degrees(self, motion: Motion) -> tuple[float, float]:
        up, down = self._asked(motion)
        at = self.ruler.get(self.chosen or "", motion.chord or 1.0)
        return angle_of(up, at), angle_of(down, at)

    def refresh(self) -> None:
        if self._of != self.workbench.loaded.name:
            self._of = self.workbench.loaded.name
            self.asked.clear()
            self.ruler.clear()
            self._shown = None
        surfaces = ruled(self.workbench.loaded)
        names = [s.name for s in surfaces]
        if self.chosen not in names:
            self.chosen = names[0] if names else None
            self._shown = None
        lead = self.lead()
        known = tuple((s.name, s.label) for s in surfaces)
        for kind in (QPushButton, QComboBox, QLineEdit):
            for widget in self.findChildren(kind):
                widget.setEnabled(lead is not None)
        self.curve.setEnabled(lead is not None)
        if lead is None:
            self.now.setText("There is no surface with a lead yet. Shape the aeroplane first.")
            self.surface.clear()
            clear(self._wanted_grid)
            self.full.hide()
            self.allow.hide()
            return
        shape = (self.chosen, known)
        if shape != self._shown:
            self._shown = shape
            self.surface.clear()
            for name, words in known:
                self.surface.addItem(words, name)
            self.surface.setCurrentIndex(self.surface.findData(self.chosen))
            self._make_wanted()
            self.lost.hide()
        if (
            self._travel.get(self.chosen or "") != (lead.travel_neg, lead.travel_pos)
            and not self._asking
        ):
            self.asked.pop(self.chosen or "", None)
        self.ends.refresh()
        self.curve.refresh()
        self.measured.show_lead(lead, self._motion())
        for field in self.wanted_fields.values():
            field.refresh()
        self._say(lead)
        self._live()

    def _say(self, lead: Lead) -> None:
        motion = self._motion()
        now, said = throw_words(motion, reach(motion))
        self.now.setText(now)
        self._say_full_stick()
        self.copy.setVisible(self.other_side() is not None)
        self.ends.stops.setEnabled(lead.linkage is not None)
        self.linkage.show_lead(lead, said)

    def _make_wanted(self) -> None:
        clear(self._wanted_grid)
        motion = self._motion()
        words = sense_words(motion.part)
        self.wanted_fields: dict[str, NumberField] = {}
        rows: list[tuple[str, str, Callable[[], float], Callable[[float], None]]] = [
            (
                "up",
                words[0].capitalize(),
                lambda: self._asked(self._motion())[0],
                lambda v: self._ask(0, v),
            ),
            (
                "down",
                words[1].capitalize(),
                lambda: self._asked(self._motion())[1],
                lambda v: self._ask(1, v),
            ),
            (
                "ruler",
                "Ruler behind the hinge",
                lambda: self.ruler.get(self.chosen or "", motion.chord or 1.0),
                self._set_ruler,
            ),
        ]
        for i, (key, text, get, put) in enumerate(rows):
            field = NumberField(
                f"Wanted: {text.lower()}",
                get,
                put,
                unit="mm",
                bounds=(0.0, 500.0),
                width=88,
                convert=None if key == "ruler" else self._in_mm,
            )
            if key != "ruler":
                field.setToolTip("In millimetres as the ruler reads them, or type degrees: 12°")
            self.wanted_fields[key] = field
            self._wanted_grid.addWidget(label(text, wrap=False), i, 0)
            self._wanted_grid.addWidget(field, i, 1)
        self._wanted_grid.setColumnStretch(2, 1)

    def _in_mm(self, value: float, unit: str) -> float:
        """Degrees as the millimetres that the ruler reads."""
        at = self.ruler.get(self.chosen or "", self._motion().chord or 1.0)
        return value if unit == "mm" else round(float(ruler_mm(value, at)), 2)

    def _ask(self, place: int, value: float) -> None:
        """A throw was typed: the travel that gives it is set at once."""
        pair = list(self._asked(self._motion()))
        before = self.asked[self.chosen or ""]
        pair[place] = value
        self.asked[self.chosen or ""] = (pair[0], pair[1])
        try:
            self._put_wanted(self._motion(), (1.0, 1.0), "throws")
        except HypsosError:
            self.asked[self.chosen or ""] = before
            raise

    def _set_ruler(self, value: float) -> None:
        if value <= 0:
            raise HypsosError(
                "the ruler must stand behind the hinge", "", "Measure from the hinge line."
            )
        self.ruler[self.chosen or ""] = value

    def _live(self) -> None:
        if self.workbench.model is None:
            return  # the last model was taken out of the hangar
        lead, result = self.lead(), self.workbench.state.live.result
        if (
            lead is not None
            and result is not None
            and lead.name in result.outputs
            and self.isVisible()
        ):
            self.linkage.show_motion(self._motion(), float(result.outputs[lead.name].stand[-1]))

    def showEvent(self, event: QShowEvent | None) -> None:
        """What is only drawn while it is seen is drawn when it comes into sight."""
        super().showEvent(event)
        if self.lead() is not None:
            self._say_full_stick()
            self._live()
