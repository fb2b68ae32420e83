"""What a sheet is made of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple


@dataclass(frozen=True)
class SheetStep:
    """One thing to key in or to check: its number, what, to which value, and what must then be seen."""

    number: int
    what: str
    value: str
    expect: str


@dataclass(frozen=True)
class Section:
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
    sections: tuple[Section, ...]
    closing: str
