# SPDX-License-Identifier: GPL-3.0-or-later
"""Corrections: rudder with roll, elevator with power, and what a knife edge asks for."""

from collections.abc import Iterator
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Percent, Travel, Value
from hypsos.core.parts.airframe import PITCH_ROLES, Airframe, Surface
from hypsos.core.parts.condition_text import opposite
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.transmitter import Control
from hypsos.core.parts.tunables import Adjuster, Tunable
from hypsos.core.recipes.recipe_base import (
    Controls,
    Ground,
    MadeLine,
    Parameter,
    Parts,
    RecipeBase,
    left_of,
)


class TurnShare(Value):
    """Rudder with roll at one position, percent of the roll command to each side; minus is against
    the turn."""

    left: Percent = 0.0
    right: Percent = 0.0


POWERED, GLIDING = 20.0, 40.0
"""Percent of full rudder that goes with full roll: usual first values. Long wings want more; an
aerobatic one none."""


def _usual_helps() -> tuple[TurnShare, ...]:
    return (TurnShare(left=12, right=12),)


class CoordinatedTurn(RecipeBase):
    """Rudder += g * roll, with a share of its own at each position of ``control`` and for each
    side, times the shared value ``helps_from``. ``against`` are the panels that go the other way: a
    V-tail's left one."""

    title: ClassVar[str] = "Aileron to rudder"
    about: ClassVar[str] = "The rudder helps the ailerons into a turn."
    missing: ClassVar[str] = "there is no rudder and no V-tail"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter(
            "control", "By the switch", "Without one the first share holds always.", kind="switch"
        ),
        Parameter(
            "helps",
            "Rudder with roll",
            "Of the roll command. A usual first value: if the nose swings against the turn, more; if it leads, less.",
            kind="shares",
        ),
        Parameter(
            "helps_from",
            "Times the shared value",
            "So it can be set by flight mode, or in flight.",
            kind="shared",
            of="helps",
        ),
        Parameter("with_trim", "Trims move it too", kind="yes or no"),
        Parameter("rudders", "Moves", kind="parts", roles=("rudder", "ruddervator")),
        Parameter(
            "against",
            "Of these, the other way",
            "A V-tail's left panel.",
            kind="parts",
            roles=("ruddervator",),
        ),
    )
    kind: Literal["coordinated_turn"] = "coordinated_turn"
    label: Label = "Aileron to rudder"
    signal: Name = "turn_help"
    control: Name | None = None
    helps: Annotated[tuple[TurnShare, ...], Field(min_length=1, max_length=6)] = Field(
        default_factory=_usual_helps
    )
    helps_from: Name | None = None
    with_trim: bool = False
    rudders: Parts
    against: Parts = ()
    moved_by: ClassVar[tuple[str, ...]] = ("roll",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        found = [
            s for s in ground.body.with_roles("rudder", "ruddervator") if s.name in ground.among
        ]
        if not found or not {"roll", "yaw"} <= set(ground.steers):
            return None
        straight = tuple(s.name for s in found if not mirrored(s))
        rudder = min(ground.yaws.get(s.name, 100.0) for s in found)
        usual = round((GLIDING if ground.gliding else POWERED) * rudder / 100.0)
        return cls(
            rudders=straight,
            against=tuple(s.name for s in found if mirrored(s)),
            signal=ground.signal("turn_help"),
            helps=(TurnShare(left=usual, right=usual),),
        )

    def on_switch(self, key: str, control: Control) -> Self:
        """A share for every position; new ones are as the last."""
        count = len(control.positions)
        kept = (*self.helps, *self.helps[-1:] * max(0, count - len(self.helps)))[:count]
        return self.changed({"control": control.name, "helps": kept})

    def turned(self, key: str, count: int) -> Self | None:
        """A position without a share of its own gives none, at the other end, too."""
        whole = (*self.helps, *(TurnShare(),) * (count - len(self.helps)))
        return self.changed({"helps": whole[::-1]})

    def multiplied(self, key: str, percent: float) -> Any:
        if key != "helps":
            return super().multiplied(key, percent)
        sides = ((x.left * percent / 100.0, x.right * percent / 100.0) for x in self.helps)
        return tuple(TurnShare(left=left, right=right) for left, right in sides)

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """It goes on with the rudders that are left."""
        straight, against = left_of(self.rudders, gone), left_of(self.against, gone)
        if not straight and not against:
            return None
        same = straight == self.rudders and against == self.against
        return self if same else self.changed({"rudders": straight, "against": against})

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        control = controls(self.control) if self.control else None
        single = control is None or not control.is_switch
        for i, share in enumerate(self.helps[:1] if single else self.helps):
            if not share.left and not share.right:
                continue
            gain, response = share.right, None
            if share.left != share.right:  # the sides differ: a response says both
                points = ((-100.0, -share.left), (0.0, 0.0), (100.0, share.right))
                gain, response = 100.0, Response(points=points)
            line = MixLine(
                name=self.label,
                target=self.signal,
                source="roll",
                gain=gain,
                response=response,
                gain_from=self.helps_from,
                with_trim=self.with_trim,
                when=self.when if single else f"{self.control}@{i}",
            )
            yield MadeLine(line, f"helps[{i}].right")
        if self.when is not None and not single:
            line = MixLine(
                name=self.named("none"),
                target=self.signal,
                source="full",
                gain=0,
                when=opposite(self.when),
                combine="scale",
            )
            yield MadeLine(line, "when")
        for sign, names in ((1.0, self.rudders), (-1.0, self.against)):
            for name in names:
                yield MadeLine(
                    MixLine(name=self.label, target=name, source=self.signal, gain=sign * 100.0),
                    "helps",
                )

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        control = controls(self.control) if self.control else None
        if control is not None and control.is_switch and len(control.positions) < len(self.helps):
            yield "helps", f"there are more shares than {control.label} has positions"


def mirrored(surface: Surface) -> bool:
    """Whether a surface goes the other way than a rudder for the same yaw: a V-tail's left
    panel."""
    return surface.role == "ruddervator" and surface.side == "left"


class ThrustLine(RecipeBase):
    """Elevator += share * response(thrust): nothing up to ``pivot``, straight from there to the
    share at full power. + is down. A new one acts only while the motors are armed: a stick that
    stands up beside a locked motor moves nothing."""

    title: ClassVar[str] = "Throttle to elevator"
    about: ClassVar[str] = "The elevator holds the nose when the motor pulls it up or down."
    missing: ClassVar[str] = "it takes a motor and an elevator"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("pivot", "From the throttle at", "Below it nothing moves.", kind="place"),
        Parameter(
            "share",
            "Elevator",
            "At full power. It begins with nothing: fly level, give full power, and see which way the nose goes.",
            kind="surface",
            of="elevators",
        ),
        Parameter("elevators", "Moves", kind="parts", roles=PITCH_ROLES, later=True),
    )
    kind: Literal["thrust_line"] = "thrust_line"
    label: Label = "Throttle to elevator"
    signal: Name = "thrust_line"
    pivot: Travel = 0.0
    share: Travel = 6.0
    elevators: Parts
    moved_by: ClassVar[tuple[str, ...]] = ("thrust",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        elevators = ground.pitching()
        if not ground.body.motors or not elevators or "thrust" not in ground.steers:
            return None
        when = "guard:armed" if ground.guarded else None  # a motor that is cut pulls no nose
        return cls(elevators=elevators, when=when, share=0.0, signal=ground.signal("thrust_line"))

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """Without a motor there is no thrust to correct."""
        return super().fitted(body, gone, new) if body.motors else None

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        points = {-100.0: 0.0, self.pivot: 0.0, 100.0: 100.0}
        response = Response(points=tuple(sorted(points.items())))
        line = MixLine(
            name=self.label, target=self.signal, source="thrust", response=response, when=self.when
        )
        yield MadeLine(line, "pivot")
        for name in self.elevators if self.share else ():
            yield MadeLine(
                MixLine(name=self.label, target=name, source=self.signal, gain=self.share), "share"
            )

    def problems(self, controls: Controls) -> Iterator[tuple[str, str]]:
        if self.pivot >= 100:
            yield "pivot", "the throttle needs some way left above the place from which it acts"


class ThrottleRudder(RecipeBase):
    """Rudder += response(thrust), + is right; ``against`` are the panels that go the other way: a
    V-tail's left one. A new one acts only while the motors are armed, and begins with nothing."""

    title: ClassVar[str] = "Throttle to rudder"
    about: ClassVar[str] = (
        "With power the rudder holds the nose straight against the swirl of the propeller."
    )
    missing: ClassVar[str] = "it takes a motor, and a rudder or a V-tail"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter(
            "response", "Rudder to the right",
            "By the throttle. Minus: to the left. It begins with nothing: climb straight at full power, see which way the nose "
            "goes, and give a few percent against it.",
            kind="response",
        ),
        Parameter("rudders", "Moves", kind="parts", roles=("rudder", "ruddervator")),
        Parameter("against", "Of these, the other way", "A V-tail's left panel.", kind="parts", roles=("ruddervator",)),
    )  # fmt: skip
    kind: Literal["throttle_rudder"] = "throttle_rudder"
    label: Label = "Throttle to rudder"
    signal: Name = "throttle_rudder"
    response: Response = Response(points=((-100.0, 0.0), (0.0, 0.0), (100.0, 0.0)))
    rudders: Parts = ()
    against: Parts = ()
    moved_by: ClassVar[tuple[str, ...]] = ("thrust",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        found = [
            s for s in ground.body.with_roles("rudder", "ruddervator") if s.name in ground.among
        ]
        if not ground.body.motors or not found or "thrust" not in ground.steers:
            return None
        return cls(
            rudders=tuple(s.name for s in found if not mirrored(s)),
            against=tuple(s.name for s in found if mirrored(s)),
            when="guard:armed" if ground.guarded else None,
            signal=ground.signal("throttle_rudder"),
        )

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """It goes on with the rudders that are left; without a motor there is no swirl."""
        straight, against = left_of(self.rudders, gone), left_of(self.against, gone)
        if not body.motors or (not straight and not against):
            return None
        same = straight == self.rudders and against == self.against
        return self if same else self.changed({"rudders": straight, "against": against})

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        acting = bool(self.response.live) or any(y for _, y in self.response.points)
        line = MixLine(
            name=self.label,
            target=self.signal,
            source="thrust",
            response=self.response,
            with_trim=False,
            when=self.when,
        )
        yield MadeLine(line, "response")
        for sign, names in ((1.0, self.rudders), (-1.0, self.against)):
            for name in names if acting else ():
                yield MadeLine(
                    MixLine(name=self.label, target=name, source=self.signal, gain=sign * 100.0),
                    "response",
                )


FIVE = (-100.0, -50.0, 0.0, 50.0, 100.0)


def _five(y: tuple[float, ...]) -> Response:
    return Response(points=tuple(zip(FIVE, y, strict=True)))


EDGEWISE = "It begins with nothing: fly on edge high up, see where the nose or the wing goes, and give a few percent against it."


class KnifeEdge(RecipeBase):
    """Elevator += f(yaw), left ailerons += g(yaw), right ones -= g(yaw). The outer points of both
    curves are moved in flight by ``pitch_lever`` and ``roll_lever``: ``reach`` percent at the
    lever's full way, added to their y."""

    title: ClassVar[str] = "Knife-edge correction"
    about: ClassVar[str] = (
        "With the rudder held over, elevator and ailerons keep the aeroplane on its edge."
    )
    missing: ClassVar[str] = "it takes a rudder, an elevator and ailerons"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("pitch", "Elevator down", f"By the rudder command. Minus: up. {EDGEWISE}", kind="response"),
        Parameter("roll", "Ailerons to the right", f"By the rudder command. Minus: to the left. {EDGEWISE}", kind="response"),
        Parameter("pitch_lever", "Elevator curve trimmed by", "A slider, knob or trim lever that moves its outer points in flight.",
                  kind="control", levers=True),
        Parameter("roll_lever", "Aileron curve trimmed by", kind="control", levers=True),
        Parameter("reach", "Trimmed by at most", "At the lever's full way."),
        Parameter("elevators", "Elevator", kind="parts", roles=PITCH_ROLES, later=True),
        Parameter("left", "Ailerons, left", kind="parts", roles=("aileron", "flaperon", "elevon"), side="left"),
        Parameter("right", "Ailerons, right", kind="parts", roles=("aileron", "flaperon", "elevon"), side="right"),
    )  # fmt: skip
    kind: Literal["knife_edge"] = "knife_edge"
    label: Label = "Knife edge"
    signal: Name = "knife_edge"
    pitch: Response = _five((6.0, 2.0, 0.0, 2.0, 6.0))
    roll: Response = _five((-4.0, -1.5, 0.0, 1.5, 4.0))
    pitch_lever: Name | None = None
    roll_lever: Name | None = None
    reach: Annotated[float, Field(ge=1, le=50)] = 10.0
    elevators: Parts
    left: Parts
    right: Parts
    moved_by: ClassVar[tuple[str, ...]] = ("yaw",)

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        left, right = ground.sides("aileron", "flaperon")
        elevators = ground.pitching((*left, *right))
        rudders = ground.body.with_roles("rudder", "ruddervator")
        yaws = bool(rudders) and "yaw" in ground.steers
        if not elevators or not left or not yaws:
            return None
        nothing = _five((0.0,) * len(FIVE))
        return cls(
            elevators=elevators,
            left=left,
            right=right,
            pitch=nothing,
            roll=nothing,
            signal=ground.signal("knife_edge"),
        )

    def _named(self, what: str) -> str:
        return f"{self.signal[:32]}_{what}"

    def signals(self) -> tuple[tuple[str, str], ...]:
        return tuple(
            (self._named(x), self.named(words))
            for x, words in (("pitch", "elevator"), ("roll", "ailerons"))
        )

    def own_values(self) -> tuple[Tunable, ...]:
        return tuple(
            Tunable(
                name=f"{self._named(what)}_trim",
                label=self.named(f"{what} trimmed"),
                low=-self.reach,
                high=self.reach,
                value=0,
                adjuster=Adjuster(kind="set", control=lever),
            )
            for what, lever in (("pitch", self.pitch_lever), ("roll", self.roll_lever))
            if lever
        )

    def _live(self, what: str, response: Response, lever: str | None) -> Response:
        """The curve with every point away from the middle moved by its lever; for roll those at the
        left go the other way."""
        if not lever or response.live:
            return response
        # the middle stays: without rudder nothing is corrected
        live = tuple(i for i, (x, _) in enumerate(response.points) if abs(x) > 1e-9)
        fields = {
            "live": live,
            "live_from": f"{self._named(what)}_trim",
            "live_odd": what == "roll",
        }
        return response.changed(fields)

    def made_response(self, key: str) -> Response:
        lever = self.pitch_lever if key == "pitch" else self.roll_lever
        return self._live(key, getattr(self, key), lever)

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        curves = (("pitch", self.pitch, self.pitch_lever), ("roll", self.roll, self.roll_lever))
        acting = []
        for what, response, lever in curves:
            if lever or response.live or any(y for _, y in response.points):
                acting.append(what)
        for what in acting:
            line = MixLine(
                name=self.named("elevator" if what == "pitch" else "ailerons"),
                target=self._named(what),
                source="yaw",
                response=self.made_response(what),
                with_trim=False,
                when=self.when,
            )
            yield MadeLine(line, what)
        # what gives nothing makes no lines
        for name in self.elevators if "pitch" in acting else ():
            yield MadeLine(
                MixLine(name=self.named("elevator"), target=name, source=self._named("pitch")),
                "pitch",
            )
        for sign, names in ((100.0, self.left), (-100.0, self.right)):
            for name in names if "roll" in acting else ():
                line = MixLine(
                    name=self.named("ailerons"), target=name, source=self._named("roll"), gain=sign
                )
                yield MadeLine(line, "roll")
