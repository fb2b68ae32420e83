# SPDX-License-Identifier: GPL-3.0-or-later
"""The semantics of signals once more: slow, obvious, a frame at a time, a function a rule. Nothing
here comes from the engine.

A model's own figures are read off its document; recipes are taken by the mixes they make.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import combinations
from typing import Any

from reference_run_out import RunOut
from reference_shapes import clip, expo, response, taken_apart

from hypsos.core.dependencies.motor_dependencies import motor_delays
from hypsos.core.document.document import Model

EPS = 1e-9


class Signals:
    """What a transmitter makes of the hands: conditions, flight modes, commands and sums, from
    power-up on."""

    t: Any
    raw: Any
    old: Any
    circles: Any
    places: Any
    link: Any
    power: Any
    quality: Any
    centred: Any
    sums: Any
    slows: Any
    armed: Any
    weights: Any
    late: Any

    def __init__(self, model: Model) -> None:
        self.m, self.p = model, model.program
        self.dt = self.p.frame_s
        self.modes = [m.name for m in self.p.modes] or ["base"]
        self.mode_of = {m.name: m for m in self.p.modes}
        self.nodes: dict[str, Any] = {x.name: x for x in self.p.logic}
        self.switches = {
            c.name: len(c.positions) for c in model.transmitter.controls if c.positions
        }
        self.motors = {x.name for x in model.airframe.motors}
        self.lines = [
            made.line
            for r in self.p.recipes
            if r.on
            for made in r.expand(model.transmitter.control)
        ]
        self.tunables = {
            x.name: x
            for x in (*self.p.tunables, *(t for r in self.p.recipes for t in r.own_values()))
        }
        self.lines += self.p.mixes
        self.rest = dict.fromkeys(("aileron_stick", "elevator_stick", "rudder_stick"), 0.0) | {
            "throttle_stick": -100.0
        }
        self.rest |= {c.name: 0.0 for c in model.transmitter.controls}
        if model.program.guard is not None and model.program.guard.switch in self.rest:
            self.rest[model.program.guard.switch] = float(min(model.program.guard.cut))
        for a in self.p.axes:
            if a.command == "thrust" and a.control not in self.switches:
                self.rest[a.control] = -100.0
            if a.trim is not None:
                self.rest[f"{a.command}_trim"] = clip(
                    a.trim.clicks * a.trim.step, -a.trim.range, a.trim.range
                )
        self.state: dict[Any, Any] = {}
        self.frame = 0

    # -- remembering -----------------------------------------------------------------------------

    def edge(self, key: Any, x: Any) -> Any:
        before = self.state.get(("edge", key))
        self.state[("edge", key)] = x
        return x and before is False

    def since(self, key: Any, x: Any) -> Any:
        """How long it has been true without a break, None while it is not."""
        start = self.state.get(("since", key)) if x else None
        if x and start is None:
            start = self.t
        self.state[("since", key)] = start
        return self.t - start if x else None

    def lasting(self, key: Any, x: Any, seconds: Any) -> Any:
        for_s = self.since(key, x)
        return x and for_s >= seconds - EPS

    def latched(self, key: Any, on: Any, off: Any) -> Any:
        now = (self.state.get(("latch", key), False) or on) and not off
        self.state[("latch", key)] = now
        return now

    def slowed(
        self, key: Any, x: Any, up: Any, down: Any, stopped: Any = False, idle: Any = 0.0
    ) -> Any:
        last = self.state.get(("slow", key))
        y = x
        if last is not None:
            if up and x > last:
                y = min(x, last + 100 * self.dt / up)
            if down and x < last:
                y = max(x, last - 100 * self.dt / down)
        self.state[("slow", key)] = y = idle if stopped else y
        return y

    # -- logic -----------------------------------------------------------------------------------

    def reads(self, name: Any) -> Any:
        """The names that a logical switch, a gate or a mode (``mode:x``) hangs on."""
        if name.startswith("mode:"):
            mine = name[5:]
            at = self.modes.index(mine)
            texts = (
                []
                if mine not in self.mode_of or self.mode_of[mine].when is None
                else [self.mode_of[mine].when]
            )
            out = [f"mode:{self.modes[at - 1]}"] if at else []
        else:
            x = self.nodes[name]
            out = [
                n
                for n in (getattr(x, "a", None), getattr(x, "b", None), getattr(x, "source", None))
                if n
            ]
            texts = {"latch": lambda: [x.set, x.reset], "gate": lambda: [x.when]}.get(  # type: ignore[no-untyped-call]
                x.kind, lambda: getattr(x, "of", [])
            )()
            texts = [texts] if isinstance(texts, str) else list(texts)
        for text in texts:
            _, kind, inner, _ = taken_apart(text)
            out.append(f"mode:{inner}" if kind == "mode" else inner)
        return [n for n in out if n in self.nodes or n.startswith("mode:")]

    def reaches(self, a: Any, b: Any, seen: Any = ()) -> Any:
        return any(
            n == b or (n not in seen and self.reaches(n, b, (*seen, n))) for n in self.reads(a)
        )

    def node(self, name: Any, asker: Any = None) -> Any:
        """A logical switch's truth (a gate's value, a counter's place) in this frame. A latch in a
        circle with the asker is seen as it was one frame ago."""
        latch = name in self.nodes and self.nodes[name].kind == "latch"
        if latch and asker is not None and self.circle(name, asker):
            return self.old.get(name, False)
        if name not in self.now:
            self.now[name] = (
                self.mode_on(name[5:])
                if name.startswith("mode:")
                else self.evaluated(self.nodes[name])
            )
        return self.now[name]

    def circle(self, a: Any, b: Any) -> Any:
        key = (a, b)
        if key not in self.circles:
            self.circles[key] = self.reaches(a, b) and self.reaches(b, a)
        return self.circles[key]

    def mode_on(self, name: Any) -> Any:
        at = self.modes.index(name)
        if any(self.node(f"mode:{m}", f"mode:{name}") for m in self.modes[:at]):
            return False
        when = self.mode_of[name].when if name in self.mode_of else None
        return when is None or self.true(when, asker=f"mode:{name}")

    def true(self, text: Any, view: Any = None, asker: Any = None) -> Any:
        negated, kind, name, place = taken_apart(text)
        if kind == "mode":
            found = (name == view) if view is not None else self.node(f"mode:{name}", asker)
        elif kind == "place":
            found = (self.places[name] if name in self.places else self.node(name, asker)) == place
        elif name in ("link", "power"):
            found = self.link if name == "link" else self.power
        else:
            found = self.node(name, asker)
            found = found > 0 if self.nodes[name].kind == "counter" else found
        return bool(found) != negated

    def signal(self, name: Any, view: Any = None, asker: Any = None) -> Any:
        if name in self.nodes:
            x = self.nodes[name]
            if view is None:
                return self.node(name, asker)
            return self.signal(x.source, view) if self.true(x.when, view) else x.parked
        return self.raw[name]

    def evaluated(self, x: Any) -> Any:
        ask = {"asker": x.name}
        if x.kind in ("above", "below", "beyond", "within", "difference"):
            a, h = self.signal(x.a, **ask), x.hysteresis
            if x.kind == "within":
                inside, outside = x.x <= a <= x.y, a < x.x - h or a > x.y + h
                return self.latched(x.name, inside, outside) if h else inside
            a = {
                "above": lambda: a,
                "below": lambda: -a,
                "beyond": lambda: abs(a),
                "difference": lambda: a - self.signal(x.b, **ask),
            }[x.kind]()
            bound = -x.x if x.kind == "below" else x.x
            return self.latched(x.name, a > bound, a <= bound - h) if h else a > bound
        if x.kind == "gate":
            return self.signal(x.source, **ask) if self.true(x.when, **ask) else x.parked
        if x.kind in ("all", "any", "one", "not"):
            of = [self.true(c, **ask) for c in x.of]
            return {"all": all(of), "any": any(of), "one": sum(of) == 1, "not": not of[0]}[x.kind]
        if x.kind == "latch":
            on, off = self.true(x.set, **ask), self.true(x.reset, **ask)
            if x.edges:
                on, off = self.edge((x.name, 1), on), self.edge((x.name, 0), off)
            return self.latched(x.name, on, off)
        of = self.true(x.of, **ask)
        if x.kind == "counter":
            self.state[x.name] = place = (
                self.state.get(x.name, 0) + self.edge(x.name, of)
            ) % x.count
            return place
        if x.kind == "on_delay":
            return self.lasting(x.name, of, x.seconds)
        if x.kind == "pulse":
            if self.edge(x.name, of):
                self.state[x.name] = self.t
            start = self.state.get(x.name)
            return start is not None and self.t - start < x.seconds - EPS
        was, fell = self.state.get(x.name, (False, None))  # off_delay
        fell = self.t if of or was else fell
        self.state[x.name] = (of, fell)
        return of or (fell is not None and self.t - fell < x.seconds - EPS)

    # -- modes, shared values, axes --------------------------------------------------------------

    def faded(self, mode: Any) -> Any:
        """Every mode's share in this frame."""
        whole = {m: float(m == mode) for m in self.modes}
        if not any(m.fade_s for m in self.p.modes):
            return whole
        target, since, start, now = self.state.get("fade", (mode, -math.inf, whole, whole))
        if mode != target:
            target, since, start = mode, self.t, now
        length = self.mode_of[mode].fade_s
        share = clip((self.t - since) / length, 0, 1) if length else 1.0
        now = {m: start[m] + (whole[m] - start[m]) * share for m in self.modes}
        self.state["fade"] = (target, since, start, now)
        return now

    def shared(self, name: Any, mode: Any, view: Any) -> Any:
        x, a = self.tunables[name], self.tunables[name].adjuster
        value = x.by_mode.get(mode, x.value)
        if a is not None and (not a.modes or mode in a.modes):
            acts = a.when is None or self.true(a.when, view)
            if a.kind == "step":
                if a.keep or a.when is None:
                    value += self.state[("steps", name)]
                elif acts:
                    value += self.state.get(("acting", name), 0.0)
            else:
                now = (
                    self.live(x, a) if acts else self.state.get(("left", name)) if a.keep else None
                )
                if now is not None:
                    value = now if a.kind == "set" else value + now
        return clip(value, x.low, x.high)

    def live(self, x: Any, a: Any) -> Any:
        ranges = {
            f"{axis.command}_trim": axis.trim.range for axis in self.p.axes if axis.trim is not None
        }
        raw = self.raw[a.control] * 100 / ranges.get(a.control, 100)
        return (
            x.low + (raw + 100) / 200 * (x.high - x.low)
            if a.kind == "set"
            else a.amount * raw / 100
        )

    def adjusters(self, mode: Any) -> None:
        """What adjusters remember: steps made, the last value while they acted."""
        for name, x in self.tunables.items():
            a = x.adjuster
            if a is None:
                continue
            active = a.when is None or self.true(a.when)
            if a.kind != "step":
                key = ("kept", name)
                self.state[key] = self.live(x, a) if active else self.state.get(key)
                if not active:
                    self.state[("left", name)] = self.state[key]
                continue
            n, stored = self.state.get(("steps", name), 0.0), x.by_mode.get(mode, x.value)
            up = a.up is not None and self.edge((name, "up"), self.true(a.up)) and active
            down = a.down is not None and self.edge((name, "down"), self.true(a.down)) and active
            n = 0.0 if not active and not a.keep else n
            if up != down:
                n = clip(stored + n + (a.amount if up else -a.amount), x.low, x.high) - stored
            self.state[("steps", name)] = n
            if active:
                self.state[("acting", name)] = n

    def curved(self, r: Any, x: Any, mode: Any, view: Any) -> Any:
        """A response, with the points that move in flight where they are."""
        points = r.points
        if r.live_from is not None:
            by = self.shared(r.live_from, mode, view)
            points = tuple(
                (px, clip(py + (-by if r.live_odd and px < 0 else by), -150, 150))
                if i in r.live
                else (px, py)
                for i, (px, py) in enumerate(points)
            )
        return response(points, r.shape, x)

    def levers(self, mode: Any) -> None:
        """A trim lever moves the trim of the mode flown."""
        for a in self.p.axes:
            if a.trim is not None and a.trim.scope not in ("common", "lever"):
                key, name = ("lever", a.command), f"{a.command}_trim"
                last = self.state.get(key, self.rest[name])
                moved = self.state.setdefault(("moved", a.command), dict.fromkeys(self.modes, 0.0))
                moved[mode] += self.raw[name] - last
                self.state[key] = self.raw[name]

    def trim(self, a: Any, mode: Any) -> Any:
        r, lever = a.trim.range, self.raw[f"{a.command}_trim"]
        if a.trim.scope == "common":
            return clip(lever, -r, r)
        moved, common = self.state[("moved", a.command)][mode], self.rest[f"{a.command}_trim"]
        own = a.trim.by_mode.get(mode)
        own = None if own is None else clip(own * a.trim.step, -r, r)
        if a.trim.scope == "offset":
            return clip(common + clip((own or 0.0) + moved, -r, r), -r, r)
        return clip((common if own is None else own) + moved, -r, r)

    def command(self, a: Any, mode: Any, view: Any, with_trim: Any) -> Any:
        x = self.signal(a.control, view) * (-1 if a.command == "pitch" else 1)
        if a.curve is not None:
            x = self.curved(a.curve, x, mode, view)
        place = self.places[a.switch] if a.switch else 0
        s = a.settings[place] if place < len(a.settings) else None
        neg, pos, k = (100, 100, 0) if s is None else (s.rate_neg, s.rate_pos, s.expo)
        if s is not None and s.from_when is not None and not self.true(s.from_when, view):
            s = s.changed({"rate_from": None, "expo_from": None})
        if s is not None and s.rate_from:
            neg = pos = clip(self.shared(s.rate_from, mode, view), 0, 150)
        if s is not None and s.expo_from:
            k = clip(self.shared(s.expo_from, mode, view), -100, 100)
        e = 100 * expo(clip(x, -100, 100) / 100, k)
        y = (
            pos / 100 * (e + 100) - 100
            if a.command == "thrust"
            else (neg if e < 0 else pos) / 100 * e
        )
        return y + (
            self.trim(a, mode)
            if with_trim and a.trim is not None and a.trim.scope != "lever"
            else 0.0
        )

    # -- sums ------------------------------------------------------------------------------------

    def source(self, name: Any, mode: Any, view: Any, with_trim: Any, sums: Any) -> Any:
        """A line's source as one mode sees it. ``sums`` gives other targets' sums."""
        if name == "full":
            return 100.0
        if name == "link_quality":
            return self.quality
        for a in self.p.axes:
            if a.command == name:
                return self.command(a, mode, view, with_trim)
        if name in self.raw or name in self.nodes:
            return self.signal(name, view)
        return sums(name)

    def shape(self, line: Any, mode: Any, view: Any, sums: Any) -> Any:
        """Before gain and slow."""
        if line.when is not None and not self.true(line.when, view):
            return 0.0
        x = self.source(line.source, mode, view, line.with_trim, sums)
        if line.response is not None:
            x = self.curved(line.response, x, mode, view)
        return x + 100 if line.target in self.motors and line.source == "thrust" else x

    def gained(self, line: Any, x: Any, mode: Any, view: Any, sums: Any) -> Any:
        value = line.gain / 100 * x
        if line.gain_from is not None:
            value *= self.shared(line.gain_from, mode, view) / 100
        d = line.differential
        if d and (value > 0) == (d > 0) and value != 0:
            off = line.differential_off
            left = 1 - clip(self.source(off, mode, view, True, sums), 0, 100) / 100 if off else 1.0
            if line.differential_from is not None:
                d = clip(abs(d) * self.shared(line.differential_from, mode, view) / 100, 0, 100)
            value *= 1 - abs(d) / 100 * left
        return value

    def total(self, target: Any, mode: Any, view: Any, sums: Any, moved: Any) -> Any:
        """A target's sum in one mode with that mode's preset; ``moved(line)`` is a line's response
        behind its slow."""
        out, angle = 0.0, 0.0
        for line in self.lines:
            if line.target != target:
                continue
            active = line.when is None or self.true(line.when, view)
            value = self.gained(line, moved(line), mode, view, sums)
            if line.combine == "scale":
                if active:
                    out, angle = out * value / 100, angle * value / 100
                continue
            if line.combine == "replace" and active:
                out = angle = 0.0
            if active or line.combine == "add":
                out, angle = (out, angle + value) if line.by_angle else (out + value, angle)
        out += self.turned(target, angle)
        idle = -100.0 if target in self.motors else 0.0
        return (
            out
            + idle
            + (self.mode_of[mode].presets.get(target, 0.0) if mode in self.mode_of else 0.0)
        )

    def turned(self, target: Any, angle: Any) -> Any:
        """The percent at which a surface stands at an angle, straight to its throws; linkages are
        tested elsewhere."""
        if angle == 0.0:
            return 0.0
        surface = next(s for s in self.m.airframe.surfaces if s.name == target)
        lead = next(x for x in self.m.leads if x.target == target)

        def at(demand: Any) -> Any:
            stand = lead.direction * self.centred(lead, demand)
            return stand / 100 * (surface.throw_up_deg if stand < 0 else surface.throw_down_deg)

        low, high = -150.0, 150.0
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (middle, high) if at(middle) - at(0.0) < angle else (low, middle)
        return (low + high) / 2

    def is_slow(self, line: Any) -> Any:
        return bool(line.in_s or line.out_s)

    def blended(self, weights: Any, of: Any) -> Any:
        """Something in every mode with a share, crossed. With a single one there is no fade, and
        conditions are plain."""
        mine = {m: w for m, w in weights.items() if w}
        if list(mine) == [self.mode]:
            return of(self.mode, None)
        return sum(w * of(m, m) for m, w in mine.items())

    def real(self, target: Any, mode: Any, view: Any) -> Any:
        """A target's sum in one mode, behind the slows of its lines."""
        key = (target, mode, view)
        if key not in self.sums:
            self.sums[key] = self.total(
                target,
                mode,
                view,
                lambda n: self.real(n, mode, view),
                lambda line: (
                    self.behind_slow(line)
                    if self.is_slow(line)
                    else self.shape(line, mode, view, lambda n: self.real(n, mode, view))
                ),
            )
        return self.sums[key]

    def behind_slow(self, line: Any) -> Any:
        key = next(i for i, x in enumerate(self.lines) if x is line)
        if key not in self.slows:
            stopped = line.target in self.motors and not self.armed
            x = self.aim(line)
            self.slows[key] = self.slowed(("line", key), x, line.in_s, line.out_s, stopped, 0.0)
        return self.slows[key]

    def aim(self, line: Any) -> Any:
        """Where a slow line is going: the blend of the modes."""
        return self.blended(
            self.weights, lambda m, v: self.shape(line, m, v, lambda n: self.real(n, m, v))
        )

    def told(self, motor: Any) -> Any:
        """What a motor would be told: with its own slows at their end, and where they begin; and
        with every slow and the fade at its end."""

        def now(target: Any, mode: Any, view: Any, held: Any) -> Any:
            def read(n: Any) -> Any:
                return now(n, mode, view, held) if n in self.late else self.real(n, mode, view)

            def moved(line: Any) -> Any:
                if held and target in self.motors and self.is_slow(line):
                    return 0.0
                if not self.is_slow(line):
                    return self.shape(line, mode, view, read)
                return self.blended(
                    self.weights,
                    lambda m, v: self.shape(
                        line,
                        m,
                        v,
                        lambda n: now(n, m, v, held) if n in self.late else self.real(n, m, v),
                    ),
                )

            return self.total(target, mode, view, read, moved)

        def end(target: Any) -> Any:
            return self.total(
                target, self.mode, None, end, lambda line: self.shape(line, self.mode, None, end)
            )

        if motor in self.late:
            here = max(
                self.blended(self.weights, lambda m, v, h=h: now(motor, m, v, h))
                for h in (False, True)
            )
        else:
            here = self.blended(self.weights, lambda m, v: self.real(motor, m, v))
        return max([here, end(motor), *self.told_later(motor)])

    # -- once delays have run out ----------------------------------------------------------------

    def told_later(self, motor: Any) -> Iterator[Any]:
        """What a motor would be told with the hands as they stand once some delays have run out,
        slows and fades at their end, a motor's own slows also where they begin."""
        pending = [n for n in motor_delays(self.m) if self.on_its_way(self.nodes[n])]
        names = motor_delays(self.m) if pending else ()
        few = [set(x) for k in range(1, len(names) + 1) for x in combinations(names, k)]
        many = [set(names), *({n} for n in names), *(set(names) - {n} for n in names)]
        real, mode = self.now, self.mode  # type: ignore[has-type]
        for ended in few if len(names) <= 3 else many:
            self.now = RunOut(self, ended).all()
            self.mode = next(
                m for m in self.modes if m not in self.mode_of or self.now[f"mode:{m}"]
            )

            def end(target: Any) -> Any:
                return self.total(
                    target,
                    self.mode,
                    None,
                    end,
                    lambda line: self.shape(line, self.mode, None, end),
                )

            def begin(line: Any) -> Any:
                held = self.is_slow(line) and line.target in self.motors
                return 0.0 if held else self.shape(line, self.mode, None, end)

            found = [end(motor), self.total(motor, self.mode, None, end, begin)]
            self.now, self.mode = real, mode
            yield from found

    def on_its_way(self, x: Any) -> Any:
        given, out = self.true(x.of), self.node(x.name)
        return {"pulse": out, "on_delay": given and not out, "off_delay": out and not given}[x.kind]
