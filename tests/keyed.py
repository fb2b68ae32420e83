# SPDX-License-Identifier: GPL-3.0-or-later
"""Sheets of models on transmitters, for tests."""

from __future__ import annotations

from hypsos.core.document.document import Model
from hypsos.core.edits.transmitters import shipped, transmitter_of
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools.keying import Keying, keying
from hypsos.core.schools.proof import Prover
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


def proven_on_all(model: Model) -> list[int]:
    """Key a model, all of its leads plugged in, into every transmitter that ships, and play a good
    part of the proof; the number of lacks on each."""
    leads = [lead.changed({"port": place + 1}) for place, lead in enumerate(model.leads)]
    plugged = model.changed({"leads": tuple(leads)})
    lacks = []
    for profile in shipped():
        made = keying(plugged, profile)
        exact, rounded = made.radio(made.exact), made.radio(made.settings)
        found = Prover(made.reduced.model, exact, rounded).run(0.15, in_minutes=False)
        assert found.fault is None and found.situations > 20 and found.rounding.us < 5.0
        lacks.append(len(made.reduced.lacks))
    return lacks
