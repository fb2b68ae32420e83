# SPDX-License-Identifier: GPL-3.0-or-later
"""What every step's page shares."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QWidget

from hypsos.core.document.document import Model
from hypsos.core.rundown import STEPS
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.attention_bar import QUIET, AttentionBar
from hypsos.desk.widgets.focus_order import focus_kept
from hypsos.desk.widgets.page_layout import label
from hypsos.desk.widgets.scroll_page import ScrollPage


class StepPage(ScrollPage):
    """A page of the sheet of work. Subclasses fill ``self.column`` in ``build`` and re-read the
    model in ``refresh``."""

    key = ""
    lead_in = ""
    step_wanted = pyqtSignal(str)
    place_wanted = pyqtSignal(str)
    """Another step, or the place of a document path, is wanted."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.column.setContentsMargins(18, 14, 14, 18)
        self.column.setSpacing(10)
        self.verb = next(s.verb for s in STEPS if s.key == self.key)
        step = next(s for s in STEPS if s.key == self.key)
        held = f": {step.holds}" if step.named_by_it else ""
        self.column.addWidget(label(f"{self.verb}{held}", "title"))
        if self.lead_in:
            self.column.addWidget(label(self.lead_in, "faint"))
        self.strip = AttentionBar(self)
        self.strip.place_wanted.connect(self.show_place)
        self.strip.keep_wanted.connect(self._keep)
        self._stale, self._filled = True, False
        self.build()
        self.end_column()
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
        with self.place_kept(), focus_kept(self):
            self.refresh()

    def _keep(self) -> None:
        self.workbench.notices.attempt(
            lambda: self.workbench.document.keep_proposal(
                self.key, f"{self.verb.lower()}: kept as proposed"
            )
        )

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """The strip keeps its place below the page, whatever it has to say."""
        height = self.strip.sizeHint().height()
        self.setViewportMargins(0, 0, 0, height)
        super().resizeEvent(event)
        self.strip.setGeometry(0, self.height() - height, self.width(), height)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._warn()
        if self._stale:
            self._fill()
