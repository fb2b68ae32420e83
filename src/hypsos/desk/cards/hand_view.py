# SPDX-License-Identifier: GPL-3.0-or-later
"""What a hand moves: every part and how far at full travel, and any part against any hand, to be
looked at and kept."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QRectF, QSize
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number
from hypsos.core.dependencies.references import uses
from hypsos.core.explain.mix_streams import Effect, across, effects
from hypsos.core.explain.response_sweeps import UNITS, SweepLine, as_csv, swept
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.transmitter import STICK_SIDES, STICKS
from hypsos.core.wording.words import Part, control_label, part_named, sense_words
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.file_choice import ask_where
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.sweep_plot import SweepPlot
from hypsos.hangar.files import write_whole

SIZE = QSize(1200, 700)
KINDS = {".csv": "Table", ".png": "Picture", ".svg": "Drawing"}


class HandView(QWidget):
    """A hand, what it moves, and one of those parts swept."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.hand, self.part, self.by, self.unit = (
            ChoiceBox(),
            ChoiceBox(),
            ChoiceBox(),
            ChoiceBox(),
        )
        for box, words in (
            (self.hand, "Hand"), (self.part, "Part that is swept"), (self.by, "A line for each"), (self.unit, "In"),
        ):  # fmt: skip
            box.setAccessibleName(words)
            box.setSizeAdjustPolicy(
                ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(9 if box is not self.unit else 3)
            box.activated.connect(lambda _: self.refresh())
        for unit in UNITS:
            self.unit.addItem(unit, unit)
        self.unit.setCurrentIndex(2)
        self.lines: list[SweepLine] = []
        self.effects: list[Effect] = []
        self.said = label("", "faint")
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(14)
        self.plot = SweepPlot()
        self.keep = QPushButton("Keep as a table or picture…")
        self.keep.clicked.connect(self._ask)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(card(row("With", self.hand, None), self.said, self._grid))
        column.addWidget(
            card(
                flowing(self.part, "in", self.unit),
                flowing("a line for each", self.by),
                self.plot,
                row(self.keep, None),
            )
        )
        self._shown: object = None

    # -- showing ---------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the model as it is now."""
        self._fill_choices()
        model, plan = self.workbench.loaded, self.workbench.state.plan
        hand, part, by = self.hand.currentData(), self.part.currentData(), self.by.currentData()
        if plan is None or hand is None or part is None:
            return
        if (model, hand, part, by) != self._shown:
            self._shown = (model, hand, part, by)
            self.effects = effects(model, plan, hand)
            self._show_effects()
            try:
                self.lines = swept(plan, hand, part, by or "")
            except HypsosError as error:
                self.lines = []
                self.said.setText(error.plain)
        self.plot.present = self.workbench.state.live.controls.get(hand)
        sides = sense_words(part_named(model, part))
        self.plot.show_lines(self.lines, self.unit.currentData(), self.hand.currentText(), sides)

    def _fill_choices(self) -> None:
        """The hands, the parts they move, and by what lines can be told apart."""
        model = self.workbench.loaded
        used = [c for c in model.transmitter.controls if uses(model).get(c.name)]
        self.hand.fill(
            [*((s, control_label(model, s)) for s in STICKS), *((c.name, c.label) for c in used)]
        )
        parts: list[Part] = [*across(model), *model.airframe.motors, *model.airframe.devices]
        self.part.fill([(p.name, p.label) for p in parts])
        modes = [("modes", "flight mode")] if len(model.program.modes) > 1 else []
        switches = [c for c in used if c.is_switch and c.name != self.hand.currentData()]
        self.by.fill(
            [("", "nothing"), *modes, *((c.name, f"position of {c.label}") for c in switches)]
        )

    def _show_effects(self) -> None:
        clear(self._grid)
        model = self.workbench.loaded
        name = self.hand.currentText()
        count = len(self.effects)
        self.said.setText(
            f"{name} moves {count} part{'' if count == 1 else 's'} from where everything else rests; this far at its ends."
            if count
            else f"{name} moves nothing while everything else rests."
        )
        control = model.transmitter.control(self.hand.currentData())
        ends = STICK_SIDES.get(self.hand.currentData(), ("lower end", "upper end"))
        if control is not None and control.is_switch:
            ends = (control.positions[0], control.positions[-1])
        for c, words in enumerate(("", *ends)):
            self._grid.addWidget(label(words, "faint", wrap=False), 0, c)
        for r, e in enumerate(self.effects):
            self._grid.addWidget(label(e.label), r + 1, 0)
            for c, figures in enumerate((e.low, e.high)):
                self._grid.addWidget(label(self._words(e.part, figures)), r + 1, c + 1)
        for c in range(3):
            self._grid.setColumnStretch(c, 1)

    def _words(self, part: str, figures: tuple[float, float | None, float | None]) -> str:
        found = part_named(self.workbench.loaded, part)
        percent, deg, mm = figures
        if abs(percent) < 0.05:
            return "stays"
        side = sense_words(found)[percent > 0]
        if isinstance(found, Motor):
            return f"{number(abs(percent) / 2)} % power {side}"
        said = (
            f"{number(abs(mm), 1)} mm {side}"
            if mm is not None
            else f"{number(abs(percent))} % {side}"
        )
        return f"{said} ({number(abs(deg), 1)}°)" if deg is not None else said

    # -- keeping ---------------------------------------------------------------------------------

    def _ask(self) -> None:
        name = (
            f"{self.workbench.loaded.name} {self.part.currentText()} by {self.hand.currentText()}"
        )
        path = ask_where(self, "Keep the sweep", name, KINDS)
        if path is not None:
            self.save(path)

    def save(self, path: Path) -> bool:
        """Write the sweep as a table, a picture or a drawing, by the ending of its name; what goes
        wrong is said."""
        return self.workbench.notices.attempt(lambda: self._write(path))

    def _write(self, path: Path) -> None:
        if path.suffix == ".csv":
            write_whole(
                path,
                as_csv(
                    self.hand.currentText(),
                    self.part.currentText(),
                    self.unit.currentData(),
                    self.lines,
                ),
            )
            return
        area = QRectF(0, 0, SIZE.width(), SIZE.height())
        if path.suffix == ".svg":
            from PyQt6.QtCore import QBuffer, QByteArray
            from PyQt6.QtSvg import QSvgGenerator

            held = QByteArray()
            buffer = QBuffer(held)
            generator = QSvgGenerator()
            generator.setOutputDevice(buffer)
            generator.setSize(SIZE)
            generator.setViewBox(area)
            generator.setTitle(f"{self.part.currentText()} by {self.hand.currentText()}")
            painter = QPainter(generator)
            self.plot.paint_onto(painter, area)
            painter.end()
            write_whole(path, bytes(held.data()).decode("utf-8"))
            return
        image = QImage(SIZE, QImage.Format.Format_RGB32)
        image.fill(look.colour("field"))
        painter = QPainter(image)
        self.plot.paint_onto(painter, area)
        painter.end()
        if not image.save(str(path), "PNG"):
            raise HypsosError(
                f"the picture could not be written to {path.name}", "", "Choose another folder."
            )
