# SPDX-License-Identifier: GPL-3.0-or-later
"""Behaviour in the pilot's words. A new one is a file here and a line in ``RECIPES``."""

from typing import TYPE_CHECKING, Annotated, TypeAlias, Union

from pydantic import Discriminator

from hypsos.core.recipes.ailerons import Ailerons
from hypsos.core.recipes.camber import CamberFollow, CamberPresets
from hypsos.core.recipes.canards import Canards
from hypsos.core.recipes.corrections import CoordinatedTurn, KnifeEdge, ThrottleRudder, ThrustLine
from hypsos.core.recipes.crow import Airbrakes, Crow
from hypsos.core.recipes.differential_thrust import DifferentialThrust
from hypsos.core.recipes.drag_rudders import DragRudders
from hypsos.core.recipes.elevons import Elevons
from hypsos.core.recipes.flap_positions import Flaperons, Flaps
from hypsos.core.recipes.gear import GearWithDoors
from hypsos.core.recipes.motor_switch import MotorSwitch
from hypsos.core.recipes.recipe_base import Amount, Ground, MadeLine, Parameter, RecipeBase
from hypsos.core.recipes.snap_flap import SnapFlap
from hypsos.core.recipes.stick_flaps import StickFlaps
from hypsos.core.recipes.stick_scaling import StickScaling
from hypsos.core.recipes.tailplane import DifferentialTailplane
from hypsos.core.recipes.v_tail import VTail

RECIPES: tuple[type[RecipeBase], ...] = (
    Ailerons, Flaperons, Flaps, VTail, Elevons, Canards, DifferentialTailplane, DragRudders, Crow, Airbrakes, StickFlaps,
    SnapFlap, CamberFollow, CoordinatedTurn, ThrustLine, ThrottleRudder, KnifeEdge, MotorSwitch, DifferentialThrust,
    CamberPresets, GearWithDoors, StickScaling,
)  # fmt: skip
"""In the order in which they are offered."""

if TYPE_CHECKING:
    Recipe: TypeAlias = RecipeBase
else:
    Recipe = Annotated[Union[RECIPES], Discriminator("kind")]  # noqa: UP007 - made from the list

__all__ = [
    "RECIPES",
    "Ailerons",
    "Airbrakes",
    "Amount",
    "CamberFollow",
    "CamberPresets",
    "Canards",
    "CoordinatedTurn",
    "Crow",
    "DifferentialTailplane",
    "DifferentialThrust",
    "DragRudders",
    "Elevons",
    "Flaperons",
    "Flaps",
    "GearWithDoors",
    "Ground",
    "KnifeEdge",
    "MadeLine",
    "MotorSwitch",
    "Parameter",
    "Recipe",
    "RecipeBase",
    "SnapFlap",
    "StickFlaps",
    "StickScaling",
    "ThrottleRudder",
    "ThrustLine",
    "VTail",
]
