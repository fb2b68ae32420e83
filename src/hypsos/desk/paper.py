"""Sheets on paper: HTML set by Qt into a PDF with the shipped font."""

from __future__ import annotations

import os

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF
from PyQt6.QtGui import QFont, QGuiApplication, QPageLayout, QPageSize, QPdfWriter, QTextDocument

from hypsos.core.sheet import Sheet, sheet_html
from hypsos.desk.theme.look import FAMILY, load_fonts

DPI = 300
_kept: list[QGuiApplication] = []


def _application() -> None:
    """A Qt application is needed to set type; without one, a windowless one is made."""
    if QGuiApplication.instance() is not None:
        return
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    _kept.append(QGuiApplication([]))
    load_fonts()


def sheet_pdf(sheet: Sheet) -> bytes:
    """The sheet as a PDF on A4."""
    _application()
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(DPI)
    writer.setTitle(sheet.title)
    writer.setCreator("Hypsos")
    writer.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, QMarginsF(14, 14, 14, 16),
            QPageLayout.Unit.Millimeter,
        )
    )  # fmt: skip
    document = QTextDocument()
    layout = document.documentLayout()
    if layout is not None:
        layout.setPaintDevice(writer)
    document.setDefaultFont(QFont(FAMILY, 9))
    document.setHtml(sheet_html(sheet))
    document.setPageSize(writer.pageLayout().paintRectPixels(DPI).size().toSizeF())
    document.print(writer)
    buffer.close()
    return bytes(data.data())
