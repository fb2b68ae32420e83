# SPDX-License-Identifier: GPL-3.0-or-later
"""A model fitted to another airframe: everything that can be kept is kept, what was let go is
listed, new parts get what they usually do."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

from hypsos.core.base.lookup import first_free
from hypsos.core.conditions import LogicSwitch, conditions_of
from hypsos.core.dependencies.failsafe_defaults import usual_failsafe
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.document.names import named_things
from hypsos.core.document.program import USUAL_LEVEL, Axis, Guard, Setting, Trim, usual_cut
from hypsos.core.edits.detach import free_signal
from hypsos.core.edits.proposals import SLICES, with_proposed
from hypsos.core.edits.relock_time import proposed_relock_s
from hypsos.core.parts.airframe import PITCH_ROLES, STEERED, Airframe, Device, Motor
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.leads import Lead, YLead
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Control
from hypsos.core.recipes import RECIPES, Ground, Recipe
from hypsos.core.wording.words import Part

ARM = Control(
    name="motor_switch", label="Motor switch", kind="switch", hand="left", positions=("cut", "run")
)
RATES = Control(
    name="rates_switch",
    label="Rates switch",
    kind="switch",
    hand="right",
    positions=("low", "mid", "high"),
)
FLAPS = Control(
    name="flap_switch",
    label="Flap switch",
    kind="switch",
    hand="left",
    positions=("up", "half", "landing"),
)
TOW = Control(
    name="tow_button",
    label="Tow button",
    kind="momentary",
    hand="right",
    positions=("closed", "open"),
)
GEAR = Control(
    name="gear_switch", label="Gear switch", kind="switch", hand="right", positions=("up", "down")
)
BRAKES = Control(name="brake_slider", label="Brake slider", kind="slider", hand="left")


@dataclass(frozen=True)
class Adapted:
    """The model on its new airframe, what was added for new parts, and what had to be let go; one
    phrase each."""

    model: Model
    added: tuple[str, ...]
    let_go: tuple[str, ...]


STEERS = {"nose wheel": 40.0, "tail wheel": 70.0}
"""How far wheels steer with the rudder, in percent of their throw: a nose wheel about 12 degrees,
or it swerves."""
RATE_EXPO: dict[str, tuple[tuple[float, float], ...]] = {
    "roll": ((60.0, 20.0), (80.0, 25.0), (100.0, 30.0)),
    "pitch": ((65.0, 20.0), (80.0, 25.0), (100.0, 30.0)),
    "yaw": ((80.0, 20.0), (90.0, 20.0), (100.0, 20.0)),
}
"""Rate and expo in percent at low, mid and high: usual first values, low first."""


def usual_axes(controls: Iterable[Control] = (RATES,)) -> tuple[Axis, ...]:
    """All four sticks, trims on the three flying axes; low, mid and high rates where the rates
    switch is there, else mid."""
    there = any(c.name == RATES.name and len(c.positions) == len(RATES.positions) for c in controls)
    rates = RATES.name if there else None
    out = []
    for command, stick in (
        ("roll", "aileron_stick"),
        ("pitch", "elevator_stick"),
        ("yaw", "rudder_stick"),
    ):
        low, mid, high = (
            Setting(rate_neg=rate, rate_pos=rate, expo=expo) for rate, expo in RATE_EXPO[command]
        )
        # without a switch the middle one is flown
        settings = (low, mid, high) if there else (mid,)
        out.append(
            Axis(command=command, control=stick, switch=rates, settings=settings, trim=Trim())
        )
    return (*out, Axis(command="thrust", control="throttle_stick"))


def fresh_leads(parts: Iterable[Part]) -> tuple[Lead, ...]:
    """A lead for every part, not plugged in, with the proposed failsafe."""
    return tuple(
        Lead(name=part.name, label=part.label, target=part.name, failsafe=usual_failsafe(part))
        for part in parts
    )


def adapted(model: Model, body: Airframe) -> Adapted:
    """Put a model on another airframe."""
    return _Fitting(model, body).run()


class _Fitting:
    """One model on its way to another airframe.

    A part is *gone* when the new airframe has none of its name, *fresh* when the old one had none.
    An old elevator or rudder that is gone has *heirs* where there are fresh ones of its role: what
    it had goes on with them. ``controls`` grow by what a fresh part needs; ``let_go`` and ``added``
    fill as the work goes on, in the order in which a pilot reads them."""

    def __init__(self, model: Model, body: Airframe) -> None:
        self.model, self.body = model, body
        self.old = {p.name: p for p in model.airframe.moved()}
        self.new = {p.name: p for p in body.moved()}
        self.gone = {n for n in self.old if n not in self.new}
        self.fresh = [p for n, p in self.new.items() if n not in self.old]
        self.pitch = tuple(s.name for s in body.with_roles(*PITCH_ROLES))
        self.pitch_gone = {s.name for s in model.airframe.pitching() if s.name in self.gone}
        self.heirs = self._heirs()
        self.let_go: list[str] = []
        self.added: list[str] = []
        self.controls = list(model.transmitter.controls)

    def run(self) -> Adapted:
        program = self.model.program
        leads = self._leads()
        # 1. what is there goes on, on the parts that are left and their heirs
        recipes = []
        for recipe in program.recipes:
            fitted = self._recipe(recipe)
            if fitted is not None:
                recipes.append(fitted)
        self._offer(recipes)
        mixes: list[MixLine] = []
        for mix in program.mixes:
            mixes += self._mix(mix)
        modes = tuple(
            m.changed({"presets": self._presets(m.label, m.presets)}) for m in program.modes
        )
        # 2. fresh parts get what usually moves them
        self._behave(recipes, mixes)
        # 3. the guard comes after them, for they may have brought its switch
        fields: dict[str, Any] = {
            "recipes": tuple(recipes),
            "mixes": tuple(mixes),
            "modes": modes,
        } | self._guarded()
        if not program.axes:
            fields["axes"] = usual_axes(self.controls)
        update: dict[str, Any] = {
            "airframe": self.body,
            "leads": leads,
            "y_leads": self._y_leads(),
            "program": program.changed(fields),
            "transmitter": self.model.transmitter.changed({"controls": tuple(self.controls)}),
        }
        if len(leads) > self.model.receiver.ports:
            ports = min(32, len(leads))
            update["receiver"] = self.model.receiver.changed({"ports": ports})
            self.added.append(f"a receiver with {ports} ports")
        made = self.model.changed(update)
        return Adapted(
            with_proposed(made, *self._news(made)), tuple(self.added), tuple(self.let_go)
        )

    def _guarded(self) -> dict[str, Any]:
        """The guard of the motors that there are then: a new one, the old one without engines that
        have gone, or none."""
        guard = self.model.program.guard
        if self.body.motors and guard is None:
            made = self._guard()
            self.added.append("a motor guard on the motor switch")
            return {"guard": made}
        if guard is None:
            return {}
        if not self.body.motors:
            return self._unguarded()
        engines = tuple(x for x in guard.engines if x.motor in self.new)
        return {"guard": guard.changed({"engines": engines})}

    def _news(self, made: Model) -> Iterator[str]:
        """The steps whose figures are now other ones, and only proposed."""
        before, after = self.model, made
        if after.program.guard != before.program.guard:
            yield "guard"
        if after.program.axes != before.program.axes:
            yield "feel"
        if SLICES["flaps"](after) != SLICES["flaps"](before):
            yield "flaps"
        if self.fresh:
            yield "failsafe"

    def _guard(self) -> Guard:
        """A guard proposed afresh: on a switch called the motor's that nothing else hangs on, else
        on a new one."""
        there = next((c for c in self.controls if c.name == ARM.name), None)
        free = there is None or (there.kind == "switch" and ARM.name not in uses(self.model))
        if free:
            name = self._need(ARM)
        else:
            name = first_free(ARM.name, {c.name for c in self.controls}, "_")
            number = name.rsplit("_", 1)[1]
            self._need(ARM.changed({"name": name, "label": f"{ARM.label} {number}"}))
        control = next(c for c in self.controls if c.name == name)
        relock_s = proposed_relock_s(self.model)
        return Guard(
            level=USUAL_LEVEL, switch=name, cut=usual_cut(control.positions), relock_s=relock_s
        )

    def _unguarded(self) -> dict[str, Any]:
        """Without a motor there is nothing to guard: the guard goes, and what only told of it. What
        counted while the motor was armed counts while there is power."""
        self.let_go.append("the motor guard")
        program, kept = self.model.program, []
        nodes = {x.name: x for x in program.logic}
        for said in program.announcements:
            if _hangs_on_guard(said.when, nodes):
                self.let_go.append(f"announcement {said.caption}")
            else:
                kept.append(said)
        timers = []
        for timer in program.timers:
            counts = asked(timer.when)
            if counts.realm == "guard" and not counts.negated:
                timer = timer.changed({"when": "power"})
            if timer.reset is not None and _hangs_on_guard(timer.reset, nodes):
                timer = timer.changed({"reset": None})
            timers.append(timer)
        return {"guard": None, "announcements": tuple(kept), "timers": tuple(timers)}

    def _heirs(self) -> dict[str, tuple[str, ...]]:
        """Where one elevator or rudder becomes two, or two become one: who goes on with what the
        old one had."""
        out: dict[str, tuple[str, ...]] = {}
        for role in ("elevator", "rudder"):
            old = [n for n, p in self.old.items() if n in self.gone and _role(p) == role]
            new = tuple(p.name for p in self.fresh if _role(p) == role)
            if old and new:
                # the first one hands on what it had; the others had the same, so they hand on
                # nothing, or it would be there twice
                out |= dict.fromkeys(old, ())
                out[old[0]] = new
        return out

    def _leads(self) -> tuple[Lead, ...]:
        kept, served = [], set()
        for lead in self.model.leads:
            heirs = self.heirs.get(lead.target, ())
            if heirs and heirs[0] not in served:
                part = self.new[heirs[0]]
                served.add(part.name)
                kept.append(
                    lead.changed({"name": part.name, "label": part.label, "target": part.name})
                )
                self.added.append(f"lead {lead.label} now serves {part.label.lower()}")
            elif lead.target in self.gone:
                where = f" from port {lead.port}" if lead.port else ""
                self.let_go.append(f"lead {lead.label}{where}")
            else:
                kept.append(lead)
        others = [p for p in self.fresh if p.name not in served]
        self.added += [f"lead {part.label}" for part in others]
        return (*kept, *fresh_leads(others))

    def _y_leads(self) -> tuple[YLead, ...]:
        leads = {lead.name: lead for lead in self.model.leads}
        kept = []
        for y_lead in self.model.y_leads:
            first, second = leads[y_lead.first], leads[y_lead.second]
            if self.gone.isdisjoint({first.target, second.target}):
                kept.append(y_lead)
            else:
                self.let_go.append(f"the Y-lead of {first.label.lower()}")
        return tuple(kept)

    def _recipe(self, recipe: Recipe) -> Recipe | None:
        made = recipe.fitted(self.body, frozenset(self.gone), frozenset(p.name for p in self.fresh))
        if made is None:
            self.let_go.append(f"recipe {recipe.label}")
        elif made is not recipe:
            parts = "motors" if any("motor" in p.roles for p in recipe.parameters) else "surfaces"
            self.added.append(f"{recipe.label} fitted to the {parts} there are")
        return made

    def _offer(self, recipes: list[Recipe]) -> None:
        """Recipes that were made before there was a tail get the elevators that have come since."""
        for i, recipe in enumerate(recipes):
            own = {name for _, name in recipe.parts()}
            for parameter in recipe.of("parts"):
                fitting = (p.name for p in self.fresh if _role(p) in parameter.roles)
                come = tuple(name for name in fitting if name not in own)
                if parameter.later and come and not getattr(recipe, parameter.key):
                    recipes[i] = recipe.changed({parameter.key: come})
                    self.added.append(f"{parameter.label.lower()}, {recipe.label.lower()}")

    def _mix(self, line: MixLine) -> list[MixLine]:
        if line.source in self.gone or line.differential_off in self.gone:
            self.let_go.append(f"mix {line.name}")
            return []
        if line.target not in self.gone:
            return [line]
        if line.target in self.heirs:
            return [line.changed({"target": n}) for n in self.heirs[line.target]]
        # the stick itself reaches the new surfaces by a recipe; what corrects in pitch, as flap to
        # elevator does, goes on with them
        if line.target in self.pitch_gone and line.source != "pitch" and self.pitch:
            if self._twin_goes_on(line):
                return []
            moved = ", ".join(self.new[n].label.lower() for n in self.pitch)
            self.added.append(f"{line.name} now moves {moved}")
            return [line.changed({"target": n}) for n in self.pitch]
        self.let_go.append(f"mix {line.name} on {self.old[line.target].label.lower()}")
        return []

    def _twin_goes_on(self, line: MixLine) -> bool:
        """Whether a line of the same name on the first half of the old elevator goes to the same
        surfaces, so that this one would be there twice."""
        first = min(self.pitch_gone)
        mixes = self.model.program.mixes
        return line.target != first and any(
            m.target == first and m.name == line.name for m in mixes
        )

    def _presets(self, label: str, presets: dict[str, float]) -> dict[str, float]:
        kept = {n: v for n, v in presets.items() if n not in self.gone}
        for n in presets:
            if n in self.heirs:
                kept |= {heir: presets[n] for heir in self.heirs[n]}
            elif n in self.pitch_gone and self.pitch:
                kept |= {p: presets[n] for p in self.pitch}
            elif n in self.gone:
                self.let_go.append(f"preset of {label} for {self.old[n].label.lower()}")
        return kept

    # -- what new parts usually do ---------------------------------------------------------------

    def _need(self, control: Control) -> str:
        if all(c.name != control.name for c in self.controls):
            self.controls.append(control)
            self.added.append(control.label.lower())
        return control.name

    def _put(self, recipes: list[Recipe], made: Recipe) -> None:
        """Add a recipe, or its surfaces to the one of its kind that is there."""
        for i, there in enumerate(recipes):
            if there.kind == made.kind and made.of("parts"):
                recipes[i] = there.joined(made)
                return
        recipes.append(made)
        self.added.append(f"recipe {made.label}")

    def _behave(self, recipes: list[Recipe], mixes: list[MixLine]) -> None:
        """New parts get the recipes that usually move them, and plain lines where no recipe
        does."""

        def signal(wanted: str) -> str:
            taken = {*self.new, *named_things(self.model)}
            taken.update(r.signal for r in recipes if r.signal)
            return free_signal(self.model.program, taken, wanted)

        ground = Ground(
            self.body,
            frozenset(p.name for p in self.fresh),
            lambda: self._need(FLAPS),
            signal,
            brakes=lambda: self._need(BRAKES),
        )
        for kind in RECIPES:
            made = kind.begin(ground) if kind.comes else None
            if made is not None:
                self._put(recipes, made)
        # heirs have the lines of the parts they follow already
        inherited = set(itertools.chain.from_iterable(self.heirs.values()))
        for part in self.fresh:
            if part.name not in inherited:
                mixes += self._lines(part.name, part.label, part)

    def _lines(self, name: str, label: str, part: object) -> list[MixLine]:
        role = _role(part)
        if isinstance(part, Motor):
            return [MixLine(name=f"Throttle, {label.lower()}"[:60], target=name, source="thrust")]
        if isinstance(part, Device):
            if part.kind in STEERED:
                return [MixLine(name=label, target=name, source="yaw", gain=STEERS[part.kind])]
            if part.kind == "tow release":
                return [MixLine(name=label, target=name, source=self._need(TOW), gain=100.0)]
            switch = self._need(GEAR)
            positions = next(c for c in self.controls if c.name == switch).positions
            down_first = positions[:1] == ("down",)
            # doors stand open with the gear down
            with_switch = down_first == (part.kind == "retracts")
            gain = 100.0 if with_switch else -100.0
            return [MixLine(name=label, target=name, source=switch, gain=gain)]
        if role == "elevator":
            return [MixLine(name=label, target=name, source="pitch", gain=-100)]
        if role == "rudder":
            return [MixLine(name=label, target=name, source="yaw")]
        return []


def _role(part: object) -> str:
    """The role of a surface; of anything else nothing."""
    return getattr(part, "role", "")


def _hangs_on_guard(text: str, nodes: dict[str, LogicSwitch], deep: int = 0) -> bool:
    """Whether a condition asks for a state of the guard, itself or by what it is made of."""
    asks = asked(text)
    node = nodes.get(asks.key)
    if node is None or deep > len(nodes):
        return asks.realm == "guard"
    return any(_hangs_on_guard(t, nodes, deep + 1) for t in conditions_of(node))
