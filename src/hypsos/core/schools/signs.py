# SPDX-License-Identifier: GPL-3.0-or-later
"""Reversal in the signs: on some transmitters a servo that sits the other way round is not reversed
at its output; the lines of its part have the other sign instead.

*Sought*: settings in which no output is reversed, with the same pulses. *What must stay true*: a sum
that something else reads keeps its sign, and so does a motor's, whose cut acts before its output; both
keep their reversal. *Why it is right*: an output holds its sum between two bounds, slows it, bends it
and turns it round, in this order. Turned round before instead of after, each of these has to be
mirrored: the bounds exchanged, up and down exchanged, the bend turned about its middle."""

from __future__ import annotations

from collections.abc import Collection

from hypsos.core.schools.figures import Bend
from hypsos.core.schools.stand_in.parts import Channel

SIGNS = (
    "This transmitter keeps reversal in the signs: where a part stands up at +100 %, plus is up for it. Its trims, presets "
    "and curves are keyed in as they stand here, with the other sign."
)  # fmt: skip
IDLE = -100.0


def turned_sums(outputs: Collection[Channel], read: Collection[str]) -> frozenset[str]:
    """The sums whose reversal moves into their lines; ``read``: sums that something reads beside
    their outputs. Of several outputs of one sum all have to be reversed."""
    found = {x.sum for x in outputs if x.turned and x.low < IDLE and x.sum not in read}
    return frozenset(name for name in found if all(x.turned for x in outputs if x.sum == name))


def unturned(output: Channel, turned: Collection[str]) -> Channel:
    """An output whose sum was turned round, so that it sends the same."""
    if output.sum not in turned:
        return output
    return output.changed(
        {
            "turned": False,
            "low": -output.high,
            "high": -output.low,
            "slow_up": output.slow_down,
            "slow_down": output.slow_up,
            "bend": None if output.bend is None else _mirrored(output.bend),
        }
    )


def _mirrored(bend: Bend) -> Bend:
    """A bend turned about its middle. An output's bend has no points that move."""
    points = tuple((-x, -y) for x, y in reversed(bend.points))
    return bend.changed({"points": points})
