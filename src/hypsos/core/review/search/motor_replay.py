# SPDX-License-Identifier: GPL-3.0-or-later
"""What a motor does on a way that was found."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from hypsos.core.base.backends import Array
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.engine import GuardState
from hypsos.core.parts.leads import Lead
from hypsos.core.review.search.replay import Played, Proof, Replay
from hypsos.core.review.search.state_search import SearchStep

MORE = 5.0
"""Percent of the pulse: what a motor may get more of by one act that is not meant to."""
TURNS = 0.2
"""Percent of the pulse above idle from which a motor is not at idle any more."""
ARMED = int(GuardState.ARMED)


class MotorReplay:
    """The motors of a model as the engine plays them; they are numbered as their leads are."""

    def __init__(
        self,
        model: Model,
        stage: Replay,
        leads: Sequence[Lead],
        index: Sequence[int],
        let_by: float,
    ) -> None:
        self.model, self.stage, self.leads, self.index, self.let_by = (
            model,
            stage,
            leads,
            index,
            let_by,
        )
        axis = model.program.axis("yaw")
        self.yaw = axis.control if axis is not None else ""
        """The control by which the model is turned."""
        places = {m.name: m.y_mm for m in model.airframe.motors}
        self.sides = [float(-np.sign(places[x.target])) for x in leads]
        """Motor -> 1 where more of it turns the model to the right: it sits on the left."""
        guard = model.program.guard
        self.level = guard.level if guard is not None else 0
        self.calm = [_calm(model, x) for x in leads]
        """Motor -> where it stands with nothing asked of it, in percent of the pulse above standing
        still: an engine idles."""

    def label(self, n: int) -> str:
        """What people call its lead."""
        return self.model.leads[self.index[n]].label

    def play(self, n: int, proof: Proof) -> Played:
        """A way once more, with what moves a motor explained."""
        return self.stage.play(proof.moves, proof.look_s, (self.leads[n].target,))

    def standing(self, played: Played, n: int) -> Array:
        """Where a motor stands in every frame, in percent of its pulse; at idle where there is no
        pulse."""
        trace = played.result.outputs[self.leads[n].name]
        return np.broadcast_to(np.where(trace.us > 0, trace.stand, -100.0), played.t_s.shape)

    def above_calm(self, stands: Array, n: int) -> Array:
        """Where a motor stands, counted from -100 where nothing is asked of it: at an engine's
        idle, its trim about it."""
        above: Array = np.maximum(stands - self.calm[n], -100.0)
        return above

    def risen(self, played: Played, n: int) -> Array:
        """The same counted from where it stands with nothing asked of it."""
        return self.above_calm(self.standing(played, n), n)

    def more(self, played: Played, n: int) -> float:
        """By how much a motor that is armed throughout gets more after the last act."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands, at = self.risen(played, n), max(1, played.last)
        # by arming a motor gets what the stick says; that is meant
        if guard[at - 1] != ARMED or guard[at] != ARMED:
            return 0.0
        return float(stands[at:][guard[at:] == ARMED].max() - stands[at - 1])

    def more_later(self, played: Played, n: int) -> float:
        """By how much an armed motor gets more after what the last act gave it at once."""
        guard = np.broadcast_to(played.result.guard, played.t_s.shape)
        stands, at = self.risen(played, n), played.last
        # what an act gives at once is there within three frames
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
        # the last click may be a shorter one: it ends at the range of the trim
        for k in range(1, count):
            yield SearchStep(control, round(start + k * step, 6))
        yield SearchStep(control, to)

    def cause_of(self, played: Played, n: int, before: int, after: int) -> str:
        """The place of the number that gives a motor more between two frames."""
        best, found = 1e-6, ""
        for part in played.result.why.get(self.leads[n].target, ()):
            # these let something through or hold it back; they give nothing
            if part.kind in ("guard", "link", "cut-off", "slow"):
                continue
            amount = np.broadcast_to(part.amount, played.t_s.shape)
            more = float(amount[after] - amount[before])
            if more > best:
                best, found = more, part.path
        return found

    def pushing(self, played: Played, n: int) -> str:
        """The place of what gives a motor most at the end, other than its control."""
        target, lines = self.leads[n].target, {p.path: p.line for p in all_lines(self.model)}
        best, found = 1e-6, ""
        for part in played.result.why.get(target, ()):
            amount = float(np.broadcast_to(part.amount, played.t_s.shape)[-1])
            line = lines.get(part.path)
            if part.kind in ("stick", "trim", "mix", "preset") and amount > best:
                # the pilot's own hand is no fault of the document
                by_hand = line is not None and line.source == "thrust" and part.kind == "stick"
                best, found = amount, "" if by_hand else part.path
        return found


def _calm(model: Model, lead: Lead) -> float:
    """How far above standing still a motor stands with nothing asked of it, in percent of the
    pulse: twice an engine's higher idle, and the whole of the trim about it."""
    guard = model.program.guard
    engine = guard.engine(lead.target) if guard is not None else None
    if engine is None:
        return 0.0
    axis = model.program.axis("thrust")
    trim = axis.trim.range if axis is not None and axis.trim is not None else 0.0
    return 2.0 * engine.most + trim
