# SPDX-License-Identifier: GPL-3.0-or-later
"""The search for what goes wrong: what it must find, what it may never call clean, and the shortest
way to it."""

from __future__ import annotations

import itertools
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from chance import ASKED, broken_by, clean, walk
from click.testing import CliRunner
from faulty import Faulty, changes, demo_model, faulty_cases
from parts import from_parts
from random_models import Dice, made
from random_models import tried as tried_model
from recorded import entry_as_it_is
from said_of import found_lines

from hypsos.cli import cli
from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.checks import first_problem
from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.engine import GuardState, Situation, compile_plan
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.review.compare_models import compared
from hypsos.core.review.findings import Ask, FindingMove
from hypsos.core.review.repairs import changes_words, repairs, tried
from hypsos.core.review.report import as_json, as_text, proof_lines
from hypsos.core.review.rules import STATEMENTS, motor_search
from hypsos.core.review.search.input_grid import grid_of
from hypsos.core.review.search.model_slice import slice_of
from hypsos.core.review.search.motor_search import MotorSearch
from hypsos.core.review.search.replay import Replay, brought, caption, captions, proved, way_words
from hypsos.core.review.search.state_search import SearchStep, StateSearch
from hypsos.core.review.search_words import NOTHING_PLUGGED
from hypsos.core.review.shakedown import ShakedownSearch, estimate, foreseen_words, shake
from hypsos.core.shape.templates import TEMPLATES

CASES = faulty_cases()
DEMOS = ("marram", "samphire", "sandpiper", "skerry", "sorrel", "tidewrack", "whinlark")


@pytest.mark.parametrize("case", CASES, ids=lambda c: f"{c.model}-{c.finds[0][0]}")
def test_every_planted_fault_is_found_with_its_part(case: Faulty, unhurried: Any) -> None:
    ask = case.ask()
    found = shake(
        ask, {s for s, _ in case.finds} | {"M3", "F1"} & set(case.patch.get("besides", ()))
    )
    for (statement, part), says in zip(case.finds, case.says, strict=True):
        mine = [f for f in found.findings if f.statement == statement and part in ("*", f.part)]
        assert mine, (statement, part, [(f.statement, f.part) for f in found.findings])
        assert all(f.confirmed for f in mine)
        mends = {r.words: changes(ask.model, r.model) for r in repairs(ask.model, mine[0])}
        told = {
            "level": mine[0].level,
            "text": mine[0].text,
            "way": list(mine[0].captions),
            "mends": mends,
        }
        told |= {"also": list(mine[0].also)} if mine[0].also else {}
        assert told == says
    entry_as_it_is(
        "ways.json",
        f"{CASES.index(case):02d} {case.model} {case.finds[0][0]}",
        list(found_lines(found)),
    )
    assert all(len(f.moves) == len(f.captions) for f in found.findings)


@pytest.mark.parametrize(
    ("steps", "kept"),
    [
        # a switch that went through its positions and came back is left out whole, a battery that
        # came first stays
        ("flap_switch=1 flap_switch=2 flap_switch=1 flap_switch=0 motor_switch=1 throttle_stick=100",
         "motor_switch=1 throttle_stick=100"),
        # where a trim lever stood before its last click belongs to that click
        ("rates_switch=1 motor_switch=1 throttle_stick=100 roll_trim=20 roll_trim=21",
         "motor_switch=1 throttle_stick=100 roll_trim=20 roll_trim=21"),
        # any other control goes where it goes at once
        ("rates_switch=1 motor_switch=1 throttle_stick=60 throttle_stick=100", "motor_switch=1 throttle_stick=100"),
    ],
)  # fmt: skip
def test_a_way_is_told_without_what_changes_nothing(steps: Any, kept: Any) -> None:
    model = demo_model("samphire")
    acts = [SearchStep(name, float(to)) for name, to in (x.split("=") for x in steps.split())]
    ends = {
        "motor_switch": 1.0,
        "throttle_stick": 100.0,
        "flap_switch": 0.0,
        acts[-1].control: acts[-1].to,
    }

    def check(played: Any) -> Any:
        return all(played.at(name, -1) == to for name, to in ends.items())

    proof = proved(Replay(model), [SearchStep("", 0.0), *acts], check)
    assert proof.confirmed and " ".join(f"{m.control}={m.to:g}" for m in proof.moves) == kept


def test_there_is_a_fault_for_every_statement() -> None:
    named = {text.split(":")[0] for c in CASES for says in c.says for text in says.get("also", ())}
    assert {
        s for c in CASES for s, _ in c.finds
    } | named & STATEMENTS.keys() == STATEMENTS.keys() and len(CASES) >= 60


@pytest.mark.parametrize("name", DEMOS)
def test_the_demo_is_without_danger_or_fault_and_says_why_not_asked(name: Any) -> None:
    model = demo_model(name)
    found = shake(Ask(model))
    assert not found.of_level("danger") and not found.of_level("fault")
    assert all(found.reasons.values()) and set(found.reasons) == set(model.not_asked)
    assert {s.statement for s in found.searched} == STATEMENTS.keys() - found.reasons.keys()
    assert (
        shake(Ask(model)).findings == found.findings
    )  # the same document, the same findings, in the same order


def test_a_sequence_is_a_set_of_moves_that_a_trace_plays(tmp_path: Path) -> None:
    model = CASES[11].ask().model  # a motor that a flap switch raises
    path = tmp_path / "idle up.json"
    path.write_text(model.model_dump_json(), encoding="utf-8")
    run = CliRunner().invoke(cli, ["shakedown", str(path), "--only", "M2", "--json"], obj=False)
    found = json.loads(run.output)["findings"]
    assert run.exit_code == 1 and found[0]["level"] == "danger" and found[0]["confirmed"]
    moves = found[0]["sequence"]
    names = list(dict.fromkeys(m["set"] for m in moves))
    rows = ["t_s," + ",".join(names), "0" + "," * len(names)]
    rows += [
        f"{m['t_s']}," + ",".join(str(m["to"]) if n == m["set"] else "" for n in names)
        for m in moves
    ]
    rows += [f"{found[0]['length_s']}" + "," * len(names)]
    (tmp_path / "moves.csv").write_text("\n".join(rows), encoding="utf-8")
    trace = CliRunner().invoke(
        cli, ["trace", str(path), "--moves", str(tmp_path / "moves.csv")], obj=False
    )
    head, *body = [line.split(",") for line in trace.output.splitlines()]
    us = [float(r[head.index("motor_us")]) for r in body]
    assert us[0] == 1000 and us[-1] > 1025


@pytest.mark.parametrize(
    ("index", "statement"), [(7, "M3"), (11, "M2"), (5, "M6"), (12, "M2"), (6, "M1")]
)
def test_no_shorter_way_leads_there(index: Any, statement: Any) -> None:
    """Every sequence of fewer acts, the power coming on anywhere among them, played in real
    time."""
    model = CASES[index].ask().model
    search = motor_search(model, 1_000_000, lambda: False).run()
    finding = min(
        (f for f in search.findings() if f.statement == statement), key=lambda f: len(f.moves)
    )
    check = next(rule for rule in search.rules if rule.code == statement).check(0, later=False)
    assert check(search.stage.play(finding.moves, finding.length_s))
    for length in range(len(finding.moves)):
        assert not any(
            check(search.stage.play(m, 2.5)) for m in _sequences(search, statement, length)
        )
    for i in range(len(finding.moves)):  # and none of its acts can be left out
        fewer = finding.moves[:i] + finding.moves[i + 1 :]
        assert not check(search.stage.play(fewer, finding.length_s)) or not _one_by_one(
            model, fewer
        )


def _one_by_one(model: Model, moves: Any) -> bool:
    at: dict[str, float] = {}
    for m in moves:
        control = model.transmitter.control(m.control)
        if control is not None and control.is_switch and abs(m.to - at.get(m.control, 0.0)) > 1:
            return False
        at[m.control] = m.to
    return True


def _sequences(search: MotorSearch, statement: str, length: int) -> Iterator[Any]:
    grid = search.grid
    acts = [(k.name, v) for k in grid.knobs for v in k.values if k.name not in ("rates_switch",)]
    for chosen in itertools.product(acts, repeat=length):
        if statement == "M2" and chosen and chosen[-1][0] in ("link", "power", *search.throttles):
            continue
        if any(a == b for a, b in itertools.pairwise(chosen)):
            continue
        for before in range(length + 1):
            moves = [
                FindingMove(0.0 if i < before else round(0.1 * (i - before + 1), 6), *act)
                for i, act in enumerate(chosen)
            ]
            if _one_by_one(search.model, moves):
                yield moves


def test_random_hands_break_nothing_that_was_called_clean() -> None:
    called = 0
    for seed in range(8):
        model = made(seed, young=seed % 2 == 1)
        wanted = clean(ShakedownSearch(most=200_000).run(Ask(model), ASKED))
        called += len(wanted)
        assert not broken_by(model, wanted, walk(model, seed, 20, 40)), seed
    assert called > 20
    model = demo_model("samphire")
    assert not broken_by(model, set(ASKED) - {"M2"}, walk(model, 3, 20, 200))
    wrong = CASES[7].ask().model  # and the same hands do find what is wrong
    assert broken_by(wrong, {"M3"}, walk(wrong, 3, 50, 200))
    for statement in ("S4", "S8", "L4"):
        wrong = next(c for c in CASES if [s for s, _ in c.finds] == [statement]).ask().model
        assert broken_by(wrong, {statement}, walk(wrong, 3, 50, 60)), statement


def test_a_jump_is_seen_wherever_a_shared_value_was_left() -> None:
    (found,) = (
        ShakedownSearch().run(Ask(made(130)), ("S4",)).findings
    )  # random hands broke it: a lever had left the value there
    assert found.part == "leads[3].slow_up_s" and "Right flap jumps" in found.text


def test_what_passes_within_a_short_fade_is_seen() -> None:
    """Random hands broke it: everything takes a tenth or two of a second, which was how often the
    search looked."""
    model = tried_model(Dice(107_007))
    assert first_problem(model) is None
    (found,) = ShakedownSearch().run(Ask(model), ("S8",)).findings
    assert found.part == "program.mixes[7].gain" and found.confirmed


def test_what_reaches_no_motor_is_not_searched() -> None:
    model = demo_model("samphire")
    sizes = []
    for count in (0, 64):
        logic = [
            {"kind": "above", "name": f"far_{i}", "a": "rudder_stick", "x": float(i)}
            for i in range(count)
        ]
        nodes = [*(x.model_dump() for x in model.program.logic), *logic]
        more = from_json(with_at(model, "program.logic", nodes).model_dump_json())
        search = motor_search(more, 1_000_000, lambda: False).run()
        sizes.append((search.reach.situations, len(search.model_slice.model.program.logic)))
    assert sizes[0] == sizes[1]


def test_delays_end_in_every_order_and_both_ways_are_reached() -> None:
    logic = [
        {"kind": "on_delay", "name": "slow", "of": "switch_b@1", "seconds": 3.0},
        {"kind": "off_delay", "name": "late", "of": "switch_b@1", "seconds": 1.0},
        {"kind": "pulse", "name": "blip", "of": "switch_b@1", "seconds": 0.5},
        {"kind": "latch", "name": "kept", "set": "slow", "reset": "switch_c@2"},
        {"kind": "counter", "name": "step", "of": "switch_b@1", "count": 3},
    ]
    base = demo_model("samphire")
    controls = [
        {
            "name": "switch_b",
            "label": "B",
            "kind": "switch",
            "hand": "left",
            "positions": ["up", "down"],
        },
        {
            "name": "switch_c",
            "label": "C",
            "kind": "switch",
            "hand": "left",
            "positions": ["up", "middle", "down"],
        },
    ]
    data = json.loads(base.model_dump_json())
    data["transmitter"]["controls"] += controls
    data["program"]["logic"] = logic
    data["program"]["announcements"], data["program"]["timers"] = [], []
    model = from_json(json.dumps(data))
    model_slice = slice_of(model, conditions=("slow", "late", "blip", "kept", "step@2"))

    def watch(result: Any) -> Any:
        flags = [result.logic[n] for n in ("slow", "late", "blip", "kept")]
        columns = [*flags, result.steps["step"]]
        rows = max(len(c) if c.ndim > 1 else 1 for c in columns)
        return np.stack(
            [np.broadcast_to(c, (rows, 1))[:, -1].astype(float) for c in columns], axis=-1
        )

    reach = StateSearch(model_slice, grid_of(model_slice), watch).run()
    seen = {tuple(int(v) for v in row) for row in reach.seen[reach.found()]}
    assert reach.complete
    assert {(s, k) for s, _, _, k, _ in seen} == {(0, 0), (1, 1), (0, 1), (1, 0)}
    assert {late for _, late, _, _, _ in seen} == {0, 1} and {n for *_, n in seen} == {0, 1, 2}
    kept = next(i for i in np.flatnonzero(reach.found()) if reach.seen[i][3] == 1)
    way = reach.way(int(reach.nodes_at(np.array([kept]))[0]))
    assert [s.control for s in way if s.control] == ["switch_b"] and any(
        "?slow.on_delay" in s.waits for s in way
    )
    played = Replay(model).play(*Replay(model).moves(way, 0.1))
    whole = compile_plan(model).run(Situation(played.t_s, played.tracks))
    assert whole.logic["kept"][-1] and not whole.logic["kept"][: int(2.9 / 0.02)].any()


def test_a_search_can_be_stopped_and_keeps_what_it_found() -> None:
    model, calls = CASES[11].ask().model, []  # type: ignore[var-annotated]

    def stopped() -> bool:
        return len(calls) > 3

    found = ShakedownSearch().run(
        Ask(model), (), lambda share, task: calls.append((share, task)), stopped
    )
    assert [f.statement for f in found.findings if f.level == "danger"] == ["M2"]
    left = {s.statement for s in found.searched if not s.complete}
    assert ({"S1", "S2", "L2"} <= left and not left >= {"M2"}) or found.searched
    assert all(s.note for s in found.searched if not s.complete)
    shares = [s for s, _ in calls]
    assert shares == sorted(shares) and shares[0] >= 0 and shares[-1] <= 1


def test_too_much_to_search_is_told_before_and_marked_after() -> None:
    model = demo_model("marram")
    assert not estimate(model).too_much and estimate(model, most=1000).too_much
    assert not foreseen_words(model) and "more situations than can be searched" in foreseen_words(
        model, 1000
    )
    found = ShakedownSearch(most=3000).run(Ask(model), ("M1", "M5"))
    state = {s.statement: s for s in found.searched}
    assert (
        not state["M1"].complete
        and "more situations" in state["M1"].note
        and state["M5"].situations == 1
    )


def test_an_edit_leaves_alone_what_it_cannot_touch() -> None:
    model, shaker = demo_model("samphire"), ShakedownSearch()
    first = shaker.run(Ask(model))
    done = []
    found = shaker._held.copy()
    edited = with_at(model, "program.mixes[1].gain", 90.0)
    second = shaker.run(Ask(edited), progress=lambda share, task: done.append(task))
    anew = {n for n, x in shaker._held.items() if found[n][1] is not x[1]}
    assert "the travel of rudder" in anew and "yaw everywhere" in anew
    assert not {"motors", "the travel of elevator", "roll everywhere"} & anew
    told = [[(f.statement, f.part, f.text) for f in found.findings] for found in (first, second)]
    assert told[0] == told[1]
    assert shaker.run(Ask(edited)).findings == ShakedownSearch().run(Ask(edited)).findings


def test_a_statement_left_out_keeps_its_reason_everywhere() -> None:
    model = with_at(
        demo_model("samphire"),
        "not_asked",
        {"M2": "The club's rule is level 2.", "S1": "Tried in the air."},
    )
    found = shake(Ask(model))
    assert {"M2", "S1"}.isdisjoint({s.statement for s in found.searched})
    assert as_json(found)["not_asked"]["M2"] == "The club's rule is level 2."
    assert any("Tried in the air." in line for line in proof_lines(found, "1 May 2026"))
    assert proof_lines(found, "1 May 2026")[0].startswith(
        f"Shaken down: {found.situations:,} situations, none dangerous"
    )
    bad = shake(Ask(CASES[7].ask().model), ("M3",))
    assert proof_lines(bad, "1 May 2026")[1] == "Open: 1 danger. Do not fly it like this."


# -- two models ---------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["samphire", "skerry", "sorrel", "tidewrack", "whinlark"])
def test_no_difference_is_proved(name: Any) -> None:
    model = demo_model(name)
    same = compared(model, model.changed({"note": "Another note."}))
    assert same.same and same.proved and same.situations > 100


@pytest.mark.parametrize(
    ("name", "path", "value", "parts", "most"),
    [
        ("samphire", "program.mixes[1].gain", 90.0, {"rudder": 7.9}, 8.0),
        ("whinlark", "program.modes[2].fade_s", 2.0, {}, 0.0),
        ("sorrel", "leads[2].centre", 6.0, {"rudder": 6.0}, 6.1),
        ("skerry", "program.recipes[1].positions[1].elevator", 13.0, {"elevator": 7.9}, 8.0),
    ],
)
def test_a_difference_is_found_at_its_greatest(
    name: Any, path: Any, value: Any, parts: Any, most: Any
) -> None:
    model = demo_model(name)
    found = compared(model, with_at(model, path, value))
    assert not found.same and {d.part for d in found.differences} == set(parts)
    for d in found.differences:
        assert parts[d.part] <= d.most <= most and d.confirmed
    if not parts:
        assert any("another time" in x for x in found.others)


def test_a_mode_that_asks_for_another_position_differs_there_only() -> None:
    model = demo_model("whinlark")
    found = compared(model, with_at(model, "program.logic[0].of", ["mode_switch@2"]))
    assert found.differences and found.proved
    assert all(
        "Base" in " ".join(d.modes) or "Race" in " ".join(d.modes) for d in found.differences
    )
    assert all(any("Mode switch" in c for c in d.captions) for d in found.differences)


def test_the_worst_figure_stands_beside_the_shortest_way() -> None:
    """The first click of the flap switch gives the motor 6 %, the second 24 % more."""
    model = demo_model("samphire")
    ups = tuple(
        MixLine(
            name=f"Idle up {place}",
            target="motor",
            source="full",
            gain=gain,
            when=f"flap_switch@{place}",
        )
        for place, gain in ((1, 12.0), (2, 60.0))
    )
    found = shake(
        Ask(with_at(model, "program.mixes", (*model.program.mixes, *ups))), ("M2",)
    ).findings
    assert [f.text for f in found] == [
        "Flap switch alone gives Motor more, from 0 to 6 % power; at worst by 24 % power."
    ]
    assert found[0].captions == ("Motor switch to run", "Flap switch to half")


def test_words_of_a_way() -> None:
    model = demo_model("samphire")
    assert caption(model, FindingMove(0, "elevator_stick", -50.0)) == "elevator stick 50 back"
    assert caption(model, FindingMove(0, "roll_trim", -25.0)) == "roll trim to its low end"
    assert caption(model, FindingMove(0, "power", 0.0)) == "the flight battery is unplugged"
    moves = (
        FindingMove(0.0, "flap_switch", 1.0),
        FindingMove(0.1, "motor_switch", 1.0),
        FindingMove(2.1, "link", 0.0),
    )
    assert (
        way_words(moves, captions(model, moves))
        == "power on with Flap switch to half, then Motor switch to run, then 2 s later the link is lost"
    )


def test_the_release_of_a_small_model_is_reached() -> None:
    model = from_parts(motors=True)
    search = motor_search(model, 1_000_000, lambda: False).run()
    assert search.reach.complete and int(GuardState.ARMED) in set(
        search.reach.seen[:, 0].astype(int)
    )


@pytest.mark.parametrize("name", TEMPLATES)
def test_a_new_aeroplane_is_searched_before_and_after_its_leads_are_plugged_in(name: Any) -> None:
    model = TEMPLATES[name].begin("New one")
    bare = shake(Ask(model))
    assert not bare.of_level("danger") and not bare.plugged and NOTHING_PLUGGED in as_text(bare)
    leads = tuple(x.changed({"port": i + 1}) for i, x in enumerate(model.leads))
    found = shake(Ask(model.changed({"leads": leads})))
    assert not found.of_level("danger") and not found.of_level("fault")
    assert all(f.confirmed for f in found.findings) and not any(x.possible for x in found.searched)


def test_the_command_line_says_it_by_its_status(tmp_path: Path) -> None:
    def run(*words: str) -> Any:
        return CliRunner().invoke(cli, ["--demo", *words])

    clean_ = run("shakedown", "Samphire")
    assert clean_.exit_code == 0 and "no danger, no fault, no advice" in clean_.output
    low = tmp_path / "low.json"
    low.write_text(
        with_at(demo_model("samphire"), "program.guard.level", 2).model_dump_json(),
        encoding="utf-8",
    )
    fault = run("shakedown", str(low), "--only", "m2,M4")
    assert (
        fault.exit_code == 1
        and "then throttle stick full, then the link is lost, then 1.1 s later" in fault.output
    )
    assert isinstance(run("shakedown", "Samphire", "--only", "Z9").exception, HypsosError)
    same, other = run("compare", "Skerry", "Skerry"), run("compare", "Samphire", "Skerry", "--json")
    assert (
        same.exit_code == 0
        and "No difference above 0.05 % between Skerry and Skerry" in same.output
    )
    data = json.loads(other.output)
    assert (
        other.exit_code == 1
        and not data["same"]
        and {d["part"] for d in data["differences"]} >= {"rudder"}
    )
    assert any("Only Skerry moves left motor." in x for x in data["others"])
    made = run("sheet", "Samphire", "--out", str(tmp_path / "sheet.md"))
    text = (tmp_path / "sheet.md").read_text(encoding="utf-8")
    assert (
        made.exit_code == 0
        and "Shaken down: " in text.split("## Port list")[0]
        and "none dangerous" in text
    )


def test_what_mends_a_finding_is_tried_before_it_is_offered() -> None:
    """It takes the finding away, brings none, and says what it changes in flight, by the ruler."""
    for index, words, told in (
        (11, "Hold the motor while", "The motors are armed by other rules."),
        (7, "Stop it", "Without the link motor does something else."),
        (
            31,
            "Move the stop out",
            "In flight, where it changes most: Rudder 30.2 mm left instead of 15.7 mm left (Rates switch",
        ),
        (37, "Slow Flaperons", "Flaperons takes another time on its way."),
    ):
        ask = CASES[index].ask()
        before = shake(ask)
        statement = CASES[index].finds[0][0]
        finding = before.findings[0]  # the statement itself, or of the same cause
        offered = tried(ask, finding, repairs(ask.model, finding)[0], before)
        assert offered.repair.words.startswith(words) and offered.gone and not offered.new
        assert changes_words(offered.changes).startswith(told)
        assert not [
            f
            for f in shake(Ask(offered.repair.model), (statement,)).findings
            if f.part == finding.part
        ]
    stopped = tried(ask, finding, repairs(ask.model, finding)[0], before, lambda: True)
    assert "Not all of what it changes was compared." in changes_words(stopped.changes)


def test_a_switch_that_only_one_model_has_makes_a_difference() -> None:
    first = demo_model("sorrel")
    data = json.loads(first.model_dump_json())
    more = {
        "name": "extra",
        "label": "Extra",
        "kind": "switch",
        "hand": "left",
        "positions": ["off", "on"],
    }
    data["transmitter"]["controls"].append(more)
    data["program"]["mixes"].append(
        {"name": "More", "target": "rudder", "source": "full", "gain": 12.0, "when": "extra@1"}
    )
    second = from_json(json.dumps(data))
    for one, two in ((first, second), (second, first)):
        found = compared(one, two)
        assert found.proved and [d.part for d in found.differences] == ["rudder"]
        assert found.differences[0].most == pytest.approx(12.0, abs=0.2)
    assert "Extra to on" in found.differences[0].captions and found.differences[0].confirmed


def test_a_shared_value_is_brought_by_the_hands_to_where_the_search_had_it() -> None:
    data = json.loads(demo_model("samphire").model_dump_json())
    step = {"kind": "step", "up": "tow_button@1", "amount": 10.0}
    data["program"]["tunables"] = [
        {"name": "more", "label": "More", "value": 50.0, "adjuster": step}
    ]
    data["program"]["mixes"].append(
        {
            "name": "By value",
            "target": "rudder",
            "source": "full",
            "gain": 100.0,
            "gain_from": "more",
        }
    )
    model = from_json(json.dumps(data))
    presses = list(brought(model, "more", 60.0))  # 80 of 0 to 100
    assert [(s.control, s.to) for s in presses] == [("tow_button", 1.0), ("tow_button", 0.0)] * 3
    found = shake(Ask(model), ("S2",))
    rudder = [f for f in found.findings if f.seen == ("rudder",)]
    assert rudder and rudder[0].confirmed
    assert sum(m.control == "tow_button" and m.to == 1 for m in rudder[0].moves) >= 4


@pytest.mark.parametrize(
    ("when", "falls"),
    [("flap_switch@2", True), ("!flap_switch@0", False), ("rates_switch@1", True)],
)
def test_positions_that_fall_to_the_base_mode_together_are_told(when: Any, falls: Any) -> None:
    data = json.loads(demo_model("samphire").model_dump_json())
    data["program"]["modes"] = [
        {"name": "land", "label": "Land", "when": when},
        {"name": "base", "label": "Base", "when": None},
    ]
    found = shake(Ask(from_json(json.dumps(data))), ("L1",)).findings
    assert bool(found) == falls and all("fall to Base" in f.text for f in found)
