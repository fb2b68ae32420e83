# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps of the work in their order, and how far each has come. It guides; it never blocks."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Literal, NamedTuple

from hypsos.core.base.figure_words import said_name
from hypsos.core.dependencies.failsafe_defaults import half_way, not_asked
from hypsos.core.dependencies.references import without_place
from hypsos.core.document.document import Model, digest
from hypsos.core.document.program import EXPO_BOUNDS, RATE_BOUNDS, name_says
from hypsos.core.edits.announcement_words import voice_doubts
from hypsos.core.edits.mode_grid import never_flown
from hypsos.core.edits.relock_time import too_short
from hypsos.core.edits.shared_values import dead_axes
from hypsos.core.explain.idle_pulse import failsafe_danger, motor_dangers
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.parts.leads import Lead
from hypsos.core.wording.describe_condition import named
from hypsos.core.wording.words import Part, control_label, sense_words

StateName = Literal["not begun", "proposed", "in hand", "settled", "needs attention"]


class Attention(NamedTuple):
    """Something a person should look at: which step, what it is, and the document path."""

    step: str
    text: str
    path: str


@dataclass(frozen=True)
class StepState:
    """How far a step has come; ``count`` is how many things need attention."""

    name: StateName
    count: int = 0


class WorkStep(NamedTuple):
    """A step: its key, its verb name, and how its progress is read off a model.

    ``sets``: patterns of the places of the document whose figures are set in it. ``patient``:
    nothing of it asks for attention while it is in hand. ``holds``: what is found in it, in words;
    ``named_by_it``: its page says so beside its verb, which does not."""

    key: str
    verb: str
    progress: Callable[[Model, int], StateName]
    sets: tuple[str, ...] = ()
    patient: bool = False
    holds: str = ""
    named_by_it: bool = False


def attentions(model: Model) -> Iterator[Attention]:
    """Everything in the model that asks for a second look, in the order of the steps."""
    yield from _wiring_attentions(model)
    yield from _guard_attentions(model)
    yield from _feel_attentions(model)
    for i, recipe in enumerate(model.program.recipes):
        for field, text in recipe.doubts(model.transmitter.control):
            yield Attention("flaps", text, f"program.recipes[{i}].{field}")
    yield from _scaled_twice(model)
    for mode in never_flown(model):
        text = f"{mode.label} is never flown: modes before it hold wherever its rule does."
        yield Attention("modes", text, "program.modes")
    for name, text in dead_axes(model):
        x = next(t for t in model.program.shared_values() if t.name == name)
        yield Attention(
            "modes", f"{said_name(x.label, 'Shared value', x.name)}: {text}.", "program.tunables"
        )
    for path, text in voice_doubts(model):
        yield Attention("say", text, path)
    yield from _failsafe_attentions(model)


def _wiring_attentions(model: Model) -> Iterator[Attention]:
    """Leads that are not plugged in or have no port, and controls without a place on the
    transmitter."""
    any_plugged = any(x.port is not None for x in model.leads)
    for i, lead in enumerate(model.leads):
        if lead.port is None and any_plugged:
            yield Attention("wiring", f"{lead.label} is not plugged in.", f"leads[{i}].port")
    second = {y.second for y in model.y_leads}
    needed = sum(x.name not in second for x in model.leads)
    if needed > model.receiver.ports:
        text = f"{needed} leads and {model.receiver.ports} ports: a larger receiver, or a Y-lead where two always do the same."
        yield Attention("wiring", text, "receiver.ports")
    for text in without_place(model):
        said = f"{text} has no place on {model.transmitter.taken}: add a control like it, or let something else do its work."
        yield Attention("hands", said, "transmitter.controls")


def _guard_attentions(model: Model) -> Iterator[Attention]:
    """What could start a motor where nobody meant it."""
    for path, text in motor_dangers(model):
        if not path.endswith("failsafe"):  # those stand among the others of a lost link
            yield Attention("guard", text, path)
    guard = model.program.guard
    if guard is not None and guard.level == 1 and model.airframe.motors:
        text = "With a cut alone, switching to run with the stick up starts the motor at once."
        yield Attention("guard", text, "program.guard.level")
    if short := too_short(model):
        yield Attention("guard", short, "program.guard.relock_s")
    yield from _borrowed(model)
    yield from _run_attentions(model)


def _borrowed(model: Model) -> Iterator[Attention]:
    """A behaviour on the control that gives power too, with nothing that stops the motor
    meanwhile."""
    guard, thrust = model.program.guard, model.program.axis("thrust")
    if guard is None or thrust is None or not model.airframe.motors or guard.holds:
        return
    for recipe in model.program.recipes:
        if recipe.on and any(name == thrust.control for _, name in recipe.reads()):
            by = control_label(model, thrust.control)
            text = f"{recipe.label} and the motor both go by the {by}. Say what stops the motor meanwhile."
            yield Attention("guard", text, "program.guard.holds")


def _run_attentions(model: Model) -> Iterator[Attention]:
    """Where the name of a position of the motor switch says another thing than the guard does."""
    guard = model.program.guard
    if guard is None or not model.airframe.motors:
        return
    control = model.transmitter.control(guard.switch)
    if control is None:
        return
    names = [p.strip().casefold() for p in control.positions]
    for i, position in enumerate(control.positions):
        runs = i not in guard.cut
        if runs and name_says(position) is False:
            text = f"At {position} the motor may run, and the name says the opposite."
            yield Attention("guard", text, "program.guard.cut")
        elif not runs and name_says(position):
            text = f"At {position} the motor is cut, and the name says the opposite."
            yield Attention("guard", text, "program.guard.cut")
        if names.index(names[i]) < i:
            text = f"Two positions of {control.label} are called {position}: nobody can tell which of them cuts the motor."
            yield Attention("guard", text, "program.guard.cut")


def _scaled_twice(model: Model) -> Iterator[Attention]:
    """Two behaviours that put shared values in the place of the same axis' rate or expo: only the
    last of them acts."""
    scaling = [(i, r) for i, r in enumerate(model.program.recipes) if r.on and r.feels()]
    for k, (i, recipe) in enumerate(scaling):
        for _, other in scaling[:k]:
            both = [c for c in recipe.feels() if c in other.feels()]
            if both:
                text = f"{recipe.label} and {other.label} both set the rates of {' and '.join(both)}: only one of them acts."
                yield Attention("flaps", text, f"program.recipes[{i}]")


def _shared_attentions(model: Model) -> Iterator[Attention]:
    """Shared values that could leave the bounds of the rate or the expo for which they stand in."""
    bounds = {"rate_from": ("a rate", RATE_BOUNDS), "expo_from": ("an expo", EXPO_BOUNDS)}
    for i, axis in enumerate(model.program.axes):
        for field, name in axis.shares():
            setting, _, kind = field.rpartition(".")
            value = next((x for x in model.program.shared_values() if x.name == name), None)
            if value is None or kind not in bounds:
                continue
            what, (low, high) = bounds[kind]
            sides = [
                word
                for word, out in (("below", value.low < low), ("beyond", value.high > high))
                if out
            ]
            if sides:
                said = said_name(value.label, "Shared value", value.name)
                text = f"{said} could go {' and '.join(sides)} what {what} can be ({low:g} to {high:g} %); it is held there."
                yield Attention("feel", text, f"program.axes[{i}].{setting}")


def _feel_attentions(model: Model) -> Iterator[Attention]:
    yield from _shared_attentions(model)
    for i, axis in enumerate(model.program.axes):
        control = model.transmitter.control(axis.switch) if axis.switch else None
        positions = control.positions if control else ("all times",)
        for k, position in enumerate(positions):
            setting = axis.settings[k] if k < len(axis.settings) else None
            path = f"program.axes[{i}].settings"
            if setting is None:
                yield Attention(
                    "feel",
                    f"{axis.command.capitalize()} at {position}: full rate, no expo by default.",
                    path,
                )
            elif axis.command != "thrust" and min(setting.rate_neg, setting.rate_pos) == 0:
                yield Attention(
                    "feel", f"{axis.command.capitalize()} has a rate of zero: no control.", path
                )


def _ends(part: Part) -> str:
    return " nor ".join(sense_words(part))


def _failsafe_attentions(model: Model) -> Iterator[Attention]:
    parts = {p.name: p for p in model.airframe.moved()}
    for i, lead in enumerate(model.leads):
        safe, path = lead.failsafe, f"leads[{i}].failsafe"
        part = parts[lead.target]
        if half_way(part, safe):
            yield Attention(
                "failsafe", f"{lead.label} would stop half way, neither {_ends(part)}.", path
            )
        elif not_asked(part, safe):
            yield Attention(
                "failsafe",
                f"{lead.label}: say what it does without the link. Nobody else knows.",
                path,
            )
        elif safe is None:
            continue
        elif isinstance(part, Motor):
            said = failsafe_danger(lead)
            if said is not None:
                yield Attention("failsafe", said, path)
        elif safe.action == "hold" and isinstance(part, Surface):
            yield Attention(
                "failsafe",
                f"{lead.label} would stay where it was: a held surface can spin it in.",
                path,
            )


def _named(model: Model, _flights: int) -> StateName:
    return "settled" if model.note else "in hand"


def _laid_out(model: Model, _flights: int) -> StateName:
    return "settled" if model.transmitter.controls else "not begun"


def _of_all(done: int, parts: int) -> StateName:
    """The state of a step that is gone through part by part."""
    if not done:
        return "not begun"
    return "settled" if done == parts else "in hand"


def _wired(model: Model, _flights: int) -> StateName:
    return _of_all(sum(x.port is not None for x in model.leads), len(model.leads))


def _guarded(model: Model, _flights: int) -> StateName:
    needed = bool(model.airframe.motors)
    return "not begun" if needed and model.program.guard is None else "settled"


def _shaped(model: Model, _flights: int) -> StateName:
    return "settled" if model.airframe.moved() else "in hand"


def _directed(model: Model, _flights: int) -> StateName:
    return _of_all(sum(x.checked for x in model.leads), len(model.leads))


def _output(lead: Lead) -> tuple[object, ...]:
    return (lead.curve, lead.centre, lead.travel_neg, lead.travel_pos, lead.stop_neg, lead.stop_pos)


FRESH = _output(Lead(name="fresh", label="Fresh", target="fresh"))
"""What nobody has set yet."""


def _thrown(model: Model, _flights: int) -> StateName:
    surfaces = {s.name for s in model.airframe.surfaces}
    mine = [x for x in model.leads if x.target in surfaces]
    ruled = sum(x.linkage is not None or bool(x.measured) or _output(x) != FRESH for x in mine)
    return _of_all(ruled, len(mine))


def _felt(model: Model, _flights: int) -> StateName:
    for axis in model.program.axes:
        if axis.command == "thrust":
            continue
        if any(s is not None and (s.expo or s.rate_pos != 100) for s in axis.settings):
            return "settled"
    return "not begun"


def _flapped(model: Model, _flights: int) -> StateName:
    return "settled" if model.program.recipes or model.program.mixes else "not begun"


def _moded(model: Model, _flights: int) -> StateName:
    return "settled" if model.program.modes or model.program.tunables else "not begun"


def _told(model: Model, _flights: int) -> StateName:
    program = model.program
    return "settled" if named(model) or program.announcements or program.timers else "not begun"


def _safe(model: Model, _flights: int) -> StateName:
    return _of_all(sum(x.failsafe is not None for x in model.leads), len(model.leads))


def _shaken(model: Model, _flights: int) -> StateName:
    if not model.scenarios:
        return "not begun"
    return "settled" if any(x.expectations for x in model.scenarios) else "in hand"


def _sheet(model: Model, _flights: int) -> StateName:
    if not model.sheet_of:
        return "not begun"
    return "settled" if model.sheet_of == digest(model) else "in hand"


def _flown(_model: Model, flights: int) -> StateName:
    return "settled" if flights else "not begun"


STEPS = (
    WorkStep("model", "Name the model", _named, holds="new model, note, snapshots, files"),
    WorkStep(
        "airframe", "Shape the aeroplane", _shaped, (r"airframe",), holds="panels, surfaces, motors"
    ),
    WorkStep(
        "hands",
        "Lay out the controls",
        _laid_out,
        (r"transmitter",),
        holds="transmitter, switches, buttons, sliders, knobs, trim levers",
    ),
    WorkStep(
        "wiring",
        "Plug in the leads",
        _wired,
        (r"",),
        patient=True,
        holds="ports, outputs, travel, centre, stops, Y-leads",
    ),
    WorkStep(
        "guard", "Make the motor safe", _guarded, (r"program\.guard",), holds="throttle cut, arming"
    ),
    WorkStep("directions", "Check directions", _directed, holds="reversing, plugs"),
    WorkStep("throws", "Set the throws", _thrown, holds="linkage, ruler, millimetres"),
    WorkStep(
        "flaps",
        "Set wing and tail",
        _flapped,
        (r"program\.recipes", r"program\.mixes"),
        holds="behaviours, mixes, flaps, brakes, camber, streams",
    ),
    WorkStep("feel", "Set rates and expo", _felt, (r"program\.axes",), holds="dual rates, curves"),
    WorkStep(
        "modes",
        "Choose flight modes",
        _moded,
        (r"program\.modes", r"program\.tunables", r"program\.axes\[\d+\]\.trim"),
        holds="grid, wing in each mode, trims, shared values",
    ),
    WorkStep(
        "say",
        "Say when",
        _told,
        (r"program\.logic", r"program\.announcements", r"program\.timers"),
        holds="conditions, announcements, timers",
        named_by_it=True,
    ),
    WorkStep(
        "failsafe",
        "Set the failsafe",
        _safe,
        (r"receiver\.", r"leads\[\d+\]\.failsafe"),
        holds="lost link, receiver",
    ),
    WorkStep("shake", "Shake it down", _shaken, (r"scenarios",), holds="dangers, scenarios"),
    WorkStep("sheet", "Write the sheet", _sheet, holds="keying in, print"),
    WorkStep("log", "Fly and log", _flown, holds="checklists, flights, trims"),
)
NOWHERE = r"program\."
"""Other places of the program have no page."""


def step_states(
    model: Model, flights: int, found: Iterable[Attention] | None = None
) -> dict[str, StepState]:
    """Key -> state for every step, with ``flights`` in the log. ``found`` is what asks for a second
    look, where that is known already."""
    open_points: dict[str, int] = {}
    for a in attentions(model) if found is None else found:
        open_points[a.step] = open_points.get(a.step, 0) + 1
    out = {}
    for step in STEPS:
        count = open_points.get(step.key, 0)
        progress = step.progress(model, flights)
        if step.patient and progress == "in hand":
            count = 0
        if step.key in model.proposed and progress != "not begun":
            progress = "proposed"
        out[step.key] = StepState("needs attention", count) if count else StepState(progress)
    return out


def step_of_path(path: str) -> str:
    """The step where the number at a document path is set; empty where there is no page for it."""
    patterns = [("", NOWHERE)]
    for step in STEPS:
        patterns += [(step.key, pattern) for pattern in step.sets]
    # the one that says most of the path is meant
    best, found = -1, ""
    for key, pattern in patterns:
        match = re.match(pattern, path)
        if match is not None and match.end() > best:
            best, found = match.end(), key
    return found
