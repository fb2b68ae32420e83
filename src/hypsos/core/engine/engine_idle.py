# SPDX-License-Identifier: GPL-3.0-or-later
"""Engines: armed they idle, and nothing brings them below; cut they stop.

An electric motor at the low end of its stick stands still. An engine has to go on running there. So
the whole stick is laid out between its idle and full power:

    demand = -100 + 2·idle + trim + max(0, asked - trim)·(1 - idle/100)

*asked* is what the mixes ask for above standing still, the trim of the throttle counted in; *idle*
is in percent of power. At the low end that is the idle with the trim about it, at the high end what
it would be without an idle. What takes power away, as differential thrust may, ends at the idle.
The guard comes first: an engine that is not armed stands at -100."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from hypsos.core.base.backends import Backend, Signal
from hypsos.core.conditions.world import ConditionWorld
from hypsos.core.document.document import Model
from hypsos.core.parts.pulses import IDLE


class Idling(NamedTuple):
    """How an engine idles now: its idle in percent of power, and the trim of the throttle about
    it."""

    percent: Signal
    trim: Signal

    def raised(self, total: Signal, backend: Backend) -> Signal:
        """What an armed engine is told where its lines ask for ``total``."""
        above = backend.maximum(total - IDLE - self.trim, 0.0)
        told = IDLE + 2.0 * self.percent + self.trim + above * (1.0 - self.percent / 100.0)
        return backend.maximum(told, IDLE)


class EnginePlan:
    """The engines of a model made ready."""

    def __init__(self, model: Model) -> None:
        guard = model.program.guard
        self.engines = guard.engines if guard is not None else ()

    def idling(self, world: ConditionWorld, untrimmed: Mapping[str, Signal]) -> dict[str, Idling]:
        """Motor -> how it idles; of engines only."""
        if not self.engines:
            return {}
        backend, full = world.backend, world.signals["full"]
        trim = full * 0.0
        if "thrust" in untrimmed:
            trim = trim + world.signals["thrust"] - untrimmed["thrust"]
        out = {}
        for engine in self.engines:
            idle = full * 0.0 + engine.idle
            if engine.high_when is not None and engine.high_idle is not None:
                idle = backend.where(world.flag(engine.high_when), engine.high_idle, idle)
            out[engine.motor] = Idling(idle, trim)
        return out
