# SPDX-License-Identifier: GPL-3.0-or-later
"""A stretch of frames of the simulated transmitter, and what is worked out in it."""

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


class Stretch:
    """What is known in a stretch of T frames of N situations.

    Each frame of each situation is a *cell*; there are C = T N of them, frame after frame. While a
    situation fades from one flight mode to another its cell has a row more for each mode with a
    share: there everything is worked out as that mode alone has it. So a signal has (C + F) rows:
    first every cell as it is, then the rows of modes, in the order of their cells. ``mode`` is the
    mode of each row, ``rows`` the cell of each row (None: nothing fades), ``shares`` the shares of
    the last F.

    ``hands``, ``places``, ``flags``, ``counts`` and ``pulses`` have a row for each cell;
    ``signals``, ``plain`` (commands without their trim) and ``shared`` for each row."""

    def __init__(self, setup: Setup, t_s: Numbers, hands: dict[str, Numbers]) -> None:
        self.setup, self.t_s, self.hands = setup, t_s, hands
        self.count = len(hands[FULL])
        self.situations = self.count // len(t_s)
        self.places: dict[str, Places] = {}
        self.flags: dict[str, Truths] = {}
        self.counts: dict[str, Places] = {}
        self.pulses: dict[str, Numbers] = {}
        self.before: Stretch | None = None
        """The stretch before this one."""
        self.mode = np.zeros(self.count, np.intp)
        self.rows: Places | None = None
        self.shares = np.zeros(0)
        self.signals: dict[str, Numbers] = {}
        self.plain: dict[str, Numbers] = {}
        self.shared: dict[str, Numbers] = {}

    def fade(self, mode: Places, rows: Places, shares: Numbers) -> None:
        """Add the rows of modes that have a share."""
        self.mode = np.concatenate([self.mode, mode])
        self.rows = np.concatenate([np.arange(self.count), rows])
        self.shares = shares

    def bare(self) -> Stretch:
        """The same without the rows of modes, for what is alike in all of them. Signals that are
        read here are not kept: the rows of modes may only come later."""
        out = copy(self)
        out.rows, out.mode = None, self.mode[: self.count]
        out.signals, out.plain, out.shared = {}, {}, {}
        return out

    def over_time(self, x: Any) -> Any:
        """Something known of every cell (C,), frame by frame (T, N)."""
        return x.reshape(len(self.t_s), self.situations)

    def times(self) -> Numbers:
        """The time of every frame, (T, 1)."""
        return self.t_s[:, None]

    def spread(self, x: Any) -> Any:
        """Something known of every cell, for every row."""
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
        """A source as it is in every cell."""
        found = self.signals.get(name)
        return self.hands[name] if found is None else found[: self.count]

    def holds(self, text: str) -> Truths:
        """Whether a reference holds, in every cell."""
        asked = reference(text)
        found = self._was(asked) if asked.before else self._is(asked)
        return ~found if asked.negated else found

    def _is(self, asked: Any) -> Truths:
        if asked.position is None:
            return self.flags[asked.name]
        table = self.places if asked.name in self.places else self.counts
        return np.asarray(table[asked.name] == asked.position)

    def _was(self, asked: Any) -> Truths:
        """A reference as it was in the frame before each one; false before the first frame."""
        last = np.zeros(self.situations, bool)
        if self.before is not None:
            last = self.before._is(asked)[-self.situations :]
        if len(self.t_s) == 1:
            # what it was may be asked before it is known what it is
            return last
        return np.concatenate([last, self._is(asked)[: -self.situations]])

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


Work = Callable[[Stretch], None]
"""Works something out in a stretch, going on from the one before."""


class Node:
    """Something that is worked out frame by frame, after what it ``asks``, and by what others
    ``was`` in the frame before. It ``writes`` entries of tables of a stretch. ``remembers``: it goes
    by more than that, namely by what it did in earlier frames."""

    def __init__(
        self,
        name: str,
        asks: Sequence[str],
        work: Work,
        writes: Sequence[tuple[str, str]],
        was: Sequence[str] = (),
        remembers: bool = False,
    ) -> None:
        self.name, self.asks, self.was = name, tuple(asks), tuple(was)
        self.remembers = remembers
        self.work, self.writes = work, tuple(writes)


def asked_names(texts: Sequence[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The names that references ask for in this frame, and as they were in the one before."""
    asked = [reference(text) for text in texts]
    now = tuple(r.name for r in asked if not r.before)
    return now, tuple(r.name for r in asked if r.before)
