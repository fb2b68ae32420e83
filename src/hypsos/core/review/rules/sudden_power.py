# SPDX-License-Identifier: GPL-3.0-or-later
"""M2: nothing but the thrust control itself, or arming it, gives a motor more than 5 % at once."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np

from hypsos.core.base.backends import Array, Flags
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.parts.condition_text import opposite
from hypsos.core.review.findings import Finding, FindingMove, Level
from hypsos.core.review.rules.guard_repairs import WHOLE_GUARD, lock_after_lost_link
from hypsos.core.review.rules.statement import Repairs, Statement, line_named, place_in
from hypsos.core.review.search.motor_replay import ARMED, MORE, TURNS
from hypsos.core.review.search.motor_rule import BrokenWay, MotorAct, MotorRule, MotorWords
from hypsos.core.review.search.replay import (
    GAP_S,
    LONGEST_S,
    RESTED_S,
    Check,
    Played,
    Proof,
    Replay,
    proved,
)
from hypsos.core.review.search.state_search import TICK, WAIT, SearchStep
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import control_label

STANDS_S = 3.0
"""Seconds for which a motor may stand still by the failsafe before the re-lock keeps it from coming
back by itself."""
LITTLE = 2.0
"""Percent that a line may give a motor by itself."""


class SuddenPower(MotorRule):
    """A motor that gets more by an act that is not meant to give it any."""

    code = "M2"
    straight = True
    as_lived = True
    by = "by "

    def by_act(self, act: MotorAct, n: int) -> tuple[Flags, Array] | None:
        # to give a motor more is what a throttle is there for
        if act.knob in self.search.throttles:
            return None
        more = act.more(n)
        raised = (more > MORE) & act.armed & act.was_armed
        if act.knob == "link" or (act.brings_back and self.motors.level >= WHOLE_GUARD):
            # a short drop-out lets the motor go on where it was; only what the failsafe had
            # stopped starts again
            raised = raised & act.failsafe_acted(n)
        return (np.asarray(raised), more) if raised.any() else None

    def left_out(self, broken: BrokenWay) -> bool:
        """What is said as what comes of a change of the battery; or its controller does not start
        then."""
        # then power that comes back is a battery that was changed
        shared = self.model.receiver.power != "own battery"
        waits = self.model.leads[self.search.index[broken.lead]].waits_for_idle
        told = broken.lead in self.search.restarts or waits
        return self.search.knob(broken) == "power" and shared and told

    # -- the way ---------------------------------------------------------------------------------

    def way(
        self, broken: BrokenWay, way: list[SearchStep], acts: list[SearchStep]
    ) -> list[SearchStep] | None:
        last = next((step.control for step in reversed(way) if step.control), "")
        if broken.knob == TICK and last in self.search.throttles:
            return None  # what comes a frame later comes of the thrust control
        return self._single_act(broken.lead, way, acts)

    def _single_act(
        self, n: int, way: list[SearchStep], acts: list[SearchStep]
    ) -> list[SearchStep] | None:
        """The way with the one act of several after which the motor gets most; None where no single
        one gives it much.

        A trim lever goes to where it stands before that click in one go: how often it is clicked is
        of no account."""
        if len(acts) < 2:
            return [*way, *acts]
        stage = self.search.stage
        # the acts are played one after the other, each with time to settle
        before, rest_s = stage.moves(way, RESTED_S)
        start = (before[-1].t_s if before else 0.0) + max(rest_s, RESTED_S)
        gap = max(2 * stage.frame, min(max(GAP_S, stage.settle_s), LONGEST_S / 2 / len(acts)))
        moves = (
            *before,
            *(FindingMove(start + k * gap, act.control, act.to) for k, act in enumerate(acts)),
        )
        played = stage.play(moves, gap)
        stands, guard = (
            self.motors.risen(played, n),
            np.broadcast_to(played.result.guard, played.t_s.shape),
        )
        frames = [
            min(len(stands) - 1, int(np.ceil((start + k * gap) / stage.frame - 1e-6)))
            for k in range(len(acts))
        ]
        if (guard[frames[0] :] != ARMED).any():
            return [*way, *acts]  # it is not armed all the while: the proof tells
        # what an act gives shows until the next one
        ends = [*frames[1:], len(stands)]
        gained = [
            float(stands[at : max(at + 1, end)].max() - stands[at - 1])
            for at, end in zip(frames, ends, strict=True)
        ]
        k = int(np.argmax(np.array(gained) > max(gained) - 0.5))  # of about equal ones the first
        if gained[k] <= MORE:
            return None
        done = list(acts[:k])
        # of a button every press before it is part of the way
        return [*way, *(done[-1:] if acts[k].control.endswith("_trim") else done), acts[k]]

    def check(self, n: int, later: bool) -> Check:
        more = self.motors.more_later if later else self.motors.more

        def check(played: Played) -> bool:
            return more(played, n) > MORE

        return check

    def better(self, broken: BrokenWay, way: list[SearchStep], proof: Proof) -> Proof:
        """The same once everything has come to rest, where a fade half way lets less be seen."""
        n, stage, motors = broken.lead, self.search.stage, self.motors
        if broken.knob == WAIT or stage.settle_s <= GAP_S:
            return proof
        # in the middle of a fade an act gives less than once it has ended
        rested = proved(stage, way, self.check(n, False), rested=True)
        gains = motors.more(motors.play(n, rested), n) > motors.more(motors.play(n, proof), n) + 1.0
        return rested if gains else proof

    def figure(self, n: int, proof: Proof, played: Played) -> float:
        """By how much it is raised, in percent of power."""
        later = any(s.waits for s in proof.steps[-1:])
        return (self.motors.more_later(played, n) if later else self.motors.more(played, n)) / 2

    # -- the words -------------------------------------------------------------------------------

    def said(self, n: int, steps: Sequence[SearchStep], played: Played) -> MotorWords:
        last = next((s for s in reversed(steps) if s.control or s.waits), None)
        if last is not None and last.waits:
            return self._said_later(n, played)
        motors = self.motors
        stands = motors.standing(played, n)
        raised = motors.more(played, n) / 2
        before = power_percent(float(stands[max(1, played.last) - 1]))
        by = f"from {number(before)} to {number(before + raised)} % power"
        control = last.control if last is not None else ""
        if control in ("link", "power"):
            return self._said_of_return(n, control, stood=before <= TURNS / 2, by=by)
        most = int(np.argmax(stands[played.last :])) + played.last
        part = motors.cause_of(played, n, max(0, played.last - 1), most)
        at_idle = self._chosen_at_idle(part)
        if at_idle is not None and not self._raises_without(part, played, n):
            return self._said_of_choice(n, part, at_idle, by)
        text = f"{self._alone(control)} gives {motors.label(n)} more, {by}."
        return MotorWords(part or "program.mixes", text, "danger")

    def _said_of_return(self, n: int, control: str, stood: bool, by: str) -> MotorWords:
        """The link (or the receiver's power) is back; ``stood``: the motor stood still before."""
        level = self._comes_back(stood)
        if level is None:
            return MotorWords("program.guard.level", "", "advice")
        back = "the link returns" if control == "link" else "the receiver has power again"
        text = f"{self.motors.label(n)} starts again by itself when {back}, {by}."
        return MotorWords("program.guard.level", text, level)

    def _said_of_choice(self, n: int, part: str, at_idle: str, by: str) -> MotorWords:
        """A behaviour does what its choice of power at idle says: of the full one it is reminded."""
        if at_idle != "full":
            return MotorWords("", "", "advice")
        text = (
            f"The rudder gives {self.motors.label(n)} power by itself, {by}: "
            "differential thrust acts in full at idle, as you chose."
        )
        return MotorWords(part, text, "advice")

    def _alone(self, control: str) -> str:
        """What is moved and nothing else, to begin a sentence."""
        what = control_label(self.model, control) if control else "time"
        click = "one click of " if control.endswith("_trim") else ""
        alone = f"{click}{what} alone"
        return f"{alone[:1].upper()}{alone[1:]}"

    def _said_later(self, n: int, played: Played) -> MotorWords:
        """Where nothing is done: what waited for its time gives the motor more."""
        motors = self.motors
        stands, at = motors.standing(played, n), min(played.last + 3, len(played.t_s) - 1)
        before, most = float(stands[played.last : at + 1].max()), int(np.argmax(stands[at:])) + at
        by = f"from {number(power_percent(before))} to {number(power_percent(float(stands[most])))} % power"
        part = motors.cause_of(played, n, at, most) or "program.mixes"
        text = f"{motors.label(n)} gets more by itself as time passes, {by}, and nobody touches anything."
        return MotorWords(part, text, "danger")

    def _comes_back(self, stood: bool) -> Level | None:
        """How bad it is that a motor comes back with the link; ``stood``: it stood still before
        that.

        The first level of the guard holds nothing back. The whole guard lets a motor come back for
        as long as its re-lock time says, because a pilot in the air needs it; it is a fault only
        where that lets it stand still for long. That a motor which ran all the while runs faster
        again is advice."""
        if self.motors.level < 2:
            return "danger"
        if not stood:
            return "advice"
        guard = self.model.program.guard
        if self.motors.level < WHOLE_GUARD or guard is None:
            return "fault"
        stands_s = guard.relock_s - self.model.receiver.failsafe_after_s
        return "fault" if stands_s > STANDS_S else None

    def _chosen_at_idle(self, part: str) -> str | None:
        """What the behaviour behind a part of the document was said to give at idle; None where it
        has no such choice."""
        i = place_in(part, "program.recipes")
        return None if i is None else self.model.program.recipes[i].given_at_idle

    def _raises_without(self, part: str, played: Played, n: int) -> bool:
        """Whether the motor gets more even with that behaviour off."""
        off = place_in(part, "program.recipes")
        recipes = list(self.model.program.recipes)
        if off is not None:
            recipes[off] = recipes[off].changed({"on": False})
        program = self.model.program.changed({"recipes": tuple(recipes)})
        stage = Replay(self.model.changed({"program": program}))
        return self.motors.more(stage.again(played), n) > MORE


def repairs(model: Model, finding: Finding) -> Repairs:
    """The guard raised, the line held back or lowered, the behaviour faded in, a preset or a trim
    taken out."""
    yield from lock_after_lost_link(model, finding)
    yield from _line_repairs(model, finding)
    k = place_in(finding.part, "program.recipes")
    if k is not None and model.program.recipes[k].given_at_idle == "full":
        yield (
            "Let it fade in from idle",
            lambda: with_at(model, f"program.recipes[{k}].at_idle", "none"),
        )
    if finding.part == "program.modes" and model.program.guard is not None:
        yield from _without_presets(model)
    if ".trim" in finding.part:
        axis = place_in(finding.part, "program.axes")
        yield (
            "Take the trim off the thrust",
            lambda: with_at(model, f"program.axes[{axis}].trim", None),
        )


def _line_repairs(model: Model, finding: Finding) -> Repairs:
    guard, line = model.program.guard, line_named(model, finding)
    i = place_in(finding.part, "program.mixes")
    if line is None or guard is None:
        return
    # a line of the throttle that comes back as its condition ends gives power without a hand
    by_hand = line.source == "thrust"
    when = line.when
    if when is not None and by_hand:  # the throttle comes back as that ends
        when = opposite(when)
    if line.when is not None and by_hand:
        yield (
            f"Let “{line.name}” act always",
            lambda: with_at(model, f"program.mixes[{i}].when", None),
        )
    if when is not None and when not in guard.holds:
        holds = (*guard.holds, when)
        yield (
            f"Hold the motor while {phrase(model, when)}",
            lambda: with_at(model, "program.guard.holds", holds),
        )
    if abs(line.gain) > LITTLE and not by_hand:
        gain = LITTLE if line.gain > 0 else -LITTLE
        yield (
            f"Lower “{line.name}” to {plain(gain)} %",
            lambda: with_at(model, f"program.mixes[{i}].gain", gain),
        )


def _without_presets(model: Model) -> Repairs:
    """The motors out of the presets of each flight mode."""
    for n, mode in enumerate(model.program.modes):
        motors = {m.name for m in model.airframe.motors} & mode.presets.keys()
        if motors:
            rest = {t: v for t, v in mode.presets.items() if t not in motors}
            yield (
                f"Take the motor out of {mode.label}",
                partial(with_at, model, f"program.modes[{n}].presets", rest),
            )


STATEMENT = Statement(
    "M2", "Nothing but the thrust control itself, or arming it, gives a motor more than 5 % at once.", "danger", "motors",
    motors=SuddenPower, repairs=repairs,
)  # fmt: skip
