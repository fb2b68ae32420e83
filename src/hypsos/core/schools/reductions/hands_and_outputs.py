# SPDX-License-Identifier: GPL-3.0-or-later
"""Hands and outputs that a transmitter does not have."""

from __future__ import annotations

from hypsos.core.base.errors import HypsosError
from hypsos.core.dependencies.references import uses
from hypsos.core.dependencies.y_leads import joined, lines_by_target, y_lead_problem
from hypsos.core.document.document import Model
from hypsos.core.edits.transmitters import taken
from hypsos.core.engine.rest_positions import resting
from hypsos.core.parts.airframe import STEERED
from hypsos.core.parts.leads import Lead
from hypsos.core.parts.pulses import idle_fits
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.fixed import Fixed, held_fast


def on_its_controls(model: Model, profile: Profile) -> Step:
    """The design on the hands of a transmitter: what has no place stands still where it rests.

    Raises HypsosError where the motor's switch has none: a motor that nothing cuts is not keyed
    in."""
    model = _without_idle_hands(model)
    change = taken(model, profile)
    moved = change.model
    _refuse_without_cut(moved, profile)
    _refuse_unsafe(moved)
    lacks = [
        Lack(
            "switch end", words, "another end comes first here", "The positions lie the other way."
        )
        for words in change.other_way
    ]
    gone = [c for c in moved.transmitter.controls if c.label in change.homeless and not c.place]
    for control in gone:
        moved, lack = _still(moved, control, profile)
        lacks.append(lack)
    moved = _without_idle_hands(moved)
    step = _without_levers(moved, profile)
    return Step(step.model, (*lacks, *step.lacks))


def _without_idle_hands(model: Model) -> Model:
    """The model without controls on which nothing hangs."""
    used = uses(model)
    left = tuple(c for c in model.transmitter.controls if used.get(c.name))
    return model.changed({"transmitter": model.transmitter.changed({"controls": left})})


def _refuse_without_cut(model: Model, profile: Profile) -> None:
    guard = model.program.guard
    if guard is None or not model.airframe.motors:
        return
    control = model.transmitter.control(guard.switch)
    if control is None or control.place:
        return
    raise HypsosError(
        f"{profile.name} has no free switch of {len(control.positions)} positions that could cut the motor",
        "controls",
        "Give this transmitter such a switch on Lay out the controls, or key the model into another one.",
    )


def _refuse_unsafe(model: Model) -> None:
    """A motor that is not off at idle, or a guard that waits for a yes, is mended first."""
    motors = {m.name for m in model.airframe.motors}
    for i, lead in enumerate(model.leads):
        if lead.target not in motors or lead.port is None:
            continue
        if not idle_fits(lead, model.transmitter):
            raise HypsosError(
                f"{lead.label} is not sent its idle pulse at idle, so it is never armed",
                f"leads[{i}]",
                "Mend its centre, travel or stops on Plug in the leads first.",
            )
    guard = model.program.guard
    if guard is not None and guard.unconfirmed:
        raise HypsosError(
            "the guard waits for your yes before it arms any motor",
            "program.guard",
            "Answer it on Make the motor safe first.",
        )


def _still(model: Model, control: Control, profile: Profile) -> tuple[Model, Lack]:
    """A control that the transmitter does not have stands still where it rests."""
    rest = resting(model)[control.name]
    if control.is_switch:
        fixed = Fixed(positions={control.name: int(rest)})
        where = f"{control.label} stays at {control.positions[int(rest)]}"
        what = f"{control.label}, with {len(control.positions)} positions"
    else:
        fixed = Fixed(values={control.name: rest})
        where = f"{control.label} stays in the middle" if not rest else f"{control.label} stays low"
        what = f"{control.label}, a {control.kind}"
    made = held_fast(model, fixed)
    left = tuple(c for c in made.transmitter.controls if c.name != control.name)
    made = made.changed({"transmitter": made.transmitter.changed({"controls": left})})
    lack = Lack(
        "control",
        what,
        f"{profile.name} has no free one like it",
        f"{where}; what hangs on it is left as it is there.",
        "Give it a place of another control that you need less.",
    )
    return made, lack


def _without_levers(model: Model, profile: Profile) -> Step:
    """The design without trims that have no lever here; where they stand goes into a line."""
    lacks, axes = [], []
    for axis in model.program.axes:
        if axis.trim is not None and axis.command not in profile.trim_levers:
            lacks.append(
                Lack(
                    "trim lever",
                    f"a trim lever for {axis.command}",
                    "there is none",
                    "It can't be trimmed in flight.",
                    "Trim it at the clevis, or by the centre of its outputs.",
                )
            )
            axis = axis.changed({"trim": None})
        axes.append(axis)
    program = model.program.changed({"axes": tuple(axes)})
    return Step(model.changed({"program": program}), tuple(lacks))


def on_its_outputs(model: Model, profile: Profile) -> Step:
    """The design with no more outputs than there are: a lead in a port too high goes to a free one;
    what is left over is not plugged in, devices first, then what flies without. What stands on
    either side has outputs for both, or for none: one flap alone would roll the aeroplane."""
    second = {y.second: y.first for y in model.y_leads}
    wanted = [x for x in model.leads if x.port is not None and x.name not in second]
    if all((x.port or 0) <= profile.outputs for x in wanted):
        return Step(model)
    ranked = sorted(wanted, key=lambda x: (_rank(model, x), x.port or 0))
    kept, left_out = _shared_out(_with_the_other_side(model, ranked), profile.outputs)
    used = {x.port for x in kept if (x.port or 0) <= profile.outputs}
    free = [n for n in range(1, profile.outputs + 1) if n not in used]
    ports: dict[str, int | None] = {x.name: None for group in left_out for x in group}
    lacks: list[Lack] = []
    model, joined = _on_y_leads(model, profile)
    if joined:
        step = on_its_outputs(model, profile)
        return Step(step.model, (*joined, *step.lacks))
    for lead in kept:
        if (lead.port or 0) > profile.outputs:
            ports[lead.name] = free.pop(0)
            lacks.append(
                Lack(
                    "output",
                    f"{lead.label} in port {lead.port}",
                    f"{profile.outputs} outputs",
                    f"It goes into port {ports[lead.name]}.",
                )
            )
    lacks += [_without_output(model, profile, group) for group in left_out]
    leads = []
    for x in model.leads:
        first = second.get(x.name, x.name)
        if first in ports:
            x = x.changed({"port": ports[first]})
        leads.append(x)
    return Step(model.changed({"leads": tuple(leads)}), tuple(lacks))


def _with_the_other_side(model: Model, ranked: list[Lead]) -> list[list[Lead]]:
    """Leads in their order, each with the one of the part on the other side."""
    by_target = {x.target: x for x in ranked}
    groups: list[list[Lead]] = []
    seen: set[str] = set()
    for lead in ranked:
        if lead.name in seen:
            continue
        other = by_target.get(model.airframe.other_side(lead.target) or "")
        group = [lead] if other is None or other.name in seen else [lead, other]
        groups.append(group)
        seen |= {x.name for x in group}
    return groups


def _shared_out(groups: list[list[Lead]], outputs: int) -> tuple[list[Lead], list[list[Lead]]]:
    """The leads that have an output, and those that have none: each group whole, the first ones
    first."""
    kept: list[Lead] = []
    left_out: list[list[Lead]] = []
    for group in groups:
        if len(kept) + len(group) <= outputs:
            kept += group
        else:
            left_out.append(group)
    return kept, left_out


def _without_output(model: Model, profile: Profile, group: list[Lead]) -> Lack:
    """What is said of one lead, or of those of both sides, for which there is no output."""
    motors = {m.name for m in model.airframe.motors}
    names = " and ".join(x.label for x in group)
    one = len(group) == 1
    return Lack(
        "output",
        f"an output for {names}" if one else f"outputs for {names}",
        f"{profile.outputs} outputs, all taken",
        "It is not plugged in, and does nothing."
        if one
        else "They are not plugged in, and do nothing: one of them alone would pull to its side.",
        "A rod or springs from the rudder can steer it."
        if {x.target for x in group} <= _steered(model)
        else "Where two servos always do the same, a Y-lead joins them.",
        motor=any(x.target in motors for x in group),
    )


def _steered(model: Model) -> set[str]:
    """The wheels that steer on the ground."""
    return {d.name for d in model.airframe.devices if d.kind in STEERED}


def _on_y_leads(model: Model, profile: Profile) -> tuple[Model, tuple[Lack, ...]]:
    """The design with two servos that always do the same on a Y-lead, where there are too few
    outputs; one pair, the first that may share a port."""
    second = {y.second for y in model.y_leads}
    leads = [x for x in model.leads if x.port is not None and x.name not in second]
    motors = {m.name for m in model.airframe.motors}
    by_target = lines_by_target(model)
    for i, one in enumerate(leads):
        for other in leads[i + 1 :]:
            if {one.target, other.target} & motors:
                continue
            for reversing in (False, True):
                made = joined(model, one.name, other.name, reversing)
                if y_lead_problem(made, made.y_leads[-1], by_target) is None:
                    what = "a reversing Y-lead" if reversing else "a Y-lead"
                    lack = Lack(
                        "output",
                        f"outputs of their own for {one.label} and {other.label}",
                        f"{profile.outputs} outputs",
                        f"They share port {one.port} on {what}: they always do the same.",
                    )
                    return made, (lack,)
    return model, ()


def _rank(model: Model, lead: Lead) -> int:
    """How far down the list of what can be done without: motors and what steers come first."""
    if lead.target in {m.name for m in model.airframe.motors}:
        return 0
    steering = {"roll", "pitch", "yaw"}
    feeds = {x.source for x in model.program.mixes if x.target == lead.target}
    if lead.target in _steered(model):
        return 6  # the rudder can take it along by a rod
    if lead.target in {d.name for d in model.airframe.devices}:
        return 5
    if not feeds & steering:
        return 4
    # a second panel of the same sort comes after the first ones
    return 1 if _is_first_panel(model, lead.target) else 2


def _is_first_panel(model: Model, name: str) -> bool:
    mine = next(s for s in model.airframe.surfaces if s.name == name)
    for other in model.airframe.surfaces:
        if other.name == name:
            return True
        if (other.role, other.side) == (mine.role, mine.side):
            return False
    return True
