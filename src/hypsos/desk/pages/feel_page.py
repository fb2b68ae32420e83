# SPDX-License-Identifier: GPL-3.0-or-later
"""Set rates and expo: where each command comes from, its curve, rates and expo by switch position
or shared value."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, plain
from hypsos.core.document.document import Model
from hypsos.core.document.program import FULL, Axis, Setting
from hypsos.core.edits.rate_switch import on_rates_switch
from hypsos.core.edits.trim_sets import SCOPES
from hypsos.core.engine.shaping import setting_at
from hypsos.core.explain.mix_streams import across
from hypsos.core.fitting.feel_words import feel_at_a_glance, felt_commands, positions_of, undefined
from hypsos.core.fitting.rate_throws import Ends, at_full_in_each, main_surface, rate_for
from hypsos.core.parts.airframe import Surface
from hypsos.core.parts.curves import ruler_mm
from hypsos.core.parts.mix_lines import Response
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.wording.words import SHARED_VALUE, control_label, part_named, sense_words
from hypsos.desk.cards.feel_plot import SENSE, SIDES, FeelPlot, setting_now
from hypsos.desk.cards.typed_field import TypedInDocument
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.widgets.capacity_line import RoomLine
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, hint, label, row, set_tip
from hypsos.desk.widgets.response_editor import ResponseEdit

SOON_MS = 40
"""How long after an edit the millimetres are worked out."""
FIELD_WORDS = {"rate_neg": "rate {0}", "rate_pos": "rate {1}", "expo": "expo"}


class FeelPage(StepPage):
    """One axis at a time: a row of numbers for each position, and the response beside them."""

    key = "feel"
    lead_in = "Rate is how far the surface goes at full stick. Expo softens the middle (+) or sharpens it (−); the ends stay."

    def build(self) -> None:
        self.room = RoomLine(self.workbench)
        self.column.addWidget(self.room)
        self.command = "roll"
        self.fields: dict[tuple[int, str], NumberField] = {}
        self.far: dict[int, QLabel] = {}
        self.throws: dict[tuple[int, int], NumberField] = {}
        """By position and end of the stick: where the throw is typed in millimetres."""
        self._ends: dict[int, Ends] = {}
        self._first_ends: Ends = (None, None)
        self._measured: dict[str, str] = {}
        """By command the surface that the pilot has chosen to be measured."""
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.measure_throws)
        self.from_: dict[tuple[int, str], ChoiceBox] = {}
        self._glanced: object = None
        self._built: object = None
        axes = QHBoxLayout()
        self.axes = QButtonGroup(self)
        for i, command in enumerate(SIDES):
            button = QPushButton(command.capitalize())
            button.setCheckable(True)
            button.setChecked(i == 0)
            self.axes.addButton(button, i)
            axes.addWidget(button)
        axes.addStretch(1)
        self.axes.idClicked.connect(lambda i: self.show_axis(list(SIDES)[i]))
        self.column.addLayout(axes)
        self.switch = ChoiceBox()
        self.switch.setAccessibleName("Switch for rates")
        self.switch.activated.connect(self._set_switch)
        self.alike = QCheckBox("Both sides alike")
        self.alike.setChecked(True)
        self.alike.toggled.connect(self._rebuild)
        self._grid_box = QWidget()
        self._grid = QGridLayout(self._grid_box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(6)
        self.response = FeelPlot(self.workbench, lambda: self._axis()[1])
        self.response.stale.connect(self.refresh)
        choose = row("Changed by", self.switch, None)
        self.glance = QGridLayout()
        self.glance.setHorizontalSpacing(12)
        self.column.insertLayout(self.column.count() - 1, self.glance)
        self.control = ChoiceBox()
        self.control.setAccessibleName("Stick or control of the axis")
        self.control.activated.connect(self._set_control)
        self.measure = ChoiceBox()
        self.measure.setAccessibleName("Rates also in millimetres of")
        self.measure.activated.connect(self._measure_another)
        self.bend = QPushButton("Its curve before expo")
        self.bend.setObjectName("plain")
        self.bend.clicked.connect(self._toggle_curve)
        self.curve: ResponseEdit | None = None
        self._shared_box = QWidget()
        self._shared_grid = QGridLayout(self._shared_box)
        self._shared_grid.setContentsMargins(0, 0, 0, 0)
        self._shared_grid.setColumnStretch(3, 1)
        self._shared_box.hide()
        self.sources = QPushButton("Figures from shared values")
        self.sources.setObjectName("plain")
        set_tip(self.sources, SHARED_VALUE)
        self.sources.clicked.connect(
            lambda: self._shared_box.setVisible(not self._shared_box.isVisible())
        )
        self._curve_place = QVBoxLayout()
        self.trim_words = label("", "faint", wrap=False)
        self.trims = QPushButton("Trims")
        self.trims.setObjectName("plain")
        self.trims.clicked.connect(self._go_to_trims)
        self.shared = label("", "faint")
        self.measured = label("In mm of", wrap=False)
        marked = flowing(self.measured, self.measure)
        more = flowing(self.sources, self.bend)
        trims = row(self.trim_words, self.trims, None)
        self.column.addWidget(
            card(
                row("From", self.control, None),
                choose,
                self.alike,
                marked,
                self._grid_box,
                self.shared,
                self.response,
                more,
                self._shared_box,
                self._curve_place,
                trims,
            )
        )
        copy = QHBoxLayout()
        self.copy = QPushButton("Same feel for all three axes")
        self.copy.clicked.connect(self._copy)
        copy.addWidget(self.copy)
        copy.addStretch(1)
        self.column.addLayout(copy)
        self.column.addWidget(
            hint(
                "A position without its own numbers falls back to full rate and no expo. Fly the first flight at low rates. "
                "Expo counts as softer in the middle: transmitters differ in the sign."
            )
        )

    # -- reading ---------------------------------------------------------------------------------

    def _axis(self) -> tuple[int, Axis]:
        model = self.workbench.model
        assert model is not None
        return next((i, a) for i, a in enumerate(model.program.axes) if a.command == self.command)

    def _positions(self, axis: Axis) -> tuple[str, ...]:
        return positions_of(self.workbench.loaded, axis)

    def show_axis(self, command: str) -> None:
        """Show roll, pitch or yaw."""
        self.command = command
        button = self.axes.button(list(SIDES).index(command))
        if button is not None:
            button.setChecked(True)
        self.refresh()

    def show_place(self, path: str) -> None:
        model = self.workbench.model
        for i, axis in enumerate(model.program.axes if model else ()):
            if path.startswith(f"program.axes[{i}]") and axis.command in SIDES:
                self.show_axis(axis.command)

    def refresh(self) -> None:
        model = self.workbench.model
        if model is None:
            return
        _, axis = self._axis()
        self._fill_lists(model, axis)
        self._glance()
        self.room.refresh()
        self._say_trim(axis)
        if self.curve is not None:
            self.curve.refresh()
        self._hide_what_does_not_apply(model)
        self._show_both_sides_where_they_differ(axis)
        self._make_rows_anew(model, axis)
        self._fill_rows(model, axis)
        self._say_shared(model, axis)
        self.response.draw()

    def _fill_lists(self, model: Model, axis: Axis) -> None:
        """The switches, the controls and the surfaces to choose from."""
        switches = [c for c in model.transmitter.controls if c.is_switch]
        names = [None, *(c.name for c in switches)]
        shown = ["no switch", *(c.label for c in switches)]
        if [self.switch.itemText(i) for i in range(self.switch.count())] != shown:
            self.switch.clear()
            for name, text in zip(names, shown, strict=True):
                self.switch.addItem(text, name)
        self.switch.setCurrentIndex(names.index(axis.switch))
        self.control.fill(self._controls())
        self.control.setCurrentIndex(self.control.findData(axis.control))
        self.measure.fill([("", "no surface"), *((s.name, s.label) for s in across(model))])
        if self.command not in self._measured:
            self._measured[self.command] = main_surface(model, self.command) or ""
        self.measure.setCurrentIndex(max(0, self.measure.findData(self._measured[self.command])))

    def _say_trim(self, axis: Axis) -> None:
        trim = axis.trim
        said = (
            "no trim"
            if trim is None
            else f"trim {plain(trim.step)} % a click, {dict(SCOPES)[trim.scope]}"
        )
        self.trim_words.setText(said.capitalize())

    def _hide_what_does_not_apply(self, model: Model) -> None:
        """The thrust has no sides and moves no surface; a command without an axis has no page."""
        for widget in (self.alike, self.measured, self.measure, self.copy):
            widget.setVisible(self.command != "thrust")
        for i, command in enumerate(SIDES):
            button = self.axes.button(i)
            if button is not None:
                button.setVisible(command in felt_commands(model))

    def _show_both_sides_where_they_differ(self, axis: Axis) -> None:
        uneven = any(s is not None and s.rate_neg != s.rate_pos for s in axis.settings)
        if uneven and self.alike.isChecked():
            self.alike.blockSignals(True)
            self.alike.setChecked(False)
            self.alike.blockSignals(False)

    def _make_rows_anew(self, model: Model, axis: Axis) -> None:
        """A row for each position: made anew only where something else than a figure has
        changed."""
        shape = (
            self.command,
            axis.switch,
            self.alike.isChecked(),
            self._positions(axis),
            undefined(model, axis),
            tuple(x.name for x in model.program.tunables),
            model.transmitter.first_end,
            self.measure.currentData(),
        )
        if shape != self._built:
            self._built = shape
            self._make_rows(axis)

    def _fill_rows(self, model: Model, axis: Axis) -> None:
        """The figures of the rows; one that comes from a shared value is shown and can't be
        typed."""
        felt = model.program.felt(axis)
        labels = {x.name: x.label for x in model.program.shared_values()}
        for (place, column), field in self.fields.items():
            shared = _shared(setting_at(felt, place), column)
            field.setEnabled(shared is None)
            called = labels.get(shared or "", shared)
            said = "" if shared is None else f"From the shared value {called}, by flight mode."
            set_tip(field, said)
            field.refresh()
        self.sources.setVisible(bool(model.program.tunables))
        self._soon.start()
        for (place, column), box in self.from_.items():
            box.setCurrentIndex(max(0, box.findData(_shared(setting_at(axis, place), column))))

    def _say_shared(self, model: Model, axis: Axis) -> None:
        """Which shared values give rates or expo of this axis."""
        settings = [s for s in model.program.felt(axis).settings if s is not None]
        used = {name for s in settings for name in (s.rate_from, s.expo_from) if name}
        labels = [x.label for x in model.program.shared_values() if x.name in used]
        self.shared.setText(
            f"From shared values, by flight mode: {', '.join(labels)}." if labels else ""
        )
        self.shared.setVisible(bool(labels))

    def _controls(self) -> list[tuple[str, str]]:
        model = self.workbench.loaded
        sliders = [(c.name, c.label) for c in model.transmitter.controls if not c.is_switch]
        return [*((s, control_label(model, s)) for s in STICKS), *sliders]

    def _glance(self) -> None:
        rows = feel_at_a_glance(self.workbench.loaded, self.workbench.state.mode_name)
        if rows != self._glanced:
            self._glanced = rows
            clear(self.glance)
            for r, row_ in enumerate(rows):
                self.glance.addWidget(label(row_.command, wrap=False), r, 0)
                self.glance.addWidget(label(row_.words, "faint"), r, 1)
            self.glance.setColumnStretch(1, 1)

    # -- in millimetres --------------------------------------------------------------------------

    def _measure_another(self, choice: int) -> None:
        self._measured[self.command] = self.measure.itemData(choice)
        self._ends.clear()
        self._rebuild()

    def measure_throws(self) -> None:
        """What a ruler reads at full stick, at every position: worked out a moment after an edit,
        for it takes a run of the whole model."""
        model, surface = self.workbench.model, self.measure.currentData()
        if model is None or not self.isVisible() or not surface or not self.throws:
            return
        part = next((s for s in model.airframe.surfaces if s.name == surface), None)
        axis = model.program.axis(self.command)
        if part is None or axis is None:
            return
        places = sorted({place for place, _ in self.throws})
        found = at_full_in_each(model, self.command, places, surface)
        self._ends = dict(zip(places, found, strict=True))
        for field in self.throws.values():
            field.show_again()
        for place, words in self.far.items():
            words.setText(self._other_end(part, self._ends.get(place, (None, None))))

    def _other_end(self, part: Surface, ends: Ends) -> str:
        """The end of the stick that has no field of its own."""
        typed = {end for _, end in self.throws}
        others = [x for end, x in enumerate(ends) if end not in typed and x is not None]
        said = [f"{number(abs(x), 1)} mm {sense_words(part)[x > 0]}" for x in others]
        return ", ".join(said)

    def _throw_field(self, place: int, end: int, position: str) -> NumberField:
        """Where the throw at full stick is typed, as a ruler reads it; the rate follows."""
        model = self.workbench.loaded
        surface = self.measure.currentData()
        part = part_named(model, surface)
        side = SIDES[self.command][end]
        column = "rate_pos" if self.alike.isChecked() else ("rate_neg", "rate_pos")[end]

        way = 1.0 if (self._first_ends[end] or -1.0) > 0 else -1.0
        word = sense_words(part)[way > 0]

        def get() -> float:
            return abs(self._ends.get(place, (None, None))[end] or 0.0)

        def put(mm: float) -> None:
            wanted = way * mm
            rate = rate_for(self.workbench.loaded, self.command, surface, wanted, "mm")
            places = TypedInDocument(self.workbench, lambda _: self._rate_places(place, column))
            with places.typing(wanted, "mm"):
                self._put(place, column, rate)
            self.measure_throws()

        def as_mm(value: float, unit: str) -> float:
            if unit == "%":
                raise HypsosError("the rate stands beside it", "", "Write percent there.")
            if unit == "mm":
                return value
            return float(ruler_mm(value, part.chord_mm)) if isinstance(part, Surface) else value

        made = NumberField(
            f"{self.command.capitalize()} at {position}, stick {side}: {part.label.lower()}",
            get,
            put,
            unit="mm",
            bounds=(0, 500),
            step=0.5,
            width=94,
            words=(word, word),
            convert=as_mm,
        )
        made.setToolTip("What a ruler reads at full stick: type it, and the rate follows.")
        return made

    def _typed_ends(self) -> tuple[int, ...]:
        """The ends of the stick whose throw is typed: both, or, where both sides are alike, the one
        that takes the surface up or to the left."""
        surface = self.measure.currentData()
        if not surface or self.command == "thrust":
            return ()
        model, axis = self.workbench.loaded, self._axis()[1]
        places = list(range(len(self._positions(axis))))
        found = at_full_in_each(model, self.command, places, surface)
        self._ends = dict(zip(places, found, strict=True))
        self._first_ends = found[0]
        if not self.alike.isChecked():
            return (0, 1)
        low, high = (x or 0.0 for x in found[0])
        return (0,) if low <= high else (1,)

    def _toggle_curve(self) -> None:
        if self.curve is not None:
            self.curve.setVisible(not self.curve.isVisible())
            return
        self.curve = ResponseEdit(
            self.workbench,
            "Curve of the axis",
            lambda: self._axis()[1].curve,
            self._put_curve,
            lambda: (
                SENSE[self.command]
                * self.workbench.state.live.controls.get(self._axis()[1].control, 0.0)
            ),
        )
        self._curve_place.addWidget(self.curve)

    def _put_curve(self, response: Response | None, words: str, merge: str) -> None:
        index, axis = self._axis()
        self.workbench.document.edit(
            f"program.axes[{index}].curve",
            response,
            f"{axis.command}: {words}",
            merge=f"{merge} {axis.command}",
        )

    def _set_control(self, choice: int) -> None:
        index, axis = self._axis()
        name, words = self.control.itemData(choice), self.control.itemText(choice)
        path = f"program.axes[{index}].control"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(path, name, f"{axis.command} from {words}")
        )
        self.refresh()

    def _go_to_trims(self) -> None:
        index, _ = self._axis()
        self.place_wanted.emit(f"program.axes[{index}].trim")

    # -- rows ------------------------------------------------------------------------------------

    def _rebuild(self) -> None:
        self._built = None
        self.refresh()

    def _make_rows(self, axis: Axis) -> None:
        clear(self._grid)
        self.fields.clear()
        clear(self._shared_grid)
        self.far.clear()
        self.throws.clear()
        self.from_.clear()
        missing = undefined(self.workbench.loaded, axis)
        low, high = SIDES[self.command]
        columns = (
            ["rate_pos", "expo"]
            if self.alike.isChecked() or self.command == "thrust"
            else ["rate_neg", "rate_pos", "expo"]
        )
        heads = {
            "rate_pos": "Rate" if len(columns) == 2 else f"Rate {high}",
            "rate_neg": f"Rate {low}",
            "expo": "Expo",
        }
        for c, column in enumerate(columns):
            self._grid.addWidget(label(heads[column], "faint", wrap=False), 0, c + 1)
        ends = self._typed_ends()
        if ends:
            head = label("At full stick", "faint", wrap=False)
            head.setToolTip("With the trim in its middle.")
            self._grid.addWidget(head, 0, len(columns) + 1)
        positions = self._positions(axis)
        for p, position in enumerate(positions):
            # as the switch is drawn
            at = 1 + 2 * self.workbench.loaded.transmitter.row_from_far(p, len(positions))
            self._grid.addWidget(label(position, wrap=False), at, 0)
            if p in missing:
                define = QPushButton("Nobody has set it: full rate, no expo. Set it")
                define.setObjectName("plain")
                define.clicked.connect(lambda _=False, p=p: self._define(p))
                self._grid.addWidget(define, at, 1, 1, len(columns) + 2)
                continue
            self._grid.setRowMinimumHeight(at + 1, 0)
            for c, column in enumerate(columns):
                bounds = (-100.0, 100.0) if column == "expo" else (0.0, 150.0)
                field = NumberField(
                    f"{heads[column]} of {self.command} at {position}",
                    lambda p=p, column=column: self._value(p, column),
                    lambda value, p=p, column=column: self._put(p, column, value),
                    bounds=bounds,
                    digits=1,
                    width=58,
                    convert=None if column == "expo" else lambda v, u, p=p: self._as_rate(p, v, u),
                    typed=None
                    if column == "expo"
                    else TypedInDocument(
                        self.workbench, lambda _, p=p, c=column: self._rate_places(p, c)
                    ),
                )
                self.fields[(p, column)] = field
                self._grid.addWidget(field, at, c + 1)
            for c, end in enumerate(ends):
                throw = self.throws[(p, end)] = self._throw_field(p, end, position)
                self._grid.addWidget(throw, at, len(columns) + 1 + c)
            words = self.far[p] = label("", "faint", wrap=False)
            if ends:  # below the throw that is typed
                self._grid.addWidget(words, at + 1, len(columns) + 1, 1, len(ends) + 1)
            tunables = self.workbench.loaded.program.tunables
            for c, column in enumerate(("rate", "expo") if tunables else ()):
                box = self.from_[(p, column)] = ChoiceBox()
                box.setAccessibleName(f"{column.capitalize()} of {self.command} at {position} from")
                box.setSizeAdjustPolicy(
                    ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
                )
                box.setMinimumContentsLength(7)
                box.addItem(f"own {column}", None)
                for x in tunables:
                    box.addItem(x.label, x.name)
                box.activated.connect(
                    lambda k, p=p, col=column, b=box: self._from_shared(
                        p, col, b.itemData(k), b.itemText(k)
                    )
                )
                self._shared_grid.addWidget(label(position, "faint", wrap=False), p, 0)
                self._shared_grid.addWidget(box, p, c + 1)
        for c in range(self._grid.columnCount()):
            self._grid.setColumnStretch(c, int(c == len(columns) + 1 + len(ends)))
        self._grid.setColumnStretch(len(columns) + 1 + len(ends), 1)

    def _define(self, position: int) -> None:
        """Give a position figures of its own: full rate, no expo, to begin with."""
        index, axis = self._axis()
        count = max(len(self._positions(axis)), position + 1)
        settings = [axis.settings[i] if i < len(axis.settings) else None for i in range(count)]
        settings[position] = FULL
        words = f"{self.command} at {self._positions(axis)[position]} set"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                f"program.axes[{index}].settings", tuple(settings), words
            )
        )

    def _from_shared(self, position: int, column: str, name: str | None, words: str) -> None:
        index, axis = self._axis()
        count = max(len(self._positions(axis)), position + 1)
        settings = [axis.settings[i] if i < len(axis.settings) else None for i in range(count)]
        settings[position] = setting_at(axis, position).changed({f"{column}_from": name})
        said = f"{self.command} {column} from {words}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                f"program.axes[{index}].settings", tuple(settings), said
            )
        )
        self.refresh()

    def _as_rate(self, position: int, value: float, unit: str) -> float:
        surface = self.measure.currentData()
        if unit == "%":
            return value
        if not surface:
            raise HypsosError("choose the surface first whose millimetres these are", "")
        return rate_for(self.workbench.loaded, self.command, surface, value, unit)

    def _rate_places(self, position: int, column: str) -> list[tuple[str, str]]:
        """Where a rate stands that is typed in millimetres of the surface at hand."""
        index, _ = self._axis()
        root, surface = f"program.axes[{index}].settings[{position}]", self.measure.currentData()
        sides = ("rate_pos", "rate_neg") if self.alike.isChecked() else (column,)
        return [(f"{root}.{side}", surface) for side in sides] if surface else []

    def _value(self, position: int, column: str) -> float:
        setting = setting_now(
            self.workbench.loaded, self._axis()[1], position, self.workbench.state.mode_name
        )
        value: float = getattr(setting, column)
        return value

    def _put(self, position: int, column: str, value: float) -> None:
        index, axis = self._axis()
        count = max(len(self._positions(axis)), position + 1)
        settings = [setting_at(axis, i) if i < len(axis.settings) else None for i in range(count)]
        changed = setting_at(axis, position).model_dump() | {column: value}
        if column == "rate_pos" and (self.alike.isChecked() or self.command == "thrust"):
            changed["rate_neg"] = value
        settings[position] = Setting(**changed)
        low, high = SIDES[self.command]
        what = (
            FIELD_WORDS[column].format(low, high)
            if not self.alike.isChecked()
            else column.split("_")[0]
        )
        where = self._positions(axis)[position]
        words = f"{self.command} {what} {plain(value)} %" + (
            "" if where == "always" else f" at {where}"
        )
        self.workbench.document.edit(
            f"program.axes[{index}].settings",
            tuple(settings),
            words,
            merge=f"{self.command} {column} {position}",
        )

    def _set_switch(self, choice: int) -> None:
        name = self.switch.itemData(choice)
        index, axis = self._axis()
        model = self.workbench.model
        assert model is not None
        control = model.transmitter.control(name) if name else None
        changed = on_rates_switch(axis, control)
        axes = tuple(changed if i == index else a for i, a in enumerate(model.program.axes))
        words = f"{self.command} rates on {control.label if control else 'no switch'}"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit("program.axes", axes, words)
        )
        self.refresh()

    def _copy(self) -> None:
        model = self.workbench.model
        assert model is not None
        _, axis = self._axis()
        axes = tuple(
            a.changed({"switch": axis.switch, "settings": axis.settings})
            if a.command != "thrust"
            else a
            for a in model.program.axes
        )
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                "program.axes", axes, f"feel of {self.command} for all axes"
            )
        )


def _shared(setting: Setting, column: str) -> str | None:
    """The shared value from which a figure of a position comes."""
    return setting.expo_from if column == "expo" else setting.rate_from
