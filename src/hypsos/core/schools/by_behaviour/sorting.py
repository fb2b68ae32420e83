# SPDX-License-Identifier: GPL-3.0-or-later
"""The lines of a design sorted into ready behaviours, mixes of the pilot's own, and what is left
over.

Sought: as few mixes of one's own as can be. A line from a command straight to a part is what wing
and tail type give, where the part's role fits the command. A signal that one hand or command feeds,
and that goes to parts, is a behaviour as a whole: brakes, flaps, snap flap, aileron to rudder.
Constants are camber, always or by mode. Each kind of behaviour is there once. Every other line is a
mix of one's own: one master, one follower, positions of one switch or modes. What is none of these
is left over."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.schools.by_behaviour.behaviour_settings import BehaviourKind

FITS: dict[str, tuple[BehaviourKind, tuple[str, ...]]] = {
    "roll": ("ailerons", ("aileron", "flaperon", "elevon", "tailplane")),
    "pitch": ("elevator", ("elevator", "elevon", "ruddervator", "tailplane")),
    "yaw": ("rudder", ("rudder", "ruddervator", "drag rudder")),
}
"""Command -> the behaviour that it is, and the roles of the parts that it moves by itself."""
STICKS_OF = {"roll", "pitch", "yaw", "thrust"}


class When(NamedTuple):
    """A condition as positions of one switch (one of them is enough) or as modes; neither:
    always."""

    places: tuple[str, ...] = ()
    modes: tuple[str, ...] = ()


class LineGroup(NamedTuple):
    """A behaviour: what feeds it, line by line, and where it goes, line by line. A direct one has
    no signal: its lines go from the master to parts."""

    kind: BehaviourKind
    master: str
    feeds: tuple[MixLine, ...]
    slots: tuple[MixLine, ...]


class Sorted(NamedTuple):
    """The lines of a design, sorted."""

    groups: tuple[LineGroup, ...]
    mixes: tuple[MixLine, ...]
    left_over: tuple[tuple[MixLine, str], ...]
    """Lines that this school can't say, each with why."""


def when_of(model: Model, text: str | None) -> When | None:
    """A condition in this school's terms; None where it has none."""
    if text is None:
        return When()
    question = asked(text)
    modes = [m.name for m in model.program.modes]
    if question.realm == "mode":
        if question.negated:
            return When(modes=tuple(m for m in modes if m != question.name))
        return When(modes=(question.name,))
    control = model.transmitter.control(question.name)
    if control is None or question.position is None:
        return None
    places = [
        i for i in range(len(control.positions)) if (i == question.position) != question.negated
    ]
    return When(places=tuple(f"{question.name}@{i}" for i in places))


def sorted_lines(model: Model) -> Sorted:
    """The mixes of a reduced design, sorted."""
    return _Sorting(model).done()


class _Sorting:
    def __init__(self, model: Model) -> None:
        self._model = model
        self._roles = {s.name: s.role for s in model.airframe.surfaces}
        self._motors = {m.name for m in model.airframe.motors}
        self._parts = {p.name for p in model.airframe.moved()}
        self._hands = {h.name for h in model.transmitter.controls}
        self._hands |= {"aileron_stick", "elevator_stick", "throttle_stick", "rudder_stick"}
        self._groups: dict[BehaviourKind, LineGroup] = {}
        self._mixes: list[MixLine] = []
        self._left: list[tuple[MixLine, str]] = []

    def done(self) -> Sorted:
        """All of it."""
        signals = self._signals()
        for name in signals:
            self._signal(name)
        for line in self._model.program.mixes:
            if line.target in self._parts and line.source not in signals:
                self._direct(line)
        return Sorted(tuple(self._groups.values()), tuple(self._mixes), tuple(self._left))

    def _signals(self) -> list[str]:
        """The signals that lines feed, in the order in which they are met."""
        return list(
            dict.fromkeys(
                x.target for x in self._model.program.mixes if x.target not in self._parts
            )
        )

    def _signal(self, name: str) -> None:
        """A signal as one behaviour, or its lines one by one as mixes of one's own."""
        mixes = self._model.program.mixes
        feeds = tuple(x for x in mixes if x.target == name)
        slots = tuple(x for x in mixes if x.source == name)
        wrong = self._not_one(feeds, slots)
        kind = self._kind(name, feeds, slots) if not wrong else None
        if kind is not None and kind not in self._groups:
            self._groups[kind] = LineGroup(kind, feeds[0].source, feeds, slots)
            return
        if wrong:
            self._left += [(x, wrong) for x in (*feeds, *slots)]
            return
        self._one_by_one(feeds, slots)

    def _not_one(self, feeds: tuple[MixLine, ...], slots: tuple[MixLine, ...]) -> str:
        """Why a signal is no behaviour: nothing where it is one."""
        if any(x.target not in self._parts for x in slots):
            return "it feeds another sum"
        masters = {(x.source, x.with_trim, x.response, x.in_s, x.out_s) for x in feeds}
        if len(masters) != 1:
            return "more than one hand feeds it"
        if feeds[0].source not in self._hands | STICKS_OF:
            return "it goes by another sum"
        for x in (*feeds, *slots):
            if when_of(self._model, x.when) is None:
                return "its condition is more than positions of one switch or flight modes"
            if x.differential:
                return "it has a differential of its own"
        if any(x.in_s or x.out_s for x in slots):
            return "it is slow in two places"
        return ""

    def _kind(
        self, name: str, feeds: tuple[MixLine, ...], slots: tuple[MixLine, ...]
    ) -> BehaviourKind | None:
        """The ready behaviour that a signal is; None where it is none."""
        roles = {self._roles.get(x.target, "") for x in slots}
        master = feeds[0].source
        if any(x.target in self._motors for x in slots):
            return None
        if name == "brake" or (master in self._hands and "brake" in name):
            return "brakes"
        control = self._model.transmitter.control(master)
        if control is not None and control.kind == "switch":
            return "flaps"
        if master in self._hands:
            return "brakes" if "flaps" in self._groups or name != "flap" else "flaps"
        if master == "roll" and roles <= {"rudder", "ruddervator"}:
            return "aileron to rudder"
        if master == "roll" and roles <= {"flap"}:
            return "ailerons to flaps"
        if master == "pitch" and "flap" in roles:
            return "snap flap"
        return None

    def _one_by_one(self, feeds: tuple[MixLine, ...], slots: tuple[MixLine, ...]) -> None:
        """A signal's lines as mixes of one's own: each line that feeds it times each that it
        feeds."""
        if any(x.in_s or x.out_s for x in feeds):
            self._left += [(x, "only ready behaviours move slowly") for x in (*feeds, *slots)]
            return
        for feed in feeds:
            for slot in slots:
                made = self._joined(feed, slot)
                if made is None:
                    self._left.append((slot, "it takes two mixes in a row"))
                else:
                    self._mixes.append(made)

    def _joined(self, feed: MixLine, slot: MixLine) -> MixLine | None:
        """Two lines in a row as one; None where they are not."""
        if slot.when is not None and feed.when is not None:
            return None
        if slot.response is not None:
            return None
        return feed.changed(
            {
                "name": slot.name,
                "target": slot.target,
                "gain": feed.gain * slot.gain / 100.0,
                "when": feed.when or slot.when,
            }
        )

    def _direct(self, line: MixLine) -> None:
        """A line from a hand, a command or a constant straight to a part."""
        when = when_of(self._model, line.when)
        if when is None:
            why = "its condition is more than positions of one switch or flight modes"
            self._left.append((line, why))
            return
        kind = self._direct_kind(line, when)
        if kind is not None and not self._clashes(kind, line):
            known = self._groups.get(kind)
            slots = (*known.slots, line) if known is not None else (line,)
            self._groups[kind] = LineGroup(kind, line.source, (), slots)
        elif line.in_s or line.out_s:
            self._left.append((line, "only ready behaviours move slowly"))
        elif line.source in self._hands | STICKS_OF | {"full"}:
            self._mixes.append(line)
        else:
            self._left.append((line, "it goes by another sum"))

    def _direct_kind(self, line: MixLine, when: When) -> BehaviourKind | None:
        if line.target in self._motors:
            return "throttle" if line.source == "thrust" else None
        if line.source == "full":
            return "camber" if not when.places else None
        if line.response is not None or line.in_s or line.out_s or not line.with_trim:
            return None
        role = self._roles.get(line.target, "")
        if line.source == "yaw" and line.target not in self._roles:
            return "steering"
        if line.source == "roll" and role == "flap":
            return "ailerons to flaps" if not when.places else None
        found = FITS.get(line.source)
        if found is None or role not in found[1] or when.places:
            return None
        return found[0]

    def _clashes(self, kind: BehaviourKind, line: MixLine) -> bool:
        """Whether another behaviour of that kind is there already that is not made so."""
        known = self._groups.get(kind)
        if known is None:
            return False
        if known.feeds or known.master != line.source:
            return True
        first = known.slots[0]
        return (first.in_s, first.out_s, first.response) != (
            line.in_s,
            line.out_s,
            line.response,
        ) and (kind == "throttle")


def kept(groups: Iterable[LineGroup]) -> set[int]:
    """The identities of the lines of some behaviours."""
    return {id(x) for g in groups for x in (*g.feeds, *g.slots)}
