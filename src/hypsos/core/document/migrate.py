# SPDX-License-Identifier: GPL-3.0-or-later
"""Older documents as they are read today: same meaning, or a safer one where the old meaning could
start a motor.

Works on the parsed JSON, before it is validated; whatever does not look as it should is left for
the validation to name."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator
from typing import Any

from hypsos.core.base.lookup import first_free
from hypsos.core.document.version_one import more_power

Json = dict[str, Any]
RESERVED = ("guard", "mode", "say", "power")
"""Names that have a meaning of their own since version 2."""


def migrated(data: Json) -> Json:
    """The document brought to the present version; a present one comes back as it is."""
    version = data.get("schema_version")
    if isinstance(version, int) and not isinstance(version, bool):
        for step in STEPS[max(0, version - 1) :] if version >= 1 else ():
            data = step(data)
    return data


def _one_to_two(data: Json) -> Json:
    before, data = data, _copied(data)
    program = data.get("program")
    program = program if isinstance(program, dict) else {}
    _idle_pulses(data)
    _trims_of_modes(program)
    _rename_reserved(data, program, RESERVED)
    values = {
        x["name"]: x.get("value")
        for x in _dicts(program, "tunables")
        if isinstance(x.get("name"), str)
    }
    motors = [m.get("name") for m in _dicts(data.get("airframe"), "motors")]
    for line in _dicts(program, "mixes"):
        _line(line, motors, values)
    recipes = list(_dicts(program, "recipes"))
    taken = {"flap", "brake", "camber"} | _names(data, program)
    fed: set[str] = set()
    for recipe in recipes:
        _recipe(recipe, taken, fed)
    _guard(data, program)
    for axis in _dicts(program, "axes"):
        if axis.get("command") == "thrust":
            _thrust_axis(axis)
    receiver = data.get("receiver")
    if isinstance(receiver, dict) and _number(receiver.get("failsafe_after_s")):
        receiver["failsafe_after_s"] = min(5.0, max(0.1, receiver["failsafe_after_s"]))
    data["schema_version"] = 2
    guard = program.get("guard")
    if isinstance(guard, dict):
        guard["unconfirmed"] = [text[:300] for text in more_power(before, data)]
    return data


def _two_to_three(data: Json) -> Json:
    """Without a motor there is no guard: its switch would guard unseen, and arm a motor that comes
    later. The flight battery is a thing of its own."""
    data = _copied(data)
    program = data.get("program")
    if isinstance(program, dict):
        _rename_reserved(data, program, ("flight_battery",))
        if not any(_dicts(data.get("airframe"), "motors")):
            program.pop("guard", None)
    return {**data, "schema_version": 3}


STATES = {"stopped": "cut", "released": "armed"}
"""The states of the guard as they were called up to version 3: *released* is the tow line's
word."""
SAID = {"Motor stopped": "Motor cut", "Motor released": "Motor armed"}
CALLED = {"First release of a flight": "First arming of a flight"}
"""What ready announcements said, and what conditions made by the program were called."""


def _three_to_four(data: Json) -> Json:
    """The guard's states are cut, locked and armed."""
    data = _with_states(_copied(data))
    program = data.get("program")
    if isinstance(program, dict):
        for said in _dicts(program, "announcements"):
            caption = said.get("caption")
            if isinstance(caption, str):
                said["caption"] = SAID.get(caption, caption)
        for node in _dicts(program, "logic"):
            label = node.get("label")
            if isinstance(label, str):
                node["label"] = CALLED.get(label, label)
    return {**data, "schema_version": 4}


def _with_states(value: Any) -> Any:
    """A part of a document with every condition that asks for a state of the guard asking for its
    present name."""
    if isinstance(value, dict):
        return {key: _with_states(x) for key, x in value.items()}
    if isinstance(value, list):
        return [_with_states(x) for x in value]
    if isinstance(value, str) and (found := re.fullmatch(r"(!?guard:)(stopped|released)", value)):
        return found[1] + STATES[found[2]]
    return value


STEPS: tuple[Callable[[Json], Json], ...] = (_one_to_two, _two_to_three, _three_to_four)


def _idle_pulses(data: Json) -> None:
    """A motor's idle is the pulse that version 1 sent at -100, which of a reversed controller is
    the long one."""
    motors = {
        m.get("name")
        for m in _dicts(data.get("airframe"), "motors")
        if isinstance(m.get("name"), str)
    }
    held = data.get("transmitter")
    hands = held if isinstance(held, dict) else {}
    centre, slope = (
        _figure(hands, key, usual)
        for key, usual in (("centre_us", 1500.0), ("us_per_percent", 5.0))
    )
    for lead in _dicts(data, "leads"):
        target = lead.get("target")
        if not isinstance(target, str) or target not in motors or "idle_us" in lead:
            continue
        demand = -100.0 * (-1 if lead.get("direction") == -1 else 1)
        travel = _figure(lead, "travel_neg" if demand < 0 else "travel_pos", 100.0)
        place = _figure(lead, "centre", 0.0) + demand * travel / 100.0
        place = min(_figure(lead, "stop_pos", 125.0), max(_figure(lead, "stop_neg", -125.0), place))
        lead["idle_us"] = min(2500.0, max(500.0, round(centre + slope * place, 3)))


def _trims_of_modes(program: Json) -> None:
    """Version 1 took trims for modes that are gone; nothing flew by them."""
    modes = [m.get("name") for m in _dicts(program, "modes")] or ["base"]
    for axis in _dicts(program, "axes"):
        trim = axis.get("trim")
        own = trim.get("by_mode") if isinstance(trim, dict) else None
        if isinstance(trim, dict) and isinstance(own, dict):
            trim["by_mode"] = {k: v for k, v in own.items() if k in modes}


def _figure(x: Json, key: str, usual: float) -> float:
    value: Any = x.get(key)
    return float(value) if _number(value) and math.isfinite(value) else usual


def _copied(x: Any) -> Any:
    if isinstance(x, dict):
        return {k: _copied(v) for k, v in x.items()}
    return [_copied(v) for v in x] if isinstance(x, list) else x


def _dicts(x: Any, field: str) -> Iterator[Json]:
    found = x.get(field) if isinstance(x, dict) else None
    if isinstance(found, list):
        yield from (each for each in found if isinstance(each, dict))


def _number(x: Any) -> bool:
    return isinstance(x, int | float) and not isinstance(x, bool) and abs(x) < 1e15


def _names(data: Json, program: Json) -> set[str]:
    groups = [(data.get("airframe"), g) for g in ("surfaces", "motors", "devices")]
    groups += [(data.get("transmitter"), "controls"), (program, "logic"), (program, "tunables")]
    names: set[str] = set()
    for where, group in groups:
        names.update(str(thing.get("name")) for thing in _dicts(where, group))
    return names


def _line(line: Json, motors: list[Any], values: dict[str, Any]) -> None:
    """The slow of a line works before its gain, and is as fast as it was; a shared value multiplies
    the gain; a motor is counted from idle."""
    gain = line.get("gain", 100.0)
    if not _number(gain):
        return
    shared = line.get("gain_from") is not None
    share = abs(gain) / 100.0
    if shared:  # it stood in for the gain, whose sign it took
        gain = line["gain"] = -100.0 if gain < 0 else 100.0
        share = _share_of(values, line["gain_from"])
    up, down = line.pop("slow_up_s", 0.0), line.pop("slow_down_s", 0.0)
    if _number(up) and _number(down):
        up, down = min(60.0, up * share), min(60.0, down * share)
    line["in_s"], line["out_s"] = (down, up) if gain < 0 else (up, down)
    if line.get("target") in motors and not shared:
        _motor_line(line, gain)


def _share_of(values: dict[str, Any], name: Any) -> float:
    """How much of the gain a shared value stood for; all of it where it stood at nothing."""
    value = values.get(name) if isinstance(name, str) else None
    return abs(value) / 100.0 if _number(value) and value else 1.0


def _motor_line(line: Json, gain: float) -> None:
    """A line of a motor, counted from idle, that gives no more power than before."""
    if line.get("combine") == "replace" and line.get("source") == "full":
        line["gain"] = max(0.0, gain + 100.0) if gain <= 400 else 500.0
    elif line.get("source") == "thrust" and gain > 100:
        _flattened(line, gain)


def _flattened(line: Json, gain: float) -> None:
    """More than full gain was steeper about the middle, and counted from idle would be more power
    everywhere: the gain goes into the response."""
    response = line.get("response")
    held = (
        response if isinstance(response, dict) else {"points": [[-100.0, -100.0], [100.0, 100.0]]}
    )
    points = held.get("points")
    try:
        steep: list[list[float]] = [
            [x, min(150.0, max(-150.0, y * gain / 100.0))] for x, y in points or []
        ]
    except (TypeError, ValueError):
        return
    line["response"] = {"shape": "straight"} | held | {"points": steep}
    line["gain"] = 100.0


def _recipe(recipe: Json, taken: set[str], fed: set[str]) -> None:
    kind = recipe.get("kind")
    if kind in ("flaps", "flaperons"):
        recipe["in_s"], recipe["out_s"] = (
            recipe.pop("slow_up_s", 0.0),
            recipe.pop("slow_down_s", 0.0),
        )
        recipe["signal"] = first_free("flap", taken - {"flap"} | fed, "_")
        fed.add(recipe["signal"])
    elif kind == "differential_thrust":
        recipe["signal"] = first_free("turn_power", taken | fed, "_")
        fed.add(recipe["signal"])
        recipe["at_idle"] = "none"
        if _number(recipe.get("inner")):
            recipe["inner"] = min(100.0, recipe["inner"])
    label = recipe.get("label")
    if isinstance(label, str):
        recipe["label"] = label.strip()[:60] or str(kind)


def _guard(data: Json, program: Json) -> None:
    """One run position becomes all the others cut; the guard watches the control of the thrust
    command, always."""
    guard = program.get("guard")
    if not isinstance(guard, dict):
        return
    run = _position(guard.get("run_position", 1))
    guard.pop("stick", None)
    switch = next(
        (
            c
            for c in _dicts(data.get("transmitter"), "controls")
            if c.get("name") == guard.get("switch")
        ),
        {},
    )
    positions = switch.get("positions")
    count = (len(positions) if isinstance(positions, list) else 0) or 2
    if run is not None:  # what is no position is left for the check to name
        guard.pop("run_position", None)
        guard["cut"] = [i for i in range(min(count, 6)) if i != run] or [0]
    if _number(guard.get("threshold")):
        guard["threshold"] = min(-90.0, guard["threshold"])


def _position(x: Any) -> int | None:
    """A position's number however it was written: 1, 1.0 or "1"; None where it is none."""
    if isinstance(x, str):
        try:
            x = float(x)
        except ValueError:
            return None
    return int(x) if _number(x) and x == int(x) else None


def _thrust_axis(axis: Json) -> None:
    """Rates scale from idle now; more than 100 would give more power in the middle than before."""
    settings = axis.get("settings")
    for setting in settings if isinstance(settings, list) else ():
        if isinstance(setting, dict):
            for side in ("rate_neg", "rate_pos"):
                if _number(setting.get(side)):
                    setting[side] = min(100.0, setting[side])


_CONDITION = re.compile(r"^(!?)([a-z][a-z0-9_]*)(@[0-9]{1,2})?$")


def _rename_reserved(data: Json, program: Json, reserved: tuple[str, ...]) -> None:
    """A logical switch, a control or a shared value that has a name with a meaning of its own gets
    another one."""
    names = _names(data, program)
    new = {n: first_free(f"{n}_switch", names, "_") for n in reserved if n in names}
    if new:
        modes = [m.get("name") for m in _dicts(program, "modes")]
        for key in ("airframe", "transmitter", "leads", "program"):
            data[key] = _renamed(data.get(key), new)
        if isinstance(data["program"], dict):
            program.clear()
            program.update(data["program"])
            data["program"] = program
        for name, mode in zip(modes, _dicts(program, "modes"), strict=False):
            mode["name"] = name


def _renamed(x: Any, new: dict[str, str]) -> Any:
    if isinstance(x, dict):
        return {key: _renamed_field(key, value, new) for key, value in x.items()}
    if isinstance(x, list):
        return [_renamed(v, new) for v in x]
    match = _CONDITION.match(x) if isinstance(x, str) else None
    if match is None or match[2] not in new:
        return x
    return f"{match[1]}{new[match[2]]}{match[3] or ''}"


def _renamed_field(key: str, value: Any, new: dict[str, str]) -> Any:
    if key in ("label", "kind", "note", "role", "by_mode"):  # words, and modes by their names
        return value
    if key == "presets" and isinstance(value, dict):  # a part's name stands before each figure
        return {new.get(part, part): figure for part, figure in value.items()}
    return _renamed(value, new)
