# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet says all: who has nothing but its text keys in a transmitter that sends the same pulses. And
each of its rules of reading is needed: read another way, the pulses are others."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from faulty import demo_model
from keyed import keyed_on, sheet_text
from newcomer import Newcomer, Reading, slug

from hypsos.core.schools.keying import Keying
from hypsos.core.schools.proof_moves import Battery, MoveMaker
from hypsos.core.schools.stand_in.machine import Moves, simulate
from hypsos.core.schools.stand_in.parts import Radio

SHEETS = {"Samphire": "Sill", "Marram": "Headland"}
OTHER = {
    "100 % is 400 µs": {"slope": 4.0},
    "the first figure is that above zero": {"first_figure": "above"},
    "slow is said for the whole way": {"slow_per": 200.0},
    "stick forward is plus": {"turned_sticks": False},
    "no trim anywhere": {"with_trim": False},
    "position 0 is the other end": {"first_place": 1},
    "a sum goes to 60 %": {"most": 60.0},
    "expo sharpens": {"expo": -1.0},
    "curves run on beyond their ends": {"curve_ends": "run on"},
    "every line has the trim": {"no_trim": False},
    "throttle is counted from the middle": {"low_end": False},
    "times is for what comes after": {"multiplies": "what comes after"},
    "travel: the high side first": {"travel_first": "high"},
    "the last mode that holds": {"modes_from": "right"},
}
BOTH = 8
"""So many rules of reading are met on both sheets, the others on that of *Marram*."""


def played(made: Keying, battery: Battery, radio: Radio, read: bool) -> dict[int, Any]:
    """What a transmitter sends; one that was read has its hands by the names on the sheet."""
    names = {c.name: slug(c.label) for c in made.reduced.model.transmitter.controls} if read else {}
    tracks = {names.get(name, name): track for name, track in battery.tracks.items()}
    return simulate(radio, Moves(battery.t_s, tracks))


@pytest.mark.parametrize("name", SHEETS)
def test_a_sheet_alone_is_enough_and_needs_each_of_its_rules(name: str) -> None:
    model = demo_model(name.lower())
    made, text = keyed_on(model, SHEETS[name]), sheet_text(model, SHEETS[name])
    true = made.radio(made.settings)

    def apart(battery: Battery, reading: Reading) -> float:
        read = made.school.radio(Newcomer(text, reading).settings())
        mine, theirs = played(made, battery, true, False), played(made, battery, read, True)
        return max(float(np.abs(mine[port] - theirs[port]).max()) for port in mine)

    for battery in MoveMaker(made.reduced.model, [true], 0.15).all(False):
        assert apart(battery, Reading()) < 0.1
    looks = MoveMaker(made.reduced.model, [true], 0.05).looks()
    needed = list(OTHER.items())[: None if name == "Marram" else BOTH]
    for words, change in needed:
        assert apart(looks, Reading()._replace(**change)) > 1.0, words  # type: ignore[arg-type]
