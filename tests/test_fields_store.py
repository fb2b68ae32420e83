# SPDX-License-Identifier: GPL-3.0-or-later
"""Every field of every page, found on the page itself: what is typed, ticked or chosen is what the
document stores."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import Any

import pytest
from hands import every_view
from PyQt6 import sip
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QCheckBox, QComboBox
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model
from hypsos.desk.app import open_workbench
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.window import Window
from hypsos.hangar import Hangar

MODELS = os.environ.get("HYPSOS_FIELD_MODELS", "").split()
"""Models of the demo of which every field is tried; without them the largest, of some of its pages
only some fields."""
SOME = 10
"""Number fields tried on a page then: the first, the last and what lies evenly between."""
BENCH_ONLY = {"log", "sheet", "directions", "shake"}
"""Pages whose fields are answers and drafts: the document does not hold them."""


def leaves(value: Any, path: Any = "") -> Any:
    """Every single figure, word and truth of a document with its path."""
    if isinstance(value, dict):
        return {p: v for k, x in value.items() for p, v in leaves(x, f"{path}.{k}").items()}
    if isinstance(value, list | tuple):
        return {p: v for i, x in enumerate(value) for p, v in leaves(x, f"{path}[{i}]").items()}
    return {path: value}


def different(before: Any, after: Any) -> Any:
    old, new = leaves(before.model_dump()), leaves(after.model_dump())
    left_out = (".proposed", ".sheet_of")
    return {
        p: new.get(p)
        for p in {*old, *new}
        if old.get(p) != new.get(p) and not p.startswith(left_out)
    }


def type_text(qtbot: QtBot, field: Any, text: Any) -> None:
    field.line.setFocus()
    field.line.selectAll()
    qtbot.keyClicks(field.line, text)
    qtbot.keyClick(field.line, Qt.Key.Key_Return)
    QApplication.processEvents()


def candidates(field: Any) -> Iterator[Any]:
    """Values that the field may take and does not show: its ends, and what lies between."""
    low, high = field._bounds
    now = field._get()
    for share in (0.25, 0.6, 0.0, 1.0):
        value = round(low + share * (high - low), field._digits)
        if abs(value - now) > 10.0**-field._digits and low <= value <= high:
            yield value


def stored_as(value: Any, found: Any) -> Any:
    """Whether a typed figure stands in what was stored: as it is, its side turned, or power as a
    demand."""
    wanted = {round(x, 3) for x in (value, -value, 2 * value - 100, value / 100)}
    return any(isinstance(x, float | int) and round(float(x), 3) in wanted for x in found.values())


def numbers(page: Any) -> Any:
    return [f for f in page.findChildren(NumberField) if f.isVisibleTo(page) and f.isEnabled()]


def try_numbers(qtbot: QtBot, window: Any, page: Any, name: Any) -> Any:
    """Type into every number field of a page; returns how many stored what was typed."""
    bench, kept = window.workbench, 0
    count = len(numbers(page))
    tried = (
        range(count)
        if MODELS or count <= SOME
        else sorted({round(k * (count - 1) / (SOME - 1)) for k in range(SOME)})
    )
    for i in tried:
        for _ in range(2):
            fields = numbers(page)
            if i >= len(fields):
                break
            field = fields[i]
            label, before, shown = field.line.accessibleName(), bench.model, field.line.text()
            value = next(candidates(field), None)
            if value is None:
                break
            text = field.text_of(value)
            type_text(qtbot, field, text.replace("−", "-").replace("µs", "").replace("°", ""))
            after = bench.model
            place = f"{name}: {label}, {text}"
            if after is before or after == before:
                refused = (
                    field.complaint.text()
                )  # what is measured beside the model is kept on its page
                assert "Write a number" not in refused and (refused or field.line.text() == text), (
                    f"{place} was not taken"
                )
                break
            found = different(before, after)
            assert found, place
            if field._convert is None and field._unit not in ("mm", "°", "µs", "g"):
                assert stored_as(value, found), f"{place} was stored as {found}"
            if not sip.isdeleted(field) and field.isVisibleTo(page):
                assert field.line.text() == text or field._convert is not None, place
            kept += 1
            bench.document.undo()
            QApplication.processEvents()
            assert not different(before, bench.model), f"{place}: undo"
            again = numbers(page)
            if i < len(again) and again[i].line.accessibleName() == label:
                assert again[i].line.text() == shown, f"{place}: undo is not shown"
            break
    return kept


def try_ticks(window: Any, page: Any, name: Any) -> Any:
    bench, kept = window.workbench, 0
    for box in [b for b in page.findChildren(QCheckBox) if b.isVisibleTo(page) and b.isEnabled()]:
        if sip.isdeleted(box) or not box.isVisibleTo(page):
            continue
        before, was = bench.model, box.isChecked()
        label = box.text() or box.accessibleName()
        box.click()
        QApplication.processEvents()
        found = different(before, bench.model)
        if not found:
            if not sip.isdeleted(box) and box.isVisibleTo(page) and box.isChecked() != was:
                box.click()  # it shows something and stores nothing
            continue
        kept += 1
        assert sip.isdeleted(box) or not box.isVisibleTo(page) or box.isChecked() != was, (
            f"{name}: {label}"
        )
        bench.document.undo()
        QApplication.processEvents()
        assert not different(before, bench.model), f"{name}: {label}: undo"
        assert sip.isdeleted(box) or not box.isVisibleTo(page) or box.isChecked() == was, (
            f"{name}: {label}: undo"
        )
    return kept


def try_choices(window: Any, page: Any, name: Any) -> Any:
    bench, kept = window.workbench, 0
    for box in [b for b in page.findChildren(QComboBox) if b.isVisibleTo(page) and b.isEnabled()]:
        if sip.isdeleted(box) or not box.isVisibleTo(page) or box.count() < 2:
            continue
        before, was = bench.model, box.currentIndex()
        label = box.accessibleName()
        to = (was + 1) % box.count()
        words = box.itemText(to)
        box.setCurrentIndex(to)
        box.activated.emit(to)
        QApplication.processEvents()
        found = different(before, bench.model)
        if not found:
            if (
                not sip.isdeleted(box)
                and box.isVisibleTo(page)
                and box.currentIndex() != was
                and was >= 0
            ):
                box.setCurrentIndex(was)
                box.activated.emit(was)
            continue
        kept += 1
        if not sip.isdeleted(box) and box.isVisibleTo(page):
            if words == "a new one":  # it shows what was made
                words = bench.model.program.tunables[-1].label
            assert box.currentText() == words, (
                f"{name}: {label} shows {box.currentText()}, and {words} was chosen"
            )
        bench.document.undo()
        QApplication.processEvents()
        assert not different(before, bench.model), f"{name}: {label}: undo"
    return kept


@pytest.mark.parametrize("model", MODELS or ["Marram"])
def test_every_field_stores_what_is_typed_ticked_or_chosen(
    qtbot: QtBot, hangar: Hangar, model: Model
) -> None:
    window = Window(open_workbench(hangar, model))
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    window.finish()
    window.bench.hide()  # painting it takes most of the time
    counted = {}
    for page, name in every_view(window):
        if name.split()[0] in BENCH_ONLY:
            continue
        where = f"{model}, {name}"
        tried = (
            try_numbers(qtbot, window, page, where),
            try_ticks(window, page, where),
            try_choices(window, page, where),
        )
        counted[name] = tried
    with_fields = {
        "airframe",
        "hands",
        "wiring",
        "guard",
        "throws",
        "feel",
        "flaps",
        "modes",
        "failsafe",
    }
    with_fields -= set() if window.workbench.loaded.airframe.motors else {"guard"}
    assert {n.split()[0] for n, tried in counted.items() if sum(tried)} >= with_fields
    assert sum(sum(x) for x in counted.values()) > 80
