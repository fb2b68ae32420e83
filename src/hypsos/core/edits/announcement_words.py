# SPDX-License-Identifier: GPL-3.0-or-later
"""Announcements and timers in words, for the sheet, and what asks for a second look in them."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.base.figure_words import plain
from hypsos.core.conditions import conditions_of
from hypsos.core.dependencies.graph import asked_by
from hypsos.core.document.document import Model
from hypsos.core.edits.condition_doubts import condition_doubts
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.condition_text import asked
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.time_words import clock, time_said, timer_label

RANK_WORDS = {"danger": "before all else", "state": "in its turn", "remark": "after all else"}
"""How urgent a caption is, as it is said."""
MOMENT_WORDS = {"begins": "as it begins", "ends": "as it ends", "while": "while it lasts"}


def announcement_words(model: Model, said: Announcement) -> str:
    """When a caption is said: ``'as this begins: Motor switch at cut; before all else'``."""
    every = f", at once and every {plain(said.every_s)} s" if said.moment == "while" else ""
    return (
        f"{MOMENT_WORDS[said.moment]}{every}: {phrase(model, said.when)}; {RANK_WORDS[said.rank]}"
    )


def timer_words(model: Model, timer: Timer) -> str:
    """What a timer does, in one breath."""
    start = f"counts down from {clock(timer.span_s)}" if timer.counts == "down" else "counts up"
    words = [f"{start} while {phrase(model, timer.when)}"]
    if timer.counts == "up" and timer.span_s:
        words.append(f"has run out at {clock(timer.span_s)}")
    if timer.reset is not None:
        words.append(f"starts anew when {phrase(model, timer.reset)}")
    if timer.moments:
        said = [time_said(moment) if moment else "that time is up" for moment in timer.moments]
        words.append(f"says {', '.join(said)}")
    if timer.every_s:
        words.append(f"says its reading every {time_said(timer.every_s)}")
    if timer.last_s and timer.span_s:
        words.append(f"counts the last {timer.last_s} seconds aloud")
    words.append("kept while the power is off" if timer.keeps else "begins anew at power-up")
    return "; ".join(words)


def voice_lines(model: Model) -> Iterator[tuple[str, str]]:
    """What and value for each announcement and each timer, for the sheet."""
    for said in model.program.announcements:
        yield f"Say “{said.caption}”", announcement_words(model, said)
    for timer in model.program.timers:
        yield timer_label(timer), timer_words(model, timer)


def voice_doubts(model: Model) -> Iterator[tuple[str, str]]:
    """(path, sentence) for an announcement that can never be said, a timer that never starts or
    says nothing."""
    for i, said in enumerate(model.program.announcements):
        if found := _never(model, said.when):
            yield f"program.announcements[{i}].when", f"“{said.caption}” can never be said. {found}"
    for i, timer in enumerate(model.program.timers):
        label, path = timer_label(timer), f"program.timers[{i}]"
        if found := _never(model, timer.when):
            yield f"{path}.when", f"{label} never starts. {found}"
        if timer.last_s and not timer.span_s:
            yield (
                f"{path}.last_s",
                f"{label} has no end before which it could count its last seconds.",
            )
        if (
            any(asked(text).key == f"timer:{timer.name}" for text in _texts(model))
            and not timer.span_s
        ):
            yield f"{path}.span_s", f"Something waits for {label} to run out, and it never does."


def _never(model: Model, text: str) -> str:
    """Why a condition never changes, or nothing."""
    asks = asked(text)
    if asks.realm:
        return ""
    return next((doubt.text for doubt in condition_doubts(model, asks.name) if doubt.never), "")


def _texts(model: Model) -> Iterator[str]:
    yield from (text for _, text in asked_by(model))
    for node in model.program.logic:
        yield from conditions_of(node)
