# SPDX-License-Identifier: GPL-3.0-or-later
"""The guard of the motors written as plain rules, for transmitters with free logic.

Sought: rules after which *guard_armed* holds in the very frames in which the design's guard is
armed. What must stay true is said where the design says it: arming takes the switch moved to run by
a hand, with everything the level asks for in that frame; a hold cuts until the stick has rested low
after its end; a long loss locks until the switch has been at cut."""

from __future__ import annotations

from collections.abc import Mapping

from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard, StartCheck
from hypsos.core.schools.from_model.hardware import Steps
from hypsos.core.schools.from_model.rule_book import ConditionRules, RuleBook, turned_round

BACK_S = 0.2
"""A lost link is back once it has held for so long without a break."""
AFTER_HOLD_S = 0.2
"""Without a rest of its own the stick rests low for so long after a hold."""
ARMED, LOCKED, CUT = "guard_armed", "guard_locked", "guard_cut"


class GuardRules:
    """Writes the rules of a guard into a book.

    ``told``: motor -> the channels that say what it would be told, each to be at or below the
    threshold; none for a motor that the stick alone decides."""

    def __init__(
        self,
        model: Model,
        guard: Guard,
        conditions: ConditionRules,
        book: RuleBook,
        steps: Steps,
        told: Mapping[str, tuple[str, ...]],
    ) -> None:
        self._model, self._guard, self._book, self._steps = model, guard, book, steps
        self._conditions, self._told = conditions, told

    def write(self) -> None:
        """Write them: *guard_armed*, *guard_locked* and *guard_cut* among them."""
        guard, book = self._guard, self._book
        cut = book.chain("or", [f"{guard.switch}@{i}" for i in guard.cut], "guard_at_cut")
        run = turned_round(cut)
        low = self._low()
        hold = self._hold()
        arms = self._arms(run, low)
        relocked = self._relocked(run)
        stopped = [turned_round(run), *([relocked] if relocked else []), *([hold] if hold else [])]
        sets = [arms, *self._comes_back(low, hold, arms, run, relocked)]
        on, off = book.chain("or", sets, "guard_sets"), book.chain("or", stopped, "guard_stops")
        book.named(ARMED, "latch", on, off)
        if guard.start_check:
            book.named("guard_ever", "or", "was:guard_ever", ARMED)
        cut_now = [turned_round(run), *([hold] if hold else [])]
        stands = book.chain("or", cut_now, "guard_stands")
        book.named(CUT, "or", stands, stands)
        book.named(LOCKED, "and", f"!{ARMED}", turned_round(stands))

    def _low(self) -> str:
        """Where stick and motors are low."""
        guard, book = self._guard, self._book
        level = self._steps.percent(guard.threshold)
        found = []
        axis = self._model.program.axis("thrust")
        if axis is not None:
            found.append("!" + book.add("guard_stick_up", "above", axis.control, level=level))
        for motor in sorted(self._told):
            for channel in self._told[motor]:
                wanted = f"guard_{channel}"[:37]
                found.append("!" + book.add(wanted, "above", channel, level=level))
        if not found:
            return self._always()
        return book.chain("and", found, "guard_low")

    def _always(self) -> str:
        return "!" + self._book.add("never", "above", "full", level=150.0)

    def _rested(self, low: str) -> str:
        return self._book.add(
            "guard_rested", "lasts", low, seconds=self._steps.seconds(self._guard.rest_s)
        )

    def _arms(self, run: str, low: str) -> str:
        """The movement to run, with everything that it asks for."""
        guard, book = self._guard, self._book
        wants = [book.add("guard_to_run", "begins", run)]
        if guard.also is not None:
            wants.append(self._conditions.as_asked(guard.also))
        if guard.level == 2:
            wants.append(low)
        elif guard.level > 2:
            wants.append(self._rested(low))
        if guard.start_check:
            wants.append(self._checked())
        return book.chain("and", wants, "guard_arms")

    def _checked(self) -> str:
        """What must stand where, until the motors have been armed once."""
        book = self._book
        good = book.chain(
            "and", [self._stands(check) for check in self._guard.start_check], "guard_checked"
        )
        return book.add("guard_may", "or", good, "was:guard_ever")

    def _stands(self, check: StartCheck) -> str:
        if check.position is not None:
            return f"{check.control}@{check.position}"
        book = self._book
        low = book.add("guard_check", "below", check.control, level=check.low)
        high = book.add("guard_check", "above", check.control, level=check.high)
        return book.add("guard_check", "and", f"!{low}", f"!{high}")

    def _hold(self) -> str:
        """Where a hold stops the motors; nothing without one."""
        holds = [self._conditions.as_asked(text) for text in self._guard.holds]
        return self._book.chain("or", holds, "guard_hold") if holds else ""

    def _relocked(self, run: str) -> str:
        """Where a lost link has locked; nothing below level 4."""
        guard, book = self._guard, self._book
        if guard.level < 4:
            return ""
        back = book.add("guard_link_back", "lasts", "link", seconds=BACK_S)
        loss = book.add("guard_loss", "latch", "!link", back)
        returned = book.add("guard_returns", "begins", "link")
        lasted = book.add(
            "guard_long_loss", "lasts", loss, seconds=self._steps.seconds(guard.relock_s)
        )
        away = book.add("guard_away", "or", "!link", returned)
        lost = book.add("guard_lost", "and", away, lasted)
        free = book.add("guard_unlocks", "and", turned_round(run), f"!{lost}")
        return book.add("guard_relocked", "latch", lost, free)

    def _comes_back(self, low: str, hold: str, arms: str, run: str, relocked: str) -> list[str]:
        """What arms without the switch: the end of a hold, or a rest that wakes."""
        guard, book = self._guard, self._book
        found = []
        if hold:
            found.append(self._after_hold(low, hold, arms, run, relocked))
        if guard.wakes_when_low and guard.also is None:
            rest_s = self._steps.seconds(guard.rest_s)
            free = book.add("guard_free", "and", low, turned_round(hold)) if hold else low
            wakes = book.add("guard_wakes", "lasts", free, seconds=rest_s)
            if guard.start_check:
                wakes = book.add("guard_wakes_checked", "and", wakes, self._checked())
            found.append(wakes)
        return found

    def _after_hold(self, low: str, hold: str, arms: str, run: str, relocked: str) -> str:
        """A hold has stopped armed motors, has ended, and the stick has rested low since."""
        guard, book = self._guard, self._book
        again_s = guard.rest_s if guard.level >= 3 else max(guard.rest_s, AFTER_HOLD_S)
        free = book.add("guard_free", "and", low, turned_round(hold))
        again = book.add("guard_again", "lasts", free, seconds=self._steps.seconds(again_s))
        running = book.add("guard_running", "or", f"was:{ARMED}", arms)
        caught = book.add("guard_caught", "and", hold, running)
        gone = book.add("guard_let_go", "and", f"was:{ARMED}", f"!{caught}")
        ends = [turned_round(run), *([relocked] if relocked else []), gone]
        waits = book.add("guard_waits", "latch", caught, book.chain("or", ends, "guard_ends"))
        return book.add("guard_back", "and", waits, again)
