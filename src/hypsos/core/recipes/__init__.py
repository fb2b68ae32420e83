"""Behaviour in the pilot's words. A new one is a file here and a line in ``RECIPES``."""

from __future__ import annotations

from typing import Annotated

from pydantic import Discriminator

from hypsos.core.recipes.ailerons import Ailerons
from hypsos.core.recipes.base import MadeLine, RecipeBase
from hypsos.core.recipes.flaps import Flaperons, Flaps
from hypsos.core.recipes.v_tail import VTail

RECIPES: tuple[type[RecipeBase], ...] = (Ailerons, Flaperons, Flaps, VTail)

Recipe = Annotated[Ailerons | Flaperons | Flaps | VTail, Discriminator("kind")]

__all__ = ["RECIPES", "Ailerons", "Flaperons", "Flaps", "MadeLine", "Recipe", "RecipeBase", "VTail"]
