# SPDX-License-Identifier: GPL-3.0-or-later
"""What of a translation something hangs on: nothing else is keyed in."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from hypsos.core.schools.stand_in.parts import Channel, Command, Mode, Rule, Shared, Sum


def used_sums(
    known: Mapping[str, Sum], roots: Iterable[str], rules: Iterable[Rule]
) -> tuple[Sum, ...]:
    """The sums on which outputs and rules hang, helpers before their users."""
    open_ = list(roots)
    for rule in rules:
        if rule.kind in ("above", "below"):
            open_ += [rule.a, rule.b]
    found: dict[str, Sum] = {}

    def visit(name: str) -> None:
        made = known.get(name)
        if made is None or name in found:
            return
        for share in made.shares:
            visit(share.source)
        found[name] = made

    for name in open_:
        visit(name)
    return tuple(found.values())


def used_references(
    outputs: Iterable[Channel],
    commands: Iterable[Command],
    modes: Iterable[Mode],
    shared: Iterable[Shared],
    sums: Iterable[Sum],
) -> list[str]:
    """Every reference that these parts ask for."""
    found = [x.cut for x in outputs] + [mode.when for mode in modes]
    for made in sums:
        found.append(made.held)
        for share in made.shares:
            found += share.when
    for command in commands:
        for feel in command.feels:
            found += feel.when
    for value in shared:
        if value.mover is not None:
            found += [value.mover.up, value.mover.down, value.mover.when]
    return [text for text in found if text]
