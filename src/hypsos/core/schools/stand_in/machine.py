# SPDX-License-Identifier: GPL-3.0-or-later
"""The simulated transmitter at work: hands go in frame by frame, pulses come out at the receiver's
ports, for many situations side by side.

In each frame everything is worked out once, in an order in which nothing is asked before it is
known; what is asked as it ``was`` is that of the frame before. While flight modes fade into each
other, every mode with a share works out its commands, shared values and sums by itself, and the
sums are crossed by the shares."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hypsos.core.base.errors import HypsosError
from hypsos.core.schools.figures import NEAR, BentLine, Numbers, Truths, with_expo
from hypsos.core.schools.stand_in.clockwork import Edge, Latch, OffDelay, OnDelay, Pulse, Slow
from hypsos.core.schools.stand_in.parts import (
    BASE,
    FULL,
    Channel,
    Command,
    Feel,
    Lever,
    Mode,
    Mover,
    Radio,
    Rule,
    Safe,
    Share,
    Shared,
    Sum,
    reference,
)

Places = NDArray[np.intp]
SUM_LIMIT = 150.0
AROUND = {"link": 1.0, "power": 1.0, "link_quality": 100.0, "flight_battery": 1.0}
"""What surrounds the hands, with what it is where nothing is said of it."""


class Moves(NamedTuple):
    """What hands and surroundings do: times in seconds, evenly spaced, (T,), and by name what they
    are, to be broadcast to (N, T): percent, a switch's position, 0 or 1."""

    t_s: Numbers
    tracks: Mapping[str, Numbers]


class View:
    """What is worked out in one flight mode for some of the situations, or (``rows`` is None) for
    all of them in the mode that each of them flies."""

    def __init__(
        self, frame: Frame, mode: Places | int, rows: Places | None, share: Numbers
    ) -> None:
        self.frame, self.mode, self.rows, self.share = frame, mode, rows, share
        self.signals: dict[str, Numbers] = {}
        self.plain: dict[str, Numbers] = {}
        """Commands without their trim."""
        self.shared: dict[str, Numbers] = {}

    def cut(self, x: Numbers) -> Numbers:
        """What belongs to these situations of something that is known for all."""
        return x if self.rows is None else x[self.rows]

    def signal(self, name: str, trim: bool = True) -> Numbers:
        """A source as this mode has it."""
        if not trim and name in self.plain:
            return self.plain[name]
        found = self.signals.get(name)
        return self.cut(self.frame.hands[name]) if found is None else found

    def holds(self, text: str) -> Truths:
        """Whether a reference holds: a mode as this view has it, the rest as it is."""
        asked = reference(text)
        if asked.name.startswith("mode:") and not asked.before and self.rows is not None:
            place = self.frame.machine.mode_places.get(asked.name[5:], -1)
            here = np.full(len(self.rows), place == self.mode)
            return ~here if asked.negated else here
        return np.asarray(self.cut(self.frame.holds(text)))

    def all_hold(self, when: Sequence[str]) -> Truths | None:
        """Whether all references hold; None where there are none."""
        found: Truths | None = None
        for text in when:
            here = self.holds(text)
            found = here if found is None else found & here
        return found

    def flown(self, places: frozenset[int]) -> Truths:
        """Whether one of these modes is flown."""
        if self.rows is not None:
            return np.full(len(self.rows), self.mode in places)
        return np.isin(self.mode, list(places))


class Frame:
    """What is known in one frame, for all situations."""

    def __init__(self, machine: Machine, t_s: float, hands: dict[str, Numbers]) -> None:
        self.machine, self.t_s, self.hands = machine, t_s, hands
        self.places: dict[str, Places] = {}
        self.flags: dict[str, Truths] = {}
        self.counts: dict[str, Places] = {}
        self.before: Frame | None = None
        count = len(hands[FULL])
        self.main = View(self, np.zeros(count, np.intp), None, np.ones(count))
        self.fading: list[View] = []

    def holds(self, text: str) -> Truths:
        """Whether a reference holds."""
        asked = reference(text)
        frame = self.before if asked.before else self
        if frame is None:
            found = np.zeros(len(self.hands[FULL]), bool)
        elif asked.position is not None:
            table = frame.places if asked.name in frame.places else frame.counts
            found = table[asked.name] == asked.position
        else:
            found = frame.flags[asked.name]
        return ~found if asked.negated else found

    def crossed(self, main: Numbers, parts: Sequence[Numbers]) -> Numbers:
        """A figure for all situations, those that fade crossed from what each mode makes of it."""
        if not self.fading:
            return main
        out = main.copy()
        for view in self.fading:
            out[view.rows] = 0.0
        for view, part in zip(self.fading, parts, strict=True):
            out[view.rows] += view.share * part
        return out


Work = Callable[[Frame], None]


class Node(NamedTuple):
    """Something that is worked out once a frame, after what it ``asks``."""

    name: str
    asks: tuple[str, ...]
    work: Work


class Machine:
    """A radio at its first frame. Raises HypsosError where parts ask each other in a circle or name
    what isn't there."""

    def __init__(self, radio: Radio) -> None:
        self.radio = radio
        self.mode_places = {mode.name: i for i, mode in enumerate(radio.modes)}
        self.mode_names = [mode.name for mode in radio.modes] or [BASE]
        self._trims = {lever.name: TrimWork(lever, self) for lever in radio.levers}
        self._nodes = _in_order(list(self._all_nodes()), _given(radio))
        self._outputs = [Output(channel, radio) for channel in radio.channels]
        self._ears = Ears(radio)

    def _all_nodes(self) -> Iterator[Node]:
        radio = self.radio
        for rule in radio.rules:
            yield Node(rule.name, _asked_by(rule), rule_work(rule))
        earlier: tuple[str, ...] = ()
        for mode in radio.modes:
            name = f"mode:{mode.name}"
            asks = (reference(mode.when).name,) if mode.when else ()
            yield Node(name, (*asks, *earlier), _mode_work(mode, earlier))
            earlier = (*earlier, name)
        yield Node("modes", earlier, ModeTrack(self).work)
        for shared in radio.shared:
            yield SharedWork(shared, self).node()
        for command in radio.commands:
            yield CommandWork(command, self).node()
        for made in radio.sums:
            yield SumWork(made, self).node()

    def trim(self, name: str) -> TrimWork:
        """A trim lever at work."""
        return self._trims[name]

    def places_of(self, modes: Sequence[str]) -> frozenset[int] | None:
        """The places of these modes; None where none is named, which stands for any."""
        if not modes:
            return None
        return frozenset(self.mode_places[name] for name in modes if name in self.mode_places)

    def run(self, moves: Moves) -> dict[int, Numbers]:
        """Port -> its pulses in microseconds (N, T), 0 where there is none."""
        tracks, count = self._tracks(moves)
        frames = len(moves.t_s)
        out = {x.channel.port: np.empty((frames, count)) for x in self._outputs}
        before: Frame | None = None
        for i, t_s in enumerate(moves.t_s.tolist()):
            frame = self._begun(t_s, {name: x[i] for name, x in tracks.items()}, count)
            frame.before = before
            for node in self._nodes:
                node.work(frame)
            self._ears.hear(frame)
            for output in self._outputs:
                out[output.channel.port][i] = output.pulse(frame, self._ears)
            before, frame.before = frame, None
        return {port: x.T for port, x in out.items()}

    def _tracks(self, moves: Moves) -> tuple[dict[str, Numbers], int]:
        """Every hand, lever and surrounding over time (T, N), and how many situations there are."""
        radio = self.radio
        rest = {hand.name: hand.rest for hand in radio.hands} | AROUND
        rest |= {lever.name: lever.start for lever in radio.levers}
        given = {n: np.atleast_2d(np.asarray(x, float)) for n, x in moves.tracks.items()}
        count = max([1, *(x.shape[0] for x in given.values())])
        shape = (count, len(moves.t_s))
        tracks = {}
        for name, still in rest.items():
            found = given.get(name, np.full((1, 1), still))
            tracks[name] = np.ascontiguousarray(np.broadcast_to(found, shape).T)
        return tracks, count

    def _begun(self, t_s: float, raw: dict[str, Numbers], count: int) -> Frame:
        """A frame with what hands and surroundings say."""
        hands = dict(raw)
        hands[FULL] = np.full(count, 100.0)
        frame = Frame(self, t_s, hands)
        for hand in self.radio.hands:
            if hand.positions:
                place = raw[hand.name].astype(np.intp)
                frame.places[hand.name] = place
                # evenly spread from -100 to 100 %
                hands[hand.name] = -100.0 + 200.0 * place / (hand.positions - 1)
        power = raw["power"] > 0.5
        if not self.radio.receiver.own_battery:
            power = power & (raw["flight_battery"] > 0.5)
        link = power & (raw["link"] > 0.5)
        hands["link_quality"] = np.where(link, raw["link_quality"], 0.0)
        frame.flags["power"], frame.flags["link"] = power, link
        return frame


def simulate(radio: Radio, moves: Moves) -> dict[int, Numbers]:
    """Port -> the pulses in microseconds that a radio sends for these moves, from power-up on;
    (N, T), 0 where there is none. Raises HypsosError where the radio can't work as it is said."""
    return Machine(radio).run(moves)


def _given(radio: Radio) -> set[str]:
    """The names that nothing has to work out."""
    given = {FULL, "link", "power", *AROUND}
    given.update(hand.name for hand in radio.hands)
    given.update(lever.name for lever in radio.levers)
    return given


def _in_order(nodes: list[Node], given: set[str]) -> list[Node]:
    """The nodes, each after those that it asks."""
    by_name: dict[str, Node] = {}
    for node in nodes:
        if node.name in by_name or node.name in given:
            raise HypsosError(
                f"there are two things called {node.name}", node.name, "Name one anew."
            )
        by_name[node.name] = node
    done: list[Node] = []
    state: dict[str, int] = {}

    def visit(name: str, asked_by: str) -> None:
        if name in given or state.get(name) == 2:
            return
        if name not in by_name:
            text = f"{asked_by} asks for {name}, which isn't there"
            raise HypsosError(text, asked_by, "Write it in, or ask for something else.")
        if state.get(name) == 1:
            text = f"{name} hangs on itself in a circle"
            raise HypsosError(text, name, "Ask for one of them as it was in the frame before.")
        state[name] = 1
        for other in by_name[name].asks:
            visit(other, name)
        state[name] = 2
        done.append(by_name[name])

    for node in nodes:
        visit(node.name, node.name)
    return done


def _names(texts: Sequence[str]) -> tuple[str, ...]:
    """The names that references ask for in this frame."""
    return tuple(r.name for r in map(reference, texts) if not r.before)


# -- rules and modes ---------------------------------------------------------------------------------


def _asked_by(rule: Rule) -> tuple[str, ...]:
    if rule.kind in ("above", "below"):
        return (rule.a, rule.b) if rule.b else (rule.a,)
    return _names([x for x in (rule.a, rule.b) if x])


def rule_work(rule: Rule) -> Work:
    """What works out a rule frame by frame."""
    truth = _truth(rule)

    def work(frame: Frame) -> None:
        frame.flags[rule.name] = truth(frame)

    if rule.kind == "counts":
        return _counting(rule)
    return work


def _truth(rule: Rule) -> Callable[[Frame], Truths]:
    a, b = rule.a, rule.b
    if rule.kind in ("above", "below"):
        return lambda frame: _compared(rule, frame)
    if rule.kind == "and":
        return lambda frame: frame.holds(a) & frame.holds(b)
    if rule.kind == "or":
        return lambda frame: frame.holds(a) | frame.holds(b)
    if rule.kind == "either":
        return lambda frame: frame.holds(a) ^ frame.holds(b)
    if rule.kind == "latch":
        latch = Latch()
        return lambda frame: latch(frame.holds(a), frame.holds(b))
    if rule.kind == "begins":
        edge = Edge()
        return lambda frame: edge(frame.holds(a))
    made = {"lasts": OnDelay, "lingers": OffDelay, "pulse": Pulse}.get(rule.kind, OnDelay)
    timed = made(rule.seconds)
    return lambda frame: timed(frame.holds(a), frame.t_s)


def _compared(rule: Rule, frame: Frame) -> Truths:
    value = frame.main.signal(rule.a)
    if rule.b:
        value = value - frame.main.signal(rule.b)
    if rule.size:
        value = np.abs(value)
    if rule.kind == "above":
        return np.asarray(value > rule.level + NEAR)
    return np.asarray(value < rule.level - NEAR)


def _counting(rule: Rule) -> Work:
    edge, count = Edge(), max(1, int(rule.level))
    place: list[Places] = []

    def work(frame: Frame) -> None:
        begins = edge(frame.holds(rule.a)).astype(np.intp)
        now = begins if not place else (place[0] + begins) % count
        place[:] = [now]
        frame.counts[rule.name] = now
        frame.flags[rule.name] = now > 0

    return work


def _mode_work(mode: Mode, earlier: tuple[str, ...]) -> Work:
    name = f"mode:{mode.name}"

    def work(frame: Frame) -> None:
        count = len(frame.hands[FULL])
        here = frame.holds(mode.when) if mode.when else np.ones(count, bool)
        for other in earlier:
            here = here & ~frame.flags[other]
        frame.flags[name] = here

    return work


class ModeTrack:
    """Which mode every situation flies, and how far it has faded into it."""

    def __init__(self, machine: Machine) -> None:
        modes = machine.radio.modes
        self._fade_s = np.array([mode.fade_s for mode in modes] or [0.0])
        self._names = [f"mode:{mode.name}" for mode in modes]
        self._eye = np.eye(len(self._fade_s))
        self._mode: Places | None = None
        self._since = self._start = self._now = np.zeros(0)

    def work(self, frame: Frame) -> None:
        """Say the mode of every situation, and make a view for each mode that has a share in a
        fade."""
        count = len(frame.hands[FULL])
        mode = np.zeros(count, np.intp)
        for place, name in enumerate(self._names):
            mode[frame.flags[name]] = place
        frame.main.mode = mode
        if not self._fade_s.any():
            return
        if self._mode is None:
            self._mode, self._since = mode, np.full(count, -np.inf)
            self._start = self._now = self._eye[mode]
            return
        entered = mode != self._mode
        if entered.any():
            # the way into another mode begins from the shares of this moment
            self._start = np.where(entered[:, None], self._now, self._start)
            self._since = np.where(entered, frame.t_s, self._since)
            self._mode = mode
        length = self._fade_s[mode]
        with np.errstate(divide="ignore", invalid="ignore"):
            way = np.where(length > 0, np.clip((frame.t_s - self._since) / length, 0.0, 1.0), 1.0)
        self._now = self._start + (self._eye[mode] - self._start) * way[:, None]
        on_the_way = self._now[np.arange(count), mode] < 1.0
        if not on_the_way.any():
            return
        for place in range(len(self._fade_s)):
            rows = np.flatnonzero(on_the_way & (self._now[:, place] != 0))
            if rows.size:
                frame.fading.append(View(frame, place, rows, self._now[rows, place]))


# -- trims, shared values, commands ------------------------------------------------------------------


class TrimWork:
    """A trim lever at work: what it trims in each mode."""

    def __init__(self, lever: Lever, machine: Machine) -> None:
        self._lever, self._names = lever, machine.mode_names
        self._last: Numbers | None = None
        self._ways: list[Numbers] = []
        self._frame: Frame | None = None
        self._made: list[Numbers] = []

    def of(self, view: View) -> Numbers:
        """What it trims, in the modes of a view."""
        by_mode = self._by_mode(view.frame)
        if view.rows is not None:
            assert isinstance(view.mode, int)
            return view.cut(by_mode[view.mode])
        if all(x is by_mode[0] for x in by_mode):
            return by_mode[0]
        return np.asarray(np.choose(view.mode, by_mode))

    def _by_mode(self, frame: Frame) -> list[Numbers]:
        if self._frame is frame:
            return self._made
        lever, hand = self._lever, frame.hands[self._lever.name]
        if lever.scope == "common":
            self._made = [np.clip(hand, -lever.reach, lever.reach)] * len(self._names)
        else:
            self._made = self._own(frame, hand)
        self._frame = frame
        return self._made

    def _own(self, frame: Frame, hand: Numbers) -> list[Numbers]:
        lever = self._lever
        last = np.full_like(hand, lever.start) if self._last is None else self._last
        if not self._ways:
            self._ways = [np.zeros_like(hand) for _ in self._names]
        self._last, change = hand, hand - last
        made = []
        for place, name in enumerate(self._names):
            # what is moved while a mode is flown is that mode's
            self._ways[place] = self._ways[place] + np.where(frame.main.mode == place, change, 0.0)
            way, own = self._ways[place], lever.own.get(name)
            if lever.scope == "offset":
                value = lever.start + np.clip((own or 0.0) + way, -lever.reach, lever.reach)
            else:
                value = (lever.start if own is None else own) + way
            made.append(np.clip(value, -lever.reach, lever.reach))
        return made


class SharedWork:
    """A shared value at work."""

    def __init__(self, shared: Shared, machine: Machine) -> None:
        self._shared, self._machine = shared, machine
        self._table = np.array([shared.by_mode[name] for name in machine.mode_names])
        mover = shared.mover
        self._acts_in = machine.places_of(mover.modes) if mover is not None else None
        self._up, self._down = Edge(), Edge()
        self._steps: Numbers | None = None
        self._kept: Numbers | None = None
        self._left: Numbers | None = None
        self._known: Truths | None = None
        self._known_left: Truths | None = None

    def node(self) -> Node:
        """It as something that is worked out once a frame."""
        mover = self._shared.mover
        texts = [] if mover is None else [x for x in (mover.up, mover.down, mover.when) if x]
        return Node(f"shared:{self._shared.name}", ("modes", *_names(texts)), self.work)

    def work(self, frame: Frame) -> None:
        """Its value in every view."""
        mover, name = self._shared.mover, self._shared.name
        if mover is None:
            for view in (frame.main, *frame.fading):
                view.shared[name] = self._held(self._stored(view))
            return
        acting, left, known = self._moved(frame, mover)
        for view in (frame.main, *frame.fading):
            view.shared[name] = self._held(self._adjusted(view, mover, acting, left, known))

    def _held(self, value: Numbers) -> Numbers:
        return np.clip(value, self._shared.low, self._shared.high)

    def _stored(self, view: View) -> Numbers:
        if view.rows is None:
            return np.asarray(self._table[view.mode])
        return np.full(len(view.rows), self._table[view.mode])

    def _adjusted(
        self, view: View, mover: Mover, acting: Numbers, left: Numbers, known: Truths
    ) -> Numbers:
        stored = self._stored(view)
        moved, here = view.cut(acting), np.ones(len(stored), bool)
        if mover.when:
            acts = view.holds(mover.when)
            moved = np.where(acts, moved, view.cut(left))
            here = acts | np.asarray(view.cut(known))
        if self._acts_in is not None:
            here = here & view.flown(self._acts_in)
        wanted = moved if mover.kind == "set" else stored + moved
        return np.where(here, wanted, stored)

    def _moved(self, frame: Frame, mover: Mover) -> tuple[Numbers, Numbers, Truths]:
        """What it does where it acts, what it has left where it doesn't, and where there is such a
        thing."""
        shared, count = self._shared, len(frame.hands[FULL])
        active = frame.holds(mover.when) if mover.when else np.ones(count, bool)
        nothing, never = np.zeros(count), np.zeros(count, bool)
        if mover.kind == "step":
            made = self._stepped(frame, mover, active)
            if mover.keep or not mover.when:
                return made, made, ~never
            last = nothing if self._kept is None else self._kept
            self._kept = np.where(active, made, last)
            return self._kept, nothing, ~never
        hand = frame.hands[mover.control] * self._scale(mover.control)
        if mover.kind == "set":
            moved = shared.low + (hand + 100.0) / 200.0 * (shared.high - shared.low)
        else:
            moved = mover.amount * hand / 100.0
        if not mover.keep or not mover.when:
            return moved, moved, never
        kept = nothing if self._kept is None else self._kept
        known = never if self._known is None else self._known
        self._kept, self._known = np.where(active, moved, kept), known | active
        # what it leaves is what it did last; looked at only while it does not act, so that a mode
        # that no longer sees it act finds what was there before
        left = nothing if self._left is None else self._left
        known_left = never if self._known_left is None else self._known_left
        self._left = np.where(active, left, self._kept)
        self._known_left = np.where(active, known_left, self._known)
        return moved, self._left, self._known_left

    def _scale(self, control: str) -> float:
        """A trim lever goes over its own reach; here it counts as a whole slider."""
        for lever in self._machine.radio.levers:
            if lever.name == control:
                return 100.0 / lever.reach
        return 1.0

    def _stepped(self, frame: Frame, mover: Mover, active: Truths) -> Numbers:
        count = len(active)
        step = np.zeros(count)
        for edge, text, sign in ((self._up, mover.up, 1.0), (self._down, mover.down, -1.0)):
            if text:
                pressed = edge(frame.holds(text)) & active
                step = step + np.where(pressed, sign * mover.amount, 0.0)
        now = np.zeros(count) if self._steps is None else self._steps
        if not mover.keep:
            now = np.where(active, now, 0.0)
        stored = self._table[frame.main.mode]
        moved = np.clip(now + step, self._shared.low - stored, self._shared.high - stored)
        self._steps = np.where(step != 0, moved, now)
        return self._steps


class CommandWork:
    """A command at work."""

    def __init__(self, command: Command, machine: Machine) -> None:
        self._command, self._machine = command, machine
        self._bends = [BentLine(f.bend) if f.bend is not None else None for f in command.feels]
        self._modes = [machine.places_of(f.modes) for f in command.feels]
        if command.trim and command.trim not in {x.name for x in machine.radio.levers}:
            text = f"{command.name} has a trim lever {command.trim}, which isn't there"
            raise HypsosError(text, command.name, "Name a lever of this transmitter.")

    def node(self) -> Node:
        """It as something that is worked out once a frame."""
        asks = ["modes"]
        for feel in self._command.feels:
            asks += [feel.control, *_names(feel.when)]
            asks += [f"shared:{x}" for x in (feel.weight_by, feel.expo_by) if x]
            if feel.bend is not None and feel.bend.live_by:
                asks.append(f"shared:{feel.bend.live_by}")
        return Node(self._command.name, tuple(asks), self.work)

    def work(self, frame: Frame) -> None:
        """The command in every view, with its trim and without."""
        name, trim = self._command.name, self._command.trim
        made = []
        for view in (frame.main, *frame.fading):
            value = self._value(view)
            view.plain[name] = view.signals[name] = value
            if trim:
                view.signals[name] = value + self._machine.trim(trim).of(view)
            made.append(view)
        main = frame.main
        main.signals[name] = frame.crossed(main.signals[name], [v.signals[name] for v in made[1:]])
        main.plain[name] = frame.crossed(main.plain[name], [v.plain[name] for v in made[1:]])

    def _value(self, view: View) -> Numbers:
        found: Numbers | None = None
        # from the last to the first, so that the first that holds has the last word
        for feel, bend, modes in reversed(
            list(zip(self._command.feels, self._bends, self._modes, strict=True))
        ):
            value, holds = self._felt(view, feel, bend, modes)
            if holds is None:
                found = value
                continue
            found = np.where(holds, value, np.zeros_like(value) if found is None else found)
        return np.zeros(len(view.share)) if found is None else found

    def _felt(
        self, view: View, feel: Feel, bend: BentLine | None, modes: frozenset[int] | None
    ) -> tuple[Numbers, Truths | None]:
        value = view.cut(view.frame.hands[feel.control])
        if feel.turned:
            value = -value
        if bend is not None:
            live = feel.bend.live_by if feel.bend is not None else ""
            value = bend.moved(value, view.shared[live]) if live else bend(value)
        value = np.clip(value, -100.0, 100.0)
        expo: Numbers | float = feel.expo
        if feel.expo_by:
            expo = np.clip(view.shared[feel.expo_by], -100.0, 100.0)
        if feel.expo_by or feel.expo:
            value = with_expo(value, expo)
        holds = view.all_hold(feel.when)
        if modes is not None:
            flown = view.flown(modes)
            holds = flown if holds is None else holds & flown
        if feel.side != "both":
            side = value >= 0 if feel.side == "above" else value < 0
            holds = side if holds is None else holds & side
        weight: Numbers | float = feel.weight
        if feel.weight_by:
            weight = np.clip(view.shared[feel.weight_by], 0.0, 150.0)
        return feel.pivot + weight / 100.0 * (value - feel.pivot), holds


# -- sums --------------------------------------------------------------------------------------------


class ShareWork(NamedTuple):
    """A line of a sum made ready."""

    share: Share
    bend: BentLine | None
    modes: frozenset[int] | None
    slow: Slow | None

    def shape(self, view: View) -> tuple[Numbers, Truths | None]:
        """What the line gives before its slow and its weight, and where it holds."""
        share = self.share
        value = view.signal(share.source, share.trim)
        if self.bend is not None:
            live = self.bend.bend.live_by
            value = self.bend.moved(value, view.shared[live]) if live else self.bend(value)
        if share.from_low:
            value = value + 100.0
        holds = view.all_hold(share.when)
        if self.modes is not None:
            flown = view.flown(self.modes)
            holds = flown if holds is None else holds & flown
        if holds is not None:
            value = np.where(holds, value, 0.0)
        return value, holds

    def weighted(self, view: View, shape: Numbers) -> Numbers:
        """What the line gives at last."""
        share = self.share
        if share.above == share.below:
            value = share.above / 100.0 * shape
        else:
            value = np.where(shape > 0, share.above, share.below) / 100.0 * shape
        if share.by:
            value = value * view.shared[share.by] / 100.0
        return np.asarray(value)


class SumWork:
    """A sum at work."""

    def __init__(self, made: Sum, machine: Machine) -> None:
        self._sum = made
        frame_s = machine.radio.frame_s
        self._lines = [
            ShareWork(
                x,
                BentLine(x.bend) if x.bend is not None else None,
                machine.places_of(x.modes),
                Slow(x.slow_in, x.slow_out, frame_s) if x.slow_in or x.slow_out else None,
            )
            for x in made.shares
        ]

    def node(self) -> Node:
        """It as something that is worked out once a frame."""
        asks = ["modes", *_names([self._sum.held] if self._sum.held else [])]
        for share in self._sum.shares:
            asks += [share.source, *_names(share.when)]
            if share.by:
                asks.append(f"shared:{share.by}")
            if share.bend is not None and share.bend.live_by:
                asks.append(f"shared:{share.bend.live_by}")
        return Node(self._sum.name, tuple(asks), self.work)

    def work(self, frame: Frame) -> None:
        """The sum in every view, and crossed."""
        slowed = {
            i: self._slowed(frame, x) for i, x in enumerate(self._lines) if x.slow is not None
        }
        name = self._sum.name
        for view in frame.fading:
            view.signals[name] = self._total(view, slowed)
        main = self._total(frame.main, slowed)
        frame.main.signals[name] = frame.crossed(main, [v.signals[name] for v in frame.fading])

    def _slowed(self, frame: Frame, line: ShareWork) -> Numbers:
        """What a slow line has come to: it goes after what the modes make of it together."""
        shape = frame.crossed(
            line.shape(frame.main)[0], [line.shape(view)[0] for view in frame.fading]
        )
        assert line.slow is not None
        return line.slow(shape, frame.holds(self._sum.held) if self._sum.held else None)

    def _total(self, view: View, slowed: Mapping[int, Numbers]) -> Numbers:
        total = np.zeros(len(view.share))
        for i, line in enumerate(self._lines):
            shape, holds = line.shape(view)
            if i in slowed:
                shape = view.cut(slowed[i])
            value = line.weighted(view, shape)
            if line.share.join == "add":
                total = total + value
                continue
            made = value if line.share.join == "replace" else total * value / 100.0
            total = made if holds is None else np.where(holds, made, total)
        return total


# -- outputs and the receiver ------------------------------------------------------------------------


class Ears:
    """What the receiver hears in a frame."""

    def __init__(self, radio: Radio) -> None:
        self._silence = OnDelay(radio.receiver.after_s)
        self.link: Truths = np.ones(1, bool)
        self.power: Truths = np.ones(1, bool)
        self.silent: Truths = np.zeros(1, bool)
        self.known: Truths | None = None

    def hear(self, frame: Frame) -> None:
        """One frame more."""
        self.link, self.power = frame.flags["link"], frame.flags["power"]
        self.silent = self._silence(self.power & ~self.link, frame.t_s)
        before = np.zeros_like(self.link) if self.known is None else self.known
        # a receiver that was without power has heard nothing
        self.known = self.link | (before & self.power)


class Output:
    """An output at work, as far as the receiver's port."""

    def __init__(self, channel: Channel, radio: Radio) -> None:
        self.channel, self._radio = channel, radio
        self._bend = BentLine(channel.bend) if channel.bend is not None else None
        self._slow: Slow | None = None
        if channel.slow_up or channel.slow_down:
            self._slow = Slow(channel.slow_up, channel.slow_down, radio.frame_s)
        self._safe = radio.receiver.ports.get(channel.port, Safe(action="none"))
        self._last: Numbers | None = None

    def pulse(self, frame: Frame, ears: Ears) -> Numbers:
        """What its port sends in microseconds, 0 where there is no pulse."""
        sent, safe = self._sent(frame), self._safe
        last = np.full_like(sent, safe.unheard) if self._last is None else self._last
        self._last = last = np.where(ears.link, sent, last)
        us = self._radio.centre_us + self._radio.us_per_percent * last
        assert ears.known is not None
        heard = ears.power & ears.known
        acting = ears.power & ears.silent
        if safe.action == "none":
            return np.where(heard & ~acting, us, 0.0)
        if safe.action == "hold":
            return np.where(heard, us, 0.0)
        acts = acting if self._radio.receiver.stored else acting & ears.known
        return np.where(acts, safe.place_us, np.where(heard, us, 0.0))

    def _sent(self, frame: Frame) -> Numbers:
        """What the transmitter sends, in percent of the output."""
        x = self.channel
        value = np.clip(frame.main.signals[x.sum], x.low, x.high)
        cut = frame.holds(x.cut) if x.cut else None
        if cut is not None:
            value = np.where(cut, x.low, value)
        if self._slow is not None:
            value = self._slow(value, cut, x.low)
        if self._bend is not None:
            points = self._bend.bend.points
            inside = np.clip(value, points[0][0], points[-1][0])
            value = self._bend(inside) + (value - inside)
        if x.turned:
            value = -value
        value = x.centre + value * np.where(value < 0, x.end_below, x.end_above) / 100.0
        value = np.clip(value, x.stop_below, x.stop_above)
        return value if cut is None else np.where(cut, x.cut_at, value)
