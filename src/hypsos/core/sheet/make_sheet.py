# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet put together: what is lacking, how to read it, what is keyed in, and what is looked at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from hypsos.core.dependencies.failsafe_defaults import spare_ports
from hypsos.core.document.document import Model, digest
from hypsos.core.schools.keying import Keying
from hypsos.core.schools.lacks import Lack
from hypsos.core.schools.on_paper.blocks import Block, Row, in_lines, without_empty
from hypsos.core.schools.signs import SIGNS
from hypsos.core.sheet.chosen_checks import Checks, checks_block
from hypsos.core.sheet.guard_test import guard_test
from hypsos.core.sheet.preflight_lists import FIRST_TITLE, RULES, Item, before_first
from hypsos.core.sheet.sheet_blocks import Sheet

CLOSING = (
    "These figures are computed from what was entered, not measured on this aeroplane. Local rules, the makers' manuals "
    "and the club's safety officer come first."
)
TOGETHER = "What is named in one line goes together: leave all of it out, never a part of it."


def make_sheet(
    model: Model,
    made: Keying,
    lacks: Sequence[Lack] | None = None,
    proof: Sequence[str] = (),
    checks: Checks | None = None,
    kept: Mapping[str, str] | None = None,
) -> Sheet:
    """The sheet of a model on a transmitter. ``lacks``: its lacks with their costs, where these are
    worked out; ``proof``: lines on what was searched and played; ``checks``: the looks that were
    chosen, left out where they are not; ``kept``: the numbers of conditions, shared values and
    curves that the transmitter has already (:func:`hypsos.core.sheet.keying_in.kept_numbers`)."""
    reduced = made.reduced.model
    school = made.school
    pages = school.pages(reduced, made.settings, kept or {})
    lacking = made.reduced.lacks if lacks is None else lacks
    tested = guard_test(made)
    turned = (SIGNS,) if made.profile.reversal == "signs" else ()
    reading = (*pages.reading, *turned)
    blocks = [
        _lacks_block(made, lacking),
        Block("proof", "What was searched and played", tuple(proof)),
        Block("reading", "How to read this sheet", reading),
        *pages.keyed,
        *([tested] if tested is not None else []),
        *(_with_spare_ports(model, block) for block in pages.failsafe),
        *([checks_block(reduced, checks)] if checks is not None else []),
        *pages.voice,
        _items_block("first", FIRST_TITLE, list(before_first(model)), RULES),
    ]
    said = tuple(x for x in blocks if x.rows or (x.lines and not x.columns))
    about = f"{model.airframe.kind}. {model.note}".strip()
    there = f"The transmitter thinks {made.profile.school}: {school.title[:1].lower()}{school.title[1:]}."
    receiver = f"Receiver number {model.receiver.number}."
    return Sheet(
        f"{model.name} on {made.profile.name}: key in",
        " ".join(x for x in (about, there, receiver, _leads_words(model)) if x),
        said,
        CLOSING,
        f"{model.name} on {made.profile.name}",
        digest(model),
    )


def _with_spare_ports(model: Model, block: Block) -> Block:
    """The failsafe with what the ports do that nothing is plugged into."""
    spare = spare_ports(model)
    if not spare or not any(lead.port is not None for lead in model.leads):
        return block
    ports = ", ".join(str(port) for port in spare)
    which = "Spare ports" if len(spare) > 1 else "Spare port"
    does = "stay where they were" if model.receiver.spare == "hold" else model.receiver.spare
    return block._replace(lines=(*block.lines, f"{which} {ports}: {does}."))


def _leads_words(model: Model) -> str:
    """What is to be known of leads that are no output of their own."""
    labels = {lead.name: lead.label for lead in model.leads}
    said = []
    for y in model.y_leads:
        said.append(f"{labels[y.first]} and {labels[y.second]} share a port on a Y-lead.")
    loose = [lead.label for lead in model.leads if lead.port is None]
    if loose:
        said.append(f"Not plugged in: {', '.join(loose)}.")
    return " ".join(said)


def _lacks_block(made: Keying, lacks: Sequence[Lack]) -> Block:
    """What a transmitter lacks, motors first."""
    rows = []
    for place, lack in enumerate(lacks):
        need = f"MOTOR. {lack.need}" if lack.motor else lack.need
        instead = in_lines(x for x in (lack.instead, lack.help) if x)
        rows.append(
            Row(f"lack {place} {lack.need}", (need, lack.have, instead, in_lines(lack.cost)))
        )
    motors = any(lack.motor for lack in lacks)
    columns = ("Asked for", "Here", "Instead", "What that costs")
    block = Block(
        "lacks",
        f"What {made.profile.name} does not have",
        (TOGETHER,) if rows else (),
        caution="Some of this decides when or how fast a motor turns: read it before you key in." if motors else "",
        columns=columns,
        rows=tuple(rows),
        ticked=False,
    )  # fmt: skip
    return without_empty(block) if rows else block


def _items_block(key: str, title: str, items: Sequence[Item], caution: str = "") -> Block:
    rows = tuple(Row(f"{key} {item.what}", (item.what, item.how)) for item in items)
    return Block(key, title, caution=caution, columns=("Look at", "How"), rows=rows, keyed=False)
