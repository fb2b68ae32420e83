# SPDX-License-Identifier: GPL-3.0-or-later
"""Keying in with the window beside the transmitter: steps ticked, what changed, a figure read back."""

from __future__ import annotations

import json
import os
import signal
from pathlib import Path
from typing import Any

from click.testing import CliRunner
from faulty import demo_model
from hands import choose, type_into
from keyed import keyed_on, sheet_of, transmitter
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from hypsos.cli import cli
from hypsos.core.document.paths import with_at
from hypsos.core.schools.keying import keying
from hypsos.core.schools.settings_reader import settings_to_json
from hypsos.core.sheet import make_sheet
from hypsos.core.sheet.keying_in import WHOLE, kept_numbers, standing, steps_of
from hypsos.core.sheet.read_back import as_read
from hypsos.desk.services.search_client import worker


def keying_page(window: Any, name: str, on: str) -> Any:
    choose(window, name)
    window.go("sheet")
    page = window.page("sheet")
    page.transmitter.setCurrentIndex(page.transmitter.findText(on))
    page.transmitter.activated.emit(page.transmitter.currentIndex())
    page.show_view("keying")
    return page


def test_skerry_is_keyed_into_groyne_edited_and_read_back(
    qtbot: QtBot, window: Any, tmp_path: Path
) -> None:
    page = keying_page(window, "Skerry", "Groyne")
    bench, view = window.workbench, page.keying
    # what touches a motor is read first
    assert not view.isEnabled() and "stick rests low" in page.lacks.words.text()
    assert not page.written[0].isEnabled()
    page.lacks.seen.click()
    assert view.isEnabled() and page.lacks.isHidden() and view.done.hasFocus()
    count = len(view.steps)
    for place in range(count):
        assert view.at == place and f"Here is step {place + 1}." in view.count.text()
        qtbot.keyClick(view.done, Qt.Key.Key_Space)
    assert view.bar.value() == count and not view.open.isEnabled()
    kept = bench.document.hangar.keyed(bench.document.held, "Groyne")
    assert len(kept) == count + 1 and WHOLE in kept
    # three edits change four steps: an output changes its failsafe, too
    bench.document.edit("leads[2].travel_pos", 77.0, "travel")
    bench.document.edit("leads[1].centre", 4.0, "centre")
    bench.document.edit("program.axes[2].settings[1].expo", 22.0, "expo")
    page.show_sheet()
    wanted = [
        "outputs/port 2",
        "outputs/port 5",
        "rates by rates_switch/yaw",
        "failsafe/failsafe 5",
    ]
    assert [x.key for x in view.standing.changed] == wanted
    assert bench.document.hangar.keyed(bench.document.held, "Headland") == {}
    bench.document.undo()
    page.show_sheet()
    assert [x.key for x in view.standing.changed] == [wanted[0], wanted[1], wanted[3]]
    view.show_step("outputs/port 2")
    assert "Changed since it was keyed in. Then: 2 · Elevator · normal" in view.state.text()
    view.done.click()
    assert [x.key for x in view.standing.changed] == [wanted[1], wanted[3]]
    # a figure read back does what the command says of the whole file
    view.show_step("servos/servo elevator")
    read = view.read
    assert read.fields[0].path == "servos.1.takes.0.above" and read.value == -100
    read._typed(100.0)
    # nobody waits for a proof that is under way: it could stand still for ever
    keying_client = bench.companions.keying
    keying_client.begin(demo_model("marram"), transmitter("Headland"))
    proof = worker("keying")._process
    assert proof is not None and keying_client.under_way
    os.kill(proof.pid, signal.SIGSTOP)
    read.ask.click()
    qtbot.waitUntil(lambda: "design has" in read.says.text(), timeout=60_000)
    os.kill(proof.pid, signal.SIGCONT)
    keying_client.stop()
    made = keyed_on(bench.loaded, "Groyne")
    (tmp_path / "read.json").write_text(settings_to_json(as_read(made, read.fields[0].path, 100.0)))
    (tmp_path / "m.json").write_text(bench.loaded.model_dump_json())
    command = ["prove", str(tmp_path / "m.json"), str(tmp_path / "read.json")]
    done = CliRunner().invoke(cli, command)
    assert done.exit_code == 1 and done.stdout.strip() == read.says.text()
    assert "Elevator" in read.says.text() and "mm elsewhere" in read.says.text()


def test_a_step_moves_the_bench_to_where_it_looks(window: Any) -> None:
    page = keying_page(window, "Skerry", "Groyne")
    page.lacks.seen.click()
    live = window.workbench.state.live.controls
    page.keying.show_step("guard test/guard 7 Throttle stick to half")
    # the switch by its position's name: Groyne begins at the other end
    assert (live["motor_switch"], live["throttle_stick"]) == (2.0, 0.0)
    page.keying.show_step("guard test/guard 2 Throttle stick low")
    assert live["throttle_stick"] == -100.0


def test_a_new_condition_takes_no_number_that_is_keyed_in() -> None:
    model = demo_model("marram")
    steps = steps_of(sheet_of(model, "Headland"))
    kept = {step.key: step.said for step in steps} | {WHOLE: "1"}
    assert standing(steps, kept).changed == ()
    # said when the snap switch goes: a condition more, before all the others
    logic = model.program.logic
    early = logic[0].changed({"name": "half_up", "label": "Half up", "x": 10.0})
    more = with_at(model, "program.logic", (early, *logic))
    said = model.program.announcements
    caption = said[0].changed({"caption": "Half up", "when": "half_up"})
    more = with_at(more, "program.announcements", (*said, caption))
    made = keying(more, transmitter("Headland"))
    numbers = kept_numbers(kept)
    assert numbers["guard_armed"] == "C53" and numbers["snap_share"] == "V2"
    again = steps_of(make_sheet(more, made, kept=numbers))
    changed = standing(again, kept).changed
    assert {x.key.split("/")[0] for x in changed} == {"conditions", "voice"}
    assert all(not x.before and x.step is not None for x in changed)
    assert changed[0].step is not None and changed[0].step.cells[0] == "C57"
    # without it all of them are no more
    gone = standing(steps, {x.key: x.said for x in again} | {WHOLE: "1"}).changed
    assert {x.key for x in gone if x.step is None} == {x.key for x in changed}


def test_ticks_come_back_with_a_model_that_was_taken_out(window: Any) -> None:
    page = keying_page(window, "Whinlark", "Headland")
    bench = window.workbench
    page.keying.done.click()
    hangar, held = bench.document.hangar, bench.document.held
    kept = hangar.keyed(held, "Headland")
    assert len(kept) == 1
    gone = hangar.taken_out(held)
    assert hangar.keyed(held, "Headland") == {}
    hangar.put_back(gone)
    assert hangar.keyed(held, "Headland") == kept and json.dumps(kept)
    page.show_sheet()
    page.keying.go(0)
    page.keying.untick.click()
    assert hangar.keyed(held, "Headland") == {}


def test_a_transmitter_changed_after_keying_in_lists_what_it_changes(
    qtbot: QtBot, window: Any
) -> None:
    page = keying_page(window, "Skerry", "Groyne")
    page.lacks.seen.click()
    for _ in page.keying.steps:
        page.keying.done.click()
    hangar = window.workbench.document.hangar
    window.go("hands")
    card = window.page("hands").transmitter
    card.which.setCurrentIndex(card.which.findText("Groyne"))
    card.which.activated.emit(card.which.currentIndex())
    assert card.profile.isHidden()
    card.has.click()
    type_into(qtbot, card.profile.fields["weight_step"], "10")
    type_into(qtbot, card.profile.fields["outputs"], "11")
    card.profile.can["fade"].click()
    kept = next(x for x in hangar.transmitters() if x.name == "Groyne")
    assert (kept.weight_step, kept.outputs) == (10.0, 11) and "fade" not in kept.can
    assert hangar.own_transmitters() == ["Groyne"] and not card.drop.isHidden()
    type_into(qtbot, card.profile.fields["outputs"], "4000")
    assert card.profile.fields["outputs"].complaint.text()
    assert next(x for x in hangar.transmitters() if x.name == "Groyne").outputs == 11
    window.go("sheet")
    page.show_sheet()
    changed = {x.key for x in page.keying.standing.changed}
    # shares of 36 and 60 are 40 and 60 now, rates of 75 are 80; failsafe and voice stay
    assert {
        "servos/servo left_flaperon+servo right_flaperon",
        "rates by rates_switch/roll",
    } <= changed
    assert not any(key.startswith(("failsafe/", "voice/", "controls/")) for key in changed)
    card.drop.click()
    page.show_sheet()
    assert page.keying.standing.changed == () and hangar.own_transmitters() == []


def test_reversal_in_the_signs_is_said_on_the_sheet(window: Any) -> None:
    page = keying_page(window, "Samphire", "Headland")
    window.go("hands")
    card = window.page("hands").transmitter
    card.which.setCurrentIndex(card.which.findText("Headland"))
    card.which.activated.emit(card.which.currentIndex())
    card.profile.reversal.setCurrentIndex(1)
    card.profile.reversal.activated.emit(1)
    window.go("sheet")
    page.show_view("sheet")
    text = page.view.toPlainText()
    assert "keeps reversal in the signs" in text and "reversed" not in text.split("Outputs")[2]
