"""Set wing and tail: ailerons, flaperons or flaps on a switch with the elevator that goes with each, V-tail shares."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.fitting.throws import demand_for
from hypsos.core.model.detach import detached, free_signal
from hypsos.core.model.document import Model
from hypsos.core.model.words import side_percent
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.recipes import Ailerons, Canards, DifferentialThrust, Elevons, Flaperons, Flaps, Recipe, VTail
from hypsos.core.recipes.flaps import FlapPosition
from hypsos.core.shape.adapt import side_motors
from hypsos.desk.steps.base import StepPage
from hypsos.desk.widgets.fields import Choice
from hypsos.desk.widgets.layout import card, clear, hint, label, row
from hypsos.desk.widgets.number import NumberField

SHARE_FIELDS: dict[type, tuple[tuple[str, str, str, tuple[float, float]], ...]] = {
    Ailerons: (
        ("share", "Roll", "How much of the roll command each side gets.", (0.0, 150.0)),
        ("differential", "Differential: less going down", "Takes drag off the other wing. Minus: off this one.", (-100.0, 100.0)),
    ),
    VTail: (
        ("pitch_share", "Pitch", "Share of the elevator command.", (0.0, 150.0)),
        ("yaw_share", "Yaw", "Share of the rudder command.", (0.0, 150.0)),
    ),
    Elevons: (
        ("roll_share", "Roll", "At 50 and 50 nothing is lost at the corners.", (0.0, 150.0)),
        ("pitch_share", "Pitch", "Share of the elevator command.", (0.0, 150.0)),
    ),
    Canards: (
        ("pitch_share", "Pitch", "Ahead of the centre of gravity: down is nose up.", (0.0, 150.0)),
        ("roll_share", "Roll", "0 leaves them out of it.", (0.0, 150.0)),
    ),
    DifferentialThrust: (
        ("share", "Rudder speeds up one side by", "Left rudder speeds up the right side.", (0.0, 150.0)),
        ("inner", "Each motor further in gets", "Of the one outside it.", (0.0, 150.0)),
    ),
}  # fmt: skip


class FlapsPage(StepPage):
    """A card for each recipe of the model."""

    key = "flaps"
    lead_in = (
        "Each behaviour is a recipe: it makes the same mixes every time. Two recipes on one surface add, so ailerons go on "
        "working with the flaps down."
    )

    def build(self) -> None:
        self._built: object = None
        self.fields: dict[tuple[int, str], NumberField] = {}
        self.switches: dict[int, QComboBox] = {}
        self.mixes: dict[int, NumberField] = {}
        self._cards = QVBoxLayout()
        self._cards.setSpacing(10)
        self.column.addLayout(self._cards)
        self.add = QPushButton("Add flaps on a switch")
        self.add.setObjectName("lead")
        self.add.clicked.connect(self.add_flaps)
        self.column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        self.thrust = QPushButton("Add differential thrust")
        self.thrust.clicked.connect(self.add_thrust)
        self.column.addWidget(self.thrust, 0, Qt.AlignmentFlag.AlignLeft)
        self.advice = hint(
            "Two flaperon servos need two ports of their own, never one Y-lead: they must differ in roll."
        )
        self.column.addWidget(self.advice)

    def _model(self) -> Model:
        assert self.workbench.model is not None
        return self.workbench.model

    def _recipe(self, index: int) -> Any:
        return self._model().program.recipes[index]

    def _surfaces(self, role: str) -> tuple[str, ...]:
        return tuple(s.name for s in self._model().airframe.surfaces if s.role == role)

    def _surface(self, names: tuple[str, ...]) -> Surface | None:
        return next((s for s in self._model().airframe.surfaces if s.name in names), None)

    # -- cards ------------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        model = self._model()
        shape: tuple[object, ...] = tuple(
            (r.kind, r.control, len(r.positions)) if isinstance(r, Flaperons | Flaps) else (r.kind,)
            for r in model.program.recipes
        )
        shape += tuple((m.name, m.source, m.target, m.gain_from) for m in model.program.mixes)
        names = tuple((c.name, c.label, c.positions) for c in model.transmitter.controls)
        if (shape, names, model.airframe.kind) != self._built:
            self._built = (shape, names, model.airframe.kind)
            self._make_cards()
        for field in (*self.fields.values(), *self.mixes.values()):
            field.refresh()
        has = any(isinstance(r, Flaperons | Flaps) for r in model.program.recipes)
        self.add.setVisible(not has and bool(self._surfaces("flaperon") + self._surfaces("flap")))
        steers = any(isinstance(r, DifferentialThrust) for r in model.program.recipes)
        self.thrust.setVisible(not steers and all(side_motors(model.airframe)))
        self.advice.setVisible(bool(self._surfaces("flaperon")))

    def _make_cards(self) -> None:
        clear(self._cards)
        self.fields.clear()
        self.switches.clear()
        self.mixes.clear()
        if self._model().program.mixes:
            self._cards.addWidget(self._mix_card())
        for i, recipe in reversed(list(enumerate(self._model().program.recipes))):
            if isinstance(recipe, Flaperons | Flaps):
                self._cards.insertWidget(0, self._flap_card(i, recipe))
            else:
                self._cards.insertWidget(0, self._share_card(i, recipe))

    def _mix_card(self) -> QFrame:
        """The plain mixes, each with its gain."""
        model = self._model()
        labels = {p.name: p.label for p in model.airframe.moved()} | {
            c.name: c.label for c in model.transmitter.controls
        }
        labels |= {x.name: x.label for x in model.program.logic} | {s: s.replace("_", " ") for s in STICKS}
        labels["full"] = "a constant 100 %"
        grid = QGridLayout()
        for i, mix in enumerate(model.program.mixes):
            number = NumberField(
                f"Gain of {mix.name} on {labels.get(mix.target, mix.target)}",
                lambda i=i: self._model().program.mixes[i].gain,
                lambda value, i=i: self._put_gain(i, value),
                bounds=(-500, 500),
            )
            number.setEnabled(mix.gain_from is None)
            self.mixes[i] = number
            what = f"{labels.get(mix.source, mix.source)} → {labels.get(mix.target, mix.target)}"
            grid.addWidget(label(mix.name), i, 0)
            grid.addWidget(label(what, "faint"), i, 1)
            grid.addWidget(number, i, 2)
        grid.setColumnStretch(0, 3)
        grid.setColumnStretch(1, 4)
        note = "Signs are the engine's: + is trailing edge down, or right. Watch the bench when you change one."
        return card(label("Plain mixes", "section"), label(note, "faint"), grid)

    def _put_gain(self, index: int, value: float) -> None:
        mix = self._model().program.mixes[index]
        path = f"program.mixes[{index}].gain"
        self.workbench.edit(path, value, f"{mix.name}: gain {value:g} %", merge=path)

    def _share_card(self, index: int, recipe: Recipe) -> QFrame:
        grid = QGridLayout()
        for r, (field, words, tip, bounds) in enumerate(SHARE_FIELDS[type(recipe)]):
            number = NumberField(
                f"{recipe.label}: {words}",
                lambda field=field: getattr(self._recipe(index), field),
                self._putting(index, field, words),
                bounds=bounds,
            )
            self.fields[(index, field)] = number
            grid.addWidget(label(words), r, 0)
            grid.addWidget(number, r, 1)
            grid.addWidget(label(tip, "faint"), r, 2)
        grid.setColumnStretch(0, 3)
        grid.setColumnStretch(2, 4)
        return card(label(recipe.label, "section"), grid, self._tail(index))

    def _flap_card(self, index: int, recipe: Flaperons | Flaps) -> QFrame:
        model = self._model()
        switch = Choice()
        switch.setAccessibleName(f"Switch for {recipe.label.lower()}")
        for found in model.transmitter.controls:
            if found.is_switch:
                switch.addItem(found.label, found.name)
        switch.setCurrentIndex(switch.findData(recipe.control))
        switch.activated.connect(lambda k: self._set_switch(index, switch.itemData(k)))
        self.switches[index] = switch
        control = model.transmitter.control(recipe.control)
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        flap, elevator = self._surface(recipe.surfaces), self._surface(recipe.elevators)
        heads = ("", recipe.label, "Elevator with it" if recipe.elevators else "")
        for c, words in enumerate(heads):
            grid.addWidget(label(words, "faint", wrap=False), 0, c)
        for p in range(len(recipe.positions)):
            name = control.positions[p] if control and p < len(control.positions) else f"position {p + 1}"
            grid.addWidget(label(name, wrap=False), p + 1, 0)
            for c, (field, surface) in enumerate((("flap", flap), ("elevator", elevator))):
                if surface is None:
                    continue
                number = self._position_field(index, p, field, name, surface)
                grid.addWidget(number, p + 1, c + 1)
        grid.setColumnStretch(3, 1)
        times = QGridLayout()
        for r, (field, words, said) in enumerate(
            (("in_s", "coming in", "Comes in over"), ("out_s", "going out", "Goes out over"))
        ):
            number = NumberField(
                f"{recipe.label}: seconds {words}",
                lambda field=field: getattr(self._recipe(index), field),
                self._putting(index, field, words),
                unit="s",
                bounds=(0, 60),
                step=0.1,
                width=56,
            )
            self.fields[(index, field)] = number
            times.addWidget(label(said, wrap=False), r, 0)
            times.addWidget(number, r, 1)
        times.setColumnStretch(2, 1)
        title = row(label(recipe.label, "section", wrap=False), None, "on", switch)
        note = label("Seconds for 100 %. The elevator keeps in step.", "faint")
        return card(title, grid, times, note, self._tail(index))

    def _position_field(self, index: int, place: int, field: str, name: str, surface: Surface) -> NumberField:
        number = NumberField(
            f"{field.capitalize()} at {name}",
            lambda: getattr(self._recipe(index).positions[place], field),
            lambda value: self._put_position(index, place, field, name, value, surface),
            bounds=(-100, 100),
            width=98,
            words=("up", "down"),
            convert=lambda value, unit: demand_for(self._model(), surface.name, value, unit),
        )
        number.setToolTip("In %, or type millimetres or degrees: 12 mm down")
        self.fields[(index, f"positions[{place}].{field}")] = number
        return number

    def _tail(self, index: int) -> QWidget:
        """The mixes a recipe makes, and the way to detach them."""
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        made = label("", "faint")
        made.hide()
        show = QPushButton("Show the mixes it makes")
        show.setObjectName("plain")
        detach = QPushButton("Detach")
        detach.setObjectName("plain")
        detach.setToolTip("Turn the recipe into plain mixes that you change one by one.")
        detach.clicked.connect(lambda: self.detach(index))

        def toggle() -> None:
            made.setText("\n".join(mix_words(self._model(), self._recipe(index))))
            made.setVisible(not made.isVisible())
            show.setText("Hide the mixes" if made.isVisible() else "Show the mixes it makes")

        show.clicked.connect(toggle)
        column.addLayout(row(show, None, detach))
        column.addWidget(made)
        return box

    # -- edits ------------------------------------------------------------------------------------------------------

    def _putting(self, index: int, field: str, words: str) -> Callable[[float], None]:
        def put(value: float) -> None:
            name = self._recipe(index).label
            unit = "s" if field.endswith("_s") else "%"
            said = f"{name}: {words.lower()} {value:g} {unit}"
            self.workbench.edit(f"program.recipes[{index}].{field}", value, said, merge=f"recipe {index} {field}")

        return put

    def _put_position(self, index: int, place: int, field: str, name: str, value: float, surface: Surface) -> None:
        said = f"{self._recipe(index).label if field == 'flap' else 'elevator'} {side_percent(surface, value, 1)} at {name}"
        path = f"program.recipes[{index}].positions[{place}].{field}"
        self.workbench.edit(path, value, said.replace(".0 %", " %"), merge=path)

    def _set_switch(self, index: int, name: str) -> None:
        recipe, model = self._recipe(index), self._model()
        control = model.transmitter.control(name)
        assert control is not None
        count = len(control.positions)
        last = recipe.positions[-1]
        positions = tuple(recipe.positions[i] if i < len(recipe.positions) else last for i in range(count))
        changed = type(recipe)(**{**dict(recipe), "control": name, "positions": positions})
        said = f"{recipe.label} on {control.label}"
        self.workbench.attempt(lambda: self.workbench.edit(f"program.recipes[{index}]", changed, said))
        self._built = None
        self.refresh()

    def add_flaps(self) -> None:
        """Add the recipe that fits this airframe, on a switch of three positions."""
        model = self._model()
        switches = [c for c in model.transmitter.controls if c.kind == "switch"]
        guard = model.program.guard
        free = [c for c in switches if guard is None or c.name != guard.switch]
        control = next((c for c in free if "flap" in c.name), next(iter(free), None))
        if control is None:
            self.workbench.noticed.emit("There is no free switch for flaps on this transmitter.")
            return
        count = len(control.positions)
        steps = {2: (0.0, 35.0), 3: (0.0, 35.0, 90.0)}.get(count, tuple(18.0 * i for i in range(count)))
        roles = "flaperon" if self._surfaces("flaperon") else "flap"
        tail = self._surfaces("elevator") or self._surfaces("ruddervator")
        kind = Flaperons if roles == "flaperon" else Flaps
        recipe = kind(
            surfaces=self._surfaces(roles), elevators=tail, control=control.name,
            positions=tuple(FlapPosition(flap=f) for f in steps), in_s=1.5, out_s=1.5,
            signal=free_signal(model.program, {p.name for p in model.airframe.moved()}, "flap"),
        )  # fmt: skip
        recipes = (*model.program.recipes, recipe)
        self.workbench.attempt(lambda: self.workbench.edit("program.recipes", recipes, f"add {recipe.label.lower()}"))

    def add_thrust(self) -> None:
        """Add differential thrust for the motors to the left and to the right of the middle."""
        model = self._model()
        left, right = side_motors(model.airframe)
        names = {p.name for p in model.airframe.moved()}
        recipe = DifferentialThrust(left=left, right=right, signal=free_signal(model.program, names, "turn_power"))
        recipes = (*model.program.recipes, recipe)
        self.workbench.attempt(lambda: self.workbench.edit("program.recipes", recipes, "add differential thrust"))

    def detach(self, index: int) -> None:
        """Replace a recipe by the mixes it makes."""
        model = self._model()
        words = f"detach {self._recipe(index).label.lower()}"
        self.workbench.attempt(lambda: self.workbench.apply(detached(model, index), words))

    def show_place(self, path: str) -> None:
        for index, number in self.mixes.items():
            if path.startswith(f"program.mixes[{index}]"):
                number.setFocus()
                self.ensureWidgetVisible(number)
        for (index, field), number in self.fields.items():
            if path.startswith(f"program.recipes[{index}]") and (path.endswith(field) or path.endswith(".positions")):
                number.setFocus()
                self.ensureWidgetVisible(number)
                return


def mix_words(model: Model, recipe: Recipe) -> list[str]:
    """The mixes a recipe makes, a line each."""
    labels = {p.name: p.label for p in model.airframe.moved()} | {c.name: c.label for c in model.transmitter.controls}
    out = []
    for made in recipe.expand(model.transmitter.control):
        line = made.line
        source, target = labels.get(line.source, line.source), labels.get(line.target, line.target)
        text = f"{source} → {target}: {line.gain:g} %"
        if line.response is not None:
            text += "  through " + ", ".join(f"{x:g}→{y:g}" for x, y in line.response.points)
        if line.differential:
            text += f", differential: {line.differential:g} % less on the side going {'down' if line.differential > 0 else 'up'}"
        if line.in_s or line.out_s:
            text += f", comes in over {line.in_s:g} s, goes out over {line.out_s:g} s"
        out.append(text)
    return out
