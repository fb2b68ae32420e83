# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed into a transmitter that thinks by lines, as the blocks of a sheet."""

from __future__ import annotations

from collections.abc import Mapping

from hypsos.core.document.document import Model
from hypsos.core.schools.by_lines.lines_settings import LinesSettings
from hypsos.core.schools.on_paper.blocks import Block
from hypsos.core.schools.on_paper.common_pages import (
    ModePresets,
    at,
    controls_block,
    curves_block,
    failsafe_block,
    modes_block,
    moved_values_block,
    outputs_blocks,
    rates_blocks,
    reading_lines,
    rules_blocks,
    trims_block,
    voice_blocks,
)
from hypsos.core.schools.on_paper.paper_names import Names
from hypsos.core.schools.on_paper.school_pages import SchoolPages
from hypsos.core.schools.on_paper.sum_pages import (
    ORDER,
    PartSum,
    helpers_block,
    parts_blocks,
    presets_of,
)
from hypsos.core.schools.ruler import Ruler
from hypsos.core.schools.stand_in.parts import Mode


def pages(model: Model, settings: LinesSettings, kept: Mapping[str, str]) -> SchoolPages:
    """The blocks of a sheet by lines."""
    x = settings
    signals = [*(c.name for c in x.inputs), *(c.name for c in x.channels)]
    names, ruler = Names(model, x, x.logic, signals, kept), Ruler(model)
    parts = {output.sum: ruler.part_of(output.port) for output in x.outputs}
    sent, helpers = [], []
    for place, made in enumerate(x.channels):
        path = at("channels", place)
        if made.name in parts:
            sent.append(PartSum(path, names.part(parts[made.name]), made))
        else:
            helpers.append(PartSum(path, names.signal(made.name), made))
    ports = {output.sum: output.port for output in x.outputs}
    sent.sort(key=lambda part: ports[part.sum.name])
    presets = [ModePresets(p.label, presets_of(p.sum), (p.path,)) for p in sent]

    def flown(mode: Mode) -> str:
        return names.reference(mode.when) if mode.when else ""

    # curves get their letters where they are met first
    outputs = list(outputs_blocks(names, ruler))
    rates = list(rates_blocks(names, x.inputs, "inputs"))
    sums = [helpers_block(names, helpers), *parts_blocks(names, sent)]
    modes = modes_block(names, x.modes, [p for p in presets if p.by_mode], flown)
    before: list[Block] = [
        controls_block(names),
        trims_block(names, x.inputs),
        *outputs,
        *rates,
        *rules_blocks(names, x.logic, "logic"),
        curves_block(names),
        *sums,
        modes,
    ]
    if x.modes and x.shared:
        before.append(moved_values_block(names))
    return SchoolPages(
        tuple([*reading_lines(names), ORDER]),
        tuple(before),
        (failsafe_block(names, ruler),),
        tuple(voice_blocks(names)),
        names.labels(),
        names.called,
    )
