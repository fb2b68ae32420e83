# SPDX-License-Identifier: GPL-3.0-or-later
"""What a transmitter can't say of a design, what was done instead, and what it costs."""

from __future__ import annotations

from typing import NamedTuple

from hypsos.core.document.document import Model


class NearCurve(NamedTuple):
    """A curve for which fewer points stand: of which surface, how many, and by how much that is off
    at the most."""

    label: str
    points: int
    us: float
    mm: float


class Lack(NamedTuple):
    """One thing that a transmitter does not have.

    ``kind``: what sort of thing. ``need``, ``have``: what the design asks for and what there is, in
    words. ``instead``: what was done. ``help``: what the pilot can do himself. ``motor``: it
    touches when or how fast a motor turns. ``cost``: what it costs, in sentences, once that was
    worked out."""

    kind: str
    need: str
    have: str
    instead: str
    help: str = ""
    motor: bool = False
    cost: tuple[str, ...] = ()


class Reduced(NamedTuple):
    """A design as a transmitter can have it, and what was taken out of it."""

    model: Model
    lacks: tuple[Lack, ...]
    stages: tuple[Stage, ...] = ()
    """The steps that took something out, for what each costs."""
    near: tuple[NearCurve, ...] = ()
    """Curves that stand by fewer points, where that is off by no more than half a percent."""


class Stage(NamedTuple):
    """A step of a reduction that took something out: the design before it and after it."""

    before: Model
    after: Model
    lacks: tuple[Lack, ...]


class Step(NamedTuple):
    """One step of a reduction: the design after it, and what it took out."""

    model: Model
    lacks: tuple[Lack, ...] = ()
