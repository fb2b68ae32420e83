# SPDX-License-Identifier: GPL-3.0-or-later
"""The last two minutes of the bench: every frame's hands and what came of them, and the way back to
any of it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QObject

from hypsos.core.base.backends import Array
from hypsos.core.base.memory import Memory
from hypsos.core.engine import Result, Situation
from hypsos.core.explain.timeline_tracks import Track, tracks, values
from hypsos.core.parts.transmitter import AROUND
from hypsos.desk.session.live_state import Live, around
from hypsos.desk.session.simulation import Simulation

KEPT_S = 120.0
MOST = 30_000
"""Frames kept at the most."""
SNAP = 50
"""Frames from one kept state of the engine to the next, at the most, while the bench does not let
time pass in one go."""


class Recorder(QObject):
    """Follows the bench. Frames are counted from the first one recorded; :attr:`first` is the
    oldest still there."""

    def __init__(self, bench: Simulation) -> None:
        super().__init__(bench)
        self.bench = bench
        self.tracks: tuple[Track, ...] = ()
        self.first = self.end = 0
        self.edited = 0
        """The frame since which the model is as it is now: earlier ones can be seen, and not gone
        back to."""
        self.captions: list[tuple[int, str, str]] = []
        """Frame, caption, rank of what was said."""
        self._t = np.empty(0)
        self._rows = np.empty((0, 0))
        self._snaps: list[tuple[int, Memory | None]] = []
        """Frames with the state of the engine after them; the first is the one before the first
        frame that can be gone back to."""
        self._now: Live | None = None
        self._model: object = None
        bench.followers.append(self._follow)
        bench.model_changed.connect(self._model_changed)
        self._model_changed()

    # -- what was --------------------------------------------------------------------------------

    @property
    def t_s(self) -> Array:
        """The times of the frames that are kept."""
        return self._t[: self.end - self.first]

    @property
    def rows(self) -> Array:
        """What every track read, frame by frame."""
        return self._rows[: self.end - self.first]

    def now_s(self) -> float:
        """The time of the bench, also where nothing has moved since."""
        bench = self.bench
        if bench.state.plan is None:
            return 0.0
        last = float(self.t_s[-1]) if len(self.t_s) else 0.0
        return last if self.away else max(last, bench.time_s())

    def clear(self) -> None:
        """Begin anew."""
        model = self.bench.state.model
        self.tracks = tracks(model) if model is not None else ()
        self.first = self.end = self.edited = 0
        self.captions.clear()
        self._snaps.clear()
        self._now = None
        self._t, self._rows = np.empty(256), np.empty((256, len(self.tracks)))

    def _model_changed(self) -> None:
        model = self.bench.state.model
        if model is self._model:
            return
        before, self._model = self._model, model
        new = tracks(model) if model is not None else ()
        same = [(x.key, x.places) for x in new] == [(x.key, x.places) for x in self.tracks]
        if before is None or model is None or not same or getattr(before, "name", "") != model.name:
            self.clear()
            return
        self.tracks, self.edited = new, self.end
        self._snaps.clear()
        self._now = None

    def _follow(self, result: Result, situation: Situation) -> None:
        if self.bench.state.model is not self._model:
            self._model_changed()
        t = situation.t_s
        self._cut(float(t[0]))
        count = len(t)
        if not self._snaps:
            self._snaps.append((self.end - 1, self.bench.state.live.memory))
        self._make_room(count)
        at = self.end - self.first
        self._t[at : at + count] = t
        self._rows[at : at + count] = values(self.tracks, result, situation)
        self.captions += [(self.end + s.frame, s.caption, s.rank) for s in result.said]
        self.end += count
        last = self._snaps[-1][0] - self.first
        assert self.bench.state.plan is not None
        frame_s = self.bench.state.plan.frame_s
        if (
            self.end - 1 - self.first - last >= SNAP
            or t[-1] - self._t[max(last, 0)] >= (SNAP - 0.5) * frame_s
        ):
            self._snaps.append((self.end - 1, result.memory))

    def _cut(self, t_s: float) -> None:
        """Time goes on from an earlier moment: what came after it then is no longer so."""
        if self.end > self.first and self.t_s[-1] >= t_s - 1e-9:
            self.end = self.first + int(np.searchsorted(self.t_s, t_s - 1e-9))
            self._snaps = [x for x in self._snaps if x[0] < self.end]
            self.captions = [x for x in self.captions if x[0] < self.end]
            self.edited = min(self.edited, self.end)
        self._now = None

    def _make_room(self, count: int) -> None:
        used = self.end - self.first
        old = used > 0 and self._t[used - 1] - self._t[0] > 2 * KEPT_S
        if used + count <= len(self._t) and not old:
            return
        keep = min(used, MOST)
        if used:
            keep = min(keep, used - int(np.searchsorted(self.t_s, self.t_s[-1] - KEPT_S)))
        cut = next((f + 1 for f, _ in reversed(self._snaps) if f < self.end - keep), self.end)
        if (
            keep < self.end - cut <= keep + max(keep, SNAP)
        ):  # behind a kept state, so that there is a way to every frame
            keep = self.end - cut
        size = max(256, 2 * (keep + count))
        t, rows = np.empty(size), np.empty((size, len(self.tracks)))
        t[:keep], rows[:keep] = self._t[used - keep : used], self._rows[used - keep : used]
        self._t, self._rows = t, rows
        self.first = self.end - keep
        self._snaps = [x for x in self._snaps if x[0] >= self.first - 1]
        self.captions = [x for x in self.captions if x[0] >= self.first]

    def value(self, place: int, key: str) -> float | None:
        """What a track read in a kept frame; None where there is no such track."""
        found = next((k for k, x in enumerate(self.tracks) if x.key == key), None)
        return None if found is None else float(self.rows[place, found])

    # -- back to it ------------------------------------------------------------------------------

    def index_at(self, t_s: float) -> int:
        """The place, among those kept, of the last frame at or before a time; -1 before the
        first."""
        return int(np.searchsorted(self.t_s, t_s + 1e-9, side="right")) - 1

    def situation(self, start: int, end: int) -> Situation:
        """The hands of some of the kept frames, by their places."""
        t, rows = self.t_s[start:end].copy(), self.rows[start:end]
        place = {x.key: k for k, x in enumerate(self.tracks)}
        plan = self.bench.state.plan
        assert plan is not None
        return Situation.of(t, {n: rows[:, place[n]].copy() for n in (*plan.rest, *AROUND)})

    def replayed(self, start: int, end: int) -> tuple[Situation, Result | None]:
        """The hands of a stretch without gaps, frame by frame, and what the model as it is now
        makes of it from the state that was; no result where that state was another model's."""
        plan = self.bench.state.plan
        assert plan is not None
        t = self.t_s[start:end]
        count = round(float(t[-1] - t[0]) / plan.frame_s) + 1
        even = t[0] + plan.frame_s * np.arange(count)
        index = np.searchsorted(t, even + 1e-6, side="right") - 1
        held = self.situation(start, end)
        stretch = Situation.of(
            even, {n: np.asarray(x)[index] for n, x in {**held.controls, **held.around}.items()}
        )
        earlier = [x for x in self._snaps if x[0] < self.first + start]
        if not earlier:
            return stretch, None
        frame, memory = earlier[-1]
        if frame + 1 < self.first + start:
            memory = plan.run(self.situation(frame + 1 - self.first, start), memory).memory
        return stretch, plan.run(stretch, memory)

    def can_go_back(self, place: int) -> bool:
        """Whether the bench can be put back to a kept frame: it was of the model as it is now."""
        return (
            self.first + place >= self.edited
            and place >= 0
            and any(frame <= self.first + place for frame, _ in self._snaps)
        )

    def go_back(self, place: int) -> bool:
        """Put the bench back to a kept frame, and hold it there until a hand moves. False where
        that cannot be."""
        bench = self.bench
        if bench.state.plan is None or not self.can_go_back(place):
            return False
        frame, memory = [x for x in self._snaps if x[0] <= self.first + place][-1]
        start = frame - self.first
        result: Result | None = None
        if place > start:
            result = bench.state.plan.run(
                self.situation(start + 1, place + 1), memory, bench.wanted()
            )
            memory = result.memory
        moment = self.situation(place, place + 1)
        controls = {n: float(np.ravel(x)[-1]) for n, x in moment.controls.items()}
        if (
            result is None
        ):  # nothing is known of the frame itself but its state: the next one from there, the hands held
            t = moment.t_s + bench.state.plan.frame_s
            result = bench.state.plan.run(replace(moment, t_s=t), memory, bench.wanted())
        if not self.away:
            self._now = bench.state.live
        at = round(float(moment.t_s[0]) / bench.state.plan.frame_s)
        bench.hold_at(Live(controls, **around(moment), frame=at, memory=memory, result=result))
        return True

    @property
    def away(self) -> bool:
        """Whether the bench has been put back, and nothing has happened since."""
        return self._now is not None and self.bench.held_still

    def back_to_now(self) -> None:
        """Where the bench was before it was put back."""
        if self._now is not None and self.away:
            now, self._now = self._now, None
            self.bench.hold_at(now)
            self.bench.let_go()
