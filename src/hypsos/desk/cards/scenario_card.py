# SPDX-License-Identifier: GPL-3.0-or-later
"""A scenario on a card: what came of it, its moves as a list, what is expected."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.base.lookup import at_place
from hypsos.core.document.document import Model
from hypsos.core.edits.expectations import (
    CONDITION_KINDS,
    can_expect,
    conditions_to_expect,
    first_expectation,
)
from hypsos.core.engine.rest_positions import resting
from hypsos.core.engine.situation import allowed
from hypsos.core.parts.scenario import LONGEST_S, Expectation, Move, Scenario
from hypsos.core.parts.transmitter import AROUND
from hypsos.core.scenarios.scenario_from_recording import trimmed
from hypsos.core.scenarios.scenario_run import (
    ScenarioOutcome,
    expectation_words,
    scenario_csv,
    situation_of,
)
from hypsos.core.wording.words import control_label, part_named, sense_words
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox, TextField
from hypsos.desk.widgets.file_choice import ask_where
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row
from hypsos.desk.widgets.vanished_rows import while_there
from hypsos.hangar.files import write_whole

MOST_ROWS = 40
"""Moves shown as rows that can be changed; longer scenarios are trimmed, or changed as CSV."""
AROUND_LABELS = {
    "link": "Link", "power": "Receiver's power", "link_quality": "Link quality", "flight_battery": "Flight battery",
}  # fmt: skip
SWITCHED = {"link": ("lost", "up"), "power": ("off", "on"), "flight_battery": ("out", "in")}
"""What is there or not: in words, not there first."""


class ScenarioCard(QFrame):
    """Read in one breath; opened, its moves and expectations can be changed."""

    def __init__(self, workbench: Workbench, index: int) -> None:
        super().__init__()
        self.workbench, self.index = workbench, index
        self.title = TextField(f"Name of scenario {index + 1}", 60)
        self.title.editingFinished.connect(self._rename)
        self.says, self.broken = label(""), label("", "complaint")
        self.play, self.change = QPushButton("Play"), QPushButton("Change")
        self.save, self.gone = QPushButton("Save moves…"), QPushButton("Remove")
        for button in (self.play, self.change, self.save, self.gone):
            button.setObjectName("plain")
        self.play.clicked.connect(self._play)
        self.change.clicked.connect(lambda: self.open(self._more.isHidden()))
        self.save.clicked.connect(self._save)
        self.gone.clicked.connect(self._remove)
        self._more = QWidget()
        self._more.hide()
        self._shown: object = None
        self.numbers: list[NumberField] = []
        inner = QVBoxLayout(self._more)
        inner.setContentsMargins(0, 0, 0, 0)
        self._moves, self._expected = QVBoxLayout(), QVBoxLayout()
        self.length = self._number(
            "Lasts", lambda: self.item.length_s, self._put_length, "s", (0.1, LONGEST_S)
        )
        self.add_move, self.add_expected = (
            QPushButton("One move more"),
            QPushButton("Expect one thing more"),
        )
        self.add_move.clicked.connect(self._add_move)
        self.add_expected.clicked.connect(self._add_expected)
        self._from, self._to = 0.0, 0.0
        self.trim_from = self._number(
            "Trim from", lambda: self._from, self._set_from, "s", (0, LONGEST_S)
        )
        self.trim_to = self._number("Trim to", lambda: self._to, self._set_to, "s", (0, LONGEST_S))
        self.trim = QPushButton("Trim")
        self.trim.clicked.connect(self._trim)
        inner.addWidget(label("What is expected", "section"))
        inner.addLayout(self._expected)
        inner.addLayout(row(self.add_expected, None))
        inner.addWidget(label("Moves", "section"))
        inner.addLayout(self._moves)
        inner.addLayout(row(self.add_move, None))
        inner.addLayout(row("Lasts", self.length, None))
        inner.addLayout(row("Only from", self.trim_from, "to", self.trim_to, self.trim, None))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(
            card(
                self.title,
                flowing(self.play, self.change, self.save, self.gone),
                self.says,
                self.broken,
                self._more,
            )
        )

    @property
    def item(self) -> Scenario:
        """The scenario as it is now."""
        return at_place(self.workbench.loaded.scenarios, self.index)

    @property
    def outcome(self) -> ScenarioOutcome | None:
        """What came of it, as soon as that is known."""
        runner = self.workbench.companions.scenarios
        found = runner.outcomes
        return found[self.index] if found is not None and self.index < len(found) else None

    # -- showing ---------------------------------------------------------------------------------

    @while_there
    def open(self, wide: bool = True) -> None:
        """Show what can be changed, or put it away."""
        self._more.setVisible(wide)
        self.change.setText("Done" if wide else "Change")
        if wide:
            self._to = self.item.length_s
            self._make()

    def refresh(self) -> None:
        """Show it as it is now."""
        item, outcome = self.item, self.outcome
        if not self.title.isModified():
            self.title.setText(item.label)
        for button in (self.play, self.change, self.save, self.gone):
            button.setAccessibleDescription(item.label)
        count = len(item.expectations)
        lasts = f"{plain(item.length_s)} s, {len(item.moves)} moves"
        if not count:
            state = "nothing is expected of it yet"
        elif outcome is None:
            state = "is being played"
        else:
            met = count - len(outcome.broken)
            state = (
                f"✓ as expected ({count})" if outcome.good else f"✗ {met} of {count} as expected"
            )
        self.says.setText(f"{lasts}; {state}")
        said = "\n".join(x.text for x in outcome.broken) if outcome is not None else ""
        self.broken.setText(said)
        self.broken.setVisible(bool(said))
        if not self._more.isHidden():
            self._make()

    def _make(self) -> None:
        item, model = self.item, self.workbench.loaded
        shape = (
            tuple(m.control for m in item.moves[:MOST_ROWS]),
            len(item.moves),
            model.transmitter,
            tuple((x.kind, x.what) for x in item.expectations),
        )
        if shape != self._shown:
            self._shown = shape
            clear(self._moves)
            clear(self._expected)
            self.numbers = self.numbers[:3]
            for i, move in enumerate(item.moves[:MOST_ROWS]):
                self._moves.addWidget(self._move_row(i, move))
            if len(item.moves) > MOST_ROWS:
                said = f"{len(item.moves) - MOST_ROWS} more moves. Trim it to change them here, or save them as CSV."
                self._moves.addWidget(label(said, "faint"))
            for i, x in enumerate(item.expectations):
                self._expected.addWidget(self._expected_row(i, x))
        for field in self.numbers:
            field.refresh()

    def _number(
        self,
        name: str,
        get: Callable[[], float],
        put: Callable[[float], None],
        unit: str,
        bounds: tuple[float, float],
        width: int = 62,
    ) -> NumberField:
        made = NumberField(
            name, get, put, unit, bounds, step=0.1 if unit == "s" else 1.0, digits=2, width=width
        )
        self.numbers.append(made)
        return made

    # -- moves -----------------------------------------------------------------------------------

    def _move_row(self, i: int, move: Move) -> QWidget:
        model = self.workbench.loaded
        name = f"Move {i + 1}"
        when = self._number(
            f"{name}: when",
            lambda: self._move(i).t_s,
            lambda v: self._put_move(i, t_s=v),
            "s",
            (0, LONGEST_S),
        )
        which = _compact(13)
        which.setAccessibleName(f"{name}: what")
        for each in (*resting(model), *AROUND):
            which.addItem(_control_label(model, each), each)
        which.setCurrentIndex(which.findData(move.control))
        which.activated.connect(lambda k: self._put_move(i, control=which.itemData(k), to=0.0))
        gone = self._drop(
            name, lambda: self._set(moves=tuple(m for k, m in enumerate(self.item.moves) if k != i))
        )
        control = model.transmitter.control(move.control)
        if control is not None and control.is_switch:
            to: QWidget = self._words(f"{name}: to", control.positions, i, move)
        elif move.control in SWITCHED:
            to = self._words(f"{name}: to", SWITCHED[move.control], i, move)
        else:
            try:
                low, high, _ = allowed(model, move.control)
            except HypsosError:
                low, high = -100.0, 100.0
            to = self._number(
                f"{name}: to",
                lambda: self._move(i).to,
                lambda v: self._put_move(i, to=v),
                "%",
                (low, high),
            )
        return flowing(label("at", wrap=False), when, which, label("to", wrap=False), to, gone)

    def _words(self, name: str, words: tuple[str, ...], i: int, move: Move) -> ChoiceBox:
        made = _compact(8)
        made.setAccessibleName(name)
        made.addItems(words)
        made.setCurrentIndex(int(move.to))
        made.activated.connect(lambda k: self._put_move(i, to=float(k)))
        return made

    def _move(self, i: int) -> Move:
        return self.item.moves[i]

    def _put_move(self, i: int, **fields: object) -> None:
        moves = list(self.item.moves)
        moves[i] = moves[i].changed(fields)
        self._set(moves=tuple(sorted(moves, key=lambda m: m.t_s)))

    def _add_move(self) -> None:
        last = (
            self.item.moves[-1]
            if self.item.moves
            else Move(t_s=0.0, control="throttle_stick", to=-100.0)
        )
        again = last.changed(
            {"t_s": min(self.item.length_s, last.t_s + 1.0) if self.item.moves else 0.0}
        )
        self._set(moves=(*self.item.moves, again))

    # -- expectations ----------------------------------------------------------------------------

    def _expected_row(self, i: int, x: Expectation) -> QFrame:
        model = self.workbench.loaded
        name = f"Expectation {i + 1}"
        kind = _compact(16)
        kind.setAccessibleName(f"{name}: what it is about")
        for key, words in can_expect(model):
            kind.addItem(words, key)
        kind.setCurrentIndex(kind.findData(x.kind))
        kind.activated.connect(
            lambda k: self._put_expected(i, first_expectation(model, kind.itemData(k), x))
        )
        what = _compact(16)
        what.setAccessibleName(f"{name}: which")
        for key, words in conditions_to_expect(model, x.kind):
            what.addItem(words, key)
        # what is expected of a part that another airframe has not
        what.setPlaceholderText("not there any more")
        what.setCurrentIndex(
            what.findData(x.what.lstrip("!") if x.kind in CONDITION_KINDS else x.what)
        )
        parts: list[QWidget | str | None] = [kind, what]
        if x.kind in CONDITION_KINDS:
            is_ = _compact(8)
            is_.setAccessibleName(f"{name}: whether it is so")
            is_.addItems(("is so", "is not so"))
            is_.setCurrentIndex(1 if x.what.startswith("!") else 0)

            def mark() -> str:
                return "!" if is_.currentIndex() else ""

            is_.activated.connect(
                lambda _: self._change_expected(
                    i, what=mark() + (what.currentData() or x.what.lstrip("!"))
                )
            )
            what.activated.connect(
                lambda k: self._change_expected(i, what=mark() + what.itemData(k))
            )
            parts.append(is_)
        else:
            what.activated.connect(lambda k: self._change_expected(i, what=what.itemData(k)))
        times: list[QWidget | str | None] = [
            "from",
            self._time(i, "from_s", name),
            "to",
            self._time(i, "to_s", name),
        ]
        if x.kind == "stands" and what.currentIndex() >= 0:
            times += [self._share(i, "low", name), "to", self._share(i, "high", name)]
        times.append(self._drop(name, lambda: self._set(expectations=self._without(i))))
        frame = QFrame()
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 0, 0, 6)
        column.addWidget(flowing(*(w for w in parts if isinstance(w, QWidget))))
        column.addWidget(
            flowing(
                *(label(w, wrap=False) if isinstance(w, str) else w for w in times if w is not None)
            )
        )
        frame.setToolTip(expectation_words(model, x))
        return frame

    def _time(self, i: int, field: str, name: str) -> NumberField:
        def get() -> float:
            return float(getattr(self.item.expectations[i], field))

        def put(value: float) -> None:
            x = self.item.expectations[i]
            both = (
                {"from_s": value, "to_s": max(value, x.to_s)}
                if field == "from_s"
                else {"to_s": value}
            )
            self._change_expected(i, **both)

        return self._number(
            f"{name}: {'from' if field == 'from_s' else 'to'}", get, put, "s", (0, LONGEST_S)
        )

    def _share(self, i: int, field: str, name: str) -> NumberField:
        def get() -> float:
            return float(getattr(self.item.expectations[i], field))

        part = part_named(self.workbench.loaded, self.item.expectations[i].what)
        made = NumberField(
            f"{name}: {field}",
            get,
            lambda v: self._change_expected(i, **{field: v}),
            "%",
            (-150, 150),
            width=92,
            words=sense_words(part),
        )
        self.numbers.append(made)
        return made

    def _without(self, i: int) -> tuple[Expectation, ...]:
        return tuple(x for k, x in enumerate(self.item.expectations) if k != i)

    def _change_expected(self, i: int, **fields: object) -> None:
        self._put_expected(i, self.item.expectations[i].changed(fields))

    def _put_expected(self, i: int, made: Expectation) -> None:
        self._set(
            expectations=tuple(made if k == i else x for k, x in enumerate(self.item.expectations))
        )

    def _add_expected(self) -> None:
        model = self.workbench.loaded
        kind = can_expect(model)[0][0]
        new = first_expectation(
            model, kind, Expectation(kind="holds", what="link", from_s=0, to_s=self.item.length_s)
        )
        self._set(expectations=(*self.item.expectations, new))

    # -- the whole -------------------------------------------------------------------------------

    def _drop(self, name: str, act: Callable[[], None]) -> QPushButton:
        gone = QPushButton("Remove")
        gone.setObjectName("plain")
        gone.setAccessibleName(f"Remove {name[:1].lower()}{name[1:]}")
        gone.clicked.connect(lambda: act())
        return gone

    @while_there
    def _set(self, **fields: object) -> None:
        self._put(self.item.changed(fields), f"scenario {self.item.label}")

    def _put(self, made: Scenario, said: str) -> None:
        bench = self.workbench
        scenarios = tuple(
            made if k == self.index else x for k, x in enumerate(bench.loaded.scenarios)
        )
        bench.document.apply(bench.loaded.changed({"scenarios": scenarios}), said)

    @while_there
    def _rename(self) -> None:
        text = self.title.text().strip()
        if text and text != self.item.label:
            self.workbench.notices.attempt(
                lambda: self._put(self.item.changed({"label": text}), f"scenario called {text}")
            )
        self.title.setText(self.item.label)

    @while_there
    def _put_length(self, value: float) -> None:
        self._set(length_s=value)

    def _set_from(self, value: float) -> None:
        self._from = value

    def _set_to(self, value: float) -> None:
        self._to = value

    @while_there
    def _trim(self) -> None:
        def cut() -> None:
            made = trimmed(self.workbench.loaded, self.item, self._from, self._to)
            self._from, self._to = 0.0, made.length_s
            self._put(made, f"scenario {made.label} trimmed")

        self.workbench.notices.attempt(cut)

    @while_there
    def _play(self) -> None:
        bench = self.workbench
        bench.notices.attempt(
            lambda: bench.simulation.play(situation_of(bench.loaded, self.item, bench.state.plan))
        )

    @while_there
    def _save(self) -> None:
        path = ask_where(self, "Save the moves", self.item.label, {".csv": "Moves"})
        if path is not None:
            self.workbench.notices.attempt(
                lambda: write_whole(path, scenario_csv(self.item)), placed=True
            )

    @while_there
    def _remove(self) -> None:
        bench = self.workbench
        rest = tuple(x for k, x in enumerate(bench.loaded.scenarios) if k != self.index)
        said = f"scenario {self.item.label} removed"
        bench.notices.attempt(
            lambda: bench.document.apply(bench.loaded.changed({"scenarios": rest}), said)
        )


def _compact(letters: int) -> ChoiceBox:
    """A choice as wide as so many letters, however long its words are; its list shows them
    whole."""
    made = ChoiceBox()
    made.setSizeAdjustPolicy(ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    made.setMinimumContentsLength(letters)
    return made


def _control_label(model: Model, name: str) -> str:
    if name in AROUND_LABELS:
        return AROUND_LABELS[name]
    said = control_label(model, name)
    return f"{said[:1].upper()}{said[1:]}"
