# SPDX-License-Identifier: GPL-3.0-or-later
"""The port card: which lead sits in which port, what to write on its ends, and what feeds the
receiver."""

from __future__ import annotations

from hypsos.core.dependencies.y_leads import partner
from hypsos.core.document.document import Model
from hypsos.core.parts.airframe import Motor, Surface
from hypsos.core.schools.on_paper.blocks import Block, Row
from hypsos.core.sheet.sheet_blocks import Sheet
from hypsos.core.wording.words import Part

POWER_WORDS = {
    "not said": "say what feeds the receiver",
    "speed controller": "through the lead of the speed controller; no battery of its own besides",
    "own battery": "a battery of its own",
}


def power_words(model: Model) -> str:
    """What feeds the receiver, as a line on the port list."""
    port = model.receiver.power_port
    text = POWER_WORDS[model.receiver.power]
    if model.receiver.power == "own battery":
        text += f" in port {port}" if port else " in the port its manual names"
    names = {motor.name for motor in model.airframe.motors}
    motors = sum(lead.target in names for lead in model.leads)
    if motors > 1 and model.receiver.power == "speed controller":
        text += "; with several speed controllers their manual says whose red wire stays connected"
    return text


def short_label(text: str) -> str:
    """As people write it on a lead: L and R for left and right.

    >>> short_label("Left flaperon")
    'L flaperon'
    """
    return text.replace("Left ", "L ").replace("Right ", "R ")


def _side(part: Part) -> str:
    """Where a part sits, as the pilot sits in the aeroplane."""
    if isinstance(part, Surface):
        return part.side
    if isinstance(part, Motor) and part.y_mm:
        return "left" if part.y_mm < 0 else "right"
    return "middle"


def port_card(model: Model) -> Sheet:
    """A card to print and keep with the aeroplane."""
    parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}
    labels = {x.name: x.label for x in model.leads}
    rows = []
    leads = sorted(model.leads, key=lambda x: (x.port is None, x.port or 0))
    for lead in leads:
        part, other = parts[lead.target], partner(model, lead.name)
        port = "–" if lead.port is None else str(lead.port)
        moves = part.label + (f", on a Y-lead with {labels[other].lower()}" if other else "")
        written = f"{short_label(lead.label)} {port}"
        rows.append(Row(f"lead {lead.name}", (port, lead.label, moves, written, _side(part))))
    power = str(model.receiver.power_port or "–")
    rows.append(Row("power", (power, "Power", power_words(model), "", "")))
    first = "Propeller off before the flight battery goes on. " if model.airframe.motors else ""
    block = Block(
        "ports",
        "Ports",
        caution=f"{first}Each plug the right way round: signal, plus, minus.",
        columns=("Port", "Lead", "Moves", "Write on both ends", "Sits"),
        rows=tuple(rows),
    )
    return Sheet(
        f"{model.name}: port card",
        f"Receiver number {model.receiver.number}.",
        (block,),
        "Left and right as the pilot sits in it. The makers' manuals come first.",
        f"{model.name}, ports",
    )
