# SPDX-License-Identifier: GPL-3.0-or-later
"""What a school says on a sheet."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from hypsos.core.schools.on_paper.blocks import Block


class SchoolPages(NamedTuple):
    """``reading``: how to read the sheet, a sentence or two each. ``keyed``: the blocks up to the
    motors' lines, after which the guard is tested. ``failsafe`` and ``voice`` come after it. ``labels``: what hands,
    commands and sums are called; ``called``: the same for any name or reference in the settings."""

    reading: tuple[str, ...]
    keyed: tuple[Block, ...]
    failsafe: tuple[Block, ...]
    voice: tuple[Block, ...]
    labels: Mapping[str, str] = {}
    called: Callable[[str], str] = str

    def blocks(self) -> tuple[Block, ...]:
        """All blocks with something in them."""
        return tuple(x for x in (*self.keyed, *self.failsafe, *self.voice) if x.rows)
