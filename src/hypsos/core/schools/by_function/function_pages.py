# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed into a transmitter that thinks by function, as the blocks of a sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from hypsos.core.document.document import Model
from hypsos.core.schools.by_function.function_settings import FunctionMix, FunctionSettings, Servo
from hypsos.core.schools.on_paper.blocks import Block, Row, in_lines, in_pairs
from hypsos.core.schools.on_paper.cells import NO_TRIM, held_words, how_words, two_sided
from hypsos.core.schools.on_paper.common_pages import (
    ModePresets,
    at,
    controls_block,
    curves_block,
    failsafe_block,
    modes_block,
    outputs_blocks,
    rates_blocks,
    reading_lines,
    rules_blocks,
    trims_block,
    voice_blocks,
)
from hypsos.core.schools.on_paper.paper_names import Names, capitalized
from hypsos.core.schools.on_paper.school_pages import SchoolPages
from hypsos.core.schools.ruler import Ruler
from hypsos.core.schools.stand_in.parts import Mode

READING = (
    "Functions: a hand feeds one through rate and expo; one without a hand is fed by mixes only. A servo is the sum of its "
    "shares of functions and of the mixes that go to it. A mix counts only while all its conditions hold and one of its modes "
    "is flown. Fixed is a source that is always 100 %.",
)  # fmt: skip


def pages(model: Model, settings: FunctionSettings, kept: Mapping[str, str]) -> SchoolPages:
    """The blocks of a sheet by function."""
    x = settings
    signals = [*(c.name for c in x.functions), *x.own_functions, *(s.part for s in x.servos)]
    names, ruler = Names(model, x, x.conditions, signals, kept), Ruler(model)
    presets: dict[str, dict[str, float]] = {}
    paths: dict[str, list[str]] = {}
    mixes = []
    for place, mix in enumerate(x.mixes):
        path = at("mixes", place)
        of_part = presets.setdefault(mix.to, {})
        if _is_preset(mix) and mix.modes[0] not in of_part:
            of_part[mix.modes[0]] = mix.above
            paths.setdefault(mix.to, []).append(path)
        else:
            mixes.append((path, mix))
    outputs = list(outputs_blocks(names, ruler))
    rates = list(rates_blocks(names, x.functions, "functions"))
    mixed = _mixes_block(names, mixes)

    def flown(mode: Mode) -> str:
        return names.reference(mode.when) if mode.when else ""

    given = [ModePresets(names.signal(k), v, tuple(paths[k])) for k, v in presets.items() if v]
    modes = modes_block(names, x.modes, given, flown)
    cut = (f"The cut holds every motor while {names.reference(x.cut)}.",) if x.cut else ()
    keyed: tuple[Block, ...] = (
        controls_block(names),
        trims_block(names, x.functions),
        *outputs,
        *rates,
        *rules_blocks(names, x.conditions, "conditions"),
        curves_block(names),
        _servos_block(names, x.servos, cut),
        mixed,
        modes,
    )
    return SchoolPages(
        (*reading_lines(names), *READING),
        keyed,
        (failsafe_block(names, ruler),),
        tuple(voice_blocks(names)),
        names.labels(),
        names.called,
    )


def _is_preset(mix: FunctionMix) -> bool:
    same = FunctionMix(ready=mix.ready, master="full", to=mix.to, modes=mix.modes, above=mix.above, below=mix.below)  # fmt: skip
    return mix == same and len(mix.modes) == 1 and mix.above == mix.below


def _servos_block(names: Names, servos: Sequence[Servo], cut: tuple[str, ...]) -> Block:
    """Which shares of which functions every servo takes."""
    rows = []
    for place, servo in enumerate(servos):
        lines = []
        for taken in servo.takes:
            said = [f"{names.signal(taken.function)} {two_sided(taken.below, taken.above)}"]
            lines.append(", ".join([*said, *([] if taken.trim else [NO_TRIM])]))
        cells = (names.signal(servo.part), in_lines(lines) or "mixes only")
        rows.append(Row(f"servo {servo.part}", cells, (at("servos", place),)))
    return Block(
        "servos",
        "Servos and what they take of the functions",
        cut,
        columns=("Servo", "Takes"),
        rows=in_pairs(rows),
    )


def _mixes_block(names: Names, mixes: Sequence[tuple[str, FunctionMix]]) -> Block:
    """The mixes: the transmitter's ready ones by their names, and those of the pilot."""
    rows, count = [], dict[str, int]()
    for path, mix in mixes:
        slow = (mix.delay_in, mix.delay_out)
        said = how_words(names, mix.bend, mix.trim, slow, mix.from_low)
        said += held_words(names, mix.when, mix.modes)
        head = capitalized(mix.ready) if mix.ready else "Mix of your own"
        pair = f"{names.signal(mix.master)} to {names.signal(mix.to)}"
        key = f"mix {mix.master} {mix.to}"
        count[key] = count.get(key, 0) + 1
        cells = (pair, head, two_sided(mix.below, mix.above), ", ".join(said) or "–")
        rows.append(Row(f"{key} {count[key]}", cells, (path,)))
    return Block(
        "mixes", "Mixes", columns=("From, to", "Mix", "Share", "How, and when"), rows=tuple(rows)
    )
