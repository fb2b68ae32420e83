# SPDX-License-Identifier: GPL-3.0-or-later
"""Steps that are taken back and done again."""

from __future__ import annotations

from typing import Any

import pytest
from pytestqt.qtbot import QtBot
from test_workbench import HandClock

from hypsos.core.base.errors import HypsosError
from hypsos.desk.services.workbench import Workbench
from hypsos.desk.session.undo_history import MOST, History, UndoStep
from hypsos.hangar import Hangar


@pytest.fixture
def bench(qtbot: QtBot, hangar: Hangar) -> Any:
    return Workbench(hangar, "Samphire", clock=HandClock())


def test_history_goes_back_and_forth_and_merges() -> None:
    value, seen = [0], []
    history = History(lambda: seen.append(history.undo_label))

    def put(new: int, label: str, merge: str = "") -> None:
        old, value[0] = value[0], new
        history.add(
            UndoStep(
                label, lambda: value.__setitem__(0, old), lambda: value.__setitem__(0, new), merge
            )
        )

    put(1, "one")
    put(2, "drag", "drag")
    put(3, "drag", "drag")
    put(4, "other", "else")
    history.undo()
    history.undo()
    assert value == [1] and history.undo_label == seen[-1] == "one" and history.redo_label == "drag"
    history.redo()
    assert value == [3] and seen[-1] == "drag"
    put(9, "new way")
    assert history.redo_label is None and seen[-1] == "new way"
    for i in range(MOST + 50):
        put(i, f"step {i}")
    count = 0
    while history.undo_label:
        history.undo()
        count += 1
    assert count == MOST
    history.undo()
    assert history.undo_label is None and history.redo_label is not None


def test_a_step_that_cannot_be_undone_stays_in_the_history() -> None:
    def refuse() -> None:
        raise HypsosError("the hangar is locked")

    history = History(lambda: None)
    history.add(UndoStep("edit", refuse, refuse))
    with pytest.raises(HypsosError):
        history.undo()
    assert history.undo_label == "edit" and history.redo_label is None


def test_steps_can_be_undone_after_another_model_was_on_the_bench(bench: Workbench) -> None:
    bench.document.edit("note", "mine", "note")
    bench.document.open("Marram")
    assert bench.document.undo_label is None
    bench.document.edit("note", "steep", "note of Marram")
    bench.document.open("Samphire")
    assert bench.document.undo_label == "note"
    before = bench.document.hangar.load("Marram")
    bench.document.undo()
    assert bench.model.note != "mine" and bench.document.hangar.load("Marram") == before


def test_flights_are_undone_and_redone_as_they_were(bench: Workbench) -> None:
    import datetime

    from hypsos.core.document.logbook import Flight
    from hypsos.hangar import Hangar

    def remarks() -> Any:
        return [f.flight.remark for f in bench.document.hangar.flights("Samphire")]

    start = remarks()
    for words in ("one", "two"):
        bench.document.log(Flight(date=datetime.date(2026, 11, 20), remark=words))
    bench.document.undo()
    other = Hangar(bench.document.hangar.path)
    other.log("Samphire", Flight(date=datetime.date(2026, 11, 21), remark="other window"))
    bench.document.redo()
    bench.document.undo()
    bench.document.undo()
    assert sorted(remarks()) == sorted([*start, "other window"])
    bench.document.redo()
    number = next(
        f.id for f in bench.document.hangar.flights("Samphire") if f.flight.remark == "one"
    )
    other.strike(number)
    with pytest.raises(HypsosError, match="no longer in the log"):
        bench.document.undo()
    assert bench.document.undo_label is not None and "other window" in remarks()
    other.close()


def test_a_step_after_an_undo_is_a_step_of_its_own(bench: Workbench) -> None:
    for value in (1.0, 2.0):
        bench.document.edit("leads[0].centre", value, "centre", merge="centre")
    bench.document.edit("leads[1].centre", 5.0, "other")
    bench.document.undo()
    bench.document.edit("leads[0].centre", 3.0, "centre", merge="centre")
    bench.document.undo()
    assert bench.model.leads[0].centre == 2.0
