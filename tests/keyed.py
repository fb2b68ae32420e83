# SPDX-License-Identifier: GPL-3.0-or-later
"""Sheets of models on transmitters, for tests."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.edits.transmitters import shipped, transmitter_of
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.keying import Keying, keying
from hypsos.core.sheet import Sheet, make_sheet, sheet_markdown


def transmitter(name: str) -> Profile:
    """One that ships."""
    return next(p for p in shipped() if p.name == name)


def keyed_on(model: Model, name: str = "") -> Keying:
    """A model on a transmitter that ships; without a name on its own one."""
    return keying(model, transmitter(name) if name else transmitter_of(model, ()))


def sheet_of(model: Model, name: str = "") -> Sheet:
    """Its sheet, without what takes its time."""
    return make_sheet(model, keyed_on(model, name))


def sheet_text(model: Model, name: str = "") -> str:
    """The same as text, without the marks that keep a text a text."""
    return sheet_markdown(sheet_of(model, name)).replace("\\", "")
