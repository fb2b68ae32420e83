# SPDX-License-Identifier: GPL-3.0-or-later
"""Make the motor safe: which switch stops it, and what it takes to arm it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QHBoxLayout,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.document.program import LOWEST_POWER, Guard, usual_cut
from hypsos.core.edits.guard_proposals import GUARD_PROPOSALS, GuardProposal, with_proposal
from hypsos.core.edits.relock_time import too_short
from hypsos.core.engine import GuardState
from hypsos.core.explain.guard_ways import ways
from hypsos.core.explain.idle_pulse import idle_dangers, idle_mended
from hypsos.desk.cards.engines_card import EnginesCard
from hypsos.desk.cards.guard_conditions import AsksCard
from hypsos.desk.cards.rehearsal_card import RehearsalCard
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.guard_diagram import GuardPicture
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, caution, clear, hint, label, row, worded

STATES = {GuardState.CUT: "cut", GuardState.LOCKED: "locked", GuardState.ARMED: "armed"}
LEVELS = (
    ("Cut", "One switch position stops every motor, whatever the stick, a mix or a trim says."),
    (
        "Cut, stick low to arm",
        "Armed only if the throttle and all that drives a motor were low when the switch went to run.",
    ),
    ("… and rested low", "They must have rested low for a time before the switch goes to run."),
    (
        "… and re-locked by a lost link",
        "A link lost for at least a time, as in a battery change, locks the motor again.",
    ),
)


class GuardPage(StepPage):
    """Level, switch and thresholds of the guard."""

    key = "guard"
    lead_in = "A motor turns only when the guard has armed it. The guard acts before reversing, so it cannot be turned round."

    def build(self) -> None:
        self.column.addWidget(
            caution(
                "Propeller off while you try this: stick up, switch to run, and the motor must not turn. Nobody in or ahead of the "
                "propeller's plane; transmitter on first, off last."
            )
        )
        self.none = hint("This aeroplane has no motor: there is nothing to guard.")
        self.column.addWidget(self.none)
        self._body = QWidget()
        column = QVBoxLayout(self._body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        self.levels = QButtonGroup(self)
        choices: list[QWidget] = [label("What it takes to start", "section")]
        for i, (title, what) in enumerate(LEVELS):
            button = QRadioButton(title)
            self.levels.addButton(button, i + 1)
            choices += [button, label(what, "faint")]
        self.levels.idClicked.connect(self._set_level)
        column.addWidget(card(*choices))
        self.proposals: dict[str, tuple[QPushButton, QWidget]] = {}
        offered: list[QWidget] = [label("Proposals", "section")]
        for proposal in GUARD_PROPOSALS:
            take, why = QPushButton(proposal.title), label(proposal.reason, "faint")
            take.clicked.connect(lambda _=False, p=proposal: self.propose(p))
            self.proposals[proposal.title] = (take, why)
            offered += [take, why]
        column.addWidget(card(*offered))
        self.switch = ChoiceBox()
        self.switch.setAccessibleName("Motor switch")
        self.switch.activated.connect(self._set_switch)
        self.cuts: list[QCheckBox] = []
        cut_box = QWidget()
        self._cut_row = QHBoxLayout(cut_box)
        self._cut_row.setContentsMargins(0, 0, 0, 0)
        self.complaint = label("", "complaint")
        self.complaint.hide()
        self.threshold = NumberField(
            "Low is at or below",
            lambda: power_percent(self._guard().threshold),
            self._put_threshold,
            unit="% power",
            bounds=(0, power_percent(LOWEST_POWER)),
            step=0.5,
            width=96,
        )
        self.threshold.setToolTip(
            "The throttle control, and the power commanded to every motor, in % of full power."
        )
        self.rest = NumberField(
            "Rest time",
            lambda: self._guard().rest_s,
            self._putting("rest_s", "rest time"),
            "s",
            (0, 60),
            0.1,
        )
        self.relock = NumberField(
            "Link lost for", lambda: self._guard().relock_s, self._put_relock, "s", (0, 60), 0.1
        )
        self.wakes = QCheckBox("Wakes once the stick rests low")
        self.wakes.setToolTip(
            "Off by default: then the switch must be cycled, which is a decision and not an accident."
        )
        self.wakes.clicked.connect(self._set_wakes)
        self._rest_row, self._relock_row = QWidget(), QWidget()
        for box, what, field, tail in (
            (self._rest_row, "It must have rested there for", self.rest, ""),
            (self._relock_row, "A link lost for", self.relock, "locks it again"),
        ):
            line = row(what, field, tail, None)
            line.setContentsMargins(0, 0, 0, 0)
            box.setLayout(line)
        column.addWidget(
            card(
                row("Switch", self.switch, None),
                row("Stops the motor at", cut_box, None),
                self.complaint,
                row("Low is at or below", self.threshold, None),
                label(
                    "Low means the throttle control and the power commanded to every motor: a rudder held over, a trim, a preset "
                    "count too.",
                    "faint",
                ),
                self._rest_row,
                self._relock_row,
                self.wakes,
            )
        )
        self.own_battery = caution(
            "The receiver has a battery of its own: it hears the transmitter through a change of the flight battery, and this "
            "level sees nothing of it. Cut first, each time; a controller that waits for idle helps."
        )
        column.addWidget(self.own_battery)
        self.dangers = QVBoxLayout()
        self.dangers.setSpacing(8)
        column.addLayout(self.dangers)
        self.engines = EnginesCard(self.workbench)
        column.addWidget(self.engines)
        self.asks = AsksCard(self.workbench)
        column.addWidget(self.asks)
        self.picture = GuardPicture()
        self.changes = label("", "faint")
        column.addWidget(
            card(
                label("How this guard works", "section"),
                self.picture,
                label("What it did last", "section"),
                self.changes,
            )
        )
        self.workbench.simulation.live_changed.connect(self._show_picture)
        self.rehearsals = RehearsalCard(self.workbench)
        column.addWidget(self.rehearsals)
        self.column.addWidget(self._body)

    def _guard(self) -> Guard:
        model = self.workbench.model
        guard = model.program.guard if model else None
        return guard or Guard(switch="motor_switch")

    def refresh(self) -> None:
        model = self.workbench.model
        has = model is not None and model.program.guard is not None
        self._body.setVisible(has)
        self.none.setVisible(not has)
        if model is None or not has:
            return
        guard = self._guard()
        for proposal in GUARD_PROPOSALS:
            for shown in self.proposals[proposal.title]:
                shown.setVisible(proposal.suits(model))
        button = self.levels.button(guard.level)
        if button is not None:
            button.setChecked(True)
        switches = [c for c in model.transmitter.controls if c.is_switch]
        self.switch.clear()
        for c in switches:
            self.switch.addItem(c.label, c.name)
        self.switch.setCurrentIndex(self.switch.findData(guard.switch))
        control = model.transmitter.control(guard.switch)
        self._show_cuts(guard, control.positions if control else ())
        self._show_dangers(model)
        self.engines.refresh()
        self.asks.refresh()
        self._show_picture()
        self.rehearsals.refresh()
        unseen = model.receiver.power == "own battery" and guard.level >= 4
        self.own_battery.setVisible(unseen)
        self.wakes.setChecked(guard.wakes_when_low)
        self._rest_row.setVisible(guard.level >= 3 or guard.wakes_when_low)
        self._relock_row.setVisible(guard.level >= 4)
        for field in (self.threshold, self.rest, self.relock):
            field.refresh()

    def _show_picture(self) -> None:
        """The ways of this guard, where it is now, and what it did last."""
        model, log = self.workbench.model, self.workbench.companions.guard_history
        if model is None or model.program.guard is None or not self.isVisible():
            return
        changes = log.changes
        motors = self.workbench.state.motor_said
        runs = motors.sentence if motors.beyond_control else ""
        self.picture.show_guard(
            ways(model), self.workbench.state.guard, changes[0] if changes else None, runs
        )
        said = (
            [
                f"{number(max(0.0, log.ago(x)), 1)} s ago {STATES[x.end]}: {x.cause}."
                for x in changes
            ]
            if log
            else []
        )
        self.changes.setText("\n".join(said) or "Nothing yet: move the switch on the bench.")

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._show_picture()
        self.rehearsals.refresh()

    def show_place(self, path: str) -> None:
        places: dict[str, QWidget | None] = {
            "threshold": self.threshold,
            "rest_s": self.rest,
            "relock_s": self.relock,
            "wakes_when_low": self.wakes,
            "level": self.levels.checkedButton(),
            "cut": self.cuts[0] if self.cuts else None,
            "holds": self.asks.add_hold,
            "also": self.asks.also,
            "start_check": self.asks.add_check,
        }
        asked = "idle_us" in path or "unconfirmed" in path
        buttons = [self.dangers.itemAt(i) for i in range(self.dangers.count())]
        mends = [
            b.widget() for b in buttons if b is not None and isinstance(b.widget(), QPushButton)
        ]
        danger = mends[0] if asked and mends else None
        place = danger or places.get(path.rsplit(".", 1)[-1].split("[")[0]) or self.switch
        place.setFocus()
        self.bring(place)

    def _putting(self, field: str, words: str):  # type: ignore[no-untyped-def]
        return lambda value: self.workbench.document.edit(
            f"program.guard.{field}",
            value,
            f"guard: {words} {plain(value)} s",
            merge=f"guard {field}",
        )

    def _put_relock(self, seconds: float) -> None:
        if short := too_short(with_at(self.workbench.loaded, "program.guard.relock_s", seconds)):
            raise HypsosError(short, "")
        self._putting("relock_s", "re-lock time")(seconds)

    def _put_threshold(self, power: float) -> None:
        words = f"guard: low is at or below {power:g} % power"
        self.workbench.document.edit(
            "program.guard.threshold", 2 * power - 100, words, merge="guard threshold"
        )

    def _show_cuts(self, guard: Guard, positions: tuple[str, ...]) -> None:
        if [c.text() for c in self.cuts] != [worded(p) for p in positions]:
            clear(self._cut_row)
            self.cuts = [QCheckBox(worded(p)) for p in positions]
            for i, box in enumerate(self.cuts):
                box.setAccessibleName(f"Stops the motor at {positions[i]}")
                box.clicked.connect(lambda on, i=i: self._set_cut(i, on))
                self._cut_row.addWidget(box)
        for i, box in enumerate(self.cuts):
            box.setChecked(i in guard.cut)

    def _show_dangers(self, model: Model) -> None:
        """What is wrong at idle stands above already; here is the repair."""
        clear(self.dangers)
        for i, _ in idle_dangers(model):
            lead = model.leads[i]
            mend = QPushButton(worded(f"Let {lead.label} send {lead.idle_us:.0f} µs at idle"))
            mend.clicked.connect(lambda _=False, i=i: self.mend(i))
            self.dangers.addWidget(mend, 0, Qt.AlignmentFlag.AlignLeft)
        for text in self._guard().unconfirmed:
            self.dangers.addWidget(caution(f"This model comes from an older version. {text}"))
        if self._guard().unconfirmed:
            agree = QPushButton("I have looked at it: the motor may run so")
            agree.clicked.connect(self._agree)
            self.dangers.addWidget(agree, 0, Qt.AlignmentFlag.AlignLeft)

    def _agree(self) -> None:
        """A person has looked at what an older document meant less power by."""
        words = "guard: the motor may have more power than in the older document"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("program.guard.unconfirmed", (), words)
        )

    def propose(self, proposal: GuardProposal) -> None:
        """Take the figures of a proposal."""
        bench = self.workbench
        said = f"guard: {proposal.title[:1].lower()}{proposal.title[1:]}"
        bench.notices.attempt(
            lambda: bench.document.apply(with_proposal(bench.loaded, proposal), said)
        )

    def mend(self, index: int) -> None:
        """Give a motor's lead the direction, travel and stop that go with its idle pulse."""
        model = self.workbench.model
        assert model is not None
        said = f"{model.leads[index].label} idle at its idle pulse"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(idle_mended(model, index), said)
        )

    def _set_cut(self, position: int, on: bool) -> None:
        old = self._guard().cut
        cut = tuple(sorted({*old, position} if on else set(old) - {position}))
        words = f"motor {'stopped' if on else 'may run'} at {self.cuts[position].text().replace('&&', '&')}"
        try:
            if not cut:
                raise HypsosError(
                    "one position at least must stop the motor", "", "Choose another one first."
                )
            self.workbench.document.edit("program.guard.cut", cut, words)
            self.complaint.hide()
        except HypsosError as error:
            self.complaint.setText(error.plain)
            self.complaint.show()
        self.refresh()

    def _set_level(self, level: int) -> None:
        words = f"guard: {LEVELS[level - 1][0].strip('… ')}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("program.guard.level", level, words)
        )
        self.refresh()

    def _set_switch(self, index: int) -> None:
        name = self.switch.itemData(index)
        control = self.workbench.model.transmitter.control(name) if self.workbench.model else None
        guard = self._guard().changed(
            {"switch": name, "cut": usual_cut(control.positions if control else ())}
        )
        words = f"guard on {self.switch.itemText(index)}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("program.guard", guard, words)
        )
        self.refresh()

    def _set_wakes(self, on: bool) -> None:
        words = "locked motor wakes when low" if on else "locked motor needs the switch cycled"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("program.guard.wakes_when_low", on, words)
        )
