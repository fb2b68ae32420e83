# SPDX-License-Identifier: GPL-3.0-or-later
"""Every button of every page pressed once, lists chosen from, fields given what they cannot take:
what that changed in the document, what was said, what was shown. See recorded.py."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
import pytest
from hands import choose, every_view, stand_still
from PyQt6.QtCore import Qt
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMessageBox,
    QWidget,
)
from pytestqt.qtbot import QtBot
from recorded import as_it_is
from test_as_recorded import seen
from test_fields_store import different

GONE_FOR_GOOD = ("Take it out of the hangar", "Remove it")
"""What parts with a model for good is tried elsewhere."""
ASIDE = ("Search again", "Compare", "Stop", "What would mend it?")
"""What begins work beside the window: when it ends depends on the machine."""
ANOTHER_DAY = re.compile(r"\d{4}-\d\d-\d\d( \d\d:\d\d)?")
"""What is another tomorrow."""
LATE = ("guard", "flaps", "shake scenarios")
"""Views with rehearsals, scenarios and pictures that are worked out beside the window, and are
there when they are ready: what was changed is read, and what the page shows is not."""
ALIKE = 1
"""Of buttons that are called alike on one view so many are pressed, the first ones."""
SOME = 3
"""Lists and fields tried on one view: the first, the last and what lies evenly between."""
WRONG = "no such thing"
"""What no field for a figure takes, and every field for a name."""


def called(widget: QWidget) -> str:
    """What a widget says, and what a screen reader hears of it."""
    own = widget.text() if isinstance(widget, QAbstractButton) else ""
    return ANOTHER_DAY.sub(
        "some day", " | ".join(dict.fromkeys(x for x in (own, widget.accessibleName()) if x))
    )


def of_kind(page: QWidget, kind: type[QWidget]) -> list[Any]:
    """What of a kind can be used on a page as it is, rehearsals left out."""
    late = getattr(page, "rehearsals", None)
    found = [w for w in page.findChildren(kind) if w.isVisibleTo(page) and w.isEnabled()]
    return [w for w in found if late is None or not late.isAncestorOf(w)]


def buttons(page: QWidget) -> list[QWidget]:
    """What can be pressed, of those alike the first ones."""
    found: list[QWidget] = []
    count: Counter[str] = Counter()
    for button in of_kind(page, QAbstractButton):
        if button.text() in (*GONE_FOR_GOOD, *ASIDE):
            continue
        count[button.text()] += 1
        if count[button.text()] <= ALIKE:
            found.append(button)
    return found


def some(found: list[QWidget]) -> list[QWidget]:
    """Not all of many."""
    if len(found) <= SOME:
        return found
    return [found[round(k * (len(found) - 1) / (SOME - 1))] for k in range(SOME)]


def lists(page: QWidget) -> list[QWidget]:
    """Lists with something else to choose."""
    return some([box for box in of_kind(page, QComboBox) if box.count() > 1])


def fields(page: QWidget) -> list[QWidget]:
    """Fields to write in."""
    return some([x for x in of_kind(page, QLineEdit) if not isinstance(x.parent(), QComboBox)])


def press(button: Any) -> None:
    button.click()


def take_the_last(box: Any) -> None:
    """Choose from a list as a hand would."""
    at = box.count() - 1 if box.currentIndex() != box.count() - 1 else 0
    box.setCurrentIndex(at)
    box.activated.emit(at)


def write(field: Any) -> None:
    """Write what is no figure, and leave the field by Enter."""
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, WRONG)  # type: ignore[call-arg]
    QTest.keyClick(field, Qt.Key.Key_Return)


ACTS: tuple[tuple[str, Callable[[QWidget], list[QWidget]], Callable[[Any], None]], ...] = (
    ("", buttons, press), ("choose: ", lists, take_the_last), ("write: ", fields, write),
)  # fmt: skip


def short(value: Any) -> str:
    """A value of a document in a few letters."""
    said = f"{value:.4g}" if isinstance(value, float) else str(value)
    return said if len(said) < 40 else f"{said[:38]}…"


def shows(page: QWidget) -> list[str]:
    """What a page says, whatever day it is."""
    return [ANOTHER_DAY.sub("some day", x) for x in seen(page)]


def told_of(window: Any, view: str, widget: QWidget, act: Callable[[Any], None]) -> Iterator[str]:
    """Do something to it, and tell what came of it."""
    bench, page = window.workbench, window.pages.currentWidget()
    before, shown, notice, hands = (
        bench.loaded,
        shows(page),
        window.notice.text.text(),
        dict(bench.state.live.controls),
    )
    act(widget)
    bench.simulation.advance(0.1)
    QApplication.processEvents()
    changes = different(before, bench.loaded)
    yield from (
        f"  {path.lstrip('.')}: {short(value)}" for path, value in sorted(changes.items())[:6]
    )
    if len(changes) > 6:
        yield f"  and {len(changes) - 6} more"
    if changes:
        yield f"  step: {bench.document.undo_label}"
    if window.notice.isVisible() and window.notice.text.text() != notice:
        yield f"  notice: {window.notice.text.text()}"
    moved = {n: v for n, v in bench.state.live.controls.items() if hands.get(n) != v}
    yield from (f"  {name} moves to {value:.4g}" for name, value in moved.items())
    here = window.pages.currentWidget()
    if here is not page:
        yield f"  goes to {window.rundown.current}"
    elif not view.startswith(LATE):
        now = shows(page)
        yield from [f"  + {x[:90]}" for x in now if x not in shown][:3]
        yield f"  {len(now) - len(shown):+d} lines"


def put_back(window: Any, kept: Any) -> None:
    """The model, the hands and the notices as they were."""
    bench = window.workbench
    if bench.loaded.name != kept.name and bench.document.undo_label is None:
        bench.document.open(kept.name)  # a new model has come
    while bench.loaded != kept and bench.document.undo_label is not None:
        bench.document.undo()
    assert bench.loaded == kept
    for name, value in bench.state.plan.rest.items():
        if not name.endswith("_trim") and bench.state.live.controls[name] != value:
            bench.simulation.set_control(name, value)
    bench.simulation.set_link(True)
    bench.simulation.advance(0.1)
    window.notice.hide()
    for left in QApplication.topLevelWidgets():
        if left is not window and left.isVisible():
            left.close()


@pytest.mark.parametrize("name", ["Samphire"])
def test_every_page_does_what_it_did_when_it_was_read(
    qtbot: QtBot, window: Any, monkeypatch: pytest.MonkeyPatch, name: Any
) -> None:
    for ask in ("getOpenFileName", "getSaveFileName", "getExistingDirectory"):
        monkeypatch.setattr(QFileDialog, ask, staticmethod(lambda *a, **k: ("", "")))
    monkeypatch.setattr(QInputDialog, "getText", staticmethod(lambda *a, **k: ("", False)))
    monkeypatch.setattr(QMessageBox, "exec", lambda self: QMessageBox.StandardButton.Cancel)
    monkeypatch.setattr(QPrintDialog, "exec", lambda self: QPrintDialog.DialogCode.Rejected)
    window.finish()
    choose(window, name)
    window.bench.hide()  # what it shows is read elsewhere, and painting it takes most of the time
    bench = stand_still(window.workbench)
    bench.companions.voice.muted = True
    qtbot.waitUntil(
        lambda: (
            bench.companions.scenarios is None or bench.companions.scenarios.outcomes is not None
        ),
        timeout=60_000,
    )
    drawn = np.random.default_rng
    monkeypatch.setattr(
        np.random, "default_rng", lambda seed=None: drawn(7 if seed is None else seed)
    )
    kept, told = bench.loaded, list[str]()
    views = [view for _, view in every_view(window)]
    for view in views:
        told.append(f"# {view}")
        for words, found, act in ACTS:
            at = 0
            while at < len(there := found(shown(window, view))):
                told += [f"{words}{called(there[at])}", *told_of(window, view, there[at], act)]
                put_back(window, kept)
                at += 1
    as_it_is(f"{name.lower()}-acts.txt", "\n".join(told) + "\n")


def shown(window: Any, wanted: str) -> QWidget:
    """The page of a view, with that view in sight."""
    ((page, _),) = every_view(window, wanted)
    return page  # type: ignore[no-any-return]
