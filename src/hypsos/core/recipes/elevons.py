"""Roll and pitch with two elevons."""

from collections.abc import Iterator
from typing import ClassVar, Literal, Self

from hypsos.core.ground.values import Label, Name, Share
from hypsos.core.parts.shapes import MixLine, Response
from hypsos.core.recipes.base import Controls, Ground, MadeLine, Parameter, RecipeBase


class Elevons(RecipeBase):
    """Left = roll share - pitch share, right = -roll share - pitch share. At 50 and 50 nothing is lost at the corners.
    ``roll_from`` and ``pitch_from`` are shared values that multiply.

    ``sharing`` rules the corners of shares that add up to more than 100. *pitch first*: roll is scaled by what full pitch
    leaves of the travel, ``(100 - pitch share * |pitch|) / roll share`` where that is less than 1; *roll first* likewise.
    """

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
    moved_by: ClassVar[tuple[str, ...]] = ("pitch", "roll")

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("elevon")
        return cls(left=left[0], right=right[0], signal=ground.signal("elevons_left_over")) if left and right else None

    def signals(self) -> tuple[tuple[str, str], ...]:
        return ((self._given_way, self.named("what gives way")),) if self.sharing != "none" else ()

    @property
    def _given_way(self) -> str:
        return self.signal or "elevons_left_over"

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        gives = {"pitch first": "roll", "roll first": "pitch"}.get(self.sharing)
        first = "roll" if gives == "pitch" else "pitch"
        if gives is not None:
            own, others = (
                (self.roll_share, self.pitch_share) if gives == "roll" else (self.pitch_share, self.roll_share)
            )
            line = MixLine(name=self.named(gives), target=self._given_way, source=gives, when=self.when)
            yield MadeLine(line, f"{gives}_share")
            if own > 0 and own + others > 100:
                line = MixLine(
                    name=self.named(f"{gives} gives way"), target=self._given_way, source=first,
                    response=_left_over(own, others), combine="scale",
                )  # fmt: skip
                yield MadeLine(line, "sharing")
        for target, sign in ((self.left, 1.0), (self.right, -1.0)):
            for source, gain in (("roll", sign * self.roll_share), ("pitch", -self.pitch_share)):
                line = MixLine(
                    name=self.named(source), target=target, source=self._given_way if source == gives else source,
                    gain=gain, gain_from=getattr(self, f"{source}_from"), when=self.when,
                )  # fmt: skip
                yield MadeLine(line, f"{source}_share")


def _left_over(own: float, others: float) -> Response:
    """What is left for an axis with the share ``own`` beside the other's command, in percent: whole up to where both fill
    the travel, then less. A curve ``1/own`` of a straight line, so straight itself."""
    full = max(0.0, (100.0 - own) / others * 100.0) if own < 100 else 0.0
    least = min(100.0, max(0.0, (100.0 - others) / own * 100.0))
    none = min(100.0, 100.0 / others * 100.0)
    start = 100.0 if own <= 100 else 100.0 / own * 100.0
    middle = [(-full, start), (full, start)] if full > 0 else [(0.0, start)]
    ends = [(none, 0.0), (100.0, 0.0)] if none < 100 else [(100.0, least)]
    right = [*middle[-1:], *ends]
    points = [(-x, y) for x, y in reversed(right) if x > 0] + middle * (full > 0) + [(0.0, start)] * (full == 0)
    points += [(x, y) for x, y in right if x > 0]
    return Response(points=tuple(dict(sorted(points)).items()))
