# SPDX-License-Identifier: GPL-3.0-or-later
"""The gallery of behaviours in the window: shown on this aeroplane, switched off, copied, detached,
removed."""

from __future__ import annotations

from typing import Any

import pytest
from hands import choose, press, type_into
from pytestqt.qtbot import QtBot

from hypsos.core.checking.checks import problems


def test_the_gallery_shows_this_aeroplane_and_why_not(window: Any, qtbot: QtBot) -> None:
    window.go("flaps")
    page = window.page("flaps")
    page.open_gallery()
    tiles = {t.text(): t for t in page.gallery.tiles}
    qtbot.waitUntil(
        lambda: all(t.shown for t in page.gallery.tiles if t.isEnabled()), timeout=20_000
    )
    ailerons = tiles["Ailerons"]
    assert ailerons.shown[0].moves.keys() == {"left_flaperon", "right_flaperon"}
    assert ailerons.shown[0].moves["left_flaperon"] > 0 > ailerons.shown[0].moves["right_flaperon"]
    assert not tiles["Canards"].isEnabled() and "no canards" in tiles["Canards"].toolTip()
    steps: Any = []
    page.step_wanted.connect(steps.append)
    next(b for b in page.gallery.links if "flight modes" in b.text()).click()
    assert steps == ["modes"] and window.pages.currentWidget().key == "modes"
    window.go("flaps")
    page.gallery.grab()
    count = len(window.workbench.model.program.recipes)
    tiles["Aileron to rudder"].click()
    assert len(window.workbench.model.program.recipes) == count + 1 and page.gallery.isHidden()
    window.workbench.document.undo()
    assert len(window.workbench.model.program.recipes) == count


def test_behaviours_are_switched_off_copied_detached_and_attached_again(
    window: Any, qtbot: QtBot
) -> None:
    choose(window, "Tidewrack")
    window.go("flaps")
    bench, page = window.workbench, window.page("flaps")
    bench.simulation.set_control("brake_slider", 100.0)
    bench.simulation.advance(3.0)
    sums = {n: float(x[-1]) for n, x in bench.state.live.result.sums.items()}
    page.rows[1].on.click()
    assert not bench.model.program.recipes[1].on and "switched off" in page.rows[1].summary.text()
    bench.simulation.advance(3.0)
    assert abs(bench.state.live.result.sums["left_aileron"][-1]) < 1e-9
    page.rows[1].on.click()
    press(page.cards[1], "Copy")
    copy = bench.model.program.recipes[2]
    assert (
        copy.label == "Four-aileron brakes 2"
        and copy.signal != bench.model.program.recipes[1].signal
        and not copy.on
    )
    bench.document.undo()
    press(page.cards[1], "Detach")
    bench.simulation.advance(3.0)
    now_ = {n: float(x[-1]) for n, x in bench.state.live.result.sums.items()}
    surfaces = [s.name for s in bench.model.airframe.surfaces]
    assert {n: now_[n] for n in surfaces} == pytest.approx({n: sums[n] for n in surfaces})
    at = next(
        i
        for i, m in enumerate(bench.model.program.mixes)
        if m.origin and m.target == "left_aileron"
    )
    type_into(qtbot, page.mixes[at], "-50")
    press(page, "Attach again")
    back = bench.model.program.recipes[-1]
    assert back.label == "Four-aileron brakes" and not bench.model.program.detached
    assert all(m.origin is None for m in bench.model.program.mixes)
    index = next(i for i, r in enumerate(bench.model.program.recipes) if r.kind == "crow")
    type_into(qtbot, page.cards[index].fields["amounts.left_aileron"], "30 % up")
    assert {a.travel for a in bench.model.program.recipes[index].amounts} == {-30.0, 40.0}
    type_into(qtbot, page.cards[index].fields["amounts.left_lower_aileron"], "0")
    assert len(bench.model.program.recipes[index].amounts) == 1
    type_into(qtbot, page.cards[index].fields["amounts.left_aileron"], "0")
    assert not page.cards[index].fields["amounts.left_aileron"].complaint.isHidden()


def test_removing_what_others_read_says_who_and_offers_to_detach(window: Any) -> None:
    choose(window, "Marram")
    window.go("flaps")
    bench, page = window.workbench, window.page("flaps")
    page.cards[2].remove()
    assert (
        "Ailerons" in window.notice.text.text() and "Crow brakes gave" in window.notice.text.text()
    )
    assert list(problems(bench.model)) == [] and "brake" in bench.model.program.signal_labels()
    bench.document.edit("note", "x", "a note")
    press(window.notice, "Detach it instead")
    assert (
        "other edits have been made" in window.notice.text.text().lower()
    )  # what it would undo is another step by now
    bench.document.undo()
    bench.document.undo()
    page.cards[2].remove()
    press(window.notice, "Detach it instead")
    assert any(m.origin == "crow" for m in bench.model.program.mixes)


def test_the_gallery_shuts_when_the_model_is_another_one(window: Any) -> None:
    window.go("flaps")
    page = window.page("flaps")
    page.open_gallery()
    assert page.gallery.isVisible()
    choose(window, "Skerry")
    assert page.gallery.isHidden()
