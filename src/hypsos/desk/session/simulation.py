# SPDX-License-Identifier: GPL-3.0-or-later
"""The model on the bench in motion: hands, time, recorded moves, what the aeroplane does. It edits
nothing.

Sought: a stick answers at once, while delays, slows and timers keep real time.

How: frames that have passed are finished, one after the other, and what the engine remembers goes
on from them. The frame that is due next is *provisional*: each movement of a hand computes it anew
from the last finished frame, and shows it. When the clock reaches it, the provisional frame as it
was computed last is finished as it is, for nothing has moved since.

What must stay true: nothing is remembered of a provisional frame that another one has replaced. A
switch and a stick moved within one frame count in the order in which they were moved: the frame is
finished between the two.

What it costs: one frame of the engine for each movement of a hand, less than a millisecond. At rest
the clock stops."""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hypsos.core.document.document import Model
from hypsos.core.document.program import Guard
from hypsos.core.engine import Plan, Result, Situation
from hypsos.core.engine.announcements import after_power_off
from hypsos.core.explain.explain_part import PartExplanation, explain
from hypsos.core.explain.neutral_hands import quiet_hands
from hypsos.core.parts.transmitter import Control
from hypsos.desk.session.bench_state import BenchState
from hypsos.desk.session.live_state import Live, around, same_outputs

if TYPE_CHECKING:
    from hypsos.core.fitting.practice_faults import Practice

MOVING_MS, COUNTING_MS = 20, 400
"""From one look at the clock to the next: while something moves, and while nothing does but a timer
that counts."""
LONGEST_GAP = 50
"""Frames: a longer pause is not computed frame by frame, nothing was moving in it."""


class Simulation(QObject):
    """The live state of the model on the bench; :meth:`take` puts another one there."""

    model_changed = pyqtSignal()
    live_changed = pyqtSignal()
    turned = pyqtSignal(float)
    """Seconds by which turning propellers have moved on."""
    chosen_changed = pyqtSignal()
    playing_changed = pyqtSignal()
    ticked = pyqtSignal()
    """Time has passed in which nothing moved and something waits for it, such as a timer."""

    def __init__(self, state: BenchState, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__()
        self.state, self.clock = state, clock
        self.chosen: str | None = None
        self._explained: tuple[str, ...] = ()
        self.shadow: dict[str, float] | None = None
        """Surface -> degrees of another flight mode, shown beside where they stand."""
        self._moves: Situation | None = None
        self._moves_at = 0
        self._pace, self._owed = 1.0, 0.0
        self._held: dict[str, float] = {}
        self._touched: str | None = None
        self.held_still = False
        """Whether it stands at a moment that was, until a hand moves."""
        self.followers: list[Callable[[Result, Situation], None]] = []
        """They are handed every stretch of time once it has passed, with what was held in it."""
        self._ahead: int | None = None
        self._back_at: int | None = None
        """The frame in which a drop-out ends."""
        self._origin = clock()
        self._timer = QTimer(self)
        self._timer.setInterval(MOVING_MS)
        self._timer.timeout.connect(self.tick)

    def explain_all(self, names: tuple[str, ...]) -> None:
        """What streams into these parts and signals is wanted with every frame; none once nobody
        looks."""
        if names != self._explained:
            self._explained = names
            if names and self.state.model is not None:
                self._show()

    def show_shadow(self, degrees: dict[str, float] | None) -> None:
        """Show where the surfaces stand in another flight mode, as a shadow on the bench; None
        shows none."""
        if degrees != self.shadow:
            self.shadow = degrees
            self.chosen_changed.emit()

    def wanted(self) -> tuple[str, ...]:
        """The parts whose contributions are shown, so that they are asked for with every frame."""
        chosen = () if self.chosen is None or self.chosen in self._explained else (self.chosen,)
        return (*chosen, *self._explained)

    def take(self, model: Model, plan: Plan, trims: Collection[str] = ()) -> None:
        """Another model, or this one after an edit; what the hands hold, they hold on.

        The trims of the commands ``trims`` stay where they stand on the bench, the others go to
        where the document has them."""
        self.let_go()
        if self.playing:
            self.stop()  # the moves were another model's
        before = self.state.model
        if before is not None and before.program.modes != model.program.modes:
            self.state.live.result = None  # it counts the flight modes as they were; the pages are told of the model first
        self.state.plan, self.state.model = plan, model
        self._ahead = None  # what was computed ahead was another model's
        self._hold_on(before, model, plan, trims)
        self._let_go_of_what_has_gone(model)
        self.state.changing = True
        self.model_changed.emit()
        self.state.changing = False
        self._show()

    def _hold_on(
        self, before: Model | None, model: Model, plan: Plan, trims: Collection[str]
    ) -> None:
        """The hands hold what they held, as far as it is still there; what is new stands at
        rest."""
        put = {f"{a.command}_trim" for a in model.program.axes if a.command not in trims}
        held = {
            name: value
            for name, value in self.state.live.controls.items()
            if name in plan.rest and name not in put
        }
        untouched = any(c.name not in held for c in model.transmitter.controls)
        self.state.live.controls = plan.rest | (quiet_hands(model) if untouched else {}) | held
        self._held = {name: speed for name, speed in self._held.items() if name in plan.rest}
        old = {c.name: c for c in before.transmitter.controls} if before is not None else {}
        for control in model.transmitter.controls:
            if control.is_switch and control.name in held:
                self.state.live.controls[control.name] = _same_position(
                    old.get(control.name), control, held[control.name], model.program.guard
                )

    def _let_go_of_what_has_gone(self, model: Model) -> None:
        """A part that was chosen, and an aeroplane to practise on, that are not of this model."""
        if self.chosen is not None and all(p.name != self.chosen for p in model.airframe.moved()):
            self.chosen = None
        if self.state.practice is not None and set(self.state.practice.sense) != {
            x.target for x in model.leads
        }:
            self.state.practice = None  # it was made for another airframe

    def power_up(self) -> None:
        """Nothing is known of before: another aeroplane, or none."""
        self._held.clear()
        self.state.live, self._back_at, self.held_still = Live({}), None, False

    def switch_off_and_on(self) -> None:
        """The transmitter is switched off and on again, everything left where it stands; timers
        that are kept go on."""
        self.let_go()
        if self.playing:
            self.stop()
        self._commit(self.state.live.frame + 1)
        kept = after_power_off(self.state.loaded, self.state.live.memory)
        self.state.live = replace(self.state.live, memory=kept)
        self._ahead = None
        self._show()

    def stop_clock(self) -> None:
        """Nothing moves any more, until a hand does."""
        self._timer.stop()

    def put_on(self, model: Model, plan: Plan) -> None:
        """Put another model on the bench, with its power switched on anew; nothing of the one
        before goes on."""
        self._moves = None
        self.chosen = self.state.practice = None
        self.power_up()
        self.take(model, plan)
        self.playing_changed.emit()
        self.chosen_changed.emit()

    def put_none(self) -> None:
        """Leave the bench empty."""
        self.chosen = self.state.practice = None
        self.stop()
        self._timer.stop()
        self.state.model = self.state.plan = None
        self.power_up()
        self.model_changed.emit()
        self.live_changed.emit()

    # -- the hands -------------------------------------------------------------------------------

    def set_control(self, name: str, value: float) -> None:
        """Move a stick, switch, slider or knob; the bench answers at once."""
        if self.state.live.controls.get(name) == value:
            return
        self.let_go()
        if self.playing:
            self.stop()  # whoever takes a control in hand takes all of them
        if self._touched not in (None, name) and (
            self.state.is_switch(name) or self.state.is_switch(self._touched)
        ):
            # a switch and a stick in one frame: what came first counts first
            self._commit(self.state.live.frame + 1)
        self.state.live.controls[name] = value
        self._touched = name
        self._show()

    def hold(self, name: str, speed: float) -> None:
        """Keep moving a stick at this speed in percent a second until it is let go with speed 0."""
        self.let_go()
        if speed:
            self._held[name] = speed
        else:
            self._held.pop(name, None)
        self._wake()

    def set_link(self, up: bool) -> None:
        """Cut the link or bring it back."""
        self._back_at = None
        self._radio(link=1.0 if up else 0.0)

    def set_power(self, on: bool) -> None:
        """Take the receiver's battery out or put it in; where it has none of its own, that is the
        flight battery."""
        if not self._own_battery:
            self.set_flight_battery(on)
            return
        self._radio(power=1.0 if on else 0.0)

    def set_flight_battery(self, on: bool) -> None:
        """Take the motors' battery out or put it in."""
        state = 1.0 if on else 0.0
        self._radio(
            flight_battery=state, power=self.state.live.power if self._own_battery else state
        )

    @property
    def _own_battery(self) -> bool:
        return self.state.model is not None and self.state.model.receiver.power == "own battery"

    def set_quality(self, percent: float) -> None:
        """The quality of the link in percent, as long as there is one."""
        self._radio(link_quality=min(100.0, max(0.0, percent)))

    def drop_out(self, seconds: float) -> None:
        """Lose the link for just so long."""
        assert self.state.plan is not None
        self._radio(link=0.0)
        self._back_at = self.state.live.frame + 1 + max(1, round(seconds / self.state.plan.frame_s))
        self._wake()

    def _radio(self, **fields: float) -> None:
        self.let_go()
        if self.playing:
            self.stop()
        self._commit(self.state.live.frame + 1)  # what was before is a frame of its own
        self.state.live = replace(self.state.live, **fields)  # type: ignore[arg-type]
        self._show()

    def choose(self, part: str | None) -> None:
        """Choose the part whose *why* is shown; None or an unknown name chooses nothing."""
        if self.state.model is None or all(
            p.name != part for p in self.state.model.airframe.moved()
        ):
            part = None
        if part != self.chosen:
            self.chosen = part
            self._show()
            self.chosen_changed.emit()

    def explanation(self) -> PartExplanation | None:
        """Why the chosen part stands where it stands, now."""
        result = self.state.live.result
        if (
            self.chosen is None
            or self.state.model is None
            or result is None
            or self.chosen not in result.why
        ):
            return None
        return explain(self.state.model, result, self.chosen)

    def practise(self, aeroplane: Practice | None) -> None:
        """Put an aeroplane with hidden wiring on the bench, or take it away again."""
        self.state.practice = aeroplane
        self.live_changed.emit()

    # -- recorded moves --------------------------------------------------------------------------

    @property
    def playing(self) -> bool:
        return self._moves is not None

    def play(self, moves: Situation, pace: float = 1.0) -> None:
        """Play recorded moves on the bench from power-up, in their own time or slower (``pace``
        below 1)."""
        self.let_go()
        self._pace, self._owed = pace, 0.0
        self._moves, self._moves_at = moves, 0
        self._held.clear()
        self._ahead = self._back_at = None
        rest = dict(self.state.plan.rest) if self.state.plan else {}
        # its pulses, and the link they came by, are what there is until the first frame is played
        self.state.live = replace(self.state.live, controls=rest, frame=self._clock(), memory=None)
        self.playing_changed.emit()
        self._wake()

    @property
    def played_frames(self) -> int:
        """How many frames of the moves have been played."""
        return self._moves_at

    def stop(self) -> None:
        """Stop playing; the controls stay where they are."""
        self._moves = None
        self.playing_changed.emit()

    def _next_moves(self, frames: int) -> None:
        """Play so many frames of the moves, each of them, as a trace does."""
        moves, at = self._moves, self._moves_at
        assert moves is not None and self.state.plan is not None
        end = min(at + frames, len(moves.t_s))
        first = self.state.live.frame + 1
        t = np.arange(first, first + end - at, dtype=float) * self.state.plan.frame_s
        piece = moves.piece(at, end)
        result = self.state.plan.run(replace(piece, t_s=t), self.state.live.memory, self.wanted())
        self._hand_on(result, replace(piece, t_s=t))
        self.state.live = replace(
            self.state.live, frame=first + end - at - 1, memory=result.memory, result=result
        )
        last = moves.piece(end - 1, end)
        self.state.live.controls |= {n: float(np.ravel(x)[-1]) for n, x in last.controls.items()}
        self.state.live = replace(self.state.live, **around(last))  # type: ignore[arg-type]
        self._moves_at = end
        if end == len(moves.t_s):
            self.stop()

    # -- time ------------------------------------------------------------------------------------

    def advance(self, seconds: float) -> None:
        """Let time pass at once, without waiting for the clock."""
        self.let_go()
        assert self.state.plan is not None
        self._commit(self._clock())
        frames = max(1, round(seconds / self.state.plan.frame_s))
        self._origin -= frames * self.state.plan.frame_s
        self._commit(self.state.live.frame + frames)
        self.live_changed.emit()

    def time_s(self) -> float:
        """The time of the bench in seconds."""
        return self._clock() * self.state.plan.frame_s if self.state.plan is not None else 0.0

    def hold_at(self, live: Live) -> None:
        """Put the bench to a moment and hold it there: time goes on as soon as a hand moves."""
        if self.playing:
            self.stop()
        self._timer.stop()
        self._held.clear()
        self._ahead = self._back_at = self._touched = None
        self.state.live, self.held_still = live, True
        if (
            self.state.plan is not None
            and live.result is not None
            and not set(self.wanted()) <= live.result.why.keys()
        ):
            # another part was chosen since: it is explained by the next frame, the hands held
            live.result = self.state.plan.run(
                self._situation([live.frame + 1]), live.memory, self.wanted()
            )
        self.live_changed.emit()

    def let_go(self) -> None:
        """Time goes on from the moment at which the bench stands."""
        if self.held_still and self.state.plan is not None:
            self.held_still = False
            self._origin = self.clock() - self.state.live.frame * self.state.plan.frame_s
            self._wake()

    def _clock(self) -> int:
        assert self.state.plan is not None
        if self.held_still:
            return self.state.live.frame
        return int((self.clock() - self._origin) / self.state.plan.frame_s + 1e-6)

    def _situation(self, frames: Sequence[int]) -> Situation:
        assert self.state.plan is not None
        t = np.array(frames, float) * self.state.plan.frame_s
        return Situation(t, self.state.live.controls, **self.state.live.around)

    def _show(self) -> None:
        """Compute the frame that is due from the last finished one and show it; the clock will
        finish it."""
        if self.state.plan is None:
            return
        if self.playing:
            self.live_changed.emit()
            return
        due = max(self._clock(), self.state.live.frame + 1)
        self.state.live.result = self.state.plan.run(
            self._situation([due]), self.state.live.memory, self.wanted()
        )
        self._ahead = due
        memory = self.state.live.memory
        if (
            memory is None or memory.fresh
        ):  # power comes on with the hands as they are; what moves later has been moved
            self._hand_on(self.state.live.result, self._situation([due]))
            self.state.live = replace(
                self.state.live, frame=due, memory=self.state.live.result.memory
            )
            self._ahead = None
        self.live_changed.emit()
        self._wake()

    def _commit(self, upto: int) -> None:
        assert self.state.plan is not None
        if self._back_at is not None and upto >= self._back_at:
            back, self._back_at = self._back_at, None
            self._commit(back - 1)
            self.state.live = replace(self.state.live, link=1.0)
            self._ahead = None
        self._touched = None
        first = self.state.live.frame + 1
        if upto < first:
            return
        result = self.state.live.result
        if result is not None and self._ahead is not None and first <= self._ahead <= upto:
            self._hand_on(result, self._situation([self._ahead]))
            # it is computed already
            self.state.live = replace(self.state.live, frame=self._ahead, memory=result.memory)
            first = self._ahead + 1
        self._ahead = None
        if upto < first:
            return
        if upto - first > LONGEST_GAP and not self._busy() and not self._ticking:
            first = upto
        situation = self._situation(range(first, upto + 1))
        result = self.state.plan.run(situation, self.state.live.memory, self.wanted())
        self._hand_on(result, situation)
        self.state.live = replace(self.state.live, frame=upto, memory=result.memory, result=result)

    @property
    def running(self) -> bool:
        """True while the clock goes on its own, because something still moves."""
        return self._timer.isActive()

    def _busy(self) -> bool:
        result = self.state.live.result
        pending = result is not None and result.pending
        return pending or bool(self._held) or self.playing or self._back_at is not None

    @property
    def _ticking(self) -> bool:
        return self.state.live.result is not None and self.state.live.result.ticking

    def _hand_on(self, result: Result, situation: Situation) -> None:
        for follower in self.followers:
            follower(result, situation)

    def _wake(self) -> None:
        if self._timer.interval() != MOVING_MS:
            self._timer.setInterval(MOVING_MS)
        if not self._timer.isActive():
            self._timer.start()

    def tick(self) -> None:
        """Bring the bench up to the clock. It is called fifty times a second while anything
        moves."""
        if self.state.plan is None or self.held_still:
            self._timer.stop()
            return
        now = self._clock()
        frames = max(0, now - self.state.live.frame)
        if self.playing:
            frames = self._paced(frames)
        if not frames:
            return
        if self.playing:
            self._next_moves(min(frames, LONGEST_GAP))
            self.live_changed.emit()
            self._turn(frames)
            return
        self._move_held(frames)
        busy, shown = self._busy(), self.state.live.result
        self._commit(now)
        if busy or not same_outputs(shown, self.state.live.result):
            self.live_changed.emit()
        else:
            self.ticked.emit()
        if self.state.turning:
            self._turn(frames)
        elif not busy and not self._busy():
            self._rest(shown)

    def _paced(self, frames: int) -> int:
        """How many frames of played moves are due: fewer where they are played slowly, and the
        clock is held back by the rest."""
        if self._pace >= 1.0 or self.state.plan is None:
            return frames
        self._owed += frames * self._pace
        slower = int(self._owed)
        self._owed -= slower
        self._origin += (frames - slower) * self.state.plan.frame_s
        return slower

    def _move_held(self, frames: int) -> None:
        """Sticks that a held key moves go on, after a gap by no more than five frames."""
        if self._held:
            self._ahead = None
        for name, speed in self._held.items():
            moved = (
                self.state.live.controls[name]
                + speed * min(frames, 5) * self.state.loaded.program.frame_s
            )
            self.state.live.controls[name] = float(np.clip(moved, -100, 100))

    def _turn(self, frames: int) -> None:
        """Say for how long propellers have turned."""
        if self.state.turning and self.state.plan is not None:
            self.turned.emit(min(frames, LONGEST_GAP) * self.state.plan.frame_s)

    def _rest(self, shown: Result | None) -> None:
        """Nothing moves: the clock stops, or waits for the next second of a timer that counts."""
        if self._ticking:
            self._timer.setInterval(self._next_count_ms(shown))
        else:
            self._timer.stop()

    def _next_count_ms(self, before: Result | None) -> int:
        """The milliseconds until a timer that counts shows its next second: until then there is
        nothing to see or to say.

        What is said again and again while something holds has its own beat, and is looked for more
        often."""
        now, moment = self.state.live.result, self.state.moment
        if now is None or moment is None or before is None:
            return COUNTING_MS
        if any(
            x.moment == "while" and moment.holds(x.when)
            for x in self.state.loaded.program.announcements
        ):
            return COUNTING_MS
        left = []
        for timer in self.state.loaded.program.timers:
            readings = now.timers.get(timer.name), before.timers.get(timer.name)
            shown, last = (math.nan if x is None else float(np.ravel(x)[-1]) for x in readings)
            if abs(shown - last) > 0:  # it counts, and is not one that an edit has just brought
                past = shown % 1.0
                left.append(past if timer.counts == "down" else 1.0 - past)
        if not left:
            return COUNTING_MS
        # a reading changes in the frame after its second is over
        return math.ceil(1000 * min(left)) + MOVING_MS


def _same_position(
    before: Control | None, now: Control, at: float, guard: Guard | None = None
) -> float:
    """Where a switch stands after an edit: at the position of the same name, which may have another
    number now; where the name is gone, at the same number. A motor's switch whose position has gone
    stands where it cuts."""
    place = int(at)
    if before is not None and before.is_switch and place < len(before.positions):
        name = before.positions[place]
        if before.positions != now.positions and now.positions.count(name) == 1:
            return float(now.positions.index(name))
        fewer = len(now.positions) < len(before.positions)
        if fewer and guard is not None and guard.switch == now.name and guard.cut:
            return float(guard.cut[0])
    return float(min(place, len(now.positions) - 1))
