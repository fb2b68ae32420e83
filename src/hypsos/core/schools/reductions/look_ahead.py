# SPDX-License-Identifier: GPL-3.0-or-later
"""The guard of a design asks what a motor would be told once fades and delays have run out. Plain
rules ask what it is told now. So nothing that is on its way may reach a motor."""

from __future__ import annotations

from hypsos.core.conditions.combine import Combine
from hypsos.core.conditions.delay import Delay
from hypsos.core.dependencies.graph import Behind, Reader, graph
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.abilities import with_program
from hypsos.core.schools.reductions.fixed import Fixed, held_fast
from hypsos.core.wording.describe_condition import phrase


def nothing_on_its_way(model: Model, _profile: Profile) -> Step:
    """A design in which neither a fade nor a delay reaches a motor."""
    if not model.airframe.motors or model.program.guard is None:
        return Step(model)
    found = graph(model).behind(sorted(m.name for m in model.airframe.motors))
    lacks = []
    if _goes_by_mode(model, found):
        found.ask(m.when for m in model.program.modes if m.when is not None)
        if any(m.fade_s for m in model.program.modes):
            modes = tuple(m.changed({"fade_s": 0.0}) for m in model.program.modes)
            model = with_program(model, modes=modes)
            lacks.append(
                Lack(
                    "guard",
                    "a motor that goes by flight modes which fade, with a guard that looks ahead",
                    "a guard that sees what is now",
                    "Flight modes change in one jump.",
                    motor=True,
                )
            )
    waiting = [x for x in found.conditions.values() if isinstance(x, Delay)]
    for x in waiting:
        lacks.append(
            Lack(
                "guard",
                f"a motor that goes by {phrase(model, x.name)}, with a guard that looks ahead",
                "a guard that sees what is now",
                "It never holds." if x.kind == "pulse" else "It doesn't wait.",
                motor=True,
            )
        )
    if waiting:
        model = _without_waits(model, {x.name for x in waiting})
    return Step(model, tuple(lacks))


def _without_waits(model: Model, names: set[str]) -> Model:
    logic, never = [], {}
    for x in model.program.logic:
        if x.name in names and isinstance(x, Delay):
            if x.kind == "pulse":
                never[x.name] = False
            x = Combine(kind="all", name=x.name, label=x.label, of=(x.of,))
        logic.append(x)
    made = with_program(model, logic=tuple(logic))
    return held_fast(made, Fixed(truths=never)) if never else made


def _goes_by_mode(model: Model, found: Behind) -> bool:
    """Whether what a motor would be told hangs on the flight mode."""
    if any(found.signals & set(m.presets) for m in model.program.modes):
        return True
    readers: list[Reader] = [*found.lines, *found.axes, *found.shared]
    readers += found.conditions.values()
    texts = [text for reader in readers for _, text in reader.asks()]
    if any(asked(text).realm == "mode" for text in texts):
        return True
    if any(x.by_mode or (x.adjuster is not None and x.adjuster.modes) for x in found.shared):
        return True
    return any(a.trim is not None and a.trim.scope in ("per mode", "offset") for a in found.axes)
