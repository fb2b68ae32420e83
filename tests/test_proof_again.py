# SPDX-License-Identifier: GPL-3.0-or-later
"""After an edit only those outputs are proved again that it reaches; and what makes that right: parts
cut out send the same pulses, whatever stretch of frames is worked out at once."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import random_models
from faulty import demo_model
from keyed import keyed_on

from hypsos.core.base.errors import HypsosError
from hypsos.core.document.document import Model
from hypsos.core.edits.transmitters import shipped
from hypsos.core.schools.figures import Numbers
from hypsos.core.schools.keying import Keying, keying
from hypsos.core.schools.proof import Prover
from hypsos.core.schools.proof_memory import Pair, ProofMemory
from hypsos.core.schools.proof_moves import Battery, MoveMaker
from hypsos.core.schools.stand_in import machine
from hypsos.core.schools.stand_in.machine import Moves, simulate
from hypsos.core.schools.stand_in.parts import Radio, Rule, Share, Sum
from hypsos.core.schools.stand_in.played_radio import PlayedRadio
from hypsos.core.schools.stand_in.reach import reaching
from hypsos.core.sheet.slips import slips_of

FEW = 0.03
PAIRS = [("marram", "Headland"), ("skerry", "Groyne"), ("tidewrack", "Sill")]


def _pair(made: Keying) -> Pair:
    return Pair(made.reduced.model, made.radio(made.exact), made.radio(made.settings))


def _batteries(pair: Pair) -> list[Battery]:
    maker = MoveMaker(pair.design, [pair.exact, pair.rounded], FEW)
    return [maker.looks(), maker.minutes()]


def _same(one: dict[int, Numbers], two: dict[int, Numbers], ports: set[int]) -> None:
    for port in ports:
        assert np.abs(one[port] - two[port]).max() < 1e-6, port


def _parts_send_the_same(pair: Pair) -> int:
    """Play every output alone and with all others; how many parts are smaller than the whole."""
    whole, smaller = Prover(*pair), 0
    ports = set(whole._leads)
    for battery in _batteries(pair):
        wanted = whole._design(battery), *(whole._sent(r, battery) for r in pair[1:])
        for port in ports:
            part = pair.part([port])
            alone = Prover(*part)
            assert port in alone._leads
            found = alone._design(battery), *(alone._sent(r, battery) for r in part[1:])
            for one, two in zip(wanted, found, strict=True):
                _same(one, two, set(alone._leads))
            smaller += len(part.rounded.sums) < len(pair.rounded.sums)
    return smaller


@pytest.mark.parametrize(("name", "where"), PAIRS)
def test_what_reaches_an_output_sends_what_the_whole_sends(name: str, where: str) -> None:
    assert _parts_send_the_same(_pair(keyed_on(demo_model(name), where))) > 4


def test_parts_of_random_models_send_what_the_whole_sends() -> None:
    played = 0
    for seed in range(300, 305):
        model = random_models.made(seed, seed % 2 == 1)
        for profile in shipped():
            try:
                made = keying(model, profile)
            except HypsosError:  # a motor that is not off at idle is mended first
                continue
            _parts_send_the_same(_pair(made))
            played += 1
    assert played > 5


@pytest.mark.parametrize(("name", "where"), PAIRS)
def test_a_stretch_of_one_frame_and_one_of_many_are_worked_out_alike(
    name: str, where: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    pair = _pair(keyed_on(demo_model(name), where))
    for battery in _batteries(pair):
        # a second or two, with all that moves in it
        t_s = battery.t_s[:150]
        moves = Moves(t_s, {n: x[:, :150] for n, x in battery.tracks.items()})
        found = []
        for cells in (1, 7 * battery.rows, 10**6):
            monkeypatch.setattr(machine, "MOST_CELLS", cells)
            found.append(simulate(pair.rounded, moves))
        for other in found[1:]:
            _same(found[0], other, set(found[0]))


@pytest.mark.parametrize(("name", "where"), PAIRS)
def test_a_transmitter_much_like_one_that_was_played_sends_what_it_sends_alone(
    name: str, where: str
) -> None:
    pair = _pair(keyed_on(demo_model(name), where))
    battery = _batteries(pair)[0]
    moves = Moves(battery.t_s, battery.tracks)
    played, changed = PlayedRadio(pair.rounded, moves), 0
    for slip in list(slips_of(pair.rounded, str))[::17]:
        other = dict(battery.tracks)
        if slip.turned_switch:
            hand = next(x for x in pair.rounded.hands if x.name == slip.turned_switch)
            other[slip.turned_switch] = hand.positions - 1 - other[slip.turned_switch]
        moved = Moves(battery.t_s, other)
        alone = simulate(slip.radio, moved)
        _same(played.pulses(slip.radio, moved), alone, set(alone))
        changed += any(
            np.abs(alone[p] - x).max() > 1 for p, x in played.pulses(pair.rounded).items()
        )
    assert changed > 3


# -- the memory --------------------------------------------------------------------------------------


def _edited(model: Model) -> Model:
    """The model with another travel of its first surface."""
    surfaces = {s.name for s in model.airframe.surfaces}
    place = next(i for i, x in enumerate(model.leads) if x.target in surfaces and x.port)
    lead = model.leads[place]
    changed = lead.changed({"travel_pos": lead.travel_pos - 4.0})
    return model.changed({"leads": (*model.leads[:place], changed, *model.leads[place + 1 :])})


def test_after_an_edit_only_what_it_reaches_is_played_again() -> None:
    model = demo_model("skerry")
    memory = ProofMemory()
    first = memory.proved(_pair(keyed_on(model, "Groyne")))
    assert first.fault is None and first.taken_over == () and first.situations > 100
    again = memory.proved(_pair(keyed_on(model, "Groyne")))
    # nothing is new: nothing is played, and the same is known
    assert set(again.taken_over) == set(first.ports) and again.rounding == first.rounding
    edited = _pair(keyed_on(_edited(model), "Groyne"))
    played: list[str] = []
    found = memory.proved(edited, lambda _share, what: played.append(what))
    new = set(found.ports) - set(found.taken_over)
    assert len(new) == 1 and played and found.fault is None
    # undone: the first one is known still
    undone = memory.proved(_pair(keyed_on(model, "Groyne")))
    assert set(undone.taken_over) == set(first.ports)


def _wrong(radio: Radio, port: int) -> Radio:
    """A translation with a fault at a port."""
    channels = [
        x.changed({"centre": x.centre + 3.0}) if x.port == port else x for x in radio.channels
    ]
    return radio.changed({"channels": tuple(channels)})


def test_a_fault_of_the_translation_is_found_where_only_a_part_is_played() -> None:
    memory = ProofMemory()
    pair = _pair(keyed_on(demo_model("skerry"), "Groyne"))
    memory.proved(pair)
    port = next(x.port for x in pair.exact.channels)
    for _ in range(2):
        # a fault is never remembered as proved
        found = memory.proved(pair._replace(exact=_wrong(pair.exact, port)))
        assert found.fault is not None and len(found.taken_over) == len(found.ports) - 1


def test_a_translation_that_forgets_an_edit_is_found() -> None:
    """The settings are still those of before: the design's own digest has to notice."""
    memory, model = ProofMemory(), demo_model("skerry")
    before = _pair(keyed_on(model, "Groyne"))
    memory.proved(before)
    after = _pair(keyed_on(_edited(model), "Groyne"))
    found = memory.proved(before._replace(design=after.design))
    assert found.fault is not None


def test_a_proof_that_was_stopped_proves_nothing() -> None:
    memory, asked = ProofMemory(), itertools.count()
    pair = _pair(keyed_on(demo_model("skerry"), "Groyne"))
    memory.proved(pair, stopped=lambda: next(asked) > 0)
    assert memory.proved(pair).taken_over == ()


# -- hostile transmitters ----------------------------------------------------------------------------


def test_a_transmitter_as_long_as_it_may_be_is_played() -> None:
    """Nine hundred conditions and as many sums, each asking the next: in a row, and in a circle by
    what the last one was."""
    radio = _pair(keyed_on(demo_model("sorrel"), "Headland")).rounded
    many = range(900)
    rules = tuple(Rule(name=f"x{i}", kind="above", a=f"s{i}", level=50.0) for i in many)

    def held(i: int, end: str) -> Sum:
        when = (f"x{i + 1}",) if i + 1 < len(many) else (end,)
        return Sum(name=f"s{i}", shares=(Share(source="full", when=when),))

    moves = Moves(np.arange(40) * 0.02, {})
    for end in ("link", "was:x0"):
        sums = tuple(held(i, end) for i in many)
        longer = radio.changed({"rules": (*radio.rules, *rules), "sums": (*radio.sums, *sums)})
        wanted, found = simulate(radio, moves), simulate(longer, moves)
        _same(wanted, found, set(wanted))
        # nothing of it reaches an output
        assert reaching(longer, set(wanted)) == reaching(radio, set(wanted))
