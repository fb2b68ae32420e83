# SPDX-License-Identifier: GPL-3.0-or-later
"""The aeroplane on the bench: a shaded solid with hinged surfaces, a propeller, and a call-out for
each part."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QRegion,
    QResizeEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hypsos.core.shape.solid_model import Solid, solid
from hypsos.desk.bench.callouts import NOTE_HEIGHT, CallOut, Notes, place_callouts
from hypsos.desk.bench.camera import VIEWS, Camera
from hypsos.desk.bench.scene import Frame, Scene
from hypsos.desk.session.simulation import Simulation
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import SpokenControl

Array = NDArray[np.float64]
EXAGGERATIONS = (1.0, 2.0, 3.0)
FASTEST_TURNS = 2.4


class Aeroplane(SpokenControl):
    """Shows the model's airframe as it stands now. Touching a surface chooses it; dragging turns
    the view."""

    first_painted = pyqtSignal()
    """The aeroplane is on the screen for the first time."""
    exaggerated = pyqtSignal()
    """Deflections are drawn larger, or as they are again."""

    def __init__(
        self, simulation: Simulation, parent: QWidget | None = None, bare: bool = False
    ) -> None:
        super().__init__("Aeroplane", 0, 0, parent)
        self.simulation = simulation
        self.bare = bare
        """A bare picture has no call-outs."""
        # nothing below it need be painted first
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(60 if bare else 220, 60 if bare else 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setToolTip(
            "Touch a part to see why it stands there. Drag to turn. 1 behind, 2 above, 3 side, E exaggerate."
        )
        self.exaggeration = 1.0
        self._turn, self._rise = VIEWS["behind"]
        self.solid: Solid | None = None
        self._kind: object = None
        self.scene: Scene | None = None
        """The present view of it; None where another one is needed."""
        self.propeller = 0.6
        self.stands: dict[str, CallOut] = {}
        self._notes = Notes(QRect(), {})
        self._spinning: dict[str, bool] = {}
        self._wanted: list[QRectF] = []
        self._drag: QPointF | None = None
        self._dragged = False
        self.painted = 0
        simulation.model_changed.connect(self._model_changed)
        simulation.live_changed.connect(self._refresh)
        simulation.chosen_changed.connect(self._stale)
        simulation.turned.connect(self._turn_propeller)
        look.follow(self, self._stale)
        self._model_changed()

    def sizeHint(self) -> QSize:
        return QSize(620, 350)

    # -- state -----------------------------------------------------------------------------------

    def _model_changed(self) -> None:
        model = self.simulation.state.model
        airframe = model.airframe if model else None
        if airframe is not self._kind:
            self._kind = airframe
            self.solid = solid(airframe) if airframe else None
            self._stale()

    def _stale(self) -> None:
        self.scene = None
        self.update()

    def set_view(self, name: str) -> None:
        """Look from ``behind``, ``above`` or the ``side``."""
        self._turn, self._rise = VIEWS[name]
        self._stale()

    def set_exaggeration(self, factor: float) -> None:
        """Draw deflections this many times as large; the picture says so."""
        self.exaggeration = factor
        self.exaggerated.emit()
        self._stale()

    def _turn_propeller(self, seconds: float) -> None:
        power = max(self.simulation.state.powers().values(), default=0.0)
        self.propeller = (
            self.propeller + seconds * 2 * np.pi * FASTEST_TURNS * (0.25 + power / 130)
        ) % (2 * np.pi)
        for box in self.scene.discs() if self.scene is not None else ():
            self._ask(box)

    def _refresh(self) -> None:
        """Repaint what the last change of the live state moved, and no more."""
        scene = self.scene
        if scene is None:
            self.update()
            return
        before, spun = list(scene.bounds), self._spinning
        for i in self._stand(scene):
            self._ask(before[i].united(scene.bounds[i]).adjusted(-4, -4, 4, 4))
            note = self._notes.boxes.get(scene.body.hinged[i].name)
            if note is not None:
                self._ask(note.adjusted(-3, -3, 3, 3))
        if spun != self._spinning:
            for box in scene.discs():
                self._ask(box)
        if self.hasFocus():
            self._say()

    def _ask(self, area: QRectF) -> None:
        """Ask for a part of the picture to be painted again."""
        self._wanted.append(area)
        self.update(area.toAlignedRect())

    def _asked(self, event: QPaintEvent | None) -> list[QRectF]:
        """What must be painted: the parts we asked for, or all of it when the window system wants
        more."""
        wanted, self._wanted = self._wanted, []
        region = QRegion(self.rect()) if event is None else event.region()
        rest = region
        for area in wanted:
            rest = rest.subtracted(QRegion(area.toAlignedRect()))
        return wanted if rest.isEmpty() else [QRectF(region.boundingRect())]

    def _stand(self, scene: Scene) -> list[int]:
        """Bring the parts to where they stand now; returns which of them changed."""
        model, result = self.simulation.state.model, self.simulation.state.shown
        self.stands = {} if model is None or result is None else place_callouts(model, result)
        self._spinning = {
            name: power > 0.05 for name, power in self.simulation.state.powers().items()
        }
        return scene.stand(self.stands)

    # -- painting --------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        if self.scene is None or self.scene.size != self.size():
            self._stale()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.solid is None:
            painter.fillRect(self.rect(), look.colour("paper"))
            painter.setPen(look.colour("faint"))
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignCenter,
                "Put a model on the bench to see it here.",
            )
            return
        if self.scene is None:
            foot = look.px(4 if self.bare else NOTE_HEIGHT + 18)
            model = self.simulation.state.model
            motors = model.airframe.motors if model else ()
            frame = Frame(self.size(), self.devicePixelRatioF(), foot)
            self.scene = Scene(
                self.solid, motors, Camera(self._turn, self._rise), frame, self.exaggeration
            )
            self._stand(self.scene)
            self._lay_notes(self.scene)
        region, chosen = self._asked(event), self.simulation.chosen
        painter.drawPixmap(0, 0, self.scene.backdrop)
        self.scene.paint(painter, region, self.stands, chosen, self._spinning, self.propeller)
        if self.simulation.shadow is not None:
            self.scene.paint_ghost(painter, self.simulation.shadow)
        self._notes.paint(painter, region, self.stands, chosen)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        self.painted += 1
        if self.painted == 1:
            self.first_painted.emit()

    # -- call-outs -------------------------------------------------------------------------------

    def _lay_notes(self, scene: Scene) -> None:
        """Give each part that is shown its box; leaders end on the part at neutral, so that they
        stand still."""
        anchors = {}
        for i, hinged in enumerate(() if self.bare else scene.body.hinged):
            stand = self.stands.get(hinged.name)
            if stand is not None and (not stand.small or hinged.name == self.simulation.chosen):
                anchors[hinged.name] = scene.anchor(i)
        self._notes = Notes(self.rect(), anchors)

    # -- mouse and keys --------------------------------------------------------------------------

    def part_at(self, place: QPointF) -> str | None:
        """The moved part under a point, nearest first."""
        for name, box in self._notes.boxes.items():
            if box.contains(place):
                return name
        return self.scene.part_at(place) if self.scene is not None else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._drag, self._dragged = event.position(), False

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._drag is None:
            return
        move = event.position() - self._drag
        if self._dragged or move.manhattanLength() > 5:
            self._dragged = True
            self._turn = (self._turn - move.x() * 0.5) % 360
            self._rise = float(np.clip(self._rise + move.y() * 0.4, -20, 89))
            self._drag = event.position()
            self._stale()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._drag is not None and not self._dragged:
            self.simulation.choose(self.part_at(event.position()))
        self._drag = None

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._say()

    def _say(self) -> None:
        """For the screen reader: where the chosen part stands, else all that is not at rest."""
        model = self.simulation.state.model
        parts = model.airframe.moved() if model is not None else ()
        names = [p.name for p in parts]
        chosen = self.simulation.chosen
        shown = [s for n, s in self.stands.items() if (n == chosen if chosen else not s.small)]
        self.reach(0, len(names))
        words = "; ".join(f"{s.label} {s.words}" for s in shown) or "everything at rest"
        self.speak(names.index(chosen) + 1 if chosen in names else 0, words)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        views = {
            Qt.Key.Key_1: "behind",
            Qt.Key.Key_2: "above",
            Qt.Key.Key_3: "side",
            Qt.Key.Key_B: "behind",
            Qt.Key.Key_O: "above",
            Qt.Key.Key_P: "side",
        }
        key = Qt.Key(event.key())
        if key in views:
            self.set_view(views[key])
        elif key == Qt.Key.Key_E:
            at = EXAGGERATIONS.index(self.exaggeration)
            self.set_exaggeration(EXAGGERATIONS[(at + 1) % len(EXAGGERATIONS)])
        elif key in (Qt.Key.Key_Period, Qt.Key.Key_Comma):
            self._step(1 if key == Qt.Key.Key_Period else -1)
        elif key == Qt.Key.Key_Escape and self.simulation.chosen:
            self.simulation.choose(None)
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        """Choose the next or the previous part."""
        model = self.simulation.state.model
        if model is None:
            return
        names = [p.name for p in model.airframe.moved()]
        if not names:
            return  # an aeroplane that is only begun has nothing that moves
        before_the_first = -1 if by > 0 else 0
        chosen = self.simulation.chosen
        at = names.index(chosen) if chosen in names else before_the_first
        self.simulation.choose(names[(at + by) % len(names)])
