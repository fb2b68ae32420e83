"""Behaviour in the pilot's words. A new one is a file here and a line in ``RECIPES``."""

from typing import TYPE_CHECKING, Annotated, TypeAlias, Union

from pydantic import Discriminator

from hypsos.core.recipes.ailerons import Ailerons
from hypsos.core.recipes.base import Ground, MadeLine, Parameter, RecipeBase
from hypsos.core.recipes.canards import Canards
from hypsos.core.recipes.elevons import Elevons
from hypsos.core.recipes.flaps import Flaperons, Flaps
from hypsos.core.recipes.thrust import DifferentialThrust
from hypsos.core.recipes.v_tail import VTail

RECIPES: tuple[type[RecipeBase], ...] = (Ailerons, Flaperons, Flaps, VTail, Elevons, Canards, DifferentialThrust)
"""In the order in which they are offered."""

if TYPE_CHECKING:
    Recipe: TypeAlias = RecipeBase
else:
    Recipe = Annotated[Union[RECIPES], Discriminator("kind")]  # noqa: UP007 - made from the list

__all__ = [
    "RECIPES",
    "Ailerons",
    "Canards",
    "DifferentialThrust",
    "Elevons",
    "Flaperons",
    "Flaps",
    "Ground",
    "MadeLine",
    "Parameter",
    "Recipe",
    "RecipeBase",
    "VTail",
]
