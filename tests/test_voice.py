# SPDX-License-Identifier: GPL-3.0-or-later
"""What is said aloud and what timers show, against a plain reading frame by frame, in both lanes
and in pieces."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from parts import from_parts
from random_models import FRAME, Dice, condition, made, moves

from hypsos.core.base.errors import DocumentError
from hypsos.core.checking.checks import first_problem
from hypsos.core.conditions import Combine, Counter, Gate, Latch
from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.engine.announcements import after_power_off, seconds_of
from hypsos.core.explain.explain_condition import truth_over
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.scenarios.moves_csv import csv_lines, read_moves, trace_columns

RANKS = ("danger", "state", "remark")
FRAMES = 700


def with_voice(model: Model, seed: int) -> Model:
    """The model with announcements and timers that ask for anything, the guard and each other
    included."""
    d = Dice(seed)
    flags = [x.name for x in model.program.logic if not isinstance(x, (Gate, Counter))]
    counters = [x.name for x in model.program.logic if isinstance(x, Counter)]
    modes = [m.name for m in model.program.modes]

    def ask(timers: Any = ()) -> str:
        if d.chance(0.3):
            mark = "!" if d.chance(0.2) else ""
            return mark + d.of(  # type: ignore[no-any-return]
                *(f"guard:{w}" for w in ("cut", "locked", "armed")), *(f"timer:{t}" for t in timers)
            )  # type: ignore[no-any-return]
        return condition(d, flags, modes, counters)

    timers = tuple(
        Timer(
            name=f"clock_{k}",
            label=f"Clock {k}",
            counts=d.of("up", "down"),
            span_s=d.of(3.0, 7.3),
            when=ask([f"clock_{i}" for i in range(k)]),
            reset=ask() if d.chance(0.4) else None,
            moments=d.of((), (2.0,), (0.0, 1.1, 3.0)),
            every_s=d.of(0.0, 1.7),
            last_s=d.whole(0, 3),
        )
        for k in range(3)
    )
    said = tuple(
        Announcement(
            caption=f"Caption, {k}" if k % 2 else f"Word {k}",
            when=ask(["clock_0", "clock_2"]),
            moment=d.of("begins", "ends", "while"),
            every_s=d.of(0.5, 3.0),
            rank=d.of(*RANKS),
        )
        for k in range(5)
    )
    return model.changed(
        {"program": model.program.changed({"timers": timers, "announcements": said})}
    )


class Reading:
    """A plain reading of *Voice and timers*, one frame at a time, from what the engine found of
    everything else."""

    def __init__(self, model: Model, result: Any, controls: Any, link: Any, power: Any) -> None:
        self.model, self.result, self.controls, self.link, self.power = (
            model,
            result,
            controls,
            link,
            power,
        )
        self.before: dict[str, bool] = {}
        self.count = {x.name: 0 for x in model.program.timers}
        self.waiting: list[tuple[int, int, str, int]] = []
        self.free_s, self.number, self.out = -1.0, 0, []  # type: ignore[var-annotated]
        self.since: dict[int, tuple[float, int]] = {}

    def true(self, text: Any, i: Any) -> Any:
        negated, realm, name, position = asked(text)
        if realm == "mode":
            modes = self.model.program.modes
            found = modes[int(np.broadcast_to(self.result.modes, (FRAMES,))[i])].name == name
        elif realm == "guard":
            found = ("cut", "locked", "armed")[
                np.broadcast_to(self.result.guard, (FRAMES,))[i]
            ] == name
        elif realm == "timer":
            timer = next(x for x in self.model.program.timers if x.name == name)
            found = self.count[name] * FRAME >= timer.span_s - 1e-9
        elif name in ("link", "power"):
            found = self.power[i] and (self.link[i] or name == "power")
        elif position is not None:
            found = (self.result.steps[name] if name in self.result.steps else self.controls[name])[
                i
            ] == position
        else:
            found = bool(np.broadcast_to(self.result.logic[name], (FRAMES,))[i])
        return bool(found) != negated

    def edge(self, key: Any, now: Any) -> Any:
        was = self.before.get(key)
        self.before[key] = now
        return now and was is False

    def put(self, rank: Any, caption: Any, turn: Any, once: Any = False) -> None:
        if not (once and any(w[3] == turn for w in self.waiting)):
            self.waiting.append((RANKS.index(rank), self.number, caption, turn))
        self.number += 1

    def step(self, i: Any, t: Any) -> None:
        due = []
        for k, x in enumerate(self.model.program.timers):
            counts = self.before.get(f"{k} counts", False)
            anew = x.reset is not None and self.edge(f"{k} reset", self.true(x.reset, i))
            self.count[x.name] = 0 if anew else self.count[x.name] + counts
            self.before[f"{k} counts"] = self.true(x.when, i)
            if counts and not anew:
                due += [(RANKS.index(r), 5 + k, c, r, False) for c, r in self.calls(x)]
        for k, x in enumerate(self.model.program.announcements):  # type: ignore[assignment]
            holds = self.true(x.when, i)
            if x.moment == "while":  # type: ignore[attr-defined]
                if not holds:
                    self.since.pop(k, None)
                elif k not in self.since:
                    self.since[k] = (t, 0)
                    due.append((RANKS.index(x.rank), k, x.caption, x.rank, True))  # type: ignore[attr-defined]
                elif (times := int((t - self.since[k][0] + 1e-9) / x.every_s)) > self.since[k][1]:
                    self.since[k] = (self.since[k][0], times)
                    due.append((RANKS.index(x.rank), k, x.caption, x.rank, True))  # type: ignore[attr-defined]
            elif self.edge(f"say {k}", holds if x.moment == "begins" else not holds):  # type: ignore[attr-defined]
                due.append((RANKS.index(x.rank), k, x.caption, x.rank, False))  # type: ignore[attr-defined]
        for _, turn, caption, rank, once in sorted(due):
            self.put(rank, caption, turn, once)
        if self.waiting and t >= self.free_s - 1e-9:
            first = min(self.waiting)
            self.waiting.remove(first)
            self.out.append((i, first[2]))
            self.free_s = t + seconds_of(first[2])

    def calls(self, x: Any) -> Any:
        """What is said as a timer reaches its present reading."""
        now, last = self.count[x.name] * FRAME, (self.count[x.name] - 1) * FRAME

        def passes(elapsed: Any) -> Any:
            return elapsed > 0 and last < elapsed - 1e-6 <= now

        for left in range(1, x.last_s + 1):
            if passes(x.span_s - left) and left < x.span_s:
                return [(str(left), "state")]
        shown = [(m, x.span_s - m if x.counts == "down" else m) for m in x.moments]
        at = [m for m, elapsed in shown if passes(elapsed)]
        if not at and x.every_s:
            steps = [x.every_s * k for k in range(0, 60)]
            at = [m for m in steps if passes(x.span_s - m if x.counts == "down" else m)]
        return [self.words(x, m) for m in at]

    def words(self, x: Any, m: Any) -> Any:
        """A reading as it is said, of less than a minute."""
        if x.counts == "down" and not m:
            return f"{x.label}: time is up", "state"
        shown = f"{m:.2f}".rstrip("0").rstrip(".")
        left = " left" if x.counts == "down" else ""
        return f"{x.label}: {shown} second{'' if m == 1 else 's'}{left}", "remark"


@pytest.mark.parametrize("seed", range(40))
def test_what_is_said_is_what_the_semantics_say_whole_in_pieces_and_frame_by_frame(
    seed: int,
) -> None:
    model = with_voice(made(seed), seed)
    if first_problem(model) is not None:
        pytest.skip("a circle through the guard")
    controls, link, power, quality, _ = moves(model, seed, FRAMES)
    plan, t = compile_plan(model), FRAME * np.arange(FRAMES)
    whole = plan.run(Situation(t, controls, link, power, quality))
    reading = Reading(model, whole, controls, link > 0.5, power > 0.5)
    shown: Any = {x.name: [] for x in model.program.timers}
    for i in range(FRAMES):
        reading.step(i, t[i])
        for x in model.program.timers:
            shown[x.name].append(x.reading(reading.count[x.name] * FRAME))
    assert [(s.frame, s.caption) for s in whole.said] == reading.out
    for name, values in shown.items():
        np.testing.assert_allclose(
            np.broadcast_to(whole.timers[name], (FRAMES,)), values, atol=1e-9
        )
    for edges in (range(0, FRAMES + 1, 100), range(FRAMES + 1) if seed % 4 == 0 else ()):
        if not edges:
            continue
        memory, said = None, []
        for a, b in pairwise(edges):
            part = plan.run(Situation(t, controls, link, power, quality).piece(a, b), memory)
            memory = part.memory
            said += [(a + s.frame, s.caption) for s in part.said]
        assert said == reading.out


def voiced(announcements: Any = (), timers: Any = (), **fields: Any) -> Model:
    model = from_parts(motors=True, **fields)
    program = model.program.changed({"announcements": announcements, "timers": timers})
    return model.changed({"program": program})


def test_the_more_urgent_comes_first_and_nothing_is_lost_or_broken_off() -> None:
    at = [("remark", "There it is"), ("state", "Flaps half"), ("danger", "Locked")]
    model = voiced(tuple(Announcement(caption=c, when="switch_b@1", rank=r) for r, c in at))
    rows = "t_s,switch_b\n0,0\n1,1\n9,1\n"
    moves_ = read_moves(rows, model)
    said = compile_plan(model).run(moves_).said
    assert [s.caption for s in said] == ["Locked", "Flaps half", "There it is"]
    starts = [moves_.t_s[s.frame] for s in said]
    assert starts[0] == 1.0
    for (a, b), s in zip(pairwise(starts), said, strict=False):
        assert b - a == pytest.approx(seconds_of(s.caption), abs=FRAME)


def test_a_timer_that_is_kept_goes_on_after_the_transmitter_was_off() -> None:
    timers = tuple(Timer(name=n, when="switch_b@1", keeps=n == "kept") for n in ("kept", "other"))
    model = voiced(timers=timers)
    plan = compile_plan(model)
    first = plan.run(Situation(FRAME * np.arange(101), {"switch_b": 1.0}))
    memory = after_power_off(model, first.memory)
    assert memory is not None and memory.fresh
    again = plan.run(Situation(FRAME * np.arange(51), {"switch_b": 1.0}), memory)
    assert (again.timers["kept"][-1], again.timers["other"][-1]) == pytest.approx((3.0, 1.0))
    assert (
        again.guard.tolist()
        == plan.run(Situation(FRAME * np.arange(51), {"switch_b": 1.0})).guard.tolist()
    )


def test_a_timer_that_clears_its_own_latch_ticks_as_long_as_it_counts() -> None:
    """The two read each other, and are worked out frame by frame."""
    latch = Latch(name="kept", set="switch_b@1", reset="timer:run", edges=False)
    plan = compile_plan(
        voiced(timers=(Timer(name="run", when="kept", span_s=2.0),), logic=(latch,))
    )
    on = np.arange(200) < 10
    for frames, ticks in ((50, True), (200, False)):
        result = plan.run(
            Situation(FRAME * np.arange(frames), {"switch_b": on[:frames].astype(float)})
        )
        assert (result.ticking, bool(result.logic["kept"][-1])) == (ticks, ticks)


def test_neither_the_guard_nor_a_motor_may_go_by_what_comes_after_the_guard() -> None:
    late = Combine(kind="not", name="idle", of=("guard:armed",))
    timer = Timer(name="run", when="guard:armed", span_s=30.0)
    model = voiced(timers=(timer,), logic=(late,))
    assert first_problem(model) is None

    def changed(fields: Any) -> Any:
        return model.changed({"program": model.program.changed(fields)})

    guard = model.program.guard
    for text in ("timer:run", "idle", "!guard:locked"):
        for fields in ({"also": text}, {"holds": (text,)}):
            problem = first_problem(changed({"guard": Guard(**{**dict(guard), **fields})}))
            assert problem is not None and "come after it" in problem.text
        spin = MixLine(name="spin", target="left_motor", source="slider", when=text)
        assert first_problem(changed({"mixes": (*model.program.mixes, spin)})).path.startswith(
            "program.mixes["
        )
        flap = MixLine(name="flap", target="left_flap", source="full", when=text)
        assert first_problem(changed({"mixes": (*model.program.mixes, flap)})) is None


def test_a_surface_may_go_by_the_motors_state() -> None:
    flap = MixLine(name="flap", target="left_flap", source="full", when="!guard:armed")
    model = voiced()
    model = model.changed(
        {"program": model.program.changed({"mixes": (*model.program.mixes, flap)})}
    )
    switch = model.program.guard.switch
    rows = f"t_s,throttle_stick,{switch}\n0,-100,0\n2,-100,1\n4,-100,1\n"
    moves_ = read_moves(rows, model)
    for result in (compile_plan(model).run(moves_),):
        flap_at = result.sums["left_flap"]
        assert flap_at[0] == 100 and flap_at[-1] == 0
        np.testing.assert_array_equal(flap_at == 0, result.guard == 2)


@pytest.mark.parametrize("counts", ["up", "down"])
@pytest.mark.parametrize(
    "text",
    ["timer:run", "!timer:run", "guard:locked", "guard:armed", "switch_b@1", "!link", "power"],
)
def test_what_a_scenario_finds_true_is_when_a_line_with_that_condition_acts(
    counts: Any, text: Any
) -> None:
    flap = MixLine(name="flap", target="left_flap", source="full", when=text)
    model = voiced(timers=(Timer(name="run", when="switch_b@1", span_s=0.5, counts=counts),))
    model = model.changed(
        {"program": model.program.changed({"mixes": (*model.program.mixes, flap)})}
    )
    switch = model.program.guard.switch
    acts = (
        "0,-100,0,1,1,1",
        "0.5,-100,0,0,1,1",
        "1,-100,1,1,1,1",
        "2,50,0,1,1,1",
        "3,50,0,1,0,1",
        "4,-100,0,1,1,0",
        "5,-100,0,1,1,1",
    )
    rows = "\n".join((f"t_s,throttle_stick,switch_b,{switch},link,power", *acts, ""))
    situation = read_moves(rows, model)
    result = compile_plan(model).run(situation)
    held = result.sums["left_flap"] > 50
    assert 0 < held.sum() < held.size
    np.testing.assert_array_equal(truth_over(model, result, situation, text), held)


def test_captions_and_timers_stand_in_the_trace() -> None:
    model = voiced(
        (Announcement(caption='Flaps, "half"', when="switch_b@1"),),
        (Timer(name="flight", when="switch_b@1", span_s=3.0),),
    )
    result = compile_plan(model).run(read_moves("t_s,switch_b\n0,0\n1,1\n2,1\n", model))
    rows = "".join(csv_lines(trace_columns(model, result))).splitlines()
    header = rows[0].split(",")
    assert header[2:5] == ["guard", "say", "flight_s"]
    assert '"Flaps, ""half"""' in rows[51] and sum("Flaps" in r for r in rows) == 1
    assert rows[-1].split(",")[4] == "1"


def test_a_wrong_condition_of_an_announcement_is_named_with_its_place() -> None:
    for text in ("guard:asleep", "timer:none", "nothing"):
        wrong = first_problem(voiced((Announcement(caption="Hello", when=text),)))
        assert wrong is not None and wrong.path == "program.announcements[0].when"
    with pytest.raises(DocumentError):
        Announcement(caption="Hello", when="link").changed({"every_s": 0.1})
    timer = Timer(name="down", counts="down", when="link")
    assert first_problem(voiced(timers=(timer,))).path == "program.timers[0].span_s"
