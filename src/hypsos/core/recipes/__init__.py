"""Behaviour in the pilot's words. A new one is a file here and a line in ``RECIPES``."""

from typing import Annotated

from pydantic import Discriminator

from hypsos.core.recipes.ailerons import Ailerons
from hypsos.core.recipes.base import MadeLine, RecipeBase
from hypsos.core.recipes.canards import Canards
from hypsos.core.recipes.elevons import Elevons
from hypsos.core.recipes.flaps import Flaperons, Flaps
from hypsos.core.recipes.thrust import DifferentialThrust
from hypsos.core.recipes.v_tail import VTail

RECIPES: tuple[type[RecipeBase], ...] = (Ailerons, Flaperons, Flaps, VTail, Elevons, Canards, DifferentialThrust)

Recipe = Annotated[Ailerons | Flaperons | Flaps | VTail | Elevons | Canards | DifferentialThrust, Discriminator("kind")]

__all__ = [
    "RECIPES",
    "Ailerons",
    "Canards",
    "DifferentialThrust",
    "Elevons",
    "Flaperons",
    "Flaps",
    "MadeLine",
    "Recipe",
    "RecipeBase",
    "VTail",
]
