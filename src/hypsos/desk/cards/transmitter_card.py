# SPDX-License-Identifier: GPL-3.0-or-later
"""The transmitter that the model takes, one of the pilot's own or one that ships; and the levers
that trim."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QFrame, QPushButton, QVBoxLayout

from hypsos.core.base.errors import HypsosError
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.document.program import Trim
from hypsos.core.edits.transmitters import TransmitterChange, profile_of, taken
from hypsos.core.parts.transmitter import STICK_PLACES
from hypsos.desk.cards.profile_card import ProfileCard
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox, NameField
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import card, label

OWN = "This model's own"


class TransmitterCard(QFrame):
    """Which one it is; what would go where on another; this layout kept for other models."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.which = ChoiceBox()
        self.which.setAccessibleName("Transmitter")
        self.which.activated.connect(self._show_change)
        self.has = QPushButton("What it has")
        self.has.setCheckable(True)
        self.has.setToolTip("How it thinks, how much it has, in which steps its figures are typed.")
        self.has.clicked.connect(self.refresh)
        self.note, self.goes = label("", "faint"), label("")
        self.homeless = label("", "complaint")
        self.take = QPushButton("Take it")
        self.take.setObjectName("lead")
        self.leave = QPushButton("Leave it")
        self.take.clicked.connect(self._take)
        self.leave.clicked.connect(self._put_away)
        self.offer = card(
            self.goes, self.homeless, flowing(self.take, self.leave), kind="hint", margin=9
        )
        self.name = NameField("Name for this layout", 60)
        self.name.setPlaceholderText("a name")
        self.keep = QPushButton("Keep this layout for other models")
        self.keep.clicked.connect(self._keep)
        self.drop = QPushButton("Remove this one of mine")
        self.drop.setObjectName("plain")
        self.drop.clicked.connect(self._drop)
        self.trims: dict[str, QCheckBox] = {}
        self._trims = QVBoxLayout()
        self._change: TransmitterChange | None = None
        self._names: list[str] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        column.addWidget(
            card(
                label("Transmitter", "section"),
                label(
                    "One transmitter serves many models; a model takes one, and its controls go where they fit.",
                    "faint",
                ),
                flowing(self.which, self.has, self.drop),
                self.note,
                self.offer,
                flowing(self.name, self.keep),
            )
        )
        self.profile = ProfileCard(workbench)
        self.profile.changed.connect(self.refresh)
        column.addWidget(self.profile)
        column.addWidget(card(label("Trim levers", "section"), self._trims))
        self.offer.hide()

    def refresh(self) -> None:
        """Show the transmitter of the model as it is now."""
        model, hangar = self.workbench.loaded, self.workbench.document.hangar
        self._profiles = {x.name: x for x in hangar.transmitters()}
        names = [OWN, *self._profiles]
        if names != self._names:
            self._names = names
            self.which.clear()
            self.which.addItems(names)
        if self._change is None:
            now = model.transmitter.taken
            self.which.setCurrentIndex(names.index(now) if now in names else 0)
        found = self._profiles.get(self.which.currentText())
        self.note.setText(found.note if found is not None else "Not one that others share.")
        self.note.setVisible(bool(self.note.text()))
        self.has.setVisible(found is not None)
        self.profile.setVisible(found is not None and self.has.isChecked())
        if found is not None:
            self.profile.take(found)
        self.drop.setVisible(self.which.currentText() in hangar.own_transmitters())
        self._show_trims(model)

    def _show_trims(self, model: Model) -> None:
        commands = [a.command for a in model.program.axes]
        if list(self.trims) != commands:
            for box in self.trims.values():
                box.hide()
                box.deleteLater()
            self.trims = {}
            for command in commands:
                box = self.trims[command] = QCheckBox("")
                box.clicked.connect(lambda on, c=command: self._set_trim(c, on))
                self._trims.addWidget(box)
        for axis in model.program.axes:
            self.trims[axis.command].setChecked(axis.trim is not None)
            self.trims[axis.command].setText(
                f"{axis.command.capitalize()}: {_beside(model, axis.control)}"
            )

    # -- another one -----------------------------------------------------------------------------

    def _show_change(self) -> None:
        """What would go where, before anything is changed."""
        profile = self._profiles.get(self.which.currentText())
        model = self.workbench.loaded
        if profile is None or profile.name == model.transmitter.taken:
            self._put_away()
            return
        self._change = taken(model, profile)
        said = [f"{mine}: {place}" for mine, place in self._change.placed]
        self.goes.setText(
            "\n".join(said) if said else "Nothing in this model hangs on a control yet."
        )
        lost = self._change.homeless
        wrong = (
            [f"No place for {', '.join(lost)}: it stays in the model, on no transmitter."]
            if lost
            else []
        )
        wrong += self._change.other_way
        self.homeless.setText("\n".join(wrong))
        self.homeless.setVisible(bool(wrong))
        self.offer.show()
        self.refresh()

    def _put_away(self) -> None:
        self._change = None
        self.offer.hide()
        self.refresh()

    def _take(self) -> None:
        profile, bench = self._profiles.get(self.which.currentText()), self.workbench
        if profile is not None:
            made = taken(bench.loaded, profile).model
            self._change = None
            self.offer.hide()
            bench.notices.attempt(lambda: bench.document.apply(made, f"transmitter {profile.name}"))
        self.refresh()

    def _keep(self) -> None:
        name, bench = self.name.text().strip(), self.workbench
        if not name:
            bench.notices.noticed.emit("Give the layout a name first, such as the transmitter's.")
            self.name.setFocus()
            return

        def keep() -> None:
            profile = profile_of(bench.loaded, name)
            bench.document.hangar.keep_transmitter(profile)
            bench.document.apply(taken(bench.loaded, profile).model, f"transmitter {name}")
            self.name.setText("")

        bench.notices.attempt(keep)
        self.refresh()

    def _drop(self) -> None:
        name, bench = self.which.currentText(), self.workbench
        gone = self._profiles.get(name)

        def back() -> None:
            if gone is not None:
                bench.document.hangar.keep_transmitter(gone)
                self.refresh()

        if bench.notices.attempt(lambda: bench.document.hangar.drop_transmitter(name)):
            said = f"{name} is out of the hangar. Models that have taken it keep their controls."
            bench.notices.offered.emit(said, "Bring it back", lambda: bench.notices.attempt(back))
        self._put_away()

    # -- trims -----------------------------------------------------------------------------------

    def _set_trim(self, command: str, on: bool) -> None:
        bench = self.workbench
        model = bench.loaded
        at = next(i for i, a in enumerate(model.program.axes) if a.command == command)

        def put() -> None:
            users = uses(model).get(f"{command}_trim", ())
            if not on and users:
                raise HypsosError(
                    f"the trim lever of {command} moves {', '.join(users)}",
                    "",
                    "Give that another control first.",
                )
            said = f"trim lever of {command} {'added' if on else 'removed'}"
            bench.document.edit(f"program.axes[{at}].trim", Trim() if on else None, said)

        bench.notices.attempt(put)
        self.refresh()


def _beside(model: Model, control: str) -> str:
    """Where a trim lever sits: beside or below the stick that it trims."""
    for hand, (across, upward) in STICK_PLACES[model.transmitter.stick_mode].items():
        if control in (across, upward):
            return f"{'below' if control == across else 'beside'} the {hand} stick"
    return f"beside the {control.replace('_', ' ')}"
