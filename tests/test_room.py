# SPDX-License-Identifier: GPL-3.0-or-later
"""Room: in every size of the window, at every size of the text, all words of every page are whole,
or end in an ellipsis and are whole in a tip."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from hands import choose
from PyQt6.QtCore import QCoreApplication, QEvent
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel, QLineEdit, QWidget
from pytestqt.qtbot import QtBot

from hypsos.core.rundown import STEPS
from hypsos.desk.bench.motor_lamp import Lamp
from hypsos.desk.cards.mode_grid_view import CellButton
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.elided_button import ElidedButton
from hypsos.desk.widgets.fields import ChoiceBox
from hypsos.desk.widgets.picture import Picture

SIZES = ((1024, 768), (1100, 700), (1280, 800), (1440, 900), (1920, 1080), (2560, 1440))
SCALES = (1.0, 1.25, 1.5)
PAINTED = (Picture, Lamp, CellButton)
"""Widgets that paint their words themselves, as far as there is room for them."""


def too_narrow(page: QWidget) -> Iterator[str]:
    """The words of a page that have less room than they need."""
    for widget in page.findChildren(QWidget):
        if not widget.isVisibleTo(page) or isinstance(widget, PAINTED):
            continue
        if isinstance(widget, ChoiceBox):
            if not widget.shown_words().strip("…") and widget.currentText():
                yield f"choice: {widget.currentText()}"
        elif isinstance(widget, ElidedButton):
            if len(widget.shown_words()) < 8:
                yield f"button: {widget.text()}"
        elif isinstance(widget, QLabel):
            yield from _of_label(widget)
        elif isinstance(widget, QAbstractButton):
            if "…" not in widget.text() and widget.sizeHint().width() > widget.width() + 1:
                yield f"button: {widget.text()}"
        elif isinstance(widget, QLineEdit) and not widget.toolTip():
            words = widget.text() or widget.placeholderText()
            if widget.fontMetrics().horizontalAdvance(words) > widget.width() - 8:
                yield f"field: {words}"


def _of_label(label: QLabel) -> Iterator[str]:
    words, room = label.text(), label.contentsRect().width()
    if words.endswith("…") and label.toolTip():
        return
    if not label.wordWrap():
        if label.sizeHint().width() > label.width() + 1:
            yield f"label: {words}"
        return
    metrics = label.fontMetrics()
    longest = max((metrics.horizontalAdvance(word) for word in words.split()), default=0)
    if longest > room + 1:
        yield f"word of: {words}"
    elif label.height() + 1 < label.heightForWidth(label.width()):
        yield f"cut below: {words}"


def settle(page: Any) -> None:
    """Lay a page out as it will be, whatever waits for a moment in which nothing happens."""
    for _ in range(14):
        for timer in ("_soon",):
            waiting = getattr(page, timer, None)
            if waiting is not None and waiting.isActive():
                waiting.timeout.emit()
        QApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest)


@pytest.mark.parametrize("scale", SCALES)
def test_every_page_has_room_for_its_words(window: Any, qtbot: QtBot, scale: float) -> None:
    choose(window, "Marram")  # the largest of the demo models
    window.bench.aeroplane.hide()  # what it paints is looked at elsewhere, and takes most of the time
    window.go("guard")
    guard = window.page("guard")
    qtbot.waitUntil(lambda: bool(guard.rehearsals.buttons), timeout=60_000)  # they come later
    look.set_scale(scale)
    behaviours = window.page("flaps")
    for row in behaviours.rows:
        row.unfold(True)
    missing: dict[str, list[str]] = {}
    try:
        for size in SIZES:
            window.resize(*size)
            for step in STEPS:
                window.go(step.key)
                page = window.page(step.key)
                for view in page.view_keys() or ("",):
                    if view:
                        page.show_view(view)
                    settle(page)
                    found = list(too_narrow(page))
                    if page.area.widget().width() > page.area.viewport().width():
                        found.append(
                            f"wider than its view by {page.area.widget().width() - page.area.viewport().width()}"
                        )
                    if found:
                        missing[f"{size} {step.key} {view}"] = found
    finally:
        look.set_scale(1.0)
    assert missing == {}
