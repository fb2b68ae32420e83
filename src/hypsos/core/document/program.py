# SPDX-License-Identifier: GPL-3.0-or-later
"""What the transmitter is told: axes with their feel, mix lines, recipes, the guard of the motors,
what it says by itself."""

import re
from collections.abc import Iterator, Mapping
from typing import Annotated, Literal

from pydantic import Field, field_validator

from hypsos.core.base.cache import kept
from hypsos.core.base.values import Label, Name, Note, Seconds, Travel, Value
from hypsos.core.conditions import LogicSwitch
from hypsos.core.parts.announcement_values import Announcement, Timer
from hypsos.core.parts.condition_text import Condition
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.mix_lines import MixLine, Response
from hypsos.core.parts.tunables import Tunable
from hypsos.core.recipes import Recipe

AXIS_COMMANDS = ("roll", "pitch", "yaw", "thrust")
FREE_COMMANDS = ("flap", "brake", "camber")
"""Signals that every model has: sums that lines may feed and read. A model may have others of its
own."""


RATE_BOUNDS = (0.0, 150.0)
EXPO_BOUNDS = (-100.0, 100.0)


class Setting(Value):
    """The feel of one axis: a rate in percent to each side, and expo from -100 to 100.

    ``rate_from`` and ``expo_from`` name shared values that stand in for the numbers, held to the
    same bounds, while ``from_when`` holds (always, where it is none). The thrust axis is shaped
    from idle: its rate is ``rate_pos``, and scales stick + 100."""

    rate_neg: Annotated[float, Field(ge=0, le=150)] = 100.0
    rate_pos: Annotated[float, Field(ge=0, le=150)] = 100.0
    expo: Annotated[float, Field(ge=-100, le=100)] = 0.0
    rate_from: Name | None = None
    expo_from: Name | None = None
    from_when: Condition | None = None


FULL = Setting.model_construct()
"""What an undefined switch position falls back to: full rate, no expo."""


class Trim(Value):
    """A trim: percent per click, range in percent to each side, and where it stands now, in clicks.

    ``scope``: common to all flight modes; ``per mode`` with the clicks of ``by_mode`` instead;
    ``offset`` with the clicks of ``by_mode`` on top; ``lever``: it moves no trim, what adds to a
    shared value may go by it."""

    step: Annotated[float, Field(gt=0, le=10)] = 1.0
    range: Annotated[float, Field(gt=0, le=100)] = 25.0
    clicks: Annotated[int, Field(ge=-500, le=500)] = 0
    scope: Literal["common", "per mode", "offset", "lever"] = "common"
    by_mode: Annotated[
        dict[Name, Annotated[int, Field(ge=-500, le=500)]], Field(max_length=32)
    ] = {}


class Axis(Value):
    """From a stick to a command: curve, then expo, then rate, then trim.

    ``settings`` are by position of ``switch``, from its first; a missing one means full rate and no
    expo. Without a switch the first setting holds always."""

    command: Literal["roll", "pitch", "yaw", "thrust"]
    control: Name
    curve: Response | None = None
    switch: Name | None = None
    settings: tuple[Setting | None, ...] = (FULL,)
    trim: Trim | None = None

    def asks(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, condition)."""
        for k, setting in enumerate(self.settings):
            if setting is not None and setting.from_when is not None:
                yield f"settings[{k}].from_when", setting.from_when

    def reads(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, control)."""
        yield "control", self.control
        if self.switch is not None:
            yield "switch", self.switch

    def shares(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, shared value)."""
        for k, setting in enumerate(self.settings):
            if setting is not None and setting.rate_from is not None:
                yield f"settings[{k}].rate_from", setting.rate_from
            if setting is not None and setting.expo_from is not None:
                yield f"settings[{k}].expo_from", setting.expo_from
        if self.curve is not None and self.curve.live_from is not None:
            yield "curve.live_from", self.curve.live_from

    @field_validator("settings")
    @classmethod
    def _six_at_most(cls, value: tuple[Setting | None, ...]) -> tuple[Setting | None, ...]:
        if not 1 <= len(value) <= 6:
            raise ValueError("an axis has one to six settings, one for each switch position")
        return value


class Signal(Value):
    """A named sum of the model's own, in percent: lines feed it, other lines read it."""

    name: Name
    label: Label


class StartCheck(Value):
    """Where a control must stand before it is armed first after power-up: a switch at ``position``,
    any other control from ``low`` to ``high`` percent."""

    control: Name
    position: Annotated[int, Field(ge=0, le=5)] | None = None
    low: Travel = -100.0
    high: Travel = 100.0


LOWEST_POWER = -90.0
"""The highest threshold a guard may have: a motor told more than this would turn as it is armed."""


USUAL_LEVEL = 4
"""The level with which a guard is proposed: the whole of it, so that no motor comes back by itself
after a long loss."""
USUAL_RELOCK_S = 2.5
"""Seconds without a link after which a proposed guard locks: longer than a failsafe waits, so that
a loss in the air on which it did not act stops no motor for good."""


USUAL_IDLE = 15.0
"""Percent of power at which an engine is proposed to idle."""
Idle = Annotated[float, Field(ge=1, le=50)]


class Engine(Value):
    """That a motor is an engine: armed, it never goes below its idle; cut, it stops.

    ``idle`` is the percent of power at which it keeps running, the trim of the throttle about it.
    ``high_idle`` is a second, higher one while ``high_when`` holds: for an approach, or with the
    wheels out."""

    motor: Name
    idle: Idle = USUAL_IDLE
    high_idle: Idle | None = None
    high_when: Condition | None = None

    @property
    def most(self) -> float:
        """The higher of its idles, in percent of power."""
        return max(self.idle, self.high_idle or 0.0)


class Guard(Value):
    """The release of the motors. Each level includes those before it.

    1 cut: the positions ``cut`` of the switch stop every motor; every other position is *run*. 2
    low to arm: armed only if the control of the thrust command, and what every motor would be told,
    were at or below ``threshold`` when the switch went to run. 3 rest: they must have rested there
    for ``rest_s``. 4 re-lock: a link lost for at least ``relock_s`` locks again until the switch is
    cycled.

    ``also`` is asked for besides when the switch goes to run: a second switch, or a button held.
    ``holds`` are conditions that stop every motor while they are true; afterwards the guard is
    locked until the stick has rested low. ``start_check``: what must stand where before it is armed
    first after power-up. ``wakes_when_low`` turns locked into armed once the stick has rested low,
    but never after a lost link. ``unconfirmed`` says what a person has to agree to before any motor
    is armed, because an older document meant less power by it. ``engines``: which motors idle while
    they are armed."""

    level: Annotated[int, Field(ge=1, le=4)] = 2
    switch: Name
    cut: Annotated[
        tuple[Annotated[int, Field(ge=0, le=5)], ...], Field(min_length=1, max_length=5)
    ] = (0,)
    also: Condition | None = None
    threshold: Annotated[float, Field(ge=-100, le=LOWEST_POWER)] = -95.0
    rest_s: Seconds = 0.5
    relock_s: Seconds = 0.5
    holds: Annotated[tuple[Condition, ...], Field(max_length=8)] = ()
    start_check: Annotated[tuple[StartCheck, ...], Field(max_length=12)] = ()
    wakes_when_low: bool = False
    unconfirmed: Annotated[tuple[Note, ...], Field(max_length=32)] = ()
    engines: Annotated[tuple[Engine, ...], Field(max_length=40)] = ()

    def engine(self, motor: str) -> Engine | None:
        """What is said of a motor that is an engine; None of an electric one."""
        return next((x for x in self.engines if x.motor == motor), None)

    def asks(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, condition)."""
        yield from ((f"holds[{i}]", text) for i, text in enumerate(self.holds))
        if self.also is not None:
            yield "also", self.also
        for i, engine in enumerate(self.engines):
            if engine.high_when is not None:
                yield f"engines[{i}].high_when", engine.high_when

    def reads(self) -> Iterator[tuple[str, str]]:
        """Pairs of (field, control)."""
        yield "switch", self.switch
        yield from (
            (f"start_check[{i}].control", check.control) for i, check in enumerate(self.start_check)
        )

    def shares(self) -> tuple[tuple[str, str], ...]:
        """It goes by no shared value."""
        return ()


STOPS = frozenset(
    ("cut", "stop", "stopped", "stops", "off", "safe", "locked", "kill", "hold", "idle")
)
RUNS = frozenset(("run", "runs", "on", "armed", "go", "start"))
"""Words in the names of switch positions at which nobody expects a motor to run, or to stand."""


def name_says(position: str) -> bool | None:
    """Whether the name of a switch position says that a motor runs there; None where it says
    neither.

    >>> name_says("CUT!"), name_says("Motor off"), name_says("run"), name_says("normal")
    (False, False, True, None)
    """
    words = set(re.findall(r"[^\W\d_]+", position.casefold()))
    if words & STOPS:
        return False
    return True if words & RUNS else None


def usual_cut(positions: tuple[str, ...]) -> tuple[int, ...]:
    """The positions of a motor switch that stop the motor: those whose names say so, else the
    first."""
    found = tuple(i for i, p in enumerate(positions) if name_says(p) is False)
    return found if 0 < len(found) < len(positions) else (0,)


class Detached(Value):
    """A behaviour that was turned into plain mixes, kept so that it can be attached again; ``name``
    is their origin."""

    name: Name
    recipe: Recipe


class Program(Value):
    """All of it. ``frame_s`` is the time from one frame to the next in seconds."""

    frame_s: Annotated[float, Field(ge=0.002, le=0.1)] = 0.02
    axes: Annotated[tuple[Axis, ...], Field(max_length=4)] = ()
    mixes: Annotated[tuple[MixLine, ...], Field(max_length=500)] = ()
    recipes: Annotated[tuple[Recipe, ...], Field(max_length=60)] = ()
    guard: Guard | None = None
    logic: Annotated[tuple[LogicSwitch, ...], Field(max_length=500)] = ()
    modes: Annotated[tuple[FlightMode, ...], Field(max_length=32)] = ()
    tunables: Annotated[tuple[Tunable, ...], Field(max_length=200)] = ()
    signals: Annotated[tuple[Signal, ...], Field(max_length=100)] = ()
    announcements: Annotated[tuple[Announcement, ...], Field(max_length=200)] = ()
    timers: Annotated[tuple[Timer, ...], Field(max_length=20)] = ()
    detached: Annotated[tuple[Detached, ...], Field(max_length=60)] = ()

    def axis(self, command: str) -> Axis | None:
        """The axis of a command, or None."""
        return next((a for a in self.axes if a.command == command), None)

    def throttles(self) -> frozenset[str]:
        """The controls that are there to give power: that of the thrust command, and a switch that
        a behaviour makes one."""
        axis = self.axis("thrust")
        found = set() if axis is None else {axis.control}
        for recipe in self.recipes:
            if recipe.on:
                found.update(recipe.throttles())
        return frozenset(found)

    def signal_labels(self) -> Mapping[str, str]:
        """Every signal's name and what people call it: those that all models have, the recipes'
        own, the model's own."""
        return _signal_labels(self)

    def gates(self) -> tuple[LogicSwitch, ...]:
        """The conditions that give a signal of their own."""
        return tuple(x for x in self.logic if x.gives_signal)

    def shared_values(self) -> tuple[Tunable, ...]:
        """The model's own shared values, and those that its behaviours make."""
        return _shared_values(self)

    def felt(self, axis: Axis) -> Axis:
        """An axis with the shared values that behaviours put in the place of its numbers, at every
        position of a switch; where it names one itself, that stays."""
        known = _felt(self)
        for given, made in known:
            if given is axis:
                return made
        made = self._felt(axis)
        known[:] = [(axis, made), *known[:7]]
        return made

    def _felt(self, axis: Axis) -> Axis:
        for recipe in self.recipes:
            felt = recipe.feels() if recipe.on else {}
            rate, expo = felt.get(axis.command, (None, None))
            if rate is None and expo is None:
                continue
            # a switch may get more positions than are set; what is not set is full
            positions = 6 if axis.switch else 1
            settings = [*axis.settings, *(None,) * positions][:positions]
            made = []
            for setting in (setting or FULL for setting in settings):
                if not setting.rate_from and not setting.expo_from:  # whoever came first stays
                    setting = setting.changed(
                        {"rate_from": rate, "expo_from": expo, "from_when": recipe.when}
                    )
                made.append(setting)
            axis = axis.changed({"settings": tuple(made)})
        return axis


@kept
def _signal_labels(program: Program) -> Mapping[str, str]:
    labels = {name: f"{name.capitalize()} signal" for name in FREE_COMMANDS}
    for recipe in program.recipes:
        labels.update(recipe.signals())
    for signal in program.signals:
        labels[signal.name] = signal.label
    return labels


@kept
def _shared_values(program: Program) -> tuple[Tunable, ...]:
    values = list(program.tunables)
    for recipe in program.recipes:
        values += recipe.own_values()
    return tuple(values)


@kept
def _felt(_program: Program) -> list[tuple[Axis, Axis]]:
    """The axes that were asked about, with what behaviours put into them."""
    return []


__all__ = [
    "AXIS_COMMANDS",
    "FREE_COMMANDS",
    "Axis",
    "Guard",
    "Program",
    "Setting",
    "Signal",
    "StartCheck",
    "Trim",
]
