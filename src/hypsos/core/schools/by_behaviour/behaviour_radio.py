# SPDX-License-Identifier: GPL-3.0-or-later
"""A small transmitter that thinks by behaviour.

Each behaviour is a sum of its own, made of its master; the parts of its slots take their shares of
it. A part's sum is what the behaviours give it and what the pilot's own mixes add. The cut holds its
output at idle, and what is slow on the way to it sets out from there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from hypsos.core.schools.by_behaviour.behaviour_settings import (
    BehaviourSettings,
    ModeAt,
    OwnMix,
    ReadyBehaviour,
    Slot,
)
from hypsos.core.schools.stand_in.parts import Mode, Radio, Rule, Share, Sum

IDLE = -100.0


def radio(settings: BehaviourSettings) -> Radio:
    """The transmitter that these settings make."""
    return _Wiring(settings).radio()


class _Wiring:
    """The parts of a transmitter by behaviour, with the rules that its positions need."""

    def __init__(self, settings: BehaviourSettings) -> None:
        self._settings = settings
        self._rules: dict[tuple[str, tuple[str, ...]], Rule] = {}

    def radio(self) -> Radio:
        """The whole transmitter."""
        x = self._settings
        modes = tuple(self._mode(mode) for mode in x.modes)
        cut = self._any(x.cut.places) if x.cut is not None else ""
        sums = [self._behaviour(i, made, cut) for i, made in enumerate(x.behaviours)]
        parts = [self._part(output.sum) for output in x.outputs]
        outputs = []
        for output in x.outputs:
            if x.cut is not None and output.port == x.cut.port:
                output = output.changed({"cut": cut})
            outputs.append(output)
        return Radio(
            **x.hardware(),
            rules=tuple(self._rules.values()),
            modes=modes,
            commands=x.axes,
            sums=(*sums, *parts),
            channels=tuple(outputs),
        )

    def _any(self, places: Sequence[str]) -> str:
        """A reference that holds at any of these positions."""
        return self._chain("or", tuple(places))

    def _chain(self, kind: str, texts: tuple[str, ...]) -> str:
        found = texts[0]
        for end in range(2, len(texts) + 1):
            key = (kind, texts[:end])
            if key not in self._rules:
                name = f"places_{len(self._rules) + 1}"
                rule = Rule(
                    name=name, kind="or" if kind == "or" else "and", a=found, b=texts[end - 1]
                )
                self._rules[key] = rule
            found = self._rules[key].name
        return found

    def _mode(self, mode: ModeAt) -> Mode:
        when = self._chain("and", tuple(mode.places)) if mode.places else ""
        return Mode(name=mode.name, label=mode.label, when=when)

    def _when(self, places: Sequence[str]) -> tuple[str, ...]:
        return (self._any(places),) if places else ()

    def _behaviour(self, place: int, x: ReadyBehaviour, cut: str) -> Sum:
        shares = []
        bare = Share(
            source=x.master,
            trim=x.trim,
            bend=x.bend,
            slow_in=x.time_in,
            slow_out=x.time_out,
            from_low=x.kind == "throttle",
        )
        for value in x.values:
            shares.append(
                bare.changed(
                    {
                        "above": value.value,
                        "below": value.value,
                        "when": self._when(value.places),
                        "modes": value.modes,
                    }
                )
            )
        if not x.values:
            shares.append(bare)
        held = cut if x.kind == "throttle" else ""
        return Sum(name=_signal(place), shares=tuple(shares), held=held)

    def _part(self, name: str) -> Sum:
        shares = list(self._slots(name))
        shares += [self._own(mix) for mix in self._settings.mixes if mix.follower == name]
        # an output that goes no lower than idle is a motor's, and is counted from there
        powered = any(x.sum == name and x.low >= IDLE for x in self._settings.outputs)
        if powered:
            shares.append(Share(source="full", above=IDLE, below=IDLE))
        return Sum(name=name, shares=tuple(shares))

    def _slots(self, part: str) -> Iterator[Share]:
        for place, x in enumerate(self._settings.behaviours):
            for slot in x.slots:
                if slot.part == part:
                    yield self._slot(place, slot)

    def _slot(self, place: int, slot: Slot) -> Share:
        return Share(
            source=_signal(place),
            bend=slot.bend,
            above=slot.above,
            below=slot.below,
            when=self._when(slot.places),
            modes=slot.modes,
        )

    def _own(self, mix: OwnMix) -> Share:
        return Share(
            source=mix.master,
            trim=mix.trim,
            bend=mix.bend,
            above=mix.above,
            below=mix.below,
            when=self._when(mix.places),
            modes=mix.modes,
        )


def _signal(place: int) -> str:
    return f"behaviour_{place + 1}"
