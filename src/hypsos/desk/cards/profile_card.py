# SPDX-License-Identifier: GPL-3.0-or-later
"""What a transmitter thinks in, how much of everything it has, in which steps its figures are typed,
and what else it is able to do."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFrame, QVBoxLayout, QWidget

from hypsos.core.parts.transmitter_profile import ALL_ABILITIES, Ability, Profile
from hypsos.core.schools import SCHOOLS
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, label


class ProfileFigure(NamedTuple):
    """A figure of a transmitter: its field, what it is, its unit, its bounds, its digits."""

    field: str
    label: str
    unit: str = ""
    bounds: tuple[float, float] = (0.0, 1000.0)
    digits: int = 0


FIGURES = (
    ProfileFigure("outputs", "Outputs"),
    ProfileFigure("mixes", "Mixes of one's own"),
    ProfileFigure("sums", "Helping sums"),
    ProfileFigure("modes", "Flight modes"),
    ProfileFigure("curve_points", "Points of a curve"),
    ProfileFigure("logic", "Conditions"),
    ProfileFigure("timers", "Timers"),
    ProfileFigure("weight_step", "Weights in steps of", "%", (0.0, 10.0), 2),
    ProfileFigure("centre_step_us", "Centres in steps of", "µs", (0.0, 20.0), 2),
    ProfileFigure("time_step_s", "Times in steps of", "s", (0.0, 1.0), 2),
    ProfileFigure("centre_us", "0 % is", "µs", (1000.0, 2000.0), 1),
    ProfileFigure("us_per_percent", "1 % is", "µs", (0.5, 10.0), 2),
)
ABILITIES: dict[Ability, str] = {
    "slow": "Slow movements",
    "fade": "Fades between flight modes",
    "smooth": "Round curves",
    "product": "Lines that multiply",
    "memory": "Conditions that remember",
    "delays": "Conditions that wait",
    "link": "It knows that the link is gone",
    "voice": "It speaks",
    "shared": "Shared values by flight mode",
}
REVERSALS = (("outputs", "at the output"), ("signs", "in the signs of the mixes"))
ENDS = (("away", "away from you"), ("towards", "towards you"))


class ProfileCard(QFrame):
    """The fields of one transmitter; a change is kept at once, as one of the pilot's own."""

    changed = pyqtSignal()

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.profile = Profile(name="none")
        self.fields: dict[str, NumberField] = {}
        self.school = self._choice("School", [(name, name) for name in SCHOOLS])
        self.reversal = self._choice("Reversal is kept", REVERSALS)
        self.first_end = self._choice("Position 0 of a switch is", ENDS)
        self.school.activated.connect(lambda: self._set("school", self.school.currentData()))
        self.reversal.activated.connect(lambda: self._set("reversal", self.reversal.currentData()))
        self.first_end.activated.connect(
            lambda: self._set("first_end", self.first_end.currentData())
        )
        named: list[tuple[str, QWidget]] = [
            ("It thinks", self.school),
            ("Reversal is kept", self.reversal),
            ("Position 0 of a switch is", self.first_end),
        ]
        named += [(figure.label, self._number(figure)) for figure in FIGURES]
        self.can: dict[Ability, QCheckBox] = {}
        for ability in ALL_ABILITIES:
            tick = self.can[ability] = QCheckBox(ABILITIES[ability])
            tick.clicked.connect(partial(self._set_ability, ability))
        self.thinks = label("", "faint")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("What it has", "section"),
                label("The sheet says only what it can do. A step of 0 takes any figure.", "faint"),
                flowing(*(_named(words, field) for words, field in named[:3])),
                self.thinks,
                flowing(*(_named(words, field) for words, field in named[3:])),
                label("What else it can do", "section"),
                flowing(*self.can.values()),
            )
        )

    @staticmethod
    def _choice(name: str, known: Any) -> ChoiceBox:
        box = ChoiceBox()
        box.setAccessibleName(name)
        box.fill(known)
        return box

    def _number(self, figure: ProfileFigure) -> NumberField:
        def get() -> float:
            return float(getattr(self.profile, figure.field))

        def put(value: float) -> None:
            self._set(figure.field, value if figure.digits else round(value))

        field = NumberField(
            figure.label, get, put, figure.unit, figure.bounds, digits=figure.digits
        )
        self.fields[figure.field] = field
        return field

    def take(self, profile: Profile) -> None:
        """Show a transmitter."""
        self.profile = profile
        for box, value in (
            (self.school, profile.school),
            (self.reversal, profile.reversal),
            (self.first_end, profile.first_end),
        ):
            box.setCurrentIndex(max(0, box.findData(value)))
        school = SCHOOLS.get(profile.school)
        self.thinks.setText("" if school is None else f"{school.title}.")
        for field in self.fields.values():
            field.refresh()
        for ability, tick in self.can.items():
            tick.setChecked(ability in profile.can)

    def _set_ability(self, ability: Ability, on: bool) -> None:
        kept = [x for x in ALL_ABILITIES if (on if x == ability else x in self.profile.can)]
        self._set("can", tuple(kept))

    def _set(self, field: str, value: object) -> None:
        """Keep the transmitter with this change. Raises HypsosError where it can't be."""
        if getattr(self.profile, field) == value:
            return
        made = self.profile.changed({field: value})
        keep: Callable[[], None] = partial(self.workbench.document.hangar.keep_transmitter, made)
        if self.workbench.notices.attempt(keep):
            self.profile = made
        self.changed.emit()


def _named(words: str, field: QWidget) -> QWidget:
    """A field below its name."""
    whole = QWidget()
    column = QVBoxLayout(whole)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(2)
    column.addWidget(label(words, "faint", wrap=False))
    column.addWidget(field)
    return whole
