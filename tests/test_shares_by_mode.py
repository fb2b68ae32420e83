# SPDX-License-Identifier: GPL-3.0-or-later
"""Shares that a shared value multiplies: a figure of its own for each flight mode, or one that is
set in flight."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pytestqt.qtbot import QtBot
from test_one_edge import LEFT, RIGHT, SLIDER, sailplane

from hypsos.core.checking.checks import problems
from hypsos.core.document.document import Model
from hypsos.core.document.paths import with_at
from hypsos.core.edits.behaviours import added, offers
from hypsos.core.edits.detach import detached
from hypsos.core.edits.shared_values import freed, tunable_users
from hypsos.core.engine import Situation, compile_plan
from hypsos.core.parts.flight_mode import FlightMode
from hypsos.core.parts.tunables import Tunable
from hypsos.core.recipes import RECIPES
from hypsos.core.shape.templates import TEMPLATES

SHARE = Tunable(name="bite", label="Bite", low=0, high=100, value=100, by_mode={"thermal": 50})
MODES = (FlightMode(name="thermal", when="flap_switch@2", fade_s=0.0), FlightMode(name="plain"))


def with_bite(model: Model, **fields: str) -> Model:
    """The model with the shared value *bite*, by which fields of its behaviours go: kind of
    behaviour and field."""
    model = with_at(model, "program.tunables", (SHARE,))
    model = with_at(model, "program.modes", MODES)
    for place, field in fields.items():
        i = next(i for i, r in enumerate(model.program.recipes) if r.kind == place)
        model = with_at(model, f"program.recipes[{i}].{field}", "bite")
    assert list(problems(model)) == []
    return model


def turned(model: Model, names: tuple[str, ...], **hands: float) -> list[float]:
    """Where surfaces stand in percent of their outputs, at rest."""
    controls = {n: np.array([v]) for n, v in {"rates_switch": 2.0, **hands}.items()}
    result = compile_plan(model).run(Situation.of(np.array([0.0]), controls))
    return [float(np.ravel(result.sums[n])[0]) for n in names]


def test_the_differential_of_ailerons_by_mode() -> None:
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    i = next(i for i, r in enumerate(model.program.recipes) if r.kind == "ailerons")
    model = with_at(model, f"program.recipes[{i}].edge_deg", None)
    model = with_bite(
        with_at(model, f"program.recipes[{i}].differential", 60.0), ailerons="differential_from"
    )
    pair, right = ("left_aileron", "right_aileron"), {"aileron_stick": 100.0}
    up = turned(model, pair, **right, flap_switch=0.0)[1]
    down, less = (turned(model, pair, **right, flap_switch=x)[0] for x in (0.0, 2.0))
    assert up < -50 and turned(model, pair, **right, flap_switch=2.0)[1] == pytest.approx(up)
    assert down == pytest.approx(-0.4 * up) and less == pytest.approx(
        -0.7 * up
    )  # 60 % less, and half of that


@pytest.mark.parametrize(
    ("value", "left"), [(0, 100), (50, 70), (100, 40), (150, 10), (250, 0), (-80, 100)]
)
def test_a_differential_takes_no_more_than_all_and_gives_nothing(value: float, left: float) -> None:
    model = TEMPLATES["v_tail_sailplane"].make("Trial")
    i = next(i for i, r in enumerate(model.program.recipes) if r.kind == "ailerons")
    for field, figure in (("edge_deg", None), ("differential", 60.0)):
        model = with_at(model, f"program.recipes[{i}].{field}", figure)
    model = with_bite(model, ailerons="differential_from")
    model = with_at(
        model,
        "program.tunables",
        (SHARE.changed({"low": -300, "high": 300, "value": value, "by_mode": {}}),),
    )
    pair = ("left_aileron", "right_aileron")
    down, up = turned(model, pair, aileron_stick=100.0)
    assert down == pytest.approx(-up * left / 100)
    own = freed(model, "bite", value)  # and the figure that is kept for good does the same
    assert turned(own, pair, aileron_stick=100.0) == pytest.approx([down, up])
    plain = detached(model, i)
    assert turned(freed(plain, "bite", value), pair, aileron_stick=100.0) == pytest.approx(
        [down, up]
    )


def test_the_rudder_with_the_ailerons_by_mode() -> None:
    model = TEMPLATES["trainer"].make("Trial")
    model = with_at(model, "transmitter.controls", (*model.transmitter.controls, flap_switch()))
    model = added(
        model,
        next(
            o.made
            for o in offers(model)
            if o.made is not None and o.made.kind == "coordinated_turn"
        ),
    )
    model = with_bite(model, coordinated_turn="helps_from")
    whole, half = (
        turned(model, ("rudder",), aileron_stick=100.0, flap_switch=x)[0] for x in (0.0, 2.0)
    )
    assert whole > 5 and half == pytest.approx(whole / 2)
    own = freed(model, "bite", 50)
    assert turned(own, ("rudder",), aileron_stick=100.0, flap_switch=0.0)[0] == pytest.approx(half)


def test_the_ailerons_follow_the_camber_by_mode() -> None:
    model = with_bite(sailplane("camber_follow"), camber_follow="to_ailerons_from")
    names = (*LEFT, *RIGHT)
    whole, half = (turned(model, names, slider=100.0, flap_switch=x) for x in (0.0, 2.0))
    flap = [turned(sailplane(), names, flap_switch=x)[0] for x in (0.0, 2.0)]
    assert half[1] == pytest.approx(whole[1] / 2) and whole[1] > 5
    assert half[0] > flap[1] and whole[0] > flap[0]  # the flaps themselves go on


def flap_switch() -> Any:
    return SLIDER.changed(
        {
            "name": "flap_switch",
            "label": "Flaps",
            "kind": "switch",
            "positions": ("up", "half", "down"),
        }
    )


def test_every_behaviour_names_who_goes_by_a_shared_value() -> None:
    """Each field that takes one: the check knows a name that is missing, and whoever goes by it is
    told by name."""
    tried = []
    for key in TEMPLATES:
        base = with_at(TEMPLATES[key].make("Trial"), "program.modes", MODES[1:])
        for made in (o.made for o in offers(base) if o.made is not None):
            for parameter in made.of("shared"):
                gone = added(base, made.changed({parameter.key: "bite"}))
                wrong = [p for p in problems(gone) if "bite" in p.text]
                assert wrong, (key, made.kind, parameter.key)
                known = with_at(gone, "program.tunables", (SHARE.changed({"by_mode": {}}),))
                assert [p for p in problems(known) if "bite" in p.text] == []
                assert made.label in tunable_users(known, "bite")
                tried.append((made.kind, parameter.key))
    wanted = {(r.model_fields["kind"].default, p.key) for r in RECIPES for p in r.of("shared")}
    assert set(tried) >= {w for w in wanted if w[0] in {k for k, _ in tried}}
    assert ("coordinated_turn", "helps_from") in tried


def test_a_new_shared_value_is_made_where_it_is_wanted(qtbot: QtBot, window: Any) -> None:
    """One choice on the card: it stands at 100 %, nothing moves otherwise, and a figure by mode
    works at once."""
    window.workbench.document.open("Marram")
    bench = window.workbench
    window.go("flaps")
    i = next(i for i, r in enumerate(bench.loaded.program.recipes) if r.kind == "ailerons")
    card = window.page("flaps").cards[i]
    before = turned(bench.loaded, ("left_aileron", "right_aileron"), aileron_stick=100.0)
    for expected in (
        "Ailerons: differential: less going down",
        "Ailerons: differential: less going down 2",
    ):
        box = card.choices["differential_from"]
        box.setCurrentIndex(box.findText("a new one"))
        box.activated.emit(box.currentIndex())
        made = bench.loaded.program.tunables[-1]
        assert made.label == expected and made.value == 100.0
        assert (
            bench.loaded.program.recipes[i].differential_from == made.name
            and box.currentText() == expected
        )
        assert "Set it by flight mode" in window.notice.text.text()
    assert turned(
        bench.loaded, ("left_aileron", "right_aileron"), aileron_stick=100.0
    ) == pytest.approx(before)
    bench.document.undo()
    bench.document.undo()
    assert bench.loaded.program.recipes[i].differential_from is None
