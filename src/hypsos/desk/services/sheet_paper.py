# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet laid out on paper: blocks with tables whose rows are never split, heads that are repeated,
headings that never stand alone at a page's foot, and on every page what it is of and its number.

Everything is measured in tenths of a point, so that letters stand where they will be printed; the
same pages go to a PDF, to a printer and to pictures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import NamedTuple

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from hypsos.core.schools.on_paper.blocks import Block
from hypsos.core.sheet.sheet_blocks import Sheet
from hypsos.desk.theme.look import FAMILY

PER_POINT = 10
POINTS_PER_INCH = 72
SIDE, TOP, FOOT = 360.0, 360.0, 440.0
"""Margins."""
PAD, ROW_PAD = 24.0, 14.0
GAP = 95.0
GUTTER = 160.0
BODY, HEAD, TITLE, SMALL = 90, 110, 150, 80
INK, SHADE, LINE, SOFT = QColor("#000000"), QColor("#e9e9e9"), QColor("#777777"), QColor("#444444")
TICK = 190.0
"""The width of the column with boxes."""
WRAP = int(Qt.TextFlag.TextWordWrap) | int(Qt.AlignmentFlag.AlignLeft) | int(Qt.AlignmentFlag.AlignTop)  # fmt: skip
ENDLESS = 1e6
WHOLE = 0.22
"""A block that takes no more of a page is not split."""
GAIN = 0.97
"""A block may stand in half of the width where that, of which there are two, takes less than this
of what it takes across."""
FEWEST_ALONE = 6
"""A table by itself stands in two columns from so many rows on."""


class Piece(NamedTuple):
    """Something on a page: how tall it is, and what draws it to the right of a place, from it
    down. ``leads``: something has to stand below it."""

    tall: float
    draw: Callable[[QPainter, float, float], None]
    leads: bool = False


class Unit(NamedTuple):
    """Pieces that are not split. ``again``: what is repeated above it where it stands at the head
    of a column."""

    pieces: tuple[Piece, ...]
    again: tuple[Piece, ...] = ()

    def tall(self, at_top: bool) -> float:
        """How tall it is, at the head of a column or below something."""
        return _tall(self.at_head() if at_top else self.pieces)

    def at_head(self) -> tuple[Piece, ...]:
        """Its pieces at the head of a column: where a table goes on there, its head again."""
        return (_gap(), *self.again, *self.pieces) if self.again else self.pieces


class Band(NamedTuple):
    """A block in pieces: its ``head`` with the head of its table as the last one, and its rows."""

    head: tuple[Piece, ...]
    rows: tuple[Piece, ...] = ()

    def units(self, page: float) -> list[Unit]:
        """What is not split of it: all where it is small, else its head with two rows, and row by
        row; no row stands alone at the end."""
        whole = (*self.head, *self.rows)
        if len(self.rows) < 4 or _tall(whole) <= WHOLE * page:
            return [Unit(whole)]
        again = self.head[-1:]
        between = [Unit((row,), again) for row in self.rows[2:-2]]
        return [Unit((*self.head, *self.rows[:2])), *between, Unit(self.rows[-2:], again)]


def type_of(size: int, bold: bool = False) -> QFont:
    """The type of a size in tenths of a point."""
    font = QFont(FAMILY)
    font.setPixelSize(size)
    font.setBold(bold)
    return font


class SheetPages:
    """A sheet on pages of a size in points, laid out."""

    def __init__(self, sheet: Sheet, size: QSizeF, numbered: bool = True) -> None:
        self._sheet, self._numbered = sheet, numbered
        self._wide, self._tall = size.width() * PER_POINT, size.height() * PER_POINT
        self.pages = _Layout(sheet, self._wide, self._tall).pages

    def paint(self, painter: QPainter, page: int, dots_per_inch: float) -> None:
        """Paint a page; the painter is at its upper left corner."""
        painter.save()
        scale = dots_per_inch / (POINTS_PER_INCH * PER_POINT)
        painter.scale(scale, scale)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for left, top, piece in self.pages[page]:
            piece.draw(painter, left, top)
        if self._numbered:
            self._foot(painter, page)
        painter.restore()

    def _foot(self, painter: QPainter, page: int) -> None:
        painter.setFont(type_of(SMALL))
        painter.setPen(SOFT)
        box = QRectF(SIDE, self._tall - FOOT + 90.0, self._wide - 2 * SIDE, 120.0)
        sheet = self._sheet
        mark = f", digest {sheet.mark}" if sheet.mark else ""
        painter.drawText(box, int(Qt.AlignmentFlag.AlignLeft), f"{sheet.name}{mark}")
        of = f"page {page + 1} of {len(self.pages)}"
        painter.drawText(box, int(Qt.AlignmentFlag.AlignRight), of)


class _Layout:
    """A sheet laid out: blocks across the page, or, where that takes less room, in two columns, the
    left one read first."""

    def __init__(self, sheet: Sheet, wide: float, tall: float) -> None:
        self._foot = tall - FOOT
        self._page = self._foot - TOP
        self._across = wide - 2 * SIDE
        self._half = (self._across - GUTTER) / 2.0
        self.pages: list[list[tuple[float, float, Piece]]] = [[]]
        self._at = TOP
        texts = (sheet.subtitle, sheet.closing)
        about = [_text(words, BODY, self._across) for words in texts if words]
        self._flow([Unit((_text(sheet.title, TITLE, self._across, True), *about))], 1)
        left = list(sheet.blocks)
        while left:
            run = self._run(left)
            wide_blocks = left[:run] if run else left[:1]
            column = self._half if run else self._across
            units = [u for block in wide_blocks for u in _band(block, column).units(self._page)]
            self._flow(units, 2 if run else 1)
            left = left[max(1, run) :]

    def _run(self, blocks: Sequence[Block]) -> int:
        """How many of the next blocks stand in two columns."""
        run = 0
        for block in blocks:
            if not self._is_narrow(block):
                break
            run += 1
        if run == 1 and len(blocks[0].rows) < FEWEST_ALONE:
            return 0
        return run

    def _is_narrow(self, block: Block) -> bool:
        """Whether a block takes less room in half of the width."""
        if not block.rows or not _TableLayout(block, self._half).fits:
            return False
        half, across = _band(block, self._half), _band(block, self._across)
        return _tall((*half.head, *half.rows)) / 2.0 < GAIN * _tall((*across.head, *across.rows))

    # -- placing -------------------------------------------------------------------------------------

    def _flow(self, units: Sequence[Unit], count: int) -> None:
        """Place units in so many columns, from where the last ones ended, page after page; on the
        page on which they end the columns are of one height."""
        left = list(units)
        while left:
            room = self._foot - self._at
            placed = _filled(left, count, room)
            fits = sum(len(column) for column in placed)
            if self._at > TOP and (not placed[0] or (fits < len(left) and _is_stump(placed, left))):
                self._turn()
                continue
            if fits == len(left) and count > 1:
                placed = _evened(left, count, room)
            fits = max(1, fits)
            self._put(placed if placed[0] else [left[:1]])
            left = left[fits:]
            if left:
                self._turn()

    def _put(self, columns: Sequence[Sequence[Unit]]) -> None:
        ends = [self._at]
        for place, units in enumerate(columns):
            x, y = SIDE + place * (self._half + GUTTER), self._at
            for number, unit in enumerate(units):
                pieces = unit.at_head() if number == 0 else unit.pieces
                for piece in pieces:
                    self.pages[-1].append((x, y, piece))
                    y += piece.tall
            ends.append(y)
        self._at = max(ends)

    def _turn(self) -> None:
        self.pages.append([])
        self._at = TOP


def _filled(units: Sequence[Unit], count: int, room: float) -> list[list[Unit]]:
    """Units that fit in so many columns of a height, in their order."""
    columns: list[list[Unit]] = [[]]
    used = 0.0
    for unit in units:
        tall = unit.tall(not columns[-1])
        if columns[-1] and used + tall > room and len(columns) < count:
            columns.append([])
            used, tall = 0.0, unit.tall(True)
        if used + tall > room:
            break
        columns[-1].append(unit)
        used += tall
    return columns


def _evened(units: Sequence[Unit], count: int, room: float) -> list[list[Unit]]:
    """The same where all of them fit, in the lowest columns that hold them."""
    low, high = 0.0, room
    while high - low > 10.0:
        middle = (low + high) / 2.0
        fits = sum(len(column) for column in _filled(units, count, middle)) == len(units)
        low, high = (low, middle) if fits else (middle, high)
    return _filled(units, count, high)


def _is_stump(placed: Sequence[Sequence[Unit]], units: Sequence[Unit]) -> bool:
    """Whether columns end so soon that the next page is the better place: only one unit of several
    columns fits."""
    return len(placed) == 1 and len(placed[0]) == 1 and len(units) > 2


def _tall(pieces: Sequence[Piece]) -> float:
    return sum(piece.tall for piece in pieces)


def _gap() -> Piece:
    return Piece(GAP, lambda _painter, _left, _top: None)


def _text(text: str, size: int, wide: float, bold: bool = False, indent: float = 0.0) -> Piece:
    font = type_of(size, bold)
    inner = wide - indent
    tall = tall_of(text, font, inner) + PAD

    def draw(painter: QPainter, left: float, top: float) -> None:
        painter.setFont(font)
        painter.setPen(INK)
        painter.drawText(QRectF(left + indent, top, inner, tall), WRAP, text)

    return Piece(tall, draw)


def _point(text: str, wide: float) -> Piece:
    """A sentence with a mark in front."""
    piece = _text(text, BODY, wide, indent=100.0)

    def draw(painter: QPainter, left: float, top: float) -> None:
        painter.setBrush(INK)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(QPointF(left + 45.0, top + 58.0), 13.0, 13.0)
        piece.draw(painter, left, top)

    return Piece(piece.tall, draw)


def _caution(text: str, wide: float) -> Piece:
    """Framed, with a bar at its side: seen in black and white, too."""
    said, font = f"Take care. {text}", type_of(BODY, True)
    inner = wide - 160.0
    tall = tall_of(said, font, inner) + 2 * PAD

    def draw(painter: QPainter, left: float, top: float) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(INK, 8.0))
        painter.drawRect(QRectF(left, top, wide, tall))
        painter.fillRect(QRectF(left, top, 60.0, tall), INK)
        painter.setFont(font)
        painter.drawText(QRectF(left + 110.0, top + PAD, inner, tall), WRAP, said)

    return Piece(tall + PAD, draw)


def _band(block: Block, wide: float) -> Band:
    """A block in so much width."""
    head = [_gap(), _text(block.title, HEAD, wide, True)._replace(leads=True)]
    if block.caution:
        head.append(_caution(block.caution, wide))
    points = [_point(line, wide) for line in block.lines]
    if not block.rows:
        return Band(tuple(head), tuple(points))
    table = _TableLayout(block, wide)
    top = table.row(block.columns, head=True)._replace(leads=True)
    rows = tuple(table.row(row.cells) for row in block.rows)
    return Band((*head, *points, top), rows)


class _TableLayout:
    """A table at work: how wide each column is, and its rows as pieces."""

    def __init__(self, block: Block, wide: float) -> None:
        self._ticked = block.ticked
        self._body, self._bold = type_of(BODY), type_of(BODY, True)
        room = wide - (TICK if block.ticked else 0.0)
        self.fits = True
        self._widths = self._shared_out(block, room)

    def _shared_out(self, block: Block, room: float) -> list[float]:
        """Widths of the columns: as they would like to be where there is room, else at least their
        longest word, and the rest in shares of what they would like more, or cut down to one level;
        whichever makes the lower table."""
        least, liked = [], []
        for place, title in enumerate(block.columns):
            font = self._bold if place == 0 else self._body
            texts = [(title, self._bold), *((row.cells[place], font) for row in block.rows)]
            least.append(max(longest_word(text, f) for text, f in texts) + 2 * PAD)
            liked.append(max(longest_line(text, f) for text, f in texts) + 2 * PAD)
        if sum(liked) <= room:
            slack = (room - sum(liked)) / len(liked)
            return [x + slack for x in liked]
        if sum(least) >= room:
            self.fits = False
            return [x * room / sum(least) for x in least]
        share = (room - sum(least)) / (sum(liked) - sum(least))
        shared = [low + share * (high - low) for low, high in zip(least, liked, strict=True)]
        return min(_levelled(least, liked, room), shared, key=lambda x: self._tall(block, x))

    def _tall(self, block: Block, widths: Sequence[float]) -> float:
        """How tall the rows of a table are with these widths."""
        total = 0.0
        for row in block.rows:
            talls = [
                tall_of(cell, self._bold if place == 0 else self._body, wide - 2 * PAD)
                for place, (cell, wide) in enumerate(zip(row.cells, widths, strict=True))
            ]
            total += max(talls)
        return total

    def row(self, cells: Sequence[str], head: bool = False) -> Piece:
        """A row, or the head of the table."""
        fonts = [self._bold if head or i == 0 else self._body for i in range(len(cells))]
        inner = [wide - 2 * PAD for wide in self._widths]
        talls = [tall_of(text, f, w) for text, f, w in zip(cells, fonts, inner, strict=True)]
        tall = max(talls) + 2 * ROW_PAD

        def draw(painter: QPainter, left: float, top: float) -> None:
            for text, font, wide in zip(cells, fonts, self._widths, strict=True):
                box = QRectF(left, top, wide, tall)
                self._cell(painter, box, head)
                painter.setFont(font)
                painter.setPen(INK)
                painter.drawText(box.adjusted(PAD, ROW_PAD, -PAD, 0), WRAP, text)
                left += wide
            if self._ticked:
                self._tick(painter, QRectF(left, top, TICK, tall), head)

        return Piece(tall, draw)

    def _cell(self, painter: QPainter, box: QRectF, head: bool) -> None:
        painter.setBrush(SHADE if head else Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(LINE, 5.0))
        painter.drawRect(box)

    def _tick(self, painter: QPainter, box: QRectF, head: bool) -> None:
        """A box to tick; its head says so."""
        self._cell(painter, box, head)
        side = 84.0
        square = QRectF(box.center().x() - side / 2, box.top() + 2 * ROW_PAD, side, side)
        painter.setPen(QPen(INK, 7.0))
        if head:
            painter.drawLine(square.topLeft() + QPointF(15, 45), square.topLeft() + QPointF(38, 70))
            painter.drawLine(square.topLeft() + QPointF(38, 70), square.topLeft() + QPointF(80, 15))
        else:
            painter.drawRect(square)


def _levelled(least: Sequence[float], liked: Sequence[float], room: float) -> list[float]:
    """Widths that fill the room: no column gets more than one level, nor less than it needs, nor
    more than it likes. Short texts stay on one line, and long ones are wrapped."""
    low, high = 0.0, max(liked)

    def widths(level: float) -> list[float]:
        return [max(a, min(b, level)) for a, b in zip(least, liked, strict=True)]

    while high - low > 1.0:
        level = (low + high) / 2.0
        low, high = (level, high) if sum(widths(level)) <= room else (low, level)
    found = widths(low)
    widest = found.index(max(found))
    found[widest] += room - sum(found)
    return found


def tall_of(text: str, font: QFont, wide: float) -> float:
    """How tall a text is in so much width."""
    return _measured(text, font.pixelSize(), font.bold(), wide)


@lru_cache(maxsize=20_000)
def _measured(text: str, size: int, bold: bool, wide: float) -> float:
    font = type_of(size, bold)
    return QFontMetricsF(font).boundingRect(QRectF(0, 0, max(1.0, wide), ENDLESS), WRAP, text or " ").height()  # fmt: skip


def longest_word(text: str, font: QFont) -> float:
    """The width of its longest word."""
    metrics = QFontMetricsF(font)
    return max((metrics.horizontalAdvance(word) for word in text.split()), default=0.0)


def longest_line(text: str, font: QFont) -> float:
    """The width of its longest line."""
    metrics = QFontMetricsF(font)
    return max((metrics.horizontalAdvance(line) for line in text.split("\n")), default=0.0)
