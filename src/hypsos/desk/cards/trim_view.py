# SPDX-License-Identifier: GPL-3.0-or-later
"""Trims: how far a click goes, how far a lever, for which modes; and carried over into the
centres."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, plain
from hypsos.core.document.program import Axis, Trim
from hypsos.core.edits.trim_sets import SCOPES, with_trim, with_trim_field
from hypsos.core.fitting.trims_to_centres import THREADS, Carried, carried_over
from hypsos.core.wording.describe_condition import mode_label
from hypsos.core.wording.words import part_named, side_percent
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row


class TrimView(QWidget):
    """A row for each axis, one for all of them; carrying over."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self._built: object = None
        self.fields: dict[tuple[str, str], NumberField] = {}
        self.scopes: dict[str, ChoiceBox] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self.now: dict[str, QWidget] = {}
        self.together = QCheckBox("All axes alike")
        self._rows = QVBoxLayout()
        self._rows.setSpacing(3)
        self.carry = QPushButton("Carry trims over into centres…")
        self.carry.clicked.connect(self.offer)
        self.said = label("")
        self.said.hide()
        self.do = QPushButton("Carry them over")
        self.do.setObjectName("lead")
        self.do.clicked.connect(self._carry)
        self.do.hide()
        self._carried: Carried | None = None
        about = (
            "After a flight the trims show what the centres should be. Carrying over moves the centres and sets the trims back: "
            "every pulse stays, and the levers have their full way again."
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(card(self.together, self._rows))
        column.addWidget(
            card(
                label("Into the centres", "section"),
                label(about, "faint"),
                row(self.carry, None),
                self.said,
                row(self.do, None),
            )
        )

    def _axes(self) -> list[Axis]:
        return [
            a
            for a in self.workbench.loaded.program.axes
            if a.command != "thrust" or a.trim is not None
        ]

    def refresh(self) -> None:
        """Show the model as it is now."""
        modes = tuple((m.name, m.label) for m in self.workbench.loaded.program.modes)
        shape = (
            tuple((a.command, a.trim is not None, self._stands(a)) for a in self._axes()),
            modes,
        )
        if shape != self._built:
            self._built = shape
            self._make()
        for field in self.fields.values():
            field.refresh()
        for axis in self._axes():
            self.ticks[axis.command].setChecked(axis.trim is not None)
            if axis.trim is not None:
                box = self.scopes[axis.command]
                box.setCurrentIndex(box.findData(axis.trim.scope))
        if self._carried is not None and self._carried.model != self.workbench.loaded:
            self._put_away()

    def _make(self) -> None:
        clear(self._rows)
        self.fields.clear()
        self.scopes.clear()
        self.ticks.clear()
        for axis in self._axes():
            tick = self.ticks[axis.command] = QCheckBox(axis.command)
            tick.setAccessibleName(f"Trim of {axis.command}")
            tick.clicked.connect(lambda on, c=axis.command: self._switch(c, on))
            parts: list[QWidget | str] = [tick]
            for field, words, bounds in (
                ("step", "a click", (0.05, 10.0)),
                ("range", "range", (1.0, 100.0)),
            ):
                if axis.trim is None:
                    continue
                made = NumberField(
                    f"Trim of {axis.command}: {'percent a click' if field == 'step' else 'range'}",
                    lambda command=axis.command, f=field: getattr(self._trim(command), f),
                    lambda value, command=axis.command, f=field: self._put(command, f, value),
                    bounds=bounds,
                    digits=2,
                    width=60,
                    step=0.05 if field == "step" else 1.0,
                )
                self.fields[(axis.command, field)] = made
                parts += [words, made]
            if axis.trim is not None:
                box = self.scopes[axis.command] = ChoiceBox()
                box.setAccessibleName(f"Trim of {axis.command} holds for")
                box.setSizeAdjustPolicy(
                    ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
                )
                box.setMinimumContentsLength(16)
                box.fill(SCOPES)
                box.activated.connect(
                    lambda k, c=axis.command, b=box: self._scope(c, b.itemData(k), b.itemText(k))
                )
                parts += ["for", box]
            self._rows.addWidget(flowing(*parts))
            self._rows.addWidget(label(self._stands(axis), "faint"))

    def _trim(self, command: str) -> Trim:
        axis = self.workbench.loaded.program.axis(command)
        return axis.trim if axis is not None and axis.trim is not None else Trim()

    def _stands(self, axis: Axis) -> str:
        trim = axis.trim
        if trim is None:
            return ""
        said = (
            [f"Stands at {number(trim.clicks)} clicks"] if trim.clicks or not trim.by_mode else []
        )
        said += [
            f"{mode_label(self.workbench.loaded, m)} {number(c)}"
            for m, c in trim.by_mode.items()
            if c
        ]
        return ", ".join(said)

    # -- edits -----------------------------------------------------------------------------------

    def _commands(self, command: str) -> tuple[str, ...]:
        if not self.together.isChecked():
            return (command,)
        return tuple(
            a.command for a in self._axes() if a.trim is not None and a.command != "thrust"
        )

    def _put(self, command: str, field: str, value: float) -> None:
        bench, words = self.workbench, {"step": "a click", "range": "range"}[field]
        which = "all trims" if self.together.isChecked() else f"trim of {command}"
        made = with_trim_field(bench.loaded, self._commands(command), field, value)
        bench.document.apply(
            made, f"{which}: {words} {plain(value)} %", merge=f"trim {which} {field}"
        )

    def _scope(self, command: str, value: str, words: str) -> None:
        bench = self.workbench
        which = "all trims" if self.together.isChecked() else f"trim of {command}"
        bench.notices.attempt(
            lambda: bench.document.apply(
                with_trim_field(bench.loaded, self._commands(command), "scope", value),
                f"{which}: {words}",
            )
        )
        self.refresh()

    def _switch(self, command: str, on: bool) -> None:
        bench = self.workbench
        words = f"{'trim' if on else 'no trim'} of {command}"
        bench.notices.attempt(
            lambda: bench.document.apply(with_trim(bench.loaded, command, on), words)
        )
        self.refresh()

    # -- carrying over ---------------------------------------------------------------------------

    def offer(self) -> None:
        """Say what carrying over would do, lead by lead."""
        model = self.workbench.loaded
        try:
            found = carried_over(model)
        except HypsosError as error:
            self._put_away()
            self.said.setText(error.plain)
            self.said.show()
            return
        self._carried = found._replace(model=model)
        targets = {x.name: x.target for x in model.leads}
        lines = []
        for turn in found.turns:
            part = part_named(model, targets[turn.lead])
            lead = next(x for x in model.leads if x.name == turn.lead)
            said = f"{turn.label}: centre {number(abs(turn.us), 1)} µs, {side_percent(part, lead.direction * turn.percent, 1)}"
            if turn.rod_mm is not None:
                way = "out, rod longer" if turn.rod_mm > 0 else "in, rod shorter"
                each = " or ".join(f"{number(abs(turn.turns(t)), 1)} turns of {t}" for t in THREADS)
                said += f"; on the clevis it is {each} ({way})"
            lines.append(said)
        lines += [f"The trim of {command} stays: {why}." for command, why in found.left]
        lines.append(
            f"No pulse changes by more than {number(found.worst_us, 2)} µs. Turn the clevis instead, if the arm is to stay square."
        )
        self.said.setText("\n".join(lines))
        self.said.show()
        self.do.show()

    def _put_away(self) -> None:
        self._carried = None
        self.said.hide()
        self.do.hide()

    def _carry(self) -> None:
        bench = self.workbench
        self._put_away()
        bench.notices.attempt(
            lambda: bench.document.apply(
                carried_over(bench.loaded).model, "trims carried over into centres"
            )
        )
