# SPDX-License-Identifier: GPL-3.0-or-later
"""What to go through before the first flight, and before each flight: short, to be ticked."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from hypsos.core.base.figure_words import plain
from hypsos.core.document.document import Model


class Item(NamedTuple):
    """Something to look at, and how one knows that it is as it should be."""

    what: str
    how: str


FIRST_TITLE, EACH_TITLE = "Before the first flight", "Before each flight"
RULES = "An instructor, the club and local rules come first."


def before_first(model: Model) -> Iterator[Item]:
    """Before a model flies for the first time."""
    yield Item(
        "Someone who has flown such a model",
        "An instructor or a club pilot looks it over, and is there.",
    )
    yield Item("Insurance, club and local rules", "Valid for this model, this field and this day.")
    yield Item("Height and airspace", "How high may it fly here, and who else does?")
    yield Item("Balance", balance_words(model))
    yield Item(
        "Clevises, horns, hinges, wing bolts",
        "Each pulled by hand; nothing turns, slips or has play.",
    )
    yield Item("Range", _range_words(model))
    if any(d.kind == "tow release" for d in model.airframe.devices):
        yield Item("Tow release", "It opens with the line pulled tight, not only by itself.")
    yield Item(
        "Failsafe",
        f"Transmitter off: after {plain(model.receiver.failsafe_after_s)} s everything goes where the sheet says.",
    )


def before_each(model: Model) -> Iterator[Item]:
    """Before every flight."""
    yield Item("Model chosen", f"The transmitter shows {model.name}.")
    yield Item("Batteries", "Transmitter, receiver and flight battery charged and tied down.")
    yield Item("Transmitter on first", "Off last.")
    if model.airframe.motors:
        yield Item("Propeller", "Nobody in or ahead of its plane before the battery goes in.")
    yield Item("Controls", "Each stick moves its surface the right way, and freely.")
    yield Item(
        "Trims and rates", "Where they were after the last flight; rates low for a first one."
    )
    if model.program.timers:
        yield Item("Timer", "It shows the whole time.")
    yield Item("Sky and people", "A spotter, the wind, who else flies, where it will land.")


def balance_words(model: Model) -> str:
    """Where it is to balance, and what it weighs then, as far as that was said."""
    body = model.airframe
    if body.balance_mm is None:
        where = "At the point the plans give"
    else:
        way = "behind" if body.balance_mm >= 0 else "ahead of"
        where = f"{plain(abs(body.balance_mm))} mm {way} the wing's leading edge at its root"
    weighs = "" if body.mass_g is None else f", {plain(body.mass_g)} g"
    return f"{where}, ready to fly{weighs}, from the side and from behind."


def _range_words(model: Model) -> str:
    """One line on the range check."""
    running = ", once with the motor running and the model held" if model.airframe.motors else ""
    return f"At the maker's distance with reduced power{running}."
