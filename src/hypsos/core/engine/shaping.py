# SPDX-License-Identifier: GPL-3.0-or-later
"""Expo, responses and rates: everything that bends a signal without remembering anything."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from types import MappingProxyType

import numpy as np

from hypsos.core.base.backends import ARRAYS, Backend, Signal
from hypsos.core.document.document import Model
from hypsos.core.document.program import EXPO_BOUNDS, FULL, RATE_BOUNDS, Axis, Setting
from hypsos.core.parts.curves import Curve
from hypsos.core.parts.mix_lines import Response

NONE_SHARED: Mapping[str, Signal] = MappingProxyType({})


def expo(x: Signal, k: Signal, backend: Backend = ARRAYS) -> Signal:
    """Soften (k > 0) or sharpen (k < 0) a signal about its centre, ends and centre fixed.

    Parameters
    ----------
    x : signal in -1...1.
    k : expo in percent, -100...100, broadcast against ``x``.

    Returns
    -------
    Signal of the broadcast shape. With c = abs(k)/100: ``(1-c)x + c x**3`` for k >= 0, and the same curve seen from the
    stick's end for k < 0. Monotone for every k.

    >>> round(float(expo(0.8, 35)), 6)
    0.6992
    """
    c = backend.abs(k) / 100.0
    soft = x * (1.0 - c + c * x * x)
    if backend.never(k < 0):
        return soft
    rest = 1.0 - backend.abs(x)
    sharp = backend.copysign(1.0 - rest * (1.0 - c + c * rest * rest), x)
    return backend.where(k >= 0, soft, sharp)


class LiveCurve:
    """A response some of whose points are moved in flight by a shared value, made ready for each
    value it has had."""

    def __init__(self, response: Response, by: str) -> None:
        self._response, self._by = response, by
        self._last: tuple[float, Curve] | None = None

    def _for(self, by: float) -> Curve:
        last = self._last  # held on to: another thread may run the same plan
        if last is None or last[0] != by:
            last = self._last = (by, Curve(self._response.lifted(by), self._response.shape))
        return last[1]

    def of(self, x: Signal, shared: Mapping[str, Signal]) -> Signal:
        """The response to ``x`` with the shared values as they are; both broadcast."""
        by = shared[self._by]
        if not isinstance(by, np.ndarray):
            return self._for(float(by))(x)
        x, by = np.broadcast_arrays(np.asarray(x, float), by)
        out = np.empty(x.shape)
        for value in np.unique(by):
            here = by == value
            out[here] = self._for(float(value))(x[here])
        return out


Shape = Curve | LiveCurve


@cache
def response_curve(response: Response | None) -> Shape | None:
    """A response made ready; None stands for *unchanged*."""
    if response is None:
        return None
    if response.live_from is not None:
        return LiveCurve(response, response.live_from)
    return Curve(response.points, response.shape)


def shaped(
    x: Signal,
    curve: Shape | None,
    setting: Setting | tuple[Signal, ...],
    backend: Backend = ARRAYS,
    from_idle: bool = False,
    shared: Mapping[str, Signal] = NONE_SHARED,
) -> Signal:
    """An axis command without its trim: curve, expo, then the rate of the side that came out of the
    expo. All in percent.

    ``setting`` is one setting, or (rate_neg, rate_pos, expo) as signals. ``from_idle`` for the
    thrust axis: its rate scales what is above idle, ``rate_pos/100 * (x + 100) - 100``, and so
    never lifts idle."""
    if isinstance(setting, Setting):
        setting = (setting.rate_neg, setting.rate_pos, setting.expo)
    rate_neg, rate_pos, k = setting
    bent = x if curve is None else curve.of(x, shared)
    bent = expo(backend.clip(bent, -100.0, 100.0) / 100.0, k, backend)
    if from_idle:
        return rate_pos * (bent + 1.0) - 100.0
    return backend.where(bent < 0.0, rate_neg, rate_pos) * bent


def setting_at(axis: Axis, position: int) -> Setting:
    """The feel of an axis at a switch position; an undefined one is full rate and no expo."""
    found = axis.settings[position] if 0 <= position < len(axis.settings) else None
    return FULL if found is None else found


def stored_values(model: Model, mode: str) -> dict[str, float]:
    """Every shared value as it is stored for a flight mode (what adjusts it in flight left out)."""
    return {x.name: float(x.by_mode.get(mode, x.value)) for x in model.program.shared_values()}


def stored_setting(model: Model, setting: Setting, mode: str) -> Setting:
    """A setting with its shared values put in as they are stored for a flight mode (in-flight
    adjusters left out), held to the bounds of what they stand in for."""
    if setting.rate_from is None and setting.expo_from is None:
        return setting
    shared = stored_values(model, mode)
    fields = setting.model_dump()
    if setting.rate_from in shared:
        fields["rate_neg"] = fields["rate_pos"] = min(
            RATE_BOUNDS[1], max(RATE_BOUNDS[0], shared[setting.rate_from])
        )
    if setting.expo_from in shared:
        fields["expo"] = min(EXPO_BOUNDS[1], max(EXPO_BOUNDS[0], shared[setting.expo_from]))
    return Setting(**fields)
