# SPDX-License-Identifier: GPL-3.0-or-later
"""What a motor does on a way that was found: whether a statement is broken there, and the words for it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from hypsos.core.base.backends import Array
from hypsos.core.base.figure_words import number, plain, power_percent
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.engine import GuardState
from hypsos.core.parts.leads import Lead
from hypsos.core.recipes import DifferentialThrust
from hypsos.core.review.search.replay import GAP_S, LONGEST_S, RESTED_S, Check, Played, Proof, Replay
from hypsos.core.review.search.state_search import SearchStep
from hypsos.core.review.statements import FindingMove, Level
from hypsos.core.wording.words import control_label

MORE = 5.0
"""Percent of the pulse: what a motor may get more of by one act that is not meant to."""
TURNS = 0.2
"""Percent of the pulse above idle from which a motor is not at idle any more."""
STANDS_S = 3.0
"""Seconds for which a motor may stand still by the failsafe before the re-lock keeps it from coming back by itself."""
ARMED = int(GuardState.ARMED)


class MotorReplay:
    """The motors of a model as the engine plays them; they are numbered as their leads are."""

    def __init__(self, model: Model, stage: Replay, leads: Sequence[Lead], index: Sequence[int], let_by: float) -> None:
        self.model, self.stage, self.leads, self.index, self.let_by = model, stage, leads, index, let_by
        axis = model.program.axis("yaw")
        self.yaw = axis.control if axis is not None else ""
        """The control by which the model is turned."""
        places = {m.name: m.y_mm for m in model.airframe.motors}
        self.sides = [float(-np.sign(places[x.target])) for x in leads]
        """Motor -> 1 where more of it turns the model to the right: it sits on the left."""
        guard = model.program.guard
        self.level = guard.level if guard is not None else 0
        self.calm = [_calm(model, x) for x in leads]
        """Motor -> where it stands with nothing asked of it, in percent of the pulse above standing still: an engine idles."""

    def _label(self, n: int) -> str:
        return self.model.leads[self.index[n]].label

    def play(self, n: int, proof: Proof) -> Played:
        """A way once more, with what moves a motor explained."""
        return self.stage.play(proof.moves, proof.look_s, (self.leads[n].target,))

    # -- the proofs -------------------------------------------------------------------------------------------------------

    def _standing(self, played: Played, n: int) -> Array:
        trace = played.result.outputs[self.leads[n].name]
        return np.broadcast_to(np.where(trace.us > 0, trace.stand, -100.0), played.t_s.shape)

    def above_calm(self, stands: Array, n: int) -> Array:
        """Where a motor stands, counted from -100 where nothing is asked of it: at an engine's idle, its trim about it."""
        above: Array = np.maximum(stands - self.calm[n], -100.0)
        return above

    def _risen(self, played: Played, n: int) -> Array:
        return self.above_calm(self._standing(played, n), n)

    def unarmed(self, n: int) -> Check:
        """It turns though it is not armed."""

        def check(played: Played) -> bool:
            trace = played.result.outputs[self.leads[n].name]
            link = np.array([played.at("link", i) * played.at("power", i) > 0.5 for i in range(len(played.t_s))])
            held = played.result.guard != ARMED
            return bool(np.any((self._standing(played, n) > -100.0 + TURNS) & held & (link | trace.failsafe)))

        return check

    def without_link(self, n: int) -> Check:
        """It turns once the failsafe acts."""

        def check(played: Played) -> bool:
            trace = played.result.outputs[self.leads[n].name]
            return bool(np.any((self._standing(played, n) > -100.0 + TURNS) & trace.failsafe))

        return check

    def at_arming(self, n: int) -> Check:
        """It turns as it is armed."""

        def check(played: Played) -> bool:
            return self._arming_frame(played, n) is not None

        return check

    def _arming_frame(self, played: Played, n: int) -> int | None:
        """A frame soon after arming in which the motor turns, and the hands have done nothing since."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands = self._risen(played, n)
        for at in (np.flatnonzero((guard[1:] == ARMED) & (guard[:-1] != ARMED)) + 1).tolist():
            if at < played.last:
                continue
            if stands[at:].max() > -100.0 + self.let_by:
                return int(at + np.argmax(stands[at:] > -100.0 + self.let_by))
        return None

    def raised(self, n: int) -> Check:
        """It gets more, while it is armed."""

        def check(played: Played) -> bool:
            return self.more(played, n) > MORE

        return check

    def more(self, played: Played, n: int) -> float:
        """By how much a motor that is armed throughout gets more after the last act."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands, at = self._risen(played, n), max(1, played.last)
        if guard[at - 1] != ARMED or guard[at] != ARMED:
            return 0.0
        return float(stands[at:][guard[at:] == ARMED].max() - stands[at - 1])

    def raised_later(self, n: int) -> Check:
        """It gets more by itself, some time after the last act."""

        def check(played: Played) -> bool:
            return self.more_later(played, n) > MORE

        return check

    def turned(self, n: int) -> Check:
        """The motors turn the model against the rudder stick's last move."""

        def check(played: Played) -> bool:
            return self._turn(played) < -MORE / 2

        return check

    def _turn(self, played: Played) -> float:
        """By how much the motors turn the model the way the last move of the rudder stick asks for, in percent of the pulse."""
        at = max(1, played.last)
        moved = played.at(self.yaw, at) - played.at(self.yaw, at - 1)
        stands = (self._standing(played, n) for n in range(len(self.leads)))
        turn = sum(side * (float(x[-1]) - float(x[at - 1])) for side, x in zip(self.sides, stands, strict=True))
        return float(np.sign(moved) * turn)

    def more_later(self, played: Played, n: int) -> float:
        """By how much an armed motor gets more after what the last act gave it at once."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands, at = self._risen(played, n), played.last
        soon = min(at + 3, len(stands) - 1)
        if guard[soon] != ARMED:
            return 0.0
        after = stands[soon:][guard[soon:] == ARMED]
        return float(after.max() - stands[at : soon + 1].max())

    def clicks(self, control: str, start: float, to: float) -> Iterator[SearchStep]:
        """A trim lever from one place to another, click by click."""
        axis = self.model.program.axis(control.removesuffix("_trim"))
        assert axis is not None and axis.trim is not None
        step = axis.trim.step if to > start else -axis.trim.step
        count = int(np.ceil(abs(to - start) / abs(step) - 1e-6))
        for k in range(1, count):
            yield SearchStep(control, round(start + k * step, 6))
        yield SearchStep(control, to)

    def single_act(self, n: int, way: Sequence[SearchStep], acts: Sequence[SearchStep]) -> list[SearchStep] | None:
        """The way with the one act of several after which the motor gets most; None where no single one gives it much.

        A trim lever goes to where it stands before that click in one go: how often it is clicked is of no account.
        """
        if len(acts) < 2:
            return [*way, *acts]
        before, rest_s = self.stage.moves(way, RESTED_S)
        start = (before[-1].t_s if before else 0.0) + max(rest_s, RESTED_S)
        gap = max(2 * self.stage.frame, min(max(GAP_S, self.stage.settle_s), LONGEST_S / 2 / len(acts)))
        moves = (*before, *(FindingMove(start + k * gap, act.control, act.to) for k, act in enumerate(acts)))
        played = self.stage.play(moves, gap)
        stands, guard = self._risen(played, n), np.broadcast_to(played.result.guard, played.t_s.shape)
        frames = [
            min(len(stands) - 1, int(np.ceil((start + k * gap) / self.stage.frame - 1e-6))) for k in range(len(acts))
        ]
        if (guard[frames[0] :] != ARMED).any():
            return [*way, *acts]  # it is not armed all the while: the proof tells
        ends = [*frames[1:], len(stands)]
        gained = [
            float(stands[at : max(at + 1, end)].max() - stands[at - 1]) for at, end in zip(frames, ends, strict=True)
        ]
        k = int(np.argmax(np.array(gained) > max(gained) - 0.5))  # of about equal ones the first
        if gained[k] <= MORE:
            return None
        done = list(acts[:k])
        return [*way, *(done[-1:] if acts[k].control.endswith("_trim") else done), acts[k]]

    # -- the words --------------------------------------------------------------------------------------------------------

    def said(self, statement: str, n: int, proof: Proof, played: Played) -> tuple[str, str, Level]:
        """(part, sentence, level) of a statement that was broken on the way that was played."""
        say = {"M1": self._say_m1, "M2": self._say_m2, "M3": self._say_m3, "M6": self._say_m6, "S1": self._say_s1}
        return say[statement](n, proof.steps, played)

    def figure(self, statement: str, n: int, proof: Proof, played: Played) -> float:
        """The most power that a motor gets on a way, where its statement is broken; for M2 by how much it is raised."""
        stands = self._standing(played, n)
        if statement == "M2":
            later = any(s.waits for s in proof.steps[-1:])
            return (self.more_later(played, n) if later else self.more(played, n)) / 2
        if statement == "M1":
            stands = stands[played.result.guard != ARMED]
        elif statement == "M3":
            trace = played.result.outputs[self.leads[n].name]
            stands = stands[np.broadcast_to(trace.failsafe, stands.shape)]
        else:
            stands = stands[played.last :]
        return power_percent(float(stands.max(initial=-100.0)))

    def _say_m1(self, n: int, steps: tuple[SearchStep, ...], played: Played) -> tuple[str, str, Level]:
        i = self.index[n]
        stands = float(self._standing(played, n).max())
        return (
            f"leads[{i}].failsafe",
            f"{self._label(n)} runs with {number(power_percent(stands))} % power though the motor is not armed.", "danger",
        )  # fmt: skip

    def _say_m3(self, n: int, steps: tuple[SearchStep, ...], played: Played) -> tuple[str, str, Level]:
        i = self.index[n]
        trace = played.result.outputs[self.leads[n].name]
        stands = float(self._standing(played, n)[trace.failsafe].max()) if trace.failsafe.any() else -100.0
        after = plain(self.model.receiver.failsafe_after_s)
        text = f"{after} s after the link is lost {self._label(n)} still runs with {number(power_percent(stands))} % power."
        return f"leads[{i}].failsafe", text, "danger"

    def _say_s1(self, n: int, steps: tuple[SearchStep, ...], played: Played) -> tuple[str, str, Level]:
        at = max(1, played.last)
        moved = played.at(self.yaw, at) - played.at(self.yaw, at - 1)
        way = "right" if moved > 0 else "left"
        gained = [
            float(self._standing(played, k)[-1] - self._standing(played, k)[at - 1]) for k in range(len(self.leads))
        ]
        most = int(np.argmax(gained))
        by = f"{self._label(most)} gets {number(gained[most] / 2)} % more power"
        part = self._cause(played, most, at - 1, len(played.t_s) - 1) or "program.mixes"
        return part, f"Rudder {way} makes the motors turn the model the wrong way: {by}.", "danger"

    def _say_m6(self, n: int, steps: tuple[SearchStep, ...], played: Played) -> tuple[str, str, Level]:
        power = power_percent(float(self._standing(played, n)[-1]))
        part = self._pushing(played, n) or "program.guard.level"
        return (
            part,
            f"As the motor is armed, {self._label(n)} starts at once with {number(power)} % power.",
            "danger",
        )

    def _say_m2(self, n: int, steps: tuple[SearchStep, ...], played: Played) -> tuple[str, str, Level]:
        last = next((s for s in reversed(steps) if s.control or s.waits), None)
        if last is not None and last.waits:
            return self._say_later(n, played)
        raised = self.more(played, n) / 2
        before = power_percent(float(self._standing(played, n)[max(1, played.last) - 1]))
        at = int(np.argmax(self._standing(played, n)[played.last :])) + played.last
        label = self._label(n)
        by = f"from {number(before)} to {number(before + raised)} % power"
        if last is not None and last.control in ("link", "power"):
            level = self._comes_back(before <= TURNS / 2)
            back = "the link returns" if last.control == "link" else "the receiver has power again"
            text = f"{label} starts again by itself when {back}, {by}." if level is not None else ""
            return "program.guard.level", text, level or "advice"
        part = self._cause(played, n, max(0, played.last - 1), at)
        recipe = self._differential(part)
        if recipe is not None and not self._raises_without(recipe, played, n):
            if recipe[1] != "full":
                return "", "", "advice"
            text = f"The rudder gives {label} power by itself, {by}: differential thrust acts in full at idle, as you chose."
            return part, text, "advice"
        what = control_label(self.model, last.control) if last is not None and last.control else "time"
        click = "one click of " if what.endswith(" trim") else ""
        alone = f"{click}{what} alone"
        return part or "program.mixes", f"{alone[:1].upper()}{alone[1:]} gives {label} more, {by}.", "danger"

    def _say_later(self, n: int, played: Played) -> tuple[str, str, Level]:
        """M2 where nothing is done: what waited for its time gives the motor more."""
        stands, at = self._standing(played, n), min(played.last + 3, len(played.t_s) - 1)
        before, most = float(stands[played.last : at + 1].max()), int(np.argmax(stands[at:])) + at
        by = f"from {number(power_percent(before))} to {number(power_percent(float(stands[most])))} % power"
        part = self._cause(played, n, at, most) or "program.mixes"
        return (
            part,
            f"{self._label(n)} gets more by itself as time passes, {by}, and nobody touches anything.",
            "danger",
        )

    def _comes_back(self, stood: bool) -> Level | None:
        """How bad it is that a motor comes back with the link; ``stood``: it stood still before that.

        The first level of the guard holds nothing back. The whole guard lets a motor come back for as long as its re-lock time
        says, because a pilot in the air needs it; it is a fault only where that lets it stand still for long. That a motor which
        ran all the while runs faster again is advice.
        """
        if self.level < 2:
            return "danger"
        if not stood:
            return "advice"
        guard = self.model.program.guard
        if self.level < 4 or guard is None:
            return "fault"
        stands_s = guard.relock_s - self.model.receiver.failsafe_after_s
        return "fault" if stands_s > STANDS_S else None

    def _cause(self, played: Played, n: int, before: int, after: int) -> str:
        """The place of the number that gives a motor more between two frames."""
        best, found = 1e-6, ""
        for part in played.result.why.get(self.leads[n].target, ()):
            if part.kind in ("guard", "link", "cut-off", "slow"):
                continue
            amount = np.broadcast_to(part.amount, played.t_s.shape)
            more = float(amount[after] - amount[before])
            if more > best:
                best, found = more, part.path
        return found

    def _pushing(self, played: Played, n: int) -> str:
        """The place of what gives a motor most at the end, other than its control."""
        target, lines = self.leads[n].target, {p.path: p.line for p in all_lines(self.model)}
        best, found = 1e-6, ""
        for part in played.result.why.get(target, ()):
            amount = float(np.broadcast_to(part.amount, played.t_s.shape)[-1])
            line = lines.get(part.path)
            if part.kind in ("stick", "trim", "mix", "preset") and amount > best:
                by_hand = line is not None and line.source == "thrust" and part.kind == "stick"
                best, found = amount, "" if by_hand else part.path
        return found

    def _differential(self, part: str) -> tuple[int, str] | None:
        """The differential thrust behind a part of the document: its place, and what it does at idle."""
        if not part.startswith("program.recipes["):
            return None
        i = int(part[16:].split("]", 1)[0])
        recipe = self.model.program.recipes[i]
        return (i, recipe.at_idle) if isinstance(recipe, DifferentialThrust) else None

    def _raises_without(self, recipe: tuple[int, str], played: Played, n: int) -> bool:
        """Whether the motor gets more even with that behaviour off."""
        recipes = tuple(
            r.changed({"on": False}) if i == recipe[0] else r for i, r in enumerate(self.model.program.recipes)
        )
        program = self.model.program.changed({"recipes": recipes})
        stage = Replay(self.model.changed({"program": program}))
        return self.more(stage.again(played), n) > MORE

    def runs(self, n: int) -> Check:
        """It runs at the end."""

        def check(played: Played) -> bool:
            return bool(self._risen(played, n)[-1] > -100.0 + MORE)

        return check

    def turning(self, n: int, played: Played, since_s: float) -> float:
        """The most power with which it turns from a second on: by its pulse, where its controller has a battery and lets it."""
        from_frame = int(np.searchsorted(played.t_s, since_s - 1e-6))
        ready = np.broadcast_to(np.asarray(played.result.outputs[self.leads[n].name].ready, bool), played.t_s.shape)
        stands = np.where(ready, self._risen(played, n), -100.0)
        return power_percent(float(stands[from_frame:].max()))

    def label(self, n: int) -> str:
        """What people call its lead."""
        return self._label(n)


def _calm(model: Model, lead: Lead) -> float:
    """How far above standing still a motor stands with nothing asked of it, in percent of the pulse: twice an engine's higher
    idle, and the whole of the trim about it."""
    guard = model.program.guard
    engine = guard.engine(lead.target) if guard is not None else None
    if engine is None:
        return 0.0
    axis = model.program.axis("thrust")
    trim = axis.trim.range if axis is not None and axis.trim is not None else 0.0
    return 2.0 * engine.most + trim
