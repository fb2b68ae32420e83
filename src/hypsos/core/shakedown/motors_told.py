"""What a motor does on a way that was found: whether a statement is broken there, and the words for it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hypsos.core.engine import GuardState
from hypsos.core.ground.lanes import Array
from hypsos.core.model.document import Model
from hypsos.core.model.lines import all_lines
from hypsos.core.model.words import control_label, number, plain, power_percent
from hypsos.core.parts.wiring import Lead
from hypsos.core.recipes import DifferentialThrust
from hypsos.core.shakedown.play import Check, Played, Proof, Stage
from hypsos.core.shakedown.reach import Step
from hypsos.core.shakedown.statements import Level

MORE = 5.0
"""Percent of the pulse: what a motor may get more of by one act that is not meant to."""
TURNS = 0.2
"""Percent of the pulse above idle from which a motor is not at idle any more."""
RELEASED = int(GuardState.RELEASED)


class Motors:
    """The motors of a model as the engine plays them; they are numbered as their leads are."""

    def __init__(self, model: Model, stage: Stage, leads: Sequence[Lead], index: Sequence[int], let_by: float) -> None:
        self.model, self.stage, self.leads, self.index, self.let_by = model, stage, leads, index, let_by
        guard = model.program.guard
        self.level = guard.level if guard is not None else 0

    def _label(self, n: int) -> str:
        return self.model.leads[self.index[n]].label

    def play(self, n: int, proof: Proof) -> Played:
        """A way once more, with what moves a motor explained."""
        return self.stage.play(proof.moves, proof.look_s, (self.leads[n].target,))

    # -- the proofs -------------------------------------------------------------------------------------------------------

    def _standing(self, played: Played, n: int) -> Array:
        trace = played.result.outputs[self.leads[n].name]
        return np.broadcast_to(np.where(trace.us > 0, trace.stand, -100.0), played.t_s.shape)

    def unreleased(self, n: int) -> Check:
        """It turns though it is not released."""

        def check(played: Played) -> bool:
            trace = played.result.outputs[self.leads[n].name]
            link = np.array([played.at("link", i) * played.at("power", i) > 0.5 for i in range(len(played.t_s))])
            held = played.result.guard != RELEASED
            return bool(np.any((self._standing(played, n) > -100.0 + TURNS) & held & (link | trace.failsafe)))

        return check

    def without_link(self, n: int) -> Check:
        """It turns once the failsafe acts."""

        def check(played: Played) -> bool:
            trace = played.result.outputs[self.leads[n].name]
            return bool(np.any((self._standing(played, n) > -100.0 + TURNS) & trace.failsafe))

        return check

    def at_release(self, n: int) -> Check:
        """It turns as it is released."""

        def check(played: Played) -> bool:
            return self._release_frame(played, n) is not None

        return check

    def _release_frame(self, played: Played, n: int) -> int | None:
        """A frame soon after a release in which the motor turns, and the hands have done nothing since."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands = self._standing(played, n)
        for at in (np.flatnonzero((guard[1:] == RELEASED) & (guard[:-1] != RELEASED)) + 1).tolist():
            if at < played.last:
                continue
            if stands[at:].max() > -100.0 + self.let_by:
                return int(at + np.argmax(stands[at:] > -100.0 + self.let_by))
        return None

    def raised(self, n: int) -> Check:
        """It gets more, while it is released."""

        def check(played: Played) -> bool:
            return self.more(played, n) > MORE

        return check

    def more(self, played: Played, n: int) -> float:
        """By how much a motor that is released throughout gets more after the last act."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands, at = self._standing(played, n), max(1, played.last)
        if guard[at - 1] != RELEASED or guard[at] != RELEASED:
            return 0.0
        return float(stands[at:][guard[at:] == RELEASED].max() - stands[at - 1])

    # -- the words --------------------------------------------------------------------------------------------------------

    def said(self, statement: str, n: int, steps: tuple[Step, ...], played: Played) -> tuple[str, str, Level]:
        """(part, sentence, level) of a statement that was broken on the way that was played."""
        say = {"M1": self._say_m1, "M2": self._say_m2, "M3": self._say_m3, "M6": self._say_m6}
        return say[statement](n, steps, played)

    def _say_m1(self, n: int, steps: tuple[Step, ...], played: Played) -> tuple[str, str, Level]:
        i = self.index[n]
        stands = float(self._standing(played, n).max())
        return (
            f"leads[{i}].failsafe",
            f"{self._label(n)} runs with {number(power_percent(stands))} % power though the motor is not released.", "danger",
        )  # fmt: skip

    def _say_m3(self, n: int, steps: tuple[Step, ...], played: Played) -> tuple[str, str, Level]:
        i = self.index[n]
        trace = played.result.outputs[self.leads[n].name]
        stands = float(self._standing(played, n)[trace.failsafe].max()) if trace.failsafe.any() else -100.0
        after = plain(self.model.receiver.failsafe_after_s)
        text = f"{after} s after the link is lost {self._label(n)} still runs with {number(power_percent(stands))} % power."
        return f"leads[{i}].failsafe", text, "danger"

    def _say_m6(self, n: int, steps: tuple[Step, ...], played: Played) -> tuple[str, str, Level]:
        power = power_percent(float(self._standing(played, n)[-1]))
        part = self._pushing(played, n) or "program.guard.level"
        return (
            part,
            f"As the motor is released, {self._label(n)} starts at once with {number(power)} % power.",
            "danger",
        )

    def _say_m2(self, n: int, steps: tuple[Step, ...], played: Played) -> tuple[str, str, Level]:
        last = next((s for s in reversed(steps) if s.control or s.waits), None)
        raised = self.more(played, n) / 2
        before = power_percent(float(self._standing(played, n)[max(1, played.last) - 1]))
        at = int(np.argmax(self._standing(played, n)[played.last :])) + played.last
        label = self._label(n)
        by = f"from {number(before)} to {number(before + raised)} % power"
        if last is not None and last.control in ("link", "power"):
            level = self._by_guard() if self.level < 4 else "advice"
            back = "the link returns" if last.control == "link" else "the receiver has power again"
            return "program.guard.level", f"{label} starts again by itself when {back}, {by}.", level
        part = self._cause(played, n, max(0, played.last - 1), at)
        recipe = self._differential(part)
        if recipe is not None and not self._raises_without(recipe, played, n):
            if recipe[1] != "full":
                return "", "", "advice"
            text = f"The rudder gives {label} power by itself, {by}: differential thrust acts in full at idle, as you chose."
            return part, text, "advice"
        what = control_label(self.model, last.control) if last is not None and last.control else "time"
        alone = f"{what[:1].upper()}{what[1:]} alone"
        return part or "program.mixes", f"{alone} gives {label} more, {by}.", "danger"

    def _by_guard(self) -> Level:
        """How bad a motor is that comes back by itself: the first level of the guard holds nothing back."""
        return "advice" if self.level in (2, 3) else "danger"

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
        stage = Stage(self.model.changed({"program": program}))
        return self.more(stage.again(played), n) > MORE

    def runs(self, n: int) -> Check:
        """It runs at the end."""

        def check(played: Played) -> bool:
            return bool(self._standing(played, n)[-1] > -100.0 + MORE)

        return check

    def power(self, n: int, played: Played, since_s: float = 0.0) -> float:
        """The most power that it gets from a second on."""
        from_frame = int(np.searchsorted(played.t_s, since_s - 1e-6))
        return power_percent(float(self._standing(played, n)[from_frame:].max()))

    def label(self, n: int) -> str:
        """What people call its lead."""
        return self._label(n)
