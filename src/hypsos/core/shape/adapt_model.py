# SPDX-License-Identifier: GPL-3.0-or-later
"""A model fitted to another airframe: everything that can be kept is kept, what was let go is
listed, new parts get what they usually do."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

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
    rates = next(
        (
            c.name
            for c in controls
            if c.name == RATES.name and len(c.positions) == len(RATES.positions)
        ),
        None,
    )
    out = []
    for command, stick in (
        ("roll", "aileron_stick"),
        ("pitch", "elevator_stick"),
        ("yaw", "rudder_stick"),
    ):
        made = tuple(
            Setting(rate_neg=rate, rate_pos=rate, expo=expo) for rate, expo in RATE_EXPO[command]
        )
        settings = made if rates is not None else made[1:2]
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
        recipes = [
            fitted for recipe in program.recipes if (fitted := self._recipe(recipe)) is not None
        ]
        self._offer(recipes)
        mixes = [fitted for mix in program.mixes for fitted in self._mix(mix)]
        modes = tuple(
            m.changed({"presets": self._presets(m.label, m.presets)}) for m in program.modes
        )
        self._behave(recipes, mixes)
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
        if self.body.motors and guard is not None:
            engines = tuple(x for x in guard.engines if x.motor in self.new)
            return {
                "guard": guard if engines == guard.engines else guard.changed({"engines": engines})
            }
        return {} if guard is None else self._unguarded()

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
        taken = set(uses(self.model)) if there is not None else set()
        if there is None or (there.kind == "switch" and ARM.name not in taken):
            name = self._need(ARM)
        else:
            there_already = {c.name for c in self.controls}
            numbered = (f"{ARM.name}_{k}" for k in range(2, 1000))
            name = next(n for n in numbered if n not in there_already)
            self._need(
                ARM.changed({"name": name, "label": f"{ARM.label} {name.rsplit('_', 1)[1]}"})
            )
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
        for said in program.announcements:
            if _hangs_on_guard(said.when, {x.name: x for x in program.logic}):
                self.let_go.append(f"announcement {said.caption}")
            else:
                kept.append(said)
        timers = tuple(
            x.changed({"when": "power"})
            if asked(x.when).realm == "guard" and not asked(x.when).negated
            else x
            for x in program.timers
        )
        nodes = {x.name: x for x in program.logic}
        timers = tuple(
            x.changed({"reset": None})
            if x.reset is not None and _hangs_on_guard(x.reset, nodes)
            else x
            for x in timers
        )
        return {"guard": None, "announcements": tuple(kept), "timers": timers}

    def _heirs(self) -> dict[str, tuple[str, ...]]:
        """Where one elevator or rudder becomes two, or two become one: who goes on with what the
        old one had."""
        out: dict[str, tuple[str, ...]] = {}
        for role in ("elevator", "rudder"):
            old = [
                n for n, p in self.old.items() if n in self.gone and getattr(p, "role", "") == role
            ]
            new = tuple(p.name for p in self.fresh if getattr(p, "role", "") == role)
            if old and new:
                out |= dict.fromkeys(old, ()) | {old[0]: new}
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
        targets = {x.name: x.target for x in self.model.leads}
        kept = tuple(
            y for y in self.model.y_leads if not {targets[y.first], targets[y.second]} & self.gone
        )
        label = {x.name: x.label.lower() for x in self.model.leads}
        self.let_go += [
            f"the Y-lead of {label[y.first]}" for y in self.model.y_leads if y not in kept
        ]
        return kept

    def _recipe(self, recipe: Recipe) -> Recipe | None:
        made = recipe.fitted(self.body, frozenset(self.gone), frozenset(p.name for p in self.fresh))
        if made is None:
            self.let_go.append(f"recipe {recipe.label}")
        elif made is not recipe:
            motors = any("motor" in p.roles for p in recipe.parameters)
            self.added.append(
                f"{recipe.label} fitted to the {'motors' if motors else 'surfaces'} there are"
            )
        return made

    def _offer(self, recipes: list[Recipe]) -> None:
        """Recipes that were made before there was a tail get the elevators that have come since."""
        for i, recipe in enumerate(recipes):
            own = {name for _, name in recipe.parts()}
            for parameter in recipe.of("parts"):
                come = tuple(
                    p.name
                    for p in self.fresh
                    if getattr(p, "role", "") in parameter.roles and p.name not in own
                )
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
        if line.target in self.pitch_gone and line.source != "pitch" and self.pitch:
            first = min(n for n in self.pitch_gone)
            if line.target != first and any(
                m.target == first and m.name == line.name for m in self.model.program.mixes
            ):
                return []  # its twin on the other half goes to the same surfaces
            self.added.append(
                f"{line.name} now moves {', '.join(self.new[n].label.lower() for n in self.pitch)}"
            )
            return [line.changed({"target": n}) for n in self.pitch]
        self.let_go.append(f"mix {line.name} on {self.old[line.target].label.lower()}")
        return []

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
            return free_signal(
                self.model.program,
                {*self.new, *named_things(self.model), *(r.signal for r in recipes if r.signal)},
                wanted,
            )

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
        inherited = {n for heirs in self.heirs.values() for n in heirs}
        for part in self.fresh:
            if part.name not in inherited:
                mixes += self._lines(part.name, part.label, part)

    def _lines(self, name: str, label: str, part: object) -> list[MixLine]:
        role = getattr(part, "role", "")
        if isinstance(part, Motor):
            return [MixLine(name=f"Throttle, {label.lower()}"[:60], target=name, source="thrust")]
        if isinstance(part, Device):
            if part.kind in STEERED:
                return [MixLine(name=label, target=name, source="yaw", gain=STEERS[part.kind])]
            control = self._need(TOW if part.kind == "tow release" else GEAR)
            down_first = next(c for c in self.controls if c.name == control).positions[:1] == (
                "down",
            )
            # doors stand open with the gear down
            with_switch = down_first == (part.kind == "retracts")
            turned = 100.0 if with_switch or part.kind == "tow release" else -100.0
            return [MixLine(name=label, target=name, source=control, gain=turned)]
        if role == "elevator":
            return [MixLine(name=label, target=name, source="pitch", gain=-100)]
        if role == "rudder":
            return [MixLine(name=label, target=name, source="yaw")]
        return []


def _hangs_on_guard(text: str, nodes: dict[str, LogicSwitch], deep: int = 0) -> bool:
    """Whether a condition asks for a state of the guard, itself or by what it is made of."""
    asks = asked(text)
    node = nodes.get(asks.key)
    if node is None or deep > len(nodes):
        return asks.realm == "guard"
    return any(_hangs_on_guard(t, nodes, deep + 1) for t in conditions_of(node))
