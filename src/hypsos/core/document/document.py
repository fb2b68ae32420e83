# SPDX-License-Identifier: GPL-3.0-or-later
"""The model: one frozen value that holds everything, what is saved, and its way in and out of
JSON."""

from collections.abc import Callable
from typing import Annotated, Any, Literal, TypeVar, get_args

from pydantic import AfterValidator, Field, StringConstraints, ValidationError

from hypsos.core.base.validation_messages import field_error
from hypsos.core.base.values import Label, Note, Value, one_line
from hypsos.core.document.paths import clean, join_path
from hypsos.core.document.program import Program
from hypsos.core.parts.airframe import Airframe
from hypsos.core.parts.leads import Lead, Receiver, YLead
from hypsos.core.parts.scenario import Scenario
from hypsos.core.parts.transmitter import Transmitter
from hypsos.core.parts.typed_figure import TypedFigure

SCHEMA_VERSION = 4
FORMAT = "hypsos-model"
LARGEST = 2_000_000
"""Letters in a model file; the largest aeroplane has a twentieth of it."""
MOST_ERRORS = 200


Proposable = Literal["airframe", "hands", "guard", "feel", "flaps", "failsafe"]


StatementName = Annotated[str, StringConstraints(pattern="^[MFSLWG][1-9]$")]
Reason = Annotated[
    str,
    StringConstraints(min_length=1, max_length=200, strip_whitespace=True),
    AfterValidator(one_line),
]


class Model(Value):
    """One aeroplane with everything that is programmed for it.

    ``proposed``: steps whose figures nobody has changed or confirmed yet. ``sheet_of``: the digest
    of what the sheet said when it was last written. ``not_asked``: statements of the shakedown that
    this model is not asked about, each with its reason. ``typed``: figures that were typed in
    millimetres or degrees, beside the percent in their places."""

    format: Literal["hypsos-model"] = "hypsos-model"
    schema_version: Literal[4] = 4
    name: Label
    note: Note = ""
    airframe: Airframe
    # made by the model's own validator
    transmitter: Transmitter = Field(default={}, validate_default=True)
    receiver: Receiver = Field(default={}, validate_default=True)
    leads: Annotated[tuple[Lead, ...], Field(max_length=200)] = ()
    y_leads: Annotated[tuple[YLead, ...], Field(max_length=100)] = ()
    program: Program = Field(default={}, validate_default=True)
    scenarios: Annotated[tuple[Scenario, ...], Field(max_length=20)] = ()
    proposed: Annotated[tuple[Proposable, ...], Field(max_length=len(get_args(Proposable)))] = ()
    sheet_of: Annotated[str, StringConstraints(pattern="^[0-9a-f]{0,16}$")] = ""
    typed: Annotated[tuple[TypedFigure, ...], Field(max_length=200)] = ()
    not_asked: Annotated[dict[StatementName, Reason], Field(max_length=30)] = {}


def digest(model: Model) -> str:
    """Sixteen hexadecimal digits that are other ones whenever what is to be keyed in may be."""
    from hashlib import sha256

    keyed = tuple(_as_keyed_in(x) for x in model.leads)
    bare = model.changed(
        {
            "note": "",
            "proposed": (),
            "sheet_of": "",
            "scenarios": (),
            "not_asked": {},
            "typed": (),
            "leads": keyed,
        }
    )
    left_out = {
        key for key in ("transmitter", "receiver", "program") if _untouched(getattr(bare, key))
    }
    return sha256(
        bare.model_dump_json(exclude_defaults=True, exclude=left_out).encode()
    ).hexdigest()[:16]


def _as_keyed_in(lead: Lead) -> Lead:
    """A lead without what the pilot only says of it."""
    made = lead.changed({"waits_for_idle": False}) if lead.waits_for_idle else lead
    if made.failsafe is not None and made.failsafe.meant:
        made = made.changed({"failsafe": made.failsafe.changed({"meant": False})})
    return made


def _untouched(part: Value) -> bool:
    return all(
        value == type(part).model_fields[key].get_default(call_default_factory=True)
        for key, value in part
    )


V = TypeVar("V")


def checked(make: Callable[[], V]) -> V:
    """What ``make`` makes. Raises DocumentError, with the first finding in our words, where a value
    in it is not allowed."""
    try:
        return make()
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where = clean(join_path(first["loc"]))
        raise field_error(first, where, "Nothing was changed.") from error


def to_json(model: Model) -> str:
    """The model as indented JSON text."""
    return model.model_dump_json(indent=1) + "\n"


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the model file."""
    return Model.model_json_schema()
