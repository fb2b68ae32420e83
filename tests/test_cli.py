# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line as a person uses it: output, exit status, one sentence when something is
wrong."""

from __future__ import annotations

import csv
import json
import sys
from importlib import resources
from pathlib import Path
from typing import Any

import pytest

from hypsos.cli import main


@pytest.fixture
def run(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch, tmp_path: Path, qapp: Any
) -> Any:
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("HYPSOS_HANGAR", str(tmp_path / "hangar.sqlite3"))

    def call(*arguments: str) -> tuple[int, str, str]:
        monkeypatch.setattr(sys, "argv", ["hypsos", *arguments])
        with pytest.raises(SystemExit) as left:
            main()
        said = capsys.readouterr()
        return int(left.value.code or 0), said.out, said.err

    return call


def test_models_import_export_check(run: Any, tmp_path: Path) -> None:
    status, out, _ = run("--demo", "models", "--json")
    assert status == 0 and [m["name"] for m in json.loads(out)][:2] == ["Marram", "Samphire"]
    assert run("models")[1].startswith("The hangar is empty")
    assert run("--demo", "export", "Samphire", "s.json")[0] == 0
    status, out, err = run("check", "s.json")
    assert (
        status == 0
        and out.startswith("s.json: sound. It can be read, and its motors are at idle")
        and not err
    )
    assert run("import", "s.json")[0] == 0
    assert "Samphire" in run("models")[1]
    status, _, err = run("import", "s.json")
    assert status == 2 and "already a model called Samphire" in err and err.count("\n") == 1
    damaged = (
        (tmp_path / "s.json")
        .read_text()
        .replace('"port": 5', '"port": 2')
        .replace('"expo": 35.0', '"expo": -900')
    )
    (tmp_path / "bad.json").write_text(damaged)
    status, out, _ = run("check", "bad.json")
    assert status == 1 and "bad.json, program.axes[0].settings[2].expo" in out
    assert run("import", "bad.json")[0] == 2 and run("models")[1].count("\n") == 1


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        (
            '"direction": 1,\n   "centre": 0.0',
            '"direction": -1,\n   "centre": 0.0',
            "its controller is off at 1000 µs",
        ),
        (
            '"action": "preset",\n    "value": -100.0',
            '"action": "hold",\n    "value": -100.0',
            "keep running without",
        ),
    ],
)
def test_a_file_with_a_motor_danger_is_not_called_sound(
    run: Any, tmp_path: Path, old: Any, new: Any, said: Any
) -> None:
    assert run("--demo", "export", "Samphire", "s.json")[0] == 0
    text = (tmp_path / "s.json").read_text()
    at = text.index('"target": "motor",\n   "port"')
    (tmp_path / "m.json").write_text(text[:at] + text[at:].replace(old, new, 1))
    status, out, _ = run("check", "m.json")
    assert status == 1 and said in out and "sound" not in out and "danger: " in out


def test_an_import_says_when_its_receiver_number_is_taken(run: Any, tmp_path: Path) -> None:
    assert run("--demo", "export", "Marram", "m.json")[0] == 0
    text = (tmp_path / "m.json").read_text()
    (tmp_path / "copy.json").write_text(text.replace('"name": "Marram"', '"name": "Marram B"', 1))
    status, _, err = run("--demo", "import", "copy.json")
    assert status == 0 and "receiver number 7 is Marram's too" in err


def test_trace_follows_the_moves(run: Any, tmp_path: Path) -> None:
    (tmp_path / "m.csv").write_text(
        "t_s,throttle_stick,motor_switch,link\n0,-100,0,1\n0.6,,1,\n0.8,20,,\n1.4,,,0\n2.9,,,\n"
    )
    assert run("--demo", "trace", "Samphire", "--moves", "m.csv", "--out", "t.csv")[0] == 0
    rows = list(csv.DictReader((tmp_path / "t.csv").open()))
    assert len(rows) == 146 and list(rows[0])[:3] == ["t_s", "mode", "guard"]
    assert [rows[i]["guard"] for i in (0, 30, 145)] == ["cut", "armed", "armed"]
    assert [rows[i]["motor_us"] for i in (29, 40, 119, 120)] == ["1000", "1600", "1600", "1000"]
    assert 0 < float(rows[0]["left_flaperon_deg"]) < 0.5


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("time,roll\n0,1\n", "m.csv, row 1: the first column must be t_s"),
        ("t_s,warp_drive\n0,1\n", "m.csv, row 1, column 2: there is no control called warp_drive"),
        ("t_s,rudder_stick\n0,1\n0,2\n", "m.csv, row 3, column 1: time runs backwards"),
        ("t_s,rudder_stick\n0,east\n", "m.csv, row 2, column 2: 'east' is not a number"),
        ("t_s,flap_switch\n0,3\n", "m.csv, row 2, column 2: flap_switch: 3 is not possible"),
        ("t_s,rudder_stick\n0,nan\n", "m.csv, row 2, column 2: nan is not a number"),
        ("t_s,rudder_stick\n0,1,5\n", "m.csv, row 2: this row has more cells"),
        ("t_s,rudder_stick\n", "m.csv: there are no rows"),
    ],
)
def test_moves_that_cannot_be_played(run: Any, tmp_path: Path, text: Any, said: Any) -> None:
    (tmp_path / "m.csv").write_text(text)
    status, out, err = run("--demo", "trace", "Samphire", "--moves", "m.csv")
    assert status == 2 and out == "" and said in err and err.count("\n") == 1


def test_sweep(run: Any) -> None:
    status, out, _ = run(
        "--demo",
        "sweep",
        "Samphire",
        "--control",
        "elevator_stick",
        "--steps",
        "5",
        "--set",
        "rates_switch=2",
    )
    rows = list(csv.DictReader(out.splitlines()))
    assert status == 0 and [r["elevator_stick"] for r in rows] == ["-100", "-50", "0", "50", "100"]
    pitch = [float(r["pitch"]) for r in rows]
    assert pitch[0] == 98 and pitch[-1] == -102 and pitch == sorted(pitch, reverse=True)
    status, out, _ = run(
        "--demo", "sweep", "Samphire", "--control", "flap_switch", "--from", "0", "--to", "2"
    )
    assert [
        float(r["left_flaperon_pct"]) for r in csv.DictReader(out.splitlines())
    ] == pytest.approx([0.72, 36.72, 64.72])
    assert (
        "takes a whole number" not in run("--demo", "sweep", "Samphire", "--control", "nothing")[2]
    )


def test_why(run: Any) -> None:
    status, out, _ = run(
        "--demo", "why", "Samphire", "--target", "motor", "--set", "throttle_stick=40", "--json"
    )
    found = json.loads(out)
    assert status == 0 and sum(c["percent"] for c in found["contributions"]) == pytest.approx(
        found["stand"], abs=1e-9
    )
    assert found["contributions"][-1] == {
        "label": "Guard holds the motor at idle",
        "kind": "guard",
        "percent": -140.0,
        "path": "program.guard",
    }
    assert (
        "mm down"
        in run("--demo", "why", "Samphire", "--target", "left_flaperon", "--set", "flap_switch=2")[
            1
        ]
    )
    assert (
        "has no surface, motor or device called wing"
        in run("--demo", "why", "Samphire", "--target", "wing")[2]
    )
    assert (
        "0 to 2"
        in run("--demo", "why", "Samphire", "--target", "rudder", "--set", "flap_switch=9")[2]
    )


def test_sheets_and_schema(run: Any, tmp_path: Path) -> None:
    for ending in ("html", "md", "pdf"):
        assert run("--demo", "sheet", "Samphire", "--out", f"s.{ending}")[0] == 0
    text = (tmp_path / "s.md").read_text()
    assert "| 5 | Right flaperon | reversed | 1500 |" in text and "Take care" in text
    assert "were chosen by playing" in text and "| Rates switch at mid, aileron stick full " in text
    assert (tmp_path / "s.pdf").read_bytes().startswith(b"%PDF")
    assert (tmp_path / "s.html").read_text().count("<h2>") == text.count("## ")
    assert run("--demo", "sheet", "Samphire", "--out", "s.doc")[0] == 2
    assert run("--demo", "sheet", "Samphire", "--out", "s.md", "--transmitter", "Elsewhere")[0] == 2
    schema = json.loads(run("schema")[1])
    assert schema["title"] == "Model" and "airframe" in schema["required"]
    assert run("fly")[0] == 2


def test_the_recorded_flight_on_the_ridge(run: Any, tmp_path: Path) -> None:
    """Six minutes with Marram: climb, ridge lift, a short and a longer loss of the link, brakes out
    for the landing."""
    moves = str(resources.files("hypsos.demo").joinpath("marram-ridge.csv"))
    assert run("--demo", "trace", "Marram", "--moves", moves, "--out", "t.csv")[0] == 0
    rows = list(csv.DictReader((tmp_path / "t.csv").open()))
    assert len(rows) == 18_001
    at = {s: rows[s * 50] for s in (1, 20, 44, 100, 240, 282, 300, 359)}
    modes = [at[s]["mode"] for s in (1, 20, 44, 100, 240, 300, 359)]
    assert modes == ["cruise", "climb", "cruise", "thermal", "speed", "thermal", "landing"]
    assert at[20]["guard"] == "armed" and float(at[20]["motor_us"]) > 1700
    assert all(at[s]["motor_us"] == "1000" for s in (1, 44, 100, 282, 359))
    assert float(at[359]["left_inner_flap_deg"]) > 30 and float(at[359]["left_aileron_deg"]) < -5
    assert at[282]["left_aileron_us"] == "1500"


def test_scenarios_are_run_and_what_breaks_is_said(run: Any, tmp_path: Path) -> None:
    for name in ("Marram", "Whinlark"):
        status, out, _ = run("--demo", "scenarios", name)
        assert status == 0 and "as expected" in out and "BROKEN" not in out
    run("--demo", "export", "Samphire", "s.json")
    text = json.loads((tmp_path / "s.json").read_text())
    text["program"]["guard"]["level"] = 1
    (tmp_path / "s.json").write_text(json.dumps(text))
    status, out, _ = run("scenarios", "s.json", "--json")
    found = {x["scenario"]: x["broken"] for x in json.loads(out)["scenarios"]}
    assert status == 1 and "it ran with 40 % power" in found["Arm with the stick up"][0]["text"]
    text["scenarios"] = []
    (tmp_path / "s.json").write_text(json.dumps(text))
    status, out, _ = run("scenarios", "s.json")
    assert status == 0 and "no scenarios yet" in out
