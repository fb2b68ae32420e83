# SPDX-License-Identifier: GPL-3.0-or-later
"""Flaps or spoilers from one stick, a condition choosing which."""

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

from hypsos.core.base.values import Label, Name, Seconds, Share, Travel
from hypsos.core.parts.airframe import PITCH_ROLES
from hypsos.core.parts.condition_text import Condition, opposite
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes.recipe_base import Controls, Ground, MadeLine, Parameter, Parts, RecipeBase

FIRST = "All the way out. It begins with nothing: let them out high up, see which way the nose goes, and give a little against it."


class StickFlaps(RecipeBase):
    """Response 0 ... 100 from the control: nothing up to ``rest``, straight from there to its upper
    end. Surfaces += flap amount times it, or -= spoiler amount times it while ``spoilers`` holds;
    the elevator with each."""

    title: ClassVar[str] = "Flaps or spoilers on a stick"
    about: ClassVar[str] = (
        "Neutral at the stick's low end; pushed up, both sides droop, or rise where you choose spoilers."
    )
    missing: ClassVar[str] = (
        "there are no surfaces at the wing's trailing edge, or the throttle stick drives a motor"
    )
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("control", "By", "The stick, or a slider.", kind="control"),
        Parameter(
            "rest", "Nothing up to", "So far a bump at the low end moves nothing.", kind="place"
        ),
        Parameter("flaps", "Flaps go down by"),
        Parameter("spoilers", "Spoilers go up by", "With ailerons they are spoilerons."),
        Parameter("chosen", "Spoilers while", "Else they are flaps.", kind="condition"),
        Parameter("flap_elevator", "Elevator with flaps", FIRST, kind="surface", of="elevators"),
        Parameter(
            "spoiler_elevator", "Elevator with spoilers", FIRST, kind="surface", of="elevators"
        ),
        Parameter("in_s", "Comes in over", "Seconds for 100 %.", kind="seconds"),
        Parameter("out_s", "Goes out over", "Seconds for 100 %.", kind="seconds"),
        Parameter(
            "surfaces", "Moves", kind="parts", roles=("aileron", "flaperon", "flap", "elevon")
        ),
        Parameter(
            "elevators", "Elevator compensation", kind="parts", roles=PITCH_ROLES, later=True
        ),
    )
    kind: Literal["stick_flaps"] = "stick_flaps"
    label: Label = "Flaps or spoilers"
    signal: Name = "flap"
    control: Name
    rest: Travel = -60.0
    flaps: Share = 40.0
    spoilers: Share = 30.0
    chosen: Condition | None = None
    flap_elevator: Travel = 4.0
    spoiler_elevator: Travel = -3.0
    in_s: Seconds = 0.0
    out_s: Seconds = 0.0
    surfaces: Parts
    elevators: Parts = ()
    moved_by: ClassVar[tuple[str, ...]] = ("control",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("flap")
        if not left:
            left, right = ground.sides("flaperon", "aileron")
        control = "throttle_stick" if ground.quiet else ground.slider
        if not left or not control:
            return None
        return cls(
            control=control,
            surfaces=left + right,
            elevators=ground.pitching(left + right),
            signal=ground.signal("flap"),
            chosen=f"{ground.spare}@1" if ground.spare else None,
            flap_elevator=0.0,
            spoiler_elevator=0.0,
        )

    @property
    def _up(self) -> str:
        return f"{self.signal[:32]}_spoiler"

    def _rules(self, field: str) -> list[tuple[str, str]]:
        """While what the flaps come, or the spoilers: pairs of (field, condition)."""
        rules = [] if self.when is None else [("when", self.when)]
        if self.chosen:
            rules.append(("chosen", self.chosen if field == "spoilers" else opposite(self.chosen)))
        return rules

    @staticmethod
    def _asked(signal: str) -> str:
        return f"{signal[:34]}_asked"

    def signals(self) -> tuple[tuple[str, str], ...]:
        fed = [(self.signal, "flaps"), *([(self._up, "spoilers")] if self.chosen else [])]
        own = tuple((signal, self.named(field)) for signal, field in fed)
        if len(self._rules("flaps")) < 2:
            return own
        return own + tuple(
            (self._asked(signal), self.named(f"{field} asked for")) for signal, field in fed
        )

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        points = {-100.0: 0.0, self.rest: 0.0, 100.0: 100.0}
        response = Response(points=tuple(sorted(points.items())))
        kinds = [(self.signal, "flaps", 1.0, self.flaps, self.flap_elevator)]
        if self.chosen:
            kinds.append((self._up, "spoilers", -1.0, self.spoilers, self.spoiler_elevator))
        for signal, field, _, _, _ in kinds:
            line = MixLine(
                name=self.named(field),
                target=signal,
                source=self.control,
                response=response,
                in_s=self.in_s,
                out_s=self.out_s,
            )
            words = (f"{field} asked for", f"no {field}")
            yield from self.behind_rules(
                line, self._rules(field), self._asked(signal), words, "rest"
            )
        for signal, field, sign, amount, elevator in kinds:
            for name in self.surfaces:
                yield MadeLine(
                    MixLine(name=self.named(field), target=name, source=signal, gain=sign * amount),
                    field,
                )
            for name in self.elevators if elevator else ():
                line = MixLine(
                    name=self.named(f"elevator with {field}"),
                    target=name,
                    source=signal,
                    gain=elevator,
                )
                yield MadeLine(line, f"{field[:-1]}_elevator")

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        if self.rest >= 100:
            yield (
                "rest",
                "the control needs some way left above the place up to which nothing moves",
            )
