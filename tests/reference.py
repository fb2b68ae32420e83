# SPDX-License-Identifier: GPL-3.0-or-later
"""The semantics once more, from the sums on: the guard, outputs, the receiver, servos. Nothing here
comes from the engine."""

from __future__ import annotations

import itertools
from typing import Any

from reference_shapes import clip
from reference_signals import EPS, Signals


class Reference(Signals):
    """A transmitter, a receiver and servos that do what the semantics say, from power-up on."""

    # -- guard -----------------------------------------------------------------------------------

    def idle_fits(self) -> Any:
        for lead in self.m.leads:
            if (
                lead.target in self.motors
                and lead.port is not None
                and abs(self.pulse(lead, -100.0) - lead.idle_us) >= 0.5
            ):
                return False
        return True

    def guard(self) -> Any:
        g = self.p.guard
        self.asked = {m: self.told(m) for m in self.motors}
        if g is None:
            return "armed"
        for x in g.engines:  # the trim is about the idle
            self.asked[x.motor] -= max(0.0, self.thrust_trim())
        run = self.places[g.switch] not in g.cut
        stick = next((a.control for a in self.p.axes if a.command == "thrust"), None)
        low = (stick is None or self.signal(stick) <= g.threshold) and all(
            x <= g.threshold + EPS for x in self.asked.values()
        )
        rested = self.lasting("rest", low, g.rest_s)
        hold = any(self.true(c) for c in g.holds)
        free = low and not hold  # after a hold the rest is counted from its end
        again = (
            self.lasting("again", free, g.rest_s if g.level >= 3 else max(g.rest_s, 0.2))
            if g.holds
            else rested
        )
        woken = self.lasting("woken", free, g.rest_s) if g.holds else rested
        checked = all(
            self.places[c.control] == c.position
            if c.position is not None
            else c.low <= self.raw[c.control] <= c.high
            for c in g.start_check
        )
        fits = self.idle_fits() and not g.unconfirmed
        asked = (
            fits
            and (g.also is None or self.true(g.also))
            and (g.level < 2 or (low if g.level == 2 else rested))
        )
        edge = self.edge("run", run)
        lost = False
        if g.level >= 4:
            back = self.lasting("back", self.link, 0.2)
            loss = self.latched("loss", not self.link, back)
            returned = self.edge("returned", self.link)  # a loss of exactly that time is one
            lost = self.lasting("lost", loss, g.relock_s) and (returned or not self.link)
        s = self.state.setdefault(
            "guard", {"armed": False, "relocked": False, "waiting": False, "ever": False}
        )
        if lost:
            s["relocked"] = True
        elif not run:
            s["relocked"] = False
        free = run and not s["relocked"]
        armed = edge and asked and (checked or s["ever"])
        if hold and (s["armed"] or armed):
            s["waiting"] = True
        s["waiting"] = s["waiting"] and free
        wakes = g.wakes_when_low and g.also is None and fits and woken and (checked or s["ever"])
        goes = armed or (s["waiting"] and fits and again) or wakes
        s["armed"] = (s["armed"] or goes) and free and not hold
        s["waiting"] = s["waiting"] and not s["armed"]
        s["ever"] = s["ever"] or s["armed"]
        return "cut" if not run or hold else "armed" if s["armed"] else "locked"

    # -- outputs ---------------------------------------------------------------------------------

    def bent(self, lead: Any, demand: Any) -> Any:
        """The output curve, straight pieces only; beyond its ends percent for percent."""
        if lead.curve is None:
            return demand
        points = lead.curve.points
        for (x0, y0), (x1, y1) in itertools.pairwise(points):
            if x0 <= demand <= x1:
                return y0 + (y1 - y0) * (demand - x0) / (x1 - x0)
        x, y = points[0] if demand < points[0][0] else points[-1]
        return y + demand - x

    def centred(self, lead: Any, demand: Any) -> Any:
        p = lead.direction * self.bent(lead, demand)
        return lead.centre + p * (lead.travel_neg if p < 0 else lead.travel_pos) / 100

    def pulse(self, lead: Any, demand: Any) -> Any:
        tx = self.m.transmitter
        return tx.centre_us + tx.us_per_percent * clip(
            self.centred(lead, demand), lead.stop_neg, lead.stop_pos
        )

    def output(self, lead: Any) -> Any:
        """The pulse of a lead, 0 where there is none, where its part stands, and whether a stop
        holds it."""
        motor = lead.target in self.motors
        total = self.blended(self.weights, lambda m, v: self.real(lead.target, m, v))
        engines = self.p.guard.engines if self.p.guard is not None else ()
        for x in engines:
            if x.motor == lead.target:
                total = self.idling(x, total)
        demand = clip(total, -100 if motor else -150, 150)
        stopped = motor and not self.armed
        if stopped:
            demand = -100.0
        if lead.slow_up_s or lead.slow_down_s:
            demand = self.slowed(
                ("out", lead.name), demand, lead.slow_up_s, lead.slow_down_s, stopped, -100.0
            )
        us = lead.idle_us if stopped else self.pulse(lead, demand)
        at_stop = not lead.stop_neg <= self.centred(lead, demand) <= lead.stop_pos and not (
            self.power and self.silent
        )
        us, there = self.received(lead, us, motor)
        tx = self.m.transmitter
        if motor:
            stand = self.power_of(lead, us if there else lead.idle_us)
        else:
            if there:
                self.state[("left", lead.name)] = (
                    us  # without a pulse a servo stays where the last one left it
                )
            got = (
                self.state.get(("left", lead.name), tx.centre_us) - tx.centre_us
            ) / tx.us_per_percent
            stand = lead.direction * self.slowed(
                ("servo", lead.name), got, lead.servo_s, lead.servo_s
            )
        if lead.port is None:
            us, stand, there = 0.0, -100.0 if motor else 0.0, False
        ready = self.controller(lead, there and stand <= -100.0 + EPS) if motor else None
        return us if there else 0.0, stand, at_stop, ready

    def thrust_trim(self) -> Any:
        axis = next((a for a in self.p.axes if a.command == "thrust"), None)
        if axis is None or axis.trim is None or axis.trim.scope == "lever":
            return 0.0
        return self.blended(self.weights, lambda m, v: self.trim(axis, m))

    def idling(self, engine: Any, total: Any) -> Any:
        """The stick laid out between the idle with its trim and full power."""
        high = engine.high_when is not None and self.true(engine.high_when)
        low, trim = engine.high_idle if high else engine.idle, self.thrust_trim()
        asked = max(0.0, (total + 100.0) - trim) / 200.0  # of the whole stick
        return 2.0 * (low + asked * (100.0 - low)) - 100.0 + trim

    def controller(self, lead: Any, hears_idle: Any) -> Any:
        """Whether a speed controller lets its motor turn: with a battery, and where it waits after
        a second of idle since."""
        heard = self.lasting(("heard idle", lead.name), self.flight and hears_idle, 1.0)
        if not self.flight:
            self.state[("ready", lead.name)] = False
        elif heard or not lead.waits_for_idle:
            self.state[("ready", lead.name)] = True
        return self.state.get(("ready", lead.name), False)

    def power_of(self, lead: Any, us: Any) -> Any:
        """A motor by its pulse: -100 where its controller is off, 0 in the middle, from there on a
        percent a percent."""
        tx = self.m.transmitter
        idle, pct = lead.idle_us - tx.centre_us, (us - tx.centre_us) / tx.us_per_percent
        above = pct if idle < 0 else -pct
        return above * 100 * tx.us_per_percent / abs(idle) if above < 0 else above

    def received(self, lead: Any, sent: Any, motor: Any) -> Any:
        """The receiver: the last frame it heard since it got power, then the failsafe."""
        rest = lead.idle_us if motor else self.m.transmitter.centre_us
        last, known = self.state.get(("heard", lead.name), (rest, False))
        if self.link:
            last, known = sent, True
        elif not self.power:
            known = False
        self.state[("heard", lead.name)] = (last, known)
        safe = lead.failsafe
        kind = next((d.kind for d in self.m.airframe.devices if d.name == lead.target), "")
        unsaid = (
            ("hold", 0.0)
            if kind in ("tow release", "retracts", "gear doors")
            else ("preset", -100.0 if motor else 0.0)
        )
        action, value = unsaid if safe is None else (safe.action, safe.value)
        acts = self.power and self.silent
        if action == "preset" and acts and (known or self.m.receiver.stored):
            return (lead.idle_us if motor and value <= -100 else self.pulse(lead, value)), True
        return last, self.power and known and not (action == "no pulses" and acts)

    # -- a frame ---------------------------------------------------------------------------------

    def step(
        self,
        controls: Any,
        link: Any = True,
        power: Any = True,
        quality: Any = 100.0,
        flight: Any = True,
    ) -> Any:
        self.t = self.frame * self.dt
        self.places = {n: int(controls.get(n, self.rest[n])) for n in self.switches}
        self.raw = {n: float(controls.get(n, v)) for n, v in self.rest.items()}
        self.raw |= {n: -100 + 200 * self.places[n] / (c - 1) for n, c in self.switches.items()}
        if self.m.receiver.power != "own battery":
            power = flight = power and flight
        self.power, self.link, self.flight = power, power and link, flight
        self.quality = quality if self.link else 0.0
        self.raw["link_quality"], self.raw["full"] = self.quality, 100.0
        self.now, self.sums, self.slows, self.armed = {}, {}, {}, False
        self.circles = getattr(self, "circles", {})
        self.old = getattr(self, "shown", {})
        if not hasattr(self, "late"):
            self.late = self.late_targets()
        logic = {n: self.node(n) for n in self.nodes}
        self.shown = {n: v for n, v in logic.items() if self.nodes[n].kind == "latch"}
        self.mode = next(m for m in self.modes if m not in self.mode_of or self.node(f"mode:{m}"))
        self.weights = self.faded(self.mode)
        self.levers(self.mode)
        self.adjusters(self.mode)
        guard = self.guard()
        self.armed = guard == "armed"
        self.sums, self.slows = (
            {k: v for k, v in self.sums.items() if k[0] not in self.late},
            self.slows,
        )
        self.silent = self.lasting(
            "silent", self.power and not self.link, self.m.receiver.failsafe_after_s
        )
        out = {x.name: self.output(x) for x in self.m.leads}
        for i, line in enumerate(self.lines):
            if self.is_slow(line) and i not in self.slows:
                self.behind_slow(line)
        self.frame += 1
        flags = {
            n: (v > 0 if self.nodes[n].kind == "counter" else v)
            for n, v in logic.items()
            if self.nodes[n].kind != "gate"
        }
        return {"mode": self.mode, "guard": guard, "told": self.asked, "logic": flags, "out": out}

    def late_targets(self) -> Any:
        """Motors with a slow on their lines, and what reads those."""
        late = {x.target for x in self.lines if x.target in self.motors and self.is_slow(x)}
        while True:
            more = {x.target for x in self.lines if {x.source, x.differential_off} & late} - late
            if not more:
                return late
            late |= more
