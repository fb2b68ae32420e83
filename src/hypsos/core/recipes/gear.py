# SPDX-License-Identifier: GPL-3.0-or-later
"""A retractable gear with its doors: one after the other, and a wheel that steers less once it is
up."""

from collections.abc import Iterator, Sequence
from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from hypsos.core.base.values import Label, Name, Share
from hypsos.core.parts.airframe import STEERED, Airframe
from hypsos.core.parts.condition_text import Condition, asked
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.recipes.recipe_base import (
    Controls,
    Ground,
    MadeLine,
    Parameter,
    Parts,
    RecipeBase,
    left_of,
)

DOWN, UP = -100.0, 100.0
CLOSED, OPEN = -100.0, 100.0
USUAL_STEERING = 40.0

DoorSeconds = Annotated[float, Field(ge=0.1, le=15)]
GearSeconds = Annotated[float, Field(ge=0.1, le=30)]
Points = list[tuple[float, float]]


def _up_position(ground: Ground, gear: Sequence[str]) -> str | None:
    """The position of a switch at which the gear is up: of the switch that moves it already, or else
    the last one of a spare switch; None without either."""
    moving = [x for x in ground.lines if x.target in gear and x.source in ground.switches]
    control = moving[0].source if moving else ground.spare
    if not control:
        return None
    last = ground.switches.get(control, 2) - 1
    turned_round = bool(moving) and moving[0].gain <= 0
    down = 0 if turned_round else last
    return f"{control}@{down}"


class GearWithDoors(RecipeBase):
    """The way of the gear from down (0) to up (100) is a signal of its own that takes as long as
    all steps together.

    Each part is a response to that one signal: doors open, then the gear moves, then the doors
    close. So the order holds in both directions, and a switch that is turned back on the way takes
    every part back by the way it came. ``doors_down``: what the doors do while the gear is down.
    The wheels steer by ``steering`` of the yaw command with the gear down, and by ``steering_up``
    of that once it is up; in between as the gear moves. While ``when`` does not hold the gear stays
    down."""

    title: ClassVar[str] = "Gear with doors"
    about: ClassVar[str] = (
        "The doors open before the gear moves and close behind it; the wheel in its bay steers no more."
    )
    missing: ClassVar[str] = "there are no retracts"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter(
            "up",
            "The gear is up while",
            "Look at its switch before the battery goes in: with this true the gear folds under the aeroplane at once.",
            kind="condition",
        ),
        Parameter("door_s", "Doors take", "Seconds to open or to close. Give them longer than they need.", kind="seconds"),
        Parameter("gear_s", "Gear takes", "Seconds to go up or down. Give it longer than it needs.", kind="seconds"),
        Parameter(
            "doors_down", "With the gear down the doors are", kind="choice",
            choices=(("closed", "closed again"), ("open", "open")),
        ),
        Parameter("steering", "Wheels steer by", "Of the rudder command, with the gear down."),
        Parameter("steering_up", "Of that, with the gear up", "0: the wheel stands straight in its bay."),
        Parameter("gear", "Gear", kind="parts", roles=("retracts",)),
        Parameter("doors", "Doors", kind="parts", roles=("gear doors",)),
        Parameter("wheels", "Wheels that steer", kind="parts", roles=STEERED),
    )  # fmt: skip
    kind: Literal["gear_with_doors"] = "gear_with_doors"
    label: Label = "Gear with doors"
    signal: Name = "gear_way"
    up: Condition | None = None
    door_s: DoorSeconds = 1.5
    gear_s: GearSeconds = 3.0
    doors_down: Literal["closed", "open"] = "closed"
    steering: Share = USUAL_STEERING
    steering_up: Share = 0.0
    gear: Parts
    doors: Parts = ()
    wheels: Parts = ()
    moved_by: ClassVar[tuple[str, ...]] = ("up", "yaw")

    @classmethod
    def begin(cls, ground: Ground) -> Self | None:
        devices = ground.body.devices
        gear = tuple(d.name for d in devices if d.kind == "retracts")
        doors = tuple(d.name for d in devices if d.kind == "gear doors")
        wheels = tuple(d.name for d in devices if d.kind in STEERED)
        up = _up_position(ground, gear)
        if not gear or up is None:
            return None
        by_yaw = [x for x in ground.lines if x.target in wheels and x.source == "yaw"]
        return cls(
            up=up,
            gear=gear,
            doors=doors,
            wheels=wheels,
            steering=min(150.0, abs(by_yaw[0].gain)) if by_yaw else USUAL_STEERING,
            signal=ground.signal("gear_way"),
        )

    def fitted(self, body: Airframe, gone: frozenset[str], new: frozenset[str]) -> Self | None:
        """It goes on with what is left; without a gear there is nothing to do."""
        fields = {key: left_of(getattr(self, key), gone) for key in ("gear", "doors", "wheels")}
        if not fields["gear"]:
            return None
        if all(getattr(self, key) == names for key, names in fields.items()):
            return self
        return self.changed(fields)

    def replaces(self, line: MixLine) -> bool:
        """What drove the gear, its doors and the wheels by plain lines."""
        switch = asked(self.up).name if self.up is not None else ""
        moved = line.target in (*self.gear, *self.doors) and line.source == switch
        return moved or (line.target in self.wheels and line.source == "yaw")

    def signals(self) -> tuple[tuple[str, str], ...]:
        return self.ruled_signals()

    def steps(self) -> tuple[float, float, float]:
        """How many seconds of the whole way pass until the doors are open, the gear is up, and all
        has come to rest."""
        if not self.doors:
            return 0.0, self.gear_s, self.gear_s
        opening = self.door_s if self.doors_down == "closed" else 0.0
        return opening, opening + self.gear_s, opening + self.gear_s + self.door_s

    def expand(self, controls: Controls) -> Iterator[MadeLine]:
        # seconds of the way become percent of the signal
        opened, moved, whole = self.steps()
        if self.up is not None:
            way = MixLine(
                name=self.label, target=self.signal, source="full", in_s=whole, out_s=whole
            )
            yield from self.behind_rules(
                way, list(self.asks()), self.asked_signal, ("asked for", "down"), "gear_s"
            )
        # from here to there the gear itself moves; before and after it the doors do
        begins, ends = 100.0 * opened / whole, 100.0 * moved / whole
        gear = _through([(0.0, DOWN), (begins, DOWN), (ends, UP), (100.0, UP)])
        for name in self.gear:
            yield MadeLine(
                MixLine(name=self.label, target=name, source=self.signal, response=gear), "gear_s"
            )
        # the gear is down at 0 and up at 100; in between the doors are open
        at_rest = CLOSED if self.doors_down == "closed" else OPEN
        doors = _through([(0.0, at_rest), (begins, OPEN), (ends, OPEN), (100.0, CLOSED)])
        for name in self.doors:
            line = MixLine(
                name=self.named("doors"), target=name, source=self.signal, response=doors
            )
            yield MadeLine(line, "door_s")
        # the steering fades while the wheel folds into its bay
        steers = _through(
            [(0.0, 100.0), (begins, 100.0), (ends, self.steering_up), (100.0, self.steering_up)]
        )
        for name in self.wheels:
            yield MadeLine(
                MixLine(name=self.named("steering"), target=name, source="yaw", gain=self.steering),
                "steering",
            )
            less = MixLine(
                name=self.named("steering with the gear up"),
                target=name,
                source=self.signal,
                response=steers,
                combine="scale",
            )
            yield MadeLine(less, "steering_up")


def _through(points: Points) -> Response:
    """A response through these points; of two at one place the later one holds."""
    return Response(points=tuple(sorted(dict(points).items())))
