"""Set wing and tail: the behaviours of the model, each as a card that its recipe describes, and the plain mixes."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QMenu, QPushButton, QVBoxLayout

from hypsos.core.model.behaviours import offers
from hypsos.core.model.choosing import Place
from hypsos.core.model.mix_words import signal_labels
from hypsos.core.model.words import plain
from hypsos.core.recipes import Recipe
from hypsos.desk.steps.base import StepPage
from hypsos.desk.steps.recipecard import RecipeCard
from hypsos.desk.widgets.layout import card, clear, hint, label
from hypsos.desk.widgets.number import NumberField
from hypsos.desk.widgets.whenline import WhenLine


class FlapsPage(StepPage):
    """A card for each recipe of the model, and one for its plain mixes."""

    key = "flaps"
    lead_in = (
        "Each behaviour is a recipe: it makes the same mixes every time. Two recipes on one surface add, so ailerons go on "
        "working with the flaps down."
    )

    def build(self) -> None:
        self._built: object = None
        self.cards: list[RecipeCard] = []
        self.mixes: dict[int, NumberField] = {}
        self.whens: dict[int, WhenLine] = {}
        self._cards = QVBoxLayout()
        self._cards.setSpacing(10)
        self.column.addLayout(self._cards)
        self.add = QPushButton("Add a behaviour")
        self.add.setObjectName("lead")
        self.add.setProperty("popup", True)
        self.menu = QMenu(self.add)
        self.menu.setToolTipsVisible(True)
        self.menu.aboutToShow.connect(self._offer)
        self.add.setMenu(self.menu)
        self.column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        self.advice = hint(
            "Two flaperon servos need two ports of their own, never one Y-lead: they must differ in roll."
        )
        self.column.addWidget(self.advice)

    @property
    def fields(self) -> dict[tuple[int, str], NumberField]:
        """(recipe, field) -> where its number is typed."""
        return {(c.index, key): field for c in self.cards for key, field in c.fields.items()}

    # -- cards ------------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        model = self.workbench.loaded
        shape = (
            tuple((r.kind, tuple(getattr(r, p.key) for p in r.of("switch")), len(getattr(r, "positions", ())),
                   tuple(getattr(r, p.key) for p in r.of("parts")) if r.of("positions") else ()) for r in model.program.recipes),
            tuple((m.name, m.source, m.target, m.gain_from) for m in model.program.mixes),
            model.transmitter.controls, tuple((p.name, p.label) for p in model.airframe.moved()),
        )  # fmt: skip
        if shape != self._built:
            self._built = shape
            self._make_cards()
        for made in self.cards:
            made.refresh()
        for field in self.mixes.values():
            field.refresh()
        for when in self.whens.values():
            when.refresh()
        self.advice.setVisible(any(s.role == "flaperon" for s in model.airframe.surfaces))

    def _make_cards(self) -> None:
        opened = {c.index for c in self.cards if c.opened}
        clear(self._cards)
        self.mixes.clear()
        self.whens.clear()
        self.cards = [RecipeCard(self.workbench, i) for i in range(len(self.workbench.loaded.program.recipes))]
        for made in self.cards:
            self._cards.addWidget(made)
            if made.index in opened:  # a row that was made anew is as open as it was
                made.open()
        if self.workbench.loaded.program.mixes:
            self._cards.addWidget(self._mix_card())

    def _mix_card(self) -> QFrame:
        """The plain mixes, each with its gain."""
        model = self.workbench.loaded
        labels = signal_labels(model)
        grid = QGridLayout()
        for i, mix in enumerate(model.program.mixes):
            number = NumberField(
                f"Gain of {mix.name} on {labels.get(mix.target, mix.target)}",
                lambda i=i: self.workbench.loaded.program.mixes[i].gain,
                lambda value, i=i: self._put_gain(i, value),
                bounds=(-500, 500),
            )
            number.setEnabled(mix.gain_from is None)
            self.mixes[i] = number
            what = f"{labels.get(mix.source, mix.source)} → {labels.get(mix.target, mix.target)}"
            place = Place(f"program.mixes[{i}].when", always=True)
            when = self.whens[i] = WhenLine(
                self.workbench, place, lambda i=i: self.workbench.loaded.program.mixes[i].name
            )
            grid.addWidget(label(mix.name), 2 * i, 0)
            grid.addWidget(label(what, "faint"), 2 * i, 1)
            grid.addWidget(number, 2 * i, 2)
            grid.addWidget(when, 2 * i + 1, 0, 1, 3)
        grid.setColumnStretch(0, 3)
        grid.setColumnStretch(1, 4)
        note = "Signs are the engine's: + is trailing edge down, or right. Watch the bench when you change one."
        return card(label("Plain mixes", "section"), label(note, "faint"), grid)

    def _put_gain(self, index: int, value: float) -> None:
        mix = self.workbench.loaded.program.mixes[index]
        path = f"program.mixes[{index}].gain"
        self.workbench.edit(path, value, f"{mix.name}: gain {plain(value)} %", merge=path)

    # -- adding -----------------------------------------------------------------------------------------------------

    def _offer(self) -> None:
        """Every behaviour there is; what this aeroplane can't have says why."""
        self.menu.clear()
        for offer in offers(self.workbench.loaded):
            action = self.menu.addAction(offer.title if offer.made is not None else f"{offer.title}: {offer.why}")
            if action is None:
                continue
            action.setToolTip(offer.about)
            action.setEnabled(offer.made is not None)
            if offer.made is not None:
                action.triggered.connect(lambda _=False, made=offer.made: self.add_recipe(made))

    def add_recipe(self, recipe: Recipe) -> None:
        """Add a behaviour; it acts at once."""
        recipes = (*self.workbench.loaded.program.recipes, recipe)
        said = f"add {recipe.label.lower()}"
        self.workbench.attempt(lambda: self.workbench.edit("program.recipes", recipes, said))

    def show_place(self, path: str) -> None:
        for index, number in self.mixes.items():
            if path.startswith(f"program.mixes[{index}]"):
                number.setFocus()
                self.ensureWidgetVisible(number)
        for made in self.cards:
            if path.startswith(f"program.recipes[{made.index}]"):
                found = next(
                    (f for key, f in made.fields.items() if path.endswith(key) or path.endswith(".positions")), None
                )
                if found is not None:
                    found.setFocus()
                self.ensureWidgetVisible(found or made)
                return
