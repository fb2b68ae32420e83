# SPDX-License-Identifier: GPL-3.0-or-later
"""The output of one lead: direction, centre, travel, stops, how long it takes; of a motor's lead
its idle pulse."""

from __future__ import annotations

from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.figure_words import plain
from hypsos.core.explain.idle_pulse import idle_danger, idle_mended
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import TextField
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label
from hypsos.desk.widgets.vanished_rows import while_there

OUTPUT_ROWS: tuple[tuple[str, str, tuple[tuple[str, tuple[float, float]], ...]], ...] = (
    ("Centre (sub-trim)", "%", (("centre", (-50.0, 50.0)),)),
    ("Travel", "%", (("travel_neg", (0.0, 150.0)), ("travel_pos", (0.0, 150.0)))),
    ("End stop", "%", (("stop_neg", (-150.0, 0.0)), ("stop_pos", (0.0, 150.0)))),
    ("100 % takes", "s", (("slow_down_s", (0.0, 60.0)), ("slow_up_s", (0.0, 60.0)))),
)
SIDES = ("short side", "long side")


class OutputCard(QFrame):
    """Shows the lead that was chosen; the first one where none was."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.chosen: str | None = None
        box = QWidget()
        self._grid = QGridLayout(box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._title = label("", "section")
        self._fields: list[NumberField] = []
        note = label(
            "The short side is towards shorter pulses. 100 % takes so many seconds towards that side.",
            "faint",
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card(self._title, box, note))

    def choose(self, name: str) -> None:
        """Show the output of a lead."""
        self.chosen = name
        self._make()

    def refresh(self) -> None:
        """Show the output as it is now."""
        names = [x.name for x in self.workbench.loaded.leads]
        if self.chosen not in names:
            self.chosen = names[0] if names else None
            self._make()
        for field in self._fields:
            field.refresh()
        self._sync_reverse()
        self._show_danger()

    def _make(self) -> None:
        clear(self._grid)
        self._fields.clear()
        if self.chosen is None:
            return
        name = self.chosen
        self._title.setText(f"Output of {self.workbench.state.lead(name).label}")
        self.reverse = QCheckBox("Reversed")
        self.reverse.setToolTip(
            "Reversing belongs here: mixes, trims and failsafe stay independent of it."
        )
        self.reverse.clicked.connect(self._set_reverse)
        self.written = TextField()
        self.written.setText(self.workbench.state.lead(name).label)
        self.written.setAccessibleName("Written on the lead")
        self.written.setToolTip("What you write on this lead. The part keeps its own name.")
        self.written.editingFinished.connect(self._set_label)
        self._grid.addWidget(self.reverse, 0, 0)
        self._grid.addWidget(self.written, 0, 1, 1, 2)
        for c, words in enumerate(SIDES):
            self._grid.addWidget(label(words, "faint", wrap=False), 1, c + 1)
        for r, (words, unit, fields) in enumerate(OUTPUT_ROWS):
            self._grid.addWidget(label(words, wrap=False), r + 2, 0)
            for c, (field, bounds) in enumerate(fields):
                side = f", {SIDES[c]}" if len(fields) > 1 else ""
                number = NumberField(
                    f"{words}{side} of {self.workbench.state.lead(name).label}",
                    lambda field=field: getattr(self.workbench.state.lead(name), field),
                    lambda value, field=field, said=f"{words}{side}": self._put(field, said, value),
                    unit=unit,
                    bounds=bounds,
                    step=0.1 if unit == "s" else 1.0,
                )
                self._grid.addWidget(number, r + 2, c + 1)
                self._fields.append(number)
        if any(
            m.name == self.workbench.state.lead(name).target
            for m in self.workbench.loaded.airframe.motors
        ):
            self._idle_row(name, len(OUTPUT_ROWS) + 2)
        self._grid.setColumnStretch(3, 1)
        self._sync_reverse()
        self._show_danger()

    def _idle_row(self, name: str, at: int) -> None:
        """A motor's lead: the pulse at which its controller is off, and what is wrong with it at
        idle."""
        off = NumberField(
            f"{self.workbench.state.lead(name).label} is off at",
            lambda: self.workbench.state.lead(name).idle_us,
            lambda value: self._put("idle_us", "off at", value),
            unit="µs",
            bounds=(500, 2500),
            step=5.0,
            width=86,
        )
        off.setToolTip("Most controllers are off at 1000 µs; see its manual.")
        self._fields.append(off)
        self._danger = label("", "complaint")
        self._mend = QPushButton("Make idle fit")
        self._mend.clicked.connect(lambda: self.mend_idle(name))
        self._grid.addWidget(label("Off at", wrap=False), at, 0)
        self._grid.addWidget(off, at, 1)
        waits = self._waits = QCheckBox(
            "Its controller waits for idle after the battery is plugged in"
        )
        waits.setToolTip(
            "It lets the motor turn only after it has heard a second of idle. Look into its manual, or try it."
        )
        waits.setChecked(self.workbench.state.lead(name).waits_for_idle)
        waits.clicked.connect(lambda on: self._set_waits(name, on))
        self._grid.addWidget(self._danger, at + 1, 0, 1, 4)
        self._grid.addWidget(self._mend, at + 2, 0, 1, 2)
        self._grid.addWidget(waits, at + 3, 0, 1, 4)

    @while_there
    def _set_waits(self, name: str, on: bool) -> None:
        lead = self.workbench.state.lead(name)
        said = f"{lead.label}: its controller {'waits' if on else 'does not wait'} for idle"
        path = f"leads[{self.workbench.state.lead_index(name)}].waits_for_idle"
        self.workbench.notices.attempt(lambda: self.workbench.document.edit(path, on, said))

    @while_there
    def mend_idle(self, name: str) -> None:
        """Give a motor's lead the direction, travel and stop that go with its idle pulse."""
        made = idle_mended(self.workbench.loaded, self.workbench.state.lead_index(name))
        self.workbench.notices.attempt(
            lambda: self.workbench.document.apply(
                made, f"{self.workbench.state.lead(name).label} idle at its idle pulse"
            )
        )

    @while_there
    def _show_danger(self) -> None:
        lead = self.workbench.state.lead(self.chosen) if self.chosen is not None else None
        if lead is None or all(
            m.name != lead.target for m in self.workbench.loaded.airframe.motors
        ):
            return
        said = idle_danger(self.workbench.loaded, lead)
        self._danger.setText(said or "")
        self._danger.setVisible(said is not None)
        self._mend.setVisible(said is not None)

    @while_there
    def _set_label(self) -> None:
        assert self.chosen is not None
        lead, text = self.workbench.state.lead(self.chosen), self.written.text().strip()
        if not text:
            self.written.setText(lead.label)
        elif text != lead.label:
            path = f"leads[{self.workbench.state.lead_index(lead.name)}].label"
            self.workbench.notices.attempt(
                lambda: self.workbench.document.edit(
                    path, text, f"{lead.label} is now called {text}"
                )
            )

    @while_there
    def _sync_reverse(self) -> None:
        if self.chosen is not None:
            self.reverse.setChecked(self.workbench.state.lead(self.chosen).direction < 0)

    def _put(self, field: str, words: str, value: float) -> None:
        assert self.chosen is not None
        lead = self.workbench.state.lead(self.chosen)
        said = f"{lead.label}: {words.lower()} {plain(value)}"
        self.workbench.document.edit(
            f"leads[{self.workbench.state.lead_index(lead.name)}].{field}",
            value,
            said,
            merge=f"{lead.name} {field}",
        )

    @while_there
    def _set_reverse(self, on: bool) -> None:
        assert self.chosen is not None
        lead = self.workbench.state.lead(self.chosen)
        said = f"{lead.label} {'reversed' if on else 'not reversed'}"
        path = f"leads[{self.workbench.state.lead_index(lead.name)}].direction"
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(path, -1 if on else 1, said)
        )
