"""Every button of every page, pressed once: what it changed in the document, what it said, what it showed. See recorded.py."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Any

import pytest
from hands import choose, every_view, stand_still
from PyQt6.QtWidgets import QAbstractButton, QApplication, QFileDialog, QInputDialog, QMessageBox, QWidget
from recorded import as_it_is
from test_as_recorded import seen
from test_fields_store import different

LEFT_OUT = ("log", "shake", "directions", "model")
"""Pages that say what day it is, how far a search has come, what chance has drawn, or that part with a model for good."""
LATE = ("guard", "flaps")
"""Pages with rehearsals and pictures that are worked out beside the window, and are there when they are ready: what was
changed is read, and what the page shows is not."""
ALIKE = 2
"""Of buttons that are called alike on one view so many are pressed."""


def called(button: QAbstractButton) -> str:
    """What a button says, and what a screen reader hears of it."""
    return " | ".join(dict.fromkeys(x for x in (button.text(), button.accessibleName()) if x))


def buttons(page: QWidget) -> list[QAbstractButton]:
    """What can be pressed on a page as it is, of those alike the first ones."""
    found: list[QAbstractButton] = []
    count: Counter[str] = Counter()
    late = getattr(page, "rehearsals", None)
    for button in page.findChildren(QAbstractButton):
        if late is not None and late.isAncestorOf(button):
            continue
        if button.isVisibleTo(page) and button.isEnabled():
            count[button.text()] += 1
            if count[button.text()] <= ALIKE:
                found.append(button)
    return found


def short(value: Any) -> str:
    """A value of a document in a few letters."""
    said = f"{value:.4g}" if isinstance(value, float) else str(value)
    return said if len(said) < 40 else f"{said[:38]}…"


def pressed(window, page: QWidget, button: QAbstractButton) -> Iterator[str]:
    """Press it, and tell what came of it."""
    bench = window.workbench
    before, shown, notice, hands = bench.loaded, seen(page), window.notice.text.text(), dict(bench.live.controls)
    button.click()
    bench.advance(0.1)
    QApplication.processEvents()
    changes = different(before, bench.loaded)
    yield from (f"  {path.lstrip('.')}: {short(value)}" for path, value in sorted(changes.items())[:6])
    if len(changes) > 6:
        yield f"  and {len(changes) - 6} more"
    if changes:
        yield f"  step: {bench.undo_label}"
    if window.notice.isVisible() and window.notice.text.text() != notice:
        yield f"  notice: {window.notice.text.text()}"
    moved = {n: v for n, v in bench.live.controls.items() if hands.get(n) != v}
    yield from (f"  {name} moves to {value:.4g}" for name, value in moved.items())
    here = window.pages.currentWidget()
    if here is not page:
        yield f"  goes to {window.rundown.current}"
    elif window.rundown.current not in LATE:
        fresh = [x for x in seen(page) if x not in shown]
        yield from (f"  + {x[:90]}" for x in fresh[:3])
        yield f"  {len(seen(page)) - len(shown):+d} lines"


def put_back(window, kept) -> None:
    """The model, the hands and the notices as they were."""
    bench = window.workbench
    while bench.loaded != kept and bench.undo_label is not None:
        bench.undo()
    assert bench.loaded == kept
    for name, value in bench.plan.rest.items():
        if not name.endswith("_trim"):
            bench.set_control(name, value)
    bench.set_link(True)
    bench.advance(0.1)
    window.notice.hide()
    for left in QApplication.topLevelWidgets():
        if left is not window and left.isVisible():
            left.close()


@pytest.mark.parametrize("name", ["Samphire"])
def test_every_button_does_what_it_did_when_it_was_read(qtbot, window, monkeypatch, name):
    for ask in ("getOpenFileName", "getSaveFileName", "getExistingDirectory"):
        monkeypatch.setattr(QFileDialog, ask, staticmethod(lambda *a, **k: ("", "")))
    monkeypatch.setattr(QInputDialog, "getText", staticmethod(lambda *a, **k: ("", False)))
    monkeypatch.setattr(QMessageBox, "exec", lambda self: QMessageBox.StandardButton.Cancel)
    window.finish()
    choose(window, name)
    bench = stand_still(window.workbench)
    bench.voice.muted = True
    qtbot.waitUntil(lambda: bench.trials is None or bench.trials.outcomes is not None, timeout=60_000)
    kept, told = bench.loaded, list[str]()
    views = [view for _, view in every_view(window) if not view.startswith(LEFT_OUT)]
    for view in views:
        told.append(f"# {view}")
        at = 0
        while True:
            page = next(p for p, v in every_view_of(window, view))
            found = buttons(page)
            if at >= len(found):
                break
            button = found[at]
            told += [called(button), *pressed(window, page, button)]
            put_back(window, kept)
            at += 1
    as_it_is(f"{name.lower()}-buttons.txt", "\n".join(told) + "\n")


def every_view_of(window, wanted: str):
    step = wanted.split()[0]
    for page, view in every_view(window, step):
        if view == wanted:
            yield page, view
