# SPDX-License-Identifier: GPL-3.0-or-later
"""What an output sends while its sum stands somewhere."""

from __future__ import annotations

import numpy as np

from hypsos.core.schools.settings_file import Settings
from hypsos.core.schools.stand_in.machine import Moves, simulate
from hypsos.core.schools.stand_in.parts import Channel, Hand, Radio, RadioReceiver, Safe, Share, Sum

PROBE = "probe"


def pulse_at(settings: Settings, output: Channel, percent: float) -> float:
    """The pulse of an output in microseconds while its sum stands at so many percent, all that is
    slow at its end and nothing cut."""
    still = output.changed({"slow_up": 0.0, "slow_down": 0.0, "cut": ""})
    radio = Radio(
        frame_s=settings.frame_s,
        centre_us=settings.centre_us,
        us_per_percent=settings.us_per_percent,
        hands=(Hand(name=PROBE, positions=0, rest=percent),),
        sums=(Sum(name=output.sum, shares=(Share(source=PROBE),)),),
        channels=(still,),
        receiver=RadioReceiver(after_s=1.0, ports={output.port: Safe()}),
    )
    sent = simulate(radio, Moves(np.zeros(1), {}))
    return float(sent[output.port][0, 0])
