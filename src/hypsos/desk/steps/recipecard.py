"""The card of one recipe, made from what the recipe says of itself."""

from __future__ import annotations

from typing import Any

from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.fitting.throws import demand_for
from hypsos.core.model.choosing import Place
from hypsos.core.model.detach import detached
from hypsos.core.model.mix_words import made_words
from hypsos.core.model.words import plain, side_percent
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.recipes import Parameter, Recipe
from hypsos.desk.widgets.fields import Choice, TextField
from hypsos.desk.widgets.layout import card, label, row, worded
from hypsos.desk.widgets.number import NumberField
from hypsos.desk.widgets.sentence import SentenceEditor
from hypsos.desk.workbench import Workbench


class RecipeCard(QFrame):
    """Every parameter by its kind, what it works on, when it acts; detaching and removing."""

    def __init__(self, workbench: Workbench, index: int) -> None:
        super().__init__()
        self.workbench, self.index = workbench, index
        self.fields: dict[str, NumberField] = {}
        self.choices: dict[str, Choice] = {}
        self.ticks: dict[str, dict[str, QCheckBox]] = {}
        recipe = self.recipe()
        self.name = TextField(f"Name of {recipe.label}", 60)
        self.name.editingFinished.connect(self._rename)
        self.when = SentenceEditor(workbench, Place(self._path("when"), always=True), recipe.label)
        self._grid = QGridLayout()
        parts: list[QWidget] = []
        for parameter in recipe.parameters:
            if parameter.kind in ("part", "parts"):
                parts.append(self._part_row(parameter))
            elif parameter.kind == "positions":
                self._positions(parameter)
            else:
                self._line(parameter)
        self._grid.setColumnStretch(0, 3)
        self._grid.setColumnStretch(2, 4)
        body = card(label(recipe.title, "section"), label(recipe.about, "faint"), self._grid, *self._more(parts))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(body)
        self.refresh()

    def recipe(self) -> Recipe:
        """The recipe as it is now."""
        return self.workbench.loaded.program.recipes[self.index]

    def _path(self, field: str = "") -> str:
        return f"program.recipes[{self.index}]" + (f".{field}" if field else "")

    def _compact(self, box: Choice) -> None:
        box.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(9)

    @property
    def opened(self) -> bool:
        """Whether what is wanted seldom is shown."""
        return not self._inner.isHidden()

    def open(self) -> None:
        """Show what is wanted seldom."""
        self._inner.show()

    # -- made once --------------------------------------------------------------------------------------------------

    def _line(self, parameter: Parameter) -> None:
        r = self._grid.rowCount()
        field: QWidget
        if parameter.kind in ("percent", "seconds"):
            field = self.fields[parameter.key] = self._number(parameter)
        elif parameter.kind == "yes or no":
            tick = QCheckBox(parameter.label)
            tick.clicked.connect(lambda on: self._put(parameter, on, "on" if on else "off"))
            self.ticks[parameter.key] = {"": tick}
            self._grid.addWidget(tick, r, 0, 1, 3)
            return
        else:
            box = field = self.choices[parameter.key] = Choice()
            self._compact(box)
            box.setAccessibleName(f"{self.recipe().label}: {parameter.label.lower()}")
            box.activated.connect(lambda k: self._chosen(parameter, box.itemData(k), box.itemText(k)))
        self._grid.addWidget(label(parameter.label), r, 0)
        self._grid.addWidget(field, r, 1)
        self._grid.addWidget(label(parameter.tip, "faint"), r, 2)

    def _number(self, parameter: Parameter) -> NumberField:
        seconds = parameter.kind == "seconds"
        return NumberField(
            f"{self.recipe().label}: {parameter.label.lower()}",
            lambda: getattr(self.recipe(), parameter.key),
            lambda value: self._put_number(parameter, value),
            unit="s" if seconds else "%",
            bounds=type(self.recipe()).bounds(parameter.key) if not seconds else (0, 60),
            step=0.1 if seconds else 1.0,
        )

    def _positions(self, parameter: Parameter) -> None:
        """A row for each position of the control: the surface, and the elevator that goes with it."""
        recipe: Any = self.recipe()
        control = self.workbench.loaded.transmitter.control(recipe.control)
        first, pitch = self._surface(recipe.surfaces), self._surface(recipe.elevators)
        grid = QGridLayout()
        for c, words in enumerate(("", recipe.label, "Elevator with it" if pitch is not None else "")):
            grid.addWidget(label(words, "faint", wrap=False), 0, c)
        count = len(recipe.positions)
        for p in range(count):
            name = control.positions[p] if control is not None and p < len(control.positions) else f"position {p + 1}"
            at = count - p  # as the switch is drawn: its first position lies at the bottom
            grid.addWidget(label(name, wrap=False), at, 0)
            for c, (field, surface) in enumerate((("flap", first), ("elevator", pitch))):
                if surface is not None:
                    grid.addWidget(self._position(p, field, name, surface), at, c + 1)
        grid.setColumnStretch(3, 1)
        self._grid.addLayout(grid, self._grid.rowCount(), 0, 1, 3)
        self._grid.addWidget(label(parameter.tip, "faint"), self._grid.rowCount(), 0, 1, 3)

    def _position(self, place: int, field: str, name: str, surface: Surface) -> NumberField:
        def get() -> float:
            found: Any = self.recipe()
            value: float = getattr(found.positions[place], field)
            return value

        made = NumberField(
            f"{field.capitalize()} at {name}", get, lambda value: self._put_position(place, field, name, value, surface),
            bounds=(-100, 100), width=98, words=("up", "down"),
            convert=lambda value, unit: demand_for(self.workbench.loaded, surface.name, value, unit),
        )  # fmt: skip
        made.setToolTip("In %, or type millimetres or degrees: 12 mm down")
        self.fields[f"positions[{place}].{field}"] = made
        return made

    def _part_row(self, parameter: Parameter) -> QWidget:
        """The parts that may be named, each to tick; of a single one the choice."""
        box = QWidget()
        line = QHBoxLayout(box)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(label(parameter.label, "faint", wrap=False))
        parts = self._may_be(parameter)
        if parameter.kind == "part":
            choice = self.choices[parameter.key] = Choice()
            self._compact(choice)
            choice.setAccessibleName(f"{self.recipe().label}: {parameter.label.lower()}")
            choice.activated.connect(lambda k: self._chosen(parameter, choice.itemData(k), choice.itemText(k)))
            line.addWidget(choice)
        else:
            ticks = self.ticks[parameter.key] = {}
            column = QVBoxLayout()
            column.setSpacing(2)
            for name, words in parts:
                tick = ticks[name] = QCheckBox(worded(words))
                tick.setAccessibleName(f"{self.recipe().label}, {parameter.label.lower()}: {words}")
                tick.clicked.connect(lambda _=False, p=parameter, n=name: self._ticked(p, n))
                column.addWidget(tick)
            line.addLayout(column)
        line.addStretch(1)
        return box

    def _may_be(self, parameter: Parameter) -> list[tuple[str, str]]:
        body = self.workbench.loaded.airframe
        found: list[tuple[str, str]] = []
        if "motor" in parameter.roles:
            sides = dict(zip(("left", "right"), body.side_motors(), strict=True))
            allowed = sides.get(parameter.side, tuple(m.name for m in body.motors))
            found += [(m.name, m.label) for m in body.motors if m.name in allowed]
        found += [(s.name, s.label) for s in body.with_roles(*parameter.roles) if parameter.side in ("", s.side)]
        return found

    def _more(self, parts: list[QWidget]) -> list[Any]:
        """What is wanted seldom: name, when, parts; the mixes it makes; detaching, removing."""
        self.more = QPushButton("Name, when, and what it moves")
        self.more.setObjectName("plain")
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row("Called", self.name))
        column.addWidget(label("It acts:", "faint"))
        column.addWidget(self.when)
        for part in parts:
            column.addWidget(part)
        inner.hide()
        self._inner = inner
        self.more.clicked.connect(lambda: inner.setVisible(not inner.isVisible()))
        made = label("", "faint")
        made.hide()
        show = QPushButton("Its mixes")
        show.setObjectName("plain")
        show.setToolTip("The mix lines that it makes.")

        def toggle() -> None:
            made.setText("\n".join(made_words(self.workbench.loaded, self.recipe())))
            made.setVisible(not made.isVisible())

        show.clicked.connect(toggle)
        detach = QPushButton("Detach")
        detach.setObjectName("plain")
        detach.setToolTip("Turn it into plain mixes that you change one by one.")
        detach.clicked.connect(self.detach)
        remove = QPushButton("Remove")
        remove.setObjectName("plain")
        remove.setToolTip("Take it away; undo brings it back.")
        remove.clicked.connect(self.remove)
        return [row(self.more, None), inner, row(show, None, detach, remove), made]

    def _surface(self, names: tuple[str, ...]) -> Surface | None:
        return next((s for s in self.workbench.loaded.airframe.surfaces if s.name in names), None)

    # -- showing ----------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the recipe as it is now."""
        recipe, model = self.recipe(), self.workbench.loaded
        for field in self.fields.values():
            field.refresh()
        if not self.name.isModified():
            self.name.setText(recipe.label)
        self.when.about = recipe.label
        self.when.refresh()
        for parameter in recipe.parameters:
            value = getattr(recipe, parameter.key)
            if parameter.kind == "switch":
                switches = [(c.name, c.label) for c in model.transmitter.controls if c.is_switch]
                self._fill(self.choices[parameter.key], switches, value)
            elif parameter.kind == "choice":
                self._fill(self.choices[parameter.key], list(parameter.choices), value)
            elif parameter.kind == "part":
                self._fill(self.choices[parameter.key], self._may_be(parameter), value)
            elif parameter.kind == "parts":
                for name, tick in self.ticks[parameter.key].items():
                    tick.setChecked(name in value)
            elif parameter.kind == "yes or no":
                self.ticks[parameter.key][""].setChecked(value)

    def _fill(self, box: Choice, known: list[Any], value: object) -> None:
        if [(box.itemData(i), box.itemText(i)) for i in range(box.count())] != known:
            box.clear()
            for data, words in known:
                box.addItem(words, data)
        box.setCurrentIndex(next((i for i, (data, _) in enumerate(known) if data == value), -1))

    # -- edits ------------------------------------------------------------------------------------------------------

    def _put(self, parameter: Parameter, value: object, words: str) -> None:
        said = f"{self.recipe().label}: {parameter.label.lower()} {words}"
        self.workbench.attempt(lambda: self.workbench.edit(self._path(parameter.key), value, said))
        self.refresh()

    def _put_number(self, parameter: Parameter, value: float) -> None:
        unit = "s" if parameter.kind == "seconds" else "%"
        said = f"{self.recipe().label}: {parameter.label.lower()} {plain(value)} {unit}"
        path = self._path(parameter.key)
        self.workbench.edit(path, value, said, merge=path)

    def _put_position(self, place: int, field: str, name: str, value: float, surface: Surface) -> None:
        said = f"{self.recipe().label if field == 'flap' else 'elevator'} {side_percent(surface, value, 1)} at {name}"
        path = self._path(f"positions[{place}].{field}")
        self.workbench.edit(path, value, said.replace(".0 %", " %"), merge=path)

    def _chosen(self, parameter: Parameter, value: str, words: str) -> None:
        control = self.workbench.loaded.transmitter.control(value)
        if parameter.kind != "switch" or control is None:
            self._put(parameter, value, words)
            return
        made = self.recipe().on_switch(parameter.key, control)
        said = f"{self.recipe().label} on {control.label}"
        self.workbench.attempt(lambda: self.workbench.edit(self._path(), made, said))

    def _ticked(self, parameter: Parameter, name: str) -> None:
        order = [n for n, _ in self._may_be(parameter)]
        old = getattr(self.recipe(), parameter.key)
        names = tuple(n for n in order if (n in old) != (n == name))
        if isinstance(self._part(name), Motor):  # from the outside in, as the aeroplane has them
            left, right = self.workbench.loaded.airframe.side_motors()
            names = tuple(n for n in (*left, *right) if n in names)
        words = f"{'with' if name in names else 'without'} {self._part(name).label.lower()}"
        self._put(parameter, names, words)

    def _part(self, name: str) -> Any:
        return next(p for p in self.workbench.loaded.airframe.moved() if p.name == name)

    def _rename(self) -> None:
        text = self.name.text().strip()
        if not self.name.isModified() or text == self.recipe().label:
            return
        done = self.workbench.attempt(lambda: self.workbench.edit(self._path("label"), text, f"called {text}"))
        if not done:
            self.name.setText(self.recipe().label)

    def detach(self) -> None:
        """Replace the recipe by the mixes it makes."""
        words = f"detach {self.recipe().label.lower()}"
        self.workbench.attempt(lambda: self.workbench.apply(detached(self.workbench.loaded, self.index), words))

    def remove(self) -> None:
        """Take the recipe away."""
        recipes = self.workbench.loaded.program.recipes
        left = tuple(r for i, r in enumerate(recipes) if i != self.index)
        words = f"without {self.recipe().label.lower()}"
        self.workbench.attempt(lambda: self.workbench.edit("program.recipes", left, words))
