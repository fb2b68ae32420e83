# SPDX-License-Identifier: GPL-3.0-or-later
"""A condition as a sentence whose words are chosen in it; beside each line whether it holds now."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import DocumentError, HypsosError
from hypsos.core.base.figure_words import number
from hypsos.core.conditions.compare import level_words
from hypsos.core.document.document import Model
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.edits.condition_sentence import Menu, Number, SentenceLine, Word, sentence
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.act_menu import Act, ActMenu, open_menu
from hypsos.desk.widgets.flow_layout import Flow
from hypsos.desk.widgets.focus_order import focus_kept
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import clear, label, worded


class WordButton(QPushButton):
    """A word that can be changed: Enter, Space or a click shows the others, by kinds."""

    def __init__(self, word: Menu) -> None:
        super().__init__(worded(word.text))
        self.setObjectName("word")
        self.setAccessibleName(f"{word.about}: {word.text}")
        self.word = word
        self.picked = word.choices[0].key if word.choices else ""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (
            Qt.Key.Key_Return,
            Qt.Key.Key_Enter,
            Qt.Key.Key_Down,
        ):
            self.click()
        else:
            super().keyPressEvent(event)


class SentenceEditor(QWidget):
    """The sentence of a condition at a place of the document, and a change of it as one named
    step."""

    changed = pyqtSignal()

    def __init__(self, workbench: Workbench, place: ConditionPlace, about: str) -> None:
        super().__init__()
        self.workbench, self.place, self.about = workbench, place, about
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(4)
        self.lines: tuple[SentenceLine, ...] = ()
        self.words: list[WordButton] = []
        self.numbers: list[NumberField] = []
        self._truths: list[tuple[SentenceLine, QWidget]] = []
        self._nows: list[tuple[str, QWidget]] = []
        self.menu: ActMenu | None = None
        """The menu of the word that was clicked last."""
        self._complaint = label("", "complaint")
        self._complaint.hide()
        self._column.addWidget(self._complaint)
        workbench.simulation.live_changed.connect(self._tell)
        self.refresh()

    def refresh(self) -> None:
        """Show the sentence as it is now."""
        model = self.workbench.model
        if model is None:
            return
        try:
            lines = sentence(model, self.place)
        except DocumentError:  # another model is on the bench, and the page will say so in a moment
            return
        same = [_shape(x) for x in lines] == [_shape(x) for x in self.lines]
        self.lines = lines
        if same:
            self._hand_words_on()
        else:
            with focus_kept(self):
                self._make()
        self._tell()

    def _hand_words_on(self) -> None:
        """The words are the same; what they would change is the model as it is now."""
        menus = iter(w for line in self.lines for w in line.words if isinstance(w, Menu))
        for button in self.words:
            button.word = next(menus)
        for field in self.numbers:
            field.refresh()

    def _make(self) -> None:
        while self._column.count() > 1:
            item = self._column.takeAt(0)
            if item is not None and (old := item.widget()) is not None:
                inner = old.layout()
                if inner is not None:
                    clear(inner)
                old.hide()
                old.deleteLater()
        self.words, self.numbers, self._truths, self._nows = [], [], [], []
        for k, line in enumerate(self.lines):
            holder = QWidget()
            flow = Flow(look.px(6), look.px(18) * line.indent, look.px(19) if line.text else 0)
            holder.setLayout(flow)
            if line.text:
                truth = label("", "truth", wrap=False)
                flow.addWidget(truth)
                self._truths.append((line, truth))
            for word in line.words:
                for made in self._widgets(k, word):
                    flow.addWidget(made)
            self._column.insertWidget(k, holder)

    def _widgets(self, line: int, word: Word) -> list[QWidget]:
        if isinstance(word, Menu):
            button = WordButton(word)
            button.clicked.connect(lambda: self._choose(button))
            self.words.append(button)
            return [button]
        if not isinstance(word, Number):
            return [label(word.text, wrap=False)] if word.text else []
        index = len(self.numbers)
        unit = word.unit if word.unit != "steps" else ""
        field = NumberField(
            f"{self.about}: {word.about}",
            lambda: self._number(index).value,
            lambda value: self._put(index, value),
            unit=unit,
            bounds=(word.low, word.high),
            step=0.1 if word.unit == "s" else 1.0,
            digits=2 if word.unit == "s" else 1,
            width=78 if word.sides else 58,
            words=word.sides,
        )
        self.numbers.append(field)
        if not word.signal:
            return [field]
        now = label("", "faint", wrap=False)
        self._nows.append((word.signal, now))
        return [field, now]

    def _number(self, index: int) -> Number:
        return [w for line in self.lines for w in line.words if isinstance(w, Number)][index]

    def _put(self, index: int, value: float) -> None:
        word = self._number(index)
        self._apply(
            word.put(value),
            f"{self.about}: {word.about} {number(value, 1)}",
            merge=f"{self.place} {index}",
        )

    # -- choosing --------------------------------------------------------------------------------

    def _choose(self, button: WordButton) -> None:
        self.menu = open_menu(button.accessibleName(), self.acts(button), button)

    def acts(self, button: WordButton) -> list[Act]:
        """The other words for a word, those of a kind together."""
        return [
            Act(
                choice.label,
                partial(self.choose, button, choice.key),
                choice.group,
                chosen=choice.label == button.word.text,
            )
            for choice in button.word.choices
        ]

    def choose(self, button: WordButton, key: str) -> None:
        """Put another word in the place of one."""
        word = button.word
        said = next(c.label for c in word.choices if c.key == key)
        place = self.words.index(button)
        try:
            self._apply(word.put(key), f"{self.about}: {said}")
            self._complaint.hide()
            if (
                self.isVisible() and self.words
            ):  # the word that stands there now goes on with the keyboard
                self.words[min(place, len(self.words) - 1)].setFocus()
        except HypsosError as error:
            self._complaint.setText(error.plain)
            self._complaint.show()

    def _apply(self, model: Model, said: str, merge: str = "") -> None:
        self.workbench.document.apply(model, said, merge)
        self.refresh()
        self.changed.emit()

    # -- now -------------------------------------------------------------------------------------

    def _tell(self) -> None:
        """Beside each line whether it holds now, with the reason in its tip; beside a number what
        it is compared with."""
        if not self.isVisible():
            return
        moment = self.workbench.state.settled_moment
        if moment is None:
            return
        for line, truth in self._truths:
            holds = moment.holds(line.text)
            words = "✓" if holds else "–"
            if truth.property("said") != words:
                truth.setProperty("said", words)
                truth.setText(words)  # type: ignore[attr-defined]
                truth.setAccessibleName("holds now" if holds else "does not hold now")
            why = moment.because(line.text)
            truth.setToolTip(
                f"{'It holds' if holds else 'It does not hold'}: {why}." if why else ""
            )
        for name, shown in self._nows:
            shown.setText(f"now {level_words(name, round(moment.signal(name)))}")  # type: ignore[attr-defined]

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.updateGeometry()


def _shape(line: SentenceLine) -> tuple[object, ...]:
    """What a line looks like, but for its numbers."""
    words = tuple((w.about, w.signal) if isinstance(w, Number) else w.text for w in line.words)
    return (line.indent, words, line.text)
