# SPDX-License-Identifier: GPL-3.0-or-later
"""Conditions as sentences: whatever words are chosen the model stays sound, and a sentence can be
built word by word."""

from __future__ import annotations

import random
from typing import Any

import pytest
from parts import from_parts

from hypsos.core.checking.checks import problems
from hypsos.core.conditions import Combine, Compare, Latch
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.document.document import Model
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.edits.behaviours import copied
from hypsos.core.edits.condition_choices import (
    ConditionPlace,
    chosen,
    free_name,
    kinds,
    with_named,
    without_named,
)
from hypsos.core.edits.condition_doubts import condition_doubts
from hypsos.core.edits.condition_sentence import Menu, Number, sentence
from hypsos.core.engine import compile_plan
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.wording.describe_condition import named, phrase
from hypsos.hangar import Hangar

WHEN = ConditionPlace("program.mixes[4].when", always=True)
SAID = ConditionPlace("program.announcements[0].when")
"""Where a condition may hang on nothing that comes after the guard, and where it may hang on
anything."""


def blank() -> Any:
    modes = (
        FlightMode(name="fast", label="Fast", when="switch_b@1"),
        FlightMode(name="base", label="Base"),
    )
    made = from_parts(
        mixes=(MixLine(name="f", target="left_flap", source="full"),), modes=modes, motors=True
    )
    said = (Announcement(caption="Now", when="link"),)
    timers = tuple(
        Timer(name=f"clock_{k}", label=f"Clock {k}", when="power", span_s=9) for k in range(2)
    )
    return made.changed(
        {"program": made.program.changed({"announcements": said, "timers": timers})}
    )


def shown(model: Model, place: Any = WHEN) -> Any:
    """A sentence as it is read: (set in, words)."""
    return [
        (
            x.indent,
            tuple(f"{w.value:g} {w.unit}" if isinstance(w, Number) else w.text for w in x.words),
        )
        for x in sentence(model, place)
    ]


def walked(seed: int, steps: Any, place: Any = WHEN) -> Any:
    """A model after so many words chosen at random in one sentence."""
    dice, model = random.Random(seed), blank()
    for _ in range(steps):
        words = [
            w for line in sentence(model, place) for w in line.words if isinstance(w, Menu | Number)
        ]
        word = dice.choice(words)
        if isinstance(word, Number):
            model = word.put(round(dice.uniform(max(word.low, 2), min(word.high, 90)), 1))
        else:
            model = word.put(dice.choice(word.choices).key)
    return model


def sound(model: Model) -> Any:
    wrong = [
        p for p in problems(model) if "upper end" not in p.text
    ]  # what only a number can set right is said
    orphans = {x.name for x in model.program.logic if x.label == UNNAMED}
    orphans -= {n for n in orphans if any(n in x.when for x in model.program.announcements)}
    for x in (*model.program.logic, *model.program.mixes):
        orphans -= {n for n in orphans if n in repr(x.changed({"name": "x"}))}
    return wrong, orphans


def test_a_longer_sentence_around_a_named_condition_keeps_what_it_said() -> None:
    """What goes by its name goes by the longer sentence; its old content goes on under a name of
    its own."""
    slow = Compare(kind="above", name="slow", label="Slow", a="slider", x=20)
    model = from_parts(
        logic=(slow,),
        mixes=(MixLine(name="m", target="left_flap", source="full", gain=50, when="slow"),),
    )
    made = chosen(model, ConditionPlace(name="slow"), "wrap:on_delay")
    node = next(x for x in made.program.logic if x.name == "slow")
    inner = next(x for x in made.program.logic if x.name == node.of)  # type: ignore[attr-defined]
    assert (node.kind, node.label, inner.kind, inner.a, inner.x, inner.label) == (  # type: ignore[attr-defined]
        "on_delay",
        "Slow",
        "above",
        "slider",
        20,
        UNNAMED,
    )
    both = chosen(made, ConditionPlace(name="slow"), "wrap:latch")
    assert phrase(both, "slow") == "Slow" and next(iter(problems(both)), None) is None
    alone = from_parts(logic=(Combine(name="one", label="One", kind="all", of=("switch_b@1",)),))
    made = chosen(alone, ConditionPlace(name="one"), "wrap:not")
    assert [(x.name, x.kind, x.of) for x in made.program.logic] == [("one", "not", ("switch_b@1",))]  # type: ignore[attr-defined]


def test_a_latch_without_a_label_that_goes_by_itself_is_told_once() -> None:
    held = Latch(name="held", set="twice", reset="!link", edges=False)
    twice = Combine(name="twice", kind="any", of=("held", "switch_b@1"))
    model = from_parts(logic=(held, twice))
    assert phrase(model, "held") == "from (held or B at on) until link lost (by levels)"
    assert phrase(model, "twice") == "from twice until link lost (by levels) or B at on"


@pytest.mark.parametrize(
    "text", ["switch_b@1", "!switch_b@0", "guard:locked", "timer:clock_1", "mode:fast"]
)
def test_the_word_that_is_chosen_is_the_word_that_is_read(text: Any) -> None:
    model = with_at(blank(), SAID.path, text)
    menus = [w for line in sentence(model, SAID) for w in line.words if isinstance(w, Menu)]
    menu = next(w for w in menus if w.about.startswith(("position of", "in which", "which")))
    assert len(menu.choices) > 1
    for choice in menu.choices:
        assert choice.label in shown(menu.put(choice.key), SAID)[0][1]


def test_a_position_that_a_switch_has_no_more_is_read_by_its_number() -> None:
    assert "5" in shown(with_at(blank(), SAID.path, "switch_b@4"), SAID)[0][1]


def test_one_more_is_a_condition_and_no_bracket_around_the_others() -> None:
    tried = (walked(seed, 14) for seed in range(50))
    menus = (
        w
        for model in tried
        for line in sentence(model, WHEN)
        for w in line.words
        if isinstance(w, Menu)
    )
    more = next(w for w in menus if w.text == "and more …")
    assert len(more.choices) > 5 and not any(c.key.startswith("wrap:") for c in more.choices)


@pytest.mark.parametrize("block", range(10))
def test_whatever_words_are_chosen_the_model_is_sound_and_carries_nothing_unused(
    block: Any,
) -> None:
    place = (WHEN, SAID)[block % 2]
    for seed in range(30 * block, 30 * block + 30):
        model = walked(seed, 14, place)
        assert sound(model) == ([], set()), (seed, phrase(model, get_at(model, place.path)))
        compile_plan(model)


def built(target: Any, place: Any) -> Any:
    """A sentence made of another by choosing its words one after the other, from nothing."""
    model, wanted = blank(), sentence(target, place)
    for k in range(200):
        now = sentence(model, place)
        pairs = ((i, j) for i, line in enumerate(wanted) for j in range(len(line.words)))
        read = shown(model, place)
        goal_words = shown(target, place)
        at = next(
            (
                (i, j)
                for i, j in pairs
                if i >= len(now)
                or j >= len(read[i][1])
                or read[i][1][j] != goal_words[i][1][j]
                or read[i][0] != wanted[i].indent
            ),
            None,
        )
        if at is None:
            return model
        i, j = at
        word, goal = (
            (now[i].words[j] if i < len(now) and j < len(now[i].words) else None),
            wanted[i].words[j],
        )
        if isinstance(word, Number):
            model = word.put(goal.value)
            continue
        if (
            isinstance(word, Menu)
            and word.text == "and more …"
            and wanted[i].indent == now[i].indent
        ):
            model = word.put("link")
            continue
        if isinstance(goal, Menu) and goal.text == "and more …":  # one too many
            more = next(
                x
                for x in now[i:]
                if x.words[0].text == "and more …" and x.indent == wanted[i].indent
            )
            model = more.words[0].put(
                [c.key for c in more.words[0].choices if c.key.startswith("drop:")][-1]
            )
            continue
        goals = shown(target, place)[i][1][: j + 1]
        likely = (
            sorted(word.choices, key=lambda c: c.label != goal.text)
            if isinstance(word, Menu)
            else []
        )
        tries = (word.put(c.key) for c in likely)
        fits = next(
            (m for m in tries if len(read := shown(m, place)) > i and read[i][1][: j + 1] == goals),
            None,
        )
        pairs = zip(now[i].words, wanted[i].words, strict=False)  # type: ignore[assignment]
        later = [
            (a, b)
            for a, b in pairs
            if isinstance(a, Number) and isinstance(b, Number) and a.value != b.value
        ]
        assert fits or later, (k, shown(model, place), shown(target, place))
        model = fits or later[0][0].put(later[0][1].value)  # type: ignore[attr-defined]  # a count comes before its step
    raise AssertionError(shown(target, place))


@pytest.mark.parametrize("block", range(6))
def test_a_sentence_read_and_built_again_is_the_same_condition(block: Any) -> None:
    place = (WHEN, SAID)[block % 2]
    for seed in range(1000 + 50 * block, 1050 + 50 * block):
        target = walked(seed, 10, place)
        again = built(target, place)
        assert shown(again, place) == shown(target, place), seed
        assert phrase(again, get_at(again, place.path)) == phrase(
            target, get_at(target, place.path)
        ), seed


def test_a_named_condition_is_read_by_its_name_and_built_in_its_own_place() -> None:
    model, name = with_named(blank(), "Brakes out")
    assert [x.label for x in named(model)] == ["Brakes out"] and phrase(model, name) == "Brakes out"
    place = ConditionPlace(name=name)
    model = sentence(model, place)[0].words[0].put("signal:slider")
    assert shown(model, place) == [
        (0, ("Slider", "is above", "0 %", "and off again", "2 %", "further back"))
    ]
    model = sentence(model, place)[0].words[0].put("wrap:on_delay")
    assert [x.label for x in named(model)] == ["Brakes out"] and len(shown(model, place)) == 2
    assert all(c.key != f"named:{name}" for c in kinds(model, place))
    used = sentence(model, WHEN)[0].words[0].put(f"named:{name}")
    assert shown(used) == [(0, ("Brakes out", "holds"))]
    inner = sentence(used, place)[1].words[0]
    assert all(c.key != f"named:{name}" for c in inner.choices), (
        "no condition may come to hang on itself"
    )
    freed = sentence(used, WHEN)[0].words[0].put("always")
    assert len(without_named(freed, name).program.logic) == 0 and sound(
        without_named(freed, name)
    ) == ([], set())


@pytest.mark.parametrize(
    ("condition", "said"),
    [
        (Compare(kind="above", name="x", label="X", a="slider", x=100, hysteresis=2), "It never holds"),
        (Compare(kind="above", name="x", label="X", a="slider", x=99, hysteresis=2), ""),
        (Compare(kind="below", name="x", label="X", a="link_quality", x=0, hysteresis=2), "It never holds"),
        (Compare(kind="below", name="x", label="X", a="slider", x=101, hysteresis=2), "It always holds"),
        (Compare(kind="beyond", name="x", label="X", a="slider", x=-1, hysteresis=2), "It always holds"),
        (Compare(kind="within", name="x", label="X", a="slider", x=-100, y=100, hysteresis=2), "It always holds"),
        (Compare(kind="within", name="x", label="X", a="slider", x=-20, y=100, hysteresis=2), ""),
        (Compare(kind="difference", name="x", label="X", a="slider", b="aileron_stick", x=150, hysteresis=2), ""),
        (Compare(kind="above", name="x", label="X", a="slider", x=10), "to and fro"),
        (Combine(kind="all", name="x", label="X", of=("switch_c@1", "switch_c@2")), "B one position"),
        (Combine(kind="any", name="x", label="X", of=("switch_c@1", "switch_c@2")), ""),
        (Combine(kind="all", name="x", label="X", of=("link", "!link")), "its contrary"),
        (Combine(kind="all", name="x", label="X", of=("mode:fast", "mode:base")), "one flight mode"),
        (Combine(kind="not", name="x", label="X", of=("inner",)), "to and fro"),
    ],
)  # fmt: skip
def test_what_asks_for_a_second_look_in_a_condition(condition: Any, said: Any) -> None:
    inner = Compare(kind="above", name="inner", a="slider", x=10)
    model = with_at(blank(), "program.logic", (condition, inner))
    found = list(condition_doubts(model, "x"))
    assert (
        (found == [])
        if not said
        else (len(found) == 1 and said.replace("B one", "stands at one") in found[0].text)
    ), found
    called = with_at(
        model, "program.logic[1].label", "Slider up"
    )  # what has a name speaks for itself
    assert condition.kind != "not" or list(condition_doubts(called, "x")) == []


def test_a_free_name_is_nobodys(hangar: Hangar) -> None:
    """Whatever a condition is called, its own name stands for nothing else, and no words of the
    field are refused."""
    model = hangar.load("Marram")
    program, hands = model.program, model.transmitter.controls
    things = (
        *program.logic,
        *hands,
        *model.airframe.moved(),
        *program.shared_values(),
        *program.modes,
        *program.timers,
    )
    taken = {x.name for x in things} | {"link", "power", "full", "flap", "throttle_stick"}
    assert len(taken) > 40 and not taken & {free_name(model, name) for name in taken}
    for label in (
        "Roll",
        "Thrust",
        "Flap",
        "Guard",
        "Mode",
        "Say",
        "Power",
        "Flight battery",
        "Pitch trim",
        "T s",
        "Brake",
    ):
        named_so, _ = with_named(model, label)
        assert list(problems(named_so)) == [], label
        for at in range(
            len(model.program.recipes)
        ):  # a copy's signal is not called as a condition is
            assert list(problems(copied(named_so, at))) == [], (label, at)
