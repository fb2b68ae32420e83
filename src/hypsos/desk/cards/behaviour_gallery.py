# SPDX-License-Identifier: GPL-3.0-or-later
"""The gallery of behaviours: this aeroplane from above for each, with arrows for what would move,
and why some can't be had."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QGridLayout,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from hypsos.core.document.document import Model
from hypsos.core.edits.behaviours import Offer, offers
from hypsos.core.explain.behaviour_preview import Shown, shown
from hypsos.core.parts.airframe import Airframe, Motor, Surface
from hypsos.core.rundown import STEPS
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.page_layout import clear, label, row
from hypsos.desk.widgets.planform import Planform

PICTURE = 96
STEP_MS = 1500
"""How long each of several movements is shown."""


OUTLINE = ((0.0, 0.2), (0.08, 0.7), (0.3, 1.0), (0.5, 0.7), (1.0, 0.18))
"""The fuselage from above: shares of its length, and of half its width there."""


class Above(Planform):
    """The aeroplane from above, small, with an arrow on every part that moves: aft for down,
    forward for up; a bar ahead of a motor that speeds up, behind one that slows."""

    def __init__(self) -> None:
        super().__init__()
        self.moves: dict[str, float] = {}
        self.faint = False

    def paint_onto(self, painter: QPainter) -> None:
        """Draw it."""
        if self.body is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(look.colour("line" if self.faint else "edge"), 1))
        painter.setBrush(look.colour("field" if self.faint else "wing"))
        self._paint_body(painter, self.body)
        for surface in self.body.surfaces:
            self._paint_surface(painter, self.body, surface)
        for motor in self.body.motors:
            self._paint_propeller(painter, motor)

    def _paint_body(self, painter: QPainter, body: Airframe) -> None:
        for panel in body.panels:
            for side in (0.0,) if panel.arrangement == "single" else (-1.0, 1.0):
                painter.drawPolygon(self.panel_shape(panel, side))
        f = body.fuselage
        half = [(along * f.length_mm, wide * f.width_mm / 2) for along, wide in OUTLINE]
        there = [self.point(x, y) for x, y in half]
        back = [self.point(x, -y) for x, y in reversed(half)]
        painter.drawPolygon(QPolygonF(there + back))

    def _paint_surface(self, painter: QPainter, body: Airframe, surface: Surface) -> None:
        panel = body.panel(surface.panel)
        if panel is None:
            return
        moved = self.moves.get(surface.name, 0.0)
        fill = look.colour("surface" if moved and not self.faint else "card")
        sides: tuple[float, ...] = {"left": (-1.0,), "right": (1.0,)}.get(surface.side, (-1.0, 1.0))
        if panel.arrangement == "single":
            sides = (0.0,)
        pen = painter.pen()
        for side in sides:
            shape = self.surface_shape(surface, panel, side)
            painter.setPen(pen)
            painter.setBrush(fill)
            painter.drawPolygon(shape)
            if moved:
                self._arrow(painter, shape.boundingRect(), moved, surface.vertical)
        painter.setPen(pen)

    def _paint_propeller(self, painter: QPainter, motor: Motor) -> None:
        half = motor.propeller_mm / 2
        a, b = self.point(motor.x_mm, motor.y_mm - half), self.point(motor.x_mm, motor.y_mm + half)
        pen = painter.pen()
        painter.drawLine(a, b)
        moved = self.moves.get(motor.name, 0.0)
        if moved:
            middle = QRectF(a, b).center()
            self._arrow(painter, QRectF(middle.x() - 3, middle.y() - 3, 6, 6), -moved, False)
            painter.setPen(pen)

    def _arrow(self, painter: QPainter, box: QRectF, moved: float, sideways: bool) -> None:
        """An arrow as long as the movement, from the middle of a part: aft is down, forward is up,
        sideways is left or right."""
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.colour("sea"))
        length = 7.0 + 11.0 * min(1.0, math.sqrt(abs(moved) / 100.0))
        way = 1.0 if moved > 0 else -1.0
        at = box.center()
        tip = (
            QPointF(at.x() + way * length, at.y())
            if sideways
            else QPointF(at.x(), at.y() + way * length)
        )
        if sideways:
            wing = [
                QPointF(tip.x() - way * 7, tip.y() - 5),
                QPointF(tip.x() - way * 7, tip.y() + 5),
            ]
        else:
            wing = [
                QPointF(tip.x() - 5, tip.y() - way * 7),
                QPointF(tip.x() + 5, tip.y() - way * 7),
            ]
        painter.drawPolygon(QPolygonF([tip, *wing]))
        painter.setPen(QPen(look.colour("sea"), 2.2))
        painter.drawLine(at, QPointF((wing[0] + wing[1]) / 2))


class BehaviourTile(QAbstractButton):
    """One behaviour of the gallery."""

    def __init__(self, offer: Offer, body: Airframe) -> None:
        super().__init__()
        self.offer = offer
        self.shown: list[Shown] = []
        self._at = 0
        self._above = Above()
        self._above.show_body(body, "")
        self._above.faint = offer.made is None
        self.setEnabled(offer.made is not None)
        self.setText(offer.title)
        self.setToolTip(f"{offer.about} {offer.why}".strip())
        self.setAccessibleDescription(
            offer.about if offer.made is not None else f"{offer.about} Not here: {offer.why}."
        )
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(self.sizeHint().height())

    def sizeHint(self) -> QSize:
        return QSize(look.px(150), look.px(PICTURE + 74))

    def show_moves(self, found: list[Shown]) -> None:
        """What it would move, by each thing that moves it."""
        self.shown, self._at = found, 0
        self._above.moves = found[0].moves if found else {}
        if found:
            said = "; ".join(
                f"{x.words} moves {len(x.moves)} part{'s' * (len(x.moves) != 1)}" for x in found
            )
            self.setAccessibleDescription(f"{self.offer.about} {said}.")
        self.update()

    def turn(self) -> None:
        """Show the next of several movements."""
        if len(self.shown) > 1:
            self._at = (self._at + 1) % len(self.shown)
            self._above.moves = self.shown[self._at].moves
            self.update()

    def paintEvent(self, event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lit = self.isEnabled() and (self.underMouse() or self.hasFocus())
        painter.setPen(QPen(look.colour("sea" if lit else "line"), 2 if lit else 1))
        painter.setBrush(look.colour("field" if self.isEnabled() else "card"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 7, 7)
        picture = QRectF(6, 5, self.width() - 12, look.px(PICTURE))
        self._above.resize(int(picture.width()), int(picture.height()))
        painter.save()
        painter.translate(picture.topLeft())
        self._above.paint_onto(painter)
        painter.restore()
        if self.shown:
            painter.setFont(look.font(0.72))
            painter.setPen(look.colour("faint"))
            painter.drawText(
                picture,
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop,
                self.shown[self._at].words,
            )
        text = QRectF(
            9, picture.bottom() + 3, self.width() - 18, self.height() - picture.bottom() - 8
        )
        painter.setFont(look.font(0.95, bold=True))
        painter.setPen(look.colour("ink" if self.isEnabled() else "faint"))
        painter.drawText(
            text, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, self.offer.title
        )
        painter.setFont(look.font(0.76))
        painter.setPen(look.colour("faint"))
        words = self.offer.about if self.offer.made is not None else f"Not here: {self.offer.why}."
        below = text.adjusted(0, look.px(18), 0, 0)
        painter.drawText(
            below,
            int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop) | Qt.TextFlag.TextWordWrap,
            words,
        )


class Gallery(QFrame):
    """All behaviours there are; what this aeroplane can't have says why, and leads to the step that
    helps."""

    taken = pyqtSignal(object)
    step_wanted = pyqtSignal(str)

    def __init__(self, workbench: Workbench) -> None:
        super().__init__()
        self.workbench = workbench
        self.tiles: list[BehaviourTile] = []
        self.links: list[QPushButton] = []
        self._waiting: list[BehaviourTile] = []
        self._model: Model | None = None
        self.setObjectName("card")
        self._grid = QGridLayout()
        self._grid.setSpacing(8)
        self.shut = QPushButton("Shut the gallery")
        self.shut.clicked.connect(self.hide)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 9, 12, 10)
        column.addLayout(row(label("Add a behaviour", "section"), self.shut))
        column.addWidget(
            label(
                "Arrows aft mean down, forward up. Each works at once, and undo takes it away.",
                "faint",
            )
        )
        column.addLayout(self._grid)
        self._one = QTimer(self)
        self._one.setInterval(0)
        self._one.timeout.connect(self._draw_one)
        self._turn = QTimer(self)
        self._turn.setInterval(STEP_MS)
        self._turn.timeout.connect(self._turn_all)
        self.hide()

    def out_of_date(self) -> bool:
        """Whether the model has been changed, or another one come, since it was opened."""
        return self._model is not self.workbench.model

    def open(self) -> None:
        """Show it for the model as it is now; pictures come one after the other."""
        self._model = self.workbench.loaded
        clear(self._grid)
        self.links = []
        body = self.workbench.loaded.airframe
        made = sorted(offers(self.workbench.loaded), key=lambda o: o.made is None)
        self.tiles = [BehaviourTile(offer, body) for offer in made]
        parent = self.parentWidget()
        wide = 0 if parent is None else parent.width()
        if self.isVisible():
            wide = self.width()
        columns = max(1, min(3, wide // look.px(195)))
        for i, tile in enumerate(self.tiles):
            tile.clicked.connect(lambda _=False, t=tile: self._take(t))
            cell = QWidget()
            inside = QVBoxLayout(cell)
            inside.setContentsMargins(0, 0, 0, 0)
            inside.setSpacing(0)
            inside.addWidget(tile)
            if tile.offer.step:
                verb = next((s.verb for s in STEPS if s.key == tile.offer.step), "")
                link = QPushButton(f"Go to: {verb}")
                link.setObjectName("plain")
                link.clicked.connect(
                    lambda _=False, key=tile.offer.step: self.step_wanted.emit(key)
                )
                inside.addWidget(link)
                self.links.append(link)
            inside.addStretch(1)
            self._grid.addWidget(cell, i // columns, i % columns)
        self._waiting = [t for t in self.tiles if t.offer.made is not None]
        self.show()
        self._one.start()
        self._turn.start()
        if self._waiting:
            self._waiting[0].setFocus()

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        self._one.stop()
        self._turn.stop()

    def _draw_one(self) -> None:
        if not self._waiting:
            self._one.stop()
            return
        tile = self._waiting.pop(0)
        if tile.offer.made is not None:
            tile.show_moves(shown(self.workbench.loaded, tile.offer.made))

    def _turn_all(self) -> None:
        for tile in self.tiles:
            tile.turn()

    def _take(self, tile: BehaviourTile) -> None:
        self.hide()
        self.taken.emit(tile.offer.made)
