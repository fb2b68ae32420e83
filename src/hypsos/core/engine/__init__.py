# SPDX-License-Identifier: GPL-3.0-or-later
"""One evaluator for the bench, the plots, the command line, the sheet and every search.

A model is compiled once into a :class:`~hypsos.core.engine.plan.Plan`; the plan runs over arrays
whose last axis is time and whose other axes are independent situations."""

from hypsos.core.engine.plan import Plan, compile_plan
from hypsos.core.engine.result import Contribution, Result, Trace
from hypsos.core.engine.situation import Situation
from hypsos.core.parts.guard_states import GuardState

__all__ = ["Contribution", "GuardState", "Plan", "Result", "Situation", "Trace", "compile_plan"]
