# SPDX-License-Identifier: GPL-3.0-or-later
"""What every flight mode does to the wing: a section at each station, side by side, in
millimetres."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, plain
from hypsos.core.base.lookup import the_named
from hypsos.core.document.document import Model
from hypsos.core.edits.flight_modes import mirrored, with_presets
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled
from hypsos.core.explain.mix_streams import across
from hypsos.core.explain.mode_ways import taken_now, ways_to_modes
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.fitting.throw_settings import demand_for, place_of
from hypsos.core.parts.airframe import OPENING, Surface
from hypsos.core.recipes.recipe_base import groups_of
from hypsos.core.wording.describe_condition import mode_label
from hypsos.core.wording.words import sense_words, side_percent
from hypsos.desk.cards.typed_field import TypedInDocument
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.vanished_rows import while_there
from hypsos.desk.widgets.wing_section import WingSection


class PresetView(QWidget):
    """Rows are modes, columns stations; both sides together, or one of them."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self._built: object = None
        self._bands = 0
        """For which width, in steps, the stations were laid out."""
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.refresh)
        self.fields: dict[tuple[str, str], NumberField] = {}
        self.sections: dict[tuple[str, str], WingSection] = {}
        self._words: dict[tuple[str, str], object] = {}
        self.both = QCheckBox("Both sides together")
        self.both.setChecked(True)
        self.both.clicked.connect(lambda: self._again())
        self.compare = ChoiceBox()
        self.compare.setAccessibleName("Compare with mode")
        self.compare.activated.connect(lambda _: self.refresh())
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(4)
        self._grid.setVerticalSpacing(4)
        self.mode = ChoiceBox()
        self.mode.setAccessibleName("Mode at hand")
        self.mode.activated.connect(lambda _: self.refresh())
        self.take = QPushButton("Take what sliders and trims say now")
        self.take.clicked.connect(self.take_now)
        self.mirror = QPushButton("Right as left")
        self.mirror.clicked.connect(self._mirror)
        self.like = QPushButton("As in the compared mode")
        self.like.clicked.connect(self._like)
        self.empty = label("There are no flight modes yet. Add one under Which mode when.", "faint")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.empty)
        note = "In millimetres at the trailing edge; 5 % down or 3° up can be typed too, or drag it. It adds to all else."
        self._card = card(
            label(note, "faint"), flowing(self.both, "compare with", self.compare), self._grid
        )
        column.addWidget(self._card)
        self._acts = card(row("In", self.mode, None), self.take, flowing(self.mirror, self.like))
        column.addWidget(self._acts)

    def _again(self) -> None:
        self._built = None
        self.refresh()

    # -- stations --------------------------------------------------------------------------------

    def stations(self) -> list[tuple[Surface, ...]]:
        """The surfaces of each station: both sides of it, or one."""
        body = self.workbench.loaded.airframe
        found = [s for s in across(self.workbench.loaded) if s.role not in OPENING]
        if self.both.isChecked():
            return groups_of(body, found)
        return [(s,) for s in found]

    def refresh(self) -> None:
        """Show the model as it is now."""
        model = self.workbench.loaded
        modes = model.program.modes
        for widget in (self._card, self._acts):
            widget.setVisible(bool(modes))
        self.empty.setVisible(not modes)
        known = [(m.name, m.label) for m in modes]
        for box, data in ((self.mode, known), (self.compare, [("", "none"), *known])):
            box.fill(data)
        self._bands = self.width() // 40
        shape = (tuple(known), model.airframe, self.both.isChecked(), look.scale, self._bands)
        if shape != self._built:
            self._built = shape
            self._make()
        other = self._other()
        for (mode, name), section in self.sections.items():
            self.fields[(mode, name)].refresh()
            shadow = (
                None
                if not other or other == mode
                else self._degrees(name, self._value(other, name))
            )
            section.show_angle(self._degrees(name, self._value(mode, name)), shadow)
        flown = self.mode.currentData() == self.workbench.state.mode_name
        self.take.setEnabled(flown)
        self.take.setToolTip("" if flown else "Fly this mode on the bench first.")
        self.like.setEnabled(bool(other) and other != self.mode.currentData())
        self._show_shadow()

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        if (
            self.isVisible()
            and self.workbench.model is not None
            and self._bands != self.width() // 40
        ):
            self._soon.start()

    def _other(self) -> str:
        return self.compare.currentData() or ""

    def _make(self) -> None:
        clear(self._grid)
        self.fields.clear()
        self.sections.clear()
        model, stations = self.workbench.loaded, self.stations()
        many = len(stations) > 4
        wide = self.width() - look.px(58) - 40
        room = max(2, wide // (look.px(80) + 4)) if wide > 0 else 4
        per = min(4 if many else max(1, len(stations)), room)
        r = 0
        for start in range(0, len(stations), per):  # in bands, as many as there is room for
            for c, group in enumerate(stations[start : start + per]):
                words = label(_station_words(group), "faint")
                look.hold(words, width=80)
                self._grid.addWidget(words, r, c + 1)
            r += 1
            for mode in model.program.modes:
                name = label(mode.label)
                look.hold(name, width=58)
                self._grid.addWidget(name, r, 0)
                for c, group in enumerate(stations[start : start + per]):
                    self._grid.addWidget(self._cell(mode.name, mode.label, group), r, c + 1)
                r += 1
        self._grid.setColumnStretch(per + 1, 1)

    def _cell(self, mode: str, words: str, group: tuple[Surface, ...]) -> QWidget:
        first = group[0]
        panel = self.workbench.loaded.airframe.panel(first.panel)
        chord = (
            panel.chord_at((first.start_mm + first.end_mm) / 2)
            if panel is not None
            else 4 * first.chord_mm
        )
        heard = f"{words}: {_station_words(group).lower()} from the side"
        section = self.sections[(mode, first.name)] = WingSection(heard, first.chord_mm / chord)
        section.dragged.connect(lambda deg: self._drag(mode, group, deg))
        field = self.fields[(mode, first.name)] = _Millimetres(self, mode, words, group)
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 2)
        column.setSpacing(1)
        column.addWidget(section)
        column.addWidget(field)
        return box

    def _value(self, mode: str, name: str) -> float:
        found = next((m for m in self.workbench.loaded.program.modes if m.name == mode), None)
        return 0.0 if found is None else found.presets.get(name, 0.0)

    def _degrees(self, name: str, value: float) -> float:
        return place_of(self.workbench.loaded, name, value)[0]

    # -- edits -----------------------------------------------------------------------------------

    def put(self, mode: str, group: tuple[Surface, ...], value: float) -> None:
        """The preset of a station in a mode, in percent. Raises HypsosError."""
        bench = self.workbench
        found = the_named(bench.loaded.program.modes, mode)
        presets = {**found.presets, **{s.name: value for s in group}}
        said = f"{found.label}: {_station_words(group).lower()} {self._amount(group[0], value)}"
        bench.document.apply(
            with_presets(bench.loaded, mode, presets), said, merge=f"preset {mode} {group[0].name}"
        )

    def _amount(self, surface: Surface, value: float) -> str:
        """A preset as a ruler reads it; in percent where nothing is plugged in."""
        mm = place_of(self.workbench.loaded, surface.name, value)[1]
        if mm is None:
            return side_percent(surface, value, 1).replace(".0 %", " %")
        amount = plain(abs(round(mm, 1)))
        return f"{amount} mm {sense_words(surface)[mm > 0]}" if round(mm, 1) else "0 mm"

    def _drag(self, mode: str, group: tuple[Surface, ...], degrees: float) -> None:
        def act() -> None:
            self.put(
                mode,
                group,
                round(demand_for(self.workbench.loaded, group[0].name, degrees, "°"), 1),
            )

        self.workbench.notices.attempt(act)

    def take_now(self) -> None:
        """What the sliders and trims say now becomes part of the mode that is flown."""
        bench, mode = self.workbench, self.workbench.state.mode_name
        found = taken_now(bench.loaded, bench.state.live.controls, bench.state.live.memory, mode)
        if found.model == bench.loaded:
            bench.notices.noticed.emit(
                "No slider, knob or trim of this mode's own moves a surface now: there is nothing to take."
            )
            return
        words = f"{mode_label(bench.loaded, mode)}: as sliders and trims say"
        if (
            bench.notices.attempt(lambda: bench.document.apply(found.model, words))
            and found.put_back
        ):
            names = " and ".join(found.put_back)
            bench.notices.noticed.emit(
                f"Taken. Put {names} back to the middle now, or it counts twice."
            )

    @while_there
    def _mirror(self) -> None:
        bench, mode = self.workbench, self.mode.currentData()
        found = the_named(bench.loaded.program.modes, mode)
        presets = mirrored(bench.loaded, found.presets, "left")
        bench.notices.attempt(
            lambda: bench.document.apply(
                with_presets(bench.loaded, mode, presets), f"{found.label}: right as left"
            )
        )

    @while_there
    def _like(self) -> None:
        bench, mode, other = self.workbench, self.mode.currentData(), self._other()
        presets = the_named(bench.loaded.program.modes, other).presets
        words = f"{mode_label(bench.loaded, mode)}: presets as in {mode_label(bench.loaded, other)}"
        bench.notices.attempt(
            lambda: bench.document.apply(with_presets(bench.loaded, mode, presets), words)
        )

    # -- the shadow on the bench -----------------------------------------------------------------

    def _show_shadow(self) -> None:
        """The other mode stands on the bench as a shadow."""
        other = self._other()
        if not other or not self.isVisible():
            self.workbench.simulation.show_shadow(None)
            return
        model = self.workbench.loaded
        hands = ways_to_modes(model).get(other)
        if hands is None:
            self.workbench.simulation.show_shadow(None)
            return
        plan = compile_plan(model)
        outputs = settled(plan, quiet_hands(model) | hands).outputs
        degrees = {
            x.target: float(d.ravel()[-1])
            for x in model.leads
            if (d := outputs[x.name].deg) is not None
        }
        self.workbench.simulation.show_shadow(degrees)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        if self.workbench.model is not None:
            self._show_shadow()

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        self.workbench.simulation.show_shadow(None)


class _Millimetres(NumberField):
    """A preset as a ruler reads it."""

    def __init__(self, view: PresetView, mode: str, words: str, group: tuple[Surface, ...]) -> None:
        self._view, self._mode, self._group = view, mode, group
        super().__init__(
            f"{words}: {_station_words(group).lower()}, mm",
            self._read,
            self._write,
            unit="",
            bounds=(-200, 200),
            step=0.5,
            width=80,
            words=sense_words(group[0]),
            convert=self._from,
            typed=TypedInDocument(view.workbench, self._places),
        )
        self.setToolTip("In mm; % and degrees can be typed too: 5 % down")

    def _places(self, model: Model) -> list[tuple[str, str]]:
        modes = [m.name for m in model.program.modes]
        if self._mode not in modes:
            return []
        root = f"program.modes[{modes.index(self._mode)}].presets"
        return [(f"{root}.{s.name}", s.name) for s in self._group]

    def _parsed(self, text: str) -> tuple[float, tuple[float, str] | None] | None:
        """Millimetres without their unit were typed in millimetres, too."""
        parsed = super()._parsed(text)
        if parsed is None or parsed[1] is not None or "%" in text:
            return parsed
        return parsed[0], (parsed[0], "mm")

    def _typed_text(self, value: float, unit: str) -> str:
        """All of the table is in millimetres; only what is not says its unit."""
        return super()._typed_text(value, unit).replace(" mm", "")

    def _read(self) -> float:
        return self._mm(self._view._value(self._mode, self._group[0].name))

    def _mm(self, demand: float) -> float:
        return place_of(self._view.workbench.loaded, self._group[0].name, demand)[1] or 0.0

    def _write(self, mm: float) -> None:
        value = demand_for(self._view.workbench.loaded, self._group[0].name, mm, "mm")
        value = 0.0 if abs(mm - self._mm(0.0)) < 0.05 else value
        if abs(value) > 150:
            raise HypsosError(
                f"{number(abs(mm), 1)} mm is more than it can go",
                "",
                "Take less, or set longer throws.",
            )
        self._view.put(self._mode, self._group, round(value, 3))

    def _from(self, value: float, unit: str) -> float:
        model, name = self._view.workbench.loaded, self._group[0].name
        return (
            value
            if unit == "mm"
            else self._mm(value if unit == "%" else demand_for(model, name, value, unit))
        )


def _station_words(group: tuple[Surface, ...]) -> str:
    if len(group) == 1:
        return group[0].label
    words = group[0].label.replace("Left ", "").replace("left ", "")
    return f"{words.capitalize()}s"
