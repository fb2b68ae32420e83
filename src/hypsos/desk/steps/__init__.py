"""The steps' pages. A new step is a file here and a line in ``PAGES``."""

from __future__ import annotations

from importlib import import_module

from hypsos.desk.steps.base import StepPage
from hypsos.desk.workbench import Workbench

PAGES = {
    "model": ("model", "ModelPage"),
    "airframe": ("airframe", "AirframePage"),
    "wiring": ("wiring", "WiringPage"),
    "guard": ("guard", "GuardPage"),
    "directions": ("directions", "DirectionsPage"),
    "throws": ("throws", "ThrowsPage"),
    "feel": ("feel", "FeelPage"),
    "flaps": ("flaps", "FlapsPage"),
    "failsafe": ("failsafe", "FailsafePage"),
    "sheet": ("sheet", "SheetPage"),
    "log": ("log", "LogPage"),
}
"""Step -> (module, class): a page's module is loaded when the page is first wanted."""


def make_page(key: str, workbench: Workbench) -> StepPage:
    """The page of a step."""
    module, name = PAGES[key]
    made: StepPage = getattr(import_module(f"hypsos.desk.steps.{module}"), name)(workbench)
    return made
