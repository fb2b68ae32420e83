# SPDX-License-Identifier: GPL-3.0-or-later
"""The figures of a recipe in rows: by position, by group of surfaces, by flight mode, by motor,
each in % and in mm."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtWidgets import QFrame, QGridLayout

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.base.lookup import at_place
from hypsos.core.document.document import Model
from hypsos.core.fitting.throw_settings import demand_for, place_of
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.curves import ruler_mm
from hypsos.core.recipes import Amount, Parameter, Recipe
from hypsos.core.recipes.recipe_base import groups_of
from hypsos.core.wording.words import side_percent
from hypsos.desk.cards.typed_field import TypedInDocument
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import label

LISTED = ("positions", "amounts", "shares", "by mode", "levers")


class RecipeFields(QFrame):
    """One recipe's number fields by the path of the document inside it; the grid they stand in;
    what they put back."""

    def __init__(self, workbench: Workbench, index: int) -> None:
        super().__init__()
        self.workbench, self.index = workbench, index
        self.fields: dict[str, NumberField] = {}
        self._grid = QGridLayout()

    def refresh(self) -> None:
        """Show the recipe as it is now."""
        for field in self.fields.values():
            field.refresh()

    def recipe(self) -> Recipe:
        """The recipe as it is now."""
        return at_place(self.workbench.loaded.program.recipes, self.index)

    def _path(self, field: str = "") -> str:
        return f"program.recipes[{self.index}]" + (f".{field}" if field else "")

    def _bounds(self, parameter: Parameter) -> tuple[float, float]:
        if parameter.kind == "seconds":
            return 0, 60
        if parameter.kind == "place":
            return -100, 100
        return type(self.recipe()).bounds(parameter.key)

    def _number(self, parameter: Parameter) -> NumberField:
        seconds = parameter.kind == "seconds"

        def as_share(value: float, unit: str) -> float:
            return self._of_edge(self._edge_surface(), value, unit)

        return NumberField(
            f"{self.recipe().label}: {parameter.label.lower()}",
            lambda: getattr(self.recipe(), parameter.key),
            lambda value: self._put_number(parameter, value),
            unit="s" if seconds else "%",
            bounds=self._bounds(parameter),
            step=0.1 if seconds else 1.0,
            convert=as_share if parameter.of == "edge_deg" else None,
            typed=self._typed_in(parameter.key, self._edge_surface)
            if parameter.of == "edge_deg"
            else None,
        )

    def _typed_in(self, path: str, surface: Callable[[], Surface | None]) -> TypedInDocument:
        """The figure at a path of this recipe is kept as it was typed."""

        def places(_: Model) -> list[tuple[str, str]]:
            measured = surface()
            return [] if measured is None else [(self._path(path), measured.name)]

        return TypedInDocument(self.workbench, places)

    def _amount_places(
        self, model: Model, parameter: Parameter, surface: Surface
    ) -> list[tuple[str, str]]:
        """Where the travel of a group of surfaces stands in the list of them."""
        amounts = getattr(model.program.recipes[self.index], parameter.key)
        place = next((i for i, a in enumerate(amounts) if surface.name in a.parts), None)
        if place is None:
            return []
        return [(self._path(f"{parameter.key}[{place}].travel"), surface.name)]

    def _millimetres(self, surface: Surface, value: float) -> float | None:
        """What a share of a surface's travel adds at its trailing edge."""
        return 0.0 if not value else place_of(self.workbench.loaded, surface.name, value)[1]

    def _of_mode_in_mm(self, figure: str, surface: Surface, value: float) -> float | None:
        """The same for a figure of a flight mode, which may be a share of an edge's angle."""
        edge = getattr(self.recipe(), "edge_deg", None)
        if edge is None or figure not in ("flap", "aileron"):
            return self._millimetres(surface, value)
        return float(ruler_mm(value * edge / 100.0, surface.chord_mm))

    def _edge_surface(self) -> Surface | None:
        """The first of the surfaces that move as one edge."""
        return self._surface(
            tuple(
                n
                for p in self.recipe().of("parts")
                if not p.later
                for n in getattr(self.recipe(), p.key)
            )
        )

    def _of_edge(self, surface: Surface | None, value: float, unit: str) -> float:
        """Degrees or millimetres as a share of an edge's angle, or of a surface's own travel where
        it goes by that."""
        recipe: Any = self.recipe()
        if surface is None:
            raise HypsosError("nothing moves yet", "", "Choose what it moves first.")
        if recipe.edge_deg is not None:
            return float(round(recipe.edge_percent(surface, value, unit), 9))
        return demand_for(self.workbench.loaded, surface.name, value, unit)

    def _list(self, parameter: Parameter) -> None:
        """Figures in rows: by position, by group of surfaces, by flight mode, by motor."""
        grid = QGridLayout()
        {
            "positions": self._positions,
            "amounts": self._amounts,
            "shares": self._shares,
            "by mode": self._by_mode,
            "levers": self._levers,
        }[parameter.kind](parameter, grid)
        grid.setColumnStretch(4, 1)
        r = self._grid.rowCount()
        if parameter.kind != "positions":
            self._grid.addWidget(label(parameter.label), r, 0, 1, 3)
        self._grid.addLayout(grid, r + 1, 0, 1, 3)
        self._grid.addWidget(label(parameter.tip, "faint"), r + 2, 0, 1, 3)

    def _positions(self, parameter: Parameter, grid: QGridLayout) -> None:
        """A row for each position of the control: the surface, and the elevator that goes with
        it."""
        recipe: Any = self.recipe()
        first, pitch = self._surface(recipe.surfaces), self._surface(recipe.elevators)
        for c, words in enumerate(
            ("", recipe.label, "Elevator compensation" if pitch is not None else "")
        ):
            grid.addWidget(label(words, "faint", wrap=False), 0, c)
        names = self._names_of_positions(recipe.control, len(recipe.positions))
        for p, name in enumerate(names):
            # as the switch is drawn
            at = 1 + self.workbench.loaded.transmitter.row_from_far(p, len(names))
            grid.addWidget(label(name, wrap=False), at, 0)
            for c, (field, surface) in enumerate((("flap", first), ("elevator", pitch))):
                if surface is not None:
                    path = f"positions[{p}].{field}"
                    said = f"{recipe.label if field == 'flap' else 'elevator'}"
                    grid.addWidget(
                        self._surface_field(
                            path, f"{field.capitalize()} at {name}", surface, said, f" at {name}"
                        ),
                        at,
                        c + 1,
                    )

    def _names_of_positions(self, name: str | None, count: int) -> list[str]:
        control = self.workbench.loaded.transmitter.control(name or "")
        known = control.positions if control is not None else ()
        return [known[p] if p < len(known) else f"position {p + 1}" for p in range(count)]

    def _surface_field(
        self, path: str, name: str, surface: Surface, what: str, where: str = ""
    ) -> NumberField:
        """A field for where a surface goes: in %, degrees or millimetres, up or down."""

        def get() -> float:
            from hypsos.core.document.paths import get_at

            value: float = get_at(self.recipe(), path)
            return value

        def put(value: float) -> None:
            said = f"{what} {side_percent(surface, value, 1)}{where}".replace(".0 %", " %")
            full = self._path(path)
            self.workbench.document.edit(full, value, said, merge=full)

        made = NumberField(
            name,
            get,
            put,
            bounds=(-100, 100),
            width=98,
            words=("up", "down"),
            convert=lambda value, unit: demand_for(
                self.workbench.loaded, surface.name, value, unit
            ),
            typed=self._typed_in(path, lambda: surface),
            measure=lambda value: self._millimetres(surface, value),
        )
        made.setToolTip("In mm at the trailing edge; degrees and % can be typed, too: 12° down")
        self.fields[path] = made
        return made

    def _amounts(self, parameter: Parameter, grid: QGridLayout) -> None:
        """A row for each pair of surfaces that may take part; 0 leaves it out."""
        body = self.workbench.loaded.airframe
        for r, group in enumerate(groups_of(body, body.with_roles(*parameter.roles))):
            words = group[0].label if len(group) == 1 else _pair(group)
            grid.addWidget(label(words, wrap=False), r, 0)
            field = NumberField(
                f"{self.recipe().label}: {words.lower()}",
                lambda g=group: self._amount(parameter, g),
                lambda value, g=group, w=words: self._put_amount(parameter, g, w, value),
                bounds=(-100, 100),
                width=98,
                words=("up", "down"),
                convert=lambda v, u, g=group: demand_for(self.workbench.loaded, g[0].name, v, u),
                typed=TypedInDocument(
                    self.workbench, lambda m, g=group: self._amount_places(m, parameter, g[0])
                ),
                measure=lambda value, g=group: self._millimetres(g[0], value),
            )
            field.setToolTip(
                "In mm at the trailing edge; degrees and % can be typed, too. 0 leaves them out."
            )
            self.fields[f"{parameter.key}.{group[0].name}"] = field
            grid.addWidget(field, r, 1)

    def _amount(self, parameter: Parameter, group: tuple[Surface, ...]) -> float:
        found = (
            a.travel for a in getattr(self.recipe(), parameter.key) if group[0].name in a.parts
        )
        return next(found, 0.0)

    def _put_amount(
        self, parameter: Parameter, group: tuple[Surface, ...], words: str, value: float
    ) -> None:
        names = tuple(s.name for s in group)
        old = getattr(self.recipe(), parameter.key)
        rest = [a.changed({"parts": tuple(n for n in a.parts if n not in names)}) for a in old]
        at = next((i for i, a in enumerate(old) if names[0] in a.parts), len(old))
        made = [a for a in rest[:at] if a.parts]
        made += [Amount(parts=names, travel=value)] if value else []
        made += [a for a in rest[at:] if a.parts]
        if not made:
            raise HypsosError(
                "something has to move",
                "",
                "Leave at least one surface in it, or remove the behaviour.",
            )
        path = self._path(parameter.key)
        said = f"{words.lower()} {side_percent(group[0], value, 1)}".replace(".0 %", " %")
        self.workbench.document.edit(path, tuple(made), said, merge=f"{path}.{names[0]}")

    def _shares(self, parameter: Parameter, grid: QGridLayout) -> None:
        """A row for each position of the switch: to the left and to the right."""
        recipe: Any = self.recipe()
        for c, words in enumerate(("", "to the left", "to the right")):
            grid.addWidget(label(words, "faint", wrap=False), 0, c)
        count = len(getattr(recipe, parameter.key))
        names = self._names_of_positions(recipe.control, count) if recipe.control else ["always"]
        for p, name in enumerate(names):
            at = len(names) - p
            grid.addWidget(label(name, wrap=False), at, 0)
            for c, side in enumerate(("left", "right")):
                field = self._plain_field(
                    f"{parameter.key}[{p}].{side}",
                    f"{parameter.label} {side} at {name}",
                    (-150, 150),
                )
                grid.addWidget(field, at, c + 1)

    def _plain_field(self, path: str, name: str, bounds: tuple[float, float]) -> NumberField:
        from hypsos.core.document.paths import get_at

        def put(value: float) -> None:
            full = self._path(path)
            self.workbench.document.edit(
                full, value, f"{name.lower()}: {plain(value)} %", merge=full
            )

        made = NumberField(
            f"{self.recipe().label}: {name.lower()}",
            lambda: get_at(self.recipe(), path),
            put,
            bounds=bounds,
        )
        self.fields[path] = made
        return made

    def _by_mode(self, parameter: Parameter, grid: QGridLayout) -> None:
        """A row for each flight mode."""
        recipe: Any = self.recipe()
        modes = self.workbench.loaded.program.modes
        example = recipe.base if hasattr(recipe, "base") else None
        figures: tuple[str, ...] = (
            ("rate", "expo") if example is not None else ("flap", "aileron", "elevator")
        )
        moved = {"flap": "flaps", "aileron": "ailerons", "elevator": "elevators"}
        figures = tuple(f for f in figures if f not in moved or getattr(recipe, moved[f]))
        for c, words in enumerate(("", *(f.capitalize() for f in figures))):
            grid.addWidget(label(words, "faint", wrap=False), 0, c)
        for r, mode in enumerate(modes):
            grid.addWidget(label(mode.label, wrap=False), r + 1, 0)
            for c, figure in enumerate(figures):
                surface = self._surface(getattr(recipe, moved[figure])) if figure in moved else None
                grid.addWidget(
                    self._mode_field(parameter, mode.name, figure, mode.label, surface),
                    r + 1,
                    c + 1,
                )

    def _mode_value(self, parameter: Parameter, mode: str) -> Any:
        """The figures of a mode; of one without any the base figures, or zeros."""
        recipe: Any = self.recipe()
        table = getattr(recipe, parameter.key)
        if mode in table:
            return table[mode]
        base = getattr(recipe, "base", None)
        if base is not None:
            return base
        from hypsos.core.recipes.camber import ModeCamber

        return ModeCamber()

    def _mode_field(
        self, parameter: Parameter, mode: str, figure: str, words: str, surface: Surface | None
    ) -> NumberField:
        base = figure in ("rate", "expo") and mode == self.workbench.loaded.program.modes[-1].name
        bounds = {"rate": (0.0, 150.0), "expo": (-100.0, 100.0)}.get(figure, (-150.0, 150.0))

        def put(value: float) -> None:
            made = self._mode_value(parameter, mode).changed({figure: value})
            said = f"{figure} in {words} " + (
                side_percent(surface, value, 1) if surface else f"{plain(value)} %"
            )
            if base:
                self.workbench.document.edit(
                    self._path("base"), made, said, merge=f"{self._path()}.base.{figure}"
                )
                return
            table = {**getattr(self.recipe(), parameter.key), mode: made}
            self.workbench.document.edit(
                self._path(parameter.key), table, said, merge=f"{self._path()}.{mode}.{figure}"
            )

        def as_percent(value: float, unit: str) -> float:
            if figure in ("flap", "aileron"):
                return self._of_edge(surface, value, unit)
            assert surface is not None
            return demand_for(self.workbench.loaded, surface.name, value, unit)

        field = NumberField(
            f"{figure.capitalize()} in {words}",
            lambda: getattr(self._mode_value(parameter, mode), figure),
            put,
            bounds=bounds,
            width=98 if surface else 74,
            words=("up", "down") if surface else None,
            convert=as_percent if surface else None,
            typed=self._typed_in(f"{parameter.key}.{mode}.{figure}", lambda: surface)
            if surface
            else None,
            measure=(lambda value: self._of_mode_in_mm(figure, surface, value))
            if surface
            else None,
        )
        self.fields[f"{parameter.key}.{mode}.{figure}"] = field
        return field

    def _levers(self, parameter: Parameter, grid: QGridLayout) -> None:
        """A row for each motor: by its place, or a figure of its own."""
        recipe: Any = self.recipe()
        inner = max(len(recipe.left), len(recipe.right))
        for r, name in enumerate((*recipe.left, *recipe.right) if inner > 1 else ()):
            side = recipe.left if name in recipe.left else recipe.right
            usual = 100.0 * (recipe.inner / 100.0) ** side.index(name)
            words = self._part(name).label

            def get(name: str = name, usual: float = usual) -> float:
                return float(getattr(self.recipe(), parameter.key).get(name, usual))

            def put(value: float, name: str = name, words: str = words) -> None:
                table = {**getattr(self.recipe(), parameter.key), name: value}
                path = self._path(parameter.key)
                self.workbench.document.edit(
                    path, table, f"{words.lower()} {plain(value)} %", merge=f"{path}.{name}"
                )

            field = NumberField(f"{recipe.label}: {words.lower()}", get, put, bounds=(0, 150))
            self.fields[f"{parameter.key}.{name}"] = field
            grid.addWidget(label(words, wrap=False), r, 0)
            grid.addWidget(field, r, 1)

    def _surface(self, names: tuple[str, ...] | str) -> Surface | None:
        """The first of these surfaces; a field may name a single one."""
        wanted = (names,) if isinstance(names, str) else names
        return next((s for s in self.workbench.loaded.airframe.surfaces if s.name in wanted), None)

    def _put(self, parameter: Parameter, value: object, words: str) -> None:
        said = f"{self.recipe().label}: {parameter.label.strip().lower()} {words}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path(parameter.key), value, said)
        )
        self.refresh()

    def _put_number(self, parameter: Parameter, value: float) -> None:
        unit = "s" if parameter.kind == "seconds" else "%"
        said = f"{self.recipe().label}: {parameter.label.lower()} {plain(value)} {unit}"
        path = self._path(parameter.key)
        self.workbench.document.edit(path, value, said, merge=path)

    def _part(self, name: str) -> Any:
        return next(p for p in self.workbench.loaded.airframe.moved() if p.name == name)


def _pair(group: tuple[Surface, ...]) -> str:
    """What people call surfaces of both sides: ``Inner flaps``."""
    words = group[0].label.replace("Left ", "").replace("left ", "")
    return f"{words.capitalize()}s" if not words.endswith("s") else words.capitalize()
