# SPDX-License-Identifier: GPL-3.0-or-later
"""What a search found, written down: as JSON, as lines of text, and as the sheet's own line."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hypsos.core.review.findings import LEVELS, Finding, FindingMove, Shakedown
from hypsos.core.review.rules import STATEMENTS
from hypsos.core.review.search.replay import way_words
from hypsos.core.review.search_words import NOTHING_PLUGGED, counted
from hypsos.core.wording.words import clause

if TYPE_CHECKING:
    from hypsos.core.review.compare_models import Comparison


def as_json(found: Shakedown) -> dict[str, Any]:
    """A search as the command line writes it; a finding's sequence is a set of moves that a trace
    plays."""
    return {
        "model": found.model,
        "digest": found.digest,
        "findings": [
            {
                "statement": f.statement,
                "level": f.level,
                "part": f.part,
                "text": f.text,
                "confirmed": f.confirmed,
                "sequence": _sequence(f.moves),
                "waits_s": f.waits_s,
                "length_s": _length(f),
                "also": list(f.also),
            }
            for f in found.findings
        ],
        "searched": [
            {
                "statement": s.statement,
                "situations": s.situations,
                "complete": s.complete,
                "possible": s.possible,
                "seconds": s.seconds,
                **({"note": s.note} if s.note else {}),
            }
            for s in found.searched
        ],
        "not_asked": dict(found.reasons),
        "plugged": found.plugged,
    }


def _sequence(moves: tuple[FindingMove, ...]) -> list[dict[str, Any]]:
    return [{"t_s": m.t_s, "set": m.control, "to": m.to} for m in moves]


def _length(f: Finding) -> float:
    """How long the moves and the look at their end last, in seconds."""
    return round((f.moves[-1].t_s if f.moves else 0.0) + f.length_s, 3)


def as_text(found: Shakedown) -> list[str]:
    """A search as lines for a terminal."""
    out = [
        f"{found.model}: {', '.join(counted(found, level) for level in LEVELS)} in {found.situations:,} situations"
    ]
    if not found.plugged:
        out.append(NOTHING_PLUGGED)
    for f in found.findings:
        sure = "" if f.confirmed else "possible, not confirmed: "
        out.append(f"{f.level:<7} {f.statement}  {sure}{f.text}")
        if f.captions:
            out.append(f"{'':<11} the way: {way_words(f.moves, f.captions, f.waits_s)}")
        out += [f"{'':<11} of the same cause: {each}" for each in f.also]
        out.append(f"{'':<11} {f.part}")
    open_ = [s for s in found.searched if not s.complete]
    for s in open_:
        out.append(
            f"{'partly':<7} {s.statement}  {STATEMENTS[s.statement].claim} {_sentence(f'not complete: {s.note}')}"
        )
    for statement, reason in found.reasons.items():
        out.append(f"{'left':<7} {statement}  {STATEMENTS[statement].claim} Not asked: {reason}")
    return out


def _sentence(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}." if text else ""


def proof_lines(found: Shakedown, date: str) -> tuple[str, ...]:
    """What a sheet says of the search: that nothing dangerous was found, or what is open."""
    dangers, faults = found.of_level("danger"), found.of_level("fault")
    left = [s.statement for s in found.searched if not s.complete]
    searched = f"{found.situations:,} situations"
    if not dangers:
        searched += ", none dangerous"
    if left:
        searched += f", {len(left)} of {len(found.searched)} statements not completely"
    if found.plugged:
        lines = [f"Shaken down: {searched}, {date}, digest {found.digest}."]
    else:
        lines = [f"{NOTHING_PLUGGED} ({date}, digest {found.digest})"]
    if found.plugged and dangers:
        lines.append(f"Open: {counted(found, 'danger')}. Do not fly it like this.")
    lines += [f"Danger: {f.text}" for f in dangers[:6]]
    if faults:
        lines.append(f"Also open: {counted(found, 'fault')}. The first: {faults[0].text}")
    for statement, reason in found.reasons.items():
        lines.append(f"Not asked ({clause(STATEMENTS[statement].claim)}): {reason}")
    return tuple(lines)


def comparison_json(found: Comparison) -> dict[str, Any]:
    """A comparison as the command line writes it."""
    from hypsos.core.review.compare_models import LEAST
    from hypsos.core.review.compare_states import LEFT_OUT

    return {
        "first": found.first,
        "second": found.second,
        "same": found.same,
        "complete": found.proved,
        "situations": found.situations,
        "differences": [
            {
                "part": d.part,
                "most": round(d.most, 3),
                "first": d.first,
                "second": d.second,
                "modes": list(d.modes),
                "where": d.where,
                "confirmed": d.confirmed,
                "sequence": _sequence(d.moves),
            }
            for d in found.differences
        ],
        "others": list(found.others),
        "least_percent": LEAST,
        "left_out": list(LEFT_OUT),
    }


def comparison_text(found: Comparison) -> list[str]:
    """A comparison as lines for a terminal."""
    from hypsos.core.review.compare_models import LEAST
    from hypsos.core.review.compare_states import LEFT_OUT

    sure = "everything was searched" if found.proved else "not everything could be searched"
    if found.same and found.proved:
        return [
            f"No difference above {LEAST:g} % between {found.first} and {found.second} in {found.situations:,} situations; {sure}.",
            f"Pulses and millimetres are compared, not how a thing is written. Left out: {', '.join(LEFT_OUT)}.",
        ]
    if found.same:
        said = f"None found between {found.first} and {found.second} in {found.situations:,} situations; {sure}"
        return [f"{said}, so there may be one."]
    out = [f"{found.first} and {found.second} differ ({found.situations:,} situations, {sure}):"]
    for d in found.differences:
        modes = f" in {', '.join(d.modes)}" if d.modes else ""
        out.append(
            f"{d.label:<24} by up to {d.most:.1f} %{modes}: {d.first}, then {d.second}, with {d.where}"
        )
    return [*out, *found.others]
