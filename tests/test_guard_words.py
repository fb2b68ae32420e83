# SPDX-License-Identifier: GPL-3.0-or-later
"""The guard in words: every change it makes is one of the ways the picture shows, and its cause is
said."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from motors import THROTTLE
from parts import from_parts
from pytestqt.qtbot import QtBot
from random_models import FRAME, made, moves

from hypsos.core.document.paths import with_at
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.explain.guard_ways import ways
from hypsos.core.scenarios.rehearsals import outcomes, rehearsals

S, L, R = GuardState.CUT, GuardState.LOCKED, GuardState.ARMED


def test_every_change_of_a_guard_is_a_way_that_its_picture_shows() -> None:
    seen = set()
    for seed in range(100):
        model = made(seed)
        if model.program.guard is None or not model.airframe.motors:
            continue
        hands = moves(model, seed, 120)
        states = compile_plan(model).run(Situation(FRAME * np.arange(120), *hands)).guard
        shown = {(w.start, w.end) for w in ways(model)}
        took = {(GuardState(a), GuardState(b)) for a, b in pairwise(states) if a != b}
        assert took <= shown, (seed, took - shown)
        seen |= took
    assert {(S, R), (S, L), (R, S), (L, S), (R, L), (L, R)} <= seen


def test_the_ways_of_each_level_in_words() -> None:
    for level, starts, words in (
        (1, {(S, R)}, "Motor to run"), (2, {(S, R), (S, L)}, "Motor to run, the throttle stick and every motor low"),
        (3, {(S, R), (S, L)}, "Motor to run, once the throttle stick and every motor have rested low for 0.5 s"),
        (4, {(S, R), (S, L), (R, L)}, "Motor to run, once the throttle stick and every motor have rested low for 0.5 s"),
    ):  # fmt: skip
        found = ways(with_at(from_parts(mixes=THROTTLE, motors=True), "program.guard.level", level))
        assert {(w.start, w.end) for w in found if w.start is not None} == starts | {(L, S), (R, S)}
        assert next(w.words for w in found if (w.start, w.end) == (S, R)) == words
    assert ways(from_parts()) == ()


@pytest.mark.parametrize(
    ("acts", "cause"),
    [
        ([("motor_switch", 1, 0.1)], (R, "Motor switch to run, all low")),
        ([("throttle_stick", 50, 1), ("motor_switch", 1, 0.1)],
         (L, "Motor switch to run: Motor would be commanded 75 %; bring the throttle stick low")),
        ([("motor_switch", 1, 1), ("motor_switch", 0, 0.1)], (S, "Motor switch to cut")),
        ([("motor_switch", 1, 1), ("link", 0, 3)], (L, "the link is lost for 2.5 s")),
        ([("motor_switch", 1, 1), ("task_switch", 2, 0.5)], (S, "mode Landing")),
        ([("motor_switch", 1, 1), ("throttle_stick", 50, 1), ("task_switch", 2, 0.5), ("task_switch", 0, 0.1)],
         (L, "mode Landing is over; the throttle stick has to rest low first")),
        ([("motor_switch", 1, 1), ("task_switch", 2, 0.5), ("task_switch", 0, 0.02), ("", 0, 2)],
         (R, "the throttle stick has rested low for 0.5 s")),
        ([("motor_switch", 1, 1), ("edit", 0, 0.1)], (L, "an edit that reaches the motor")),
    ],
)  # fmt: skip
def test_what_the_guard_did_last_and_why(qtbot: QtBot, window: Any, acts: Any, cause: Any) -> None:
    from hands import choose

    qtbot.waitUntil(lambda: window.workbench.companions.guard_history is not None)
    choose(window, "Marram")
    bench, log = window.workbench, window.workbench.companions.guard_history
    window.go("guard")
    bench.simulation.advance(1.0)
    for name, value, seconds in acts:
        if name == "link":
            bench.simulation.set_link(bool(value))
        elif name == "edit":
            bench.document.edit("program.guard.rest_s", 0.6, "rest")
        elif name:
            bench.simulation.set_control(name, float(value))
        bench.simulation.advance(seconds)
    change = log.changes[0]
    assert (change.end, change.cause) == cause and len(log.changes) <= 10
    page = window.page("guard")
    assert (
        page.changes.text().splitlines()[0].endswith(f"{cause[1]}.")
        and page.picture.state == cause[0]
    )
    assert (change.start, change.end) in {
        (w.start, w.end) for w in page.picture.ways
    } or "edit" in change.cause
    assert cause[1] in page.picture.accessibleDescription()
    page.picture.grab()


TITLES = (
    "Arm with",
    "Bump",
    "Change the battery",
    "A drop-out of 0.9 s",
    "A drop-out of 1.1 s",
    "Switch left on",
)
LONGER = ("A drop-out of 2.4 s", "A drop-out of 2.6 s")
"""Where a long loss locks."""


@pytest.mark.parametrize(
    ("level", "wakes", "defeats"),
    [
        (1, False, {"Arm with", "Bump", "Change the battery"}), (2, False, {"Bump", "Change the battery"}),
        (3, False, {"Bump", "Change the battery"}), (4, False, {"Bump"}), (4, True, {"Bump", "Switch left on"}),
    ],
)  # fmt: skip
def test_which_rehearsals_defeat_which_level(level: Any, wakes: Any, defeats: Any) -> None:
    model = with_at(from_parts(mixes=THROTTLE, motors=True), "program.guard.level", level)
    model = with_at(
        with_at(model, "program.guard.wakes_when_low", wakes), "program.guard.relock_s", 2.5
    )
    titles = (*TITLES[:-1], *(LONGER if level == 4 else ()), TITLES[-1])
    found = dict(zip(titles, outcomes(model).values(), strict=True))
    assert all(r.title.startswith(t) for t, r in zip(titles, rehearsals(model), strict=True))
    assert {t for t, x in found.items() if x.defeated} == defeats
    for title in titles:
        if (
            "drop-out" in title and "2.6" not in title
        ):  # the failsafe stops it, and it is back with the link
            assert found[title].said[-1] == "the motor runs with 40 % power"
            assert found[title].end == "The motor comes back, as a pilot in the air needs it."
    if level == 4:
        assert (
            "locked" in found[LONGER[1]].said[-1]
            and "stays off until it is armed anew" in found[LONGER[1]].end
        )
    assert found["Change the battery"].said[3] == "nothing has power"
    assert "bring the throttle stick low" in found["Arm with"].said[-1] or level == 1
    assert rehearsals(from_parts()) == () and outcomes(from_parts()) == {}


@pytest.mark.parametrize("name", ["Marram", "Skerry", "Sorrel", "Samphire"])
def test_a_rehearsal_on_the_bench_ends_as_it_was_told(qtbot: QtBot, window: Any, name: Any) -> None:
    from hands import choose

    choose(window, name)
    window.go("guard")
    bench, card = window.workbench, window.page("guard").rehearsals
    now = [bench.simulation.clock()]
    bench.simulation.clock = lambda: now[0]
    qtbot.waitUntil(lambda: bool(card.buttons), timeout=20_000)
    for rehearsal in rehearsals(bench.model):
        card.buttons[rehearsal.title].click()
        card.show_it.click()
        assert bench.simulation.playing and card.told
        while bench.simulation.playing:
            now[0] += 0.5
            bench.simulation.tick()
        told = card.told[-1]
        sends = "the motor runs with" in told or "the lead sends" in told
        assert sends == bench.state.turning, (rehearsal.title, told)
        card.buttons[rehearsal.title].click()
        assert not card.told
