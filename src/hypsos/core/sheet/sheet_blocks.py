# SPDX-License-Identifier: GPL-3.0-or-later
"""A whole sheet: its head, its blocks, its last words."""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.schools.on_paper.blocks import Block


class Sheet(NamedTuple):
    """``name`` and ``mark`` stand on every page: what the sheet is of, and the digest of the design
    that it says."""

    title: str
    subtitle: str
    blocks: tuple[Block, ...]
    closing: str
    name: str = ""
    mark: str = ""
