# SPDX-License-Identifier: GPL-3.0-or-later
"""One stick under one thumb: two movements, springs where there are springs, trims along its
edges."""

from __future__ import annotations

from functools import cache

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QFocusEvent,
    QHideEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QTouchEvent,
)
from PyQt6.QtWidgets import QWidget

from hypsos.core.dependencies.motor_dependencies import motor_controls
from hypsos.core.parts.transmitter import STICK_PLACES
from hypsos.core.wording.words import stick_words
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.hand_control import SpokenControl
from hypsos.desk.widgets.pixmap_cache import still

WORDS = {
    "aileron_stick": "roll",
    "elevator_stick": "pitch",
    "throttle_stick": "throttle",
    "rudder_stick": "yaw",
}
COMMANDS = {
    "aileron_stick": "roll",
    "elevator_stick": "pitch",
    "throttle_stick": "thrust",
    "rudder_stick": "yaw",
}
SPRUNG_SPEED, THROTTLE_SPEED = 400.0, 120.0
GIVEN_UP_MS = 1000
"""A held key of which nothing was heard for so long counts as let go: a desktop may swallow the
release."""


@cache
def stick_keys() -> dict[str, dict[int, tuple[int, int]]]:
    """Hand -> key -> (which movement, which way). Made when first used: Qt's list of keys is
    long."""
    key = Qt.Key
    return {
        "left": {key.Key_A: (0, -1), key.Key_D: (0, 1), key.Key_W: (1, 1), key.Key_S: (1, -1)},
        "right": {
            key.Key_Left: (0, -1),
            key.Key_Right: (0, 1),
            key.Key_Up: (1, 1),
            key.Key_Down: (1, -1),
        },
    }


PLACES = {38: Qt.Key.Key_A, 40: Qt.Key.Key_D, 25: Qt.Key.Key_W, 39: Qt.Key.Key_S}
"""Where the keys of the left stick lie, as Linux counts the keys of a keyboard, whatever letters
its layout puts there."""


def placed_key(event: QKeyEvent) -> int:
    """The key of an event; for the left stick by its place on the keyboard, so that the four lie
    together on every layout."""
    return PLACES.get(event.nativeScanCode(), Qt.Key(event.key()))


class Stick(SpokenControl):
    """A stick of the given hand. It shows the workbench's controls and moves them."""

    def __init__(self, workbench: Workbench, hand: str, parent: QWidget | None = None) -> None:
        super().__init__(f"{hand.capitalize()} stick", -100, 100, parent)
        self.workbench = workbench
        self.hand = hand
        self.setAttribute(Qt.WidgetAttribute.WA_AcceptTouchEvents)
        self._grabbed: tuple[QPointF, dict[str, float]] | None = None
        """Where the left button took the stick, and where its movements stood that go as far as the
        pointer goes."""
        """Where the left button took the knob, and where the throttle stood then; None while it is
        let alone."""
        self._down: dict[int, tuple[str, int]] = {}
        """Key held -> the movement it holds, as it was when the key went down, and the key's place
        on the keyboard."""
        self._given_up = QTimer(self)
        self._given_up.setSingleShot(True)
        self._given_up.setInterval(GIVEN_UP_MS)
        self._given_up.timeout.connect(self.let_go)
        keys = "A D W S" if hand == "left" else "the arrow keys"
        self.setToolTip(
            f"Drag it, or use {keys}; both sticks answer at once. Trims: the marks along the edges."
        )
        self._shown: tuple[tuple[str, float, float | None], ...] = ()
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._still: tuple[object, QPixmap] | None = None
        # comes after every change of the model, too
        workbench.simulation.live_changed.connect(self._refresh)
        workbench.document.leaving.connect(self._leave)
        look.follow(self, self.updateGeometry)

    def sizeHint(self) -> QSize:
        return QSize(look.px(158), look.px(158))

    def minimumSizeHint(self) -> QSize:
        return QSize(look.px(104), look.px(104))

    def _refresh(self) -> None:
        across, upward = self.movements()
        if self._stands() != self._shown:
            self.update()
            self.speak(self._value(upward), f"{self._words(upward)}, {self._words(across)}")

    def _words(self, name: str) -> str:
        return f"{WORDS[name]} {stick_words(name, self._value(name))}"

    # -- what it carries -------------------------------------------------------------------------

    def movements(self) -> tuple[str, str]:
        """The movement left and right, and the one to and fro, in the pilot's stick mode."""
        model = self.workbench.model
        return STICK_PLACES[model.transmitter.stick_mode if model else 2][self.hand]

    def _stands(self) -> tuple[tuple[str, float, float | None], ...]:
        """All that is painted of it: both movements, where they stand, and their trims."""
        return tuple((n, self._value(n), self._share(n)) for n in self.movements())

    def _value(self, name: str) -> float:
        return self.workbench.state.live.controls.get(name, 0.0)

    def field(self) -> QRectF:
        """The square the stick moves in; trims and words lie around it."""
        edge = look.px(21)
        side = min(self.width() - 2 * edge, self.height() - 2 * edge)
        return QRectF((self.width() - side) / 2, (self.height() - side) / 2, side, side)

    def _trim_places(self) -> dict[str, tuple[QRectF, bool]]:
        """Trim -> its strip and whether it lies flat."""
        f, wide = self.field(), look.px(12)
        across, upward = self.movements()
        inner = f.right() + look.px(3) if self.hand == "left" else f.left() - wide - look.px(3)
        places = {across: (QRectF(f.left(), f.bottom() + look.px(3), f.width(), wide), True)}
        places[upward] = (QRectF(inner, f.top(), wide, f.height()), False)
        return {n: p for n, p in places.items() if self._share(n) is not None}

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._below())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        f = self.field()
        across, upward = self.movements()
        self._shown = self._stands()
        x, y = self._value(across), self._value(upward)
        reach = f.width() / 2 - look.px(15)
        knob = QPointF(f.center().x() + reach * x / 100, f.center().y() - reach * y / 100)
        painter.setPen(QPen(look.colour("edge"), look.px(5), cap=Qt.PenCapStyle.RoundCap))
        painter.drawLine(f.center(), knob)
        painter.setPen(QPen(look.colour("ink"), 1.5))
        painter.setBrush(look.colour("surface"))
        painter.drawEllipse(knob, look.px(11), look.px(11))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(knob, look.px(5), look.px(5))
        painter.setFont(look.font(0.8))
        painter.setPen(look.colour("faint"))
        top = QRectF(f.left(), f.top() - look.px(18), f.width(), look.px(16))
        painter.drawText(top, Qt.AlignmentFlag.AlignCenter, self._words(upward))
        painter.save()
        outer = f.left() - look.px(10) if self.hand == "left" else f.right() + look.px(10)
        painter.translate(outer, f.center().y())
        painter.rotate(-90 if self.hand == "left" else 90)
        side = QRectF(-f.height() / 2, -look.px(9), f.height(), look.px(18))
        painter.drawText(side, Qt.AlignmentFlag.AlignCenter, self._words(across))
        painter.restore()

    def _below(self) -> QPixmap:
        """The square and the trims, which stay while the stick moves."""
        trims = {n: self._share(n) for n in self.movements()}
        key = (self.size(), look.palette.name, look.scale, self.hasFocus(), trims)
        if self._still is None or self._still[0] != key:
            made = still(self.size(), self.devicePixelRatioF(), look.colour("paper"))
            painter = QPainter(made)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            f = self.field()
            painter.setPen(
                QPen(look.colour("sea" if self.hasFocus() else "edge"), 2 if self.hasFocus() else 1)
            )
            painter.setBrush(look.colour("field"))
            painter.drawRoundedRect(f, 10, 10)
            painter.setPen(QPen(look.colour("line"), 1))
            painter.drawLine(
                QPointF(f.center().x(), f.top() + 6), QPointF(f.center().x(), f.bottom() - 6)
            )
            painter.drawLine(
                QPointF(f.left() + 6, f.center().y()), QPointF(f.right() - 6, f.center().y())
            )
            for name, (strip, flat) in self._trim_places().items():
                _paint_trim(painter, trims[name] or 0.0, strip, flat)
            painter.end()
            self._still = (key, made)
        return self._still[1]

    def _share(self, name: str) -> float | None:
        """Where a movement's trim stands, of its range to one side; the lever moves as the stick
        does: pull is nose up."""
        model = self.workbench.model
        for axis in model.program.axes if model else ():
            if axis.command == COMMANDS.get(name) and axis.trim is not None:
                sense = -1.0 if name == "elevator_stick" else 1.0
                return (
                    sense
                    * self.workbench.state.trim_clicks(axis.command)
                    * axis.trim.step
                    / axis.trim.range
                )
        return None

    # -- mouse -----------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        for name, (strip, flat) in self._trim_places().items():
            if strip.adjusted(-2, -2, 2, 2).contains(event.position()):
                ahead = (
                    event.position().x() > strip.center().x()
                    if flat
                    else event.position().y() < strip.center().y()
                )
                self._click_trim(name, 1 if ahead else -1)
                return
        self._take(event.position())

    def _take(self, place: QPointF) -> None:
        """A pointer or a finger takes the stick."""
        if self.field().contains(place):
            powers = {n: self._value(n) for n in self.movements() if self._gives_power(n)}
            self._grabbed = (place, powers)
            self._follow(place)

    def _put_down(self) -> None:
        """It lets go: what has a spring goes back."""
        if self._grabbed is not None:
            self._grabbed = None
            self._spring()

    def event(self, event: QEvent | None) -> bool:
        """Each stick has a finger of its own, so that both move at once. What takes a finger away
        counts as letting go."""
        if not isinstance(event, QTouchEvent):
            return super().event(event)
        finger = event.points()[0] if event.points() else None
        if event.type() == QEvent.Type.TouchBegin and finger is not None:
            self.setFocus(Qt.FocusReason.MouseFocusReason)
            self._take(self.mapFromGlobal(finger.globalPosition()))
        elif event.type() == QEvent.Type.TouchUpdate and self._grabbed is not None:
            if finger is not None:
                self._follow(self.mapFromGlobal(finger.globalPosition()))
        elif event.type() in (QEvent.Type.TouchEnd, QEvent.Type.TouchCancel):
            self._put_down()
        event.accept()
        return True

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._grabbed is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._follow(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._put_down()

    def _gives_power(self, name: str) -> bool:
        """Whether a movement is the throttle, or one on which a motor hangs."""
        model = self.workbench.model
        return name == "throttle_stick" or (model is not None and name in motor_controls(model))

    def _follow(self, place: QPointF) -> None:
        """What has a spring goes to the pointer. What gives power goes as far as the pointer has
        gone since it took the knob: a click beside the knob, to give the stick the keys, starts no
        motor."""
        assert self._grabbed is not None
        taken, stood = self._grabbed
        f = self.field()
        reach = f.width() / 2 - look.px(15)
        across, upward = self.movements()
        x = (place.x() - f.center().x()) / reach * 100
        y = (f.center().y() - place.y()) / reach * 100
        gone_right, gone_up = (
            (place.x() - taken.x()) / reach * 100,
            (taken.y() - place.y()) / reach * 100,
        )
        for name, pointed, gone in ((across, x, gone_right), (upward, y, gone_up)):
            value = stood[name] + gone if name in stood else pointed
            self.workbench.simulation.set_control(
                name, float(round(max(-100.0, min(100.0, value))))
            )

    def _spring(self) -> None:
        for name in self.movements():
            if name != "throttle_stick":
                self.workbench.simulation.set_control(name, 0.0)

    def _click_trim(self, name: str, ahead: int) -> None:
        clicks = -ahead if name == "elevator_stick" else ahead
        self.workbench.notices.attempt(lambda: self.workbench.document.trim(COMMANDS[name], clicks))

    # -- keys ------------------------------------------------------------------------------------
    #
    # A key that is down moves a stick, a throttle too. What must hold: whatever else happens
    # meanwhile, a key that is let go stops what it moved. So a release is never asked for its
    # modifiers, a key remembers its movement, and whatever takes the keys away (focus, window,
    # page, another model) counts as letting them all go.

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self.let_go()
        super().focusOutEvent(event)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.let_go()
        self._put_down()
        super().hideEvent(event)

    def _leave(self) -> None:
        """Another model comes: nothing that was held is held on."""
        self.let_go()
        self._grabbed = None

    def let_go(self) -> None:
        """Stop every movement that keys hold; what has a spring goes back."""
        for key in tuple(self._down):
            self._key_up(key)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self._press(event):
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self._release(event):
            super().keyReleaseEvent(event)

    def _movement(self, key: int) -> tuple[str, int] | None:
        """The movement that a key stands for in the pilot's stick mode, and which way; None for any
        other key."""
        model = self.workbench.model
        for hand, keys in stick_keys().items():
            if key in keys and model is not None:
                which, sense = keys[key]
                return STICK_PLACES[model.transmitter.stick_mode][hand][which], sense
        return None

    def _press(self, event: QKeyEvent) -> bool:
        """Keys move both sticks, whichever has the focus. With Shift they click the trims."""
        key, modifiers = placed_key(event), event.modifiers()
        found = self._movement(key)
        if found is None:
            return False
        name, sense = found
        if self._down and event.isAutoRepeat():
            self._given_up.start()  # only the last key repeats; the keyboard is heard, so the others are still down
        if key in self._down:
            return True
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            self._click_trim(name, sense)
            return True
        others = (
            Qt.KeyboardModifier.ControlModifier
            | Qt.KeyboardModifier.AltModifier
            | Qt.KeyboardModifier.MetaModifier
        )
        if modifiers & others:
            return False
        if event.isAutoRepeat():
            return True  # it was given up, or went down elsewhere: it has to be pressed anew
        for other in [k for k, (held, _) in self._down.items() if held == name]:
            del self._down[other]  # the later key of one movement holds it
        self._down[key] = (name, event.nativeScanCode())
        self._given_up.start()
        self.workbench.simulation.hold(
            name, sense * (THROTTLE_SPEED if name == "throttle_stick" else SPRUNG_SPEED)
        )
        return True

    def _release(self, event: QKeyEvent) -> bool:
        key, place = placed_key(event), event.nativeScanCode()
        if place:  # with another modifier or layout the same key may come back under another name
            key = next((k for k, (_, held) in self._down.items() if held == place), key)
        if self._movement(key) is None and key not in self._down:
            return False
        if not event.isAutoRepeat():
            self._key_up(key)
        return True

    def _key_up(self, key: int) -> None:
        """Stop what a key holds."""
        held = self._down.pop(key, None)
        if not self._down:
            self._given_up.stop()
        if held is None:
            return
        name = held[0]
        self.workbench.simulation.hold(name, 0.0)
        if name != "throttle_stick":
            self.workbench.simulation.set_control(name, 0.0)


def _paint_trim(painter: QPainter, share: float, strip: QRectF, flat: bool) -> None:
    painter.setPen(QPen(look.colour("line"), 1))
    painter.setBrush(look.colour("paper"))
    painter.drawRoundedRect(strip, 3, 3)
    room = (strip.width() if flat else strip.height()) / 2 - 6
    at = strip.center() + (QPointF(share * room, 0) if flat else QPointF(0, -share * room))
    painter.setPen(QPen(look.colour("edge"), 1))
    if flat:
        painter.drawLine(
            QPointF(strip.center().x(), strip.top()), QPointF(strip.center().x(), strip.bottom())
        )
    else:
        painter.drawLine(
            QPointF(strip.left(), strip.center().y()), QPointF(strip.right(), strip.center().y())
        )
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(look.colour("ochre"))
    thin, thick = 5.0, (strip.height() if flat else strip.width()) - 2
    size = (thin, thick) if flat else (thick, thin)
    painter.drawRoundedRect(QRectF(at.x() - size[0] / 2, at.y() - size[1] / 2, *size), 2, 2)
