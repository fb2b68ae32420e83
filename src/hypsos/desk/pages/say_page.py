# SPDX-License-Identifier: GPL-3.0-or-later
"""Say when: named conditions as sentences with their truth now, its reason and their users; what is
said aloud, what is timed."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.lookup import first_free, first_numbered
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.references import condition_users
from hypsos.core.document.paths import with_at
from hypsos.core.edits.condition_choices import (
    ConditionPlace,
    default_text,
    free_name,
    with_named,
    without_named,
)
from hypsos.core.edits.condition_doubts import condition_doubts
from hypsos.core.edits.ready_announcements import ready_sets, with_ready_set
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.wording.describe_condition import condition_path, named, node_named, node_phrase
from hypsos.desk.cards.announcement_cards import AnnouncementCard, TimerCard, VoiceCard
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.fields import NameField
from hypsos.desk.widgets.flow_layout import Flow, flowing
from hypsos.desk.widgets.page_layout import card, clear, hint, label, row
from hypsos.desk.widgets.row_list import RowList, Serials
from hypsos.desk.widgets.scroll_page import place_kept
from hypsos.desk.widgets.sentence_editor import SentenceEditor
from hypsos.desk.widgets.vanished_rows import while_there


class ConditionCard(QFrame):
    """A named condition: read in one breath, and its sentence when it is to be changed."""

    def __init__(self, workbench: Workbench, name: str) -> None:
        super().__init__()
        self.workbench, self.name = workbench, name
        self.title = NameField(f"Name of the condition {name.replace('_', ' ')}", 60)
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
            card(
                flowing(self.title, self.change, remove),
                self.phrase,
                self._inner,
                self.doubts,
                self.why,
                self.users,
            )
        )
        workbench.simulation.live_changed.connect(self._tell)

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
        doubts = "\n".join(dict.fromkeys(x.text for x in condition_doubts(model, self.name)))
        self.doubts.setText(doubts)
        self.doubts.setVisible(bool(doubts))
        users = condition_users(model, self.name)
        self.users.setText(f"Asked by {'; '.join(users)}." if users else "Nothing asks it yet.")
        self._tell()

    def open_sentence(self) -> SentenceEditor:
        """Show the sentence with its words to choose, in the place of the reading."""
        if self.editor is None:
            self.editor = SentenceEditor(self.workbench, ConditionPlace(name=self.name), self.label)
            self._inner.addWidget(self.editor)
        with place_kept(self):
            self.editor.show()
            self.phrase.hide()
            self.change.setText("Done")
        return self.editor

    @while_there
    def _change(self) -> None:
        if self.editor is not None and self.editor.isVisible():
            with place_kept(self):
                self.editor.hide()
                self.phrase.show()
                self.change.setText("Change words")
            return
        words = self.open_sentence().words
        if words:
            words[0].setFocus()

    def _tell(self) -> None:
        moment = self.workbench.state.settled_moment
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

    @while_there
    def _rename(self) -> None:
        text = self.title.text().strip()
        if text == UNNAMED:
            self.workbench.notices.noticed.emit(
                f"{UNNAMED} is what conditions without a name are called. Choose another name."
            )
        elif text and text != self.label:
            path = f"{condition_path(self.workbench.loaded, self.name)}.label"
            bench = self.workbench
            bench.notices.attempt(
                lambda: bench.document.apply(
                    with_at(bench.loaded, path, text), f"condition called {text}"
                )
            )
        self.title.setText(self.label)

    @while_there
    def remove(self) -> None:
        """Take it out of the model, where nobody asks it."""
        bench = self.workbench
        users = condition_users(bench.loaded, self.name)
        if users:
            said = f"{self.label} stays: {'; '.join(users)} would have nothing to go by. Choose something else there first."
            bench.notices.noticed.emit(said)
            return
        bench.notices.attempt(
            lambda: bench.document.apply(
                without_named(bench.loaded, self.name), f"condition {self.label} removed"
            )
        )


class SayPage(StepPage):
    """All named conditions, what is said and what is timed, and the way to more of each."""

    key = "say"
    lead_in = (
        "A condition is a sentence: choose its words. Give a name to what several things go by; what only one thing asks is "
        "said there, and needs no name. Transmitters call a condition a logical switch."
    )

    def build(self) -> None:
        self.cards: list[ConditionCard] = []
        self.said: list[AnnouncementCard] = []
        self.timed: list[TimerCard] = []
        self._serials = Serials()
        self.none = hint(
            "No condition has a name yet. The first could be: brakes out, or throttle stick low."
        )
        self.sets = Flow(6)
        sets = QWidget()
        sets.setLayout(self.sets)
        self.new = QPushButton("New condition")
        self.new_caption, self.new_timer = QPushButton("New announcement"), QPushButton("New timer")
        self.hear = QCheckBox("Voice and tones (F6)")
        self.hear.clicked.connect(self._mute)
        self.ways: dict[str, QPushButton] = {}
        self._titles: dict[str, QWidget] = {}
        for title in ("Conditions", "Said aloud", "Timers"):
            way = self.ways[title] = QPushButton(title)
            way.setObjectName("plain")
            way.setAccessibleName(f"Go to {title.lower()}")
            way.clicked.connect(partial(self._show_section, title))
        self.column.addLayout(row(*self.ways.values(), None))
        self._holder = self._section("Conditions", self.none, last=self.new)
        self._said = self._section("Said aloud", self.hear, sets, last=self.new_caption)
        self._timed = self._section("Timers", last=self.new_timer)
        self.new.clicked.connect(self._add)
        self.new_caption.clicked.connect(self._add_caption)
        self.new_timer.clicked.connect(self._add_timer)

    def _section(self, title: str, *above: QWidget, last: QPushButton) -> RowList:
        holder = RowList(10)
        self._titles[title] = label(title, "section")
        self.column.addWidget(self._titles[title])
        for widget in above:
            self.column.addWidget(widget)
        self.column.addLayout(holder)
        self.column.addWidget(last, 0, Qt.AlignmentFlag.AlignLeft)
        return holder

    def _show_section(self, title: str, *_: object) -> None:
        self.area.settle()
        self.area.slide(self.area.y_of(self._titles[title]) - 8)

    def refresh(self) -> None:
        bench = self.workbench
        names = [x.name for x in named(bench.loaded)]
        conditions = self._holder.show_rows([(n, partial(ConditionCard, bench, n)) for n in names])
        self.cards = [c for c in conditions if isinstance(c, ConditionCard)]
        self._follow_voices()
        for made in self.cards:
            made.refresh()
        for voice in (*self.said, *self.timed):
            voice.refresh()
        self.none.setVisible(not names)
        self.hear.setChecked(not bench.companions.voice.muted)
        self._offer()

    def _follow_voices(self) -> None:
        """A card for each announcement and each timer; one that stays keeps what is open in it."""
        bench, program = self.workbench, self.workbench.loaded.program
        said = self._said.show_rows(
            [
                (serial, partial(AnnouncementCard, bench, i))
                for i, serial in enumerate(self._serials.of(program.announcements))
            ]
        )
        timed = self._timed.show_rows(
            [(x.name, partial(TimerCard, bench, i)) for i, x in enumerate(program.timers)]
        )
        self.said = [c for c in said if isinstance(c, AnnouncementCard)]
        self.timed = [c for c in timed if isinstance(c, TimerCard)]
        for cards in (self.said, self.timed):
            for index, made in enumerate(cards):
                made.stand_at(index)

    def _offer(self) -> None:
        """The sets that this model could have, each as a button."""
        offered = ready_sets(self.workbench.loaded)
        shown = [(x.key, x.there) for x in offered]
        if self.sets.property("shown") == shown:
            return
        self.sets.setProperty("shown", shown)
        clear(self.sets)
        for each in offered:
            button = QPushButton(("✓ " if each.there else "Add: ") + each.title)
            button.setEnabled(not each.there)
            button.setToolTip(each.about)
            button.setAccessibleDescription(each.about)
            button.clicked.connect(partial(self._add_set, each.key, each.title))
            self.sets.addWidget(button)

    def _add_set(self, key: str, title: str, *_: object) -> None:
        bench = self.workbench
        bench.notices.attempt(
            lambda: bench.document.apply(
                with_ready_set(bench.loaded, key), f"said: {title.lower()}"
            )
        )

    def _mute(self, heard: bool) -> None:
        self.workbench.companions.voice.mute(not heard)

    def _add(self) -> None:
        bench = self.workbench
        title = first_free("Condition", {x.label for x in named(bench.loaded)})
        made, name = with_named(bench.loaded, title)
        if bench.notices.attempt(lambda: bench.document.apply(made, "new condition")):
            made_card = self._card(name)
            made_card.open_sentence()
            self.bring(made_card, made_card.title)
            made_card.title.selectAll()

    def _add_caption(self) -> None:
        bench = self.workbench
        new = Announcement(caption="Say this", when=default_text(bench.loaded))
        self._add_to(
            "announcements", (*bench.loaded.program.announcements, new), "new announcement"
        )
        self._begin(self.said)

    def _add_timer(self) -> None:
        bench = self.workbench
        name = free_name(bench.loaded, "timer")
        labels = {x.label for x in bench.loaded.program.timers}
        title = first_numbered("Timer", labels)
        new = Timer(name=name, label=title, when=default_text(bench.loaded))
        self._add_to("timers", (*bench.loaded.program.timers, new), "new timer")
        self._begin(self.timed)

    def _add_to(self, field: str, value: object, said: str) -> None:
        bench = self.workbench
        bench.notices.attempt(
            lambda: bench.document.apply(with_at(bench.loaded, f"program.{field}", value), said)
        )

    def _begin(self, cards: Sequence[VoiceCard]) -> None:
        """What was just added is opened, its name ready to be typed."""
        if cards:
            cards[-1].open()
            self.bring(cards[-1], cards[-1].title)
            cards[-1].title.selectAll()

    def _card(self, name: str) -> ConditionCard:
        return next(c for c in self.cards if c.name == name)

    def show_place(self, path: str) -> None:
        place: QWidget = self.new
        index = int(path.split("[")[1].split("]")[0]) if "[" in path else -1
        voices: Sequence[VoiceCard] = self.timed if path.startswith("program.timers") else self.said
        if path.startswith("program.logic["):
            logic = self.workbench.loaded.program.logic
            name = logic[index].name if 0 <= index < len(logic) else ""
            found = next((c for c in self.cards if c.name == name), None)
            place = found.title if found is not None else self.new
        elif 0 <= index < len(voices):
            voices[index].open()
            place = voices[index].title
        self.bring(place, place)
