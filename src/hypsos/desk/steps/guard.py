"""Make the motor safe: which switch stops it, and what it takes to release it."""

from __future__ import annotations

from PyQt6.QtWidgets import QButtonGroup, QCheckBox, QComboBox, QRadioButton, QVBoxLayout, QWidget

from hypsos.core.program import Guard
from hypsos.desk.steps.base import StepPage
from hypsos.desk.widgets.layout import card, caution, hint, label, row
from hypsos.desk.widgets.number import NumberField

LEVELS = (
    ("Cut", "One switch position stops every motor, whatever the stick, a mix or a trim says."),
    ("Cut, stick low to arm", "The motor is released only if the throttle stick was low when the switch went to run."),
    ("… and rested low", "The stick must have rested low for a time before the switch goes to run."),
    (
        "… and re-locked by a lost link",
        "A link lost for longer than a time, as in a battery change, locks the motor again.",
    ),
)


class GuardPage(StepPage):
    """Level, switch and thresholds of the guard."""

    key = "guard"
    lead_in = "A motor turns only when the guard has released it. The guard acts before reversing, so it cannot be turned round."

    def build(self) -> None:
        self.column.addWidget(
            caution(
                "Propeller off, or the model held down, while you try this. Keep hands clear of the propeller's disc."
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
        self.switch = QComboBox()
        self.switch.setAccessibleName("Motor switch")
        self.switch.activated.connect(self._set_switch)
        self.run = QComboBox()
        self.run.setAccessibleName("Position that lets the motor run")
        self.run.activated.connect(self._set_run)
        self.threshold = NumberField(
            "Stick counts as low below", lambda: self._guard().threshold, self._putting("threshold", "stick low below"),
            bounds=(-100, 100),
        )  # fmt: skip
        self.rest = NumberField(
            "Rest time", lambda: self._guard().rest_s, self._putting("rest_s", "rest time"), "s", (0, 60), 0.1
        )
        self.relock = NumberField(
            "Link lost for",
            lambda: self._guard().relock_s,
            self._putting("relock_s", "re-lock time"),
            "s",
            (0, 60),
            0.1,
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
                row("The motor may run at", self.run, None),
                row("The stick is low below", self.threshold, None),
                self._rest_row,
                self._relock_row,
                self.wakes,
            )
        )
        column.addWidget(
            hint(
                "Try it on the bench: stick up, then the switch to run. The lamp must say locked and the propeller stand still."
            )
        )
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
        button = self.levels.button(guard.level)
        if button is not None:
            button.setChecked(True)
        switches = [c for c in model.transmitter.controls if c.is_switch]
        self.switch.clear()
        for c in switches:
            self.switch.addItem(c.label, c.name)
        self.switch.setCurrentIndex(self.switch.findData(guard.switch))
        control = model.transmitter.control(guard.switch)
        self.run.clear()
        self.run.addItems(control.positions if control else ())
        self.run.setCurrentIndex(guard.run_position)
        self.wakes.setChecked(guard.wakes_when_low)
        self._rest_row.setVisible(guard.level >= 3 or guard.wakes_when_low)
        self._relock_row.setVisible(guard.level >= 4)
        for field in (self.threshold, self.rest, self.relock):
            field.refresh()

    def _putting(self, field: str, words: str):  # type: ignore[no-untyped-def]
        unit = "%" if field == "threshold" else "s"
        return lambda value: self.workbench.edit(
            f"program.guard.{field}", value, f"guard: {words} {value:g} {unit}", merge=f"guard {field}"
        )

    def _set_level(self, level: int) -> None:
        words = f"guard: {LEVELS[level - 1][0].strip('… ')}"
        self.workbench.attempt(lambda: self.workbench.edit("program.guard.level", level, words))
        self.refresh()

    def _set_switch(self, index: int) -> None:
        guard = self._guard().model_copy(update={"switch": self.switch.itemData(index), "run_position": 1})
        words = f"guard on {self.switch.itemText(index)}"
        self.workbench.attempt(lambda: self.workbench.edit("program.guard", guard, words))
        self.refresh()

    def _set_run(self, index: int) -> None:
        words = f"motor runs at {self.run.itemText(index)}"
        self.workbench.attempt(lambda: self.workbench.edit("program.guard.run_position", index, words))
        self.refresh()

    def _set_wakes(self, on: bool) -> None:
        words = "locked motor wakes when low" if on else "locked motor needs the switch cycled"
        self.workbench.attempt(lambda: self.workbench.edit("program.guard.wakes_when_low", on, words))
