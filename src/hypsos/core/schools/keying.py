# SPDX-License-Identifier: GPL-3.0-or-later
"""A design on a transmitter, from the first step to the proof."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from pydantic import ValidationError

from hypsos.core.base.errors import DocumentError
from hypsos.core.base.validation_messages import field_error
from hypsos.core.document.document import Model
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.schools import Reduced, School, reduced, school_named, translated
from hypsos.core.schools.proof import Progress, Prover, TranslationProof, silent
from hypsos.core.schools.proof_memory import Pair, ProofMemory
from hypsos.core.schools.ruler import Ruler


class Keying(NamedTuple):
    """What is keyed in: the ``design``, the transmitter, the design as it can have it with what it
    lacks, and its settings, as they are typed and as finely as one likes."""

    design: Model
    profile: Profile
    reduced: Reduced
    settings: Any
    exact: Any

    @property
    def school(self) -> School:
        """The school of the transmitter."""
        return school_named(self.profile.school)

    def at_rest(self) -> dict[str, float]:
        """Where the switches stand that nobody has moved: where those of the design do, by the names
        of their positions. On the transmitter these may begin at the other end."""
        there = self.reduced.model.transmitter
        found = {}
        for control in self.design.transmitter.controls:
            mine = there.control(control.name)
            if control.is_switch and mine is not None and control.positions[0] in mine.positions:
                found[control.name] = float(mine.positions.index(control.positions[0]))
        return found

    def radio(self, settings: Any) -> Any:
        """The small transmitter that settings of this school make. Raises HypsosError where they
        can't work."""
        return self.school.radio(settings)


def keying(model: Model, profile: Profile) -> Keying:
    """A design on a transmitter. Raises HypsosError where it can't be keyed in at all."""
    made = reduced(model, profile)
    try:
        settings, exact = translated(made, profile), translated(made, profile, exact=True)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = ".".join(map(str, first["loc"]))
        raise field_error(first, where, "It is more than can be keyed in. Take some of it out.") from error  # fmt: skip
    return Keying(model, profile, made, settings, exact)


def proved(
    made: Keying,
    other: Any = None,
    told: Progress = silent,
    stopped: Callable[[], bool] = lambda: False,
    memory: ProofMemory | None = None,
) -> TranslationProof:
    """Play the design against its settings, and ``other`` settings against these. With a ``memory``,
    and no other settings, what was proved before is not played again.

    Raises DocumentError where the other settings are of another model or school, or nothing is
    plugged in to compare them by."""
    if other is not None:
        _belongs(made, other)
        _sends(made)
    exact, rounded = made.radio(made.exact), made.radio(made.settings)
    theirs = made.radio(other) if other is not None else None
    if memory is not None and theirs is None:
        pair = Pair(made.reduced.model, exact, rounded)
        return memory.proved(pair, told, stopped)
    # settings that are the same to the letter need not be played twice
    theirs = None if theirs == rounded else theirs
    return Prover(made.reduced.model, exact, rounded, theirs, told, stopped).run()


def _sends(made: Keying) -> None:
    """Raise DocumentError where no output sends anything: then any settings would be the same."""
    if not Ruler(made.reduced.model).leads:
        raise DocumentError(
            f"nothing of {made.reduced.model.name} is plugged in, so there is no pulse to compare",
            "leads",
            "Plug the leads in first.",
        )


def _belongs(made: Keying, other: Any) -> None:
    name = made.reduced.model.name
    if other.model != name:
        raise DocumentError(
            f"these are the settings of {other.model}, not of {name}",
            "model",
            "Choose the settings of this model.",
        )
    if other.school != made.profile.school:
        raise DocumentError(
            f"these settings are {other.school}, and {made.profile.name} thinks {made.profile.school}",
            "school",
            "Choose settings of the same school.",
        )
