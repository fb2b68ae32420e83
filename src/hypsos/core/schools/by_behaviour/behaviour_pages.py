# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed into a transmitter that thinks by behaviour, as the blocks of a sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model
from hypsos.core.schools.by_behaviour.behaviour_settings import (
    BehaviourSettings,
    ModeAt,
    OwnMix,
    ReadyBehaviour,
    Slot,
)
from hypsos.core.schools.on_paper.blocks import Block, Row, in_lines
from hypsos.core.schools.on_paper.cells import how_words, two_sided
from hypsos.core.schools.on_paper.common_pages import (
    at,
    controls_block,
    curves_block,
    failsafe_block,
    modes_block,
    outputs_blocks,
    rates_blocks,
    reading_lines,
    trims_block,
    voice_blocks,
)
from hypsos.core.schools.on_paper.paper_names import Names, capitalized
from hypsos.core.schools.on_paper.school_pages import SchoolPages
from hypsos.core.schools.ruler import Ruler

READING = (
    "A behaviour takes its hand or command, bends it by its curve, weights it by the first of its values that holds (none "
    "named: 100), and gives each part its share of that. A part is the sum of what behaviours and mixes give it; the "
    "throttle goes to its motor from the low end of its way. Of “at” and “in” one place is enough.",
)  # fmt: skip


def pages(model: Model, settings: BehaviourSettings, kept: Mapping[str, str]) -> SchoolPages:
    """The blocks of a sheet by behaviour."""
    x = settings
    signals = [*(c.name for c in x.axes), *(o.sum for o in x.outputs)]
    names, ruler = Names(model, x, (), signals, kept), Ruler(model)
    outputs = list(outputs_blocks(names, ruler))
    rates = list(rates_blocks(names, x.axes, "axes"))
    behaviours = _behaviours_block(names, x.behaviours)
    mixes = _mixes_block(names, x.mixes)
    made = {f"behaviour_{i + 1}": b.label for i, b in enumerate(x.behaviours)}
    keyed: tuple[Block, ...] = (
        controls_block(names),
        trims_block(names, x.axes),
        *outputs,
        *rates,
        _modes_block(names, x.modes),
        curves_block(names),
        behaviours,
        mixes,
        _cut_block(names, ruler, x),
    )
    return SchoolPages(
        (*reading_lines(names), *READING),
        keyed,
        (failsafe_block(names, ruler),),
        tuple(voice_blocks(names)),
        {**names.labels(), **made},
        names.called,
    )


def _places(names: Names, places: Sequence[str], modes: Sequence[str]) -> list[str]:
    """At which positions or in which modes something holds."""
    said = []
    if places:
        said.append(f"at {names.any_of(places)}")
    if modes:
        said.append(f"in {names.modes(modes)}")
    return said


def _behaviours_block(names: Names, behaviours: Sequence[ReadyBehaviour]) -> Block:
    rows = []
    for place, x in enumerate(behaviours):
        slow = (x.time_in, x.time_out)
        said = [names.signal(x.master), *how_words(names, x.bend, x.trim, slow)]
        values = [", ".join([plain(v.value), *_places(names, v.places, v.modes)]) for v in x.values]
        slots = [_slot_words(names, slot) for slot in x.slots]
        title = capitalized(x.kind) if x.label.casefold() == x.kind else f"{x.label} ({x.kind})"
        cells = (title, ", ".join(said), in_lines(values) or "100", in_lines(slots))
        rows.append(Row(f"behaviour {x.kind} {x.label}", cells, (at("behaviours", place),)))
    return Block(
        "behaviours",
        "Behaviours",
        columns=("Behaviour", "From", "Value", "Gives to"),
        rows=tuple(rows),
    )


def _slot_words(names: Names, slot: Slot) -> str:
    said = [f"{names.part(slot.part)} {two_sided(slot.below, slot.above)}"]
    if slot.bend is not None:
        said.append(names.curve(slot.bend))
    return ", ".join([*said, *_places(names, slot.places, slot.modes)])


def _mixes_block(names: Names, mixes: Sequence[OwnMix]) -> Block:
    rows = []
    for place, x in enumerate(mixes):
        said = how_words(names, x.bend, x.trim)
        said += _places(names, x.places, x.modes)
        pair = f"{names.signal(x.master)} to {names.part(x.follower)}"
        cells = (x.label, pair, two_sided(x.below, x.above), ", ".join(said) or "always")
        rows.append(Row(f"mix {x.label} {place}", cells, (at("mixes", place),)))
    return Block(
        "mixes",
        "Mixes of your own",
        columns=("Mix", "From, to", "Rate", "How, and when"),
        rows=tuple(rows),
    )


def _cut_block(names: Names, ruler: Ruler, x: BehaviourSettings) -> Block:
    rows: list[Row] = []
    if x.cut is not None:
        part = names.part(ruler.part_of(x.cut.port))
        cells = (str(x.cut.port), part, names.any_of(x.cut.places))
        rows.append(Row("cut", cells, ("cut",)))
    return Block(
        "cut",
        "Cut",
        caution="Propeller off. It is tested further down.",
        columns=("Port", "Motor", "Stands still at"),
        rows=tuple(rows),
    )


def _modes_block(names: Names, modes: Sequence[ModeAt]) -> Block:
    """Flight modes by their switches; there are no shared values in this school."""
    if not modes:
        return modes_block(names, (), (), lambda _mode: "")
    rows = []
    for place, mode in enumerate(modes):
        when = names.all_of(mode.places) if mode.places else "no other is"
        rows.append(Row(f"mode {mode.name}", (names.mode(mode.name), when), (at("modes", place),)))
    return Block(
        "modes",
        "Flight modes",
        ("The first whose switches stand so is flown.",),
        columns=("Mode", "Flown at"),
        rows=tuple(rows),
    )
