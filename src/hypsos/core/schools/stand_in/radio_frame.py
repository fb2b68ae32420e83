# SPDX-License-Identifier: GPL-3.0-or-later
"""One frame of the simulated transmitter, and what is worked out in it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from copy import copy
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.errors import HypsosError
from hypsos.core.schools.figures import Numbers, Truths
from hypsos.core.schools.stand_in.parts import BASE, FULL, Radio, reference

Places = NDArray[np.intp]


class Setup:
    """What is the same in every frame: the radio, and its flight modes by place."""

    def __init__(self, radio: Radio) -> None:
        self.radio = radio
        self.mode_places = {mode.name: i for i, mode in enumerate(radio.modes)}
        self.mode_names = [mode.name for mode in radio.modes] or [BASE]

    def among(self, modes: Sequence[str]) -> Truths | None:
        """Mode by mode whether it is one of these; None where none is named: then all are."""
        if not modes:
            return None
        for name in modes:
            if name not in self.mode_names:
                raise HypsosError(
                    f"there is no flight mode {name}",
                    name,
                    f"There is {', '.join(self.mode_names)}.",
                )
        return np.array([name in modes for name in self.mode_names])


class RadioFrame:
    """What is known in one frame.

    Situations stand in rows. While a situation fades from one flight mode to another it has a row
    more for each mode with a share: there everything is worked out as that mode alone has it. So a
    signal has (N + F) rows: first every situation as it is, then the rows of modes. ``mode`` is the
    mode of each row, ``rows`` the situation of each row, ``shares`` the shares of the last F."""

    def __init__(self, setup: Setup, t_s: float, hands: dict[str, Numbers]) -> None:
        self.setup, self.t_s, self.hands = setup, t_s, hands
        self.count = len(hands[FULL])
        self.places: dict[str, Places] = {}
        self.flags: dict[str, Truths] = {}
        self.counts: dict[str, Places] = {}
        self.before: RadioFrame | None = None
        self.changed: set[str] = set()
        """What is another than in the frame before."""
        self.pulses: dict[str, Numbers] = {}
        self.mode = np.zeros(self.count, np.intp)
        self.rows: Places | None = None
        self.shares = np.zeros(0)
        self.signals: dict[str, Numbers] = {}
        self.plain: dict[str, Numbers] = {}
        """Commands without their trim."""
        self.shared: dict[str, Numbers] = {}

    def fade(self, mode: Places, rows: Places, shares: Numbers) -> None:
        """Add the rows of modes that have a share."""
        self.mode = np.concatenate([self.mode, mode])
        self.rows = np.concatenate([np.arange(self.count), rows])
        self.shares = shares

    def bare(self) -> RadioFrame:
        """The same without the rows of modes, for what is alike in all of them."""
        if self.rows is None:
            return self
        out = copy(self)
        out.rows, out.mode = None, self.mode[: self.count]
        out.signals, out.plain, out.shared = {}, {}, {}
        return out

    def spread(self, x: Any) -> Any:
        """Something known of every situation, for every row."""
        return x if self.rows is None else x[self.rows]

    def crossed(self, x: Numbers) -> Numbers:
        """A signal whose first rows are crossed from what the modes make of it, by their shares."""
        if self.rows is None:
            return x
        faded = self.rows[self.count :]
        out = x.copy()
        out[faded] = 0.0
        out[: self.count] += np.bincount(
            faded, weights=self.shares * x[self.count :], minlength=self.count
        )
        return out

    def signal(self, name: str, trim: bool = True) -> Numbers:
        """A source, in every row."""
        if not trim and name in self.plain:
            return self.plain[name]
        found = self.signals.get(name)
        if found is None:
            found = self.signals[name] = self.spread(self.hands[name])
        return found

    def now(self, name: str) -> Numbers:
        """A source as it is in every situation."""
        found = self.signals.get(name)
        return self.hands[name] if found is None else found[: self.count]

    def holds(self, text: str) -> Truths:
        """Whether a reference holds, in every situation."""
        asked = reference(text)
        frame = self.before if asked.before else self
        if frame is None:
            found = np.zeros(self.count, bool)
        elif asked.position is not None:
            table = frame.places if asked.name in frame.places else frame.counts
            found = table[asked.name] == asked.position
        else:
            found = frame.flags[asked.name]
        return ~found if asked.negated else found

    def holds_in_rows(self, text: str) -> Truths:
        """The same in every row: a mode as the row has it, the rest as it is."""
        asked = reference(text)
        if self.rows is None or asked.before or not asked.name.startswith("mode:"):
            found: Truths = self.spread(self.holds(text))
            return found
        here = self.mode == self.setup.mode_places.get(asked.name[5:], -1)
        return np.asarray(~here if asked.negated else here)

    def held_by(self, when: Sequence[str], modes: Truths | None) -> Truths | None:
        """Where all references hold and one of the modes is flown; None where nothing is asked."""
        found: Truths | None = None if modes is None else modes[self.mode]
        for text in when:
            here = self.holds_in_rows(text)
            found = here if found is None else found & here
        return found


Work = Callable[[RadioFrame], bool]
"""Works something out in a frame; says whether it has come to rest: with the same to go by it would
be the same again in the next frame."""


class FrameNode:
    """Something that is worked out once a frame, after what it ``asks``, and by what others were in
    the frame before (``was``). It ``writes`` entries of tables of the frame.

    While all that it goes by stays as it is, and it has come to rest, it stays as it is, too."""

    def __init__(
        self,
        name: str,
        asks: Sequence[str],
        work: Work,
        writes: Sequence[tuple[str, str]],
        was: Sequence[str] = (),
    ) -> None:
        self.name, self.asks, self._work, self._writes = name, tuple(asks), work, tuple(writes)
        self._asked, self._was = frozenset(asks), frozenset(was)
        self._rests = False

    def run(self, frame: RadioFrame) -> None:
        """Work it out, or take it over from the frame before."""
        before = frame.before
        if (
            self._rests
            and before is not None
            and frame.changed.isdisjoint(self._asked)
            and before.changed.isdisjoint(self._was)
        ):
            for table, key in self._writes:
                getattr(frame, table)[key] = getattr(before, table)[key]
            return
        self._rests = self._work(frame)
        if before is None or self._differs(frame, before):
            frame.changed.add(self.name)

    def _differs(self, frame: RadioFrame, before: RadioFrame) -> bool:
        out = False
        for table, key in self._writes:
            now, last = getattr(frame, table), getattr(before, table)[key]
            if now[key].shape == last.shape and (now[key] == last).all():
                now[key] = last
            else:
                out = True
        return out


def asked_names(texts: Sequence[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The names that references ask for in this frame, and as they were in the one before."""
    asked = [reference(text) for text in texts]
    now = tuple(r.name for r in asked if not r.before)
    return now, tuple(r.name for r in asked if r.before)
