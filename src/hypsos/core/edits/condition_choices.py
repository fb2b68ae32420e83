# SPDX-License-Identifier: GPL-3.0-or-later
"""Choosing words in the sentence of a condition: each choice is a new model.

What is made on the way has no name; what an edit leaves without a user, and nobody has named, is
gone with it."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, NamedTuple

from hypsos.core.base.cache import kept
from hypsos.core.base.lookup import first_free, first_numbered, replaced
from hypsos.core.base.values import Value
from hypsos.core.conditions import KINDS, Combine, Compare, LogicSwitch
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.dependencies.evaluation_order import measured_signals
from hypsos.core.dependencies.graph import asked_by, graph, written_names
from hypsos.core.dependencies.phases import SAID, Phase
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.document.names import taken_names
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.parts.condition_text import asked
from hypsos.core.wording.describe_condition import compared_signals, named, node_named, signal_label


class WordChoice(NamedTuple):
    """A word that may be chosen; ``group`` puts those of a kind together."""

    key: str
    label: str
    group: str = ""


class ConditionPlace(NamedTuple):
    """Where a condition stands: the path of a field, or the name of a named condition. ``always``
    where there may be none; ``none`` is the word for that."""

    path: str = ""
    name: str = ""
    always: bool = False
    none: str = "always"


# -- choosing -----------------------------------------------------------------------------------


LONGER = "Make a longer sentence of it"


class _Askers(NamedTuple):
    """When in a frame those are asked that ask for a condition: only then known things can be
    meant."""

    known: Phase
    last: bool
    """All of them once everything has been summed."""
    early: bool
    """Some of them before the guard has spoken."""
    timing: bool
    """Some of them run a timer."""

    @classmethod
    def of(cls, model: Model, place: ConditionPlace) -> _Askers:
        known = _known(model)
        paths = _askers(model, place, known)
        return cls(
            known,
            last=all(path.startswith(SAID) for path in paths),
            early=any(known.before_guard(path) for path in paths),
            timing=any(path.startswith("program.timers") for path in paths),
        )

    def may_ask(self, name: str) -> bool:
        """Whether a named condition is known by then."""
        order = self.known.order
        too_late = not self.last and name in order.last
        too_late |= self.early and name in order.late
        too_late |= self.timing and name in order.timed
        return not too_late


def kinds(model: Model, place: ConditionPlace) -> tuple[WordChoice, ...]:
    """What the condition at a place may hang on."""
    askers = _Askers.of(model, place)
    out = [WordChoice("always", place.none)] if place.always else []
    for control in model.transmitter.controls:
        if control.is_switch:
            out.append(WordChoice(f"switch:{control.name}", control.label, "A switch or button"))
    for name in compared_signals(model):
        out.append(WordChoice(f"signal:{name}", signal_label(model, name), "A stick or slider"))
    for name in sums_fed(model) if askers.last else ():
        out.append(
            WordChoice(f"signal:{name}", signal_label(model, name), "Where something stands")
        )
    if model.program.modes:
        out.append(WordChoice("mode", "the flight mode"))
    if not askers.early and model.program.guard is not None:
        out.append(WordChoice("guard", "the motor's state"))
    if not askers.early and not askers.timing and model.program.timers:
        out.append(WordChoice("timer", "a timer"))
    out += [WordChoice("link", "the link"), WordChoice("power", "the receiver's power")]
    out += _named_choices(model, place, askers)
    for wrapping in KINDS:
        out += [WordChoice(f"wrap:{kind}", words, LONGER) for kind, words in wrapping.WRAPS.items()]
    return tuple(out)


def _named_choices(model: Model, place: ConditionPlace, askers: _Askers) -> list[WordChoice]:
    """The conditions with a name that may stand here: no circle comes of it, and they are known in
    time."""
    inside = _users_of(model, place.name) if place.name else frozenset[str]()
    own = {place.name} if place.name else _above(model, place.path)
    free = [x for x in named(model) if not x.gives_signal and x.name not in own | inside]
    return [
        WordChoice(f"named:{x.name}", x.label, "A condition with a name")
        for x in free
        if askers.may_ask(x.name)
    ]


def sums_fed(model: Model) -> list[str]:
    """The signals and surfaces that some line moves, in the order of the model."""
    fed = {p.line.target for p in all_lines(model)}
    sums = measured_signals(model)
    names = (*model.program.signal_labels(), *(p.name for p in model.airframe.moved()))
    return [n for n in names if n in fed & sums]


def chosen(model: Model, place: ConditionPlace, key: str) -> Model:
    """The model with another kind of condition at a place. What it replaces and nobody else uses is
    gone with it."""
    head, _, name = key.partition(":")
    if head == "always":
        return put_text(model, place, None)
    if head == "switch":
        control = model.transmitter.control(name)
        last = len(control.positions) - 1 if control else 0
        return put_text(model, place, f"{name}@{last}")
    if head == "signal":
        old = _node_at(model, place)
        other = None if old is None else old.reading(name)
        if other is not None:
            return _replaced(model, other)
        return _put_node(
            model,
            place,
            Compare(kind="above", name=free_name(model), a=name, x=0.0, hysteresis=2.0),
        )
    if head == "mode":
        return put_text(model, place, f"mode:{model.program.modes[0].name}")
    if head == "guard":
        return put_text(model, place, "guard:armed")
    if head == "timer":
        return put_text(model, place, f"timer:{model.program.timers[0].name}")
    if head in ("link", "power", "named"):
        found = node_named(model, name)
        return put_text(model, place, head if found is None else found.text)
    return _wrapped(model, place, name)


def _wrapped(model: Model, place: ConditionPlace, kind: str) -> Model:
    """A longer sentence around the condition at a place; between all, any and one the parts stay as
    they are."""
    old = _node_at(model, place)
    same = None if old is None else old.as_kind(kind)
    if same is not None:
        return _replaced(model, same)
    if place.name:
        model, inner = _given_away(model, place.name)
    else:
        inner = get_at(model, place.path) or default_text(model)
    wrapping = next(x for x in KINDS if kind in x.WRAPS)
    return _put_node(
        model, place, wrapping.around(kind, free_name(model), inner, default_text(model))
    )


def _given_away(model: Model, name: str) -> tuple[Model, str]:
    """A named condition's content under a name of its own, for a longer sentence around it."""
    node = node_named(model, name)
    assert node is not None
    if node.passes_on is not None:
        return model, node.passes_on
    copy = node.changed({"name": free_name(model), "label": UNNAMED})
    return _with_logic(model, (*model.program.logic, copy)), copy.text


def default_text(model: Model) -> str:
    """A first condition: the first switch at its last position, else the link."""
    switch = next((c for c in model.transmitter.controls if c.is_switch), None)
    return "link" if switch is None else f"{switch.name}@{len(switch.positions) - 1}"


def put_text(model: Model, place: ConditionPlace, text: str | None) -> Model:
    """The model with another condition at a place, as text."""
    if not place.name:
        return without_orphans(model, with_at(model, place.path, text))
    node = node_named(model, place.name)
    assert node is not None and text is not None
    passing = node.passing(text) or Combine(
        kind="all", name=node.name, label=node.label, of=(text,)
    )
    return without_orphans(model, _replaced(model, passing))


def _put_node(model: Model, place: ConditionPlace, made: LogicSwitch) -> Model:
    if place.name:
        node = node_named(model, place.name)
        assert node is not None
        new = _replaced(model, made.changed({"name": node.name, "label": node.label}))
    else:
        new = with_at(_with_logic(model, (*model.program.logic, made)), place.path, made.text)
    return without_orphans(model, new)


def with_named(model: Model, label: str) -> tuple[Model, str]:
    """The model with a new named condition, and its name."""
    name = free_name(model, label)
    made = Combine(kind="all", name=name, label=label, of=(default_text(model),))
    return _with_logic(model, (*model.program.logic, made)), name


def without_named(model: Model, name: str) -> Model:
    """The model without a condition that nobody uses; what it was made of goes with it."""
    return without_orphans(
        model, _with_logic(model, tuple(x for x in model.program.logic if x.name != name)), (name,)
    )


# -- names and what hangs on what ---------------------------------------------------------------


def free_name(model: Model, label: str = "when") -> str:
    """A name that is free for a condition, made of a label."""
    letters = re.sub(r"[^a-z0-9]", "_", label.lower()).strip("_")[:32]
    stem = letters if letters[:1].isalpha() else f"when_{letters}".strip("_")
    if stem == "when":  # nobody has called it anything
        return first_numbered(stem, taken_names(model), "_")
    return first_free(stem, taken_names(model), "_")


def _node_at(model: Model, place: ConditionPlace) -> LogicSwitch | None:
    """The unnamed condition that is read at a place, or the named one itself."""
    if place.name:
        return node_named(model, place.name)
    text = get_at(model, place.path)
    found = None if text is None else node_named(model, asked(text).key)
    return found if found is not None and found.label == UNNAMED else None


def _with_logic(model: Model, logic: tuple[LogicSwitch, ...]) -> Model:
    return with_at(model, "program.logic", logic)


def _replaced(model: Model, made: LogicSwitch) -> Model:
    return _with_logic(model, replaced(model.program.logic, made))


@kept
def _in_use(model: Model) -> set[str]:
    """The conditions that somebody has named, those on which something hangs, and what they are
    made of."""
    return graph(model).conditions_behind(written_names(model) | {x.name for x in named(model)})


def without_orphans(before: Model, after: Model, roots: tuple[str, ...] = ()) -> Model:
    """The model after an edit without the unnamed conditions that were in use before it and are in
    use no more."""
    was = _in_use(before) | graph(before).conditions_behind(roots)
    out_of_use = was - _in_use(after)
    left = tuple(x for x in after.program.logic if x.label != UNNAMED or x.name not in out_of_use)
    if len(left) == len(after.program.logic):
        return after
    return _with_logic(after, left)


@kept
def _known(model: Model) -> Phase:
    """What may ask what in a model: a sentence asks for every word of its own."""
    return Phase(model, tuple(asked_by(model)))


def _askers(model: Model, place: ConditionPlace, known: Phase) -> list[str]:
    """The places of the document that go by the condition at a place."""
    if place.name or place.path.startswith("program.logic["):
        name = place.name or model.program.logic[int(place.path[14:].split("]")[0])].name
        return list(
            known.askers(
                {
                    x.name
                    for x in model.program.logic
                    if name in graph(model).conditions_behind((x.name,))
                }
            )
        )
    return [place.path]


def _users_of(model: Model, name: str) -> frozenset[str]:
    """The named conditions that hang on one."""
    return frozenset(
        x.name for x in named(model) if name in graph(model).conditions_behind((x.name,))
    )


def _above(model: Model, path: str) -> set[str]:
    """The conditions that hang on the one whose field a path is, for no sentence may come to hang
    on itself."""
    parts = path.split(".")
    if len(parts) < 3 or not parts[1].startswith("logic["):
        return set()
    here = model.program.logic[int(parts[1][6:-1])].name
    return {
        x.name for x in model.program.logic if here in graph(model).conditions_behind((x.name,))
    }


WORDS_OF_PEOPLE = ("name", "label", "note", "caption", "place")


def text_at(text: str, name: str, place: Callable[[int], int]) -> str:
    """A condition that asks for a position of a switch, asking for another; any other text as it
    is."""
    match = re.match(rf"^(!?){re.escape(name)}@(\d+)$", text)
    return text if match is None else f"{match[1]}{name}@{place(int(match[2]))}"


def asked_at(model: Model, name: str, place: Callable[[int], int]) -> Model:
    """The model with every condition that asks for a position of a switch asking for another."""

    def walk(value: Any) -> Any:
        if isinstance(value, str):
            return text_at(value, name, place)
        if isinstance(value, tuple):
            return tuple(walk(x) for x in value)
        if isinstance(value, Value):
            fields = {
                n: getattr(value, n) for n in type(value).model_fields if n not in WORDS_OF_PEOPLE
            }
            new = {n: walk(x) for n, x in fields.items()}
            different = {n: x for n, x in new.items() if x is not fields[n] and x != fields[n]}
            return value.changed(different) if different else value
        return value

    return model.changed({"program": walk(model.program)})
