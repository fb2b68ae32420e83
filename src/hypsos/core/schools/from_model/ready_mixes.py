# SPDX-License-Identifier: GPL-3.0-or-later
"""Which of a transmitter's ready mixes a line is, by what feeds what."""

from __future__ import annotations

from hypsos.core.document.document import Model

RUDDERS = ("rudder", "ruddervator")
ROLLING = ("aileron", "flaperon", "elevon")


def _roles(model: Model) -> dict[str, str]:
    return {s.name: s.role for s in model.airframe.surfaces}


def _sources(model: Model, signal: str) -> set[str]:
    """The hands and commands that feed a signal at last."""
    open_, seen, found = [signal], set[str](), set[str]()
    while open_:
        name = open_.pop()
        if name in seen:
            continue
        seen.add(name)
        feeds = [x.source for x in model.program.mixes if x.target == name]
        found.update([name] if not feeds else [])
        open_ += feeds
    return found


def ready_word(model: Model, source: str, to: str) -> str:
    """The ready mix that brings this source there; nothing where none does.

    Usual ones: brakes, flaps, camber, snap flap, aileron to rudder, ailerons with flaps."""
    roles = _roles(model)
    role = roles.get(to, "")
    signal = source if source not in ("roll", "pitch", "yaw", "thrust", "full") else ""
    if signal == "brake" or to == "brake":
        return "brakes"
    if signal == "flap" or to == "flap":
        return "flaps"
    if signal == "camber" or to == "camber" or source == "full":
        return "camber"
    behind = _sources(model, signal) if signal else {source}
    if behind == {"roll"} and role in RUDDERS:
        return "aileron to rudder"
    if behind == {"roll"} and role == "flap":
        return "flaps with ailerons"
    if behind == {"pitch"} and role in ("flap", *ROLLING):
        return "snap flap"
    into = _fed_by(model, to)
    if source == "roll" and into & set(RUDDERS):
        return "aileron to rudder"
    if source == "pitch" and "flap" in into:
        return "snap flap"
    return ""


def _fed_by(model: Model, signal: str) -> set[str]:
    """The roles of the surfaces that a signal feeds itself."""
    roles = _roles(model)
    return {roles.get(x.target, "") for x in model.program.mixes if x.source == signal}
