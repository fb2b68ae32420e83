# SPDX-License-Identifier: GPL-3.0-or-later
"""A figure of the document as a pilot typed it: in millimetres or degrees."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from hypsos.core.base.values import Name, Value

DocumentPath = Annotated[str, StringConstraints(pattern=r"^[a-z0-9_.\[\]]{1,200}$")]


class TypedFigure(Value):
    """Kept beside the percent that it came to. What is flown goes by the percent alone.

    ``path``: where the percent stands in the document. ``surface``: whose edge is measured.
    ``value``: in ``unit``, + is down or right. ``percent``: what stood at the path then. Where
    something else stands there now, nobody asks this any more."""

    path: DocumentPath
    surface: Name
    unit: Literal["mm", "°"]
    value: Annotated[float, Field(ge=-1000, le=1000)]
    percent: Annotated[float, Field(ge=-1000, le=1000)]
