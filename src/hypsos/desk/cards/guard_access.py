# SPDX-License-Identifier: GPL-3.0-or-later
"""The guard of the model on the bench, for the cards of *Make the motor safe*."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hypsos.core.base.lookup import GoneError
from hypsos.core.document.program import Guard

if TYPE_CHECKING:
    from hypsos.desk.services.workbench import Workbench


def the_guard(workbench: Workbench) -> Guard:
    """The guard as it is now. Raises GoneError where the model has no motor any more."""
    guard = workbench.loaded.program.guard
    if guard is None:
        raise GoneError
    return guard
