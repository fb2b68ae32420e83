# SPDX-License-Identifier: GPL-3.0-or-later
"""Shape the aeroplane: what it is made of, and its figures with a tape in the hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import checked
from hypsos.core.edits.controls import with_cut_end
from hypsos.core.parts.airframe import Airframe
from hypsos.core.shape import layout_choices as choices
from hypsos.core.shape.adapt_model import Adapted, adapted
from hypsos.core.shape.measures import measured, measures_of, pieces, volume_words
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services import settings as remembered
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox, TextField
from hypsos.desk.widgets.flow_layout import Flow
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, hint, label, row
from hypsos.desk.widgets.planform import Planform

SECOND = {
    "none": "one wing",
    "zero": "a lower wing, no surfaces",
    "two": "a lower wing with ailerons",
}
OUTLINES = {"cabin": "cabin", "pod": "pod and boom"}


ELEVATORS = {
    "one": (1, False), "two": (2, False), "all-moving, in one piece": (1, True), "all-moving, two halves": (2, True),
}  # fmt: skip
"""What does the elevator's work on a tailplane: how many, and whether all of it moves."""


class AirframePage(StepPage):
    """Choices above, the sketch and the figures of the part at hand below."""

    key = "airframe"
    lead_in = "What it is made of, then its figures as you read them off with a tape. The bench draws exactly this aeroplane."

    def build(self) -> None:
        self.path = "panels[0]"
        self._shown: object = None
        self.boxes: dict[str, QComboBox] = {}
        self.ticks: dict[str, QCheckBox] = {}
        grid_box = QWidget()
        flow = Flow(look.px(10))
        grid_box.setLayout(flow)
        rows: tuple[tuple[str, str, list[str], Callable[[int], None]], ...] = (
            ("wing", "On the wing", [t for t, _ in choices.WINGS.values()], self._set_wing),
            ("second", "Second wing", list(SECOND.values()), self._set_second),
            ("outline", "Fuselage", list(OUTLINES.values()), self._set_outline),
            ("tail", "Tail", list(choices.TAILS.values()), self._set_tail),
            ("motors", "Motors", [str(n) for n in choices.MOTOR_COUNTS], self._set_motors),
            ("elevators", "Elevators", list(ELEVATORS), self._set_tail),
            ("rudders", "Rudders", ["none", "one", "two"], self._set_tail),
        )
        for key, words, items, action in rows:
            box = ChoiceBox()
            box.setPlaceholderText("as drawn")
            box.addItems(items)
            box.setAccessibleName(words)
            box.activated.connect(action)
            self.boxes[key] = box
            box.setSizeAdjustPolicy(
                QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(8)
            named = label(words, wrap=False)
            look.hold(named, least_width=74)
            pair, line = QWidget(), row(named, box)
            line.setContentsMargins(0, 0, 0, 0)
            pair.setLayout(line)
            flow.addWidget(pair)
        ticks_box = QWidget()
        ticks = QGridLayout(ticks_box)
        ticks.setContentsMargins(0, 0, 0, 0)
        ticks.setVerticalSpacing(4)
        extras: list[tuple[str, str]] = [
            ("canards", "Canards"),
            ("airbrake", "Airbrakes"),
            ("spoiler", "Spoilers"),
        ]
        extras.append(("drag rudder", "Drag rudders"))
        extras += [(kind, kind.capitalize()) for kind in choices.DEVICES]
        for i, (key, words) in enumerate(extras):
            tick = QCheckBox(words)
            tick.clicked.connect(lambda on, key=key: self._set_extra(key, on))
            self.ticks[key] = tick
            ticks.addWidget(tick, i // 2, i % 2)
        self.column.addWidget(card(label("What it is made of", "section"), grid_box, ticks_box))
        self._told = QVBoxLayout()
        self.column.addLayout(self._told)
        self.sketch = Planform()
        self.sketch.chosen.connect(self.choose)
        self.sketch.dragged.connect(self._drag)
        self.part = ChoiceBox()
        self.part.setAccessibleName("Part to measure")
        self.part.activated.connect(lambda _: self.choose(self.part.currentData()))
        self.take_off = QPushButton("Take it off")
        self.take_off.clicked.connect(self.remove)
        self.role = ChoiceBox()
        self.role.setAccessibleName("Surface to add to this panel")
        self.add_ = QPushButton("Add to this panel")
        self.add_.clicked.connect(self.add)
        self.kind = TextField()
        self.kind.setAccessibleName("What people call this aeroplane")
        self.kind.editingFinished.connect(self._set_kind)
        self._fields_box = QWidget()
        self._grid = QGridLayout(self._fields_box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setVerticalSpacing(5)
        self.fields: dict[str, NumberField] = {}
        self.complaint = label("", "complaint")
        self.complaint.hide()
        self.volumes = label("", "faint")
        self.balance = self._whole("balance_mm", "Balances at", "mm", (-2000, 5000))
        self.balance.setToolTip(
            "Behind the leading edge at the wing's root, ready to fly. 0: not said."
        )
        self.mass = self._whole("mass_g", "Weighs", "g", (0, 200_000))
        self.mass.setToolTip("Ready to fly, with its batteries. 0: not said.")
        self.column.addWidget(
            card(
                label("Measures", "section"),
                row("Called", self.kind),
                self.sketch,
                row("Part", self.part, self.take_off, None),
                row(self.role, self.add_, None),
                self._fields_box,
                self.complaint,
                self.volumes,
                row("Balances at", self.balance, None),
                row("Weighs", self.mass, None),
                label(
                    "Behind the wing's leading edge at its root, ready to fly. The sheet prints both; 0 is not said.",
                    "faint",
                ),
            )
        )
        self.column.addWidget(
            hint(
                "Both sides are kept alike. Throws are those at 100 % until a linkage says it better (Set the throws)."
            )
        )

    def _whole(self, key: str, words: str, unit: str, bounds: tuple[float, float]) -> NumberField:
        """A field for something of the whole aeroplane; nothing said is 0."""

        def put(value: float) -> None:
            said = (
                f"{words.lower()} {plain(value)} {unit}" if value else f"{words.lower()}: not said"
            )
            self.workbench.document.edit(f"airframe.{key}", value or None, said)

        return NumberField(
            words, lambda: float(getattr(self._body, key) or 0.0), put, unit, bounds, width=88
        )

    @property
    def _body(self) -> Airframe:
        return self.workbench.loaded.airframe

    # -- choices ---------------------------------------------------------------------------------

    def take(self, choose: Callable[[], Airframe], words: str) -> None:
        """Put the model on the airframe that a choice makes, and say what was added and let go; or
        why it can't be."""
        found: list[Adapted] = []

        def act() -> None:
            before = self.workbench.loaded
            made = checked(lambda: adapted(before, choose()))
            if before.program.guard is None:  # a guard that has just come is on a switch of its own
                made = replace(made, model=with_cut_end(made.model, remembered.cut_end()))
            found.append(made)
            if made.let_go:
                self.workbench.document.back_up("airframe")
            self.workbench.document.apply(made.model, words)

        if not self.workbench.notices.attempt(act):
            self.refresh()
            return
        made = found[0]
        clear(self._told)
        said = []
        if made.added:
            said.append(label(f"Added: {', '.join(made.added)}.", "faint"))
        if made.let_go:
            said.append(label(f"Let go: {', '.join(made.let_go)}. Undo brings it back."))
        if said:
            self._told.addWidget(card(*said, kind="hint", margin=9))

    def _set_wing(self, index: int) -> None:
        key = list(choices.WINGS)[index]
        self.take(lambda: choices.with_wing(self._body, key), f"wing: {choices.WINGS[key][0]}")

    def _set_second(self, index: int) -> None:
        choice = {"none": None, "zero": "none"}.get(list(SECOND)[index], "two")
        self.take(
            lambda: choices.with_second_wing(self._body, choice), list(SECOND.values())[index]
        )

    def _set_tail(self, _: int) -> None:
        tail = list(choices.TAILS)[self.boxes["tail"].currentIndex()]
        elevators, whole = list(ELEVATORS.values())[max(0, self.boxes["elevators"].currentIndex())]
        rudders = self.boxes["rudders"].currentIndex()
        if tail in ("conventional", "T-tail") and choices.tail_choice(self._body) == "V-tail":
            rudders = max(rudders, 1)
        words = f"tail: {choices.TAILS[tail]}"
        self.take(lambda: choices.with_tail(self._body, tail, elevators, rudders, whole), words)

    def _set_motors(self, index: int) -> None:
        count = choices.MOTOR_COUNTS[index]
        self.take(
            lambda: choices.with_motors(self._body, count),
            f"{count} motors" if count != 1 else "one motor",
        )

    def _set_outline(self, index: int) -> None:
        outline = list(OUTLINES)[index]
        fuselage = self._body.fuselage.changed({"outline": outline})
        self.take(
            lambda: self._body.changed({"fuselage": fuselage}), f"fuselage: {OUTLINES[outline]}"
        )

    def _set_extra(self, key: str, on: bool) -> None:
        def choose() -> Airframe:
            if key == "canards":
                return choices.with_canards(self._body, on)
            if key == "drag rudder":
                return choices.with_drag_rudders(self._body, on)
            if key in ("airbrake", "spoiler"):
                return choices.with_plates(
                    self._body, "airbrake" if key == "airbrake" else "spoiler", on
                )
            return choices.with_device(self._body, next(k for k in choices.DEVICES if k == key), on)

        self.take(choose, f"{self.ticks[key].text().lower()} {'added' if on else 'taken off'}")

    def remove(self) -> None:
        """Take the part at hand off, with its twin."""
        piece, words = self._piece(self.path), self._label(self.path).lower()
        self.take(lambda: choices.without_part(self._body, piece.name), f"{words} taken off")

    def add(self) -> None:
        """Add surfaces to the panel at hand, where there is room."""
        role = self.role.currentData()
        self.take(
            lambda: choices.with_surfaces(self._body, self._piece(self.path), role), f"{role} added"
        )

    def _set_kind(self) -> None:
        text = self.kind.text().strip()
        if text and text != self._body.kind:
            self.workbench.notices.attempt(
                lambda: self.workbench.document.edit("airframe.kind", text, f"called {text}")
            )

    # -- figures ---------------------------------------------------------------------------------

    def choose(self, path: str) -> None:
        """Take a part in hand."""
        self.path = path
        self._shown = None
        self.refresh()

    def show_place(self, path: str) -> None:
        inner = path.removeprefix("airframe.").rsplit(".", 1)[0]
        if any(inner == p for p, _, _ in pieces(self._body)):
            self.choose(inner)

    def put(self, path: str, field: str, value: float) -> None:
        """Change one figure. Raises HypsosError with the reason when it is not possible."""
        body = measured(self._body, path, field, value)
        measure = next(m for m in measures_of(self._piece(path)) if m.field == field)
        amount = (
            f"{plain(abs(value))} {measure.sides[value > 0]}"
            if measure.sides
            else f"{plain(value)}"
        )
        said = f"{self._label(path).lower()}: {measure.words.lower()} {amount}"
        self.workbench.document.edit("airframe", body, said, merge=f"{path} {field}")

    def _drag(self, path: str, field: str, value: float) -> None:
        try:
            self.put(path, field, value)
            self.complaint.hide()
        except HypsosError as error:
            self.complaint.setText(f"{error.what[:1].upper()}{error.what[1:]}.")
            self.complaint.show()

    def _piece(self, path: str):  # type: ignore[no-untyped-def]
        return next(piece for p, _, piece in pieces(self._body) if p == path)

    def _label(self, path: str) -> str:
        return next(words for p, words, _ in pieces(self._body) if p == path)

    def refresh(self) -> None:
        body = self._body
        self.balance.refresh()
        self.mass.refresh()
        known = [(p, words) for p, words, _ in pieces(body)]
        if self.path not in [p for p, _ in known]:
            self.path = "panels[0]"
        shape = (self.path, tuple(known), type(self._piece(self.path)))
        if shape != self._shown:
            self._shown = shape
            self.part.clear()
            for path, words in known:
                self.part.addItem(words, path)
            self.part.setCurrentIndex(self.part.findData(self.path))
            self._make_fields()
            piece = self._piece(self.path)
            roles = (
                choices.ROLES_ON.get(getattr(piece, "name", ""), ())
                if self.path.startswith("panels")
                else ()
            )
            self.role.clear()
            for role in roles:
                self.role.addItem(role.capitalize(), role)
            for widget in (self.role, self.add_):
                widget.setVisible(bool(roles))
            main = (
                self.path == "fuselage"
                or getattr(piece, "name", "") == choices.main_wing(body).name
            )
            self.take_off.setVisible(not main)
        for field in self.fields.values():
            field.refresh()
        self.sketch.show_body(body, self.path)
        if not self.kind.hasFocus():
            self.kind.setText(body.kind)
        self._sync_choices()
        area = sum(p.area_dm2 for p in body.panels if p.name in ("wing", "lower_wing"))
        self.volumes.setText(f"Wing area {area:.1f} dm². " + volume_words(body))

    def _sync_choices(self) -> None:
        body = self._body
        wing = choices.wing_choice(body)
        self.boxes["wing"].setCurrentIndex(
            list(choices.WINGS).index(wing) if wing in choices.WINGS else -1
        )
        lower = body.panel("lower_wing")
        surfaced = any(s.panel == "lower_wing" for s in body.surfaces)
        with_second = 2 if surfaced else 1
        self.boxes["second"].setCurrentIndex(0 if lower is None else with_second)
        self.boxes["tail"].setCurrentIndex(list(choices.TAILS).index(choices.tail_choice(body)))
        elevators = (max(1, choices.count_of(body, "elevator")), choices.is_all_moving(body))
        known = list(ELEVATORS.values())
        self.boxes["elevators"].setCurrentIndex(
            known.index(elevators) if elevators in known else -1
        )
        self.boxes["rudders"].setCurrentIndex(min(2, choices.count_of(body, "rudder")))
        self.boxes["elevators"].setEnabled(choices.tail_choice(body) in ("conventional", "T-tail"))
        self.boxes["rudders"].setEnabled(choices.tail_choice(body) != "V-tail")
        motors = len(body.motors)
        self.boxes["motors"].setCurrentIndex(
            choices.MOTOR_COUNTS.index(motors) if motors in choices.MOTOR_COUNTS else -1
        )
        self.boxes["outline"].setCurrentIndex(list(OUTLINES).index(body.fuselage.outline))
        self.ticks["canards"].setChecked(body.panel("canard") is not None)
        for role in ("airbrake", "spoiler", "drag rudder"):
            self.ticks[role].setChecked(choices.count_of(body, role) > 0)
        for kind in choices.DEVICES:
            self.ticks[kind].setChecked(any(d.kind == kind for d in body.devices))

    def _make_fields(self) -> None:
        clear(self._grid)
        self.fields.clear()
        self.complaint.hide()
        path = self.path
        for i, m in enumerate(measures_of(self._piece(path))):
            field = NumberField(
                f"{self._label(path)}: {m.words.lower()}",
                lambda m=m: getattr(self._piece(path), m.field),
                lambda value, m=m: self.put(path, m.field, value),
                unit=m.unit,
                bounds=m.bounds,
                step=1.0,
                width=128 if m.sides else 92,
                words=m.sides,
            )
            self.fields[m.field] = field
            self._grid.addWidget(label(m.words, wrap=False), i, 0)
            self._grid.addWidget(field, i, 1)
        self._grid.setColumnStretch(2, 1)
