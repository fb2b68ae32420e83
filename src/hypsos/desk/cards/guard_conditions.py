# SPDX-License-Identifier: GPL-3.0-or-later
"""What the guard asks besides: a second condition for arming, what stops the motor meanwhile, the
check before the first start."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import power_percent
from hypsos.core.document.program import Guard, StartCheck
from hypsos.core.edits.condition_choices import ConditionPlace, default_text
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.describe_condition import signal_label
from hypsos.desk.cards.guard_access import the_guard
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.sentence_editor import SentenceEditor
from hypsos.desk.widgets.vanished_rows import while_there

MOST_HOLDS, MOST_CHECKS = 8, 12


class AsksCard(QFrame):
    """Second condition, holds and start check of the guard."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.also = SentenceEditor(
            workbench, ConditionPlace("program.guard.also", always=True), "guard: arm only while"
        )
        self.holds: list[SentenceEditor] = []
        self.checks: list[QWidget] = []
        self._shown: object = None
        self._holds, self._checks = QVBoxLayout(), QVBoxLayout()
        self.add_hold = self._button("Stop it, too, while …", self._add_hold)
        self.add_check = self._button("Ask for one thing more", self._add_check)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("When it may be armed", "section"),
                self.also,
                label("What stops it meanwhile", "section"),
                label(
                    "A landing mode that borrows the throttle stick, for one. Then the stick must rest low first.",
                    "faint",
                ),
                self._holds,
                row(self.add_hold, None),
                label("Before the first start after power-up", "section"),
                label("These must stand so, or nothing is armed.", "faint"),
                self._checks,
                row(self.add_check, None),
            )
        )

    def _button(self, words: str, act: object) -> QPushButton:
        button = QPushButton(words)
        button.clicked.connect(act)  # type: ignore[arg-type]
        return button

    @while_there
    def refresh(self) -> None:
        """Show the guard as it is now."""
        guard, model = the_guard(self.workbench), self.workbench.loaded
        shape = (
            len(guard.holds),
            tuple((c.control, c.position is None) for c in guard.start_check),
            model.transmitter,
        )
        if shape != self._shown:
            self._shown = shape
            self._make(guard)
        for editor in (self.also, *self.holds):
            editor.refresh()
        for i, check in enumerate(guard.start_check):
            for field in self.checks[i].findChildren(NumberField):
                field.refresh()
            place = self.checks[i].findChild(ChoiceBox, "position")
            if isinstance(place, ChoiceBox) and check.position is not None:
                place.setCurrentIndex(check.position)
        self.add_hold.setEnabled(len(guard.holds) < MOST_HOLDS)
        self.add_check.setEnabled(len(guard.start_check) < MOST_CHECKS)

    def _make(self, guard: Guard) -> None:
        clear(self._holds)
        clear(self._checks)
        self.holds, self.checks = [], []
        for i in range(len(guard.holds)):
            editor = SentenceEditor(
                self.workbench, ConditionPlace(f"program.guard.holds[{i}]"), "guard: stopped while"
            )
            self.holds.append(editor)
            gone = self._button(
                "Remove", lambda _=False, i=i: self._drop("holds", i, "no longer stopped then")
            )
            gone.setObjectName("plain")
            gone.setAccessibleName(f"Remove condition {i + 1} that stops the motor")
            line = row(editor, gone)
            line.setAlignment(gone, Qt.AlignmentFlag.AlignTop)
            line.setStretch(0, 1)
            self._holds.addLayout(line)
        for i, check in enumerate(guard.start_check):
            box = QWidget()
            box.setLayout(self._check_row(i, check))
            self.checks.append(box)
            self._checks.addWidget(box)

    def _check_row(self, i: int, check: StartCheck):  # type: ignore[no-untyped-def]
        model = self.workbench.loaded
        which = ChoiceBox()
        which.setAccessibleName(f"Check {i + 1}: what")
        for name in (*STICKS, *(c.name for c in model.transmitter.controls)):
            which.addItem(signal_label(model, name), name)
        which.setCurrentIndex(which.findData(check.control))
        which.activated.connect(lambda k: self._put_check(i, self._fresh(which.itemData(k))))
        gone = self._button(
            "Remove", lambda _=False: self._drop("start_check", i, "one check less")
        )
        gone.setObjectName("plain")
        gone.setAccessibleName(f"Remove check {i + 1}")
        control = model.transmitter.control(check.control)
        if check.position is not None and control is not None:
            place = ChoiceBox()
            place.setObjectName("position")
            place.setAccessibleName(f"Check {i + 1}: position")
            place.addItems(control.positions)
            place.activated.connect(lambda k: self._put_check(i, check.changed({"position": k})))
            made = row(which, "at", place, gone, None)
        else:
            ends = [self._end(i, field, check.control) for field in ("low", "high")]
            made = row(which, "from", ends[0], "to", ends[1], gone, None)
        made.setContentsMargins(0, 0, 0, 0)
        return made

    def _end(self, i: int, field: str, control: str) -> NumberField:
        throttle = control == "throttle_stick"  # said from low to full

        def get() -> float:
            value: float = getattr(the_guard(self.workbench).start_check[i], field)
            return power_percent(value) if throttle else value

        def put(value: float) -> None:
            said = f"start check: {field} {value:g} %"
            self.workbench.document.edit(
                f"program.guard.start_check[{i}].{field}",
                2 * value - 100 if throttle else value,
                said,
            )

        name = f"{signal_label(self.workbench.loaded, control)}: {field}"
        return NumberField(name, get, put, "%", (0, 100) if throttle else (-100, 100), width=62)

    def _fresh(self, name: str) -> StartCheck:
        control = self.workbench.loaded.transmitter.control(name)
        if control is not None and control.is_switch:
            return StartCheck(control=name, position=0)
        return StartCheck(
            control=name, low=-100.0, high=-95.0 if name == "throttle_stick" else 100.0
        )

    @while_there
    def _put_check(self, i: int, check: StartCheck) -> None:
        checks = tuple(
            check if k == i else c for k, c in enumerate(the_guard(self.workbench).start_check)
        )
        self._apply(
            "start_check",
            checks,
            f"start check: {signal_label(self.workbench.loaded, check.control)}",
        )

    @while_there
    def _add_check(self) -> None:
        taken = {c.control for c in the_guard(self.workbench).start_check}
        names = [
            *STICKS[2:3],
            *(c.name for c in self.workbench.loaded.transmitter.controls),
            *STICKS,
        ]
        name = next((n for n in names if n not in taken), names[0])
        checks = (*the_guard(self.workbench).start_check, self._fresh(name))
        self._apply(
            "start_check", checks, f"start check: {signal_label(self.workbench.loaded, name)}"
        )

    @while_there
    def _add_hold(self) -> None:
        holds = (*the_guard(self.workbench).holds, default_text(self.workbench.loaded))
        self._apply("holds", holds, "motor stopped, too, while …")
        if self.holds and self.holds[-1].words:
            self.holds[-1].words[0].setFocus()

    @while_there
    def _drop(self, field: str, i: int, said: str) -> None:
        old = getattr(the_guard(self.workbench), field)
        self._apply(field, old[:i] + old[i + 1 :], f"guard: {said}")

    def _apply(self, field: str, value: object, said: str) -> None:
        try:
            self.workbench.document.edit(f"program.guard.{field}", value, said)
        except HypsosError as error:
            self.workbench.notices.noticed.emit(error.plain)
        self.refresh()
