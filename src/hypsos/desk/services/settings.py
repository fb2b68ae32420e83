# SPDX-License-Identifier: GPL-3.0-or-later
"""What the window remembers from one time to the next: theme, text size, place and size, the step,
the model, the folder."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QByteArray, QRect, QSettings
from PyQt6.QtGui import QGuiApplication

from hypsos.desk.theme.look import SCALES, look

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QWidget

    from hypsos.core.document.document import Model
    from hypsos.core.parts.transmitter import FirstEnd
    from hypsos.desk.window import Window

USUAL = (1280, 800)


def _kept() -> QSettings:
    return QSettings("hypsos", "hypsos")


def text(key: str) -> str:
    """A remembered word, empty where there is none."""
    return str(_kept().value(key, "") or "")


def remember(key: str, value: Any) -> None:
    """Remember something at once."""
    _kept().setValue(key, value)


def folder() -> str:
    """Where files were last read or written; empty at first, or where it is gone."""
    found = text("folder")
    return found if found and Path(found).is_dir() else ""


def take_look() -> None:
    """The theme and the text size as they were left; :meth:`~Look.apply` puts them on."""
    try:
        scale = float(text("scale") or 1.0)
    except ValueError:
        scale = 1.0
    look.scale = scale if scale in SCALES else 1.0
    look.large, look.calm = text("large targets") == "true", text("calm") == "true"
    look.take_theme("dark" if text("theme") == "dark" else "light")


def place(window: QWidget) -> None:
    """Put the window where it was, as large as it was, and no larger than the screen."""
    screen = window.screen() or QGuiApplication.primaryScreen()
    room = screen.availableGeometry() if screen is not None else QRect(0, 0, *USUAL)
    kept = _kept().value("geometry")
    if isinstance(kept, QByteArray) and window.restoreGeometry(kept):
        return  # what has been inside a screen that is smaller now is mended once it has its frame
    wanted = QRect(0, 0, *USUAL)
    wanted.moveCenter(room.center())
    wanted = _inside(wanted, room)
    window.resize(wanted.size())
    window.move(wanted.topLeft())


def frame_in_sight(window: QWidget) -> None:
    """Make the window smaller where the frame that the desktop has put round it reaches beyond the
    screen.

    How thick a frame is, is known only once it is there.
    """
    screen = window.screen()
    if screen is None or window.isMaximized() or window.isFullScreen():
        return
    room, frame = screen.availableGeometry(), window.frameGeometry()
    wanted = _inside(frame, room)
    if wanted == frame:
        return
    window.resize(window.size() + wanted.size() - frame.size())
    window.move(wanted.topLeft())


def _inside(wanted: QRect, room: QRect) -> QRect:
    """A rectangle made no larger than a room, and put inside."""
    out = QRect(wanted.topLeft(), wanted.size().boundedTo(room.size()))
    out.moveLeft(max(room.left(), min(out.left(), room.right() + 1 - out.width())))
    out.moveTop(max(room.top(), min(out.top(), room.bottom() + 1 - out.height())))
    return out


def page_share() -> float | None:
    """Which part of page and bench together the page took as it was last drawn; None where it was
    never drawn."""
    try:
        found = float(text("page share") or 0.0)
    except ValueError:
        return None
    return found if 0.1 <= found <= 0.9 else None


def stick_mode() -> int:
    """The pilot's stick mode, as it was last chosen for a new model; 2 at first."""
    found = text("stick_mode")
    return int(found) if found in ("1", "2", "3", "4") else 2


def cut_end() -> FirstEnd:
    """At which end of its switch the pilot cuts the motor, as it was last chosen for all new
    models; away from him at first."""
    return "towards" if text("cut_end") == "towards" else "away"


def as_the_pilot_has_it(model: Model) -> Model:
    """A new model with the pilot's stick mode, and the motor cut at his end of its switch."""
    # dear to import, so only where a model is made
    from hypsos.core.edits.controls import with_cut_end

    held = model.transmitter.changed({"stick_mode": stick_mode()})
    return with_cut_end(model.changed({"transmitter": held}), cut_end())


def step() -> str:
    """The step at hand when the window was last closed."""
    from hypsos.core.rundown import STEPS  # dear to import, and not wanted for the frame

    found = text("step")
    return found if found in {s.key for s in STEPS} else STEPS[0].key


def keep(window: Window, with_model: bool) -> None:
    """Remember how the window is left. ``with_model``: also the model and the step; a passing
    hangar's are not kept."""
    settings = _kept()
    settings.setValue("theme", look.palette.name)
    settings.setValue("scale", look.scale)
    settings.setValue("large targets", "true" if look.large else "false")
    settings.setValue("calm", "true" if look.calm else "false")
    outermost = window.window() or window
    settings.setValue("geometry", outermost.saveGeometry())
    settings.setValue("page share", window.page_share or "")
    settings.setValue("wide page", "true" if window.wide_page.isChecked() else "false")
    if with_model:
        settings.setValue("step", window.rundown.current)
        if window.workbench.model is not None:
            settings.setValue("model", window.workbench.model.name)
