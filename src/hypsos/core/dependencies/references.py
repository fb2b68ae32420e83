# SPDX-License-Identifier: GPL-3.0-or-later
"""What each control of the transmitter does in a model, in words; a control that does nothing has none."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.cache import kept
from hypsos.core.base.figure_words import said_name
from hypsos.core.conditions import conditions_of, signals_of
from hypsos.core.conditions.condition_base import UNNAMED
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.wording.time_words import timer_label


@kept
def uses(model: Model) -> dict[str, tuple[str, ...]]:
    """Control -> what hangs on it, each said once, in the order of the work."""
    found: dict[str, dict[str, None]] = {}
    for name, words in _uses(model):
        found.setdefault(name, {})[words] = None
    return {name: tuple(words) for name, words in found.items()}


def without_place(model: Model) -> tuple[str, ...]:
    """The controls that are on no transmitter, where the model has taken one and something hangs on them."""
    if not model.transmitter.taken:
        return ()
    used = uses(model)
    return tuple(c.label for c in model.transmitter.controls if not c.place and used.get(c.name))


def condition_users(model: Model, name: str, seen: frozenset[str] = frozenset()) -> tuple[str, ...]:
    """Who asks a condition, in words; what asks it on the way and has no name stands for those who ask that."""
    found: dict[str, None] = {}
    outside, within = _asking(model)
    found |= dict.fromkeys(words for asked_, words in outside if asked_ == name)
    nodes = {x.name: x for x in model.program.logic}
    for said, names in within:
        if name in names:
            found[said] = None
    for node in nodes.values():
        if node.label != UNNAMED or node.name in seen | {name}:
            continue
        if name in {asked(text).key for text in conditions_of(node)} | set(signals_of(node)):
            found.pop(said_name(node.label, UNNAMED, node.name), None)
            found |= dict.fromkeys(condition_users(model, node.name, seen | {name}))
    return tuple(found)


@kept
def _asking(model: Model) -> tuple[list[tuple[str, str]], list[tuple[str, set[str]]]]:
    """What the guard and the behaviours ask, each with who asks; and who else, with all that it asks and reads."""
    within = [(said, {asked(x).key for x in texts if x} | set(signals)) for said, texts, signals in _in_logic(model)]
    return [*_in_the_guard(model), *_in_behaviours(model)], within


def _uses(model: Model) -> Iterator[tuple[str, str]]:
    yield from _in_the_guard(model)
    yield from _in_behaviours(model)
    for said, conditions, signals in _in_logic(model):
        yield from ((asked(text).key, said) for text in conditions if text)
        yield from ((name, said) for name in signals)


def _in_the_guard(model: Model) -> Iterator[tuple[str, str]]:
    guard = model.program.guard
    if guard is None or not model.airframe.motors:
        return
    yield guard.switch, "motor"
    yield from ((asked(text).key, "motor") for _, text in guard.conditions())
    yield from ((check.control, "start check") for check in guard.start_check)


def _in_behaviours(model: Model) -> Iterator[tuple[str, str]]:
    for axis in model.program.axes:
        yield axis.control, axis.command
        if axis.switch:
            yield axis.switch, f"rates of {axis.command}"
    for line in model.program.mixes:
        yield line.source, line.name
        if line.when:
            yield asked(line.when).key, line.name
    for recipe in model.program.recipes:
        yield from ((asked(text).key, recipe.label) for _, text in recipe.conditions())
        yield from ((name, recipe.label) for _, name in recipe.refers())


def _in_logic(model: Model) -> Iterator[tuple[str, tuple[str | None, ...], tuple[str, ...]]]:
    """What is said of it, the conditions it asks, the signals it reads."""
    for mode in model.program.modes:
        yield f"mode {mode.label}", (mode.when,), ()
    for shared in model.program.tunables:
        if shared.adjuster is not None:
            yield (
                said_name(shared.label, "Shared value", shared.name),
                tuple(text for _, text in shared.adjuster.conditions()),
                (shared.adjuster.control,) if shared.adjuster.control else (),
            )
    for said in model.program.announcements:
        yield f"“{said.caption}”", (said.when,), ()
    for timer in model.program.timers:
        yield timer_label(timer), (timer.when, timer.reset), ()
    for node in model.program.logic:
        yield said_name(node.label, UNNAMED, node.name), tuple(conditions_of(node)), tuple(signals_of(node))
