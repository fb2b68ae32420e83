"""Aeroplanes to begin with. A new one is a file here and a line in ``TEMPLATES``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from hypsos.core.document import Model
from hypsos.core.templates.sailplane import v_tail_sailplane
from hypsos.core.templates.tug import tug


@dataclass(frozen=True)
class Template:
    """An aeroplane to begin with: its title, one line about it, and how it is made under a name."""

    title: str
    about: str
    make: Callable[[str], Model]


TEMPLATES: dict[str, Template] = {
    "tug": Template(
        "Tug with flaperons", "One motor, two flaperon servos, elevator, rudder, tail wheel, tow release.", tug
    ),
    "v_tail_sailplane": Template(
        "V-tail sailplane",
        "Four wing servos (two ailerons, two flaps) and two in the tail; one motor.",
        v_tail_sailplane,
    ),
}
