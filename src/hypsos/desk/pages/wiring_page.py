# SPDX-License-Identifier: GPL-3.0-or-later
"""Plug in the leads: which lead in which port, and what its output does on the way."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QComboBox, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.dependencies.y_leads import joined, parted, partner
from hypsos.core.document.document import Model
from hypsos.core.sheet.port_card import POWER_WORDS, port_card, power_words, short_label
from hypsos.desk.cards.output_card import OutputCard
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.file_choice import ask_where
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.receiver_drawing import ReceiverPicture


class WiringPage(StepPage):
    """A row for each lead; the chosen one's output stage underneath."""

    key = "wiring"
    lead_in = "Which servo lead sits in which receiver port. Label both ends of each lead, left and right."

    def build(self) -> None:
        self.rows: dict[str, QComboBox] = {}
        self.complaints: dict[str, QLabel] = {}
        self._built: object = None
        self.column.addWidget(
            self.caution(
                "Propeller off before the flight battery goes on. Signal, plus, minus: check each plug.",
                "Signal, plus, minus: check each plug.",
            )
        )
        self.ports = NumberField(
            "Ports of the receiver",
            lambda: self.workbench.loaded.receiver.ports,
            self._set_ports,
            unit="",
            bounds=(1, 32),
            digits=0,
            width=48,
        )
        self.number = NumberField(
            "Receiver number",
            lambda: self.workbench.loaded.receiver.number,
            self._set_number,
            unit="",
            bounds=(0, 255),
            digits=0,
            width=56,
        )
        self.fill = QPushButton("Plug in the rest in order")
        self.fill.clicked.connect(self.plug_rest)
        self.picture = ReceiverPicture(self.workbench)
        self.picture.dropped.connect(self.move_port)
        head = row("Ports", self.ports, "Receiver number", self.number, None)
        self._grid_box = QWidget()
        self._grid = QGridLayout(self._grid_box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(5)
        self.column.addWidget(card(head, self.picture, self._grid_box, row(self.fill, None)))
        self.output = OutputCard(self.workbench)
        self.column.addWidget(self.output)
        self._more_cards()

    def _more_cards(self) -> None:
        """Y-leads, power, and the card to print."""
        self.first, self.second = ChoiceBox(), ChoiceBox()
        self.kind = ChoiceBox()
        for box, name in (
            (self.first, "First lead"),
            (self.second, "Second lead"),
            (self.kind, "Kind of Y-lead"),
        ):
            box.setAccessibleName(name)
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(9)
        self.kind.addItems(["plain", "reversing"])
        self.join_button = QPushButton("Join")
        self.join_button.clicked.connect(self.join)
        self.join_complaint = label("", "complaint")
        self.join_complaint.hide()
        self._ys = QVBoxLayout()
        words = label(
            "Two servos that always do the same may share a port. Flaperons and differential never do.",
            "faint",
        )
        self.column.addWidget(
            card(
                label("Y-leads", "section"),
                words,
                self._ys,
                row(self.first, self.second),
                row(self.kind, self.join_button, None),
                self.join_complaint,
            )
        )
        self.power = ChoiceBox()
        self.power.setAccessibleName("What feeds the receiver")
        self.power.addItems(["not said yet", "the speed controller", "a battery of its own"])
        self.power.activated.connect(self.set_power)
        self.power_port = ChoiceBox()
        self.power_port.setAccessibleName("Port of the receiver's battery")
        self.power_port.activated.connect(self.set_power_port)
        self.power_said = label("", "faint")
        self.card_button = QPushButton("Port card (PDF)…")
        self.card_button.clicked.connect(self._choose_card)
        self.card_said = label("", "faint")
        self.card_said.hide()
        self.column.addWidget(
            card(
                label("Power, and a card to print", "section"),
                row("Fed by", self.power, self.power_port, None),
                self.power_said,
                row(self.card_button, None),
                self.card_said,
            )
        )

    # -- rows ------------------------------------------------------------------------------------

    def refresh(self) -> None:
        model = self.workbench.loaded
        shape = (tuple((x.name, x.label) for x in model.leads), model.receiver.ports)
        if shape != self._built:
            self._built = shape
            self._make_rows()
        for lead in model.leads:
            box = self.rows[lead.name]
            for port in range(1, model.receiver.ports + 1):
                holder = next(
                    (x.label for x in model.leads if x.port == port and x.name != lead.name), None
                )
                box.setItemText(port, f"{port}   {short_label(holder)}" if holder else f"{port}")
            box.setCurrentIndex(lead.port or 0)
        self.ports.refresh()
        self.number.refresh()
        self._refresh_more(model)
        self.fill.setEnabled(any(x.port is None for x in model.leads))
        self.output.refresh()

    def _make_rows(self) -> None:
        clear(self._grid)
        self.rows.clear()
        self.complaints.clear()
        for i, lead in enumerate(self.workbench.loaded.leads):
            box = ChoiceBox()
            box.setAccessibleName(f"Port of {lead.label}")
            box.addItems(
                [
                    "not plugged in",
                    *(str(n) for n in range(1, self.workbench.loaded.receiver.ports + 1)),
                ]
            )
            look.hold(box, least_width=120)
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(8)
            box.activated.connect(lambda port, name=lead.name: self.plug(name, port or None))
            complaint = label("", "complaint")
            complaint.hide()
            more = QPushButton("Output…")
            more.setObjectName("plain")
            more.setAccessibleName(f"Output of {lead.label}")
            more.clicked.connect(lambda _=False, name=lead.name: self.choose(name))
            self._grid.addWidget(label(lead.label), 2 * i, 0)
            self._grid.addWidget(box, 2 * i, 1)
            self._grid.addWidget(more, 2 * i, 2)
            self._grid.addWidget(complaint, 2 * i + 1, 0, 1, 3)
            self.rows[lead.name] = box
            self.complaints[lead.name] = complaint
        self._grid.setColumnStretch(0, 2)
        self._grid.setColumnStretch(1, 3)
        self._grid.setColumnStretch(2, 1)

    def plug(self, name: str, port: int | None) -> None:
        """Plug a lead into a port, or unplug it; a taken port is refused where it stands."""
        lead = self.workbench.state.lead(name)
        complaint = self.complaints[name]
        words = f"{lead.label} in port {port}" if port else f"{lead.label} unplugged"
        together = {name, partner(self.workbench.loaded, name)}
        leads = tuple(
            x.changed({"port": port}) if x.name in together else x
            for x in self.workbench.loaded.leads
        )
        try:
            self.workbench.document.edit("leads", leads, words)
            complaint.hide()
        except HypsosError as error:
            complaint.setText(error.plain)
            complaint.show()
        self.refresh()

    def plug_rest(self) -> None:
        """Plug every lead that is still loose into the free ports, in order."""
        model = self.workbench.loaded
        taken = {x.port for x in model.leads}
        free = [p for p in range(1, model.receiver.ports + 1) if p not in taken]
        leads = []
        for lead in model.leads:
            leads.append(lead if lead.port or not free else lead.changed({"port": free.pop(0)}))
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("leads", tuple(leads), "leads in order")
        )

    def _set_ports(self, value: float) -> None:
        self.workbench.document.edit(
            "receiver.ports", int(value), f"receiver with {int(value)} ports"
        )

    def _set_number(self, value: float) -> None:
        owner = self.workbench.document.hangar.numbers().get(int(value)) if value else None
        if owner is not None and owner != self.workbench.loaded.name:
            text = f"receiver number {plain(value)} is {owner}'s"
            raise HypsosError(
                text,
                "",
                f"A number of its own keeps its settings apart; {self.workbench.document.hangar.free_number()} is free.",
            )
        self.workbench.document.edit(
            "receiver.number", int(value), f"receiver number {int(value)}", merge="receiver number"
        )

    def move_port(self, old: int, new: int) -> None:
        """Move what sits in a port to another one; what sat there comes back the other way."""
        model = self.workbench.loaded
        swap = {old: new, new: old}
        leads = tuple(x.changed({"port": swap.get(x.port or 0, x.port)}) for x in model.leads)
        words = (
            f"port {old} and port {new} exchanged"
            if any(x.port == new for x in model.leads)
            else f"port {old} to {new}"
        )
        self.workbench.notices.attempt(lambda: self.workbench.document.edit("leads", leads, words))

    def join(self) -> None:
        """Join two leads by a Y-lead; what may not share a port is refused with the reason."""
        model = self.workbench.loaded
        first, second = self.first.currentData(), self.second.currentData()
        try:
            words = f"{self.workbench.state.lead(first).label} and {self.workbench.state.lead(second).label} on a Y-lead"
            made = joined(model, first, second, self.kind.currentIndex() == 1)
            self.workbench.document.apply(made, words)
            self.join_complaint.hide()
        except HypsosError as error:
            self.join_complaint.setText(error.plain)
            self.join_complaint.show()

    def _refresh_more(self, model: Model) -> None:
        names = [(x.name, x.label) for x in model.leads]
        for i, box in enumerate((self.first, self.second)):
            if [(box.itemData(k), box.itemText(k)) for k in range(box.count())] != names:
                box.clear()
                for name, words in names:
                    box.addItem(words, name)
                box.setCurrentIndex(min(i, box.count() - 1))
        self.join_button.setEnabled(len(names) > 1)
        clear(self._ys)
        labels = dict(names)
        for i, y in enumerate(model.y_leads):
            button = QPushButton("Take apart")
            button.setAccessibleName(f"Take the Y-lead of {labels[y.first]} apart")
            button.clicked.connect(lambda _=False, i=i: self._part(i))
            kind = "reversing Y-lead" if y.reversing else "Y-lead"
            self._ys.addLayout(
                row(f"{labels[y.first]} and {labels[y.second]}, {kind}", button, None)
            )
        self.power.setCurrentIndex(list(POWER_WORDS).index(model.receiver.power))
        self.power_port.setVisible(model.receiver.power == "own battery")
        self.power_port.clear()
        self.power_port.addItems(
            ["no port of its own", *(f"port {n}" for n in range(1, model.receiver.ports + 1))]
        )
        self.power_port.setCurrentIndex(model.receiver.power_port or 0)
        said = power_words(model)
        self.power_said.setText(
            f"{said[:1].upper()}{said[1:]}. Each plug the right way round: signal, plus, minus."
        )

    def _part(self, index: int) -> None:
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(
                parted(self.workbench.loaded, index), "Y-lead taken apart"
            )
        )

    def set_power(self, index: int) -> None:
        power = list(POWER_WORDS)[index]
        receiver = self.workbench.loaded.receiver.changed({"power": power, "power_port": None})
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                "receiver", receiver, f"receiver fed by {self.power.itemText(index)}"
            )
        )

    def set_power_port(self, port: int) -> None:
        words = f"battery in port {port}" if port else "battery in no port"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("receiver.power_port", port or None, words)
        )
        self.refresh()

    def _choose_card(self) -> None:
        path = ask_where(
            self, "Save the port card", f"{self.workbench.loaded.name} ports", {".pdf": "PDF"}
        )
        if path is not None:
            self.save_card(path)

    def save_card(self, path: Path) -> None:
        """Write the port card as a PDF."""
        from hypsos.desk.services.sheet_pdf import sheet_pdf
        from hypsos.hangar.files import write_whole

        def write() -> None:
            card = port_card(self.workbench.loaded)
            write_whole(path, sheet_pdf(card))
            self.card_said.setText(f"Written to {path}.")
            self.card_said.show()

        self.workbench.notices.attempt(write)

    # -- the output stage ------------------------------------------------------------------------

    def choose(self, name: str) -> None:
        """Show the output stage of a lead."""
        self.output.choose(name)
        self.workbench.simulation.choose(self.workbench.state.lead(name).target)
        self.bring(self.output)

    def show_place(self, path: str) -> None:
        for i, lead in enumerate(self.workbench.loaded.leads):
            if path.startswith(f"leads[{i}]"):
                self.choose(lead.name)
