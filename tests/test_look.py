# SPDX-License-Identifier: GPL-3.0-or-later
"""How the window looks and is read: room, colours, names, painting."""

from __future__ import annotations

import os
import subprocess
import sys
from itertools import combinations
from pathlib import Path
from typing import Any

import pytest
from hands import choose, every_view, type_into
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QPushButton
from pytestqt.qtbot import QtBot

from hypsos.core.rundown import STEPS
from hypsos.desk.services.preload import Preload
from hypsos.desk.theme.look import look
from hypsos.desk.theme.palette import DARK, LIGHT
from hypsos.desk.widgets.flow_layout import flowing
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.widgets.page_layout import label
from hypsos.desk.widgets.run_down_list import STEP_KEYS

LEFT = Qt.MouseButton.LeftButton


def test_nothing_is_painted_while_nothing_moves(qtbot: QtBot, window: Any) -> None:
    bench = window.workbench
    qtbot.waitUntil(lambda: not bench.simulation.running, timeout=20_000)
    before = window.bench.aeroplane.painted
    qtbot.wait(300)
    assert window.bench.aeroplane.painted == before and not bench.simulation.running
    bench.simulation.set_control("flap_switch", 2.0)
    qtbot.waitUntil(lambda: window.bench.aeroplane.painted > before + 5, timeout=20_000)
    qtbot.waitUntil(lambda: not bench.simulation.running, timeout=20_000)
    assert bench.state.live.result.outputs["left_flaperon"].stand[-1] > 63


def test_the_propeller_turns_with_power_and_stops_dead_when_cut(qtbot: QtBot, window: Any) -> None:
    bench, plane = window.workbench, window.bench.aeroplane
    bench.simulation.advance(1.1)
    bench.simulation.set_control("motor_switch", 1.0)
    bench.simulation.advance(0.1)
    bench.simulation.set_control("throttle_stick", 50.0)
    at = plane.propeller
    qtbot.waitUntil(lambda: plane.propeller != at, timeout=20_000)
    bench.simulation.set_control("motor_switch", 0.0)
    qtbot.waitUntil(lambda: not bench.simulation.running, timeout=20_000)
    at = plane.propeller
    qtbot.wait(120)
    assert plane.propeller == at


def test_painting_only_what_moved_gives_the_same_picture_as_painting_all(
    qtbot: QtBot, window: Any
) -> None:
    bench, plane = window.workbench, window.bench.aeroplane
    qtbot.waitUntil(lambda: not bench.simulation.running, timeout=20_000)
    for name, value in (
        ("aileron_stick", 80.0),
        ("elevator_stick", -60.0),
        ("rudder_stick", 90.0),
        ("aileron_stick", -30.0),
    ):
        bench.simulation.set_control(name, value)
        QApplication.processEvents()
    qtbot.waitUntil(lambda: not bench.simulation.running, timeout=20_000)
    corner = plane.mapTo(window, QPoint(0, 0))
    screen = (
        window.screen()
        .grabWindow(window.winId(), corner.x(), corner.y(), plane.width(), plane.height())
        .toImage()
    )
    whole = plane.grab().toImage()
    width, height = whole.width(), whole.height()
    differing = sum(
        abs(screen.pixelColor(x, y).lightness() - whole.pixelColor(x, y).lightness()) > 40
        for x in range(0, width, 2)
        for y in range(0, height, 2)
    )
    assert screen.size() == whole.size() and differing < 0.001 * width * height


@pytest.mark.parametrize(
    ("scale", "size"),
    [(1.0, (1024, 768)), (1.5, (1280, 800)), (1.5, (1024, 768)), (1.0, (1920, 1080))],
)
def test_the_largest_model_has_room_at_every_size(
    qtbot: QtBot, window: Any, scale: Any, size: Any
) -> None:
    """No page wants a wider window, no button of the bench is cut, nothing lies on anything
    else."""
    choose(window, "Marram")
    look.set_scale(scale)
    window.resize(*size)
    bench = window.bench
    cut = []
    for page, place in every_view(window):
        over = page.area.widget().minimumSizeHint().width() - page.area.viewport().width()
        cut += [(place, over)] if over > 0 and place != "sheet" else []
    buttons = [b for b in bench.findChildren(QPushButton) if b.isVisible()]
    cut += [
        (b.text(), b.width(), b.sizeHint().width())  # type: ignore[misc]
        for b in buttons
        if b.width() < b.sizeHint().width() - 2
    ]  # type: ignore[misc]
    bench.show_hands()
    QApplication.processEvents()
    hands = [
        *bench.hands.sticks.values(),
        *bench.hands.toggles.values(),
        *bench.hands.faders.values(),
    ]
    cut += [
        (a.accessibleName(), b.accessibleName())
        for a, b in combinations(hands, 2)
        if a.geometry().intersects(b.geometry())
    ]
    cut += [w.accessibleName() for w in hands if not bench.hands.rect().contains(w.geometry())]
    assert (
        not cut and window.minimumSizeHint().width() <= size[0] and bench.aeroplane.height() >= 170
    )
    assert (
        window.pages.geometry().right() < bench.geometry().left() + 2
        and bench.geometry().right() <= window.splitter.width()
    )
    if size[1] > 1000:
        assert (
            bench.strips.visibleRegion().boundingRect().height() >= bench.strips.sizeHint().height()
        )
    look.set_scale(1.0)


def _luminance(colour: str) -> float:
    """Relative luminance of #rrggbb, 0...1."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def _contrast(a: str, b: str) -> float:
    """Contrast ratio of two colours, 1...21."""
    light, dark = sorted((_luminance(a), _luminance(b)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_text_is_legible_in_both_themes(palette: Any) -> None:
    for ground in ("paper", "card", "field", "sea_soft", "rust_soft"):
        assert _contrast(palette.ink, getattr(palette, ground)) >= 4.5
    for ground in ("paper", "card", "field"):
        for text in ("faint", "sea", "rust"):
            assert _contrast(getattr(palette, text), getattr(palette, ground)) >= 4.5, (
                ground,
                text,
            )
    assert (
        _contrast(palette.on_sea, palette.sea) >= 4.5
        and _contrast(palette.on_rust, palette.rust) >= 4.5
    )


def test_everything_that_takes_the_keyboard_has_a_name(window: Any) -> None:
    from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLineEdit

    for key in (s.key for s in STEPS if s.key != "sheet"):
        page = window.page(key)
        for kind in (QLineEdit, QComboBox, QAbstractButton):
            for widget in page.findChildren(kind):
                inner = widget.objectName().startswith("qt_") or isinstance(
                    widget.parent(), QComboBox
                )
                text = widget.text() if isinstance(widget, QAbstractButton) else ""
                assert inner or widget.accessibleName() or text, (key, widget)


def test_the_keys_are_one_key_away(qtbot: QtBot, window: Any) -> None:
    qtbot.waitUntil(lambda: window.pages.currentWidget() is not None, timeout=20_000)
    qtbot.keyClick(window, Qt.Key.Key_F1)
    assert window.help is not None and not window.help.isHidden()
    qtbot.keyClick(window.help, Qt.Key.Key_Escape)
    assert window.help.isHidden()
    qtbot.keyClick(window, STEP_KEYS[6], Qt.KeyboardModifier.AltModifier)
    assert window.rundown.current == STEPS[6].key


LATER = ("scipy", "jinja2", "hypsos.core.review.rules", "hypsos.core.shape.adapt_model")
STARTED = f"""
import os
import subprocess
import sys
from hypsos.desk.app import run
run(demo=True)
print([name for name in {LATER} if name in sys.modules])
"""


FRAMED = """
import sys
from hypsos.desk.frame import Frame
seen = []
held = Frame.hold
def paint(frame, event):
    seen.append("numpy" in sys.modules)
def hold(frame, work):
    print(frame.isVisible(), seen[:1])
    held(frame, work)
Frame.paintEvent, Frame.hold = paint, hold
sys.argv = ["hypsos", "--demo"]
from hypsos.start import main
main()
"""


def started(script: str, folder: Path) -> list[str]:
    """The lines that a start prints which ends with the first picture."""
    environment = {
        **os.environ,
        "QT_QPA_PLATFORM": "offscreen",
        "HYPSOS_QUIT_AFTER_PAINT": "1",
        "XDG_CONFIG_HOME": str(folder),
    }
    done = subprocess.run(
        [sys.executable, "-P", "-c", script],
        env=environment,
        capture_output=True,
        text=True,
        timeout=120,
        check=True,
    )
    return done.stdout.splitlines()


def test_a_start_loads_nothing_that_only_later_pages_need(tmp_path: Path) -> None:
    assert started(STARTED, tmp_path) == ["painted", "[]"]


def test_the_frame_is_painted_before_what_computes_is_loaded(tmp_path: Path) -> None:
    assert started(FRAMED, tmp_path) == ["True [False]", "painted"]


CLOSED = """
import sys
from hypsos.desk.frame import Frame
show = Frame.show
def appear(frame):
    show(frame)
    frame.close()
Frame.show = appear
sys.argv = ["hypsos", "--demo"]
from hypsos.start import main
main()
"""


def test_a_frame_that_is_closed_while_it_loads_stays_closed(tmp_path: Path) -> None:
    assert started(CLOSED, tmp_path) == []


def test_what_pages_need_is_loaded_while_the_hands_rest(
    qapp: Any, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("hypsos.desk.services.preload.FIRST_MS", 0)
    monkeypatch.setattr("hypsos.desk.services.preload.EVERY_MS", 0)
    ahead = Preload(qapp)
    assert ahead.left
    qtbot.waitUntil(lambda: not ahead.left, timeout=20_000)
    assert "hypsos.desk.pages.log_page" in sys.modules and not any(
        t.isActive() for t in ahead.findChildren(QTimer)
    )
    ahead.deleteLater()


def test_a_page_in_a_changed_look_is_as_one_made_in_it(window: Any) -> None:
    window.workbench.document.open("Marram")

    def seen() -> QImage:
        window.go("model")
        for _ in range(8):
            QApplication.processEvents()
        return window.page("model").grab().toImage()  # type: ignore[no-any-return]

    plain = seen()
    for change, there, back in ((look.set_scale, 1.25, 1.0), (look.set_theme, "dark", "light")):
        change(there)
        kept = seen()
        assert kept != plain and window.bench.sky.size() == window.bench.sky.sizeHint()
        window.go("log")
        window._drop_pages()
        assert seen() == kept
        change(back)
    page = window.page("model")
    page.new_name.setText("Half typed")
    window.go("log")
    window._drop_pages()  # neither what is seen nor what holds something typed
    assert (window.page("model"), window.page("log")) == (page, window.pages.currentWidget())


def test_remembered_heights_go_with_what_they_were_of(qtbot: QtBot) -> None:
    heading = label("one", "section")
    unseen = heading.heightForWidth(80)
    words = label("one")
    box = flowing(words, "two", heading)
    qtbot.addWidget(box)
    box.show()
    qtbot.waitExposed(box)
    assert (
        heading.heightForWidth(80) == unseen
    )  # its edges, which the look gives it, counted already
    low, flat = words.heightForWidth(80), box.heightForWidth(80)
    words.setText("one " * 40)
    assert words.heightForWidth(80) > 3 * low and box.heightForWidth(80) > 2 * flat
    words.setText("one")
    assert (words.heightForWidth(80), box.heightForWidth(80)) == (low, flat)
    font = words.font()
    font.setPixelSize(60)
    words.setFont(font)
    assert words.heightForWidth(80) > 2 * low and box.heightForWidth(80) > flat


def test_a_refused_figure_has_a_red_edge_until_another_is_typed(qtbot: QtBot, window: Any) -> None:
    look.set_theme("light")
    window.go("feel")
    field = next(
        f for f in window.page("feel").findChildren(NumberField) if f.isVisible() and f.isEnabled()
    )

    def red() -> bool:
        shown = field.line.grab().toImage()
        return shown.pixelColor(0, shown.height() // 2) == look.colour("rust")  # type: ignore[no-any-return]

    assert not red()
    type_into(qtbot, field, "9000")
    assert red() and not field.complaint.isHidden()
    type_into(qtbot, field, field.text_of(field._get()))
    assert not red() and field.complaint.isHidden()


@pytest.mark.parametrize("theme", ["light", "dark"])
@pytest.mark.parametrize("folder", ['Jürgen\'s "box" 100%', "a (b) {c}; d#e", "plain"])
def test_a_tick_is_seen_whatever_the_home_folder_is_called(
    qapp: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, theme: Any, folder: Any
) -> None:
    import shutil

    from PyQt6.QtGui import QPixmapCache
    from PyQt6.QtWidgets import QCheckBox

    from hypsos.desk.app import application
    from hypsos.desk.theme import look as module

    odd = tmp_path / folder / "icons"
    shutil.copytree(module.ICONS, odd)
    monkeypatch.setattr(module, "ICONS", odd)
    QPixmapCache.clear()
    application(theme)
    module.look.set_theme(theme)
    pictures = []
    for ticked in (False, True):
        box = QCheckBox("cuts the motor")
        box.setChecked(ticked)
        box.resize(200, 30)
        box.ensurePolished()
        image = box.grab().toImage()
        pictures.append({image.pixelColor(x, y).name() for x in range(3, 14) for y in range(6, 22)})
        box.deleteLater()
    assert pictures[0] != pictures[1] and len(pictures[1]) > len(
        pictures[0]
    )  # the tick is drawn in it, not only filled
