# SPDX-License-Identifier: GPL-3.0-or-later
"""Shared values: one figure that several things go by, with a value in every flight mode, bounds,
and what moves it in flight."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtWidgets import QCheckBox, QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.figure_words import number, plain, said_name
from hypsos.core.base.lookup import the_one, the_place
from hypsos.core.dependencies.references import uses
from hypsos.core.edits.behaviours import free_label
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.edits.shared_values import (
    dead_axes,
    freed,
    kept_now,
    tunable_users,
    with_tunable,
    with_value,
    without_tunable,
)
from hypsos.core.parts.transmitter import STICKS, Control
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.wording.words import SHARED_VALUE, control_label
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox, TextField
from hypsos.desk.widgets.flow_layout import Flow, flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import clear, label, row, worded
from hypsos.desk.widgets.row_list import RowList
from hypsos.desk.widgets.scroll_page import page_of
from hypsos.desk.widgets.vanished_rows import while_there
from hypsos.desk.widgets.when_line import WhenLine

KINDS = (
    ("", "nothing"),
    ("set", "a control that sets it"),
    ("add", "a control that adds to it"),
    ("step", "steps up and down"),
)
UNITS = ("%", "mm", "°", "s", "")


class SharedView(QWidget):
    """A card for every shared value of the model's own; what behaviours make is listed."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.cards: list[SharedCard] = []
        self.new = QPushButton("Add a shared value")
        self.new.setObjectName("lead")
        self.new.clicked.connect(self.add)
        self.made = label("", "faint")
        self._place = RowList()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(label(SHARED_VALUE, "faint"))
        column.addLayout(self._place)
        column.addWidget(self.made)
        column.addLayout(row(self.new, None))

    def refresh(self) -> None:
        """Show the model as it is now."""
        program = self.workbench.loaded.program
        modes = tuple((m.name, m.label) for m in program.modes)
        shown = self._place.show_rows(
            [
                (
                    (i, x.name, x.adjuster.kind if x.adjuster else "", modes),
                    partial(SharedCard, self.workbench, x.name),
                )
                for i, x in enumerate(program.tunables)
            ],
            [x.label for x in program.tunables],
        )
        self.cards = [c for c in shown if isinstance(c, SharedCard)]
        dead = dict(dead_axes(self.workbench.loaded))
        for made in self.cards:
            made.refresh(dead.get(made.name, ""))
        own = [
            f"{x.label} ({number(x.low)} to {number(x.high)})"
            for r in program.recipes
            for x in r.own_values()
        ]
        self.made.setText(
            f"Made by behaviours, and set on their cards: {'; '.join(own)}." if own else ""
        )
        self.made.setVisible(bool(own))

    def add(self) -> None:
        """One more shared value."""
        bench = self.workbench
        words = free_label("Shared value 1", (x.label for x in bench.loaded.program.tunables))
        page = page_of(self)
        if (
            bench.notices.attempt(
                lambda: bench.document.apply(
                    with_tunable(bench.loaded, words), f"add {words.lower()}"
                )
            )
            and page is not None
        ):
            page.bring(self.cards[-1], self.cards[-1].title)
            self.cards[-1].title.selectAll()


class SharedCard(QFrame):
    """One shared value."""

    def __init__(self, workbench: Workbench, name: str) -> None:
        super().__init__()
        self.workbench, self.name = workbench, name
        self.setObjectName("card")
        x = self.value()
        words = said_name(x.label, "Shared value", x.name)
        self.title = TextField(f"Name of {words}", 60)
        self.title.editingFinished.connect(self._rename)
        self.unit = ChoiceBox()
        self.unit.setAccessibleName(f"{words}: unit")
        self.unit.setSizeAdjustPolicy(
            ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.unit.setMinimumContentsLength(4)
        for unit in UNITS:
            self.unit.addItem(unit or "no unit", unit)
        self.unit.activated.connect(
            lambda k: self._put("unit", self.unit.itemData(k), f"in {self.unit.itemText(k)}")
        )
        self.low, self.high = (self._bound(f) for f in ("low", "high"))
        self.fields: dict[str | None, NumberField] = {}
        grid = Flow(6)
        modes = [(None, "stored"), *((m.name, m.label) for m in workbench.loaded.program.modes)]
        for mode, said in modes:
            field = self.fields[mode] = NumberField(
                f"{words}: {said}",
                lambda m=mode: self._read(m),
                lambda v, m=mode, s=said: self._write(m, s, v),
                unit="",
                bounds=(-500, 500),
                digits=2,
                width=62,
            )
            box = QWidget()
            inside = QVBoxLayout(box)
            inside.setContentsMargins(0, 0, 0, 0)
            inside.setSpacing(1)
            inside.addWidget(label(said, "faint", wrap=False))
            inside.addWidget(field)
            grid.addWidget(box)
        self.used = label("", "faint")
        self.danger = label("", "complaint")
        self.kind = ChoiceBox()
        self.kind.setAccessibleName(f"{words}: moved in flight by")
        for data, said in KINDS:
            self.kind.addItem(said, data)
        self.kind.activated.connect(
            lambda k: self._moved_by(self.kind.itemData(k), self.kind.itemText(k))
        )
        self._moves = QVBoxLayout()
        self.whens: list[WhenLine] = []
        self.control: ChoiceBox | None = None
        self.now = label("", "faint", wrap=False)
        self.keep = QPushButton("Keep what it says now")
        self.keep.clicked.connect(self._keep)
        self.remove = QPushButton("Remove")
        self.remove.setObjectName("plain")
        self.remove.clicked.connect(self._remove)
        self.free = QPushButton("Remove, keep its figure")
        self.free.setObjectName("plain")
        self.free.clicked.connect(self._free)
        self.modes: dict[str, QCheckBox] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(5)
        column.addLayout(row(self.title, self.unit))
        column.addLayout(row("From", self.low, "to", self.high, None))
        column.addLayout(grid)
        column.addWidget(self.danger)
        column.addWidget(self.used)
        self.kind.setSizeAdjustPolicy(
            ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        self.kind.setMinimumContentsLength(14)
        column.addWidget(flowing("Moved in flight by", self.kind))
        column.addLayout(self._moves)
        column.addWidget(flowing(self.now, self.keep, self.remove, self.free))
        self._make_moves()
        workbench.simulation.live_changed.connect(self._live)

    def value(self) -> Tunable:
        """The shared value as it is now."""
        return the_one(self.workbench.loaded.program.tunables, lambda x: x.name == self.name)

    def _path(self, field: str) -> str:
        names = [x.name for x in self.workbench.loaded.program.tunables]
        return f"program.tunables[{the_place(names, self.name)}].{field}"

    def _bound(self, field: str) -> NumberField:
        def put(value: float) -> None:
            words = f"{self.value().label}: {'at least' if field == 'low' else 'at most'} {plain(value)}"
            self.workbench.document.edit(
                self._path(field), value, words, merge=f"{self.name} {field}"
            )

        name = f"{self.value().label}: {'lower' if field == 'low' else 'upper'} bound"
        return NumberField(
            name,
            lambda: getattr(self.value(), field),
            put,
            unit="",
            bounds=(-500, 500),
            digits=2,
            width=62,
        )

    def _read(self, mode: str | None) -> float:
        x = self.value()
        return x.value if mode is None else x.by_mode.get(mode, x.value)

    def _write(self, mode: str | None, words: str, value: float) -> None:
        bench = self.workbench
        said = f"{self.value().label} {plain(value)}" + (f" in {words}" if mode else "")
        bench.document.apply(
            with_value(bench.loaded, self.name, mode, value), said, merge=f"{self.name} {mode}"
        )

    # -- what moves it ---------------------------------------------------------------------------

    def _make_moves(self) -> None:
        clear(self._moves)
        self.whens, self.control, self.modes = [], None, {}
        adjuster = self.value().adjuster
        self.amount: NumberField | None = None
        if adjuster is None:
            return
        x = self.value()
        if adjuster.kind != "step":
            self.control = ChoiceBox()
            self.control.setAccessibleName(f"{x.label}: control")
            self.control.setSizeAdjustPolicy(
                ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            self.control.setMinimumContentsLength(12)
            box = self.control
            box.activated.connect(
                lambda k: self._adjust({"control": box.itemData(k)}, "by another control")
            )
            self._moves.addLayout(row("by", self.control, None))
        if adjuster.kind != "set":
            self.amount = NumberField(
                f"{x.label}: by how much",
                lambda: self._adjuster().amount,
                lambda v: self._adjust({"amount": v}, f"by {plain(v)}", placed=True),
                unit="",
                bounds=(0.01, 500),
                digits=2,
                width=62,
            )
            words = "each time, so much" if adjuster.kind == "step" else "at full travel, so much"
            self._moves.addLayout(row(words, self.amount, None))
        fields = (
            [("up", "more each time", "begins"), ("down", "less each time", "begins")]
            if adjuster.kind == "step"
            else []
        )
        for field, said, verb in (*fields, ("when", "it acts", "acts")):
            place = ConditionPlace(
                self._path(f"adjuster.{field}"),
                always=True,
                none="always" if field == "when" else "never",
            )
            line = WhenLine(
                self.workbench, place, lambda s=said: f"{self.value().label}, {s}", verb
            )
            self.whens.append(line)
            self._moves.addLayout(
                row(f"{said.capitalize()}:", line, None) if field != "when" else row(line, None)
            )
        self.stays = QCheckBox("It stays when that ends")
        self.stays.clicked.connect(
            lambda on: self._adjust({"keep": on}, "stays" if on else "returns")
        )
        self._moves.addWidget(self.stays)
        modes = self.workbench.loaded.program.modes
        if modes:
            line_ = Flow(8)
            line_.addWidget(label("in", wrap=False))
            for mode in modes:
                tick = self.modes[mode.name] = QCheckBox(worded(mode.label))
                tick.setAccessibleName(f"{x.label}: moved in {mode.label}")
                tick.clicked.connect(lambda _=False, m=mode.name: self._mode_ticked(m))
                line_.addWidget(tick)
            self._moves.addLayout(line_)

    def _adjuster(self) -> Adjuster:
        found = self.value().adjuster
        return found if found is not None else Adjuster(control=STICKS[0])

    def _controls(self) -> list[tuple[str, str]]:
        model = self.workbench.loaded
        out = [(c.name, c.label) for c in model.transmitter.controls if not c.is_switch]
        out += [(c.name, c.label) for c in model.transmitter.controls if c.is_switch]
        out += [(s, control_label(model, s)) for s in STICKS]
        return out + [
            (f"{a.command}_trim", f"{a.command} trim lever")
            for a in model.program.axes
            if a.trim is not None
        ]

    def _idle(self) -> list[Control]:
        """The controls of the transmitter that do nothing yet: never one by surprise that gives
        power."""
        model = self.workbench.loaded
        used = uses(model)
        return [c for c in model.transmitter.controls if not used.get(c.name)]

    def _moved_by(self, kind: str, words: str) -> None:
        idle = self._idle()
        made: Adjuster | None = None
        if kind == "step":
            one = next(
                (c for c in idle if c.kind == "momentary"),
                next((c for c in idle if c.is_switch), None),
            )
            made = Adjuster(kind="step", up=f"{one.name}@1" if one is not None else "!link")
        elif kind:
            one = next((c for c in idle if not c.is_switch), None)
            if one is None:
                self.workbench.notices.noticed.emit(
                    "Every slider and knob does something already. Lay out another one under the hands first."
                )
                self.refresh()
                return
            made = Adjuster(kind=kind, control=one.name, amount=10.0)
        self._put("adjuster", made, f"moved in flight by {words}")

    def _adjust(self, fields: dict[str, Any], words: str, placed: bool = False) -> None:
        made = self._adjuster().changed(fields)
        if placed:
            self.workbench.document.edit(
                self._path("adjuster"),
                made,
                f"{self.value().label}: {words}",
                merge=f"{self.name} {words[:2]}",
            )
        else:
            self._put("adjuster", made, words)

    def _mode_ticked(self, mode: str) -> None:
        every = [m.name for m in self.workbench.loaded.program.modes]
        old = self._adjuster().modes or tuple(every)
        made = tuple(m for m in every if (m in old) != (m == mode))
        if not made:
            self.workbench.notices.noticed.emit(
                "In no mode at all would be the same as nothing: choose nothing above instead."
            )
            self.refresh()
            return
        self._adjust({"modes": () if len(made) == len(every) else made}, "in other modes")

    # -- showing ---------------------------------------------------------------------------------

    def refresh(self, danger: str = "") -> None:
        """Show it as it is now."""
        x = self.value()
        if not self.title.isModified():
            self.title.setText(x.label)
        self.unit.setCurrentIndex(self.unit.findData(x.unit))
        for field in (self.low, self.high, *self.fields.values()):
            field.refresh()
        users = tunable_users(self.workbench.loaded, self.name)
        self.used.setText(f"Used by {', '.join(users)}." if users else "Nothing goes by it yet.")
        self.free.setVisible(bool(users))
        self.danger.setText(danger.capitalize() + "." if danger else "")
        self.danger.setVisible(bool(danger))
        self.kind.setCurrentIndex(
            self.kind.findData(x.adjuster.kind if x.adjuster is not None else "")
        )
        for line in self.whens:
            line.refresh()
        if x.adjuster is not None:
            if self.control is not None:
                self.control.fill(self._controls())
                self.control.choose(x.adjuster.control)
            if self.amount is not None:
                self.amount.refresh()
            self.stays.setChecked(x.adjuster.keep)
            self.stays.setVisible(x.adjuster.when is not None)
            for mode, tick in self.modes.items():
                tick.setChecked(not x.adjuster.modes or mode in x.adjuster.modes)
        self.keep.setVisible(x.adjuster is not None)
        self._live()

    def _now(self) -> float | None:
        """What it is now, on the bench."""
        return self.workbench.state.shared_now().get(self.name)

    def _live(self) -> None:
        if not self.isVisible() or self.workbench.model is None:
            return
        if all(x.name != self.name for x in self.workbench.model.program.tunables):
            return
        now = self._now()
        unit = self.value().unit
        self.now.setText("" if now is None else f"Now {number(now, 1)}{' ' + unit if unit else ''}")

    # -- edits -----------------------------------------------------------------------------------

    @while_there
    def _put(self, field: str, value: object, words: str) -> None:
        said = f"{self.value().label}: {words}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path(field), value, said)
        )

    @while_there
    def _rename(self) -> None:
        text = self.title.text().strip()
        if self.title.isModified() and text != self.value().label:
            path = self._path("label")
            if not self.workbench.notices.attempt(
                lambda: self.workbench.document.edit(path, text, f"called {text}")
            ):
                self.title.setText(self.value().label)

    @while_there
    def _keep(self) -> None:
        now, bench = self._now(), self.workbench
        if now is not None:
            words = f"{self.value().label}: kept at {number(now, 1)}"
            bench.notices.attempt(
                lambda: bench.document.apply(
                    kept_now(bench.loaded, self.name, bench.state.mode_name, now), words
                )
            )

    @while_there
    def _remove(self) -> None:
        bench, words = self.workbench, f"without {self.value().label.lower()}"
        bench.notices.attempt(
            lambda: bench.document.apply(without_tunable(bench.loaded, self.name), words)
        )

    @while_there
    def _free(self) -> None:
        """Out with it; what went by it keeps what it says in the flight mode flown."""
        bench, x = self.workbench, self.value()
        figure = x.by_mode.get(bench.state.mode_name, x.value)
        words = f"without {x.label.lower()}, {plain(figure)}{f' {x.unit}' if x.unit else ''} where it was used"
        bench.notices.attempt(
            lambda: bench.document.apply(freed(bench.loaded, self.name, figure), words)
        )
