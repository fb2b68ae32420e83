# SPDX-License-Identifier: GPL-3.0-or-later
"""What goes in: the position of every control, the link and the batteries, over time or over
situations."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hypsos.core.base.backends import Flags
from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.engine.rest_positions import resting
from hypsos.core.parts.transmitter import AROUND


class HeldValues:
    """Values that hold from one row to the next, by frame: laid out only where they are looked at.
    An hour of fine frames with a few moves in it takes a few figures and not some hundred
    megabytes."""

    def __init__(self, rows: NDArray[np.float64], row: NDArray[np.int32]) -> None:
        self._rows, self._row = rows, row
        self.shape, self.ndim = row.shape, 1

    def __getitem__(self, frames: slice) -> NDArray[np.float64]:
        return np.asarray(self._rows[self._row[frames]], float)

    def __len__(self) -> int:
        return len(self._row)

    def __array__(self, dtype: Any = None, copy: bool | None = None) -> NDArray[Any]:
        return np.asarray(self[:], dtype)


@dataclass(frozen=True)
class Situation:
    """Inputs for a run.

    ``t_s`` has shape (T,), rising, in seconds. Every entry of ``controls`` broadcasts against (...,
    T): percent for sticks, sliders, knobs and trims, the position's number from 0 for a switch.
    ``link``, ``power`` (of the receiver) and ``flight_battery`` (of the motors) are 1 or 0,
    ``link_quality`` 0 to 100. A receiver without a battery of its own is fed by the flight battery:
    one of the two is out as soon as the other is. Controls that are not given rest: sticks and
    trims as in the document, the throttle at its low end, switches at their first position, sliders
    and knobs in the middle."""

    t_s: NDArray[np.float64]
    controls: Mapping[str, ArrayLike] = field(default_factory=dict)
    link: ArrayLike = 1.0
    power: ArrayLike = 1.0
    link_quality: ArrayLike = 100.0
    flight_battery: ArrayLike = 1.0

    @classmethod
    def of(cls, t_s: NDArray[np.float64], tracks: Mapping[str, ArrayLike]) -> Situation:
        """From one table that holds the controls and what surrounds them."""
        controls = {n: x for n, x in tracks.items() if n not in AROUND}
        return cls(t_s, controls, **{n: tracks.get(n, rest) for n, rest in AROUND.items()})

    @property
    def around(self) -> dict[str, ArrayLike]:
        """What surrounds the hands, by name."""
        return {n: getattr(self, n) for n in AROUND}

    def piece(self, start: int, end: int) -> Situation:
        """Some of its frames."""

        def cut(x: ArrayLike) -> ArrayLike:
            if isinstance(x, HeldValues):
                return x[start:end] if len(x) > 1 else np.asarray(x)
            found = np.asarray(x)
            moves = found.ndim > 0 and found.shape[-1] == len(self.t_s) > 1
            # what stands still all the time is one figure, also of a piece
            return found[..., start:end] if moves else found

        return Situation.of(
            self.t_s[start:end], {n: cut(x) for n, x in {**self.controls, **self.around}.items()}
        )


F = TypeVar("F", bool, Flags)


def fed(model: Model, power: F, flight_battery: F) -> tuple[F, F]:
    """Whether the receiver and whether the motors are fed: by one battery, unless the receiver has
    one of its own."""
    if model.receiver.power == "own battery":
        return power, flight_battery
    both = power & flight_battery
    return both, both


def control_bounds(model: Model, name: str) -> tuple[float, float]:
    """The least and the greatest value a control takes: percent, or the position's number for a
    switch."""
    control = model.transmitter.control(name)
    if control is not None and control.is_switch:
        return 0.0, len(control.positions) - 1.0
    for a in model.program.axes:
        if a.trim is not None and name == f"{a.command}_trim":
            return -a.trim.range, a.trim.range
    return -100.0, 100.0


def allowed(model: Model, name: str) -> tuple[float, float, bool]:
    """What a control takes: the least, the greatest, and whether only whole numbers. Raises
    HypsosError for no control."""
    if name in ("link", "power", "flight_battery"):
        return 0.0, 1.0, True
    if name == "link_quality":
        return 0.0, 100.0, False
    if name not in resting(model):
        known = ", ".join(sorted(resting(model)))
        raise HypsosError(f"there is no control called {name}", name, f"This model has {known}.")
    control = model.transmitter.control(name)
    return (*control_bounds(model, name), control is not None and control.is_switch)


def checked_value(model: Model, name: str, value: float) -> float:
    """The value if that control can take it.

    Raises HypsosError naming the control, what was found and what is allowed.
    """
    low, high, whole = allowed(model, name)
    if not np.isfinite(value) or not low <= value <= high or (whole and value != int(value)):
        kind = "a whole number" if whole else "a number"
        raise HypsosError(
            f"{value:g} is not possible", name, f"It takes {kind} from {low:g} to {high:g}."
        )
    return value
