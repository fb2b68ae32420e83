# SPDX-License-Identifier: GPL-3.0-or-later
"""What an edit costs the window, in processor time: *Marram*, every page visited. `make bench`
prints it.

.venv/bin/python benchmarks/window.py
"""

from __future__ import annotations

import os
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="hypsos-bench-")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as the installed program has it

import numpy as np
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QApplication

from hypsos.core.rundown import STEPS
from hypsos.desk.app import application, open_workbench
from hypsos.desk.bench.aeroplane_view import Aeroplane
from hypsos.desk.pages.flaps_page import FlapsPage
from hypsos.desk.services.preload import Preload
from hypsos.desk.theme.look import look
from hypsos.desk.widgets.number_field import NumberField
from hypsos.desk.window import Window
from hypsos.hangar.places import demo_hangar

WANTED = {
    "number edit": 16, "edit, sheet shown": 60, "wing span": 60, "tail choice": 120, "first opening": 120, "theme": 200,
    "text size": 200, "timeline, a step": 8, "streams, a stick": 8, "gain, streams shown": 30, "gain of a behaviour": 30,
    "another model": 300, "aeroplane at 4K": 16, "failsafe, a figure": 50, "directions, an answer": 50, "guard, a figure": 50,
}  # fmt: skip


def spent(app: QApplication, act: Callable[[], object]) -> float:
    """Milliseconds of processor time until all that follows is painted."""
    before = time.process_time()
    act()
    for _ in range(6):
        app.processEvents()
    return (time.process_time() - before) * 1000.0


def measure() -> dict[str, list[float]]:
    """The times of each kind of act, in milliseconds."""
    app = application("light")
    out: dict[str, list[float]] = {key: [] for key in WANTED}
    with tempfile.TemporaryDirectory() as folder:
        window = Window(open_workbench(demo_hangar(Path(folder)), "Marram"))
        window.resize(1280, 800)
        window.show()
        for _ in range(20):
            app.processEvents()
        ahead = Preload(
            app
        )  # as the installed program has it: loaded while the hands rest after the start
        while ahead.left:
            ahead.load_next()
        until = (
            time.monotonic() + 2.0
        )  # a model that is opened has its scenarios played: not a page's work
        while time.monotonic() < until:
            app.processEvents()
            time.sleep(0.01)
        bench = window.workbench
        out["first opening"] = [spent(app, lambda s=s: window.go(s.key)) for s in STEPS]
        window.go("feel")
        app.processEvents()
        for i in range(12):
            out["number edit"].append(
                spent(
                    app,
                    lambda i=i: bench.document.edit(
                        "program.axes[0].settings[0].expo", 20.0 + i, "expo"
                    ),
                )
            )
        window.go("flaps")
        page = window.page("flaps")
        assert isinstance(page, FlapsPage)
        page.show_view("streams")
        for i in range(60):
            bench.simulation.set_control("aileron_stick", float(100 - 3 * i))
            bench.simulation.set_control("elevator_stick", float(3 * i - 90))
            app.processEvents()  # all else has been painted
            before = time.process_time()
            page.streams.canvas.repaint()
            out["streams, a stick"].append((time.process_time() - before) * 1000.0)
        mix = next(s.key for s in page.streams.canvas.net.streams if s.mix == 1)
        page.streams.pick(mix)
        for i in range(12):
            gain = page.streams.editor.gain
            out["gain, streams shown"].append(spent(app, lambda i=i, g=gain: g._take(60.0 + i)))
        page.show_view("behaviours")
        page.rows[2].unfold(True)
        for i in range(12):
            field = page.rows[2].card.fields["amounts.left_aileron"]
            out["gain of a behaviour"].append(spent(app, lambda i=i, f=field: f._take(-30.0 - i)))
        window.go("airframe")
        app.processEvents()
        page = window.page("airframe")
        for i in range(8):
            out["wing span"].append(
                spent(app, lambda i=i: page.fields["span_mm"]._take(3000.0 + 2 * i))  # type: ignore[attr-defined]
            )
        box = page.boxes["tail"]  # type: ignore[attr-defined]
        kept = box.currentIndex()
        for i in range(3):
            for index in (0, kept):
                out["tail choice"].append(
                    spent(
                        app,
                        lambda index=index: (box.setCurrentIndex(index), box.activated.emit(index)),
                    )
                )
            del i
        out["another model"] = opened(app, window)
        window.go("sheet")
        app.processEvents()
        for i in range(6):
            out["edit, sheet shown"].append(
                spent(
                    app,
                    lambda i=i: bench.document.edit(
                        "program.axes[0].settings[0].expo", 40.0 + i, "expo"
                    ),
                )
            )
        window.go("feel")
        for name in ("dark", "light", "dark", "light"):
            out["theme"].append(spent(app, lambda name=name: look.set_theme(name)))
        for scale in (1.25, 1.0, 1.25, 1.0):
            out["text size"].append(spent(app, lambda scale=scale: look.set_scale(scale)))
        out["timeline, a step"] = scrolled(app, window)
        waited_for(app, window, out)
        out["aeroplane at 4K"] = painted_large(app, window)
        window.close()
    return out


def waited_for(app: QApplication, window: Window, out: dict[str, list[float]]) -> None:
    """What one does on pages that show what the whole model makes of it."""
    window.go("failsafe")
    value = next(iter(window.page("failsafe").values.values()))  # type: ignore[attr-defined]
    out["failsafe, a figure"] = [spent(app, lambda i=i: value._take(20.0 + i)) for i in range(8)]
    window.go("guard")
    guard = next(f for f in window.page("guard").findChildren(NumberField) if f.isVisible())
    out["guard, a figure"] = [spent(app, lambda i=i: guard._take(-99.0 + i)) for i in range(8)]
    window.go("directions")
    app.processEvents()
    page = window.page("directions")
    out["directions, an answer"] = [
        spent(app, page.answer_all)  # type: ignore[attr-defined]
        for _ in range(5)
    ]


def painted_large(app: QApplication, window: Window) -> list[float]:
    """The aeroplane with all of it to be painted, in a window of 3840 × 2160."""
    window.resize(3840, 2160)
    app.processEvents()
    times, plane = [], window.bench.aeroplane
    paint = Aeroplane.paintEvent

    def timed(view: Aeroplane, event: QPaintEvent | None) -> None:
        begin = time.process_time()
        paint(view, event)
        times.append((time.process_time() - begin) * 1e3)

    setattr(Aeroplane, "paintEvent", timed)  # noqa: B010
    for _ in range(30):
        plane.update()
        app.processEvents()
    setattr(Aeroplane, "paintEvent", paint)  # noqa: B010
    return times


def opened(app: QApplication, window: Window) -> list[float]:
    """One model after the other comes to the bench."""
    window.go("feel")
    names = ("Tidewrack", "Whinlark", "Marram", "Skerry", "Tidewrack", "Marram")
    return [spent(app, lambda name=name: window.workbench.document.open(name)) for name in names]


def scrolled(app: QApplication, window: Window) -> list[float]:
    """Steps of the timeline through two full minutes at 50 frames a second, every lane shown."""
    window.finish()
    bench, lanes = window.workbench, window.bench.timeline.lanes
    for k in range(600):
        for name, speed in (
            ("aileron_stick", 0.4),
            ("elevator_stick", 0.23),
            ("rudder_stick", 0.11),
        ):
            bench.simulation.set_control(name, float(70 * np.sin(k * speed)))
        bench.simulation.advance(0.2)
    window.bench.show_timeline()
    lanes.moving_only, lanes.span = False, 120.0
    lanes._again()
    app.processEvents()
    times = []
    for k in range(60):
        begin = time.process_time()
        lanes.go_by(-0.3 if k % 2 else 0.2)
        lanes.repaint()
        times.append((time.process_time() - begin) * 1e3)
    return times


def main() -> None:
    """Print the median and the worst of each."""
    for key, times in measure().items():
        if key == "first opening":
            print(
                " " * 18, ", ".join(f"{s.key} {t:.0f}" for s, t in zip(STEPS, times, strict=True))
            )
        print(
            f"{key:18s} median {statistics.median(times):6.1f} ms, worst {max(times):6.1f} ms (wanted {WANTED[key]})"
        )


if __name__ == "__main__":
    main()
