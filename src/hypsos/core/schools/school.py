# SPDX-License-Identifier: GPL-3.0-or-later
"""What a school says of itself."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.from_model.hardware import Steps
from hypsos.core.schools.lacks import Step
from hypsos.core.schools.on_paper.school_pages import SchoolPages
from hypsos.core.schools.settings_file import Settings
from hypsos.core.schools.stand_in.parts import Radio


class School(NamedTuple):
    """A way of thinking of transmitters.

    ``settings``: the type of its settings. ``reductions``: what takes out of a design what it can't
    say, in their order. ``translate``: a reduced design as its settings, in the steps of a
    transmitter of that name. ``radio``: the small transmitter that such settings make.
    ``pages``: what a sheet says of them. ``in_signs``: the same
    settings with the reversal of outputs in the signs of their lines."""

    name: str
    title: str
    settings: type[Settings]
    reductions: tuple[Callable[[Model, Profile], Step], ...]
    translate: Callable[[Model, Steps, str], Any]
    radio: Callable[[Any], Radio]
    pages: Callable[[Model, Any, Mapping[str, str]], SchoolPages]
    in_signs: Callable[[Any], Any]
