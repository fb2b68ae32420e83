# SPDX-License-Identifier: GPL-3.0-or-later
"""The invitation of an empty hangar: aeroplanes to begin with, drawn by the bench and alive under
the pointer."""

from __future__ import annotations

import math

from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, QRect, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QGridLayout,
    QLayout,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from hypsos.core.engine import compile_plan
from hypsos.core.parts.transmitter import STICK_PLACES
from hypsos.core.shape.templates import TEMPLATES
from hypsos.desk.bench.aeroplane_view import Aeroplane
from hypsos.desk.services import settings as remembered
from hypsos.desk.session.bench_state import BenchState
from hypsos.desk.session.simulation import Simulation
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.page_layout import label, row

WORDS = {
    "aileron_stick": "ailerons",
    "elevator_stick": "elevator",
    "throttle_stick": "throttle",
    "rudder_stick": "rudder",
}
BEAT_MS = 40
TILE = (300, 186)


def mode_words(mode: int) -> str:
    """What the hands hold in a stick mode: ``'Mode 2: left throttle and rudder, right elevator and
    ailerons'``."""
    hands = {
        hand: " and ".join(WORDS[x] for x in reversed(held))
        for hand, held in STICK_PLACES[mode].items()
    }
    return f"Mode {mode}: left {hands['left']}, right {hands['right']}"


class TemplateTile(QAbstractButton):
    """One aeroplane to begin with: its picture, its name, a line about it."""

    wanted = pyqtSignal(str)

    def __init__(self, key: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.key = key
        template = TEMPLATES[key]
        self.setText(template.title)
        self.setAccessibleName(template.title)
        self.setAccessibleDescription(template.about)
        self.setToolTip(template.about)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.picture: QPixmap | None = None
        self.clicked.connect(lambda: self.wanted.emit(self.key))
        look.follow(self, self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(look.px(TILE[0]), look.px(TILE[1]))

    def place(self) -> QRect:
        """Where the picture is."""
        return QRect(2, 2, self.width() - 4, self.height() - look.px(58))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        alive = self.hasFocus() or self.underMouse()
        edge, width = ("sea", 2) if alive else ("edge", 1)
        painter.setPen(QPen(look.colour(edge), 3 if self.hasFocus() else width))
        painter.setBrush(look.colour("card"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5), 7, 7)
        place = self.place()
        if self.picture is not None:
            painter.drawPixmap(place, self.picture)
        text = QRectF(
            look.px(10), place.bottom() + look.px(4), self.width() - look.px(20), look.px(18)
        )
        painter.setPen(look.colour("ink"))
        painter.setFont(look.font(1.02, bold=True))
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setPen(look.colour("faint"))
        painter.setFont(look.font(0.82))
        about = text.translated(0, look.px(17))
        about.setHeight(look.px(34))
        painter.drawText(about, int(Qt.TextFlag.TextWordWrap), TEMPLATES[self.key].about)


def _on_bench(bench: Simulation, key: str) -> Simulation:
    model = TEMPLATES[key].make(TEMPLATES[key].title)
    bench.take(model, compile_plan(model))
    bench.stop_clock()
    return bench


CUT_ENDS = {"away": "away from me", "towards": "towards me"}
"""Which end of the motor's switch cuts it: the same on all models, so that the hand knows it."""


def _boxed(line: QLayout) -> QWidget:
    box = QWidget()
    line.setContentsMargins(0, 0, 0, 0)
    box.setLayout(line)
    return box


class Welcome(QScrollArea):
    """Choose an aeroplane, or open the demo hangar, or import a file."""

    template_wanted = pyqtSignal(str)
    demo_wanted = pyqtSignal()
    import_wanted = pyqtSignal()
    back_wanted = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("welcome")
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inner = QWidget()
        inner.setObjectName("page")
        column = QVBoxLayout(inner)
        column.setContentsMargins(28, 18, 28, 22)
        column.setSpacing(10)
        self.title = label("What will you fly?", "title")
        column.addWidget(self.title)
        column.addWidget(
            label(
                "Choose what is nearest to your aeroplane; every figure can be changed afterwards. Rest the pointer on one and it "
                "moves.",
                "faint",
            )
        )
        self.mode = ChoiceBox()
        self.mode.setAccessibleName("Stick mode")
        for mode in (1, 2, 3, 4):
            self.mode.addItem(mode_words(mode), mode)
        self.mode.setCurrentIndex(remembered.stick_mode() - 1)
        self.mode.activated.connect(
            lambda _: remembered.remember("stick_mode", self.mode.currentData())
        )
        self.cut = ChoiceBox()
        self.cut.setAccessibleName("Where the motor is cut")
        for end, words in CUT_ENDS.items():
            self.cut.addItem(words, end)
        self.cut.setCurrentIndex(self.cut.findData(remembered.cut_end()))
        self.cut.activated.connect(lambda _: remembered.remember("cut_end", self.cut.currentData()))
        hold = row("I hold the sticks in", self.mode)
        cuts = row("and cut the motor with its switch", self.cut)
        column.addWidget(flowing(*(_boxed(x) for x in (hold, cuts)), gap=14))
        self._grid = QGridLayout()
        self._grid.setSpacing(10)
        self.tiles = [TemplateTile(key) for key in TEMPLATES]
        for tile in self.tiles:
            tile.wanted.connect(self.template_wanted)
            tile.installEventFilter(self)
        column.addLayout(self._grid)
        self.demo = QPushButton("Look round the demo hangar")
        self.demo.setToolTip(
            "The Sandreach Dune Watch's aeroplanes, with everything set. Yours stays as it is."
        )
        self.demo.clicked.connect(self.demo_wanted)
        self.import_ = QPushButton("Import a file…")
        self.import_.clicked.connect(self.import_wanted)
        self.back = QPushButton("Back")
        self.back.clicked.connect(self.back_wanted)
        column.addLayout(row(self.back, self.demo, self.import_, None))
        column.addStretch(1)
        self.setWidget(inner)
        self._columns = 0
        self._bench = Simulation(BenchState())
        self.live = Aeroplane(self._bench, inner, bare=True)
        self.live.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.live.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.live.hide()
        self.alive: TemplateTile | None = None
        self._beats = 0
        self._timer = QTimer(self)
        self._timer.setInterval(BEAT_MS)
        self._timer.timeout.connect(self._beat)
        self._paint_next = QTimer(self)
        self._paint_next.setSingleShot(True)
        self._paint_next.timeout.connect(self._one_picture)
        look.follow(self, self._forget)

    def offer_back(self, back: bool) -> None:
        """Whether there is a model to go back to."""
        self.back.setVisible(back)
        self.demo.setVisible(not back)

    # -- pictures --------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._paint_next.start(0)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        columns = max(1, (self.width() - 56) // (look.px(TILE[0]) + 10))
        if columns != self._columns:
            self._columns = columns
            for i, tile in enumerate(self.tiles):
                self._grid.addWidget(tile, i // columns, i % columns)
        self._forget()

    def _forget(self) -> None:
        for tile in self.tiles:
            tile.picture = None
        self._still()
        self._paint_next.start(30)

    def _one_picture(self) -> None:
        """One still picture after the other, so that the window never waits."""
        tile = next((t for t in self.tiles if t.picture is None), None)
        if tile is None or not self.isVisible():
            return
        tile.picture = self._picture(tile)
        tile.update()
        self._paint_next.start(0)

    def _picture(self, tile: TemplateTile) -> QPixmap:
        still = Aeroplane(_on_bench(Simulation(BenchState()), tile.key), None, bare=True)
        still.resize(tile.place().size())
        made = still.grab()
        still.deleteLater()
        return made

    # -- alive -----------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and isinstance(watched, TemplateTile):
            if event.type() in (QEvent.Type.Enter, QEvent.Type.FocusIn):
                self._liven(watched)
            elif (
                event.type() in (QEvent.Type.Leave, QEvent.Type.FocusOut) and watched is self.alive
            ):
                self._still()
        return super().eventFilter(watched, event)

    def _liven(self, tile: TemplateTile) -> None:
        self._still()
        self.alive = tile
        self._beats = 0
        _on_bench(self._bench, tile.key)
        inner = self.widget()
        assert inner is not None
        self.live.setGeometry(QRect(tile.mapTo(inner, tile.place().topLeft()), tile.place().size()))
        self.live.show()
        self.live.raise_()
        self._timer.start()

    def _still(self) -> None:
        if sip.isdeleted(self._bench):
            return  # the window is going
        self._timer.stop()
        self.alive = None
        self.live.hide()
        self._bench.stop_clock()
        self._paint_next.start(0)

    def _beat(self) -> None:
        """The sticks go gently round; the motor stays where it is, stopped."""
        if self.alive is None or not self.isVisible():
            self._still()
            return
        self._beats += 1
        at = self._beats * BEAT_MS / 1000.0
        for name, speed in (("aileron_stick", 2.1), ("elevator_stick", 1.3), ("rudder_stick", 1.7)):
            self._bench.set_control(name, 85.0 * math.sin(speed * at))
