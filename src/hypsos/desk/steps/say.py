"""Say when: the conditions of the model that have a name, each as a sentence, with its truth now, its reason and its users."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.model.choosing import Place, with_named, without_named
from hypsos.core.model.condition_doubts import condition_doubts
from hypsos.core.model.paths import with_at
from hypsos.core.model.phrases import UNNAMED, condition_path, named, node_named, node_phrase
from hypsos.core.model.uses import condition_users
from hypsos.desk.steps.base import StepPage
from hypsos.desk.widgets.fields import TextField
from hypsos.desk.widgets.layout import card, clear, hint, label, row
from hypsos.desk.widgets.sentence import SentenceEditor, moment_of
from hypsos.desk.workbench import Workbench


class ConditionCard(QFrame):
    """A named condition: read in one breath, and its sentence when it is to be changed."""

    def __init__(self, workbench: Workbench, name: str) -> None:
        super().__init__()
        self.workbench, self.name = workbench, name
        self.title = TextField(f"Name of the condition {name.replace('_', ' ')}", 60)
        self.title.editingFinished.connect(self._rename)
        self.editor: SentenceEditor | None = None
        self.phrase, self.why, self.users = label(""), label("", "faint"), label("", "faint")
        self.doubts = label("", "complaint")
        self.change, remove = QPushButton("Change words"), QPushButton("Remove")
        for button in (self.change, remove):
            button.setObjectName("plain")
            button.setAccessibleDescription(self.label)
        self.change.clicked.connect(self._change)
        remove.clicked.connect(self.remove)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self._inner = QVBoxLayout()
        column.addWidget(
            card(row(self.title, self.change, remove), self.phrase, self._inner, self.doubts, self.why, self.users)
        )
        workbench.live_changed.connect(self._tell)
        self.refresh()

    @property
    def label(self) -> str:
        """What people call it."""
        node = node_named(self.workbench.loaded, self.name)
        return node.label if node is not None else self.name

    def refresh(self) -> None:
        """Show it as it is now."""
        model = self.workbench.loaded
        node = node_named(model, self.name)
        if node is None:
            return
        if not self.title.isModified():
            self.title.setText(node.label)
        said = node_phrase(model, node)
        self.phrase.setText(f"{said[:1].upper()}{said[1:]}.")
        if self.editor is not None:
            self.editor.about = node.label
            self.editor.refresh()
        doubts = "\n".join(dict.fromkeys(condition_doubts(model, self.name)))
        self.doubts.setText(doubts)
        self.doubts.setVisible(bool(doubts))
        users = condition_users(model, self.name)
        self.users.setText(f"Asked by {'; '.join(users)}." if users else "Nothing asks it yet.")
        self._tell()

    def open_sentence(self) -> SentenceEditor:
        """Show the sentence with its words to choose, in the place of the reading."""
        if self.editor is None:
            self.editor = SentenceEditor(self.workbench, Place(name=self.name), self.label)
            self._inner.addWidget(self.editor)
        self.editor.show()
        self.phrase.hide()
        self.change.setText("Done")
        return self.editor

    def _change(self) -> None:
        if self.editor is not None and self.editor.isVisible():
            self.editor.hide()
            self.phrase.show()
            self.change.setText("Change words")
            return
        words = self.open_sentence().words
        if words:
            words[0].setFocus()

    def _tell(self) -> None:
        moment = moment_of(self.workbench)
        if moment is None or not self.isVisible() or node_named(moment.model, self.name) is None:
            return
        holds, why = moment.holds(self.name), moment.because(self.name)
        said = "✓ Holds now" if holds else "– Does not hold now"
        text = f"{said}: {why}." if why else f"{said}."
        if self.why.text() != text:
            self.why.setText(text)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._tell()

    def _rename(self) -> None:
        text = self.title.text().strip()
        if text == UNNAMED:
            self.workbench.noticed.emit(f"{UNNAMED} is what conditions without a name are called. Choose another name.")
        elif text and text != self.label:
            path = f"{condition_path(self.workbench.loaded, self.name)}.label"
            bench = self.workbench
            bench.attempt(lambda: bench.apply(with_at(bench.loaded, path, text), f"condition called {text}"))
        self.title.setText(self.label)

    def remove(self) -> None:
        """Take it out of the model, where nobody asks it."""
        bench = self.workbench
        users = condition_users(bench.loaded, self.name)
        if users:
            said = f"{self.label} stays: {'; '.join(users)} would have nothing to go by. Choose something else there first."
            bench.noticed.emit(said)
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
            made_card = self._card(name)
            made_card.open_sentence()
            made_card.title.setFocus()
            made_card.title.selectAll()

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
