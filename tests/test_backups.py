# SPDX-License-Identifier: GPL-3.0-or-later
"""Back-ups of the hangar: whole, brought back whole, whatever happens meanwhile."""

from __future__ import annotations

import errno
import os
import platform
import random
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import ExitStack, closing
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from faulty import demo_model
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from hypsos import __version__
from hypsos.cli import cli
from hypsos.core.base.errors import HangarError, MovedOn
from hypsos.core.shape.layout_choices import with_motors
from hypsos.desk import app
from hypsos.desk.app import Desk, application
from hypsos.desk.rescue import Rescue
from hypsos.hangar import Hangar
from hypsos.hangar.backups import KEPT, Backup, back_up, back_up_daily, backup_folder, backups
from hypsos.hangar.faults import log_file
from hypsos.hangar.migrations import MIGRATIONS
from hypsos.hangar.restoring import Restored, contents, newest_sound, restore


@pytest.fixture
def place(tmp_path: Path) -> Path:
    """A hangar with two models, closed."""
    path = tmp_path / "hangar.sqlite3"
    hangar = Hangar(path)
    for name in ("samphire", "whinlark"):
        hangar.add(demo_model(name))
    hangar.close()
    return path


def names(path: Path) -> list[str]:
    return list(contents(path).changed_at)


def test_a_back_up_is_a_whole_hangar_of_its_own(place: Path) -> None:
    open_here = Hangar(place)
    open_here.add(demo_model("skerry"))  # in the journal still
    made = back_up(place, "asked")
    assert [x.name for x in made.path.parent.iterdir()] == [made.path.name]
    copy = Hangar(made.path)
    assert copy.names() == ["Samphire", "Skerry", "Whinlark"]
    assert copy.load("Skerry") == demo_model("skerry")
    copy.close()
    open_here.close()
    assert backups(place)[0].path == made.path


def test_ten_of_each_kind_are_kept(place: Path) -> None:
    folder = backup_folder(place)
    folder.mkdir()
    for day in range(10, 25):
        for kind in ("daily", "asked"):
            (folder / f"202601{day}-120000 {kind}.sqlite3").touch()
    assert back_up_daily(place) is not None
    assert back_up_daily(place) is None  # once a day
    daily = [x for x in backups(place) if x.reason == "daily"]
    assert len(daily) == KEPT and len(backups(place)) == KEPT + 15
    back_up(place, "airframe")
    others = [x.path.name for x in backups(place) if x.reason != "daily"]
    assert len(others) == KEPT and others[-1].startswith("20260116")


def test_another_window_notices_what_was_brought_back_and_writes_over_nothing(place: Path) -> None:
    before = back_up(place, "asked").path
    window = Hangar(place)
    held = window.take("Samphire")
    held = window.put(held, held.model.changed({"note": "newer"}))
    window.add(demo_model("skerry"))
    gone = window.take("Skerry")
    found = restore(before, place)
    assert [n for n, _ in found.older] == ["Samphire"]
    assert [n for n, _ in found.missing] == ["Skerry"]
    assert found.kept is not None and names(found.kept) == ["Samphire", "Skerry", "Whinlark"]
    assert window.names() == ["Samphire", "Whinlark"]
    newer = window.newer(held)
    assert newer is not None and newer.model == demo_model("samphire")
    for stale in (held, gone):
        with pytest.raises(MovedOn):
            window.put(stale, stale.model.changed({"note": "over it"}))
    # a number that was given out before is given to nobody again
    window.add(demo_model("sorrel"))
    assert window.take("Sorrel").id > gone.id
    # and all of it comes back
    assert restore(found.kept, place).missing[0][0] == "Sorrel"
    assert window.load("Samphire").note == "newer"
    window.close()


def test_the_oldest_back_up_is_brought_back_though_keeping_pushes_it_out(place: Path) -> None:
    oldest = back_up(place, "asked").path
    hangar = Hangar(place)
    hangar.taken_out("Whinlark")
    hangar.close()
    for _ in range(KEPT - 1):
        back_up(place, "asked")
    assert backups(place)[-1].path == oldest
    assert restore(oldest, place).models == 2
    assert names(place) == ["Samphire", "Whinlark"] and len(backups(place)) == KEPT


def test_no_edit_falls_between_what_is_kept_and_what_is_brought_back(
    place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    source = back_up(place, "asked").path
    other = Hangar(place)
    held = other.take("Samphire")

    def meanwhile(hangar: Path, reason: str) -> Backup:
        with pytest.raises(HangarError, match="another program is writing"):
            other.put(held, held.model.changed({"note": "between"}))
        return back_up(hangar, reason)

    monkeypatch.setattr("hypsos.hangar.restoring.back_up", meanwhile)
    assert restore(source, place).models == 2
    with pytest.raises(MovedOn):
        other.put(held, held.model.changed({"note": "after it"}))
    other.close()


def test_a_damaged_hangar_is_set_aside_and_the_newest_sound_back_up_brought_back(
    place: Path,
) -> None:
    good = back_up(place, "asked").path
    torn = backup_folder(place) / "20991231-120000 daily.sqlite3"
    torn.write_bytes(good.read_bytes()[: good.stat().st_size // 2])
    content = bytearray(place.read_bytes())
    content[100:] = os.urandom(len(content) - 100)
    place.write_bytes(content)
    with pytest.raises(HangarError):
        Hangar(place)
    newest = newest_sound(place)
    assert newest is not None and newest.path == good
    found = restore(good, place)
    assert found.kept is not None and found.kept.read_bytes() == bytes(content)
    assert "could not be read" in found.words and str(found.kept) in found.words
    hangar = Hangar(place)
    assert hangar.names() == ["Samphire", "Whinlark"]
    hangar.close()


def _newer(path: Path) -> None:
    with closing(sqlite3.connect(path)) as db:
        db.execute(f"PRAGMA user_version = {len(MIGRATIONS) + 1}")


def _other_kind(path: Path) -> None:
    path.unlink()
    with closing(sqlite3.connect(path)) as db:
        db.execute("CREATE TABLE birds (name TEXT)")


BAD: dict[str, Callable[[Path], object]] = {
    "newer Hypsos": _newer,
    "no hangar of Hypsos": _other_kind,
    "not a hangar": lambda path: path.write_text("no database " * 100),
    "damaged": lambda path: path.write_bytes(path.read_bytes()[:30_000]),
    "no such file": lambda path: path.unlink(),
}


@pytest.mark.parametrize("said", BAD)
def test_what_cannot_be_brought_back_changes_nothing(place: Path, said: str) -> None:
    source = back_up(place, "asked").path
    BAD[said](source)
    before = place.read_bytes()
    with pytest.raises(HangarError, match=said):
        restore(source, place)
    assert place.read_bytes() == before
    assert [x for x in os.listdir(place.parent) if x.startswith(".")] == []


def test_a_full_disk_leaves_no_half_back_up(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    source = back_up(place, "asked").path
    before = place.read_bytes()

    def full(_handle: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr("hypsos.hangar.backups.os.fsync", full)
    with pytest.raises(HangarError, match="No space left"):
        back_up(place, "daily")
    with pytest.raises(HangarError, match="No space left"):
        restore(source, place)
    assert [x.path for x in backups(place)] == [source]
    assert place.read_bytes() == before


@pytest.mark.parametrize("version", range(1, len(MIGRATIONS)))
def test_an_older_hangar_is_kept_before_it_is_brought_up_to_date(
    tmp_path: Path, version: int
) -> None:
    path = tmp_path / "old.sqlite3"
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        for step in MIGRATIONS[:version]:
            for statement in step.split(";"):
                db.execute(statement)
        db.execute(f"PRAGMA user_version = {version}")
        text = demo_model("samphire").model_dump_json()
        db.execute("INSERT INTO models (name, document) VALUES ('Samphire', ?)", (text,))
    hangar = Hangar(path)
    kept = backups(path)
    assert [x.reason for x in kept] == ["update"]
    with closing(sqlite3.connect(kept[0].path)) as db:
        assert db.execute("PRAGMA user_version").fetchone() == (version,)
        assert db.execute("SELECT document FROM models").fetchone() == (text,)
    hangar.close()
    # and an older one can be brought back into a newer one
    assert restore(kept[0].path, path).models == 1
    assert names(path) == ["Samphire"]


def test_the_commands(place: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("HYPSOS_HANGAR", str(place))

    def run(*words: str) -> tuple[int, str]:
        done = CliRunner().invoke(cli, list(words))
        said = str(done.exception) if done.exception is not None else ""
        return done.exit_code, done.output + said

    target = tmp_path / "copy.sqlite3"
    assert run("backup", str(target))[0] == 0 and names(target) == ["Samphire", "Whinlark"]
    assert "already" in run("backup", str(target))[1]
    kept = Path(run("backup")[1].strip())
    assert kept.name in run("backup", "--list")[1]
    assert "nobody is there" in run("restore", kept.name)[1]
    code, said = run("restore", "--yes", kept.name)
    assert code == 0 and "2 models" in said


def test_the_version_says_what_a_report_needs() -> None:
    short = CliRunner().invoke(cli, ["--version"])
    assert (short.exit_code, short.output) == (0, f"Hypsos {__version__}\n")
    long = CliRunner().invoke(cli, ["--version", "--verbose"]).output
    for said in (__version__, "Python 3.", "PyQt6-Qt6 6.", platform.platform(), str(log_file())):
        assert said in long


WORK = """
import itertools, sys
from pathlib import Path
from hypsos.core.base.errors import HypsosError
from hypsos.hangar import Hangar
from hypsos.hangar.backups import back_up, backups
from hypsos.hangar.restoring import restore
place = Path(sys.argv[1])
for turn in itertools.count(int(sys.argv[2])):
    hangar = Hangar(place)
    held = hangar.take("Samphire")
    hangar.put(held, held.model.changed({"note": str(turn)}))
    print("edit", turn, flush=True)
    hangar.close()
    back_up(place, "asked")
    print("kept", turn, flush=True)
    if turn % 3 == 0:
        back = backups(place)[-1].path
        print("bringing", Hangar(back, passing=True).load("Samphire").note, flush=True)
        restore(back, place)
        print("brought", flush=True)
"""
KILLS = int(os.environ.get("HYPSOS_KILLS", "6"))


def test_a_kill_at_any_moment_leaves_a_whole_hangar_with_every_finished_edit(place: Path) -> None:
    """Edits, back-ups and back-ups brought back, killed at random. ``HYPSOS_KILLS=500`` for a long
    run."""
    draws = random.Random(7)
    turn = 1
    for _ in range(KILLS):
        command = [sys.executable, "-c", WORK, str(place), str(turn)]
        work = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert work.stdout is not None
        said = [work.stdout.readline()]
        time.sleep(draws.uniform(0.0, 0.25))
        work.send_signal(signal.SIGKILL)
        said += work.stdout.readlines()
        work.wait()
        told = [line.split() for line in said if line.endswith("\n")]
        edits = [words[1] for words in told if words[0] == "edit"]
        turn = int(edits[-1]) + 1
        # what was there last, or what was under way
        allowed = {edits[-1], str(turn)}
        if told[-1][0] == "brought":
            allowed = {told[-2][1], str(turn)}
        elif told[-1][0] == "bringing":
            allowed = {edits[-1], told[-1][1]}
        hangar = Hangar(place)
        assert hangar.load("Samphire").note in allowed, (told[-4:], hangar.load("Samphire").note)
        assert hangar.load("Whinlark") == demo_model("whinlark")
        hangar.close()
        for kept in backups(place):
            assert len(names(kept.path)) == 2
    # what the killed ones had half made goes with the next back-up
    back_up(place, "asked")
    for folder in (place.parent, backup_folder(place)):
        assert not [x for x in os.listdir(folder) if x.startswith(".")]


def test_a_damaged_hangar_is_brought_back_in_the_window(
    qtbot: QtBot, place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It is offered before anything else; what was done is said; the work goes on, and is backed up
    once a day and before much is let go."""
    monkeypatch.setenv("HYPSOS_HANGAR", str(place))
    for module in (sys, threading):  # the desk has its own, for as long as it is there
        monkeypatch.setattr(module, "excepthook", module.excepthook)
    back_up(place, "asked")
    place.write_bytes(b"no hangar any more" * 1000)
    desk = Desk(application("light"), ExitStack())
    qtbot.addWidget(desk.frame)
    asked: list[str] = []

    def answer(words: str) -> None:
        rescue = desk.frame.centralWidget()
        assert isinstance(rescue, Rescue)
        asked.append(rescue.offer.text() + rescue.models.text())
        button = rescue.back if words == "back" else rescue.leave
        qtbot.keyClick(button, Qt.Key.Key_Return)

    QTimer.singleShot(0, lambda: answer("leave"))
    assert desk.open_or_rescue(False) is None
    assert place.read_bytes().startswith(b"no hangar")
    # what fails is said there, and can be tried again
    told: list[str] = []

    def full_at_first(source: Path, hangar: Path) -> Restored:
        if told:
            return restore(source, hangar)
        QTimer.singleShot(0, again)
        raise HangarError("the disk is full")

    def again() -> None:
        rescue = desk.frame.centralWidget()
        assert isinstance(rescue, Rescue)
        told.append(rescue.complaint.text())
        answer("back")

    monkeypatch.setattr("hypsos.hangar.restoring.restore", full_at_first)
    QTimer.singleShot(0, lambda: answer("back"))
    window = desk.open_or_rescue(False)
    assert window is not None and told == ["the disk is full."]
    assert "asked for" in asked[0] and "2 models" in asked[0] and "Whinlark, changed" in asked[0]
    assert "2 models now" in window.notice.text.text()
    assert window.workbench.document.hangar.names() == ["Samphire", "Whinlark"]
    app._keep_of_the_day(window)
    qtbot.waitUntil(lambda: backups(place)[0].reason == "daily", timeout=20_000)
    window.workbench.document.open("Samphire")
    page: Any = window.page("airframe")
    page.take(lambda: with_motors(window.workbench.loaded.airframe, 0), "no motors")
    assert not window.workbench.loaded.airframe.motors
    kept = next(x for x in backups(place) if x.reason == "airframe")
    copy = Hangar(kept.path)
    assert copy.load("Samphire") == demo_model("samphire")
    copy.close()
    desk.frame.close()


def test_a_back_up_is_brought_back_from_the_page_and_undone(
    qtbot: QtBot, place: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("HYPSOS_HANGAR", str(place))
    for module in (sys, threading):
        monkeypatch.setattr(module, "excepthook", module.excepthook)
    desk = Desk(application("light"), ExitStack())
    qtbot.addWidget(desk.frame)
    window = desk.open(False)
    document = window.workbench.document
    document.open("Whinlark")
    window.go("model")
    page: Any = window.page("model")
    qtbot.waitUntil(page.isVisible)
    page.make_backup.click()
    document.edit("note", "after it", "note")
    document.add(demo_model("skerry"))
    back = next(b for b in page.backups.findChildren(QPushButton) if "asked" in b.accessibleName())
    back.click()
    # Skerry was on the bench, and is not there any more
    assert document.hangar.names() == ["Samphire", "Whinlark"]
    assert window.workbench.loaded == demo_model("samphire")
    assert "Skerry" in window.notice.text.text() and "Whinlark" in window.notice.text.text()
    document.open("Whinlark")
    assert window.workbench.loaded == demo_model("whinlark") and document.undo_label is None
    window.notice.acts[0].click()
    assert document.hangar.names() == ["Samphire", "Skerry", "Whinlark"]
    assert window.workbench.loaded.note == "after it"
    desk.frame.close()
