# SPDX-License-Identifier: GPL-3.0-or-later
"""Sheets on paper with the shipped font: as PDF, on a printer, as pictures."""

from __future__ import annotations

import math
import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import (
    QColor,
    QFont,
    QGuiApplication,
    QImage,
    QPagedPaintDevice,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QPen,
    QPolygonF,
)

from hypsos.core.parts.airframe import Surface
from hypsos.core.sheet.field_card import FieldCard
from hypsos.core.sheet.sheet_blocks import Sheet
from hypsos.desk.services.card_paper import CardPages
from hypsos.desk.services.sheet_paper import SheetPages
from hypsos.desk.theme.look import FAMILY, load_fonts

DPI = 300
PAPERS = {"A4": QPageSize.PageSizeId.A4, "Letter": QPageSize.PageSizeId.Letter}
if TYPE_CHECKING:
    from PyQt6.QtPrintSupport import QPrinter

_kept: list[QGuiApplication] = []


def _application() -> None:
    """A Qt application is needed to set type; without one, a windowless one is made."""
    if QGuiApplication.instance() is not None:
        return
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    _kept.append(QGuiApplication([]))
    load_fonts()


@contextmanager
def _paper(
    title: str, margins_mm: QMarginsF, paper: str = "A4"
) -> Iterator[tuple[QPdfWriter, QByteArray]]:
    """A PDF to write on; its bytes are whole afterwards."""
    _application()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(DPI)
    writer.setTitle(title)
    writer.setCreator("Hypsos")
    size, upright = QPageSize(PAPERS[paper]), QPageLayout.Orientation.Portrait
    writer.setPageLayout(QPageLayout(size, upright, margins_mm, QPageLayout.Unit.Millimeter))
    yield writer, data
    buffer.close()


def sheet_pdf(sheet: Sheet, paper: str = "A4") -> bytes:
    """A sheet on pages of a paper, as a PDF."""
    with _paper(sheet.title, QMarginsF(0, 0, 0, 0), paper) as (writer, data):
        paint_sheet(sheet, writer)
    return bytes(data.data())


def ready_printer(printer: QPrinter, title: str, paper: str) -> None:
    """Tell a printer what it is to print, on which paper; the sheet has its own margins."""
    printer.setDocName(title)
    printer.setCreator("Hypsos")
    printer.setFullPage(True)
    printer.setPageSize(QPageSize(PAPERS[paper]))


def paint_sheet(sheet: Sheet, device: QPagedPaintDevice) -> None:
    """Paint a sheet on a printer or into a PDF, on the paper that is in it; its margins are at
    nothing, the sheet has its own."""
    size = device.pageLayout().fullRectPoints().size()
    pages = SheetPages(sheet, QSizeF(size))
    painter = QPainter(device)
    for page in range(len(pages.pages)):
        if page:
            device.newPage()
        pages.paint(painter, page, device.logicalDpiX())
    painter.end()


def card_pdf(card: FieldCard) -> bytes:
    """A field card, twice on a page of A4, as a PDF."""
    with _paper(f"{card.name}: field card", QMarginsF(0, 0, 0, 0)) as (writer, data):
        CardPages(card).paint_sheet(writer)
    return bytes(data.data())


def card_picture(card: FieldCard) -> bytes:
    """A field card as a PNG for a telephone."""
    _application()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    CardPages(card).picture().save(buffer, "PNG")
    buffer.close()
    return bytes(data.data())


def sheet_pictures(sheet: Sheet, dots_per_inch: int, paper: str = "A4") -> list[QImage]:
    """The pages of a sheet as pictures."""
    _application()
    size = QPageSize(PAPERS[paper]).size(QPageSize.Unit.Point)
    pages = SheetPages(sheet, size)
    scale = dots_per_inch / 72.0
    found = []
    for page in range(len(pages.pages)):
        image = QImage(round(size.width() * scale), round(size.height() * scale), QImage.Format.Format_RGB32)  # fmt: skip
        image.fill(QColor("#ffffff"))
        painter = QPainter(image)
        pages.paint(painter, page, dots_per_inch)
        painter.end()
        found.append(image)
    return found


def ruler_cards_pdf(title: str, surfaces: Sequence[Surface]) -> bytes:
    """A card for each surface, true to scale on A4: a protractor about its hinge with degrees
    inside and, outside, the millimetres a ruler reads at its chord."""
    with _paper(f"{title}: ruler cards", QMarginsF(0, 0, 0, 0)) as (writer, data):
        painter = QPainter(writer)
        painter.scale(DPI / 25.4, DPI / 25.4)  # from here on everything is in millimetres
        for i, surface in enumerate(surfaces):
            if i:
                writer.newPage()
            _ruler_card(painter, title, surface)
        painter.end()
    return bytes(data.data())


def _ruler_card(painter: QPainter, title: str, surface: Surface) -> None:
    radius = min(surface.chord_mm, 150.0)
    most = min(75.0, max(surface.throw_up_deg, surface.throw_down_deg) + 10.0)
    low, high = ("left", "right") if surface.vertical else ("up", "down")
    ink = QPen(QColor("#111111"), 0.2)
    painter.setPen(ink)
    painter.setFont(_type(4.6, True))
    painter.drawText(QPointF(18, 22), f"{title}: {surface.label}")
    painter.setFont(_type(3.2))
    for k, text in enumerate(
        (
            f"At {radius:.0f} mm behind the hinge. Print at 100 %: the bar at the foot must measure 100 mm.",
            "Cut along the outer curve. Put the small circle on the hinge line, the line marked 0 along the surface at neutral.",
            "Inside: degrees. Outside: millimetres as a ruler at the trailing edge reads them.",
        )
    ):
        painter.drawText(QPointF(18, 29 + 5 * k), text)
    hinge = QPointF(24, 152)

    def at(degrees: float, distance: float) -> QPointF:
        turn = math.radians(degrees)
        return QPointF(hinge.x() + distance * math.cos(turn), hinge.y() + distance * math.sin(turn))

    painter.drawEllipse(hinge, 1.2, 1.2)
    for degrees in range(-int(most), int(most) + 1):
        long = 6.0 if degrees % 10 == 0 else 4.0 if degrees % 5 == 0 else 2.2
        painter.drawLine(at(degrees, radius - long), at(degrees, radius))
        if degrees % 10 == 0:
            painter.setFont(_type(2.8))
            word = f"{abs(degrees)}°" if degrees else "0"
            painter.drawText(
                _box(at(degrees, radius - 10.5), 12, 4), Qt.AlignmentFlag.AlignCenter, word
            )
    painter.drawLine(hinge, at(0, radius))
    arc = QPolygonF([at(d / 2, radius) for d in range(-2 * int(most), 2 * int(most) + 1)])
    painter.drawPolyline(arc)
    rim = [at(d / 2, radius + 16) for d in range(-2 * int(most), 2 * int(most) + 1)]
    painter.drawPolyline(QPolygonF([hinge, *rim, hinge]))
    reading = int(2 * radius * math.sin(math.radians(most) / 2))
    for mm in range(-reading, reading + 1):
        degrees_of = math.degrees(2 * math.asin(mm / (2 * radius)))
        long = 5.0 if mm % 10 == 0 else 3.6 if mm % 5 == 0 else 2.0
        painter.drawLine(at(degrees_of, radius), at(degrees_of, radius + long))
        if mm % 10 == 0 and mm:
            painter.drawText(
                _box(at(degrees_of, radius + 9.5), 12, 4),
                Qt.AlignmentFlag.AlignCenter,
                f"{abs(mm)}",
            )
    painter.setFont(_type(3.6, True))
    painter.drawText(
        _box(at(-most, radius + 22) + QPointF(0, -3), 26, 6), Qt.AlignmentFlag.AlignCenter, low
    )
    painter.drawText(
        _box(at(most, radius + 22) + QPointF(0, 3), 26, 6), Qt.AlignmentFlag.AlignCenter, high
    )
    painter.setPen(QPen(QColor("#000000"), 1.0, cap=Qt.PenCapStyle.FlatCap))
    painter.drawLine(QPointF(55, 284), QPointF(155, 284))
    painter.setPen(ink)
    painter.setFont(_type(3.0))
    painter.drawText(_box(QPointF(105, 280), 60, 5), Qt.AlignmentFlag.AlignCenter, "100 mm")


def _type(size_mm: float, bold: bool = False) -> QFont:
    font = QFont(FAMILY)
    font.setBold(bold)
    font.setPointSizeF(size_mm * 72 / DPI)  # the painter is scaled to millimetres
    return font


def _box(middle: QPointF, wide: float, tall: float) -> QRectF:
    return QRectF(middle.x() - wide / 2, middle.y() - tall / 2, wide, tall)
