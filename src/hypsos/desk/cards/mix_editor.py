# SPDX-License-Identifier: GPL-3.0-or-later
"""One mix by hand: its name, its amount, what shapes it, and when it flows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QCheckBox, QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.figure_words import plain
from hypsos.core.base.lookup import at_place
from hypsos.core.document.document import Model
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.edits.mix_words import gives_power, slow_words
from hypsos.core.edits.plain_mixes import (
    ends,
    moved,
    order_matters,
    other_side,
    sources,
    without_mix,
)
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.wording.words import SHARED_VALUE
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox, TextField
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import label, row, set_tip
from hypsos.desk.widgets.response_editor import ResponseEdit
from hypsos.desk.widgets.vanished_rows import while_there
from hypsos.desk.widgets.when_line import WhenLine

if TYPE_CHECKING:
    from hypsos.desk.cards.stream_view import StreamView

COMBINED = (
    ("add", "is added"),
    ("replace", "replaces what comes before it"),
    ("scale", "scales what comes before it"),
)


class MixEditor(QFrame):
    """All of one plain mix."""

    def __init__(self, workbench: Workbench, index: int, view: StreamView) -> None:
        super().__init__()
        self.workbench, self.index, self.view = workbench, index, view
        self.setObjectName("card")
        mix = self.mix()
        self.name = TextField("Name of the stream", 60)
        self.name.editingFinished.connect(self._rename)
        self.source, self.target, self.combine = ChoiceBox(), ChoiceBox(), ChoiceBox()
        self.shared, self.bent_by = ChoiceBox(), ChoiceBox()
        for box, words, field in (
            (self.source, "From", "source"), (self.target, "To", "target"), (self.combine, "How it joins", "combine"),
            (self.shared, "Times the shared value", "gain_from"),
            (self.bent_by, "Less on one side times the shared value", "differential_from"),
        ):  # fmt: skip
            box.setAccessibleName(f"{mix.name}: {words.lower()}")
            box.setSizeAdjustPolicy(
                ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
            )
            box.setMinimumContentsLength(11)
            if box in (self.shared, self.bent_by):
                set_tip(box, SHARED_VALUE)
            box.activated.connect(
                lambda k, b=box, f=field, w=words: self._put(
                    f, b.itemData(k), f"{w.lower()} {b.itemText(k)}"
                )
            )
        self.gain = self._number("gain", "gain", (-500, 500))
        self.differential = self._number("differential", "differential", (-100, 100))
        self.in_s = self._number("in_s", "comes in over", (0, 60), "s")
        self.out_s = self._number("out_s", "goes out over", (0, 60), "s")
        self.start = label("", "faint")
        self.trim = QCheckBox("Trims move it too")
        self.trim.clicked.connect(
            lambda on: self._put("with_trim", on, "with trim" if on else "without trim")
        )
        self.when = WhenLine(
            workbench, ConditionPlace(self._path("when"), always=True), lambda: self.mix().name
        )
        self.response = ResponseEdit(
            workbench, mix.name, lambda: self.mix().response, self._put_response, self._present
        )
        self.over = QPushButton("The same on the other side")
        self.over.clicked.connect(self._over)
        self.remove = QPushButton("Remove")
        self.remove.clicked.connect(self._remove)
        self.order = label("", "faint")
        self.before, self.behind = QPushButton("Earlier"), QPushButton("Later")
        self.before.clicked.connect(lambda: self._move(-1))
        self.behind.clicked.connect(lambda: self._move(1))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 9, 12, 10)
        column.setSpacing(6)
        for part in (
            row("Called", self.name), flowing("From", self.source, "to", self.target),
            flowing("Gain", self.gain, "times", self.shared), self.when, self.response,
            flowing("Less on one side", self.differential, "times", self.bent_by),
            flowing("Comes in over", self.in_s, "goes out over", self.out_s), self.start,
            row(self.trim, None), row("It", self.combine, None),
            label("A servo that runs the wrong way is reversed at its output; a minus here turns the mix itself.", "faint"),
            self.order, row(self.before, self.behind, None), flowing(self.over, self.remove),
        ):  # fmt: skip
            column.addWidget(part) if isinstance(part, QWidget) else column.addLayout(part)
        self.refresh()

    def mix(self) -> MixLine:
        """The mix as it is now."""
        return at_place(self.workbench.loaded.program.mixes, self.index)

    def _path(self, field: str) -> str:
        return f"program.mixes[{self.index}].{field}"

    def _number(
        self, field: str, words: str, bounds: tuple[float, float], unit: str = "%"
    ) -> NumberField:
        def put(value: float) -> None:
            path = self._path(field)
            self.workbench.document.edit(
                path, value, f"{self.mix().name}: {words} {plain(value)} {unit}", merge=path
            )

        step = 0.1 if unit == "s" else 1.0
        return NumberField(
            f"{self.mix().name}: {words}",
            lambda: getattr(self.mix(), field),
            put,
            unit=unit,
            bounds=bounds,
            step=step,
        )

    def _present(self) -> float | None:
        """What it reads now, in percent."""
        result, source = self.workbench.state.live.result, self.mix().source
        if result is None:
            return None
        for table in (result.commands, result.sums):
            if source in table:
                return float(table[source].ravel()[-1])
        control = self.workbench.loaded.transmitter.control(source)
        if control is not None and control.is_switch:
            return None
        return self.workbench.state.live.controls.get(source)

    def _say_start(self, model: Model, mix: MixLine) -> None:
        """What the two times, which are for 100 %, come to for a motor, which goes 200 % from
        stopped to full."""
        slow = gives_power(model, mix) and bool(mix.in_s or mix.out_s)
        self.start.setText(f"The motor goes {slow_words(mix, power=True)}." if slow else "")
        self.start.setVisible(slow)

    def refresh(self) -> None:
        """Show it as it is now."""
        if self.index >= len(self.workbench.loaded.program.mixes):
            return
        mix, model = self.mix(), self.workbench.loaded
        self._say_start(model, mix)
        if not self.name.isModified():
            self.name.setText(mix.name)
        multipliers = [(None, "nothing else"), *((x.name, x.label) for x in model.program.tunables)]
        for box, known, value in (
            (self.source, sources(model), mix.source), (self.target, ends(model), mix.target),
            (self.combine, list(COMBINED), mix.combine),
            (self.shared, multipliers, mix.gain_from), (self.bent_by, multipliers, mix.differential_from),
        ):  # fmt: skip
            box.fill(known)
            box.choose(value)
        for field in (self.gain, self.differential, self.in_s, self.out_s):
            field.refresh()
        self.trim.setChecked(mix.with_trim)
        self.trim.setVisible(
            any(a.command == mix.source and a.trim is not None for a in model.program.axes)
        )
        self.when.refresh()
        self.response.refresh()
        matters = order_matters(model, mix.target)
        self.order.setText(
            "Its place among the streams of this part matters, for one of them replaces or scales."
        )
        for widget in (self.order, self.before, self.behind):
            widget.setVisible(matters)
        self.over.setVisible(model.airframe.other_side(mix.target) is not None)

    # -- edits -----------------------------------------------------------------------------------

    @while_there
    def _put(self, field: str, value: object, words: str) -> None:
        name = self.mix().name
        done = self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path(field), value, f"{name}: {words}")
        )
        if done and field == "target":
            self.view.refresh()
            found = next((s for s in self.view.canvas.net.streams if s.mix == self.index), None)
            self.view.pick(found.key if found is not None else None)
        elif not done:
            self.refresh()

    def _put_response(self, response: Response | None, words: str, merge: str) -> None:
        self.workbench.document.edit(self._path("response"), response, words, merge=merge)

    @while_there
    def _rename(self) -> None:
        text = self.name.text().strip()
        if not self.name.isModified() or text == self.mix().name:
            return
        if not self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(self._path("name"), text, f"called {text}")
        ):
            self.name.setText(self.mix().name)
            return
        self.view.refresh()
        found = next((s for s in self.view.canvas.net.streams if s.mix == self.index), None)
        self.view.pick(found.key if found is not None else None)

    @while_there
    def _over(self) -> None:
        bench, words = self.workbench, f"{self.mix().name} on the other side"
        bench.notices.attempt(
            lambda: bench.document.apply(other_side(bench.loaded, self.index), words)
        )

    @while_there
    def _move(self, by: int) -> None:
        bench, words = self.workbench, f"{self.mix().name} {'earlier' if by < 0 else 'later'}"
        bench.notices.attempt(
            lambda: bench.document.apply(moved(bench.loaded, self.index, by), words)
        )

    @while_there
    def _remove(self) -> None:
        bench, words = self.workbench, f"without {self.mix().name}"
        if bench.notices.attempt(
            lambda: bench.document.apply(without_mix(bench.loaded, self.index), words)
        ):
            self.view.pick(None)
            self.view.refresh()
