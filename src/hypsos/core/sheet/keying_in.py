# SPDX-License-Identifier: GPL-3.0-or-later
"""Keying in step by step: the steps of a sheet, what was keyed in before, and what has changed
since."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from hypsos.core.sheet.sheet_blocks import Sheet

BETWEEN = "\t"
"""Stands between the cells of a step where it is remembered."""
WHOLE = "*"
"""Remembered once every step was keyed in: from then on a new one is a change."""
LOOKED_AT = ("checks/", "first/", WHOLE)
"""What is remembered and is no setting of a transmitter."""


class KeyedStep(NamedTuple):
    """A step: its ``key``, the block that it is of, with its sentences, its caution and its columns, and its own
    cells. ``keyed``: it is keyed in, and not only looked at. ``covers`` and ``hands`` as in a
    row."""

    key: str
    title: str
    lines: tuple[str, ...]
    caution: str
    columns: tuple[str, ...]
    cells: tuple[str, ...]
    keyed: bool
    covers: tuple[str, ...]
    hands: tuple[tuple[str, float], ...]

    @property
    def said(self) -> str:
        """What it says, as it is remembered."""
        return BETWEEN.join(self.cells)


def steps_of(sheet: Sheet) -> list[KeyedStep]:
    """The steps of a sheet, in their order."""
    found = []
    for block in sheet.blocks:
        if not block.ticked:
            continue
        for row in block.rows:
            step = KeyedStep(
                key=f"{block.key}/{row.key}",
                title=block.title,
                lines=block.lines,
                caution=block.caution,
                columns=block.columns,
                cells=row.cells,
                keyed=block.keyed,
                covers=row.covers,
                hands=row.hands,
            )
            found.append(step)
    return found


def kept_numbers(kept: Mapping[str, str]) -> dict[str, str]:
    """The numbers of conditions and shared values and the letters of curves that a transmitter has
    already, by name or by points: a new one takes none of them."""
    found: dict[str, str] = {}
    for key, said in kept.items():
        first = said.split(BETWEEN)[0]
        name = key.partition("/")[2]
        for kind in ("condition ", "shared ", "curve "):
            if name.startswith(kind):
                found[name.removeprefix(kind)] = first.split(" ")[0]
    return found


class StepChange(NamedTuple):
    """A step that is another than when it was keyed in. ``before``: its cells then, () where it is
    new; ``step``: as it is now, None where it is gone."""

    key: str
    before: tuple[str, ...]
    step: KeyedStep | None


class Standing(NamedTuple):
    """How far keying in has come: the steps that are ``done`` as they are now, those ``left``, and
    what has ``changed`` since it was keyed in."""

    done: frozenset[str]
    left: tuple[str, ...]
    changed: tuple[StepChange, ...]


def standing(steps: Sequence[KeyedStep], kept: Mapping[str, str]) -> Standing:
    """What was keyed in, beside the steps as they are now. Steps that are only looked at are no
    changes: they are done again where they say something else."""
    done, left, changed = set(), list[str](), list[StepChange]()
    for step in steps:
        before = kept.get(step.key)
        if before == step.said:
            done.add(step.key)
        elif not step.keyed or (before is None and WHOLE not in kept):
            left.append(step.key)
        else:
            cells = () if before is None else tuple(before.split(BETWEEN))
            changed.append(StepChange(step.key, cells, step))
    known = {step.key for step in steps}
    for key, said in kept.items():
        if key not in known and not key.startswith(LOOKED_AT):
            changed.append(StepChange(key, tuple(said.split(BETWEEN)), None))
    return Standing(frozenset(done), tuple(left), tuple(changed))
