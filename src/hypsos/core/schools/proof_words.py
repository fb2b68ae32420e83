# SPDX-License-Identifier: GPL-3.0-or-later
"""A proof in words: what was played, what rounding does, where two sides differ, and the way
there."""

from __future__ import annotations

from collections.abc import Sequence

from hypsos.core.base.figure_words import number
from hypsos.core.document.document import Model
from hypsos.core.schools.lacks import NearCurve, Reduced
from hypsos.core.schools.proof import HandAct, PulseDifference, TranslationProof
from hypsos.core.wording.words import control_label

MOST_ACTS = 8
"""So many acts are told; of more the last ones."""


def played_words(found: TranslationProof) -> str:
    """What was played: ``'1,204 situations, 36 minutes of moves'``."""
    minutes = found.seconds / 60.0
    said = f"{found.situations:,} situations, {minutes:,.0f} minutes of moves"
    # outputs were proved at different times, each in its own situations
    return f"each output in at least {said}" if found.taken_over else said


def rounding_words(found: TranslationProof, near: Sequence[NearCurve] = ()) -> str:
    """What rounding does; ``near``: curves that stand by fewer points."""
    # both sides of a wing are said together
    alike: dict[str, list[str]] = {}
    for x in near:
        alike.setdefault(_curve_words(x), []).append(x.label)
    curves = [f"{', '.join(labels)}: {words}" for words, labels in alike.items()]
    return " ".join([_steps_words(found), *curves])


def _curve_words(x: NearCurve) -> str:
    apart = f"{x.us:.1f} µs" + (f", {x.mm:.1f} mm" if x.mm >= LEAST_MM else "")
    return f"{x.points} points stand for the curve of the linkage, up to {apart} besides."


NO_OUTPUT = "Nothing is plugged in, so no pulse was compared. Plug the leads in first."
LEAST_MM = 0.05
"""Less is not told."""


def _steps_words(found: TranslationProof) -> str:
    x = found.rounding
    if x.us < 0.05:
        return "Rounding to this transmitter's steps changes no pulse."
    said = f"Rounding to this transmitter's steps: up to {x.us:.1f} µs ({x.us_at})"
    if x.mm >= LEAST_MM:
        said += f", {x.mm:.1f} mm ({x.mm_at})"
    return said + "."


def proof_lines(found: TranslationProof, made: Reduced) -> tuple[str, ...]:
    """What a sheet says of a proof in which both sides were equal; ``made``: the design as it was
    reduced before."""
    if not found.ports:
        return (NO_OUTPUT,)
    whole = "the design without what is lacking here" if made.lacks else "the design"
    same = "and every pulse the same but for rounding"
    return (
        f"Played against {whole}: {played_words(found)}, {same}.",
        rounding_words(found, made.near),
    )


def difference_words(model: Model, x: PulseDifference) -> str:
    """Where two sides send different pulses, how much, and the way there."""

    def pulse(us: float) -> str:
        return f"{us:.0f} µs" if us else "no pulse"

    motor = "MOTOR: " if x.motor else ""
    said = f"{motor}{x.label}: {pulse(x.found_us)} where the design has {pulse(x.wanted_us)}"
    if x.mm is not None and x.mm >= LEAST_MM:
        said += f", {x.mm:.1f} mm elsewhere"
    return f"{said}, after {x.t_s:.2f} s. The way there: {way_in_words(model, x.way)}."


def way_in_words(model: Model, way: Sequence[HandAct]) -> str:
    """The acts one after the other: ``Motor switch to run, throttle stick to 100 %``."""
    if not way:
        return "nothing is moved"
    said = [_act(model, act) for act in way[-MOST_ACTS:]]
    if len(way) > MOST_ACTS:
        said.insert(0, f"{len(way) - MOST_ACTS} acts before")
    return ", ".join(said)


def _act(model: Model, act: HandAct) -> str:
    if act.control == "link":
        return "the link comes back" if act.to > 0.5 else "the link is lost"
    if act.control in ("power", "flight_battery"):
        what = "the receiver's battery" if act.control == "power" else "the flight battery"
        return f"{what} goes in" if act.to > 0.5 else f"{what} comes out"
    control = model.transmitter.control(act.control)
    label = control_label(model, act.control)
    if control is not None and control.is_switch:
        return f"{label} to {control.positions[int(act.to)]}"
    return f"{label} to {number(act.to)} %"
