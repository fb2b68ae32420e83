# SPDX-License-Identifier: GPL-3.0-or-later
"""What a sheet is made of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from hypsos.core.document.document import Model


@dataclass(frozen=True)
class Keyed:
    """What is keyed in, as data: the ``settings`` of the transmitter and the receiver, in the terms
    of a school, such that they send the same pulses as the model; ``turned`` are the parts whose
    signs they hold the other way round."""

    settings: Model
    turned: frozenset[str] = frozenset()


@dataclass(frozen=True)
class SheetStep:
    """One thing to key in or to check: its number, what, to which value, and what must then be
    seen."""

    number: int
    what: str
    value: str
    expect: str


@dataclass(frozen=True)
class SheetSection:
    """Steps that belong together, with the caution that belongs to them."""

    title: str
    steps: tuple[SheetStep, ...]
    caution: str = ""


class Sheet(NamedTuple):
    """A whole sheet."""

    title: str
    subtitle: str
    ports: tuple[tuple[str, str, str], ...]
    """Port, lead, what it moves."""
    sections: tuple[SheetSection, ...]
    closing: str
    proof: tuple[str, ...] = ()
    """What the shakedown says of the model, for the first page."""
