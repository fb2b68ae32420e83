# SPDX-License-Identifier: GPL-3.0-or-later
"""G1: every linkage reaches what is wanted of it, without binding, in fine steps."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hypsos.core.base.backends import ARRAYS
from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.parts.airframe import Device, Surface
from hypsos.core.parts.lead_motion import Motion
from hypsos.core.parts.pulses import servo_percent
from hypsos.core.review.findings import Ask, Finding
from hypsos.core.review.rules.statement import DocumentQuestion, Statement
from hypsos.core.wording.words import degrees

REACHED = 0.9
"""Of a wanted deflection: so much at the least must be reached."""

STEP_DEG = 0.2
"""Degrees a surface may move for a microsecond of pulse."""


def linkages(model: Model) -> Iterator[Finding]:
    """Linkages that bind, do not reach what is wanted, or move in coarse steps."""
    parts = {p.name: p for p in model.airframe.moved()}
    for i, lead in enumerate(model.leads):
        part = parts[lead.target]
        if lead.linkage is None or not isinstance(part, Surface | Device):
            continue
        motion = Motion(lead, part)
        ends = np.asarray(servo_percent(np.array([-100.0, 100.0]), lead)[2] * lead.direction)
        low, high = motion.limits()
        where = f"leads[{i}].linkage"
        sides = ((high, ends.max()), (-low, -ends.min()))
        bound = [reach for reach, wanted in sides if wanted > reach + 1e-9]
        if bound:
            at = number(min(bound))
            text = f"The linkage of {part.label.lower()} binds before full command: it stops at {at} %."
            yield Finding("G1", "fault", where, text, seen=(part.name,))
            continue
        if isinstance(part, Surface):
            got = np.asarray(motion.degrees(np.array([ends.min(), ends.max()]), ARRAYS))
            for reached, wanted, sign in (
                (-float(got[0]), part.throw_up_deg, -1),
                (float(got[1]), part.throw_down_deg, 1),
            ):
                if reached < REACHED * wanted:
                    text = (
                        f"{part.label} reaches {degrees(part, sign * max(0.0, reached))} at full command, and "
                        f"{degrees(part, sign * wanted)} is wanted."
                    )
                    yield Finding("G1", "fault", where, text, seen=(part.name,))
        us = model.transmitter.us_per_percent
        if ends.max() == ends.min():
            continue  # its stops leave it no movement: there is no step to speak of
        slope = np.abs(np.diff(motion.degrees(np.linspace(ends.min(), ends.max(), 201), ARRAYS)))
        step = float(slope.max() / ((ends.max() - ends.min()) / 200.0 * us))
        if step > STEP_DEG:
            text = f"{part.label} moves {number(step, 2)}° for a microsecond: too coarse to trim. A longer horn helps."
            yield Finding("G1", "fault", where, text, seen=(part.name,))


def on_paper(ask: Ask) -> Iterator[DocumentQuestion]:
    """Every linkage."""
    yield DocumentQuestion(
        "linkages", lambda: linkages(ask.model), sum(x.linkage is not None for x in ask.model.leads)
    )


STATEMENT = Statement(
    "G1", "Every linkage reaches what is wanted of it, without binding, in fine steps.", "fault", "linkages",
    on_paper=True, document=on_paper,
)  # fmt: skip
