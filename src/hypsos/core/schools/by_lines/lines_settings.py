# SPDX-License-Identifier: GPL-3.0-or-later
"""What is keyed into a transmitter that thinks by lines."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from hypsos.core.schools.settings_file import Settings
from hypsos.core.schools.stand_in.parts import MOST, Command, Mode, Rule, Sum


class LinesSettings(Settings):
    """Settings by lines.

    ``inputs``: what each hand asks for. ``logic``: conditions of two things at the most. ``modes``:
    the first whose condition holds is flown. ``channels``: sums of lines, the helpers first; an
    output names the channel that it sends."""

    school: Literal["by lines"] = "by lines"
    inputs: Annotated[tuple[Command, ...], Field(max_length=MOST)] = ()
    logic: Annotated[tuple[Rule, ...], Field(max_length=MOST)] = ()
    modes: Annotated[tuple[Mode, ...], Field(max_length=MOST)] = ()
    channels: Annotated[tuple[Sum, ...], Field(max_length=MOST)] = ()
