# SPDX-License-Identifier: GPL-3.0-or-later
"""Pictures of each main view, from the demo hangar."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, cast

import numpy as np
from PyQt6.QtCore import QBuffer, QIODevice, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication

from hypsos.desk.app import application, open_workbench
from hypsos.desk.theme.look import look
from hypsos.desk.welcome import TemplateTile
from hypsos.desk.window import Window
from hypsos.hangar import Hangar
from hypsos.hangar.files import write_whole
from hypsos.hangar.places import demo_hangar

if TYPE_CHECKING:
    from hypsos.desk.pages.directions_page import DirectionsPage
    from hypsos.desk.pages.flaps_page import FlapsPage
    from hypsos.desk.pages.modes_page import ModesPage
    from hypsos.desk.pages.say_page import SayPage
    from hypsos.desk.pages.shake_page import ShakePage
    from hypsos.desk.pages.sheet_page import SheetPage


COLOURS = 240
"""Colours of a picture at the most: a page of text and an aeroplane need no more, and the file is a
third as large."""


def with_palette(picture: QImage) -> QImage:
    """The picture in its most frequent colours, every other one as the nearest of these.

    Colours are counted in steps of eight: the sky behind the aeroplane has hundreds that differ by
    one."""
    plain = picture.convertToFormat(QImage.Format.Format_RGB32)
    bits = plain.constBits()
    assert bits is not None
    pixels = np.frombuffer(bytes(bits.asarray(plain.sizeInBytes())), np.uint32)
    coarse, counts = np.unique(pixels & 0xF8F8F8, return_counts=True)
    frequent = coarse[np.argsort(-counts)[:COLOURS]]
    table = [
        int(np.median(pixels[(pixels & 0xF8F8F8) == c])) & 0xFFFFFF | 0xFF000000 for c in frequent
    ]
    return plain.convertToFormat(
        QImage.Format.Format_Indexed8, table, Qt.ImageConversionFlag.ThresholdDither
    )


def _cruise(window: Window) -> None:
    """A turn with half flap, motor armed, from power-up."""
    bench = window.workbench
    for name, value, wait in (
        ("rates_switch", 2.0, 0.1), ("flap_switch", 1.0, 2.0), ("motor_switch", 1.0, 0.2), ("throttle_stick", 10.0, 0.1),
        ("aileron_stick", 55.0, 0.0), ("elevator_stick", -50.0, 0.0), ("rudder_stick", 60.0, 0.1),
    ):  # fmt: skip
        if name in bench.state.live.controls:
            bench.simulation.set_control(name, value)
        if wait:
            bench.simulation.advance(wait)


def _locked(window: Window) -> None:
    bench = window.workbench
    for name, value in (("motor_switch", 0.0), ("throttle_stick", 60.0), ("motor_switch", 1.0)):
        bench.simulation.set_control(name, value)
        bench.simulation.advance(0.1)
    page = window.page("guard")
    bar = page.area.verticalScrollBar()
    if bar is not None:
        bar.setValue(bar.maximum())


def _sentences(window: Window) -> None:
    page = cast("SayPage", window.page("say"))
    for made in page.cards[8:10]:
        made.open_sentence()
    window.workbench.simulation.advance(0.1)
    bar = page.area.verticalScrollBar()
    if bar is not None:
        bar.setValue(bar.maximum())
        page.bring(page.cards[min(8, len(page.cards) - 1)])


def _searched(window: Window) -> None:
    """Wait for what the search finds."""
    search = window.workbench.companions.search
    search.search()
    _until(lambda: search.current or bool(search.fault))


def _proved(window: Window) -> None:
    """The sheet with what search and proof have found."""
    _searched(window)
    page, client = cast("SheetPage", window.page("sheet")), window.workbench.companions.keying
    model, profile = window.workbench.loaded, page.profile()
    client.begin(model, profile)
    _until(lambda: client.known(model, profile) is not None)
    window.wide_page.setChecked(True)
    page.show_sheet()


PATIENCE_S = 60.0
"""How long a search is waited for."""


def _until(come: Callable[[], bool]) -> None:
    deadline = time.monotonic() + PATIENCE_S
    while not come() and time.monotonic() < deadline:
        QApplication.processEvents()
        time.sleep(0.01)


def _drawn(window: Window) -> None:
    """Every aeroplane to begin with has its picture: they are drawn one after the other."""
    tiles = window.findChildren(TemplateTile)
    _until(lambda: all(tile.picture is not None for tile in tiles))


def _shaken(window: Window) -> None:
    """What was found, one of it played on the bench, with the timeline."""
    _searched(window)
    page, bench = cast("ShakePage", window.page("shake")), window.workbench
    QApplication.processEvents()
    _until(lambda: bool(page.found.cards))
    if page.found.cards:
        page.found.cards[-1].show_me.click()
    window.bench.show_timeline()
    _until(lambda: not bench.simulation.playing)


def _lost(window: Window) -> None:
    window.workbench.simulation.set_link(False)
    window.workbench.simulation.advance(1.5)


def _thermal(window: Window) -> None:
    for name, value in (
        ("motor_switch", 0.0),
        ("flight_switch", 1.0),
        ("throttle_stick", -100.0),
        ("turn_switch", 2.0),
    ):
        window.workbench.simulation.set_control(name, value)
        window.workbench.simulation.advance(1.0)
    window.workbench.simulation.choose("left_ruddervator")


def _crow(window: Window) -> None:
    """The brakes half out, their card unfolded."""
    _half_out(window)
    page = cast("FlapsPage", window.page("flaps"))
    page.rows[2].unfold(True)
    _wait(0.3)
    page.bring(page.rows[2])
    bar = page.area.verticalScrollBar()
    if bar is not None:
        bar.setValue(page.rows[2].y() + page.behaviours.y() - 10)


def _streams(window: Window) -> None:
    """All that reaches a flap with the brakes half out in a turn."""
    _half_out(window)
    page = cast("FlapsPage", window.page("flaps"))
    page.show_view("streams")
    QApplication.processEvents()
    if page.streams is not None:
        page.streams.pick_node("left_inner_flap")


def _half_out(window: Window) -> None:
    bench = window.workbench
    for name, value in (("task_switch", 2.0), ("throttle_stick", -45.0), ("aileron_stick", 40.0)):
        bench.simulation.set_control(name, value)
        bench.simulation.advance(1.0)


def _hush(window: Window) -> None:
    """Put away the caption of what was a moment ago: here time has leapt, and it would say what is
    so no more."""
    if window.bench.caption is not None:
        window.bench.caption.hide()


def _gallery(window: Window) -> None:
    page = cast("FlapsPage", window.page("flaps"))
    page.open_gallery()
    _wait(2.5)


def _sections(window: Window) -> None:
    page = cast("ModesPage", window.page("modes"))
    page.show_view("presets")


def _wait(seconds: float) -> None:
    """Let what comes a moment later come."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        QApplication.processEvents()


def _practice(window: Window) -> None:
    """An elevon wing to practise on, its two leads swapped, half way through the check."""
    from hypsos.core.fitting.practice_faults import practice_with, single_faults

    page = cast("DirectionsPage", window.page("directions"))
    model, check = window.workbench.model, page.check
    assert model is not None and check is not None
    page.practise(0)
    window.workbench.simulation.practise(
        practice_with(model, [f for f in single_faults(check) if f.on])
    )
    aeroplane = window.workbench.state.practice
    assert aeroplane is not None
    seen = check.seen(aeroplane.truth(model))
    for i, step in enumerate(check.steps):
        page.go_to(i)
        page.move_controls()
        for part, way in seen[step.key].items():
            page.answer(part, way)


VIEWS: tuple[tuple[str, str, str, str, Callable[[Window], None] | None], ...] = (
    ("model", "Samphire", "light", "model", None),
    ("airframe", "Sorrel", "light", "airframe", None),
    ("wiring", "Samphire", "light", "wiring", None),
    ("hands", "Marram", "light", "hands", None),
    ("guard", "Marram", "light", "guard", _locked),
    ("say", "Marram", "light", "say", _sentences),
    ("directions", "Whinlark", "light", "directions", _practice),
    ("throws", "Marram", "light", "throws", None),
    ("feel", "Samphire", "light", "feel", None),
    ("wing-and-tail", "Marram", "light", "flaps", _crow),
    ("streams", "Marram", "light", "flaps", _streams),
    ("gallery", "Tidewrack", "dark", "flaps", _gallery),
    ("modes", "Marram", "light", "modes", _thermal),
    ("failsafe", "Samphire", "light", "failsafe", _lost),
    ("sheet", "Samphire", "light", "sheet", _proved),
    ("log", "Samphire", "light", "log", None),
    ("shake", "Samphire", "light", "shake", _shaken),
    ("welcome", "", "light", "model", _drawn),
    ("room", "Marram", "dark", "modes", _sections),
)
"""File name, model, theme, step, and what happens before the picture."""


def take_shots(folder: Path, width: int, height: int) -> Iterator[Path]:
    """Write the pictures into a folder. Raises HypsosError when it cannot be written."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = application()
    folder.mkdir(parents=True, exist_ok=True)
    for name, model, theme, step, before in VIEWS:
        with tempfile.TemporaryDirectory(prefix="hypsos-shots-") as place:
            small = name == "room"
            look.scale = 1.5 if small else 1.0
            look.set_theme(theme)
            hangar = demo_hangar(Path(place)) if model else Hangar(Path(place) / "empty.sqlite3")
            window = Window(open_workbench(hangar, model))
            window.resize(*((1024, 768) if small else (width, height)))
            window.show()
            window.finish()
            if window.workbench.companions.begun:
                window.workbench.companions.voice.muted = True  # pictures make no noise
            window.go(step)
            if model:
                _cruise(window)
            if before is not None:
                before(window)
            for _ in range(4):
                app.processEvents()
            _hush(window)
            buffer = QBuffer()
            buffer.open(QIODevice.OpenModeFlag.WriteOnly)
            with_palette(window.grab().toImage()).save(buffer, "PNG")
            path = folder / f"{name}.png"
            write_whole(path, bytes(buffer.data().data()))
            window.close()
            window.deleteLater()
            yield path
