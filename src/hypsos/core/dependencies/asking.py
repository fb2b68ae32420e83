# SPDX-License-Identifier: GPL-3.0-or-later
"""Which places of a document ask a condition."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.document.document import Model


def asked_by(model: Model) -> Iterator[tuple[str, str]]:
    """(path, condition) of every place in the document that asks a condition, other than conditions themselves."""
    program = model.program
    whens = [(f"mixes[{i}]", x.when) for i, x in enumerate(program.mixes)]
    whens += [(f"modes[{i}]", x.when) for i, x in enumerate(program.modes)]
    yield from ((f"program.{where}.when", text) for where, text in whens if text is not None)
    for i, recipe in enumerate(program.recipes):
        yield from ((f"program.recipes[{i}].{field}", text) for field, text in recipe.conditions())
    for i, shared in enumerate(program.tunables):
        for field, text in shared.adjuster.conditions() if shared.adjuster is not None else ():
            yield f"program.tunables[{i}].adjuster.{field}", text
    for i, axis in enumerate(program.axes):
        for k, setting in enumerate(axis.settings):
            if setting is not None and setting.from_when is not None:
                yield f"program.axes[{i}].settings[{k}].from_when", setting.from_when
    for i, said in enumerate(program.announcements):
        yield f"program.announcements[{i}].when", said.when
    for i, timer in enumerate(program.timers):
        yield f"program.timers[{i}].when", timer.when
        if timer.reset is not None:
            yield f"program.timers[{i}].reset", timer.reset
    if program.guard is not None:
        yield from ((f"program.guard.{field}", text) for field, text in program.guard.conditions())
