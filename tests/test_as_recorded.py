"""The demo's sheets, cards, run-downs and pages word for word, and the templates figure for figure, as they were last read.

Nothing here says that they are right; other tests do. It says that no figure and no word of them changes unseen. After a
change that is meant, write them anew and read what has changed:

    HYPSOS_RECORD=1 .venv/bin/python -m pytest tests/test_as_recorded.py && git diff tests/data/recorded
"""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from hands import choose, every_view
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLabel, QLineEdit, QPlainTextEdit, QWidget

from hypsos.core.model.document import Model
from hypsos.core.rundown import attentions, step_states
from hypsos.core.shape.solid import solid
from hypsos.core.shape.templates import TEMPLATES
from hypsos.core.sheet import SCHOOLS, make_sheet, sheet_html, sheet_markdown
from hypsos.core.sheet.card import port_card

RECORDED = Path(__file__).parent / "data" / "recorded"
DEMO = ("Marram", "Samphire", "Sandpiper", "Skerry", "Sorrel", "Tidewrack", "Whinlark")


def as_it_is(name: str, text: str) -> None:
    """Compare with what was recorded, or record it."""
    path = RECORDED / name
    if os.environ.get("HYPSOS_RECORD"):
        path.parent.mkdir(exist_ok=True)
        path.write_text(text)
    assert text == path.read_text(), f"{name} is not as it was recorded; see the head of this file"


def written(model: Model) -> Iterator[str]:
    """All that goes on paper, and what the run-down says."""
    for school in SCHOOLS:
        yield f"School: {school}\n"
        yield sheet_markdown(make_sheet(model, school))
    yield sheet_markdown(port_card(model))
    for key, state in step_states(model, 0).items():
        yield f"{key}: {state.name}"
    for x in attentions(model):
        yield f"{x.step}: {x.text}"


def digest(text: str) -> str:
    """A short name of a text."""
    return hashlib.sha1(text.encode()).hexdigest()[:12]


def shape(model: Model) -> str:
    """The corners and normals of all its faces, what hinges turned by ten degrees; to half a millimetre, and a twentieth."""
    body = solid(model.airframe)
    faces = (*body.fixed, *(h.turned(10.0) for h in body.hinged))
    figures = [x * fine for f in faces for x, fine in ((f.corners, 2.0), (f.normals, 20.0))]
    return str([np.floor(x + 0.1234).astype(int).tolist() for x in figures])


@pytest.mark.parametrize("name", DEMO)
def test_what_is_written_of_a_demo_model_is_as_it_was_read(hangar, name):
    as_it_is(f"{name.lower()}.md", "\n".join(written(hangar.load(name))) + "\n")


def test_the_figures_and_the_shapes_are_as_they_were_recorded(hangar):
    models = {n: hangar.load(n) for n in DEMO} | {k: t.make("New one") for k, t in TEMPLATES.items()}
    rows = {
        n: {
            "document": digest(json.dumps(m.model_dump(mode="json"), sort_keys=True)),
            "paper": digest("\n".join(written(m)) + sheet_html(make_sheet(m))),
            "shape": digest(shape(m)),
        }
        for n, m in models.items()
    }
    as_it_is("digests.json", json.dumps(rows, indent=1) + "\n")


def standing(widget: QWidget) -> str:
    """What a person sees and hears of a label, a button or a field; nothing of anything else."""
    if isinstance(widget, QLabel):
        said = widget.text()
    elif isinstance(widget, QAbstractButton):
        mark = ("[x] " if widget.isChecked() else "[ ] ") if widget.isCheckable() else "> "
        said = mark + widget.text()
    elif isinstance(widget, QComboBox):
        said = " / ".join(f"*{x}*" if k == widget.currentIndex() else x for k, x in enumerate(items(widget)))
    elif isinstance(widget, QLineEdit | QPlainTextEdit):
        said = "= " + (widget.text() if isinstance(widget, QLineEdit) else widget.toPlainText())
    else:
        return ""
    more = (widget.accessibleName(), widget.toolTip(), "" if widget.isEnabled() else "cannot be used now")
    return " | ".join(x for x in (said, *more) if x and x != "= ").replace("\n", " ")


def items(box: QComboBox) -> list[str]:
    """All that it offers."""
    return [box.itemText(k) for k in range(box.count())]


@pytest.mark.parametrize("name", ["Samphire", "Marram"])
def test_the_pages_say_what_they_said_when_they_were_read(window, name):
    choose(window, name)
    rows: list[str] = []
    for page, view in every_view(window):
        if not view.startswith(("log", "shake")):  # they say what day it is, and how far a search has come
            shown = (standing(w) for w in page.findChildren(QWidget) if w.isVisible())
            rows += [f"# {view}", *(x for x in shown if x), ""]
    as_it_is(f"{name.lower()}-pages.txt", "\n".join(rows))
