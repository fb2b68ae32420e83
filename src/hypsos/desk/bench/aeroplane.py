"""The aeroplane on the bench: a shaded solid with hinged surfaces, a propeller, and a call-out for each part."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QBrush,
    QColor,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hypsos.core.document import Model
from hypsos.core.solid import Solid, solid
from hypsos.desk.bench.callouts import NOTE_HEIGHT, CallOut, paint_callouts, place_callouts
from hypsos.desk.bench.camera import VIEWS, Camera
from hypsos.desk.theme.look import look
from hypsos.desk.workbench import Workbench

Array = NDArray[np.float64]
LIGHT = np.array([-0.35, -0.5, 0.85]) / np.linalg.norm([-0.35, -0.5, 0.85])
MATERIALS = {
    "wing": "wing", "body": "body", "glass": "glass", "dark": "dark", "surface": "surface", "left tip": "rust",
    "right tip": "sea", "belly": "sea", "wheel": "dark", "metal": "edge",
}  # fmt: skip
EXAGGERATIONS = (1.0, 2.0, 3.0)
FASTEST_TURNS = 2.4
LEVELS = 24


@dataclass
class _Drawn:
    """What the last paint put where, for the mouse."""

    polygons: list[tuple[str, QPolygonF]]


class Aeroplane(QWidget):
    """Shows the model's airframe as it stands now. Touching a surface chooses it; dragging turns the view."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self.setMinimumSize(320, 220)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Aeroplane")
        self.setToolTip(
            "Touch a part to see why it stands there. Drag to turn. 1 behind, 2 above, 3 side, E exaggerate."
        )
        self.exaggeration = 1.0
        self._turn, self._rise = VIEWS["behind"]
        self._solid: Solid | None = None
        self._kind: object = None
        self._camera = Camera(self._turn, self._rise)
        self._backdrop: QPixmap | None = None
        self._fixed: _Batch | None = None
        self._propeller = 0.6
        self._drawn = _Drawn([])
        self._drag: QPointF | None = None
        self._dragged = False
        self.painted = 0
        workbench.model_changed.connect(self._model_changed)
        workbench.live_changed.connect(self.update)
        workbench.chosen_changed.connect(self.update)
        workbench.turned.connect(self._turn_propeller)
        look.changed.connect(self._stale)
        self._model_changed()

    def sizeHint(self) -> QSize:
        return QSize(620, 350)

    # -- state ------------------------------------------------------------------------------------------------------

    def _model_changed(self) -> None:
        model = self.workbench.model
        airframe = model.airframe if model else None
        if airframe is not self._kind:
            self._kind = airframe
            self._solid = solid(airframe) if airframe else None
            self._stale()
        self.update()

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
        self.update()

    def _turn_propeller(self, seconds: float) -> None:
        power = max(self.workbench.powers().values(), default=0.0)
        self._propeller = (self._propeller + seconds * 2 * np.pi * FASTEST_TURNS * (0.25 + power / 130)) % (2 * np.pi)
        self.update()

    # -- painting ---------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._stale()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._solid is None:
            painter.fillRect(self.rect(), look.colour("paper"))
            painter.setPen(look.colour("faint"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Put a model on the bench to see it here.")
            return
        if self._backdrop is None:
            self._backdrop = self._make_backdrop(self._solid)
        painter.drawPixmap(0, 0, self._backdrop)
        stands = self._stands()
        self._paint_solid(painter, self._solid, stands)
        self._paint_notes(painter, stands)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        self.painted += 1

    def _make_backdrop(self, body: Solid) -> QPixmap:
        """Ground, horizon and shadow: they change only with the view."""
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(self.size() * ratio)
        pixmap.setDevicePixelRatio(ratio)
        w, h = self.width(), self.height()
        points = np.concatenate([f.corners.reshape(-1, 3) for f in body.fixed] + [_disc_ends(self.workbench.model)])
        eye = Camera(self._turn, self._rise)
        foot = look.px(NOTE_HEIGHT + 14)
        room = max(80.0, h - foot - look.px(20))
        self._camera = eye.fitted(points, w * 0.92, room * 0.94, w / 2, look.px(12) + room / 2)
        basis = self._camera.basis()
        corners = np.concatenate([f.corners for f in body.fixed])
        normals = np.concatenate([f.normals for f in body.fixed])
        materials = [f.material for f in body.fixed for _ in f.corners]
        self._fixed = _Batch.of(self._camera, basis, corners, normals, materials, [""] * len(corners), 0.0)
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        level = self._rise / 90.0
        horizon = h * (0.34 - 0.9 * level)
        sky = QLinearGradient(0, min(horizon, 0) - h * 0.1, 0, h)
        sky.setColorAt(0.0, look.colour("sky"))
        sky.setColorAt(max(0.02, min(0.9, (horizon + h * 0.1) / (h * 1.1) + 0.3)), look.colour("ground"))
        sky.setColorAt(1.0, look.colour("ground"))
        painter.fillRect(0, 0, w, h, sky)
        low = float(min(f.corners[..., 2].min() for f in body.fixed)) - 0.02 * body.reach_mm
        self._paint_shadow(painter, body, low)
        painter.end()
        return pixmap

    def _paint_shadow(self, painter: QPainter, body: Solid, low: float) -> None:
        shade = QPainterPath()
        shade.setFillRule(Qt.FillRule.WindingFill)
        for outline in body.outlines:
            drop = (outline[:, 2] - low)[:, None] / LIGHT[2]
            ground = outline - drop * LIGHT
            one = QPainterPath()
            one.addPolygon(_polygon(self._camera.pixels(ground)))
            one.closeSubpath()
            shade = shade.united(one)
        for width, alpha in ((16, 14), (9, 18), (3, 26)):
            painter.setPen(QPen(look.colour("shadow", alpha), width, join=Qt.PenJoinStyle.RoundJoin))
            painter.setBrush(look.colour("shadow", alpha))
            painter.drawPath(shade)

    def _paint_solid(self, painter: QPainter, body: Solid, stands: dict[str, CallOut]) -> None:
        fixed = self._fixed
        assert fixed is not None
        basis = self._camera.basis()
        corners, normals, parts, materials = [], [], [], []
        for hinged in body.hinged:
            stand = stands.get(hinged.name)
            faces = hinged.turned(stand.deg * self.exaggeration if stand else 0.0)
            corners.append(faces.corners)
            normals.append(faces.normals)
            parts += [faces.part] * len(faces.corners)
            materials += [faces.material] * len(faces.corners)
        moved = (
            _Batch.of(self._camera, basis, np.concatenate(corners), np.concatenate(normals), materials, parts, 3.0)
            if corners
            else _Batch.empty()
        )
        depths = np.concatenate([fixed.depth, moved.depth])
        count = len(fixed.polygons)
        propellers = self._propeller_depths(basis)
        drawn: list[tuple[str, QPolygonF]] = []
        ink: tuple[str, int] | None = None
        for i in np.argsort(depths, kind="stable").tolist():
            while propellers and propellers[0][0] <= depths[i]:
                self._paint_propeller(painter, propellers.pop(0)[1])
                ink = None
            batch, k = (fixed, i) if i < count else (moved, i - count)
            if batch.inks[k] != ink:
                ink = batch.inks[k]
                pen, brush = _ramp(ink[0])[ink[1]]
                painter.setPen(pen)
                painter.setBrush(brush)
            painter.drawPolygon(batch.polygons[k])
            if i >= count:
                name = batch.parts[k]
                drawn.append((name, batch.polygons[k]))
                stand = stands.get(name)
                if stand is not None and (stand.cut or stand.failsafe):
                    _hatch(painter, batch.polygons[k], stand.failsafe)
                    ink = None
        for _, which in propellers:
            self._paint_propeller(painter, which)
        self._drawn = _Drawn(drawn)
        self._paint_edges(painter, body, stands, self.workbench.chosen)

    def _paint_edges(self, painter: QPainter, body: Solid, stands: dict[str, CallOut], chosen: str | None) -> None:
        """Hinge lines, and for the chosen surface its outline and where neutral was."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for hinged in body.hinged:
            stand = stands.get(hinged.name)
            deg = stand.deg * self.exaggeration if stand else 0.0
            mine = hinged.name == chosen
            edge = self._camera.pixels(hinged.edge_at(deg))
            if abs(deg) > 0.4 and hinged.faces.material == "surface":
                neutral = self._camera.pixels(hinged.trailing_edge)
                painter.setPen(QPen(look.colour("ink", 150), 1.0, Qt.PenStyle.DotLine))
                painter.drawLine(_point(neutral[0]), _point(neutral[1]))
                for a, b in zip(neutral, edge, strict=True):
                    painter.drawLine(_point(a), _point(b))
            if mine:
                hinge = self._camera.pixels(hinged.hinge)
                painter.setPen(QPen(look.colour("ink"), 2.0))
                painter.drawPolygon(_polygon(np.array([hinge[0], hinge[1], edge[1], edge[0]])))

    def _propeller_depths(self, basis: Array) -> list[tuple[float, int]]:
        model = self.workbench.model
        motors = model.airframe.motors if model else ()
        return sorted((float(np.array([m.x_mm, m.y_mm, m.z_mm]) @ basis[2]), i) for i, m in enumerate(motors))

    def _paint_propeller(self, painter: QPainter, index: int) -> None:
        model = self.workbench.model
        assert model is not None
        motor = model.airframe.motors[index]
        power = self.workbench.powers().get(motor.name, 0.0)
        hub = np.array([motor.x_mm, motor.y_mm, motor.z_mm])
        radius = motor.propeller_mm / 2
        angle = np.linspace(0, 2 * np.pi, 49)
        rim = hub + radius * np.stack([np.zeros(49), np.cos(angle), np.sin(angle)], axis=1)
        if power > 0.05:
            painter.setPen(QPen(look.colour("ink", 70), 1.0))
            painter.setBrush(look.colour("ink", 26))
            painter.drawPolygon(_polygon(self._camera.pixels(rim)))
        root, tip = 0.10 * radius, 0.055 * radius
        for blade in (0.0, np.pi):
            a = self._propeller + blade
            along, across = np.array([0, np.cos(a), np.sin(a)]), np.array([0.35, -np.sin(a), np.cos(a)])
            shape = np.array(
                [
                    hub + along * radius * r + across * w
                    for r, w in (
                        (0.05, root * 0.6), (0.35, root), (0.8, tip * 1.5), (1.0, tip * 0.4), (1.0, -tip * 0.4),
                        (0.8, -tip), (0.35, -root * 0.7), (0.05, -root * 0.6),
                    )
                ]
            )  # fmt: skip
            painter.setPen(QPen(look.colour("dark"), 0.7))
            painter.setBrush(look.colour("dark", 110 if power > 0.05 else 255))
            painter.drawPolygon(_polygon(self._camera.pixels(shape)))
        nose = self._camera.pixels(np.array([hub - [0.13 * radius, 0, 0], hub]))
        size = max(4.0, 0.115 * radius * self._camera.scale)
        painter.setPen(QPen(look.colour("dark"), 0.7))
        painter.setBrush(look.colour("rust"))
        for place in (nose[1], nose[0]):
            painter.drawEllipse(_point(place), size, size)

    # -- call-outs --------------------------------------------------------------------------------------------------

    def _stands(self) -> dict[str, CallOut]:
        model, result = self.workbench.model, self.workbench.live.result
        if model is None or result is None:
            return {}
        return place_callouts(model, result)

    def _paint_notes(self, painter: QPainter, stands: dict[str, CallOut]) -> None:
        assert self._solid is not None
        anchors = {}
        for hinged in self._solid.hinged:
            stand = stands.get(hinged.name)
            if stand is not None and (not stand.small or hinged.name == self.workbench.chosen):
                edge = self._camera.pixels(hinged.edge_at(stand.deg * self.exaggeration))
                anchors[hinged.name] = edge.mean(axis=0)
        self._drawn.polygons += paint_callouts(painter, self.rect(), stands, anchors, self.workbench.chosen)
        if self.exaggeration != 1.0:
            painter.setFont(look.font(0.9, bold=True))
            painter.setPen(look.colour("rust"))
            said = f"Movements drawn {self.exaggeration:.0f} times as large"
            painter.drawText(
                QRectF(0, self.height() - look.px(22), self.width(), look.px(18)), Qt.AlignmentFlag.AlignCenter, said
            )

    # -- mouse and keys ---------------------------------------------------------------------------------------------

    def part_at(self, place: QPointF) -> str | None:
        """The moved part under a point, nearest first."""
        for name, polygon in reversed(self._drawn.polygons):
            if polygon.containsPoint(place, Qt.FillRule.OddEvenFill):
                return name
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


@dataclass
class _Batch:
    """Faces that are seen, ready to paint: depth, polygon, (material, light), part."""

    depth: Array
    polygons: list[QPolygonF]
    inks: list[tuple[str, int]]
    parts: list[str]

    @staticmethod
    def empty() -> _Batch:
        return _Batch(np.zeros(0), [], [], [])

    @staticmethod
    def of(
        camera: Camera,
        basis: Array,
        corners: Array,
        normals: Array,
        materials: list[str],
        parts: list[str],
        nearer: float,
    ) -> _Batch:
        seen = np.flatnonzero(normals @ basis[2] > 0.0)
        corners = corners[seen]
        light = 0.58 + 0.42 * np.clip(normals[seen] @ LIGHT, -0.35, 1.0)
        levels = np.clip((light * LEVELS).astype(int), 0, LEVELS).tolist()
        flat = camera.pixels(corners).tolist()
        polygons = [QPolygonF([QPointF(x, y) for x, y in quad]) for quad in flat]
        places = seen.tolist()
        inks = [(materials[i], level) for i, level in zip(places, levels, strict=True)]
        return _Batch(corners.mean(axis=1) @ basis[2] + nearer, polygons, inks, [parts[i] for i in places])


_ramps: dict[tuple[str, str], list[tuple[QPen, QBrush]]] = {}


def _ramp(material: str) -> list[tuple[QPen, QBrush]]:
    """A material's pens and brushes from shade to light."""
    key = (look.palette.name, material)
    found = _ramps.get(key)
    if found is None:
        base = look.colour(MATERIALS[material])
        found = []
        for i in range(LEVELS + 1):
            level = 1.04 * i / LEVELS
            tint = QColor(*(min(255, int(c * level)) for c in (base.red(), base.green(), base.blue())))
            found.append((QPen(tint, 0.7), QBrush(tint)))
        _ramps[key] = found
    return found


def _hatch(painter: QPainter, polygon: QPolygonF, crossed: bool) -> None:
    """Lines over a face: slanting where it is cut off, crossed where the failsafe holds it."""
    style = Qt.BrushStyle.DiagCrossPattern if crossed else Qt.BrushStyle.BDiagPattern
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(look.colour("dark"), style))
    painter.drawPolygon(polygon)


def _point(xy: Array) -> QPointF:
    return QPointF(float(xy[0]), float(xy[1]))


def _polygon(xy: Array) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in xy.tolist()])
