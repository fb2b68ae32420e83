# SPDX-License-Identifier: GPL-3.0-or-later
"""A picture of the guard: its three states side by side, and what leads from one to another, in
words."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hypsos.core.engine import GuardState
from hypsos.core.explain.guard_ways import GuardChange, GuardWay
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import SpokenControl

STATES = (GuardState.CUT, GuardState.LOCKED, GuardState.ARMED)
WORDS = {GuardState.CUT: "Cut", GuardState.LOCKED: "Locked", GuardState.ARMED: "Armed"}
HEAD, GAP = 30, 7


class GuardPicture(SpokenControl):
    """Lanes of the states with an arrow for each way; the present state is lit, the last way taken
    stands out."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("The guard's states", 0, len(STATES) - 1, parent)
        self.ways: tuple[GuardWay, ...] = ()
        self.state = GuardState.CUT
        self.last: GuardChange | None = None
        self.runs = ""
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self._laid: dict[int, list[tuple[int, int]]] = {}
        """Width -> top and height of each way's row: while a page is laid out they are asked for
        many times over."""
        look.follow(self, self._lay_anew)

    def show_guard(
        self,
        ways: tuple[GuardWay, ...],
        state: GuardState,
        last: GuardChange | None,
        runs: str = "",
    ) -> None:
        """Show these ways, this state and the last change. ``runs``: a motor runs beyond the
        guard's reach, in a sentence."""
        if (ways, state, last, runs) == (self.ways, self.state, self.last, self.runs):
            return
        if ways != self.ways:
            self.ways = ways
            self._lay_anew()
            self.setMinimumHeight(self.heightForWidth(self.width()))
        self.state, self.last, self.runs = state, last, runs
        said = runs or f"{WORDS[state]} now" + (f": {last.cause}" if last is not None else "")
        self.speak(STATES.index(state), said)
        self.update()

    # -- layout ----------------------------------------------------------------------------------

    def _lane(self, state: GuardState | None) -> float:
        if state is None:
            return look.px(10)
        return self.width() * (2 * STATES.index(state) + 1) / 6

    def _lay_anew(self) -> None:
        self._laid.clear()
        self.updateGeometry()

    def _rows(self, width: int) -> list[tuple[int, int]]:
        """Top and height of each way's row."""
        if width not in self._laid:
            top, out, metrics = look.px(HEAD + 12), [], QFontMetrics(look.font(0.84))
            room = QRect(0, 0, width - look.px(16), 1000)
            for way in self.ways:
                tall = metrics.boundingRect(
                    room, Qt.TextFlag.TextWordWrap, way.words
                ).height() + look.px(13)
                out.append((top, tall))
                top += tall + look.px(GAP)
            self._laid[width] = out
        return self._laid[width]

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        rows = self._rows(width)
        return (sum(rows[-1]) if rows else look.px(HEAD)) + look.px(8)

    def sizeHint(self) -> QSize:
        return QSize(look.px(380), self.heightForWidth(look.px(380)))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(230), look.px(80))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.setMinimumHeight(self.heightForWidth(self.width()))

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rows = self._rows(self.width())
        foot = sum(rows[-1]) if rows else look.px(HEAD)
        for state in STATES:
            self._paint_state(painter, state, foot)
        for way, (top, tall) in zip(self.ways, rows, strict=True):
            self._paint_way(painter, way, top, tall)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_state(self, painter: QPainter, state: GuardState, foot: int) -> None:
        x, here = self._lane(state), state == self.state
        painter.setPen(QPen(look.colour("line"), 1.0, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x, look.px(HEAD)), QPointF(x, foot))
        hot = here and (state == GuardState.ARMED or bool(self.runs))
        box = QRectF(x - look.px(46), look.px(3), look.px(92), look.px(HEAD - 5))
        fill, edge, text = ("sea", "sea", "on_sea") if here else ("card", "edge", "ink")
        if hot:
            fill, edge, text = "rust", "rust", "on_rust"
        painter.setPen(QPen(look.colour(edge), 2.0 if here else 1.0))
        painter.setBrush(look.colour(fill))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(look.colour(text))
        painter.setFont(look.font(0.9, bold=here))
        painter.drawText(
            box, Qt.AlignmentFlag.AlignCenter, "Motor RUNS" if here and self.runs else WORDS[state]
        )

    def _paint_way(self, painter: QPainter, way: GuardWay, top: int, tall: int) -> None:
        took = self.last is not None and (way.start, way.end) == (self.last.start, self.last.end)
        start, end = self._lane(way.start), self._lane(way.end)
        ink = look.colour("ink" if took else "faint")
        text = QRectF(look.px(8), top, self.width() - look.px(16), tall - look.px(11))
        y = top + tall - look.px(6)
        painter.setPen(QPen(ink, 2.2 if took else 1.2))
        painter.drawLine(QPointF(start, y), QPointF(end, y))
        painter.setBrush(ink)
        painter.drawEllipse(QPointF(start, y), 2.5, 2.5)
        s = 1 if end > start else -1
        painter.drawPolygon(
            QPolygonF([QPointF(end, y), QPointF(end - 7 * s, y - 4), QPointF(end - 7 * s, y + 4)])
        )
        painter.setFont(look.font(0.84, bold=took))
        painter.setPen(look.colour("ink" if took else "faint"))
        side = Qt.AlignmentFlag.AlignLeft
        if min(start, end) > self.width() * 0.4:
            side = Qt.AlignmentFlag.AlignRight
        elif way.start is not None and abs(end - start) > self.width() * 0.5:
            side = Qt.AlignmentFlag.AlignHCenter
        painter.drawText(
            text, side | Qt.AlignmentFlag.AlignBottom | Qt.TextFlag.TextWordWrap, way.words
        )
