# SPDX-License-Identifier: GPL-3.0-or-later
"""What a statement is: what it claims, how it is asked, what would mend a model that breaks it.

A statement is one file of this room with a ``STATEMENT``, and a line in ``STATEMENTS``. The rest of
the program knows none of them by its code. It is asked in up to four ways, each by what it needs:
of everything a motor can be told (``motors``), of the document alone (``document``), of the
surfaces in every case that decides (``surfaces``), of the conditions (``conditions``)."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from hypsos.core.document.document import Model
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.review.findings import Ask, Finding, Level
from hypsos.core.review.search.condition_search import ConditionSearch
from hypsos.core.review.search.motor_rule import MotorRule
from hypsos.core.review.search.surface_search import SurfaceSearch

Repairs = Iterator[tuple[str, Callable[[], Model]]]
"""Changes that may mend a finding: in words, and what makes the document with it."""


@dataclass(frozen=True)
class ReviewQuestion:
    """A piece of the search: its name, and what finds where its statement is broken."""

    name: str
    find: Callable[[], Iterator[Finding]]


@dataclass(frozen=True)
class DocumentQuestion(ReviewQuestion):
    """One that is read off the document; ``count``: how many things are looked at."""

    count: int


@dataclass(frozen=True)
class SurfaceQuestion(ReviewQuestion):
    """One about some surfaces, by name.

    What it hangs on is how they are moved, and ``hangs_on`` besides. ``in_time``: it is looked at
    as time passes; None: at rest and in time; ``at_rest_or_in_time`` False: neither, it hangs on
    what decides alone."""

    parts: tuple[str, ...]
    hangs_on: tuple[Any, ...] = ()
    in_time: bool | None = False
    looks: bool = True


@dataclass(frozen=True)
class Statement:
    """A statement: its code, what it claims, how bad it is where it is broken, and in one word what
    it is about.

    ``on_paper``: it is read off the document and asked however much else there is.
    """

    code: str
    claim: str
    level: Level
    about: str
    on_paper: bool = False
    motors: type[MotorRule] | None = None
    document: Callable[[Ask], Iterator[DocumentQuestion]] | None = None
    surfaces: Callable[[SurfaceSearch], Iterator[SurfaceQuestion]] | None = None
    conditions: Callable[[ConditionSearch], Iterator[ReviewQuestion]] | None = None
    repairs: Callable[[Model, Finding], Repairs] | None = None


# -- what repairs go by -------------------------------------------------------------------------


def place_in(path: str, list_: str) -> int | None:
    """The place in a list of the document that a path leads to: ``'program.mixes[3].gain'`` in
    ``program.mixes`` is 3."""
    found = re.match(rf"{re.escape(list_)}\[(\d+)\]", path)
    return int(found[1]) if found else None


def lead_place(finding: Finding) -> int | None:
    """The place of the lead that a finding names."""
    return place_in(finding.part, "leads")


def line_named(model: Model, finding: Finding) -> MixLine | None:
    """The mix that a finding names."""
    i = place_in(finding.part, "program.mixes")
    return None if i is None else model.program.mixes[i]
