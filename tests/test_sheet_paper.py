# SPDX-License-Identifier: GPL-3.0-or-later
"""The sheet on paper, its checks, its field card: what stands on it, and what a pilot can rely on."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from click.testing import CliRunner
from faulty import demo_model
from keyed import keyed_on, sheet_of
from PyQt6.QtCore import QSizeF
from PyQt6.QtGui import QImage
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from pytestqt.qtbot import QtBot

from hypsos.cli import cli
from hypsos.core.document.document import Model
from hypsos.core.engine.plan import compile_plan
from hypsos.core.engine.situation import Situation
from hypsos.core.schools.keying import Keying
from hypsos.core.schools.ruler import Ruler
from hypsos.core.sheet import make_sheet
from hypsos.core.sheet.chosen_checks import Checks, choose_checks
from hypsos.core.sheet.field_card import field_card
from hypsos.core.sheet.looks import HandsLook, LookPlayer, stilled
from hypsos.core.sheet.slips import slips_of
from hypsos.desk.services.card_paper import CardPages
from hypsos.desk.services.sheet_paper import FOOT, PER_POINT, SheetPages
from hypsos.desk.theme import look as theme

load_fonts = pytest.fixture(autouse=True)(lambda qapp: theme.load_fonts())
"""Paper is measured in the type that is printed."""
A4, LETTER = QSizeF(595.0, 842.0), QSizeF(612.0, 792.0)
DEMO = ("samphire", "sandpiper", "skerry", "sorrel", "whinlark", "tidewrack", "marram")
ON = {"samphire": "Sill", "sandpiper": "Sill", "marram": "Headland"}


@pytest.fixture(scope="module")
def samphire_checks() -> tuple[Model, Keying, Checks]:
    model = demo_model("samphire")
    made = keyed_on(model, "Sill")
    checks = choose_checks(made)
    assert checks is not None
    return model, made, checks


@pytest.mark.parametrize("size", [A4, LETTER])
@pytest.mark.parametrize("name", DEMO)
def test_no_row_is_split_and_no_heading_stands_alone(qtbot: QtBot, name: str, size: QSizeF) -> None:
    sheet = sheet_of(demo_model(name), ON.get(name, "Groyne"))
    pages = SheetPages(sheet, size).pages
    foot = size.height() * PER_POINT - FOOT
    for page in pages:
        assert page and all(top + piece.tall <= foot + 1.0 for _, top, piece in page)
        for left in {left for left, _, _ in page}:
            column = [piece for at, _, piece in page if at == left]
            assert not column[-1].leads
    drawn = [piece for page in pages for _, _, piece in page]
    rows = sum(len(block.rows) for block in sheet.blocks)
    assert len(drawn) > rows and len(pages) <= 5


def test_the_sheet_of_the_tug_is_three_pages(qtbot: QtBot, samphire_checks: Any) -> None:
    model, made, checks = samphire_checks
    lines = ("Shaken down: 1,204 situations, none dangerous.", "Played against the design.")
    sheet = make_sheet(model, made, None, lines, checks)
    assert len(SheetPages(sheet, A4).pages) == 3


def test_the_looks_show_nearly_every_slip_and_read_what_the_engine_says(
    samphire_checks: Any,
) -> None:
    _, made, checks = samphire_checks
    assert len(checks.looks) <= 12 and checks.slips > 50
    assert checks.found + checks.unseen == checks.slips and checks.found >= 0.95 * checks.slips
    reduced, ruler = made.reduced.model, Ruler(made.reduced.model)
    plan = compile_plan(reduced)
    t = np.arange(400) * 0.02
    for look in checks.looks:
        hands = {name: np.where(t < 2.0, plan.rest[name], value) for name, value in look.hands}
        outputs = plan.run(Situation.of(t, hands)).outputs
        for figure, port in zip(look.figures, sorted(ruler.leads), strict=True):
            trace = outputs[ruler.leads[port].name]
            told = figure.split("\n")
            assert float(told[-1]) == pytest.approx(float(np.ravel(trace.us)[-1]), abs=0.51)
            if trace.mm is not None and told[0] != "0":
                size = re.match(r"[\d.]+", told[0])
                assert size is not None
                mm = abs(float(np.ravel(trace.mm)[-1]))
                assert float(size.group()) == pytest.approx(mm, abs=0.051)


def test_a_preset_of_one_percent_is_read_on_the_monitor() -> None:
    """Race lifts both elevons of the glider by 1 %: 5 µs, a fifth of a millimetre."""
    checks = choose_checks(keyed_on(demo_model("whinlark"), "Headland"))
    assert checks is not None and checks.missed == () and checks.by_monitor >= 4


def test_what_a_look_shows_is_seen_where_the_slip_is_made() -> None:
    """Every slip that changes a pulse in a look that was chosen changes it on the transmitter that
    has it, and a motor told to run by one shows it."""
    made = keyed_on(demo_model("skerry"), "Groyne")
    checks = choose_checks(made)
    assert checks is not None and checks.unseen == 0
    radio = stilled(made.radio(made.settings))
    player = LookPlayer(made.reduced.model, radio, made.at_rest())

    looks = [HandsLook(look.hands) for look in checks.looks]
    wanted = player.pulses(radio, looks)
    slips = [x for x in slips_of(radio, str) if not x.half and not x.ports[0]]
    off = [np.abs(player.pulses(x.radio, looks, x.turned_switch) - wanted).max() for x in slips]
    assert len(slips) > 40 and min(off) > 4.99


@pytest.mark.parametrize("name", DEMO)
def test_the_sheet_covers_every_setting(name: str) -> None:
    for on in ("Sill", "Groyne", "Headland"):
        made = keyed_on(demo_model(name), on)
        sheet = make_sheet(made.design, made)
        covered = {path for block in sheet.blocks for row in block.rows for path in row.covers}
        data = made.settings.model_dump(mode="json")
        said = {"hands", "own_functions", "cut"}  # by names that stand on the sheet
        for table, things in data.items():
            if not isinstance(things, list) or table in said or not things:
                continue
            left = {f"{table}.{i}" for i in range(len(things))}
            left -= {re.sub(r"(\.\d+)\..*", r"\1", path) for path in covered}
            assert not left, (on, left)
        assert {f"failsafe.ports.{port}" for port in data["failsafe"]["ports"]} <= covered


def test_the_field_card_stands_on_two_sides(qtbot: QtBot, tmp_path: Path) -> None:
    for name in DEMO:
        model = demo_model(name)
        card = field_card(model, keyed_on(model, ON.get(name, "Groyne")))
        assert CardPages(card).fits and {x.key for x in card.back.blocks} >= {
            "throws",
            "failsafe",
            "each",
        }
        assert bool(card.cut) == bool(model.airframe.motors)
    # Groyne begins towards the pilot: cut stays at the end where it was
    card = field_card(demo_model("skerry"), keyed_on(demo_model("skerry"), "Groyne"))
    assert card.cut == "Motor cut: Motor switch at cut, away from you"
    motor = next(x for x in card.controls if x.label == "Motor switch")
    assert motor.positions == ("cut", "normal", "differential") and motor.cut == {"cut"}
    throws = next(x for x in card.back.blocks if x.key == "throws").rows[0].cells[1]
    assert "high: 21.3 up, 12.9 down" in throws
    out = tmp_path / "card.png"
    done = CliRunner().invoke(
        cli, ["--demo", "card", "Skerry", "--transmitter", "Groyne", "--out", str(out)]
    )
    assert done.exit_code == 0 and QImage(str(out)).width() == 909


def test_print_goes_to_the_printer_that_was_chosen(
    qtbot: QtBot, window: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.go("sheet")
    page, out = window.page("sheet"), tmp_path / "printed.pdf"

    def chosen(dialog: QPrintDialog) -> QPrintDialog.DialogCode:
        printer = dialog.printer()
        assert printer is not None and printer.pageLayout().pageSize().name() == "A4"
        printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
        printer.setOutputFileName(str(out))
        return QPrintDialog.DialogCode.Accepted

    monkeypatch.setattr(QPrintDialog, "exec", chosen)
    page.print.click()
    assert out.read_bytes().startswith(b"%PDF") and out.stat().st_size > 20_000
    monkeypatch.setattr(QPrintDialog, "exec", lambda _: QPrintDialog.DialogCode.Rejected)
    out.unlink()
    page.print.click()
    assert not out.exists()
