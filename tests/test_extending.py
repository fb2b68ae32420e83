# SPDX-License-Identifier: GPL-3.0-or-later
"""A behaviour, a statement, a kind of condition, a step, a school and a format of the sheet are a
file and a line each: one of each is added to a copy, and used."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

SRC = Path(__file__).parents[1] / "src"

RECIPE = """
from typing import ClassVar, Literal
from hypsos.core.base.values import Label, Share
from hypsos.core.parts.mix_lines import MixLine
from hypsos.core.recipes.recipe_base import MadeLine, Parameter, Parts, RecipeBase

class PullFlap(RecipeBase):
    title: ClassVar[str] = "Pull flap"
    about: ClassVar[str] = "Flaps help the elevator."
    missing: ClassVar[str] = "there are no flaps"
    comes: ClassVar[bool] = False
    parameters: ClassVar[tuple[Parameter, ...]] = (
        Parameter("share", "With the elevator"), Parameter("surfaces", "Moves", kind="parts", roles=("flap", "flaperon")),
    )
    kind: Literal["pull_flap"] = "pull_flap"
    label: Label = "Pull flap"
    surfaces: Parts
    share: Share = 20.0

    @classmethod
    def begin(cls, ground):
        left, right = ground.sides("flap", "flaperon")
        return cls(surfaces=left + right) if left else None

    def expand(self, controls):
        for name in self.surfaces:
            yield MadeLine(MixLine(name=self.label, target=name, source="pitch", gain=self.share, when=self.when), "share")
"""
PAGE = """
from hypsos.desk.pages.step_page import StepPage
from hypsos.desk.widgets.page_layout import label

class WeightPage(StepPage):
    key = "weight"
    def build(self):
        self.said = label("")
        self.column.addWidget(self.said)
    def refresh(self):
        self.said.setText(self.workbench.model.name)
"""
SCHOOL = """
from hypsos.core.schools.by_lines.lines_school import SCHOOL as BY_LINES

def translate(model, steps, transmitter):
    return BY_LINES.translate(model, steps._replace(centre_us=25.0), transmitter)

SCHOOL = BY_LINES._replace(name="in fives", title="Lines with centres in steps of five", translate=translate)
"""
STATEMENT = """
from hypsos.core.document.paths import with_at
from hypsos.core.review.findings import Finding
from hypsos.core.review.rules.statement import DocumentQuestion, Statement

def short(model):
    if len(model.name) > 5:
        yield Finding("N1", "advice", "name", f"{model.name} is a long name to call across a field.")

def on_paper(ask):
    yield DocumentQuestion("the name", lambda: short(ask.model), 1)

def repairs(model, finding):
    yield "Call it by its first letters", lambda: with_at(model, "name", model.name[:5])

STATEMENT = Statement("N1", "The model has a name that can be called.", "advice", "names", document=on_paper, repairs=repairs)
"""
CONDITION = """
from typing import Annotated, ClassVar, Literal
from pydantic import Field
from hypsos.core.conditions.condition_base import ConditionBase
from hypsos.core.conditions.world import reader
from hypsos.core.parts.condition_text import Condition

class Majority(ConditionBase):
    kind: Literal["majority"] = "majority"
    of: Annotated[tuple[Condition, ...], Field(min_length=1, max_length=15)]
    WRAPS: ClassVar[dict[str, str]] = {"majority": "most of these hold"}

    def asks(self):
        return tuple((f"of[{k}]", text) for k, text in enumerate(self.of))

    def work(self):
        readers = [reader(text) for text in self.of]
        def work(world, memory):
            holding = sum(world.backend.where(read(world), 1, 0) for read in readers)
            world.flags[self.name] = holding * 2 > len(readers)
        return work

    def said(self, words, position):
        return "most of (" + "; ".join(map(words.phrase, self.of)) + ")"

    def reason(self, moment, now):
        return f"{sum(map(moment.holds, self.of))} of {len(self.of)} hold"

    def write(self, writer):
        writer.kind("most of these hold:")
        for field, _ in self.asks():
            writer.below(field)
        writer.more("of")

    @classmethod
    def around(cls, kind, name, inner, other):
        return cls(name=name, of=(inner, other))
"""
FORMAT = """
def sheet_lines(sheet):
    return "\\n".join(";".join(row.cells) for block in sheet.blocks for row in block.rows)
"""
RIDE = """
from pathlib import Path
import sys
from PyQt6.QtWidgets import QPushButton
from hypsos.core.checking.checks import problems
from hypsos.core.checking.reader import from_json
from hypsos.core.document.document import to_json
from hypsos.core.rundown import STEPS
from hypsos.core.edits.transmitters import shipped
from hypsos.core.shape.adapt_model import adapted
from hypsos.core.shape.layout_choices import without_part
from hypsos.desk.app import application, open_workbench
from hypsos.desk.window import Window
from hypsos.hangar.places import demo_hangar

app = application("light")
window = Window(open_workbench(demo_hangar(Path(sys.argv[1])), "Samphire"))
window.show()
for _ in range(20):
    app.processEvents()
bench = window.workbench
window.go("flaps")
page = window.page("flaps")
page.open_gallery()
next(tile for tile in page.gallery.tiles if tile.text() == "Pull flap").click()
assert page.cards[-1].recipe().share == 20 and list(problems(bench.model)) == []
page.cards[-1].fields["share"]._take(30.0)
assert from_json(to_json(bench.model)) == bench.model
rest = bench.state.live.result.sums["left_flaperon"][-1]
bench.simulation.set_control("elevator_stick", -100.0)
bench.simulation.advance(1)
assert bench.state.live.result.sums["left_flaperon"][-1] > rest + 8
assert "recipe Pull flap" in adapted(bench.model, without_part(bench.model.airframe, "right_flaperon")).let_go
window.go("sheet")
bench.document.edit("leads[0].centre", 8.0, "centre")
page = window.page("sheet")
page.show_sheet()
assert "1540" in page.view.toPlainText()
bench.document.hangar.keep_transmitter(shipped()[2].changed({"name": "Fives", "school": "in fives"}))
page.show_sheet()
page.transmitter.setCurrentIndex(page.transmitter.findText("Fives"))
page.transmitter.activated.emit(page.transmitter.currentIndex())
assert "1550" in page.view.toPlainText() and "steps of five" in page.view.toPlainText()
window.go("flaps")
window.page("flaps").cards[-1].detach()
assert all(r.kind != "pull_flap" for r in bench.model.program.recipes)
for step in STEPS:
    window.go(step.key)
    app.processEvents()
    assert window.pages.currentWidget().key == step.key
window.go("weight")
assert window.page("weight").said.text() == "Samphire" and window.rundown.current == "weight"
window.rundown.grab()

from hypsos.core.edits.condition_choices import ConditionPlace, chosen, kinds, with_named
from hypsos.core.edits.condition_sentence import sentence
from hypsos.core.document.paths import with_at
from hypsos.core.explain.explain_condition import Moment
from hypsos.core.wording.describe_condition import node_named, node_phrase
model, name = with_named(bench.model, "Most")
place = ConditionPlace(name=name)
assert any(x.key == "wrap:majority" and x.label == "most of these hold" for x in kinds(model, place))
last = len(model.program.logic) - 1
model = with_at(chosen(model, place, "wrap:majority"), f"program.logic[{last}].of", ("link", "power", "!link"))
assert from_json(to_json(model)) == model and list(problems(model)) == []
node = node_named(model, name)
assert node_phrase(model, node) == "most of (link up; receiver powered; link lost)"
assert sentence(model, place)[0].words[0].text == "most of these hold:"
bench.document.apply(model, "a majority")
assert bench.state.moment.holds(name) and bench.state.moment.because(name) == "2 of 3 hold"
bench.simulation.set_power(False)
bench.simulation.advance(1)
assert not bench.state.moment.holds(name)

from hypsos.core.review.findings import Ask
from hypsos.core.review.repairs import repairs
from hypsos.core.review.shakedown import shake
(found,) = shake(Ask(bench.model), ("N1",)).findings
assert found.text == "Samphire is a long name to call across a field."
assert [r.model.name for r in repairs(bench.model, found)] == ["Samph"]
assert not [f for f in shake(Ask(bench.model), ("L2",)).findings if "Most" in f.text and "never" in f.text]

window.go("sheet")
page = window.page("sheet")
assert "Save as lines…" in [b.text() for b in page.findChildren(QPushButton)]
page._write(Path(sys.argv[1]) / "sheet.csv")
assert (Path(sys.argv[1]) / "sheet.csv").read_text().startswith("Motor switch;2 places;")
window.close()
print("whole")
"""


def line_in(file: Path, before: str, line: str) -> None:
    text = file.read_text()
    assert text.count(before) == 1, (file, before)
    file.write_text(text.replace(before, line + before))


def test_what_is_added_is_a_file_and_a_line_each(tmp_path: Path) -> None:
    copy = tmp_path / "src"
    shutil.copytree(SRC, copy, ignore=shutil.ignore_patterns("__pycache__"))
    core, desk = copy / "hypsos/core", copy / "hypsos/desk"
    (core / "recipes/pull_flap.py").write_text(RECIPE)
    file = core / "recipes/__init__.py"
    line_in(file, "RECIPES: tuple", "from hypsos.core.recipes.pull_flap import PullFlap\n\n")
    file.write_text(
        file.read_text().replace(
            "GearWithDoors, StickScaling,\n", "GearWithDoors, StickScaling, PullFlap,\n"
        )
    )
    (desk / "pages/weight_page.py").write_text(PAGE)
    line_in(
        core / "rundown.py",
        '    WorkStep("sheet",',
        '    WorkStep("weight", "Weigh it", _flown),\n',
    )
    (core / "schools/in_fives.py").write_text(SCHOOL)
    schools = core / "schools/__init__.py"
    line_in(
        schools, "SCHOOLS: dict", "from hypsos.core.schools.in_fives import SCHOOL as FIVES\n\n"
    )
    schools.write_text(schools.read_text().replace("BY_FUNCTION)}", "BY_FUNCTION, FIVES)}"))
    formats = core / "sheet/__init__.py"
    (core / "sheet/lines_sheet.py").write_text(FORMAT)
    line_in(
        formats,
        "from hypsos.core.sheet.markdown_sheet",
        "from hypsos.core.sheet.lines_sheet import sheet_lines\n",
    )
    line_in(
        formats, '    ".md":', '    ".csv": SheetFormat("Lines", "Save as lines…", sheet_lines),\n'
    )
    rules = core / "review/rules"
    (rules / "callable_name.py").write_text(STATEMENT)
    line_in(
        rules / "__init__.py", "    cancelled_lines,\n    channel_defaults", "    callable_name,\n"
    )
    line_in(
        rules / "__init__.py",
        "    conditions_in_use, flicker, announcements_due,\n",
        "    callable_name,\n",
    )
    (core / "conditions/majority.py").write_text(CONDITION)
    kinds = core / "conditions/__init__.py"
    line_in(kinds, "KINDS: tuple", "from hypsos.core.conditions.majority import Majority\n\n")
    kinds.write_text(
        kinds.read_text().replace("Latch, Counter, Gate)", "Latch, Counter, Gate, Majority)")
    )
    (tmp_path / "ride.py").write_text(RIDE)
    environment = os.environ | {"PYTHONPATH": str(copy), "QT_QPA_PLATFORM": "offscreen"}
    ride = subprocess.run(
        [sys.executable, str(tmp_path / "ride.py"), str(tmp_path)],
        env=environment,
        capture_output=True,
        text=True,
        timeout=120,
    )
    assert ride.returncode == 0 and ride.stdout == "whole\n", ride.stderr
