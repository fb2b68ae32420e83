# SPDX-License-Identifier: GPL-3.0-or-later
"""The part of a simulated transmitter that reaches some of its outputs.

Sought: a smaller transmitter that sends the very same pulses at these outputs.

How it is made: from each output back to whatever it asks for, in this frame or in the one before,
and on from there. A flight mode brings all the others with it, for the first that holds is flown.

Why it is right: what is left out is asked by nothing that is left in."""

from __future__ import annotations

from collections.abc import Collection

from hypsos.core.schools.stand_in.machine import Machine
from hypsos.core.schools.stand_in.parts import Radio


def reaching(radio: Radio, ports: Collection[int]) -> Radio:
    """The part of a radio that reaches these ports. Raises HypsosError where the radio can't work
    as it is said."""
    asked = _asked(Machine(radio), ports)
    modes = radio.modes if any(name.startswith("mode") for name in asked) else ()
    safe = {port: x for port, x in radio.receiver.ports.items() if port in ports}
    return radio.changed(
        {
            "hands": tuple(x for x in radio.hands if x.name in asked),
            "levers": tuple(x for x in radio.levers if x.name in asked),
            "rules": tuple(x for x in radio.rules if x.name in asked),
            "modes": modes,
            "shared": tuple(x for x in radio.shared if f"shared:{x.name}" in asked),
            "commands": tuple(x for x in radio.commands if x.name in asked),
            "sums": tuple(x for x in radio.sums if x.name in asked),
            "channels": tuple(x for x in radio.channels if x.port in ports),
            "receiver": radio.receiver.changed({"ports": safe}),
        }
    )


def _asked(machine: Machine, ports: Collection[int]) -> set[str]:
    """The names of all that these ports ask for."""
    nodes = {node.name: node for node in machine.nodes}
    found: set[str] = set()
    waiting = [f"port:{port}" for port in ports]
    while waiting:
        name = waiting.pop()
        if name in found:
            continue
        found.add(name)
        if name.startswith("mode:"):
            # whether a mode is flown hangs on those before it, and a fade on all of them
            waiting.append("modes")
        node = nodes.get(name)
        if node is not None:
            waiting += [*node.asks, *node.was]
    return found
