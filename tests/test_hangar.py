"""The store: everything there after a kill, nothing changed after a failure, each failure one clear sentence."""

from __future__ import annotations

import datetime
import os
import signal
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from hypsos.core.document import from_json, to_json
from hypsos.core.errors import DocumentError, HangarError, HypsosError
from hypsos.core.logbook import Flight
from hypsos.core.paths import with_at
from hypsos.hangar import Hangar
from hypsos.hangar.files import read_text, write_whole
from hypsos.hangar.places import demo_hangar

FLEET = ["Marram", "Samphire", "Skerry", "Sorrel", "Tidewrack", "Whinlark"]


def test_models_flights_and_snapshots_come_back(tmp_path: Path):
    first = demo_hangar(tmp_path)
    model = first.load("samphire")
    first.keep("Samphire", "before")
    first.save("Samphire", with_at(model, "note", "changed"))
    first.log("Samphire", Flight(date=datetime.date(2026, 11, 1), minutes=7, trims={"roll": -2}, remark="fine"))
    first.close()
    again = Hangar(first.path)
    assert again.load("Samphire").note == "changed"
    assert again.snapshot(again.snapshots("Samphire")[0].id) == model
    assert [f.flight.minutes for f in again.flights("Samphire")] == [7, 9, 11]
    again.remove("Samphire")
    assert again.names() == [n for n in FLEET if n != "Samphire"] and again.flights("Samphire") == []
    again.close()


def test_a_model_goes_through_json_unchanged(hangar):
    for name in hangar.names():
        model = hangar.load(name)
        assert from_json(to_json(model)) == model


def test_an_edit_survives_a_kill(tmp_path: Path):
    """A process saves edits one after the other, says so after each, and is killed in the middle of it."""
    demo_hangar(tmp_path).close()
    script = f"""
from pathlib import Path
from hypsos.hangar import Hangar
from hypsos.core.paths import with_at
h = Hangar(Path({str(tmp_path / "demo-hangar.sqlite3")!r}))
m = h.load("Samphire")
for i in range(10_000):
    h.save("Samphire", with_at(m, "note", str(i)))
    print(i, flush=True)
"""
    child = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, text=True)
    assert child.stdout is not None
    said = [int(child.stdout.readline()) for _ in range(20)]
    os.kill(child.pid, signal.SIGKILL)
    said += [int(x) for x in child.stdout.read().split()]
    child.wait()
    found = int(Hangar(tmp_path / "demo-hangar.sqlite3").load("Samphire").note)
    assert said[-1] <= found <= said[-1] + 1


def test_a_locked_hangar_says_so_and_changes_nothing(hangar, samphire, monkeypatch):
    other = sqlite3.connect(hangar.path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    hangar._db.execute("PRAGMA busy_timeout = 50")
    with pytest.raises(HangarError, match="another program is writing"):
        hangar.save("Samphire", with_at(samphire, "note", "lost"))
    other.execute("ROLLBACK")
    assert hangar.load("Samphire") == samphire


def test_a_full_disk_says_so_and_changes_nothing(hangar, samphire):
    (pages,) = hangar._db.execute("PRAGMA page_count").fetchone()
    hangar._db.execute(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(HangarError, match="the disk is full") as caught:
        hangar.save("Samphire", with_at(samphire, "note", "x" * 4000))
        hangar.add(with_at(samphire, "name", "Second"))
        hangar.add(with_at(samphire, "name", "Third"))
    assert "Make room" in str(caught.value) and str(hangar.path) in str(caught.value)
    assert "Third" not in hangar.names()


def test_a_read_only_hangar_can_be_read_and_is_not_written(tmp_path: Path, monkeypatch):
    made = demo_hangar(tmp_path)
    made.close()
    monkeypatch.setattr(
        Hangar, "_migrate", lambda self, db: db.execute("PRAGMA query_only = 1").execute("DELETE FROM models")
    )
    hangar = Hangar(made.path)
    assert hangar.read_only and hangar.names() == FLEET
    with pytest.raises(HangarError, match="can be read and not written"):
        hangar.remove("Marram")
    assert hangar.names() == FLEET


def test_files_that_are_no_hangar(tmp_path: Path):
    garbage = tmp_path / "garbage.sqlite3"
    garbage.write_bytes(b"not a database at all, " * 60)
    with pytest.raises(HangarError, match="not a hangar"):
        Hangar(garbage)
    foreign = tmp_path / "foreign.sqlite3"
    sqlite3.connect(foreign).execute("CREATE TABLE birds (name TEXT)")
    with pytest.raises(HangarError, match="another kind"):
        Hangar(foreign)
    newer = tmp_path / "newer.sqlite3"
    Hangar(newer).close()
    sqlite3.connect(newer).execute("PRAGMA user_version = 99")
    with pytest.raises(HangarError, match="newer Hypsos"):
        Hangar(newer)
    with pytest.raises(HangarError, match="cannot be"):
        Hangar(garbage / "below" / "a-file.sqlite3")


def test_names_are_unique(hangar, samphire):
    with pytest.raises(HangarError, match="already a model called"):
        hangar.add(samphire)
    with pytest.raises(HangarError, match="already a model called"):
        hangar.save("Samphire", with_at(samphire, "name", "Marram"))
    with pytest.raises(HangarError, match=r"no model called Gone.*It holds Marram, Samphire"):
        try:
            hangar.load("Gone")
        except HangarError as error:
            raise HangarError(str(error)) from error


GOOD = '{"format": "hypsos-model", "schema_version": 1, "name": "A"'


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{", "line 1, column 2: the file is damaged or is not JSON"),
        ("[1, 2]", "this is not a Hypsos model file"),
        ('{"format": "other"}', "this is not a Hypsos model file"),
        (GOOD.replace("1,", "7,", 1) + "}", "from a newer Hypsos"),
        (GOOD + "}", "file, airframe: this field is missing"),
        (GOOD + ', "airframe": 3}', "file, airframe: "),
    ],
)
def test_files_that_are_no_model(text, said):
    with pytest.raises(DocumentError) as caught:
        from_json(text, "file")
    assert said in str(caught.value)


def test_a_wrong_field_is_named_by_its_path(samphire):
    text = to_json(samphire).replace('"expo": 30.0', '"expo": 300.0', 1)
    with pytest.raises(DocumentError) as caught:
        from_json(text, "s.json")
    assert caught.value.where == "s.json, program.axes[0].settings[1].expo" and "found 300.0" in str(caught.value)
    text = to_json(samphire).replace('"share": 60.0', '"sahre": 60.0', 1)
    with pytest.raises(DocumentError) as caught:
        from_json(text, "s.json")
    assert caught.value.where == "s.json, program.recipes[0].sahre"


def test_files_are_written_whole_or_not_at_all(tmp_path: Path, monkeypatch):
    path = tmp_path / "a.txt"
    write_whole(path, "first")

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(HypsosError, match="No space left on device"):
        write_whole(path, "second")
    assert read_text(path) == "first" and list(tmp_path.iterdir()) == [path]
    (tmp_path / "b").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(HypsosError, match="not text"):
        read_text(tmp_path / "b")
    with pytest.raises(HypsosError, match="cannot be read"):
        read_text(tmp_path / "missing")
