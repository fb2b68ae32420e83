# SPDX-License-Identifier: GPL-3.0-or-later
"""The aeroplane from above as a sketch; the part at hand has handles to drag."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hypsos.core.parts.airframe import PLATES, Airframe, Motor, Panel, Surface
from hypsos.core.shape.measures import pieces
from hypsos.desk.theme.look import look

GRAB = 9.0


class Planform(QWidget):
    """Signals the part that was touched, and figures as a handle is dragged (path, field, value,
    and whether it was let go)."""

    chosen = pyqtSignal(str)
    dragged = pyqtSignal(str, str, float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.body: Airframe | None = None
        self.path = ""
        self._held: str | None = None
        self.setMouseTracking(True)
        self.setAccessibleName("Aeroplane from above")
        self.setToolTip("Touch a part to measure it; drag its round handles.")
        look.follow(self, self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(look.px(400), look.px(230))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(240), look.px(200))

    def show_body(self, body: Airframe, path: str) -> None:
        """Show an airframe with the part at this path at hand."""
        self.body, self.path = body, path
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
        edge = QPen(look.colour("edge"), 1.2)
        mine = QPen(look.colour("ink"), 2.0)
        for i, p in enumerate(body.panels):
            painter.setPen(mine if self.path == f"panels[{i}]" else edge)
            painter.setBrush(look.colour("field"))
            for side in (-1.0, 1.0) if p.arrangement != "single" else (0.0,):
                painter.drawPolygon(self.panel_shape(p, side))
        f = body.fuselage
        painter.setPen(mine if self.path == "fuselage" else edge)
        painter.setBrush(look.colour("card"))
        middle, tail = self.point(f.length_mm * 0.3, 0), 0.18
        outline = [(0.0, 0.2), (0.08, 0.7), (0.3, 1.0), (0.5, 0.7), (1.0, tail)]
        right = [self.point(a * f.length_mm, w * f.width_mm / 2) for a, w in outline]
        painter.drawPolygon(
            QPolygonF([*right, *(QPointF(2 * middle.x() - q.x(), q.y()) for q in reversed(right))])
        )
        for i, s in enumerate(body.surfaces):
            panel = body.panel(s.panel)
            if panel is None:
                continue
            painter.setPen(mine if self.path == f"surfaces[{i}]" else edge)
            painter.setBrush(look.colour("surface"))
            sides = {"left": (-1.0,), "right": (1.0,)}.get(s.side, (-1.0, 1.0))
            for side in sides if panel.arrangement != "single" else (0.0,):
                painter.drawPolygon(self.surface_shape(s, panel, side))
        for i, m in enumerate(body.motors):
            painter.setPen(mine if self.path == f"motors[{i}]" else edge)
            half = m.propeller_mm / 2
            painter.drawLine(self.point(m.x_mm, m.y_mm - half), self.point(m.x_mm, m.y_mm + half))
        painter.setPen(QPen(look.colour("on_sea"), 1.5))
        painter.setBrush(look.colour("sea"))
        for at, _ in self.handles().values():
            painter.drawEllipse(at, 5.5, 5.5)

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
        for i, m in enumerate(body.motors):
            half = m.propeller_mm / 2
            a, b = self.point(m.x_mm, m.y_mm - half), self.point(m.x_mm, m.y_mm + half)
            if QRectF(a, b).adjusted(-3, -6, 3, 6).contains(at):
                return self._known(f"motors[{i}]", known)
        for i, s in enumerate(body.surfaces):
            panel = body.panel(s.panel)
            for side in (-1.0, 0.0, 1.0):
                if panel and self.surface_shape(s, panel, side).containsPoint(
                    at, Qt.FillRule.OddEvenFill
                ):
                    if (side > 0 and s.side == "left") or (side < 0 and s.side == "right"):
                        continue
                    return self._known(f"surfaces[{i}]", known)
        for i, p in reversed(list(enumerate(body.panels))):
            if any(
                self.panel_shape(p, side).containsPoint(at, Qt.FillRule.OddEvenFill)
                for side in (-1.0, 0.0, 1.0)
            ):
                return f"panels[{i}]"
        return "fuselage" if abs(self.place(at)[1]) < body.fuselage.width_mm else ""

    def _known(self, path: str, known: set[str]) -> str:
        """The path, or that of the part on the left that stands for both."""
        from hypsos.core.shape.measures import twin

        assert self.body is not None
        if path in known:
            return path
        group, _, index = path.partition("[")
        return twin(self.body, getattr(self.body, group)[int(index[:-1])]) or path
