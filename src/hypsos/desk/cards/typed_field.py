# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a figure of the document stands that a pilot may type in millimetres or degrees."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from contextlib import AbstractContextManager

from hypsos.core.base.errors import DocumentError
from hypsos.core.document.document import Model
from hypsos.core.document.paths import get_at
from hypsos.core.fitting.typed_figures import typed_at
from hypsos.core.parts.typed_figure import TypedFigure
from hypsos.desk.services.workbench import Workbench

Places = Callable[[Model], Iterable[tuple[str, str]]]
"""Of a model, the paths of a figure, each with the surface whose edge is measured; the first is
the one that is shown."""


class TypedInDocument:
    """The figure is kept as it was typed, and shown so while that is true."""

    def __init__(self, workbench: Workbench, places: Places) -> None:
        self.workbench, self._places = workbench, places

    def shown(self) -> tuple[float, str] | None:
        """What was typed, signed, and its unit, where that is still true."""
        model = self.workbench.model
        if model is None or not model.typed:
            return None
        for path, _ in self._places(model):
            found = typed_at(model, path)
            return None if found is None else (found.value, found.unit)
        return None

    def typing(self, value: float, unit: str) -> AbstractContextManager[None]:
        """What is put inside was typed so."""

        def figures(model: Model) -> list[TypedFigure]:
            made = []
            for path, surface in self._places(model):
                try:
                    percent = float(get_at(model, path))
                except DocumentError:
                    continue
                made.append(
                    TypedFigure(path=path, surface=surface, unit=unit, value=value, percent=percent)
                )
            return made

        return self.workbench.document.typed(figures)
