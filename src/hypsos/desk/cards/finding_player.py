# SPDX-License-Identifier: GPL-3.0-or-later
"""A finding shown on the bench: its moves played slowly, each with what is done, and left standing
at the end."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from hypsos.core.engine import Situation
from hypsos.core.engine.announcements import Spoken
from hypsos.core.review.findings import FindingMove
from hypsos.core.review.search.replay import Replay
from hypsos.desk.services.workbench import Workbench

PER_ACT_S, AT_END_S = 1.5, 2.0
"""How long an act can be looked at, and the end."""


class ShowMe(QObject):
    """Plays moves on the bench with captions, one at a time."""

    def __init__(self, workbench: Workbench, parent: QObject) -> None:
        super().__init__(parent)
        self.workbench = workbench
        self._due: list[tuple[int, str]] = []
        self._end = ""
        self._mine = False
        workbench.simulation.live_changed.connect(self._come)
        workbench.simulation.playing_changed.connect(self._changed)

    def show(
        self, moves: tuple[FindingMove, ...], captions: tuple[str, ...], look_s: float, end: str
    ) -> None:
        """Play moves from power-up, so slowly that each act can be followed; ``end`` is said when
        it has come about."""
        bench = self.workbench
        played = Replay(bench.loaded).play(moves, max(0.2, look_s))
        frame = bench.loaded.program.frame_s
        wished = PER_ACT_S * (1 + len({m.t_s for m in moves})) + AT_END_S
        first = [c for m, c in zip(moves, captions, strict=True) if m.t_s <= 0]
        self._due = [
            (round(m.t_s / frame), c) for m, c in zip(moves, captions, strict=True) if m.t_s > 0
        ]
        start = f"Power on, with {', '.join(first)}" if first else "Power on, everything at rest"
        self._end, self._mine = end, False
        bench.simulation.play(
            Situation.of(played.t_s, played.tracks), min(1.0, len(played.t_s) * frame / wished)
        )
        self._mine = bench.notices.narrated = True
        self._say(start, "state")

    def _come(self) -> None:
        if not self._mine or not self.workbench.simulation.playing:
            return
        at = self.workbench.simulation.played_frames
        while self._due and self._due[0][0] <= at:
            caption = self._due.pop(0)[1]
            self._say(f"{caption[:1].upper()}{caption[1:]}", "state")

    def _changed(self) -> None:
        if self._mine and not self.workbench.simulation.playing:
            self._mine = self.workbench.notices.narrated = False
            for _, caption in self._due[-1:]:
                self._say(caption, "state")
            if self._end:
                self._say(self._end, "danger")

    def _say(self, text: str, rank: str) -> None:
        self.workbench.notices.captioned.emit(Spoken(0, text, rank, ""))
