# SPDX-License-Identifier: GPL-3.0-or-later
"""What the commands about transmitters share: transmitters by name, settings files, proofs in
words."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from hypsos.cli_common import opened, read_model, shown
from hypsos.core.base.errors import HypsosError

if TYPE_CHECKING:
    from hypsos.core.document.document import Model
    from hypsos.core.parts.transmitter_profile import Profile
    from hypsos.core.schools.keying import Keying
    from hypsos.core.schools.proof import PulseDifference, TranslationProof


def known_transmitters(demo: bool) -> list[Profile]:
    """The transmitters that ship, and those of the pilot's own."""
    from hypsos.core.edits.transmitters import shipped
    from hypsos.hangar.places import user_hangar

    if demo or user_hangar().exists():
        with opened(demo) as hangar:
            return hangar.transmitters()
    return list(shipped())


def transmitter_named(name: str, demo: bool) -> Profile:
    """A transmitter by its name. Raises HypsosError that lists those there are."""
    known = known_transmitters(demo)
    for profile in known:
        if profile.name.casefold() == name.casefold():
            return profile
    listed = ", ".join(p.name for p in known)
    raise HypsosError(
        f"there is no transmitter called {name}", "--transmitter", f"There is {listed}."
    )


def keyed(model_name: str, transmitter: str, demo: bool) -> tuple[Model, Keying]:
    """A model, and what of it is keyed into a transmitter: the one of this name, or without a name
    the one that the model has taken."""
    from hypsos.core.edits.transmitters import OWN, transmitter_of
    from hypsos.core.schools.keying import keying

    model = read_model(model_name, demo)
    if transmitter and transmitter != OWN:
        return model, keying(model, transmitter_named(transmitter, demo))
    return model, keying(model, transmitter_of(model, known_transmitters(demo)))


def read_settings(path: Path) -> Any:
    """The settings in a file. Raises HypsosError."""
    from hypsos.core.schools.settings_reader import LARGEST, settings_from_json
    from hypsos.hangar.files import read_text

    return settings_from_json(read_text(path, LARGEST), path.name)


def played(made: Keying, other: Any = None) -> TranslationProof:
    """The proof, with how far it is on stderr."""
    from hypsos.core.schools.keying import proved

    return proved(made, other, shown("Playing both"))


def motors_lack(model: Model, made: Keying) -> None:
    """Raise HypsosError where a transmitter lacks what keeps motors safe: that is to be read
    first."""
    motors = [x for x in made.reduced.lacks if x.motor]
    if not motors:
        return
    from hypsos.core.schools.on_paper.paper_names import capitalized

    listed = " ".join(f"{capitalized(x.need)}: {x.instead}" for x in motors)
    raise HypsosError(
        f"{made.profile.name} lacks {len(motors)} of what keeps {model.name}'s motors safe. {listed}",
        "--transmitter",
        "Read this, and run it again with --seen.",
    )


def proof_json(made: Keying, found: TranslationProof) -> dict[str, Any]:
    """A proof as the command line writes it."""
    worst = found.fault or found.difference
    return {
        "model": made.reduced.model.name,
        "transmitter": made.profile.name,
        "school": made.profile.school,
        "equal": worst is None,
        "situations": found.situations,
        "seconds": round(found.seconds, 1),
        "rounding": found.rounding._asdict(),
        "curves": [x._asdict() for x in made.reduced.near],
        "lacks": [x._asdict() for x in made.reduced.lacks],
        "fault": _difference_json(found.fault),
        "difference": _difference_json(found.difference),
    }


def _difference_json(x: PulseDifference | None) -> dict[str, Any] | None:
    if x is None:
        return None
    sequence = [{"t_s": round(a.t_s, 4), "set": a.control, "to": a.to} for a in x.way]
    fields = {k: v for k, v in x._asdict().items() if k != "way"}
    return {**fields, "sequence": sequence}
