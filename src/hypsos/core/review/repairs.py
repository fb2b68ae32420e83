# SPDX-License-Identifier: GPL-3.0-or-later
"""What would mend a finding: small changes of the document, each tried by the search before it is
offered as one."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Sequence
from typing import Any, NamedTuple, cast

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.values import Value
from hypsos.core.checking.checks import first_problem
from hypsos.core.document.document import Model
from hypsos.core.review.compare_models import Comparison, Difference, compared
from hypsos.core.review.findings import Ask, Finding, Shakedown
from hypsos.core.review.rules import STATEMENTS
from hypsos.core.review.shakedown import ShakedownSearch

COMPARED_S = 3.0
"""Seconds for what a repair changes."""
NAMED = 2
"""Parts and other changes of a repair that are named."""


class Repair(NamedTuple):
    """A change that mends a finding: in words, and the document with it."""

    words: str
    model: Model


class TriedRepair(NamedTuple):
    """A repair, whether the finding is gone with it, what is found only with it, and what it
    changes in flight (None where that was not asked: it does not mend the finding)."""

    repair: Repair
    gone: bool
    new: tuple[Finding, ...]
    changes: Comparison | None = None


def repairs(model: Model, finding: Finding) -> list[Repair]:
    """The changes that may mend a finding; none where a person has to decide."""
    offered = STATEMENTS[finding.statement].repairs
    if offered is None:
        return []
    out = []
    for words, make in offered(model, finding):
        try:
            made = make()
            if made != model and first_problem(made) is None:
                out.append(Repair(words, made))
        except (HypsosError, ValueError, IndexError, StopIteration):
            continue
    return out


def tried(
    ask: Ask,
    finding: Finding,
    repair: Repair,
    before: Shakedown | None = None,
    stopped: Callable[[], bool] = lambda: False,
) -> TriedRepair:
    """Search a model with a repair, whole: whether what it is to mend is gone, what is found only
    with it, and by how much which part moves otherwise then.

    ``before`` is what a whole search of the model found; ``stopped``: whether nobody waits any
    more. A finding is the same one after the repair by its statement and the names of its parts:
    taking something out moves everything behind it one place on. Travel that a surface loses is
    named by the line that gives most; lowered, another line may give most, and the surface still
    loses travel: then it is not gone."""
    held = ShakedownSearch().run(ask) if before is None else before
    after = ShakedownSearch().run(Ask(repair.model, ask.profile, ask.others))
    had = {(f.statement, named_place(ask.model, f.part)) for f in held.findings}
    causes = {f.cause for f in held.findings if f.cause}
    same = (finding.statement, named_place(ask.model, finding.part))
    found = [(f, (f.statement, named_place(repair.model, f.part))) for f in after.findings]
    new = tuple(f for f, key in found if key not in had and f.cause not in causes)
    # lowered, another line may give most, and the surface still loses travel
    lost_now = any(f.statement == "S2" and f.seen == finding.seen for f in new)
    still_lost = finding.statement == "S2" and lost_now
    gone = not still_lost and all(key != same for _, key in found)
    return TriedRepair(
        repair, gone, new, _changes(ask.model, repair.model, stopped) if gone else None
    )


def _changes(model: Model, made: Model, stopped: Callable[[], bool]) -> Comparison:
    """What the two models do differently, as far as it is found in a few seconds."""
    ends = time.thread_time() + COMPARED_S
    return compared(model, made, lambda: stopped() or time.thread_time() > ends)


def changes_words(changes: Comparison) -> str:
    """What a repair changes in flight, in sentences: the parts that move otherwise, those most that
    do most, then the rest."""
    most = sorted(changes.differences, key=lambda d: -d.most)
    said = [f"{d.label} {d.second} instead of {d.first} ({d.where})" for d in most[:NAMED]]
    if len(most) > NAMED:
        said.append(f"{len(most) - NAMED} more otherwise, by less")
    words = [f"In flight, where it changes most: {'; '.join(said)}."] if said else []
    words += [x for x in changes.others if not _of_these(x, most)][:NAMED]
    if not words and changes.proved:
        return "No lead sends anything else than before."
    if not changes.proved:
        words.append("Not all of what it changes was compared.")
    return " ".join(words)


def _of_these(sentence: str, differences: Sequence[Difference]) -> bool:
    """Whether a sentence speaks of a part of which more is said already."""
    return any(d.label.lower() in sentence.lower() for d in differences)


def named_place(model: Model, path: str) -> str:
    """A place in the document by the names of what lies on the way, which stay when something else
    goes or comes.

    ``program.logic[3].of`` is ``program.logic{deep}.of``; where a thing has no name, what it is and
    what it moves."""
    out, at = "", cast("Any", model)
    for token in re.findall(r"\[\d+\]|[^.\[\]]+", path):
        try:
            if token.startswith("["):
                at = at[int(token[1:-1])]
                out += f"{{{_called(at)}}}" if isinstance(at, Value) else token
            else:
                at = at[token] if isinstance(at, dict) else getattr(at, token)
                out += f".{token}" if out else token
        except (AttributeError, IndexError, KeyError, TypeError):
            return path  # it leads nowhere in this model
    return out


def _called(thing: Value) -> str:
    fields = ("kind", "name", "target", "caption", "label", "command", "control", "first")
    own = {n: getattr(thing, n) for n in fields if n in type(thing).model_fields}
    if "name" in own and "target" not in own:
        return str(own["name"])
    return "/".join(str(x) for x in own.values())
