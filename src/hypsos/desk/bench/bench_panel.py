# SPDX-License-Identifier: GPL-3.0-or-later
"""The bench: the aeroplane, the hands, the outputs; live all the time."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from hypsos.core.engine.announcements import Spoken
from hypsos.core.wording.time_words import clock, timer_label
from hypsos.desk.bench.aeroplane_view import EXAGGERATIONS, Aeroplane
from hypsos.desk.bench.caption_banner import Caption
from hypsos.desk.bench.hands_panel import Hands
from hypsos.desk.bench.motor_lamp import Lamp
from hypsos.desk.bench.output_strips import Strips
from hypsos.desk.bench.sky_notices import Sky
from hypsos.desk.bench.why_panel import Why
from hypsos.desk.services import settings as remembered
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.act_menu import Act, MenuButton, open_menu
from hypsos.desk.widgets.battery_button import BatteryButton, battery_words
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.page_layout import label

if TYPE_CHECKING:
    from hypsos.core.explain.motor_words import MotorSaid
    from hypsos.desk.bench.timeline_panel import TimePanel

HANDS, TIMELINE = 2, 3
"""The places below of the hands, where the bench is folded, and of the timeline."""
LOWER, LEAST_AEROPLANE, NARROW = 126, 190, 520


class BenchPanel(QFrame):
    """Aeroplane above, hands below it, then outputs or *why*."""

    place_wanted = pyqtSignal(str)
    page_wanted = pyqtSignal(str, str)
    """A step, and the document path that is to be shown there."""
    moves_wanted = pyqtSignal()
    hands_wanted = pyqtSignal()
    """The hands are wanted where a wide page has their room."""
    keep_wanted = pyqtSignal(float, float)
    """A stretch of the timeline is to become a scenario: from, to, in the bench's seconds."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.aeroplane = Aeroplane(workbench.simulation, self)
        self.sky = Sky(("reason", "timers", "practice", "size"), self.aeroplane)
        self.caption: Caption | None = None
        self.reason = self.sky.labels["reason"]
        self.aeroplane.exaggerated.connect(self._say_size)
        self.hands = Hands(workbench, self)
        self.strips = Strips(workbench, self)
        self.why = Why(workbench, self)
        self.lamp = Lamp(workbench, self)
        column.addWidget(self.aeroplane, 1)
        self._status_band = self._status()
        column.addWidget(self._status_band)
        self._hands_place = QVBoxLayout()
        column.addLayout(self._hands_place)
        self._tab_band = self._tabs()
        column.addWidget(self._tab_band)
        self.below = QStackedWidget()
        self._scrolls = [self._scroll(page) for page in (self.strips, self.why)]
        self._hands_scroll = self._scroll(None)
        for scroll in (*self._scrolls, self._hands_scroll):
            self.below.addWidget(scroll)
        self._timeline: TimePanel | None = None
        column.addWidget(self.below)
        self.folded: bool | None = None
        self._aside = False
        self.narrow = False
        self._fold(False)
        workbench.simulation.model_changed.connect(self._model_changed)
        workbench.simulation.live_changed.connect(self._live_changed)
        workbench.simulation.ticked.connect(self._say_timers)
        workbench.simulation.chosen_changed.connect(self._chosen_changed)
        workbench.simulation.playing_changed.connect(self._playing_changed)
        self.why.place_wanted.connect(self.place_wanted)
        self._model_changed()
        self._live_changed()

    def _scroll(self, page: QWidget | None) -> QScrollArea:
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        if page is not None:
            scroll.setWidget(page)
        return scroll

    # -- room ------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Where it is too low for everything, the hands share their place with the outputs and
        *why*."""
        super().resizeEvent(event)
        self._words()
        self._share()

    def _share(self) -> None:
        if self._aside:
            return
        hands = self.hands.heightForWidth(self.width())
        bands = self._status_band.sizeHint().height() + self._tab_band.sizeHint().height()
        lower, least = look.px(LOWER), look.px(LEAST_AEROPLANE)
        self._fold(self.height() < bands + hands + lower + least)
        rows = self.strips.sizeHint().height() + 2
        room = self.height() - bands - (0 if self.folded else hands)
        wanted = max(rows, hands) if self.folded else rows
        self.below.setFixedHeight(max(lower, min(wanted, room - max(least, round(room * 0.5)))))

    def _fold(self, folded: bool) -> None:
        if folded == self.folded:
            return
        self.folded = folded
        button = self.tabs.button(HANDS)
        if button is not None:
            button.setVisible(folded)
        if folded:
            self._hands_scroll.setWidget(self.hands)
        else:
            self._hands_scroll.takeWidget()
            self._hands_place.addWidget(self.hands)
            if self.below.currentIndex() == HANDS:
                self._show_lower(0)
        self.hands.show()

    # -- what can be done with a part ------------------------------------------------------------

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """On a surface, a motor or a strip: where its figures are set."""
        if event is None or self.workbench.model is None:
            return
        part = self._part_at(event.globalPos())
        if event.reason() == QContextMenuEvent.Reason.Keyboard or part is None:
            part = self.workbench.simulation.chosen
        if part is not None:
            open_menu("What can be done with it", self.part_acts(part), self, event.globalPos())

    def _part_at(self, place: QPoint) -> str | None:
        if self.aeroplane.underMouse():
            return self.aeroplane.part_at(QPointF(self.aeroplane.mapFromGlobal(place)))
        if self.strips.underMouse():
            return self.strips.part_at(QPointF(self.strips.mapFromGlobal(place)))
        return None

    def part_acts(self, part: str) -> list[Act]:
        """What can be done with a part."""
        found = [(i, x) for i, x in enumerate(self.workbench.loaded.leads) if x.target == part]
        acts = [Act("Why it stands there", lambda: self.workbench.simulation.choose(part))]
        for words, step, field in (
            ("Its throws, with a ruler", "throws", "travel_pos"),
            ("Its port, travel and stops", "wiring", "travel_pos"),
            ("When the link is lost", "failsafe", "failsafe"),
        ):
            for i, _ in found[:1]:
                path = f"leads[{i}].{field}"
                acts.append(Act(words, partial(self.page_wanted.emit, step, path)))
        return acts

    # -- made once -------------------------------------------------------------------------------

    def _status(self) -> QWidget:
        band = QFrame()
        band.setObjectName("band")
        line = QHBoxLayout(band)
        line.setContentsMargins(10, 3, 10, 3)
        line.setSpacing(7)
        self.link = QPushButton("Link up: cut it")
        self.link.setCheckable(True)
        self.link.setToolTip(
            "Cut the link to see the failsafe. Press again to bring it back. (Ctrl+L)"
        )
        self.link.toggled.connect(lambda cut: self.workbench.simulation.set_link(not cut))
        self.battery = BatteryButton("flight battery", short=True)
        self.battery.setToolTip(
            "Take the battery out and put it in again: what a motor does then. (Ctrl+B)"
        )
        self.battery.clicked.connect(self.turn_battery)
        self.mode = ChoiceBox()
        self.mode.setAccessibleName("Stick mode")
        self.mode.addItems([f"Stick mode {n}" for n in (1, 2, 3, 4)])
        self.mode.setToolTip("Which hand holds which movement.")
        self.mode.activated.connect(self._set_mode)
        line.addWidget(self.lamp)
        line.addWidget(self.link)
        line.addWidget(self.battery)
        self.flown = label("", wrap=False)
        self.flown.setAccessibleName("Flight mode")
        line.addWidget(self.flown)
        line.addStretch(1)
        line.addWidget(self.mode)
        return band

    def _tabs(self) -> QWidget:
        band = QFrame()
        band.setObjectName("band")
        line = QHBoxLayout(band)
        line.setContentsMargins(4, 3, 4, 3)
        line.setSpacing(2)
        self.tabs = QButtonGroup(self)
        for i, (words, tip) in enumerate(
            (
                ("Outputs", "Every channel in % and µs. (Ctrl+1)"),
                ("Why", "What moves the chosen part, and how much. (Ctrl+2)"),
                ("Hands", "Sticks and switches. (Ctrl+3)"),
                (
                    "Timeline",
                    "The last two minutes, and the way back to any moment of them. (Ctrl+4)",
                ),
            )
        ):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setChecked(i == 0)
            button.setToolTip(tip)
            self.tabs.addButton(button, i)
            line.addWidget(button)
        self.tabs.idClicked.connect(self._show_lower)
        line.addStretch(1)
        self.play = QPushButton("Play moves…")
        self.play.setToolTip("Play recorded stick and switch moves from a CSV file on the bench.")
        self.play.clicked.connect(self._play_clicked)
        line.addWidget(self.play)
        self.view = MenuButton("View")
        self.view.setToolTip("Where to see the aeroplane from, and how large movements are drawn.")
        self.view.acts = self.view_acts
        line.addWidget(self.view)
        return band

    def view_acts(self) -> list[Act]:
        """How the aeroplane is seen; and what has no room for a button of its own."""
        views = (
            ("behind", "Behind, as the pilot stands", "1"),
            ("above", "From above", "2"),
            ("side", "From the side", "3"),
        )
        acts = [
            Act(words, partial(self.aeroplane.set_view, name), key=key)
            for name, words, key in views
        ]
        for factor in EXAGGERATIONS:
            words = "True movements" if factor == 1 else f"Movements {factor:.0f} times as large"
            put = partial(self.aeroplane.set_exaggeration, factor)
            acts.append(Act(words, put, key="E" if factor > 1 else ""))
        if self.narrow:
            battery = battery_words(self.battery.battery, self._battery_out)
            acts.append(Act(self._play_words, self._play_clicked))
            acts.append(Act(battery, self.turn_battery, key="Ctrl+B"))
        return acts

    def show_hands(self) -> None:
        """Bring the hands into sight and give them the keys."""
        if self._aside:
            self.hands_wanted.emit()
        if self.folded:
            self._show_lower(HANDS)
        self.hands.sticks["right"].setFocus()

    @property
    def timeline(self) -> TimePanel:
        """The timeline; made when it is first wanted."""
        if self._timeline is None:
            from hypsos.desk.bench.timeline_panel import TimePanel

            self._timeline = TimePanel(self.workbench, self)
            self._timeline.keep_wanted.connect(self.keep_wanted)
            self.below.addWidget(self._timeline)
        return self._timeline

    def show_timeline(self) -> None:
        """Bring the timeline into sight."""
        self._show_lower(TIMELINE)

    # -- following the workbench -----------------------------------------------------------------

    def _model_changed(self) -> None:
        model = self.workbench.model
        if model is not None:
            self.mode.setCurrentIndex(model.transmitter.stick_mode - 1)
        self.setEnabled(model is not None)
        self._share()

    def _live_changed(self) -> None:
        words = self.workbench.state.mode_label
        if self.flown.text() != words:
            self.flown.setText(words)
        self._say_reason(self.workbench.state.motor_said)
        cut = self.workbench.state.live.link < 0.5
        if self.link.isChecked() != cut:
            self.link.blockSignals(True)
            self.link.setChecked(cut)
            self.link.blockSignals(False)
        self._say_link()
        self._say_battery()
        self._say_timers()

    def _say_timers(self) -> None:
        """What the timers show, a change each second. A caption of now goes when the bench is put
        to another moment."""
        if self.workbench.simulation.held_still and self.caption is not None:
            self.caption.hide()
        result, model = self.workbench.state.live.result, self.workbench.model
        timers = model.program.timers if model is not None and result is not None else ()
        said = [
            f"{timer_label(x)} {clock(float(result.timers[x.name][-1]))}"
            for x in timers
            if result is not None and x.name in result.timers
        ]
        self.sky.say("timers", " · ".join(said))

    def show_caption(self, spoken: Spoken) -> None:
        """Let what is said rise over the aeroplane."""
        if self.caption is None:
            self.caption = Caption(self.aeroplane)
        self.caption.show_caption(spoken)

    def _say_link(self) -> None:
        cut = self.workbench.state.live.link < 0.5
        long, short = (
            ("Link cut: bring it back", "Link back") if cut else ("Link up: cut it", "Cut link")
        )
        words = short if self.narrow else long
        if self.link.text() != words:
            self.link.setText(words)
            self.link.setAccessibleName(long)

    @property
    def _with_motors(self) -> bool:
        """Whether the battery that a pilot changes is the motors'; without a motor it is the
        receiver's."""
        return self.workbench.model is None or bool(self.workbench.model.airframe.motors)

    @property
    def _battery_out(self) -> bool:
        return not (
            self.workbench.state.flight_battery
            if self._with_motors
            else self.workbench.state.receiver_fed
        )

    def turn_battery(self) -> None:
        """Take the battery that a pilot changes out, or put it in."""
        if self.workbench.model is None:
            return
        turn = (
            self.workbench.simulation.set_flight_battery
            if self._with_motors
            else self.workbench.simulation.set_power
        )
        turn(self._battery_out)

    def turn_link(self) -> None:
        """Cut the link, or bring it back."""
        if self.workbench.model is not None:
            self.link.toggle()

    @property
    def link_words(self) -> str:
        """How the link is now, as a sentence."""
        cut = self.workbench.state.live.link < 0.5
        return (
            "The link is cut. Ctrl+L brings it back." if cut else "The link is up. Ctrl+L cuts it."
        )

    @property
    def battery_said(self) -> str:
        """How the battery is now, as a sentence."""
        which = "The flight battery" if self._with_motors else "The receiver's battery"
        return (
            f"{which} is out. Ctrl+B puts it in."
            if self._battery_out
            else f"{which} is in. Ctrl+B takes it out."
        )

    def show_lower(self, index: int) -> None:
        """Show outputs, why, hands where they are folded away, or the timeline."""
        button = self.tabs.button(index)
        if self.workbench.model is not None and button is not None and not button.isHidden():
            self._show_lower(index)

    def set_aside(self, on: bool) -> None:
        """Leave the room of hands and outputs to a wide page; the aeroplane, the motors' lamp and
        the link stay."""
        self._aside = on
        self._tab_band.setVisible(not on)
        self.below.setVisible(not on)
        self.hands.setVisible(not on)
        self._share()

    def _say_battery(self) -> None:
        self.battery.battery = "flight battery" if self._with_motors else "receiver's battery"
        self.battery.show_out(self._battery_out)

    def _words(self) -> None:
        """Shorter words where there is little room."""
        narrow = self.width() < look.px(NARROW)
        if narrow == self.narrow:
            return
        self.narrow = narrow
        self.lamp.set_short(narrow)
        self.battery.setVisible(not narrow)
        for i in range(4):
            self.mode.setItemText(i, f"{'Mode' if narrow else 'Stick mode'} {i + 1}")
        self.play.setVisible(not narrow)
        last = self.tabs.button(TIMELINE)
        if last is not None:
            last.setText("Time" if narrow else "Timeline")
        self._playing_changed()
        self._say_link()

    def _say_reason(self, said: MotorSaid) -> None:
        """What stands in the way of arming, in the sky above the aeroplane, where it moves
        nothing."""
        self.sky.say("reason", said.sentence if said.why else "")
        practising = self.workbench.state.practice is not None
        self.sky.say(
            "practice", "An aeroplane to practise on, wired its own way" if practising else ""
        )

    def _say_size(self) -> None:
        factor = self.aeroplane.exaggeration
        self.sky.say("size", f"Movements drawn {factor:.0f} times as large" if factor != 1 else "")

    def _chosen_changed(self) -> None:
        self._show_lower(1 if self.workbench.simulation.chosen else 0)

    def _show_lower(self, index: int) -> None:
        if index == TIMELINE:
            self.below.setCurrentWidget(self.timeline)
        else:
            self.below.setCurrentIndex(index)
        button = self.tabs.button(index)
        if button is not None:
            button.setChecked(True)

    def _playing_changed(self) -> None:
        self.play.setText(self._play_words)

    @property
    def _play_words(self) -> str:
        return "Stop playing" if self.workbench.simulation.playing else "Play moves…"

    def _play_clicked(self) -> None:
        if self.workbench.simulation.playing:
            self.workbench.simulation.stop()
        else:
            self.moves_wanted.emit()

    def _set_mode(self, index: int) -> None:
        mode = index + 1
        remembered.remember("stick_mode", mode)
        self.workbench.notices.attempt(
            lambda: self.workbench.document.edit(
                "transmitter.stick_mode", mode, f"stick mode {mode}"
            )
        )
