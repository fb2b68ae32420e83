# SPDX-License-Identifier: GPL-3.0-or-later
"""Set wing and tail: the behaviours of the model, its streams from the hands to the surfaces, and
what each hand moves."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.figure_words import plain
from hypsos.core.edits.behaviours import added
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.edits.detach import attached, changed_since
from hypsos.core.recipes import Recipe
from hypsos.core.recipes.recipe_base import REFERS
from hypsos.core.wording.describe_condition import phrase, signal_labels
from hypsos.desk.cards.recipe_card import RecipeCard
from hypsos.desk.cards.recipe_fields import LISTED
from hypsos.desk.cards.view_buttons import Views
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.capacity_line import RoomLine
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, hint, label, row, worded
from hypsos.desk.widgets.row_list import RowList, Serials
from hypsos.desk.widgets.scroll_page import place_kept
from hypsos.desk.widgets.when_line import WhenLine

if TYPE_CHECKING:
    from hypsos.desk.cards.behaviour_gallery import Gallery
    from hypsos.desk.cards.hand_view import HandView
    from hypsos.desk.cards.stream_view import StreamView

FOLDED_FROM = 4
"""With so many behaviours they are folded until one is opened."""
VIEWS = (("behaviours", "Behaviours"), ("streams", "Streams"), ("hands", "What a hand moves"))


class Behaviour(QFrame):
    """One behaviour as a line that unfolds into its card; a tick switches it on and off."""

    def __init__(self, workbench: Workbench, index: int, number: int) -> None:
        super().__init__()
        self.workbench, self.index, self.number = workbench, index, number
        self.card: RecipeCard | None = None
        self.setObjectName("card")
        self.title = QPushButton("")
        self.title.setObjectName("fold")
        self.title.clicked.connect(self._fold)
        self.on = QCheckBox("on")
        self.on.clicked.connect(self._switch)
        self.summary = label("", "faint")
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(12, 7, 12, 8)
        self._column.setSpacing(3)
        self._column.addLayout(row(self.title, None, self.on))
        self._column.addWidget(self.summary)
        self.refresh()

    def recipe(self) -> Recipe:
        """The recipe as it is now."""
        return self.workbench.loaded.program.recipes[self.index]

    def stand_at(self, index: int) -> None:
        """Its place among the behaviours is another one now."""
        self.index = index
        if self.card is not None:
            self.card.stand_at(index)

    def _fold(self) -> None:
        with place_kept(self):
            self.unfold(not self.unfolded)

    def unfold(self, on: bool) -> None:
        """Show its card, or its line only."""
        if on and self.card is None:
            self.card = RecipeCard(self.workbench, self.index)
            self._column.addWidget(self.card)
        if self.card is not None:
            self.card.setVisible(on)
        self.refresh()

    @property
    def unfolded(self) -> bool:
        """Whether its card is shown."""
        return self.card is not None and not self.card.isHidden()

    def refresh(self) -> None:
        """Show it as it is now."""
        recipe, model = self.recipe(), self.workbench.loaded
        sign = "▾" if self.unfolded else "▸"
        self.title.setText(worded(f"{sign} {recipe.label}"))
        self.title.setAccessibleName(f"{recipe.label}, {'unfolded' if self.unfolded else 'folded'}")
        self.on.setChecked(recipe.on)
        self.on.setAccessibleName(f"{recipe.label} on")
        hands = [model.transmitter.control(n) for _, n in recipe.reads()]
        said = [recipe.title] if recipe.title != recipe.label else []
        said += [f"by {c.label}" for c in hands if c is not None]
        said += [f"while {phrase(model, text)}" for _, text in recipe.asks()]
        said = said if recipe.on else ["switched off", *said]
        self.summary.setText("; ".join(said))
        self.summary.setVisible(bool(said) and not (self.unfolded and recipe.on))
        if self.card is not None:
            self.card.refresh()

    def _switch(self, on: bool) -> None:
        words = f"{self.recipe().label.lower()} {'on' if on else 'off'}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(f"program.recipes[{self.index}].on", on, words)
        )
        self.refresh()


class FlapsPage(StepPage):
    """Three views of one thing: behaviours, streams, hands."""

    key = "flaps"
    lead_in = ""

    def build(self) -> None:
        self.rows: list[Behaviour] = []
        self.mixes: dict[int, NumberField] = {}
        self.whens: dict[int, WhenLine] = {}
        self.gallery: Gallery | None = None
        self.streams: StreamView | None = None
        self.hands: HandView | None = None
        self.room = RoomLine(self.workbench)
        self.column.addWidget(self.room)
        self.views = Views(self, VIEWS, self.show_view)
        self.pin(self.views.row)
        self.behaviours = QWidget()
        inside = QVBoxLayout(self.behaviours)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(8)
        self._cards = RowList()
        self._serials = Serials()
        self._of = ""
        """The model for which the rows are there."""
        self._open: dict[int, tuple[bool, bool]] = {}
        """By a behaviour's number: whether its card is unfolded, and what is wanted seldom
        shown."""
        self.add = QPushButton("Add a behaviour")
        self.add.setObjectName("lead")
        self.add.clicked.connect(self.open_gallery)
        self._gallery_place = QVBoxLayout()
        inside.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        inside.addLayout(self._gallery_place)
        inside.addLayout(self._cards)
        self.advice = hint(
            "Two flaperon servos need two ports of their own, never one Y-lead: they must differ in roll."
        )
        inside.addWidget(self.advice)
        self.column.addWidget(self.behaviours)
        self._view_place = QVBoxLayout()
        self.column.addLayout(self._view_place)
        self.view = "behaviours"

    @property
    def cards(self) -> list[RecipeCard]:
        """The card of every behaviour, unfolded."""
        for made in self.rows:
            if made.card is None:
                made.unfold(True)
        return [made.card for made in self.rows if made.card is not None]

    @property
    def fields(self) -> dict[tuple[int, str], NumberField]:
        """(recipe, field) -> where its number is typed."""
        return {(c.index, key): field for c in self.cards for key, field in c.fields.items()}

    # -- views -----------------------------------------------------------------------------------

    def view_keys(self) -> tuple[str, ...]:
        return self.views.keys

    def show_view(self, key: str) -> None:
        """Show the behaviours, the streams, or what a hand moves."""
        self.view = key
        self.views.mark(key)
        self.behaviours.setVisible(key == "behaviours")
        if key == "streams" and self.streams is None:
            from hypsos.desk.cards.stream_view import StreamView

            self.streams = StreamView(self.workbench)
            self.streams.path_wanted.connect(self.show_place)
            self._view_place.addWidget(self.streams)
        if key == "hands" and self.hands is None:
            from hypsos.desk.cards.hand_view import HandView

            self.hands = HandView(self.workbench)
            self._view_place.addWidget(self.hands)
        for name, view in (("streams", self.streams), ("hands", self.hands)):
            if view is not None:
                view.setVisible(key == name)
        self.refresh()

    def open_gallery(self) -> None:
        """Show every behaviour there is, as a picture of this aeroplane."""
        if self.gallery is None:
            from hypsos.desk.cards.behaviour_gallery import Gallery

            self.gallery = Gallery(self.workbench)
            self.gallery.taken.connect(self.add_recipe)
            self.gallery.step_wanted.connect(self.step_wanted)
            self._gallery_place.addWidget(self.gallery)
        self.gallery.open()

    # -- cards -----------------------------------------------------------------------------------

    def refresh(self) -> None:
        model = self.workbench.loaded
        self.room.refresh()
        self.advice.setVisible(any(s.role == "flaperon" for s in model.airframe.surfaces))
        if self.gallery is not None and self.gallery.out_of_date():
            self.gallery.hide()  # its behaviours were made for another state of the model
        if self.view == "behaviours":
            self._refresh_behaviours()
        view = {"streams": self.streams, "hands": self.hands}.get(self.view)
        if view is not None:
            view.refresh()

    def _refresh_behaviours(self) -> None:
        """A row for each behaviour, for each detached one, and one for all plain mixes. A row is
        made anew only where what it is built for has changed, and is as open then as it was."""
        program = self.workbench.loaded.program
        if self._of != self.workbench.loaded.name:
            self._of = self.workbench.loaded.name
            self._serials, self.rows = Serials(), []
            self._open.clear()
        numbers = self._serials.of([(r.kind, r.label) for r in program.recipes])
        self._note_what_is_open(numbers)
        wanted: list[tuple[Hashable, Callable[[], QWidget]]] = [
            ((number, *self._built_for(recipe)), partial(self._row, number, index))
            for index, (number, recipe) in enumerate(zip(numbers, program.recipes, strict=True))
        ]
        for found in program.detached:
            said = self._detached_words(found.name)
            words = found.recipe.label
            make = partial(self._detached_card, found.name, words, said)
            wanted.append((("detached", found.name, words, said), make))
        if program.mixes:
            wanted.append((("mixes", *self._mixes_built_for()), self._mix_card))
        else:
            self.mixes.clear()
            self.whens.clear()
        shown = self._cards.show_rows(wanted)
        self.rows = [r for r in shown if isinstance(r, Behaviour)]
        for index, row_ in enumerate(self.rows):
            row_.stand_at(index)
            row_.refresh()
        for field in self.mixes.values():
            field.refresh()
        for when in self.whens.values():
            when.refresh()

    def _note_what_is_open(self, numbers: list[int]) -> None:
        """Which rows are open: those that were, one that has come, and at first all of a few."""
        for row_ in self.rows:
            opened = row_.card is not None and row_.card.opened
            self._open[row_.number] = (row_.unfolded, opened)
        begun = bool(self.rows)
        for number in numbers:
            few = len(numbers) < FOLDED_FROM
            self._open.setdefault(number, (begun or few, False))

    def _built_for(self, recipe: Recipe) -> tuple[Hashable, ...]:
        model = self.workbench.loaded
        modes = tuple((m.name, m.label) for m in model.program.modes)
        parts = tuple((p.name, p.label) for p in model.airframe.moved())
        return (recipe.label, *_shape_of(recipe), modes, model.transmitter.controls, parts)

    def _mixes_built_for(self) -> tuple[Hashable, ...]:
        lines = self.workbench.loaded.program.mixes
        return tuple((m.name, m.source, m.target, m.gain_from, m.origin) for m in lines)

    def _row(self, number: int, index: int) -> Behaviour:
        made = Behaviour(self.workbench, index, number)
        unfolded, opened = self._open[number]
        if unfolded:
            made.unfold(True)
        if opened and made.card is not None:
            made.card.open()
        return made

    def _detached_words(self, name: str) -> str:
        """What is said of a detached behaviour: whether its mixes are as it made them."""
        others = changed_since(self.workbench.loaded, name)
        if not others:
            return "Its mixes stand below, as it made them."
        have = "has" if others == 1 else "have"
        return f"{others} of its mixes {have} been changed since; attaching brings its own figures."

    def _detached_card(self, name: str, words: str, said: str) -> QFrame:
        """A behaviour that is now plain mixes, and the way back."""
        button = QPushButton("Attach again")
        button.setAccessibleName(f"Attach {words} again")
        button.clicked.connect(lambda: self.attach(name))
        return card(
            row(label(f"{words}, detached", "section", wrap=False), None, button),
            label(said, "faint"),
        )

    def attach(self, name: str) -> None:
        """Put a detached behaviour in the place of its mixes again."""
        found = next(x for x in self.workbench.loaded.program.detached if x.name == name)
        words = f"attach {found.recipe.label.lower()}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(attached(self.workbench.loaded, name), words)
        )

    def _mix_card(self) -> QFrame:
        """The plain mixes, each with its gain."""
        model = self.workbench.loaded
        labels = signal_labels(model)
        self.mixes.clear()
        self.whens.clear()
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
            place = ConditionPlace(f"program.mixes[{i}].when", always=True)
            when = self.whens[i] = WhenLine(
                self.workbench, place, lambda i=i: self.workbench.loaded.program.mixes[i].name
            )
            grid.addWidget(label(mix.name), 2 * i, 0)
            grid.addWidget(label(what, "faint"), 2 * i, 1)
            grid.addWidget(number, 2 * i, 2)
            grid.addWidget(when, 2 * i + 1, 0, 1, 3)
        grid.setColumnStretch(0, 3)
        grid.setColumnStretch(1, 4)
        note = "Signs are the engine's: + is trailing edge down, or right. Streams shows and edits all of each."
        return card(label("Plain mixes", "section"), label(note, "faint"), grid)

    def _put_gain(self, index: int, value: float) -> None:
        mix = self.workbench.loaded.program.mixes[index]
        path = f"program.mixes[{index}].gain"
        self.workbench.document.edit(path, value, f"{mix.name}: gain {plain(value)} %", merge=path)

    # -- adding ----------------------------------------------------------------------------------

    def add_recipe(self, recipe: Recipe) -> None:
        """Add a behaviour; it acts at once."""
        said = f"add {recipe.label.lower()}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(added(self.workbench.loaded, recipe), said)
        )
        if self.rows:
            self.rows[-1].unfold(True)
            self.bring(self.rows[-1], self.rows[-1].title)

    def show_place(self, path: str) -> None:
        if (
            path.startswith("program.mixes[")
            and self.view == "streams"
            and self.streams is not None
        ):
            self.streams.show_place(path)
            return
        if self.view != "behaviours":
            self.show_view("behaviours")
        for index, number in self.mixes.items():
            if path.startswith(f"program.mixes[{index}]"):
                self.bring(number, number)
        for made in self.rows:
            if path.startswith(f"program.recipes[{made.index}]"):
                made.unfold(True)
                assert made.card is not None
                found = made.card.field_for(path)
                self.bring(found or made, found)
                return


def _shape_of(recipe: Recipe) -> tuple[Hashable, ...]:
    """What a card is built for: it is made anew where this changes."""
    lists = tuple(
        len(getattr(recipe, p.key)) if p.kind in ("positions", "shares") else p.key
        for p in recipe.of(*LISTED)
    )
    parts = (
        tuple(getattr(recipe, p.key) for p in recipe.of("parts"))
        if recipe.of("positions", "by mode", "levers")
        else ()
    )
    hands = (
        tuple(getattr(recipe, p.key) for p in recipe.of(*REFERS))
        if recipe.of("positions", "shares")
        else ()
    )
    return (recipe.kind, hands, lists, parts)
