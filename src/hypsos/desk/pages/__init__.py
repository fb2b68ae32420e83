# SPDX-License-Identifier: GPL-3.0-or-later
"""The steps' pages. A step is a line in the core's ``STEPS`` and a file here named after its key,
with a page of that key."""

from __future__ import annotations

from importlib import import_module

from PyQt6.QtWidgets import QWidget

from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.services.workbench import Workbench


def make_page(key: str, workbench: Workbench, parent: QWidget) -> StepPage:
    """The page of a step; its module is loaded when the page is first wanted. Made where it will
    stand: to move a page there afterwards dresses everything on it once more."""
    module = import_module(f"hypsos.desk.pages.{key}_page")
    kinds = (x for x in vars(module).values() if isinstance(x, type) and issubclass(x, StepPage))
    return next(kind for kind in kinds if kind.key == key)(workbench, parent)
