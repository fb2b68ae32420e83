# SPDX-License-Identifier: GPL-3.0-or-later
"""Where sliders and knobs give the surfaces nothing: for figures that are to show a stick alone."""

from __future__ import annotations

import itertools

import numpy as np

from hypsos.core.base.backends import of_each
from hypsos.core.base.cache import kept_by
from hypsos.core.document.document import Model
from hypsos.core.engine import compile_plan
from hypsos.core.engine.sweep import settled_together
from hypsos.core.parts.transmitter import Control

LITTLE = 0.5
"""Percent of full deflection, all surfaces together, that are no reason to leave the middle."""


def _read(model: Model) -> tuple[object, ...]:
    """What the demands of the surfaces hang on: aeroplane, transmitter, program, and how the leads
    turn a demand into an angle, for behaviours that give several surfaces one angle."""
    asks_nothing = {"failsafe": None, "seen_right": None}
    turning = tuple(lead.changed(asks_nothing) for lead in model.leads)
    return model.airframe, model.transmitter, model.program, turning


@kept_by(_read)
def quiet_hands(model: Model) -> dict[str, float]:
    """Slider or knob -> the place, of its middle and its two ends, where the surfaces stand nearest
    to neutral with everything else at rest; the middle where an end is no better. What gives thrust
    is left out: it stands low.

    A brake slider is shut there. With the slider in its middle the brakes would be half out.
    """
    thrust = model.program.axis("thrust")
    names = [c.name for c in _turning(model) if thrust is None or c.name != thrust.control]
    if not names:
        return {}
    situations = [{name: place} for name, place in itertools.product(names, (0.0, -100.0, 100.0))]
    found = settled_together(compile_plan(model), situations)
    away = np.zeros(len(situations))
    # by what is asked of the surfaces: so it holds before a lead is plugged in, too
    for surface in model.airframe.surfaces:
        asked = found.sums.get(surface.name, 0.0)
        away += np.abs(of_each(asked, len(situations)))
    out = {}
    for name, (middle, low, high) in zip(names, away.reshape(-1, 3).tolist(), strict=True):
        if middle - LITTLE <= min(low, high):
            out[name] = 0.0
        else:
            out[name] = -100.0 if low <= high else 100.0
    return out


def quiet_words(model: Model) -> list[str]:
    """Where each of them stands, in words: ``'Brake slider at −100'``, with the figure that the
    sheet has at its lines."""
    places = {0.0: "in the middle", -100.0: "at −100", 100.0: "at 100"}
    hands = quiet_hands(model)
    return [f"{c.label} {places[hands[c.name]]}" for c in _turning(model) if c.name in hands]


def _turning(model: Model) -> list[Control]:
    return [c for c in model.transmitter.controls if c.kind in ("slider", "knob")]
