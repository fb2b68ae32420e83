# SPDX-License-Identifier: GPL-3.0-or-later
"""Faulty models: small patches on the demo models, with what a shakedown must find in each."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, NamedTuple

from hypsos.core.checking.checks import first_problem
from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model
from hypsos.core.parts.transmitter_profile import Profile
from hypsos.core.review.findings import Ask

DATA = Path(__file__).parent / "data"
DEMO = Path(__file__).parent.parent / "src" / "hypsos" / "demo"


FAR_DOWN = {
    "samphire": ((0.0, 0.0), (35.0, 4.0), (90.0, 9.0)), "skerry": ((0.0, 0.0), (35.0, 3.0), (85.0, 7.0)),
}  # fmt: skip
"""Flaperons further down than the demo's: then there is less room, and faults show."""


class Faulty(NamedTuple):
    """A patch, and (statement, part) of everything that must be found; a part * stands for any.
    ``says``: of each the level, the sentence, the way in words, and what mends it, with the places
    and the values of the document that this changes."""

    model: str
    patch: dict[Any, Any]
    finds: list[Any]
    says: list[Any]

    def ask(self) -> Ask:
        data = json.loads((DEMO / f"{self.model}.model.json").read_text(encoding="utf-8"))
        data["not_asked"] = {}
        for i, (flap, elevator) in enumerate(FAR_DOWN.get(self.model, ())):
            place(data, keys("program.recipes[1].positions"))[i] |= {
                "flap": flap,
                "elevator": elevator,
            }
        for path, value in self.patch.get("set", {}).items():
            *way, last = keys(path)
            place(data, way)[last] = value
        for path, value in self.patch.get("add", {}).items():
            found = place(data, keys(path)[:-1]).setdefault(keys(path)[-1], [])
            found += value if isinstance(value, list) else [value]
        for path in self.patch.get("cut", []):
            *way, last = keys(path)
            del place(data, way)[last]
        profile = self.patch.get("profile")
        model = from_json(json.dumps(data))
        assert first_problem(model) is None
        return Ask(model, Profile(**profile) if profile else None, self.patch.get("others", {}))


def keys(path: str) -> list[Any]:
    return [
        int(x) if x.isdigit() else x for x in path.replace("[", ".").replace("]", "").split(".")
    ]


def place(data: Any, way: Any) -> Any:
    for key in way:
        data = data[key]
    return data


def faulty_cases() -> list[Faulty]:
    found = json.loads((DATA / "faulty.json").read_text(encoding="utf-8"))
    return [Faulty(x["model"], x, x["finds"], x["says"]) for x in found]


def demo_model(name: str) -> Model:
    return from_json((DEMO / f"{name}.model.json").read_text(encoding="utf-8"))


def changes(before: Model, after: Model) -> dict[Any, Any]:
    """Path -> value of everything that is another in a second model; what is gone is None."""
    out: dict[Any, Any] = {}

    def compare(path: str, a: object, b: object) -> None:
        if isinstance(a, dict) and isinstance(b, dict):
            for key in sorted({*a, *b}):
                compare(f"{path}.{key}", a.get(key), b.get(key))
        elif isinstance(a, list) and isinstance(b, list) and len(a) == len(b):
            for i, (x, y) in enumerate(zip(a, b, strict=True)):
                compare(f"{path}[{i}]", x, y)
        elif a != b:
            out[path.removeprefix(".")] = b if not isinstance(b, list) else len(b)

    compare("", json.loads(before.model_dump_json()), json.loads(after.model_dump_json()))
    return out
