# SPDX-License-Identifier: GPL-3.0-or-later
"""The aeroplane from above as a sketch; the part at hand has handles to drag."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.figure_words import number
from hypsos.core.parts.airframe import PLATES, Airframe, Fuselage, Motor, Panel, Surface
from hypsos.core.shape.measures import pieces
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.picture import Picture

GRAB = 9.0


class Planform(Picture):
    """Signals the part that was touched, and figures as a handle is dragged (path, field, value,
    and whether it was let go)."""

    chosen = pyqtSignal(str)
    dragged = pyqtSignal(str, str, float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Aeroplane from above", parent)
        self.body: Airframe | None = None
        self.path = ""
        self._held: str | None = None
        self.setMouseTracking(True)
        self.setToolTip("Touch a part to measure it; drag its round handles.")
        look.follow(self, self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(look.px(400), look.px(230))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(240), look.px(200))

    def show_body(self, body: Airframe, path: str) -> None:
        """Show an airframe with the part at this path at hand."""
        self.body, self.path = body, path
        span = max([2 * (p.half_span_mm + p.y_mm) for p in body.panels], default=0.0)
        parts = ", ".join(part.label for part in body.moved())
        self.tell(f"{number(span)} mm across; it moves {parts or 'nothing yet'}")
        self.update()

    # -- places ----------------------------------------------------------------------------------

    def scale(self) -> tuple[float, QPointF]:
        """Pixels per millimetre, and the pixel of the nose. The nose points up."""
        assert self.body is not None
        half = max([p.half_span_mm + p.y_mm for p in self.body.panels] + [100.0])
        front = min([0.0] + [m.x_mm for m in self.body.motors])
        back = max(
            [self.body.fuselage.length_mm]
            + [p.x_mm + p.sweep_mm + p.tip_chord_mm for p in self.body.panels]
        )
        scale = min((self.width() - 24) / (2 * half), (self.height() - 24) / (back - front))
        top = (self.height() - scale * (back - front)) / 2
        return scale, QPointF(self.width() / 2, top - scale * front)

    def point(self, x_mm: float, y_mm: float) -> QPointF:
        """Where a place of the aeroplane lies on the widget."""
        scale, nose = self.scale()
        return QPointF(nose.x() + scale * y_mm, nose.y() + scale * x_mm)

    def place(self, at: QPointF) -> tuple[float, float]:
        """The place of the aeroplane under a point of the widget: x aft and y right, in
        millimetres."""
        scale, nose = self.scale()
        return (at.y() - nose.y()) / scale, (at.x() - nose.x()) / scale

    def panel_shape(self, p: Panel, side: float) -> QPolygonF:
        if p.arrangement != "pair":
            y, w = side * p.y_mm, 0.04 * p.root_chord_mm
            return QPolygonF(
                [
                    self.point(p.x_mm, y - w),
                    self.point(p.x_mm, y + w),
                    self.point(p.x_mm + p.root_chord_mm, y + w),
                    self.point(p.x_mm + p.root_chord_mm, y - w),
                ]
            )
        h, tip = side * p.half_span_mm, p.x_mm + p.sweep_mm
        return QPolygonF(
            [
                self.point(p.x_mm, 0),
                self.point(tip, h),
                self.point(tip + p.tip_chord_mm, h),
                self.point(p.x_mm + p.root_chord_mm, 0),
            ]
        )

    def _edge(self, p: Panel, eta: float, back: float) -> float:
        """x of a point ``back`` millimetres ahead of the trailing edge."""
        return p.x_mm + p.sweep_mm * eta / p.half_span_mm + p.chord_at(eta) - back

    def surface_shape(self, s: Surface, p: Panel, side: float) -> QPolygonF:
        if p.arrangement != "pair":
            y, w, back = side * p.y_mm, 0.05 * p.root_chord_mm, p.x_mm + p.root_chord_mm
            return QPolygonF(
                [
                    self.point(back - s.chord_mm, y - w),
                    self.point(back - s.chord_mm, y + w),
                    self.point(back, y + w),
                    self.point(back, y - w),
                ]
            )
        ahead = 0.52 * p.chord_at(s.start_mm) if s.role in PLATES else s.chord_mm
        behind = ahead - s.chord_mm if s.role in PLATES else 0.0
        if s.all_moving:
            corners = (
                (s.start_mm, p.chord_at(s.start_mm)),
                (s.end_mm, p.chord_at(s.end_mm)),
                (s.end_mm, 0.0),
                (s.start_mm, 0.0),
            )
            return QPolygonF([self.point(self._edge(p, e, b), side * e) for e, b in corners])
        corners = ((s.start_mm, ahead), (s.end_mm, ahead), (s.end_mm, behind), (s.start_mm, behind))
        return QPolygonF([self.point(self._edge(p, e, b), side * e) for e, b in corners])

    def handles(self) -> dict[str, tuple[QPointF, Callable[[float, float], dict[str, float]]]]:
        """Handle -> where it is, and what dragging it to a place (x, y in millimetres) changes."""
        body = self.body
        if body is None or "[" not in self.path:
            return {}
        group, _, index = self.path.partition("[")
        items = getattr(body, group)
        if int(index[:-1]) >= len(items):
            return {}
        part = items[int(index[:-1])]
        if isinstance(part, Panel) and part.arrangement == "pair":
            h, tip = part.half_span_mm, part.x_mm + part.sweep_mm
            return {
                "root": (self.point(part.x_mm, 0), lambda x, _y: {"x_mm": x}),
                "tip": (
                    self.point(tip, h),
                    lambda x, y: {"span_mm": 2 * y, "sweep_mm": x - part.x_mm},
                ),
                "tip chord": (
                    self.point(tip + part.tip_chord_mm, h),
                    lambda x, _y: {"tip_chord_mm": x - tip},
                ),
                "root chord": (
                    self.point(part.x_mm + part.root_chord_mm, 0),
                    lambda x, _y: {"root_chord_mm": x - part.x_mm},
                ),
            }
        if (
            isinstance(part, Surface)
            and (panel := body.panel(part.panel)) is not None
            and panel.arrangement == "pair"
        ):
            side = -1.0 if part.side == "left" else 1.0
            middle = (part.start_mm + part.end_mm) / 2

            def end(
                field: str, eta: float
            ) -> tuple[QPointF, Callable[[float, float], dict[str, float]]]:
                at = self.point(self._edge(panel, eta, part.chord_mm / 2), side * eta)
                return at, lambda _x, y: {field: abs(y)}

            return {
                "inner end": end("start_mm", part.start_mm),
                "outer end": end("end_mm", part.end_mm),
                "hinge": (
                    self.point(self._edge(panel, middle, part.chord_mm), side * middle),
                    lambda x, _y: {"chord_mm": self._edge(panel, middle, 0.0) - x},
                ),
            }
        if isinstance(part, Motor):
            return {
                "motor": (
                    self.point(part.x_mm, part.y_mm),
                    lambda x, y: {"x_mm": x} | ({"y_mm": y} if part.y_mm else {}),
                )
            }
        return {}

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        body = self.body
        if body is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, panel in enumerate(body.panels):
            painter.setPen(self._pen(f"panels[{i}]"))
            painter.setBrush(look.colour("field"))
            sides = (0.0,) if panel.arrangement == "single" else (-1.0, 1.0)
            for side in sides:
                painter.drawPolygon(self.panel_shape(panel, side))
        self._paint_fuselage(painter, body.fuselage)
        for i, surface in enumerate(body.surfaces):
            painter.setPen(self._pen(f"surfaces[{i}]"))
            painter.setBrush(look.colour("surface"))
            self._paint_surface(painter, body, surface)
        for i, motor in enumerate(body.motors):
            painter.setPen(self._pen(f"motors[{i}]"))
            half = motor.propeller_mm / 2
            left = self.point(motor.x_mm, motor.y_mm - half)
            painter.drawLine(left, self.point(motor.x_mm, motor.y_mm + half))
        painter.setPen(QPen(look.colour("on_sea"), 1.5))
        painter.setBrush(look.colour("sea"))
        for at, _ in self.handles().values():
            painter.drawEllipse(at, 5.5, 5.5)

    def _pen(self, path: str) -> QPen:
        """The outline of a part: stronger for the one that is chosen."""
        if self.path == path:
            return QPen(look.colour("ink"), 2.0)
        return QPen(look.colour("edge"), 1.2)

    def _paint_fuselage(self, painter: QPainter, fuselage: Fuselage) -> None:
        """Its outline from nose to tail, and the same mirrored."""
        painter.setPen(self._pen("fuselage"))
        painter.setBrush(look.colour("card"))
        length, half = fuselage.length_mm, fuselage.width_mm / 2
        outline = [(0.0, 0.2), (0.08, 0.7), (0.3, 1.0), (0.5, 0.7), (1.0, 0.18)]
        right = [self.point(along * length, wide * half) for along, wide in outline]
        middle = self.point(length * 0.3, 0).x()
        left = [QPointF(2 * middle - q.x(), q.y()) for q in reversed(right)]
        painter.drawPolygon(QPolygonF([*right, *left]))

    def _paint_surface(self, painter: QPainter, body: Airframe, surface: Surface) -> None:
        """A surface on its side of its panel, or on both."""
        panel = body.panel(surface.panel)
        if panel is None:
            return
        sides = {"left": (-1.0,), "right": (1.0,)}.get(surface.side, (-1.0, 1.0))
        if panel.arrangement == "single":
            sides = (0.0,)
        for side in sides:
            painter.drawPolygon(self.surface_shape(surface, panel, side))

    # -- hands -----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        near = [
            (QPointF(at - p).manhattanLength(), name) for name, (p, _) in self.handles().items()
        ]
        if near and min(near)[0] < 2 * GRAB:
            self._held = min(near)[1]
            return
        found = self.part_at(at)
        if found:
            self.chosen.emit(found)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._held is None or self.body is None:
            near = any(
                QPointF(event.position() - p).manhattanLength() < 2 * GRAB
                for p, _ in self.handles().values()
            )
            self.setCursor(Qt.CursorShape.OpenHandCursor if near else Qt.CursorShape.ArrowCursor)
            return
        x, y = self.place(event.position())
        for field, value in self.handles()[self._held][1](x, y).items():
            self.dragged.emit(self.path, field, float(round(value)))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._held = None

    def part_at(self, at: QPointF) -> str:
        body = self.body
        if body is None:
            return ""
        known = {path for path, _, _ in pieces(body)}
        # what is drawn last lies on top
        for i, motor in enumerate(body.motors):
            half = motor.propeller_mm / 2
            left = self.point(motor.x_mm, motor.y_mm - half)
            right = self.point(motor.x_mm, motor.y_mm + half)
            if QRectF(left, right).adjusted(-3, -6, 3, 6).contains(at):
                return self._known(f"motors[{i}]", known)
        for i, surface in enumerate(body.surfaces):
            if self._on_surface(surface, at):
                return self._known(f"surfaces[{i}]", known)
        for i, panel in reversed(list(enumerate(body.panels))):
            shapes = [self.panel_shape(panel, side) for side in (-1.0, 0.0, 1.0)]
            if any(shape.containsPoint(at, Qt.FillRule.OddEvenFill) for shape in shapes):
                return f"panels[{i}]"
        return "fuselage" if abs(self.place(at)[1]) < body.fuselage.width_mm else ""

    def _on_surface(self, surface: Surface, at: QPointF) -> bool:
        """Whether a point lies on a surface, on the side on which it sits."""
        assert self.body is not None
        panel = self.body.panel(surface.panel)
        if panel is None:
            return False
        other_side = {"left": 1.0, "right": -1.0}.get(surface.side)
        for side in (-1.0, 0.0, 1.0):
            shape = self.surface_shape(surface, panel, side)
            if side != other_side and shape.containsPoint(at, Qt.FillRule.OddEvenFill):
                return True
        return False

    def _known(self, path: str, known: set[str]) -> str:
        """The path, or that of the part on the left that stands for both."""
        from hypsos.core.shape.measures import twin

        assert self.body is not None
        if path in known:
            return path
        group, _, index = path.partition("[")
        return twin(self.body, getattr(self.body, group)[int(index[:-1])]) or path
