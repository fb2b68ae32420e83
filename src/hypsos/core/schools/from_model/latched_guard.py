# SPDX-License-Identifier: GPL-3.0-or-later
"""An arming lock made of latches alone, for transmitters whose conditions neither wait nor know
edges.

Sought: the motors armed in the very frames in which the design's guard of level 2 is. Three latches
do it. *seen*: the switch has been at cut since power-up. *locked*: at run, the stick was not low
while nothing was armed; only cut clears it. *armed*: at run with the stick low, seen and not locked,
until cut. Why no edge is needed: in the frame in which the switch comes to run, the stick is low or
it is not; if it is, that arms, if not, that locks, and either stays until the switch is at cut
again."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.schools.from_model.guard_rules import ARMED, CUT, LOCKED
from hypsos.core.schools.from_model.hardware import Steps
from hypsos.core.schools.from_model.rule_book import RuleBook, turned_round


def write_latched_guard(model: Model, guard: Guard, book: RuleBook, steps: Steps) -> None:
    """Write the rules into a book; *guard_armed* is their outcome."""
    cut = book.chain("or", [f"{guard.switch}@{i}" for i in guard.cut], "guard_at_cut")
    run = turned_round(cut)
    never = book.add("never", "above", "full", level=150.0)
    seen = book.add("guard_seen", "latch", cut, never)
    arms = book.add("guard_ready", "and", run, seen)
    if guard.level >= 2:
        axis = model.program.axis("thrust")
        control = axis.control if axis is not None else "throttle_stick"
        level = steps.percent(guard.threshold)
        up = book.add("guard_stick_up", "above", control, level=level)
        high = book.add("guard_high", "and", run, up)
        locks = book.add("guard_locks", "and", high, f"!was:{ARMED}")
        locked = book.add("guard_lock", "latch", locks, cut)
        low = book.add("guard_low", "and", f"!{up}", f"!{locked}")
        arms = book.add("guard_arms", "and", arms, low)
    book.named(ARMED, "latch", arms, cut)
    book.named(LOCKED, "and", run, f"!{ARMED}")
    book.named(CUT, "or", cut, cut)
