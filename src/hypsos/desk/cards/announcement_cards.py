# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said aloud, and what is timed: a card for each announcement and each timer."""

from __future__ import annotations

import re

from PyQt6.QtWidgets import QCheckBox, QFrame, QPushButton, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import at_place
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.announcement_words import (
    MOMENT_WORDS,
    RANK_WORDS,
    announcement_words,
    timer_words,
)
from hypsos.core.edits.condition_choices import ConditionPlace
from hypsos.core.engine.announcements import Spoken
from hypsos.core.parts.announcement_values import MOMENTS, RANKS, Announcement, Timer
from hypsos.core.wording.time_words import clock, timer_label
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox, NameField, TextField
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import card, label, row
from hypsos.desk.widgets.scroll_page import place_kept
from hypsos.desk.widgets.sentence_editor import SentenceEditor
from hypsos.desk.widgets.vanished_rows import while_there

COUNTS = ("up", "down")


class VoiceCard(QFrame):
    """An item of a list of the program: read in one breath, opened to be changed, removed."""

    kind, most = "", 60

    def __init__(self, workbench: Workbench, index: int) -> None:
        super().__init__()
        self.workbench, self.index = workbench, index
        self.title = NameField(f"{self.kind.capitalize()} {index + 1}", self.most)
        self.title.editingFinished.connect(self._rename)
        self.phrase = label("")
        self.change, self.gone = QPushButton("Change words"), QPushButton("Remove")
        for button in (self.change, self.gone):
            button.setObjectName("plain")
        self.change.clicked.connect(lambda: self.open(self._more is None or self._more.isHidden()))
        self.gone.clicked.connect(self.remove)
        self._more: QWidget | None = None
        self._inner = QVBoxLayout()
        self.fields: list[NumberField] = []
        self.editors: list[SentenceEditor] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(card(self._first_row(), self.phrase, self._inner))

    # -- what a subclass has its own way of ------------------------------------------------------

    @property
    def path(self) -> str:
        """Where the item stands in the document."""
        raise NotImplementedError

    def words(self) -> tuple[str, str]:
        """Its name, and what it does."""
        raise NotImplementedError

    def named_by(self) -> str:
        """The field that holds its name."""
        raise NotImplementedError

    def make(self) -> QWidget:
        """What is set in it, made when it is first opened."""
        raise NotImplementedError

    def show_values(self) -> None:
        """Show choices and ticks as they are now."""

    # -- the same for all ------------------------------------------------------------------------

    def _first_row(self) -> QWidget:
        return flowing(self.title, self.change, self.gone)

    def stand_at(self, index: int) -> None:
        """Its place in the list is another one now."""
        if index != self.index:
            old, self.index = self.path, index
            for editor in self.editors:
                inside = editor.place.path.removeprefix(old)
                editor.place = editor.place._replace(path=f"{self.path}{inside}")

    def open(self, wide: bool = True) -> None:
        """Show what can be set in it, or put that away."""
        with place_kept(self):
            self._open(wide)

    def _open(self, wide: bool) -> None:
        if wide and self._more is None:
            self._more = self.make()
            self._inner.addWidget(self._more)
            self.show_values()
        if self._more is not None:
            self._more.setVisible(wide)
        self.phrase.setVisible(not wide)
        self.change.setText("Done" if wide else "Change words")

    def refresh(self) -> None:
        """Show it as it is now."""
        title, said = self.words()
        if not self.title.isModified():
            self.title.setText(title)
        self.phrase.setText(f"{said[:1].upper()}{said[1:]}.")
        self.change.setAccessibleDescription(title)
        self.gone.setAccessibleDescription(title)
        for editor in self.editors:
            editor.about = title
            editor.refresh()
        for field in self.fields:
            field.refresh()
        if self._more is not None:
            self.show_values()

    @while_there
    def _rename(self) -> None:
        text = self.title.text().strip()
        if text and text != self.words()[0]:
            self.set(self.named_by(), text, f"{self.kind} {text}")
        self.title.setText(self.words()[0])

    def set(self, field: str, value: object, said: str) -> bool:
        """Change a field, as one named step."""
        bench = self.workbench
        return bench.notices.attempt(
            lambda: bench.document.apply(with_at(bench.loaded, f"{self.path}.{field}", value), said)
        )

    def get(self, field: str) -> float:
        """A number of it as it is now."""
        found: float = get_at(self.workbench.loaded, f"{self.path}.{field}")
        return found

    def number(
        self, name: str, field: str, bounds: tuple[float, float], unit: str = "s", step: float = 1.0
    ) -> NumberField:
        """A field for a number of it."""

        def put(value: float) -> None:
            said = f"{self.words()[0]}: {name.lower()} {value:g} {unit}".rstrip()
            made = with_at(
                self.workbench.loaded,
                f"{self.path}.{field}",
                int(value) if field == "last_s" else value,
            )
            self.workbench.document.apply(made, said)

        about = f"{self.words()[0]}: {name.lower()}"
        made = NumberField(about, lambda: self.get(field), put, unit, bounds, step=step, width=70)
        self.fields.append(made)
        return made

    def choice(self, name: str, words: dict[str, str], field: str) -> ChoiceBox:
        """A choice of words for a field of it."""
        made = ChoiceBox()
        made.setAccessibleName(name)
        for key, shown in words.items():
            made.addItem(shown, key)

        def take(k: int) -> None:
            self.set(field, made.itemData(k), f"{self.words()[0]}: {made.itemText(k)}")
            self.show_values()

        made.activated.connect(take)
        return made

    def sentence(self, field: str, place: ConditionPlace | None = None) -> SentenceEditor:
        """The sentence of a field of it."""
        made = SentenceEditor(
            self.workbench, place or ConditionPlace(f"{self.path}.{field}"), self.words()[0]
        )
        self.editors.append(made)
        return made

    def remove(self) -> None:
        """Take it out of the model."""
        bench = self.workbench
        root, _, place = self.path.rpartition("[")
        at = int(place[:-1])
        old = get_at(bench.loaded, root)
        title = self.words()[0]
        bench.notices.attempt(
            lambda: bench.document.apply(
                with_at(bench.loaded, root, old[:at] + old[at + 1 :]), f"{title} no longer there"
            )
        )


class AnnouncementCard(VoiceCard):
    """Words, and when they are said."""

    kind = "announcement"

    @property
    def path(self) -> str:
        return f"program.announcements[{self.index}]"

    @property
    def item(self) -> Announcement:
        """The announcement as it is now."""
        return at_place(self.workbench.loaded.program.announcements, self.index)

    def words(self) -> tuple[str, str]:
        return self.item.caption, announcement_words(self.workbench.loaded, self.item)

    def named_by(self) -> str:
        return "caption"

    def _first_row(self) -> QWidget:
        hear = QPushButton("Hear it")
        hear.setObjectName("plain")
        hear.clicked.connect(self._hear)
        return flowing(self.title, hear, self.change, self.gone)

    def make(self) -> QWidget:
        self.moment = self.choice(
            "When it is said", {m: MOMENT_WORDS[m] for m in MOMENTS}, "moment"
        )
        self.rank = self.choice("How urgent it is", {r: RANK_WORDS[r] for r in RANKS}, "rank")
        self.every = self.number("Again every", "every_s", (0.5, 600), step=0.5)
        self._every = QWidget()
        line = row("at once and every", self.every, None)
        line.setContentsMargins(0, 0, 0, 0)
        self._every.setLayout(line)
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row("Said", self.moment, None))
        column.addWidget(self.sentence("when"))
        column.addWidget(self._every)
        column.addLayout(row("and", self.rank, None))
        return box

    def show_values(self) -> None:
        self.moment.setCurrentIndex(MOMENTS.index(self.item.moment))
        self.rank.setCurrentIndex(RANKS.index(self.item.rank))
        self._every.setVisible(self.item.moment == "while")

    def _hear(self) -> None:
        self.workbench.companions.voice.say(Spoken(0, self.item.caption, self.item.rank, self.path))


class TimerCard(VoiceCard):
    """A timer: what it shows now, while what it counts, and what it says."""

    kind = "timer"

    def __init__(self, workbench: Workbench, index: int) -> None:
        self.shown = label("", "section", wrap=False)
        super().__init__(workbench, index)
        for signal in (workbench.simulation.live_changed, workbench.simulation.ticked):
            signal.connect(self._tell)

    @property
    def path(self) -> str:
        return f"program.timers[{self.index}]"

    @property
    def item(self) -> Timer:
        """The timer as it is now."""
        return at_place(self.workbench.loaded.program.timers, self.index)

    def words(self) -> tuple[str, str]:
        return timer_label(self.item), timer_words(self.workbench.loaded, self.item)

    def named_by(self) -> str:
        return "label"

    def _first_row(self) -> QWidget:
        return flowing(self.title, self.shown, self.change, self.gone)

    def make(self) -> QWidget:
        self.counts = self.choice(
            "How it counts", {"up": "up, and has run out at", "down": "down from"}, "counts"
        )
        self.span = _Times("From or to", self, "span_s")
        self.moments = _Times("Says", self, "moments", several=True)
        self.every = _Times("Says its reading every", self, "every_s")
        self.last = self.number("Last seconds counted aloud", "last_s", (0, 60), unit="")
        self.keeps = QCheckBox("Goes on after the transmitter was off")
        self.keeps.clicked.connect(
            lambda on: self.set("keeps", on, f"{self.words()[0]}: {'kept' if on else 'not kept'}")
        )
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row("Counts", self.counts, self.span, None))
        column.addWidget(label("while", "faint"))
        column.addWidget(self.sentence("when"))
        column.addWidget(label("starts anew", "faint"))
        column.addWidget(
            self.sentence(
                "reset", ConditionPlace(f"{self.path}.reset", always=True, none="at power-up")
            )
        )
        column.addLayout(row("Says, when it shows", self.moments, None))
        column.addLayout(row("Says its reading every", self.every, None))
        column.addLayout(row("Counts the last", self.last, "seconds aloud", None))
        column.addWidget(self.keeps)
        column.addWidget(
            label(
                "Times are minutes and seconds: 6:00, 1:30, 0:10; several with commas between them.",
                "faint",
            )
        )
        return box

    def show_values(self) -> None:
        self.counts.setCurrentIndex(COUNTS.index(self.item.counts))
        self.keeps.setChecked(self.item.keeps)
        for field in (self.span, self.moments, self.every):
            field.refresh()

    def refresh(self) -> None:
        super().refresh()
        self._tell()

    def _tell(self) -> None:
        result, model = self.workbench.state.live.result, self.workbench.model
        if (
            not self.isVisible()
            or model is None
            or result is None
            or self.index >= len(model.program.timers)
        ):
            return
        name = self.item.name
        said = clock(float(result.timers[name][-1])) if name in result.timers else ""
        if self.shown.text() != said:
            self.shown.setText(said)
            self.shown.setAccessibleName(f"It shows {said}")

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._tell()


class _Times(TextField):
    """Minutes and seconds, one time or several."""

    def __init__(self, name: str, owner: TimerCard, field: str, several: bool = False) -> None:
        super().__init__(f"{owner.words()[0]}: {name.lower()}", 80)
        self.owner, self.field, self.several, self.name = owner, field, several, name
        look.hold(self, width=200 if several else 70)
        self.setPlaceholderText("nothing" if several else "never")
        self.editingFinished.connect(self._put)

    def _times(self) -> tuple[float, ...]:
        found = get_at(self.owner.workbench.loaded, f"{self.owner.path}.{self.field}")
        return found if self.several else (found,)

    def refresh(self) -> None:
        """Show it as it is now."""
        if not self.isModified():
            times = self._times()
            self.setText(", ".join(clock(t) for t in times) if self.several or times[0] else "")

    @while_there
    def _put(self) -> None:
        if not self.isModified():
            return
        bench = self.owner.workbench
        try:
            times = _read(self.text()) or (() if self.several else (0.0,))
            if not self.several and len(times) != 1:
                raise HypsosError("one time belongs here", self.name, "For instance 6:00.")
        except HypsosError as error:
            bench.notices.noticed.emit(error.plain)
        else:
            value = tuple(dict.fromkeys(times)) if self.several else times[0]
            said = f"{self.owner.words()[0]}: {self.name.lower()} {self.text().strip()}"
            self.owner.set(self.field, value, said)
        self.setModified(False)
        self.refresh()


def _read(text: str) -> tuple[float, ...]:
    """Times typed as 6:00 or as seconds. Raises HypsosError."""
    out = []
    for part in (p.strip() for p in text.split(",") if p.strip()):
        match = re.fullmatch(r"(?:(\d{1,3}):)?(?:(\d{1,3}):)?(\d{1,5}(?:\.\d+)?)(?: ?s)?", part)
        if match is None:
            raise HypsosError(
                f"'{part}' is not a time", "", "Write minutes and seconds, such as 1:30."
            )
        hours, minutes = (match[1], match[2]) if match[2] else (None, match[1])
        out.append(3600.0 * int(hours or 0) + 60.0 * int(minutes or 0) + float(match[3]))
    return tuple(out)
