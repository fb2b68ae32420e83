# SPDX-License-Identifier: GPL-3.0-or-later
"""What a pulse is on the aeroplane: millimetres at the trailing edge, degrees, words."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from hypsos.core.base.backends import ARRAYS
from hypsos.core.document.document import Model
from hypsos.core.parts.airframe import Motor
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.leads import Lead
from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.from_model.hardware import keyed_leads
from hypsos.core.wording.words import Part, standing


class Ruler:
    """Reads the pulses of a reduced design off its parts."""

    def __init__(self, model: Model) -> None:
        self._model = model
        self._parts: dict[str, Part] = {p.name: p for p in model.airframe.moved()}

    @cached_property
    def leads(self) -> dict[int, Lead]:
        """The leads that are an output of their own, by port."""
        return {lead.port: lead for lead in keyed_leads(self._model) if lead.port is not None}

    def part_of(self, port: int) -> str:
        """The name of the part at a port."""
        return self.leads[port].target

    def mm(self, port: int, us: Numbers) -> Numbers | None:
        """Where the trailing edge stands for these pulses, in millimetres; None without a ruler."""
        stand, motion = self._stand(port, us)
        mm = motion.angles(stand, ARRAYS)[1]
        return None if mm is None else np.asarray(mm, float)

    def degrees(self, port: int, us: Numbers) -> Numbers | None:
        """The angle of a part for these pulses; None for a motor."""
        stand, motion = self._stand(port, us)
        deg = motion.angles(stand, ARRAYS)[0]
        return None if deg is None else np.asarray(deg, float)

    def _stand(self, port: int, us: Numbers) -> tuple[Numbers, Motion]:
        """How far a part goes for these pulses, in percent of its travel; and its motion."""
        lead, tx = self.leads[port], self._model.transmitter
        motion = Motion(lead, self._parts[lead.target])
        low, high = motion.limits()
        stand = np.clip(lead.direction * (us - tx.centre_us) / tx.us_per_percent, low, high)
        return stand, motion

    def stands(self, port: int, us: float) -> str:
        """Where a part stands for a pulse, in words: ``'12.9 mm down'``."""
        part = self._parts[self.part_of(port)]
        if isinstance(part, Motor):
            return ""
        stand, motion = self._stand(port, np.array([us]))
        deg, mm = motion.angles(stand, ARRAYS)
        shown = None if deg is None else float(np.asarray(deg)[0])
        ruler = None if mm is None else float(np.asarray(mm)[0])
        return standing(part, float(stand[0]), shown, ruler)
