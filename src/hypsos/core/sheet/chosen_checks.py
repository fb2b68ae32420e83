# SPDX-License-Identifier: GPL-3.0-or-later
"""Checks by eye that were chosen by computation.

*Sought*: few looks, each with hands to set and figures to read, such that every slip of the finger
moves at least one of these figures: by more than a millimetre at the ruler, or, where it is too
small for that, by what one reads on the transmitter's monitor. *How*: every slip is played in every
look that may be taken; then the look that finds most of what is left is taken, again and again,
first by the ruler, then on the monitor. That is not the smallest number of looks there is, but near
it. What no look finds is named.

Hands stand at their ends, in their middle and at positions: no hand finds half a stick to the
percent. What expo does there stands beside the rates, and counts as a look of its own."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.errors import HypsosError
from hypsos.core.base.figure_words import number, plain
from hypsos.core.dependencies.references import uses
from hypsos.core.document.document import Model
from hypsos.core.explain.neutral_hands import quiet_words
from hypsos.core.parts.airframe import STEERED, Device, Motor
from hypsos.core.parts.transmitter import STICKS
from hypsos.core.schools.figures import NEAR, Numbers
from hypsos.core.schools.keying import Keying
from hypsos.core.schools.on_paper.blocks import Block, Row, in_lines
from hypsos.core.schools.ruler import Ruler
from hypsos.core.sheet.looks import HandsLook, LookPlayer, stilled
from hypsos.core.sheet.port_card import short_label
from hypsos.core.sheet.slips import Slip, slips_of
from hypsos.core.wording.words import Part, control_label, is_at_rest, sense_words, stick_words

LEAST_MM = 1.0
"""A ruler shows what is more."""
LEAST_US = 5.0
"""The monitor shows as much, and more: 1 % of a weight."""
LEAST_MOTOR_US = 20.0
"""2 % of a motor's way, for its stick is not put to a percent."""
NO_PULSE_CHANGED = 1.0
MOST_LOOKS, MANY_LOOKS = 12, 20
MANY_PARTS = 8
MOST_MISSED = 6

Progress = Callable[[float, str], None]


class CheckLook(NamedTuple):
    """A look that was taken: the hands in words, and what each port's part shows."""

    hands: tuple[tuple[str, float], ...]
    words: str
    figures: tuple[str, ...]


class Checks(NamedTuple):
    """``first``: where the hands stand where a look says nothing else. ``parts``: what the columns
    show. ``slips``: how many change a pulse in any look that could
    be taken, or half a stick; how many of these the looks show ``by_ruler``, how many others ``by_monitor``, how many
    others the figures at half a stick; ``missed``: the rest, in words, by what is keyed in;
    ``unseen``: how many these are."""

    first: tuple[str, ...]
    parts: tuple[str, ...]
    looks: tuple[CheckLook, ...]
    slips: int
    by_ruler: int
    by_monitor: int
    by_half: int
    missed: tuple[str, ...]
    unseen: int

    @property
    def found(self) -> int:
        """How many slips are shown by anything."""
        return self.by_ruler + self.by_monitor + self.by_half


def choose_checks(
    made: Keying,
    told: Progress = lambda _share, _what: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Checks | None:
    """The looks for a design on a transmitter; None where it was stopped."""
    return _Chooser(made).choose(told, stopped)


class _Chooser:
    def __init__(self, made: Keying) -> None:
        self._model = made.reduced.model
        pages = made.school.pages(self._model, made.settings, {})
        self._labels = pages.labels
        self._radio = stilled(made.radio(made.settings))
        self._ruler = Ruler(self._model)
        self._player = LookPlayer(self._model, self._radio, made.at_rest())
        self._ports = [channel.port for channel in self._radio.channels]
        self._parts = {p.name: p for p in self._model.airframe.moved()}
        self._motors = {m.name for m in self._model.airframe.motors}

    def choose(self, told: Progress, stopped: Callable[[], bool]) -> Checks | None:
        looks = self._player.candidates()
        wanted = self._player.pulses(self._radio, looks)
        shown = self._figures(wanted)
        slips = list(slips_of(self._radio, self._label))
        ruler, monitor, played = [], [], list[Slip]()
        for place, slip in enumerate(slips):
            if stopped():
                return None
            told(place / len(slips), "looking for checks that find each slip")
            pulses = self._with_slip(slip, looks)
            if pulses is None:
                continue
            if not slip.half and (np.abs(pulses - wanted) <= NO_PULSE_CHANGED).all():
                continue
            by_ruler, by_monitor = self._seen(wanted, shown, pulses)
            ruler.append(by_ruler)
            monitor.append(by_ruler | by_monitor)
            played.append(slip)
        chosen = self._greedy(_table(ruler, looks), _table(monitor, looks), looks)
        seen = _table(ruler, looks)[:, chosen].any(axis=1)
        read = _table(monitor, looks)[:, chosen].any(axis=1) & ~seen
        half = np.array([slip.half for slip in played], bool) & ~seen & ~read
        left = ~(seen | read | half)
        gone = [slip for slip, is_left in zip(played, left.tolist(), strict=True) if is_left]
        ordered = sorted(chosen, key=lambda i: self._order(looks[i]))
        return Checks(
            first=tuple(self._first()),
            parts=tuple(self._column(port) for port in self._ports),
            looks=tuple(self._check(looks[i], wanted[:, i]) for i in ordered),
            slips=len(played),
            by_ruler=int(seen.sum()),
            by_monitor=int(read.sum()),
            by_half=int(half.sum()),
            missed=tuple(_grouped(gone)),
            unseen=len(gone),
        )

    def _label(self, name: str) -> str:
        return self._labels.get(name, name.replace("_", " "))

    def _with_slip(self, slip: Slip, looks: list[HandsLook]) -> Numbers | None:
        """The pulses of a transmitter with a slip; None where it could not work at all, which one
        sees while keying in."""
        try:
            sent = self._player.pulses(slip.radio, looks, slip.turned_switch)
        except HypsosError:
            return None
        one, two = slip.ports
        if one:
            mine, theirs = self._ports.index(one), self._ports.index(two)
            sent[[mine, theirs]] = sent[[theirs, mine]]
        return sent

    # -- what a figure shows -------------------------------------------------------------------------

    def _figures(self, pulses: Numbers) -> list[Numbers | None]:
        """Port by port the millimetres; None where there is no ruler."""
        return [self._ruler.mm(port, pulses[i]) for i, port in enumerate(self._ports)]

    def _seen(
        self, wanted: Numbers, shown: Sequence[Numbers | None], pulses: Numbers
    ) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """In which looks (L,) the ruler shows a slip, and in which the monitor does."""
        ruler = np.zeros(pulses.shape[1], bool)
        monitor = np.zeros(pulses.shape[1], bool)
        for i, port in enumerate(self._ports):
            off = np.abs(pulses[i] - wanted[i])
            if not (off > NO_PULSE_CHANGED).any():
                continue
            if self._ruler.part_of(port) in self._motors:
                ruler |= off > LEAST_MOTOR_US
                continue
            monitor |= off >= LEAST_US - NEAR
            mine = shown[i]
            if mine is not None:
                other = self._ruler.mm(port, pulses[i])
                assert other is not None
                ruler |= np.abs(other - mine) > LEAST_MM
        return ruler, monitor

    # -- choosing ------------------------------------------------------------------------------------

    def _greedy(
        self, ruler: NDArray[np.bool_], monitor: NDArray[np.bool_], looks: list[HandsLook]
    ) -> list[int]:
        """Looks that find what can be found, the fruitful and simple ones first: by the ruler, then
        what only the monitor shows."""
        most = MANY_LOOKS if len(self._ports) > MANY_PARTS else MOST_LOOKS
        chosen = list[int]()
        hands = np.array([len(look.hands) for look in looks])
        for table in (ruler, monitor):
            left = table[~table[:, chosen].any(axis=1)]
            while len(chosen) < most and left.any():
                best = int(np.lexsort((hands, -left.sum(axis=0)))[0])
                chosen.append(best)
                left = left[~left[:, best]]
        return chosen

    def _order(self, look: HandsLook) -> tuple[object, ...]:
        """Switches before sticks, so that one goes through them position by position."""
        switches = [(n, v) for n, v in look.hands if n not in STICKS]
        return (len(look.hands) > 2, switches, look.hands)

    # -- in words ------------------------------------------------------------------------------------

    def _column(self, port: int) -> str:
        part = self._parts[self._ruler.part_of(port)]
        return short_label(part.label)

    def _check(self, look: HandsLook, pulses: Numbers) -> CheckLook:
        figures = [self._figure(p, us) for p, us in zip(self._ports, pulses.tolist(), strict=True)]
        return CheckLook(self._player.all_hands(look), self._words(look), tuple(figures))

    def _figure(self, port: int, us: float) -> str:
        part = self._parts[self._ruler.part_of(port)]
        if us == 0:
            return "none"
        if isinstance(part, Motor) or (isinstance(part, Device) and part.kind not in STEERED):
            return number(us)
        mm = self._ruler.mm(port, np.array([us]))
        deg = self._ruler.degrees(port, np.array([us]))
        shown = None if mm is None else float(mm[0])
        angle = None if deg is None else float(deg[0])
        pulse = number(us)
        if is_at_rest(part, angle, shown):
            return in_lines(["0", pulse])
        if shown is not None:
            return in_lines([f"{number(abs(shown), 1)} {_way(part, shown)}", pulse])
        away = "" if angle is None else f"{number(abs(angle), 1)}° {_way(part, angle)}"
        return in_lines([away, pulse])

    def _first(self) -> Iterator[str]:
        """Where switches, sliders and knobs stand before a look."""
        model, used = self._model, uses(self._model)
        for control in model.transmitter.controls:
            if control.is_switch and used.get(control.name):
                yield f"{control.label} at {control.positions[int(self._player.first(control.name))]}"
        yield from quiet_words(model)
        yield "sticks let go, throttle low"

    def _words(self, look: HandsLook) -> str:
        if not look.hands:
            return "Nothing moved"
        ordered = sorted(look.hands, key=lambda x: x[0] in STICKS)
        said = ", ".join(self._hand_words(name, value) for name, value in ordered)
        return said[:1].upper() + said[1:]

    def _hand_words(self, name: str, value: float) -> str:
        control = self._model.transmitter.control(name)
        if control is not None and control.is_switch:
            return f"{control.label} at {control.positions[int(value)]}"
        if control is not None:
            return f"{control.label} at {plain(value)}"
        words = stick_words(name, value).replace("100 ", "full ")
        return f"{control_label(self._model, name)} {words}"


def checks_block(model: Model, checks: Checks) -> Block:
    """The checks as a block of the sheet."""
    rows = []
    for look in checks.looks:
        cells = (look.words, *look.figures)
        rows.append(Row(f"check {look.words}", cells, hands=look.hands))
    begin = f"Before each look: {', '.join(checks.first)}"
    if model.airframe.motors and model.program.guard is not None:
        begin += "; then the motor's switch to run with the stick low"
    share = 100.0 * checks.found / checks.slips if checks.slips else 100.0
    lines = [
        f"{begin}. First line: mm at the ruler (dn: down); second line, and motors: µs on the monitor.",
        f"These {len(checks.looks)} looks were chosen by playing {checks.slips} slips of the finger. The ruler shows "
        f"{checks.by_ruler} of them, the monitor {checks.by_monitor} more, the half-stick figures of the rates "
        f"{checks.by_half} more: {number(share)} %.",
    ]
    if checks.missed:
        named = "; ".join(checks.missed[:MOST_MISSED])
        more = len(checks.missed) - MOST_MISSED
        also = f"; and {more} more" if more > 0 else ""
        lines.append(f"No figure here shows: {named}{also}. Read these lines twice.")
    return Block(
        "checks",
        "Checks: set, measure, compare",
        tuple(lines),
        caution="Propeller off for every look." if model.airframe.motors else "",
        columns=("Set", *checks.parts),
        rows=tuple(rows),
        keyed=False,
    )


def _way(part: Part, away: float) -> str:
    """Up or down, left or right; down as it is written where there is little room."""
    return {"down": "dn"}.get(word := sense_words(part)[away > 0], word)


def _grouped(slips: Sequence[Slip]) -> list[str]:
    """Slips in words, those of one thing together: ``'Rudder, line Yaw: forgotten, twice'``."""
    by_thing: dict[str, list[str]] = {}
    for slip in slips:
        by_thing.setdefault(slip.thing, []).append(slip.wrong)
    return [f"{thing}: {', '.join(wrong)}" for thing, wrong in by_thing.items()]


def _table(rows: Sequence[NDArray[np.bool_]], looks: Sequence[HandsLook]) -> NDArray[np.bool_]:
    """Slips by looks (S, L)."""
    return np.array(rows, bool).reshape(len(rows), len(looks))
