"""The model: one frozen value that holds everything, what is saved, and its way in and out of JSON."""

import json
from collections.abc import Callable
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, StringConstraints, ValidationError

from hypsos.core.airframe import Airframe
from hypsos.core.errors import DocumentError
from hypsos.core.messages import said
from hypsos.core.migrate import migrated
from hypsos.core.paths import clean, join_path
from hypsos.core.program import Program
from hypsos.core.transmitter import Transmitter
from hypsos.core.values import Label, Note, Value
from hypsos.core.wiring import Lead, Receiver, YLead

SCHEMA_VERSION = 2
FORMAT = "hypsos-model"
LARGEST = 2_000_000
"""Letters in a model file; the largest aeroplane has a twentieth of it."""
MOST_ERRORS = 200


Proposable = Literal["airframe", "guard", "feel", "flaps", "failsafe"]


class Model(Value):
    """One aeroplane with everything that is programmed for it.

    ``proposed``: steps whose figures nobody has changed or confirmed yet. ``sheet_of``: the digest of what the sheet said
    when it was last written.
    """

    format: Literal["hypsos-model"] = "hypsos-model"
    schema_version: Literal[2] = 2
    name: Label
    note: Note = ""
    airframe: Airframe
    transmitter: Transmitter = Field(default_factory=Transmitter)
    receiver: Receiver = Field(default_factory=Receiver)
    leads: Annotated[tuple[Lead, ...], Field(max_length=200)] = ()
    y_leads: Annotated[tuple[YLead, ...], Field(max_length=100)] = ()
    program: Program = Field(default_factory=Program)
    proposed: Annotated[tuple[Proposable, ...], Field(max_length=5)] = ()
    sheet_of: Annotated[str, StringConstraints(pattern="^[0-9a-f]{0,16}$")] = ""


def digest(model: Model) -> str:
    """Sixteen hexadecimal digits that are other ones whenever what is to be keyed in may be."""
    from hashlib import sha256

    bare = model.model_copy(update={"note": "", "proposed": (), "sheet_of": ""})
    return sha256(bare.model_dump_json().encode()).hexdigest()[:16]


V = TypeVar("V")


def checked(make: Callable[[], V]) -> V:
    """What ``make`` makes. Raises DocumentError, with the first finding in our words, where a value in it is not allowed."""
    try:
        return make()
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        raise DocumentError(said(first), clean(join_path(first["loc"])), "Nothing was changed.") from error


def to_json(model: Model) -> str:
    """The model as indented JSON text."""
    return model.model_dump_json(indent=1) + "\n"


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the model file."""
    return Model.model_json_schema()


def from_json(text: str, source: str = "model file") -> Model:
    """Read a model from JSON text.

    Parameters
    ----------
    text : the file's contents.
    source : what to call it in an error, usually the file's name.

    Raises
    ------
    DocumentError : no JSON, not a model, from a newer version, a field out of bounds, or a name that dangles; the error
        names the place in the document.
    """
    from hypsos.core.checks import first_problem

    model = _parsed(text, source)
    problem = first_problem(model)
    if problem is not None:
        raise DocumentError(problem.text, f"{source}, {problem.path}", problem.remedy)
    return model


def file_problems(text: str, source: str = "model file") -> list[str]:
    """Every reason why a file cannot be used, one sentence each; empty when it is sound."""
    from hypsos.core.checks import problems

    try:
        data = _object(text, source)
        model = Model.model_validate(data)
    except DocumentError as error:
        return [str(error)]
    except ValidationError as error:
        return [str(e) for e in validation_errors(error, source)]
    return [str(DocumentError(p.text, f"{source}, {p.path}", p.remedy)) for p in problems(model)]


def validation_errors(error: ValidationError, source: str) -> list[DocumentError]:
    """Each finding of a failed validation as an error with its path in the document."""
    out = []
    for item in error.errors(include_url=False)[:MOST_ERRORS]:
        path = clean(join_path(item["loc"]))
        where = f"{source}, {path}" if path else source
        out.append(DocumentError(said(item), where, "Correct this field and try again; nothing was changed."))
    return out


def _parsed(text: str, source: str) -> Model:
    try:
        return Model.model_validate(_object(text, source))
    except ValidationError as error:
        raise validation_errors(error, source)[0] from error


def _object(text: str, source: str) -> dict[str, Any]:
    unchanged = "Choose a model file written by Hypsos; nothing was changed."
    if len(text) > LARGEST:
        raise DocumentError(f"a model file has at most {LARGEST:,} letters, this one {len(text):,}", source, unchanged)
    try:
        data = json.loads(text)
    except json.JSONDecodeError as error:
        where = f"{source}, line {error.lineno}, column {error.colno}"
        raise DocumentError("the file is damaged or is not JSON", where, unchanged) from error
    except RecursionError as error:
        raise DocumentError("the file is nested too deeply to be a model", source, unchanged) from error
    except ValueError as error:  # a whole number of thousands of digits
        raise DocumentError("a number in the file has too many digits", source, unchanged) from error
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise DocumentError("this is not a Hypsos model file", source, unchanged)
    version = data.get("schema_version")
    if isinstance(version, int) and version > SCHEMA_VERSION:
        text = f"the file is from a newer Hypsos (format {version}; this one reads up to {SCHEMA_VERSION})"
        raise DocumentError(text, source, "Open it with a newer Hypsos; nothing was changed.")
    return migrated(data)
