# SPDX-License-Identifier: GPL-3.0-or-later
"""What every step's page shares."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QFrame, QLabel, QVBoxLayout, QWidget

from hypsos.core.document.document import Model
from hypsos.core.rundown import STEPS
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.attention_bar import QUIET, AttentionBar
from hypsos.desk.widgets.focus_order import focus_kept
from hypsos.desk.widgets.page_layout import card, label
from hypsos.desk.widgets.scroll_page import ScrollPage


class StepPage(QWidget):
    """A page of the sheet of work: what scrolls, and below it the strip.

    Subclasses fill ``self.column`` in ``build`` and re-read the
    model in ``refresh``."""

    key = ""
    lead_in = ""
    step_wanted = pyqtSignal(str)
    place_wanted = pyqtSignal(str)
    """Another step, or the place of a document path, is wanted."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self.area = ScrollPage(self)
        self.column = self.area.column
        self.column.setContentsMargins(18, 14, 14, 18)
        self.column.setSpacing(10)
        self.verb = next(s.verb for s in STEPS if s.key == self.key)
        step = next(s for s in STEPS if s.key == self.key)
        held = f": {step.holds}" if step.named_by_it else ""
        self.title = label(f"{self.verb}{held}", "title")
        self.column.addWidget(self.title)
        if self.lead_in:
            self.column.addWidget(label(self.lead_in, "faint"))
        # beside what scrolls and not in it: there a screen reader would not find it
        self.strip = AttentionBar(self)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        self._pinned = QVBoxLayout()
        whole.addLayout(self._pinned)
        whole.addWidget(self.area, 1)
        whole.addWidget(self.strip)
        self.strip.place_wanted.connect(self.show_place)
        self.strip.keep_wanted.connect(self._keep)
        self._stale, self._filled = True, False
        self._cautions: list[tuple[QLabel, str, str]] = []
        self.build()
        self.area.end_column()
        workbench.simulation.model_changed.connect(self._model_changed)
        workbench.simulation.live_changed.connect(self._warn)
        self._model_changed()

    def _warn(self) -> None:
        """Say it on whichever page is seen where a motor runs that no switch reaches."""
        if self.isVisible():
            said = self.workbench.state.motor_said
            self.strip.warn(f"{said.sentence}." if said.beyond_control else "")

    def build(self) -> None:
        """Make the page's widgets."""

    def caution(self, with_motor: str, glider: str) -> QFrame:
        """A caution where the danger is: what is said of a motor is not said where there is
        none."""
        words = label("")
        self._cautions.append((words, with_motor, glider))
        return card(words, kind="caution", margin=9)

    def _caution(self, model: Model) -> None:
        for words, with_motor, glider in self._cautions:
            words.setText(with_motor if model.airframe.motors else glider)

    def pin(self, choice: QWidget) -> None:
        """Keep the title and a choice of views in sight above what scrolls."""
        self._pinned.setContentsMargins(18, 14, 14, 2)
        self._pinned.setSpacing(8)
        for widget in (self.title, choice):
            self.column.removeWidget(widget)
            self._pinned.addWidget(widget)
        self.column.setContentsMargins(18, 6, 14, 18)

    def refresh(self) -> None:
        """Show the model as it is now."""

    def progress(self, model: Model) -> str:
        """How far the step has come, without what asks for a second look."""
        return next(s.progress(model, 0) for s in STEPS if s.key == self.key)

    def view_keys(self) -> tuple[str, ...]:
        """The keys of its views, for a page with several; ``show_view`` shows one."""
        return ()

    def in_hand(self) -> bool:
        """Whether the page holds something that is nowhere else: an answer, a draft."""
        return False

    def quiet_words(self) -> str:
        """What the strip below the page says where there is nothing to look at."""
        model = self.workbench.model
        begun = model is None or self.progress(model) != "not begun"
        return QUIET if begun else "Nothing is set in this step yet."

    def show_place(self, path: str) -> None:
        """Bring the field for a document path into view, as far as the page has one."""

    def _model_changed(self) -> None:
        """A page that is not seen is brought up to date when it is."""
        self._stale = True
        if self.isVisible() or not self._filled:
            self._fill()

    def _fill(self) -> None:
        model = self.workbench.model
        if model is None:
            return
        self._stale, self._filled = False, True
        self.strip.say(
            [a for a in self.workbench.attentions() if a.step == self.key],
            self.key in model.proposed and self.progress(model) != "not begun",
            self.quiet_words(),
        )
        self._caution(model)
        with self.area.place_kept(), focus_kept(self):
            self.refresh()

    def _keep(self) -> None:
        self.workbench.notices.attempt(
            lambda: self.workbench.document.keep_proposal(
                self.key, f"{self.verb.lower()}: kept as proposed"
            )
        )

    def bring(self, row: QWidget, field: QWidget | None = None) -> None:
        """Bring a row of the page into sight; ``field`` gets the focus."""
        self.area.bring(row, field)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._warn()
        if self._stale:
            self._fill()
