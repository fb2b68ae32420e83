# SPDX-License-Identifier: GPL-3.0-or-later
"""After an edit only those outputs are proved again that it reaches; and what makes that right: parts
cut out send the same pulses, whatever stretch of frames is worked out at once."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import random_models
from faulty import demo_model
from keyed import keyed_on, transmitter

from hypsos.core.document.document import Model
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


@pytest.mark.parametrize(
    ("seed", "where"),
    # shared values that are stepped, set and kept, by conditions and in modes; what somebody was
    [(301, "Headland"), (310, "Headland"), (311, "Groyne"), (324, "Headland")],
)
def test_parts_of_random_models_send_what_the_whole_sends(seed: int, where: str) -> None:
    made = keyed_on(random_models.made(seed, seed % 2 == 1), where)
    assert _parts_send_the_same(_pair(made)) > 4


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
        radio = _looking_back(pair.rounded)
        for cells in (1, 7 * battery.rows, 10**6):
            monkeypatch.setattr(machine, "MOST_CELLS", cells)
            found.append(simulate(radio, moves))
        for other in found[1:]:
            _same(found[0], other, set(found[0]))


def _looking_back(radio: Radio) -> Radio:
    """The radio with a first output that goes by where a switch was in the frame before, and by a
    sum that goes by itself as it was, in a mode."""
    switch = next(x.name for x in radio.hands if x.positions)
    was = Share(source="full", above=30.0, below=30.0, when=(f"was:{switch}@1", f"!{switch}@1"))
    modes = tuple(mode.name for mode in radio.modes[:1])
    steered = Share(source=radio.commands[0].name, modes=modes)
    again = Share(source="full", above=15.0, below=15.0, when=("was:high",))
    high = Rule(name="high", kind="above", a="round", level=20.0)
    first = radio.channels[0].sum
    sums = []
    for x in radio.sums:
        more = (was, Share(source="round", above=40.0, below=40.0)) if x.name == first else ()
        sums.append(x.changed({"shares": (*x.shares, *more)}))
    sums.append(Sum(name="round", shares=(steered, again)))
    return radio.changed({"sums": tuple(sums), "rules": (*radio.rules, high)})


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


def test_a_translation_that_reads_a_hand_of_its_own_is_found_in_a_part() -> None:
    """The slider moves nothing in the design's elevator: it has to be moved all the same."""
    memory, model = ProofMemory(), demo_model("marram")
    before = _pair(keyed_on(model, "Sill"))
    memory.proved(before)
    sums = {x.name: x for x in before.exact.sums}
    leads = Prover(*before)._leads
    port = next(p for p, x in leads.items() if x.target == "left_ruddervator")
    sum_ = sums[next(x.sum for x in before.exact.channels if x.port == port)]
    part = before.part([port])
    there = {x.name for x in model.transmitter.controls}
    others = {x.name for x in before.exact.hands} - {x.name for x in part.exact.hands}
    strange = min(others & there)
    more = sum_.changed({"shares": (*sum_.shares, Share(source=strange, above=20.0, below=20.0))})
    wrong = tuple(more if x is sum_ else x for x in before.exact.sums)
    found = memory.proved(before._replace(exact=before.exact.changed({"sums": wrong})))
    assert found.fault is not None and port not in found.taken_over


def test_other_steps_of_the_transmitter_are_played_again() -> None:
    memory, model = ProofMemory(), demo_model("tidewrack")
    profile = transmitter("Sill")
    memory.proved(_pair(keying(model, profile)))
    coarse = memory.proved(_pair(keying(model, profile.changed({"weight_step": 5.0}))))
    assert len(coarse.taken_over) < len(coarse.ports) and coarse.rounding.us > 5.0


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
