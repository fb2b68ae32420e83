# SPDX-License-Identifier: GPL-3.0-or-later
"""What is claimed of every model: a file for each statement, and a line in ``STATEMENTS``."""

from collections.abc import Callable

from hypsos.core.document.document import Model
from hypsos.core.review.rules import (
    announcements_due,
    battery_change,
    behaviours_off,
    cancelled_lines,
    channel_defaults,
    conditions_in_use,
    flicker,
    linkage_reach,
    lost_travel,
    passages,
    ports_of_servos,
    power_after_failsafe,
    power_at_arming,
    power_without_link,
    pulse_at_idle,
    receiver_numbers,
    shared_bounds,
    steering,
    sudden_power,
    switch_jumps,
    switch_positions,
    symmetry,
    transmitter_needs,
    unarmed_motors,
    wing_edge,
    without_link,
)
from hypsos.core.review.rules.statement import Statement
from hypsos.core.review.search.motor_rule import MotorRule
from hypsos.core.review.search.motor_search import MotorSearch

_IN_THE_ORDER_OF_DANGER = (
    unarmed_motors, sudden_power, power_after_failsafe, battery_change, pulse_at_idle, power_at_arming, power_without_link,
    steering, lost_travel, symmetry, behaviours_off, without_link, passages, switch_positions, shared_bounds, ports_of_servos,
    channel_defaults, receiver_numbers, transmitter_needs, linkage_reach, switch_jumps, cancelled_lines, wing_edge,
    conditions_in_use, flicker, announcements_due,
)  # fmt: skip
STATEMENTS: dict[str, Statement] = {
    rule.STATEMENT.code: rule.STATEMENT for rule in _IN_THE_ORDER_OF_DANGER
}
"""Each statement by its code, in the order of danger, in which they are searched."""


def motor_rules(model: Model) -> list[type[MotorRule]]:
    """What is looked for in everything that can happen to the motors of a model."""
    return [
        s.motors for s in STATEMENTS.values() if s.motors is not None and s.motors.asked_of(model)
    ]


def motor_search(
    model: Model, most: int, ended: Callable[[], bool], stopped: Callable[[], bool] | None = None
) -> MotorSearch:
    """The search of a model's motors for every statement about them; see :class:`MotorSearch`."""
    return MotorSearch(model, motor_rules(model), most, ended, stopped)
