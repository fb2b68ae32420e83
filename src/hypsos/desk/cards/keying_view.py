# SPDX-License-Identifier: GPL-3.0-or-later
"""Keying in with the window beside the transmitter: one step at a time, large, with ticks; what
changed since; and what a figure that the transmitter shows would do."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6 import sip
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model
from hypsos.core.schools.keying import Keying
from hypsos.core.schools.on_paper.blocks import NEW_LINE
from hypsos.core.schools.proof import PulseDifference
from hypsos.core.schools.proof_words import difference_words
from hypsos.core.sheet import Sheet
from hypsos.core.sheet.keying_in import (
    WHOLE,
    KeyedStep,
    Standing,
    StepChange,
    kept_numbers,
    standing,
    steps_of,
)
from hypsos.core.sheet.read_back import ReadField, as_read, read_fields
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, clear, label, row

SAME = "No pulse is another in what was played: this figure does the same."
PERCENT = "Figures without a unit are percent."
FIGURE_BOUNDS = (-10_000.0, 100_000.0)
ARMING_S = 1.0
"""So long the stick rests low on the bench before its motor's switch goes to run."""
MOST_CHANGES = 40


class KeyingView(QWidget):
    """The step at hand, and how far one is."""

    kept_changed = pyqtSignal()
    """A tick was set or taken away."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.made: Keying | None = None
        self.steps: list[KeyedStep] = []
        self.kept: Mapping[str, str] = {}
        self.at = 0
        self.standing = Standing(frozenset(), (), ())
        self._shown = ""
        self.bar = QProgressBar()
        self.bar.setAccessibleName("Steps done")
        self.bar.setTextVisible(False)
        self.count = label("", wrap=False)
        self.title = label("", "section")
        self.lines = label("", "faint")
        self._care_words = label("")
        self.care = card(self._care_words, kind="caution", margin=9)
        self.cells = QGridLayout()
        self.cells.setHorizontalSpacing(14)
        self.cells.setVerticalSpacing(8)
        self.state = label("", "faint")
        self.done = QPushButton("Done, go on")
        self.done.setObjectName("lead")
        self.done.setToolTip("Space does the same.")
        self.back, self.on = QPushButton("Back"), QPushButton("On without a tick")
        self.untick = QPushButton("Take the tick away")
        self.open = QPushButton("To the first that is not done")
        self.done.clicked.connect(self.tick)
        self.back.clicked.connect(lambda: self.go(self.at - 1))
        self.on.clicked.connect(lambda: self.go(self.at + 1))
        self.untick.clicked.connect(self._untick)
        self.open.clicked.connect(self._to_open)
        self.read = ReadBackCard(workbench)
        self.changes = ChangesCard()
        self.changes.wanted.connect(self.show_step)
        self.changes.gone.connect(self._forget)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        step = card(
            self.title,
            self.care,
            self.cells,
            self.lines,
            self.state,
            flowing(self.done, self.back, self.on, self.untick),
        )
        for widget in (self.bar, flowing(self.count, self.open), self.changes, step, self.read):
            column.addWidget(widget)
        column.addStretch(1)

    # -- what there is ---------------------------------------------------------------------------

    def take(self, made: Keying | None, sheet: Sheet | None, kept: Mapping[str, str]) -> None:
        """Show the steps of a sheet, and which of them were keyed in."""
        here = self.steps[self.at].key if self.at < len(self.steps) else ""
        self.made, self.kept = made, kept
        self.steps = [] if sheet is None else steps_of(sheet)
        self.standing = standing(self.steps, kept)
        keys = [step.key for step in self.steps]
        self.at = keys.index(here) if here in keys else self._first_open()
        self.show_now()

    def _first_open(self) -> int:
        for place, step in enumerate(self.steps):
            if step.key not in self.standing.done:
                return place
        return 0

    def show_now(self) -> None:
        """Show the step at hand."""
        if not self.steps:
            return
        done, step = len(self.standing.done), self.steps[self.at]
        self.bar.setMaximum(len(self.steps))
        self.bar.setValue(done)
        self.count.setText(f"{done} of {len(self.steps)} done. Here is step {self.at + 1}.")
        self.title.setText(step.title)
        self.care.setVisible(bool(step.caution))
        self._care_words.setText(step.caution)
        self.lines.setText("\n".join([*step.lines, PERCENT]))
        self._show_cells(step)
        ticked = step.key in self.standing.done
        changed = next((x for x in self.standing.changed if x.key == step.key), None)
        self.state.setText(_state_words(ticked, changed))
        self.untick.setVisible(ticked)
        self.back.setEnabled(self.at > 0)
        self.on.setEnabled(self.at < len(self.steps) - 1)
        self.open.setEnabled(done < len(self.steps))
        self.changes.show_changes(self.standing.changed)
        if self.made is not None:
            self.read.take(self.made, step, self.kept)

    def _show_cells(self, step: KeyedStep) -> None:
        shown = f"{step.key}{step.said}"
        if shown == self._shown:
            return
        self._shown = shown
        clear(self.cells)
        for place, (head, cell) in enumerate(zip(step.columns, step.cells, strict=True)):
            if not cell:
                continue
            self.cells.addWidget(label(head, "faint"), place, 0)
            said = label(cell.replace(NEW_LINE, "\n"), "big")
            said.setAccessibleName(f"{head}: {cell}")
            self.cells.addWidget(said, place, 1)
        self.cells.setColumnStretch(1, 1)

    # -- going through ---------------------------------------------------------------------------

    def go(self, place: int) -> None:
        """Go to a step, and put the bench where it asks."""
        if not self.steps:
            return
        self.at = min(len(self.steps) - 1, max(0, place))
        self.show_now()
        self._move_bench(self.steps[self.at])

    def show_step(self, key: str) -> None:
        """Go to the step of that key."""
        keys = [step.key for step in self.steps]
        if key in keys:
            self.go(keys.index(key))

    def _to_open(self) -> None:
        self.go(self._first_open())

    def tick(self) -> None:
        """Remember that the step is keyed in as it stands here, and go on."""
        if not self.steps:
            return
        step = self.steps[self.at]
        if self._write(lambda hangar, held, on: hangar.key_step(held, on, step.key, step.said)):
            self._whole()
            if self.at < len(self.steps) - 1:
                self.go(self.at + 1)

    def _untick(self) -> None:
        key = self.steps[self.at].key
        self._write(lambda hangar, held, on: hangar.unkey_step(held, on, key))

    def _forget(self, key: str) -> None:
        """A step that is gone was taken out of the transmitter."""
        self._write(lambda hangar, held, on: hangar.unkey_step(held, on, key))

    def _whole(self) -> None:
        """Once every step is done, a new one is a change from then on."""
        if len(self.standing.done) == len(self.steps) and WHOLE not in self.kept:
            self._write(lambda hangar, held, on: hangar.key_step(held, on, WHOLE, "1"))

    def _write(self, act: object) -> bool:
        """Write to the hangar; what goes wrong is said in the window."""
        document, made = self.workbench.document, self.made
        if made is None:
            return False
        done = False

        def write() -> None:
            nonlocal done
            act(document.hangar, document.held, made.profile.name)  # type: ignore[operator]
            done = True

        self.workbench.notices.attempt(write)
        self.kept_changed.emit()
        return done

    def _move_bench(self, step: KeyedStep) -> None:
        """Put the hands of the bench where a step looks; a switch by the name of its position, for
        the transmitter may begin at its other end."""
        if not step.hands or self.made is None:
            return
        bench, there = self.workbench.simulation, self.made.reduced.model.transmitter
        here = self.workbench.loaded.transmitter
        wanted: dict[str, float] = {}
        for name, value in step.hands:
            mine, theirs = here.control(name), there.control(name)
            if mine is not None and theirs is not None and mine.is_switch:
                position = theirs.positions[int(value)]
                if position not in mine.positions:
                    continue
                value = float(mine.positions.index(position))
            wanted[name] = value
        guard = self.workbench.loaded.program.guard
        if guard is not None and step.key.startswith("checks/"):
            # a look begins with the motor armed: from cut to run with the stick low
            bench.set_control(guard.switch, float(guard.cut[0]))
            axis = self.workbench.loaded.program.axis("thrust")
            if axis is not None:
                bench.set_control(axis.control, -100.0)
            bench.advance(ARMING_S)
            if guard.switch in wanted:
                bench.set_control(guard.switch, wanted.pop(guard.switch))
        for name, value in wanted.items():
            bench.set_control(name, value)


def _state_words(ticked: bool, changed: StepChange | None) -> str:
    if ticked:
        return "Done."
    if changed is None:
        return ""
    if not changed.before:
        return "New since it was keyed in."
    return "Changed since it was keyed in. Then: " + " · ".join(
        x.replace(NEW_LINE, ", ") for x in changed.before if x
    )


class ChangesCard(QFrame):
    """What changed since it was keyed in, a line each."""

    wanted = pyqtSignal(str)
    gone = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.rows = QVBoxLayout()
        self.rows.setSpacing(6)
        self.title = label("What changed since it was keyed in", "section")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 12)
        column.addWidget(self.title)
        column.addLayout(self.rows)
        self._shown: tuple[StepChange, ...] = ()
        self.hide()

    def show_changes(self, changes: tuple[StepChange, ...]) -> None:
        """Show these."""
        self.setVisible(bool(changes))
        if changes == self._shown:
            return
        self._shown = changes
        clear(self.rows)
        for change in changes[:MOST_CHANGES]:
            there = change.step is not None
            button = QPushButton("Show" if there else "It is out")
            words = label(_change_words(change))
            button.setAccessibleName(f"{button.text()}: {words.text()}")
            act = self.wanted if there else self.gone
            button.clicked.connect(lambda _=False, k=change.key, a=act: a.emit(k))
            line = row(button)
            line.addWidget(words, 1)
            self.rows.addLayout(line)
        if len(changes) > MOST_CHANGES:
            self.rows.addWidget(label(f"and {len(changes) - MOST_CHANGES} more", "faint"))


def _change_words(change: StepChange) -> str:
    if change.step is None:
        return f"No more: {change.before[0]}. Take it out of the transmitter."
    step = change.step
    if not change.before:
        return f"New in {step.title}: {step.cells[0]}"
    told = []
    for head, before, now in zip(step.columns, change.before, step.cells, strict=False):
        if before != now:
            one, two = (x.replace(NEW_LINE, ", ") or "nothing" for x in (before, now))
            told.append(f"{head.lower()} {one} → {two}")
    return f"{step.title}, {step.cells[0].replace(NEW_LINE, ', ')}: {'; '.join(told)}"


class ReadBackCard(QFrame):
    """A figure as the transmitter shows it, and what it would do."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.setObjectName("card")
        self.workbench = workbench
        self.made: Keying | None = None
        self.fields: list[ReadField] = []
        self.value = 0.0
        self._step = ""
        self._called: Callable[[str], str] = str
        self._asked = 0
        self.which = ChoiceBox()
        self.which.setAccessibleName("Figure to read back")
        self.which.activated.connect(self._chosen)
        self.field = NumberField(
            "As the transmitter shows it",
            lambda: self.value,
            self._typed,
            unit="",
            bounds=FIGURE_BOUNDS,
        )
        self.ask = QPushButton("What would that do?")
        self.ask.clicked.connect(self.ask_now)
        self.says = label("")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 12)
        column.setSpacing(8)
        column.addWidget(label("Read back", "section"))
        column.addWidget(
            label("Type a figure as the transmitter shows it, to learn what it would do.", "faint")
        )
        column.addWidget(self.which)
        column.addWidget(flowing(self.field, self.ask))
        column.addWidget(self.says)

    def take(self, made: Keying, step: KeyedStep, kept: Mapping[str, str]) -> None:
        """Offer the figures of a step; ``kept``: what was keyed in."""
        key = f"{made.settings.design} {made.profile.name} {step.key}"
        if made is not self.made:
            pages = made.school.pages(made.reduced.model, made.settings, kept_numbers(kept))
            self._called = pages.called
        self.made = made
        if key == self._step:
            return
        self._step = key
        self.fields = read_fields(made.settings, step, self._called)
        self.setVisible(bool(self.fields))
        self.which.fill([(field.path, field.label) for field in self.fields])
        self._chosen()

    def _chosen(self) -> None:
        if self.fields:
            self.value = self.fields[max(0, self.which.currentIndex())].value
        self._asked += 1
        self.says.setText("")
        self.field.refresh()

    def _typed(self, value: float) -> None:
        self.value = value

    def ask_now(self) -> None:
        """Have the settings played with the figure as it was read."""
        made, place = self.made, self.which.currentIndex()
        if made is None or not 0 <= place < len(self.fields):
            return
        field = self.fields[place]
        try:
            other = as_read(made, field.path, self.value)
        except HypsosError as error:
            self.says.setText(error.plain)
            return
        if self.value == field.value:
            self.says.setText("That is what the sheet says.")
            return
        self._asked += 1
        number, model = self._asked, self.workbench.loaded
        instead = f"Playing it with {plain(self.value)} instead of {plain(field.value)}"
        self.says.setText(f"{instead} …")

        def then(found: PulseDifference | None, wrong: str) -> None:
            if sip.isdeleted(self) or number != self._asked:
                return
            self.says.setText(wrong or effect_words(made.reduced.model, found))

        def told(share: float) -> None:
            if not sip.isdeleted(self) and number == self._asked:
                self.says.setText(f"{instead}: {round(100 * share)} %")

        self.workbench.companions.keying.read_back(model, made.profile, other, then, told)


def effect_words(model: Model, found: PulseDifference | None) -> str:
    """What a figure would do, and where that would first be felt."""
    return SAME if found is None else difference_words(model, found)
