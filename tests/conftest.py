# SPDX-License-Identifier: GPL-3.0-or-later
"""What the tests share: the demo models, a hangar in a temporary folder, the real window on it."""

from __future__ import annotations

import json
import os
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["HYPSOS_LOG"] = os.path.join(tempfile.mkdtemp(prefix="hypsos-log-"), "hypsos.log")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(
    prefix="hypsos-settings-"
)  # nobody's own settings are touched

from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.desk.services import search_client as shaking
from hypsos.hangar import Hangar
from hypsos.hangar.places import demo_hangar

shaking.BY_ITSELF = (
    False  # a search that comes of itself would change what a test looks at while it looks
)
DATA = Path(__file__).parent / "data"


def vectors(name: str) -> list[dict[str, Any]]:
    """Reference values computed independently."""
    rows: list[dict[str, Any]] = json.loads((DATA / f"{name}.json").read_text())
    return rows


@pytest.fixture
def unhurried(monkeypatch: pytest.MonkeyPatch) -> None:
    """A slow machine searches as much as a quick one: for what is compared with what was
    recorded."""
    monkeypatch.setattr("hypsos.core.review.shakedown.LONGEST_S", 1000.0)


@pytest.fixture(autouse=True)
def nothing_left_open() -> Iterator[None]:
    """Windows that a test leaves behind would be dressed anew with every look of the tests after
    it."""
    yield
    widgets = sys.modules.get("PyQt6.QtWidgets")
    app = widgets.QApplication.instance() if widgets else None
    if app is None:
        return
    for left in app.topLevelWidgets():
        left.close()
        left.deleteLater()
    app.sendPostedEvents(None, sys.modules["PyQt6.QtCore"].QEvent.Type.DeferredDelete)


@pytest.fixture
def hangar(tmp_path: Path) -> Iterator[Hangar]:
    made = demo_hangar(tmp_path)
    yield made
    made.close()


@pytest.fixture
def samphire(hangar: Hangar) -> Model:
    return hangar.load("Samphire")


@pytest.fixture
def marram(hangar: Hangar) -> Model:
    return hangar.load("Marram")


@pytest.fixture
def edited() -> Callable[..., Model]:
    """A model with other values at some paths."""

    def change(model: Model, **values: Any) -> Model:
        for path, value in values.items():
            model = with_at(model, path.replace("__", "."), value)
        return model

    return change


@pytest.fixture
def window(qtbot: Any, hangar: Hangar) -> Iterator[Any]:
    from PyQt6.QtCore import QCoreApplication, QEvent, QSettings

    from hypsos.desk.app import application, open_workbench
    from hypsos.desk.theme.look import look
    from hypsos.desk.window import Window

    application("light")
    look.set_scale(1.0)
    QSettings("hypsos", "hypsos").clear()
    made = Window(open_workbench(hangar, "Samphire"))
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.close()
    made.deleteLater()
    QCoreApplication.sendPostedEvents(
        None, QEvent.Type.DeferredDelete
    )  # else they pile up and every look is slower
