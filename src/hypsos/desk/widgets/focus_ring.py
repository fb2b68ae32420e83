# SPDX-License-Identifier: GPL-3.0-or-later
"""The ring round a field that has the focus, where the style sheet cannot draw it."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from hypsos.desk.theme.look import look


def paint_focus_ring(
    widget: QWidget, width: float, inside: float = 0.0, painter: QPainter | None = None
) -> None:
    """Paint it onto a widget that has the focus: so many pixels wide, and so far inside its edge;
    with the painter that is at work there, if one is."""
    if not widget.hasFocus():
        return
    painter = QPainter(widget) if painter is None else painter
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(look.colour("sea"), width))
    middle = inside + width / 2
    painter.drawRoundedRect(QRectF(widget.rect()).adjusted(middle, middle, -middle, -middle), 3, 3)
