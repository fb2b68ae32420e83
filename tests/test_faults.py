# SPDX-License-Identifier: GPL-3.0-or-later
"""What nobody foresaw: written down, said in a sentence, and the work goes on. And nothing runs but
our own code."""

from __future__ import annotations

import io
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from hypsos.core.document.document import Model
from hypsos.core.review.findings import Ask
from hypsos.core.scenarios import scenario_run
from hypsos.desk import app as desk_app
from hypsos.desk.services import search_client as shaking
from hypsos.desk.services import search_server as shaker
from hypsos.desk.services.background import aside
from hypsos.hangar import faults
from hypsos.process_messages import receive, send


@pytest.fixture
def log(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    path = tmp_path / "state" / "hypsos.log"
    monkeypatch.setenv("HYPSOS_LOG", str(path))
    return path


def broken(*_: Any) -> None:
    raise KeyError("nobody thought of this")


def test_a_report_names_versions_place_act_and_way_and_the_file_stays_small(log: Any) -> None:
    try:
        broken()
    except KeyError as error:
        report = faults.record(error, "window", "set the throws")
    text = log.read_text()
    for part in (
        "Hypsos ",
        "Python 3.",
        "Qt ",
        "in window, after: set the throws",
        "nobody thought of this",
        "in broken",
    ):
        assert part in report and part in text, part
    assert log.stat().st_mode & 0o077 == 0
    for _ in range(40):
        faults.record("x" * 40_000, "search")
    assert (
        sum(f.stat().st_size for f in log.parent.iterdir()) <= 1_100_000
        and len(list(log.parent.iterdir())) == 2
    )


def test_a_log_that_cannot_be_written_breaks_nothing(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("HYPSOS_LOG", str(tmp_path / "file" / "hypsos.log"))
    assert "in search" in faults.record("odd", "search")


def test_work_beside_the_window_that_breaks_tells_whoever_waits(
    qtbot: QtBot, window: Any, log: Any
) -> None:
    told: Any = []
    aside(window, broken, told.append, lambda said: told.append(said))
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert "nobody foresaw (KeyError)" in told[0] and "nobody thought of this" in log.read_text()


def test_scenarios_that_cannot_be_played_are_said_and_played_again_after_an_edit(
    qtbot: QtBot, window: Any, log: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.finish()
    bench = window.workbench
    found = bench.companions.scenarios
    monkeypatch.setattr(scenario_run, "scenarios_run", broken)
    bench.document.edit("program.axes[0].settings[0].expo", 33.0, "expo")
    qtbot.waitUntil(lambda: bool(found.fault), timeout=20_000)
    assert any("could not be played" in a.text for a in bench.attentions())
    monkeypatch.undo()
    bench.document.edit("program.axes[0].settings[0].expo", 30.0, "expo")
    qtbot.waitUntil(lambda: bool(found.outcomes), timeout=20_000)
    assert not found.fault and not any("could not be played" in a.text for a in bench.attentions())


def test_a_mistake_in_the_window_is_one_sentence_with_a_report_to_copy(
    window: Any, log: Any
) -> None:
    try:
        broken()
    except KeyError as error:
        desk_app._caught(window, KeyError, error, error.__traceback__)
    assert (
        "nobody foresaw" in window.notice.text.text()
        and "Traceback" not in window.notice.text.text()
    )
    assert window.notice.acts[0].text() == "Copy the report"
    window.notice.acts[0].click()
    copied = QApplication.clipboard().text()
    assert (
        "nobody thought of this" in copied and copied in log.read_text() and "on Samphire" in copied
    )


def test_a_mistake_in_a_thread_that_nobody_waits_for_is_in_the_log(log: Any) -> None:
    kept, threading.excepthook = threading.excepthook, desk_app._in_a_thread
    try:
        lost = threading.Thread(target=broken, name="a lost one")
        lost.start()
        lost.join()
    finally:
        threading.excepthook = kept
    assert "nobody thought of this" in log.read_text() and "a lost one" in log.read_text()


def test_a_search_that_breaks_says_so_and_serves_the_next_job(
    samphire: Model, monkeypatch: pytest.MonkeyPatch, log: Any
) -> None:
    """The process itself, fed by hand."""
    sent = io.BytesIO()
    for job in (
        shaker.SearchJob(1, "nothing of ours", Ask(samphire), None),
        shaker.SearchJob(2, "compare", Ask(samphire), samphire),
        shaker.SearchJob(3, "shake", Ask(samphire)),
    ):
        send(sent, job)
    whole = sent.getvalue()
    command = [
        sys.executable,
        "-P",
        "-c",
        "from hypsos.desk.services.search_server import main; main()",
    ]
    process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    process.stdin.write(whole)
    process.stdin.flush()
    answers: Any = []
    while not any(x.number == 3 and x.kind != "progress" for x in answers):
        answers.append(receive(process.stdout))
    broke = next(x for x in answers if x.number == 1)
    assert broke.kind == "broke" and "Traceback" in broke.content[1]
    assert [x.kind for x in answers if x.number > 1 and x.kind != "progress"] == ["found", "found"]
    shares = [x.content[0] for x in answers if x.number == 3 and x.kind == "progress"]
    assert shares == sorted(shares) and shares[0] == 0.0 and 0.5 < shares[-1] <= 1.0
    process.stdin.write(whole[: len(whole) // 3])  # half a message, and then the end
    process.stdin.close()
    assert process.wait(20) == 0
    process.stdout.close()


def test_what_broke_in_the_search_reaches_the_window(window: Any, log: Any) -> None:
    window.finish()
    bench = window.workbench
    bench.companions.search._asked = (7, bench.model)
    bench.companions.search._said(shaker.SearchReply(7, "broke", ("KeyError", "the report")))
    assert (
        "nobody foresaw (KeyError)" in bench.companions.search.fault
        and window.notice.acts[0].text() == "Copy the report"
    )
    window.notice.acts[0].click()
    assert QApplication.clipboard().text() == "the report"


HOSTILE = ("queue", "random", "pickle", "struct", "threading", "numpy", "hypsos", "os", "typing")


@pytest.fixture
def hostile(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Any:
    """A folder of downloads in which names of modules lie about; what runs there leaves a mark."""
    for name in HOSTILE:
        (tmp_path / f"{name}.py").write_text(
            f"open({str(tmp_path / 'RAN')!r}, 'w').write({name!r})\n"
        )
    monkeypatch.chdir(tmp_path)
    return tmp_path


def test_no_code_of_the_folder_one_stands_in_is_run(
    hostile: Any, qtbot: QtBot, samphire: Model
) -> None:
    made = shaking.Worker()
    said: Any = []
    made.said.connect(said.append)
    made.ask("compare", Ask(samphire), samphire)
    qtbot.waitUntil(lambda: any(x.kind == "found" for x in said), timeout=60_000)
    made.end()
    command = [str(Path(sys.executable).with_name("hypsos")), "--demo", "models"]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0 and "Marram" in done.stdout, done.stderr
    assert not (hostile / "RAN").exists()
