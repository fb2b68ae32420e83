"""Expo, responses and rates: everything that bends a signal without remembering anything."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

from hypsos.core.document import Model
from hypsos.core.program import FULL, Axis, Setting
from hypsos.core.shapes import Response

Array = NDArray[np.float64]
Curve = Callable[[Array], Array]


def expo(x: ArrayLike, k: ArrayLike) -> Array:
    """Soften (k > 0) or sharpen (k < 0) a signal about its centre, ends and centre fixed.

    Parameters
    ----------
    x : array in -1...1, any shape.
    k : expo in percent, -100...100, broadcast against ``x``.

    Returns
    -------
    Array of the broadcast shape. With c = abs(k)/100: ``(1-c)x + c x**3`` for k >= 0, and the same curve seen from the
    stick's end for k < 0. Monotone for every k.

    >>> round(float(expo(0.8, 35)), 6)
    0.6992
    """
    x_, k_ = np.asarray(x, float), np.asarray(k, float)
    c = np.abs(k_) / 100.0
    soft = x_ * (1.0 - c + c * x_ * x_)
    if k_.ndim == 0 and k_ >= 0:
        return np.asarray(soft)
    rest = 1.0 - np.abs(x_)
    sharp = np.copysign(1.0 - rest * (1.0 - c + c * rest * rest), x_)
    return np.asarray(np.where(k_ >= 0, soft, sharp))


def response_curve(response: Response | None) -> Curve | None:
    """A function from an array to an array of the same shape for a response; None stands for *unchanged*."""
    if response is None:
        return None
    xs = np.array([p[0] for p in response.points])
    ys = np.array([p[1] for p in response.points])
    if response.shape == "smooth" and len(xs) > 2:
        from scipy.interpolate import PchipInterpolator  # dear to import, so only where it is needed

        smooth = PchipInterpolator(xs, ys)
        return lambda x: np.asarray(smooth(np.clip(x, xs[0], xs[-1])), float)
    return lambda x: np.interp(x, xs, ys)


def shaped(x: Array, curve: Curve | None, setting: Setting | tuple[Array, Array, Array]) -> Array:
    """An axis command without its trim: curve, expo, then the rate of the stick's side. All in percent.

    ``setting`` is one setting, or (rate_neg, rate_pos, expo) as arrays that broadcast against ``x``.
    """
    if isinstance(setting, Setting):
        rate_neg, rate_pos, k = np.asarray(setting.rate_neg), np.asarray(setting.rate_pos), np.asarray(setting.expo)
    else:
        rate_neg, rate_pos, k = setting
    bent = x if curve is None else curve(x)
    bent = 100.0 * expo(np.clip(bent, -100.0, 100.0) / 100.0, k)
    return np.asarray(np.where(bent < 0.0, rate_neg, rate_pos) * bent / 100.0)


def setting_at(axis: Axis, position: int) -> Setting:
    """The feel of an axis at a switch position; an undefined one is full rate and no expo."""
    found = axis.settings[position] if 0 <= position < len(axis.settings) else None
    return FULL if found is None else found


def stored_setting(model: Model, setting: Setting, mode: str) -> Setting:
    """A setting with its shared values put in as they are stored for a flight mode (in-flight adjusters left out)."""
    shared = {x.name: x.by_mode.get(mode, x.value) for x in model.program.tunables}
    fields = setting.model_dump()
    if setting.rate_from in shared:
        fields["rate_neg"] = fields["rate_pos"] = shared[setting.rate_from]
    if setting.expo_from in shared:
        fields["expo"] = shared[setting.expo_from]
    return Setting(**fields)


def ruler_mm(degrees: ArrayLike, chord_mm: ArrayLike) -> Array:
    """What a ruler at the trailing edge reads: ``2 c sin(|d|/2)``, with the sign of the deflection.

    >>> round(float(ruler_mm(29.440507799, 18.852051299)), 6)
    9.580607
    """
    return np.asarray(2.0 * np.asarray(chord_mm, float) * np.sin(np.radians(np.asarray(degrees, float)) / 2.0))
