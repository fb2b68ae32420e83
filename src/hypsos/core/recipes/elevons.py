# SPDX-License-Identifier: GPL-3.0-or-later
"""Roll and pitch with two elevons."""

from collections.abc import Iterator
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Share, Travel
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes.one_edge import angle_at, named, travel_of
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, RecipeBase

REFLEX_MM = 2.0
"""How far up both stand on a wing without a tail and without canards: a usual first value."""
ROLL, PITCH = 72.0, 27.0
"""Usual first values: a wing without a tail wants little pitch, 35 to 40 % of the roll. Nothing is
lost at the corners."""


class Elevons(RecipeBase):
    """Left = roll share - pitch share, right = -roll share - pitch share. At 50 and 50 nothing is
    lost at the corners. ``roll_from`` and ``pitch_from`` are shared values that multiply.
    ``differential`` takes from the side that goes down in roll, less of it as the signal
    ``differential_off`` comes in. Both stand at ``reflex`` with the sticks in the middle, + is
    down.

    ``sharing`` rules the corners of shares that add up to more than 100. *pitch first*: roll is
    scaled by what full pitch leaves of the travel, ``(100 - pitch share * |pitch|) / roll share``
    where that is less than 1; *roll first* likewise. Where shared values multiply, what gives way
    is held to 100 % of its command and scaled by what the other really takes, so that both together
    never ask for more than there is."""

    title: ClassVar[str] = "Elevons"
    about: ClassVar[str] = "Two surfaces do roll and pitch together."
    missing: ClassVar[str] = "there are no two elevons"
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("roll_share", "Roll", "At 50 and 50 nothing is lost at the corners."),
        Parameter("pitch_share", "Pitch", "Share of the elevator command."),
        Parameter("roll_from", "Roll times the shared value", "By flight mode, or in flight.", kind="shared", of="roll_share"),
        Parameter("pitch_from", "Pitch times the shared value", kind="shared", of="pitch_share"),
        Parameter(
            "sharing", "At the corners", "Where both together ask for more than there is.", kind="choice",
            choices=(("none", "both as they come"), ("pitch first", "pitch first, roll gives way"),
                     ("roll first", "roll first, pitch gives way")),
        ),
        Parameter("differential", "Differential: less going down", "In roll. Less drag on the other wing; it lifts the nose."),
        Parameter("differential_from", "Differential times the shared value", kind="shared", of="differential"),
        Parameter("differential_off", "Less of it with", kind="signal"),
        Parameter(
            "reflex",
            "Reflex",
            "Both stand so with the sticks in the middle. A usual first value on a wing without a tail: 1 to 3 mm up. "
            "If it dives hands off, more.",
            kind="surface",
            of="left",
        ),
        Parameter("left", "Left", kind="part", roles=("elevon",), side="left"),
        Parameter("right", "Right", kind="part", roles=("elevon",), side="right"),
    )  # fmt: skip
    kind: Literal["elevons"] = "elevons"
    label: Label = "Elevons"
    left: Name
    right: Name
    roll_share: Share = 50.0
    pitch_share: Share = 50.0
    roll_from: Name | None = None
    pitch_from: Name | None = None
    sharing: Literal["none", "pitch first", "roll first"] = "none"
    differential: Annotated[float, Field(ge=-100, le=100)] = 0.0
    differential_from: Name | None = None
    differential_off: Name | None = None
    reflex: Travel = 0.0
    moved_by: ClassVar[tuple[str, ...]] = ("pitch", "roll")

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("elevon")
        if not left or not right:
            return None
        fields: dict[str, Any] = {"roll_share": ROLL, "pitch_share": PITCH}
        helped = ground.body.with_roles("elevator", "ruddervator", "canard")
        if not helped:  # a wing that is alone holds its nose up with its trailing edge
            elevons = named(ground.body, left)
            fields["reflex"] = travel_of(elevons, angle_at(elevons[0], -REFLEX_MM))
        return cls(
            left=left[0], right=right[0], signal=ground.signal("elevons_left_over"), **fields
        )

    def signals(self) -> tuple[tuple[str, str], ...]:
        if self.sharing == "none":
            return ()
        way = (self._given_way, self.named("what gives way"))
        if not self._multiplied:
            return (way,)
        return (
            way,
            (self._taken, self.named("what the first takes")),
            (self._wanted, self.named("what wants to give way")),
        )

    @property
    def _given_way(self) -> str:
        return self.signal or "elevons_left_over"

    @property
    def _taken(self) -> str:
        return f"{self._given_way}_first"

    @property
    def _wanted(self) -> str:
        return f"{self._given_way}_asks"

    @property
    def _multiplied(self) -> bool:
        return self.roll_from is not None or self.pitch_from is not None

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        for name in (self.left, self.right) if self.reflex else ():
            line = MixLine(
                name=self.named("reflex"),
                target=name,
                source="full",
                gain=self.reflex,
                when=self.when,
            )
            yield MadeLine(line, "reflex")
        yield from self._sticks()

    def _bent(self, source: str) -> dict[str, Any]:
        """What a line of roll has besides: its differential."""
        if source != "roll":
            return {}
        keys = ("differential", "differential_from", "differential_off")
        return {key: getattr(self, key) for key in keys}

    def _sticks(self) -> Iterator[MadeLine]:
        if self.sharing != "none" and self._multiplied:
            yield from self._shared_out()
            return
        # the axis that gives way, where one does
        gives = {"pitch first": "roll", "roll first": "pitch"}.get(self.sharing)
        first = "roll" if gives == "pitch" else "pitch"
        if gives is not None:
            own, others = self.pitch_share, self.roll_share
            if gives == "roll":
                own, others = others, own
            line = MixLine(
                name=self.named(gives), target=self._given_way, source=gives, when=self.when
            )
            yield MadeLine(line, f"{gives}_share")
            # as long as both together stay within the travel, nothing has to give way
            if own > 0 and own + others > 100:
                line = MixLine(
                    name=self.named(f"{gives} gives way"),
                    target=self._given_way,
                    source=first,
                    response=_left_over(own, others),
                    combine="scale",
                )
                yield MadeLine(line, "sharing")
        for target, sign in ((self.left, 1.0), (self.right, -1.0)):
            # an elevon goes up for its own side's roll and for a pull
            for source, gain in (("roll", sign * self.roll_share), ("pitch", -self.pitch_share)):
                line = MixLine(
                    name=self.named(source),
                    target=target,
                    source=self._given_way if source == gives else source,
                    gain=gain,
                    gain_from=getattr(self, f"{source}_from"),
                    when=self.when,
                    **self._bent(source),
                )
                yield MadeLine(line, f"{source}_share")

    def _shared_out(self) -> Iterator[MadeLine]:
        """The lines where shared values multiply: the first axis as it comes, the other scaled by
        what that one takes."""
        gives, first = ("roll", "pitch") if self.sharing == "pitch first" else ("pitch", "roll")
        own, others = getattr(self, f"{gives}_share"), getattr(self, f"{first}_share")
        from_own, from_first = getattr(self, f"{gives}_from"), getattr(self, f"{first}_from")
        taken = MixLine(
            name=self.named(f"{first} takes"),
            target=self._taken,
            source=first,
            gain=others,
            gain_from=from_first,
            when=self.when,
        )
        yield MadeLine(taken, f"{first}_share")
        asks = MixLine(
            name=self.named(gives),
            target=self._wanted,
            source=gives,
            gain_from=from_own,
            when=self.when,
        )
        yield MadeLine(asks, f"{gives}_share")
        # held there: no more than all of its command
        whole = Response(points=((-100.0, -100.0), (100.0, 100.0)))
        line = MixLine(
            name=self.named(gives), target=self._given_way, source=self._wanted, response=whole
        )
        yield MadeLine(line, f"{gives}_share")
        if own > 0:
            line = MixLine(
                name=self.named(f"{gives} gives way"),
                target=self._given_way,
                source=self._taken,
                response=_left_over(own, 100.0),
                combine="scale",
            )
            yield MadeLine(line, "sharing")
        for target, sign in ((self.left, 1.0), (self.right, -1.0)):
            for source in ("roll", "pitch"):
                gain = sign * self.roll_share if source == "roll" else -self.pitch_share
                given, shared = (self._given_way, None) if source == gives else (first, from_first)
                line = MixLine(
                    name=self.named(source),
                    target=target,
                    source=given,
                    gain=gain,
                    gain_from=shared,
                    when=self.when,
                    **self._bent(source),
                )
                yield MadeLine(line, f"{source}_share")


def _left_over(own: float, others: float) -> Response:
    """What is left for an axis with the share ``own`` beside the other's command, in percent: whole
    up to where both fill the travel, then less. A curve ``1/own`` of a straight line, so straight
    itself."""
    if others == 0:
        held = min(100.0, 100.0 / own * 100.0)
        return Response(points=((-100.0, held), (100.0, held)))
    # up to here both have room beside each other
    full = max(0.0, (100.0 - own) / others * 100.0) if own < 100 else 0.0
    # so much is left at the other's full command
    least = min(100.0, max(0.0, (100.0 - others) / own * 100.0))
    # from here on the other fills the travel alone
    none = min(100.0, 100.0 / others * 100.0)
    start = 100.0 if own <= 100 else 100.0 / own * 100.0
    middle = [(-full, start), (full, start)] if full > 0 else [(0.0, start)]
    ends = [(none, 0.0), (100.0, 0.0)] if none < 100 else [(100.0, least)]
    right = [*middle[-1:], *ends]
    points = (
        [(-x, y) for x, y in reversed(right) if x > 0]
        + middle * (full > 0)
        + [(0.0, start)] * (full == 0)
    )
    points += [(x, y) for x, y in right if x > 0]
    return Response(points=tuple(dict(sorted(points)).items()))
