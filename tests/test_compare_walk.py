# SPDX-License-Identifier: GPL-3.0-or-later
"""No false *no difference*: one field of a document is changed at a time, every field that any demo
model has.

Where the trace of the changed model differs, comparing the two must say so. A field that is added
later is walked like the others, without anybody thinking of it."""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from faulty import demo_model
from hands import wild_hands
from parts import from_parts

from hypsos.core.checking.checks import first_problem
from hypsos.core.conditions import Delay
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.review.compare_models import compared

NAMES = ("samphire", "skerry", "sorrel", "tidewrack", "whinlark")
PARTS = 5
EVERY = bool(os.environ.get("HYPSOS_EVERY_FIELD"))
"""Every place of every model, and not one place of each field."""
FRAMES = 500
OTHER_WORDS = {
    "common": ("offset", "per mode"), "offset": ("common",), "per mode": ("common",), "add": ("replace", "scale"),
    "preset": ("hold", "no pulses"), "hold": ("preset",), "straight": ("smooth",), "smooth": ("straight",), "set": ("add",),
    "begins": ("ends",), "ends": ("begins",), "while": ("begins",), "above": ("below",), "below": ("above",),
    "beyond": ("above",), "all": ("any",), "any": ("one",), "on_delay": ("off_delay",), "up": ("down",), "danger": ("state",),
    "state": ("remark",), "not said": ("own battery",), "none": ("full", "pitch first"), "roll": ("yaw",), "pitch": ("yaw",),
    "aileron_stick": ("rudder_stick",), "throttle_stick": ("rudder_stick",),
}  # fmt: skip
CONDITIONS = ("when", "of", "also", "holds", "reset", "from_when")


def leaves(value: Any, path: Any = "") -> Iterator[Any]:
    if isinstance(value, dict):
        for key, x in value.items():
            yield from leaves(x, f"{path}.{key}" if path else key)
    elif isinstance(value, list | tuple):
        for i, x in enumerate(value):
            yield from leaves(x, f"{path}[{i}]")
    else:
        yield path, value


def other_values(path: Any, value: Any) -> Iterator[Any]:
    """Other values that a field might take."""
    last = re.sub(r"\[\d+\]", "", path).rsplit(".", 1)[-1]
    if isinstance(value, bool):
        yield not value
    elif isinstance(value, int | float):
        yield from (
            value + 1,
            value - 1,
            value * 1.3 + 0.7,
            -value,
            value / 2,
            value + 0.2,
            value + 10,
        )
    elif isinstance(value, str):
        yield from OTHER_WORDS.get(value, ())
        if last in CONDITIONS:
            yield value[1:] if value.startswith("!") else f"!{value}"
        if last == "caption":
            yield f"{value}!"


def changed(model: Model, path: Any, value: Any) -> Any:
    """The model with another value there; None where no other value is allowed."""
    keys = [
        int(k[1:-1]) if k.startswith("[") else k for k in re.findall(r"\[\d+\]|[^.\[\]]+", path)
    ]
    for other in other_values(path, value):
        data = model.model_dump(mode="json")
        held = data
        for key in keys[:-1]:
            held = held[key]
        held[keys[-1]] = other
        try:
            made = type(model).model_validate(data)
        except ValueError:
            continue
        if made != model and first_problem(made) is None:
            return made
    return None


def trace(model: Model, seed: int) -> Any:
    """What can be noticed of a model while hands move, the link drops out and comes back."""
    plan, dice = compile_plan(model), np.random.default_rng(seed)
    hands = wild_hands(model, dice, FRAMES, control_held=25, stick_held=20)
    guard = model.program.guard
    if guard is not None:
        hands["throttle_stick"][:60] = -100.0
        hands[guard.switch][:40] = guard.cut[0]
        hands[guard.switch][40:90] = next(i for i in range(9) if i not in guard.cut)
    link = np.where(np.repeat(dice.random(FRAMES // 50), 50) < 0.15, 0.0, 1.0)
    link[:100] = 1.0
    result = plan.run(Situation(plan.frame_s * np.arange(FRAMES), hands, link))
    seen = {f"{n} us": (t.us, 0.3) for n, t in result.outputs.items()}
    seen |= {
        f"{n} mm": (np.nan_to_num(t.mm), 0.06)
        for n, t in result.outputs.items()
        if t.mm is not None
    }
    seen |= {n: (x, 1e-6) for n, x in result.timers.items()} | {"guard": (result.guard, 0.5)}
    return {n: (np.broadcast_to(x, (FRAMES,)), e) for n, (x, e) in seen.items()}, [
        (s.frame, s.caption) for s in result.said
    ]


def noticed(one: Any, two: Any) -> Any:
    if one[0].keys() != two[0].keys() or one[1] != two[1]:
        return True
    return any(np.abs(x - two[0][n][0]).max() > least for n, (x, least) in one[0].items())


def places() -> Any:
    """(model, path, value): one place of every field, each of another model where several have it;
    or all of them."""
    found, taken = [], set()
    for i, name in enumerate(NAMES):
        for path, value in leaves(demo_model(name).model_dump()):
            field = re.sub(r"\[\d+\]", "", path)
            if path.startswith("scenarios") or (not EVERY and (field, type(value)) in taken):
                continue
            if EVERY or next(other_values(path, value), None) is not None:
                taken.add((field, type(value)))
                found.append((NAMES[i], path, value))
    return found


PLACES = places()


@pytest.mark.parametrize("part", range(PARTS))
def test_a_field_that_changes_what_is_noticed_is_never_called_no_difference(part: Any) -> None:
    tried, bases = 0, {}
    for name, path, value in PLACES[part::PARTS]:
        model = demo_model(name)
        other = changed(model, path, value)
        if other is None:
            continue
        tried += 1
        if name not in bases:
            bases[name] = [trace(model, seed) for seed in (1, 2)]
        if any(
            noticed(base, trace(other, seed))
            for base, seed in zip(bases[name], (1, 2), strict=True)
        ):
            found = compared(model, other)
            assert not found.same, f"{name}: {path} {value!r} was changed, and that is noticed"
    assert tried > 15


def test_names_and_notes_are_no_difference_and_what_is_left_out_is_listed() -> None:
    from hypsos.core.review.report import comparison_text

    model = demo_model("skerry")
    other = with_at(
        with_at(with_at(model, "note", "x"), "leads[0].label", "L"), "receiver.number", 200
    )
    found = compared(model, other)
    first, second = comparison_text(found)
    assert (
        found.same
        and found.proved
        and first.startswith("No difference above 0.05 %")
        and "receiver's number" in second
    )
    turned = with_at(model, "leads[2].direction", -model.leads[2].direction)
    assert any("sends other pulses" in x for x in compared(model, turned).others)


def late(kind: str, seconds: float = 1.0, gain: float = 50.0) -> Any:
    """A flap that goes down some time after a switch was moved."""
    logic = (Delay(kind=kind, name="late", of="switch_b@1", seconds=seconds),)
    return from_parts(
        logic=logic,
        mixes=(MixLine(name="x", target="left_flap", source="full", gain=gain, when="late"),),
    )


@pytest.mark.parametrize("kind", ["on_delay", "off_delay", "pulse"])
def test_what_comes_later_is_compared_when_it_comes(kind: Any) -> None:
    """The same wait in both is one wait; where one waits longer, there is a moment at which only
    one of them moves."""
    assert compared(late(kind), late(kind)).same
    more = compared(late(kind), late(kind, gain=60.0))
    assert (
        more.proved
        and [(d.part, d.most) for d in more.differences] == [("left_flap", 10.0)]
        and not more.others
    )
    longer = compared(late(kind), late(kind, seconds=1.5))
    assert [(d.part, d.most) for d in longer.differences] == [("left_flap", 50.0)]
    assert longer.others == ("Something waits for another time.",)
