# SPDX-License-Identifier: GPL-3.0-or-later
"""A flight mode in a line: its name, its fade, its place among the others, and a handle to drag it
onto the grid."""

from __future__ import annotations

from PyQt6.QtCore import QMimeData, QPoint, Qt
from PyQt6.QtGui import QDrag, QMouseEvent
from PyQt6.QtWidgets import QApplication, QFrame, QLabel, QPushButton, QVBoxLayout

from hypsos.core.base.figure_words import plain
from hypsos.core.base.lookup import the_one, the_place
from hypsos.core.edits.behaviours import free_label
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.edits.flight_modes import at_place, let_go, mode_users, with_mode, without_mode
from hypsos.core.explain.mode_ways import ways_to_modes
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import TextField
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import label, row
from hypsos.desk.widgets.vanished_rows import while_there
from hypsos.desk.widgets.when_line import WhenLine

DRAGGED = "application/x-hypsos-mode"


class Grip(QLabel):
    """By this a row is dragged."""

    def __init__(self, owner: ModeRow) -> None:
        super().__init__("⋮⋮")
        self.owner = owner
        self._from: QPoint | None = None
        self.setToolTip("Drag to change which mode goes before.")
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._from = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if (
            self._from is None
            or (event.position().toPoint() - self._from).manhattanLength()
            < QApplication.startDragDistance()
        ):
            return
        self._from = None
        drag, data = QDrag(self.owner), QMimeData()
        data.setData(DRAGGED, self.owner.name.encode())
        drag.setMimeData(data)
        drag.setPixmap(self.owner.grab())
        drag.exec()


class ModeRow(QFrame):
    """A flight mode: its name, its rule, its fade; flying it, copying it, removing it."""

    def __init__(self, workbench: Workbench, name: str) -> None:
        super().__init__()
        self.workbench, self.name = workbench, name
        self.setObjectName("card")
        words = self.mode().label
        self.title = TextField(f"Name of mode {words}", 60)
        self.title.editingFinished.connect(self._rename)
        self.number = label("", "faint", wrap=False)
        self.grip = Grip(self)
        self.fade = NumberField(
            f"{words}: transition time",
            lambda: self.mode().fade_s,
            self._put_fade,
            unit="s",
            bounds=(0, 60),
            step=0.1,
            width=58,
        )
        self.when: WhenLine | None = None
        if self.mode().when is not None:
            place = ConditionPlace(f"program.modes[{self._index()}].when")
            self.when = WhenLine(workbench, place, lambda: f"Mode {self.mode().label}", "flown")
        self.rule = label("Default mode: flown where no rule holds.", "faint")
        self.complaint = label("", "complaint")
        buttons = []
        for text, tip, action in (
            ("Fly it", "Bring the hands of the bench to where it is flown.", self.fly),
            ("Earlier", "Before the one above.", lambda: self._move(-1)), ("Later", "Behind the one below.", lambda: self._move(1)),
            ("Copy", "Another mode that begins as this one.", self.copy), ("Remove", "Take it away.", self.remove),
        ):  # fmt: skip
            button = QPushButton(text)
            button.setObjectName("plain")
            button.setToolTip(tip)
            button.setAccessibleName(f"{text}: {words}")
            button.clicked.connect(lambda _=False, act=action: act())
            buttons.append(button)
        self.buttons = dict(
            zip(("fly", "earlier", "later", "copy", "remove"), buttons, strict=True)
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 7, 10, 6)
        column.setSpacing(3)
        column.addLayout(row(self.grip, self.number, self.title, "transition time", self.fade))
        column.addWidget(self.when if self.when is not None else self.rule)
        column.addWidget(self.complaint)
        column.addWidget(flowing(*buttons, gap=0))

    def mode(self) -> FlightMode:
        """The mode as it is now."""
        return the_one(self.workbench.loaded.program.modes, lambda m: m.name == self.name)

    def _index(self) -> int:
        return the_place([m.name for m in self.workbench.loaded.program.modes], self.name)

    def refresh(self, unreached: bool = False) -> None:
        """Show it as it is now."""
        at, count = self._index(), len(self.workbench.loaded.program.modes)
        base = at == count - 1
        self.number.setText(f"{at + 1}.")
        if not self.title.isModified():
            self.title.setText(self.mode().label)
        self.fade.refresh()
        if self.when is not None:
            self.when.place = ConditionPlace(f"program.modes[{at}].when")
            self.when.refresh()
        self.grip.setEnabled(not base)
        self.buttons["earlier"].setEnabled(at > 0 and not base)
        self.buttons["later"].setEnabled(at < count - 2)
        self.buttons["remove"].setEnabled(not base or count == 1)
        self.complaint.setText(
            "It is never flown: modes before it hold wherever its rule does." if unreached else ""
        )
        self.complaint.setVisible(unreached)

    # -- edits -----------------------------------------------------------------------------------

    @while_there
    def _rename(self) -> None:
        text = self.title.text().strip()
        if not self.title.isModified() or text == self.mode().label:
            return
        path = f"program.modes[{self._index()}].label"
        if not self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(path, text, f"mode called {text}")
        ):
            self.title.setText(self.mode().label)

    def _put_fade(self, value: float) -> None:
        path = f"program.modes[{self._index()}].fade_s"
        self.workbench.document.edit(
            path,
            value,
            f"{self.mode().label}: transition time {plain(value)} s",
            merge=f"fade {self.name}",
        )

    @while_there
    def _move(self, by: int) -> None:
        bench, words = self.workbench, f"{self.mode().label} {'earlier' if by < 0 else 'later'}"
        bench.notices.attempt(
            lambda: bench.document.apply(
                at_place(bench.loaded, self.name, self._index() + by), words
            )
        )

    @while_there
    def fly(self) -> None:
        """Bring the hands to where this mode is flown."""
        bench = self.workbench
        hands = ways_to_modes(bench.loaded).get(self.name)
        if hands is None:
            bench.notices.noticed.emit(
                f"No position of the switches alone gives {self.mode().label}. Its rule says what else it takes."
            )
            return
        guard = bench.loaded.program.guard
        if guard is not None and int(hands.get(guard.switch, guard.cut[0])) not in guard.cut:
            words = f"{self.mode().label} is flown with the motor switch at run. Bring it there yourself, when you mean it."
            bench.notices.noticed.emit(words)
            return
        for name, value in hands.items():
            bench.simulation.set_control(name, value)

    @while_there
    def copy(self) -> None:
        """Another mode that begins as this one does."""
        bench, old = self.workbench, self.mode()
        name = free_label(old.label, (m.label for m in bench.loaded.program.modes))
        bench.notices.attempt(
            lambda: bench.document.apply(
                with_mode(bench.loaded, name, like=old.name), f"copy mode {old.label}"
            )
        )

    @while_there
    def remove(self) -> None:
        """Take the mode away, unless something asks for it."""
        bench, words = self.workbench, f"without mode {self.mode().label}"
        users = self.users()
        if (
            bench.notices.attempt(
                lambda: bench.document.apply(without_mode(bench.loaded, self.name), words)
            )
            or not users
        ):
            return
        name, label = self.name, self.mode().label
        said = f"{label} is asked for by {', '.join(users)}."
        bench.notices.offered.emit(
            said,
            "Remove it, let that go by its rule",
            lambda: bench.notices.attempt(
                lambda: bench.document.apply(let_go(bench.loaded, name), words)
            ),
        )

    def users(self) -> tuple[str, ...]:
        """Who asks for the mode."""
        return mode_users(self.workbench.loaded, self.name)
