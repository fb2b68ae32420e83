# SPDX-License-Identifier: GPL-3.0-or-later
"""Transmitters that ship with Hypsos, and a model that changes to another one: its controls go
where they fit."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import NamedTuple

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.lookup import first_free
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.edits.controls import NAMED, turned, with_positions
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.transmitter_profile import Profile

TWO, THREE = ("off", "on"), ("first", "middle", "last")
SIX = ("first", "second", "third", "fourth", "fifth", "sixth")


def _switch(
    name: str, hand: str, place: str, positions: tuple[str, ...], kind: str = "switch"
) -> Control:
    return Control(name=name, label=place, kind=kind, hand=hand, positions=positions, place=place)


def _slide(name: str, hand: str, place: str, kind: str) -> Control:
    return Control(name=name, label=place, kind=kind, hand=hand, place=place)


@cache
def shipped() -> tuple[Profile, ...]:
    """Three made-up transmitters."""
    return (
        Profile(
            name="Sill",
            note="A small one: six outputs, few switches. Take it where yours offers ready behaviours with a few figures each.",
            school="by behaviour",
            controls=(
                _switch("left_far", "left", "Left, far switch", TWO),
                _switch("left_near", "left", "Left, near switch", THREE),
                _switch("right_near", "right", "Right, near switch", THREE),
                _switch(
                    "right_button", "right", "Right, button", ("let go", "pressed"), "momentary"
                ),
                _slide("middle_knob", "right", "Middle knob", "knob"),
            ),
            outputs=6,
            mixes=4,
            modes=3,
            curve_points=5,
            logic=4,
            timers=1,
            sums=0,
            can=("slow", "voice"),
        ),
        Profile(
            name="Groyne",
            note="A middle one: ten outputs. Take it where you tell yours what each movement does, and then where its servos are.",
            school="by function",
            controls=(
                _switch("left_shoulder", "left", "Left shoulder switch", TWO),
                _switch("left_top", "left", "Left, top switch", THREE),
                _switch("left_low", "left", "Left, low switch", THREE),
                _slide("left_slide", "left", "Left slider", "slider"),
                _switch("right_shoulder", "right", "Right shoulder switch", TWO),
                _switch("right_top", "right", "Right, top switch", THREE),
                _switch("right_low", "right", "Right, low switch", THREE),
                _switch(
                    "right_button", "right", "Right, button", ("let go", "pressed"), "momentary"
                ),
                _slide("right_slide", "right", "Right slider", "slider"),
                _slide("middle_knob", "right", "Middle knob", "knob"),
            ),
            outputs=10,
            mixes=20,
            modes=5,
            curve_points=9,
            logic=16,
            timers=2,
            sums=6,
            weight_step=0.5,
            can=("slow", "fade", "memory", "link", "voice"),
            first_end="towards",
        ),
        Profile(
            name="Headland",
            note="A large one: 24 outputs, a six-way switch. Take it where you tell yours output by output what feeds it.",
            school="by lines",
            controls=(
                _switch("left_a", "left", "Left, first switch", TWO),
                _switch("left_b", "left", "Left, second switch", THREE),
                _switch("left_c", "left", "Left, third switch", THREE),
                _switch("left_button", "left", "Left, button", ("let go", "pressed"), "momentary"),
                _slide("left_slide", "left", "Left slider", "slider"),
                _slide("left_knob", "left", "Left knob", "knob"),
                _switch("right_a", "right", "Right, first switch", TWO),
                _switch("right_b", "right", "Right, second switch", THREE),
                _switch("right_c", "right", "Right, third switch", THREE),
                _switch("right_six", "right", "Right, six-way switch", SIX),
                _switch(
                    "right_button", "right", "Right, button", ("let go", "pressed"), "momentary"
                ),
                _slide("right_slide", "right", "Right slider", "slider"),
                _slide("right_knob", "right", "Right knob", "knob"),
            ),
            outputs=24,
            mixes=200,
            modes=9,
            curve_points=17,
            logic=64,
            timers=3,
            sums=40,
            weight_step=0.1,
            time_step_s=0.01,
        ),
    )


class TransmitterChange(NamedTuple):
    """A model on another transmitter: where each of its controls went (its label, the place), and
    what has no place there.

    ``other_way``: a sentence for each switch whose positions lie at other ends for the hand than
    before."""

    model: Model
    placed: tuple[tuple[str, str], ...]
    homeless: tuple[str, ...]
    other_way: tuple[str, ...] = ()


def taken(model: Model, profile: Profile) -> TransmitterChange:
    """The model on another transmitter. Its controls are put where they fit: one that is used
    first, the motor's before all; by name, then by kind and positions, then under the same hand.
    What has no place stays in the model, and is listed; controls of its own that nothing hangs on
    go. What else the transmitter has is there, idle.

    Where its switches begin at the other end, the positions of the model's are turned round, so
    that each stays at its end for the hand, *cut* before all; what cannot be turned is said."""
    model, other_way = _same_ends(model, profile)
    mine = _most_used_first(model)
    free, seats = list(profile.controls), dict[str, Control]()
    for control in mine:
        seat = _best_seat(model, control, free)
        if seat is None:
            continue
        # one control to a place
        free.remove(seat)
        seats[control.name] = seat
        if seat.is_switch and len(seat.positions) > len(control.positions):
            # a place with more positions: those that come do what the last one did, and of the
            # motor's switch they cut
            model = with_positions(model, control.name, len(seat.positions))
    homeless = [c for c in mine if c.name not in seats]
    levers = [
        f"{a.command} trim lever"
        for a in model.program.axes
        if a.trim is not None and a.command not in profile.trim_levers
    ]
    return TransmitterChange(
        _seated(model, profile, seats, homeless),
        tuple((c.label, seats[c.name].place) for c in mine if c.name in seats),
        (*(c.label for c in homeless), *levers),
        other_way,
    )


def _most_used_first(model: Model) -> list[Control]:
    """The controls on which anything hangs: the motor's switch, then by how much hangs on each."""
    used = uses(model)
    mine = [c for c in model.transmitter.controls if used.get(c.name)]
    return sorted(mine, key=lambda c: (not _is_motors(model, c), -len(used[c.name])))


def _is_motors(model: Model, control: Control) -> bool:
    guard = model.program.guard
    return guard is not None and control.name == guard.switch


def _best_seat(model: Model, control: Control, free: list[Control]) -> Control | None:
    """The free place that fits a control best, the first of several; None where none fits."""
    motor = _is_motors(model, control)
    fits = [_fit(control, seat, motor) for seat in free]
    best = max(fits, default=0)
    return free[fits.index(best)] if best > 0 else None


def _same_ends(model: Model, profile: Profile) -> tuple[Model, tuple[str, ...]]:
    """The model with its switches turned round where the transmitter begins at the other end, and
    what could not be."""
    if model.transmitter.first_end == profile.first_end:
        return model, ()
    said, used, guard = [], uses(model), model.program.guard
    for control in model.transmitter.controls:
        if control.kind != "switch" or not used.get(control.name):
            continue
        try:
            model = turned(model, control.name)
        except HypsosError as error:
            side = "away from you" if profile.first_end == "away" else "towards you"
            motor = " MOTOR:" if guard is not None and guard.switch == control.name else ""
            said.append(
                f"{control.label}:{motor} {control.positions[0]} now lies {side}, for {error.what}."
            )
    return model, tuple(said)


def _fit(control: Control, seat: Control, motor: bool) -> int:
    """How well a control goes to a seat; 0 is not at all. A button is no place for what a switch
    does, least of all a motor's."""
    if control.is_switch != seat.is_switch or (control.kind == "momentary") != (
        seat.kind == "momentary"
    ):
        return 0
    if len(seat.positions) < len(control.positions):
        return 0
    # what was there before comes back there; then names; then the number of positions, kind and
    # hand
    score = 1 + 100 * (control.place == seat.place != "") + 50 * (control.name == seat.name)
    spare = len(seat.positions) - len(control.positions)
    score += 20 * (spare == 0) - spare * (3 if motor else 1) + 10
    return score + 5 * (control.kind == seat.kind) + 3 * (control.hand == seat.hand)


def _seated(
    model: Model, profile: Profile, seats: dict[str, Control], homeless: list[Control]
) -> Model:
    """The model with its controls in the order of the transmitter's seats; names and positions stay
    the model's own."""
    by_seat = {seat.name: name for name, seat in seats.items()}
    # an idle control of the transmitter must not take a name that means something else here
    names = {*seats, *(c.name for c in homeless)} | {x.name for x in model.program.logic}
    names |= {p.name for p in model.airframe.moved()} | {
        x.name for x in model.program.shared_values()
    }
    names |= {x.name for x in model.program.timers} | set(model.program.signal_labels())
    controls = []
    for seat in profile.controls:
        mine = model.transmitter.control(by_seat.get(seat.name, ""))
        if mine is not None:
            controls.append(
                mine.changed({"kind": seat.kind, "hand": seat.hand, "place": seat.place})
            )
            continue
        name = first_free(seat.name, names, "_")
        names.add(name)
        controls.append(seat.changed({"name": name}))
    controls += [c.changed({"place": ""}) for c in homeless]
    held = model.transmitter.changed(
        {
            "controls": tuple(controls),
            "taken": profile.name,
            "centre_us": profile.centre_us,
            "us_per_percent": profile.us_per_percent,
            "first_end": profile.first_end,
        }
    )
    return model.changed({"transmitter": held})


OWN = "its own transmitter"
"""What the transmitter of a model is called that has taken none."""
PLENTY = 1000


def transmitter_of(model: Model, known: Iterable[Profile]) -> Profile:
    """The transmitter that a model has taken; where it has taken none, or one that is not known any
    more, one by lines that has the model's own controls, and enough of everything."""
    for profile in known:
        if profile.name == model.transmitter.taken:
            return profile
    own = profile_of(model, OWN)
    enough = dict.fromkeys(("mixes", "modes", "curve_points", "logic", "timers", "sums"), PLENTY)
    fine = {"outputs": 64, "weight_step": 0.1, "time_step_s": 0.01, **enough}
    return own.changed(fine)


def profile_of(model: Model, name: str) -> Profile:
    """The model's own layout as a transmitter that other models can take: places are called by kind
    and hand where they have no name."""
    controls, counts = [], dict[str, int]()
    for c in model.transmitter.controls:
        stem = f"{c.hand.capitalize()}, {NAMED[c.kind].lower()}"
        counts[stem] = counts.get(stem, 0) + 1
        place = c.place or f"{stem} {counts[stem]}"
        controls.append(c.changed({"place": place, "label": place}))
    held = model.transmitter
    return Profile(
        name=name,
        controls=tuple(controls),
        outputs=model.receiver.ports,
        centre_us=held.centre_us,
        us_per_percent=held.us_per_percent,
        first_end=held.first_end,
    )
