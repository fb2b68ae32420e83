# SPDX-License-Identifier: GPL-3.0-or-later
"""A linkage from the side, moving: servo with its arm, rod, horn, and the surface about its
hinge."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.backends import FRAME
from hypsos.core.base.figure_words import number, plain
from hypsos.core.parts.four_bar import Linkage, solvers
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.picture import Picture


class LinkageView(Picture):
    """Shows a linkage with its servo at a turn in degrees. Lengths are true to each other."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Linkage from the side", parent)
        self.linkage: Linkage | None = None
        self.chord = 60.0
        self.turn = 0.0
        look.follow(self, self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(look.px(400), look.px(120))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(240), look.px(120))

    def show_linkage(self, linkage: Linkage | None, chord_mm: float, turn_deg: float) -> None:
        """Show this linkage with the servo so far turned."""
        if (linkage, chord_mm, turn_deg) != (self.linkage, self.chord, self.turn):
            self.linkage, self.chord, self.turn = linkage, chord_mm, turn_deg
            self.tell(self._sentence())
            self.update()

    def _sentence(self) -> str:
        link = self.linkage
        if link is None:
            return ""
        moved = float(solvers(link)[0].degrees(self.turn, FRAME))
        lengths = f"arm {plain(link.arm_mm)} mm, horn {plain(link.horn_mm)} mm"
        if math.isnan(moved):
            return f"{lengths}; it binds at this turn of the servo"
        turned, surface = number(abs(self.turn)), number(abs(moved))
        return f"{lengths}; the servo turned by {turned}°, the surface by {surface}°"

    def paintEvent(self, event: QPaintEvent | None) -> None:
        link = self.linkage
        if link is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        moved = solvers(link)[0].degrees(self.turn, FRAME)
        binds = math.isnan(moved)
        wide = link.distance_mm + min(self.chord, 90.0) + 2 * link.arm_mm + 20
        tall = 2 * max(link.arm_mm, link.horn_mm, 14.0) + abs(link.offset_mm) + 16
        scale = min((self.width() - 16) / wide, (self.height() - 12) / tall)
        origin = QPointF(8 + scale * (link.arm_mm + 8), self.height() / 2 + scale * tall * 0.12)

        def at(x: float, y: float) -> QPointF:
            return QPointF(origin.x() + scale * x, origin.y() - scale * y)

        pivot, hinge = (0.0, 0.0), (link.distance_mm, -link.offset_mm)
        arm = math.radians(link.arm_deg + self.turn)
        horn = math.radians(link.horn_deg + (0.0 if binds else moved))
        tip = (link.arm_mm * math.sin(arm), link.arm_mm * math.cos(arm))
        top = (hinge[0] + link.horn_mm * math.sin(horn), hinge[1] + link.horn_mm * math.cos(horn))
        edge, ink = QPen(look.colour("edge"), 1.2), look.colour("ink")
        painter.setPen(edge)
        painter.setBrush(look.colour("card"))
        painter.drawRoundedRect(QRectF(at(-9, 5), at(15, -14)), 3, 3)
        flush = (
            solvers(link)[0].degrees(link.servo_deg * link.flush / 100.0, FRAME)
            if link.flush
            else 0.0
        )
        lean = -math.radians(0.0 if binds else moved - flush)
        length = min(self.chord, 90.0)

        def turned(x: float, y: float) -> QPointF:
            dx, dy = (
                x * math.cos(lean) - y * math.sin(lean),
                x * math.sin(lean) + y * math.cos(lean),
            )
            return at(hinge[0] + dx, hinge[1] - 4 + dy)

        painter.setBrush(look.colour("field"))
        painter.drawPolygon(
            QPolygonF(
                [
                    at(hinge[0] - 40, hinge[1]),
                    at(hinge[0] - 2, hinge[1] - 0.5),
                    at(hinge[0] - 2, hinge[1] - 8),
                    at(hinge[0] - 40, hinge[1] - 9),
                ]
            )
        )
        painter.setBrush(look.colour("rust" if binds else "surface"))
        painter.drawPolygon(QPolygonF([turned(0, 4), turned(length, 0), turned(0, -4)]))
        for a, b, width in ((pivot, tip, 4.0), (hinge, top, 4.0)):
            painter.setPen(QPen(look.colour("sea"), width, cap=Qt.PenCapStyle.RoundCap))
            painter.drawLine(at(*a), at(*b))
        style = Qt.PenStyle.DotLine if binds else Qt.PenStyle.SolidLine
        painter.setPen(QPen(look.colour("rust") if binds else ink, 1.8, style))
        painter.drawLine(at(*tip), at(*top))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        for place in (pivot, tip, hinge, top):
            painter.drawEllipse(at(*place), 2.6, 2.6)
        painter.setPen(look.colour("rust" if binds else "faint"))
        painter.setFont(look.font(0.82, bold=binds))
        said = f"servo {abs(self.turn):.0f}° {'forward' if self.turn < 0 else 'aft'}"
        said += ": it binds" if binds else ""
        painter.drawText(QRectF(4, 2, self.width() - 8, 18), Qt.AlignmentFlag.AlignRight, said)
