# SPDX-License-Identifier: GPL-3.0-or-later
"""Which motors are engines, and how they idle."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtWidgets import QCheckBox, QFrame, QPushButton, QVBoxLayout

from hypsos.core.document.program import Engine, Guard
from hypsos.core.edits.condition_choices import ConditionPlace, default_text
from hypsos.core.edits.engine_kind import electric, engine_of, with_engine
from hypsos.desk.cards.guard_access import the_guard
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.sentence_editor import SentenceEditor
from hypsos.desk.widgets.vanished_rows import while_there

HIGHER = 5.0
"""Percent of power by which a second idle begins above the first."""


class _EngineRow(NamedTuple):
    """What is shown of one motor."""

    motor: str
    choice: QCheckBox
    fields: tuple[NumberField, ...]
    sentence: SentenceEditor | None


class EnginesCard(QFrame):
    """A line for every motor: electric, or an engine with its idle, and a second idle."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.rows: list[_EngineRow] = []
        self._shown: object = None
        self._lines = QVBoxLayout()
        self._lines.setSpacing(6)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                label("Engine or electric motor", "section"),
                label(
                    "An engine runs on at the low end of the stick, its trim about that; cut stops it. Never say so of an "
                    "electric motor: it would start as it is armed.",
                    "faint",
                ),
                self._lines,
            )
        )

    @while_there
    def refresh(self) -> None:
        """Show the engines as they are now."""
        guard, motors = the_guard(self.workbench), self.workbench.loaded.airframe.motors
        shape = tuple((m.name, m.label, _shape(guard.engine(m.name))) for m in motors)
        if shape != self._shown:
            self._shown = shape
            clear(self._lines)
            self.rows = [self._row(m.name, m.label, guard) for m in motors]
        for shown in self.rows:
            shown.choice.setChecked(guard.engine(shown.motor) is not None)
            for field in shown.fields:
                field.refresh()
            if shown.sentence is not None:
                shown.sentence.refresh()

    def _row(self, motor: str, words: str, guard: Guard) -> _EngineRow:
        engine = guard.engine(motor)
        choice = QCheckBox(f"{words} is an engine")
        choice.clicked.connect(lambda on: self._turn(motor, words, on))
        line = row(choice, None)
        self._lines.addLayout(line)
        if engine is None:
            return _EngineRow(motor, choice, (), None)
        idle = self._field(motor, words, "idle", "idle")
        line.insertWidget(1, label("idles at", wrap=False))
        line.insertWidget(2, idle)
        second = QPushButton(
            "A second, higher idle …" if engine.high_idle is None else "Without it"
        )
        second.setAccessibleName(
            f"{words}: {'a second, higher idle' if engine.high_idle is None else 'no second idle'}"
        )
        second.setObjectName("plain")
        second.clicked.connect(lambda: self._second(motor, words))
        if engine.high_idle is None:
            line.insertWidget(3, second)
            return _EngineRow(motor, choice, (idle,), None)
        high = self._field(motor, words, "high_idle", "second idle")
        self._lines.addLayout(row("It idles at", high, "while", None, second))
        place = ConditionPlace(f"program.guard.engines[{guard.engines.index(engine)}].high_when")
        sentence = SentenceEditor(self.workbench, place, f"{words}: second idle while")
        self._lines.addWidget(sentence)
        return _EngineRow(motor, choice, (idle, high), sentence)

    def _field(self, motor: str, words: str, key: str, said: str) -> NumberField:
        def get() -> float:
            engine = the_guard(self.workbench).engine(motor)
            return float(getattr(engine, key) or 0.0) if engine is not None else 0.0

        def put(value: float) -> None:
            model = self.workbench.loaded
            made = engine_of(model, motor).changed({key: value})
            self.workbench.document.apply(with_engine(model, made), f"{words}: {said} {value:g} %")

        return NumberField(f"{words}: {said}", get, put, "% power", (1, 50), step=1, width=96)

    @while_there
    def _turn(self, motor: str, words: str, on: bool) -> None:
        bench = self.workbench
        made = (
            with_engine(bench.loaded, Engine(motor=motor)) if on else electric(bench.loaded, motor)
        )
        bench.notices.attempt(
            lambda: bench.document.apply(made, f"{words} is {'an engine' if on else 'electric'}")
        )
        self.refresh()

    @while_there
    def _second(self, motor: str, words: str) -> None:
        bench = self.workbench
        engine = engine_of(bench.loaded, motor)
        more = engine.high_idle is None
        fields = {
            "high_idle": engine.idle + HIGHER if more else None,
            "high_when": default_text(bench.loaded) if more else None,
        }
        made = with_engine(bench.loaded, engine.changed(fields))
        said = f"{words}: {'a second idle' if more else 'one idle'}"
        bench.notices.attempt(lambda: bench.document.apply(made, said))
        self.refresh()


def _shape(engine: Engine | None) -> object:
    """What decides which fields there are."""
    return None if engine is None else engine.high_idle is not None
