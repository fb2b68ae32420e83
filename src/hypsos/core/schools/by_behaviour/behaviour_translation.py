# SPDX-License-Identifier: GPL-3.0-or-later
"""A design said by behaviour."""

from __future__ import annotations

from collections.abc import Iterator

from hypsos.core.conditions.combine import Combine
from hypsos.core.document.document import Model
from hypsos.core.parts.condition_text import asked
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.schools.by_behaviour.behaviour_settings import (
    BehaviourSettings,
    ModeAt,
    OneCut,
    OwnMix,
    ReadyBehaviour,
    Slot,
    ValueAt,
)
from hypsos.core.schools.by_behaviour.sorting import LineGroup, Sorted, sorted_lines, when_of
from hypsos.core.schools.from_model.hardware import Steps, keyed_leads, outputs
from hypsos.core.schools.from_model.head import head
from hypsos.core.schools.from_model.speech import said, timers
from hypsos.core.schools.from_model.sums import DesignSums
from hypsos.core.schools.signs import turned_sums, unturned
from hypsos.core.schools.stand_in.parts import Share

CUT_OFF = -500.0
"""What a mix takes from a second motor at cut: more than rates and mixes can ever give it, so that
its stop at idle decides."""


def in_signs(settings: BehaviourSettings) -> BehaviourSettings:
    """The same with the reversal of outputs in the signs of what behaviours and mixes give."""
    read = {x.master for x in settings.behaviours} | {x.master for x in settings.mixes}
    turned = turned_sums(settings.outputs, read)
    behaviours = []
    for x in settings.behaviours:
        slots = tuple(
            slot.changed({"above": -slot.above, "below": -slot.below})
            if slot.part in turned
            else slot
            for slot in x.slots
        )
        behaviours.append(x.changed({"slots": slots}))
    mixes = []
    for mix in settings.mixes:
        if mix.follower in turned:
            mix = mix.changed({"above": -mix.above, "below": -mix.below})
        mixes.append(mix)
    sent = tuple(unturned(x, turned) for x in settings.outputs)
    changes = {"behaviours": tuple(behaviours), "mixes": tuple(mixes), "outputs": sent}
    return settings.changed(changes)


def translate(model: Model, steps: Steps, transmitter: str) -> BehaviourSettings:
    """The settings of a reduced model."""
    return _Translation(model, steps).settings(transmitter)


def cut_places(model: Model) -> tuple[str, ...]:
    """The positions at which every line of a motor gives nothing."""
    motors = {m.name for m in model.airframe.motors}
    whens = {x.when for x in model.program.mixes if x.target in motors}
    if len(whens) != 1:
        return ()
    run = when_of(model, next(iter(whens)))
    if run is None or not run.places:
        return ()
    name = asked(run.places[0]).name
    control = model.transmitter.control(name)
    count = len(control.positions) if control is not None else 0
    return tuple(f"{name}@{i}" for i in range(count) if f"{name}@{i}" not in run.places)


class _Translation:
    def __init__(self, model: Model, steps: Steps) -> None:
        self._model, self._steps = model, steps
        self._sums = DesignSums(model, steps, by_mode=True)
        self._cut = cut_places(model)
        self._motors = [
            lead
            for lead in keyed_leads(model)
            if lead.target in {m.name for m in model.airframe.motors}
        ]

    def settings(self, transmitter: str) -> BehaviourSettings:
        """All of it."""
        model, steps = self._model, self._steps
        found: Sorted = sorted_lines(model)
        behaviours = tuple(self._behaviour(group) for group in found.groups)
        presets = self._camber(behaviours)
        mixes = [self._own(line) for line in found.mixes]
        cut = None
        if self._cut and self._motors:
            cut = OneCut(port=self._motors[0].port or 1, places=self._cut)
            mixes += [self._cut_mix(lead.target) for lead in self._motors[1:]]
        speech, clocks = said(model, self._sums.ref), timers(model, self._sums.ref)
        return BehaviourSettings(
            **head(model, steps, transmitter),
            axes=self._sums.commands(),
            modes=tuple(self._modes()),
            behaviours=presets,
            mixes=tuple(mixes),
            cut=cut,
            outputs=outputs(model, steps, ""),
            said=speech,
            timers=clocks,
        )

    def _modes(self) -> Iterator[ModeAt]:
        for mode in self._model.program.modes:
            places = mode_places(self._model, mode.when) if mode.when is not None else ()
            yield ModeAt(name=mode.name, label=mode.label, places=places or ())

    # -- behaviours ----------------------------------------------------------------------------------

    def _behaviour(self, group: LineGroup) -> ReadyBehaviour:
        first = group.feeds[0] if group.feeds else group.slots[0]
        shares = [self._share(x) for x in group.feeds]
        label = first.name[:60]
        if not group.feeds:
            slots = tuple(self._slot(x) for x in group.slots)
            return ReadyBehaviour(
                kind=group.kind,
                label=label,
                master=group.master,
                bend=self._steps.bend(first.response) if group.kind == "throttle" else None,
                time_in=self._steps.seconds(first.in_s),
                time_out=self._steps.seconds(first.out_s),
                slots=slots,
            )
        values = []
        for line, share in zip(group.feeds, shares, strict=True):
            when = when_of(self._model, line.when)
            assert when is not None
            values.append(ValueAt(value=share.above, places=when.places, modes=when.modes))
        return ReadyBehaviour(
            kind=group.kind,
            label=label,
            master=group.master,
            trim=first.with_trim,
            bend=shares[0].bend,
            values=tuple(values),
            time_in=shares[0].slow_in,
            time_out=shares[0].slow_out,
            slots=tuple(self._slot(x) for x in group.slots),
        )

    def _share(self, line: MixLine) -> Share:
        return next(iter(self._sums.shares(line)))

    def _slot(self, line: MixLine) -> Slot:
        share = self._share(line)
        when = when_of(self._model, line.when)
        assert when is not None
        # the cut is said once, at the output, and not in every line
        places = () if line.target in {x.target for x in self._motors} else when.places
        bend = None if line.source == "thrust" else share.bend
        return Slot(
            part=line.target,
            above=share.above,
            below=share.below,
            bend=bend,
            places=places,
            modes=when.modes,
        )

    def _camber(self, behaviours: tuple[ReadyBehaviour, ...]) -> tuple[ReadyBehaviour, ...]:
        """The behaviours with the presets of the flight modes in the camber table."""
        slots = []
        for mode in self._model.program.modes:
            for part, value in mode.presets.items():
                value = self._steps.percent(value)
                if value:
                    slots.append(Slot(part=part, above=value, below=value, modes=(mode.name,)))
        if not slots:
            return behaviours
        known = next((x for x in behaviours if x.kind == "camber"), None)
        if known is None:
            made = ReadyBehaviour(kind="camber", label="Camber", master="full", slots=tuple(slots))
            return (*behaviours, made)
        whole = known.changed({"slots": (*known.slots, *slots)})
        return tuple(whole if x is known else x for x in behaviours)

    # -- mixes ---------------------------------------------------------------------------------------

    def _own(self, line: MixLine) -> OwnMix:
        share = self._share(line)
        when = when_of(self._model, line.when)
        assert when is not None
        motor = line.target in {x.target for x in self._motors}
        return OwnMix(
            label=line.name,
            master=line.source,
            follower=line.target,
            trim=line.with_trim,
            bend=share.bend,
            above=share.above,
            below=share.below,
            places=() if motor and self._is_run(when.places) else when.places,
            modes=when.modes,
        )

    def _is_run(self, places: tuple[str, ...]) -> bool:
        """Whether these are all the positions at which the motors may run."""
        return bool(places) and not set(places) & set(self._cut)

    def _cut_mix(self, motor: str) -> OwnMix:
        return OwnMix(
            label="Cut of the second motor",
            master="full",
            follower=motor,
            above=CUT_OFF,
            below=CUT_OFF,
            places=self._cut,
        )


def mode_places(model: Model, text: str) -> tuple[str, ...] | None:
    """A flight mode's condition as positions of at most two switches; None where it is more."""
    question = asked(text)
    if question.position is not None and not question.negated:
        return (text,) if model.transmitter.control(question.name) is not None else None
    found = next((x for x in model.program.logic if x.name == question.name), None)
    if question.negated or not isinstance(found, Combine) or found.kind != "all":
        return None
    places: tuple[str, ...] = ()
    for inner in found.of:
        more = mode_places(model, inner)
        if more is None:
            return None
        places = (*places, *more)
    switches = {asked(p).name for p in places}
    return places if len(switches) <= 2 else None
