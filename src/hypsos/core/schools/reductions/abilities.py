# SPDX-License-Identifier: GPL-3.0-or-later
"""What a transmitter is not able to do: wait, remember, fade, multiply, bend smoothly, know its
link."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from itertools import pairwise
from typing import Any

from hypsos.core.base.figure_words import plain
from hypsos.core.conditions.combine import Combine
from hypsos.core.conditions.counter import Counter
from hypsos.core.conditions.delay import Delay
from hypsos.core.conditions.latch import Latch
from hypsos.core.dependencies.evaluation_order import logic_order
from hypsos.core.dependencies.graph import readers
from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.parts.condition_text import asked, opposite
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.lacks import Lack, Step
from hypsos.core.schools.reductions.fixed import Fixed, held_fast
from hypsos.core.schools.reductions.plain_form import fitting_places
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import control_label


def with_program(model: Model, **fields: Any) -> Model:
    """The model with some parts of its program changed."""
    return model.changed({"program": model.program.changed(fields)})


def reaches_motor(model: Model, target: str) -> bool:
    """Whether what is fed there comes to a motor."""
    motors = {m.name for m in model.airframe.motors}
    open_, seen = [target], set[str]()
    while open_:
        name = open_.pop()
        if name in motors:
            return True
        if name in seen:
            continue
        seen.add(name)
        open_ += [x.target for x in model.program.mixes if name in x.signals()]
    return False


# -- the link ----------------------------------------------------------------------------------------


def without_link(model: Model, profile: Profile) -> Step:
    """What goes by the link, on a transmitter that doesn't know of it."""
    if "link" in profile.can:
        return Step(model)
    lacks = []
    read = {name for _, _, reader in readers(model) for _, name in reader.reads()}
    texts = {asked(text).name for _, _, reader in readers(model) for _, text in reader.asks()}
    if texts & {"link", "power"} or "link_quality" in read:
        lacks.append(
            Lack(
                "link",
                "conditions that ask whether the link holds",
                "this transmitter doesn't know",
                "They are as with a good link, always.",
                "The receiver's failsafe still acts.",
            )
        )
        fixed = Fixed(truths={"link": True, "power": True}, values={"link_quality": 100.0})
        model = held_fast(model, fixed)
    guard = model.program.guard
    if guard is not None and guard.level >= 4:
        model = with_program(model, guard=guard.changed({"level": 3}))
        lacks.append(
            Lack(
                "guard",
                f"the motors lock after a link lost for {guard.relock_s:g} s",
                "this transmitter doesn't know of its link",
                "They start again when the link returns.",
                "Switch to cut whenever the link was lost, before you go near the model.",
                motor=True,
            )
        )
    return Step(model, tuple(lacks))


# -- conditions that wait or remember ----------------------------------------------------------------


def without_delays(model: Model, profile: Profile) -> Step:
    """Conditions that wait hold at once; a pulse never comes."""
    if "delays" in profile.can:
        return Step(model)
    lacks, never = [], {}
    logic = []
    for x in model.program.logic:
        if isinstance(x, Delay):
            motor = _behind_motor(model, x.name)
            lacks.append(_delay_lack(model, x, motor))
            if x.kind == "pulse":
                never[x.name] = False
            x = Combine(kind="all", name=x.name, label=x.label, of=(x.of,))
        logic.append(x)
    model = with_program(model, logic=tuple(logic))
    if never:
        model = held_fast(model, Fixed(truths=never))
    guard = model.program.guard
    if guard is not None and guard.level >= 3:
        model, lack = _guard_without_waits(model, guard)
        lacks.append(lack)
    return Step(model, tuple(lacks))


def _delay_lack(model: Model, x: Delay, motor: bool) -> Lack:
    said = phrase(model, x.name)
    instead = (
        "It never holds." if x.kind == "pulse" else "It holds as soon as what it waits for does."
    )
    return Lack("delay", said, "no conditions that wait", instead, motor=motor)


def _behind_motor(model: Model, name: str) -> bool:
    from hypsos.core.dependencies.motor_dependencies import motor_delays

    return name in motor_delays(model)


def _guard_without_waits(model: Model, guard: Guard) -> tuple[Model, Lack]:
    waits = f"the stick rests low for {guard.rest_s:g} s before it arms"
    if guard.level >= 4:
        waits += f", and a link lost for {guard.relock_s:g} s locks"
    lack = Lack(
        "guard",
        waits,
        "no conditions that wait",
        "It arms where the stick is low in the moment of the switch; a lost link locks nothing.",
        "Stick low first, each time; to cut after every loss of the link.",
        motor=True,
    )
    return with_program(model, guard=guard.changed({"level": 2})), lack


def without_memory(model: Model, profile: Profile) -> Step:
    """Conditions that remember hold while what sets them does; nothing is counted."""
    if "memory" in profile.can:
        return Step(model)
    lacks, logic, fixed = [], [], Fixed()
    circles = _in_circles(model)
    for x in model.program.logic:
        if isinstance(x, Latch) and x.name in circles:
            said = phrase(model, x.name)
            lacks.append(Lack("memory", said, "no conditions that remember", "It never holds."))
            fixed.truths[x.name] = False
        elif isinstance(x, Latch):
            same = x.reset == opposite(x.set) and not x.edges
            if not same:
                said = phrase(model, x.name)
                instead = "It holds while what sets it does, and what clears it does not."
                lacks.append(Lack("memory", said, "no conditions that remember", instead))
            of = (x.set,) if same else (x.set, opposite(x.reset))
            x = Combine(kind="all", name=x.name, label=x.label, of=of)
        elif isinstance(x, Counter):
            said = phrase(model, x.name)
            lacks.append(
                Lack("memory", said, "nothing that counts", "It stays at its first place.")
            )
            fixed.truths[x.name] = False
            fixed.positions[x.name] = 0
        logic.append(x)
    model = with_program(model, logic=tuple(logic))
    if fixed.truths:
        model = held_fast(model, fixed)
    return Step(model, tuple(lacks))


def _in_circles(model: Model) -> set[str]:
    """The conditions that hang on each other in a circle."""
    order = logic_order(model)
    found = set()
    for members in order.groups:
        if len(members) > 1 or members[0] in order.deps[members[0]]:
            found.update(members)
    return found


def levels_only(model: Model, _profile: Profile) -> Step:
    """Latches that go by what holds and not by the moment in which it begins."""
    lacks, logic = [], []
    for x in model.program.logic:
        if isinstance(x, Latch) and x.edges:
            lacks.append(
                Lack(
                    "memory",
                    phrase(model, x.name),
                    "latches that go by what holds, not by the moment in which it begins",
                    "It is set and cleared by what holds.",
                )
            )
            x = x.changed({"edges": False})
        logic.append(x)
    return Step(with_program(model, logic=tuple(logic)), tuple(lacks))


# -- movements ---------------------------------------------------------------------------------------


def without_slow(model: Model, profile: Profile) -> Step:
    """Movements that take time happen at once."""
    if "slow" in profile.can:
        return Step(model)
    lacks, mixes = [], []
    for x in model.program.mixes:
        if x.in_s or x.out_s:
            lacks.append(_slow_lack(x.name, max(x.in_s, x.out_s), reaches_motor(model, x.target)))
            x = x.changed({"in_s": 0.0, "out_s": 0.0})
        mixes.append(x)
    leads, motors = [], {m.name for m in model.airframe.motors}
    for lead in model.leads:
        if lead.slow_up_s or lead.slow_down_s:
            longest = max(lead.slow_up_s, lead.slow_down_s)
            lacks.append(_slow_lack(lead.label, longest, lead.target in motors))
            lead = lead.changed({"slow_up_s": 0.0, "slow_down_s": 0.0})
        leads.append(lead)
    made = with_program(model, mixes=tuple(mixes)).changed({"leads": tuple(leads)})
    return Step(made, tuple(lacks))


def _slow_lack(name: str, seconds: float, motor: bool) -> Lack:
    return Lack(
        "slow",
        f"{name}, {seconds:g} s for 100 %",
        "no movement that takes time",
        "It moves at once.",
        "Move the control slowly." if not motor else "Open the throttle slowly.",
        motor=motor,
    )


def without_fades(model: Model, profile: Profile) -> Step:
    """Flight modes change at once."""
    if "fade" in profile.can or not any(m.fade_s for m in model.program.modes):
        return Step(model)
    longest = max(m.fade_s for m in model.program.modes)
    modes = tuple(m.changed({"fade_s": 0.0}) for m in model.program.modes)
    lack = Lack(
        "fade",
        f"fades between flight modes, up to {longest:g} s",
        "none",
        "The mode changes in one jump.",
        "Change modes with little to lose: level, and not near the ground.",
    )
    return Step(with_program(model, modes=modes), (lack,))


def fewer_modes(model: Model, profile: Profile) -> Step:
    """The first modes of the list, and the one that is flown where no other is."""
    modes = model.program.modes
    if len(modes) <= max(1, profile.modes):
        return Step(model)
    kept = max(0, profile.modes - 1)
    gone = modes[kept:-1]
    lacks = tuple(
        Lack(
            "mode",
            f"flight mode {m.label}",
            f"{profile.modes} flight modes",
            f"{modes[-1].label} is flown in its place.",
        )
        for m in gone
    )
    fixed = Fixed(truths={f"mode:{m.name}": False for m in gone})
    return Step(held_fast(model, fixed), lacks)


# -- curves ------------------------------------------------------------------------------------------


def simpler_curves(model: Model, profile: Profile) -> Step:
    """Smooth curves by their points, and no more points than there are."""
    lacks: list[Lack] = []

    def fitted(response: Response | None, name: str, motor: bool) -> Response | None:
        if response is None:
            return None
        made, lack = _fitted(response, profile, name, motor)
        lacks.extend(lack)
        return made

    axes = tuple(
        a.changed(
            {"curve": fitted(a.curve, f"the {a.command} stick's curve", a.command == "thrust")}
        )
        for a in model.program.axes
    )
    mixes = tuple(
        x.changed({"response": fitted(x.response, x.name, reaches_motor(model, x.target))})
        for x in model.program.mixes
    )
    leads = tuple(
        x.changed({"curve": fitted(x.curve, f"{x.label}, its output's curve", False)})
        for x in model.leads
    )
    made = with_program(model, axes=axes, mixes=mixes).changed({"leads": leads})
    seen: dict[tuple[str, str], Lack] = {(x.need, x.instead): x for x in lacks}
    return Step(made, tuple(seen.values()))


def _fitted(
    response: Response, profile: Profile, name: str, motor: bool
) -> tuple[Response, list[Lack]]:
    most = max(2, profile.curve_points)
    round_ = response.shape == "smooth" and "smooth" not in profile.can
    if response.live and "shared" not in profile.can:
        plain = response.changed({"live": (), "live_from": None, "live_odd": False})
        lack = Lack(
            "live curve",
            f"{name}: points that move in flight",
            "curves that stand still",
            "The points stay where they are stored.",
            motor=motor,
        )
        made, more = _fitted(plain, profile, name, motor)
        return made, [lack, *more]
    if not round_ and len(response.points) <= most:
        return response, []
    curve = Curve(response.points, response.shape)
    low, high = response.points[0][0], response.points[-1][0]
    places = {x for x, _ in response.points}
    if response.shape == "smooth":
        step = (high - low) / 60.0
        places |= {round(low + step * i, 1) for i in range(1, 60)}
    found = fitting_places(curve, sorted(places), most)
    points = tuple((x, float(curve(x))) for x in found)
    what = "a round curve" if round_ else f"{len(response.points)} points"
    lack = Lack(
        "curve",
        f"{name}: {what}",
        f"straight pieces, {most} points" if round_ else f"{most} points",
        f"{len(points)} points stand for it.",
        motor=motor,
    )
    return Response(points=points), [lack]


# -- products and shared values ----------------------------------------------------------------------


def without_products(model: Model, profile: Profile) -> Step:
    """Lines that multiply: what fades in with a hand comes on in a jump; the rest is left out."""
    if "product" in profile.can:
        return Step(model)
    lacks: list[Lack] = []
    for line in model.program.mixes:
        if line.combine == "scale":
            step = _without_scale(model, line)
            model, lacks = step.model, [*lacks, *step.lacks]
    mixes = []
    for line in model.program.mixes:
        if line.combine == "replace":
            motor = reaches_motor(model, line.target)
            lacks.append(
                Lack(
                    "product",
                    f"{line.name} takes the place of what comes before it",
                    "lines that add",
                    "It is left out.",
                    motor=motor,
                )
            )
            continue
        mixes.append(line)
    return Step(with_program(model, mixes=tuple(mixes)), tuple(lacks))


def _without_scale(model: Model, line: MixLine) -> Step:
    """A design without one line that multiplies.

    Where it fades its sum in with a stick, a condition takes its place: from the middle of the way
    on. Where it feeds a motor and no condition can, all of that sum goes: what is left of it
    without this line could turn a motor at idle."""
    motor = reaches_motor(model, line.target)
    before = []
    for x in model.program.mixes:
        if x is line:
            break
        if x.target == line.target:
            before.append(x)
    threshold = _half_way(line)
    others = tuple(x for x in model.program.mixes if x is not line)
    if threshold is not None and all(x.when is None or "@" in x.when for x in before):
        return _with_jump(model, line, before, threshold, motor)
    if motor:
        gone = tuple(x for x in others if x.target != line.target and x.source != line.target)
        lack = Lack(
            "product",
            f"{line.name}: a line that multiplies",
            "lines that add",
            "All that feeds this sum is left out with it: the rest alone could turn a motor at idle.",
            motor=True,
        )
        return Step(with_program(model, mixes=gone), (lack,))
    lack = Lack(
        "product", f"{line.name}: a line that multiplies", "lines that add", "It is left out."
    )
    return Step(with_program(model, mixes=others), (lack,))


def _half_way(line: MixLine) -> float | None:
    """The place of its source at which a line that fades something in, from nothing to all, is half
    way; None where it is no such line."""
    if line.response is None or line.gain_from or line.when or line.gain != 100:
        return None
    ys = [y for _, y in line.response.points]
    if ys != sorted(ys) or ys[0] != 0 or ys[-1] != 100 or line.response.live:
        return None
    points = line.response.points
    for (x0, y0), (x1, y1) in pairwise(points):
        if y0 < 50 <= y1:
            return x0 + (50 - y0) / (y1 - y0) * (x1 - x0)
    return None


def _with_jump(
    model: Model, line: MixLine, before: Iterable[MixLine], level: float, motor: bool
) -> Step:
    from hypsos.core.base.lookup import first_free
    from hypsos.core.conditions.compare import Compare

    control = line.source
    axis = model.program.axis(line.source)
    if axis is not None:
        control = axis.control
    taken = {x.name for x in model.program.logic} | {s.name for s in model.program.signals}
    name = first_free("faded_in", taken, "_", longest=36)
    logic = [
        *model.program.logic,
        Compare(kind="above", name=name, label="Past the fade", a=control, x=level),
    ]
    joined: dict[str, str] = {}
    mixes = []
    mine = set(map(id, before))
    for x in model.program.mixes:
        if x is line:
            continue
        if id(x) in mine:
            if x.when is None:
                when = name
            else:
                if x.when not in joined:
                    both = first_free(
                        f"{name}_and", taken | {*joined.values(), name}, "_", longest=36
                    )
                    joined[x.when] = both
                    logic.append(Combine(kind="all", name=both, of=(x.when, name)))
                when = joined[x.when]
            x = x.changed({"when": when})
        mixes.append(x)
    lack = Lack(
        "product",
        f"{line.name}: it fades in with {control_label(model, control)}",
        "lines that add",
        f"It comes on in one jump, half way up the fade: with {control_label(model, control)} above {plain(level)} %.",
        "Leave these lines out altogether, or key in all of them: some of them alone can turn a motor at idle.",
        motor=motor,
    )
    return Step(with_program(model, mixes=tuple(mixes), logic=tuple(logic)), (lack,))


def without_suppression(model: Model, _profile: Profile) -> Step:
    """Differential that brakes suppress, or that a shared value scales, stays as it is stored."""
    lacks, mixes = [], []
    shared = {x.name: x.value for x in model.program.tunables}
    for x in model.program.mixes:
        if x.differential_off is not None:
            what = x.differential_off.replace("_", " ")
            lacks.append(
                Lack(
                    "product",
                    f"{x.name}: its differential goes with the {what}",
                    "a differential that stays",
                    "It stays.",
                )
            )
        if x.differential_from is not None:
            share = min(1.0, max(0.0, shared.get(x.differential_from, 100.0) / 100.0))
            x = x.changed({"differential": x.differential * share, "differential_from": None})
        mixes.append(x.changed({"differential_off": None}))
    seen = {x.need: x for x in lacks}
    return Step(with_program(model, mixes=tuple(mixes)), tuple(seen.values()))


def without_shared(model: Model, profile: Profile) -> Step:
    """Shared values as figures in every line, by flight mode where they differ; nothing moves them
    in flight."""
    if "shared" in profile.can or not model.program.tunables:
        return Step(model)
    lacks = []
    tunables = []
    for x in model.program.tunables:
        if x.adjuster is not None:
            lacks.append(
                Lack(
                    "shared value",
                    f"{x.label}, moved in flight",
                    "figures that stand still in flight",
                    f"It stays at {plain(x.value)} {x.unit}".rstrip()
                    + ", or as it is stored for the mode.",
                )
            )
            x = x.changed({"adjuster": None})
        tunables.append(x)
    values = {x.name: x for x in tunables}
    modes = [m.name for m in model.program.modes]
    mixes: list[MixLine] = []
    for line in model.program.mixes:
        if line.gain_from is None:
            mixes.append(line)
            continue
        shared = values[line.gain_from]
        by_mode = {m: shared.by_mode.get(m, shared.value) for m in modes} or {"": shared.value}
        if len(set(by_mode.values())) == 1:
            share = next(iter(by_mode.values())) / 100.0
            mixes.append(line.changed({"gain": line.gain * share, "gain_from": None}))
        elif line.when is None and not (line.in_s or line.out_s):
            for mode, value in by_mode.items():
                fields = {
                    "gain": line.gain * value / 100.0,
                    "gain_from": None,
                    "when": f"mode:{mode}",
                }
                mixes.append(line.changed(fields))
        else:
            lacks.append(
                Lack(
                    "shared value",
                    f"{line.name}, by flight mode and while {phrase(model, line.when)}",
                    "one condition for a line",
                    f"It is the same in all modes: {plain(shared.value)} %.",
                )
            )
            mixes.append(
                line.changed({"gain": line.gain * shared.value / 100.0, "gain_from": None})
            )
    seen = {x.need: x for x in lacks}
    return Step(
        with_program(model, mixes=tuple(mixes), tunables=tuple(tunables)), tuple(seen.values())
    )


def without_voice(model: Model, profile: Profile) -> Step:
    """Nothing is said; fewer timers."""
    lacks = []
    if "voice" not in profile.can and model.program.announcements:
        lacks.append(
            Lack(
                "voice",
                f"{len(model.program.announcements)} captions",
                "no voice",
                "Nothing is said.",
            )
        )
        model = with_program(model, announcements=())
    timers = model.program.timers
    if len(timers) > profile.timers:
        for timer in timers[profile.timers :]:
            lacks.append(Lack("timer", timer.label, f"{profile.timers} timers", "It is left out."))
        gone = Fixed(truths={f"timer:{t.name}": False for t in timers[profile.timers :]})
        model = held_fast(with_program(model, timers=timers[: profile.timers]), gone)
    return Step(model, tuple(lacks))


Reduction = Callable[[Model, Profile], Step]
