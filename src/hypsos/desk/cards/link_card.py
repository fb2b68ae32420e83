# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated link: drop-outs of a set length, its quality, the batteries; and taking what is now
as failsafe."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QFrame, QPushButton, QSlider, QVBoxLayout

from hypsos.core.base.figure_words import number
from hypsos.core.scenarios.failsafe_capture import capture_doubts, captured
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.widgets.battery_button import BatteryButton
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.focus_ring import paint_focus_ring
from hypsos.desk.widgets.page_layout import card, label, row

DROPS = (0.1, 0.3, 0.6, 1.0, 3.0)
"""Seconds."""


class Slide(QSlider):
    """A slider over which the wheel scrolls the page."""

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            event.ignore()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        paint_focus_ring(self, 2.0)


class LinkCard(QFrame):
    """What can happen to a link, to try on the bench; nothing here is part of the model."""

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.drops = []
        for seconds in DROPS:
            button = QPushButton(f"{seconds:g} s")
            button.setAccessibleName(f"Lose the link for {seconds:g} s")
            button.clicked.connect(lambda _=False, s=seconds: self.workbench.simulation.drop_out(s))
            self.drops.append(button)
        self.flight = BatteryButton("flight battery")
        self.flight.clicked.connect(
            lambda out: self.workbench.simulation.set_flight_battery(not out)
        )
        self.own = BatteryButton("receiver's battery")
        self.own.clicked.connect(lambda out: self.workbench.simulation.set_power(not out))
        self.off_on = QPushButton("Switch the transmitter off and on")
        self.off_on.setToolTip("Everything stays where it stands: a switch left at run, too.")
        self.off_on.clicked.connect(self.workbench.simulation.switch_off_and_on)
        self.quality = Slide(Qt.Orientation.Horizontal)
        self.quality.setRange(0, 100)
        self.quality.setPageStep(10)
        self.quality.setAccessibleName("Link quality in percent")
        self.quality.valueChanged.connect(self._slid)
        self.says = label("", "faint", wrap=False)
        self.take = QPushButton("Take the present positions")
        self.take.clicked.connect(self._ask)
        self.doubts = label("")
        self.sure = QPushButton("Take them all the same")
        self.sure.clicked.connect(self._take)
        self.not_now = QPushButton("Leave it")
        self.not_now.clicked.connect(lambda: self.asked.hide())
        self.asked = card(self.doubts, flowing(self.sure, self.not_now), kind="caution", margin=9)
        self.asked.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        column.addWidget(
            card(
                label("Try it on the bench", "section"),
                label("Lose the link for"),
                flowing(*self.drops),
                row("Link quality", self.quality, self.says),
                flowing(self.flight, self.own, self.off_on),
                label(
                    "Nothing here changes the model. (Ctrl+L the link, Ctrl+B the battery)", "faint"
                ),
            )
        )
        column.addWidget(
            card(
                label("As it stands now", "section"),
                label(
                    "Put the model on the bench where it should be without the link, then take that over.",
                    "faint",
                ),
                row(self.take, None),
                self.asked,
            )
        )
        workbench.simulation.live_changed.connect(self._sync)
        workbench.simulation.model_changed.connect(self.asked.hide)
        workbench.simulation.model_changed.connect(self._offer)
        self._offer()
        self._sync()

    def _slid(self, value: int) -> None:
        if round(self.workbench.state.live.link_quality) != value:
            self.workbench.simulation.set_quality(float(value))

    def _offer(self) -> None:
        """The batteries that this model has: the motors' one, the receiver's own one. One that
        feeds both is the motors'."""
        model = self.workbench.model
        if model is None:
            return
        motors, own = bool(model.airframe.motors), model.receiver.power == "own battery"
        offered = [
            x for x, there in ((self.flight, motors), (self.own, own or not motors)) if there
        ]
        for button in (self.flight, self.own):
            button.setVisible(button in offered)

    def _sync(self) -> None:
        live = self.workbench.state.live
        self.flight.show_out(not self.workbench.state.flight_battery)
        self.own.show_out(not self.workbench.state.receiver_fed)
        if self.quality.value() != round(live.link_quality):
            self.quality.setValue(round(live.link_quality))
        said = f"{number(live.link_quality)} %" if self.workbench.state.connected else "no link"
        if self.says.text() != said:
            self.says.setText(said)

    # -- taking what is now ----------------------------------------------------------------------

    def _ask(self) -> None:
        result, model = self.workbench.state.live.result, self.workbench.model
        if result is None or model is None:
            return
        doubts = capture_doubts(model, result)
        if not doubts:
            self._take()
            return
        self.doubts.setText("\n".join(doubts))
        self.asked.show()
        self.not_now.setFocus()

    def _take(self) -> None:
        result, model = self.workbench.state.live.result, self.workbench.model
        if result is not None and model is not None:
            self.workbench.notices.attempt(
                lambda: self.workbench.document.apply(
                    captured(model, result), "failsafe: the present positions"
                )
            )
        self.asked.hide()
