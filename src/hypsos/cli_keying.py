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


def transmitter_named(name: str, demo: bool) -> Profile:
    """A transmitter that ships, or one of the pilot's own. Raises HypsosError that lists them."""
    from hypsos.core.edits.transmitters import shipped
    from hypsos.hangar.places import user_hangar

    known = list(shipped())
    if demo or user_hangar().exists():
        with opened(demo) as hangar:
            known = hangar.transmitters()
    for profile in known:
        if profile.name.casefold() == name.casefold():
            return profile
    listed = ", ".join(p.name for p in known)
    raise HypsosError(
        f"there is no transmitter called {name}", "--transmitter", f"There is {listed}."
    )


def keyed(model_name: str, transmitter: str, demo: bool) -> tuple[Model, Keying]:
    """A model, and what of it is keyed into a transmitter."""
    from hypsos.core.schools.keying import keying

    model = read_model(model_name, demo)
    return model, keying(model, transmitter_named(transmitter, demo))


def read_settings(path: Path) -> Any:
    """The settings in a file. Raises HypsosError."""
    from hypsos.core.schools.settings_reader import LARGEST, settings_from_json
    from hypsos.hangar.files import read_text

    return settings_from_json(read_text(path, LARGEST), path.name)


def played(made: Keying, other: Any = None) -> TranslationProof:
    """The proof, with how far it is on stderr."""
    from hypsos.core.schools.keying import proved

    return proved(made, other, shown("Playing both"))


def played_words(found: TranslationProof) -> str:
    """What was played, in words."""
    minutes = found.seconds / 60.0
    return f"{found.situations:,} situations, {minutes:,.0f} minutes of moves"


def rounding_words(found: TranslationProof) -> str:
    """What rounding does, in words."""
    x = found.rounding
    if x.us < 0.05:
        return "Rounding to this transmitter's steps changes no pulse."
    said = f"Rounding to this transmitter's steps: up to {x.us:.1f} µs ({x.us_at})"
    if x.mm >= 0.05:
        said += f", {x.mm:.1f} mm ({x.mm_at})"
    return said + "."


def lack_lines(made: Keying) -> tuple[str, ...]:
    """The lacks in lines, those that touch a motor first, each with what it costs."""
    from hypsos.core.schools.costs import priced

    lines = []
    for lack in priced(made.reduced):
        motor = "MOTOR. " if lack.motor else ""
        lines.append(
            f"{motor}Not here: {lack.need} ({lack.have}). {lack.instead} {lack.help}".strip()
        )
        lines += lack.cost
    return tuple(lines)


def difference_words(model: Model, x: PulseDifference) -> str:
    """Where two sides send different pulses, how much, and the way there."""
    from hypsos.core.schools.proof_words import way_in_words

    def pulse(us: float) -> str:
        return f"{us:.0f} µs" if us else "no pulse"

    motor = "MOTOR: " if x.motor else ""
    said = f"{motor}{x.label}: {pulse(x.found_us)} where the design has {pulse(x.wanted_us)}"
    if x.mm is not None and x.mm >= 0.05:
        said += f", {x.mm:.1f} mm elsewhere"
    return f"{said}, after {x.t_s:.2f} s. The way there: {way_in_words(model, x.way)}."


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
