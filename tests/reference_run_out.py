# SPDX-License-Identifier: GPL-3.0-or-later
"""Every condition once some delays have run out, the hands as they stand: a frame as it would be,
from the one that is."""

from __future__ import annotations

from typing import Any

from reference_shapes import taken_apart


class RunOut:
    """``world`` is the reference with its frame evaluated; ``ended`` are the delays that have run
    out."""

    def __init__(self, world: Any, ended: Any) -> None:
        self.world, self.ended = world, ended
        self.real, self.then = dict(world.now), {}  # type: ignore[var-annotated]

    def all(self) -> Any:
        for name in [*self.world.nodes, *(f"mode:{m}" for m in self.world.modes)]:
            self.find(name, None)
        return self.then

    def find(self, name: Any, asker: Any) -> Any:
        world = self.world
        latch = name in world.nodes and world.nodes[name].kind == "latch"
        if latch and asker is not None and world.circle(name, asker):
            return self.real[name]
        if name not in self.then:
            self.then[name] = (
                self.mode(name[5:]) if name.startswith("mode:") else self.made(world.nodes[name])
            )
        return self.then[name]

    def mode(self, name: Any) -> Any:
        world = self.world
        free = not any(
            self.find(f"mode:{m}", f"mode:{name}") for m in world.modes[: world.modes.index(name)]
        )
        when = world.mode_of[name].when if name in world.mode_of else None
        return free and (when is None or self.true(when, f"mode:{name}"))

    def true(self, text: Any, asker: Any) -> Any:
        negated, kind, name, place = taken_apart(text)
        if kind == "mode":
            return self.find(f"mode:{name}", asker) != negated
        if name not in self.world.nodes:
            return self.world.true(text)
        found = self.find(name, asker)
        if kind == "place":
            return (found == place) != negated
        return bool(found > 0 if self.world.nodes[name].kind == "counter" else found) != negated

    def signal(self, name: Any, asker: Any) -> Any:
        return self.find(name, asker) if name in self.world.nodes else self.world.raw[name]

    def made(self, x: Any) -> Any:
        if x.kind in ("above", "below", "beyond", "within", "difference"):
            return self.compared(x)
        if x.kind == "gate":
            return self.signal(x.source, x.name) if self.true(x.when, x.name) else x.parked
        if x.kind in ("all", "any", "one", "not"):
            of = [self.true(c, x.name) for c in x.of]
            return {"all": all(of), "any": any(of), "one": sum(of) == 1, "not": not of[0]}[x.kind]
        if x.kind == "latch":
            on, off = self.true(x.set, x.name), self.true(x.reset, x.name)
            if x.edges:
                on, off = on and not self.world.true(x.set), off and not self.world.true(x.reset)
            return (on or self.real[x.name]) and not off
        return self.delayed(x, self.true(x.of, x.name), self.world.true(x.of))

    def compared(self, x: Any) -> Any:
        a, h, was = self.signal(x.a, x.name), x.hysteresis, self.real[x.name]
        if x.kind == "within":
            return (x.x <= a <= x.y or (h > 0 and was)) and not (a < x.x - h or a > x.y + h)
        b = self.signal(x.b or x.a, x.name)
        a = {"above": a, "below": -a, "beyond": abs(a), "difference": a - b}[x.kind]
        bound = -x.x if x.kind == "below" else x.x
        return a > bound or (h > 0 and was and a > bound - h)

    def delayed(self, x: Any, given: Any, before: Any) -> Any:
        if x.kind == "counter":
            return (self.real[x.name] + (given and not before)) % x.count
        if x.name in self.ended:
            return given and x.kind != "pulse"
        if x.kind == "pulse":
            return self.real[x.name] or (given and not before)
        return (
            (given and self.real[x.name]) if x.kind == "on_delay" else (given or self.real[x.name])
        )
