# SPDX-License-Identifier: GPL-3.0-or-later
"""Lay out the controls: the transmitter's switches, buttons, sliders and knobs where each hand
finds them."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import the_place
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.edits.controls import (
    KINDS,
    moved,
    other_hand,
    turned,
    with_control,
    with_positions,
    without_control,
)
from hypsos.core.parts.transmitter import Control
from hypsos.desk.cards.transmitter_card import TransmitterCard
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.act_menu import Act, MenuButton
from hypsos.desk.widgets.fields import ChoiceBox, TextField
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import card, label, row
from hypsos.desk.widgets.row_list import RowList
from hypsos.desk.widgets.vanished_rows import while_there

WORDS = {"switch": "Switch", "momentary": "Button", "slider": "Slider", "knob": "Knob"}


class ControlCard(QFrame):
    """One control: its name, its positions, what it does in this model, and where it is."""

    def __init__(self, workbench: Workbench, name: str) -> None:
        super().__init__()
        self.workbench, self.name = workbench, name
        control = self.control()
        self.title = TextField(f"Name of {control.label}", 60)
        self.title.editingFinished.connect(self._rename)
        self.positions: list[TextField] = []
        self.does = label("", "faint")
        self.complaint = label("", "complaint")
        self.complaint.hide()
        self.buttons: dict[str, QPushButton] = {}
        for key, words, act in (
            ("up", "Higher", lambda: self._do(moved(self._model(), self.name, -1), "higher")),
            ("down", "Lower", lambda: self._do(moved(self._model(), self.name, 1), "lower")),
            (
                "hand",
                "Other hand",
                lambda: self._do(other_hand(self._model(), self.name), "under the other hand"),
            ),
            (
                "turn",
                "Turn round",
                lambda: self._do(turned(self._model(), self.name), "turned round"),
            ),
            (
                "remove",
                "Remove",
                lambda: self._do(without_control(self._model(), self.name), "removed"),
            ),
        ):
            button = self.buttons[key] = QPushButton(words)
            button.setObjectName("plain")
            button.setAccessibleName(f"{words}: {control.label}")
            button.clicked.connect(partial(self._attempt, act))
        self.buttons["turn"].setToolTip(
            "The other end becomes the first; everything goes on by the names of the positions."
        )
        self.count = ChoiceBox()
        self.count.setAccessibleName(f"How many positions: {control.label}")
        for n in (2, 3, 6):
            self.count.addItem(f"{n} positions", n)
        self.count.activated.connect(self._set_count)
        shown = [self.buttons[k] for k in ("up", "down", "hand")]
        shown += [self.buttons["turn"]] if control.is_switch else []
        tools = flowing(*shown, self.buttons["remove"], gap=2)
        kind = label(WORDS[control.kind], "faint", wrap=False)
        head = row(self.title, self.count if control.kind == "switch" else kind)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card(head, *self._names(control), self.does, self.complaint, tools))

    def _names(self, control: Control) -> list[QWidget]:
        """A field for the name of each position, the first at the left."""
        if not control.is_switch:
            return []
        for i in range(len(control.positions)):
            field = TextField(f"{control.label}, position {i + 1}", 60)
            look.hold(field, width=92)
            field.editingFinished.connect(partial(self._name_position, i))
            self.positions.append(field)
        return [flowing(*self.positions)]

    def _model(self) -> Model:
        return self.workbench.loaded

    def control(self) -> Control:
        """The control as it is now."""
        found = self._model().transmitter.control(self.name)
        assert found is not None
        return found

    def refresh(self, used: dict[str, tuple[str, ...]] | None = None) -> None:
        """Show the control as it is now; ``used`` is what hangs on the controls, where that is
        known."""
        control = self.control()
        users = (uses(self._model()) if used is None else used).get(self.name, ())
        if not self.title.isModified():
            self.title.setText(control.label)
        for field, text in zip(self.positions, control.positions, strict=False):
            if not field.isModified():
                field.setText(text)
        self.count.setCurrentIndex(self.count.findData(len(control.positions)))
        said = f"{control.place}. " if control.place and control.place != control.label else ""
        self.does.setText(
            f"{said}Used by: {', '.join(users)}."
            if users
            else f"{said}Idle: nothing in this model hangs on it."
        )

    # -- edits -----------------------------------------------------------------------------------

    def _attempt(self, act: object, *_: object) -> None:
        try:
            act()  # type: ignore[operator]
            self.complaint.hide()
        except HypsosError as error:
            self.complaint.setText(error.plain)
            self.complaint.show()

    def _do(self, model: Model, said: str) -> None:
        self.workbench.document.apply(model, f"{self.control().label} {said}")

    def _path(self) -> str:
        controls = self._model().transmitter.controls
        return f"transmitter.controls[{the_place([c.name for c in controls], self.name)}]"

    @while_there
    def _rename(self) -> None:
        text = self.title.text().strip()
        if text and text != self.control().label:
            self._attempt(
                lambda: self.workbench.document.edit(
                    f"{self._path()}.label", text, f"control called {text}"
                )
            )
        self.title.setText(self.control().label)

    @while_there
    def _name_position(self, i: int) -> None:
        control, text = self.control(), self.positions[i].text().strip()
        if text and i < len(control.positions) and text != control.positions[i]:
            names = (*control.positions[:i], text, *control.positions[i + 1 :])
            said = f"{control.label}: {text}"
            self._attempt(
                lambda: self.workbench.document.edit(f"{self._path()}.positions", names, said)
            )
        if i < len(self.control().positions):
            self.positions[i].setText(self.control().positions[i])

    def _set_count(self, index: int) -> None:
        count = self.count.itemData(index)
        self._attempt(
            lambda: self._do(
                with_positions(self._model(), self.name, count), f"with {count} positions"
            )
        )
        self.refresh()


class HandsPage(StepPage):
    """The controls under each hand, and another one."""

    key = "hands"
    lead_in = "The transmitter as you hold it; the bench draws it. A control that does nothing in this model is idle."

    def build(self) -> None:
        self.cards: dict[str, ControlCard] = {}
        self._sides = {hand: RowList() for hand in ("left", "right")}
        self.add: dict[str, MenuButton] = {}
        self.sticks = label("", "faint")
        self.column.addWidget(self.sticks)
        self.transmitter = TransmitterCard(self.workbench)
        self.column.addWidget(self.transmitter)
        for hand, column in self._sides.items():
            button = self.add[hand] = MenuButton(f"Add under the {hand} hand")
            acts = [
                Act(words, partial(self._add, kind, count, hand)) for kind, count, words in KINDS
            ]
            button.acts = lambda acts=acts: acts
            self.column.addWidget(label(f"{hand.capitalize()} hand", "section"))
            self.column.addLayout(column)
            self.column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)

    def refresh(self) -> None:
        model = self.workbench.loaded
        controls = model.transmitter.controls
        self.cards = {}
        for hand, column in self._sides.items():
            mine = [c for c in controls if c.hand == hand]
            rows = column.show_rows(
                [
                    (
                        (c.name, c.kind, len(c.positions)),
                        partial(ControlCard, self.workbench, c.name),
                    )
                    for c in mine
                ],
                [c.label for c in mine],
            )
            for control, row_ in zip(mine, rows, strict=True):
                assert isinstance(row_, ControlCard)
                self.cards[control.name] = row_
        used = uses(model)
        for made in self.cards.values():
            made.refresh(used)
        self.transmitter.refresh()
        said = [f"{a.command} on the {a.control.replace('_', ' ')}" for a in model.program.axes]
        self.sticks.setText(f"The sticks: {', '.join(said)}." if said else "")

    def _add(self, kind: str, count: int, hand: str) -> None:
        made, name = with_control(self.workbench.loaded, kind, count, hand)
        control = made.transmitter.control(name)
        assert control is not None
        if self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(made, f"{control.label} added")
        ):
            self.bring(self.cards[name], self.cards[name].title)
            self.cards[name].title.selectAll()

    def show_place(self, path: str) -> None:
        index = int(path.split("[")[1].split("]")[0]) if "[" in path else -1
        controls = self.workbench.loaded.transmitter.controls
        if 0 <= index < len(controls):
            place = self.cards[controls[index].name]
            self.bring(place, place.title)
