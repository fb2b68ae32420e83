# SPDX-License-Identifier: GPL-3.0-or-later
"""Input that nobody should send: one sentence, in good time, nothing changed."""

from __future__ import annotations

import json
import os
import random
import re
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from hypsos.core.base.errors import HypsosError
from hypsos.core.checking.reader import file_problems
from hypsos.core.document.document import Model, to_json
from hypsos.core.document.paths import get_at, with_at
from hypsos.core.scenarios.moves_csv import MOST_ROWS, read_moves

HYPSOS = str(Path(sys.executable).with_name("hypsos"))


def run(*arguments: Any, cwd: Any, **kwargs: Any) -> Any:
    environment = (
        os.environ | {"HYPSOS_HANGAR": str(cwd / "hangar.sqlite3")} | kwargs.pop("env", {})
    )
    return subprocess.run(
        [HYPSOS, *arguments],
        cwd=cwd,
        env=environment,
        text=True,
        capture_output="stdout" not in kwargs,
        timeout=60,
        **kwargs,
    )


def one_sentence(text: str) -> bool:
    return (
        text.count("\n") <= 1
        and "Traceback" not in text
        and "pydantic" not in text
        and len(text) < 900
    )


def grown(samphire: Model, change: Any) -> Any:
    data = json.loads(to_json(samphire))
    change(data)
    return json.dumps(data)


LARGE = {
    "a million bad mixes": lambda d: d["program"].update(mixes=[{}] * 1_000_000),
    "more surfaces than an aeroplane has": lambda d: d["airframe"].update(
        surfaces=d["airframe"]["surfaces"] * 1000
    ),
    "thousands of latches": lambda d: d["program"].update(
        logic=[
            {"kind": "latch", "name": f"l{i}", "set": f"l{(i + 1) % 5000}", "reset": "link"}
            for i in range(5000)
        ]
    ),
    "thousands of Y-leads": lambda d: d.update(
        y_leads=[{"first": "elevator", "second": "rudder"}] * 5000
    ),
    "a name of ten megabytes": lambda d: d.update(name="n" * 10_000_000),
    "a chain of lines": lambda d: d["program"].update(
        mixes=[{"name": "m", "target": f"s{i}", "source": f"s{i + 1}"} for i in range(1500)],
        signals=[{"name": f"s{i}", "label": "s"} for i in range(1501)],
    ),
    "a number of five thousand digits": lambda d: d["receiver"].update(number=10**400),
}


@pytest.mark.parametrize("what", LARGE)
def test_what_is_too_large_is_refused_at_once(samphire: Model, what: Any) -> None:
    text = grown(samphire, LARGE[what])
    if "digits" in what:
        text = text.replace("1" + "0" * 400, "1" + "0" * 5000)
    found = file_problems(text, "f.json")
    assert (
        "at most" in found[0] or "too many digits" in found[0]
    )  # counted before anything else is looked at
    assert all(one_sentence(x) for x in found)


def test_the_largest_model_that_is_allowed_is_looked_at_once(
    samphire: Model, monkeypatch: pytest.MonkeyPatch
) -> None:
    """116 surfaces in 60 recipes, 56 Y-leads, 490 lines, 500 latches in a circle: each recipe is
    expanded a few times, not once for every pair of anything."""
    from hypsos.core.recipes import Ailerons

    def change(d: Any) -> None:
        surface, lead = d["airframe"]["surfaces"][0], d["leads"][0]
        many = [
            surface
            | {
                "name": f"s{i}",
                "label": f"S{i}",
                "side": ("right", "left")[i % 2],
                "start_mm": 5.0 * (i // 2) + 1,
                "end_mm": 5.0 * (i // 2) + 5,
                "chord_mm": 20.0,
            }
            for i in range(116)
        ]
        parts = (
            many
            + d["airframe"]["surfaces"][2:]
            + d["airframe"]["motors"]
            + d["airframe"]["devices"]
        )
        d["airframe"]["surfaces"] = many + d["airframe"]["surfaces"][2:]
        loose = {"port": None, "seen_right": None}
        d["leads"] = [
            lead | loose | {"name": x["name"], "label": x["label"], "target": x["name"]}
            for x in parts
        ]
        names = [x["name"] for x in many]
        d["y_leads"] = [
            {"first": names[i + k], "second": names[i + k + 2]}
            for i in range(0, 112, 4)
            for k in (0, 1)
        ]
        sides = {"left": names[1::2], "right": names[::2]}
        p = d["program"]
        p["announcements"], p["timers"] = [], []
        p["recipes"] = [{"kind": "ailerons", "label": f"A{i}"} | sides for i in range(60)]
        p["signals"] = [{"name": f"q{i}", "label": "s"} for i in range(100)]
        p["mixes"] += [
            {"name": "m", "target": f"q{i % 99}", "source": f"q{i % 99 + 1}"} for i in range(490)
        ]
        p["logic"] = [
            {"kind": "latch", "name": f"l{i}", "set": f"l{(i + 1) % 500}", "reset": "link"}
            for i in range(500)
        ]

    calls = []
    plain = Ailerons.expand
    monkeypatch.setattr(
        Ailerons,
        "expand",
        lambda self, controls: (calls.append(1), plain(self, controls))[1],  # type: ignore[func-returns-value]
    )  # type: ignore[func-returns-value]
    assert file_problems(grown(samphire, change), "f") == [] and len(calls) <= 4 * 60


SENTENCES = [
    ('{"format": "hypsos-model", "schema_version": 4, "name": "\\ud83d"}', "broken in half"),
    ('{"format": "hypsos-model", "schema_version": true, "name": "x"}', "schema_version"),
    (
        '{"format": "hypsos-model", "schema_version": 4, "name": "a\\u0000b"}',
        "without control characters",
    ),
    ('{"format": "hypsos-model", "schema_version": 1e400}', "schema_version"),
    ("[" * 100_000, "nested too deeply"),
    ('{"format": "hypsos-model", "schema_version": -5, "name": "x"}', "schema_version"),
    (
        '{"format": "hypsos-model", "schema_version": 1, "\\ud83d": 3, "x\\u001b[31m": 1}',
        "broken in half",
    ),
]


@pytest.mark.parametrize(("text", "said"), SENTENCES)
def test_each_finding_is_one_sentence_of_ours(tmp_path: Path, text: Any, said: Any) -> None:
    (tmp_path / "f.json").write_text(text)
    done = run("check", "f.json", cwd=tmp_path)
    assert done.returncode == 1 and said in done.stdout and done.stderr == ""
    assert all(one_sentence(x) and x.isprintable() for x in done.stdout.splitlines())


SIGNS = ('"', "9", "-", "", "null", "é", "{", "e5", ",", "\x00", "true")


def test_mutated_files_are_opened_or_refused_with_a_sentence(
    marram: Model, samphire: Model
) -> None:
    """Signs changed, cut out, doubled: never anything but a sentence."""
    dice = random.Random(7)
    for text in (to_json(marram), to_json(samphire)):
        for _ in range(60):
            cut = list(text)
            for _ in range(dice.choice((1, 1, 3, 20))):
                at = dice.randrange(len(cut))
                cut[at : at + dice.choice((0, 1, 1, 8))] = dice.choice(
                    ('"', "9", "-", "", "null", "é", "{", "e5", ",", "\x00", "true")
                )
            assert all(one_sentence(x) for x in file_problems("".join(cut), "f"))


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("t_s,rudder_stick\n0," + "9" * 200_000 + "\n", "row 2"),
        ('t_s,rudder_stick\n0,"5\n1,2\n', "row 2"),
        ("t_s,rudder_stick\n0,1e999\n", "row 2, column 2: 1e999 is not a number that can be used"),
        ("t_s,rudder_stick\n0,nan\n", "nan is not a number"),
        ("t_s,link_quality\n0,101\n", "It takes a number from 0 to 100"),
        ("t_s," + "x" * 10_000 + "\n0,1\n", "there is no control called xxx"),
        ("t_s,rudder_stick\n" + "0,0\n" * (MOST_ROWS + 5), "more than 400,000 rows"),
        ("t_s,rudder_stick\n0,1\n9000,2\n", "longer than two hours"),
    ],
)
def test_moves_that_cannot_be_read(samphire: Model, text: Any, said: Any) -> None:
    with pytest.raises(HypsosError) as caught:
        read_moves(text, samphire)
    assert said in str(caught.value) and one_sentence(str(caught.value))


def test_a_full_disk_at_the_other_end_of_the_output(tmp_path: Path) -> None:
    with open("/dev/full", "w") as full:
        done = run("--demo", "schema", cwd=tmp_path, stdout=full, stderr=subprocess.PIPE)
    assert done.returncode == 2 and "No space left" in done.stderr and one_sentence(done.stderr)


def test_a_missing_folder_for_passing_files_and_a_pipe(tmp_path: Path) -> None:
    done = run("--demo", "models", cwd=tmp_path, env={"TMPDIR": str(tmp_path / "gone")})
    assert done.returncode == 0 and "Marram" in done.stdout
    os.mkfifo(tmp_path / "pipe")
    done = run("check", "pipe", cwd=tmp_path)
    assert (
        done.returncode == 2 and "a pipe or a device" in done.stderr and one_sentence(done.stderr)
    )


def test_a_damaged_model_is_listed_and_exported_as_it_is(tmp_path: Path) -> None:
    import sqlite3

    run("--demo", "export", "Samphire", "s.json", cwd=tmp_path)
    run("import", "s.json", cwd=tmp_path)
    db = sqlite3.connect(tmp_path / "hangar.sqlite3")
    db.execute("INSERT INTO models (name, document) VALUES ('Broken', '{\"half')")
    db.commit()
    db.close()
    done = run("models", cwd=tmp_path)
    assert (
        done.returncode == 1
        and "Samphire" in done.stdout
        and done.stderr.startswith("Broken cannot be read")
    )
    done = run("export", "Broken", "b.json", cwd=tmp_path)
    assert done.returncode == 0 and (tmp_path / "b.json").read_text() == '{"half'


FOREIGN = (
    "Input should", "String should", "Value error", "valid ", "pydantic", "validation", "cannot be used", "type=", "dict",
    "tuple", "instance", "Field required", "Extra inputs", "NoneType",
)  # fmt: skip


WRONG: Any = (None, "", "x" * 5000, "a\x00b", -1e9, 1e9, 0.5, [], {}, {"kind": "odd"}, [[1]], True)


def test_every_refusal_is_in_our_own_words(marram: Model) -> None:
    """Each kind of field of the largest demo model, one of each kind of thing in it, with each kind
    of wrong value."""

    def one_of_each(x: Any) -> Any:
        if isinstance(x, dict):
            return {k: one_of_each(v) for k, v in x.items()}
        if isinstance(x, list) and x and isinstance(x[0], dict):
            kinds = {y.get("kind"): y for y in reversed(x)}
            return [one_of_each(y) for y in kinds.values()]
        return x

    whole = json.loads(to_json(marram))
    whole["program"]["logic"] += [{"kind": "pulse", "name": "p", "of": "link", "seconds": 1}]
    whole = one_of_each(whole)
    seen: set[str] = set()

    def walk(at: Any, put: Any, path: str) -> None:
        if path in seen and not isinstance(at, dict | list):
            return
        seen.add(path)
        for wrong in (
            WRONG[len(seen) % 2 :: 2] if path else ()
        ):  # every other one: each kind of field comes several times
            put(wrong)
            for text in file_problems(json.dumps(whole), "file"):
                said = text.split(":", 1)[1]
                assert not any(w in said for w in FOREIGN) and len(text) < 400, (path, wrong, text)
        if path:
            put(at)
        keys = {k: k for k in at} if isinstance(at, dict) else {}
        if isinstance(at, list):  # one of each kind
            keys = {x.get("kind") if isinstance(x, dict) else "": i for i, x in enumerate(at)}
        for name, key in keys.items():
            walk(at[key], lambda new, at=at, key=key: at.__setitem__(key, new), f"{path}.{name}")

    walk(whole, lambda new: None, "")
    assert len(seen) > 250


@pytest.mark.parametrize(
    "path", ["airframe.kind", "name", "leads[0].label", "program.axes[0].settings[0].expo"]
)
def test_a_refused_field_is_said_without_paths(marram: Model, path: Any) -> None:
    with pytest.raises(HypsosError) as refused:
        with_at(marram, path, "" if isinstance(get_at(marram, path), str) else 900.0)
    said = refused.value.plain
    assert (
        not re.search(r"[a-z]\.[a-z]", said)
        and "[" not in said
        and said[0].isupper()
        and said.startswith("The ")
    )
