# SPDX-License-Identifier: GPL-3.0-or-later
"""The card of one recipe, made from what the recipe says of itself."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.edits.behaviours import copied, readers, without
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.edits.detach import detached
from hypsos.core.edits.mix_words import made_words
from hypsos.core.edits.shared_values import with_value_for
from hypsos.core.fitting.roll_movement import roll_movement
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.mix_lines import Response
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.recipes import Amount, Parameter
from hypsos.core.recipes.one_edge import edge_angle
from hypsos.core.wording.words import SHARED_VALUE, control_label
from hypsos.desk.cards.limits_view import Limits
from hypsos.desk.cards.recipe_fields import LISTED, RecipeFields
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.field_row import FieldRow
from hypsos.desk.widgets.fields import ChoiceBox, TextField
from hypsos.desk.widgets.flow_layout import Flow, flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import label, row, set_tip, worded
from hypsos.desk.widgets.response_editor import ResponseEdit
from hypsos.desk.widgets.scroll_page import place_kept
from hypsos.desk.widgets.vanished_rows import while_there
from hypsos.desk.widgets.when_line import WhenLine

PARTLY = ("part", "parts")
SOON_MS = 40
"""How long after an edit the strip of the trailing edge is drawn anew."""


NEW_VALUE = "a new shared value"
"""Stands in a list of shared values for one that is made there and then; no name has blanks in
it."""


class RecipeCard(RecipeFields):
    """Every parameter by its kind, what it works on, when it acts, its trailing edge; copying,
    detaching, removing."""

    def __init__(self, workbench: Workbench, index: int) -> None:
        super().__init__(workbench, index)
        self.choices: dict[str, ChoiceBox] = {}
        self.ticks: dict[str, dict[str, QCheckBox]] = {}
        self.whens: dict[str, WhenLine] = {}
        self.responses: dict[str, ResponseEdit] = {}
        self._angles: dict[str, QLabel] = {}
        """Beside each share of an edge, what it comes to as an angle."""
        recipe = self.recipe()
        self.name = TextField(f"Name of {recipe.label}", 60)
        self.name.editingFinished.connect(self._rename)
        self.when = WhenLine(
            workbench, ConditionPlace(self._path("when"), always=True), lambda: self.recipe().label
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(7)
        column.addWidget(label(recipe.about, "faint"))
        column.addLayout(self._grid)
        parts: list[QWidget] = []
        for parameter in recipe.parameters:
            if parameter.kind in PARTLY:
                parts.append(self._part_row(parameter))
            elif parameter.kind in LISTED:
                self._list(parameter)
            elif parameter.kind == "response":
                self._response(parameter)
            elif parameter.limit:
                self._limit(parameter)
            else:
                self._line(parameter)
        self._grid.setColumnStretch(0, 3)
        self._grid.setColumnStretch(2, 4)
        self.rolls = label("", "faint")
        self.in_mm = QPushButton("Make it so in mm")
        self.in_mm.setToolTip(
            "All sections by one angle: the differential is one of movements then."
        )
        self.in_mm.clicked.connect(lambda: self._turn_edge(True))
        column.addWidget(self.rolls)
        column.addLayout(row(self.in_mm, None))
        limits = [self.whens[p.key] for p in recipe.parameters if p.limit]
        self.limits = Limits(workbench, [*limits, self.when])
        column.addWidget(self.limits)
        from hypsos.desk.widgets.edge_view import EdgeStrip

        self.edges = EdgeStrip(recipe.label)
        column.addWidget(self.edges)
        for made in self._more(parts):
            column.addLayout(made) if isinstance(made, QLayout) else column.addWidget(made)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._show_edges)
        self._shown_for: object = None
        self.refresh()

    def _compact(self, box: ChoiceBox) -> None:
        box.setSizeAdjustPolicy(ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(9)

    def field_for(self, path: str) -> NumberField | None:
        """The field of the number at a path of the document, the first of its kind where it has
        several."""
        inside = path.removeprefix(f"{self._path()}.")
        if inside in self.fields:
            return self.fields[inside]
        key = inside.split(".", 1)[0]
        name, _, index = key.partition("[")
        found = getattr(self.recipe(), name, None)
        if (
            index
            and isinstance(found, tuple)
            and int(index[:-1]) < len(found)
            and isinstance(found[int(index[:-1])], Amount)
        ):
            wanted = f"{name}.{found[int(index[:-1])].parts[0]}"
            if wanted in self.fields:
                return self.fields[wanted]
        return next(
            (f for k, f in self.fields.items() if k.split(".")[0].split("[")[0] == name), None
        )

    def stand_at(self, index: int) -> None:
        """Its place among the behaviours is another one now."""
        self.index = index
        self.when.place = self.when.place._replace(path=self._path("when"))
        for key, when in self.whens.items():
            when.place = when.place._replace(path=self._path(key))

    @property
    def opened(self) -> bool:
        """Whether what is wanted seldom is shown."""
        return not self._inner.isHidden()

    def open(self, on: bool = True) -> None:
        """Show what is wanted seldom, or put it away."""
        with place_kept(self):
            self._inner.setVisible(on)

    # -- made once -------------------------------------------------------------------------------

    def _line(self, parameter: Parameter) -> None:
        r = self._grid.rowCount()
        field: QWidget
        surface = (
            self._surface(getattr(self.recipe(), parameter.of))
            if parameter.kind == "surface" and parameter.of
            else None
        )
        if surface is not None:
            said = f"{self.recipe().label}: {parameter.label.lower()}"
            field = self._surface_field(parameter.key, said, surface, said)
        elif parameter.kind == "edge":
            self._edge(parameter)
            return
        elif parameter.kind in ("percent", "surface", "seconds", "place"):
            field = self.fields[parameter.key] = self._number(parameter)
        elif parameter.kind == "yes or no":
            tick = QCheckBox(parameter.label)
            tick.clicked.connect(lambda on: self._put(parameter, on, "on" if on else "off"))
            self.ticks[parameter.key] = {"": tick}
            self._grid.addWidget(tick, r, 0, 1, 3)
            return
        elif parameter.kind == "axes":
            self._grid.addWidget(label(parameter.label), r, 0)
            self._grid.addLayout(self._axes(parameter), r, 1, 1, 2)
            return
        elif parameter.kind == "condition":
            place = ConditionPlace(self._path(parameter.key), always=True, none="nothing is asked")
            when = self.whens[parameter.key] = WhenLine(
                self.workbench,
                place,
                lambda: f"{self.recipe().label}, {parameter.label.lower()}",
                "holds",
            )
            self._grid.addWidget(label(parameter.label), r, 0)
            self._grid.addWidget(when, r, 1, 1, 2)
            return
        else:
            box = field = self.choices[parameter.key] = ChoiceBox()
            self._compact(box)
            box.setAccessibleName(f"{self.recipe().label}: {parameter.label.lower()}")
            box.activated.connect(
                lambda k: self._chosen(parameter, box.itemData(k), box.itemText(k))
            )
        if parameter.kind == "shared":
            set_tip(field, SHARED_VALUE)
        tip = label(parameter.tip, "faint")
        if parameter.of == "edge_deg":
            self._angles[parameter.key] = tip
        line = FieldRow(label(parameter.label), field, tip)
        self._grid.addWidget(line, r, 0, 1, 3)

    def _limit(self, parameter: Parameter) -> None:
        """One of the conditions that stand together in a sentence."""
        when = self.whens[parameter.key] = WhenLine(
            self.workbench,
            ConditionPlace(self._path(parameter.key), always=True),
            lambda: f"{self.recipe().label}, {parameter.label.lower()}",
        )
        set_tip(when, parameter.tip)

    def _edge(self, parameter: Parameter) -> None:
        """Whether its parts turn by one angle, and by which at 100 %."""
        tick = QCheckBox("By one angle")
        tick.setAccessibleName(f"{self.recipe().label}: by one angle")
        tick.clicked.connect(self._turn_edge)
        self.ticks[parameter.key] = {"": tick}
        field = NumberField(
            f"{self.recipe().label}: the angle that is 100 %",
            lambda: float(getattr(self.recipe(), parameter.key) or 0.0),
            lambda value: self._put_edge(parameter, value),
            unit="°",
            bounds=(1, 90),
            step=0.5,
        )
        self.fields[parameter.key] = field
        r = self._grid.rowCount()
        self._grid.addWidget(FieldRow(tick, field, label(parameter.tip, "faint")), r, 0, 1, 3)

    def _put_edge(self, parameter: Parameter, value: float) -> None:
        path = self._path(parameter.key)
        self.workbench.document.edit(
            path, value, f"{self.recipe().label}: 100 % is {number(value, 1)}°", merge=path
        )

    @while_there
    def _turn_edge(self, on: bool) -> None:
        """One angle for all, or each by its own travel."""
        recipe = self.recipe()
        said = f"{recipe.label} by {'one angle' if on else 'each travel'}"
        angle = edge_angle(self.workbench.loaded.airframe, self._moved()) if on else None
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path("edge_deg"), angle, said)
        )
        self.refresh()

    def _moved(self) -> list[str]:
        """The surfaces that it moves as one edge."""
        edge = [p for p in self.recipe().of("parts") if not p.later]
        return [name for p in edge for name in getattr(self.recipe(), p.key)]

    def _axes(self, parameter: Parameter) -> QHBoxLayout:
        line = QHBoxLayout()
        ticks = self.ticks[parameter.key] = {}
        for axis in self.workbench.loaded.program.axes:
            if axis.command != "thrust":
                tick = ticks[axis.command] = QCheckBox(axis.command)
                tick.setAccessibleName(f"{self.recipe().label}: {axis.command}")
                tick.clicked.connect(
                    lambda _=False, c=axis.command: self._axis_ticked(parameter, c)
                )
                line.addWidget(tick)
        line.addStretch(1)
        return line

    def _response(self, parameter: Parameter) -> None:
        def put(response: Response | None, words: str, merge: str) -> None:
            from hypsos.core.edits.named_shapes import made

            self.workbench.document.edit(
                self._path(parameter.key), response or made("straight"), words, merge=merge
            )

        show = QPushButton(f"{parameter.label}: its curve")
        show.setObjectName("plain")
        holder = QVBoxLayout()

        def toggle() -> None:
            if parameter.key in self.responses:
                edit = self.responses[parameter.key]
                edit.setVisible(not edit.isVisible())
                return
            edit = self.responses[parameter.key] = ResponseEdit(
                self.workbench,
                f"{self.recipe().label}, {parameter.label.lower()}",
                lambda: getattr(self.recipe(), parameter.key),
                put,
                shown=lambda: self.recipe().made_response(parameter.key),
            )
            holder.addWidget(edit)

        show.clicked.connect(while_there(toggle))
        r = self._grid.rowCount()
        self._grid.addWidget(show, r, 0, 1, 3, Qt.AlignmentFlag.AlignLeft)
        self._grid.addWidget(label(parameter.tip, "faint"), r + 1, 0, 1, 3)
        self._grid.addLayout(holder, r + 2, 0, 1, 3)

    def _part_row(self, parameter: Parameter) -> QWidget:
        """The parts that may be named, each to tick; of a single one the choice."""
        box = QWidget()
        line = QVBoxLayout(box)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        line.addWidget(label(parameter.label, "faint", wrap=False))
        parts = self._may_be(parameter)
        if parameter.kind == "part":
            choice = self.choices[parameter.key] = ChoiceBox()
            self._compact(choice)
            choice.setAccessibleName(f"{self.recipe().label}: {parameter.label.lower()}")
            choice.activated.connect(
                lambda k: self._chosen(parameter, choice.itemData(k), choice.itemText(k))
            )
            line.addWidget(choice)
        else:
            ticks = self.ticks[parameter.key] = {}
            column = Flow(8)
            for name, words in parts:
                tick = ticks[name] = QCheckBox(worded(words))
                tick.setAccessibleName(f"{self.recipe().label}, {parameter.label.lower()}: {words}")
                tick.clicked.connect(lambda _=False, p=parameter, n=name: self._ticked(p, n))
                column.addWidget(tick)
            line.addLayout(column)
        return box

    def _may_be(self, parameter: Parameter) -> list[tuple[str, str]]:
        body = self.workbench.loaded.airframe
        found: list[tuple[str, str]] = []
        if "motor" in parameter.roles:
            sides = dict(zip(("left", "right"), body.side_motors(), strict=True))
            allowed = sides.get(parameter.side, tuple(m.name for m in body.motors))
            found += [(m.name, m.label) for m in body.motors if m.name in allowed]
        found += [
            (s.name, s.label)
            for s in body.with_roles(*parameter.roles)
            if parameter.side in ("", s.side)
        ]
        found += [(d.name, d.label) for d in body.devices if d.kind in parameter.roles]
        return found

    def _more(self, parts: list[QWidget]) -> list[Any]:
        """What is wanted seldom: name and parts; the mixes it makes; copying, detaching,
        removing."""
        self.more = QPushButton("Name, and what it moves")
        self.more.setObjectName("plain")
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row("Called", self.name))
        for part in parts:
            column.addWidget(part)
        inner.hide()
        self._inner = inner
        self.more.clicked.connect(lambda: self.open(not inner.isVisible()))
        made = label("", "faint")
        made.hide()
        show = QPushButton("Its mixes")
        show.setObjectName("plain")
        show.setToolTip(
            "The mixes that it makes, as they are keyed in: from what, to what, how much."
        )

        def toggle() -> None:
            made.setText("\n".join(made_words(self.workbench.loaded, self.recipe())))
            with place_kept(self):
                made.setVisible(not made.isVisible())

        show.clicked.connect(toggle)
        buttons = []
        for words, tip, action in (
            ("Copy", "A second one like it, switched off until you change it.", self.copy),
            (
                "Detach",
                "Turn it into plain mixes that you change one by one; it can be attached again.",
                self.detach,
            ),
            ("Remove", "Take it away; undo brings it back.", self.remove),
        ):
            button = QPushButton(words)
            button.setObjectName("plain")
            button.setToolTip(tip)
            button.clicked.connect(while_there(lambda _=False, act=action: act()))
            buttons.append(button)
        return [row(self.more, None), inner, flowing(show, *buttons, gap=0), made]

    # -- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the recipe as it is now."""
        super().refresh()
        recipe = self.recipe()
        if not self.name.isModified():
            self.name.setText(recipe.label)
        for when in (self.when, *self.whens.values()):
            when.refresh()
        self.limits.refresh()
        for edit in self.responses.values():
            edit.refresh()
        for parameter in recipe.parameters:
            value = getattr(recipe, parameter.key)
            if parameter.key in self.choices:
                self.choices[parameter.key].fill(self._known(parameter))
                self.choices[parameter.key].choose(value)
            elif parameter.kind in ("parts", "axes"):
                for name, tick in self.ticks[parameter.key].items():
                    tick.setChecked(name in value)
            elif parameter.kind == "yes or no":
                self.ticks[parameter.key][""].setChecked(value)
            elif parameter.kind == "edge":
                self.ticks[parameter.key][""].setChecked(value is not None)
                self.fields[parameter.key].setVisible(value is not None)
            elif parameter.key in self._angles:
                self._angles[parameter.key].setText(self._share_words(parameter))
        self._say_roll()
        self._soon.start()

    def _say_roll(self) -> None:
        """What a ruler finds at full roll on both sides, and whether that is what is asked."""
        found = roll_movement(self.workbench.loaded, self.recipe())
        self.rolls.setVisible(found is not None)
        self.in_mm.setVisible(found is not None and not found.as_asked)
        if found is None:
            return
        said = f"Full roll at a rate of 100 %: {number(found.up_mm, 1)} mm up, {number(found.down_mm, 1)} mm down"
        asked, less = number(found.asked), number(abs(found.less))
        if found.as_asked:
            self.rolls.setText(f"{said}.")
            return
        way = "less" if found.less >= 0 else "more"
        self.rolls.setText(
            f"{said}: {number(found.up_deg)}° and {number(found.down_deg)}°. That is {less} % {way} going down, "
            f"not {asked} % less, for its travel up and its travel down differ."
        )

    def _share_words(self, parameter: Parameter) -> str:
        """What a share of an edge comes to as an angle, beside what it is for."""
        recipe: Any = self.recipe()
        if recipe.edge_deg is None:
            return parameter.tip
        angle, by = (
            abs(getattr(recipe, parameter.key)) * recipe.edge_deg / 100.0,
            recipe.times(parameter.key),
        )
        shared = next((x for x in self.workbench.loaded.program.tunables if x.name == by), None)
        said = f"{number(angle, 1)}° for all"
        if shared is not None:
            stored = angle * shared.value / 100.0
            said += f", times {shared.label.lower()}: {number(stored, 1)}° with {number(shared.value)} %"
        return f"{said}. {parameter.tip}".strip()

    def _known(self, parameter: Parameter) -> list[tuple[Any, str]]:
        """What may be chosen for a parameter, each with its words."""
        if parameter.kind == "choice":
            return [*parameter.choices]
        if parameter.kind == "part":
            return [*self._may_be(parameter)]
        optional = type(self.recipe()).model_fields[parameter.key].default is None
        none: list[tuple[Any, str]] = [(None, "none")] if optional else []
        model = self.workbench.loaded
        if parameter.kind == "shared":
            values = [(x.name, x.label) for x in model.program.tunables]
            return [*none, *values, (NEW_VALUE, "a new one")]
        if parameter.kind == "signal":
            labels = dict(model.program.signal_labels())
            for name, _ in self.recipe().signals():  # it reads none of its own
                labels.pop(name, None)
            return [*none, *labels.items()]
        switches = [(c.name, c.label) for c in model.transmitter.controls if c.is_switch]
        if parameter.kind == "switch":
            return [*none, *switches]
        sliders = [(c.name, c.label) for c in model.transmitter.controls if not c.is_switch]
        sticks = [(s, control_label(model, s)) for s in STICKS]
        gates = [(x.name, x.label) for x in model.program.gates()]
        return [*none, *sliders, *switches, *sticks, *self._trim_levers(parameter), *gates]

    def _trim_levers(self, parameter: Parameter) -> list[tuple[Any, str]]:
        """The trim levers, where one may be chosen."""
        if not parameter.levers:
            return []
        trimmed = [a.command for a in self.workbench.loaded.program.axes if a.trim is not None]
        return [(f"{command}_trim", f"{command} trim lever") for command in trimmed]

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._soon.start()

    def _show_edges(self) -> None:
        """The strip is worked out a moment after an edit, and only where it is seen; what moves no
        surface has none."""
        if (
            not self.isVisible()
            or self.workbench.model is None
            or self.index >= len(self.workbench.model.program.recipes)
        ):
            return
        model = self.workbench.model
        if self._shown_for is model:
            return
        self._shown_for = model
        with place_kept(self):
            self._put_edges(model)

    def _put_edges(self, model: Model) -> None:
        from hypsos.core.explain.behaviour_preview import shown, trailing_edges

        body, recipe = model.airframe, model.program.recipes[self.index]
        moved = {name for _, name in recipe.parts()}
        motors = moved & {m.name for m in body.motors}
        surfaces = moved & {s.name for s in body.surfaces}
        if moved and not surfaces and not motors:
            self.edges.hide()
            return
        self.edges.show()
        plugged = {lead.target for lead in model.leads}
        if moved and not moved & plugged:
            self.edges.show_nothing("Nothing moves yet: none of its leads is plugged in.")
            return
        try:
            if motors and not surfaces:
                self.edges.show_powers(body, shown(model, recipe))
            else:
                self.edges.show_edges(body, trailing_edges(model, self.index))
        except HypsosError:
            self.edges.hide()

    # -- edits -----------------------------------------------------------------------------------

    def _chosen(self, parameter: Parameter, value: Any, words: str) -> None:
        if value == NEW_VALUE:
            self._take_new_value(parameter)
            return
        control = self.workbench.loaded.transmitter.control(value or "")
        if parameter.kind not in ("switch", "control") or control is None or not control.is_switch:
            self._put(parameter, value, words)
            return
        made = self.recipe().on_switch(parameter.key, control)
        said = f"{self.recipe().label} on {control.label}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path(), made, said)
        )

    def _take_new_value(self, parameter: Parameter) -> None:
        """A shared value of its own for a figure, which can then be set by flight mode or in
        flight."""
        bench = self.workbench
        said = f"{self.recipe().label}: {parameter.label.lower()} a new one"
        if bench.notices.attempt(
            lambda: bench.document.apply(
                with_value_for(bench.loaded, self.index, parameter.key), said
            )
        ):
            made = bench.loaded.program.tunables[-1]
            bench.notices.noticed.emit(
                f"{made.label} stands at 100 %. Set it by flight mode under Choose flight modes, Shared values."
            )
        self.refresh()

    def _axis_ticked(self, parameter: Parameter, command: str) -> None:
        old = getattr(self.recipe(), parameter.key)
        made = tuple(
            a.command
            for a in self.workbench.loaded.program.axes
            if (a.command in old) != (a.command == command)
        )
        self._put(parameter, made, f"{'with' if command in made else 'without'} {command}")

    def _ticked(self, parameter: Parameter, name: str) -> None:
        order = [n for n, _ in self._may_be(parameter)]
        old = getattr(self.recipe(), parameter.key)
        names = tuple(n for n in order if (n in old) != (n == name))
        if isinstance(self._part(name), Motor):  # from the outside in, as the aeroplane has them
            left, right = self.workbench.loaded.airframe.side_motors()
            names = tuple(n for n in (*left, *right) if n in names)
        words = f"{'with' if name in names else 'without'} {self._part(name).label.lower()}"
        self._put(parameter, names, words)

    @while_there
    def _rename(self) -> None:
        text = self.name.text().strip()
        if not self.name.isModified() or text == self.recipe().label:
            return
        done = self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path("label"), text, f"called {text}")
        )
        if not done:
            self.name.setText(self.recipe().label)

    @while_there
    def copy(self) -> None:
        """A second one like it, switched off."""
        words = f"copy {self.recipe().label.lower()}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(copied(self.workbench.loaded, self.index), words)
        )

    def detach(self) -> None:
        """Replace the recipe by the mixes it makes."""
        words = f"detach {self.recipe().label.lower()}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(
                detached(self.workbench.loaded, self.index), words
            )
        )

    def remove(self) -> None:
        """Take the recipe away; where something reads its signal, say what, and offer to detach it
        instead."""
        bench, recipe = self.workbench, self.recipe()
        users = tuple(
            dict.fromkeys(
                u
                for n, _ in recipe.signals()
                for u in readers(bench.loaded, n, self.index)
                if u != recipe.label
            )
        )
        words, index = f"without {recipe.label.lower()}", self.index
        if (
            not bench.notices.attempt(
                lambda: bench.document.apply(without(bench.loaded, index), words)
            )
            or not users
        ):
            return

        def instead() -> None:
            if bench.document.undo_label != words:
                raise HypsosError(
                    "other edits have been made since",
                    "",
                    f"Undo back to before “{words}”, then detach it.",
                )
            bench.document.undo()
            bench.document.apply(detached(bench.loaded, index), f"detach {recipe.label.lower()}")

        said = f"{', '.join(users)} read{'s' if len(users) == 1 else ''} what {recipe.label} gave; that is nothing now."
        bench.notices.offered.emit(
            said, "Detach it instead", lambda: bench.notices.attempt(instead)
        )
