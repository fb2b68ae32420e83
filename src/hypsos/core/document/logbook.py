# SPDX-License-Identifier: GPL-3.0-or-later
"""What is written down after a flight."""

import datetime
from typing import Annotated

from pydantic import Field

from hypsos.core.base.values import Line, Note, Value


class Flight(Value):
    """One flight. ``trims`` are clicks by axis (+ right wing down, nose up, nose right); ``wind``
    in the pilot's words."""

    date: Annotated[
        datetime.date, Field(ge=datetime.date(1950, 1, 1), le=datetime.date(2099, 12, 31))
    ]
    place: Line = ""
    wind: Line = ""
    battery: Line = ""
    minutes: Annotated[float, Field(ge=0, le=1440)] = 0.0
    trims: dict[str, int] = {}
    remark: Note = ""


TRIM_SENSE = {"roll": ("left", "right"), "pitch": ("down", "up"), "yaw": ("left", "right")}


def trim_words(axis: str, clicks: int) -> str:
    """Clicks with their sense: ``'pitch 3 up'``, ``'roll 0'``."""
    low, high = TRIM_SENSE.get(axis, ("less", "more"))
    if not clicks:
        return f"{axis} 0"
    return f"{axis} {abs(clicks)} {high if clicks > 0 else low}"
