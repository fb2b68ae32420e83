# SPDX-License-Identifier: GPL-3.0-or-later
"""Slips of the finger: everything that is easily keyed in wrong, one at a time, as the transmitter
that one then has."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import NamedTuple

from hypsos.core.schools.on_paper.cells import half_way, is_preset
from hypsos.core.schools.stand_in.parts import Command, Radio, Share, Shared, Sum

Label = Callable[[str], str]


class Slip(NamedTuple):
    """``thing``: what is keyed in; ``wrong``: what was done wrong with it. ``radio``: the transmitter with it. ``turned_switch``: a
    switch whose ends were taken for each other; ``ports``: two whose leads were exchanged.
    ``half``: the figures at half a stick, which stand beside the rates, show it."""

    thing: str
    wrong: str
    radio: Radio
    turned_switch: str = ""
    ports: tuple[int, int] = (0, 0)
    half: bool = False


def slips_of(radio: Radio, label: Label) -> Iterator[Slip]:
    """Every slip that is played; ``label`` says what hands, commands and sums are called."""
    for place, sum_ in enumerate(radio.sums):
        for thing, words, wrong in _in_sum(sum_, label):
            yield Slip(thing, words, radio.changed({"sums": _with(radio.sums, place, wrong)}))
    for place, command in enumerate(radio.commands):
        for words, other in _in_command(command):
            made = radio.changed({"commands": _with(radio.commands, place, other)})
            yield Slip(label(command.name), words, made, half=_half_shows(command, other))
    for place, shared in enumerate(radio.shared):
        for words, value in _in_shared(shared, label):
            yield Slip(
                label(shared.name),
                words,
                radio.changed({"shared": _with(radio.shared, place, value)}),
            )
    for place, channel in enumerate(radio.channels):
        turned = channel.changed({"turned": not channel.turned})
        yield Slip(
            f"port {channel.port}",
            "the other way round",
            radio.changed({"channels": _with(radio.channels, place, turned)}),
        )
    for one, two in pairwise(radio.channels):
        yield Slip(
            f"ports {one.port} and {two.port}", "exchanged", radio, ports=(one.port, two.port)
        )
    for hand in radio.hands:
        if hand.positions:
            yield Slip(label(hand.name), "ends exchanged", radio, turned_switch=hand.name)


def _with(things: tuple[object, ...], place: int, made: object) -> tuple[object, ...]:
    return (*things[:place], made, *things[place + 1 :])


def _in_sum(made: Sum, label: Label) -> Iterator[tuple[str, str, Sum]]:
    for place, share in enumerate(made.shares):
        line = f"{label(made.name)}, line {label(share.source)}"
        if is_preset(share):
            line = f"{label(made.name)} in {label(share.modes[0])}"

        def changed(*lines: Share, at: int = place) -> Sum:
            return made.changed({"shares": (*made.shares[:at], *lines, *made.shares[at + 1 :])})

        yield line, "forgotten", changed()
        if share.join == "add":
            yield line, "twice", changed(share, share)
        turned = share.changed({"above": -share.above, "below": -share.below})
        yield line, "wrong sign", changed(turned)
        if share.above != share.below:
            sides = share.changed({"above": share.below, "below": share.above})
            yield line, "sides exchanged", changed(sides)
            alike = share.changed({"below": share.above})
            yield line, "no difference of sides", changed(alike)


def _in_command(command: Command) -> Iterator[tuple[str, Command]]:
    """Rates and expos of a neighbouring line."""
    for place, (one, two) in enumerate(pairwise(command.feels)):
        for field, word in (("weight", "rates"), ("expo", "expos")):
            if getattr(one, field) == getattr(two, field):
                continue
            mine = one.changed({field: getattr(two, field)})
            theirs = two.changed({field: getattr(one, field)})
            feels = (*command.feels[:place], mine, theirs, *command.feels[place + 2 :])
            yield f"{word} {place + 1} and {place + 2} exchanged", command.changed({"feels": feels})


def _half_shows(one: Command, two: Command) -> bool:
    """Whether one of the printed figures at half a stick is another by a percent or more."""
    for mine, theirs in zip(one.feels, two.feels, strict=True):
        printed = not (mine.weight_by or mine.expo_by or mine.bend is not None)
        if printed and abs(half_way(mine) - half_way(theirs)) >= 1.0:
            return True
    return False


def _in_shared(shared: Shared, label: Label) -> Iterator[tuple[str, Shared]]:
    """Values of a neighbouring mode."""
    for one, two in pairwise(shared.by_mode):
        mine, theirs = shared.by_mode[one], shared.by_mode[two]
        if mine != theirs:
            by_mode = {**shared.by_mode, one: theirs, two: mine}
            yield f"{label(one)} and {label(two)} exchanged", shared.changed({"by_mode": by_mode})
