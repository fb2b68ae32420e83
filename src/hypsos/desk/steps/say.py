"""Say when: the conditions of the model that have a name, each as a sentence, with its truth now, its reason and its users."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.model.choosing import Place, with_named, without_named
from hypsos.core.model.paths import with_at
from hypsos.core.model.phrases import condition_path, named, node_named
from hypsos.core.model.uses import condition_users
from hypsos.desk.steps.base import StepPage
from hypsos.desk.widgets.fields import TextField
from hypsos.desk.widgets.layout import card, clear, hint, label, row
from hypsos.desk.widgets.sentence import SentenceEditor
from hypsos.desk.workbench import Workbench


class ConditionCard(QFrame):
    """A named condition."""

    def __init__(self, workbench: Workbench, name: str) -> None:
        super().__init__()
        self.workbench, self.name = workbench, name
        self.title = TextField(f"Name of the condition {name.replace('_', ' ')}", 60)
        self.title.editingFinished.connect(self._rename)
        self.editor = SentenceEditor(workbench, Place(name=name), self.label)
        self.why, self.users = label("", "faint"), label("", "faint")
        self.remove = QPushButton("Remove")
        self.remove.setObjectName("plain")
        self.remove.clicked.connect(self._remove)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card(row(self.title, self.remove), self.editor, self.why, self.users))
        workbench.live_changed.connect(self._tell)
        self.refresh()

    @property
    def label(self) -> str:
        """What people call it."""
        node = node_named(self.workbench.loaded, self.name)
        return node.label if node is not None else self.name

    def refresh(self) -> None:
        """Show it as it is now."""
        if not self.title.isModified():
            self.title.setText(self.label)
        self.editor.about = self.label
        self.editor.refresh()
        users = condition_users(self.workbench.loaded, self.name)
        self.users.setText(f"Asked by {'; '.join(users)}." if users else "Nothing asks it yet.")
        self._tell()

    def _tell(self) -> None:
        moment = self.editor.moment()
        if moment is None or not self.isVisible() or node_named(self.workbench.loaded, self.name) is None:
            return
        holds, why = moment.holds(self.name), moment.because(self.name)
        said = "Holds now" if holds else "Does not hold now"
        text = f"{said}: {why}." if why else f"{said}."
        if self.why.text() != text:
            self.why.setText(text)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._tell()

    def _rename(self) -> None:
        text = self.title.text().strip()
        if text and text != self.label:
            path = f"{condition_path(self.workbench.loaded, self.name)}.label"
            bench = self.workbench
            bench.attempt(lambda: bench.apply(with_at(bench.loaded, path, text), f"condition called {text}"))
        self.title.setText(self.label)

    def _remove(self) -> None:
        bench = self.workbench
        users = condition_users(bench.loaded, self.name)
        if users:
            bench.noticed.emit(
                f"{self.label} stays: {'; '.join(users)} would have nothing to go by. Choose something else there first."
            )
            return
        bench.attempt(lambda: bench.apply(without_named(bench.loaded, self.name), f"condition {self.label} removed"))


class SayPage(StepPage):
    """All named conditions, and the way to another one."""

    key = "say"
    lead_in = (
        "A condition is a sentence: choose its words. Give a name to what several things go by; what only one thing asks is "
        "said there, and needs no name."
    )

    def build(self) -> None:
        self.cards: list[ConditionCard] = []
        self._holder = QVBoxLayout()
        self._holder.setSpacing(10)
        self.none = hint("No condition has a name yet. The first could be: brakes out, or throttle stick low.")
        self.column.addWidget(self.none)
        self.column.addLayout(self._holder)
        self.new = QPushButton("New condition")
        self.new.setObjectName("lead")
        self.new.clicked.connect(self._add)
        self.column.addWidget(self.new, 0, Qt.AlignmentFlag.AlignLeft)

    def refresh(self) -> None:
        names = [x.name for x in named(self.workbench.loaded)]
        if [c.name for c in self.cards] != names:
            clear(self._holder)
            self.cards = [ConditionCard(self.workbench, n) for n in names]
            for made in self.cards:
                self._holder.addWidget(made)
        for made in self.cards:
            made.refresh()
        self.none.setVisible(not names)

    def _add(self) -> None:
        bench = self.workbench
        taken = {x.label for x in named(bench.loaded)}
        title = next(t for k in range(1, 1000) if (t := "Condition" if k == 1 else f"Condition {k}") not in taken)
        made, name = with_named(bench.loaded, title)
        if bench.attempt(lambda: bench.apply(made, "new condition")):
            self._card(name).title.setFocus()
            self._card(name).title.selectAll()

    def _card(self, name: str) -> ConditionCard:
        return next(c for c in self.cards if c.name == name)

    def show_place(self, path: str) -> None:
        index = int(path.split("[")[1].split("]")[0]) if path.startswith("program.logic[") else -1
        logic = self.workbench.loaded.program.logic
        name = logic[index].name if 0 <= index < len(logic) else ""
        found = next((c for c in self.cards if c.name == name), None)
        place: QWidget = found.title if found is not None else self.new
        place.setFocus()
        self.ensureWidgetVisible(place)
