# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo's sheets, cards, run-downs and pages word for word, and the templates figure for figure:
see recorded.py."""

from __future__ import annotations

import copy
import hashlib
import json
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from hands import choose, every_view, press, stand_still
from keyed import sheet_of
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractSlider,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)
from pytestqt.qtbot import QtBot
from random_models import made
from recorded import as_it_is, entry_as_it_is
from said_of import all_said, found_lines

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.reader import file_problems
from hypsos.core.document.document import Model, json_schema
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.transmitters import shipped, taken
from hypsos.core.review.compare_models import compared
from hypsos.core.review.findings import Ask
from hypsos.core.review.shakedown import shake
from hypsos.core.rundown import attentions, step_states
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.solid_model import solid
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.sheet import sheet_html, sheet_markdown
from hypsos.core.sheet.port_card import port_card
from hypsos.desk.pages.feel_page import FeelPage
from hypsos.desk.services.workbench import Workbench
from hypsos.hangar import Hangar

DEMO = ("Marram", "Samphire", "Sandpiper", "Skerry", "Sorrel", "Tidewrack", "Whinlark")


def written(model: Model) -> Iterator[str]:
    """All that goes on paper, and what the run-down says."""
    yield sheet_markdown(sheet_of(model))
    yield sheet_markdown(port_card(model))
    for key, state in step_states(model, 0).items():
        yield f"{key}: {state.name}"
    for x in attentions(model):
        yield f"{x.step}: {x.text}"


def keyed_elsewhere(model: Model) -> Iterator[str]:
    """Its sheets on the transmitters that ship, or why there is none."""
    for profile in shipped():
        try:
            yield sheet_markdown(sheet_of(model, profile.name))
        except HypsosError as error:
            yield error.plain


def digest(text: str) -> str:
    """A short name of a text."""
    return hashlib.sha1(text.encode()).hexdigest()[:12]


BOUNDS = (
    "minimum",
    "maximum",
    "exclusiveMinimum",
    "exclusiveMaximum",
    "maxItems",
    "minItems",
    "maxLength",
    "pattern",
    "default",
)


def bounds(schema: Any, place: str = "") -> Iterator[str]:
    """A line for every field of the schema that has a bound or a first value: where it is, and
    which."""
    if isinstance(schema, list):
        for i, part in enumerate(schema):
            yield from bounds(part, f"{place}|{i}")
    if not isinstance(schema, dict):
        return
    said = [
        f"{key} {schema[key]}" for key in BOUNDS if isinstance(schema.get(key), str | int | float)
    ]
    if said:
        yield f"{place}: {', '.join(said)}"
    for key, part in schema.items():
        if key not in BOUNDS:
            yield from bounds(part, f"{place}/{key}")


def shape(model: Model) -> str:
    """The corners and normals of all its faces, what hinges turned by ten degrees; to half a
    millimetre, and a twentieth."""
    body = solid(model.airframe)
    faces = (*body.fixed, *(h.turned(10.0) for h in body.hinged))
    figures = [x * fine for f in faces for x, fine in ((f.corners, 2.0), (f.normals, 20.0))]
    return str([np.floor(x + 0.1234).astype(int).tolist() for x in figures])


def test_what_a_document_may_hold_is_as_it_was_recorded() -> None:
    as_it_is("bounds.txt", "".join(f"{line}\n" for line in bounds(json_schema())))


@pytest.mark.parametrize("name", DEMO)
def test_what_is_written_of_a_demo_model_is_as_it_was_read(hangar: Hangar, name: Any) -> None:
    as_it_is(f"{name.lower()}.md", "\n".join(written(hangar.load(name))) + "\n")


def test_the_figures_and_the_shapes_are_as_they_were_recorded(hangar: Hangar) -> None:
    models = {n: hangar.load(n) for n in DEMO} | {
        k: t.make("New one") for k, t in TEMPLATES.items()
    }
    rows = {
        n: {
            "document": digest(json.dumps(m.model_dump(mode="json"), sort_keys=True)),
            "paper": digest("\n".join(written(m)) + sheet_html(sheet_of(m))),
            "keyed": digest("\n".join(keyed_elsewhere(m))),
            "shape": digest(shape(m)),
        }
        for n, m in models.items()
    }
    as_it_is("digests.json", json.dumps(rows, indent=1) + "\n")


def standing(widget: QWidget) -> str:
    """What a person sees and hears of a label, a button or a field; nothing of anything else."""
    if isinstance(widget, QLabel):
        said = widget.text()
    elif isinstance(widget, QAbstractButton):
        mark = ("[x] " if widget.isChecked() else "[ ] ") if widget.isCheckable() else "> "
        said = mark + widget.text()
    elif isinstance(widget, QComboBox):
        said = " / ".join(
            f"*{x}*" if k == widget.currentIndex() else x for k, x in enumerate(items(widget))
        )
    elif isinstance(widget, QLineEdit | QPlainTextEdit):
        said = "= " + (widget.text() if isinstance(widget, QLineEdit) else widget.toPlainText())
    elif isinstance(widget, QAbstractSlider) and widget.accessibleName():
        said = f"{widget.minimum()} {widget.value()} {widget.maximum()}"
    elif widget.accessibleDescription() or widget.toolTip():
        said = ""
    else:
        return ""
    more = (
        widget.accessibleName(),
        widget.accessibleDescription(),
        widget.toolTip(),
        "" if widget.isEnabled() else "cannot be used now",
    )
    return " | ".join(x for x in dict.fromkeys((said, *more)) if x and x != "= ").replace("\n", " ")


def items(box: QComboBox) -> list[str]:
    """All that it offers."""
    return [box.itemText(k) for k in range(box.count())]


DRAWN_LATER = "trailing edge from behind"
"""What is drawn a moment after an edit: on a slow machine it is there, or not yet."""


def seen(widget: QWidget) -> list[str]:
    """What all that is visible of a widget says; what was laid out anew just now is seen a moment
    later."""
    QApplication.processEvents()
    if isinstance(widget, FeelPage):
        widget.measure_throws()  # else a moment later, as the machine goes
    shown = (standing(w) for w in widget.findChildren(QWidget) if w.isVisible())
    return [x for x in shown if x and DRAWN_LATER not in x]


def pages(window: Any) -> dict[str, list[str]]:
    """What every view says."""
    return {
        view: seen(page)
        for page, view in every_view(window)
        if not view.startswith(
            ("log", "shake")
        )  # they say what day it is, and how far a search has come
    }


def rows(views: dict[str, list[str]]) -> str:
    return "\n".join(line for view, shown in views.items() for line in (f"# {view}", *shown, ""))


FLIGHT: tuple[tuple[str, float, float], ...] = (
    ("motor_switch", 1, 0.1), ("throttle_stick", 40, 1.0), ("flap_switch", 1, 0.6), ("flight_switch", 1, 0.4),
    ("rates_switch", 0, 0.1), ("aileron_stick", 60, 0.1), ("elevator_stick", -50, 0.1), ("rudder_stick", 30, 3.2),
    ("roll_trim", 3, 0.1), ("task_switch", 2, 0.4), ("task_switch", 0, 0.1), ("link", 0, 0.4), ("link", 0, 1.4),
)  # fmt: skip
"""What the hands do, one thing after the other, and the seconds after each: armed, power, a turn, a
hold, no link."""


def fly(bench: Workbench, control: str, to: float, seconds: float) -> None:
    """Do one thing and let the time pass."""
    if control.endswith("_trim"):
        bench.document.trim(control.removesuffix("_trim"), int(to))
    elif control == "link":
        bench.simulation.set_link(bool(to))
    elif control in bench.state.live.controls:
        bench.simulation.set_control(control, to)
    bench.simulation.advance(seconds)


@pytest.mark.parametrize(("name", "pane"), [("Samphire", "Outputs"), ("Marram", "Why")])
def test_pages_and_bench_say_what_they_said_when_they_were_read(
    qtbot: QtBot, window: Any, name: Any, pane: Any
) -> None:
    """On the ground all that they say; in the air whatever has become different."""
    choose(window, name)
    bench = stand_still(window.workbench)
    window.go("guard")
    qtbot.waitUntil(
        lambda: (
            bench.companions.scenarios is not None
            and bench.companions.scenarios.outcomes is not None
        ),
        timeout=60_000,
    )
    qtbot.waitUntil(lambda: bool(window.page("guard").rehearsals.buttons), timeout=60_000)
    on_the_ground = pages(window)
    as_it_is(f"{name.lower()}-pages.txt", rows(on_the_ground))
    press(window.bench, pane)
    bench.simulation.choose("left_inner_flap" if pane == "Why" else None)
    bench.simulation.advance(1.0)
    said, flown = seen(window.bench), {}
    for k, act in enumerate(FLIGHT):
        fly(bench, *act)
        now = seen(window.bench)
        flown[f"{k} {act[0]} {act[1]}"] = [x for x in now if x not in said]
        said = now
    press(window.bench, "Timeline")
    flown["looking back"] = [x for x in seen(window.bench) if x not in said]
    in_the_air = {
        v: [x for x in shown if x not in on_the_ground[v]] for v, shown in pages(window).items()
    }
    as_it_is(f"{name.lower()}-flown.txt", rows(flown | in_the_air))


@pytest.mark.parametrize("seed", range(16))
def test_what_is_said_of_random_models_is_as_it_was_recorded(seed: int) -> None:
    said = list(all_said(made(seed), seed))
    sections = {f"{k}": digest("\n".join(said[k : k + 50])) for k in range(0, len(said), 50)}
    entry_as_it_is("said.json", f"{seed:02d}", sections)


@pytest.mark.parametrize("seed", [0, 1, 2, 3, 4, 5, 7, 8])
def test_what_is_found_in_random_models_is_as_it_was_recorded(seed: int, unhurried: Any) -> None:
    """Every statement, every way, and how far it was searched."""
    entry_as_it_is(
        "found.json", f"{seed:02d}", list(found_lines(shake(Ask(made(seed))), texts=True))
    )


@pytest.mark.parametrize("seed", range(6))
def test_what_tells_two_random_models_apart_is_as_it_was_recorded(seed: int) -> None:
    """A model beside itself with one figure changed: what differs, by how much, where."""
    model, rows = made(seed), []
    for path in (
        "program.mixes[1].gain",
        "program.mixes[0].in_s",
        "leads[2].travel_pos",
        "leads[3].centre",
        "program.guard.rest_s",
    ):
        try:
            other = with_at(model, path, float(get_at(model, path)) + 7.0)
        except (HypsosError, IndexError, AttributeError, TypeError):
            continue
        told = compared(model, other)
        rows += [
            path,
            *(f"{d.part} {d.most:.3f} {d.first} {d.second} {d.where}" for d in told.differences),
            *told.others,
        ]
    entry_as_it_is("apart.json", f"{seed:02d}", rows)


def test_models_on_other_transmitters_are_as_they_were_recorded(hangar: Hangar) -> None:
    rows: dict[str, list[str]] = {}
    for name in DEMO:
        for profile in shipped():
            change = taken(hangar.load(name), profile)
            body = digest(json.dumps(change.model.model_dump(mode="json"), sort_keys=True))
            rows[f"{name} on {profile.name}"] = [
                str(change.placed),
                str(change.homeless),
                str(change.other_way),
                body,
            ]
    as_it_is("transmitters.json", json.dumps(rows, indent=0, ensure_ascii=False) + "\n")


def test_models_on_other_airframes_are_as_they_were_recorded() -> None:
    """Every aeroplane to begin with, put on the shape of every other."""
    rows: dict[str, str] = {}
    for one, first in TEMPLATES.items():
        for two, second in TEMPLATES.items():
            told = adapted(first.make("One"), second.make("Two").airframe)
            body = json.dumps(told.model.model_dump(mode="json"), sort_keys=True)
            rows[f"{one} as {two}"] = digest(
                body + str({n: x for n, x in vars(told).items() if n != "model"})
            )
    as_it_is("airframes.json", json.dumps(rows, indent=0) + "\n")


def test_what_is_said_of_spoilt_files_is_as_it_was_recorded(hangar: Hangar) -> None:
    """One place of a document after the other gets a value that may not be there; one sentence
    names it, or nothing is wrong."""
    data = hangar.load("Marram").model_dump(mode="json")
    wrong: Any = (None, -1e9, "x", "", [], 1e9, "no such thing", -0.001)
    rows: list[str] = []
    for k, way in enumerate(places(data, ())):
        if k % 6:
            continue
        spoilt = copy.deepcopy(data)
        inside: Any = spoilt
        for key in way[:-1]:
            inside = inside[key]
        inside[way[-1]] = wrong[(k // 6) % len(wrong)]
        rows += [f"{k} {x}" for x in file_problems(json.dumps(spoilt))[:1]]
    as_it_is("spoilt.txt", "\n".join(rows) + "\n")


def places(value: Any, way: tuple[Any, ...]) -> Iterator[tuple[Any, ...]]:
    """The ways to everything in a document that holds nothing itself."""
    inside = (
        value.items()
        if isinstance(value, dict)
        else enumerate(value)
        if isinstance(value, list)
        else ()
    )
    for key, x in inside:
        yield from places(x, (*way, key))
    if not isinstance(value, dict | list):
        yield way
