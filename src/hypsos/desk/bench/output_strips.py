# SPDX-License-Identifier: GPL-3.0-or-later
"""The outputs: a strip for each channel with port, percent, pulse, and what the surface does."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QRegion,
)
from PyQt6.QtWidgets import QWidget

from hypsos.core.base.figure_words import number, power_percent
from hypsos.core.engine.result import Trace
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.leads import Lead
from hypsos.core.wording.words import Part, angle, is_at_rest, standing
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import SpokenControl
from hypsos.desk.widgets.pixmap_cache import still

ROW = 25
HEAD = 17
SPAN = 150.0
LEAST_TRACK = 90


class StripFigures(NamedTuple):
    """What a strip shows, in words."""

    port: str
    label: str
    percent: str
    pulse: str
    words: str
    alarm: bool


LEAST_CUT = 0.05
"""Percent: what is cut off beyond that is told."""


class Strips(SpokenControl):
    """All channels in the order of their ports. Touching one chooses its part."""

    def __init__(self, workbench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__("Outputs", 0, 0, parent)
        self.workbench = workbench
        self._shown: dict[str, tuple[float, ...]] = {}
        self._of: tuple[Lead, ...] = ()
        self._still: tuple[object, tuple[QPixmap, QPixmap]] | None = None
        self._laid_out: tuple[tuple[int, float], dict[str, tuple[float, float]]] = ((0, 0.0), {})
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setToolTip("Touch a channel to see why it stands there.")
        workbench.simulation.live_changed.connect(self._refresh)
        workbench.simulation.chosen_changed.connect(self._chosen)
        workbench.simulation.model_changed.connect(self._model_changed)
        look.follow(self, self.updateGeometry)

    def _model_changed(self) -> None:
        leads = tuple(self.leads())
        if leads == self._of:
            return
        self._of = leads
        self._shown.clear()
        self.updateGeometry()
        self.update()

    def _refresh(self) -> None:
        """Repaint the rows whose figures changed."""
        for i, lead in enumerate(self.leads()):
            now = self._key(lead)
            if self._shown.get(lead.name) != now:
                self.update(0, look.px(HEAD) + i * look.px(ROW) - 1, self.width(), look.px(ROW) + 2)

                if lead.target == self.workbench.simulation.chosen or (
                    i == 0 and self.workbench.simulation.chosen is None
                ):
                    self._say()

    def _chosen(self) -> None:
        self._say()
        self.update()

    def _say(self) -> None:
        """The channel at hand in words: the one of the chosen part, else the first."""
        leads = self.leads()
        at = next(
            (i for i, x in enumerate(leads) if x.target == self.workbench.simulation.chosen), 0
        )
        figures = self.figures(leads[at]) if leads else None
        self.setRange(0, max(0, len(leads) - 1))
        if figures is not None:
            port = f"port {figures.port}" if figures.port else "no port"
            self.speak(
                at, f"{figures.label}, {port}: {figures.percent}, {figures.pulse}, {figures.words}"
            )

    def _key(self, lead: Lead) -> tuple[float, ...]:
        result = self.workbench.state.live.result
        if result is None or lead.name not in result.outputs:
            return ()
        trace = result.outputs[lead.name]
        return (
            trace.pct[-1],
            trace.us[-1],
            trace.stand[-1],
            trace.cut[-1],
            trace.at_stop[-1],
            trace.failsafe[-1],
        )

    def sizeHint(self) -> QSize:
        return QSize(look.px(560), look.px(HEAD + ROW * max(4, len(self.leads()))))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(236), self.sizeHint().height())

    def leads(self) -> list[Lead]:
        """The leads by port; those not plugged in come last."""
        model = self.workbench.model
        return sorted(model.leads, key=lambda x: (x.port is None, x.port or 0)) if model else []

    def figures(self, lead: Lead) -> StripFigures | None:
        """What the strip of a lead shows now."""
        model, result = self.workbench.model, self.workbench.state.live.result
        if model is None or result is None or lead.name not in result.outputs:
            return None
        trace = result.outputs[lead.name]
        part = next(p for p in model.airframe.moved() if p.name == lead.target)
        us, percent = float(trace.us[-1]), float(trace.pct[-1])
        said = f"{number(percent)} %"
        if isinstance(part, Motor):
            said = f"{number(power_percent(lead.direction * percent))} %"
        pulse = "no pulse" if us == 0 else f"{number(us)} µs"
        alarm = (
            bool(trace.at_stop[-1])
            or abs(float(trace.cut[-1])) > LEAST_CUT
            or bool(trace.failsafe[-1])
        )
        if lead.port is None:
            return StripFigures("", lead.label, said, pulse, "not plugged in", alarm)
        # what the part really does, also on an aeroplane that is wired its own way
        shown = self.workbench.state.shown
        words = self._stands(part, (shown or result).outputs[lead.name])
        return StripFigures(str(lead.port), lead.label, said, pulse, words, alarm)

    def _stands(self, part: Part, moved: Trace) -> str:
        """Where a part stands; in degrees besides, where there is room."""
        deg = None if moved.deg is None else float(moved.deg[-1])
        mm = None if moved.mm is None else float(moved.mm[-1])
        words = standing(part, float(moved.stand[-1]), deg, mm)
        wide = self.width() >= look.px(490)
        if wide and mm is not None and deg is not None and not is_at_rest(part, deg, mm):
            return f"{angle(deg)}  {words}"
        return words

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        columns = self._columns()
        below, above = self._stills()
        dirty = event.region() if event is not None else QRegion(self.rect())
        ratio = below.devicePixelRatio()
        area = QRectF(dirty.boundingRect())  # the painter is clipped to the region
        there = QRectF(area.topLeft() * ratio, area.size() * ratio)
        painter.drawPixmap(area, below, there)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rows = []
        for i, lead in enumerate(self.leads()):
            top = look.px(HEAD) + i * look.px(ROW)
            if dirty.intersects(QRect(0, top, self.width(), look.px(ROW))):
                self._shown[lead.name] = self._key(lead)
                figures = self.figures(lead)
                if figures is not None:
                    rows.append((lead, top, figures))
        if columns["track"][1] > 0:
            for lead, top, figures in rows:
                self._paint_bar(painter, lead, top + look.px(ROW) / 2, figures.alarm)
            painter.drawPixmap(area, above, there)
        for lead, top, figures in rows:
            self._paint_figures(painter, lead, top, figures, columns)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(look.colour("sea"), 2))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _stills(self) -> tuple[QPixmap, QPixmap]:
        """What does not move, below and above the bars; made anew when the leads, the choice, the
        size or the look change."""
        key = (
            self.size(),
            look.palette.name,
            look.scale,
            self.workbench.simulation.chosen,
            self._of or tuple(self.leads()),
        )
        if self._still is None or self._still[0] != key:
            layers = []
            for paint in (self._paint_below, self._paint_above):
                ground = (
                    look.colour("paper")
                    if paint == self._paint_below
                    else Qt.GlobalColor.transparent
                )
                pixmap = still(self.size(), self.devicePixelRatioF(), ground)
                painter = QPainter(pixmap)
                painter.setRenderHint(QPainter.RenderHint.Antialiasing)
                paint(painter)
                painter.end()
                layers.append(pixmap)
            self._still = (key, (layers[0], layers[1]))
        return self._still[1]

    def _paint_below(self, painter: QPainter) -> None:
        columns, h = self._columns(), float(look.px(ROW))
        flags = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(look.font(0.76))
        painter.setPen(look.colour("faint"))
        box = QRectF(columns["label"][0], 0, columns["label"][1], look.px(HEAD))
        painter.drawText(box.translated(-look.px(22), 0), flags, "Port and lead")
        wide = columns["track"][1]
        for at, text in (
            ((-100, "−100"), (0, "0"), (100, "100 %")) if wide >= look.px(LEAST_TRACK) else ()
        ):
            x = self._x(at)
            painter.drawText(
                QRectF(x - 30, 0, 60, look.px(HEAD)), flags | Qt.AlignmentFlag.AlignHCenter, text
            )
        metrics = QFontMetricsF(look.font(0.92))
        for i, lead in enumerate(self.leads()):
            top = look.px(HEAD) + i * look.px(ROW)
            if lead.target == self.workbench.simulation.chosen:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(look.colour("sea_soft"))
                painter.drawRoundedRect(QRectF(2, top + 1, self.width() - 4, h - 2), 4, 4)
            badge = QRectF(look.px(8), top + h / 2 - look.px(9), look.px(20), look.px(18))
            painter.setPen(QPen(look.colour("edge"), 1))
            painter.setBrush(look.colour("field"))
            painter.drawRoundedRect(badge, 4, 4)
            painter.setPen(look.colour("ink"))
            painter.setFont(look.font(0.86, bold=True))
            painter.drawText(
                badge, Qt.AlignmentFlag.AlignCenter, "" if lead.port is None else str(lead.port)
            )
            painter.setFont(look.font(0.92))
            box = QRectF(columns["label"][0], top, columns["label"][1] - look.px(4), h)
            painter.drawText(
                box, flags, metrics.elidedText(lead.label, Qt.TextElideMode.ElideRight, box.width())
            )
            if wide > 0:
                y, tall = top + h / 2, float(look.px(9))
                low, high = self._x(-SPAN), self._x(SPAN)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(look.colour("line", 130))
                painter.drawRect(QRectF(low, y - tall / 2, high - low, tall))
                painter.setBrush(look.colour("field"))
                stop_low, stop_high = self._x(lead.stop_neg), self._x(lead.stop_pos)
                painter.drawRect(QRectF(stop_low, y - tall / 2, stop_high - stop_low, tall))

    def _paint_above(self, painter: QPainter) -> None:
        if self._columns()["track"][1] <= 0:
            return
        tall = float(look.px(9))
        for i, lead in enumerate(self.leads()):
            y = look.px(HEAD) + (i + 0.5) * look.px(ROW)
            painter.setPen(QPen(look.colour("edge"), 1))
            for at in (-100, 0, 100):
                painter.drawLine(
                    QPointF(self._x(at), y - tall / 2 - 1), QPointF(self._x(at), y + tall / 2 + 1)
                )
            painter.setPen(QPen(look.colour("ink"), 2))
            for edge, sense in ((self._x(lead.stop_neg), 1), (self._x(lead.stop_pos), -1)):
                painter.drawLine(QPointF(edge, y - tall / 2 - 1), QPointF(edge, y + tall / 2 + 1))
                painter.drawLine(
                    QPointF(edge, y - tall / 2 - 1), QPointF(edge + 3 * sense, y - tall / 2 - 1)
                )
                painter.drawLine(
                    QPointF(edge, y + tall / 2 + 1), QPointF(edge + 3 * sense, y + tall / 2 + 1)
                )

    def _columns(self) -> dict[str, tuple[float, float]]:
        key = (self.width(), look.scale)
        if self._laid_out[0] != key:
            self._laid_out = (key, self._lay_out())
        return self._laid_out[1]

    def _lay_out(self) -> dict[str, tuple[float, float]]:
        w = self.width()
        narrow = self.width() < look.px(490)
        left, label, pct, us, words = (
            look.px(n) for n in ((34, 104, 46, 62, 92) if narrow else (34, 118, 52, 66, 132))
        )
        room = w - left - look.px(14)
        track = room - label - pct - us - words
        if track < look.px(LEAST_TRACK):  # bars go before words, the percent before the pulse
            track, pct, us = (
                0,
                pct if room >= label + pct + us + words else 0,
                us if room >= label + us + words else 0,
            )
            label = min(look.px(150), room - pct - us - words)
            words = room - label - pct - us
        at = float(left)
        out = {}
        for key, wide in (
            ("label", label),
            ("track", track),
            ("pct", pct),
            ("us", us),
            ("words", words),
        ):
            out[key] = (at, float(wide))
            at += wide + (look.px(4) if key == "us" else 0)
        return out

    def _x(self, percent: float) -> float:
        left, wide = self._columns()["track"]
        return left + wide / 2 + percent / SPAN * (wide / 2 - look.px(6))

    def _percent(self, lead: Lead) -> float:
        result = self.workbench.state.live.result
        return 0.0 if result is None else float(result.outputs[lead.name].pct[-1])

    def _paint_bar(self, painter: QPainter, lead: Lead, y: float, alarm: bool) -> None:
        tall = float(look.px(9))
        start = self._x(-100.0 * lead.direction) if self._is_motor(lead) else self._x(0)
        end = self._x(self._percent(lead))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("rust" if alarm else "surface"))
        painter.drawRect(QRectF(min(start, end), y - tall / 2 + 1.5, abs(end - start), tall - 3))

    def _paint_figures(
        self,
        painter: QPainter,
        lead: Lead,
        top: float,
        figures: StripFigures,
        columns: dict[str, tuple[float, float]],
    ) -> None:
        h = float(look.px(ROW))
        flags = Qt.AlignmentFlag.AlignVCenter
        painter.setPen(look.colour("ink"))
        painter.setFont(look.font(0.92))
        for key, words in (("pct", figures.percent), ("us", figures.pulse)):
            box = QRectF(columns[key][0], top, columns[key][1] - look.px(4), h)
            if box.width() > 0:
                painter.drawText(box, flags | Qt.AlignmentFlag.AlignRight, words)
        if figures.alarm:
            painter.setPen(look.colour("rust"))
            painter.setFont(look.font(0.92, bold=True))
        box = QRectF(columns["words"][0] + look.px(8), top, columns["words"][1], h)
        painter.drawText(box, flags, figures.words)
        if columns["track"][1] > 0:
            end, y, tall = self._x(self._percent(lead)), top + h / 2, float(look.px(9))
            tip = [
                QPointF(end, y - 1),
                QPointF(end - 4.5, y - tall / 2 - 4),
                QPointF(end + 4.5, y - tall / 2 - 4),
            ]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(look.colour("rust" if figures.alarm else "ink"))
            painter.drawPolygon(QPolygonF(tip))

    def _is_motor(self, lead: Lead) -> bool:
        model = self.workbench.model
        return model is not None and any(
            isinstance(p, Motor) and p.name == lead.target for p in model.airframe.moved()
        )

    def part_at(self, at: QPointF) -> str | None:
        """The part whose strip is at a place."""
        index = int((at.y() - look.px(HEAD)) // look.px(ROW))
        leads = self.leads()
        return leads[index].target if 0 <= index < len(leads) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        part = self.part_at(event.position())
        if part is not None and event.button() == Qt.MouseButton.LeftButton:
            self.workbench.simulation.choose(part)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        names = [x.target for x in self.leads()]
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and names:
            by = 1 if event.key() == Qt.Key.Key_Down else -1
            at = (
                names.index(self.workbench.simulation.chosen) + by
                if self.workbench.simulation.chosen in names
                else 0
            )
            self.workbench.simulation.choose(names[at % len(names)])
        else:
            super().keyPressEvent(event)
