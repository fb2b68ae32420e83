# SPDX-License-Identifier: GPL-3.0-or-later
"""Why: falling bars from zero to where the chosen part stands, and the same as one sentence."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QFontMetricsF,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QShowEvent,
)
from PyQt6.QtWidgets import QWidget

from hypsos.core.explain.explain_part import Bar, PartExplanation, amount_words
from hypsos.core.parts.airframe import Motor
from hypsos.core.rundown import step_of_path
from hypsos.core.wording.words import sense_words, side_percent
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.act_menu import Act, open_menu
from hypsos.desk.widgets.copying import copy_text
from hypsos.desk.widgets.hand_control import SpokenControl

KIND_COLOURS = {
    "stick": "sea", "trim": "ochre", "mix": "sea", "guard": "rust", "cut-off": "rust", "slow": "edge",
    "preset": "ochre", "idle": "edge", "travel": "edge", "centre": "edge", "stop": "rust", "link": "rust",
}  # fmt: skip


class Why(SpokenControl):
    """The explanation of the chosen part, live. A bar leads to the place where its number is
    set."""

    place_wanted = pyqtSignal(str)
    """The document path of the bar that was touched."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__("Why", 0, 0, parent)
        self.workbench = workbench
        self._at = 0
        workbench.simulation.live_changed.connect(self._live)
        workbench.simulation.chosen_changed.connect(self._chosen)
        look.follow(self, self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(look.px(560), look.px(215))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(236), look.px(170))

    def _chosen(self) -> None:
        self._at = 0
        self._live()

    def _live(self) -> None:
        if self.isVisible():
            self.update()
            self._say()

    def _say(self) -> None:
        explanation, bars = self.workbench.simulation.explanation(), self.bars()
        self.reach(0, max(0, len(bars) - 1))
        if explanation is None:
            self.speak(0, "Nothing is chosen.")
            return
        at = (
            f" {bars[self._at].label}: {amount_words(explanation.part, bars[self._at])}."
            if self._at < len(bars)
            else ""
        )
        self.speak(self._at, explanation.sentence + at)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._say()

    def bars(self) -> list[Bar]:
        """The bars that are shown, in order."""
        explanation = self.workbench.simulation.explanation()
        return [] if explanation is None else [b for b in explanation.bars if abs(b.amount) >= 0.05]

    def row_height(self) -> float:
        return float(look.px(21))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        explanation = self.workbench.simulation.explanation()
        if explanation is None:
            painter.setPen(look.colour("faint"))
            words = "Touch a surface or a channel to see why it stands where it stands."
            painter.drawText(
                self.rect().adjusted(16, 8, -16, -8), Qt.AlignmentFlag.AlignCenter, words
            )
            return
        bars = self.bars()
        bottom = self._paint_bars(painter, explanation, bars)
        painter.setFont(look.font(0.95))
        painter.setPen(look.colour("ink"))
        room = QRectF(
            look.px(12),
            bottom + look.px(5),
            self.width() - look.px(24),
            self.height() - bottom - look.px(6),
        )
        painter.drawText(room, int(Qt.TextFlag.TextWordWrap), explanation.sentence)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _scale(self, explanation: PartExplanation, bars: list[Bar]) -> tuple[float, float]:
        """The least and greatest value the bars reach, 0 and the ends of nominal travel
        included."""
        run, low, high = 0.0, -100.0, 100.0
        for b in bars:
            run += b.amount
            low, high = min(low, run), max(high, run)
        return low - 6, high + 6

    def _paint_bars(
        self, painter: QPainter, explanation: PartExplanation, bars: list[Bar]
    ) -> float:
        low, high = self._scale(explanation, bars)
        name_w = float(min(look.px(196), self.width() * 0.4))
        value_w = float(look.px(92))
        left, right = name_w + look.px(14), self.width() - value_w - look.px(14)
        row, top = self.row_height(), float(look.px(22))

        def x(percent: float) -> float:
            return left + (percent - low) / (high - low) * (right - left)

        part = explanation.part
        words = ("idle", "full") if isinstance(part, Motor) else sense_words(part)
        painter.setFont(look.font(0.78))
        painter.setPen(look.colour("faint"))
        base = top + (len(bars) + 1) * row
        for at, text in ((-100.0, f"100 % {words[0]}"), (0.0, "0"), (100.0, f"100 % {words[1]}")):
            said = text if not isinstance(part, Motor) else text.replace("100 % ", "")
            box = QRectF(x(at) - look.px(50), 2, look.px(100), look.px(17))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, said)
            painter.setPen(QPen(look.colour("ink" if at == 0 else "line"), 1))
            painter.drawLine(QPointF(x(at), top), QPointF(x(at), base))
            painter.setPen(look.colour("faint"))
        run = 0.0
        flags = Qt.AlignmentFlag.AlignVCenter
        for i, bar in enumerate(bars):
            y = top + i * row
            self._paint_row_ground(painter, i, y)
            box = QRectF(look.px(12), y, name_w - look.px(4), row)
            metrics = QFontMetricsF(look.font(0.92))
            painter.setFont(look.font(0.92))
            painter.setPen(look.colour("sea" if bar.path and step_of_path(bar.path) else "ink"))
            painter.drawText(
                box, flags, metrics.elidedText(bar.label, Qt.TextElideMode.ElideRight, box.width())
            )
            a, b = x(run), x(run + bar.amount)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour(KIND_COLOURS[bar.kind]))
            painter.drawRect(QRectF(min(a, b), y + row * 0.2, max(1.5, abs(b - a)), row * 0.6))
            painter.setPen(QPen(look.colour("ink", 120), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(b, y + row * 0.8), QPointF(b, y + row * 1.2))
            painter.setPen(look.colour("ink"))
            value = QRectF(right + look.px(6), y, value_w, row)
            painter.drawText(value, flags | Qt.AlignmentFlag.AlignRight, amount_words(part, bar))
            run += bar.amount
        y = top + len(bars) * row
        painter.setPen(QPen(look.colour("ink"), 1))
        painter.drawLine(QPointF(look.px(12), y), QPointF(self.width() - look.px(8), y))
        painter.setFont(look.font(0.95, bold=True))
        painter.drawText(
            QRectF(look.px(12), y, name_w, row), flags, f"{part.label}: {explanation.words}"
        )
        painter.setBrush(look.colour("surface"))
        a, b = x(0), x(explanation.stand)
        painter.drawRect(QRectF(min(a, b), y + row * 0.2, max(1.5, abs(b - a)), row * 0.6))
        total = (
            explanation.words
            if isinstance(part, Motor)
            else side_percent(part, explanation.stand, 1)
        )
        box = QRectF(right + look.px(6), y, value_w, row)
        painter.drawText(box, flags | Qt.AlignmentFlag.AlignRight, total)
        return base

    def _paint_row_ground(self, painter: QPainter, i: int, y: float) -> None:
        if self.hasFocus() and i == self._at:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("sea_soft"))
            painter.drawRoundedRect(
                QRectF(look.px(6), y, self.width() - look.px(12), self.row_height()), 3, 3
            )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        index = int((event.position().y() - look.px(22)) // self.row_height())
        bars = self.bars()
        if 0 <= index < len(bars):
            self._at = index
            self._live()
            self._lead_there(bars[index])

    def as_text(self) -> str:
        """The explanation to be copied: its sentence, and each bar in a line."""
        explanation = self.workbench.simulation.explanation()
        if explanation is None:
            return ""
        lines = [f"{b.label}: {amount_words(explanation.part, b)}" for b in self.bars()]
        return "\n".join([explanation.sentence, *lines])

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None or not self.as_text():
            return
        copy = Act("Copy", lambda: copy_text(self.as_text()), key="Ctrl+C")
        open_menu("Why it stands there", [copy], self, event.globalPos())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        bars = self.bars()
        if event.matches(QKeySequence.StandardKey.Copy):
            copy_text(self.as_text())
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and bars:
            self._at = (self._at + (1 if event.key() == Qt.Key.Key_Down else -1)) % len(bars)
            self._live()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._at < len(bars):
            self._lead_there(bars[self._at])
        elif event.key() == Qt.Key.Key_Escape:
            self.workbench.simulation.choose(None)
        else:
            super().keyPressEvent(event)

    def _lead_there(self, bar: Bar) -> None:
        if bar.path:
            self.place_wanted.emit(bar.path)
