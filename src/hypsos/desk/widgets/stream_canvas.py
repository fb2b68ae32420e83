# SPDX-License-Identifier: GPL-3.0-or-later
"""The streams of a model drawn: hands at the left, signals between, surfaces at the right, as wide
as what they carry now."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)

from hypsos.core.base.figure_words import number
from hypsos.core.explain.mix_streams import Key, Net, Node, Stream
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.focus_ring import paint_focus_ring
from hypsos.desk.widgets.hand_control import SpokenControl
from hypsos.desk.widgets.pixmap_cache import still

ROW = 30
WIDEST = 13.0
"""Pixels for 100 %."""
GRAB = 7.0
RIBS = 14


class StreamCanvas(SpokenControl):
    """Signals the stream or the node that was picked, and two nodes between which a line was
    drawn."""

    picked = pyqtSignal(object)
    node_picked = pyqtSignal(str)
    drawn = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__("Streams from the hands to the surfaces", 0, 0)
        self.net = Net((), ())
        self.carries: Mapping[Key, float] = {}
        self.stands: Mapping[str, str] = {}
        """What stands beside a surface now, in words."""
        self.amount_words: Callable[[Key], str] = lambda _: ""
        """What a stream gives its target now, in words."""
        self.chosen: Key | None = None
        self.node = ""
        self.lit: frozenset[Key] = frozenset()
        self._hands: set[str] = set()
        self._parts: set[str] = set()
        self._places: dict[str, QRectF] = {}
        self._paths: dict[Key, QPainterPath] = {}
        self._ribs: dict[Key, tuple[NDArray[np.float64], NDArray[np.float64]]] = {}
        """Points along each stream, and across it at each of them the way to its side; both (n,
        2)."""
        self._still: QPixmap | None = None
        self._names: QPixmap | None = None
        """The names, which lie over the streams."""
        self._from: str | None = None
        self._to = QPointF()
        self.setMouseTracking(True)
        self.setToolTip(
            "Touch a stream or a name, or go through them with up and down. "
            "Draw from a hand or a signal to a surface for a new one."
        )
        look.follow(self, self._dress)

    def _dress(self) -> None:
        self._still = None
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        most = max([sum(n.column == c for n in self.net.nodes) for c in range(3)] + [6])
        return QSize(look.px(460), look.px(ROW) * most + look.px(10))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(270), self.sizeHint().height())

    def show_net(self, net: Net) -> None:
        """Show another model's streams."""
        old, self.net = self.net, net
        self.reach(0, len(net.streams))
        if _shape_of(old) != _shape_of(net):
            self._still = None
            self.setFixedHeight(self.sizeHint().height())
            self._lay_out()
        self.update()

    def show_now(self, carries: Mapping[Key, float], stands: Mapping[str, str]) -> None:
        """What the streams carry now, and where the surfaces stand."""
        self.carries, self.stands = carries, stands
        self.update()

    def pick(self, key: Key | None) -> None:
        """Take a stream at hand."""
        self.chosen, self.node = key, ""
        self.lit = frozenset((key,)) if key is not None else frozenset()
        self._still = None
        keys = [s.key for s in self.net.streams]
        self.speak(keys.index(key) + 1 if key in keys else 0, self._said(key))
        self.update()

    def _said(self, key: Key | None) -> str:
        """What a screen reader says of the stream at hand, or of all of them."""
        if key is not None:
            return self.words_of(key)
        awake = sum(abs(amount) >= 0.5 for amount in self.carries.values())
        return f"{len(self.net.streams)} streams, {awake} of them carry something"

    def asked_for(self, value: int) -> None:
        """A screen reader's *increase* takes the next stream at hand."""
        if 0 < value <= len(self.net.streams):
            self.picked.emit(self.net.streams[value - 1].key)

    def words_of(self, key: Key) -> str:
        """A stream as a sentence: from where to where, and what it carries now."""
        names = {n.name: n.words for n in self.net.nodes}
        stream = next((s for s in self.net.streams if s.key == key), None)
        if stream is None:
            return ""
        awake = abs(self.carries.get(key, 0.0)) >= 0.5
        carried = self.amount_words(key) if awake else "nothing now"
        source, target = (names.get(x, x) for x in (stream.source, stream.target))
        return f"{source} to {target}: {carried}"

    def pick_node(self, name: str) -> None:
        """Light up all that reaches a node, and all that comes from it."""
        self.chosen, self.node = None, name
        self.lit = self.net.upstream(name) | self.net.downstream(name)
        self._still = None
        self.update()

    # -- places ----------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        """Columns of names: each signal beside what it feeds and is fed by, so that streams cross
        little."""
        self._places.clear()
        self._paths.clear()
        self._hands, self._parts = (
            {n.name for n in self.net.nodes if n.column == c} for c in (0, 2)
        )
        self._ribs.clear()
        wide, tall = self.width(), float(look.px(20))
        room = (0.26, 0.27, 0.27)
        lefts = (0.0, 0.5 - room[1] / 2, 1.0 - room[2])
        rights = self._column(2)
        heights = {n.name: (i + 0.5) / max(1, len(rights)) for i, n in enumerate(rights)}
        middles = sorted(self._column(1), key=lambda n: self._mean(n, heights, back=False))
        heights |= {n.name: (i + 0.5) / max(1, len(middles)) for i, n in enumerate(middles)}
        hands = sorted(self._column(0), key=lambda n: self._mean(n, heights, back=False))
        for nodes, left, share in zip((hands, middles, rights), lefts, room, strict=True):
            step = self.height() / max(1, len(nodes))
            for i, n in enumerate(nodes):
                self._places[n.name] = QRectF(
                    left * wide, (i + 0.5) * step - tall / 2, share * wide, tall
                )
        for s in self.net.streams:
            a, b = self._places.get(s.source), self._places.get(s.target)
            if a is None or b is None:
                continue
            start, end = QPointF(a.right(), a.center().y()), QPointF(b.left(), b.center().y())
            if start.x() >= end.x():  # a surface or signal that feeds another of its own column
                start, end = QPointF(a.left(), a.center().y()), QPointF(b.left(), b.center().y())
            bend = abs(end.x() - start.x()) / 2 or 40.0
            path = QPainterPath(start)
            turn = -40.0 if start.x() == end.x() else bend
            path.cubicTo(
                start + QPointF(turn, 0), end - QPointF(bend if turn > 0 else 40.0, 0), end
            )
            self._paths[s.key] = path
            self._ribs[s.key] = _ribs(path)

    def _column(self, column: int) -> list[Node]:
        return [n for n in self.net.nodes if n.column == column]

    def _mean(self, node: Node, heights: Mapping[str, float], back: bool) -> float:
        found = [
            heights[s.target]
            for s in self.net.streams
            if s.source == node.name and s.target in heights
        ]
        return sum(found) / len(found) if found else 0.5

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._still = None
        self._lay_out()

    def stream_at(self, at: QPointF) -> Stream | None:
        """The stream under a point, the one that carries most first."""
        found: list[tuple[float, Stream]] = []
        for s in self.net.streams:
            path = self._paths.get(s.key)
            if path is None or not path.controlPointRect().adjusted(
                -GRAB, -GRAB, GRAB, GRAB
            ).contains(at):
                continue
            places = [path.pointAtPercent(k / 40) for k in range(41)]
            if min((p - at).manhattanLength() for p in places) < GRAB + self._width(s.key):
                found.append((abs(self.carries.get(s.key, 0.0)), s))
        return max(found, key=lambda x: x[0])[1] if found else None

    def node_at(self, at: QPointF) -> str:
        """The name under a point."""
        return next(
            (n for n, box in self._places.items() if box.adjusted(-3, -2, 3, 2).contains(at)), ""
        )

    def _width(self, key: Key) -> float:
        return min(2.2 * WIDEST, abs(self.carries.get(key, 0.0)) / 100.0 * WIDEST)

    def _ribbon(self, key: Key, wide: float) -> QPolygonF:
        """A stream as an area of a width: filled, which costs a fifth of a stroke."""
        points, across = self._ribs[key]
        half = across * (wide / 2)
        return QPolygonF(
            [
                QPointF(x, y)
                for x, y in np.concatenate([points + half, (points - half)[::-1]]).tolist()
            ]
        )

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self._still is None or self._names is None:
            self._still, self._names = self._draw_still(), self._draw_names()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_ribbons(painter)
        painter.drawPixmap(0, 0, self._names)
        painter.setFont(look.font(0.74))
        self._paint_figures(painter)
        self._paint_stands(painter)
        paint_focus_ring(self, 2, painter=painter)
        if self._from is not None:
            painter.setPen(QPen(look.colour("sea"), 2, Qt.PenStyle.DashLine))
            painter.drawLine(self._places[self._from].center(), self._to)

    def _paint_ribbons(self, painter: QPainter) -> None:
        """The streams that carry something; while some are lit, only those."""
        bright = {True: look.colour("sea"), False: look.colour("ochre")}
        soft = {True: look.colour("sea", 90), False: look.colour("ochre", 90)}
        painter.setPen(Qt.PenStyle.NoPen)
        for s in self.net.streams:
            amount, is_lit = self.carries.get(s.key, 0.0), s.key in self.lit
            shown = is_lit or not self.lit
            if abs(amount) < 0.5 or s.key not in self._ribs or not shown:
                continue
            painter.setBrush(bright[amount > 0] if is_lit else soft[amount > 0])
            painter.drawPolygon(self._ribbon(s.key, max(1.2, self._width(s.key))))
            self._paint_arrow(painter, s.key, amount > 0)

    def _paint_arrow(self, painter: QPainter, key: Key, down: bool) -> None:
        """Which way it takes its part, told by shape: an arrow down for down, right or more, an
        arrow up for up, left or less."""
        tip = self._paths[key].pointAtPercent(0.82)
        high = look.px(4.5) if down else -look.px(4.5)
        corners = [QPointF(0, high), QPointF(-look.px(4.5), -high), QPointF(look.px(4.5), -high)]
        painter.setBrush(look.colour("ink"))
        painter.drawPolygon(QPolygonF([tip + corner for corner in corners]))

    def _paint_figures(self, painter: QPainter) -> None:
        """How much the streams carry that are lit."""
        for s in self.net.streams:
            amount = self.carries.get(s.key, 0.0)
            if s.key not in self.lit or abs(amount) < 0.5 or s.key not in self._paths:
                continue
            # straight from a hand to a part many streams lie close together: near its end it is
            # clear to which one a figure belongs
            straight = s.source in self._hands and s.target in self._parts
            at = self._paths[s.key].pointAtPercent(0.9 if straight else 0.62)
            self._figure(painter, at, number(abs(amount)))

    def _paint_stands(self, painter: QPainter) -> None:
        """Where each part stands, below its name."""
        painter.setPen(look.colour("faint"))
        for name, words in self.stands.items():
            box = self._places.get(name)
            if box is None:
                continue
            spot = QRectF(box.left() + 6, box.bottom() - look.px(9), box.width() - 8, look.px(12))
            painter.drawText(
                spot, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words
            )

    def _figure(self, painter: QPainter, at: QPointF, text: str) -> None:
        box = QRectF(at.x() - 15, at.y() - 7, 30, 14)
        painter.fillRect(box, look.colour("card"))
        painter.setPen(look.colour("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _draw_still(self) -> QPixmap:
        """Every stream as it is asleep: a thread."""
        still = self._empty(look.colour("card"))
        painter = QPainter(still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for s in self.net.streams:
            path = self._paths.get(s.key)
            if path is not None and s.key not in self.lit:
                painter.setPen(QPen(look.colour("edge"), 1))
                painter.drawPath(path)
        for s in self.net.streams:
            path = self._paths.get(s.key)
            if path is not None and s.key in self.lit:
                painter.setPen(QPen(look.colour("sea"), 1.4, Qt.PenStyle.DashLine))
                painter.drawPath(path)
        painter.end()
        return still

    def _empty(self, ground: QColor) -> QPixmap:
        return still(self.size(), self.devicePixelRatioF(), ground)

    def _draw_names(self) -> QPixmap:
        still = self._empty(QColor(0, 0, 0, 0))
        painter = QPainter(still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.font(0.84))
        fitted = painter.fontMetrics()
        for n in self.net.nodes:
            box = self._places.get(n.name)
            if box is None:
                continue
            mine = n.name == self.node
            painter.setPen(QPen(look.colour("ink" if mine else "line"), 1.6 if mine else 1))
            painter.setBrush(look.colour("field"))
            painter.drawRoundedRect(box.adjusted(0, -look.px(3), -1, look.px(4)), 4, 4)
            painter.setPen(look.colour("ink"))
            words = fitted.elidedText(n.words, Qt.TextElideMode.ElideRight, int(box.width()) - 10)
            up = look.px(6) if n.column == 2 else 0
            spot = box.adjusted(6, -up, -2, -up)
            painter.drawText(
                spot, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words
            )
        painter.end()
        return still

    # -- keys ------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down go through the streams that carry something, or all where none does; Escape
        lets go."""
        assert event is not None
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        step = steps.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self.lit:
            self.picked.emit(None)
        elif step is None:
            super().keyPressEvent(event)
        else:
            awake = [s.key for s in self.net.streams if abs(self.carries.get(s.key, 0.0)) >= 0.5]
            order = awake or [s.key for s in self.net.streams]
            if order:
                before_first = -1 if step > 0 else 0
                at = order.index(self.chosen) if self.chosen in order else before_first
                self.picked.emit(order[(at + step) % len(order)])

    # -- hands -----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        name = self.node_at(event.position())
        if name:
            self._from, self._to = name, event.position()
            return
        found = self.stream_at(event.position())
        self.picked.emit(found.key if found is not None else None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._from is not None:
            self._to = event.position()
            self.update()
            return
        near = self.node_at(event.position()) or self.stream_at(event.position()) is not None
        self.setCursor(Qt.CursorShape.PointingHandCursor if near else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        start, self._from = self._from, None
        end = self.node_at(event.position())
        self.update()
        if start and end == start:
            self.node_picked.emit(start)
        elif start and end:
            self.drawn.emit(start, end)


def _shape_of(net: Net) -> object:
    """What the picture is laid out for."""
    return net.nodes, tuple((s.key, s.source) for s in net.streams)


def _ribs(path: QPainterPath) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    points = np.array(
        [(p.x(), p.y()) for p in (path.pointAtPercent(k / RIBS) for k in range(RIBS + 1))]
    )
    along = np.gradient(points, axis=0)
    length = np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-9)
    return points, np.stack([-along[:, 1], along[:, 0]], axis=1) / length[:, None]
