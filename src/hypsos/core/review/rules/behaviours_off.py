# SPDX-License-Identifier: GPL-3.0-or-later
"""S5: a behaviour that is switched off gives nothing."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import NamedTuple

import numpy as np

from hypsos.core.base.backends import Flags
from hypsos.core.document.document import Model
from hypsos.core.document.lines import all_lines
from hypsos.core.engine.shaping import response_curve
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.parts.transmitter import Control
from hypsos.core.review.findings import Finding, FindingMove, Level
from hypsos.core.review.rules.statement import Statement, SurfaceQuestion
from hypsos.core.review.search.model_slice import USUAL
from hypsos.core.review.search.reachable_cases import ReachableCases
from hypsos.core.review.search.replay import LOOK_S, captions
from hypsos.core.review.search.surface_search import SurfaceSearch
from hypsos.core.wording.describe_condition import phrase
from hypsos.core.wording.words import Part, control_label, side_percent

OFF = ("off", "none")
"""Names of switch positions at which nobody expects anything."""
LEAST = 0.5
"""Percent: less than that is nothing."""
MOST_ROWS = 1500


class Group(NamedTuple):
    """Lines that belong together: what they are called, the place, the lines, and the condition
    under which they act."""

    label: str
    path: str
    lines: tuple[MixLine, ...]
    when: str | None
    others: tuple[str, ...] = ()
    """Further conditions without which it gives nothing: a master, a gate."""


class BehavioursOff:
    """What each behaviour gives by itself, while it is off."""

    def __init__(self, search: SurfaceSearch) -> None:
        self.search, self.model = search, search.model

    def groups(self) -> Iterator[Group]:
        """Every behaviour, detached behaviour and mix with its lines."""
        yield from self._behaviours()
        yield from self._mixes()

    def _behaviours(self) -> Iterator[Group]:
        lines = all_lines(self.model)
        for i, recipe in enumerate(self.model.program.recipes):
            mine = tuple(p.line for p in lines if p.path.startswith(f"program.recipes[{i}]."))
            if mine:
                fields = [f for f in recipe.switched_off_by if f != "when"]
                others = tuple(text for f in fields if (text := getattr(recipe, f)) is not None)
                yield Group(recipe.label, f"program.recipes[{i}]", mine, recipe.when, others)

    def _mixes(self) -> Iterator[Group]:
        """Mixes that were one behaviour stay together; the condition that at least half of them
        have is that of the group."""
        program = self.model.program
        origins: dict[str, list[int]] = {}
        for i, mix in enumerate(program.mixes):
            origins.setdefault(mix.origin or f"#{i}", []).append(i)
        for found in origins.values():
            mixes = tuple(program.mixes[i] for i in found)
            whens = sorted(m.when for m in mixes if m.when is not None)
            most = max(dict.fromkeys(whens), key=whens.count, default=None)
            when = most if 2 * len(whens) >= len(mixes) else None
            yield Group(mixes[0].name, f"program.mixes[{found[0]}]", mixes, when)

    def hangs_on(self, group: Group) -> tuple[object, ...]:
        """All of the document on which it hangs what a group gives while it is off."""
        program, moved = self.model.program, {x.target for x in group.lines}
        sources = {x.source for x in group.lines}
        feeding = tuple(p.line for p in all_lines(self.model) if p.line.target in sources)
        leads = tuple(x for x in self.model.leads if x.target in moved)
        axes = tuple(program.felt(a) for a in program.axes)
        return (
            group,
            feeding,
            leads,
            axes,
            program.shared_values(),
            program.logic,
            tuple(m.when for m in program.modes),
            self.model.transmitter,
        )

    def off(self, group: Group) -> Iterator[Finding]:
        """What still comes from a behaviour that is switched off."""
        for what, wrong, place in self._offs(group):
            found = self._leak(group, wrong, place)
            if found is not None:
                part, amount = found
                text = f"{group.label} still gives {part.label.lower()} {side_percent(part, amount)} {what}."
                level: Level = "fault"
                if place is not None and _acts_just_there(group, place):
                    gives = f"{group.label} gives {part.label.lower()} {side_percent(part, amount)} {what}"
                    level, text = (
                        "advice",
                        f"{gives}, and a line of it acts just there. Is that meant?",
                    )
                moves = () if place is None else (FindingMove(0.0, *place),)
                said = captions(self.model, moves)
                yield Finding(
                    "S5",
                    level,
                    group.path,
                    text,
                    seen=(part.name,),
                    moves=moves,
                    captions=said,
                    length_s=LOOK_S,
                )

    def _offs(self, group: Group) -> Iterator[tuple[str, str | None, tuple[str, float] | None]]:
        """When a group is off: in words; the condition that does not hold then; or a switch and its
        position."""
        gated = self._gated(group)
        moving = [x for x in group.lines if x.target in self.search.leads and x.source not in gated]
        leaks = any(x.when != group.when for x in moving)
        texts = [group.when] if group.when is not None and leaks else []
        for text in (*texts, *group.others):
            yield f"while it is off ({phrase(self.model, text)} does not hold)", text, None
        for control in self._switches_read(group):
            for i, name in enumerate(control.positions):
                if name.strip().lower() in OFF:
                    yield (
                        f"with {control_label(self.model, control.name)} at {name}",
                        None,
                        (control.name, float(i)),
                    )

    def _switches_read(self, group: Group) -> Iterator[Control]:
        """The switches that lines of a group read, or by whose positions they act."""
        read = {x.source for x in group.lines}
        asked_for = [asked(x.when) for x in group.lines if x.when is not None]
        read |= {asks.name for asks in asked_for if asks.position is not None}
        for control in self.model.transmitter.controls:
            if control.is_switch and control.name in read:
                yield control

    def _gated(self, group: Group) -> set[str]:
        """The signals that are nothing while a group is off, as all that feeds them is; what is
        made of nothing is nothing."""
        feeding: dict[str, list[MixLine]] = {}
        for placed in all_lines(self.model):
            feeding.setdefault(placed.line.target, []).append(placed.line)
        off = set()
        for target, lines in feeding.items():
            if all(line.when == group.when or line.combine == "scale" for line in lines):
                off.add(target)
        # a response that gives something for nothing lifts it
        for line in group.lines:
            if line.response is not None and line.when != group.when and _at_zero(line):
                off.discard(line.source)
        return off

    def _leak(
        self, group: Group, wrong: str | None, place: tuple[str, float] | None
    ) -> tuple[Part, float] | None:
        targets = sorted({x.target for x in group.lines} & self.search.leads.keys())
        if not targets:
            return None
        small = self._alone(group)
        reachable = ReachableCases(small, targets, self.search.reachable.reach.most, lambda: False)
        if wrong is not None:
            reachable.texts.add(wrong)
        sampler = reachable.sampler(targets)
        cases = reachable.cases(sampler)
        owners, numbers, whole = reachable.rows(sampler, cases, None, MOST_ROWS)
        self.search.count("S5", len(owners), whole)
        if not len(owners):
            return None
        look = reachable.look(sampler, owners, sampler.grid.values(numbers))
        good = np.ones(len(owners), bool)
        if place is not None:
            hands = look.hands.get(place[0])
            good = np.isclose(hands, place[1]) if hands is not None else good & (place[1] == 0.0)
        elif wrong is not None:
            good = ~self._holds(reachable, wrong)[owners]
        best: tuple[Part, float] | None = None
        for name in targets:
            x = np.where(good, look.stand(self.search.leads[name].name), 0.0)
            i = int(np.argmax(np.abs(x)))
            if abs(x[i]) > LEAST and (best is None or abs(x[i]) > abs(best[1])):
                best = (self.search.parts[name], float(x[i]))
        return best

    def _holds(self, reachable: ReachableCases, text: str) -> Flags:
        """Where a condition holds, case by case."""
        asks = asked(text)
        count = len(reachable.nodes)
        if asks.realm == "mode":
            names = [m.name for m in reachable.model_slice.model.program.modes]
            found = np.zeros(count, bool)
            if asks.name in names:
                found = reachable.columns["modes"] == names.index(asks.name)
        elif asks.position is not None:
            column = reachable.columns.get(
                f"place:{asks.name}", reachable.columns.get(f"count:{asks.name}")
            )
            # a switch that is told apart nowhere stands at its first position
            found = np.full(count, asks.position == 0)
            if column is not None:
                found = column == asks.position
        else:
            found = reachable.columns.get(f"flag:{asks.name}", np.zeros(count)) > 0
        return np.asarray(np.asarray(found) != asks.negated, bool)

    def _alone(self, group: Group) -> Model:
        """The model with this group's lines only."""
        program = self.model.program
        keep = group.when  # asked by a line of its own that gives nothing, so that it is searched
        idle = MixLine(
            name="asks", target=group.lines[0].target, source="full", gain=0.0, when=keep
        )
        modes = tuple(m.changed({"presets": {}}) for m in program.modes)
        fields = {
            "recipes": (),
            "detached": (),
            "mixes": (*group.lines, *((idle,) if keep is not None else ())),
            "tunables": program.shared_values(),
            "axes": tuple(program.felt(a) for a in program.axes),
            "modes": modes,
            "signals": tuple(
                {"name": n, "label": x}
                for n, x in program.signal_labels().items()
                if n not in USUAL
            ),
        }
        return self.model.changed({"program": program.changed(fields)})


def _acts_just_there(group: Group, place: tuple[str, float]) -> bool:
    """Whether a line of a group was given this very position of a switch to act at."""
    control, position = place
    for line in group.lines:
        asks = asked(line.when) if line.when is not None else None
        if (
            asks is not None
            and not asks.negated
            and (asks.name, asks.position) == (control, int(position))
        ):
            return True
    return False


def _at_zero(line: MixLine) -> bool:
    """Whether a line gives something where its source is nothing."""
    curve = response_curve(line.response)
    return curve is not None and (
        line.response is None or line.response.live_from is not None or bool(curve.of(0.0, {}))
    )


def of_surfaces(search: SurfaceSearch) -> Iterator[SurfaceQuestion]:
    """Each behaviour and mix by itself."""
    giving = BehavioursOff(search)
    for i, group in enumerate(giving.groups()):
        moved = tuple(sorted({x.target for x in group.lines} & search.leads.keys()))
        if moved:
            name, alone = f"behaviour {i + 1} off", giving.hangs_on(group)
            yield SurfaceQuestion(name, partial(giving.off, group), moved, alone, looks=False)


STATEMENT = Statement(
    "S5",
    "A behaviour that is switched off gives nothing.",
    "fault",
    "surfaces",
    surfaces=of_surfaces,
)
