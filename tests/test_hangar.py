# SPDX-License-Identifier: GPL-3.0-or-later
"""The store: everything there after a kill, nothing changed after a failure, each failure one clear
sentence."""

from __future__ import annotations

import datetime
import os
import signal
import sqlite3
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from hands import behind_its_back, choose
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from hypsos.core.base.errors import DocumentError, HangarError, HypsosError
from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import Model, to_json
from hypsos.core.document.logbook import Flight
from hypsos.core.document.paths import with_at
from hypsos.hangar import Hangar
from hypsos.hangar.files import read_text, write_whole
from hypsos.hangar.places import demo_hangar

FLEET = ["Marram", "Samphire", "Sandpiper", "Skerry", "Sorrel", "Tidewrack", "Whinlark"]


def test_models_flights_and_snapshots_come_back(tmp_path: Path) -> None:
    first = demo_hangar(tmp_path)
    model = first.load("samphire")
    first.keep("Samphire", "before")
    first.save("Samphire", with_at(model, "note", "changed"))
    first.log(
        "Samphire",
        Flight(date=datetime.date(2026, 11, 1), minutes=7, trims={"roll": -2}, remark="fine"),
    )
    first.close()
    again = Hangar(first.path)
    assert again.load("Samphire").note == "changed"
    assert again.snapshot(again.snapshots("Samphire")[0].id) == model
    assert [f.flight.minutes for f in again.flights("Samphire")] == [7, 9, 11]
    again.taken_out("Samphire")
    assert (
        again.names() == [n for n in FLEET if n != "Samphire"] and again.flights("Samphire") == []
    )
    again.close()


def test_what_is_written_reaches_the_disk_beside_the_window_and_the_journal_is_emptied(
    tmp_path: Path, samphire: Model
) -> None:
    """So that a file put in the hangar's place by another program never gets an old journal played
    into it."""
    (tmp_path / "demo").mkdir()
    hangar, passing = Hangar(tmp_path / "mine.sqlite3"), demo_hangar(tmp_path / "demo")
    hangar.add(samphire)
    hangar.save("Samphire", with_at(samphire, "note", "changed"))
    assert hangar._durable is not None and hangar._durable._done.wait(20.0)
    journal = tmp_path / "mine.sqlite3-wal"
    assert journal.stat().st_size == 0
    alone = sqlite3.connect(f"file:{tmp_path / 'mine.sqlite3'}?immutable=1", uri=True)
    assert "changed" in alone.execute("SELECT document FROM models").fetchone()[0]
    alone.close()
    hangar.close()
    assert not journal.exists() and passing._durable is None
    passing.close()


@pytest.mark.parametrize("how", ["gone", "replaced", "renamed"])
def test_a_file_that_is_gone_or_replaced_is_not_written_and_what_is_here_goes_elsewhere(
    tmp_path: Path, window: Any, how: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench = window.workbench
    path = bench.document.hangar.path
    bench.document.edit("note", "before", "note")
    if how == "renamed":
        path.rename(tmp_path / "other.sqlite3")
    else:
        path.unlink()
    if how == "replaced":
        with sqlite3.connect(path) as db:
            db.execute("CREATE TABLE restored (x)")
    theirs = path.read_bytes() if how == "replaced" else b""
    for act in (
        lambda: bench.document.edit("note", "after", "note"),
        lambda: bench.document.keep("kept"),
    ):
        assert not bench.notices.attempt(act)
        assert (
            "moved, removed or replaced" in window.notice.text.text()
            and bench.loaded.note == "before"
        )
        assert window.notice.acts[0].text() == "Write it to another file…"
    assert (path.read_bytes() if how == "replaced" else b"") == theirs and path.exists() == (
        how == "replaced"
    )
    made = tmp_path / "saved.sqlite3"
    monkeypatch.setattr("hypsos.desk.window.ask_where", lambda *_: made)
    window.notice.acts[0].click()
    bench.document.edit("note", "after", "note")
    assert (
        bench.document.hangar.path == made and "the work goes on there" in window.notice.text.text()
    )
    again = Hangar(made)
    assert again.load("Samphire").note == "after" and again.names() == bench.document.hangar.names()
    again.close()


def test_hangar_and_folder_are_for_the_user_alone(tmp_path: Path) -> None:
    path = tmp_path / "new" / "deeper" / "hangar.sqlite3"
    Hangar(path).close()
    assert path.parent.stat().st_mode & 0o777 == 0o700 and path.stat().st_mode & 0o777 == 0o600
    path.chmod(0o644)
    Hangar(path).close()
    assert path.stat().st_mode & 0o777 == 0o600


def test_two_hundred_kills_lose_no_finished_edit(tmp_path: Path) -> None:
    demo_hangar(tmp_path).close()
    command = [
        sys.executable,
        str(Path(__file__).with_name("kills.py")),
        str(tmp_path / "demo-hangar.sqlite3"),
        "200",
        "7",
    ]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0 and done.stdout.startswith("200 kills, "), done.stderr


def test_a_model_that_was_taken_out_and_brought_back_is_not_overwritten_unasked(
    hangar: Hangar, samphire: Model
) -> None:
    mine = hangar.take("Samphire")
    other = Hangar(hangar.path)
    gone = other.taken_out("Samphire")
    other.put_back(gone)
    with pytest.raises(HangarError, match="changed by another window"):
        hangar.put(mine, with_at(samphire, "note", "unasked"))
    back = other.taken_out("Samphire")
    other.add(with_at(samphire, "note", "another one of that name"))
    with pytest.raises(HangarError, match="no longer in the hangar"):
        hangar.put(mine, with_at(samphire, "note", "unasked"))
    assert other.take("Samphire").id not in (mine.id, back.row)
    other.close()


def test_flights_snapshots_and_removing_go_to_the_model_and_not_to_its_name(
    hangar: Hangar, samphire: Model
) -> None:
    """Renamed in another window, and another one has its name by now."""
    mine = hangar.take("Samphire")
    other = Hangar(hangar.path)
    other.save("Samphire", with_at(samphire, "name", "Renamed"))
    other.add(with_at(samphire, "note", "the new Samphire"))
    flights = len(other.flights("Renamed"))
    hangar.log(mine, Flight(date=datetime.date(2026, 11, 1)))
    hangar.keep(mine, "kept")
    assert len(other.flights("Renamed")) == flights + 1 and other.flights("Samphire") == []
    assert (
        [s.label for s in other.snapshots("Renamed")]
        == ["kept"]
        == [s.label for s in hangar.snapshots(mine)]
    )
    gone = hangar.taken_out(mine)
    assert gone.name == "Renamed" and other.load("Samphire").note == "the new Samphire"
    with pytest.raises(HangarError, match="no longer in the hangar"):
        hangar.log(mine, Flight(date=datetime.date(2026, 11, 1)))
    other.close()


def test_an_error_of_the_database_is_said_in_our_words(
    hangar: Hangar, monkeypatch: pytest.MonkeyPatch
) -> None:
    for said, words in (
        ("disk I/O error", "does not take or give"),
        ("something new", "is in the log"),
    ):
        with pytest.raises(HangarError, match=words) as caught, hangar._told():
            raise sqlite3.OperationalError(said)
        assert said not in str(caught.value)


def test_only_models_that_changed_are_looked_through(
    qtbot: QtBot, window: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Each model is read once for each of its revisions, and not by the window's thread."""
    import threading

    from hypsos.desk.services import damaged_models as damage

    looked = []

    def whys(path: Any, places: Any) -> Any:
        assert threading.current_thread() is not threading.main_thread()
        looked.append([p.name for p in places])
        return {(p.id, p.revision): "" for p in places}

    monkeypatch.setattr(damage, "whys", whys)
    window.go("model")
    found = window.page("model").damage
    qtbot.waitUntil(lambda: len(looked) == 1, timeout=20_000)
    window.workbench.document.edit("note", "another", "note")
    window.workbench.document.hangar_changed.emit()
    qtbot.waitUntil(lambda: len(looked) == 2, timeout=20_000)
    assert len(looked[0]) == len(FLEET) and looked[1] == ["Samphire"] and found.found == []


def test_a_model_goes_through_json_unchanged(hangar: Hangar) -> None:
    for name in hangar.names():
        model = hangar.load(name)
        assert from_json(to_json(model)) == model


def test_an_edit_survives_a_kill(tmp_path: Path) -> None:
    """A process saves edits one after the other, says so after each, and is killed in the middle of
    it."""
    demo_hangar(tmp_path).close()
    script = f"""
from pathlib import Path
from hypsos.hangar import Hangar
from hypsos.core.document.paths import with_at
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


def test_a_locked_hangar_says_so_and_changes_nothing(
    hangar: Hangar, samphire: Model, monkeypatch: pytest.MonkeyPatch
) -> None:
    other = sqlite3.connect(hangar.path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    hangar._db.execute("PRAGMA busy_timeout = 50")
    with pytest.raises(HangarError, match="another program is writing"):
        hangar.save("Samphire", with_at(samphire, "note", "lost"))
    other.execute("ROLLBACK")
    assert hangar.load("Samphire") == samphire


def test_a_full_disk_says_so_and_changes_nothing(hangar: Hangar, samphire: Model) -> None:
    (pages,) = hangar._db.execute("PRAGMA page_count").fetchone()
    hangar._db.execute(f"PRAGMA max_page_count = {pages}")

    def fill() -> None:
        hangar.save("Samphire", with_at(samphire, "note", "x" * 4000))
        hangar.add(with_at(samphire, "name", "Second"))
        hangar.add(with_at(samphire, "name", "Third"))

    with pytest.raises(HangarError, match="the disk is full") as caught:
        fill()
    assert "Make room" in str(caught.value) and str(hangar.path) in str(caught.value)
    assert "Third" not in hangar.names()


def test_a_read_only_hangar_can_be_read_and_is_not_written(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = demo_hangar(tmp_path)
    made.close()
    monkeypatch.setattr(
        Hangar,
        "_migrate",
        lambda self, db: db.execute("PRAGMA query_only = 1").execute("DELETE FROM models"),
    )
    hangar = Hangar(made.path)
    assert hangar.read_only and hangar.names() == FLEET
    with pytest.raises(HangarError, match="can be read and not written"):
        hangar.taken_out("Marram")
    assert hangar.names() == FLEET


def test_what_was_taken_out_is_kept_for_thirty_days(tmp_path: Path) -> None:
    made = demo_hangar(tmp_path)
    made.keep("Samphire", "as it was")
    samphire, flights = made.load("Samphire"), made.flights("Samphire")
    made.taken_out("Samphire")
    made.taken_out("Skerry")
    made.close()
    hangar = Hangar(made.path)
    assert [x.name for x in hangar.binned()] == ["Skerry", "Samphire"]
    hangar.add(samphire.changed({"note": "another one"}))
    number = hangar.binned()[1].id
    hangar.put_back(hangar.from_bin(number))
    # the name is taken: the one that comes back has another
    assert hangar.load("Samphire 2") == samphire.changed({"name": "Samphire 2"})
    assert hangar.flights("Samphire 2") == flights and flights
    assert hangar.snapshots("Samphire 2")[0].label == "as it was"
    assert hangar.load("Samphire").note == "another one"
    assert [x.name for x in hangar.binned()] == ["Skerry"]
    with pytest.raises(HangarError, match="not kept any more"):
        hangar.from_bin(number)
    with sqlite3.connect(made.path) as db:
        db.execute("UPDATE bin SET gone_at = '2020-01-01T00:00:00.000Z'")
    assert hangar.binned() == []
    hangar.taken_out("Sorrel")
    with sqlite3.connect(made.path) as db:
        assert db.execute("SELECT name FROM bin").fetchall() == [("Sorrel",)]
    hangar.close()


def test_a_model_is_brought_back_from_the_page(window: Any) -> None:
    choose(window, "Skerry")
    window.go("model")
    page, document = window.page("model"), window.workbench.document
    assert page.bin.isHidden()
    page.remove.click()
    window.notice.put_away()
    assert window.workbench.loaded.name != "Skerry" and page.bin.isVisible()
    next(b for b in page.bin.findChildren(QPushButton)).click()
    assert window.workbench.loaded.name == "Skerry" and page.bin.isHidden()
    # undone at once it is in the bin no more, either
    page.remove.click()
    window.notice.acts[0].click()
    assert "Skerry" in document.hangar.names() and page.bin.isHidden()


def test_files_that_are_no_hangar(tmp_path: Path) -> None:
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


def test_names_are_unique(hangar: Hangar, samphire: Model) -> None:
    with pytest.raises(HangarError, match="already a model called"):
        hangar.add(samphire)
    with pytest.raises(HangarError, match="already a model called"):
        hangar.save("Samphire", with_at(samphire, "name", "Marram"))
    with pytest.raises(HangarError, match=r"no model called Gone.*") as caught:
        hangar.load("Gone")
    assert "It holds Marram, Samphire" in str(caught.value)


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
def test_files_that_are_no_model(text: Any, said: Any) -> None:
    with pytest.raises(DocumentError) as caught:
        from_json(text, "file")
    assert said in str(caught.value)


def test_a_wrong_field_is_named_by_its_path(samphire: Model) -> None:
    text = to_json(samphire).replace('"expo": 30.0', '"expo": 300.0', 1)
    with pytest.raises(DocumentError) as caught:
        from_json(text, "s.json")
    assert (
        caught.value.where == "s.json, program.axes[0].settings[1].expo"
        and "found 300.0" in str(caught.value)
    )
    text = to_json(samphire).replace('"share": 60.0', '"sahre": 60.0', 1)
    with pytest.raises(DocumentError) as caught:
        from_json(text, "s.json")
    assert caught.value.where == "s.json, program.recipes[0].sahre"


def test_files_are_written_whole_or_not_at_all(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
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


def test_a_write_finds_what_it_read_or_is_refused(hangar: Hangar, samphire: Model) -> None:
    """Two windows on one hangar: the second edit does not wipe the first away; nor does it hit
    another model of that name."""
    mine, other = hangar.take("Samphire"), Hangar(hangar.path)
    theirs = other.put(other.take("Samphire"), with_at(samphire, "note", "theirs"))
    with pytest.raises(HangarError, match="changed by another window"):
        hangar.put(mine, with_at(samphire, "note", "mine"))
    assert hangar.load("Samphire").note == "theirs"
    other.taken_out("Samphire")
    other.add(samphire)
    for old in (mine, theirs):
        with pytest.raises(HangarError, match="no longer in the hangar"):
            hangar.put(old, with_at(samphire, "note", "mine"))
    assert hangar.load("Samphire") == samphire
    other.close()


def test_numbers_of_flights_are_never_given_out_twice(hangar: Hangar) -> None:
    flight = Flight(date=datetime.date(2026, 11, 1))
    first = hangar.log("Samphire", flight)
    hangar.strike(first)
    assert hangar.log("Samphire", flight) > first
    hangar.bring_back("Samphire", first, flight)
    with pytest.raises(HangarError, match="in the log already"):
        hangar.bring_back("Samphire", first, flight)
    hangar.strike(first)
    with pytest.raises(HangarError, match="no longer in the log"):
        hangar.strike(first)


@pytest.mark.parametrize("year", [1949, 2100, 9999])
def test_a_flight_has_a_date_of_this_age(year: Any) -> None:
    with pytest.raises(ValueError, match="date"):
        Flight(date=datetime.date(year, 1, 1))


def test_one_damaged_model_or_flight_does_not_lock_the_others_out(
    hangar: Hangar, samphire: Model
) -> None:
    hangar.keep("Marram", "before")
    kept = hangar.snapshots("Marram")[0].id
    behind_its_back(
        hangar,
        "UPDATE models SET document = substr(document, 1, 500) WHERE name = 'Marram'",
        "UPDATE flights SET flight = '{' WHERE id = (SELECT min(id) FROM flights)",
    )
    assert [d.name for d in hangar.damaged()] == ["Marram"] and "damaged" in hangar.damaged()[0].why
    assert (
        hangar.load("Samphire") == samphire
        and hangar.numbers()
        and len(hangar.raw("Marram")) == 500
    )
    broken = [n for name in FLEET for n in hangar.unreadable_flights(name)]
    assert len(broken) == 1 and all(hangar.flights(n) is not None for n in FLEET)
    hangar.mend("Marram", kept)
    assert hangar.damaged() == [] and hangar.load("Marram").name == "Marram"


def test_a_hangar_of_the_first_version_opens_with_everything(
    tmp_path: Path, samphire: Model
) -> None:
    from hypsos.hangar.migrations import MIGRATIONS

    path = tmp_path / "old.sqlite3"
    db = sqlite3.connect(path)
    db.executescript(f"{MIGRATIONS[0]} PRAGMA user_version = 1;")
    db.execute("INSERT INTO models (name, document) VALUES ('Samphire', ?)", (to_json(samphire),))
    db.execute(
        "INSERT INTO snapshots (model_id, label, document) VALUES (1, 'before', ?)",
        (to_json(samphire),),
    )
    db.execute("INSERT INTO flights (model_id, flight) VALUES (1, ?)", ('{"date": "2026-05-01"}',))
    db.commit()
    db.close()
    hangar = Hangar(path)
    assert hangar.load("Samphire") == samphire and hangar.take("Samphire").revision == 1
    assert (
        hangar.snapshots("Samphire")[0].label == "before" and hangar.flights("Samphire")[0].id == 1
    )
    hangar.close()


def test_an_old_hangar_that_cannot_be_written_is_read(
    tmp_path: Path, samphire: Model, monkeypatch: pytest.MonkeyPatch
) -> None:
    from hypsos.hangar.migrations import MIGRATIONS

    path = tmp_path / "old.sqlite3"
    db = sqlite3.connect(path)
    db.executescript(f"{MIGRATIONS[0]} PRAGMA user_version = 1;")
    db.execute("INSERT INTO models (name, document) VALUES ('Samphire', ?)", (to_json(samphire),))
    db.commit()
    db.close()

    def refused(self: Any, db: Any) -> None:
        db.execute("PRAGMA query_only = 1").execute("DELETE FROM models")

    monkeypatch.setattr(Hangar, "_migrate", refused)
    hangar = Hangar(path)
    assert hangar.read_only and hangar.load("Samphire") == samphire
    with pytest.raises(HangarError, match="can be read and not written"):
        hangar.save("Samphire", with_at(samphire, "note", "x"))
    hangar.close()


def test_many_programs_may_start_on_a_new_hangar_at_once(tmp_path: Path) -> None:
    script = f"from pathlib import Path; from hypsos.hangar import Hangar; Hangar(Path({str(tmp_path / 'new.sqlite3')!r})).names()"
    children = [
        subprocess.Popen([sys.executable, "-c", script], stderr=subprocess.PIPE, text=True)
        for _ in range(6)
    ]
    assert [(c.communicate()[1], c.returncode) for c in children] == [("", 0)] * 6


def test_a_foreign_file_is_not_touched(tmp_path: Path) -> None:
    foreign = tmp_path / "birds.sqlite3"
    sqlite3.connect(foreign).executescript("CREATE TABLE birds (name TEXT);")
    before = foreign.read_bytes()
    with pytest.raises(HangarError, match="another kind"):
        Hangar(foreign)
    assert foreign.read_bytes() == before and list(tmp_path.iterdir()) == [foreign]


def test_rights_and_links_of_a_file_stay(tmp_path: Path) -> None:
    real, link = tmp_path / "real.json", tmp_path / "link.json"
    real.write_text("old")
    real.chmod(0o600)
    link.symlink_to(real)
    write_whole(link, "new")
    assert link.is_symlink() and real.read_text() == "new" and real.stat().st_mode & 0o777 == 0o600
    write_whole(tmp_path / "fresh", "x")
    assert (tmp_path / "fresh").stat().st_mode & 0o600 == 0o600


@pytest.mark.parametrize(
    ("name", "file"), [("a/b", "a-b.pdf"), ("..", "model.pdf"), ("Skerry: 2?", "Skerry- 2-.pdf")]
)
def test_a_model_name_is_no_path(name: Any, file: Any) -> None:
    from hypsos.hangar.files import file_name

    assert file_name(name, ".pdf") == file


def test_what_is_no_file_is_answered(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    for path, said in ((tmp_path / "pipe", "a pipe or a device"), (tmp_path, "a folder")):
        with pytest.raises(HypsosError, match=said):
            read_text(path)
