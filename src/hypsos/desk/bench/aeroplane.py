"""The aeroplane on the bench: a shaded solid with hinged surfaces, a propeller, and a call-out for each part."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QRegion,
    QResizeEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hypsos.core.model.document import Model
from hypsos.core.parts.airframe import Motor
from hypsos.core.shape.solid import Solid, solid
from hypsos.desk.bench.callouts import NOTE_HEIGHT, CallOut, note_boxes, paint_callouts, place_callouts
from hypsos.desk.bench.camera import VIEWS, Camera
from hypsos.desk.bench.faces import LIGHT, Batch, blend, hatch, polygon, ramp
from hypsos.desk.bench.handle import Spoken
from hypsos.desk.bench.propeller import disc_box, paint_propeller
from hypsos.desk.livebench import LiveBench
from hypsos.desk.theme.look import look

Array = NDArray[np.float64]
EXAGGERATIONS = (1.0, 2.0, 3.0)
FASTEST_TURNS = 2.4


SHADOW = 5
"""Pixels of the bench for one of the shadow, which is painted small."""


class Aeroplane(Spoken):
    """Shows the model's airframe as it stands now. Touching a surface chooses it; dragging turns the view."""

    first_painted = pyqtSignal()
    exaggerated = pyqtSignal()
    """The aeroplane is on the screen for the first time."""

    def __init__(self, workbench: LiveBench, parent: QWidget | None = None, bare: bool = False) -> None:
        super().__init__("Aeroplane", 0, 0, parent)
        self.workbench = workbench
        self.bare = bare
        """A bare picture has no call-outs."""
        self.setMinimumSize(60 if bare else 220, 60 if bare else 150)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setToolTip(
            "Touch a part to see why it stands there. Drag to turn. 1 behind, 2 above, 3 side, E exaggerate."
        )
        self.exaggeration = 1.0
        self._turn, self._rise = VIEWS["behind"]
        self.solid: Solid | None = None
        self._kind: object = None
        self._camera = Camera(self._turn, self._rise)
        self._backdrop: QPixmap | None = None
        self._fixed: Batch | None = None
        self.propeller = 0.6
        self.stands: dict[str, CallOut] = {}
        self.moved: list[Batch] = []
        self._keys: list[object] = []
        self._edges: list[tuple[Array, ...]] = []
        self._notes: dict[str, QRectF] = {}
        self._anchors: dict[str, Array] = {}
        self._spinning: dict[str, bool] = {}
        self._wanted: list[QRectF] = []
        self._drag: QPointF | None = None
        self._dragged = False
        self.painted = 0
        workbench.model_changed.connect(self._model_changed)
        workbench.live_changed.connect(self._refresh)
        workbench.chosen_changed.connect(self._stale)
        workbench.turned.connect(self._turn_propeller)
        look.follow(self, self._stale)
        self._model_changed()

    def sizeHint(self) -> QSize:
        return QSize(620, 350)

    # -- state ------------------------------------------------------------------------------------------------------

    def _model_changed(self) -> None:
        model = self.workbench.model
        airframe = model.airframe if model else None
        if airframe is not self._kind:
            self._kind = airframe
            self.solid = solid(airframe) if airframe else None
            self._stale()

    def _stale(self) -> None:
        self._backdrop = None
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
        power = max(self.workbench.powers().values(), default=0.0)
        self.propeller = (self.propeller + seconds * 2 * np.pi * FASTEST_TURNS * (0.25 + power / 130)) % (2 * np.pi)
        for motor in self._motors():
            self._ask(disc_box(self._camera, motor))

    def _motors(self) -> tuple[Motor, ...]:
        return self.workbench.model.airframe.motors if self.workbench.model else ()

    def _refresh(self) -> None:
        """Repaint what the last change of the live state moved, and no more."""
        if self._backdrop is None or self.solid is None:
            self.update()
            return
        before, spun = [b.bounds() for b in self.moved], self._spinning
        for i in self._prepare(self.solid):
            around = before[i].united(self.moved[i].bounds()) if i < len(before) else QRectF(self.rect())
            self._ask(around.adjusted(-4, -4, 4, 4))
            note = self._notes.get(self.solid.hinged[i].name)
            if note is not None:
                self._ask(note.adjusted(-3, -3, 3, 3))
        if spun != self._spinning:
            for motor in self._motors():
                self._ask(disc_box(self._camera, motor))
        if self.hasFocus():
            self._say()

    def _ask(self, area: QRectF) -> None:
        """Ask for a part of the picture to be painted again."""
        self._wanted.append(area)
        self.update(area.toAlignedRect())

    def _asked(self, event: QPaintEvent | None) -> list[QRectF]:
        """What must be painted: the parts we asked for, or all of it when the window system wants more."""
        wanted, self._wanted = self._wanted, []
        region = QRegion(self.rect()) if event is None else event.region()
        rest = region
        for area in wanted:
            rest = rest.subtracted(QRegion(area.toAlignedRect()))
        return wanted if rest.isEmpty() else [QRectF(region.boundingRect())]

    def _prepare(self, body: Solid) -> list[int]:
        """Bring the hinged parts to where they stand now; returns which of them changed."""
        model, result = self.workbench.model, self.workbench.shown
        self.stands = {} if model is None or result is None else place_callouts(model, result)
        if len(self.moved) != len(body.hinged):
            self.moved = [Batch.empty()] * len(body.hinged)
            self._keys = [None] * len(body.hinged)
            self._edges = [()] * len(body.hinged)
        self._spinning = {name: power > 0.05 for name, power in self.workbench.powers().items()}
        basis = self._camera.basis()
        changed = []
        for i, hinged in enumerate(body.hinged):
            stand = self.stands.get(hinged.name)
            if self._keys[i] == (stand, self.exaggeration):
                continue
            self._keys[i] = (stand, self.exaggeration)
            faces = hinged.turned(stand.deg * self.exaggeration if stand else 0.0)
            count = len(faces.corners)
            self.moved[i] = Batch.of(
                self._camera, basis, faces.corners, faces.normals, [faces.material] * count, [faces.part] * count, 3.0
            )
            ends = (hinged.hinge, hinged.trailing_edge, hinged.edge_at(stand.deg * self.exaggeration if stand else 0.0))
            self._edges[i] = tuple(self._camera.pixels(e) for e in ends)
            changed.append(i)
        return changed

    # -- painting ---------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._stale()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.solid is None:
            painter.fillRect(self.rect(), look.colour("paper"))
            painter.setPen(look.colour("faint"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Put a model on the bench to see it here.")
            return
        if self._backdrop is None:
            self._backdrop = self._make_backdrop(self.solid)
            self.moved = []
            self._prepare(self.solid)
            self._lay_notes(self.solid)
        region = self._asked(event)
        painter.drawPixmap(0, 0, self._backdrop)
        self._paint_solid(painter, self.solid, region)
        self._paint_notes(painter, region)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        self.painted += 1
        if self.painted == 1:
            self.first_painted.emit()

    def _make_backdrop(self, body: Solid) -> QPixmap:
        """Ground, horizon and shadow: they change only with the view."""
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(self.size() * ratio)
        pixmap.setDevicePixelRatio(ratio)
        w, h = self.width(), self.height()
        points = np.concatenate([f.corners.reshape(-1, 3) for f in body.fixed] + [_disc_ends(self.workbench.model)])
        eye = Camera(self._turn, self._rise)
        foot = look.px(4 if self.bare else NOTE_HEIGHT + 18)
        room = max(80.0, h - foot - look.px(20))
        self._camera = eye.fitted(points, w * 0.92, room * 0.94, w / 2, look.px(12) + room / 2)
        basis = self._camera.basis()
        corners = np.concatenate([f.corners for f in body.fixed])
        normals = np.concatenate([f.normals for f in body.fixed])
        materials = [f.material for f in body.fixed for _ in f.corners]
        fixed = Batch.of(self._camera, basis, corners, normals, materials, [""] * len(corners), 0.0)
        self._fixed = fixed.only(self._over_moving(body, fixed))
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        level = self._rise / 90.0
        horizon = h * (0.34 - 0.9 * level)
        for y in range(0, h, 4):
            share = max(0.0, min(1.0, (y - min(horizon, 0.0)) / (h * 0.62 + max(horizon, 0.0))))
            painter.fillRect(0, y, w, 4, blend(look.colour("sky"), look.colour("ground"), share))
        low = float(min(f.corners[..., 2].min() for f in body.fixed)) - 0.02 * body.reach_mm
        self._paint_shadow(painter, body, low)
        for i in np.argsort(fixed.depth, kind="stable").tolist():
            pen, brush = ramp(fixed.inks[i][0])[fixed.inks[i][1]]
            painter.setPen(pen)
            painter.setBrush(brush)
            painter.drawPolygon(fixed.polygons[i])
        painter.end()
        return pixmap

    def _over_moving(self, body: Solid, fixed: Batch) -> list[int]:
        """The fixed faces that lie, or may come to lie, in front of something that moves; the others stay in the backdrop."""
        towards = self._camera.basis()[2]
        quads: list[Array] = []  # (faces, corners at all angles, 3)
        for hinged in body.hinged:
            furthest = min(75.0, 60.0 * self.exaggeration)
            turned = [hinged.turned(d).corners for d in (-furthest, -furthest / 2, 0.0, furthest / 2, furthest)]
            quads += list(np.concatenate(turned, axis=1))
        discs = _disc_ends(self.workbench.model)
        for k in range(0, len(discs), 4):
            hub = discs[k : k + 4].mean(axis=0)
            quads.append(hub + 1.2 * (discs[k : k + 4] - hub))
        if not quads or not fixed.polygons:
            return []
        pixels = [self._camera.pixels(q) for q in quads]
        low = np.array([p.min(axis=0) for p in pixels]) - 2
        high = np.array([p.max(axis=0) for p in pixels]) + 2
        far = np.array([float((q @ towards).min()) for q in quads])
        begin, end = fixed.boxes[:, :2], fixed.boxes[:, 2:]
        meets = np.all((begin[:, None] < high) & (end[:, None] > low), axis=2) & (fixed.depth[:, None] > far - 5)
        return [int(i) for i in np.flatnonzero(meets.any(axis=1))]

    def _paint_shadow(self, painter: QPainter, body: Solid, low: float) -> None:
        """Painted small and drawn large, which makes its edge soft."""
        small = QPixmap(self.width() // SHADOW + 1, self.height() // SHADOW + 1)
        small.fill(Qt.GlobalColor.transparent)
        brush = QPainter(small)
        brush.setRenderHint(QPainter.RenderHint.Antialiasing)
        brush.scale(1 / SHADOW, 1 / SHADOW)
        brush.setPen(QPen(look.colour("shadow"), SHADOW, join=Qt.PenJoinStyle.RoundJoin))
        brush.setBrush(look.colour("shadow"))
        for outline in body.outlines:
            drop = (outline[:, 2] - low)[:, None] / LIGHT[2]
            brush.drawPolygon(polygon(self._camera.pixels(outline - drop * LIGHT)))
        brush.end()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setOpacity(0.2)
        painter.drawPixmap(QRectF(0, 0, small.width() * SHADOW, small.height() * SHADOW), small, QRectF(small.rect()))
        painter.setOpacity(1.0)

    def _paint_solid(self, painter: QPainter, body: Solid, region: list[QRectF]) -> None:
        fixed = self._fixed
        assert fixed is not None
        every = Batch.joined([fixed, *self.moved])
        wanted = np.flatnonzero(every.within(region))
        towards = self._camera.basis()[2]
        propellers = sorted(
            ((float(np.array([m.x_mm, m.y_mm, m.z_mm]) @ towards), m) for m in self._motors()), key=lambda p: p[0]
        )
        ink: tuple[str, int] | None = None
        for i in wanted[np.argsort(every.depth[wanted], kind="stable")].tolist():
            while propellers and propellers[0][0] <= every.depth[i]:
                self._paint_propeller(painter, propellers.pop(0)[1])
                ink = None
            if every.inks[i] != ink:
                ink = every.inks[i]
                pen, brush = ramp(ink[0])[ink[1]]
                painter.setPen(pen)
                painter.setBrush(brush)
            painter.drawPolygon(every.polygons[i])
            stand = self.stands.get(every.parts[i]) if every.parts[i] else None
            if stand is not None and (stand.cut or stand.failsafe):
                hatch(painter, every.polygons[i], stand.failsafe)
                ink = None
        for _, motor in propellers:
            self._paint_propeller(painter, motor)
        self._paint_edges(painter, body, region)

    def _paint_propeller(self, painter: QPainter, motor: Motor) -> None:
        paint_propeller(painter, self._camera, motor, self.propeller, self._spinning.get(motor.name, False))

    def _paint_edges(self, painter: QPainter, body: Solid, region: list[QRectF]) -> None:
        """Where neutral was, and for the chosen surface its outline."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for i, hinged in enumerate(body.hinged):
            hinge, neutral, edge = self._edges[i]
            mine = hinged.name == self.workbench.chosen
            bounds = self.moved[i].bounds().adjusted(-6, -6, 6, 6)
            if not any(bounds.intersects(r) for r in region):
                continue
            stand = self.stands.get(hinged.name)
            if stand is not None and abs(stand.deg) > 0.4 and hinged.faces.material == "surface":
                painter.setPen(QPen(look.colour("ink", 150), 1.0, Qt.PenStyle.DotLine))
                painter.drawPolyline(polygon(np.array([edge[0], neutral[0], neutral[1], edge[1]])))
            if mine:
                painter.setPen(QPen(look.colour("ink"), 2.0))
                painter.drawPolygon(polygon(np.array([hinge[0], hinge[1], edge[1], edge[0]])))

    # -- call-outs --------------------------------------------------------------------------------------------------

    def _lay_notes(self, body: Solid) -> None:
        """Give each part that is shown its box; leaders end on the part at neutral, so that they stand still."""
        self._anchors = {}
        for hinged in () if self.bare else body.hinged:
            stand = self.stands.get(hinged.name)
            if stand is not None and (not stand.small or hinged.name == self.workbench.chosen):
                middle = np.concatenate([hinged.hinge, hinged.trailing_edge]).mean(axis=0)
                self._anchors[hinged.name] = self._camera.pixels(middle)
        self._notes = note_boxes(self.rect(), self._anchors)

    def _paint_notes(self, painter: QPainter, region: list[QRectF]) -> None:
        paint_callouts(painter, region, self._notes, self.stands, self._anchors, self.workbench.chosen)

    # -- mouse and keys ---------------------------------------------------------------------------------------------

    def part_at(self, place: QPointF) -> str | None:
        """The moved part under a point, nearest first."""
        for name, box in self._notes.items():
            if box.contains(place):
                return name
        every = Batch.joined(self.moved)
        for i in reversed(np.argsort(every.depth).tolist()):
            if every.polygons[i].containsPoint(place, Qt.FillRule.OddEvenFill):
                found: str = every.parts[i]
                return found
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
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
            self.workbench.choose(self.part_at(event.position()))
        self._drag = None

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._say()

    def _say(self) -> None:
        """For the screen reader: where the chosen part stands, else all that is not at rest."""
        model = self.workbench.model
        parts = model.airframe.moved() if model is not None else ()
        names = [p.name for p in parts]
        chosen = self.workbench.chosen
        shown = [s for n, s in self.stands.items() if (n == chosen if chosen else not s.small)]
        self.setRange(0, len(names))
        words = "; ".join(f"{s.label} {s.words}" for s in shown) or "everything at rest"
        self.speak(names.index(chosen) + 1 if chosen in names else 0, words)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        views = {Qt.Key.Key_1: "behind", Qt.Key.Key_2: "above", Qt.Key.Key_3: "side"}
        key = Qt.Key(event.key())
        if key in views:
            self.set_view(views[key])
        elif key == Qt.Key.Key_E:
            at = EXAGGERATIONS.index(self.exaggeration)
            self.set_exaggeration(EXAGGERATIONS[(at + 1) % len(EXAGGERATIONS)])
        elif key in (Qt.Key.Key_Period, Qt.Key.Key_Comma):
            self._step(1 if key == Qt.Key.Key_Period else -1)
        elif key == Qt.Key.Key_Escape and self.workbench.chosen:
            self.workbench.choose(None)
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        """Choose the next or the previous part."""
        model = self.workbench.model
        if model is None:
            return
        names = [p.name for p in model.airframe.moved()]
        at = names.index(self.workbench.chosen) if self.workbench.chosen in names else (-1 if by > 0 else 0)
        self.workbench.choose(names[(at + by) % len(names)])


def _disc_ends(model: Model | None) -> Array:
    """The corners of every propeller's disc, shape (N, 3)."""
    ends = [
        (m.x_mm, m.y_mm + a * m.propeller_mm / 2, m.z_mm + b * m.propeller_mm / 2)
        for m in (model.airframe.motors if model else ())
        for a, b in ((1, 0), (-1, 0), (0, 1), (0, -1))
    ]
    return np.array(ends, float).reshape(-1, 3)
