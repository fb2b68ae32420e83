# SPDX-License-Identifier: GPL-3.0-or-later
"""What the settings of every school begin with: for which design on which transmitter, and the
hardware."""

from __future__ import annotations

from typing import Any

from hypsos.core.document.document import Model, digest
from hypsos.core.schools.from_model.hardware import Steps, hands, levers, receiver


def head(model: Model, steps: Steps, transmitter: str) -> dict[str, Any]:
    """The fields of settings that no school says in its own way."""
    return {
        "model": model.name,
        "transmitter": transmitter,
        "design": digest(model),
        "frame_s": model.program.frame_s,
        "centre_us": model.transmitter.centre_us,
        "us_per_percent": model.transmitter.us_per_percent,
        "hands": hands(model),
        "levers": levers(model),
        "failsafe": receiver(model, steps),
    }
