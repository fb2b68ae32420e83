# SPDX-License-Identifier: GPL-3.0-or-later
"""Rates by the positions of a switch: low at the first, all of it at the last."""

from __future__ import annotations

import numpy as np

from hypsos.core.document.program import FULL, Axis, Setting
from hypsos.core.parts.transmitter import Control

LOWEST = 0.6
"""The share of the rate that a new rates switch gives at its first position."""


def on_rates_switch(axis: Axis, control: Control | None) -> Axis:
    """An axis with its rates on a switch, or on none.

    An axis that had one rate gets low rates at the first position, rising evenly to what it had at
    the last: a switch that changes nothing would be flown as one that does. One that had a switch
    already keeps its figures; positions that are new take those of the last one."""
    if control is None:
        return axis.changed({"switch": None, "settings": axis.settings[:1]})
    count = len(control.positions)
    if axis.switch is None:
        full = axis.settings[0] or FULL
        made = tuple(_lowered(full, float(share)) for share in np.linspace(LOWEST, 1.0, count))
        return axis.changed({"switch": control.name, "settings": made})
    # positions that come are as the last one that is set; positions that go are cut off
    last = next((s for s in reversed(axis.settings) if s is not None), FULL)
    settings = (*axis.settings, *(last,) * count)[:count]
    return axis.changed({"switch": control.name, "settings": settings})


def _lowered(setting: Setting, share: float) -> Setting:
    """A setting with this share of its rates."""
    return setting.changed(
        {
            "rate_neg": round(share * setting.rate_neg, 1),
            "rate_pos": round(share * setting.rate_pos, 1),
        }
    )
