# SPDX-License-Identifier: GPL-3.0-or-later
"""Set the failsafe: what each channel does, with proposals."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QPushButton, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.dependencies.failsafe_defaults import (
    half_way,
    not_asked,
    spare_ports,
    two_ended,
    usual_failsafe,
)
from hypsos.core.document.paths import with_at
from hypsos.core.edits.relock_time import too_short
from hypsos.core.fitting.throw_settings import demand_for, place_of
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.parts.leads import Failsafe
from hypsos.core.review.rules.without_link import steering_preset, what_it_does
from hypsos.core.scenarios.failsafe_proposals import PROPOSALS, proposed
from hypsos.core.wording.words import Part, sense_words
from hypsos.desk.cards.failsafe_picture import FailsafePicture
from hypsos.desk.cards.link_card import LinkCard
from hypsos.desk.cards.typed_field import TypedInDocument
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.vanished_rows import while_there

SPARE = (
    ("no pulses", "get no pulses"),
    ("hold", "stay where they were"),
    ("neutral", "go to neutral"),
)
NOT_ASKED = "say what it does"
HALF_WAY = "stop half way (fault)"
WORDS = {"preset": "go to", "hold": "stay where it was", "no pulses": "get no pulses"}
MOTOR_WORDS = {"preset": "go to", "hold": "keep running (danger)", "no pulses": "get no pulses"}


def _choices(part: Part) -> tuple[tuple[str, Failsafe], ...]:
    """What a channel may do without the link, in words; of what has two ends each end by itself."""
    if two_ended(part):
        ends = tuple(
            (f"be {words}", Failsafe(value=value, meant=True))
            for words, value in zip(sense_words(part), (-100.0, 100.0), strict=True)
        )
        others = (
            ("hold", Failsafe(action="hold", meant=True)),
            ("no pulses", Failsafe(action="no pulses", meant=True)),
        )
        return (*ends, *((WORDS[action], safe) for action, safe in others))
    words = MOTOR_WORDS if isinstance(part, Motor) else WORDS
    return tuple(
        (words[action], Failsafe(action=action)) for action in ("preset", "hold", "no pulses")
    )


def _chosen(part: Part, safe: Failsafe) -> int:
    """Which of them it does; -1 where nobody has said it, or where it is none of them."""
    if not_asked(part, safe) or half_way(part, safe):
        return -1
    alike = [x for _, x in _choices(part)]
    return next(
        i
        for i, x in enumerate(alike)
        if x.action == safe.action
        and (not two_ended(part) or safe.action != "preset" or (x.value > 0) == (safe.value > 0))
    )


class FailsafePage(StepPage):
    """A row for each channel; proposals below."""

    key = "failsafe"
    lead_in = "When the link is lost the receiver does this, channel by channel. Reversing an output does not change it."

    def build(self) -> None:
        self.column.addWidget(
            self.caution(
                "Propeller off. Then try it on the ground: throttle at a third, a stick held over, transmitter off. Watch every "
                "surface and the motor, then switch it on again. Local rules may ask for more.",
                "Try it on the ground: a stick held over, transmitter off. Watch every surface, then switch it on again. Local "
                "rules may ask for more.",
            )
        )
        self.choices: dict[str, QComboBox] = {}
        self.values: dict[str, NumberField] = {}
        self.meant: dict[str, QCheckBox] = {}
        self._built: object = None
        proposals: list[QWidget] = [label("Proposals", "section")]
        self.proposals: dict[str, tuple[QPushButton, QWidget]] = {}
        for proposal in PROPOSALS:
            button, reason = QPushButton(proposal.title), label(proposal.reason, "faint")
            button.clicked.connect(lambda _=False, p=proposal: self.propose(p.title))
            self.proposals[proposal.title] = (button, reason)
            proposals += [button, reason]
        self.after = NumberField(
            "Failsafe after",
            lambda: self.workbench.loaded.receiver.failsafe_after_s,
            self._set_after,
            "s",
            (0, 60),
            0.1,
        )
        self.picture = FailsafePicture()
        self.column.addWidget(card(label("As it leaves the aeroplane", "section"), self.picture))
        self.spare = ChoiceBox()
        self.spare.setAccessibleName("Spare ports without the link")
        for key, words in SPARE:
            self.spare.addItem(words, key)
        self.spare.activated.connect(self._set_spare)
        self._spare_ports = label("")
        self._grid_box = QWidget()
        self._grid = QGridLayout(self._grid_box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(5)
        self.column.addWidget(
            card(
                label("Channel by channel", "section"),
                self._grid_box,
                self._spare_ports,
                row(self.spare, None),
            )
        )
        self.column.addWidget(
            card(
                label("It acts when the link has been lost for"), row(self.after, None, self._see())
            )
        )
        self.because = label("", "faint")
        self.because.hide()
        self._said_of: tuple[Failsafe | None, ...] = ()
        self.column.addWidget(card(*proposals, self.because))
        self.column.addWidget(LinkCard(self.workbench))

    def _see(self) -> QWidget:
        self.cut = QPushButton("Cut the link and see")
        self.cut.clicked.connect(
            lambda: self.workbench.simulation.set_link(self.workbench.state.live.link < 0.5)
        )
        self.workbench.simulation.live_changed.connect(self._sync_cut)
        return self.cut

    def _sync_cut(self) -> None:
        words = (
            "Bring the link back"
            if self.workbench.state.live.link < 0.5
            else "Cut the link and see"
        )
        if self.cut.text() != words:
            self.cut.setText(words)

    def _failsafes(self) -> tuple[Failsafe | None, ...]:
        return tuple(x.failsafe for x in self.workbench.loaded.leads)

    def _part(self, name: str) -> Part:
        lead = self.workbench.loaded.leads[self.workbench.state.lead_index(name)]
        return next(p for p in self.workbench.loaded.airframe.moved() if p.name == lead.target)

    def _failsafe(self, name: str) -> Failsafe:
        lead = self.workbench.loaded.leads[self.workbench.state.lead_index(name)]
        return lead.failsafe or usual_failsafe(self._part(name))

    def _steers(self, name: str, safe: Failsafe) -> str:
        """What the model does with what is put over so far; empty where it is little, or is no
        surface that steers."""
        part = self._part(name)
        value = (
            steering_preset(part, safe.changed({"meant": False}))
            if isinstance(part, Surface)
            else 0.0
        )
        return what_it_does(part, value) if isinstance(part, Surface) and value else ""

    def refresh(self) -> None:
        shape = tuple((x.name, x.label) for x in self.workbench.loaded.leads)
        if shape != self._built:
            self._built = shape
            self._make_rows()
        for name, box in self.choices.items():
            safe = self._failsafe(name)
            part = self._part(name)
            at = _chosen(part, safe)
            box.setCurrentIndex(at)
            box.setPlaceholderText(HALF_WAY if half_way(part, safe) else NOT_ASKED)
            self.values[name].setVisible(safe.action == "preset" and not two_ended(part))
            self.values[name].refresh()
            self.meant[name].setChecked(safe.meant)
            does = self._steers(name, safe)
            self.meant[name].setText(f"Meant so, though {does}" if does else "Meant so")
            self.meant[name].setVisible((safe.meant or bool(does)) and not two_ended(part))
        self.after.refresh()
        spare = spare_ports(self.workbench.loaded)
        self._spare_ports.setText(
            f"Spare port{'s' if len(spare) > 1 else ''} {', '.join(map(str, spare))}"
            if spare
            else "No port is spare."
        )
        self.spare.setVisible(bool(spare))
        self.spare.setCurrentIndex(self.spare.findData(self.workbench.loaded.receiver.spare))
        if self._failsafes() != self._said_of:  # it was said of other figures
            self.because.hide()
        self.picture.show_model(self.workbench.loaded)
        for proposal in PROPOSALS:
            for shown in self.proposals[proposal.title]:
                shown.setVisible(proposal.suits(self.workbench.loaded.airframe))

    def show_place(self, path: str) -> None:
        place: QWidget | None = self.after if path.startswith("receiver.") else None
        for lead in self.workbench.loaded.leads:
            if path.startswith(f"leads[{self.workbench.state.lead_index(lead.name)}]"):
                place = self.choices[lead.name]
        if place is not None:
            place.setFocus()
            self.bring(place)

    def _make_rows(self) -> None:
        clear(self._grid)
        self.choices.clear()
        self.values.clear()
        self.meant.clear()
        parts = {p.name: p for p in self.workbench.loaded.airframe.moved()}
        for i, lead in enumerate(self.workbench.loaded.leads):
            part = parts[lead.target]
            motor = isinstance(part, Motor)
            box = ChoiceBox()
            box.setAccessibleName(f"{lead.label} without the link")
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(7)
            box.addItems([words for words, _ in _choices(part)])
            box.activated.connect(lambda k, name=lead.name: self._choose(name, k))
            field = NumberField(
                f"{lead.label} goes to",
                lambda name=lead.name, motor=motor: self._shown(name, motor),
                lambda value, name=lead.name, motor=motor: self._set_value(
                    name, 2 * value - 100 if motor else value
                ),
                unit="% power" if motor else "%",
                bounds=(0, 100) if motor else (-100, 100),
                width=112,
                words=None if motor else sense_words(part),
                convert=(
                    lambda v, unit, part=part: demand_for(self.workbench.loaded, part.name, v, unit)
                )
                if isinstance(part, Surface)
                else None,
                typed=TypedInDocument(
                    self.workbench,
                    lambda _, name=lead.name, part=part: [(self._value_path(name), part.name)],
                )
                if isinstance(part, Surface)
                else None,
                measure=(lambda v, part=part: place_of(self.workbench.loaded, part.name, v)[1])
                if isinstance(part, Surface)
                else None,
            )
            meant = QCheckBox("Meant so")
            meant.setAccessibleName(f"{lead.label} is meant to go there without the link")
            meant.setToolTip(
                "The model does not fly on straight like this. Tick it when you have weighed that."
            )
            meant.clicked.connect(lambda on, name=lead.name: self._set_meant(name, on))
            self.choices[lead.name], self.values[lead.name], self.meant[lead.name] = (
                box,
                field,
                meant,
            )
            words = label(lead.label)
            look.hold(words, width=98)
            self._grid.addWidget(flowing(words, box, field, meant), i, 0)

    def _value_path(self, name: str) -> str:
        return f"leads[{self.workbench.state.lead_index(name)}].failsafe.value"

    def _shown(self, name: str, motor: bool) -> float:
        value = self._failsafe(name).value
        return (value + 100) / 2 if motor else value

    @while_there
    def _choose(self, name: str, index: int) -> None:
        lead = self.workbench.loaded.leads[self.workbench.state.lead_index(name)]
        words, safe = _choices(self._part(name))[index]
        if not two_ended(self._part(name)):
            # to another one nobody has agreed
            safe = safe.changed({"value": self._failsafe(name).value})
        said = f"{lead.label} without the link: {words}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                f"leads[{self.workbench.state.lead_index(name)}].failsafe", safe, said
            )
        )
        self.refresh()

    @while_there
    def _set_meant(self, name: str, on: bool) -> None:
        lead = self.workbench.loaded.leads[self.workbench.state.lead_index(name)]
        safe = self._failsafe(name).changed({"meant": on})
        said = f"{lead.label} without the link: {'meant so' if on else 'to be looked at'}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                f"leads[{self.workbench.state.lead_index(name)}].failsafe", safe, said
            )
        )
        self.refresh()

    def _set_value(self, name: str, value: float) -> None:
        lead = self.workbench.loaded.leads[self.workbench.state.lead_index(name)]
        safe = Failsafe(action="preset", value=value)
        said = f"failsafe of {lead.label}"
        self.workbench.document.edit(
            f"leads[{self.workbench.state.lead_index(name)}].failsafe",
            safe,
            said,
            merge=f"failsafe {name}",
        )

    def _set_spare(self, index: int) -> None:
        said = f"spare ports without the link: {self.spare.itemText(index)}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("receiver.spare", self.spare.itemData(index), said)
        )
        self.refresh()

    def _set_after(self, value: float) -> None:
        if short := too_short(with_at(self.workbench.loaded, "receiver.failsafe_after_s", value)):
            raise HypsosError(short, "")
        self.workbench.document.edit(
            "receiver.failsafe_after_s",
            value,
            f"failsafe after {plain(value)} s",
            merge="failsafe after",
        )

    def propose(self, title: str) -> None:
        """Put a proposal on every channel."""
        proposal = next(p for p in PROPOSALS if p.title == title)
        said = f"failsafe: {title.lower()}"

        def put() -> None:
            made, because = proposed(self.workbench.loaded, proposal)
            self.workbench.document.apply(made, said)
            self._said_of = self._failsafes()
            self.because.setText(because)
            self.because.setVisible(bool(because))

        self.workbench.notices.attempt(put)
