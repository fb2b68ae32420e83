# SPDX-License-Identifier: GPL-3.0-or-later
"""The timeline with its buttons: pause, zoom, go on from a moment, keep a stretch as a scenario."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QScrollArea, QVBoxLayout, QWidget

from hypsos.desk.bench.timeline_view import SPANS, Timeline
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import label


class TimePanel(QWidget):
    """Buttons above, the lanes below them."""

    keep_wanted = pyqtSignal(float, float)
    """A stretch is to become a scenario: from, to, in the bench's seconds."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self.lanes = Timeline(workbench, self)
        self.pause = self._button("Pause", "Let the picture stand. (Space)")
        self.pause.setCheckable(True)
        self.nearer = self._button("+", "Fewer seconds. (+, or Ctrl and the wheel)")
        self.further = self._button("−", "More seconds. (−, or Ctrl and the wheel)")
        self.all = self._button("All", "Show also what does not move in this time.")
        self.all.setCheckable(True)
        self.keep = self._button(
            "Keep…", "Keep the stretch marked (Shift and drag), or all that is seen."
        )
        self.go_on = self._button("Go on from here", "Time goes on from the moment at the cursor.")
        self.now = self._button("Back to now", "Back to where the bench was. (Escape)")
        self.nearer.setAccessibleName("Show fewer seconds")
        self.further.setAccessibleName("Show more seconds")
        self.says = label("", "faint", wrap=False)
        self.pause.clicked.connect(lambda on: self.lanes.pause(on))
        self.nearer.clicked.connect(lambda: self.lanes.zoom(-1))
        self.further.clicked.connect(lambda: self.lanes.zoom(1))
        self.all.toggled.connect(lambda on: self.lanes.set_moving_only(not on))
        self.keep.clicked.connect(self._keep)
        self.go_on.clicked.connect(self.lanes.go_on)
        self.now.clicked.connect(lambda: self.lanes.pause(False))
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setWidget(self.lanes)
        self._band = flowing(
            self.pause,
            self.nearer,
            self.further,
            self.all,
            self.keep,
            self.go_on,
            self.now,
            self.says,
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 3, 4, 0)
        column.setSpacing(2)
        column.addWidget(self._band)
        column.addWidget(self._scroll, 1)
        self.lanes.moved.connect(self.refresh)
        workbench.simulation.model_changed.connect(self.refresh)
        look.follow(self, self.refresh)
        self.refresh()

    def _button(self, words: str, tip: str) -> QPushButton:
        made = QPushButton(words)
        made.setObjectName("small")
        made.setToolTip(tip)
        return made

    def refresh(self) -> None:
        """Show what can be done now."""
        lanes, recorder = self.lanes, self.workbench.companions.recorder
        away = recorder.away
        self.pause.setChecked(lanes.end_s is not None)
        self.pause.setText("Follow" if lanes.end_s is not None else "Pause")
        for button in (self.go_on, self.now):
            button.setVisible(lanes.cursor_s is not None)
        self.go_on.setEnabled(away)
        self.nearer.setEnabled(lanes.span != SPANS[0])
        self.further.setEnabled(lanes.span != SPANS[-1])
        said = f"{lanes.span:g} s"
        if lanes.cursor_s is not None:
            said = f"{max(0.0, recorder.now_s() - lanes.cursor_s):.1f} s ago"
            said += "" if away else ", before the last edit: to be seen only"
        if lanes.stretch is not None:
            said += f"; stretch of {lanes.stretch[1] - lanes.stretch[0]:.1f} s"
        self.says.setText(said)

    def _keep(self) -> None:
        start, end = self.lanes.stretch or self.lanes.times()
        recorder = self.workbench.companions.recorder
        if len(recorder.t_s):
            self.keep_wanted.emit(max(start, float(recorder.t_s[0])), min(end, recorder.now_s()))
