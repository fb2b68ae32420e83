# SPDX-License-Identifier: GPL-3.0-or-later
"""A field for a number: typed, stepped by the arrow keys (Shift coarse, Ctrl fine), with its
unit."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import AbstractContextManager
from typing import Protocol

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import MINUS, number
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.announcer import announce
from hypsos.desk.widgets.fields import TextField
from hypsos.desk.widgets.page_layout import label
from hypsos.desk.widgets.vanished_rows import while_there

TYPED_STEP = 0.5
"""What an arrow key adds to a figure that was typed in millimetres or degrees."""
SIDED = 114
"""The least width of a field that may show ``138.5 mm down``."""
_NUMBER = re.compile(r"^\s*([+-]?\d+(?:[.,]\d+)?)\s*(.*?)\s*$")


class TypedPlace(Protocol):
    """Where a figure stands that may be typed in millimetres or degrees, and is kept as typed."""

    def shown(self) -> tuple[float, str] | None:
        """What was typed, signed, and its unit, where that is still true."""

    def typing(self, value: float, unit: str) -> AbstractContextManager[None]:
        """What is put inside was typed so."""


class _Line(TextField):
    def __init__(self, owner: NumberField) -> None:
        super().__init__()
        self.owner = owner

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            held = event.modifiers()
            factor = 10.0 if held & Qt.KeyboardModifier.ShiftModifier else 1.0
            factor = 0.1 if held & Qt.KeyboardModifier.ControlModifier else factor
            self.owner.nudge(factor if event.key() == Qt.Key.Key_Up else -factor)
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.selectAll()  # so that the next figure takes the place of this one

    def revert(self) -> bool:
        typed = super().revert()
        if typed:
            self.owner.refresh()
        return typed

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.selectAll()


class NumberField(QWidget):
    """Reads its value with ``get`` and hands a new one to ``put``, which may refuse it with
    HypsosError.

    A value it cannot take is answered beside the field, and the old one stays. ``step`` is what an
    arrow key adds. With ``words`` the sign is said: ("up", "down") shows -4 as "4 % up" and takes
    it typed so. ``convert`` turns a value typed in another unit (mm, °) into this one; it may
    refuse with HypsosError. With ``typed`` what was typed in another unit is shown so, as long as
    it is true. With ``measure``, which turns the value into millimetres, these are what is shown
    and asked, and the value stands beside them."""

    def __init__(
        self,
        name: str,
        get: Callable[[], float],
        put: Callable[[float], None],
        unit: str = "%",
        bounds: tuple[float, float] = (-150.0, 150.0),
        step: float = 1.0,
        digits: int = 1,
        width: int = 74,
        words: tuple[str, str] | None = None,
        convert: Callable[[float, str], float] | None = None,
        typed: TypedPlace | None = None,
        measure: Callable[[float], float | None] | None = None,
    ) -> None:
        super().__init__()
        self._typed, self._measure = typed, measure
        self._get, self._put, self._unit, self._bounds = get, put, unit, bounds
        self._step, self._digits = step, digits
        self._width = max(width, SIDED) if measure is not None else width
        self._words, self._convert = words, convert
        self.line = _Line(self)
        self.line.setAccessibleName(name)
        self.line.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.line.editingFinished.connect(self._finished)
        self.line.textEdited.connect(lambda: self._complain(""))
        self.complaint = label("", "complaint")
        self.complaint.hide()
        self.beside = label("", "faint", wrap=False)
        line = QHBoxLayout()
        line.setSpacing(5)
        line.addWidget(self.line)
        line.addWidget(self.beside, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(line)
        column.addWidget(self.complaint)
        self.beside.setVisible(measure is not None)  # once it has a place: alone it is a window
        self.setFocusProxy(self.line)
        look.hold(self.line, width=self._width)
        self.refresh()

    def text_of(self, value: float) -> str:
        """The value as it is shown."""
        text = number(abs(value) if self._words else value, self._digits)
        if "." in text:
            text = text.rstrip("0").rstrip(".")
        text = f"{text} {self._unit}".rstrip()
        return (
            f"{text} {self._words[value > 0]}"
            if self._words and round(value, self._digits)
            else text
        )

    def text_now(self) -> str:
        """What the field shows: the figure as it was typed, else in millimetres where it has them,
        else in its own unit."""
        shown = self._shown()
        return self.text_of(self._get()) if shown is None else self._typed_text(*shown)

    def _shown(self) -> tuple[float, str] | None:
        """The figure and its unit, where it is shown in another one than its own."""
        typed = self._typed.shown() if self._typed is not None else None
        if typed is not None or self._measure is None:
            return typed
        mm = self._measure(self._get())
        return None if mm is None else (round(mm, self._digits), "mm")

    def _typed_text(self, value: float, unit: str) -> str:
        text = number(abs(value), 2)
        text = text.rstrip("0").rstrip(".") if "." in text else text
        joined = f"{text}°" if unit == "°" else f"{text} {unit}"
        return f"{joined} {self._words[value > 0]}" if self._words and value else joined

    @while_there
    def refresh(self) -> None:
        """Show the present value, after an edit: what was refused before it is no longer said."""
        self._complain("")
        self.show_again()

    @while_there
    def show_again(self) -> None:
        """Show what was worked out since the last edit. What was refused is still said."""
        text = self.text_now()
        if self.line.text() != text or self.line.isModified():
            self.line.setText(text)
        if self._measure is not None:
            own = self.text_of(self._get()) if self._shown() is not None else ""
            self.beside.setText(own.removesuffix(f" {self._side(self._get())}"))

    @while_there
    def hand_in(self) -> None:
        """Take what is typed and was not finished."""
        if self.line.isModified():
            self._finished()

    @while_there
    def nudge(self, steps: float) -> None:
        """Step the value; one typed and not handed in is taken first."""
        if self.line.isModified():
            self._finished()
        shown = self._shown()
        if shown is not None and self._convert is not None:
            self._step_typed(shown[0] + steps * TYPED_STEP, shown[1])
            return
        low, high = self._bounds
        self._take(min(high, max(low, round(self._get() + steps * self._step, 6))))

    def _step_typed(self, value: float, unit: str) -> None:
        """Step a figure in the unit in which it was typed."""
        assert self._convert is not None
        try:
            percent = self._convert(round(value, 6), unit)
        except HypsosError as error:
            self._refuse(error.plain)
            return
        low, high = self._bounds
        if low <= percent <= high:
            self._take(percent, (round(value, 6), unit))

    @while_there
    def _finished(self) -> None:
        if not self.line.isModified():
            return
        if self.line.text() == self.text_now():
            self._complain("")
            return
        parsed = self._parsed(self.line.text().replace(MINUS, "-"))
        if parsed is None:
            return
        value, typed = parsed
        low, high = self._bounds
        if not low <= value <= high:
            self._refuse(
                f"{number(low)} to {number(high)} {self._unit}".rstrip()
                + f", not {self.text_of(value)}."
            )
            return
        self._take(value, typed)

    def _parsed(self, text: str) -> tuple[float, tuple[float, str] | None] | None:
        """The typed value in the field's own unit, and as it was typed where that is in another
        one; None when it was refused."""
        match = _NUMBER.match(text)
        if match is None:
            self._refuse(self._asked_for())
            return None
        value, units = self._signed(float(match[1].replace(",", ".")), _words(match[2]))
        if not units:
            shown = self._shown()
            units = [shown[1]] if shown is not None else []
        if not units or units == _words(self._unit):
            return value, None
        if self._convert is not None and len(units) == 1 and units[0] in ("mm", "°", "deg", "%"):
            unit = "°" if units[0] == "deg" else units[0]
            try:
                return self._convert(value, unit), None if unit == "%" else (value, unit)
            except HypsosError as error:
                self._refuse(error.plain)
                return None
        self._refuse(self._asked_for())
        return None

    def _signed(self, value: float, words: list[str]) -> tuple[float, list[str]]:
        """The value with the sign that a word for a side gives it, and the words that are units."""
        units: list[str] = []
        for word in words:
            if self._words and word in self._words:
                value = abs(value) if word == self._words[1] else -abs(value)
            else:
                units.append(word)
        return value, units

    def _side(self, value: float) -> str:
        """The word for the side of a value; none at nothing or where there are no sides."""
        return self._words[value > 0] if self._words and round(value, self._digits) else ""

    def _asked_for(self) -> str:
        """What can be written here, as a sentence."""
        own = "mm" if self._measure is not None else self._unit
        unit = f" in {own}" if own else ""
        others = ""
        if self._convert is not None:
            units = [f"or {other}" for other in ("mm", "°", "%") if other != own]
            others = f" ({', '.join(units)})"
        sides = f" and {' or '.join(dict.fromkeys(self._words))}" if self._words else ""
        return f"Write a number{unit}{others}{sides}."

    def _take(self, value: float, typed: tuple[float, str] | None = None) -> None:
        try:
            if typed is not None and self._typed is not None:
                with self._typed.typing(*typed):
                    self._put(value)
            else:
                self._put(value)
        except HypsosError as error:
            self._refuse(error.plain)
            return
        self.refresh()

    def _refuse(self, why: str) -> None:
        self.line.setText(self.text_now())
        self._complain(why)
        announce(why)

    def _complain(self, why: str) -> None:
        if self.complaint.text() == why:
            return
        self.complaint.setText(why)
        self.complaint.setVisible(bool(why))
        self.line.setObjectName("wrong" if why else "")
        style = self.line.style()
        if style is not None:
            style.unpolish(self.line)
            style.polish(self.line)


def _words(unit: str) -> list[str]:
    """What stands behind a figure, word by word; signs of units are words of their own."""
    return unit.replace("%", " % ").replace("°", " ° ").split()
